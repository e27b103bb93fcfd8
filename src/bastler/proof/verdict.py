"""From findings to remarks: lines, steps, and ways out."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from bastler.ask import Trouble, questions_of
from bastler.job import PlannedHolding
from bastler.language import tr, tr_many
from bastler.nc import RAPID
from bastler.post.writer import cutting_stages
from bastler.proof.cures import cure_for
from bastler.proof.mill.gripped import grip_remarks
from bastler.proof.remark import Cure, Remark, sorted_remarks
from bastler.proof.result import AnyProof
from bastler.steps import AnyStep, Between, HandOver
from bastler.units import in_a_sentence


def all_remarks(proof: AnyProof, held: PlannedHolding | None, compared: list[Remark]) -> tuple[Remark, ...]:
    """Everything there is to say: `compared` is about the shape; `plan` when the program is the plan's own, for steps that could
    not be planned."""
    remarks = []
    if held:
        remarks = _unplanned(held) + (_offset_clashes(held) if held.job.turns else _not_in_machine(held)) + grip_remarks(held)
        remarks += _by_hand(proof, held) + _unsure(proof, held)
    if held and held.job.elsewhere is not None:  # nobody has said what shape is wanted
        compared = []
    if proof.trace.cut:  # what was not run is left by nobody's fault: the refused word is what has to be said
        compared = [r for r in compared if r.code == "gouge"]
    remarks += _read(proof) + _frame(proof) + _found(proof) + compared
    if held:
        remarks = [_with_cure(remark, held) for remark in remarks]
    if held and held.job.elsewhere is not None:  # nor how long it is to be
        remarks = [remark for remark in remarks if remark.code != "short-part"]
    if not proof.stages and not remarks and not proof.trace.cut:
        remarks.append(Remark(level="note", code="nothing", text=tr("Nothing is cut yet. Add a step.")))
    return sorted_remarks(remarks)


def _with_cure(remark: Remark, held: PlannedHolding) -> Remark:
    cure = remark.cure or cure_for(remark, held)
    return msgspec.structs.replace(remark, cure=cure) if cure is not remark.cure else remark


def _unplanned(held: PlannedHolding) -> list[Remark]:
    """Troubles with answers: the step is not in the program."""
    remarks = [
        Remark(
            level="stop", code="answer", text=trouble.text, field=trouble.field, cure=_hands(held, trouble) or _fits(trouble, "")
        )
        for trouble in held.troubles
    ]
    for planned in held.steps:
        for trouble in planned.troubles:
            owner = f"step:{planned.step.id}"
            for what in ("pattern", "outline"):
                if trouble.field.startswith(f"{what}."):
                    owner = f"{what}:{getattr(planned.step, what, '')}"
                    trouble = msgspec.structs.replace(trouble, field=trouble.field.removeprefix(f"{what}."))
            remarks.append(
                Remark(
                    level="open" if trouble.open else "stop",
                    code="answer",
                    text=tr(
                        "{title} is not cut{open}: {text}",
                        title=planned.step.title,
                        open=tr(" yet") if trouble.open else "",
                        text=in_a_sentence(trouble.text),
                    ),
                    step=planned.step.id,
                    field=f"{owner}.{trouble.field}",
                    cure=_fits(trouble, owner, held, planned.filled),
                )
            )
    return remarks


def _hands(held: PlannedHolding, trouble: Trouble) -> Cure | None:
    """A part that nothing hands over is handed over, at the end of the holding before."""
    if not held.job.turns or not held.chuck.handed or trouble.field != f"holding:{held.holding.id}.follows":
        return None
    before = held.job.holdings[held.place - 1]
    there = any(isinstance(step, HandOver) for step in before.steps)
    return None if there else Cure(tr("Hand it over"), f"add:hand-over:{before.id}", None)


def _not_in_machine(held: PlannedHolding) -> list[Remark]:
    """Tools that the job uses and the machine has not: where they would stand, and that they have to be put there."""
    remarks, said = [], set()
    for planned in held.steps:
        for tool in {s.tool.id: s.tool for s in planned.stages if not isinstance(s, Between)}.values():
            own = held.job.tool(tool.id)
            if own is None or tool.id in said:
                continue
            said.add(tool.id)
            if not own.station:
                text = tr("{name} is not in the machine. The program calls it T{at}.", name=tool.called, at=tool.station)
                cure = Cure(tr("Put it at T{station}", station=tool.station), f"tool:{tool.id}.station", tool.station)
            elif own.station > held.ctx.card.stations:
                text = tr(
                    "{name} stands at T{station}; {name_2} has {stations} stations.",
                    name=tool.called,
                    station=tool.station,
                    name_2=held.ctx.card.name,
                    stations=held.ctx.card.stations,
                )
                cure = None
            else:
                continue
            remarks.append(Remark(level="caution", code="not-in-machine", text=text, step=planned.step.id, cure=cure))
    return remarks


def _offset_clashes(held: PlannedHolding) -> list[Remark]:
    """Tool offsets that two edges share: correcting the one would spoil the other."""
    owners: dict[int, str] = {}
    remarks = []
    used = {s.tool.id: s.tool for s in cutting_stages(held)}
    for tool in used.values():
        for offset in {tool.station, getattr(tool, "second", 0)} - {0}:
            if owners.setdefault(offset, tool.id) != tool.id:
                other = used[owners[offset]]
                text = tr("Offset {at} is that of {name} and of {name_2}.", at=offset, name=other.called, name_2=tool.called)
                grooves = tool if getattr(tool, "second", 0) == offset else other
                cure = Cure(tr("Offset behind the stations"), f"tool:{grooves.id}.offset", 0)
                remarks.append(Remark(level="stop", code="offset-clash", text=text, field=f"tool:{grooves.id}.offset", cure=cure))
    return remarks


def _fits(trouble: Trouble, owner: str, held: PlannedHolding | None = None, of: AnyStep | None = None) -> Cure | None:
    """The way out that comes with a trouble with an answer `of` something: a choice by its words."""
    if trouble.fits is None:
        return None
    asked = questions_of(type(of)) if of is not None else ()
    words = next((dict(q.choices) for q in asked if q.name == trouble.field and q.choices), {})
    word = tr("“{name}”", name=words[trouble.fits]) if trouble.fits in words else trouble.fits
    says = tr("Use {fits:g}", fits=trouble.fits) if isinstance(trouble.fits, int | float) else tr("Use {word}", word=word)
    tool = held.ctx.tool(trouble.fits) if held and isinstance(trouble.fits, str) else None
    if tool:
        says = tr("Use {says}", says=tool.says)
    return Cure(says, f"{owner}.{trouble.field}" if owner else trouble.field, trouble.fits)


def _begun(lines: Sequence[str]) -> str:
    """The first of some lines of a program, and whether there are more."""
    return tr("“{name}”", name=lines[0]) + (" …" if len(lines) > 1 else "") if lines else ""


def _by_hand(proof: AnyProof, held: PlannedHolding) -> list[Remark]:
    """What was changed by hand and does not fit the program any more: it is not in it. That of a step that is switched off, or
    not cut for a reason that is said, waits for it."""
    waits = {done.step.id for done in held.steps if done.troubles or not done.step.on}
    elsewhere = {step.id for step in held.job.steps} - {done.step.id for done in held.steps}
    edits = {edit.id: edit for edit in held.job.by_hand}
    remarks = []
    if laid := len(proof.program.typed):
        text = tr_many(
            laid, "{count} place of this program is changed by hand.", "{count} places of this program are changed by hand."
        )
        line = min(place.first for place in proof.program.typed) + 1
        remarks.append(Remark(level="note", code="by-hand", text=text, line=line))
    for ident in proof.program.unfit:
        edit = edits[ident]
        if edit.step in waits or edit.step in elsewhere:
            continue
        was, now = _begun(edit.was), _begun(edit.now)
        what = (
            tr("{now} in the place of {was}", now=now, was=was)
            if was and now
            else tr("{now}, put in", now=now)
            if now
            else tr("{was}, taken out", was=was)
        )
        text = tr("Changed by hand, and the program is another one there now: {what}. It is not in the program.", what=what)
        step = edit.step if held.job.step(edit.step) else ""
        cure = Cure(tr("Leave it out"), f"hand:{ident}", None)
        remarks.append(Remark(level="stop", code="hand-edit", text=text, step=step, stage=edit.stage if step else "", cure=cure))
    return remarks


def _unsure(proof: AnyProof, held: PlannedHolding) -> list[Remark]:
    """What was guessed of a program from elsewhere, and nobody has looked at yet."""
    elsewhere, trace = held.job.elsewhere, proof.trace
    if elsewhere is None:
        return []
    shape = tr("Nothing says which shape is wanted: what this program cuts is compared with none.")
    text = tr("Stock, zero and how it is held are guessed from the moves. Look at their cards.")
    guesses = [
        ("stock", Remark(level="open", code="guessed-stock", text=text, cure=Cure(tr("They are right"), "sure:stock", None)))
    ]
    if elsewhere.unit is None:
        text = tr("The program does not say in which unit it is: it is taken as {unit}.", unit=held.job.unit)
        guesses.append(("unit", Remark(level="open", code="guessed-unit", text=text, cure=Cure(tr("It is"), "sure:unit", None))))
    feeds = trace.kind != RAPID
    for number in dict.fromkeys(trace.tool[feeds].tolist()):
        tool = next((one for one in held.ctx.tools if one.station == number), None)
        if tool is None:
            continue
        line = int(trace.line[np.flatnonzero(feeds & (trace.tool == number))[0]]) + 1
        text = tr(
            "T{number} is taken as {name}. Is it another one, put that at station {number} in the crib.",
            number=number,
            name=tool.called,
        )
        cure = Cure(tr("It is"), f"sure:T{number}", None)
        guesses.append((f"T{number}", Remark(level="open", code="guessed-tool", text=text, line=line, cure=cure)))
    open_ = [remark for what, remark in guesses if what not in elsewhere.sure]
    return [Remark(level="note", code="no-shape", text=shape), *open_]


def _read(proof: AnyProof) -> list[Remark]:
    remarks = []
    for finding in proof.trace.findings:
        section = proof.program.section_of(finding.line - 1)
        text = (
            tr("{text} (column {column})", text=finding.text, column=finding.column)
            if finding.code == "unreadable"
            else finding.text
        )
        remarks.append(
            Remark(level=finding.level, code=finding.code, text=text, line=finding.line, step=section.step, stage=section.stage)
        )
    return remarks


def _frame(proof: AnyProof) -> list[Remark]:
    """What a program lacks as a whole."""
    trace = proof.trace
    feeds = np.flatnonzero(trace.kind != RAPID)
    if len(feeds) and not (trace.speed > 0).any():
        text, move = tr("The program feeds and never starts the spindle."), int(feeds[0])
        return [Remark(level="stop", code="spindle-never", text=text, line=int(trace.line[move]) + 1, move=move)]
    return []


def _found(proof: AnyProof) -> list[Remark]:
    remarks, said = [], set()
    for stage in proof.stages:
        for found in stage.found:
            again = (stage.step, stage.stage, found.code, found.text, found.move)
            if stage.part and again in said:
                continue  # said of a part before: all parts are alike
            said.add(again)
            move = stage.begin + found.move
            remarks.append(
                Remark(
                    level=found.level,
                    code=found.code,
                    text=found.text,
                    line=int(proof.trace.line[move]) + 1,
                    step=stage.step,
                    stage=stage.stage,
                    amount=found.amount,
                    move=move,
                    place=found.place,
                )
            )
    return remarks
