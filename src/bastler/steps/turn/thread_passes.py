"""What threads that are cut in passes share: their bites, the run-in, the slide's speed, and what keeps them from being cut.
Lengths in the job's unit where nothing else is said."""

from __future__ import annotations

import math

from bastler.ask import Answers, Trouble
from bastler.cutting import bites, largest_bite
from bastler.language import tr
from bastler.steps.cut import given, number
from bastler.steps.turn.context import TurnedContext
from bastler.tools import TurnTool

FIRST_SHARE = 0.35
"""First bite proposed, as a share of the thread's depth; ten passes follow from it and the law of equal areas."""
LEAST_SHARE, FEWEST_BITE_MM = 0.02, 0.05
"""Smallest bite proposed, as a share of the pitch, and no less than the second in mm."""
LAST_BITE_MM = 0.03
SLIDE_SHARE = 0.5
"""Of the slide's greatest feed so much is proposed for a thread: it has to come to that speed within the run-in."""
SIDE_SHARE = 0.8
"""From one pass beside another in a groove that is wider than the tip, as a share of the tip."""


def first_bite(depth: float, pitch_mm: float | None, ctx: TurnedContext) -> float:
    """The first bite of a thread; its pitch, in mm, may not be known."""
    most = math.inf if pitch_mm is None else ctx.mm(largest_bite(pitch_mm))
    return float(round(min(FIRST_SHARE * depth, most), 3 if ctx.unit == "mm" else 4))


def least_bite(pitch_mm: float, ctx: TurnedContext) -> float:
    """The smallest bite of a thread with a pitch in mm."""
    return round(ctx.mm(max(FEWEST_BITE_MM, LEAST_SHARE * pitch_mm)), 3 if ctx.unit == "mm" else 4)


def last_bite(s: Answers, ctx: TurnedContext) -> float:
    """The last bite of any thread."""
    return round(ctx.mm(LAST_BITE_MM), 4)


def run_in(lead: float, pitch: float, turns: float, ctx: TurnedContext) -> float:
    """Turns of the first `thread_delay` seconds are not true yet, and one pitch of air before that."""
    return float(round(max(lead * turns / 60.0 * ctx.card.thread_delay * 2 + pitch, ctx.clear), 2))


def turns_in_hand(lead: float, ctx: TurnedContext) -> float:
    """So fast, in 1/min, that the slide keeps half of its speed in hand."""
    return SLIDE_SHARE * ctx.card.feed_most / lead


def passes_of(s: Answers, depth: float) -> list[float]:
    """How deep each pass of a step is, from its filled answers."""
    return bites(depth, given(s.first), given(s.least), given(s.last), s.springs)


def side_by_side(wide: float, flat: float, ctx: TurnedContext) -> list[float]:
    """How far beside the middle of a groove each pass is made, that is so much wider than the tip's flat."""
    count = math.ceil(wide / (SIDE_SHARE * flat) - 1e-9) if wide > ctx.mm(0.001) and flat > 0 else 0
    return [wide * (j / count - 0.5) for j in range(count + 1)] if count else [0.0]


# -- what is wrong --------------------------------------------------------------------------------------------------


def no_encoder(field: str, ctx: TurnedContext) -> list[Trouble]:
    """A machine that cannot cut any thread."""
    if ctx.card.encoder:
        return []
    return [
        Trouble(
            field, tr("There is no encoder on {name}: it cannot keep the slide in step with the spindle.", name=ctx.card.name)
        )
    ]


def other_profile(tool: TurnTool, angle: float, name: str, fits: str | None) -> list[Trouble]:
    """An insert of another angle than the thread, in degrees."""
    if abs(tool.profile - angle) <= 0.1:
        return []
    return [
        Trouble(
            "tool", tr("Its profile is {profile:g}°; {name} has {angle:g}°.", profile=tool.profile, name=name, angle=angle), fits
        )
    ]


def too_shallow(tool: TurnTool, depth: float, name: str, fits: str | None, ctx: TurnedContext) -> list[Trouble]:
    """A tip that is not as high as the thread is deep."""
    if depth <= tool.tip_reach + 1e-9:
        return []
    text = tr(
        "Its tip reaches {tip_reach}; {name} is {depth} deep.",
        tip_reach=number(tool.tip_reach, ctx),
        name=name,
        depth=number(depth, ctx),
    )
    return [Trouble("tool", text, fits if fits != tool.id else None)]


def too_fast(turns: float, lead: float, ctx: TurnedContext) -> list[Trouble]:
    """A spindle that the slide cannot follow."""
    fast = turns * lead
    if fast <= ctx.card.feed_most:
        return []
    slowest = math.floor(ctx.card.feed_most / lead)
    return [
        Trouble(
            "n",
            tr("The slide would need {fast:.0f} a minute; {feed_most:g} is the most.", fast=fast, feed_most=ctx.card.feed_most),
            slowest,
        )
    ]


def too_steep(run_out: float, depth: float) -> list[Trouble]:
    """A thread that is pulled out, over too short a way."""
    if run_out >= depth:
        return []
    return [Trouble("run_out", tr("Too short to pull out over: steeper than 45°."), math.ceil(1000.0 * depth) / 1000.0)]


def large_bites(s: Answers, depth: float, ctx: TurnedContext) -> list[Trouble]:
    """Bites of filled answers that are more than there is."""
    found = []
    if given(s.first) > depth + 1e-9:
        found.append(Trouble("first", tr("The thread is only {depth} deep.", depth=number(depth, ctx))))
    if given(s.last) >= depth:
        found.append(Trouble("last", tr("More than the thread is deep.")))
    return found
