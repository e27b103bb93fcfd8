"""Slots: straight, and grooves along an arc or all round; by the width of the tool, or wider with both walls finished."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import tr
from bastler.motion import Path
from bastler.motion.areas import Manner, follow, ramp_along
from bastler.shapes import Arc, Frame, Line, Unrolled
from bastler.shapes.chain import reversed_chain
from bastler.shapes.figures import arc_band, circle, ring, slot
from bastler.shapes.region import Loop
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, given, number
from bastler.steps.mill.area import ENTRY, SHAPE, WHERE, CentreX, CentreY, TurnedBy, finishes
from bastler.steps.mill.ringed import LoopedStep
from bastler.tools import Tool
from bastler.units import Kind, number_text

SAME_WIDTH = 1e-6
"""Share of the width: a tool that differs by less is as wide as the slot."""
LEANS_MM = 0.005
"""Walls that lean by less are upright."""
ROOMY = 0.85
"""A tool no wider than this share leaves something to finish both walls with."""


class SlotStep(LoopedStep, frozen=True, kw_only=True):
    """A step along lines of one width. `lines` are the ways of its middle."""

    width: Annotated[float, ask("How wide", Kind.LENGTH, SHAPE, above=0)] = 10.0

    def lines(self, ctx: FlatContext) -> list[tuple[Loop, bool]]:
        """The middles of the slots, and whether each is closed."""
        raise NotImplementedError

    def as_wide(self, tool: Tool | None) -> bool:
        """Is the tool as wide as the slot?"""
        return tool is not None and abs(tool.diameter - self.width) < SAME_WIDTH * self.width

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that leaves both walls to be finished, else one as wide as the slot or narrower."""
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        mills = [t for t in mills if t.flute_length >= self.depth] or mills
        fits = [t for t in mills if t.diameter <= self.width * (1 + SAME_WIDTH)]
        roomy = [t for t in fits if t.diameter <= ROOMY * self.width] if finishes(self) else fits
        return ((roomy or fits)[-1].id if fits else mills[0].id) if mills else None

    def reachable(self, ctx: FlatContext, z: float) -> list[Loop]:
        return self.area(ctx, z) if self.as_wide(self.last_tool(ctx)) else super().reachable(ctx, z)

    def _tool_troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = super()._tool_troubles(ctx)
        if found:
            return found
        if finishes(self) and (self.as_wide(ctx.tool(self.tool)) or self.as_wide(self.last_tool(ctx))):
            return [Trouble("finish", tr("The tool is as wide as the slot: nothing is left to finish."), "no")]
        if self.as_wide(ctx.tool(self.tool)) and self.bite == "even":
            return [Trouble("bite", tr("Loops need a tool that is narrower than the slot."), "plain")]
        return []

    def rough(self, tool: Tool, ctx: FlatContext) -> Stage:
        if not self.as_wide(tool):
            return super().rough(tool, ctx)
        how = self.manner(ctx, tool, given(self.vf), given(self.n))
        (x, y), closed = self.lines(ctx)[0][0][0].start, False
        start = (x, y, ctx.safe)
        path = Path(*start)
        for line, closed in self.lines(ctx):
            self._along(path, line, how, closed=closed)
        path.go(z=how.over).go(z=ctx.safe)
        return Stage(name="rough", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=tuple(path.moves))

    def _along(self, path: Path, line: Loop, how: Manner, *, closed: bool) -> None:
        """Down along the middle level by level; an open slot is run through from either end in turn."""
        path.go(z=how.over).go(*line[0].start)
        top = given(self.top)
        path.go(z=top + how.clear)
        for level in self.levels():
            if self.entry == "plunge":
                path.cut(how.feeds.plunge, z=level)
            else:
                round_trip = line if closed else [*line, *reversed_chain(line)]
                ramp_along(path, round_trip, level, how.slope, how.feeds.plunge, whole_rounds=True)
            follow(path, line, how.feeds.cut)
            line = line if closed else reversed_chain(line)


@step("Slot", "Pockets", "Straight, by the tool's width or wider", rank=3)
class Slot(SlotStep, frozen=True, kw_only=True, tag="slot"):
    """Answers of a straight slot."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    angle: TurnedBy = 0.0
    length: Annotated[float, ask("Length over all", Kind.LENGTH, SHAPE, above=0)] = 40.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return at.centred() | {"length": at.rounded(0.4 * at.size[0]), "width": _wide(at), "depth": at.deep(0.2)}

    @property
    def frame(self) -> Frame:
        return Frame(self.x, self.y, self.angle)

    def lines(self, ctx: FlatContext) -> list[tuple[Loop, bool]]:
        half = (self.length - self.width) / 2
        return [([Line(self.frame.place(-half, 0.0), self.frame.place(half, 0.0))], False)]

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        return [slot(self.frame, self.length, self.width)]

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        if self.length <= self.width:
            return [Trouble("length", tr("Shorter than it is wide: mill a round pocket."), round(2 * self.width, 4))]
        return []

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        """Round a part a narrower mill stands askew at either wall: they lean by what they are apart from its middle."""
        found, tool = super().says(ctx), ctx.tool(self.tool)
        if not isinstance(ctx.turned, Unrolled) or not isinstance(tool, Tool):
            return found
        leans = self.depth * max(self.width - tool.diameter, 0.0) / ctx.turned.around * abs(math.cos(math.radians(self.angle)))
        if leans > ctx.mm(LEANS_MM):
            found.append((SHAPE, tr("Its walls lean: at the floor it is {leans} narrower.", leans=number(leans, ctx))))
        return found

    def sketch(self, ctx: FlatContext) -> Sketch:
        frame, a, b = self.frame, self.length / 2, self.width / 2
        dims = (
            Dim("x", "plan", "along x", (0.0, 0.0), (self.x, self.y), -1),
            Dim("y", "plan", "along y", (0.0, 0.0), (self.x, self.y), -1),
            Dim("length", "plan", "aligned", frame.place(-a, b), frame.place(a, b), 1),
            Dim("width", "plan", "aligned", frame.place(a, b), frame.place(a, -b), 1),
            Dim("angle", "plan", "angle", (self.x, self.y), frame.place(a, 0.0)),
        )
        return self.section_sketch(ctx, dims, (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        turned = tr(", at {angle:g}°", angle=self.angle) if self.angle else ""
        return tr(
            "{length} × {width}, {depth} deep{turned}",
            length=number(self.length, ctx),
            width=number(self.width, ctx),
            depth=number(self.depth, ctx),
            turned=turned,
        )


_part = is_("extent", "part")


def _several(s: Answers) -> bool:
    return bool(s.extent == "part" and s.count > 1)


@step("Ring groove", "Pockets", "All round, or curved slots along an arc", rank=4)
class RingGroove(SlotStep, frozen=True, kw_only=True, tag="ring-groove"):
    """Answers of a groove about a centre."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    diameter: Annotated[float, ask("Diameter of its middle", Kind.LENGTH, SHAPE, above=0)] = 30.0
    extent: Annotated[Literal["whole", "part"], choose("It goes", {"whole": "All round", "part": "A part of the way"}, SHAPE)] = (
        "whole"
    )
    start: Annotated[float, ask("From", Kind.ANGLE, SHAPE, when=_part, helps="To the middle of its end; 0° at 3 o'clock.")] = 0.0
    sweep: Annotated[float, ask("Sweeps", Kind.ANGLE, SHAPE, above=0, most=350, when=_part, helps="Counter-clockwise.")] = 60.0
    count: Annotated[int, ask("How many", Kind.COUNT, SHAPE, least=1, most=60, when=_part)] = 1
    pitch: Annotated[float, ask("One every", Kind.ANGLE, SHAPE, above=0, most=180, when=_several)] = 120.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return at.centred() | {"diameter": at.rounded(0.5 * min(at.size[:2])), "width": _wide(at), "depth": at.deep(0.1)}

    def starts(self) -> list[float]:
        """The angles at which the slots begin."""
        return [self.start + self.pitch * k for k in range(self.count)]

    def lines(self, ctx: FlatContext) -> list[tuple[Loop, bool]]:
        r = self.diameter / 2
        if self.extent == "whole":
            return [(circle(self.x, self.y, r), True)]
        found: list[tuple[Loop, bool]] = []
        for begin in self.starts():
            a, b = (math.radians(begin), math.radians(begin + self.sweep))
            ends = [(self.x + r * math.cos(t), self.y + r * math.sin(t)) for t in (a, b)]
            found.append(([Arc(ends[0], ends[1], (self.x, self.y))], False))
        return found

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        r = self.diameter / 2
        if self.extent == "whole":
            return ring(self.x, self.y, r, self.width)
        return [arc_band(self.x, self.y, r, self.width, begin, self.sweep) for begin in self.starts()]

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        if self.width >= self.diameter:
            return [
                Trouble("width", tr("As wide as its middle's diameter: nothing would stay inside."), round(self.diameter / 3, 4))
            ]
        if self.extent == "whole":
            return []
        gap = math.degrees(2 * math.asin(min(1.0, self.width / self.diameter)))  # the round ends
        if self.count > 1 and self.sweep + gap >= self.pitch:
            return [Trouble("pitch", tr("They would run into each other."), math.ceil(self.sweep + gap + 1.0))]
        if self.count > 1 and self.pitch * (self.count - 1) + self.sweep + gap > 360.0:
            fits = max(1, int((360.0 - self.sweep - gap) / self.pitch) + 1)
            return [Trouble("count", tr("The last would run into the first."), fits)]
        if self.sweep + gap >= 360.0:
            return [Trouble("sweep", tr("Its ends meet: let it go all round."), max(1.0, math.floor(359.0 - gap)))]
        return []

    def sketch(self, ctx: FlatContext) -> Sketch:
        r, b = self.diameter / 2, self.width / 2
        part = self.extent == "part"
        over, across = (math.radians(a) for a in ((self.start + 0.7 * self.sweep, self.start) if part else (45.0, 135.0)))
        places = ((over, -r), (over, r), (across, r - b), (across, r + b))
        at = [(self.x + far * math.cos(away), self.y + far * math.sin(away)) for away, far in places]
        dims = (
            Dim("x", "plan", "along x", (0.0, 0.0), (self.x, self.y), -1),
            Dim("y", "plan", "along y", (0.0, 0.0), (self.x, self.y), -1),
            Dim("diameter", "plan", "diameter", at[0], at[1]),
            Dim("width", "plan", "aligned", at[2], at[3], 1),
        )
        return self.section_sketch(ctx, dims, (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        many = f"{self.count} × " if self.extent == "part" and self.count > 1 else ""
        part = f", {number_text(self.sweep, Kind.ANGLE, ctx.unit)}°" if self.extent == "part" else ""
        return tr(
            "{many}Ø{diameter} × {width}{part}, {depth} deep",
            many=many,
            diameter=number(self.diameter, ctx),
            width=number(self.width, ctx),
            part=part,
            depth=number(self.depth, ctx),
        )


def _wide(at: Arrival) -> float:
    """Wider than a mill by what both walls are finished with."""
    return round(at.mill(0.12 * min(at.size[:2])) * 1.25, 3)
