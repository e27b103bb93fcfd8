"""Every stage says all that it needs: from its number on a program does what it does as a whole."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np
import pytest

from bastler.job import Job, PlannedHolding, edits, plan
from bastler.job.samples import sample, sample_names
from bastler.motion import Cut, Go
from bastler.nc import Trace, read
from bastler.post import post
from bastler.post.joined import _joined
from bastler.proof.scenes import scene_of
from bastler.steps import NextPart, Stage
from bastler.steps.base import Spin
from conftest import MILLED, dialect_of


def begins(lines: Sequence[str]) -> list[int]:
    """The lines with which stages begin: with all that is to be in force."""
    first = next(k for k, line in enumerate(lines) if re.match(r"[(;] ?1 ", line))
    return [k for k, line in enumerate(lines) if k > first and {"G40", "G90"} <= set(line.split())]


def held_of(job: Job) -> PlannedHolding:
    return plan(job).holdings[0]


def run(held: PlannedHolding, lines: Sequence[str]) -> Trace:
    return read("\n".join(lines) + "\n", scene_of(plan(held.job), held.place).control)


@pytest.mark.parametrize("name", sample_names())
def test_from_its_number_on_a_stage_does_what_it_does_in_the_whole_program(name: str) -> None:
    """But for the way to it: the head, on a mill the tool in the spindle, and on from there."""
    job = sample(name)
    for step in [s for s in job.steps if isinstance(s, NextPart)]:  # its parts are a subprogram before the end
        job = edits.step_removed(job, step.id)
    held = held_of(job)
    if len(held.job.programs[0]) > 1:
        pytest.skip("Handed over within the program: the stages of the second spindle are not alone.")
    if name == "fixture-of-six":
        pytest.skip("Subprograms behind the end are run by several stages.")
    lines = post(held).lines
    assert all(lines[k].startswith("N") for k in begins(lines))
    whole = run(held, lines)
    first = begins(lines)[0]
    for k in begins(lines):
        tool = next((line for line in reversed(lines[: k + 4]) if " M6" in line), "") if held.job.plane == "flat" else ""
        again = run(held, [*lines[:first], tool, *lines[k:]])
        assert [f.text for f in again.findings if f.level == "stop"] == [], lines[k - 1]
        by = first + 1 - k  # lines stand so much elsewhere
        mine, other = after_lines(again), after_lines(whole)
        later = [line for line in sorted(other) if line >= k + WAY_IN][:150]
        assert later
        for line in later:
            assert mine[line + by] == pytest.approx(other[line], abs=1e-9), lines[line]


WAY_IN = 9
"""So many lines say what is in force and go to the begin of a stage."""


def after_lines(trace: Trace) -> dict[int, Any]:
    """Where every line ends, and with what it got there."""
    whole: list[Any] = [trace.kind, trace.speed, trace.tool, trace.surface, np.where(trace.kind == 0, 0.0, trace.feed)]
    last = {int(line): row for row, line in enumerate(trace.line)}
    return {line: [*trace.end[row].tolist(), *(float(column[row]) for column in whole)] for line, row in last.items()}


@pytest.mark.parametrize("name", MILLED)
def test_a_stage_is_come_to_over_the_place_where_it_goes_down(name: str) -> None:
    for done in held_of(sample(name)).steps:
        for stage in done.stages:
            if isinstance(stage, Stage) and len(stage.moves) > 1:
                first, second = stage.moves[:2]
                assert not (isinstance(first, Go) and isinstance(second, Go)), (done.step.id, stage.name)
                assert not isinstance(first, Go) or (first.u, first.v) == stage.start[:2]


def test_by_the_card_stages_have_numbers_and_tools_are_stopped_before_and_called_ahead() -> None:
    job = sample("pawl-plate")
    plain = post(held_of(dialect_of(job, stage_numbers=False, tool_ahead=False))).lines
    assert not any(line.startswith("N") for line in plain)
    assert "M1" not in plain
    assert not any(re.fullmatch(r"T\d+", line) for line in plain)
    full = post(held_of(dialect_of(job, tool_stops=True, tool_ahead=True))).lines
    calls = [k for k, line in enumerate(full) if line.endswith(" M6")]
    assert full.count("M1") == len(calls) - 1
    for k, later in itertools.pairwise(calls):
        assert full[k + 1] == full[later].removesuffix(" M6")
    assert not full[calls[-1] + 1].startswith("T")
    numbered = post(held_of(dialect_of(job, line_numbers=True))).lines
    assert all(line.startswith(("N", "(", "%", "O")) for line in numbered)
    assert not any(re.match(r"N\d+ N", line) for line in numbered)


def test_turns_and_thousandths_of_a_second_have_no_point() -> None:
    lines = post(held_of(dialect_of(sample("drum-spindle"), point=True, dwell_unit="ms"))).lines
    assert not any(re.search(r"[ST]\d+\.|G4 P\d+\.", line) for line in lines if line.startswith(("N", "G", "S", "T")))
    assert any(re.search(r"X\d+\.( |$)", line) for line in lines)


def test_on_its_way_to_and_from_the_work_the_spindle_keeps_its_speed() -> None:
    held = held_of(sample("drum-spindle"))
    trace = run(held, post(held).lines)
    far = np.abs(trace.start[:, 0]) > 40.0
    assert far.any()
    assert not trace.surface[far].any()
    assert trace.surface[trace.kind != 0].any()


@pytest.mark.parametrize(("vc", "unit", "n"), [(100.0, "mm", 1591.549), (100.0, "inch", 190.986), (1000.0, "mm", 2000.0)])
def test_turns_at_a_radius(vc: float, unit: str, n: float) -> None:
    """n = 1000 vc / πd, and 12 vc / πd with feet and inches: at a radius of 10 mm, and of 1 inch; never over the cap."""
    radius = 10.0 if unit == "mm" else 1.0
    assert Spin(n=0.0, vc=vc, cap=2000.0).turns_at(radius, unit) == pytest.approx(n, abs=1e-3)  # type: ignore[arg-type]


def test_two_stages_of_one_tool_meet_without_a_way_there_and_back() -> None:
    stage = next(s for d in held_of(sample("drum-spindle")).steps for s in d.stages if isinstance(s, Stage))
    cut = Cut(0.0, 5.0, 0.0, 0.1)

    def of(start: tuple[float, float], *moves: tuple[float, float], cuts_first: bool) -> Stage:
        ways = tuple(Go(z, r) for z, r in moves)
        return msgspec.structs.replace(
            stage, start=(*start, 0.0), moves=(cut, *ways) if cuts_first else (*ways, cut)
        )  # fmt: skip

    out = of((6.0, 29.0), (3.0, 5.0), (3.0, 21.0), (6.0, 21.0), (6.0, 29.0), cuts_first=True)
    same = of((6.0, 29.0), (6.0, 21.0), (2.0, 21.0), (2.0, 18.0), cuts_first=False)
    before, after = _joined(out, same)
    assert [(m.u, m.v) for m in before.moves if isinstance(m, Go)] == [(3.0, 5.0), (3.0, 21.0)]
    assert after.start == (3.0, 21.0, 0.0)
    assert [(m.u, m.v) for m in after.moves if isinstance(m, Go)] == [(2.0, 21.0), (2.0, 18.0)]
    bore = of((6.0, 29.0), (6.0, 10.0), (-5.0, 10.0), cuts_first=False)
    before, after = _joined(out, bore)
    assert [(m.u, m.v) for m in before.moves if isinstance(m, Go)] == [(3.0, 5.0), (3.0, 21.0), (6.0, 21.0)]
    assert [(m.u, m.v) for m in after.moves if isinstance(m, Go)] == [(6.0, 10.0), (-5.0, 10.0)]


def test_first_words_that_move_something_are_said_once() -> None:
    """A card may send the axes home in its first words: that is for the begin of a program, and not for every stage."""
    lines = post(held_of(dialect_of(sample("pawl-plate"), safe_start="G17 G40 G49 G80 G90 G94 G28 Z0"))).lines
    assert sum("G28" in line for line in lines) == 1
    assert [lines[k].split(maxsplit=1)[1] for k in begins(lines)] == ["G17 G40 G80 G90 G94"] * len(begins(lines))
