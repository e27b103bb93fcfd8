"""Free curves as lines and arcs: pairs of arcs that touch each other and the curve's ends, as many as a tolerance needs.

A *biarc* joins two points with given directions by two arcs with a common tangent. Of the family the one is taken whose arcs
leave the ends equally far (K. M. Bolton, Biarc curves, Computer-Aided Design 7, 1975).
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from bastler.shapes import Arc, Line, Segment
from bastler.shapes.kernels import distances
from bastler.shapes.region import primitives

Point = tuple[float, float]
Curve = Callable[[float], tuple[Point, Point]]
"""A parameter to a point and the (not scaled) direction there."""
MOST_DEPTH = 9
SAMPLES = 9


def fitted(curve: Curve, t0: float, t1: float, tolerance: float) -> list[Segment]:
    """Lines and arcs that leave the curve by no more than `tolerance` (checked at points in between); ends and directions
    kept."""
    return _fit(curve, t0, t1, tolerance, 0)


def _fit(curve: Curve, t0: float, t1: float, tolerance: float, depth: int) -> list[Segment]:
    made = _biarc(*curve(t0), *curve(t1))
    inside = np.array([curve(t0 + (t1 - t0) * k / (SAMPLES + 1))[0] for k in range(1, SAMPLES + 1)])
    good = bool(made) and bool((distances(inside, primitives(made)) <= tolerance).all())
    if good or depth >= MOST_DEPTH:
        if made:
            return made
        a, b = curve(t0)[0], curve(t1)[0]
        return [Line(a, b)] if math.dist(a, b) > 1e-12 else []
    middle = (t0 + t1) / 2
    return [*_fit(curve, t0, middle, tolerance, depth + 1), *_fit(curve, middle, t1, tolerance, depth + 1)]


def _biarc(a: Point, ta: Point, b: Point, tb: Point) -> list[Segment]:
    """Two arcs (or lines where they are straight) from a to b; empty when there is no sound pair."""
    ta, tb = _unit(ta), _unit(tb)
    v = (b[0] - a[0], b[1] - a[1])
    long = math.hypot(*v)
    if long < 1e-12 or ta == (0.0, 0.0) or tb == (0.0, 0.0):
        return []
    t = (ta[0] + tb[0], ta[1] + tb[1])
    vt, tt = v[0] * t[0] + v[1] * t[1], ta[0] * tb[0] + ta[1] * tb[1]
    under = vt * vt + 2 * (1 - tt) * long * long
    if 1 - tt < 1e-12:
        ahead = v[0] * tb[0] + v[1] * tb[1]
        if ahead <= 1e-12:
            return []
        d = long * long / (4 * ahead)
    else:
        d = (-vt + math.sqrt(under)) / (2 * (1 - tt))
    if d <= 1e-12:
        return []
    joint = ((a[0] + b[0] + d * (ta[0] - tb[0])) / 2, (a[1] + b[1] + d * (ta[1] - tb[1])) / 2)
    back = _leaving(b, (-tb[0], -tb[1]), joint)
    first = _leaving(a, ta, joint)
    second = Line(back.end, back.start) if isinstance(back, Line) else Arc(back.end, back.start, back.centre, not back.ccw)
    pair: list[Segment] = [first, second]
    return [] if any(isinstance(s, Arc) and s.sweep() > math.pi for s in pair) else pair


def _leaving(p: Point, t: Point, q: Point) -> Segment:
    """The arc from p in direction t to q."""
    du, dv = q[0] - p[0], q[1] - p[1]
    off = t[0] * dv - t[1] * du
    far = du * du + dv * dv
    if abs(off) < 1e-9 * math.sqrt(far):
        return Line(p, q)
    r = far / (2 * off)
    return Arc(p, q, (p[0] - t[1] * r, p[1] + t[0] * r), r > 0)


def _unit(t: Point) -> Point:
    long = math.hypot(*t)
    return (t[0] / long, t[1] / long) if long > 1e-300 else (0.0, 0.0)
