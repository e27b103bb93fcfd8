"""Facing: straight rows over a rectangle, there and back or all in one direction.

A *row* is one straight cut; rows lie at most one stepover apart, and the outer ones hang over the edge, so nothing can stay
standing between or beside them.
"""

from __future__ import annotations

import math

import msgspec

from bastler.motion.moves import Path

OVERHANG = 0.1
"""How far the outer rows hang over the side, as a share of the cutter's diameter."""


class FacingRows(msgspec.Struct, frozen=True, kw_only=True):
    """What is faced, in the plan: rectangle `lo` to `hi`, rows along X or Y.

    `run_past` is how far beyond the edge the cutter's centre goes at the ends; `stepover` at most the diameter.
    """

    lo: tuple[float, float]
    hi: tuple[float, float]
    along_x: bool
    diameter: float
    stepover: float
    run_past: float
    zigzag: bool

    def offsets(self) -> list[float]:
        """Where the rows lie, across their direction."""
        axis = 1 if self.along_x else 0
        lo, hi = self.lo[axis], self.hi[axis]
        hang = OVERHANG * self.diameter
        first, last = lo - hang + self.diameter / 2, hi + hang - self.diameter / 2
        if last <= first:
            return [(lo + hi) / 2]
        gaps = math.ceil((last - first) / self.stepover - 1e-9)
        return [first + (last - first) * k / gaps for k in range(gaps + 1)]

    def ends(self) -> tuple[float, float]:
        """Where each row starts and ends, along its direction."""
        axis = 0 if self.along_x else 1
        return (self.lo[axis] - self.run_past, self.hi[axis] + self.run_past)

    def point(self, along: float, across: float) -> tuple[float, float]:
        return (along, across) if self.along_x else (across, along)


def face_rows(path: Path, rows: FacingRows, level: float, *, clear: float, feed: float, plunge: float) -> None:
    """Draws one level of facing; the tool ends at the end of the last row, at `level`."""
    start, end = rows.ends()
    for k, across in enumerate(rows.offsets()):
        back = rows.zigzag and k % 2 == 1
        a, b = (end, start) if back else (start, end)
        x, y = rows.point(a, across)
        if k == 0 or not rows.zigzag:
            path.go(z=clear).go(x, y)
            path.cut(plunge, z=level, role="plunge")
        else:
            path.cut(feed, x, y, role="lead")
        x, y = rows.point(b, across)
        path.cut(feed, x, y)
