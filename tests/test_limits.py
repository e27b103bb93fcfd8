"""Sizes typed with their tolerance: limits against the tables of ISO 286, what is cut, and that each comes to be measured."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.ask import limits_said, size_typed
from bastler.cutting import largest
from bastler.job import Job, answering, edits, plan
from bastler.job.files import job_text, read_job_text
from bastler.live.gauging import gauges
from bastler.live.setting_up import setup_sheet
from bastler.proof import prove_whole
from bastler.shapes import TurnedOutline
from bastler.steps import PartOff, RoundPocket, TurnFacing, TurnFinishing, TurnRoughing
from bastler.units import ExpressionError, Kind, Unit, evaluate, limits_typed
from bastler.units.limits import ABOVE, BELOW, GRADES, RANGES, LimitsError, fit_off
from conftest import job_of, turned
from outlines import along, up
from outlines import outline as outline_of

FITS = {  # ISO 286-2, in µm
    ("h6", 30): (-13, 0), ("h7", 80): (-30, 0), ("h9", 12): (-43, 0), ("h11", 50): (-160, 0), ("g6", 25): (-20, -7),
    ("g6", 80): (-29, -10), ("f7", 10): (-28, -13), ("f7", 40): (-50, -25), ("e8", 20): (-73, -40), ("d9", 60): (-174, -100),
    ("js6", 30): (-6.5, 6.5), ("k6", 25): (2, 15), ("k6", 3): (0, 6), ("k6", 100): (3, 25), ("m6", 40): (9, 25),
    ("n6", 50): (17, 33), ("p6", 30): (22, 35), ("p6", 120): (37, 59), ("r6", 60): (41, 60), ("r6", 100): (51, 73),
    ("s6", 70): (59, 78),
    ("s6", 100): (71, 93), ("s6", 150): (100, 125),
    ("H7", 52): (0, 30), ("H8", 100): (0, 54), ("H11", 18): (0, 110), ("H6", 8): (0, 9), ("G7", 30): (7, 28),
    ("F8", 20): (20, 53),
    ("E9", 40): (50, 112), ("D10", 25): (65, 149), ("JS7", 30): (-10.5, 10.5), ("K7", 30): (-15, 6), ("K6", 25): (-11, 2),
    ("M7", 20): (-21, 0), ("M6", 280): (-41, -9), ("N7", 40): (-33, -8), ("N9", 40): (-62, 0), ("N9", 2): (-29, -4),
    ("P7", 50): (-42, -17), ("P9", 30): (-74, -22), ("R7", 60): (-60, -30), ("S7", 30): (-48, -27),
}  # fmt: skip


@pytest.mark.parametrize(("of", "wanted"), FITS.items())
def test_fits_are_those_of_the_table(of: tuple[str, float], wanted: tuple[float, float]) -> None:
    off = fit_off(*of)
    assert (1000 * off.low, 1000 * off.high) == pytest.approx(wanted, abs=1e-9)


@given(st.sampled_from([*BELOW, *ABOVE]), st.sampled_from(sorted(GRADES)), st.floats(0.1, 500.0))
def test_a_tolerance_is_as_wide_as_its_grade_and_a_hole_of_a_clearing_fit_mirrors_its_shaft(
    letter: str, grade: int, size: float
) -> None:
    shaft = fit_off(f"{letter}{grade}", size)
    k = next(k for k, most in enumerate(RANGES) if size <= most)
    assert 1000 * (shaft.high - shaft.low) == pytest.approx(GRADES[grade][k])
    if letter in BELOW:
        hole = fit_off(f"{letter.upper()}{grade}", size)
        assert (hole.low, hole.high) == pytest.approx((-shaft.high, -shaft.low))
        assert shaft.high <= 0.0


@pytest.mark.parametrize("fit", ["H3", "H99", "x6", "K9", "", "6", "h"])
def test_what_is_no_fit_is_a_sentence(fit: str) -> None:
    with pytest.raises((LimitsError, ValueError)):
        fit_off(fit, 30.0)
    with pytest.raises(LimitsError, match="up to 500"):
        fit_off("h6", 501.0)


def test_reamed_holes_have_the_same_tables() -> None:
    assert largest(10.0, "H7") == pytest.approx(10.015)
    assert largest(600.0, "H7") is None


TYPED: dict[str, tuple[float, float, float]] = {
    "30 h6": (29.9935, 29.987, 30.0),
    "30h6": (29.9935, 29.987, 30.0),
    "52 H7": (52.015, 52.0, 52.03),
    "12 +0.05/-0.02": (12.015, 11.98, 12.05),
    "12+0,05/-0,02": (12.015, 11.98, 12.05),
    "12.5 ±0.1": (12.5, 12.4, 12.6),
    "12.5 +/- 0.1": (12.5, 12.4, 12.6),
    ".875 +.000/-.002": (0.874, 0.873, 0.875),
    "12 +0.1/0": (12.05, 12.0, 12.1),
    "12 0/-0.1": (11.95, 11.9, 12.0),
    "20 -0.02/-0.05": (19.965, 19.95, 19.98),
    "2*15 h6": (29.9935, 29.987, 30.0),
    "(10+20) h6 at 29.99": (29.99, 29.987, 30.0),
    "-20 ±0.1": (-20.0, -20.1, -19.9),
    "1 1/8 ±0.005": (1.125, 1.12, 1.13),
}


@pytest.mark.parametrize(("text", "wanted"), TYPED.items())
def test_a_size_is_read_as_the_print_gives_it(text: str, wanted: tuple[float, float, float]) -> None:
    assert evaluate(text, Kind.LENGTH, "mm") == pytest.approx(wanted[0], abs=1e-12)
    assert limits_typed(text, "mm") == pytest.approx(wanted[1:], abs=1e-12)


def test_a_fit_counts_in_millimetres_whatever_the_job_counts_in() -> None:
    assert evaluate("1 h7", Kind.LENGTH, "inch") == pytest.approx(1.0 - 0.0105 / 25.4)
    assert evaluate("25.4mm h7", Kind.LENGTH, "inch") == pytest.approx(1.0 - 0.0105 / 25.4)
    assert limits_typed("1.000 +.000/-.002", "inch") == pytest.approx((0.998, 1.0))


@pytest.mark.parametrize(
    ("text", "unit", "wanted"),
    [
        ("12mm ±0.1", "inch", (11.9 / 25.4, 12.1 / 25.4)),
        ("1/2in +0.01/-0.02", "mm", (12.7 - 0.508, 12.7 + 0.254)),
        ('1" ±.005', "mm", (25.4 - 0.127, 25.4 + 0.127)),
        ("12 mm ±0.1", "mm", (11.9, 12.1)),
        ("(1in + 1mm) ±0.1", "mm", (26.3, 26.5)),
        ("12 ±0.1", "inch", (11.9, 12.1)),
    ],
)
def test_a_tolerance_counts_in_the_unit_of_its_size(text: str, unit: Unit, wanted: tuple[float, float]) -> None:
    assert limits_typed(text, unit) == pytest.approx(wanted)


@pytest.mark.parametrize("text", ["3+1/2", "1 1/8", "5+-3", "12mm", "30", "4/5", "2*(3-1)/-4", "10-0.5", "sqrt(4)", "1/2in"])
def test_arithmetic_is_no_tolerance(text: str) -> None:
    assert limits_typed(text, "mm") is None
    assert math.isfinite(evaluate(text, Kind.LENGTH, "mm"))


@pytest.mark.parametrize(
    ("text", "says"),
    [("30 h6 at 31", "between the limits"), ("600 h7", "up to 500"), ("30 K9", "no fit"), ("30 h3", "no fit"), ("h6", "not"),
     ("±0.1", "means")],
)  # fmt: skip
def test_what_is_none_is_said(text: str, says: str) -> None:
    with pytest.raises(ExpressionError, match=says):
        evaluate(text, Kind.LENGTH, "mm")


def test_only_lengths_have_tolerances() -> None:
    for kind in (Kind.ANGLE, Kind.COUNT, Kind.SPINDLE_SPEED, Kind.FEED_RATE):
        with pytest.raises(ExpressionError):
            evaluate("30 h6", kind, "mm")


@given(st.text(alphabet='0123456789.,+-/±hHkKjJsS atmn()"', max_size=20), st.sampled_from(["mm", "inch"]))
def test_rubbish_is_a_number_or_a_sentence(text: str, unit: Unit) -> None:
    try:
        value = evaluate(text, Kind.LENGTH, unit)
    except ExpressionError as error:
        assert str(error)
    else:
        assert math.isfinite(value)
        off = limits_typed(text, unit)
        assert off is None or off.low - 1e-9 <= value <= off.high + 1e-9


@given(st.floats(0.5, 400.0), st.sampled_from(["h6", "H7", "±0.02", "+0.1/-0.3", "k6"]), st.sampled_from(["mm", "inch"]))
def test_what_is_cut_lies_in_the_middle_of_the_limits(size: float, tolerance: str, unit: Unit) -> None:
    if unit == "inch":
        size /= 25.4
    text = f"{size:.4f} {tolerance}"
    off = limits_typed(text, unit)
    assert off is not None
    assert evaluate(text, Kind.LENGTH, unit) == pytest.approx((off.low + off.high) / 2, abs=1e-8)


# -- in a job ---------------------------------------------------------------------------------------------------------


def typed(job: Job, address: str, text: str) -> Job:
    """An answer as it is typed into its field."""
    return answering.answered(job, address, evaluate(text, Kind.LENGTH, job.unit), text)


def shaft() -> Job:
    outline = outline_of(id="o", name="shaft", d=30.0, z=0.0, pieces=(along(-25), up(44.0), along(-50), up(62.0)))
    steps = TurnFacing(id="f"), TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o")
    return typed(typed(turned(*steps, outlines=(outline,)), "outline:o.d", "30 h6"), "outline:o.segments.1.d", "44 +0.05/-0.02")


def test_the_size_with_its_tolerance_is_kept_cut_and_measured() -> None:
    job = shaft()
    assert read_job_text(job_text(job)) == job
    whole = prove_whole(plan(job))
    assert whole.proved
    outline = job.outline("o")
    assert isinstance(outline, TurnedOutline)
    assert outline.d == 29.9935
    # the cylinder of the part as cut, between its limits
    xs = {round(2 * float(x), 3) for x in whole.first.trace.end[:, 0]}
    assert 29.994 in xs or 29.993 in xs
    found = {g.text: g for g in gauges(whole.plan.first, whole.first)}
    assert found["30 h6"].limits == pytest.approx((29.987, 30.0))
    assert not found["30 h6"].general
    assert found["44 +0.05/-0.02"].limits == pytest.approx((43.98, 44.05))
    lines = {line.text: line.limits for line in setup_sheet(whole).sizes}
    assert lines["30 h6"] == pytest.approx((29.987, 30.0))


def test_the_length_of_a_turned_part_has_its_limits_too() -> None:
    job = typed(turned(TurnFacing(id="f"), PartOff(id="p")), "stock.finished", "60 ±0.05")
    whole = prove_whole(plan(job))
    gauge = next(g for g in gauges(whole.plan.first, whole.first) if g.title == "The whole part")
    line = next(line for line in setup_sheet(whole).sizes if line.number == 0)
    assert gauge.text == line.text == "60 ±0.05"
    assert gauge.limits == line.limits == pytest.approx((59.95, 60.05))


def test_a_size_that_nobody_has_a_dimension_for_is_measured_all_the_same() -> None:
    job = typed(job_of(RoundPocket(id="p", x=30, y=20, diameter=20.0, depth=5.0)), "step:p.depth", "5 ±0.02")
    job = typed(job, "step:p.leave_wall", "0.3 ±0.01")
    whole = prove_whole(plan(job))
    found = {g.text: g.limits for g in gauges(whole.plan.first, whole.first)}
    assert found["5 ±0.02"] == pytest.approx((4.98, 5.02))
    assert found["0.3 ±0.01"] == pytest.approx((0.29, 0.31))


def test_a_depth_below_zero_has_its_limits_without_the_sign() -> None:
    job = typed(turned(TurnFacing(id="f")), "step:f.finish_z", "-1 ±0.05")
    struct: Any = job.step("f")
    assert limits_said(struct, "finish_z", "mm") == pytest.approx((0.95, 1.05))
    assert size_typed(struct, "finish_z", "mm") == "1 ±0.05"


def test_what_has_moved_since_has_lost_its_tolerance() -> None:
    """A repetition farther on, a cure, a drag: the text belongs to another number."""
    job = typed(turned(TurnFacing(id="f")), "step:f.finish_z", "-1 ±0.05")
    step: Any = job.step("f")
    moved: Any = edits.replace(step, finish_z=-2.0)
    assert limits_said(moved, "finish_z", "mm") is None
    assert size_typed(moved, "finish_z", "mm") == ""
    again = answering.answered(job, "step:f.finish_z", -1.5)
    kept: Any = again.step("f")
    assert kept.typed == {}
