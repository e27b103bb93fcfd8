"""What is wrong in a job with answers that are not a step's own: with tools, cards, materials, patterns, outlines.

Reading a file and typing in a field go by the same checks. A fault keeps nothing from being opened or saved: it is marked at
its place, and while there is one nothing is cut.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from bastler.ask import Trouble, problems
from bastler.bounds import STEPS
from bastler.job.document import Job
from bastler.job.forms import CardForm, DialectForm, MaterialForm, word_fault
from bastler.tools import faults_of


def job_faults(job: Job) -> tuple[Trouble, ...]:
    """All of them; the fields are addresses."""
    return tuple(_faults(job))


def faulty_tools(job: Job) -> frozenset[str]:
    """The ids of the tools that nothing can be worked out with."""
    return frozenset(t.id for t in job.tools if faults_of(t))


def _faults(job: Job) -> Iterator[Trouble]:
    if over := STEPS.over(len(job.steps)):
        yield Trouble("setup.material", over)
    for trouble in problems(job):
        yield Trouble(f"job.{trouble.field}", trouble.text)
    for tool in job.tools:
        for trouble in faults_of(tool)[:1]:
            text = f"{tool.name or 'A tool without a name'} in the crib cannot be: {_small(trouble.text)}"
            yield Trouble(f"tool:{tool.id}.{trouble.field}", text)
    places = Counter(t.station for t in job.tools if t.station)
    for station, count in places.items():
        if count > 1:
            twice = next(t for t in job.tools if t.station == station)
            yield Trouble(f"tool:{twice.id}.station", f"Station {station} holds {count} tools.")
    for outline in job.outlines:
        for trouble in problems(outline)[:1]:
            yield Trouble(f"outline:{outline.id}.{trouble.field}", f"Outline “{outline.name}”: {_small(trouble.text)}")
        for k, segment in enumerate(outline.segments):
            for trouble in problems(segment)[:1]:
                text = f"Outline “{outline.name}”, segment {k + 1}: {_small(trouble.text)}"
                yield Trouble(f"outline:{outline.id}.segments.{k}.{trouble.field}", text)
    for own in job.materials:
        for trouble in problems(MaterialForm.of(own))[:1]:
            yield Trouble(f"material:{own.id}.{trouble.field}", f"Material {own.name}: {_small(trouble.text)}")
    for card in job.cards:
        form = DialectForm.of(card)
        found = [("card", t) for t in problems(CardForm.of(card))] + [("dialect", t) for t in problems(form)]
        if fault := word_fault(form):
            found.append(("dialect", Trouble(*fault)))
        for what, trouble in found[:1]:
            yield Trouble(f"{what}:{card.id}.{trouble.field}", f"The card of {card.name}: {_small(trouble.text)}")


def _small(text: str) -> str:
    return text[0].lower() + text[1:] if text[1:2].islower() or text[1:2] == " " else text
