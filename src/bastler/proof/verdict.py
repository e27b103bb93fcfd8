"""From findings to remarks: lines, steps, and ways out."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from bastler.ask import Trouble
from bastler.job import Plan
from bastler.proof.compare import Comparison
from bastler.proof.cures import cure_for
from bastler.proof.remark import Cure, Remark, sorted_remarks
from bastler.proof.walls import WallFault
from bastler.shapes import Removal
from bastler.units import Kind, with_unit

if TYPE_CHECKING:
    from bastler.proof.prover import Proof

MOST_WALLS = 8
NEAR_MM = 0.05


def all_remarks(proof: Proof, plan: Plan | None) -> tuple[Remark, ...]:
    """Everything there is to say; `plan` when the program is the plan's own, for steps that could not be planned."""
    remarks = _unplanned(plan) if plan else []
    remarks += _read(proof) + _found(proof) + _compared(proof)
    if plan:
        remarks = [_with_cure(remark, plan) for remark in remarks]
    if not proof.stages and not remarks:
        remarks.append(Remark(level="note", code="nothing", text="Nothing is cut yet. Add a step."))
    return sorted_remarks(remarks)


def _with_cure(remark: Remark, plan: Plan) -> Remark:
    if remark.cure is not None:
        return remark
    cure = cure_for(remark, plan)
    if cure is None:
        return remark
    fields = {name: getattr(remark, name) for name in remark.__struct_fields__}
    return Remark(**(fields | {"cure": cure}))


def _unplanned(plan: Plan) -> list[Remark]:
    """Troubles with answers: the step is not in the program."""
    remarks = [
        Remark(level="stop", code="answer", text=trouble.text, field=f"setup.{trouble.field}", cure=_fits(trouble, "setup"))
        for trouble in plan.troubles
    ]
    for planned in plan.steps:
        for trouble in planned.troubles:
            owner = f"step:{planned.step.id}"
            if trouble.field.startswith("pattern."):
                owner = f"pattern:{getattr(planned.step, 'pattern', '')}"
            trouble = Trouble(trouble.field.removeprefix("pattern."), trouble.text, trouble.fits)
            remarks.append(
                Remark(
                    level="stop",
                    code="answer",
                    text=f"{planned.step.title} is not cut: {_in_a_sentence(trouble.text)}",
                    step=planned.step.id,
                    field=f"{owner}.{trouble.field}",
                    cure=_fits(trouble, owner, plan),
                )
            )
    return remarks


def _in_a_sentence(text: str) -> str:
    """A sentence after a colon: small at its start unless that is a sign such as R8."""
    return text[0].lower() + text[1:] if text[1:2].isalpha() or text[1:2] == " " else text


def _fits(trouble: Trouble, owner: str, plan: Plan | None = None) -> Cure | None:
    if trouble.fits is None:
        return None
    says = f"Use {trouble.fits:g}" if isinstance(trouble.fits, int | float) else f"Use {trouble.fits}"
    tool = plan.ctx.tool(trouble.fits) if plan and isinstance(trouble.fits, str) else None
    if tool:
        says = f"Use {tool.says}"
    return Cure(says, f"{owner}.{trouble.field}", trouble.fits)


def _read(proof: Proof) -> list[Remark]:
    remarks = []
    for finding in proof.trace.findings:
        section = proof.program.section_of(finding.line - 1)
        text = f"{finding.text} (column {finding.column})" if finding.code == "unreadable" else finding.text
        remarks.append(
            Remark(level=finding.level, code=finding.code, text=text, line=finding.line, step=section.step, stage=section.stage)
        )
    return remarks


def _found(proof: Proof) -> list[Remark]:
    remarks = []
    for stage in proof.stages:
        for found in stage.found:
            move = stage.begin + found.move
            remarks.append(
                Remark(
                    level=found.level,
                    code=found.code,
                    text=found.text,
                    line=int(proof.trace.line[move]) + 1,
                    step=stage.step,
                    stage=stage.stage,
                    amount=found.amount,
                    move=move,
                    place=found.place,
                )
            )
    return remarks


def _compared(proof: Proof) -> list[Remark]:
    comparison: Comparison = proof.comparison
    remarks = []
    for kind, floors in (("left", comparison.left), ("gouge", comparison.gouge)):
        if floors.depth > 0:
            x, y = proof.grid.centre(*floors.cell)
            z = float(proof.heights[floors.cell])
            remarks.append(_difference(proof, kind, floors.depth, (x, y, z), f"{_says(proof, floors.depth)} high"))
    seen = 0
    for wall in sorted(comparison.walls, key=lambda w: -w.by):
        if seen < MOST_WALLS:
            remarks.append(_wall(proof, wall))
            seen += 1
    return remarks


def _says(proof: Proof, length: float) -> str:
    return with_unit(length, Kind.LENGTH, proof.scene.unit)


def _wall(proof: Proof, wall: WallFault) -> Remark:
    return _difference(proof, wall.kind, wall.by, (*wall.place, wall.level), f"{_says(proof, wall.by)} at a wall")


def _difference(proof: Proof, kind: str, by: float, place: tuple[float, float, float], how: str) -> Remark:
    where = f"X {place[0]:.2f} Y {place[1]:.2f}"
    if kind == "left":
        step = _owner(proof, place)
        return Remark(level="caution", code="left", text=f"Left standing at {where}: {how}.", step=step, amount=by, place=place)
    move = _culprit(proof, place)
    stage = next((s for s in proof.stages if s.begin <= move < s.end), None)
    deep = how.replace("high", "too deep")
    return Remark(
        level="stop",
        code="gouge",
        text=f"Gouged at {where}: {deep}.",
        line=int(proof.trace.line[move]) + 1 if move >= 0 else 0,
        step=stage.step if stage else "",
        stage=stage.stage if stage else "",
        amount=by,
        move=move,
        place=place,
    )


def _owner(proof: Proof, place: tuple[float, float, float]) -> str:
    """The step that should have taken this away: the one whose removal is deepest near it."""
    best, owner = float("inf"), ""
    for wanted in proof.scene.wanted:
        for removal in wanted.removals:
            z = _near(removal, place, proof)
            if z < best:
                best, owner = z, wanted.step
    return owner


def _near(removal: Removal, place: tuple[float, float, float], proof: Proof) -> float:
    reach = max(NEAR_MM * proof.scene.mm, proof.grid.cell)
    around = [(0.0, 0.0), (reach, 0.0), (-reach, 0.0), (0.0, reach), (0.0, -reach)]
    return min(removal.at(place[0] + dx, place[1] + dy) for dx, dy in around)


def _culprit(proof: Proof, place: tuple[float, float, float]) -> int:
    """The first move that went over a gouged place at its depth; -1 when none is found."""
    trace, grid = proof.trace, proof.grid
    column = min(max(int((place[0] - grid.x0) / grid.dx), 0), grid.nx - 1)
    row = min(max(int((place[1] - grid.y0) / grid.dy), 0), grid.ny - 1)
    final = float(proof.heights[row, column])
    for stage in proof.stages:
        tool = stage.proof.tool
        height = stage.proof.patch.at(row, column) if stage.proof.patch else None
        if tool is None or height is None or height > final + 1e-5:
            continue
        segments = stage.proof.segments
        a, d = segments[:, :2], segments[:, 3:5] - segments[:, :2]
        l2 = np.maximum((d**2).sum(axis=1), 1e-18)
        t = np.clip(((np.asarray(place[:2]) - a) * d).sum(axis=1) / l2, 0.0, 1.0)
        distance = np.linalg.norm(a + d * t[:, None] - np.asarray(place[:2]), axis=1)
        low = np.minimum(segments[:, 2], segments[:, 5])
        deep = low <= max(place[2], final) + grid.cell
        hits = np.flatnonzero((distance <= tool.diameter / 2 + grid.cell) & deep)
        if len(hits):
            return int(stage.begin + stage.proof.owner[hits[0]])
    return int(np.argmax(trace.kind != 0)) if len(trace) else -1
