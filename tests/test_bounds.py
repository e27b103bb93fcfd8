"""What grows with an answer or a file ends at its bound, says so beside the answer, and takes no time to say it."""

from __future__ import annotations

import threading
import time
from typing import Any

import msgspec
import numpy as np
import pytest

from bastler.bounds import BLOCKS, IN_A_BLOCK, POSITIONS, Bound
from bastler.job import Job, answering, edits, plan
from bastler.nc import Stopped, read
from bastler.post import Program
from bastler.proof import Prover, prove_job, scene_of
from bastler.shapes import CirclePattern, GridPattern, PointsPattern
from bastler.shapes.order import shortest_way, way_length
from bastler.shapes.pattern import positions
from bastler.steps import Drilling, Facing, RoundPocket, TurnFacing
from conftest import job_of, turned

MILL, LATHE = job_of(Facing(id="f")), turned(TurnFacing(id="f"))
BEGIN, BEGIN_TURN = "G21 G90\nT1 M6\nS500 M3\nG0 X0 Y0 Z50\n", "G21 G90\nT0404\nG97 S500 M3\nG0 X64 Z5\n"


def said(job: Job, text: str | None = None) -> str:
    """All remarks in one text, found within a moment of the process's own time."""
    prove_job(plan(MILL), cell_mm=1.0)
    begun = time.process_time()
    proof = prove_job(plan(job), Program.foreign(text) if text else None, cell_mm=1.0)
    assert time.process_time() - begun < 20.0
    assert not proof.proved
    return " ".join(r.text for r in proof.remarks)


def drilled(pattern: Any) -> Job:
    return job_of(Facing(id="f"), Drilling(id="d", pattern="p", diameter=3.0, depth=5.0), patterns=(pattern,))


@pytest.mark.parametrize(
    "pattern",
    [
        GridPattern(id="p", name="p", columns=99_999, rows=99_999, column_pitch=0.001, row_pitch=0.001),
        GridPattern(id="p", name="p", columns=300, rows=100, column_pitch=0.1, row_pitch=0.2, order="shortest"),
        CirclePattern(id="p", name="p", x=30.0, y=20.0, diameter=20.0, count=99_999, order="shortest"),
        PointsPattern(id="p", name="p", points=tuple((k % 300 * 0.2, k // 300 * 0.1) for k in range(30_000)), order="shortest"),
    ],
    ids=["grid", "shortest", "circle", "points"],
)
def test_patterns_of_more_positions_than_anyone_drills(pattern: Any) -> None:
    assert positions(pattern) == []
    text = said(drilled(pattern))
    assert "10 000 is the most" in text or "or less" in text


def test_the_shortest_way_over_many_places_takes_a_plainer_way_and_no_memory() -> None:
    places = tuple((float(x), float(y)) for x, y in np.random.default_rng(1).uniform(0, 100, (POSITIONS.most, 2)))
    order = shortest_way(places)
    assert sorted(order) == list(range(len(places)))
    assert way_length(tuple(places[k] for k in order)) < 0.1 * way_length(places)


def test_a_book_to_engrave() -> None:
    job, step = edits.step_added(MILL, "engraving", "f")
    assert "80 is the most" in said(answering.answered(job, f"step:{step}.text", "AB" * 500_000))


def test_more_steps_than_a_holding_has() -> None:
    steps = [RoundPocket(id=f"p{k}", x=5.0 + k % 50, y=10.0, diameter=12.0, depth=1.0) for k in range(401)]
    assert "400 is the most" in said(job_of(*steps))


@pytest.mark.parametrize(
    "cycle",
    ["G83 X5 Y5 Z-20 R2 Q0.00001 F100\nG80", "G73 X5 Y5 Z-20 R2 Q0.00001 F100\nG80"],
)
def test_pecks_of_nothing(cycle: str) -> None:
    assert "20 000 is the most" in said(MILL, f"{BEGIN}{cycle}\nM30\n")


@pytest.mark.parametrize(
    "cycle",
    [
        "G76 P010060 Q0.00001 R0.00001\nG76 X58 Z-20 P1 Q0.00001 F1.5",
        "G71 U0.000001 R0.1\nG71 P10 Q20 U0 W0 F0.1\nN10 G0 X20\nN20 G1 Z-30",
        "G74 R1\nG74 Z-20 Q0.00001 F0.1",
        "G75 R1\nG75 X40 Z-20 P0.00001 Q0.00001 F0.1",
    ],
    ids=["thread", "rough", "peck", "groove"],
)
def test_passes_of_nothing_on_a_lathe_are_refused_and_not_cut_short(cycle: str) -> None:
    """Once the first two thousand passes were run, and the rest of what a control would do was passed over."""
    assert "is the most" in said(LATHE, f"{BEGIN_TURN}{cycle}\nM30\n")


def test_a_subprogram_called_for_ever(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("bastler.nc.reading.BLOCKS", msgspec.structs.replace(BLOCKS, most=5_000))
    text = f"{BEGIN}M98 P100 L999999\nM30\nO100\nG91\nG1 X0.01 F100\nG90\nM99\n"
    assert "5 000 is the most" in said(MILL, text)


def test_a_move_to_the_end_of_the_world() -> None:
    assert "leaves its travel" in said(MILL, f"{BEGIN}G1 X99999999 F100\nZ-5\nX0\nM30\n")
    assert "leaves its travel" in said(LATHE, f"{BEGIN_TURN}G1 X99999999 F1\nZ-99999999\nM30\n")


def test_numbers_longer_than_a_float() -> None:
    for number in ("9" * 400, "0." + "1" * 400, "-1000000000"):
        assert "No machine takes a number this large" in said(MILL, f"{BEGIN}G0 X{number}\nM30\n")


def test_reading_is_stopped_within_a_moment() -> None:
    text = f"{BEGIN}M98 P100 L999999\nM30\nO100\nG91\nG1 X0.01 F100\nG90\nM99\n"
    stop = np.zeros(1, np.uint8)
    threading.Timer(0.2, lambda: stop.__setitem__(0, 1)).start()
    begun = time.monotonic()
    with pytest.raises(Stopped):
        read(text, scene_of(plan(MILL)).control, stop=stop)
    assert time.monotonic() - begun < 2.0
    assert Prover(1.0).prove(plan(MILL), {0: Program.foreign(text)}, stop=np.ones(1, np.uint8)) is None


def test_a_bound_says_what_there_are_too_many_of() -> None:
    assert Bound(3, "holes").over(3) == ""
    assert Bound(3, "holes").over(4_000) == "That makes 4 000 holes; 3 is the most."
    assert "endlessly many" in IN_A_BLOCK.over(float("inf"))
