"""Cutting a field in bands of rows. No row asks what another one holds, but for its neighbours within the band: so several cores
cut at one run of moves, each its own rows, and the moves of a long program follow each other in portions that can be stopped.

Where the bands part follows from the moves alone, never from the machine: the same program leaves the same field on all.
"""

from __future__ import annotations

import functools
import itertools
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np

from bastler.proof.mill.field import Grid, Heights
from bastler.proof.mill.sweeping import COLUMNS, VOLUME, grid_array, nowhere, run_segments, tool_arrays
from bastler.shapes.kinds import Bools, Floats, StopFlag
from bastler.tools import Tool

BANDS = 4
"""More than most cores beside the window: while one of them has something else to do the others go on with the rest."""
WORTH = 20_000_000
"""Cells that the tool stands over, those of all moves together, from which on bands are worth their trouble: about 0.1 s. Where
there is less to do the other core works out what is wanted."""
PORTION = 20_000
"""Moves between two words on how far it is."""


class Ground(NamedTuple):
    """What is cut: heights and edges (ny, nx) over the underside, or over none, on their grid."""

    grid: Grid
    field: Heights
    edge: Heights
    under: Heights


def cut_in_bands(
    ground: Ground,
    segments: Floats,
    rapid: Bools,
    tool: Tool,
    highest: np.float32,
    stop: StopFlag,
    told: Callable[[int], None],
) -> Floats | None:
    """Cuts segments (m, 6) out of the ground: what `run_segments` tells of each, (m, 5), or None when stopped. `told` hears now
    and then how many are done."""
    shape, body = tool_arrays(tool, ground.grid)
    _, field, edge, under = ground
    cut, been = np.zeros((len(segments), COLUMNS)), nowhere()
    for begin in range(0, len(segments), PORTION):
        end = min(begin + PORTION, len(segments))
        some, fast = segments[begin:end], rapid[begin:end]

        def work(rows: tuple[int, int], some: Floats = some, fast: Bools = fast, from_: Floats = been) -> tuple[Floats, Floats]:
            own, at = np.zeros((len(some), COLUMNS)), from_.copy()
            grid = grid_array(ground.grid, rows)
            run_segments(field, edge, under, grid, some, fast, shape, body, 0, len(some), own, highest, at, stop)
            return own, at

        bands = bands_of(ground.grid, some, tool)
        found = list(hands().map(work, bands)) if len(bands) > 1 else [work(bands[0])]
        been = found[0][1]  # where a tool has been does not depend on the rows that are cut
        if stop[0]:
            return None
        together = cut[begin:end]
        for own, _ in found:
            together[:, VOLUME] += own[:, VOLUME]
            np.maximum(together[:, VOLUME + 1 :], own[:, VOLUME + 1 :], out=together[:, VOLUME + 1 :])
        told(end)
    return cut


def bands_of(grid: Grid, segments: Floats, tool: Tool) -> list[tuple[int, int]]:
    """First and last rows of the bands: all rows for little work, else so that each band has as many to go through."""
    wide, high = tool.diameter, tool.diameter + np.abs(segments[:, 4] - segments[:, 1])
    reach = wide / 2 + grid.cell
    whole = [(0, grid.ny - 1)]
    if float(high.sum()) * wide / grid.cell**2 < WORTH:
        return whole
    low, top = np.minimum(segments[:, 1], segments[:, 4]) - reach, np.maximum(segments[:, 1], segments[:, 4]) + reach
    first = np.clip((low - grid.y0) / grid.dy, 0, grid.ny - 1).astype(np.int64)
    last = np.clip((top - grid.y0) / grid.dy, 0, grid.ny - 1).astype(np.int64)
    step = np.bincount(first, minlength=grid.ny + 1) - np.bincount(last + 1, minlength=grid.ny + 1)
    through = np.cumsum(np.cumsum(step[: grid.ny]))
    parts = np.searchsorted(through, through[-1] * np.arange(1, BANDS) / BANDS)
    edges = sorted({0, *(int(part) + 1 for part in parts if part + 1 < grid.ny), grid.ny})
    return [(a, b - 1) for a, b in itertools.pairwise(edges)]


@functools.cache
def hands() -> ThreadPoolExecutor:
    """Threads for kernels, as many as there are cores."""
    return ThreadPoolExecutor(max_workers=min(BANDS, os.cpu_count() or 1), thread_name_prefix="band")
