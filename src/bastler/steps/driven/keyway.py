"""A keyway in a shaft, its width and depth by the standard for the diameter that is there."""

from __future__ import annotations

from typing import Annotated, ClassVar

from bastler.ask import Answers, Trouble, ask
from bastler.cutting.keys import Keyway as Key
from bastler.cutting.keys import keyway_inch, keyway_mm
from bastler.language import tr
from bastler.steps.base import Arrival, Dim, Given, Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import number
from bastler.steps.mill.area import SHAPE
from bastler.steps.mill.slots import Slot
from bastler.steps.place import Where
from bastler.units import Kind


def _key(s: Answers, ctx: FlatContext) -> Key | None:
    """What the standard says of the shaft as it is there."""
    if s.top is None or s.top <= 0:
        return None
    return keyway_mm(2 * s.top) if ctx.unit == "mm" else keyway_inch(2 * s.top)


def _width(s: Answers, ctx: FlatContext) -> float:
    key = _key(s, ctx)
    return key.width if key is not None else s.width


def _depth(s: Answers, ctx: FlatContext) -> float:
    key = _key(s, ctx)
    return key.depth if key is not None else s.depth


@step("Keyway", "Pockets", "In a shaft, its size by DIN 6885 or ASME B17.1", rank=2, on_round=True)
class Keyway(Slot, frozen=True, kw_only=True, tag="keyway"):
    """Answers of a keyway with round ends: a slot along the axis."""

    FIXED: ClassVar[frozenset[str]] = frozenset(("where_on", "counts", "y", "angle", "width", "depth"))

    where_on: Where = "side"
    key_width: Annotated[float | None, ask("How wide", Kind.LENGTH, SHAPE, above=0, propose=_width, symbol="b")] = None
    key_depth: Annotated[
        float | None,
        ask("How deep", Kind.LENGTH, SHAPE, above=0, propose=_depth, symbol="t1", helps="From the top of the shaft."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        middle = -round(at.finished / 2, 0 if at.unit == "mm" else 2)
        given: Given = {"x": middle, "length": at.rounded(at.finished / 4)}
        return given if at.has_y else given | {"finish": "no"}

    @property
    def derived(self) -> dict[str, tuple[float | None, str]]:
        return {"width": (self.key_width, "key_width"), "depth": (self.key_depth, "key_depth")}

    def sources(self, ctx: FlatContext) -> dict[str, str]:
        found = super().sources(ctx)
        name = "DIN 6885-1" if ctx.unit == "mm" else "ASME B17.1"
        shaft = f"Ø{number(2 * (self.top or 0.0), ctx)}"
        why = (
            tr("{name} for a shaft of {shaft}.", name=name, shaft=shaft)
            if _key(self, ctx) is not None
            else tr("{name} has no key for {shaft}.", name=name, shaft=shaft)
        )
        return found | {"key_width": why, "key_depth": why}

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        if self.length <= self.width:
            return [Trouble("length", tr("Shorter than it is wide."), round(2 * self.width, 4))]
        return []

    def sketch(self, ctx: FlatContext) -> Sketch:
        found = super().sketch(ctx)
        names = {"width": "key_width", "depth": "key_depth"}
        dims = [d for d in found.dims if d.field not in ("y", "angle")]
        return Sketch(
            section=found.section,
            dims=tuple(Dim(names.get(d.field, d.field), d.view, d.how, d.a, d.b, d.side) for d in dims),
            centre=found.centre,
        )
