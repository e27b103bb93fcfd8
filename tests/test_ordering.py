"""The order that is offered: fewer tool changes, nothing before what it needs, and the time that it says."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, edits, plan
from bastler.job.samples import sample
from bastler.proof.ordering import better_order, tool_changes
from bastler.shapes import PointsPattern
from bastler.steps import Countersink, Drilling, Facing, RectangularPocket, Repeat, Step, Stop, Tapping
from conftest import MILLED, codes, job_of, many, proof_of


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


@pytest.mark.parametrize("name", MILLED)
def test_an_offer_for_a_sample_proves_like_the_sample(name: str) -> None:
    better = better_order(plan(sample(name)))
    if better is not None:
        proof = proof_of(better.job, 0.3)
        assert proof.proved
        assert better.changes > 0


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


def test_an_order_names_every_step_once() -> None:
    of = job(drilled("d", "a"))
    with pytest.raises(KeyError):
        edits.steps_ordered(of, ["f"])
    with pytest.raises(KeyError):
        edits.steps_ordered(of, ["f", "d", "d"])
