"""Paper that nobody touches: a drawing of the sheet in another place, as it is given, on a printed page or in a small picture."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import msgspec
from PyQt6.QtCore import QPointF, QRect, QRectF
from PyQt6.QtGui import QColor, QPainter

from bastler.app.dimensions import DimLabel, Map
from bastler.app.outline_drawing import OutlineDrawing
from bastler.app.paper import PlaneDrawing
from bastler.ask import questions_of
from bastler.job import Job, answering
from bastler.live.shown import Look, ShownHolding, ShownProof
from bastler.proof.remark import Remark
from bastler.proof.scrub import Moment
from bastler.steps import Dim
from bastler.steps.place import Place
from bastler.units import Kind, printed


class StillDesk:
    """A card as the drawings know what they paint: selected, with one of its answers in focus or none."""

    section: float | None = None
    stale = False
    proof: ShownProof | None = None
    moment = Moment(0.0, -1, 0.0, (0.0, 0.0, 0.0), -1)

    def __init__(self, job: Job, held: ShownHolding, card: str, focus: str = "", place: Place | None = None) -> None:
        self.job, self.held, self.held_id = job, held, held.holding.id
        self.selected, self.focus, self.place = card, focus, place

    @property
    def on_step(self) -> bool:
        """Is the card that of a step?"""
        return self.job.step(self.selected) is not None

    def address_of(self, field: str) -> str:
        """Nothing that nobody touches is told apart by where it is kept."""
        return field

    def remarks_of(self, step: str) -> Sequence[Remark]:
        """They stand elsewhere."""
        return ()

    def cut_at(self, at: float | None) -> None:
        """Nothing is cut open elsewhere."""


class StillPaper:
    """A place that a drawing is painted in, as on the sheet, on a ground of its own colour. Whoever makes one gives it its
    `drawing`."""

    zoom = 1.0
    outline: OutlineDrawing | None = None
    drawing: PlaneDrawing

    def __init__(self, desk: StillDesk, look: Look, size: QRectF, ground: str) -> None:
        self.session, self.look = desk, look
        self.pan = QPointF(0.0, 0.0)
        self.scale = 1.0
        self.to_plan: Map = QPointF
        self.to_section: Map = QPointF
        self.labels: list[DimLabel] = []
        self.spots: dict[int, QPointF] = {}
        self._size, self._ground = size, ground

    def paint(self, painter: QPainter) -> None:
        """In its place."""
        painter.save()
        painter.setClipRect(self._size)
        painter.translate(self._size.topLeft())
        painter.fillRect(QRectF(self.rect()), QColor(self._ground))
        self.drawing.layout()
        self.drawing.paint(painter)
        self.paint_over(painter)
        painter.restore()

    def paint_over(self, painter: QPainter) -> None:
        """What stands over the drawing: nothing."""

    def width(self) -> int:
        return int(self._size.width())

    def height(self) -> int:
        return int(self._size.height())

    def rect(self) -> QRect:
        return QRect(0, 0, self.width(), self.height())

    def update(self) -> None:
        """What is still stays."""

    def paint_outline(self, painter: QPainter) -> None:
        """What a step takes away shows it."""

    def own_dims(self, dims: Sequence[Dim]) -> tuple[Dim, ...]:
        """All of them: stock and holding are on one drawing."""
        return tuple(dims)

    def value_of(self, field: str) -> float | None:
        value = self._answer(field)
        return float(value) if isinstance(value, int | float) else None

    def _answer(self, field: str) -> Any:
        """As it is worked out."""
        held, step = self.session.held, self.session.held.step(self.session.selected)
        if step is None:
            return getattr(held.stock, field, None) if hasattr(held.stock, field) else getattr(held.holding, field, None)
        owner, _, name = field.rpartition(".")
        if owner in ("pattern", "outline"):
            ident = getattr(step.filled, owner, "")
            address = f"{owner}:{ident}.{name}"
            try:
                struct, name = answering.at(self.session.job, address)
            except KeyError:
                return None
            return getattr(struct, name)
        return getattr(step.filled, field, None)

    def _owners(self) -> list[msgspec.Struct]:
        held, step = self.session.held, self.session.held.step(self.session.selected)
        return [held.stock, held.holding] if step is None else [step.filled]

    def text_of(self, field: str, value: float) -> str:
        found = [q for struct in self._owners() for q in questions_of(type(struct)) if q.name == field]
        kind = found[0].kind if found else None
        return printed(value, kind or Kind.LENGTH, self.session.held.unit)

    def dim_text(self, field: str) -> str:
        value = self.value_of(field)
        return "" if value is None else self.text_of(field, value)
