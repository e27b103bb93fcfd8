"""The print that a part is made from: which file it is, and which of the sizes on it are ticked off.

A *mark* is a size on the print. On a PDF with text they are found by themselves (`sizes_in`), on a picture they are put there by
hand. What of them is not ticked off is listed before a program goes out; a mark with a tolerance that went into no answer is a
size to measure all the same.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Literal, NamedTuple

import msgspec

from bastler.bounds import MARKS
from bastler.language import tr
from bastler.units import Kind, Unit, evaluate, limits_typed
from bastler.units.expression import ExpressionError
from bastler.units.limits import Off, parted

if TYPE_CHECKING:
    from bastler.job.document import Job

replace = msgspec.structs.replace
Share = Annotated[float, msgspec.Meta(ge=0.0, le=1.0)]
State = Literal["open", "ticked", "aside"]
LESSON = "lesson:"
"""What the name of a lesson's print begins with, in the place of a file's."""
NEAR = 0.02
"""Marks of another reading of a file are those that were there where they lie no farther off, as a share of the page."""
TOLERANCES = 100
"""Letters of a tolerance that is typed."""
_NUM = r"(?:\d+\s\d+/\d+|\d+/\d+|\d+[.,]\d+|[.,]\d+|\d+)"
SIZE = re.compile(
    rf"""
    (?<![\w.,:/+±-])(?<!ISO\s)(?<!DIN\s)(?<!EN\s)(?<!Ra\s)(?<!Rz\s)(?<!No\.\s)
    (?:(?P<count>\d+)\s*[x×]\s*)?
    (?P<sign>Ø|⌀|SR|R|M|□)?\s*
    (?P<size>{_NUM})
    (?P<more>\s*[x×]\s*{_NUM})?
    (?P<degrees>\s*°)?
    (?P<limits>\s*±\s*{_NUM}|\s*(?:0|[+-]\s*{_NUM})\s*/\s*(?:0|[+-]\s*{_NUM})|(?:[A-Z]|js|[d-hkmnprs])\d{{1,2}}|\s(?:[D-HKNP]|JS|js|[d-hkmnprs])\d{{1,2}})?
    (?![\w:/-]|[.,]\d|\s*°)
    """,
    re.VERBOSE,
)
"""A size as prints give it: 4× Ø6.5, R8, M24x1.5, 1x45°, 30 H7, 12 ±0.1. No scale, no date, no number of a standard."""


class Mark(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A size on a page, in a box of shares of its width and height: left, top, width, height. `limits` is a tolerance that was
    typed here, `goes_to` the address of the answer that it went into."""

    page: Annotated[int, msgspec.Meta(ge=0, le=10_000)] = 0
    box: tuple[Share, Share, Share, Share] = (0.0, 0.0, 0.0, 0.0)
    words: Annotated[str, msgspec.Meta(max_length=80)] = ""
    state: State = "open"
    limits: Annotated[str, msgspec.Meta(max_length=TOLERANCES)] = ""
    goes_to: Annotated[str, msgspec.Meta(max_length=200)] = ""

    @property
    def middle(self) -> tuple[float, float]:
        """Of its box, as shares of the page."""
        left, top, width, height = self.box
        return left + width / 2, top + height / 2

    @property
    def said(self) -> str:
        """As it stands in a list."""
        return f"{self.words} {self.limits}".strip() or tr("a mark on page {page}", page=self.page + 1)


class Print(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A file, the unit of the lengths on it, and its marks in the order in which they were found."""

    file: Annotated[str, msgspec.Meta(max_length=4096)]
    unit: Unit = "mm"
    marks: Annotated[tuple[Mark, ...], msgspec.Meta(max_length=MARKS.most)] = ()


class Sized(NamedTuple):
    """A size in a text: from which letter to which, and its words."""

    start: int
    end: int
    words: str


def sizes_in(text: str) -> Iterator[Sized]:
    """The sizes in a text, a line at a time."""
    begin = 0
    for line in re.split(r"(?<=[\r\n\x0b\x0c\x85\u2028])", text):
        for found in SIZE.finditer(line):
            words = " ".join(found[0].split())
            if words and not _plain_zero(words):
                start = begin + found.start() + len(found[0]) - len(found[0].lstrip())
                yield Sized(start, begin + found.end(), words)
        begin += len(line)


def _plain_zero(words: str) -> bool:
    return not any(c in "123456789" for c in words)


class Taken(NamedTuple):
    """A size parted: its sign (Ø, R, M or none), how often it is there, the number, and its tolerance, as they are written."""

    sign: str
    times: int
    size: str
    limits: str
    degrees: bool


def parted_mark(words: str) -> Taken | None:
    """What a mark says; None where that is no size."""
    found = SIZE.fullmatch(words.strip())
    if found is None:
        return None
    count, size, degrees = found["count"], found["size"], bool(found["degrees"])
    if degrees and found["more"]:
        degrees = False  # 1x45°: the leg is the size
    elif degrees and count and not found["sign"]:
        size, count, degrees = count, None, False
    return Taken((found["sign"] or "").replace("⌀", "Ø"), int(count or 1), size, (found["limits"] or "").strip(), degrees)


def as_answer(mark: Mark, of: Print, unit: Unit, field: str, kind: Kind | None) -> str:
    """What is typed for a mark into a field of that name, in a job of that unit: a diameter halved for a radius and a radius
    doubled for a diameter, millimetres said in an inch job. The words as they are for a field of words, or where they are no
    size."""
    taken = parted_mark(mark.words)
    if kind is None or taken is None:
        return mark.words
    if kind is Kind.COUNT and taken.times > 1:
        return str(taken.times)
    if kind is not Kind.LENGTH:
        return taken.size
    limits = mark.limits or taken.limits
    text = taken.size
    round_, half = "diameter" in field, "radius" in field
    if taken.sign == "Ø" and half:
        text, limits = f"{text}/2", ""
    elif taken.sign in ("R", "SR") and round_:
        text, limits = f"2*{text}", ""
    if of.unit != unit:
        text = f"({text})" if set(text) & set("*/ ") else text
        text += "mm" if of.unit == "mm" else "in"
    return f"{text} {limits}".strip()


def with_print(job: Job, of: Print | None) -> Job:
    """The job with another print, or none."""
    return replace(job, print=of)


def marked(job: Job, at: int, **changes: object) -> Job:
    """The job with a mark changed: its state, its words, its tolerance, the answer that it went into."""
    of = job.print
    if of is None or not 0 <= at < len(of.marks):
        return job
    return with_print(job, replace(of, marks=(*of.marks[:at], replace(of.marks[at], **changes), *of.marks[at + 1 :])))


def mark_put(job: Job, mark: Mark) -> Job:
    """The job with one mark more on its print; the same where there are as many as there may be."""
    of = job.print
    if of is None or len(of.marks) >= MARKS.most:
        return job
    return with_print(job, replace(of, marks=(*of.marks, mark)))


def mark_gone(job: Job, at: int) -> Job:
    """The job without a mark."""
    of = job.print
    if of is None or not 0 <= at < len(of.marks):
        return job
    return with_print(job, replace(of, marks=(*of.marks[:at], *of.marks[at + 1 :])))


def read_again(of: Print, found: Sequence[Mark]) -> Print:
    """The print with the marks that were found on its file now: those that were there before stay as they are, those that were
    put by hand stay too, and what is on it no more goes."""
    by_hand = [mark for mark in of.marks if not mark.box[2]]
    known = [mark for mark in of.marks if mark.box[2]]
    marks: list[Mark] = []
    for mark in found:
        same = next((k for k in known if _same(k, mark)), None)
        if same is not None:
            known.remove(same)
        marks.append(mark if same is None else replace(same, box=mark.box, page=mark.page))
    return replace(of, marks=(*marks, *by_hand)[: MARKS.most])


def _same(one: Mark, other: Mark) -> bool:
    near = all(abs(a - b) <= NEAR for a, b in zip(one.middle, other.middle, strict=True))
    return one.page == other.page and one.words == other.words and near


def not_ticked(job: Job) -> tuple[Mark, ...]:
    """The sizes on the print that nobody has ticked off."""
    return tuple(mark for mark in job.print.marks if mark.state == "open") if job.print is not None else ()


def tolerance_trouble(mark: Mark, of: Print, text: str) -> str:
    """Why a tolerance cannot stand behind a mark; empty where it can."""
    if not text.strip():
        return ""
    if len(text) > TOLERANCES:
        return tr("That is too long for a tolerance.")
    whole = _toleranced(replace(mark, limits=text))
    if parted(whole) is None:
        return tr("A tolerance is written as ±0.1, +0.05/-0.02 or H7.")
    try:
        evaluate(whole, Kind.LENGTH, of.unit)
    except ExpressionError as error:
        return error.reason
    return ""


def _toleranced(mark: Mark) -> str:
    taken = parted_mark(mark.words)
    size = taken.size if taken is not None else mark.words
    limits = mark.limits or (taken.limits if taken is not None else "")
    return f"{size} {limits}".strip()


def limits_of(mark: Mark, of: Print) -> Off | None:
    """Between which limits a mark lies, in the print's unit; None for one without a tolerance."""
    try:
        return limits_typed(_toleranced(mark), of.unit)
    except ExpressionError:
        return None


def sizes_besides(job: Job) -> Iterator[tuple[Mark, Off]]:
    """The sizes with a tolerance that went into no answer, which would list them by itself."""
    if job.print is None:
        return
    for mark in job.print.marks:
        if mark.state != "aside" and not mark.goes_to and (off := limits_of(mark, job.print)) is not None:
            yield mark, off
