"""The bench: cards, questions, sheet, solid, path, strip, board."""

from __future__ import annotations

import numpy as np
import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication

from bastler.app.commands import COMMANDS, command
from bastler.app.remark_bar import RemarkBox
from bastler.app.rows import ChoiceRow
from bastler.app.session import STOCK
from bastler.job import plan
from bastler.live.leaving import safe_name

from .conftest import ALT, CTRL, SHIFT, Hands, QTest

KEY = Qt.Key


def field_of(hands: Hands, address: str):
    return hands.window.questions.rows[address].field  # type: ignore[attr-defined]


def test_page_keys_walk_the_cards_and_move_steps(demo: Hands) -> None:
    session = demo.window.session
    demo.press(KEY.Key_PageUp)
    assert session.selected == "holding:h1"
    demo.press(KEY.Key_PageUp)
    assert session.selected == STOCK
    for _ in range(3):
        demo.press(KEY.Key_PageDown)
    assert session.selected == "s2"
    demo.press(KEY.Key_PageDown, CTRL)
    assert [s.id for s in session.job.steps][:3] == ["s1", "s3", "s2"]
    demo.press(KEY.Key_Z, CTRL)
    assert [s.id for s in session.job.steps][:3] == ["s1", "s2", "s3"]
    demo.press(KEY.Key_Z, CTRL | SHIFT)
    assert [s.id for s in session.job.steps][:3] == ["s1", "s3", "s2"]


def test_steps_are_copied_switched_and_removed_by_keys(demo: Hands) -> None:
    session, window = demo.window.session, demo.window
    session.select("s4")
    demo.press(KEY.Key_D, CTRL)
    assert session.selected == "s11"
    assert len(session.job.steps) == 11
    demo.press(KEY.Key_E, CTRL)
    assert not session.job.step("s11").on
    demo.proved()
    window.sheet.setFocus()
    demo.press(KEY.Key_Delete)
    assert session.job.step("s11") is None
    assert window.route.cards.keys() == {STOCK, "holding:h1", *(f"s{k}" for k in range(1, 11))}


def test_the_column_is_always_that_of_the_selected_card(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    for ident in (STOCK, "s2", "s4", "holding:h1", "s1", "s3"):
        window.questions.take_focus()
        session.select(ident)
        QTest.qWait(10)
        step = session.job.step(ident)
        name = step.name if step else session.job.name if ident == STOCK else "Held in a vise"
        assert window.questions.title.text() == name
        assert not window.questions.title.hasFocus()
        owners = {address.partition(".")[0] for address in window.questions.rows}
        assert owners & {"stock", "holding:h1", f"step:{ident}"}
    window.questions.title.setFocus()
    demo.press(KEY.Key_A, CTRL)
    demo.type("Seat")
    assert session.job.step("s3").name == "Seat"
    session.select("s2")
    assert window.questions.title.text() == "Gear well"


def test_delete_in_a_field_deletes_a_digit_only(demo: Hands) -> None:
    session = demo.window.session
    session.select("s2")
    demo.window.questions.take_focus("step:s2.length")
    demo.press(KEY.Key_Home)
    demo.press(KEY.Key_Delete)
    assert len(session.job.steps) == 10
    assert session.job.step("s2").length == 0 or field_of(demo, "step:s2.length").text() == "0"


def test_a_card_is_dragged_to_another_place(demo: Hands) -> None:
    window = demo.window
    card, target = window.route.cards["s2"], window.route.cards["s5"]
    start = card.rect().center()
    QTest.mousePress(card, Qt.MouseButton.LeftButton, pos=start)
    for share in (0.2, 0.5, 0.8, 1.0):
        by = (target.mapToGlobal(target.rect().center()) - card.mapToGlobal(start)).y() * share + 6
        at = QPointF(card.mapToGlobal(start)) + QPointF(0, by)
        event = QMouseEvent(
            QEvent.Type.MouseMove,
            QPointF(card.mapFromGlobal(at)),
            at,
            Qt.MouseButton.NoButton,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(card, event)
        QTest.qWait(5)
    QTest.mouseRelease(card, Qt.MouseButton.LeftButton, pos=start)
    order = [s.id for s in window.session.job.steps]
    assert order.index("s2") >= 3
    window.session.undo()
    assert [s.id for s in window.session.job.steps][1] == "s2", "a drag is one entry in the history"


def test_a_wrong_answer_is_said_beside_it_and_changes_nothing(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    window.questions.take_focus("step:s2.depth")
    demo.press(KEY.Key_A, CTRL)
    demo.type("3+")
    row = window.questions.rows["step:s2.depth"]
    assert row.why.isVisible()
    assert "missing" in row.why.text()
    assert window.session.job.step("s2").depth in (12.0, 3.0)
    demo.press(KEY.Key_A, CTRL)
    demo.type("-4")
    assert "more than 0" in row.why.text()
    demo.press(KEY.Key_Escape)
    assert not row.why.isVisible()


def test_a_contradiction_offers_what_fits(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    window.session.answer("step:s2.corner_radius", 5.0)
    window.session.answer("step:s2.tool", "end-16")
    demo.proved()
    row = window.questions.rows["step:s2.finish_tool"]
    assert row.why.isVisible()
    assert "R8 does not go" in row.why.text()
    assert row.fix.isVisible()
    demo.click(row.fix)
    demo.proved()
    assert window.session.job.step("s2").finish_tool == "end-10"
    assert window.session.proof.proved


def test_computed_values_come_back_when_a_field_is_emptied(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    field = field_of(demo, "step:s2.ae")
    assert field.text() == ""
    assert field.placeholderText() == "7.2"
    window.questions.take_focus("step:s2.ae")
    demo.type("5")
    assert window.session.job.step("s2").ae == 5.0
    demo.press(KEY.Key_Backspace)
    assert window.session.job.step("s2").ae is None
    assert field.placeholderText() == "7.2"


def test_choices_follow_the_arrows(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    row = window.questions.rows["step:s2.entry"]
    assert isinstance(row, ChoiceRow)
    row.take_focus()
    demo.press(KEY.Key_Right)
    assert window.session.job.step("s2").entry == "ramp"
    demo.press(KEY.Key_Right)
    assert window.session.job.step("s2").entry == "plunge"
    assert "step:s2.entry_angle" not in window.questions.rows, "only meaningful questions are asked"


def test_a_dimension_is_clicked_and_typed_over(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    QTest.qWait(30)
    window.sheet.repaint()
    label = next(entry for entry in window.sheet.labels if entry.field == "width")
    demo.click(window.sheet, label.box.center().x(), label.box.center().y())
    assert demo.focus == "step:s2.width"
    assert window.questions.rows["step:s2.width"].label.objectName() == "lit"
    demo.press(KEY.Key_A, CTRL)
    demo.type("44")
    assert window.session.job.step("s2").width == 44.0
    assert field_of(demo, "step:s2.width").text() == "44"
    demo.press(KEY.Key_Return)
    assert demo.focus != "step:s2.width"
    demo.press(KEY.Key_Escape)
    assert window.sheet.editor is None


def test_dimensions_do_not_lie_on_each_other_and_stay_in_view(demo: Hands) -> None:
    window = demo.window
    for ident in window.session.cards():
        window.session.select(ident)
        demo.settle()
        window.sheet.repaint()
        boxes = [label.box for label in window.sheet.labels]
        assert boxes or ident == "s1"
        for k, box in enumerate(boxes):
            assert window.sheet.rect().toRectF().contains(box)
            assert not any(box.intersects(other) for other in boxes[k + 1 :])


def test_the_wheel_zooms_about_the_cursor(demo: Hands) -> None:
    sheet = demo.window.sheet
    sheet.repaint()
    before = sheet.to_plan(40.0, 30.0)
    scale = sheet.scale
    from PyQt6.QtGui import QWheelEvent

    event = QWheelEvent(
        before,
        sheet.mapToGlobal(before),
        QPoint(),
        QPoint(0, 240),
        Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(sheet, event)
    sheet.repaint()
    after = sheet.to_plan(40.0, 30.0)
    assert sheet.scale == pytest.approx(scale * 1.44)
    assert (after - before).manhattanLength() < 0.01


def test_the_strip_is_scrubbed_played_and_stepped(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    timeline = window.strip.timeline
    begins, lasts = session.proof.starts, session.proof.lasts
    long = int(np.argmax(np.where(begins < 90.0, lasts, 0.0)))
    middle = float(begins[long] + lasts[long] / 2)
    demo.click(timeline, timeline.x_of(middle), 60)
    assert session.cursor == pytest.approx(middle, abs=0.5)
    assert window.strip.code.text()
    window.sheet.setFocus()
    move = session.moment.move
    demo.press(KEY.Key_Period)
    demo.press(KEY.Key_Period)
    assert session.moment.move == move + 1
    demo.press(KEY.Key_Comma)
    assert session.moment.move == move
    demo.press(KEY.Key_Period, SHIFT)
    assert session.cursor > middle
    session.speed = 128.0
    demo.press(KEY.Key_Space)
    assert session.playing
    demo.until(lambda: session.cursor > 120)
    demo.press(KEY.Key_Space)
    assert not session.playing
    assert "to go" in window.strip.where.text()


def test_the_solid_shows_the_part_in_blue_and_metal(demo: Hands) -> None:
    window = demo.window
    demo.press(KEY.Key_2, CTRL)
    demo.until(lambda: window.solid.shown)
    assert window.solid.scene, "OpenGL is there on the virtual display"
    QTest.qWait(400)
    screen = window.screen()
    assert screen is not None
    from PyQt6.sip import voidptr

    picture = screen.grabWindow(voidptr(0)).toImage()
    corner = window.solid.mapToGlobal(QPoint(0, 0))
    colours = [
        picture.pixelColor(corner.x() + x, corner.y() + y)
        for x in range(40, window.solid.width() - 40, 12)
        for y in range(40, window.solid.height() - 80, 12)
    ]
    blue = sum(c.blue() > c.red() + 40 for c in colours)
    assert blue > 30, "marking blue is on the sides"
    window.session.select("s2")
    window.session.seek(90.0)
    window.solid.section.setValue(50)
    demo.until(lambda: window.solid.shown)
    for name in ("Top", "Front", "Right", "Iso"):
        window.solid.look(name)
    demo.press(KEY.Key_3, CTRL)
    assert window.views.currentWidget() is window.path
    window.path.repaint()


def test_the_solid_of_another_job_is_looked_at_from_the_start(demo: Hands) -> None:
    """Also where it stays in view, and is a twentieth as large: a part in inches after one in millimetres is no dot."""
    window = demo.window
    demo.press(KEY.Key_2, CTRL)
    demo.until(lambda: window.solid.shown)
    window.session.seek(40.0)  # one that is still to come when the next job is opened
    window.open_choice("sample:bearing-cap")
    assert window.current_view == "solid", "the view stays"
    assert not window.solid.shown
    demo.proved()
    demo.until(lambda: window.solid.shown)
    camera = window.solid.scene.renderer.GetActiveCamera()
    seen = camera.GetDistance(), camera.GetFocalPoint()
    window.solid.look("Iso")
    assert seen[0] == pytest.approx(camera.GetDistance(), rel=1e-3)
    assert seen[1] == pytest.approx(camera.GetFocalPoint(), abs=1e-3)
    assert seen[0] < 40
    demo.press(KEY.Key_1, CTRL)


def test_the_board_is_picked_from_by_keys_and_closed(demo: Hands) -> None:
    window = demo.window
    demo.press(KEY.Key_Insert)
    assert window.views.currentWidget() is window.cards.board
    demo.press(KEY.Key_Right)
    demo.press(KEY.Key_Left)
    demo.type("peck")
    assert [t.key for t in window.cards.board.grid.tiles] == ["drilling"]
    demo.press(KEY.Key_Escape)
    assert window.views.currentWidget() is window.sheet
    assert len(window.session.job.steps) == 10


def test_a_tool_is_changed_in_the_list_of_tools(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    demo.click(window.questions.rows["step:s2.tool"].button)  # type: ignore[attr-defined]
    assert window.views.currentWidget() is window.cards.tool_list
    warned = {t.key: t.warns for t in window.cards.tool_list.grid.tiles}
    assert "Wider than the pocket" in warned["face-50"]
    assert warned["end-10"] == ""
    keys = [t.key for t in window.cards.tool_list.grid.tiles]
    box = window.cards.tool_list.grid.boxes[keys.index("end-10")]
    demo.click(window.cards.tool_list.grid, box.center().x(), box.center().y())
    assert window.session.job.step("s2").tool == "end-10"
    demo.proved()
    assert window.session.proof.proved


def test_a_remark_is_an_offer(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s4")
    session.answer("step:s4.method", "once")
    demo.proved()
    QTest.qWait(20)
    boxes = window.remark_bar.findChildren(RemarkBox)
    assert boxes
    assert "peck" in boxes[0].remark.text
    from PyQt6.QtWidgets import QPushButton

    demo.click(boxes[0].findChildren(QPushButton)[0])
    demo.proved()
    assert session.job.step("s4").method == "peck"
    assert {r.level for r in session.proof.remarks} <= {"note"}
    assert not window.remark_bar.isVisible()


def test_patterns_are_edited_shared_and_left_out(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s4")
    field = window.questions.rows["pattern:p1.left_out"].field  # type: ignore[attr-defined]
    field.setFocus()
    demo.type("3, 9")
    assert "not one of the 6" in window.questions.rows["pattern:p1.left_out"].why.text()
    demo.press(KEY.Key_Backspace)
    demo.type("5")
    assert session.job.pattern("p1").left_out == (3, 5)
    demo.proved()
    assert len(plan(session.job).step("s4").removals) == 8


def test_points_are_typed_line_by_line(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s6")
    from bastler.job import edits

    session.edit(edits.pattern_for(session.job, "s6", "points"), "New pattern")
    pattern = session.job.step("s6").pattern
    text = window.questions.rows[f"pattern:{pattern}.points"].text  # type: ignore[attr-defined]
    text.setFocus()
    demo.press(KEY.Key_A, CTRL)
    demo.type("20, 20")
    demo.press(KEY.Key_Return)
    demo.type("1in 30")
    assert session.job.pattern(pattern).points == ((20.0, 20.0), (25.4, 30.0))
    demo.press(KEY.Key_Return)
    demo.type("nonsense")
    assert "Line 3" in window.questions.rows[f"pattern:{pattern}.points"].why.text()


def test_a_program_that_must_not_run_needs_a_second_word(demo: Hands) -> None:
    from pathlib import Path

    window, session = demo.window, demo.window.session
    session.answer("holding:h1.grip", 33.5)
    demo.proved()
    assert not session.proof.proved
    demo.press(KEY.Key_P, CTRL)
    demo.press(KEY.Key_Return)
    assert not list(Path.home().glob("*.nc"))
    assert "must not run" in window.program.output.said.text()
    demo.press(KEY.Key_Return)
    saved = next(Path.home().glob("*.nc"))
    assert "NOT PROVED" in saved.read_text()


def test_the_program_place_jumps_both_ways(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    demo.press(KEY.Key_3, ALT)
    section = next(s for s in session.proof.program.sections if s.step == "s3")
    window.program.listing.go_to(section.first + 8)
    window.program.listing.setFocus()
    demo.press(KEY.Key_Down)
    assert session.proof.trace.line[session.moment.move] <= section.first + 9
    demo.press(KEY.Key_Return)
    assert session.selected == "s3"
    assert window.places.currentWidget() is window.bench
    demo.click(window.strip.code)
    assert window.places.currentWidget() is window.program


@pytest.mark.parametrize("menu", sorted({entry.menu for entry in COMMANDS.values()}))
def test_every_command_runs_and_is_in_a_menu(menu: str, demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    """One after the other in one window, each on the demo job as it is opened."""
    from PyQt6.QtPrintSupport import QPrintDialog
    from PyQt6.QtWidgets import QFileDialog

    monkeypatch.setattr(QPrintDialog, "exec", lambda *a: 0)  # it comes when the sheet is made, so at any time
    for way in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, way, staticmethod(lambda *a, **k: ("", "")))
    fresh = demo.window.session.job
    for name in (entry.name for entry in COMMANDS.values() if entry.menu == menu):
        if demo.window.session.job != fresh or not demo.window.session.has_job:
            demo.window.open_choice("sample:winch-base")
        assert name in demo.window.actions_by_name
        demo.window.session.select("s3")
        demo.window.run(name)
        QTest.qWait(10)
        demo.window.session.stop()


def test_a_key_can_be_used_once() -> None:
    with pytest.raises(ValueError, match="taken"):
        command("other", "Other", keys=("Ctrl+N",))(lambda window: None)


def test_names_of_programs_are_safe() -> None:
    assert safe_name("../../etc/passwd") == "etc-passwd.nc"
    assert safe_name("Teil 4.NC") == "Teil-4.nc"
    assert safe_name("///") == "program.nc"


def test_gloves_make_large_targets_and_type_with_a_pad(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    assert not window.pad.isVisible()
    demo.press(KEY.Key_G, CTRL)
    assert window.pad.isVisible()
    session.select("s2")
    QTest.qWait(20)
    window.questions.take_focus("step:s2.depth")
    for key in ("clear", "1", "space", "1", "/", "8", "in"):
        demo.click(window.pad.buttons[key])
    assert session.job.step("s2").depth == pytest.approx(1.125 * 25.4)
    assert session.job.step("s2").typed["depth"] == "1 1/8in"
    assert field_of(demo, "step:s2.depth").height() >= 46
    assert all(button.height() >= 46 for button in window.pad.buttons.values())
    targets = [
        *window.header.places.values(),
        window.header.button,
        window.header.burger,
        window.strip.run,
        *window.view_buttons.buttons(),
    ]
    assert all(target.height() >= 46 for target in targets if target.isVisible())
    whole = window.questions.area.viewport()
    field = field_of(demo, "step:s2.depth")
    assert whole is not None
    assert whole.rect().contains(field.rect().translated(field.mapTo(whole, field.rect().topLeft())))  # not under the pad
    demo.click(window.pad.buttons["="])
    assert demo.focus != "step:s2.depth"
    demo.press(KEY.Key_G, CTRL)
    assert not window.pad.isVisible()
