"""What is different between two programs, step by step and line by line.

Line numbers and blanks count for nothing: no control does anything else for them; nor do the figures of tools in the head, which
follow from the rest. Words in brackets count, but it is said where
nothing else has changed.
"""

from __future__ import annotations

import difflib
import itertools
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from typing import Literal

import msgspec

from bastler.post.headed import without_figures
from bastler.post.program import Program, Section

Kind = Literal["changed", "fresh", "gone", "moved"]
MOST_PAIRS = 4_000_000
"""Of two stretches with more pairs of lines than this, behind what they have alike at both ends, all lines count as changed."""
_NUMBER = re.compile(r"^\s*N\d+\s*", re.IGNORECASE)
Key = tuple[str, str, int]
"""Step, stage, and which of its stretches."""


class Change(msgspec.Struct, frozen=True):
    """What is different in a stage of a step; both are empty for what frames the program. `lines` are those of the newer program,
    from 0, that were not there; `was` those of the older one that are there no more, and `at` the line before which the first of
    all that is. `words` where nothing but remarks is different."""

    step: str
    stage: str
    kind: Kind
    lines: tuple[int, ...]
    was: tuple[str, ...]
    at: int
    words: bool = False


def compared(then: Program, now: Program) -> tuple[Change, ...]:
    """What has changed from one program to another, in the order of the newer one, with what is gone where it was."""
    before, after = dict(stretches(then)), dict(stretches(now))
    stay = _in_order(list(before), list(after))
    found: list[Change] = []
    at = 0
    for key in _merged(list(before), list(after)):
        section, was = after.get(key), before.get(key)
        if section is None and was is not None:
            found.append(_change(key, "gone", [], _lines(then, was), at))
        elif section is not None:
            at = section.last
            change = _within(key, then, was, now, section)
            if change is None and key not in stay:
                change = _change(key, "moved", [], [], section.first)
            if change is not None:
                found.append(change)
    return tuple(found)


def stretches(program: Program) -> Iterator[tuple[Key, Section]]:
    """The sections that have lines, each with which of its stage it is."""
    seen: Counter[tuple[str, str]] = Counter()
    for section in program.sections:
        if section.last > section.first:
            seen[section.step, section.stage] += 1
            yield (section.step, section.stage, seen[section.step, section.stage]), section


def _in_order(before: Sequence[Key], after: Sequence[Key]) -> set[Key]:
    """Stretches that come one after the other in both programs, as many of them as there are."""
    blocks = difflib.SequenceMatcher(None, before, after, autojunk=False).get_matching_blocks()
    return {key for block in blocks for key in before[block.a : block.a + block.size]}


def _merged(before: Sequence[Key], after: Sequence[Key]) -> list[Key]:
    """All stretches in the order of the newer program; one that is gone behind that which it stood behind."""
    order, there = list(after), set(after)
    for k, key in enumerate(before):
        if key not in there:
            last = next((order.index(one) for one in reversed(before[:k]) if one in order), -1)
            order.insert(last + 1, key)
    return order


def _lines(program: Program, section: Section) -> list[str]:
    return [bare(line) for line in program.lines[section.first : section.last]]


def bare(line: str) -> str:
    """A line without its number, without blanks at its ends, and of the head without what running it has told of a tool."""
    return without_figures(_NUMBER.sub("", line).strip())


def _within(key: Key, then: Program, was: Section | None, now: Program, section: Section) -> Change | None:
    """What is different in a stretch; None where nothing is."""
    new = _lines(now, section)
    if was is None:
        return _change(key, "fresh", list(range(section.first, section.last)), [], section.first, new)
    old = _lines(then, was)
    if old == new:
        return None
    places = list(differences(old, new))
    fresh = [k for _, _, begin, end in places for k in range(begin, end)]
    gone = [old[k] for begin, end, _, _ in places for k in range(begin, end)]
    at = section.first + places[0][2]
    return _change(key, "changed", [section.first + k for k in fresh], gone, at, [new[k] for k in fresh])


def differences(old: Sequence[str], new: Sequence[str]) -> Iterator[tuple[int, int, int, int]]:
    """Where lines of one text stand in the place of lines of another: from and to before in the old one, and in the new one."""
    head = _alike(old, new)
    tail = _alike(old[head:][::-1], new[head:][::-1])
    a, b = old[head : len(old) - tail], new[head : len(new) - tail]
    if len(a) * len(b) > MOST_PAIRS:
        yield head, head + len(a), head, head + len(b)
        return
    for tag, i0, i1, j0, j1 in difflib.SequenceMatcher(None, a, b, autojunk=False).get_opcodes():
        if tag != "equal":
            yield head + i0, head + i1, head + j0, head + j1


def _alike(old: Sequence[str], new: Sequence[str]) -> int:
    """How many lines at the beginning are the same."""
    return sum(1 for _ in itertools.takewhile(lambda pair: pair[0] == pair[1], zip(old, new, strict=False)))


def _change(key: Key, kind: Kind, lines: list[int], was: list[str], at: int, new: Sequence[str] = ()) -> Change:
    words = kind == "changed" and all(line.startswith(("(", ";")) for line in (*new, *was))
    return Change(key[0], key[1], kind, tuple(lines), tuple(was), at, words)
