"""What the control does at once when it is asked: programs, tables, switches, hold and reset."""

from __future__ import annotations

from typing import Any

import msgspec

from bastler.disk import plain_name, read_bounded, write_whole
from bastler.language import tr
from bastler.link import messages as m
from bastler.live.leaving import digest_of
from bastler.standin.hidden import RealTool
from bastler.standin.machine import HANDLERS, LARGEST, MOST_FILES, Machine, Refused, does


@does(m.Hello)
def _hello(machine: Machine, asked: m.Hello) -> dict[str, Any]:
    card = machine.plain_card
    return {
        "protocol": m.PROTOCOL,
        "machine": card.name,
        "card": card.id,
        "unit": machine.unit,
        "turns": card.turns,
        "seed": machine.seed,
        "can": sorted(_tag(kind) for kind in HANDLERS),
        "feeler": {"radius": machine.feeler.radius, "length": machine.feeler.length},
    }


def _tag(kind: Any) -> str:
    return str(kind.__struct_config__.tag)


@does(m.Put)
def _put(machine: Machine, asked: m.Put) -> dict[str, Any]:
    if machine.mode == "off":
        machine.needs("ready")
    if asked.name not in machine.files and len(machine.files) >= MOST_FILES:
        raise Refused(tr("The control's disk is full."))
    data = asked.text.encode("latin-1", "replace")
    if len(data) > LARGEST:
        raise Refused(tr("The control's disk has no room for a program that long."))
    path = machine.files.get(asked.name, machine.disk / f"{len(machine.files) + 1:03d}-{plain_name(asked.name, 'program')}")
    write_whole(path, data)
    machine.files[asked.name] = path
    return {"digest": digest_of(read_bounded(path, LARGEST))}


@does(m.Get)
def _get(machine: Machine, asked: m.Get) -> dict[str, Any]:
    return {"text": machine.text_of(asked.name)}


@does(m.Files)
def _files(machine: Machine, asked: m.Files) -> dict[str, Any]:
    return {"names": sorted(machine.files)}


@does(m.Select)
def _select(machine: Machine, asked: m.Select) -> None:
    machine.needs("ready", "lost")
    machine.text_of(asked.name)
    machine.program = asked.name


@does(m.SetOffset)
def _set_offset(machine: Machine, asked: m.SetOffset) -> None:
    machine.needs("ready", "lost", "held", "stopped")
    old = machine.offsets.get(asked.index)
    if old is None or asked.index < 1:
        raise Refused(tr("There is no work offset {index}.", index=asked.index))
    given = {name: getattr(asked, name) for name in ("x", "y", "z", "turn") if getattr(asked, name) is not None}
    machine.offsets[asked.index] = msgspec.structs.replace(old, **given)


@does(m.SetTool)
def _set_tool(machine: Machine, asked: m.SetTool) -> None:
    machine.needs("ready", "lost", "held", "stopped")
    if asked.number < 1:
        raise Refused(tr("Tool offsets are counted from 1."))
    old = machine.tools.get(asked.number, m.ToolOffset(asked.number))
    names = ("x", "z", "diameter", "wear_x", "wear_z", "wear_diameter")
    given = {name: getattr(asked, name) for name in names if getattr(asked, name) is not None}
    machine.tools[asked.number] = msgspec.structs.replace(old, **given)


@does(m.Tables)
def _tables(machine: Machine, asked: m.Tables) -> dict[str, Any]:
    return {
        "offsets": [msgspec.to_builtins(o) for o in machine.offsets.values()],
        "tools": [msgspec.to_builtins(t) for t in machine.tools.values()],
        "stations": sorted(machine.stations),
        "broken": sorted(machine.broken),
    }


@does(m.Switches)
def _switches(machine: Machine, asked: m.Switches) -> None:
    names = ("single", "optional_stop", "block_delete", "feed", "rapid", "spindle")
    given = {name: getattr(asked, name) for name in names if getattr(asked, name) is not None}
    machine.switches = msgspec.structs.replace(machine.switches, **given)


@does(m.Pace)
def _pace(machine: Machine, asked: m.Pace) -> None:
    machine.pace = asked.times


@does(m.Fault)
def _fault(machine: Machine, asked: m.Fault) -> None:
    machine.needs("ready", "lost")
    if asked.what != "wear":
        machine.faults.append(asked)
        return
    real = machine.stations.get(asked.station)
    if real is None:
        raise Refused(tr("Station {station} is empty.", station=asked.station))
    machine.ever += 1
    machine.stations[asked.station] = RealTool(real.tool, real.gives + asked.by, asked.station + 1000 * machine.ever)


@does(m.Hold)
def _hold(machine: Machine, asked: m.Hold) -> None:
    machine.needs("running", "held")
    machine.mode, machine.said = "held", "Held"


@does(m.Resume)
def _resume(machine: Machine, asked: m.Resume) -> None:
    machine.needs("held", "stopped")
    machine.mode, machine.said = "running", ""


@does(m.Reset)
def _reset(machine: Machine, asked: m.Reset) -> None:
    if machine.mode == "off":
        machine.needs("ready")
    machine.give_up()
    machine.by_hand.clear()
    machine.wanted_speed, machine.coolant = 0.0, False
    if machine.mode != "lost":
        machine.mode, machine.said = "ready", ""


@does(m.PowerOn)
def _power_on(machine: Machine, asked: m.PowerOn) -> None:
    machine.needs("off")
    machine.mode = "lost"
    machine.said = tr("{said} Send the axes home: that along the tool goes first.", said=machine.said).strip()
