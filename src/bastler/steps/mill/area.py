"""What all steps share that clear an area to a floor: depth, passes, entry, finishing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, ask, choose, is_, pick
from bastler.language import sayable, tr
from bastler.motion.even import equal_parts
from bastler.shapes.kinds import Region
from bastler.steps.base import Stage
from bastler.steps.context import FlatContext
from bastler.steps.cut import (
    FINISH,
    TOOL,
    CuttingStep,
    given,
    number,
    powered_depth,
    propose_fz,
    propose_n,
    propose_vc,
    propose_vf,
)
from bastler.tools import Tool
from bastler.units import Kind

WHERE, SHAPE, ENTRY = "Where", "Shape", "Entry"
CentreX = Annotated[float, ask("Centre X", Kind.LENGTH, WHERE)]
CentreY = Annotated[float, ask("Centre Y", Kind.LENGTH, WHERE)]
TurnedBy = Annotated[float, ask("Turned by", Kind.ANGLE, WHERE, helps="Counter-clockwise from +X.")]
MILLS = ("end-mill", "bull-mill", "face-mill", "ball-mill")
TIGHTEST = 1e-9


def finishes(s: Answers) -> bool:
    """Is there a finishing stage?"""
    return bool(s.finish == "yes")


def _top(s: Answers, ctx: FlatContext) -> float:
    return float(ctx.surface(s.footprint(ctx)))


def _ap(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    most = min(tool.diameter * ctx.material.slot_ap * 0.5, tool.flute_length)
    most = powered_depth(tool, ctx, ae=tool.diameter, n=s.n, vf=s.vf, most=most)
    depth = max(s.depth - (s.leave_floor if s.finish == "yes" else 0.0), ctx.mm(0.01))
    passes = equal_parts(depth, most, 1e-9)
    return float(math.ceil(depth / passes * 1000) / 1000)


def _ae(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return round(s.stepover_share * tool.diameter, 4) if tool else None


def _leave_wall(s: Answers, ctx: FlatContext) -> float:
    return 0.3 if ctx.unit == "mm" else 0.012


def _leave_floor(s: Answers, ctx: FlatContext) -> float:
    usual, places = (0.2, 3) if ctx.unit == "mm" else (0.008, 4)
    return float(min(usual, round(s.depth / 2, places)))  # half of what is as thin as that


def _same_tool(s: Answers, ctx: FlatContext) -> str | None:
    return str(s.tool) if s.tool else None


def _f_vc(s: Answers, ctx: FlatContext) -> float | None:
    return propose_vc(ctx.tool(s.finish_tool), ctx, s.finish_n)


def _f_n(s: Answers, ctx: FlatContext) -> float | None:
    return propose_n(ctx.tool(s.finish_tool), ctx, s.finish_vc)


def _f_vf(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.finish_tool)
    fz = propose_fz(tool, ctx, None, None)
    return None if fz is None else propose_vf(tool, ctx, 0.7 * fz, s.finish_n)


class AreaStep(CuttingStep, frozen=True, kw_only=True):
    """A step that clears an area to a floor. `footprint` is the area seen from above."""

    CHOSEN: ClassVar[str] = sayable("The largest end mill that goes into the corners and reaches the floor")
    stepover_share = 0.5

    depth: Annotated[
        float, ask("How deep", Kind.LENGTH, SHAPE, above=0, late=True, helps="From the surface the step starts on.")
    ] = 5.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, SHAPE, late=True, propose=_top, helps="The surface that is there before the step."),
    ] = None
    finish: Annotated[
        Literal["yes", "no"],
        choose("Finish", {"yes": "Walls and floor", "no": "Leave as roughed"}, FINISH),
    ] = "yes"
    leave_wall: Annotated[
        float | None,
        ask("Leave on walls", Kind.LENGTH, FINISH, least=0, propose=_leave_wall, when=finishes),
    ] = None
    leave_floor: Annotated[
        float | None,
        ask("Leave on the floor", Kind.LENGTH, FINISH, least=0, propose=_leave_floor, when=finishes),
    ] = None
    ap: Annotated[float | None, ask("Down per pass", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap")] = None
    ae: Annotated[float | None, ask("Stepover", Kind.LENGTH, TOOL, above=0, propose=_ae, symbol="ae")] = None
    cutting: Annotated[
        Literal["climb", "conventional"], choose("Cutting", {"climb": "Climb", "conventional": "Conventional"}, TOOL)
    ] = "climb"
    entry: Annotated[
        Literal["helix", "ramp", "plunge", "hole"],
        choose("Into the material", {"helix": "Helix", "ramp": "Ramp", "plunge": "Plunge"}, ENTRY),
    ] = "helix"
    entry_angle: Annotated[
        float,
        ask(
            "Slope",
            Kind.ANGLE,
            ENTRY,
            least=0.2,
            most=30,
            when=is_("entry", "helix", "ramp"),
            helps="How steeply the tool goes down.",
        ),
    ] = 3.0
    finish_tool: Annotated[str | None, pick("Tool", "tool", FINISH, propose=_same_tool, when=finishes)] = None
    finish_vc: Annotated[
        float | None,
        ask("Cutting speed", Kind.CUTTING_SPEED, FINISH, above=0, propose=_f_vc, when=finishes, symbol="vc"),
    ] = None
    finish_n: Annotated[
        float | None,
        ask("Spindle speed", Kind.SPINDLE_SPEED, FINISH, above=0, propose=_f_n, when=finishes, symbol="n"),
    ] = None
    finish_vf: Annotated[
        float | None,
        ask("Feed rate", Kind.FEED_RATE, FINISH, above=0, propose=_f_vf, when=finishes, symbol="vf"),
    ] = None

    def footprint(self, ctx: FlatContext) -> Region:
        """The area as a shapely region."""
        raise NotImplementedError

    @property
    def floor(self) -> float:
        return given(self.top) - self.depth

    def last_tool(self, ctx: FlatContext) -> Tool | None:
        """The one that leaves the shape."""
        return ctx.tool(self.finish_tool if finishes(self) else self.tool)

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.tool, self.finish_tool) if finishes(self) else (self.tool,)

    def left(self, allowance: float | None) -> float:
        """An allowance, when there is a finishing stage to take it off."""
        return given(allowance) if finishes(self) else 0.0

    def levels(self) -> list[float]:
        """Heights of the roughing passes."""
        top, floor = given(self.top), self.floor + self.left(self.leave_floor)
        count = equal_parts(top - floor, given(self.ap))
        return [top - (top - floor) * k / count for k in range(1, count)] + [floor]

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        stages = [self.rough(tool, ctx)]
        finisher = ctx.tool(self.finish_tool)
        if finishes(self) and finisher:
            stages.append(self.finished(finisher, ctx))
        return [stage for stage in stages if stage.moves]

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        """The stage that takes most away."""
        raise NotImplementedError

    def finished(self, tool: Tool, ctx: FlatContext) -> Stage:
        """The stage that takes the allowances off."""
        raise NotImplementedError

    def wall_levels(self, tool: Tool) -> list[float]:
        """One pass to the floor where the flutes reach, else several."""
        count = equal_parts(self.depth, tool.flute_length, 1e-9)
        return [given(self.top) - self.depth * k / count for k in range(1, count)] + [self.floor]


def joined_levels(levels: Sequence[float], marks: Sequence[float]) -> list[float]:
    """Heights of passes with others that have to be among them, from the top down."""
    return sorted({round(z, 9) for z in (*levels, *marks)}, reverse=True)


def depth_words(s: AreaStep, ctx: FlatContext) -> str:
    """How deep, for a summary."""
    return tr("{depth} deep", depth=number(s.depth, ctx))
