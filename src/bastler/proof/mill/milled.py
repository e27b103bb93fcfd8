"""What there is to see of a proof of milled parts."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from bastler.proof.mill.compare import Comparison
from bastler.proof.mill.field import FLAT_UNDER, Begins, Grid, Heights
from bastler.proof.mill.laid import laid_out
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.section import SectionProof
from bastler.proof.result import Proof, digest
from bastler.proof.unkept import Unkept
from bastler.steps.base import PlaneKind


@dataclass(frozen=True, kw_only=True, eq=False)
class MillProof(Proof[SectionProof]):
    """The proof of milled parts: their field and how each compares with the wanted shape."""

    scene: MillScene
    grid: Grid
    comparisons: tuple[Comparison, ...]
    begins: Begins | None = None
    """The part as it came into this holding, None for the raw block."""

    @property
    def plane(self) -> PlaneKind:
        return "flat"

    def uncut(self) -> Heights:
        """The part before the first stage; the caller's own."""
        return self.begins.top.copy() if self.begins else self.grid.fresh()

    @property
    def under(self) -> Heights:
        """The underside, empty where it is the block's."""
        return self.begins.under if self.begins else FLAT_UNDER

    @property
    def unkept(self) -> list[Unkept]:
        """Of parts that are alike once."""
        return [one for k, c in enumerate(self.comparisons) if c not in self.comparisons[:k] for one in c.unkept]

    @property
    def comparison(self) -> Comparison:
        """How the first part compares."""
        return self.comparisons[0]

    @cached_property
    def heights(self) -> Heights:
        """The first part, finished."""
        return self.after(len(self.stages) - 1)

    def finished(self, part: int) -> Heights:
        """A part, finished."""
        return self.heights if part == 0 else self.after(len(self.stages) - 1, part)

    def before(self, stage: int, edge: Heights | None = None) -> Heights:
        """The stock of the part that a stage works on, before it."""
        return self.after(stage - 1, self.stages[stage].part if self.stages else 0, edge)

    def after(self, stage: int, part: int = 0, edge: Heights | None = None) -> Heights:
        """The stock of a part after a stage, -1 for the part as it came; the caller's own. `edge` is given its edges."""
        field = self.uncut()
        if edge is not None:
            edge.fill(0.0)
        patches = [s.proof.patch for s in self.stages[: stage + 1] if s.proof.patch is not None and s.part == part]
        laid_out(patches, field, edge)
        return field

    def done_by(self, stage: int, part: int) -> bytes:
        """A key for what a part is like after a stage: parts with equal keys are alike."""
        return digest(*(s.key for s in self.stages[: stage + 1] if s.part == part and s.proof.patch is not None))
