"""The program edited by hand in the window: every key is proved, an answer that changes leaves the edits where they fit."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt

from bastler.steps import Facing, RectangularPocket
from conftest import job_of

from .conftest import Hands

CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def plate(hands: Hands, tmp_path: Path) -> Hands:
    """A faced plate with a pocket, its program open to be edited."""
    hands.opened_file(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20)), tmp_path)
    hands.press(Qt.Key.Key_E, CTRL | Qt.KeyboardModifier.ShiftModifier)
    hands.until(lambda: hands.window.program.editor.hasFocus())
    assert editor(hands).lines == hands.window.session.proof.program.lines
    return hands


def editor(hands: Hands) -> Any:
    return hands.window.program.editor


def program(hands: Hands) -> tuple[str, ...]:
    return hands.window.session.proof.program.lines


def taken_over(hands: Hands) -> None:
    """Until what was typed is in the job, and that is proved."""
    hands.until(lambda: not hands.window.program.hand.waiting)
    hands.proved()
    hands.until(lambda: editor(hands).lines == program(hands))


def line_with(hands: Hands, text: str, nth: int = 0) -> int:
    return [k for k, line in enumerate(program(hands)) if text in line][nth]


def put_in(hands: Hands, line: int, text: str) -> None:
    """A line of its own behind another one, by keys."""
    editor(hands).go_to(line)
    hands.press(Qt.Key.Key_End)
    hands.press(Qt.Key.Key_Return)
    hands.type(text)
    taken_over(hands)


def boxes(hands: Hands) -> list[Any]:
    column = hands.window.program.by_hand.column
    return [w for k in range(column.count()) if hasattr(w := column.itemAt(k).widget(), "back")]


def test_what_is_typed_is_proved_marked_and_listed(plate: Hands) -> None:
    begin = line_with(plate, "T3 M6")
    put_in(plate, begin, "M0 (LOOK)")
    assert program(plate)[begin + 1] == "M0 (LOOK)"
    assert [edit.now for edit in plate.window.session.job.by_hand] == [("M0 (LOOK)",)]
    assert editor(plate).by_hand == {begin + 1}
    (box,) = boxes(plate)
    assert box.line == begin + 1
    assert editor(plate).line == begin + 1, "the cursor stays where it was"
    plate.click(plate.window.program.edit_bar.toggle)
    assert plate.window.program.listing.by_hand == {begin + 1}


def test_a_slip_is_a_stop_at_its_line_while_it_is_typed(plate: Hands) -> None:
    session = plate.window.session
    deepest = min(
        (k for k, line in enumerate(program(plate)) if "Z-" in line and not line.startswith("(")),
        key=lambda k: float(program(plate)[k].split("Z")[1].split()[0]),
    )
    editor(plate).go_to(deepest)
    plate.press(Qt.Key.Key_End)
    plate.press(Qt.Key.Key_Return)
    plate.type("G0 X59 Z-4")
    taken_over(plate)
    assert not session.whole.proved
    assert min(r.line for r in session.whole.remarks if r.level == "stop") == deepest + 2
    plate.press(Qt.Key.Key_Z, CTRL)
    plate.until(lambda: not session.job.by_hand)
    taken_over(plate)
    assert session.whole.proved


def test_an_answer_changes_the_text_around_an_edit(plate: Hands) -> None:
    put_in(plate, line_with(plate, "T3 M6"), "M0")
    before = program(plate)
    plate.window.session.answer("stock.over_top", 1.5)
    taken_over(plate)
    assert program(plate) != before
    assert program(plate)[line_with(plate, "T3 M6") + 1] == "M0"
    assert editor(plate).lines == program(plate)


def test_an_edit_that_does_not_fit_is_said_and_left_out_with_a_press(plate: Hands) -> None:
    session = plate.window.session
    deep = line_with(plate, "Z-", -1)
    put_in(plate, deep, "G4 P1")
    session.answer("step:b.depth", 2.5)
    plate.proved()
    (remark,) = (r for r in session.whole.remarks if r.code == "hand-edit")
    assert "G4 P1" in remark.text
    assert boxes(plate) == []
    assert remark.cure is not None
    session.cure(remark.cure)
    plate.proved()
    assert session.job.by_hand == ()
    assert session.whole.proved
    plate.window.run("edit.undo")
    plate.window.run("edit.undo")
    plate.proved()
    assert "G4 P1" in program(plate), "it comes back with the answer that it was typed for"


def test_a_place_is_taken_back_by_its_own_button(plate: Hands) -> None:
    made = program(plate)
    put_in(plate, line_with(plate, "T3 M6"), "M0")
    put_in(plate, line_with(plate, "T1 M6"), "M1")
    first, second = boxes(plate)
    plate.click(first)
    assert editor(plate).line == first.line
    plate.click(second.back)
    taken_over(plate)
    assert [line for line in program(plate) if line in ("M0", "M1")] == ["M1"]
    plate.click(boxes(plate)[0].back)
    taken_over(plate)
    assert program(plate) == made


def test_typing_and_answering_at_once_lose_nothing(plate: Hands) -> None:
    editor(plate).go_to(line_with(plate, "T3 M6"))
    plate.press(Qt.Key.Key_End)
    plate.type(" (A)")
    plate.window.session.answer("stock.over_top", 1.25)
    plate.type(" (B)")
    taken_over(plate)
    (line,) = (line for line in program(plate) if "(A)" in line)
    assert line.endswith("(A) (B)")
    assert plate.window.session.job.stock.over_top == 1.25


def test_find_replace_and_to_a_line(plate: Hands) -> None:
    bar = plate.window.program.edit_bar
    plate.press(Qt.Key.Key_F, CTRL)
    plate.type("m8")
    plate.press(Qt.Key.Key_Return)
    assert editor(plate).textCursor().selectedText() == "M8"
    first, many = editor(plate).line, sum(line == "M8" for line in program(plate))
    plate.click(bar.found)
    assert editor(plate).line > first
    bar.by.setText("M7")
    plate.click(bar.every)
    taken_over(plate)
    assert "M8" not in program(plate)
    assert sum(line == "M7" for line in program(plate)) == many > 1
    bar.wanted.setText("nowhere")
    plate.click(bar.found)
    assert bar.wanted.property("wrong") == "true"
    plate.press(Qt.Key.Key_L, CTRL)
    plate.type("12")
    plate.press(Qt.Key.Key_Return)
    assert editor(plate).line == 11
    for wrong in ("0", "99999", "x", "²"):
        bar.line.setText(wrong)
        plate.click(bar.line)
        plate.press(Qt.Key.Key_Return)
        assert bar.line.property("wrong") == "true"
    assert editor(plate).line == 11


def test_another_program_in_its_place_is_refused_and_said(plate: Hands) -> None:
    made = program(plate)
    editor(plate).setPlainText("\n".join(f"X{k}" for k in range(10_500)))
    plate.until(lambda: editor(plate).lines == made)
    assert plate.window.session.job.by_hand == ()
    assert "another program" in plate.window.program.output.said.text()


def test_keys_that_go_about_in_a_text_are_the_editors(plate: Hands) -> None:
    before, selected = editor(plate).line, plate.window.session.selected
    plate.press(Qt.Key.Key_PageDown)
    further = editor(plate).line
    assert further > before + 5
    plate.press(Qt.Key.Key_Insert)
    assert editor(plate).hasFocus()
    plate.press(Qt.Key.Key_PageUp)
    assert editor(plate).line < further
    assert plate.window.program.isVisible()
    assert plate.window.session.job.by_hand == ()
    assert selected in plate.window.session.cards()


def test_the_cursor_leads_to_the_moment_of_its_line(plate: Hands) -> None:
    editor(plate).go_to(line_with(plate, "Z-", 2))
    assert plate.window.session.moment.move >= 0
    assert int(plate.window.session.proof.trace.line[plate.window.session.moment.move]) == editor(plate).line


def test_another_job_has_another_text(plate: Hands) -> None:
    put_in(plate, line_with(plate, "T3 M6"), "M0")
    plate.type("1")
    plate.window.open_choice("sample:winch-base")
    plate.proved()
    plate.until(lambda: editor(plate).lines == program(plate))
    assert plate.window.session.job.by_hand == ()
