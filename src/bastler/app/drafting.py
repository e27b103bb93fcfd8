"""Painting helpers that several views share: paths from regions, hatching, the zero, centre marks."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Callable, Iterator
from typing import Any

import shapely
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPaintDevice, QPainter, QPainterPath, QPen, QPolygonF

from bastler.app.theme import ROLES

FOOT = Qt.AlignmentFlag.AlignHCenter.value | Qt.AlignmentFlag.AlignBottom.value | Qt.TextFlag.TextWordWrap.value
"""How a sentence stands at the foot of a drawing: in two lines where it is narrow."""

Map = Callable[[float, float], QPointF]


@contextlib.contextmanager
def painting(device: QPaintDevice) -> Iterator[QPainter]:
    """A painter with smooth edges that has ended whatever happens: one that outlives its widget takes the program with it."""
    painter = QPainter(device)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    try:
        yield painter
    finally:
        painter.end()


def bytes_of(write: Callable[[QIODevice], object]) -> bytes:
    """What is written on a device, as the bytes of a file."""
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    write(buffer)
    buffer.close()
    return data.data()


FINE = 0.08
"""How far, in pixels, what is drawn may leave what is meant: arcs come as chords many times finer than any screen."""


def region_path(region: Any, to_pixels: Map, fine: float | None = None) -> QPainterPath:
    """A shapely region as a painter path. It leaves the region by no more than `fine` of its units, by default by so much that
    nobody sees it."""
    if fine is None:
        way = to_pixels(1.0, 0.0) - to_pixels(0.0, 0.0)
        fine = FINE / max(math.hypot(way.x(), way.y()), 1e-9)
    path = QPainterPath()
    for polygon in shapely.get_parts(shapely.simplify(region, fine, preserve_topology=False)):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        for ring in shapely.get_rings(polygon):
            path.addPolygon(QPolygonF([to_pixels(x, y) for x, y in shapely.get_coordinates(ring).tolist()]))
            path.closeSubpath()
    return path


def hatch(painter: QPainter, path: QPainterPath, tint: str, pitch: float = 9.0) -> None:
    """Thin lines at 45° inside a path."""
    box = path.boundingRect()
    painter.save()
    painter.setClipPath(path, Qt.ClipOperation.IntersectClip)
    painter.setPen(QPen(QColor(tint), 0.8))
    reach = box.height()
    x = box.left() - reach - math.fmod(box.left() - reach, pitch)
    while x < box.right():
        painter.drawLine(QPointF(x, box.bottom()), QPointF(x + reach, box.top()))
        x += pitch
    painter.restore()


def axis_pen() -> QPen:
    """The chain line of an axis, or of a section (ISO 128)."""
    pen = QPen(QColor(ROLES.soft), 1.0)
    pen.setDashPattern([14, 4, 3, 4])
    return pen


def zero_mark(painter: QPainter, at: QPointF, size: float = 8.0) -> None:
    """Part zero: the quartered circle."""
    painter.save()
    painter.setPen(QPen(QColor(ROLES.ink), 1.4))
    box = QRectF(at.x() - size, at.y() - size, 2 * size, 2 * size)
    painter.setBrush(QColor(ROLES.field))
    painter.drawEllipse(box)
    painter.setBrush(QColor(ROLES.ink))
    for start in (0, 180):
        painter.drawPie(box, start * 16, 90 * 16)
    for dx, dy in ((1, 0), (0, 1)):
        reach = size * 1.5
        painter.drawLine(QPointF(at.x() - dx * reach, at.y() - dy * reach), QPointF(at.x() + dx * reach, at.y() + dy * reach))
    painter.restore()


def centre_mark(painter: QPainter, at: QPointF, radius: float, tint: str = "") -> None:
    """A centre cross as a chain line."""
    painter.save()
    pen = QPen(QColor(tint or ROLES.soft), 0.9)
    pen.setDashPattern([8, 3, 2, 3])
    painter.setPen(pen)
    reach = radius + 6
    painter.drawLine(QPointF(at.x() - reach, at.y()), QPointF(at.x() + reach, at.y()))
    painter.drawLine(QPointF(at.x(), at.y() - reach), QPointF(at.x(), at.y() + reach))
    painter.restore()


def between(a: str, b: str, share: float) -> QColor:
    """A colour on the way from one to another."""
    p, q = QColor(a), QColor(b)
    share = min(max(share, 0.0), 1.0)
    return QColor(*(round(u + (v - u) * share) for u, v in zip(p.getRgb()[:3], q.getRgb()[:3], strict=True)))
