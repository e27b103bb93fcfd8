"""A turning control, as a table of handlers: X as a diameter, steps in U and W, stations with offsets, surface speed, threads."""

from __future__ import annotations

import functools
import math
from dataclasses import replace

from bastler.language import sayable, tr
from bastler.machines import Dialect
from bastler.nc import codes
from bastler.nc.bars import PULLER, bar_words, holders
from bastler.nc.block import Block
from bastler.nc.common import (
    COOLANT,
    CORNERS,
    DISTANCES,
    DWELL,
    OVERRIDES,
    PLANE,
    TAKES_AXES,
    WORK_OFFSET,
    changed_tool,
    units,
)
from bastler.nc.common import flow as common_flow
from bastler.nc.compensation import COMPENSATION
from bastler.nc.motion import NO_MODE, S_FEED, S_MODE, S_PER, S_SCALE, motion_reason
from bastler.nc.rounding import corners, slanted
from bastler.nc.state import Handler, MachineState, Manner
from bastler.nc.turn_cycles import BOXES, CYCLES, box_of, drill, run_box, run_cycle, tap
from bastler.units import scale

THREADS = (32.0, 33.0)
FEET = 12.0
FEED_CODES = (94.0, 95.0, 98.0, 99.0)

# -- speed, feed, tools -------------------------------------------------------------------------------------------


def _feed_and_speed(machine: MachineState, block: Block) -> None:
    own = tuple(float(word[1:]) for word in machine.control.dialect.feed_codes)
    for code, mode in zip(own, (94.0, 95.0), strict=True):
        if block.has_g(code):
            machine.state[S_PER] = mode
            machine.rows.modal_from("per_turn", 1.0 if mode == 95.0 else 0.0)
    for code in FEED_CODES:
        returns = code >= 98.0 and machine.work.on  # of a hole, where a driven tool drills it
        box = BOXES.get(code) in machine.control.dialect.turn_cycles
        if code not in own and not returns and not box and block.has_g(code):
            text = tr(
                "G{code:g} is not how this machine tells its feed: that is G{own:g} and G{own_2:g}.",
                code=code,
                own=own[0],
                own_2=own[1],
            )
            machine.say(block.line, "feed-code", text, block.column("G"))
    units(machine, block)
    if (feed := block.word("F")) is not None and not _own_feed(machine, block):
        machine.state[S_FEED] = feed * (1.0 if machine.state[S_PER] == 93.0 else machine.state[S_SCALE])
        if feed <= 0:
            machine.say(block.line, "feed-missing", tr("A feed has to be more than 0."), block.column("F"))
    speed = block.word("S")
    if block.has_g(96.0):
        if not machine.surface and (speed is None or block.has_g(50.0)):
            machine.say(block.line, "speed-missing", tr("G96 needs the cutting speed in S."), block.column("G"))
        machine.surface = True
    if block.has_g(97.0):
        if machine.surface and speed is None:  # it goes on at the speed it has
            machine.speed = _turns_now(machine)
        machine.surface = False
    if speed is not None:
        _speed_word(machine, block, speed)
    tell_speed(machine)


def _turns_now(machine: MachineState) -> float:
    """Turns a minute that constant surface speed makes where the tool is."""
    radius = max(abs(float(machine.tip()[0])), 1e-9)
    return min(_surface_speed(machine) / (2 * math.pi * radius), machine.cap)


def _surface_speed(machine: MachineState) -> float:
    """The wanted surface speed in job's units a minute: S counts metres, or feet where the text is in inches."""
    unit = machine.control.unit
    return machine.speed * (scale("mm", unit) * 1000.0 if machine.in_mm else scale("inch", unit) * FEET)


def _own_feed(machine: MachineState, block: Block) -> bool:
    """Is F the lead of a thread or belongs to a cycle?"""
    box = box_of(block, machine.control.dialect.turn_cycles)
    goes_on = machine.cycle_code in (32, 33, 92) and box is None and not block.g_words & {0.0, 1.0, 2.0, 3.0, 80.0}
    return bool(block.g_words & {*THREADS, 76.0}) or box == 92.0 or goes_on


def _speed_word(machine: MachineState, block: Block, speed: float) -> None:
    drive = machine.control.dialect.drive_words
    if speed < 0:
        machine.say(block.line, "speed", tr("A spindle speed cannot be negative."), block.column("S"))
    elif machine.work.on or any(f"M{code:g}" in drive for code in block.m_words):
        machine.work = replace(machine.work, speed=speed)
    elif block.has_g(50.0) or block.has_g(92.0):
        machine.cap = speed
    else:
        machine.speed = speed


def tell_speed(machine: MachineState) -> None:
    """What turns, from the next row on: the work, or while it stands the driven tool."""
    work = machine.work
    if work.on:
        machine.rows.modal_from("surface", 0.0)
        machine.rows.speed_from(work.speed if work.driving else 0.0)
        return
    machine.rows.modal_from("surface", _surface_speed(machine) if machine.surface and machine.turning else 0.0)
    machine.rows.modal_from("cap", machine.cap)
    machine.rows.speed_from(machine.speed if machine.turning else 0.0)


def _spindle(machine: MachineState, block: Block) -> None:
    for code in (3, 4, 5):
        if block.has_m(code):
            machine.turning = code != 5
            machine.event(block.line, "spindle", {3: 1.0, 4: -1.0, 5: 0.0}[code])
    tell_speed(machine)


def _tool(machine: MachineState, block: Block) -> None:
    word = block.word("T")
    if word is None:
        return
    digits, known = machine.control.dialect.tool_digits, machine.control.tool_offsets
    if word != int(word) or word < 0:
        machine.say(block.line, "tool-word", tr("T{word:g} is no station with its offset.", word=word), block.column("T"))
    station, offset = divmod(int(word), 10**digits)
    if offset and not station:
        text = tr(
            "T{int} calls no station: a turret wants station and offset, as T{int}{offset}.",
            int=int(word),
            offset=f"{offset:0{digits}d}",
        )
        machine.say(block.line, "tool-word", text, block.column("T"))
    if station and station != machine.tool:
        if station not in machine.control.reaches:
            machine.say(
                block.line, "tool-unknown", tr("Station {station} holds no tool of this job.", station=station), block.column("T")
            )
        changed_tool(machine, block, station)
    tip = machine.tip()
    if offset and offset not in known:
        machine.say(block.line, "length-offset", tr("Tool offset {offset} has no value.", offset=offset), block.column("T"))
    machine.lift = known.get(offset, (0.0, 0.0, 0.0)) if offset else (0.0, 0.0, 0.0)
    machine.rows.modal_from("edge", offset)
    machine.reshift(tip)


# -- words that take the axes in their own way --------------------------------------------------------------------


def _cap(machine: MachineState, block: Block) -> bool:
    """G50 and G92: the fastest that constant surface speed may turn, and nothing else here."""
    shifts = next((code for code in (50.0, 92.0) if block.has_g(code)), None)
    if shifts is None or box_of(block, machine.control.dialect.turn_cycles) == shifts:
        return False
    if block.has_any("XZUWF"):
        text = tr(
            "G{shifts:g} with axis words shifts the zero on one control, cuts a thread on the next: it is not read.",
            shifts=shifts,
        )
        machine.say(block.line, "not-followed", text, block.column("G"))
        block.use("XZUWFR")
    elif block.peek("S") is None:
        text = tr("G{shifts:g} needs the cap of the spindle's speed in S.", shifts=shifts)
        machine.say(block.line, "speed-missing", text, block.column("G"))
    return True


def _turning_cycle(machine: MachineState, block: Block) -> bool:
    """G90 that may be a cycle."""
    if box_of(block, machine.control.dialect.turn_cycles) == 90.0:
        return False
    if machine.control.dialect.feed_codes != ("G98", "G99") or not block.has_g(90.0) or not block.has_any("XZUW"):
        return False
    if (block.g_words - {90.0}) & {0.0, 1.0, 2.0, 3.0, 28.0, 53.0, *THREADS}:
        return False
    text = tr("G90 with axis words alone is a turning cycle on controls of this kind: it is not read.")
    machine.say(block.line, "not-followed", text, block.column("G"))
    block.use("XZUWFR")
    return True


# -- motion -------------------------------------------------------------------------------------------------------


def turned_axes(machine: MachineState, block: Block) -> None:
    """Motion, threads and cycles while the work turns."""
    code = next((g for g in CYCLES if block.has_g(g)), None)
    if code is not None:
        run_cycle(machine, block, int(code))
        return
    motion = block.motion
    if motion is None:
        motion = next((g for g in THREADS if block.has_g(g)), None)
    moves = block.has_any("XZUW")
    if motion == 84.0:
        machine.cycle_code, machine.state[S_MODE] = 84, -1.0
        tap(machine, block)
        return
    if motion in THREADS:
        machine.cycle_code, machine.state[S_MODE] = int(motion or 33), -1.0
    elif motion is not None:
        machine.cycle_code = 83 if motion == 83.0 else 0
        machine.state[S_MODE] = -1.0 if motion in codes.CYCLES or motion == 80.0 else motion
    box = box_of(block, machine.control.dialect.turn_cycles)
    if box is not None and block.has_g(box):
        machine.cycle_code, machine.state[S_MODE] = int(box), -1.0
        machine.cycle = {}
        if box == 92.0:
            text = tr("Where a control pulls out of a thread of G92 by a setting of its own, that is not seen.")
            machine.say(block.line, "cycle-word", text, block.column("G"), level="note")
    if motion == 83.0:
        drill(machine, block)
    elif machine.cycle_code in BOXES:
        if moves:
            run_box(machine, block)
    elif machine.cycle_code in (83, 84):
        if moves:
            machine.say(block.line, "cycle-word", tr("There is one hole on the centre line: G80 ends the cycle first."))
    elif machine.cycle_code:
        if moves:
            _thread(machine, block)
    elif moves or (machine.state[S_MODE] >= 2.0 and block.has_centre()):
        _steer(machine, block)


def _thread(machine: MachineState, block: Block) -> None:
    """A move tied to the spindle."""
    letter = next((name for name in "FKE" if block.peek(name) is not None), "F")
    lead = block.word(letter)
    if lead is not None:
        machine.cycle["lead"] = lead * float(machine.state[S_SCALE])
    if machine.cycle.get("lead", 0.0) <= 0.0:
        text = tr("G{cycle_code} needs the lead of the thread in F.", cycle_code=machine.cycle_code)
        machine.say(block.line, "lead-missing", text, block.column("G"))
        return
    machine.tied_move(block, machine.target(block), machine.cycle["lead"])


def _steer(machine: MachineState, block: Block) -> None:
    """A move of G0 to G3, with steps in U and W worked in."""
    block.use("IKR")  # the kernel says which of them it has no use for
    state = machine.state
    if state[S_MODE] < 0.0:
        machine.say(block.line, *motion_reason(NO_MODE))
        return
    for axis, step in zip("XZ", machine.steps, strict=True):
        if block.peek(axis) is not None and block.peek(step) is not None:
            machine.say(
                block.line, "word-twice", tr("{axis} and {step} are the same axis.", axis=axis, step=step), block.column(step)
            )
    machine.steer(block, "IKR", slanted(machine, block, machine.target(block)))


def _flow(machine: MachineState, block: Block) -> int:
    """As everywhere; a cycle may have used the lines behind it."""
    after = common_flow(machine, block)
    if machine.jump is not None:
        after, machine.jump = machine.jump, None
    return after


def _catcher(machine: MachineState, block: Block) -> None:
    """The catcher under the part, or away."""
    for k in block.told(machine.control.dialect.catch_words):
        machine.event(block.line, "catch", float(k == 0))


def _centre(machine: MachineState, block: Block) -> None:
    """The tailstock's centre in, or out."""
    for k in block.told(machine.control.dialect.centre_words):
        machine.event(block.line, "centre", float(k == 0))


@functools.lru_cache(maxsize=16)
def beside_the_work(manner: Manner, dialect: Dialect) -> Manner:
    """How a control reads lines that has words for what stands beside the work: catcher, tailstock, and what a bar comes by."""
    if words := bar_words(dialect):
        last = next(k for k, h in enumerate(manner.handlers) if h.run is TAKES_AXES[0].run)
        manner = _knowing(manner, (*holders(dialect), *manner.handlers[:last], PULLER, *manner.handlers[last:]), words)
    for run, words in ((_catcher, dialect.catch_words), (_centre, dialect.centre_words)):
        if words:
            manner = _knowing(manner, (Handler(frozenset(), run, words), *manner.handlers), words)
    return manner


def _knowing(manner: Manner, handlers: tuple[Handler, ...], words: tuple[str, ...]) -> Manner:
    """A manner with these handlers that knows more M words."""
    return manner._replace(handlers=handlers, m_words=manner.m_words | {float(word[1:]) for word in words})


LATHE = Manner(
    handlers=(
        Handler(frozenset((20.0, 21.0, 50.0, 92.0, 96.0, 97.0, *FEED_CODES)), _feed_and_speed, ("F", "S")),
        Handler(frozenset(), _tool, ("T",)),
        Handler(frozenset(), _spindle, ("M3", "M4", "M5")),
        COOLANT,
        DWELL,
        PLANE,
        COMPENSATION,
        WORK_OFFSET,
        DISTANCES,
        CORNERS,
        OVERRIDES,
        Handler(frozenset((50.0, 92.0)), _cap),
        Handler(frozenset((90.0,)), _turning_cycle),
        *TAKES_AXES,
        Handler(frozenset((0.0, 1.0, 2.0, 3.0, 80.0, 83.0, 84.0, *THREADS, *CYCLES, *BOXES)), turned_axes, always=True),
    ),
    flow=_flow,
    axes="XZUWA",  # A is the angle of a thread cycle
    beside=sayable("nose"),
    bends_in=18.0,
    corners=corners,
)
