"""Opening, saving, keeping: nothing lost, nothing let in."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import Qt

from bastler.app import recovery
from bastler.app.main_window import MainWindow
from bastler.app.settings import Settings, read_settings, settings_path
from bastler.job import new_job, read_job, write_job
from bastler.job.samples import sample

from .conftest import CTRL, Hands, QTest


def test_save_writes_the_file_and_it_is_recent(hands: Hands, tmp_path: Path) -> None:
    path = tmp_path / "part.bastler"
    write_job(new_job(), path)
    hands.window.open_path(path)
    hands.window.session.answer("job.name", "Cleat")
    assert hands.window.session.dirty
    hands.press(Qt.Key.Key_S, CTRL)
    assert not hands.window.session.dirty
    assert read_job(path).name == "Cleat"
    assert read_settings().recent == (str(path),)


def test_a_bad_file_is_said_and_changes_nothing(demo: Hands, tmp_path: Path) -> None:
    path = tmp_path / "bad.bastler"
    path.write_text('{"setup": {"size_x": "wide"}}')
    before = demo.window.session.job
    demo.window.open_path(path)
    assert demo.window.session.job is before
    assert "$.setup.size_x" in demo.window.caption.text()


def test_unsaved_work_is_kept_and_offered_without_a_question(demo: Hands) -> None:
    demo.window.session.answer("job.name", "Half done")
    demo.window.close()
    left = list(recovery.recovery_folder().glob("*.bastler"))
    assert [read_job(p).name for p in left] == ["Half done"]
    orphan = left[0].with_name("999999999-x.bastler")
    left[0].rename(orphan)
    again = MainWindow()
    again.show()
    QTest.qWait(20)
    try:
        tiles = {t.title: t.key for t in again.start.picker.grid.tiles}
        assert "Half done" in tiles
        again.open_choice(tiles["Half done"])
        assert again.session.job.name == "Half done"
        assert again.session.path is None
        assert not orphan.exists()
    finally:
        again.close()


def test_autosave_comes_by_itself_within_five_seconds(demo: Hands) -> None:
    demo.window.session.answer("job.name", "Typed just now")
    demo.qtbot.waitUntil(lambda: any(recovery.recovery_folder().glob("*.bastler")), timeout=5000)


def test_jobs_of_a_bastler_that_runs_are_left_alone() -> None:
    folder = recovery.recovery_folder()
    write_job(new_job(), folder / f"{os.getppid()}-a.bastler")
    write_job(new_job(), folder / "999999999-b.bastler")
    assert [p.name for p in recovery.kept_jobs()] == ["999999999-b.bastler"]


def test_settings_that_do_not_fit_are_the_defaults() -> None:
    settings_path().parent.mkdir(parents=True, exist_ok=True)
    settings_path().write_text('{"recent": 7}')
    assert read_settings() == Settings()


def test_the_proof_that_fails_is_said_and_the_window_lives(
    demo: Hands, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    from bastler.proof import Prover

    def broken(*_: object, **__: Any) -> None:
        raise RuntimeError("planted")

    monkeypatch.setattr(Prover, "prove", broken)
    demo.window.session.answer("step:s2.depth", 5.0)
    demo.until(lambda: "failed" in demo.window.caption.text())
    monkeypatch.undo()
    caplog.clear()
    demo.window.session.answer("step:s2.depth", 6.0)
    demo.proved()
    assert sample("winch-base") != demo.window.session.job
