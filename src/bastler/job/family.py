"""Families: sizes of a job that have a name, answers that are worked out from them, and variants with sizes of their own.

An answer keeps what it is: a number, and what was typed for it with the names filled in (`30/2 H7` for `d1/2 H7`). What is kept
here is the text with the names in it. It is the answer's as long as both agree, so nothing that knows no families has to.
"""

from __future__ import annotations

import csv
import functools
import io
import re
from collections.abc import Iterator, Mapping
from typing import TYPE_CHECKING, Annotated

import msgspec

from bastler.bounds import NAMED_SIZES, VARIANTS
from bastler.language import tr
from bastler.tools.lists import inert
from bastler.units import ExpressionError, Kind, Unit, evaluate, scale
from bastler.units.expression import RESERVED
from bastler.units.limits import GRADES, LETTERS, parted

if TYPE_CHECKING:
    from bastler.job.document import Job

replace = msgspec.structs.replace
LONGEST_NAME = 60
LARGEST_TABLE = 1_000_000
"""Bytes of a table of variants that is read."""
NAME = re.compile(r"[A-Za-z][A-Za-z0-9_]{0,19}")
_WORD = re.compile(r"(?<![0-9.,A-Za-z_µ°'\"])[A-Za-z][A-Za-z0-9_]*(?![A-Za-z0-9_]|[.,][0-9])")
"""What may be a name; what a digit follows behind a point is none: of d1.5 nobody would say what it is."""
_FIT = re.compile(r"([A-Za-z]{1,2})([0-9]{1,2})")
_SEGMENT = re.compile(r"outline:(?P<outline>[^.]+)\.segments\.(?P<at>\d+)\.(?P<field>\w+)")
_BY_ID = re.compile(r"outline:(?P<outline>[^.#]+)#(?P<segment>[^.]+)\.(?P<field>\w+)")
Expression = Annotated[str, msgspec.Meta(min_length=1, max_length=200)]
Named = Annotated[str, msgspec.Meta(pattern=rf"^{NAME.pattern}$")]


class NamedSize(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A size with a name: what it is, as an expression in which the ones before it may be named."""

    name: Named
    says: Expression


class Variant(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A part of the family: its name, and what its sizes are where they are not those of the job."""

    name: Annotated[str, msgspec.Meta(min_length=1, max_length=LONGEST_NAME)]
    sizes: dict[str, Expression] = {}


class Family(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """`uses` has for answers, by their keys, what was typed for them with names in it."""

    sizes: Annotated[tuple[NamedSize, ...], msgspec.Meta(max_length=NAMED_SIZES.most)] = ()
    uses: dict[str, Expression] = {}
    variants: Annotated[tuple[Variant, ...], msgspec.Meta(max_length=VARIANTS.most)] = ()


class FamilyError(Exception):
    """What is wrong with a named size or a variant, in a sentence; `name` is whose it is."""

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(reason)
        self.name, self.reason = name, reason


def name_trouble(name: str, taken: Iterator[str] | tuple[str, ...] = ()) -> str:
    """Why a size cannot be called that; empty where it can."""
    if not NAME.fullmatch(name):
        return tr("A name begins with a letter; letters, digits and _ follow, twenty at most.")
    if name.lower() in RESERVED:
        return tr("{name} means something in sums already.", name=name)
    fit = _FIT.fullmatch(name)
    if fit and fit[1].lower() in LETTERS and int(fit[2]) in GRADES:
        return tr("{name} is a fit: 30 {name} would be read as one.", name=name)
    return tr("There is a size called {name} already.", name=name) if name in taken else ""


def names_in(text: str) -> list[str]:
    """The words in what was typed that may be names."""
    return _WORD.findall(text)


def filled_in(text: str, values: Mapping[str, float]) -> str:
    """What was typed with numbers in the place of names; what is no name stays."""

    def number(found: re.Match[str]) -> str:
        value = values.get(found[0])
        if value is None:
            return found[0]
        beside = text[: found.start()].rstrip()[-1:] + text[found.end() :].lstrip()[:1]
        # 1 d1/2 would become a fraction with a whole before it
        return f"({_plain(value)})" if any(sign.isdigit() for sign in beside) else _plain(value)

    return _WORD.sub(number, text)


def _plain(value: float) -> str:
    """A number as it may be typed anywhere in a sum."""
    text = f"{value:.9f}".rstrip("0").rstrip(".")
    return f"({text})" if value < 0 else text or "0"


@functools.lru_cache(maxsize=256)
def _values(sizes: tuple[NamedSize, ...], unit: Unit) -> dict[str, float]:
    found: dict[str, float] = {}
    for size in sizes:
        if why := name_trouble(size.name, tuple(found)):
            raise FamilyError(size.name, why)
        if parted(size.says) is not None:
            raise FamilyError(size.name, tr("A tolerance stands where the size is used: {name} H7.", name=size.name))
        try:
            found[size.name] = evaluate(filled_in(size.says, found), Kind.LENGTH, unit)
        except ExpressionError as error:
            raise FamilyError(size.name, error.reason) from error
    return found


def values_of(job: Job, of: Variant | None = None) -> dict[str, float]:
    """What the named sizes of a job are, or those of a variant, in the job's unit. FamilyError for one that is none."""
    if job.family is None:
        return {}
    sizes = job.family.sizes
    if of is not None:
        unknown = [name for name in of.sizes if name not in {size.name for size in sizes}]
        if unknown:
            raise FamilyError(unknown[0], tr("There is no size called {unknown}.", unknown=unknown[0]))
        sizes = tuple(replace(size, says=of.sizes.get(size.name, size.says)) for size in sizes)
    return dict(_values(sizes, job.unit))


def known(job: Job, kind: Kind = Kind.LENGTH, unit: Unit | None = None) -> dict[str, float]:
    """What the named sizes are as far as they are any: for fields, which say by themselves what they do not know. For lengths of
    something that has another unit than the job, in that."""
    try:
        values = values_of(job)
    except FamilyError:
        return {}
    if unit in (None, job.unit) or kind not in (Kind.LENGTH, Kind.FEED_PER_TOOTH):
        return values
    return {name: value * scale(job.unit, unit) for name, value in values.items()}


def key_of(job: Job, address: str) -> str:
    """Under which an answer's text is kept: its address, but segments of outlines by their ids, as they change places."""
    found = _SEGMENT.fullmatch(address)
    outline = job.outline(found["outline"]) if found else None
    if found is None or outline is None or int(found["at"]) >= len(outline.segments):
        return address
    return f"outline:{found['outline']}#{outline.segments[int(found['at'])].id}.{found['field']}"


def address_of(job: Job, key: str) -> str:
    """Where an answer is now whose text is kept under a key; empty where it is no more."""
    found = _BY_ID.fullmatch(key)
    if found is None:
        return key
    outline = job.outline(found["outline"])
    place = next((k for k, s in enumerate(outline.segments) if s.id == found["segment"]), -1) if outline is not None else -1
    return f"outline:{found['outline']}.segments.{place}.{found['field']}" if place >= 0 else ""


def used_by(job: Job, name: str) -> list[str]:
    """The keys of the answers that a size is named in, and the sizes after it that it is named in."""
    if job.family is None:
        return []
    sizes = [size.name for size in job.family.sizes if name in names_in(size.says)]
    return [*sizes, *(key for key, text in job.family.uses.items() if name in names_in(text))]


def uses_copied(job: Job, of: str, to: str) -> Job:
    """The job whose copied answers, those whose addresses begin with `to`, name the sizes that those they were copied from do."""
    family = job.family
    if family is None:
        return job
    kept = {key: text for key, text in family.uses.items() if not key.startswith(to)}
    copied = {to + key.removeprefix(of): text for key, text in kept.items() if key.startswith(of)}
    return replace(job, family=replace(family, uses=kept | copied))


def renamed(family: Family, old: str, new: str) -> Family:
    """The family with a size under another name, wherever it is named. FamilyError where it cannot be called that."""
    if old == new:
        return family
    if why := name_trouble(new, tuple(size.name for size in family.sizes)):
        raise FamilyError(new, why)

    def changed(text: str) -> str:
        return _WORD.sub(lambda found: new if found[0] == old else found[0], text)

    return Family(
        sizes=tuple(NamedSize(name=new if s.name == old else s.name, says=changed(s.says)) for s in family.sizes),
        uses={key: changed(text) for key, text in family.uses.items()},
        variants=tuple(
            replace(v, sizes={new if name == old else name: changed(text) for name, text in v.sizes.items()})
            for v in family.variants
        ),
    )


def variants_csv(job: Job) -> str:
    """The variants as a table: a line each, a column for each size."""
    family = job.family or Family()
    names = [size.name for size in family.sizes]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("variant", *names))
    for one in family.variants:
        writer.writerow((inert(one.name), *(inert(one.sizes.get(name, "")) for name in names)))
    return out.getvalue()


def variants_of_csv(job: Job, text: str) -> tuple[Variant, ...]:
    """The variants that a table has: its first column their names, the others the sizes that they are headed with; an empty cell
    is as in the job. Columns are parted by commas, semicolons or tabs. FamilyError with the line where something is wrong."""
    family = job.family or Family()
    names = {size.name for size in family.sizes}
    lines = text.lstrip("\ufeff").splitlines()
    if not lines:
        raise FamilyError("", tr("There is nothing in it."))
    parts = max(";\t,", key=lines[0].count)
    rows = list(csv.reader(lines, delimiter=parts))
    heads = [head.strip() for head in rows[0]]
    for head in heads[1:]:
        if head not in names:
            raise FamilyError(head, tr("Line 1: there is no size called “{head}” in this job.", head=head))
    if len(set(heads)) < len(heads):
        raise FamilyError("", tr("Line 1: a size has two columns."))
    found: list[Variant] = []
    for number, row in enumerate(rows[1:], 2):
        cells = [cell.strip() for cell in row]
        if not any(cells):
            continue
        if len(cells) > len(heads) or not cells[0] or len(cells[0]) > LONGEST_NAME:
            long = tr("has too long a name") if len(cells[0]) > LONGEST_NAME else tr("has more cells than there are columns")
            what = long if cells[0] else tr("has no name")
            raise FamilyError("", tr("Line {number}: the variant {what}.", number=number, what=what))
        one = Variant(name=cells[0], sizes={head: cell for head, cell in zip(heads[1:], cells[1:], strict=False) if cell})
        if cells[0] in {v.name for v in found}:
            raise FamilyError(one.name, tr("Line {number}: there is a variant {name} already.", number=number, name=one.name))
        try:
            values_of(job, one)
        except FamilyError as error:
            raise FamilyError(
                one.name, tr("Line {number}, {name}: {reason}", number=number, name=error.name, reason=error.reason)
            ) from error
        found.append(one)
        if why := VARIANTS.over(len(found)):
            raise FamilyError("", why)
    return tuple(found)
