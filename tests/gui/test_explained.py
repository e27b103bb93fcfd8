"""F1: what a question means, with a picture that moves, in the window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QPushButton, QWidget

from bastler.app.drafting import bytes_of
from bastler.explained import explained
from bastler.job import answering, edits
from bastler.live.frames import SeenCard, SeenCode, SeenTool
from conftest import some

from .conftest import Hands, QTest

KEY = Qt.Key


def painted(widget: QWidget) -> bytes:
    """What is seen of a widget, as the bytes of a picture."""
    picture = widget.grab()
    return bytes_of(lambda device: picture.save(device, "PNG"))


def opened(hands: Hands, address: str):
    """The panel beside a question, its picture moving."""
    window = hands.window
    window.questions.take_focus(address)
    hands.press(KEY.Key_F1)
    hands.until(lambda: bool(window.explained.picture.frames))
    return window.explained


def test_f1_says_what_the_question_means_and_shows_it(demo: Hands) -> None:
    demo.window.session.select("s2")
    panel = opened(demo, "step:s2.ap")
    struct, field = answering.at(demo.window.session.job, "step:s2.ap")
    assert panel.title.text() == "Down per pass"
    assert panel.text.text() == explained(type(struct), field)
    seen = {panel.picture.frame.words}
    for _ in range(len(panel.picture.frames) - 1):
        panel.picture.step_on()
        seen.add(panel.picture.frame.words)
        assert panel.value.text() == panel.picture.frame.words
    assert len(seen) == len(panel.picture.frames) > 3
    shots = set()
    for _ in panel.picture.frames:
        panel.picture.step_on()
        shots.add(painted(panel.picture))
    assert len(shots) > 1, "what is painted does not change with the answer"


def test_it_moves_by_itself_and_stays_whole_in_the_window(demo: Hands) -> None:
    demo.window.session.select("s4")
    panel = opened(demo, "step:s4.peck")
    first = panel.picture.at
    demo.until(lambda: panel.picture.at != first)
    assert demo.window.places.rect().contains(panel.geometry())
    row = demo.window.questions.row_of("step:s4.peck")
    corner = row.mapTo(demo.window.places, row.rect().topLeft())
    assert panel.geometry().right() < corner.x()


def test_it_goes_along_with_the_focus_and_is_closed_by_f1_escape_and_its_button(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    panel = opened(demo, "step:s2.length")
    demo.press(KEY.Key_Return)
    assert panel.title.text() == "Width"
    demo.press(KEY.Key_F1)
    assert not panel.isVisible()
    panel = opened(demo, "step:s2.length")
    demo.press(KEY.Key_Escape)
    assert not panel.isVisible()
    panel = opened(demo, "step:s2.length")
    QTest.mouseClick(panel.close_button, Qt.MouseButton.LeftButton)
    assert not panel.isVisible()


def test_the_question_in_focus_offers_it_to_a_finger(demo: Hands) -> None:
    window = demo.window
    window.session.select("s2")
    window.questions.take_focus("step:s2.length")
    button = window.questions.row_of("step:s2.length").does
    assert isinstance(button, QPushButton)
    assert button.isVisible()
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert window.explained.isVisible()
    window.questions.take_focus("step:s2.width")
    assert not button.isVisible()


def test_it_is_shown_anew_when_the_job_changes_and_goes_with_its_question(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s2")
    panel = opened(demo, "step:s2.depth")
    before = panel.picture.frames
    session.answer("step:s2.length", 60.0)
    demo.until(lambda: panel.picture.frames is not before)
    assert isinstance(panel.picture.frames[0].seen, SeenCard)
    demo.press(KEY.Key_Z, Qt.KeyboardModifier.ControlModifier)
    session.edit(edits.step_removed(session.job, "s2"), "Remove")
    assert not panel.isVisible()
    assert window.explained.address == ""


def test_in_the_crib_a_tool_and_a_card_have_theirs(demo: Hands) -> None:
    window = demo.window
    for tab, ident, address, kind in (
        ("tools", "end-16", "tool:end-16.flute_length", SeenTool),
        ("machines", "mill-600", "dialect:mill-600.line_numbers", SeenCode),
    ):
        window.go_to("crib")
        window.crib.show_tab(tab)
        window.crib.select(tab, ident)
        window.crib.form.rows[address].take_focus()
        demo.press(KEY.Key_F1)
        demo.until(lambda: bool(window.explained.picture.frames))
        assert {type(frame.seen) for frame in window.explained.picture.frames} == {kind}
        window.explained.picture.grab()
        window.go_to("bench")
        assert not window.explained.isVisible()


def test_another_job_begins_without_it(demo: Hands) -> None:
    demo.window.session.select("s2")
    panel = opened(demo, "step:s2.depth")
    demo.opened("fixture-of-six")
    assert not panel.isVisible()


def every_question_shown(hands: Hands) -> list[tuple[str, str]]:
    """What is asked now of every card of the job, with its card."""
    window = hands.window
    return [
        (card, asked.address)
        for card in window.session.cards()
        for asked in window.questions.asked_of(card)
        if asked.now and "." in asked.address and window.session.there(asked.address)
    ]


@pytest.mark.parametrize("name", ["winch-base", "pawl-plate", "drum-spindle", "pawl-shaft", "coupling-nut"])
def test_questions_of_all_kinds_of_cards_are_explained_and_painted(name: str, hands: Hands) -> None:
    """A mixed few in CI; what is painted of each frame differs from nothing."""
    hands.opened(name)
    window = hands.window
    every = every_question_shown(hands)
    empty = painted(window.explained.picture)
    for card, address in some(every, 6):
        window.session.select(card)
        hands.settle()
        window.questions.take_focus(address)
        if window.session.focus != address:
            continue  # asked in a table, a segment of an outline
        window.explained.leave()
        window.explain()
        hands.until(lambda: bool(window.explained.picture.frames))
        assert window.explained.text.text(), address
        window.explained.picture.stand(len(window.explained.picture.frames) // 2)
        assert painted(window.explained.picture) != empty, address


def test_with_gloves_it_is_whole_in_the_room_there_is(demo: Hands) -> None:
    """Where everything is larger the picture gives way to the words."""
    window = demo.window
    window.run("window.gloves")
    try:
        window.session.select("s2")
        for name in ("depth", "ap", "n"):
            window.questions.take_focus(f"step:s2.{name}")
            window.explained.leave()
            window.explain()
            demo.until(lambda: bool(window.explained.picture.frames))
            QTest.qWait(30)
            panel = window.explained
            assert panel.parentWidget().rect().contains(panel.geometry()), name
            for label in (panel.text, panel.more, panel.follows):
                assert label.geometry().bottom() <= panel.height(), name
                assert label.height() >= label.heightForWidth(label.width()), name
            assert panel.picture.height() >= 140
    finally:
        window.run("window.gloves")
