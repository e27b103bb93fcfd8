"""Files on disk: whole or not at all, named as asked, bounded, held against a second window."""

from __future__ import annotations

import errno
import os
import stat
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import pytest

from bastler.disk import (
    UnfitFile,
    clear_half_written,
    completed,
    hold,
    holder_of,
    plain_name,
    read_bounded,
    reason_of,
    write_whole,
)
from bastler.job import answering, edits, new_job, write_job
from bastler.job.kept import DAYS, MOST, KeptWork, between, difference
from bastler.job.samples import sample


def test_a_link_is_written_through_and_rights_are_kept(tmp_path: Path) -> None:
    real, link = tmp_path / "real.txt", tmp_path / "link.txt"
    real.write_text("old")
    real.chmod(0o640)
    link.symlink_to(real)
    write_whole(link, b"new")
    assert link.is_symlink()
    assert real.read_text() == "new"
    assert stat.S_IMODE(real.stat().st_mode) == 0o640


def test_a_new_file_has_the_rights_that_the_umask_leaves(tmp_path: Path) -> None:
    old = os.umask(0o027)
    try:
        write_whole(tmp_path / "a", b"x")
    finally:
        os.umask(old)
    assert stat.S_IMODE((tmp_path / "a").stat().st_mode) == 0o640


def test_a_disk_that_refuses_leaves_the_old_file_and_nothing_beside(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a"
    path.write_text("old")

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OSError, match="No space") as caught:
        write_whole(path, b"new")
    assert reason_of(caught.value) == "the disk is full"
    assert path.read_text() == "old"
    assert os.listdir(tmp_path) == ["a"]


def test_the_longest_name_there_is(tmp_path: Path) -> None:
    name = "ä" * 120 + ".bastler"
    write_whole(tmp_path / name, b"x")
    assert (tmp_path / name).read_bytes() == b"x"


def test_a_name_that_is_not_utf_8(tmp_path: Path) -> None:
    path = Path(os.fsdecode(os.fsencode(tmp_path) + b"/caf\xe9.bastler"))
    write_job(new_job(), path)
    assert path.exists()


def test_pipes_folders_and_what_is_too_large_are_not_read(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "large").write_bytes(b"x" * 11)
    for name in ("pipe", "large"):
        with pytest.raises(UnfitFile):
            read_bounded(tmp_path / name, 10)
    with pytest.raises(OSError, match="directory"):
        read_bounded(tmp_path, 10)
    assert read_bounded(tmp_path / "large", 11) == b"x" * 11
    with pytest.raises(UnfitFile):
        read_bounded(Path("/dev/zero"), 10)


def test_half_written_files_of_the_dead_are_cleared_and_nothing_else(tmp_path: Path) -> None:
    half, young, other = tmp_path / ".a.bastler.0123abcd.half", tmp_path / ".b.0123abcd.half", tmp_path / ".profile"
    for path in (half, young, other):
        path.write_text("x")
    old = time.time() - 3600
    os.utime(half, (old, old))
    os.utime(other, (old, old))
    assert clear_half_written([tmp_path, tmp_path / "not there"]) == 1
    assert sorted(os.listdir(tmp_path)) == [".b.0123abcd.half", ".profile"]


@pytest.mark.parametrize(
    ("typed", "name"),
    [
        ("plate", "plate.bastler"),
        ("plate v1.5", "plate v1.5.bastler"),
        ("a.BASTLER", "a.BASTLER"),
        ("tools.v2", "tools.v2.bastler"),
    ],
)
def test_names_are_completed_and_never_cut(typed: str, name: str) -> None:
    assert completed(Path("/x") / typed, ".bastler").name == name


@pytest.mark.parametrize(
    ("text", "name"), [("../../../x", "x"), ("", "part"), ("...", "part"), ("Winch base", "winch-base"), ("a/b\x00c", "a-b-c")]
)
def test_a_job_s_name_makes_a_plain_file_name(text: str, name: str) -> None:
    assert plain_name(text, "part") == name


def test_a_held_file_is_free_once_its_process_is_gone_however_it_went(tmp_path: Path) -> None:
    path = tmp_path / "x.open"
    code = f"import time; from bastler.disk import hold; from pathlib import Path; h = hold(Path({str(path)!r}), 'anna'); print('held', flush=True); time.sleep(60)"  # noqa: E501
    other = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert other.stdout is not None
    assert other.stdout.readline().strip() == "held"
    assert hold(path) is None
    assert holder_of(path) == "anna"
    other.kill()
    other.wait()
    assert holder_of(path) is None
    mine = hold(path)
    assert mine is not None
    mine.let_go()
    assert not path.exists()


# -- kept work --------------------------------------------------------------------------------------------------------------


def test_a_kept_job_comes_back_with_its_file(tmp_path: Path) -> None:
    work = KeptWork(tmp_path / "kept")
    copy = work.begin()
    copy.keep(sample("winch-base"), tmp_path / "base.bastler")
    assert list(work.left()) == [], "it is open"
    copy.let_go()
    (left,) = work.left()
    assert (left.job, left.file) == (sample("winch-base"), tmp_path / "base.bastler")
    again = work.begin(left.ident)
    assert list(work.left()) == []
    again.drop()
    again.let_go()
    assert list(work.left()) == []
    assert os.listdir(work.folder) == []


def test_what_is_kept_ends_after_thirty_days_and_at_its_bound(tmp_path: Path) -> None:
    work = KeptWork(tmp_path)
    for k in range(MOST + 3):
        copy = work.begin(f"{k:03}")
        copy.keep(new_job(), None)
        copy.let_go()
        made = time.time() - 60 * k
        os.utime(tmp_path / f"{k:03}.kept", (made, made))
    work.tidy()
    assert len(list(work.left())) == MOST
    work.tidy(time.time() + (DAYS + 1) * 86_400)
    assert list(work.left()) == []


def test_one_that_is_open_is_never_tidied_away(tmp_path: Path) -> None:
    work = KeptWork(tmp_path)
    copy = work.begin()
    copy.keep(new_job(), None)
    work.tidy(time.time() + 100 * 86_400)
    copy.let_go()
    assert len(list(work.left())) == 1


def test_what_differs_is_said_in_words(tmp_path: Path) -> None:
    path = tmp_path / "base.bastler"
    job = sample("winch-base")
    write_job(job, path)
    added, _ = edits.step_added(job, "drilling", "s2")
    assert between(job, edits.step_removed(job, "s2")).startswith("1 step fewer")
    assert "1 step more" in between(job, added)
    assert between(job, answering.answered(job, "stock.size_x", 200.0)) == "stock changed"
    assert difference(msgspec.structs.replace(job, name="x"), path) == "base.bastler with name changed"
    assert difference(job, None) == "in no file"
    path.unlink()
    assert difference(job, path) == "base.bastler is gone"
