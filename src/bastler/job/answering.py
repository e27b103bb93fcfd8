"""Answers of a job: where one is, the job with another one, and what was typed for it where sizes of the family are named.

An *address* names an answer: `stock.size_x`, `holding:ID.grip`, `job.name`, `step:ID.depth`, `pattern:ID.diameter`,
`outline:ID.d`, and of the segments of an outline `outline:ID.segments.3.z`, of the numbers of a list `pattern:ID.points.2.x`; in
the crib `tool:ID.diameter`, `holder:ID.length`, `material:ID.kc11`, `card:ID.power`, `dialect:ID.end`."""

from __future__ import annotations

import functools
import math
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, get_type_hints

import msgspec

from bastler.ask import question_of
from bastler.bounds import as_nothing, beyond_all
from bastler.job.arrive import come_to_side
from bastler.job.chuck import ChuckHolding
from bastler.job.crib_edits import crib_given, crib_owner
from bastler.job.document import Job
from bastler.job.family import Family, FamilyError, Variant, address_of, filled_in, key_of, known, names_in, values_of
from bastler.job.faults import unfounded
from bastler.job.lists import LISTS, Listed
from bastler.job.stock import BarStock, BlockStock
from bastler.job.vise import ViseHolding
from bastler.language import tr
from bastler.shapes import AnyOutline
from bastler.steps import Step
from bastler.units import ExpressionError, Kind, evaluate

_OF_LIST = re.compile(r"(?P<list>.+\.(?P<field>\w+))\.(?P<k>[0-9]{1,9})\.(?P<name>[a-z_]+)")
CRIB = ("tool", "holder", "material", "card", "dialect")
"""What addresses in the crib begin with."""
replace = msgspec.structs.replace


def at(job: Job, address: str) -> tuple[msgspec.Struct, str]:
    """The struct an address points into, and the field's name. KeyError when it points nowhere."""
    owner, _, field = address.rpartition(".")
    what, _, ident = owner.partition(":")
    found: msgspec.Struct | None
    found = {"job": job, "stock": job.stock}.get(what) if not ident else None
    if ident:
        found = _of(job, what, ident)
    if found is None or not hasattr(found, field):
        raise KeyError(address)
    return found, field


def _of(job: Job, what: str, ident: str) -> msgspec.Struct | None:
    if what in ("step", "holding"):
        return job.step(ident) if what == "step" else job.holding(ident)
    if what == "pattern":
        return job.pattern(ident)
    if what in CRIB:
        return crib_owner(job, what, ident)
    name, _, place = ident.partition(".segments.")
    outline = job.outline(name) if what == "outline" else None
    if outline is None or not place:
        return outline
    return outline.segments[int(place)] if place.isdigit() and int(place) < len(outline.segments) else None


def answered(job: Job, address: str, value: Any, typed: str | Mapping[str, str] = "") -> Job:
    """The job with one answer given; None makes it computed again. `typed` is kept when it says more than the number, and with
    names of sizes in it goes along with them; of a list it is what was typed for its numbers, by the ends of their addresses.
    UnfitAnswer for what no file may hold either."""
    family = job.family
    if family is None:
        return _answered(job, address, value, typed if isinstance(typed, str) else "")
    sizes, key = known(job), key_of(job, address)
    if isinstance(typed, str):
        named = value is not None and any(name in sizes for name in names_in(typed))
        made, said = _answered(job, address, value, filled_in(typed, sizes) if named else typed), {key: typed} if named else {}
        kept = {k: text for k, text in family.uses.items() if k != key}
    else:
        made, said = _answered(job, address, value, ""), {f"{key}.{end}": text for end, text in typed.items()}
        kept = {k: text for k, text in family.uses.items() if not k.startswith(f"{key}.")}
    uses = kept | said
    return made if uses == family.uses else replace(made, family=replace(family, uses=uses))


def _answered(job: Job, address: str, value: Any, typed: str) -> Job:
    struct, field = at(job, address)
    value = _fitting(struct, field, value)
    changes: dict[str, Any] = {field: value}
    if hasattr(struct, "typed"):
        kept = {k: v for k, v in struct.typed.items() if k != field}
        says_more = typed and isinstance(value, int | float) and not _plain(typed)
        changes["typed"] = kept | ({field: typed} if says_more else {})
    changed = replace(struct, **changes)
    if address.startswith("outline:"):
        return _with_outline(job, address, changed)
    what, _, ident = address.rpartition(".")[0].partition(":")
    if what in CRIB:
        return crib_given(job, what, ident, changed)  # type: ignore[arg-type]
    made = _with(job, changed)
    if field == "where_on" and value == "side":
        for moved in come_to_side(made, ident):
            made = _with(made, moved)
    for trouble in unfounded(made) if field in ("machine", "material", "follows") else ():
        raise UnfitAnswer(trouble.text)
    return made


def named_text(job: Job, address: str) -> str:
    """What was typed for an answer, or a number of a list, with the names of sizes in it; empty where none are, or where the
    answer has become another one without them."""
    text = job.family.uses.get(key_of(job, address), "") if job.family is not None else ""
    try:
        return text if text and _is_still(job, address, text) else ""
    except (KeyError, ValueError):  # it is there no more, or what a file has put there is no answer at all
        return ""


def _is_still(job: Job, address: str, text: str) -> bool:
    """Is an answer what was typed for it with names in it?"""
    if (number := _in_list(job, address)) is not None:
        return bool(number.as_typed(text) == number.entries[number.k])
    struct, field = at(job, address)
    filled, own = filled_in(text, known(job)), getattr(struct, "typed", {}).get(field, "")
    if own or (hasattr(struct, "typed") and not (_plain(filled) or isinstance(getattr(struct, field), str))):
        return bool(own == filled)
    return bool(getattr(struct, field) == _meant(job, struct, field, text))


def _meant(job: Job, struct: msgspec.Struct, field: str, text: str) -> Any:
    """The answer that a text is, with names in it or without, in the unit of whose it is. ExpressionError."""
    question = question_of(type(struct), field)
    if question.picks == "numbers":
        return filled_in(text, known(job))
    kind, unit = question.kind or Kind.LENGTH, job.unit if isinstance(struct, Job) else getattr(struct, "unit", job.unit)
    value = evaluate(filled_in(text, known(job, kind, unit)), kind, unit)
    if kind is Kind.COUNT:
        if value != int(value):
            raise ExpressionError(tr("Has to be a whole number."), 0)
        return int(value)
    return value


def family_given(job: Job, family: Family) -> Job:
    """The job with other named sizes, and all answers that name them as they are with these. FamilyError where a size, or an
    answer with it, is none."""
    made = replace(job, family=family)
    values_of(made)
    uses: dict[str, str] = {}
    for key, text in family.uses.items():
        address = address_of(job, key)
        if not address or text != named_text(job, address):
            continue  # it is not there any more, or is another one
        try:
            made = _follows(made, address, text)
        except ValueError as error:
            says = _says(made, address)
            raise FamilyError(says, f"{says}, {text}: {error}") from error
        uses[key] = text
    return replace(made, family=replace(family, uses=uses))


def variant_of(job: Job, variant: Variant) -> Job:
    """The job that a variant is: a job of its own, without the family. FamilyError."""
    family = job.family or Family()
    values_of(job, variant)
    sizes = tuple(replace(size, says=variant.sizes.get(size.name, size.says)) for size in family.sizes)
    made = family_given(job, replace(family, sizes=sizes))
    return replace(made, name=f"{job.name} {variant.name}"[:80], family=None)


def _follows(job: Job, address: str, text: str) -> Job:
    """The job with an answer as its text has it now. ExpressionError, UnfitAnswer or ValueError where it has become none."""
    if (number := _in_list(job, address)) is not None:
        return _answered(job, number.address, number.given(text), "")
    struct, field = at(job, address)
    return _answered(job, address, _meant(job, struct, field, text), filled_in(text, known(job)))


def _says(job: Job, address: str) -> str:
    """What an answer, or a line of a list, is called."""
    number = _in_list(job, address)
    struct, field = at(job, address if number is None else number.address)
    return question_of(type(struct), field).says + (f" {number.k + 1}" if number is not None else "")


# -- lists ---------------------------------------------------------------------------------------------------------------


def listed(job: Job, address: str) -> Listed[Any] | None:
    """How the entries of a list are typed; None for an answer that is no list. KeyError for what is no answer."""
    struct, field = at(job, address)
    made = LISTS.get(question_of(type(struct), field).picks)
    return made(job) if made is not None else None


def lines_of(job: Job, address: str) -> str:
    """A list as it is typed, a line for each entry, with the sizes that are named in it. KeyError for what is no list."""
    found = listed(job, address)
    if found is None:
        raise KeyError(address)
    struct, field = at(job, address)
    return found.written(struct, getattr(struct, field), lambda end: named_text(job, f"{address}.{end}"))


@dataclass(frozen=True)
class _Number:
    """A number in a list: the address of that, how it is typed, what is on it, and which number of which entry it is."""

    address: str
    listed: Listed[Any]
    entries: tuple[Any, ...]
    k: int
    name: str

    def as_typed(self, text: str) -> Any:
        """The entry with the number as typed. ExpressionError or ValueError where that is none, KeyError where there is none of
        that name."""
        return self.listed.changed(self.entries[self.k], self.name, self.listed.value(self.name, text))

    def given(self, text: str) -> tuple[Any, ...]:
        """The list with that entry. Errors as there."""
        return (*self.entries[: self.k], self.as_typed(text), *self.entries[self.k + 1 :])


def _in_list(job: Job, address: str) -> _Number | None:
    """The number of a list that an address such as `pattern:P.points.2.x` names; None for one of an answer of its own. KeyError
    where it is not there."""
    found = _OF_LIST.fullmatch(address)
    if found is None or found["field"] == "segments":
        return None
    struct, field = at(job, found["list"])
    manner, entries, k = listed(job, found["list"]), getattr(struct, field), int(found["k"])
    if manner is None or k >= len(entries):
        raise KeyError(address)
    return _Number(found["list"], manner, entries, k, found["name"])


# -- making --------------------------------------------------------------------------------------------------------------


class UnfitAnswer(ValueError):
    """An answer that its field cannot hold, with the reason."""


@functools.cache
def _types(cls: type[msgspec.Struct]) -> dict[str, Any]:
    return get_type_hints(cls, include_extras=True)


def _fitting(struct: msgspec.Struct, field: str, value: Any) -> Any:
    """The value as the field holds it, by the same check as at reading; UnfitAnswer where it cannot."""
    if not isinstance(value, str | int | float | None):
        return value  # made by the program of its own parts
    if isinstance(value, float) and not math.isfinite(value):
        raise UnfitAnswer(tr("Has to be a finite number."))
    if isinstance(value, float) and as_nothing(value):
        value = 0.0
    if isinstance(value, int | float) and (why := beyond_all(value)):
        raise UnfitAnswer(why)
    try:
        if isinstance(value, str):
            value.encode()
        return msgspec.convert(value, _types(type(struct))[field])
    except UnicodeEncodeError:
        raise UnfitAnswer(tr("There is a sign in it that is none.")) from None
    except msgspec.ValidationError as error:
        raise UnfitAnswer(f"{error}.") from error


def _with_outline(job: Job, address: str, changed: Any) -> Job:
    name, _, place = address.partition(":")[2].partition(".")
    outline = job.outline(name)
    if outline is None:
        raise KeyError(address)
    if place.startswith("segments."):
        at = int(place.split(".")[1])
        changed = replace(outline, segments=(*outline.segments[:at], changed, *outline.segments[at + 1 :]))
    return outline_given(job, changed)


def outline_given(job: Job, outline: AnyOutline) -> Job:
    """The job with an outline in the place of the one of the same id."""
    return replace(job, outlines=tuple(outline if o.id == outline.id else o for o in job.outlines))


def _plain(text: str) -> bool:
    return re.fullmatch(r"\s*-?\d*\.?\d+\s*", text) is not None


def _with(job: Job, struct: msgspec.Struct) -> Job:
    if isinstance(struct, Job):
        return struct
    if isinstance(struct, BlockStock | BarStock):
        return replace(job, stock=struct)
    if isinstance(struct, ViseHolding | ChuckHolding):
        return replace(job, holdings=tuple(struct if h.id == struct.id else h for h in job.holdings))
    if isinstance(struct, Step):
        held = ((h, tuple(struct if s.id == struct.id else s for s in h.steps)) for h in job.holdings)
        return replace(job, holdings=tuple(replace(h, steps=steps) if steps != h.steps else h for h, steps in held))
    patterns = [struct if p.id == struct.id else p for p in job.patterns]  # type: ignore[attr-defined]
    return replace(job, patterns=tuple(patterns))
