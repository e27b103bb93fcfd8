"""What is shared between threads is never prepared: GEOS keeps notes in it, and two that ask at once end the program."""

from __future__ import annotations

import re
import subprocess
import sys
import threading
from pathlib import Path

import numpy as np
import shapely

import bastler
from bastler.job import answering, plan
from bastler.job.samples import sample
from bastler.proof import prove_whole
from bastler.shapes.prepared import MOST, let_go, prepare_for_now, prepared
from bastler.shapes.united import united

SOURCE = Path(bastler.__file__).parent
RACE = """
import threading
import numpy as np
import shapely
from bastler.shapes.prepared import prepared

def rough(seed):
    angle = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    r = 50 + 5 * np.sin((30 + seed % 7) * angle)
    return shapely.Polygon(np.column_stack([r * np.cos(angle), r * np.sin(angle)]))

places = np.random.default_rng(0).uniform(-50, 50, (200, 2))
discs = shapely.buffer(shapely.points(places), 3)
for seed in range(60):
    shared, found, gate = rough(seed), [None] * 4, threading.Barrier(4)
    def ask(k):
        gate.wait()
        found[k] = shapely.contains_properly(prepared(shared), discs)
    threads = [threading.Thread(target=ask, args=(k,)) for k in range(4)]
    [t.start() for t in threads]
    [t.join() for t in threads]
    assert all((f == found[0]).all() for f in found)
print("alive")
"""


def test_nothing_else_prepares_anything() -> None:
    for path in SOURCE.rglob("*.py"):
        if path.name != "prepared.py":
            assert not re.search(r"\b(shapely\.|import )(prepare|destroy_prepared)\b", path.read_text(encoding="utf-8")), path


def test_threads_that_ask_about_one_region_live() -> None:
    """The same with the region itself prepared ends the process within a few rounds."""
    done = subprocess.run([sys.executable, "-c", RACE], capture_output=True, text=True, timeout=120, check=False)
    assert done.stdout.strip() == "alive", (done.returncode, done.stderr[-2000:])


def test_a_thread_has_a_copy_of_its_own() -> None:
    shared, found = shapely.Point(0, 0).buffer(3), {}

    def ask(name: str) -> None:
        found[name] = (prepared(shared), prepared(shared))

    threads = [threading.Thread(target=ask, args=(name,)) for name in "ab"]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    (a, again), (b, _) = found["a"], found["b"]
    assert a is again
    assert a is not b
    assert not shapely.is_prepared(shared)
    assert shapely.is_prepared(a)
    assert a.equals_exact(shared, 0.0)


def test_copies_are_forgotten_and_never_taken_for_others() -> None:
    for k in range(MOST + 50):
        region = shapely.box(0, 0, k + 1, 1)
        assert prepared(region).bounds == (0.0, 0.0, k + 1.0, 1.0)


def test_what_is_given_to_others_is_not_prepared_any_more() -> None:
    regions = [shapely.box(0, 0, 1, 1), shapely.box(1, 0, 2, 1)]
    for region in regions:
        prepare_for_now(region)
    let_go(regions)
    assert not shapely.is_prepared(np.array(regions)).any()
    assert not shapely.is_prepared(united(regions))


def test_two_proofs_side_by_side_find_what_each_finds_alone() -> None:
    """As a task does beside the proof: what they remember is common to both, and its regions are not prepared."""
    jobs = [answering.answered(sample(name), address, value) for name, address, value in (
        ("winch-base", "step:s2.depth", 11.0),
        ("winch-base", "step:s2.depth", 10.5),
    )]  # fmt: skip
    found: dict[int, list[str]] = {}

    def prove(k: int) -> None:
        found[k] = [r.code for r in prove_whole(plan(jobs[k])).remarks]

    threads = [threading.Thread(target=prove, args=(k,)) for k in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert found == {k: [r.code for r in prove_whole(plan(job)).remarks] for k, job in enumerate(jobs)}
    turned = prove_whole(plan(sample("drum-spindle")))
    for held in turned.holdings:
        for run in getattr(held, "runs", ()):
            assert not shapely.is_prepared(np.array(getattr(run, "stocks", ()), dtype=object)).any()
