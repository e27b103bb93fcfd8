"""Where a size ends on a part."""

from __future__ import annotations

from dataclasses import dataclass

from bastler.proof.gauge import GaugeEnd

SAME_MM = 0.003
"""What differs no more from an answer is that answer."""


@dataclass(frozen=True)
class Ends:
    """The faces of a size, and how much it grows where each stands further out. Across something `round` it is measured on the
    middle. What is a `place` along an axis goes with the zero."""

    ends: tuple[GaugeEnd, ...]
    grows: tuple[float, ...]
    round: bool = False
    place: bool = False
