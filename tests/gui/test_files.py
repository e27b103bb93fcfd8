"""Opening, saving, keeping: nothing lost, nothing let in."""

from __future__ import annotations

import os
import re
import stat
import threading
import time
from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QLabel

from bastler.app import asking, recovery
from bastler.app.core import Core
from bastler.app.job_desk import open_mark
from bastler.app.main_window import MainWindow
from bastler.app.output import OutputPanel
from bastler.app.settings import Settings, read_settings, settings_path
from bastler.app.shop_keeper import shop_path
from bastler.app.start_place import said_when
from bastler.app.two_versions import TwoVersions
from bastler.disk import hold
from bastler.job import answering, new_job, read_job, write_job
from bastler.job.kept import Kept
from bastler.job.samples import sample
from bastler.job.shop import read_shop

from .conftest import CTRL, Hands, QTest


def kept() -> list[Kept]:
    return list(recovery.kept_work().left())


def copies() -> list[Path]:
    return list(recovery.kept_work().folder.glob("*.kept"))


def tiles(window: MainWindow) -> dict[str, str]:
    return {t.title: t.key for t in window.start.picker.grid.tiles}


def saved_part(tmp_path: Path, name: str = "part") -> Path:
    path = tmp_path / f"{name}.bastler"
    write_job(sample("winch-base"), path)
    return path


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
    assert not copies()


def test_a_bad_file_is_said_and_changes_nothing(demo: Hands, tmp_path: Path) -> None:
    path = tmp_path / "bad.bastler"
    path.write_text('{"stock": {"is": "block", "size_x": "wide"}}')
    before = demo.window.session.job
    demo.window.open_path(path)
    assert demo.window.session.job is before
    assert "$.stock.size_x" in demo.window.caption.text()


def test_a_pipe_in_place_of_a_file_is_refused_at_once(demo: Hands, tmp_path: Path) -> None:
    path = tmp_path / "pipe.bastler"
    os.mkfifo(path)
    demo.window.open_path(path)
    assert "no plain file" in demo.window.caption.text()


# -- what is kept -----------------------------------------------------------------------------------------------------------


def test_unsaved_work_is_kept_and_taken_up_where_it_was(demo: Hands, tmp_path: Path) -> None:
    path = saved_part(tmp_path)
    demo.window.open_path(path)
    demo.window.session.answer("job.name", "Half done")
    demo.window.close()
    (left,) = kept()
    assert left.job is not None
    assert (left.job.name, left.file) == ("Half done", path)
    again = MainWindow()
    again.show()
    QTest.qWait(20)
    try:
        offered = again.start.picker.grid.tiles[0]
        assert offered.title == "Half done"
        assert "part.bastler with name changed" in offered.says
        again.open_choice(offered.key)
        assert again.session.job.name == "Half done"
        assert again.session.path == path
        assert again.session.dirty
        assert copies(), "taken up, it is kept all the same"
        assert not kept(), "and it is not offered a second time"
        again.jobs.save_job()
        assert read_job(path).name == "Half done"
        assert not copies()
    finally:
        again.close()


@pytest.mark.parametrize("leave", ["new", "open", "start", "close"])
def test_however_a_job_is_left_its_work_is_kept(demo: Hands, tmp_path: Path, leave: str) -> None:
    window = demo.window
    window.session.answer("job.name", "Half done")
    if leave == "new":
        window.jobs.new_job()
    elif leave == "open":
        window.open_path(saved_part(tmp_path))
    else:
        window.jobs.close_job() if leave == "start" else window.close()
    assert [k.job.name for k in kept() if k.job] == ["Half done"]
    if leave in ("new", "open"):
        window.session.answer("job.name", "Another")
        window.jobs.close_job()
        assert sorted(k.job.name for k in kept() if k.job) == ["Another", "Half done"]
        assert {"Another", "Half done"} <= set(tiles(window))


def test_what_nobody_changed_is_not_kept(demo: Hands, tmp_path: Path) -> None:
    demo.window.jobs.close_job()
    demo.window.open_choice("new:mm:mill-600")
    demo.window.open_path(saved_part(tmp_path))
    demo.window.close()
    assert not copies()


def test_it_is_kept_within_half_a_second_and_again_while_typing_goes_on(demo: Hands) -> None:
    demo.window.session.answer("job.name", "Typed")
    demo.qtbot.waitUntil(lambda: bool(copies()), timeout=900)
    begun = time.monotonic()
    while not any("Typed 7" in p.read_text() for p in copies()):
        assert time.monotonic() - begun < 2.0 + 0.8, "never a pause, and nothing kept"
        demo.window.session.answer("job.name", f"Typed 7{time.monotonic()}")
        QTest.qWait(100)


def test_what_waits_behind_a_slow_disk_is_written_before_the_job_is_left(demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    """Handed to the thread and not taken yet: leaving takes it up, and waits for what is being written."""
    recovery_of = demo.window.jobs.recovery
    with recovery_of._writing:  # the thread is busy with something older
        demo.window.session.answer("job.name", "Half done")
        QTest.qWait(recovery.PAUSE_MS + 200)
        assert not copies()
        monkeypatch.setattr(recovery_of, "_writing", threading.Lock())
        demo.window.jobs.leave()
    assert [k.job.name for k in kept() if k.job] == ["Half done"]


def test_taken_up_and_killed_at_once_it_is_still_there(demo: Hands) -> None:
    demo.window.session.answer("job.name", "Half done")
    demo.window.jobs.close_job()
    demo.window.open_choice(tiles(demo.window)["Half done"])
    (copy,) = copies()
    assert b"Half done" in copy.read_bytes()


def test_a_kept_job_is_thrown_away_by_pressing_twice(demo: Hands) -> None:
    window, grid = demo.window, demo.window.start.picker.grid
    window.session.answer("job.name", "Half done")
    window.jobs.close_job()
    QTest.qWait(30)
    demo.click(grid, grid.corner(0).center().x(), grid.corner(0).center().y())
    assert copies(), "one press asks"
    demo.click(grid, grid.corner(0).center().x(), grid.corner(0).center().y())
    assert not copies()
    assert "Half done" not in tiles(window)


def test_a_kept_job_is_thrown_away_by_key_and_moving_on_takes_the_question_back(demo: Hands) -> None:
    window = demo.window
    window.session.answer("job.name", "Half done")
    window.jobs.close_job()
    demo.press(Qt.Key.Key_Delete)
    demo.press(Qt.Key.Key_Right)
    demo.press(Qt.Key.Key_Left)
    demo.press(Qt.Key.Key_Delete)
    assert copies()
    demo.press(Qt.Key.Key_Delete)
    assert not copies()


def test_kept_work_that_cannot_be_read_is_shown(hands: Hands) -> None:
    work = recovery.kept_work()
    work.folder.mkdir(parents=True)
    (work.folder / "abc.kept").write_text('{"file": "", "job": {"setup": 7}}')
    hands.window.show_start()
    tile = hands.window.start.picker.grid.tiles[0]
    assert "cannot be read" in tile.says
    hands.window.open_choice(tile.key)
    assert not hands.window.session.has_job


def test_a_full_disk_is_seen_and_stays_seen_until_there_is_room(demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(recovery, "AGAIN_MS", 150)
    with monkeypatch.context() as disk:
        disk.setattr("bastler.job.kept.write_whole", full)
        demo.window.session.answer("job.name", "Half done")
        demo.qtbot.waitUntil(demo.window.alarm.isVisible, timeout=3000)
        assert "the disk is full" in demo.window.alarm.text()
        assert "Save the job" in demo.window.alarm.text()
        demo.press(Qt.Key.Key_PageDown)
        assert demo.window.alarm.isVisible()
    demo.qtbot.waitUntil(lambda: not demo.window.alarm.isVisible(), timeout=9000)
    assert b"Half done" in copies()[0].read_bytes()


@pytest.mark.parametrize("leave", ["close", "new", "start", "open"])
def test_what_the_disk_does_not_take_is_not_left_at_the_first_wish(
    demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, leave: str
) -> None:
    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    window, other = demo.window, saved_part(tmp_path)

    def go() -> None:
        if leave == "open":
            window.open_path(other)
        elif leave == "close":
            window.close()
        else:
            demo.press(Qt.Key.Key_N if leave == "new" else Qt.Key.Key_W, CTRL)

    def gone() -> bool:
        return not window.isVisible() or not window.session.has_job or window.session.job.name != "Half done"

    with monkeypatch.context() as disk:
        disk.setattr("bastler.job.kept.write_whole", full)
        window.session.answer("job.name", "Half done")
        go()
        assert not gone()
        assert "Once more leaves this job and loses" in window.alarm.text()
        assert "the disk is full" in window.alarm.text()
        assert window.alarm.isVisible()
        window.session.answer("step:s2.depth", 5.0)  # what is typed on is asked about anew
        go()
        assert not gone()
        go()
        assert gone()


# -- saving -----------------------------------------------------------------------------------------------------------------


def test_names_are_completed_before_they_are_asked_about(demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    other = saved_part(tmp_path, "plate v1.5")
    demo.window.session.answer("job.name", "Mine")
    asked: list[TwoVersions] = []

    def look(dialog: TwoVersions) -> int:
        asked.append(dialog)
        return 0

    monkeypatch.setattr(TwoVersions, "exec", look)
    demo.window.jobs.save_to(tmp_path / "plate v1.5.bastler")
    assert asked, "there is one of that name"
    assert read_job(other) == sample("winch-base")
    assert demo.window.session.path is None


def test_a_file_saved_elsewhere_meanwhile_is_not_written_over(
    demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = saved_part(tmp_path)
    window = demo.window
    window.open_path(path)
    window.session.answer("job.name", "Mine")
    theirs = answering.answered(sample("winch-base"), "job.name", "Theirs")
    write_job(theirs, path)
    presses = iter(["back", "take_theirs"])

    def look(dialog: TwoVersions) -> int:
        dialog.show()
        QTest.qWait(30)
        words = " ".join(label.text() for label in dialog.findChildren(QLabel))
        assert "part.bastler was saved elsewhere" in words
        assert "name changed" in words
        press = next(presses)
        dialog.reject() if press == "back" else demo.click(getattr(dialog, press))
        return 0

    monkeypatch.setattr(TwoVersions, "exec", look)
    demo.press(Qt.Key.Key_S, CTRL)
    assert read_job(path) == theirs
    assert window.session.job.name == "Mine"
    demo.press(Qt.Key.Key_S, CTRL)
    assert window.session.job == theirs
    assert [k.job.name for k in kept() if k.job] == ["Mine"], "what was not chosen is kept"


def test_or_this_one_holds(demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = saved_part(tmp_path)
    demo.window.open_path(path)
    demo.window.session.answer("job.name", "Mine")
    write_job(new_job(), path)

    def look(dialog: TwoVersions) -> int:
        dialog.keep_mine.click()
        return 1

    monkeypatch.setattr(TwoVersions, "exec", look)
    demo.press(Qt.Key.Key_S, CTRL)
    assert read_job(path).name == "Mine"


def test_a_job_that_is_open_elsewhere_says_so(demo: Hands, tmp_path: Path) -> None:
    path = saved_part(tmp_path)
    other = hold(open_mark(path), "anna on bench-2 since 09:10")
    assert other is not None
    demo.window.open_path(path)
    assert "open elsewhere too: anna on bench-2 since 09:10" in demo.window.caption.text()
    other.let_go()
    demo.window.open_path(path)
    assert open_mark(path).exists()
    demo.window.jobs.close_job()
    assert not open_mark(path).exists()


def test_what_is_saved_has_the_rights_that_the_umask_leaves(demo: Hands, tmp_path: Path) -> None:
    output: OutputPanel = demo.window.program.output
    output.folder = tmp_path
    output.name.setText("first.nc")
    output.save()
    mode = stat.S_IMODE((tmp_path / "first.nc").stat().st_mode)
    mask = os.umask(0)
    os.umask(mask)
    assert mode == 0o666 & ~mask


# -- the rest ---------------------------------------------------------------------------------------------------------------


def test_a_name_is_text_and_never_mark_up(demo: Hands, tmp_path: Path) -> None:
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    demo.window.session.answer("job.name", f"<img src='{pipe}'><b>Bush")
    demo.window.go_to("crib")
    demo.window.go_to("program")
    demo.window.go_to("bench")
    for label in demo.window.findChildren(QLabel):
        assert label.textFormat() in (Qt.TextFormat.PlainText, Qt.TextFormat.RichText), label.text()
        if label.textFormat() == Qt.TextFormat.RichText:
            assert "<img" not in label.text()
        else:
            assert not re.search(r"<(b|i|p|br|span)\b", label.text().replace("<b>Bush", "")), (
                "mark-up of our own, shown as it stands"
            )


def test_moments_are_said_as_one_says_them() -> None:
    now = time.mktime((2026, 11, 28, 14, 0, 0, 0, 0, -1))
    assert said_when(now - 3600, now) == "Today 13:00"
    assert said_when(now - 86_400, now) == "27 November, 14:00"
    assert said_when(now - 370 * 86_400, now).endswith("2025")


def test_settings_that_do_not_fit_are_the_defaults() -> None:
    settings_path().parent.mkdir(parents=True, exist_ok=True)
    settings_path().write_text('{"recent": 7}')
    assert read_settings() == Settings()


def test_two_windows_keep_one_shop(demo: Hands) -> None:
    """What the other one wrote since is taken over, and not written over."""
    other = MainWindow()
    other.open_choice("sample:winch-base")
    other.session.answer("tool:end-10.flutes", 5)
    other.shop_keeper.keep()
    demo.window.session.answer("tool:end-6.flutes", 5)
    demo.window.shop_keeper.keep()
    rack = {t.id: getattr(t, "flutes", 0) for t in read_shop(shop_path()).rack("mm", turning=False)}
    other.close()
    assert (rack["end-10"], rack["end-6"]) == (5, 5)


def test_a_shop_that_cannot_be_written_is_said(demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    def refuses(*_: object) -> None:
        raise OSError(30, "Read-only file system")

    monkeypatch.setattr("bastler.job.shop.write_whole", refuses)
    demo.window.session.answer("tool:end-6.flutes", 5)
    demo.until(demo.window.alarm.isVisible)
    assert "crib" in demo.window.alarm.text()
    assert "can only be read" in demo.window.alarm.text()


def test_the_folder_is_the_one_where_such_a_file_was_last(hands: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Of each kind of file its own; one that is gone, or a file that cannot be read, is no hindrance."""
    asked: list[str] = []

    def opened(_parent: object, _title: str, folder: str, _kinds: str, **_: object) -> tuple[str, str]:
        asked.append(folder)
        return str(tmp_path / "parts" / "a.bastler"), ""

    monkeypatch.setattr(QFileDialog, "getOpenFileName", opened)
    (tmp_path / "parts").mkdir()
    for kinds in ("Jobs (*.bastler)", "Jobs (*.bastler)", "Tables (*.csv)"):
        asking.file_to_open(hands.window, "Open", str(Path.home()), kinds)
    assert asked == [str(Path.home()), str(tmp_path / "parts"), str(Path.home())]
    asking.file_to_open(hands.window, "Open", str(tmp_path), "Jobs (*.bastler)")
    assert asked[-1] == str(tmp_path), "who names a folder gets it"
    (tmp_path / "parts").rmdir()
    assert asking.last_folder("Jobs (*.bastler)", tmp_path) == tmp_path
    asking.folders_path().write_bytes(b"rubbish")
    assert asking.last_folder("Tables (*.csv)", tmp_path) == tmp_path
    asking.remember_folder("Tables (*.csv)", tmp_path)
    assert asking.last_folder("Tables (*.csv)", Path.home()) == tmp_path


def test_the_machine_that_was_chosen_last_has_the_next_new_job_too(hands: Hands) -> None:
    """Of the same kind of part; one that is not there any more is forgotten, and a sample chooses for nobody."""
    window = hands.window
    hands.opened("drum-spindle")
    window.open_choice("new:mm:mill-600")
    hands.settle()
    other = next(c.id for c in window.session.job.all_cards().values() if not c.turns and c.id != window.session.job.machine)
    window.session.answer("job.machine", other)
    hands.settle()
    window.open_choice("new:inch:mill-600")
    assert window.session.job.machine == other
    window.open_choice("new:mm:lathe-200")
    assert window.session.job.machine == "lathe-200"
    window.settings = msgspec.structs.replace(window.settings, machine={"flat": "gone"})
    window.open_choice("new:mm:mill-600")
    assert window.session.job.machine == "mill-600"


def test_the_next_start_is_as_the_last_one_was_left(hands: Hands, core: Core) -> None:
    """The view that was looked at, and the kind and unit of part that was begun: Enter begins the next one."""
    window = hands.window
    window.open_choice("new:inch:lathe-200")
    hands.settle()
    hands.press(Qt.Key.Key_3, CTRL)
    assert window.current_view == "path"
    window.close()
    again = MainWindow(core)
    again.show()
    QTest.qWaitForWindowExposed(again)
    again.activateWindow()
    try:
        grid = again.start.picker.grid
        assert grid.tiles[grid.at].key == "new:inch:lathe-200"
        QTest.keyClick(again.start.picker.search, Qt.Key.Key_Return)
        hands.until(lambda: again.session.has_job)
        assert again.session.job.unit == "inch"
        assert again.session.job.turns
        assert again.current_view == "path"
        assert again.views.currentWidget() is again.path
        again.open_choice("lesson:plate")
        assert again.current_view == "sheet", "a lesson speaks of the sheet"
    finally:
        again.close()
        again.deleteLater()


def test_the_title_says_which_job_it_is(hands: Hands) -> None:
    window = hands.window
    assert window.windowTitle() == "Bastler"
    hands.opened("winch-base")
    assert window.windowTitle() == "Winch base – Bastler"
    window.session.answer("job.name", "Cap")
    hands.settle()
    assert window.windowTitle() == "Cap – Bastler"
