"""Ways out that take one press, by the code of the remark."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from bastler.job import PlannedHolding, PlannedStep
from bastler.language import tr
from bastler.proof.remark import Cure, Remark
from bastler.shapes.reliefs import THREADS as RELIEFS
from bastler.steps import Again, Threading, TurnedContext, trouble_with
from bastler.steps.base import replaced
from bastler.tools import Tool
from bastler.units import Kind, number_text

STAGE_TOOLS = {
    "finish": "finish_tool",
    "spot": "spot_tool",
    "counterbore": "bore_tool",
    "chamfer": "sink_tool",
    "tap": "end_tool",
    "ream": "end_tool",
}
"""The answer that holds the tool of a stage, where a step has it; else it is `tool`."""
HOLE_TOOLS = ("drill", "tap", "reamer")
"""Tools that make a hole of their own diameter: another diameter is another hole."""
Finder = Callable[[Remark, PlannedStep], Cure | None]


def cure_for(remark: Remark, held: PlannedHolding) -> Cure | None:
    """The cure of a remark on a step of the plan, None when there is no single answer that would do."""
    planned = _source(remark, held)
    finder = _FINDERS.get(remark.code)
    return finder(remark, planned) if planned and finder else None


def _source(remark: Remark, held: PlannedHolding) -> PlannedStep | None:
    """The step whose answers made what a remark is about: of a repetition the one in its run that has the stage."""
    planned = held.step(remark.step)
    if planned is None or not isinstance(planned.step, Again):
        return planned
    at = held.steps.index(planned)
    run = held.steps[max(at - planned.step.back, 0) : at]
    made = next((done for done in run if any(stage.name == remark.stage for stage in done.stages)), None)
    return made if made is None or not isinstance(made.step, Again) else None


def _field(planned: PlannedStep, remark: Remark) -> str:
    """The field that holds the tool of the remark's stage."""
    special = STAGE_TOOLS.get(remark.stage, "tool")
    own = getattr(planned.filled, special, None)
    follows = getattr(planned.step, special, None) is None and own == getattr(planned.filled, "tool", None)
    return "tool" if own is None or follows else special  # where the second tool follows the first, the first is to change


def _longer(remark: Remark, planned: PlannedStep) -> Cure | None:
    """A tool of the same kind, no thicker, whose flutes or stick-out are long enough."""
    field = _field(planned, remark)
    ctx = planned.ctx
    now = ctx.tool(getattr(planned.filled, field, None))
    if not isinstance(now, Tool):
        return None
    long_enough = [t for t in ctx.tools if isinstance(t, Tool) and t.kind == now.kind and _reaches(t, now, remark)]
    nearest = sorted(long_enough, key=lambda t: abs(t.diameter - now.diameter))
    best = next((t for t in nearest if _taken(planned, field, t.id)), None)
    return Cure(tr("Use {says}", says=best.says), f"step:{planned.step.id}.{field}", best.id) if best else None


def _taken(planned: PlannedStep, field: str, value: Any) -> bool:
    """Whether the step can be cut with another answer: a way out that is refused is none."""
    return not trouble_with(replaced(planned.step, **{field: value}), planned.ctx)


def _reaches(tool: Tool, now: Tool, remark: Remark) -> bool:
    need = now.flute_length + remark.amount
    fits = math.isclose(tool.diameter, now.diameter, rel_tol=1e-4) or now.kind not in HOLE_TOOLS
    return tool.id != now.id and fits and tool.flute_length >= need - 1e-6 and tool.stick_out >= need


def _less_deep(remark: Remark, planned: PlannedStep) -> Cure | None:
    filled, step = planned.filled, planned.step
    if getattr(step, "ap", None) is not None:
        return Cure(tr("Use the proposed depth"), f"step:{step.id}.ap", None)
    ap = getattr(filled, "ap", None)
    if ap is None:
        return None
    half = round(ap / 2, 3 if planned.ctx.unit == "mm" else 4)
    return Cure(tr("Down per pass {half}", half=number_text(half, Kind.LENGTH, planned.ctx.unit)), f"step:{step.id}.ap", half)


def _peck(remark: Remark, planned: PlannedStep) -> Cure | None:
    return (
        Cure(tr("Drill with full retracts"), f"step:{planned.step.id}.method", "peck")
        if hasattr(planned.step, "method")
        else None
    )


def _propose_tool(remark: Remark, planned: PlannedStep) -> Cure | None:
    """Go back to the proposed tool where another was given."""
    given = getattr(planned.step, "tool", None)
    return Cure(tr("Use the proposed tool"), f"step:{planned.step.id}.tool", None) if given else None


def _proposed_speed(remark: Remark, planned: PlannedStep) -> Cure | None:
    given = getattr(planned.step, "n", None)
    return Cure(tr("Use the proposed speed"), f"step:{planned.step.id}.n", None) if given else None


def _first_bite(remark: Remark, planned: PlannedStep) -> Cure | None:
    given = getattr(planned.step, "first", None)
    return Cure(tr("Use the proposed first pass"), f"step:{planned.step.id}.first", None) if given else None


def _capped(remark: Remark, planned: PlannedStep) -> Cure | None:
    """The proposed cap of the turns, which the chuck is good for."""
    given = getattr(planned.step, "cap", None)
    return Cure(tr("Use the proposed cap"), f"step:{planned.step.id}.cap", None) if given else None


def _clearance(remark: Remark, planned: PlannedStep) -> Cure | None:
    if getattr(planned.step, "top", None) is not None:
        return Cure(tr("Start at the surface that is there"), f"step:{planned.step.id}.top", None)
    if getattr(planned.step, "back_to", "over") != "over":
        return Cure(tr("Go over the stock between holes"), f"step:{planned.step.id}.back_to", "over")
    return None


def _loops(remark: Remark, planned: PlannedStep) -> Cure | None:
    """Loops in place of slots, where the step can."""
    can = remark.stage == "rough" and getattr(planned.filled, "bite", "even") == "plain"
    return Cure(tr("Clear in loops"), f"step:{planned.step.id}.bite", "even") if can else None


def _relief(remark: Remark, planned: PlannedStep) -> Cure | None:
    """A groove behind the thread, as wide as there is room for in front of a shoulder; behind a taper thread there is none: it is
    pulled out."""
    thread, ctx = planned.filled, planned.ctx
    spec = thread.thread_or_none() if isinstance(thread, Threading) else None
    if not isinstance(thread, Threading) or spec is None or not isinstance(ctx, TurnedContext):
        return None
    pulled = Cure(tr("Pull it out"), f"step:{planned.step.id}.exit", "pulled") if _taken(planned, "exit", "pulled") else None
    if spec.taper:
        return pulled
    wide = RELIEFS[min(RELIEFS, key=lambda pitch: abs(pitch - spec.pitch))][1]
    end, least = thread.z - thread.length, ctx.mm(1.5 * spec.pitch)
    for share in (1.0, 0.9, 0.75, 0.6, 0.5):
        width = round(ctx.mm(wide) * share, 3 if ctx.unit == "mm" else 4)
        surface = ctx.outer(end - width, end) if thread.side == "outside" else ctx.bore(end - width, end)
        on_shaft = surface <= ctx.mm(0.52 * spec.major) if thread.side == "outside" else surface >= ctx.mm(0.48 * spec.bore)
        if width > least and on_shaft:
            return Cure(tr("Add a relief behind it"), f"add:relief:{planned.step.id}", None if share == 1.0 else width)
    return pulled


def _proposed_grip(remark: Remark, planned: PlannedStep) -> Cure | None:
    given = getattr(planned.step, "grip", None)
    return Cure(tr("Use the proposed grip"), f"step:{planned.step.id}.grip", None) if given else None


_FINDERS: dict[str, Finder] = {
    "deeper-than-flutes": _longer,
    "shank-in-stock": _longer,
    "full-bite": _less_deep,
    "full-width": _loops,
    "edge-length": _less_deep,
    "over-power": _less_deep,
    "over-torque": _less_deep,
    "over-speed": _proposed_speed,
    "under-speed": _proposed_speed,
    "thread-fast": _proposed_speed,
    "thread-bite": _first_bite,
    "thread-run-out": _relief,
    "chuck-rating": _capped,
    "grip-short": _proposed_grip,
    "peck-missing": _peck,
    "plunge": _propose_tool,
    "left": _propose_tool,
    "rapid-in-stock": _clearance,
}
