"""Compiles the kernels in two processes, before the tests would do it in each of theirs: a third less time on a clean machine.

What is compiled is kept beside the sources; with that there, this takes a few seconds.
"""

import multiprocessing

import shapely

from bastler.job import answering, edits, new_job, plan
from bastler.job.samples import sample
from bastler.nc import read
from bastler.post import post
from bastler.proof import Prover, scene_of
from bastler.proof.polar.mesh import polar_mesh


def fields() -> None:
    """Those that cut a field and compare it."""
    Prover(0.5).prove(plan(edits.step_added(new_job(), "facing", "")[0]))


def driven() -> None:
    """Those of driven tools on a turned part, along its axis and across it."""
    proof = Prover().prove(plan(edits.step_added(new_job("mm", "turn-mill-250"), "drilling", "")[0]))
    assert proof is not None
    made = proof.holdings[0].stages[-1].proof.behind.dexels()  # type: ignore[attr-defined]
    section = proof.holdings[0].scene.raw  # type: ignore[attr-defined]
    polar_mesh(made, section, section, 1.0)
    made.turned(shapely.box(-1.0, 4.0, 0.0, 6.0))
    made.open(shapely.box(-1.0, -1.0, 1.0, 1.0), -1.0)
    job, step = edits.step_added(new_job("mm", "turn-mill-250"), "slot", "")
    for name, value in (("where_on", "side"), ("x", -30.0)):
        job = answering.answered(job, f"step:{step}.{name}", value)
    assert Prover().prove(plan(job)) is not None
    assert made.volume > 0


def outlines() -> None:
    """Those of outlines, regions and reading, and what is left of the others."""
    for name in ("pawl-plate", "bearing-cap"):
        planned = plan(sample(name))
        read(post(planned.first).text, scene_of(planned).control)


if __name__ == "__main__":
    both = [multiprocessing.Process(target=work) for work in (fields, lambda: (outlines(), driven()))]
    for process in both:
        process.start()
    for process in both:
        process.join()
    raise SystemExit(max(process.exitcode or 0 for process in both))
