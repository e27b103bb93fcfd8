"""Outlines: a named chain of lines and arcs, each holding what the print gives of it. All else is worked out by the solver.

An outline lies in a plane with coordinates (u, v). In a *plan* outline they are x and y; in a *turned* one u is z, along the
axis and out of the part positive, and v the radius, while every X coordinate is given as a diameter. Angles are in degrees: in
the plan counter-clockwise from +X, on a turned outline from the direction toward the chuck, positive where the diameter grows.

`None` in a field means that the print does not give it.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import msgspec

from bastler.ask import Answers, ask, choose, is_, isnt, pick
from bastler.language import sayable
from bastler.shapes.rounded import Point
from bastler.units import Kind

END, BY, LINE, ARC, HOW, CORNER = "Ends at", "From its start", "Line", "Arc", "How it lies", "Corner with the next"
SAID = sayable(("line", "arc"))
"""What a segment is called within a sentence."""
KINDS = {"line": "Line", "arc": "Arc"}
TURNS = {"any": "Not said", "ccw": "Counter-clockwise", "cw": "Clockwise"}
NO_YES = {"no": "No", "yes": "Yes"}
PLAN_CORNERS = {"sharp": "Sharp", "radius": "Radius", "edge": "Edge break"}
TURNED_CORNERS = PLAN_CORNERS | {"relief-e": "Relief E", "relief-f": "Relief F", "thread-relief": "Thread relief"}

_line = is_("kind", "line")
_arc = is_("kind", "arc")
_edge = is_("corner", "edge")
_sized = isnt("corner", "sharp")


def _relief(s: Answers) -> bool:
    return bool(s.corner.startswith("relief"))


def _length(says: str, group: str, **more: Any) -> msgspec.Meta:
    return ask(says, Kind.LENGTH, group, **more)


class GivenSegment(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="in"):
    """What is known of one line or arc. `near` is a point the machinist pointed at: of several shapes the one that comes
    nearest to it is meant. `typed` keeps what was typed where it was more than a number."""

    id: str = ""
    kind: Annotated[Literal["line", "arc"], choose("It is a", KINDS)] = "line"
    typed: dict[str, str] = {}
    near: tuple[float, float] | None = None
    length: Annotated[float | None, _length("Length", LINE, above=0, when=_line)] = None
    angle: Annotated[float | None, ask("Angle", Kind.ANGLE, LINE, least=-360, most=360, when=_line)] = None
    radius: Annotated[float | None, _length("Radius", ARC, above=0, when=_arc)] = None
    turn: Annotated[Literal["any", "ccw", "cw"], choose("Goes round", TURNS, ARC, when=_arc)] = "any"
    sweep: Annotated[float | None, ask("Sweeps", Kind.ANGLE, ARC, above=0, below=360, when=_arc)] = None
    tangent: Annotated[Literal["no", "yes"], choose("Tangent to the one before", NO_YES, HOW)] = "no"
    parallel: Annotated[str, pick("Parallel to", "segment", HOW, when=_line)] = ""
    square: Annotated[str, pick("Right-angled to", "segment", HOW, when=_line)] = ""
    far: Annotated[float | None, _length("Distance from the pole", END, least=0)] = None
    at: Annotated[float | None, ask("Angle at the pole", Kind.ANGLE, END, least=-360, most=360)] = None
    corner_size: Annotated[float, _length("Size", CORNER, above=0, when=_sized)] = 1.0
    corner_angle: Annotated[float, ask("at", Kind.ANGLE, CORNER, above=0, below=90, when=_edge)] = 45.0
    corner_depth: Annotated[float, _length("Depth", CORNER, above=0, when=_relief)] = 0.2


class PlanSegment(GivenSegment, frozen=True, kw_only=True, tag="plan"):
    """A segment seen from above."""

    x: Annotated[float | None, _length("X", END)] = None
    y: Annotated[float | None, _length("Y", END)] = None
    dx: Annotated[float | None, _length("by X", BY)] = None
    dy: Annotated[float | None, _length("by Y", BY)] = None
    cx: Annotated[float | None, _length("Centre X", ARC, when=_arc)] = None
    cy: Annotated[float | None, _length("Centre Y", ARC, when=_arc)] = None
    qx: Annotated[float | None, _length("Through X", HOW)] = None
    qy: Annotated[float | None, _length("Through Y", HOW)] = None
    corner: Annotated[Literal["sharp", "radius", "edge"], choose("Corner", PLAN_CORNERS, CORNER)] = "sharp"


class TurnedSegment(GivenSegment, frozen=True, kw_only=True, tag="turned"):
    """A segment of a half section."""

    z: Annotated[float | None, _length("Z", END)] = None
    d: Annotated[float | None, _length("Ø", END, least=0)] = None
    dz: Annotated[float | None, _length("by Z", BY)] = None
    dd: Annotated[float | None, _length("by Ø", BY)] = None
    cz: Annotated[float | None, _length("Centre Z", ARC, when=_arc)] = None
    cd: Annotated[float | None, _length("Centre Ø", ARC, when=_arc)] = None
    qz: Annotated[float | None, _length("Through Z", HOW)] = None
    qd: Annotated[float | None, _length("Through Ø", HOW, least=0)] = None
    corner: Annotated[
        Literal["sharp", "radius", "edge", "relief-e", "relief-f", "thread-relief"], choose("Corner", TURNED_CORNERS, CORNER)
    ] = "sharp"


AnySegment = PlanSegment | TurnedSegment
CORNER_FIELDS = ("corner", "corner_size", "corner_angle", "corner_depth")


class Outline(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="in"):
    """What all outlines have: `near` is a hint as on a segment, `typed` what was typed."""

    id: str
    name: str
    typed: dict[str, str] = {}


class PlanOutline(Outline, frozen=True, kw_only=True, tag="plan"):
    """An outline seen from above, open or closed. Where it begins may be unknown when it is closed."""

    closed: Annotated[Literal["yes", "no"], choose("Closed", {"yes": "Closed", "no": "Open"}, "Outline")] = "yes"
    x: Annotated[float | None, _length("Begins at X", "Outline")] = 0.0
    y: Annotated[float | None, _length("Begins at Y", "Outline")] = 0.0
    pole_x: Annotated[float, _length("Pole X", "Outline", helps="Polar distances and angles are from here.")] = 0.0
    pole_y: Annotated[float, _length("Pole Y", "Outline")] = 0.0
    segments: tuple[PlanSegment, ...] = ()

    @property
    def is_closed(self) -> bool:
        return self.closed == "yes"

    @property
    def start(self) -> tuple[float | None, float | None]:
        return (self.x, self.y)

    @property
    def pole(self) -> Point:
        return (self.pole_x, self.pole_y)


class TurnedOutline(Outline, frozen=True, kw_only=True, tag="turned"):
    """A half section's outline. An outside one runs from the front face toward the chuck with the material below it; an inside
    one likewise with the material above. `ends` says how it is closed to the stock behind its last segment."""

    inside: bool = False
    d: Annotated[float | None, _length("Begins at Ø", "Outline", least=0)] = 0.0
    z: Annotated[float | None, _length("Begins at Z", "Outline")] = 0.0
    corner: Annotated[Literal["sharp", "radius", "edge"], choose("Corner with the face", PLAN_CORNERS, "Outline")] = "sharp"
    corner_size: Annotated[float, _length("Size", "Outline", above=0, when=_sized)] = 1.0
    corner_angle: Annotated[float, ask("at", Kind.ANGLE, "Outline", above=0, below=90, when=_edge)] = 45.0
    ends: Annotated[
        Literal["square", "on"],
        choose("Out to the stock", {"square": "Square to the axis", "on": "On as it ends"}, "Outline"),
    ] = "square"
    pole_z: Annotated[float, _length("Pole Z", "Outline", helps="Polar distances and angles are from here.")] = 0.0
    pole_d: Annotated[float, _length("Pole Ø", "Outline", least=0)] = 0.0
    segments: tuple[TurnedSegment, ...] = ()

    @property
    def is_closed(self) -> bool:
        return False

    @property
    def start(self) -> tuple[float | None, float | None]:
        return (self.z, None if self.d is None else self.d / 2)

    @property
    def pole(self) -> Point:
        return (self.pole_z, self.pole_d / 2)


AnyOutline = PlanOutline | TurnedOutline
PLAN_FIELDS = {"u": "x", "v": "y", "du": "dx", "dv": "dy", "cu": "cx", "cv": "cy", "qu": "qx", "qv": "qy"}
TURNED_FIELDS = {"u": "z", "v": "d", "du": "dz", "dv": "dd", "cu": "cz", "cv": "cd", "qu": "qz", "qv": "qd"}
SAME_FIELDS = ("length", "angle", "radius", "sweep", "far", "at")
ACROSS = ("v", "dv", "cv", "qv")
"""The coordinates across the axis, which a turned outline gives as diameters."""


def fields_of(segment: AnySegment) -> dict[str, str]:
    """The segment's own names of the plane's coordinates."""
    return PLAN_FIELDS if isinstance(segment, PlanSegment) else TURNED_FIELDS


def to_plane(segment: AnySegment, key: str, value: float) -> float:
    """A given value as the plane has it: diameters halved, angles in radians counter-clockwise from +u."""
    turned = isinstance(segment, TurnedSegment)
    if key in ("angle", "at"):
        return math.pi - math.radians(value) if turned else math.radians(value)
    if key == "sweep":
        return math.radians(value)
    return value / 2 if turned and key in ACROSS else value


def from_plane(segment: AnySegment, key: str, value: float) -> float:
    """A value of the plane as it would be given; angles from -180 (not included) to 180."""
    turned = isinstance(segment, TurnedSegment)
    if key in ("angle", "at"):
        degrees = math.degrees(math.pi - value if turned else value)
        return 180.0 - (180.0 - degrees) % 360.0
    if key == "sweep":
        return math.degrees(value)
    return value * 2 if turned and key in ACROSS else value


def givens(segment: AnySegment) -> dict[str, float]:
    """What is given of a segment as numbers of the plane: u, v, du, dv, cu, cv, qu, qv, length, angle, radius, sweep, far, at."""
    found: dict[str, float] = {}
    names = fields_of(segment)
    for key in (*names, *SAME_FIELDS):
        value = getattr(segment, names.get(key, key))
        if value is None or (key in ("length", "angle") and segment.kind == "arc"):
            continue
        if key in ("radius", "sweep", "cu", "cv") and segment.kind == "line":
            continue
        found[key] = to_plane(segment, key, value)
    return found


def field_name(segment: AnySegment, key: str) -> str:
    """The segment's own name of a value of the plane."""
    return fields_of(segment).get(key, key)
