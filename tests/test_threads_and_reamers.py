"""Tapped and reamed holes: what has to be there before, what the program says, what is found out."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.nc import Control, read
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, Reaming, Step, Tapping
from bastler.tools import shop_crib
from conftest import codes, job_of, many, proof_of

PATTERN = PointsPattern(id="p", name="two", points=((15.0, 12.0), (45.0, 28.0)))


def made(*steps: Step, **setup: Any) -> Job:
    return job_of(Facing(id="f"), *steps, patterns=(PATTERN,), **({"size_z": 30.0} | setup))


def tapped(diameter: float = 6.8, deep: float = 14.0, **answers: Any) -> Job:
    return made(Drilling(id="d", pattern="p", diameter=diameter, depth=deep), Tapping(id="t", pattern="p", **answers))


def trouble(job: Job, step: str = "t") -> tuple[str, object]:
    (found,) = plan(job).step(step).troubles
    return found.field, found.fits


@pytest.mark.parametrize(("drill", "tap"), [(5.0, "tap-m6"), (6.8, "tap-m8"), (8.5, "tap-m10")])
def test_the_tap_that_the_holes_were_drilled_for_is_proposed(drill: float, tap: str) -> None:
    job = tapped(drill, 16.0)
    assert plan(job).step("t").stages[0].tool.id == tap
    proof = proof_of(job, 0.2)
    assert proof.proved
    assert codes(proof) == set()


def test_the_feed_is_a_pitch_a_turn_and_the_lead_goes_deeper() -> None:
    planned = plan(tapped(depth=8.0))
    stage = planned.step("t").stages[0]
    program = post(planned.first)
    (line,) = [line for line in program.lines if "G84" in line]
    assert f"F{stage.spin.n * 1.25:g}" in line
    assert f"S{stage.spin.n:g} M3" in program.text
    assert "Z-11.75" in line  # 8 deep and three pitches of lead
    assert stage.spin.n % 20 == 0


def test_the_way_of_a_tap_is_down_and_up_in_feed() -> None:
    trace = read("G21 G90 G17 G94 S500 M3\nG0 X1 Y2 Z10\nG99 G84 X5 Y5 Z-6 R2 F625\nG80\nM30", Control())
    feeds = [k for k in range(len(trace)) if trace.kind[k] == 1]
    assert [(float(trace.start[k, 2]), float(trace.end[k, 2])) for k in feeds] == [(2.0, -6.0), (-6.0, 2.0)]


@pytest.mark.parametrize(
    ("job", "expected"),
    [
        (made(Tapping(id="t", pattern="p")), ("pattern", None)),
        (tapped(depth=12.0), ("depth", 10.25)),
        (tapped(tool="tap-m6"), ("tool", "tap-m8")),
        (tapped(tool="tap-m10"), ("tool", "tap-m8")),
        (tapped(tool="end-6"), ("tool", "tap-m8")),
        (tapped(n=500.0, vf=600.0), ("vf", 625.0)),
        (answering.answered(tapped(), "job.machine", "mill-old"), ("tool", None)),
    ],
    ids=["no holes", "bottoms out", "too wide", "too narrow", "no tap", "wrong feed", "no cycle"],
)
def test_what_would_break_a_tap_is_said_before(job: Job, expected: tuple[str, object]) -> None:
    assert trouble(job) == expected


def test_a_cured_depth_leaves_the_tap_room() -> None:
    job = tapped(depth=12.0)
    cured = answering.answered(job, "step:t.depth", trouble(job)[1])
    assert proof_of(cured, 0.2).proved


def test_a_tap_sent_too_deep_by_hand_bottoms_out() -> None:
    """A planted fault: somebody has made the last number larger."""
    planned = plan(tapped(depth=8.0))
    text = post(planned.first).text
    assert "G84" in text
    by_hand = text.replace("Z-11.75", "Z-16.5")
    assert by_hand != text
    proof = prove_job(planned, Program.foreign(by_hand), cell_mm=0.2)
    (hit, *_) = [r for r in proof.remarks if r.code == "tap-bottoming"]
    assert hit.level == "stop"
    assert hit.line == 1 + next(k for k, line in enumerate(by_hand.splitlines()) if "G84" in line)
    assert "tap-bottoming" not in codes(prove_job(planned, Program.foreign(text), cell_mm=0.2))


@settings(max_examples=many(15))
@given(st.sampled_from([5.0, 6.8, 8.5]), st.floats(3.0, 14.0), st.floats(2.0, 20.0), st.sampled_from(["blind", "through"]))
def test_whatever_is_asked_the_tap_never_bottoms_out(drill: float, thread: float, deep: float, extent: str) -> None:
    """Either it is said that the hole is too shallow, or the proof is clean."""
    job = tapped(drill, deep, depth=thread, extent=extent)
    planned = plan(job)
    if planned.step("d").troubles:
        return
    said = [t.field for t in planned.step("t").troubles]
    assert said in ([], ["depth"], ["pattern"])
    if not said:
        proof = proof_of(job, 0.3)
        assert not codes(proof, "stop")


def reamed(diameter: float = 5.8, **answers: Any) -> Job:
    return made(Drilling(id="d", pattern="p", diameter=diameter, depth=14.0), Reaming(id="r", pattern="p", **answers))


def test_reaming_takes_what_the_drill_left_and_comes_back_in_feed() -> None:
    job = reamed(depth=10.0)
    proof = proof_of(job, 0.05)
    assert proof.proved
    assert proof.comparison.volume("left") == proof.comparison.volume("gouge") == 0.0
    (line,) = [line for line in proof.program.lines if "G85" in line]
    assert "Z-10" in line
    deepest = min(proof.heights[int(12.0 / 0.05), int((15.0 + dx) / 0.05)] for dx in (-2.95, 2.95))
    assert deepest == pytest.approx(-10.0)


def test_an_older_machine_reams_long_hand() -> None:
    job = answering.answered(reamed(depth=10.0), "job.machine", "mill-old")
    text = post(plan(job).first).text
    assert "G85" not in text
    assert proof_of(job, 0.2).proved


@pytest.mark.parametrize(
    ("job", "field"),
    [
        (made(Reaming(id="r", pattern="p")), "pattern"),
        (reamed(5.0), "diameter"),
        (reamed(6.8), "diameter"),
        (reamed(depth=20.0), "depth"),
        (reamed(diameter=5.8, tool="end-6"), "tool"),
        (msgspec.structs.replace(reamed(), tools=tuple(t for t in shop_crib("mm") if t.kind != "reamer")), "tool"),
    ],
    ids=["no holes", "too much left", "too wide", "too shallow", "no reamer", "none in the crib"],
)
def test_what_a_reamer_cannot_do_is_said_where_it_is_asked(job: Job, field: str) -> None:
    assert trouble(job, "r")[0] == field
