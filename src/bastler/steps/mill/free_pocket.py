"""A pocket of any outline with any islands in it, each with a top of its own, and hollows in the islands."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import msgspec

from bastler.ask import Trouble, ask, choose, pick
from bastler.motion import Path
from bastler.motion.areas import Manner, clear_about
from bastler.motion.loops import clear_evenly, widest_step
from bastler.motion.rings import SAFE_STEP, AboutRings, Rings, rings_about
from bastler.shapes import Arc, Flat, Frame, PlanOutline, Removal, draw, rounded_rectangle
from bastler.shapes.region import Loop, oriented, region_of
from bastler.steps.base import Sketch, Stage, step
from bastler.steps.context import Context
from bastler.steps.cut import FINISH, TOOL, given, number
from bastler.steps.mill.area import ENTRY, SHAPE, TIGHTEST, depth_words
from bastler.steps.mill.ringed import RingedStep
from bastler.tools import Tool
from bastler.units import Kind

ISLANDS = "Islands"
ROLES = {"island": "Island", "hollow": "Pocket in an island"}
FORMS = {"circle": "Circle", "rectangle": "Rectangle", "outline": "Outline"}


def _circle(s: Any) -> bool:
    return bool(s.form == "circle")


def _rectangle(s: Any) -> bool:
    return bool(s.form == "rectangle")


def _outline(s: Any) -> bool:
    return bool(s.form == "outline")


def _island(s: Any) -> bool:
    return bool(s.role == "island")


def _drawn(s: Any) -> bool:
    return bool(s.form != "outline")


class Contour(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Something that stands in a pocket, or a hollow in it. `top` is how far its top lies under the pocket's; None: not at
    all."""

    typed: dict[str, str] = {}
    role: Annotated[Literal["island", "hollow"], choose("It is", ROLES)] = "island"
    form: Annotated[Literal["circle", "rectangle", "outline"], choose("Shape", FORMS)] = "circle"
    outline: Annotated[str, pick("Outline", "outline", when=_outline)] = ""
    x: Annotated[float, ask("Centre X", Kind.LENGTH, when=_drawn)] = 0.0
    y: Annotated[float, ask("Centre Y", Kind.LENGTH, when=_drawn)] = 0.0
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, above=0, when=_circle)] = 10.0
    length: Annotated[float, ask("Length", Kind.LENGTH, above=0, when=_rectangle)] = 20.0
    width: Annotated[float, ask("Width", Kind.LENGTH, above=0, when=_rectangle)] = 10.0
    angle: Annotated[float, ask("Turned by", Kind.ANGLE, when=_rectangle)] = 0.0
    corner_radius: Annotated[float, ask("Corner radius", Kind.LENGTH, least=0, when=_rectangle)] = 0.0
    below: Annotated[float, ask("Its top below", Kind.LENGTH, least=0, when=_island, helps="Under the pocket's own top.")] = 0.0

    def loop(self, ctx: Context) -> Loop:
        """Its boundary; empty while it is not whole."""
        if self.form == "circle":
            at = (self.x + self.diameter / 2, self.y)
            return [Arc(at, at, (self.x, self.y))]
        if self.form == "rectangle":
            return rounded_rectangle(Frame(self.x, self.y, self.angle), self.length, self.width, self.corner_radius)
        return closed_loop(ctx.outlines.get(self.outline))


def closed_loop(outline: PlanOutline | None) -> Loop:
    """The chain of a closed outline that is whole; else nothing."""
    if outline is None or not outline.is_closed:
        return []
    drawn = draw(outline)
    return [] if drawn.troubles else list(drawn.chain)


def outline_troubles(outline: PlanOutline | None, field: str, *, closed: bool | None = True) -> list[Trouble]:
    """What keeps an outline from being used; its own troubles are said at its segments."""
    if outline is None:
        return [Trouble(field, "Pick or begin an outline.", open=True)]
    here = field == "outline"
    found = [msgspec.structs.replace(t, field=f"outline.{t.field}" if here else field) for t in draw(outline).troubles]
    if not found and closed and not outline.is_closed:
        return [Trouble(field, "This needs a closed outline.")]
    return found


class IslandStep(RingedStep, frozen=True, kw_only=True):
    """A step inside an outline, with islands that stay and hollows in them."""

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""
    islands: Annotated[tuple[Contour, ...], pick("Islands", "contours", ISLANDS)] = ()

    def shape(self, ctx: Context) -> Loop:
        return closed_loop(ctx.outlines.get(self.outline))

    def area(self, ctx: Context, z: float) -> list[Loop]:
        outer = self.shape(ctx)
        if not outer:
            return []
        islands = [c for c in self.islands if c.role == "island" and self._stands(c, z)]
        loops = region_of(outer, [loop for c in islands if (loop := c.loop(ctx))])
        hollows = [loop for c in self.islands if c.role == "hollow" and (loop := c.loop(ctx))]
        return [*loops, *(oriented(loop, ccw=True) for loop in hollows if islands)]

    def _stands(self, c: Contour, z: float) -> bool:
        """Does an island reach up to a height? Asked for everything (-∞) and for nothing (∞) too."""
        if math.isinf(z):
            return z < 0
        return given(self.top) - c.below > z + TIGHTEST

    def tops(self, ctx: Context) -> list[float]:
        found = {round(given(self.top) - c.below, 9) for c in self.islands if c.role == "island" and c.below > 0}
        return [z for z in found if z > self.floor + TIGHTEST]

    def shape_troubles(self, ctx: Context) -> list[Trouble]:
        found = outline_troubles(ctx.outlines.get(self.outline), "outline")
        for k, c in enumerate(self.islands):
            if c.form == "outline":
                wrong = outline_troubles(ctx.outlines.get(c.outline), "islands")
                found += [Trouble(f"islands.{k}", t.text, open=t.open) for t in wrong]
            if c.role == "island" and c.below > self.depth + TIGHTEST:
                found.append(Trouble(f"islands.{k}", "Its top is under the floor."))
        return found

    def sketch(self, ctx: Context) -> Sketch:
        return self.section_sketch(ctx)

    def summary(self, ctx: Context) -> str:
        outline = ctx.outlines.get(self.outline)
        count = sum(c.role == "island" for c in self.islands)
        more = f", {count} island{'s' if count > 1 else ''}" if count else ""
        name = f"“{outline.name}”, " if outline else ""
        return f"{name}{depth_words(self, ctx)}{more}"


def _even(s: Any) -> bool:
    return bool(s.bite == "even")


@step("Free pocket", "Pockets", "Any outline, any islands, each with its own top", rank=2)
class FreePocket(IslandStep, frozen=True, kw_only=True, tag="free-pocket"):
    """Answers of a free pocket."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, ISLANDS, TOOL, ENTRY, FINISH)

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

    def stepover(self, tool: Tool) -> float:
        step = super().stepover(tool)
        return min(step, widest_step(tool.diameter / 2, math.radians(self.most_angle))) if _even(self) else step

    def clear(self, path: Path, rings: Rings, area: list[Loop], *, top: float, level: float, how: Manner) -> None:
        if _even(self):
            clear_evenly(path, rings, area, top=top, level=level, how=how, limit=math.radians(self.most_angle))
        else:
            super().clear(path, rings, area, top=top, level=level, how=how)


@step("Free boss", "Outside", "Leaves a boss standing, clears to the stock's edge", rank=2)
class FreeBoss(RingedStep, frozen=True, kw_only=True, tag="free-boss"):
    """Answers of a free boss: everything between it and the stock goes."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, TOOL, ENTRY, FINISH)

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""

    def area(self, ctx: Context, z: float) -> list[Loop]:
        boss = closed_loop(ctx.outlines.get(self.outline))
        if not boss:
            return []
        size = ctx.stock.size
        far = 4 * (size[0] + size[1])
        middle = Frame(*ctx.stock.centre[:2])
        return region_of(rounded_rectangle(middle, size[0] + far, size[1] + far, 0.0), [boss])

    def limit(self, ctx: Context) -> Any:
        return ctx.stock.plan

    def footprint(self, ctx: Context) -> Any:
        return super().footprint(ctx).intersection(ctx.stock.plan)

    def removes(self, ctx: Context) -> list[Removal]:
        near = ctx.stock.plan.buffer(ctx.mm(10.0), join_style="mitre")
        return [Flat(flat.region.intersection(near), flat.floor) for flat in super().removes(ctx) if isinstance(flat, Flat)]

    def begin(self, ctx: Context) -> tuple[tuple[float, float, float], Path]:
        start = (ctx.stock.lo[0], ctx.stock.lo[1], ctx.safe)
        return start, Path(*start).go(z=max(ctx.go_across, given(self.top) + ctx.clear))

    def about(self, ctx: Context, tool: Tool, area: list[Loop], leave: float) -> AboutRings:
        """The rings around the boss."""
        step = min(given(self.ae), SAFE_STEP * tool.diameter / 2)
        return rings_about(area, ctx.stock.plan, radius=tool.diameter / 2, leave=leave, stepover=step)

    def clear_floor(self, path: Path, ctx: Context, tool: Tool, open_: list[Loop], above: float, how: Manner) -> None:
        clear_about(path, self.about(ctx, tool, open_, 0.0), top=above, level=self.floor, how=how)

    def rough(self, tool: Tool, ctx: Context) -> Stage:
        start, path = self.begin(ctx)
        how = self.manner(ctx, tool, given(self.vf), given(self.n))
        rings = self.about(ctx, tool, self.area(ctx, self.floor), self.left(self.leave_wall))
        top = given(self.top)
        for level in self.levels():
            clear_about(path, rings, top=top, level=level, how=how)
            top = level
        path.go(z=how.over).go(z=ctx.safe)
        return Stage(name="rough", tool=tool, speed=given(self.n), start=start, moves=tuple(path.moves))

    def shape_troubles(self, ctx: Context) -> list[Trouble]:
        return outline_troubles(ctx.outlines.get(self.outline), "outline")

    def sketch(self, ctx: Context) -> Sketch:
        return self.section_sketch(ctx)

    def summary(self, ctx: Context) -> str:
        outline = ctx.outlines.get(self.outline)
        return f"“{outline.name}”, {number(self.depth, ctx)} high" if outline else depth_words(self, ctx)
