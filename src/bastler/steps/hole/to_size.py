"""What reaming and boring share: they open holes that are there already to an exact size."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import msgspec

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import decimal, sayable, tr
from bastler.shapes import Removal, Revolved
from bastler.steps.base import Arrival, Dim, Given, Sketch, Stage
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given, number, propose_n, speed_line, there_are
from bastler.steps.hole.existing import drilled, narrowest, open_height
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool
from bastler.units import Kind

NEAR = 0.002
SLACK_MM = 0.011
BELOW = 1.0

_blind = is_("extent", "blind")


def n_of_vc(s: Answers, ctx: FlatContext) -> float | None:
    """The spindle speed of the step's cutting speed."""
    return propose_n(ctx.tool(s.tool), ctx, s.vc)


def _diameter(s: Answers, ctx: FlatContext) -> float | None:
    """The tool that the holes are just too narrow for, else the first there is."""
    sizes = sorted(t.diameter for t in ctx.tools if t.kind == s.KIND)
    open_ = narrowest(ctx, s.holes(ctx))
    return next((d for d in sizes if ctx.mm(s.LEAST) <= d - open_ <= ctx.mm(s.MOST)), sizes[0] if sizes else None)


class ToSizeStep(PatternedStep, frozen=True, kw_only=True):
    """Answers of a step that opens holes to size. A subclass says the `KIND` of its tool and how much, in mm, the holes may be
    smaller before: under `LEAST` is rubbed, not cut, over `MOST` is too much; and has `vc` and `vf` with proposals of its own."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)
    CHOSEN: ClassVar[str] = sayable("The tool of that diameter")
    KIND: ClassVar[str] = ""
    CALLED: ClassVar[str] = ""
    DOES: ClassVar[str] = ""
    STAGE: ClassVar[str] = ""
    LEAST: ClassVar[float] = 0.0
    MOST: ClassVar[float] = 0.0

    fz: float | None = None
    n: Annotated[float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, TOOL, above=0, propose=n_of_vc, symbol="n")] = None
    diameter: Annotated[
        float | None,
        ask("Diameter", Kind.LENGTH, HOLE, above=0, propose=_diameter, helps="That of the tool that suits the holes."),
    ] = None
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    depth: Annotated[float, ask("How deep", Kind.LENGTH, HOLE, above=0, when=_blind)] = 8.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"depth": at.deep(0.3)}

    def slow(self) -> bool:
        """Does the tool come back in feed?"""
        return True

    def choose_tool(self, ctx: FlatContext) -> str | None:
        wanted = _diameter(self, ctx) if self.diameter is None else self.diameter
        return next((t.id for t in ctx.tools if t.kind == self.KIND and self._fits(t, wanted or 0.0, ctx)), None)

    def _fits(self, tool: Tool, diameter: float, ctx: FlatContext) -> bool:
        return abs(tool.diameter - diameter) <= ctx.mm(NEAR)

    def bottom(self, ctx: FlatContext) -> float:
        """Where the tool ends."""
        return given(self.top) - self.depth if _blind(self) else ctx.stock.lo[2] - ctx.mm(BELOW)

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx)
        if found:
            return found
        if self.diameter is None:
            return [Trouble("tool", tr("There is no {called} among the job's tools.", called=tr(self.CALLED)))]
        tool = ctx.tool(self.tool)
        if tool is None:
            sizes = sorted(t.diameter for t in ctx.tools if t.kind == self.KIND)
            nearest = min(sizes, key=lambda d: abs(d - given(self.diameter)), default=None)
            has = there_are(decimal(f"{d:g}") for d in sizes)
            return [
                Trouble("diameter", tr("No {called} of this size. The crib has {has}.", called=tr(self.CALLED), has=has), nearest)
            ]
        if tool.kind != self.KIND or not self._fits(tool, self.diameter, ctx):
            return [
                Trouble(
                    "tool",
                    tr("This is not a {called} of {diameter}.", called=tr(self.CALLED), diameter=number(self.diameter, ctx)),
                    self.choose_tool(ctx),
                )
            ]
        return super().troubles(ctx) or self._hole_troubles(ctx)

    def _hole_troubles(self, ctx: FlatContext) -> list[Trouble]:
        """The holes have to be there, a little smaller, and deep enough."""
        least, most = given(self.diameter) - ctx.mm(self.MOST), given(self.diameter) - ctx.mm(self.LEAST)
        low = open_height(ctx, self.holes(ctx), least)
        if low > self.bottom(ctx) + 1e-9:
            narrow = min(drilled(ctx, x, y, self.bottom(ctx)) for x, y in self.holes(ctx))
            if narrow > 0.0:
                return [
                    Trouble(
                        "diameter",
                        tr(
                            "The holes are {narrow}: too much is left for a {called}.",
                            narrow=number(narrow, ctx),
                            called=tr(self.CALLED),
                        ),
                    )
                ]
            if open_height(ctx, self.holes(ctx), 0.1 * least) <= self.bottom(ctx) + 1e-9:
                return [
                    Trouble(
                        "diameter",
                        tr(
                            "The holes are narrower than {least}: too much is left to {does}.",
                            least=number(least, ctx),
                            does=tr(self.DOES),
                        ),
                    )
                ]
            if low >= given(self.top) - 1e-9:
                return [Trouble("pattern", tr("There is nothing to {does}. Drill the holes first.", does=tr(self.DOES)))]
            deep = given(self.top) - low
            return [Trouble("depth", tr("The holes are {deep} deep only.", deep=number(deep, ctx)), round(deep, 4))]
        if open_height(ctx, self.holes(ctx), most + ctx.mm(SLACK_MM)) <= self.bottom(ctx):
            return [Trouble("diameter", tr("The holes are as wide already: nothing is left to {does}.", does=tr(self.DOES)))]
        return []

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        plain = self.plain_cycle(ctx, given(self.top), self.bottom(ctx), given(self.vf), getattr(self, "dwell", 0.0))
        cycle = msgspec.structs.replace(plain, slow=self.slow(), stopped=not self.slow())
        return [self.cycle_stage(self.STAGE, tool, given(self.n), cycle, ctx)]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        z = self.bottom(ctx)
        return [Revolved(x, y, ((0.0, z), (given(self.diameter) / 2, z))) for x, y in self.holes(ctx)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], given(self.diameter) / 2, given(self.top)
        dims = [Dim("diameter", "section", "along x", (at - r, top), (at + r, top))]
        if _blind(self):
            dims.append(Dim("depth", "section", "depth", (at + r, top), (at + r, self.bottom(ctx))))
        return self.hole_sketch(ctx, tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        deep = tr("{depth} deep", depth=number(self.depth, ctx)) if _blind(self) else tr("through")
        size = f"Ø{number(self.diameter, ctx)}" if self.diameter else tr("no {called}", called=tr(self.CALLED))
        return f"{self.many(ctx)} × {size} {deep}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        return [(TOOL, speed_line(tool, ctx, given(self.vc), given(self.n)))] if tool else []
