"""Number fields: arithmetic, fractions, units, and where a mistake is."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.units import ExpressionError, Kind, clock, evaluate, figures, number_text, with_unit


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("3.25-2*0.4", "mm", 2.45),
        ("1 1/8", "inch", 1.125),
        ("1 1/8in", "mm", 28.575),
        ("12mm", "inch", 12 / 25.4),
        ("1/2in", "mm", 12.7),
        ("1/2in", "inch", 0.5),
        ("(3+4)mm*2", "mm", 14.0),
        ("-(2-5)", "mm", 3.0),
        ("2cm + 1", "mm", 21.0),
        ("25,4", "mm", 25.4),
        ("25.4mm/2in", "mm", 0.5),
        ("50*sin(30)", "mm", 25.0),
        ("sqrt(16)", "mm", 4.0),
        (" 7 ", "mm", 7.0),
        (".5", "mm", 0.5),
        ("3 × 4", "mm", 12.0),
        ('1 1/2"', "inch", 1.5),
        ("2*3/8", "inch", 0.75),
    ],
)
def test_what_is_typed_means(text: str, unit: str, value: float) -> None:
    assert evaluate(text, Kind.LENGTH, unit) == pytest.approx(value, rel=1e-12)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("text", "place", "word"),
    [
        ("", 0, "Type a number"),
        ("3+", 2, "missing"),
        ("(3+4", 0, "not closed"),
        ("3 4", 2, "not expected"),
        ("3/0", 1, "zero"),
        ("12 apples", 3, "not a unit"),
        ("3$", 1, "means nothing"),
        ("30deg", 0, "angle"),
        ("2mm*3mm", 3, "not one"),
        ("3mm + 2deg", 4, "added"),
        ("sqrt(0-1)", 0, "does not exist"),
        ("foo", 0, "not a number"),
        ("9" * 400, 200, "too long"),
        ("((((((((((((((((((((((((((((((((((((((((((((1", 40, "inside each other"),
    ],
)
def test_a_mistake_is_named_at_its_place(text: str, place: int, word: str) -> None:
    with pytest.raises(ExpressionError) as caught:
        evaluate(text, Kind.LENGTH, "mm")
    assert caught.value.place == place
    assert word in caught.value.reason


def test_a_unit_belongs_to_its_kind() -> None:
    assert evaluate("30deg", Kind.ANGLE, "mm") == 30.0
    assert evaluate("0.5rad", Kind.ANGLE, "mm") == pytest.approx(math.degrees(0.5))
    assert evaluate("250ms", Kind.TIME, "mm") == 0.25
    with pytest.raises(ExpressionError):
        evaluate("3mm", Kind.COUNT, "mm")


@given(st.text(max_size=40))
def test_rubbish_gives_a_number_or_a_sentence(text: str) -> None:
    try:
        assert math.isfinite(evaluate(text, Kind.LENGTH, "mm"))
    except ExpressionError as error:
        assert error.reason
        assert 0 <= error.place <= 200


@given(st.integers(0, 99), st.integers(1, 63), st.sampled_from([2, 4, 8, 16, 32, 64]))
def test_mixed_fractions_are_exact(whole: int, top: int, bottom: int) -> None:
    assert evaluate(f"{whole} {top}/{bottom}", Kind.LENGTH, "inch") == whole + top / bottom


def test_numbers_are_written_without_noise() -> None:
    assert number_text(12.0, Kind.LENGTH, "mm") == "12"
    assert number_text(-0.00001, Kind.LENGTH, "mm") == "0"
    assert number_text(0.375, Kind.LENGTH, "inch") == "0.375"
    assert with_unit(30, Kind.ANGLE, "mm") == "30°"
    assert with_unit(2.5, Kind.LENGTH, "inch") == "2.5 in"
    assert clock(48.4) == "48 s"
    assert clock(872) == "14 min 32 s"
    assert clock(3725) == "1 h 02 min"


@pytest.mark.parametrize(
    ("value", "digits", "says"),
    [(0.0, 2, "0"), (0.2468, 2, "0.25"), (2.0, 2, "2"), (99.7, 2, "100"), (153.4, 2, "153"), (12543.0, 3, "12 543"),
     (0.00000004, 2, "0"), (0.0000123, 2, "0.000012"), (100.0, 3, "100")],
)  # fmt: skip
def test_figures_are_written_out(value: float, digits: int, says: str) -> None:
    assert figures(value, digits) == says


@given(st.floats(1e-3, 1e9), st.integers(2, 4))
def test_figures_are_as_near_as_they_say(value: float, digits: int) -> None:
    read = float(figures(value, digits).replace(" ", ""))
    assert read == pytest.approx(value, rel=0.51 * 10.0 ** (1 - digits))
