"""Boring with a boring head: one edge, set to the diameter, opens holes to size and puts them straight."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose
from bastler.language import sayable, tr
from bastler.steps.base import step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given, number
from bastler.steps.hole.to_size import ToSizeStep
from bastler.units import Kind

STOPPED = "G86"
FEED_MM = 0.06
"""Feed a turn: with the small nose of a boring edge it leaves a fine wall."""


def _vf(s: Answers, ctx: FlatContext) -> float | None:
    return round(ctx.mm(FEED_MM) * s.n, 1 if ctx.unit == "mm" else 2) if s.n else None


@step("Bore", "Holes", "With a boring head, set to the diameter", rank=8)
class Boring(ToSizeStep, frozen=True, kw_only=True, tag="boring"):
    """Answers of boring. The head stands in the crib with the diameter that it is set to."""

    KIND: ClassVar[str] = "boring-head"
    CALLED: ClassVar[str] = sayable("boring head")
    DOES: ClassVar[str] = sayable("bore")
    STAGE: ClassVar[str] = "bore"
    LEAST: ClassVar[float] = 0.1
    MOST: ClassVar[float] = 1.5

    vf: Annotated[
        float | None, ask("Feed rate", Kind.FEED_RATE, TOOL, above=0, propose=_vf, symbol="vf", helps="0.06 mm a turn.")
    ] = None
    out: Annotated[
        Literal["feed", "stopped"],
        choose(
            "Comes out", {"feed": "In feed", "stopped": "Spindle stopped"}, TOOL,
            helps="In feed leaves no mark; stopped is quick and leaves a fine line.",
        ),
    ] = "feed"  # fmt: skip
    dwell: Annotated[float, ask("Wait at the bottom", Kind.TIME, TOOL, least=0, most=60)] = 0.0

    def slow(self) -> bool:
        return self.out == "feed"

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if not found and self.out == "stopped" and STOPPED not in ctx.card.dialect.cycles:
            return [Trouble("out", tr("{name} has no cycle that stops the spindle in the hole.", name=ctx.card.name), "feed")]
        return found

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        return [
            *super().says(ctx),
            (TOOL, tr("The head has to be set to {diameter}.", diameter=number(given(self.diameter), ctx))),
        ]
