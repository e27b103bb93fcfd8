"""G41, G42 and G40: from where on, and how far, a control runs beside an outline; what it makes of it is `bending`."""

from __future__ import annotations

import numpy as np

from bastler.language import tr
from bastler.nc.bending import MILLED, TURNED, bent
from bastler.nc.block import Block
from bastler.nc.motion import S_PLANE
from bastler.nc.state import Handler, MachineState
from bastler.shapes.kinds import Floats


def _compensation(machine: MachineState, block: Block) -> None:
    """G41 and G42 begin, G40 ends what is run beside an outline."""
    if block.has_g(40.0):
        unbend(machine)
    side = next((code for code in (41.0, 42.0) if block.has_g(code)), None)
    if side is not None and _may_bend(machine, block):
        beside = _nose(machine, block) if machine.control.turns else _cutter(machine, block)
        machine.bent = (-beside if side == 41.0 else beside, machine.rows.count, block.line)


def _cutter(machine: MachineState, block: Block) -> float:
    """How far beside an outline the middle of the cutter is kept."""
    number, known = block.word("D"), machine.control.diameters
    index = machine.tool if number is None else int(number)
    if index not in known and index != 0:
        machine.say(block.line, "compensation", tr("Diameter offset D{index} has no value.", index=index), block.column("D"))
    elif index not in (machine.tool, 0):
        text = tr("Diameter offset D{index} with T{tool} in the spindle.", index=index, tool=machine.tool)
        machine.say(block.line, "compensation", text, block.column("D"), "caution")
    return known.get(index, 0.0) / 2


def _nose(machine: MachineState, block: Block) -> float:
    """The same of an insert's nose."""
    if machine.tool not in machine.control.noses:
        machine.say(block.line, "compensation", tr("No tool is known here whose nose could be allowed for."), block.column("G"))
    return machine.control.noses.get(machine.tool, (0.0, (0.0, 0.0)))[0]


def _may_bend(machine: MachineState, block: Block) -> bool:
    """May compensation begin here? Not while it is on, and in its own plane only."""
    if machine.bent is not None:
        machine.say(block.line, "compensated-twice", tr("Compensation is on already; G40 comes first."), block.column("G"))
        return False
    plane = machine.manner.bends_in
    if machine.state[S_PLANE] != plane:
        text = tr("Compensation works in G{plane:g} here, not in G{state:g}.", plane=plane, state=machine.state[S_PLANE])
        machine.say(block.line, "compensated-plane", text, block.column("G"))
        return False
    return True


def unbend(machine: MachineState) -> None:
    """Ends compensation: the rows since it began are moved off the outline."""
    if machine.bent is None:
        return
    distance, begin, said = machine.bent
    machine.bent = None
    rows = machine.rows.data[begin : machine.rows.count].copy()
    if abs(distance) < machine.loose / 1000 or len(rows) < 2:
        return
    if machine.cut is not None and machine.cut[0] > begin:
        machine.cut = (begin, machine.cut[1])
    _too_tight(machine, rows, distance)
    if not machine.control.turns and (rows[1:, 1] < 1.0).any():
        machine.say(said, "compensation", tr("A rapid while the tool runs beside the outline."), level="caution")
    fresh = _beside(machine, rows, distance)
    if fresh is None:
        machine.say(said, "compensation", tr("The {beside} finds no way along this outline.", beside=tr(machine.manner.beside)))
        return
    machine.rows.replaced(begin, fresh)
    machine.gaps.append(machine.rows.count)


def _too_tight(machine: MachineState, rows: Floats, distance: float) -> None:
    """Inside arcs that what runs beside them does not fit into: a control stops there."""
    for row in rows:
        centre_right = row[1] == 2.0  # of a clockwise arc, seen along the way
        if row[1] < 2.0 or centre_right != (distance > 0):
            continue
        u, v = (2, 3) if row[11] == 17.0 else (4, 2)
        radius = float(np.hypot(row[u] - row[8], row[v] - row[9]))
        if radius < abs(distance) - machine.loose / 10:
            what = tr(machine.manner.beside)
            text = tr(
                "The {what} does not fit into this inside arc: R{radius:.4g}, it needs {distance:.4g}.",
                what=what,
                radius=radius,
                distance=abs(distance),
            )
            machine.say(int(row[0]), "compensated-arc", text)


def _beside(machine: MachineState, rows: Floats, distance: float) -> Floats | None:
    """The rows beside the outline, of a turning tool those of its point; None when there is no way."""
    if not machine.control.turns:
        return bent(rows, distance, MILLED)
    _, (cz, cr) = machine.control.noses.get(machine.tool, (0.0, (0.0, 0.0)))
    return bent(rows, distance, TURNED, (-cz, -cr))


COMPENSATION = Handler(frozenset((40.0, 41.0, 42.0)), _compensation)
