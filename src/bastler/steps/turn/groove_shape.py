"""Where a groove is and what shape it has: straight walls and a floor, or an outline of its own.

In the groove's view the surface is above and the floor below; *right* is the side the tool comes from. Angles are of the walls
from square: 15 on one side opens the groove by that much, -15 undercuts that side.
"""

from __future__ import annotations

import functools
import itertools
import math
import re
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import shapely
from shapely.geometry import LineString

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.language import many, sayable, tr, tr_as
from bastler.motion.turning import View
from bastler.motion.turning.grooves import open_ended
from bastler.shapes import NOTHING, Drawn, Line, Segment, draw
from bastler.shapes.chain import moved, points_on, reversed_chain
from bastler.shapes.corners import Corner, join
from bastler.shapes.kinds import Region
from bastler.shapes.rounded import Point
from bastler.steps.base import Arrival, Dim, Given, TurnSketch
from bastler.steps.cut import TOOL, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.pecks import HOW, PeckedStep
from bastler.tools import TurnTool
from bastler.tools.drawn_edge import chain_of
from bastler.units import ExpressionError, Kind, evaluate, in_a_sentence

SIDES_SAID = sayable(("left", "right", "middle", "outside", "inside", "face", "on"))
"""What edges, lips and sides are called within a sentence."""
WHERE, SHAPE = "Where", "Shape"
RUN = 2.0
"""So far, in mm, the surface beside a groove is drawn along with it."""


def face(s: Answers) -> bool:
    return bool(s.side == "face")


def straight(s: Answers) -> bool:
    return bool(s.shape == "straight")


def as_insert(s: Answers) -> bool:
    return bool(s.shape == "insert")


_own = is_("shape", "own")
_placed = isnt("shape", "own")


def _round(s: Answers) -> bool:
    return _placed(s) and not face(s)


def _faced(s: Answers) -> bool:
    return _placed(s) and face(s)


def _several(s: Answers) -> bool:
    return bool(s.count > 1)


def _evenly(s: Answers) -> bool:
    return _several(s) and s.apart == "even"


def _unevenly(s: Answers) -> bool:
    return _several(s) and s.apart == "own"


def _other_edge(s: Answers, ctx: TurnedContext) -> float:
    return float(s.edge_break)


def _other_radius(s: Answers, ctx: TurnedContext) -> float:
    return float(s.corner_radius)


class GrooveShape(PeckedStep, frozen=True, kw_only=True):
    """One groove or several: where they are and what is gone after them."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, HOW, TOOL)

    side: Annotated[
        Literal["outside", "inside", "face"],
        choose("Groove", {"outside": "Outside", "inside": "In the bore", "face": "On the face"}, WHERE),
    ] = "outside"
    z: Annotated[float, ask("Right edge of floor Z", Kind.LENGTH, WHERE, when=_round, helps="Of the first groove.")] = -20.0
    outer_d: Annotated[float, ask("Outer edge of floor Ø", Kind.LENGTH, WHERE, above=0, when=_faced)] = 30.0
    count: Annotated[int, ask("How many", Kind.COUNT, WHERE, least=1, most=50)] = 1
    apart: Annotated[
        Literal["even", "own"], choose("They are", {"even": "Evenly apart", "own": "Each so far apart"}, WHERE, when=_several)
    ] = "even"
    pitch: Annotated[
        float, ask("Pitch", Kind.LENGTH, WHERE, above=0, when=_evenly, helps="Toward the chuck; on a face toward the axis.")
    ] = 10.0
    pitches: Annotated[
        str, pick("Distances", "numbers", WHERE, when=_unevenly, helps="From one to the next, as 8, 12.5, 3*4.")
    ] = ""
    shape: Annotated[
        Literal["straight", "own", "insert"],
        choose(
            "Its shape", {"straight": "Straight", "own": "Drawn", "insert": "As the insert"}, SHAPE, late=True,
            helps="Drawn from lip to lip, where it lies on the part; or as an insert is ground that has an edge of its own.",
        ),
    ] = "straight"  # fmt: skip
    outline: Annotated[str, pick("Outline", "outline", SHAPE, when=_own, late=True)] = ""
    width: Annotated[float, ask("Width of floor", Kind.LENGTH, SHAPE, above=0, when=straight)] = 4.0
    floor_d: Annotated[float, ask("Floor Ø", Kind.LENGTH, SHAPE, above=0, when=_round)] = 30.0
    depth: Annotated[float, ask("How deep", Kind.LENGTH, SHAPE, above=0, when=_faced)] = 3.0
    right_angle: Annotated[
        float, ask("Right wall slants", Kind.ANGLE, SHAPE, least=-45, most=60, when=straight, helps="0 is square, -15 undercuts.")
    ] = 0.0
    left_angle: Annotated[float, ask("Left wall slants", Kind.ANGLE, SHAPE, least=-45, most=60, when=straight)] = 0.0
    floor_angle: Annotated[
        float,
        ask(
            "Floor slants", Kind.ANGLE, SHAPE, least=-45, most=45, when=straight, late=True,
            helps="Deeper to the left above 0; what is said of the floor is said of its right edge.",
        ),
    ] = 0.0  # fmt: skip
    edges_are: Annotated[
        Literal["edge", "radius"], choose("Edges are", {"edge": "Broken at 45°", "radius": "Rounded"}, SHAPE, when=straight)
    ] = "edge"
    edge_break: Annotated[
        float, ask("Right edge", Kind.LENGTH, SHAPE, least=0, when=straight, helps="Leg or radius; 0 for none.")
    ] = 0.0
    left_edge: Annotated[float | None, ask("Left edge", Kind.LENGTH, SHAPE, least=0, propose=_other_edge, when=straight)] = None
    corner_radius: Annotated[float, ask("Floor radius, right", Kind.LENGTH, SHAPE, least=0, when=straight)] = 0.0
    left_radius: Annotated[
        float | None, ask("Floor radius, left", Kind.LENGTH, SHAPE, least=0, propose=_other_radius, when=straight)
    ] = None

    @property
    def view(self) -> View:
        return View(inside=self.side == "inside", across=face(self))

    def leans(self, ctx: TurnedContext) -> tuple[bool, bool]:
        """Which walls lean over what is below them, the left and the right one."""
        if straight(self):
            return self.left_angle < 0, self.right_angle < 0
        if as_insert(self):
            return False, False
        right, left = self._both_walls(self._drawn(ctx), ctx)
        hair = ctx.mm(1e-4)
        return any(b[0] < a[0] - hair for a, b in itertools.pairwise(left)), any(
            b[0] > a[0] + hair for a, b in itertools.pairwise(right)
        )

    def undercuts(self, ctx: TurnedContext) -> bool:
        """Does a wall lean over what is below it?"""
        return any(self.leans(ctx))

    @staticmethod
    def _both_walls(walls: Sequence[Segment], ctx: TurnedContext) -> tuple[list[Point], list[Point]]:
        """The right wall of a shape from its lip down to the lowest place, and the left one from its lip down to there."""
        points = points_on(walls, ctx.mm(0.01))
        lowest = min(range(len(points)), key=lambda k: points[k][1], default=0)
        return points[: lowest + 1], points[lowest:][::-1]

    def level(self, ctx: TurnedContext) -> bool:
        """Is its floor one that a blade with a flat end can cut? A drawn one too, where its walls fall to it from both sides."""
        if self.shape != "own":
            return not self.floor_angle
        walls = self._drawn(ctx)
        points = points_on(walls, ctx.mm(0.01))
        low = min((v for _, v in points), default=0.0)
        bottom = [k for k, (_, v) in enumerate(points) if v <= low + ctx.mm(1e-6)]
        falls = all(b[1] <= a[1] + 1e-12 for a, b in itertools.pairwise(points[: bottom[0] + 1])) if bottom else False
        rises = all(b[1] >= a[1] - 1e-12 for a, b in itertools.pairwise(points[bottom[-1] :])) if bottom else False
        whole = bool(bottom) and len(bottom) == bottom[-1] - bottom[0] + 1
        return falls and rises and whole and len(bottom) > 1

    # -- where ------------------------------------------------------------------------------------------------------

    def right(self, k: int) -> float:
        """In the view: the right end of the floor of groove `k` with straight walls, of the insert where it is as that is."""
        return (self.outer_d / 2 if face(self) else self.z) - self.beyond(k)

    def beyond(self, k: int) -> float:
        """How far groove `k` lies beyond the first one; where the distances are not all there, as if they were a pitch."""
        if not _unevenly(self):
            return k * self.pitch
        try:
            own = distances(self.pitches)[:k]
        except ExpressionError:
            own = []
        return sum(own) + (k - len(own)) * self.pitch

    def ends(self, ctx: TurnedContext, k: int) -> tuple[float, float]:
        """In the view: from where to where the floor of groove `k` reaches, left and right; a drawn one from end to end."""
        if as_insert(self):
            form = self.form(ctx)
            return self.right(k) - (form.width if form else ctx.mm(4.0)), self.right(k)
        if straight(self):
            return self.right(k) - self.width, self.right(k)
        us = [u for u, _ in points_on(self._drawn(ctx), ctx.mm(0.01))]
        return (min(us) - self.beyond(k), max(us) - self.beyond(k)) if us else (-self.beyond(k) - ctx.mm(1.0), -self.beyond(k))

    def surface(self, ctx: TurnedContext, k: int | None = None) -> float:
        """In the view: the surface the groove is cut into, as it is now; the higher of its two sides. On a face it is that of
        groove `k`, or the foremost of all."""
        first, last = (k, k) if k is not None and face(self) else (0, self.count - 1)
        return self._around(ctx, first, last)

    def _around(self, ctx: TurnedContext, first: int, last: int) -> float:
        """In the view: the surface of the material from one groove to another."""
        left, right = self.ends(ctx, last)[0], self.ends(ctx, first)[1]
        if face(self):
            return ctx.front_at(left, right)
        tiny = ctx.mm(0.02)
        if self.side == "inside":
            bore = ctx.bore(left + tiny, right - tiny)
            return 0.0 if math.isinf(bore) else -bore
        return ctx.outer(left + tiny, right - tiny)

    def in_the_air(self, ctx: TurnedContext) -> int | None:
        """The first of several grooves that has no material to be in."""
        for k in range(0 if face(self) else self.count):
            if ctx.window(*self.ends(ctx, k)).is_empty or self._around(ctx, k, k) - self.floor(ctx, k) <= 1e-9:
                return k
        return None

    def floor(self, ctx: TurnedContext, k: int = 0) -> float:
        """In the view: the lowest of the floor of groove `k`."""
        if as_insert(self):
            return self._floor_right(ctx, k)
        if not straight(self):
            return min((v for _, v in points_on(self._drawn(ctx), ctx.mm(0.001))), default=self.surface(ctx, k))
        at = self._floor_right(ctx, k)
        return min(at, at - self.falls)

    def _floor_right(self, ctx: TurnedContext, k: int) -> float:
        if face(self):
            return self.surface(ctx, k) - self.depth
        return -self.floor_d / 2 if self.side == "inside" else self.floor_d / 2

    @property
    def falls(self) -> float:
        """How much deeper the floor is at its left end than at its right."""
        return self.width * math.tan(math.radians(self.floor_angle))

    # -- the shape --------------------------------------------------------------------------------------------------

    def chain(self, ctx: TurnedContext, k: int) -> list[Segment] | Trouble:
        """Groove `k` in the view from the surface on the right to the surface on the left, or what is wrong with it."""
        if as_insert(self):
            form, (left, _) = self.form(ctx), self.ends(ctx, k)
            edge = [] if form is None else moved(reversed_chain(chain_of(form.drawn)), left, self.floor(ctx, k))
            return self._led_up(ctx, k, _straight_up(edge, self.surface(ctx, k)))
        return self._straight_chain(ctx, k) if straight(self) else self._own_chain(ctx, k)

    def form(self, ctx: TurnedContext) -> TurnTool | None:
        """The tool, where its edge is drawn."""
        tool = ctx.turn_tool(self.tool)
        return tool if tool is not None and tool.drawn else None

    def _straight_chain(self, ctx: TurnedContext, k: int) -> list[Segment] | Trouble:
        top, low, right = self.surface(ctx, k), self._floor_right(ctx, k), self.right(k)
        left, low_left = right - self.width, low - self.falls
        a = (top - low) * math.tan(math.radians(self.right_angle))
        b = (top - low_left) * math.tan(math.radians(self.left_angle))
        left_edge = self.edge_break if self.left_edge is None else self.left_edge
        corners = {
            "edge_break": Corner(self.edges_are, self.edge_break),
            "corner_radius": Corner("radius", self.corner_radius),
            "left_radius": Corner("radius", self.corner_radius if self.left_radius is None else self.left_radius),
            "left_edge": Corner(self.edges_are, left_edge),
        }
        if low_left >= top - 1e-9 or low >= top - 1e-9:
            which = "left" if low_left >= top - 1e-9 else "right"
            return Trouble(
                "floor_angle",
                tr(
                    "With that slant the floor comes out of the material at its {which} end.",
                    which=tr_as("end", "left") if which == "left" else tr_as("end", "right"),
                ),
            )
        if right + a <= left - b:
            return Trouble("right_angle" if a < b else "left_angle", tr("The walls meet over the floor: it has no mouth."))
        run = max(self.edge_break, left_edge) + ctx.mm(RUN)
        points = [
            (right + a + run, top),
            (right + a, top),
            (right, low),
            (left, low_left),
            (left - b, top),
            (left - b - run, top),
        ]
        chain: list[Segment] = [Line(points[0], points[1])]
        for (name, piece), (p, q) in zip(corners.items(), itertools.pairwise(points[1:]), strict=True):
            last, fresh = chain[-1], Line(p, q)
            if piece.size <= 0:
                chain.append(fresh)
                continue
            made = join(last, fresh, piece)
            if isinstance(made, str):
                return Trouble(name, made)
            first, middle, after = made
            chain[-1:] = [s for s in (first, *middle, after) if math.dist(s.start, s.end) > 1e-9]
        return chain

    def _own_chain(self, ctx: TurnedContext, k: int) -> list[Segment] | Trouble:
        walls, top = moved(self._drawn(ctx), -self.beyond(k), 0.0), self.surface(ctx, k)
        if not walls:
            return Trouble("outline", tr("Pick or begin an outline."), open=True)
        if self.floor(ctx, k) > min(walls[0].start[1], walls[-1].end[1], top) - ctx.mm(0.01):
            return Trouble("outline", tr("It does not go down into the material between its ends."))
        return self._led_up(ctx, k, walls)

    def _led_up(self, ctx: TurnedContext, k: int, walls: list[Segment]) -> list[Segment] | Trouble:
        """A shape led up to the surface, with some of that on both sides."""
        if not walls:
            return Trouble("tool", tr("This needs a tool whose edge is drawn: that is done in the crib."))
        chain, run = open_ended(walls, self.surface(ctx, k), 0.0), ctx.mm(RUN)
        (u0, v0), (u1, v1) = chain[0].start, chain[-1].end
        return [Line((u0 + run, v0), (u0, v0)), *chain, Line((u1, v1), (u1 - run, v1))]

    def _drawn(self, ctx: TurnedContext) -> list[Segment]:
        """The groove's own outline in the view, from the right to the left; none where it is not worked out."""
        chain = self.view.chain(self._outline(ctx).chain)
        backwards = bool(chain) and chain[0].start[0] < chain[-1].end[0]
        return reversed_chain(chain) if backwards else chain

    def _outline(self, ctx: TurnedContext) -> Drawn:
        shape = ctx.outlines.get(self.outline)
        return draw(shape) if shape else NOTHING

    def mouth(self, ctx: TurnedContext, k: int) -> tuple[float, float]:
        """In the view: from where to where a groove is open where it is narrowest over the lower half, left and right."""
        chain = self.chain(ctx, k)
        if isinstance(chain, Trouble):
            return self.ends(ctx, k)
        right, left = self._both_walls(chain[1:-1], ctx)
        half = (self.surface(ctx, k) + self.floor(ctx, k)) / 2
        return max(u for u, v in left if v >= half), min(u for u, v in right if v >= half)

    def shape_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        """What is wrong with the shape and its places; the first cause alone."""
        if _unevenly(self) and (wrong := self._distances_trouble()):
            return [wrong]
        own = self.shape == "own"
        if own and (drawn := self._outline(ctx)).troubles:
            return [Trouble(f"outline.{t.field}", t.text, t.fits, open=t.open) for t in drawn.troubles]
        if own and not self._drawn(ctx):
            return [Trouble("outline", tr("Pick or begin an outline."), open=True)]
        deepest = max(self.surface(ctx, k) - self.floor(ctx, k) for k in range(self.count))
        if deepest <= 1e-9:
            name = "outline" if own else "depth" if face(self) else "floor_d"
            return [Trouble(name, tr("The floor lies outside the material that is there."))]
        left, right = self.ends(ctx, 0)
        back, _, front, outer = ctx.raw.bounds
        room = outer if face(self) else front - back
        if right - left > room:
            where, fits = ("width", round(room, 3)) if straight(self) else ("outline" if own else "tool", None)
            return [Trouble(where, tr("Wider than there is material: {room}.", room=number(room, ctx)), fits)]
        return self._side_by_side(ctx) or self._whole(ctx)

    def _side_by_side(self, ctx: TurnedContext) -> list[Trouble]:
        left, right = self.ends(ctx, 0)
        where = "pitches" if _unevenly(self) else "pitch"
        nearest = min((self.beyond(k) - self.beyond(k - 1) for k in range(1, self.count)), default=math.inf)
        if nearest <= right - left:
            return [Trouble(where, tr("The grooves run into each other."))]
        if self.count > 1 and (bare := self.in_the_air(ctx)) is not None:
            return [
                Trouble(where, tr("Groove {bare} of {count} lies where there is no material.", bare=bare + 1, count=self.count))
            ]
        return []

    def _whole(self, ctx: TurnedContext) -> list[Trouble]:
        """Corners that do not fit, a face groove that goes over the middle."""
        chains = [self.chain(ctx, k) for k in range(self.count if face(self) else 1)]
        if wrong := [c for c in chains if isinstance(c, Trouble)]:
            return wrong[:1]
        inmost = min(p[0] for c in chains if not isinstance(c, Trouble) for s in c[1:-1] for p in (s.start, s.end))
        if face(self) and inmost < 0:
            return [Trouble("outline" if self.shape == "own" else "outer_d", tr("It goes over the centre line."))]
        return []

    def _distances_trouble(self) -> Trouble | None:
        """What is wrong with the distances from groove to groove."""
        try:
            found = distances(self.pitches)
        except ExpressionError as error:
            return Trouble("pitches", tr("A number is wrong there: {error}", error=in_a_sentence(str(error))))
        if len(found) != self.count - 1 or not all(d > 0 for d in found):
            return Trouble(
                "pitches",
                tr(
                    "{many} above 0, from one groove to the next; there are {found}.",
                    many=many(self.count - 1, "distance"),
                    found=len(found),
                ),
            )
        return None

    def widest_corner(self) -> float:
        return max(self.corner_radius, self.corner_radius if self.left_radius is None else self.left_radius)

    def thin_lip(self, ctx: TurnedContext) -> tuple[str, float] | None:
        """The side on which what stands beside the grooves, half-way down, is thinner than they are deep, and how thin it is; the
        thinner of two. None where both have a back."""
        found = {side: self._lip(ctx, 1.0 if side == "right" else -1.0) for side in ("right", "left")}
        side, (thin, deep) = min(found.items(), key=lambda one: one[1][0])
        return (side, thin) if thin < deep else None

    def _lip(self, ctx: TurnedContext, outward: float) -> tuple[float, float]:
        """How thick it is half-way down beside the first groove (1) or the last (-1), and how deep that is; a lip that is not
        there is as thick as can be."""
        k = 0 if outward > 0 else self.count - 1
        low = self.floor(ctx, k)
        deep = self.surface(ctx, k) - low
        wall = self._half_way_down(ctx, k, low + deep / 2, outward)
        if not 0.0 < deep < math.inf or wall is None:
            return math.inf, 0.0
        stock, hair, half = self.view.region(ctx.stock), ctx.mm(0.005), low + deep / 2
        far = wall + outward * (stock.bounds[2] - stock.bounds[0])
        beside = LineString([(wall, half), (far, half)]).intersection(stock)
        pieces = [g for g in getattr(beside, "geoms", [beside]) if g.length > 0]
        near = min(pieces, key=lambda g: float(g.distance(shapely.Point(wall, half))), default=None)
        if near is None or near.distance(shapely.Point(wall, half)) > 2 * hair:
            return math.inf, deep
        return float(near.length), deep

    def _half_way_down(self, ctx: TurnedContext, k: int, half: float, outward: float) -> float | None:
        """Where the right (1) or the left wall (-1) of a groove is at a height."""
        if straight(self):
            angle = self.right_angle if outward > 0 else self.left_angle
            foot = self._floor_right(ctx, k) - (0.0 if outward > 0 else self.falls)
            left, right = self.ends(ctx, k)
            return (right if outward > 0 else left) + (half - foot) * math.tan(math.radians(angle)) * outward
        chain = self.chain(ctx, k)
        if isinstance(chain, Trouble):
            return None
        at = [
            p[0] + (half - p[1]) / (q[1] - p[1]) * (q[0] - p[0])
            for p, q in itertools.pairwise(points_on(chain, ctx.mm(0.01)))
            if (p[1] - half) * (q[1] - half) < 0
        ]
        return (max(at) if outward > 0 else min(at)) if at else None

    # -- what is shown of it ----------------------------------------------------------------------------------------

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        deep = at.fine(2 * at.small)
        return {"z": at.fine(-at.finished * 0.3), "width": 4 * at.small, "floor_d": at.fine(at.surface - 2 * deep)}

    def removes(self, ctx: TurnedContext) -> list[Region]:
        gone = []
        for k in range(self.count):
            chain = self.chain(ctx, k)
            if not isinstance(chain, Trouble):
                points = points_on(chain, ctx.mm(0.0005))
                top = max(self.surface(ctx, k), *(v for _, v in points)) + ctx.mm(5.0)
                region = shapely.make_valid(shapely.Polygon([*points, (points[-1][0], top), (points[0][0], top)]))
                u0, u1 = min(p[0] for p in points[1:-1]), max(p[0] for p in points[1:-1])
                gone.append(self.view.region(region.intersection(shapely.box(u0, -1e5, u1, 1e5))))
        return gone

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        dims = [*(self._own_dims(ctx) if self.shape != "own" else []), *self._pitch_dims(ctx)]
        lines = []
        for k in range(self.count):
            chain = self.chain(ctx, k)
            if not isinstance(chain, Trouble):
                lines.append(tuple(self.view.back(*p) for p in points_on(chain[1:-1], ctx.mm(0.01))))
        return TurnSketch(lines=tuple(lines), dims=tuple(dims))

    def _own_dims(self, ctx: TurnedContext) -> list[Dim]:
        back, top, low = self.view.back, self.surface(ctx, 0), self._floor_right(ctx, 0)
        left, right = self.ends(ctx, 0)
        dims = [Dim("width", "half", "length", back(right, low), back(left, low))] if straight(self) else []
        if face(self):
            dims.append(Dim("depth", "half", "length", back(right, top), back(right, low)))
            dims.append(Dim("outer_d", "half", "diameter", back(right, low), back(left, low)))
        else:
            dims.append(Dim("z", "half", "length", (0.0, abs(top)), back(right, low)))
            dims.append(Dim("floor_d", "half", "diameter", back(right, low), back(left, low)))
        return dims

    def _pitch_dims(self, ctx: TurnedContext) -> list[Dim]:
        if not _evenly(self):
            return []
        back, top, right = self.view.back, self.surface(ctx, 0), self.ends(ctx, 0)[1]
        return [Dim("pitch", "half", "length", back(right, top), back(right - self.pitch, top))]

    def summary(self, ctx: TurnedContext) -> str:
        many = f"{self.count} × " if self.count > 1 else ""
        if self.shape == "own":
            shape = ctx.outlines.get(self.outline)
            return many + tr("“{name}”", name=shape.name) if shape else tr("no outline yet")
        where = (
            tr("{depth} deep", depth=number(self.depth, ctx))
            if face(self)
            else tr("Ø{floor_d} floor", floor_d=number(self.floor_d, ctx))
        )
        return (
            tr("{many}as the insert, {where}", many=many, where=where)
            if as_insert(self)
            else tr("{many}{width} wide, {where}", many=many, width=number(self.width, ctx), where=where)
        )


def _straight_up(edge: list[Segment], top: float) -> list[Segment]:
    """The edge of an insert, led straight up at both ends: deeper than its edge it goes straight down."""
    if not edge:
        return []
    (u0, v0), (u1, v1) = edge[0].start, edge[-1].end
    before = [Line((u0, top), (u0, v0))] if v0 < top else []
    return [*before, *edge, *([Line((u1, v1), (u1, top))] if v1 < top else [])]


def distances(text: str) -> list[float]:
    """The distances that are typed one behind the other, in the job's unit; where a semicolon stands between them, a comma in one
    is its decimal sign. ExpressionError for what is no number."""
    return [*_distances(text)]


@functools.lru_cache(maxsize=64)  # asked for groove by groove, again and again while a step is planned
def _distances(text: str) -> tuple[float, ...]:
    return tuple(
        evaluate(piece, Kind.NUMBER, "mm") for piece in re.split(r";|,\s" if ";" in text else ",", text) if piece.strip()
    )
