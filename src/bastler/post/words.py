"""Single words of a block and what is modal about them."""

from __future__ import annotations

import re

from bastler.machines import Dialect
from bastler.units import Unit

COMMENT_LENGTH = 60


class Words:
    """Writes words for one dialect and unit and remembers what is in force, so that nothing is said twice."""

    def __init__(self, dialect: Dialect, unit: Unit) -> None:
        self.dialect = dialect
        self.unit = unit
        self.places = dialect.places(unit)
        self.last: dict[str, str] = {}

    def number(self, value: float, places: int) -> str:
        """A number without needless zeros; whole ones keep the point where the dialect wants it."""
        return self.dialect.number(value, places)

    def whole(self, value: float) -> str:
        """A number that is a count of something, as turns a minute: never with a point."""
        return f"{round(value)}"

    def dwell(self, seconds: float) -> str:
        """Seconds as the dialect counts them: thousandths are whole."""
        found = self.dialect.dwell_words(seconds)
        return self.whole(found) if self.dialect.dwell_unit == "ms" else self.number(found, 3)

    def length(self, letter: str, value: float) -> str:
        """A length word, always written."""
        return letter + self.number(value, self.places)

    def rounded(self, value: float) -> float:
        """The value as the control will see it."""
        return round(value, self.places)

    def counted(self, length: float, unit: str) -> str:
        """A length as a bare number, or in least increments where the dialect counts by these."""
        if unit == "increment":
            return self.whole(length / self.dialect.least_in(self.unit))
        return self.number(length, self.places)

    def place(self, axes: str) -> tuple[float, ...]:
        """Where the control believes to be along axes: what was said last, 0 where nothing was."""
        return tuple(float(self.last.get(axis, axis + "0")[1:]) for axis in axes)

    def modal(self, word: str, letter: str) -> str:
        """The word if it changes what is in force for its letter, else nothing."""
        if self.last.get(letter) == word:
            return ""
        self.last[letter] = word
        return word

    def axes(self, x: float, y: float, z: float) -> str:
        """The axis words that change."""
        return " ".join(word for word in (self.plane(x, y), self.modal(self.length("Z", z), "Z")) if word)

    def plane(self, x: float, y: float) -> str:
        """The X and Y words that change."""
        words = [self.modal(self.length(letter, v), letter) for letter, v in (("X", x), ("Y", y))]
        return " ".join(word for word in words if word)

    def feed(self, value: float) -> str:
        return self.modal("F" + self.number(value, 1 if self.unit == "mm" else 2), "F")

    def motion(self, code: str) -> str:
        return self.modal(code, "G")

    def forget(self, *letters: str) -> None:
        """What the control may have changed by itself is said again."""
        for letter in letters or tuple(self.last):
            self.last.pop(letter, None)

    def comment(self, text: str, tail: str = "") -> str:
        """A comment the control can take: plain letters, no brackets. What is too long is cut, but for the `tail`."""
        plain = text.replace("×", "x").replace("Ø", "D").replace("°", " DEG").replace("–", "-").replace("—", "-")
        plain = re.sub(r"[^A-Za-z0-9 .,:+\-/x=]", "", plain)[: COMMENT_LENGTH - len(tail)].strip() + tail
        plain = plain.upper() if self.dialect.upper_case else plain
        return f"({plain})" if self.dialect.comment == "brackets" else f"; {plain}"
