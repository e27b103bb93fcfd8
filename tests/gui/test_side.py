"""The side of a turned part in the window: a shaft with a keyway made from nothing by keys alone, where a step is picked as a
picture, its drawing, its path."""

from __future__ import annotations

from typing import Any

import pytest
from PyQt6.QtCore import QPoint, Qt

from bastler.app.side_path import SidePath
from bastler.app.side_sheet import SideSheet
from bastler.app.where_row import WhereRow
from bastler.steps import Keyway, Slot, TurnFacing

from .conftest import NONE, Hands, QTest

KEY = Qt.Key


@pytest.fixture
def shaft(hands: Hands) -> Hands:
    return hands.opened("pawl-shaft")


def labels(hands: Hands) -> list[str]:
    """What is asked, as it stands in the column."""
    return [row.question.says for row in hands.window.questions.rows.values()]


def test_a_keyway_is_milled_by_keys_alone(hands: Hands) -> None:
    window: Any = hands.window
    session = window.session
    window.open_choice("new:mm:turn-mill-250")
    hands.settle()
    hands.go_to("stock.diameter")
    hands.retype("30")
    hands.add("face the end")
    key = hands.add("keyway")
    hands.go_to(f"step:{key}.at_c")
    hands.retype("90")
    hands.go_to(f"step:{key}.x")
    hands.retype("-25")
    hands.go_to(f"step:{key}.length")
    hands.retype("22")
    hands.proved()
    assert [type(s) for s in session.job.steps] == [TurnFacing, Keyway]
    planned = session.plan.step(key)
    assert planned is not None
    assert (planned.filled.width, planned.filled.depth) == (8.0, 4.0), "DIN 6885-1 for Ø30"
    assert session.proof is not None
    assert session.proof.verdict == "proved", session.proof.remarks
    assert isinstance(window.sheet.drawing, SideSheet)
    text = hands.taken_away("shaft")
    assert "G19" in text
    assert "C90" in text


def test_where_a_step_is_is_a_picture_that_keys_and_fingers_pick(hands: Hands) -> None:
    window: Any = hands.window
    session = window.session
    window.open_choice("new:mm:turn-mill-250")
    hands.settle()
    hands.add("face the end")
    slot = hands.add("slot")
    hands.go_to(f"step:{slot}.where_on")
    row = window.questions.rows[f"step:{slot}.where_on"]
    assert isinstance(row, WhereRow)
    assert "At angle" not in labels(hands)
    assert "Centre X" in labels(hands)
    hands.press(KEY.Key_Right)
    hands.proved()
    step = session.job.step(slot)
    assert isinstance(step, Slot)
    assert step.where_on == "side"
    assert step.x < -20.0, "in the middle of the part, and not on its end"
    assert "At angle" in labels(hands)
    assert "Centre Z" in labels(hands)
    assert "Centre across" in labels(hands)
    assert session.proof is not None
    assert session.proof.verdict == "proved", session.proof.remarks
    picture = window.questions.rows[f"step:{slot}.where_on"].buttons["end"]
    QTest.mouseClick(picture, Qt.MouseButton.LeftButton, NONE, QPoint(40, 40))
    hands.settle()
    assert session.job.step(slot).where_on == "end"
    session.undo()
    hands.settle()
    hands.go_to(f"step:{slot}.counts")
    hands.press(KEY.Key_Right)
    hands.settle()
    assert "How deep" not in labels(hands)
    hands.go_to(f"step:{slot}.height")
    hands.retype("26")
    hands.proved()
    planned = session.plan.step(slot)
    assert planned is not None
    assert planned.filled.top - planned.filled.depth == pytest.approx(26.0)


def test_on_a_mill_nobody_is_asked_where(hands: Hands) -> None:
    window = hands.window
    window.open_choice("sample:winch-base")
    hands.proved()
    for card in window.session.cards():
        window.session.select(card)
        hands.settle()
        assert not [address for address in window.questions.rows if address.endswith((".where_on", ".at_c", ".times"))]


def test_the_side_is_drawn_with_its_section_and_where_it_is(shaft: Hands) -> None:
    window: Any = shaft.window
    session = window.session
    session.select("s7")
    shaft.settle()
    window.sheet.repaint()
    assert isinstance(window.sheet.drawing, SideSheet)
    assert {label.field for label in window.sheet.labels} >= {"x", "length", "key_width", "key_depth"}
    label = next(entry for entry in window.sheet.labels if entry.field == "key_depth")
    assert label.box.top() > window.sheet.height() * 0.5, "it stands in the section"
    shaft.click(window.sheet, label.box.center().x(), label.box.center().y())
    shaft.retype("3.5")
    shaft.press(KEY.Key_Return)
    shaft.proved()
    assert session.job.step("s7").key_depth == 3.5
    assert session.proof is not None
    assert session.proof.verdict == "proved"
    window.sheet.move_section(3)
    shaft.settle()
    assert session.section == pytest.approx(3.0)
    window.sheet.repaint()
    for width, height in ((1000, 700), (1600, 900), (1280, 800)):
        window.resize(width, height)
        shaft.settle()
        window.sheet.repaint()
    sheet = window.sheet
    front = sheet.to_plan(0.0, 0.0)
    assert 0 < front.x() < sheet.width()
    session.select("s8")
    shaft.settle()
    sheet.repaint()
    assert sheet.drawing.around.place.angles == (0.0, 180.0)


def test_the_path_on_the_side_is_that_of_its_own_angle(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    session.select("s8")
    window.view("path")
    shaft.settle()
    view = window.path
    view.repaint()
    assert isinstance(view.drawing, SidePath)
    assert session.proof is not None
    shown = [stage for stage in session.proof.stages if view.drawing.shows(session.proof, stage)]
    assert [stage.step for stage in shown] == ["s7", "s7", "s8"], "the second hole is on the other side"
    box = view.feature_box()
    assert box is not None
    assert box.height() == pytest.approx(5.0 * view.scale, rel=0.01), "one hole, seen from above"
    move = view.drawing.move_at(session.proof, box.center())
    assert shown[2].begin <= move < shown[2].end
    session.seek(float(session.proof.starts[move]) + 0.01)
    shaft.settle()
    view.repaint()
    session.select("s5")
    shaft.settle()
    view.repaint()
    assert not isinstance(view.drawing, SidePath)


def test_what_a_machine_cannot_is_not_offered(shaft: Hands) -> None:
    window = shaft.window
    window.cards.open_board()
    shaft.settle()
    titles = {tile.title for tile in window.cards.board.grid.tiles}
    assert {"Keyway", "Flats"} <= titles
    window.close_overlay()
    window.open_choice("new:mm:lathe-driven")
    shaft.settle()
    window.cards.open_board()
    shaft.settle()
    titles = {tile.title for tile in window.cards.board.grid.tiles}
    assert "Keyway" in titles
    assert "Flats" not in titles, "it has no Y"
    window.close_overlay()
    window.open_choice("sample:winch-base")
    shaft.proved()
    window.cards.open_board()
    shaft.settle()
    titles = {tile.title for tile in window.cards.board.grid.tiles}
    assert not {"Keyway", "Flats"} & titles


def test_a_groove_that_winds_round_is_seen_unrolled(shaft: Hands) -> None:
    window: Any = shaft.window
    session = window.session
    groove = shaft.add("helical")
    shaft.go_to(f"step:{groove}.from_x")
    shaft.retype("-58")
    shaft.go_to(f"step:{groove}.long")
    shaft.retype("16")
    shaft.go_to(f"step:{groove}.pitch")
    shaft.retype("20")
    shaft.proved()
    assert session.proof is not None
    assert session.proof.verdict == "proved", session.proof.remarks
    assert isinstance(window.sheet.drawing, SideSheet)
    assert window.sheet.drawing.of_step.startswith("round, unrolled")
    window.sheet.repaint()
    assert {"from_x", "long"} <= {label.field for label in window.sheet.labels}
    assert "Begins at Z" in labels(shaft)
    assert "Turned by" not in labels(shaft)
    box = window.sheet.drawing.feature()
    assert box is not None
    assert box.height() > 2 * box.width(), "nearly once round"
    window.view("path")
    shaft.settle()
    window.path.repaint()
    shown = [stage.step for stage in session.proof.stages if window.path.drawing.shows(session.proof, stage)]
    assert shown == [groove]
    window.view("sheet")
    slot = shaft.add("slot")
    shaft.go_to(f"step:{slot}.where_on")
    shaft.press(KEY.Key_Right)
    shaft.press(KEY.Key_Right)
    shaft.proved()
    assert session.job.step(slot).where_on == "round"
    assert "Centre round" in labels(shaft)
    assert "Unrolled at Ø" in labels(shaft)
