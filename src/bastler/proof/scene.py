"""What a program is proved against: stock, jaws, tools, machine, and the wanted shape."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from bastler.cutting import Material
from bastler.job import Plan
from bastler.machines import MachineCard
from bastler.nc import Control
from bastler.shapes import Box, Removal
from bastler.tools import Tool
from bastler.units import Unit, scale


@dataclass(frozen=True)
class WantedStep:
    """What one step should take away."""

    step: str
    removals: Sequence[Removal]


@dataclass(frozen=True)
class Scene:
    """Everything in the job's unit. `zero` is where the part's zero is in machine coordinates, for the travels."""

    unit: Unit
    stock: Box
    jaws: Sequence[Box]
    tools: dict[int, Tool]
    card: MachineCard
    material: Material
    control: Control
    zero: tuple[float, float, float]
    wanted: Sequence[WantedStep]

    @property
    def mm(self) -> float:
        """One millimetre in the job's unit."""
        return scale("mm", self.unit)


def scene_of(plan: Plan) -> Scene:
    """The scene of a planned job."""
    setup, card = plan.setup, plan.ctx.card
    tools = {tool.station: tool for tool in plan.ctx.tools}
    zero = (setup.offset_x or 0.0, setup.offset_y or 0.0, setup.offset_z or 0.0)
    part = int(setup.work_offset[1:]) - 53
    lengths = {station: tool.length for station, tool in tools.items()}
    control = Control(
        unit=plan.job.unit,
        dialect=card.dialect,
        offsets={part: zero},
        part=part,
        home=card.home,
        tool_lengths=lengths,
        length_offsets=lengths,
        diameters={station: tool.diameter for station, tool in tools.items()},
        peck_clearance=card.peck_clearance,
        chip_break=card.chip_break,
    )
    return Scene(
        unit=plan.job.unit,
        stock=plan.ctx.stock,
        jaws=plan.ctx.jaws,
        tools=tools,
        card=card,
        material=plan.job.material,
        control=control,
        zero=zero,
        wanted=tuple(WantedStep(p.step.id, p.removals) for p in plan.steps if p.removals),
    )
