"""Words that mean the same on mills and lathes: units, planes, offsets, distances, home, machine moves, stops, subprograms."""

from __future__ import annotations

import numpy as np

from bastler.language import tr
from bastler.nc import codes
from bastler.nc.block import Block
from bastler.nc.motion import S_CENTRES, S_MODE, S_PER, S_PLANE, S_RELATIVE, S_SCALE
from bastler.nc.state import Handler, MachineState
from bastler.units import Unit, scale

DEEPEST_CALL = 8
UNITS: tuple[tuple[float, Unit], ...] = ((20.0, "inch"), (21.0, "mm"))


def _of(*given: float) -> frozenset[float]:
    return frozenset(given)


def units(machine: MachineState, block: Block) -> None:
    """G20 and G21."""
    for code, unit in UNITS:
        if block.has_g(code):
            machine.state[S_SCALE] = scale(unit, machine.control.unit)


def changed_tool(machine: MachineState, block: Block, tool: int) -> None:
    """Another tool stands where the last one did: the tip is elsewhere, the machine is not."""
    tip, old = machine.tip(), machine.reach()
    machine.tool = tool
    new = machine.reach()
    machine.event(block.line, "tool", tool)
    machine.rows.tool_from(tool)
    machine.reshift((tip[0] + old[0] - new[0], tip[1] + old[1] - new[1], tip[2] + old[2] - new[2]))


def _coolant(machine: MachineState, block: Block) -> None:
    for code in (7, 8, 9):
        if block.has_m(code):
            machine.event(block.line, "coolant", 0.0 if code == 9 else 1.0)


def _dwell(machine: MachineState, block: Block) -> None:
    if not block.has_g(4.0):
        return
    letter = "P" if block.peek("P") is not None else "X"
    amount = block.word(letter) if block.peek(letter) is not None else None
    if amount is None:
        machine.say(block.line, "dwell", tr("A dwell needs its time in P."))
        return
    seconds = amount / 1000.0 if machine.control.dialect.dwell_unit == "ms" and letter == "P" else amount
    machine.event(block.line, "dwell", max(seconds, 0.0))


def _plane(machine: MachineState, block: Block) -> None:
    for code in (17.0, 18.0, 19.0):
        if block.has_g(code):
            if machine.bent is not None and code != machine.state[S_PLANE]:
                text = tr("The plane changes while compensation is on.")
                machine.say(block.line, "compensated-plane", text, block.column("G"))
            machine.state[S_PLANE] = code


def _work_offset(machine: MachineState, block: Block) -> None:
    index = next((i for code, i in codes.OFFSET_INDEX.items() if block.has_g(code)), 0)
    if block.has_g(54.1):
        number = block.word("P")
        index = codes.EXTENDED + int(number) if number is not None else 0
        if number is None:
            machine.say(block.line, "offset", tr("G54.1 needs the number of the offset in P."), block.column("G"))
    if index:
        tip = machine.tip()
        machine.offset = index
        if index not in machine.offsets:
            text = tr("This work offset is not the job's and has no value.")
            machine.say(block.line, "offset-unknown", text, block.column("G"))
        machine.rows.offset_from(index)
        machine.reshift(tip)


def _distances(machine: MachineState, block: Block) -> None:
    for code in (90.0, 91.0):
        if block.has_g(code):
            machine.state[S_RELATIVE] = code - 90.0
    for code in (90.1, 91.1):
        if block.has_g(code):
            machine.state[S_CENTRES] = 1.0 if code == 90.1 else 0.0


def _corners(machine: MachineState, block: Block) -> None:
    block.has_g(61.0)  # exact at corners, as everything is run here
    block.has_g(61.1)


def _overrides(machine: MachineState, block: Block) -> None:
    for code in (48, 49):
        if block.has_m(code):
            machine.event(block.line, "overrides", 1.0 if code == 48 else 0.0)


# -- words that take the axes in their own way --------------------------------------------------------------------


def _stands(machine: MachineState, block: Block) -> bool:
    """A dwell stands still: an X in its line is a time."""
    return block.has_g(4.0)


def _refused(machine: MachineState, block: Block) -> bool:
    for code, why in codes.REFUSED.items():
        if block.has_g(code):
            machine.say(block.line, "not-followed", f"G{code:g} {tr(why)}.", block.column("G"))
            block.use("XYZUWRQPLKIJF")
            return True
    return False


def _set_offset(machine: MachineState, block: Block) -> bool:
    """G10: an offset gets another value."""
    if not block.has_g(10.0):
        return False
    kind, number = block.word("L"), block.word("P")
    if kind not in (2.0, 20.0) or number is None:
        text = tr("G10 is read with L2 or L20 and the offset's number in P.")
        machine.say(block.line, "offset", text, block.column("G"))
        return True
    if machine.side:
        text = tr("Offsets are set with the main spindle chosen: what the other one makes of their values differs.")
        machine.say(block.line, "offset", text, block.column("G"))
        block.use("XYZ")
        return True
    tip, index = machine.tip(), int(number) or machine.offset
    at = machine.machine(tip)
    new = list(machine.offsets.get(index, (0.0, 0.0, 0.0)))
    for axis, letter in enumerate("XYZ"):
        value = block.word(letter)
        if value is None:
            continue
        value *= machine.unit_of(axis)
        new[axis] = value if kind == 2.0 else at[axis] - machine.lift[axis] - machine.shift[axis] - value
    machine.offsets[index] = (new[0], new[1], new[2])
    machine.event(block.line, "offset", index, machine.offsets[index])
    machine.reshift(tip)
    return True


def _to_home(machine: MachineState, block: Block) -> bool:
    """G28: through a place to the reference point."""
    if not block.has_g(28.0):
        return False
    named = [axis for axis, letters in enumerate(machine.names()) if block.has_any(letters)]
    through = machine.target(block)
    if named:
        machine.go(block.line, through)
    at = list(machine.machine(machine.tip()))
    for axis in named or (0, 1, 2):
        at[axis] = machine.home[axis]
    machine.go_machine(block.line, (at[0], at[1], at[2]))
    return True


def _machine_move(machine: MachineState, block: Block) -> bool:
    """G53: to a place of the machine."""
    if not block.has_g(53.0):
        return False
    if block.motion is not None:
        machine.state[S_MODE] = block.motion
    mode = float(machine.state[S_MODE])
    if mode not in (0.0, 1.0) or (mode == 1.0 and machine.state[S_PER] == 93.0):
        text = tr("G53 moves in G0 or G1 only, and not in inverse time.")
        machine.say(block.line, "machine-move", text, block.column("G"))
        return True
    at = list(machine.machine(machine.tip()))
    for axis, letter in enumerate("XYZ"):
        value = block.word(letter)
        if value is not None:
            at[axis] = value * machine.unit_of(axis)
    machine.go_machine(block.line, (at[0], at[1], at[2]), mode)
    return True


def _local(machine: MachineState, block: Block) -> bool:
    """G52: a shift within whatever work offset is in force."""
    if not block.has_g(52.0):
        return False
    tip, here = machine.tip(), list(machine.local)
    for axis, letter in enumerate("XYZ"):
        if (value := block.word(letter)) is not None:
            here[axis] = value * machine.unit_of(axis)
    machine.local = (here[0], here[1], here[2])
    machine.reshift(tip)
    return True


def _renamed(machine: MachineState, block: Block) -> bool:
    """G92.1 to G92.3: the shift of G92 goes, rests, or comes back."""
    if block.has_g(92.1):
        machine.put_off = (0.0, 0.0, 0.0)
        machine.shift_to((0.0, 0.0, 0.0))
    elif block.has_g(92.2):
        machine.put_off = machine.shift if any(machine.shift) else machine.put_off
        machine.shift_to((0.0, 0.0, 0.0))
    elif block.has_g(92.3):
        machine.shift_to(machine.put_off if not any(machine.shift) else machine.shift)
    else:
        return False
    return True


# -- flow: stops, subprograms, end --------------------------------------------------------------------------------


def flow(machine: MachineState, block: Block) -> int:
    """Stops, calls and the end; gives the line to go on with."""
    line = block.line
    if not block.has_any("M"):
        return line + 1
    for code in (0, 1):
        if block.has_m(code):
            machine.event(line, "stop", float(code))
    if block.has_m(2) or block.has_m(30):
        return machine.lines
    if block.has_m(98):
        return _call(machine, block)
    if block.has_m(99):
        return _return(machine)
    return line + 1


def _call(machine: MachineState, block: Block) -> int:
    number, times = block.word("P"), max(1, int(block.word("L") or 1))
    start = _program_line(machine, number)
    if start is None and number is not None and number >= 10_000:  # P30200: three times O200
        times, number = int(number) // 10_000 * times, float(int(number) % 10_000)
        start = _program_line(machine, number)
    if start is None or len(machine.calls) >= DEEPEST_CALL:
        why = tr("There is no subprogram O{number:g}.", number=number) if number is not None else tr("M98 needs the number in P.")
        text = why if start is None else tr("Subprograms call each other too deep.")
        machine.say(block.line, "subprogram", text, block.column("M"))
        return block.line + 1
    machine.ran[start - 1] = True
    machine.calls.append((block.line + 1, start, times - 1))
    return start


def _return(machine: MachineState) -> int:
    if not machine.calls:
        return machine.lines
    back, start, left = machine.calls.pop()
    if left > 0:
        machine.calls.append((back, start, left - 1))
        return start
    return back


def _program_line(machine: MachineState, number: float | None) -> int | None:
    table, machine.elsewhere = machine.table, True
    hits = np.flatnonzero((table.letter == ord("O")) & (table.value == (-1 if number is None else number)))
    return int(np.searchsorted(table.first, hits[0], side="right")) if len(hits) else None


COOLANT = Handler(_of(), _coolant, ("M7", "M8", "M9"))
DWELL = Handler(_of(4.0), _dwell)
PLANE = Handler(_of(17.0, 18.0, 19.0), _plane)
WORK_OFFSET = Handler(frozenset((*codes.OFFSET_INDEX, 54.1)), _work_offset)
DISTANCES = Handler(_of(90.0, 91.0, 90.1, 91.1), _distances)
CORNERS = Handler(_of(61.0, 61.1), _corners)
OVERRIDES = Handler(_of(), _overrides, ("M48", "M49"))
TAKES_AXES = (
    Handler(_of(4.0), _stands),
    Handler(frozenset(codes.REFUSED), _refused),
    Handler(_of(10.0), _set_offset),
    Handler(_of(28.0), _to_home),
    Handler(_of(53.0), _machine_move),
    Handler(_of(52.0), _local),
    Handler(_of(92.1, 92.2, 92.3), _renamed),
)
