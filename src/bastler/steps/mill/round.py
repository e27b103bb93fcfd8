"""Round pockets and bosses."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar

from bastler.ask import Answers, ask
from bastler.language import sayable, tr
from bastler.motion import Path
from bastler.motion.areas import Manner, enter, entry_of
from bastler.motion.rings import Clearing, Rings
from bastler.motion.spiral import spiral_out
from bastler.shapes.figures import circle
from bastler.shapes.region import Loop
from bastler.steps.base import Arrival, Dim, Given, Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, given, number
from bastler.steps.mill.area import ENTRY, SHAPE, WHERE, CentreX, CentreY
from bastler.steps.mill.boss import BossStep
from bastler.steps.mill.ringed import LoopedStep
from bastler.tools import Tool
from bastler.units import Kind

ROOMY = 0.6
"""A pocket is cleared best by a tool no wider than this share of it: then there is room for a helix."""


def round_dims(s: Answers) -> tuple[Dim, ...]:
    """Centre and diameter."""
    r = s.diameter / 2
    slant = (r * math.cos(math.radians(45.0)), r * math.sin(math.radians(45.0)))
    return (
        Dim("x", "plan", "along x", (0.0, 0.0), (s.x, s.y), -1),
        Dim("y", "plan", "along y", (0.0, 0.0), (s.x, s.y), -1),
        Dim("diameter", "plan", "diameter", (s.x - slant[0], s.y - slant[1]), (s.x + slant[0], s.y + slant[1])),
    )


@step("Round pocket", "Pockets", "Helix in, a spiral out, round the wall", rank=2)
class RoundPocket(LoopedStep, frozen=True, kw_only=True, tag="round-pocket"):
    """Answers of a round pocket."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)
    CHOSEN: ClassVar[str] = sayable("The largest end mill that reaches the floor and leaves room for its helix")

    x: CentreX = 0.0
    y: CentreY = 0.0
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, SHAPE, above=0)] = 30.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return at.centred() | {"diameter": at.rounded(0.4 * min(at.size[:2])), "depth": at.deep(0.2)}

    def area(self, ctx: FlatContext, z: float) -> list[Loop]:
        return [circle(self.x, self.y, self.diameter / 2)]

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The largest end mill that leaves room for its helix and reaches the floor; else the largest that goes in."""
        mills = sorted((t for t in ctx.tools if t.kind == "end-mill"), key=lambda t: t.diameter)
        mills = [t for t in mills if t.flute_length >= self.depth] or mills
        fits = [t for t in mills if t.diameter < self.diameter] or mills[:1]
        roomy = [t for t in fits if t.diameter <= ROOMY * self.diameter]
        return (roomy or fits)[-1].id if fits else None

    def clear(self, path: Path, rings: Rings, area: list[Loop], *, top: float, level: float, how: Manner) -> None:
        if self.bite == "even" or not self._spiralled(path, rings, self.diameter / 2, top, level, how):
            super().clear(path, rings, area, top=top, level=level, how=how)

    def clear_floor(self, path: Path, ctx: FlatContext, tool: Tool, open_: list[Loop], above: float, how: Manner) -> None:
        radius = self.diameter / 2 - given(self.leave_wall)
        if not self._spiralled(path, self.rings_in(ctx, tool, open_, 0.0), radius, above, self.floor, how):
            super().clear_floor(path, ctx, tool, open_, above, how)

    def _spiralled(self, path: Path, rings: Rings, radius: float, top: float, level: float, how: Manner) -> bool:
        """One level out to a radius in one spiral, where the way in is by a helix in the middle; else nothing, to go ring by
        ring."""
        inner = _innermost(rings)
        if inner is None or entry_of(rings, inner, how) != "helix":
            return False
        enter(path, rings, inner, top, level, how, home=False)
        room = radius - rings.patches[0].depth
        open_already = inner.helix[1] if inner.helix else 0.0
        spiral_out(path, (self.x, self.y), min(open_already, room), room, rings.stepover, how.feeds.cut, ccw=how.climb)
        return True

    def sketch(self, ctx: FlatContext) -> Sketch:
        return self.section_sketch(ctx, round_dims(self), (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        return tr("Ø{diameter}, {depth} deep", diameter=number(self.diameter, ctx), depth=number(self.depth, ctx))


def _innermost(rings: Rings) -> Clearing | None:
    patch = rings.patches[0] if rings.patches else None
    while patch and patch.children:
        patch = patch.children[0]
    return patch


@step("Round boss", "Outside", "Leaves a round boss, clears to the stock's edge", rank=3)
class RoundBoss(BossStep, frozen=True, kw_only=True, tag="round-boss"):
    """Answers of a round boss."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, SHAPE, TOOL, ENTRY, FINISH)

    x: CentreX = 0.0
    y: CentreY = 0.0
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, SHAPE, above=0)] = 30.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return at.centred() | {"diameter": at.rounded(0.7 * min(at.size[:2])), "depth": at.deep(0.2)}

    def boss(self, ctx: FlatContext) -> Loop:
        return circle(self.x, self.y, self.diameter / 2)

    def sketch(self, ctx: FlatContext) -> Sketch:
        return self.section_sketch(ctx, round_dims(self), (self.x, self.y))

    def summary(self, ctx: FlatContext) -> str:
        return tr("Ø{diameter}, {depth} high", diameter=number(self.diameter, ctx), depth=number(self.depth, ctx))
