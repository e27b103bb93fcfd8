"""Where the tool is at any moment of a proved program."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from bastler.nc import Trace
from bastler.nc.trace import about_axis
from bastler.shapes.kinds import Floats

ALMOST = 1.0 - 1e-9
INSTANT = 1e-9
"""Seconds that are rounding: sums of times end in digits that nobody meant."""


class Span(Protocol):
    """A stage as far as time goes: its first move, and the one after its last."""

    @property
    def begin(self) -> int: ...
    @property
    def end(self) -> int: ...


class Timed(Protocol):
    """A proof as far as time goes: its moves, when each begins and how long it lasts, its stages."""

    @property
    def trace(self) -> Trace: ...
    @property
    def starts(self) -> Floats: ...
    @property
    def lasts(self) -> Floats: ...
    @property
    def total(self) -> float: ...
    @property
    def stages(self) -> Sequence[Span]: ...


@dataclass(frozen=True)
class Moment:
    """Where a program is at one time: the move, how much of it is done, and the tip. `move` is -1 before the first."""

    time: float
    move: int
    share: float
    tip: tuple[float, float, float]
    stage: int


def moment_at(proof: Timed, time: float) -> Moment:
    """The moment `time` seconds after the start, held to the program's length.

    Where one move ends as the next begins it is the end of the one, so that stepping back and forth meets every move.
    """
    trace = proof.trace
    if len(trace) == 0:
        return Moment(0.0, -1, 0.0, (0.0, 0.0, 0.0), -1)
    time = min(max(time, 0.0), proof.total)
    move = max(0, int(np.searchsorted(proof.starts, time - INSTANT, side="left")) - 1)
    last = float(proof.lasts[move])
    share = min(1.0, (time - float(proof.starts[move])) / last) if last > 0 else 1.0
    share = 1.0 if share > ALMOST else share
    return Moment(time, move, share, tip_at(trace, move, share), stage_of(proof, move))


def stage_of(proof: Timed, move: int) -> int:
    """Index of the stage a move belongs to; -1 for none."""
    for k, stage in enumerate(proof.stages):
        if stage.begin <= move < stage.end:
            return k
    return -1


def tip_at(trace: Trace, move: int, share: float) -> tuple[float, float, float]:
    """Where the tip is when `share` of a move is done."""
    a, b = trace.start[move], trace.end[move]
    p = a + (b - a) * share
    if trace.turn[move] != 0.0:
        u, v = {17: (0, 1), 18: (2, 0), 19: (1, 2)}[int(trace.plane[move])]
        a, b, c = (places[move] for places in trace.as_axes)
        p = a + (b - a) * share
        r = np.hypot(a[u] - c[u], a[v] - c[v])
        angle = np.arctan2(a[v] - c[v], a[u] - c[u]) + trace.turn[move] * share
        p[u], p[v] = c[u] + r * np.cos(angle), c[v] + r * np.sin(angle)
        p = about_axis(p[None], trace.tilt[move])[0]
    return (float(p[0]), float(p[1]), float(p[2]))
