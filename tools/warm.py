"""Compiles the kernels in two processes, before the tests would do it in each of theirs: a third less time on a clean machine.

What is compiled is kept beside the sources; with that there, this takes a few seconds.
"""

import multiprocessing

import numpy as np
import shapely

from bastler.job import edits, new_job, plan
from bastler.job.samples import sample
from bastler.nc import read
from bastler.post import post
from bastler.proof import Prover, scene_of
from bastler.proof.polar.mesh import polar_mesh
from bastler.proof.polar.sweeping import missing, radial, radial_body


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
    way, one, told = np.array([[4.0, 0.0, 1.0, 4.0, 0.0, -1.0]]), np.zeros(1), np.zeros((1, 3))
    arrays, shape = (made.lo, made.hi, made.count, made.edges, way), np.array([1.0, 0.0, 0.0, 1.0, 5.0])
    radial(*arrays, one, np.zeros(1, np.bool_), shape, 5.0, 0.05, told)
    radial_body(*arrays, one, 1.0, 2.0, 3.0, 0.05, 5.0, one)
    made.turned(shapely.box(-1.0, 4.0, 0.0, 6.0))
    made.open(shapely.box(-1.0, -1.0, 1.0, 1.0), -1.0)
    whole = made.like(shapely.box(-2.0, 0.0, 0.0, 5.0))
    missing(whole.lo, whole.hi, whole.count, made.lo, made.hi, made.count, made.edges, 0.05)
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
