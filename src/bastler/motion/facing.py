"""Facing: straight rows over a rectangle, there and back or all in one direction.

A *row* is one straight cut; rows lie at most one stepover apart, and the outer ones hang over the edge, so nothing can stay
standing between or beside them.
"""

from __future__ import annotations

import math

import msgspec

from bastler.motion.even import equal_parts
from bastler.motion.moves import Path

OVERHANG = 0.1
"""How far the outer rows hang over the side, as a share of the cutter's diameter."""


class FacingRows(msgspec.Struct, frozen=True, kw_only=True):
    """What is faced, in the plan: rectangle `lo` to `hi`, rows along X or Y; `round` the disc that fills it, where rows are only
    as long as it is there.

    `run_past` is how far beyond the edge the cutter's centre goes at the ends; `stepover` at most the diameter.
    """

    lo: tuple[float, float]
    hi: tuple[float, float]
    along_x: bool
    diameter: float
    stepover: float
    run_past: float
    zigzag: bool
    round: bool = False

    def offsets(self) -> list[float]:
        """Where the rows lie, across their direction."""
        axis = 1 if self.along_x else 0
        lo, hi = self.lo[axis], self.hi[axis]
        hang = OVERHANG * self.diameter
        first, last = lo - hang + self.diameter / 2, hi + hang - self.diameter / 2
        if last - first <= 1e-9 * self.diameter:  # one row does, also where rounding says that two would
            return [(lo + hi) / 2]
        gaps = math.ceil((last - first) / self.stepover - 1e-4)  # a stepover that is shown is rounded
        return [first + (last - first) * k / gaps for k in range(gaps + 1)]

    @property
    def gap(self) -> float:
        """How far two rows lie apart; 0 where there is only one."""
        offsets = self.offsets()
        return offsets[1] - offsets[0] if len(offsets) > 1 else 0.0

    def ends(self, across: float) -> tuple[float, float]:
        """Where the row that lies there starts and ends, along its direction."""
        axis = 0 if self.along_x else 1
        lo, hi = self.lo[axis], self.hi[axis]
        if self.round:
            radius, middle = (hi - lo) / 2, (self.lo[1 - axis] + self.hi[1 - axis]) / 2
            near = max(abs(across - middle) - self.diameter / 2, 0.0)  # of what the row goes over
            half = math.sqrt(max(radius * radius - near * near, 0.0))
            lo, hi = (lo + hi) / 2 - half, (lo + hi) / 2 + half
        return (lo - self.run_past, hi + self.run_past)

    def point(self, along: float, across: float) -> tuple[float, float]:
        return (along, across) if self.along_x else (across, along)


def face_rows(path: Path, rows: FacingRows, level: float, *, clear: float, feed: float, plunge: float) -> None:
    """Draws one level of facing; the tool ends at the end of the last row, at `level`."""
    for k, across in enumerate(rows.offsets()):
        start, end = rows.ends(across)
        back = rows.zigzag and k % 2 == 1
        a, b = (end, start) if back else (start, end)
        x, y = rows.point(a, across)
        if k == 0 or not rows.zigzag:
            path.go(z=clear).go(x, y)
            path.cut(plunge, z=level)
        else:
            path.cut(feed, x, y)
        x, y = rows.point(b, across)
        path.cut(feed, x, y)


SPIRAL_HANG = 0.16
"""How far the first ring's cutter hangs over the edge, as a share of its diameter: then no corner of the block stays."""
MIDDLE_SHARE = 0.48
"""From the last ring to the middle, as a share of the diameter."""


def face_spiral(path: Path, rows: FacingRows, level: float, *, clear: float, feed: float, plunge: float) -> None:
    """Draws one level in rings from the edge inward, one running into the next, clockwise: climb milling all the way round."""
    rings = _insets(rows)
    begin = _ring(rows, rings[0])[0]
    away = rows.diameter / 2 + rows.run_past
    start = (begin[0], rows.lo[1] - away) if not rows.round else (rows.lo[0] - away, begin[1])
    path.go(z=clear).go(*start)
    path.cut(plunge, z=level)
    for inset in rings:
        corners = _ring(rows, inset)
        if rows.round:
            (x, y), centre = corners[0], ((rows.lo[0] + rows.hi[0]) / 2, (rows.lo[1] + rows.hi[1]) / 2)
            path.cut(feed, x, y)
            if abs(x - centre[0]) > 1e-9:
                path.bow(feed, (x, y), centre, ccw=False)
            continue
        for x, y in corners:
            path.cut(feed, x, y)


def _insets(rows: FacingRows) -> list[float]:
    """How far in each ring's centre line runs: the first with the cutter over the edge, the last so that it
    reaches the middle."""
    half = min(rows.hi[0] - rows.lo[0], rows.hi[1] - rows.lo[1]) / 2
    first, last = min(rows.diameter * (0.5 - SPIRAL_HANG), half), half - MIDDLE_SHARE * rows.diameter
    if last <= first:
        return [first]
    count = equal_parts(last - first, rows.stepover, 1e-9)
    return [first + (last - first) * k / count for k in range(count + 1)]


def _ring(rows: FacingRows, inset: float) -> list[tuple[float, float]]:
    """The corners of a ring clockwise from the front left one, and back to it; of a disc its leftmost point."""
    (x0, y0), (x1, y1) = rows.lo, rows.hi
    x0, y0, x1, y1 = x0 + inset, y0 + inset, x1 - inset, y1 - inset
    if rows.round:
        return [(min(x0, (x0 + x1) / 2), (y0 + y1) / 2)]
    return [(x0, y0), (x0, y1), (x1, y1), (x1, y0), (x0, y0)]
