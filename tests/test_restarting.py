"""A program of its own from a stage or a hole on: it finishes the part that the whole one would have made, and is safe there."""

from __future__ import annotations

import functools
from dataclasses import replace
from pathlib import Path

import pytest

from bastler.cli import main
from bastler.job import Plan, answering, plan, write_job
from bastler.job.samples import sample
from bastler.live.restarting import NoRestart, restarted
from bastler.live.restarts import Restart, restarts
from bastler.proof import JobProof, prove_whole

MIXED = "winch-base, a tool at a time"


@functools.cache
def proved(name: str) -> tuple[Plan, JobProof]:
    job = sample(name.partition(",")[0])
    planned = plan(answering.answered(job, "holding:h1.stage_order", "tools") if name == MIXED else job)
    return planned, prove_whole(planned)


def place(name: str, step: str, stage: str, hole: int = 0) -> Restart:
    found = restarts(proved(name)[1].holdings[0])
    return next(r for r in found if (r.step, r.stage, r.hole) == (step, stage, hole))


@pytest.mark.parametrize(
    ("name", "step", "stage", "hole"),
    [
        ("winch-base", "s2", "finish", 0),
        ("winch-base", "s4", "drill", 4),
        ("winch-base", "s9", "counterbore", 0),
        ("bearing-cap", "s3", "drill", 3),
        ("drum-spindle", "s5", "groove", 0),
        ("drum-spindle", "s6", "thread", 0),
        ("pawl-shaft", "s5", "tap", 0),
        (MIXED, "s2", "finish", 0),
        (MIXED, "s4", "drill", 4),
    ],
)
def test_what_was_begun_is_finished(name: str, step: str, stage: str, hole: int) -> None:
    """What was cut before, and then the program from there on, leave the part that the whole program leaves."""
    planned, whole = proved(name)
    proof = whole.holdings[0]
    found = restarted(planned, proof, place(name, step, stage, hole))
    assert found.part.removed == pytest.approx(proof.removed, rel=2e-4)
    assert 0 < found.seconds < proof.total
    text = found.program.text
    own = [(s.step, s.stage) for s in found.program.sections if s.step]
    assert own[0] == (step, stage)
    every = [(s.step, s.stage) for s in proof.program.sections if s.step]
    assert own == every[every.index((step, stage)) :]
    for word in ("M30" if name != "bearing-cap" else "M2", "G21" if proof.scene.unit == "mm" else "G20"):
        assert word in text  # a head and an end of its own


def test_from_the_fourth_hole_the_first_three_are_left_alone() -> None:
    planned, whole = proved("winch-base")
    proof = whole.holdings[0]
    all_of_it = restarted(planned, proof, place("winch-base", "s4", "drill")).program
    found = restarted(planned, proof, place("winch-base", "s4", "drill", 4)).program
    section = next(s for s in found.sections if s.stage == "drill" and s.step == "s4")
    mine = "\n".join(found.lines[section.first : section.last])
    assert "X29 Y50" in mine
    assert "X121 Y50" not in mine
    assert "X121 Y50" in all_of_it.text
    assert "X121 Y50" in proof.program.text  # the pattern is as it was


@pytest.mark.parametrize(("name", "says"), [("fixture-of-six", "several parts"), ("coupling-nut", "hands the part over")])
def test_where_there_is_none_it_is_said(name: str, says: str) -> None:
    planned, whole = proved(name)
    with pytest.raises(NoRestart, match=says):
        restarted(planned, whole.holdings[0], restarts(whole.holdings[0])[2])


def test_hole_by_hole_only_where_a_cycle_makes_them() -> None:
    planned, whole = proved("winch-base")
    with pytest.raises(NoRestart, match="cycle"):
        restarted(planned, whole.holdings[0], replace(place("winch-base", "s9", "counterbore"), hole=2))


def test_it_is_written_from_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job, out = tmp_path / "base.bastler", tmp_path / "rest.nc"
    write_job(sample("drum-spindle"), job)
    assert main(["post", str(job), "-o", str(out), "--from", "6"]) == 0
    text = out.read_text()
    assert "6 Thread - thread" in text
    assert "5 Ring grooves" not in text
    assert main(["post", str(job), "-o", str(out), "--from", "17:drill"]) == 2
    assert "no place 17:drill" in capsys.readouterr().err
