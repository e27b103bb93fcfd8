"""How a milled part differs from the wanted one, in words: left standing and gouged, on floors and at walls."""

from __future__ import annotations

import numpy as np

from bastler.proof.mill.compare import Comparison
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.walls import WallFault
from bastler.proof.remark import Remark
from bastler.shapes import Removal
from bastler.units import Kind, with_unit

MOST_WALLS = 8
NEAR_MM = 0.05


def differences(proof: MillProof) -> list[Remark]:
    """What is left and what is gouged, on each part that is not like one before it."""
    found: list[Remark] = []
    for part, comparison in enumerate(proof.comparisons):
        if not any(comparison is known for known in proof.comparisons[:part]):
            found += _of_part(proof, comparison, part)
    return found


def _of_part(proof: MillProof, comparison: Comparison, part: int) -> list[Remark]:
    heights = proof.heights if part == 0 else proof.after(len(proof.stages) - 1, part)
    remarks = []
    for kind, floors in (("left", comparison.left), ("gouge", comparison.gouge)):
        if floors.depth > 0:
            x, y = proof.grid.centre(*floors.cell)
            z = float(heights[floors.cell])
            remarks.append(_difference(proof, kind, floors.depth, (x, y, z), f"{_says(proof, floors.depth)} high", part))
    seen = 0
    for wall in sorted(comparison.walls, key=lambda w: -w.by):
        if seen < MOST_WALLS:
            remarks.append(_wall(proof, wall, part))
            seen += 1
    return remarks


def _says(proof: MillProof, length: float) -> str:
    return with_unit(length, Kind.LENGTH, proof.scene.unit)


def _wall(proof: MillProof, wall: WallFault, part: int) -> Remark:
    return _difference(proof, wall.kind, wall.by, (*wall.place, wall.level), f"{_says(proof, wall.by)} at a wall", part)


def _difference(proof: MillProof, kind: str, by: float, place: tuple[float, float, float], how: str, part: int) -> Remark:
    on = f" on {proof.scene.parts[part].code}" if part else ""
    where = f"X {place[0]:.2f} Y {place[1]:.2f}"
    if kind == "left":
        step = _owner(proof, place)
        return Remark(level="stop", code="left", text=f"Left standing at {where}{on}: {how}.", step=step, amount=by, place=place)
    return proof.gouged(_culprit(proof, place, part), f"Gouged at {where}{on}: {how.replace('high', 'too deep')}.", by, place)


def _owner(proof: MillProof, place: tuple[float, float, float]) -> str:
    """The step that should have taken this away: the one whose removal is deepest near it."""
    best, owner = float("inf"), ""
    for wanted in proof.scene.wanted:
        for removal in wanted.removals:
            z = _near(removal, place, proof)
            if z < best:
                best, owner = z, wanted.step
    return owner


def _near(removal: Removal, place: tuple[float, float, float], proof: MillProof) -> float:
    reach = max(NEAR_MM * proof.scene.mm, proof.grid.cell)
    around = [(0.0, 0.0), (reach, 0.0), (-reach, 0.0), (0.0, reach), (0.0, -reach)]
    return min(removal.at(place[0] + dx, place[1] + dy) for dx, dy in around)


def _culprit(proof: MillProof, place: tuple[float, float, float], part: int) -> int:
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
