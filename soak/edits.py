"""Random edits through plan, text, proof and file: nothing may raise, hang, or come back from its file as another job."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

from bastler.ask import questions_of
from bastler.job import Job, answering, crib_edits, edits, new_job, outline_edits, plan, read_job_text
from bastler.job.files import job_text
from bastler.job.forms import CardForm, DialectForm, MaterialForm
from bastler.job.samples import sample, sample_names
from bastler.post import post
from bastler.proof import prove_whole
from bastler.steps import STEPS

CELL_MM = 1.0
NUMBERS = (
    0.0,
    1e-6,
    1e-4,
    0.01,
    0.1,
    0.5,
    1.0,
    2.5,
    3.0,
    9.0,
    16.0,
    25.4,
    45.0,
    60.0,
    90.0,
    120.0,
    180.0,
    250.0,
    360.0,
    1000.0,
    99_999.0,
)
WORDS = (
    "", "x", "Bush 12", "Ø8 µ°", "<b>&amp;", "{", "}", "{0}", "{tool}", "a" * 300, "²", "\u202egnp", "M6", "M1e9x1", "CNMG120408",
    "G1 X5", "T1 M6\nG0 X0", "../../x", "\ud7ff", "1/0", "M24x1.5", "Tr 36 x 6", "R 1/2", "None",
)  # fmt: skip


def randomly(seed: int) -> tuple[Job, list[str]]:
    """A job after some random edits, as the window would let one make them; and what they were."""
    draw = random.Random(seed)
    name = draw.choice([*sample_names(), "new:mm:mill-600", "new:inch:mill-600", "new:mm:lathe-200", "new:inch:lathe-200"])
    if name.startswith("new:"):
        _, unit, machine = name.split(":")
        job = new_job(unit, machine)  # type: ignore[arg-type]
    else:
        job = sample(name)
    said = [name]
    for _ in range(draw.randint(1, 6)):
        what = draw.choice(CHANGES)
        job, says = what(draw, job)
        said.append(says)
    return job, said


def _owners(job: Job) -> list[str]:
    owners = ["stock", *(f"holding:{h.id}" for h in job.holdings), "job"]
    owners += [f"step:{s.id}" for s in job.steps] * 3
    owners += [f"pattern:{p.id}" for p in job.patterns] + [f"outline:{o.id}" for o in job.outlines] * 2
    owners += [f"outline:{o.id}.segments.{k}" for o in job.outlines for k in range(len(o.segments))]
    return owners + [f"tool:{t.id}" for t in job.tools]


def _answer(draw: random.Random, job: Job) -> tuple[Job, str]:
    """Any field of anything gets any value that its field would take."""
    owner = draw.choice(_owners(job))
    struct, _ = answering.at(job, f"{owner}.__class__")
    questions = list(questions_of(type(struct)))
    if not questions:
        return job, "nothing to answer"
    question = draw.choice(questions)
    value: Any
    if question.choices:
        value = draw.choice(question.choices)[0]
    elif question.kind is not None:
        value = draw.choice(NUMBERS) * draw.choice((1, 1, 1, -1))
        if draw.random() < 0.2:
            value = draw.uniform(-50, 200)
        if question.kind.value == "count":
            value = int(value)
        if draw.random() < 0.1:
            value = None
        elif question.out_of_bounds(value):
            return job, f"{owner}.{question.name} takes no {value}"
    elif question.picks:
        value = _pick(draw, job, question.picks)
    else:
        value = draw.choice(WORDS)
    try:
        return answering.answered(job, f"{owner}.{question.name}", value), f"{owner}.{question.name} = {value!r}"
    except answering.UnfitAnswer as error:  # what the field cannot hold is never typed
        return job, f"{owner}.{question.name} refuses {value!r}: {error}"


def _pick(draw: random.Random, job: Job, what: str) -> Any:
    of = {"tool": [t.id for t in job.tools], "pattern": [p.id for p in job.patterns], "outline": [o.id for o in job.outlines],
          "material": list(job.all_materials()), "machine": list(job.all_cards())}  # fmt: skip
    return draw.choice([*of.get(what, []), None])


def _add(draw: random.Random, job: Job) -> tuple[Job, str]:
    kinds = [k.tag for k in STEPS.values() if k.possible(job.plane, job.card)]
    kind = draw.choice(kinds)
    after = draw.choice([s.id for s in job.steps] or [""])
    return edits.step_added(job, kind, after)[0], f"add {kind} behind {after}"


def _holding(draw: random.Random, job: Job) -> tuple[Job, str]:
    """A holding comes or goes, or a step changes over."""
    if job.turns:
        return job, "a turned part has one holding"
    what = draw.choice(("add", "add", "remove", "over"))
    if what == "add" and len(job.holdings) < 4:
        follows = draw.choice(("over-x", "over-y", "same"))
        return edits.holding_added(job, follows, draw.choice([h.id for h in job.holdings]))[0], f"holding {follows}"  # type: ignore[arg-type]
    if what == "remove" and len(job.holdings) > 1:
        ident = draw.choice(job.holdings[1:]).id
        return edits.holding_removed(job, ident), f"without holding {ident}"
    if not job.steps:
        return job, "no step"
    ident, place = draw.choice(job.steps).id, draw.randrange(len(edits.route_of(job)) + 1)
    return edits.step_moved(job, ident, place), f"move {ident} to {place} of the route"


def _step(draw: random.Random, job: Job) -> tuple[Job, str]:
    if not job.steps:
        return job, "no step"
    ident, what = draw.choice(job.steps).id, draw.choice(("copy", "remove", "move", "switch"))
    if what == "copy":
        return edits.step_copied(job, ident)[0], f"copy {ident}"
    if what == "remove":
        return edits.step_removed(job, ident), f"remove {ident}"
    if what == "switch":
        return edits.step_switched(job, ident), f"switch {ident}"
    place = draw.randrange(len(job.steps))
    return edits.step_moved(job, ident, place), f"move {ident} to {place}"


def _tool(draw: random.Random, job: Job) -> tuple[Job, str]:
    ident, what = draw.choice(job.tools).id, draw.choice(("remove", "copy", "station"))
    if what == "remove":
        return crib_edits.tool_removed(job, ident), f"remove tool {ident}"
    if what == "copy":
        return crib_edits.tool_copied(job, ident)[0], f"copy tool {ident}"
    place = draw.randint(0, 30)
    return crib_edits.tool_to_station(job, ident, place), f"tool {ident} to {place}"


def _pattern(draw: random.Random, job: Job) -> tuple[Job, str]:
    steps = [s.id for s in job.steps if hasattr(s, "pattern")]
    if not steps:
        return job, "no pattern"
    kind = draw.choice(list(edits.PATTERN_KINDS))
    return edits.pattern_for(job, draw.choice(steps), kind), f"pattern {kind}"


def _outline(draw: random.Random, job: Job) -> tuple[Job, str]:
    if not job.outlines:
        return job, "no outline"
    outline = draw.choice(job.outlines)
    at = draw.randrange(len(outline.segments) or 1)
    what = draw.choice(("insert", "remove", "become"))
    kind: Any = draw.choice(("line", "arc"))
    if what == "insert":
        changed = outline_edits.inserted(outline, at, kind)
    elif not outline.segments:
        return job, "an empty outline"
    elif what == "remove":
        changed = outline_edits.removed(outline, at)
    else:
        changed = outline_edits.become(outline, at, kind)
    return answering.outline_given(job, changed), f"{what} {kind} at {at} of {outline.id}"


def _shop(draw: random.Random, job: Job) -> tuple[Job, str]:
    """A machine card, its way of writing, or a material of one's own."""
    what, ident, form = draw.choice(
        (("card", job.machine, CardForm), ("dialect", job.machine, DialectForm), ("material", job.stock.material, MaterialForm))
    )
    question = draw.choice(list(questions_of(form)))
    value: Any = draw.choice(question.choices)[0] if question.choices else draw.choice(WORDS)
    if question.kind is not None:
        value = draw.choice(NUMBERS)
        value = int(value) if question.kind.value == "count" else value
        if question.out_of_bounds(value):
            return job, "out of bounds"
    try:
        return answering.answered(job, f"{what}:{ident}.{question.name}", value), f"{what}:{ident}.{question.name} = {value!r}"
    except answering.UnfitAnswer as error:
        return job, f"{what}.{question.name} refuses {value!r}: {error}"


CHANGES: tuple[Callable[[random.Random, Job], tuple[Job, str]], ...] = (
    _answer, _answer, _answer, _answer, _answer, _add, _add, _step, _holding, _tool, _pattern, _outline, _shop,
)  # fmt: skip


def run(seed: int) -> None:
    """One job, all the way. Raises whatever goes wrong."""
    job, _ = randomly(seed)
    planned = plan(job)
    texts = (
        {} if seed % 2 else {held.place: post(held) for held in planned.holdings}
    )  # its own, or as if they came from elsewhere
    prove_whole(planned, texts, cell_mm=CELL_MM)
    back = read_job_text(job_text(job))
    if back != job:
        raise AssertionError("The job that was read back is another one.")
