"""The sheet of the side of a turned part: the side as it is seen from outside, a section under it, and beside it the part from
the front, which shows at what angle that is.

Colours are those of the sheet of milled work; what is round is shaded.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QLinearGradient, QPainter, QPainterPath, QPen, QPolygonF

from bastler.app.drafting import axis_pen, hatch, region_path, zero_mark
from bastler.app.end_face import NOTHING
from bastler.app.plan_section import PlanSection, Shown
from bastler.app.theme import ROLES, colour, sans
from bastler.job.cutaway import Cutaway
from bastler.language import decimal, tr
from bastler.live.shown import Flat, Look
from bastler.proof.polar.planes import CutPlane
from bastler.proof.view import Place
from bastler.shapes import Barrel, Box, Unrolled
from bastler.steps import Sketch
from bastler.units import Kind, number_text

LEFT, RIGHT, TOP, BOTTOM, GAP = 64.0, 40.0, 52.0, 66.0, 66.0
Halves = Callable[[float, float], QPointF]
END_VIEW = 132.0
"""How wide the view from the front is, with all around it."""
BESIDE = 22.0
"""Pixels of the chuck that are seen beside the part."""
CHUCK_MM = 14.0
"""So much of the chuck is seen."""


class SideSheet(PlanSection):
    """Lays out and paints the side of a turned part on the sheet."""

    names_zero = False

    @property
    def of_step(self) -> str:
        place = self.session.place
        return tr("{place}, and section A–A", place=tr("round, unrolled") if place is not None and place.around else tr("side"))

    @property
    def around(self) -> Flat:
        return self.sheet.look.face or NOTHING

    @property
    def plane(self) -> CutPlane:
        """The first of the step's planes."""
        angles = self.around.place.angles
        return CutPlane(angles[0] if angles else 0.0)

    @property
    def seen(self) -> Box:
        """What of the part is shown: what sticks out, and a little of it in the jaws."""
        stock, held = self.around.stock, self.session.held
        left = max(stock.lo[0], held.turned.jaws_at - held.mm(CHUCK_MM))
        return Box((min(left, stock.hi[0] - held.mm(1.0)), stock.lo[1], -stock.hi[2]), stock.hi)

    def layout(self) -> None:
        sheet, box = self.sheet, self.seen
        sx, sy, sz = box.size
        room_x = max(sheet.width() - LEFT - RIGHT - END_VIEW, 50.0)
        room_y = max(sheet.height() - TOP - BOTTOM - GAP, 50.0)
        s = min(room_x / sx, room_y / (sy + sz)) * sheet.zoom
        x0 = LEFT + room_x / 2 - sx * s / 2 + sheet.pan.x()
        y0 = TOP + (sheet.height() - TOP - BOTTOM - (sy + sz) * s - GAP) / 2 + sy * s + sheet.pan.y()
        z0 = y0 + GAP
        sheet.scale = s
        sheet.to_plan = lambda x, y: QPointF(x0 + (x - box.lo[0]) * s, y0 - (y - box.lo[1]) * s)
        begin = x0 + (self.around.stock.lo[0] - box.lo[0]) * s
        if self._across(self.sketch()):
            begin = x0 + (sx - sy) / 2 * s
        sheet.to_section = lambda d, z: QPointF(begin + d * s, z0 + (box.hi[2] - z) * s)
        self.pane = QRectF(x0 - LEFT, 0.0, sx * s + LEFT + 58.0, sheet.height())

    # -- from outside -------------------------------------------------------------------------------------------

    def _plan(self, painter: QPainter, shown: Shown, sketch: Sketch, look: Look) -> None:
        painter.save()
        box = self.seen
        self._clip(painter, self.sheet.to_plan(0.0, box.hi[1]).y(), self.sheet.to_plan(0.0, box.lo[1]).y())
        if not self.around.place.around:
            self._chuck(painter, self._up, self._down)
        painter.setClipRect(self.pane)
        super()._plan(painter, shown, sketch, look)
        self._axis(painter, self.sheet.to_plan)
        painter.restore()
        self._from_the_front(painter)

    def _outside(self) -> QPainterPath:
        part = self.around.turned
        return region_path(part.region, self.sheet.to_plan) if part is not None else super()._outside()

    def _skin(self, painter: QPainter, outside: QPainterPath) -> None:
        """Every stretch of the part shaded as what is round, blue where it is as it came."""
        part = self.around.turned
        if not isinstance(part, Barrel | Unrolled):
            return
        raw, to, fine = self.session.held.turned.raw.bounds[3], self.sheet.to_plan, self.session.held.mm(1e-4)
        for (x0, r0), (x1, r1) in itertools.pairwise(part.profile):
            if x1 <= x0:
                continue
            tint = ROLES.blue if min(r0, r1) > raw - fine else ROLES.metal
            y0, y1 = (part.half, part.half) if isinstance(part, Unrolled) else (r0, r1)
            stretch = _polygon([to(x0, y0), to(x1, y1), to(x1, -y1), to(x0, -y0)])
            box = stretch.boundingRect()
            shade = QLinearGradient(box.topLeft(), box.bottomLeft())
            rim = tint if isinstance(part, Unrolled) else ROLES.round_blue if tint == ROLES.blue else ROLES.round_metal
            for at, own in ((0.0, rim), (0.35, tint), (0.65, tint), (1.0, rim)):
                shade.setColorAt(at, QColor(own))
            painter.fillPath(stretch, shade)
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        for x, high in part.edges():
            painter.drawLine(to(x, high), to(x, -high))
        if isinstance(part, Unrolled):
            self._degrees(painter, part)

    def _degrees(self, painter: QPainter, part: Unrolled) -> None:
        """Where C stands along a turn."""
        to, begin, right = self.sheet.to_plan, self.around.place.angles[0], self.seen.hi[0]
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.soft))
        for k in range(-2, 3):
            y = part.half * k / 2
            text = decimal(f"{(begin - 90.0 * k) % 360.0:.4g}°")
            painter.drawText(to(right, y) + QPointF(8.0, 4.0 if k else 20.0), text)

    def _orange_plan(self, painter: QPainter, gone: Sequence[QPainterPath]) -> None:
        painter.save()
        painter.setClipPath(self._outside(), Qt.ClipOperation.IntersectClip)
        super()._orange_plan(painter, gone)
        painter.restore()

    def _up(self, z: float, r: float) -> QPointF:
        return self.sheet.to_plan(z, r)

    def _down(self, z: float, r: float) -> QPointF:
        return self.sheet.to_plan(z, -r)

    def _clip(self, painter: QPainter, top: float, bottom: float) -> None:
        """Of the chuck no more is seen than stands out beside the part a little."""
        beside = QRectF(self.pane.left(), top - BESIDE, self.pane.width(), bottom - top + 2 * BESIDE)
        painter.setClipRect(beside)

    def _chuck(self, painter: QPainter, *halves: Halves) -> None:
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(QColor(ROLES.jaw))
        for _, region in self.session.held.turned.keep_out:
            for half in halves:
                painter.drawPath(region_path(region, half))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _axis(self, painter: QPainter, to: Halves) -> None:
        box = self.seen
        painter.setPen(axis_pen())
        painter.drawLine(to(box.lo[0], 0.0) - QPointF(14, 0), to(box.hi[0], 0.0) + QPointF(26, 0))

    # -- in section ---------------------------------------------------------------------------------------------

    def _section(self, painter: QPainter, shown: Cutaway, sketch: Sketch) -> None:
        """The part cut open: what lies under the section's line is there down to the far side."""
        stock, to, look = self.around.stock, self.sheet.to_section, self.sheet.look
        across = self._across(sketch)
        off = sketch.section[0][1]
        zero = stock.lo[1] if across else stock.lo[0]
        far_end = stock.size[1] if across else stock.size[0]
        self.cut = QRectF(to(0.0, stock.hi[2]), to(far_end, -stock.hi[2])).normalized()
        painter.save()
        self._clip(painter, self.cut.top(), self.cut.bottom())
        if not across:
            self._chuck(painter, lambda z, r: to(z - zero, r), lambda z, r: to(z - zero, -r))
        painter.setClipRect(self.pane)
        whole = _polygon([*(to(d, -z) for d, z in shown.under), *(to(d, z) for d, z in reversed(shown.under))])
        through_axis = self.around.place.around > 0.0 or abs(off) < self.session.held.mm(1e-6)
        if look.half_cut is not None and not across and through_axis:
            turned = region_path(look.half_cut.stock, lambda z, r: to(z - zero, r))
            hair = QPointF(0.0, -0.3)  # so that no line stands where the halves meet
            whole = turned.united(region_path(look.half_cut.stock, lambda z, r: to(z - zero, -r) + hair))
        far = -3.0 * stock.hi[2]
        now, after = ([to(d, z) for d, z in profile] for profile in (shown.now, shown.after))
        body = whole.intersected(_polygon([*now, to(shown.now[-1][0], far), to(shown.now[0][0], far)]))
        painter.fillPath(body, QColor(ROLES.metal))
        hatch(painter, body, ROLES.hatch)
        if shown.new:
            painter.save()
            painter.setClipPath(whole, Qt.ClipOperation.IntersectClip)
            painter.fillPath(_polygon([*now, *reversed(after)]), QColor(ROLES.removal))
            painter.restore()
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.drawPath(body)
        self._on_section(painter, shown, sketch)
        if across:
            painter.setPen(axis_pen())
            painter.drawLine(to(-zero, stock.hi[2]) - QPointF(0, 14), to(-zero, stock.lo[2]) + QPointF(0, 14))
            painter.drawLine(to(0.0, 0.0) - QPointF(14, 0), to(stock.size[1], 0.0) + QPointF(14, 0))
        else:
            self._axis(painter, lambda x, z: to(x - zero, z))
        zero_mark(painter, to(-zero, 0.0), 6)
        painter.restore()

    def _caption_of_cut(self) -> QPointF:
        return QPointF(self.cut.right() + 22.0, self.cut.top() + 12)

    @property
    def axes(self) -> tuple[str, str]:
        return ("Z", tr("round") if self.around.place.around else tr("across"))

    def on_plan(self, place: Place) -> tuple[float, float]:
        if around := self.around.place.around:
            off = math.degrees(math.atan2(place[1], place[0])) - self.around.place.angles[0]
            return place[2], -math.radians((off + 180.0) % 360.0 - 180.0) * around
        u, v, _ = (float(value) for value in self.plane.axes @ place)
        return u, v

    # -- from the front -----------------------------------------------------------------------------------------

    def _from_the_front(self, painter: QPainter) -> None:
        """A small view along the axis, with an arrow for every plane of the step: the first one bold."""
        r = END_VIEW / 2 - 34.0
        middle = QPointF(self.sheet.width() - END_VIEW / 2 - 8.0, TOP + 40.0 + r)
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.setBrush(QColor(ROLES.metal))
        painter.drawEllipse(middle, r, r)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(axis_pen())
        painter.drawLine(middle - QPointF(r + 8, 0), middle + QPointF(r + 8, 0))
        painter.drawLine(middle - QPointF(0, r + 8), middle + QPointF(0, r + 8))
        angles = self.around.place.angles
        for k, angle in reversed(list(enumerate(angles))):
            way = QPointF(math.cos(math.radians(angle)), -math.sin(math.radians(angle)))
            _arrow(painter, middle + way * (r + 24.0), middle + way * (r + 2.0), first=k == 0)
        painter.setFont(sans(12, bold=True))
        painter.setPen(QColor(ROLES.focus))
        text = f"C {number_text(angles[0] if angles else 0.0, Kind.ANGLE, self.session.job.unit)}°"
        below = QRectF(middle.x() - END_VIEW / 2, middle.y() + r + 30.0, END_VIEW, 20.0)
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, text)
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(ROLES.soft))
        more = tr("from the front") if len(angles) < 2 else decimal(f"{len(angles)} × {360.0 / len(angles):.4g}°")
        painter.drawText(below.translated(0, 18.0), Qt.AlignmentFlag.AlignCenter, more)


def _polygon(points: list[QPointF]) -> QPainterPath:
    path = QPainterPath()
    if points:
        path.addPolygon(QPolygonF(points))
        path.closeSubpath()
    return path


def _arrow(painter: QPainter, tail: QPointF, head: QPointF, *, first: bool) -> None:
    way = head - tail
    way /= math.hypot(way.x(), way.y())
    side = QPointF(-way.y(), way.x())
    tint = QColor(ROLES.focus) if first else colour(ROLES.focus, 130)
    painter.setPen(QPen(tint, 2.4 if first else 1.6))
    painter.drawLine(tail, head - way * 5.0)
    painter.setBrush(tint)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawPolygon(QPolygonF([head, head - way * 9.0 + side * 4.5, head - way * 9.0 - side * 4.5]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
