"""How a program spends its feed time: in material, or in air.

A move of a proof may begin in air and end in material. Here every feed move is parted into pieces of `PIECE_MM`, the part is cut
anew by them, and a piece that takes nothing is air. What facing runs past the edge is counted apart: it has to be there.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np

from bastler.nc import RAPID, Trace
from bastler.proof.prover import Prover
from bastler.proof.result import AnyProof, AnyStage
from bastler.proof.view import UNSEEN
from bastler.proof.whole import JobProof
from bastler.shapes.kinds import Floats, Indices
from bastler.steps.mill.facing import Facing
from bastler.tools import Tool

PIECE_MM = 0.5
NOTHING_MM2 = 1e-5
"""A piece whose chip has a smaller section takes nothing: that is rounding."""


@dataclass(frozen=True)
class Spent:
    """Seconds that a stage of a step feeds, those of them in which something is cut, and those that facing runs past the edge,
    which are none of the first."""

    step: str
    stage: str
    tool: int
    feeding: float
    cutting: float
    past: float = 0.0


def spent(proof: JobProof) -> list[Spent]:
    """What every stage of a proved job spends, in the order of its programs. Stages whose cut cannot be seen are left out."""
    found: list[Spent] = []
    for held, own in zip(proof.plan.holdings, proof.holdings, strict=True):
        if len(own.trace):
            facing = {s.step.id for s in held.steps if isinstance(s.step, Facing)}
            found += _of_holding(proof, own, held.place, facing)
    return found


def in_material(found: Sequence[Spent]) -> float:
    """The share of the feed time in which something is cut; 1 where nothing feeds."""
    feeding = sum(one.feeding for one in found)
    return sum(one.cutting for one in found) / feeding if feeding > 0 else 1.0


def tool_changes(proof: JobProof) -> int:
    """How often another tool comes, in all programs."""
    calls = [[int(e.value) for e in one.trace.events if e.what == "tool"] for one in proof.holdings]
    return sum(sum(a != b for a, b in itertools.pairwise([-1, *own])) for own in calls)


def _of_holding(proof: JobProof, own: AnyProof, place: int, facing: set[str]) -> Iterator[Spent]:
    pieces, owner = _parted(own.trace, PIECE_MM * own.scene.mm)
    scene: Any = own.scene
    cut = Prover().run_on(proof.plan, place, pieces, scene)
    took = np.zeros(len(pieces))
    for stage in cut.stages:
        made: Any = stage.proof
        rows = made.owner if len(made.owner) == len(made.cut) else np.arange(len(made.cut))
        took[stage.begin : stage.end] += np.bincount(rows, made.cut[:, 0], stage.end - stage.begin)
    parts = np.bincount(owner, minlength=len(own.trace))
    seconds = (own.lasts / np.maximum(parts, 1))[owner]
    takes = took > NOTHING_MM2 * own.scene.mm**2 * np.maximum(pieces.lengths(), 1e-9)
    feeds = (pieces.kind != RAPID) & ~pieces.shoves
    for stage in own.stages:
        if _seen(stage):
            mine = feeds & (owner >= stage.begin) & (owner < stage.end)
            cutting, feeding = float(seconds[mine & takes].sum()), float(seconds[mine].sum())
            past = feeding - cutting if stage.step in facing else 0.0
            yield Spent(stage.step, stage.stage, stage.tool, feeding - past, cutting, past)


def _seen(stage: AnyStage) -> bool:
    tool = stage.proof.tool
    return tool is not None and not (isinstance(tool, Tool) and tool.kind in UNSEEN)


def _parted(trace: Trace, piece: float) -> tuple[Trace, Indices]:
    """Every feed move in equal pieces no longer than that, and the move that each is of (m,). Threads stay whole, which are cut
    in one go, and what C has a part in: these moves are short."""
    counts = np.ones(len(trace), np.int64)
    still = (trace.angle[:, 0] == trace.angle[:, 1]) & (trace.tilt == 0.0) & ~trace.polar
    free = (trace.kind != RAPID) & (trace.lead == 0.0) & ~trace.shoves & still
    counts[free] = np.maximum(np.ceil(trace.lengths()[free] / piece), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(trace)), counts)
    share = (np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[owner]
    columns: dict[str, Any] = {
        f.name: getattr(trace, f.name)[owner] for f in fields(trace) if isinstance(getattr(trace, f.name), np.ndarray)
    }
    step = 1.0 / counts[owner]
    columns["start"], columns["end"] = _at(trace, owner, share), _at(trace, owner, share + step)
    columns["turn"] = trace.turn[owner] * step
    for name in ("angle", "w"):
        both = getattr(trace, name)[owner]
        swing = both[:, 1] - both[:, 0]
        columns[name] = np.stack([both[:, 0] + swing * share, both[:, 0] + swing * (share + step)], axis=1)
    return replace(trace, events=(), **columns), owner


def _at(trace: Trace, owner: Indices, share: Floats) -> Floats:
    """Where the tip is at a share of each of some moves (m, 3)."""
    start, end, centre = trace.start[owner], trace.end[owner], trace.centre[owner]
    found: Floats = start + (end - start) * share[:, None]
    arcs = np.flatnonzero(trace.turn[owner] != 0.0)
    for plane, u, v in ((17, 0, 1), (18, 2, 0), (19, 1, 2)):
        rows = arcs[trace.plane[owner[arcs]] == plane]
        du, dv = start[rows, u] - centre[rows, u], start[rows, v] - centre[rows, v]
        angle = trace.turn[owner[rows]] * share[rows]
        found[rows, u] = centre[rows, u] + du * np.cos(angle) - dv * np.sin(angle)
        found[rows, v] = centre[rows, v] + du * np.sin(angle) + dv * np.cos(angle)
    return found
