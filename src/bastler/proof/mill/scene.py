"""What a milling program is proved against: block, jaws, tools, machine, and the wanted shape."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from bastler.job import Plan, PlannedHolding
from bastler.job.part import UNCUT, FlatView
from bastler.job.parts import PartAt
from bastler.job.promises import promises_of
from bastler.nc import Control
from bastler.proof.scene import Scene, WantedStep
from bastler.shapes import Box, Removal
from bastler.tools import Tool

NOTHING = FlatView()


WALL_TOLERANCE_MM = 0.012
"""To what walls are known, with arcs as chords."""


@dataclass(frozen=True, kw_only=True)
class MillScene(Scene):
    """`wanted_on` is the wanted shape of every part, where they differ; `others` are the boxes of the other parts on
    the table."""

    tools: Mapping[int, Tool]
    stock: Box
    jaws: Sequence[Box]
    wanted: Sequence[WantedStep]
    wanted_on: Sequence[Sequence[WantedStep]] = ()
    parts: Sequence[PartAt] = ()
    others: Sequence[Box] = ()
    before: FlatView = NOTHING
    """What the holdings before have taken."""
    later: FlatView = NOTHING
    """What those behind take."""

    @property
    def wall_tolerance(self) -> float:
        """How thick something has to be at a wall to count, in the job's unit: what regions are known to, and what a program
        cannot say of the two walls of a corner with the decimals that it has, beyond a thousandth of a millimetre."""
        said = 10.0 ** -self.card.dialect.places(self.unit)
        return WALL_TOLERANCE_MM * self.mm + 2 * max(said - 0.001 * self.mm, 0.0)

    def at(self, part: int) -> MillScene:
        """The scene as one of the parts sees it: from its own zero, the other parts around it."""
        if len(self.parts) < 2:
            return self
        shift = self.parts[part].shift
        zero = tuple(z + s for z, s in zip(self.zero, shift, strict=True))
        away = [tuple(a - b for a, b in zip(p.shift, shift, strict=True)) for p in self.parts if p is not self.parts[part]]
        boxes = tuple(_moved(box, by) for by in away for box in (self.stock, *self.jaws))
        return replace(self, zero=zero, others=boxes)  # type: ignore[arg-type]

    def wanted_of(self, part: int) -> Sequence[WantedStep]:
        """What every step should take away of a part."""
        return self.wanted_on[part] if self.wanted_on else self.wanted

    def gone_of(self, part: int) -> list[Removal]:
        """All that is to be gone of a part: by its steps, and by the holdings before."""
        return [r for w in self.wanted_of(part) for r in w.removals] + list(self.before.before)

    def part_of(self, offset: int) -> int:
        """The part whose work offset that is; the first for any other."""
        return next((k for k, p in enumerate(self.parts) if p.index == offset), 0)


def mill_scene(plan: Plan, place: int = 0) -> MillScene:
    """The scene of a planned holding on a mill."""
    held = plan.holdings[place]
    holding, card = held.vise, held.ctx.card
    tools = {tool.station: tool for tool in held.flat.tools}
    zero = (holding.offset_x or 0.0, holding.offset_y or 0.0, holding.offset_z or 0.0)
    part = held.parts[0].index
    lengths = {station: (0.0, 0.0, tool.length) for station, tool in tools.items()}
    control = Control(
        unit=held.job.unit,
        dialect=card.dialect,
        offsets={p.index: _sum(zero, p.shift) for p in held.parts},
        part=part,
        home=card.home,
        reaches=lengths,
        tool_offsets=lengths,
        diameters={station: tool.diameter for station, tool in tools.items()},
        peck_clearance=card.peck_clearance,
        chip_break=card.chip_break,
    )
    return MillScene(
        unit=held.job.unit,
        stock=held.flat.stock,
        jaws=held.flat.jaws,
        tools=tools,
        card=card,
        material=held.job.material,
        control=control,
        zero=zero,
        wanted_on=_by_part(held) if any(p.filled.differs() and p.stages for p in held.steps) and len(held.parts) > 1 else (),
        parts=held.parts,
        promised=promises_of(plan, place) if not held.troubles else (),
        wanted=tuple(WantedStep(p.step.id, p.removals) for p in held.steps if p.removals),
        before=FlatView(tuple(held.flat.before), tuple(held.flat.under)),
        later=_later(plan, place),
    )


def _later(plan: Plan, place: int) -> FlatView:
    held, part = plan.holdings[place], UNCUT
    for other in plan.holdings[place + 1 :]:
        part = part.without(other.flat.stock, other.lie, other.removals)
    return part.seen(held.flat.stock, held.lie)


def _sum(a: tuple[float, float, float], b: tuple[float, float, float]) -> tuple[float, float, float]:
    return (a[0] + b[0], a[1] + b[1], a[2] + b[2])


def _moved(box: Box, by: tuple[float, ...]) -> Box:
    shift = (by[0], by[1], by[2])
    return Box(_sum(box.lo, shift), _sum(box.hi, shift))


def _by_part(held: PlannedHolding) -> tuple[tuple[WantedStep, ...], ...]:
    return tuple(
        tuple(
            WantedStep(p.step.id, tuple(p.filled.removes_on(p.ctx, part)) if p.filled.differs() else p.removals)
            for p in held.steps
            if p.removals
        )
        for part in range(len(held.parts))
    )
