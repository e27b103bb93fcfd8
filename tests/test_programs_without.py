"""Programs that lack something, or name it wrongly, on both kinds of machine: never proved, with the reason."""

from __future__ import annotations

import msgspec
import pytest

from bastler.job import Job, edits, plan
from bastler.machines import CARDS
from bastler.post import Program
from bastler.proof import Remark, prove_job
from bastler.steps import Drilling, Facing, TurnFacing
from conftest import codes, job_of, proof_of, turned

MILL = job_of(Facing(id="f"), over_top=0.0)
LATHE = turned(TurnFacing(id="f"), over_front=0.0)
GOOD = "G21 G17 G90 G94\nT1 M6\nS1000 M3\nG54 G0 X-50 Y20\nG43 H1 Z5\nG1 Z-1 F200\nX100\nG0 Z50\nM30\n"
GOOD_TURN = "G21\nG18 G90\nT0101\nG50 S3000\nG97 S500 M3\nG95\nG54 G0 X80 Z5\nX50\nG1 Z-10 F0.2\nX70\nG0 Z5\nM30\n"


def found(job: Job, text: str) -> dict[str, Remark]:
    proof = prove_job(plan(job), Program.foreign(text), cell_mm=0.4)
    return {r.code: r for r in reversed(proof.remarks)}


def stops(job: Job, text: str) -> set[str]:
    return {code for code, r in found(job, text).items() if r.level == "stop"} - {"left", "gouge"}


def test_the_programs_themselves_stop_at_nothing() -> None:
    assert not stops(MILL, GOOD)
    assert not stops(LATHE, GOOD_TURN)


@pytest.mark.parametrize(
    ("change", "by", "code"),
    [
        ("T1 M6\n", "", "no-tool"),
        ("T1 M6\n", "T0 M6\n", "no-tool"),
        ("T1 M6\n", "T1\n", "no-tool"),
        ("S1000 M3\n", "", "spindle-never"),
        ("S1000 M3\n", "S1000\n", "spindle-never"),
        (" F200", "", "feed-missing"),
        ("G43 H1 Z5", "G43 Z5", "offset"),
        ("M30\n", "M9M30\nG0 X5\n", "never-run"),
        ("M30\n", "M002\nG0 X5\n", "never-run"),
        ("S1000 M3", "S1000 M4", "spindle-back"),
    ],
)
def test_a_milled_program_that_lacks_it(change: str, by: str, code: str) -> None:
    assert code in stops(MILL, GOOD.replace(change, by)), found(MILL, GOOD.replace(change, by))


@pytest.mark.parametrize(
    ("change", "by", "code"),
    [
        ("T0101\n", "", "no-tool"),
        ("T0101\n", "T1 M6\n", "tool-word"),
        ("T0101\n", "T0000\n", "no-tool"),
        ("S500 M3", "S500", "spindle-never"),
        (" F0.2", "", "feed-missing"),
        ("M30\n", "M 30\nG0 X5\n", "never-run"),
        ("G95\n", "G99\n", "feed-code"),
    ],
)
def test_a_turned_program_that_lacks_it(change: str, by: str, code: str) -> None:
    assert code in stops(LATHE, GOOD_TURN.replace(change, by)), found(LATHE, GOOD_TURN.replace(change, by))


def test_bare_moves_through_a_block() -> None:
    assert "no-tool" in stops(MILL, "G21 G90\nS1000 M3\nG0 X5 Y5 Z-25\n")
    assert "no-tool" in stops(LATHE, "G21 G90\nG0 X100 Z5\nX10 Z-20\n")


def test_feeds_far_off_with_no_tool() -> None:
    """A length offset lifts the program off the stock where no tool is known: it proves nothing all the same."""
    for job, text in (
        (MILL, "G21 G90 G94\nG54 G0 X5 Y5 Z300\nG1 X9 F200\n"),
        (LATHE, "G21 G90 G94\nG54 G0 X200 Z50\nG1 X190 F200\n"),
    ):
        assert "no-tool" in stops(job, text)
        assert "no-tool" not in stops(job, text.replace("G1", "G0").replace(" F200", ""))


@pytest.mark.parametrize("machine", ["mill-600", "lathe-200"])
def test_a_card_whose_tool_call_is_empty(machine: str) -> None:
    job = job_of(Facing(id="f")) if machine == "mill-600" else turned(TurnFacing(id="f"))
    card = CARDS[machine]
    mute = msgspec.structs.replace(card, dialect=msgspec.structs.replace(card.dialect, tool_call=""))
    proof = prove_job(plan(msgspec.structs.replace(job, cards=(mute,))))
    assert not proof.proved
    assert codes(proof, "stop")


def test_feeds_and_speeds_that_the_machine_has_not() -> None:
    assert found(MILL, GOOD.replace("F200", "F20000"))["over-feed"].level == "caution"
    assert found(MILL, GOOD.replace("S1000", "S20"))["under-speed"].level == "caution"
    assert found(LATHE, GOOD_TURN.replace("S500", "S10"))["under-speed"].level == "caution"
    tied = GOOD_TURN.replace("G1 Z-10 F0.2\nX70", "S3000\nG33 Z-10 F4\nG0 X70").replace("X50\n", "X62\n")
    assert found(LATHE, tied)["over-feed"].level == "stop", "the thread would get another pitch"


@pytest.mark.parametrize(("feed", "right"), [(1.0, True), (1.05, False), (0.5, False)])
def test_a_tap_feeds_its_pitch(feed: float, right: bool) -> None:
    job = edits.pattern_for(job_of(Facing(id="f"), Drilling(id="d", diameter=5.0, depth=15.0)), "d", "points")
    job, ident = edits.step_added(job, "tapping", "d")
    planned = plan(job)
    step = planned.step(ident)
    assert step is not None
    assert not step.troubles
    tap = step.stages[0].tool
    text = proof_of(job, 0.4).program.text
    line = next(line for line in text.splitlines() if "G84" in line)
    speed = step.stages[0].spin.n
    words = [f"F{speed * tap.pitch * feed:.1f}" if word.startswith("F") else word for word in line.split()]
    changed = text.replace(line, " ".join(words))
    assert ("tap-feed" in stops(job, changed)) != right
