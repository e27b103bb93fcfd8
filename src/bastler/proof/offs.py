"""Left and gouged by amount: classes for the colours of the solid view, the same steps on every kind of plane."""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.shapes.kinds import Floats
from bastler.units import Unit

STEPS: dict[Unit, tuple[float, ...]] = {"mm": (0.01, 0.05, 0.2, 1.0, 5.0), "inch": (0.0005, 0.002, 0.01, 0.05, 0.2)}
"""From so much on a place is of a class, in the job's unit."""


def classes(off: Floats, unit: Unit) -> Any:
    """The class of each amount, int8: 0 for less than the first step, 1 and on for so many steps over the finished part, -1 and
    on for as many below it."""
    found = np.searchsorted(np.array(STEPS[unit]), np.abs(off), side="right").astype(np.int8)
    return np.where(off < 0, -found, found).astype(np.int8)
