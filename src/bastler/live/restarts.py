"""Where a program can be taken up again: at each of its stages, and in those that make holes at each hole."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from bastler.nc import RAPID
from bastler.proof.result import AnyProof, AnyStage
from bastler.tools import Tool
from bastler.units import scale

HOLE_TOOLS = ("drill", "spot-drill", "tap", "reamer", "boring-head", "chamfer-mill")
ALONE_MM = 0.01
"""Places in the plan that are no further apart are one hole."""


@dataclass(frozen=True)
class Restart:
    """A place to take a program up: its `line` from 1, for the so many th `time` that the program comes there; the step and
    stage, the tool's station; which `hole` of so many, 0 for the begin of the stage; and the line `to` which the stage goes."""

    line: int
    time: int
    step: str
    stage: str
    station: int
    hole: int = 0
    holes: int = 0
    to: int = 0


def restarts(proof: AnyProof) -> list[Restart]:
    """All places, in the order of the program."""
    found: list[Restart] = []
    seen: set[tuple[str, str, int]] = set()
    for stage in proof.stages:
        own = (stage.step, stage.stage, stage.part)
        if stage.proof.tool is None or not stage.step or own in seen:
            continue
        seen.add(own)
        to = proof.program.section_of(int(proof.trace.line[stage.begin])).last + 1
        holes = rows_of(proof, stage)
        found.append(_at(proof, stage, stage.begin, 0, len(holes), to))
        found += [_at(proof, stage, row, k, len(holes), to) for k, row in enumerate(holes[1:], 2)]
    return found


def rows_of(proof: AnyProof, stage: AnyStage) -> list[int]:
    """The rows with which a stage goes to each of its holes."""
    return list(_holes(proof, stage))


def _at(proof: AnyProof, stage: AnyStage, row: int, hole: int, holes: int, to: int) -> Restart:
    lines = proof.trace.line[: row + 1]
    line = int(lines[row])
    comes = np.flatnonzero((lines == line) & np.concatenate([[True], lines[1:] != lines[:-1]]))
    return Restart(line + 1, max(len(comes), 1), stage.step, stage.stage, stage.tool, hole, holes, to)


def _holes(proof: AnyProof, stage: AnyStage) -> Iterator[int]:
    """The rows with which a tool goes to each of its holes; none where it does not make holes, or only one."""
    tool, trace = stage.proof.tool, proof.trace
    if not isinstance(tool, Tool) or tool.kind not in HOLE_TOOLS:
        return
    hair = ALONE_MM * scale("mm", proof.scene.unit)
    seen: list[tuple[float, float]] = []
    arrives = stage.begin
    for row in range(stage.begin, stage.end):
        a, b = trace.start[row], trace.end[row]
        if np.hypot(b[0] - a[0], b[1] - a[1]) > hair or (trace.stands[row] and trace.angle[row, 0] != trace.angle[row, 1]):
            if trace.kind[row] != RAPID:
                return  # it goes along: an outline, a chamfer round something
            arrives = row
        elif trace.kind[row] != RAPID:
            where = (float(b[0]), float(b[1]))
            if not any(np.hypot(where[0] - x, where[1] - y) <= hair for x, y in seen):
                seen.append(where)
                yield arrives
