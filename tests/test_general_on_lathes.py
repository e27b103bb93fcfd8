"""Stops, waits, ways to the tool change and lines of one's own on lathes, in both units, on every machine that turns."""

from __future__ import annotations

import re
from typing import Any

import pytest

from bastler.job import Job, edits, plan
from bastler.job.samples import sample
from bastler.post import post
from bastler.proof import Prover, prove_job
from bastler.steps import STEPS, OutOfTheWay, OwnLines, Stop, Wait
from conftest import TIMES, TURN_STEPS, TURNED, job_with, turned

GENERAL = ("stop", "wait", "out-of-the-way", "own-lines")


def with_between(job: Job, place: int, **step: Any) -> Job:
    """A step of a kind at a place of the route."""
    kind = step.pop("kind")
    fresh = STEPS[kind].cls(id="between", **step)
    steps = list(job.steps)
    steps.insert(place, fresh)
    return job_with(job, steps=tuple(steps))


def lines_of(job: Job, step: str) -> list[str]:
    """What a program says for a step."""
    program = post(plan(job).first)
    return [line for s in program.sections if s.step == step for line in program.lines[s.first : s.last]]


def test_they_are_offered_on_both_kinds_of_planes_and_the_others_on_one() -> None:
    assert {tag for tag, kind in STEPS.items() if len(kind.planes) == 2} == set(GENERAL)
    assert set(GENERAL) <= set(TURN_STEPS)


@pytest.mark.parametrize("kind", GENERAL)
@pytest.mark.parametrize("machine", [None, "lathe-bench"])
@pytest.mark.parametrize("name", TURNED)
def test_at_every_place_of_the_route_the_part_is_what_it_was(name: str, machine: str | None, kind: str) -> None:
    job = sample(name)
    if machine:
        job = edits.answered(job, "job.machine", machine)
    if TIMES == 1 and bool(machine) != (kind == "own-lines") and name != "drum-spindle":
        pytest.skip("one of both machines does for the other sample; with BASTLER_TIMES both are looked at")
    prover = Prover()  # keeps what is the same
    before: Any = prover.prove(plan(job)).first
    for place in (0, 1, len(job.steps) - 1, len(job.steps)) if TIMES > 1 else (0, len(job.steps) - 1):
        after = job.steps[place - 1].id if place else ""
        added, ident = edits.step_added(job, kind, after or "nothing")
        added = edits.step_moved(added, ident, place)
        planned = plan(added)
        assert not [t.text for done in planned.steps if done.step.id == ident for t in done.troubles]
        found: Any = prover.prove(planned).first
        assert found.verdict == before.verdict, [r.text for r in found.remarks]
        assert {r.code for r in found.remarks} <= {r.code for r in before.remarks}
        assert found.part.symmetric_difference(before.part).area < 1e-6


def test_at_a_stop_the_work_stands_still_and_the_tool_is_away() -> None:
    job = with_between(sample("drum-spindle"), 2, kind="stop", message="Measure the journal")
    said = lines_of(job, "between")
    assert "Measure the journal" in said[0]
    assert said[-1].endswith("M0")
    assert [re.sub(r"^N\d+ ", "", line) for line in said].index("M5") < len(said) - 1
    assert any("G53 G0" in line for line in said)
    program = post(plan(job).first)
    behind = next(s for s in program.sections if s.step == job.steps[3].id)
    text = " ".join(program.lines[behind.first : behind.last])
    assert re.search(r"\bT\d{4}\b.*\bM3\b", text), "whoever begins again there has tool, speed and spindle"
    optional = with_between(sample("drum-spindle"), 2, kind="stop", always="optional")
    assert lines_of(optional, "between")[-1].endswith("M1")


def test_a_wait_keeps_the_work_turning_and_takes_its_time() -> None:
    job = sample("gland-nut")
    longer = with_between(job, 3, kind="wait", seconds=30.0)
    said = lines_of(longer, "between")
    assert any("G4" in line for line in said)
    assert not any("M5" in line for line in said)
    assert prove_job(plan(longer)).total - prove_job(plan(job)).total == pytest.approx(30.0, abs=0.01)


@pytest.mark.parametrize(
    ("line", "code"),
    [("G0 X0 Z-10", "rapid-in-stock"), ("G1 X10 Z-40 F0.2", "gouge"), ("G1 Q5", "word-unused"), ("G33 Z-10", "lead-missing")],
)
def test_lines_of_one_s_own_are_read_and_proved_like_all_of_it(line: str, code: str) -> None:
    job = with_between(sample("drum-spindle"), 3, kind="own-lines", lines=("T0202", "G97 S500 M3", line))
    found = prove_job(plan(job))
    assert not found.proved
    assert code in {r.code for r in found.remarks}
    assert any(r.step == "between" for r in found.remarks if r.code == code)


def test_a_lathe_of_nothing_but_waiting() -> None:
    job = turned(Stop(id="a"), Wait(id="b"), OutOfTheWay(id="c", stops="yes"), OwnLines(id="d", lines=("M9",)))
    planned = plan(job)
    assert all(not done.troubles for done in planned.steps)
    assert all(done.sketch is not None for done in planned.steps)
    assert prove_job(planned).removed == 0.0
