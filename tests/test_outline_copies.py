"""A copy of an outline for one step: off it by an allowance, or as the other side of a wall; and what a groove's begins with."""

from __future__ import annotations

from typing import Any

import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, edits, plan
from bastler.job.outline_copies import outline_copied
from bastler.proof import prove_job
from bastler.shapes import TurnedOutline, draw
from bastler.shapes.chain import points_on
from bastler.steps import Groove, TurnFacing, TurnFinishing, TurnRoughing
from conftest import many, turned
from outlines import along, blend, curve, edge, outline, slant, up

INCH = 25.4


def shaft(k: float = 1.0) -> TurnedOutline:
    pieces = (edge(1 * k), along(-12 * k), blend(2 * k), up(40 * k), slant(d=46 * k, z=-24 * k),
              curve(d=52 * k, z=-30 * k, radius=10 * k), along(-40 * k), up(60 * k))  # fmt: skip
    return outline(pieces=pieces, d=30 * k, id="o", name="shaft")


def job_of(unit: str = "mm") -> Job:
    k = 1.0 if unit == "mm" else 1 / INCH
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    steps = (TurnFacing(id="f"), TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o"))
    return turned(*steps, unit=unit, outlines=(shaft(k),), **size)


def line_of(job: Job, step: str) -> shapely.LineString:
    drawn: Any = job.outline(getattr(job.step(step), "outline", ""))
    assert not draw(drawn).troubles
    return shapely.LineString(points_on(draw(drawn).chain, 4e-6))


@settings(max_examples=many(20), deadline=None)
@given(st.floats(-1.9, 3.9), st.sampled_from(["mm", "inch"]))
def test_a_copy_lies_off_its_outline_all_along(off: float, unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    assume(abs(off) > 0.01)
    job = job_of(unit)
    try:
        copied = outline_copied(job, "r", off * k, other_side=False)
    except ValueError as error:
        assert "runs into itself" in str(error)
        assert abs(off) > 1.0
        return
    original, copy = line_of(job, "r"), line_of(copied, "r")
    assert line_of(copied, "e").equals(original)
    apart = [original.distance(shapely.Point(p)) / k for p in copy.coords]
    assert max(apart) == pytest.approx(abs(off), abs=1e-3)
    inner = [d for p, d in zip(copy.coords, apart, strict=True) if p[0] < -3 * k]
    assert min(inner) > abs(off) * 0.99 - 1e-3


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_roughing_along_a_copy_leaves_the_allowance(unit: str) -> None:
    """A step for heat treatment: roughed along the copy, finished along the print."""
    k = 1.0 if unit == "mm" else 1 / INCH
    job = outline_copied(job_of(unit), "r", 0.6 * k, other_side=False)
    for name in ("leave_d", "leave_z"):
        job = answering.answered(job, f"step:r.{name}", 0.0)
    planned = plan(job)
    proof: Any = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    rough: Any = planned.step("r")
    assert rough.filled.outline != "o"


def test_the_other_side_of_a_wall_is_a_bore() -> None:
    job = outline_copied(job_of(), "e", -4.0, other_side=True)
    step: Any = job.step("e")
    made = job.outline(step.outline)
    assert isinstance(made, TurnedOutline)
    assert made.inside
    assert made.name == "shaft, copy 1"
    plain = outline_copied(job, "r", 0.0, other_side=False)
    rough: Any = plain.step("r")
    assert plain.outline(rough.outline).segments == shaft().segments


def test_of_nothing_there_is_no_copy() -> None:
    with pytest.raises(KeyError):
        outline_copied(job_of(), "f", 1.0, other_side=False)
    open_one = answering.answered(job_of(), "outline:o.segments.0.z", None)
    with pytest.raises(ValueError, match="not complete"):
        outline_copied(open_one, "r", 1.0, other_side=False)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("side", ["outside", "inside", "face"])
def test_a_grooves_own_outline_begins_as_it_is(unit: str, side: Any) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    more: Any = {"form": "tube", "bore": 30 * k} if side == "inside" else {}
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k} | more
    floor = 36 * k if side == "inside" else 50 * k
    groove = Groove(id="g", side=side, z=-20 * k, width=6 * k, floor_d=floor, outer_d=48 * k, depth=4 * k, right_angle=10.0)
    job = turned(TurnFacing(id="f"), groove, unit=unit, **size)
    before: Any = plan(job).step("g")
    own = edits.outline_for(answering.answered(job, "step:g.shape", "own"), "step:g.outline", inside=False)
    after: Any = plan(own).step("g")
    assert not [t for t in after.troubles if t.field.startswith("outline")], after.troubles
    was, now = (shapely.union_all(s.filled.removes(s.ctx)) for s in (before, after))
    window = shapely.box(-90 * k, 0.0, 0.0, 60 * k) if side == "face" else shapely.box(-90 * k, 0.0, 9 * k, 30 * k)
    assert was.symmetric_difference(now).intersection(window).area < 0.02 * was.area
