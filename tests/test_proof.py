"""The proof against exact arithmetic."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from bastler.job import answering, edits, plan
from bastler.job.samples import sample
from bastler.nc import RAPID
from bastler.post import Program, post
from bastler.proof import Prover, prove_job
from bastler.proof.clockwork import move_times
from bastler.proof.mill.mesh import CUT, SECTION, UNTOUCHED, mesh
from bastler.proof.mill.scrub import Scrubber
from bastler.proof.report import report
from bastler.proof.scrub import moment_at
from bastler.shapes import CirclePattern, PointsPattern
from bastler.steps import Drilling, Facing, FinishedHole, RectangularPocket, RoundBoss, RoundPocket
from bastler.tools import tip_length
from conftest import MILLED, codes, job_of, proof_of, sample_proof

MIDDLE = PointsPattern(id="p", name="p", points=((30.0, 20.0),))


def pocket_volume(length: float, width: float, radius: float, depth: float) -> float:
    return (length * width - (4 - math.pi) * radius * radius) * depth


def test_facing_takes_exactly_the_top() -> None:
    proof = proof_of(job_of(Facing(id="a")))
    assert proof.removed == pytest.approx(60 * 40 * 1.0, rel=1e-6)
    assert np.ptp(proof.heights) == 0
    assert proof.heights[0, 0] == 0.0
    assert proof.remarks == ()


@pytest.mark.parametrize("angle", [0.0, 30.0, 90.0])
@pytest.mark.parametrize("finish", ["yes", "no"])
def test_a_pocket_takes_its_volume(angle: float, finish: Any) -> None:
    step = RectangularPocket(id="b", x=30, y=20, length=32, width=20, corner_radius=6, depth=7, angle=angle, finish=finish)
    proof = proof_of(job_of(Facing(id="a"), step))
    volume = sum(s.volume for s in proof.stages if s.step == "b")
    assert volume == pytest.approx(pocket_volume(32, 20, 6, 7), rel=0.002)
    assert proof.remarks == ()
    assert report(proof)["sizes"][1]["measured"] == pytest.approx(-7.0, abs=1e-6)


def test_drilled_holes_take_their_volume() -> None:
    ring = CirclePattern(id="p", name="p", x=30, y=20, diameter=24, count=6)
    proof = proof_of(
        job_of(Facing(id="a"), Drilling(id="b", pattern="p", diameter=6.8, depth=12, spot="no"), patterns=(ring,)), 0.05
    )
    tip = tip_length(6.8, 118)
    volume = 6 * math.pi * 3.4**2 * (12 + tip / 3)
    assert sum(s.volume for s in proof.stages if s.step == "b") == pytest.approx(volume, rel=0.002)
    assert proof.comparison.volume("left") == proof.comparison.volume("gouge") == 0.0


def test_a_spot_is_as_wide_as_asked() -> None:
    proof = proof_of(job_of(Facing(id="a"), Drilling(id="b", pattern="p", depth=8, spot_diameter=8.0), patterns=(MIDDLE,)), 0.02)
    spot = next(s for s in proof.stages if s.stage == "spot")
    assert spot.volume == pytest.approx(math.pi * 4**2 * 4 / 3, rel=0.002)


def test_depth_to_the_tip_or_to_the_full_diameter() -> None:
    ways: dict[Any, float] = {"tip": -8.0, "full": -8.0 - tip_length(6.8, 118)}
    for depth_to, bottom in ways.items():
        proof = proof_of(
            job_of(Facing(id="a"), Drilling(id="b", pattern="p", depth=8, depth_to=depth_to), patterns=(MIDDLE,)), 0.02
        )
        assert float(proof.heights.min()) == pytest.approx(bottom, abs=0.02)


def test_through_is_through() -> None:
    proof = proof_of(job_of(Facing(id="a"), Drilling(id="b", pattern="p", extent="through"), patterns=(MIDDLE,)))
    assert float(proof.heights[200, 300]) == pytest.approx(-19.0)
    assert not codes(proof, "stop")


@pytest.mark.parametrize("machine", ["mill-600", "mill-old"])
@pytest.mark.parametrize("name", MILLED)
def test_the_samples_prove_clean(name: str, machine: str) -> None:
    own = sample(name)
    job = answering.answered(own, "job.machine", machine)
    for step in job.steps if machine == "mill-old" else ():
        if getattr(step, "work", "") == "tap":  # that machine has no cycle for tapping, and says so
            (trouble,) = plan(job).step(step.id).troubles
            assert "no cycle for tapping" in trouble.text
            job = edits.step_removed(job, step.id)
    proof: Any = sample_proof(name).first if own.machine == machine else prove_job(plan(job))
    assert codes(proof, "stop") == set()
    if own.machine == machine:
        assert codes(proof) <= {"full-width", "raw-stays"}
    for what in ("left", "gouge"):
        assert proof.comparison.volume(what) == 0.0
        assert proof.comparison.greatest(what) == 0.0


def test_what_is_proved_is_the_text() -> None:
    """The same plan with another text in its place gives that text's part."""
    planned = plan(job_of(Facing(id="a")))
    lines = [line.replace("Z0", "Z0.4") if line.startswith("G1 Z0") else line for line in post(planned.first).lines]
    proof: Any = prove_job(planned, Program.foreign("\n".join(lines)))
    assert proof.heights.max() == pytest.approx(0.4)
    assert "left" in codes(proof)
    assert proof.comparison.greatest("left") == pytest.approx(0.4, abs=1e-6)
    assert proof.comparison.volume("left") == pytest.approx(0.4 * 60 * 40, rel=1e-3)


def test_proving_again_gives_the_same_as_from_nothing() -> None:
    prover, job = (
        Prover(0.2),
        job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20), Drilling(id="c", pattern="p"), patterns=(MIDDLE,)),
    )
    first: Any = prover.prove(plan(job)).first
    changed = answering.answered(job, "step:c.depth", 9.0)
    again: Any = prover.prove(plan(changed)).first
    assert again.stages[0].proof is first.stages[0].proof, "what comes before the edit is kept"
    assert again.stages[-2].proof is not first.stages[-2].proof
    fresh = prove_job(plan(changed), cell_mm=0.2)
    assert np.array_equal(again.heights, fresh.heights)
    assert again.remarks == fresh.remarks
    assert again.total == fresh.total


def test_a_proof_can_be_stopped() -> None:
    assert Prover(0.2).prove(plan(job_of(Facing(id="a"))), stop=np.ones(1, np.uint8)) is None


def test_one_long_move_takes_the_time_physics_says() -> None:
    """Trapezoid: s / v + v / a, and 2 sqrt(s / a) where full speed is not reached; a 3000 mm/s², rapid 400 mm/s."""
    proof = proof_of(job_of(Facing(id="a")))
    one = _only(proof.trace, 0)
    card = proof.scene.card
    for length, seconds in ((300.0, 300 / 400 + 400 / 3000), (3.0, 2 * math.sqrt(3.0 / 3000))):
        trace = replace(one, start=np.zeros((1, 3)), end=np.array([[length, 0.0, 0.0]]))
        assert move_times(trace, card)[0] == pytest.approx(seconds, rel=1e-6)


def _only(trace, row: int):
    columns = ("line", "kind", "start", "end", "centre", "turn", "plane", "feed", "speed", "tool", "offset")
    return replace(trace, events=(), **{name: getattr(trace, name)[row : row + 1] for name in columns})


def test_times_add_up_and_tool_changes_count() -> None:
    proof = proof_of(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20)))
    assert proof.total == pytest.approx(float(proof.lasts.sum()) + 2 * 6.0)
    assert (np.diff(proof.starts) >= 0).all()


def test_load_follows_kienzle() -> None:
    """A facing row of known width and depth: P = ae ap vf kc / (60 000 000 η)."""
    proof = proof_of(job_of(Facing(id="a", ae=30.0), size_y=120.0, size_x=200.0))
    from bastler.steps.cut import cutting_load

    ctx = plan(job_of(Facing(id="a"))).first.flat
    tool = ctx.tool("face-50")
    assert tool is not None
    stage = proof.stages[0]
    rows = stage.proof.cut[:, 0] / np.maximum(stage.proof.cut[:, 1], 1e-9)
    steady = (stage.proof.power > 0) & (np.abs(rows - np.median(rows[rows > 0])) < 1.0)
    ae = float(np.median(rows[steady])) / float(
        np.median(np.linalg.norm(np.diff(stage.proof.segments[:, :3][steady], axis=0), axis=1))
    )
    feeding = proof.trace.kind != RAPID
    n, vf = float(proof.trace.speed[feeding].max()), float(proof.trace.feed[feeding].max())
    assert (n, vf) == (1592, pytest.approx(0.7 * 1274))  # 250 m/min on 50 mm, 0.16 mm for each of five teeth, the last pass
    _, power = cutting_load(tool, ctx, ae=min(ae, 50.0), ap=1.0, n=n, vf=vf)
    assert float(np.median(stage.proof.power[steady])) == pytest.approx(power, rel=0.1)


def test_the_stock_can_be_seen_at_any_moment_both_ways() -> None:
    proof = proof_of(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20)), 0.2)
    scrubber = Scrubber()
    times = [0.0, proof.stages[0].t1, 0.7 * proof.total, 0.4 * proof.total, proof.total]
    volumes = []
    for t in times:
        heights = scrubber.stock(proof, moment_at(proof, t))
        volumes.append(float((proof.grid.top - heights).sum()))
    assert volumes[0] == 0.0
    assert volumes[1] == pytest.approx(float((proof.grid.top - proof.after(0)).sum()))
    assert volumes[0] < volumes[1] <= volumes[3] < volumes[2] <= volumes[4]
    assert np.array_equal(scrubber.stock(proof, moment_at(proof, proof.total)), proof.heights)


def test_the_mesh_covers_the_part() -> None:
    proof = proof_of(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20, length=30, width=20)), 0.2)
    made = mesh(proof.grid, proof.heights)
    corners = made.points[made.triangles]
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    up = made.normals[made.triangles[:, 0], 2] == 1
    assert area[up, 2].sum() == pytest.approx(60 * 40, rel=1e-3)
    assert set(made.colour) == {CUT, UNTOUCHED}
    assert len(made.triangles) < 400
    opened = mesh(proof.grid, proof.heights, section_y=20.0)
    assert SECTION in set(opened.colour)
    assert opened.points[:, 1].min() >= 19.9
    assert len(opened.hatching)
    assert (np.abs(opened.hatching[:, 1] - 20.0) < 0.2).all()


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_round_wall_is_round(unit: Any) -> None:
    """A boss of Ø20 and a pocket of Ø12 in it, on a field of 0.2 mm: no corner of a wall is a third of a cell off its circle,
    its normals are the circle's, and few faces do."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    boss = RoundBoss(id="a", x=30 * k, y=20 * k, diameter=20 * k, depth=5 * k)
    pocket = RoundPocket(id="b", x=30 * k, y=20 * k, diameter=12 * k, depth=8 * k)
    blank: Any = {"size_x": 60 * k, "size_y": 40 * k, "size_z": 20 * k, "over_top": 0.0}
    proof = proof_of(job_of(boss, pocket, unit=unit, **blank), 0.2)
    edge = np.zeros_like(proof.heights)
    made = mesh(proof.grid, proof.after(len(proof.stages) - 1, 0, edge), edge=edge)
    for radius, z, sign in ((10.0 * k, -2.5 * k, 1.0), (6.0 * k, -7.0 * k, -1.0)):
        corners = made.points[made.triangles]
        walls = made.triangles[(np.abs(made.normals[made.triangles][:, :, 2]) < 1e-6).all(axis=1)]
        at = np.unique(walls)
        spot = made.points[at] - np.array([30 * k, 20 * k, 0.0])
        away = np.hypot(spot[:, 0], spot[:, 1])
        own = (np.abs(away - radius) < 1.0 * k) & (spot[:, 2] > z - 4 * k)
        assert own.sum() > 60
        assert np.abs(away[own] - radius).max() < 0.3 * 0.2 * k
        radial = (spot[own, :2] / away[own, None] * made.normals[at][own, :2]).sum(axis=1)
        assert (sign * radial).min() > 0.98
        assert len(corners) < 4000


def test_a_drilled_and_chamfered_hole_is_closed() -> None:
    """A cone of the tip under a round wall under a chamfer: by the divergence theorem the faces hold what the field holds."""
    hole = FinishedHole(id="a", pattern="p", thread="M8", depth=12.0)
    proof = proof_of(job_of(hole, patterns=(PointsPattern(id="p", name="p", points=((30.0, 20.0),)),)), 0.1)
    edge = np.zeros_like(proof.heights)
    heights = proof.after(len(proof.stages) - 1, 0, edge)
    made = mesh(proof.grid, heights, edge=edge)
    corners = made.points[made.triangles].astype(float)
    area = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    volume = (corners.mean(axis=1) * area).sum() / 3
    held = ((heights - edge - proof.grid.bottom).sum()) * proof.grid.area
    whole = 60 * 40 * 20.0
    assert whole - volume == pytest.approx(whole - held, rel=0.03)


def test_an_empty_job_says_so() -> None:
    proof = proof_of(job_of())
    assert codes(proof) == {"nothing"}
    assert proof.total < 3.0
