"""What is wrong in a job with answers that are not a step's own: with tools, cards, materials, patterns, outlines.

Reading a file and typing in a field go by the same checks. A fault keeps nothing from being opened or saved: it is marked at
its place, and while there is one nothing is cut.
"""

from __future__ import annotations

import functools
from collections import Counter
from collections.abc import Iterator

from bastler.ask import Trouble, problems
from bastler.bounds import STEPS
from bastler.job.chuck import ChuckHolding
from bastler.job.crib_edits import crib_troubles
from bastler.job.document import Job
from bastler.job.family import FamilyError, values_of
from bastler.language import tr
from bastler.tools import AnyTool, faults_of
from bastler.units import in_a_sentence


def job_faults(job: Job) -> tuple[Trouble, ...]:
    """All of them; the fields are addresses."""
    return tuple(_faults(job))


def unfounded(job: Job) -> Iterator[Trouble]:
    """What a job refers to that is not there or not for it. Without that nothing can be done: such a job is neither read nor
    made by an answer."""
    cards = job.all_cards()
    if job.machine not in cards:
        yield Trouble(
            "machine", tr("There is no machine card “{machine}”. There are {cards}.", machine=job.machine, cards=", ".join(cards))
        )
    elif cards[job.machine].turns != job.turns:
        yield Trouble("stock", tr("The stock is not one for this kind of machine."))
    if any(isinstance(h, ChuckHolding) != job.turns for h in job.holdings):
        yield Trouble("holdings", tr("A holding is not one for this kind of stock."))
    elif any((getattr(h, "follows", "first") == "first") != (k == 0) for k, h in enumerate(job.holdings)):
        yield Trouble("holdings", tr("The first holding follows none; every other one follows the one before it."))
    elif any(getattr(h, "handed", False) for h in job.holdings) and job.machine in cards and not cards[job.machine].hands_over:
        yield Trouble("holdings", tr("{name} has no second spindle to hand the part over to.", name=cards[job.machine].name))
    elif sum(getattr(h, "handed", False) for h in job.holdings) > 1:
        yield Trouble("holdings", tr("A part is handed over to the second chuck once."))
    if job.elsewhere is not None and (job.steps or len(job.holdings) > 1):
        yield Trouble("elsewhere", tr("A program from elsewhere has no steps and one holding."))
    if job.family is not None:
        try:
            values_of(job)
        except FamilyError as error:
            yield Trouble("family.sizes", f"{error.name}: {error.reason}")
    if job.stock.material not in job.all_materials():
        yield Trouble("stock.material", tr("There is no material “{material}”.", material=job.stock.material))


def faulty_tools(job: Job) -> frozenset[str]:
    """The ids of the tools that nothing can be worked out with."""
    return frozenset(t.id for t in job.tools if fault_of(t))


@functools.lru_cache(maxsize=1000)
def fault_of(tool: AnyTool) -> Trouble | None:
    """The first fault of a tool. Remembered: every key press asks for those of all tools, and few change."""
    return next(iter(faults_of(tool)), None)


def _faults(job: Job) -> Iterator[Trouble]:
    if over := STEPS.over(len(job.steps)):
        yield Trouble("job.steps", over)
    for trouble in problems(job):
        yield Trouble(f"job.{trouble.field}", trouble.text)
    for tool in job.tools:
        if fault := fault_of(tool):
            name = tool.called or tr("A tool without a name")
            yield _at(f"tool:{tool.id}", tr("{name} in the crib cannot be", name=name), fault)
    places = Counter(t.station for t in job.tools if t.station)
    for tool in {t.station: t for t in job.tools if places[t.station] > 1}.values():
        yield Trouble(
            f"tool:{tool.id}.station",
            tr("Station {station} holds {places} tools.", station=tool.station, places=places[tool.station]),
        )
    for outline in job.outlines:
        for fault in problems(outline)[:1]:
            yield _at(f"outline:{outline.id}", tr("Outline “{name}”", name=outline.name), fault)
        for k, segment in enumerate(outline.segments):
            for fault in problems(segment)[:1]:
                yield _at(
                    f"outline:{outline.id}.segments.{k}", tr("Outline “{name}”, segment {k}", name=outline.name, k=k + 1), fault
                )
    shop = [("material", own.id, tr("Material {name}", name=own.called)) for own in job.materials]
    shop += [(what, card.id, tr("The card of {name}", name=card.name)) for card in job.cards for what in ("card", "dialect")]
    for what, ident, name in shop:
        for fault in crib_troubles(job, what, ident)[:1]:
            yield _at(f"{what}:{ident}", name, fault)


def _at(owner: str, name: str, fault: Trouble) -> Trouble:
    return Trouble(f"{owner}.{fault.field}", f"{name}: {in_a_sentence(fault.text)}")
