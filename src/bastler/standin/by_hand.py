"""What somebody does at the machine: clamps stock, puts tools in, moves axes, measures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import msgspec
import numpy as np

from bastler.job import read_job_text
from bastler.language import tr
from bastler.link import messages as m
from bastler.nc import Trace
from bastler.shapes.kinds import Floats
from bastler.standin.machine import Machine, Refused, does
from bastler.standin.manual import Leg, leg, nothing, waits
from bastler.standin.run import told
from bastler.standin.workpiece import Ball, Place, Workpiece, reach_of
from bastler.tools import AnyTool, Tool

JOG_MM, FEEL_MM = 1200.0, 300.0
"""Feeds a minute by hand, and where the tool feels its way."""
AFTER_HAND_MM = 0.15
"""A step by hand no longer than that stops where the tool touches; a longer one runs into the work."""


@does(m.Clamp)
def _clamp(machine: Machine, asked: m.Clamp) -> dict[str, Any]:
    machine.needs("ready", "lost")
    job = read_job_text(msgspec.json.encode(asked.job))
    if job.card.turns != machine.card.turns:
        raise Refused(tr("That job is for another kind of machine."))
    machine.count_in(job.unit)
    machine.piece = Workpiece(job, asked.holding, machine.parts + 1, machine.hidden)
    machine.new_piece()
    for part in machine.piece.scene.control.offsets:
        machine.offsets.setdefault(part, m.WorkOffset(part))
    return {"part": machine.parts}


def _tools_of(piece: Workpiece, asked: m.Load) -> dict[str, AnyTool]:
    """The tools there are by their ids, in the unit of the job that was clamped."""
    if asked.job is None:
        return {t.id: t for t in piece.scene.tools.values()}
    job = read_job_text(msgspec.json.encode(asked.job))
    return {t.id: t.in_unit(piece.scene.unit) for t in job.tools}


@does(m.Load)
def _load(machine: Machine, asked: m.Load) -> None:
    machine.needs("ready", "lost")
    piece = machine.need_piece()
    held = piece.plan.holdings[piece.place]
    own = _tools_of(piece, asked).get(asked.tool)
    if own is None:
        raise Refused(tr("The job has no tool {tool} in this holding.", tool=asked.tool))
    if not 1 <= asked.station <= held.ctx.card.stations:
        raise Refused(tr("There is no station {station}.", station=asked.station))
    first = machine.goes_out_first
    if asked.station == machine.tool and abs(float(machine.axes[first]) - machine.card.home[first]) > 0.01 * machine.mm:
        raise Refused(tr("T{station} is in work, and not at home: send the axes home first.", station=asked.station))
    machine.ever += 1
    real = machine.hidden.tool(own, machine.ever)
    machine.stations[asked.station] = replace(real, number=asked.station + 1000 * machine.ever)
    machine.broken.discard(asked.station)
    if (old := machine.tools.get(asked.station)) is not None:  # a fresh edge has not cut yet
        machine.tools[asked.station] = msgspec.structs.replace(old, minutes=0.0, pieces=0)


@does(m.Home)
def _home(machine: Machine, asked: m.Home) -> None:
    machine.needs("ready", "lost")
    was_lost = machine.mode == "lost"

    def there() -> None:
        if was_lost:
            machine.said = ""

    machine.by_hand += _way_out(machine, there)
    machine.mode, machine.touching = "jogging", False


def _way_out(machine: Machine, over: Callable[[], None] = nothing) -> list[Leg]:
    """Home, out of the part first."""
    home, card = np.array(machine.card.home, float), machine.card
    first = machine.goes_out_first
    off = machine.off_the_work()
    way = home - machine.axes - off
    alone = np.zeros(3)
    alone[first] = way[first]
    return [leg(w, card.rapid, card.acceleration, then) for w, then in ((off, nothing), (alone, nothing), (way - alone, over))]


@does(m.TakeUp)
def _take_up(machine: Machine, asked: m.TakeUp) -> None:
    machine.needs("ready")
    if asked.station and asked.station not in machine.stations:
        raise Refused(tr("Station {station} is empty.", station=asked.station))
    if not asked.station and machine.card.turns:
        raise Refused(tr("A turret has no feeler: touch with the tools themselves."))

    def comes() -> None:
        machine.tool = machine.number = asked.station

    if machine.wanted_speed and not machine.card.turns:
        machine.wanted_speed = 0.0
    machine.by_hand += [*_way_out(machine), waits(machine.card.tool_change_time, comes)]
    machine.mode, machine.touching = "jogging", False


@does(m.Turn)
def _turn(machine: Machine, asked: m.Turn) -> None:
    machine.needs("ready", "jogging")
    if abs(asked.speed) > machine.card.speed[1]:
        raise Refused(tr("The spindle ends at {speed:g} turns a minute.", speed=machine.card.speed[1]))
    if asked.speed and machine.tool == 0 and not machine.card.turns:
        raise Refused(tr("The feeler is in the spindle: it must not turn."))
    machine.wanted_speed = asked.speed


@does(m.Jog)
def _jog(machine: Machine, asked: m.Jog) -> dict[str, Any]:
    """The way is known when it begins: as far as it is free, or to the end of the travel."""
    machine.needs("ready")
    axis = "xyz".index(asked.axis)
    travel = next((t for k, _, t in machine.card.travels if k == axis), None)
    if travel is None:
        raise Refused(tr("This machine has no axis {upper}.", upper=asked.axis.upper()))
    at = float(machine.axes[axis])
    by = min(max(at + asked.by, travel.lo), travel.hi) - at
    if asked.by and abs(by) < 1e-9 * machine.mm:
        raise Refused(tr("{upper} is at the end of its travel.", upper=asked.axis.upper()))
    way = np.zeros(3)
    way[axis] = by
    cuts = abs(machine.wanted_speed) > 0.0
    tool, free, meets = machine.tool_now(), 1.0, False
    if tool is not None and machine.piece is not None and not cuts:
        x, y, z = way.tolist()
        free, meets = machine.piece.free_way(tool, machine.tip(), (x, y, z))
        if free == 0.0 and _leaves(machine, tool, way):
            free, meets = 1.0, False
    feed = machine.card.rapid / 2 if asked.fast else (FEEL_MM if asked.feel else JOG_MM) * machine.mm
    begins = machine.tip()

    def over() -> None:
        machine.touching = meets
        if meets and not asked.feel and abs(by) * (1.0 - free) > AFTER_HAND_MM * machine.mm:
            machine.alarm(tr("The feeler ran into something and broke.") if isinstance(tool, Ball) else tr("Ran into the work."))
        if cuts and machine.piece is not None and tool is not None:
            _cut_by_hand(machine, begins, feed)

    machine.touching = False
    machine.by_hand.append(leg(way * free, feed, machine.card.acceleration, over))
    machine.mode = "jogging"
    return {"meets": meets}


def _leaves(machine: Machine, tool: AnyTool | Ball, way: Floats) -> bool:
    """Does a way lead off what is touched? A little on nothing is touched any more."""
    length = float(np.linalg.norm(way))
    if length <= 0.0 or machine.piece is None:
        return True
    little = way / length * min(length, 0.01 * machine.mm)
    tip = machine.tip()
    return not machine.piece.touches(tool, (tip[0] + little[0], tip[1] + little[1], tip[2] + little[2]))


def _cut_by_hand(machine: Machine, begins: Place, feed: float) -> None:
    """With the spindle turning a tool that is moved by hand cuts."""
    station, piece = machine.tool, machine.piece
    real = machine.stations.get(station)
    if real is None or piece is None:
        return
    speed = abs(machine.wanted_speed)
    trace = Trace.straight(np.array([begins, machine.tip()]), tool=station, kind=1, feed=feed, speed=speed, offset=machine.offset)
    piece.cut(trace, {station: real})
    machine.went += told(trace, machine.believed(), {station: reach_of(real.tool)}, machine.offsets)


@does(m.Measure)
def _measure(machine: Machine, asked: m.Measure) -> dict[str, Any]:
    """How far every end stands out, all with the scatter of one measurement."""
    machine.needs("ready", "alarm", "lost")
    piece = machine.need_piece()
    offs = piece.offs(piece.ends_on(asked.ends, asked.offset), asked.within, round_=asked.round)
    found = []
    for off in offs:
        machine.measured += 1
        found.append(off + machine.hidden.scatter(machine.measured) / len(offs) ** 0.5)
    return {"offs": found}


@does(m.Preset)
def _preset(machine: Machine, asked: m.Preset) -> dict[str, Any]:
    machine.needs("ready", "lost", "held", "stopped")
    real = machine.stations.get(asked.station)
    if real is None:
        raise Refused(tr("Station {station} is empty.", station=asked.station))
    machine.measured += 1
    by = machine.hidden.scatter(machine.measured)
    x, _, z = reach_of(real.tool)
    diameter = real.tool.diameter if isinstance(real.tool, Tool) else 0.0
    return {"x": x + by, "z": z + by, "diameter": diameter}
