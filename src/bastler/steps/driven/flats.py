"""Flats round a turned part: two for a spanner, a square, a hexagon, or any number; and a single one."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar

import shapely

from bastler.ask import Answers, Trouble, ask
from bastler.language import sayable, tr
from bastler.motion import Path
from bastler.motion.even import equal_parts
from bastler.shapes import Flat, Removal
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, CuttingStep, given, load_line, number, passes_trouble, powered_depth, speed_line
from bastler.steps.mill.area import MILLS
from bastler.steps.place import Where
from bastler.tools import Tool
from bastler.units import Kind

SHAPE = "Shape"
NAMES = sayable({1: "a flat", 2: "two flats", 4: "a square", 6: "a hexagon", 8: "an octagon"})


def _even(s: Answers) -> bool:
    return bool(s.times % 2 == 0)


def _ae(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return round(0.7 * 2 * tool.profile.flat, 4) if tool else None


def _ap(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    depth = max(s.top_at(ctx) - s.floor, ctx.mm(0.01))
    most = min(tool.flute_length * 0.6, tool.diameter * ctx.material.slot_ap)
    most = powered_depth(tool, ctx, ae=0.7 * tool.diameter, n=s.n, vf=s.vf, most=most)
    return float(round(depth / equal_parts(depth, most, 1e-9), 4 if ctx.unit == "mm" else 5))


@step("Flats", "Outside", "A square, a hexagon, two for a spanner, or any number", rank=1, on_round=True, needs_y=True)
class Flats(CuttingStep, frozen=True, kw_only=True, tag="flats"):
    """Answers of flats, each milled in rows across the axis."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, TOOL)
    FIXED: ClassVar[frozenset[str]] = frozenset(("where_on", "counts"))
    CHOSEN: ClassVar[str] = sayable("The widest mill with a flat end that reaches the floor")

    where_on: Where = "side"
    times: Annotated[int, ask("How many flats", Kind.COUNT, SHAPE, least=1, helps="Evenly round: 4 a square, 6 a hexagon.")] = 6
    across: Annotated[float, ask("Across flats", Kind.LENGTH, SHAPE, above=0, when=_even)] = 36.0
    x: Annotated[float, ask("Begins at X", Kind.LENGTH, SHAPE, helps="At the front face, or behind a collar.")] = 0.0
    length: Annotated[float, ask("How long", Kind.LENGTH, SHAPE, above=0, helps="Toward the chuck.")] = 15.0
    ap: Annotated[float | None, ask("Down per pass", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap")] = None
    ae: Annotated[
        float | None, ask("Stepover", Kind.LENGTH, TOOL, above=0, propose=_ae, symbol="ae", helps="Between two rows.")
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"across": at.rounded(at.surface * 0.8), "length": at.rounded(at.finished / 5)}

    @property
    def asks_height(self) -> bool:
        return not _even(self)

    @property
    def floor(self) -> float:
        """How far the flats are from the axis."""
        return self.across / 2 if _even(self) else self.height

    def choose_tool(self, ctx: FlatContext) -> str | None:
        mills = [t for t in ctx.tools if t.kind in ("end-mill", "face-mill", "bull-mill") and t.profile.flat > 0]
        plain = [t for t in mills if t.kind == "end-mill" and t.profile.flat > 0.99 * t.profile.radius] or mills
        narrow = [t for t in plain if self._behind_collar(ctx) is False or t.diameter <= self.length] or plain
        reach = [t for t in narrow if t.stick_out >= self.top_at(ctx) - self.floor] or narrow
        return max(reach, key=lambda t: t.diameter).id if reach else None

    def narrow(self, ctx: FlatContext) -> float | None:
        return None

    def _span(self, ctx: FlatContext) -> shapely.Polygon:
        """Where the flat may lie, seen from outside: over all the width of the part."""
        r = ctx.stock.hi[1]
        return shapely.box(self.x - self.length, -r, min(self.x, ctx.stock.hi[0]), r)

    def top_at(self, ctx: FlatContext) -> float:
        """The highest place that a flat begins on."""
        span = self._span(ctx)
        return ctx.surface(span) if not span.is_empty else ctx.stock.hi[2]

    def _behind_collar(self, ctx: FlatContext) -> bool:
        """Does something stand in front of the flats?"""
        return self.x < ctx.stock.hi[0] - ctx.mm(1e-6)

    def unfit(self, ctx: FlatContext) -> list[Trouble]:
        tool = ctx.tool(self.tool)
        if tool is not None and (tool.kind not in MILLS or tool.profile.flat <= 0):
            return [Trouble("tool", tr("This tool leaves no flat floor."), self.choose_tool(ctx))]
        return []

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if tool is None or found:
            return found
        name = "across" if _even(self) else "height"
        if self.x > ctx.stock.hi[0] + ctx.mm(1e-6):
            return [Trouble("x", tr("The part ends at X {hi}.", hi=number(ctx.stock.hi[0], ctx)), ctx.stock.hi[0])]
        if self.x - self.length < ctx.stock.lo[0]:
            return [Trouble("length", tr("Longer than the part."), round(self.x - ctx.stock.lo[0], 3))]
        if self.floor >= self.top_at(ctx):
            return [Trouble(name, tr("The part is no larger there: Ø{top_at}.", top_at=number(2 * self.top_at(ctx), ctx)))]
        if given(self.ae) > 2 * tool.profile.flat + 1e-9:
            text = tr("Wider than the tool's flat end: ridges would stay.")
            return [Trouble("ae", text, round(1.4 * tool.profile.flat, 4))]
        if self._behind_collar(ctx) and tool.diameter > self.length + 1e-9:
            return [
                Trouble(
                    "tool", tr("Wider than {length}: it would cut into what stands in front.", length=number(self.length, ctx))
                )
            ]
        found += passes_trouble("ap", (self.top_at(ctx) - self.floor) / given(self.ap), "passes")
        return found + passes_trouble("ae", self.length / given(self.ae), "rows")

    def levels(self, ctx: FlatContext) -> list[float]:
        """The heights of the passes."""
        top = self.top_at(ctx)
        count = equal_parts(top - self.floor, given(self.ap))
        return [top - (top - self.floor) * k / count for k in range(1, count)] + [self.floor]

    def rows(self, tool: Tool, ctx: FlatContext) -> list[float]:
        """Where the rows are along the axis, from the front: the last one leaves the shoulder, the first one a collar."""
        r = tool.diameter / 2
        back = self.x - self.length + r
        front = self.x - (r if self._behind_collar(ctx) else tool.profile.flat)
        many = max(0, math.ceil((front - back) / given(self.ae) - 1e-9))
        return [back + (front - back) * k / many for k in range(many, 0, -1)] + [back] if many else [back]

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        feed, rows = given(self.vf), self.rows(tool, ctx)
        levels, r = self.levels(ctx), tool.diameter / 2
        side = -1.0
        start = (rows[0], side * self._far(levels[0], r, ctx), ctx.safe)
        path = Path(*start)
        for level in levels:
            far = self._far(level, r, ctx)
            path.go(rows[0], side * far).go(z=level)
            for u in rows:
                path.go(u, side * far, level)
                side = -side
                path.cut(feed, u, side * (far - r))  # with its middle past the edge all of the row's width is cut
                path.go(u, side * far)
            path.go(z=ctx.go_across)
        path.go(z=ctx.safe)
        return [Stage(name="flats", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=tuple(path.moves))]

    def _far(self, level: float, r: float, ctx: FlatContext) -> float:
        """How far out to the side a row begins and ends: the cutter is off all that stands over the level."""
        wide = ctx.stock.hi[1]
        return math.sqrt(max(wide * wide - level * level, 0.0)) + r + ctx.clear if level > 0 else wide + r + ctx.clear

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return [Flat(self._span(ctx), self.floor)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi, back = ctx.stock.lo, ctx.stock.hi, self.x - self.length
        half = math.sqrt(max(hi[1] ** 2 - self.floor**2, 0.0))
        at = (self.x + back) / 2 - lo[0]
        dims = [Dim("length", "plan", "along x", (back, half), (self.x, half), 1)]
        if self.x != 0.0:
            dims.append(Dim("x", "plan", "along x", (0.0, -half), (self.x, -half), -1))
        dims.append(
            Dim(
                "across" if _even(self) else "height",
                "section",
                "depth",
                (at, self.floor),
                (at, -self.floor if _even(self) else 0.0),
            )
        )
        return Sketch(section=((lo[0], 0.0), (hi[0], 0.0)), dims=tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        what = tr(NAMES[self.times]) if self.times in NAMES else (tr("{times} flats", times=self.times))
        size = (
            tr("{across} across", across=number(self.across, ctx))
            if _even(self)
            else tr("{height} over the axis", height=number(self.height, ctx))
        )
        return f"{what[0].upper()}{what[1:]}, {size}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        n, vf = given(self.n), given(self.vf)
        found = [(TOOL, speed_line(tool, ctx, given(self.vc), n))]
        found.append((TOOL, load_line(tool, ctx, ae=given(self.ae), ap=given(self.ap), n=n, vf=vf)))
        if _even(self) and self.times > 2:
            corners = self.across / math.cos(math.pi / self.times)
            found.append((SHAPE, tr("Over the corners {corners}.", corners=number(round(corners, 3), ctx))))
        return found
