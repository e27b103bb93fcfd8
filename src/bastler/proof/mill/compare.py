"""The part as cut against the part as wanted: what is left, what is gouged, by how much, where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from bastler.job.promises import Promise
from bastler.proof.mill.field import Grid, Heights
from bastler.proof.mill.walls import WallFault
from bastler.proof.unkept import Unkept
from bastler.shapes.compiling import kernel

Wants = tuple[Promise, Heights, Any, float]
"""A promise, the height that each cell may have, infinite where it says nothing, which cells are off the walls, and how many
times as large as its cells its region is."""
FLOOR_TOLERANCE_MM = 0.002


@dataclass(frozen=True)
class Difference:
    """Left or gouged over all floors: volume, greatest depth and the cell where it is (row, column; -1 for none)."""

    volume: float = 0.0
    depth: float = 0.0
    cell: tuple[int, int] = (-1, -1)


@dataclass(frozen=True)
class Comparison:
    """Floors from the field, walls as polygons, and what the stock promised and no step takes."""

    left: Difference = field(default_factory=Difference)
    gouge: Difference = field(default_factory=Difference)
    walls: Sequence[WallFault] = ()
    unkept: Sequence[Unkept] = ()

    def _walls(self, kind: str) -> list[WallFault]:
        return [w for w in self.walls if w.kind == kind]

    def volume(self, kind: str) -> float:
        """Left or gouged volume in cubic units, by steps."""
        floors = self.left if kind == "left" else self.gouge
        return floors.volume + sum(w.area * w.height for w in self._walls(kind))

    def greatest(self, kind: str) -> float:
        """The greatest depth or thickness."""
        floors = self.left if kind == "left" else self.gouge
        return max([floors.depth, *(w.by for w in self._walls(kind))])


@kernel()
def _differ(h: Any, low: Any, high: Any, tolerance: float) -> tuple[float, float, int, float, float, int]:
    left, left_most, left_at = 0.0, 0.0, -1
    gouge, gouge_most, gouge_at = 0.0, 0.0, -1
    ny, nx = h.shape
    for j in range(ny):
        for i in range(nx):
            over = h[j, i] - high[j, i]
            if over > tolerance:
                left += over
                if over > left_most:
                    left_most, left_at = over, j * nx + i
            under = low[j, i] - h[j, i]
            if under > tolerance:
                gouge += under
                if under > gouge_most:
                    gouge_most, gouge_at = under, j * nx + i
    return left, left_most, left_at, gouge, gouge_most, gouge_at


def floors(grid: Grid, h: Heights, low: Heights, high: Heights, mm: float) -> tuple[Difference, Difference]:
    """(left, gouge) of all cells."""
    lv, lm, la, gv, gm, ga = _differ(h, low, high, FLOOR_TOLERANCE_MM * mm)

    def made(volume: float, depth: float, at: int) -> Difference:
        cell = (at // grid.nx, at % grid.nx) if at >= 0 else (-1, -1)
        return Difference(float(volume * grid.area), float(depth), cell)

    return made(lv, lm, la), made(gv, gm, ga)


@kernel()
def _over(h: Any, high: Any, want: Any, sure: Any, tolerance: float) -> tuple[float, float, int]:
    """Volume in cell heights of what stands over `want` and is not over `high` as well; greatest height and place of it where the
    cells are `sure`, off the walls."""
    volume, most, at = 0.0, 0.0, -1
    ny, nx = h.shape
    for j in range(ny):
        for i in range(nx):
            over = h[j, i] - want[j, i]
            if over > tolerance and h[j, i] - high[j, i] <= tolerance:
                volume += over
                if over > most and sure[j, i]:
                    most, at = over, j * nx + i
    return volume, most, at


def unkept(
    grid: Grid, h: Heights, high: Heights, wants: Sequence[Wants], walls: Sequence[WallFault], mm: float
) -> tuple[Unkept, ...]:
    """What stands of every promise. `walls` is what stands at the walls of the finished part, less than a cell wide."""
    found = []
    for promise, want, sure, share in wants:
        volume, most, at = _over(h, high, want, sure, FLOOR_TOLERANCE_MM * mm)
        own = [w for w in walls if w.kind == promise.where]
        volume = volume * grid.area * share if at >= 0 else sum(w.area * w.height for w in own)
        if at >= 0:
            row, column = at // grid.nx, at % grid.nx
            x, y = grid.centre(row, column)
            found.append(Unkept(promise.where, float(volume), float(most), promise.stays, (x, y, float(h[row, column]))))
        elif own:
            worst = max(own, key=lambda w: w.by)
            found.append(Unkept(promise.where, float(volume), worst.by, promise.stays, (*worst.place, worst.level)))
    return tuple(found)
