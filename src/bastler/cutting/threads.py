"""Threads: their profiles, and how deep each pass goes. `thread_names` tells them by their names.

Sources: ISO 68-1 / ISO 724 (metric, 60°: D1 = d - 1.082532 P; root of the bolt d3 = d - 1.226869 P), ASME B1.1 (unified, same
profile), ISO 228-1 (G, 55°: h = 0.640327 P), ISO 7-1 (R, the same profile on a taper of 1 : 16), ISO 2904 (trapezoidal, 30°:
d3 = d - P - 2 ac), DIN 513-1 and ASME B1.9 (buttress). Lengths in millimetres.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec

WHOLE = {60.0: 1.299038, 55.0: 2 * 0.640327}
"""Twice the depth of a whole thread in pitches, by its angle: 3/4 of the sharp triangle at 60° (the basis of "percentage of
thread" in the tables of tap drills, Machinery's Handbook), the whole profile at 55° (ISO 228-1)."""
Family = Literal[
    "metric",
    "unified",
    "pipe",
    "taper-pipe",
    "trapezoidal",
    "npt",
    "nptf",
    "whitworth",
    "acme",
    "stub-acme",
    "knuckle",
    "buttress",
    "own",
]
DEEP_BY_STANDARD = ("trapezoidal", "nptf", "acme", "stub-acme", "knuckle", "buttress", "own")
"""Of these the depth is fixed, and a groove wider than the tip is widened; of the others the tip's flat makes the depth."""


class Thread(msgspec.Struct, frozen=True):
    """A thread in mm: `major` diameter of the bolt, `pitch` from groove to groove, profile `angle` in degrees, `taper` on the
    diameter, of which `starts` threads run side by side, right-handed or `left`.

    `root` is the minor diameter of the bolt, `bore` that of the nut, `nut_major` the major diameter of the nut, `pitch_diameter`
    where ridge and groove are equally wide, half a pitch each. Of a taper thread all are those at the gauge plane: on the bolt
    `gauge` behind the front, in the nut at its face. `fit` is the tolerance class as it was written; `only` the side that the
    name is of, empty for both. `steep` is the angle from square of the flank that bears, where the two differ, 0 elsewhere;
    `play` how much larger the pitch diameter of the nut is than the bolt's; `rounding` the radius of a round root in pitches, on
    the bolt and in the nut, 0 where that is flat.
    """

    name: str
    family: Family
    major: float
    pitch: float
    angle: float
    root: float
    bore: float
    nut_major: float
    pitch_diameter: float
    taper: float = 0.0
    gauge: float = 0.0
    starts: int = 1
    left: bool = False
    fit: str = ""
    only: Literal["", "outside", "inside"] = ""
    steep: float = 0.0
    play: float = 0.0
    rounding: tuple[float, float] = (0.0, 0.0)

    @property
    def flanks(self) -> tuple[float, float]:
        """The angles of both flanks from square, the one that bears first, in degrees."""
        return (self.steep, self.angle - self.steep) if self.steep else (self.angle / 2, self.angle / 2)

    @property
    def opens(self) -> float:
        """How much wider a groove is for every length nearer to its mouth: the tangents of both flanks."""
        return sum(math.tan(math.radians(flank)) for flank in self.flanks)

    @property
    def lead(self) -> float:
        """How far a turn leads, in mm."""
        return self.pitch * self.starts

    @property
    def flat(self) -> float:
        """How wide a bolt's groove is on its floor, between the flanks; of a trapezoidal one 0.366 P - 0.536 ac (ISO 2904)."""
        return self.pitch / 2 - (self.pitch_diameter - self.root) / 2 * self.opens

    def root_radius(self, *, inside: bool) -> float:
        """The radius that a round root has, where the tip goes, in mm; 0 for a flat one."""
        return self.rounding[inside] * self.pitch

    @property
    def deep_by_standard(self) -> bool:
        """Is the depth fixed, whatever the tip?"""
        return self.family in DEEP_BY_STANDARD

    def tip_depth(self, flat: float, *, inside: bool) -> float:
        """How far beyond the pitch line a tip goes that is `flat` wide, so that the groove is half a pitch wide on it; in mm.
        Where the standard says how deep, it is that, and the groove is widened."""
        if self.deep_by_standard:
            return (self.nut_major - self.pitch_diameter) / 2 if inside else (self.pitch_diameter - self.root) / 2
        return (self.pitch / 2 - flat) / self.opens

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
