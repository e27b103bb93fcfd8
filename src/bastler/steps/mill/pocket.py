"""Rectangular pocket: cleared from inside out in rings, finished along the wall."""

from __future__ import annotations

import dataclasses
import math
from typing import Annotated, ClassVar

from bastler.ask import Trouble, ask
from bastler.language import tr
from bastler.motion.areas import LEAST_HELIX, SHORTEST_RAMP, Manner
from bastler.motion.even import equal_parts
from bastler.shapes import Frame
from bastler.shapes.corners import Corner
from bastler.shapes.figures import polygon, rectangle
from bastler.shapes.region import Loop
from bastler.steps.base import Arrival, Dim, Given, Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, number
from bastler.steps.mill.area import ENTRY, SHAPE, TIGHTEST, WHERE, CentreX, CentreY, TurnedBy, finishes
from bastler.steps.mill.ringed import LoopedStep
from bastler.tools import Tool
from bastler.units import Kind

ROOMY = 0.6
"""A pocket is cleared best by a tool no wider than this share of it: then there is room to go in."""


@step("Rectangular pocket", "Pockets", "Any angle, rounded corners, roughed and finished", rank=1)
class RectangularPocket(LoopedStep, frozen=True, kw_only=True, tag="rectangular-pocket"):
    """Answers of a rectangular pocket. Its corners are those of the print: no tool may be too large for them."""

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

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        radius = min(self.corner_radius, self.length / 2, self.width / 2)
        return [polygon(rectangle(self.frame, self.length, self.width), Corner("radius", radius))[0]]

    def manner(self, ctx: FlatContext, tool: Tool, feed: float, n: float) -> Manner:
        """Down in the middle, then along the line that the pocket shrinks to."""
        how = super().manner(ctx, tool, feed, n)
        long, lies = max(self.length, self.width), 0.0 if self.length >= self.width else 90.0
        half = (long - min(self.length, self.width)) / 2
        along = Frame(self.x, self.y, self.angle + lies)
        return dataclasses.replace(how, core=(along.place(half, 0.0), along.place(-half, 0.0))) if half > 0 else how

    def _room(self, tool: Tool) -> float:
        """How far to either side of the middle line the tool goes."""
        return min(self.length, self.width) / 2 - tool.diameter / 2 - self.left(self.leave_wall)

    def stepover(self, tool: Tool) -> float:
        """Even: a thin ring in the middle would only make those about it wider."""
        most, room = super().stepover(tool), self._room(tool)
        return room / equal_parts(room, most, TIGHTEST) if min(room, most) > 0 else most

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that makes the corner, has room for its entry and, if there is one, reaches the floor."""
        mills = [t for t in ctx.tools if t.kind == "end-mill" and _fits(t, self, ROOMY)]
        mills = mills or [t for t in ctx.tools if t.kind == "end-mill" and _fits(t, self, 1.0)]
        reach = [t for t in mills if t.flute_length >= self.depth]
        best = max(reach or mills, key=lambda t: t.diameter, default=None)
        return best.id if best else None

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        half = min(self.length, self.width) / 2
        if self.corner_radius > half + TIGHTEST:
            return [Trouble("corner_radius", tr("More than half the pocket: {half} is the most.", half=number(half, ctx)), half)]
        rough, last = ctx.tool(self.tool), self.last_tool(ctx)
        if rough and self._room(rough) < -TIGHTEST:
            return [Trouble("tool", tr("Wider than the pocket with what is left on its walls."), self.choose_tool(ctx))]
        if last and last.diameter / 2 > self.corner_radius + TIGHTEST:
            text = tr(
                "R{diameter} does not go into a corner of R{corner_radius}.",
                diameter=number(last.diameter / 2, ctx),
                corner_radius=number(self.corner_radius, ctx),
            )
            return [Trouble("finish_tool" if finishes(self) else "tool", text, self.choose_tool(ctx))]
        return self._entry_troubles(rough) if rough and self._room(rough) > 0 else []

    def _entry_troubles(self, tool: Tool) -> list[Trouble]:
        """A way in that there is no room for."""
        room, step = self._room(tool), self.stepover(tool)
        helix = room >= LEAST_HELIX * tool.diameter
        inner = 4 * (2 * min(room, step) + abs(self.length - self.width) / 2)
        ramp = inner >= SHORTEST_RAMP * tool.diameter
        if self.entry == "helix" and not helix:
            return [Trouble("entry", tr("No room for a helix."), "ramp" if ramp else "plunge")]
        if self.entry == "ramp" and not ramp:
            return [Trouble("entry", tr("Too short to ramp along."), "plunge")]
        return []

    def sketch(self, ctx: FlatContext) -> Sketch:
        frame, a, b = self.frame, self.length / 2, self.width / 2
        corner = frame.place(a - self.corner_radius, b - self.corner_radius)
        on_arc = frame.place(*(v - self.corner_radius * (1 - math.sqrt(0.5)) for v in (a, b)))
        dims = (
            Dim("x", "plan", "along x", (0.0, 0.0), (self.x, self.y), -1),
            Dim("y", "plan", "along y", (0.0, 0.0), (self.x, self.y), -1),
            Dim("length", "plan", "aligned", frame.place(-a, b), frame.place(a, b), 1),
            Dim("width", "plan", "aligned", frame.place(a, b), frame.place(a, -b), 1),
            Dim("corner_radius", "plan", "radius", corner, on_arc),
            Dim("angle", "plan", "angle", (self.x, self.y), frame.place(a, 0.0)),
        )
        return self.section_sketch(ctx, dims, (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        turned = tr(", at {angle:g}°", angle=self.angle) if self.angle else ""
        size = f"{number(self.length, ctx)} × {number(self.width, ctx)} R{number(self.corner_radius, ctx)}"
        return tr("{size}, {depth} deep{turned}", size=size, depth=number(self.depth, ctx), turned=turned)


def _fits(tool: Tool, s: RectangularPocket, share: float) -> bool:
    return tool.diameter / 2 <= s.corner_radius + TIGHTEST and tool.diameter <= share * min(s.length, s.width) - TIGHTEST
