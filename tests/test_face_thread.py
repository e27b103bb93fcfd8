"""Threads on the end face: grooves as wide as asked at even distances, both ways round, and the planted faults are found."""

from __future__ import annotations

import itertools
from typing import Any

import msgspec
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.crib_edits import tool_given
from bastler.post import Program
from bastler.proof import TurnProof, prove_job
from bastler.steps import FaceThread, TurnFacing
from conftest import codes, many, turned

INCH = 25.4
LENGTHS = {"pitch", "depth", "outer_d", "inner_d", "run_in", "run_out", "first"}


def scroll(unit: str = "mm", machine: str = "lathe-200", stock: Any = None, **answers: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / INCH
    own: Any = {"outer_d": 62.0, "inner_d": 30.0, "pitch": 4.0, "depth": 1.5} | answers
    own = {name: value * k if name in LENGTHS and value is not None else value for name, value in own.items()}
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    return turned(TurnFacing(id="f"), FaceThread(id="t", **own), unit=unit, machine=machine, **(size | (stock or {})))


def made(job: Job) -> TurnProof:
    planned = plan(job)
    assert not planned.steps[-1].troubles, planned.steps[-1].troubles
    proof: TurnProof = prove_job(planned)
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    return proof


def grooves(proof: TurnProof, z: float, k: float) -> list[tuple[float, float]]:
    """Where the grooves are at a length, from the axis out."""
    line = shapely.LineString([(z, 15.2 * k), (z, 29.8 * k)]).intersection(proof.part)
    spans = sorted(g.bounds[1::2] for g in shapely.get_parts(line) if g.length > 0)
    return [(a[1], b[0]) for a, b in itertools.pairwise(spans)]


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("winds", ["clockwise", "counter"])
def test_grooves_are_half_a_pitch_wide_half_way_down(unit: str, winds: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    more: Any = {"form": "tube", "bore": 28 * k} if winds == "counter" else {}
    proof = made(scroll(unit, winds=winds, outer_d=50.0 if winds == "counter" else 62.0, stock=more))
    assert "thread-bite" not in codes(proof)
    trace = proof.trace
    tied = (trace.lead > 0) & (trace.start[:, 0] != trace.end[:, 0])
    assert set(trace.lead[tied].round(6)) == {round(4.0 * k, 6)}
    found = grooves(proof, -0.75 * k, k)
    assert len(found) >= 3
    assert [b - a for a, b in found[1:-1]] == pytest.approx([2.0 * k] * (len(found) - 2), abs=0.02 * k)
    middles = [sum(g) / 2 for g in found[1:-1]]
    apart = [b - a for a, b in itertools.pairwise(middles)]
    assert apart == pytest.approx([4.0 * k] * (len(middles) - 1), abs=2e-3 * k)


def test_it_winds_the_way_that_was_asked() -> None:
    job = scroll()
    proof = made(job)
    text = proof.program.text
    assert "G33 X3" in text
    assert " F4" in text
    other = prove_job(
        plan(answering.answered(answering.answered(job, "step:t.winds", "counter"), "step:t.run_in", 2.0)), Program.foreign(text)
    )
    assert "thread-hand" in codes(other)
    finer = prove_job(plan(job), Program.foreign(text.replace(" F4\n", " F2\n")))
    assert {"thread-lead", "thread-width"} & codes(finer)
    gone = prove_job(plan(job), Program.foreign(text.replace("G33 ", "G0 ")))
    assert "thread-missing" in codes(gone)


@pytest.mark.parametrize(
    ("answers", "field", "said"),
    [
        ({"depth": 3.6}, "depth", "does not fit"),
        ({"inner_d": 62.0}, "inner_d", "less than"),
        ({"tool": "thread-60"}, "tool", "on the face"),
        ({"angle": 30.0}, "tool", "60°"),
        ({"pitch": 9.0, "depth": 3.6}, "tool", "reaches"),
        ({"outer_d": 40.0, "inner_d": 4.0}, "run_out", "centre line"),
        ({"run_out": 0.5}, "run_out", "45°"),
        ({"n": 3900.0}, "n", "a minute"),
        ({"first": 2.0}, "first", "deep"),
        ({"last": 1.5}, "last", "deep"),
    ],
)
def test_what_does_not_go_together_is_said(answers: dict[str, Any], field: str, said: str) -> None:
    found = plan(scroll(**answers)).steps[-1].troubles
    assert [t.field for t in found[:1]] == [field], found
    assert said in found[0].text


def test_without_an_encoder_there_is_none() -> None:
    assert "encoder" in plan(scroll(machine="lathe-bench")).steps[-1].troubles[0].text


def test_a_tool_that_is_turned_over_goes_the_other_way() -> None:
    job = scroll()
    tool: Any = job.tool("thread-face-60")
    over = tool_given(job, msgspec.structs.replace(tool, turns="back"))
    step: Any = plan(over).steps[-1]
    assert step.filled.inward(step.ctx) is False
    plain: Any = plan(job).steps[-1]
    assert plain.filled.inward(plain.ctx) is True


@settings(max_examples=many(12), deadline=None)
@given(st.floats(1.5, 8.0), st.floats(0.1, 0.9), st.floats(20.0, 50.0), st.sampled_from(["mm", "inch"]))
def test_any_spiral_is_cut_as_asked(pitch: float, share: float, inner: float, unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    pitch = round(pitch, 2)
    planned = plan(scroll(unit, pitch=pitch, depth=round(share * 0.8 * pitch, 3), inner_d=round(inner, 1)))
    assume(not planned.steps[-1].troubles)
    proof = prove_job(planned)
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    assert proof.removed > 0.0 * k
