"""Pictures of whole parts for tiles: planned and painted on a thread of their own, kept by what they show.

A tile asks at every paint and gets the picture once it is there. One job that cannot be drawn has no picture; the others do.
"""

from __future__ import annotations

import logging
import queue
import threading
from collections import OrderedDict
from dataclasses import dataclass

from PyQt6.QtCore import QObject, QRectF, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from bastler.app.pictures import draw_part
from bastler.app.theme import DAY
from bastler.job import Job, plan

log = logging.getLogger(__name__)
MOST = 60
"""Pictures kept; the one that was not looked at for longest goes."""


@dataclass(frozen=True)
class _Wanted:
    """A picture by what it shows: the text of the job, its size in points, and how many dots a point has."""

    text: bytes
    width: int
    height: int
    ratio: float


class PartPictures(QObject):
    """The pictures there are. `ready` comes whenever there is one more."""

    ready = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self._made: OrderedDict[_Wanted, QImage | None] = OrderedDict()
        self._asked: set[_Wanted] = set()
        self._lock = threading.Lock()
        self._work: queue.SimpleQueue[tuple[_Wanted, Job]] = queue.SimpleQueue()
        self._thread: threading.Thread | None = None

    @property
    def waiting(self) -> bool:
        """Is a picture still to come?"""
        with self._lock:
            return bool(self._asked)

    def draw(self, painter: QPainter, job: Job, text: bytes, box: QRectF) -> None:
        """The picture of a job with a text in a box; while there is none, the outline of a sheet."""
        device = painter.device()
        wanted = _Wanted(text, int(box.width()), int(box.height()), device.devicePixelRatioF() if device else 1.0)
        with self._lock:
            image = self._made.get(wanted)
            if image is not None:
                self._made.move_to_end(wanted)
            new = wanted not in self._made and wanted not in self._asked
            if new:
                self._asked.add(wanted)
        if image is not None:
            painter.drawImage(box.topLeft(), image)
            return
        painter.setPen(QPen(QColor(DAY.hairline), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(box.width() * 0.2, box.height() * 0.2, -box.width() * 0.2, -box.height() * 0.2))
        if new:
            self._work.put((wanted, job))
            if self._thread is None:  # who opens a job at once needs none of it
                self._thread = threading.Thread(target=self._run, name="pictures", daemon=True)
                self._thread.start()

    def _run(self) -> None:
        while True:
            wanted, job = self._work.get()
            image = _painted(job, wanted)
            with self._lock:
                self._made[wanted] = image
                self._asked.discard(wanted)
                while len(self._made) > MOST:
                    self._made.popitem(last=False)
            self.ready.emit()


def _painted(job: Job, wanted: _Wanted) -> QImage | None:
    """The picture, or None where the job cannot be drawn: a tile is no place to fail."""
    size = QSizeF(wanted.width, wanted.height) * wanted.ratio
    image = QImage(size.toSize(), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(wanted.ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        draw_part(painter, plan(job), QRectF(0, 0, wanted.width, wanted.height))
    except Exception:
        log.info("A part could not be drawn", exc_info=True)
        return None
    finally:
        painter.end()
    return image


PICTURES = PartPictures()
"""Those of the program: a job looks the same wherever it is offered."""
