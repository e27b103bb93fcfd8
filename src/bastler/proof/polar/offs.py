"""How far a turned part that driven tools cut is from the finished one, for colours: what was turned from the half section,
floors and walls on its end face from what the steps want of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import shapely

from bastler.proof.faces import SECTION, Mesh
from bastler.proof.mill.compare import FLOOR_TOLERANCE_MM
from bastler.proof.mill.offs import WALL, wall_classes
from bastler.proof.offs import classes
from bastler.proof.polar.planes import CutPlane
from bastler.proof.polar.upright import upright
from bastler.proof.turn.turned import TurnProof
from bastler.shapes import Removal
from bastler.shapes.kinds import Bools, Floats, Region
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
    middle = upright(mesh.points[mesh.triangles].mean(axis=1).astype(float))
    normals = upright(mesh.normals[mesh.triangles].mean(axis=1))
    places = np.column_stack([middle[:, 2], np.hypot(middle[:, 0], middle[:, 1])])
    found, mm = turned(places), proof.scene.mm
    away = shapely.distance(section.boundary, shapely.points(places)) if not section.is_empty else np.zeros(len(places))
    driven = away > TURNED_MM * mm
    found[driven] = 0
    open_ = driven.copy()
    for side in sorted(dict.fromkeys([None, *proof.scene.planes]), key=lambda side: side is None):
        _on_plane(proof, CutPlane(side), (middle, normals), open_, found, blind)
    if finished:
        for sign, kind in ((1, "left"), (-1, "gouge")):
            if not any(one.greatest(kind) > 0.0 for one in proof.comparison.driven):
                found[driven & (sign * found > 0)] = 0
    found[mesh.colour[mesh.triangles[:, 0]] == SECTION] = 0
    return found


def _on_plane(proof: TurnProof, plane: CutPlane, faces: tuple[Floats, Floats], open_: Bools, found: Any, blind: float) -> None:
    """Classes of the faces that lie in a plane or stand on it, by their middles and normals (t, 3): of those that are `open_`,
    which the others of them stay."""
    middle, normals = (part @ plane.axes.T for part in faces)
    removals = [removal for step in proof.scene.planes.get(plane.side, ()) for removal in step.removals]
    rows = np.flatnonzero(open_ & (np.abs(normals[:, 2]) > LEVEL))
    wanted = _lowest(removals, middle[rows, :2])
    if plane.side is not None:
        rows, wanted = rows[np.isfinite(wanted)], wanted[np.isfinite(wanted)]
    # where nobody wants anything gone of the end face all of it is missing
    front, mm = float(proof.scene.raw.bounds[2]), proof.scene.mm
    off = middle[rows, 2] - np.where(np.isfinite(wanted), wanted, front)
    off[np.abs(off) < FLOOR_TOLERANCE_MM * mm] = 0.0
    found[rows], open_[rows] = classes(off, proof.scene.unit), False
    walls = np.flatnonzero(open_ & (np.abs(normals[:, 2]) < WALL))
    if plane.side is not None:
        walls = walls[np.isfinite(_lowest(removals, middle[walls, :2] + normals[walls, :2] * blind))]
    _, box = plane.seen(proof.scene.raw)
    found[walls], open_[walls] = wall_classes(removals, box, blind, proof.scene.unit, middle[walls]), False


def _lowest(removals: Sequence[Removal], points: Floats) -> Floats:
    """The height that removals leave at points (n, 2), infinite where they take nothing."""
    lowest = np.full(len(points), np.inf)
    for removal in removals:
        np.minimum(lowest, heights_at(removal, points), out=lowest)
    return lowest
