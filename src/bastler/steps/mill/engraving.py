"""Engraved text, straight or on an arc, with numbers that count up from part to part and from program to program."""

from __future__ import annotations

import math
import re
from typing import Annotated, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.bounds import SIGNS
from bastler.language import sayable, tr
from bastler.motion import Path
from bastler.motion.areas import NEAR_SHARE
from bastler.shapes import Frame, Furrow, Line, Removal
from bastler.shapes.lettering import Chain, lacking, on_arc, straight, width_of
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, replaced, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import THROUGH_AIR, TOOL, CuttingStep, given, number, plunge_feed, speed_line
from bastler.tools import Tool
from bastler.units import Kind

TEXT, WHERE = "Text", "Where"
POINTED = ("engraver", "chamfer-mill", "spot-drill")
COUNTER = re.compile("#+")
"""Where a running number stands: a sign for every digit."""
CHORD_MM = 0.005

_straight = is_("along", "line")
_round = isnt("along", "line")


def _counts(s: Answers) -> bool:
    return "#" in s.text


def _top(s: Answers, ctx: FlatContext) -> float:
    strokes = s.strokes_or_none()
    if not strokes:
        return ctx.stock.hi[2]
    ends = [p for chain in strokes for seg in chain for p in (seg.start, seg.end)]
    return ctx.surface(shapely.MultiPoint(ends).convex_hull.buffer(ctx.mm(0.1)))


def _fz(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return None if tool is None else round(ctx.mm(0.02) * (1 + ctx.material.fz[tool.material] * 50), 4)


@step("Engrave text", "Surface", "Letters and running numbers, straight or on an arc", rank=6)
class Engraving(CuttingStep, frozen=True, kw_only=True, tag="engraving"):
    """Answers of engraving."""

    LACKS: ClassVar[str] = sayable("engraving tool or ball-nose mill")
    groups: ClassVar[tuple[str, ...]] = (TEXT, WHERE, TOOL)
    CHOSEN: ClassVar[str] = sayable("The engraving tool with the finest tip, else another with a point")

    text: Annotated[str, pick("Text", "word", TEXT, helps="#### is a running number, a sign for each digit.")] = "WINCH"
    first: Annotated[
        int,
        ask(
            "Next number", Kind.COUNT, TEXT, least=0, most=99_999_999, when=_counts,
            helps="Counts up on the parts of a fixture, and when a program goes out.",
        ),
    ] = 1  # fmt: skip
    height: Annotated[float, ask("Capitals high", Kind.LENGTH, TEXT, above=0)] = 6.0
    spacing: Annotated[float, ask("Space between", Kind.PERCENT, TEXT, least=20, most=500, late=True)] = 100.0
    along: Annotated[Literal["line", "arc"], choose("Runs", {"line": "Straight", "arc": "On an arc"}, WHERE)] = "line"
    align: Annotated[
        Literal["left", "middle", "right"],
        choose("The place is its", {"left": "Begin", "middle": "Middle", "right": "End"}, WHERE),
    ] = "middle"
    x: Annotated[float, ask("X", Kind.LENGTH, WHERE, helps="Of the place on the foot line; on an arc of its centre.")] = 0.0
    y: Annotated[float, ask("Y", Kind.LENGTH, WHERE)] = 0.0
    angle: Annotated[
        float, ask("Direction", Kind.ANGLE, WHERE, helps="Straight: of the line. On an arc: where on the circle, 90° is the top.")
    ] = 0.0
    diameter: Annotated[
        float, ask("Circle diameter", Kind.LENGTH, WHERE, above=0, when=_round, helps="The letters stand on it.")
    ] = 60.0
    reading: Annotated[
        Literal["outside", "inside"],
        choose("Heads point", {"outside": "Outward", "inside": "Inward"}, WHERE, when=_round),
    ] = "outside"
    depth: Annotated[float, ask("How deep", Kind.LENGTH, TEXT, above=0)] = 0.3
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, WHERE, late=True, propose=_top, helps="The surface that is there before the step."),
    ] = None
    fz: Annotated[
        float | None,
        ask("Feed per tooth", Kind.FEED_PER_TOOTH, TOOL, above=0, propose=_fz, symbol="fz", helps="Fine tips break."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        high = at.rounded(0.1 * min(at.size[:2])) or 0.1
        return at.centred() | {"height": high, "depth": 0.3 if at.unit == "mm" else 0.012}

    def choose_tool(self, ctx: FlatContext) -> str | None:
        fits = [t for t in ctx.tools if t.kind in POINTED]
        best = min(fits, key=lambda t: (POINTED.index(t.kind), t.tip_diameter), default=None)
        return best.id if best else None

    # -- the strokes ------------------------------------------------------------------------------------------------

    def on_part(self, part: int) -> str:
        """The text on one of the parts, counted from 0."""
        value = self.first + part
        return COUNTER.sub(lambda run: str(value).zfill(len(run.group())), self.text, count=1)

    def counted(self, parts: int) -> Engraving:
        """The step behind a program that has gone out for so many parts."""
        return self if not _counts(self) else replaced(self, first=self.first + parts)

    def strokes(self, part: int = 0) -> list[Chain]:
        """The strokes of the text on a part."""
        text, space = self.on_part(part), self.spacing / 100.0
        if _straight(self):
            return straight(text, Frame(self.x, self.y, self.angle), self.height, self.align, space)
        inside = self.reading == "inside"
        at = (self.x, self.y)
        return on_arc(text, at, self.diameter / 2, self.angle, self.height, self.align, space, inside=inside)

    def strokes_or_none(self) -> list[Chain]:
        """The same, nothing for a text that cannot be written."""
        if SIGNS.over(len(self.text)):
            return []
        return [] if lacking(self.on_part(0)) or self.height <= 0 or self.diameter <= 0 else self.strokes()

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.tool(self.tool)
        if found or tool is None:
            return found
        if not self.text.strip():
            return [Trouble("text", tr("Nothing is written yet."), open=True)]
        if over := SIGNS.over(len(self.text)):
            return [Trouble("text", over)]
        if missing := lacking(self.on_part(0)):
            return [Trouble("text", tr("There are no strokes for {missing}.", missing=" ".join(missing)))]
        if tool.kind not in POINTED:
            return [Trouble("tool", tr("Letters want a tool with a point."), self.choose_tool(ctx))]
        if self.depth > (tool.diameter - tool.tip_diameter) / 2 / math.tan(math.radians(tool.tip_angle / 2)):
            return [Trouble("depth", tr("Deeper than the point is long."))]
        if self._half(tool) > self.height / 8:
            most = (self.height / 8 - tool.tip_diameter / 2) / math.tan(math.radians(tool.tip_angle / 2))
            text = tr(
                "The lines would be {half} wide: too wide for letters of this size.", half=number(2 * self._half(tool), ctx)
            )
            return [Trouble("depth", text, round(most, 3) if most > 0.001 else None)]
        if _round(self) and width_of(self.on_part(0), self.height, self.spacing / 100.0) > math.pi * self.diameter:
            return [Trouble("diameter", tr("The text is longer than the circle is round."))]
        if given(self.top) - self.depth <= ctx.stock.lo[2]:
            return [Trouble("depth", tr("Deeper than the stock."))]
        return []

    def _half(self, tool: Tool) -> float:
        """Half the width of a line at the surface."""
        return tool.tip_diameter / 2 + self.depth * math.tan(math.radians(tool.tip_angle / 2))

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        count = ctx.parts if _counts(self) else 1
        first, *rest = [self._stage(tool, ctx, part) for part in range(count)]
        return [Stage(name="engrave", tool=tool, spin=first.spin, start=first.start, moves=first.moves, each=tuple(rest))]

    def _stage(self, tool: Tool, ctx: FlatContext, part: int) -> Stage:
        strokes = self.strokes(part)
        top, floor = given(self.top), given(self.top) - self.depth
        feed, n = given(self.vf), given(self.n)
        down, quick = plunge_feed(tool, ctx, feed, n), min(THROUGH_AIR * feed, ctx.card.feed_most)
        start = (*strokes[0][0].start, ctx.safe) if strokes else (self.x, self.y, ctx.safe)
        clear = top + ctx.clear_over(top)
        path = Path(*start)
        for k, chain in enumerate(strokes):
            begin = chain[0].start
            if k == 0 or math.dist(begin, (path.x, path.y)) > ctx.mm(1e-6):
                path.go(z=max(ctx.go_across, clear) if k == 0 else clear).go(*begin).go(z=clear)
                path.cut(quick, z=top + NEAR_SHARE * (clear - top)).cut(down, z=floor)
            for segment in chain:
                if isinstance(segment, Line):
                    path.cut(feed, *segment.end)
                else:
                    path.bow(feed, segment.end, segment.centre, ccw=segment.ccw)
            following = strokes[k + 1][0].start if k + 1 < len(strokes) else None
            if following is None or math.dist(following, (path.x, path.y)) > ctx.mm(1e-6):
                path.go(z=clear)
        path.go(z=ctx.safe)
        return Stage(name="engrave", tool=tool, spin=Spin(n=n), start=start, moves=tuple(path.moves))

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return self.removes_on(ctx, 0)

    def differs(self) -> bool:
        return _counts(self)

    def removes_on(self, ctx: FlatContext, part: int) -> list[Removal]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        rise = 1.0 / math.tan(math.radians(tool.tip_angle / 2))
        top, strokes = given(self.top), tuple(self.strokes(part))
        return [Furrow(strokes, top, top - self.depth, tool.tip_diameter / 2, rise, ctx.mm(CHORD_MM))] if strokes else []

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi = ctx.stock.lo, ctx.stock.hi
        dims = [
            Dim("x", "plan", "along x", (0.0, 0.0), (self.x, self.y), -1),
            Dim("y", "plan", "along y", (0.0, 0.0), (self.x, self.y), -1),
        ]
        if _round(self):
            r = self.diameter / 2
            a, b = Frame(self.x, self.y, 225).place(r, 0), Frame(self.x, self.y, 45).place(r, 0)
            dims.append(Dim("diameter", "plan", "diameter", a, b))
        return Sketch(section=((lo[0], self.y), (hi[0], self.y)), dims=tuple(dims), centre=(self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        return tr("“{on_part}”, {height} high", on_part=self.on_part(0), height=number(self.height, ctx))

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        wide = width_of(self.on_part(0), self.height, self.spacing / 100.0)
        return [
            (
                TEXT,
                tr(
                    "{wide} long, lines {half} wide.",
                    wide=number(round(wide, 2), ctx),
                    half=number(round(2 * self._half(tool), 3), ctx),
                ),
            ),
            (TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))),
        ]
