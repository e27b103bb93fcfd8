"""Small drawings made by the program itself: features, tools, parts."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from bastler.app.drafting import between, centre_mark, region_path, zero_mark
from bastler.app.theme import ROLES, sans, tool_hue
from bastler.app.tool_outline import tool_outline
from bastler.app.turned_pictures import TURNED, draw_turn_tool, draw_turned_feature, draw_turned_part
from bastler.job.faults import fault_of
from bastler.live.shown import PartLook
from bastler.shapes import Frame
from bastler.shapes.chain import points_on
from bastler.shapes.lettering import straight, width_of
from bastler.tools import AnyTool, TurnTool


def draw_feature(painter: QPainter, tag: str, box: QRectF) -> None:
    """The picture of a feature, on a block seen from above; a plain block for one that has none yet."""
    if tag in TURNED:
        draw_turned_feature(painter, tag, box)
        return
    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.blue if tag == "facing" else ROLES.metal))
    painter.drawRect(box)
    painter.setPen(QPen(QColor(ROLES.focus), 1.8))
    painter.setBrush(QColor(ROLES.removal))
    drawing = _FEATURES.get(tag)
    if drawing:
        drawing(painter, box)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _facing(painter: QPainter, box: QRectF) -> None:
    painter.drawRect(QRectF(box.left(), box.top(), box.width(), box.height() * 0.62))
    pen = QPen(QColor(ROLES.ink), 1.4)
    painter.setPen(pen)
    rows = [box.top() + box.height() * k for k in (0.14, 0.34, 0.54)]
    path = QPainterPath(QPointF(box.left() - 8, rows[0]))
    path.lineTo(box.right() + 8, rows[0])
    path.lineTo(box.right() + 8, rows[1])
    path.lineTo(box.left() - 8, rows[1])
    path.lineTo(box.left() - 8, rows[2])
    path.lineTo(box.right() + 4, rows[2])
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)


def _pocket(painter: QPainter, box: QRectF) -> None:
    inner = box.adjusted(box.width() * 0.17, box.height() * 0.22, -box.width() * 0.17, -box.height() * 0.22)
    painter.drawRoundedRect(inner, 9, 9)
    painter.setPen(QPen(QColor(ROLES.ink), 1.1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for k in (1, 2):
        inset = inner.adjusted(k * 8, k * 8, -k * 8, -k * 8)
        if inset.height() > 4:
            painter.drawRoundedRect(inset, 3, 3)


def _drilling(painter: QPainter, box: QRectF) -> None:
    for x in (0.2, 0.5, 0.8):
        for y in (0.28, 0.72):
            at = QPointF(box.left() + box.width() * x, box.top() + box.height() * y)
            painter.setPen(QPen(QColor(ROLES.focus), 1.8))
            painter.setBrush(QColor(ROLES.removal))
            painter.drawEllipse(at, 7.0, 7.0)
            centre_mark(painter, at, 5, ROLES.ink)


def _blob(box: QRectF, inset: float = 0.16) -> QPainterPath:
    """A free outline in a box: straight below, bulging above."""
    w, h = box.width(), box.height()
    left, right, top, bottom = box.left() + w * inset, box.right() - w * inset, box.top() + h * inset, box.bottom() - h * inset
    path = QPainterPath(QPointF(left, bottom))
    path.lineTo(right - w * 0.08, bottom)
    path.quadTo(QPointF(right, bottom), QPointF(right, bottom - h * 0.14))
    path.quadTo(QPointF(right + w * 0.02, top), QPointF(box.center().x() + w * 0.06, top + h * 0.08))
    path.quadTo(QPointF(box.center().x() - w * 0.1, top + h * 0.34), QPointF(left + w * 0.06, top + h * 0.1))
    path.quadTo(QPointF(left - w * 0.03, top + h * 0.3), QPointF(left, bottom))
    return path


def _free_pocket(painter: QPainter, box: QRectF) -> None:
    painter.drawPath(_blob(box))
    painter.setBrush(QColor(ROLES.metal))
    painter.drawEllipse(QPointF(box.center().x() + box.width() * 0.14, box.center().y() + box.height() * 0.08), 8.0, 8.0)
    painter.drawRoundedRect(QRectF(box.left() + box.width() * 0.27, box.center().y() + 2, 16, 9), 3, 3)


def _free_boss(painter: QPainter, box: QRectF) -> None:
    painter.drawRect(box)
    painter.setBrush(QColor(ROLES.metal))
    painter.drawPath(_blob(box, 0.24))


def _outline(painter: QPainter, box: QRectF) -> None:
    path = _blob(box, 0.22)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(ROLES.removal), 9))
    painter.drawPath(path)
    painter.setPen(QPen(QColor(ROLES.focus), 1.8))
    painter.drawPath(path)


def _rest(painter: QPainter, box: QRectF) -> None:
    inner = box.adjusted(box.width() * 0.17, box.height() * 0.2, -box.width() * 0.17, -box.height() * 0.2)
    painter.setBrush(QColor(ROLES.shade))
    painter.setPen(QPen(QColor(ROLES.ink), 1.1))
    painter.drawRect(inner)
    painter.setPen(QPen(QColor(ROLES.focus), 1.6))
    painter.setBrush(QColor(ROLES.removal))
    side = 15.0
    for right in (False, True):
        for low in (False, True):
            x, y = inner.right() if right else inner.left(), inner.bottom() if low else inner.top()
            dx, dy = (-side if right else side), (-side if low else side)
            path = QPainterPath(QPointF(x, y))
            path.lineTo(x + dx, y)
            path.quadTo(QPointF(x + dx * 0.25, y + dy * 0.25), QPointF(x, y + dy))
            path.closeSubpath()
            painter.drawPath(path)


def _edge_break(painter: QPainter, box: QRectF) -> None:
    painter.fillRect(box, QColor(ROLES.paper))
    outer, inner = _blob(box, 0.14), _blob(box, 0.21)
    painter.setPen(QPen(QColor(ROLES.focus), 1.6))
    painter.drawPath(outer)
    painter.setBrush(QColor(ROLES.metal))
    painter.drawPath(inner)


def _round_pocket(painter: QPainter, box: QRectF) -> None:
    r = box.height() * 0.36
    painter.drawEllipse(box.center(), r, r)
    painter.setPen(QPen(QColor(ROLES.ink), 1.1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    path, step = QPainterPath(QPointF(box.center().x() + 4, box.center().y())), (r - 7) / 6
    for k in range(6):
        inner, outer, side = 4 + k * step, 4 + (k + 1) * step, 1 if k % 2 == 0 else -1
        middle, radius = box.center().x() + side * (inner - outer) / 2, (inner + outer) / 2
        path.arcTo(QRectF(middle - radius, box.center().y() - radius, 2 * radius, 2 * radius), 0 if side > 0 else 180, 180)
    painter.drawPath(path)


def _standing(painter: QPainter, box: QRectF, shape: QPainterPath) -> None:
    """Everything gone but a shape."""
    painter.drawRect(box)
    painter.setBrush(QColor(ROLES.metal))
    painter.drawPath(shape)


def _round_boss(painter: QPainter, box: QRectF) -> None:
    path = QPainterPath()
    path.addEllipse(box.center(), box.height() * 0.34, box.height() * 0.34)
    _standing(painter, box, path)


def _rectangle_outside(painter: QPainter, box: QRectF) -> None:
    path = QPainterPath()
    path.addRoundedRect(box.adjusted(box.width() * 0.17, box.height() * 0.2, -box.width() * 0.17, -box.height() * 0.2), 8, 8)
    _standing(painter, box, path)


def _hexagon(box: QRectF) -> QPainterPath:
    r, at = box.height() * 0.38, box.center()
    corners = [QPointF(at.x() + r * math.cos(a), at.y() + r * math.sin(a)) for a in (math.pi * k / 3 for k in range(6))]
    path = QPainterPath()
    path.addPolygon(QPolygonF([*corners, corners[0]]))
    return path


def _polygon_pocket(painter: QPainter, box: QRectF) -> None:
    painter.drawPath(_hexagon(box))


def _polygon_outside(painter: QPainter, box: QRectF) -> None:
    _standing(painter, box, _hexagon(box))


def _slot(painter: QPainter, box: QRectF) -> None:
    width = box.height() * 0.3
    inner = QRectF(box.left() + box.width() * 0.14, box.center().y() - width / 2, box.width() * 0.72, width)
    painter.drawRoundedRect(inner, width / 2, width / 2)
    pen = QPen(QColor(ROLES.ink), 1.0)
    pen.setDashPattern([10, 3, 2, 3])
    painter.setPen(pen)
    painter.drawLine(QPointF(inner.left() + 6, inner.center().y()), QPointF(inner.right() - 6, inner.center().y()))


def _ring_groove(painter: QPainter, box: QRectF) -> None:
    outer, inner = box.height() * 0.38, box.height() * 0.22
    path = QPainterPath()
    path.addEllipse(box.center(), outer, outer)
    path.addEllipse(box.center(), inner, inner)
    painter.drawPath(path)
    centre_mark(painter, box.center(), 6, ROLES.ink)


def _in_section(painter: QPainter, box: QRectF, profile: list[tuple[float, float]], hole: float) -> None:
    """A hole cut open: what a step takes, as half widths at depths (shares of the box), over a narrower hole all the way down."""
    middle, top = box.center().x(), box.top() + box.height() * 0.2
    painter.fillRect(QRectF(box.left(), box.top(), box.width(), top - box.top()), QColor(ROLES.field))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(ROLES.paper))
    painter.drawRect(QRectF(middle - hole * box.width(), top, 2 * hole * box.width(), box.bottom() - top))
    right = [QPointF(middle + half * box.width(), top + deep * box.height()) for half, deep in profile]
    left = [QPointF(2 * middle - p.x(), p.y()) for p in reversed(right)]
    painter.setPen(QPen(QColor(ROLES.focus), 1.8))
    painter.setBrush(QColor(ROLES.removal))
    painter.drawPolygon(QPolygonF([*right, *left]))
    pen = QPen(QColor(ROLES.ink), 1.0)
    pen.setDashPattern([10, 3, 2, 3])
    painter.setPen(pen)
    painter.drawLine(QPointF(middle, box.top() + 3), QPointF(middle, box.bottom() - 3))


def _countersink(painter: QPainter, box: QRectF) -> None:
    _in_section(painter, box, [(0.24, 0.0), (0.1, 0.2)], 0.1)


def _counterbore(painter: QPainter, box: QRectF) -> None:
    _in_section(painter, box, [(0.22, 0.0), (0.22, 0.36)], 0.1)


def _reaming(painter: QPainter, box: QRectF) -> None:
    _in_section(painter, box, [(0.13, 0.0), (0.13, 0.6)], 0.1)


def _tapping(painter: QPainter, box: QRectF) -> None:
    turns = 7
    teeth = [(0.17 if k % 2 == 0 else 0.12, 0.6 * k / (2 * turns)) for k in range(2 * turns + 1)]
    _in_section(painter, box, teeth, 0.12)


def _finished_hole(painter: QPainter, box: QRectF) -> None:
    """A chamfer, a thread and the drill's tip below it."""
    turns = 5
    teeth = [(0.24, 0.0), (0.16, 0.09)]
    teeth += [(0.16 if k % 2 == 0 else 0.115, 0.09 + 0.36 * k / (2 * turns)) for k in range(1, 2 * turns + 1)]
    _in_section(painter, box, [*teeth, (0.115, 0.58)], 0.1)


def _thread_milling(painter: QPainter, box: QRectF) -> None:
    turns = 5
    teeth = [(0.27 if k % 2 == 0 else 0.22, 0.52 * k / (2 * turns)) for k in range(2 * turns + 1)]
    _in_section(painter, box, [*teeth, (0.22, 0.6)], 0.02)


def _boring(painter: QPainter, box: QRectF) -> None:
    _in_section(painter, box, [(0.27, 0.0), (0.27, 0.5)], 0.02)


def _sign(painter: QPainter, box: QRectF, words: str) -> None:
    painter.setPen(QColor(ROLES.ink))
    painter.setFont(sans(24, bold=True))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _engraving(painter: QPainter, box: QRectF) -> None:
    """Our own strokes."""
    high = box.height() * 0.5
    wide = width_of("Abc", high)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    left, foot = box.center().x() - wide / 2, box.center().y() + high / 2
    for chain in straight("Abc", Frame(), high):
        path = QPainterPath()
        path.addPolygon(QPolygonF([QPointF(left + x, foot - y) for x, y in points_on(chain, 0.05)]))
        painter.drawPath(path)


def _repeat(painter: QPainter, box: QRectF) -> None:
    for k in range(3):
        w = box.width() * 0.2
        painter.setBrush(QColor(ROLES.removal if k else ROLES.metal))
        painter.drawRoundedRect(QRectF(box.left() + box.width() * (0.08 + 0.32 * k), box.center().y() - w / 2, w, w), 3, 3)


def _stop(painter: QPainter, box: QRectF) -> None:
    """A flat hand would be a symbol of its own: the word of the program says it."""
    painter.setBrush(QColor(ROLES.stop))
    painter.setPen(Qt.PenStyle.NoPen)
    side = min(box.width(), box.height()) * 0.72
    painter.drawRoundedRect(QRectF(box.center().x() - side / 2, box.center().y() - side / 2, side, side), 3, 3)


def _wait(painter: QPainter, box: QRectF) -> None:
    r = min(box.width(), box.height()) * 0.38
    painter.setBrush(QColor(ROLES.field))
    painter.drawEllipse(box.center(), r, r)
    painter.drawLine(box.center(), box.center() + QPointF(0, -r * 0.7))
    painter.drawLine(box.center(), box.center() + QPointF(r * 0.5, 0))


def _out_of_the_way(painter: QPainter, box: QRectF) -> None:
    x, low, high = box.left() + box.width() * 0.4, box.bottom() - 6, box.top() + 8
    for a, b in (((x, low), (x, high)), ((x, high), (box.right() - 10, high))):
        painter.drawLine(QPointF(*a), QPointF(*b))
    painter.setPen(QPen(QColor(ROLES.ink), 1.4))
    painter.drawEllipse(QPointF(box.right() - 10, high), 3, 3)


def _lying(painter: QPainter, box: QRectF) -> QRectF:
    """A shaft that lies in the place of the block; gives where it is."""
    painter.fillRect(box.adjusted(-2, -2, 2, 2), QColor(ROLES.panel))
    shaft = box.adjusted(0, box.height() * 0.14, 0, -box.height() * 0.14)
    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.metal))
    painter.drawRect(shaft)
    painter.setPen(QPen(QColor(ROLES.focus), 1.8))
    painter.setBrush(QColor(ROLES.removal))
    return shaft


def _keyway(painter: QPainter, box: QRectF) -> None:
    shaft = _lying(painter, box)
    slot = shaft.adjusted(shaft.width() * 0.22, shaft.height() * 0.36, -shaft.width() * 0.22, -shaft.height() * 0.36)
    painter.drawRoundedRect(slot, slot.height() / 2, slot.height() / 2)


def _helical(painter: QPainter, box: QRectF) -> None:
    shaft = _lying(painter, box)
    painter.save()
    painter.setClipRect(shaft)
    painter.setPen(QPen(QColor(ROLES.focus), 4.0))
    for k in range(4):
        left = shaft.left() + shaft.width() * (0.12 + 0.2 * k)
        painter.drawLine(QPointF(left, shaft.bottom()), QPointF(left + shaft.width() * 0.14, shaft.top()))
    painter.restore()


def _flats(painter: QPainter, box: QRectF) -> None:
    painter.fillRect(box.adjusted(-2, -2, 2, 2), QColor(ROLES.panel))
    r = box.height() * 0.46
    corners = [QPointF(r * math.cos(a), r * math.sin(a)) + box.center() for a in (math.pi / 3 * k for k in range(6))]
    painter.drawEllipse(box.center(), r, r)
    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.metal))
    painter.drawPolygon(QPolygonF(corners))


_FEATURES: dict[str, Callable[[QPainter, QRectF], None]] = {
    "facing": _facing,
    "keyway": _keyway,
    "flats": _flats,
    "helical-groove": _helical,
    "rectangular-pocket": _pocket,
    "drilling": _drilling,
    "free-pocket": _free_pocket,
    "free-boss": _free_boss,
    "outline-milling": _outline,
    "rest-machining": _rest,
    "edge-break": _edge_break,
    "round-pocket": _round_pocket,
    "round-boss": _round_boss,
    "rectangular-boss": _rectangle_outside,
    "polygon-pocket": _polygon_pocket,
    "polygon-boss": _polygon_outside,
    "slot": _slot,
    "countersink": _countersink,
    "counterbore": _counterbore,
    "reaming": _reaming,
    "tapping": _tapping,
    "finished-hole": _finished_hole,
    "thread-milling": _thread_milling,
    "boring": _boring,
    "engraving": _engraving,
    "repeat": _repeat,
    "repeat-along": _repeat,
    "stop": _stop,
    "wait": _wait,
    "out-of-the-way": _out_of_the_way,
    "own-lines": lambda painter, box: _sign(painter, box, "G…"),
    "ring-groove": _ring_groove,
}


def draw_tool(painter: QPainter, tool: AnyTool, box: QRectF, scale: float) -> None:
    """A tool to scale, tip down, with as much of its holder as there is room for; of one that cannot be, that it cannot."""
    if fault_of(tool):
        _draw_faulty(painter, box)
        return
    if isinstance(tool, TurnTool):
        draw_turn_tool(painter, tool, box, scale)
        return
    painter.save()
    painter.setClipRect(box)
    to = QTransform(scale, 0, 0, -scale, box.center().x(), box.bottom() - 3)
    for points, what in tool_outline(tool):
        painter.setPen(QPen(QColor(ROLES.ink), 0.9))
        fills = {"edge": tool_hue(tool.station), "shank": ROLES.metal, "holder": ROLES.jaw}
        painter.setBrush(QColor(fills[what]))
        painter.drawPolygon(to.map(QPolygonF([QPointF(x, z) for x, z in points])))
    painter.restore()


def _draw_faulty(painter: QPainter, box: QRectF) -> None:
    """In the place of a tool whose numbers or whose code are none, as long as they are: its shape is not known."""
    painter.save()
    painter.setPen(QPen(QColor(ROLES.stop), 1.2, Qt.PenStyle.DashLine))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    wide = min(box.width(), box.height()) * 0.5
    place = QRectF(box.center().x() - wide / 2, box.center().y() - wide / 2, wide, wide)
    painter.drawRect(place)
    painter.setPen(QColor(ROLES.stop))
    painter.setFont(sans(16, bold=True))
    painter.drawText(place, Qt.AlignmentFlag.AlignCenter, "?")
    painter.restore()


def draw_part(painter: QPainter, look: PartLook, box: QRectF) -> None:
    """A part from above, all its steps done, as the first holding sees it."""
    stock = look.stock
    if stock is None:
        draw_turned_part(painter, look, box)
        return
    s = min(box.width() / stock.size[0], box.height() / stock.size[1])
    x0 = box.center().x() - stock.centre[0] * s
    y0 = box.center().y() + stock.centre[1] * s

    def to(x: float, y: float) -> QPointF:
        return QPointF(x0 + x * s, y0 - y * s)

    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.blue))
    outside = QRectF(to(stock.lo[0], stock.hi[1]), to(stock.hi[0], stock.lo[1]))
    edge = QPainterPath()
    (edge.addEllipse if stock.round else edge.addRect)(outside)
    painter.drawPath(edge)
    painter.save()
    painter.setClipPath(edge)
    for floor, region in look.gone:
        share = (stock.hi[2] - floor) / max(stock.size[2], 1e-9)
        painter.setPen(QPen(QColor(ROLES.ink), 0.9))
        painter.setBrush(between(ROLES.metal, ROLES.shade, share))
        painter.drawPath(region_path(region, to))
    painter.restore()
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_blank(painter: QPainter, box: QRectF, unit: str) -> None:
    """A blank block with its zero, for a new job in a unit."""
    block = box.adjusted(box.width() * 0.1, box.height() * 0.14, -box.width() * 0.1, -box.height() * 0.14)
    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.blue))
    painter.drawRect(block)
    painter.setPen(QColor(ROLES.on_dark))
    painter.setFont(sans(26, bold=True))
    painter.drawText(block, Qt.AlignmentFlag.AlignCenter, unit)
    zero_mark(painter, block.bottomLeft(), 8)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_bar(painter: QPainter, box: QRectF, unit: str) -> None:
    """A bar in the jaws with its zero, for a new turned part in a unit."""
    bar = box.adjusted(box.width() * 0.16, box.height() * 0.28, -box.width() * 0.12, -box.height() * 0.28)
    painter.setPen(QPen(QColor(ROLES.ink), 1.2))
    painter.setBrush(QColor(ROLES.jaw))
    for top in (bar.top() - 18, bar.bottom()):
        painter.drawRect(QRectF(bar.left() - 8, top, 30, 18))
    painter.setBrush(QColor(ROLES.blue))
    painter.drawRect(bar)
    painter.setPen(QColor(ROLES.on_dark))
    painter.setFont(sans(26, bold=True))
    painter.drawText(bar, Qt.AlignmentFlag.AlignCenter, unit)
    zero_mark(painter, QPointF(bar.right(), bar.center().y()), 8)
    painter.setBrush(Qt.BrushStyle.NoBrush)
