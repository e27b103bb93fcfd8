"""Makes the setup sheet of a job from its plan and its proof."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec

from bastler.ask import Question, limits_said, questions_of, size_typed, toleranced
from bastler.job import BlockStock, Job, Plan, PlannedHolding, PlannedStep, answering
from bastler.job.prints import sizes_besides
from bastler.job.stock import STOCK
from bastler.language import sayable, tr
from bastler.live.leaving import digest_of, sent_bytes
from bastler.live.setup_sheet import HoldingSheet, ProgramSheet, SetupSheet, SizeLine, StepLine, ToolLine
from bastler.live.showing import Showing, look
from bastler.live.shown import ShownHolding
from bastler.motion.moves import Halt
from bastler.post.writer import cutting_stages
from bastler.proof import JobProof
from bastler.proof.result import AnyProof
from bastler.steps import Stage
from bastler.units import Kind, Unit, printed, scale
from bastler.units.kinds import suffix

STOPS = sayable({"stop": "Stops", "optional": "Stops, where the switch is on"})


def setup_sheet(proof: JobProof) -> SetupSheet:
    """The sheet of the job that was proved."""
    plan = proof.plan
    job = plan.job
    shown = {one.holding.id: one for one in Showing().plan(plan).holdings}
    programs = tuple(_program(proof, group, shown) for group in plan.programs)
    return SetupSheet(job, job.card, _stock(plan), programs, tuple(_sizes(plan)))


def _stock(plan: Plan) -> str:
    """The stock in a line."""
    stock, unit = plan.first.stock, plan.job.unit

    def said(*lengths: float) -> str:
        return " × ".join(printed(length, Kind.LENGTH, unit) for length in lengths) + f" {unit if unit == 'mm' else 'in'}"

    if isinstance(stock, BlockStock):
        return f"Ø{said(stock.diameter, stock.size_z)}" if stock.round else said(stock.size_x, stock.size_y, stock.size_z)
    if stock.form == "hex":
        return tr("{said}, hexagon", said=said(stock.across_flats, stock.length))
    across = f"Ø{said(2 * stock.outer(), stock.length)}"
    return (
        tr("{across}, bore Ø{bore}", across=across, bore=printed(stock.bore, Kind.LENGTH, unit))
        if stock.form == "tube"
        else across
    )


def _program(proof: JobProof, group: tuple[PlannedHolding, ...], shown: dict[str, ShownHolding]) -> ProgramSheet:
    proofs = [proof.holdings[held.place] for held in group]
    first = proofs[0]
    remarks = [remark for one in proofs for remark in one.remarks]
    sent = sent_bytes(first.program, first.scene.card, first.scene.unit, remarks)
    return ProgramSheet(
        group[0].number,
        len(first.program.lines),
        digest_of(sent),
        sum(one.total for one in proofs),
        next((one.verdict for one in proofs if not one.proved), first.verdict),
        tuple(dict.fromkeys(remarks)),
        tuple(
            _holding(proof.plan, held, one, shown[held.holding.id], first=held is group[0])
            for held, one in zip(group, proofs, strict=True)
        ),
        tuple(_tools(group, proofs)),
    )


def _holding(plan: Plan, held: PlannedHolding, proof: AnyProof, shown: ShownHolding, *, first: bool) -> HoldingSheet:
    """A holding; what the stock is of is said in the `first` one of a program."""
    unit = plan.job.unit
    of_stock = [fact for fact in _facts(held.stock, plan.job, unit) if first or fact[0] != STOCK]
    facts = (*of_stock, *_facts(held.holding, plan.job, unit))
    steps = tuple(_step(done, k, proof) for k, done in enumerate(held.steps, held.first) if done.step.on)
    return HoldingSheet(shown, look(plan, f"holding:{held.holding.id}"), facts, steps)


def _facts(struct: msgspec.Struct, job: Job, unit: Unit) -> Iterator[tuple[str, str, str]]:
    """All that is asked of a struct and answered: group, question, answer."""
    for question in questions_of(type(struct)):
        text = _answer(question, getattr(struct, question.name), job, unit) if question.asked(struct) else ""
        if text:
            yield tr(question.group), question.says, text


def _answer(question: Question, value: Any, job: Job, unit: Unit) -> str:
    """An answer in words; empty where there is none."""
    if question.choices:
        return next((words for known, words in question.choices if known == value), "")
    if question.kind is not None:
        return "" if value is None else f"{printed(value, question.kind, unit)} {suffix(question.kind, unit)}".strip()
    if question.picks == "material":
        return job.material.called
    if question.picks == "outline":
        outline = job.outline(value)
        return outline.name if outline is not None else ""
    return ", ".join(map(str, value)) if isinstance(value, tuple) else str(value)


def _step(done: PlannedStep, number: int, proof: AnyProof) -> StepLine:
    own = [stage for stage in proof.stages if stage.step == done.step.id]
    stations = tuple(dict.fromkeys(stage.tool.station for stage in done.stages if isinstance(stage, Stage)))
    summary = "" if done.troubles else done.summary
    return StepLine(number, done.step.title, summary, stations, sum(s.t1 - s.t0 for s in own), "; ".join(_stops(done)))


def _stops(done: PlannedStep) -> Iterator[str]:
    """Where the machine stops in a step, and why."""
    for stage in done.stages:
        if isinstance(stage, Stage):
            yield from (tr("Stops: {message}", message=move.message) for move in stage.moves if isinstance(move, Halt))
        elif stage.what in STOPS:
            yield f"{tr(STOPS[stage.what])}: {stage.text}" if stage.text else tr(STOPS[stage.what])


def _tools(group: tuple[PlannedHolding, ...], proofs: list[AnyProof]) -> Iterator[ToolLine]:
    """The tools of a program by their stations."""
    used = {stage.tool.id: stage.tool for held in group for stage in cutting_stages(held)}
    for tool in sorted(used.values(), key=lambda one: one.station):
        numbers = [
            k
            for held in group
            for k, done in enumerate(held.steps, held.first)
            if any(isinstance(stage, Stage) and stage.tool.id == tool.id for stage in done.stages)
        ]
        seconds = sum(s.t1 - s.t0 for proof in proofs for s in proof.stages if s.tool == tool.station)
        yield ToolLine(tool, tuple(numbers), seconds)


def _sizes(plan: Plan) -> Iterator[SizeLine]:
    """What there is to measure: of the whole part, then what each step makes, as it is dimensioned on the sheet."""
    job, stock = plan.job, plan.first.stock
    says, length = (tr("Thickness"), stock.thickness) if isinstance(stock, BlockStock) else (tr("Length"), stock.finished)
    text, of = printed(length, Kind.LENGTH, job.unit), suffix(Kind.LENGTH, job.unit)
    own = None if isinstance(stock, BlockStock) else limits_said(stock, "finished", job.unit)
    yield SizeLine(0, tr("The whole part"), says, (own and size_typed(stock, "finished", job.unit)) or text, of, own)
    seen: set[tuple[int, str]] = set()
    for number, done in enumerate(plan.steps, 1):
        if done.troubles or not done.step.on or done.transfer is not None or done.sketch is None:
            continue
        limits = done.filled.limits(done.ctx)
        for dim in done.sketch.dims:
            found = dimensioned(job, done, dim.field)
            if found is None or found[1].name in NO_SIZES or (id(found[0]), found[1].name) in seen:
                continue
            seen.add((id(found[0]), found[1].name))
            struct, question = found
            text = sized(struct, question, job.unit)
            if text:
                says = size_says(question, dim.field)
                unit = suffix(question.kind, job.unit) if question.kind else ""
                own = limits_said(struct, question.name, job.unit)
                yield SizeLine(number, done.step.title, says, text, unit, own or limits.get(dim.field))
        for says, size, limits_of_it in done.filled.also_measured(done.ctx):
            text = printed(size, Kind.LENGTH, job.unit)
            yield SizeLine(number, done.step.title, says, text, suffix(Kind.LENGTH, job.unit), limits_of_it)
        for struct, question, field in not_dimensioned(job, done, seen):
            text, own = sized(struct, question, job.unit), limits_said(struct, question.name, job.unit)
            yield SizeLine(number, done.step.title, size_says(question, field), text, suffix(Kind.LENGTH, job.unit), own)
    if job.print is not None:
        k = scale(job.print.unit, job.unit)
        for mark, off in sizes_besides(job):
            yield SizeLine(0, tr("On the print"), "", mark.said, suffix(Kind.LENGTH, job.print.unit), (off.low * k, off.high * k))


def size_says(question: Question, field: str) -> str:
    """What a size is called: by its question, and which segment of an outline it is of."""
    place = field.partition(".segments.")[2].partition(".")[0]
    says = tr("Corner") if question.name == "corner_size" else question.says
    return tr("{says}, segment {int}", says=says, int=int(place) + 1) if place else says


def dimensioned(job: Job, done: PlannedStep, field: str) -> tuple[msgspec.Struct, Question] | None:
    """The struct and the question that a dimension is the answer of."""
    what, _, rest = field.partition(".")
    struct: msgspec.Struct = done.filled
    name = field
    if what in ("pattern", "outline") and rest:
        try:
            struct, name = answering.at(job, f"{what}:{getattr(done.filled, what, '')}.{rest}")
        except KeyError:
            return None
    question = next((q for q in questions_of(type(struct)) if q.name == name), None)
    return None if question is None else (struct, question)


NO_SIZES = {"run_past"}
"""Dimensions of the sheet that are none of the part."""


def not_dimensioned(job: Job, done: PlannedStep, seen: set[tuple[int, str]]) -> Iterator[tuple[msgspec.Struct, Question, str]]:
    """What was typed with a tolerance for a step, or for the outline or the pattern that it follows, and the field of each: the
    sheet may have no dimension for it, and it has to be measured all the same. What was `seen` is left out, and is seen then."""
    outline = job.outline(getattr(done.filled, "outline", ""))
    owners: list[tuple[msgspec.Struct, str]] = [(done.filled, "")]
    if outline is not None:
        owners += [(outline, "outline."), *((s, f"outline.segments.{k}.") for k, s in enumerate(outline.segments))]
    for struct, prefix in owners:
        for question in toleranced(struct, job.unit):
            if (id(struct), question.name) not in seen:
                seen.add((id(struct), question.name))
                yield struct, question, prefix + question.name


def sized(struct: msgspec.Struct, question: Question, unit: Unit) -> str:
    """A size as it is on the print: a length with its tolerance, an angle, the name of a thread; empty for what is none, or is
    nought."""
    value: Any = getattr(struct, question.name)
    if typed := size_typed(struct, question.name, unit):
        return typed
    if question.kind in (Kind.LENGTH, Kind.ANGLE):
        return "" if not value else printed(abs(value) if question.name in ("z", "finish_z") else value, question.kind, unit)
    return str(value) if question.name == "thread" and value else ""
