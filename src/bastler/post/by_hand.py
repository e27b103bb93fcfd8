"""Hand edits laid over the text that the steps make, and found in a text that somebody has typed over.

An edit is laid where what it replaces, and the lines around that, stand as they stood; where the same stands more than once, as
many times as it did, and then at the same one of them. Everywhere else it does not fit, and is not laid: nothing typed by hand
comes to stand where nobody put it.
"""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterator, Sequence

import msgspec

from bastler.bounds import HAND_EDITS, HAND_LINES
from bastler.job.by_hand import HandEdit
from bastler.post.compared import Key, bare, differences, stretches
from bastler.post.program import Program, Section, Typed

AROUND = 3
"""So many lines around an edit are kept."""
BEGIN, END = ("\x02",) * AROUND, ("\x03",) * AROUND
"""What stands around a stretch: no line is ever this."""


class TooMuch(Exception):
    """More is typed by hand than is kept as edits; the message is a sentence."""


def laid_over(program: Program, edits: Sequence[HandEdit]) -> Program:
    """The program with those edits that fit, and the ids of those that do not."""
    if not edits:
        return program
    by_place: defaultdict[Key, list[HandEdit]] = defaultdict(list)
    for edit in edits:
        by_place[edit.step, edit.stage, edit.stretch].append(edit)
    keys = {section.first: key for key, section in stretches(program)}
    lines: list[str] = []
    sections: list[Section] = []
    typed: list[Typed] = []
    laid: set[str] = set()
    for number, section in enumerate(program.sections):
        own = list(program.lines[section.first : section.last])
        first = len(lines)
        at = 0
        key = keys.get(section.first) if section.last > section.first else None
        for begin, edit in _spots(own, by_place.get(key, ()) if key else ()):
            lines += own[at:begin]
            typed.append(Typed(edit.id, len(lines), len(lines) + len(edit.now), number))
            lines += map(one_line, edit.now)
            at = begin + len(edit.was)
            laid.add(edit.id)
        lines += own[at:]
        sections.append(msgspec.structs.replace(section, first=first, last=len(lines)))
    unfit = tuple(edit.id for edit in edits if edit.id not in laid)
    return Program(tuple(lines), tuple(sections), tuple(typed), unfit)


def one_line(text: str) -> str:
    """A line as one line, whatever signs are in it."""
    return " ".join(text.splitlines())


def _spots(own: Sequence[str], edits: Sequence[HandEdit]) -> list[tuple[int, HandEdit]]:
    """Where edits fit in a stretch, in order; of those that would lie over each other only the first."""
    plain = (*BEGIN, *map(bare, own), *END)
    found: list[tuple[int, HandEdit]] = []
    end = -1
    spots = [(spot, edit) for edit in edits for spot in _spot(plain, edit)]
    for begin, one in sorted(spots, key=lambda pair: pair[0]):
        if begin >= end:
            found.append((begin, one))
            end = begin + max(len(one.was), 1)
    return found


def _spot(plain: Sequence[str], edit: HandEdit) -> Iterator[int]:
    """Where an edit fits in a stretch that has its ends around it, if anywhere."""
    for around, (which, of) in ((AROUND, edit.far), (1, edit.near)):
        found = _places(plain, _before(edit.before)[-around:], edit.was, _after(edit.after)[:around])
        if len(found) == of and 1 <= which <= of:
            yield found[which - 1]
            return


def _before(lines: Sequence[str]) -> tuple[str, ...]:
    return (*BEGIN, *lines)[-AROUND:]


def _after(lines: Sequence[str]) -> tuple[str, ...]:
    return (*lines, *END)[:AROUND]


def _places(plain: Sequence[str], before: Sequence[str], was: Sequence[str], after: Sequence[str]) -> list[int]:
    """Everywhere that some lines stand with others around them, counted without the ends of the stretch."""
    wanted, whole = (*before, *was, *after), len(before) + len(was) + len(after)
    first = wanted[0]
    return [
        k + len(before) - AROUND
        for k in range(len(plain) - whole + 1)
        if plain[k] == first and tuple(plain[k : k + whole]) == wanted
    ]


# -- found in a text ----------------------------------------------------------------------------------------------


def edits_of(made: Program, text: str, program: str, known: Sequence[HandEdit]) -> tuple[HandEdit, ...]:
    """The edits that make a text of a program as the steps have `made` it. Those that are `known` keep their ids, and of these
    the ones that fit nowhere stay. TooMuch where it is more than is kept."""
    typed = text.splitlines()
    lost = set(laid_over(made, known).unfit)
    stay = [edit for edit in known if edit.id in lost]
    ids = {msgspec.structs.replace(edit, id=""): edit.id for edit in known if edit.id not in lost}
    taken = {edit.id for edit in known}
    found = []
    for edit in _found(made, typed, program):
        ident = ids.pop(edit, "") or next(name for k in itertools.count(1) if (name := f"e{k}") not in taken)
        taken.add(ident)
        found.append(msgspec.structs.replace(edit, id=ident))
    many = sum(len(edit.was) + len(edit.now) for edit in (*found, *stay))
    if len(found) + len(stay) > HAND_EDITS.most or many > HAND_LINES.most:
        raise TooMuch(
            "So much by hand is another program: it is not kept as changes of this one. Change the steps, or less of it."
        )
    return (*found, *stay)


def _found(made: Program, typed: Sequence[str], program: str) -> Iterator[HandEdit]:
    old, new = [bare(line) for line in made.lines], [bare(line) for line in typed]
    sections = list(stretches(made))
    for i0, i1, j0, j1 in differences(old, new):
        pieces = [(key, s) for key, s in sections if s.first < i1 and i0 < s.last]
        if not pieces:  # between two lines: it belongs to the one before
            pieces = [next(((key, s) for key, s in sections if s.first < i0 <= s.last), sections[0])] if sections else []
        for k, (key, section) in enumerate(pieces):
            begin, end = max(i0, section.first), min(i1, section.last)
            now = typed[j0:j1] if k == 0 else []
            yield _edit(
                program,
                key,
                old[section.first : section.last],
                begin - section.first,
                max(end - section.first, begin - section.first),
                now,
            )


def _edit(program: str, key: Key, own: Sequence[str], begin: int, end: int, now: Sequence[str]) -> HandEdit:
    plain = (*BEGIN, *own, *END)
    before, was, after = own[max(0, begin - AROUND) : begin], own[begin:end], own[end : end + AROUND]
    where = []
    for around in (1, AROUND):
        places = _places(plain, _before(before)[-around:], was, _after(after)[:around])
        where.append((places.index(begin) + 1, len(places)))
    return HandEdit(
        id="",
        program=program,
        step=key[0],
        stage=key[1],
        stretch=key[2],
        before=tuple(before),
        was=tuple(was),
        now=tuple(map(one_line, now)),
        after=tuple(after),
        near=where[0],
        far=where[1],
    )


def unlaid(program: Program, edits: Sequence[HandEdit]) -> Program:
    """The program as the steps made it, of one over which edits were laid."""
    was = {edit.id: edit.was for edit in edits}
    lines: list[str] = []
    sections: list[Section] = []
    for number, section in enumerate(program.sections):
        first, at = len(lines), section.first
        for place in sorted((one for one in program.typed if one.section == number), key=lambda one: one.first):
            lines += [*program.lines[at : place.first], *was[place.edit]]
            at = place.last
        lines += program.lines[at : section.last]
        sections.append(msgspec.structs.replace(section, first=first, last=len(lines)))
    return Program(tuple(lines), tuple(sections))
