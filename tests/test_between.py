"""Between the steps: stops, waits, the way home, lines by hand; what is around them goes on as it should."""

from __future__ import annotations

import pytest

from bastler.job import Job, answering, plan
from bastler.post import post
from bastler.steps import Facing, OutOfTheWay, OwnLines, RectangularPocket, Step, Stop, Wait
from conftest import codes, job_of, proof_of


def around(*between: Step) -> Job:
    """A faced top, what is between, and two pockets with one tool."""
    pocket = {"x": 18.0, "y": 20.0, "length": 16.0, "width": 16.0, "depth": 4.0}
    one = RectangularPocket(id="p", **pocket)  # type: ignore[arg-type]
    two = RectangularPocket(id="q", **(pocket | {"x": 42.0}))  # type: ignore[arg-type]
    return job_of(Facing(id="f"), one, *between, two)


@pytest.mark.parametrize(("always", "word"), [("always", "M0"), ("optional", "M1")])
def test_a_stop_stands_over_everything_with_the_spindle_off_and_goes_on_by_itself(always: str, word: str) -> None:
    job = around(Stop(id="s", always=always, message="Oil the tap"))  # type: ignore[arg-type]
    proof = proof_of(job, 0.2)
    assert proof.proved
    assert not codes(proof, "caution")
    lines = list(proof.program.lines)
    at = lines.index(word)
    assert lines[at - 4 : at] == ["(3 Stop - Oil the tap)", "M9", "M5", "G53 G0 Z0"]
    behind = lines[at + 1 : at + 6]
    assert any("M3" in line for line in behind)
    assert any(line.startswith("G54 G0 X") for line in behind)
    assert any("G43" in line for line in behind)
    assert "M8" in lines[at + 1 : at + 7]
    assert not any("M6" in line for line in behind)
    assert [e.what for e in proof.trace.events].count("stop") == 1


def test_a_wait_is_counted_and_changes_nothing_else() -> None:
    with_it, without = proof_of(around(Wait(id="w", seconds=3.5)), 0.3), proof_of(around(), 0.3)
    assert with_it.total == pytest.approx(without.total + 3.5, abs=0.01)
    assert any(line.startswith("G4 P") for line in with_it.program.lines)
    assert with_it.proved


def test_out_of_the_way_goes_up_first_and_is_not_said_twice() -> None:
    lines = list(post(plan(around(OutOfTheWay(id="o", stops="yes"))).first).lines)
    at = next(k for k, line in enumerate(lines) if "Out of the way" in line)
    assert lines[at + 1 : at + 6] == ["M9", "M5", "G53 G0 Z0", "G53 G0 X0 Y400", "(3 Out of the way)"]
    assert lines[at + 6] == "M0"
    last = job_of(Facing(id="f"), OutOfTheWay(id="o"))
    assert sum("G53 G0 X" in line for line in post(plan(last).first).lines) == 1
    assert proof_of(last, 0.4).proved


def test_lines_by_hand_are_proved_like_all_others() -> None:
    good = OwnLines(id="l", lines=("G0 X18 Y20", "G0 Z2", "G1 Z-3 F200", "G0 Z10"))
    proof = proof_of(around(good), 0.2)
    assert proof.proved, proof.remarks
    own = next(s for s in proof.program.sections if s.step == "l")
    assert "G1 Z-3 F200" in proof.program.lines[own.first : own.last]
    crash = OwnLines(id="l", lines=("G0 X30 Y20", "G0 Z-3"))
    hit = proof_of(around(crash), 0.2)
    (found, *_) = [r for r in hit.remarks if r.code == "rapid-in-stock"]
    assert (found.level, found.step) == ("stop", "l")
    assert proof_of(around(OwnLines(id="l", lines=("G1 X",))), 0.4).trace.findings


def test_whatever_lines_leave_behind_the_next_stage_begins_safely() -> None:
    """Incremental, other plane, inches, low over the table: the words behind it put things right."""
    wild = OwnLines(id="l", lines=("G0 Z3", "G91", "G0 X1", "G18", "G95"))
    proof = proof_of(around(wild), 0.2)
    assert not [r for r in proof.remarks if r.step == "q" and r.level == "stop"]
    assert proof.comparison.volume("left") == 0.0


@pytest.mark.parametrize(
    ("step", "field", "is_open"),
    [
        (OwnLines(id="l"), "lines", True),
        (OwnLines(id="l", lines=("M30",)), "lines", False),
        (OwnLines(id="l", lines=("%",)), "lines", False),
        (OwnLines(id="l", lines=("O1234",)), "lines", False),
        (OwnLines(id="l", lines=("G0 X1 (naïve)",)), "lines", False),
        (OwnLines(id="l", lines=("G0",) * 501), "lines", False),
        (Stop(id="l", message="x" * 61), "message", False),
    ],
)
def test_what_cannot_stand_between_is_said(step: Step, field: str, is_open: bool) -> None:
    (found,) = plan(around(step)).step("l").troubles
    assert (found.field, found.open) == (field, is_open)


def test_an_older_machine_stops_too() -> None:
    job = answering.answered(job_of(Facing(id="f"), Stop(id="s")), "job.machine", "mill-old")
    assert "M0" in post(plan(job).first).text
    assert proof_of(job, 0.4).proved
