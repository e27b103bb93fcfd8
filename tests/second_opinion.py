"""A second opinion on posted programs: plain RS-274 words run on a plain cloud of points. Shares no code with `nc` and `proof`.

It is slow and simple on purpose: arcs become short chords, every chord asks every point near it whether the tool takes it. It
knows what our own programs use, and no more.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

WORD = re.compile(r"([A-Z])\s*([-+]?\d*\.?\d+)")


@dataclass
class Move:
    """A straight piece of the tip's way: `rapid`, from `a` to `b`, by tool `tool`, on line `line` (from 1)."""

    line: int
    rapid: bool
    tool: int
    a: tuple[float, float, float]
    b: tuple[float, float, float]
    spindle: bool = True
    tied: float = 0.0


@dataclass
class Opinion:
    """What came of it: the volume taken, the lines with a rapid in material, and for each point whether it is gone."""

    volume: float
    crashes: set[int]
    points: Any
    gone: Any
    heights: Any = None
    by_line: dict[int, float] | None = None
    under: Any = None


def moves(
    text: str, home: tuple[float, float, float], *, lathe: bool, chord: float, edges: dict[int, tuple[float, float]] | None = None
) -> Iterator[Move]:
    """All moves of a program from our own writers. X of a lathe is a diameter; places are of the tip, from part zero. `edges` is
    by tool offset how far (x, z) another edge than the first lies from the tool's point."""
    edge = (0.0, 0.0)
    for move in _moves(text, home, lathe=lathe, chord=chord, edges=edges or {}):
        if isinstance(move, tuple):
            edge = move
            continue
        move.a = (move.a[0] - edge[0], move.a[1], move.a[2] - edge[1])
        move.b = (move.b[0] - edge[0], move.b[1], move.b[2] - edge[1])
        yield move


def _moves(text: str, home: Any, *, lathe: bool, chord: float, edges: dict[int, tuple[float, float]]) -> Iterator[Any]:
    at, edge = [home[0], home[1], home[2]], (0.0, 0.0)
    state = {"motion": 0, "tool": 0, "relative": False, "turn": False, "cycle": 0, "R": 0.0, "Z": 0.0, "Q": 0.0, "level": 0.0,
             "back": True, "lead": 0.0}  # fmt: skip
    for number, raw in enumerate(text.splitlines(), 1):
        line = re.sub(r"\(.*?\)|;.*|%", "", raw.upper())
        words = [(letter, float(value)) for letter, value in WORD.findall(line)]
        g = [v for letter, v in words if letter == "G"]
        m = [v for letter, v in words if letter == "M"]
        of = {letter: v for letter, v in words if letter not in "GMNO"}
        if lathe and "T" in of and of["T"] >= 100:
            state["tool"] = int(of["T"]) // 100
            new = edges.get(int(of["T"]) % 100, (0.0, 0.0))
            at = [at[0] + new[0] - edge[0], at[1], at[2] + new[1] - edge[1]]
            edge = new
            yield edge
        elif "T" in of and 6 in m:
            state["tool"] = int(of["T"])
        state["turn"] = True if 3 in m or 4 in m else False if 5 in m else state["turn"]
        if any(v in (2, 30) for v in m):
            return
        if any(v in (4, 10, 50) for v in g):
            continue
        if 53 in g or 28 in g:
            target = list(at)
            for k, letter in enumerate("XYZ"):
                if letter in of:
                    target[k] = home[k]  # our programs go to machine places only to go home
            yield _move(number, True, state, at, target)
            at = target
            continue
        for v in g:
            if v in (0, 1, 2, 3, 32, 33):
                state["motion"], state["cycle"] = int(v), 0
            elif v in (73, 81, 82, 83, 84, 85, 86, 89):
                if not state["cycle"]:
                    state["level"] = at[2]
                state["cycle"] = int(v)
            elif v == 80:
                state["cycle"] = 0
            elif v in (98, 99):
                state["back"] = v == 98
        if state["cycle"] and not lathe:
            if not {"X", "Y", "Z"} & set(of) and not any(v in (73, 81, 82, 83, 84, 85, 86, 89) for v in g):
                continue
            for letter in "ZRQ":
                state[letter] = of.get(letter, state[letter])
            x, y = of.get("X", at[0]), of.get("Y", at[1])
            back = max(state["level"], state["R"]) if state["back"] else state["R"]
            for rapid, place in (
                (True, (x, y, at[2])),
                (True, (x, y, state["R"])),
                (False, (x, y, state["Z"])),
                (True, (x, y, back)),
            ):
                yield _move(number, rapid, state, at, place)
                at = list(place)
            continue
        if lathe and state["cycle"] == 84:
            z, r = of["Z"], of["R"]
            for rapid, place in ((True, (0.0, 0.0, r)), (False, (0.0, 0.0, z)), (False, (0.0, 0.0, r))):
                yield _move(number, rapid, state, at, place)
                at = list(place)
            continue
        if not {"X", "Y", "Z", "I", "J", "K"} & set(of) or "P" in of:
            continue
        target = [of["X"] / (2 if lathe else 1) if "X" in of else at[0], of.get("Y", at[1]), of.get("Z", at[2])]
        if state["motion"] in (2, 3):
            u, v, iu, iv = (2, 0, of.get("K", 0.0), of.get("I", 0.0)) if lathe else (0, 1, of.get("I", 0.0), of.get("J", 0.0))
            yield from _arc(number, state, at, target, (u, v), (at[u] + iu, at[v] + iv), chord)
        else:
            yield _move(number, state["motion"] == 0, state, at, target)
        at = target


def _move(number: int, rapid: bool, state: dict[str, Any], a: Any, b: Any) -> Move:
    return Move(number, rapid, int(state["tool"]), tuple(a), tuple(b), bool(state["turn"]))


def _arc(
    number: int, state: Any, a: Any, b: Any, plane: tuple[int, int], centre: tuple[float, float], chord: float
) -> Iterator[Move]:
    u, v = plane
    r = math.hypot(a[u] - centre[0], a[v] - centre[1])
    begin = math.atan2(a[v] - centre[1], a[u] - centre[0])
    turn = math.atan2(b[v] - centre[1], b[u] - centre[0]) - begin
    turn = turn % (2 * math.pi) if state["motion"] == 3 else -((-turn) % (2 * math.pi))
    if abs(turn) < 1e-9:
        turn = 2 * math.pi * (1 if state["motion"] == 3 else -1)
    count = max(8, math.ceil(abs(turn) / (2 * math.acos(max(1 - chord / max(r, chord), 0.0)))))
    last = list(a)
    for k in range(1, count + 1):
        place = [a[i] + (b[i] - a[i]) * k / count for i in range(3)]
        place[u], place[v] = (
            centre[0] + r * math.cos(begin + turn * k / count),
            centre[1] + r * math.sin(begin + turn * k / count),
        )
        yield _move(number, False, state, last, place)
        last = place


def scattered(shape: tuple[int, ...]) -> Any:
    """Where in its cell each place lies, -0.5 to 0.5, the same each time: places in rows miscount walls that run along them."""
    return np.random.default_rng(7).random(shape) - 0.5


def turned_over(side: Opinion, about: str, lo: Any, hi: Any, there: Any) -> Opinion:
    """A block from `lo` to `hi` of which one side is done, turned over about X or Y; it then begins at `there`."""
    middle = [(a + b) / 2 for a, b in zip(lo, hi, strict=True)]
    other = [c + (b - a) / 2 for a, b, c in zip(lo, hi, there, strict=True)]
    back = np.s_[::-1, :] if about == "x" else np.s_[:, ::-1]
    sx, sy = (1, -1) if about == "x" else (-1, 1)
    gx, gy = (other[k] + s * (side.points[k][back] - middle[k]) for k, s in ((0, sx), (1, sy)))
    h, u = (other[2] - (z[back] - middle[2]) for z in (side.under, side.heights))
    return Opinion(0.0, set(), (gx, gy), None, h, under=u)


def milled(
    text: str, lo: Any, hi: Any, tools: dict[int, tuple[float, Any]], home: Any, cell: float, begins: Opinion | None = None
) -> Opinion:
    """A block from `lo` to `hi` seen as columns a `cell` apart, or one that `begins` with something gone; `tools` by number:
    radius and the height of the end over the tip at a distance from the axis, a function of arrays, None for a flat end."""
    nx, ny = (max(1, round((hi[k] - lo[k]) / cell)) for k in (0, 1))
    dx, dy = (hi[0] - lo[0]) / nx, (hi[1] - lo[1]) / ny
    x, y = lo[0] + (np.arange(nx) + 0.5) * dx, lo[1] + (np.arange(ny) + 0.5) * dy
    gx, gy = np.meshgrid(x, y)
    gx, gy = begins.points if begins else (gx + dx * scattered(gx.shape), gy + dy * scattered(gy.shape[::-1]).T)
    h, under = (begins.heights.copy(), begins.under) if begins else (np.full(gx.shape, hi[2]), np.full(gx.shape, lo[2]))
    before = h.copy()
    crashes: set[int] = set()
    for move in moves(text, home, lathe=False, chord=cell / 60):
        if move.tool not in tools or min(move.a[2], move.b[2]) >= hi[2]:
            continue
        radius, rise = tools[move.tool]
        a, b = np.array(move.a), np.array(move.b)
        i0, i1 = np.searchsorted(x, [min(a[0], b[0]) - radius - dx, max(a[0], b[0]) + radius + dx])
        j0, j1 = np.searchsorted(y, [min(a[1], b[1]) - radius - dy, max(a[1], b[1]) + radius + dy])
        if i0 >= i1 or j0 >= j1:
            continue
        px, py, part = gx[j0:j1, i0:i1], gy[j0:j1, i0:i1], h[j0:j1, i0:i1]
        steps = 1 if a[2] == b[2] and rise is None else max(1, math.ceil(float(np.linalg.norm(b - a)) / (cell / 2)))
        low = np.full(px.shape, np.inf)
        for k in range(steps):
            p, q = a + (b - a) * k / steps, a + (b - a) * (k + 1) / steps
            d = q[:2] - p[:2]
            t = np.clip(((px - p[0]) * d[0] + (py - p[1]) * d[1]) / max(float(d @ d), 1e-18), 0.0, 1.0)
            off = np.hypot(px - p[0] - t * d[0], py - p[1] - t * d[1])
            z = min(p[2], q[2]) if rise is None else (p[2] + (q[2] - p[2]) * t if len(d) else p[2])
            z = np.minimum(z, min(p[2], q[2])) if float(d @ d) < 1e-12 else z
            low = np.minimum(low, np.where(off <= radius, z + (0.0 if rise is None else rise(np.minimum(off, radius))), np.inf))
        low = np.maximum(low, under[j0:j1, i0:i1])
        bite = np.where(low < part, part - low, 0.0)
        if move.rapid and np.count_nonzero(bite > 0.02) > 4:  # a crash is told only where it is more than a skin
            crashes.add(move.line)
        h[j0:j1, i0:i1] = np.minimum(part, low)
    return Opinion(float((before - h).sum() * dx * dy), crashes, (gx, gy), None, h, under=under)


def turned(text: str, raw: Any, tools: dict[int, Any], home: Any, cell: float, edges: dict[int, tuple[float, float]]) -> Opinion:
    """A half section `raw` (n, 2) of z, r places a `cell` apart that are material; `tools` by number: convex outlines (k, 2)
    about the point. A place is gone when the outline has been over it, or over its mirror image below the axis."""
    gone = np.zeros(len(raw), bool)
    along = np.argsort(raw[:, 0], kind="stable")
    z = raw[along, 0]
    crashes: set[int] = set()
    by_line: dict[int, float] = {}
    for move in moves(text, home, lathe=True, chord=cell / 10, edges=edges):
        if move.tool not in tools:
            continue
        a, b = np.array([move.a[2], move.a[0]]), np.array([move.b[2], move.b[0]])
        for shape in tools[move.tool]:
            hull = _swept(np.asarray(shape), a, b)
            (z0, low), (z1, high) = hull.min(axis=0), hull.max(axis=0)
            rows = along[np.searchsorted(z, z0) : np.searchsorted(z, z1, "right")]
            for mirror in (1.0, -1.0):
                r = mirror * raw[rows, 1]
                near = rows[(r >= low) & (r <= high) & ~gone[rows]]
                hit = near[_inside(raw[near] * (1.0, mirror), hull)]
                if move.rapid and len(hit) > 12:
                    crashes.add(move.line)
                gone[hit] = True
                by_line[move.line] = by_line.get(move.line, 0.0) + float(2 * math.pi * raw[hit][:, 1].sum() * cell * cell)
    return Opinion(float(2 * math.pi * raw[gone][:, 1].sum() * cell * cell), crashes, raw, gone, None, by_line)


def _swept(shape: Any, a: Any, b: Any) -> Any:
    """The convex outline of a convex shape moved from a to b, counter-clockwise (monotone chain)."""
    points = sorted(set(map(tuple, np.concatenate([shape + a, shape + b]).tolist())))
    halves = []
    for run in (points, points[::-1]):
        made: list[tuple[float, float]] = []
        for p in run:
            while len(made) > 1 and _left(made[-2], made[-1], p) <= 0:
                made.pop()
            made.append(p)
        halves.append(made[:-1])
    return np.array(halves[0] + halves[1])


def _left(a: Any, b: Any, p: Any) -> float:
    return (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])


def _inside(points: Any, hull: Any) -> Any:
    inside = np.ones(len(points), bool)
    for p, q in zip(hull, np.roll(hull, -1, axis=0), strict=True):
        inside &= (q[0] - p[0]) * (points[:, 1] - p[1]) - (q[1] - p[1]) * (points[:, 0] - p[0]) >= 0
    return inside
