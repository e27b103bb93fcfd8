"""The lessons by themselves: what they ask for makes the part on their print, and typing is no more than that takes."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest

from bastler.ask import question_of
from bastler.bounds import MARKS
from bastler.job import Job, answering, edits, new_job, outline_edits, plan
from bastler.job.prints import Mark, Print, limits_of, parted_mark, sizes_in, with_print
from bastler.lessons import (
    Lesson,
    Seen,
    answer_to,
    at_item,
    done,
    lesson_named,
    lessons,
    resolved,
    typed_items,
    what_is_wrong,
)
from bastler.lessons.drawing import PathError, pieces
from bastler.lessons.lesson import Item
from bastler.lessons.where import step_of
from bastler.proof import prove_whole
from bastler.units import Kind, evaluate

LESSONS = {lesson.name: lesson for lesson in lessons()}
MOST = 1.3
"""Answers that are typed, for each number on the print."""
EFFORT = Path(__file__).parents[1] / "docs" / "effort.md"


def with_item(job: Job, item: Item, selected: str) -> tuple[Job, str]:
    """A job with what an item asks for."""
    if item.adds == "turned-over":
        job, held = edits.holding_added(job, "over-y")
        return job, f"holding:{held}"
    if item.adds:
        return edits.step_added(job, item.adds.partition("#")[0], selected)
    if not item.at:
        return job, selected
    address = resolved(job, item.at)
    if item.at.endswith(".pattern"):
        step = step_of(job, item.at.partition(".")[0])
        assert step is not None
        return edits.pattern_for(job, step.id, str(item.wants)), selected
    if item.at.endswith(".kind"):
        at = int(address.split(".")[-2])
        return answering.outline_given(job, outline_edits.become(job.outlines[-1], at, item.wants)), selected  # type: ignore[arg-type]
    struct, field = answering.at(job, address)
    kind = question_of(type(struct), field).kind
    value = None if item.empty else item.wants if kind is None else evaluate(str(item.wants), kind, job.unit)
    return answering.answered(job, address, int(value) if kind is Kind.COUNT and isinstance(value, float) else value), selected


def begun(lesson: Lesson) -> Job:
    marks = tuple(Mark(words=dim.words) for dim in lesson.print.dims)
    return with_print(new_job(lesson.unit, lesson.machine), Print(file=lesson.file, marks=marks))


def made(lesson: Lesson, count: int | None = None) -> Job:
    """The job after so many items, or all of them."""
    job, selected = begun(lesson), ""
    for item in lesson.items[:count]:
        job, selected = with_item(job, item, selected)
    return job


@pytest.mark.parametrize("name", LESSONS)
def test_the_part_of_a_lesson_is_proved(name: str) -> None:
    proof = prove_whole(plan(made(LESSONS[name])))
    assert proof.proved
    assert {remark.level for held in proof.holdings for remark in held.remarks} <= {"note"}


@pytest.mark.parametrize("name", LESSONS)
def test_nothing_is_asked_for_that_is_there_already(name: str) -> None:
    """An item that is done before it is come to would be passed over unseen."""
    lesson = LESSONS[name]
    for k, item in enumerate(lesson.items):
        if not item.goes and not item.ends:
            assert not done(made(lesson, k), item, Seen()), (k, item.says)
            assert done(made(lesson, k + 1), item, Seen()), (k, item.says)


@pytest.mark.parametrize("name", LESSONS)
def test_a_lesson_says_one_thing_at_a_time_and_names_what_there_is(name: str) -> None:
    lesson = LESSONS[name]
    sizes = [dim.id for dim in lesson.print.dims]
    assert len(set(sizes)) == len(sizes) <= MARKS.most
    for item in lesson.items:
        waits = [bool(item.at), bool(item.adds), bool(item.goes), bool(item.ends)]
        assert sum(waits) == 1, item
        assert not item.size or item.size in sizes, item
        assert 5 < len(item.says) <= 200, item
        assert item.says.count("*") % 2 == 0, item
    assert [item.ends for item in lesson.items[-2:]] == ["proved", "saved"]
    for dim in lesson.print.dims:
        assert [found.words for found in sizes_in(dim.words)] == [dim.words], "a size is one that is found on any print"


@pytest.mark.parametrize("name", LESSONS)
def test_what_is_wanted_is_what_the_print_says(name: str) -> None:
    """The number that an item waits for is that on the print, or the sum that its words give."""
    lesson = LESSONS[name]
    words = {dim.id: dim.words for dim in lesson.print.dims}
    for item in lesson.items:
        if item.size and isinstance(item.wants, float | int):
            taken = parted_mark(words[item.size])
            assert taken is not None
            on_print = evaluate(taken.size, Kind.LENGTH, lesson.unit)
            assert abs(float(item.wants)) == on_print or f"{on_print:g}+" in item.says or f"+ {on_print:g}" in item.says, item


@pytest.mark.parametrize("name", LESSONS)
def test_a_lesson_is_where_the_job_is(name: str) -> None:
    """After any number of items it waits for the next one; what was gone to is behind it once more is done."""
    lesson = LESSONS[name]
    for k, item in enumerate(lesson.items):
        if item.goes or item.ends:
            continue
        at = at_item(made(lesson, k), lesson, Seen())
        assert all(lesson.items[j].goes for j in range(at, k)), (k, at)
    whole = made(lesson)
    assert lesson.items[at_item(whole, lesson, Seen())].goes or lesson.items[at_item(whole, lesson, Seen())].ends
    gone = Seen(gone={item.goes for item in lesson.items}, proved=True, saved=True)
    ticked = with_print(whole, Print(file=lesson.file))
    assert at_item(ticked, lesson, gone) == len(lesson.items)


def test_what_is_wrong_with_an_answer_is_said() -> None:
    lesson = LESSONS["plate"]
    item = lesson.items[0]
    said = {}
    for value in (90.0, 9.0, 900.0, 45.0, 180.0, 60.0, -90.0, 90 / 25.4, 77.0):
        job = msgspec.structs.replace(begun(lesson), stock=msgspec.structs.replace(begun(lesson).stock, size_x=value))
        said[value] = what_is_wrong(job, lesson, item)
        assert answer_to(job, item) == value
    assert said[90.0] == ""
    assert "a tenth" in said[9.0]
    assert "ten times" in said[900.0]
    assert "half of it" in said[45.0]
    assert "twice" in said[180.0]
    assert "another size" in said[60.0]
    assert "sign" in said[-90.0]
    assert "millimetres" in said[90 / 25.4]
    assert said[77.0] == "77 is not it. It is 90."


def test_a_fit_without_its_letters_is_no_fit() -> None:
    lesson = LESSONS["plate"]
    item = Item(says="A fit, as the print has it.", at="stock.size_x", wants="20 H7")
    bare = answering.answered(begun(lesson), "stock.size_x", 20.0105, "20.0105")
    assert not done(bare, item, Seen())
    assert "tolerance is missing" in what_is_wrong(bare, lesson, item)
    assert done(answering.answered(bare, "stock.size_x", 20.0105, "20 H7"), item, Seen())
    assert limits_of(Mark(words="20 H7"), Print(file="")) == pytest.approx((20.0, 20.021))


def test_a_choice_and_a_place_that_is_not_there_yet() -> None:
    lesson = LESSONS["turned"]
    pulled = next(item for item in lesson.items if item.wants == "pulled")
    assert what_is_wrong(begun(lesson), lesson, pulled) == ""
    assert answer_to(begun(lesson), pulled) is None
    assert resolved(begun(lesson), "thread.exit") == ""
    assert "Pulled out" in what_is_wrong(made(lesson, lesson.items.index(pulled)), lesson, pulled)
    assert resolved(begun(lesson), "holding#2.grip") == ""
    assert resolved(begun(lesson), "holding.stick_out") == "holding:h1.stick_out"


def test_lessons_have_names() -> None:
    assert lesson_named("plate") is LESSONS["plate"]
    assert lesson_named("../plate") is None


@pytest.mark.parametrize("name", LESSONS)
def test_every_line_of_a_print_can_be_drawn_and_lies_on_its_paper(name: str) -> None:
    drawing = LESSONS[name].print
    for view in drawing.views:
        for path in (*view.thick, *view.thin, *view.chain, *view.dashed, *view.hatched):
            for piece in pieces(path):
                x, y = view.placed(piece.b)
                assert 6 <= x <= drawing.size[0] - 6, path
                assert 6 <= y <= drawing.size[1] - 6, path


@pytest.mark.parametrize("path", ["X 1 2", "M 1", "M 0 0 L 1", "M 0 0 A 9 0 2", "M 0 0 A 0 0 2", "M 0 0 L a b"])
def test_a_path_that_is_none_says_so(path: str) -> None:
    with pytest.raises(PathError):
        list(pieces(path))


def test_an_arc_goes_the_shorter_way_round() -> None:
    (quarter,) = pieces("M 10 0 A 0 10 10")
    assert quarter.centre == pytest.approx((0.0, 0.0))
    assert quarter.sweep == pytest.approx(90.0)
    (back,) = pieces("M 10 0 A 0 10 -10")
    assert back.centre == pytest.approx((10.0, 10.0))
    assert back.sweep == pytest.approx(-90.0)


def table() -> list[tuple[str, int, int, int]]:
    """Of each lesson: its title, the numbers on its print, the answers that are typed, the steps and choices that are picked."""
    found = []
    for lesson in LESSONS.values():
        typed = list(typed_items(lesson, made(lesson)))
        picked = sum(1 for item in lesson.items if (item.at or item.adds) and item not in typed)
        found.append((lesson.title, len(lesson.print.dims), len(typed), picked))
    return found


def test_no_more_is_typed_than_the_print_has_numbers() -> None:
    for title, numbers, typed, _ in table():
        assert typed / numbers <= MOST, title


@pytest.mark.parametrize("name", LESSONS)
def test_nothing_is_typed_twice(name: str) -> None:
    """No answer twice, and no number of the print into two answers."""
    lesson = LESSONS[name]
    typed = list(typed_items(lesson, made(lesson)))
    assert len({item.at for item in typed}) == len(typed)
    sizes = [item.size for item in typed if item.size]
    assert len(set(sizes)) == len(sizes)


def test_the_table_of_effort_is_the_one_that_was_measured() -> None:
    """`docs/effort.md` says what this test counts; it writes the lines anew where they differ."""
    lines = [f"| {title} | {numbers} | {typed} | {typed / numbers:.2f} | {picked} |" for title, numbers, typed, picked in table()]
    text = EFFORT.read_text(encoding="utf-8")
    assert [line for line in text.splitlines() if line.startswith("| ") and not line.startswith("| lesson")] == lines, "\n".join(
        lines
    )
