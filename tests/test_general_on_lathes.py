"""Stops, waits, ways to the tool change and lines of one's own on lathes, in both units, on every machine that turns."""

from __future__ import annotations

import re
from typing import Any

import pytest

import outlines
from bastler.job import Job, answering, edits, plan
from bastler.job.samples import sample
from bastler.post import Program, post
from bastler.proof import Prover, prove_job
from bastler.proof.turn.compare import sizes
from bastler.steps import (
    STEPS,
    CentreHole,
    Groove,
    OutOfTheWay,
    OwnLines,
    PartOff,
    RepeatAlong,
    Step,
    Stop,
    Threading,
    TurnFacing,
    TurnRoughing,
    Wait,
)
from bastler.steps.base import ANY
from conftest import TIMES, TURN_STEPS, TURNED, job_with, some, turned

GENERAL = ("stop", "own-lines", "wait", "out-of-the-way")


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
    assert {tag for tag, kind in STEPS.items() if kind.planes == ANY} == set(GENERAL)
    assert set(GENERAL) <= set(TURN_STEPS)


@pytest.mark.parametrize("kind", some(GENERAL, 2))
@pytest.mark.parametrize("machine", [None, "lathe-bench"])
@pytest.mark.parametrize("name", TURNED)
def test_at_every_place_of_the_route_the_part_is_what_it_was(name: str, machine: str | None, kind: str) -> None:
    job = sample(name)
    if len(job.holdings) > 1 and (machine or (TIMES == 1 and kind != "stop")):
        pytest.skip("a part is not handed over there; between two chucks one of them does")
    if machine:
        job = answering.answered(job, "job.machine", machine)
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


FACED = TurnFacing(id="f")
GROOVED = Groove(id="g", z=-10, width=3, floor_d=54)
GROOVED_THIN = Groove(id="g", z=-8, width=3, floor_d=46)


INSIDE = (Groove(id="g", side="inside", z=-15, width=3, floor_d=24),)


def along(*run: Step, machine: str | None = None, **answers: Any) -> Job:
    shape = outlines.outline(id="o", name="o", d=50, z=0, pieces=(outlines.along(-20), outlines.up(62)))
    bored: dict[str, Any] = {"form": "tube", "bore": 20.0} if run == INSIDE else {}
    job = turned(FACED, *run, RepeatAlong(id="again", **answers), outlines=(shape,), **bored)
    return answering.answered(job, "job.machine", machine) if machine else job


@pytest.mark.parametrize("machine", [None, "lathe-bench"])
def test_grooves_again_farther_along(machine: str | None) -> None:
    """Three grooves take three times what one takes, are measured where they should be, and are nobody's gouge."""
    job = along(GROOVED, count=3, pitch=8.0, machine=machine)
    planned = plan(job)
    assert not [t.text for done in planned.steps for t in done.troubles]
    proof = prove_job(planned)
    assert {r.level for r in proof.remarks} <= {"note"}, [r.text for r in proof.remarks]
    own, again = (sum(s.volume for s in proof.stages if s.step == ident) for ident in ("g", "again"))
    assert again == pytest.approx(2 * own, rel=1e-6)
    corner = 0.2  # of the blade: the floor begins so much beside the wall
    grooves = [s for s in sizes(proof.part, 1.0) if s.groove]
    assert [(round(s.z1, 3), round(s.diameter, 3)) for s in grooves] == [(z - corner, 54.0) for z in (-10.0, -18.0, -26.0)]


def test_a_thread_again_is_measured_again() -> None:
    """What a repetition leaves out is found: with the copy's lines gone its thread is missing."""
    lands = (
        Groove(id="g", z=-18, width=6, floor_d=52),
        Threading(id="t", thread="M60x2", length=16.0),
    )
    job = along(*lands, count=2, pitch=24.0)
    planned = plan(job)
    assert not [t.text for done in planned.steps for t in done.troubles]
    proof = prove_job(planned)
    assert {r.level for r in proof.remarks if r.level == "stop"} == set(), [r.text for r in proof.remarks]
    program = post(planned.first)
    spans = [s for s in program.sections if s.step == "again" and s.stage == "thread"]
    lines = [line for k, line in enumerate(program.lines) if not any(s.first <= k < s.last for s in spans)]
    less = prove_job(planned, Program.foreign("\n".join(lines)))
    assert [r.step for r in less.remarks if r.code == "thread-missing"] == ["again"]


@pytest.mark.parametrize(
    ("run", "back", "says"),
    [
        ((), 1, "Face the end"),
        ((CentreHole(id="d", work="drill", diameter=8.5, depth=25.0),), 1, "Hole on the centre line"),
        ((GROOVED, PartOff(id="p")), 1, "Part off"),
        ((TurnRoughing(id="r", outline="o"),), 1, "Rough to an outline"),
        ((Groove(id="g", side="face", width=4, outer_d=40, depth=3),), 1, "Groove"),
        ((GROOVED,), 5, "only"),
    ],
    ids=["face", "hole", "part-off", "outline", "face-groove", "too-many"],
)
def test_what_cannot_be_made_again_farther_along_is_said(run: tuple[Step, ...], back: int, says: str) -> None:
    *before, planned = plan(along(*run, back=back)).steps
    assert not [t.text for done in before for t in done.troubles]
    assert planned.stages == ()
    assert says in planned.troubles[0].text


def test_a_copy_is_planned_for_the_stock_where_it_comes() -> None:
    """The bar is stepped: the copy of a groove on the thin land begins above the thick one."""
    job = along(TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0), GROOVED_THIN, count=2, pitch=25.0)
    proof = prove_job(plan(job))
    assert "rapid-in-stock" not in {r.code for r in proof.remarks}, [r.text for r in proof.remarks]
    own, again = (sum(s.volume for s in proof.stages if s.step == ident) for ident in ("g", "again"))
    assert again > 1.5 * own, "there is more to take there"


def test_grooves_in_a_bore_again() -> None:
    proof = prove_job(plan(along(*INSIDE, count=2, pitch=10.0)))
    assert {r.level for r in proof.remarks} <= {"note"}, [r.text for r in proof.remarks]


def test_a_copy_of_what_is_not_cut_is_none_and_one_that_cannot_be_planned_says_which() -> None:
    bare: Any = plan(along(Groove(id="g", z=-12, width=3, floor_d=70))).step("again")
    assert (bare.stages, [t.field for t in bare.troubles]) == ((), ["back"]), "what is not cut itself is not cut again"
    shape = outlines.outline(
        id="o", name="o", d=60, z=0, pieces=(outlines.along(-20), outlines.up(40), outlines.along(-50), outlines.up(62))
    )
    neck = TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0, tool="v35-04")
    again = RepeatAlong(id="again", count=2, pitch=25.0)
    job = turned(FACED, neck, GROOVED, again, outlines=(shape,))
    refused: Any = plan(job).step("again")
    assert plan(job).step("g").troubles == ()
    assert refused.stages == ()
    assert refused.troubles[0].field == "pitch"
    assert "farther by 25" in refused.troubles[0].text


def test_a_copy_that_runs_into_the_chuck_is_found() -> None:
    proof = prove_job(plan(along(GROOVED, count=2, pitch=88.0)))
    assert {"jaws-hit", "chuck-hit"} & {r.code for r in proof.remarks if r.level == "stop"}, [r.text for r in proof.remarks]


def test_an_edit_of_what_is_repeated_goes_with_it() -> None:
    job = along(GROOVED, count=2, pitch=8.0)
    first = plan(job)
    wider = answering.answered(job, "step:g.floor_d", 50.0)
    again: Any = plan(wider, first).step("again")
    fresh: Any = plan(wider).step("again")
    assert again.rings == fresh.rings
    assert min(region.bounds[1] for region in again.rings) == pytest.approx(25.0)
