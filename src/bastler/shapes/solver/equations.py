"""An outline as a system of equations.

Variables: the points P0 … Pn; of a line its direction θ (radians) and its distance ρ from the origin, so that n·P = ρ with
n = (-sin θ, cos θ); of an arc its centre and radius. Every given value is an equation or a variable known from the start.
Tangency is written so that no double root is left in it: the distance of centre and line, or of two centres, and the foot of the
perpendicular, in place of "the point lies on the second curve".

All lengths are divided by the size of the outline and seen from its middle, so that one tolerance fits all.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from bastler.shapes.outline import AnyOutline, AnySegment, givens

SUM, ON_LINE, ON_ARC, LINE_TAN, FOOT, ARC_TAN, COLLINEAR, LENGTH, FAR, RAY, THROUGH_LINE, THROUGH_ARC, SWEEP = range(13)
SIGNED = (LINE_TAN, ARC_TAN, SWEEP)
"""Equations that need to know which way an arc goes round."""
NOTHING = 3e-7
"""A sine or cosine below this counts as nought: an angle that is a double root is only known so well (see `closed.DOUBLE`)."""
Given = tuple[int, str]
"""A given value: number of the segment (-1: the outline itself) and the plane's name of it."""
Values = list[float | None]


@dataclass(frozen=True)
class Equation:
    """`code` says what it is, `v` are its variables, `c` its constants; `arcs` are the arcs whose turn it depends on; `givens`
    what it was made from, `segment` where it stands."""

    code: int
    v: tuple[int, ...]
    c: tuple[float, ...] = ()
    arcs: tuple[int, ...] = ()
    givens: tuple[Given, ...] = ()
    segment: int = 0


@dataclass
class System:
    """The equations of an outline with what is known from the start. `turns` is 1, -1 or 0 (not known) for every segment."""

    kinds: list[str]
    closed: bool
    origin: tuple[float, float]
    size: float
    slack: float
    known: dict[int, tuple[float, Given]]
    turns: list[int]
    equations: list[Equation]
    through: dict[int, tuple[float, float]]
    rays: list[tuple[int, float, float, float]]
    sweeps: dict[int, float]
    doubled: list[tuple[Given, Given, float]] = field(default_factory=list)

    @property
    def count(self) -> int:
        return len(self.kinds)

    @property
    def variables(self) -> int:
        return 2 * (self.count + 1) + 3 * self.count

    def point(self, k: int) -> tuple[int, int]:
        """Variables of the k-th point; a closed outline's last is its first."""
        k = 0 if self.closed and k == self.count else k
        return (2 * k, 2 * k + 1)

    def curve(self, k: int) -> tuple[int, int, int]:
        """Variables of the k-th segment: θ, ρ, none; or centre and radius."""
        at = 2 * (self.count + 1) + 3 * k
        return (at, at + 1, at + 2)

    def all_variables(self) -> list[int]:
        """Every variable that there is."""
        points = range(2 * (self.count if self.closed else self.count + 1))
        curves = [v for k, kind in enumerate(self.kinds) for v in self.curve(k)[: 2 if kind == "line" else 3]]
        return [*points, *curves]

    def is_angle(self, variable: int) -> bool:
        at = variable - 2 * (self.count + 1)
        return at >= 0 and at % 3 == 0 and self.kinds[at // 3] == "line"

    def owner(self, variable: int) -> int:
        """The segment a variable belongs to; a point belongs to the segment that ends in it."""
        at = variable - 2 * (self.count + 1)
        return at // 3 if at >= 0 else (variable // 2 - 1) % self.count


def build(outline: AnyOutline, without: frozenset[Given] = frozenset(), slack: float = 0.002) -> System:
    """The system of an outline, some given values left out. `slack` (job's unit) is how much numbers of a print may be
    rounded."""
    segments: list[AnySegment] = list(outline.segments)
    every = [{key: value for key, value in givens(s).items() if (k, key) not in without} for k, s in enumerate(segments)]
    start = [None if (-1, key) in without else value for key, value in zip("uv", outline.start, strict=True)]
    origin, size = _frame(every, start, outline.pole)
    system = System(
        kinds=[s.kind for s in segments],
        closed=outline.is_closed,
        origin=origin,
        size=size,
        slack=slack / size,
        known={},
        turns=[_turn(s, k, without) for k, s in enumerate(segments)],
        equations=[],
        through={},
        rays=[],
        sweeps={},
    )
    maker = _Maker(system, outline.pole)
    for axis, value in enumerate(start):
        if value is not None:
            maker.know(system.point(0)[axis], (value - origin[axis]) / size, (-1, "uv"[axis]))
    for k, values in enumerate(every):
        maker.segment(k, values)
    for k, segment in enumerate(segments):
        maker.relations(k, segment, segments, without)
    return system


def _turn(s: AnySegment, k: int, without: frozenset[Given]) -> int:
    return 0 if s.kind == "line" or (k, "turn") in without else {"any": 0, "ccw": 1, "cw": -1}[s.turn]


def _frame(
    every: Sequence[dict[str, float]], start: Sequence[float | None], pole: tuple[float, float]
) -> tuple[tuple[float, float], float]:
    """Middle and size of all that is given."""
    us = [v[key] for v in every for key in ("u", "cu", "qu") if key in v] + [start[0] or 0.0]
    vs = [v[key] for v in every for key in ("v", "cv", "qv") if key in v] + [start[1] or 0.0]
    lengths = [abs(v[key]) for v in every for key in ("du", "dv", "length", "radius", "far") if key in v]
    origin = ((min(us) + max(us)) / 2, (min(vs) + max(vs)) / 2)
    size = max([max(us) - min(us), max(vs) - min(vs), *lengths]) or 1.0
    return origin, size


class _Maker:
    """Writes a system's equations."""

    def __init__(self, system: System, pole: tuple[float, float]) -> None:
        self.s = system
        self.pole = self._place(pole)

    def _place(self, p: tuple[float, float]) -> tuple[float, float]:
        return ((p[0] - self.s.origin[0]) / self.s.size, (p[1] - self.s.origin[1]) / self.s.size)

    def know(self, variable: int, value: float, given: Given) -> None:
        """A variable's value; a second one for the same variable is kept to be compared."""
        if variable in self.s.known:
            first, source = self.s.known[variable]
            off = abs(value - first)
            if self.s.is_angle(variable):
                off = abs((off + math.pi) % (2 * math.pi) - math.pi)
            self.s.doubled.append((source, given, off))
        else:
            self.s.known[variable] = (value, given)

    def add(
        self, code: int, v: Sequence[int], k: int, *names: str, c: tuple[float, ...] = (), arcs: tuple[int, ...] = ()
    ) -> None:
        self.s.equations.append(Equation(code, tuple(v), c, arcs, tuple((k, name) for name in names), k))

    def segment(self, k: int, values: dict[str, float]) -> None:
        s = self.s
        size, a, b = s.size, s.point(k), s.point(k + 1)
        for axis in (0, 1):
            if (key := "uv"[axis]) in values:
                self.know(b[axis], (values[key] - s.origin[axis]) / size, (k, key))
            if (key := ("du", "dv")[axis]) in values:
                self.add(SUM, (b[axis], a[axis]), k, key, c=(1.0, -1.0, values[key] / size))
        if "far" in values:
            self.add(FAR, b, k, "far", c=(*self.pole, values["far"] / size))
        if "at" in values:
            self.add(RAY, b, k, "at", c=(*self.pole, values["at"]))
            s.rays.append((k, *self.pole, values["at"]))
        if s.kinds[k] == "line":
            self._line(k, values)
        else:
            self._arc(k, values)

    def _line(self, k: int, values: dict[str, float]) -> None:
        s = self.s
        theta, rho, _ = s.curve(k)
        a, b = s.point(k), s.point(k + 1)
        self.add(ON_LINE, (theta, rho, *a), k)
        self.add(ON_LINE, (theta, rho, *b), k)
        if "angle" in values:
            self.know(theta, values["angle"], (k, "angle"))
        if "length" in values:
            self.add(LENGTH, (*a, *b), k, "length", c=(values["length"] / s.size,))
        if "qu" in values and "qv" in values:
            self.add(THROUGH_LINE, (theta, rho), k, "qu", "qv", c=self._place((values["qu"], values["qv"])))

    def _arc(self, k: int, values: dict[str, float]) -> None:
        s = self.s
        cu, cv, r = s.curve(k)
        for variable, key, axis in ((cu, "cu", 0), (cv, "cv", 1)):
            if key in values:
                self.know(variable, (values[key] - s.origin[axis]) / s.size, (k, key))
        if "radius" in values:
            self.know(r, values["radius"] / s.size, (k, "radius"))
        if "qu" in values and "qv" in values:
            q = self._place((values["qu"], values["qv"]))
            self.add(THROUGH_ARC, (cu, cv, r), k, "qu", "qv", c=q)
            s.through[k] = q
        if "sweep" in values:
            self.add(SWEEP, (*s.point(k), cu, cv, *s.point(k + 1)), k, "sweep", c=(values["sweep"],), arcs=(k,))
            s.sweeps[k] = values["sweep"]

    def relations(self, k: int, segment: AnySegment, segments: Sequence[AnySegment], without: frozenset[Given]) -> None:
        s = self.s
        before = k - 1 if k or not s.closed else s.count - 1
        tangent = segment.tangent == "yes" and before >= 0 and before != k and (k, "tangent") not in without
        self._joint(before, k, tangent=tangent)
        numbers = {other.id: j for j, other in enumerate(segments) if other.id and other.kind == "line"}
        if segment.kind == "line":
            for name, turn in (("parallel", 0.0), ("square", math.pi / 2)):
                other = numbers.get(getattr(segment, name))
                if other is not None and other != k and (k, name) not in without:
                    self.add(SUM, (s.curve(k)[0], s.curve(other)[0]), k, name, c=(1.0, -1.0, turn))
        after = segments[(k + 1) % s.count] if k + 1 < s.count or s.closed else None
        touched = after is not None and after.kind == "line" and after.tangent == "yes"
        if s.kinds[k] == "arc" and not (touched and ((k + 1) % s.count, "tangent") not in without):
            # where a line touches it, its end on it follows from that, and would only bring the double root back
            self.add(ON_ARC, (*s.point(k + 1), *s.curve(k)), k)

    def _joint(self, a: int, b: int, *, tangent: bool) -> None:
        """Where segment `b` begins: its own start lies on it, or the two touch there."""
        s, p = self.s, self.s.point(b)
        if not tangent:
            if s.kinds[b] == "arc":
                self.add(ON_ARC, (*p, *s.curve(b)), b)
            return
        if s.kinds[a] == s.kinds[b] == "line":
            self.add(SUM, (s.curve(b)[0], s.curve(a)[0]), b, "tangent", c=(1.0, -1.0, 0.0))
        elif s.kinds[a] == s.kinds[b]:
            self.add(COLLINEAR, (*p, *s.curve(a)[:2], *s.curve(b)[:2]), b, "tangent")
            self.add(ARC_TAN, (*s.curve(a), *s.curve(b)), b, "tangent", arcs=(a, b))
        else:
            line, arc = (a, b) if s.kinds[a] == "line" else (b, a)
            self.add(FOOT, (s.curve(line)[0], *p, *s.curve(arc)[:2]), b, "tangent")
            self.add(LINE_TAN, (*s.curve(line)[:2], *s.curve(arc)), b, "tangent", arcs=(arc,))


def value(e: Equation, x: Values, turns: Sequence[int]) -> float:
    """The equation's left side; all its variables are known."""
    w = [x[i] for i in e.v]
    return _VALUES[e.code](w, constants(e, turns))  # type: ignore[arg-type]


def constants(e: Equation, turns: Sequence[int]) -> tuple[float, ...]:
    """Its constants with the turns of its arcs put in."""
    if e.code == LINE_TAN:
        return (float(turns[e.arcs[0]]),)
    if e.code == ARC_TAN:
        return (float(turns[e.arcs[0]] * turns[e.arcs[1]]),)
    if e.code == SWEEP:
        return (e.c[0] * turns[e.arcs[0]],)
    return e.c


def _sum(w: list[float], c: tuple[float, ...]) -> float:
    return c[0] * w[0] + c[1] * w[1] - c[2]


def _on_line(w: list[float], c: tuple[float, ...]) -> float:
    return -math.sin(w[0]) * w[2] + math.cos(w[0]) * w[3] - w[1]


def _on_arc(w: list[float], c: tuple[float, ...]) -> float:
    return (w[0] - w[2]) ** 2 + (w[1] - w[3]) ** 2 - w[4] ** 2


def _line_tan(w: list[float], c: tuple[float, ...]) -> float:
    return -math.sin(w[0]) * w[2] + math.cos(w[0]) * w[3] - w[1] - c[0] * w[4]


def _foot(w: list[float], c: tuple[float, ...]) -> float:
    return math.cos(w[0]) * (w[1] - w[3]) + math.sin(w[0]) * (w[2] - w[4])


def _arc_tan(w: list[float], c: tuple[float, ...]) -> float:
    return (w[0] - w[3]) ** 2 + (w[1] - w[4]) ** 2 - (w[2] - c[0] * w[5]) ** 2


def _collinear(w: list[float], c: tuple[float, ...]) -> float:
    return (w[0] - w[2]) * (w[5] - w[3]) - (w[1] - w[3]) * (w[4] - w[2])


def _length(w: list[float], c: tuple[float, ...]) -> float:
    return (w[0] - w[2]) ** 2 + (w[1] - w[3]) ** 2 - c[0] ** 2


def _far(w: list[float], c: tuple[float, ...]) -> float:
    return (w[0] - c[0]) ** 2 + (w[1] - c[1]) ** 2 - c[2] ** 2


def _ray(w: list[float], c: tuple[float, ...]) -> float:
    return -math.sin(c[2]) * (w[0] - c[0]) + math.cos(c[2]) * (w[1] - c[1])


def _through_line(w: list[float], c: tuple[float, ...]) -> float:
    return -math.sin(w[0]) * c[0] + math.cos(w[0]) * c[1] - w[1]


def _through_arc(w: list[float], c: tuple[float, ...]) -> float:
    return (c[0] - w[0]) ** 2 + (c[1] - w[1]) ** 2 - w[2] ** 2


def _sweep(w: list[float], c: tuple[float, ...]) -> float:
    au, av, bu, bv = w[0] - w[2], w[1] - w[3], w[4] - w[2], w[5] - w[3]
    cos, sin = math.cos(c[0]), math.sin(c[0])
    return (cos * au - sin * av) * bv - (sin * au + cos * av) * bu


_VALUES = {
    SUM: _sum, ON_LINE: _on_line, ON_ARC: _on_arc, LINE_TAN: _line_tan, FOOT: _foot, ARC_TAN: _arc_tan, COLLINEAR: _collinear,
    LENGTH: _length, FAR: _far, RAY: _ray, THROUGH_LINE: _through_line, THROUGH_ARC: _through_arc, SWEEP: _sweep,
}  # fmt: skip


def gap(e: Equation, x: Values, turns: Sequence[int]) -> float:
    """How far from true an equation is, as a length of the scaled outline (an angle in radians)."""
    f = value(e, x, turns)
    w = [x[i] or 0.0 for i in e.v]
    c = constants(e, turns)
    if e.code == SUM and len(e.givens) and e.givens[0][1] in ("parallel", "square", "tangent"):
        half = 2 * math.pi if e.givens[0][1] == "tangent" else math.pi
        return abs((f + half / 2) % half - half / 2)
    if e.code == ON_ARC:
        return abs(math.hypot(w[0] - w[2], w[1] - w[3]) - abs(w[4]))
    if e.code == THROUGH_ARC:
        return abs(math.hypot(c[0] - w[0], c[1] - w[1]) - abs(w[2]))
    if e.code == ARC_TAN:
        return abs(math.hypot(w[0] - w[3], w[1] - w[4]) - abs(w[2] - c[0] * w[5]))
    if e.code == LENGTH:
        return abs(math.hypot(w[0] - w[2], w[1] - w[3]) - c[0])
    if e.code == FAR:
        return abs(math.hypot(w[0] - c[0], w[1] - c[1]) - c[2])
    if e.code == COLLINEAR:
        return abs(f) / max(math.hypot(w[4] - w[2], w[5] - w[3]), 1e-9)
    if e.code == SWEEP:
        return abs(f) / max(math.hypot(w[0] - w[2], w[1] - w[3]), 1e-9)
    return abs(f)


def unknowns(e: Equation, x: Values) -> tuple[int, ...]:
    """The variables an equation still asks for: those it has and that are not known, less those whose factor is nought."""
    open_ = [i for i in e.v if x[i] is None]
    if not open_ or e.code not in (ON_LINE, LINE_TAN, FOOT, RAY, COLLINEAR):
        return tuple(open_)
    zero = _without_factor(e, x)
    return tuple(i for i in open_ if i not in zero)


def _without_factor(e: Equation, x: Values) -> set[int]:
    """Variables of an equation that are multiplied by nought."""
    if e.code == COLLINEAR:
        a, b, c, d = (x[i] for i in e.v[2:])
        if a is None or b is None or c is None or d is None:
            return set()
        return {v for v, by in zip(e.v[:2], (d - b, c - a), strict=True) if abs(by) < NOTHING}
    theta = e.c[2] if e.code == RAY else x[e.v[0]]
    if theta is None:
        return set()
    sin, cos = abs(math.sin(theta)) < NOTHING, abs(math.cos(theta)) < NOTHING
    if e.code == RAY:
        return {e.v[0]} if sin else {e.v[1]} if cos else set()
    if e.code == FOOT:
        return {e.v[1], e.v[3]} if cos else {e.v[2], e.v[4]} if sin else set()
    return {e.v[2]} if sin else {e.v[3]} if cos else set()
