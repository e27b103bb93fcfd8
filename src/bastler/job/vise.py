"""The part held on a mill: how it lies, its zero, the parts on the table, the vise, heights and ways, and the steps.

A holding *follows* the one before it: turned over about X or Y, or as it lies, with another grip. Each begins with the part as
the one before leaves it. The *finished block* is the stock less its allowances; the zero is at one of its points."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

import msgspec

from bastler.ask import Answers, ask, choose, is_, isnt, pick
from bastler.job.parts import Place, spread
from bastler.job.stock import BlockStock, StockLook, next_number
from bastler.language import sayable, tr
from bastler.machines import MachineCard
from bastler.shapes import Box, Lie
from bastler.steps import STEPS, FlatContext, Step
from bastler.tools import Tool
from bastler.units import Kind, Unit, scale

if TYPE_CHECKING:
    MillStep = Step[FlatContext]
else:
    MillStep = Union[tuple(kind.cls for kind in STEPS.values() if "flat" in kind.planes)]  # noqa: UP007

HOLDING, ZERO, HEIGHTS, TABLE, PARTS, ORDER = "Holding", "Zero", "Heights", "On the table", "Parts", "Order"
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

FOLLOWS = {"over-x": "Turned over about X", "over-y": "Turned over about Y", "same": "Same side up"}
HELD_IN, ON_TABLE = sayable(("Held in a vise", "On the table"))
FOLLOWS_HELP = "About X the left stays on the left. About Y the front stays in front."
Follows = Literal["first", "over-x", "over-y", "same"]

_several = isnt("parts", "one")
_grid = is_("parts", "grid")
_own = is_("zero", "own")
_vise = is_("vise", "yes")
_later = isnt("follows", "first")


def _part_pitch(axis: int) -> Any:
    def propose(s: Answers, ctx: StockLook) -> float:
        widest = max((t.in_unit(ctx.unit).diameter for t in ctx.job.tools if isinstance(t, Tool)), default=0.0)
        room = widest + ctx.mm(15.0)  # a tool that runs past the edge of one part stays off the next
        return float(round(ctx.box(s).size[axis] + room, 0 if ctx.unit == "mm" else 2))

    return propose


def _grip(s: Answers, ctx: StockLook) -> float:
    return float(min(round(ctx.stock.size_z * 0.25, 1 if ctx.unit == "mm" else 2), ctx.mm(10.0)))


def _jaw_width(s: Answers, ctx: StockLook) -> float:
    return 125.0 if ctx.unit == "mm" else 5.0


def _clear(s: Answers, ctx: StockLook) -> float:
    return 2.0 if ctx.unit == "mm" else 0.08


def _safe(s: Answers, ctx: StockLook) -> float:
    return float(round(ctx.box(s).hi[2] + ctx.mm(25.0), 0 if ctx.unit == "mm" else 1))


def _middle(axis: str) -> Any:
    def propose(s: Answers, ctx: StockLook) -> float:
        travel, k = getattr(ctx.card, axis), 0 if axis == "x" else 1
        return float(round((travel.lo + travel.hi) / 2 - ctx.box(s).centre[k] - spread(s)[k] / 2, 3))

    return propose


def _offset_z(s: Answers, ctx: StockLook) -> float:
    """Bottom of the stock 50 mm above the lowest point the spindle nose can reach."""
    return float(round(ctx.card.z.lo + ctx.mm(50.0) - ctx.box(s).lo[2], 3))


class ViseHolding(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="held", tag="vise"):
    """A milled part as it is held, with its steps."""

    id: str = "h1"
    name: str = ""
    typed: dict[str, str] = {}
    follows: Annotated[Follows, choose("Held", FOLLOWS, HOLDING, when=_later, helps=FOLLOWS_HELP)] = "first"
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
    stage_order: Annotated[
        Literal["steps", "tools"],
        choose(
            "Stages", {"steps": "Step by step", "tools": "A tool at a time"}, ORDER,
            helps="A tool at a time: what one tool does in several steps together, where none of them needs what stands between.",
        ),
    ] = "steps"  # fmt: skip
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
    program_number: Annotated[
        int | None, ask("Program number", Kind.COUNT, HOLDING, least=1, most=9999, when=_later, propose=next_number)
    ] = None
    steps: tuple[MillStep, ...] = ()

    @property
    def title(self) -> str:
        """The holding's own name, or how it is held."""
        return self.name or tr(self._how)

    @property
    def _how(self) -> str:
        return FOLLOWS.get(self.follows, HELD_IN if self.vise == "yes" else ON_TABLE)

    def titled(self, card: MachineCard) -> str:
        """How it is called on a machine: on all mills alike."""
        return self.title

    def plainly_titled(self, card: MachineCard) -> str:
        """The same in a program, which is one whoever reads it."""
        return self.name or self._how

    @property
    def writes_offsets(self) -> bool:
        """Does its program write them? What was answered for several parts is not asked of a single one, nor done."""
        return self.parts != "one" and self.write_offsets == "yes"

    def lies(self, before: Lie) -> Lie:
        """How the part lies, from how it lay before."""
        if self.follows in ("over-x", "over-y"):
            return before.over("x" if self.follows == "over-x" else "y")
        return before

    def box(self, stock: BlockStock, lie: Lie) -> Box:
        """The raw stock, seen from part zero."""
        over = stock.over_sides
        _, below = stock.allowances(lie)
        wide, deep = stock.plan_size
        finished = (wide - 2 * over, deep - 2 * over, stock.thickness)
        share = _ZERO_SHARE[self.zero]
        own = (self.zero_x, self.zero_y) if self.zero == "own" else (0.0, 0.0)
        zx, zy = share[0] * finished[0] + own[0], share[1] * finished[1] + own[1]
        zz = finished[2] if self.zero_z == "top" else 0.0
        lo = (-over - zx, -over - zy, -below - zz)
        return Box(lo, (lo[0] + wide, lo[1] + deep, lo[2] + stock.size_z), stock.round)

    def jaws(self, x: float, part: Gripped, thick: float) -> tuple[Box, ...]:
        """Front and back jaw as keep-out boxes, `thick` deep, about `x`, where they meet the part; from filled answers."""
        if self.vise != "yes" or self.grip is None or self.jaw_width is None:
            return ()
        half, top, low = self.jaw_width / 2, part.bottom + self.grip, part.bottom - 2 * self.grip
        return (
            Box((x - half, part.front - thick, low), (x + half, part.front, top)),
            Box((x - half, part.back, low), (x + half, part.back + thick, top)),
        )


class Gripped(msgspec.Struct, frozen=True):
    """The lowest place of the part, and its front and back between the jaws."""

    bottom: float
    front: float
    back: float


def jaw_thickness(unit: Unit) -> float:
    """How thick the jaws are drawn and kept out of: 25 mm."""
    return 25.0 * scale("mm", unit)
