"""Interrupted feed: what is cut is the same, in pieces no longer than was asked, with a rest or a way back between them."""

from __future__ import annotations

import itertools
import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import answering, plan
from bastler.job.samples import sample
from bastler.motion import Bow, Cut, Go, Pause
from bastler.motion.turning.chips import Broken, interrupted
from bastler.proof import TurnProof, prove_job
from bastler.steps import TurnFacing, TurnRoughing
from conftest import turned
from test_outline_cycles import by_cycles, shaft_job

FEED = 0.2


def turn(_radius: float) -> float:
    """Of 600 turns a minute."""
    return 0.1


@given(st.floats(0.5, 400.0), st.floats(1.0, 200.0), st.floats(0.1, 20.0), st.floats(-200.0, 200.0))
def test_pieces_are_no_longer_than_the_turns_and_end_where_the_move_ends(
    long: float, turns: float, rest: float, z: float
) -> None:
    moves = (Go(z, 30.0, 0.0), Cut(z - long, 30.0, 0.0, FEED), Cut(z - long, 40.0, 0.0, 0.5))
    found = interrupted((z, 50.0, 0.0), moves, FEED, Broken(turns, rest, 0.0), turn)
    cuts = [m for m in found if isinstance(m, Cut) and m.feed == FEED]
    rests = [m for m in found if isinstance(m, Pause)]
    assert len(rests) == len(cuts) - 1
    ends = [z, *(m.u for m in cuts)]
    assert all(abs(b - a) <= turns * FEED * (1 + 1e-5) for a, b in itertools.pairwise(ends))
    assert cuts[-1] == moves[1]
    assert found[-1] == moves[2]  # a way in another feed is left alone
    assert all(rest * 0.1 - 1e-9 <= m.seconds < rest * 0.1 + 0.0101 for m in rests)


def test_a_way_back_goes_along_the_cut_and_no_farther_than_it_came() -> None:
    found = interrupted((0.0, 30.0, 0.0), (Cut(-10.0, 30.0, 0.0, FEED),), FEED, Broken(10.0, 0.0, 0.5), turn)
    assert [type(m) for m in found[:3]] == [Cut, Go, Cut]
    assert [m.u for m in found if isinstance(m, Go)] == pytest.approx([-2 * k + 0.5 for k in range(1, 5)])
    far = interrupted((0.0, 30.0, 0.0), (Cut(-10.0, 30.0, 0.0, FEED),), FEED, Broken(10.0, 0.0, 99.0), turn)
    assert [m.u for m in far if isinstance(m, Go)] == pytest.approx([-2 * k + 2.0 for k in range(1, 5)])


def test_along_an_arc_the_tool_rests_and_the_arc_stays_one() -> None:
    quarter = Bow(-10.0, 20.0, 0.0, 0.0, 20.0, True, FEED)  # about (0, 20) from (0, 10)
    found = interrupted((0.0, 10.0, 0.0), (quarter,), FEED, Broken(10.0, 0.0, 0.5), turn)
    bows = [m for m in found if isinstance(m, Bow)]
    assert len(bows) >= 3
    assert all(math.dist((m.u, m.v), (0.0, 20.0)) == pytest.approx(10.0) for m in bows)
    assert (bows[-1].u, bows[-1].v) == (-10.0, 20.0)
    assert not any(isinstance(m, Go) for m in found)


@pytest.mark.parametrize("how", ["rest", "back"])
@pytest.mark.parametrize(("name", "steps"), [("drum-spindle", ("s1", "s2", "s3", "s5", "s7")), ("gland-nut", ("s3", "s5", "s8"))])
def test_samples_come_out_the_same_with_their_feed_interrupted(name: str, steps: tuple[str, ...], how: str) -> None:
    """Facing, roughing, finishing, grooving and parting off, in both units."""
    job = sample(name)
    steady = prove_job(plan(job))
    for ident in steps:
        job = answering.answered(job, f"step:{ident}.chips", how)
        job = answering.answered(job, f"step:{ident}.turns_on", 8.0)
    broken = prove_job(plan(job))
    assert broken.verdict == "proved"
    assert abs(broken.part.symmetric_difference(steady.part).area) < 5e-5 * steady.part.area
    assert broken.total > steady.total
    dwells = [line for line in broken.program.lines if line.startswith("G4")]
    assert (len(dwells) > 20) == (how == "rest")


def test_a_rest_is_so_many_turns_at_the_speed_that_there_is() -> None:
    steps: Any = (TurnFacing(id="f", chips="rest", turns_on=10.0, turns_off=3.0, speed="fixed", n=500.0),)
    proof: TurnProof = prove_job(plan(turned(*steps)))
    seconds = {e.value for e in proof.trace.events if e.what == "dwell"}
    assert list(seconds) == [pytest.approx(3 * 60 / 500, abs=0.0051)]


def test_a_cycle_of_the_control_cannot_and_is_written_out() -> None:
    job = shaft_job(chips="rest")
    assert not any("G71" in line for line in prove_job(plan(job)).program.lines)
    assert any("G71" in line for line in prove_job(plan(by_cycles(shaft_job()))).program.lines)


def test_absurdly_many_rests_are_refused_at_once() -> None:
    job = turned(TurnFacing(id="f", f=0.0001, chips="rest", turns_on=1.0))
    (trouble,) = plan(job).step("f").troubles
    assert trouble.field == "turns_on"
    assert "rests" in trouble.text


def test_a_radius_on_the_axis_has_a_time() -> None:
    """Facing ends past the centre, where constant surface speed would turn endlessly fast: the cap holds."""
    proof: TurnProof = prove_job(plan(turned(TurnFacing(id="f", chips="rest", turns_on=10.0), TurnRoughing(id="r"))))
    times = [e.value for e in proof.trace.events if e.what == "dwell"]
    assert min(times) > 0.0
    assert max(times) < 2.0
