"""How far a milled part is from the finished one, for colours: floors from the field, walls as regions.

A field knows a wall to a cell. Walls that stand off by less than half of one are coloured where the proof, which knows them
exactly, found them wrong, and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from bastler.proof.faces import Mesh
from bastler.proof.mill.compare import FLOOR_TOLERANCE_MM
from bastler.proof.mill.field import Heights
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.walls import WallFault, wanted_at
from bastler.proof.mill.wanted import Pair, both_fields, onto
from bastler.proof.offs import classes
from bastler.shapes import Box, Removal
from bastler.shapes.kinds import Floats
from bastler.shapes.prepared import prepared
from bastler.units import Unit

LEVELS = 200
"""Heights at which walls are looked at: as many as there are pixels to tell them apart."""
WALL = 0.3
"""A face whose normal rises by less is a wall."""


def wanted_of(proof: MillProof, part: int) -> Pair:
    """The lowest and the highest that the finished part may be at each cell."""
    pair = both_fields(proof.grid, proof.scene.gone_of(part))
    return onto(proof.begins, pair) if proof.begins else pair


def floor_classes(proof: MillProof, heights: Heights, wanted: Pair) -> Any:
    """The class of every cell, int8, see `offs.classes`; 0 where nothing is."""
    low, high = wanted
    off = np.maximum(heights - high, 0.0) - np.maximum(low - heights, 0.0)
    off[np.abs(off) < FLOOR_TOLERANCE_MM * proof.scene.mm] = 0.0
    gone = heights <= (proof.under if len(proof.under) else proof.grid.bottom)
    off[gone] = 0.0
    return classes(off, proof.scene.unit)


def face_classes(proof: MillProof, mesh: Mesh, cells: Any, part: int, *, finished: bool) -> Any:
    """The class of every triangle of a mesh (t,), with those of the cells known. Where the part is `finished` the walls that the
    proof found wrong are known as well."""
    middle = mesh.points[mesh.triangles].mean(axis=1).astype(float)
    normals = mesh.normals[mesh.triangles].mean(axis=1)
    grid = proof.grid
    i = np.clip(((middle[:, 0] - grid.x0) / grid.dx).astype(int), 0, grid.nx - 1)
    j = np.clip(((middle[:, 1] - grid.y0) / grid.dy).astype(int), 0, grid.ny - 1)
    found = cells[j, i].copy()
    walls = np.abs(normals[:, 2]) < WALL
    removals, stock = proof.scene.gone_of(part), proof.scene.stock
    found[walls] = wall_classes(removals, stock, 0.5 * grid.cell, proof.scene.unit, middle[walls])
    if finished:
        compared = proof.comparisons[part]
        _faults(compared.walls, proof, middle, walls, found)
        found[(found > 0) & (compared.greatest("left") == 0.0)] = 0
        found[(found < 0) & (compared.greatest("gouge") == 0.0)] = 0
    # the underside, and planes that were cut open, are of no step
    found[(normals[:, 2] < -WALL) | (mesh.colour[mesh.triangles[:, 0]] == 2)] = 0
    return found


def wall_classes(removals: Sequence[Removal], stock: Box, blind: float, unit: Unit, middle: Floats) -> Any:
    """Of walls by the middles of their triangles: how far they are in the plan from the walls of the finished part at that
    height. Less than `blind` is not known."""
    off = np.zeros(len(middle))
    fine = stock.size[2] / LEVELS
    levels = (np.floor((middle[:, 2] - stock.lo[2]) / fine) + 0.5) * fine + stock.lo[2]
    for level in np.unique(levels).tolist():
        rows = np.flatnonzero(levels == level)
        solid = stock.plan.difference(wanted_at(removals, level))
        if solid.is_empty:
            off[rows] = np.inf
            continue
        solid, edge = prepared(solid), prepared(solid.boundary)
        points = shapely.points(middle[rows, :2])
        away = shapely.distance(edge, points)
        off[rows] = np.where(shapely.contains(solid, points), -away, away)
    off[np.abs(off) < blind] = 0.0
    return classes(off, unit)


def _faults(walls: Sequence[WallFault], proof: MillProof, middle: Floats, upright: Any, found: Any) -> None:
    """Walls that the proof found wrong have its amount, where the field does not know a greater one."""
    for wall in walls:
        if wall.kind not in ("left", "gouge"):
            continue
        near = wall.region.buffer(1.5 * proof.grid.cell)
        own = (
            upright
            & (middle[:, 2] <= wall.level + proof.grid.cell)
            & (middle[:, 2] >= wall.level - wall.height - proof.grid.cell)
        )
        own[own] = shapely.contains_xy(near, middle[own, 0], middle[own, 1])
        amount = classes(np.array([wall.by if wall.kind == "left" else -wall.by]), proof.scene.unit)[0]
        found[own & (np.abs(found) < abs(amount))] = amount
