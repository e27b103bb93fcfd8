"""What a finished hole asks when, and what it proposes: the tools of its stages, their sizes and depths."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import msgspec

from bastler.ask import Answers, ask, is_
from bastler.cutting import counterbore, thread_of
from bastler.language import tr
from bastler.steps.base import fill
from bastler.steps.context import FlatContext
from bastler.steps.cut import given
from bastler.steps.hole.drilling import NEAR as DRILL_NEAR
from bastler.tools import tip_length
from bastler.units import Kind

SQUARE = 90.0
"""Cone of edges and of screw heads, degrees."""
REAMER_LEAD = 0.2
"""Of the diameter: what a reamer's end does not cut to size."""

named = is_("work", "tap", "screw")
screw = is_("work", "screw")
measured = is_("work", "ream", "plain")
blind = is_("extent", "blind")
ends = is_("work", "tap", "ream")


def edged(s: Answers) -> bool:
    return bool(s.edge != "none" and not has_head(s))


def has_head(s: Answers) -> bool:
    return bool(screw(s) and s.head == "socket")


def has_edge(s: Answers) -> bool:
    return not has_head(s)


def does(stage: str) -> Callable[[Any], bool]:
    return lambda s: stage in s.stages()


def pecks(s: Answers) -> bool:
    return "drill" in s.stages() and s.method in ("chip-break", "peck")


def drills_blind(s: Answers) -> bool:
    return "drill" in s.stages() and blind(s)


def plain(stage: str, field: str) -> Callable[[Any, FlatContext], Any]:
    """What the plain step of a stage proposes; "end" is the one that ends the hole."""
    return lambda s, ctx: getattr(fill(s.plain(s.work if stage == "end" else stage, ctx), ctx), field)


def speed(group: str, stage: str) -> msgspec.Meta:
    return ask(tr("Spindle speed"), Kind.SPINDLE_SPEED, group, above=0, propose=plain(stage, "n"), when=does(stage), symbol="n")


def feed(group: str, stage: str) -> msgspec.Meta:
    return ask(tr("Feed rate"), Kind.FEED_RATE, group, above=0, propose=plain(stage, "vf"), when=does(stage), symbol="vf")


def up(value: float, ctx: FlatContext) -> float:
    """Rounded up to a tenth of a millimetre, or five thousandths of an inch."""
    step = 0.1 if ctx.unit == "mm" else 0.005
    return round(math.ceil(value / step - 1e-6) * step, 4)


def drill_diameter(s: Answers, ctx: FlatContext) -> float | None:
    """The drill of the crib that suits best; the size that would, where there is none."""
    wanted, least, most = s.wanted_drill(ctx)
    if wanted is None:
        return None
    fits = [t.diameter for t in ctx.tools if t.kind == "drill" and least - 1e-6 <= t.diameter <= most + 1e-6]
    return min(fits, key=lambda d: abs(d - wanted), default=round(wanted, 2 if ctx.unit == "mm" else 4))


def drill_tool(s: Answers, ctx: FlatContext) -> str | None:
    """The drill of the diameter given or proposed; it stands before it in the declaration."""
    diameter = drill_diameter(s, ctx) if s.drill_diameter is None else s.drill_diameter
    near = ctx.mm(DRILL_NEAR)
    return next((t.id for t in ctx.tools if t.kind == "drill" and abs(t.diameter - (diameter or 0.0)) <= near), None)


def drill_depth(s: Answers, ctx: FlatContext) -> float:
    """Deep enough for what the last tool's end does not cut."""
    if s.work == "tap":
        tap = ctx.tool(s.end_tool) or s.tap(ctx)
        pitch = tap.pitch if tap else 0.0
        lead = s.lead if s.lead is not None else (tap.lead if tap else 0.0) * pitch
        return up(s.depth + lead + pitch, ctx)
    if s.work == "ream":
        return up(s.depth + REAMER_LEAD * s.diameter, ctx)
    return float(s.depth)


def spot_tool(s: Answers, ctx: FlatContext) -> str | None:
    return next((t.id for t in ctx.tools if t.kind == "spot-drill"), None)


def edge(s: Answers, ctx: FlatContext) -> str:
    """By the spot drill, where it is a right-angled one and wide enough."""
    spots = [t for t in ctx.tools if t.kind == "spot-drill" and abs(t.tip_angle - SQUARE) < 0.1]
    wide = s.edge_wanted(ctx)
    return "spot" if any(t.diameter >= wide - 1e-9 for t in spots) else "own"


def edge_diameter(s: Answers, ctx: FlatContext) -> float | None:
    return float(round(s.edge_wanted(ctx), 2 if ctx.unit == "mm" else 3)) or None


def spot_diameter(s: Answers, ctx: FlatContext) -> float | None:
    """The chamfer with it, or as much as guides the drill."""
    if s.edge == "spot" and edged(s):
        return s.edge_diameter  # type: ignore[no-any-return]
    tool, (_, _, most) = ctx.tool(s.spot_tool), s.wanted_drill(ctx)
    wanted = most * 0.6
    return float(round(min(wanted, tool.diameter) if tool else wanted, 2 if ctx.unit == "mm" else 3)) or None


def bore(k: int) -> Callable[[Any, FlatContext], float | None]:
    def propose(s: Answers, ctx: FlatContext) -> float | None:
        try:
            return round(ctx.mm(counterbore(thread_of(s.thread))[k]), 4)
        except ValueError:
            return None

    return propose


def sink_tool(s: Answers, ctx: FlatContext) -> str | None:
    """A right-angled tool that is wide enough: a chamfer mill where the hole is wider than its tip, else one with a point."""
    least = s.wanted_drill(ctx)[1]
    fits = [t for t in ctx.tools if t.kind in ("chamfer-mill", "spot-drill") and abs(t.tip_angle - SQUARE) < 0.1]
    fits = [t for t in fits if t.centre_cutting or t.tip_diameter <= least]
    edge = given(s.edge_diameter)
    wide = [t for t in fits if t.diameter >= edge - 1e-9] or fits
    if blind(s):  # where the hole is too shallow for a blunt tip
        deep = {t.id: tip_length(edge, t.tip_angle, t.tip_diameter) for t in wide}
        wide = [t for t in wide if t.centre_cutting or deep[t.id] <= s.depth] or wide
    best = min(wide, key=lambda t: (t.kind != "chamfer-mill", t.diameter), default=None)
    return best.id if best else None


def end_tool(s: Answers, ctx: FlatContext) -> str | None:
    if s.work == "tap":
        tap = s.tap(ctx)
        return tap.id if tap else None
    chosen: str | None = s.plain("ream", ctx).choose_tool(ctx)
    return chosen


def lead(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.end_tool)
    return round(tool.lead * tool.pitch, 4) if tool else None
