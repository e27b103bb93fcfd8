"""What the reader has to know about the control: offsets, tool lengths, units of its words, fixed amounts of its cycles."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from bastler.machines import Dialect
from bastler.units import Unit


class Bar(NamedTuple):
    """A bar that comes on for the next part: by as much as it `comes` where that is no move of the program, 0 where nobody has
    said; the stations of what it comes out to (`stops`), and of what goes over it and draws it out (`pulls`)."""

    comes: float = 0.0
    stops: frozenset[int] = frozenset()
    pulls: frozenset[int] = frozenset()


NO_BAR = Bar()


@dataclass(frozen=True)
class Control:
    """The state of a control before the program starts, lengths in the job's `unit`.

    `offsets` maps an offset's index (1 for G54 … 6 for G59, 7–9 for G59.1–G59.3, 100 + P for G54.1 P…) to the machine
    coordinates of its zero; `part` is the index of the one whose zero is the part's. `reaches` are the true ways from
    a tool's tip to what the machine knows as its place, the spindle's nose or the turret's reference, by tool or station number;
    `tool_offsets` what the control believes of them by the number of the offset; `diameters` the cutters' by D number.

    One that `turns` may lack a Y axis, or C whatever words its dialect has; it has for every station the nose radius with the
    way from point to nose centre, (z, r) (`noses`).

    Where a part is handed over `second` is the same control as it is with the second spindle chosen, everything counted from that
    one's face; its `faces` is how far that is from the main one's. The axis W stands at `w` when the program starts.
    """

    unit: Unit = "mm"
    dialect: Dialect = field(default_factory=Dialect)
    offsets: dict[int, tuple[float, float, float]] = field(default_factory=lambda: {1: (0.0, 0.0, 0.0)})
    part: int = 1
    home: tuple[float, float, float] = (0.0, 0.0, 0.0)
    reaches: dict[int, tuple[float, float, float]] = field(default_factory=dict)
    tool_offsets: dict[int, tuple[float, float, float]] = field(default_factory=dict)
    diameters: dict[int, float] = field(default_factory=dict)
    peck_clearance: float = 0.5
    chip_break: float = 0.5
    pull_off: float = 0.5
    turns: bool = False
    has_y: bool = True
    has_c: bool = True
    noses: dict[int, tuple[float, tuple[float, float]]] = field(default_factory=dict)
    second: Control | None = None
    faces: float | None = None
    w: float = 0.0
    bar: Bar = NO_BAR

    def turned(self, place: tuple[float, float, float]) -> tuple[float, float, float]:
        """A place of the machine as the second spindle counts it, or one that it counts as the machine does; as it is with the
        main one chosen."""
        x, y, z = place
        return place if self.faces is None else (x, -y, self.faces - z)
