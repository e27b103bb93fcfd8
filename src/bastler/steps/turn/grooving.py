"""Grooves on the outside, in a bore and on the face: plunged to depth, then both walls finished to meet on the floor.

In the groove's view the surface is above and the floor below; *right* is the side the tool comes from. What a wall that leans
over the floor hides is taken from the mouth sideways, layer by layer.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal, NamedTuple

import msgspec
import shapely

from bastler.ask import Answers, Trouble, ask, choose
from bastler.motion.moves import OtherEdge, Pause, TurnPath
from bastler.motion.turning import Pencil, forbidden
from bastler.motion.turning.blade import Blade, stays
from bastler.motion.turning.grooves import layers_between, lowest, open_ended, plunges, shaft_of, sideways
from bastler.shapes import Segment
from bastler.shapes.chain import between, moved, offset, points_on, reversed_chain
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Stage, replaced, step
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
from bastler.steps.turn.groove_shape import GrooveShape, as_insert, face, straight
from bastler.steps.turn.pecks import HOW
from bastler.tools import TurnTool
from bastler.units import Kind

SAME = 0.005
"""How close, in mm, a tool has to be to the groove's width for one plunge to do."""
SIDE_SHARE, SIDE_MOST = 0.3, 0.75
"""A blade turned sideways goes down by that share of its width, and by no more than the second: it bends aside."""
OVERLAP, ROUND_OVERLAP = 0.8, 0.5
"""From one plunge to the next, as a share of the tool's width; a full radius leaves ridges in between."""
RUN_OUT = 0.0005
"""A corner that is so little, in mm, over the floor has come to it."""
LAPS = 0.1
"""So far, in mm, two passes along a floor overlap."""
SHARP = 0.15
"""A corner that is to be sharp may be rounded by so much of the blade's width."""
UNREACHED = 0.004
"""Less than that, in mm, of what a blade cannot come to is rounding."""
OWN_SLANT = 45.0
"""Walls that are drawn bear their allowance as if they slanted by that, in degrees."""
BODY_AIR = 0.02
"""So much air, in mm, is kept around a blade's neck and its shank."""
BESIDE_LIP = 0.1
"""How far, in mm, a blade keeps off both lips of an undercut groove as it comes and goes."""


def _sideways(s: Answers) -> bool:
    return bool(s.rough == "sideways")


def _side_ap(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.turn_tool(s.tool)
    return None if tool is None else round(SIDE_SHARE * tool.width, 2 if ctx.unit == "mm" else 4)


def _made(s: Answers) -> bool:
    """Is it made by a blade that is narrower than it, not plunged as the insert is?"""
    return not as_insert(s)


def _by_layers(s: Answers) -> bool:
    return _made(s) and (_sideways(s) or s.undercuts)


def _leave(s: Answers, ctx: TurnedContext) -> float:
    return ctx.mm(0.1)


def _begin(s: Answers, ctx: TurnedContext) -> str:
    side = s.thin_lip(ctx)
    return side[0] if side else "middle"


class Room(NamedTuple):
    """In the view, while the allowance stands: where the point must not go, where it plunges, how low it comes, and between which
    lengths it comes straight down past walls that lean over the floor; without bound where they do not."""

    keep: Region
    places: list[float]
    low: float
    shaft: tuple[float, float]


class Heights(NamedTuple):
    """In the view: the surface that a groove is cut into, and where it is free over that."""

    top: float
    free: float


@step("Groove", "Grooves and threads", "Outside, inside or on the face; one or several", planes=TURNED, rank=1)
class Groove(GrooveShape, frozen=True, kw_only=True, tag="groove"):
    """Answers of a grooving step."""

    SLOWER = 0.6

    begin: Annotated[
        Literal["right", "left", "middle"] | None,
        choose(
            "Begin at the",
            {"right": "Right", "left": "Left", "middle": "Middle"},
            HOW,
            when=_made,
            propose=_begin,
            helps="Begin on the side of a thin lip, while it still has a back.",
        ),
    ] = None
    rough: Annotated[
        Literal["plunge", "sideways"],
        choose(
            "Its middle is", {"plunge": "Plunged out", "sideways": "Turned out sideways"}, HOW, when=_made,
            helps="Sideways for wide shallow ones, with a blade that bears it.",
        ),
    ] = "plunge"  # fmt: skip
    side_ap: Annotated[
        float | None, ask("Down per pass", Kind.LENGTH, HOW, above=0, propose=_side_ap, when=_by_layers, symbol="ap")
    ] = None
    finish: Annotated[Literal["yes", "no"], choose("Finish both walls", {"yes": "Yes", "no": "No"}, HOW, when=_made)] = "yes"
    leave: Annotated[float | None, ask("Leave on walls", Kind.LENGTH, HOW, least=0, propose=_leave, when=_made)] = None
    edges: Annotated[
        Literal["one", "two"],
        choose(
            "Offsets",
            {"one": "One", "two": "One for each edge"},
            HOW,
            when=_made,
            helps="With two the width of the groove can be corrected at the machine.",
        ),
    ] = "two"

    def farther(self, by: float) -> Groove | None:
        return None if face(self) or not straight(self) else replaced(self, z=self.z - by)

    def lacks(self) -> str:
        return f"grooving tool for the {'end face' if face(self) else self.side} that is narrow enough"

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        if as_insert(self):
            return next((t.id for t in self._blades(ctx)), None)
        best = self._widest(ctx, math.inf) or max(self._blades(ctx), key=lambda t: self._nearly(ctx, t), default=None)
        return best.id if best else None

    def _nearly(self, ctx: TurnedContext, tool: TurnTool) -> tuple[bool, bool, bool, float]:
        """Of blades that all do not make it the one of which it is said why: narrow enough, and of the right form."""
        left, right = self.ends(ctx, 0)
        narrow = tool.width <= right - left + ctx.mm(SAME)
        corner = not straight(self) or tool.corner_radius <= self._most_corner(tool) + ctx.mm(SAME)
        form = tool.round_nosed if not self.level(ctx) else bool(tool.flank) == self.undercuts
        return narrow, corner, form, tool.width

    def _blades(self, ctx: TurnedContext) -> list[TurnTool]:
        """The groove tools that work on its side."""
        grooving = (t for t in ctx.turning_tools if t.kind == "grooving" and t.side == self.side)
        return [t for t in grooving if bool(t.drawn) == as_insert(self)]

    def _widest(self, ctx: TurnedContext, below: float) -> TurnTool | None:
        """The widest blade below a width that makes the groove; plain ones before such as are made for undercuts."""
        left, right = self.ends(ctx, 0)
        fits = [t for t in self._blades(ctx) if t.width <= right - left + ctx.mm(SAME) and t.width < below]
        fits = [t for t in fits if not self._enter_trouble(ctx, t) and not self._reach_troubles(ctx, t)]
        return max(fits, key=lambda t: (not t.flank or self.undercuts, not t.neck, t.width), default=None)

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.tool)
        return min(0.03 * tool.width, ctx.mm(0.15)) if tool else None

    def at_radius(self, ctx: TurnedContext) -> float:
        if self.shape == "own":
            return max(abs(self.ends(ctx, 0)[1] if face(self) else self.floor(ctx)), ctx.mm(1.0))
        return self.outer_d / 2 if face(self) else max(self.floor_d / 2, ctx.mm(1.0))

    def off(self, ctx: TurnedContext) -> float:
        """How far off the surface rapids end: nearer to one that was cut before, and so is where it is said to be."""
        return ctx.near if self.surface(ctx) < self.surface(ctx.as_raw) - ctx.mm(0.01) else ctx.clear

    def blade(self, tool: TurnTool) -> Blade:
        """The tool in the groove's view, a hair of air around what must not touch."""
        grown = (shapely.Polygon(part).buffer(BODY_AIR * tool.mm, join_style="mitre").exterior.coords for part in tool.body)
        body = tuple(tuple(self.view.outline([(z, r) for z, r in part])) for part in grown)
        return Blade(tuple(self.view.outline(tool.cutting)), body, tool.corner_radius)

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        kinds = ("grooving",) if as_insert(self) else ("grooving", "parting")
        found = insert_trouble(ctx.tool(self.tool), self.choose_tool(ctx), kinds=kinds, drawn=as_insert(self))
        if not found and as_insert(self) and self.form(ctx) is None:
            found = [Trouble("tool", "Its edge is not drawn: that is done in the crib.", self.choose_tool(ctx))]
        return found

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found, tool = super().troubles(ctx) + self.shape_troubles(ctx), ctx.turn_tool(self.tool)
        if found or tool is None:
            return found
        left, right = self.ends(ctx, 0)
        deep = max(self.surface(ctx, k) - self.floor(ctx, k) for k in range(self.count))
        plunges = max((right - left) / tool.width, 1.0)
        if more := passes_trouble("width", plunges, "plunges") or self.pecks_trouble(deep, self.count * plunges):
            return more
        if tool.side != self.side:
            return [Trouble("tool", "This tool does not work on that side.", self.choose_tool(ctx))]
        if tool.inside and tool.min_bore > 2 * (bore := ctx.bore(left, ctx.front)) + 1e-9:
            text = f"Needs a bore of Ø{number(tool.min_bore, ctx)}; there is Ø{number(2 * bore, ctx)}."
            return [Trouble("tool", text, self.choose_tool(ctx))]
        if _made(self):
            found += self._width_troubles(ctx, tool, right - left) + self._sideways_trouble(ctx, tool, deep)
        if tool.reach < deep - 1e-9:
            found.append(Trouble("tool", f"Reaches {number(tool.reach, ctx)} deep; the groove is {number(deep, ctx)}."))
        return found or self._enter_trouble(ctx, tool) or self._reach_troubles(ctx, tool)

    def _width_troubles(self, ctx: TurnedContext, tool: TurnTool, wide: float) -> list[Trouble]:
        if tool.width > wide + ctx.mm(SAME):
            return [Trouble("tool", f"Wider than the groove: {number(tool.width, ctx)}.", self.choose_tool(ctx))]
        room = 2 * given(self.leave) + ctx.mm(4 * SAME) if self.finish == "yes" else 0.0
        if not straight(self) or self.single(tool, ctx) or not tool.width <= wide + ctx.mm(SAME) < tool.width + room:
            return []
        best = self._widest(ctx, 0.9 * wide)
        text = f"Too wide to finish both walls of this groove: {number(wide - room, ctx)} is the most."
        return [Trouble("tool", text, best.id if best else None)]

    def _sideways_trouble(self, ctx: TurnedContext, tool: TurnTool, deep: float) -> list[Trouble]:
        if not _by_layers(self) or self.side_ap is None:
            return []
        most = SIDE_MOST * tool.width
        if self.side_ap > most + 1e-9:
            return [
                Trouble("side_ap", f"A blade of {number(tool.width, ctx)} takes {number(most, ctx)} sideways.", round(most, 3))
            ]
        return passes_trouble("side_ap", self.count * deep / self.side_ap, "passes")

    def _enter_trouble(self, ctx: TurnedContext, tool: TurnTool) -> list[Trouble]:
        """A face-groove blade whose curve finds no room where it first plunges. What it widens after that is open on one side."""
        if not face(self) or not (tool.least_d or tool.most_d):
            return []
        for k in range(self.count):
            left, right = self.ends(ctx, k)
            first = {"right": right, "left": min(left + tool.width, right)}.get(self.begin or "", (left + right + tool.width) / 2)
            d = 2 * min(first, right)
            if not tool.least_d - ctx.mm(SAME) <= d <= (tool.most_d or math.inf) + ctx.mm(SAME):
                room = f"from Ø{number(tool.least_d, ctx)}" + (f" to Ø{number(tool.most_d, ctx)}" if tool.most_d else "")
                text = f"Its curved blade enters {room}; the first plunge would be at Ø{number(d, ctx)}."
                best = next((t.id for t in self._blades(ctx) if t.id != tool.id and self._enters(ctx, t)), None)
                return [Trouble("tool", text, best)]
        return []

    def _enters(self, ctx: TurnedContext, tool: TurnTool) -> bool:
        left, right = self.ends(ctx, 0)
        return tool.width <= right - left + ctx.mm(SAME) and not self._enter_trouble(ctx, msgspec.structs.replace(tool, id=""))

    def _reach_troubles(self, ctx: TurnedContext, tool: TurnTool) -> list[Trouble]:
        """A shape that the blade's end, its sides or its neck keep it from."""
        if as_insert(self):
            return []
        if straight(self) and tool.corner_radius > (most := self._most_corner(tool)) + ctx.mm(SAME):
            return [
                Trouble("tool", f"Its corners are R{number(tool.corner_radius, ctx)}; R{number(most, ctx)} is the most here.")
            ]
        if self.level(ctx) and (wide := self._wide_trouble(ctx, tool)):
            return [wide]
        if straight(self) and not self.floor_angle and not self.undercuts:
            return []
        if not self.level(ctx) and not tool.round_nosed:
            text = "A floor that slants or curves needs a blade with a full radius: a flat end leaves ridges there."
            return [Trouble("tool", text)]
        if self.undercuts and (tight := self._mouth_trouble(ctx, tool)):
            return [tight]
        for k in range(self.count if face(self) else 1):
            chain = self.chain(ctx, k)
            if isinstance(chain, Trouble):
                continue
            high = max(self.surface(ctx, k), chain[0].start[1], chain[-1].end[1])
            left = stays(tuple(open_ended(chain[1:-1], high, 0.0)), self.blade(tool), high, ctx.mm(0.001))
            if left > ctx.mm(UNREACHED):
                text = f"Its end or its sides keep it from {number(left, ctx)} there: narrower, or with sides that slant back."
                return [Trouble("tool", text)]
        return []

    def _wide_trouble(self, ctx: TurnedContext, tool: TurnTool) -> Trouble | None:
        """A blade whose end is wider than the floor between its radii would cut into them."""
        chain, flat = self.chain(ctx, 0), tool.width - 2 * tool.corner_radius
        if isinstance(chain, Trouble) or self.single(tool, ctx):
            return None
        low = self.floor(ctx, 0) + ctx.mm(1e-6)
        level = sum(s.start[0] - s.end[0] for s in chain[1:-1] if max(s.start[1], s.end[1]) <= low)
        if flat <= level + ctx.mm(SAME):
            return None
        return Trouble(
            "tool", f"Its end is flat for {number(flat, ctx)}; between its radii the floor is for {number(level, ctx)}."
        )

    def _most_corner(self, tool: TurnTool) -> float:
        """The largest radius that a blade's corners may have: the floor's, or where that is to be sharp, as blades have them."""
        radii = (self.corner_radius, self.corner_radius if self.left_radius is None else self.left_radius)
        return min(radius or SHARP * tool.width for radius in radii)

    def _mouth_trouble(self, ctx: TurnedContext, tool: TurnTool) -> Trouble | None:
        """An undercut groove has to let the blade in, with the allowance on both its walls and a little air."""
        slant = math.radians(-min(self.right_angle, self.left_angle, 0.0))
        leave = self.leave if self.leave is not None else _leave(self, ctx)
        air = 2 * ctx.mm(BESIDE_LIP) + tool.corner_radius * math.tan(slant)
        needs = tool.width + (2 * leave / math.cos(slant) if self.finish == "yes" else 0.0) + air
        mouth = min(self.mouth(ctx, k) for k in range(self.count if face(self) else 1))
        if mouth >= needs:
            return None
        return Trouble("tool", f"The groove's mouth is {number(mouth, ctx)} wide; this blade needs {number(needs, ctx)}.")

    # -- the path -----------------------------------------------------------------------------------------------

    def single(self, tool: TurnTool, ctx: TurnedContext) -> bool:
        """Does one plunge make it?"""
        if as_insert(self):
            return True
        if not self.level(ctx):
            return False
        plain = not (self.right_angle or self.left_angle or self.edge_break or self.left_edge)
        sharp = self.widest_corner() <= tool.corner_radius + ctx.mm(SAME)
        return plain and sharp and abs(tool.width - self.width) <= ctx.mm(SAME)

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
        keep = forbidden(shapely.make_valid(material), [blade.cutting, *(blade.body if self.undercuts else ())])
        low = self.floor(ctx, k) + leave
        reaches = low + tool.corner_radius + self.widest_corner() + abs(self.falls) + ctx.mm(0.01)
        walls = [p[0] for p in points_on(chain[1:-1], ctx.mm(0.01))]
        on_floor = [u for u, v in points if v < reaches] if straight(self) else walls
        top = (min(walls), max(walls))
        floor = max(min(on_floor), top[0] + leave), min(max(on_floor), top[1] - leave)
        step = (ROUND_OVERLAP if tool.round_nosed else OVERLAP) * tool.width
        places = plunges(blade.span, step, floor, top, ctx.mm(1e-3))
        if not self.undercuts:
            return Room(keep, places, low, (-math.inf, math.inf))
        half = (low + at.top) / 2  # where walls lean over it is narrowest at the lips
        walled = points_on(chain[1:-1], ctx.mm(0.01))
        lowest_at = min(range(len(walled)), key=lambda j: walled[j][1])
        right_lip = min(u for u, v in walled[: lowest_at + 1] if v >= half)
        left_lip = max(u for u, v in walled[lowest_at:] if v >= half)
        middle = (right_lip + left_lip) / 2
        left, right = shaft_of(keep, middle - sum(blade.span) / 2, half, at.top)
        hair = min(ctx.mm(1e-3), (right - left) / 2)
        shaft = (left + hair if self.left_angle < 0 else -math.inf, right - hair if self.right_angle < 0 else math.inf)
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

    def turned_out(self, tool: TurnTool) -> bool:
        """Is the middle turned out sideways? Not by a blade whose sides slant back: it would leave ridges on both walls."""
        return _sideways(self) and not tool.flank

    def _under(self, pencil: Pencil, ctx: TurnedContext, room: Room, end: float, at: Heights) -> None:
        """From one end of the shaft sideways under the wall and back, layer by layer down to the floor."""
        feed, outward, hair = given(self.f), (1.0 if end == room.shaft[1] else -1.0), ctx.mm(2e-3)
        begin = end - outward * min(ctx.mm(BESIDE_LIP), self._air(room) / 2)
        count = max(1, math.ceil((at.top - room.low) / given(self.side_ap) - 1e-9))
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
        way = offset(open_ended(chain[1:-1], free, 2 * c + ctx.mm(LAPS)), c)
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
                pencil.cut(given(self.f), v=max(pencil.at[1], min(top + near(ctx), pencil.at[1] + tool.width)))
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
            if self.undercuts:  # the blade comes straight up out of the mouth
                corner = self.blade(tool).span[1] - c
                middle = min(max(middle, room.shaft[0] + corner + laps), room.shaft[1] + corner - laps)
            return middle - laps, middle + laps, order
        every = points_on(way, ctx.mm(0.01))
        # up to where a corner has run out on the floor: what ends above that leaves it
        on_floor = self.floor(ctx, k) + c
        inner = [u for u, v in every if v < on_floor + ctx.mm(RUN_OUT)] or [u for u, v in every if v < on_floor + ctx.mm(0.01)]
        first, last = max(inner, default=way[0].start[0]), min(inner, default=way[-1].end[0])
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
        if self.undercuts:
            to_left, to_right = self._through_mouth(ctx, tool, (to_left, to_right), room, order[0])
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
        first = "turned out sideways" if self.turned_out(tool) else "plunges"
        first += ", sideways under the walls" if self.undercuts else ""
        way = "one plunge" if self.single(tool, ctx) else f"{first}, then both walls"
        lip = self.thin_lip(ctx)
        thin = f"; the {lip[0]} lip is only {number(lip[1], ctx)} thick" if lip else ""
        other = f"; second offset {tool.second}" if self.edges == "two" and not self.single(tool, ctx) else ""
        r = self.at_radius(ctx)
        return [
            (HOW, f"{way}; the program means the {tool.edge} edge{other}{thin}"),
            (TOOL, speed_says(self, ctx, r, max(abs(self.surface(ctx)), r) if not face(self) else r)),
        ]
