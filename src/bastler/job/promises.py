"""What the stock says has to come off, without any step: its allowances.

The finished part is the block less its allowances, less all that the steps take.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec
import shapely

from bastler.job.planned import Plan
from bastler.job.stock import BarStock
from bastler.language import sayable
from bastler.shapes import Flat
from bastler.shapes.kinds import Region
from bastler.shapes.united import mitred

Where = Literal["top", "bottom", "sides", "front", "back"]
WORDS: dict[Where, str] = sayable(
    {
        "top": "on the top",
        "bottom": "on the underside",
        "sides": "on the sides",
        "front": "at the front",
        "back": "at the back",
    }
)


class Promise(msgspec.Struct, frozen=True):
    """An allowance: `where` it is, the `region` (seen from above, or as a half section) with, in milling, the `floor` it goes
    down to; `stays` when the machinist has said that it is to stay."""

    where: Where
    region: Region
    floor: float
    stays: bool

    @property
    def flat(self) -> Flat:
        return Flat(self.region, self.floor)


def promises_of(plan: Plan, place: int) -> tuple[Promise, ...]:
    """The allowances of a milled block or disc that come off up to a holding, the one at that `place`, as it sees them: the top
    in the last one with that side up, the sides in the last of all. Only what the holdings can reach is promised: the underside
    waits to be turned up, and so does what the jaws grip, where the part is held in one way only."""
    held = plan.holdings[place]
    stock, box, found = held.block, held.flat.stock, []
    inner = mitred(box.plan, -stock.over_sides) if stock.over_sides > 0 else box.plan
    ups = [h.lie.upside_down for h in plan.holdings]
    over, below = stock.allowances(held.lie)
    if over > 0 and held.lie.upside_down not in ups[place + 1 :]:
        stays = (stock.bottom_comes if held.lie.upside_down else stock.top_comes) == "stays"
        found.append(Promise("bottom" if held.lie.upside_down else "top", inner, box.hi[2] - over, stays))
    if stock.over_sides > 0 and place == len(plan.holdings) - 1:
        both = len(set(ups)) > 1
        grips = [h.flat.jaws[0].hi[2] - h.flat.stock.lo[2] if h.flat.jaws else -math.inf for h in plan.holdings]
        grip = -math.inf if both else box.lo[2] + min(grips)
        floor = max(box.lo[2] + below, grip)
        if floor < box.hi[2]:
            found.append(Promise("sides", box.plan.difference(inner), floor, stock.sides_come == "stays"))
    return tuple(found)


def promises_of_turned(stock: BarStock, raw: Region, *, turned: bool = False) -> tuple[Promise, ...]:
    """The allowance on the face in front of a turned part, which is its back where it is `turned` round. The other one is in the
    chuck, or its part-off's."""
    x0, _, x1, r1 = raw.bounds
    front = raw.intersection(shapely.box(max(0.0, x0), 0.0, x1, r1)) if x1 > 0.0 else shapely.Polygon()
    if stock.over_front <= 0 or front.is_empty:
        return ()
    return (Promise("back" if turned else "front", front, 0.0, stock.front_comes == "stays"),)
