"""The job as a value: frozen structs. One stock, and the holdings in which it is worked on, on one machine card.

Numbers are in the job's unit, seen from the part zero of a holding unless said.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated

import msgspec

from bastler.ask import ask, pick
from bastler.bounds import HOLDINGS
from bastler.cutting import MATERIALS, Material
from bastler.job.by_hand import Elsewhere, HandEdit, HandEdits
from bastler.job.chuck import ChuckHolding
from bastler.job.family import Family
from bastler.job.prints import Print
from bastler.job.stock import AnyStock, BarStock, BlockStock
from bastler.job.vise import ViseHolding
from bastler.machines import CARDS, MachineCard
from bastler.shapes import AnyOutline, Pattern
from bastler.steps import AnyStep
from bastler.steps.base import PlaneKind
from bastler.tools import AnyTool, shop_crib
from bastler.units import Kind, Unit

FORMAT_VERSION = 4
MACHINE = "Machine"
AnyHolding = ViseHolding | ChuckHolding


class Job(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The document. `materials` and `cards` are the shop's own ones, and those that ship with Bastler where they were changed.
    There is one holding at least."""

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
    stock: AnyStock = BlockStock()
    by_hand: HandEdits = ()
    elsewhere: Elsewhere | None = None
    print: Print | None = None
    family: Family | None = None
    holdings: Annotated[tuple[AnyHolding, ...], msgspec.Meta(min_length=1, max_length=HOLDINGS.most)] = (ViseHolding(),)

    @property
    def steps(self) -> tuple[AnyStep, ...]:
        """The steps of all holdings, in order."""
        if len(self.holdings) == 1:
            return self.holdings[0].steps
        return tuple(s for h in self.holdings for s in h.steps)

    @property
    def plane(self) -> PlaneKind:
        """The kind of the main plane: what most steps are on."""
        return "turned" if self.turns else "flat"

    @property
    def turns(self) -> bool:
        """Is this a turned part?"""
        return isinstance(self.stock, BarStock)

    @property
    def programs(self) -> tuple[tuple[int, ...], ...]:
        """The places of the holdings in order, those together whose steps are in one program: a part that is handed over goes on
        in the same one."""
        found: list[tuple[int, ...]] = []
        for place, holding in enumerate(self.holdings):
            if found and isinstance(holding, ChuckHolding) and holding.handed:
                found[-1] = (*found[-1], place)
            else:
                found.append((place,))
        return tuple(found)

    def hand_edits(self, program: str) -> tuple[HandEdit, ...]:
        """Those of a program, by its first holding."""
        return tuple(edit for edit in self.by_hand if edit.program == program)

    def outline(self, ident: str) -> AnyOutline | None:
        """The outline of that id."""
        return next((o for o in self.outlines if o.id == ident), None)

    def step(self, ident: str) -> AnyStep | None:
        """The step of that id."""
        return next((s for s in self.steps if s.id == ident), None)

    def holding(self, ident: str) -> AnyHolding | None:
        """The holding of that id."""
        return next((h for h in self.holdings if h.id == ident), None)

    def holding_of(self, ident: str) -> AnyHolding:
        """The holding that a step is in, or that has that id; the first for anything else."""
        found = (h for h in self.holdings if h.id == ident or any(s.id == ident for s in h.steps))
        return next(found, self.holdings[0])

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
        own = next((m for m in self.materials if m.id == self.stock.material), None)
        return own or MATERIALS[self.stock.material]

    def tool(self, ident: str) -> AnyTool | None:
        """The tool of that id."""
        return next((t for t in self.tools if t.id == ident), None)


def new_job(unit: Unit = "mm", machine: str = "mill-600", own: Mapping[str, MachineCard] | None = None) -> Job:
    """A job that can be proved at once: a block in the vise or a bar in the chuck, no steps yet. `own` are cards of the shop."""
    card = (CARDS | dict(own or {}))[machine].in_unit(unit)
    if card.turns:
        stock, holding = _new_turned(unit, card)
        return Job(unit=unit, machine=machine, tools=shop_crib(unit, turning=True), stock=stock, holdings=(holding,))
    block = BlockStock() if unit == "mm" else BlockStock(size_x=6.0, size_y=4.0, size_z=1.25, over_top=0.05)
    room = (card.x.hi - card.x.lo, card.y.hi - card.y.lo)
    if block.size_x > room[0] or block.size_y > room[1]:
        block = msgspec.structs.replace(block, size_x=room[0] / 2, size_y=room[1] / 2)
    return Job(unit=unit, machine=machine, tools=shop_crib(unit), stock=block)


def _new_turned(unit: Unit, card: MachineCard) -> tuple[BarStock, ChuckHolding]:
    """A bar that the machine can hold."""
    room = card.x.hi - max(card.x.lo, 0.0)
    if unit == "inch":
        bar = BarStock(diameter=2.25, bore=0.75, across_flats=1.5, length=4.5, over_front=0.04, finished=3.0)
        held = ChuckHolding(stick_out=3.75, centre_d=0.75, change_d=6.0, change_z=4.0)
    else:
        bar, held = BarStock(), ChuckHolding()
    if (bush := card.bush) is not None:  # a part that can be turned at once, without drawing the bar back too far
        digits, outer, long = (0, 16.0, 600.0) if unit == "mm" else (2, 0.625, 24.0)
        finished = round(0.8 * bush.back, digits)
        bar = msgspec.structs.replace(
            bar, diameter=outer, across_flats=0.8 * outer, bore=outer / 2, length=long, finished=finished
        )
        held = msgspec.structs.replace(held, stick_out=min(round(2 * finished, digits), bush.stroke))
    return bar, msgspec.structs.replace(held, rating=min(held.rating, card.speed[1])) if room > 0 else held
