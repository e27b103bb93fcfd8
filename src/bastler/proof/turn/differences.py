"""How a turned part differs from the wanted one, in words: left standing, gouged, and which move did it."""

from __future__ import annotations

from typing import Any

from bastler.job import PlannedHolding
from bastler.language import decimal, tr
from bastler.proof.remark import Cure, Remark
from bastler.proof.turn.reach import what_reaches
from bastler.proof.turn.section import TurnSection
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Region
from bastler.units import Kind, with_unit

MOST_FAULTS = 8


def differences(proof: TurnProof, held: PlannedHolding | None) -> list[Remark]:
    """Left and gouged, in words."""
    found = []
    for fault in sorted(proof.comparison.faults, key=lambda f: -f.by)[:MOST_FAULTS]:
        by = with_unit(fault.by, Kind.LENGTH, proof.scene.unit)
        where = decimal(f"Ø{2 * fault.place[0]:.2f} Z {fault.place[2]:.2f}")
        if fault.kind == "left":
            found.append(_left(proof, held, fault, by, where))
        else:
            found.append(
                proof.gouged(
                    culprit(proof, fault.region),
                    tr("Gouged at {where}: {by} too deep.", where=where, by=by),
                    fault.by,
                    fault.place,
                )
            )
    return found


def _left(proof: TurnProof, held: PlannedHolding | None, fault: Any, by: str, where: str) -> Remark:
    """What still stands; where a tip could not reach it, with the tool that would."""
    reach = what_reaches(held, fault) if held else None
    if reach is None:
        return Remark(
            level="stop",
            code="left",
            text=tr("Left standing at {where}: {by}.", where=where, by=by),
            step=fault.step,
            amount=fault.by,
            place=fault.place,
        )
    text = tr("The tip leaves {by} at {where}: {why}", by=by, where=where, why=reach.why)
    cure = None
    if reach.tool is not None:
        text += tr(" {says} would reach.", says=reach.tool.says)
        cure = Cure(tr("Use {says}", says=reach.tool.says), f"step:{fault.step}.tool", reach.tool.id)
    return Remark(level="stop", code="tip-reach", text=text, step=fault.step, amount=fault.by, place=fault.place, cure=cure)


def culprit(proof: TurnProof, region: Region) -> int:
    """The move that took the most of a region first; -1 when none did."""
    before = proof.scene.raw.intersection(region).area
    for stage in proof.stages:
        section: TurnSection = stage.proof
        if section.after.intersection(region).area > before - 1e-9:
            continue
        area, worst, at = before, 0.0, 0
        for k, stock in enumerate(section.stocks):
            now = stock.intersection(region).area if k == 0 or stock is not section.stocks[k - 1] else area
            if area - now > worst + 1e-12:
                worst, at = area - now, k
            area = now
        if worst > 0.2 * before:
            return stage.begin + at
        before = area
    return -1
