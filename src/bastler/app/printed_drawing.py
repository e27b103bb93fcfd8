"""The drawing of a holding on paper: that of the sheet, with all its dimensions and nothing to touch. Large blue areas are pale,
so that a print takes no toner and a pencil is seen on it."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRect, QRectF
from PyQt6.QtGui import QColor, QPainter

from bastler.app.dimensions import DimLabel, Map
from bastler.app.half_section import HalfSection
from bastler.app.outline_drawing import OutlineDrawing
from bastler.app.paper import PlaneDrawing
from bastler.app.plan_section import PlanSection
from bastler.ask import questions_of
from bastler.job import BlockStock, Job
from bastler.live.setup_sheet import HoldingSheet
from bastler.live.shown import Look, ShownHolding, ShownProof
from bastler.proof.remark import Remark
from bastler.proof.scrub import Moment
from bastler.steps import Dim
from bastler.steps.place import Place
from bastler.units import Kind, printed

PALE, PALE_JAW = "#DCE5F1", "#DFE1E2"
"""Marking blue where there is much of it, and the grey of chucks."""


class _Still:
    """A holding's card, as the drawings know what they paint: selected, and as it is printed."""

    focus = ""
    section: float | None = None
    on_step = False
    stale = False
    proof: ShownProof | None = None
    place: Place | None = None
    moment = Moment(0.0, -1, 0.0, (0.0, 0.0, 0.0), -1)

    def __init__(self, job: Job, held: ShownHolding) -> None:
        self.job, self.held, self.held_id = job, held, held.holding.id
        self.selected = f"holding:{held.holding.id}"

    def address_of(self, field: str) -> str:
        """Nothing on paper has the focus."""
        return field

    def remarks_of(self, step: str) -> Sequence[Remark]:
        """They are listed."""
        return ()

    def cut_at(self, at: float | None) -> None:
        """Nothing on paper is cut open elsewhere."""


class _PalePlan(PlanSection):
    skin = PALE

    def _captions(self, painter: QPainter) -> None:
        """The page has its own."""


class _PaleHalf(HalfSection):
    skin, jaw = PALE, PALE_JAW

    def _captions(self, painter: QPainter) -> None:
        """The page has its own."""


class PrintedDrawing:
    """A place on a page that a drawing is painted in, as on the sheet."""

    zoom = 1.0
    outline: OutlineDrawing | None = None

    def __init__(self, job: Job, sheet: HoldingSheet, size: QRectF) -> None:
        self.session = _Still(job, sheet.shown)
        self.look: Look = sheet.look
        self.pan = QPointF(0.0, 0.0)
        self.scale = 1.0
        self.to_plan: Map = QPointF
        self.to_section: Map = QPointF
        self.labels: list[DimLabel] = []
        self.spots: dict[int, QPointF] = {}
        self._size = size
        milled = isinstance(sheet.shown.stock, BlockStock)
        self.drawing: PlaneDrawing = _PalePlan(self) if milled else _PaleHalf(self)

    def paint(self, painter: QPainter) -> None:
        """In its place."""
        painter.save()
        painter.setClipRect(self._size)
        painter.translate(self._size.topLeft())
        painter.fillRect(QRectF(self.rect()), QColor("white"))
        self.drawing.layout()
        self.drawing.paint(painter)
        painter.restore()

    def width(self) -> int:
        return int(self._size.width())

    def height(self) -> int:
        return int(self._size.height())

    def rect(self) -> QRect:
        return QRect(0, 0, self.width(), self.height())

    def update(self) -> None:
        """What is on paper stays."""

    def paint_outline(self, painter: QPainter) -> None:
        """A holding has none."""

    def own_dims(self, dims: Sequence[Dim]) -> tuple[Dim, ...]:
        """All of them: stock and holding are on one drawing."""
        return tuple(dims)

    def value_of(self, field: str) -> float | None:
        held = self.session.held
        value = getattr(held.stock, field, None) if hasattr(held.stock, field) else getattr(held.holding, field, None)
        return float(value) if isinstance(value, int | float) else None

    def text_of(self, field: str, value: float) -> str:
        held = self.session.held
        found = [q for struct in (held.stock, held.holding) for q in questions_of(type(struct)) if q.name == field]
        kind = found[0].kind if found else None
        return printed(value, kind or Kind.LENGTH, held.unit)

    def dim_text(self, field: str) -> str:
        value = self.value_of(field)
        return "" if value is None else self.text_of(field, value)
