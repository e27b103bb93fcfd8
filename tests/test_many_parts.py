"""Several parts on the table: their offsets in the program, the order, and a proof that looks at every one of them."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan, read_job_text
from bastler.job.parts import Place, offset_code, offset_index
from bastler.job.samples import sample
from bastler.post import Program, post
from bastler.proof import Prover, prove_job
from bastler.proof.mill.mesh import mesh
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, RectangularPocket, Step, Stop
from conftest import codes, job_of, many, proof_of

PATTERN = PointsPattern(id="h", name="two", points=((8.0, 8.0), (52.0, 32.0)))


def several(*more: Step, **setup: Any) -> Job:
    """A faced plate with a pocket and two holes, as often as the setup says."""
    pocket = RectangularPocket(id="p", x=30.0, y=20.0, length=26.0, width=18.0, depth=4.0)
    steps = (Facing(id="f"), pocket, *more, Drilling(id="d", pattern="h", spot="no", depth=6.0))
    answers = {"parts": "grid", "columns": 3, "rows": 2} | setup
    return job_of(*steps, patterns=(PATTERN,), **answers)  # type: ignore[arg-type]


def offsets_in(job: Job) -> list[str]:
    """The work offsets as they are called, one after the other."""
    words = [w for line in post(plan(job).first).lines if not line.startswith("(") for w in line.split()]
    return [w for w in words if w in {f"G{k}" for k in range(54, 60)}]


def test_a_tool_at_a_time_calls_every_part_once_a_tool() -> None:
    job = several(part_order="tools")
    tools = [line for line in post(plan(job).first).lines if "M6" in line]
    assert len(tools) == 3
    said = offsets_in(job)  # every stage says its own
    assert [a for a, b in zip(said, ["", *said], strict=False) if a != b] == ["G54", "G55", "G56", "G57", "G58", "G59"] * 3


def test_part_by_part_calls_every_tool_once_a_part() -> None:
    job = several(part_order="parts", columns=2, rows=1)
    assert sum("M6" in line for line in post(plan(job).first).lines) == 6
    assert [a for a, b in zip(offsets_in(job), ["", *offsets_in(job)], strict=False) if a != b] == ["G54", "G55"]
    assert proof_of(job, 0.3).total > proof_of(several(part_order="tools", columns=2, rows=1), 0.3).total


@pytest.mark.parametrize("order", ["tools", "parts"])
def test_all_parts_are_proved_alike_and_at_the_cost_of_one(order: str) -> None:
    proof = proof_of(several(part_order=order), 0.2)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution")
    assert len(proof.comparisons) == 6
    assert len({id(c) for c in proof.comparisons}) == 1
    last = len(proof.stages) - 1
    for part in range(1, 6):
        assert np.array_equal(proof.after(last, part), proof.heights)
    alone = proof_of(several(parts="one"), 0.2)
    assert np.array_equal(alone.heights, proof.heights)


def test_halfway_through_some_are_done_and_some_not() -> None:
    proof = proof_of(several(part_order="parts"), 0.3)
    half = next(k for k, s in enumerate(proof.stages) if s.part == 3 and s.step == "p")
    assert proof.done_by(half, 0) == proof.done_by(half, 2) != proof.done_by(half, 3)
    assert proof.after(half, 5).min() == proof.grid.top
    assert proof.before(half + 1).min() < proof.grid.top
    assert len(mesh(proof.grid, proof.after(half, 1)).points)


def test_an_offset_left_out_by_hand_leaves_a_part_uncut_and_says_which() -> None:
    """A planted fault: somebody has taken a line with G57 for G56."""
    made = plan(several(part_order="parts"))
    text = post(made.first).text
    proof = prove_job(
        made, msgspec.structs.replace(post(made.first), lines=tuple(text.replace("G57", "G56").splitlines())), cell_mm=0.3
    )
    left = [r for r in proof.remarks if r.code == "left"]
    assert left
    assert all("on G57" in r.text for r in left)
    foreign = prove_job(made, Program.foreign(text.replace("G57", "G56")), cell_mm=0.3)
    assert "left" in codes(foreign)


def test_a_tool_that_runs_into_the_next_part_is_stopped() -> None:
    proof = proof_of(several(pitch_x=62.0), 0.3)
    hits = [r for r in proof.remarks if r.code == "other-part"]
    assert hits
    assert hits[0].level == "stop"
    assert hits[0].step == "f"


def test_a_part_off_the_table_is_said() -> None:
    proof = proof_of(several(columns=6, rows=1), 0.4)
    assert "over-travel" in codes(proof, "stop")


def test_offsets_written_by_the_program_are_read_and_hold() -> None:
    job = several(write_offsets="yes")
    text = post(plan(job).first).text
    assert text.count("G10 L2 P") == 6
    assert proof_of(job, 0.3).proved
    wrong = prove_job(plan(job), Program.foreign(text.replace("G10 L2 P2 X", "G10 L2 P2 X1")), cell_mm=0.3)
    assert not wrong.proved
    alone = several(write_offsets="yes", parts="one")  # it is not asked of one part, so it is not done there either
    assert "G10" not in post(plan(alone).first).text


def test_parts_by_a_list_with_extended_offsets_and_heights_of_their_own() -> None:
    places = (Place("G55", 130.0, 0.0), Place("G54.1 P2", 0.0, 120.0, 6.0))
    job = several(parts="list", places=places)
    text = post(plan(job).first).text
    assert "G54.1 P2" in text
    proof = proof_of(job, 0.3)
    assert proof.proved, proof.remarks
    assert {s.shift for s in proof.stages} == {(0.0, 0.0, 0.0), (130.0, 0.0, 0.0), (0.0, 120.0, 6.0)}
    assert read_job_text(msgspec.json.encode(job)) == job


def test_a_stop_is_made_once_and_not_on_every_part() -> None:
    job = several(Stop(id="s"), part_order="tools")
    assert list(post(plan(job).first).lines).count("M0") == 1
    assert proof_of(job, 0.3).proved


@pytest.mark.parametrize(
    ("setup", "field"),
    [
        ({"pitch_x": 40.0}, "pitch_x"),
        ({"pitch_y": 30.0, "columns": 1}, "pitch_y"),
        ({"parts": "list", "places": (Place("G54", 100.0, 0.0),)}, "places"),
        ({"parts": "list", "places": (Place("G55", 10.0, 0.0),)}, "places"),
        ({"parts": "list", "places": ()}, "places"),
        ({"parts": "list", "places": (Place("G99", 100.0, 0.0),)}, "places"),
        ({"columns": 30, "rows": 5}, "columns"),
        ({"columns": 4, "write_offsets": "yes"}, "write_offsets"),
    ],
)
def test_parts_that_cannot_be_are_said(setup: dict[str, Any], field: str) -> None:
    assert [t.field for t in plan(several(**setup)).troubles] == [f"holding:h1.{field}"]


def test_an_older_machine_has_six_offsets() -> None:
    job = answering.answered(several(columns=4, rows=2), "job.machine", "mill-old")
    assert [t.field for t in plan(job).troubles] == ["holding:h1.columns"]


@given(st.integers(1, 400))
def test_codes_of_offsets_come_back(number: int) -> None:
    index = number if number <= 6 else 100 + number - 6
    assert offset_index(offset_code(index)) == index


@pytest.mark.parametrize("code", ["", "G53", "G60", "54", "G54.1", "G54.1 P0", "G54.1 Px", "G55 P1"])
def test_what_is_no_offset_is_refused(code: str) -> None:
    with pytest.raises(ValueError, match=f"^{code}$"):
        offset_index(code)


@settings(max_examples=many(10))
@given(st.integers(1, 3), st.integers(1, 2), st.floats(60.0, 90.0), st.sampled_from(["tools", "parts"]))
def test_whatever_the_grid_it_is_clean_or_it_is_said(columns: int, rows: int, gap: float, order: str) -> None:
    proof = proof_of(several(columns=columns, rows=rows, pitch_x=60.0 + gap, pitch_y=40.0 + gap, part_order=order), 0.5)
    assert codes(proof, "stop") <= {"over-travel"}
    assert proof.comparison.volume("left") == 0.0


def test_after_an_edit_the_parts_are_proved_as_from_nothing() -> None:
    prover = Prover(0.3)
    job = several()
    first = plan(job)
    prover.prove(first)
    changed = plan(answering.answered(job, "step:p.depth", 5.0), first)
    again: Any = prover.prove(changed).first
    fresh: Any = prove_job(changed, cell_mm=0.3)
    for part in range(6):
        assert np.array_equal(again.after(len(again.stages) - 1, part), fresh.after(len(fresh.stages) - 1, part))
    assert [r.text for r in again.remarks] == [r.text for r in fresh.remarks]


def test_the_fixture_of_six_uses_two_tools_on_six_parts() -> None:
    job = sample("fixture-of-six")
    proof = proof_of(job, 0.2)
    assert proof.proved
    assert not codes(proof, "caution")
    assert len(plan(job).first.parts) == 6
    assert len({s.tool for s in proof.stages if s.tool}) == 2
