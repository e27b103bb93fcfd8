"""Every choice of every step may be made: nothing that can be pressed ends the plan."""

from __future__ import annotations

import functools
import re
from typing import Any

import pytest

from bastler.ask import questions_of
from bastler.job import Job, Plan, answering, edits, new_job, plan
from bastler.job.samples import sample, sample_names
from bastler.live.showing import tool_offers
from bastler.steps import STEPS
from bastler.steps.base import Unfilled
from bastler.steps.cut import given
from bastler.units import Unit
from conftest import MILL_STEPS, TURN_STEPS, some, turned, with_step


def _neither() -> str:
    try:
        given(None)
    except Unfilled as error:
        return str(error)
    raise AssertionError("Nothing was given.")


NEITHER = _neither()
JOBS = {name: sample(name) for name in sorted(sample_names(), key=lambda name: (len(sample(name).holdings), name))}
"""The samples, those first that take the least to plan."""


def kinds() -> list[tuple[str, str]]:
    """The first step of every kind in the samples: the sample's name and the step's id."""
    found: dict[type, tuple[str, str]] = {}
    for name, job in JOBS.items():
        for step in job.steps:
            found.setdefault(type(step), (name, step.id))
    return list(found.values())


def choices(job: Job, ident: str) -> list[tuple[str, Any]]:
    step, _ = answering.at(job, f"step:{ident}.name")
    return [
        (question.name, value)
        for question in questions_of(type(step))
        for value, _ in question.choices
        if value != getattr(step, question.name)
    ]


def sound(planned: Plan, ident: str) -> bool:
    """Planned, or refused in words of its own."""
    step = planned.step(ident)
    return step is not None and not any(str(trouble.text) == NEITHER for trouble in step.troubles)


@functools.cache
def planned_once(name: str) -> Plan:
    """The plan of a sample."""
    return plan(JOBS[name])


@pytest.mark.parametrize(("name", "ident"), kinds())
def test_any_choice_of_a_sample_can_be_planned(name: str, ident: str) -> None:
    job, known = JOBS[name], planned_once(name)
    for field, value in choices(job, ident):
        assert sound(plan(answering.answered(job, f"step:{ident}.{field}", value), known), ident), (field, value)


@pytest.mark.parametrize(("name", "ident"), some(kinds(), 12))
def test_no_number_is_said_by_a_power_of_ten(name: str, ident: str) -> None:
    """Of any answer a hundred times as large, as far as it can be planned."""
    job, known = JOBS[name], planned_once(name)
    full = known.step(ident)
    assert full is not None
    for question in questions_of(type(full.filled)):
        value = getattr(full.filled, question.name)
        if isinstance(value, bool) or not isinstance(value, int | float):
            continue
        done = plan(answering.answered(job, f"step:{ident}.{question.name}", type(value)(100 * value)), known).step(ident)
        assert done is not None
        said = [t.text for t in done.troubles] or [text for _, text in done.filled.says(done.ctx)]
        assert not re.search(r"\de[+-]\d", " ".join(said)), (question.name, said)


@pytest.mark.parametrize("unit", some(("mm", "inch"), 1))
@pytest.mark.parametrize("machine", ["mill-600", "lathe-200"])
def test_every_tool_that_is_offered_as_fitting_fits(machine: str, unit: Unit) -> None:
    """One of each kind: taken, the step is planned. All others have their reason beside them."""
    for kind in some(MILL_STEPS if machine == "mill-600" else TURN_STEPS, 9):
        job, ident = with_step(new_job(unit, machine), kind, "")
        planned = plan(job)
        done = planned.step(ident)
        assert done is not None
        for question in questions_of(type(done.filled)):
            offers = tool_offers(planned, ident, question.name) if question.picks == "tool" else None
            if offers is None or done.troubles or not question.asked(done.filled):
                continue
            fits = {offer.tool.kind: offer.tool.id for offer in offers.tools if not offer.why_not}
            assert fits, (kind, question.name)
            for tool in fits.values():
                changed = plan(answering.answered(job, f"step:{ident}.{question.name}", tool), planned).step(ident)
                assert changed is not None
                assert not changed.troubles, (kind, question.name, tool, changed.troubles)


@pytest.mark.parametrize(("kind", "tool"), [("facing", "tap-m6"), ("facing", "bore-25"), ("rectangular-pocket", "bore-25"),
                                            ("rectangular-pocket", "chamfer-12"), ("finished-hole", "end-6")])  # fmt: skip
def test_a_tool_that_does_not_do_the_work_is_told_at_the_tool(kind: str, tool: str) -> None:
    job, ident = with_step(new_job(), kind, "")
    field = "spot_tool" if kind == "finished-hole" else "tool"
    done = plan(answering.answered(job, f"step:{ident}.{field}", tool)).step(ident)
    assert done is not None
    assert [(t.field, t.text.startswith("This tool")) for t in done.troubles] == [(field, True)]


@pytest.mark.parametrize(("kind", "tool"), [("groove", "c80-08"), ("part-off", "bore-c80-04"), ("centre-hole", "thread-60")])
def test_nor_is_a_turning_tool_told_by_what_follows_from_it(kind: str, tool: str) -> None:
    job, ident = with_step(turned(), kind, "")
    done = plan(answering.answered(job, f"step:{ident}.tool", tool)).step(ident)
    assert done is not None
    assert [t.field for t in done.troubles] == ["tool"]


@pytest.mark.parametrize("machine", ["mill-600", "lathe-200"])
def test_any_choice_of_a_step_by_itself_can_be_planned(machine: str) -> None:
    """With nothing before it but what arrives with it."""
    empty = new_job("mm", machine)
    for kind in sorted(STEPS):
        if empty.plane not in STEPS[kind].planes:
            continue
        job, ident = edits.step_added(empty, kind, "")
        for field, value in choices(job, ident):
            assert sound(plan(answering.answered(job, f"step:{ident}.{field}", value)), ident), (kind, field, value)


@pytest.mark.parametrize("kind", ["centre-hole", "thread"])
def test_what_turns_at_one_speed_is_not_asked_which_way_and_minds_no_file(kind: str) -> None:
    job, ident = edits.step_added(new_job("mm", "lathe-200"), kind, "")
    step, _ = answering.at(job, f"step:{ident}.name")
    assert not next(q for q in questions_of(type(step)) if q.name == "speed").asked(step)
    same: Any = plan(answering.answered(job, f"step:{ident}.speed", "surface")).step(ident)
    plain: Any = plan(job).step(ident)
    assert same.filled.n == plain.filled.n > 0
