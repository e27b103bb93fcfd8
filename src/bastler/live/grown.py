"""The part in a machine as it can be seen from here: the stock of the job, cut by the moves that the machine has reported.

That is what a control knows of it. How the part really came out, with tools that are not as the crib says, shows when it
is measured.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from bastler.job import Plan, PlannedHolding
from bastler.link.messages import Moved
from bastler.nc import Trace
from bastler.proof import MillProof, TurnProof
from bastler.proof.faces import Mesh
from bastler.proof.mill.mesh import mesh
from bastler.proof.mill.scene import NOTHING, MillScene
from bastler.proof.polar.mesh import polar_mesh
from bastler.proof.polar.scrub import rays_at
from bastler.proof.prover import Prover
from bastler.proof.result import AnyProof
from bastler.proof.scenes import scene_of
from bastler.proof.scrub import moment_at
from bastler.proof.turn.mesh import turn_mesh
from bastler.shapes.kinds import Floats, Region

MOST_CELLS, SOLID_CELLS = 160_000, 210_000
"""Of a picture: more than the sheet has pixels for; and of a solid that grows."""


@dataclass(frozen=True, eq=False)
class GrownPart:
    """Turned: its half `section`. Milled: of every part on the table `heights` (ny, nx) over the box from (x0, y0) to (x1, y1),
    seen from its own zero, whose stock is as high as `top` and as low as `bottom`. `removed` cubic units are gone of one."""

    removed: float
    section: Region | None = None
    heights: tuple[Any, ...] = ()
    box: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    top: float = 0.0
    bottom: float = 0.0


class Grower:
    """Makes pictures of one part after another. What was cut before is remembered."""

    def __init__(self) -> None:
        self._prover = Prover()

    def _proof(self, plan: Plan, holding: str, moves: Sequence[Moved]) -> AnyProof | None:
        held = next((h for h in plan.holdings if h.holding.id == holding), None)
        if held is None or held.troubles or any(len(g) > 1 for g in plan.programs if held in g):
            return None
        scene: Any = scene_of(plan, held.place)
        if isinstance(scene, MillScene):
            scene = replace(scene, wanted=(), wanted_on=(), promised=(), later=NOTHING)
        else:
            scene = replace(scene, wanted=(), promised=(), planes={}, rounds=())
        return self._prover.run_on(plan, held.place, trace_of(moves, held), scene)

    def solid(self, plan: Plan, holding: str, moves: Sequence[Moved], part: int = 0) -> Mesh | None:
        """The faces of one of the parts on the table; None as for `grown`."""
        proof = self._proof(plan, holding, moves)
        if isinstance(proof, TurnProof):
            rays = rays_at(proof, moment_at(proof, proof.total), proof.part)
            if rays is None:
                return turn_mesh(proof.part, proof.scene.untouched, proof.scene.mm)
            return polar_mesh(rays, proof.part, proof.scene.raw, proof.scene.mm, untouched=proof.scene.untouched)
        if not isinstance(proof, MillProof):
            return None
        edge = np.zeros((proof.grid.ny, proof.grid.nx), np.float32)
        heights = proof.after(len(proof.stages) - 1, part, edge)
        return mesh(proof.grid, heights, proof.under, edge=edge, cells=SOLID_CELLS)

    def grown(self, plan: Plan, holding: str, moves: Sequence[Moved]) -> GrownPart | None:
        """The part of a holding; None where the job has none of that id, or it is handed over within its program."""
        proof = self._proof(plan, holding, moves)
        if proof is None:
            return None
        if isinstance(proof, TurnProof):
            return GrownPart(proof.removed, section=proof.part)
        assert isinstance(proof, MillProof)
        grid = proof.grid
        count = max(len(proof.scene.parts), 1)
        step = max(1, int(np.ceil((count * grid.nx * grid.ny / MOST_CELLS) ** 0.5)))
        seen = slice(step // 2, None, step)
        heights = tuple(np.ascontiguousarray(proof.finished(part)[seen, seen]) for part in range(count))
        box = (grid.x0, grid.y0, grid.x0 + grid.nx * grid.dx, grid.y0 + grid.ny * grid.dy)
        return GrownPart(proof.removed, None, heights, box, grid.top, grid.bottom)


def trace_of(moves: Sequence[Moved], held: PlannedHolding) -> Trace:
    """Reported moves as they are seen from the first part's zero."""
    if not moves:
        return Trace.straight(np.zeros((1, 3)), tool=0)
    shifts: dict[int, Floats] = {}
    if held.job.plane == "flat":
        shifts = {p.index: np.array(p.shift) for p in held.parts}
    nowhere = np.zeros(3)
    shift = np.array([shifts.get(m.offset, nowhere) for m in moves])
    turn = np.array([m.turn for m in moves])
    centre = np.array([m.centre for m in moves]) + np.where((turn != 0.0)[:, None], shift, 0.0)
    found = Trace.straight(np.zeros((len(moves) + 1, 3)), tool=0)
    whole = {name: np.array([getattr(m, name) for m in moves], np.int32) for name in ("kind", "plane", "tool", "offset")}
    real = {name: np.array([getattr(m, name) for m in moves]) for name in ("feed", "speed", "lead", "stands", "angle")}
    columns: dict[str, Any] = {**whole, **real}
    return replace(
        found,
        line=np.array([m.line - 1 for m in moves], np.int32),
        start=np.array([m.start for m in moves]) + shift,
        end=np.array([m.end for m in moves]) + shift,
        centre=centre,
        turn=turn,
        **columns,
    )
