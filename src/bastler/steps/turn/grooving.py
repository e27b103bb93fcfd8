"""Grooves on the outside, in a bore and on the face: plunged to depth, then both walls finished to meet on the floor.

In the groove's view the surface is above and the floor below; *right* is the side the tool comes from. Angles are of the walls
from square, so that 15 on one side opens the groove by that much.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal, NamedTuple

import shapely
from shapely.geometry import LineString

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.motion.moves import OtherEdge, Pause, TurnPath
from bastler.motion.turning import Pencil, View, forbidden
from bastler.motion.turning.grooves import layers_between, lowest, open_ended, plunges
from bastler.shapes import Line, Segment
from bastler.shapes.chain import between, moved, offset, points_on, reversed_chain
from bastler.shapes.corners import Corner, join
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Arrival, Dim, Given, Stage, TurnSketch, replaced, step
from bastler.steps.cut import TOOL, given, number, passes_trouble
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import (
    bore_way,
    come_down,
    home_inside,
    home_outside,
    insert_trouble,
    near,
    speed_says,
    start,
    through_air,
)  # fmt: skip
from bastler.steps.turn.pecks import HOW, PeckedStep
from bastler.tools import TurnTool
from bastler.units import ExpressionError, Kind, evaluate, in_a_sentence, many

WHERE, SHAPE = "Where", "Shape"
SAME = 0.005
"""How close, in mm, a tool has to be to the groove's width for one plunge to do."""
SIDE_SHARE, SIDE_MOST = 0.3, 0.75
"""A blade turned sideways goes down by that share of its width, and by no more than the second: it bends aside."""
OVERLAP = 0.8
"""From one plunge to the next, as a share of the tool's width."""

_face = is_("side", "face")
_round = isnt("side", "face")


def _several(s: Answers) -> bool:
    return bool(s.count > 1)


def _evenly(s: Answers) -> bool:
    return _several(s) and s.apart == "even"


def _unevenly(s: Answers) -> bool:
    return _several(s) and s.apart == "own"


def _sideways(s: Answers) -> bool:
    return bool(s.rough == "sideways")


def _side_ap(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.turn_tool(s.tool)
    return None if tool is None else round(SIDE_SHARE * tool.width, 2 if ctx.unit == "mm" else 4)


def _leave(s: Answers, ctx: TurnedContext) -> float:
    return ctx.mm(0.1)


def _other_edge(s: Answers, ctx: TurnedContext) -> float:
    return float(s.edge_break)


def _other_radius(s: Answers, ctx: TurnedContext) -> float:
    return float(s.corner_radius)


def _begin(s: Answers, ctx: TurnedContext) -> str:
    side = s.thin_lip(ctx)
    return side[0] if side else "middle"


RUN_OUT = 0.0005
"""A corner that is so little, in mm, over the floor has come to it."""
LAPS = 0.1
"""So far, in mm, two passes along a floor overlap."""


class Heights(NamedTuple):
    """In the view: the surface that a groove is cut into, and where it is free over that."""

    top: float
    free: float


@step("Groove", "Grooves and threads", "Outside, inside or on the face; one or several", planes=TURNED, rank=1)
class Groove(PeckedStep, frozen=True, kw_only=True, tag="groove"):
    """Answers of a grooving step."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, HOW, TOOL)
    SLOWER = 0.6

    side: Annotated[
        Literal["outside", "inside", "face"],
        choose("Groove", {"outside": "Outside", "inside": "In the bore", "face": "On the face"}, WHERE),
    ] = "outside"
    z: Annotated[float, ask("Right edge of floor Z", Kind.LENGTH, WHERE, when=_round, helps="Of the first groove.")] = -20.0
    outer_d: Annotated[float, ask("Outer edge of floor Ø", Kind.LENGTH, WHERE, above=0, when=_face)] = 30.0
    count: Annotated[int, ask("How many", Kind.COUNT, WHERE, least=1, most=50)] = 1
    apart: Annotated[
        Literal["even", "own"], choose("They are", {"even": "Evenly apart", "own": "Each so far apart"}, WHERE, when=_several)
    ] = "even"
    pitch: Annotated[
        float, ask("Pitch", Kind.LENGTH, WHERE, above=0, when=_evenly, helps="Toward the chuck; on a face toward the axis.")
    ] = 10.0
    pitches: Annotated[str, pick("Distances", "word", WHERE, when=_unevenly, helps="From one to the next, as 8, 12.5, 3*4.")] = ""
    width: Annotated[float, ask("Width of floor", Kind.LENGTH, SHAPE, above=0)] = 4.0
    floor_d: Annotated[float, ask("Floor Ø", Kind.LENGTH, SHAPE, above=0, when=_round)] = 30.0
    depth: Annotated[float, ask("How deep", Kind.LENGTH, SHAPE, above=0, when=_face)] = 3.0
    right_angle: Annotated[float, ask("Right wall slants", Kind.ANGLE, SHAPE, least=0, most=60, helps="0 is square.")] = 0.0
    left_angle: Annotated[float, ask("Left wall slants", Kind.ANGLE, SHAPE, least=0, most=60)] = 0.0
    edges_are: Annotated[
        Literal["edge", "radius"], choose("Edges are", {"edge": "Broken at 45°", "radius": "Rounded"}, SHAPE)
    ] = "edge"
    edge_break: Annotated[float, ask("Right edge", Kind.LENGTH, SHAPE, least=0, helps="Leg or radius; 0 for none.")] = 0.0
    left_edge: Annotated[float | None, ask("Left edge", Kind.LENGTH, SHAPE, least=0, propose=_other_edge)] = None
    corner_radius: Annotated[float, ask("Floor radius, right", Kind.LENGTH, SHAPE, least=0)] = 0.0
    left_radius: Annotated[float | None, ask("Floor radius, left", Kind.LENGTH, SHAPE, least=0, propose=_other_radius)] = None
    begin: Annotated[
        Literal["right", "left", "middle"] | None,
        choose(
            "Begin at the",
            {"right": "Right", "left": "Left", "middle": "Middle"},
            HOW,
            propose=_begin,
            helps="Begin on the side of a thin lip, while it still has a back.",
        ),
    ] = None
    rough: Annotated[
        Literal["plunge", "sideways"],
        choose(
            "Its middle is", {"plunge": "Plunged out", "sideways": "Turned out sideways"}, HOW,
            helps="Sideways for wide shallow ones, with a blade that bears it.",
        ),
    ] = "plunge"  # fmt: skip
    side_ap: Annotated[
        float | None, ask("Down per pass", Kind.LENGTH, HOW, above=0, propose=_side_ap, when=_sideways, symbol="ap")
    ] = None
    finish: Annotated[Literal["yes", "no"], choose("Finish both walls", {"yes": "Yes", "no": "No"}, HOW)] = "yes"
    leave: Annotated[float | None, ask("Leave on walls", Kind.LENGTH, HOW, least=0, propose=_leave)] = None
    edges: Annotated[
        Literal["one", "two"],
        choose(
            "Offsets",
            {"one": "One", "two": "One for each edge"},
            HOW,
            helps="With two the width of the groove can be corrected at the machine.",
        ),
    ] = "two"

    def farther(self, by: float) -> Groove | None:
        return None if _face(self) else replaced(self, z=self.z - by)

    def lacks(self) -> str:
        return f"grooving tool for the {'end face' if _face(self) else self.side} that is narrow enough"

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        fitting = [t for t in ctx.tools if isinstance(t, TurnTool) and t.kind == "grooving" and t.side == self.side]
        narrow = [t for t in fitting if t.width <= self.width + ctx.mm(SAME)]
        best = max(narrow or fitting, key=lambda t: t.width, default=None)
        return best.id if best else None

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.tool)
        return min(0.03 * tool.width, ctx.mm(0.15)) if tool else None

    def at_radius(self, ctx: TurnedContext) -> float:
        return self.outer_d / 2 if _face(self) else max(self.floor_d / 2, ctx.mm(1.0))

    # -- the shape ----------------------------------------------------------------------------------------------

    @property
    def view(self) -> View:
        return View(inside=self.side == "inside", across=_face(self))

    def surface(self, ctx: TurnedContext, k: int | None = None) -> float:
        """In the view: the surface the groove is cut into, as it is now; the higher of its two sides. On a face it is that of
        groove `k`, or the foremost of all."""
        if _face(self):
            first, last = (k, k) if k is not None else (0, self.count - 1)
            return ctx.front_at(self.right(last) - self.width, self.right(first))
        return self._around(ctx, 0, self.count - 1)

    def _around(self, ctx: TurnedContext, first: int, last: int) -> float:
        """In the view: the surface of the material from one groove of a bore or an outside to another."""
        tiny = ctx.mm(0.02)
        z0, z1 = self.right(last) - self.width + tiny, self.right(first) - tiny
        if self.side == "inside":
            bore = ctx.bore(z0, z1)
            return 0.0 if math.isinf(bore) else -bore
        return ctx.outer(z0, z1)

    def off(self, ctx: TurnedContext) -> float:
        """How far off the surface rapids end: nearer to one that was cut before, and so is where it is said to be."""
        return ctx.near if self.surface(ctx) < self.surface(ctx.as_raw) - ctx.mm(0.01) else ctx.clear

    def _in_the_air(self, ctx: TurnedContext) -> int | None:
        """The first of several grooves that has no material to be in."""
        for k in range(0 if self.side == "face" else self.count):
            nothing = ctx.window(self.right(k) - self.width, self.right(k)).is_empty
            if nothing or self._around(ctx, k, k) - self.floor(ctx, k) <= 1e-9:
                return k
        return None

    def floor(self, ctx: TurnedContext, k: int = 0) -> float:
        """In the view: the floor of groove `k`."""
        if _face(self):
            return self.surface(ctx, k) - self.depth
        return -self.floor_d / 2 if self.side == "inside" else self.floor_d / 2

    def right(self, k: int) -> float:
        """In the view: the right end of the floor of groove `k`."""
        first = self.outer_d / 2 if _face(self) else self.z
        return first - self.beyond(k)

    def beyond(self, k: int) -> float:
        """How far groove `k` lies beyond the first one; where the distances are not all there, as if they were a pitch."""
        if not _unevenly(self):
            return k * self.pitch
        try:
            own = distances(self.pitches)[:k]
        except ExpressionError:
            own = []
        return sum(own) + (k - len(own)) * self.pitch

    def chain(self, ctx: TurnedContext, k: int) -> list[Segment] | Trouble:
        """Groove `k` in the view from the surface on the right to the surface on the left, or what is wrong with it."""
        top, low, right = self.surface(ctx, k), self.floor(ctx, k), self.right(k)
        left, deep = right - self.width, top - low
        a, b = deep * math.tan(math.radians(self.right_angle)), deep * math.tan(math.radians(self.left_angle))
        corners = {
            "edge_break": Corner(self.edges_are, self.edge_break),
            "corner_radius": Corner("radius", self.corner_radius),
            "left_radius": Corner("radius", given(self.left_radius)),
            "left_edge": Corner(self.edges_are, given(self.left_edge)),
        }
        run = max(self.edge_break, given(self.left_edge)) + ctx.mm(2.0)
        points = [(right + a + run, top), (right + a, top), (right, low), (left, low), (left - b, top), (left - b - run, top)]
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

    def span(self, tool: TurnTool) -> tuple[float, float]:
        """In the view: how far the tool reaches to the left and to the right of its point."""
        u = [p[0] for p in self.view.outline(tool.cutting)]
        return min(u), max(u)

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        return insert_trouble(ctx.tool(self.tool), self.choose_tool(ctx), kinds=("grooving", "parting"))

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.turn_tool(self.tool)
        if _unevenly(self) and (wrong := self._distances_trouble()):
            return [wrong]
        deep = max(self.surface(ctx, k) - self.floor(ctx, k) for k in range(self.count))
        if deep <= 1e-9:
            name = "depth" if _face(self) else "floor_d"
            found.append(Trouble(name, "The floor lies outside the material that is there."))
        back, _, front, outer = ctx.raw.bounds
        room = outer if _face(self) else front - back
        if self.width > room:
            found.append(Trouble("width", f"Wider than there is material: {number(room, ctx)}.", round(room, 3)))
        if found or tool is None:
            return found
        plunges = max(self.width / tool.width, 1.0)
        if more := passes_trouble("width", plunges, "plunges") or self.pecks_trouble(deep, self.count * plunges):
            return more
        if tool.side != self.side:
            return [Trouble("tool", "This tool does not work on that side.", self.choose_tool(ctx))]
        if tool.width > self.width + ctx.mm(SAME):
            found.append(Trouble("tool", f"Wider than the groove: {number(tool.width, ctx)}.", self.choose_tool(ctx)))
        room = 2 * given(self.leave) + ctx.mm(4 * SAME) if self.finish == "yes" else 0.0
        if not self.single(tool, ctx) and tool.width <= self.width + ctx.mm(SAME) < tool.width + room:
            most = number(self.width - room, ctx)
            found.append(
                Trouble("tool", f"Too wide to finish both walls of this groove: {most} is the most.", self._narrower(ctx))
            )
        found += self._sideways_trouble(ctx, tool, deep)
        if tool.reach < deep - 1e-9:
            found.append(Trouble("tool", f"Reaches {number(tool.reach, ctx)} deep; the groove is {number(deep, ctx)}."))
        where = "pitches" if _unevenly(self) else "pitch"
        nearest = min((self.beyond(k) - self.beyond(k - 1) for k in range(1, self.count)), default=math.inf)
        if nearest <= self.width:
            found.append(Trouble(where, "The grooves run into each other."))
        elif self.count > 1 and (bare := self._in_the_air(ctx)) is not None:
            found.append(Trouble(where, f"Groove {bare + 1} of {self.count} lies where there is no material."))
        inmost = self.right(self.count - 1) - self.width - deep * math.tan(math.radians(self.left_angle)) - given(self.left_edge)
        if _face(self) and inmost < 0:
            found.append(Trouble("outer_d", "It goes over the centre line."))
        chain = self.chain(ctx, 0)
        if isinstance(chain, Trouble):
            found.append(chain)
        return found

    def _distances_trouble(self) -> Trouble | None:
        """What is wrong with the distances from groove to groove."""
        try:
            found = distances(self.pitches)
        except ExpressionError as error:
            return Trouble("pitches", f"A number is wrong there: {in_a_sentence(str(error))}")
        if len(found) != self.count - 1 or not all(d > 0 for d in found):
            return Trouble(
                "pitches", f"{many(self.count - 1, 'distance')} above 0, from one groove to the next; there are {len(found)}."
            )
        return None

    def _sideways_trouble(self, ctx: TurnedContext, tool: TurnTool, deep: float) -> list[Trouble]:
        if not _sideways(self) or self.side_ap is None:
            return []
        most = SIDE_MOST * tool.width
        if self.side_ap > most + 1e-9:
            return [
                Trouble("side_ap", f"A blade of {number(tool.width, ctx)} takes {number(most, ctx)} sideways.", round(most, 3))
            ]
        return passes_trouble("side_ap", self.count * deep / self.side_ap, "passes")

    def _narrower(self, ctx: TurnedContext) -> str | None:
        fits = [t for t in ctx.tools if isinstance(t, TurnTool) and t.kind == "grooving" and t.side == self.side]
        best = max((t for t in fits if t.width < self.width * 0.9), key=lambda t: t.width, default=None)
        return best.id if best else None

    # -- the path -----------------------------------------------------------------------------------------------

    def single(self, tool: TurnTool, ctx: TurnedContext) -> bool:
        """Does one plunge make it?"""
        plain = not (self.right_angle or self.left_angle or self.edge_break or self.left_edge)
        sharp = self._widest_corner() <= tool.corner_radius + ctx.mm(SAME)
        return plain and sharp and abs(tool.width - self.width) <= ctx.mm(SAME)

    def thin_lip(self, ctx: TurnedContext) -> tuple[str, float] | None:
        """The side on which what stands beside the grooves, half-way down, is thinner than they are deep, and how thin it is; the
        thinner of two. None where both have a back."""
        found = {side: self._lip(ctx, 1.0 if side == "right" else -1.0) for side in ("right", "left")}
        side, (thin, deep) = min(found.items(), key=lambda one: one[1][0])
        return (side, thin) if thin < deep else None

    def _lip(self, ctx: TurnedContext, outward: float) -> tuple[float, float]:
        """How thick it is half-way down beside the first groove (1) or the last (-1), and how deep that is; a lip that is not
        there is as thick as can be."""
        k, angle = (0, self.right_angle) if outward > 0 else (self.count - 1, self.left_angle)
        low = self.floor(ctx, k)
        deep = self.surface(ctx, k) - low
        if not 0.0 < deep < math.inf:
            return math.inf, 0.0
        wall = self.right(k) + deep / 2 * math.tan(math.radians(angle)) * outward - (0.0 if outward > 0 else self.width)
        stock, hair, half = self.view.region(ctx.stock), ctx.mm(SAME), low + deep / 2
        far = wall + outward * (stock.bounds[2] - stock.bounds[0])
        beside = LineString([(wall, half), (far, half)]).intersection(stock)
        pieces = [g for g in getattr(beside, "geoms", [beside]) if g.length > 0]
        near = min(pieces, key=lambda g: float(g.distance(shapely.Point(wall, half))), default=None)
        if near is None or near.distance(shapely.Point(wall, half)) > 2 * hair:
            return math.inf, deep
        return float(near.length), deep

    def _widest_corner(self) -> float:
        return max(self.corner_radius, given(self.left_radius))

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        deep = at.fine(2 * at.small)
        return {"z": at.fine(-at.finished * 0.3), "width": 4 * at.small, "floor_d": at.fine(at.surface - 2 * deep)}

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path = start(ctx)
        pencil = Pencil(path, self.view)
        off = self.off(ctx)
        free = self.surface(ctx) + off
        self._arrive(path, ctx, free)
        for k in range(self.count):
            chain = self.chain(ctx, k)
            assert not isinstance(chain, Trouble)
            pencil.go(v=self.over(ctx, free))
            at = Heights(self.surface(ctx, k), self.surface(ctx, k) + off)
            if self.single(tool, ctx):
                self._plunge(pencil, ctx, self.right(k) - self.span(tool)[1], self.floor(ctx, k), at)
                continue
            self._rough(pencil, ctx, tool, chain, at, k)
            if self.finish == "yes":
                self._walls(pencil, path, ctx, tool, chain, at, k)
            free = at.free
        self._home(path, ctx, self.surface(ctx) + off)
        return [self.stage("groove", tool, path)]

    def _arrive(self, path: TurnPath, ctx: TurnedContext, free: float) -> None:
        if self.side == "outside":
            path.go(r=ctx.over)
        elif self.side == "inside":
            path.go(r=abs(self.over(ctx, free)))
        else:
            path.go(z=max(ctx.safe[1], free))

    def over(self, ctx: TurnedContext, free: float) -> float:
        """In the view: the height at which nothing is in the way to the groove."""
        if self.side == "outside":
            return ctx.over
        if self.side == "face":
            return max(ctx.safe[1], free)
        bore = ctx.bore(self.right(self.count - 1) - self.width, ctx.front)
        return max(free, -bore_way(ctx.tool(self.tool), bore, ctx.clear)) if not math.isinf(bore) else free

    def _home(self, path: TurnPath, ctx: TurnedContext, free: float) -> None:
        if self.side == "outside":
            home_outside(path, ctx)
        elif self.side == "inside":
            home_inside(path, ctx, abs(self.over(ctx, free)))
        else:
            path.go(z=ctx.safe[1]).go(r=ctx.safe[0])

    def _plunge(self, pencil: Pencil, ctx: TurnedContext, u: float, v: float, heights: Heights) -> None:
        feed, (at, free) = given(self.f), heights
        pencil.go(u=u).go(v=free)
        pencil.cut(through_air(feed, ctx), v=at + near(ctx))
        for deep in self.pecked(at - v)[:-1]:
            pencil.cut(feed, v=at - deep)
            for height in self.between_pecks(ctx, at - deep, free):
                pencil.go(v=height)
        pencil.cut(feed, v=v)
        turns = self.turning().turns_at(max(pencil.path.r, ctx.mm(0.1)), ctx.unit)
        pencil.path.do(Pause(math.ceil(6000.0 / turns) / 100.0))  # a whole turn at the speed that it has there: a round floor
        pencil.go(v=free)

    def _rough(self, pencil: Pencil, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], at: Heights, k: int) -> None:
        """Plunges side by side, each as deep as the allowance lets it."""
        leave = given(self.leave) if self.finish == "yes" else 0.0
        points = points_on(offset(chain, leave) if leave else chain, ctx.mm(0.002))
        low = min(v for _, v in points) - 10.0 * tool.width
        material = shapely.Polygon([*points, (points[-1][0], low), (points[0][0], low)])
        keep = forbidden(shapely.make_valid(material), [self.view.outline(tool.cutting)])
        low_v = self.floor(ctx, k) + leave
        on_floor = [u for u, v in points if v < low_v + tool.corner_radius + self._widest_corner() + ctx.mm(0.01)]
        walls = [p[0] for p in points_on(chain[1:-1], ctx.mm(0.01))]
        floor, top = (min(on_floor), max(on_floor)), (min(walls), max(walls))
        places = plunges(self.span(tool), OVERLAP * tool.width, floor, top, ctx.mm(1e-3))
        if _sideways(self) and len(places) > 1:
            self._turn_out(pencil, ctx, keep, (min(places), max(places)), (low_v, at))
            return
        for u in self._ordered(places):
            v = lowest(keep, u, low, at.free)
            if v < at.top - ctx.mm(0.02):
                self._plunge(pencil, ctx, u, v, at)

    def _turn_out(
        self, pencil: Pencil, ctx: TurnedContext, keep: Region, reach: tuple[float, float], heights: tuple[float, Heights]
    ) -> None:
        """Layer by layer from wall to wall and back, as far as the blade may come at each height; at the end of a layer down to
        the next within what is cut."""
        feed, (low, at) = given(self.f), heights
        layers = layers_between(keep, reach, at.top, low, given(self.side_ap), ctx.mm(2e-3))
        for j, (v, left, right) in enumerate(layers):
            begin, end = (left, right) if (self.begin == "left") == (j % 2 == 0) else (right, left)
            if j:
                pencil.cut(feed, u=begin)
            else:
                pencil.go(u=begin).go(v=at.free)
                pencil.cut(through_air(feed, ctx), v=at.top + near(ctx))
            pencil.cut(feed, v=v).cut(feed, u=end)
        pencil.go(v=at.free)

    def _ordered(self, places: list[float]) -> list[float]:
        if self.begin == "left":
            return places[::-1]
        if self.begin == "middle":
            middle = sum(places) / len(places)
            near = 1e-6 * max(abs(places[0] - places[-1]), 1e-12)  # so that rounding does not choose between two sides
            return sorted(places, key=lambda u: (round(abs(u - middle) / near), -u))
        return places

    def _walls(
        self, pencil: Pencil, path: TurnPath, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], at: Heights, k: int
    ) -> None:
        """Down the right wall with the right corner, down the left one with the left, both to where they meet on the floor."""
        c, (lo, hi), (top, free) = tool.corner_radius, self.span(tool), at
        way = offset(open_ended(chain[1:-1], free, 2 * c + ctx.mm(LAPS)), c)
        # up to where a corner has run out on the floor: what ends above that leaves it
        on_floor = self.floor(ctx, k) + c
        every = points_on(way, ctx.mm(0.01))
        inner = [u for u, v in every if v < on_floor + ctx.mm(RUN_OUT)] or [u for u, v in every if v < on_floor + ctx.mm(0.01)]
        first, last = max(inner, default=way[0].start[0]), min(inner, default=way[-1].end[0])
        middle = (first + last) / 2
        blade = tool.width - 2 * c
        # the blade stays off what still stands on the other wall: a slanted one bears its allowance further in
        slant = math.radians(max(self.right_angle, self.left_angle))
        off = given(self.leave) * (1 / math.cos(slant) + math.tan(slant)) + ctx.mm(0.02)
        order = ["right", "left"] if self.begin != "left" else ["left", "right"]
        to_left = max(middle, last + blade + off) if last + blade < first else first
        to_right = min(middle, first - blade - off) if first - blade > last else last
        # what the first has cut of the floor, as far as its other corner comes, the second need not go over again
        twice = 2 * blade - ctx.mm(LAPS)
        if order[0] == "right":
            to_right = min(to_right, max(last, to_left - twice))
        else:
            to_left = max(to_left, min(first, to_right + twice))
        for side in order:
            if side == "right":
                part, shift = between(way, math.inf, to_left), -(hi - c)
            else:
                part, shift = reversed_chain(between(way, to_right, -math.inf)), -(lo + c)
            run = moved(part, shift, -c)
            second = self.edges == "two" and (side == "right") == (tool.edge == "left")
            if second:
                path.do(OtherEdge(True))
            pencil.go(v=free).go(u=run[0].start[0])
            pencil.go(v=min(pencil.at[1], run[0].start[1]))
            come_down(pencil, ctx, run[0], top + near(ctx), given(self.f))
            pencil.follow(given(self.f), run)
            pencil.go(v=free)
            if second:
                path.do(OtherEdge(False))

    def removes(self, ctx: TurnedContext) -> list[Region]:
        gone = []
        for k in range(self.count):
            chain = self.chain(ctx, k)
            if not isinstance(chain, Trouble):
                points = points_on(chain, ctx.mm(0.0005))
                top = self.surface(ctx, k) + ctx.mm(5.0)
                region = shapely.make_valid(shapely.Polygon([*points, (points[-1][0], top), (points[0][0], top)]))
                u0, u1 = min(p[0] for p in points[1:-1]), max(p[0] for p in points[1:-1])
                gone.append(self.view.region(region.intersection(shapely.box(u0, -1e5, u1, 1e5))))
        return gone

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        back = self.view.back
        top, low, right = self.surface(ctx, 0), self.floor(ctx, 0), self.right(0)
        left = right - self.width
        dims = [Dim("width", "half", "length", back(right, low), back(left, low))]
        if _face(self):
            dims.append(Dim("depth", "half", "length", back(right, top), back(right, low)))
            dims.append(Dim("outer_d", "half", "diameter", back(right, low), back(left, low)))
        else:
            dims.append(Dim("z", "half", "length", (0.0, abs(top)), back(right, low)))
            dims.append(Dim("floor_d", "half", "diameter", back(right, low), back(left, low)))
        if _evenly(self):
            dims.append(Dim("pitch", "half", "length", back(right, top), back(right - self.pitch, top)))
        lines = []
        for k in range(self.count):
            chain = self.chain(ctx, k)
            if not isinstance(chain, Trouble):
                lines.append(tuple(back(*p) for p in points_on(chain[1:-1], ctx.mm(0.01))))
        return TurnSketch(lines=tuple(lines), dims=tuple(dims))

    def summary(self, ctx: TurnedContext) -> str:
        many = f"{self.count} × " if self.count > 1 else ""
        where = f"{number(self.depth, ctx)} deep" if _face(self) else f"Ø{number(self.floor_d, ctx)} floor"
        return f"{many}{number(self.width, ctx)} wide, {where}"

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        first = "turned out sideways" if _sideways(self) else "plunges"
        way = "one plunge" if self.single(tool, ctx) else f"{first}, then both walls"
        lip = self.thin_lip(ctx)
        thin = f"; the {lip[0]} lip is only {number(lip[1], ctx)} thick" if lip else ""
        other = f"; second offset {tool.second}" if self.edges == "two" and not self.single(tool, ctx) else ""
        r = self.at_radius(ctx)
        return [
            (HOW, f"{way}; the program means the {tool.edge} edge{other}{thin}"),
            (TOOL, speed_says(self, ctx, r, max(abs(self.surface(ctx)), r) if not _face(self) else r)),
        ]


def distances(text: str) -> list[float]:
    """The distances that are typed one behind the other, in the job's unit. ExpressionError for what is no number."""
    return [*_distances(text)]


@functools.lru_cache(maxsize=64)  # asked for groove by groove, again and again while a step is planned
def _distances(text: str) -> tuple[float, ...]:
    return tuple(evaluate(piece, Kind.NUMBER, "mm") for piece in text.replace(";", ",").split(",") if piece.strip())
