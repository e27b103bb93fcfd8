"""What the sheet and the drawings on it know of each other. A drawing is how one kind of plane is shown."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, Protocol

from PyQt6.QtCore import QPointF, QRect, QRectF
from PyQt6.QtGui import QPainter

from bastler.app.dimensions import DimLabel, Map
from bastler.app.outline_drawing import OutlineDrawing
from bastler.job import Job
from bastler.live.shown import Look, ShownHolding, ShownProof
from bastler.proof.remark import Remark
from bastler.proof.scrub import Moment
from bastler.steps import Dim
from bastler.steps.place import Place


class Margins(NamedTuple):
    """What a drawing leaves free around it, in pixels, and between its two views."""

    left: float
    right: float
    top: float
    bottom: float
    gap: float = 0.0


class Desk(Protocol):
    """What is painted: the session in the window, or what stands for it on a printed page."""

    focus: str
    section: float | None
    selected: str

    @property
    def job(self) -> Job: ...
    @property
    def held(self) -> ShownHolding: ...
    @property
    def held_id(self) -> str: ...
    @property
    def on_step(self) -> bool: ...
    @property
    def place(self) -> Place | None: ...
    @property
    def stale(self) -> bool: ...
    @property
    def proof(self) -> ShownProof | None: ...
    @property
    def moment(self) -> Moment: ...
    def address_of(self, field: str, /) -> str: ...
    def remarks_of(self, step: str, /) -> Sequence[Remark]: ...
    def cut_at(self, at: float | None, /) -> None: ...


class Paper(Protocol):
    """The sheet, as far as what is painted on it goes: how large it is and what of the part is seen; it learns the scale, the
    maps to pixels and where the dimensions stand."""

    @property
    def session(self) -> Desk: ...

    zoom: float
    pan: QPointF
    scale: float
    to_plan: Map
    to_section: Map
    labels: list[DimLabel]
    outline: OutlineDrawing | None
    spots: dict[int, QPointF]

    @property
    def look(self) -> Look: ...
    def width(self) -> int: ...
    def height(self) -> int: ...
    def rect(self) -> QRect: ...
    def update(self) -> None: ...
    def paint_outline(self, painter: QPainter) -> None: ...
    def value_of(self, field: str) -> float | None: ...
    def text_of(self, field: str, value: float) -> str: ...
    def dim_text(self, field: str) -> str: ...
    def own_dims(self, dims: Sequence[Dim]) -> tuple[Dim, ...]: ...


class PlaneDrawing(Protocol):
    """How a kind of plane is drawn on the sheet: the words of its caption for the stock and for a step, what stands before a
    diameter, and whether anything on it moves with the strip's cursor."""

    of_stock: str
    diameter_sign: str
    follows_cursor: bool

    @property
    def of_step(self) -> str: ...

    def grip(self, at: QPointF) -> bool:
        """Is there something at a place that can be dragged?"""

    def drag(self, to: QPointF) -> None:
        """What was gripped goes on to a place."""

    def feature(self) -> QRectF | None:
        """Where in the plan the selected step cuts, in pixels; None where it cuts nothing."""

    def layout(self) -> None:
        """The scale, and the maps to pixels."""

    def paint(self, painter: QPainter) -> None:
        """The selected card."""
