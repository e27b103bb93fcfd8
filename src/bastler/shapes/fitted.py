"""A curve that a formula gives, as lines and arcs that keep within a tolerance of it.

The curve is taken at many places, closer together at its ends, where those of ellipses stand square to the axis. Arcs are laid
through the first, the middle and the last of as many of these as one arc comes near enough to, one arc after the other.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from bastler.language import tr
from bastler.shapes.kinds import Floats
from bastler.shapes.rounded import Arc, Line, Segment

PLACES = 4000
"""So many places a curve is taken at."""
FLATTER = 1e7
"""An arc with a radius so many times as long as its chord is a line."""
HALF = math.pi * 0.99
"""An arc turns no more: through three places nobody knows a full one."""


class CurveError(ValueError):
    """A formula that gives no curve; the message is a sentence."""


def fitted(height: Callable[[float], float], begin: float, end: float, within: float, most: int) -> list[Segment]:
    """Lines and arcs in (u, v) along v = height(u) from `begin` to `end`, all of them within a distance `within` of it as far as
    it is looked at. CurveError where it has no height, or more than `most` pieces would be needed."""
    points = _taken(height, begin, end)
    found: list[Segment] = []
    at = 0
    while at < len(points) - 1:
        if len(found) >= most:
            raise CurveError(tr("The curve takes more than {most} arcs: a larger tolerance takes fewer.", most=most))
        good, bad = at + 1, at + 2
        while bad < len(points) and _piece(points[at : bad + 1], within) is not None:
            good, bad = bad, at + 2 * (bad - at)
        bad = min(bad, len(points))
        while bad - good > 1:
            middle = (good + bad) // 2
            good, bad = (middle, bad) if _piece(points[at : middle + 1], within) is not None else (good, middle)
        found.append(_piece(points[at : good + 1], within) or Line(_place(points[at]), _place(points[good])))
        at = good
    return found


def _taken(height: Callable[[float], float], begin: float, end: float) -> Floats:
    """The places of a curve, (n, 2)."""
    if not math.isfinite(begin) or not math.isfinite(end) or begin == end:
        raise CurveError(tr("The curve has no length."))
    us = begin + (end - begin) * (1.0 - np.cos(np.linspace(0.0, np.pi, PLACES))) / 2
    us[-1] = end
    vs = np.array([height(float(u)) for u in us])
    bad = np.flatnonzero(~np.isfinite(vs))
    if len(bad):
        raise CurveError(tr("The formula gives nothing at {us:.6g}.", us=us[bad[0]]))
    return np.column_stack([us, vs])


def _place(point: Floats) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _piece(points: Floats, within: float) -> Segment | None:
    """The line or the arc through the ends of some places that keeps near to all of them; None where neither does."""
    a, b, c = points[0], points[len(points) // 2], points[-1]
    chord = math.hypot(*(c - a))
    if chord <= 0.0:
        return None
    along = (c - a) / chord
    off = (points - a) @ np.array([-along[1], along[0]])
    if len(points) == 2 or np.abs(off).max() <= within / 100.0:
        return Line(_place(a), _place(c))
    centre, radius = _circle(a, b, c)
    if not math.isfinite(radius) or radius > FLATTER * chord:
        return Line(_place(a), _place(c)) if np.abs(off).max() <= within else None
    if np.abs(np.hypot(*(points - centre).T) - radius).max() > within:
        return None
    ccw = bool((b - a)[0] * (c - b)[1] - (b - a)[1] * (c - b)[0] > 0)
    arc = Arc(_place(a), _place(c), _place(centre), ccw)
    return arc if arc.sweep() <= HALF else None


def _circle(a: Floats, b: Floats, c: Floats) -> tuple[Floats, float]:
    """Centre and radius of the circle through three places; without bound where they lie on a line."""
    (bx, by), (cx, cy) = b - a, c - a
    det = 2.0 * (bx * cy - by * cx)
    if abs(det) < 1e-300:
        return a, math.inf
    bb, cc = bx * bx + by * by, cx * cx + cy * cy
    offset = np.array([(cy * bb - by * cc) / det, (bx * cc - cx * bb) / det])
    return a + offset, float(math.hypot(*offset))
