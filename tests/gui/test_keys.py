"""Own keys of commands: kept as differences, in the menu, in tooltips, and refused where they belong to another."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from bastler.app.commands import COMMANDS
from bastler.app.keyring import KeyTaken, changed, in_words, keys_of, plain, returned, shown, sound, whose
from bastler.app.keys_dialog import KeysDialog
from bastler.app.settings import read_settings

from .conftest import CTRL, NONE, SHIFT, Hands

KEY = Qt.Key


def test_the_keys_that_commands_come_with_belong_to_one_each() -> None:
    every = [plain(key) for entry in COMMANDS.values() for key in keys_of(entry, {})]
    assert len(set(every) - {""}) == len([key for key in every if key])


def test_an_own_key_takes_the_place_of_all_that_a_command_comes_with() -> None:
    own = changed({}, "step.copy", "ctrl+alt+c")
    assert own == {"step.copy": "Ctrl+Alt+C"}
    assert keys_of(COMMANDS["step.copy"], own) == ("Ctrl+Alt+C",)
    assert whose("Ctrl+D", own) is None
    own = changed(own, "step.switch", "Ctrl+D")  # it is free now
    with pytest.raises(KeyTaken, match="belongs to “Switch the step on or off” now"):
        returned(own, "step.copy")
    assert returned(returned(own, "step.switch"), "step.copy") == {}
    assert changed({"step.copy": "Ctrl+Alt+C"}, "step.copy", "Ctrl+D") == {}, "what it comes with is no difference"
    assert shown(COMMANDS["step.copy"], changed({}, "step.copy", "")) == ""


@pytest.mark.parametrize(
    ("name", "key", "why"),
    [
        ("step.copy", "Ctrl+E", "belongs to “Switch the step on or off”"),
        ("step.copy", "Space", "need for themselves"),
        ("step.copy", "Return", "need for themselves"),
        ("step.copy", "a", "is typed into fields"),
        ("step.copy", "7", "is typed into fields"),
        ("step.copy", "nonsense", "no single key"),
        ("step.copy", "Ctrl+K, Ctrl+C", "no single key"),
        ("strip.run", "F10", "need for themselves"),
    ],
)
def test_a_key_that_cannot_be_a_commands_says_why(name: str, key: str, why: str) -> None:
    with pytest.raises(KeyTaken, match=why):
        changed({}, name, key)


def test_a_file_of_keys_that_does_not_fit_is_taken_as_far_as_it_does() -> None:
    own = {
        "step.copy": "Ctrl+E",
        "no.such": "Ctrl+9",
        "step.remove": "rubbish",
        "step.switch": "Ctrl+Alt+E",
        "edit.undo": "Ctrl+Alt+E",
    }
    found = sound(own)
    assert "no.such" not in found
    assert "step.remove" not in found
    every = [plain(key) for entry in COMMANDS.values() for key in keys_of(entry, found) if key]
    assert len(set(every)) == len(every)
    swapped = {"step.copy": "Ctrl+E", "step.switch": "Ctrl+D"}
    assert sound(swapped) == swapped


def test_tooltips_name_the_key_that_a_command_has_now() -> None:
    own = {"program.output": "Alt+W", "proof.stop": ""}
    assert in_words("To the program and out (Ctrl+P)", own) == "To the program and out (Alt+W)"
    assert in_words("Do not wait for this proof (Alt+P)", own) == "Do not wait for this proof"
    assert in_words("Sizes (of the part)", own) == "Sizes (of the part)"
    assert in_words("To the program and out (Ctrl+P)", {}) == "To the program and out (Ctrl+P)"


def test_a_key_is_pressed_in_the_list_and_works_at_once_and_at_the_next_start(demo: Hands) -> None:
    window, session = demo.window, demo.window.session
    session.select("s4")
    window.run("window.keys")
    dialog = window.findChild(KeysDialog)
    assert dialog is not None
    demo.until(dialog.isVisible)
    dialog.search.setText("copy the step")
    assert dialog.list.currentItem().text() == "Step:  Copy the step   Ctrl+D"
    dialog.other.click()
    demo.press(KEY.Key_Control)
    assert dialog.waiting, "Ctrl alone is no key yet"
    demo.press(KEY.Key_E, CTRL)
    assert "belongs to" in dialog.says.text()
    dialog.other.click()
    demo.press(KEY.Key_Escape)
    assert not dialog.waiting
    assert dialog.isVisible()
    dialog.other.click()
    demo.press(KEY.Key_J, CTRL | SHIFT)
    assert dialog.list.currentItem().text() == "Step:  Copy the step   Ctrl+Shift+J  (yours)"
    dialog.close_button.click()
    count = len(session.job.steps)
    window.sheet.setFocus()
    demo.press(KEY.Key_D, CTRL)
    assert len(session.job.steps) == count
    demo.press(KEY.Key_J, CTRL | SHIFT)
    assert len(session.job.steps) == count + 1
    assert window.actions_by_name["step.copy"].text().endswith("Ctrl+Shift+J")
    assert read_settings().keys == {"step.copy": "Ctrl+Shift+J"}
    window.questions.take_focus("step:s4.peck")
    demo.press(KEY.Key_J, CTRL | SHIFT)
    assert len(session.job.steps) == count + 2, "it is the command's in a field too"
    window.run("window.keys")
    dialog = next(d for d in window.findChildren(KeysDialog) if d.isVisible())
    dialog.all_back.click()
    dialog.close_button.click()
    assert read_settings().keys == {}
    window.sheet.setFocus()
    demo.press(KEY.Key_D, CTRL)
    assert len(session.job.steps) == count + 3


def test_a_key_of_the_strip_is_changed_and_types_in_fields_all_the_same(demo: Hands) -> None:
    window = demo.window
    window._keys_picked(changed({}, "strip.on", "n"))
    window.sheet.setFocus()
    before = window.session.moment.move
    window.session.seek(0.0)
    demo.press(KEY.Key_N, NONE)
    assert window.session.moment.move != before
    assert QApplication.focusWidget() is window.sheet
    window._keys_picked({})
