"""Tapping drilled holes in step with the spindle. The tap's *lead*, the turns at its end that cut no full thread, goes deeper
than the thread and is a visible answer; the hole is checked against it."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import msgspec

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.cutting import specific_force, tap_torque
from bastler.language import sayable, tr
from bastler.shapes import Removal
from bastler.steps.base import Dim, Sketch, Stage, ThreadLines, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, advised_speed, given, number, passes_trouble, propose_vc
from bastler.steps.hole.existing import deepest, drilled, narrowest
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under, nut_threads
from bastler.tools import Tool
from bastler.units import Kind, figures

CYCLE = "G84"
SPEED = 0.25
"""Of the cutting speed of a drill of the same material."""
WHOLE = 20.0
"""Speeds are whole multiples of this, so that the feed is exact in the program's decimals."""
LEAST_THREAD = 0.78
"""In pitches: a hole that is less than this smaller than the thread leaves under 60 % of it (60°)."""
STEPS = "steps"
BELOW = 1.0
UNDER_THE_SPOT = 4.0
"""How deep, in mm, a hole is looked at to tell how wide it is."""

_blind = is_("extent", "blind")


def _n(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    vc = propose_vc(tool, ctx, None)
    if tool is None or vc is None:
        return None
    turns = SPEED * advised_speed(tool, ctx).value * 1000.0 / (math.pi * ctx.to_mm(tool.diameter))
    low, high = ctx.card.speed
    return max(WHOLE, min(max(turns, low), high) // WHOLE * WHOLE)


def _vf(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return round((tool.pitch or 1.0) * s.n, 4) if tool and s.n else None


def _lead(s: Answers, ctx: FlatContext) -> float:
    tool = ctx.tool(s.tool)
    return round(tool.lead * tool.pitch, 4) if tool else 0.0


def _depth(s: Answers, ctx: FlatContext) -> float:
    """As deep as the holes allow, twice the diameter at most."""
    tool = ctx.tool(s.tool)
    if tool is None:
        return ctx.mm(8.0)
    low = deepest(ctx, s.holes(ctx), tool.core)
    room = given(s.top) - low - given(s.lead) if low is not None else 0.0
    most = 2 * tool.diameter
    places = 1 if ctx.unit == "mm" else 3
    return math.floor(min(room, most) * 10**places + 1e-6) / 10**places if room > 0 else most


def _in_steps(s: Answers) -> bool:
    return bool(s.method == STEPS)


def _peck(s: Answers, ctx: FlatContext) -> float | None:
    """Four turns."""
    tool = ctx.tool(s.tool)
    return round(4 * tool.pitch, 3) if tool and tool.pitch else None


@step("Tap", "Holes", "Threads in drilled holes", rank=9, needs_cycle=CYCLE)
class Tapping(PatternedStep, frozen=True, kw_only=True, tag="tapping"):
    """Answers of tapping. The tap says the thread."""

    LACKS: ClassVar[str] = sayable("tap of this size")
    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)
    CHOSEN: ClassVar[str] = sayable("The tap that the holes were drilled for")

    vc: float | None = None
    n: Annotated[float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, TOOL, above=0, propose=_n, symbol="n")] = None
    fz: float | None = None
    vf: Annotated[
        float | None,
        ask("Feed rate", Kind.FEED_RATE, TOOL, above=0, propose=_vf, symbol="vf", helps="A pitch for every turn."),
    ] = None
    lead: Annotated[
        float | None,
        ask(
            "The tap's lead",
            Kind.LENGTH,
            HOLE,
            least=0,
            late=True,
            propose=_lead,
            helps="Goes deeper than the full thread by this.",
        ),
    ] = None
    top: Annotated[
        float | None,
        ask(
            "Starts at Z", Kind.LENGTH, HOLE, late=True, propose=highest_under, helps="The surface that is there before the step."
        ),
    ] = None
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    method: Annotated[
        Literal["once", "steps"],
        choose("Tap", {"once": "In one go", "steps": "In steps, out each time"}, TOOL, helps="Steps break long chips."),
    ] = "once"
    peck: Annotated[
        float | None,
        ask(
            "Each step",
            Kind.LENGTH,
            TOOL,
            above=0,
            propose=_peck,
            when=_in_steps,
            helps="What the tap gains before it comes out.",
        ),
    ] = None
    depth: Annotated[
        float | None,
        ask(
            "Full thread to",
            Kind.LENGTH,
            HOLE,
            above=0,
            propose=_depth,
            when=_blind,
            helps="From the surface the step starts on.",
        ),
    ] = None

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The tap whose drill the holes were made with; else the first there is."""
        taps = [t for t in ctx.tools if t.kind == "tap"]
        open_ = narrowest(ctx, self.holes(ctx))
        best = min(taps, key=lambda t: abs(t.diameter - t.pitch - open_), default=None)
        return best.id if best else None

    def wide(self, ctx: FlatContext) -> float:
        tool = ctx.tool(self.tool)
        return tool.diameter if tool else 0.0

    def bottom(self, ctx: FlatContext) -> float:
        """Where the tap's tip ends."""
        full = given(self.top) - given(self.depth) if _blind(self) else ctx.stock.lo[2] - ctx.mm(BELOW)
        return full - given(self.lead)

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx)
        if not found and not any(t.kind == "tap" for t in ctx.tools):
            return [Trouble("tool", tr("There is no tap among the job's tools."))]
        found = found or super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if found or tool is None:
            return found
        if tool.kind != "tap":
            return [Trouble("tool", tr("This is not a tap."), self.choose_tool(ctx))]
        if CYCLE not in ctx.card.dialect.cycles:
            return [
                Trouble("tool", tr("{name} has no cycle for tapping: a tap would be torn out of the hole.", name=ctx.card.name))
            ]
        if not (ctx.card.rigid_tapping or tool.floating):
            return [
                Trouble(
                    "tool", tr("{name} does not turn in step with its feed: the tap needs a floating holder.", name=ctx.card.name)
                )
            ]
        if _in_steps(self) and (tool.floating or not ctx.card.rigid_tapping):
            return [Trouble("method", tr("A floating tap does not find its thread again."), "once")]
        if abs(given(self.vf) - tool.pitch * given(self.n)) > 1e-3 * given(self.vf):
            right = round(tool.pitch * given(self.n), 4)
            return [
                Trouble(
                    "vf",
                    tr("The pitch is {pitch:g}: at {n:g} turns it is {right:g}.", pitch=tool.pitch, n=given(self.n), right=right),
                    right,
                )
            ]
        found = (
            passes_trouble("peck", (self.heights(ctx, given(self.top))[0] - self.bottom(ctx)) / given(self.peck), "steps")
            if _in_steps(self)
            else []
        )
        return found or self._hole_troubles(tool, ctx)

    def _hole_troubles(self, tool: Tool, ctx: FlatContext) -> list[Trouble]:
        """The holes have to be there, of the right size, and deep enough for the lead."""
        core = tool.core
        low, fits = deepest(ctx, self.holes(ctx), core), self.choose_tool(ctx)
        if low is None or low > self.bottom(ctx) + 1e-9:
            within = max(self.bottom(ctx), given(self.top) - ctx.mm(UNDER_THE_SPOT))
            narrow = min(drilled(ctx, x, y, within) for x, y in self.holes(ctx))
            if 0.0 < narrow < core - ctx.mm(0.01):
                text = tr(
                    "The holes are {narrow}; {name} needs {core}.",
                    narrow=number(narrow, ctx),
                    name=tool.called,
                    core=number(core, ctx),
                )
                return [Trouble("tool", text, fits if fits != tool.id else None)]
            if low is None:
                return [Trouble("pattern", tr("There is nothing to tap. Drill the holes first."))]
            most = given(self.top) - low - given(self.lead)
            text = tr("The tap would bottom out: with its lead the holes are deep enough for {most}.", most=number(most, ctx))
            return [Trouble("depth", text, round(most, 4) if most > 0 else None)]
        wide = max(drilled(ctx, x, y, self.bottom(ctx)) for x, y in self.holes(ctx))
        if wide > tool.diameter - LEAST_THREAD * tool.pitch + ctx.mm(0.01):
            text = tr(
                "The holes are {wide}: too wide for {name}, too little thread is left.", wide=number(wide, ctx), name=tool.called
            )
            return [Trouble("tool", text, fits if fits != tool.id else None)]
        return []

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        plain = self.plain_cycle(ctx, given(self.top), self.bottom(ctx), given(self.vf))
        peck = given(self.peck) if _in_steps(self) else 0.0
        cycle = msgspec.structs.replace(plain, pitch=tool.pitch, slow=True, peck=peck)
        return [self.cycle_stage("tap", tool, given(self.n), cycle, ctx)]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        """Nothing that a drawing of the part would show: the hole stays the hole."""
        return []

    def threads(self, ctx: FlatContext) -> list[ThreadLines]:
        tool, top = ctx.tool(self.tool), given(self.top)
        if tool is None:
            return []
        end = top - given(self.depth) if _blind(self) else ctx.stock.lo[2]
        return nut_threads(self.holes(ctx), top, end, tool.core / 2, tool.diameter / 2)

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], self.wide(ctx) / 2, given(self.top)
        dims = [Dim("depth", "section", "depth", (at + r, top), (at + r, top - given(self.depth)))] if _blind(self) else []
        return self.hole_sketch(ctx, tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        tool = ctx.tool(self.tool)
        deep = tr("{depth} deep", depth=number(given(self.depth), ctx)) if _blind(self) else tr("through")
        return f"{self.many(ctx)} × {tool.size if tool else tr('no tap')}, {deep}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines, tool = [(HOLE, tr("Tip ends at Z {bottom}.", bottom=number(self.bottom(ctx), ctx)))], ctx.tool(self.tool)
        if tool is not None:
            pitch = ctx.to_mm(tool.pitch)
            kc = specific_force(ctx.material.kc11, ctx.material.mc, pitch / 16)
            lines.append(
                (TOOL, tr("torque {tap_torque} Nm", tap_torque=figures(tap_torque(ctx.to_mm(tool.diameter), pitch, kc), 2)))
            )
        return lines

    def sources(self, ctx: FlatContext) -> dict[str, str]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return {}
        because = tr(
            "vc {because}; × {speed:g} for tapping, in steps of {whole:g} turns.",
            because=advised_speed(tool, ctx).because,
            speed=SPEED,
            whole=WHOLE,
        )
        return {"n": because, "vf": tr("n × pitch {pitch:g}.", pitch=tool.pitch)}
