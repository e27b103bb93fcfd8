"""Breaking an edge along an outline with a pointed tool: a chamfer of a given size, or just enough to deburr."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, pick
from bastler.language import sayable, tr
from bastler.motion import Path
from bastler.motion.areas import Feeds, follow
from bastler.motion.finishing import overlapped
from bastler.motion.leads import lead_in, lead_out
from bastler.motion.rings import from_longest
from bastler.shapes import Removal
from bastler.shapes.bevel import Bevel
from bastler.shapes.chain import reversed_chain
from bastler.shapes.region import Loop, area_of, even_odd, offset_region, opened, polygon_of, primitives
from bastler.steps.base import Sketch, Spin, Stage, replaced, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, CuttingStep, given, number, plunge_feed, speed_line
from bastler.steps.mill.area import MILLS, TIGHTEST
from bastler.steps.mill.free_pocket import closed_loop, outline_troubles
from bastler.steps.mill.ringed import COARSE_MM, FINE_MM, FINER_MM
from bastler.tools import Tool
from bastler.units import Kind

SHAPE = "Shape"
POINTED = ("chamfer-mill", "spot-drill")
SMOOTH_MM = 0.002


def _top(s: Answers, ctx: FlatContext) -> float:
    edge = closed_loop(ctx.outlines.get(s.outline))
    if not edge:
        return ctx.stock.hi[2]
    region = polygon_of([_outward(edge)], ctx.mm(COARSE_MM))
    rim = region.buffer(-s.size).boundary if s.material == "inside" else region.buffer(s.size).boundary
    return float(ctx.surface(rim.buffer(ctx.mm(COARSE_MM))))


def _corners(s: Answers, ctx: FlatContext) -> float:
    """The smallest radius, of those that mills leave, with which the tool's point finds room all along the edge."""
    tool = ctx.tool(s.tool)
    if tool is None or not s.body(ctx):
        return 0.0
    ready = replaced(s, extra=_extra(s, ctx) if s.extra is None else s.extra)
    radii = [0.0, *sorted({t.diameter / 2 for t in ctx.tools if t.kind in MILLS})]
    return next((r for r in radii if ready.beside(ctx, tool, r) <= ready.level(tool) + TIGHTEST), 0.0)


def _extra(s: Answers, ctx: FlatContext) -> float:
    return 0.5 if ctx.unit == "mm" else 0.02


@step("Break an edge", "Outside", "A chamfer or a deburred edge along an outline", rank=6)
class EdgeBreak(CuttingStep, frozen=True, kw_only=True, tag="edge-break"):
    """Answers of an edge break."""

    LACKS: ClassVar[str] = sayable("chamfer mill")
    groups: ClassVar[tuple[str, ...]] = (SHAPE, TOOL)

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""
    material: Annotated[
        Literal["inside", "outside"],
        choose("The part lies", {"inside": "Inside of it", "outside": "Outside of it"}, SHAPE, helps="Outside: a pocket's edge."),
    ] = "inside"
    size: Annotated[float, ask("How wide", Kind.LENGTH, SHAPE, above=0, helps="Of the bevel, seen from above.")] = 0.5
    top: Annotated[float | None, ask("Edge at Z", Kind.LENGTH, SHAPE, propose=_top, late=True)] = None
    extra: Annotated[
        float | None,
        ask("Point deeper by", Kind.LENGTH, TOOL, least=0, propose=_extra, helps="So that not the very point cuts."),
    ] = None
    corners: Annotated[
        float | None,
        ask("Inner corners R", Kind.LENGTH, SHAPE, least=0, propose=_corners, late=True, helps="As the tool before left them."),
    ] = None
    cutting: Annotated[
        Literal["climb", "conventional"], choose("Cutting", {"climb": "Climb", "conventional": "Conventional"}, TOOL)
    ] = "climb"

    def body(self, ctx: FlatContext) -> list[Loop]:
        """The edge with the part on its left."""
        edge = closed_loop(ctx.outlines.get(self.outline))
        if not edge:
            return []
        return [edge if (area_of(edge) > 0) == (self.material == "inside") else reversed_chain(edge)]

    def choose_tool(self, ctx: FlatContext) -> str | None:
        found = [t for t in ctx.tools if t.kind in POINTED]
        best = min(found, key=lambda t: (t.kind != "chamfer-mill", t.diameter), default=None)
        return best.id if best else None

    def rise(self, tool: Tool) -> float:
        """Height of the bevel per unit of width."""
        return 1.0 / math.tan(math.radians(tool.tip_angle / 2))

    def off(self, tool: Tool) -> float:
        """How far from the edge the tool's axis runs."""
        return tool.tip_diameter / 2 + given(self.extra) / self.rise(tool)

    def free_side(self, ctx: FlatContext, tool: Tool, corners: float) -> list[Loop]:
        """Where the tool runs, as a region up to the edge: inner corners rounded as they are, and as far as the tool gets in."""
        return opened([reversed_chain(loop) for loop in self.body(ctx)], max(self.off(tool), corners))

    def reached(self, ctx: FlatContext, tool: Tool) -> list[Loop]:
        """The edge with the part on its left."""
        return [reversed_chain(loop) for loop in self.free_side(ctx, tool, given(self.corners))]

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx) + outline_troubles(ctx.outlines.get(self.outline), "outline")
        tool = ctx.tool(self.tool)
        if found or tool is None:
            return found
        if tool.kind not in POINTED:
            return [Trouble("tool", tr("This tool has no slanted edge."), self.choose_tool(ctx))]
        widest = self.off(tool) + self.size
        if widest > tool.diameter / 2 + 1e-9:
            most = round(tool.diameter / 2 - self.off(tool), 3)
            return [
                Trouble(
                    "size",
                    tr("Wider than the tool's edge: {max} is the most.", max=number(max(most, 0), ctx)),
                    most if most > 0 else None,
                )
            ]
        if not self.reached(ctx, tool):
            return [Trouble("tool", tr("Too wide to run there anywhere."))]
        floor, point = self.beside(ctx, tool, given(self.corners)), self.level(tool)
        if floor > point + TIGHTEST:
            text = tr(
                "Beside the edge material stands up to Z {floor}; the point goes to Z {point}.",
                floor=number(floor, ctx),
                point=number(point, ctx),
            )
            return [Trouble("outline", text)]
        return []

    def level(self, tool: Tool) -> float:
        """Where the tool's point runs."""
        return given(self.top) - self.size * self.rise(tool) - given(self.extra)

    def beside(self, ctx: FlatContext, tool: Tool, corners: float) -> float:
        """The highest point of what stands where the tool's end runs."""
        side, chord = self.free_side(ctx, tool, corners), ctx.mm(FINER_MM)
        near, far = (even_odd(offset_region(side, by), chord) for by in (ctx.mm(COARSE_MM), 0.95 * self.off(tool)))
        strip = near.symmetric_difference(far).intersection(ctx.stock.plan)
        return float(ctx.surface(strip)) if not strip.is_empty else ctx.stock.lo[2]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        body = tuple(tuple(loop) for loop in self.reached(ctx, tool))
        return [Bevel(body, given(self.top), self.size, self.rise(tool), ctx.mm(FINE_MM))]

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        level = self.level(tool)
        edges = self.reached(ctx, tool)
        ways = offset_region([reversed_chain(loop) for loop in edges], self.off(tool))
        keep = primitives([s for loop in edges for s in loop])
        feeds = Feeds(given(self.vf), plunge_feed(tool, ctx, given(self.vf), given(self.n)))
        over = max(ctx.go_across, given(self.top) + ctx.clear)
        first = ways[0][0].start
        path = Path(*first, ctx.safe).go(z=over)
        climb = self.cutting == "climb"
        for way in ways:
            chain = overlapped(from_longest(way if climb else reversed_chain(way)), tool.diameter)
            size = tool.diameter / 4
            before = lead_in(chain, "arc", size, left=climb, keep_off=keep, distance=self.off(tool))
            after = lead_out(chain, "arc", size, left=climb, keep_off=keep, distance=self.off(tool))
            path.go(z=over).go(*(before or chain)[0].start)
            path.go(z=given(self.top) + ctx.near)
            path.cut(feeds.plunge, z=level)
            follow(path, before, feeds.cut)
            follow(path, chain, feeds.cut)
            follow(path, after, feeds.cut)
        path.go(z=over).go(z=ctx.safe)
        return [Stage(name="edge", tool=tool, spin=Spin(n=given(self.n)), start=(*first, ctx.safe), moves=tuple(path.moves))]

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi = ctx.stock.lo, ctx.stock.hi
        edges = self.body(ctx)
        y = edges[0][0].start[1] if edges else (lo[1] + hi[1]) / 2
        if edges:
            shape = polygon_of([_outward(edges[0])], ctx.mm(0.1))
            y = shape.representative_point().y
        return Sketch(section=((lo[0], y), (hi[0], y)), dims=())

    def summary(self, ctx: FlatContext) -> str:
        outline = ctx.outlines.get(self.outline)
        name = tr("“{name}”", name=outline.name) + ", " if outline else ""
        return tr("{name}{size} wide", name=name, size=number(self.size, ctx))

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        deep = self.size * self.rise(tool)
        return [
            (
                SHAPE,
                tr(
                    "{size} × {tip_angle:.4g}°, {deep} high.",
                    size=number(self.size, ctx),
                    tip_angle=90 - tool.tip_angle / 2,
                    deep=number(deep, ctx),
                ),
            ),
            (TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))),
        ]


def _outward(loop: Loop) -> Loop:
    """The loop counter-clockwise."""
    return loop if area_of(loop) > 0 else reversed_chain(loop)
