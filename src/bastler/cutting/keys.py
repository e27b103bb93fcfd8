"""Parallel keys and the keyways for them in shafts, by the shaft's diameter: DIN 6885-1 in millimetres, ASME B17.1 in inches."""

from __future__ import annotations

import math
from typing import NamedTuple


class Keyway(NamedTuple):
    """How wide a keyway is, and how deep from the top of the shaft."""

    width: float
    depth: float


DIN_6885: tuple[tuple[float, float, float], ...] = (
    (8, 2, 1.2), (10, 3, 1.8), (12, 4, 2.5), (17, 5, 3.0), (22, 6, 3.5), (30, 8, 4.0), (38, 10, 5.0), (44, 12, 5.0),
    (50, 14, 5.5), (58, 16, 6.0), (65, 18, 7.0), (75, 20, 7.5), (85, 22, 9.0), (95, 25, 9.0), (110, 28, 10.0), (130, 32, 11.0),
    (150, 36, 12.0), (170, 40, 13.0), (200, 45, 15.0), (230, 50, 17.0),
)  # fmt: skip
"""Shafts up to this diameter, width b, depth t1 (DIN 6885-1, keys of the high form), mm."""
LEAST_MM = 6.0
ASME_B17_1: tuple[tuple[float, float], ...] = (
    (0.4375, 0.09375), (0.5625, 0.125), (0.875, 0.1875), (1.25, 0.25), (1.375, 0.3125), (1.75, 0.375), (2.25, 0.5), (2.75, 0.625),
    (3.25, 0.75), (3.75, 0.875), (4.5, 1.0), (5.5, 1.25), (6.5, 1.5),
)  # fmt: skip
"""Shafts up to this diameter, width of a square key (ASME B17.1, table 1), inch."""
LEAST_INCH = 0.3125


def keyway_mm(diameter: float) -> Keyway | None:
    """The keyway of a shaft; None where the standard has none. Millimetres; a range holds its upper end."""
    if diameter <= LEAST_MM:
        return None
    return next((Keyway(width, depth) for most, width, depth in DIN_6885 if diameter <= most), None)


def keyway_inch(diameter: float) -> Keyway | None:
    """The same in inches. Half of a square key lies in the shaft, counted from where its sides come out of the round."""
    if diameter <= LEAST_INCH:
        return None
    width = next((width for most, width in ASME_B17_1 if diameter <= most), None)
    if width is None:
        return None
    crown = (diameter - math.sqrt(diameter * diameter - width * width)) / 2
    return Keyway(width, round(width / 2 + crown, 4))
