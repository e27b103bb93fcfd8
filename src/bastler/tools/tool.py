"""A rotating tool with its full geometry, from the tip to the holder.

Field names follow the quantities of ISO 13399 where one exists: cutting diameter DC, flute length APMXS, shank diameter
DMM, corner radius RE, point angle SIG, usable length from the holder's face LPR.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec

from bastler.cutting import ToolMaterial
from bastler.units import Kind, Unit, scale
from bastler.units.text import number_text

ToolKind = Literal[
    "face-mill",
    "end-mill",
    "bull-mill",
    "ball-mill",
    "spot-drill",
    "drill",
    "chamfer-mill",
    "reamer",
    "tap",
    "boring-head",
    "thread-mill",
    "engraver",
]

KIND_WORDS: dict[str, str] = {
    "face-mill": "face mill",
    "end-mill": "end mill",
    "bull-mill": "bull-nose mill",
    "ball-mill": "ball-nose mill",
    "spot-drill": "spot drill",
    "drill": "twist drill",
    "chamfer-mill": "chamfer mill",
    "reamer": "reamer",
    "tap": "tap",
    "boring-head": "boring head",
    "thread-mill": "thread mill",
    "engraver": "engraving tool",
}


CORE = {60.0: 1.082532, 55.0: 1.280654}
"""Twice the basic depth of a thread in pitches, by its angle (ISO 68-1: 5/8 of the sharp triangle; ISO 228-1)."""


class Holder(msgspec.Struct, frozen=True):
    """The holder as a cylinder above the tool: `diameter` and `length`."""

    diameter: float
    length: float


class Profile(msgspec.Struct, frozen=True):
    """The cutting shape as a height over the tip at each radius: flat to `flat`, then a corner arc `corner`, then a cone.

    `slope` is the rise of the cone per unit of radius; `radius` is where cutting ends.
    """

    flat: float
    corner: float
    slope: float
    radius: float

    def height(self, r: float) -> float:
        """Height over the tip at radius `r`, 0 <= r <= radius."""
        if r <= self.flat:
            return 0.0
        if self.corner > 0.0:
            return self.corner - math.sqrt(max(self.corner**2 - (r - self.flat) ** 2, 0.0))
        return (r - self.flat) * self.slope

    def width(self, height: float) -> float:
        """Radius at `height` over the tip."""
        if self.corner > 0.0 and height < self.corner:
            return min(self.radius, self.flat + math.sqrt(self.corner**2 - (self.corner - max(height, 0.0)) ** 2))
        if self.slope > 0.0:
            return min(self.radius, self.flat + max(height, 0.0) / self.slope)
        return self.radius


class Tool(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="form", tag="rotating"):
    """One tool as it stands in the machine. Lengths in `unit`.

    `station` is its place, its T number and its offset number; `stick_out` runs from the holder's face to the tip; `length` is
    the length offset, from the spindle nose to the tip. `tip_angle` is the included angle in degrees (drills, spot drills,
    chamfer mills), `tip_diameter` the flat at the tip of a chamfer mill. `centre_cutting` tools may plunge. A tap has a `pitch`
    and a `lead` of so many pitches at its end that do not cut the full thread; `profile_angle` is that of the thread it cuts, in
    degrees. A thread mill has `rows` of teeth a pitch apart (1: a single tooth for several pitches) and between them a core of
    `tip_diameter`; `floating` when its holder gives way along the
    axis.
    """

    id: str
    station: int
    kind: ToolKind
    name: str
    unit: Unit = "mm"
    diameter: float
    flutes: int
    flute_length: float
    shank_diameter: float
    stick_out: float
    length: float
    holder: Holder
    material: ToolMaterial = "carbide"
    corner_radius: float = 0.0
    tip_angle: float = 180.0
    tip_diameter: float = 0.0
    centre_cutting: bool = True
    pitch: float = 0.0
    lead: float = 0.0
    profile_angle: float = 60.0
    rows: int = 1
    floating: bool = False

    def in_unit(self, unit: Unit) -> Tool:
        """The same tool with its lengths in another unit."""
        k = scale(self.unit, unit)
        if k == 1.0:
            return self
        lengths = ("diameter", "flute_length", "shank_diameter", "stick_out", "length", "corner_radius", "tip_diameter", "pitch")
        changed = {name: getattr(self, name) * k for name in lengths}
        holder = Holder(self.holder.diameter * k, self.holder.length * k)
        return msgspec.structs.replace(self, unit=unit, holder=holder, **changed)

    @property
    def profile(self) -> Profile:
        """The cutting shape."""
        r = self.diameter / 2
        if self.kind == "tap":  # what goes through the hole; the teeth cut a thread into its wall, which no field shows
            return Profile(self.core / 2, 0.0, 0.0, self.core / 2)
        if self.kind == "thread-mill":  # its core, for the same reason
            return Profile(self.tip_diameter / 2, 0.0, 0.0, self.tip_diameter / 2)
        if self.kind in ("spot-drill", "drill", "chamfer-mill", "engraver"):
            return Profile(self.tip_diameter / 2, 0.0, 1.0 / math.tan(math.radians(self.tip_angle / 2)), r)
        corner = r if self.kind == "ball-mill" else self.corner_radius
        return Profile(r - corner, corner, 0.0, r)

    @property
    def body(self) -> float:
        """The diameter above the flutes that has to find room: no less than the cutter's, but for a thread mill, whose neck goes
        down into the hole."""
        return self.shank_diameter if self.kind == "thread-mill" else max(self.shank_diameter, self.diameter)

    @property
    def core(self) -> float:
        """Of a tap: the least hole that it goes through, the minor diameter of the nut's thread (ISO 68-1, ISO 228-1)."""
        return self.diameter - CORE.get(self.profile_angle, CORE[60.0]) * self.pitch

    @property
    def says(self) -> str:
        """`T2 end mill 16`, with the diameter in the tool's own unit."""
        return f"T{self.station} {KIND_WORDS[self.kind]} {self.size}"

    @property
    def size(self) -> str:
        """The diameter as people call it, of a tap with its pitch."""
        if self.kind == "thread-mill":
            return (
                f"{number_text(self.diameter, Kind.LENGTH, self.unit)}, pitch {number_text(self.pitch, Kind.LENGTH, self.unit)}"
            )
        if self.kind == "tap" and self.unit == "mm":
            return f"M{self.diameter:g} × {self.pitch:g}"
        if self.kind == "tap":
            return f"{number_text(self.diameter, Kind.LENGTH, self.unit)}-{1 / self.pitch:.0f}"
        return number_text(self.diameter, Kind.LENGTH, self.unit)


def tip_length(diameter: float, tip_angle: float, tip_diameter: float = 0.0) -> float:
    """Height of a conical tip: from the point to where `diameter` is reached, in the unit of `diameter`.

    `tip_angle` is the included angle in degrees, 0 < tip_angle <= 180 (180: a flat end, no height). ValueError otherwise.
    """
    if not 0.0 < tip_angle <= 180.0:
        raise ValueError(f"A tip angle of {tip_angle:g}° does not exist.")
    if tip_angle == 180.0:
        return 0.0
    return (diameter - tip_diameter) / 2 / math.tan(math.radians(tip_angle / 2))
