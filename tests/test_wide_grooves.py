"""Grooves turned out sideways, and several that are not evenly apart: what is cut is what was asked, on all sides."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.proof import prove_job
from bastler.steps import CentreHole, Groove, TurnFacing
from bastler.steps.turn.groove_blade import SIDE_MOST
from bastler.steps.turn.groove_shape import distances
from conftest import codes, many, turned

INCH = 25.4


def grooved(unit: str = "mm", side: str = "outside", **answers: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / INCH
    lengths = {"z", "width", "floor_d", "outer_d", "depth", "pitch", "side_ap", "leave", "corner_radius", "edge_break"}
    own = {name: value * k if name in lengths and value is not None else value for name, value in answers.items()}
    own = {"edge_break": 0.0, "z": -20 * k, "width": 20 * k, "floor_d": 50 * k, "depth": 4 * k, "outer_d": 50 * k} | own
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    before = [CentreHole(id="d", work="drill", diameter=20.0 if unit == "mm" else 0.75, depth=50 * k)] if side == "inside" else []
    return turned(TurnFacing(id="f"), *before, Groove(id="g", side=side, **own), unit=unit, **size)  # type: ignore[arg-type]


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("begin", ["right", "left", "middle"])
@pytest.mark.parametrize("slant", [0.0, 20.0])
def test_a_wide_groove_is_turned_out_sideways(unit: str, begin: str, slant: float) -> None:
    job = grooved(unit, rough="sideways", begin=begin, right_angle=slant, left_angle=slant / 2, corner_radius=0.4)
    planned = plan(job)
    assert not planned.steps[-1].troubles
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    plunged: Any = prove_job(plan(answering.answered(job, "step:g.rough", "plunge")))
    assert proof.part.symmetric_difference(plunged.part).area < 1e-3 * (1.0 if unit == "mm" else INCH**-2)


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_it_goes_down_by_no_more_than_is_asked(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    job = grooved(unit, rough="sideways", side_ap=0.7, finish="no")
    planned = plan(job)
    trace = prove_job(planned).trace
    feeds = (trace.kind == 1) & (trace.tool == trace.tool[-1]) & (trace.start[:, 0] == trace.end[:, 0])
    along = sorted({round(float(x), 6) for x in trace.end[feeds, 0]}, reverse=True)
    bites = [a - b for a, b in zip([30.0 * k, *along], along, strict=False)]
    assert max(bites) <= 0.7 * k + 1e-4
    assert along[-1] == pytest.approx(25.0 * k, abs=1e-4)
    assert len(along) == 8, "5 deep in bites of 0.7"


@pytest.mark.parametrize("side", ["inside", "face"])
def test_on_other_sides_too(side: str) -> None:
    more: Any = {"inside": {"floor_d": 25.0, "width": 10.0, "z": -15.0}, "face": {"width": 12.0}}[side]
    proof = prove_job(plan(grooved(side=side, rough="sideways", **more)))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]


def test_a_blade_bears_only_so_much() -> None:
    planned = plan(grooved(rough="sideways", side_ap=2.9))
    trouble = planned.steps[-1].troubles[0]
    assert trouble.field == "side_ap"
    assert trouble.fits == pytest.approx(SIDE_MOST * 3.0)
    assert not plan(grooved(rough="sideways", side_ap=trouble.fits)).steps[-1].troubles
    assert plan(grooved(rough="sideways", side_ap=1e-6)).steps[-1].troubles[0].field == "side_ap"


@settings(max_examples=many(12), deadline=None)
@given(
    st.floats(8.0, 30.0), st.floats(46.0, 58.0), st.floats(0.0, 30.0), st.floats(0.0, 30.0), st.floats(0.3, 2.0),
    st.sampled_from(["right", "left", "middle"]), st.sampled_from(["mm", "inch"]), st.sampled_from(["yes", "no"]),
)  # fmt: skip
def test_any_wide_groove_leaves_nothing_and_gouges_nothing(
    width: float, floor: float, right: float, left: float, ap: float, begin: str, unit: str, finish: str
) -> None:
    own: Any = {
        "width": width,
        "floor_d": floor,
        "right_angle": right,
        "left_angle": left,
        "side_ap": ap,
        "begin": begin,
        "finish": finish,
    }
    if finish == "no":  # a slanted wall is left in steps, however it is roughed
        own |= {"right_angle": 0.0, "left_angle": 0.0}
    planned = plan(grooved(unit, rough="sideways", **own))
    assume(not planned.steps[-1].troubles)
    assert not codes(prove_job(planned), "stop")


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_grooves_stand_where_the_print_has_them(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    apart = "8, 3*4, 7.5" if unit == "mm" else f"{8 * k}, {12 * k}; {7.5 * k}"
    job = grooved(unit, z=-10.0, width=4.0, count=4, apart="own", pitches=apart)
    planned = plan(job)
    assert not planned.steps[-1].troubles
    proof: Any = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    places = [planned.steps[-1].filled.right(j) / k for j in range(4)]  # type: ignore[attr-defined]
    assert places == pytest.approx([-10.0, -18.0, -30.0, -37.5])


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("8, 12", "3 distances"),
        ("8, 12, x", "number is wrong"),
        ("8, 12, -3", "above 0"),
        ("8, 2, 9", "run into each other"),
        ("", "3"),
    ],
)
def test_distances_that_are_none_are_said(text: str, said: str) -> None:
    planned = plan(grooved(z=-10.0, width=4.0, count=4, apart="own", pitches=text))
    assert said in planned.steps[-1].troubles[0].text
    assert planned.steps[-1].troubles[0].field == "pitches"


def test_distances_are_numbers_with_arithmetic() -> None:
    assert distances("8, 3*4; 1 1/2") == [8.0, 12.0, 1.5]
    assert distances("") == []
