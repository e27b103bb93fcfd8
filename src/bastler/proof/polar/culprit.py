"""Which driven move took a place away."""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.nc.trace import about_axis
from bastler.proof.polar.run import PolarRun
from bastler.proof.turn.turned import TurnProof
from bastler.proof.view import Place
from bastler.shapes.kinds import Bools, Floats
from bastler.tools import Tool

ROUNDED = 1e-6
"""Of a height, by how much a place that was kept in fewer digits may lie over it or under it."""


def culprit(proof: TurnProof, place: Place, upto: int | None = None) -> int:
    """The first driven move, of those `upto` one, whose tool came over a place; -1 where none is found."""
    p = np.array(place)
    for stage in proof.stages:
        if upto is not None and stage.begin > upto:
            break
        run: Any = stage.proof
        if not isinstance(run, PolarRun) or not isinstance(run.tool, Tool):
            continue
        near = _over(run, run.tool, p)
        if near.any():
            return stage.begin + int(run.owner[np.argmax(near)])
    return -1


def _over(run: PolarRun, tool: Tool, p: Floats) -> Bools:
    """Which pieces of a run went over a place with the tool's full width, (m,)."""
    a, b = run.segments[:, :3], run.segments[:, 3:]
    at = np.repeat(p[None], len(a), axis=0)
    axis, plane = 2, [0, 1]
    if tool.stands == "radial":  # as the machine's axes stand
        a, b, at = (about_axis(points, -run.angles) for points in (a, b, at))
        axis, plane = 0, [1, 2]
    way = (b - a)[:, plane]
    share = ((at - a)[:, plane] * way).sum(axis=1) / np.maximum((way * way).sum(axis=1), 1e-18)
    nearest = a + (b - a) * np.clip(share, 0.0, 1.0)[:, None]
    off = np.linalg.norm((at - nearest)[:, plane], axis=1)
    low = np.minimum(a[:, axis], b[:, axis])
    found: Bools = (off <= tool.diameter / 2 * 1.001) & (at[:, axis] >= low - ROUNDED * np.abs(low))
    return found
