"""The posted program: lines of text and where each comes from."""

from __future__ import annotations

import itertools
import re

import msgspec

from bastler.job.by_hand import without_remarks


class Section(msgspec.Struct, frozen=True):
    """A run of lines that belong together: `first` to before `last`, counted from 0.

    `step` is the id of the step, `stage` the name of the stage within it; both are empty for what frames the program.
    """

    first: int
    last: int
    step: str = ""
    stage: str = ""


class Typed(msgspec.Struct, frozen=True):
    """A place that was changed by hand: the id of the edit, and which lines it has put there, `first` to before `last`; none
    where it has only taken some away. It lies in a `section`, by its number."""

    edit: str
    first: int
    last: int
    section: int


class Program(msgspec.Struct, frozen=True):
    """G-code text with its sections, which cover all lines in order; what of it was `typed` by hand, and the ids of the edits
    that do not fit it any more."""

    lines: tuple[str, ...]
    sections: tuple[Section, ...]
    typed: tuple[Typed, ...] = ()
    unfit: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        return "\n".join(self.lines) + "\n"

    @property
    def sent(self) -> bytes:
        """The text as it leaves: plain ASCII, which every control reads; another sign, in a comment, becomes a question mark."""
        return self.text.encode("ascii", "replace")

    @property
    def by_hand(self) -> frozenset[int]:
        """The lines that were typed by hand, and those before which some were only taken away."""
        return frozenset(line for place in self.typed for line in range(place.first, max(place.last, place.first + 1)))

    def section_of(self, line: int) -> Section:
        """The section that a line (from 0) belongs to."""
        for section in self.sections:
            if section.first <= line < section.last:
                return section
        return Section(0, 0)

    @staticmethod
    def foreign(text: str) -> Program:
        """A program that came as text alone: one section for each tool change."""
        lines = tuple(text.splitlines())
        starts = [0] + [k for k, line in enumerate(lines) if k and _changes_tool(line)] + [len(lines)]
        sections = [Section(a, b, "", f"from line {a + 1}") for a, b in itertools.pairwise(starts) if b > a or b == 0]
        return Program(lines, tuple(sections))


_TOOL_CHANGE = re.compile(r"M0?6(?!\d)")


def _changes_tool(line: str) -> bool:
    """Most lines have no 6, or no M: of the others comments are taken away first."""
    upper = line.upper()
    return "6" in line and "M" in upper and _TOOL_CHANGE.search(without_remarks(upper)) is not None
