"""A program on its way through the control: how its moves come one after the other in time, under overrides and stops.

The reader has said where tips go as the control believes. Here its moves are those of the machine: shifted and turned with the
work offset, with a way in before them where a program is taken up in its middle.
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec
import numpy as np

from bastler.link.messages import Moved, WorkOffset
from bastler.machines import MachineCard
from bastler.nc import RAPID, Trace
from bastler.nc.trace import about_axis
from bastler.proof.clockwork import event_times, move_times
from bastler.shapes.kinds import Floats
from bastler.standin.hidden import RealTool
from bastler.standin.workpiece import Mistake, Place

BY_MACHINE = re.compile(r"G0*(53|28)(?![\d.])")
REMARK = re.compile(r"\(([^)]*)\)|;(.*)")
RAMP = 0.15
"""Seconds in which the feed goes from nothing to all of it, or back."""


def set_by(trace: Trace) -> list[tuple[int, int, Place]]:
    """What the program itself writes into the table of offsets: the row before which it does, the offset, and its place."""
    return [(e.at, int(e.value), e.place) for e in trace.events if e.place is not None]


def write(offsets: dict[int, WorkOffset], index: int, place: Place) -> None:
    """An offset of the table gets another place, turned as it was."""
    x, y, z = place
    offsets[index] = msgspec.structs.replace(offsets.get(index, WorkOffset(index)), x=x, y=y, z=z)


def _zeros(trace: Trace, offsets: Mapping[int, WorkOffset], own: WorkOffset) -> Floats:
    """Where the offset of every move is while it goes on, (n, 3), whoever has set it."""
    found = np.zeros((len(trace), 3))
    for index in np.unique(trace.offset).tolist():
        one = offsets.get(index, own)
        found[trace.offset == index] = (one.x, one.y, one.z)
    for row, index, place in set_by(trace):
        found[row:][trace.offset[row:] == index] = place
    return found


def in_machine(
    trace: Trace, lines: Sequence[str], part: int, offsets: Mapping[int, WorkOffset], lift: Place, most: Floats
) -> Trace:
    """A program's trace, seen from the zero of the `part`'s offset, as tips go in the machine: turned about the zero of the
    offset in force, and lifted, but not over the `most` places of its tips (n, 3); moves that name places of the machine lead
    there all the same."""
    own = offsets[part]
    zero = np.array((own.x, own.y, own.z))
    plain = np.array([bool(BY_MACHINE.search(line)) for line in lines] or [False])
    rows = plain[np.clip(trace.line, 0, len(plain) - 1)]
    columns: dict[str, Any] = {}
    zeros = _zeros(trace, offsets, own)
    for name in ("start", "end", "centre"):
        places = getattr(trace, name) + zero
        for index in np.unique(trace.offset).tolist():
            one = offsets.get(index, own)
            if one.turn:
                mine = (trace.offset == index) & ~rows
                about = zeros[mine] * (1.0, 1.0, 0.0)
                places[mine] = about_axis(places[mine] - about, math.radians(one.turn)) + about
        if any(lift):
            straight = ~rows & (trace.turn == 0.0)
            places[~rows] += np.array(lift)
            places[straight] = np.minimum(places, np.maximum(most, places - np.array(lift)))[straight]
        columns[name] = places
    columns["centre"][trace.turn == 0.0] = 0.0
    return replace(trace, **columns)


def chained(trace: Trace, reaches: Mapping[int, Place], axes: Place) -> Trace:
    """Every move begins where the axes stand after the one before it, the first where they are now."""
    if not len(trace):
        return trace
    reach = np.array([reaches.get(int(tool), (0.0, 0.0, 0.0)) for tool in trace.tool.tolist()])
    start = trace.start.copy()
    free = ~trace.stands
    before = np.concatenate([np.array([axes]), trace.end[:-1] + reach[:-1]])
    joins = free & np.concatenate([[True], free[:-1]]) & (trace.turn == 0.0)
    start[joins] = (before - reach)[joins]
    return replace(trace, start=start)


@dataclass(eq=False)
class Run:
    """One run of a program. `trace` are tips in the machine, rows of line -1 the way in. `tools` are those that stand in the
    stations; `mistakes` what must not happen in it; `loads` the power of its moves; `breaks` where a tool breaks, by fault."""

    name: str
    lines: Sequence[str]
    trace: Trace
    card: MachineCard
    tools: Mapping[int, RealTool]
    reaches: Mapping[int, Place]
    mistakes: Sequence[Mistake] = ()
    loads: Floats = field(default_factory=lambda: np.zeros(0))
    breaks: dict[int, int] = field(default_factory=dict)
    """Rows in which a tool breaks, with its station."""
    ends_with: str = ""
    """The word at which the control stands still; empty where the program comes to its own end."""
    dry: bool = False
    k: int = 0
    share: float = 0.0
    ran: float = 0.0
    rate: float = 0.0
    feeds: dict[int, float] = field(default_factory=dict)
    """Seconds that each tool has cut."""

    def __post_init__(self) -> None:
        self.lasts = move_times(self.trace, self.card)
        self.waits = event_times(self.trace, self.card)
        self.waited = 0.0
        self.sets: dict[int, list[tuple[int, Place]]] = {}
        """Rows before which the program writes into the table of offsets, with what."""
        for row, index, place in set_by(self.trace):
            self.sets.setdefault(row, []).append((index, place))
        self.stops: dict[int, list[tuple[int, int]]] = {}
        for event in self.trace.events:
            if event.what == "stop":
                self.stops.setdefault(event.at, []).append((event.line, int(event.value)))
        self._left = np.concatenate([np.cumsum((self.lasts + self.waits[1:])[::-1])[::-1], [0.0]])
        self._wrong = {m.move: m for m in reversed(self.mistakes)}

    @property
    def over(self) -> bool:
        """Has it come to its end?"""
        return self.k >= len(self.trace) and self.waited >= self.waits[-1]

    @property
    def left(self) -> float:
        """Seconds that are still to come, as the program counts."""
        if self.k >= len(self.trace):
            return float(self.waits[-1] - self.waited)
        own = self.lasts[self.k] * (1.0 - self.share) + max(self.waits[self.k] - self.waited, 0.0)
        return float(own + self._left[self.k + 1] + self.waits[self.k + 1])

    @property
    def line(self) -> int:
        """The line in work, from 1; 0 on the way in."""
        k = min(self.k, len(self.trace) - 1)
        return int(self.trace.line[k]) + 1 if k >= 0 else 0

    def message(self, line: int) -> str:
        """What a stop in a line (from 0) says: the remark in it, or in the one before it."""
        for text in (self.lines[line], self.lines[line - 1] if line else ""):
            if found := REMARK.search(text):
                return (found[1] or found[2] or "").strip()
        return ""

    def wrong_now(self) -> Mistake | None:
        """What must not happen and is due."""
        found = self._wrong.get(self.k)
        return found if found is not None and self.share >= found.share else None

    def go(self, seconds: float, feed: float, rapid: float, *, stop: bool, up_to_speed: bool) -> float:
        """Goes on for so long at these shares, or until something is due at a move's begin or end: then before that. A thread is
        cut to its end whatever anybody wants. Gives the seconds that were not used."""
        if self.k >= len(self.trace):
            used = min(seconds, max(float(self.waits[-1]) - self.waited, 0.0))
            self.waited += used
            self.ran += used
            return seconds - used
        if self.waited < self.waits[self.k]:
            used = min(seconds, float(self.waits[self.k]) - self.waited)
            self.waited += used
            self.ran += used
            return seconds - used
        k = self.k
        tied, feeds = self.trace.lead[k] > 0, self.trace.kind[k] != RAPID
        if feeds and not up_to_speed and self.share == 0.0 and not self.dry:
            return 0.0
        wanted = 0.0 if stop else feed if feeds else rapid
        if tied:
            self.rate = 1.0
        else:
            step = seconds / RAMP
            self.rate += min(max(wanted - self.rate, -step), step)
        if self.rate <= 1e-9:
            return 0.0
        until = self._wrong[k].share if k in self._wrong and self.share < self._wrong[k].share else 1.0
        lasts = max(float(self.lasts[k]), 1e-9)
        needs = (until - self.share) * lasts / self.rate
        used = min(seconds, needs)
        self.ran += used
        if feeds:
            station = int(self.trace.tool[k])
            self.feeds[station] = self.feeds.get(station, 0.0) + used
        if used < needs:
            self.share = min(self.share + used * self.rate / lasts, until)
        elif until < 1.0:
            self.share = until
        else:
            self.k, self.share, self.waited = k + 1, 0.0, 0.0
        return seconds - used

    def load(self) -> float:
        """Of the spindle, a share of its power."""
        if self.share <= 0.0 or self.k >= len(self.loads) or self.dry:
            return 0.0
        return float(self.loads[self.k]) / max(self.card.power, 1e-9)


def loads_of(proof: Any, done: int, moves: int) -> Floats:
    """The power of every one of the last `moves` of a proof, in kW; `done` are those before them."""
    found = np.zeros(done + moves)
    for stage in proof.stages:
        power, owner = stage.proof.power, stage.proof.owner
        if len(power) and len(power) == len(owner):
            np.maximum.at(found, stage.begin + np.asarray(owner), power)
    return found[done:]


def told(
    trace: Trace, believed: Mapping[int, Place], reaches: Mapping[int, Place], offsets: Mapping[int, WorkOffset]
) -> list[Moved]:
    """Moves of tips in the machine as the program counts their places: with what the control believes of tools and zeros."""
    found = []
    zero = np.zeros(3)
    for k in range(len(trace)):
        tool, index = int(trace.tool[k]), int(trace.offset[k])
        off = np.array(reaches.get(tool, zero)) - np.array(believed.get(tool, zero))
        one = offsets.get(index, WorkOffset(index))
        about = np.array((one.x, one.y, one.z))
        places = np.array([trace.start[k], trace.end[k], trace.centre[k]])
        if trace.stands[k]:  # places of the part, which has turned with C: so has what lies along the axes
            begin, end = np.radians(trace.angle[k]).tolist()
            about[:2] = 0.0
            places += about_axis(np.array([off, off, off]), np.array((begin, end, begin))) - about
        elif one.turn:
            places = about_axis(places + off - about, -math.radians(one.turn))
        else:
            places += off - about
        a, b, c = (tuple(p) for p in places.tolist())
        turns = float(trace.turn[k])
        found.append(
            Moved(
                int(trace.line[k]) + 1, int(trace.kind[k]), a, b, c if turns else (0.0, 0.0, 0.0), turns, int(trace.plane[k]),
                tool, index, float(trace.feed[k]), float(trace.speed[k]), float(trace.lead[k]), bool(trace.stands[k]),
                tuple(trace.angle[k].tolist()),
            )
        )  # fmt: skip
    return found
