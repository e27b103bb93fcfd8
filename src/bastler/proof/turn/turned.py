"""What there is to see of a proof of a turned part."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from bastler.proof.polar.dexels import Packed
from bastler.proof.result import Proof
from bastler.proof.turn.compare import TurnComparison
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section import TurnSection
from bastler.proof.unkept import Unkept
from bastler.shapes.kinds import Region
from bastler.steps.base import PlaneKind


@dataclass(frozen=True, kw_only=True, eq=False)
class TurnProof(Proof[TurnSection]):
    """The proof of a turned part: its half sections and how the last compares with the wanted one."""

    scene: TurnScene
    comparison: TurnComparison
    part: Region
    """What is there at the end: what is still held, and what was parted off."""

    came: Packed | None = None
    """Its rays as it came into the holding, where driven tools had cut it before."""

    @property
    def plane(self) -> PlaneKind:
        return "turned"

    @property
    def unkept(self) -> Sequence[Unkept]:
        return self.comparison.unkept

    @property
    def driven(self) -> bool:
        """Do driven tools cut it too?"""
        return bool(self.trace.stands.any()) or self.came is not None

    def after(self, stage: int) -> Region:
        """The stock after a stage, -1 for the raw stock; what fell off stays in the picture."""
        held = self.stages[stage].proof.after if stage >= 0 else self.scene.raw
        fallen = [g for s in self.stages[: stage + 1] for g in s.proof.fallen]
        return shapely.MultiPolygon([held, *fallen]) if fallen and not held.is_empty else held
