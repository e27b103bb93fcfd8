"""Pictures of whole parts for tiles: what there is to see of a part is worked out beside the window and painted once; the picture
is kept on disk by what it shows, so that the next start has it at once.

A tile asks at every paint and gets the picture once it is there. One job that cannot be drawn has no picture; the others do.
"""

from __future__ import annotations

import hashlib
import logging
from collections import OrderedDict
from dataclasses import dataclass
from functools import partial
from pathlib import Path

from platformdirs import user_cache_path
from PyQt6.QtCore import QObject, QRectF, QSizeF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from bastler import __version__
from bastler.app.core import Core
from bastler.app.pictures import draw_part
from bastler.app.theme import ROLES
from bastler.live.shown import PartLook

log = logging.getLogger(__name__)
MOST = 60
"""Pictures kept; the one that was not looked at for longest goes."""
PAINTED = 1
"""Counts on when parts are painted another way: pictures of before are no good then."""


@dataclass(frozen=True)
class _Wanted:
    """A picture by what it shows: the text of the job, its size in points, and how many dots a point has."""

    text: bytes
    width: int
    height: int
    ratio: float
    skin: str
    """The colour of what is untouched: another one by night."""

    @property
    def name(self) -> str:
        """The same for the same picture, whenever it is asked for."""
        made = hashlib.blake2b(self.text, digest_size=16)
        made.update(f"{__version__} {PAINTED} {self.width} {self.height} {self.ratio} {self.skin}".encode())
        return f"{made.hexdigest()}.png"


class PartPictures(QObject):
    """The pictures there are. `ready` comes whenever there is one more."""

    ready = pyqtSignal()

    def __init__(self, core: Core) -> None:
        super().__init__()
        self._core = core
        self._made: OrderedDict[_Wanted, QImage | None] = OrderedDict()
        self._asked: set[_Wanted] = set()
        self._folder = user_cache_path("bastler") / "parts"

    @property
    def waiting(self) -> bool:
        """Is a picture still to come?"""
        return bool(self._asked)

    def draw(self, painter: QPainter, text: bytes, box: QRectF) -> None:
        """The picture of a job, by its text, in a box; while there is none, the outline of a sheet."""
        device = painter.device()
        wanted = _Wanted(text, int(box.width()), int(box.height()), device.devicePixelRatioF() if device else 1.0, ROLES.blue)
        if wanted not in self._made and wanted not in self._asked:
            self._find(wanted)
        image = self._made.get(wanted)
        if image is not None:
            self._made.move_to_end(wanted)
            painter.drawImage(box.topLeft(), image)
            return
        painter.setPen(QPen(QColor(ROLES.hairline), 1, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(box.width() * 0.2, box.height() * 0.2, -box.width() * 0.2, -box.height() * 0.2))

    def _find(self, wanted: _Wanted) -> None:
        """On disk, or to be made."""
        image = QImage(str(self._folder / wanted.name))
        if not image.isNull():
            image.setDevicePixelRatio(wanted.ratio)
            self._keep(wanted, image)
            return
        self._asked.add(wanted)
        self._core.ask("part", wanted.text, then=partial(self._came, wanted), slot=f"part {wanted.name}")

    def _came(self, wanted: _Wanted, look: PartLook | None, trouble: str) -> None:
        self._asked.discard(wanted)
        image = _painted(look, wanted) if look is not None else None
        self._keep(wanted, image)
        if image is not None:
            _written(image, self._folder / wanted.name)
        self.ready.emit()

    def _keep(self, wanted: _Wanted, image: QImage | None) -> None:
        self._made[wanted] = image
        while len(self._made) > MOST:
            self._made.popitem(last=False)


def _written(image: QImage, path: Path) -> None:
    """Keeps a picture, and no more than there is room for: who has no disk for it has it made again."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        beside = path.with_suffix(".part")
        if image.save(str(beside), "PNG"):
            beside.replace(path)
        old = sorted(path.parent.glob("*.png"), key=lambda p: p.stat().st_mtime, reverse=True)
        for one in old[MOST:]:
            one.unlink(missing_ok=True)
    except OSError:
        log.info("A picture could not be kept", exc_info=True)


def _painted(look: PartLook, wanted: _Wanted) -> QImage | None:
    """The picture, or None where the part cannot be painted: a tile is no place to fail."""
    size = QSizeF(wanted.width, wanted.height) * wanted.ratio
    image = QImage(size.toSize(), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(wanted.ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        draw_part(painter, look, QRectF(1, 1, wanted.width - 2, wanted.height - 2))  # with room for its own outline
    except Exception:
        log.info("A part could not be drawn", exc_info=True)
        return None
    finally:
        painter.end()
    return image
