"""How far a turned part that driven tools cut is from the finished one, for colours: what was turned from the half section,
floors and walls on its end face from what the steps want of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import shapely

from bastler.proof.faces import SECTION, Mesh
from bastler.proof.mill.compare import FLOOR_TOLERANCE_MM
from bastler.proof.mill.offs import WALL, wall_classes
from bastler.proof.offs import classes
from bastler.proof.turn.turned import TurnProof
from bastler.shapes import Box
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.removal import heights_at

LEVEL = 0.99
"""A face whose normal rises by more lies across the axis."""
TURNED_MM = 0.05
"""Nearer to the half section than this a face is one that was turned: it has so many corners a turn."""


def driven_classes(
    proof: TurnProof, mesh: Mesh, section: Region, turned: Callable[[Floats], Any], blind: float, *, finished: bool
) -> Any:
    """The class (t,) of every triangle of a mesh; `turned` gives those of places (z, r) that were turned, walls are known no
    better than `blind`, and slopes, which stand in steps, not at all. Of a `finished` part nothing is off that the proof does not
    call so."""
    middle = mesh.points[mesh.triangles].mean(axis=1).astype(float)[:, [2, 1, 0]]
    normals = mesh.normals[mesh.triangles].mean(axis=1)[:, [2, 1, 0]]
    places = np.column_stack([middle[:, 2], np.hypot(middle[:, 0], middle[:, 1])])
    found, mm = turned(places), proof.scene.mm
    away = shapely.distance(section.boundary, shapely.points(places)) if not section.is_empty else np.zeros(len(places))
    driven = away > TURNED_MM * mm
    removals = [removal for step in proof.scene.faces for removal in step.removals]
    walls = driven & (np.abs(normals[:, 2]) < WALL)
    rows = np.flatnonzero(driven & (np.abs(normals[:, 2]) > LEVEL))
    found[driven] = 0
    wanted = np.full(len(rows), np.inf)
    for removal in removals:
        np.minimum(wanted, heights_at(removal, middle[rows, :2]), out=wanted)
    # where nobody wants anything gone all of it is missing
    front = float(proof.scene.raw.bounds[2])
    off = middle[rows, 2] - np.where(np.isfinite(wanted), wanted, front)
    off[np.abs(off) < FLOOR_TOLERANCE_MM * mm] = 0.0
    found[rows] = classes(off, proof.scene.unit)
    z0, _, z1, r = proof.scene.raw.bounds
    box = Box((-r, -r, z0), (r, r, z1), round=True)
    found[walls] = wall_classes(removals, box, blind, proof.scene.unit, middle[walls])
    if finished:
        for sign, kind in ((1, "left"), (-1, "gouge")):
            if not any(one.greatest(kind) > 0.0 for one in proof.comparison.driven):
                found[driven & (sign * found > 0)] = 0
    found[mesh.colour[mesh.triangles[:, 0]] == SECTION] = 0
    return found
