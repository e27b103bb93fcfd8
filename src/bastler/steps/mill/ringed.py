"""What steps share that clear an area of any shape in rings."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from typing import Annotated, Literal

import shapely

from bastler.ask import Trouble, ask, choose, is_
from bastler.language import tr
from bastler.motion import Path
from bastler.motion.areas import Feeds, Manner, clear_area, follow, sink, way_round
from bastler.motion.even import equal_parts
from bastler.motion.finishing import follow_wall, overlapped
from bastler.motion.leads import lead_in, lead_out
from bastler.motion.loops import clear_evenly, widest_step
from bastler.motion.rings import RestRun, Rings, from_longest, rest_runs, rings_of
from bastler.shapes import Arc, Flat, Removal, Revolved
from bastler.shapes.kinds import Region
from bastler.shapes.prepared import prepared
from bastler.shapes.region import Loop, area_of, offset_region, opened, polygon_of, primitives
from bastler.steps.base import Dim, Sketch, Spin, Stage
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
from bastler.steps.mill.area import ENTRY, MILLS, SHAPE, TIGHTEST, AreaStep, finishes, joined_levels
from bastler.tools import Tool
from bastler.units import Kind

WORTH_IT = 0.4
"""A mill that goes into all corners does all of the work where it is at least so wide, as a share of the one for the rest."""
FINE_MM = 0.002
"""Chords of regions that the proof holds the path against; well under what it lets pass at a wall."""
COARSE_MM = 0.01
"""Chords where only the order of things is at stake."""
FINER_MM = 0.001
"""Chords where it is looked for what a tool has left."""
THIN_MM = 0.005
"""What is thinner than this is not gone over by itself."""
LEAD_SHARE = 0.25
MOST_STEPOVER = 0.9


class RingedStep(AreaStep, frozen=True, kw_only=True):
    """A step whose area may differ with the height: islands with tops of their own."""

    stepover_share = 0.45

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        """The area to be open at a height, from given answers."""
        raise NotImplementedError

    def tops(self, ctx: FlatContext) -> list[float]:
        """Heights between floor and top where the area changes: the floors on islands."""
        return []

    def footprint(self, ctx: FlatContext) -> Region:
        return polygon_of(self.area(ctx, math.inf), ctx.mm(COARSE_MM))

    def zones(self, ctx: FlatContext) -> list[float]:
        """The floors that the step leaves, the lowest first."""
        return [self.floor, *sorted(self.tops(ctx))]

    # -- what is gone ---------------------------------------------------------------------------------------------------

    def reachable(self, ctx: FlatContext, z: float) -> list[Loop]:
        """What the last tool can open at a height: corners keep its radius."""
        tool = self.last_tool(ctx)
        return opened(self.area(ctx, z), tool.diameter / 2) if tool else []

    def too_round(self, ctx: FlatContext) -> float | None:
        """The radius of the narrowest rounded inner corner that the last tool does not go into; None where it goes into all. What
        has a sharp corner on the drawing keeps the tool's radius as a matter of course."""
        tool = self.last_tool(ctx)
        least = tightest([loop for z in self.zones(ctx) for loop in self.area(ctx, z)])
        return least if tool is not None and least < tool.diameter / 2 - TIGHTEST else None

    def to_open(self, ctx: FlatContext) -> list[tuple[float, Region]]:
        """What is to be open at the floors that the step leaves, each with its height."""
        return [(z, polygon_of(self.area(ctx, z), ctx.mm(FINE_MM))) for z in self.zones(ctx)]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        found: list[Removal] = []
        for z in self.zones(ctx):
            region = polygon_of(self.reachable(ctx, z), ctx.mm(FINE_MM))
            if not region.is_empty:
                found.append(Flat(region, z))
        return found

    def keeps_corners(self, ctx: FlatContext, tool: Tool) -> bool:
        """Does a tool leave more in inner corners than is drawn there?"""
        loops = self.area(ctx, self.floor)
        return bool(loops) and _less_than(opened(loops, tool.diameter / 2), loops)

    # -- what is wrong --------------------------------------------------------------------------------------------------

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if finishes(self):
            found += tool_trouble(ctx.tool(self.finish_tool), "finish_tool") + speed_trouble(ctx, "finish_n", self.finish_n)
            if given(self.leave_floor) >= self.depth:
                found.append(
                    Trouble(
                        "leave_floor", tr("The whole depth of {depth}: nothing would be roughed.", depth=number(self.depth, ctx))
                    )
                )
        found += self.shape_troubles(ctx)
        if self.floor < ctx.stock.lo[2] - TIGHTEST:
            most = given(self.top) - ctx.stock.lo[2]
            found.append(Trouble("depth", tr("Deeper than the stock: {most} goes through.", most=number(most, ctx)), most))
        if found:
            return found
        found += passes_trouble("ap", self.depth / given(self.ap), "passes")
        found += passes_trouble("ae", max(ctx.stock.size[:2]) / given(self.ae), "rings")
        return found or self._tool_troubles(ctx)

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        """What is wrong with the outlines."""
        return []

    def unfit(self, ctx: FlatContext) -> list[Trouble]:
        """Tools that do not mill, whatever the outlines are."""
        other = finishes(self) and self.finish_tool != self.tool
        used = {"tool": ctx.tool(self.tool), "finish_tool": ctx.tool(self.finish_tool) if other else None}
        wrong = [name for name, tool in used.items() if tool is not None and tool.kind not in MILLS]
        return [Trouble(name, tr("This tool does not mill pockets."), self.choose_tool(ctx)) for name in wrong]

    def _tool_troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = []
        rough, last = ctx.tool(self.tool), self.last_tool(ctx)
        assert rough is not None
        assert last is not None
        fits = functools.cache(lambda: self.choose_tool(ctx))  # looked for only where something is wrong
        field = "finish_tool" if finishes(self) else "tool"
        if last.diameter > rough.diameter + TIGHTEST:
            text = tr("Wider than the roughing tool: it would not get into what that opened.")
            found.append(Trouble("finish_tool", text, rough.id))
        if last.profile.flat < last.diameter / 2 - TIGHTEST:
            found.append(Trouble(field, tr("Its rounded end leaves material where wall and floor meet."), fits()))
        most = MOST_STEPOVER * 2 * rough.profile.flat
        if given(self.ae) > most + TIGHTEST:
            found.append(
                Trouble("ae", tr("Over {most} something would stay between two rings.", most=number(most, ctx)), round(most, 4))
            )
        if not found and not self.reachable(ctx, self.floor):
            found.append(Trouble(field, tr("Too wide to go in anywhere."), fits() if fits() != last.id else None))
        if not found and self.entry == "hole" and self.hole(ctx) is None:
            found.append(Trouble("entry", tr("There is no hole in it that is deep enough. Drill one first."), "helix"))
        if not found and self.entry == "plunge" and not rough.centre_cutting:
            found.append(Trouble("entry", tr("This tool does not cut over its centre."), "ramp"))
        return found

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that opens nearly as much as the smallest does, goes into the rounded corners unless they are much
        narrower, and reaches the floor if there is one."""
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        mills = [t for t in mills if t.flute_length >= self.depth] or mills
        area = self.area(ctx, -math.inf) if mills and not self.shape_troubles(ctx) else []
        if not area:
            return mills[-1].id if mills else None
        most = _open_area(area, mills[0], ctx)
        fitting = [t for t in mills if _open_area(area, t, ctx) >= 0.9 * most > 0]
        chosen = (fitting or mills)[-1 if fitting else 0]
        least = tightest(area)
        into_corners = [t for t in mills if t.diameter / 2 <= least + TIGHTEST and t.diameter >= WORTH_IT * chosen.diameter]
        return into_corners[-1].id if into_corners and chosen.diameter / 2 > least else chosen.id

    # -- moves ------------------------------------------------------------------------------------------------------------

    def hole(self, ctx: FlatContext) -> Revolved | None:
        """The widest hole of an earlier step in the area that is deep enough."""
        area = self.footprint(ctx)
        found = [r for r in ctx.holes if area.covers(shapely.Point(r.x, r.y))]
        return max((r for r in found if r.at_radius(0.0) <= self.floor + TIGHTEST), key=lambda r: r.radius, default=None)

    def manner(self, ctx: FlatContext, tool: Tool, feed: float, n: float) -> Manner:
        hole = self.hole(ctx) if self.entry == "hole" else None
        return Manner(
            diameter=tool.diameter,
            climb=self.cutting == "climb",
            entry=self.entry,
            slope=math.tan(math.radians(self.entry_angle)),
            feeds=Feeds(feed, plunge_feed(tool, ctx, feed, n)),
            clear=ctx.near,
            over=max(ctx.go_across, given(self.top) + ctx.clear),
            surface=given(self.top),
            beside=ctx.clear,
            hole=(hole.x, hole.y, hole.open_to(self.floor) >= tool.diameter / 2 + ctx.clear) if hole else None,
        )

    def rings_in(self, ctx: FlatContext, tool: Tool, area: list[Loop], leave: float) -> Rings:
        return rings_of(area, radius=tool.diameter / 2, leave=leave, stepover=self.stepover(tool), fine=ctx.mm(COARSE_MM))

    def stepover(self, tool: Tool) -> float:
        """From ring to ring."""
        return min(given(self.ae), MOST_STEPOVER * 2 * tool.profile.flat)

    def clear(self, path: Path, rings: Rings, area: list[Loop], *, top: float, level: float, how: Manner) -> None:
        """One level of roughing."""
        clear_area(path, rings, top=top, level=level, how=how)

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        leave, marks = self.left(self.leave_wall), self.tops(ctx)
        levels = joined_levels(self.levels(), marks)
        start, path = self.begin(ctx)
        how = self.manner(ctx, tool, given(self.vf), given(self.n))
        known: dict[tuple[float, ...], Rings] = {}
        top = given(self.top)
        for level in levels:
            key = tuple(mark for mark in marks if mark > level + TIGHTEST)
            if key not in known:
                known[key] = self.rings_in(ctx, tool, self.area(ctx, level), leave)
            self.clear(path, known[key], self.area(ctx, level), top=top, level=level, how=how)
            top = level
        path.go(z=how.over).go(z=ctx.safe)
        moves = tuple(path.moves) if len(path.moves) > 2 else ()
        return Stage(name="rough", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=moves)

    def begin(self, ctx: FlatContext) -> tuple[tuple[float, float, float], Path]:
        """The place over the area where stages start, and a pencil there."""
        area = self.area(ctx, -math.inf)
        x, y = area[0][0].start if area else (0.0, 0.0)
        start = (x, y, ctx.safe)
        path = Path(*start)
        return start, path.go(z=max(ctx.go_across, given(self.top) + ctx.clear))

    def finished(self, tool: Tool, ctx: FlatContext) -> Stage:
        start, path = self.begin(ctx)
        how = self.manner(ctx, tool, given(self.finish_vf), given(self.finish_n))
        rough = ctx.tool(self.tool)
        assert rough is not None
        above = self.floor + given(self.leave_floor)
        if above > self.floor + TIGHTEST:
            self.clear_floor(path, ctx, tool, self.roughed(ctx, rough, self.floor), above, how)
            path.go(z=how.over)
        for level in self.finish_levels(tool, rough, ctx):
            area = self.area(ctx, level)
            done = polygon_of(self.roughed(ctx, rough, level), ctx.mm(FINER_MM))
            free = room_in(done, tool, ctx)
            runs = rest_runs(
                area,
                done,
                radius=tool.diameter / 2,
                stepover=given(self.ae),
                fine=ctx.mm(FINER_MM),
                thin=ctx.mm(THIN_MM),
                limit=self.limit(ctx),
            )
            keep = primitives([s for loop in area for s in loop])
            for run in runs:
                draw_run(path, run, keep, level, tool, how, free=free, ae=given(self.leave_wall))
        path.go(z=how.over).go(z=ctx.safe)
        moves = tuple(path.moves) if len(path.moves) > 2 else ()
        return Stage(name="finish", tool=tool, spin=Spin(n=given(self.finish_n)), start=start, moves=moves)

    def roughed(self, ctx: FlatContext, rough: Tool, z: float) -> list[Loop]:
        """What the roughing tool opened at a height."""
        radius = rough.diameter / 2
        return offset_region(offset_region(self.area(ctx, z), radius + given(self.leave_wall)), -radius)

    def clear_floor(self, path: Path, ctx: FlatContext, tool: Tool, open_: list[Loop], above: float, how: Manner) -> None:
        """Takes what roughing left on the floor of what it opened; where it did not get in, walls and floor are cut together."""
        rings = self.rings_in(ctx, tool, open_, 0.0)
        clear_area(path, rings, top=above, level=self.floor, how=how)

    def limit(self, ctx: FlatContext) -> Region:
        """Where there is something to cut at all; None: everywhere."""
        return None

    def finish_levels(self, tool: Tool, rough: Tool, ctx: FlatContext) -> list[float]:
        """A tool as large as the roughing one goes down the walls in one; a smaller one finds corners full of material."""
        levels = self.wall_levels(tool)
        if tool.diameter < rough.diameter - TIGHTEST:
            most = min(tool.diameter * ctx.material.slot_ap * 0.5, tool.flute_length)
            count = equal_parts(self.depth, most, 1e-9)
            levels = [given(self.top) - self.depth * k / count for k in range(1, count)] + [self.floor]
        return joined_levels(levels, self.tops(ctx))

    # -- what is shown ------------------------------------------------------------------------------------------------------

    def section_sketch(self, ctx: FlatContext, dims: Sequence[Dim] = (), centre: tuple[float, float] | None = None) -> Sketch:
        """A section through the middle of the area, with the depth; the centre is marked where there is one."""
        lo, hi = ctx.stock.lo, ctx.stock.hi
        shape = self.footprint(ctx)
        if shape.is_empty:
            middle = (lo[1] + hi[1]) / 2
            return Sketch(section=((lo[0], middle), (hi[0], middle)), dims=tuple(dims), centre=centre)
        y = shape.representative_point().y
        right = shape.bounds[2] - lo[0]
        depth = Dim("depth", "section", "depth", (right, given(self.top)), (right, self.floor))
        return Sketch(section=((lo[0], y), (hi[0], y)), dims=(*dims, depth), centre=centre)

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines = [(SHAPE, tr("Floor will be at Z {floor}.", floor=number(self.floor, ctx)))]
        tool, last = ctx.tool(self.tool), self.last_tool(ctx)
        if tool:
            count = len(self.levels())
            ap = (given(self.top) - self.levels()[-1]) / count
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
            lines.append((TOOL, load_line(tool, ctx, ae=given(self.ae), ap=ap, n=given(self.n), vf=given(self.vf))))
        if last and self.keeps_corners(ctx, last):
            lines.append(
                (
                    FINISH if finishes(self) else TOOL,
                    tr("Inner corners keep R{diameter}.", diameter=number(last.diameter / 2, ctx)),
                )
            )
        return lines


def tightest(loops: Sequence[Loop]) -> float:
    """The radius of the narrowest rounded inner corner; endless for none."""
    radii = [math.dist(s.start, s.centre) for loop in loops for s in loop if isinstance(s, Arc) and s.ccw]
    return min(radii, default=math.inf)


def _less_than(one: list[Loop], other: list[Loop]) -> bool:
    """Do loops bound less than others do, by more than arithmetic leaves over?"""
    whole = sum(area_of(loop) for loop in other)
    return sum(area_of(loop) for loop in one) < whole - 1e-6 * abs(whole)


_even = is_("bite", "even")


class LoopedStep(RingedStep, frozen=True, kw_only=True):
    """A step that may go in by a hole, and in loops where the cutter would be in too deep."""

    entry: Annotated[
        Literal["helix", "ramp", "plunge", "hole"],
        choose(
            "Into the material",
            {"helix": "Helix", "ramp": "Ramp", "plunge": "Plunge", "hole": "In a hole"},
            ENTRY,
            helps="In a hole that an earlier step has drilled; where there is none in a part of the area, with a helix.",
        ),
    ] = "helix"
    bite: Annotated[
        Literal["plain", "even"],
        choose("In corners and slots", {"plain": "Straight on", "even": "In loops"}, TOOL, helps="Loops keep the bite even."),
    ] = "plain"
    most_angle: Annotated[
        float,
        ask(
            "In the material",
            Kind.ANGLE,
            TOOL,
            least=30,
            most=150,
            when=_even,
            helps="Never round more of the cutter, but where a corner turns by more.",
        ),
    ] = 90.0

    def narrow(self, ctx: FlatContext) -> float | None:
        tool, given_ae = ctx.tool(self.tool), super().narrow(ctx)
        if tool is None or not _even(self):
            return given_ae
        even = tool.diameter / 2 * (1 - math.cos(math.radians(self.most_angle)))
        return even if given_ae is None else min(even, given_ae)

    def stepover(self, tool: Tool) -> float:
        step = super().stepover(tool)
        return min(step, widest_step(tool.diameter / 2, math.radians(self.most_angle))) if _even(self) else step

    def clear(self, path: Path, rings: Rings, area: list[Loop], *, top: float, level: float, how: Manner) -> None:
        if _even(self):
            clear_evenly(path, rings, area, top=top, level=level, how=how, limit=math.radians(self.most_angle))
        else:
            super().clear(path, rings, area, top=top, level=level, how=how)


def room_in(done: Region, tool: Tool, ctx: FlatContext) -> Region:
    """Where a tool may go down in rapid in a region: as far off what stands about it as rapids keep."""
    free = done.buffer(-tool.diameter / 2 - ctx.clear)
    return prepared(free)


def _open_area(area: Sequence[Loop], tool: Tool, ctx: FlatContext) -> float:
    return float(polygon_of(opened(area, tool.diameter / 2), ctx.mm(0.1)).intersection(ctx.stock.plan).area)


def draw_run(
    path: Path, run: RestRun, keep: Region, level: float, tool: Tool, how: Manner, *, free: Region, ae: float = 0.0
) -> None:
    """One run along a ring at a level: from above, on to it with a quarter circle where it goes all round, and up again. `free`
    is where the tool's centre may go down in rapid; elsewhere it goes down in feed. `ae` is what it takes off the wall."""
    chain = way_round(run.chain, climb=how.climb)
    if run.closed:
        chain = overlapped(from_longest(chain), tool.diameter)
    inner = how.climb  # the free side of a ring is its left when it is followed as it lies
    size = LEAD_SHARE * tool.diameter
    distance = run.depth
    before = lead_in(chain, "arc", size, left=inner, keep_off=keep, distance=distance) if run.closed else []
    after = lead_out(chain, "arc", size, left=inner, keep_off=keep, distance=distance) if run.closed else []
    path.go(z=how.over)
    first = (before or chain)[0].start
    path.go(*first)
    sink(path, level + how.clear, how, room=how.beside if free.covers(shapely.Point(first)) else 0.0)
    path.cut(how.feeds.plunge, z=level)
    follow(path, before, how.feeds.cut)
    follow_wall(path, chain, how.feeds.cut, radius=tool.diameter / 2, ae=ae, climb=how.climb)
    follow(path, after, how.feeds.cut)
