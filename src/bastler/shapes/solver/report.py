"""What became of an outline: solved, open, ambiguous, or a contradiction; with all that is known of each segment."""

from __future__ import annotations

import contextlib
import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from typing import Literal

import msgspec
import shapely

from bastler.language import tr
from bastler.shapes.chain import middle_of, on_segment, points_on, tangent
from bastler.shapes.outline import AnyOutline, AnySegment, PlanOutline, field_name, from_plane, givens
from bastler.shapes.rounded import Arc, Line, Point, Segment
from bastler.shapes.solver.effort import EACH, WHOLE, OutOfEffort, effort
from bastler.shapes.solver.equations import Given, System, build
from bastler.shapes.solver.search import Clash, Solved, State, search, shortage

State_ = Literal["solved", "open", "ambiguous", "contradiction", "unfound"]
NEIGHBOURS = 3
"""How many segments on either side of a contradiction are asked whether they could give way."""
MOST_PAIRS, MOST_SETS = 60, 6
MOST_PIXELS = 0.004
"""Chords, as a share of the outline's size, with which shapes are compared."""
LINE_KEYS = ("u", "v", "angle", "length", "tangent")
ARC_KEYS = ("radius", "u", "v", "cu", "cv", "sweep", "tangent")


class Worked(msgspec.Struct, frozen=True, kw_only=True):
    """What is known of one segment. `segment` is its shape when all is; `line` (a point and a direction) or `circle` (centre and
    radius) what it lies on; `values` every number that can be told, as it would be given, by the plane's name of it."""

    start: Point | None = None
    end: Point | None = None
    segment: Segment | None = None
    line: tuple[Point, Point] | None = None
    circle: tuple[Point, float] | None = None
    values: dict[str, float] = {}


class Candidate(msgspec.Struct, frozen=True):
    """One shape that all given values allow."""

    worked: tuple[Worked, ...]

    @property
    def chain(self) -> list[Segment]:
        """The segments that are known, in order."""
        return [w.segment for w in self.worked if w.segment is not None]

    def middle(self, k: int) -> Point | None:
        """The middle of a segment: where to point at it."""
        segment = self.worked[k].segment
        return None if segment is None else middle_of(segment)


class Missing(msgspec.Struct, frozen=True):
    """Segments `first` to `last` are short of `count` numbers; any of `helps` (segment, plane's name) would be one."""

    first: int
    last: int
    count: int
    helps: tuple[Given, ...]


class Surplus(msgspec.Struct, frozen=True):
    """A given value that would have to go so that the rest agrees: it would then be `would`, and is `off` from that (job's unit
    or degrees); both None when it is not a number or stays open."""

    segment: int
    key: str
    would: float | None = None
    off: float | None = None


class Solution(msgspec.Struct, frozen=True, kw_only=True):
    """The result. `worked` is what all candidates agree on; `candidates` are the shapes to choose from when ambiguous, else the
    one; `others` are shapes that were passed over because they cross themselves or go the long way round, or were not pointed
    at. A contradiction has the segment where it shows, by how much, and sets of given values of which one would have to go.
    """

    state: State_
    worked: tuple[Worked, ...]
    candidates: tuple[Candidate, ...] = ()
    others: tuple[Candidate, ...] = ()
    missing: tuple[Missing, ...] = ()
    segment: int = -1
    by: float = 0.0
    surplus: tuple[tuple[Surplus, ...], ...] = ()


def solve(outline: AnyOutline, slack: float = 0.002) -> Solution:
    """Works an outline out. `slack` is how far, in the job's unit, numbers of the print may be rounded and still agree."""
    if not outline.segments:
        return Solution(state="open", worked=())
    try:
        with effort(max(WHOLE, EACH * len(outline.segments))):
            return _solved(outline, slack)
    except OutOfEffort:
        return unfound(outline)


def unfound(outline: AnyOutline) -> Solution:
    """An outline that nothing is known of, because it would take too long."""
    return Solution(state="unfound", worked=tuple(Worked() for _ in outline.segments))


def _solved(outline: AnyOutline, slack: float) -> Solution:
    s = build(outline, slack=slack)
    found = search(s)
    if not found.states:
        return _contradiction(outline, s, found, slack)
    whole = [state for state in found.states if not shortage(s, state)[0]]
    if not whole:
        return _open(outline, s, found.states)
    shapes = [c for state in whole for c in _candidates(outline, s, state)]
    if not shapes:
        said = _contradiction(outline, s, found, slack)
        # without one of them the others give that very number: they agree, and a root has not been found
        same = any(x.off is not None and x.off < slack / 1000 for entry in said.surplus for x in entry)
        return Solution(state="unfound", worked=said.worked) if found.tried and same else said
    kept, others = _natural(outline, shapes)
    kept, passed = _pointed_at(outline, kept, others)
    if len(kept) > 1:
        return Solution(state="ambiguous", worked=_common(kept), candidates=tuple(kept), others=tuple(passed))
    return Solution(state="solved", worked=kept[0].worked, candidates=tuple(kept), others=tuple(passed))


# -- from values to shapes ----------------------------------------------------------------------------------------------


def _candidates(outline: AnyOutline, s: System, state: State) -> Iterator[Candidate]:
    """A state as shapes: one for each way that arcs of which nothing is said may go round."""
    free = [k for k, turn in enumerate(state.turns) if s.kinds[k] == "arc" and not turn]
    for turns in itertools.product((1, -1), repeat=len(free)):
        chosen = list(state.turns)
        for k, turn in zip(free, turns, strict=True):
            chosen[k] = turn
        shape = Candidate(tuple(_worked(outline.segments[k], s, state, k, chosen[k]) for k in range(s.count)))
        if _agrees(s, shape, chosen):
            yield shape


def _agrees(s: System, shape: Candidate, turns: Sequence[int]) -> bool:
    """What only the finished arcs can tell: points they go through, how far they sweep."""
    for k, (u, v) in s.through.items():
        segment = shape.worked[k].segment
        q = (s.origin[0] + u * s.size, s.origin[1] + v * s.size)
        if isinstance(segment, Arc) and not on_segment(segment, q, 10 * s.slack * s.size):
            return False
    for k, sweep in s.sweeps.items():
        segment = shape.worked[k].segment
        if isinstance(segment, Arc) and abs(segment.sweep() - sweep) > 1e-3:
            return False
    return True


def _worked(given: AnySegment, s: System, state: State, k: int, turn: int) -> Worked:
    """What is known of one segment, in the job's unit."""
    a, b = _point(s, state, s.point(k)), _point(s, state, s.point(k + 1))
    values: dict[str, float] = {}
    for key, variable, axis in (("u", s.point(k + 1)[0], 0), ("v", s.point(k + 1)[1], 1)):
        number = state.x[variable]
        if number is not None:
            values[key] = s.origin[axis] + number * s.size
    if a and b:
        values |= {"du": b[0] - a[0], "dv": b[1] - a[1]}
    segment: Segment | None = None
    line = circle = None
    if s.kinds[k] == "line":
        theta = state.x[s.curve(k)[0]]
        if theta is not None:
            values["angle"] = theta
            at = a or b or _nearest(s, state, k, theta)
            line = (at, (math.cos(theta), math.sin(theta))) if at is not None else None
        if a and b:
            segment = Line(a, b)
            values["length"] = math.dist(a, b)
    else:
        centre, r = _point(s, state, s.curve(k)[:2]), state.x[s.curve(k)[2]]
        if centre:
            values |= {"cu": centre[0], "cv": centre[1]}
        if r is not None:
            values["radius"] = r * s.size
        if centre and r is not None:
            circle = (centre, r * s.size)
        if a and b and centre and turn:
            arc = Arc(a, b, centre, turn > 0)
            segment = arc
            values["sweep"] = arc.sweep()
    shown = {key: from_plane(given, key, number) for key, number in values.items()}
    if segment is not None and isinstance(segment, Arc):
        shown["turn"] = 1.0 if segment.ccw else -1.0
    return Worked(start=a, end=b, segment=segment, line=line, circle=circle, values=shown)


def _nearest(s: System, state: State, k: int, theta: float) -> Point | None:
    """A point of a line of which no end is known."""
    rho = state.x[s.curve(k)[1]]
    if rho is None:
        return None
    return (s.origin[0] - math.sin(theta) * rho * s.size, s.origin[1] + math.cos(theta) * rho * s.size)


def _point(s: System, state: State, variables: Sequence[int]) -> Point | None:
    u, v = state.x[variables[0]], state.x[variables[1]]
    return None if u is None or v is None else (s.origin[0] + u * s.size, s.origin[1] + v * s.size)


# -- which shape is meant -------------------------------------------------------------------------------------------------


def _natural(outline: AnyOutline, shapes: list[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
    """An outline does not cross itself, and an arc of which only the radius is given goes the shorter way."""
    if len(shapes) == 1:
        return shapes, []
    simple = [c for c in shapes if not _crosses(outline, c)] or shapes
    long = [_long_ways(outline, c) for c in simple]
    best = min(long)
    kept = [c for c, n in zip(simple, long, strict=True) if n == best]
    return kept, [c for c in shapes if c not in kept]


def _crosses(outline: AnyOutline, shape: Candidate) -> bool:
    chain = shape.chain
    size = max(math.dist(a, b) for a, b in itertools.combinations([s.start for s in chain] + [chain[-1].end], 2)) or 1.0
    points = points_on(chain, size * MOST_PIXELS)
    line = shapely.LinearRing(points[:-1]) if outline.is_closed and len(points) > 4 else shapely.LineString(points)
    if not line.is_simple:
        return True
    # a line and the next that runs back over it share no crossing but are one all the same
    joints = itertools.pairwise([*chain, chain[0]] if outline.is_closed else chain)
    return any(_folds(a, b) for a, b in joints)


def _folds(a: Segment, b: Segment) -> bool:
    t1, t2 = tangent(a, at_end=True), tangent(b)
    return isinstance(a, Line) and isinstance(b, Line) and t1[0] * t2[0] + t1[1] * t2[1] < -1 + 1e-12


def _long_ways(outline: AnyOutline, shape: Candidate) -> int:
    count = 0
    segments: tuple[AnySegment, ...] = outline.segments
    for given, w in zip(segments, shape.worked, strict=True):
        said = {"cu", "cv"} <= givens(given).keys() or {"sweep"} & givens(given).keys()
        if isinstance(w.segment, Arc) and not said and w.segment.sweep() > math.pi * (1 + 1e-9):
            count += 1
    return count


def _pointed_at(outline: AnyOutline, kept: list[Candidate], others: list[Candidate]) -> tuple[list[Candidate], list[Candidate]]:
    """Of several shapes the one that comes nearest to where the machinist pointed."""
    hints = [(k, s.near) for k, s in enumerate(outline.segments) if s.near is not None]
    every = [*kept, *others]
    if not hints or len(every) == 1:
        return kept, others
    far = [sum(math.dist(c.middle(k) or (1e9, 1e9), near) for k, near in hints) for c in every]
    best = min(far)
    near = [c for c, d in zip(every, far, strict=True) if d < best + 1e-9 + 1e-6 * best]
    return near, [c for c in every if c not in near]


def _common(shapes: Sequence[Candidate]) -> tuple[Worked, ...]:
    """What all shapes agree on."""
    first = shapes[0].worked
    made = []
    for k, w in enumerate(first):
        rest = [shape.worked[k] for shape in shapes[1:]]
        values = {key: number for key, number in w.values.items() if all(_same(number, r.values.get(key)) for r in rest)}
        start = w.start if all(_near(w.start, r.start) for r in rest) else None
        end = w.end if all(_near(w.end, r.end) for r in rest) else None
        same = start is not None and end is not None and len(values) == len(w.values)
        circle = w.circle if {"cu", "cv", "radius"} <= values.keys() else None
        made.append(Worked(start=start, end=end, segment=w.segment if same else None, circle=circle, values=values))
    return tuple(made)


def _same(a: float, b: float | None) -> bool:
    return b is not None and abs(a - b) <= 1e-7 * max(abs(a), 1.0)


def _near(a: Point | None, b: Point | None) -> bool:
    return a is not None and b is not None and math.dist(a, b) < 1e-7 * max(abs(a[0]), abs(a[1]), 1.0)


# -- what is missing ------------------------------------------------------------------------------------------------------


def _open(outline: AnyOutline, s: System, states: Sequence[State]) -> Solution:
    """The branch that is short of least, and what it is short of."""
    state = min(states, key=lambda st: shortage(s, st)[0])
    worked = tuple(_worked(outline.segments[k], s, state, k, state.turns[k]) for k in range(s.count))
    count, loose = shortage(s, state)
    owners = sorted({s.owner(v) for v in loose})
    runs: list[list[int]] = []
    for k in owners:
        if runs and k == runs[-1][-1] + 1:
            runs[-1].append(k)
        else:
            runs.append([k])
    missing = []
    for run in runs:
        own = count if len(runs) == 1 else _short_of(s, state, run, loose)
        if own:
            missing.append(Missing(run[0], run[-1], own, tuple(_helps(outline, s, run, set(loose)))))
    return Solution(state="open", worked=worked, missing=tuple(missing))


def _short_of(s: System, state: State, run: Sequence[int], loose: Sequence[int]) -> int:
    """How many numbers a run of segments is short by itself."""
    inside = {v for v in loose if s.owner(v) in run}
    fixed = State([0.0 if n is None and v not in inside else n for v, n in enumerate(state.x)], state.turns, state.left)
    return min(shortage(s, fixed)[0], len(inside))


def _helps(outline: AnyOutline, s: System, run: Sequence[int], loose: set[int]) -> Iterator[Given]:
    """Values not given yet that would tell something new."""
    for k in run:
        given = givens(outline.segments[k])
        for key in LINE_KEYS if s.kinds[k] == "line" else ARC_KEYS:
            if key in given or (key == "tangent" and (outline.segments[k].tangent == "yes" or (k == 0 and not s.closed))):
                continue
            if set(_touched(s, k, key)) & loose:
                yield (k, key)


def _touched(s: System, k: int, key: str) -> tuple[int, ...]:
    """The variables that a given value would bind."""
    a, b, curve = s.point(k), s.point(k + 1), s.curve(k)
    single = {"u": b[:1], "v": b[1:], "angle": curve[:1], "radius": curve[2:], "cu": curve[:1], "cv": curve[1:2]}
    if key in single:
        return single[key]
    if key == "tangent":
        return (*a, *curve[: 2 if s.kinds[k] == "line" else 3])
    return (*a, *b)


# -- what does not agree --------------------------------------------------------------------------------------------------


def _contradiction(outline: AnyOutline, s: System, found: Solved, slack: float) -> Solution:
    """Where it shows, by how much, and what would have to go."""
    clash = _worst(found.clashes)
    near = [k for k in range(s.count) if _apart(s, k, clash.segment) <= NEIGHBOURS]
    tried = [(k, key) for k in sorted(near, key=lambda k: _apart(s, k, clash.segment)) for key in _removable(outline, k)]
    surplus: tuple[tuple[Surplus, ...], ...] = _agreeing(outline, [[given] for given in tried], slack, len(tried))
    if not surplus:
        pairs = itertools.islice(itertools.combinations(tried, 2), MOST_PAIRS)
        surplus = _agreeing(outline, pairs, slack, MOST_SETS)
    by = clash.by * s.size if math.isfinite(clash.by) else 0.0
    off = [entry[0].off for entry in surplus if entry[0].off is not None]
    worked = _before(outline, clash.segment, slack)
    return Solution(state="contradiction", worked=worked, segment=clash.segment, by=by or min(off, default=0.0), surplus=surplus)


def _agreeing(outline: AnyOutline, sets: Iterable[Sequence[Given]], slack: float, most: int) -> tuple[tuple[Surplus, ...], ...]:
    """What would have to go, of sets of given values: at most so many, as far as looking for it does not take too long."""
    made: list[tuple[Surplus, ...]] = []
    with contextlib.suppress(OutOfEffort), effort(max(WHOLE, EACH * len(outline.segments))):
        for gone in sets:
            if len(made) < most and (found := _without(outline, gone, slack)) is not None:
                made.append(found)
    return tuple(made)


def _worst(clashes: Sequence[Clash]) -> Clash:
    """The clash that tells most: an equation's own, and of these the smallest."""
    return min(clashes, key=lambda c: (not math.isfinite(c.by), c.equation is None, c.by), default=Clash(math.inf, 0))


def _apart(s: System, a: int, b: int) -> int:
    far = abs(a - b)
    return min(far, s.count - far) if s.closed else far


def _removable(outline: AnyOutline, k: int) -> list[str]:
    segment = outline.segments[k]
    found = list(givens(segment))
    found += [name for name in ("tangent",) if segment.tangent == "yes"]
    found += [name for name in ("parallel", "square") if getattr(segment, name)]
    return found + (["turn"] if segment.kind == "arc" and segment.turn != "any" else [])


def _without(outline: AnyOutline, gone: Sequence[Given], slack: float) -> tuple[Surplus, ...] | None:
    """Does the rest agree without these? Then what they would be."""
    s = build(outline, frozenset(gone), slack)
    found = search(s)
    if not found.states:
        return None
    shapes = [c for state in found.states for c in _candidates(outline, s, state)]
    if not shapes:
        return None
    made = []
    for k, key in gone:
        given = givens(outline.segments[k]).get(key)
        shown = None if given is None else from_plane(outline.segments[k], key, given)
        would = [c.worked[k].values[key] for c in shapes if key in c.worked[k].values]
        if shown is None or not would:
            made.append(Surplus(k, key))
            continue
        best = min(would, key=lambda w: abs(w - shown))
        made.append(Surplus(k, key, best, abs(best - shown)))
    return tuple(made)


def _before(outline: AnyOutline, segment: int, slack: float) -> tuple[Worked, ...]:
    """What is known of the segments before the one where it does not go on."""
    blank = tuple(Worked() for _ in outline.segments)
    if segment <= 0:
        return blank
    part = msgspec.structs.replace(outline, segments=outline.segments[:segment])
    if isinstance(part, PlanOutline):
        part = msgspec.structs.replace(part, closed="no")
    s = build(part, slack=slack)
    found = search(s)
    if not found.states:
        return blank
    state = found.states[0]
    known = tuple(_worked(part.segments[k], s, state, k, state.turns[k]) for k in range(s.count))
    return (*known, *blank[len(known) :])


def label(segment: AnySegment, key: str) -> str:
    """A given value in the words of the form."""
    words = {
        "u": "Z" if field_name(segment, "u") == "z" else "X",
        "v": "Ø" if field_name(segment, "v") == "d" else "Y",
        "du": tr("by Z") if field_name(segment, "u") == "z" else tr("by X"),
        "dv": tr("by Ø") if field_name(segment, "v") == "d" else tr("by Y"),
        "cu": tr("centre Z") if field_name(segment, "u") == "z" else tr("centre X"),
        "cv": tr("centre Ø") if field_name(segment, "v") == "d" else tr("centre Y"),
        "qu": tr("the point it goes through"),
        "qv": tr("the point it goes through"),
        "far": tr("distance from the pole"),
        "at": tr("angle at the pole"),
        "turn": tr("which way it goes round"),
        "tangent": tr("tangent to the one before"),
        "parallel": tr("parallel"),
        "square": tr("right-angled"),
        "radius": tr("radius"),
        "length": tr("length"),
        "angle": tr("angle"),
        "sweep": tr("sweep"),
    }
    return words.get(key, key)
