"""Sizes as a print gives them, with their limits: `30 h6`, `52 H7`, `12 +0.05/-0.02`, `12.5 ±0.1`, `.875 +.000/-.002`.

The middle of the limits is what is cut, unless a place between them is named: `30 h6 at 29.99`. Fits are those of ISO 286-1, for
nominal sizes up to 500 mm: standard tolerances after its table 1, fundamental deviations after its tables 2 to 5.
"""

from __future__ import annotations

import math
import re
from bisect import bisect_left
from typing import NamedTuple

from bastler.language import tr
from bastler.units.kinds import MM_PER_INCH, Unit, scale

RANGES = (3.0, 6.0, 10.0, 18.0, 30.0, 50.0, 80.0, 120.0, 180.0, 250.0, 315.0, 400.0, 500.0)
"""Upper ends of the ranges of nominal sizes, in mm; a range holds its upper end."""
GRADES: dict[int, tuple[int, ...]] = {
    4: (3, 4, 4, 5, 6, 7, 8, 10, 12, 14, 16, 18, 20),
    5: (4, 5, 6, 8, 9, 11, 13, 15, 18, 20, 23, 25, 27),
    6: (6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40),
    7: (10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63),
    8: (14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97),
    9: (25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155),
    10: (40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250),
    11: (60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400),
    12: (100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630),
    13: (140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970),
}
"""Standard tolerances IT in µm (ISO 286-1, table 1)."""
BELOW: dict[str, tuple[int, ...]] = {
    "d": (20, 30, 40, 50, 65, 80, 100, 120, 145, 170, 190, 210, 230),
    "e": (14, 20, 25, 32, 40, 50, 60, 72, 85, 100, 110, 125, 135),
    "f": (6, 10, 13, 16, 20, 25, 30, 36, 43, 50, 56, 62, 68),
    "g": (2, 4, 5, 6, 7, 9, 10, 12, 14, 15, 17, 18, 20),
    "h": (0,) * 13,
}
"""By how many µm the largest shaft lies below the nominal size (ISO 286-1, table 2); holes as far above it (table 4)."""
ABOVE: dict[str, tuple[int, ...]] = {
    "k": (0, 1, 1, 1, 2, 2, 2, 3, 3, 4, 4, 4, 5),
    "m": (2, 4, 6, 7, 8, 9, 11, 13, 15, 17, 20, 21, 23),
    "n": (4, 8, 10, 12, 15, 17, 20, 23, 27, 31, 34, 37, 40),
    "p": (6, 12, 15, 18, 22, 26, 32, 37, 43, 50, 56, 62, 68),
}
"""By how many µm the smallest shaft lies above the nominal size (ISO 286-1, table 3)."""
FINER: dict[str, tuple[tuple[float, int], ...]] = {
    "r": (
        (3, 10), (6, 15), (10, 19), (18, 23), (30, 28), (50, 34), (65, 41), (80, 43), (100, 51), (120, 54), (140, 63), (160, 65),
        (180, 68), (200, 77), (225, 80), (250, 84), (280, 94), (315, 98), (355, 108), (400, 114), (450, 126), (500, 132),
    ),
    "s": (
        (3, 14), (6, 19), (10, 23), (18, 28), (30, 35), (50, 43), (65, 53), (80, 59), (100, 71), (120, 79), (140, 92), (160, 100),
        (180, 108), (200, 122), (225, 130), (250, 140), (280, 158), (315, 170), (355, 190), (400, 208), (450, 232), (500, 252),
    ),
}  # fmt: skip
"""The same of letters whose ranges are narrower: upper end in mm, µm (ISO 286-1, table 3)."""
LETTERS = ("d", "e", "f", "g", "h", "js", "k", "m", "n", "p", "r", "s")
LENGTHS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "µm": 0.001, "in": MM_PER_INCH, "inch": MM_PER_INCH, '"': MM_PER_INCH}
"""Units of length that may stand behind a number, in mm."""
_UNIT = re.compile(r"(?<=[0-9.)\s])(mm|cm|µm|inch|in|m|\")\s*\)*$", re.IGNORECASE)
"""The unit that an expression ends with, in mm."""
_NUMBER = r"(?:[0-9]+[.,]?[0-9]*|[.,][0-9]+)"
_AT = re.compile(r"^(?P<rest>.*\S)\s+at\s+(?P<at>\S.*)$", re.IGNORECASE)
_FIT = re.compile(r"^(?P<size>.*[0-9)\"mn])\s*(?P<letter>js|JS|[d-hkmnprs]|[D-HKMNPRS])(?P<grade>[0-9]{1,2})$")
_EVEN = re.compile(rf"^(?P<size>.*\S)\s*(?:±|\+\s*/\s*-)\s*(?P<by>{_NUMBER})\s*$")
_BOTH = re.compile(rf"^(?P<size>.*\S)\s*(?P<a>(?<!\S)0|[+-]\s*{_NUMBER})\s*/\s*(?P<b>[+-]\s*{_NUMBER}|0(?:[.,]0*)?)\s*$")


class LimitsError(ValueError):
    """A tolerance that there is not; the message is a whole sentence."""


class Off(NamedTuple):
    """How far a size may be off its nominal one, in the job's unit: the least and the most."""

    low: float
    high: float


class Parted(NamedTuple):
    """What was typed for a size, parted: the nominal size as an expression; how its tolerance was written, a fit or numbers; and
    the place between the limits that is aimed at, as an expression, empty for the middle."""

    size: str
    fit: str
    off: Off | None
    at: str

    def limits(self, nominal: float, unit: Unit) -> Off:
        """The smallest and the largest size, of a nominal one in the job's unit. A tolerance counts in the unit that stands
        behind the size: `12mm ±0.1` is a tenth of a millimetre in an inch job too. LimitsError for a fit that there is not."""
        off = self.off or fit_off(self.fit, nominal * scale(unit, "mm"))
        said = _UNIT.search(self.size)
        k = (LENGTHS[said[1].lower()] * scale("mm", unit) if said else 1.0) if self.off else scale("mm", unit)
        return Off(nominal + off.low * k, nominal + off.high * k)


def parted(text: str) -> Parted | None:
    """What was typed, parted into size and tolerance; None where there is no tolerance in it."""
    at = ""
    plain = text.strip().replace("−", "-")
    if found := _AT.match(plain):
        plain, at = found["rest"], found["at"]
    if found := _EVEN.match(plain):
        by = _value(found["by"])
        return Parted(found["size"], "", Off(-by, by), at)
    if found := _BOTH.match(plain):
        a, b = sorted((_value(found["a"]), _value(found["b"])))
        return Parted(found["size"], "", Off(a, b), at)
    if found := _FIT.match(plain):
        return Parted(found["size"], found["letter"] + found["grade"], None, at)
    return None


def _value(text: str) -> float:
    return float(text.replace(" ", "").replace(",", "."))


def fit_off(fit: str, nominal: float) -> Off:
    """How far a size of that fit may be off a nominal one (> 0), both in mm. Capitals are holes, small letters shafts.
    LimitsError for a fit, or a size, that is not in the tables of ISO 286-1."""
    letter = fit.rstrip("0123456789")
    grade = int(fit.removeprefix(letter) or 0)
    size = abs(nominal)
    if grade not in GRADES or letter.lower() not in LETTERS:
        raise LimitsError(tr("{fit} is no fit that is known here: letters d to s, as h6 or H7, grades 4 to 13.", fit=fit))
    if not 0.0 < size <= RANGES[-1]:
        raise LimitsError(tr("Fits are known for sizes up to {ranges:g} mm.", ranges=RANGES[-1]))
    k = bisect_left(RANGES, size)
    wide = GRADES[grade][k]
    low = _shaft(letter, grade, k, size, wide) if letter.islower() else _hole(letter, grade, k, size, wide)
    return Off(low / 1000.0, (low + wide) / 1000.0)


def _shaft(letter: str, grade: int, k: int, size: float, wide: int) -> float:
    """The lower deviation of a shaft, in µm."""
    if letter == "js":
        return -wide / 2
    if letter in BELOW:
        return -BELOW[letter][k] - wide
    if letter == "k" and not 4 <= grade <= 7:
        return 0.0
    return _over(letter, k, size)


def _hole(letter: str, grade: int, k: int, size: float, wide: int) -> float:
    """The lower deviation of a hole, in µm: as far above the nominal size as the shaft's upper one is below it; of the others
    the upper one is the shaft's lower one the other way, for close grades less by what a grade differs from the one before."""
    low = letter.lower()
    if low == "js":
        return -wide / 2
    if low in BELOW:
        return float(BELOW[low][k])
    close = grade <= (8 if low in "kmn" else 7)
    if not close and low == "k":
        raise LimitsError(tr("{letter}{grade} is no fit of ISO 286-1.", letter=letter, grade=grade))
    if not close and low == "n":
        return -wide if k else -wide - 4.0
    step = wide - GRADES[grade - 1][k] if close and k and grade - 1 in GRADES else 0
    upper = -_over(low, k, size) + step
    if letter == "M" and grade == 6 and RANGES[k] == 315.0:
        upper = -9.0  # as the table has it
    return upper - wide


def _over(letter: str, k: int, size: float) -> float:
    if letter in ABOVE:
        return float(ABOVE[letter][k])
    return float(next(by for most, by in FINER[letter] if size <= most))


def aimed(off: Off, at: float | None) -> float:
    """The size that is cut: the middle of the limits, or a place between them. LimitsError where that lies outside."""
    if at is None:
        return (off.low + off.high) / 2.0
    if not off.low - 1e-9 <= at <= off.high + 1e-9 or not math.isfinite(at):
        raise LimitsError(tr("{at:g} does not lie between the limits, {low:g} and {high:g}.", at=at, low=off.low, high=off.high))
    return at
