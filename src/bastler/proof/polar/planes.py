"""The planes of a turned part on which driven tools work, as a proof sees them: the end face, and its side at an angle of C.

Places of the part are x and y across the axis, x where C is 0, and z along it. On the end face a plane's own are the same; on
the side at an angle u is along the axis, w outward there, and v across, so that u, v and w are right-handed.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from bastler.language import decimal, tr
from bastler.nc import Trace
from bastler.proof.view import Place
from bastler.shapes import Barrel, Box, Shoulders, TurnedPart
from bastler.shapes.kinds import Floats, Region

DIGITS = 9
"""Of places in a plane: so that what is alike on two sides is the same to the byte."""


@dataclass(frozen=True)
class CutPlane:
    """The end face, or the `side` at an angle in degrees."""

    side: float | None = None

    @property
    def says(self) -> str:
        """Where it is, in a sentence."""
        return tr(" on the end face") if self.side is None else tr(" on the side at {side:g}°", side=self.side)

    @property
    def axes(self) -> Floats:
        """The directions of u, v and w on the part, as rows (3, 3)."""
        if self.side is None:
            return np.eye(3)
        c, s = math.cos(math.radians(self.side)), math.sin(math.radians(self.side))
        return np.array([[0.0, 0.0, 1.0], [s, -c, 0.0], [c, s, 0.0]])

    def into(self, places: Floats) -> Floats:
        """Places of the part (n, 3) in the plane."""
        return places if self.side is None else np.round(places @ self.axes.T, DIGITS)

    def out(self, place: Place) -> Place:
        """A place of the plane on the part."""
        x, y, z = (float(value) for value in np.array(place) @ self.axes)
        return (x, y, z)

    def named(self, place: Place) -> str:
        """Where a place of the plane is, as a machinist would say it."""
        if self.side is None:
            return decimal(f"X {place[0]:.2f} Y {place[1]:.2f}") + self.says
        return tr("Z {place:.2f} and {place_2:.2f} across{says}", place=place[0], place_2=place[1], says=self.says)

    def trace(self, trace: Trace) -> Trace:
        """A program's moves as the plane sees them. Arcs about its own axis are such as a mill makes in its XY plane."""
        if self.side is None:
            return trace
        about = np.select([trace.plane == 17, trace.plane == 18], [19, 18], 17)
        turn = np.where(trace.plane == 18, -trace.turn, trace.turn)
        start, end, centre = (self.into(places) for places in (trace.start, trace.end, trace.centre))
        still = np.zeros(len(trace), bool)
        return replace(trace, start=start, end=end, centre=centre, plane=about, turn=turn, stands=still)

    def seen(self, section: Region) -> tuple[TurnedPart, Box]:
        """What a half section is that is not empty, and the box around it."""
        back = float(section.bounds[0])
        if self.side is None:
            turned = Shoulders.of(section, back)
            r, front = turned.radius, max(z for _, z in turned.profile)
            return turned, Box((-r, -r, back), (r, r, front), round=True)
        barrel = Barrel.of(section)
        r = barrel.radius
        return barrel, Box((back, -r, -r), (float(section.bounds[2]), r, r))
