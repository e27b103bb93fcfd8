"""What all tests share."""

from __future__ import annotations

import functools
import itertools
import logging
import os
import random
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any, TypeVar

import msgspec
import pytest
from hypothesis import HealthCheck, Phase, assume, settings
from hypothesis import strategies as st

os.environ["BASTLER_LANGUAGE"] = "en"  # whatever the machine speaks: before anything of ours is loaded

from bastler.ask import questions_of
from bastler.job import ChuckHolding, Job, answering, edits, new_job, plan
from bastler.job.samples import sample, sample_names
from bastler.live import line
from bastler.nc import Control
from bastler.proof import JobProof, Proof, prove_job, prove_whole
from bastler.shapes import TurnedOutline
from bastler.steps import STEPS, Step
from other_end import OtherEnd

TIMES = int(os.environ.get("BASTLER_TIMES", "1"))
ALL = TIMES > 1 or not os.environ.get("CI")
"""Is all looked at that there is?"""
T = TypeVar("T")


def many(examples: int) -> int:
    """So many examples of a property; `BASTLER_TIMES` looks at so many times more. Where they are the same each time, more of
    them tell little that is new: there two thirds are left to the runs with fresh ones, of the few that take long all but
    one."""
    return examples * TIMES if ALL else max(examples // 3, 1)


def some(every: Sequence[T], count: int) -> Sequence[T]:
    """All cases of what takes long; where the same are looked at each time only the first ones, the others in `make soak`."""
    return every if ALL else every[:count]


def crossed(count: int, *axes: Sequence[Any]) -> Sequence[tuple[Any, ...]]:
    """Every choice of one of each axis. Where only the first ones are looked at, all of an axis comes as often as can be."""
    left = list(itertools.product(*axes))
    random.Random(len(left)).shuffle(left)
    mixed: list[tuple[Any, ...]] = []
    while left:  # next what has come least often
        mixed.append(min(left, key=lambda case: sum(value == other[i] for other in mixed for i, value in enumerate(case))))
        left.remove(mixed[-1])
    return some(mixed, count)


AS_FOUND = (Phase.explicit, Phase.reuse, Phase.generate)
"""A failing example is told as it was found: making it smaller would prove a part hundreds of times."""
settings.register_profile(
    "bastler",
    deadline=None,
    max_examples=many(25),
    phases=AS_FOUND,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.register_profile("same-each-time", settings.get_profile("bastler"), derandomize=True)
settings.load_profile("same-each-time" if os.environ.get("CI") else "bastler")


BASE = Path(__file__).parent / "base"
"""The programs and proofs of the samples as they were."""
MILLED = [name for name in sample_names() if not sample(name).turns]
TURNED = [name for name in sample_names() if sample(name).turns]
MILL_STEPS = [tag for tag, kind in STEPS.items() if "flat" in kind.planes]
NEEDS = {
    "edge-break": ("outline-milling",), "rest-machining": ("free-pocket",), "reaming": ("drilling",), "tapping": ("drilling",),
    "thread-milling": ("drilling",), "boring": ("round-pocket",),
}  # fmt: skip
"""What has to be there before a milling step has anything to do."""
DRILLS = {
    "reaming": {"mm": 5.8, "inch": 0.2344}, "tapping": {"mm": 6.8, "inch": 0.203125}, "boring": {"mm": 24.4, "inch": 0.98},
    "thread-milling": {"mm": 8.5, "inch": 0.421875},
}  # fmt: skip
"""The holes that there is a reamer, a tap, a thread mill and a boring head for."""
TURN_STEPS = [tag for tag, kind in STEPS.items() if "turned" in kind.planes and not kind.needs_second]


@pytest.fixture(autouse=True)
def _no_unannounced_records(caplog: pytest.LogCaptureFixture) -> Iterator[None]:
    """A warning or an error in the log that a test did not ask for fails it."""
    yield
    loud = [r for r in caplog.get_records("call") if r.levelno >= logging.WARNING and r.name.startswith("bastler")]
    assert not loud, [r.getMessage() for r in loud]


def job_with(job: Job, **answers: Any) -> Job:
    """The job with other answers of its stock and its first holding, and `steps` in that."""
    own = {name: value for name, value in answers.items() if name in job.stock.__struct_fields__ and name != "typed"}
    held = {name: value for name, value in answers.items() if name not in own}
    first = msgspec.structs.replace(job.holdings[0], **held)
    return msgspec.structs.replace(job, stock=msgspec.structs.replace(job.stock, **own), holdings=(first, *job.holdings[1:]))


def job_of(*steps: Step, unit: str = "mm", machine: str = "mill-600", patterns: tuple = (), **setup: Any) -> Job:
    """A job with a plain block, its zero at the front left corner of the finished top, and the given steps."""
    blank = new_job(unit, machine)  # type: ignore[arg-type]
    answers = {"size_x": 60.0, "size_y": 40.0, "size_z": 20.0, "over_top": 1.0, "vise": "no"} | setup
    return msgspec.structs.replace(job_with(blank, steps=steps, **answers), patterns=patterns)


def dialect_of(job: Job, **dialect: Any) -> Job:
    """A job whose machine wants its words in other ways."""
    card = msgspec.structs.replace(job.card, dialect=msgspec.structs.replace(job.card.dialect, **dialect))
    return msgspec.structs.replace(job, cards=(card, *(c for c in job.cards if c.id != card.id)))


def turned(
    *steps: Step, outlines: tuple[TurnedOutline, ...] = (), machine: str = "lathe-200", unit: str = "mm", **setup: Any
) -> Job:
    """A turned job: a bar of Ø60, 1 too long at the front, 60 finished, 90 out of the jaws, and the given steps."""
    blank = new_job(unit, machine)  # type: ignore[arg-type]
    answers = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0} if unit == "mm" else {}
    return msgspec.structs.replace(job_with(blank, steps=steps, **(answers | setup)), outlines=outlines)


def handed(*first: Step, behind: tuple[Step, ...] = (), unit: str = "mm", **setup: Any) -> Job:
    """A turned job on a machine with two spindles: a bar of Ø50, 40 finished and 1 left at the back, handed over."""
    blank = new_job(unit, "turn-mill-250")  # type: ignore[arg-type]
    k = 1.0 if unit == "mm" else 1 / 25.4
    answers = {"diameter": 50.0, "length": 100.0, "over_front": 1.0, "over_back": 1.0, "finished": 40.0, "stick_out": 60.0}
    job = job_with(blank, steps=first, **({name: value * k for name, value in answers.items()} | setup))
    other = ChuckHolding(id="h2", follows="handed", work_offset="G55", steps=behind)
    return msgspec.structs.replace(job, holdings=(*job.holdings, other))


def context_of(job: Job) -> Any:
    """What the first step of a job sees."""
    return plan(job).first.ctx


def with_step(job: Job, kind: str, after: str) -> tuple[Job, str]:
    """The job with a new step of a kind, behind what it needs to have anything to do; and its id."""
    for needed in NEEDS.get(kind, ()):
        job, after = edits.step_added(job, needed, after)
        if kind in DRILLS:
            job = answering.answered(job, f"step:{after}.diameter", DRILLS[kind][job.unit])
            job = answering.answered(job, f"step:{after}.depth", round(0.6 * job.stock.size_z, 2))
    job, ident = edits.step_added(job, kind, after)
    return (edits.pattern_for(job, ident, "points"), ident) if kind == "boring" else (job, ident)


SLIPS = [1e-4, 0.01, 3.0, 250.0, 99_999.0]


def slipped(data: st.DataObject, job: Job, owners: list[str]) -> Job:
    """A job with any number in one or two of its owners' fields, as far as their own bounds let it be typed."""
    for _ in range(data.draw(st.integers(1, 2))):
        owner = data.draw(st.sampled_from(owners))
        struct, _ = answering.at(job, f"{owner}.__class__")
        numbers = [q for q in questions_of(type(struct)) if q.kind is not None]
        if not numbers:  # places one by one have none
            continue
        question = data.draw(st.sampled_from(numbers))
        value = data.draw(st.sampled_from(SLIPS)) * data.draw(st.sampled_from([1.0, -1.0]))
        value = int(value) if question.kind is not None and question.kind.value == "count" else value
        assume(not question.out_of_bounds(value))
        job = answering.answered(job, f"{owner}.{question.name}", value)
    return job


def proof_of(job: Job, cell: float | None = 0.1) -> Any:
    """A job proved from nothing: a MillProof or a TurnProof, as the job is."""
    return prove_job(plan(job), cell_mm=cell)


@functools.cache
def sample_proof(name: str) -> JobProof:
    """A sample as it ships, proved from nothing, once for all tests of a process that ask for it."""
    return prove_whole(plan(sample(name)))


def codes(proof: Proof, level: str = "") -> set[str]:
    """The codes of a proof's remarks."""
    return {r.code for r in proof.remarks if level in ("", r.level)}


@pytest.fixture
def control() -> Control:
    """A control with tools 1 to 9 of length 100 and zero offsets, home at Z 200."""
    lengths = dict.fromkeys(range(1, 10), (0.0, 0.0, 100.0))
    return Control(offsets={1: (0.0, 0.0, 0.0)}, home=(0.0, 0.0, 300.0), reaches=lengths, tool_offsets=lengths)


@pytest.fixture
def other(monkeypatch: pytest.MonkeyPatch) -> Iterator[OtherEnd]:
    """Somebody at the other end of a serial line, of whom nothing is waited for long."""
    monkeypatch.setattr(line, "STILL", 0.2)
    monkeypatch.setattr(line, "SILENCE", 0.5)
    end = OtherEnd()
    yield end
    end.close()
