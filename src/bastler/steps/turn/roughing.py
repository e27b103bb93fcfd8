"""Roughing an outline outside or inside, in passes along Z or along X, leaving an even allowance."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, ClassVar, Literal, NamedTuple

import shapely
from msgspec.structs import replace

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import tr
from bastler.motion.moves import OutlineCycle, Roughed, TurnPath
from bastler.motion.rings import part_of
from bastler.motion.turning import (
    Bars,
    Pencil,
    View,
    above,
    draw_bars,
    forbidden,
    material_under,
    reached,
    view_of,
    way_on,
)
from bastler.shapes import Line, Segment
from bastler.shapes.chain import length_of, points_on, reversed_chain
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Stage, TurnSketch, step
from bastler.steps.cut import TOOL, given, number, passes_trouble
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import bite_power, powered, speed_says, start, through_air
from bastler.steps.turn.outline_step import COARSE_MM, OUTLINE, OutlineStep
from bastler.tools import TurnTool
from bastler.units import Kind, figures

HOW = "How"
HALVINGS = 10
"""So often the place on a way is narrowed down where it comes to the stock."""
LEAST_AIR = 5.0
"""Less air than so many times what a nose keeps off is no move of its own."""
HAIR = 1e-9
"""Feeds that differ by less are the same."""
Point = tuple[float, float]
KEEP_CHORD = 0.005
"""How far, in mm, a chord may leave an arc where passes end: they keep this much more off the outline."""


def _ap(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.turn_tool(s.tool)
    if tool is None:
        return None
    return round(powered(tool, ctx, s, min(ctx.mm(2.5), 0.35 * tool.edge_in_cut)), 3 if ctx.unit == "mm" else 4)


_bars = is_("way", "along", "across")


def _enter_f(s: Answers, ctx: TurnedContext) -> float | None:
    f: float | None = s.f
    return f


def _leave_d(s: Answers, ctx: TurnedContext) -> float:
    return 2 * ctx.leave_x


def _leave_z(s: Answers, ctx: TurnedContext) -> float:
    return ctx.leave_z


@step("Rough to an outline", "Outlines", "Even bites, outside or inside, an allowance left", planes=TURNED, rank=1)
class TurnRoughing(OutlineStep, frozen=True, kw_only=True, tag="turn-roughing"):
    """Answers of a roughing step."""

    groups: ClassVar[tuple[str, ...]] = (OUTLINE, HOW, TOOL)

    way: Annotated[
        Literal["along", "across", "layers"],
        choose(
            "Passes", {"along": "Along Z", "across": "Along X", "layers": "In layers"}, HOW,
            helps="In layers: along the outline again and again, each time closer, where a forging has its shape already.",
        ),
    ] = "along"  # fmt: skip
    leave_d: Annotated[
        float | None, ask("Leave on Ø", Kind.LENGTH, HOW, least=0, propose=_leave_d, helps="For finishing, on the diameter.")
    ] = None
    leave_z: Annotated[float | None, ask("Leave on Z", Kind.LENGTH, HOW, least=0, propose=_leave_z)] = None
    leave_by: Annotated[
        Literal["45", "follow"],
        choose("Off the wall", {"45": "At 45°", "follow": "Along it"}, HOW, when=_bars, helps="How each pass leaves the wall."),
    ] = "45"
    even_out: Annotated[
        Literal["yes", "no"],
        choose("Last pass along the outline", {"yes": "Yes", "no": "No"}, HOW, when=_bars, helps="Takes the steps off."),
    ] = "yes"
    ap: Annotated[float | None, ask("Bite", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap", helps="On the radius.")] = None
    enter_f: Annotated[
        float | None,
        ask(
            "Feed as it enters", Kind.FEED_PER_TOOTH, TOOL, above=0, propose=_enter_f, when=_bars,
            helps="Per turn, over the first bite of each pass: less spares the edge where a skin is hard or the cut is broken.",
        ),
    ] = None  # fmt: skip

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.turn_tool(self.tool)
        if found or tool is None:
            return found
        if self.way != "layers" and given(self.enter_f) > given(self.f) + HAIR:
            return [Trouble("enter_f", tr("No more than the feed, {f}.", f=number(given(self.f), ctx)), self.f)]
        deep = self._thick(ctx, tool) if self.way == "layers" else self.high(ctx, tool) - self.low(ctx, tool)
        return passes_trouble("ap", deep / given(self.ap), "passes")

    def left_on(self) -> tuple[float, float]:
        return given(self.leave_d) / 2, given(self.leave_z)

    def _allowed(self, ctx: TurnedContext, tool: TurnTool) -> list[Segment]:
        return self.chain(ctx, tool, *self.left_on())

    def low(self, ctx: TurnedContext, tool: TurnTool) -> float:
        return min(v for _, v in points_on(self._allowed(ctx, tool), ctx.mm(COARSE_MM)))

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path, view = start(ctx), view_of(tool, across=self.way == "across")
        self.begin(path, ctx)
        if self.way == "layers":
            self._layers(path, ctx, tool)
        elif cycle := self._cycle(ctx, tool):
            path.cycle(cycle)
        else:
            self._passes(path, view, ctx, tool)
            if self.even_out == "yes":
                self._along(path, ctx, tool)
        self.home(path, ctx)
        return [self.stage("rough", tool, path), *self._behind(ctx)]

    def roughly(self) -> tuple[float, float]:
        return (self.leave_d or 0.0) / 2, self.leave_z or 0.0  # asked too while tools are chosen, before these are worked out

    def _behind(self, ctx: TurnedContext) -> Iterator[Stage]:
        """What the first tool has not come to, by the left-hand one, along Z and once along the outline."""
        if (behind := self.behind(ctx)) is None:
            return
        path, (there, tool) = start(ctx), behind
        self.begin(path, ctx)
        self._passes(path, view_of(tool), there, tool)
        self.along_what_is_left(path, there, tool, self._allowed(there, tool), given(self.f))
        self.home(path, ctx)
        yield self.stage("rough from behind", tool, path)

    def _layers(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool) -> None:
        """Along the outline from the outside in, a bite closer each time, as far as there is stock."""
        (leave_r, leave_z), thick = self.left_on(), self._thick(ctx, tool)
        count = max(math.ceil(thick / given(self.ap) - 1e-9), 1)
        even = thick / count
        for k in reversed(range(count)):
            chain = reached(self.chain(ctx, tool, leave_r + k * even, leave_z + k * even), tool)
            if chain:
                square, run = self.square(ctx, tool, chain), self.run_in(ctx, tool, chain)
                follow_outline(path, ctx, tool, chain, given(self.f), self.free(ctx), run, square=square, only=True)

    def _thick(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """How far the stock stands over what is left on the outline, at most."""
        chain = self._allowed(ctx, tool)
        over = above(chain, max(self.high(ctx, tool), 0.0) + ctx.mm(1.0), ctx.mm(COARSE_MM))
        stands = view_of(tool).region(ctx.stock).intersection(over)
        line = shapely.LineString(points_on(chain, ctx.mm(COARSE_MM)))
        corners = shapely.points(shapely.get_coordinates(stands))
        return float(shapely.distance(corners, line).max(initial=0.0))

    def _cycle(self, ctx: TurnedContext, tool: TurnTool) -> OutlineCycle | None:
        """All of it as one cycle of the control, which always goes along the outline in the end, and leaves a wall at 45°."""
        if (self.way, self.even_out, self.leave_by) != ("along", "yes", "45") or given(self.enter_f) < given(self.f) - HAIR:
            return None
        (leave, leave_z), feed = self.left_on(), given(self.f)
        how = Roughed(
            ap=given(self.ap),
            pull=ctx.card.pull_off,
            leave_r=-leave if self.inside(ctx) else leave,
            leave_z=leave_z,
            feed=feed,
        )
        found = self.by_cycle(ctx, tool, feed, "G71", how)
        if found is None:
            return None
        deep = abs(found.start_r - found.begin_r) - leave
        even = deep / max(math.ceil(deep / how.ap - 1e-9), 1)
        places = ctx.card.dialect.places(ctx.unit)
        return replace(found, roughed=replace(how, ap=math.ceil(even * 10**places) / 10**places))

    def _passes(self, path: TurnPath, view: View, ctx: TurnedContext, tool: TurnTool) -> None:
        plain = View(inside=view.inside, left=view.left)
        chain = reached(self._allowed(ctx, tool), tool)
        material = plain.region(material_under(chain, ctx.mm(KEEP_CHORD)))
        begin = chain[0].start[0]
        ahead = plain.region(shapely.box(begin, -2 * ctx.over, begin + 1e5, 2 * ctx.over)).intersection(ctx.stock)
        amid = view.left or plain.region(ctx.stock).bounds[2] - begin > ctx.clear + 2 * tool.nose
        if amid:  # it begins in the middle of the part, which stays where it is
            material = material.union(ahead)
        if self.even_out == "yes":
            material = material.buffer(ctx.mm(KEEP_CHORD), join_style="mitre", quad_segs=1)
        bounds = ctx.stock.bounds
        near = shapely.box(bounds[0], -ctx.over - 1, bounds[2] + 1.0, 2 * ctx.over)
        keep = forbidden(view.region(material.intersection(near)), [view.outline(tool.cutting), *map(view.outline, tool.body)])
        end = min(chain[0].start[0], chain[-1].end[0])
        zone = plain.region(shapely.box(end, -ctx.over * 2, begin if amid else bounds[2] + 1.0, ctx.over * 2))
        stock = view.region(ctx.stock.intersection(zone))
        if stock.is_empty:
            return
        low = self.low(ctx, tool) if not view.across else min(p[0] for p in points_on(chain, ctx.mm(COARSE_MM)))
        extra = ctx.mm(2 * KEEP_CHORD if self.even_out == "yes" else 1e-4)
        bars = Bars(
            stock=stock,
            keep=keep,
            low=low + extra,
            flats=tuple(height + extra for height in flats(chain, across=view.across)),
            high=float(stock.bounds[3]),
            least=stock.bounds[0] if not view.across else min(stock.bounds[0], -tool.nose),
            ap=given(self.ap),
            clear=ctx.clear,
            pull=ctx.card.pull_off,
            leave=self.leave_by,
            front=self._front(ctx, view, stock),
        )
        draw_bars(Pencil(path, view), bars, given(self.f), given(self.enter_f))

    def _front(self, ctx: TurnedContext, view: View, stock: Region) -> float | None:
        """Where passes begin, where that is not just as far off the stock as rapids end."""
        if view.across:
            return self.free(ctx) if view.inside else None
        return None if view.left else float(stock.bounds[2]) + ctx.off_front

    def _along(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool) -> None:
        """Once along what the allowance leaves."""
        chain = reached(self._allowed(ctx, tool), tool)
        square = self.square(ctx, tool, chain)
        run = self.run_in(ctx, tool, chain)
        follow_outline(path, ctx, tool, chain, given(self.f), self.free(ctx), run, square=square, only=True)

    def removes(self, ctx: TurnedContext) -> list[Region]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        behind = self.behind(ctx)
        tools = (tool, behind[1]) if behind is not None else (tool,)
        return [self.gone(ctx, t, reached(self._allowed(ctx, t), t), nose=True) for t in tools]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        return self.outline_dims(ctx)

    def summary(self, ctx: TurnedContext) -> str:
        shape = self.shape(ctx)
        return (
            tr("“{name}”, {ap} a bite", name=shape.name, ap=number(given(self.ap), ctx))
            if shape and self.ap
            else tr("no outline yet")
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        power = bite_power(tool, ctx, ap=given(self.ap), f=given(self.f), vc=given(self.vc))
        radii = [r for _, r in points_on(self.drawn(ctx).chain, ctx.mm(COARSE_MM))]
        return [
            (TOOL, speed_says(self, ctx, min(radii), max(*radii, float(ctx.raw.bounds[3])))),
            (TOOL, tr("power {power} of {power_2:g} kW", power=figures(power, 2), power_2=ctx.card.power)),
        ]


def follow_outline(
    path: TurnPath,
    ctx: TurnedContext,
    tool: TurnTool,
    chain: Any,
    feed: float,
    free: float,
    run: float,
    *,
    square: bool,
    only: bool = False,
) -> None:
    """Along a chain of the tool's view, the nose kept off it by its radius, from a `run` in front of it; over `free` (in the
    view) there is nothing in the way; `square` as in `way_on`. Before it comes to the stock and behind it the nose goes through
    air; `only` as far as there is stock the last pieces that meet none are left out."""
    view = view_of(tool)
    pencil = Pencil(path, view)
    way = way_on(chain, tool, view, run, square=square)
    nose = _Nose(tool.nose, view.to(*tool.centre), view.region(ctx.stock), ctx.mm(0.02))
    while only and way and nose.in_air(way[-1]):
        way = way[:-1]
    if not way:
        return
    u, v = way[0].start
    pencil.go(v=max(free, v) if pencil.at[0] < u - 1e-9 else max(pencil.at[1], v))
    pencil.go(u=u).go(v=v)
    quick = through_air(feed, ctx)
    come, way = nose.before(way)
    way, gone = nose.behind(way)
    pencil.follow(quick, come).follow(feed, way, tool.nose).follow(quick, gone)
    end = pencil.at
    pencil.cut(quick, end[0] + ctx.card.pull_off, end[1] + ctx.card.pull_off)


class _Nose(NamedTuple):
    """The nose of a tip beside the stock of its view: its radius, where its centre is from the point, and how much farther off it
    is in air."""

    radius: float
    centre: Point
    stock: Region
    hair: float

    def in_air(self, piece: Segment) -> bool:
        """Does it come by no stock on a piece of the point's way?"""
        cu, cv = self.centre
        places = [(u + cu, v + cv) for u, v in points_on([piece], self.hair / 2)]
        return float(shapely.distance(self.stock, shapely.LineString(places))) > self.radius + self.hair

    def before(self, way: Sequence[Segment]) -> tuple[list[Segment], list[Segment]]:
        """A way parted where it first comes to the stock, as far as it is straight up to there."""
        air, rest = [], list(way)
        while len(rest) > 1 and isinstance(rest[0], Line) and self.in_air(rest[0]):
            air.append(rest.pop(0))
        first = rest[0]
        if not isinstance(first, Line) or len(rest) == 1:
            return air, rest
        low, high = 0.0, 1.0
        for _ in range(HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if self.in_air(part_of(first, 0.0, middle)) else (low, middle)
        if low * length_of(first) < LEAST_AIR * self.hair:
            return air, rest
        return [*air, part_of(first, 0.0, low)], [part_of(first, low, 1.0), *rest[1:]]

    def behind(self, way: Sequence[Segment]) -> tuple[list[Segment], list[Segment]]:
        """A way parted where it has left the stock, as far as it is straight from there on."""
        turned = reversed_chain(way)
        gone, rest = self.before(turned)
        return reversed_chain(rest), reversed_chain(gone)


def flats(chain: Sequence[Segment], *, across: bool) -> list[float]:
    """Heights of the pieces of an outline that run along the passes."""
    found = []
    for s in chain:
        if isinstance(s, Line):
            du, dv = abs(s.end[0] - s.start[0]), abs(s.end[1] - s.start[1])
            along, off, height = (dv, du, s.start[0]) if across else (du, dv, s.start[1])
            if off < 1e-9 < along:
                found.append(height)
    return found
