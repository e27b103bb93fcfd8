"""Ctrl+K finds anything in the window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt

from .conftest import CTRL, Hands

KEY = Qt.Key


def looked_for(hands: Hands, words: str) -> list[str]:
    """What stands in the list for some words, after Ctrl+K."""
    if not hands.window.finder.isVisible():
        hands.press(KEY.Key_K, CTRL)
    hands.window.finder.field.selectAll()
    hands.type(words)
    items = hands.window.finder.list
    return [items.item(k).text() for k in range(items.count())]


def test_a_question_is_found_by_its_words_and_gone_to(demo: Hands) -> None:
    window = demo.window
    window.go_to("program")
    listed = looked_for(demo, "gear down per")
    assert listed[0].startswith("Question:  Down per pass   2 Gear well")
    demo.press(KEY.Key_Return)
    assert not window.finder.isVisible()
    assert (window.place, window.session.selected, window.session.focus) == ("bench", "s2", "step:s2.ap")
    assert window.questions.rows["step:s2.ap"].has_focus()


def test_a_question_is_found_by_what_is_said_of_it(demo: Hands) -> None:
    assert looked_for(demo, "saw skin")[0].startswith("Question:  Cutting")
    demo.press(KEY.Key_Escape)
    assert not demo.window.finder.isVisible()


@pytest.mark.parametrize(
    ("words", "place"),
    [("end mill 16 3 flutes", "crib"), ("titanium", "crib"), ("harbour lathe 200", "crib"), ("g54 g0", "program")],
)
def test_tools_materials_machines_and_lines_are_gone_to(demo: Hands, words: str, place: str) -> None:
    assert looked_for(demo, words)
    demo.press(KEY.Key_Return)
    assert demo.window.place == place, words


def test_a_command_is_run(demo: Hands) -> None:
    window = demo.window
    window.session.select("s3")
    assert looked_for(demo, "switch the step")[0].startswith("Command:  Switch the step on or off   Ctrl+E")
    demo.press(KEY.Key_Return)
    assert not window.session.job.step("s3").on


def test_a_remark_is_gone_to(demo: Hands) -> None:
    demo.window.session.answer("step:s2.tool", "end-4")
    demo.proved()
    remarks = [r for r in demo.window.session.whole.remarks if r.step]
    if not remarks:
        pytest.fail("a mill of 4 in a pocket 12 deep says nothing")
    listed = looked_for(demo, " ".join(remarks[0].text.split()[:4]))
    assert any(line.startswith("Remark:") for line in listed)


def test_arrows_go_through_the_list_and_escape_gives_the_keyboard_back(demo: Hands) -> None:
    window = demo.window
    window.questions.take_focus("step:s2.ap")
    window.session.select("s2")
    window.questions.take_focus("step:s2.length")
    looked_for(demo, "feed")
    demo.press(KEY.Key_Down)
    demo.press(KEY.Key_Down)
    assert window.finder.list.currentRow() == 2
    demo.press(KEY.Key_Up)
    assert window.finder.list.currentRow() == 1
    demo.press(KEY.Key_Escape)
    assert window.questions.rows["step:s2.length"].has_focus()


def test_with_no_job_open_samples_and_commands_are_found(hands: Hands) -> None:
    assert any(line.startswith("Sample:  Pawl plate") for line in looked_for(hands, "pawl plate"))
    assert looked_for(hands, "down per pass") == []
    looked_for(hands, "pawl plate")
    hands.press(KEY.Key_Return)
    hands.until(lambda: hands.window.session.has_job)
    assert hands.window.session.job.name == "Pawl plate"
