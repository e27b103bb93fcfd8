"""Job files: JSON with the suffix `.bastler`, a version, and a published schema.

A file from outside is data: a bad one gives one sentence with the place and the cause, and changes nothing.
"""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

import msgspec

from bastler.bounds import beyond_all
from bastler.disk import read_bounded, reason_of, write_whole
from bastler.job.document import FORMAT_VERSION, Job
from bastler.job.faults import unfounded
from bastler.job.older import outline_of_version_2, parted_setup
from bastler.language import tr

LARGEST = 20_000_000
"""Job files over this many bytes are refused unread."""


class JobFileError(Exception):
    """A job file that cannot be used. `place` is the path of the field (`$.stock.size_x`), empty for the file as a whole."""

    def __init__(self, reason: str, place: str = "") -> None:
        super().__init__(f"{place}: {reason}" if place else reason)
        self.reason = reason
        self.place = place


def schema() -> dict[str, Any]:
    """The JSON schema of the job file."""
    found = msgspec.json.schema(Job)
    found["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    found["title"] = tr("Bastler job")
    return found


def read_job(path: Path) -> Job:
    """The job in a file. Raises JobFileError for whatever keeps it from being one."""
    return read_job_file(path)[0]


def read_job_file(path: Path) -> tuple[Job, bytes]:
    """The job in a file and the stamp of the file, see `stamp_of`. Raises JobFileError."""
    try:
        data = read_bounded(path, LARGEST)
    except OSError as error:
        raise JobFileError(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error))) from error
    return read_job_text(data), stamp_of(data)


def stamp_of(data: bytes) -> bytes:
    """What tells one content of a file from another."""
    return hashlib.sha256(data).digest()


def stamp_at(path: Path) -> bytes:
    """The stamp of the file that is there now; empty where there is none. OSError where it cannot be read."""
    try:
        return stamp_of(read_bounded(path, LARGEST))
    except FileNotFoundError:
        return b""


class Glance(msgspec.Struct):
    """What a job's file says of it at a glance. Whether it is a job that can be opened is seen when it is."""

    version: int
    name: str = ""
    note: str = ""


def glance(data: bytes) -> Glance | None:
    """A look at the text of a file without reading the whole job: a hundredth of the time; None where it is no job's."""
    try:
        return msgspec.json.decode(data, type=Glance)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError):
        return None


def read_job_text(data: bytes) -> Job:
    """The job in the text of a file. Raises JobFileError."""
    try:
        found = msgspec.json.decode(data)
        _check_numbers(found)
        job = msgspec.convert(_today(found), type=Job)
    except msgspec.ValidationError as error:
        reason, _, place = str(error).partition(" - at `")
        raise JobFileError(f"{reason}.", place.rstrip("`") or "$") from error
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise JobFileError(tr("This is not a job file: {error}.", error=error)) from error
    _check(job)
    return job


def _today(found: Any) -> Any:
    """What versions 1 to 3 wrote, in the words of this one. In version 1 setups held milled parts and tools turned; up to
    version 2 outlines were turned ones whose corners stood between their segments; up to version 3 stock and one holding were a
    setup."""
    if not isinstance(found, dict):
        return found
    now = dict(found)
    if isinstance(now.get("setup"), dict):
        now["setup"] = {"holds": "milling"} | now["setup"]
    if isinstance(now.get("tools"), list):
        now["tools"] = [{"form": "rotating"} | t if isinstance(t, dict) else t for t in now["tools"]]
    if isinstance(now.get("outlines"), list):
        now["outlines"] = [outline_of_version_2(o) if isinstance(o, dict) and "pieces" in o else o for o in now["outlines"]]
    if now.get("version") in (1, 2, 3):
        now["version"] = FORMAT_VERSION
        now = parted_setup(now)
    return now


def _check_numbers(found: Any, place: str = "$") -> None:
    """JobFileError at the first number that is none for any answer."""
    if isinstance(found, int | float) and (why := beyond_all(found)):
        raise JobFileError(why, place)
    parts = found.items() if isinstance(found, dict) else enumerate(found) if isinstance(found, list) else ()
    for key, value in parts:
        _check_numbers(value, f"{place}.{key}" if isinstance(key, str) else f"{place}[{key}]")


def _check(job: Job) -> None:
    """What the types cannot say and nothing can be done without: version, references, ids. For numbers out of their bounds see
    `bastler.job.faults`: they are marked at their place."""
    if job.version != FORMAT_VERSION:
        raise JobFileError(
            tr(
                "Version {version} is not known here; this is version {format_version}.",
                version=job.version,
                format_version=FORMAT_VERSION,
            ),
            "$.version",
        )
    _unique([c.id for c in job.cards], "$.cards", tr("Machine card"))
    _unique([m.id for m in job.materials], "$.materials", tr("Material"))
    _check_own(job)
    for trouble in unfounded(job):
        raise JobFileError(trouble.text, f"$.{trouble.field}")
    _unique([h.id for h in job.holdings], "$.holdings", tr("Holding"))
    _unique(
        [s.id for s in job.steps],
        [f"$.holdings[{h}].steps[{k}]" for h, held in enumerate(job.holdings) for k in range(len(held.steps))],
        tr("Step"),
    )
    _unique([p.id for p in job.patterns], "$.patterns", tr("Pattern"))
    _unique([o.id for o in job.outlines], "$.outlines", tr("Outline"))
    _unique([t.id for t in job.tools], "$.tools", tr("Tool"))
    _unique([e.id for e in job.by_hand], "$.by_hand", tr("Hand edit"))


def _check_own(job: Job) -> None:
    """The shop's own materials."""
    for k, own in enumerate(job.materials):
        if set(own.vc) != {"hss", "carbide"} or set(own.fz) != {"hss", "carbide"} or set(own.drill_f) != {"hss", "carbide"}:
            raise JobFileError(tr("Needs numbers for hss and carbide."), f"$.materials[{k}]")


def _unique(values: list[str], places: str | list[str], what: str) -> None:
    """JobFileError at the second of two that are the same; `places` are those of the values, or what they are in."""
    seen: set[str] = set()
    for k, value in enumerate(values):
        if value in seen:
            raise JobFileError(
                tr("{what} “{value}” is there twice.", what=what, value=value),
                f"{places}[{k}]" if isinstance(places, str) else places[k],
            )
        seen.add(value)


def job_text(job: Job) -> bytes:
    """The text of a job file."""
    return msgspec.json.format(msgspec.json.encode(job), indent=1) + b"\n"


def write_job(job: Job, path: Path) -> bytes:
    """Writes the job so that at any instant the old or the new file is there, whole; gives its stamp. OSError when the disk
    refuses."""
    data = job_text(job)
    write_whole(path, data)
    return stamp_of(data)
