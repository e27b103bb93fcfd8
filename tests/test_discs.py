"""Round stock, and facing in rows and in a spiral: nothing stays, nothing is run over empty air for long."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, plan, read_job_text
from bastler.post import post
from bastler.proof.mill.mesh import CUT, UNTOUCHED, mesh
from bastler.shapes import Box, PointsPattern
from bastler.steps import Drilling, Facing, RoundBoss, RoundPocket, Step
from conftest import codes, job_of, many, proof_of

WAYS = ("zigzag", "one-way", "spiral")


def disc(*steps: Step, diameter: float = 60.0, **setup: Any) -> Job:
    return job_of(*steps, form="disc", diameter=diameter, zero="centre", **setup)


def test_a_disc_has_the_volume_of_a_cylinder() -> None:
    box = Box((-30.0, -30.0, -20.0), (30.0, 30.0, 0.0), True)
    assert box.volume == pytest.approx(math.pi * 30**2 * 20)
    assert box.plan.area == pytest.approx(math.pi * 30**2, rel=1e-4)
    proof = proof_of(disc(), 0.1)
    stock = float((proof.heights - proof.grid.bottom).sum()) * proof.grid.area
    assert stock == pytest.approx(math.pi * 30**2 * 20, rel=2e-3)


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("round_", [True, False])
def test_facing_leaves_nothing_on_a_disc_and_on_a_block(way: str, round_: bool) -> None:
    face = Facing(id="f", way=way)  # type: ignore[arg-type]
    job = disc(face, diameter=140.0) if round_ else job_of(face, size_x=140.0, size_y=90.0)
    proof = proof_of(job, 0.2)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution")
    assert proof.heights.max() == pytest.approx(0.0)
    assert proof.comparison.volume("left") == 0.0
    assert plan(job).step("f").summary.endswith({"zigzag": "there and back", "one-way": "one way", "spiral": "spiral"}[way])


def test_rows_on_a_disc_are_only_as_long_as_it_is_there() -> None:
    round_ = proof_of(disc(Facing(id="f"), diameter=200.0), 0.5)
    square = proof_of(job_of(Facing(id="f"), size_x=200.0, size_y=200.0), 0.5)
    assert round_.total < square.total


def test_a_spiral_climbs_round_a_block_and_is_one_way_in() -> None:
    lines = post(plan(job_of(Facing(id="f", way="spiral"), size_x=200.0, size_y=150.0)).first).lines
    face = lines[next(k for k, line in enumerate(lines) if "face" in line) :]
    assert sum(line.startswith(("G0 Z", "Z")) for line in face) <= 4
    arcs = post(plan(disc(Facing(id="f", way="spiral"), diameter=200.0)).first).lines
    assert sum(line.startswith("G2") or " I" in line for line in arcs) >= 2
    assert not any(line.startswith("G3") for line in arcs)


@settings(max_examples=many(25))
@given(
    st.sampled_from(WAYS), st.booleans(), st.floats(30.0, 200.0), st.floats(20.0, 150.0),
    st.sampled_from(["face-50", "end-16", "bull-12"]), st.floats(0.3, 0.8),
)  # fmt: skip
def test_whatever_is_faced_no_rim_and_no_corner_stays(
    way: str, round_: bool, x: float, y: float, tool: str, share: float
) -> None:
    flat = {"face-50": 50.0, "end-16": 16.0, "bull-12": 10.0}[tool]
    face = Facing(id="f", way=way, tool=tool, ae=share * flat, ap=2.0)  # type: ignore[arg-type]
    job = disc(face, diameter=x) if round_ else job_of(face, size_x=x, size_y=y)
    if plan(job).step("f").troubles:
        return
    proof = proof_of(job, 0.5)
    assert proof.heights.max() == pytest.approx(0.0, abs=1e-5)
    assert not codes(proof) & {"left", "gouge", "rapid-in-stock"}


def test_a_flange_is_made_of_a_disc() -> None:
    holes = PointsPattern(id="h", name="four", points=((20.0, 0.0), (0.0, 20.0), (-20.0, 0.0), (0.0, -20.0)))
    steps = (
        Facing(id="f", way="spiral"),
        RoundBoss(id="b", diameter=50.0, depth=6.0),
        RoundPocket(id="p", diameter=24.0, depth=4.0),
        Drilling(id="d", pattern="h", diameter=5.0, depth=8.0, spot="no"),
    )
    job = msgspec.structs.replace(disc(*steps), patterns=(holes,))
    proof = proof_of(job, 0.1)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution")
    assert read_job_text(msgspec.json.encode(job)) == job
    around = proof.heights[0, 0]
    assert around == proof.grid.bottom


def test_the_side_of_a_disc_is_untouched_in_the_solid_and_its_top_is_not() -> None:
    proof = proof_of(disc(Facing(id="f")), 0.3)
    faces = mesh(proof.grid, proof.heights)
    walls = np.abs(faces.normals[:, 2]) < 1e-6
    assert (faces.colour[walls] == UNTOUCHED).all()
    assert (faces.colour[faces.normals[:, 2] > 0] == CUT).all()
    assert (faces.colour[faces.normals[:, 2] < 0] == UNTOUCHED).all()
    assert np.abs(np.linalg.norm(faces.points[:, :2], axis=1)).max() < 30.2


@pytest.mark.parametrize(("setup", "field"), [({"diameter": 0.5}, "diameter"), ({"over_sides": 40.0}, "diameter")])
def test_a_disc_that_cannot_be_is_said(setup: dict[str, Any], field: str) -> None:
    assert f"stock.{field}" in [t.field for t in plan(disc(**setup)).troubles]
