"""The order that is offered: fewer tool changes, nothing before what it needs, and the time that it says."""

from __future__ import annotations

from typing import Any, Literal

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, edits, plan
from bastler.job.grouping import stages_in_order
from bastler.job.samples import sample, sample_names
from bastler.proof import prove_whole
from bastler.proof.ordering import better_order, better_orders, tool_changes
from bastler.shapes import PointsPattern
from bastler.steps import (
    CentreHole,
    Countersink,
    Drilling,
    Facing,
    Groove,
    HandOver,
    PartOff,
    RectangularPocket,
    Repeat,
    Stage,
    Step,
    Stop,
    Tapping,
    TurnFacing,
)
from conftest import codes, handed, job_of, many, proof_of, turned


def at(name: str, x: float, y: float) -> PointsPattern:
    return PointsPattern(id=name, name=name, points=((x, y),))


PATTERNS = (at("a", 8.0, 8.0), at("b", 52.0, 8.0), at("c", 52.0, 32.0))


def drilled(ident: str, pattern: str, size: float = 6.8) -> Drilling:
    return Drilling(id=ident, pattern=pattern, diameter=size, depth=8.0)


def pocket(ident: str, at: tuple[float, float], size: tuple[float, float], deep: float, tool: str) -> RectangularPocket:
    """Roughed only, with one tool."""
    (x, y), (length, width) = at, size
    return RectangularPocket(
        id=ident, x=x, y=y, length=length, width=width, depth=deep, tool=tool, corner_radius=3.5, finish="no"
    )  # fmt: skip


def job(*steps: Step) -> Job:
    return job_of(Facing(id="f"), *steps, patterns=PATTERNS)


def ids(of: Job) -> list[str]:
    return [s.id for s in of.steps]


def test_steps_with_one_tool_come_together_and_the_time_is_right() -> None:
    """Three pockets, the first and the last with one tool."""
    larger = pocket("p", (20.0, 26.0), (16.0, 12.0), 3.0, "end-4")
    other = RectangularPocket(
        corner_radius=3.5, id="q", x=38.0, y=20.0, length=10.0, width=10.0, depth=3.0, tool="end-6", finish="no"
    )
    third = RectangularPocket(
        corner_radius=3.5, id="r", x=30.0, y=6.0, length=12.0, width=8.0, depth=3.0, tool="end-6", finish="no"
    )
    now = plan(job(other, larger, third))
    better = better_order(now)
    assert better is not None
    assert ids(better.job) == ["f", "q", "r", "p"]
    assert better.changes == tool_changes(now) - tool_changes(plan(better.job)) == 1
    before, after = proof_of(now.job, 0.4), proof_of(better.job, 0.4)
    assert before.total - after.total == pytest.approx(better.seconds, abs=0.01)
    assert after.proved


def test_what_goes_on_with_a_hole_stays_behind_it() -> None:
    """The two drills are the same, but the countersink and the tap have to come after their own holes."""
    now = plan(
        job(
            drilled("d", "a"),
            Countersink(id="k", pattern="a", diameter=8.0),
            Tapping(id="t", pattern="a", depth=3.0),
            drilled("e", "b"),
        )
    )
    better = better_order(now)
    order = ids(better.job) if better else ids(now.job)
    assert order.index("d") < order.index("k") < order.index("t")


def test_pockets_that_meet_keep_their_order() -> None:
    one = RectangularPocket(
        corner_radius=3.5, id="p", x=20.0, y=20.0, length=20.0, width=14.0, depth=3.0, tool="end-6", finish="no"
    )
    two = RectangularPocket(
        corner_radius=3.5, id="q", x=30.0, y=20.0, length=20.0, width=14.0, depth=5.0, tool="end-4", finish="no"
    )
    three = RectangularPocket(
        corner_radius=3.5, id="r", x=40.0, y=20.0, length=20.0, width=14.0, depth=6.0, tool="end-6", finish="no"
    )
    assert better_order(plan(job(one, two, three))) is None


def test_nothing_goes_past_a_stop_or_a_repetition() -> None:
    one = RectangularPocket(
        corner_radius=3.5, id="p", x=15.0, y=20.0, length=10.0, width=10.0, depth=3.0, tool="end-6", finish="no"
    )
    two = RectangularPocket(
        corner_radius=3.5, id="q", x=45.0, y=10.0, length=10.0, width=10.0, depth=3.0, tool="end-4", finish="no"
    )
    three = RectangularPocket(
        corner_radius=3.5, id="r", x=45.0, y=30.0, length=10.0, width=10.0, depth=3.0, tool="end-6", finish="no"
    )
    assert better_order(plan(job(one, two, three))) is not None
    assert better_order(plan(job(one, two, Stop(id="s"), three))) is None
    assert better_order(plan(job(one, two, Repeat(id="s", how="mirrored", at_x=30.0), three))) is None


def test_nothing_is_offered_while_a_step_cannot_be_planned() -> None:
    assert better_order(plan(job(drilled("d", "a", 7.3), drilled("e", "b")))) is None


@pytest.mark.parametrize("name", sample_names())
def test_an_offer_for_a_sample_proves_like_the_sample(name: str) -> None:
    """On a lathe an order that does not prove is not offered."""
    better = better_order(plan(sample(name)))
    if better is not None:
        assert better.changes > 0
        assert better.job.turns or proof_of(better.job, 0.3).proved


@settings(max_examples=many(15))
@given(st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from([5.0, 6.8])), min_size=2, max_size=5, unique=True))
def test_whatever_the_order_the_offer_cuts_the_same_part(holes: list[tuple[str, float]]) -> None:
    steps = [drilled(f"d{k}", where, size) for k, (where, size) in enumerate(holes)]
    now = job(*steps)
    better = better_order(plan(now))
    if better is not None:
        one, two = proof_of(now, 0.4), proof_of(better.job, 0.4)
        assert (one.heights == two.heights).all()
        assert codes(one, "stop") == codes(two, "stop")
        assert two.total < one.total


def finished_pocket(ident: str, x: float, *, deep: float = 4.0) -> RectangularPocket:
    """Roughed with one tool, finished with another."""
    return RectangularPocket(
        id=ident, x=x, y=20.0, length=16.0, width=20.0, depth=deep, tool="end-6", finish_tool="end-4", corner_radius=3.5
    )


def stages_of(of: Job) -> list[tuple[str, str, str]]:
    return [
        (done.step.id, stage.name, stage.tool.id)
        for _, done, stage in stages_in_order(plan(of).first)
        if isinstance(stage, Stage)
    ]


def test_a_tool_at_a_time_through_the_stages_of_several_steps() -> None:
    """Two pockets beside each other, with a tool for the walls: T3 T3 T4 T4, and not T3 T4 T3 T4."""
    now = job(finished_pocket("p", 15.0), finished_pocket("q", 45.0))
    assert better_order(plan(now)) is None, "no other order of the steps would help"
    (offer,) = better_orders(plan(now))
    assert offer.mixed
    assert offer.changes == 2
    assert [entry[:2] for entry in stages_of(offer.job)[1:]] == [("p", "rough"), ("q", "rough"), ("p", "finish"), ("q", "finish")]
    before, after = proof_of(now, 0.3), proof_of(offer.job, 0.3)
    assert after.proved, after.remarks
    assert (before.heights == after.heights).all()
    assert before.total - after.total == pytest.approx(offer.seconds, abs=0.01)
    assert [s.id for s in offer.job.steps] == [s.id for s in now.steps]


def test_what_is_cut_in_a_pocket_waits_until_its_walls_are_done() -> None:
    """A pocket on the floor of another one begins with the same tool as that, and still comes behind its finishing."""
    inner = RectangularPocket(
        id="i", x=15.0, y=20.0, length=9.0, width=9.0, top=-4.0, depth=3.0, tool="end-6", corner_radius=3.5, finish="no"
    )
    both = answering.answered(job(finished_pocket("p", 15.0), inner), "holding:h1.stage_order", "tools")
    order = [entry[:2] for entry in stages_of(both)]
    assert order.index(("p", "finish")) < order.index(("i", "rough"))
    assert proof_of(both, 0.3).proved


@settings(max_examples=many(10))
@given(st.data())
def test_whatever_is_cut_a_tool_at_a_time_the_same_part_comes_out(data: st.DataObject) -> None:
    places = data.draw(st.lists(st.sampled_from([10.0, 22.0, 38.0, 50.0]), min_size=2, max_size=4, unique=True))
    steps: list[Step] = [finished_pocket(f"p{k}", x, deep=float(data.draw(st.integers(2, 5)))) for k, x in enumerate(places)]
    steps += [drilled(f"d{name}", name) for name in data.draw(st.lists(st.sampled_from("abc"), unique=True))]
    now = job(*data.draw(st.permutations(steps)))
    mixed = answering.answered(now, "holding:h1.stage_order", "tools")
    one, two = proof_of(now, 0.4), proof_of(mixed, 0.4)
    assert (one.heights == two.heights).all()
    assert codes(one, "stop") == codes(two, "stop")
    assert tool_changes(plan(mixed)) <= tool_changes(plan(now))
    assert sorted(stages_of(mixed)) == sorted(stages_of(now))


def test_an_order_names_every_step_once() -> None:
    of = job(drilled("d", "a"))
    with pytest.raises(KeyError):
        edits.steps_ordered(of, ["f"])
    with pytest.raises(KeyError):
        edits.steps_ordered(of, ["f", "d", "d"])


def ring(ident: str, z: float, side: Literal["outside", "inside"] = "outside", floor: float = 52.0) -> Groove:
    return Groove(id=ident, side=side, z=z, width=3.0, floor_d=floor)


def round_hole(ident: str, angle: float, place: str, size: float = 5.0) -> Drilling:
    return Drilling(
        id=ident, where_on="side", at_c=angle, pattern=place, diameter=size, extent="blind", depth=8.0, depth_to="full", spot="no"
    )


def apart(one: Any, other: Any) -> float:
    """How much the half sections of two turned parts differ."""
    return float(one.first.part.symmetric_difference(other.first.part).area)


FRONT = TurnFacing(id="f")
CENTRE = CentreHole(id="d", diameter=8.5, depth=20.0)
SIDES = (at("a", -10.0, 0.0), at("b", -30.0, 0.0))


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_two_grooves_round_a_hole_come_together(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    setup = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0}
    sizes: dict[str, Any] = {name: value * k for name, value in setup.items()}
    grooves = [
        Groove(id=ident, z=z * k, width=round(4.0 * k, 3), floor_d=52.0 * k) for ident, z in (("g", -15.0), ("h", -35.0))
    ]  # fmt: skip
    hole = CentreHole(id="d", diameter=8.5 if unit == "mm" else 0.421875, depth=20.0 * k)
    now = plan(turned(FRONT, grooves[0], hole, grooves[1], unit=unit, **sizes))
    better = better_order(now)
    assert better is not None
    assert ids(better.job) == ["f", "g", "h", "d"]
    assert better.changes == tool_changes(now) - tool_changes(plan(better.job)) == 1
    was, will = prove_whole(now), prove_whole(plan(better.job))
    assert will.proved
    assert was.total - will.total == pytest.approx(better.seconds)
    assert apart(was, will) < 1e-6
    assert better_order(now, was) == better


def test_on_a_lathe_what_meets_and_what_takes_the_part_off_stay_where_they_are() -> None:
    """A groove into the hole and one on the other's floor; a thread, which says nothing of what it takes; and what parts off."""
    assert better_order(plan(turned(FRONT, ring("g", -15.0), CENTRE, ring("h", -35.0)))) is not None
    drilled_on = [
        CentreHole(id=i, diameter=d, depth=deep) for i, d, deep in (("1", 8.5, 10.0), ("2", 20.0, 8.0), ("3", 8.5, 30.0))
    ]
    assert better_order(plan(turned(FRONT, *drilled_on))) is None
    bored = CentreHole(id="d", diameter=20.0, depth=30.0)
    inner = ring("h", -12.0, "inside", 24.0)
    assert better_order(plan(turned(FRONT, ring("k", -40.0, "inside", 24.0), bored, inner, form="tube", bore=20.0))) is None
    tapped = CentreHole(id="t", work="tap", tool="tap-m10", depth=20.0)
    between = (FRONT, ring("g", -15.0), CentreHole(id="d", diameter=8.5, depth=30.0), tapped, ring("h", -35.0))
    better = better_order(plan(turned(*between)))
    assert better is None
    assert better_order(plan(turned(FRONT, ring("g", -15.0), PartOff(id="p", z=-60.0), ring("h", -35.0)))) is None


def test_driven_tools_change_places_on_one_plane_alone() -> None:
    def job(*steps: Step) -> Job:
        first = handed(FRONT, *steps)
        return edits.replace(first, patterns=SIDES, holdings=first.holdings[:1])

    holes = [round_hole("1", 0.0, "a"), round_hole("2", 0.0, "a", 6.8), round_hole("3", 0.0, "b")]
    one_axis = edits.replace(holes[2], pattern="a", depth=20.0)
    assert better_order(plan(job(holes[0], holes[1], one_axis))) is None, "they are drilled on one axis"
    third = PointsPattern(id="c", name="c", points=((-20.0, 12.0),))
    beside = edits.replace(job(holes[0], edits.replace(holes[1], pattern="c"), holes[2]), patterns=(*SIDES, third))
    better = better_order(plan(beside))
    assert better is not None
    assert ids(better.job) == ["f", "1", "3", "2"]
    turning = job(holes[0], ring("g", -20.0, floor=44.0), holes[2])
    assert better_order(plan(turning)) is None, "nothing driven goes past what is turned"
    elsewhere = job(holes[0], edits.replace(holes[1], at_c=90.0), holes[2])
    assert better_order(plan(elsewhere)) is None, "nor past another side"


def test_a_hand_over_stays_the_last() -> None:
    job = handed(FRONT, ring("g", -15.0, floor=44.0), CentreHole(id="d", diameter=8.5, depth=20.0), HandOver(id="h"))
    assert better_order(plan(job)) is None
    more = edits.replace(job.holdings[0], steps=(*job.holdings[0].steps[:3], ring("k", -8.0, floor=44.0), job.steps[-1]))
    better = better_order(plan(edits.replace(job, holdings=(more, *job.holdings[1:]))))
    if better is not None:
        assert ids(better.job)[-1] == "h"


@settings(max_examples=many(12))
@given(st.lists(st.sampled_from(["g", "h", "d", "k"]), min_size=3, max_size=4, unique=True), st.sampled_from([8.0, 46.0]))
def test_whatever_the_order_the_offer_turns_the_same_part(order: list[str], floor: float) -> None:
    every = {"g": ring("g", -15.0), "h": ring("h", -17.5, floor=floor), "d": CENTRE, "k": ring("k", -40.0)}
    now = plan(turned(FRONT, *(every[name] for name in order)))
    better = better_order(now)
    if better is not None:
        was, will = prove_whole(now), prove_whole(plan(better.job))
        assert apart(was, will) < 1e-6
        assert codes(was.first, "stop") >= codes(will.first, "stop")
        assert will.total < was.total


def test_a_repetition_calls_no_tool_twice() -> None:
    """What one tool does in a run and in its repetition is done together; where both meet it is not."""
    first = finished_pocket("p", 15.0)
    now = job(first, Repeat(id="s", how="mirrored", at_x=30.0))
    mixed = answering.answered(now, "holding:h1.stage_order", "tools")
    tools = [tool for _, _, tool in stages_of(mixed)]
    assert [tool for k, tool in enumerate(tools) if tools[k - 1 : k] != [tool]] == ["face-50", "end-6", "end-4"]
    one, two = proof_of(now, 0.3), proof_of(mixed, 0.3)
    assert two.proved, two.remarks
    assert (one.heights == two.heights).all()
    meets = answering.answered(job(first, Repeat(id="s", how="mirrored", at_x=20.0)), "holding:h1.stage_order", "tools")
    assert [tool for _, _, tool in stages_of(meets)][1:] == ["end-6", "end-4", "end-6", "end-4"]
