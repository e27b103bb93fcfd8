"""The tool's path, the current move lit, the tool where it is."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QTransform, QWheelEvent

from bastler.app.drafting import painting
from bastler.app.face_path import FacePath
from bastler.app.flat_path import FlatPath
from bastler.app.path_drawing import PathDrawing, lines_seen, seen
from bastler.app.session import Session
from bastler.app.side_path import SidePath
from bastler.app.theme import ROLES
from bastler.app.turn_path import TurnPath
from bastler.app.zooming import NOTCH, Zoomable
from bastler.language import tr
from bastler.nc import RAPID
from bastler.steps.base import PlaneKind
from bastler.tools import Tool

STRAY = 6
"""Pixels that a click may stray."""


class PathView(Zoomable):
    """The wheel zooms, dragging moves, a double click shows all; a click on the path picks that move."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(360, 300)
        self.setAccessibleName(tr("Path"))
        self.zoom, self.pan, self.scale = 1.0, QPointF(0, 0), 1.0
        self.to_top = QTransform()
        self._grabbed: QPointF | None = None
        self._down = QPointF()
        self.watch_fingers()
        self.drawings: dict[PlaneKind, PathDrawing] = {"flat": FlatPath(self), "turned": TurnPath(self)}
        self.on_end, self.on_side = FacePath(self), SidePath(self)
        session.proof_changed.connect(self._other_proof)
        moved = (session.cursor_changed, session.selection_changed, session.pointed_changed)
        for signal in (*moved, session.job_changed, session.plan_changed):
            signal.connect(self.update)

    @property
    def drawing(self) -> PathDrawing:
        """How a path on the plane of the selected card is drawn."""
        place = self.session.place
        if place is not None:
            return self.on_side if place.angles else self.on_end
        return self.drawings[self.session.job.plane]

    @property
    def origin(self) -> QPointF:
        return self.to_top.map(QPointF(0, 0))

    def lay_out(self) -> None:
        proof = self.session.proof
        if self.session.shown and proof is not None and proof.plane == self.session.job.plane:
            self.drawing.layout()

    def feature_box(self) -> QRectF | None:
        """Where the feeds of the selected step run."""
        proof, found = self.session.proof, QRectF()
        side, to = self.drawing.sides()[0]
        for stage in proof.stages if proof is not None else ():
            if proof is None or stage.step != self.session.selected or not self.drawing.shows(proof, stage):
                continue
            feeds = proof.trace.kind[stage.begin + stage.run.owner] != RAPID
            ends = lines_seen(stage.run.segments[feeds], side).reshape(-1, 2) + seen(np.array([stage.shift]), side)
            if len(ends):
                (x0, y0), (x1, y1) = ends.min(axis=0).tolist(), ends.max(axis=0).tolist()
                wide = stage.run.tool.diameter / 2 if isinstance(stage.run.tool, Tool) else 0.0  # a hole alone is no place
                found = found.united(to.mapRect(QRectF(x0, y0, x1 - x0, y1 - y0).adjusted(-wide, -wide, wide, wide)))
        return None if found.isEmpty() else found

    def _other_proof(self) -> None:
        for drawing in (*self.drawings.values(), self.on_end, self.on_side):
            drawing.forget(self.session.proof)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            self.paint_on(painter)

    def paint_on(self, painter: QPainter) -> None:
        """All that is seen, as large as the view is, on the screen or in a picture."""
        painter.fillRect(self.rect(), QColor(ROLES.paper))
        proof = self.session.proof
        # while another job is being planned, the last one's proof may still be there
        if self.session.shown and proof is not None and proof.plane == self.session.job.plane:
            self.drawing.layout()
            self.drawing.paint(painter, proof)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event:
            self.setFocus()
            self._down = event.position()
            self._grabbed = event.position() - self.pan

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event and self._grabbed is not None:
            self.pan = event.position() - self._grabbed
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """A click on the path picks that move."""
        self._grabbed = None
        proof = self.session.proof
        if event is None or proof is None or (event.position() - self._down).manhattanLength() > STRAY:
            return
        if self.session.shown and proof.plane == self.session.job.plane:
            move = self.drawing.move_at(proof, event.position())
            if move >= 0:
                self.session.pick_move(move)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.show_all()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self.session.proof is None:
            return
        self.zoom_at(event.position(), NOTCH ** (event.angleDelta().y() / 120))
