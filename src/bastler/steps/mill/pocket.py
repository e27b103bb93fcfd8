"""Rectangular pocket: cleared from inside out, finished along the wall.

*Roughing* leaves the allowances; *finishing*, where asked for, takes them off with the same or a smaller tool: first the
floor, then once along the wall.
"""

from __future__ import annotations

import math
from typing import Annotated, ClassVar

from shapely.geometry import Polygon

from bastler.ask import Trouble, ask
from bastler.motion import (
    MOST_STEPOVER,
    Entry,
    Feeds,
    Path,
    PocketShape,
    centre_room,
    clear_level,
    fits_helix,
    fits_ramp,
    wall_pass,
)
from bastler.shapes import Flat, Frame, Removal, as_polygon, rounded_rectangle
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, replaced, step
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
from bastler.steps.mill.area import ENTRY, MILLS, SHAPE, TIGHTEST, WHERE, AreaStep, CentreX, CentreY, TurnedBy, finishes
from bastler.tools import Tool
from bastler.units import Kind


@step("Rectangular pocket", "Pockets", "Any angle, rounded corners, roughed and finished", rank=1)
class RectangularPocket(AreaStep, frozen=True, kw_only=True, tag="rectangular-pocket"):
    """Answers of a rectangular pocket."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    angle: TurnedBy = 0.0
    length: Annotated[float, ask("Length", Kind.LENGTH, SHAPE, above=0)] = 40.0
    width: Annotated[float, ask("Width", Kind.LENGTH, SHAPE, above=0)] = 25.0
    corner_radius: Annotated[float, ask("Corner radius", Kind.LENGTH, SHAPE, above=0)] = 6.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        width = at.rounded(at.size[1] * 0.3)
        radius = round(at.mill(0.5 * width) / 2 * 1.25, 4)
        return at.centred() | {
            "length": at.rounded(at.size[0] * 0.4),
            "width": width,
            "corner_radius": radius,
            "depth": at.deep(0.2),
        }

    @property
    def frame(self) -> Frame:
        return Frame(self.x, self.y, self.angle)

    def footprint(self, ctx: FlatContext) -> Polygon:
        return self.region()

    def region(self) -> Polygon:
        """The pocket's outline, seen from above."""
        return as_polygon(rounded_rectangle(self.frame, self.length, self.width, self.corner_radius))

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that makes the corner, has room for its entry and, if there is one, reaches the floor."""
        mills = [t for t in ctx.tools if t.kind == "end-mill" and _fits(t, self, 0.6)]
        mills = mills or [t for t in ctx.tools if t.kind == "end-mill" and _fits(t, self, 1.0)]
        reach = [t for t in mills if t.flute_length >= self.depth]
        best = max(reach or mills, key=lambda t: t.diameter, default=None)
        return best.id if best else None

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if finishes(self):
            found += tool_trouble(ctx.tool(self.finish_tool), "finish_tool") + speed_trouble(ctx, "finish_n", self.finish_n)
        if self.corner_radius > min(self.length, self.width) / 2 + TIGHTEST:
            half = min(self.length, self.width) / 2
            found.append(Trouble("corner_radius", f"More than half the pocket: {number(half, ctx)} is the most.", half))
        if self.floor < ctx.stock.lo[2] - TIGHTEST:
            most = given(self.top) - ctx.stock.lo[2]
            found.append(Trouble("depth", f"Deeper than the stock: {number(most, ctx)} goes through.", most))
        if ctx.tool(self.tool) is None or (finishes(self) and ctx.tool(self.finish_tool) is None):
            return found
        found += passes_trouble("ap", self.depth / given(self.ap), "passes")
        found += passes_trouble("ae", min(self.length, self.width) / 2 / given(self.ae), "loops")
        return found or self._tool_troubles(ctx) or self._entry_troubles(ctx)

    def _tool_troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = []
        last, field = self.last_tool(ctx), "finish_tool" if finishes(self) else "tool"
        fits = self.choose_tool(ctx)
        if last and last.diameter / 2 > self.corner_radius + TIGHTEST:
            text = f"R{number(last.diameter / 2, ctx)} does not go into a corner of R{number(self.corner_radius, ctx)}."
            found.append(Trouble(field, text, fits))
        for name in {"tool", field}:
            tool = ctx.tool(getattr(self, name))
            if tool and tool.kind not in MILLS:
                found.append(Trouble(name, "This tool does not mill pockets.", fits))
            elif tool and self._offset(tool, name) > min(self.length, self.width) / 2 + TIGHTEST:
                found.append(Trouble(name, "Wider than the pocket with what is left on its walls.", fits))
        if last and last.profile.flat < last.diameter / 2 - TIGHTEST:
            found.append(Trouble(field, "Its rounded end leaves material where wall and floor meet.", fits))
        rough = ctx.tool(self.tool)
        if rough and given(self.ae) > min(2 * rough.profile.flat, MOST_STEPOVER * rough.diameter) + TIGHTEST:
            most = round(min(2 * rough.profile.flat, MOST_STEPOVER * rough.diameter), 4)
            found.append(Trouble("ae", f"Over {number(most, ctx)} something would stay between two loops.", most))
        return found

    def _entry_troubles(self, ctx: FlatContext) -> list[Trouble]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        room = self._room(tool, self.left(self.leave_wall))
        helix, ramp = fits_helix(room, tool.diameter), fits_ramp(room, tool.diameter)
        if self.entry == "helix" and not helix:
            return [Trouble("entry", "No room for a helix.", "ramp" if ramp else "plunge")]
        if self.entry == "ramp" and not ramp:
            return [Trouble("entry", "Too short to ramp along.", "helix" if helix else "plunge")]
        if self.entry == "plunge" and not tool.centre_cutting:
            return [Trouble("entry", "This tool does not cut over its centre.", "helix" if helix else "ramp")]
        return []

    def _offset(self, tool: Tool, name: str) -> float:
        return tool.diameter / 2 + (self.left(self.leave_wall) if name == "tool" else 0.0)

    def _room(self, tool: Tool, leave: float) -> PocketShape:
        return centre_room(self.frame, self.length, self.width, self.corner_radius, tool.diameter / 2 + leave)

    def _clear(
        self, path: Path, ctx: FlatContext, tool: Tool, leave: float, top: float, level: float, feed: float, n: float
    ) -> None:
        clear_level(
            path,
            self._room(tool, leave),
            top=top,
            level=level,
            diameter=tool.diameter,
            stepover=min(given(self.ae), 2 * tool.profile.flat) if tool.profile.flat else given(self.ae),
            entry=self.entry,
            angle=self.entry_angle,
            climb=self.cutting == "climb",
            feeds=Feeds(feed, plunge_feed(tool, ctx, feed, n)),
            clear=ctx.near,
            surface=given(self.top),
            beside=ctx.clear,
        )

    def _over(self, ctx: FlatContext) -> tuple[float, float, float]:
        return (self.x, self.y, ctx.safe)

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        path = Path(*self._over(ctx)).go(z=max(ctx.go_across, given(self.top) + ctx.clear))
        above, top = path.z, given(self.top)
        for level in self.levels():
            path.go(z=above)
            self._clear(path, ctx, tool, self.left(self.leave_wall), top, level, given(self.vf), given(self.n))
            top = level
        path.go(z=above).go(z=ctx.safe)
        return Stage(name="rough", tool=tool, spin=Spin(n=given(self.n)), start=self._over(ctx), moves=tuple(path.moves))

    def finished(self, tool: Tool, ctx: FlatContext) -> Stage:
        path = Path(*self._over(ctx)).go(z=max(ctx.go_across, given(self.top) + ctx.clear))
        above, rough_floor = path.z, self.floor + given(self.leave_floor)
        feed, climb = given(self.finish_vf), self.cutting == "climb"
        if rough_floor > self.floor + TIGHTEST:
            room = self._room(tool, given(self.leave_wall))
            entry = self.entry if _can_enter(self.entry, room, tool) else "plunge"
            step_in = self._with_entry(entry)
            step_in._clear(path, ctx, tool, given(self.leave_wall), rough_floor, self.floor, feed, given(self.finish_n))
            path.go(z=self.floor + ctx.near)
        for level in self.wall_levels(tool):
            wall_pass(
                path,
                self._room(tool, 0.0),
                level,
                diameter=tool.diameter,
                climb=climb,
                feeds=Feeds(feed, plunge_feed(tool, ctx, feed, given(self.finish_n))),
                stock=given(self.leave_wall),
                clear=ctx.near,
                beside=ctx.clear,
            )
        path.go(z=above).go(z=ctx.safe)
        return Stage(name="finish", tool=tool, spin=Spin(n=given(self.finish_n)), start=self._over(ctx), moves=tuple(path.moves))

    def _with_entry(self, entry: Entry) -> RectangularPocket:
        return self if entry == self.entry else replaced(self, entry=entry)

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return [Flat(self.region(), self.floor)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        frame, a, b = self.frame, self.length / 2, self.width / 2
        lo, hi = ctx.stock.lo, ctx.stock.hi
        at, right = self.x - lo[0], self.x + _half_chord(self) - lo[0]
        corner = frame.place(a - self.corner_radius, b - self.corner_radius)
        on_arc = frame.place(*(v - self.corner_radius * (1 - math.sqrt(0.5)) for v in (a, b)))
        dims = (
            Dim("x", "plan", "along x", (0.0, 0.0), (self.x, self.y), -1),
            Dim("y", "plan", "along y", (0.0, 0.0), (self.x, self.y), -1),
            Dim("length", "plan", "aligned", frame.place(-a, b), frame.place(a, b), 1),
            Dim("width", "plan", "aligned", frame.place(a, b), frame.place(a, -b), 1),
            Dim("corner_radius", "plan", "radius", corner, on_arc),
            Dim("angle", "plan", "angle", (self.x, self.y), frame.place(a, 0.0)),
            Dim("depth", "section", "depth", (max(at, right), given(self.top)), (max(at, right), self.floor)),
        )
        return Sketch(section=((lo[0], self.y), (hi[0], self.y)), dims=dims, centre=(self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        turned = f", at {self.angle:g}°" if self.angle else ""
        size = f"{number(self.length, ctx)} × {number(self.width, ctx)} R{number(self.corner_radius, ctx)}"
        return f"{size}, {number(self.depth, ctx)} deep{turned}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines = [(SHAPE, f"Floor will be at Z {number(self.floor, ctx)}.")]
        tool, finisher = ctx.tool(self.tool), ctx.tool(self.finish_tool)
        if tool:
            count = len(self.levels())
            ap = (given(self.top) - self.levels()[-1]) / count
            lines.append((TOOL, f"{speed_line(tool, ctx, given(self.vc), given(self.n))} · {count} × {number(ap, ctx)} deep"))
            lines.append((TOOL, load_line(tool, ctx, ae=given(self.ae), ap=ap, n=given(self.n), vf=given(self.vf))))
        if finishes(self) and finisher:
            lines.append((FINISH, speed_line(finisher, ctx, given(self.finish_vc), given(self.finish_n))))
        return lines


def _fits(tool: Tool, s: RectangularPocket, share: float) -> bool:
    return tool.diameter / 2 <= s.corner_radius + TIGHTEST and tool.diameter <= share * min(s.length, s.width) + TIGHTEST


def _can_enter(entry: str, room: PocketShape, tool: Tool) -> bool:
    return (entry == "helix" and fits_helix(room, tool.diameter)) or (entry == "ramp" and fits_ramp(room, tool.diameter))


def _half_chord(s: RectangularPocket) -> float:
    """Half the pocket's width along X through its centre, for the section."""
    c, sn = s.frame.axes()
    return min(s.length / 2 / abs(c) if c else math.inf, s.width / 2 / abs(sn) if sn else math.inf)
