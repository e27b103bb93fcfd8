"""A program is started: read as the control is set, from its begin or from a line on, with what it will do first."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from bastler.language import sayable, tr
from bastler.link import messages as m
from bastler.machines import MachineCard
from bastler.nc import RAPID, Control, Event, Trace, read
from bastler.nc.trace import about_axis
from bastler.shapes.kinds import Floats
from bastler.standin.machine import Machine, Refused, does
from bastler.standin.run import Run, chained, in_machine, loads_of, set_by, write
from bastler.standin.workpiece import Mistake, Place, Workpiece
from bastler.units import Kind, scale, with_unit

WAYS_OUT = sayable({
    (False, 2): "Z goes home in rapid", (True, 0): "X goes home in rapid, then Z", (True, 2): "Z goes home in rapid, then X",
})  # fmt: skip
ROUNDED_MM = 0.005
"""A program says places rounded: the end of a travel is reached as it is said."""
SAFE_MM = 1.0
"""So far from turned work a program may be taken up."""


@does(m.Start)
def _start(machine: Machine, asked: m.Start) -> dict[str, Any]:
    machine.needs("ready")
    piece = machine.need_piece()
    if not machine.program:
        raise Refused(tr("No program is chosen."))
    lines = machine.text_of(machine.program).splitlines()
    control = machine.control()
    trace = _read(machine, piece, lines, control, asked)
    trace, ways = _taken_up(machine, piece, trace, control, asked)
    if asked.look:
        return {"ways": ways, "line": next((int(k) + 1 for k in trace.line.tolist() if k >= 0), 0)}
    tools = {n: machine.stations[n] for n in np.unique(trace.tool).tolist() if n in machine.stations}
    proof, mistakes = piece.ahead(trace, tools)
    mistakes += _beyond(machine.card, trace, control.reaches)
    machine.run = Run(
        machine.program,
        lines,
        trace,
        machine.card,
        tools,
        control.reaches,
        mistakes=sorted(mistakes, key=lambda w: (w.move, w.share)),
        loads=loads_of(proof, len(proof.trace) - len(trace), len(trace)),
        breaks=_breaks(machine, piece, trace) if not asked.dry else {},
        ends_with=_unknown(trace),
        dry=asked.dry > 0.0,
    )
    machine.mode, machine.said, machine.touching = "running", "", False
    return {"ways": ways, "seconds": machine.run.left}


def _read(machine: Machine, piece: Workpiece, lines: Sequence[str], control: Control, asked: m.Start) -> Trace:
    """The program as tips go in the machine; Refused where it moves nothing, or what it does is not followed."""
    trace = read("\n".join(lines), control, skip_deleted=bool(machine.switches.block_delete))
    if not len(trace):
        first = next((f for f in trace.findings if f.level == "stop"), None)
        raise Refused(
            tr("Line {line}: {text}", line=first.line, text=first.text) if first else tr("The program does not move anything.")
        )
    if any(o.turn for o in machine.offsets.values()) and ((trace.turn != 0.0) & (trace.plane != 17)).any():
        raise Refused(tr("An arc outside the plane of X and Y is not followed under a turned offset."))
    lift = (asked.dry, 0.0, 0.0) if machine.card.turns else (0.0, 0.0, asked.dry)
    reach = np.array([control.reaches.get(int(tool), (0.0, 0.0, 0.0)) for tool in trace.tool.tolist()])
    card = machine.card
    return in_machine(trace, lines, control.part, machine.offsets, lift, np.array((card.x.hi, card.y.hi, card.z.hi)) - reach)


def _taken_up(machine: Machine, piece: Workpiece, trace: Trace, control: Control, asked: m.Start) -> tuple[Trace, list[str]]:
    """A program from where it is to begin to where it is to end, with the way to its begin, and that way in words."""
    row = _row_at(trace, asked.line - 1, asked.time) if asked.line else 0
    if asked.to:
        trace = _up_to(trace, row, asked.to - 1)
    row = _safe_row(machine, piece, trace, row)
    if row:
        whole, ways = _with_way_in(machine, trace, row, control)
    else:
        before, ways = _way_home(machine, int(trace.offset[0]), control)
        whole, ways = _told_as(trace, [before, trace]), [*ways, tr("then the program from its begin")]
    x, y, z = machine.axes.tolist()
    return chained(whole, control.reaches, (x, y, z)), ways


def _breaks(machine: Machine, piece: Workpiece, trace: Trace) -> dict[int, int]:
    """The moves in which a tool breaks, with its station; a fault that is taken up is over."""
    found = {}
    for fault in [f for f in machine.faults if f.what == "break"]:
        if (at := _hole_row(trace, piece, fault)) is not None:
            found[at] = fault.station
            machine.faults.remove(fault)
    return found


def _beyond(card: MachineCard, trace: Trace, reaches: Mapping[int, Place]) -> list[Mistake]:
    """The first move on which an axis would leave its travel: the control does not begin it."""
    reach = np.array([reaches.get(int(tool), (0.0, 0.0, 0.0)) for tool in trace.tool.tolist()])
    low, high = (places + reach for places in trace.extremes)
    hair = ROUNDED_MM * scale("mm", card.unit)
    found = []
    for axis, name, travel in card.travels:
        over = np.maximum(high[:, axis] - travel.hi, travel.lo - low[:, axis])
        over[trace.stands & (axis < 2)] = 0.0  # C and X together: the work turns, the axis does not go so far
        rows = np.flatnonzero(over > hair)
        if len(rows):
            text = tr(
                "{name} would leave its travel by {over}.",
                name=name,
                over=with_unit(float(over[rows[0]]), Kind.LENGTH, card.unit),
            )
            found.append(Mistake(int(rows[0]), 0.0, "over-travel", text))
    return found


def _up_to(trace: Trace, row: int, line: int) -> Trace:
    """A program as far as it comes to a line behind a row, and a way out of the part from there."""
    rows = np.flatnonzero(trace.line[row:] >= line)
    if not len(rows) or not rows[0]:
        return trace
    end = row + int(rows[0])
    return replace(trace.between(0, end), events=tuple(e for e in trace.events if e.at <= end and e.line < line))


def _unknown(trace: Trace) -> str:
    """What is said of the word at which the control stands still; empty where it knows all."""
    if not trace.cut:
        return ""
    stops = [f for f in trace.findings if f.level == "stop"]
    finding = next((f for f in stops if f.line == trace.cut), stops[0] if stops else None)
    return tr("{text} Line {cut}.", text=finding.text if finding else tr("A word is not known."), cut=trace.cut)


def _row_at(trace: Trace, line: int, time: int) -> int:
    """The first row of a line, the so many th time that the program comes to it; of a line that moves nothing that of the next
    one that does."""
    lines = trace.line
    begins = np.flatnonzero((lines == line) & np.concatenate([[True], lines[1:] != lines[:-1]])[: len(lines)])
    starts = [k for k in begins.tolist() if k == 0 or lines[k - 1] != line]
    if len(starts) >= time:
        return int(starts[time - 1])
    behind = np.flatnonzero(lines > line)
    if starts or not len(behind):
        often = tr("The program does not come to line {line} that often.", line=line + 1)
        raise Refused(often if starts else tr("Nothing moves behind that line."))
    return int(behind[0])


def _safe_row(machine: Machine, piece: Workpiece, trace: Trace, row: int) -> int:
    """The last row up to one that can be taken up: it begins clear of the part, with a rapid."""
    places = piece.from_machine(trace.start)
    safe = SAFE_MM * machine.mm
    scene: Any = piece.scene
    while row > 0:
        x, y, z = places[row].tolist()
        if machine.card.turns:
            _, _, front, outer = scene.raw.bounds
            clear = math.hypot(x, y) >= outer + safe or z >= front
        else:
            clear = z >= scene.stock.hi[2]
        if trace.kind[row] == RAPID and clear:
            return row
        row -= 1
    return 0


def _with_way_in(machine: Machine, trace: Trace, row: int, control: Control) -> tuple[Trace, list[str]]:
    """The rest of a program from a row, with the way to its begin before it, and that way in words."""
    station, offset = int(trace.tool[row]), int(trace.offset[row])
    reach = control.reaches.get(station)
    if reach is None:
        raise Refused(tr("Station {station} is empty.", station=station))
    start, new = trace.start[row], np.array(reach)
    sets = [(index, place) for at, index, place in set_by(trace) if at <= row]
    offsets = dict(machine.offsets)
    for index, place in sets:
        write(offsets, index, place)
    angle = float(trace.angle[row, 0])
    if trace.stands[row]:  # the work has turned with C, the axes have not
        start = about_axis(start[None], -math.radians(angle))[0]
    before, ways = _way_home(machine, offset, control, part_way=not machine.card.turns)
    home = np.array(machine.card.home, float)
    out = home if machine.card.turns else np.array([machine.axes[0], machine.axes[1], home[2]])
    speed = float(trace.speed[row])
    if station != machine.tool:
        ways.append(tr("T{station} comes", station=station))
    if speed:
        ways.append(tr("the spindle turns {speed:.0f} times a minute", speed=speed))
    begin = out - new
    over = np.array([start[0], start[1], begin[2]]) if not machine.card.turns else np.array([begin[0], start[1], start[2]])
    then = Trace.straight(np.array([begin, over, start]), tool=station, offset=offset, speed=speed)
    where = _counted(machine, start + new, station, offsets.get(offset, m.WorkOffset(offset)))
    if trace.stands[row]:
        ways.append(tr("C to {angle:.3f}°", angle=angle))
    if machine.card.turns:
        ways += [tr("Z to {z:.3f}", z=where[2]), tr("X to Ø {x:.3f}", x=2 * where[0])]
    else:
        ways += [
            tr("over X {where:.3f} Y {where_2:.3f}", where=where[0], where_2=where[1]),
            tr("down to Z {where:.3f}", where=where[2]),
        ]
    ways.append(tr("on with line {int}", int=int(trace.line[row]) + 1))
    rest = trace.between(row, len(trace))
    events = tuple(msgspec.structs.replace(e, at=e.at - row) for e in trace.events if e.at > row)
    rest = replace(rest, events=events)
    if station != machine.tool:
        then = replace(then, events=(Event(0, -1, "tool", float(station)),))
    sets_before = tuple(Event(0, -1, "offset", float(index), place) for index, place in sets)
    before = replace(before, events=sets_before)  # a control that is taken up has read what the program wrote before
    return _told_as(trace, [before, then, rest]), ways


def _told_as(trace: Trace, parts: Sequence[Trace]) -> Trace:
    """Parts joined, with what the reader had to say of a program."""
    return replace(Trace.joined(parts), findings=trace.findings, cut=trace.cut, line_count=trace.line_count)


def _way_home(machine: Machine, offset: int, control: Control, *, part_way: bool = False) -> tuple[Trace, list[str]]:
    """The way home before anything else, out of the part first; on a mill, `part_way`, only up."""
    home, reach = np.array(machine.card.home, float), np.array(control.reaches.get(machine.tool, (0.0, 0.0, 0.0)))
    first, off = machine.goes_out_first, machine.off_the_work()
    middle = machine.axes + off
    middle[first] = home[first]
    places = [machine.axes, middle] if part_way else [machine.axes, middle, home]
    if off.any():
        places.insert(1, machine.axes + off)
    ways = [tr(WAYS_OUT[machine.card.turns, first])]
    tips = np.array(places) - reach
    if machine.stands is None:
        return Trace.straight(tips, tool=machine.tool, offset=offset), ways
    found = Trace.straight(about_axis(tips, math.radians(machine.stands)), tool=machine.tool, offset=offset)
    n = len(found)
    return replace(found, stands=np.ones(n, np.bool_), angle=np.full((n, 2), machine.stands)), ways


def _counted(machine: Machine, axes: Floats, station: int, one: m.WorkOffset) -> Place:
    place = axes - np.array(machine.believed().get(station, (0.0, 0.0, 0.0))) - np.array((one.x, one.y, one.z))
    x, y, z = about_axis(place[None], -math.radians(one.turn))[0].tolist()
    return (x, y, z)


def _hole_row(trace: Trace, piece: Workpiece, fault: m.Fault) -> int | None:
    """The row in which a drill goes into its so many th hole."""
    rows = np.flatnonzero((trace.tool == fault.station) & (trace.kind != RAPID))
    places = piece.from_machine(trace.end)
    holes: list[tuple[float, float]] = []
    for k in rows.tolist():
        if trace.end[k, 2] >= trace.start[k, 2]:
            continue
        where = (round(float(places[k, 0]) / piece.mm, 2), round(float(places[k, 1]) / piece.mm, 2))
        if where not in holes:
            holes.append(where)
            if len(holes) == fault.hole:
                return k
    return None
