"""A turning control whose spindle is an axis too: C, driven tools, Y, polar and cylindrical interpolation.

While the work stands, moves are put where they are on the part, which turns with C: a place at radius x with C at 90° lies at
y. What goes along with C is no line there and comes as chords. Feeds after RS-274/NGC: of a move with C and other axes F is the
speed of these, of C alone it is degrees a minute; under interpolation it is the speed on the part.
"""

from __future__ import annotations

import functools
import itertools
import math
from dataclasses import replace

import numpy as np

from bastler.bounds import IN_A_BLOCK
from bastler.language import tr
from bastler.machines import Dialect
from bastler.nc import codes
from bastler.nc.block import Block, code_of
from bastler.nc.common import TAKES_AXES
from bastler.nc.cycles import drill, motion_word
from bastler.nc.lathe import LATHE, tell_speed, turned_axes
from bastler.nc.motion import (
    COLUMNS,
    NO_FEED,
    NO_MODE,
    S_ACROSS,
    S_DX,
    S_FEED,
    S_MODE,
    S_PER,
    S_PLANE,
    S_RELATIVE,
    S_SCALE,
    motion_reason,
    move_words,
)
from bastler.nc.second import second_spindle, second_words
from bastler.nc.state import Handler, MachineState, Manner
from bastler.nc.trace import about_axis
from bastler.shapes.kinds import Floats
from bastler.units import scale

CHORD_MM = 0.001
"""How far a chord may leave the way that C and other axes make together, in mm."""
LEAD_ELSEWHERE = frozenset((10.0, 28.0, 52.0, 53.0, 54.1, *codes.OFFSET_INDEX))
"""What moves by the machine's own places, or changes what they are counted from."""
ROUND = 1e-6
"""Degrees within which C is at a whole turn."""


@functools.lru_cache(maxsize=16)
def manner_of(dialect: Dialect, has_y: bool) -> Manner:
    """How a control with these words reads lines."""
    words = (*dialect.c_words, *dialect.clamp_words, *dialect.drive_words)
    two = bool(dialect.choose_words)
    interpolated = frozenset(code_of(word) for word in (*dialect.polar_words, *dialect.wrapped_words))
    handlers = [
        Handler(interpolated, _switches, (*words, "M3", "M4")),
        Handler(frozenset((96.0, 41.0, 42.0)), _only_turning),
        Handler(frozenset((93.0,)), _inverse_time),
        Handler(LEAD_ELSEWHERE, _not_within, ("T",)),
        *(h for h in LATHE.handlers if h.run is not turned_axes),
    ]
    if two:
        last = next(k for k, h in enumerate(handlers) if h.run is TAKES_AXES[0].run)
        handlers.insert(last, second_spindle(dialect))
    moves = next(h for h in LATHE.handlers if h.run is turned_axes)
    known = moves.codes | frozenset(map(float, codes.CYCLES)) | {98.0, 99.0}
    handlers.append(Handler(known, _axes, always=True))
    return LATHE._replace(
        handlers=tuple(handlers),
        axes=LATHE.axes + ("YC" if has_y else "C"),
        m_words=frozenset(float(word[1:]) for word in (*words, *second_words(dialect))),
        places=_places,
    )


# -- switching over -----------------------------------------------------------------------------------------------


def _has(block: Block, words: tuple[str, ...], k: int) -> bool:
    """Is the k-th of some words in the line? It counts as used."""
    return k < len(words) and block.has(words[k])


def _switches(machine: MachineState, block: Block) -> None:
    """The spindle becomes an axis or a spindle again, is clamped or freed; the driven tool turns; interpolation begins, ends."""
    dialect = machine.control.dialect
    if _has(block, dialect.c_words, 0):
        _axis_on(machine, block)
    if _has(block, dialect.c_words, 1):
        if machine.work.polar or machine.work.radius:
            machine.say(block.line, "c-axis", tr("Interpolation is still on: it ends before C does."), block.column("M"))
        if machine.state[S_PER] == 93.0:
            text = tr(
                "Feeds are still in inverse time (G93): {feed_codes} comes before C ends.", feed_codes=dialect.feed_codes[0]
            )
            machine.say(block.line, "feed-code", text, block.column("M"))
            machine.state[S_PER] = 94.0
        machine.work = replace(machine.work, on=False, clamped=False, polar=False, radius=0.0)
    for k, clamped in enumerate((True, False)):
        if _has(block, dialect.clamp_words, k):
            if not machine.work.on:
                machine.say(block.line, "c-axis", tr("Only an axis is clamped: C is not on."), block.column("M"))
            machine.work = replace(machine.work, clamped=clamped)
    for k, turns in enumerate((1, -1, 0)):
        if _has(block, dialect.drive_words, k):
            machine.work = replace(machine.work, driving=turns)
            if turns < 0:
                machine.say(block.line, "spindle-back", tr("The driven tool turns backward: it does not cut."), block.column("M"))
    if machine.work.on and block.m_words & {3.0, 4.0}:
        off = dialect.c_words[1]
        machine.say(
            block.line, "c-axis", tr("The spindle is an axis: {off} makes a spindle of it again.", off=off), block.column("M")
        )
    machine.rows.modal_from("stands", 1.0 if machine.work.on else 0.0)
    machine.rows.modal_from("held", 1.0 if machine.work.clamped else 0.0)
    _interpolation(machine, block)
    tell_speed(machine)
    _tell_angle(machine)


def _axis_on(machine: MachineState, block: Block) -> None:
    if machine.turning:
        machine.say(block.line, "c-axis", tr("The work still turns: M5 comes before C."), block.column("M"))
        machine.turning = False
    if machine.bent is not None:
        machine.say(block.line, "compensation", tr("Compensation is still on: it ends before C comes."), block.column("M"))
    if not machine.work.on:
        machine.work = replace(machine.work, on=True, angle=0.0, clamped=False)


def _interpolation(machine: MachineState, block: Block) -> None:
    """Polar interpolation on and off, cylindrical with its radius in C, ended by C0."""
    dialect = machine.control.dialect
    if _has(block, dialect.polar_words, 1):
        _leave_polar(machine)
    elif _has(block, dialect.polar_words, 0):
        _enter_polar(machine, block)
    if _has(block, dialect.wrapped_words, 0):
        radius = block.word("C")
        if radius is None or radius < 0.0:
            machine.say(block.line, "interpolation", tr("Cylindrical interpolation needs the radius of the round in C."))
        elif radius > 0.0 and _may_interpolate(machine, block):
            machine.work = replace(machine.work, radius=radius * float(machine.state[S_SCALE]))
        elif radius == 0.0:
            machine.work = replace(machine.work, radius=0.0)


def _may_interpolate(machine: MachineState, block: Block) -> bool:
    """Whether interpolation can begin, which is said where it cannot."""
    why = ""
    if not machine.work.on:
        why = tr("There is no interpolation with a work that turns: C comes first.")
    elif machine.work.polar or machine.work.radius:
        why = tr("Another interpolation is still on.")
    elif abs(machine.tip()[1]) > machine.loose:
        why = tr("Y has to be at 0: interpolation goes through the axis.")
    if why:
        machine.say(block.line, "interpolation", why, block.column("G"))
    return not why


def _enter_polar(machine: MachineState, block: Block) -> None:
    if not _may_interpolate(machine, block):
        return
    if abs((machine.work.angle + 180.0) % 360.0 - 180.0) > ROUND:
        text = tr(
            "C is at {angle:g}°: controls differ in where X then points. Polar interpolation begins at C0.",
            angle=machine.work.angle,
        )
        machine.say(block.line, "interpolation", text, block.column("G"))
    if max(abs(float(machine.state[S_DX])), abs(float(machine.state[S_DX + 1]))) > machine.loose:
        text = tr("No tool offset, or a wrong one: under polar interpolation nobody knows where its tip goes.")
        machine.say(block.line, "interpolation", text, block.column("G"))
    if machine.work.clamped:
        machine.say(block.line, "c-clamped", tr("C is clamped: it does not turn."), block.column("G"))
    machine.work = replace(machine.work, polar=True, angle=0.0)
    machine.rows.modal_from("polar", 1.0)


def _leave_polar(machine: MachineState) -> None:
    """C is where the tool is on the part, X how far it is from the axis."""
    if not machine.work.polar:
        return
    x, y = machine.state[:2].tolist()
    machine.state[0], machine.state[1] = math.hypot(x, y), 0.0
    machine.work = replace(machine.work, polar=False, angle=math.degrees(math.atan2(y, x)))
    machine.rows.modal_from("polar", 0.0)


def _only_turning(machine: MachineState, block: Block) -> None:
    """Words that mean nothing while the work stands."""
    if not machine.work.on:
        return
    if block.has_g(96.0):
        text = tr("Constant surface speed is the work's, and that stands: its spindle is an axis.")
        machine.say(block.line, "speed", text, block.column("G"))
    for code in (41.0, 42.0):
        if block.has_g(code):
            text = tr("G{code:g} beside an outline is not followed while C is an axis.", code=code)
            machine.say(block.line, "not-followed", text, block.column("G"))


def _inverse_time(machine: MachineState, block: Block) -> None:
    """F is how often in a minute a move could be made, each with its own: X and C have no other feed in common."""
    if block.has_g(93.0):
        if not machine.work.on:
            text = tr("Feeds in inverse time (G93) are for a work that stands: its spindle turns.")
            machine.say(block.line, "feed-code", text, block.column("G"))
            return
        machine.state[S_PER] = 93.0
        machine.rows.modal_from("per_turn", 0.0)


def _not_within(machine: MachineState, block: Block) -> bool:
    """Words that lead the axes, or what stands on them, elsewhere: within interpolation nobody knows where."""
    if not (machine.work.polar or machine.work.radius):
        return False
    names = [f"G{code:g}" for code in sorted(block.g_words & LEAD_ELSEWHERE)] + (["T"] if block.peek("T") is not None else [])
    if not names:
        return False
    text = tr("{names} does not stand within interpolation: that ends first.", names=names[0])
    machine.say(block.line, "interpolation", text, block.column(names[0][0]))
    block.use("XYZUWCTP")
    for code in LEAD_ELSEWHERE:
        block.has_g(code)
    return True


def _tell_angle(machine: MachineState) -> None:
    work = machine.work
    machine.rows.modal_from("c", work.angle if work.on else 0.0)


# -- motion -------------------------------------------------------------------------------------------------------


def _axes(machine: MachineState, block: Block) -> None:
    """Motion and cycles, of a work that turns or of one that stands."""
    work = machine.work
    if not work.on:
        moved = [letter for letter in "YC" if block.peek(letter) is not None and not block.has_g(4.0)]
        if moved:
            text = tr(
                "{moved} moves only while the spindle is an axis: {c_words} comes first.",
                moved=moved[0],
                c_words=machine.control.dialect.c_words[0],
            )
            machine.say(block.line, "c-axis", text, block.column(moved[0]))
            block.use("YC")
        driven_only = sorted(block.g_words & set(map(float, codes.CYCLES)) - {73.0, 83.0, 84.0})
        if driven_only:
            text = tr("G{driven_only:g} drills with a driven tool, and the work turns.", driven_only=driven_only[0])
            machine.say(block.line, "not-followed", text, block.column("G"))
            block.use("XYZUWCPQRKLF")
            block.has_g(driven_only[0])
            return
        turned_axes(machine, block)
        return
    if block.g_words & {32.0, 33.0, 70.0, 71.0, 72.0, 74.0, 75.0, 76.0}:
        machine.say(
            block.line, "not-followed", tr("A turning cycle, and the work stands: its spindle is an axis."), block.column("G")
        )
        block.use("XZUWPQRIKDAFL")
        return
    for code in (98.0, 99.0):
        if f"G{code:g}" not in machine.control.dialect.feed_codes and block.has_g(code):
            machine.initial_level = code == 98.0
    if _has(block, machine.control.dialect.wrapped_words, 0):
        return  # its C is a radius
    motion_word(machine, block)
    if machine.cycle_code:
        _hole(machine, block)
    elif block.has_any("XYZUWC") or (machine.state[S_MODE] >= 2.0 and block.has_centre()):
        _steer(machine, block)


def _hole(machine: MachineState, block: Block) -> None:
    """A cycle at a place; a C of its own is gone to first."""
    if machine.work.polar or machine.work.radius:
        machine.say(
            block.line, "cycle-plane", tr("A drilling cycle stands by itself, not within interpolation."), block.column("G")
        )
        block.use("XYZRPQKLC")
        return

    def turn() -> None:
        """Each repetition of a step by C goes on by it; what was cut before lies where C was then."""
        if (angle := _angle_word(machine, block)) is not None:
            _places(machine, machine.placed)
            x, y, z = machine.state[:3].tolist()
            _turn(machine, block, (x, y, z), angle, rapid=True)

    drill(machine, block, sideways=True, turn=turn)


def _angle_word(machine: MachineState, block: Block) -> float | None:
    """Where C leads to, in degrees; None where it is not named."""
    value = block.word("C")
    if value is None:
        return None
    return value + (machine.work.angle if machine.state[S_RELATIVE] > 0 else 0.0)


def _steer(machine: MachineState, block: Block) -> None:
    """A move of G0 to G3 with the work standing."""
    block.use("IJKR")
    state = machine.state
    if state[S_MODE] < 0.0:
        machine.say(block.line, *motion_reason(NO_MODE))
        return
    if machine.work.polar:
        _polar(machine, block)
        return
    angle = _angle_word(machine, block)
    target = machine.target(block)
    if machine.work.radius:
        _wrapped(machine, block, target, machine.work.angle if angle is None else angle)
        return
    if angle is not None and angle != machine.work.angle:
        if state[S_MODE] >= 2.0:
            machine.say(block.line, "c-axis", tr("An arc, and C with it: only interpolation does that."), block.column("C"))
        _turn(machine, block, target, angle, rapid=state[S_MODE] == 0.0)
        return
    machine.steer(block, "IJKR", target)


def _polar(machine: MachineState, block: Block) -> None:
    """X and C are at right angles to each other, on the part: C is a length, and so is J, the way to an arc's centre along it."""
    state = machine.state
    if block.has_any("YU"):
        machine.say(block.line, "interpolation", tr("Under polar interpolation C takes the place of Y."), block.column("Y"))
        block.use("YU")
    if state[S_MODE] == 0.0:
        machine.say(block.line, "interpolation", tr("No rapid goes through polar interpolation: G1 does."), block.column("G"))
    plane = float(state[S_PLANE])
    state[S_PLANE] = 17.0
    x, _, z = machine.target(block)
    side = block.word("C")
    relative = float(state[1]) if state[S_RELATIVE] > 0 else 0.0
    y = float(state[1]) if side is None else side * float(state[S_SCALE]) + relative
    machine.steer(block, "IJKR", (x, y, z))
    state[S_PLANE] = plane
    machine.placed = machine.rows.count


def _turn(machine: MachineState, block: Block, target: tuple[float, float, float], angle: float, *, rapid: bool) -> None:
    """The straight move of all axes with C: chords of what that is on the part."""
    state, work = machine.state, machine.work
    begin = np.array([*machine.state[:3], work.angle])
    end = np.array([*target, angle])
    radius = max(math.hypot(*begin[:2]), math.hypot(*end[:2]), 1e-9)
    way = abs(math.radians(angle - work.angle))
    if work.clamped:
        machine.say(block.line, "c-clamped", tr("C is clamped: it does not turn."), block.column("C"))
    count = _chords(way, radius, CHORD_MM * scale("mm", machine.control.unit))
    if machine.too_many(block, count, IN_A_BLOCK):
        return
    seconds = 0.0 if rapid else _minutes(machine, block, float(np.linalg.norm(end[:3] - begin[:3])), math.degrees(way))
    shares = np.linspace(0.0, 1.0, count + 1)[:, None]
    _lay(machine, block, begin + (end - begin) * shares, seconds, rapid=rapid)
    state[:3] = target
    machine.work = replace(machine.work, angle=angle)
    _tell_angle(machine)


def _chords(way: float, radius: float, chord: float) -> int:
    """So many chords for a turn by `way` radians at a radius."""
    step = 2 * math.acos(max(1 - chord / radius, 0.0)) if radius > chord else math.pi / 8
    return max(1, math.ceil(way / max(min(step, math.pi / 8), 1e-9)))


def _minutes(machine: MachineState, block: Block, length: float, degrees: float) -> float:
    """How long a feed with C lasts, in minutes; 0 where no feed is in force, which is said."""
    per, feed = float(machine.state[S_PER]), float(machine.state[S_FEED])
    feed *= machine.work.speed if per == 95.0 else 1.0
    if per == 93.0 and block.peek("F") is None:
        feed = 0.0
    if feed <= 0.0:
        machine.say(block.line, *motion_reason(NO_FEED))
        return 0.0
    if per == 93.0:
        return 1.0 / feed
    return (length if length > 1e-9 else degrees * float(machine.state[S_SCALE])) / feed


def _lay(machine: MachineState, block: Block, ways: Floats, minutes: float, *, rapid: bool) -> None:
    """Rows through places (n, 4) of x, y, z and C: straight from each to the next, as they lie on the part."""
    rows, shift = machine.rows, machine.state[S_DX : S_DX + 3]
    points = about_axis(ways[:, :3] + shift, np.radians(ways[:, 3]))
    count = len(points) - 1
    lengths = np.linalg.norm(np.diff(points, axis=0), axis=1)
    rows.room(count)
    fresh = np.zeros((count, COLUMNS))
    fresh[:, 0], fresh[:, 1] = block.line, 0.0 if rapid else 1.0
    fresh[:, 2:5], fresh[:, 5:8], fresh[:, 11] = points[:-1], points[1:], machine.state[S_PLANE]
    if not rapid and minutes > 0.0:
        fed = lengths / (minutes / count)
        fresh[:, 12] = fed / machine.work.speed if machine.state[S_PER] == 95.0 and machine.work.speed > 0 else fed
    rows.data[rows.count : rows.count + count] = fresh
    for k in range(count):
        rows.swung(rows.count + k, float(ways[k, 3]), float(ways[k + 1, 3]))
    rows.count += count
    machine.placed = rows.count


def _wrapped(machine: MachineState, block: Block, target: tuple[float, float, float], angle: float) -> None:
    """On the round C is a length too: what is a line or an arc of Z and C lies so on the unrolled round of that radius."""
    state, work, control = machine.state, machine.work, machine.control
    radius, chord = work.radius, CHORD_MM * scale("mm", control.unit)
    u0, u1 = math.radians(work.angle) * radius, math.radians(angle) * radius
    begin = (float(state[0]), float(state[2]))
    mode = float(state[S_MODE])
    if work.clamped and angle != work.angle:
        machine.say(block.line, "c-clamped", tr("C is clamped: it does not turn."), block.column("C"))
    flat = (
        _unrolled(machine, block, (u0, begin[1]), (u1, target[2])) if mode >= 2.0 else np.array([(u0, begin[1]), (u1, target[2])])
    )
    pieces = [flat[:1]]
    for a, b in itertools.pairwise(flat):
        count = _chords(abs(b[0] - a[0]) / radius, max(radius, abs(begin[0]), abs(target[0])), chord)
        if machine.too_many(block, count * len(flat), IN_A_BLOCK):
            return
        pieces.append(a + (b - a) * (np.arange(1, count + 1) / count)[:, None])
    plane = np.concatenate(pieces)
    steps = np.hypot(*np.diff(plane, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    share = along / along[-1] if along[-1] > 0 else np.linspace(0.0, 1.0, len(plane))
    deep = begin[0] + (target[0] - begin[0]) * share
    ways = np.column_stack([deep, np.full(len(plane), state[1]), plane[:, 1], np.degrees(plane[:, 0] / radius)])
    rapid = mode == 0.0
    minutes = 0.0 if rapid else _minutes(machine, block, math.hypot(float(along[-1]), target[0] - begin[0]), 0.0)
    _lay(machine, block, ways, minutes, rapid=rapid)
    state[:3] = (target[0], state[1], target[2])
    machine.work = replace(machine.work, angle=angle)
    _tell_angle(machine)


def _unrolled(machine: MachineState, block: Block, start: tuple[float, float], end: tuple[float, float]) -> Floats:
    """An arc on the unrolled round as places (n, 2) of (u, z): by its radius, or by the way to its centre. C stands for Y in G19,
    where it goes round from C to Z, and for X in G18, where it goes round from Z to C. The kernel works it out in its XY plane, u
    as X and Z as Y."""
    words, state = np.full(26, np.nan), machine.state.copy()
    scaled, plane = float(state[S_SCALE]), float(state[S_PLANE])
    if plane == 17.0:
        machine.say(block.line, "interpolation", tr("An arc on the round stands in the plane of Z and C: G18 or G19."))
        return np.array([start, end])
    for letter, place in (("R", 17), ("J" if plane == 19.0 else "I", 8), ("K", 9)):
        if (value := block.word(letter)) is not None:
            words[place] = value
    state[0], state[1], state[2], state[S_ACROSS], state[S_PLANE], state[S_RELATIVE] = *start, 0.0, 1.0, 17.0, 0.0
    state[S_MODE] = state[S_MODE] if plane == 19.0 else 5.0 - state[S_MODE]
    state[S_DX : S_DX + 3] = 0.0
    words[23], words[24] = end[0] / scaled, end[1] / scaled
    row = np.zeros((1, COLUMNS))
    _, reason = move_words(words, state, row, 0, block.line, machine.loose)
    if reason and reason != NO_FEED:
        machine.say(block.line, *motion_reason(int(reason)))
        return np.array([start, end])
    centre, turn = row[0, 8:10], float(row[0, 10])
    from_centre = np.array(start) - centre
    count = _chords(abs(turn), max(math.hypot(*from_centre), 1e-9), CHORD_MM * scale("mm", machine.control.unit))
    angles = math.atan2(from_centre[1], from_centre[0]) + turn * np.arange(count + 1) / count
    points: Floats = centre + math.hypot(*from_centre) * np.column_stack([np.cos(angles), np.sin(angles)])
    points[0], points[-1] = start, end
    return points


# -- on the part --------------------------------------------------------------------------------------------------


def _places(machine: MachineState, begin: int) -> None:
    """Rows from `begin` on that are not on the part yet: turned by where C is. The centre of an arc in G18 or G19 stays as it is
    said: its plane is turned."""
    rows, work = machine.rows, machine.work
    begin = max(begin, machine.placed)
    machine.placed = rows.count
    if not work.on or work.polar or begin >= rows.count or work.angle % 360.0 == 0.0:
        return
    data = rows.data[begin : rows.count].copy()
    angle = math.radians(work.angle)
    data[:, 2:5], data[:, 5:8] = about_axis(data[:, 2:5], angle), about_axis(data[:, 5:8], angle)
    flat = (data[:, 10] != 0.0) & (data[:, 11] == 17.0)
    centres = np.column_stack([data[flat, 8:10], np.zeros(int(flat.sum()))])
    data[flat, 8:10] = about_axis(centres, angle)[:, :2]
    rows.replaced(begin, data)
    machine.placed = rows.count
