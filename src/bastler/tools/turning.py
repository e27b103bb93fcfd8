"""A tool that stands still while the work turns: inserts, boring bars, grooving, part-off and threading tools; and what brings a
bar on for the next part: a stop that it comes out to, a puller that goes over it.

Shapes are drawn in the half section of the work: z to the right (out of the part), r upwards (radius), about the *point* that
the program moves. For an insert that is the corner of the two tangents to its nose, as tool setting finds it. The
*orientation* 1–9 says where that corner lies, seen from the nose's centre: 3 toward chuck and axis (outside), 2 toward chuck and
away from the axis (boring), 8 straight toward the axis (grooving outside), 6 away from it (inside), 7 toward the chuck (face).
"""

from __future__ import annotations

import functools
import math
from typing import Annotated, Any, Literal

import msgspec

from bastler.ask import Trouble, ask, choose, pick
from bastler.cutting import ToolMaterial
from bastler.language import decimal, sayable, tr
from bastler.shapes.chain import points_on
from bastler.tools.drawn_edge import CHORD_MM, Edge, chain_of, edge_fault, scaled, strips
from bastler.tools.insert import Insert, InsertCodeError, insert_of
from bastler.tools.naming import said_name
from bastler.tools.tool import COATINGS, EDGE, HOLDER, PLACE, Coating
from bastler.units import Kind, Unit, scale
from bastler.units.text import number_text

Point = tuple[float, float]
Outline = tuple[Point, ...]
TurnKind = Literal["turning", "boring", "grooving", "parting", "threading", "stop", "puller"]
Side = Literal["outside", "inside", "face"]

TURN_WORDS: dict[str, str] = sayable(
    {
        "turning": "turning",
        "boring": "boring bar",
        "grooving": "groove",
        "parting": "part-off",
        "threading": "thread",
        "stop": "bar stop",
        "puller": "bar puller",
    }
)
TOWARD: dict[int, Point] = {
    1: (1, 1), 2: (-1, 1), 3: (-1, -1), 4: (1, -1), 5: (1, 0), 6: (0, 1), 7: (-1, 0), 8: (0, -1), 9: (0, 0),
}  # fmt: skip
"""From the nose's centre to the point, in nose radii (z, r), by orientation."""
NOSE_STEPS = 24
"""Chords of a quarter turn of the nose; tangent points of a move are added exactly."""
MOST_NOSE_STEPS = 400
"""However large a radius is typed: 200 mm have it."""
NOSE_SAG_MM = 0.0004
"""How far, in mm, a chord of a nose may leave it."""
EDGE_SHARES = ((75.0, 2.0 / 3.0), (50.0, 1.0 / 2.0), (0.0, 1.0 / 4.0))
"""How much of an insert's edge may be in the cut, by the least angle of its corner in degrees: slender ones break. Round
figures of our own workshop on the careful side."""
ROUND_SHARE = 0.4
"""Of a round insert's diameter."""
SECOND = 10
"""The second offset of a groove tool is its station and so many, or five times as many where there are that many stations."""
BESIDE = 0.8
"""How far the point of a boring bar stands out beyond the bar, as a share of what the smallest bore leaves beside it."""
TIP_SHARE = 0.8
"""Of the height of a threading tip so much stands free of what holds it."""
STRAIGHT, SLANTED = 0.9, 0.6
"""How wide a blade is behind its edge, as a share of that, where nobody says: with square sides and with such as slant back."""
FAR = 120.0
"""How far, in mm, a holder is drawn."""


def _inserted(t: Any) -> bool:
    return t.kind in ("turning", "boring")


def _grooves(t: Any) -> bool:
    return t.kind in ("grooving", "parting")


def _cuts(t: Any) -> bool:
    return t.kind not in ("stop", "puller")


def _kerfs(t: Any) -> bool:
    return bool(t.kind == "grooving")


def _straight_edge(t: Any) -> bool:
    return _grooves(t) and not t.drawn


def _plain_blade(t: Any) -> bool:
    return _kerfs(t) and not t.drawn


def _rounded(t: Any) -> bool:
    return _straight_edge(t) or _threads(t)


def _on_face(t: Any) -> bool:
    return bool(t.kind == "grooving" and t.side == "face")


def _reaches(t: Any) -> bool:
    return _grooves(t) or t.kind == "puller"


def _threads(t: Any) -> bool:
    return bool(t.kind == "threading")


class TurnTool(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="form", tag="turning"):
    """One turning tool as it stands in the turret. Lengths in `unit`, angles in degrees.

    `insert` is the code after ISO 1832 of turning and boring tools; `approach` the angle between cutting edge and feed (κr).
    A left-hand tool cuts away from the chuck. `width`, `corner_radius` and `reach` (greatest depth) are of grooving and
    part-off tools; they have a second offset, `second`, for the other edge, and `edge` says which one the first is for,
    seen with the chuck on the left. What a groove tool's sides slant back, `flank`, and how thin its `neck` is behind the edge
    let it undercut; `drawn` is an edge of a shape of its own, as wide as `width` then says; of a face-groove tool `least_d` and
    `most_d` are the diameters of its outer edge at which its curved blade finds room, 0 where nobody says. `profile` is the
    included angle of a thread form, `left_flank` its part toward the chuck, `tip` the flat at its end. `bar` is the diameter of
    what goes into a bore, `min_bore` the smallest bore it goes into, `stick_out` how far it reaches; `shank` is the width of a
    square shank.
    """

    id: str
    station: Annotated[int, ask("Station", Kind.COUNT, PLACE, least=0, most=999, helps="In the turret. 0: in the crib.")]
    kind: TurnKind
    name: Annotated[str, pick("Called", "name", PLACE)]
    unit: Unit = "mm"
    side: Annotated[Side, choose("Cuts", {"outside": "Outside", "inside": "Inside", "face": "Face"}, EDGE, when=_cuts)] = (
        "outside"
    )
    insert: Annotated[str, pick("Insert", "word", EDGE, when=_inserted, helps="Code after ISO 1832, as CNMG 120408.")] = ""
    approach: Annotated[float, ask("Approach angle", Kind.ANGLE, EDGE, least=30, most=135, when=_inserted, symbol="KAPR")] = 95.0
    hand: Annotated[Literal["right", "left"], choose("Hand", {"right": "Right", "left": "Left"}, EDGE, when=_cuts)] = "right"
    turns: Annotated[
        Literal["forward", "back"],
        choose(
            "Cuts with the spindle", {"forward": "Forward, M3", "back": "Back, M4"}, PLACE, when=_cuts,
            helps="Turned over in its holder, or on the other side of the axis, a tool cuts with the spindle going back.",
        ),
    ] = "forward"  # fmt: skip
    width: Annotated[float, ask("Width", Kind.LENGTH, EDGE, least=0, below=1e4, when=_straight_edge, symbol="CW")] = 0.0
    corner_radius: Annotated[float, ask("Corner radius", Kind.LENGTH, EDGE, least=0, when=_rounded, symbol="RE")] = 0.0
    tip: Annotated[
        float,
        ask("Flat at the tip", Kind.LENGTH, EDGE, least=0, below=100, when=_threads, helps="0: what its corner radius makes."),
    ] = 0.0
    reach: Annotated[float, ask("Greatest depth", Kind.LENGTH, EDGE, least=0, below=1e4, when=_reaches, symbol="CDX")] = 0.0
    flank: Annotated[
        float,
        ask(
            "Sides slant back",
            Kind.ANGLE,
            EDGE,
            least=0,
            most=60,
            when=_plain_blade,
            late=True,
            helps="From square. A dovetail's.",
        ),
    ] = 0.0
    neck: Annotated[
        float,
        ask(
            "Neck behind the edge",
            Kind.LENGTH,
            EDGE,
            least=0,
            below=1e4,
            when=_plain_blade,
            late=True,
            helps="How wide the blade is there; 0: nearly as wide as the edge.",
        ),
    ] = 0.0
    drawn: Annotated[
        Edge, pick("Its edge", "edge", EDGE, when=_kerfs, late=True, helps="Ground to a shape of its own, as an outline has it.")
    ] = ()
    least_d: Annotated[
        float,
        ask(
            "Enters from Ø",
            Kind.LENGTH,
            EDGE,
            least=0,
            below=1e4,
            when=_on_face,
            symbol="DAXN",
            helps="The smallest circle of its outer edge that its blade, which is curved, finds room in. 0: not known.",
        ),
    ] = 0.0
    most_d: Annotated[
        float,
        ask(
            "Enters up to Ø",
            Kind.LENGTH,
            EDGE,
            least=0,
            below=1e5,
            when=_on_face,
            symbol="DAXX",
            helps="0: as large as you like.",
        ),
    ] = 0.0
    edge: Annotated[
        Literal["left", "right"],
        choose("First offset is of the", {"left": "Left edge", "right": "Right edge"}, EDGE, when=_grooves),
    ] = "left"
    profile: Annotated[float, ask("Thread angle", Kind.ANGLE, EDGE, least=10, most=90, when=_threads, symbol="PNA")] = 60.0
    left_flank: Annotated[
        float,
        ask(
            "Left flank",
            Kind.ANGLE,
            EDGE,
            least=0,
            most=60,
            when=_threads,
            late=True,
            helps="From square, the chuck on the left, of a tip whose flanks differ; 0: half of the thread angle.",
        ),
    ] = 0.0
    bar: Annotated[float, ask("Bar diameter", Kind.LENGTH, HOLDER, least=0, below=1e4, symbol="DMM")] = 0.0
    min_bore: Annotated[float, ask("Smallest bore", Kind.LENGTH, HOLDER, least=0, below=1e4, symbol="DMIN")] = 0.0
    stick_out: Annotated[float, ask("Sticks out", Kind.LENGTH, HOLDER, least=0.05, most=1000, symbol="LPR")] = 40.0
    shank: Annotated[float, ask("Shank width", Kind.LENGTH, HOLDER, least=0.05, most=1000, symbol="B")] = 20.0
    length_x: Annotated[float, ask("Offset X", Kind.LENGTH, PLACE, least=-1e4, most=1e4)] = 60.0
    length_z: Annotated[float, ask("Offset Z", Kind.LENGTH, PLACE, least=-1e4, most=1e4)] = 40.0
    offset: Annotated[
        int,
        ask(
            "Second offset",
            Kind.COUNT,
            PLACE,
            least=0,
            most=999,
            when=_grooves,
            helps="Of the other edge; 0: the next free.",
        ),
    ] = 0
    material: Annotated[ToolMaterial, choose("Made of", {"hss": "HSS", "carbide": "Carbide"}, EDGE)] = "carbide"
    coating: Annotated[Coating, choose("Coating", {c: c or "None" for c in COATINGS}, EDGE)] = ""

    def troubles(self) -> list[Trouble]:
        """Contradictions between what is said of the tool."""
        try:
            insert = self.iso
        except InsertCodeError as error:
            return [Trouble("insert", str(error))]
        if _inserted(self) != (insert is not None):
            return [Trouble("insert", tr("Turning and boring tools have an insert code, others none."))]
        if _threads(self) and self.corner_radius > 0 and self.tip > 0 and self.flat > self.tip + 1e-9:
            return [Trouble("tip", tr("Its corners alone make {flat:.4g}.", flat=self.flat), self.flat)]
        if _threads(self) and self.left_flank >= self.profile:
            return [Trouble("left_flank", tr("Has to be less than the thread angle, {profile:g}°.", profile=self.profile), 0.0)]
        if self.kind == "puller" and not 0.01 <= self.reach <= 500:
            return [Trouble("reach", tr("Has to be between 0.01 and 500: so far it goes over the bar."))]
        if not _grooves(self):
            return []
        if not 0.01 <= self.width <= 100:
            return [Trouble("width", tr("Has to be between 0.01 and 100."))]
        if not 0.01 <= self.reach <= 500:
            return [Trouble("reach", tr("Has to be between 0.01 and 500."))]
        if self.drawn and (why := edge_fault(self.drawn)):
            return [Trouble("drawn", why)]
        if self.drawn and abs(self.drawn[-1].x - self.width) > 1e-6 * max(self.width, 1.0):
            return [Trouble("drawn", tr("Its edge is not as wide as the tool."))]
        if not self.drawn and self.corner_radius > self.width / 2:
            return [Trouble("corner_radius", tr("Has to be {width:g} or less.", width=self.width / 2), self.width / 2)]
        if self.neck >= self.width:
            return [Trouble("neck", tr("Has to be less than the width of the edge, {width:g}.", width=self.width), 0.0)]
        if self.most_d and self.most_d < self.least_d:
            return [
                Trouble("most_d", tr("Has to be more than the Ø from which it enters, {least_d:g}.", least_d=self.least_d), 0.0)
            ]
        return []

    def in_unit(self, unit: Unit) -> TurnTool:
        """The same tool with its lengths in another unit."""
        k = scale(self.unit, unit)
        if k == 1.0:
            return self
        names = (
            "width", "corner_radius", "tip", "reach", "neck", "least_d", "most_d",
            "bar", "min_bore", "stick_out", "shank", "length_x", "length_z",
        )  # fmt: skip
        lengths = {name: getattr(self, name) * k for name in names}
        return msgspec.structs.replace(self, unit=unit, drawn=scaled(self.drawn, k), **lengths)

    @property
    def mm(self) -> float:
        """One millimetre in the tool's unit."""
        return scale("mm", self.unit)

    @property
    def second(self) -> int:
        """The number of the offset of the other edge; 0 for a tool that has but one."""
        return (self.offset or self.station + SECOND) if self.kind in ("grooving", "parting") else 0

    def standing(self, station: int, stations: int) -> TurnTool:
        """The tool in a station of a turret with so many of them: its second offset is none of theirs."""
        apart = SECOND if stations <= SECOND else 5 * SECOND
        computed = _grooves(self) and not self.offset
        return msgspec.structs.replace(self, station=station, offset=station + apart if computed else self.offset)

    @property
    def other_edge(self) -> Point:
        """From the point to that of the second offset, (z, r): the other corner of a groove tool."""
        z, r = ([p[k] for p in self.cutting] for k in (0, 1))
        if self.side == "face":
            return (0.0, max(r) + min(r))
        return (max(z) + min(z), 0.0)

    @property
    def iso(self) -> Insert | None:
        """What the insert's code says, None for tools without one."""
        return insert_of(self.insert) if self.insert else None

    @property
    def nose(self) -> float:
        """Radius of the nose: of the insert's corner, or of the corners of a groove tool."""
        iso = self.iso
        return iso.radius * self.mm if iso else 0.0 if self.drawn else self.corner_radius

    @property
    def round_nosed(self) -> bool:
        """Is the end of a groove tool one full radius?"""
        return _straight_edge(self) and self.corner_radius >= self.width / 2 - 1e-9

    @property
    def flat(self) -> float:
        """Of a threading tool: how wide its tip is between the flanks led on to it. A full radius r makes r (1 - sin α) / cos α
        on each side, α that flank's angle from square."""
        angles = (math.radians(flank) for flank in self.flanks)
        return max(self.tip, sum(self.corner_radius * (1 - math.sin(a)) / math.cos(a) for a in angles))

    @property
    def flanks(self) -> tuple[float, float]:
        """Of a threading tool: the angles of its left and its right flank from square, in degrees."""
        left = self.left_flank or self.profile / 2
        return left, self.profile - left

    @property
    def tip_reach(self) -> float:
        """Of a threading tool that is not for bores: how deep its tip goes before what holds it comes to the work."""
        return TIP_SHARE * (self.width or 4.0 * self.mm)

    @property
    def holds(self) -> bool:
        """Does it hold a bar, and cut nothing?"""
        return self.kind in ("stop", "puller")

    @property
    def inside(self) -> bool:
        return self.side == "inside" or self.kind == "boring"

    @property
    def orientation(self) -> int:
        """1–9, where the point lies seen from the nose's centre."""
        if self.kind in ("turning", "boring"):
            return {(False, "right"): 3, (False, "left"): 4, (True, "right"): 2, (True, "left"): 1}[self.inside, self.hand]
        if self.kind == "threading":
            return 7 if self.side == "face" else 6 if self.inside else 8
        if self.side == "face":
            return 2 if self.edge == "left" else 3
        toward = {("outside", "left"): 3, ("outside", "right"): 4, ("inside", "left"): 2, ("inside", "right"): 1}
        return toward[self.side, self.edge]

    @property
    def centre(self) -> Point:
        """The nose's centre seen from the point, (z, r)."""
        z, r = TOWARD[self.orientation]
        return (-z * self.nose, -r * self.nose)

    @property
    def back_angle(self) -> float:
        """How steeply the tip may go into a recess: the angle of its trailing edge with the axis, in degrees."""
        iso = self.iso
        if iso is None:
            return 90.0
        return 90.0 if iso.shape == "R" else max(180.0 - self.approach - iso.corner, 0.0)

    @property
    def front_angle(self) -> float:
        """How steep a wall the leading edge clears, in degrees from the axis: 95 clears a square shoulder with 5° to spare."""
        return 90.0 if self.iso is None else max(self.approach, 90.0) if self.iso.shape == "R" else self.approach

    @property
    def edge_in_cut(self) -> float:
        """The longest cut its edge may take, along the edge."""
        iso = self.iso
        if iso is None:
            return self.reach or self.width
        if iso.shape == "R":
            return ROUND_SHARE * iso.edge * self.mm
        return next(share for least, share in EDGE_SHARES if iso.corner >= least) * iso.edge * self.mm

    @property
    def called(self) -> str:
        """Its name as it is said in the language in force."""
        return said_name(self.name)

    @property
    def says(self) -> str:
        """`T1 C 80° r0.8`, or `T4 groove 3`."""
        return f"T{self.station} {self.size}"

    @property
    def size(self) -> str:
        """The tool as people call it; by its code where that is none, as while it is being typed."""
        try:
            iso = self.iso
        except InsertCodeError:
            return f"{self.insert[:12]}?"
        if iso:
            what = tr("bore ") if self.kind == "boring" else ""
            angle = tr("round") if iso.shape == "R" else decimal(f"{iso.shape} {iso.corner:g}°")
            return what + decimal(f"{angle} r{iso.radius:g}")
        where = tr(" inside") if self.side == "inside" else tr(" face") if self.side == "face" else ""
        if self.kind == "threading":
            return (
                tr("thread {profile:g}°{where}", profile=self.profile, where=where)
                if not self.left_flank
                else tr("buttress {profile:g}°{where}", profile=self.profile, where=where)
            )
        if self.holds:
            return tr(TURN_WORDS[self.kind])
        if self.round_nosed and self.kind == "grooving":
            return tr(
                "groove{where} R{corner_radius}",
                where=where,
                corner_radius=number_text(self.corner_radius, Kind.LENGTH, self.unit),
            )
        if self.flank:
            return tr("dovetail{where} {width}", where=where, width=number_text(self.width, Kind.LENGTH, self.unit))
        if self.drawn:
            return tr("form{where} {width}", where=where, width=number_text(self.width, Kind.LENGTH, self.unit))
        return f"{tr(TURN_WORDS[self.kind])}{where} {number_text(self.width, Kind.LENGTH, self.unit)}"

    @property
    def cutting(self) -> Outline:
        """What cuts, about the point: an outline (z, r), convex but for an edge that is drawn."""
        return _cutting(self)

    @property
    def cutting_pieces(self) -> tuple[Outline, ...]:
        """What cuts in convex pieces."""
        return _strips(self) if self.drawn else (self.cutting,)

    @property
    def body(self) -> tuple[Outline, ...]:
        """What must not touch: convex outlines of blade, shank or bar, about the point."""
        return _body(self)


@functools.lru_cache(maxsize=256)
def _cutting(tool: TurnTool) -> Outline:
    iso = tool.iso
    if iso is not None:
        return _placed(tool, _round(tool) if iso.shape == "R" else _cornered(tool, iso))
    if tool.holds:
        return _face(tool)
    if tool.kind == "threading":
        return _thread_form(tool)
    return _form(tool) if tool.drawn else _blade_tip(tool)


def _form(tool: TurnTool) -> Outline:
    """An insert with an edge of its own shape, and a straight top."""
    left, high = _middle(tool) - tool.width / 2, _form_high(tool)
    edge = points_on(chain_of(tool.drawn), CHORD_MM * tool.mm)
    return _turned(tool, [(left + x, y) for x, y in (*edge, (edge[-1][0], high), (edge[0][0], high))])


@functools.lru_cache(maxsize=64)
def _strips(tool: TurnTool) -> tuple[Outline, ...]:
    left = _middle(tool) - tool.width / 2
    pieces = strips(tool.drawn, CHORD_MM * tool.mm, _form_high(tool))
    return tuple(_turned(tool, [(left + x, y) for x, y in piece]) for piece in pieces)


def _form_high(tool: TurnTool) -> float:
    """How high an insert of its own shape is: over its edge by a quarter of its width."""
    deep = max(y for _, y in points_on(chain_of(tool.drawn), CHORD_MM * tool.mm))
    return deep + max(tool.width / 4, 0.1 * tool.mm)


def _placed(tool: TurnTool, shape: list[Point]) -> Outline:
    """From orientation 3 to the tool's own by mirroring: about the axis for boring, about the radius for left hand."""
    flip_r = -1.0 if tool.inside else 1.0
    flip_z = -1.0 if tool.hand == "left" else 1.0
    return tuple((z * flip_z, r * flip_r) for z, r in shape)


def _round(tool: TurnTool) -> list[Point]:
    """A round insert, its point where its two tangents meet, as tool setting finds it."""
    radius, steps = tool.nose, _nose_steps(tool)
    angles = (math.pi * k / (2 * steps) for k in range(4 * steps))
    return [(radius + radius * math.cos(a), radius + radius * math.sin(a)) for a in angles]


def _nose_steps(tool: TurnTool) -> int:
    """Chords of a quarter turn: more for a large radius, whose chords would leave it by more."""
    sag = NOSE_SAG_MM * tool.mm
    turn = math.acos(max(1 - sag / max(tool.nose, sag), 0.0))
    return min(max(NOSE_STEPS, math.ceil(math.pi / 4 / max(turn, 1e-6))), MOST_NOSE_STEPS)


def _cornered(tool: TurnTool, iso: Insert) -> list[Point]:
    """The corner of orientation 3: leading edge at 180° - κr, trailing edge at that less the corner's angle."""
    re = tool.nose
    lead = math.radians(180.0 - tool.approach)
    trail = lead - math.radians(iso.corner)
    edge = iso.edge * tool.mm
    apex = re / math.sin(math.radians(iso.corner / 2))
    middle = (lead + trail) / 2
    sharp = (re - apex * math.cos(middle), re - apex * math.sin(middle))
    a = (sharp[0] + edge * math.cos(lead), sharp[1] + edge * math.sin(lead))
    b = (sharp[0] + edge * math.cos(trail), sharp[1] + edge * math.sin(trail))
    far = (a[0] + b[0] - sharp[0], a[1] + b[1] - sharp[1])
    points = [a, far, b] if iso.shape in "ABCDEKLMSV" else [a, b]
    first, last = math.degrees(trail) - 90.0, math.degrees(lead) + 90.0 - 360.0
    count = max(3, math.ceil((first - last) / 90.0 * _nose_steps(tool)))
    angles = sorted(
        {first + (last - first) * k / count for k in range(count + 1)} | {a for a in (-90.0, -180.0) if last < a < first}
    )
    arc = [(re + re * math.cos(math.radians(w)), re + re * math.sin(math.radians(w))) for w in reversed(angles)]
    return points + [(0.0 if abs(z) < 1e-12 else z, 0.0 if abs(r) < 1e-12 else r) for z, r in arc]


def _blade_tip(tool: TurnTool) -> Outline:
    """The end of a blade: two rounded corners and as much of its sides as cuts."""
    half, middle = _right_half(tool), _middle(tool)
    return _turned(tool, [*((middle - x, y) for x, y in reversed(half)), *((middle + x, y) for x, y in half)])


def _middle(tool: TurnTool) -> float:
    """Where the middle of a blade is, drawn for outside."""
    return tool.width / 2 if tool.edge == "left" else -tool.width / 2


def _right_half(tool: TurnTool) -> list[Point]:
    """The right half of a blade's head about its middle, from the floor up."""
    if tool.drawn:
        return [(tool.width / 2, 0.0), (tool.width / 2, _form_high(tool))]
    corner = [(tool.width / 2 - tool.corner_radius + x, y) for x, y in _right_corner(tool)]
    top = _head_top(tool, corner[-1])
    return [*corner, top] if math.dist(top, corner[-1]) > 1e-9 else corner


def _right_corner(tool: TurnTool) -> list[Point]:
    """The rounded corner from the floor up to the side, from its centre's length: past a half turn where the sides slant back, or
    where the neck behind a full radius is thinner."""
    c = tool.corner_radius
    if c <= 0:
        return [(0.0, 0.0)]
    over = math.radians(min(max(tool.flank, 0.0), 60.0))  # as it may be while it is typed
    if tool.round_nosed and tool.neck:
        over = math.acos(min(max(tool.neck / 2 / c, 0.0), 1.0))
    steps = math.ceil(_nose_steps(tool) * (1 + 2 * over / math.pi))
    turns = (-math.pi / 2 + (math.pi / 2 + over) * k / steps for k in range(steps + 1))
    return [(c * math.cos(a), c + c * math.sin(a)) for a in turns]


def _head_top(tool: TurnTool, side: Point) -> Point:
    """Where the right side of a blade's head ends, over the end of its corner: where slanting sides come to the neck, or as
    high as it is wide."""
    if tool.round_nosed and tool.neck:
        return side
    if tool.flank:
        end = min(_neck(tool) / 2, side[0])
        return (end, side[1] + (side[0] - end) / math.tan(math.radians(min(max(tool.flank, 1e-3), 60.0))))
    return (tool.width / 2, max(2 * tool.corner_radius, min(tool.reach or tool.width, tool.width)))


def _neck(tool: TurnTool) -> float:
    """How wide a blade is behind its edge."""
    return tool.neck or (SLANTED if tool.flank else STRAIGHT) * tool.width


def _face(tool: TurnTool) -> Outline:
    """What a bar comes to: a stop's face, about the axis; of a puller what lies behind its jaws, which open as wide as the bar is
    and are no part of this."""
    z, half = (tool.reach if tool.kind == "puller" else 0.0), tool.shank / 2
    return ((z, -half), (z + 0.3 * tool.shank, -half), (z + 0.3 * tool.shank, half), (z, half))


def _quarter(begin: float, end: float) -> list[float]:
    return [begin + (end - begin) * k / NOSE_STEPS for k in range(NOSE_STEPS + 1)]


def _turned(tool: TurnTool, points: list[Point]) -> Outline:
    """From an outside tool to an inside or face one. A face tool's left edge is the one away from the axis."""
    if tool.side == "inside":
        return tuple((z, -r) for z, r in points)
    if tool.side == "face":
        return tuple((r, -z) for z, r in points)
    return tuple(points)


def _thread_form(tool: TurnTool) -> Outline:
    """A tip of the profile's angle, its flat between two rounded corners; half as high again as it is wide at 60 degrees."""
    left, right = (_half_form(tool, math.radians(flank)) for flank in tool.flanks)
    points = [*((-z, r) for z, r in reversed(left)), *right]
    return _turned(tool, [p for k, p in enumerate(points) if k == 0 or math.dist(p, points[k - 1]) > 1e-9])


def _half_form(tool: TurnTool, half: float) -> list[Point]:
    """One side of a thread form from its tip up, whose flank stands that angle off square."""
    flat, high, c = tool.flat / 2, tool.width or 4.0 * tool.mm, tool.corner_radius
    turn = math.pi / 2 - half
    middle = flat - c * math.tan(turn / 2)
    corner = [(middle + c * math.sin(a), c - c * math.cos(a)) for a in (turn * k / NOSE_STEPS for k in range(NOSE_STEPS + 1))]
    return [*(corner if c > 0 else [(flat, 0.0)]), (flat + high * math.tan(half), high)]


@functools.lru_cache(maxsize=256)
def _body(tool: TurnTool) -> tuple[Outline, ...]:
    if tool.kind in ("turning", "boring") and not tool.inside:
        return (_placed(tool, _head(tool)),)
    if tool.inside:
        return _bar(tool)
    if tool.holds:
        z, half, far = _face(tool)[0][0], tool.shank / 2, FAR * tool.mm
        return (((z, -half), (z + tool.shank, -half), (z + tool.shank, far), (z, far)),)
    return _blade(tool)


def _head(tool: TurnTool) -> list[Point]:
    """Head and shank of an outside tool: between lines parallel to the two edges, set back from the corner."""
    iso = tool.iso
    assert iso is not None
    far, w = FAR * tool.mm, tool.shank
    if iso.shape == "R":
        c, low = tool.nose, 1.6 * tool.nose
        half = 0.9 * tool.nose
        return [(c - half, low), (c + half, low), (c + max(w - half, half), far), (c - half, far)]
    lead = math.radians(180.0 - tool.approach)
    trail = lead - math.radians(iso.corner)
    middle, back = (lead + trail) / 2, 0.42 * iso.edge * tool.mm
    a = (back * math.cos(middle), back * math.sin(middle))
    up = far - a[1]
    left = (a[0] + up / math.tan(lead) if abs(math.cos(lead)) > 1e-9 else a[0], far)
    reach = w + max(left[0] - a[0], 0.0)
    right_r = a[1] + reach * math.tan(trail)
    return [a, (a[0] + reach, min(right_r, far)), (a[0] + reach, far), left]


def _bar(tool: TurnTool) -> tuple[Outline, ...]:
    """A round bar along the axis behind the insert, and the holder it sits in; the point stands out beyond the bar."""
    mm = tool.mm
    bar = tool.bar or 10.0 * mm
    out = max(BESIDE * (tool.min_bore - bar), 1.0 * mm) if tool.min_bore else tool.reach + 1.0 * mm
    neck = -min(out, max(tool.reach, 0.0) or out)
    begin = (tool.width if tool.kind == "grooving" and tool.edge == "left" else 0.0) + 0.4 * mm
    rod = ((begin, neck), (begin, neck - bar), (tool.stick_out, neck - bar), (tool.stick_out, neck))
    wide = bar * 1.1
    holder = (
        (tool.stick_out, neck - bar / 2 + wide),
        (tool.stick_out, neck - bar / 2 - wide),
        (tool.stick_out + 40 * mm, neck - bar / 2 - wide),
        (tool.stick_out + 40 * mm, neck - bar / 2 + wide),
    )
    if tool.kind != "grooving" or tool.reach <= _right_half(tool)[-1][1]:
        return (rod, holder)
    return (rod, holder, _turned(tool, _stalk(tool)))


def _blade(tool: TurnTool) -> tuple[Outline, ...]:
    """The blade of a grooving, part-off or threading tool, a little narrower than its edge, and the shank behind it."""
    mm = tool.mm
    if tool.kind == "threading":
        high = tool.width or 4.0 * mm
        half = high * math.tan(math.radians(tool.profile / 2)) * 0.6
        back = [
            (-half, high * TIP_SHARE),
            (tool.shank - half, high * TIP_SHARE),
            (tool.shank - half, FAR * mm),
            (-half, FAR * mm),
        ]
        return (_turned(tool, back),)
    neck, far = _stalk(tool), FAR * mm
    side = neck[0][0]
    edge = _middle(tool) - tool.width / 2
    shank = [(side, tool.reach), (edge + tool.shank, tool.reach), (edge + tool.shank, far), (side, far)]
    return tuple(_turned(tool, part) for part in (neck, shank))


def _stalk(tool: TurnTool) -> list[Point]:
    """The blade between its head and its reach; drawn as the head is."""
    middle, half, low = _middle(tool), _neck(tool) / 2, 0.98 * _right_half(tool)[-1][1]
    high = max(tool.reach, low)
    return [(middle - half, low), (middle + half, low), (middle + half, high), (middle - half, high)]
