"""Rest machining: what a larger tool left in the corners and narrow places of a pocket, with a smaller one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, pick
from bastler.language import tr
from bastler.motion.areas import Manner
from bastler.motion.rings import RestRun, rest_runs
from bastler.shapes import Flat, Removal
from bastler.shapes.kinds import Region
from bastler.shapes.region import offset_region, polygon_of, primitives, swept
from bastler.shapes.united import united
from bastler.steps.base import Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given
from bastler.steps.mill.area import SHAPE, TIGHTEST, depth_words, joined_levels
from bastler.steps.mill.free_pocket import ISLANDS, Contour, InOutline
from bastler.steps.mill.ringed import FINE_MM, FINER_MM, THIN_MM, RingedStep, draw_run, room_in
from bastler.tools import Tool
from bastler.units import Kind

BEFORE = "What was there before"


def _larger(s: Answers, ctx: FlatContext) -> float | None:
    mills = sorted(t.diameter for t in ctx.tools if t.kind == "end-mill")
    return mills[-1] if mills else None


@step("Rest of a pocket", "Pockets", "Corners and narrow places a larger tool left", rank=7)
class RestMachining(InOutline, RingedStep, frozen=True, kw_only=True, tag="rest-machining"):
    """Answers of rest machining: the pocket again, and the tool that was in it."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, ISLANDS, BEFORE, TOOL)

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""
    islands: Annotated[tuple[Contour, ...], pick("Islands", "contours", ISLANDS)] = ()
    finish: Literal["yes", "no"] = "no"
    leave_wall: float | None = 0.0
    leave_floor: float | None = 0.0
    finish_tool: str | None = None
    finish_vc: float | None = None
    finish_n: float | None = None
    finish_vf: float | None = None
    entry: Literal["helix", "ramp", "plunge", "hole"] = "plunge"
    entry_angle: float = 3.0
    larger: Annotated[
        float | None,
        ask("Diameter of the larger tool", Kind.LENGTH, BEFORE, above=0, propose=_larger, helps="The one that was there before."),
    ] = None
    larger_left: Annotated[float, ask("It left on the walls", Kind.LENGTH, BEFORE, least=0)] = 0.0

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill under two thirds of the larger tool."""
        most = max((t.diameter for t in ctx.tools if t.kind == "end-mill"), default=0.0) if self.larger is None else self.larger
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        small = [t for t in mills if t.diameter <= most * 2 / 3]
        reach = [t for t in small if t.flute_length >= self.depth]
        best = reach or small or mills
        return best[-1 if reach or small else 0].id if best else None

    def done(self, ctx: FlatContext, z: float) -> Region:
        """What the larger tool opened."""
        radius = given(self.larger) / 2
        area = self.area(ctx, z)
        return polygon_of(offset_region(offset_region(area, radius + self.larger_left), -radius), ctx.mm(FINE_MM))

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().shape_troubles(ctx)
        tool = ctx.tool(self.tool)
        if not found and tool and tool.diameter >= given(self.larger) - TIGHTEST and self.larger_left <= 0:
            found.append(Trouble("tool", tr("Not smaller than the one before."), self.choose_tool(ctx)))
        return found

    def removes(self, ctx: FlatContext) -> list[Removal]:
        """What the larger tool left, and what is gone over on the way there."""
        found: list[Removal] = []
        tool = ctx.tool(self.tool)
        for z in self.zones(ctx) if tool else []:
            assert tool is not None
            reach = polygon_of(self.reachable(ctx, z), ctx.mm(FINE_MM))
            rest = reach.difference(self.done(ctx, z)).buffer(-ctx.mm(THIN_MM) / 2).buffer(ctx.mm(THIN_MM) / 2)
            ways = [swept(run.chain, tool.diameter / 2, ctx.mm(FINE_MM)) for run in self.runs(ctx, tool, z)]
            region = united([rest, *ways]).intersection(reach)
            if not region.is_empty:
                found.append(Flat(region, z))
        return found

    def runs(self, ctx: FlatContext, tool: Tool, z: float) -> Sequence[RestRun]:
        """The ways at a height."""
        return rest_runs(
            self.area(ctx, z),
            self.done(ctx, z),
            radius=tool.diameter / 2,
            stepover=given(self.ae),
            fine=ctx.mm(FINER_MM),
            thin=ctx.mm(THIN_MM),
        )

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        return [stage] if tool and (stage := self.rough(tool, ctx)).moves else []

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        start, path = self.begin(ctx)
        how: Manner = self.manner(ctx, tool, given(self.vf), given(self.n))
        for level in joined_levels(self.levels(), self.tops(ctx)):
            keep = primitives([s for loop in self.area(ctx, level) for s in loop])
            free = room_in(self.done(ctx, level), tool, ctx)
            for run in self.runs(ctx, tool, level):
                draw_run(path, run, keep, level, tool, how, free=free)
        path.go(z=how.over).go(z=ctx.safe)
        moves = tuple(path.moves) if len(path.moves) > 2 else ()
        return Stage(name="rest", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=moves)

    def sketch(self, ctx: FlatContext) -> Sketch:
        return self.section_sketch(ctx)

    def summary(self, ctx: FlatContext) -> str:
        outline = ctx.outlines.get(self.outline)
        name = tr("“{name}”", name=outline.name) + ", " if outline else ""
        return tr(
            "{name}after Ø{larger:g}, {depth_words}", name=name, larger=given(self.larger), depth_words=depth_words(self, ctx)
        )
