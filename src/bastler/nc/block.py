"""One line of a program with more than motion words. It knows which of its words have been used."""

from __future__ import annotations

import functools
from collections.abc import Sequence

from bastler.language import tr
from bastler.nc import codes
from bastler.nc.words import WordTable


def code_of(word: str) -> float:
    """The number of a G word of a machine card."""
    return round(float(word[1:]), 1)


Word = tuple[str, float, int]
"""A letter, its value, and the column from 1 on."""


def _name(letter: str) -> str:
    """A letter as it stands in the text: those behind a comma are kept small."""
    return f",{letter.upper()}" if letter.islower() else letter


class Parsed:
    """The words of a line by themselves, whichever line that is: programs say many lines again and again."""

    def __init__(self, words: Sequence[Word]) -> None:
        self.words = words
        self.letters = frozenset(letter for letter, _, _ in words)
        self.values: dict[str, float] = {}
        self.g: set[float] = set()
        self.m: set[float] = set()
        for letter, value, _ in words:
            if letter == "G":
                self.g.add(round(value, 1))
            elif letter == "M":
                self.m.add(value)
            else:
                self.values.setdefault(letter, value)
        self.about: tuple[str | float, ...] = (*self.values, *self.g, *(codes.code_text("M", value) for value in self.m))

    @functools.cached_property
    def conflicts(self) -> list[tuple[int, str]]:
        """Words that exclude each other, as (column, sentence)."""
        seen: dict[str, str] = {}
        found = []
        for letter, value, column in self.words:
            if letter not in "GM":
                continue
            value = round(value, 1)
            group = codes.ANY_GROUP_OF.get(value) if letter == "G" else codes.M_GROUP_OF.get(value)
            if group is None:
                continue
            name = codes.code_text(letter, value)
            if letter + group in seen and seen[letter + group] != name and {seen[letter + group], name} != {"M7", "M8"}:
                found.append(
                    (column, tr("{seen} and {name} exclude each other in one line.", seen=seen[letter + group], name=name))
                )
            seen[letter + group] = name
        return found + self._twice()

    def _twice(self) -> list[tuple[int, str]]:
        letters: set[str] = set()
        found = []
        for letter, _, column in self.words:
            if letter in "GM":
                continue
            if letter in letters:
                found.append((column, tr("{letter} stands twice in this line.", letter=_name(letter))))
            letters.add(letter)
        return found


MOST_KNOWN = 20_000
"""So many different lines of a program are kept taken apart."""


class Block:
    """The words of one line, found by letter."""

    def __init__(self, line: int, words: Sequence[Word] | Parsed) -> None:
        parsed = words if isinstance(words, Parsed) else Parsed(words)
        self.line, self.parsed = line, parsed
        self._words, self._letters, self._values = parsed.words, parsed.letters, parsed.values
        self._g, self._m = parsed.g, parsed.m
        self._used: set[tuple[str, float] | str] = set()
        """Letters, and G and M words with their number, that something has been made of."""

    @staticmethod
    def of(table: WordTable, line: int) -> Block:
        """The words of a line that are in its text."""
        a, b = int(table.first[line]), int(table.first[line + 1])
        letters = table.letter[a:b].tobytes()
        key = (letters, table.value[a:b].tobytes(), table.column[a:b].tobytes())
        parsed = table.known.get(key)
        if parsed is None:
            words = zip(letters.decode("latin-1"), table.value[a:b].tolist(), table.column[a:b].tolist(), strict=True)
            parsed = Parsed(list(words))
            if len(table.known) < MOST_KNOWN:
                table.known[key] = parsed
        return Block(line, parsed)

    def has_g(self, code: float) -> bool:
        """Is this G word there? It counts as used then."""
        if code in self._g:
            self._used.add(("G", code))
        return code in self._g

    def has_m(self, code: int) -> bool:
        """Is this M word there? It counts as used then."""
        if code in self._m:
            self._used.add(("M", code))
        return code in self._m

    def has(self, word: str) -> bool:
        """Is this word of a machine card there, G or M? It counts as used then."""
        return self.has_g(code_of(word)) if word.startswith("G") else self.has_m(int(word[1:]))

    def told(self, words: Sequence[str]) -> list[int]:
        """Which of some words of a machine card are there, by their places. They count as used."""
        return [k for k, word in enumerate(words) if self.has(word)]

    def word(self, letter: str) -> float | None:
        """The value of a letter, None when it is not there. It counts as used."""
        self._used.add(letter)
        return self.peek(letter)

    def peek(self, letter: str) -> float | None:
        """The value of a letter, None when it is not there; it does not count as used."""
        return self._values.get(letter)

    def use(self, letters: str) -> None:
        """These letters have been used by something that did not ask for them one by one."""
        self._used |= set(letters)

    def unused(self) -> list[tuple[int, str]]:
        """Words that nothing was made of, as (column, sentence). Line and program numbers are only names."""
        found = []
        for letter, value, column in self._words:
            key = (letter, round(value, 1) if letter == "G" else value) if letter in "GM" else letter
            if key not in self._used and letter not in "NO":
                name = codes.code_text(letter, value) if letter in "GM" else _name(letter)
                found.append((column, tr("{name} has no meaning in this line.", name=name)))
        return found

    def column(self, letter: str) -> int:
        """The column of a letter's first word, 1 when it is not there."""
        return next((column for name, _, column in self._words if name == letter), 1)

    @property
    def unnamed(self) -> bool:
        """Is there more than a line or program number?"""
        return any(name not in "NO" for name, _, _ in self._words)

    @property
    def words(self) -> tuple[str | float, ...]:
        """What the line is about: its letters, its M words as `M6`, its G words as numbers."""
        return self.parsed.about

    def has_axes(self) -> bool:
        return self.has_any("XYZ")

    def has_any(self, letters: str) -> bool:
        """Is there any of these letters?"""
        return not self._letters.isdisjoint(letters)

    @property
    def g_words(self) -> set[float]:
        """All G words of the line."""
        return self._g

    @property
    def m_words(self) -> set[float]:
        """All M words of the line."""
        return self._m

    def has_centre(self) -> bool:
        return self.has_any("IJK")

    @property
    def motion(self) -> float | None:
        """The motion word of the line. It counts as used."""
        found = min((code for code in self._g if codes.GROUP_OF.get(code) == "motion"), default=None)
        if found is not None:
            self._used.add(("G", found))
        return found

    def conflicts(self) -> list[tuple[int, str]]:
        """Words that exclude each other, as (column, sentence)."""
        return self.parsed.conflicts

    def unknown(self, known: frozenset[float], axes: str, more: frozenset[float] = frozenset()) -> list[tuple[int, str]]:
        """Words that are not among the known G words, the M words of all machines or the `more` of this one, nor letters of these
        axes, as (column, sentence)."""
        found = []
        for letter, value, column in self._words:
            name = codes.code_text(letter, value)
            if (letter == "G" and round(value, 1) not in known) or (letter == "M" and value not in codes.M_KNOWN | more):
                why = codes.M_REFUSED.get(value) if letter == "M" else None
                found.append((column, f"{name} {tr(why)}." if why else tr("{name} is not known here.", name=name)))
            elif letter in "ABCUVWY" and letter not in axes:
                found.append((column, tr("The machine has no {letter} axis.", letter=letter)))
        return found
