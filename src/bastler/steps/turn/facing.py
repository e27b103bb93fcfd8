"""Facing: the front of the work flat, to the centre or to a bore, from outside in or from a bore outward."""

from __future__ import annotations

import itertools
from typing import Annotated, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose
from bastler.language import tr
from bastler.motion.even import equal_parts
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Dim, Stage, TurnSketch, step
from bastler.steps.cut import TOOL, given, number, passes_trouble
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import (
    ChippedStep,
    bite_power,
    even,
    hand_trouble,
    home_outside,
    insert_trouble,
    powered,
    speed_says,
    start,
)
from bastler.tools import TurnTool
from bastler.units import Kind, figures

WHERE, HOW = "Where", "How"
HAIR_MM = 0.005
"""What rounding of the text and chords of a nose may make of a bite."""


def _ap(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.turn_tool(s.tool)
    if tool is None:
        return None
    most = powered(tool, ctx, s, min(ctx.mm(1.5), 0.25 * tool.edge_in_cut))
    return even(ctx.front - s.finish_z - s.last, most, ctx)


def _way(s: Answers, ctx: TurnedContext) -> str:
    return "in"


def past_centre(tool: TurnTool, bite: float, hair: float) -> float:
    """How far over the centre a tool has to go that takes so much of a face, until no part of its edge stands short of that: with
    the face it is its nose, higher up what the edge slants, and a hair more."""
    outline = shapely.Polygon(tool.cutting)
    z0, r0, _, r1 = outline.bounds
    found = [tool.nose]
    for z in {bite + hair, *(z - z0 for z, _ in tool.cutting if 0.0 < z - z0 < bite)}:
        across = outline.intersection(shapely.LineString([(z0 + z, r0 - 1.0), (z0 + z, r1 + 1.0)]))
        found += [] if across.is_empty else [float(across.bounds[1]) + hair]
    return max(found)


@step("Face the end", "Ends", "The front flat, to the centre or to the bore", planes=TURNED, rank=1)
class TurnFacing(ChippedStep, frozen=True, kw_only=True, tag="turn-facing"):
    """Answers of a facing step."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOW, TOOL)

    finish_z: Annotated[float, ask("Finished face at Z", Kind.LENGTH, WHERE, helps="0 is the finished front face.")] = 0.0
    way: Annotated[Literal["in", "out"] | None, choose("Cuts", {"in": "Inward", "out": "Outward"}, HOW, propose=_way)] = None
    last: Annotated[
        float, ask("Last pass takes", Kind.LENGTH, HOW, least=0, helps="Left for one light pass at the end; 0 for none.")
    ] = 0.0
    ap: Annotated[float | None, ask("Bite", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap")] = None

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        return next((t.id for t in ctx.turning_tools if t.kind == "turning" and t.approach > 90 and t.hand == "right"), None)

    def depth(self, ctx: TurnedContext) -> float:
        return ctx.front - self.finish_z

    def inner(self, ctx: TurnedContext) -> float:
        """The radius of the hole at the face; 0 for solid."""
        return ctx.bore(self.finish_z, ctx.front)

    def at_radius(self, ctx: TurnedContext) -> float:
        return ctx.outer(self.finish_z, ctx.front) * 0.6 or ctx.over

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        return insert_trouble(ctx.tool(self.tool), self.choose_tool(ctx), kinds=("turning",))

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        found += hand_trouble(ctx.tool(self.tool), self.choose_tool(ctx))
        if self.depth(ctx) < -1e-9:
            found.append(Trouble("finish_z", tr("The face is at Z {front} already.", front=number(ctx.front, ctx))))
        if self.finish_z <= ctx.stock.bounds[0]:
            found.append(Trouble("finish_z", tr("The stock ends before that.")))
        if self.last > max(self.depth(ctx), 0.0) + 1e-9:
            found.append(Trouble("last", tr("More than there is to take off."), 0.0))
        if self.way == "out" and self.inner(ctx) <= 0:
            found.append(Trouble("way", tr("There is no bore to begin in."), "in"))
        if found or ctx.tool(self.tool) is None:
            return found
        return passes_trouble("ap", self.depth(ctx) / given(self.ap), "passes")

    def levels(self, ctx: TurnedContext) -> list[float]:
        rough = self.depth(ctx) - self.last
        count = equal_parts(rough, given(self.ap)) if rough > 1e-9 else 0
        found = [ctx.front - rough * k / count for k in range(1, count + 1)]
        return [*found, self.finish_z] if self.last > 0 else found or [self.finish_z]

    def bite(self, ctx: TurnedContext) -> float:
        """The most that a pass takes."""
        return max(a - b for a, b in itertools.pairwise([ctx.front, *self.levels(ctx)]))

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path, feed = start(ctx), given(self.f)
        inner = self.inner(ctx)
        past = past_centre(tool, self.bite(ctx), ctx.mm(HAIR_MM))
        low = max(-past if inner <= 0 else inner - tool.nose - ctx.clear, -past)
        outer = ctx.outer(self.finish_z, ctx.front) + ctx.clear
        begin, end = (outer, low) if self.way == "in" else (max(low, 0.0), outer)
        for k, z in enumerate(self.levels(ctx)):
            if k == 0:
                path.go(z=ctx.front + ctx.clear)
            path.go(r=begin)
            if self.way == "out":
                path.go(z=min(path.z, ctx.front + ctx.clear)).cut(feed, z=z)
            else:
                path.go(z=z)
            path.cut(feed, r=end)
            path.cut(feed, z=z + ctx.card.pull_off)
        path.go(z=ctx.front + ctx.clear)
        home_outside(path, ctx)
        return [self.stage("face", tool, path)]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return [shapely.box(self.finish_z, 0.0, ctx.front + 1.0, ctx.over)]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        r = ctx.outer(self.finish_z, ctx.front)
        return TurnSketch(dims=(Dim("finish_z", "half", "length", (ctx.front, r), (self.finish_z, r)),))

    def summary(self, ctx: TurnedContext) -> str:
        return tr(
            "{max} off, {inner}",
            max=number(max(self.depth(ctx), 0.0), ctx),
            inner=tr("to the bore") if self.inner(ctx) > 0 else tr("to the centre"),
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        bite = self.depth(ctx) / max(len(self.levels(ctx)), 1)
        power = bite_power(tool, ctx, ap=max(bite, 0.0), f=given(self.f), vc=given(self.vc))
        r = ctx.outer(self.finish_z, ctx.front)
        return [
            (TOOL, speed_says(self, ctx, max(self.inner(ctx), 0.0), r)),
            (
                TOOL,
                tr(
                    "{levels} passes · power {power} of {power_2:g} kW",
                    levels=len(self.levels(ctx)),
                    power=figures(power, 2),
                    power_2=ctx.card.power,
                ),
            ),
        ]
