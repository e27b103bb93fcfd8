"""The serial line in the window: a program goes over it and comes back, somebody stops it, and what was sent is known."""

from __future__ import annotations

import os
from functools import partial
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtWidgets import QApplication

from bastler.app.line_dialog import LineDialog, settings_text
from bastler.job import answering
from bastler.job.samples import sample
from bastler.live import line as lines
from bastler.live.leaving import lines_that_count, program_bytes, stamp
from bastler.machines import SerialLine
from other_end import OtherEnd

from .conftest import Hands


@pytest.fixture
def plate(hands: Hands, tmp_path: Path) -> Hands:
    """A job on a mill with a serial line, longer than what a line holds by itself."""
    hands.opened_file(answering.answered(sample("winch-base"), "card:mill-600.serial", True), tmp_path)
    hands.window.run("program.output")
    hands.window.program.output.folder = tmp_path
    return hands


def dialog(hands: Hands, command: str, port: str) -> LineDialog:
    hands.window.run(command)
    hands.until(lambda: bool(_open()))
    (found,) = _open()
    found.port.setEditText(port)
    return found


def _open() -> list[Any]:
    return [w for w in QApplication.topLevelWidgets() if isinstance(w, LineDialog) and w.isVisible()]


def sent(hands: Hands) -> bytes:
    proof = hands.window.session.proof
    assert proof is not None
    return program_bytes([proof])


def test_a_program_goes_over_the_line_and_comes_back_the_same(plate: Hands, other: OtherEnd) -> None:
    other.listen()
    asked = dialog(plate, "program.send", other.port)
    plate.click(asked.go)
    plate.until(lambda: "All of it has left" in asked.says.text())
    came = other.waited_for(len(sent(plate)) + len(f", made {stamp()}"))
    assert lines_that_count(came) == lines_that_count(sent(plate))
    assert came != sent(plate)  # it says when it left
    plate.click(asked.leave)
    plate.until(lambda: not _open())
    assert f"over {other.port}" in plate.window.program.sent.says.text()
    assert plate.window.program.sent.says.text().startswith("As it was sent")

    asked = dialog(plate, "program.receive", other.port)
    plate.click(asked.go)
    plate.until(lambda: not asked.go.isEnabled())
    QApplication.processEvents()
    other.say(sent(plate).replace(b"\n", b"\r\n"), pause=0.01)
    plate.until(lambda: "saved as received-" in asked.says.text())
    assert "It is what was sent" in plate.window.program.output.said.text()
    plate.click(asked.leave)


def _held_up(asked: LineDialog, other: OtherEnd, data: bytes, told: Any) -> None:
    """Sends, and the machine wants no more of it after the first signs."""

    def hears(count: int, waits: bool) -> bool:
        if count <= lines.CHUNK:
            os.write(other.master, b"\x13")
        return bool(told(count, waits))

    lines.send(other.port, data, asked.line, hears)


def test_it_is_stopped_while_the_machine_lets_it_wait(plate: Hands, other: OtherEnd) -> None:
    asked = dialog(plate, "program.send", other.port)
    asked._begin = partial(asked._start, partial(_held_up, asked, other, sent(plate) * 40))
    plate.click(asked.go)
    plate.until(lambda: "lets us wait" in asked.says.text())
    assert asked.leave.text() == "Stop"
    plate.click(asked.leave)
    plate.until(lambda: "Stopped by you" in asked.says.text())
    assert "not whole" in asked.says.text()
    assert plate.window.program.sent.isHidden(), "nothing was sent"
    plate.click(asked.leave)
    plate.until(lambda: not _open())


def test_what_is_no_line_and_what_must_not_run_are_said(plate: Hands) -> None:
    plate.window.session.answer("step:s2.depth", 60.0)
    plate.proved()
    asked = dialog(plate, "program.send", "/dev/no-such-line")
    assert "must not run" in asked.says.text()
    assert asked.go.text() == "Send it all the same"
    plate.click(asked.go)
    plate.until(lambda: "there is no such line" in asked.says.text())
    plate.click(asked.leave)


def test_a_machine_without_a_line_says_so(demo: Hands) -> None:
    demo.window.run("program.send")
    assert "has no serial line" in demo.window.program.output.said.text()
    assert not _open()


def test_how_people_write_a_line() -> None:
    assert settings_text(SerialLine()) == "9600 8N1, waits by XON and XOFF"
    assert settings_text(SerialLine(4800, 7, "even", 2, "hardware")) == "4800 7E2, waits by RTS and CTS"
