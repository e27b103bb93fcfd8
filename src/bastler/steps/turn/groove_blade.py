"""Which blade makes a groove, and how: what its end, its sides and its neck let it come to, which is said beside the tool."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal, NamedTuple

import msgspec
import shapely

from bastler.ask import Answers, Trouble, ask, choose
from bastler.language import tr
from bastler.motion.turning.blade import Blade, passed, rides, stays
from bastler.motion.turning.grooves import open_ended
from bastler.shapes import Line, Segment
from bastler.shapes.chain import offset, points_on
from bastler.steps.cut import given, number, passes_trouble
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import insert_trouble
from bastler.steps.turn.groove_shape import GrooveShape, as_insert, face, straight
from bastler.steps.turn.pecks import HOW
from bastler.tools import TurnTool
from bastler.units import Kind

SAME = 0.005
"""How close, in mm, a tool has to be to the groove's width for one plunge to do."""
SIDE_SHARE, SIDE_MOST = 0.3, 0.75
"""A blade turned sideways goes down by that share of its width, and by no more than the second: it bends aside."""
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
    """Is anything of it taken sideways, or may it be?"""
    return _made(s) and (_sideways(s) or not straight(s) or min(s.right_angle, s.left_angle) < 0)


def _leave(s: Answers, ctx: TurnedContext) -> float:
    return ctx.mm(0.1)


def _begin(s: Answers, ctx: TurnedContext) -> str:
    side = s.thin_lip(ctx)
    return side[0] if side else "middle"


class Heights(NamedTuple):
    """In the view: the surface that a groove is cut into, and where it is free over that."""

    top: float
    free: float


class BladedGroove(GrooveShape, frozen=True, kw_only=True):
    """A groove with the blade that makes it."""

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

    def lacks(self) -> str:
        return tr("grooving tool for the {side} that is narrow enough", side=tr("end face") if face(self) else tr(self.side))

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
        form = tool.round_nosed if not self.level(ctx) else bool(tool.flank) == self.undercuts(ctx)
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
        leans, rounds = self.undercuts(ctx), not self.level(ctx)
        return max(
            fits, key=lambda t: (not t.flank or leans, t.round_nosed <= rounds, not t.neck or leans, t.width), default=None
        )

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
            found = [Trouble("tool", tr("Its edge is not drawn: that is done in the crib."), self.choose_tool(ctx))]
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
            return [Trouble("tool", tr("This tool does not work on that side."), self.choose_tool(ctx))]
        if tool.inside and tool.min_bore > 2 * (bore := ctx.bore(left, ctx.front)) + 1e-9:
            text = tr(
                "Needs a bore of Ø{min_bore}; there is Ø{bore}.", min_bore=number(tool.min_bore, ctx), bore=number(2 * bore, ctx)
            )
            return [Trouble("tool", text, self.choose_tool(ctx))]
        if _made(self):
            found += self._width_troubles(ctx, tool, right - left) + self._sideways_trouble(ctx, tool, deep)
        if tool.reach < deep - 1e-9:
            found.append(
                Trouble(
                    "tool",
                    tr("Reaches {reach} deep; the groove is {deep}.", reach=number(tool.reach, ctx), deep=number(deep, ctx)),
                )
            )
        return found or self._enter_trouble(ctx, tool) or self._reach_troubles(ctx, tool)

    def _width_troubles(self, ctx: TurnedContext, tool: TurnTool, wide: float) -> list[Trouble]:
        if tool.width > wide + ctx.mm(SAME):
            return [Trouble("tool", tr("Wider than the groove: {width}.", width=number(tool.width, ctx)), self.choose_tool(ctx))]
        room = 2 * given(self.leave) + ctx.mm(4 * SAME) if self.finish == "yes" else 0.0
        if not straight(self) or self.single(tool, ctx) or not tool.width <= wide + ctx.mm(SAME) < tool.width + room:
            return []
        best = self._widest(ctx, 0.9 * wide)
        text = tr("Too wide to finish both walls of this groove: {wide} is the most.", wide=number(wide - room, ctx))
        return [Trouble("tool", text, best.id if best else None)]

    def _sideways_trouble(self, ctx: TurnedContext, tool: TurnTool, deep: float) -> list[Trouble]:
        if not _by_layers(self) or self.side_ap is None:
            return []
        most = SIDE_MOST * tool.width
        if self.side_ap > most + 1e-9:
            return [
                Trouble(
                    "side_ap",
                    tr("A blade of {width} takes {most} sideways.", width=number(tool.width, ctx), most=number(most, ctx)),
                    round(most, 3),
                )
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
                room = tr("from Ø{least_d}", least_d=number(tool.least_d, ctx)) + (
                    tr(" to Ø{most_d}", most_d=number(tool.most_d, ctx)) if tool.most_d else ""
                )
                text = tr("Its curved blade enters {room}; the first plunge would be at Ø{d}.", room=room, d=number(d, ctx))
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
                Trouble(
                    "tool",
                    tr(
                        "Its corners are R{corner_radius}; R{most} is the most here.",
                        corner_radius=number(tool.corner_radius, ctx),
                        most=number(most, ctx),
                    ),
                )
            ]
        if self.level(ctx) and (wide := self._wide_trouble(ctx, tool)):
            return [wide]
        if straight(self) and not self.floor_angle and not self.undercuts(ctx):
            return []
        if not self.level(ctx) and not tool.round_nosed:
            text = tr("A floor that slants or curves needs a blade with a full radius: a flat end leaves ridges there.")
            return [Trouble("tool", text)]
        if self.undercuts(ctx) and (tight := self._mouth_trouble(ctx, tool)):
            return [tight]
        for k in range(self.count if face(self) else 1):
            chain = self.chain(ctx, k)
            if isinstance(chain, Trouble):
                continue
            high = max(self.surface(ctx, k), chain[0].start[1], chain[-1].end[1])
            left = stays(tuple(open_ended(chain[1:-1], high, 0.0)), self.blade(tool), high, ctx.mm(0.001))
            way, walls = tuple(self.way(ctx, tool, chain, Heights(high, high + ctx.clear))), tuple(chain[1:-1])
            if (near := rides(way, walls, tool.corner_radius, ctx.mm(0.002))) > ctx.mm(UNREACHED):
                text = tr(
                    "The groove is too narrow for its corners somewhere: they would cut {near} into it.", near=number(near, ctx)
                )
                return [Trouble("tool", text)]
            if self.level(ctx) and self.undercuts(ctx) and not self._comes_up(ctx, tool, way, k):
                return [
                    Trouble("tool", tr("Too wide: between the radii of its floor the blade does not come up through the mouth."))
                ]
            if (by := passed(way, walls, tool.corner_radius, high, ctx.mm(0.001))) > ctx.mm(2 * UNREACHED):
                text = tr("Its corners are too large for a corner of the groove: {by} would stay.", by=number(by, ctx))
                return [Trouble("tool", text)]
            if left > ctx.mm(UNREACHED):
                text = tr(
                    "Its end or its sides keep it from {left} there: narrower, or with sides that slant back.",
                    left=number(left, ctx),
                )
                return [Trouble("tool", text)]
        return []

    def _comes_up(self, ctx: TurnedContext, tool: TurnTool, way: Sequence[Segment], k: int) -> bool:
        """Is there a place on the level part of a floor from which a blade comes straight up through the mouth?"""
        first, last = self.level_ends(ctx, way, k)
        c, (lo, hi), (left, right) = tool.corner_radius, self.blade(tool).span, self.mouth(ctx, k)
        off = (self.leave if self.leave is not None else _leave(self, ctx)) + ctx.mm(BESIDE_LIP)
        return max(last - lo - c, left - lo + off) <= min(first - hi + c, right - hi - off)

    def level_ends(self, ctx: TurnedContext, way: Sequence[Segment], k: int) -> tuple[float, float]:
        """From where to where, right and left, the way of a corner's centre is on the floor, up to where a corner has run out on
        it: what ends above that leaves it."""
        every, on_floor = points_on(way, ctx.mm(0.01)), min(v for s in way for v in (s.start[1], s.end[1]))
        inner = [u for u, v in every if v < on_floor + ctx.mm(RUN_OUT)] or [u for u, v in every if v < on_floor + ctx.mm(0.01)]
        return max(inner, default=way[0].start[0]), min(inner, default=way[-1].end[0])

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
            "tool",
            tr(
                "Its end is flat for {flat}; between its radii the floor is for {level}.",
                flat=number(flat, ctx),
                level=number(level, ctx),
            ),
        )

    def _most_corner(self, tool: TurnTool) -> float:
        """The largest radius that a blade's corners may have: the floor's, or where that is to be sharp, as blades have them."""
        radii = (self.corner_radius, self.corner_radius if self.left_radius is None else self.left_radius)
        return min(radius or SHARP * tool.width for radius in radii)

    def _mouth_trouble(self, ctx: TurnedContext, tool: TurnTool) -> Trouble | None:
        """An undercut groove has to let the blade in, with the allowance on both its walls and a little air."""
        slant = math.radians(-min(self.right_angle, self.left_angle, 0.0) if straight(self) else OWN_SLANT)
        leave = self.leave if self.leave is not None else _leave(self, ctx)
        air = 2 * ctx.mm(BESIDE_LIP) + tool.corner_radius * math.tan(slant)
        needs = tool.width + (2 * leave / math.cos(slant) if self.finish == "yes" else 0.0) + air
        mouths = [self.mouth(ctx, k) for k in range(self.count if face(self) else 1)]
        mouth = min(right - left for left, right in mouths)
        if mouth >= needs:
            return None
        return Trouble(
            "tool",
            tr(
                "The groove's mouth is {mouth} wide; this blade needs {needs}.",
                mouth=number(mouth, ctx),
                needs=number(needs, ctx),
            ),
        )

    def single(self, tool: TurnTool, ctx: TurnedContext) -> bool:
        """Does one plunge make it?"""
        if as_insert(self):
            return True
        if not self.level(ctx):
            return False
        plain = not (self.right_angle or self.left_angle or self.edge_break or self.left_edge)
        sharp = self.widest_corner() <= tool.corner_radius + ctx.mm(SAME)
        return plain and sharp and abs(tool.width - self.width) <= ctx.mm(SAME)

    def way(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], at: Heights) -> list[Segment]:
        """The way of the corners' centre along both walls and the floor, from over the surface and back there. A full radius that
        is larger than the groove is deep comes over the lips: straight down it would not get to what is under them."""
        c = tool.corner_radius
        low = min(v for _, v in points_on(chain, ctx.mm(0.01)))
        if not tool.round_nosed or at.top - low > 2 * c:
            return offset(open_ended(chain[1:-1], at.free, 2 * c + ctx.mm(LAPS)), c)
        over = offset(chain, c)[1:-1]
        (u0, v0), (u1, v1) = over[0].start, over[-1].end
        high = max(at.free, v0, v1) + ctx.mm(LAPS)
        return [Line((u0, high), (u0, v0)), *over, Line((u1, v1), (u1, high))]

    def turned_out(self, tool: TurnTool) -> bool:
        """Is the middle turned out sideways? Not by a blade whose sides slant back or whose end is round: that leaves ridges."""
        return _sideways(self) and not tool.flank and not tool.round_nosed
