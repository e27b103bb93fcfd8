"""The half section at any moment of a proved turning program."""

from __future__ import annotations

from bastler.proof.scrub import Moment
from bastler.proof.turn.sweep import edges_of, swept, way
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Region
from bastler.shapes.united import united


def stock_at(proof: TurnProof, moment: Moment) -> Region:
    """The stock when `moment.share` of a move is done; pieces that were parted off stay in the picture."""
    if moment.stage < 0:
        return proof.scene.raw if not proof.stages or moment.move < proof.stages[0].begin else proof.part
    stage = proof.stages[moment.stage]
    section, row = stage.proof, moment.move - stage.begin
    whole = section.stocks[row]
    if moment.share < 1.0:
        before = section.stocks[row - 1] if row > 0 else _held(proof, moment.stage - 1)
        whole = before
        if section.tool is not None and before is not section.stocks[row] and proof.trace.lead[moment.move] == 0:
            points = way(proof.trace, moment.move, proof.scene.mm)
            count = max(2, round(moment.share * (len(points) - 1)) + 1)
            part = points[:count].copy()
            part[-1] = (moment.tip[2], moment.tip[0])
            whole = before.difference(swept(edges_of(section.tool), part))
    fallen = [g for s in proof.stages[: moment.stage] for g in s.proof.fallen]
    fallen += [g for g in section.fallen if not whole.intersects(g.buffer(-1e-6))]
    return united([whole, *fallen]) if fallen else whole


def _held(proof: TurnProof, stage: int) -> Region:
    return proof.stages[stage].proof.after if stage >= 0 else proof.scene.raw
