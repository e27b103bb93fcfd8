"""Whatever the answers: no rapid in material, no gouge, nothing left that the tool can reach."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, plan
from bastler.motion import FacingRows
from bastler.shapes import GridPattern
from bastler.steps import STEPS, Drilling, Facing, RectangularPocket
from conftest import MILL_STEPS, job_of, many, proof_of, slipped, with_step

MILLS = ["end-16", "end-10", "end-6", "end-4"]


def clean(proof: Any) -> None:
    found = {r.code: r.text for r in proof.remarks}
    assert not {"rapid-in-stock", "gouge", "left", "jaw-hit", "plunge", "feed-missing"} & set(found), found
    assert proof.comparison.volume("left") == proof.comparison.volume("gouge") == 0.0


def plannable(job: Job) -> bool:
    return not any(s.troubles for s in plan(job).steps)


@given(st.floats(1.0, 50.0), st.floats(5.0, 120.0), st.floats(5.0, 120.0), st.booleans(), st.booleans(), st.floats(0.0, 30.0))
def test_rows_leave_no_rim(stepover: float, sx: float, sy: float, along_x: bool, zigzag: bool, run_past: float) -> None:
    """Rows overlap, and the outer ones reach over both sides: exact, without cutting."""
    rows = FacingRows(lo=(0, 0), hi=(sx, sy), along_x=along_x, diameter=50.0, stepover=stepover, run_past=run_past, zigzag=zigzag)
    offsets, width = rows.offsets(), sy if along_x else sx
    assert offsets[0] - 25 <= 0
    assert offsets[-1] + 25 >= width
    assert all(b - a <= min(stepover, 50) + 1e-9 for a, b in itertools.pairwise(offsets))
    assert rows.ends(offsets[0]) == (-run_past, (sx if along_x else sy) + run_past)


@settings(max_examples=many(15))
@given(
    st.sampled_from(["face-50", "end-16", "end-10"]),
    st.floats(0.05, 1.0),
    st.sampled_from(["zigzag", "one-way"]),
    st.sampled_from(["x", "y"]),
    st.floats(0.3, 6.0),
    st.floats(0.2, 3.0),
)
def test_facing_is_clean(tool: str, share: float, way: Any, direction: Any, over: float, ap: float) -> None:
    diameter = {"face-50": 50, "end-16": 16, "end-10": 10}[tool]
    step = Facing(id="a", tool=tool, ae=max(share * diameter, 1.0), way=way, direction=direction, ap=ap)
    proof = proof_of(job_of(step, over_top=over), 0.25)
    clean(proof)
    assert proof.removed == proof_of_volume(60 * 40 * over, proof.removed)


def proof_of_volume(wanted: float, found: float) -> float:
    assert math.isclose(wanted, found, rel_tol=1e-5)
    return found


@st.composite
def pockets(number: st.DrawFn) -> RectangularPocket:
    """Any pocket on a block of 100 × 80."""
    return RectangularPocket(
        id="b",
        x=number(st.floats(40, 60)),
        y=number(st.floats(35, 45)),
        length=number(st.floats(8, 55)),
        width=number(st.floats(8, 40)),
        corner_radius=number(st.floats(2, 12)),
        depth=number(st.floats(0.5, 12)),
        angle=number(st.sampled_from([0.0, 90.0, 180.0]) | st.floats(-180, 180)),
        tool=number(st.none() | st.sampled_from(MILLS)),
        finish=number(st.sampled_from(["yes", "no"])),
        finish_tool=number(st.none() | st.sampled_from(MILLS)),
        leave_wall=number(st.none() | st.floats(0, 1)),
        leave_floor=number(st.none() | st.floats(0, 0.4)),
        entry=number(st.sampled_from(["helix", "ramp", "plunge"])),
        entry_angle=number(st.floats(1, 20)),
        cutting=number(st.sampled_from(["climb", "conventional"])),
        ap=number(st.none() | st.floats(0.5, 6)),
    )


@settings(max_examples=many(30))
@given(pockets())
def test_pockets_are_clean(step: RectangularPocket) -> None:
    job = job_of(Facing(id="a"), step, size_x=100.0, size_y=80.0, size_z=30.0)
    assume(plannable(job))
    proof = proof_of(job, 0.25)
    clean(proof)
    r = min(step.corner_radius, step.length / 2, step.width / 2)
    wanted = (step.length * step.width - (4 - math.pi) * r * r) * step.depth
    assert math.isclose(sum(s.volume for s in proof.stages if s.step == "b"), wanted, rel_tol=0.04)


@settings(max_examples=many(20))
@given(st.data())
def test_holes_are_clean(data: st.DataObject) -> None:
    number = data.draw
    grid = GridPattern(
        id="p",
        name="p",
        x=15.0,
        y=12.0,
        columns=number(st.integers(1, 3)),
        column_pitch=number(st.floats(12, 18)),
        rows=number(st.integers(1, 2)),
        row_pitch=number(st.floats(12, 16)),
        angle=number(st.floats(-10, 10)),
        skew=number(st.floats(-15, 15)),
    )
    step = Drilling(
        id="b",
        pattern="p",
        diameter=number(st.sampled_from([5.0, 6.8, 8.5, 10.0])),
        extent=number(st.sampled_from(["blind", "through"])),
        depth=number(st.floats(1, 14)),
        depth_to=number(st.sampled_from(["full", "tip"])),
        method=number(st.sampled_from(["once", "chip-break", "peck"])),
        peck=number(st.none() | st.floats(0.5, 9)),
        shrink=number(st.sampled_from([100.0, 60.0])),
        spot=number(st.sampled_from(["yes", "no"])),
        back_to=number(st.sampled_from(["over", "clearance"])),
        dwell=number(st.sampled_from([0.0, 0.5])),
    )
    job = job_of(
        Facing(id="a"),
        step,
        patterns=(grid,),
        size_x=80.0,
        size_y=60.0,
        machine=number(st.sampled_from(["mill-600", "mill-old"])),
    )
    assume(plannable(job))
    clean(proof_of(job, 0.2))


@pytest.mark.parametrize("kind", MILL_STEPS)
def test_a_new_step_proves_with_its_proposed_answers(kind: str) -> None:
    from bastler.job import edits, new_job

    for unit in ("mm", "inch"):
        for machine in ("mill-600", "mill-old"):
            job = new_job(unit, machine)
            if not STEPS[kind].possible(job.plane, job.card):
                continue  # the board does not offer it there
            job, last = edits.step_added(job, "facing", "")
            job, last = with_step(job, kind, last)
            proof = proof_of(job, 0.25)
            assert [r for r in proof.remarks if r.level == "stop"] == [], (unit, machine, proof.remarks)


@settings(max_examples=many(10))
@given(st.data())
def test_a_slip_of_the_finger_is_said_and_never_hangs(data: st.DataObject) -> None:
    """Any number in any field, as long as its own bounds let it be typed: the job plans, and proves or says why not."""
    import time

    from bastler.job.samples import sample

    job = sample("winch-base")
    owners = ["stock", "holding:h1", *(f"step:{s.id}" for s in job.steps), *(f"pattern:{p.id}" for p in job.patterns)]
    job = slipped(data, job, owners)
    began = time.monotonic()
    proof = proof_of(job, 0.5)
    assert time.monotonic() - began < 20
    assert proof.proved or any(r.level == "stop" and r.text for r in proof.remarks)
