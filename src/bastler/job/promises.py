"""What a setup says has to come off, without any step: the allowances of its stock.

The finished part is the block less its allowances, less all that the steps take. Only what the holding can reach is promised:
the underside waits for the next one, and so does what the jaws grip.
"""

from __future__ import annotations

import math
from typing import Any, Literal

import msgspec
import shapely

from bastler.job.document import Setup, TurnSetup
from bastler.shapes import Flat
from bastler.shapes.united import mitred

Where = Literal["top", "sides", "front"]
WORDS: dict[Where, str] = {"top": "on the top", "sides": "on the sides", "front": "at the front"}


class Promise(msgspec.Struct, frozen=True):
    """An allowance: `where` it is, the `region` (seen from above, or as a half section) with, in milling, the `floor` it goes
    down to; `stays` when the machinist has said that it is to stay in this holding."""

    where: Where
    region: Any
    floor: float
    stays: bool

    @property
    def flat(self) -> Flat:
        return Flat(self.region, self.floor)


def promises_of(setup: Setup) -> tuple[Promise, ...]:
    """The allowances of a milled block or disc, from filled answers."""
    box, found = setup.box(), []
    inner = mitred(box.plan, -setup.over_sides) if setup.over_sides > 0 else box.plan
    if setup.over_top > 0:
        found.append(Promise("top", inner, box.hi[2] - setup.over_top, setup.top_comes == "stays"))
    if setup.over_sides > 0:
        grip = box.lo[2] + (setup.grip or 0.0) if setup.vise == "yes" else -math.inf
        floor = max(box.lo[2] + setup.over_bottom, grip)
        if floor < box.hi[2]:
            found.append(Promise("sides", box.plan.difference(inner), floor, setup.sides_come == "stays"))
    return tuple(found)


def promises_of_turned(setup: TurnSetup, raw: Any) -> tuple[Promise, ...]:
    """The allowance on the front face of a turned part. Its back is in the chuck, or its part-off's."""
    x0, _, x1, r1 = raw.bounds
    front = raw.intersection(shapely.box(max(0.0, x0), 0.0, x1, r1)) if x1 > 0.0 else shapely.Polygon()
    if setup.over_front <= 0 or front.is_empty:
        return ()
    return (Promise("front", front, 0.0, setup.front_comes == "stays"),)
