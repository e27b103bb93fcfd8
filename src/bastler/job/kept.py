"""Work that is in no file. Every open job has a copy of its own in the state folder, for as long as it differs from its file.

A copy goes when its job is saved, when the machinist throws it away, or after `DAYS`. Leaving a job, ending the program or
killing it leaves the copy where it is, and the next start offers it. While a job is open its copy is held (`bastler.disk.hold`).
"""

from __future__ import annotations

import contextlib
import secrets
import time
from collections.abc import Iterator
from pathlib import Path

import msgspec

from bastler.disk import Held, hold, holder_of, read_bounded, reason_of, write_whole
from bastler.job.document import Job
from bastler.job.files import LARGEST, JobFileError, read_job, read_job_text
from bastler.job.planned import bare
from bastler.language import many, sayable, tr

DAYS = 30
MOST, MOST_BYTES = 100, 200_000_000
"""Copies kept, and bytes of them: the oldest go first."""


class _Text(msgspec.Struct, frozen=True):
    """A copy as it is written: the job's own file, empty for none, and the job."""

    file: str
    job: msgspec.Raw


class Kept(msgspec.Struct, frozen=True):
    """A copy of nobody that runs: its id, the job, the file it belongs to, and when it was last changed (seconds since 1970).
    One that cannot be read has no job and a reason."""

    ident: str
    job: Job | None
    file: Path | None
    changed: float
    reason: str = ""


class KeptWork:
    """The copies in a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def begin(self, ident: str = "") -> Copy:
        """A place for the copy of a job that is being opened, or the one of a kept job that is taken up. OSError where the disk
        refuses."""
        ident = ident or secrets.token_hex(6)
        return Copy(self._path(ident), hold(self._lock(ident)))

    def left(self) -> Iterator[Kept]:
        """The copies that nobody has open, newest first."""
        found = []
        for path in self._paths():
            ident = path.name.partition(".")[0]
            if holder_of(self._lock(ident)) is None:
                with contextlib.suppress(FileNotFoundError):  # thrown away in another window meanwhile
                    found.append(_read(ident, path))
        yield from sorted(found, key=lambda kept: -kept.changed)

    def throw_away(self, ident: str) -> None:
        """The machinist says so. OSError where the disk refuses."""
        self._path(ident).unlink(missing_ok=True)
        self._lock(ident).unlink(missing_ok=True)

    def tidy(self, now: float | None = None) -> None:
        """Takes away what is too old or too much, of copies that nobody has open."""
        now, count, size = time.time() if now is None else now, 0, 0
        with contextlib.suppress(OSError):
            newest = sorted(((p.stat().st_mtime, p.stat().st_size, p) for p in self._paths()), reverse=True)
            for changed, much, path in newest:
                count, size = count + 1, size + much
                ident = path.name.partition(".")[0]
                if (count > MOST or size > MOST_BYTES or now - changed > DAYS * 86_400) and holder_of(self._lock(ident)) is None:
                    self.throw_away(ident)

    def _paths(self) -> list[Path]:
        with contextlib.suppress(OSError):
            return [p for p in self.folder.iterdir() if p.name.endswith(".kept")]
        return []

    def _path(self, ident: str) -> Path:
        return self.folder / f"{ident}.kept"

    def _lock(self, ident: str) -> Path:
        return self.folder / f"{ident}.open"


def _read(ident: str, path: Path) -> Kept:
    """A copy, or why it cannot be read: it is never passed over."""
    changed = path.stat().st_mtime
    try:
        text = msgspec.json.decode(read_bounded(path, LARGEST + 10_000), type=_Text)
        job = read_job_text(bytes(text.job))
    except (OSError, JobFileError, msgspec.DecodeError, UnicodeDecodeError) as error:
        reason = reason_of(error) if isinstance(error, OSError) else str(error)
        return Kept(ident, None, None, changed, tr("It cannot be read: {reason}", reason=reason))
    return Kept(ident, job, Path(text.file) if text.file else None, changed)


class Copy:
    """The copy of one open job."""

    def __init__(self, path: Path, held: Held | None) -> None:
        self.path, self._held = path, held

    @property
    def ident(self) -> str:
        """Its name among the copies."""
        return self.path.stem

    def keep(self, job: Job, file: Path | None) -> None:
        """Writes the job, whole. OSError where the disk refuses."""
        text = _Text(str(file) if file else "", msgspec.Raw(msgspec.json.encode(job)))
        write_whole(self.path, msgspec.json.encode(text))

    def drop(self) -> None:
        """The job is in its file: nothing has to be kept."""
        self.path.unlink(missing_ok=True)

    def let_go(self) -> None:
        """The job is left; what is kept of it stays."""
        if self._held:
            self._held.let_go()
            self._held = None


def difference(job: Job, file: Path | None) -> str:
    """What a job has that its file has not, in a few words."""
    if file is None:
        return tr("in no file")
    try:
        other = read_job(file)
    except JobFileError:
        return tr("{name} is gone", name=file.name)
    return tr("{name} with {between}", name=file.name, between=between(other, job))


def between(old: Job, new: Job) -> str:
    """What a job has that another has not: `2 steps more, tools changed`."""
    steps, now = {s.id: s for s in old.steps}, {s.id: s for s in new.steps}
    counts = (
        (len(now.keys() - steps.keys()), tr("more")),
        (len(steps.keys() - now.keys()), tr("fewer")),
        (sum(now[i] != steps[i] for i in now.keys() & steps.keys()), tr("changed")),
    )
    words = [f"{many(count, 'step')} {what}" for count, what in counts if count]
    held = [tuple(bare(h) for h in job.holdings) for job in (old, new)]
    others = [(sayable("stock"), old.stock != new.stock), (sayable("holding"), held[0] != held[1])]
    others += [
        (name, getattr(old, name) != getattr(new, name)) for name in sayable(("tools", "outlines", "patterns", "machine", "name"))
    ]
    changed = [tr(name) for name, other in others if other]
    words += [tr("{changed} changed", changed=", ".join(changed))] if changed else []
    return ", ".join(words) or tr("nothing but the order changed")
