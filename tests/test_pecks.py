"""A blade in pecks, both sides of a groove on their own, and the edge behind a part-off: what is cut is what was asked."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.samples import sample
from bastler.motion import Cut
from bastler.motion.holes import bitten
from bastler.proof import prove_job
from bastler.steps import Groove, PartOff, TurnFacing, TurnFinishing
from conftest import many, turned
from outlines import along, up
from outlines import outline as outline_of

INCH = 25.4


def verdict_of(job: Job) -> str:
    return prove_job(plan(job)).verdict


@given(st.floats(0.01, 200.0), st.floats(0.1, 20.0), st.floats(0.2, 1.0), st.floats(0.1, 2.0))
def test_each_peck_is_a_share_of_the_last_but_never_under_the_least(
    depth: float, first: float, shrink: float, least: float
) -> None:
    reached = bitten(depth, first, shrink, least)
    bites = [b - a for a, b in zip([0.0, *reached], reached, strict=False)]
    assert reached[-1] == depth
    expected = first
    for bite in bites[:-1]:
        assert bite == pytest.approx(expected, abs=1e-9)
        expected = max(expected * shrink, least) if shrink < 1 else expected
    assert bites[-1] <= expected + 1e-9


@pytest.mark.parametrize("pecking", ["yes", "out"])
@pytest.mark.parametrize(("name", "ident"), [("drum-spindle", "s5"), ("gland-nut", "s8"), ("winch-handle", "s5")])
def test_samples_come_out_the_same_in_pecks(name: str, ident: str, pecking: str) -> None:
    job = sample(name)
    assert isinstance(next(s for s in job.steps if s.id == ident), Groove | PartOff)
    once = prove_job(plan(job))
    for field, value in (("pecking", pecking), ("shrink", 70.0)):
        job = answering.answered(job, f"step:{ident}.{field}", value)
    pecked = prove_job(plan(job))
    assert pecked.verdict == once.verdict == "proved"
    assert abs(pecked.part.symmetric_difference(once.part).area) < 5e-5 * once.part.area
    assert len(pecked.program.lines) > len(once.program.lines) + 4


@pytest.mark.parametrize(("name", "ident"), [("gland-nut", "s8"), ("coupling-nut", "s8"), ("drum-spindle", "s7")])
@pytest.mark.parametrize("answers", [{"turns_on": 13.0}, {"turns_on": 8.0, "chips": "back"}, {"pecking": "yes", "turns_on": 9.0}])
def test_a_blade_comes_through_in_one_move_whatever_breaks_its_feed(name: str, ident: str, answers: dict[str, Any]) -> None:
    """Parted at the bore, the part falls as the blade gets there: a ridge by the blade's corner stayed on it where a rest came
    just then, as big as 0.01 mm, and the proof could say no more than that it was left."""
    job = sample(name)
    step = next(p.filled for p in plan(job).steps if p.step.id == ident)
    assert isinstance(step, PartOff)
    for field, value in ({"chips": "rest", "slow_f": step.f, "peck": 5 * (step.f or 0.0)} | answers).items():
        job = answering.answered(job, f"step:{ident}.{field}", value)
    assert verdict_of(job) == "proved"


def test_a_slower_feed_from_within_the_bore_begins_before_it() -> None:
    job = answering.answered(sample("gland-nut"), "step:s8.slow_d", 0.9)
    assert verdict_of(job) == "proved"


def test_pecks_get_smaller_and_all_the_way_out_is_out_of_the_groove() -> None:
    steps = (TurnFacing(id="f"), PartOff(id="p", edge_break=0.0, pecking="out", peck=4.0, shrink=50.0, least_peck=1.5))
    stage = plan(turned(*steps)).steps[-1].stages[0]
    heights = [m.v for m in stage.moves if hasattr(m, "v") and getattr(m, "feed", 0) > 0]
    outs = [m.v for m in stage.moves if type(m).__name__ == "Go"]
    begin = heights[0]
    assert [begin - v for v in heights[1:5]] == pytest.approx([4.0, 6.0, 7.5, 9.0])
    assert sum(v > 30.0 for v in outs) >= len(heights) - 2
    assert verdict_of(turned(*steps)) == "proved"


def test_an_absurd_number_of_pecks_is_refused_at_once() -> None:
    shrinking = PartOff(id="g", pecking="out", peck=1.0, shrink=20.0, least_peck=1e-5)
    for step in (Groove(id="g", pecking="yes", peck=1e-5), shrinking):
        found = plan(turned(TurnFacing(id="f"), step)).steps[-1].troubles
        assert any(t.field == "peck" and "pecks" in t.text for t in found), step


def gone(answers: dict[str, Any], deep: float) -> float:
    """The area that a groove takes of the half section, worked out by hand."""
    tangents = {k: math.tan(math.radians(answers[k])) for k in ("right_angle", "left_angle")}
    area = deep * answers["width"] + deep * deep * sum(tangents.values()) / 2
    for angle, edge, corner in (("right_angle", "edge_break", "corner_radius"), ("left_angle", "left_edge", "left_radius")):
        turn = math.radians(90.0 - answers[angle])
        e, r = answers[edge], answers[corner]
        rounded = math.tan(turn / 2) - turn / 2  # of radius 1, between two lines and the arc that touches both
        area += e * e * math.sin(turn) / 2 if answers["edges_are"] == "edge" else e * e * rounded
        area -= r * r * rounded
    return area


@settings(max_examples=many(14))
@given(st.data())
def test_each_side_of_a_groove_has_its_own_edge_and_corner(data: st.DataObject) -> None:
    draw = data.draw
    side: Any = draw(st.sampled_from(["outside", "face", "inside"]))
    k = 1.0 if (unit := draw(st.sampled_from(["mm", "inch"]))) == "mm" else 1 / INCH
    shape: dict[str, Any] = {
        "width": draw(st.floats(5.0, 9.0)) * k,
        "right_angle": draw(st.sampled_from([0.0, 15.0])),
        "left_angle": draw(st.sampled_from([0.0, 10.0, 30.0])),
        "edges_are": draw(st.sampled_from(["edge", "radius"])),
        "edge_break": draw(st.sampled_from([0.0, 0.3, 0.8])) * k,
        "left_edge": draw(st.sampled_from([0.0, 0.5, 1.0])) * k,
        "corner_radius": draw(st.sampled_from([0.4, 0.8])) * k,
        "left_radius": draw(st.sampled_from([0.4, 1.1])) * k,
    }
    deep = draw(st.floats(2.2, 2.9)) * k
    bore = 24.0 * k
    floor = {"outside": 60.0 * k - 2 * deep, "inside": bore + 2 * deep, "face": 30.0}[side]
    place: dict[str, Any] = {"z": -20.0 * k, "floor_d": floor, "depth": deep, "outer_d": 48.0 * k}
    step = Groove(id="g", side=side, **place, **shape)
    sizes: dict[str, Any] = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0}
    job = turned(
        TurnFacing(id="f"), step, unit=unit, form="tube" if side == "inside" else "bar", bore=bore,
        **{name: value * k for name, value in sizes.items()},
    )  # fmt: skip
    planned = plan(job)
    assume(not any(s.troubles for s in planned.steps))
    proof = prove_job(planned)
    assert not {r.code for r in proof.remarks if r.level == "stop"}, [r.text for r in proof.remarks]
    without = prove_job(plan(answering.answered(job, "step:g.on", False)))
    taken = (without.part.area - proof.part.area) / k**2
    expected = gone(shape, deep) / k**2
    assert taken == pytest.approx(expected, abs=0.04)


def answers(job: Job) -> tuple[float | None, ...]:
    groove = plan(job).steps[-1].filled
    assert isinstance(groove, Groove)
    return groove.edge_break, groove.left_edge, groove.corner_radius, groove.left_radius


def test_both_sides_are_alike_until_one_is_said() -> None:
    job = turned(TurnFacing(id="f"), Groove(id="g", edge_break=0.3, corner_radius=0.5, width=6.0))
    assert answers(job) == (0.3, 0.3, 0.5, 0.5)
    assert answers(answering.answered(job, "step:g.left_edge", 0.0)) == (0.3, 0.0, 0.5, 0.5)


@settings(max_examples=many(8))
@given(st.floats(0.2, 2.0), st.sampled_from([0.0, 0.5, 1.5]), st.booleans(), st.sampled_from(["mm", "inch"]))
def test_the_edge_behind_the_blade_is_broken_too(behind: float, front: float, tube: bool, unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    sizes = {"diameter": 50.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0, "bore": 24.0}
    form: Any = {"form": "tube"} if tube else {}
    bar: dict[str, Any] = {name: value * k for name, value in sizes.items()} | form
    steps = (TurnFacing(id="f"), PartOff(id="p", edge_break=front * k, break_behind=behind * k))
    job = turned(*steps, unit=unit, **bar)
    assume(not any(s.troubles for s in plan(job).steps))
    plain = turned(steps[0], PartOff(id="p", edge_break=front * k), unit=unit, **bar)
    proof, before = prove_job(plan(job)), prove_job(plan(plain))
    assert not {r.code for r in proof.remarks if r.level == "stop"}, [r.text for r in proof.remarks]
    stays, stayed = (min(p.part.geoms, key=lambda g: g.bounds[0]) for p in (proof, before))
    assert (stayed.area - stays.area) / k**2 == pytest.approx(behind**2 / 2, abs=2e-3)
    off = stayed.difference(stays).buffer(-1e-4 * k)
    assert off.is_empty or off.bounds[2] == pytest.approx(stayed.bounds[2], abs=2e-3 * k)
    fronts = [max(p.part.geoms, key=lambda g: g.bounds[2]) for p in (proof, before)]
    assert fronts[0].symmetric_difference(fronts[1]).area < 1e-3 * k**2


def test_a_break_behind_the_blade_that_cannot_be() -> None:
    """A shoulder near behind the blade, nothing behind it, and one larger than the wall."""
    shaft = outline_of(id="o", name="o", d=30.0, z=0.0, pieces=(along(-64.0), up(62.0)))
    facing, turning = TurnFacing(id="f"), TurnFinishing(id="e", outline="o")

    def trouble(behind: float, *before: Any, **setup: Any) -> str:
        planned = plan(turned(facing, *before, PartOff(id="p", break_behind=behind), outlines=(shaft,), **setup))
        return next((t.text for t in planned.steps[-1].troubles if t.field == "break_behind"), "")

    assert "no longer Ø30" in trouble(1.0, turning)
    assert trouble(1.0) == ""
    assert trouble(6.0, form="tube", bore=52.0) == "Larger than the wall."
    assert trouble(1.0, length=62.0) in {"Nothing stays behind the blade.", ""}


def test_a_blade_that_would_meet_the_jaws_behind_is_said() -> None:
    job = turned(TurnFacing(id="f"), PartOff(id="p", break_behind=1.0), stick_out=65.0)
    found = {r.code for r in prove_job(plan(job)).remarks if r.level == "stop"}
    assert found & {"jaws-hit", "chuck-hit"}


def lip_of(*steps: Groove, **setup: Any) -> tuple[str | None, tuple[str, float] | None]:
    planned = plan(turned(TurnFacing(id="f"), *steps, **setup)).steps[-1]
    assert isinstance(planned.filled, Groove)
    return planned.filled.begin, planned.filled.thin_lip(planned.turned)


@pytest.mark.parametrize(
    ("answers", "thin"),
    [
        ({"z": -1.2}, 1.2),
        ({"z": -1.2, "right_angle": 15.0}, 1.2 - 2.5 * math.tan(math.radians(15.0))),
        ({"z": -4.9}, 4.9),
        ({"side": "inside", "z": -1.2, "floor_d": 30.0}, 1.2),
        ({"side": "face", "outer_d": 58.0, "depth": 3.0}, 1.0),
    ],
)
def test_a_groove_begins_at_its_thin_lip(answers: dict[str, Any], thin: float) -> None:
    bar: dict[str, Any] = {"form": "tube", "bore": 24.0} if answers.get("side") == "inside" else {}
    begin, lip = lip_of(Groove(id="g", **{"width": 4.0, "floor_d": 50.0} | answers), **bar)
    assert begin == "right"
    assert lip is not None
    assert lip[0] == "right"
    assert lip[1] == pytest.approx(thin, abs=1e-6)


def test_with_a_back_on_both_sides_it_begins_in_the_middle_and_a_thin_one_may_be_left() -> None:
    assert lip_of(Groove(id="g", z=-5.1, width=4.0, floor_d=50.0)) == ("middle", None)
    first = Groove(id="a", z=-20.0, width=4.0, floor_d=50.0)
    begin, lip = lip_of(first, Groove(id="g", z=-14.0, width=4.0, floor_d=50.0))
    assert begin == "left"
    assert lip == ("left", pytest.approx(2.0, abs=1e-6))
    assert lip_of(first, Groove(id="g", z=-14.0, width=4.0, floor_d=50.0, begin="right"))[0] == "right"
    assert lip_of(Groove(id="g", z=-14.0, width=4.0, floor_d=70.0)) == ("middle", None)  # there is nothing there
    assert lip_of(Groove(id="g", z=-14.0, width=4.0, floor_d=50.0), diameter=50.0) == ("middle", None)


@pytest.mark.parametrize("begin", ["right", "left", "middle"])
def test_the_first_plunge_is_where_it_begins(begin: Any) -> None:
    step = Groove(id="g", z=-20.0, width=12.0, floor_d=50.0, begin=begin, finish="no")
    stage = plan(turned(TurnFacing(id="f"), step)).steps[-1].stages[0]
    plunges = [m.u for m in stage.moves if isinstance(m, Cut) and m.v == pytest.approx(25.0, abs=1e-6)]
    order = {"right": plunges[0] == max(plunges), "left": plunges[0] == min(plunges)}
    middle = min(plunges) < plunges[0] < max(plunges)
    assert order.get(begin, middle)


@pytest.mark.parametrize("machine", ["lathe-200", "lathe-bench"])
@pytest.mark.parametrize("how", [{}, {"pecking": "out"}, {"chips": "rest"}, {"slow_d": 20.0}])
def test_a_part_off_turns_no_faster_near_the_centre_than_is_wanted(machine: str, how: dict[str, Any]) -> None:
    job = turned(TurnFacing(id="f"), PartOff(id="p", slow_n=300.0, **how), machine=machine)
    planned = plan(job)
    step: Any = planned.steps[-1].filled
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    trace: Any = proof.trace
    own = (trace.tool == trace.tool[-1]) & (trace.kind == 1)
    slow = own & (trace.start[:, 0] <= step.slow_d / 2 + 1e-6)
    assert slow.any()
    assert trace.speed[slow].max() <= 300.0
    assert trace.speed[own & ~slow].min() > 0.0
    as_before = prove_job(plan(answering.answered(job, "step:p.slow_n", 0.0))).trace
    blade = (as_before.tool == as_before.tool[-1]) & (as_before.kind == 1)
    assert (as_before.speed[blade].max() > 300.0) == (machine == "lathe-200")


def test_turns_that_no_spindle_makes_are_said() -> None:
    for n in (5.0, 9000.0):
        assert plan(turned(TurnFacing(id="f"), PartOff(id="p", slow_n=n))).steps[-1].troubles[0].field == "slow_n"


def test_both_corners_of_a_narrow_floor_run_out_on_it() -> None:
    """The second wall ended a hundredth above the floor, where its corner came near to that: 0.007 stood beside it."""
    groove = Groove(
        id="g", z=-12.83052889688403, width=5.888667001548535, floor_d=50.773119020230816, right_angle=30.0, left_angle=30.0,
        corner_radius=0.25, begin="middle",
    )  # fmt: skip
    assert verdict_of(turned(TurnFacing(id="f"), groove, stick_out=100.0)) == "proved"
