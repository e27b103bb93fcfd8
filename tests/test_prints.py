"""The print of a part: which sizes are found on it, what of them becomes an answer, and what is still to be looked at."""

from __future__ import annotations

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.bounds import MARKS
from bastler.job import answering, new_job, plan
from bastler.job.carrying import excerpt
from bastler.job.files import job_text, read_job_text
from bastler.job.prints import (
    Mark,
    Print,
    as_answer,
    limits_of,
    mark_gone,
    mark_put,
    marked,
    not_ticked,
    parted_mark,
    read_again,
    sizes_besides,
    sizes_in,
    tolerance_trouble,
    with_print,
)
from bastler.live.setting_up import setup_sheet
from bastler.proof import prove_whole
from bastler.units import Kind, evaluate
from conftest import job_of, many

MM, INCH = Print(file="a.pdf"), Print(file="a.pdf", unit="inch")


def words_in(text: str) -> list[str]:
    return [found.words for found in sizes_in(text)]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("90", ["90"]),
        ("Ø30 H7", ["Ø30 H7"]),
        ("⌀ 12,5", ["⌀ 12,5"]),
        ("4x Ø6.5", ["4x Ø6.5"]),
        ("6 × M8", ["6 × M8"]),
        ("M24x1.5", ["M24x1.5"]),
        ("1x45°", ["1x45°"]),
        ("30°", ["30°"]),
        ("20 ±0.05", ["20 ±0.05"]),
        ("12 +0.1/-0.2", ["12 +0.1/-0.2"]),
        ("30h6", ["30h6"]),
        ("1 1/8", ["1 1/8"]),
        (".875", [".875"]),
        ("90\n60\r\n12", ["90", "60", "12"]),
        ("SR8 R6", ["SR8", "R6"]),
        ("20 R8", ["20", "R8"]),
        ("12 M6", ["12", "M6"]),
    ],
)
def test_sizes_are_found_as_prints_give_them(text: str, found: list[str]) -> None:
    assert words_in(text) == found


@pytest.mark.parametrize("text", ["1:2", "ISO 2768-mK", "DIN 76", "01.12.2026", "A4", "HW-101", "Ra 3.2", "S355", "0", "12:30"])
def test_scales_dates_standards_and_names_are_no_sizes(text: str) -> None:
    assert words_in(text) == []


@given(st.text(max_size=200))
@settings(max_examples=many(300))
def test_any_text_is_looked_through_and_places_are_those_of_the_words(text: str) -> None:
    for found in sizes_in(text):
        assert 0 <= found.start < found.end <= len(text)
        assert " ".join(text[found.start : found.end].split()) == found.words
        assert parted_mark(found.words) is not None


@pytest.mark.parametrize(
    ("words", "field", "kind", "answer", "value"),
    [
        ("90", "size_x", Kind.LENGTH, "90", 90.0),
        ("Ø30 H7", "diameter", Kind.LENGTH, "30 H7", 30.0105),
        ("Ø30", "corner_radius", Kind.LENGTH, "30/2", 15.0),
        ("R6", "corner_radius", Kind.LENGTH, "6", 6.0),
        ("R6", "diameter", Kind.LENGTH, "2*6", 12.0),
        ("4x Ø6.5", "diameter", Kind.LENGTH, "6.5", 6.5),
        ("4x Ø6.5", "count", Kind.COUNT, "4", 4.0),
        ("1.5x45°", "corner_size", Kind.LENGTH, "1.5", 1.5),
        ("30°", "angle", Kind.ANGLE, "30", 30.0),
        ("12,5", "depth", Kind.LENGTH, "12,5", 12.5),
        ("20 ±0.05", "length", Kind.LENGTH, "20 ±0.05", 20.0),
    ],
)
def test_a_size_becomes_what_is_typed_into_a_field(words: str, field: str, kind: Kind, answer: str, value: float) -> None:
    text = as_answer(Mark(words=words), MM, "mm", field, kind)
    assert text == answer
    assert evaluate(text, kind, "mm") == pytest.approx(value)


def test_a_print_in_the_other_unit_says_its_unit() -> None:
    """A number fit for mm is never taken for inches, and the other way."""
    assert evaluate(as_answer(Mark(words="25.4"), MM, "inch", "length", Kind.LENGTH), Kind.LENGTH, "inch") == pytest.approx(1.0)
    assert evaluate(as_answer(Mark(words="1.5"), INCH, "mm", "length", Kind.LENGTH), Kind.LENGTH, "mm") == pytest.approx(38.1)
    assert evaluate(as_answer(Mark(words="1 1/8"), INCH, "mm", "length", Kind.LENGTH), Kind.LENGTH, "mm") == pytest.approx(28.575)
    half = as_answer(Mark(words="Ø30"), MM, "inch", "corner_radius", Kind.LENGTH)
    assert evaluate(half, Kind.LENGTH, "inch") == pytest.approx(15 / 25.4)
    fit = as_answer(Mark(words="Ø30 H7"), MM, "inch", "diameter", Kind.LENGTH)
    assert evaluate(fit, Kind.LENGTH, "inch") == pytest.approx(30.0105 / 25.4, abs=1e-6)
    assert as_answer(Mark(words="4x Ø6"), MM, "inch", "count", Kind.COUNT) == "4"


def test_words_go_into_a_field_of_words_as_they_are() -> None:
    assert as_answer(Mark(words="M24x1.5"), MM, "inch", "thread", None) == "M24x1.5"


def test_marks_come_go_and_are_ticked_off() -> None:
    job = with_print(new_job(), msgspec.structs.replace(MM, marks=(Mark(words="90"), Mark(words="R6"))))
    assert [m.words for m in not_ticked(job)] == ["90", "R6"]
    job = marked(job, 0, state="ticked")
    job = mark_put(job, Mark(box=(0.5, 0.5, 0.0, 0.0)))
    assert [m.said for m in not_ticked(job)] == ["R6", "a mark on page 1"]
    job = marked(mark_gone(job, 2), 1, state="aside")
    assert not_ticked(job) == ()
    assert mark_gone(job, 7) == job
    assert marked(job, -1, state="open") == job
    assert not_ticked(new_job()) == ()


def test_there_are_no_more_marks_than_there_may_be() -> None:
    full = with_print(new_job(), msgspec.structs.replace(MM, marks=(Mark(words="1"),) * MARKS.most))
    assert mark_put(full, Mark(words="2")) is full


def test_a_print_read_again_keeps_what_is_known_of_it() -> None:
    """What was ticked off stays so where it stands; another number in its place is not ticked off."""
    at = (0.1, 0.2, 0.05, 0.02)
    known = Mark(words="90", box=at, state="ticked", goes_to="stock.size_x", limits="±0.1")
    by_hand = Mark(box=(0.7, 0.7, 0.0, 0.0), state="ticked")
    of = msgspec.structs.replace(MM, marks=(known, by_hand))
    same = read_again(of, [Mark(words="90", box=(0.105, 0.2, 0.05, 0.02))])
    assert (same.marks[0].state, same.marks[0].limits, same.marks[1]) == ("ticked", "±0.1", by_hand)
    other = read_again(of, [Mark(words="91", box=at), Mark(words="90", box=(0.5, 0.2, 0.05, 0.02))])
    assert [m.state for m in other.marks] == ["open", "open", "ticked"]
    assert read_again(of, [msgspec.structs.replace(known, state="open", goes_to="", limits="")]) == of


def test_a_tolerance_is_a_tolerance() -> None:
    assert tolerance_trouble(Mark(words="90"), MM, "±0.1") == ""
    assert tolerance_trouble(Mark(words="Ø30"), MM, "H7") == ""
    assert tolerance_trouble(Mark(words="90"), MM, "") == ""
    assert "±0.1" in tolerance_trouble(Mark(words="90"), MM, "tight")
    assert tolerance_trouble(Mark(words="90"), MM, "7")
    assert tolerance_trouble(Mark(words="900"), MM, "H7").startswith("Fits are known")
    assert tolerance_trouble(Mark(words="90"), MM, "±" + "0" * 200)
    assert limits_of(Mark(words="90", limits="+0.1/-0.2"), MM) == pytest.approx((89.8, 90.1))


def test_what_went_into_no_answer_is_measured_all_the_same() -> None:
    """A tolerance on the print is in the list of sizes: by its answer where it went into one, else by itself."""
    marks = (
        Mark(words="45", limits="±0.05"),
        Mark(words="12 ±0.1", goes_to="stock.size_z"),
        Mark(words="7 ±0.1", state="aside"),
        Mark(words="30"),
    )
    job = with_print(job_of(), msgspec.structs.replace(MM, marks=marks))
    assert [(m.words, tuple(off)) for m, off in sizes_besides(job)] == [("45", pytest.approx((44.95, 45.05)))]
    lines = [line for line in setup_sheet(prove_whole(plan(job))).sizes if line.title == "On the print"]
    assert [(line.text, line.unit, line.limits) for line in lines] == [("45 ±0.05", "mm", pytest.approx((44.95, 45.05)))]
    inch = with_print(new_job("inch"), msgspec.structs.replace(MM, marks=marks[:1]))
    (line,) = [s for s in setup_sheet(prove_whole(plan(inch))).sizes if s.title == "On the print"]
    assert line.unit == "mm"
    assert line.limits == pytest.approx((44.95 / 25.4, 45.05 / 25.4))


def test_a_job_keeps_its_print_in_its_file_and_gives_it_to_nobody() -> None:
    job = with_print(job_of(), msgspec.structs.replace(MM, marks=(Mark(words="90", state="ticked"),)))
    assert read_job_text(job_text(job)) == job
    assert excerpt(job).print is None
    assert answering.answered(job, "stock.size_x", 91.0).print == job.print


def test_a_print_changes_neither_program_nor_proof() -> None:
    bare = job_of()
    job = with_print(bare, msgspec.structs.replace(MM, marks=(Mark(words="90"),)))
    one, other = prove_whole(plan(bare)), prove_whole(plan(job))
    assert [h.program.text for h in one.holdings] == [h.program.text for h in other.holdings]
    assert [h.proved for h in one.holdings] == [h.proved for h in other.holdings]
