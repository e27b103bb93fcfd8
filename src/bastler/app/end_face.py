"""The sheet of the end face of a turned part: the face from the front, and under it the part as it lies in the chuck, cut open
where the step is.

Colours are those of the sheet of milled work.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from bastler.app.drafting import axis_pen, hatch, region_path, zero_mark
from bastler.app.plan_section import PlanSection, Shown
from bastler.app.theme import ROLES, sans
from bastler.job import edits
from bastler.job.cutaway import Cutaway
from bastler.language import tr
from bastler.live.shown import Flat, Look
from bastler.shapes import Box
from bastler.steps import Sketch

SIDES, TOP, BOTTOM, GAP = 96.0, 44.0, 64.0, 54.0
LYING = 0.18
"""The share of the sheet's height that the part as it lies may take."""
LEAST = 84.0
BESIDE = 12.0
"""Pixels of the chuck that are seen beyond the part."""
NOTHING = Flat(Box((-1.0, -1.0, -1.0), (1.0, 1.0, 0.0), round=True), (), 0.0)
"""Around a card of which nothing has come yet."""


class EndFace(PlanSection):
    """Lays out and paints an end face on the sheet."""

    lying = True
    names_zero = False

    @property
    def of_step(self) -> str:
        return tr("end face, and section A–A")

    @property
    def around(self) -> Flat:
        return self.sheet.look.face or NOTHING

    @property
    def skin(self) -> str:
        """Blue where the front is still as it came."""
        raw = self.session.held.turned.raw.bounds[2]
        return ROLES.blue if self.around.stock.hi[2] > raw - self.session.held.mm(1e-6) else ROLES.metal

    def layout(self) -> None:
        sheet, held, stock = self.sheet, self.session.held, self.around.stock
        size, turned = stock.size[0], held.turned
        low = max(sheet.height() * LYING, LEAST)
        room_x = max(sheet.width() - 2 * SIDES, 50.0)
        room_y = max(sheet.height() - TOP - BOTTOM - GAP - low, 50.0)
        s = min(room_x, room_y) / size * sheet.zoom
        x0, y0 = sheet.width() / 2 + sheet.pan.x(), TOP + room_y / 2 + sheet.pan.y()
        sheet.scale = s
        sheet.to_plan = lambda x, y: QPointF(x0 + x * s, y0 - y * s)
        z0, _, z1, outer = turned.raw.bounds
        left, right = max(z0, turned.jaws_at - held.mm(14.0)), max(z1, stock.hi[2])
        k = min(room_x / max(right - left, 1e-9), low / (2 * max(outer, 1e-9)))
        begin, axis = sheet.width() / 2 - (right - left) / 2 * k, sheet.height() - BOTTOM - low / 2
        r = stock.hi[0]
        sheet.to_section = lambda d, z: QPointF(begin + (z - left) * k, axis - (d - r) * k)
        strip = sheet.height() - BOTTOM - low
        self.above = QRectF(0.0, 0.0, sheet.width(), strip - GAP / 2)
        self.strip = QRectF(0.0, strip - BESIDE, sheet.width(), low + 2 * BESIDE)

    def _plan(self, painter: QPainter, shown: Shown, sketch: Sketch, look: Look) -> None:
        painter.save()
        painter.setClipRect(self.above)
        super()._plan(painter, shown, sketch, look)
        r = self.around.stock.hi[0]
        painter.setPen(axis_pen())
        for x, y in ((1.0, 0.0), (0.0, 1.0)):
            a, b = self.sheet.to_plan(-x * r, -y * r), self.sheet.to_plan(x * r, y * r)
            painter.drawLine(a + QPointF(-14 * x, 14 * y), b + QPointF(14 * x, -14 * y))
        painter.setFont(sans(13, bold=True))
        painter.setPen(QColor(ROLES.focus))
        painter.drawText(self.sheet.to_plan(r, 0.0) + QPointF(38, 5), "C 0°")
        painter.restore()

    def _section(self, painter: QPainter, shown: Cutaway, sketch: Sketch) -> None:
        """The part as it lies, both its halves: what stands of it under the section's line is in front of the cut."""
        stock, to, look, held = self.around.stock, self.sheet.to_section, self.sheet.look, self.session.held
        r, raw = stock.hi[0], held.turned.raw
        self.cut = QRectF(to(2 * r, stock.lo[2]), to(0.0, stock.hi[2])).normalized()
        painter.save()
        painter.setClipRect(self.strip)
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(QColor(ROLES.jaw))
        for _, region in held.turned.keep_out:
            painter.drawPath(self._halves(region))
        painter.restore()
        (ax, ay), (bx, _) = sketch.section
        off = ax if ax == bx else ay
        far = raw.bounds[0] if abs(off) < held.mm(1e-6) else stock.lo[2]
        body, rest = self._under(shown.now, far), self._under(shown.after, far)
        if look.half_cut is not None and abs(off) < held.mm(1e-6):
            turned = self._halves(look.half_cut.stock)
            body, rest = turned.intersected(body), turned.intersected(rest)
        painter.fillPath(body, QColor(ROLES.metal))
        hatch(painter, body, ROLES.hatch)
        if shown.new:
            painter.fillPath(body.subtracted(rest), QColor(ROLES.removal))
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.drawPath(body)
        self._on_section(painter, shown, sketch)
        painter.setPen(axis_pen())
        back, front = to(r, raw.bounds[0]), to(r, stock.hi[2])
        painter.drawLine(QPointF(max(back.x() - 20, 4.0), back.y()), QPointF(front.x() + 40, front.y()))
        zero_mark(painter, to(r, 0.0), 6)

    def _dims(self, painter: QPainter, sketch: Sketch) -> None:
        """On the axis is where most things are: that is said only while it is asked."""
        lit = self.session.focus
        said = [d for d in sketch.dims if d.a != d.b or self.session.address_of(d.field) == lit]
        super()._dims(painter, edits.replace(sketch, dims=tuple(said)))

    def _caption_of_cut(self) -> QPointF:
        return QPointF(18.0, self.strip.top() + BESIDE)

    def _halves(self, region: Any) -> QPainterPath:
        """A region of the half section on both sides of the axis."""
        to, r = self.sheet.to_section, self.around.stock.hi[0]
        upper = region_path(region, lambda z, q: to(r + q, z))
        hair = QPointF(0.0, -0.3)  # so that no line stands where they meet
        return upper.united(region_path(region, lambda z, q: to(r - q, z) + hair))

    def _under(self, profile: Sequence[tuple[float, float]], far: float) -> QPainterPath:
        """What lies behind a profile, as far as `far`."""
        path, to = QPainterPath(), self.sheet.to_section
        if profile:
            ends = [(profile[-1][0], far), (profile[0][0], far)]
            path.addPolygon(QPolygonF([to(d, z) for d, z in [*profile, *ends]]))
            path.closeSubpath()
        return path
