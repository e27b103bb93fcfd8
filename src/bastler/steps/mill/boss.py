"""Bosses: what stays of the stock, everything around it cleared."""

from __future__ import annotations

from typing import Annotated, ClassVar

from bastler.ask import Trouble, pick
from bastler.language import tr
from bastler.motion import Path
from bastler.motion.areas import Manner, clear_about
from bastler.motion.rings import SAFE_STEP, AboutRings, rings_about
from bastler.shapes import Flat, Frame, Removal, rounded_rectangle
from bastler.shapes.kinds import Region
from bastler.shapes.region import Loop, region_of
from bastler.steps.base import Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, given, number
from bastler.steps.mill.area import ENTRY, SHAPE, depth_words
from bastler.steps.mill.free_pocket import closed_loop, outline_troubles
from bastler.steps.mill.ringed import RingedStep
from bastler.tools import Tool


class BossStep(RingedStep, frozen=True, kw_only=True):
    """A step that leaves a boss standing and clears everything between it and the stock."""

    def boss(self, ctx: FlatContext) -> Loop:
        """The boundary of what stays, counter-clockwise; empty while it is not whole."""
        raise NotImplementedError

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        boss = self.boss(ctx)
        if not boss:
            return []
        size = ctx.stock.size
        far = 4 * (size[0] + size[1])
        middle = Frame(*ctx.stock.centre[:2])
        return region_of(rounded_rectangle(middle, size[0] + far, size[1] + far, 0.0), [boss])

    def limit(self, ctx: FlatContext) -> Region:
        return ctx.stock.plan

    def footprint(self, ctx: FlatContext) -> Region:
        return super().footprint(ctx).intersection(ctx.stock.plan)

    def removes(self, ctx: FlatContext) -> list[Removal]:
        near = ctx.stock.plan.buffer(ctx.mm(10.0), join_style="mitre")
        return [Flat(flat.region.intersection(near), flat.floor) for flat in super().removes(ctx) if isinstance(flat, Flat)]

    def begin(self, ctx: FlatContext) -> tuple[tuple[float, float, float], Path]:
        start = (ctx.stock.lo[0], ctx.stock.lo[1], ctx.safe)
        return start, Path(*start).go(z=max(ctx.go_across, given(self.top) + ctx.clear))

    def about(self, ctx: FlatContext, tool: Tool, area: list[Loop], leave: float) -> AboutRings:
        """The rings around the boss."""
        step = min(given(self.ae), SAFE_STEP * tool.diameter / 2)
        return rings_about(area, ctx.stock.plan, radius=tool.diameter / 2, leave=leave, stepover=step, off=ctx.clear)

    def clear_floor(self, path: Path, ctx: FlatContext, tool: Tool, open_: list[Loop], above: float, how: Manner) -> None:
        clear_about(path, self.about(ctx, tool, open_, 0.0), top=above, level=self.floor, how=how)

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        start, path = self.begin(ctx)
        how = self.manner(ctx, tool, given(self.vf), given(self.n))
        rings = self.about(ctx, tool, self.area(ctx, self.floor), self.left(self.leave_wall))
        top = given(self.top)
        for level in self.levels():
            clear_about(path, rings, top=top, level=level, how=how)
            top = level
        path.go(z=how.over).go(z=ctx.safe)
        return Stage(name="rough", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=tuple(path.moves))


@step("Free boss", "Outside", "Leaves a boss standing, clears to the stock's edge", rank=5)
class FreeBoss(BossStep, frozen=True, kw_only=True, tag="free-boss"):
    """Answers of a free boss."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, TOOL, ENTRY, FINISH)

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""

    def boss(self, ctx: FlatContext) -> Loop:
        return closed_loop(ctx.outlines.get(self.outline))

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        return outline_troubles(ctx.outlines.get(self.outline), "outline")

    def sketch(self, ctx: FlatContext) -> Sketch:
        return self.section_sketch(ctx)

    def summary(self, ctx: FlatContext) -> str:
        outline = ctx.outlines.get(self.outline)
        return (
            tr("“{name}”, {depth} high", name=outline.name, depth=number(self.depth, ctx)) if outline else depth_words(self, ctx)
        )
