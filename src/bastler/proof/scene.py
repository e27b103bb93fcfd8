"""What every program is proved against, whatever the machine."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from bastler.cutting import Material
from bastler.job.promises import Promise
from bastler.machines import MachineCard
from bastler.nc import Control
from bastler.shapes import Removal
from bastler.tools import AnyTool
from bastler.units import Unit, scale


@dataclass(frozen=True)
class WantedStep:
    """What one step should take away of a flat plane."""

    step: str
    removals: Sequence[Removal]


@dataclass(frozen=True, kw_only=True)
class Scene:
    """Everything in the job's unit. `zero` is where the part's zero is in machine coordinates (x, y, z), for the travels;
    `promised` is what the stock says has to come off."""

    unit: Unit
    tools: Mapping[int, AnyTool]
    card: MachineCard
    material: Material
    control: Control
    zero: tuple[float, float, float]
    promised: Sequence[Promise] = ()

    @property
    def mm(self) -> float:
        """One millimetre in the job's unit."""
        return scale("mm", self.unit)
