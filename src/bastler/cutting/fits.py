"""Tolerances of holes after ISO 286-1: H6 to H11 up to 180 mm; and general ones after ISO 2768-1. Millimetres."""

from __future__ import annotations

from typing import Literal

Grade = Literal["H6", "H7", "H8", "H9", "H11"]
RANGES = (3.0, 6.0, 10.0, 18.0, 30.0, 50.0, 80.0, 120.0, 180.0)
"""Upper ends of the ranges of diameters; a range holds its upper end."""
WIDTHS: dict[Grade, tuple[int, ...]] = {
    "H6": (6, 8, 9, 11, 13, 16, 19, 22, 25),
    "H7": (10, 12, 15, 18, 21, 25, 30, 35, 40),
    "H8": (14, 18, 22, 27, 33, 39, 46, 54, 63),
    "H9": (25, 30, 36, 43, 52, 62, 74, 87, 100),
    "H11": (60, 75, 90, 110, 130, 160, 190, 220, 250),
}
"""Standard tolerances IT in µm (ISO 286-1, table 1). H begins at the nominal size."""


def largest(diameter: float, grade: Grade) -> float | None:
    """The largest size that a hole may have; None beyond the table."""
    width = next((w for most, w in zip(RANGES, WIDTHS[grade], strict=True) if diameter <= most), None)
    return None if width is None else diameter + width / 1000.0


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
