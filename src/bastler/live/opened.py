"""A job round a program that comes from elsewhere. What such a program does not say is guessed: the machine whose control reads
it best, the stock from where it feeds, a tool by the name that the program gives it. Every guess is asked about.
"""

from __future__ import annotations

import math
import re

import msgspec
import numpy as np

from bastler.job import BarStock, BlockStock, ChuckHolding, Job, ViseHolding, plan
from bastler.job.by_hand import Elsewhere, without_remarks
from bastler.job.shop import Shop
from bastler.language import tr
from bastler.machines import CARDS
from bastler.nc import RAPID, Trace, read
from bastler.post import post
from bastler.proof.scenes import scene_of
from bastler.proof.turn.both import control_of
from bastler.units import MM_PER_INCH

LARGEST = 5_000_000
"""Bytes of a program that is opened; a larger one is proved on the command line."""
NUMBER = re.compile(r"^\s*[O:]\s*(\d{1,8})", re.IGNORECASE | re.MULTILINE)
NAMED = re.compile(r"\(\s*T\s*0*(\d{1,3})\s*[:=-]?\s*([^()]*)\)", re.IGNORECASE)
"""A remark that names a tool: `(T3 End mill 10)`."""
BEYOND_MM = 5.0
"""So much the stock is larger than where it is fed, at least, for what the tools' own size takes."""


class NoProgram(Exception):
    """What was opened is no program; the message is a sentence."""


def job_of_program(data: bytes, name: str, shop: Shop) -> Job:
    """A job that holds a program and what its moves tell. NoProgram where they tell nothing."""
    if len(data) > LARGEST:
        raise NoProgram(
            tr(
                "{name} is larger than {largest} MB. The command line proves it: bastler prove {name} --setup JOB.",
                name=name,
                largest=LARGEST // 1000000,
            )
        )
    text = data.decode("latin-1")
    if "\x00" in text:
        raise NoProgram(tr("{name} is no program: it holds signs that no control reads.", name=name))
    own = Elsewhere(lines=tuple(text.splitlines()))
    unit = own.unit or "mm"
    found: list[tuple[tuple[bool, bool, int], Job, Trace]] = []
    for machine in _machines(shop, text):
        job = _round(shop.new_job(unit, machine), own, text, name)
        trace = _read(job)
        if (trace.kind != RAPID).any():
            found.append(((job.card.name.lower() in text.lower(), not trace.cut, -len(trace.findings)), job, trace))
    if not found:
        raise NoProgram(tr("{name} moves no tool at a feed, on any machine there is a card of.", name=name))
    _, job, trace = max(found, key=lambda one: one[0])
    return _named(_stocked(job, trace), text)


def _machines(shop: Shop, text: str) -> list[str]:
    """The cards of machines that could be meant, the simple ones before those that can more: what moves Y is not turned, but
    beside driven tools."""
    cards = CARDS | {card.id: card for card in shop.cards}
    milled = any(re.search(r"Y\s*[-+.\d]", without_remarks(line), re.IGNORECASE) for line in text.splitlines())
    able = {ident: card for ident, card in cards.items() if not (milled and card.turns and card.drive is None)}
    return sorted(able, key=lambda ident: (able[ident].turns, able[ident].drive is not None, able[ident].second is not None))


def _round(job: Job, own: Elsewhere, text: str, name: str) -> Job:
    """A job round the lines of a program."""
    stem = re.sub(r"\.\w{1,4}$", "", name)[:80] or "Program"
    number = NUMBER.search(text)
    counted = min(max(int(number[1]), 1), 9999) if number else job.program_number
    return msgspec.structs.replace(job, name=stem, program_number=counted, elsewhere=own)


def _read(job: Job) -> Trace:
    planned = plan(job)
    return read(post(planned.first).text, control_of([scene_of(planned)]))


def _stocked(job: Job, trace: Trace) -> Job:
    """With a stock round where it feeds."""
    mm = 1.0 if job.unit == "mm" else 1 / MM_PER_INCH
    feeds = trace.kind != RAPID
    ends = np.concatenate([trace.start[feeds], trace.end[feeds]])
    ends = ends[np.isfinite(ends).all(axis=1)]
    (x0, y0, z0), (x1, y1, _) = ends.min(axis=0).tolist(), ends.max(axis=0).tolist()
    by = mm if job.unit == "mm" else 0.125

    def up(length: float) -> float:
        """To the next whole millimetre, or eighth of an inch."""
        return round(math.ceil(length / by - 1e-6) * by, 6)

    if job.turns:
        deep, outer = up(max(-z0, 5 * mm)), up(2 * max(x1 - 2 * mm, x0, 2 * mm))
        bar = BarStock(
            material=job.stock.material, diameter=outer, length=up(deep + 40 * mm), over_front=0.0, over_back=0.0, finished=deep
        )
        chuck = ChuckHolding(stick_out=up(deep + 10 * mm), rating=min(3000.0, job.card.speed[1]))
        return msgspec.structs.replace(job, stock=bar, holdings=(chuck,))
    room = max(BEYOND_MM * mm, _widest(job, trace))
    below = z0 < -1e-6 * mm
    high = up(-z0 + mm) if below else up(max(float(ends[:, 2].max()), 5 * mm))
    wide, deep = up(x1 - x0 + 2 * room), up(y1 - y0 + 2 * room)
    block = BlockStock(material=job.stock.material, size_x=wide, size_y=deep, size_z=high, over_top=0.0)
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    holding = ViseHolding(
        zero="own",
        zero_x=round(wide / 2 - middle[0], 6),
        zero_y=round(deep / 2 - middle[1], 6),
        zero_z="top" if below else "bottom",
        vise="no",
    )
    return msgspec.structs.replace(job, stock=block, holdings=(holding,))


def _widest(job: Job, trace: Trace) -> float:
    """The radius of the largest tool that cuts, as far as they are known."""
    used = set(trace.tool[trace.kind != RAPID].tolist())
    return max((tool.diameter / 2 for tool in job.tools if tool.station in used and hasattr(tool, "flutes")), default=0.0)  # type: ignore[union-attr]


def _named(job: Job, text: str) -> Job:
    """With the tools at their stations that the program names as the crib does: these are sure."""
    tools, sure = list(job.tools), []
    for number, says in NAMED.findall(text):
        station, words = int(number), _plain(says)
        found = next((k for k, tool in enumerate(tools) if _plain(tool.name) == words), None)
        if found is None or not words or f"T{station}" in sure:
            continue
        for k, tool in enumerate(tools):
            if tool.station == station and k != found:
                tools[k] = msgspec.structs.replace(tool, station=0)
        tools[found] = msgspec.structs.replace(tools[found], station=station)
        sure.append(f"T{station}")
    assert job.elsewhere is not None
    return msgspec.structs.replace(job, tools=tuple(tools), elsewhere=msgspec.structs.replace(job.elsewhere, sure=tuple(sure)))


def _plain(name: str) -> str:
    """A tool's name as remarks of a program have it, where they have no degree sign and perhaps no small letters."""
    return " ".join(name.replace("°", " deg").lower().split())
