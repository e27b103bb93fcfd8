"""Repeating a run of steps: where the copies are, how they are written, and that they cut what they should."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import Job, answering, edits, plan
from bastler.motion import Bow, Cut, Cycle, Go
from bastler.motion.placed import placed_moves
from bastler.nc import Control, read
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import PointsPattern
from bastler.shapes.placing import Placing, mirrored_at, shifted_by, turned_about
from bastler.steps import Drilling, Facing, RectangularPocket, Repeat, Step
from conftest import codes, job_of, proof_of

PATTERN = PointsPattern(id="h", name="one", points=((14.0, 12.0),))
POCKET = RectangularPocket(id="p", x=14.0, y=12.0, length=16.0, width=12.0, depth=4.0, corner_radius=4.5)


def repeated(*run: Step, machine: str = "mill-600", **answers: Any) -> Job:
    again = Repeat(id="r", **({"back": len(run), "column_pitch": 32.0, "row_pitch": 18.0} | answers))
    return job_of(Facing(id="f"), *run, again, patterns=(PATTERN,), machine=machine)


def pocket_and_hole(**answers: Any) -> Job:
    return repeated(POCKET, Drilling(id="d", pattern="h", diameter=5.0, depth=6.0, spot="no"), **answers)


GRID = {"columns": 2, "rows": 2, "row_pitch": 17.0}


@pytest.mark.parametrize(
    ("answers", "times"),
    [
        (GRID, 3),
        ({"how": "turned", "x": 30.0, "y": 20.0, "angle": 180.0, "count": 2}, 1),
        ({"how": "mirrored", "mirror": "x", "at_x": 30.0}, 1),
        ({"how": "mirrored", "mirror": "y", "at_y": 20.0}, 1),
        ({"how": "mirrored", "mirror": "both", "at_x": 30.0, "at_y": 20.0}, 3),
    ],
    ids=["grid", "turned", "left and right", "front and back", "both ways"],
)
@pytest.mark.parametrize("machine", ["mill-600", "mill-old"])
def test_the_copies_cut_what_they_should(answers: dict[str, Any], times: int, machine: str) -> None:
    job = pocket_and_hole(machine=machine, **answers)
    proof = proof_of(job, 0.1)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution")
    alone = proof_of(job_of(*job.steps[:-1], patterns=(PATTERN,), machine=machine), 0.1)

    def gone(heights: np.ndarray) -> float:
        return float((0.0 - heights).clip(0.0).sum()) * 0.01

    assert gone(proof.heights) == pytest.approx((times + 1) * gone(alone.heights), rel=2e-3)


def test_copies_that_are_only_shifted_are_a_subprogram_where_the_machine_has_them() -> None:
    text = post(plan(pocket_and_hole(**GRID)).first).text
    lines = text.splitlines()
    calls = [k for k, line in enumerate(lines) if line.startswith("M98")]
    assert [lines[k] for k in calls if lines[k] == "M98 P2"] == ["M98 P2"] * 3
    assert all(lines[k - 1].startswith("G52 X") for k in calls)
    assert lines[calls[-1] + 1] == "G52 X0 Y0"
    assert text.count("O0002") == 1
    assert text.index("M30") < text.index("O0002")
    written = post(plan(pocket_and_hole(machine="mill-old", **GRID)).first).text
    assert "M98" not in written
    assert "G52" not in written
    assert len(written.splitlines()) > len(text.splitlines())


def test_each_stage_is_made_at_all_copies_before_the_next_tool() -> None:
    lines = post(plan(pocket_and_hole(**GRID)).first).lines
    assert sum("M6" in line for line in lines) == 5  # face, rough, drill, and the last two again
    mirrored = post(plan(pocket_and_hole(how="mirrored", mirror="both", at_x=30.0, at_y=20.0)).first).lines
    assert sum("M6" in line for line in mirrored) == 5


def test_a_local_shift_left_by_hand_is_found() -> None:
    """A planted fault: the last G52 is gone, and all that comes behind is shifted."""
    job = pocket_and_hole(**GRID)
    after, _ = edits.step_added(job, "rectangular-pocket", "r")
    text = post(plan(after).first).text
    assert "G52 X0 Y0" in text
    proof = prove_job(plan(after), Program.foreign(text.replace("G52 X0 Y0", "")), cell_mm=0.3)
    assert not proof.proved


def test_g52_shifts_within_the_work_offset_and_is_taken_back() -> None:
    control = Control(offsets={1: (0.0, 0.0, 0.0), 2: (100.0, 0.0, 0.0)}, home=(0.0, 0.0, 300.0))
    trace = read("G21 G90 G54 G0 X1 Y2\nG52 X10 Y5\nG0 X1 Y2\nG55\nG0 X1 Y2\nG52 X0 Y0\nG0 X1 Y2\nM30", control)
    ends = [tuple(round(float(v), 6) for v in trace.end[k, :2]) for k in range(len(trace))]
    assert ends == [(1.0, 2.0), (11.0, 7.0), (111.0, 7.0), (101.0, 2.0)]


def test_an_outline_with_compensation_by_the_control_is_mirrored_with_its_side() -> None:
    from bastler.motion import Bend

    moves = (Bend("left"), Cut(1.0, 2.0, 0.0, 100.0), Bend("off"))
    assert [m.side for m in placed_moves(moves, mirrored_at(x=0.0)) if isinstance(m, Bend)] == ["right", "off"]
    assert [m.side for m in placed_moves(moves, turned_about(0, 0, 45.0)) if isinstance(m, Bend)] == ["left", "off"]


placings = st.one_of(
    st.builds(shifted_by, st.floats(-50, 50), st.floats(-50, 50)),
    st.builds(turned_about, st.floats(-50, 50), st.floats(-50, 50), st.floats(-360, 360)),
    st.builds(lambda x: mirrored_at(x=x), st.floats(-50, 50)),
    st.builds(lambda y: mirrored_at(y=y), st.floats(-50, 50)),
)
points = st.tuples(st.floats(-100, 100), st.floats(-100, 100))


@given(placings, points, points)
def test_lengths_stay_what_they_are(to: Placing, a: tuple[float, float], b: tuple[float, float]) -> None:
    assert math.dist(to.at(*a), to.at(*b)) == pytest.approx(math.dist(a, b), abs=1e-6)


@given(placings, points, points)
def test_moves_go_where_their_points_go(to: Placing, a: tuple[float, float], b: tuple[float, float]) -> None:
    bow = Bow(a[0], a[1], -1.0, b[0], b[1], True, 100.0)
    go, cycle = Go(a[0], a[1], 5.0), Cycle(points=(a, b), z=-3.0, r=1.0, back=2.0, feed=50.0, clearance=0.5, pull=0.5)
    new_go, new_bow, new_cycle = placed_moves((go, bow, cycle), to)
    assert (new_go.u, new_go.v, new_go.w) == (*to.at(*a), 5.0)
    assert (new_bow.cu, new_bow.cv) == to.at(*b)
    assert new_bow.ccw != to.mirrors
    assert new_cycle.points == (to.at(*a), to.at(*b))


@pytest.mark.parametrize(
    ("answers", "field"),
    [
        ({"back": 9}, "back"),
        ({"columns": 1, "rows": 1}, "columns"),
        ({"columns": 60, "rows": 60}, "columns"),
    ],
)
def test_what_cannot_be_repeated_is_said(answers: dict[str, Any], field: str) -> None:
    assert [t.field for t in plan(pocket_and_hole(**answers)).step("r").troubles] == [field]


def test_a_repetition_is_not_repeated_and_needs_something_before_it() -> None:
    twice = job_of(Facing(id="f"), POCKET, Repeat(id="r"), Repeat(id="q", back=2))
    assert [t.field for t in plan(twice).step("q").troubles] == ["back"]
    first = job_of(Repeat(id="r"))
    assert [t.fits for t in plan(first).step("r").troubles] == [None]


def test_a_change_of_what_is_repeated_goes_with_it() -> None:
    job = pocket_and_hole(**GRID)
    first = plan(job)
    changed = plan(answering.answered(job, "step:p.depth", 5.5), first)
    assert {r.floor for r in changed.step("r").removals} >= {-5.5}
    assert changed.step("r").removals == plan(changed.job).step("r").removals


def test_outlines_and_their_broken_edges_are_mirrored_and_turned() -> None:
    """The outline in the front left quarter, its edge broken, and both in the other three quarters."""
    pocket, ident = edits.step_added(job_of(Facing(id="f"), size_x=160.0, size_y=120.0), "free-pocket", "f")
    name = pocket.outlines[0].id
    for field, value in (("x", 14.0), ("y", 12.0), ("segments.0.length", 44.0), ("segments.1.length", 30.0)):
        pocket = answering.answered(pocket, f"outline:{name}.{field}", value)
    pocket = answering.answered(pocket, f"step:{ident}.depth", 8.0)
    pocket, edge = edits.step_added(pocket, "edge-break", ident)
    pocket = answering.answered(pocket, f"step:{edge}.material", "outside")
    pocket, again = edits.step_added(pocket, "repeat", edge)
    for field, value in (("back", 2), ("how", "mirrored"), ("mirror", "both"), ("at_x", 80.0), ("at_y", 60.0)):  # type: ignore[assignment]
        pocket = answering.answered(pocket, f"step:{again}.{field}", value)
    planned = plan(pocket)
    assert [s.troubles for s in planned.steps] == [()] * 4
    proof = proof_of(pocket, 0.15)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution"), proof.remarks
    assert len(planned.step(again).removals) == 3 * 2


def test_a_scaled_run_is_as_much_larger_and_planned_with_its_tools() -> None:
    """Doubled distances from a centre far to the left: the copy lies beside the first one."""
    job = pocket_and_hole(how="scaled", percent=150.0, x=-60.0, y=0.0)
    for field, value in (("stock.size_x", 90.0), ("step:r.x", -60.0)):
        job = answering.answered(job, field, value)
    planned = plan(job)
    assert planned.step("r").troubles == ()
    small, large = (planned.step(s).removals[0] for s in ("p", "r"))
    assert large.region.area == pytest.approx(1.5**2 * small.region.area, rel=1e-3)
    assert large.floor == small.floor
    assert large.region.centroid.x == pytest.approx(-60.0 + 1.5 * 74.0, abs=1e-3)
    hole = planned.step("r").removals[-1]
    assert (hole.x, hole.radius) == (pytest.approx(-60.0 + 1.5 * 74.0), 2.5)
    proof = proof_of(job, 0.15)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution"), proof.remarks


def test_what_cannot_be_made_that_small_is_said() -> None:
    (trouble,) = plan(pocket_and_hole(how="scaled", percent=10.0, x=14.0, y=12.0)).step("r").troubles
    assert trouble.field == "percent"
    assert "scaled:" in trouble.text


def test_outlines_are_scaled_with_their_steps() -> None:
    job, ident = edits.step_added(job_of(Facing(id="f"), size_x=200.0, size_y=140.0), "free-pocket", "f")
    job, again = edits.step_added(job, "repeat", ident)
    for field, value in (("how", "scaled"), ("percent", 130.0), ("x", 100.0), ("y", 70.0)):
        job = answering.answered(job, f"step:{again}.{field}", value)
    planned = plan(job)
    one, two = (planned.step(s).removals[0].region for s in (ident, again))
    assert two.area == pytest.approx(1.3**2 * one.area, rel=1e-3)
    assert proof_of(job, 0.3).proved
