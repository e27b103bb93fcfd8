"""The stand-in: what it says of itself is true, what it hides comes out by touching and measuring, and nothing breaks it."""

from __future__ import annotations

import json
import math
import os
import random
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job.samples import sample
from bastler.link import messages as m
from bastler.link.plain import Link, LinkError
from bastler.link.touching import (
    Contact,
    NoTouch,
    tool_across,
    tool_length,
    turned_by,
    width_between,
    zero_along,
    zero_in_plan,
)
from bastler.live.gauging import gauges
from bastler.live.grown import Grower
from bastler.live.restarts import restarts
from bastler.machines.cards import CARDS
from bastler.proof import JobProof, prove_whole
from bastler.proof.gauge import Gauge, GaugeEnd, correction, standing
from bastler.standin.control import HANDLERS, Machine
from bastler.standin.hidden import Hidden
from bastler.tools import TurnTool
from shift import Shift, sound

KINDS: list[Any] = list(HANDLERS)
ONE_SPINDLE = ("winch-base", "pawl-plate", "fixture-of-six", "drum-spindle", "gland-nut", "pawl-shaft")


@pytest.fixture(scope="module")
def proofs() -> dict[str, JobProof]:
    """Proofs of samples that were asked for, each made once."""
    return {}


def proved(shift: Shift, proofs: dict[str, JobProof]) -> JobProof:
    name = shift.job.name
    if name not in proofs:
        proofs[name] = prove_whole(shift.plan)
    return proofs[name]


def as_planned(shift: Shift) -> None:
    """All offsets as the job takes them to be."""
    for index, (x, y, z) in shift.scene.control.offsets.items():
        shift.do(m.SetOffset(index=index, x=x, y=y, z=z))
    for number, (x, _, z) in shift.scene.control.tool_offsets.items():
        shift.do(m.SetTool(number=number, x=x, z=z, diameter=shift.scene.control.diameters.get(number, 0.0)))


def ready(name: str, folder: Path, seed: int = 0) -> Shift:
    """A machine with a sample clamped, its tools in, its program sent."""
    shift = Shift(sample(name), folder, seed)
    shift.clamp()
    shift.load()
    shift.send()
    return shift


# -- the truth ------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ONE_SPINDLE)
def test_where_nothing_is_hidden_the_part_is_that_of_the_proof(name: str, tmp_path: Path, proofs: dict[str, JobProof]) -> None:
    shift = ready(name, tmp_path)
    as_planned(shift)
    assert shift.run() == "ready", shift.machine.said
    piece = shift.machine.piece
    assert piece is not None
    made, planned = piece.now(), proved(shift, proofs).holdings[0]
    assert made is not None
    assert made.removed == pytest.approx(planned.removed, rel=1e-4)
    assert shift.machine.done == 1
    found = gauges(shift.held, proved(shift, proofs).holdings[0])
    sound(found)
    measured = {gauge.id: shift.size(gauge) for gauge in found if gauge.ends}
    assert len(measured) >= 2
    assert measured == pytest.approx({g.id: g.nominal for g in found if g.ends}, abs=0.002 * shift.machine.mm)


@pytest.mark.parametrize("name", ["winch-base", "drum-spindle", "pawl-shaft"])
def test_what_it_reports_are_the_moves_of_the_program(name: str, tmp_path: Path, proofs: dict[str, JobProof]) -> None:
    """Wherever the stock lies and however long tools are: a control that was set up right counts as the program says."""
    shift = ready(name, tmp_path, 5)
    (shift.touch_off_lathe if shift.scene.card.turns else shift.touch_off_mill)()
    assert shift.run() == "ready", shift.machine.said
    trace = proved(shift, proofs).holdings[0].trace
    went = [move for move in shift.machine.went if move.line > 0]
    assert [move.line - 1 for move in went] == trace.line.tolist()
    ends = np.array([move.end for move in went])
    # where a program names no place the axes are still where the machine was before: that is elsewhere on every one
    low = trace.end[:, 2] < shift.scene.stock.hi[2] + 60.0 if not shift.scene.card.turns else np.abs(trace.end).max(axis=1) < 60.0
    assert low.sum() > len(trace) * 0.8
    assert np.abs(ends - trace.end)[low].max() < 2e-3 * shift.machine.mm


def test_a_seed_makes_all_that_is_hidden_repeatable() -> None:
    one, two, other = Hidden(3, "mm"), Hidden(3, "mm"), Hidden(4, "mm")
    tool = sample("winch-base").tools[0]
    assert one.lies(1, turned=False) == two.lies(1, turned=False) != other.lies(1, turned=False)
    assert one.tool(tool, 5) == two.tool(tool, 5) != other.tool(tool, 5)
    assert [one.scatter(k) for k in range(5)] == [two.scatter(k) for k in range(5)]
    assert Hidden(0, "mm").tool(tool, 5).tool == tool


def test_what_is_hidden_is_the_same_in_inches() -> None:
    mm, inch = (Hidden(9, unit).lies(2, turned=False) for unit in ("mm", "inch"))
    assert [a / 25.4 for a in mm.shift] == pytest.approx(list(inch.shift))
    assert mm.turn == pytest.approx(inch.turn)


def test_one_that_was_not_touched_off_crashes_or_is_said_to_leave_its_travel(tmp_path: Path) -> None:
    shift = ready("winch-base", tmp_path, 7)
    assert shift.run() == "alarm"
    assert shift.machine.said


def test_rapid_into_the_stock_is_a_bang_at_its_line_and_breaks_the_tool(tmp_path: Path) -> None:
    shift = ready("winch-base", tmp_path)
    as_planned(shift)
    shift.do(m.SetTool(number=2, z=shift.machine.tools[2].z - 30.0))  # taken for shorter than it is: too deep
    assert shift.run() == "alarm"
    assert "Line" in shift.machine.said
    assert 2 in shift.machine.broken
    assert shift.refused(m.Start()).startswith("There is an alarm")
    shift.do(m.Reset())
    assert shift.machine.mode == "ready"


# -- touching off ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("name", "seed"), [("winch-base", 7), ("winch-base", 21), ("pawl-plate", 4)])
def test_touching_finds_how_a_block_lies(name: str, seed: int, tmp_path: Path) -> None:
    shift = ready(name, tmp_path, seed)
    shift.touch_off_mill()
    piece, found = shift.machine.piece, shift.machine.offsets[1]
    assert piece is not None
    micron = 0.001 * shift.machine.mm
    assert found.turn == pytest.approx(piece.lies.turn, abs=1e-4)
    assert (found.x, found.y) == pytest.approx(piece.zero[:2], abs=micron)
    assert found.z == pytest.approx(piece.zero[2] + piece.lies.more, abs=micron)  # the top of the block is that much higher
    for station, real in shift.machine.stations.items():
        assert shift.machine.tools[station].z == pytest.approx(real.tool.length, abs=micron)


@pytest.mark.parametrize("name", ["drum-spindle", "gland-nut"])
def test_touching_finds_a_bar_and_the_tools_of_a_turret(name: str, tmp_path: Path) -> None:
    shift = ready(name, tmp_path, 11)
    shift.touch_off_lathe()
    mm = shift.machine.mm
    for station, real in shift.machine.stations.items():
        if isinstance(real.tool, TurnTool):
            assert shift.machine.tools[station].x == pytest.approx(real.tool.length_x, abs=0.005 * mm)
    piece = shift.machine.piece
    assert piece is not None
    assert shift.machine.offsets[1].z == pytest.approx(piece.zero[2] + piece.lies.more / 2, abs=0.005 * mm)


def test_a_step_by_hand_stops_where_it_touches_and_a_long_one_breaks_the_feeler(tmp_path: Path) -> None:
    shift = ready("winch-base", tmp_path)
    as_planned(shift)
    shift.take_up(0)
    shift.over(75.0, 50.0)
    top = shift.scene.zero[2] + shift.scene.stock.hi[2] + shift.machine.feeler.length
    shift.jog_to("z", top + 0.05)
    assert shift.jog("z", -0.1)
    assert shift.machine.touching
    assert shift.machine.axes[2] == pytest.approx(top, abs=1e-3)
    assert not shift.jog("z", 5.0)
    assert not shift.machine.touching
    shift.do(m.Jog(axis="z", by=-20.0))
    shift.wait()
    assert shift.machine.mode == "alarm"
    assert "feeler" in shift.machine.said


@given(turn=st.floats(-3.0, 3.0), x=st.floats(-300, 300), y=st.floats(-300, 300), r=st.floats(0.1, 6.0), a=st.floats(-50, 50))
def test_a_corner_is_found_whatever_it_is_turned_by(turn: float, x: float, y: float, r: float, a: float) -> None:
    """Against the geometry: a ball that touches a slanted face with its middle on a line along an axis."""
    t = math.radians(turn)
    ux, uy = np.array((math.cos(t), math.sin(t))), np.array((-math.sin(t), math.cos(t)))
    zero = np.array((x, y))

    def middle(normal: Any, along: Any, axis: int, other: float) -> tuple[float, float, float]:
        """Where a ball's middle stands that touches a face from outside, going along an axis at a place of the other."""
        face = zero + a * normal
        s = (other - (face - r * normal)[1 - axis]) / along[1 - axis]
        p = face - r * normal + s * along
        return (float(p[0]), float(p[1]), 0.0)

    front = [Contact(middle(uy, ux, 1, x + d), "y", 1.0, r) for d in (10.0, 60.0)]
    side = Contact(middle(ux, uy, 0, y + 30.0), "x", 1.0, r)
    found = turned_by(*front)
    assert found == pytest.approx(turn, abs=1e-6)
    got = zero_in_plan({"x": ([side], a), "y": ([front[0]], a)}, found, m.WorkOffset(1))
    assert got == pytest.approx((x, y), abs=1e-5)


def test_middles_lengths_and_widths_from_contacts() -> None:
    left, right = Contact((-18.0, 0.0, 0.0), "x", -1.0, 2.0), Contact((22.0, 0.0, 0.0), "x", 1.0, 2.0)
    assert width_between(left, right) == pytest.approx(44.0)
    x, y = zero_in_plan({"x": ([left, right], 0.0)}, 0.0, m.WorkOffset(1, y=7.0))
    assert (x, y) == pytest.approx((2.0, 7.0))
    down = Contact((0.0, 0.0, -210.0), "z", -1.0)
    assert zero_along(down, 80.0, 1.0) == pytest.approx(-291.0)
    assert tool_length(down, -291.0, 1.0) == pytest.approx(80.0)
    assert tool_across((79.0, 0.0, 0.0), 38.0) == pytest.approx(60.0)
    with pytest.raises(NoTouch, match="apart"):
        turned_by(Contact((0.0, 0.0, 0.0), "y", 1.0), Contact((0.0, 1.0, 0.0), "y", 1.0))
    with pytest.raises(NoTouch, match="both along"):
        turned_by(left, Contact((0.0, 0.0, 0.0), "y", 1.0))
    with pytest.raises(NoTouch, match="two sides"):
        width_between(left, left)


# -- a whole shift --------------------------------------------------------------------------------------------------


def known(shift: Shift, proofs: dict[str, JobProof]) -> dict[str, Gauge]:
    found = gauges(shift.held, proved(shift, proofs).holdings[0])
    return {f"{g.title}/{g.says}": g for g in found}


def test_a_shift_at_the_mill(tmp_path: Path, proofs: dict[str, JobProof]) -> None:
    """Touched off, a drill breaks at hole 3, on at hole 4, measured, corrected; the second part is what was aimed at."""
    shift = ready("winch-base", tmp_path, 7)
    shift.touch_off_mill()
    shift.do(m.Fault(what="break", station=7, hole=3))
    assert shift.run() == "alarm"
    assert "T7" in shift.machine.said
    assert "broken" in shift.machine.said
    shift.do(m.Reset())
    assert "home first" in shift.refused(m.Load(station=7, tool=shift.scene.tools[7].id))
    shift.do(m.Home())
    shift.wait()
    shift.do(m.Load(station=7, tool=shift.scene.tools[7].id))
    shift.preset(7)
    places = restarts(proved(shift, proofs).holdings[0])
    fourth = next(r for r in places if r.station == 7 and r.hole == 4)
    shown = shift.do(m.Start(line=fourth.line, time=fourth.time, look=True))["ways"]
    assert any("T7" in way for way in shown) or shift.machine.tool == 7
    assert shown[-1] == f"on with line {fourth.line}"
    assert shift.machine.mode == "ready"  # looking at it moves nothing
    assert shift.run(m.Start(line=fourth.line, time=fourth.time)) == "ready", shift.machine.said
    piece = shift.machine.piece
    assert piece is not None
    deck = [(121.0, 50.0), (98.0, 89.837), (52.0, 89.837), (29.0, 50.0), (52.0, 10.163), (98.0, 10.163)]
    low = [piece._top_under(np.array((x, y, 0.0)), 0.0) for x, y in deck]
    assert [z < -20.0 for z in low] == [True, True, False, True, True, True]

    sizes = known(shift, proofs)
    deep = sizes["Gear well/How deep"]
    first = shift.size(deep)
    assert abs(shift.truth(deep) - deep.aim) > 0.001  # the tool gives way
    found = correction(deep, first, list(sizes.values()))
    assert found is not None
    assert (found.number, found.by) == (2, "z")
    shift.do(m.SetTool(number=2, wear_z=found.amount))
    shift.clamp()
    assert shift.run() == "ready", shift.machine.said
    assert shift.truth(deep) == pytest.approx(deep.aim, abs=0.005)
    assert standing(deep, shift.size(deep)) == "in"


def test_a_shift_at_the_lathe(tmp_path: Path, proofs: dict[str, JobProof]) -> None:
    shift = ready("pawl-shaft", tmp_path, 3)
    shift.touch_off_lathe()
    shift.do(m.Fault(what="break", station=8, hole=3))
    shift.do(m.Fault(what="wear", station=3, by=0.02))
    assert shift.run() == "alarm"
    assert "T8" in shift.machine.said
    shift.do(m.Reset())
    shift.do(m.Home())
    shift.wait()
    shift.do(m.Load(station=8, tool=shift.scene.tools[8].id))
    shift.preset(8)
    places = restarts(proved(shift, proofs).holdings[0])
    fourth = next(r for r in places if r.station == 8 and r.hole == 4)
    assert shift.run(m.Start(line=fourth.line)) == "ready", shift.machine.said

    sizes = known(shift, proofs)
    body = sizes["Rough to an outline/Begins at Ø"]
    first = shift.size(body)
    assert first > body.aim + 0.03  # the worn insert
    found = correction(body, first, list(sizes.values()))
    assert found is not None
    assert (found.number, found.by) == (3, "x")
    moved = dict(found.moves)
    other = sizes["Rough to an outline/Ø, segment 2"]
    assert moved[other.id] == pytest.approx(-(first - body.aim), abs=1e-6)  # the same tool: it moves as far
    shift.do(m.SetTool(number=3, wear_x=found.amount))
    shift.clamp()
    assert shift.run() == "ready", shift.machine.said
    for size in (body, other):
        assert shift.truth(size) == pytest.approx(size.aim, abs=0.005)


def test_only_what_is_needed_is_run_again(tmp_path: Path, proofs: dict[str, JobProof]) -> None:
    """A part that came out too large: its finish alone once more, from its first line to its last."""
    shift = ready("drum-spindle", tmp_path, 7)
    shift.touch_off_lathe()
    text = shift.text.splitlines()
    parting = next(k for k, line in enumerate(text) if "T0505" in line)
    assert shift.run(m.Start(to=parting)) == "ready", shift.machine.said
    sizes = known(shift, proofs)
    collar = sizes["Rough to an outline/Ø, segment 5"]
    first = shift.size(collar)
    found = correction(collar, first, list(sizes.values()))
    assert found is not None
    shift.do(m.SetTool(number=found.number, wear_x=found.amount))
    before = len(shift.machine.went)
    assert shift.run(m.Start(line=found.first + 1, to=found.last + 1)) == "ready", shift.machine.said
    lines = {move.line for move in shift.machine.went[before:] if move.line > 0}
    assert lines <= set(range(found.first + 1, found.last + 1))
    assert shift.truth(collar) == pytest.approx(collar.aim, abs=0.005)


def test_the_power_goes_and_comes_back(tmp_path: Path) -> None:
    shift = ready("winch-base", tmp_path)
    as_planned(shift)
    shift.do(m.Fault(what="power", after=60.0))
    assert shift.run() == "off"
    line = shift.machine.status().line
    assert line > 1
    assert str(line) in shift.machine.said
    assert shift.refused(m.Start()) == "The power is off."
    shift.do(m.PowerOn())
    assert "home" in shift.refused(m.Start())
    shift.do(m.Home())
    shift.wait()
    assert shift.machine.axes.tolist() == pytest.approx(list(shift.machine.card.home))
    assert shift.run(m.Start(line=line)) == "ready", shift.machine.said


# -- running --------------------------------------------------------------------------------------------------------


def test_taking_it_up_goes_out_of_a_bore_along_it_and_out_of_a_groove_toward_the_axis(tmp_path: Path) -> None:
    """Wherever it was stopped: across first, as outside, would take the wall along."""
    shift = ready("gland-nut", tmp_path)
    as_planned(shift)
    machine = shift.machine
    text = shift.text.splitlines()
    relief = next(k for k, line in enumerate(text, 1) if "T0707" in line)
    assert shift.run(m.Start(to=relief)) == "ready", machine.said
    machine.pace = 1.0
    shift.do(m.Start(line=relief))
    piece = machine.piece
    assert piece is not None
    for _ in range(4000):
        machine.tick(0.05)
        x, _, z = piece.from_machine(np.array([machine.tip()]))[0].tolist()
        if machine.run is not None and machine.run.line > relief and z < -0.6 and x > 0.6:
            break
    shift.do(m.Hold())
    machine.tick(0.5)
    shift.do(m.Reset())
    ways = shift.do(m.Start(line=relief, look=True))["ways"]
    assert ways[0] == "Z goes home in rapid, then X"
    machine.pace = 50.0
    assert shift.run(m.Start(line=relief)) == "ready", machine.said


@pytest.fixture
def mill(tmp_path: Path) -> Shift:
    shift = ready("winch-base", tmp_path)
    as_planned(shift)
    shift.machine.pace = 1.0
    return shift


def test_hold_stops_on_a_ramp_and_resume_goes_on(mill: Shift) -> None:
    machine = mill.machine
    mill.do(m.Start())
    machine.tick(20.0)
    assert machine.mode == "running"
    mill.do(m.Hold())
    machine.tick(1.0)
    at = machine.axes.copy()
    machine.tick(5.0)
    assert machine.axes.tolist() == at.tolist()
    assert machine.status().feed == 0.0
    mill.do(m.Resume())
    machine.tick(2.0)
    assert machine.axes.tolist() != at.tolist()


def test_overrides_share_the_feed_and_nought_stands_still(mill: Shift) -> None:
    machine = mill.machine
    mill.do(m.Start())
    machine.tick(16.0)
    full = machine.status().feed
    assert full > 0
    mill.do(m.Switches(feed=0.5, rapid=0.5))
    machine.tick(1.0)
    assert machine.status().feed == pytest.approx(full / 2, rel=0.05)
    mill.do(m.Switches(feed=0.0, rapid=0.0))
    machine.tick(1.0)
    at = machine.axes.copy()
    machine.tick(3.0)
    assert machine.axes.tolist() == at.tolist()


def test_one_block_at_a_time(mill: Shift) -> None:
    machine = mill.machine
    mill.do(m.Switches(single=True))
    mill.do(m.Start())
    lines = []
    for _ in range(6):
        while machine.mode == "running":
            machine.tick(0.1)
        assert (machine.mode, machine.said) == ("held", "One block")
        lines.append(machine.status().line)
        mill.do(m.Resume())
    assert lines == sorted(lines)
    assert len(set(lines)) >= 5


def test_stops_optional_stops_and_block_delete(mill: Shift) -> None:
    text = "G21 G90 G54\nT2 M6\nS1000 M3\nG0 X0 Y0\nM1 (look)\n/G0 X20\nM0 (oil the tap)\nG0 X40\nM30\n"
    machine = mill.machine
    machine.pace = 50.0
    mill.send(text)

    def stops() -> list[str]:
        found = []
        mill.do(m.Start())
        while machine.mode in ("running", "stopped"):
            if machine.mode == "stopped":
                found.append(machine.said)
                mill.do(m.Resume())
            machine.tick(0.05)
        return found

    assert stops() == ["oil the tap"]
    places = {move.line: move.end[0] for move in machine.went}
    assert places[6] == pytest.approx(20.0)
    mill.do(m.Switches(optional_stop=True, block_delete=True))
    before = len(machine.went)
    assert stops() == ["look", "oil the tap"]
    assert 6 not in {move.line for move in machine.went[before:]}


def test_offsets_that_a_program_writes_stay_in_the_table_once_it_has_come_to_their_line(mill: Shift) -> None:
    machine = mill.machine
    machine.pace = 50.0
    x, y, z = (machine.offsets[1].x, machine.offsets[1].y, machine.offsets[1].z)
    mill.do(m.SetOffset(index=1, turn=90.0))
    text = (
        "G21 G90 G54\nT2 M6\nS1000 M3\nG0 X1 Y0\n"
        f"G10 L2 P1 X{x + 5:.3f} Y{y:.3f} Z{z:.3f}\nG0 X3\nM0\nG10 L20 P2 X1\nG0 X4\nG10 L2 P3 X7\nM30\n"
    )
    mill.send(text)
    mill.do(m.Start())
    while machine.mode == "running":
        machine.tick(0.01)
    at = machine.offsets[1]
    assert (at.x, at.y, at.z, at.turn) == pytest.approx((x + 5, y, z, 90.0))
    assert machine.status().places[0] == pytest.approx(3.0)  # it counts from the new zero
    assert machine.tip()[:2] == pytest.approx((x + 5, y + 3), abs=1e-6)  # and is turned about it
    before = machine.offsets[2]
    assert (before.x, machine.offsets[3].x) != (pytest.approx(machine.tip()[0] - 1), 7.0)
    mill.do(m.Resume())
    while machine.mode == "running":
        machine.tick(0.01)
    assert machine.mode == "ready", machine.said
    assert machine.offsets[3].x == 7.0
    assert machine.offsets[2].x != before.x
    assert [move.end[0] for move in machine.went if move.line > 0][-2:] == pytest.approx([3.0, 4.0])


def test_one_that_is_taken_up_behind_such_a_line_has_read_it(mill: Shift) -> None:
    machine = mill.machine
    machine.pace = 50.0
    x, y, z = (machine.offsets[1].x, machine.offsets[1].y, machine.offsets[1].z)
    mill.send(f"G21 G90 G54\nG10 L2 P1 X{x + 5:.3f} Y{y:.3f} Z{z:.3f}\nT2 M6\nG43 H2\nG0 Z100\nG0 X1 Y0\nG0 X3\nM1\nG0 X4\nM30\n")
    ways = mill.do(m.Start(line=7, look=True))["ways"]
    assert "over X 1.000 Y 0.000" in ways, ways
    assert machine.offsets[1].x == x  # looking writes nothing
    mill.do(m.Start(line=7))
    while machine.mode == "running":
        machine.tick(0.01)
    assert machine.offsets[1].x == pytest.approx(x + 5)
    assert [move.end[0] for move in machine.went if move.line > 0] == pytest.approx([3.0, 4.0])


def test_a_dry_run_cuts_nothing_and_stays_over_the_part(mill: Shift) -> None:
    machine, piece = mill.machine, mill.machine.piece
    machine.pace = 100.0
    assert piece is not None
    lowest = math.inf
    mill.do(m.Start(dry=60.0))
    while machine.mode in ("running", "stopped"):
        if machine.mode == "stopped":
            mill.do(m.Resume())
        machine.tick(0.02)
        lowest = min(lowest, machine.tip()[2] - piece.zero[2])
    assert machine.mode == "ready", machine.said
    assert lowest > piece.scene.stock.hi[2]
    assert machine.done == 0
    assert not machine.went
    made = piece.now()
    assert made is None or made.removed == 0.0


def test_a_thread_is_cut_to_its_end_whatever_is_held(tmp_path: Path) -> None:
    shift = ready("drum-spindle", tmp_path)
    as_planned(shift)
    machine = shift.machine
    threads = next(k for k, line in enumerate(shift.text.splitlines(), 1) if "T0404" in line)
    assert shift.run(m.Start(to=threads)) == "ready", machine.said
    machine.pace = 1.0
    shift.do(m.Start(line=threads))
    run = machine.run
    assert run is not None
    for _ in range(4000):
        machine.tick(0.05)
        if machine.run is not None and machine.run.k < len(run.trace) and run.trace.lead[run.k] > 0 and 0.2 < run.share < 0.6:
            break
    assert run.trace.lead[run.k] > 0
    k = run.k
    shift.do(m.Hold())
    machine.tick(30.0)
    assert k < run.k <= k + 2  # the way back begins before the feed is down


def test_a_word_that_the_control_does_not_know_is_an_alarm_at_its_line(mill: Shift) -> None:
    mill.machine.pace = 50.0
    mill.send("G21 G90 G54\nT2 M6\nG0 X0 Y0\nG0 X10\nG666\nG0 X20\nM30\n")
    assert mill.run() == "alarm"
    assert "Line 5" in mill.machine.said
    assert max(move.line for move in mill.machine.went) == 4


def test_it_refuses_what_it_cannot_do(tmp_path: Path) -> None:
    job = sample("coupling-nut")
    machine = Machine(job.card, tmp_path)
    whole = msgspec.to_builtins(job)
    answer = machine.take(m.Clamp(job=whole, holding=job.holdings[0].id))
    assert (answer.ok, answer.why) == (False, "The stand-in has one spindle: it does not hand a part over.")
    assert "no such holding" in machine.take(m.Clamp(job=msgspec.to_builtins(sample("drum-spindle")), holding="h9")).why
    assert "another kind" in machine.take(m.Clamp(job=msgspec.to_builtins(sample("winch-base")), holding="h1")).why
    assert "Nothing is clamped" in machine.take(m.Start()).why
    assert "Version 99" in machine.take(m.Clamp(job={"version": 99}, holding="h1")).why


def test_a_tool_that_came_into_the_job_later_is_put_in_all_the_same(tmp_path: Path) -> None:
    shift = ready("winch-base", tmp_path)
    own = next(t for t in shift.job.tools if t.station == 2)
    later = msgspec.structs.replace(own, id="later", diameter=own.diameter - 1.0)
    assert "no tool later" in shift.refused(m.Load(station=9, tool="later"))
    job = msgspec.structs.replace(shift.job, tools=(*shift.job.tools, later))
    shift.do(m.Load(station=9, tool="later", job=msgspec.to_builtins(job)))
    assert shift.machine.stations[9].tool.id == "later"
    assert "version" in shift.refused(m.Load(station=9, tool="later", job={"version": "none"})).lower()


def test_programs_lie_on_its_own_disk_under_names_that_stay_there(tmp_path: Path) -> None:
    machine = Machine(CARDS["mill-600"], tmp_path / "disk")
    (tmp_path / "disk").mkdir()
    for name in ("../../evil.nc", "/etc/passwd", "O0001", "a\0b"):
        assert machine.take(m.Put(name=name, text=f"({name!r})\nM30\n")).ok
    assert sorted(p.parent for p in (tmp_path / "disk").iterdir()) == [tmp_path / "disk"] * 4
    assert machine.take(m.Get(id=2, name="/etc/passwd")).brings["text"].startswith("('/etc/passwd')")
    assert machine.take(m.Files()).brings["names"] == sorted(["../../evil.nc", "/etc/passwd", "O0001", "a\0b"])


def test_tools_are_counted_in_minutes_and_pieces(mill: Shift) -> None:
    mill.machine.pace = 200.0
    assert mill.run() == "ready"
    tables = mill.do(m.Tables())
    two = next(t for t in tables["tools"] if t["number"] == 2)
    assert two["pieces"] == 1
    assert 0.5 < two["minutes"] < 10.0


# -- the protocol ---------------------------------------------------------------------------------------------------


def test_every_request_is_done_by_somebody_and_stands_in_the_schema() -> None:
    kinds: set[Any] = set(m.AnyRequest.__args__)
    assert kinds == set(HANDLERS)
    schema = m.protocol_schema()
    tags = {p["properties"]["do"]["enum"][0] for p in schema["$defs"].values() if "do" in p.get("properties", {})}
    assert tags == {kind.__struct_config__.tag for kind in kinds}
    json.dumps(schema)


def test_messages_come_back_as_they_went() -> None:
    for request in (m.Hello(id=1), m.Jog(id=2, axis="x", by=-0.1), m.Start(id=3, line=7, look=True), m.Put(name="a", text="Ø\n")):
        assert m.request_of(m.line_of(request)) == request
    moved = m.Moved(3, 1, (0.0, 1.0, 2.0), (3.0, 4.0, 5.0), (0.0, 0.0, 0.0), 0.0, 17, 2, 1, 500.0, 900.0, 0.0)
    for report in (m.Answer(4, ok=False, why="no"), m.Status("mm", "ready"), m.Went(1, 0, [moved])):
        assert m.report_of(m.line_of(report)) == report


@pytest.mark.parametrize(
    "line", [b"", b"{}", b"[1]", b'{"do":"fly"}', b"\xff\xfe", b'{"do":"jog","axis":"q","by":1}', b"[" * 9000]
)
def test_what_is_no_request_is_said_with_its_number(line: bytes) -> None:
    with pytest.raises(m.BadLine):
        m.request_of(line)
    with pytest.raises(m.BadLine, match="axis") as said:
        m.request_of(b'{"do":"jog","id":77,"axis":"q","by":1}')
    assert said.value.ident == 77


def rubbish(rng: random.Random) -> bytes:
    """A line: half of them requests with whatever numbers, the rest torn ones."""
    numbers: list[Any] = [0, 1, -1, 7, 1e9, -1e9, 1e-9, 0.5, float(rng.randint(-500, 500)), 3.25, 2**40]
    words = ["x", "y", "z", "PART", "", "T1", "h1", "end-mill-16", "break", "wear", "power", "q" * 200]

    def value() -> Any:
        return rng.choice([*numbers, *words, None, True, [], {}, [1, 2, 3]])

    kinds = sorted(str(kind.__struct_config__.tag) for kind in KINDS)
    names = "axis by feel fast line time dry look to station tool index x y z number turn speed name text single feed rapid what"
    names += " hole after ends within times job holding wear_x diameter"
    told = {"do": rng.choice(kinds), "id": rng.randint(0, 10**6)}
    told |= {rng.choice(names.split()): value() for _ in range(rng.randint(0, 3))}
    line = json.dumps(told).encode()
    if rng.random() < 0.3:
        k = rng.randrange(len(line))
        line = line[:k] + bytes([rng.randrange(256)]) + line[k + rng.randint(0, 3) :]
    return line


def proper(rng: random.Random, shift: Shift) -> m.AnyRequest:
    """A request whose parts are all there."""
    axis = rng.choice("xyz")
    station = rng.choice([0, 1, 2, 7, 40])
    made: list[m.AnyRequest] = [
        m.Jog(axis=axis, by=rng.uniform(-80, 80), feel=rng.random() < 0.5, fast=rng.random() < 0.5),  # type: ignore[arg-type]
        m.TakeUp(station=station),
        m.Turn(speed=rng.choice([0.0, 500.0, 1e5])),
        *(kind() for kind in (m.Hold, m.Resume, m.Reset, m.Home, m.PowerOn, m.Tables, m.Hello, m.Files)),
        m.Start(line=rng.choice([0, 1, 30, 300, 9999]), look=rng.random() < 0.8),
        m.SetTool(number=rng.choice([1, 2, 500]), z=rng.uniform(-300, 300)),
        m.SetOffset(index=rng.choice([1, 2, 9]), x=1.0),
        m.Switches(feed=rng.choice([0.0, 1.0, 2.0]), single=rng.random() < 0.3),
        m.Fault(what="power", after=rng.uniform(0, 90)),
        m.Load(station=rng.choice([1, 2, 7]), tool=shift.scene.tools[2].id),
        m.Preset(station=station),
        m.Measure(ends=[GaugeEnd((1.0, 2.0, rng.uniform(-9, 9)), (0.0, 0.0, 1.0))], within=1.0),
    ]
    return rng.choice(made)


def test_a_hundred_thousand_lines_of_rubbish_change_nothing_that_they_should_not(tmp_path: Path) -> None:
    """Every line gets an answer or is none; the control stays in a state that it knows, and goes on."""
    shift = ready("winch-base", tmp_path)
    as_planned(shift)
    machine, rng = shift.machine, random.Random(16)
    machine.pace = 20.0
    answered = refused = 0
    for k in range(100_000):
        try:
            request = m.request_of(rubbish(rng)) if k % 50 else proper(rng, shift)
        except m.BadLine:
            refused += 1
            continue
        if isinstance(request, m.Clamp | m.Pace) or (isinstance(request, m.Start) and k % 50):
            continue  # planning a job each time would take hours; the parts of both are tried above
        answer = machine.take(request)
        assert answer.ok or answer.why.endswith((".", "”")), (request, answer.why)
        answered += 1
        if k % 40 == 0:
            machine.tick(0.05)
            m.line_of(machine.status())
    assert machine.mode in ("ready", "jogging", "running", "held", "stopped", "alarm", "off", "lost")
    assert np.isfinite(machine.axes).all()
    assert answered > 3_000
    assert refused > 50_000


# -- the process ----------------------------------------------------------------------------------------------------


@pytest.fixture
def process() -> Iterator[tuple[subprocess.Popen[str], int]]:
    """A stand-in of its own process, and where it listens."""
    command = [sys.executable, "-m", "bastler", "standin", "mill-600", "--seed", "7", "--child"]
    started = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert started.stdout is not None
    host, _, port = started.stdout.readline().strip().partition(":")
    assert host == "127.0.0.1"
    yield started, int(port)
    started.kill()
    started.wait()
    started.stdout.close()
    if started.stdin is not None:
        started.stdin.close()


def test_it_runs_in_a_process_of_its_own_and_reports(process: tuple[subprocess.Popen[str], int], tmp_path: Path) -> None:
    started, port = process
    link = Link("127.0.0.1", port)
    told = link.ask(m.Hello())
    assert (told["card"], told["seed"], told["protocol"]) == ("mill-600", 7, m.PROTOCOL)
    shift = Shift(sample("winch-base"), tmp_path, 7)  # for the texts alone
    link.ask(m.Clamp(job=msgspec.to_builtins(shift.job), holding="h1"))
    link.ask(m.Put(name="O1", text="G21 G90 G54\nG0 X0 Y0\nG0 X10\nM30\n"))
    assert link.ask(m.Get(name="O1"))["text"].startswith("G21")
    link.ask(m.Select(name="O1"))
    with pytest.raises(LinkError, match="no tool"):
        link.ask(m.Load(station=1, tool="nothing"))
    link.ask(m.SetOffset(index=1, x=225.0, y=150.0, z=-300.0))
    link.ask(m.Pace(times=5.0))
    link.ask(m.Start())
    link.wait("running")
    assert link.wait("ready").done == 1
    assert [move.line for move in link.went if move.line > 0] == [2, 3]
    link.close()
    assert started.poll() is None


def test_who_does_not_say_hello_first_is_not_talked_to(process: tuple[subprocess.Popen[str], int]) -> None:
    _, port = process
    for text in (b"POST / HTTP/1.1\r\n\r\n", b'{"do":"files"}\n', b"x" * 100 + b"\n"):
        with socket.create_connection(("127.0.0.1", port), timeout=10) as end:
            end.sendall(text)
            heard = b""
            while data := end.recv(4096):
                heard += data
            assert heard.count(b"\n") <= 1
    link = Link("127.0.0.1", port)
    assert link.ask(m.Hello())
    link.close()


def test_it_listens_on_the_loopback_address_only(process: tuple[subprocess.Popen[str], int]) -> None:
    _, port = process
    listening = [line.split()[1] for line in Path("/proc/net/tcp").read_text().splitlines()[1:] if line.split()[3] == "0A"]
    own = [place for place in listening if int(place.split(":")[1], 16) == port]
    assert own == [f"0100007F:{port:04X}"]


def test_it_ends_with_who_started_it(process: tuple[subprocess.Popen[str], int]) -> None:
    started, _ = process
    assert started.stdin is not None
    started.stdin.close()
    started.stdin = None
    assert started.wait(10) == 0


def test_one_that_is_killed_is_gone_for_the_link(process: tuple[subprocess.Popen[str], int]) -> None:
    started, port = process
    link = Link("127.0.0.1", port, patience=10)
    link.ask(m.Hello())
    os.kill(started.pid, signal.SIGKILL)
    started.wait(10)
    with pytest.raises((LinkError, OSError)):
        [link.ask(m.Files()) for _ in range(3)]  # the first may still be taken by the system
    link.close()


# -- seen from the window -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["winch-base", "drum-spindle", "pawl-shaft", "fixture-of-six"])
def test_the_part_grows_from_what_is_reported_and_not_from_the_plan(
    name: str, tmp_path: Path, proofs: dict[str, JobProof]
) -> None:
    shift = ready(name, tmp_path)
    as_planned(shift)
    grower, machine = Grower(), shift.machine
    ident = shift.held.holding.id
    raw = grower.grown(shift.plan, ident, [])
    assert raw is not None
    assert raw.removed == 0.0
    shift.do(m.Start())
    machine.tick(2.0)
    heard: list[m.Moved] = []
    seen: list[float] = []
    while machine.mode in ("running", "stopped"):
        if machine.mode == "stopped":
            shift.do(m.Resume())
        machine.tick(0.8)
        if (news := machine.news()) is not None:
            heard = heard[: news.first] + news.moves
        if len(seen) < 4:
            part = grower.grown(shift.plan, ident, heard)
            assert part is not None
            seen.append(part.removed)
    end = grower.grown(shift.plan, ident, heard)
    assert end is not None
    assert seen == sorted(seen)
    assert end.removed == pytest.approx(proved(shift, proofs).holdings[0].removed, rel=1e-4)
