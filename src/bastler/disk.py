"""Files on disk: read with a bound, written whole, named as they were asked for, and held against a second window.

What is read from outside is a plain file of a size that was expected, or it is refused before a byte of it is read: a pipe would
wait for ever, a device never ends. What is written is at any instant the old file or the new one.
"""

from __future__ import annotations

import contextlib
import errno
import fcntl
import os
import re
import secrets
import shutil
import stat
import time
from collections.abc import Iterable
from pathlib import Path

from bastler.language import tr

HALF = re.compile(r"^\..+\.[0-9a-f]{8}\.half$")
"""The name of a file that is being written."""
STALE_SECONDS = 60.0
"""A half-written file this old has nobody who would finish it."""
LONGEST_NAME = 255
"""Bytes of a file's name that every file system takes."""


class UnfitFile(OSError):
    """Something on disk that is not read, with the reason in words."""

    def __init__(self, path: Path, reason: str) -> None:
        super().__init__(errno.EINVAL, reason, str(path))
        self.reason = reason


def read_bounded(path: Path, most: int) -> bytes:
    """The bytes of a plain file of at most `most` bytes. OSError where it cannot be read; UnfitFile, which is one, where it is no
    plain file or larger."""
    handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        if not stat.S_ISREG(os.fstat(handle).st_mode):
            raise UnfitFile(path, tr("this is no plain file"))
        data = file.read(most + 1)
    if len(data) > most:
        raise UnfitFile(path, tr("this is larger than {most} MB, the most that is read", most=most // 1000000 or 1))
    return data


def reason_of(error: OSError) -> str:
    """Why a file could not be read or written, for a sentence."""
    known = {
        errno.ENOSPC: tr("the disk is full"),
        errno.EDQUOT: tr("your share of the disk is full"),
        errno.EROFS: tr("the disk can only be read"),
        errno.EACCES: tr("it is not allowed there"),
        errno.EPERM: tr("it is not allowed there"),
        errno.ENOENT: tr("it is not there"),
        errno.ENOTDIR: tr("it is not there"),
        errno.EISDIR: tr("there is a folder of that name"),
        errno.ENAMETOOLONG: tr("the name is too long"),
    }
    if isinstance(error, UnfitFile):
        return error.reason
    return known.get(error.errno or 0, (error.strerror or str(error)).lower())


def write_whole(path: Path, data: bytes) -> None:
    """Replaces a file whole: written beside, flushed to disk, renamed. OSError when the disk refuses, and then the old file is
    there. Where a link leads to the file, the file is replaced and the link stays. A new file has the rights that the umask
    leaves, an old one keeps its own."""
    path = path.resolve() if path.is_symlink() else path
    path.parent.mkdir(parents=True, exist_ok=True)
    stem = path.name.encode("utf-8", "surrogateescape")[: LONGEST_NAME - 15].decode("utf-8", "ignore")
    beside = path.parent / f".{stem}.{secrets.token_hex(4)}.half"
    handle = os.open(beside, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o666)
    try:
        with os.fdopen(handle, "wb") as file:
            with contextlib.suppress(OSError):
                os.fchmod(handle, stat.S_IMODE(path.stat().st_mode))
            file.write(data)
            file.flush()
            os.fsync(handle)
        os.replace(beside, path)
    except BaseException:
        beside.unlink(missing_ok=True)
        raise
    _flush_folder(path.parent)


def free_at(folder: Path) -> int | None:
    """How many bytes there is room for in a folder, or where it would be made; None where nobody knows."""
    for place in (folder, *folder.parents):
        try:
            return shutil.disk_usage(place).free
        except FileNotFoundError:
            continue
        except OSError:
            return None
    return None


def _flush_folder(folder: Path) -> None:
    """The new name is on disk too. Some file systems cannot be asked for that."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)


def clear_half_written(folders: Iterable[Path], now: float | None = None) -> int:
    """Takes away what a killed program left half-written in folders; how many there were."""
    gone, now = 0, time.time() if now is None else now
    for folder in set(folders):
        with contextlib.suppress(OSError):
            for path in folder.iterdir():
                if HALF.match(path.name) and now - path.stat().st_mtime > STALE_SECONDS:
                    path.unlink(missing_ok=True)
                    gone += 1
    return gone


def completed(path: Path, *suffixes: str) -> Path:
    """A path as it was typed, with the first suffix where it ends in none of them. Points in names are names: `plate v1.5` is
    completed, not cut."""
    return path if path.name.lower().endswith(suffixes) else path.with_name(path.name + suffixes[0])


def plain_name(text: str, otherwise: str) -> str:
    """A file's name made of a text: letters, digits, points, dashes and underscores of any script, no folders, nothing hidden."""
    found = re.sub(r"[^\w.-]+", "-", text.strip().lower()).strip("-.")[:60].strip("-.")
    return found or otherwise


class Held:
    """A file that this process holds for as long as it runs, with a word in it about who that is.

    The system lets go of it when the process ends, however it ends; a process number would tell of whoever has it next.
    """

    def __init__(self, path: Path, handle: int) -> None:
        self.path, self._handle = path, handle

    def let_go(self) -> None:
        """Ends it and takes the file away."""
        if self._handle >= 0:
            with contextlib.suppress(OSError):
                self.path.unlink(missing_ok=True)
            os.close(self._handle)
            self._handle = -1


def hold(path: Path, says: str = "") -> Held | None:
    """Holds a file, or None where another process has it. OSError where it cannot be made."""
    path.parent.mkdir(parents=True, exist_ok=True)
    for _ in range(8):
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o666)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            if os.path.samestat(os.fstat(handle), os.stat(path)):  # the one before took it away while we asked
                os.ftruncate(handle, 0)
                os.write(handle, says.encode("utf-8", "replace"))
                return Held(path, handle)
        except BlockingIOError:
            os.close(handle)
            return None
        except FileNotFoundError:
            pass
        except OSError:
            os.close(handle)
            raise
        os.close(handle)
    return None


def holder_of(path: Path) -> str | None:
    """What the process that holds a file says of itself; None where nobody does."""
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return os.read(handle, 400).decode("utf-8", "replace")
    else:
        return None
    finally:
        os.close(handle)
