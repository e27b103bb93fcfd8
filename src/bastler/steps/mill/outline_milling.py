"""Milling along an outline: on it, left or right of it, in several depths and widths, with leads and holding tabs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from dataclasses import field as dataclass_field
from typing import Annotated, Any, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.language import tr
from bastler.motion import Path
from bastler.motion.areas import Feeds, Manner, follow, ramp_along, sink
from bastler.motion.finishing import follow_wall, overlapped
from bastler.motion.leads import LeadForm, lead_in, lead_out, run_up
from bastler.motion.rings import at_share, begun_at, from_longest, longest, nearest_on, part_of
from bastler.shapes import Flat, Line, Removal, Segment, draw
from bastler.shapes.chain import length_of, offset_owned, points_on, reversed_chain, shifted
from bastler.shapes.kinds import Region
from bastler.shapes.reach import left_of
from bastler.shapes.region import Loop, area_of, offset_chain, offset_region, polygon_of, primitives, swept
from bastler.shapes.united import united
from bastler.steps.base import Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import (
    FINISH,
    TOOL,
    given,
    load_line,
    number,
    passes_trouble,
    plunge_feed,
    speed_line,
    speed_trouble,
    tool_trouble,
)
from bastler.steps.mill.area import MILLS, SHAPE, TIGHTEST, AreaStep, depth_words, finishes
from bastler.steps.mill.free_pocket import outline_troubles
from bastler.steps.mill.ringed import COARSE_MM, FINE_MM, tightest
from bastler.tools import Tool
from bastler.units import Kind

LEADS, TABS = "On and off", "Holding tabs"
MOST_WIDTHS = 60

_beside = isnt("side", "on")
_led = isnt("lead", "none")
_pointed = is_("begin", "point")


def _wide(s: Answers) -> bool:
    return bool(s.widths > 1 or _clears(s))


def _clears(s: Answers) -> bool:
    return bool(s.side != "on" and s.land == "clear")


def _grooves(s: Answers) -> bool:
    return _beside(s) and not _clears(s)


def _land(s: Answers, ctx: FlatContext) -> str:
    return "groove"


def _tabbed(s: Answers) -> bool:
    return bool(s.tabs > 0)


def _begin(s: Answers, ctx: FlatContext) -> tuple[float, float]:
    chain, _ = s.base(ctx)
    return at_share(chain[longest(chain)], 0.5) if chain else ctx.stock.centre[:2]


def _begin_x(s: Answers, ctx: FlatContext) -> float:
    return round(_begin(s, ctx)[0], 4)


def _begin_y(s: Answers, ctx: FlatContext) -> float:
    return round(_begin(s, ctx)[1], 4)


def _lead_size(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return round(0.5 * tool.diameter, 3) if tool else None


def _tab_width(s: Answers, ctx: FlatContext) -> float:
    return 4.0 if ctx.unit == "mm" else 0.16


def _tab_height(s: Answers, ctx: FlatContext) -> float:
    return 1.0 if ctx.unit == "mm" else 0.04


@dataclass(frozen=True)
class Pass:
    """One way along the outline with what leads on to it and off it. Where the control keeps the tool beside the outline, `told`
    is what stands in the program, and `on` and `off` are where the tool's centre begins and ends."""

    before: Loop
    chain: Loop
    after: Loop
    closed: bool
    told: Loop = dataclass_field(default_factory=list)
    on: tuple[float, float] = (0.0, 0.0)
    off: tuple[float, float] = (0.0, 0.0)

    @property
    def whole(self) -> Loop:
        """The way of the tool's centre."""
        way = [*self.before, *self.chain, *self.after]
        return [Line(self.on, way[0].start), *way, Line(way[-1].end, self.off)] if self.told else way


@step("Outline", "Outside", "On, left or right of it; leads, depths, widths, tabs", rank=1)
class OutlineMilling(AreaStep, frozen=True, kw_only=True, tag="outline-milling"):
    """Answers of outline milling."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, TOOL, LEADS, FINISH, TABS)

    leave_floor: float | None = 0.0
    entry_angle: Annotated[float, ask("Slope", Kind.ANGLE, LEADS, least=0.2, most=30, when=lambda s: s.entry == "ramp")] = 3.0
    finish: Annotated[Literal["yes", "no"], choose("Finish", {"yes": "Once more along it", "no": "Leave as it is"}, FINISH)] = (
        "no"
    )
    entry: Annotated[
        Literal["ramp", "plunge"], choose("Into the material", {"ramp": "Ramp along it", "plunge": "Straight down"}, LEADS)
    ] = "plunge"
    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""
    side: Annotated[
        Literal["left", "on", "right"],
        choose("The tool runs", {"left": "Left of it", "on": "On it", "right": "Right of it"}, SHAPE),
    ] = "right"
    land: Annotated[
        Literal["groove", "clear"] | None,
        choose(
            "What lies beside it",
            {"groove": "Stays", "clear": "Is cleared"},
            SHAPE,
            propose=_land,
            when=_beside,
            helps="Of a closed outline: it stays, and a groove is cut along it; or it goes, out to the stock's edge.",
        ),
    ] = None
    widths: Annotated[int, ask("Passes wide", Kind.COUNT, TOOL, least=1, most=MOST_WIDTHS, when=_grooves)] = 1
    compensation: Annotated[
        Literal["computed", "control"],
        choose(
            "Beside it by",
            {"computed": "Worked out here", "control": "The control"},
            TOOL,
            when=_beside,
            helps="G41 or G42 with the cutter's diameter in the control's table lets the machinist correct the last pass there.",
        ),
    ] = "computed"
    lead: Annotated[
        Literal["arc", "line", "square", "none"],
        choose("Leads", {"arc": "Arc", "line": "Straight on", "square": "Square to it", "none": "None"}, LEADS, when=_beside),
    ] = "arc"
    lead_size: Annotated[
        float | None,
        ask(
            "Size of the leads",
            Kind.LENGTH,
            LEADS,
            above=0,
            propose=_lead_size,
            when=lambda s: s.side != "on" and s.lead != "none",
        ),
    ] = None
    begin: Annotated[
        Literal["longest", "point"],
        choose("Begins", {"longest": "On the longest segment", "point": "Near a point"}, LEADS),
    ] = "longest"
    begin_x: Annotated[float | None, ask("Near X", Kind.LENGTH, LEADS, propose=_begin_x, when=_pointed)] = None
    begin_y: Annotated[float | None, ask("Near Y", Kind.LENGTH, LEADS, propose=_begin_y, when=_pointed)] = None
    tabs: Annotated[int, ask("How many", Kind.COUNT, TABS, least=0, most=40)] = 0
    tab_width: Annotated[float | None, ask("How wide", Kind.LENGTH, TABS, above=0, propose=_tab_width, when=_tabbed)] = None
    tab_height: Annotated[float | None, ask("How high", Kind.LENGTH, TABS, above=0, propose=_tab_height, when=_tabbed)] = None

    # -- the way ------------------------------------------------------------------------------------------------------------

    def base(self, ctx: FlatContext) -> tuple[Loop, bool]:
        """The outline with the tool on its left, and whether it is closed; empty while it is not whole."""
        outline = ctx.outlines.get(self.outline)
        drawn = draw(outline) if outline else None
        if outline is None or drawn is None or drawn.troubles:
            return [], False
        chain = list(drawn.chain)
        return (reversed_chain(chain) if self.side == "right" else chain), outline.is_closed

    def ways(self, ctx: FlatContext, distance: float) -> list[Loop]:
        """The outline moved off by a distance, in the direction to mill it."""
        chain, closed = self.base(ctx)
        if not chain:
            return []
        if self.side == "on":
            found = [chain]
        else:
            found = offset_region([chain], distance) if closed else offset_chain(chain, distance)
        climb = self.side == "on" or self.cutting == "climb"
        found = [w if climb else reversed_chain(w) for w in found]
        return [self._begun(w) for w in found] if closed else found

    def _begun(self, way: Loop) -> Loop:
        if _pointed(self):
            return begun_at(way, nearest_on(way, (given(self.begin_x), given(self.begin_y))))
        return from_longest(way)

    def passes(self, ctx: FlatContext, tool: Tool, leave: float, count: int) -> list[Pass]:
        """All ways beside each other, the one along the wall last."""
        chain, closed = self.base(ctx)
        keep, found = primitives(chain), []
        left = self.cutting == "climb"
        form: LeadForm = "none" if self.side == "on" else self.lead
        for k in range(count - 1, -1, -1):
            distance = tool.diameter / 2 + leave + k * given(self.ae)
            for way in self.ways(ctx, distance):
                size = given(self.lead_size) if form != "none" else 0.0
                ramped = self.entry == "ramp"  # the way itself leads down
                if closed and form != "none" and not (k or leave or ramped or self.tabs):
                    way = overlapped(way, tool.diameter)
                before = [] if ramped else lead_in(way, form, size, left=left, keep_off=keep, distance=distance)
                after = lead_out(way, form, size, left=left, keep_off=keep, distance=distance)
                found.append(Pass(before, way, after, closed))
        return found

    def told_passes(self, ctx: FlatContext, tool: Tool) -> list[Pass]:
        """The last way along the wall, as an outline that the control keeps the tool beside; empty where it could not."""
        chain, closed = self.base(ctx)
        keep, radius, left = primitives(chain), tool.diameter / 2, self.cutting == "climb"
        side = -radius if left else radius
        made = []
        for outline in self.ways(ctx, 0.0):
            owned = offset_owned(outline, side)
            if {id(own) for _, own in owned} != {id(s) for s in outline}:
                return []  # a control stops where a part of the outline has no room beside it
            centre = [s for s, _ in owned]
            size = given(self.lead_size) if self.lead != "none" else 0.0
            # only a lead that runs on smoothly can be told as a part of the outline
            form: LeadForm = self.lead if self.lead in ("arc", "line") else "none"
            before = lead_in(centre, form, size, left=left, keep_off=keep, distance=radius, strict=True)
            after = lead_out(centre, form, size, left=left, keep_off=keep, distance=radius, strict=True)
            whole = [*before, *centre, *after]
            on, off = run_up(whole, keep, radius), run_up(reversed_chain(whole), keep, radius)
            leads = [[shifted(s, -side) for s in part] for part in (before, after)]
            told = [s for s in (*leads[0], *outline, *leads[1]) if s is not None]
            if on is None or off is None:
                return []
            made.append(Pass(before, centre, after, closed, told, on, off))
        wanted = sum(length_of(s) for way in self.ways(ctx, radius) for s in way)
        found = sum(length_of(s) for p in made for s in p.chain)
        return made if abs(wanted - found) < 1e-6 * wanted else []

    def all_passes(self, ctx: FlatContext) -> list[tuple[Tool, Pass]]:
        """The ways of both stages, each with its tool."""
        tool, last = ctx.tool(self.tool), self.last_tool(ctx)
        if tool is None or last is None:
            return []
        found = [(tool, p) for p in self.rough_passes(ctx, tool)]
        return found + ([(last, p) for p in self.finish_passes(ctx, last)] if finishes(self) else [])

    def rough_passes(self, ctx: FlatContext, tool: Tool) -> list[Pass]:
        """The ways of the first stage."""
        count = self.count(ctx, tool) if self.side != "on" else 1
        leave = self.left(self.leave_wall) if self.side != "on" else 0.0
        made = self.passes(ctx, tool, leave, count)
        return made if finishes(self) else self.with_last(ctx, tool, made)

    def count(self, ctx: FlatContext, tool: Tool) -> int:
        """How many passes lie beside each other: as many as were asked for, or as clear the land to the stock's edge."""
        if not _clears(self):
            return self.widths
        side = self.tool_side(ctx)
        if side.is_empty or self.ae is None:
            return 1
        far = _farthest(side, ctx.stock.plan.difference(side))
        return max(1, math.ceil((far - tool.diameter) / given(self.ae) - 1e-9) + 1)

    def tool_side(self, ctx: FlatContext) -> Region:
        """Of a closed outline the part of the stock, seen from above, on the tool's side of it; empty for others."""
        inside, inward = self._inside(ctx)
        if inside is None:
            return shapely.Polygon()
        return ctx.stock.plan.intersection(inside) if inward else ctx.stock.plan.difference(inside)

    def _inside(self, ctx: FlatContext) -> tuple[Region, bool]:
        """What a closed outline bounds that the tool runs beside, and whether it runs in there; None of any other."""
        chain, closed = self.base(ctx)
        if not closed or self.side == "on" or not chain:
            return None, False
        inward = area_of(chain) > 0
        return polygon_of([chain if inward else reversed_chain(chain)], ctx.mm(FINE_MM)), inward

    def to_open(self, ctx: FlatContext) -> list[tuple[float, Region]]:
        """What lies on the tool's side, at the height of the floor: the tool is to get to the outline wherever it goes. Of an
        open one as far as matters to the tool."""
        chain, closed = self.base(ctx)
        tool = self.last_tool(ctx)
        if self.side == "on" or not chain or tool is None:
            return []
        if not closed:
            return [(self.floor, left_of(tuple(points_on(chain, ctx.mm(FINE_MM))), 1.5 * tool.diameter))]
        inside, inward = self._inside(ctx)
        return [(self.floor, inside if inward else inside.envelope.buffer(sum(ctx.stock.size[:2])).difference(inside))]

    def too_round(self, ctx: FlatContext) -> float | None:
        """The radius of the narrowest rounded inner corner that the last tool does not go into; None where it goes into all."""
        chain, _ = self.base(ctx)
        tool = self.last_tool(ctx)
        least = tightest([chain])
        return least if tool is not None and self.side != "on" and least < tool.diameter / 2 - TIGHTEST else None

    def finish_passes(self, ctx: FlatContext, tool: Tool) -> list[Pass]:
        """The ways of the finishing stage."""
        return self.with_last(ctx, tool, self.passes(ctx, tool, 0.0, 1))

    def with_last(self, ctx: FlatContext, tool: Tool, made: list[Pass]) -> list[Pass]:
        """The passes, those along the wall as the control keeps the tool beside it where it is to do that."""
        told = self.told_passes(ctx, tool) if self.by_control else []
        return [*made[: -len(told)], *told] if told else made

    # -- what is gone and what is wrong -------------------------------------------------------------------------------------

    def footprint(self, ctx: FlatContext) -> Region:
        chain, _ = self.base(ctx)
        tool = ctx.tool(self.tool)
        if not chain or tool is None:
            return shapely.Polygon()
        return shapely.LineString(points_on(chain, ctx.mm(COARSE_MM))).buffer(tool.diameter)

    def removes(self, ctx: FlatContext) -> list[Removal]:
        everything, under = [], []
        for tool, p in self.all_passes(ctx):
            everything.append(_stroke(p.whole, tool, ctx))
            under += [_stroke(run, tool, ctx) for run in self._under_tabs(p, tool)]
        allowed = self._allowed(ctx)
        found: list[Removal] = []
        heights = [(self.floor, under), (self.tab_top, everything)] if self.tabs else [(self.floor, everything)]
        for z, strokes in heights:
            region = united(strokes)
            region = region if allowed is None else allowed(region)
            if not region.is_empty:
                found.append(Flat(region, z))
        return found

    def _allowed(self, ctx: FlatContext) -> Region:
        """The outline itself says what has to stay, not the way along it."""
        inside, inward = self._inside(ctx)
        if inside is None:
            return None
        return (lambda region: region.intersection(inside)) if inward else (lambda region: region.difference(inside))

    @property
    def tab_top(self) -> float:
        return self.floor + (given(self.tab_height) if self.tabs else 0.0)

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that follows the outline everywhere and reaches the floor, not wider than a third of the stock."""
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        mills = [t for t in mills if t.flute_length >= self.depth and t.diameter <= min(ctx.stock.size[:2]) / 5] or mills
        chain, closed = self.base(ctx)
        if not chain or not mills or self.side == "on" or not closed:
            return mills[min(1, len(mills) - 1)].id if mills else None
        whole = [t for t in mills if len(offset_region([chain], t.diameter / 2)) == 1]
        tight = tightest([chain])
        fitting = [t for t in whole if t.diameter / 2 <= tight + TIGHTEST]
        return (fitting or whole or mills)[-1 if fitting or whole else 0].id

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if finishes(self):
            found += tool_trouble(ctx.tool(self.finish_tool), "finish_tool") + speed_trouble(ctx, "finish_n", self.finish_n)
        found += outline_troubles(ctx.outlines.get(self.outline), "outline", closed=None)
        if found:
            return found
        if self.floor < ctx.stock.lo[2] - ctx.mm(5.0):
            most = given(self.top) - ctx.stock.lo[2]
            found.append(Trouble("depth", tr("Far deeper than the stock: {most} goes through.", most=number(most, ctx)), most))
        tool, last = ctx.tool(self.tool), self.last_tool(ctx)
        assert tool is not None
        assert last is not None
        for name, one in {"tool": tool, "finish_tool" if finishes(self) else "tool": last}.items():
            if one.kind not in MILLS:
                found.append(Trouble(name, tr("This tool does not mill along an outline."), self.choose_tool(ctx)))
        if _wide(self) and given(self.ae) > 2 * tool.profile.flat + TIGHTEST:
            found.append(Trouble("ae", tr("Something would stay between two passes."), round(0.5 * tool.diameter, 4)))
        if _pointed(self) and not self.base(ctx)[1]:
            found.append(Trouble("begin", tr("An open outline begins at its end."), "longest"))
        if self.tabs and given(self.tab_height) >= self.depth:
            found.append(Trouble("tab_height", tr("As high as the cut is deep."), round(self.depth / 4, 3)))
        found += passes_trouble("ap", self.depth / given(self.ap), "passes")
        if not found and (count := self.count(ctx, tool)) > MOST_WIDTHS:
            found.append(
                Trouble(
                    "ae",
                    tr(
                        "Clearing takes {count} passes beside each other; {most_widths} are the most.",
                        count=count,
                        most_widths=MOST_WIDTHS,
                    ),
                )
            )
        if self.by_control and (self.tabs or self.entry == "ramp"):
            text = tr("Not with tabs or a ramp: while the control keeps the tool beside it, the height stays.")
            found.append(Trouble("compensation", text, "computed"))
        if not found:
            found += self._way_troubles(ctx)
        if not found and self.by_control and not self.told_passes(ctx, last):
            text = tr("The control would find no room there: the outline is tighter than the tool, or there is no way on to it.")
            found.append(Trouble("compensation", text, "computed"))
        return found

    @property
    def by_control(self) -> bool:
        """Does the control keep the tool beside the outline in the last stage?"""
        return self.compensation == "control" and _beside(self)

    def _way_troubles(self, ctx: FlatContext) -> list[Trouble]:
        made = self.all_passes(ctx)
        if not made:
            return [Trouble("tool", tr("Too wide to run there anywhere."), self.choose_tool(ctx))]
        if self.tabs:
            short = min(sum(map(length_of, p.chain)) for _, p in made)
            need = self.tabs * (given(self.tab_width) + made[0][0].diameter) * 1.5
            if short < need:
                return [Trouble("tabs", tr("More tabs than the way has room for."), max(0, int(self.tabs * short / need)))]
        return []

    # -- moves ----------------------------------------------------------------------------------------------------------------

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        return self._stage("rough", tool, ctx, self.rough_passes(ctx, tool), self.levels(), given(self.vf), given(self.n), 0.0)

    def finished(self, tool: Tool, ctx: FlatContext) -> Stage:
        made, levels = self.finish_passes(ctx, tool), self.wall_levels(tool)
        return self._stage("finish", tool, ctx, made, levels, given(self.finish_vf), given(self.finish_n), given(self.leave_wall))

    def _stage(
        self,
        name: str,
        tool: Tool,
        ctx: FlatContext,
        made: Sequence[Pass],
        levels: Sequence[float],
        feed: float,
        n: float,
        wall: float,
    ) -> Stage:
        """`wall` is what it takes off the wall, where that is little: the feed goes with it."""
        if not made:  # with what is left on the wall it gets in nowhere: that is for the finishing pass
            return Stage(name=name, tool=tool, spin=Spin(n=n), start=(*ctx.stock.lo[:2], ctx.safe), moves=())
        x, y = made[0].whole[0].start
        start = (x, y, ctx.safe)
        over = max(ctx.go_across, given(self.top) + ctx.clear)
        path = Path(*start).go(z=over)
        slope = math.tan(math.radians(self.entry_angle))
        how = Manner(tool.diameter, self.cutting == "climb", self.entry, slope, Feeds(feed, plunge_feed(tool, ctx, feed, n)),
                     ctx.near, over, given(self.top), ctx.clear)  # fmt: skip
        for p in made:
            above = given(self.top)
            for level in levels:
                self._run(path, p, above, level, tool, how, wall)
                above = level
        path.go(z=over).go(z=ctx.safe)
        return Stage(name=name, tool=tool, spin=Spin(n=n), start=start, moves=tuple(path.moves))

    def _run(self, path: Path, p: Pass, above: float, level: float, tool: Tool, how: Manner, wall: float) -> None:
        if p.told:
            self._run_told(path, p, above, level, how)
            return
        first = p.whole[0].start
        on = p.closed and path.z <= above + 1e-9 and math.dist((path.x, path.y), first) < 1e-9
        if not on:
            path.go(z=how.over).go(*first)
            sink(path, above + how.clear, how)
        if self.entry == "ramp" and not self._tabbed(level):
            self._ramp(path, p, level, how)
        path.cut(how.feeds.plunge, z=level)
        follow(path, p.before, how.feeds.cut)
        self._along(path, p, level, tool, how, wall)
        follow(path, p.after, how.feeds.cut)

    def _run_told(self, path: Path, p: Pass, above: float, level: float, how: Manner) -> None:
        """Down beside the outline, compensation on, along it, off again."""
        if (path.x, path.y) != p.on:
            path.go(z=how.over).go(*p.on)
        sink(path, above + how.clear, how)
        path.cut(how.feeds.plunge, z=level)
        path.bend("left" if how.climb else "right")
        path.cut(how.feeds.cut, *p.told[0].start)
        follow(path, p.told, how.feeds.cut)
        path.bend("off")
        path.cut(how.feeds.cut, *p.off)

    def _ramp(self, path: Path, p: Pass, level: float, how: Manner) -> None:
        """Down along the way, all round a closed one, there and back on an open one; ends at its start."""
        round_trip = p.chain if p.closed else [*p.chain, *reversed_chain(p.chain)]
        ramp_along(path, round_trip, level, how.slope, how.feeds.plunge, whole_rounds=True)

    def _along(self, path: Path, p: Pass, level: float, tool: Tool, how: Manner, wall: float) -> None:
        if not self._tabbed(level):
            if wall > 0.0:
                follow_wall(path, p.chain, how.feeds.cut, radius=tool.diameter / 2, ae=wall, climb=how.climb)
            else:
                follow(path, p.chain, how.feeds.cut)
            return
        for run, raised in self._tab_runs(p, tool):
            if raised:
                path.cut(how.feeds.cut, z=self.tab_top)
            follow(path, run, how.feeds.cut)
            if raised:
                path.cut(how.feeds.plunge, z=level)

    def _tabbed(self, level: float) -> bool:
        """Does a pass at that height have to go over the tabs?"""
        return bool(self.tabs) and level < self.tab_top - TIGHTEST

    def _tab_runs(self, p: Pass, tool: Tool) -> list[tuple[Loop, bool]]:
        """The way in runs, with whether the tool is up on a tab."""
        whole = sum(map(length_of, p.chain))
        half = (given(self.tab_width) + tool.diameter) / 2
        marks = [0.0]
        for k in range(self.tabs):
            middle = whole * (k + 0.5) / self.tabs
            marks += [middle - half, middle + half]
        spans = itertools.pairwise([*marks, whole])
        return [(between(p.chain, a, b), k % 2 == 1) for k, (a, b) in enumerate(spans)]

    def _under_tabs(self, p: Pass, tool: Tool) -> list[Loop]:
        """What of a way goes down to the floor."""
        if not self.tabs:
            return [p.whole]
        low = [run for run, raised in self._tab_runs(p, tool) if not raised]
        return [[*p.before, *low[0]], *low[1:-1], [*low[-1], *p.after]]

    # -- what is shown ----------------------------------------------------------------------------------------------------------

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi = ctx.stock.lo, ctx.stock.hi
        shape = self.footprint(ctx)
        y = (lo[1] + hi[1]) / 2 if shape.is_empty else shape.representative_point().y
        return Sketch(section=((lo[0], y), (hi[0], y)))

    def summary(self, ctx: FlatContext) -> str:
        outline = ctx.outlines.get(self.outline)
        name = tr("“{name}”", name=outline.name) + " " if outline else ""
        tabs = tr(", {tabs} tabs", tabs=self.tabs) if self.tabs else ""
        return f"{name}{tr(self.side)}, {depth_words(self, ctx)}{tabs}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        lines = [(SHAPE, tr("Floor will be at Z {floor}.", floor=number(self.floor, ctx)))]
        if tool:
            count = len(self.levels())
            ap = self.depth / count
            lines.append(
                (
                    TOOL,
                    tr(
                        "{speed_line} · {count} × {ap} deep",
                        speed_line=speed_line(tool, ctx, given(self.vc), given(self.n)),
                        count=count,
                        ap=number(ap, ctx),
                    ),
                )
            )
            lines.append((TOOL, load_line(tool, ctx, ae=tool.diameter, ap=ap, n=given(self.n), vf=given(self.vf))))
        return lines


def _farthest(region: Region, wall: Any) -> float:
    """How far from a wall a region goes: along its own edge, and in its widest place."""
    edge = shapely.segmentize(region, max(region.length / 400, 1e-9))
    along = float(shapely.distance(shapely.points(shapely.get_coordinates(edge)), wall).max())
    pieces = [shapely.maximum_inscribed_circle(g).length for g in getattr(region, "geoms", [region]) if g.area > 0]
    return float(max([along, *pieces]))


def between(chain: Sequence[Segment], a: float, b: float) -> Loop:
    """The part of a chain between two lengths along it."""
    made, at = [], 0.0
    for s in chain:
        long = length_of(s)
        t0, t1 = max(0.0, (a - at) / long), min(1.0, (b - at) / long)
        if t1 - t0 > 1e-12:
            made.append(part_of(s, t0, t1))
        at += long
    return made


def _stroke(chain: Sequence[Segment], tool: Tool, ctx: FlatContext) -> Region:
    """What a tool takes away along a chain."""
    return swept(chain, tool.diameter / 2, ctx.mm(FINE_MM))
