"""What was measured of parts, kept from one day to the next: a file for each job beside what was sent of it.

What cannot be read is passed over: it is a memory, and no job depends on it.
"""

from __future__ import annotations

import contextlib
from collections.abc import Sequence
from pathlib import Path

import msgspec

from bastler.disk import hold, read_bounded, write_whole
from bastler.link.messages import ToolOffset
from bastler.live.leaving import digest_of

MOST = 400
"""Parts of a job that are kept: with more the oldest go."""
LARGEST = 20_000_000
SAME = 1e-9


class Wear(msgspec.Struct, frozen=True):
    """How a tool's offset was corrected when a part was measured."""

    x: float = 0.0
    z: float = 0.0
    diameter: float = 0.0

    @classmethod
    def of(cls, offset: ToolOffset) -> Wear:
        """How an offset of the machine's table is corrected."""
        return cls(offset.wear_x, offset.wear_z, offset.wear_diameter)

    @property
    def largest(self) -> float:
        """What it was corrected by most."""
        return max((self.x, self.z, self.diameter), key=abs)


class Size(msgspec.Struct, frozen=True):
    """A size that was measured, or `typed` in, where so much was `nominal`: of another drawing it says nothing."""

    value: float
    nominal: float
    typed: bool = False


class PartMade(msgspec.Struct, frozen=True):
    """A part: `key` tells it from all others, `when` it was measured last, the so many th that was clamped and its place on the
    table, counted from 0; its sizes by the ids of their gauges; the wear of tools by station."""

    key: str
    when: str
    number: int
    at: int = 0
    sizes: dict[str, Size] = {}
    wear: dict[int, Wear] = {}

    def size(self, ident: str, nominal: float) -> Size | None:
        """One of its sizes; None where it was not measured, or on another drawing."""
        found = self.sizes.get(ident)
        return found if found is not None and abs(found.nominal - nominal) < SAME + 1e-6 * abs(nominal) else None

    def with_size(self, ident: str, size: Size | None, when: str) -> PartMade:
        """With a size more, or without it."""
        sizes = {key: one for key, one in self.sizes.items() if key != ident}
        return msgspec.structs.replace(self, when=when, sizes=sizes if size is None else sizes | {ident: size})


class _Kept(msgspec.Struct):
    job: str
    name: str
    parts: list[PartMade]


class MeasuredParts:
    """Those that are kept in a folder. OSError where the disk refuses to keep them; reading never fails."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def _path(self, job: str, name: str) -> Path:
        return self.folder / f"{digest_of((job or 'called ' + name).encode())[:32]}.json"

    def read(self, job: str, name: str) -> list[PartMade]:
        """The parts of a job, by its file or, where it has none, by its name; the oldest first."""
        with contextlib.suppress(OSError, msgspec.DecodeError):
            return msgspec.json.decode(read_bounded(self._path(job, name), LARGEST), type=_Kept).parts
        return []

    def keep(self, job: str, name: str, parts: Sequence[PartMade]) -> None:
        """Keeps parts, in the place of those with their keys; others that somebody else has kept meanwhile stay."""
        path = self._path(job, name)
        path.parent.mkdir(parents=True, exist_ok=True)
        alone = hold(path.with_suffix(".writing"))
        try:
            mine = {part.key: part for part in parts}
            found = [mine.pop(part.key, part) for part in self.read(job, name)]
            whole = [part for part in (*found, *mine.values()) if part.sizes][-MOST:]
            write_whole(path, msgspec.json.encode(_Kept(job, name, whole)))
        finally:
            if alone is not None:
                alone.let_go()
