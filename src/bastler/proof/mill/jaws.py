"""Does anything run into the vise? Cutter, shank and holder as upright cylinders against boxes, exactly along each segment."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bastler.shapes import Box
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Floats
from bastler.tools import Tool


def jaw_hits(segments: Floats, tool: Tool, jaws: Sequence[Box], feels: float) -> tuple[Floats, NDArray[np.int8]]:
    """For every segment how deep below a jaw's top something goes (0: clear), and what: 1 cutter, 2 shank, 3 holder."""
    depth, part = np.zeros(len(segments)), np.zeros(len(segments), np.int8)
    if not jaws or not len(segments):
        return depth, part
    cylinders = np.array(
        [
            [tool.diameter / 2, 0.0],
            [tool.shank_diameter / 2, tool.flute_length],
            [tool.holder.diameter / 2, tool.stick_out],
        ]
    )
    boxes = np.array([[*jaw.lo, *jaw.hi] for jaw in jaws])
    _hits(segments, cylinders, boxes, feels, depth, part)
    return depth, part


@kernel()
def _hits(segments: Any, cylinders: Any, boxes: Any, feels: float, depth: Any, part: Any) -> None:
    for b in range(len(boxes)):
        x0, y0, x1, y1, top = boxes[b, 0], boxes[b, 1], boxes[b, 3], boxes[b, 4], boxes[b, 5]
        for k in range(len(segments)):
            s = segments[k]
            for c in range(len(cylinders)):
                lift, r = cylinders[c, 1], cylinders[c, 0]
                za, zb = s[2] + lift, s[5] + lift
                if min(za, zb) > top - feels:
                    continue
                t0, t1 = 0.0, 1.0
                if za > top:
                    t0 = (za - top) / (za - zb)
                elif zb > top:
                    t1 = (top - za) / (zb - za)
                ax, ay = s[0] + (s[3] - s[0]) * t0, s[1] + (s[4] - s[1]) * t0
                bx, by = s[0] + (s[3] - s[0]) * t1, s[1] + (s[4] - s[1]) * t1
                if _distance(ax, ay, bx, by, x0, y0, x1, y1) < r - feels:
                    deep = top - min(za, zb)
                    if deep > depth[k]:
                        depth[k], part[k] = deep, c + 1
                    break


@kernel()
def _distance(ax: float, ay: float, bx: float, by: float, x0: float, y0: float, x1: float, y1: float) -> float:
    """Between a segment and a rectangle; the squared distance is convex along the segment."""
    lo, hi = 0.0, 1.0
    for _ in range(40):
        m0, m1 = lo + (hi - lo) / 3.0, hi - (hi - lo) / 3.0
        if _to_box(ax + (bx - ax) * m0, ay + (by - ay) * m0, x0, y0, x1, y1) <= _to_box(
            ax + (bx - ax) * m1, ay + (by - ay) * m1, x0, y0, x1, y1
        ):
            hi = m1
        else:
            lo = m0
    t = 0.5 * (lo + hi)
    return math.sqrt(_to_box(ax + (bx - ax) * t, ay + (by - ay) * t, x0, y0, x1, y1))


@kernel()
def _to_box(x: float, y: float, x0: float, y0: float, x1: float, y1: float) -> float:
    dx = max(x0 - x, 0.0, x - x1)
    dy = max(y0 - y, 0.0, y - y1)
    return dx * dx + dy * dy
