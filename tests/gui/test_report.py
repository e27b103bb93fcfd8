"""The log, and the report that a user can send."""

from __future__ import annotations

import io
import logging
import zipfile
from pathlib import Path

import pytest

from bastler.app import job_desk
from bastler.app.report import LARGEST, keep_log, log_path, report
from bastler.job import read_job_text

from .conftest import Hands


@pytest.fixture
def log(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    """A log in a folder of its own, with a home that is told apart."""
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("HOME", str(tmp_path))
    handler = keep_log()
    assert handler is not None
    yield handler
    logging.getLogger().removeHandler(handler)
    handler.close()


def parts_of(data: bytes) -> dict[str, str]:
    with zipfile.ZipFile(io.BytesIO(data)) as parts:
        return {name: parts.read(name).decode() for name in parts.namelist()}


def test_what_goes_wrong_is_in_the_report_and_nobodys_name(log, caplog: pytest.LogCaptureFixture, tmp_path: Path) -> None:
    with caplog.at_level(logging.WARNING):
        logging.getLogger("bastler").warning("The file %s is odd", tmp_path / "part.bastler")
    caplog.clear()
    found = parts_of(report())
    assert sorted(found) == ["about.txt", "bastler.log"]
    assert "The file ~/part.bastler is odd" in found["bastler.log"]
    assert str(tmp_path) not in "".join(found.values())
    assert "Bastler: " in found["about.txt"]


def test_a_log_begins_anew_when_it_is_large(log, caplog: pytest.LogCaptureFixture) -> None:
    with caplog.at_level(logging.WARNING):
        for _ in range(60):
            logging.getLogger("bastler").warning("x" * 50_000)
    caplog.clear()
    sizes = [path.stat().st_size for path in log_path().parent.glob("bastler.log*")]
    assert len(sizes) == 2
    assert max(sizes) <= LARGEST


def test_a_disk_that_refuses_a_log_does_not_keep_the_window_shut(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "state").write_text("a file")
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    assert keep_log() is None
    assert "about.txt" in parts_of(report())


def test_the_menu_saves_a_report_with_the_job_if_it_is_wanted(
    demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "report.zip"
    monkeypatch.setattr(job_desk, "file_to_write", lambda *_, **__: path)
    demo.window.run("help.report")
    assert "job.bastler" not in parts_of(path.read_bytes())
    demo.window.run("help.report-job")
    parts = parts_of(path.read_bytes())
    assert read_job_text(parts["job.bastler"].encode()) == demo.window.session.job
    assert "nothing has been sent" in demo.window.caption.text()
    monkeypatch.setattr(job_desk, "file_to_write", lambda *_, **__: path / "report.zip")
    demo.window.run("help.report")
    assert "could not be written" in demo.window.caption.text()
