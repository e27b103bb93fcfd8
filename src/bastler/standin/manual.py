"""Axes moved by hand: legs one after the other, each along a straight line, with what is done at its end."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bastler.shapes.kinds import Floats


def nothing() -> None:
    """What is done at the end of a leg that only goes somewhere."""


@dataclass(eq=False)
class Leg:
    """A straight way of the axes by `way`, in so many `seconds`, and what is done when it is `over`."""

    way: Floats
    seconds: float
    over: Callable[[], None] = nothing
    gone: float = 0.0

    def go(self, seconds: float) -> tuple[Floats, float]:
        """Goes on for so long: by how much the axes move, and the seconds that were not used."""
        used = min(seconds, self.seconds - self.gone)
        share = used / self.seconds if self.seconds > 0 else 1.0
        self.gone += used
        return self.way * share, seconds - used

    @property
    def done(self) -> bool:
        return self.gone >= self.seconds


def leg(way: Floats, feed: float, acceleration: float, over: Callable[[], None] = nothing) -> Leg:
    """A leg at a `feed` a minute with ramps."""
    length, v = float(np.linalg.norm(way)), max(feed / 60.0, 1e-9)
    ramp = v / acceleration
    seconds = length / v + ramp if length > v * ramp else 2.0 * math.sqrt(length / acceleration)
    return Leg(way, max(seconds, 1e-3), over)


def waits(seconds: float, over: Callable[[], None]) -> Leg:
    """Nothing moves for a while."""
    return Leg(np.zeros(3), max(seconds, 1e-3), over)
