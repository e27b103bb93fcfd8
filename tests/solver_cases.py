"""Outlines with what a print gives of them, and where their ends lie after elementary geometry.

Points are complex numbers. Each case says its shape in closed form, so that the solver's numbers are held against formulas and
never against themselves.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from bastler.shapes import PlanOutline, PlanSegment, TurnedOutline, TurnedSegment

Given = dict[str, Any]


@dataclass(frozen=True)
class Case:
    """`start` may be None on a closed outline. `ends` are the ends of the segments, `radii` those of its arcs (where said)."""

    name: str
    start: complex | None
    segments: tuple[Given, ...]
    ends: tuple[complex, ...]
    closed: bool = False
    radii: tuple[float, ...] = ()
    pole: complex = 0j


def line(**given: Any) -> Given:
    return {"kind": "line"} | given


def arc(**given: Any) -> Given:
    return {"kind": "arc"} | given


def direction(degrees: float) -> complex:
    return cmath.exp(1j * math.radians(degrees))


def xy(p: complex) -> Given:
    return {"x": p.real, "y": p.imag}


def centre(p: complex) -> Given:
    return {"cx": p.real, "cy": p.imag}


def touching(p: complex, c: complex, r: float, side: int) -> complex:
    """Where a line from p touches a circle about c on its right (1) or left (-1), seen from p."""
    far = abs(c - p)
    along = math.sqrt(far * far - r * r)
    return p + along * (c - p) / far * cmath.exp(-1j * side * math.asin(r / far))


def common(c1: complex, r1: float, c2: complex, r2: float) -> complex:
    """The normal to the right of the line that leaves circle 1 and comes to circle 2, both ccw (a negative radius: cw)."""
    d = c2 - c1
    # n·d = r2 - r1 with n on the right of the way: for counter-clockwise circles their touching points lie right of the centres
    return d / abs(d) * cmath.exp(-1j * math.acos((r1 - r2) / abs(d)))


def circles(c1: complex, r1: float, c2: complex, r2: float, side: int) -> complex:
    """Where two circles cross, left (1) or right (-1) of the way from one centre to the other."""
    d = abs(c2 - c1)
    x = (d * d + r1 * r1 - r2 * r2) / (2 * d)
    h = math.sqrt(r1 * r1 - x * x)
    return c1 + (c2 - c1) / d * complex(x, side * h)


def cross(p: complex, a: float, q: complex, b: float) -> complex:
    """Where two lines cross, given by points and directions in degrees."""
    u, v = direction(a), direction(b)
    w = q - p
    t = (w.real * v.imag - w.imag * v.real) / (u.real * v.imag - u.imag * v.real)
    return p + t * u


CASES: list[Case] = []


def _add(name: str, start: complex | None, segments: Sequence[Given], ends: Sequence[complex], **more: Any) -> None:
    CASES.append(Case(name, start, tuple(segments), tuple(ends), **more))


# -- one line ---------------------------------------------------------------------------------------------------------------
_add("line to a point", 1 + 2j, [line(x=7.0, y=-3.0)], [7 - 3j])
_add("line by so much", 1 + 2j, [line(dx=6.0, dy=-5.0)], [7 - 3j])
_add("line by an angle and a length", 1 + 2j, [line(angle=30.0, length=10.0)], [1 + 2j + 10 * direction(30)])
_add("line by an angle to an X", 1 + 2j, [line(angle=30.0, x=9.0)], [9 + 2j + 8j * math.tan(math.radians(30))])
_add("line by an angle to a Y", 1 + 2j, [line(angle=110.0, y=12.0)], [1 + 12j + 10 / math.tan(math.radians(110))])
_add("line by an angle and a step in X", 1 + 2j, [line(angle=-40.0, dx=5.0)], [6 + 2j - 5j * math.tan(math.radians(40))])
_add("polar end", 1 + 2j, [line(far=12.0, at=50.0)], [3 + 1j + 12 * direction(50)], pole=3 + 1j)
_add(
    "angle to a circle about the pole",
    0j,
    [line(angle=20.0, far=15.0)],
    [direction(20) * (-3 * math.cos(math.radians(20)) + math.sqrt(225 - (3 * math.sin(math.radians(20))) ** 2)) + 0],
    pole=-3 + 0j,
)
_add("angle to a ray from the pole", 0j, [line(angle=20.0, at=120.0)], [cross(0j, 20, 8 - 1j, 120)], pole=8 - 1j)
_add("line through a point to an X", 0j, [line(qx=4.0, qy=3.0, x=10.0)], [10 + 7.5j])
_corner = 8 * direction(25) - 3 + 3j / math.tan(math.radians(25))
_add(
    "lines parallel and right-angled",
    0j,
    [line(id="a", angle=25.0, length=8.0), line(square="a", dx=-3.0), line(parallel="a", dx=-4.0)],
    [8 * direction(25), _corner, _corner - 4 - 4j * math.tan(math.radians(25))],
)

# -- one arc ----------------------------------------------------------------------------------------------------------------
_add("arc by its radius", 0j, [arc(x=8.0, y=2.0, radius=5.0, turn="ccw")], [8 + 2j], radii=(5.0,))
_add("arc by its centre", 0j, [arc(**centre(3 + 4j), **xy(8 + 4j), turn="ccw")], [8 + 4j], radii=(5.0,))
_add("arc by centre and sweep", 0j, [arc(**centre(3 + 4j), sweep=70.0, turn="ccw")], [3 + 4j + (-3 - 4j) * direction(70)])
_add("arc clockwise by sweep", 0j, [arc(**centre(3 + 4j), sweep=200.0, turn="cw")], [3 + 4j + (-3 - 4j) * direction(-200)])
_add("arc through a point", 0j, [arc(qx=2.0, qy=4.0, x=8.0, y=4.0)], [8 + 4j], radii=(math.hypot(5.0, 0.0),))
_add("arc with half its centre", 0j, [arc(cx=4.0, radius=5.0, x=8.0, y=0.0, turn="ccw")], [8 + 0j], radii=(5.0,))
_add(
    "arc by centre to an angle at the pole",
    5 + 0j,
    [arc(**centre(0j), at=120.0, turn="ccw")],
    [5 * direction(120)],
    radii=(5.0,),
)

# -- tangent to what came before ------------------------------------------------------------------------------------------------
_add("tangent arc by radius and sweep", 0j, [line(x=10.0, y=0.0), arc(tangent="yes", radius=5.0, sweep=90.0, turn="ccw")],
     [10 + 0j, 15 + 5j])  # fmt: skip
_add("tangent arc to a point", 0j, [line(x=10.0, y=0.0), arc(tangent="yes", x=14.0, y=8.0)], [10 + 0j, 14 + 8j],
     radii=(80 / 16,))  # fmt: skip
_add("tangent arc to a Y, by its sweep", 0j,
     [line(x=10.0, y=0.0), arc(tangent="yes", y=6.0, sweep=60.0, turn="ccw")],
     [10 + 0j, 10 + 12 * math.sin(math.radians(60)) + 6j], radii=(12.0,))  # fmt: skip
_add("tangent line behind an arc", 0j,
     [arc(**centre(5j), sweep=50.0, turn="ccw"), line(tangent="yes", length=7.0)],
     [5j - 5j * direction(50), 5j - 5j * direction(50) + 7 * direction(50)])  # fmt: skip
_add("three arcs one behind the other", 0j,
     [arc(**centre(5j), sweep=40.0, turn="ccw"), arc(tangent="yes", radius=3.0, sweep=80.0, turn="cw"),
      arc(tangent="yes", radius=9.0, sweep=25.0, turn="ccw")],
     [5j - 5j * direction(40),
      5j - 8j * direction(40) + 3j * direction(-40),
      5j - 8j * direction(40) + 12j * direction(-40) - 9j * direction(-15)])  # fmt: skip

# -- runs that determine themselves only together ---------------------------------------------------------------------------
_p = touching(0j, 12 + 5j, 4.0, 1)
_add("tangent line from a point to a circle", 0j,
     [line(), arc(tangent="yes", **centre(12 + 5j), radius=4.0, turn="ccw", sweep=100.0)],
     [_p, 12 + 5j + (_p - 12 - 5j) * direction(100)])  # fmt: skip
_p = touching(0j, 12 + 5j, 4.0, -1)
_add("the same on the other side", 0j,
     [line(), arc(tangent="yes", **centre(12 + 5j), radius=4.0, turn="cw", sweep=100.0)],
     [_p, 12 + 5j + (_p - 12 - 5j) * direction(-100)])  # fmt: skip

for _name, _r1, _r2 in (("outer tangent of two circles", 3.0, 5.0), ("the same of equal circles", 4.0, 4.0),
                        ("inner tangent of two circles", 3.0, -5.0), ("inner tangent, first clockwise", -3.0, 5.0)):  # fmt: skip
    _c1, _c2 = 0j, 14 + 4j
    _n = common(_c1, _r1, _c2, _r2)
    _turn1, _turn2 = ("ccw" if r > 0 else "cw" for r in (_r1, _r2))
    _a, _b = _c1 + _r1 * _n, _c2 + _r2 * _n
    _s = _c1 + (_a - _c1) * direction(-60 if _r1 > 0 else 60)
    _e = _c2 + (_b - _c2) * direction(75 if _r2 > 0 else -75)
    _add(_name, _s,
         [arc(**centre(_c1), turn=_turn1), line(tangent="yes"), arc(tangent="yes", **centre(_c2), **xy(_e), turn=_turn2)],
         [_a, _b, _e])  # fmt: skip

_add("corner of two lines", 0j, [line(angle=15.0), line(angle=100.0, **xy(9 + 12j))], [cross(0j, 15, 9 + 12j, 100), 9 + 12j])
_add("right-angled corner", 0j, [line(id="a", angle=15.0), line(square="a", **xy(9 + 12j))],
     [cross(0j, 15, 9 + 12j, 105), 9 + 12j])  # fmt: skip
_add("corner where one length is known", 0j, [line(length=10.0), line(angle=90.0, **xy(6 + 1j))], [6 - 8j, 6 + 1j])

_m, _t = cross(0j, 0, 20 + 9j, 70), 4 * math.tan(math.radians(35))
_add("blend between two lines", 0j,
     [line(angle=0.0), arc(tangent="yes", radius=4.0, turn="ccw"), line(tangent="yes", angle=70.0, **xy(20 + 9j))],
     [_m - _t, _m + _t * direction(70), 20 + 9j])  # fmt: skip

for _name, _turn, _sum in (("line, blend, arc outside", "cw", 1), ("line, blend, arc inside", "ccw", -1)):
    _big, _r, _k = 20 + 2j, 8.0, 3.0
    _y = -_k if _turn == "cw" else _k
    _far = _r + _k * _sum
    _mid = _big.real - _sum * math.sqrt(_far * _far - (_big.imag - _y) ** 2) + 1j * _y
    _join = _big + (_mid - _big) / abs(_mid - _big) * _r
    _e = _big + (_join - _big) * direction(60)
    _add(_name, 0j,
         [line(angle=0.0), arc(tangent="yes", radius=_k, turn=_turn),
          arc(tangent="yes", **centre(_big), radius=_r, **xy(_e), turn="ccw")],
         [_mid.real + 0j, _join, _e])  # fmt: skip

for _name, _turn, _s1, _s2, _rk, _side in (
    ("blend between arcs, both outside", "cw", 1, 1, 6.0, -1),
    ("blend between arcs, round both", "ccw", -1, -1, 18.0, 1),
):
    _c1, _r1, _c2, _r2 = 0j, 5.0, 16 + 3j, 4.0
    _mid = circles(_c1, abs(_rk + _s1 * _r1), _c2, abs(_rk + _s2 * _r2), _side)
    _a, _b = (_c + (_mid - _c) / abs(_mid - _c) * _r * _s for _c, _r, _s in ((_c1, _r1, _s1), (_c2, _r2, _s2)))
    _s, _e = _c1 + (_a - _c1) * direction(-50), _c2 + (_b - _c2) * direction(50)
    _add(_name, _s,
         [arc(**centre(_c1), turn="ccw"), arc(tangent="yes", radius=_rk, turn=_turn),
          arc(tangent="yes", **centre(_c2), radius=_r2, **xy(_e), turn="ccw")],
         [_a, _b, _e])  # fmt: skip

_c1, _r1, _c2, _r2, _rk = 0j, 5.0, 16 + 3j, 4.0, 16.0
_mid = circles(_c1, _rk + _r1, _c2, _rk - _r2, -1)
_a, _b = _c1 + (_mid - _c1) / abs(_mid - _c1) * _r1, _c2 - (_mid - _c2) / abs(_mid - _c2) * _r2
_s, _e = _c1 + (_a - _c1) * direction(-40), _c2 + (_b - _c2) * direction(-40)
_add("blend between arcs, outside one and round the other", _s,
     [arc(**centre(_c1), turn="ccw"), arc(tangent="yes", radius=_rk, turn="cw"),
      arc(tangent="yes", **centre(_c2), radius=_r2, **xy(_e), turn="cw")],
     [_a, _b, _e])  # fmt: skip

_reach, _rise = 9.0, 4.0
_w = math.acos(1 - _rise / _reach)
_x = 30 - 6 - _reach * math.sin(_w)
_add("shift from one height to another", 0j,
     [line(angle=0.0), arc(tangent="yes", radius=5.0, turn="ccw"), arc(tangent="yes", radius=4.0, turn="cw"),
      line(tangent="yes", angle=0.0, length=6.0, **xy(30 + 4j))],
     [_x + 0j, _x + 5 * math.sin(_w) + 5j * (1 - math.cos(_w)), 24 + 4j, 30 + 4j])  # fmt: skip

_u, _l = direction(30), 7.0
_shift = 3j - 3j * _u + _l * _u + (-2j * _u + 2j)  # arc R3 ccw, line, arc R2 cw
_x = 40 - 5 - _shift.real
_p1 = _x + 3j - 3j * _u
_add("step with a slanted line between two radii", 0j,
     [line(angle=0.0), arc(tangent="yes", radius=3.0, turn="ccw"), line(tangent="yes", angle=30.0, length=_l),
      arc(tangent="yes", radius=2.0, turn="cw"), line(tangent="yes", angle=0.0, length=5.0, x=40.0)],
     [_x + 0j, _p1, _p1 + _l * _u, _x + _shift, 40 + 1j * _shift.imag])  # fmt: skip

_add("half circle between parallel lines", 0j,
     [line(angle=0.0, length=20.0), arc(tangent="yes", turn="ccw"), line(tangent="yes", angle=180.0, **xy(0 + 12j))],
     [20 + 0j, 20 + 12j, 12j], radii=(6.0,))  # fmt: skip

_q = 6.0 * math.tan(math.radians(20))
_add("arc of unknown radius between lines of known ends", 0j,
     [line(x=10.0, y=0.0), arc(tangent="yes"),
      line(tangent="yes", angle=40.0, length=4.0, y=(_q + 4) * math.sin(math.radians(40)))],
     [10 + 0j, 10 + _q + _q * direction(40), 10 + _q + (_q + 4) * direction(40)], radii=(6.0,))  # fmt: skip

_cs = [0j, 20 + 0j, 8 + 14j]
_rs = [4.0, 3.0, 5.0]
_ns = [common(_cs[k], _rs[k], _cs[(k + 1) % 3], _rs[(k + 1) % 3]) for k in range(3)]
_ends: list[complex] = []
for _k in range(3):
    _ends += [_cs[_k] + _rs[_k] * _ns[_k], _cs[(_k + 1) % 3] + _rs[(_k + 1) % 3] * _ns[_k]]
_add("belt round three circles, start not known", None,
     [s for k in range(3) for s in (arc(tangent="yes", **centre(_cs[k]), radius=_rs[k], turn="ccw"), line(tangent="yes"))],
     _ends, closed=True)  # fmt: skip

_n = common(0j, 5.0, 18 + 0j, 3.0)
_up = complex(_n.real, -_n.imag)
_add("belt round two circles, start not known", None,
     [arc(tangent="yes", **centre(0j), radius=5.0, turn="ccw"), line(tangent="yes"),
      arc(tangent="yes", **centre(18 + 0j), radius=3.0, turn="ccw"), line(tangent="yes")],
     [5 * _n, 18 + 3 * _n, 18 + 3 * _up, 5 * _up], closed=True)  # fmt: skip

_add("closed triangle by its angles and a side", 0j,
     [line(angle=0.0, length=10.0), line(angle=120.0), line(angle=-130.0)],
     [10 + 0j, cross(10 + 0j, 120, 0j, 50), 0j], closed=True)  # fmt: skip
_add("closed rectangle by two sides", 0j,
     [line(angle=10.0, length=30.0), line(angle=100.0, length=20.0), line(angle=-170.0), line(angle=-80.0)],
     [30 * direction(10), 30 * direction(10) + 20 * direction(100), 20 * direction(100), 0j], closed=True)  # fmt: skip
_add("slot: closed, its ends tangent", 0j,
     [line(angle=0.0, length=24.0), arc(tangent="yes", radius=5.0, turn="ccw"), line(tangent="yes", angle=180.0),
      arc(tangent="yes", radius=5.0, turn="ccw")],
     [24 + 0j, 24 + 10j, 10j, 0j], closed=True)  # fmt: skip

_c, _r, _e = 10 + 6j, 4.0, 24 - 1j
_a = touching(0j, _c, _r, -1)
_b = touching(_e, _c, _r, 1)
_add("tangent line, arc, tangent line", 0j,
     [line(), arc(tangent="yes", **centre(_c), radius=_r, turn="cw"), line(tangent="yes", **xy(_e))],
     [_a, _b, _e])  # fmt: skip

_big = 14 + 9j
_r = abs(_big.imag)
_add("line at an angle touches an arc of known centre", 0j,
     [line(angle=0.0), arc(tangent="yes", **centre(_big), turn="ccw", sweep=80.0)],
     [14 + 0j, _big - 9j * direction(80)], radii=(9.0,))  # fmt: skip


def moved(case: Case, put: Callable[[complex], complex], turn: float, flip: bool) -> Case:
    """A case seen through a motion of the plane: `put` for points, angles by `turn` degrees, counted backwards when `flip`."""

    def one(s: Given) -> Given:
        new = dict(s)
        for u, v in (("x", "y"), ("cx", "cy"), ("qx", "qy")):
            if u in s or v in s:
                p = put(complex(s.get(u, 0.0), s.get(v, 0.0)))
                new |= {k: c for k, c in ((u, p.real), (v, p.imag)) if k in s}
        if "dx" in s or "dy" in s:
            p = put(complex(s.get("dx", 0.0), s.get("dy", 0.0))) - put(0j)
            new |= {k: c for k, c in (("dx", p.real), ("dy", p.imag)) if k in s}
        for name in ("angle", "at"):
            if name in s:
                new[name] = turn + (-s[name] if flip else s[name])
                new[name] = 180.0 - (180.0 - new[name]) % 360.0
        if flip and "turn" in s:
            new["turn"] = {"ccw": "cw", "cw": "ccw"}[s["turn"]]
        return new

    return Case(
        case.name,
        None if case.start is None else put(case.start),
        tuple(one(s) for s in case.segments),
        tuple(put(p) for p in case.ends),
        case.closed,
        case.radii,
        put(case.pole),
    )


def turns_freely(case: Case) -> bool:
    """Does it give points only as a whole, so that it can be turned by any angle?"""
    pairs = (("x", "y"), ("dx", "dy"), ("cx", "cy"))
    return all((u in s) == (v in s) for s in case.segments for u, v in pairs)


def plan_of(case: Case) -> PlanOutline:
    """The case as an outline seen from above."""
    start = (None, None) if case.start is None else (case.start.real, case.start.imag)
    segments = tuple(PlanSegment(**s) for s in case.segments)
    return PlanOutline(id="o", name="o", closed="yes" if case.closed else "no", x=start[0], y=start[1], segments=segments,
                       pole_x=case.pole.real, pole_y=case.pole.imag)  # fmt: skip


LIFT = 60.0
"""How far a case is lifted off the axis to be turned."""
NAMES = {"x": "z", "y": "d", "dx": "dz", "dy": "dd", "cx": "cz", "cy": "cd", "qx": "qz", "qy": "qd"}


def turned_of(case: Case) -> TurnedOutline:
    """An open case as a half section: X along the axis, Y the radius, lifted off the axis."""
    assert case.start is not None
    case = moved(case, lambda p: p + 1j * LIFT, 0.0, flip=False)

    def one(s: Given) -> TurnedSegment:
        given: Given = {}
        for key, value in s.items():
            twice = key in ("y", "dy", "cy", "qy")
            given[NAMES.get(key, key)] = 2 * value if twice else 180.0 - value if key in ("angle", "at") else value
        return TurnedSegment(**given)

    assert case.start is not None
    return TurnedOutline(id="o", name="o", z=case.start.real, d=2 * case.start.imag, segments=tuple(map(one, case.segments)),
                         pole_z=case.pole.real, pole_d=2 * case.pole.imag)  # fmt: skip
