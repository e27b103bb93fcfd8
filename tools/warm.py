"""Compiles the kernels in two processes, before the tests would do it in each of theirs: a third less time on a clean machine.

What is compiled is kept beside the sources; with that there, this takes a few seconds.
"""

import multiprocessing

from bastler.job import edits, new_job, plan
from bastler.job.samples import sample
from bastler.nc import read
from bastler.post import post
from bastler.proof import Prover, scene_of


def fields() -> None:
    """Those that cut a field and compare it."""
    Prover(0.5).prove(plan(edits.step_added(new_job(), "facing", "")[0]))


def outlines() -> None:
    """Those of outlines, regions and reading, and what is left of the others."""
    for name in ("pawl-plate", "bearing-cap"):
        planned = plan(sample(name))
        read(post(planned.first).text, scene_of(planned).control)


if __name__ == "__main__":
    both = [multiprocessing.Process(target=work) for work in (fields, outlines)]
    for process in both:
        process.start()
    for process in both:
        process.join()
    raise SystemExit(max(process.exitcode or 0 for process in both))
