"""Small drawings of turned work: features as half sections, inserts with their holders, parts."""

from __future__ import annotations

import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from bastler.app.drafting import hatch, region_path
from bastler.app.theme import ROLES, tool_hue
from bastler.live.shown import PartLook
from bastler.tools import TurnTool

Outline = list[tuple[float, float]]
WHOLE: Outline = [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)]
STEPPED: Outline = [(0.0, 0.0), (1.0, 0.0), (1.0, 0.42), (0.62, 0.42), (0.62, 0.7), (0.28, 0.7), (0.28, 1.0), (0.0, 1.0)]
DIP: Outline = [(0.0, 0), (1.0, 0), (1.0, 0.8), (0.72, 0.8), (0.6, 0.45), (0.4, 0.45), (0.4, 0.8), (0.0, 0.8)]
CENTRED: Outline = [(0.0, 0.0), (0.66, 0.0), (0.74, 0.14), (0.74, 0.5), (0.0, 0.5)]
CENTRE: Outline = [(0.66, 0.0), (0.86, 0.34), (1.0, 0.34), (1.0, 0.0)]
BROUGHT: Outline = [(0.0, 0.0), (0.74, 0.0), (0.74, 0.5), (0.0, 0.5)]
BAR_STOP: Outline = [(0.74, 0.0), (0.9, 0.0), (0.9, 1.0), (0.74, 1.0)]
HANDED: Outline = [(0.0, 0.0), (1.0, 0.0), (1.0, 0.42), (0.55, 0.42), (0.55, 0.62), (0.0, 0.62)]
BOTH_JAWS = (
    [(-0.08, 0.62), (0.24, 0.62), (0.24, 1.0), (-0.08, 1.0)],
    [(1.0, 0.42), (0.72, 0.42), (0.72, 0.9), (1.0, 0.9)],
)
"""Of both chucks, on a part that is handed over."""
TURNED: dict[str, tuple[Outline, Outline]] = {
    "turn-facing": ([(0, 0), (0.82, 0), (0.82, 1), (0, 1)], WHOLE),
    "turn-roughing": (STEPPED, WHOLE),
    "turn-finishing": (
        STEPPED,
        [(x, min(y + 0.08, 1.0)) for x, y in STEPPED[:2]]
        + [(1.0, 0.5), (0.68, 0.5), (0.68, 0.78), (0.34, 0.78), (0.34, 1.0), (0, 1)],
    ),
    "turn-rest": (DIP, [(0, 0), (1, 0), (1, 0.8), (0.72, 0.8), (0.4, 0.62), (0.4, 0.8), (0, 0.8)]),
    "groove": (
        [(0, 0), (1, 0), (1, 0.85), (0.62, 0.85), (0.62, 0.45), (0.4, 0.45), (0.4, 0.85), (0, 0.85)],
        [(0, 0), (1, 0), (1, 0.85), (0, 0.85)],
    ),
    "thread": ([], [(0, 0), (1, 0), (1, 0.75), (0, 0.75)]),
    "face-thread": ([], [(0, 0), (1, 0), (1, 0.9), (0, 0.9)]),
    "centre-hole": ([(0, 0), (0.3, 0), (0.4, 0.3), (1, 0.3), (1, 0.9), (0, 0.9)], [(0, 0), (1, 0), (1, 0.9), (0, 0.9)]),
    "centre-finished": (
        [(0, 0), (0.2, 0), (0.28, 0.22), (0.4, 0.22), (0.4, 0.34), (0.92, 0.34), (1, 0.44), (1, 0.9), (0, 0.9)],
        [(0, 0), (1, 0), (1, 0.9), (0, 0.9)],
    ),
    "part-off": ([(0, 0), (0.34, 0), (0.34, 0.85), (0, 0.85)], [(0, 0), (1, 0), (1, 0.85), (0, 0.85)]),
    "hand-over": (HANDED, HANDED),
    "next-part": (BROUGHT, BROUGHT),
    "tailstock-centre": (CENTRED, CENTRED),
    "free-moves": ([(0, 0), (0.8, 0), (0.8, 0.6), (0, 0.6)], [(0, 0), (0.8, 0), (0.8, 0.6), (0, 0.6)]),
}
"""What is there after and before a feature, as half sections in a unit box: along the axis, and the radius."""


def draw_turned_feature(painter: QPainter, tag: str, box: QRectF) -> None:
    """A feature on a bar: hatched what stays, orange what goes."""
    after, before = TURNED[tag]
    if tag in ("thread", "face-thread"):
        after = _threaded() if tag == "thread" else _spiralled()
    base = box.bottom() - 6
    high = box.height() - 10

    def to(x: float, y: float) -> QPointF:
        return QPointF(box.left() + x * box.width(), base - y * high)

    kept = QPolygonF([to(*p) for p in after])
    whole = QPolygonF([to(*p) for p in before])
    painter.setPen(QPen(QColor(ROLES.focus), 1.4))
    painter.setBrush(QColor(ROLES.removal))
    painter.drawPolygon(whole)
    path = region_path(shapely.Polygon(after), to)
    painter.fillPath(path, QColor(ROLES.metal))
    hatch(painter, path, ROLES.hatch, 8.0)
    painter.setPen(QPen(QColor(ROLES.ink), 1.3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPolygon(kept)
    if tag == "part-off":
        part = [(0.46, 0), (1, 0), (1, 0.85), (0.46, 0.85)]
        path = region_path(shapely.Polygon(part), to)
        painter.fillPath(path, QColor(ROLES.metal))
        hatch(painter, path, ROLES.hatch, 8.0)
        painter.drawPolygon(QPolygonF([to(*p) for p in part]))
    if tag == "hand-over":
        painter.setBrush(QColor(ROLES.jaw))
        for jaw in BOTH_JAWS:
            painter.drawPolygon(QPolygonF([to(*p) for p in jaw]))
        painter.setPen(QPen(QColor(ROLES.focus), 2.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(to(0.34, 0.84), to(0.6, 0.84))
        painter.drawPolyline(QPolygonF([to(0.52, 0.93), to(0.62, 0.84), to(0.52, 0.75)]))
    if tag == "tailstock-centre":
        painter.setBrush(QColor(ROLES.jaw))
        painter.drawPolygon(QPolygonF([to(*p) for p in CENTRE]))
    if tag == "next-part":
        painter.setBrush(QColor(ROLES.jaw))
        painter.drawPolygon(QPolygonF([to(*p) for p in BAR_STOP]))
        painter.drawPolygon(QPolygonF([to(*p) for p in BOTH_JAWS[0]]))
        painter.setPen(QPen(QColor(ROLES.focus), 2.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(to(0.34, 0.74), to(0.62, 0.74))
        painter.drawPolyline(QPolygonF([to(0.54, 0.83), to(0.64, 0.74), to(0.54, 0.65)]))
    if tag == "free-moves":
        pen = QPen(QColor(ROLES.focus), 1.6)
        pen.setDashPattern([4, 3])
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF([to(1.0, 1.0), to(0.92, 0.72), to(0.3, 0.72), to(0.3, 1.0)]))
    pen = QPen(QColor(ROLES.soft), 1.0)
    pen.setDashPattern([10, 3, 2, 3])
    painter.setPen(pen)
    painter.drawLine(QPointF(box.left() - 6, base), QPointF(box.right() + 6, base))


def _threaded() -> Outline:
    points: Outline = [(0.0, 0.0), (1.0, 0.0)]
    for k in range(9):
        x = 1.0 - k * 0.085
        points += [(x, 0.75), (x - 0.0425, 0.58)]
    return [*points, (0.235, 0.75), (0.0, 0.75)]


def _spiralled() -> Outline:
    """A thread on the end face, in section."""
    points: Outline = [(0.0, 0.0), (1.0, 0.0), (1.0, 0.28)]
    for k in range(5):
        r = 0.3 + k * 0.1
        points += [(1.0, r), (0.86, r + 0.04), (1.0, r + 0.08)]
    return [*points, (1.0, 0.9), (0.0, 0.9)]


def draw_turn_tool(painter: QPainter, tool: TurnTool, box: QRectF, scale: float) -> None:
    """An insert with its holder in true shape, to scale, its point near the middle below."""
    painter.save()
    painter.setClipRect(box)
    down = box.bottom() - 8 if not tool.inside else box.top() + box.height() * 0.45
    left = box.center().x() - 10 if not tool.inside else box.left() + 26
    to = QTransform(scale, 0, 0, -scale, left, down)
    painter.setPen(QPen(QColor(ROLES.ink), 0.9))
    painter.setBrush(QColor(ROLES.jaw))
    for part in tool.body:
        painter.drawPolygon(to.map(QPolygonF([QPointF(z, r) for z, r in part])))
    painter.setBrush(QColor(tool_hue(tool.station)))
    painter.drawPolygon(to.map(QPolygonF([QPointF(z, r) for z, r in tool.cutting])))
    painter.restore()


def draw_turned_part(painter: QPainter, look: PartLook, box: QRectF) -> None:
    """A turned part in half section, all its steps done."""
    part, (z0, _, z1, outer) = look.section, look.bounds
    s = min(box.width() / max(z1 - z0, 1e-9), box.height() / (2 * max(outer, 1e-9)))
    x0 = box.center().x() - (z0 + z1) / 2 * s
    y0 = box.center().y()
    painter.save()
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setClipRect(box.adjusted(-2, -2, 2, 2))
    for sign in (1.0, -1.0):
        path = region_path(shapely.transform(part, lambda p, k=sign: p * (1.0, k)), lambda z, r: QPointF(x0 + z * s, y0 - r * s))
        painter.fillPath(path, QColor(ROLES.metal if sign > 0 else ROLES.metal_deep))
        if sign > 0:
            hatch(painter, path, ROLES.hatch, 7.0)
        painter.setPen(QPen(QColor(ROLES.ink), 1.1))
        painter.drawPath(path)
    pen = QPen(QColor(ROLES.soft), 0.9)
    pen.setDashPattern([10, 3, 2, 3])
    painter.setPen(pen)
    painter.drawLine(QPointF(box.left(), y0), QPointF(box.right(), y0))
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)
