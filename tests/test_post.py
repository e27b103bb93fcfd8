"""The writer: dialects, modal words, and that the text means what was planned."""

from __future__ import annotations

import math
import re

import msgspec
import numpy as np
import pytest

from bastler.job import Job, answering, plan
from bastler.job.samples import sample, sample_names
from bastler.motion import Cycle, bites, long_hand
from bastler.nc import FEED, read
from bastler.post import Program, post
from bastler.proof import scene_of
from bastler.shapes import CirclePattern, PointsPattern
from bastler.steps import Drilling, Facing, RectangularPocket
from conftest import MILLED, job_of

CIRCLE = CirclePattern(id="p", name="ring", x=30, y=20, diameter=30, count=4)


def text_of(job: Job) -> str:
    return post(plan(job).first).text


def trace_of(job: Job):
    planned = plan(job)
    return read(post(planned.first).text, scene_of(planned).control)


@pytest.mark.parametrize("name", sample_names())
def test_every_line_knows_its_section(name: str) -> None:
    program = post(plan(sample(name)).first)
    assert program.sections[0].first == 0
    assert program.sections[-1].last == len(program.lines)
    for one, other in zip(program.sections, program.sections[1:], strict=False):
        assert one.last == other.first
    steps = {s.step for s in program.sections if s.step}
    assert steps == {s.id for s in sample(name).holdings[0].steps}
    for section in program.sections:
        assert all(program.section_of(k) == section for k in range(section.first, section.last))


@pytest.mark.parametrize("machine", ["mill-600", "mill-old"])
@pytest.mark.parametrize("name", MILLED)
def test_a_posted_program_reads_without_a_finding(name: str, machine: str) -> None:
    job = answering.answered(sample(name), "job.machine", machine)
    planned = plan(job)
    trace = read(post(planned.first).text, scene_of(planned).control)
    assert [f for f in trace.findings if f.code not in ("over-speed",)] == []


def test_the_frame_of_a_program() -> None:
    lines = text_of(job_of(Facing(id="a"))).splitlines()
    assert lines[0] == lines[-1] == "%"
    assert lines[1].startswith("O0001 (")
    assert "G21" in lines
    assert "G17 G40 G49 G80 G90 G94" in lines
    assert lines[-2] == "M30"
    home = [line for line in lines if line.startswith("G53")]
    assert home == ["G53 G0 Z0", "G53 G0 X0 Y400"]


def test_z_goes_up_before_anything_moves_home() -> None:
    job = answering.answered(
        job_of(Facing(id="a"), Drilling(id="b", pattern="p"), patterns=(CIRCLE,)), "holding:h1.tool_change", "home"
    )
    lines = text_of(job).splitlines()
    for k, line in enumerate(lines):
        if re.match(r"G53 G0 X", line):
            assert lines[k - 1].startswith("G53 G0 Z")


def test_the_same_tool_is_not_called_twice() -> None:
    job = job_of(RectangularPocket(id="a", x=30, y=20), RectangularPocket(id="b", x=30, y=20, length=20, width=20, top=-5.0))
    assert text_of(job).count("M6") == 1


def test_canned_cycles_where_the_machine_has_them() -> None:
    step = Drilling(id="a", pattern="p", depth=10.0, method="peck")
    new, old = (text_of(job_of(step, patterns=(CIRCLE,), machine=m)) for m in ("mill-600", "mill-old"))
    assert "G83" in new
    assert "G83" not in old
    assert "G81" in old, "spotting is a plain cycle"


def test_shrinking_pecks_are_long_hand_everywhere() -> None:
    text = text_of(job_of(Drilling(id="a", pattern="p", depth=10.0, shrink=70.0, spot="no"), patterns=(CIRCLE,)))
    assert "G83" not in text
    assert text.count("G1 Z") > 8


def test_bites_shrink_to_the_least_and_end_at_the_bottom() -> None:
    cycle = Cycle(points=((0, 0),), z=-20, r=2, back=5, feed=100, peck=8, shrink=0.5, least=3, clearance=0.5, pull=0.3)
    assert bites(cycle) == [-6.0, -10.0, -13.0, -16.0, -19.0, -20.0]
    rapids = [m.w for m in long_hand(cycle, 5) if type(m).__name__ == "Go"]
    assert min(rapids) == -18.5
    assert bites(msgspec.structs.replace(cycle, peck=0)) == [-20]


def test_the_old_mill_gets_no_helix_and_its_own_words() -> None:
    job = job_of(RectangularPocket(id="a", x=30, y=20), machine="mill-old")
    text = text_of(job)
    lines = text.splitlines()
    assert lines[1] == lines[1].upper()
    assert all(line.startswith(("N", "%", "O", "(")) for line in lines)
    assert not re.search(r"G[23] [^(\n]*Z", text)
    assert re.search(r"X30\. ", text)
    planned = plan(job)
    trace = read(text, scene_of(planned).control)
    sloped = (trace.kind == FEED) & (trace.end[:, 2] < trace.start[:, 2]) & (trace.end[:, 0] != trace.start[:, 0])
    radius = np.hypot(trace.end[sloped][:, 0] - 30, trace.end[sloped][:, 1] - 20)
    assert np.ptp(radius) < 0.002


def test_arcs_stay_arcs_and_within_a_micron() -> None:
    """The outermost finishing arcs of a turned pocket against exact arithmetic."""
    step = RectangularPocket(id="a", x=30.1234, y=20.4321, length=40, width=25, corner_radius=6, angle=17.0)
    trace = trace_of(job_of(Facing(id="f"), step, size_x=100, size_y=80))
    arcs = (trace.kind == 3) & (np.abs(np.abs(trace.turn) - math.pi / 2) < 1e-2) & (trace.start[:, 2] < -4.9)
    tool = 5.0
    cos, sin = math.cos(math.radians(17)), math.sin(math.radians(17))
    corners = [
        (30.1234 + u * cos - v * sin, 20.4321 + u * sin + v * cos) for u, v in ((14, -6.5), (14, 6.5), (-14, 6.5), (-14, -6.5))
    ]
    hit = 0
    for k in np.flatnonzero(arcs):
        for corner in corners:
            if math.dist(trace.centre[k][:2], corner) < 0.01:
                r = math.dist(trace.start[k][:2], trace.centre[k][:2])
                if abs(r - 0.7) < 0.01:
                    continue  # roughing leaves 0.3 on the wall
                assert math.dist(trace.centre[k][:2], corner) < 0.001
                assert abs(r - (6 - tool)) < 0.0015
                hit += 1
    assert hit >= 4


def test_inch_jobs_keep_their_inches() -> None:
    step = RectangularPocket(id="a", x=1.5, y=1.0, length=1.5, width=0.875, corner_radius=0.3125, depth=0.375)
    text = text_of(job_of(Facing(id="f"), step, unit="inch", size_x=3.0, size_y=2.0, size_z=1.0, over_top=0.05))
    assert "G20" in text
    assert "Z-0.375" in text


def test_comments_cannot_break_out() -> None:
    job = answering.answered(job_of(Facing(id="a", name="top) M30 (\nG0")), "job.name", "a)b%;")
    text = text_of(job)
    for line in text.splitlines():
        if "(" in line:
            assert line.count("(") == line.count(")") == 1
    assert text.count("M30") == 2
    assert text.splitlines().count("M30") == 1


def test_what_is_off_or_wrong_is_not_in_the_program() -> None:
    job = job_of(Facing(id="a", on=False), RectangularPocket(id="b", x=30, y=20, tool="end-16", corner_radius=3.0))
    assert "M6" not in text_of(job)


def test_a_foreign_program_is_parted_at_its_tools() -> None:
    program = Program.foreign("G21\nT1 M6\nG0 X0\n(T2 M6)\nT2 M06\nG0 X1\n")
    assert [(s.first, s.last) for s in program.sections] == [(0, 1), (1, 4), (4, 6)]
    assert Program.foreign("").sections


def test_positions_left_out_are_not_drilled() -> None:
    pattern = PointsPattern(id="p", name="p", points=((10.0, 10.0), (20.0, 10.0)), left_out=(2,))
    text = text_of(job_of(Drilling(id="a", pattern="p", depth=5.0), patterns=(pattern,)))
    assert "X10" in text
    assert "X20" not in text
