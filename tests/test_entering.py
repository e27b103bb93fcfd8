"""Roughing that enters each pass at less feed, over its first bite, and nowhere else."""

from __future__ import annotations

from typing import Any

import pytest

from bastler.job import Job, plan
from bastler.motion import Cut
from bastler.proof import prove_job
from bastler.steps import Stage, TurnFacing, TurnFinishing, TurnRoughing
from conftest import codes, turned
from outlines import along, up
from outlines import outline as outline_of
from test_outline_cycles import by_cycles

SIZES: Any = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0}


def shouldered(unit: str = "mm", machine: str = "lathe-200", **answers: Any) -> Job:
    """A shaft with a shoulder, its feed and its bite given."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    pieces = (along(-15 * k), up(62 * k))
    outline = outline_of(id="o", name="o", d=44 * k, z=0.0, pieces=pieces)
    rough = TurnRoughing(id="r", outline="o", f=0.3 * k, ap=2.0 * k, **answers)
    sizes = {name: value * k for name, value in SIZES.items()}
    steps = (TurnFacing(id="f"), rough, TurnFinishing(id="e", outline="o"))
    return turned(*steps, outlines=(outline,), unit=unit, machine=machine, **sizes)


def cuts(job: Job) -> list[tuple[Cut, tuple[float, float]]]:
    """What the roughing tool cuts straight, and from where, (r, z)."""
    (stage,) = plan(job).step("r").stages[:1]
    assert isinstance(stage, Stage)
    found, (z, r) = [], stage.start[:2]
    for move in stage.moves:
        if isinstance(move, Cut):
            found.append((move, (r, z)))
        z, r = move.u, move.v
    return found


@pytest.mark.parametrize("way", ["along", "across"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_first_bite_of_each_pass_comes_at_the_feed_of_entries(unit: str, way: Any) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    job = shouldered(unit, way=way, enter_f=0.1 * k)
    proof = prove_job(plan(job))
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    made = cuts(job)
    slow = [n for n, (move, _) in enumerate(made) if move.feed == pytest.approx(0.1 * k)]
    assert len(slow) >= 4
    for n in slow:
        (move, begin), (after, _) = made[n], made[n + 1]
        at, was = (move.u, begin[1]) if way == "along" else (move.v, begin[0])
        front = 0.0 if way == "along" else 30.0 * k
        assert at == pytest.approx(front - 2.0 * k, abs=1e-3 * k), "as far as the first bite, and no farther"
        assert was > front
        assert after.feed == pytest.approx(0.3 * k), "behind it the feed that was asked for"


@pytest.mark.parametrize("machine", ["lathe-200", "lathe-bench"])
def test_without_it_nothing_changes(machine: str) -> None:
    plain, same = (prove_job(plan(shouldered(machine=machine, **answers))) for answers in (dict[str, Any](), {"enter_f": 0.3}))
    assert plain.program.lines == same.program.lines


def test_what_a_cycle_cannot_say_is_written_out() -> None:
    """G71 knows one feed."""
    jobs = (by_cycles(shouldered(**answers)) for answers in (dict[str, Any](), {"enter_f": 0.1}))
    plain, slow = (prove_job(plan(job)) for job in jobs)
    assert any("G71" in line for line in plain.program.lines)
    assert not any("G71" in line for line in slow.program.lines)
    assert slow.total > plain.total
    assert "left" not in codes(slow)


def test_entering_faster_than_feeding_is_refused() -> None:
    (trouble,) = plan(shouldered(enter_f=0.4)).step("r").troubles
    assert (trouble.field, trouble.fits) == ("enter_f", 0.3)


def test_a_recess_is_entered_at_that_feed_all_the_way_down() -> None:
    pieces = (along(-10.0), up(52.0), along(-20.0), up(40.0), along(-45.0), up(56.0), along(-55.0))
    outline = outline_of(id="o", name="o", d=48.0, z=0.0, pieces=pieces)
    rough = TurnRoughing(id="r", outline="o", f=0.3, ap=2.0, enter_f=0.1, even_out="no", tool="v35-04")
    job = turned(TurnFacing(id="f"), rough, outlines=(outline,), **SIZES)
    down = [move for move, (r, _) in cuts(job) if move.v < r - 1e-6]
    assert down
    assert {move.feed for move in down} == {0.1}
