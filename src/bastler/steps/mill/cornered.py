"""Figures with corners: the rectangle outside, and regular polygons inside and outside."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import tr
from bastler.shapes import Frame
from bastler.shapes.corners import Corner
from bastler.shapes.figures import across_corners, polygon, rectangle, regular
from bastler.shapes.region import Loop
from bastler.steps.base import Arrival, Dim, Given, Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, number
from bastler.steps.mill.area import ENTRY, SHAPE, TIGHTEST, WHERE, CentreX, CentreY, TurnedBy
from bastler.steps.mill.boss import BossStep
from bastler.steps.mill.ringed import LoopedStep
from bastler.units import Kind

CORNERS = {"sharp": "Sharp", "radius": "Radius", "edge": "Edge break"}


SIDES = {"flats": "Flats", "corners": "Corners"}
SideTurned = Annotated[float, ask("Turned by", Kind.ANGLE, WHERE, helps="At 0 a side stands square to X.")]
Sides = Annotated[int, ask("How many sides", Kind.COUNT, SHAPE, least=3, most=60)]
SizeOver = Annotated[Literal["flats", "corners"], choose("Size over", SIDES, SHAPE)]
Flats = Annotated[float, ask("Across flats", Kind.LENGTH, SHAPE, above=0, when=is_("by", "flats"))]
OverCorners = Annotated[float, ask("Over corners", Kind.LENGTH, SHAPE, above=0, when=is_("by", "corners"))]
Corners = Annotated[Literal["sharp", "radius", "edge"], choose("Corners", CORNERS, SHAPE)]
CornerRadius = Annotated[float, ask("Corner radius", Kind.LENGTH, SHAPE, above=0, when=is_("corner", "radius"))]
CornerLeg = Annotated[float, ask("Leg of the edge", Kind.LENGTH, SHAPE, above=0, when=is_("corner", "edge"))]


def corner_of(s: Answers) -> Corner | None:
    """What is put in every corner."""
    if s.corner == "radius":
        return Corner("radius", s.corner_radius)
    return Corner("edge", s.corner_leg) if s.corner == "edge" else None


def corner_troubles(s: Answers, wrong: str) -> list[Trouble]:
    """A corner that is larger than its sides, said where it is asked for."""
    return [Trouble("corner_radius" if s.corner == "radius" else "corner_leg", wrong)] if wrong else []


def placed_dims(s: Answers) -> tuple[Dim, ...]:
    """Centre and angle."""
    frame = Frame(s.x, s.y, s.angle)
    return (
        Dim("x", "plan", "along x", (0.0, 0.0), (s.x, s.y), -1),
        Dim("y", "plan", "along y", (0.0, 0.0), (s.x, s.y), -1),
        Dim("angle", "plan", "angle", (s.x, s.y), frame.place(_reach(s), 0.0)),
    )


def _reach(s: Answers) -> float:
    return float(s.length / 2 if hasattr(s, "length") else s.flats / 2)


@step("Rectangle outside", "Outside", "Leaves a rectangle, clears to the stock's edge", rank=2)
class RectangularBoss(BossStep, frozen=True, kw_only=True, tag="rectangular-boss"):
    """Answers of a rectangle that stays."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    angle: TurnedBy = 0.0
    length: Annotated[float, ask("Length", Kind.LENGTH, SHAPE, above=0)] = 40.0
    width: Annotated[float, ask("Width", Kind.LENGTH, SHAPE, above=0)] = 25.0
    corner: Corners = "radius"
    corner_radius: CornerRadius = 3.0
    corner_leg: CornerLeg = 1.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        length, width = at.rounded(0.75 * at.size[0]), at.rounded(0.7 * at.size[1])
        corner = at.rounded(0.08 * min(at.size[:2]))
        return at.centred() | {
            "length": length, "width": width, "depth": at.deep(0.2), "corner_radius": corner, "corner_leg": corner / 2,
        }  # fmt: skip

    def boss(self, ctx: FlatContext) -> Loop:
        return polygon(rectangle(Frame(self.x, self.y, self.angle), self.length, self.width), corner_of(self))[0]

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        return corner_troubles(self, polygon(rectangle(Frame(0, 0), self.length, self.width), corner_of(self))[1])

    def sketch(self, ctx: FlatContext) -> Sketch:
        frame, a, b = Frame(self.x, self.y, self.angle), self.length / 2, self.width / 2
        dims = (
            *placed_dims(self),
            Dim("length", "plan", "aligned", frame.place(-a, b), frame.place(a, b), 1),
            Dim("width", "plan", "aligned", frame.place(a, b), frame.place(a, -b), 1),
            *_corner_dims(self, frame, a, b),
        )
        return self.section_sketch(ctx, dims, (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        turned = tr(", at {angle:g}°", angle=self.angle) if self.angle else ""
        return tr(
            "{length} × {width}, {depth} high{turned}",
            length=number(self.length, ctx),
            width=number(self.width, ctx),
            depth=number(self.depth, ctx),
            turned=turned,
        )


def _corner_dims(s: Answers, frame: Frame, a: float, b: float) -> tuple[Dim, ...]:
    if s.corner != "radius":
        return ()
    r, off = s.corner_radius, s.corner_radius * (1 - math.sqrt(0.5))
    return (Dim("corner_radius", "plan", "radius", frame.place(a - r, b - r), frame.place(a - off, b - off)),)


class _Polygon:
    """What polygons inside and outside share; mixed into a ringed step that has the answers."""

    def across(self: Answers) -> float:
        """The size across the flats."""
        return float(self.flats if self.by == "flats" else self.corners * math.cos(math.pi / self.sides))

    def loop(self: Answers) -> Loop:
        return polygon(regular(Frame(self.x, self.y, self.angle), self.sides, self.across()), corner_of(self))[0]

    def shape_troubles(self: Answers, ctx: FlatContext) -> list[Trouble]:
        return corner_troubles(self, polygon(regular(Frame(0, 0), self.sides, self.across()), corner_of(self))[1])

    def sketch(self: Answers, ctx: FlatContext) -> Sketch:
        frame, half = Frame(self.x, self.y, self.angle), self.across() / 2
        far = across_corners(self.sides, 2 * half) / 2
        turn = math.pi / self.sides
        if self.by == "flats":
            size = Dim("flats", "plan", "aligned", frame.place(half, -far), frame.place(-half, -far), 1)
        else:
            tip = (far * math.cos(turn), far * math.sin(turn))
            size = Dim("corners", "plan", "diameter", frame.place(-tip[0], -tip[1]), frame.place(*tip))
        made: Sketch = self.section_sketch(ctx, (*placed_dims(self), size), (self.x, self.y))
        return made

    def words(self: Answers, ctx: FlatContext) -> str:
        size = (
            tr("{flats} across flats", flats=number(self.flats, ctx))
            if self.by == "flats"
            else tr("Ø{corners} over corners", corners=number(self.corners, ctx))
        )
        return tr("{sides} sides, {size}", sides=self.sides, size=size)


@step("Polygon pocket", "Pockets", "Regular, by its flats or its corners", rank=5)
class PolygonPocket(_Polygon, LoopedStep, frozen=True, kw_only=True, tag="polygon-pocket"):
    """Answers of a polygon inside."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    angle: SideTurned = 0.0
    sides: Sides = 6
    by: SizeOver = "flats"
    flats: Flats = 30.0
    corners: OverCorners = 34.64
    corner: Corners = "sharp"
    corner_radius: CornerRadius = 3.0
    corner_leg: CornerLeg = 1.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return _polygon_arrives(at, 0.4)

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        return [self.loop()]

    def summary(self, ctx: FlatContext) -> str:
        return tr("{words}, {depth} deep", words=self.words(ctx), depth=number(self.depth, ctx))


@step("Polygon outside", "Outside", "Regular, clears to the stock's edge", rank=4)
class PolygonBoss(_Polygon, BossStep, frozen=True, kw_only=True, tag="polygon-boss"):
    """Answers of a polygon that stays."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    angle: SideTurned = 0.0
    sides: Sides = 6
    by: SizeOver = "flats"
    flats: Flats = 30.0
    corners: OverCorners = 34.64
    corner: Corners = "sharp"
    corner_radius: CornerRadius = 3.0
    corner_leg: CornerLeg = 1.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return _polygon_arrives(at, 0.7)

    def boss(self, ctx: FlatContext) -> Loop:
        return self.loop()

    def summary(self, ctx: FlatContext) -> str:
        return tr("{words}, {depth} high", words=self.words(ctx), depth=number(self.depth, ctx))


def _polygon_arrives(at: Arrival, share: float) -> dict[str, Any]:
    flats = at.rounded(share * min(at.size[:2]))
    corners = round(across_corners(6, flats), 2 if at.unit == "mm" else 3)
    small = max(at.rounded(flats * 0.1), TIGHTEST)
    return at.centred() | {
        "flats": flats, "corners": corners, "depth": at.deep(0.2), "corner_radius": small, "corner_leg": small / 2,
    }  # fmt: skip
