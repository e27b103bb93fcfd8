"""A pocket of any outline with any islands in it, each with a top of its own, and hollows in the islands."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import msgspec

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.language import many, tr
from bastler.shapes import Arc, Frame, PlanOutline, draw, rounded_rectangle
from bastler.shapes.region import Loop, oriented, region_of
from bastler.steps.base import Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import FINISH, TOOL, given
from bastler.steps.mill.area import ENTRY, SHAPE, TIGHTEST, depth_words
from bastler.steps.mill.ringed import LoopedStep
from bastler.units import Kind

ISLANDS = "Islands"
ROLES = {"island": "Island", "hollow": "Pocket in an island"}
FORMS = {"circle": "Circle", "rectangle": "Rectangle", "outline": "Outline"}

_rectangle = is_("form", "rectangle")
_drawn = isnt("form", "outline")


class Contour(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Something that stands in a pocket, or a hollow in it. `top` is how far its top lies under the pocket's; None: not at
    all."""

    typed: dict[str, str] = {}
    role: Annotated[Literal["island", "hollow"], choose("It is", ROLES)] = "island"
    form: Annotated[Literal["circle", "rectangle", "outline"], choose("Shape", FORMS)] = "circle"
    outline: Annotated[str, pick("Outline", "outline", when=is_("form", "outline"))] = ""
    x: Annotated[float, ask("Centre X", Kind.LENGTH, when=_drawn)] = 0.0
    y: Annotated[float, ask("Centre Y", Kind.LENGTH, when=_drawn)] = 0.0
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, above=0, when=is_("form", "circle"))] = 10.0
    length: Annotated[float, ask("Length", Kind.LENGTH, above=0, when=_rectangle)] = 20.0
    width: Annotated[float, ask("Width", Kind.LENGTH, above=0, when=_rectangle)] = 10.0
    angle: Annotated[float, ask("Turned by", Kind.ANGLE, when=_rectangle)] = 0.0
    corner_radius: Annotated[float, ask("Corner radius", Kind.LENGTH, least=0, when=_rectangle)] = 0.0
    below: Annotated[
        float, ask("Its top below", Kind.LENGTH, least=0, when=is_("role", "island"), helps="Under the pocket's own top.")
    ] = 0.0

    def loop(self, ctx: FlatContext) -> Loop:
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
        return [Trouble(field, tr("Pick or begin an outline."), open=True)]
    here = field == "outline"
    found = [msgspec.structs.replace(t, field=f"outline.{t.field}" if here else field) for t in draw(outline).troubles]
    if not found and closed and not outline.is_closed:
        return [Trouble(field, tr("This needs a closed outline."))]
    return found


class InOutline:
    """What steps share that clear the inside of an outline, with islands that stay and hollows in them. It is mixed into a
    `RingedStep` that has the answers `outline` and `islands`."""

    def shape(self: Answers, ctx: FlatContext) -> Loop:
        return closed_loop(ctx.outlines.get(self.outline))

    def area(self: Answers, ctx: FlatContext, z: float) -> list[Loop]:
        outer = self.shape(ctx)
        if not outer:
            return []
        islands = [c for c in self.islands if c.role == "island" and self._stands(c, z)]
        loops = region_of(outer, [loop for c in islands if (loop := c.loop(ctx))])
        hollows = [loop for c in self.islands if c.role == "hollow" and (loop := c.loop(ctx))]
        return [*loops, *(oriented(loop, ccw=True) for loop in hollows if islands)]

    def _stands(self: Answers, c: Contour, z: float) -> bool:
        """Does an island reach up to a height? Asked for everything (-∞) and for nothing (∞) too."""
        if math.isinf(z):
            return z < 0
        return bool(given(self.top) - c.below > z + TIGHTEST)

    def tops(self: Answers, ctx: FlatContext) -> list[float]:
        found = {round(given(self.top) - c.below, 9) for c in self.islands if c.role == "island" and c.below > 0}
        return [z for z in found if z > self.floor + TIGHTEST]

    def shape_troubles(self: Answers, ctx: FlatContext) -> list[Trouble]:
        found = outline_troubles(ctx.outlines.get(self.outline), "outline")
        for k, c in enumerate(self.islands):
            if c.form == "outline":
                wrong = outline_troubles(ctx.outlines.get(c.outline), "islands")
                found += [Trouble(f"islands.{k}", t.text, open=t.open) for t in wrong]
            if c.role == "island" and c.below > self.depth + TIGHTEST:
                found.append(Trouble(f"islands.{k}", tr("Its top is under the floor.")))
        return found

    def sketch(self: Answers, ctx: FlatContext) -> Sketch:
        made: Sketch = self.section_sketch(ctx)
        return made

    def summary(self: Answers, ctx: FlatContext) -> str:
        outline = ctx.outlines.get(self.outline)
        count = sum(c.role == "island" for c in self.islands)
        more = ", " + many(count, "island") if count else ""
        name = tr("“{name}”", name=outline.name) + ", " if outline else ""
        return f"{name}{depth_words(self, ctx)}{more}"


@step("Free pocket", "Pockets", "Any outline, any islands, each with its own top", rank=6)
class FreePocket(InOutline, LoopedStep, frozen=True, kw_only=True, tag="free-pocket"):
    """Answers of a free pocket."""

    groups: ClassVar[tuple[str, ...]] = (SHAPE, ISLANDS, TOOL, ENTRY, FINISH)

    outline: Annotated[str, pick("Outline", "outline", SHAPE)] = ""
    islands: Annotated[tuple[Contour, ...], pick("Islands", "contours", ISLANDS)] = ()
