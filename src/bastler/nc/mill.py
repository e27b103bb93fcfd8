"""A milling control, as a table of handlers: tools by T and M6, lengths by H, canned cycles in G17."""

from __future__ import annotations

from bastler.language import sayable, tr
from bastler.nc import codes
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
    flow,
    units,
)
from bastler.nc.compensation import COMPENSATION
from bastler.nc.cycles import drill, motion_word
from bastler.nc.motion import S_FEED, S_PER, S_SCALE, S_SPEED
from bastler.nc.rounding import corners, slanted
from bastler.nc.state import Handler, MachineState, Manner


def _feed_and_speed(machine: MachineState, block: Block) -> None:
    for code in (93.0, 94.0, 95.0):
        if block.has_g(code):
            machine.state[S_PER] = code
    if block.has_g(96.0):
        machine.say(block.line, "unknown-word", tr("G96 is for turning: the tool of a mill has one diameter."), block.column("G"))
    block.has_g(97.0)
    units(machine, block)
    if (feed := block.word("F")) is not None:
        machine.state[S_FEED] = feed * (1.0 if machine.state[S_PER] == 93.0 else machine.state[S_SCALE])
        if feed <= 0:
            machine.say(block.line, "feed-missing", tr("A feed rate has to be more than 0."), block.column("F"))
    if (speed := block.word("S")) is not None:
        machine.speed = speed
        if speed < 0:
            machine.say(block.line, "speed", tr("A spindle speed cannot be negative."), block.column("S"))
    _tell_speed(machine)


def _tell_speed(machine: MachineState) -> None:
    machine.state[S_SPEED] = machine.speed if machine.turning else 0.0
    machine.rows.speed_from(machine.state[S_SPEED])


def _tool(machine: MachineState, block: Block) -> None:
    if (tool := block.word("T")) is not None:
        machine.next_tool = int(tool)
        if tool != machine.next_tool or tool < 0:
            machine.say(block.line, "tool-word", tr("T{tool:g} is no tool's number.", tool=tool), block.column("T"))
    if block.has_m(6):
        if machine.next_tool and machine.next_tool not in machine.control.reaches:
            text = tr("T{next_tool} is not among the tools of this job.", next_tool=machine.next_tool)
            machine.say(block.line, "tool-unknown", text, block.column("M"))
        changed_tool(machine, block, machine.next_tool)


def _spindle(machine: MachineState, block: Block) -> None:
    if block.has_m(3):
        machine.turning = True
    if block.has_m(4):
        machine.turning = True
        machine.say(block.line, "spindle-back", tr("M4 turns the tool backwards: it does not cut."), block.column("M"))
    if block.has_m(5):
        machine.turning = False
    _tell_speed(machine)


def _length_offset(machine: MachineState, block: Block) -> None:
    tip = machine.tip()
    if block.has_g(49.0):
        machine.lift = (0.0, 0.0, 0.0)
    elif block.has_g(43.0):
        number, known = block.word("H"), machine.control.tool_offsets
        if number is None:
            machine.say(block.line, "offset", tr("G43 needs the number of the length offset in H."), block.column("G"))
        index = machine.tool if number is None else int(number)
        if index not in known and index != 0:
            machine.say(block.line, "length-offset", tr("Length offset H{index} has no value.", index=index), block.column("H"))
        elif index not in (machine.tool, 0):
            text = tr("Length offset H{index} with T{tool} in the spindle.", index=index, tool=machine.tool)
            machine.say(block.line, "length-offset", text, block.column("H"), "caution")
        machine.lift = known.get(index, (0.0, 0.0, 0.0))
    else:
        return
    machine.reshift(tip)


def _rounded_corners(machine: MachineState, block: Block) -> None:
    if block.has_g(64.0):
        block.use("P")
        text = tr("G64 lets the control round corners off: the proof runs them sharp.")
        machine.say(block.line, "corners", text, level="caution")


def _return_level(machine: MachineState, block: Block) -> None:
    for code in (98.0, 99.0):
        if block.has_g(code):
            machine.initial_level = code == 98.0


def _axes_renamed(machine: MachineState, block: Block) -> bool:
    """G92: the place where the tool is gets another name."""
    if not block.has_g(92.0):
        return False
    tip = machine.tip()
    now, given = machine.state[:3], [block.word(a) for a in "XYZ"]
    moved = [
        s + (float(n) - g * machine.unit_of(axis) if g is not None else 0.0)
        for axis, (s, n, g) in enumerate(zip(machine.shift, now, given, strict=True))
    ]
    machine.shift = (moved[0], moved[1], moved[2])
    if all(g is None for g in given):
        machine.say(block.line, "offset", tr("G92 needs the axes that it renames."), block.column("G"))
    machine.reshift(tip)
    return True


def _axes(machine: MachineState, block: Block) -> None:
    """Motion or cycles."""
    motion_word(machine, block)
    if machine.cycle_code:
        drill(machine, block)
    elif block.has_any("a"):
        machine.steer(block, "", slanted(machine, block, machine.target(block)))
    elif block.has_any("XYZIJKR"):
        block.use("XYZIJKR")  # the kernel says which of them it has no use for
        machine.run_motion(block.line, block.line + 1)


MILL = Manner(
    handlers=(
        Handler(frozenset((20.0, 21.0, 93.0, 94.0, 95.0, 96.0, 97.0)), _feed_and_speed, ("F", "S")),
        Handler(frozenset(), _tool, ("T", "M6")),
        Handler(frozenset(), _spindle, ("M3", "M4", "M5")),
        COOLANT,
        DWELL,
        PLANE,
        COMPENSATION,
        Handler(frozenset((43.0, 49.0)), _length_offset),
        WORK_OFFSET,
        DISTANCES,
        CORNERS,
        Handler(frozenset((64.0,)), _rounded_corners),
        OVERRIDES,
        Handler(frozenset((98.0, 99.0)), _return_level),
        *TAKES_AXES,
        Handler(frozenset((92.0,)), _axes_renamed),
        Handler(frozenset((0.0, 1.0, 2.0, 3.0, 80.0, *map(float, codes.CYCLES))), _axes, always=True),
    ),
    flow=flow,
    axes="XYZ",
    beside=sayable("tool"),
    bends_in=17.0,
    corners=corners,
)
