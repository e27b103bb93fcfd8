"""After an edit only what it touches is planned again, and the plan is the one that planning from nothing gives."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.ask import questions_of
from bastler.job import Job, Plan, answering, edits, plan
from bastler.job.planned import references
from bastler.job.samples import sample, sample_names
from bastler.post import Said, post
from bastler.post.flat import FlatVoice
from bastler.proof import Prover, prove_job
from bastler.proof.report import report
from bastler.steps import CentreHole, FreePocket, Stage
from conftest import MILLED, TIMES, TURNED, many, some


def owners(job: Job) -> list[str]:
    """The addresses of all that has numbers."""
    segments = [f"outline:{o.id}.segments.{k}" for o in job.outlines for k in range(len(o.segments))]
    return [*(f"step:{s.id}" for s in job.steps), *(f"pattern:{p.id}" for p in job.patterns), *segments, "stock", "holding:h1"]


def nudged(data: st.DataObject, job: Job) -> Job:
    """The job with one given number a little other than it was."""
    owner = data.draw(st.sampled_from(owners(job)))
    struct, _ = answering.at(job, f"{owner}.__class__")
    given_ones = [q for q in questions_of(type(struct)) if q.kind and isinstance(getattr(struct, q.name), float)]
    assume(given_ones)
    question = data.draw(st.sampled_from(given_ones))
    value = getattr(struct, question.name) * data.draw(st.sampled_from([0.97, 1.03])) + data.draw(st.sampled_from([0.0, 0.01]))
    assume(not question.out_of_bounds(value))
    return answering.answered(job, f"{owner}.{question.name}", value)


def same(a: Plan, b: Plan) -> None:
    assert a.troubles == b.troubles
    assert [(h.stock, h.holding) for h in a.holdings] == [(h.stock, h.holding) for h in b.holdings]
    for one, other in zip(a.steps, b.steps, strict=True):
        assert one.filled == other.filled
        assert one.troubles == other.troubles
        assert one.stages == other.stages
        assert one.removals == other.removals
        assert getattr(one.ctx, "before", None) == getattr(other.ctx, "before", None)


def edited(data: st.DataObject, job: Job) -> Job:
    """The job after one edit of any kind: a number, a step taken out, moved, switched, copied."""
    kind = data.draw(st.sampled_from(["number", "number", "remove", "move", "switch", "copy"]))
    if kind == "number" or len(job.steps) < 2:
        return nudged(data, job)
    ident = data.draw(st.sampled_from([s.id for s in job.steps]))
    if kind == "remove":
        return edits.step_removed(job, ident)
    if kind == "move":
        return edits.step_moved(job, ident, data.draw(st.integers(0, len(job.steps) - 1)))
    return edits.step_switched(job, ident) if kind == "switch" else edits.step_copied(job, ident)[0]


@settings(max_examples=many(3))
@given(st.data())
@pytest.mark.parametrize("name", some(sample_names(), 3))
def test_again_is_from_nothing(name: str, data: st.DataObject) -> None:
    """After any edits, one after the other, plan, text and proof are those of a job that comes from its file."""
    job = sample(name)
    prover, known = Prover(0.6), plan(job)
    prover.prove(known)
    for _ in range(2):
        job = edited(data, job)
        known = plan(job, known)
        again = prover.prove(known).first
    fresh = plan(job)
    same(known, fresh)
    assert post(known.programs[0]).lines == post(fresh.programs[0]).lines
    first = prove_job(fresh, cell_mm=0.6)
    assert again.program == first.program
    assert again.remarks == first.remarks
    assert report(again) == report(first)


@pytest.mark.parametrize("name", some(["drum-spindle", *(name for name in TURNED if name != "drum-spindle")], 1))
def test_every_single_removal_and_move_of_a_turned_part_is_planned_anew(name: str) -> None:
    """What stands behind a step that has gone or has changed its place sees another stock and another turret."""
    job = sample(name)
    whole, count = plan(job), len(job.steps)
    changed = [edits.step_removed(job, s.id) for s in job.steps]
    far = count if TIMES > 1 else 2  # further ones go through the same places one by one
    changed += [edits.step_moved(job, s.id, k) for j, s in enumerate(job.steps) for k in range(count) if 0 < abs(k - j) <= far]
    for other in changed:
        same(plan(other, whole), plan(other))


def test_a_hole_taken_out_of_the_gland_nut_is_missed_at_once() -> None:
    job = sample("gland-nut")
    hole = next(s for s in job.steps if isinstance(s, CentreHole))
    without = edits.step_removed(job, hole.id)
    prover = Prover()
    prover.prove(plan(job))
    again, first = prover.prove(plan(without, plan(job))), prove_job(plan(without))
    assert again is not None
    assert again.remarks == first.remarks
    assert again.proved == first.proved


@settings(max_examples=many(20))
@given(st.data())
def test_edits_one_after_the_other_plan_and_post_as_from_nothing(data: st.DataObject) -> None:
    job = sample(data.draw(st.sampled_from(sample_names())))
    known = plan(job)
    saids = [Said() for _ in known.programs]
    for _ in range(3):
        job = edited(data, job)
        known = plan(job, known)
        programs = [post(group, said) for group, said in zip(known.programs, saids, strict=True)]
        assert programs == [post(group) for group in known.programs]
    same(known, plan(job))


def test_an_edit_posts_what_it_touches_and_no_other_stage(monkeypatch: pytest.MonkeyPatch) -> None:
    job = sample("winch-base")
    known, said = plan(job), Said()
    post(known.first, said)
    voiced: list[Stage] = []
    voice = FlatVoice.stage

    def heard(self: FlatVoice, stage: Stage) -> None:
        voiced.append(stage)
        voice(self, stage)

    monkeypatch.setattr(FlatVoice, "stage", heard)
    last = known.first.steps[-1]
    post(plan(answering.answered(job, f"step:{last.step.id}.name", "The last one"), known).first, said)
    assert {stage.name for stage in voiced} <= {stage.name for stage in last.stages}
    voiced.clear()
    job = edits.step_removed(job, last.step.id)
    post(plan(job, known).first, said)
    assert len(voiced) < len(known.steps) / 2


def kept(job: Job, address: str, value: object) -> str:
    """The ids of the steps that an edit leaves as they were planned."""
    old = plan(job)
    new = plan(answering.answered(job, address, value), old)
    return " ".join(done.step.id for done in new.steps if any(done.stages is was.stages for was in old.steps))


@pytest.mark.parametrize(
    ("address", "value", "expected"),
    [
        ("outline:o1.segments.2.radius", 0.41, "s1 s2 s3 s6"),  # the rim: milled, and its edge broken
        ("outline:o2.segments.0.radius", 0.76, "s1 s4 s5"),  # the recess: cleared, its rest taken, its edge broken
        ("step:s2.depth", 0.19, "s1 s3 s4 s5"),
    ],
)
def test_steps_that_do_not_use_what_changed_are_kept(address: str, value: float, expected: str) -> None:
    assert kept(sample("pawl-plate"), address, value) == expected


def test_a_step_that_starts_on_another_surface_is_planned_again() -> None:
    """The pocket starts where the facing ends: a change there reaches it, though nothing of its own has changed."""
    job = sample("winch-base")
    before, height = plan(job), getattr(job.steps[0], "finish_z", 0.0) or 0.0
    after = plan(answering.answered(job, f"step:{job.steps[0].id}.finish_z", height - 0.25), before)
    moved = [done.step.id for done, was in zip(after.steps, before.steps, strict=True) if done.stages != was.stages]
    assert moved == [s.id for s in job.steps if s.on]


def test_references_are_found_in_islands_too() -> None:
    job = sample("pawl-plate")
    assert set().union(*map(references, job.steps)) <= {o.id for o in job.outlines}
    pocket = next(s for s in job.steps if isinstance(s, FreePocket) and s.islands)
    island = msgspec.structs.replace(pocket.islands[0], form="outline", outline="o9")
    assert "o9" in references(msgspec.structs.replace(pocket, islands=(island,)))


@settings(max_examples=many(6))
@given(st.data())
def test_edits_one_after_the_other_prove_as_from_nothing(data: st.DataObject) -> None:
    """What is kept of earlier proofs never shows: stock, sizes and remarks are those of a proof from nothing."""
    job = sample(data.draw(st.sampled_from(MILLED)))
    prover = Prover(0.4)
    prover.prove(plan(job))
    for _ in range(3):
        job = nudged(data, job)
        found: Any = prover.prove(plan(job)).first
    fresh = prove_job(plan(job), cell_mm=0.4)
    for k in range(len(fresh.stages)):
        assert np.array_equal(found.after(k), fresh.after(k))
        assert np.array_equal(found.stages[k].proof.cut, fresh.stages[k].proof.cut)
    assert found.remarks == fresh.remarks
    assert found.comparison.volume("left") == fresh.comparison.volume("left")


def test_a_run_elsewhere_on_the_part_is_kept() -> None:
    """An edit of the recess of the pawl plate leaves what was proved of its rim."""
    job = sample("pawl-plate")
    prover = Prover()
    before, after = (prover.prove(plan(j)).first for j in (job, answering.answered(job, "step:s2.depth", 0.19)))
    same_runs = {s.step for s, was in zip(after.stages, before.stages, strict=True) if s.proof is was.proof}
    assert same_runs >= {"s1", "s4"}
    assert not same_runs & {"s2", "s3"}
