"""The answers every turning step shares: tool, speed and feed, and the ways to the work and back.

Spin is constant surface speed under a cap where the machine can; else fixed turns a minute at the diameter the step works on.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

import msgspec

from bastler.ask import Answers, Trouble, ask, choose, pick
from bastler.cutting import Advice, cutting_speed, specific_force, speed_advice, spindle_speed, turning_power
from bastler.language import tr
from bastler.motion.areas import NEAR_SHARE
from bastler.motion.moves import Move, TurnPath
from bastler.motion.turning import Pencil
from bastler.motion.turning.chips import Broken, interrupted
from bastler.shapes import Line, Segment
from bastler.shapes.kinds import Region
from bastler.steps.base import Spin, Stage, Step, replaced
from bastler.steps.cut import (
    THROUGH_AIR,
    TOOL,
    allowed_power,
    given,
    known_speed,
    number,
    passes_trouble,
    speed_scale,
    tool_trouble,
)
from bastler.steps.turn.context import TurnedContext
from bastler.tools import AnyTool, TurnTool
from bastler.units import Kind, Unit

NOSE_FEED = 0.4
"""Roughing feed proposed, as a share of the nose radius: under one half, where a nose still carries it."""
SPEED_SHARE = 0.85
"""Of the middle of the material's range, for turning without a break."""


LEAST_RADIUS = 1e-3
"""Nearer to the axis than this no turn is timed."""
FASTEST_MM = 0.5
"""Through air a tool goes no more than that a turn."""


def near(ctx: TurnedContext) -> float:
    """How far off the stock, as it is just then, a cut begins."""
    return NEAR_SHARE * ctx.clear


def through_air(feed: float, ctx: TurnedContext) -> float:
    """The feed a turn from where rapids end to where a cut begins."""
    return max(feed, min(THROUGH_AIR * feed, ctx.mm(FASTEST_MM)))


def come_down(pencil: Pencil, ctx: TurnedContext, first: Segment, v: float, feed: float) -> None:
    """Along the first piece of a way, where that comes straight down through air, to a height of the view."""
    if isinstance(first, Line) and first.start[1] > v > first.end[1]:
        share = (first.start[1] - v) / (first.start[1] - first.end[1])
        pencil.cut(through_air(feed, ctx), first.start[0] + share * (first.end[0] - first.start[0]), v)


def _tool(s: Answers, ctx: TurnedContext) -> str | None:
    chosen: str | None = s.choose_tool(ctx)
    return chosen


def _mode(s: Answers, ctx: TurnedContext) -> str:
    return "surface" if ctx.card.surface_speed and s.SURFACE else "fixed"


def _may_surface(s: Answers) -> bool:
    return bool(s.SURFACE)


def _surface(s: Answers) -> bool:
    return _may_surface(s) and s.speed == "surface"


def _fixed(s: Answers) -> bool:
    """Without a choice too: a drill on the centre line or a thread turns at one speed, whatever a file says."""
    return not _surface(s)


def _vc(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    if s.n is not None:
        return cutting_speed(s.n, 2 * ctx.to_mm(s.at_radius(ctx))) * speed_scale(ctx.unit)
    return float(round(advised_speed(s, tool, ctx).value * speed_scale(ctx.unit), 0))


def advised_speed(s: Answers, tool: AnyTool, ctx: TurnedContext) -> Advice:
    """The cutting speed that is proposed, in m/min, and why."""
    found = speed_advice(
        ctx.material, tool.material, tool.coating, pace=ctx.pace, reach=0.0, known=known_speed(tool, ctx)
    )  # fmt: skip
    share = SPEED_SHARE * s.slower()
    return Advice(found.value * share, tr("{because} × {share:.2f} for this kind of turning", because=found.because, share=share))


def _cap(s: Answers, ctx: TurnedContext) -> float:
    return float(math.floor(ctx.most_speed))


def _n(s: Answers, ctx: TurnedContext) -> float | None:
    if s.vc is None:
        return None
    wanted = spindle_speed(s.vc / speed_scale(ctx.unit), 2 * ctx.to_mm(max(s.at_radius(ctx), ctx.mm(0.5))))
    return float(round(min(max(min(wanted, s.most_turns(ctx)), ctx.card.speed[0]), ctx.most_speed)))


def _f(s: Answers, ctx: TurnedContext) -> float | None:
    found: float | None = s.propose_feed(ctx)
    return None if found is None else round(found, 3 if ctx.unit == "mm" else 4)


class ThreadGauge(msgspec.Struct, frozen=True, kw_only=True):
    """A thread as it is measured: from `begin` to `end` along Z ridge and groove are half a `pitch` wide each at `radius`, which
    grows by `slope` a unit toward the chuck, seen from `begin`; its ridges end at `crest`, outward on a bolt, inward in a nut. A
    turn leads by the `lead`, left-handed or not. One `across` lies on the end face: it goes along X from `begin` inward to `end`,
    `radius` and `crest` are lengths along Z, and left is what winds inward counter-clockwise. Lengths in the job's unit."""

    name: str
    begin: float
    end: float
    radius: float
    crest: float
    inside: bool
    slope: float
    pitch: float
    lead: float
    left: bool
    across: bool = False

    def at(self, z: float) -> float:
        """The pitch radius at a length."""
        return self.radius + self.slope * (self.begin - z)


class TurningStep(Step[TurnedContext], frozen=True, kw_only=True):
    """A step with one main tool and its cutting data. `choose_tool`, `at_radius` and `propose_feed` say what is proposed."""

    SURFACE = True
    """May the step run under constant surface speed?"""
    SLOWER = 1.0
    """Share of the usual cutting speed that is proposed."""

    tool: Annotated[str | None, pick("Tool", "tool", TOOL, propose=_tool)] = None
    speed: Annotated[
        Literal["surface", "fixed"] | None,
        choose("Spindle", {"surface": "Constant surface speed", "fixed": "Fixed"}, TOOL, propose=_mode, when=_may_surface),
    ] = None
    vc: Annotated[float | None, ask("Cutting speed", Kind.CUTTING_SPEED, TOOL, above=0, propose=_vc, symbol="vc")] = None
    cap: Annotated[
        float | None,
        ask(
            "Never faster than",
            Kind.SPINDLE_SPEED,
            TOOL,
            above=0,
            propose=_cap,
            when=_surface,
            helps="What chuck and machine take.",
        ),
    ] = None
    n: Annotated[float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, TOOL, above=0, propose=_n, when=_fixed, symbol="n")] = (
        None
    )
    f: Annotated[
        float | None,
        ask("Feed a turn", Kind.FEED_PER_TOOTH, TOOL, above=0, propose=_f, symbol="f", helps="Per turn of the work."),
    ] = None

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        raise NotImplementedError

    def lacks(self) -> str:
        """What is said to be missing where nothing among the job's tools does the work."""
        return tr("turning tool for this")

    def slower(self) -> float:
        """Share of the usual cutting speed that is proposed."""
        return self.SLOWER

    def at_radius(self, ctx: TurnedContext) -> float:
        """The radius that a fixed speed is worked out for."""
        return float(ctx.raw.bounds[3])

    def most_turns(self, ctx: TurnedContext) -> float:
        """The fastest fixed speed that is proposed."""
        return math.inf

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.tool)
        return NOSE_FEED * tool.nose if tool else None

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.tool,)

    def sources(self, ctx: TurnedContext) -> dict[str, str]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return {}
        return {
            "vc": advised_speed(self, tool, ctx).because,
            "n": tr("vc over π × Ø{at_radius}.", at_radius=number(2 * self.at_radius(ctx), ctx)),
        }

    def farther(self, by: float) -> TurningStep | None:
        """The same so much farther toward the chuck, from given answers; None where it is not at a place along Z."""
        return None

    def thread_region(self, ctx: TurnedContext) -> Region | None:
        """Where the step cuts a thread, which no outline knows; None for most."""
        return None

    def thread_gauge(self, ctx: TurnedContext) -> ThreadGauge | None:
        """What the thread that the step cuts is measured by; None for most."""
        return None

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = tool_trouble(ctx.tool(self.tool), "tool", self.lacks())
        if _surface(self) and not ctx.card.surface_speed:
            found.append(Trouble("speed", tr("{name} has no constant surface speed.", name=ctx.card.name), "fixed"))
        if _fixed(self) and self.n is not None and self.n > ctx.card.speed[1]:
            found.append(
                Trouble(
                    "n",
                    tr("The spindle of {name} ends at {speed:g} 1/min.", name=ctx.card.name, speed=ctx.card.speed[1]),
                    math.floor(ctx.most_speed),
                )
            )
        return found

    def turning(self) -> Spin:
        """The spindle as the stage wants it."""
        if _surface(self):
            return Spin(n=0.0, vc=given(self.vc), cap=given(self.cap))
        return Spin(n=given(self.n))

    def moved(self, path: TurnPath, unit: Unit) -> tuple[Move, ...]:
        """The moves that were drawn, in the job's unit."""
        return tuple(path.moves)

    def stage(self, name: str, tool: AnyTool, path: TurnPath, spin: Spin | None = None) -> Stage:
        spin = spin or self.turning()
        if isinstance(tool, TurnTool) and tool.turns == "back":
            spin = replaced(spin, back=True)
        return Stage(name=name, plane="turned", tool=tool, spin=spin, start=path.start, moves=self.moved(path, tool.unit))


def _breaks(s: Answers) -> bool:
    return bool(s.chips != "steady")


def _rests(s: Answers) -> bool:
    return bool(s.chips == "rest")


def _comes_back(s: Answers) -> bool:
    return bool(s.chips == "back")


def _back(s: Answers, ctx: TurnedContext) -> float:
    return ctx.card.chip_break


class ChippedStep(TurningStep, frozen=True, kw_only=True):
    """A step that may interrupt its feed, where the material makes one long chip of it."""

    chips: Annotated[
        Literal["steady", "rest", "back"],
        choose(
            "Feed", {"steady": "Steady", "rest": "With rests", "back": "A little back"}, TOOL, late=True,
            helps="A stringy chip breaks where the feed is interrupted: so many turns of feed, then none, or a little back.",
        ),
    ] = "steady"  # fmt: skip
    turns_on: Annotated[
        float,
        ask("Turns of feed", Kind.NUMBER, TOOL, least=1, most=10_000, when=_breaks, late=True, helps="Then it is interrupted."),
    ] = 20.0
    turns_off: Annotated[float, ask("Turns of rest", Kind.NUMBER, TOOL, least=0.1, most=100, when=_rests, late=True)] = 2.0
    comes_back: Annotated[
        float | None, ask("Comes back by", Kind.LENGTH, TOOL, above=0, propose=_back, when=_comes_back, late=True)
    ] = None

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if found or not _breaks(self) or self.f is None:
            return found
        z0, r0, z1, r1 = ctx.raw.bounds
        return passes_trouble("turns_on", max(z1 - z0, r1 - r0) / (self.f * self.turns_on), tr("rests in one pass"))

    def moved(self, path: TurnPath, unit: Unit) -> tuple[Move, ...]:
        if not _breaks(self):
            return super().moved(path, unit)
        rests = _rests(self)
        how = Broken(self.turns_on, self.turns_off if rests else 0.0, 0.0 if rests else given(self.comes_back))
        spin = self.turning()

        def seconds(radius: float) -> float:
            return 60.0 / spin.turns_at(max(radius, LEAST_RADIUS), unit)

        end = len(path.moves) - self.unbroken(path)
        return (*interrupted(path.start, path.moves[:end], given(self.f), how, seconds), *path.moves[end:])

    def unbroken(self, path: TurnPath) -> int:
        """How many of the last moves are not interrupted, whatever is asked."""
        return 0

    @property
    def breaks(self) -> bool:
        """Is the feed interrupted?"""
        return _breaks(self)


def insert_trouble(tool: AnyTool | None, fits: str | None, *, kinds: tuple[str, ...], drawn: bool = False) -> list[Trouble]:
    """Says so when a tool is not of the kinds that do this work; one whose edge is `drawn` does what is made by such alone."""
    if isinstance(tool, TurnTool) and tool.kind in kinds:
        if tool.drawn and not drawn:
            return [Trouble("tool", tr("Its edge is drawn: it cuts a groove of its own shape and nothing else."), fits)]
        return []
    return [Trouble("tool", tr("This tool does not do this."), fits)] if tool else []


def hand_trouble(tool: AnyTool | None, fits: str | None) -> list[Trouble]:
    """Says so when a tool cuts away from the chuck: outlines and faces are cut toward it."""
    if isinstance(tool, TurnTool) and tool.hand == "left":
        return [Trouble("tool", tr("A left-hand tool cuts away from the chuck; this is cut toward it."), fits)]
    return []


def start(ctx: TurnedContext) -> TurnPath:
    """A path that begins at the safe place in front of the work."""
    return TurnPath(*ctx.safe)


def home_outside(path: TurnPath, ctx: TurnedContext) -> None:
    """Up, then out."""
    path.go(r=max(ctx.over, path.r)).go(z=ctx.safe[1]).go(r=ctx.safe[0])


def home_inside(path: TurnPath, ctx: TurnedContext, r: float, out: float | None = None) -> None:
    """To a radius that is free, out to the safe length or farther `out`, then up."""
    path.go(r=r).go(z=ctx.safe[1] if out is None else out).go(r=ctx.safe[0]).go(z=ctx.safe[1])


def bore_way(tool: AnyTool | None, bore: float, clear: float) -> float:
    """The radius of the point on which a bar goes in and out of a bore: off the wall, and the bar off the opposite one."""
    if math.isinf(bore):
        return 0.0
    deep = 0.0
    if isinstance(tool, TurnTool) and tool.inside:
        deep = -min(r for _, r in tool.body[0])
    near, far = bore - clear, deep - bore
    if far + clear <= near:
        return max(near, 0.0)
    return max((bore + far) / 2, 0.0)


def bite_power(tool: TurnTool, ctx: TurnedContext, *, ap: float, f: float, vc: float) -> float:
    """Motor power in kW for a bite, by Kienzle's law with the chip thickness h = f sin κr."""
    h = ctx.to_mm(f) * math.sin(math.radians(min(tool.approach, 90.0)))
    kc = specific_force(ctx.material.kc11, ctx.material.mc, h)
    return turning_power(vc / speed_scale(ctx.unit), ctx.to_mm(ap), ctx.to_mm(f), kc, ctx.card.efficiency)


def powered(tool: TurnTool, ctx: TurnedContext, s: TurningStep, most: float) -> float:
    """The bite up to `most` that the spindle has power and torque for, with some in reserve; both grow with the bite. Torque is
    short where the work is thickest: there it turns slowest."""
    if s.f is None or s.vc is None:
        return most
    need = bite_power(tool, ctx, ap=most, f=s.f, vc=s.vc)
    thickest = 2 * ctx.to_mm(max(s.at_radius(ctx), ctx.mm(0.5)))
    allowed = allowed_power(ctx, spindle_speed(s.vc / speed_scale(ctx.unit), thickest))
    return most if need <= allowed else most * allowed / need


def speed_says(s: TurningStep, ctx: TurnedContext, r_small: float, r_large: float) -> str:
    """The range of speeds over the diameters a step works on, and what holds it."""
    if _fixed(s):
        return f"n {given(s.n):,.0f}".replace(",", " ")
    slow, fast = (
        min(spindle_speed(given(s.vc) / speed_scale(ctx.unit), 2 * ctx.to_mm(max(r, ctx.mm(0.2)))), given(s.cap))
        for r in (r_large, r_small)
    )
    held = tr(", capped at {cap:,.0f}", cap=given(s.cap)) if fast >= given(s.cap) - 1 else ""
    return f"n {slow:,.0f} … {fast:,.0f}{held}".replace(",", " ").replace("  ", ", ")


def even(depth: float, most: float, ctx: TurnedContext) -> float:
    """The largest even bite that is not over `most`."""
    if depth <= 0 or most <= 0:
        return most
    return round(depth / max(math.ceil(depth / most - 1e-9), 1), 4 if ctx.unit == "mm" else 5)
