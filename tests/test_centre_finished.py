"""A finished hole on the centre line: its stages are worked out and prove, in both units, and what the shop lacks is said."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, edits, plan
from bastler.job.crib_edits import tool_removed
from bastler.job.files import job_text, read_job_text
from bastler.live.gauging import gauges
from bastler.proof import TurnProof, prove_job, prove_whole
from bastler.steps import CentreFinished, PartOff, TurnFacing
from bastler.steps.turn.centre_finished import BORE_AP
from bastler.units import Kind, Unit, evaluate
from conftest import many, turned

HARM = {"rapid-in-stock", "holder-in-stock", "gouge", "left", "tap-bottoming", "spindle-back"}


def holed(unit: Unit = "mm", **answers: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / 25.4
    size: dict[str, Any] = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 50 * k, "stick_out": 90 * k}
    return turned(TurnFacing(id="f"), CentreFinished(id="h", **answers), unit=unit, **size)


CASES: dict[str, tuple[Unit, dict[str, Any], list[str], list[str]]] = {
    "M10": ("mm", {"thread": "M10", "depth": 15.0}, ["spot", "drill", "tap"], ["spot-8", "drill-8.5", "tap-m10"]),
    "M5": ("mm", {"thread": "M5-6H", "depth": 8.0}, ["spot", "drill", "tap"], ["spot-8", "drill-4.2", "tap-m5"]),
    "1/2-13": ("inch", {"thread": "1/2-13 UNC-2B", "depth": 0.6}, ["spot", "drill", "tap"], []),
    "reamed": ("mm", {"work": "ream", "diameter": 10.0}, ["spot", "drill", "ream"], ["spot-8", "drill-9.8", "ream-10"]),
    "bored": ("mm", {"work": "bore", "diameter": 26.0}, ["spot", "drill", "bore"], ["spot-8", "drill-20", "bore-c80-04"]),
    "bored through": ("mm", {"work": "bore", "diameter": 26.0, "extent": "through"}, ["spot", "drill", "bore"], []),
    "bored, inch": ("inch", {"work": "bore", "diameter": 1.0, "depth": 1.0}, ["spot", "drill", "bore"], []),
    "plain": ("mm", {"work": "plain", "diameter": 8.5, "spot": "no"}, ["drill"], ["drill-8.5"]),
    "through": ("mm", {"work": "plain", "diameter": 8.5, "extent": "through"}, ["spot", "drill"], []),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_its_stages_are_worked_out_and_prove(name: str) -> None:
    unit, answers, stages, tools = CASES[name]
    planned = plan(holed(unit, **answers))
    step = planned.step("h")
    assert step.troubles == ()
    assert [stage.name for stage in step.stages] == stages
    assert not tools or [stage.tool.id for stage in step.stages] == tools
    proof = prove_job(planned)
    assert not HARM & {r.code for r in proof.remarks}, proof.remarks
    assert proof.proved


def test_a_tap_has_room_below_its_thread() -> None:
    """Lead and a pitch deeper, in full diameter."""
    step = plan(holed(thread="M10", depth=15.0)).step("h")
    drill = next(stage for stage in step.stages if stage.name == "drill")
    assert min(m.u for m in drill.moves if hasattr(m, "u")) < -15.0 - step.filled.lead - 1.5
    assert step.filled.lead == pytest.approx(4 * 1.5)


def test_a_fit_is_bored_to_its_middle_and_measured() -> None:
    job = holed(work="bore", diameter=26.0, depth=30.0)
    job = answering.answered(job, "step:h.diameter", evaluate("26 H7", Kind.LENGTH, "mm"), "26 H7")
    assert read_job_text(job_text(job)) == job
    whole = prove_whole(plan(job))
    assert whole.proved
    gauge = next(g for g in gauges(whole.plan.first, whole.first) if g.text == "26 H7")
    assert gauge.limits == pytest.approx((26.0, 26.021))
    first: Any = whole.first
    inside = first.part.bounds
    assert inside[0] < -30.0
    depth = next(s for s in first.trace.end[:, 0] if abs(2 * s - 26.0105) < 6e-4)
    assert depth


@pytest.mark.parametrize(
    ("answers", "field", "fits", "says"),
    [
        ({"thread": "M10 LH"}, "thread", None, "plain tap"),
        ({"thread": "M10-6g"}, "thread", None, "outside"),
        ({"thread": "1/2 NPT"}, "thread", None, "plain tap"),
        ({"thread": "nonsense"}, "thread", None, "Write it as"),
        ({"thread": "M12"}, "tool", None, "A drill of"),
        ({"work": "ream", "diameter": 20.2}, "work", "bore", "no reamer"),
        ({"work": "plain", "diameter": 13.0}, "tool", None, "The crib has"),
        ({"work": "bore", "diameter": 26.0, "depth": 70.0}, "end_tool", None, "sticks out"),
    ],
)
def test_what_the_shop_lacks_is_said(answers: dict[str, Any], field: str, fits: Any, says: str) -> None:
    troubles = plan(holed(**answers)).step("h").troubles
    assert [(t.field, t.fits) for t in troubles] == [(field, fits)]
    assert says in troubles[0].text


def test_where_there_is_a_hole_already_it_says_so() -> None:
    job, ident = edits.step_added(holed(thread="M10", depth=15.0), "centre-finished", "h")
    (trouble,) = plan(job).step(ident).troubles
    assert "a hole of Ø8.5 already" in trouble.text
    small = plan(turned(TurnFacing(id="f"), CentreFinished(id="a", thread="M5", depth=9.0), CentreFinished(id="b", thread="M10")))
    assert small.step("b").troubles == ()  # a larger one takes it


def test_without_its_tap_the_thread_says_so() -> None:
    job = holed(thread="M10", depth=15.0)
    (trouble,) = plan(tool_removed(job, "tap-m10")).step("h").troubles
    assert (trouble.field, "no tap" in trouble.text) == ("end_tool", True)


@settings(max_examples=many(8))
@given(st.floats(21.5, 40.0), st.floats(5.0, 45.0), st.sampled_from(["mm", "inch"]), st.booleans())
def test_any_bore_is_clean_and_no_pass_takes_too_much(d: float, deep: float, unit: Unit, through: bool) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    d = max(d, 24.5) if unit == "inch" else d
    job = holed(unit, work="bore", diameter=round(d * k, 4), depth=round(deep * k, 4), extent="through" if through else "depth")
    planned = plan(job)
    step = planned.step("h")
    assume(not step.troubles)
    proof: TurnProof = prove_job(planned)
    assert not HARM & {r.code for r in proof.remarks}, proof.remarks
    levels = [step.filled.drill_d / 2, *step.filled._levels(step.ctx)]
    assert all(0.0 < b - a <= BORE_AP * k * (1 + 1e-9) for a, b in itertools.pairwise(levels))
    assert levels[-1] == pytest.approx(d * k / 2, abs=1e-4)


def test_it_is_parted_off_behind() -> None:
    job = turned(
        TurnFacing(id="f"), CentreFinished(id="h", work="plain", diameter=8.5, extent="through"), PartOff(id="p"), finished=40.0
    )
    assert prove_job(plan(job)).proved
