"""Several parts on the table, each with a work offset of its own: in a grid, or where a list says.

A *place* is a part's offset and how far its zero lies from the first part's. Extended offsets are counted on behind G59.
"""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec

from bastler.ask import Trouble
from bastler.language import tr
from bastler.shapes import Box
from bastler.units import whole_number

FIRST, LAST = 54, 59
EXTENDED = 6
"""Offsets with a code of their own; the next is P1 of the extended ones."""
BEHIND = 100
"""The extended offset Pn has the index BEHIND + n, as the reader of programs counts them."""
MOST_PARTS = 120


class Place(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Where a part of a list lies: its offset, as G55 or G54.1 P3, and its zero from the first part's."""

    offset: str
    x: float
    y: float
    z: float = 0.0


class PartAt(msgspec.Struct, frozen=True):
    """A part on the table: `index` of its offset from 1 for G54, the `code` that calls it, and the `shift` of its zero from the
    first part's."""

    index: int
    code: str
    shift: tuple[float, float, float]


def offset_code(index: int) -> str:
    """The words that call the offset of an index."""
    return f"G{FIRST + index - 1}" if index <= EXTENDED else f"G54.1 P{index - BEHIND}"


def _nth(number: int) -> int:
    """The index of an offset counted on through, G54 the first, P1 behind G59."""
    return number if number <= EXTENDED else BEHIND + number - EXTENDED


def offset_index(code: str) -> int:
    """The index of an offset, 1 for G54. ValueError for what is none."""
    words = code.upper().split()
    number = whole_number(words[-1][1:]) if words else None
    if number is not None and len(words) == 1 and words[0].startswith("G") and FIRST <= number <= LAST:
        return number - FIRST + 1
    if number and len(words) == 2 and words[0] == "G54.1" and words[1].startswith("P"):
        return BEHIND + number
    raise ValueError(code)


def only_part(offset: str) -> PartAt:
    """One part, at its zero."""
    return PartAt(offset_index(offset), offset, (0.0, 0.0, 0.0))


def parts_of(holding: Any) -> tuple[PartAt, ...]:
    """The parts of a filled milling holding, the first one at no distance."""
    alone = only_part(holding.work_offset)
    first = alone.index
    if holding.parts == "grid":
        places = itertools.product(range(holding.rows), range(holding.columns))
        shifts = [(c * holding.pitch_x, r * holding.pitch_y, 0.0) for r, c in itertools.islice(places, MOST_PARTS)]
        numbered = [(_nth(first + k), shift) for k, shift in enumerate(shifts)]
        return tuple(PartAt(index, offset_code(index), shift) for index, shift in numbered)
    if holding.parts == "list":
        more = [PartAt(offset_index(p.offset), " ".join(p.offset.upper().split()), (p.x, p.y, p.z)) for p in holding.places]
        return (alone, *more)
    return (alone,)


def part_troubles(holding: Any, box: Box, extended: int) -> list[Trouble]:
    """Offsets that the machine has not or that are used twice, and parts that lie on each other; from a filled holding.
    `extended` is how many offsets the machine has besides G54 to G59."""
    if holding.parts == "one":
        return []
    field = "places" if holding.parts == "list" else "columns"
    try:
        parts = parts_of(holding)
    except ValueError as error:
        return [Trouble("places", tr("“{error}” is no work offset: G54 to G59, or G54.1 P1 and on.", error=error))]
    if holding.parts == "grid" and holding.rows * holding.columns > MOST_PARTS:
        return [Trouble(field, tr("More than {most_parts} parts are not looked at.", most_parts=MOST_PARTS))]
    most = max(p.index for p in parts)
    if most > (BEHIND + extended if extended else EXTENDED):
        has = tr("G54 to G59") + (tr(" and {extended} more", extended=extended) if extended else "")
        return [Trouble(field, tr("The machine has {has}: too few for these parts.", has=has))]
    if holding.writes_offsets and most > EXTENDED:
        return [Trouble("write_offsets", tr("G10 is written for G54 to G59 only: touch these parts off."), "no")]
    if len({p.index for p in parts}) < len(parts):
        return [Trouble(field, tr("One work offset stands for two parts."))]
    if holding.parts == "list" and not holding.places:
        return [Trouble("places", tr("Say where the other parts are."), open=True)]
    size = box.size
    for a, b in itertools.combinations(parts, 2):
        if all(abs(p - q) < s - 1e-9 for p, q, s in zip(a.shift[:2], b.shift[:2], size[:2], strict=True)):
            near = "pitch_x" if holding.parts == "grid" and not math.isclose(a.shift[0], b.shift[0]) else "pitch_y"
            fits = math.ceil(size[0 if near == "pitch_x" else 1] + 1) if holding.parts == "grid" else None
            text = tr("{code} and {code_2} lie on each other.", code=a.code, code_2=b.code)
            return [Trouble(near if holding.parts == "grid" else "places", text, fits)]
    return []


def spread(holding: Any) -> tuple[float, float]:
    """From the first part's zero to the farthest: the sum of the farthest to either side, along X and Y; from a holding whose
    parts are filled in."""
    try:
        shifts = [part.shift for part in parts_of(holding)]
    except ValueError:
        return 0.0, 0.0
    xs, ys = ([shift[k] for shift in shifts] for k in (0, 1))
    return max(xs) + min(xs), max(ys) + min(ys)
