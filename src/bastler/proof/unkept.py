"""What stands of the allowances that no step takes, whatever the part is made of."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from bastler.job.promises import Where


@dataclass(frozen=True)
class Unkept:
    """What stands of an allowance of the stock that no step takes: where, how much, how high; `stays` where the machinist has
    said so; `place` (x, y, z) is where it is highest."""

    where: Where
    volume: float
    height: float
    stays: bool
    place: tuple[float, float, float]


def left_volumes(comparison: Any) -> dict[str, float]:
    """What is left, in cubic units, by who promised to take it: a step, the stock; or, said to stay, nobody."""
    unkept = comparison.unkept
    return {
        "steps": comparison.volume("left"),
        "setup": sum(u.volume for u in unkept if not u.stays),
        "said": sum(u.volume for u in unkept if u.stays),
    }
