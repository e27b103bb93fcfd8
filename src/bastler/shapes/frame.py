"""A place and a direction in the plane; features are planned in their own frame and then put where they belong."""

from __future__ import annotations

import math

import msgspec


class Frame(msgspec.Struct, frozen=True):
    """Origin (x, y) in the job's unit; `angle` in degrees, counter-clockwise from +X."""

    x: float = 0.0
    y: float = 0.0
    angle: float = 0.0

    def place(self, u: float, v: float) -> tuple[float, float]:
        """The point (u, v) of this frame, in the part's coordinates."""
        cos, sin = self.axes()
        return (self.x + u * cos - v * sin, self.y + u * sin + v * cos)

    def turn(self, u: float, v: float) -> tuple[float, float]:
        """A direction or offset of this frame, in the part's coordinates."""
        cos, sin = self.axes()
        return (u * cos - v * sin, u * sin + v * cos)

    def axes(self) -> tuple[float, float]:
        """Cosine and sine of the angle, exact at the quarter turns."""
        quarter, rest = divmod(self.angle, 90.0)
        if rest == 0.0:
            return ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[int(quarter) % 4]
        a = math.radians(self.angle)
        return (math.cos(a), math.sin(a))
