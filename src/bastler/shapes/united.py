"""The union of many plane regions, relied on by everything that says where a tool has been; and offsets with pointed corners.

GEOS finds where edges cross in plain floating point. Where edges nearly coincide, as those of strokes that follow each other do,
it loses a piece of the union about once in some thousands of them, without a word. On a fixed grid it does not, but takes five
times as long. So the fast union is checked, and made again on the grid where it fails.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from bastler.shapes.kinds import Region
from bastler.shapes.prepared import let_go, prepare_for_now

GRID = 1e-7
"""Job's units; far below what a machine can tell."""
NEAR = 10 * GRID
EVERY = 4
"""Every so manyth corner is looked for in the union: a lost piece is as large as a stroke and has many."""


def united(regions: Sequence[Any] | Any) -> Region:
    """The union of shapely regions; an empty one of none."""
    parts = np.asarray(regions, dtype=object)
    try:
        whole = shapely.union_all(parts)
    except shapely.errors.GEOSException:  # it says so where it cannot part what nearly coincides
        return shapely.union_all(parts, grid_size=GRID)
    return whole if _holds_all(whole, parts) else shapely.union_all(parts, grid_size=GRID)


def _holds_all(whole: Region, parts: Any) -> bool:
    corners = shapely.get_coordinates(parts)[::EVERY]
    prepare_for_now(whole)
    beside = corners[~shapely.intersects_xy(whole, corners[:, 0], corners[:, 1])]
    holds = bool(shapely.dwithin(whole, shapely.points(beside), NEAR).all()) if len(beside) else True
    let_go([whole])
    return holds


def mitred(region: Region, by: float) -> Region:
    """A region grown or (`by` < 0) narrowed by a distance, with pointed corners, as far out as five times it.

    Where two edges of a corner lie in one line GEOS divides by nothing and takes its bevel; the result is whole.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        return shapely.buffer(region, by, join_style="mitre")
