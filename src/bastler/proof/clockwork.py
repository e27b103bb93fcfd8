"""How long a program takes: trapezoidal acceleration, corners, tool changes, dwells.

At a corner the speed may jump as far as the axes can change it within `TAU`; rapids start and end at rest. The rest is the
usual look-ahead: a backward and a forward pass hold every speed to what can be reached and braked from.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.machines import MachineCard
from bastler.nc import Trace
from bastler.nc.trace import about_axis
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats, Ints

TAU = 0.004
"""Seconds within which a jump of speed at a corner is swallowed by the axes."""


def timetable(trace: Trace, card: MachineCard) -> tuple[Floats, Floats, float]:
    """When every move starts (n,), the seconds it lasts (n,), and the seconds of the whole program."""
    lasts, waits = move_times(trace, card), event_times(trace, card)
    starts = np.cumsum(waits[:-1]) + np.cumsum(lasts) - lasts
    return starts, lasts, float(waits.sum() + lasts.sum())


def move_times(trace: Trace, card: MachineCard) -> Floats:
    """Seconds of every move (n,), without what happens between them."""
    if len(trace) == 0:
        return np.zeros(0)
    lengths = trace.lengths()
    top = np.where(trace.kind == 0, card.rapid, np.minimum(np.where(trace.feed > 0, trace.feed, card.feed_most), card.feed_most))
    top = top / 60.0
    arcs = trace.kind >= 2
    radius = np.linalg.norm(trace.start - trace.centre, axis=1)
    top[arcs] = np.minimum(top[arcs], np.sqrt(card.acceleration * np.maximum(radius[arcs], 1e-6)))
    leave, arrive = _directions(trace)
    seconds: Floats = _times(lengths, top, trace.kind, leave, arrive, card.acceleration, TAU)
    if card.turns:
        seconds = np.maximum(seconds, spindle_times(trace, card))
        _with_c(trace, card, lengths, seconds)
    return seconds


def _with_c(trace: Trace, card: MachineCard, lengths: Floats, seconds: Floats) -> None:
    """Moves in which C goes along last as long as their feed says, rapids as long as the slowest of their axes, without ramps:
    the chords of one move follow on each other."""
    swing = np.abs(trace.angle[:, 1] - trace.angle[:, 0])
    rows = np.flatnonzero(trace.stands & (swing > 0.0))
    if not len(rows) or card.c is None:
        return
    begin, end = (
        about_axis(places[rows], -np.radians(trace.angle[rows, k])) for k, places in enumerate((trace.start, trace.end))
    )
    straight = np.linalg.norm(end - begin, axis=1)
    rapid = np.maximum(straight / card.rapid, swing[rows] / card.c.rapid)
    fed = lengths[rows] / np.maximum(trace.feed[rows], 1e-9)
    seconds[rows] = 60.0 * np.where(trace.kind[rows] == 0, rapid, np.maximum(fed, swing[rows] / card.c.rapid))


def shares(lengths: Floats, owner: Ints, moves: int) -> Floats:
    """The part of its move that each segment is."""
    totals = np.bincount(owner, weights=lengths, minlength=moves) if len(owner) else np.zeros(moves)
    counts = np.bincount(owner, minlength=moves) if len(owner) else np.zeros(moves)
    total, count = totals[owner], counts[owner]
    return np.where(total > 1e-12, lengths / np.maximum(total, 1e-12), 1.0 / np.maximum(count, 1))


def spindle_times(trace: Trace, card: MachineCard) -> Floats:
    """Seconds that the spindle needs to follow its wanted speed over each move: under constant surface speed it speeds up toward
    the axis and slows down outward, as fast as it can go from rest to its top speed."""
    radius = np.abs(np.column_stack([trace.start[:, 0], trace.end[:, 0]]))
    wanted = np.minimum(trace.surface[:, None] / (2 * math.pi * np.maximum(radius, 1e-9)), trace.cap[:, None])
    change = np.abs(np.diff(np.minimum(wanted, card.speed[1]), axis=1))[:, 0]
    return np.where(trace.surface > 0, change * card.spindle_up / card.speed[1], 0.0)


def _directions(trace: Trace) -> tuple[Floats, Floats]:
    """Unit directions at the start and at the end of every move, (n, 3) each."""
    d = trace.end - trace.start
    norm = np.linalg.norm(d, axis=1, keepdims=True)
    straight = np.divide(d, norm, out=np.zeros_like(d), where=norm > 1e-12)
    leave, arrive = straight.copy(), straight.copy()
    sign = np.sign(trace.turn)
    start, end, centre = trace.as_axes
    for plane, u, v in ((17, 0, 1), (18, 2, 0), (19, 1, 2)):
        arcs = (trace.kind >= 2) & (trace.plane == plane)
        if not arcs.any():
            continue
        for out, point in ((leave, start), (arrive, end)):
            r = point - centre
            length = np.maximum(np.hypot(r[:, u], r[:, v]), 1e-12)
            tangent = np.zeros_like(r)
            tangent[:, u], tangent[:, v] = -r[:, v] / length * sign, r[:, u] / length * sign
            out[arcs] = about_axis(tangent[arcs], trace.tilt[arcs])
    return leave, arrive


@kernel()
def _times(lengths: Any, top: Any, kind: Any, leave: Any, arrive: Any, a: float, tau: float) -> Any:
    n = len(lengths)
    entry = np.zeros(n + 1)
    for k in range(1, n):
        if kind[k] == 0 or kind[k - 1] == 0 or lengths[k] < 1e-9 or lengths[k - 1] < 1e-9:
            continue
        dot = 0.0
        for i in range(3):
            dot += arrive[k - 1, i] * leave[k, i]
        half = math.sqrt(max((1.0 - dot) / 2.0, 0.0))
        v = min(top[k], top[k - 1])
        entry[k] = v if half < 1e-4 else min(v, a * tau / (2.0 * half))
    for k in range(n - 1, 0, -1):
        entry[k] = min(entry[k], math.sqrt(entry[k + 1] ** 2 + 2 * a * lengths[k]))
    times = np.zeros(n)
    for k in range(n):
        entry[k + 1] = min(entry[k + 1], math.sqrt(entry[k] ** 2 + 2 * a * lengths[k]))
        v0, v1, v = entry[k], entry[k + 1], max(top[k], 1e-9)
        ramps = (2 * v * v - v0 * v0 - v1 * v1) / (2 * a)
        if ramps <= lengths[k]:
            times[k] = (v - v0) / a + (v - v1) / a + (lengths[k] - ramps) / v
        else:
            peak = math.sqrt(max((2 * a * lengths[k] + v0 * v0 + v1 * v1) / 2, 0.0))
            times[k] = max((2 * peak - v0 - v1) / a, 0.0)
    return times


def event_times(trace: Trace, card: MachineCard) -> Floats:
    """Seconds that pass before every move, and after the last: (n + 1,). Tool changes and dwells."""
    waits = np.zeros(len(trace) + 1)
    for event in trace.events:
        if event.what == "tool":
            waits[event.at] += card.tool_change_time
        elif event.what == "dwell":
            waits[event.at] += event.value
    return waits
