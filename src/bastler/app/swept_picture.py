"""A picture that moves: an answer goes through its values, to and fro, and what is seen changes with it.

Each kind of frame is painted by a function of its own; what comes from where is `bastler.live.swept`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

from PyQt6.QtCore import QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from bastler.app.drafting import painting
from bastler.app.end_face import EndFace
from bastler.app.half_section import HalfSection
from bastler.app.paper import Margins, PlaneDrawing
from bastler.app.pictures import draw_tool
from bastler.app.plan_section import PlanSection
from bastler.app.side_sheet import SideSheet
from bastler.app.still_paper import StillDesk, StillPaper
from bastler.app.theme import ROLES, colour, mono, sans, tool_hue
from bastler.job import BlockStock, edits
from bastler.language import tr
from bastler.live.frames import Frame, SeenCard, SeenCode, SeenTimes, SeenTool, Way
from bastler.tools import Tool, TurnTool
from bastler.units import clock

HEIGHT = 300
EACH_MS, CHOICE_MS, END_MS = 380, 1100, 900
"""How long a value is seen; one of a few to choose from; the first and the last."""
FEW = 4
PLAN_SHARE = 0.56
"""The share of the height that the plan has, where a small step is looked at from near."""
AROUND = 1.5
"""So many times the step is seen there."""
SMALL = 0.3
"""A step that is smaller than this share of the part is looked at from near."""
SMALLER = 0.78
"""Drawings that need more room than there is are painted larger and then made smaller."""


class _OneDim:
    """Of a drawing's dimensions only the one that is asked about, and no words under it."""

    sheet: StillPaper

    def sketch(self) -> Any:
        found = super().sketch()  # type: ignore[misc]  # of the drawing that this is mixed into
        focus = self.sheet.session.focus
        return edits.replace(found, dims=tuple(d for d in found.dims if d.field.rpartition(".")[2] == focus))

    def _captions(self, painter: QPainter) -> None:
        """They stand beside the picture."""


class Near(NamedTuple):
    """Where a small step is looked at from near: its middle in the plan, how far it reaches around that, how deep it goes."""

    u: float
    v: float
    reach: float
    deep: float


class _Plan(_OneDim, PlanSection):  # type: ignore[misc]  # its sketch is that of the drawing, with fewer dimensions
    margins = Margins(62.0, 62.0, 26.0, 14.0, 34.0)
    near: Near | None = None

    def layout(self) -> None:
        if self.near is None:
            super().layout()
            return
        sheet, stock, near = self.sheet, self.around.stock, self.near
        wide, high = sheet.width(), sheet.height()
        s = min(min(wide, high * PLAN_SHARE) / (2 * AROUND * near.reach), high * (1 - PLAN_SHARE) * 0.8 / max(near.deep, 1e-9))
        sheet.scale = s
        x0, y0, z0 = wide / 2, high * PLAN_SHARE / 2, high * (PLAN_SHARE + 0.05)
        sheet.to_plan = lambda u, v: QPointF(x0 + (u - near.u) * s, y0 - (v - near.v) * s)
        (ax, _), (bx, _) = self.sketch().section
        at = near.v - stock.lo[1] if ax == bx else near.u - stock.lo[0]
        sheet.to_section = lambda d, z: QPointF(x0 + (d - at) * s, z0 + (stock.hi[2] - z) * s)

    def paint(self, painter: QPainter) -> None:
        if self.near is None:
            super().paint(painter)
            return
        sheet, sketch, shown = self.sheet, self.sketch(), self._shown(self.sheet.look)
        above = QRectF(0.0, 0.0, sheet.width(), sheet.height() * PLAN_SHARE)
        for box, draw in (
            (above, lambda: self._plan(painter, shown, sketch, sheet.look)),
            (above.translated(0.0, above.height()), lambda: self._section(painter, shown.cutaway, sketch)),
        ):
            painter.save()
            painter.setClipRect(box)
            draw()
            painter.restore()
        self._dims(painter, sketch)


class _Half(_OneDim, HalfSection):  # type: ignore[misc]
    margins = Margins(20.0, 34.0, 46.0, 44.0)


class _Face(_OneDim, EndFace):  # type: ignore[misc]
    pass


class _Side(_OneDim, SideSheet):  # type: ignore[misc]
    pass


class _SweptPaper(StillPaper):
    """The drawing of a card with the path of its step over it."""

    def __init__(self, seen: SeenCard, card: str, field: str, size: QRectF, near: Near | None = None) -> None:
        face = seen.look.face
        super().__init__(
            StillDesk(seen.job, seen.held, card, field, face.place if face is not None else None), seen.look, size, ROLES.paper
        )
        self._ways = seen.ways
        self.drawing = self._drawn(seen)
        if isinstance(self.drawing, _Plan):
            self.drawing.near = near

    def _drawn(self, seen: SeenCard) -> PlaneDrawing:
        if seen.look.face is not None:
            return _Side(self) if seen.look.face.place.angles else _Face(self)
        return _Plan(self) if isinstance(seen.held.stock, BlockStock) else _Half(self)

    def paint_over(self, painter: QPainter) -> None:
        turned = isinstance(self.drawing, HalfSection)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        near = isinstance(self.drawing, _Plan) and self.drawing.near is not None
        painter.save()
        if near:
            painter.setClipRect(QRectF(0.0, 0.0, self.width(), self.height() * PLAN_SHARE))
        for way in self._ways:
            painter.setPen(_pen(way))
            painter.drawPolyline(QPolygonF([self.to_plan(u, v) for u, v, _ in way.spots]))
        painter.restore()
        if not turned and isinstance(self.drawing, PlanSection):
            self._in_section(painter, self.drawing)

    def _in_section(self, painter: QPainter, drawing: PlanSection) -> None:
        """The path as it is seen along the section's line; from the part's edge on, as the section is drawn."""
        (ax, _), (bx, _) = drawing.sketch().section
        lo, across = drawing.around.stock.lo, ax == bx
        painter.setClipRect(QRectF(0.0, self.to_section(0.0, drawing.around.stock.hi[2]).y() - 30.0, self.width(), self.height()))
        for way in self._ways:
            pen = _pen(way)
            pen.setColor(colour(pen.color().name(), 120))
            painter.setPen(pen)
            spots = [(v - lo[1] if across else u - lo[0], w) for u, v, w in way.spots]
            painter.drawPolyline(QPolygonF([self.to_section(d, w) for d, w in spots]))


def _pen(way: Way) -> QPen:
    """Feeds in the tool's colour, rapids thin and dashed."""
    if not way.rapid:
        return QPen(QColor(tool_hue(way.station)), 1.4)
    pen = QPen(QColor(ROLES.soft), 0.8)
    pen.setDashPattern([5, 4])
    return pen


class SweptPicture(QWidget):
    """Shows frames one after the other, to and fro, as long as it is seen. `changed`: another value is seen."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(HEIGHT)
        self.setAccessibleName(tr("What the answer does"))
        self.frames: Sequence[Frame] = ()
        self.at = 0
        self._looked_at: tuple[Near | None] | None = None
        self._way = 1
        self._card, self._field = "", ""
        self._note = ""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self._on)

    def show_frames(self, frames: Sequence[Frame], card: str, field: str) -> None:
        """From the first one on, or from where it is where the same answer is shown as it has become. `card` is what the answer
        belongs to, `field` its name."""
        same = (card, field) == (self._card, self._field) and len(frames) == len(self.frames)
        self.frames, self._card, self._field, self._note = frames, card, field, ""
        self._looked_at = None
        if not same:
            self.at, self._way = 0, 1
        self.update()
        self.changed.emit()
        self._wait()

    def say(self, note: str) -> None:
        """Words in the place of a picture."""
        self.frames, self._note = (), note
        self._timer.stop()
        self.update()

    @property
    def frame(self) -> Frame | None:
        """What is seen now."""
        return self.frames[self.at] if self.at < len(self.frames) else None

    def step_on(self) -> None:
        """To the next value; back from the last one."""
        if len(self.frames) < 2:
            return
        if not 0 <= self.at + self._way < len(self.frames):
            self._way = -self._way
        self.at += self._way
        self.update()
        self.changed.emit()

    def stand(self, at: int) -> None:
        """Stays at a value, for a picture of it."""
        self._timer.stop()
        self.at = min(at, len(self.frames) - 1)
        self.update()
        self.changed.emit()

    def _on(self) -> None:
        if self.isVisible():
            self.step_on()
            self._wait()

    def _wait(self) -> None:
        ends = self.at in (0, len(self.frames) - 1)
        each = CHOICE_MS if len(self.frames) <= FEW else END_MS if ends else EACH_MS
        if len(self.frames) > 1:
            self._timer.start(each)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.paper))
            frame = self.frame
            if frame is None:
                painter.setFont(sans(13, italic=True))
                painter.setPen(QColor(ROLES.soft))
                painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, self._note)
                return
            PAINTS[type(frame.seen)](self, painter, frame)

    # -- each kind of frame -------------------------------------------------------------------------------------------

    def _paint_card(self, painter: QPainter, frame: Frame) -> None:
        seen = frame.seen
        assert isinstance(seen, SeenCard)
        box = QRectF(self.rect())
        if seen.look.face is not None:
            painter.save()
            painter.scale(SMALLER, SMALLER)
            box = QRectF(0.0, 0.0, box.width() / SMALLER, box.height() / SMALLER)
            _SweptPaper(seen, self._card, self._field, box).paint(painter)
            painter.restore()
            return
        _SweptPaper(seen, self._card, self._field, box, self._near()).paint(painter)

    def _near(self) -> Near | None:
        """Where the step is that the frames are of, where that is small; the same in all frames."""
        if self._looked_at is None:
            seen = [frame.seen for frame in self.frames if isinstance(frame.seen, SeenCard) and frame.seen.look.gone]
            self._looked_at = (_near_of(seen[len(seen) // 2]) if seen else None,)
        return self._looked_at[0]

    def _paint_tool(self, painter: QPainter, frame: Frame) -> None:
        """To one scale in all frames."""
        tools = [f.seen.tool for f in self.frames if isinstance(f.seen, SeenTool) and f.seen.tool is not None]
        assert isinstance(frame.seen, SeenTool)
        if frame.seen.tool is None:
            return
        box = QRectF(self.rect()).adjusted(16, 12, -16, -12)
        scale = min(_scale(tool, box) for tool in tools)
        draw_tool(painter, frame.seen.tool, box, scale)

    def _paint_code(self, painter: QPainter, frame: Frame) -> None:
        seen = frame.seen
        assert isinstance(seen, SeenCode)
        painter.setFont(mono(12))
        high = 19.0
        for k, line in enumerate(seen.lines):
            row = QRectF(0.0, 8.0 + k * high, self.width(), high)
            if k in seen.changed:
                painter.fillRect(row, QColor(ROLES.focus_tint))
                painter.fillRect(QRectF(0.0, row.top(), 3.0, high), QColor(ROLES.focus))
            painter.setPen(QColor(ROLES.ink))
            painter.drawText(row.adjusted(12, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, line)

    def _paint_times(self, painter: QPainter, frame: Frame) -> None:
        """A block for each stage, as wide as its time and as high as its load, all frames on one scale."""
        seen = frame.seen
        assert isinstance(seen, SeenTimes)
        longest = max((f.seen.total for f in self.frames if isinstance(f.seen, SeenTimes)), default=1.0) or 1.0
        box = QRectF(self.rect()).adjusted(14, 34, -14, -40)
        full = box.top() + box.height() / 3  # a load of all that there is stands here, more stands higher
        painter.setPen(QPen(QColor(ROLES.stop), 1.0, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(box.left(), full), QPointF(box.right(), full))
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.soft))
        painter.drawText(QPointF(box.left(), full - 5), tr("all of the power"))
        x = box.left()
        one = box.width() / longest
        for station, seconds, load in seen.stages:
            wide, high = seconds * one, max((box.bottom() - full) * load, 2.0)
            high = min(high, box.height())
            painter.fillRect(QRectF(x, box.bottom() - high, max(wide - 1.0, 1.0), high), QColor(tool_hue(station)))
            x += wide
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.setFont(sans(13, bold=True))
        painter.drawText(QPointF(box.left(), box.bottom() + 22), clock(seen.total))


PAINTS: dict[type, Callable[[SweptPicture, QPainter, Frame], None]] = {
    SeenCard: SweptPicture._paint_card,
    SeenTool: SweptPicture._paint_tool,
    SeenCode: SweptPicture._paint_code,
    SeenTimes: SweptPicture._paint_times,
}


def _near_of(seen: SeenCard) -> Near | None:
    """Where the first place of a step is on a milled part; None for one that is large, or seen otherwise."""
    if seen.look.face is not None or not isinstance(seen.held.stock, BlockStock):
        return None
    stock, first = seen.held.flat.stock, seen.look.gone[0]
    u0, v0, u1, v1 = map(float, first.region.bounds)
    reach = max(u1 - u0, v1 - v0) / 2
    if 2 * reach > SMALL * max(stock.size[0], stock.size[1]):
        return None
    return Near((u0 + u1) / 2, (v0 + v1) / 2, reach, stock.hi[2] - max(first.floor, stock.lo[2] - reach))


def _scale(tool: Tool | TurnTool, box: QRectF) -> float:
    """Pixels for a unit, so that what works of a tool has room."""
    if isinstance(tool, TurnTool):
        return 3.2 / tool.mm
    tall = tool.stick_out + 0.4 * tool.holder.length
    wide = max(tool.diameter, tool.shank_diameter, tool.holder.diameter)
    return min(box.height() / max(tall, 1e-9), box.width() / max(wide, 1e-9))
