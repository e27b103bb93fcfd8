"""Closed forms for what one to three unknowns come to.

Whatever meets here is one of three families. In a single unknown every equation is a polynomial of at most the second degree,
or in an angle a cos + b sin + c. In a line's θ and ρ all equations are n·A - ρ = b. In the coordinates of a point, or a centre
and radius, all are q (u² + v² - r²) + a linear part: the difference of two is linear, so that three of them (the problem of
Apollonius and all its special cases) come down to a line and a quadratic. The factors are read off by putting numbers in.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from bastler.shapes.kinds import Floats
from bastler.shapes.solver.equations import (
    ARC_TAN,
    COLLINEAR,
    FAR,
    FOOT,
    LENGTH,
    LINE_TAN,
    ON_ARC,
    ON_LINE,
    RAY,
    SUM,
    SWEEP,
    THROUGH_ARC,
    THROUGH_LINE,
    Equation,
    System,
    Values,
    value,
)

TINY = 1e-11
DOUBLE = 3e-7
"""Roots nearer to each other than this, of a scaled outline, are one: rounding alone tears a double root apart by so much."""
ROUND = (SUM, ON_LINE, ON_ARC, LINE_TAN, FOOT, ARC_TAN, COLLINEAR, LENGTH, FAR, RAY, THROUGH_ARC)
Roots = list[tuple[float, ...]]


def closed_form(s: System, block: Sequence[Equation], unknown: Sequence[int], x: Values, turns: Sequence[int]) -> Roots | None:
    """All solutions of as many equations as unknowns, each in the order of `unknown`; None when no closed form is known."""
    if len(block) != len(unknown):
        return None
    at = _probe(block, unknown, x, turns)
    if len(unknown) == 1:
        return _one(s, block[0], unknown[0], at)
    angles = [v for v in unknown if s.is_angle(v)]
    if len(unknown) == 2 and angles:
        return _line(s, block, unknown, x, at)
    if angles or len(unknown) > 3 or not _one_place(s, unknown):
        return None
    return _place(s, block, unknown, at)


def holds_anyway(e: Equation, unknown: int, x: Values, turns: Sequence[int]) -> bool:
    """Does an equation hold whatever its one unknown is? It is then a number that the others say already."""
    at = _probe([e], [unknown], x, turns)
    return max(abs(at(t)[0]) for t in (0.0, 1.0, -1.0)) < TINY


def _probe(block: Sequence[Equation], unknown: Sequence[int], x: Values, turns: Sequence[int]) -> Callable[..., list[float]]:
    w = list(x)

    def at(*values: float) -> list[float]:
        for v, number in zip(unknown, values, strict=True):
            w[v] = number
        return [value(e, [0.0 if n is None else n for n in w], turns) for e in block]

    return at


def _one(s: System, e: Equation, unknown: int, at: Callable[..., list[float]]) -> Roots | None:
    if s.is_angle(unknown):
        if e.code == SUM:
            f0, f1 = at(0.0)[0], at(1.0)[0]
            first = -f0 / (f1 - f0)
            either = e.givens[0][1] in ("parallel", "square")
            return [(first,), (first + math.pi,)] if either else [(first,)]
        f0, f1, f2 = at(0.0)[0], at(math.pi / 2)[0], at(math.pi)[0]
        c, a = (f0 + f2) / 2, (f0 - f2) / 2
        return [(theta,) for theta in _angles(a, f1 - c, c)]
    f0, f1, f2 = at(0.0)[0], at(1.0)[0], at(-1.0)[0]
    return [(root,) for root in _quadratic((f1 + f2) / 2 - f0, (f1 - f2) / 2, f0)]


def _angles(a: float, b: float, c: float) -> list[float]:
    """The θ with a cos θ + b sin θ + c = 0."""
    r = math.hypot(a, b)
    if r < TINY or abs(c) > r * (1 + 1e-9):
        return []
    middle, half = math.atan2(b, a), math.acos(min(max(-c / r, -1.0), 1.0))
    return [middle + half, middle - half] if half > 1e-9 else [middle]


def _quadratic(a: float, b: float, c: float) -> list[float]:
    """The real roots of a t² + b t + c, one that is double only once."""
    if abs(a) < TINY:
        return [-c / b] if abs(b) > TINY else []
    under = b * b - 4 * a * c
    if under < -1e-9 * max(b * b, abs(a * c), 1e-6):
        return []
    root = math.sqrt(max(under, 0.0))
    if root < DOUBLE * max(abs(a), abs(b)):
        return [-b / (2 * a)]
    q = -(b + math.copysign(root, b)) / 2
    return sorted((q / a, c / q)) if abs(q) > 1e-300 else [0.0]


def _line(
    s: System, block: Sequence[Equation], unknown: Sequence[int], x: Values, at: Callable[..., list[float]]
) -> Roots | None:
    """θ and ρ of one line from two of: goes through a point, touches a circle."""
    theta, rho = sorted(unknown)
    if rho != theta + 1 or any(e.code not in (ON_LINE, LINE_TAN, THROUGH_LINE) for e in block):
        return None
    first = unknown[0] == theta
    k = (theta - 2 * (s.count + 1)) // 3
    if all(e.code == ON_LINE for e in block):
        ends = sorted(block, key=lambda e: e.v[2:] != s.point(k))
        (au, av), (bu, bv) = ((x[e.v[2]] or 0.0, x[e.v[3]] or 0.0) for e in ends)
        angle = math.atan2(bv - av, bu - au)
        away = -math.sin(angle) * au + math.cos(angle) * av
        return [(angle, away) if first else (away, angle)]

    def f(angle: float, far: float) -> list[float]:
        return at(angle, far) if first else at(far, angle)

    one, two, three = f(0.0, 0.0), f(math.pi / 2, 0.0), f(math.pi, 0.0)
    d0, d1, d2 = (g[0] - g[1] for g in (one, two, three))
    c, a = (d0 + d2) / 2, (d0 - d2) / 2
    found: Roots = []
    for angle in _angles(a, d1 - c, c):
        away = f(angle, 0.0)[0]  # every equation has -ρ
        found.append((angle, away) if first else (away, angle))
    return found


def _one_place(s: System, unknown: Sequence[int]) -> bool:
    """Are these the two coordinates of one point, or some of one arc's centre and radius?"""
    first = 2 * (s.count + 1)
    if all(v < first for v in unknown):
        return len({v // 2 for v in unknown}) == 1
    return all(v >= first for v in unknown) and len({(v - first) // 3 for v in unknown}) == 1


def _place(s: System, block: Sequence[Equation], unknown: Sequence[int], at: Callable[..., list[float]]) -> Roots | None:
    if any(e.code not in ROUND for e in block):
        if not (len(unknown) == 2 and all(e.code in (*ROUND, SWEEP) for e in block)):
            return None
    n = len(unknown)
    zero = np.zeros(n)
    base = np.array(at(*zero))
    plus = np.array([at(*row) for row in np.eye(n)]).T
    minus = np.array([at(*row) for row in -np.eye(n)]).T
    linear, squares = (plus - minus) / 2, (plus + minus) / 2 - base[:, None]
    sign = np.array([-1.0 if _is_radius(s, v) else 1.0 for v in unknown])
    heavy = squares[:, 0] * sign[0]
    if np.abs(squares * sign - heavy[:, None]).max() > 1e-9:
        return None
    if n == 2 and abs(_mixed(at, base, linear, squares)).max() > 1e-9:
        return None
    curved = int(np.argmax(np.abs(heavy)))
    if abs(heavy[curved]) < TINY:
        return _flat(linear, base)
    linear[curved], base[curved] = linear[curved] / heavy[curved], base[curved] / heavy[curved]
    rows = [k for k in range(n) if k != curved]
    for k in rows:
        linear[k] -= heavy[k] * linear[curved]
        base[k] -= heavy[k] * base[curved]
    return _on_a_line(linear[rows], base[rows], linear[curved], float(base[curved]), sign)


def _mixed(at: Callable[..., list[float]], base: Floats, linear: Floats, squares: Floats) -> Floats:
    """The factors of u v."""
    mixed: Floats = np.array(at(1.0, 1.0)) - base - linear.sum(axis=1) - squares.sum(axis=1)
    return mixed


def _is_radius(s: System, v: int) -> bool:
    at = v - 2 * (s.count + 1)
    return at >= 0 and at % 3 == 2


def _flat(linear: np.ndarray, base: np.ndarray) -> Roots | None:
    if abs(np.linalg.det(linear)) < TINY:
        return None
    return [tuple(float(t) for t in np.linalg.solve(linear, -base))]


def _on_a_line(rows: np.ndarray, base: np.ndarray, linear: np.ndarray, rest: float, sign: np.ndarray) -> Roots | None:
    """Where a line (all but one equation) meets q: Σ sign t² + linear·t + rest = 0."""
    n = len(sign)
    if n == 1:
        return [(t,) for t in _quadratic(float(sign[0]), float(linear[0]), rest)]
    along = np.array([-rows[0][1], rows[0][0]]) if n == 2 else np.cross(rows[0], rows[1])
    long = float(np.linalg.norm(along))
    if long < 1e-10:
        return None
    along = along / long
    point = np.linalg.lstsq(rows, -base, rcond=None)[0]
    a = float((sign * along * along).sum())
    b = float(2 * (sign * along * point).sum() + linear @ along)
    c = float((sign * point * point).sum() + linear @ point + rest)
    return [tuple(float(v) for v in point + t * along) for t in _quadratic(a, b, c)]
