"""Tolerances of holes by their grade, and general ones after ISO 2768-1. Millimetres."""

from __future__ import annotations

from typing import Literal

from bastler.units.limits import LimitsError, fit_off

Grade = Literal["H6", "H7", "H8", "H9", "H11"]


def largest(diameter: float, grade: Grade) -> float | None:
    """The largest size that a hole may have; None beyond the table."""
    try:
        return diameter + fit_off(grade, diameter).high
    except LimitsError:
        return None


GENERAL = ((3.0, 0.1), (6.0, 0.1), (30.0, 0.2), (120.0, 0.3), (400.0, 0.5), (1000.0, 0.8), (2000.0, 1.2), (4000.0, 2.0))
"""Upper ends of the ranges of sizes, and what a size without a tolerance may be off either way (ISO 2768-1, table 1, class m)."""
LEAST_GENERAL = 0.5
"""Smaller sizes have to have their own tolerance."""


def general_tolerance(size: float) -> float | None:
    """What a size without a tolerance may be off; None where the table has none."""
    if size < LEAST_GENERAL:
        return None
    return next((by for most, by in GENERAL if size <= most), None)


EDGES = ((3.0, 0.2), (6.0, 0.5), (400.0, 1.0))
"""The same of corner radii and broken edges (ISO 2768-1, table 2, class m)."""


def general_edge(size: float) -> float | None:
    """What a corner radius or a broken edge without a tolerance may be off; None where the table has none."""
    if size < LEAST_GENERAL:
        return None
    return next((by for most, by in EDGES if size <= most), None)
