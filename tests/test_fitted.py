"""Curves by a formula, in arcs: how near they come, how many they are, what is wrong with a formula; and turned."""

from __future__ import annotations

import itertools
import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import plan
from bastler.job.outline_edits import curved_on
from bastler.proof import prove_job
from bastler.shapes import Arc, TurnedOutline, draw
from bastler.shapes.chain import points_on
from bastler.shapes.fitted import CurveError, fitted
from bastler.steps import TurnFacing, TurnFinishing, TurnRoughing
from bastler.units import ExpressionError
from bastler.units.expression import function_of
from conftest import codes, many, turned
from outlines import along, up
from outlines import outline as outline_of

ELLIPSE = "2*12*sqrt(1-(z+25)*(z+25)/625)"


def far_off(formula: str, chain: Any) -> float:
    """How far places on a chain lie from a curve of a diameter, up and down."""
    f = function_of(formula, "mm", "z")
    return max(abs(f(z) / 2 - r) for z, r in points_on(chain, 1e-4))


def test_a_ball_is_one_arc() -> None:
    f = function_of("2*sqrt(20*20-(z+20)*(z+20))", "mm", "z")
    (arc,) = fitted(lambda z: f(z) / 2, 0.0, -35.0, 0.001, 10)
    assert isinstance(arc, Arc)
    assert arc.centre == pytest.approx((-20.0, 0.0), abs=1e-6)
    assert arc.end == pytest.approx((-35.0, math.sqrt(400 - 225)))


def test_a_straight_formula_is_one_line() -> None:
    (line,) = fitted(lambda z: 10.0 - z / 4, 0.0, -40.0, 0.001, 10)
    assert not isinstance(line, Arc)
    assert line.end == pytest.approx((-40.0, 20.0))


@pytest.mark.parametrize("within", [0.05, 0.005, 0.0005])
def test_an_ellipse_keeps_within_its_tolerance(within: float) -> None:
    f = function_of(ELLIPSE, "mm", "z")
    chain = fitted(lambda z: f(z) / 2, 0.0, -50.0, within, 600)
    for z, r in points_on(chain, within / 10):
        if -49.0 < z < -1.0:  # across the curve, where that is not steep
            slope = abs(f(z + 1e-4) - f(z - 1e-4)) / 4e-4
            assert abs(f(z) / 2 - r) / math.hypot(1.0, slope) <= 1.1 * within
    assert chain[0].start == pytest.approx((0.0, 0.0))
    assert chain[-1].end == pytest.approx((-50.0, 0.0))
    assert len(chain) < 60
    for a, b in itertools.pairwise(chain):
        assert a.end == b.start


@settings(max_examples=many(25), deadline=None)
@given(st.floats(5.0, 30.0), st.floats(0.1, 4.0), st.floats(5.0, 60.0), st.floats(10.0, 80.0), st.sampled_from([0.002, 0.02]))
def test_any_wave_keeps_within_its_tolerance(middle: float, high: float, wave: float, long: float, within: float) -> None:
    def height(z: float) -> float:
        return middle + high * math.sin(2 * math.pi * z / wave)

    chain = fitted(height, 0.0, -long, within, 600)
    places = np.array(points_on(chain, within / 10))
    phase = 2 * np.pi * places[:, 0] / wave
    # a steep wave is farther off along X than it is across: the tolerance counts across
    steep = np.hypot(1.0, 2 * np.pi * high / wave * np.cos(phase))
    assert (np.abs(middle + high * np.sin(phase) - places[:, 1]) / steep).max() <= 2 * within


def test_more_arcs_than_an_outline_has_are_refused() -> None:
    with pytest.raises(CurveError, match="more than 20 arcs"):
        fitted(lambda z: 20 + math.sin(z * 5), 0.0, -200.0, 1e-4, 20)
    with pytest.raises(CurveError, match="no length"):
        fitted(lambda z: 20.0, 0.0, 0.0, 1e-4, 20)
    with pytest.raises(CurveError, match="gives nothing"):
        fitted(lambda z: math.nan, 0.0, -5.0, 1e-4, 20)


@pytest.mark.parametrize("text", ["", "z+", "2z", "sin z", "y+1", "20°", "10 s", "9" * 300, "z z"])
def test_a_formula_that_is_none_is_said(text: str) -> None:
    with pytest.raises(ExpressionError):
        function_of(text, "mm", "z")


def test_a_formula_may_have_no_value_where_it_is_tried() -> None:
    f = function_of("sqrt(z-100)+1/(z-1.234567)", "mm", "z")
    with pytest.raises(ExpressionError):
        f(0.0)
    assert f(149.0) == pytest.approx(7.0 + 1 / (149.0 - 1.234567))


def test_a_root_of_what_sums_have_lost_is_nothing() -> None:
    assert function_of("sqrt(0.1+0.2-0.3-0.0000000000001+z-z)", "mm", "z")(3.0) == 0.0


def begun(*pieces: Any, d: float = 0.0) -> TurnedOutline:
    return outline_of(id="o", name="o", d=d, z=0.0, pieces=pieces)


def test_an_outline_goes_on_by_a_curve() -> None:
    outline = curved_on(begun(along(-10.0), up(30.0), d=20.0), "30+4*sin((z+10)*12)", -40.0, 0.002, "mm")
    drawn = draw(outline)
    assert not drawn.troubles
    assert len(outline.segments) > 4
    assert drawn.chain[-1].end[0] == pytest.approx(-40.0)
    assert far_off("30+4*sin((z+10)*12)", [s for s in drawn.chain if s.start[0] <= -10.0 and s.start[0] != s.end[0]]) < 0.005


def test_a_step_leads_to_where_a_curve_begins_elsewhere() -> None:
    outline = curved_on(begun(along(-10.0), d=20.0), "30-z/10", -40.0, 0.002, "mm")
    assert [s.kind for s in outline.segments] == ["line", "line", "line"]
    first = curved_on(begun(d=0.0), "24-z/10", -40.0, 0.002, "mm")
    assert first.d == 24.0


@pytest.mark.parametrize(
    ("formula", "to_z", "said"),
    [("10+z", -40.0, "below the centre line"), ("20", -10.0, "no length"), ("sqrt(z)", -40.0, "does not exist")],
)
def test_what_is_wrong_with_a_curve_is_said(formula: str, to_z: float, said: str) -> None:
    with pytest.raises((CurveError, ExpressionError), match=said):
        curved_on(begun(along(-10.0), d=20.0), formula, to_z, 0.002, "mm")


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_bulge_is_turned(unit: Any) -> None:
    """A handle whose waist is an ellipse's; arcs stay arcs in the program."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    bulge = f"{36 * k}+{2 * 6 * k}*sqrt(1-(z+{30 * k})*(z+{30 * k})/{900 * k * k})"
    outline = curved_on(begun(d=36.0 * k), bulge, -50.0 * k, 0.004 * k, unit)
    steps = TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o")
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    proof = prove_job(plan(turned(TurnFacing(id="f"), *steps, outlines=(outline,), unit=unit, **size)))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    finish = next(s for s in proof.stages if s.step == "e")
    assert (proof.trace.kind[finish.begin : finish.end] >= 2).sum() >= 4
