"""The job as a value: frozen structs, one part on one machine card.

Numbers are in the job's unit, seen from part zero unless said. The *finished block* is the stock less its allowances; the
zero is at one of its points.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

import msgspec

from bastler.ask import ask, choose, is_, isnt, pick
from bastler.cutting import MATERIALS, Material
from bastler.job.parts import Place, spread
from bastler.job.turning_setup import COMES, CoolantChoice, Pace, TurnHolding
from bastler.machines import CARDS, MachineCard
from bastler.shapes import AnyOutline, Box, Pattern
from bastler.steps import STEPS, Step
from bastler.steps.base import PlaneKind
from bastler.tools import AnyTool, Tool, shop_crib
from bastler.units import Kind, Unit, scale

if TYPE_CHECKING:
    MillStep = Step
    AnyTurnStep = Step
else:
    MillStep = Union[tuple(kind.cls for kind in STEPS.values() if "flat" in kind.planes)]  # noqa: UP007
    AnyTurnStep = Union[tuple(kind.cls for kind in STEPS.values() if "turned" in kind.planes)]  # noqa: UP007

FORMAT_VERSION = 3
STOCK, ZERO, HOLDING, HEIGHTS, MACHINE = "Stock", "Zero", "Holding", "Heights", "Machine"
TABLE, PARTS = "On the table", "Parts"
PART_CHOICES = {"one": "One part", "grid": "A grid of parts", "list": "Parts by a list"}
ZERO_CHOICES = {
    "front-left": "Front left",
    "front-right": "Front right",
    "back-left": "Back left",
    "back-right": "Back right",
    "centre": "Centre",
    "own": "Own point",
}
_ZERO_SHARE = {
    "front-left": (0.0, 0.0),
    "front-right": (1.0, 0.0),
    "back-left": (0.0, 1.0),
    "back-right": (1.0, 1.0),
    "centre": (0.5, 0.5),
    "own": (0.0, 0.0),
}
_OFFSETS = {g: g for g in ("G54", "G55", "G56", "G57", "G58", "G59")}

_several = isnt("parts", "one")
_block = isnt("form", "disc")
_grid = is_("parts", "grid")
_disc = is_("form", "disc")
_own = is_("zero", "own")
_vise = is_("vise", "yes")


def _part_pitch(axis: int) -> Any:
    def propose(s: Any, ctx: Any) -> float:
        widest = max((t.in_unit(ctx.unit).diameter for t in ctx.job.tools if isinstance(t, Tool)), default=0.0)
        room = widest + ctx.mm(15.0)  # a tool that runs past the edge of one part stays off the next
        return float(round(s.box().size[axis] + room, 0 if ctx.unit == "mm" else 2))

    return propose


def _grip(s: Any, ctx: Any) -> float:
    return float(min(round(s.size_z * 0.25, 1 if ctx.unit == "mm" else 2), ctx.mm(10.0)))


def _jaw_width(s: Any, ctx: Any) -> float:
    return 125.0 if ctx.unit == "mm" else 5.0


def _clear(s: Any, ctx: Any) -> float:
    return 2.0 if ctx.unit == "mm" else 0.08


def _safe(s: Any, ctx: Any) -> float:
    return float(round(s.box().hi[2] + ctx.mm(25.0), 0 if ctx.unit == "mm" else 1))


def _middle(axis: str) -> Any:
    def propose(s: Any, ctx: Any) -> float:
        travel, k = getattr(ctx.card, axis), 0 if axis == "x" else 1
        return float(round((travel.lo + travel.hi) / 2 - s.box().centre[k] - spread(s)[k] / 2, 3))

    return propose


def _offset_z(s: Any, ctx: Any) -> float:
    """Stock bottom 50 mm above the lowest point the spindle nose can reach."""
    return float(round(ctx.card.z.lo + ctx.mm(50.0) - s.box().lo[2], 3))


class Setup(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="holds", tag="milling"):
    """One holding of the part: stock, zero, holding, heights and its steps."""

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
        Literal["off", "stays"],
        choose("The top", COMES, STOCK, when=lambda s: s.over_top > 0, helps="Off here, or left for the next holding."),
    ] = "off"
    over_bottom: Annotated[float, ask("Too much below", Kind.LENGTH, STOCK, least=0)] = 0.0
    over_sides: Annotated[float, ask("Too much on each side", Kind.LENGTH, STOCK, least=0)] = 0.0
    sides_come: Annotated[
        Literal["off", "stays"],
        choose("The sides", COMES, STOCK, when=lambda s: s.over_sides > 0, helps="Off here, or left for the next holding."),
    ] = "off"
    zero: Annotated[
        Literal["front-left", "front-right", "back-left", "back-right", "centre", "own"],
        choose("Zero in the plan", ZERO_CHOICES, ZERO),
    ] = "front-left"
    zero_x: Annotated[
        float, ask("From the left", Kind.LENGTH, ZERO, when=_own, helps="From the finished block's front left corner.")
    ] = 0.0
    zero_y: Annotated[float, ask("From the front", Kind.LENGTH, ZERO, when=_own)] = 0.0
    zero_z: Annotated[
        Literal["top", "bottom"], choose("Zero in height", {"top": "Finished top", "bottom": "Finished bottom"}, ZERO)
    ] = "top"
    work_offset: Annotated[Literal["G54", "G55", "G56", "G57", "G58", "G59"], choose("Work offset", _OFFSETS, ZERO)] = "G54"
    parts: Annotated[Literal["one", "grid", "list"], choose("On the table", PART_CHOICES, PARTS)] = "one"
    columns: Annotated[
        int,
        ask("Side by side", Kind.COUNT, PARTS, least=1, most=40, when=_grid, helps="Along X, each with the next work offset."),
    ] = 3
    rows: Annotated[int, ask("One behind the other", Kind.COUNT, PARTS, least=1, most=40, when=_grid)] = 2
    pitch_x: Annotated[
        float | None, ask("From one to the next in X", Kind.LENGTH, PARTS, above=0, when=_grid, propose=_part_pitch(0))
    ] = None
    pitch_y: Annotated[float | None, ask("In Y", Kind.LENGTH, PARTS, above=0, when=_grid, propose=_part_pitch(1))] = None
    places: Annotated[
        tuple[Place, ...],
        pick(
            "The others",
            "places",
            PARTS,
            when=is_("parts", "list"),
            helps="A line each, from the first part's zero: G55, 120, 0.",
        ),
    ] = ()
    part_order: Annotated[
        Literal["parts", "tools"],
        choose("Cut", {"parts": "Part by part", "tools": "Each tool on all parts"}, PARTS, when=_several),
    ] = "tools"
    write_offsets: Annotated[
        Literal["yes", "no"],
        choose(
            "Offsets", {"no": "Touched off", "yes": "Written by the program"}, PARTS, when=_several,
            helps="Written with G10, from where the zero is on the machine.",
        ),
    ] = "no"  # fmt: skip
    vise: Annotated[Literal["yes", "no"], choose("Held in a vise", {"yes": "Yes", "no": "No"}, HOLDING)] = "yes"
    grip: Annotated[
        float | None,
        ask(
            "Jaws grip",
            Kind.LENGTH,
            HOLDING,
            above=0,
            propose=_grip,
            when=_vise,
            helps="Height of the jaws over the stock's bottom.",
        ),
    ] = None
    jaw_width: Annotated[float | None, ask("Jaw width", Kind.LENGTH, HOLDING, above=0, propose=_jaw_width, when=_vise)] = None
    clear: Annotated[
        float | None,
        ask(
            "Rapids end above", Kind.LENGTH, HEIGHTS, above=0, propose=_clear, helps="Distance over a surface where feed begins."
        ),
    ] = None
    safe: Annotated[
        float | None, ask("Safe height Z", Kind.LENGTH, HEIGHTS, propose=_safe, helps="For going across between stages.")
    ] = None
    tool_change: Annotated[
        Literal["top", "home"],
        choose("For a tool change", {"top": "Z to the top", "home": "Z up, then home"}, HEIGHTS),
    ] = "top"
    offset_x: Annotated[
        float | None,
        ask(
            "Zero at machine X",
            Kind.LENGTH,
            TABLE,
            propose=_middle("x"),
            helps="Where the zero is on the table, to check travels.",
        ),
    ] = None
    offset_y: Annotated[float | None, ask("Zero at machine Y", Kind.LENGTH, TABLE, propose=_middle("y"))] = None
    offset_z: Annotated[float | None, ask("Zero at machine Z", Kind.LENGTH, TABLE, propose=_offset_z)] = None
    steps: tuple[MillStep, ...] = ()

    def box(self) -> Box:
        """The raw stock, seen from part zero."""
        over = self.over_sides
        wide, deep = self.plan_size
        finished = (wide - 2 * over, deep - 2 * over, self.size_z - self.over_top - self.over_bottom)
        share = _ZERO_SHARE[self.zero]
        own = (self.zero_x, self.zero_y) if self.zero == "own" else (0.0, 0.0)
        zx, zy = share[0] * finished[0] + own[0], share[1] * finished[1] + own[1]
        zz = finished[2] if self.zero_z == "top" else 0.0
        lo = (-over - zx, -over - zy, -self.over_bottom - zz)
        return Box(lo, (lo[0] + wide, lo[1] + deep, lo[2] + self.size_z), _disc(self))

    @property
    def plan_size(self) -> tuple[float, float]:
        """How wide and how deep the stock is, seen from above."""
        return (self.diameter, self.diameter) if _disc(self) else (self.size_x, self.size_y)

    def jaws(self, thick: float) -> tuple[Box, ...]:
        """Front and back jaw as keep-out boxes, `thick` deep; from filled answers."""
        if self.vise != "yes" or self.grip is None or self.jaw_width is None:
            return ()
        stock = self.box()
        x, half, top = stock.centre[0], self.jaw_width / 2, stock.lo[2] + self.grip
        low = stock.lo[2] - 2 * self.grip
        return (
            Box((x - half, stock.lo[1] - thick, low), (x + half, stock.lo[1], top)),
            Box((x - half, stock.hi[1], low), (x + half, stock.hi[1] + thick, top)),
        )


class TurnSetup(TurnHolding, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="holds", tag="turning"):
    """One holding of a turned part with its steps."""

    steps: tuple[AnyTurnStep, ...] = ()


AnySetup = Setup | TurnSetup


class Job(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The document. `materials` and `cards` are the shop's own ones, and those that ship with Bastler where they were changed."""

    version: int = FORMAT_VERSION
    name: Annotated[str, msgspec.Meta(max_length=80)] = "New part"
    note: str = ""
    unit: Unit = "mm"
    machine: Annotated[str, pick("Machine", "machine", MACHINE)] = "mill-600"
    program_number: Annotated[int, ask("Program number", Kind.COUNT, MACHINE, least=1, most=9999)] = 1
    tools: tuple[AnyTool, ...] = ()
    patterns: tuple[Pattern, ...] = ()
    outlines: tuple[AnyOutline, ...] = ()
    materials: tuple[Material, ...] = ()
    cards: tuple[MachineCard, ...] = ()
    setup: AnySetup = Setup()

    @property
    def steps(self) -> tuple[Step, ...]:
        return self.setup.steps

    @property
    def plane(self) -> PlaneKind:
        """The kind of the main plane: what most steps are on."""
        return "turned" if self.turns else "flat"

    @property
    def turns(self) -> bool:
        """Is this a turned part?"""
        return isinstance(self.setup, TurnSetup)

    def outline(self, ident: str) -> AnyOutline | None:
        """The outline of that id."""
        return next((o for o in self.outlines if o.id == ident), None)

    def step(self, ident: str) -> Step | None:
        """The step of that id."""
        return next((s for s in self.setup.steps if s.id == ident), None)

    def pattern(self, ident: str) -> Pattern | None:
        """The pattern of that id."""
        return next((p for p in self.patterns if p.id == ident), None)

    def all_cards(self) -> dict[str, MachineCard]:
        """The machine cards there are, by id, in the job's unit."""
        return {c.id: c.in_unit(self.unit) for c in (*CARDS.values(), *self.cards)}

    def all_materials(self) -> dict[str, Material]:
        """The materials there are, by id."""
        return MATERIALS | {m.id: m for m in self.materials}

    @property
    def card(self) -> MachineCard:
        """The machine card in the job's unit."""
        own = next((c for c in self.cards if c.id == self.machine), None)
        return (own or CARDS[self.machine]).in_unit(self.unit)

    @property
    def material(self) -> Material:
        own = next((m for m in self.materials if m.id == self.setup.material), None)
        return own or MATERIALS[self.setup.material]

    def tool(self, ident: str) -> AnyTool | None:
        """The tool of that id."""
        return next((t for t in self.tools if t.id == ident), None)


def new_job(unit: Unit = "mm", machine: str = "mill-600", own: Mapping[str, MachineCard] | None = None) -> Job:
    """A job that can be proved at once: a block in the vise or a bar in the chuck, no steps yet. `own` are cards of the shop."""
    card = (CARDS | dict(own or {}))[machine].in_unit(unit)
    if card.turns:
        return Job(unit=unit, machine=machine, tools=shop_crib(unit, turning=True), setup=_new_turn_setup(unit, card))
    setup = Setup() if unit == "mm" else Setup(size_x=6.0, size_y=4.0, size_z=1.25, over_top=0.05)
    room = (card.x.hi - card.x.lo, card.y.hi - card.y.lo)
    if setup.size_x > room[0] or setup.size_y > room[1]:
        setup = msgspec.structs.replace(setup, size_x=room[0] / 2, size_y=room[1] / 2)
    return Job(unit=unit, machine=machine, tools=shop_crib(unit), setup=setup)


def _new_turn_setup(unit: Unit, card: MachineCard) -> TurnSetup:
    """A bar that the machine can hold."""
    room = card.x.hi - max(card.x.lo, 0.0)
    if unit == "inch":
        setup = TurnSetup(
            diameter=2.25, bore=0.75, across_flats=1.5, length=4.5, over_front=0.04, finished=3.0, stick_out=3.75, centre_d=0.75,
            change_d=6.0, change_z=4.0,
        )  # fmt: skip
    else:
        setup = TurnSetup()
    return msgspec.structs.replace(setup, rating=min(setup.rating, card.speed[1])) if room > 0 else setup


def jaw_thickness(unit: Unit) -> float:
    """How thick the jaws are drawn and kept out of: 25 mm."""
    return 25.0 * scale("mm", unit)
