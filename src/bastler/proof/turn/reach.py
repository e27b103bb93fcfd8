"""Why something is left: a wall too steep for the tip's trailing edge, and which tool of the crib would reach it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from bastler.job import PlannedHolding
from bastler.language import tr
from bastler.motion.turning import clears, reached
from bastler.proof.turn.compare import TurnFault
from bastler.shapes.chain import tangent
from bastler.steps.turn.outline_step import OutlineStep
from bastler.tools import TurnTool

MOST_OF_IT = 0.5
"""What a tool that would reach takes of what is left, its nose counted: in a corner every nose leaves something."""


@dataclass(frozen=True)
class Reach:
    """The reason in words, and the tool that would do, if there is one."""

    why: str
    tool: TurnTool | None


def what_reaches(held: PlannedHolding, fault: TurnFault) -> Reach | None:
    """Says why a tip left something; None when its shape is not the reason."""
    planned = held.step(fault.step)
    if planned is None or not isinstance(planned.filled, OutlineStep):
        return None
    step, ctx = planned.filled, planned.turned
    tool = ctx.turn_tool(step.tool)
    if tool is None:
        return None
    steep = _steepest(step, ctx, tool)
    if steep <= clears(tool):
        return None
    takes = step.gone(ctx, tool, reached(step.chain(ctx, tool), tool), nose=True)
    if takes.buffer(1e-6).covers(fault.region.buffer(-fault.by / 4)):
        return None
    return Reach(
        tr("{steep:.3g}° wall, the tool clears {clears:.3g}°.", steep=steep, clears=clears(tool)), _other(step, ctx, tool, fault)
    )


def _steepest(step: OutlineStep, ctx: object, tool: TurnTool) -> float:
    """The steepest falling wall of the outline, in degrees from the axis."""
    chain = step.chain(ctx, tool)  # type: ignore[arg-type]
    angles = [
        math.degrees(math.atan2(-t[1], -t[0])) for s in chain for t in (tangent(s), tangent(s, at_end=True)) if t[1] < -1e-9
    ]
    return max((a for a in angles if 0 < a <= 90.0 + 1e-6), default=0.0)


def _other(step: OutlineStep, ctx: object, tool: TurnTool, fault: TurnFault) -> TurnTool | None:
    """The tool of the same kind with the strongest corner that would take it."""
    fitting = []
    for other in ctx.tools:  # type: ignore[attr-defined]
        if not isinstance(other, TurnTool) or other.id == tool.id or other.kind != tool.kind or other.min_bore > tool.min_bore:
            continue
        way = reached(step.chain(ctx, other), other)  # type: ignore[arg-type]
        gone = step.gone(ctx, other, way, nose=False)  # type: ignore[arg-type]
        if not gone.buffer(1e-6).covers(fault.region.buffer(-fault.by / 4)):
            continue
        in_it = step.gone(ctx, other, way, nose=True).intersection(fault.region)  # type: ignore[arg-type]
        if in_it.area > MOST_OF_IT * fault.region.area:  # its nose may be too wide
            fitting.append((-(other.iso.corner if other.iso else 0.0), other.id, other))
    return min(fitting, key=lambda f: f[:2])[2] if fitting else None
