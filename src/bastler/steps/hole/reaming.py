"""Reaming drilled holes to size: slowly down, slowly up."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

import msgspec

from bastler.ask import Trouble, ask, choose
from bastler.shapes import Removal, Revolved
from bastler.steps.base import Arrival, Dim, Sketch, Stage, step
from bastler.steps.context import Context
from bastler.steps.cut import TOOL, given, number, propose_n, propose_vc, speed_line
from bastler.steps.hole.existing import deepest, drilled, narrowest
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool
from bastler.units import Kind

NEAR = 0.002
SPEED = 0.35
"""Of the cutting speed of a drill of the same material: a reamer chatters above it."""
FEED = 0.012
"""Feed a turn as a share of the diameter."""
LEAST, MOST = 0.05, 0.5
"""How much, in mm, the hole may be smaller than the reamer: less is not cut but rubbed, more breaks the reamer."""
BELOW = 1.0


def _blind(s: Any) -> bool:
    return bool(s.extent == "blind")


def _vc(s: Any, ctx: Context) -> float | None:
    tool = ctx.tool(s.tool)
    found = propose_vc(tool, ctx, s.n)
    return found if found is None or s.n is not None else round(SPEED * found, 1)


def _vf(s: Any, ctx: Context) -> float | None:
    tool = ctx.tool(s.tool)
    return round(FEED * tool.diameter * s.n, 1 if ctx.unit == "mm" else 2) if tool and s.n else None


def _n(s: Any, ctx: Context) -> float | None:
    return propose_n(ctx.tool(s.tool), ctx, s.vc)


def _diameter(s: Any, ctx: Context) -> float | None:
    """The reamer that the holes are just too narrow for, else the first there is."""
    reamers = sorted(t.diameter for t in ctx.tools if t.kind == "reamer")
    open_ = narrowest(ctx, s.holes(ctx))
    return next((d for d in reamers if ctx.mm(LEAST) <= d - open_ <= ctx.mm(MOST)), reamers[0] if reamers else None)


@step("Ream", "Holes", "Drilled holes to size", rank=8)
class Reaming(PatternedStep, frozen=True, kw_only=True, tag="reaming"):
    """Answers of reaming."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)

    vc: Annotated[
        float | None,
        ask("Cutting speed", Kind.CUTTING_SPEED, TOOL, above=0, propose=_vc, symbol="vc", helps="A third of a drill's."),
    ] = None
    n: Annotated[float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, TOOL, above=0, propose=_n, symbol="n")] = None
    fz: float | None = None
    vf: Annotated[float | None, ask("Feed rate", Kind.FEED_RATE, TOOL, above=0, propose=_vf, symbol="vf")] = None
    diameter: Annotated[
        float | None,
        ask("Diameter", Kind.LENGTH, HOLE, above=0, propose=_diameter, helps="That of the reamer that suits the holes."),
    ] = None
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    depth: Annotated[float, ask("How deep", Kind.LENGTH, HOLE, above=0, when=_blind)] = 8.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> dict[str, Any]:
        return {"depth": at.deep(0.3)}

    def choose_tool(self, ctx: Context) -> str | None:
        wanted = _diameter(self, ctx) if self.diameter is None else self.diameter
        return next((t.id for t in ctx.tools if t.kind == "reamer" and abs(t.diameter - (wanted or 0.0)) <= ctx.mm(NEAR)), None)

    def _matches(self, tool: Tool, ctx: Context) -> bool:
        return abs(tool.diameter - given(self.diameter)) <= ctx.mm(NEAR)

    def bottom(self, ctx: Context) -> float:
        """Where the reamer ends."""
        return given(self.top) - self.depth if _blind(self) else ctx.stock.lo[2] - ctx.mm(BELOW)

    def troubles(self, ctx: Context) -> list[Trouble]:
        found = self.pattern_troubles(ctx)
        if found:
            return found
        tool = ctx.tool(self.tool)
        if tool is None:
            sizes = sorted(t.diameter for t in ctx.tools if t.kind == "reamer")
            nearest = min(sizes, key=lambda d: abs(d - given(self.diameter)), default=None)
            has = ", ".join(f"{d:g}" for d in sizes) or "none"
            return [Trouble("diameter", f"No reamer of this size. The crib has {has}.", nearest)]
        if tool.kind != "reamer" or not self._matches(tool, ctx):
            return [Trouble("tool", f"This is not a reamer of {number(given(self.diameter), ctx)}.", self.choose_tool(ctx))]
        return super().troubles(ctx) or self._hole_troubles(ctx)

    def _hole_troubles(self, ctx: Context) -> list[Trouble]:
        """The holes have to be there, a little smaller, and deep enough."""
        least, most = given(self.diameter) - ctx.mm(MOST), given(self.diameter) - ctx.mm(LEAST)
        low = deepest(ctx, self.holes(ctx), least)
        if low is None or low > self.bottom(ctx) + 1e-9:
            narrow = min(drilled(ctx, x, y, self.bottom(ctx)) for x, y in self.holes(ctx))
            if narrow > 0.0:
                return [Trouble("diameter", f"The holes are {number(narrow, ctx)}: too much is left for a reamer.")]
            if low is None:
                return [Trouble("pattern", "There is nothing to ream. Drill the holes first.")]
            deep = given(self.top) - low
            return [Trouble("depth", f"The holes are {number(deep, ctx)} deep only.", round(deep, 4))]
        if max(drilled(ctx, x, y, self.bottom(ctx)) for x, y in self.holes(ctx)) > most + 1e-9:
            return [Trouble("diameter", "The holes are as wide already: nothing is left to ream.")]
        return []

    def plan(self, ctx: Context) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        plain = self.plain_cycle(ctx, given(self.top), self.bottom(ctx), given(self.vf))
        cycle = msgspec.structs.replace(plain, slow=True)
        return [self.cycle_stage("ream", tool, given(self.n), cycle, ctx)]

    def removes(self, ctx: Context) -> list[Removal]:
        z = self.bottom(ctx)
        return [Revolved(x, y, ((0.0, z), (given(self.diameter) / 2, z))) for x, y in self.holes(ctx)]

    def sketch(self, ctx: Context) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], given(self.diameter) / 2, given(self.top)
        dims = [Dim("diameter", "section", "along x", (at - r, top), (at + r, top))]
        if _blind(self):
            dims.append(Dim("depth", "section", "depth", (at + r, top), (at + r, self.bottom(ctx))))
        return self.hole_sketch(ctx, tuple(dims))

    def summary(self, ctx: Context) -> str:
        deep = f"{number(self.depth, ctx)} deep" if _blind(self) else "through"
        return f"{self.many(ctx)} × Ø{number(given(self.diameter), ctx)} {deep}"

    def says(self, ctx: Context) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        return [(TOOL, speed_line(tool, ctx, given(self.vc), given(self.n)))] if tool else []
