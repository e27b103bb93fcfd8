"""What nobody at the machine knows before it has been measured: how stock and tools really are. A seed makes it repeatable.

Amounts are in mm. Each is drawn for itself, by the seed and by what it is of: a tool is as long as it is whatever was asked
first.
"""

from __future__ import annotations

import random
from dataclasses import dataclass

import msgspec

from bastler.tools import AnyTool, Tool
from bastler.units import Unit, scale

SHIFT_MM, SHIFT_Z_MM, TURN_DEG, MORE_MM = 2.5, 1.5, 0.4, 0.3
LENGTH_MM, THIN_MM, GIVES_MM = 0.4, (0.004, 0.03), (0.002, 0.01)
SCATTER_MM = 0.001
"""Of a measurement, one standard deviation."""


@dataclass(frozen=True)
class Lies:
    """How a piece of stock lies: shifted along the axes, turned by an angle in degrees, and so much larger."""

    shift: tuple[float, float, float]
    turn: float
    more: float


@dataclass(frozen=True)
class RealTool:
    """A tool as it is, and how far it `gives` way to the cut: in turning outward, in milling upward. `number` tells it from all
    others that stood in its station."""

    tool: AnyTool
    gives: float
    number: int


class Hidden:
    """The truth of one machine. A seed of 0: all is as it is said to be."""

    def __init__(self, seed: int, unit: Unit) -> None:
        self.seed, self.mm = seed, scale("mm", unit)

    def _between(self, what: str, least: float, most: float) -> float:
        """An amount in the job's unit, the same whenever it is asked for."""
        if not self.seed:
            return 0.0
        return random.Random(f"{self.seed} {what}").uniform(least, most) * self.mm

    def lies(self, part: int, *, turned: bool) -> Lies:
        """Of a piece of stock, counted from 1; in a chuck it is not shifted across."""
        x, y = (0.0 if turned else self._between(f"shift {a}", -SHIFT_MM, SHIFT_MM) for a in "xy")
        z = self._between(f"shift z {part if turned else ''}", -SHIFT_Z_MM, SHIFT_Z_MM)
        turn = 0.0 if turned else self._between("turn", -TURN_DEG, TURN_DEG) / self.mm
        return Lies((x, y, z), turn, self._between(f"more {part}", 0.02, MORE_MM))

    def tool(self, tool: AnyTool, number: int) -> RealTool:
        """A tool that was put into the machine: every time another one of its kind."""
        key = f"{tool.id} {number}"
        longer = self._between(f"long {key}", -LENGTH_MM, LENGTH_MM)
        gives = self._between(f"gives {key}", *GIVES_MM)
        if isinstance(tool, Tool):
            thin = self._between(f"thin {key}", *THIN_MM) if tool.kind not in ("tap", "drill", "reamer") else 0.0
            changed = {"length": tool.length + longer, "diameter": max(tool.diameter - thin, tool.diameter / 2)}
            real = msgspec.structs.replace(
                tool,
                corner_radius=min(tool.corner_radius, changed["diameter"] / 2),
                tip_diameter=min(tool.tip_diameter, changed["diameter"]),
                **changed,
            )
            return RealTool(real, gives, number)
        across = self._between(f"across {key}", -LENGTH_MM, LENGTH_MM)
        return RealTool(
            msgspec.structs.replace(tool, length_x=tool.length_x + across, length_z=tool.length_z + longer), gives, number
        )

    def scatter(self, times: int) -> float:
        """What a measurement is off by, the so manieth there was."""
        return random.Random(f"{self.seed} measured {times}").gauss(0.0, SCATTER_MM) * self.mm if self.seed else 0.0
