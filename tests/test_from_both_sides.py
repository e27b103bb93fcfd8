"""What is behind a collar: by a left-hand tool in the same step, or by one that takes what the first has left."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.proof import prove_job
from bastler.steps import TurnFacing, TurnFinishing, TurnRest, TurnRoughing
from conftest import codes, many, turned
from outlines import along, curve, up
from outlines import outline as outline_of

HARM = {"gouge", "left", "rapid-in-stock", "holder-in-stock", "jaws-hit", "tip-reach", "thread-missing"}
FACE = TurnFacing(id="f")


def spool(
    unit: str = "mm", both: str = "yes", low: float = 40.0, begin: float = -16.0, end: float = -45.0, front: float = 52.0
) -> Job:
    """A spool: a collar, a recess behind it, another collar."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    pieces = (along(-10 * k), up(front * k), along(begin * k), up(low * k), along(end * k), up(56 * k), along((end - 10) * k))
    outline = outline_of(id="o", name="spool", d=48 * k, z=0.0, pieces=pieces)
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    steps = TurnRoughing(id="r", outline="o", both=both), TurnFinishing(id="e", outline="o", both=both)  # type: ignore[arg-type]
    return turned(FACE, *steps, outlines=(outline,), unit=unit, **size)


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_recess_is_cut_from_both_sides(unit: str) -> None:
    planned = plan(spool(unit))
    assert [[s.name for s in done.stages] for done in planned.steps[1:]] == [
        ["rough", "rough from behind"],
        ["finish", "finish from behind"],
    ]
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    assert "stop" in {r.level for r in prove_job(plan(spool(unit, "no"))).remarks}, (
        "one tool alone leaves what is behind the collar"
    )


def test_the_tools_turn_to_the_wall_that_they_cut() -> None:
    planned = plan(spool())
    step: Any = planned.steps[-1].filled
    ctx = planned.steps[-1].turned
    assert [ctx.turn_tool(t).hand for t in (step.tool, step.left_tool)] == ["right", "left"]
    trace = prove_job(planned).trace
    own = next(s for s in prove_job(planned).stages if s.stage == "finish from behind")
    rows = slice(own.begin, own.end)
    floor = (abs(trace.start[rows, 0] - 20.0) < 0.01) & (abs(trace.end[rows, 0] - 20.0) < 0.01) & (trace.kind[rows] == 1)
    assert floor.any()
    assert (trace.end[rows, 2][floor] > trace.start[rows, 2][floor]).all(), "it cuts away from the chuck"


def test_a_round_recess_too() -> None:
    pieces = (along(-10.0), up(52.0), along(-16.0), curve(52.0, -44.0, 14.5, "in"), along(-50.0))
    outline = outline_of(id="o", name="neck", d=48.0, z=0.0, pieces=pieces)
    steps = TurnRoughing(id="r", outline="o", both="yes"), TurnFinishing(id="e", outline="o", both="yes")
    proof = prove_job(plan(turned(FACE, *steps, outlines=(outline,))))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]


def test_what_the_first_left_is_taken_by_a_left_hand_tool() -> None:
    job = spool(both="no")
    rest = TurnRest(id="x", outline="o", tool="v35-04-left")
    job = msgspec.structs.replace(job, holdings=(msgspec.structs.replace(job.holdings[0], steps=(*job.steps, rest)),))
    planned = plan(job)
    assert not planned.steps[-1].troubles
    assert "left" not in codes(prove_job(planned), "stop")


def test_what_is_lacking_is_said() -> None:
    def why(job: Job) -> Any:
        return plan(job).steps[1].troubles[0]

    bare = msgspec.structs.replace(spool(), tools=tuple(t for t in spool().tools if getattr(t, "hand", "right") == "right"))
    assert "no left-hand tool" in why(bare).text
    assert "no left-hand tool that does this" in why(answering.answered(spool(), "step:r.left_tool", "c80-08")).text
    plain = outline_of(id="o", name="plain", d=40.0, z=0.0, pieces=(along(-40.0), up(62.0)))
    steps = (TurnRoughing(id="r", outline="o", both="yes"),)
    assert "Nothing is left" in why(turned(FACE, *steps, outlines=(plain,))).text
    control = answering.answered(spool(), "step:e.compensation", "control")
    assert plan(control).steps[2].troubles[0].field == "compensation"
    assert "cut toward it" in why(answering.answered(spool(), "step:r.tool", "v35-04-left")).text


@settings(max_examples=many(10), deadline=None)
@given(
    st.floats(36.0, 50.0), st.floats(-20.0, -12.0), st.floats(1.0, 15.0), st.floats(52.0, 59.0), st.sampled_from(["mm", "inch"])
)
def test_any_spool_is_left_clean(low: float, begin: float, wide: float, front: float, unit: str) -> None:
    wide += (56.0 - low + front - low) / 2 / math.tan(math.radians(48.0))  # where tips of 35° from both sides meet on its floor
    planned = plan(spool(unit, low=low, begin=begin, end=begin - wide, front=front))
    assume(not [t for done in planned.steps for t in done.troubles])
    assert not codes(prove_job(planned)) & HARM
