"""Counterbores: flat-bottomed bores for screw heads at the positions of a pattern, plunged by a tool of their size or milled."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Annotated, ClassVar

from bastler.ask import Answers, Trouble, ask
from bastler.language import sayable, tr
from bastler.motion import Path
from bastler.motion.areas import HELIX_SHARE, NEAR_SHARE, Feeds, Manner, helix_down
from bastler.motion.even import equal_parts
from bastler.motion.spiral import spiral_out
from bastler.shapes import Flat, Removal, disc
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given, load_line, number, passes_trouble, plunge_feed, speed_line
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool
from bastler.units import Kind

SAME = 1e-6
STEPOVER = 0.45
"""Of the tool's diameter, from turn to turn of the spiral."""
SLOPE = math.tan(math.radians(3.0))


def _ap(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    most = min(0.5 * tool.diameter * ctx.material.slot_ap, tool.flute_length)
    passes = equal_parts(s.depth, most, 1e-9)
    return float(math.ceil(s.depth / passes * 1000) / 1000)


@step("Counterbore", "Holes", "Flat bores for screw heads", rank=7)
class Counterbore(PatternedStep, frozen=True, kw_only=True, tag="counterbore"):
    """Answers of counterboring."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)
    CHOSEN: ClassVar[str] = sayable("The largest end mill that reaches the floor and has room to go down")

    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, HOLE, above=0)] = 11.0
    depth: Annotated[float, ask("How deep", Kind.LENGTH, HOLE, above=0, helps="From the surface the step starts on.")] = 6.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None
    ap: Annotated[float | None, ask("Down per pass", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap")] = None
    dwell: Annotated[float, ask("Wait at the bottom", Kind.TIME, TOOL, least=0, most=60)] = 0.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"diameter": 11.0, "depth": 6.0} if at.unit == "mm" else {"diameter": 0.438, "depth": 0.25}

    @property
    def floor(self) -> float:
        return given(self.top) - self.depth

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that reaches the floor and has room to go down in a helix, or is as wide as the bore."""
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        fits = [t for t in mills if t.diameter <= self.diameter * (1 + SAME)]
        reach = [t for t in fits if t.flute_length >= self.depth] or fits
        roomy = [t for t in reach if t.diameter <= 0.85 * self.diameter or self._plunges(t)]
        best = roomy or reach or mills[:1]
        return best[-1].id if best else None

    def _plunges(self, tool: Tool) -> bool:
        return abs(tool.diameter - self.diameter) <= SAME * self.diameter and tool.centre_cutting

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx) or super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if found or tool is None:
            return found
        fits = self.choose_tool(ctx)
        if tool.kind != "end-mill":
            return [Trouble("tool", tr("A flat bottom needs an end mill."), fits)]
        if tool.diameter > self.diameter * (1 + SAME):
            return [
                Trouble(
                    "tool",
                    tr("Wider than the bore of {diameter}.", diameter=number(self.diameter, ctx)),
                    fits if fits != tool.id else None,
                )
            ]
        if self.floor < ctx.stock.lo[2] - 1e-9:
            most = given(self.top) - ctx.stock.lo[2]
            return [Trouble("depth", tr("Deeper than the stock: {most} goes through.", most=number(most, ctx)), most)]
        return passes_trouble("ap", self.depth / given(self.ap), "passes")

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        if self._plunges(tool):
            feed = plunge_feed(tool, ctx, given(self.vf), given(self.n))
            cycle = self.plain_cycle(ctx, given(self.top), self.floor, feed, self.dwell)
            return [self.cycle_stage("counterbore", tool, given(self.n), cycle, ctx)]
        return [self._milled(tool, ctx)]

    def _milled(self, tool: Tool, ctx: FlatContext) -> Stage:
        """Down a helix and out in a spiral, pass by pass, hole by hole."""
        start, path = self.begun(ctx)
        feeds = Feeds(given(self.vf), plunge_feed(tool, ctx, given(self.vf), given(self.n)))
        r, over = self.heights(ctx, given(self.top))
        how = Manner(tool.diameter, climb=True, entry="helix", slope=SLOPE, feeds=feeds, clear=r - given(self.top), over=over,
                     surface=given(self.top), beside=ctx.clear)  # fmt: skip
        for k, at in enumerate(self.holes(ctx)):
            path.go(z=max(ctx.go_across, r) if k == 0 else over).go(*at)
            self._one(path, at, tool, how)
        path.go(z=ctx.safe)
        return Stage(name="counterbore", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=tuple(path.moves))

    def _one(self, path: Path, at: tuple[float, float], tool: Tool, how: Manner) -> None:
        room = (self.diameter - tool.diameter) / 2
        inner, top = min(HELIX_SHARE * tool.diameter, room), given(self.top)
        # a helix along the wall takes its pitch a turn, however deep it goes: no pass has to end before the floor
        count = equal_parts(self.depth, given(self.ap)) if room > inner else 1
        if room <= inner:
            how = replace(how, slope=min(how.slope, given(self.ap) / (2 * math.pi * inner)))
        for k in range(1, count + 1):
            level = given(self.top) - self.depth * k / count
            path.go(*at).go(z=top + how.clear)
            helix_down(path, at, inner, top + NEAR_SHARE * how.clear, level, how, home=room <= inner)
            if room > inner:
                spiral_out(path, at, inner, room, STEPOVER * tool.diameter, how.feeds.cut, ccw=True)
                path.cut(how.feeds.cut, *at)
            top = level
        path.go(z=how.over)

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return [Flat(disc(x, y, self.diameter / 2), self.floor) for x, y in self.holes(ctx)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], self.diameter / 2, given(self.top)
        return self.hole_sketch(
            ctx,
            (
                Dim("diameter", "section", "along x", (at - r, top), (at + r, top)),
                Dim("depth", "section", "depth", (at + r, top), (at + r, self.floor)),
            ),
        )

    def summary(self, ctx: FlatContext) -> str:
        return tr(
            "{many} × Ø{diameter}, {depth} deep",
            many=self.many(ctx),
            diameter=number(self.diameter, ctx),
            depth=number(self.depth, ctx),
        )

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines = [(HOLE, tr("Floor will be at Z {floor}.", floor=number(self.floor, ctx)))]
        tool = ctx.tool(self.tool)
        if tool:
            lines.append((TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))))
            lines.append((TOOL, load_line(tool, ctx, ae=tool.diameter, ap=given(self.ap), n=given(self.n), vf=given(self.vf))))
        return lines
