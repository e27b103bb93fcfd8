"""The rays of a turned part that driven tools cut at any moment of its program."""

from __future__ import annotations

from bastler.nc import RAPID
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.run import PolarRun, rays_within
from bastler.proof.scrub import Moment
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Region


def rays_at(proof: TurnProof, moment: Moment, section: Region) -> Dexels | None:
    """The rays at a moment, `section` being the half section then; None as long as no driven tool has cut."""
    if proof.came is not None and not any(isinstance(s.proof, PolarRun) for s in proof.stages[: max(moment.stage, -1) + 1]):
        rays = proof.came.dexels()
        gone = proof.scene.raw.difference(section)
        if not gone.is_empty and not section.is_empty:
            rays.turned(gone)
        return rays
    last = moment.stage if moment.stage >= 0 else (len(proof.stages) - 1 if proof.stages and moment.move > 0 else -1)
    for k in range(last, -1, -1):
        run = proof.stages[k].proof
        if not isinstance(run, PolarRun):
            continue
        stage = proof.stages[k]
        if k == moment.stage:
            rapid = proof.trace.kind[stage.begin : stage.end] == RAPID
            return rays_within(run, rapid, moment.move - stage.begin, moment.share)
        rays = run.behind.dexels()
        gone = run.section.difference(section)
        if not gone.is_empty and not section.is_empty:
            rays.turned(gone)
        return rays
    return None
