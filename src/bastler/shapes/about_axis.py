"""What turning has left of a part, along its axis: how far out it stands at every place."""

from __future__ import annotations

import math
from abc import abstractmethod

import msgspec
import numpy as np

from bastler.shapes.kinds import Floats, Region
from bastler.shapes.shoulders import envelope, lines_of

BLUNT = math.radians(12.0)
"""Where a profile bends by more there is an edge."""


class AboutAxis(msgspec.Struct, frozen=True):
    """What stands of a turned part about the x axis: `profile` holds (x, radius) from the back to the front, straight from each
    to the next, a step as two at one x. Beyond its ends there is nothing."""

    profile: tuple[tuple[float, float], ...]

    @property
    def radius(self) -> float:
        """Where it is widest."""
        return max(r for _, r in self.profile)

    @property
    def floor(self) -> float:
        """Of the deepest place that is seen: the axis."""
        return 0.0

    @abstractmethod
    def heights(self, points: Floats) -> Floats:
        """Height at points (n, 2); infinite beside the part."""

    def at(self, x: float, y: float) -> float:
        """Height of what is left at a point; infinite beside the part."""
        return float(self.heights(np.array([(x, y)]))[0])

    def steps(self) -> list[tuple[Region, float]]:
        """What is drawn of it: it is one piece, with lines where it has edges."""
        return []

    def edges(self) -> list[tuple[float, float]]:
        """Where there is an edge round it, and its radius: (x, radius)."""
        found: list[tuple[float, float]] = []
        for before, (x, r), after in zip(self.profile, self.profile[1:], self.profile[2:], strict=False):
            if abs(_slope(before, (x, r)) - _slope((x, r), after)) > BLUNT:
                if found and found[-1][0] == x:
                    found[-1] = (x, max(found[-1][1], r))
                else:
                    found.append((x, r))
        return found


def profile_of(section: Region) -> tuple[tuple[float, float], ...]:
    """That of a half section (z, r) that is not empty: everywhere its outermost place. Bores are not seen from outside."""
    a, b = lines_of(section)
    z0, _, z1, r1 = section.bounds  # a section too thin to have lines along it is as wide as it is high
    return envelope(a, b, np.unique(a[:, 0]), 0.0) or ((z0, r1), (z1, r1))


def _slope(a: tuple[float, float], b: tuple[float, float]) -> float:
    return math.atan2(b[1] - a[1], b[0] - a[0])
