"""Drilled holes on a pattern: spot, then drill in one go, with chip breaking, or with full-retract pecks."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.cutting import drill_thrust, specific_force, torque
from bastler.language import decimal, sayable, tr
from bastler.motion import Cycle
from bastler.shapes import Removal, Revolved
from bastler.steps.base import Arrival, Dim, Given, Sketch, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import (
    LIP,
    TOOL,
    given,
    number,
    passes_trouble,
    power_for,
    propose_fz,
    propose_n,
    propose_vc,
    propose_vf,
    smallest_peck,
    speed_line,
    there_are,
    tool_trouble,
)
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool, tip_length
from bastler.units import Kind, figures, scale

SPOT = "Spot"
NEAR = 0.002
"""How closely, in mm, a drill has to match the hole's diameter."""
BREAKTHROUGH = 1.0
"""How far, in mm, the full diameter goes beyond the stock's bottom when drilling through."""

_blind = is_("extent", "blind")
_spots = is_("spot", "yes")
_pecks = is_("method", "chip-break", "peck")


def _shrinks(s: Answers) -> bool:
    return _pecks(s) and s.shrink < 100


def spotter_trouble(tool: Tool | None, fits: str | None) -> list[Trouble]:
    """Says so when a tool has no point to spot with."""
    if tool is None or tool.kind in ("spot-drill", "chamfer-mill"):
        return []
    return [Trouble("spot_tool", tr("This tool does not spot."), fits)]


def _spot_tool(s: Answers, ctx: FlatContext) -> str | None:
    return next((t.id for t in ctx.tools if t.kind == "spot-drill"), None)


def _spot_diameter(s: Answers, ctx: FlatContext) -> float:
    tool = ctx.tool(s.spot_tool)
    wanted = s.diameter + ctx.mm(1.0)
    return float(min(wanted, tool.diameter) if tool else wanted)


def _peck(s: Answers, ctx: FlatContext) -> float:
    return float(round(s.diameter * (1.0 if s.method == "peck" else 0.6), 2 if ctx.unit == "mm" else 3))


@step("Drill holes", "Holes", "Spot and drill a pattern, with or without pecks")
class Drilling(PatternedStep, frozen=True, kw_only=True, tag="drilling"):
    """Answers of a drilling step."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, SPOT, TOOL)
    CHOSEN: ClassVar[str] = sayable("The drill of that diameter")

    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, HOLE, above=0)] = 6.8
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    depth: Annotated[
        float, ask("How deep", Kind.LENGTH, HOLE, above=0, when=_blind, helps="From the surface the step starts on.")
    ] = 10.0
    depth_to: Annotated[
        Literal["full", "tip"],
        choose("Depth of the", {"full": "Full diameter", "tip": "Tip"}, HOLE, when=_blind),
    ] = "full"
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None
    spot: Annotated[Literal["yes", "no"], choose("Spot first", {"yes": "Yes", "no": "No"}, SPOT)] = "yes"
    spot_tool: Annotated[str | None, pick("Tool", "tool", SPOT, propose=_spot_tool, when=_spots)] = None
    spot_diameter: Annotated[
        float | None,
        ask(
            "Chamfer diameter",
            Kind.LENGTH,
            SPOT,
            above=0,
            propose=_spot_diameter,
            when=_spots,
            helps="The spot is made as wide as this at the surface.",
        ),
    ] = None
    method: Annotated[
        Literal["once", "chip-break", "peck"],
        choose("Drill", {"once": "In one go", "chip-break": "Chip break", "peck": "Full retract"}, TOOL),
    ] = "peck"
    peck: Annotated[float | None, ask("First peck", Kind.LENGTH, TOOL, above=0, propose=_peck, when=_pecks)] = None
    shrink: Annotated[
        float,
        ask("Each next peck", Kind.PERCENT, TOOL, least=20, most=100, when=_pecks, helps="100 % keeps it the same."),
    ] = 100.0
    least_peck: Annotated[
        float | None,
        ask("Smallest peck", Kind.LENGTH, TOOL, above=0, propose=smallest_peck, when=_shrinks),
    ] = None
    dwell: Annotated[float, ask("Wait at the bottom", Kind.TIME, TOOL, least=0, most=60)] = 0.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"diameter": at.drills[0], "depth": round(at.size[2] * 0.4, 2)} if at.drills else {}

    def choose_tool(self, ctx: FlatContext) -> str | None:
        drills = [t for t in ctx.tools if t.kind == "drill" and self._matches(t, ctx)]
        return drills[0].id if drills else None

    def _matches(self, tool: Tool, ctx: FlatContext) -> bool:
        return abs(tool.diameter - self.diameter) <= ctx.mm(NEAR)

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.spot_tool, self.tool) if _spots(self) else (self.tool,)

    def tip(self, ctx: FlatContext) -> float:
        """Height of the drill's tip."""
        tool = ctx.tool(self.tool)
        return tip_length(tool.diameter, tool.tip_angle, tool.tip_diameter) if tool else 0.0

    def bottom(self, ctx: FlatContext) -> float:
        """Where the drill's tip ends."""
        if not _blind(self):
            return ctx.stock.lo[2] - ctx.mm(BREAKTHROUGH) - self.tip(ctx)
        return given(self.top) - self.depth - (self.tip(ctx) if self.depth_to == "full" else 0.0)

    def unfit(self, ctx: FlatContext) -> list[Trouble]:
        return spotter_trouble(ctx.tool(self.spot_tool), _spot_tool(self, ctx)) if _spots(self) else []

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx)
        if found:
            return found
        found = self._drill_troubles(ctx)
        if _spots(self):
            found += tool_trouble(ctx.tool(self.spot_tool), "spot_tool") or self._spot_troubles(ctx)
        return found

    def _drill_troubles(self, ctx: FlatContext) -> list[Trouble]:
        tool = ctx.tool(self.tool)
        if tool is None:
            sizes = sorted(t.diameter for t in ctx.tools if t.kind == "drill")
            nearest = min(sizes, key=lambda d: abs(d - self.diameter), default=None)
            has = there_are(decimal(f"{d:g}") for d in sizes)
            return [Trouble("diameter", tr("No drill of this size. The crib has {has}.", has=has), nearest)]
        found = super().troubles(ctx)
        if tool.kind != "drill" or not self._matches(tool, ctx):
            found.append(
                Trouble(
                    "tool", tr("This is not a drill of {diameter}.", diameter=number(self.diameter, ctx)), self.choose_tool(ctx)
                )
            )
        if _pecks(self):
            smallest = given(self.least_peck) if _shrinks(self) else given(self.peck)
            begin, _ = self.heights(ctx, given(self.top))  # pecks are counted from where feeds begin
            found += passes_trouble("peck", (begin - self.bottom(ctx)) / smallest, "pecks")
        if _blind(self) and self.bottom(ctx) < ctx.stock.lo[2] - 1e-9:
            found.append(Trouble("depth", tr("The tip comes out below. Drill through, or less deep.")))
        return found

    def _spot_troubles(self, ctx: FlatContext) -> list[Trouble]:
        tool = ctx.tool(self.spot_tool)
        if tool is None:
            return []
        if given(self.spot_diameter) > tool.diameter + 1e-9:
            return [
                Trouble(
                    "spot_diameter",
                    tr("{says} makes {diameter} at most.", says=tool.says, diameter=number(tool.diameter, ctx)),
                    tool.diameter,
                )
            ]
        if given(self.spot_diameter) <= tool.tip_diameter:
            return [Trouble("spot_diameter", tr("Smaller than the flat at the tool's tip."))]
        return []

    def spot_depth(self, tool: Tool) -> float:
        """How deep the tip of the spot drill goes for the wanted diameter at the surface."""
        return tip_length(given(self.spot_diameter), tool.tip_angle, tool.tip_diameter)

    def plan(self, ctx: FlatContext) -> list[Stage]:
        stages = []
        spotter, drill = ctx.tool(self.spot_tool), ctx.tool(self.tool)
        if _spots(self) and spotter:
            n = given(propose_n(spotter, ctx, given(propose_vc(spotter, ctx, None))))
            feed = given(propose_vf(spotter, ctx, given(propose_fz(spotter, ctx, None, None)), n))
            z = given(self.top) - self.spot_depth(spotter)
            stages.append(self.cycle_stage("spot", spotter, n, self._cycle(ctx, z, feed, plain=True), ctx))
        if drill:
            cycle = self._cycle(ctx, self.bottom(ctx), given(self.vf), plain=False)
            stages.append(self.cycle_stage("drill", drill, given(self.n), cycle, ctx))
        return stages

    def _cycle(self, ctx: FlatContext, z: float, feed: float, *, plain: bool) -> Cycle:
        r, back = self.heights(ctx, given(self.top))
        pecking = _pecks(self) and not plain
        return Cycle(
            points=tuple(self.holes(ctx)),
            z=z,
            r=r,
            back=back,
            feed=feed,
            peck=given(self.peck) if pecking else 0.0,
            shrink=self.shrink / 100.0 if pecking else 1.0,
            least=self.least_peck or 0.0,
            full=self.method == "peck",
            clearance=ctx.card.peck_clearance,
            pull=ctx.card.chip_break,
            dwell=0.0 if plain else self.dwell,
        )

    def _thrust(self, tool: Tool, ctx: FlatContext) -> float:
        """Feed force in N."""
        f = ctx.to_mm(given(self.vf)) / given(self.n)
        h = f / 2 * math.sin(math.radians(tool.tip_angle / 2))
        kc = specific_force(ctx.material.kc11, ctx.material.mc, h)
        return drill_thrust(ctx.to_mm(tool.diameter), f, kc, tool.tip_angle)

    def removes(self, ctx: FlatContext) -> list[Removal]:
        gone: list[Removal] = []
        spotter, top = ctx.tool(self.spot_tool), given(self.top)
        for x, y in self.holes(ctx):
            if _spots(self) and spotter:
                flat, depth = spotter.tip_diameter / 2, self.spot_depth(spotter)
                gone.append(Revolved(x, y, _cone(flat, given(self.spot_diameter) / 2, top - depth, top)))
            gone.append(Revolved(x, y, self._drilled(ctx)))
        return gone

    def _drilled(self, ctx: FlatContext) -> tuple[tuple[float, float], ...]:
        z = self.bottom(ctx)
        return ((0.0, z), (self.diameter / 2, z + self.tip(ctx)))

    def sketch(self, ctx: FlatContext) -> Sketch:
        r, top = self.diameter / 2, given(self.top)
        at = self.middle(ctx)[0] - ctx.stock.lo[0]
        dims = [
            Dim("diameter", "section", "along x", (at - r, top), (at + r, top)),
        ]
        if _blind(self):
            end = self.bottom(ctx) + (self.tip(ctx) if self.depth_to == "full" else 0.0)
            dims.append(Dim("depth", "section", "depth", (at + r, top), (at + r, end)))
        return self.hole_sketch(ctx, tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        pattern = ctx.patterns.get(self.pattern)
        if pattern is None:
            return tr("no positions yet")
        deep = tr("{depth} deep", depth=number(self.depth, ctx)) if _blind(self) else tr("through")
        return f"{self.many(ctx)} × Ø{number(self.diameter, ctx)} {deep}, {pattern.name}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines = [(HOLE, tr("Tip ends at Z {bottom}.", bottom=number(self.bottom(ctx), ctx)))]
        spotter, tool = ctx.tool(self.spot_tool), ctx.tool(self.tool)
        if _spots(self) and spotter:
            lines.append((SPOT, tr("Tip goes {spot_depth} deep.", spot_depth=number(self.spot_depth(spotter), ctx))))
        if tool:
            lines.append((TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))))
            power, n = drill_power(tool, ctx, given(self.n), given(self.vf)), given(self.n)
            turn = torque(power, n, ctx.card.efficiency)
            lines.append(
                (
                    TOOL,
                    tr(
                        "power {power} of {power_2:g} kW · {turn} Nm · thrust {thrust:.0f} N",
                        power=figures(power, 2),
                        power_2=ctx.card.power,
                        turn=figures(turn, 2),
                        thrust=self._thrust(tool, ctx),
                    ),
                )
            )
        return lines


def _cone(flat: float, radius: float, bottom: float, top: float) -> tuple[tuple[float, float], ...]:
    """The spot's cone, from its tip (or the flat there) to the surface."""
    return ((0.0, bottom), *(((flat, bottom),) if flat else ()), (radius, top))


def drill_power(tool: Tool, ctx: FlatContext, n: float, vf: float) -> float:
    """Motor power in kW for drilling into the full: removal rate times kc at the lips' chip thickness (DIN 6580)."""
    k = scale(ctx.unit, "mm")
    if n <= 0:
        return 0.0
    rate = math.pi / 4 * (tool.diameter * k) ** 2 * vf * k / 1000.0
    return power_for(rate, LIP * vf * k / n / tool.flutes, ctx.material, ctx.card)
