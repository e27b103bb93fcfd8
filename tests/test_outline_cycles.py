"""Outlines that are roughed by G71 and finished by G70, where the card has these: the same part as long-hand, whatever the
outline, and what a cycle cannot be trusted with is written move by move."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, edits, plan
from bastler.job.crib_edits import card_given
from bastler.job.samples import sample
from bastler.live.restarting import restarted
from bastler.live.restarts import restarts
from bastler.proof import TurnProof, prove_job, prove_whole
from bastler.shapes import TurnedOutline
from bastler.steps import CentreHole, TurnFacing, TurnFinishing, TurnRoughing
from conftest import crossed, many, turned
from outlines import along, slant, up
from outlines import outline as outline_of
from test_turn_properties import bores, planned_whole, shafts

FORMS = [{"cycle_lines": 2}, {"cycle_lines": 1}, {"cycle_lines": 2, "line_numbers": True}, {"diameter_x": False}]


def by_cycles(job: Job, **dialect: Any) -> Job:
    """The job on a card that wants outlines as cycles."""
    own = job.card.dialect
    wants = msgspec.structs.replace(own, turn_cycles=(*own.turn_cycles, "G70", "G71"), **dialect)
    return card_given(job, msgspec.structs.replace(job.card, dialect=wants))


def turned_proof(proof: object) -> TurnProof:
    assert isinstance(proof, TurnProof)
    return proof


def called(proof: TurnProof, code: str) -> list[str]:
    return [line for line in proof.program.lines if code in line.split()]


@pytest.mark.parametrize(("part", "dialect"), crossed(6, [("coupling-nut", 2), ("gland-nut", 1), ("pawl-shaft", 1)], FORMS))
def test_samples_are_the_same_part_by_cycles(part: tuple[str, int], dialect: dict[str, Any]) -> None:
    name, times = part
    job = sample(name)
    plain, cycled = prove_whole(plan(job)), prove_whole(plan(by_cycles(job, **dialect)))
    assert cycled.verdict == "proved"
    first = turned_proof(cycled.holdings[0])
    assert len(called(first, "G71")) == times * dialect.get("cycle_lines", 2)
    assert len(called(first, "G70")) == times
    assert len(first.program.lines) < len(plain.holdings[0].program.lines)
    for there, here in zip(map(turned_proof, plain.holdings), map(turned_proof, cycled.holdings), strict=True):
        assert abs(there.part.symmetric_difference(here.part).area) < 1e-3 * there.part.area


def test_both_cycles_name_the_lines_that_are_there_once_and_begin_along_one_axis() -> None:
    program = prove_whole(plan(by_cycles(sample("coupling-nut")))).holdings[0].program.lines
    for rough in (line for line in program if line.startswith("G71 P")):
        first, last = (word[1:] for word in rough.split()[1:3])
        own = [[line for line in program if line.startswith(f"N{number} ")] for number in (first, last)]
        assert [len(lines) for lines in own] == [1, 1]
        assert "Z" not in own[0][0]  # the first block of an outline that rises moves along X alone
        assert program.index(own[0][0]) == program.index(rough) + 1
        assert f"G70 P{first} Q{last}" in program


@settings(max_examples=many(10))
@given(shafts(), st.floats(0.6, 3.0), st.sampled_from(["c80-08", "d55-04"]), st.sampled_from(FORMS))
def test_whatever_rises_is_proved_by_cycles(outline: TurnedOutline, ap: float, finish: str, dialect: dict[str, Any]) -> None:
    steps = TurnFacing(id="f"), TurnRoughing(id="r", outline="o", ap=ap), TurnFinishing(id="e", outline="o", tool=finish)
    job = turned(*steps, outlines=(outline,))
    assume(planned_whole(job))
    there, here = prove_job(plan(job)), prove_job(plan(by_cycles(job, **dialect)))
    assert here.verdict == there.verdict, here.remarks
    assert called(here, "G71")
    assert abs(there.part.symmetric_difference(here.part).area) < 1e-4 * there.part.area


@settings(max_examples=many(6))
@given(bores(), st.floats(0.5, 2.0), st.sampled_from(FORMS))
def test_whatever_narrows_inward_is_proved_by_cycles(outline: TurnedOutline, ap: float, dialect: dict[str, Any]) -> None:
    job = turned(
        TurnFacing(id="f"),
        CentreHole(id="d", work="drill", diameter=20.0, depth=50.0, tool="drill-20"),
        TurnRoughing(id="r", outline="o", ap=ap, tool="bore-c80-04"),
        TurnFinishing(id="e", outline="o", tool="bore-c80-04"),
        outlines=(outline,),
    )
    assume(planned_whole(job))
    there, here = prove_job(plan(job)), prove_job(plan(by_cycles(job, **dialect)))
    assert here.verdict == there.verdict, here.remarks
    assert abs(there.part.symmetric_difference(here.part).area) < 1e-4 * there.part.area


def shaft_job(**rough: Any) -> Job:
    pieces = along(-10), slant(d=40.0, angle=45.0), along(-40.0), up(62.0)
    outline = outline_of(id="o", name="o", d=24.0, z=0.0, pieces=pieces)
    steps = TurnFacing(id="f"), TurnRoughing(id="r", outline="o", **rough), TurnFinishing(id="e", outline="o", tool="v35-04")
    return by_cycles(turned(*steps, outlines=(outline,)))


@pytest.mark.parametrize("rough", [{"way": "across"}, {"even_out": "no"}, {"leave_by": "follow"}])
def test_what_a_cycle_would_do_otherwise_is_written_out(rough: dict[str, Any]) -> None:
    proof = prove_job(plan(shaft_job(**rough)))
    assert (called(proof, "G71"), called(proof, "G70")) == ([], [])
    assert called(prove_job(plan(shaft_job())), "G71")


def test_an_outline_that_falls_is_written_out() -> None:
    """Controls differ in what they make of it."""
    pieces = along(-10), slant(d=30.0, angle=20.0), along(-40), up(62.0)
    outline = outline_of(id="o", name="o", d=36.0, z=0.0, pieces=pieces)
    steps = TurnFacing(id="f"), TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o", tool="v35-04")
    job = by_cycles(turned(*steps, outlines=(outline,)))
    assert not called(prove_job(plan(job)), "G71")


def test_finishing_that_is_taken_up_alone_or_has_no_roughing_is_written_out() -> None:
    job = shaft_job()
    proof = prove_job(plan(job))
    place = next(place for place in restarts(proof) if place.step == "e")
    again = restarted(plan(job), proof, place)
    assert not any("G70" in line for line in again.program.lines)
    alone = edits.step_removed(job, "r")
    assert not called(prove_job(plan(alone)), "G70")


def test_a_part_is_wrong_where_the_outline_in_the_program_is() -> None:
    """The lines of the outline are what is proved, not what was meant."""
    job = by_cycles(sample("coupling-nut"))
    program = prove_whole(plan(job)).holdings[0].program
    at = next(k for k, line in enumerate(program.lines) if line.startswith("G1 Z-15.4"))
    lines = (*program.lines[:at], program.lines[at].replace("Z-15.4", "Z-16"), *program.lines[at + 1 :])
    wrong = prove_whole(plan(job), {0: msgspec.structs.replace(program, lines=lines)})
    assert not wrong.proved
