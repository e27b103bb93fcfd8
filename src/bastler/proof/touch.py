"""What a finger on the part as cut asks: where exactly is this, what face is it, how far is it from the finished part, and which
move made it; and how far two such places lie apart.

Places and lengths in the job's unit, from part zero; of turned work X is the radius and Y is 0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

Vector = tuple[float, float, float]
SAME = 1e-4
"""Directions that differ by less, in radians, are one."""


@dataclass(frozen=True)
class Face:
    """A face of the part. `plane`: `place` on it and its `normal`. `round`: its axis through `place` along `normal`, its
    `radius`, `hollow` for a hole. `slope`: a cone, a bevel, a fillet, known at one place only, its `normal` there. `inside`: no
    face, the plane that the part is cut open at."""

    kind: Literal["plane", "round", "slope", "inside"]
    place: Vector
    normal: Vector
    radius: float = 0.0
    hollow: bool = False


@dataclass(frozen=True)
class Touch:
    """A place on the part as cut. `off`: so far it stands over the finished part, negative where that much is missing, infinite
    where all that is under it is still to go, None where there is nothing to compare. `move` of the trace made it, -1 for none:
    then it is as it came. On turned work `driven` tells what driven tools made: its place is X, Y and Z."""

    place: Vector
    face: Face
    off: float | None
    move: int
    driven: bool = False


@dataclass(frozen=True)
class Apart:
    """How far two places lie apart: `what` was measured and how much, an angle in degrees where the faces stand at one; `by` is
    the way from the first place to the second along X, Y, Z."""

    what: Literal["point to point", "face to face", "axis to axis", "axis to face", "angle", "on one axis"]
    amount: float
    by: Vector


def apart(a: Touch, b: Touch) -> Apart:
    """From one place to another: between planes that are parallel the distance of these, between round faces that of their axes,
    from a round face to a plane along its axis that of the axis; between slanted planes the angle in the material; else from
    place to place."""
    by = _minus(b.place, a.place)
    one, two = (a.face, b.face) if a.face.kind != "round" or b.face.kind == "round" else (b.face, a.face)
    turned = math.acos(min(1.0, abs(_dot(one.normal, two.normal))))
    if one.kind == two.kind == "plane":
        if turned < SAME:
            return Apart("face to face", abs(_dot(by, one.normal)), by)
        return Apart("angle", 180.0 - math.degrees(math.acos(max(-1.0, min(1.0, _dot(one.normal, two.normal))))), by)
    if one.kind == two.kind == "round" and turned < SAME:
        way = _minus(two.place, one.place)
        along = _dot(way, one.normal)
        off = math.sqrt(max(_dot(way, way) - along * along, 0.0))
        return Apart("on one axis" if off < 1e-9 else "axis to axis", off, way)
    if one.kind == "plane" and two.kind == "round" and abs(_dot(one.normal, two.normal)) < SAME:
        way = _minus(two.place, one.place)
        return Apart("axis to face", abs(_dot(way, one.normal)), by)
    return Apart("point to point", math.sqrt(_dot(by, by)), by)


def first_change(solid: list[bool] | np.ndarray[tuple[int], np.dtype[np.bool_]]) -> int:
    """The first of a row that is not as the one before it; -1 where all are alike."""
    found = np.flatnonzero(np.diff(np.asarray(solid, np.int8)))
    return int(found[0]) + 1 if len(found) else -1


def _minus(a: Vector, b: Vector) -> Vector:
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def _dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
