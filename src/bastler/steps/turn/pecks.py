"""A blade that plunges in pecks: the same depth each time or less and less, and how far it comes out between them."""

from __future__ import annotations

from typing import Annotated, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.motion.holes import bitten
from bastler.steps.cut import given, passes_trouble, smallest_peck
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import ChippedStep
from bastler.units import Kind

HOW = "How"

_pecks = is_("pecking", "yes", "out")


def _shrinks(s: Answers) -> bool:
    return bool(_pecks(s) and s.shrink < 100)


def _peck(s: Answers, ctx: TurnedContext) -> float:
    return ctx.mm(1.0)


class PeckedStep(ChippedStep, frozen=True, kw_only=True):
    """A step whose blade may go in by pecks."""

    pecking: Annotated[
        Literal["no", "yes", "out"],
        choose(
            "Plunge in pecks", {"no": "No", "yes": "A little back", "out": "All the way out"}, HOW, late=True,
            helps="How far the blade comes back between two pecks.",
        ),
    ] = "no"  # fmt: skip
    peck: Annotated[float | None, ask("Peck", Kind.LENGTH, HOW, above=0, propose=_peck, when=_pecks, late=True)] = None
    shrink: Annotated[
        float,
        ask(
            "Each next peck", Kind.PERCENT, HOW, least=20, most=100, when=_pecks, late=True, helps="100 % keeps it the same.",
        ),
    ] = 100.0  # fmt: skip
    least_peck: Annotated[
        float | None, ask("Smallest peck", Kind.LENGTH, HOW, above=0, propose=smallest_peck, when=_shrinks, late=True)
    ] = None

    def pecked(self, depth: float) -> list[float]:
        """How deep the blade is at the end of each peck; the last is the whole depth."""
        if not _pecks(self):
            return [depth]
        return bitten(depth, given(self.peck), self.shrink / 100.0, given(self.least_peck) if _shrinks(self) else 0.0)

    def between_pecks(self, ctx: TurnedContext, at: float, free: float) -> tuple[float, ...]:
        """The heights that the blade goes to in rapid after a peck that ended at a height, as the view counts them."""
        if self.pecking == "out":
            return free, min(at + ctx.card.peck_clearance, free)
        return (min(at + ctx.card.chip_break, free),)

    def pecks_trouble(self, depth: float, plunges: float) -> list[Trouble]:
        """Says so when so many plunges of a depth make an absurd number of pecks."""
        if not _pecks(self) or self.peck is None:
            return []
        smallest = min(self.peck, given(self.least_peck)) if _shrinks(self) else self.peck
        return passes_trouble("peck", plunges * depth / smallest, "pecks")
