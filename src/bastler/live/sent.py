"""What was sent: every program that left, with when, where to and what was in it, so that months later somebody can say which one
a machine has.

The list is one file of lines; what programs were made of lies beside it by its digest, each once. What cannot be read is passed
over: it is a memory, and no job depends on it.
"""

from __future__ import annotations

import contextlib
import gzip
import io
import os
import time
import zlib
from collections.abc import Iterator
from pathlib import Path

import msgspec

from bastler.disk import Held, hold, read_bounded, write_whole
from bastler.language import tr
from bastler.live.leaving import digest_of
from bastler.post import Program
from bastler.post.program import Section

MOST, TRIMMED = 600, 500
"""So many are listed; with more the oldest go, down to the second number."""
LARGEST_LIST, LARGEST_TEXT = 100_000_000, 200_000_000
LINE_PATH = "line:"
"""Where to, of what went over a serial line: with its port behind it. There is no file to look at."""
MACHINE_PATH = "machine:"
"""Where to, of what went to a machine over the link: with its name there behind it."""
TRIES, PAUSE = 20, 0.02
"""So often it is tried to be alone at the list, so many seconds apart."""


class Output(msgspec.Struct, frozen=True, kw_only=True):
    """A program that left: `when`, local time; of which `job`, its file or empty where it had none, called `name`; which of its
    programs, counted from 0; where to; the digest of the file, and that of what it is made of, under which that is kept."""

    when: str
    job: str
    name: str
    program: int
    number: int
    path: str
    digest: str
    made_of: str

    def of(self, job: str, name: str, program: int) -> bool:
        """Is it of that program of a job? One without a file is known by its name."""
        mine = self.job == job if self.job else self.name == name
        return mine and self.program == program

    @property
    def where(self) -> str:
        """Where to, in words."""
        if self.path.startswith(LINE_PATH):
            return tr("over {removeprefix}", removeprefix=self.path.removeprefix(LINE_PATH))
        if self.path.startswith(MACHINE_PATH):
            return tr("to the machine as {removeprefix}", removeprefix=self.path.removeprefix(MACHINE_PATH))
        return tr("as {name}", name=Path(self.path).name)

    def is_there(self) -> bool | None:
        """Is the file still as it was sent, as far as there is one? None where it is not there, or cannot be read."""
        if self.path.startswith((LINE_PATH, MACHINE_PATH)):
            return True
        try:
            return digest_of(read_bounded(Path(self.path), LARGEST_TEXT)) == self.digest
        except OSError:
            return None


class Made(msgspec.Struct, frozen=True):
    """What an output was made of: lines and sections of its program, and the titles of steps by their id."""

    lines: tuple[str, ...]
    sections: tuple[Section, ...]
    titles: dict[str, str]

    @property
    def program(self) -> Program:
        return Program(self.lines, self.sections)


class SentPrograms:
    """Those that are kept in a folder. OSError where the disk refuses to keep one; reading never fails."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._list = folder / "sent.jsonl"

    def keep(self, output: Output, made: Made) -> Output:
        """Takes down that a program left; gives what is taken down."""
        whole = msgspec.json.encode(made)
        output = msgspec.structs.replace(output, made_of=digest_of(whole))
        if not self._whole(output).exists():
            write_whole(self._whole(output), gzip.compress(whole, mtime=0))
        with self._alone() as alone:
            handle = os.open(self._list, os.O_WRONLY | os.O_CREAT | os.O_APPEND | os.O_CLOEXEC, 0o666)
            try:
                os.write(handle, msgspec.json.encode(output) + b"\n")
                os.fsync(handle)
            finally:
                os.close(handle)
            if alone:
                self._trim()
        return output

    def outputs(self) -> list[Output]:
        """All there are, the oldest first."""
        return list(self._read())

    def last(self, job: str, name: str, program: int) -> Output | None:
        """What left last of a program."""
        return next((one for one in reversed(self.outputs()) if one.of(job, name, program)), None)

    def made(self, output: Output) -> Made | None:
        """What an output was made of; None where that is not kept any more, or is damaged."""
        try:
            packed = io.BytesIO(read_bounded(self._whole(output), LARGEST_TEXT))
            whole = gzip.GzipFile(fileobj=packed).read(LARGEST_TEXT)
            return msgspec.json.decode(whole, type=Made) if digest_of(whole) == output.made_of else None
        except (OSError, EOFError, zlib.error, msgspec.DecodeError):
            return None

    def _whole(self, output: Output) -> Path:
        return self.folder / f"{output.made_of}.gz"

    def _read(self) -> Iterator[Output]:
        try:
            lines = read_bounded(self._list, LARGEST_LIST).splitlines()
        except OSError:
            return
        for line in lines:
            with contextlib.suppress(msgspec.DecodeError):
                yield msgspec.json.decode(line, type=Output)

    @contextlib.contextmanager
    def _alone(self) -> Iterator[bool]:
        """Nobody else writes meanwhile; or somebody does who does not come to an end, and then the list only grows."""
        lock: Held | None = None
        for _ in range(TRIES):
            lock = hold(self.folder / ".writing")
            if lock is not None:
                break
            time.sleep(PAUSE)
        try:
            yield lock is not None
        finally:
            if lock is not None:
                lock.let_go()

    def _trim(self) -> None:
        """Forgets the oldest."""
        every = self.outputs()
        if len(every) <= MOST:
            return
        kept = every[-TRIMMED:]
        write_whole(self._list, b"".join(msgspec.json.encode(one) + b"\n" for one in kept))
        alive = {one.made_of for one in kept}
        for path in self.folder.glob("*.gz"):
            if path.name.removesuffix(".gz") not in alive:
                path.unlink(missing_ok=True)
