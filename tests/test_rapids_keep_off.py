"""Rapids that go down past what stands keep the setup's clearance; where there is less room the tool goes down in feed."""

from __future__ import annotations

import numpy as np
import pytest

from bastler.job import Job, answering, plan
from bastler.job.samples import sample
from bastler.proof import MillProof, prove_job
from bastler.proof.mill.scrub import Scrubber
from bastler.proof.scrub import moment_at
from bastler.steps import Facing
from conftest import MILLED, job_of, with_step

MILLS = ("end-mill", "bull-mill", "ball-mill", "face-mill")
"""Drills and what goes down into holes keep to the walls of their holes."""
STEPS = ["rectangular-pocket", "round-pocket", "rectangular-boss", "round-boss", "polygon-pocket", "polygon-boss", "free-pocket",
         "free-boss", "slot", "ring-groove", "counterbore"]  # fmt: skip


def nearest(proof: MillProof) -> float:
    """The least distance, in the plan, between a mill that goes down in rapid and something that stands higher than it ends."""
    trace, grid, scrubber, least = proof.trace, proof.grid, Scrubber(), np.inf
    clear = proof.held.ctx.clear
    x = grid.x0 + (np.arange(grid.nx) + 0.5) * grid.dx
    y = grid.y0 + (np.arange(grid.ny) + 0.5) * grid.dy
    down = (trace.kind == 0) & (trace.end[:, 2] < trace.start[:, 2] - 1e-6) & (trace.end[:, 2] < grid.top - 1e-6)
    for move in np.flatnonzero(down):
        tool = proof.scene.tools.get(int(trace.tool[move]))
        if tool is None or tool.kind not in MILLS:
            continue
        px, py, pz = trace.end[move]
        reach = tool.diameter / 2 + 2 * clear
        i, j = np.flatnonzero(np.abs(x - px) < reach), np.flatnonzero(np.abs(y - py) < reach)
        if not len(i) or not len(j):
            continue
        stock = scrubber.stock(proof, moment_at(proof, float(proof.starts[move])))
        part = stock[j[0] : j[-1] + 1, i[0] : i[-1] + 1]
        off = np.hypot(x[None, i] - px, y[j, None] - py)[part > pz + 1e-4]
        if len(off):
            least = min(least, float(off.min()) - tool.diameter / 2)
    return least


def keeps_off(job: Job) -> None:
    planned = plan(job)
    assert not [t.text for done in planned.steps for t in done.troubles]
    proof = prove_job(planned)
    assert nearest(proof) >= planned.first.ctx.clear - proof.grid.cell


@pytest.mark.parametrize("name", MILLED)
def test_samples(name: str) -> None:
    keeps_off(sample(name))


@pytest.mark.parametrize("kind", STEPS)
@pytest.mark.parametrize("finish", ["yes", "no"])
def test_steps(kind: str, finish: str) -> None:
    job, last = with_step(job_of(Facing(id="f"), size_x=100.0, size_y=80.0), kind, "f")
    if hasattr(job.step(last), "finish"):
        job = answering.answered(job, f"step:{last}.finish", finish)
    if hasattr(job.step(last), "depth"):
        job = answering.answered(job, f"step:{last}.depth", 7.0)
    if any(done.troubles for done in plan(job).steps):
        pytest.skip("does not arrive that deep")
    keeps_off(job)
