"""The sheet: the selected step on the stock as it is before it, with live dimensions.

Milled parts are shown as plan and section; turned ones as a half section, drawn by `half_section`.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent

from bastler.app import outline_commands
from bastler.app.dimensions import DimLabel, Map
from bastler.app.drafting import painting
from bastler.app.end_face import EndFace
from bastler.app.fields import NumberField
from bastler.app.half_section import HalfSection
from bastler.app.hand_over_sheet import HandOverSheet, PlayButton
from bastler.app.outline_drawing import OutlineDrawing, selected_segment
from bastler.app.paper import PlaneDrawing
from bastler.app.plan_section import PlanSection
from bastler.app.session import Session
from bastler.app.side_sheet import SideSheet
from bastler.app.theme import ROLES
from bastler.app.zooming import NOTCH, Zoomable
from bastler.ask import Question, questions_of, size_typed
from bastler.cutting import thread_or_none
from bastler.job import answering, edits
from bastler.job.family import known
from bastler.language import tr
from bastler.live.shown import Look
from bastler.steps import Dim, HandOver
from bastler.steps.base import PlaneKind
from bastler.units import Kind, number_text

MOST_ZOOM = 60.0
SPOT_REACH = 14.0
"""How near to a position a click has to be, in pixels."""


def thread_named(text: str) -> str:
    """A thread as it is called, however it was typed; the text itself where it is none."""
    thread = thread_or_none(text)
    return thread.name if thread else text


class Sheet(Zoomable):
    """Click a dimension, type, done. Wheel, keys and two fingers zoom, dragging moves, a double click shows all again; the
    section line is dragged to any place."""

    LEAST, MOST = 0.6, MOST_ZOOM

    wants_question = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMouseTracking(True)
        self.watch_fingers()
        self.setMinimumSize(360, 300)
        # what is not painted stays: until there is something to see of another card, the one before is seen
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName(tr("Sheet"))
        self.labels: list[DimLabel] = []
        self.spots: dict[int, QPointF] = {}
        self.editor: NumberField | None = None
        self.zoom = 1.0
        self.pan = QPointF(0, 0)
        self._grabbed: QPointF | None = None
        self._gripped = False
        self.to_plan: Map = QPointF
        self.to_section: Map = QPointF
        self.scale = 1.0
        self.drawings: dict[PlaneKind, PlaneDrawing] = {"flat": PlanSection(self), "turned": HalfSection(self)}
        self.on_end, self.on_side, self.on_hand_over = EndFace(self), SideSheet(self), HandOverSheet(self, session.core)
        self.outline: OutlineDrawing | None = None
        self.play = PlayButton(self, session)
        for signal in (session.plan_changed, session.look_changed, session.focus_changed, session.proof_changed):
            signal.connect(self.update)
        session.job_changed.connect(self._another_job)
        session.cursor_changed.connect(self._at_cursor)
        session.selection_changed.connect(self._other_card)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.play.place()

    @property
    def drawing(self) -> PlaneDrawing:
        """How the plane of the selected card is drawn."""
        face, place = self.look.face, self.session.place
        if isinstance(self.session.job.step(self.session.selected), HandOver):
            return self.on_hand_over
        if place is None:
            return self.drawings[self.session.job.plane]
        return self.on_side if (face.place if face is not None else place).angles else self.on_end

    @property
    def origin(self) -> QPointF:
        return self.to_plan(0.0, 0.0)

    def lay_out(self) -> None:
        if self.seen:
            self.close_editor()
            self.drawing.layout()

    def feature_box(self) -> QRectF | None:
        return self.drawing.feature() if self.seen else None

    def move_section(self, by: int) -> None:
        """The section so many millimetres, or sixteenths of an inch, further back."""
        if self.seen and isinstance(self.drawing, PlanSection):
            self.drawing.move_by(by)

    def _at_cursor(self) -> None:
        if self.drawing.follows_cursor:
            self.update()

    def _other_card(self) -> None:
        self.close_editor()
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self.labels, self.spots, self.outline = [], {}, None
        self.update()

    def _another_job(self) -> None:
        """Of a job that nothing is known of yet, nothing is seen."""
        if not self.session.shown:
            self.update()

    # -- what is drawn --------------------------------------------------------------------------------------------

    @property
    def look(self) -> Look:
        """What there is to see of the selected card."""
        look = self.session.look
        return look if look is not None and look.card == self.session.selected else Look(self.session.selected)

    @property
    def seen(self) -> bool:
        """Is there something to see of the selected card?"""
        session = self.session
        return session.shown and session.look is not None and session.look.card == session.selected

    def own_dims(self, dims: Sequence[Dim]) -> tuple[Dim, ...]:
        """Of the dimensions of stock and holding those that are answers of the selected card."""
        return tuple(d for d in dims if self.session.address_of(d.field).startswith(f"{self.session.selected}."))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.session.shown and not self.seen:
            return
        with painting(self) as painter:
            self.paint_on(painter)
        if self.editor is not None:
            self._place_editor()

    def paint_on(self, painter: QPainter) -> None:
        """All that is seen, as large as the sheet is, on the screen or in a picture."""
        painter.fillRect(self.rect(), QColor(ROLES.paper))
        if self.session.shown and self.seen:
            self.drawing.layout()
            self.drawing.paint(painter)

    def paint_outline(self, painter: QPainter) -> None:
        """The outline of the selected step, whole or not."""
        outline = self.session.outline_of_step()
        self.outline = None
        if outline is not None:
            self.outline = OutlineDrawing(*self.session.as_drawn(outline), self.to_plan, self.session.job.unit)
            self.outline.paint(painter, selected_segment(self.session.focus, outline.id))

    # -- dimensions -----------------------------------------------------------------------------------------------

    def value_of(self, field: str) -> float | None:
        if not self.session.on_step:
            held = self.session.held
            value = getattr(held.stock, field, None) if hasattr(held.stock, field) else getattr(held.holding, field)
        elif field.startswith(("pattern.", "outline.")):
            value = self._given(field)
        else:
            planned = self.session.plan.step(self.session.selected)
            value = getattr(planned.filled, field, None) if planned else None
        return float(value) if isinstance(value, int | float) else None

    def dim_text(self, field: str) -> str:
        """What stands on a dimension of turned work: its number, or the name of a thread; empty for an answer not given."""
        if field == "thread":
            planned = self.session.plan.step(self.session.selected)
            return thread_named(getattr(planned.filled, "thread", "")) if planned else ""
        value = self.value_of(field)
        if value is None:
            return ""
        return self.text_of(field, abs(value) if field.rpartition(".")[2] in ("z", "finish_z") else value)

    def text_of(self, field: str, value: float) -> str:
        question = self._question(field)
        kind = question.kind if question and question.kind else Kind.LENGTH
        text = self._as_typed(field) or number_text(value, kind, self.session.job.unit)
        return self.drawing.diameter_sign + text if field == "diameter" and self.session.on_step else text

    def _as_typed(self, field: str) -> str:
        """A size with its tolerance, as it was typed; empty for one without."""
        address = self.session.address_of(field)
        if not self.session.there(address):
            return ""
        struct, name = answering.at(self.session.job, address)
        return size_typed(struct, name, self.session.job.unit)

    def _given(self, field: str) -> Any:
        """The answer in the job; None where it is not there any more: what is drawn may be older than the job."""
        address = self.session.address_of(field)
        if not self.session.there(address):
            return None
        struct, name = answering.at(self.session.job, address)
        return getattr(struct, name, None)

    def _question(self, field: str) -> Question | None:
        address = self.session.address_of(field)
        if not self.session.there(address):
            return None
        struct, name = answering.at(self.session.job, address)
        return next((q for q in questions_of(type(struct)) if q.name == name), None)

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
        struct, name = answering.at(self.session.job, address)
        editor = NumberField(question, self.session.job.unit, self)
        editor.setProperty("field", field)
        editor.named = lambda: known(self.session.job)
        typed = answering.named_text(self.session.job, address) or getattr(struct, "typed", {}).get(name, "")
        editor.show_value(getattr(struct, name), typed, self.value_of(field))
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
        if self.seen and self.drawing.grip(event.position()):
            self._gripped = True
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
        self.session.edit(changed, tr("Leave a position out, or not"))
        return True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._gripped:
            self.drawing.drag(event.position())
            return
        if self._grabbed is not None:
            self.pan = event.position() - self._grabbed
            self.update()
            return
        over = self.label_at(event.position().x(), event.position().y())
        spot = None if over else self.spot_at(event.position())
        shape = Qt.CursorShape.IBeamCursor if over else Qt.CursorShape.ArrowCursor
        if over is None and spot is None and self.seen and self.drawing.grip(event.position()):
            shape = Qt.CursorShape.SizeAllCursor
        self.setCursor(shape if spot is None else Qt.CursorShape.PointingHandCursor)
        self.setToolTip("" if spot is None else tr("Position {spot}: a click leaves it out, or takes it back in", spot=spot))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grabbed, self._gripped = None, False

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event and self.label_at(event.position().x(), event.position().y()) is None:
            if self.seen and self.drawing.grip(event.position()):
                self.session.cut_at(None)
            else:
                self.show_all()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or not self.seen:
            return
        self.zoom_at(event.position(), NOTCH ** (event.angleDelta().y() / 120))
