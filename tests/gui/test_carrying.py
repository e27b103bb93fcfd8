"""Steps from one job in another, by keys and from a file."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from bastler.app import route_desk
from bastler.job import write_job
from bastler.job.samples import sample

from .conftest import CTRL, SHIFT, Hands

KEY = Qt.Key


def test_a_step_is_copied_in_one_job_and_pasted_in_another(hands: Hands) -> None:
    hands.opened("winch-base")
    session = hands.window.session
    session.select("s4")
    hands.press(KEY.Key_C, CTRL | SHIFT)
    taken = session.job.step("s4")
    hands.opened("fixture-of-six")
    before = session.job
    session.select("s1")
    hands.press(KEY.Key_V, CTRL | SHIFT)
    come = session.job.step(session.selected)
    assert type(come) is type(taken)
    assert session.job.pattern(come.pattern).name == sample("winch-base").pattern(taken.pattern).name
    assert hands.window.caption.text().startswith("Pasted: 1 step")
    hands.proved()
    hands.press(KEY.Key_Z, CTRL)
    assert session.job == before


def test_pasting_what_is_no_step_says_so(demo: Hands) -> None:
    before = demo.window.session.job
    for text in ("", "G0 X0", '{"version": 4}', '{"version": 4, "name": 3}', "{" * 50_000):
        QApplication.clipboard().setText(text)
        demo.press(KEY.Key_V, CTRL | SHIFT)
        assert "clipboard" in demo.window.caption.text()
        assert demo.window.session.job == before


def test_a_step_of_a_job_file_that_is_not_opened(demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "plate.bastler"
    write_job(sample("fixture-of-six"), path)
    monkeypatch.setattr(route_desk, "file_to_open", lambda *_: path)
    window, session = demo.window, demo.window.session
    count = len(session.job.steps)
    window.run("step.from-file")
    demo.settle()
    assert window.views.currentWidget() is window.cards.other_steps
    demo.press(KEY.Key_Return)
    demo.until(lambda: len(session.job.steps) == count + 1)
    assert session.job.name == "Winch base"
    assert window.views.currentWidget() is not window.cards.other_steps
    path.write_text("no job")
    window.run("step.from-file")
    assert window.caption.text().startswith("plate.bastler: This is not a job file")
