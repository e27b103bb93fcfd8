"""The declaration of one question and how it is found on a struct."""

from __future__ import annotations

import functools
from collections.abc import Callable, Mapping
from typing import Any, TypeAlias, get_type_hints

import msgspec

from bastler.language import spoken, tr
from bastler.units import Kind

Answers: TypeAlias = Any
"""A struct of answers while it is being filled: those asked later than the one in hand may still be None, and which ones there
are is the business of its own module."""
Propose = Callable[[Answers, Any], Any]
"""`(struct, context) -> value`: what is computed when the answer is not given. The struct's earlier answers are filled."""
When = Callable[[Answers], bool]


def is_(field: str, *values: Any) -> When:
    """Asked where another answer is this, or one of these."""
    return lambda struct: getattr(struct, field) in values


def isnt(field: str, *values: Any) -> When:
    """Asked where another answer is neither this nor any of these."""
    return lambda struct: getattr(struct, field) not in values


LARGEST = 100_000.0
"""No answer of any kind is larger: what is, is a slip of the finger."""


class Question(msgspec.Struct, frozen=True, kw_only=True):
    """What is asked, in words one machinist would use to another.

    `kind` is None for choices and picks. Bounds are in the job's unit; `above`/`below` exclude the bound itself.
    `picks` names what is picked from ("tool", "pattern", "material") or typed ("word", "name", "numbers").
    `symbol` is the trade's sign (vc, fz, ap).
    `ends` are the words at the ends of a slider, for a number that is drawn as one.
    `late` puts it behind the other questions of its group. `chucked`: only of a part in a chuck.
    """

    name: str = ""
    says: str
    group: str = ""
    kind: Kind | None = None
    above: float | None = None
    least: float | None = None
    below: float | None = None
    most: float | None = None
    choices: tuple[tuple[Any, str], ...] = ()
    picks: str = ""
    propose: Propose | None = None
    when: When | None = None
    helps: str = ""
    symbol: str = ""
    ends: tuple[str, str] | None = None
    late: bool = False
    chucked: bool = False

    def asked(self, struct: Any) -> bool:
        """Is this question meaningful with the struct's other answers?"""
        return self.when is None or self.when(struct)

    def out_of_bounds(self, value: float) -> str:
        """Why `value` is not allowed, in words; empty when it is."""
        if self.above is not None and value <= self.above:
            return tr("Has to be more than {above:g}.", above=self.above)
        if self.least is not None and value < self.least:
            return tr("Has to be {least:g} or more.", least=self.least)
        if self.below is not None and value >= self.below:
            return tr("Has to be less than {below:g}.", below=self.below)
        if self.most is not None and value > self.most:
            return tr("Has to be {most:g} or less.", most=self.most)
        return tr("Nothing here is larger than {largest:g}.", largest=LARGEST) if abs(value) > LARGEST else ""


def _meta(question: Question, schema: Mapping[str, Any]) -> msgspec.Meta:
    return msgspec.Meta(
        title=question.says,
        description=question.helps or None,
        extra_json_schema=dict(schema) or None,
        extra={"question": question},
    )


def ask(says: str, kind: Kind, group: str = "", **more: Any) -> msgspec.Meta:
    """A number question; see `Question` for what else may be said."""
    question = Question(says=says, kind=kind, group=group, **more)
    bounds = {"exclusiveMinimum": question.above, "minimum": question.least}
    bounds |= {"exclusiveMaximum": question.below, "maximum": question.most}
    return _meta(question, {"x-kind": kind.value} | {k: v for k, v in bounds.items() if v is not None})


def choose(says: str, choices: Mapping[Any, str], group: str = "", **more: Any) -> msgspec.Meta:
    """A choice between a few words: value to what is shown."""
    return _meta(Question(says=says, group=group, choices=tuple(choices.items()), **more), {})


def pick(says: str, what: str, group: str = "", **more: Any) -> msgspec.Meta:
    """Something picked from the job: a tool, a pattern."""
    return _meta(Question(says=says, group=group, picks=what, **more), {"x-picks": what})


def question_of(struct: type, name: str) -> Question:
    """The question that asks for an answer of a struct. KeyError where none does."""
    found = next((question for question in questions_of(struct) if question.name == name), None)
    if found is None:
        raise KeyError(name)
    return found


def questions_of(struct: type) -> tuple[Question, ...]:
    """The questions of a struct's fields in the order of declaration, in the language in force; fields without one are left
    out."""
    return _questions(struct, spoken())


@functools.cache
def _questions(struct: type, language: str) -> tuple[Question, ...]:
    return tuple(_said(question) for question in declared_questions(struct))


def _said(question: Question) -> Question:
    """A question in the language in force; its group stays as it is, which tells groups apart."""
    ends = question.ends and (tr(question.ends[0]), tr(question.ends[1]))
    choices = tuple((value, tr(words)) for value, words in question.choices)
    return msgspec.structs.replace(question, says=tr(question.says), helps=tr(question.helps), choices=choices, ends=ends)


@functools.cache
def declared_questions(struct: type) -> tuple[Question, ...]:
    """The same as they were declared."""
    hints = get_type_hints(struct, include_extras=True)
    found = []
    for field in msgspec.structs.fields(struct):
        for meta in getattr(hints[field.name], "__metadata__", ()):
            if isinstance(meta, msgspec.Meta) and meta.extra and "question" in meta.extra:
                found.append(msgspec.structs.replace(meta.extra["question"], name=field.name))
    return tuple(found)
