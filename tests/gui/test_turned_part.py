"""Turned parts in the window: one made from nothing by keys alone, the half section, the outline's table, the solid."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from bastler.cli import main
from bastler.job import write_job
from bastler.steps import PartOff, Threading, TurnFacing, TurnFinishing, TurnRoughing
from conftest import MILL_STEPS

from .conftest import ALT, CTRL, SHIFT, Hands, QTest

KEY = Qt.Key


@pytest.fixture
def spindle(hands: Hands) -> Hands:
    return hands.opened("drum-spindle")


def test_by_keys_alone(hands: Hands, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    window, session = hands.window, hands.window.session
    hands.press(KEY.Key_3)  # "New turned part, mm"
    assert session.job.turns
    hands.go_to("stock.diameter")
    hands.retype("40")
    hands.go_to("stock.finished")
    hands.retype("50+5")
    hands.press(KEY.Key_Insert)
    hands.press(KEY.Key_Return)  # the first on the board: facing
    hands.press(KEY.Key_Return, CTRL)
    hands.type("rough")
    hands.press(KEY.Key_Return)
    rough = session.selected
    outline = session.job.outlines[0].id
    hands.go_to(f"outline:{outline}.d")
    hands.retype("24")
    hands.go_to(f"outline:{outline}.segments.0.z")
    hands.retype("-20")
    hands.go_to(f"outline:{outline}.segments.1.d")
    hands.retype("32")
    hands.go_to(f"outline:{outline}.segments.2.z")
    hands.retype("-59")
    hands.press(KEY.Key_Return, CTRL)
    hands.type("finish")
    hands.press(KEY.Key_Return)
    finish = session.selected
    assert session.job.step(finish).outline == session.job.step(rough).outline == outline
    hands.press(KEY.Key_Return, CTRL)
    hands.type("tapered")
    hands.press(KEY.Key_Return)
    thread = session.selected
    for _ in range(30):
        if hands.focus == f"step:{thread}.thread":
            break
        hands.press(KEY.Key_Return, SHIFT)
    hands.retype("M24x1.5")
    hands.go_to(f"step:{thread}.length")
    hands.retype("12")
    hands.press(KEY.Key_Return, CTRL)
    hands.type("part")
    hands.press(KEY.Key_Return)
    hands.proved()
    kinds = [type(s) for s in session.job.steps]
    assert kinds == [TurnFacing, TurnRoughing, TurnFinishing, Threading, PartOff]
    assert session.job.stock.finished == 55.0
    assert session.proof is not None
    assert {r.code for r in session.proof.remarks} == {"thread-run-out", "part-drops"}  # no relief was made, nothing catches it
    hands.press(KEY.Key_3, ALT)
    hands.press(KEY.Key_P, CTRL)
    hands.retype("pin")
    hands.press(KEY.Key_Return)
    saved = list(Path.home().glob("*.nc"))
    assert [p.name for p in saved] == ["pin.nc"]
    write_job(session.job, tmp_path / "pin.bastler")
    assert main(["prove", str(saved[0]), "--setup", str(tmp_path / "pin.bastler")]) == 0
    assert "Proved" in capsys.readouterr().out
    assert window.places.currentWidget() is window.program


def test_the_board_shows_turning_for_turned_parts_alone(spindle: Hands) -> None:
    spindle.press(KEY.Key_Insert)
    keys = {tile.key for tile in spindle.window.cards.board.grid.tiles}
    assert "groove" in keys
    assert not keys & {"facing", "rectangular-pocket", "drilling"}
    spindle.press(KEY.Key_Escape)
    spindle.window.open_choice("sample:winch-base")
    spindle.press(KEY.Key_Insert)
    assert {tile.key for tile in spindle.window.cards.board.grid.tiles} == set(MILL_STEPS)


def test_a_dimension_of_the_half_section_is_typed_over(spindle: Hands) -> None:
    window, session = spindle.window, spindle.window.session
    session.select("s5")
    spindle.until(lambda: any(label.field == "floor_d" for label in window.sheet.labels))
    label = next(entry for entry in window.sheet.labels if entry.field == "floor_d")
    spindle.click(window.sheet, label.box.center().x(), label.box.center().y())
    spindle.retype("26")
    spindle.press(KEY.Key_Return)
    assert session.job.step("s5").floor_d == 26.0
    spindle.proved()
    assert any("X26" in line for line in session.proof.program.lines)


def test_segments_are_added_changed_and_removed(spindle: Hands) -> None:
    session = spindle.window.session
    session.select("s2")
    spindle.window.questions.take_focus("outline:o1.segments.1.z")
    count = len(session.job.outlines[0].segments)
    spindle.press(KEY.Key_L, ALT)
    QTest.qWait(20)
    assert len(session.job.outlines[0].segments) == count + 1
    assert spindle.focus == "outline:o1.segments.2.z"
    spindle.press(KEY.Key_Backspace, ALT)
    assert len(session.job.outlines[0].segments) == count
    spindle.press(KEY.Key_Z, CTRL)
    assert len(session.job.outlines[0].segments) == count + 1


def test_a_wrong_segment_is_said_in_the_table(spindle: Hands) -> None:
    window, session = spindle.window, spindle.window.session
    session.select("s3")
    window.questions.take_focus("outline:o1.segments.4.angle")
    spindle.retype("")
    spindle.press(KEY.Key_Backspace)
    QTest.qWait(30)
    assert session.job.outlines[0].segments[4].angle is None
    assert "one more number" in window.questions.rows["outline:o1"].why.text()


def test_single_moves_through_a_groove_show_its_retracts(spindle: Hands) -> None:
    session = spindle.window.session
    stage = next(s for s in session.proof.stages if s.step == "s5")
    session.seek_move(stage.begin)
    spindle.window.sheet.setFocus()
    heights = []
    for _ in range(stage.end - stage.begin - 1):
        spindle.press(KEY.Key_Period)
        heights.append(round(2 * session.moment.tip[0], 3))
    assert heights.count(32.0) >= 8  # out of the groove, 1 over the Ø30 that was turned, after every plunge and wall
    assert min(heights) == 26.6
    back = session.moment.move
    spindle.press(KEY.Key_Comma)
    assert session.moment.move == back - 1


def test_the_strip_says_diameter_feed_per_turn_and_offset(spindle: Hands) -> None:
    session = spindle.window.session
    stage = next(s for s in session.proof.stages if s.step == "s3")
    session.seek(stage.t0 + 0.6 * (stage.t1 - stage.t0))
    text = spindle.window.strip.where.text()
    assert "X Ø" in text
    assert "/rev" in text
    assert text.endswith("T0606")


def test_solid_and_path_show_the_turned_part(spindle: Hands) -> None:
    window = spindle.window
    window.view("path")
    QTest.qWait(50)
    window.view("solid")
    spindle.until(lambda: window.solid.scene is not None and window.solid.shown)
    assert window.solid.quarter.isVisible()
    assert not window.solid.section.isVisible()
    window.solid.quarter.click()
    spindle.until(lambda: window.solid.shown)


def test_thread_and_moves_are_typed_in_words(spindle: Hands) -> None:
    window, session = spindle.window, spindle.window.session
    session.select("s6")
    window.questions.take_focus("step:s6.thread")
    spindle.retype("M24x")
    assert "Write it as" in window.questions.rows["step:s6.thread"].why.text()
    spindle.retype("M24x1")
    spindle.proved()
    assert session.plan.step("s6").summary.startswith("M24 × 1 ")
    spindle.press(KEY.Key_Return, CTRL)
    spindle.type("free")
    spindle.press(KEY.Key_Return)
    ident = session.selected
    window.questions.take_focus(f"step:{ident}.moves")
    spindle.retype("rapid 60, 5")
    spindle.press(KEY.Key_Return)
    spindle.type("feed 50 2 0.1")
    moves = session.job.step(ident).moves
    assert [(m.way, m.d, m.z, m.f) for m in moves] == [("rapid", 60.0, 5.0, None), ("feed", 50.0, 2.0, 0.1)]
    spindle.press(KEY.Key_Return)
    spindle.type("sideways")
    assert "Line 3" in window.questions.rows[f"step:{ident}.moves"].why.text()
