"""Deep holes behind a pilot, and flat floors, on the centre line: how the drill comes in, what is left, what the shop lacks."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest
import shapely

from bastler.job import Job, answering, plan
from bastler.proof import prove_job
from bastler.steps import CentreFinished, CentreHole, TurnFacing
from bastler.tools import Tool
from conftest import codes, turned

FACE = TurnFacing(id="f")
PILOT = CentreHole(id="a", diameter=8.5, depth=20.0)


def deep(method: str = "once", machine: str = "lathe-200", **answers: Any) -> Job:
    long = CentreHole(id="b", diameter=8.5, depth=60.0, pilot="yes", method=method, **answers)  # type: ignore[arg-type]
    return turned(FACE, PILOT, long, machine=machine)


@pytest.mark.parametrize("machine", ["lathe-200", "lathe-bench"])
@pytest.mark.parametrize("method", ["once", "peck", "chip-break"])
def test_a_long_drill_turns_fast_only_where_it_is_guided(method: str, machine: str) -> None:
    planned = plan(deep(method, machine))
    step: Any = planned.steps[-1].filled
    assert not planned.steps[-1].troubles
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    trace = proof.trace
    own = next(s for s in proof.stages if s.step == "b")
    rows = slice(own.begin, own.end)
    fast = trace.speed[rows] > step.enter_n * 1.01
    outside = trace.start[rows, 2] > -16.0
    assert not fast[outside & (trace.kind[rows] == 1)].any(), "it comes in slowly"
    assert fast[(trace.end[rows, 2] < -25.0) & (trace.kind[rows] == 1)].all()
    assert trace.speed[rows][-2:].max() <= step.enter_n * 1.01, "and goes out slowly"
    assert trace.end[rows, 2].min() == pytest.approx(-60.0 - step.tip(planned.steps[-1].ctx), abs=1e-3)


def test_it_comes_in_within_half_a_minute() -> None:
    """A feed for cutting at a tenth of the speed would take minutes."""
    with_pilot = prove_job(plan(deep())).total
    without = prove_job(plan(answering.answered(deep(), "step:b.pilot", "no"))).total
    assert with_pilot - without < 10.0


def test_a_pilot_has_to_be_there() -> None:
    long = CentreHole(id="b", diameter=8.5, depth=60.0, pilot="yes")
    assert "no hole as deep" in plan(turned(FACE, long)).steps[-1].troubles[0].text
    shallow = msgspec.structs.replace(PILOT, depth=5.0)
    assert "no hole as deep" in plan(turned(FACE, shallow, long)).steps[-1].troubles[0].text
    narrow = msgspec.structs.replace(PILOT, diameter=6.8)
    assert "no hole as deep" in plan(turned(FACE, narrow, long)).steps[-1].troubles[0].text
    assert plan(deep(enter_n=9000.0)).steps[-1].troubles[0].field == "enter_n"
    assert plan(deep(enter_n=1.0)).steps[-1].troubles[0].field == "enter_n"


def with_drill(job: Job, diameter: float) -> Job:
    """A job whose drill of 8.5 is another one."""
    return with_tool(job, "drill-8.5", diameter)


def with_tool(job: Job, ident: str, diameter: float) -> Job:
    """A job in which a tool has another diameter."""
    tools = [
        msgspec.structs.replace(t, diameter=diameter, shank_diameter=diameter) if isinstance(t, Tool) and t.id == ident else t
        for t in job.tools
    ]
    return msgspec.structs.replace(job, tools=tuple(tools))


def test_a_floor_is_flat() -> None:
    job = with_drill(turned(FACE, CentreFinished(id="h", work="plain", diameter=10.0, depth=24.0, floor="flat")), 10.0)
    planned = plan(job)
    assert [stage.name for stage in planned.steps[-1].stages] == ["spot", "drill", "flat"]
    proof: Any = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    hole = shapely.box(-40.0, 0.0, 0.0, 5.0).difference(proof.part)
    assert hole.bounds[0] == pytest.approx(-24.0, abs=1e-3)
    assert shapely.box(-24.0, 0.0, -5.0, 5.0).difference(hole).area < 0.01


def test_a_bored_hole_has_a_flat_floor() -> None:
    job = turned(FACE, CentreFinished(id="h", work="bore", diameter=30.0, depth=30.0, floor="flat"))
    assert "on its other side" in plan(job).steps[-1].troubles[0].text
    job = with_tool(job, "end-10", 19.8)
    proof: Any = prove_job(plan(job))
    assert not codes(proof, "stop")
    hole = shapely.box(-50.0, 0.0, 0.0, 14.0).difference(proof.part)
    assert hole.bounds[0] == pytest.approx(-30.0, abs=1e-3)
    assert shapely.box(-30.0, 0.0, -5.0, 14.0).difference(hole).area < 0.01


def test_what_the_shop_lacks_for_a_flat_floor_is_said() -> None:
    plain = turned(FACE, CentreFinished(id="h", work="plain", diameter=8.5, floor="flat"))
    trouble = plan(plain).steps[-1].troubles[0]
    assert "no end mill of 8.5" in trouble.text
    assert trouble.fits == "tip"
    tight = turned(FACE, CentreFinished(id="h", work="bore", diameter=24.0, depth=30.0, floor="flat"))
    assert "on its other side" in plan(tight).steps[-1].troubles[0].text
    hardly = with_drill(turned(FACE, CentreFinished(id="h", work="plain", diameter=10.0, depth=1.0, floor="flat")), 10.0)
    assert "drill's tip" in plan(hardly).steps[-1].troubles[0].text


def test_the_floor_of_a_hole_that_is_there_is_flattened_by_itself() -> None:
    job = turned(FACE, CentreHole(id="a", diameter=9.8, depth=20.0), CentreHole(id="b", work="flat", diameter=10.0, depth=23.0))
    proof = prove_job(plan(job))
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
