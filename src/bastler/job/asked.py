"""Everything that is ever asked: what questions belong to, by what people call it."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from bastler.ask import Question, questions_of
from bastler.explained import key_of, texts
from bastler.job.chuck import ChuckHolding
from bastler.job.document import Job
from bastler.job.edits import PATTERN_KINDS
from bastler.job.forms import CardForm, DialectForm, MaterialForm
from bastler.job.stock import BarStock, BlockStock
from bastler.job.vise import ViseHolding
from bastler.language import as_inside, sayable, spoken, tr
from bastler.shapes import PlanOutline, PlanSegment, TurnedOutline, TurnedSegment
from bastler.steps import STEPS, Contour
from bastler.tools import Holder, Tool, TurnTool

Owner = tuple[str, type[msgspec.Struct]]
OTHERS: tuple[Owner, ...] = sayable(
    (
        ("Job", Job),
        ("Block", BlockStock),
        ("Bar", BarStock),
        ("Held in a vise", ViseHolding),
        ("In the chuck", ChuckHolding),
        ("Island or pocket in it", Contour),
        ("Outline", PlanOutline),
        ("Its segments", PlanSegment),
        ("Outline for turning", TurnedOutline),
        ("Its segments, for turning", TurnedSegment),
        ("Milling tool or drill", Tool),
        ("Tool holder", Holder),
        ("Turning tool", TurnTool),
        ("Material", MaterialForm),
        ("Machine card", CardForm),
        ("How its programs are written", DialectForm),
    )
)
MOST_NAMES = 4
"""Of what a question is asked, so many are named."""


def owners() -> Iterator[Owner]:
    """All that questions belong to, each with its name: steps in the order of the board, patterns, and all else."""
    yield from ((tr(kind.title), kind.cls) for kind in STEPS.values())
    yield from ((tr("Pattern: {lower}", lower=as_inside(tr(says))), cls) for says, cls in PATTERN_KINDS.values())
    yield from ((tr(name), cls) for name, cls in OTHERS)


def every_question() -> Iterator[tuple[str, type[msgspec.Struct], Question]]:
    """Every question of every owner."""
    for name, cls in owners():
        for question in questions_of(cls):
            yield name, cls, question


def page(language: str = "") -> str:
    """All questions with what they mean, in Markdown: each text once, with what it is asked of."""
    language = language or spoken()
    asked: dict[str, tuple[Question, list[str]]] = {}
    for name, cls, question in every_question():
        key = key_of(cls, question.name, language)
        if key is not None:
            asked.setdefault(texts(language)[key], (question, []))[1].append(name)
    lines = [tr("# What the questions mean"), ""]
    lines += [
        tr("Written by `bastler questions`. The same texts stand beside the questions with F1, where a picture moves with them."),
        "",
    ]
    for text, (question, names) in sorted(asked.items(), key=lambda entry: (entry[1][0].says.lower(), entry[0])):
        symbol = f" *{question.symbol}*" if question.symbol else ""
        unique = list(dict.fromkeys(names))
        of = ", ".join(unique[:MOST_NAMES]) + (
            tr(" and {unique} more", unique=len(unique) - MOST_NAMES) if len(unique) > MOST_NAMES else ""
        )
        lines += [f"**{question.says}**{symbol}: {text} — *{of}*", ""]
    return "\n".join(lines)
