"""The sheet: the selected step on the stock as it is before it, with live dimensions.

Milled parts are shown as plan and section; turned ones as a half section, drawn by `half_section`.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF, QTransform, QWheelEvent
from PyQt6.QtWidgets import QWidget

from bastler.app import outline_commands
from bastler.app.dimensions import DimLabel, Drafter, Map
from bastler.app.drafting import between, centre_mark, hatch, painting, region_path, zero_mark
from bastler.app.fields import NumberField
from bastler.app.half_section import HalfSection
from bastler.app.outline_drawing import OutlineDrawing, selected_segment
from bastler.app.route import draw_level
from bastler.app.session import STOCK, Session
from bastler.app.theme import DAY, colour, sans
from bastler.ask import Question, questions_of
from bastler.job import edits
from bastler.job.cutaway import Cutaway, cutaway
from bastler.job.planned import PlannedStep
from bastler.job.sketch import setup_sketch
from bastler.shapes import Box, Removal, Revolved
from bastler.steps import Dim, Sketch
from bastler.units import Kind, number_text

LEFT, RIGHT, TOP, BOTTOM, GAP = 78.0, 84.0, 64.0, 34.0, 118.0
MOST_ZOOM = 60.0
JAW_BELOW = 10.0
"""Pixels that a jaw is seen below the part."""
SPOT_REACH = 14.0
"""How near to a position a click has to be, in pixels."""


@dataclass(frozen=True)
class Shown:
    """What is seen of a milled step, as paths in the part's coordinates: what is gone before it, and what it takes away."""

    cutaway: Cutaway
    floors: Sequence[tuple[Removal, QPainterPath]]
    gone: Sequence[QPainterPath]
    hidden: Sequence[QPainterPath]
    """What is gone from below and not seen from above."""

    @staticmethod
    def of(cutaway: Cutaway, gone: Sequence[Removal]) -> Shown:
        return Shown(
            cutaway, [(r, _path(r)) for r in cutaway.floors], [_path(r) for r in gone], [_path(r) for r in cutaway.hidden]
        )


class Sheet(QWidget):
    """Click a dimension, type, done. The wheel zooms, dragging moves, a double click shows all again."""

    wants_question = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMouseTracking(True)
        self.setMinimumSize(360, 300)
        self.setAccessibleName("Sheet")
        self.labels: list[DimLabel] = []
        self.spots: dict[int, QPointF] = {}
        self.editor: NumberField | None = None
        self.zoom = 1.0
        self.pan = QPointF(0, 0)
        self._grabbed: QPointF | None = None
        self._kept: tuple[object, Shown] | None = None
        self.turned = HalfSection(self)
        self.outline: OutlineDrawing | None = None
        for signal in (session.job_changed, session.focus_changed, session.proof_changed):
            signal.connect(self.update)
        session.cursor_changed.connect(self._at_cursor)
        session.selection_changed.connect(self._other_card)

    def _at_cursor(self) -> None:
        """Only the half section has a tool that stands at the cursor."""
        if self.session.job.turns:
            self.update()

    def _other_card(self) -> None:
        self.close_editor()
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self.update()

    # -- what is drawn --------------------------------------------------------------------------------------------

    def planned(self) -> PlannedStep | None:
        return self.session.plan.step(self.session.selected)

    def sketch(self) -> Sketch:
        """Of the selected card. A step that cannot be sketched yet shows the stock alone."""
        planned = self.planned()
        bare = setup_sketch(self.session.held, across=self.session.selected.startswith("holding:"))
        if not self.session.on_step:
            return edits.replace(bare, dims=self.own_dims(bare.dims))
        found = planned.sketch if planned else None
        return found if isinstance(found, Sketch) else Sketch(section=bare.section)

    def own_dims(self, dims: Sequence[Dim]) -> tuple[Dim, ...]:
        """Of the dimensions of stock and holding those that are answers of the selected card."""
        return tuple(d for d in dims if self.session.address_of(d.field).startswith(f"{self.session.selected}."))

    def _layout(self) -> None:
        """Works out the scale and the maps to pixels."""
        if self.session.job.turns:
            self.turned.layout()
            return
        stock = self.session.held.flat.stock
        sx, sy, sz = stock.size
        room_x = max(self.width() - LEFT - RIGHT, 50.0)
        room_y = max(self.height() - TOP - BOTTOM - GAP, 50.0)
        fit = min(room_x / sx, room_y / (sy + sz))
        s = fit * self.zoom
        used = sy * s + sz * s + GAP
        x0 = (self.width() - RIGHT + LEFT) / 2 - sx * s / 2 + self.pan.x()
        y0 = TOP + (self.height() - TOP - BOTTOM - used) / 2 + sy * s + self.pan.y()
        z0 = y0 + GAP
        lo, hi = stock.lo, stock.hi
        self.scale = s
        self.to_plan: Map = lambda x, y: QPointF(x0 + (x - lo[0]) * s, y0 - (y - lo[1]) * s)
        begin = x0 + ((sx - sy) / 2 * s if self.session.selected.startswith("holding:") else 0.0)
        self.to_section: Map = lambda d, z: QPointF(begin + d * s, z0 + (hi[2] - z) * s)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(DAY.paper))
            if not self.session.has_job:
                return
            self._layout()
            if self.session.job.turns:
                self.turned.paint(painter)
            else:
                self._paint_milled(painter)
        if self.editor is not None:
            self._place_editor()

    def _paint_milled(self, painter: QPainter) -> None:
        planned, sketch = self.planned(), self.sketch()
        shown = self._shown(planned, sketch)
        self._plan(painter, shown, planned, sketch)
        self.paint_outline(painter)
        self._section(painter, shown.cutaway, sketch)
        self._dims(painter, sketch)
        self._places(painter)
        self._captions(painter)

    def _shown(self, planned: PlannedStep | None, sketch: Sketch) -> Shown:
        """What is seen of the selected card; as long as it is the same it is kept, whatever is painted."""
        if planned is None:
            ctx, key = self.session.held.flat, (id(self.session.held.ctx), sketch.section)
            if self._kept is None or self._kept[0] != key:
                self._kept = (key, Shown.of(cutaway(ctx.stock, ctx.before, (), *sketch.section, ctx.under), ()))
        elif self._kept is None or self._kept[0] is not planned:
            assert planned.cutaway is not None
            self._kept = (planned, Shown.of(planned.cutaway, () if planned.troubles else planned.removals))
        return self._kept[1]

    def _plan(self, painter: QPainter, shown: Shown, planned: PlannedStep | None, sketch: Sketch) -> None:
        ctx = self.session.held.flat
        for jaw in ctx.jaws:
            box = QRectF(self.to_plan(jaw.lo[0], jaw.hi[1]), self.to_plan(jaw.hi[0], jaw.lo[1]))
            _jaw(painter, box)
        self.frame = QRectF(self.to_plan(ctx.stock.lo[0], ctx.stock.hi[1]), self.to_plan(ctx.stock.hi[0], ctx.stock.lo[1]))
        outside = QPainterPath()
        (outside.addEllipse if ctx.stock.round else outside.addRect)(self.frame)
        painter.fillPath(outside, QColor(DAY.blue))
        painter.save()
        painter.setClipPath(outside)
        origin, one = self.to_plan(0.0, 0.0), self.to_plan(1.0, 1.0)
        to_plan = QTransform(one.x() - origin.x(), 0, 0, one.y() - origin.y(), origin.x(), origin.y())
        for removal, path in shown.floors:
            self._gone(painter, removal, to_plan.map(path))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        dashed = QPen(QColor(DAY.ink), 1.0)
        dashed.setDashPattern([6, 4])
        painter.setPen(dashed)
        for path in shown.hidden:
            painter.drawPath(to_plan.map(path))
        painter.setPen(QPen(QColor(DAY.ink), 1.4))
        painter.drawPath(outside)
        if shown.gone:
            self._orange_plan(painter, [to_plan.map(path) for path in shown.gone])
        self.spots = {number: self.to_plan(*point) for number, point, _ in sketch.spots}
        for number, point, kept in sketch.spots:
            self._spot(painter, number, point, kept)
        if sketch.centre:
            centre_mark(painter, self.to_plan(*sketch.centre), 12)
        self._section_line(painter, sketch)
        zero_mark(painter, self.to_plan(0.0, 0.0))

    def _gone(self, painter: QPainter, removal: Removal, path: QPainterPath) -> None:
        stock = self.session.held.flat.stock
        share = (stock.hi[2] - removal.floor) / max(stock.size[2], 1e-9)
        painter.setPen(QPen(QColor(DAY.ink), 1.0))
        painter.setBrush(between(DAY.metal, "#A3ABB0", share * 1.1))
        painter.drawPath(path)
        if isinstance(removal, Revolved):
            centre_mark(painter, self.to_plan(removal.x, removal.y), removal.radius * self.scale)

    def _orange_plan(self, painter: QPainter, gone: Sequence[QPainterPath]) -> None:
        painter.setPen(QPen(QColor(DAY.focus), 1.8))
        painter.setBrush(colour(DAY.removal, 190))
        painter.save()
        painter.setClipRect(self.frame.adjusted(-1, -1, 1, 1))  # around the stock there is nothing to take away
        for path in gone:
            painter.drawPath(path)
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _spot(self, painter: QPainter, number: int, point: tuple[float, float], kept: bool) -> None:
        at = self.to_plan(*point)
        centre_mark(painter, at, 8, DAY.ink if kept else DAY.soft)
        painter.setFont(sans(11))
        painter.setPen(QColor(DAY.ink if kept else DAY.soft))
        painter.drawText(QPointF(at.x() + 9, at.y() - 8), str(number) if kept else f"{number} left out")

    def _section_line(self, painter: QPainter, sketch: Sketch) -> None:
        (ax, ay), (bx, by) = sketch.section
        a, b = self.to_plan(ax, ay), self.to_plan(bx, by)
        pen = QPen(QColor(DAY.soft), 1.0)
        pen.setDashPattern([14, 4, 3, 4])
        painter.setPen(pen)
        on, up = (QPointF(0, 14), QPointF(-5, -20)) if self._across(sketch) else (QPointF(-14, 0), QPointF(18, 5))
        painter.drawLine(a + on, b - on)
        painter.setFont(sans(13, bold=True))
        painter.setPen(QColor(DAY.ink))
        painter.drawText(b + up, "A")

    def _section(self, painter: QPainter, shown: Cutaway, sketch: Sketch) -> None:
        stock = self.session.held.flat.stock
        top, bottom = stock.hi[2], stock.lo[2]
        across = self._across(sketch)
        width = stock.size[1] if across else stock.size[0]
        if across:
            self._jaws_beside(painter, stock)
        self.cut = QRectF(self.to_section(0.0, top), self.to_section(width, bottom))
        now, after = shown.now, shown.after
        under = shown.under or ((0.0, bottom), (width, bottom))
        body = _between_profiles(now, under, self.to_section)
        painter.fillPath(body, QColor(DAY.metal))
        hatch(painter, body, "#9AA3A8")
        if shown.new:
            rest = _between_profiles(after, under, self.to_section)
            painter.fillPath(body.subtracted(rest), QColor(DAY.removal))
        self._blue(painter, now, under, top, bottom)
        painter.setPen(QPen(QColor(DAY.ink), 1.3))
        painter.drawPolyline(QPolygonF([self.to_section(d, z) for d, z in now]))
        if shown.under:
            painter.drawPolyline(QPolygonF([self.to_section(d, z) for d, z in under]))
        painter.setPen(QPen(QColor(DAY.focus), 1.8))
        for a, b in shown.new:
            painter.drawLine(self.to_section(*a), self.to_section(*b))
        zero = self.to_section(-stock.lo[1] if across else -stock.lo[0], 0.0)
        if self.cut.left() - 1 <= zero.x() <= self.cut.right() + 1:
            zero_mark(painter, zero, 6)

    @staticmethod
    def _across(sketch: Sketch) -> bool:
        """Does the section run from front to back?"""
        (ax, _), (bx, _) = sketch.section
        return ax == bx

    def _jaws_beside(self, painter: QPainter, stock: Box) -> None:
        """The jaws in front of the part and behind it, seen along them."""
        for jaw in self.session.held.flat.jaws:
            low = max(jaw.lo[2], stock.lo[2] - JAW_BELOW / self.scale)
            box = QRectF(self.to_section(jaw.lo[1] - stock.lo[1], jaw.hi[2]), self.to_section(jaw.hi[1] - stock.lo[1], low))
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
        painter.setPen(QPen(QColor(DAY.blue), 4.0, cap=Qt.PenCapStyle.FlatCap))
        left, right = profile[0][1] if profile else top, profile[-1][1] if profile else top
        for (d, low), z in ((under[0], left), (under[-1], right)):
            inset = 2 if d == 0.0 else -2
            a, b = self.to_section(d, z), self.to_section(d, min(low, z))
            painter.drawLine(QPointF(a.x() + inset, a.y()), QPointF(b.x() + inset, b.y()))
        for (d0, z0), (d1, z1) in itertools.pairwise(profile):
            if z0 >= top - 1e-9 and z1 >= top - 1e-9:
                a, b = self.to_section(d0, z0), self.to_section(d1, z1)
                painter.drawLine(QPointF(a.x(), a.y() + 2), QPointF(b.x(), b.y() + 2))
            if z0 > bottom + 1e-9 and z1 > bottom + 1e-9 and d1 > d0 and len(under) == 2:
                a, b = self.to_section(d0, bottom), self.to_section(d1, bottom)
                painter.drawLine(QPointF(a.x(), a.y() - 2), QPointF(b.x(), b.y() - 2))
        for (d0, z0), (d1, z1) in itertools.pairwise(under if len(under) > 2 else ()):
            if z0 <= bottom + 1e-9 and z1 <= bottom + 1e-9:
                a, b = self.to_section(d0, bottom), self.to_section(d1, bottom)
                painter.drawLine(QPointF(a.x(), a.y() - 2), QPointF(b.x(), b.y() - 2))

    def paint_outline(self, painter: QPainter) -> None:
        """The outline of the selected step, whole or not."""
        outline = self.session.outline_of_step()
        self.outline = None
        if outline is not None:
            self.outline = OutlineDrawing(*self.session.as_drawn(outline), self.to_plan, self.session.job.unit)
            self.outline.paint(painter, selected_segment(self.session.focus, outline.id))

    # -- dimensions -----------------------------------------------------------------------------------------------

    def _dims(self, painter: QPainter, sketch: Sketch) -> None:
        lit = self.session.focus
        bounds = QRectF(self.rect()).adjusted(6, 6, -6, -6)
        drafter = Drafter(painter, self.to_plan, self.to_section, self.frame, self.cut, bounds)
        for dim in sketch.dims:
            value = self._value(dim.field)
            if dim.how == "angle" and not value and self.session.address_of(dim.field) != lit:
                continue
            if value is None:
                continue
            drafter.lit = dim.field if self.session.address_of(dim.field) == lit else drafter.lit
            drafter.draw(dim, self._text(dim.field, value))
        drafter.finish()
        self.labels = drafter.labels

    def _value(self, field: str) -> float | None:
        if not self.session.on_step:
            held = self.session.held
            value = getattr(held.stock, field, None) if hasattr(held.stock, field) else getattr(held.holding, field)
        elif field.startswith(("pattern.", "outline.")):
            struct, name = edits.at(self.session.job, self.session.address_of(field))
            value = getattr(struct, name)
        else:
            planned = self.planned()
            value = getattr(planned.filled, field) if planned else None
        return float(value) if isinstance(value, int | float) else None

    def dim_text(self, field: str) -> str:
        """What stands on a dimension of turned work: its number, or the name of a thread; empty for an answer not given."""
        if field == "thread":
            planned = self.planned()
            return planned.summary.split(" outside")[0].split(" inside")[0] if planned else ""
        value = self._value(field)
        if value is None:
            return ""
        return self._text(field, abs(value) if field.rpartition(".")[2] in ("z", "finish_z") else value)

    def _text(self, field: str, value: float) -> str:
        question = self._question(field)
        kind = question.kind if question and question.kind else Kind.LENGTH
        text = number_text(value, kind, self.session.job.unit)
        return f"Ø{text}" if field == "diameter" and not self.session.job.turns and self.session.on_step else text

    def _question(self, field: str) -> Question | None:
        struct, name = edits.at(self.session.job, self.session.address_of(field))
        return next((q for q in questions_of(type(struct)) if q.name == name), None)

    def _places(self, painter: QPainter) -> None:
        """Where the proof found something on this step."""
        if self.session.stale:
            return
        for remark in self.session.remarks_of(self.session.selected):
            if remark.place and remark.level != "note":
                at = self.to_plan(remark.place[0], remark.place[1])
                draw_level(painter, remark.level, at.x(), at.y(), 14)

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(DAY.soft))
        words = "Blue is untouched stock. Bright is what earlier steps cut. Orange is this step."
        if self.session.selected == STOCK:
            words = "Blue is untouched stock. Grey hatching is the vise."
        elif not self.session.on_step:
            words = "The part as it comes into this holding. Grey hatching is the vise."
        box = QRectF(0, self.height() - 26, self.width(), 20)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
        painter.setFont(sans(12))
        at = self.to_plan(0.0, 0.0)
        painter.drawText(QPointF(at.x() + 14, at.y() + 16), f"zero {self.session.held.holding.work_offset}")
        painter.setFont(sans(12, bold=True))
        painter.setPen(QColor(DAY.soft))
        painter.drawText(QPointF(self.cut.left() - 60, self.cut.top() + 12), "A–A")

    # -- editing in place -------------------------------------------------------------------------------------------

    def label_at(self, x: float, y: float) -> DimLabel | None:
        """The dimension under a point."""
        return next((label for label in self.labels if label.box.adjusted(-4, -4, 4, 4).contains(x, y)), None)

    def open_editor(self, field: str) -> None:
        """A field opens on the dimension."""
        question = self._question(field)
        if question is None or question.kind is None:
            self.wants_question.emit(self.session.address_of(field))
            return
        self.close_editor()
        address = self.session.address_of(field)
        struct, name = edits.at(self.session.job, address)
        editor = NumberField(question, self.session.job.unit, self)
        editor.setProperty("field", field)
        editor.show_value(getattr(struct, name), getattr(struct, "typed", {}).get(name, ""), self._value(field))
        editor.given.connect(lambda value, typed: self.session.answer(address, value, typed))
        editor.cleared.connect(lambda: self.session.answer(address, None))
        editor.wrong.connect(lambda reason: self.session.said.emit("wrong" if reason else "", reason))
        editor.entered.connect(lambda by: self._next_label(field, by))
        editor.dropped.connect(self.close_editor)
        editor.focused.connect(lambda on, e=editor: None if on else self._left(e))
        self.editor = editor
        self._place_editor()
        editor.show()
        editor.setFocus(Qt.FocusReason.MouseFocusReason)
        self.session.set_focus(address)

    def _place_editor(self) -> None:
        if self.editor is None:
            return
        label = next((entry for entry in self.labels if entry.field == self.editor.property("field")), None)
        if label is not None:
            centre = label.box.center()
            self.editor.setGeometry(round(centre.x() - 52), round(centre.y() - 16), 104, 32)

    def _next_label(self, field: str, by: int) -> None:
        self.session.history.settle()
        fields = [label.field for label in self.labels]
        at = fields.index(field) + by if field in fields else 0
        if 0 <= at < len(fields):
            self.open_editor(fields[at])
        else:
            self.close_editor()

    def _left(self, editor: NumberField) -> None:
        if editor is self.editor:
            self.close_editor()

    def close_editor(self) -> None:
        """Takes the field away again."""
        editor, self.editor = self.editor, None
        if editor is not None:
            editor.hide()
            editor.deleteLater()
            self.session.said.emit("", "")

    # -- hands ------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        label = self.label_at(event.position().x(), event.position().y())
        if label is not None:
            self.open_editor(label.field)
            return
        self.close_editor()
        if self._clicked_outline(event.position()) or self._clicked_spot(event.position()):
            return
        self.setFocus()
        self._grabbed = event.position() - self.pan

    def _clicked_outline(self, at: QPointF) -> bool:
        """A ghost under a click is taken, a segment is selected."""
        drawing = self.outline
        if drawing is None:
            return False
        ghost = drawing.ghost_at(at)
        if ghost is not None:
            outline_commands.take_shape(self.session, ghost)
            return True
        segment = drawing.segment_at(at)
        if segment is not None:
            self.wants_question.emit(f"outline:{drawing.outline.id}.segments.{segment}")
        return segment is not None

    def spot_at(self, at: QPointF) -> int | None:
        """The number of the position under a point."""
        found = [(abs(p.x() - at.x()) + abs(p.y() - at.y()), k) for k, p in self.spots.items()]
        return min((entry for entry in found if entry[0] < SPOT_REACH), default=(0.0, None))[1]

    def _clicked_spot(self, at: QPointF) -> bool:
        """A position under a click is left out, or back in."""
        number, step = self.spot_at(at), self.session.job.step(self.session.selected)
        if number is None or step is None:
            return False
        self.session.history.settle()
        changed = edits.position_switched(self.session.job, getattr(step, "pattern", ""), number)
        self.session.edit(changed, "Leave a position out, or not")
        return True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._grabbed is not None:
            self.pan = event.position() - self._grabbed
            self.update()
            return
        over = self.label_at(event.position().x(), event.position().y())
        spot = None if over or self.session.job.turns else self.spot_at(event.position())
        shape = Qt.CursorShape.IBeamCursor if over else Qt.CursorShape.ArrowCursor
        self.setCursor(shape if spot is None else Qt.CursorShape.PointingHandCursor)
        self.setToolTip("" if spot is None else f"Position {spot}: a click leaves it out, or takes it back in")

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grabbed = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event and self.label_at(event.position().x(), event.position().y()) is None:
            self.zoom, self.pan = 1.0, QPointF(0, 0)
            self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or not self.session.has_job:
            return
        factor = 1.2 ** (event.angleDelta().y() / 120)
        new = min(max(self.zoom * factor, 0.6), MOST_ZOOM)
        old_at = self.to_plan(0.0, 0.0)
        share = (event.position() - old_at) / self.scale
        self.zoom = new
        self._layout()
        moved = event.position() - (self.to_plan(0.0, 0.0) + share * self.scale)
        self.pan += moved
        self.close_editor()
        self.update()


def _path(removal: Removal) -> QPainterPath:
    """A removal seen from above."""
    if not isinstance(removal, Revolved):
        return region_path(removal.region, QPointF)
    path = QPainterPath()
    path.addEllipse(QPointF(removal.x, removal.y), removal.radius, removal.radius)
    return path


def _jaw(painter: QPainter, box: QRectF) -> None:
    path = QPainterPath()
    path.addRect(box)
    painter.fillPath(path, colour(DAY.jaw, 60))
    hatch(painter, path, DAY.jaw)


def _between_profiles(top: Sequence[tuple[float, float]], under: Sequence[tuple[float, float]], to_pixels: Any) -> QPainterPath:
    """What lies under one profile and over another."""
    path = QPainterPath()
    if not top:
        return path
    path.addPolygon(QPolygonF([to_pixels(d, z) for d, z in top] + [to_pixels(d, z) for d, z in reversed(under)]))
    path.closeSubpath()
    return path
