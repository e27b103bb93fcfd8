"""A finding of a check on a run of moves."""

from __future__ import annotations

from dataclasses import dataclass

from bastler.proof.remark import Level


@dataclass(frozen=True)
class Found:
    """A remark before it has a line: `move` counts from the section's first."""

    level: Level
    code: str
    text: str
    move: int
    amount: float = 0.0
    place: tuple[float, float, float] | None = None
