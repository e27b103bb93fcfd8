"""Outlines as they are posted: within a micron of the wanted ones, arcs as arcs, by whoever keeps the tool beside them."""

from __future__ import annotations

import dataclasses
import math
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, edits, plan
from bastler.motion.rings import at_share
from bastler.nc import Control, read
from bastler.shapes import Arc, Frame, Line, PlanOutline, PlanSegment, draw, rounded_rectangle
from bastler.shapes.chain import length_of
from bastler.shapes.kernels import distances
from bastler.shapes.region import area_of, offset_region, primitives
from bastler.steps import Contour, EdgeBreak, Facing, FreeBoss, FreePocket, OutlineMilling
from conftest import codes, job_of, many, proof_of

CAM = PlanOutline(
    id="o1", name="cam", x=None, y=None,
    segments=(
        PlanSegment(id="a", kind="arc", cx=28.0, cy=30.0, radius=14.0, turn="ccw", tangent="yes"),
        PlanSegment(id="b", kind="line", tangent="yes"),
        PlanSegment(id="c", kind="arc", cx=56.0, cy=28.0, radius=8.0, turn="ccw", tangent="yes"),
        PlanSegment(id="d", kind="arc", radius=30.0, turn="cw", tangent="yes"),
    ),
)  # fmt: skip


def cam_job(*steps, **setup: Any) -> Job:
    return msgspec.structs.replace(job_of(Facing(id="f"), *steps, size_x=80.0, size_y=60.0, **setup), outlines=(CAM,))


@pytest.mark.parametrize("compensation", ["computed", "control"])
@pytest.mark.parametrize("cutting", ["climb", "conventional"])
def test_the_posted_outline_is_within_a_micron(compensation: str, cutting: str) -> None:
    answers = {"compensation": compensation, "cutting": cutting}
    step = OutlineMilling(id="m", outline="o1", depth=4.0, tool="end-10", **answers)  # type: ignore[arg-type]
    job = cam_job(step)
    proof = proof_of(job, 0.4)
    assert not codes(proof) & {"gouge", "left", "rapid-in-stock"}
    (wanted,) = offset_region([_outward(CAM)], -5.0)
    rows = [k for k in range(len(proof.trace)) if proof.trace.kind[k] > 0 and proof.trace.end[k, 2] == -4.0]
    on = distances(proof.trace.end[rows, :2].copy(), primitives(wanted)) < 0.02
    assert on.sum() >= 4
    assert distances(proof.trace.end[rows, :2][on].copy(), primitives(wanted)).max() < 0.001
    text = [line for line in proof.program.lines if "G2" in line or "G3" in line]
    assert text
    assert ("G41" in "\n".join(proof.program.lines)) == (compensation == "control" and cutting == "climb")
    assert ("G42" in "\n".join(proof.program.lines)) == (compensation == "control" and cutting == "conventional")


def _outward(outline: PlanOutline) -> list:
    chain = list(draw(outline).chain)
    assert area_of(chain) > 0
    return chain


def test_a_larger_diameter_in_the_control_moves_the_wall_out() -> None:
    """What the machinist does at the control: the wall comes out by half of what is added."""
    step = OutlineMilling(id="m", outline="o1", depth=4.0, tool="end-10", compensation="control")
    proof = proof_of(cam_job(step), 0.4)
    control = proof.scene.control
    station = int(proof.trace.tool[-1])
    more = dataclasses.replace(control, diameters=control.diameters | {station: 10.2})
    text = "\n".join(proof.program.lines)
    for table, distance in ((control, -5.0), (more, -5.1)):
        trace = read(text, table)
        rows = [k for k in range(len(trace)) if trace.kind[k] == 2 and trace.end[k, 2] == -4.0]
        (wanted,) = offset_region([_outward(CAM)], distance)
        assert distances(trace.end[rows, :2].copy(), primitives(wanted)).min() < 0.001


def test_g41_rolls_round_an_outer_corner_and_stops_in_an_inner_one() -> None:
    text = "G21 G90 G17\nT1 M6\nS1000 M3\nG0 X-10 Y-10\nG0 Z0\nF100\nG1 G42 D1 X0 Y0\nX20\nY10\nX40\nY30\nG1 G40 X50 Y40\nM30\n"
    control = Control(reaches={1: (0.0, 0.0, 0.0)}, tool_offsets={1: (0.0, 0.0, 0.0)}, diameters={1: 4.0})
    trace = read(text, control)
    assert trace.findings == ()
    ends = [(round(float(x), 6), round(float(y), 6)) for x, y, _ in trace.end]
    assert ends[2:] == [(0.0, -2.0), (22.0, -2.0), (22.0, 8.0), (42.0, 8.0), (42.0, 30.0), (50.0, 40.0)] or ends[2:] == [
        (0.0, -2.0), (20.0, -2.0), (22.0, 0.0), (22.0, 8.0), (40.0, 8.0), (42.0, 10.0), (42.0, 30.0), (50.0, 40.0),
    ]  # fmt: skip
    turned = [k for k in range(len(trace)) if trace.kind[k] == 3]
    assert [tuple(trace.centre[k, :2]) for k in turned] == [(20.0, 0.0), (40.0, 10.0)]


@pytest.mark.parametrize(
    ("line", "word"),
    [("G41 D9 X0 Y0", "has no value"), ("G41 D2 X0 Y0", "with T1 in the spindle")],
)
def test_wrong_diameter_numbers_are_said(line: str, word: str) -> None:
    control = Control(reaches={1: (0.0, 0.0, 0.0)}, tool_offsets={1: (0.0, 0.0, 0.0)}, diameters={1: 4.0, 2: 6.0})
    trace = read(f"T1 M6\nS1000 M3\nF100\nG1 {line}\nX20\nG40 X30 Y10\nM30\n", control)
    assert any(f.code == "compensation" and word in f.text for f in trace.findings)


def test_compensation_left_on_is_said() -> None:
    control = Control(reaches={1: (0.0, 0.0, 0.0)}, tool_offsets={1: (0.0, 0.0, 0.0)}, diameters={1: 4.0})
    trace = read("T1 M6\nS1000 M3\nF100\nG1 G41 D1 X0 Y5\nX20\nM30\n", control)
    assert [f.text for f in trace.findings] == ["Compensation is never switched off."]


def test_tabs_and_ramps_are_refused_with_the_control_and_said() -> None:
    for answers in ({"tabs": 2}, {"entry": "ramp"}):
        step = OutlineMilling(id="m", outline="o1", depth=4.0, tool="end-10", compensation="control", **answers)
        troubles = plan(cam_job(step)).step("m").troubles
        assert [(t.field, t.fits) for t in troubles] == [("compensation", "computed")]


def test_an_outline_tighter_than_the_tool_is_refused_with_the_control() -> None:
    step = OutlineMilling(id="m", outline="o1", side="left", depth=4.0, tool="end-10", compensation="control")
    tight = edits.replace(CAM, segments=(*CAM.segments[:2], edits.replace(CAM.segments[2], radius=4.0), CAM.segments[3]))
    job = msgspec.structs.replace(cam_job(step), outlines=(tight,))
    assert [t.field for t in plan(job).step("m").troubles] == ["compensation"]


def test_tabs_stand_and_hold() -> None:
    step = OutlineMilling(id="m", outline="o1", depth=8.0, tool="end-6", tabs=3, tab_width=5.0, tab_height=2.0)
    proof = proof_of(cam_job(step, size_z=9.0), 0.2)
    assert not codes(proof) & {"gouge", "left", "rapid-in-stock"}
    (way,) = offset_region([_outward(CAM)], -3.0)
    long = sum(math.dist(s.start, s.end) if isinstance(s, Line) else math.dist(s.start, s.centre) * s.sweep() for s in way)
    floors = [proof.heights[int((y - 0) / proof.grid.dy), int((x - 0) / proof.grid.dx)] for x, y in _along(way, 400)]
    raised = [z for z in floors if abs(z - -6.0) < 1e-6]
    assert len(raised) / len(floors) == pytest.approx(3 * 5.0 / long, rel=0.15)


def _along(way, count: int):
    whole = sum(map(length_of, way))
    for k in range(count):
        at = whole * k / count
        for s in way:
            if at <= length_of(s):
                yield at_share(s, at / length_of(s))
                break
            at -= length_of(s)


# -- volumes ------------------------------------------------------------------------------------------------------------------


def test_a_pocket_with_islands_of_their_own_tops_takes_what_arithmetic_says() -> None:
    outline = PlanOutline(
        id="o1", name="o", x=10.0, y=10.0,
        segments=tuple(
            PlanSegment(x=x, y=y, corner="radius", corner_size=6.0) for x, y in ((70, 10), (70, 50), (10, 50), (10, 10))
        ),
    )  # fmt: skip
    islands = (
        Contour(x=25.0, y=30.0, diameter=8.0),
        Contour(form="rectangle", x=52.0, y=30.0, length=12.0, width=8.0, corner_radius=2.0, below=2.0),
    )
    step = FreePocket(id="p", outline="o1", islands=islands, depth=5.0, tool="end-10", top=0.0)
    job = msgspec.structs.replace(job_of(Facing(id="f"), step, size_x=80.0, size_y=60.0), outlines=(outline,))
    proof = proof_of(job, 0.1)
    assert proof.proved
    assert codes(proof) <= {"full-width"}
    block = area_of(rounded_rectangle(Frame(0, 0), 12, 8, 2))
    whole = 60 * 40 - (4 - math.pi) * 36 - math.pi * 16
    wanted = 5 * whole - 3 * block
    removed = sum(s.volume for s in proof.stages if s.step == "p")
    assert removed == pytest.approx(wanted, rel=0.002)


def test_a_boss_stands_alone() -> None:
    proof = proof_of(cam_job(FreeBoss(id="b", outline="o1", depth=4.0, tool="end-10")), 0.2)
    assert proof.proved
    wanted = 4.0 * (80 * 60 - area_of(_outward(CAM)))
    assert sum(s.volume for s in proof.stages if s.step == "b") == pytest.approx(wanted, rel=0.002)


def test_a_bevel_has_the_volume_of_a_bevel() -> None:
    """A right-angled triangle of 1 × 1 all along, by Guldin's rule; the tip's own groove lies in what the rim step took."""
    rim = OutlineMilling(id="m", outline="o1", depth=4.0, tool="end-10")
    proof = proof_of(cam_job(rim, EdgeBreak(id="e", outline="o1", size=1.0)), 0.1)
    assert proof.proved
    chain = _outward(CAM)
    inner = offset_region([chain], 1.0)
    between = area_of(chain) - sum(map(area_of, inner))
    taken = sum(s.volume for s in proof.stages if s.step == "e")
    assert taken == pytest.approx(between / 2, rel=0.02)


@settings(max_examples=many(15))
@given(st.floats(0.0, 80.0), st.floats(0.0, 60.0))
def test_it_begins_near_the_point_that_was_given(x: float, y: float) -> None:
    step = OutlineMilling(id="m", outline="o1", depth=3.0, tool="end-10", begin="point", begin_x=x, begin_y=y, lead="none")
    job = cam_job(step)
    stage = plan(job).step("m").stages[0]
    (way,) = offset_region([_outward(CAM)], -5.0)
    nearest = min(math.dist(p, (x, y)) for p in _along(way, 4000))
    assert math.dist(stage.start[:2], (x, y)) == pytest.approx(nearest, abs=0.1)
    assert isinstance(way[0], Line | Arc)
