"""How a part lies: as it was first held, or turned over about an axis of the plan; and the way from one to another.

Turning over about X keeps left and right; front and back change places, top and underside too.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from bastler.shapes.bevel import Bevel
from bastler.shapes.box import Box
from bastler.shapes.furrow import Furrow
from bastler.shapes.placing import Placing, placed_removal
from bastler.shapes.removal import Flat, Removal, Revolved

Axis = Literal["x", "y"]


class Lie(msgspec.Struct, frozen=True):
    """The signs that the axes of the part as first held have in how it lies; their product is one, as for every turning."""

    x: int = 1
    y: int = 1
    z: int = 1

    def over(self, about: Axis) -> Lie:
        """Turned over about an axis."""
        return Lie(self.x, -self.y, -self.z) if about == "x" else Lie(-self.x, self.y, -self.z)

    @property
    def upside_down(self) -> bool:
        """Is what was the top below?"""
        return self.z < 0


AS_FIRST = Lie()


class Way(msgspec.Struct, frozen=True):
    """The way of places from one holding to another: the stock is the box `here` in the one and `there` in the other, and the
    middles of both are the same place."""

    here: Box
    there: Box
    x: int
    y: int
    z: int

    @staticmethod
    def between(here: Box, lie: Lie, there: Box, other: Lie) -> Way:
        """From a holding in which the part lies like `lie` to one in which it lies like `other`."""
        return Way(here, there, lie.x * other.x, lie.y * other.y, lie.z * other.z)

    @property
    def over(self) -> bool:
        """Is the part another way up?"""
        return self.z < 0

    @property
    def plan(self) -> Placing:
        """What becomes of the plan, seen from above in both."""
        (x, y), (u, v) = self.here.centre, self.there.centre
        return Placing(a=float(self.x), d=float(self.y), u=u - self.x * x, v=v - self.y * y)

    @property
    def rise(self) -> float:
        """What is added to a height, behind its sign."""
        return (self.there.lo[2] + self.there.hi[2]) / 2 - self.z * (self.here.lo[2] + self.here.hi[2]) / 2

    def at(self, x: float, y: float, z: float) -> tuple[float, float, float]:
        """Where a place comes to."""
        return (*self.plan.at(x, y), self.z * z + self.rise)

    def removal(self, removal: Removal) -> Removal:
        """What is gone, as it is seen there: where the part is another way up, from below, heights counted downward."""
        placed = placed_removal(removal, self.plan)
        return lifted(placed, -self.rise if self.over else self.rise)


def lifted(removal: Removal, by: float) -> Removal:
    """What is taken away, higher up."""
    if isinstance(removal, Flat):
        return Flat(removal.region, removal.floor + by)
    if isinstance(removal, Revolved):
        return Revolved(removal.x, removal.y, tuple((r, z + by) for r, z in removal.profile))
    if isinstance(removal, Bevel):
        return msgspec.structs.replace(removal, top=removal.top + by)
    assert isinstance(removal, Furrow)
    return msgspec.structs.replace(removal, top=removal.top + by, floor=removal.floor + by)


def through(removal: Removal, far: float, floor: float) -> Removal | None:
    """What of a removal goes all the way to the `far` side, as it is seen from there, down to `floor`; None for nothing."""
    if isinstance(removal, Flat):
        return Flat(removal.region, floor) if removal.floor <= far + 1e-9 else None
    if isinstance(removal, Revolved):
        radius = removal.radius_at(far + 1e-9)
        return Revolved(removal.x, removal.y, ((0.0, floor), (radius, floor))) if radius > 0 else None
    region = removal.open_at(far)
    return None if region.is_empty else Flat(region, floor)
