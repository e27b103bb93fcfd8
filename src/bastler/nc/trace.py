"""What a program does: one row a move, in NumPy arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any, Literal

import msgspec
import numpy as np

from bastler.shapes.kinds import Bools, Floats, Ints

RAPID, FEED, RIGHT, LEFT = 0, 1, 2, 3
"""Kinds of moves: G0, G1, clockwise arc, counter-clockwise arc."""


class Finding(msgspec.Struct, frozen=True):
    """What the reader has to say about a place: `line` and `column` from 1, a stable `code`, and a sentence."""

    line: int
    column: int
    code: str
    text: str
    level: Literal["stop", "caution", "note"] = "stop"


class Event(msgspec.Struct, frozen=True):
    """Something between moves: it happens before the move `at`. `what`: tool, dwell, stop, offset, coolant, spindle,
    overrides; of a second chuck grip (1 the main one closes, 2 opens, 3 the second one closes, 4 opens), together, push, skip
    (its window), side; catch; centre (1 the tailstock's centre comes in, 0 it goes out); bar (how far
    it comes on)."""

    at: int
    line: int
    what: str
    value: float = 0.0
    place: tuple[float, float, float] | None = None
    """Where a work offset is from now on, as the machine counts."""


def about_axis(points: Floats, angles: Floats | float) -> Floats:
    """Places (n, 3) turned about Z by angles in radians (n,), or by one: from the machine's axes to the part by where C is, and
    from the part to the machine's axes by as much the other way."""
    cos, sin = np.cos(angles), np.sin(angles)
    found = np.array(points, float)
    found[:, 0] = points[:, 0] * cos - points[:, 1] * sin
    found[:, 1] = points[:, 0] * sin + points[:, 1] * cos
    return found


@dataclass(frozen=True, eq=False)
class Trace:
    """All moves of a program, of the tool's tip, seen from part zero, in the job's unit.

    Shapes, for n moves: `line` (n,) from 0; `kind` (n,); `start`, `end`, `centre` (n, 3); `turn` (n,) signed angle of an arc in
    radians, counter-clockwise positive; `plane` (n,) 17, 18 or 19; `feed` (n,) unit/min, 0 when none was given; `speed` (n,)
    turns a minute, 0 with the spindle off; `tool` (n,) number of the tool in the spindle; `offset` (n,) index of the work offset.

    In turning x is the radius; `surface` (n,) is the constant surface speed in force, in unit/min, 0 without, `cap` (n,) its
    limit in turns a minute, infinite without one, `speed` then what it makes in the middle of the move; `per_turn` (n,) says
    that the feed was given per turn (`feed` is per minute all the same); `lead` (n,) is what a move tied to the spindle gains a
    turn, 0 for others; `edge` (n,) is the number of the tool offset.

    Where the work `stands` (n,), its spindle being the axis C, places are those of the part, which turns with C: x and y across
    the axis, x where C is 0; `speed` is then that of the driven tool. `angle` (n, 2) is C in degrees at both ends of a move;
    under `polar` interpolation (n,) it follows from the place. `held` (n,) says that C is clamped. The plane of an arc in G18 or
    G19 is turned with the part: by `tilt` (n,), in radians.

    `side` (n,) is the spindle that is chosen, 0 the main one, 1 the second, where places are seen from that one's part zero, 2
    the main one again. `w` (n, 2) is where the axis W of the second chuck is at both ends of a move, in machine coordinates;
    `pulled` (n,) how far it, or what brings a bar on, has pulled the part out of the main one before: places are those of the
    part, which went along.

    `cut` is the line (from 1) where a word was refused and the run ended, 0 when it went to the program's own end.
    """

    line: Ints
    kind: Ints
    start: Floats
    end: Floats
    centre: Floats
    turn: Floats
    plane: Ints
    feed: Floats
    speed: Floats
    tool: Ints
    offset: Ints
    events: tuple[Event, ...]
    findings: tuple[Finding, ...]
    line_count: int
    surface: Floats
    cap: Floats
    per_turn: Bools
    lead: Floats
    edge: Ints
    stands: Bools
    polar: Bools
    held: Bools
    angle: Floats
    side: Ints
    w: Floats
    pulled: Floats
    cut: int = 0

    def __len__(self) -> int:
        return len(self.line)

    @cached_property
    def shoves(self) -> Bools:
        """The moves (n,) of the second chuck."""
        found: Bools = self.w[:, 0] != self.w[:, 1]
        return found

    @cached_property
    def turning(self) -> Ints:
        """How the chosen spindle turns in each move (n,): 1 forward, -1 back, 0 not at all."""
        found = np.zeros(len(self), np.int32)
        for event in self.events:
            if event.what == "spindle":
                found[max(event.at, 0) :] = int(event.value)
        return found

    def w_at(self, move: int, share: float) -> float:
        """Where W is at a share of a move."""
        begin, end = self.w[move].tolist()
        return float(begin + (end - begin) * share)

    def between(self, first: int, last: int) -> Trace:
        """The moves `first` to before `last` by themselves; its events are those of the whole."""
        part = slice(first, last)
        columns = {f.name: getattr(self, f.name)[part] for f in fields(self) if isinstance(getattr(self, f.name), np.ndarray)}
        return replace(self, **columns)

    @staticmethod
    def straight(
        places: Floats, *, tool: int, line: int = -1, kind: int = RAPID, feed: float = 0.0, speed: float = 0.0, offset: int = 0
    ) -> Trace:
        """Straight moves from place to place (n + 1, 3), that nobody wrote in a program."""
        places = np.asarray(places, float)
        n = len(places) - 1
        given = {"line": line, "kind": kind, "plane": 17, "tool": tool, "offset": offset, "edge": tool, "side": 0}
        whole = {name: np.full(n, value, np.int32) for name, value in given.items()}
        plain = {"turn": 0.0, "feed": feed, "speed": speed, "surface": 0.0, "cap": np.inf, "lead": 0.0, "pulled": 0.0}
        real = {name: np.full(n, value) for name, value in plain.items()}
        flags = {name: np.zeros(n, np.bool_) for name in ("per_turn", "stands", "polar", "held")}
        pairs = {name: np.zeros((n, 2)) for name in ("angle", "w")}
        ends: dict[str, Any] = {"start": places[:-1].copy(), "end": places[1:].copy(), "centre": np.zeros((n, 3))}
        columns: dict[str, Any] = {**whole, **real, **flags, **pairs, **ends}
        return Trace(events=(), findings=(), line_count=0, **columns)

    @staticmethod
    def joined(parts: Sequence[Trace]) -> Trace:
        """The moves of several one after the other, and their events; at least one."""
        first = parts[0]
        names = [f.name for f in fields(first) if isinstance(getattr(first, f.name), np.ndarray)]
        columns: dict[str, Any] = {name: np.concatenate([getattr(part, name) for part in parts]) for name in names}
        begins = np.cumsum([0, *(len(part) for part in parts[:-1])]).tolist()
        events = [
            msgspec.structs.replace(e, at=e.at + begin) for part, begin in zip(parts, begins, strict=True) for e in part.events
        ]
        return replace(first, events=tuple(events), findings=(), cut=0, **columns)

    def lengths(self) -> Floats:
        """Path length of every move."""
        straight: Floats = np.maximum(np.linalg.norm(self.end - self.start, axis=1), np.abs(self.w[:, 1] - self.w[:, 0]))
        arcs = self.kind >= RIGHT
        if not arcs.any():
            return straight
        axis = np.select([self.plane == 17, self.plane == 18], [2, 1], 0)
        start, end, centre = self.as_axes
        rise = np.take_along_axis(end - start, axis[:, None], axis=1)[:, 0]
        radial = start - centre
        np.put_along_axis(radial, axis[:, None], 0.0, axis=1)
        bow = np.abs(self.turn) * np.linalg.norm(radial, axis=1)
        along: Floats = np.where(arcs, np.hypot(bow, rise), straight)
        return along

    @cached_property
    def tilt(self) -> Floats:
        """By how much the planes of arcs are turned about Z, in radians (n,); 0 for all other moves."""
        found: Floats = np.where((self.turn != 0.0) & (self.plane != 17) & self.stands, np.radians(self.angle[:, 0]), 0.0)
        return found

    @cached_property
    def as_axes(self) -> tuple[Floats, Floats, Floats]:
        """Start, end and centre, the planes of arcs turned back so that they lie along the axes."""
        if not self.tilt.any():
            return self.start, self.end, self.centre
        return about_axis(self.start, -self.tilt), about_axis(self.end, -self.tilt), about_axis(self.centre, -self.tilt)

    @cached_property
    def extremes(self) -> tuple[Floats, Floats]:
        """The lowest and the highest place along every axis that each move comes to, (n, 3) each: of an arc not its ends alone,
        but where it swings to; of one whose plane is turned as its plane lies."""
        start, end, middle = self.as_axes
        low, high = np.minimum(start, end), np.maximum(start, end)
        turn = self.turn
        for plane, u, v in ((17, 0, 1), (18, 2, 0), (19, 1, 2)):
            rows = np.flatnonzero((self.kind >= RIGHT) & (self.plane == plane) & (turn != 0.0))
            if not len(rows):
                continue
            centre = middle[rows]
            from_centre = start[rows] - centre
            radius = np.hypot(from_centre[:, u], from_centre[:, v])
            begins = np.arctan2(from_centre[:, v], from_centre[:, u])
            for axis, angle, side in ((u, 0.0, 1.0), (v, np.pi / 2, 1.0), (u, np.pi, -1.0), (v, -np.pi / 2, -1.0)):
                way = ((angle - begins) * np.sign(turn[rows])) % (2 * np.pi)
                far = np.where(way <= np.abs(turn[rows]), centre[:, axis] + side * radius, end[rows, axis])
                low[rows, axis], high[rows, axis] = np.minimum(low[rows, axis], far), np.maximum(high[rows, axis], far)
        return low, high
