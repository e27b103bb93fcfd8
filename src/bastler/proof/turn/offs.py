"""How far a turned part is from the finished one, for colours."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
import shapely

from bastler.proof.offs import classes
from bastler.proof.turn.compare import TOLERANCE_MM
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Floats
from bastler.shapes.prepared import prepared
from bastler.shapes.united import united


def classes_of(proof: TurnProof, *, finished: bool) -> Callable[[Floats], Any]:
    """Gives the classes of places (n, 2) as (z, r) on the surface of the part. In threads, which are measured along their flanks,
    nothing is off; of a `finished` part nothing is that the proof does not call so, as the fillet that a nose leaves in a
    corner."""
    wanted, mm = proof.comparison.wanted, proof.scene.mm
    edge = wanted.boundary
    threads = united([w.thread.buffer(TOLERANCE_MM * mm) for w in proof.scene.wanted if w.thread is not None])
    told = united([f.region.buffer(2 * TOLERANCE_MM * mm) for f in proof.comparison.faults])
    wanted, edge, threads, told = (prepared(region) for region in (wanted, edge, threads, told))

    def found(places: Floats) -> Any:
        points = shapely.points(places)
        away = shapely.distance(edge, points)
        off = np.where(shapely.contains(wanted, points), -away, away)
        off[(away < TOLERANCE_MM * mm) | shapely.contains(threads, points)] = 0.0
        if finished:
            off[~shapely.contains(told, points)] = 0.0
        return classes(off, proof.scene.unit)

    return found
