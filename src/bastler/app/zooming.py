"""Nearer and further off on a drawing, by wheel, key and two fingers alike: what is under the hand stays under it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtWidgets import QGesture, QGestureEvent, QPinchGesture, QWidget

NOTCH = 1.2
"""How much nearer a notch of the wheel brings it, and a press of a key."""
FILLS = 0.55
"""How much of the view a feature is to fill."""


class Zoomable(QWidget):
    """A drawing with a `zoom` and a `pan`, drawn anew by `lay_out`, with its zero at `origin` and `scale` pixels a unit."""

    LEAST, MOST = 0.5, 80.0
    zoom: float
    pan: QPointF
    scale: float

    def watch_fingers(self) -> None:
        """Two fingers bring it nearer from now on."""
        self.grabGesture(Qt.GestureType.PinchGesture)

    def lay_out(self) -> None:
        """Works out the scale and the map to pixels."""
        raise NotImplementedError

    @property
    def origin(self) -> QPointF:
        """Where the part's zero is."""
        raise NotImplementedError

    def feature_box(self) -> QRectF | None:
        """Where the selected step cuts, in pixels; None for nowhere."""
        raise NotImplementedError

    def zoom_at(self, at: QPointF, factor: float) -> None:
        """Nearer by a factor; the place `at` stays where it is."""
        share = (at - self.origin) / self.scale
        self.zoom = min(max(self.zoom * factor, self.LEAST), self.MOST)
        self.lay_out()
        self.pan += at - (self.origin + share * self.scale)
        self.update()

    def zoom_by(self, factor: float) -> None:
        """Nearer by a factor, about the middle."""
        self.zoom_at(QPointF(self.width() / 2, self.height() / 2), factor)

    def show_all(self) -> None:
        """All of it."""
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self.update()

    def show_feature(self) -> None:
        """As near as what the selected step cuts has room, in the middle."""
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self.lay_out()
        box = self.feature_box()
        if box is None:
            self.update()
            return
        side = min(self.width() / max(box.width(), 1.0), self.height() / max(box.height(), 1.0))
        middle = QPointF(self.width() / 2, self.height() / 2)
        share = (box.center() - self.origin) / self.scale
        self.zoom = min(max(FILLS * side, 1.0), self.MOST)
        self.lay_out()
        self.pan += middle - (self.origin + share * self.scale)
        self.update()

    def event(self, event: QEvent | None) -> bool:
        """Two fingers."""
        if isinstance(event, QGestureEvent):
            pinch: QGesture | None = event.gesture(Qt.GestureType.PinchGesture)
            if isinstance(pinch, QPinchGesture):
                self.zoom_at(QPointF(self.mapFromGlobal(pinch.centerPoint())), pinch.scaleFactor())
                return True
        return super().event(event)
