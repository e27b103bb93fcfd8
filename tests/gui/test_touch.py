"""A finger on the solid, on the path and on the code: the same thing is selected everywhere."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, Qt

from .conftest import Hands, QTest


@pytest.fixture
def solid(demo: Hands) -> Hands:
    demo.window.view("solid")
    demo.until(lambda: demo.window.solid.shown)
    demo.window.solid.look("Top")
    demo.settle()
    return demo


def touch_middle(hands: Hands, right: int = 0) -> None:
    view = hands.window.solid.scene.widget
    at = QPoint(view.width() // 2 + right, view.height() // 2)
    before = hands.window.solid.touch_bar.touch
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=at)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=at)
    hands.until(lambda: hands.window.solid.touch_bar.touch is not before)


def test_a_touch_tells_place_amount_and_line_and_selects_the_step(solid: Hands) -> None:
    window = solid.window
    touch_middle(solid)
    bar, session = window.solid.touch_bar, window.session
    assert bar.head.text().startswith("X ")
    assert bar.head.text().endswith("Z −18"), "the pawl seat is in the middle of the base"
    assert "as it is to be" in bar.words.text()
    assert session.selected == "s3"
    line = int(session.proof.trace.line[session.pointed])
    assert f"line {line + 1}" in bar.words.text()
    assert window.program.listing.line == line
    assert session.cursor == session.proof.total, "time stays where it is"
    solid.click(bar.to_move)
    assert session.moment.move == session.pointed, "until it is asked for"


def test_from_one_face_to_another(solid: Hands) -> None:
    window = solid.window
    touch_middle(solid)
    solid.click(window.solid.touch_bar.measure)
    touch_middle(solid, right=window.solid.scene.widget.width() // 4)
    assert window.solid.touch_bar.head.text() == "18  face to face"
    window.solid.setFocus()
    solid.press(Qt.Key.Key_Escape)
    assert window.solid.touch_bar.touch is None
    assert window.session.pointed == -1


def test_the_solid_by_keys_alone(solid: Hands) -> None:
    window = solid.window
    window.solid.setFocus()
    camera = window.solid.scene.renderer.GetActiveCamera()
    before = camera.GetPosition()
    solid.press(Qt.Key.Key_Left)
    assert camera.GetPosition() != before
    far = camera.GetDistance()
    solid.type("+")
    assert camera.GetDistance() < far
    solid.press(Qt.Key.Key_Return)
    solid.until(lambda: window.solid.touch_bar.touch is not None)
    solid.press(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier)
    assert window.solid.look_button.text() == "See through"
    assert window.solid.scene.part.GetProperty().GetOpacity() < 0.5
    solid.press(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier)
    assert not window.solid.scene.part.GetVisibility()
    solid.press(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier)
    solid.press(Qt.Key.Key_D, Qt.KeyboardModifier.AltModifier)
    solid.until(lambda: window.solid.shown)
    assert window.solid.off_scale.isVisible()


def test_letters_over_the_solid_are_no_commands_of_its_toolkit(solid: Hands) -> None:
    """The toolkit's own widget would end the program at an `e` and show wires at a `w`."""
    window = solid.window
    view = window.solid.scene.widget
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    solid.type("ewqspf3")
    assert window.isVisible()
    assert window.solid.scene.part.GetProperty().GetRepresentation() == 2, "faces, not wires"


def test_a_click_on_the_path_picks_the_move(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s2")
    window.view("path")
    demo.settle()
    proof = session.proof
    stage = next(s for s in proof.stages if s.step == "s3")
    segment = stage.run.segments[-3]
    to = window.path.to_top
    at = to.map((segment[0] + segment[3]) / 2, (segment[1] + segment[4]) / 2)
    demo.click(window.path, *at)
    assert session.moment.move >= 0
    picked = next(s for s in proof.stages if s.begin <= session.moment.move < s.end)
    assert session.selected == picked.step


def test_a_click_on_a_line_selects_its_step(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    window.go_to("program")
    demo.settle()
    proof = session.proof
    stage = next(s for s in proof.stages if s.step == "s4")
    line = int(proof.trace.line[stage.begin + 1])
    window.program.listing.go_to(line)
    bar = window.program.listing.verticalScrollBar()
    assert bar is not None
    view = window.program.listing.viewport()
    assert view is not None
    demo.click(view, 320, (line - bar.value()) * 21 + 10)
    assert session.selected == "s4"
    assert int(proof.trace.line[session.moment.move]) == line
