"""A chip as thick in an inner corner as on a cylinder, and no rests on a face that stays."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, plan
from bastler.motion.turning.view import SLOWEST, held
from bastler.proof import prove_job
from bastler.shapes import Arc, Line
from bastler.steps import CentreHole, TurnFacing, TurnFinishing, TurnRoughing
from conftest import codes, many, turned
from outlines import along, blend, outline, up

INCH = 25.4


def shouldered(radius: float, unit: str = "mm", inside: bool = False, **answers: Any) -> Job:
    """A shoulder with an inner radius, roughed and finished, outside or in a bore."""
    k = 1.0 if unit == "mm" else 1 / INCH
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    end = (up(28 * k), along(-40 * k)) if inside else (up(62 * k),)
    shape = outline(id="o", d=44 * k, pieces=(along(-20 * k), blend(radius * k), *end), inside=inside)
    drill = [CentreHole(id="d", work="drill", diameter=20.0 if unit == "mm" else 0.875, depth=50 * k)] if inside else []
    steps = (TurnFacing(id="f"), *drill, TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o", **answers))
    return turned(*steps, outlines=(shape,), unit=unit, **size)


@settings(max_examples=many(12), deadline=None)
@given(st.floats(0.9, 6.0), st.sampled_from(["mm", "inch"]), st.booleans())
def test_the_feed_along_an_inner_corner_is_what_was_asked(radius: float, unit: str, inside: bool) -> None:
    k = 1.0 if unit == "mm" else 1 / INCH
    planned = plan(shouldered(radius, unit, inside, speed="fixed"))
    step: Any = planned.steps[-1]
    assert not step.troubles, step.troubles
    proof: Any = prove_job(planned)
    own = next(s for s in proof.stages if s.step == "e")
    trace, nose, asked = proof.trace, step.ctx.turn_tool(step.filled.tool).nose, step.filled.f
    rows = np.arange(own.begin, own.end)
    arcs = rows[trace.turn[rows] != 0.0]
    way = np.hypot(*(trace.start[arcs] - trace.centre[arcs])[:, [0, 2]].T)
    inner = arcs[np.abs(way - (radius * k - nose)) < 5e-3 * k]
    assert len(inner)
    feeds = trace.feed[inner] / trace.speed[inner]
    own_way = radius * k - nose
    wanted = asked * max(own_way / (own_way + nose), SLOWEST)
    assert feeds == pytest.approx(np.full(len(inner), wanted), rel=0.02)


def test_only_inner_corners_are_slower() -> None:
    inner, outer = Arc((0, 1), (-1, 2), (0, 2), False), Arc((0, 1), (-1, 0), (0, 0), True)
    assert held(inner, 0.5) == pytest.approx(1.0 / 1.5)
    assert held(outer, 0.5) == held(Line((0, 0), (-1, 0)), 0.5) == 1.0
    assert held(inner, 0.0) == 1.0
    assert held(Arc((0, 0.01), (-0.01, 0.02), (0, 0.02), False), 0.8) == SLOWEST


@pytest.mark.parametrize(("chips", "marks"), [("steady", False), ("rest", True), ("back", False)])
def test_rests_on_the_finished_face_are_said(chips: Any, marks: bool) -> None:
    straight = turned(
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o", chips="rest"),
        TurnFinishing(id="e", outline="o", chips=chips, turns_on=30.0),
        outlines=(outline(id="o", d=50.0, pieces=(along(-30.0), up(62.0))),),
    )
    proof = prove_job(plan(straight))
    assert ("dwell-mark" in codes(proof, "caution")) == marks
    assert not [r for r in proof.remarks if r.code == "dwell-mark" and r.step != "e"]
