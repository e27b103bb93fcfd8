"""Steps, patterns, outlines and tools from one job in another."""

from __future__ import annotations

import msgspec
import pytest

from bastler.job import new_job, plan, read_job_text
from bastler.job.carrying import NotBrought, brought, excerpt, taken_up
from bastler.job.files import job_text
from bastler.job.planned import references
from bastler.job.samples import sample, sample_names
from bastler.post import post
from bastler.steps import HandOver

STEPS = [pytest.param(name, step.id, id=f"{name}-{step.id}") for name in sample_names() for step in sample(name).steps]


@pytest.mark.parametrize(("name", "ident"), STEPS)
def test_a_step_of_any_sample_goes_through_a_text_into_its_own_job(name: str, ident: str) -> None:
    """There all it uses is there already: nothing comes twice, and the step is planned as the one it is a copy of."""
    job = sample(name)
    carried = read_job_text(job_text(excerpt(job, (ident,))))
    step = job.step(ident)
    if isinstance(step, HandOver):
        with pytest.raises(NotBrought, match="begins a holding"):
            brought(job, carried, ident)
        return
    found = brought(job, carried, ident)
    assert len(found.job.steps) == len(job.steps) + 1
    assert (found.job.patterns, found.job.outlines, found.job.tools) == (job.patterns, job.outlines, job.tools)
    fresh = found.job.step(found.steps[0])
    assert fresh is not None
    assert step is not None
    assert msgspec.structs.replace(fresh, id=step.id) == step
    order = [s.id for s in found.job.holding_of(ident).steps]
    assert order[order.index(ident) + 1] == found.steps[0]
    read_job_text(job_text(found.job))


@pytest.mark.parametrize("name", ["winch-base", "pawl-plate", "bearing-cap", "drum-spindle", "gland-nut"])
def test_all_steps_of_a_job_in_a_new_one_make_the_same_program(name: str) -> None:
    """On the same stock, held alike: patterns, outlines and tools have come along."""
    job = sample(name)
    first = job.holdings[0]
    there = new_job(job.unit, job.machine)
    there = msgspec.structs.replace(
        there,
        name=job.name,
        stock=job.stock,
        holdings=(msgspec.structs.replace(first, steps=()),),
        cards=job.cards,
        materials=job.materials,
    )
    kept = [o for o in job.outlines if o.id in references(job.stock)]
    there = msgspec.structs.replace(there, tools=job.tools, outlines=tuple(kept), program_number=job.program_number)
    found = brought(there, excerpt(job, [s.id for s in first.steps]), "")
    alone = msgspec.structs.replace(job, holdings=(first,))
    assert post(plan(found.job).first).text.splitlines() == post(plan(alone).first).text.splitlines()


def test_what_is_called_the_same_and_is_another_comes_under_another_name() -> None:
    job = sample("winch-base")
    pattern = next(p for p in job.patterns if p.id in references(next(s for s in job.steps if s.id == "s4")))
    other = msgspec.structs.replace(
        job, patterns=tuple(msgspec.structs.replace(p, diameter=50.0) if p is pattern else p for p in job.patterns)
    )
    tool = next(t for t in job.tools if t.id == "drill-6.8" or t.id.startswith("drill"))
    other = msgspec.structs.replace(
        other, tools=tuple(msgspec.structs.replace(t, stick_out=99.0) if t.id == tool.id else t for t in other.tools)
    )
    step = next(s for s in job.steps if s.id == "s4")
    carried = excerpt(msgspec.structs.replace(job), ("s4",))
    carried = msgspec.structs.replace(carried, tools=(tool,))
    found = brought(other, carried, "s4")
    fresh = found.job.step(found.steps[0])
    assert fresh is not None
    assert references(fresh) != references(step)
    names = [p.name for p in found.job.patterns]
    assert len(names) == len(set(names))
    assert len(found.job.tools) == len(other.tools) + 1
    come = found.job.tools[-1]
    assert come.id not in {t.id for t in other.tools}
    assert come.station == 0, "its station is taken: it comes into the crib"
    assert found.words == "1 step, 1 pattern, 1 tool"


def test_a_tool_alone_and_an_outline_alone_are_carried_too() -> None:
    job = sample("winch-base")
    there = msgspec.structs.replace(new_job("mm", "mill-600"), tools=())
    found = brought(there, excerpt(job, (), ("end-16",)), "")
    assert [t.id for t in found.job.tools] == ["end-16"]
    assert found.words == "1 tool"
    assert brought(found.job, excerpt(job, (), ("end-16",)), "").job == found.job
    spindle = sample("drum-spindle")
    found = brought(new_job("mm", "lathe-200"), excerpt(spindle, (), (spindle.outlines[0].id,)), "")
    assert len(found.job.outlines) == 1
    assert found.job.outlines[0].segments == spindle.outlines[0].segments


def test_what_does_not_go_in_says_why_and_changes_nothing() -> None:
    mill, lathe = sample("winch-base"), sample("drum-spindle")
    inch = new_job("inch", "mill-600")
    for job, carried, why in (
        (lathe, excerpt(mill, ("s2",)), "cannot do"),
        (mill, excerpt(lathe, ("s2",)), "cannot do"),
        (inch, excerpt(mill, ("s2",)), "copied in millimetres; this job is in inches"),
        (mill, excerpt(sample("bearing-cap"), ("s2",)), "copied in inches"),
    ):
        with pytest.raises(NotBrought, match=why):
            brought(job, carried, "")
    full = mill
    step = mill.steps[0]
    steps = tuple(msgspec.structs.replace(step, id=f"x{k}") for k in range(400))
    full = msgspec.structs.replace(mill, holdings=(msgspec.structs.replace(mill.holdings[0], steps=steps),))
    with pytest.raises(NotBrought, match="no more than 400 steps"):
        brought(full, excerpt(mill, ("s2",)), "")


def test_a_step_of_a_later_holding_is_carried_as_one_of_a_first() -> None:
    job = next(j for j in map(sample, sample_names()) if len(j.holdings) > 1 and j.holdings[1].steps)
    ident = job.holdings[1].steps[0].id
    carried = read_job_text(job_text(excerpt(job, (ident,))))
    assert [s.id for s in carried.steps] == [ident]
    found = brought(job, carried, f"holding:{job.holdings[1].id}".removeprefix("holding:"))
    assert found.steps[0] in [s.id for s in found.job.holdings[1].steps]


@pytest.mark.parametrize(("name", "ident"), [("winch-base", "s4"), ("pawl-plate", "s4"), ("drum-spindle", "s2")])
def test_a_pattern_or_an_outline_alone_becomes_that_of_a_step(name: str, ident: str) -> None:
    """Of a step that has one of its kind; where the job has it already it is used, not brought twice."""
    job = sample(name)
    step = job.step(ident)
    which = "pattern" if getattr(step, "pattern", "") else "outline"
    own = getattr(job, which)(getattr(step, which))
    carried = excerpt(job, (), (own.id,))
    back = taken_up(job, brought(job, carried, ident), carried, ident)
    assert back.job == job
    renamed = msgspec.structs.replace(own, id="z9", name="another")
    other = msgspec.structs.replace(carried, **{f"{which}s": (renamed,)})
    found = taken_up(job, brought(job, other, ident), other, ident)
    fresh = getattr(found.job.step(ident), which)
    assert fresh != own.id
    assert msgspec.structs.replace(getattr(found.job, which)(fresh), id="z9") == renamed
    facing = next(s.id for s in job.steps if not hasattr(s, which))
    assert taken_up(job, brought(job, other, facing), other, facing).job.step(facing) == job.step(facing)
