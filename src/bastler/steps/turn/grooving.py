"""Grooves on the outside, in a bore and on the face: plunged to depth, then both walls finished to meet on the floor.

In the groove's view the surface is above and the floor below; *right* is the side the tool comes from. What a wall that leans
over the floor hides is taken from the mouth sideways, layer by layer.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import shapely

from bastler.ask import Trouble
from bastler.language import tr
from bastler.motion.even import equal_parts
from bastler.motion.moves import OtherEdge, Pause, TurnPath
from bastler.motion.turning import Pencil, forbidden
from bastler.motion.turning.grooves import layers_between, lowest, plunges, shaft_of, sideways
from bastler.shapes import Segment
from bastler.shapes.chain import between, moved, offset, points_on, reversed_chain
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Stage, replaced, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import (
    bore_way,
    come_down,
    home_inside,
    home_outside,
    near,
    speed_says,
    start,
    through_air,
)  # fmt: skip
from bastler.steps.turn.groove_blade import BESIDE_LIP, LAPS, OWN_SLANT, UNREACHED, BladedGroove, Heights
from bastler.steps.turn.groove_shape import face, straight
from bastler.steps.turn.pecks import HOW
from bastler.tools import TurnTool

OVERLAP, ROUND_OVERLAP = 0.8, 0.5
"""From one plunge to the next, as a share of the tool's width; a full radius leaves ridges in between."""


class Room(NamedTuple):
    """In the view, while the allowance stands: where the point must not go, where it plunges, how low it comes, and between which
    lengths it comes straight down past walls that lean over the floor; without bound where they do not."""

    keep: Region
    places: list[float]
    low: float
    shaft: tuple[float, float]


@step("Groove", "Grooves and threads", "Outside, inside or on the face; one or several", planes=TURNED, rank=1)
class Groove(BladedGroove, frozen=True, kw_only=True, tag="groove"):
    """Answers of a grooving step."""

    def farther(self, by: float) -> Groove | None:
        return None if face(self) or self.shape == "own" else replaced(self, z=self.z - by)

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
                self._plunge(pencil, ctx, self.ends(ctx, k)[1] - self.blade(tool).span[1], self.floor(ctx, k), at)
                continue
            room = self._room(ctx, tool, chain, at, k)
            self._rough(pencil, ctx, tool, room, at)
            if self.finish == "yes":
                self._walls(pencil, path, ctx, tool, chain, at, k, room)
            free = at.free
        self._home(path, ctx, self.surface(ctx) + off)
        return [self.stage("groove", tool, path)]

    def _arrive(self, path: TurnPath, ctx: TurnedContext, free: float) -> None:
        if self.side == "outside":
            path.go(r=ctx.over)
        elif self.side == "inside":
            path.go(z=self._before_the_front(ctx)).go(r=abs(self.over(ctx, free)))
        else:
            path.go(z=max(ctx.safe[1], free))

    def _before_the_front(self, ctx: TurnedContext) -> float:
        """Where a tool for bores is in front of the work with all of its edge, which may lie to the left of its point."""
        tool = ctx.turn_tool(self.tool)
        left = -min((z for z, _ in tool.cutting), default=0.0) if tool else 0.0
        return max(ctx.safe[1], ctx.front + ctx.clear + left) if left > 0.0 else ctx.safe[1]

    def over(self, ctx: TurnedContext, free: float) -> float:
        """In the view: the height at which nothing is in the way to the groove."""
        if self.side == "outside":
            return ctx.over
        if self.side == "face":
            return max(ctx.safe[1], free)
        bore = ctx.bore(self.ends(ctx, self.count - 1)[0], ctx.front)
        return max(free, -bore_way(ctx.tool(self.tool), bore, ctx.clear)) if not math.isinf(bore) else free

    def _home(self, path: TurnPath, ctx: TurnedContext, free: float) -> None:
        if self.side == "outside":
            home_outside(path, ctx)
        elif self.side == "inside":
            path.go(r=abs(self.over(ctx, free))).go(z=self._before_the_front(ctx))
            home_inside(path, ctx, abs(self.over(ctx, free)), path.z)
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

    def _room(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], at: Heights, k: int) -> Room:
        """How far the blade may come in groove `k` while its allowance stands, and where it plunges."""
        leave, blade = given(self.leave) if self.finish == "yes" else 0.0, self.blade(tool)
        points = points_on(offset(chain, leave) if leave else chain, ctx.mm(0.002))
        deep = min(v for _, v in points) - 10.0 * tool.width
        material = shapely.Polygon([*points, (points[-1][0], deep), (points[0][0], deep)])
        keep = forbidden(shapely.make_valid(material), [blade.cutting, *(blade.body if self.undercuts(ctx) else ())])
        low = self.floor(ctx, k) + leave
        reaches = low + tool.corner_radius + self.widest_corner() + abs(self.falls) + ctx.mm(0.01)
        walls = [p[0] for p in points_on(chain[1:-1], ctx.mm(0.01))]
        on_floor = [u for u, v in points if v < reaches] if straight(self) or self.level(ctx) else walls
        top = (min(walls), max(walls))
        floor = max(min(on_floor), top[0] + leave), min(max(on_floor), top[1] - leave)
        step = (ROUND_OVERLAP if tool.round_nosed else OVERLAP) * tool.width
        places = plunges(blade.span, step, floor, top, ctx.mm(1e-3))
        if not self.undercuts(ctx):
            return Room(keep, places, low, (-math.inf, math.inf))
        half, leans = (low + at.top) / 2, self.leans(ctx)  # where walls lean over it is narrowest at the lips
        left, right = shaft_of(keep, sum(self.mouth(ctx, k)) / 2 - sum(blade.span) / 2, half, at.top)
        hair = min(ctx.mm(1e-3), (right - left) / 2)
        shaft = (left + hair if leans[0] else -math.inf, right - hair if leans[1] else math.inf)
        within = {u for u in places if shaft[0] <= u <= shaft[1]} | {u for u in shaft if math.isfinite(u)}
        return Room(keep, sorted(within, reverse=True), low, shaft)

    def _rough(self, pencil: Pencil, ctx: TurnedContext, tool: TurnTool, room: Room, at: Heights) -> None:
        """Plunges side by side, each as deep as the allowance lets it; then what walls that lean over the floor hide."""
        if self.turned_out(tool) and len(room.places) > 1:
            self._turn_out(pencil, ctx, room, at)
        else:
            for u in self._ordered(room.places):
                v = lowest(room.keep, u, room.low - 10.0 * tool.width, at.free)
                if v < at.top - ctx.mm(0.02):
                    self._plunge(pencil, ctx, u, v, at)
        for end in (u for u in room.shaft if math.isfinite(u)):
            self._under(pencil, ctx, room, end, at)

    def _under(self, pencil: Pencil, ctx: TurnedContext, room: Room, end: float, at: Heights) -> None:
        """From one end of the shaft sideways under the wall and back, layer by layer down to the floor."""
        feed, outward, hair = given(self.f), (1.0 if end == room.shaft[1] else -1.0), ctx.mm(2e-3)
        begin = end - outward * min(ctx.mm(BESIDE_LIP), self._air(room) / 2)
        count = equal_parts(at.top - room.low, given(self.side_ap), 1e-9)
        down = False
        for v in (at.top - (at.top - room.low) * (j + 1) / count for j in range(count)):
            far = sideways(room.keep, (begin, v + hair), outward)
            if (far - end) * outward < ctx.mm(UNREACHED):
                continue
            if not down:
                pencil.go(v=at.free).go(u=begin)
                pencil.cut(through_air(feed, ctx), v=at.top + near(ctx))
                down = True
            pencil.cut(feed, v=v + hair).cut(feed, u=far - outward * hair).cut(feed, u=begin)
        pencil.go(v=at.free)

    @staticmethod
    def _air(room: Room) -> float:
        """How much the blade can move in the mouth."""
        (left, right), ends = room.shaft, (min(room.places), max(room.places))
        return min(right, ends[1]) - max(left, ends[0])

    def _turn_out(self, pencil: Pencil, ctx: TurnedContext, room: Room, at: Heights) -> None:
        """Layer by layer from wall to wall and back, as far as the blade may come at each height; at the end of a layer down to
        the next within what is cut."""
        feed, reach = given(self.f), (min(room.places), max(room.places))
        layers = layers_between(room.keep, reach, at.top, room.low, given(self.side_ap), ctx.mm(2e-3))
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
        self, pencil: Pencil, path: TurnPath, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], at: Heights, k: int,
        room: Room,
    ) -> None:  # fmt: skip
        """Down the right wall with the right corner, down the left one with the left, both to where they meet on the floor."""
        c, (lo, hi), (top, free) = tool.corner_radius, self.blade(tool).span, at
        way = self.way(ctx, tool, chain, at)
        to_left, to_right, order = self._meeting(ctx, tool, way, k, room)
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
            if tool.flank or not self.level(ctx):  # ridges of the plunges stand beside it
                pencil.cut(given(self.f), v=max(pencil.at[1], top + near(ctx)))
            pencil.go(v=free)
            if second:
                path.do(OtherEdge(False))

    def _meeting(
        self, ctx: TurnedContext, tool: TurnTool, way: Sequence[Segment], k: int, room: Room
    ) -> tuple[float, float, tuple[str, str]]:
        """Along the way of the corners' centre: how far to the left the right wall's run goes, how far to the right the left
        one's, and which of them is first."""
        c, blade = tool.corner_radius, tool.width - 2 * tool.corner_radius
        order = ("left", "right") if self.begin == "left" else ("right", "left")
        if not self.level(ctx):
            left, right = self.ends(ctx, k)
            middle, laps = (left + right) / 2, ctx.mm(LAPS) / 2
            if self.undercuts(ctx):  # the blade comes straight up out of the mouth
                corner = self.blade(tool).span[1] - c
                middle = min(max(middle, room.shaft[0] + corner + laps), room.shaft[1] + corner - laps)
            return middle - laps, middle + laps, order
        first, last = self.level_ends(ctx, way, k)
        middle = (first + last) / 2
        # the blade stays off what still stands on the other wall: a slanted one bears its allowance further in
        slant = math.radians(max(self.right_angle, self.left_angle) if straight(self) else OWN_SLANT)
        off = given(self.leave) * (1 / math.cos(slant) + math.tan(slant)) + ctx.mm(0.02)
        to_left = min(max(middle, last + blade + off), first)
        to_right = max(min(middle, first - blade - off), last)
        # what the first has cut of the floor, as far as its other corner comes, the second need not go over again
        twice = 2 * blade - ctx.mm(LAPS)
        if order[0] == "right":
            to_right = min(to_right, max(last, to_left - twice))
        else:
            to_left = max(to_left, min(first, to_right + twice))
        if self.undercuts(ctx):
            to_left, to_right = self._through_mouth(ctx, tool, (to_left, to_right), room, order[0])
            to_left, to_right = max(min(to_left, first), last + blade), min(max(to_right, last), first - blade)
        return to_left, to_right, order

    def _through_mouth(
        self, ctx: TurnedContext, tool: TurnTool, ends: tuple[float, float], room: Room, first: str
    ) -> tuple[float, float]:
        """Both runs' ends where the blade comes straight up out of the mouth; the second meets what the first has cut."""
        c, (lo, hi) = tool.corner_radius, self.blade(tool).span
        air = min(ctx.mm(BESIDE_LIP), self._air(room) / 2)
        low, high = room.shaft[0] + air, room.shaft[1] - air
        right, left = (min(max(u, low), high) for u in (ends[0] - (hi - c), ends[1] - (lo + c)))
        most = max(tool.width - 2 * c - ctx.mm(LAPS), 0.0)
        if right - left > most and first == "right":
            left = max(right - most, low)
        elif right - left > most:
            right = min(left + most, high)
        return right + (hi - c), left + (lo + c)

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        first = tr("turned out sideways") if self.turned_out(tool) else tr("plunges")
        first += tr(", sideways under the walls") if self.undercuts(ctx) else ""
        way = tr("one plunge") if self.single(tool, ctx) else tr("{first}, then both walls", first=first)
        way += (
            tr("; inner corners keep R{corner_radius}", corner_radius=number(tool.corner_radius, ctx))
            if self.shape == "own" and tool.corner_radius > 0
            else ""
        )
        lip = self.thin_lip(ctx)
        thin = tr("; the {lip} lip is only {lip_2} thick", lip=tr(lip[0]), lip_2=number(lip[1], ctx)) if lip else ""
        other = tr("; second offset {second}", second=tool.second) if self.edges == "two" and not self.single(tool, ctx) else ""
        r = self.at_radius(ctx)
        return [
            (
                HOW,
                tr("{way}; the program means the {edge} edge{other}{thin}", way=way, edge=tr(tool.edge), other=other, thin=thin),
            ),
            (TOOL, speed_says(self, ctx, r, max(abs(self.surface(ctx)), r) if not face(self) else r)),
        ]
