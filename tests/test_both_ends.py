"""One outline for both ends of a part: its front in one holding, what lies behind a line from the other end."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.chuck import ChuckHolding
from bastler.proof import prove_whole
from bastler.shapes import draw
from bastler.shapes.chain import length_of, points_on
from bastler.shapes.parted import crosses_once, from_behind, in_front, widest
from bastler.steps import TurnFacing, TurnFinishing, TurnRoughing
from conftest import turned
from outlines import along, curve, up
from outlines import outline as outline_of

LONG = 80.0


def pin(k: float = 1.0, d: float = 56.0) -> Any:
    """A pin with a collar in its middle and a step at either end; what lies behind the collar falls."""
    behind = (along(-45 * k), up(44 * k), along(-60 * k), up(30 * k), along(-LONG * k))
    pieces = (along(-20 * k), up(40 * k), along(-30 * k), up(d * k), *behind)
    return outline_of(id="o", name="pin", d=24 * k, z=0.0, pieces=pieces)


def knob() -> Any:
    """A ball of Ø40 on a neck of Ø20, 60 long."""
    neck = -20.0 - math.sqrt(400.0 - 100.0)
    ball = curve(40.0, -20.0, 20.0), curve(20.0, neck, 20.0)
    return outline_of(id="o", name="knob", d=0.0, z=0.0, pieces=(*ball, along(-60.0)))


def both(outline: Any, unit: str = "mm", long: float = LONG, **behind: Any) -> Job:
    """A part turned in front in the chuck, and behind the line once it is turned round by hand."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    first = tuple(cls(id=name, outline="o", part="front") for cls, name in ((TurnRoughing, "r"), (TurnFinishing, "e")))
    steps = tuple(cls(id=name, outline="o", part="behind", **behind) for cls, name in ((TurnRoughing, "q"), (TurnFinishing, "d")))
    size: Any = {"diameter": 60 * k, "length": (long + 2) * k, "over_front": k, "over_back": k, "finished": long * k}
    job = turned(TurnFacing(id="f"), *first, outlines=(outline,), unit=unit, stick_out=(long / 2 + 12) * k, **size)
    other = ChuckHolding(id="h2", follows="over", stick_out=(long / 2 + 12) * k, steps=(TurnFacing(id="g"), *steps))
    return msgspec.structs.replace(job, holdings=(*job.holdings, other))


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_pin_is_turned_from_both_ends_by_one_outline(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    planned = plan(both(pin(k), unit))
    assert not [t for held in planned.holdings for done in held.steps for t in done.troubles]
    proof: Any = prove_whole(planned)
    assert [one.verdict for one in proof.holdings] == ["proved", "proved"], [r.text for r in proof.remarks]
    part = shapely.transform(
        proof.holdings[1].goes if hasattr(proof.holdings[1], "goes") else proof.holdings[1].part, lambda p: p
    )
    for z, d in ((-10.0, 30.0), (-30.0, 44.0), (-42.0, 56.0)):  # seen from the back
        cut = part.intersection(shapely.LineString([(z * k, 0.0), (z * k, 100.0)]))
        assert 2 * cut.bounds[3] == pytest.approx(d * k, abs=0.002 * k)


def test_without_going_over_the_line_a_ridge_is_told() -> None:
    proof = prove_whole(plan(both(pin(), over=0.0)))
    assert "left" in {r.code for r in proof.holdings[1].remarks}


def test_the_line_is_proposed_where_the_part_is_largest_and_moves_along_with_it() -> None:
    planned = plan(both(pin()))
    assert [done.filled.line_z for done in planned.holdings[0].steps[1:]] == [-37.5, -37.5]  # type: ignore[attr-defined]
    moved = plan(answering.answered(both(pin()), "outline:o.segments.4.z", -41.0))
    assert moved.holdings[0].steps[1].filled.line_z == -35.5  # type: ignore[attr-defined]


def test_a_ball_from_both_sides_is_a_ball() -> None:
    job = both(knob(), long=60.0)
    for ident in ("r", "e", "q", "d"):
        job = answering.answered(job, f"step:{ident}.line_z", -20.0)
    whole = draw(knob())
    ahead, behind = in_front(whole, -20.0), from_behind(whole, -20.0, 60.0)
    for drawn, middle in ((ahead, -20.0), (behind, -40.0)):
        for z, r in points_on([s for s in drawn.chain if hasattr(s, "centre")], 0.001):
            assert math.hypot(z - middle, r) == pytest.approx(20.0, abs=1e-6)
    proof = prove_whole(plan(job))
    assert proof.holdings[0].verdict == "proved", [r.text for r in proof.remarks]


def test_it_says_where_it_cannot_be() -> None:
    def why(job: Job, place: int = 0, step: int = 1) -> str:
        return plan(job).holdings[place].steps[step].troubles[0].text

    job = both(pin())
    assert "part turned round" in why(answering.answered(job, "step:r.part", "behind"))
    assert "Nothing of the outline" in why(answering.answered(job, "step:r.line_z", 5.0))
    assert "Nothing of the outline" in why(answering.answered(job, "step:q.line_z", -90.0), 1)


def test_parting_keeps_every_piece_and_mirrors_it() -> None:
    whole = draw(pin())
    ahead, behind = in_front(whole, -37.5), from_behind(whole, -37.5, LONG)
    assert sum(map(length_of, ahead.chain)) + sum(map(length_of, behind.chain)) == pytest.approx(sum(map(length_of, whole.chain)))
    assert ahead.chain[-1].end == pytest.approx((-37.5, 28.0))
    assert behind.chain[0].start == pytest.approx((0.0, 15.0))
    assert behind.chain[-1].end == pytest.approx((-42.5, 28.0))
    for a, b in zip(behind.chain, behind.chain[1:], strict=False):
        assert a.end == pytest.approx(b.start)


@pytest.mark.parametrize(("at", "front", "back"), [(-30.0, (-30.0, 20.0), (-50.0, 28.0)), (-45.0, (-45.0, 28.0), (-35.0, 28.0))])
def test_a_wall_on_the_line_belongs_to_the_end_that_can_turn_it(at: float, front: Any, back: Any) -> None:
    """The collar's front wall rises: the front leads out along it. Its back wall falls: it is turned from behind."""
    whole = draw(pin())
    assert in_front(whole, at).chain[-1].end == pytest.approx(front)
    assert from_behind(whole, at, LONG).chain[-1].end == pytest.approx(back)


@given(at=st.floats(-79.0, -1.0))
@settings(deadline=None)
def test_wherever_it_is_parted_both_together_are_the_outline(at: float) -> None:
    whole = draw(pin())
    assert crosses_once(whole, at)
    ahead, behind = in_front(whole, at).chain, from_behind(whole, at, LONG).chain
    assert all(z >= at - 1e-6 for z, _ in points_on(ahead, 0.01))
    assert all(-LONG - z <= at + 1e-6 for z, _ in points_on(behind, 0.01))
    walls = sum(length_of(s) for s in whole.chain if abs(s.start[0] - s.end[0]) < 1e-9 and abs(s.start[0] - at) < 1e-6)
    total = sum(map(length_of, whole.chain))
    assert total - walls - 1e-6 <= sum(map(length_of, (*ahead, *behind))) <= total + 1e-6


def test_an_outline_that_comes_back_has_no_behind() -> None:
    back = outline_of(id="o", name="o", d=24.0, z=0.0, pieces=(along(-20.0), up(40.0), along(-10.0), up(50.0), along(-30.0)))
    drawn = draw(back)
    assert crosses_once(drawn, -25.0)
    assert not crosses_once(drawn, -15.0)
    assert widest(drawn) == pytest.approx(-20.0)
