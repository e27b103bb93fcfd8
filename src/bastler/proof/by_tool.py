"""What each tool does in a program: how low it goes and how long it works, for the program's head."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from bastler.job import PlannedHolding
from bastler.nc import Trace
from bastler.nc.trace import FEED
from bastler.post.headed import Figures
from bastler.shapes.kinds import Floats


def figures_of(parts: Sequence[tuple[PlannedHolding, Trace, Floats]]) -> Mapping[int, Figures]:
    """The figures of the tools, by their number, of a program as each of its holdings sees it, with what every move lasts. A
    height counts from the zero of the part that it is on; a tool that never feeds has none."""
    lowest: dict[int, float] = {}
    seconds: dict[int, float] = {}
    for held, trace, lasts in parts:
        if not len(trace):
            continue
        heights = trace.extremes[0][:, 2] - _shifts(held, trace)
        feeds = (trace.kind >= FEED) & ~trace.shoves
        for tool in np.unique(trace.tool[feeds]).tolist():
            own = trace.tool == tool
            low = float(heights[own & feeds].min())
            lowest[tool] = min(lowest.get(tool, low), low)
            seconds[tool] = seconds.get(tool, 0.0) + float(lasts[own].sum())
    return {tool: Figures(low, seconds[tool]) for tool, low in lowest.items()}


def _shifts(held: PlannedHolding, trace: Trace) -> Floats:
    """How much higher than the first part's zero that of each move's part is."""
    found = np.zeros(len(trace))
    for part in held.parts:
        found[trace.offset == part.index] = part.shift[2]
    return found
