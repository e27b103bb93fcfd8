"""The hole recipe: sizes from the standards, depths that fit each other, stages that can be changed and left out."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.cutting import NoSuchScrewError, clearance_hole, counterbore, countersink, largest, thread_of
from bastler.job import Job, answering, plan
from bastler.job.planned import PlannedStep
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, FinishedHole
from conftest import codes, job_of, many, proof_of

PATTERN = PointsPattern(id="p", name="two", points=((15.0, 12.0), (45.0, 28.0)))


def recipe(high: float = 30.0, **answers: Any) -> Job:
    return job_of(Facing(id="f"), FinishedHole(id="h", pattern="p", **answers), patterns=(PATTERN,), size_z=high)


def planned(job: Job) -> PlannedStep:
    found = plan(job).step("h")
    assert found is not None
    return found


def tools(job: Job) -> list[tuple[str, str]]:
    return [(s.name, s.tool.id) for s in planned(job).stages]


@pytest.mark.parametrize(
    ("answers", "expected"),
    [
        ({"thread": "M8"}, [("spot", "spot-10"), ("drill", "drill-6.8"), ("tap", "tap-m8")]),
        ({"thread": "M10"}, [("spot", "spot-10"), ("drill", "drill-8.5"), ("chamfer", "chamfer-12"), ("tap", "tap-m10")]),
        (
            {"work": "ream", "diameter": 10.0},
            [("spot", "spot-10"), ("drill", "drill-9.8"), ("chamfer", "chamfer-12"), ("ream", "ream-10")],
        ),
        ({"work": "screw", "thread": "M6"}, [("spot", "spot-10"), ("drill", "drill-6.6"), ("counterbore", "end-6")]),
        (
            {"work": "screw", "thread": "M6", "head": "countersunk"},
            [("spot", "spot-10"), ("drill", "drill-6.6"), ("chamfer", "chamfer-20")],
        ),
        ({"work": "plain", "diameter": 5.0}, [("spot", "spot-10"), ("drill", "drill-5")]),
    ],
    ids=["M8", "M10", "10 H7", "M6 socket head", "M6 countersunk", "drilled"],
)  # fmt: skip
@pytest.mark.parametrize("extent", ["blind", "through"])
def test_the_stages_and_their_tools_follow_from_what_the_print_says(
    answers: dict[str, Any], expected: list[tuple[str, str]], extent: str
) -> None:
    job = recipe(**answers, extent=extent)
    assert tools(job) == expected
    proof = proof_of(job, 0.1)
    assert proof.proved
    assert codes(proof) == set()


def test_a_thread_is_drilled_deeper_by_the_lead_and_a_pitch_and_its_edge_is_a_little_wider() -> None:
    full = planned(recipe(thread="M8", depth=12.0)).filled
    assert isinstance(full, FinishedHole)
    assert full.lead == pytest.approx(3 * 1.25)
    assert full.drill_depth == pytest.approx(math.ceil((12.0 + 3.75 + 1.25) * 10) / 10)
    assert full.edge == "spot"
    assert full.spot_diameter == full.edge_diameter == pytest.approx(8.4)


def test_a_counterbore_lies_as_deep_and_as_wide_as_the_standard_says() -> None:
    proof = proof_of(recipe(work="screw", thread="M6", extent="through"), 0.1)
    heights = proof.heights
    assert proof.comparison.volume("left") == proof.comparison.volume("gouge") == 0.0
    assert heights.max() == pytest.approx(0.0)
    through = float((heights < -28.9).sum()) * 0.01
    assert through == pytest.approx(2 * math.pi / 4 * 6.6**2, rel=5e-3)
    seat = float(((heights < -6.3) & (heights > -6.5)).sum()) * 0.01
    assert seat == pytest.approx(2 * math.pi / 4 * (11.0**2 - 6.6**2), rel=1.5e-2)


@pytest.mark.parametrize(
    ("off", "left"),
    [("spot", ["drill", "chamfer", "tap"]), ("end", ["spot", "drill", "chamfer"])],
)
def test_any_stage_can_be_left_out(off: str, left: list[str]) -> None:
    without: dict[str, Any] = {off: "no"}
    job = recipe(thread="M8", edge="own", **without)
    assert [name for name, _ in tools(job)] == left
    assert proof_of(job, 0.2).proved


def test_holes_that_are_there_already_are_only_tapped() -> None:
    drilled = Drilling(id="d", pattern="p", diameter=6.8, depth=20.0)
    last = FinishedHole(id="h", pattern="p", spot="no", drill="no", edge="none", depth=12.0)
    job = job_of(Facing(id="f"), drilled, last, patterns=(PATTERN,), size_z=30.0)
    assert tools(job) == [("tap", "tap-m8")]
    assert proof_of(job, 0.2).proved
    without = job_of(Facing(id="f"), last, patterns=(PATTERN,), size_z=30.0)
    assert [t.field for t in planned(without).troubles] == ["pattern"]
    shallow = answering.answered(job, "step:d.depth", 13.0)
    assert [t.field for t in plan(shallow, plan(job)).step("h").troubles] == ["depth"]


def test_a_hole_of_a_hundred_metres_to_be_reamed_is_said() -> None:
    found = planned(recipe(work="ream", diameter=99999.0)).troubles
    assert found
    assert all(t.text for t in found)


@pytest.mark.parametrize(
    ("answers", "field", "fits"),
    [
        ({"thread": "M9"}, "thread", None),
        ({"thread": "M12"}, "thread", None),
        ({"thread": "R 1/8"}, "thread", None),
        ({"work": "screw", "thread": "M7"}, "thread", None),
        ({"drill_diameter": 5.0}, "drill_diameter", 6.8),
        ({"drill_diameter": 7.0}, "drill_diameter", 6.8),
        ({"drill_depth": 13.0}, "depth", 9.25),
        ({"depth": 25.0}, "drill_depth", None),
        ({"spot_diameter": 5.0}, "spot_diameter", 8.4),
        ({"spot": "no", "edge": "spot"}, "edge", "own"),
        ({"spot": "no", "drill": "no", "end": "no", "edge": "none"}, "drill", "yes"),
        ({"end_vf": 500.0, "end_n": 500.0}, "end_vf", 625.0),
        ({"pattern": ""}, "pattern", None),
    ],
)
def test_what_does_not_fit_is_said_of_the_recipes_own_answer(answers: dict[str, Any], field: str, fits: object) -> None:
    (found,) = planned(
        recipe(**{"thread": "M8"} | answers) if "pattern" not in answers else answering.answered(recipe(), "step:h.pattern", "")
    ).troubles
    assert (found.field, found.fits) == (field, fits)


def test_a_drill_depth_made_less_by_hand_lets_the_tap_bottom_out() -> None:
    """A planted fault, in the text."""
    made = plan(recipe(thread="M8", depth=12.0))
    text = post(made.first).text
    drilled = next(line for line in text.splitlines() if "G83" in line)
    shallow = " ".join("Z-15" if word.startswith("Z") else word for word in drilled.split())
    assert shallow != drilled
    proof = prove_job(made, Program.foreign(text.replace(drilled, shallow)), cell_mm=0.2)
    assert "tap-bottoming" in codes(proof, "stop")


@settings(max_examples=many(20))
@given(
    st.sampled_from(["tap", "ream", "screw", "plain"]),
    st.sampled_from(["M6", "M8", "M10"]),
    st.sampled_from([5.0, 6.0, 10.0]),
    st.floats(2.0, 24.0),
    st.sampled_from(["blind", "through"]),
    st.sampled_from(["none", "socket", "countersunk"]),
    st.sampled_from([None, "spot", "own", "none"]),
)
def test_whatever_is_asked_it_is_said_or_it_is_clean(
    work: str, thread: str, diameter: float, depth: float, extent: str, head: str, edge: str | None
) -> None:
    job = recipe(24.0, work=work, thread=thread, diameter=diameter, depth=depth, extent=extent, head=head, edge=edge)
    if not planned(job).troubles:
        proof = proof_of(job, 0.2)
        assert not codes(proof, "stop") | codes(proof, "caution")


@pytest.mark.parametrize("depth", [2.0, 3.0, 8.0])
def test_a_head_in_a_hole_too_shallow_for_the_blunt_tip_is_said(depth: float) -> None:
    """Found by the test above: the tip goes some 5 deep, where a hole of 6.6 drilled 3 deep is no longer as wide."""
    job = recipe(24.0, depth=depth, work="screw", thread="M6", extent="blind", head="countersunk", edge="own")
    found = planned(job).troubles
    assert [t.field for t in found] == (["sink_tool"] if depth < 5.0 else [])
    assert all("blunt tip" in t.text for t in found)
    if not found:
        assert not codes(proof_of(job, 0.2), "stop")


# -- the tables, against values as they are printed ----------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "fit", "hole"),
    [("M3", "medium", 3.4), ("M6", "fine", 6.4), ("M8", "medium", 9.0), ("M10", "coarse", 12.0), ("M24", "fine", 25.0)],
)  # fmt: skip
def test_clearance_holes_of_iso_273(name: str, fit: str, hole: float) -> None:
    assert clearance_hole(thread_of(name), fit) == hole  # type: ignore[arg-type]


def test_clearance_and_counterbore_of_inch_screws() -> None:
    screw = thread_of("1/4-20")
    assert clearance_hole(screw, "medium") == pytest.approx(0.28125 * 25.4)
    assert counterbore(screw) == pytest.approx((0.4375 * 25.4, 0.25 * 25.4))


@pytest.mark.parametrize(("name", "bore", "deep"), [("M4", 8.0, 4.4), ("M6", 11.0, 6.4), ("M8", 15.0, 8.6), ("M12", 20.0, 12.6)])
def test_counterbores_of_din_974(name: str, bore: float, deep: float) -> None:
    assert counterbore(thread_of(name)) == pytest.approx((bore, deep))


@pytest.mark.parametrize(("name", "wide"), [("M3", 6.3), ("M5", 10.4), ("M8", 17.3)])
def test_countersinks_of_iso_15065(name: str, wide: float) -> None:
    assert countersink(thread_of(name)) == wide


@pytest.mark.parametrize(
    "ask",
    [
        lambda: clearance_hole(thread_of("M7"), "fine"),
        lambda: counterbore(thread_of("G 1/4")),
        lambda: countersink(thread_of("M12")),
    ],
)
def test_a_screw_that_is_not_in_the_table_is_said(ask: object) -> None:
    with pytest.raises(NoSuchScrewError, match="M"):
        ask()  # type: ignore[operator]


@pytest.mark.parametrize(
    ("diameter", "grade", "most"),
    [(6.0, "H7", 6.012), (10.0, "H7", 10.015), (10.5, "H7", 10.518), (25.0, "H8", 25.033), (3.0, "H11", 3.06)],
)
def test_tolerances_of_iso_286(diameter: float, grade: str, most: float) -> None:
    assert largest(diameter, grade) == pytest.approx(most)  # type: ignore[arg-type]
    assert largest(600.0, "H7") is None


@pytest.mark.parametrize(
    ("name", "drill", "percent"),
    [("M8", 6.8, 73.9), ("M6", 5.0, 77.0), ("M10", 8.5, 77.0), ("1/4-20", 0.201 * 25.4, 75.4), ("#10-24", 0.1495 * 25.4, 74.8)],
)
def test_percentages_of_thread_as_tap_drill_tables_print_them(name: str, drill: float, percent: float) -> None:
    """The last two from the table of tap drills in Machinery's Handbook (75 %, 75 %)."""
    thread = thread_of(name)
    assert thread.percent(drill) == pytest.approx(percent, abs=0.1)
    assert thread.drill(thread.percent(drill)) == pytest.approx(drill)


def test_numbered_threads_have_the_diameters_of_asme_b1_1() -> None:
    assert thread_of("#4-40").major == pytest.approx(0.112 * 25.4)
    assert thread_of("No. 10-32").name == "#10-32 UNF"
