"""The stock and the tool at any moment of a proved program."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from bastler.proof.field import Heights, run_segments
from bastler.proof.milled import MillProof
from bastler.proof.result import AnyProof
from bastler.proof.section import COLUMNS, grid_array, tool_arrays

ALMOST = 1.0 - 1e-9
INSTANT = 1e-9
"""Seconds that are rounding: sums of times end in digits that nobody meant."""


@dataclass(frozen=True)
class Moment:
    """Where a program is at one time: the move, how much of it is done, and the tip. `move` is -1 before the first."""

    time: float
    move: int
    share: float
    tip: tuple[float, float, float]
    stage: int


def moment_at(proof: AnyProof, time: float) -> Moment:
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
    return Moment(time, move, share, tip_at(proof, move, share), stage_of(proof, move))


def stage_of(proof: AnyProof, move: int) -> int:
    """Index of the stage a move belongs to; -1 for none."""
    for k, stage in enumerate(proof.stages):
        if stage.begin <= move < stage.end:
            return k
    return -1


def tip_at(proof: AnyProof, move: int, share: float) -> tuple[float, float, float]:
    """Where the tip is when `share` of a move is done."""
    trace = proof.trace
    a, b = trace.start[move], trace.end[move]
    p = a + (b - a) * share
    if trace.turn[move] != 0.0:
        u, v = {17: (0, 1), 18: (2, 0), 19: (1, 2)}[int(trace.plane[move])]
        c = trace.centre[move]
        r = np.hypot(a[u] - c[u], a[v] - c[v])
        angle = np.arctan2(a[v] - c[v], a[u] - c[u]) + trace.turn[move] * share
        p[u], p[v] = c[u] + r * np.cos(angle), c[v] + r * np.sin(angle)
    return (float(p[0]), float(p[1]), float(p[2]))


class Scrubber:
    """Gives the stock at a moment; going on from where it was is cheap, going back begins at the stage's start."""

    def __init__(self) -> None:
        self._proof: MillProof | None = None
        self._stage = -1
        self._done = 0
        self._heights: Heights | None = None
        self._edges: Heights | None = None

    def stock(self, proof: MillProof, moment: Moment) -> Heights:
        """Heights of the stock at a moment; the array is the caller's to read until the next call."""
        if moment.stage < 0:
            return proof.uncut() if not proof.stages or moment.move <= proof.stages[0].begin else proof.heights
        stage = proof.stages[moment.stage]
        section = stage.proof
        wanted = self._segments(section.owner, moment.move - stage.begin, moment.share)
        if self._proof is not proof or self._stage != moment.stage or wanted < self._done or self._heights is None:
            self._proof, self._stage, self._done = proof, moment.stage, 0
            self._heights = proof.before(moment.stage)
        if section.tool is None or section.patch is None:
            return self._heights
        shape, body = tool_arrays(section.tool, proof.grid)
        out = np.zeros((len(section.segments), COLUMNS))
        highest = np.float32(self._heights.max())
        if self._edges is None or self._edges.shape != self._heights.shape:
            self._edges = np.zeros_like(self._heights)  # volumes were told long ago: what it holds does not matter
        run_segments(
            self._heights,
            self._edges,
            proof.under,
            grid_array(proof.grid),
            section.segments,
            np.zeros(len(section.segments), np.bool_),  # what the bites are was told long ago
            shape,
            body,
            self._done,
            wanted,
            out,
            highest,
            np.zeros(1, np.uint8),
        )
        self._done = wanted
        return self._heights

    @staticmethod
    def _segments(owner: Any, move: int, share: float) -> int:
        first, last = np.searchsorted(owner, move), np.searchsorted(owner, move, side="right")
        return int(first + round((last - first) * share))
