"""Corners and slants that a program gives no places for, as a drawing does not either: `,R` rounds and `,C` breaks the corner
between two straight feeds, `,A` is the angle of a line of which only one end is named; on a lathe A without a comma too.

The place that is named is the corner without them. Where there is no room for one, or what follows is no straight feed in the
plane, it is refused: a control stops there, or does what nobody sees.
"""

from __future__ import annotations

import math

import numpy as np

from bastler.language import sayable, tr
from bastler.nc.block import Block
from bastler.nc.motion import S_MODE, S_PLANE
from bastler.nc.state import Corner, MachineState, Point
from bastler.shapes.kinds import Floats

AXES = {17.0: (0, 1, 2), 18.0: (2, 0, 1), 19.0: (1, 2, 0)}
"""The two axes of a plane in which angles go from the first to the second, and the third one."""
STRAIGHT = 1e-9


def corners(machine: MachineState, block: Block) -> None:
    """Behind a line: a corner that waits is made with what the line has moved, and one of its own begins to wait."""
    waits, before = machine.corner, machine.at_row
    if waits is not None and (machine.rows.count > before or block.m_words & {0.0, 1.0, 2.0, 6.0, 30.0, 98.0, 99.0}):
        machine.corner = None
        why = _made(machine, waits) if (before, machine.rows.count) == (waits.row + 1, waits.row + 2) else tr(FOLLOWS)
        if why:
            machine.say(waits.line, "corner", why, waits.column)
    for kind in "cr":
        size = block.word(kind)
        if size is None:
            continue
        row = machine.rows.count - 1
        if machine.corner is not None:
            machine.say(block.line, "corner", tr("A corner is rounded or broken, not both."), block.column(kind))
        elif row < before or machine.rows.data[row, 1] != 1.0 or machine.work.on:
            machine.say(
                block.line, "corner", tr("Only behind a straight feed is a corner rounded or broken."), block.column(kind)
            )
        elif size <= 0:
            machine.say(block.line, "corner", tr("The size of a corner is more than 0."), block.column(kind))
        else:
            machine.corner = Corner(block.line, block.column(kind), kind, size * machine.unit_of(2), row)


FOLLOWS = sayable("A straight feed has to follow, in the same plane, for this corner to be made.")


def _made(machine: MachineState, waits: Corner) -> str:
    """Puts a corner between the last two rows; why not, where that cannot be."""
    rows = machine.rows
    rows.room(1)
    came, goes = rows.data[waits.row], rows.data[waits.row + 1]
    if goes[1] != 1.0 or came[11] != goes[11] or (machine.bent is not None and machine.bent[1] > waits.row):
        return tr(FOLLOWS)
    u, v, third = AXES[float(came[11])]
    if came[2 + third] != came[5 + third] or goes[2 + third] != goes[5 + third]:
        return tr(FOLLOWS)
    at = np.array([came[5 + u], came[5 + v]])
    into, out = at - came[[2 + u, 2 + v]], goes[[5 + u, 5 + v]] - at
    long_in, long_out = float(np.hypot(*into)), float(np.hypot(*out))
    if min(long_in, long_out) <= STRAIGHT:
        return tr("Of a line on one side of this corner nothing is left, or it has no length.")
    into, out = into / long_in, out / long_out
    bend = math.atan2(float(into[0] * out[1] - into[1] * out[0]), float(into @ out))
    if abs(bend) <= STRAIGHT or abs(bend) >= math.pi - 1e-6:
        return tr("The way goes straight on, or straight back: there is no corner.")
    back = waits.size if waits.kind == "c" else waits.size * math.tan(abs(bend) / 2)
    if back > min(long_in, long_out) + machine.loose:
        return tr("This corner takes {back:.4g} of a line that is {min:.4g} long.", back=back, min=min(long_in, long_out))
    made = came.copy()
    made[[2 + u, 2 + v]], made[[5 + u, 5 + v]] = at - back * into, at + back * out
    made[[2 + third, 5 + third]] = came[5 + third]
    if waits.kind == "r":
        _rounded(made, into, bend, waits.size, (u, v))
    came[[5 + u, 5 + v]], goes[[2 + u, 2 + v]] = made[[2 + u, 2 + v]], made[[5 + u, 5 + v]]
    rows.insert(waits.row + 1, made)
    return ""


def _rounded(row: Floats, into: Floats, bend: float, radius: float, axes: tuple[int, int]) -> None:
    """Makes an arc of a row that leads across a corner."""
    side = math.copysign(1.0, bend)
    row[1] = 3.0 if bend > 0 else 2.0
    row[8] = row[2 + axes[0]] - side * into[1] * radius
    row[9] = row[2 + axes[1]] + side * into[0] * radius
    row[10] = bend


def slanted(machine: MachineState, block: Block, target: Point) -> Point:
    """Where a line leads of which one end and its angle are named, counted from the plane's first axis to its second."""
    letter = next((one for one in ("a", "A") if block.peek(one) is not None), "")
    angle = block.word(letter) if letter else None
    if angle is None:
        return target
    u, v, _ = AXES[float(machine.state[S_PLANE])]
    names = machine.names()
    there = [block.has_any(names[axis]) for axis in (u, v)]
    du, dv = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    along, other, axis = (du, dv, v) if there[0] else (dv, du, u)
    if sum(there) != 1 or machine.state[S_MODE] != 1.0 or abs(along) < 1e-6:
        text = tr("An angle goes with one end of a straight feed, which has to lie on it.")
        machine.say(block.line, "corner", text, block.column(letter))
        return target
    found, named = list(target), u if there[0] else v
    found[axis] = float(machine.state[axis]) + (target[named] - float(machine.state[named])) * other / along
    return found[0], found[1], found[2]
