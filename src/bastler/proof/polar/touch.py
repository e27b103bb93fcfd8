"""A finger on a turned part that driven tools cut: what turning made is known from the half section, what they made from what the
steps want and from the path."""

from __future__ import annotations

import math

import numpy as np

from bastler.proof.polar.culprit import culprit
from bastler.proof.polar.planes import CutPlane
from bastler.proof.scrub import Moment
from bastler.proof.touch import Face, Touch, Vector
from bastler.proof.turn.touch import touched
from bastler.proof.turn.turned import TurnProof

LEVEL = 0.999
"""A face whose normal rises by more from a plane lies in it."""
RAY_MM = 0.3
"""A wall is known so well."""
UPRIGHT = 0.02
"""One whose normal rises by less goes along it."""


def touched_driven(proof: TurnProof, moment: Moment, place: Vector, normal: Vector, *, inside: bool) -> Touch:
    """What there is at a place of the part's surface, x across the axis where C is 0, y, and z along it."""
    turned = touched(proof, moment, place[2], math.hypot(place[0], place[1]), inside=inside)
    if inside or turned.face.kind != "inside":
        return turned
    move = culprit(proof, place, upto=moment.move)
    if move < 0:  # the face that is seen lies up to a ray behind the one that was cut
        x, y, z = (np.array(place) + np.array(normal) * RAY_MM * proof.scene.mm).tolist()
        move = culprit(proof, (x, y, z), upto=moment.move)
    for side in dict.fromkeys([None, *proof.scene.planes]):
        axes = CutPlane(side).axes
        rises = float(axes[2] @ np.array(normal))
        if abs(rises) > LEVEL:
            u, v, w = axes @ np.array(place)
            out = axes[2] * math.copysign(1.0, rises)
            face = Face("plane", place, (float(out[0]), float(out[1]), float(out[2])))
            wanted = min((r.at(u, v) for step in proof.scene.planes.get(side, ()) for r in step.removals), default=math.inf)
            return Touch(place, face, float(w - wanted) if math.isfinite(wanted) else None, move, driven=True)
    # a wall is known to the width of a ray only: how far it is from the finished part is not told
    face = Face("plane" if abs(normal[2]) < UPRIGHT else "slope", place, normal)
    return Touch(place, face, None, move, driven=True)
