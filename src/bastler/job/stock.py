"""The raw stock of a job: what it is, and how much of it is too much. One for all holdings.

A block or disc has too much on top, below and on the sides; a bar has one budget for its length: the raw length, what comes off
the front and what is left for the back face make the finished length. Nothing of it is typed twice. Numbers are in the job's
unit; diameters are diameters.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal, Protocol

import msgspec
import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.cutting import Material
from bastler.language import tr
from bastler.machines import MachineCard
from bastler.shapes import Box, Lie, TurnedOutline, draw
from bastler.shapes.chain import points_on
from bastler.shapes.kinds import Region
from bastler.units import Kind, Unit

STOCK, LENGTH = "Stock", "Length"
COMES = {"off": "Comes off", "stays": "Stays"}
"""What becomes of an allowance."""
FORMS = {"bar": "Bar", "tube": "Tube", "hex": "Hex bar", "forging": "Forging"}
COMES_HELP = "Off in this job, or left for another one."


class StockLook(Protocol):
    """What the proposals of stock and holdings may look at: the job, its `stock` filled, the holding's `place` in their order,
    and whether the part is ever turned over."""

    job: Any
    stock: Any
    place: int

    @property
    def unit(self) -> Unit: ...
    @property
    def card(self) -> MachineCard: ...
    @property
    def material(self) -> Material: ...
    @property
    def turned_over(self) -> bool: ...
    def box(self, holding: Any) -> Box:
        """The raw stock as a holding sees it."""

    def mm(self, value: float) -> float:
        """A length given in millimetres, in the job's unit."""


_block = is_("form", "block")
_disc = is_("form", "disc")


def coolant_of(s: Answers, ctx: StockLook) -> str:
    """What the material is cut with, where the machine has it."""
    return str(ctx.material.coolant) if ctx.card.coolant else "dry"


Pace = Annotated[
    float,
    ask(
        "Speeds and feeds",
        Kind.PERCENT,
        STOCK,
        least=0,
        most=100,
        ends=("careful", "brisk"),
        helps="Moves all that is proposed within the material's ranges; what was typed stays.",
    ),
]
"""How brisk proposals are, on both kinds of machine."""
CoolantChoice = Annotated[
    Literal["flood", "mist", "dry"] | None,
    choose("Coolant", {"flood": "Flood", "mist": "Mist", "dry": "Dry"}, STOCK, propose=coolant_of),
]


def next_number(s: Answers, ctx: StockLook) -> int:
    """Of a holding's program: ten further than that of the one before, room for the subprograms of that."""
    return int((ctx.job.program_number + 10 * ctx.place - 1) % 9999 + 1)


def _other_side_comes(s: Answers, ctx: StockLook) -> str:
    """Nobody promises to take it where the part is never turned over."""
    return "off" if ctx.turned_over else "stays"


class BlockStock(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="block"):
    """A block or a disc. *On top* and *below* are said of the first holding."""

    typed: dict[str, str] = {}
    material: Annotated[str, pick("Material", "material", STOCK)] = "aluminium"
    pace: Pace = 50.0
    coolant: CoolantChoice = None
    form: Annotated[Literal["block", "disc"], choose("Stock is a", {"block": "Block", "disc": "Disc"}, STOCK)] = "block"
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, STOCK, above=0, when=_disc)] = 120.0
    size_x: Annotated[float, ask("Length X", Kind.LENGTH, STOCK, above=0, when=_block)] = 150.0
    size_y: Annotated[float, ask("Width Y", Kind.LENGTH, STOCK, above=0, when=_block)] = 100.0
    size_z: Annotated[float, ask("Height Z", Kind.LENGTH, STOCK, above=0)] = 30.0
    over_top: Annotated[float, ask("Too much on top", Kind.LENGTH, STOCK, least=0, helps="Raw stock over the finished top.")] = (
        1.0
    )
    top_comes: Annotated[
        Literal["off", "stays"], choose("The top", COMES, STOCK, when=lambda s: s.over_top > 0, helps=COMES_HELP)
    ] = "off"
    over_bottom: Annotated[
        float,
        ask(
            "Too much below", Kind.LENGTH, STOCK, least=0,
            helps="Under the finished bottom: to hold it by. It comes off behind turning over.",
        ),
    ] = 0.0  # fmt: skip
    bottom_comes: Annotated[
        Literal["off", "stays"] | None,
        choose(
            "The underside", COMES, STOCK, when=lambda s: s.over_bottom > 0, propose=_other_side_comes,
            helps="Off once the part is turned over, or left for another job.",
        ),
    ] = None  # fmt: skip
    over_sides: Annotated[float, ask("Too much on each side", Kind.LENGTH, STOCK, least=0)] = 0.0
    sides_come: Annotated[
        Literal["off", "stays"], choose("The sides", COMES, STOCK, when=lambda s: s.over_sides > 0, helps=COMES_HELP)
    ] = "off"

    @property
    def plan_size(self) -> tuple[float, float]:
        """How wide and how deep the stock is, seen from above."""
        return (self.diameter, self.diameter) if self.round else (self.size_x, self.size_y)

    @property
    def round(self) -> bool:
        """Is it a disc?"""
        return self.form == "disc"

    def allowances(self, lie: Lie) -> tuple[float, float]:
        """Too much on top and below, as the part lies."""
        return (self.over_bottom, self.over_top) if lie.upside_down else (self.over_top, self.over_bottom)

    @property
    def thickness(self) -> float:
        """Of the finished part, from its underside to its top."""
        return self.size_z - self.over_top - self.over_bottom


class BarStock(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="is", tag="bar"):
    """Bar, tube, hex bar or forging. The zero is on the finished front face."""

    typed: dict[str, str] = {}
    material: Annotated[str, pick("Material", "material", STOCK)] = "steel-alloy"
    pace: Pace = 50.0
    coolant: CoolantChoice = None
    form: Annotated[Literal["bar", "tube", "hex", "forging"], choose("Stock is a", FORMS, STOCK)] = "bar"
    diameter: Annotated[float, ask("Outside Ø", Kind.LENGTH, STOCK, above=0, when=is_("form", "bar", "tube"))] = 60.0
    bore: Annotated[
        float,
        ask("Bore Ø", Kind.LENGTH, STOCK, above=0, when=is_("form", "tube"), helps="The hole that is in the stock already."),
    ] = 20.0
    across_flats: Annotated[float, ask("Across flats", Kind.LENGTH, STOCK, above=0, when=is_("form", "hex"))] = 41.0
    forged: Annotated[str, pick("Outline of the forging", "outline", STOCK, when=is_("form", "forging"))] = ""
    length: Annotated[float, ask("Raw length", Kind.LENGTH, LENGTH, above=0, helps="As sawn.")] = 120.0
    over_front: Annotated[float, ask("Too much at the front", Kind.LENGTH, LENGTH, least=0)] = 1.0
    front_comes: Annotated[
        Literal["off", "stays"],
        choose("The front", COMES, LENGTH, when=lambda s: s.over_front > 0, helps=COMES_HELP),
    ] = "off"
    over_back: Annotated[
        float, ask("Left on the back face", Kind.LENGTH, LENGTH, least=0, helps="For facing the other side in the next holding.")
    ] = 0.0
    back_comes: Annotated[
        Literal["off", "stays"] | None,
        choose(
            "The back", COMES, LENGTH, when=lambda s: s.over_back > 0, propose=_other_side_comes,
            helps="Off once the part is turned round, or left for another job.",
        ),
    ] = None  # fmt: skip
    finished: Annotated[
        float, ask("Finished length", Kind.LENGTH, LENGTH, above=0, helps="From finished face to finished face.")
    ] = 80.0

    @property
    def front(self) -> float:
        """The raw front face."""
        return self.over_front

    def outer(self) -> float:
        """The largest radius of the stock; a hex bar's is at its corners."""
        if self.form == "hex":
            return self.across_flats / 2 / math.cos(math.radians(30.0))
        return self.diameter / 2

    def region(self, outlines: dict[str, TurnedOutline], mm: float) -> Region:
        """The raw stock as a half section (z, r); `mm` is one millimetre in the job's unit."""
        back, front = self.front - self.length, self.front
        if self.form == "forging":
            shape = outlines.get(self.forged)
            chain = draw(shape).chain if shape else ()
            if chain:
                points = points_on(chain, 0.0005 * mm)
                ends = [(points[-1][0], 0.0), (points[0][0], 0.0)]
                return shapely.make_valid(shapely.Polygon([*points, *ends]))
        inner = self.bore / 2 if self.form == "tube" else 0.0
        return shapely.box(back, inner, front, max(self.outer(), inner + 1e-6))

    def troubles(self, outlines: dict[str, TurnedOutline]) -> list[Trouble]:
        """What does not go together."""
        found = []
        if self.form == "tube" and self.bore >= self.diameter:
            found.append(Trouble("bore", tr("Larger than the outside.")))
        if self.form == "forging" and (self.forged not in outlines or draw(outlines[self.forged]).troubles):
            found.append(Trouble("forged", tr("Pick or complete the outline of the forging.")))
        need = self.over_front + self.finished + self.over_back
        if need > self.length + 1e-9:
            found.append(
                Trouble(
                    "length", tr("The raw length has to be {need:g} at least: front, finished length and back.", need=need), need
                )
            )
        return found


AnyStock = BlockStock | BarStock
