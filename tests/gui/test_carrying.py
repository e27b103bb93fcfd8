"""Steps from one job in another, by keys and from a file."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from bastler.app import route_desk
from bastler.job import answering, write_job
from bastler.job.samples import sample

from .conftest import ALT, CTRL, SHIFT, Hands

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


def test_a_pattern_alone_goes_to_the_step_of_another_job(hands: Hands) -> None:
    hands.opened("winch-base")
    session = hands.window.session
    session.select("s4")
    pattern = session.job.pattern(session.job.step("s4").pattern)
    hands.window.questions.take_focus(f"pattern:{pattern.id}.diameter")
    hands.press(KEY.Key_C, CTRL | SHIFT)
    assert hands.window.caption.text() == "The pattern is on the clipboard."
    hands.press(KEY.Key_N, CTRL)
    drilling = hands.add("drill holes")
    before = session.job
    hands.press(KEY.Key_V, CTRL | SHIFT)
    own = session.job.pattern(session.job.step(drilling).pattern)
    assert (type(own), own.diameter, own.count) == (type(pattern), pattern.diameter, pattern.count)
    assert [s.id for s in session.job.steps] == [s.id for s in before.steps], "no step has come"
    hands.press(KEY.Key_Z, CTRL)
    assert session.job == before


def test_a_tool_alone_goes_to_the_crib_of_another_job(hands: Hands) -> None:
    hands.opened("winch-base")
    window, session = hands.window, hands.window.session
    ident = next(t.id for t in session.job.tools if t.station)
    hands.press(KEY.Key_2, ALT)
    window.crib.select("tools", ident)
    edited = answering.answered(session.job, f"tool:{ident}.name", "The sharp one")
    session.edit(edited, "Another name")
    hands.press(KEY.Key_C, CTRL | SHIFT)
    hands.press(KEY.Key_N, CTRL)
    session.edit(answering.answered(session.job, f"tool:{ident}.name", "The old one"), "Another name")
    hands.press(KEY.Key_V, CTRL | SHIFT)
    assert {"The sharp one", "The old one"} <= {t.name for t in session.job.tools}


def test_a_template_is_what_new_jobs_begin_with(hands: Hands) -> None:
    """Kept by its name, offered at the start, thrown away there; what is made of it is a new job."""
    hands.opened("fixture-of-six")
    window, session = hands.window, hands.window.session
    kept = session.job
    window.run("job.template")
    assert "is a template now" in window.caption.text()
    window.jobs.close_job()
    tiles = [t for t in window.start.picker.grid.tiles if t.key.startswith("template:")]
    assert [t.title for t in tiles] == [kept.name]
    window.open_choice(tiles[0].key)
    hands.settle()
    assert session.job == kept
    assert session.path is None
    assert session.untouched
    window.jobs.close_job()
    for _ in range(2):
        window.start.picker.grid.put_aside(next(k for k, t in enumerate(window.start.picker.grid.tiles) if t.key == tiles[0].key))
    assert not [t for t in window.start.picker.grid.tiles if t.key.startswith("template:")]
    window.open_choice(tiles[0].key)
    assert "cannot be read" in window.start.words.text()
