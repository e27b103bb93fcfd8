"""Working a system out, block by block.

Always the smallest set of equations is solved that determines all it asks for: first one equation in one unknown, then two in
two and three in three, each in closed form; only what hangs together more than that goes to Newton's method, one block of the
Dulmage-Mendelsohn decomposition at a time. Each solution of a block goes on by itself, so that in the end every shape is there.
A branch ends where a given value disagrees or a segment would run backwards.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from bastler.shapes.solver.closed import closed_form, holds_anyway
from bastler.shapes.solver.effort import spend
from bastler.shapes.solver.equations import COLLINEAR, RAY, SIGNED, SUM, SWEEP, Equation, Given, System, Values, gap, unknowns
from bastler.shapes.solver.newton import dependent, numeric

MOST_SHAPES = 24
"""More shapes than this are not looked for."""
MOST_STATES = 400
MANY = 30
"""Segments from which on plain equations are taken together."""
SHORTEST = 1e-7
"""A segment shorter than this, of a scaled outline, is none."""
ANGLE_SLACK = 2e-4


@dataclass
class State:
    """How far one branch has come: values, turns, the equations still to be used, the segments already looked at, and equations
    that follow from others: they determine nothing, and are only held against the numbers."""

    x: Values
    turns: list[int]
    left: list[Equation]
    seen: set[int] = field(default_factory=set)
    spare: list[Equation] = field(default_factory=list)


@dataclass(frozen=True)
class Clash:
    """Why a branch ended: by how much (a length of the scaled outline) at which segment, and the equation when it was one."""

    by: float
    segment: int
    equation: Equation | None = None


@dataclass
class Solved:
    """All branches that came to an end without a clash, and the clashes of the others; whether Newton's method was asked, which
    may not find every root."""

    states: list[State]
    clashes: list[Clash]
    tried: bool = False


def search(s: System) -> Solved:
    """Every shape that the equations allow, and why others do not go."""
    x: Values = [None] * s.variables
    for variable, (number, _) in s.known.items():
        x[variable] = number
    found = Solved([], [])
    for _, given, off in s.doubled:
        if off > (ANGLE_SLACK if given[1] == "angle" else s.slack):
            found.clashes.append(Clash(off, given[0]))
    if found.clashes:
        return found
    waiting = [State(x, list(s.turns), list(s.equations))]
    for _ in range(MOST_STATES):
        if not waiting or len(found.states) >= MOST_SHAPES:
            break
        state = waiting.pop()
        more = _advance(s, state, found)
        waiting += more
    return found


def _advance(s: System, state: State, found: Solved) -> list[State]:
    """Goes on until the branch ends (nothing comes back) or parts."""
    while True:
        clash = _checked(s, state)
        if clash is not None:
            found.clashes.append(clash)
            return []
        asked = [(e, unknowns(e, state.x)) for e in state.left]
        spend(len(asked) + s.count)
        if _plain_ones(s, state, asked):
            continue
        block = _next_block(s, state, asked)
        if block is None:
            arc = _open_turn(state, asked)
            if arc is not None:
                return [_turned(state, arc, turn) for turn in (-1, 1)]
            found.states.append(state)
            return []
        equations, variables = block
        roots = closed_form(s, equations, variables, state.x, state.turns)
        if roots is None:
            found.tried = True
            roots = numeric(s, equations, variables, state.x, state.turns)
        roots = [root for root in roots if _sound(s, state, variables, root)]
        follows = None if roots else _following(s, state, equations, variables)
        if follows is not None:
            state.spare = [*state.spare, follows]
            state.left = [e for e in state.left if e is not follows]
            continue
        if not roots:
            found.clashes.append(Clash(math.inf, equations[0].segment, equations[0]))
            return []
        if len(roots) > 1:
            return [_filled(state, equations, variables, root) for root in reversed(roots)]
        state = _filled(state, equations, variables, roots[0])


def _plain_ones(s: System, state: State, asked: Sequence[tuple[Equation, tuple[int, ...]]]) -> bool:
    """Fills in all that one equation each determines in one way, of an outline of many segments: one by one each would have all
    others looked at again. Where there is one that has no root or several, it is left to the search."""
    if s.count < MANY:
        return False
    used: set[int] = set()
    for e, v in sorted(asked, key=lambda entry: (entry[0].code in (SWEEP, RAY), len(entry[0].givens))):
        if len(v) != 1 or state.x[v[0]] is not None or not _ready(e, state.turns):
            continue
        roots = closed_form(s, [e], v, state.x, state.turns)
        if roots is None or len(roots) != 1 or not _sound(s, state, v, roots[0]):
            break
        state.x[v[0]] = roots[0][0]
        used.add(id(e))
    state.left = [e for e in state.left if id(e) not in used]
    return _lines_between(s, state) or bool(used)


def _lines_between(s: System, state: State) -> bool:
    """The lines whose ends are known; their equations then hold by themselves."""
    found = False
    for k in range(s.count):
        theta, off = s.curve(k)[:2]
        ends = [state.x[v] for v in (*s.point(k), *s.point(k + 1))]
        if s.kinds[k] != "line" or state.x[theta] is not None or state.x[off] is not None:
            continue
        u0, v0, u1, v1 = ends
        if u0 is None or v0 is None or u1 is None or v1 is None or math.hypot(u1 - u0, v1 - v0) < SHORTEST:
            continue
        angle = math.atan2(v1 - v0, u1 - u0)
        state.x[theta], state.x[off] = angle, math.cos(angle) * v0 - math.sin(angle) * u0
        found = True
    return found


def _following(s: System, state: State, equations: Sequence[Equation], variables: Sequence[int]) -> Equation | None:
    """An equation of a block without a solution that follows from others, when that is why."""
    if len(equations) == 1:
        return equations[0] if holds_anyway(equations[0], variables[0], state.x, state.turns) else None
    if closed_form(s, equations, variables, state.x, state.turns):
        return None
    number = dependent(s, equations, variables, state.x, state.turns)
    return None if number is None else equations[number]


def _filled(state: State, used: Sequence[Equation], variables: Sequence[int], root: Sequence[float]) -> State:
    x = list(state.x)
    for variable, number in zip(variables, root, strict=True):
        x[variable] = number
    gone = {id(e) for e in used}
    return State(x, list(state.turns), [e for e in state.left if id(e) not in gone], set(state.seen), state.spare)


def _turned(state: State, arc: int, turn: int) -> State:
    turns = list(state.turns)
    turns[arc] = turn
    return State(list(state.x), turns, list(state.left), set(state.seen), state.spare)


def _sound(s: System, state: State, variables: Sequence[int], root: Sequence[float]) -> bool:
    """Is it a shape at all: numbers, radii that are some, no line of no length, and no end of an arc in its own centre?"""
    first = 2 * (s.count + 1)
    for v, number in zip(variables, root, strict=True):
        if not math.isfinite(number) or (v >= first and (v - first) % 3 == 2 and number <= SHORTEST):
            return False
    new = dict(zip(variables, root, strict=True))
    for k in range(s.count):
        if s.kinds[k] == "line":
            if _meets(state, new, s.point(k), s.point(k + 1)):
                return False
        else:
            centre = s.curve(k)[:2]
            if any(_meets(state, new, p, centre) for p in (s.point(k), s.point(k + 1))):
                return False
    return True


def _meets(state: State, new: dict[int, float], a: Sequence[int], b: Sequence[int]) -> bool:
    """Do two points that are known now, one of them only since then, lie on each other?"""
    if not new.keys() & {*a, *b}:
        return False
    p, q = ([new.get(v, state.x[v]) for v in point] for point in (a, b))
    return all(m is not None and n is not None and abs(m - n) < SHORTEST for m, n in zip(p, q, strict=True))


def _ready(e: Equation, turns: Sequence[int]) -> bool:
    return e.code not in SIGNED or all(turns[arc] for arc in e.arcs)


def _checked(s: System, state: State) -> Clash | None:
    """Holds every equation without unknowns against the numbers, and every segment that is whole against its sense."""
    rest = []
    for e in state.left:
        if any(state.x[i] is None for i in e.v) and unknowns(e, state.x):
            rest.append(e)
            continue
        if any(state.x[i] is None for i in e.v):
            if not _vanishes(e, state):
                return Clash(s.slack * 10, e.segment, e)
            continue
        if not _ready(e, state.turns):
            rest.append(e)
            continue
        off = gap(e, state.x, state.turns)
        if off > (ANGLE_SLACK if e.code == SUM and s.is_angle(e.v[0]) else s.slack):
            return Clash(off, e.segment, e)
    state.left = rest
    for e in state.spare:
        if all(state.x[i] is not None for i in e.v) and (off := gap(e, state.x, state.turns)) > s.slack:
            return Clash(off, e.segment, e)
    for k in range(s.count):
        if k not in state.seen and _whole(s, state, k):
            state.seen.add(k)
            back = _backwards(s, state, k)
            if back is not None:
                return Clash(back, k)
    return None


def _vanishes(e: Equation, state: State) -> bool:
    """An equation whose only unknowns are multiplied by nought: does what is left of it hold?"""
    filled: Values = [0.0 if n is None else n for n in state.x]
    return gap(e, filled, state.turns) < 1e-3


def _whole(s: System, state: State, k: int) -> bool:
    wanted = (*s.point(k), *s.point(k + 1), *s.curve(k)[: 2 if s.kinds[k] == "line" else 3])
    return all(state.x[v] is not None for v in wanted)


def _xy(state: State, variables: Sequence[int]) -> tuple[float, float]:
    u, v = state.x[variables[0]], state.x[variables[1]]
    assert u is not None
    assert v is not None
    return (u, v)


def _backwards(s: System, state: State, k: int) -> float | None:
    """By how much a segment that is all known contradicts its own sense; None when it does not."""
    a, b = _xy(state, s.point(k)), _xy(state, s.point(k + 1))
    for own, pu, pv, angle in s.rays:
        if own == k and (b[0] - pu) * math.cos(angle) + (b[1] - pv) * math.sin(angle) < -s.slack:
            return math.dist(b, (pu, pv))
    theta = state.x[s.curve(k)[0]]
    if s.kinds[k] == "line":
        along = (b[0] - a[0]) * math.cos(theta or 0.0) + (b[1] - a[1]) * math.sin(theta or 0.0)
        return None if along > SHORTEST else abs(along)
    if math.dist(a, b) < SHORTEST and not (s.closed and s.count == 1):
        return SHORTEST
    for e in s.equations:
        if e.code == COLLINEAR and e.segment == k:
            return _not_touching(s, state, k)
    return None


def _not_touching(s: System, state: State, k: int) -> float | None:
    """Two arcs that should touch: does the point lie on the second, on the right side?"""
    before = (k - 1) % s.count
    p, r = _xy(state, s.point(k)), state.x[s.curve(k)[2]] or 0.0
    c1, c2 = (_xy(state, s.curve(j)) if state.x[s.curve(j)[0]] is not None else None for j in (before, k))
    if c1 is None or c2 is None:
        return None
    off = abs(math.dist(p, c2) - r)
    if off > s.slack:
        return off
    same = state.turns[before] * state.turns[k]
    facing = (p[0] - c1[0]) * (p[0] - c2[0]) + (p[1] - c1[1]) * (p[1] - c2[1])
    return None if same == 0 or facing * same > 0 else 2 * r


Block = tuple[list[Equation], list[int]]


def _next_block(s: System, state: State, asked: Sequence[tuple[Equation, tuple[int, ...]]]) -> Block | None:
    """The smallest set of equations that determines all its unknowns."""
    usable = [(e, v) for e, v in asked if v and _ready(e, state.turns)]
    exact = [entry for entry in usable if len(entry[1]) == 1]
    if exact:
        e, v = min(exact, key=lambda entry: (entry[0].code in (SWEEP, RAY), len(entry[0].givens)))
        return [e], list(v)
    for size in (2, 3):
        small = [(e, frozenset(v)) for e, v in usable if len(v) <= size]
        for _, whole in small:
            if len(whole) != size:
                continue
            inside = [e for e, v in small if v <= whole]
            if len(inside) >= size:
                return _independent(s, state, inside, sorted(whole))
    return _large_block(usable)


def _independent(s: System, state: State, equations: list[Equation], unknown: list[int]) -> Block:
    """Of more equations than needed, ones that have a solution; the first when none has."""
    first: Block = (equations[: len(unknown)], unknown)
    if len(equations) == len(unknown):
        return first
    for some in itertools.combinations(equations, len(unknown)):
        if closed_form(s, some, unknown, state.x, state.turns):
            return list(some), unknown
    return first


def _large_block(usable: Sequence[tuple[Equation, tuple[int, ...]]]) -> Block | None:
    """The smallest block of the decomposition that asks for nothing outside of itself."""
    variables = sorted({v for _, own in usable for v in own})
    if not variables:
        return None
    from scipy.sparse import csr_matrix  # a second to load: not before an outline has to be searched
    from scipy.sparse.csgraph import connected_components

    place = {v: k for k, v in enumerate(variables)}
    matched, loose = _matching(usable, place)
    owners = {m: row for row, m in enumerate(matched) if m >= 0}
    rows = [row for row, m in enumerate(matched) if m >= 0 and m not in loose]
    if not rows:
        return None
    links = [(row, owners[place[v]]) for row in rows for v in usable[row][1]]
    graph = csr_matrix((np.ones(len(links)), tuple(np.array(links).T)), shape=(len(usable), len(usable)))
    _, label = connected_components(graph, directed=True, connection="strong")
    outward = {label[a] for a, b in links if label[a] != label[b]}
    groups: dict[int, list[int]] = {}
    for row in rows:
        groups.setdefault(int(label[row]), []).append(row)
    closed = [group for name, group in groups.items() if name not in outward]
    if not closed:
        return None
    best = min(closed, key=len)
    return [usable[row][0] for row in best], [variables[matched[row]] for row in best]


def _matching(usable: Sequence[tuple[Equation, tuple[int, ...]]], place: dict[int, int]) -> tuple[list[int], set[int]]:
    """For each equation the unknown it determines (-1: none), and the unknowns that cannot be determined."""
    from scipy.sparse import csr_matrix
    from scipy.sparse.csgraph import maximum_bipartite_matching

    pairs = [(row, place[v]) for row, (_, own) in enumerate(usable) for v in own]
    graph = csr_matrix((np.ones(len(pairs)), tuple(np.array(pairs).T)), shape=(len(usable), len(place)))
    matched = [int(m) for m in maximum_bipartite_matching(graph, perm_type="column")]
    taken = {m for m in matched if m >= 0}
    loose = set(range(len(place))) - taken
    users: dict[int, list[int]] = {}
    for row, at in pairs:
        users.setdefault(at, []).append(row)
    waiting = list(loose)
    while waiting:
        for row in users.get(waiting.pop(), ()):
            if matched[row] >= 0 and matched[row] not in loose:
                loose.add(matched[row])
                waiting.append(matched[row])
    return matched, loose


def _open_turn(state: State, asked: Sequence[tuple[Equation, tuple[int, ...]]]) -> int | None:
    """An arc whose turn has to be tried so that it goes on; one that helps soonest."""
    waiting = [(len(v), arc) for e, v in asked for arc in e.arcs if e.code in SIGNED and not state.turns[arc]]
    return min(waiting)[1] if waiting else None


def shortage(s: System, state: State) -> tuple[int, list[int]]:
    """How many numbers a branch that came to its end is short, and the variables that are not determined."""
    open_ = [v for v in s.all_variables() if state.x[v] is None]
    if not open_:
        return 0, []
    usable = [(e, unknowns(e, state.x)) for e in state.left]
    usable = [(e, v) for e, v in usable if v]
    place = {v: k for k, v in enumerate(open_)}
    if not usable:
        return len(open_), open_
    matched, loose = _matching(usable, place)
    short = len(open_) - sum(1 for m in matched if m >= 0)
    return short, [v for v in open_ if place[v] in loose]


def given_sources(s: System) -> Iterator[Given]:
    """Every given value of the system."""
    yield from (given for _, given in s.known.values())
    yield from (given for _, given, _ in s.doubled)
    for e in s.equations:
        yield from e.givens
