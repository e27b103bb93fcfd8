"""Countersinks: the edge of holes made as wide as wanted, by a tool of that angle. The depth follows from the diameter."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar

from bastler.ask import Answers, Trouble, ask
from bastler.language import sayable, tr
from bastler.shapes import Removal, Revolved, disc
from bastler.steps.base import Arrival, Dim, Given, Sketch, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given, number, speed_line
from bastler.steps.hole.existing import holes_at
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool, tip_length
from bastler.units import Kind, number_text

SINKS = ("chamfer-mill", "spot-drill")
NEAR = 0.1
"""Degrees by which the tool's angle may differ."""
FREE = 0.95
"""How wide a hole has to be for a blunt tip, as a share of it: what is under its rim alone is scraped away."""
RINGS, LOW_MM = 6, 0.02
"""At so many rings about the cone it is looked whether something stands there; less than that, in mm, is nothing."""
REVOLUTIONS = 2.0
"""Turns to wait at the bottom, so that the cone comes out round."""


def _dwell(s: Answers, ctx: FlatContext) -> float:
    n = s.n or 0.0
    return round(REVOLUTIONS * 60.0 / n, 2) if n else 0.0


@step("Countersink", "Holes", "The edges of holes, to a diameter", rank=6)
class Countersink(PatternedStep, frozen=True, kw_only=True, tag="countersink"):
    """Answers of countersinking."""

    LACKS: ClassVar[str] = sayable("countersink of this angle")
    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)
    CHOSEN: ClassVar[str] = sayable("A tool of that angle that is wide enough")

    diameter: Annotated[
        float, ask("Diameter", Kind.LENGTH, HOLE, above=0, helps="At the surface; the depth follows from it.")
    ] = 9.0
    angle: Annotated[float, ask("Angle", Kind.ANGLE, HOLE, least=30, most=150, helps="Of the whole cone.")] = 90.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None
    dwell: Annotated[
        float | None,
        ask("Wait at the bottom", Kind.TIME, TOOL, least=0, most=60, propose=_dwell, helps="Two turns make it round."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"diameter": 9.0 if at.unit == "mm" else 0.35}

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """One of that angle that is wide enough: a chamfer mill where all holes are wider than its tip, else one with a point."""
        fits = [t for t in ctx.tools if t.kind in SINKS and abs(t.tip_angle - self.angle) < NEAR]
        fits = [t for t in fits if t.diameter >= self.diameter] or fits
        cuts = [t for t in fits if self.open_for(t, ctx) and self.in_the_way(t, ctx) is None]
        best = min(cuts or fits, key=lambda t: (t.kind != "chamfer-mill", t.diameter), default=None)
        return best.id if best else None

    def open_for(self, tool: Tool, ctx: FlatContext) -> bool:
        """Does its tip cut, or is there a hole at all positions that is as wide as the tip where it comes to?"""
        if tool.centre_cutting:
            return True
        top = highest_under(self, ctx) if self.top is None else self.top
        low = given(top) - self.deep(tool)
        open_ = (max((2 * h.radius_at(low) for h in holes_at(ctx, *at)), default=0.0) for at in self.holes(ctx))
        return all(wide >= FREE * tool.tip_diameter for wide in open_)

    def in_the_way(self, tool: Tool, ctx: FlatContext) -> tuple[float, float] | None:
        """The first position where something stands higher beside the cone than the tool's flank does: it is wider than the room
        that leads there."""
        top, own, wide = highest_under(self, ctx) if self.top is None else self.top, self.diameter / 2, tool.diameter / 2
        if top is None or wide <= own:
            return None
        steep = 1.0 / math.tan(math.radians(tool.tip_angle / 2))
        radii = [own + (wide - own) * k / RINGS for k in range(1, RINGS + 1)]
        for x, y in self.holes(ctx):
            if ctx.surface(disc(x, y, wide)) <= top + ctx.mm(LOW_MM):
                continue
            if any(ctx.surface(disc(x, y, r)) > top + (r - own) * steep + ctx.mm(LOW_MM) for r in radii):
                return x, y
        return None

    def deep(self, tool: Tool) -> float:
        """How deep the tip goes."""
        return tip_length(self.diameter, tool.tip_angle, tool.tip_diameter)

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx) or super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if found or tool is None:
            return found
        if tool.kind not in SINKS or abs(tool.tip_angle - self.angle) >= NEAR:
            return [Trouble("tool", tr("This tool does not make a cone of {angle:g}°.", angle=self.angle), self.choose_tool(ctx))]
        if self.diameter > tool.diameter:
            return [
                Trouble(
                    "diameter",
                    tr("{says} makes {diameter} at most.", says=tool.says, diameter=number(tool.diameter, ctx)),
                    tool.diameter,
                )
            ]
        if self.diameter <= tool.tip_diameter:
            return [Trouble("diameter", tr("Smaller than the flat at the tool's tip."))]
        if not self.open_for(tool, ctx):
            deep = number(self.deep(tool), ctx)
            better = ctx.tool(self.choose_tool(ctx))
            fits = better.id if better and better.diameter >= self.diameter and self.open_for(better, ctx) else None
            return [
                Trouble(
                    "tool", tr("Its blunt tip does not cut, and goes {deep} deep: there no hole is as wide.", deep=deep), fits
                )
            ]
        if (at := self.in_the_way(tool, ctx)) is not None:
            where, chosen = " Y ".join(number(v, ctx) for v in at), self.choose_tool(ctx)
            text = tr(
                "Ø{diameter} does not get down to it at X {where}: something stands higher beside it.",
                diameter=number(tool.diameter, ctx),
                where=where,
            )
            return [Trouble("tool", text, chosen if chosen != tool.id else None)]
        return []

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        top = given(self.top)
        cycle = self.plain_cycle(ctx, top, top - self.deep(tool), given(self.vf), given(self.dwell))
        return [self.cycle_stage("countersink", tool, given(self.n), cycle, ctx)]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        top, flat = given(self.top), tool.tip_diameter / 2
        bottom = top - self.deep(tool)
        cone = ((0.0, bottom), *(((flat, bottom),) if flat else ()), (self.diameter / 2, top))
        return [Revolved(x, y, cone) for x, y in self.holes(ctx)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], self.diameter / 2, given(self.top)
        return self.hole_sketch(ctx, (Dim("diameter", "section", "along x", (at - r, top), (at + r, top)),))

    def summary(self, ctx: FlatContext) -> str:
        return f"{self.many(ctx)} × Ø{number(self.diameter, ctx)}, {number_text(self.angle, Kind.ANGLE, ctx.unit)}°"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        return [
            (HOLE, tr("Tip goes {deep} deep.", deep=number(self.deep(tool), ctx))),
            (TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))),
        ]
