"""Equal parts: passes, rows and turns are all alike, and there is always one."""

from __future__ import annotations

import math

ROUNDED = 1e-6
"""What is over by less than this share of a part is no part of its own: sizes that people see are rounded."""


def equal_parts(whole: float, most: float, rounded: float = ROUNDED) -> int:
    """In how many equal parts no larger than `most` (> 0, the unit of `whole`) a length goes; 1 for one that is nothing or less,
    however little it is."""
    return max(1, math.ceil(whole / most - rounded))
