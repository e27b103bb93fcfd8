"""From text to words, compiled: letters, values, and where each stands."""

from __future__ import annotations

import functools
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bastler.language import sayable
from bastler.shapes.compiling import kernel

NO_NUMBER, STRANGE, OPEN_COMMENT, VARIABLE, LONE_SIGN, TOO_LARGE = 1, 2, 3, 4, 5, 6
MOST_DIGITS, LARGEST = 30, 1e8
REASONS = sayable(
    {
        NO_NUMBER: "A number has to follow this letter.",
        STRANGE: "This character means nothing here.",
        OPEN_COMMENT: "This comment is not closed.",
        VARIABLE: "This control knows no parameters and no formulas: its card says so.",
        LONE_SIGN: "A letter has to stand before a number.",
        TOO_LARGE: "No machine takes a number this large, or with so many digits.",
    }
)


@dataclass(frozen=True, eq=False)
class WordTable:
    """All words of a text: `letter` (n,) as upper-case codes, those behind a comma (`,R`) as lower-case ones, `value` (n,),
    `column` (n,) from 1; words of line k are `first[k]` to before `first[k + 1]`. `plain` (lines,) is true where only motion
    words stand. `skipped` marks block delete. `faults` (m, 3): line from 0, column from 1, reason."""

    letter: NDArray[np.uint8]
    value: NDArray[np.float64]
    column: NDArray[np.int32]
    first: NDArray[np.int64]
    plain: NDArray[np.bool_]
    skipped: NDArray[np.bool_]
    faults: NDArray[np.int32]
    text: NDArray[np.uint8]
    """The text itself, which lines with formulas are read from."""
    known: dict[tuple[bytes, bytes, bytes], Any] = field(default_factory=dict)
    """Lines that have been taken apart, by their words and where these stand."""

    @functools.cached_property
    def ends(self) -> NDArray[np.int64]:
        """Where each line ends in the text (lines,)."""
        return np.flatnonzero(self.text == 10)


def split(text: str) -> WordTable:
    """The words of a program's text."""
    data = np.frombuffer((text if text.endswith("\n") else text + "\n").encode("latin-1", "replace"), dtype=np.uint8)
    lines = int(np.count_nonzero(data == 10))
    size = len(data) // 2 + 1
    letter, value = np.empty(size, np.uint8), np.empty(size, np.float64)
    column, first = np.empty(size, np.int32), np.zeros(lines + 1, np.int64)
    plain, skipped = np.ones(lines, np.bool_), np.zeros(lines, np.bool_)
    faults = np.empty((lines, 3), np.int32)
    count, bad = _split(data, letter, value, column, first, plain, skipped, faults)
    return WordTable(letter[:count], value[:count], column[:count], first, plain, skipped, faults[:bad], data)


@kernel()
def _split(data: Any, letter: Any, value: Any, column: Any, first: Any, plain: Any, skipped: Any, faults: Any) -> tuple[int, int]:
    n, count, line, begin, bad = len(data), 0, 0, 0, 0
    i = 0
    faulty, codes, comma = False, 0, False
    while i < n:
        c = data[i]
        reason = 0
        if c == 10:
            line += 1
            first[line] = count
            begin = i + 1
            faulty, codes, comma = False, 0, False
            i += 1
            continue
        if c in (32, 9, 13, 37):
            i += 1
            continue
        if c == 59:
            while data[i] != 10:
                i += 1
            continue
        if c == 40:
            j = i
            while data[j] not in (41, 10):
                j += 1
            if data[j] == 41:
                i = j + 1
                continue
            reason = OPEN_COMMENT
        elif c == 47 and count == first[line]:
            skipped[line] = True
            plain[line] = False
            i += 1
            continue
        elif c in (35, 91, 93, 61):
            reason = VARIABLE
        elif c == 44:
            j = i + 1
            while data[j] in (32, 9):
                j += 1
            if data[j] in (65, 67, 82, 97, 99, 114):
                comma = True
                plain[line] = False
                i = j
                continue
            reason = STRANGE
        elif (c >= 48 and c <= 57) or c in (43, 45, 46):
            reason = LONE_SIGN
        elif (c >= 65 and c <= 90) or (c >= 97 and c <= 122):
            code = c - 32 if c >= 97 else c
            j = i + 1
            while data[j] in (32, 9):
                j += 1
            sign, number, share, digits = 1.0, 0.0, 0.0, 0
            if data[j] in (43, 45):
                sign = -1.0 if data[j] == 45 else 1.0
                j += 1
            # blanks mean nothing, not even within a number (RS-274/NGC, 3.3.2)
            while (data[j] >= 48 and data[j] <= 57) or data[j] in (46, 32, 9):
                if data[j] in (32, 9):
                    j += 1
                    continue
                if data[j] == 46:
                    if share > 0.0:
                        break
                    share = 1.0
                else:
                    number = number * 10.0 + (data[j] - 48)
                    share *= 10.0
                    digits += 1
                j += 1
            if digits == 0:
                reason = VARIABLE if data[j] in (35, 91) else NO_NUMBER
                size = 0.0
            else:
                size = number / share if share > 1.0 else number
                reason = TOO_LARGE if digits > MOST_DIGITS or size > LARGEST else 0
            if reason == 0:
                letter[count] = code + 32 if comma else code
                value[count] = sign * size
                column[count] = i - begin + 1
                count += 1
                comma = False
                if code == 71:
                    g = value[count - 1]
                    codes += 1
                    if codes > 1 or not (g == 0.0 or g == 1.0 or g == 2.0 or g == 3.0):
                        plain[line] = False
                elif code not in (78, 88, 89, 90, 73, 74, 75, 82, 70):
                    plain[line] = False
                i = j
                continue
        else:
            reason = STRANGE
        if not faulty:
            faults[bad, 0], faults[bad, 1], faults[bad, 2] = line, i - begin + 1, reason
            bad += 1
            faulty = True
            plain[line] = False
        while data[i] != 10:
            i += 1
    return count, bad
