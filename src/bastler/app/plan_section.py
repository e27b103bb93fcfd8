"""The sheet of milled work: the plan above, section A–A below it, the selected step on the part as it is before it.

Blue is untouched stock, hatching is material in section, orange is what the step takes.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from bastler.app.dimensions import Drafter
from bastler.app.drafting import FINE, FOOT, axis_pen, between, centre_mark, hatch, region_path, zero_mark
from bastler.app.paper import Margins, Paper
from bastler.app.route import draw_level
from bastler.app.session import STOCK
from bastler.app.theme import ROLES, colour, sans
from bastler.job import edits
from bastler.job.cutaway import Cutaway
from bastler.language import sayable, tr
from bastler.live.shown import Flat, Look
from bastler.proof.view import Place
from bastler.shapes import Box, Removal, Revolved
from bastler.steps import Sketch, ThreadLines
from bastler.units import Kind, printed

GRIP = 7.0
"""How near to the section line a finger has to be, in pixels."""
NARROW, WIDE = 0.9, 1.6
"""Lines of ISO 128, in pixels."""
JAW_BELOW = 10.0
"""Pixels that a jaw is seen below the part."""


@dataclass(frozen=True)
class Shown:
    """What is seen of a milled step, as paths in the part's coordinates: what is gone before it, and what it takes away."""

    cutaway: Cutaway
    floors: Sequence[tuple[Removal, QPainterPath]]
    gone: Sequence[QPainterPath]
    hidden: Sequence[QPainterPath]
    """What is gone from below and not seen from above."""

    @staticmethod
    def of(cutaway: Cutaway, gone: Sequence[Removal], fine: float) -> Shown:
        """Paths that leave what is meant by no more than `fine`."""
        floors, hidden = [(r, _path(r, fine)) for r in cutaway.floors], [_path(r, fine) for r in cutaway.hidden]
        return Shown(cutaway, floors, [_path(r, fine) for r in gone], hidden)


class PlanSection:
    """Lays out and paints a milled part on the sheet."""

    of_stock = sayable("plan and section A–A of {what}")
    diameter_sign = "Ø"
    follows_cursor = False
    names_zero = True
    lying = False
    """Does the section lie, its heights to the right?"""
    margins = Margins(78.0, 84.0, 64.0, 34.0, 118.0)

    @property
    def of_step(self) -> str:
        """The caption of a step's drawing."""
        return tr("plan and section A–A")

    def __init__(self, sheet: Paper) -> None:
        self.sheet = sheet
        self.session = sheet.session
        self._kept: tuple[Look, float, Shown] | None = None
        self._cut_line = (QPointF(), QPointF())

    @property
    def around(self) -> Flat:
        """What stands around the plane."""
        return self.session.held.flat

    @property
    def skin(self) -> str:
        """The colour of what no step has cut yet, seen from above."""
        return ROLES.blue

    def sketch(self) -> Sketch:
        """Of the selected card. A step that cannot be sketched yet shows the stock alone."""
        found = self.sheet.look.sketch
        if not isinstance(found, Sketch):
            return Sketch(section=self.around.stock.middle)
        return found if self.session.on_step else edits.replace(found, dims=self.sheet.own_dims(found.dims))

    def layout(self) -> None:
        """The scale, and the maps to pixels."""
        stock = self.around.stock
        sx, sy, sz = stock.size
        left, right, top, bottom, gap = self.margins
        room_x = max(self.sheet.width() - left - right, 50.0)
        room_y = max(self.sheet.height() - top - bottom - gap, 50.0)
        fit = min(room_x / sx, room_y / (sy + sz))
        s = fit * self.sheet.zoom
        used = sy * s + sz * s + gap
        x0 = (self.sheet.width() - right + left) / 2 - sx * s / 2 + self.sheet.pan.x()
        y0 = top + (self.sheet.height() - top - bottom - used) / 2 + sy * s + self.sheet.pan.y()
        z0 = y0 + gap
        lo, hi = stock.lo, stock.hi
        self.sheet.scale = s
        self.sheet.to_plan = lambda x, y: QPointF(x0 + (x - lo[0]) * s, y0 - (y - lo[1]) * s)
        begin = x0 + ((sx - sy) / 2 * s if self.session.selected.startswith("holding:") else 0.0)
        self.sheet.to_section = lambda d, z: QPointF(begin + d * s, z0 + (hi[2] - z) * s)

    def paint(self, painter: QPainter) -> None:
        sketch, shown = self.sketch(), self._shown(self.sheet.look)
        self._plan(painter, shown, sketch, self.sheet.look)
        self.sheet.paint_outline(painter)
        self._section(painter, shown.cutaway, sketch)
        self._dims(painter, sketch)
        self._places(painter)
        self._captions(painter)

    # -- hands --------------------------------------------------------------------------------------------------

    def grip(self, at: QPointF) -> bool:
        """The section line, over all its length."""
        a, b = self._cut_line
        if a.x() == b.x():
            return abs(at.x() - a.x()) < GRIP and min(a.y(), b.y()) <= at.y() <= max(a.y(), b.y())
        return abs(at.y() - a.y()) < GRIP and min(a.x(), b.x()) <= at.x() <= max(a.x(), b.x())

    def drag(self, to: QPointF) -> None:
        """The section line goes to the whole tenth of a millimetre, or as much in inches, that is nearest."""
        across = self._across(self.sketch())
        zero = self.sheet.to_plan(0.0, 0.0)
        self.move_to((to.x() - zero.x()) / self.sheet.scale if across else (zero.y() - to.y()) / self.sheet.scale)

    def move_to(self, at: float) -> None:
        """Cuts the part open at a place that lies in it."""
        stock, k = self.around.stock, 0 if self._across(self.sketch()) else 1
        step = 0.1 if self.session.job.unit == "mm" else 0.005
        self.session.cut_at(round(round(min(max(at, stock.lo[k]), stock.hi[k]) / step) * step, 6))

    def move_by(self, steps: int) -> None:
        """Cuts the part open so many millimetres, or sixteenths of an inch, further back."""
        sketch, now = self.sketch(), self.session.section
        here = now if now is not None else sketch.section[0][0 if self._across(sketch) else 1]
        self.move_to(here + steps * (1.0 if self.session.job.unit == "mm" else 0.0625))

    def feature(self) -> QRectF | None:
        """Where the selected step cuts; of a pattern that lies all over the part, its first place."""
        look, stock = self.sheet.look, self.around.stock
        boxes = [tuple(map(float, removal.region.bounds)) for removal in look.gone]
        for line in look.makes:
            (x, y), r = line.at, line.root
            boxes.append((x - r, y - r, x + r, y + r))
        if not boxes:
            return None
        corners = np.array(boxes)
        (x0, y0), (x1, y1) = corners[:, :2].min(axis=0).tolist(), corners[:, 2:].max(axis=0).tolist()
        if len(boxes) > 1 and max((x1 - x0) / stock.size[0], (y1 - y0) / stock.size[1]) > 0.5:
            x0, y0, x1, y1 = boxes[0]
        return QRectF(self.sheet.to_plan(x0, y1), self.sheet.to_plan(x1, y0))

    def _shown(self, look: Look) -> Shown:
        """What is seen of the selected card; as long as it is the same, at the same scale, it is kept, whatever is painted."""
        fine = FINE / self.sheet.scale
        if self._kept is None or self._kept[0] is not look or self._kept[1] != fine:
            assert look.cutaway is not None
            self._kept = (look, fine, Shown.of(look.cutaway, look.gone, fine))
        return self._kept[2]

    def _plan(self, painter: QPainter, shown: Shown, sketch: Sketch, look: Look) -> None:
        ctx = self.around
        for jaw in ctx.jaws:
            box = QRectF(self.sheet.to_plan(jaw.lo[0], jaw.hi[1]), self.sheet.to_plan(jaw.hi[0], jaw.lo[1]))
            _jaw(painter, box)
        self.frame = QRectF(
            self.sheet.to_plan(ctx.stock.lo[0], ctx.stock.hi[1]), self.sheet.to_plan(ctx.stock.hi[0], ctx.stock.lo[1])
        )
        outside = self._outside()
        self._skin(painter, outside)
        painter.save()
        painter.setClipPath(outside)
        origin, one = self.sheet.to_plan(0.0, 0.0), self.sheet.to_plan(1.0, 1.0)
        to_plan = QTransform(one.x() - origin.x(), 0, 0, one.y() - origin.y(), origin.x(), origin.y())
        for removal, path in shown.floors:
            self._gone(painter, removal, to_plan.map(path))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        dashed = QPen(QColor(ROLES.ink), 1.0)
        dashed.setDashPattern([6, 4])
        painter.setPen(dashed)
        for path in shown.hidden:
            painter.drawPath(to_plan.map(path))
        painter.setPen(QPen(QColor(ROLES.ink), 1.4))
        painter.drawPath(outside)
        if shown.gone:
            self._orange_plan(painter, [to_plan.map(path) for path in shown.gone])
        self.sheet.spots = {number: self.sheet.to_plan(*point) for number, point, _ in sketch.spots}
        for number, point, kept in sketch.spots:
            self._spot(painter, number, point, kept)
        if sketch.centre:
            centre_mark(painter, self.sheet.to_plan(*sketch.centre), 12)
        for line in look.threads:
            self._thread_plan(painter, line, ROLES.ink)
        for line in look.makes:
            self._thread_plan(painter, line, ROLES.focus)
        self._section_line(painter, sketch)
        zero_mark(painter, self.sheet.to_plan(0.0, 0.0))

    def _outside(self) -> QPainterPath:
        """The part's outline, seen from above."""
        outside = QPainterPath()
        (outside.addEllipse if self.around.stock.round else outside.addRect)(self.frame)
        return outside

    def _skin(self, painter: QPainter, outside: QPainterPath) -> None:
        """What no step has cut yet."""
        painter.fillPath(outside, QColor(self.skin))

    def on_plan(self, place: Place) -> tuple[float, float]:
        """Where in the plan a place of the part is."""
        return place[0], place[1]

    @property
    def axes(self) -> tuple[str, str]:
        """What the plan's coordinates are called."""
        return ("X", "Y")

    def _gone(self, painter: QPainter, removal: Removal, path: QPainterPath) -> None:
        stock = self.around.stock
        share = (stock.hi[2] - removal.floor) / max(stock.size[2], 1e-9)
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(between(ROLES.metal, ROLES.shade, share * 1.1))
        painter.drawPath(path)
        if isinstance(removal, Revolved):
            centre_mark(painter, self.sheet.to_plan(removal.x, removal.y), removal.radius * self.sheet.scale)

    def _orange_plan(self, painter: QPainter, gone: Sequence[QPainterPath]) -> None:
        painter.setPen(QPen(QColor(ROLES.focus), 1.8))
        painter.setBrush(colour(ROLES.removal, 190))
        painter.save()
        rim = self.frame.adjusted(-1, -1, 1, 1)  # around the stock there is nothing to take away
        painter.setClipRect(rim, Qt.ClipOperation.IntersectClip)
        for path in gone:
            painter.drawPath(path)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _spot(self, painter: QPainter, number: int, point: tuple[float, float], kept: bool) -> None:
        at = self.sheet.to_plan(*point)
        centre_mark(painter, at, 8, ROLES.ink if kept else ROLES.soft)
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.ink if kept else ROLES.soft))
        painter.drawText(QPointF(at.x() + 9, at.y() - 8), str(number) if kept else tr("{number} left out", number=number))

    def _thread_plan(self, painter: QPainter, line: ThreadLines, tint: str) -> None:
        """Three quarters of the roots' circle, narrow (ISO 6410-1)."""
        at, r = self.sheet.to_plan(*line.at), line.root * self.sheet.scale
        painter.setPen(QPen(QColor(tint), NARROW))
        painter.drawArc(QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r), 95 * 16, 270 * 16)

    def _on_section(self, painter: QPainter, shown: Cutaway, sketch: Sketch) -> None:
        """Threads in a section, and the faces that the step makes there."""
        look, to = self.sheet.look, self.sheet.to_section
        for lines, tint in ((look.threads, ROLES.ink), (look.makes, ROLES.focus)):
            for line in lines:
                self._thread_section(painter, line, sketch, tint)
        painter.setPen(QPen(QColor(ROLES.focus), 1.8))
        for a, b in shown.new:
            painter.drawLine(to(*a), to(*b))

    def _thread_section(self, painter: QPainter, line: ThreadLines, sketch: Sketch, tint: str) -> None:
        """The roots as narrow lines, and a wide one where the full thread ends."""
        (ax, ay), (bx, _) = sketch.section
        lo = self.around.stock.lo
        across = ax == bx
        off, d = (line.at[0] - ax, line.at[1] - lo[1]) if across else (line.at[1] - ay, line.at[0] - lo[0])
        if abs(off) >= min(line.root, line.crest):
            return
        crest, root = (math.sqrt(r * r - off * off) for r in (line.crest, line.root))
        to = self.sheet.to_section
        painter.setPen(QPen(QColor(tint), NARROW))
        for side in (-1.0, 1.0):
            painter.drawLine(to(d + side * root, line.begin), to(d + side * root, line.end))
        painter.setPen(QPen(QColor(tint), WIDE))
        if line.end > self.around.stock.lo[2] + 1e-9:
            for side in (-1.0, 1.0):
                painter.drawLine(to(d + side * crest, line.end), to(d + side * root, line.end))

    def _section_line(self, painter: QPainter, sketch: Sketch) -> None:
        (ax, ay), (bx, by) = sketch.section
        a, b = self.sheet.to_plan(ax, ay), self.sheet.to_plan(bx, by)
        painter.setPen(axis_pen())
        on, up = (QPointF(0, 14), QPointF(-5, -20)) if self._across(sketch) else (QPointF(-14, 0), QPointF(18, 5))
        painter.drawLine(a + on, b - on)
        self._cut_line = (a + on, b - on)
        painter.setFont(sans(13, bold=True))
        painter.setPen(QColor(ROLES.ink))
        painter.drawText(b + up, "A")

    def _section(self, painter: QPainter, shown: Cutaway, sketch: Sketch) -> None:
        stock = self.around.stock
        top, bottom = stock.hi[2], stock.lo[2]
        across = self._across(sketch)
        width = stock.size[1] if across else stock.size[0]
        if across:
            self._jaws_beside(painter, stock)
        self.cut = QRectF(self.sheet.to_section(0.0, top), self.sheet.to_section(width, bottom))
        now, after = shown.now, shown.after
        under = shown.under or ((0.0, bottom), (width, bottom))
        body = _between_profiles(now, under, self.sheet.to_section)
        painter.fillPath(body, QColor(ROLES.metal))
        hatch(painter, body, ROLES.hatch)
        if shown.new:
            rest = _between_profiles(after, under, self.sheet.to_section)
            painter.fillPath(body.subtracted(rest), QColor(ROLES.removal))
        self._blue(painter, now, under, top, bottom)
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.drawPolyline(QPolygonF([self.sheet.to_section(d, z) for d, z in now]))
        if shown.under:
            painter.drawPolyline(QPolygonF([self.sheet.to_section(d, z) for d, z in under]))
        self._on_section(painter, shown, sketch)
        zero = self.sheet.to_section(-stock.lo[1] if across else -stock.lo[0], 0.0)
        if self.cut.left() - 1 <= zero.x() <= self.cut.right() + 1:
            zero_mark(painter, zero, 6)

    @staticmethod
    def _across(sketch: Sketch) -> bool:
        """Does the section run from front to back?"""
        (ax, _), (bx, _) = sketch.section
        return ax == bx

    def _jaws_beside(self, painter: QPainter, stock: Box) -> None:
        """The jaws in front of the part and behind it, seen along them."""
        for jaw in self.around.jaws:
            low = max(jaw.lo[2], stock.lo[2] - JAW_BELOW / self.sheet.scale)
            box = QRectF(
                self.sheet.to_section(jaw.lo[1] - stock.lo[1], jaw.hi[2]), self.sheet.to_section(jaw.hi[1] - stock.lo[1], low)
            )
            _jaw(painter, box)

    def _blue(
        self,
        painter: QPainter,
        profile: Sequence[tuple[float, float]],
        under: Sequence[tuple[float, float]],
        top: float,
        bottom: float,
    ) -> None:
        """Untouched faces: the sides, and top and bottom where nothing has been cut."""
        painter.setPen(QPen(QColor(ROLES.blue), 4.0, cap=Qt.PenCapStyle.FlatCap))
        left, right = profile[0][1] if profile else top, profile[-1][1] if profile else top
        for (d, low), z in ((under[0], left), (under[-1], right)):
            inset = 2 if d == 0.0 else -2
            a, b = self.sheet.to_section(d, z), self.sheet.to_section(d, min(low, z))
            painter.drawLine(QPointF(a.x() + inset, a.y()), QPointF(b.x() + inset, b.y()))
        for (d0, z0), (d1, z1) in itertools.pairwise(profile):
            if z0 >= top - 1e-9 and z1 >= top - 1e-9:
                a, b = self.sheet.to_section(d0, z0), self.sheet.to_section(d1, z1)
                painter.drawLine(QPointF(a.x(), a.y() + 2), QPointF(b.x(), b.y() + 2))
            if z0 > bottom + 1e-9 and z1 > bottom + 1e-9 and d1 > d0 and len(under) == 2:
                a, b = self.sheet.to_section(d0, bottom), self.sheet.to_section(d1, bottom)
                painter.drawLine(QPointF(a.x(), a.y() - 2), QPointF(b.x(), b.y() - 2))
        for (d0, z0), (d1, z1) in itertools.pairwise(under if len(under) > 2 else ()):
            if z0 <= bottom + 1e-9 and z1 <= bottom + 1e-9:
                a, b = self.sheet.to_section(d0, bottom), self.sheet.to_section(d1, bottom)
                painter.drawLine(QPointF(a.x(), a.y() - 2), QPointF(b.x(), b.y() - 2))

    def _dims(self, painter: QPainter, sketch: Sketch) -> None:
        lit = self.session.focus
        bounds = QRectF(self.sheet.rect()).adjusted(6, 6, -6, -6)
        drafter = Drafter(painter, self.sheet.to_plan, self.sheet.to_section, self.frame, self.cut, bounds, lying=self.lying)
        for dim in sketch.dims:
            value = self.sheet.value_of(dim.field)
            if dim.how == "angle" and not value and self.session.address_of(dim.field) != lit:
                continue
            if value is None:
                continue
            drafter.lit = dim.field if self.session.address_of(dim.field) == lit else drafter.lit
            drafter.draw(dim, self.sheet.text_of(dim.field, value))
        drafter.finish()
        self.sheet.labels = drafter.labels

    def _places(self, painter: QPainter) -> None:
        """Where the proof found something on this step."""
        if self.session.stale:
            return
        for remark in self.session.remarks_of(self.session.selected):
            if remark.place and remark.level != "note":
                at = self.sheet.to_plan(*self.on_plan(remark.place))
                draw_level(painter, remark.level, at.x(), at.y(), 14)

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(ROLES.soft))
        words = tr("Blue is untouched stock. Bright is what earlier steps cut. Orange is this step.")
        if self.session.selected == STOCK:
            words = tr("Blue is untouched stock. Grey hatching is the vise.")
        elif not self.session.on_step:
            words = tr("The part as it comes into this holding. Grey hatching is the vise.")
        box = QRectF(8, self.sheet.height() - 46, self.sheet.width() - 16, 40)
        painter.drawText(box, FOOT, words)
        if self.names_zero:
            painter.setFont(sans(12))
            at = self.sheet.to_plan(0.0, 0.0)
            painter.drawText(
                QPointF(at.x() + 14, at.y() + 16), tr("zero {work_offset}", work_offset=self.session.held.holding.work_offset)
            )
        painter.setFont(sans(12, bold=True))
        painter.setPen(QColor(ROLES.soft))
        at = self._caption_of_cut()
        painter.drawText(at, "A–A")
        if self.session.section is not None:
            axis = self.axes[0 if self._across(self.sketch()) else 1]
            where = printed(self.session.section, Kind.LENGTH, self.session.job.unit)
            painter.setFont(sans(12))
            painter.drawText(at + QPointF(0, 17), f"{axis} {where}")

    def _caption_of_cut(self) -> QPointF:
        """Where the section is named."""
        return QPointF(self.cut.left() - 60, self.cut.top() + 12)


def _jaw(painter: QPainter, box: QRectF) -> None:
    path = QPainterPath()
    path.addRect(box)
    painter.fillPath(path, colour(ROLES.jaw, 60))
    hatch(painter, path, ROLES.jaw)


def _path(removal: Removal, fine: float) -> QPainterPath:
    """A removal seen from above."""
    if not isinstance(removal, Revolved):
        return region_path(removal.region, QPointF, fine)
    path = QPainterPath()
    path.addEllipse(QPointF(removal.x, removal.y), removal.radius, removal.radius)
    return path


def _between_profiles(top: Sequence[tuple[float, float]], under: Sequence[tuple[float, float]], to_pixels: Any) -> QPainterPath:
    """What lies under one profile and over another."""
    path = QPainterPath()
    if not top:
        return path
    path.addPolygon(QPolygonF([to_pixels(d, z) for d, z in top] + [to_pixels(d, z) for d, z in reversed(under)]))
    path.closeSubpath()
    return path
