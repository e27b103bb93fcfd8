"""Threads by their names, with the diameters the standards give.

Sources: ISO 68-1 / ISO 261 / ISO 724 (metric, 60°: D1 = d - 1.082532 P; root of the bolt d3 = d - 1.226869 P), ASME B1.1
(unified, same profile), ISO 228-1 (G, 55°: h = 0.640327 P), ISO 7-1 (R, the same profile on a taper of 1 : 16), ISO 2904
(trapezoidal, 30°: d3 = d - P - 2 ac). Lengths in millimetres.
"""

from __future__ import annotations

import math
import re
from typing import Literal

import msgspec

INCH = 25.4
COARSE: dict[float, float] = {
    1.6: 0.35, 2: 0.4, 2.5: 0.45, 3: 0.5, 3.5: 0.6, 4: 0.7, 5: 0.8, 6: 1, 7: 1, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2, 16: 2, 18: 2.5,
    20: 2.5, 22: 2.5, 24: 3, 27: 3, 30: 3.5, 33: 3.5, 36: 4, 39: 4, 42: 4.5, 45: 4.5, 48: 5, 52: 5, 56: 5.5, 60: 5.5, 64: 6,
}  # fmt: skip
"""Metric coarse pitches (ISO 261)."""
UNIFIED: dict[str, tuple[float, int, int]] = {
    "1/4": (0.25, 20, 28), "5/16": (0.3125, 18, 24), "3/8": (0.375, 16, 24), "7/16": (0.4375, 14, 20), "1/2": (0.5, 13, 20),
    "9/16": (0.5625, 12, 18), "5/8": (0.625, 11, 18), "3/4": (0.75, 10, 16), "7/8": (0.875, 9, 14), "1": (1.0, 8, 12),
    "1 1/8": (1.125, 7, 12), "1 1/4": (1.25, 7, 12), "1 1/2": (1.5, 6, 12),
}  # fmt: skip
"""Diameter in inches, threads an inch coarse (UNC) and fine (UNF) (ASME B1.1)."""
NUMBERED: dict[int, tuple[int, int]] = {
    0: (0, 80), 1: (64, 72), 2: (56, 64), 3: (48, 56), 4: (40, 48), 5: (40, 44), 6: (32, 40), 8: (32, 36), 10: (24, 32),
    12: (24, 28),
}  # fmt: skip
"""Threads an inch, coarse and fine, of the numbered sizes; number k is 0.060 + 0.013 k inches (ASME B1.1)."""
PIPE: dict[str, tuple[float, int, float]] = {
    "1/8": (9.728, 28, 4.0), "1/4": (13.157, 19, 6.0), "3/8": (16.662, 19, 6.4), "1/2": (20.955, 14, 8.2),
    "3/4": (26.441, 14, 9.5), "1": (33.249, 11, 10.4), "1 1/4": (41.910, 11, 12.7), "1 1/2": (47.803, 11, 12.7),
    "2": (59.614, 11, 15.9),
}  # fmt: skip
"""Major diameter in mm and threads an inch (ISO 228-1, ISO 7-1), and the gauge length of a taper thread in mm: so far behind the
front of an outside thread its diameters are those of the table (ISO 7-1, basic gauge lengths)."""
CREST_CLEARANCE = ((1.5, 0.15), (5.0, 0.25), (12.0, 0.5), (44.0, 1.0))
"""Trapezoidal threads: up to this pitch, this clearance ac (ISO 2904)."""
TAPER = 1.0 / 16.0
"""Of an R thread, on the diameter (ISO 7-1)."""
WHOLE = {60.0: 1.299038, 55.0: 2 * 0.640327}
"""Twice the depth of a whole thread in pitches, by its angle: 3/4 of the sharp triangle at 60° (the basis of "percentage of
thread" in the tables of tap drills, Machinery's Handbook), the whole profile at 55° (ISO 228-1)."""
Family = Literal["metric", "unified", "pipe", "taper-pipe", "trapezoidal"]


class ThreadNameError(ValueError):
    """What was typed is no thread; the message says what would be."""


class Thread(msgspec.Struct, frozen=True):
    """A thread in mm: `major` diameter of the bolt, `pitch`, profile `angle` in degrees, `taper` on the diameter.

    `root` is the minor diameter of the bolt, `bore` that of the nut, `nut_major` the major diameter of the nut. Of a taper thread
    all are those at the gauge plane: on the bolt `gauge` behind the front, in the nut at its face.
    """

    name: str
    family: Family
    major: float
    pitch: float
    angle: float
    root: float
    bore: float
    nut_major: float
    taper: float = 0.0
    gauge: float = 0.0

    @property
    def pitch_diameter(self) -> float:
        """Where ridge and groove are equally wide, half a pitch each (ISO 724: d2 = d - 0.649519 P; ISO 228-1: d - 0.640327 P;
        ISO 2904: d - 0.5 P)."""
        return self.major - {60.0: 0.649519, 55.0: 0.640327, 30.0: 0.5}[self.angle] * self.pitch

    @property
    def flat(self) -> float:
        """How wide a bolt's groove is on its floor, between the flanks; of a trapezoidal one 0.366 P - 0.536 ac (ISO 2904)."""
        half = math.tan(math.radians(self.angle / 2))
        return self.pitch / 2 - (self.pitch_diameter - self.root) * half

    def tip_depth(self, flat: float, *, inside: bool) -> float:
        """How far beyond the pitch line a tip goes that is `flat` wide, so that the groove is half a pitch wide on it; in mm. Of
        a trapezoidal thread it is the standard's depth, and the groove is widened."""
        if self.family == "trapezoidal":
            return (self.nut_major - self.pitch_diameter) / 2 if inside else (self.pitch_diameter - self.root) / 2
        return (self.pitch / 2 - flat) / (2 * math.tan(math.radians(self.angle / 2)))

    def least_tip_depth(self, *, inside: bool) -> float:
        """How far beyond the pitch line a groove has to go so that the other part's crest finds room; in mm."""
        return (self.major - self.pitch_diameter) / 2 if inside else (self.pitch_diameter - self.bore) / 2

    def drill(self, percent: float) -> float:
        """The hole that leaves so much of the thread, 0 < percent <= 100."""
        return self.major - percent / 100.0 * self._whole

    def percent(self, hole: float) -> float:
        """How much of the thread a hole leaves."""
        return (self.major - hole) / self._whole * 100.0

    @property
    def _whole(self) -> float:
        return WHOLE.get(self.angle, WHOLE[60.0]) * self.pitch


_METRIC = re.compile(r"^M\s*([0-9.]+)(?:\s*[X×*]\s*([0-9.]+))?$")
_TRAPEZOIDAL = re.compile(r"^TR\s*([0-9.]+)\s*[X×*]\s*([0-9.]+)$")
_PIPE = re.compile(r"^(G|R)\s*([0-9]+(?:\s+[0-9]+/[0-9]+|/[0-9]+)?)$")
_NUMBERED = re.compile(r"^(?:#|NO\.?)\s*([0-9]+)\s*-\s*([0-9]+)(?:\s*(UNC|UNF|UN))?$")
_UNIFIED = re.compile(r"^([0-9]+(?:\s+[0-9]+/[0-9]+|/[0-9]+)?)\s*-\s*([0-9]+)(?:\s*(UNC|UNF|UN|UNEF))?$")


def thread_of(name: str) -> Thread:
    """The thread of a name: M12, M42 × 1.5, 1/2-13 UNC, #10-24, G 3/4, R 1/2, Tr 40 × 7. ThreadNameError for anything else."""
    plain = " ".join(name.upper().replace(",", ".").replace("″", "").replace('"', "").split())
    if match := _METRIC.match(plain):
        return _metric(*match.groups())
    if match := _TRAPEZOIDAL.match(plain):
        return _trapezoidal(float(match[1]), float(match[2]))
    if match := _PIPE.match(plain):
        return _pipe(match[1], match[2])
    if match := _NUMBERED.match(plain):
        return _numbered(int(match[1]), int(match[2]))
    if match := _UNIFIED.match(plain):
        return _unified(match[1], int(match[2]))
    raise ThreadNameError("Write it as M12, M42 × 1.5, 1/2-13 UNC, G 3/4, R 1/2 or Tr 40 × 7.")


def _metric(size: str, pitch: str | None) -> Thread:
    d = _number(size)
    p = _number(pitch) if pitch else COARSE.get(d)
    if p is None:
        raise ThreadNameError(f"M{d:g} has no coarse pitch in ISO 261; write the pitch too.")
    _sound(d, p)
    shown = f"M{d:g}" if COARSE.get(d) == p else f"M{d:g} × {p:g}"
    return Thread(shown, "metric", d, p, 60.0, d - 1.226869 * p, d - 1.082532 * p, d)


def _unified(size: str, tpi: int) -> Thread:
    if tpi <= 0:
        raise ThreadNameError("Threads an inch have to be more than 0.")
    d, p = _fraction(size) * INCH, INCH / tpi
    _sound(d, p)
    known = UNIFIED.get(size, (0.0, 0, 0))
    kind = "UNC" if tpi == known[1] else "UNF" if tpi == known[2] else "UN"
    return Thread(f"{size}-{tpi} {kind}", "unified", d, p, 60.0, d - 1.226869 * p, d - 1.082532 * p, d)


def _numbered(number: int, tpi: int) -> Thread:
    if number not in NUMBERED or tpi <= 0:
        raise ThreadNameError(f"Numbered sizes are {', '.join(f'#{k}' for k in NUMBERED)}.")
    d, p = (0.060 + 0.013 * number) * INCH, INCH / tpi
    _sound(d, p)
    coarse, fine = NUMBERED[number]
    kind = "UNC" if tpi == coarse else "UNF" if tpi == fine else "UN"
    return Thread(f"#{number}-{tpi} {kind}", "unified", d, p, 60.0, d - 1.226869 * p, d - 1.082532 * p, d)


def _pipe(letter: str, size: str) -> Thread:
    if size not in PIPE:
        raise ThreadNameError(f"{letter} {size} is not in the table; there are {', '.join(PIPE)}.")
    d, tpi, gauge = PIPE[size]
    p = INCH / tpi
    small = d - 2 * 0.640327 * p
    taper = TAPER if letter == "R" else 0.0
    family: Family = "taper-pipe" if taper else "pipe"
    return Thread(f"{letter} {size}", family, d, p, 55.0, small, small, d, taper, gauge if taper else 0.0)


def _trapezoidal(d: float, p: float) -> Thread:
    _sound(d, p)
    ac = next((c for most, c in CREST_CLEARANCE if p <= most), 1.0)
    return Thread(f"Tr {d:g} × {p:g}", "trapezoidal", d, p, 30.0, d - p - 2 * ac, d - p, d + 2 * ac)


def _sound(d: float, p: float) -> None:
    if not (0.05 <= p <= 50 and 0.5 <= d <= 2000 and d > 1.3 * p):
        raise ThreadNameError("A thread this size does not exist.")


def _number(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise ThreadNameError(f"“{text}” is not a number.") from None
    return value


def _fraction(text: str) -> float:
    whole = 0.0
    for part in text.split():
        top, _, bottom = part.partition("/")
        if bottom and int(bottom) == 0:
            raise ThreadNameError("Nothing can be divided by zero.")
        whole += int(top) / int(bottom) if bottom else int(top)
    return whole


def bites(depth: float, first: float, least: float, last: float, springs: int) -> list[float]:
    """How deep each pass goes, from the start: equal areas, so with the square root of its number; no bite under `least`, the
    last one `last`, then `springs` passes that take no more. Lengths in one unit, all depths > 0 and first <= depth.
    """
    rough = max(depth - last, 0.0)
    found: list[float] = []
    k, at = 1, 0.0
    while at < rough - 1e-9 and k < 500:
        at = min(max(first * math.sqrt(k), at + least), rough)
        found.append(at)
        k += 1
    if last > 0:
        found.append(depth)
    elif found:
        found[-1] = depth
    return found + [depth] * springs


def passes_of(depth: float, first: float, least: float, last: float) -> float:
    """About how many passes `bites` makes: never fewer than by equal areas and by the least bite."""
    rough = max(depth - last, 0.0)
    by_area = (rough / first) ** 2 if first > 0 else math.inf
    return min(by_area, rough / least) if least > 0 else by_area


def largest_bite(pitch: float) -> float:
    """The deepest first pass of a thread that a single point bears in steel, in mm on the radius, for a pitch in mm:
    0.2 + 0.06 P, a round figure of our own workshop on the careful side (0.29 for P 1.5, 0.56 for P 6)."""
    return 0.2 + 0.06 * pitch
