"""Answers beyond all sense, as a finger slips or a file has them: the job plans, is shown, and proves or says why not."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any, Literal, get_args, get_origin, get_type_hints

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.ask import filled, problems
from bastler.ask.question import questions_of
from bastler.job import Job, Plan, answering, plan
from bastler.job.samples import sample, sample_names
from bastler.live.setting_up import setup_sheet
from bastler.live.showing import Showing, look
from bastler.proof import prove_whole
from bastler.steps import CentreHole, TurnFinishing, TurnRoughing
from bastler.units import Kind
from conftest import codes, many, some
from test_bar_work import from_bar
from test_deep_holes import deep
from test_from_both_sides import spool
from test_tailstock import COMES, GOES, centred
from test_wide_grooves import grooved

EXTREME = (0.0, -5.0, 1e-4, 0.01, 0.5, 3.0, 12.0, 60.0, 300.0, 1e4)
CUT = (TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o"))
JOBS: dict[str, Callable[[str], Job]] = {
    "a stop": lambda unit: from_bar("stop", unit=unit),
    "a puller": lambda unit: from_bar("puller", unit=unit),
    "a feeder": lambda unit: from_bar("feeder", unit=unit),
    "a spool": spool,
    "a groove": grooved,
    "a groove inside": lambda unit: grooved(unit, "inside"),
    "a centre by words": lambda unit: centred(COMES, *CUT, GOES, unit=unit),
    "a centre by hand": lambda unit: centred(COMES, *CUT, GOES, machine="lathe-bench", unit=unit),
    "a deep hole": lambda unit: (
        deep("pecks") if unit == "mm" else centred(CentreHole(id="d", diameter=0.3281, depth=2.0), unit=unit)
    ),
}


@functools.cache
def made(name: str, unit: str) -> Job:
    return JOBS[name](unit)


def choices_of(owner: Any, field: str) -> tuple[Any, ...]:
    """The words of a choice, none of a number."""
    (hint,) = get_args(get_type_hints(owner, include_extras=True)[field])[:1] or (None,)
    return get_args(hint) if get_origin(hint) is Literal else ()


def slipped(data: st.DataObject, job: Job) -> Job:
    """One answer of a step or of how it is held made another."""
    (holding,) = job.holdings
    owner: Any = data.draw(st.sampled_from([holding, *holding.steps]))
    kind: Any = type(owner)
    numbers = [q.name for q in questions_of(kind) if isinstance(getattr(owner, q.name), float | None) and not q.choices]
    words = [q.name for q in questions_of(kind) if choices_of(kind, q.name)]
    field = data.draw(st.sampled_from(numbers + words))
    value = data.draw(st.sampled_from(choices_of(kind, field) or EXTREME))
    address = f"holding:{owner.id}" if owner is holding else f"step:{owner.id}"
    try:
        return answering.answered(job, f"{address}.{field}", value)
    except answering.UnfitAnswer:
        return job


@settings(max_examples=many(60))
@given(st.data())
def test_whatever_is_answered_is_shown_and_judged(data: st.DataObject) -> None:
    job = made(data.draw(st.sampled_from(sorted(JOBS))), data.draw(st.sampled_from(["mm", "inch"])))
    for _ in range(data.draw(st.integers(1, 3))):
        job = slipped(data, job)
    planned = plan(job)
    shown, proof = Showing(), prove_whole(planned)
    shown.plan(planned)
    shown.whole(proof)
    setup_sheet(proof)
    for step in job.holdings[0].steps:
        look(planned, step.id)
    assert proof.verdict != "stop" or any(r.level == "stop" and r.text for r in proof.holdings[0].remarks)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize(
    ("field", "value", "says"),
    [
        ("step:e.ra", -5.0, "more than 0"),
        ("step:in.body_d", 1e4, ""),
        ("step:s.z", 30.0, "no centre hole"),
    ],
)
def test_what_ended_the_computation_is_said(unit: str, field: str, value: float, says: str) -> None:
    """A roughness below nothing, a centre wider than it was taken to be long, a hole in front of the work."""
    planned = plan(answering.answered(made("a centre by words", unit), field, value))
    troubles = [t.text for done in planned.steps for t in done.troubles]
    proof = prove_whole(planned)
    if says:
        assert any(says in text for text in troubles)
    assert proof.verdict == "stop"
    assert "tailstock-hit" in codes(proof.holdings[0]) or says


def test_nothing_is_worked_out_from_what_is_beyond_its_bounds() -> None:
    """In its place counts what would have been proposed; the answer itself stays, and is told."""
    planned = plan(made("a centre by words", "mm"))
    done = planned.step("e")
    assert done is not None
    wrong = msgspec.structs.replace(done.step, ra=-5.0)
    full = filled(wrong, done.ctx)
    assert full.ra == -5.0  # type: ignore[attr-defined]
    assert full.f == done.filled.f  # type: ignore[attr-defined]
    assert [t.field for t in problems(full)] == ["ra"]


@functools.cache
def planned_sample(name: str) -> Plan:
    return plan(sample(name))


def owners_of(name: str) -> list[tuple[str, msgspec.Struct]]:
    """What questions of a sample belong to, filled, each with how its addresses begin."""
    done = planned_sample(name)
    held = [(f"holding:{h.holding.id}.", h.holding) for h in done.holdings]
    return [("stock.", done.first.stock), *held, *((f"step:{s.step.id}.", s.filled) for s in done.steps)]


def card_of(begin: str) -> str:
    """What is selected where an address begins so."""
    what, _, ident = begin.rstrip(".").partition(":")
    return ident if what == "step" else begin.rstrip(".")


def replaced_in(job: Job, begin: str, changed: dict[str, Any]) -> Job:
    """A job with answers as a file may have them, whatever an edit would make of them."""
    what, _, ident = begin.rstrip(".").partition(":")
    if what == "stock":
        return msgspec.structs.replace(job, stock=msgspec.structs.replace(job.stock, **changed))
    holdings = []
    for holding in job.holdings:
        if what == "holding" and holding.id == ident:
            holding = msgspec.structs.replace(holding, **changed)
        steps = tuple(msgspec.structs.replace(s, **changed) if what == "step" and s.id == ident else s for s in holding.steps)
        holdings.append(msgspec.structs.replace(holding, steps=steps))
    return msgspec.structs.replace(job, holdings=tuple(holdings))


TINY = (1e-17, 2e-9, 1e-6)
ASKED = [
    (name, begin, question.name)
    for name in sample_names()
    for begin, owner in owners_of(name)
    for question in questions_of(type(owner))
    if question.kind not in (None, Kind.COUNT) and question.asked(owner)  # no file holds a count that is none
]


@pytest.mark.parametrize(("name", "begin", "field"), some(ASKED, 50))
def test_an_answer_that_is_next_to_nothing_ends_nothing(name: str, begin: str, field: str) -> None:
    """As a sum leaves it over (0.3-3*0.1), as a file has it, or as somebody types it; and next to what the answer is."""
    job, base = sample(name), planned_sample(name)
    owner, _ = answering.at(job, begin + field)
    given = getattr(owner, field)
    close = (given + 2e-9,) if isinstance(given, int | float) and not isinstance(given, bool) else ()
    for value in (*TINY, *close):
        look(plan(replaced_in(job, begin, {field: value}), base), card_of(begin))


def test_what_a_sum_leaves_over_is_nothing() -> None:
    job = sample("winch-base")
    made = answering.answered(job, "step:s2.leave_wall", 0.3 - 3 * 0.1)
    assert getattr(made.step("s2"), "leave_wall") == 0.0  # noqa: B009  # of the steps only some have it
    from_file = plan(replaced_in(job, "step:s2.", {"leave_wall": 5e-17, "corner_radius": 1e-17})).step("s2")
    assert from_file is not None
    assert from_file.filled.leave_wall == 0.0  # type: ignore[attr-defined]
    assert [t.field for t in from_file.troubles] == ["corner_radius"], "a corner of nothing is not for any mill"
