"""What the head of a program says once it has been run, and what of it makes no other program."""

from __future__ import annotations

import re

import msgspec
import numpy as np
import pytest

from bastler.job import answering, edits, plan
from bastler.job.samples import sample, sample_names
from bastler.live.leaving import digest_of, lines_that_count, program_bytes, sent_bytes
from bastler.live.showing import Showing
from bastler.machines import Dialect
from bastler.post import post
from bastler.post.by_hand import edits_of, unlaid
from bastler.post.compared import bare, compared
from bastler.post.headed import Figures, tool_line
from bastler.post.words import COMMENT_LENGTH, Words
from bastler.proof import Remark, prove_whole
from bastler.steps import Facing, RectangularPocket
from conftest import job_of, sample_proof

TOLD = re.compile(r"\(?T(\d+) .*, lowest Z(-?[\d.]+), ([\d.]+) min\)?$", re.IGNORECASE)
POCKETS = (Facing(id="a"), RectangularPocket(id="b", x=30, y=20))
WHEN = "2026-03-09 07:45"


@pytest.mark.parametrize("name", sample_names())
def test_every_tool_of_a_sample_has_its_lowest_z_and_its_time(name: str) -> None:
    whole = sample_proof(name)
    planned = whole.plan
    for group in planned.programs:
        proofs = [whole.holdings[held.place] for held in group]
        told = {int(m[1]): (float(m[2]), float(m[3])) for line in proofs[0].program.lines if (m := TOLD.match(line))}
        feeding = {int(tool) for proof in proofs for tool in np.unique(proof.trace.tool[proof.trace.kind > 0])}
        assert set(told) == feeding
        minutes = sum(float(proof.lasts.sum()) for proof in proofs) / 60.0
        assert abs(sum(time for _, time in told.values()) - minutes) <= 0.05 * len(told) + 0.05
        # what is told is what the lines of the program say: no feed goes lower
        if len(group) == 1 and len(group[0].parts) == 1:
            for tool, (lowest, _) in told.items():
                trace = proofs[0].trace
                own = (trace.tool == tool) & (trace.kind > 0)
                assert lowest == pytest.approx(float(trace.extremes[0][own, 2].min()), abs=6e-4)
        # the rest is what was posted: nothing that a control acts on is another one
        posted = post(group)
        assert [bare(line) for line in proofs[0].program.lines] == [bare(line) for line in posted.lines]
        assert compared(posted, proofs[0].program) == ()


def test_a_height_counts_from_the_part_that_the_tool_is_on() -> None:
    """Two parts at heights 30 apart: the same program, the same lowest Z."""
    job = sample("fixture-of-six")
    raised = answering.answered(job, f"holding:{job.holdings[0].id}.offset_z", -300.0)
    lowest = [[TOLD.match(line) for line in prove_whole(plan(one)).first.program.lines] for one in (job, raised)]
    assert [m[2] for m in lowest[0] if m] == [m[2] for m in lowest[1] if m] == ["-10", "-20.043"]


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("comment", ["brackets", "semicolon"])
def test_a_long_name_is_cut_and_never_a_figure(unit: str, comment: str) -> None:
    words = Words(Dialect(comment=comment), unit)  # type: ignore[arg-type]
    tool = plan(sample("winch-base")).first.ctx.tools[0]
    line = tool_line(words, msgspec.structs.replace(tool, name="°" * 40 + "x" * 40), Figures(-1234.5678, 98_765.0))
    assert TOLD.match(line.removeprefix("; "))
    assert len(line) <= COMMENT_LENGTH + 2
    assert "Z-1234.568, 1646.1 min" in line or "Z-1234.5678, 1646.1 min" in line


def test_a_line_of_the_head_typed_by_hand_stays_and_edits_fit_whatever_the_figures() -> None:
    job = job_of(*POCKETS)
    planned = plan(job)
    program = prove_whole(planned).first.program
    k = next(k for k, line in enumerate(program.lines) if TOLD.match(line))
    text = "\n".join((*program.lines[:k], "(T1 BORROWED)", *program.lines[k + 1 :]))
    found = edits_of(program, text, job.holdings[0].id, ())
    laid = edits.changed_by_hand(job, job.holdings[0].id, found)
    again = prove_whole(plan(laid)).first.program
    assert again.lines[k] == "(T1 BORROWED)"
    assert not again.unfit
    deeper = answering.answered(laid, f"step:{job.steps[-1].id}.depth", 4.25)
    assert not prove_whole(plan(deeper)).first.program.unfit
    assert unlaid(again, found).lines[k] == bare(program.lines[k])


def test_an_edit_beside_the_figures_fits_when_they_change() -> None:
    job = job_of(*POCKETS)
    program = prove_whole(plan(job)).first.program
    k = next(k for k, line in enumerate(program.lines) if TOLD.match(line))
    text = "\n".join((*program.lines[: k + 1], "(MIND THE CLAMP)", *program.lines[k + 1 :]))
    typed = edits.changed_by_hand(job, job.holdings[0].id, edits_of(program, text, job.holdings[0].id, ()))
    for depth in (2.0, 4.25, 5.5):
        deeper = prove_whole(plan(answering.answered(typed, f"step:{job.steps[-1].id}.depth", depth))).first.program
        assert "(MIND THE CLAMP)" in deeper.lines
        assert not deeper.unfit


@pytest.mark.parametrize("name", ["winch-base", "bearing-cap", "gland-nut"])
def test_when_it_left_stands_in_the_head_and_makes_no_other_program(name: str) -> None:
    proof = Showing().whole(sample_proof(name)).holdings[0]
    plain, dated = program_bytes([proof]), program_bytes([proof], WHEN)
    assert f", made {WHEN})".lower().encode() in dated.lower()
    assert plain != dated
    assert digest_of(plain) == digest_of(dated) == digest_of(program_bytes([proof], "2031-12-31 23:59"))
    assert digest_of(dated.replace(b"X", b"Y", 1)) != digest_of(dated)
    assert lines_that_count(dated) == lines_that_count(plain) == list(proof.program.lines)


def test_only_the_line_of_the_machine_is_dated_and_what_must_not_run_is_told_apart() -> None:
    job = job_of(*POCKETS)
    proof = prove_whole(plan(job)).first
    text = (*proof.program.lines, "(FOR NOTHING, MADE BY HAND)")
    program = msgspec.structs.replace(proof.program, lines=text)
    stop = Remark(level="stop", code="gouge", text="Cut away.")
    sent = sent_bytes(program, job.card, job.unit, [stop], WHEN)
    assert sent.lower().count(b"made") == 2
    assert b"NOT PROVED" in sent
    assert lines_that_count(sent) == list(text)
