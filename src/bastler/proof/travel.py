"""Does an axis leave its travel? One check for all machines: of arcs and helices it counts where they swing to."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence

import numpy as np

from bastler.machines.card import Travel
from bastler.nc import Trace
from bastler.proof.found import Found


def over_travel(
    trace: Trace, begin: int, end: int, axes: Sequence[tuple[int, str, Travel, float]], feels: float, says: Callable[[float], str]
) -> Iterator[Found]:
    """A stop for every axis that leaves its travel by more than is felt. `axes`: the axis of the trace, its letter, its travel,
    and what is added to a place of the tip to have the machine's."""
    if begin == end:
        return
    low, high = trace.extremes(begin, end)
    for axis, name, travel, shift in axes:
        over = np.maximum(high[:, axis] + shift - travel.hi, travel.lo - low[:, axis] - shift)
        if over.max() > feels:
            move, worst = int(np.argmax(over > feels)), float(over.max())
            yield Found("stop", "over-travel", f"{name} leaves its travel by {says(worst)}.", move, worst)
