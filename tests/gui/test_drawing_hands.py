"""Hands on a drawing: nearer and further off by keys, wheel and fingers, and the section line that is dragged."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt

from .conftest import Hands, QTest

CTRL = Qt.KeyboardModifier.ControlModifier


def where(hands: Hands, x: float, y: float) -> QPointF:
    return hands.window.sheet.to_plan(x, y)


def test_keys_bring_it_nearer_and_back(demo: Hands) -> None:
    sheet = demo.window.sheet
    before = sheet.scale
    middle = QPointF(sheet.width() / 2, sheet.height() / 2)
    share = (middle - sheet.origin) / sheet.scale
    demo.press(Qt.Key.Key_Plus, CTRL)
    demo.settle()
    assert sheet.scale == pytest.approx(1.2 * before)
    assert (sheet.origin + share * sheet.scale - middle).manhattanLength() < 0.01, "the middle stays where it is"
    demo.press(Qt.Key.Key_Minus, CTRL)
    demo.press(Qt.Key.Key_Minus, CTRL)
    demo.settle()
    assert sheet.scale < before
    demo.press(Qt.Key.Key_0, CTRL)
    demo.settle()
    assert sheet.scale == pytest.approx(before)


@pytest.mark.parametrize("view", ["sheet", "path"])
def test_to_a_small_feature_by_one_key(view: str, demo: Hands) -> None:
    window = demo.window
    window.session.select("s3")
    window.view(view)
    demo.settle()
    demo.press(Qt.Key.Key_9, CTRL)
    demo.settle()
    drawing = window.sheet if view == "sheet" else window.path
    box = drawing.feature_box()
    assert box is not None
    share = max(box.width() / drawing.width(), box.height() / drawing.height())
    assert 0.5 < share < 0.6
    assert abs(box.center().x() - drawing.width() / 2) < 2


def test_of_a_pattern_over_all_of_the_part_to_its_first_hole(demo: Hands) -> None:
    window = demo.window
    window.session.select("s5")
    demo.settle()
    demo.press(Qt.Key.Key_9, CTRL)
    demo.settle()
    at = where(demo, 9.0, 9.0)
    assert abs(at.x() - window.sheet.width() / 2) < 5
    assert window.sheet.zoom > 3


def test_the_section_line_goes_where_it_is_dragged(demo: Hands) -> None:
    window, sheet = demo.window, demo.window.sheet
    window.session.select("s3")
    demo.settle()
    begin = where(demo, 20.0, 50.0)
    before = window.session.look.cutaway.now
    there = where(demo, 20.0, 93.0)
    QTest.mousePress(sheet, Qt.MouseButton.LeftButton, pos=begin.toPoint())
    QTest.mouseMove(sheet, QPoint(round(there.x()), round(there.y())))
    QTest.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=there.toPoint())
    demo.until(lambda: window.session.look.cutaway.now != before)
    assert window.session.section == pytest.approx(93.0, abs=0.6)
    look = window.session.look
    assert look.sketch.section[0][1] == window.session.section
    assert not [d for d in look.sketch.dims if d.view == "section"], "they belong to where the step lies"
    line = where(demo, 20.0, window.session.section or 0.0)
    demo.until(lambda: sheet.drawing.grip(line.toPoint().toPointF()))  # The look is there; it is gripped where it is painted.
    QTest.mouseDClick(sheet, Qt.MouseButton.LeftButton, pos=line.toPoint())
    demo.until(lambda: window.session.look.cutaway.now == before)
    assert window.session.section is None


def test_the_section_by_keys_and_over_an_edit(demo: Hands) -> None:
    session = demo.window.session
    session.select("s3")
    demo.settle()
    demo.press(Qt.Key.Key_Up, CTRL)
    demo.press(Qt.Key.Key_Up, CTRL)
    demo.settle()
    assert session.section == 52.0
    session.answer("step:s3.depth", 5.0)
    demo.settle()
    assert session.look.sketch.section[0][1] == 52.0, "an edit leaves it where it is"
    session.select("s4")
    demo.settle()
    assert session.section is None, "another step is cut open where it lies"


def test_of_a_turned_part_nothing_can_be_dragged(demo: Hands) -> None:
    window = demo.window
    demo.window.open_choice("sample:drum-spindle")
    demo.proved()
    demo.press(Qt.Key.Key_Up, CTRL)
    assert window.session.section is None
    demo.press(Qt.Key.Key_9, CTRL)
    demo.settle()
    assert window.sheet.zoom >= 1.0
