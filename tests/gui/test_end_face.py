"""Driven tools in the window: a part with a pocket and holes on its end face made from nothing by keys alone, its drawing, its
path."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt

from bastler.app.end_face import EndFace
from bastler.app.face_path import FacePath
from bastler.app.half_section import HalfSection
from bastler.app.plan_section import PlanSection
from bastler.app.touch_words import apart_words, place_words, touch_words
from bastler.app.turn_path import TurnPath
from bastler.proof.touch import Face, Touch, apart
from bastler.steps import Drilling, RectangularPocket, TurnFacing

from .conftest import NONE, SHIFT, Hands, QTest

KEY = Qt.Key


@pytest.fixture
def shaft(hands: Hands) -> Hands:
    return hands.opened("pawl-shaft")


def test_a_face_is_milled_and_drilled_by_keys_alone(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm:turn-mill-250")
    hands.settle()
    hands.go_to("stock.diameter")
    hands.retype("50")
    hands.add("face the end")
    pocket = hands.add("rectangular p")
    hands.go_to(f"step:{pocket}.length")
    hands.retype("24")
    hands.go_to(f"step:{pocket}.width")
    hands.retype("16")
    hands.go_to(f"step:{pocket}.corner_radius")
    hands.retype("4")
    hands.go_to(f"step:{pocket}.depth")
    hands.retype("6")
    hands.add("drill holes")
    pattern = session.job.patterns[0].id
    for _ in range(30):
        if hands.focus == f"pattern:{pattern}.diameter":
            break
        hands.press(KEY.Key_Return, SHIFT)
    hands.retype("38")
    hands.proved()
    assert [type(s) for s in session.job.steps] == [TurnFacing, RectangularPocket, Drilling]
    assert session.proof is not None
    assert session.proof.verdict == "proved", session.proof.remarks
    assert isinstance(window.sheet.drawing, EndFace)
    text = hands.taken_away("cap")
    assert "M34" in text
    assert "M36" in text


def test_each_card_is_drawn_on_its_own_plane(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    for ident, drawing, path in (("s3", HalfSection, TurnPath), ("s4", EndFace, FacePath), ("s1", HalfSection, TurnPath)):
        session.select(ident)
        shaft.settle()
        assert type(window.sheet.drawing) is drawing
        assert type(window.path.drawing) is path
    for view in ("path", "sheet"):
        for ident in ("s2", "s5", "holding:h1", "stock", "s4"):
            session.select(ident)
            window.view(view)
            shaft.settle()
    assert issubclass(EndFace, PlanSection)


def test_a_dimension_on_the_face_is_clicked_and_typed(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    session.select("s4")
    shaft.settle()
    window.sheet.repaint()
    label = next(entry for entry in window.sheet.labels if entry.field == "depth")
    assert label.text == "8"
    assert label.box.top() > window.sheet.height() * 0.6, "it stands under the part as it lies"
    shaft.click(window.sheet, label.box.center().x(), label.box.center().y())
    shaft.retype("7")
    shaft.press(KEY.Key_Return)
    assert session.job.step("s4").depth == 7.0
    shaft.proved()
    assert session.proof is not None
    assert session.proof.verdict == "proved"


def test_a_hole_on_the_face_is_left_out_by_a_click(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    session.select("s5")
    shaft.settle()
    window.sheet.repaint()
    assert sorted(window.sheet.spots) == [1, 2, 3, 4, 5, 6]
    at = window.sheet.spots[3]
    QTest.mouseClick(window.sheet, Qt.MouseButton.LeftButton, NONE, QPoint(round(at.x()), round(at.y())))
    shaft.settle()
    assert session.job.patterns[0].left_out == (3,)


def test_the_section_of_the_face_is_dragged(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    session.select("s4")
    shaft.settle()
    sheet = window.sheet
    sheet.repaint()
    begin = sheet.to_plan(-24.0, 0.0)
    end = sheet.to_plan(-24.0, 5.0)
    QTest.mousePress(sheet, Qt.MouseButton.LeftButton, NONE, QPoint(round(begin.x()), round(begin.y())))
    QTest.mouseMove(sheet, QPoint(round(end.x()), round(end.y())))
    QTest.mouseRelease(sheet, Qt.MouseButton.LeftButton, NONE, QPoint(round(end.x()), round(end.y())))
    shaft.settle()
    assert session.section == pytest.approx(5.0, abs=0.4)
    sheet.repaint()
    sheet.zoom_by(2.0)
    sheet.repaint()
    window.resize(1000, 700)
    shaft.settle()


def test_the_strip_tells_y_and_c_while_the_work_stands(shaft: Hands) -> None:
    window, session = shaft.window, shaft.window.session
    assert session.proof is not None
    holes = next(stage for stage in session.proof.stages if stage.step == "s5")
    trace = session.proof.trace
    deep = next(k for k in range(holes.begin, holes.end) if trace.angle[k, 1] == 120.0 and trace.kind[k] == 1)
    session.seek(float(session.proof.starts[deep]) + 0.01)
    shaft.settle()
    words = window.strip.where.text()
    assert words.startswith("X Ø40.000  Y 0.000  Z "), words
    assert "C 120.00°" in words
    session.seek(session.proof.stages[0].t0 + 0.5)
    shaft.settle()
    assert " C " not in window.strip.where.text()


def test_what_is_said_of_a_place_on_the_face(shaft: Hands) -> None:
    proof = shaft.window.session.proof
    assert proof is not None
    floor = Touch((3.0, 2.0, -8.0), Face("plane", (3.0, 2.0, -8.0), (0.0, 0.0, 1.0)), 0.0, -1, driven=True)
    wall = Touch((12.0, 0.0, -4.0), Face("plane", (12.0, 0.0, -4.0), (-1.0, 0.0, 0.0)), None, -1, driven=True)
    shaft_face = Touch((26.0, 0.0, -10.0), Face("round", (0.0, 0.0, -10.0), (0.0, 0.0, 1.0), 26.0), 0.0, -1)
    assert place_words(proof, floor) == "X 3   Y 2   Z −8"
    assert touch_words(proof, floor, "").startswith("floor  ·  as it is to be")
    assert touch_words(proof, wall, "").startswith("wall")
    assert place_words(proof, shaft_face).startswith("Ø52")
    assert apart_words(proof, apart(floor, wall), driven=True)[1].startswith("in X 9")


def test_the_board_of_a_driven_machine_begins_with_turning(shaft: Hands) -> None:
    window = shaft.window
    window.cards.open_board()
    shaft.settle()
    titles = [tile.title for tile in window.cards.board.grid.tiles]
    assert titles[0] == "Face the end"
    assert titles.index("Thread") < titles.index("Rectangular pocket") < titles.index("Stop")
    assert "Face the top" not in titles
    groups = {tile.group for tile in window.cards.board.grid.tiles}
    assert "Driven: pockets" in groups
    window.close_overlay()
    window.open_choice("sample:drum-spindle")
    shaft.proved()
    window.cards.open_board()
    assert not any(tile.group.startswith("Driven:") for tile in window.cards.board.grid.tiles)


def test_a_part_taken_to_a_machine_without_drive_says_what_lacks(shaft: Hands) -> None:
    session = shaft.window.session
    session.answer("job.machine", "lathe-200")
    shaft.proved()
    assert session.proof is not None
    said = [r.text for r in session.proof.remarks if r.code == "answer"]
    assert len(said) == 4
    assert [text.split(" its axis")[0].split()[-1] for text in said] == ["along", "along", "across", "across"]
    assert all("drives no tools" in text for text in said)
    session.undo()
    shaft.proved()
    assert session.proof.verdict == "proved"
