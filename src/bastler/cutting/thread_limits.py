"""Between which sizes a thread has to lie, by its tolerance class, and what is measured over wires or between balls.

Sources: ISO 965-1 (metric; its formulas for deviations and tolerances, rounded to the series R 40, with the few values of its
tables that are no such rounding), ISO 2903 (trapezoidal, the same formulas), ASME B1.1 (unified), ISO 228-1 (G), DIN 2269
(wires). Lengths in mm, tolerances worked out in µm or inches as their standards do.
"""

from __future__ import annotations

import math
from bisect import bisect_left

import msgspec

from bastler.cutting.thread_names import INCH
from bastler.cutting.thread_tables import PIPE_MINOR, PIPE_TOLERANCE
from bastler.cutting.threads import Thread

Limits = tuple[float, float]
"""The smallest and the largest."""
RANGES = (0.99, 1.4, 2.8, 5.6, 11.2, 22.4, 45.0, 90.0, 180.0, 355.0)
"""Diameters in mm whose tolerances are those of their geometric mean (ISO 965-1)."""
R40 = (
    1.0, 1.06, 1.12, 1.18, 1.25, 1.32, 1.4, 1.5, 1.6, 1.7, 1.8, 1.9, 2.0, 2.12, 2.24, 2.36, 2.5, 2.65, 2.8, 3.0, 3.15, 3.35, 3.55,
    3.75, 4.0, 4.25, 4.5, 4.75, 5.0, 5.3, 5.6, 6.0, 6.3, 6.7, 7.1, 7.5, 8.0, 8.5, 9.0, 9.5,
)  # fmt: skip
"""Preferred numbers (ISO 3)."""
GRADES = {3: -12, 4: -8, 5: -4, 6: 0, 7: 4, 8: 8, 9: 12}
"""Steps of R 40 from grade 6 to the others: 0.5, 0.63, 0.8, 1, 1.25, 1.6, 2 (ISO 965-1)."""
NUT_STEPS = 5
"""A nut's pitch diameter has 1.32 times a bolt's tolerance: as many steps more (ISO 965-1)."""
PITCH_TABLE: dict[tuple[float, float], float] = {(2.8, 0.5): 75.0, (45.0, 5.0): 250.0}
"""Tolerances of grade 6 that the table of ISO 965-1 has otherwise than its formula, by the lower end of the range and pitch."""
MAJOR_TABLE = {4.0: 475.0}
MINOR_TABLE = {0.5: 140.0, 1.0: 236.0, 2.5: 450.0}
OFF_TABLE: dict[str, dict[float, float]] = {
    "g": {
        0.2: 17, 0.25: 18, 0.3: 18, 0.35: 19, 0.4: 19, 0.45: 20, 0.5: 20, 0.6: 21, 0.7: 22, 0.75: 22, 0.8: 24, 1.0: 26, 1.25: 28,
        1.5: 32, 1.75: 34, 2.0: 38, 2.5: 42, 3.0: 48, 3.5: 53, 4.0: 60, 4.5: 63, 5.0: 71, 5.5: 75, 6.0: 80, 8.0: 100,
    },
}  # fmt: skip
"""Fundamental deviations in µm by pitch (ISO 965-1); of other pitches and letters they follow from the formulas."""
WIRES = (
    0.17, 0.195, 0.22, 0.25, 0.29, 0.335, 0.39, 0.455, 0.53, 0.62, 0.725, 0.895, 1.1, 1.35, 1.65, 2.05, 2.55, 3.2, 4.0, 5.0, 6.35,
)  # fmt: skip
"""Diameters of measuring wires (DIN 2269)."""


class ThreadLimits(msgspec.Struct, frozen=True):
    """Of a bolt or a nut in a tolerance class: the limits of its pitch diameter and of its crest, the bolt's major or the nut's
    minor diameter; in mm."""

    fit: str
    pitch: Limits
    crest: Limits

    @property
    def middle(self) -> float:
        """The pitch diameter that is aimed at."""
        return sum(self.pitch) / 2


def limits_of(thread: Thread, *, inside: bool) -> ThreadLimits | None:
    """The limits of a thread in its class, or in the one that is meant where none is named: 6g and 6H, 7e and 7H, 2A and 2B. None
    where the standard has no such class, or limits by gauges alone."""
    if thread.family in ("metric", "trapezoidal"):
        return _metric(thread, inside=inside)
    if thread.family == "unified":
        return _unified(thread, inside=inside)
    if thread.family == "pipe":
        return _pipe(thread, inside=inside)
    return None


# -- metric and trapezoidal -------------------------------------------------------------------------------------------


def _metric(thread: Thread, *, inside: bool) -> ThreadLimits | None:
    usual = {"metric": "6g6H", "trapezoidal": "7e7H"}[thread.family]
    own = next((part for part in thread.fit.split("/") if part[-1:].isupper() == inside), "") if thread.fit else ""
    fit = own or (usual[2:] if inside else usual[:2])
    pitch_grade, letter = int(fit[0]), fit[1]
    crest_grade = int(fit[2]) if len(fit) == 4 else pitch_grade
    if thread.family == "trapezoidal":
        crest_grade = 4  # whatever the class (ISO 2903)
    p = thread.pitch
    off = _deviation(letter, p)
    low = next((r for r in reversed(RANGES) if r < thread.major + 1e-9), None)
    if off is None or pitch_grade not in GRADES or crest_grade not in GRADES or low is None or thread.major > RANGES[-1]:
        return None
    wide = _r40(_pitch_six(low, p), GRADES[pitch_grade] + (NUT_STEPS if inside else 0)) / 1000.0
    high = _r40(_minor_six(p) if inside else _major_six(p), GRADES[crest_grade]) / 1000.0
    if inside:
        d2, d1 = thread.pitch_diameter + off, thread.bore + off
        return ThreadLimits(fit, (d2, d2 + wide), (d1, d1 + high))
    d2, d = thread.pitch_diameter - off, thread.major - (off if thread.family == "metric" else 0.0)
    return ThreadLimits(fit, (d2 - wide, d2), (d - high, d))


def _deviation(letter: str, p: float) -> float | None:
    """How far the profile lies off the basic one, into the material, in mm (ISO 965-1); None for a letter that is none."""
    if letter in "hH":
        return 0.0
    base = {"g": 15.0, "f": 30.0, "e": 50.0}.get(letter.lower())
    if base is None or letter in "FE":
        return None
    return OFF_TABLE.get(letter.lower(), {}).get(p, _r40(base + 11 * p)) / 1000.0


def _pitch_six(low: float, p: float) -> float:
    """Of a bolt's pitch diameter in grade 6, in µm: 90 P^0.4 d^0.1, d the mean of a range that begins with `low`."""
    high = RANGES[RANGES.index(low) + 1]
    return PITCH_TABLE.get((low, p), 90.0 * math.pow(p, 0.4) * math.pow(low * high, 0.05))


def _major_six(p: float) -> float:
    """Of a bolt's major diameter in grade 6, in µm: 180 P^(2/3) - 3.15 / √P."""
    return MAJOR_TABLE.get(p, 180.0 * math.pow(p, 2 / 3) - 3.15 / math.sqrt(p))


def _minor_six(p: float) -> float:
    """Of a nut's minor diameter in grade 6, in µm: 230 P^0.7, below 1 mm 433 P - 190 P^1.22."""
    return MINOR_TABLE.get(p, 230.0 * math.pow(p, 0.7) if p >= 1.0 else 433.0 * p - 190.0 * math.pow(p, 1.22))


def _r40(value: float, steps: int = 0) -> float:
    """The nearest preferred number, or the one so many steps from it."""
    ten = 10.0 ** math.floor(math.log10(value))
    series = (*R40, 10.0)
    at = min(range(len(series)), key=lambda k: (abs(series[k] - value / ten), -k)) + steps
    return R40[at % len(R40)] * ten * 10.0 ** (at // len(R40))


# -- unified ----------------------------------------------------------------------------------------------------------


def _unified(thread: Thread, *, inside: bool) -> ThreadLimits | None:
    """ASME B1.1, for an engaged length of the diameter (UNC, UNF) or of nine pitches; in inches of four decimals, as its
    tables are."""
    d, p = thread.major / INCH, thread.pitch / INCH
    fit = thread.fit.upper() if thread.fit and (thread.fit[-1] in "Bb") == inside else ("2B" if inside else "2A")
    share = {"1": 1.5, "2": 1.0, "3": 0.75}[fit[0]]
    long = d if thread.name.split("-")[1].split()[1][:3] in ("UNC", "UNF") else 9 * p
    two_a = 0.0015 * d ** (1 / 3) + 0.0015 * math.sqrt(long) + 0.015 * p ** (2 / 3)
    if inside:
        wide = round(1.3 * two_a * share, 4)
        deep = round(_minor_tolerance(d, p, fine=fit[0] == "3"), 4)
        d2, d1 = thread.pitch_diameter, thread.bore
        return ThreadLimits(fit, (d2, d2 + wide * INCH), (d1, d1 + deep * INCH))
    allow = 0.0 if fit[0] == "3" else round(0.3 * two_a, 4)
    crest = round((0.09 if fit[0] == "1" else 0.06) * p ** (2 / 3), 4)
    d2, top = thread.pitch_diameter - allow * INCH, thread.major - allow * INCH
    return ThreadLimits(fit, (d2 - round(two_a * share, 4) * INCH, d2), (top - crest * INCH, top))


def _minor_tolerance(d: float, p: float, *, fine: bool) -> float:
    """Of a nut's minor diameter, in inches."""
    three = 0.05 * math.pow(p, 2 / 3) + 0.03 * p / d - 0.002
    if fine:
        return min(max(three, 0.23 * p - 1.5 * p * p), 0.394 * p)
    if d < 0.25:
        return min(max(three, 0.25 * p - 0.4 * p * p), 0.394 * p)
    return 0.15 * p if 1 / p < 4 else 0.25 * p - 0.4 * p * p


def _pipe(thread: Thread, *, inside: bool) -> ThreadLimits | None:
    """ISO 228-1: nuts and bolts of class A have the same tolerance, bolts of class B twice that; class A where none is named."""
    size = thread.name.split()[1:]
    wide = PIPE_TOLERANCE.get(" ".join(part for part in size if part not in ("A", "B", "LH")))
    if wide is None or thread.name.startswith("Rp"):
        return None
    d2 = thread.pitch_diameter
    if inside:
        return ThreadLimits("nut", (d2, d2 + wide), (thread.bore, thread.bore + PIPE_MINOR[wide]))
    fit = thread.fit or "A"
    return ThreadLimits(fit, (d2 - wide * (2 if fit == "B" else 1), d2), (thread.major - 2 * wide, thread.major))


# -- measuring --------------------------------------------------------------------------------------------------------


def wire_for(thread: Thread) -> float:
    """The wire or ball that is measured with: of those there are the smallest that touches the flanks no deeper than on the pitch
    line, where the best one, P / (2 cos α), does; of a buttress the one whose middle is on that line. In mm."""
    best = thread.pitch / (2.0 * math.cos(math.radians(thread.angle / 2)))
    if thread.steep:
        best = thread.pitch / thread.opens / (_over_wire(thread) - 1.0)
    k = bisect_left(WIRES, best - 1e-9)
    return WIRES[k] if k < len(WIRES) else round(best, 2)


def over_wires(thread: Thread, wire: float, pitch_diameter: float) -> float:
    """What is measured over three wires on a bolt of that pitch diameter, in mm: d2 + w (1 + cos ((α - β) / 2) / sin ((α + β) /
    2)) - P / (tan α + tan β), α and β the flanks' angles; of equal ones d2 + w (1 + 1 / sin α) - P / 2 cot α (Machinery's
    Handbook; the lead is left out, as it is there)."""
    return pitch_diameter + wire * _over_wire(thread) - thread.pitch / thread.opens


def between_balls(thread: Thread, ball: float, pitch_diameter: float) -> float:
    """What is measured between balls in a nut of that pitch diameter, in mm: as over wires, the other way."""
    return pitch_diameter - ball * _over_wire(thread) + thread.pitch / thread.opens


def _over_wire(thread: Thread) -> float:
    """How far the far sides of two wires lie apart beyond the points of the sharp grooves they lie in, in wires."""
    a, b = (math.radians(flank) for flank in thread.flanks)
    return 1.0 + math.cos((a - b) / 2) / math.sin((a + b) / 2)
