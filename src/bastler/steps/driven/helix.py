"""A groove that winds round a part, by its pitch."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from bastler.ask import Trouble, ask, choose
from bastler.language import tr
from bastler.steps.base import Arrival, Dim, Given, Sketch, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import number
from bastler.steps.mill.area import SHAPE, WHERE
from bastler.steps.mill.slots import Slot
from bastler.steps.place import Where
from bastler.units import Kind

MOST_TURNS = 100.0


@step("Helical groove", "Pockets", "Winds round the part, by pitch and hand", rank=3, on_round=True)
class HelicalGroove(Slot, frozen=True, kw_only=True, tag="helical-groove"):
    """Answers of a groove that begins at a place along the axis and winds toward the chuck; several starts are so many times
    round."""

    FIXED: ClassVar[frozenset[str]] = frozenset(("where_on", "x", "y", "angle", "length"))

    where_on: Where = "round"
    from_x: Annotated[
        float, ask("Begins at X", Kind.LENGTH, WHERE, helps="The middle of its end that is nearer to the front.")
    ] = -10.0
    long: Annotated[float, ask("How long along the axis", Kind.LENGTH, SHAPE, above=0)] = 30.0
    pitch: Annotated[float, ask("Pitch", Kind.LENGTH, SHAPE, above=0, helps="Along the axis, for one turn.")] = 20.0
    hand: Annotated[Literal["right", "left"], choose("Hand", {"right": "Right", "left": "Left"}, SHAPE)] = "right"

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        small = [d for d in at.mills if d <= 0.15 * at.surface] or list(at.mills[:1])
        along = at.rounded(at.finished / 3)
        given: Given = {"from_x": -at.rounded(at.finished / 5), "long": along, "pitch": along, "finish": "no", "entry": "ramp"}
        return given | {"width": small[-1] if small else at.small * 6, "depth": at.fine(at.surface / 30)}

    @property
    def along_part(self) -> float | None:
        return self.from_x - self.long / 2

    @property
    def turns(self) -> float:
        """How often it goes round."""
        return self.long / self.pitch

    @property
    def derived(self) -> dict[str, tuple[float | None, str]]:
        if not self.around_d or self.pitch <= 0:
            return super().derived
        away = self.turns * math.pi * self.around_d * (1.0 if self.hand == "right" else -1.0)
        way = {
            "x": (self.from_x - self.long / 2, "from_x"), "y": (away / 2, "from_x"),
            "angle": (math.degrees(math.atan2(away, -self.long)), "pitch"),
            "length": (math.hypot(away, self.long) + self.width, "long"),
        }  # fmt: skip
        return super().derived | way

    def shape_troubles(self, ctx: FlatContext) -> list[Trouble]:
        if self.turns > MOST_TURNS:
            return [
                Trouble(
                    "pitch",
                    tr("More than {most_turns:g} turns are a slip.", most_turns=MOST_TURNS),
                    round(self.long / MOST_TURNS, 4),
                )
            ]
        return []

    def sketch(self, ctx: FlatContext) -> Sketch:
        found = super().sketch(ctx)
        end = self.from_x - self.long
        dims = (
            Dim("from_x", "plan", "along x", (0.0, 0.0), (self.from_x, 0.0), -1),
            Dim("long", "plan", "along x", (end, 0.0), (self.from_x, 0.0), 1),
            *(d for d in found.dims if d.field in ("width", "depth")),
        )
        line = ((ctx.stock.lo[0], 0.0), (ctx.stock.hi[0], 0.0))
        return Sketch(section=line, dims=dims, centre=(self.from_x, 0.0))

    def summary(self, ctx: FlatContext) -> str:
        hand = "" if self.hand == "right" else tr(", left hand")
        return tr(
            "{width} wide, pitch {pitch}, {depth} deep{hand}",
            width=number(self.width, ctx),
            pitch=number(self.pitch, ctx),
            depth=number(self.depth, ctx),
            hand=hand,
        )
