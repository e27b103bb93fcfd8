"""A finger on a milled part. The field knows a wall to a part of a cell; here the place is taken to the very face that tools
left, by their moves as lines and arcs, and compared with what steps want gone, which is exact as well."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from bastler.nc import Trace
from bastler.proof.mill.milled import MillProof
from bastler.proof.scrub import Moment, moment_at
from bastler.proof.touch import Face, Touch, Vector, first_change
from bastler.shapes.kinds import Floats, Indices, Ints
from bastler.shapes.removal import heights_at
from bastler.tools import Profile

MADE_MM = 0.002
"""A move that comes as near to a face made it: program texts are rounded to a thousandth."""
MEANT_MM = 0.003
"""Nearer than this to the finished shape is on it: its regions are chords, 2 µm off an arc, and program texts are rounded."""
STRAIGHT = 17
SLANTED = 33
"""Places along a move that rises, and along one that curves in an upright plane, at which it is looked at."""
AROUND = np.array([v for v in itertools.product((-1.0, 0.0, 1.0), repeat=3) if any(v)])
STEPS = 400
"""Places on a line across the part at which the finished part is asked for."""


MEANT_MM = 0.02
"""So near a tool comes to a face that it is meant to leave."""


@dataclass(frozen=True, eq=False)
class _Run:
    """Moves with one tool as the part sees them, numbered as in the trace."""

    moves: Indices
    start: Floats
    end: Floats
    centre: Floats
    turn: Floats
    plane: Ints
    profile: Profile


def touched(proof: MillProof, moment: Moment, part: int, place: Vector, normal: Vector) -> Touch:
    """What there is at a place of a part's surface at a moment, seen along `normal`, which points out of the material; all from
    the part's own zero."""
    p, n = np.array(place), np.array(normal) / max(float(np.linalg.norm(normal)), 1e-12)
    bottom = proof.begins is not None and n[2] < -0.5
    runs = [] if bottom else list(_runs(proof, moment, part))
    room, hair = 1.5 * proof.grid.cell, MADE_MM * proof.scene.mm
    p, n, exact = _refined(runs, p, n, room, hair)
    made = _maker(runs, p, hair) if exact else None
    face = _face(made, p, n) if made else _uncut(proof, p, n)
    off = None if bottom else _off(proof, part, p, np.array(face.normal) if face.kind == "plane" else n)
    if off and not _sure(proof, part, p, off, room, exact=exact):
        off = None
    return Touch(_vector(p), face, off, made[1] if made else -1)


def made_by(proof: MillProof, part: int, place: Vector) -> int:
    """The first move of the whole program that comes as far as a place where a face is meant to be; below 0 where none does."""
    moment = moment_at(proof, proof.total)
    made = _maker(list(_runs(proof, moment, part)), np.array(place), MEANT_MM * proof.scene.mm)
    return made[1] if made else -1


def _sure(proof: MillProof, part: int, p: Floats, off: float, room: float, *, exact: bool) -> bool:
    """Is an amount known? Where tools left no face that is known the field is, to a cell; and at a brink the face that was meant
    may be the one beside it."""
    stock = proof.scene.stock
    raw = stock.round or min(np.abs(p - np.array(stock.lo)).min(), np.abs(p - np.array(stock.hi)).min()) < 1e-6 * proof.scene.mm
    if abs(off) < room:
        return exact or raw
    around = _finished(proof, part)(p + room * AROUND)
    return bool(around.all() or not around.any())


def _runs(proof: MillProof, moment: Moment, part: int) -> Iterator[_Run]:
    """All moves on a part up to a moment."""
    ended = moment.stage < 0
    begun = bool(proof.stages) and moment.move > proof.stages[0].begin
    last = (len(proof.stages) - 1 if begun else -1) if ended else moment.stage
    trace: Trace = proof.trace
    for k, stage in enumerate(proof.stages[: last + 1]):
        tool = stage.proof.tool
        if tool is None or stage.part != part:
            continue
        end = stage.end if ended or k < last else min(stage.end, moment.move + 1)
        rows, shift = slice(stage.begin, end), np.array(stage.shift)
        stops = trace.end[rows] - shift
        turn = trace.turn[rows].copy()
        if not ended and k == last and end > stage.begin and moment.share < 1.0:
            stops[-1] = np.array(moment.tip) - shift
            turn[-1] *= moment.share
        yield _Run(
            np.arange(stage.begin, end), trace.start[rows] - shift, stops, trace.centre[rows] - shift, turn, trace.plane[rows],
            tool.profile,
        )  # fmt: skip


def _gaps(run: _Run, p: Floats, rows: Indices) -> tuple[Floats, Floats]:
    """How far a place is from what each of some moves swept (n,), negative within it, and where the tip is then (n, 3)."""
    start, end = run.start[rows], run.end[rows]
    best, tips = np.full(len(rows), np.inf), start.copy()
    for tip in _tips(run, p, rows, start, end):
        gap = _gap(run.profile, np.hypot(p[0] - tip[:, 0], p[1] - tip[:, 1]), p[2] - tip[:, 2])
        nearer = gap < best
        best[nearer], tips[nearer] = gap[nearer], tip[nearer]
    return best, tips


def _tips(run: _Run, p: Floats, rows: Indices, start: Floats, end: Floats) -> Iterator[Floats]:
    """Where the tip may be nearest to a place: at both ends, where it passes in the plan, and along what rises."""
    yield start
    yield end
    along = end - start
    flat = along[:, :2]
    t = ((p[:2] - start[:, :2]) * flat).sum(axis=1) / np.maximum((flat * flat).sum(axis=1), 1e-18)
    straight = run.turn[rows] == 0.0
    yield start + along * np.where(straight, np.clip(t, 0.0, 1.0), 0.0)[:, None]
    rising = np.flatnonzero(straight & (np.abs(along[:, 2]) > 1e-12) & (np.abs(flat).max(axis=1, initial=0.0) > 1e-12))
    for share in np.linspace(0.0, 1.0, SLANTED) if len(rising) else ():
        tip = start.copy()
        tip[rising] += along[rising] * share
        yield tip
    level = np.flatnonzero((run.turn[rows] != 0.0) & (run.plane[rows] == 17))
    if len(level):
        yield from _along_arcs(run, p, rows, level, start, end)
    upright = np.flatnonzero((run.turn[rows] != 0.0) & (run.plane[rows] != 17))
    for share in np.linspace(0.0, 1.0, 4 * SLANTED) if len(upright) else ():
        tip = start.copy()
        for k in upright.tolist():
            tip[k] = _on_arc(run, int(rows[k]), float(share))
        yield tip


def _along_arcs(run: _Run, p: Floats, rows: Indices, level: Indices, start: Floats, end: Floats) -> Iterator[Floats]:
    """On arcs in the plan where they pass a place, on each of their turns, and on the far side of it."""
    own = rows[level]
    centre, turn = run.centre[own], run.turn[own]
    out = start[level] - centre
    begin = np.arctan2(out[:, 1], out[:, 0])
    radius = np.hypot(out[:, 0], out[:, 1])
    toward = np.arctan2(p[1] - centre[:, 1], p[0] - centre[:, 0])
    most = int(np.abs(turn).max() / (2 * np.pi)) + 1
    for side, whole in itertools.product((0.0, np.pi), range(most)):
        way = ((toward + side - begin) * np.sign(turn)) % (2 * np.pi) + whole * 2 * np.pi
        share = np.clip(way / np.abs(turn), 0.0, 1.0)
        angle = begin + share * turn
        tip = start.copy()
        tip[level] = np.column_stack(
            [
                centre[:, 0] + radius * np.cos(angle),
                centre[:, 1] + radius * np.sin(angle),
                start[level][:, 2] + (end[level][:, 2] - start[level][:, 2]) * share,
            ]
        )
        yield tip


def _on_arc(run: _Run, row: int, share: float) -> Floats:
    u, v = {18: (2, 0), 19: (1, 2)}[int(run.plane[row])]
    a, b, c = run.start[row], run.end[row], run.centre[row]
    found: Floats = a + (b - a) * share
    r, angle = math.hypot(a[u] - c[u], a[v] - c[v]), math.atan2(a[v] - c[v], a[u] - c[u]) + run.turn[row] * share
    found[u], found[v] = c[u] + r * math.cos(angle), c[v] + r * math.sin(angle)
    return found


def _gap(profile: Profile, d: Floats, up: Floats) -> Floats:
    """How far places at a distance `d` from a tool's axis and `up` over its tip are from it."""
    inside = np.minimum(d, profile.radius)
    if profile.corner > 0.0:
        middle = np.maximum(inside - profile.flat, 0.0)
        arc = np.hypot(middle, np.minimum(up - profile.corner, 0.0)) - profile.corner
        below = np.where((inside > profile.flat) & (up < profile.corner), arc, -up)
    else:
        slant = math.hypot(1.0, profile.slope)
        cone = np.maximum(inside - profile.flat, 0.0) * profile.slope - up
        below = np.where(inside > profile.flat, cone / slant, cone)
    found: Floats = np.maximum(below, d - profile.radius)
    return found


def _near(run: _Run, p: Floats, room: float) -> Indices:
    """Moves whose sweep may come as near to a place as `room`, by their boxes."""
    swing = np.where(run.turn != 0.0, 2 * np.linalg.norm(run.start - run.centre, axis=1), 0.0)[:, None]
    reach = run.profile.radius + room
    low, high = np.minimum(run.start, run.end) - swing, np.maximum(run.start, run.end) + swing
    fits = (p[:2] >= low[:, :2] - reach).all(axis=1) & (p[:2] <= high[:, :2] + reach).all(axis=1) & (p[2] >= low[:, 2] - room)
    return np.flatnonzero(fits)


def _beside(run: _Run, p: Floats, room: float) -> Indices:
    """Moves whose sweep comes as near to a place as `room`: what is asked for no further than that from it asks only them."""
    rows = _near(run, p, room)
    near: Indices = rows[_gaps(run, p, rows)[0] <= room]
    return near


def _refined(runs: Sequence[_Run], p: Floats, n: Floats, room: float, hair: float) -> tuple[Floats, Floats, bool]:
    """The very face, and its normal: on the line through a place, seen along `n`, where what the tools swept ends. The place
    itself, and false, where none came near."""
    near = [(run, rows) for run in runs if len(rows := _beside(run, p, 3 * room))]

    def gap(at: Floats) -> float:
        return min((float(_gaps(run, at, rows)[0].min()) for run, rows in near), default=math.inf)

    if not near:
        return p, n, False
    for _ in range(2):
        low, high = -room, room
        if gap(p + n * high) > 0.0 or gap(p + n * low) <= 0.0:
            return p, n, False
        for _ in range(34):
            middle = (low + high) / 2
            low, high = (low, middle) if gap(p + n * middle) <= 0.0 else (middle, high)
        p = p + n * (low + high) / 2
        rise = np.array([gap(p - hair * axis) - gap(p + hair * axis) for axis in np.eye(3)])
        if np.linalg.norm(rise) > 0.1 * hair:
            n = rise / np.linalg.norm(rise)
    return p, n, True


Made = tuple[Floats, int, _Run, int]
"""Where the tip was, the move of the trace, the run and the row in it."""


def _maker(runs: Sequence[_Run], p: Floats, near: float) -> Made | None:
    """The first move that came as far as a place."""
    for run in runs:
        rows = _near(run, p, near)
        if not len(rows):
            continue
        gaps, tips = _gaps(run, p, rows)
        reached = np.flatnonzero(gaps <= near)
        if len(reached):
            k = int(reached[0])
            return tips[k], int(run.moves[rows[k]]), run, int(rows[k])
    return None


def _face(made: Made, p: Floats, n: Floats) -> Face:
    """The face that a move left: a wall where its side was, a floor under it."""
    tip, _, run, row = made
    profile, d = run.profile, math.hypot(p[0] - tip[0], p[1] - tip[1])
    side = d - profile.radius > -1e-3 * profile.radius and abs(n[2]) < 0.7
    start, end, turn = run.start[row], run.end[row], run.turn[row]
    if not side:
        flat = d <= profile.flat + 1e-9 and (abs(start[2] - end[2]) < 1e-9 or np.hypot(*(end - start)[:2]) < 1e-9)
        return Face("plane", _vector(p), (0.0, 0.0, 1.0)) if flat else Face("slope", _vector(p), _vector(n))
    up = (0.0, 0.0, 1.0)
    if turn != 0.0 and run.plane[row] == 17:
        c = run.centre[row]
        radius = math.hypot(p[0] - c[0], p[1] - c[1])
        hollow = radius > math.hypot(start[0] - c[0], start[1] - c[1])
        return Face("round", (float(c[0]), float(c[1]), float(p[2])), up, radius, hollow)
    way = (end - start)[:2]
    long = float(np.hypot(*way))
    share = float(((tip - start)[:2] * way).sum()) / long**2 if long > 1e-9 else 0.0
    if 1e-6 < share < 1 - 1e-6:
        out = (tip - p)[:2] / max(d, 1e-12)
        return Face("plane", _vector(p), (float(out[0]), float(out[1]), 0.0))
    return Face("round", (float(tip[0]), float(tip[1]), float(p[2])), up, profile.radius, True)


def _uncut(proof: MillProof, p: Floats, n: Floats) -> Face:
    """A face as it came: of the block, of the disc, or of a holding before, which is not known better than it is seen."""
    stock = proof.scene.stock
    if stock.round and abs(n[2]) < 0.5 and proof.begins is None:
        x, y = stock.lo[0] + stock.size[0] / 2, stock.lo[1] + stock.size[1] / 2
        return Face("round", (x, y, float(p[2])), (0.0, 0.0, 1.0), stock.size[0] / 2)
    axis = int(np.abs(n).argmax())
    if abs(n[axis]) < 0.999:
        return Face("slope", _vector(p), _vector(n))
    straight = np.zeros(3)
    straight[axis] = np.sign(n[axis])
    return Face("plane", _vector(p), _vector(straight))


def _off(proof: MillProof, part: int, p: Floats, n: Floats) -> float:
    """How far a place of the surface is from the finished part, along `n`."""
    solid = _finished(proof, part)
    stock, hair = proof.scene.stock, MEANT_MM * proof.scene.mm
    under, over = solid(np.array([p - n * hair, p + n * hair]))
    if under and not over:
        return 0.0
    far = math.hypot(*stock.size)
    way = -1.0 if not under else 1.0
    at = np.linspace(0.0, far, STEPS)
    k = first_change(solid(p + n * way * at[:, None]))
    if k < 0:
        return math.inf if way < 0 else -math.inf
    low, high = float(at[k - 1]), float(at[k])
    first = bool(solid((p + n * way * low)[None])[0])
    for _ in range(34):
        middle = (low + high) / 2
        low, high = (middle, high) if bool(solid((p + n * way * middle)[None])[0]) == first else (low, middle)
    return -way * (low + high) / 2


def _finished(proof: MillProof, part: int) -> Callable[[Floats], np.ndarray[tuple[int], np.dtype[np.bool_]]]:
    """Are places (n, 3) in the finished part?"""
    removals, stock = proof.scene.gone_of(part), proof.scene.stock
    middle, radius = np.array(stock.lo)[:2] + np.array(stock.size)[:2] / 2, stock.size[0] / 2

    def solid(points: Floats) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        inside = (points >= np.array(stock.lo)).all(axis=1) & (points <= np.array(stock.hi)).all(axis=1)
        if stock.round:
            inside &= np.hypot(*(points[:, :2] - middle).T) <= radius
        for removal in removals:
            if inside.any():
                inside &= points[:, 2] <= heights_at(removal, points[:, :2])
        return np.asarray(inside, np.bool_)

    return solid


def _vector(p: Floats) -> Vector:
    return (float(p[0]), float(p[1]), float(p[2]))
