"""How a milled part differs from the wanted one, in words: left standing and gouged, on floors and at walls."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from bastler.language import decimal, tr
from bastler.proof.mill.compare import Comparison
from bastler.proof.mill.field import Grid, Heights
from bastler.proof.mill.milled import MillProof
from bastler.proof.remark import Remark
from bastler.proof.scene import WantedStep
from bastler.proof.view import Place
from bastler.shapes import Removal
from bastler.units import Kind, Unit, scale, with_unit

MOST_WALLS = 8
NEAR_MM = 0.05


@dataclass(frozen=True, eq=False)
class Compared:
    """What is said of a comparison in heights: those of the part as cut on their grid, whose zero is that of places; what steps
    want gone; the move that made a place of the part; how a gouge is told; how a place is `named`, and where on the part it
    is."""

    comparison: Comparison
    heights: Heights
    grid: Grid
    unit: Unit
    wanted: Sequence[WantedStep]
    culprit: Callable[[Place], int]
    gouged: Callable[[int, str, float, Place], Remark]
    named: Callable[[Place], str]
    out: Callable[[Place], Place] = lambda place: place

    def remarks(self) -> list[Remark]:
        """What is left and what is gouged."""
        found = []
        for kind, floors in (("left", self.comparison.left), ("gouge", self.comparison.gouge)):
            if floors.depth > 0:
                x, y = self.grid.centre(*floors.cell)
                place = (x, y, float(self.heights[floors.cell]))
                found.append(self._told(kind, floors.depth, place, tr("{depth} high", depth=self._says(floors.depth))))
        for wall in sorted(self.comparison.walls, key=lambda w: -w.by)[:MOST_WALLS]:
            found.append(self._told(wall.kind, wall.by, (*wall.place, wall.level), tr("{by} at a wall", by=self._says(wall.by))))
        return found

    def _says(self, length: float) -> str:
        return with_unit(length, Kind.LENGTH, self.unit)

    def _told(self, kind: str, by: float, place: Place, how: str) -> Remark:
        where, there = self.named(place), self.out(place)
        if kind == "left":
            text = tr("Left standing at {where}: {how}.", where=where, how=how)
            return Remark(level="stop", code="left", text=text, step=self._owner(place), amount=by, place=there)
        return self.gouged(
            self.culprit(there),
            tr("Gouged at {where}: {replace}.", where=where, replace=how.replace("high", "too deep")),
            by,
            there,
        )

    def _owner(self, place: Place) -> str:
        """The step that should have taken this away: the one whose removal is deepest near it."""
        best, owner = float("inf"), ""
        for wanted in self.wanted:
            for removal in wanted.removals:
                z = self._near(removal, place)
                if z < best:
                    best, owner = z, wanted.step
        return owner

    def _near(self, removal: Removal, place: Place) -> float:
        reach = max(NEAR_MM * scale("mm", self.unit), self.grid.cell)
        around = [(0.0, 0.0), (reach, 0.0), (-reach, 0.0), (0.0, reach), (0.0, -reach)]
        return min(removal.at(place[0] + dx, place[1] + dy) for dx, dy in around)


def differences(proof: MillProof) -> list[Remark]:
    """What is left and what is gouged, on each part that is not like one before it."""
    found: list[Remark] = []
    for part, comparison in enumerate(proof.comparisons):
        if any(comparison is known for known in proof.comparisons[:part]):
            continue
        heights = proof.heights if part == 0 else proof.after(len(proof.stages) - 1, part)
        on = tr(" on {code}", code=proof.scene.parts[part].code) if part else ""
        culprit = partial(_culprit, proof, part=part)
        named = partial(_named, on)
        seen = Compared(comparison, heights, proof.grid, proof.scene.unit, proof.scene.wanted, culprit, proof.gouged, named)
        found += seen.remarks()
    return found


def _named(on: str, place: Place) -> str:
    return decimal(f"X {place[0]:.2f} Y {place[1]:.2f}") + on


def _culprit(proof: MillProof, place: Place, part: int) -> int:
    """The first move that went over a gouged place at its depth; -1 when none is found."""
    trace, grid = proof.trace, proof.grid
    column = min(max(int((place[0] - grid.x0) / grid.dx), 0), grid.nx - 1)
    row = min(max(int((place[1] - grid.y0) / grid.dy), 0), grid.ny - 1)
    heights = proof.heights if part == 0 else proof.after(len(proof.stages) - 1, part)
    final = float(heights[row, column])
    for stage in (s for s in proof.stages if s.part == part):
        tool = stage.proof.tool
        height = stage.proof.patch.at(row, column) if stage.proof.patch else None
        if tool is None or height is None or height > final + 1e-5:
            continue
        segments = stage.proof.segments
        a, d = segments[:, :2], segments[:, 3:5] - segments[:, :2]
        l2 = np.maximum((d**2).sum(axis=1), 1e-18)
        t = np.clip(((np.asarray(place[:2]) - a) * d).sum(axis=1) / l2, 0.0, 1.0)
        distance = np.linalg.norm(a + d * t[:, None] - np.asarray(place[:2]), axis=1)
        low = np.minimum(segments[:, 2], segments[:, 5])
        deep = low <= max(place[2], final) + grid.cell
        hits = np.flatnonzero((distance <= tool.diameter / 2 + grid.cell) & deep)
        if len(hits):
            return int(stage.begin + stage.proof.owner[hits[0]])
    return int(np.argmax(trace.kind != 0)) if len(trace) else -1
