"""What the rays alone can say of the finished part: what tools took that nobody wants gone, and what still stands of what goes
round.

The walls that a tool leaves which goes round a part are parallel to its axis: as an angle a groove is a little wider at its floor
than on the round. Its flat end touches a round in one line, and beside that the floor is higher. Both are how such a groove is,
and no fault.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bastler.proof.mill.compare import FLOOR_TOLERANCE_MM
from bastler.proof.polar.compared import opened
from bastler.proof.polar.dexels import Dexels, boundary
from bastler.proof.polar.sweeping import missing, round_prism, standing
from bastler.proof.turn.compare import DrivenFault
from bastler.proof.turn.scene import TurnScene, WantedRound
from bastler.shapes import Flat
from bastler.shapes.kinds import Region

BESIDE_CELLS = 2.0
"""So many cells beside a wall a ray that goes along with it may or may not be gone."""
LEAST_MM = 0.05
"""Less than this along a ray is rounding."""


@dataclass(frozen=True)
class _Place:
    """A ray's own place."""

    ray: int
    slab: int
    radius: float

    def on(self, rays: Dexels) -> tuple[float, float, float]:
        angle = (self.ray + 0.5) * 2 * math.pi / len(rays.count)
        z = float(rays.edges[self.slab] + rays.edges[self.slab + 1]) / 2
        return self.radius * math.cos(angle), self.radius * math.sin(angle), z


def gouged(now: Dexels, wanted: Region, scene: TurnScene, before: Dexels | None = None) -> DrivenFault | None:
    """What is gone of the wanted half section, or of what of it was there `before`, and no step may take; None where nothing
    is."""
    whole, mm = before if before is not None else now.like(wanted), scene.mm
    for side, steps in scene.planes.items():
        for step in steps:
            for region, floor in opened(step.removals, BESIDE_CELLS * now.cell, FLOOR_TOLERANCE_MM * mm):
                whole.open(region, floor, side)
    for one in scene.rounds:
        for region, floor in opened(one.removals, _beside(one, now), FLOOR_TOLERANCE_MM * mm):
            for begin in one.angles:
                lines = boundary(region)
                round_prism(whole.lo, whole.hi, whole.count, whole.edges, lines, floor, one.around, math.radians(begin), one.wide)
    least = LEAST_MM * mm
    volume, deep, ray, slab, radius = missing(whole.lo, whole.hi, whole.count, now.lo, now.hi, now.count, whole.edges, least)
    return DrivenFault("gouge", volume, deep, _Place(ray, slab, radius).on(now)) if deep > least else None


def _beside(one: WantedRound, now: Dexels) -> float:
    """So far beside a wall of what goes round it is not known what should be there: a cutter is as wide as it is, wherever the
    round is measured that it is drawn on."""
    return BESIDE_CELLS * now.cell + one.wide * abs(now.outer / one.around - 1.0)


def left_round(now: Dexels, rounds: Sequence[WantedRound], mm: float) -> list[DrivenFault]:
    """What still stands of what goes round, by step."""
    found = []
    for one in rounds:
        volume, most, at = 0.0, 0.0, _Place(0, 0, 0.0)
        for removal in one.removals:
            if not isinstance(removal, Flat):
                continue  # lettering and broken edges are finer than rays
            region = removal.region.buffer(-_beside(one, now))
            floor = math.hypot(removal.floor, one.wide)  # a flat end beside its middle
            for begin in one.angles:
                told = standing(
                    now.lo, now.hi, now.count, now.edges, boundary(region), floor, one.around, math.radians(begin), LEAST_MM * mm
                )
                volume += told[0]
                if told[1] > most:
                    most, at = told[1], _Place(*told[2:])
        if most > 0.0:
            found.append(DrivenFault("left", volume, most, at.on(now), one.step))
    return found


def angle_of(place: tuple[float, float, float]) -> float:
    """C at a place, in degrees."""
    return float(np.degrees(math.atan2(place[1], place[0])) % 360.0)
