"""What all steps share that do the same at every position of a pattern."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal

from bastler.ask import Answers, Trouble, ask, choose, pick
from bastler.language import tr
from bastler.motion import Cycle, Go, Move, Path
from bastler.shapes import disc, positions, spots
from bastler.steps.base import Dim, Sketch, Spin, Stage, ThreadLines
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, CuttingStep, given
from bastler.steps.hole.dims import pattern_dims
from bastler.tools import Tool
from bastler.units import Kind

WHERE, HOLE = "Where", "Hole"


def clearance_over(s: Answers, ctx: FlatContext) -> float:
    """As far over a surface as the holding says, nearer to one that was cut before."""
    return ctx.clear_over(highest_under(s, ctx))


def highest_under(s: Answers, ctx: FlatContext) -> float:
    """The highest surface that one of the holes begins on."""
    return max((ctx.surface(disc(x, y, s.wide(ctx) / 2)) for x, y in s.holes(ctx)), default=ctx.stock.hi[2])


def nut_threads(holes: Sequence[tuple[float, float]], begin: float, end: float, crest: float, root: float) -> list[ThreadLines]:
    """Threads alike in some holes."""
    return [ThreadLines(begin=begin, end=end, crest=crest, root=root, inside=True, at=at) for at in holes]


class PatternedStep(CuttingStep, frozen=True, kw_only=True):
    """A step at the positions of a pattern. A subclass has a `top`, and a `diameter` or its own way to say how wide it is."""

    pattern: Annotated[str, pick("Positions", "pattern", WHERE)] = ""
    clearance: Annotated[
        float | None,
        ask(
            "Start feed above", Kind.LENGTH, TOOL, above=0, late=True, propose=clearance_over, helps="Where the rapid down ends."
        ),
    ] = None
    back_to: Annotated[
        Literal["over", "clearance"],
        choose("Between holes", {"over": "Over the stock", "clearance": "Stay low"}, TOOL, late=True),
    ] = "over"

    def holes(self, ctx: FlatContext) -> list[tuple[float, float]]:
        """Positions to work at."""
        pattern = ctx.patterns.get(self.pattern)
        return positions(pattern) if pattern else []

    def wide(self, ctx: FlatContext) -> float:
        """How wide it is at the surface."""
        return float(getattr(self, "diameter", None) or 0.0)

    def pattern_troubles(self, ctx: FlatContext) -> list[Trouble]:
        """No positions, or none left."""
        if self.pattern not in ctx.patterns:
            return [Trouble("pattern", tr("Pick where the holes are."))]
        return [] if self.holes(ctx) else [Trouble("pattern", tr("All positions are left out."))]

    def heights(self, ctx: FlatContext, top: float) -> tuple[float, float]:
        """Where feeds begin over a surface, and where the tool goes on to the next hole."""
        r = top + given(self.clearance)
        return r, (r if self.back_to == "clearance" else max(ctx.go_across, r))

    def cycle_stage(self, name: str, tool: Tool, n: float, cycle: Cycle, ctx: FlatContext) -> Stage:
        """One cycle over all holes."""
        first, last = cycle.points[0], cycle.points[-1]
        above = max(ctx.go_across, cycle.r)
        moves: tuple[Move, ...] = (Go(*first, above), cycle, Go(*last, ctx.safe))
        return Stage(name=name, tool=tool, spin=Spin(n=n), start=(*first, ctx.safe), moves=moves)

    def plain_cycle(self, ctx: FlatContext, top: float, z: float, feed: float, dwell: float = 0.0) -> Cycle:
        """Down in feed, a wait, up in rapid."""
        r, back = self.heights(ctx, top)
        return Cycle(
            points=tuple(self.holes(ctx)), z=z, r=r, back=back, feed=feed, clearance=ctx.card.peck_clearance,
            pull=ctx.card.chip_break, dwell=dwell,
        )  # fmt: skip

    def begun(self, ctx: FlatContext) -> tuple[tuple[float, float, float], Path]:
        """The place over the first hole where a stage starts, and a pencil there."""
        start = (*self.holes(ctx)[0], ctx.safe)
        return start, Path(*start)

    def hole_sketch(self, ctx: FlatContext, dims: tuple[Dim, ...]) -> Sketch:
        """A section through the first hole, the pattern's dimensions and the step's own."""
        pattern, lo, hi = ctx.patterns[self.pattern], ctx.stock.lo, ctx.stock.hi
        y = self.middle(ctx)[1]
        every = (*pattern_dims(pattern), *dims)
        return Sketch(section=((lo[0], y), (hi[0], y)), dims=every, spots=tuple(spots(pattern)))

    def middle(self, ctx: FlatContext) -> tuple[float, float]:
        """The hole that the section goes through."""
        holes = self.holes(ctx)
        return holes[0] if holes else (ctx.stock.centre[0], ctx.stock.centre[1])

    def many(self, ctx: FlatContext) -> str:
        """How many holes, for a summary."""
        pattern = ctx.patterns.get(self.pattern)
        every, kept = len(pattern.all()) if pattern else 0, len(self.holes(ctx))
        return f"{kept}" if every == kept else tr("{kept} of {every}", kept=kept, every=every)
