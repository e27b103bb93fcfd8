"""A rotating tool with its full geometry, from the tip to the holder.

Field names follow the quantities of ISO 13399 where one exists: cutting diameter DC, flute length APMXS, shank diameter
DMM, corner radius RE, point angle SIG, usable length from the holder's face LPR.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import msgspec

from bastler.ask import Trouble, ask, choose, pick
from bastler.cutting import ToolMaterial
from bastler.language import decimal, sayable, tr
from bastler.tools.naming import said_name
from bastler.units import Kind, Unit, scale
from bastler.units.text import number_text, plain_number

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

KIND_WORDS: dict[str, str] = sayable(
    {
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
)


PLACE, EDGE, HOLDER, EXPERIENCE = "Place", "Cutting part", "Shank and holder", "Experience"
Stands = Literal["axial", "radial"]
Coating = Literal["", "TiN", "TiCN", "TiAlN", "AlCrN", "Diamond"]
COATINGS: tuple[Coating, ...] = ("", "TiN", "TiCN", "TiAlN", "AlCrN", "Diamond")
YES_NO = {True: "Yes", False: "No"}


def _is(*kinds: str) -> Any:
    """Is it a tool of one of these kinds?"""
    return lambda t: t.kind in kinds


_rounded = _is("bull-mill", "end-mill", "face-mill")
_pointed = _is("spot-drill", "drill", "chamfer-mill", "engraver")
_flat_tipped = _is("chamfer-mill", "thread-mill", "engraver")
_face_mill = _is("face-mill")
_may_plunge = _is("end-mill", "bull-mill", "ball-mill", "face-mill", "chamfer-mill")
_threads = _is("tap", "thread-mill")
_tap = _is("tap")
_thread_mill = _is("thread-mill")
CORE = {60.0: 1.082532, 55.0: 1.280654}
"""Twice the basic depth of a thread in pitches, by its angle (ISO 68-1: 5/8 of the sharp triangle; ISO 228-1)."""


class Holder(msgspec.Struct, frozen=True):
    """The holder as a cylinder above the tool: `diameter` and `length`."""

    diameter: Annotated[float, ask("Holder diameter", Kind.LENGTH, HOLDER, least=0.001, below=1e4)]
    length: Annotated[float, ask("Holder length", Kind.LENGTH, HOLDER, least=0.001, below=1e4)]


class Experience(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What the shop has found out for a tool in a material: `vc` in m/min, `fz` (of drills and reamers: a turn) in mm, and
    `source`, who says so. 0 for a number that nothing is known of."""

    material: str
    vc: float = 0.0
    fz: float = 0.0
    source: str = ""


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

    @property
    def tall(self) -> float:
        """The height over the tip from which on it is as wide as it gets."""
        return max(self.corner, (self.radius - self.flat) * self.slope)

    def width(self, height: float) -> float:
        """Radius at `height` over the tip."""
        if self.corner > 0.0 and height < self.corner:
            return min(self.radius, self.flat + math.sqrt(self.corner**2 - (self.corner - max(height, 0.0)) ** 2))
        if self.slope > 0.0:
            return min(self.radius, self.flat + max(height, 0.0) / self.slope)
        return self.radius


class Tool(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="form", tag="rotating"):
    """One tool as it stands in the machine. Lengths in `unit`.

    `station` is its place, its T number and its offset number, 0 while it is not in the machine; `stick_out` runs from the
    holder's face to the tip; `length` is the length offset, from the spindle nose to the tip. `tip_angle` is the included angle
    in degrees (drills, spot drills, chamfer mills), `tip_diameter` the flat at the tip of a chamfer mill. `centre_cutting` tools
    may plunge; `approach` is the angle of a face mill's edges to the feed. A tap has a `pitch` and a `lead` of so many pitches at
    its end that do not cut the full thread; `profile_angle` is that of the thread it cuts, in degrees. A thread mill has `rows`
    of teeth a pitch apart (1: a single tooth for several pitches) and between them a core of `tip_diameter`; a tap is `floating`
    when its holder gives way along the axis. In a turret it `stands` along Z or along X. `most_speed` is the most turns a minute,
    0 without a limit; `experience` is what the shop has found to work.
    """

    id: str
    station: Annotated[
        int,
        ask("Station", Kind.COUNT, PLACE, least=0, most=999, helps="In the machine, its T number and offset. 0: in the crib."),
    ]
    kind: ToolKind
    name: Annotated[str, pick("Called", "name", PLACE)]
    unit: Unit = "mm"
    diameter: Annotated[float, ask("Cutting diameter", Kind.LENGTH, EDGE, least=0.001, below=1e4, symbol="DC")]
    flutes: Annotated[int, ask("Teeth", Kind.COUNT, EDGE, least=1, most=99, symbol="NOF")]
    flute_length: Annotated[float, ask("Cutting length", Kind.LENGTH, EDGE, least=0.001, below=1e4, symbol="APMXS")]
    shank_diameter: Annotated[float, ask("Shank diameter", Kind.LENGTH, HOLDER, least=0.001, below=1e4, symbol="DMM")]
    stick_out: Annotated[
        float,
        ask("Sticks out", Kind.LENGTH, HOLDER, least=0.001, below=1e4, symbol="LPR", helps="From the holder's face to the tip."),
    ]
    length: Annotated[
        float,
        ask("Length offset", Kind.LENGTH, PLACE, least=0.001, below=1e4, symbol="LF", helps="From the spindle nose to the tip."),
    ]
    holder: Holder
    material: Annotated[ToolMaterial, choose("Made of", {"hss": "HSS", "carbide": "Carbide"}, EDGE)] = "carbide"
    coating: Annotated[Coating, choose("Coating", {c: c or "None" for c in COATINGS}, EDGE)] = ""
    corner_radius: Annotated[float, ask("Corner radius", Kind.LENGTH, EDGE, least=0, when=_rounded, symbol="RE")] = 0.0
    tip_angle: Annotated[
        float, ask("Tip angle", Kind.ANGLE, EDGE, above=0, most=180, when=_pointed, symbol="SIG", helps="Of the whole cone.")
    ] = 180.0
    tip_diameter: Annotated[
        float,
        ask("Flat at the tip", Kind.LENGTH, EDGE, least=0, when=_flat_tipped, helps="Of a thread mill the core of its teeth."),
    ] = 0.0
    approach: Annotated[
        float,
        ask(
            "Approach angle", Kind.ANGLE, EDGE, least=10, most=90, when=_face_mill, symbol="KAPR", helps="90° cuts a square step."
        ),
    ] = 90.0
    centre_cutting: Annotated[bool, choose("Cuts in the middle", YES_NO, EDGE, when=_may_plunge)] = True
    pitch: Annotated[float, ask("Pitch", Kind.LENGTH, EDGE, least=0, below=100, when=_threads, symbol="TP")] = 0.0
    lead: Annotated[float, ask("Lead in pitches", Kind.NUMBER, EDGE, least=0, most=20, when=_tap)] = 0.0
    profile_angle: Annotated[float, ask("Thread angle", Kind.ANGLE, EDGE, least=10, most=90, when=_threads, symbol="PNA")] = 60.0
    rows: Annotated[int, ask("Teeth along it", Kind.COUNT, EDGE, least=1, most=99, when=_thread_mill)] = 1
    floating: Annotated[bool, choose("Floating holder", YES_NO, HOLDER, when=_tap)] = False
    stands: Annotated[
        Stands, choose("In a turret it stands", {"axial": "Along Z", "radial": "Along X"}, PLACE, helps="Driven, or held still.")
    ] = "axial"
    most_speed: Annotated[
        float, ask("Never faster than", Kind.SPINDLE_SPEED, HOLDER, least=0, helps="What tool and holder bear. 0: no limit.")
    ] = 0.0
    experience: Annotated[
        tuple[Experience, ...],
        pick("What works", "experience", EXPERIENCE, helps="A line each: material, vc, feed a tooth, who says so."),
    ] = ()

    def troubles(self) -> list[Trouble]:
        """Contradictions between what is said of the tool."""
        if self.corner_radius > self.diameter / 2:
            return [
                Trouble("corner_radius", tr("Has to be {diameter:g} or less.", diameter=self.diameter / 2), self.diameter / 2)
            ]
        if self.tip_diameter > self.diameter:
            return [Trouble("tip_diameter", tr("Has to be {diameter:g} or less.", diameter=self.diameter), self.diameter)]
        if _threads(self) and self.pitch <= 0:
            return [Trouble("pitch", tr("Has to be more than 0."))]
        if _threads(self) and self.core <= 0:
            return [Trouble("pitch", tr("Too coarse for a tool this thin."))]
        if self.flute_length > self.stick_out:
            return [
                Trouble(
                    "stick_out", tr("Its teeth are {flute_length:g} long.", flute_length=self.flute_length), self.flute_length
                )
            ]
        return []

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
    def called(self) -> str:
        """Its name as it is said in the language in force."""
        return said_name(self.name)

    @property
    def says(self) -> str:
        """`T2 end mill 16`, with the diameter in the tool's own unit."""
        return f"T{self.station} {tr(KIND_WORDS[self.kind])} {self.size}"

    @property
    def size(self) -> str:
        """The diameter as people call it, of a tap with its pitch."""
        if self.kind == "thread-mill":
            return tr(
                "{diameter}, pitch {pitch}",
                diameter=number_text(self.diameter, Kind.LENGTH, self.unit),
                pitch=number_text(self.pitch, Kind.LENGTH, self.unit),
            )
        if self.kind == "tap" and self.unit == "mm":
            return decimal(f"M{self.diameter:g} × {self.pitch:g}")
        if self.kind == "tap":
            turns = f"{1 / self.pitch:.0f}" if self.pitch > 0 else "?"
            return f"{plain_number(self.diameter, Kind.LENGTH, self.unit)}-{turns}"
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
