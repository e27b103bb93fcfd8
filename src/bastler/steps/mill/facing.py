"""Facing: the whole top of the stock down to one height, in straight rows."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, isnt
from bastler.language import sayable, tr
from bastler.motion import FacingRows, Path, face_rows, face_spiral
from bastler.motion.even import equal_parts
from bastler.shapes import Flat, Removal
from bastler.steps.base import Dim, Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import (
    PLUNGE_SHARE,
    TOOL,
    CuttingStep,
    given,
    load_line,
    number,
    passes_trouble,
    powered_depth,
    speed_line,
)
from bastler.steps.mill.area import MILLS
from bastler.tools import Tool
from bastler.units import Kind

WHERE, HOW = "Where", "How"
LAST_SHARE = 0.7
"""Feed of the pass that is seen afterwards, as a share of the feed before it."""
DEEPEST_SHARE = 0.6
"""Depth per pass proposed for a face mill, as a share of its cutting edge."""


def _run_past(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return tool.diameter / 2 + ctx.clear if tool else None


def _direction(s: Answers, ctx: FlatContext) -> str:
    size = ctx.stock.size
    return "x" if size[0] >= size[1] else "y"


def _ap(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    most = min(tool.flute_length * DEEPEST_SHARE, ctx.mm(2.5))
    most = powered_depth(tool, ctx, ae=0.9 * tool.diameter, n=s.n, vf=s.vf, most=most)
    depth = ctx.surface(ctx.stock.plan) - s.finish_z
    return _even(depth, most, ctx)


_in_rows = isnt("way", "spiral")


def _even(depth: float, most: float, ctx: FlatContext) -> float:
    """The largest even bite that is not over `most`."""
    if depth <= 0:
        return most
    return round(depth / equal_parts(depth, most, 1e-9), 4 if ctx.unit == "mm" else 5)


def _ae(s: Answers, ctx: FlatContext) -> float | None:
    """What is cut is what is shown: where rows lie side by side, what they are apart."""
    tool = ctx.tool(s.tool)
    if tool is None:
        return None
    usual = 0.7 * tool.diameter
    apart = rows_of(s, tool, ctx, usual).gap if _in_rows(s) else usual
    return round(apart if apart > 0.0 else usual, 4 if ctx.unit == "mm" else 5)


def rows_of(s: Answers, tool: Tool, ctx: FlatContext, stepover: float) -> FacingRows:
    """The rows over the stock with no more than a stepover between them."""
    lo, hi = ctx.stock.lo, ctx.stock.hi
    return FacingRows(
        lo=(lo[0], lo[1]), hi=(hi[0], hi[1]), along_x=s.direction == "x", diameter=flat_width(tool), stepover=stepover,
        run_past=given(s.run_past), zigzag=s.way == "zigzag", round=ctx.stock.round,
    )  # fmt: skip


def _last_vf(s: Answers, ctx: FlatContext) -> float | None:
    return None if s.vf is None else round(LAST_SHARE * s.vf, 1 if ctx.unit == "mm" else 2)


@step("Face the top", "Surface", "Rows over the whole block, past its edges", chucked=False)
class Facing(CuttingStep, frozen=True, kw_only=True, tag="facing"):
    """Answers of a facing step."""

    LACKS: ClassVar[str] = sayable("face mill or end mill")
    groups: ClassVar[tuple[str, ...]] = (WHERE, HOW, TOOL)
    CHOSEN: ClassVar[str] = sayable("The widest face mill, else the widest end mill")

    finish_z: Annotated[
        float, ask("Finished top at Z", Kind.LENGTH, WHERE, helps="Height of the faced surface over part zero.")
    ] = 0.0
    way: Annotated[
        Literal["zigzag", "one-way", "spiral"],
        choose("Rows", {"zigzag": "There and back", "one-way": "One way", "spiral": "Spiral"}, HOW),
    ] = "zigzag"
    direction: Annotated[
        Literal["x", "y"] | None, choose("Along", {"x": "X", "y": "Y"}, HOW, propose=_direction, when=_in_rows)
    ] = None
    run_past: Annotated[
        float | None,
        ask("Run past the edge", Kind.LENGTH, HOW, least=0, propose=_run_past, helps="Of the cutter's centre, at both ends."),
    ] = None
    ap: Annotated[float | None, ask("Down per pass", Kind.LENGTH, TOOL, above=0, propose=_ap, symbol="ap")] = None
    ae: Annotated[
        float | None, ask("Stepover", Kind.LENGTH, TOOL, above=0, propose=_ae, symbol="ae", helps="Between two rows.")
    ] = None

    last_vf: Annotated[
        float | None,
        ask("Feed of the last pass", Kind.FEED_RATE, TOOL, above=0, propose=_last_vf, helps="The pass that is seen afterwards."),
    ] = None

    def choose_tool(self, ctx: FlatContext) -> str | None:
        for kind in ("face-mill", "end-mill"):
            found = [t for t in ctx.tools if t.kind == kind]
            if found:
                return max(found, key=lambda t: t.diameter).id
        return None

    def depth(self, ctx: FlatContext) -> float:
        """What has to come off, from the surface before the step."""
        return ctx.surface(ctx.stock.plan) - self.finish_z

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if tool is None:
            return found
        if self.finish_z <= ctx.stock.lo[2]:
            found.append(Trouble("finish_z", tr("The stock ends at Z {lo}.", lo=number(ctx.stock.lo[2], ctx))))
        elif self.depth(ctx) < -1e-9:
            found.append(
                Trouble(
                    "finish_z", tr("The surface is at Z {surface} already.", surface=number(ctx.surface(ctx.stock.plan), ctx))
                )
            )
        if tool.kind not in MILLS or tool.kind == "ball-mill":
            found.append(Trouble("tool", tr("This tool leaves no flat floor."), self.choose_tool(ctx)))
        elif given(self.ae) > flat_width(tool) + 1e-9:
            found.append(
                Trouble("ae", tr("Wider than the tool's flat end: ridges would stay."), round(0.7 * flat_width(tool), 4))
            )
        found += passes_trouble("ap", self.depth(ctx) / given(self.ap), "passes")
        return found + passes_trouble("ae", max(ctx.stock.size[:2]) / given(self.ae), "rows")

    def levels(self, ctx: FlatContext) -> list[float]:
        """The heights of the passes."""
        depth = self.depth(ctx)
        count = equal_parts(depth, given(self.ap))
        top = self.finish_z + depth
        return [top - depth * k / count for k in range(1, count)] + [self.finish_z]

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        rows = rows_of(self, tool, ctx, given(self.ae))
        first = rows.offsets()[0]
        start = rows.point(rows.ends(first)[0], first)
        path = Path(*start, ctx.safe)
        above = ctx.go_across
        levels = self.levels(ctx)
        for k, level in enumerate(levels, 1):
            feed = given(self.vf if k < len(levels) else self.last_vf)
            path.go(z=above)
            # off the stock at both ends: the plunge meets only what a shorter run past the edge leaves under the cutter
            draw = face_rows if _in_rows(self) else face_spiral
            draw(path, rows, level, clear=above, feed=feed, plunge=_down(self, tool, ctx, feed))
        path.go(z=ctx.safe)
        return [Stage(name="face", tool=tool, spin=Spin(n=given(self.n)), start=(*start, ctx.safe), moves=tuple(path.moves))]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return [Flat(ctx.stock.plan, self.finish_z)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi = ctx.stock.lo, ctx.stock.hi
        middle = (lo[1] + hi[1]) / 2
        run = given(self.run_past)
        dims = [Dim("finish_z", "section", "depth", (hi[0] - lo[0], hi[2]), (hi[0] - lo[0], self.finish_z))]
        if run > 0:
            ends = ((hi[0], hi[1]), (hi[0] + run, hi[1])) if self.direction == "x" else ((hi[0], hi[1]), (hi[0], hi[1] + run))
            dims.append(Dim("run_past", "plan", "along x" if self.direction == "x" else "along y", *ends))
        return Sketch(section=((lo[0], middle), (hi[0], middle)), dims=tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        ways = {"zigzag": tr("there and back"), "one-way": tr("one way"), "spiral": tr("spiral")}
        return tr("{max} off, {ways}", max=number(max(self.depth(ctx), 0.0), ctx), ways=ways[self.way])

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        n, vf = given(self.n), given(self.vf)
        bite = self.depth(ctx) / len(self.levels(ctx))
        ae = given(self.ae)
        ae = (rows_of(self, tool, ctx, ae).gap or ae) if _in_rows(self) else ae
        return [
            (TOOL, speed_line(tool, ctx, given(self.vc), n)),
            (TOOL, load_line(tool, ctx, ae=ae, ap=max(bite, 0.0), n=n, vf=vf)),
            *self._rows_line(tool, ctx, ae),
        ]

    def _rows_line(self, tool: Tool, ctx: FlatContext, apart: float) -> list[tuple[str, str]]:
        """What the rows are apart, where that is less than what was asked for."""
        if not _in_rows(self) or abs(apart - given(self.ae)) < ctx.mm(0.005):
            return []
        return [(TOOL, tr("Even rows, {apart} apart.", apart=number(apart, ctx)))]


def flat_width(tool: Tool) -> float:
    """The width over which the tool cuts a flat floor."""
    return 2 * tool.profile.flat


def _down(s: Facing, tool: Tool, ctx: FlatContext, feed: float) -> float:
    """Feed down: full feed beside the stock, the plunge share where the cutter stands over it."""
    return feed if given(s.run_past) >= tool.diameter / 2 else feed * PLUNGE_SHARE
