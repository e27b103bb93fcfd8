"""All that a turning step may look at: the holding around it and the stock as it is before it, as a half section."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import shapely

from bastler.shapes import TurnedOutline
from bastler.shapes.kinds import Region
from bastler.steps.context import Context
from bastler.tools import Tool, TurnTool

HAIR_MM = 1e-5
"""What a window leaves out at its ends, in mm."""


@dataclass(frozen=True)
class TurnedContext(Context):
    """A turning setup. Regions are in (z, r): z along the axis from the finished front face, out of the part positive.

    `raw` is the stock before the first step, `stock` what is left before this one. `safe` is the place (r, z) in front of the
    work where stages begin and end; `clear` how far off the stock rapids end. `length` is the finished length, `back` what is
    left on the back face for the next setup; `rating` the chuck's own speed limit; `keep_out` jaws and tailstock by name.
    `leave_x` (on the radius) and `leave_z` are the finishing allowances.
    """

    outlines: Mapping[str, TurnedOutline]
    raw: Region
    stock: Region
    safe: tuple[float, float]
    length: float
    back: float
    rating: float
    leave_x: float
    leave_z: float
    keep_out: Sequence[tuple[str, Any]] = field(default=())
    bar: Region = None
    """What there was before the first holding, as this one sees it: its surface is untouched. None where that is `raw`."""
    zero_z: float = 0.0
    """Where the zero is along the machine's Z, from the spindle's face."""
    second_reach: float = 0.0
    """How far out the jaws of the second chuck opposite reach; 0 where there is none."""
    at_second: bool = False
    """Is the part in the second chuck?"""
    handed_over: Literal["", "in step", "apart"] = ""
    """Has an earlier step handed it over, so that both chucks hold it, and how do they turn then?"""
    turned_round: bool = False
    """Is the part seen from its back, the finished face there at zero?"""
    brought: bool = False
    """Has an earlier step brought the bar on for the next part?"""
    angle_lost: str = ""
    """Why nobody knows at which angle stands what was milled in the holdings before; empty where that is known."""
    deepest: float | None = None
    """Where a bar slides through a guide bush: down to which length it has been turned behind this step."""
    wanted: Region = None
    """The stock as the steps before this one want it, whatever their tips can do about it; None before the first."""

    def turn_tool(self, ident: str | None) -> TurnTool | None:
        """The tool, when it is one that stands still."""
        tool = self.tool(ident)
        return tool if isinstance(tool, TurnTool) else None

    def drill(self, ident: str | None) -> Tool | None:
        """The tool, when it is one made to turn: drill, reamer, tap."""
        tool = self.tool(ident)
        return tool if isinstance(tool, Tool) else None

    @property
    def untouched(self) -> Region:
        """The stock whose surface nobody has touched yet."""
        return self.raw if self.bar is None else self.bar

    @property
    def turning_tools(self) -> list[TurnTool]:
        """The tools that stand still."""
        return [t for t in self.tools if isinstance(t, TurnTool)]

    @property
    def centred(self) -> bool:
        """Is the tailstock's centre at the work?"""
        return any(name == "tailstock" for name, _ in self.keep_out)

    @property
    def jaws(self) -> float:
        """Where the face of the chuck's jaws is, or with the bar farthest out that of the collet right behind a guide bush;
        without bound where there are none."""
        faces = {"jaws": 2, "bush": 0}
        found = (float(region.bounds[faces[name]]) for name, region in self.keep_out if name in faces)
        return max(found, default=float("-inf"))

    @property
    def front(self) -> float:
        """Where the stock begins, at the front."""
        return float(self.stock.bounds[2])

    @property
    def over(self) -> float:
        """A radius clear of all the stock there is."""
        return float(self.raw.bounds[3]) + self.clear

    @property
    def near(self) -> float:
        """How far off a surface just cut rapids end: the holding's clearance, but no more than a millimetre."""
        return min(self.clear, self.mm(1.0))

    @property
    def as_raw(self) -> TurnedContext:
        """The same with nothing cut."""
        return replace(self, stock=self.untouched)

    @property
    def off_front(self) -> float:
        """How far off the front rapids end: nearer where that was cut before, and so is where it is said to be."""
        return self.near if self.front < self.as_raw.front - self.mm(0.01) else self.clear

    def window(self, z0: float, z1: float) -> Region:
        """What is left between two lengths; a shoulder that only touches one of them is not between them."""
        return self._between(self.stock, z0, z1)

    def _between(self, region: Region, z0: float, z1: float) -> Region:
        lo, hi = min(z0, z1), max(z0, z1)
        hair = self._hair(lo, hi)
        return region.intersection(shapely.box(lo + hair, -1.0, hi - hair, self.over + 1.0))

    def _hair(self, lo: float, hi: float) -> float:
        """What a window leaves out at each end; nothing where it is hardly wider than that."""
        return self.mm(HAIR_MM) if hi - lo > self.mm(3 * HAIR_MM) else 0.0

    def finished_outer(self, z0: float, z1: float) -> float:
        """The largest radius that is wanted between two lengths, 0 where nothing is."""
        part = self._between(self.stock if self.wanted is None else self.wanted, z0, z1)
        return 0.0 if part.is_empty else float(part.bounds[3])

    def front_at(self, r0: float, r1: float) -> float:
        """Where the stock begins between two radii, seen from the front; where there is nothing, its front."""
        lo, hi = max(min(r0, r1), 0.0), max(r0, r1)
        hair = self._hair(lo, hi)
        z0, _, z1, _ = self.stock.bounds
        part = self.stock.intersection(shapely.box(z0 - 1.0, lo + hair, z1 + 1.0, hi - hair))
        return self.front if part.is_empty else float(part.bounds[2])

    def outer(self, z0: float, z1: float) -> float:
        """The largest radius there is between two lengths, 0 where there is nothing."""
        part = self.window(z0, z1)
        return 0.0 if part.is_empty else float(part.bounds[3])

    def bore(self, z0: float, z1: float) -> float:
        """The smallest radius of the hole between two lengths: 0 in solid material, unbounded where there is nothing."""
        part = self.window(z0, z1)
        return float("inf") if part.is_empty else max(float(part.bounds[1]), 0.0)

    @property
    def most_speed(self) -> float:
        """Turns a minute that neither machine nor chuck go over."""
        return min(self.card.speed[1], self.rating)
