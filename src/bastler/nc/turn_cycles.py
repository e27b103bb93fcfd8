"""Turning cycles expanded to moves: threads (G76), roughing (G71 along Z, G72 along X, G73 an outline closer and closer),
finishing (G70), pecks (G74), grooves (G75); and the boxes of controls that have them, G90 along Z, G94 along X and G92 with a
thread, again and again until another word of motion comes.

They come in one line or in two; the first of two lines holds amounts that stay in force. X words are diameters, depths radii.
Roughing goes level by level, into whatever falls behind a crest too. How a control goes from one stretch of a level to the next
is its own; here it goes over everything.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from bastler.bounds import BITES
from bastler.cutting import bites
from bastler.cutting.threads import passes_of
from bastler.language import tr
from bastler.motion import Cut, Cycle, Go, long_hand
from bastler.nc.block import Block
from bastler.nc.motion import S_DX, S_FEED, S_MODE, S_PER, S_SCALE
from bastler.nc.rows import Rows, segment_of
from bastler.nc.state import MachineState
from bastler.shapes.chain import points_on
from bastler.shapes.kinds import Floats

CYCLES = (70.0, 71.0, 72.0, 73.0, 74.0, 75.0, 76.0)
BOXES = {90.0: "G90", 92.0: "G92", 94.0: "G94"}
FIRST_WORDS = {71: "UR", 72: "WR", 73: "UWR", 74: "R", 75: "R", 76: "PQR"}
SECOND_WORDS = {70: "PQ", 71: "PQUWDF", 72: "PQUWDF", 73: "PQUWIKDF", 74: "ZWQKF", 75: "XZUWPQIKF", 76: "XZUWPQRIKDAF"}
"""The words that a cycle is made from, on its first line and on its second or only one."""
CHORD = 0.002
Plane = tuple[float, float]


def run_cycle(run: MachineState, block: Block, code: int) -> None:
    """Runs a cycle's line: keeps the amounts of a first line, expands a second or only one."""
    words = {letter: value for letter in "XZUWPQRIKDAFL" if (value := block.peek(letter)) is not None}
    if run.in_contour:
        run.say(block.line, "cycle-lines", tr("A cycle stands in the outline of another one."), block.column("G"))
        return
    if _is_first(code, words):
        block.use(FIRST_WORDS.get(code, ""))
        if not words:
            run.say(
                block.line,
                "cycle-word",
                tr("G{code} stands alone: nothing says what is to be cut.", code=code),
                block.column("G"),
            )
        run.memory[code] = words
        return
    block.use(SECOND_WORDS[code])
    kept = run.memory.get(code, {})
    {70: _finish, 71: _rough, 72: _rough, 73: _repeat, 74: _peck, 75: _groove, 76: _thread}[code](run, block, words, kept)


def _is_first(code: int, words: dict[str, float]) -> bool:
    if code in (71, 72, 73):
        return "P" not in words and "Q" not in words
    if code in (74, 75, 76):
        return not {"X", "Z", "U", "W"} & set(words)
    return False


def _length(run: MachineState, value: float) -> float:
    return value * float(run.state[S_SCALE])


def _small(run: MachineState, value: float, *, pecks: bool = False) -> float:
    """A depth in P, Q or D: a length, or a count of least increments."""
    dialect = run.control.dialect
    return run.small(value, dialect.peck_unit if pecks else dialect.thread_unit)


def _rapid(run: MachineState, line: int, r: float, z: float) -> None:
    if (r, z) != (float(run.state[0]), float(run.state[2])):
        run.go(line, (r, 0.0, z))


def _feed(run: MachineState, line: int, r: float, z: float, feed: float) -> None:
    run.go(line, (r, 0.0, z), 1.0, feed)


# -- threads ----------------------------------------------------------------------------------------------------------


def _thread(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    one_line = "K" in words or "D" in words
    depth = _length(run, words["K"]) if "K" in words else _small(run, words["P"]) if "P" in words else 0.0
    first = _small(run, words.get("D", 0.0) if one_line else words.get("Q", 0.0))
    lead = _length(run, words.get("F", 0.0))
    if depth <= 0 or first <= 0 or lead <= 0:
        run.say(block.line, "cycle-word", tr("G76 needs depth, first bite and lead."), block.column("G"))
        return
    codes = int(kept.get("P", 10060.0))
    if codes // 100 % 100 and not one_line:
        text = tr("The run-out chamfer in P of the first G76 is not read; write 00 there.")
        run.say(block.line, "cycle-word", text, block.column("G"))
        return
    repeats, angle = (1, words.get("A", 60.0)) if one_line else (max(codes // 10000, 1), codes % 100)
    least = _small(run, kept.get("Q", 0.0)) if kept else 0.0
    last = _length(run, kept.get("R", 0.0)) if kept else 0.0
    x, _, z = run.target(block)
    taper = _length(run, words.get("R" if not one_line else "I", 0.0))
    start_r, start_z = float(run.state[0]), float(run.state[2])
    if run.too_many(block, passes_of(depth, min(first, depth), least, last), BITES):
        return
    half = math.copysign(math.tan(math.radians(angle / 2)), z - start_z)  # along the flank that leads
    outward = 1.0 if start_r > x else -1.0
    for bite in bites(depth, min(first, depth), least, min(last, depth), repeats - 1):
        z0 = start_z + bite * half
        r1 = x + outward * (depth - bite)
        _rapid(run, block.line, start_r, z0)
        _rapid(run, block.line, r1 + taper, z0)
        run.tied_move(block, (r1, 0.0, z), lead)
        _rapid(run, block.line, start_r, z)
        _rapid(run, block.line, start_r, start_z)


# -- roughing and finishing -------------------------------------------------------------------------------------------


def _only_outline(run: MachineState, line: int, *, finishes: bool) -> None:
    """Says what of a line of an outline is not followed: tools and M words, and in finishing speeds of its own."""
    if run.is_formula[line]:
        run.say(line, "cycle-lines", tr("A formula in the outline of a cycle is not followed."))
    block = Block.of(run.table, line)
    for letter in "TM" + ("S" if finishes else ""):
        if block.has_any(letter):
            text = tr("{letter} stands in the outline of a cycle: it is not followed there.", letter=letter)
            run.say(line, "cycle-lines", text, block.column(letter))


def _contour(run: MachineState, block: Block, words: dict[str, float], run_as: int) -> tuple[Any, int] | None:
    """The rows of the lines N P to N Q, run from where the tool is, and the line behind them."""
    first, last = (_numbered(run, words.get(letter)) for letter in "PQ")
    if first is None or last is None or last < first:
        run.say(block.line, "cycle-lines", tr("The lines that P and Q name are not there."), block.column("G"))
        return None
    # the outline is run on a copy of the control: what is said of speed, tool or coolant there is of the outline alone
    kept = run.kept()
    run.rows, run.in_contour = Rows(64), True
    for line in range(first, last + 1):
        _only_outline(run, line, finishes=run_as == 70)
        run.run_line(line)
    corner, run.corner = run.corner, None
    found = run.rows.data[: run.rows.count].copy()
    run.put_back(kept)
    if corner is not None:
        run.say(corner.line, "corner", tr("The outline ends in a corner that nothing follows."), corner.column)
    state = run.state
    found[:, 2:5] -= state[S_DX : S_DX + 3]
    found[:, 5:8] -= state[S_DX : S_DX + 3]
    return found, last + 1


def _numbered(run: MachineState, number: float | None) -> int | None:
    if number is None:
        return None
    table, run.elsewhere = run.table, True
    end = int(table.first[run.lines])
    found = np.flatnonzero((table.letter[:end] == ord("N")) & (table.value[:end] == number))
    return int(np.searchsorted(table.first, found[0], "right")) - 1 if len(found) else None


def _rough(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    """Passes down to the outline with its allowances, then once along it."""
    along = block.has_g(71.0)
    made = _contour(run, block, words, 71 if along else 72)
    if made is None:
        return
    rows, behind = made
    bite = _small(run, words["D"]) if "D" in words else _length(run, kept.get("U" if along else "W", 0.0))
    pull = _length(run, kept["R"]) if "R" in kept else run.control.pull_off
    if bite <= 0 or len(rows) < 2:
        run.say(block.line, "cycle-word", tr("Roughing needs the depth of a bite and an outline."), block.column("G"))
        return
    feed = float(run.state[S_FEED])
    dr, dz = _length(run, words.get("U", 0.0)) * run.unit_of(0) / float(run.state[S_SCALE]), _length(run, words.get("W", 0.0))
    start = (float(run.state[0]), float(run.state[2]))
    points = [(r + dr, z + dz) for r, z in _points(rows)]
    if not along:
        points, start_uv = [(z, r) for r, z in points], (start[1], start[0])
    else:
        start_uv = start
    if run.too_many(block, 4 * abs(_far(points, start_uv) - start_uv[0]) / bite):
        return
    for level, begin, end in _levels(points, start_uv, bite):
        side, off = math.copysign(pull, start_uv[0] - level), math.copysign(pull, start_uv[1] - end)
        over = level + math.copysign(bite, start_uv[0] - level) + side
        into = [(start_uv[0], begin, 0), (over, begin, 0), (level, begin, 1)] if begin != start_uv[1] else [(level, begin, 0)]
        out = [(start_uv[0], end + off, 0), (start_uv[0], start_uv[1], 0)] if begin != start_uv[1] else [(level + side, begin, 0)]
        for v, u, cuts in (*into, (level, end, 1), (level + side, end + off, 1), *out):
            r, z = (v, u) if along else (u, v)
            _feed(run, block.line, r, z, feed) if cuts else _rapid(run, block.line, r, z)
    _trail(run, block.line, rows, dr, dz, feed)
    _rapid(run, block.line, *start)
    run.jump = behind


def _points(rows: Floats) -> list[Plane]:
    """The outline as points (r, z), arcs as fine chords; the first row leads to it."""
    chain = [segment_of(row) for row in rows[1:]]
    return [(r, z) for z, r in points_on([s for s in chain if s.start != s.end], CHORD)]


def _far(points: list[Plane], start: Plane) -> float:
    """The level of the outline that is farthest from the start."""
    return max((v for v, _ in points), key=lambda v: abs(v - start[0]))


def _levels(points: list[Plane], start: Plane, bite: float) -> list[tuple[float, float, float]]:
    """(level, where the pass begins, where it ends) of all passes, from the start toward the outline's far side: at every level
    all stretches over the outline, the one at the start first."""
    line = shapely.LineString([(u, v) for v, u in points])
    v0, v1 = start[0], _far(points, start)
    sign = math.copysign(1.0, v1 - v0)
    far = min((u for _, u in points), key=lambda u: -abs(u - start[1]))
    count = math.ceil(abs(v1 - v0) / bite - 1e-9)
    found = []
    for k in range(1, count):
        level = v0 + sign * bite * k
        hit = line.intersection(shapely.LineString([(start[1], level), (far, level)]))
        ends = {c[0] for part in getattr(hit, "geoms", [hit]) if not part.is_empty for c in part.coords}
        cuts = sorted({start[1], *ends, far}, key=lambda u: abs(u - start[1]))
        free: list[list[float]] = []
        for a, b in itertools.pairwise(cuts):
            if abs(b - a) <= 1e-9 or not _over(line, (a + b) / 2, level, sign):
                continue
            if free and free[-1][1] == a:
                free[-1][1] = b
            else:
                free.append([a, b])
        found += [(level, a, b) for a, b in free]
    return found


def _over(line: Any, u: float, level: float, sign: float) -> bool:
    """Lies a level over the outline there, on the side that roughing comes from? Where there is no outline it does."""
    low, high = line.bounds[1] - 1.0, line.bounds[3] + 1.0
    hit = line.intersection(shapely.LineString([(u, low), (u, high)]))
    there = [sign * c[1] for part in getattr(hit, "geoms", [hit]) if not part.is_empty for c in part.coords]
    return not there or min(there) > sign * level


def _repeat(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    """The outline again and again, each time closer: what is cast or forged has its shape already."""
    made = _contour(run, block, words, 73)
    if made is None:
        return
    rows, behind = made
    one_line = bool({"I", "K", "D"} & set(words))
    away = (words.get("I", 0.0), words.get("K", 0.0)) if one_line else (kept.get("U", 0.0), kept.get("W", 0.0))
    count = words.get("D", 0.0) if one_line else kept.get("R", 0.0)
    if count < 1 or count != int(count) or len(rows) < 2:
        run.say(block.line, "cycle-word", tr("G73 needs how many times, a whole number, and an outline."), block.column("G"))
        return
    if run.too_many(block, count * len(rows)):
        return
    feed, start = float(run.state[S_FEED]), (float(run.state[0]), float(run.state[2]))
    dr, dz = _length(run, words.get("U", 0.0)) * run.unit_of(0) / float(run.state[S_SCALE]), _length(run, words.get("W", 0.0))
    for k in range(int(count)):
        share = 1.0 - k / (count - 1) if count > 1 else 0.0
        _trail(run, block.line, rows, dr + share * _length(run, away[0]), dz + share * _length(run, away[1]), feed)
        _rapid(run, block.line, *start)
    run.jump = behind


# -- boxes ------------------------------------------------------------------------------------------------------------


def box_of(block: Block, cycles: Sequence[str]) -> float | None:
    """The box cycle that a line begins, of those that the control has; None where it begins none. G92 with S alone is a cap."""
    found = next((code for code, word in BOXES.items() if code in block.g_words and word in cycles), None)
    return None if found == 92.0 and not block.has_any("XZUW") and block.peek("S") is not None else found


def run_box(run: MachineState, block: Block) -> None:
    """In, along, out and back to where it began; words that a line does not have are those of the line before."""
    code, kept, (x, _, z) = run.cycle_code, run.cycle, run.target(block)
    if block.has_any("XU"):
        kept["r"] = x
    if block.has_any("ZW"):
        kept["z"] = z
    if (slant := block.word("R")) is not None:
        kept["slant"] = _length(run, slant)
    if code == 92 and (lead := block.word("F")) is not None:
        kept["lead"] = _length(run, lead)
    if "r" not in kept or "z" not in kept or (code == 92 and kept.get("lead", 0.0) <= 0.0):
        needs = tr("X, Z and the lead in F") if code == 92 else tr("X and Z")
        run.say(block.line, "cycle-word", tr("G{code} needs {needs}.", code=code, needs=needs), block.column("G"))
        return
    r0, z0, feed, slant = float(run.state[0]), float(run.state[2]), float(run.state[S_FEED]), kept.get("slant", 0.0)
    r, z, line = kept["r"], kept["z"], block.line
    if code == 94:
        _rapid(run, line, r0, z + slant)
        _feed(run, line, r, z, feed)
        _feed(run, line, r, z0, feed)
    else:
        _rapid(run, line, r + slant, z0)
        if code == 92:
            run.tied_move(block, (r, 0.0, z), kept["lead"])
            _rapid(run, line, r0, z)
        else:
            _feed(run, line, r, z, feed)
            _feed(run, line, r0, z, feed)
    _rapid(run, line, r0, z0)


def _trail(run: MachineState, line: int, rows: Floats, dr: float, dz: float, feed: float | None) -> None:
    """Along the outline, shifted; in its own feeds where none is given."""
    for k, row in enumerate(rows):
        target = (float(row[5]) + dr, 0.0, float(row[7]) + dz)
        if k == 0 or row[1] == 0.0:
            _rapid(run, line, target[0], target[2])
            continue
        run.go(line, target, 1.0, feed if feed is not None else float(row[12]))
        if row[1] >= 2.0:
            made = run.rows.data[run.rows.count - 1]
            made[1], made[10], made[11] = row[1], row[10], row[11]
            made[8], made[9] = row[8] + dz + run.state[S_DX + 2], row[9] + dr + run.state[S_DX]


def _finish(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    start = (float(run.state[0]), float(run.state[2]))
    made = _contour(run, block, words, 70)
    if made is None:
        return
    _trail(run, block.line, made[0], 0.0, 0.0, None)
    _rapid(run, block.line, *start)
    run.state[S_MODE] = 0.0


# -- taps, pecks and grooves ------------------------------------------------------------------------------------------------


def tap(run: MachineState, block: Block) -> None:
    """Tapping on the centre line: to R in rapid, down tied to the spindle, and, the spindle turned back in step with the slide,
    out again to R. F is the pitch, where feeds are per turn, else what pitch and speed make in a minute."""
    z, r, feed = block.word("Z"), block.word("R"), block.word("F")
    x = block.word("X")
    if z is None or r is None or feed is None or feed <= 0 or (x or 0.0) != 0.0:
        run.say(block.line, "cycle-word", tr("G84 needs Z, R and F, and the hole is at X0."), block.column("G"))
        return
    per_turn = run.state[S_PER] == 95.0
    if not per_turn and run.speed <= 0:
        run.say(block.line, "cycle-word", tr("G84 needs a spindle speed, to know the lead."), block.column("G"))
        return
    lead = _length(run, feed) / (1.0 if per_turn else run.speed)
    bottom, near, back = _length(run, z), _length(run, r), float(run.state[2])
    if bottom > near:
        run.say(block.line, "cycle-depth", tr("The bottom of the hole lies above R."), block.column("Z"))
        return
    _rapid(run, block.line, 0.0, max(near, back))
    _rapid(run, block.line, 0.0, near)
    # the control turns the spindle back within the cycle, in step: no coasting, no event
    run.tied_move(block, (0.0, 0.0, bottom), lead)
    run.tied_move(block, (0.0, 0.0, near), lead)
    _rapid(run, block.line, 0.0, max(near, back))


def drill(run: MachineState, block: Block) -> None:
    """A hole on the centre line in pecks, out of it to R between them: G83 with Z, R, Q and F."""
    z, r, peck = (block.word(letter) for letter in "ZRQ")
    x = block.word("X")
    if z is None or r is None or peck is None or peck <= 0 or (x or 0.0) != 0.0:
        run.say(block.line, "cycle-word", tr("G83 needs Z, R and Q, and the hole is at X0."), block.column("G"))
        return
    bottom, near, back = _length(run, z), _length(run, r), float(run.state[2])
    bite, cuts = _small(run, peck, pecks=True), float(run.state[S_FEED])
    if bottom > near:
        run.say(block.line, "cycle-depth", tr("The bottom of the hole lies above R."), block.column("Z"))
        return
    if run.too_many(block, 3 * (near - bottom) / bite):
        return
    before, dwell = max(near, back), block.word("P")
    clear, pull = run.control.peck_clearance, run.control.chip_break
    cycle = Cycle(points=((0.0, 0.0),), z=bottom, r=near, back=near, feed=cuts, peck=bite, clearance=clear, pull=pull)
    for move in long_hand(cycle, before):
        if isinstance(move, Go):
            _rapid(run, block.line, 0.0, move.w)
        elif isinstance(move, Cut):
            _feed(run, block.line, 0.0, move.w, cuts)
            if dwell is not None:
                run.event(block.line, "dwell", dwell / 1000.0 if run.control.dialect.dwell_unit == "ms" else dwell)
    _rapid(run, block.line, 0.0, before)


def _peck(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    """Along Z in pecks, back to where it began."""
    if {"X", "U"} & set(words):
        run.say(block.line, "cycle-word", tr("G74 is read along Z alone, without X."), block.column("G"))
        return
    _, _, z = run.target(block)
    peck = _small(run, words.get("Q", words.get("K", 0.0)), pecks=True)
    back = _length(run, kept.get("R", 0.0)) or run.control.chip_break
    r, at = float(run.state[0]), float(run.state[2])
    begin, feed = at, float(run.state[S_FEED])
    if peck <= 0 or feed <= 0:
        run.say(block.line, "cycle-word", tr("G74 needs the depth of a peck and a feed."), block.column("G"))
        return
    if run.too_many(block, 2 * abs(z - at) / peck):
        return
    down = math.copysign(1.0, z - at)
    while abs(z - at) > peck + 1e-9:
        at += down * peck
        _feed(run, block.line, r, at, feed)
        _rapid(run, block.line, r, at - down * back)
    _feed(run, block.line, r, z, feed)
    _rapid(run, block.line, r, begin)


def _groove(run: MachineState, block: Block, words: dict[str, float], kept: dict[str, float]) -> None:
    """Plunges along X in pecks, side by side along Z."""
    x, _, z = run.target(block)
    peck = _small(run, words.get("P", words.get("I", 0.0)), pecks=True)
    step = _small(run, words.get("Q", words.get("K", 0.0)), pecks=True)
    back = _length(run, kept.get("R", 0.0)) or run.control.chip_break
    r0, z0, feed = float(run.state[0]), float(run.state[2]), float(run.state[S_FEED])
    if feed <= 0 or (abs(z - z0) > 1e-9 and step <= 0):
        run.say(block.line, "cycle-word", tr("G75 needs a feed, and Q where Z leads aside."), block.column("G"))
        return
    aside = abs(z - z0) / step if abs(z - z0) > 1e-9 else 0.0
    if run.too_many(block, (aside + 1) * (abs(x - r0) / peck + 1 if peck > 0 else 1)):
        return
    count = math.ceil(aside - 1e-9)
    for k in range(count + 1):
        here = z if k == count else z0 + math.copysign(step * k, z - z0)
        _rapid(run, block.line, r0, here)
        at, down = r0, math.copysign(1.0, x - r0)
        while 0 < peck < abs(x - at) - 1e-9:
            at += down * peck
            _feed(run, block.line, at, here, feed)
            _rapid(run, block.line, at - down * back, here)
        _feed(run, block.line, x, here, feed)
        _rapid(run, block.line, r0, here)
    _rapid(run, block.line, r0, z0)
