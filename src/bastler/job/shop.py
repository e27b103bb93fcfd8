"""The shop: the tools, materials and machine cards that every new job begins with. One file, kept beside the settings.

A job carries its own copy, so that it stays what it is wherever it is opened. What is changed in the crib of a job is changed in
the shop too, as long as both were the same before; where they were not, they are in *conflict* and both are shown.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from bastler.cutting import Material
from bastler.disk import read_bounded, reason_of, write_whole
from bastler.job.arrive import fresh_id
from bastler.job.document import Job, new_job
from bastler.job.files import LARGEST, JobFileError, read_job_text, stamp_of
from bastler.language import tr
from bastler.machines import MachineCard
from bastler.tools import AnyTool, shop_crib
from bastler.units import Unit

replace = msgspec.structs.replace


class Phrase(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """Lines of G-code that the shop keeps, with blanks to fill in; for jobs in one unit, on one kind of machine: what is right
    in millimetres is not in inches."""

    id: str
    name: str
    lines: tuple[str, ...]
    unit: Unit
    turns: bool = False


class Shop(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """`racks` are the tools by unit and kind of machine, as `mm` or `lathe-inch`; one that is not there is as it ships."""

    racks: dict[str, tuple[AnyTool, ...]] = {}
    materials: tuple[Material, ...] = ()
    cards: tuple[MachineCard, ...] = ()
    phrases: tuple[Phrase, ...] = ()

    def phrases_for(self, job: Job) -> tuple[Phrase, ...]:
        """Those that are for such a job."""
        return tuple(p for p in self.phrases if (p.unit, p.turns) == (job.unit, job.turns))

    def with_phrase(self, job: Job, name: str, lines: tuple[str, ...]) -> Shop:
        """The shop with lines as a phrase for such jobs; one of the same name for them is changed."""
        same = next((p for p in self.phrases_for(job) if p.name == name), None)
        ident = same.id if same is not None else fresh_id({p.id for p in self.phrases}, "p")
        phrase = Phrase(id=ident, name=name, lines=lines, unit=job.unit, turns=job.turns)
        if same is not None:
            return replace(self, phrases=tuple(phrase if p.id == ident else p for p in self.phrases))
        return replace(self, phrases=(*self.phrases, phrase))

    def without_phrase(self, ident: str) -> Shop:
        """The shop without a phrase; jobs that have its lines keep them."""
        return replace(self, phrases=tuple(p for p in self.phrases if p.id != ident))

    def rack(self, unit: Unit, *, turning: bool) -> tuple[AnyTool, ...]:
        """The shop's tools for that kind of job."""
        return self.racks.get(rack_name(unit, turning=turning)) or shop_crib(unit, turning=turning)

    def new_job(self, unit: Unit, machine: str) -> Job:
        """A new job with what the shop has."""
        job = new_job(unit, machine, {c.id: c for c in self.cards})
        return replace(job, tools=self.rack(unit, turning=job.turns), materials=self.materials, cards=self.cards)

    def followed(self, before: Job, after: Job) -> Shop:
        """The shop after an edit: what was the same in job and shop, and what is new, goes with the edit."""
        if (before.tools, before.materials, before.cards) == (after.tools, after.materials, after.cards):
            return self
        name = rack_name(after.unit, turning=after.turns)
        rack = _followed(self.rack(after.unit, turning=after.turns), before.tools, after.tools)
        materials = _followed(self.materials, before.materials, after.materials)
        return replace(
            self, racks=self.racks | {name: rack}, materials=materials, cards=_followed(self.cards, before.cards, after.cards)
        )

    def given(self, job: Job, tool: AnyTool) -> Shop:
        """The shop with a tool as a job has it."""
        rack = self.rack(job.unit, turning=job.turns)
        with_it = tuple(tool if t.id == tool.id else t for t in rack)
        if tool.id not in {t.id for t in rack}:
            with_it = (*rack, tool)
        return replace(self, racks=self.racks | {rack_name(job.unit, turning=job.turns): with_it})

    def differing(self, job: Job) -> dict[str, AnyTool]:
        """Tools of the job that the shop has otherwise, by id: as the shop has them. Their stations are the job's own affair."""
        rack = {t.id: t for t in self.rack(job.unit, turning=job.turns)}
        pairs = ((t, rack[t.id]) for t in job.tools if t.id in rack)
        return {own.id: other for own, other in pairs if replace(own, station=other.station) != other}

    def besides(self, job: Job) -> tuple[AnyTool, ...]:
        """Tools of the shop that the job has not."""
        known = {t.id for t in job.tools}
        return tuple(t for t in self.rack(job.unit, turning=job.turns) if t.id not in known)


def rack_name(unit: Unit, *, turning: bool) -> str:
    """What a rack is called in the file."""
    return f"lathe-{unit}" if turning else unit


def _followed(shop: tuple[Any, ...], before: tuple[Any, ...], after: tuple[Any, ...]) -> tuple[Any, ...]:
    """Things by id: where shop and job agreed before an edit, the shop has what the job has after it."""
    was, now, ours = ({x.id: x for x in things} for things in (before, after, shop))
    changed = {ident for ident in was.keys() | now.keys() if was.get(ident) != now.get(ident)}
    agreed = {ident for ident in changed if ours.get(ident) == was.get(ident)}
    kept = [now.get(x.id) if x.id in agreed else x for x in shop]
    return tuple([x for x in kept if x is not None] + [now[i] for i in now if i in agreed and i not in ours])


def shops_merged(base: Shop, ours: Shop, theirs: Shop) -> tuple[Shop, tuple[str, ...]]:
    """What two windows have made of one shop: thing by thing what was changed holds. Where both changed the same one ours does,
    and its name is told."""
    both: list[str] = []
    racks = {}
    for name in base.racks.keys() | ours.racks.keys() | theirs.racks.keys():
        kind: dict[str, Any] = {"unit": "inch" if name.endswith("inch") else "mm", "turning": name.startswith("lathe")}
        racks[name] = _merged(base.rack(**kind), ours.rack(**kind), theirs.rack(**kind), both)
    materials = _merged(base.materials, ours.materials, theirs.materials, both)
    cards = _merged(base.cards, ours.cards, theirs.cards, both)
    phrases = _merged(base.phrases, ours.phrases, theirs.phrases, both)
    return Shop(racks=racks, materials=materials, cards=cards, phrases=phrases), tuple(both)


def _merged(base: tuple[Any, ...], ours: tuple[Any, ...], theirs: tuple[Any, ...], both: list[str]) -> tuple[Any, ...]:
    was, mine, other = ({x.id: x for x in things} for things in (base, ours, theirs))
    found = []
    for ident in dict.fromkeys([*mine, *other]):
        old, here, there = was.get(ident), mine.get(ident), other.get(ident)
        if here != old and there not in (old, here):
            both.append(getattr(here or there, "name", ident))
        kept = there if here == old else here
        if kept is not None:
            found.append(kept)
    return tuple(found)


def read_shop(path: Path) -> Shop:
    """The shop on disk; what ships with Bastler where there is none yet. JobFileError for a file that cannot be used."""
    return read_shop_file(path)[0]


def read_shop_file(path: Path) -> tuple[Shop, bytes]:
    """The same, and the stamp of the file: empty where there is none. JobFileError for one that cannot be read."""
    try:
        data = read_bounded(path, LARGEST)
    except FileNotFoundError:
        return Shop(), b""
    except OSError as error:
        raise JobFileError(
            tr("The shop's file {name} cannot be read: {error}.", name=path.name, error=reason_of(error))
        ) from error
    try:
        shop = msgspec.json.decode(data, type=Shop)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise JobFileError(tr("The shop's file {name} cannot be read: {error}.", name=path.name, error=error)) from error
    for name, rack in shop.racks.items():  # a job is checked whole: what no job could hold, no shop can
        unit: Unit = "inch" if name.endswith("inch") else "mm"
        blank = new_job(unit, "lathe-200" if name.startswith("lathe") else "mill-600")
        read_job_text(msgspec.json.encode(replace(blank, tools=rack, materials=shop.materials, cards=shop.cards)))
    return shop, stamp_of(data)


def write_shop(shop: Shop, path: Path) -> bytes:
    """Writes the shop whole; gives the file's stamp. OSError when the disk refuses."""
    data = msgspec.json.format(msgspec.json.encode(shop), indent=1) + b"\n"
    write_whole(path, data)
    return stamp_of(data)
