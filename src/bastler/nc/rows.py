"""The growing table of moves while a program is read."""

from __future__ import annotations

import itertools
from typing import Any, NamedTuple, TypeVar

import numpy as np

from bastler.nc.motion import COLUMNS, S_DX, S_PLANE
from bastler.nc.trace import Event, Finding, Trace, about_axis
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.kinds import Floats, Ints

MODAL: dict[str, float] = {
    "surface": 0.0, "cap": np.inf, "per_turn": 0.0, "edge": 0.0, "stands": 0.0, "polar": 0.0, "c": 0.0, "held": 0.0,
    "side": 0.0, "w": 0.0, "pulled": 0.0,
}  # fmt: skip
"""What changes only between blocks in turning, and how it begins."""


def segment_of(row: Floats) -> Segment:
    """A row as a segment in (z, r)."""
    start, end = (float(row[4]), float(row[2])), (float(row[7]), float(row[5]))
    if row[1] < 2.0:
        return Line(start, end)
    return Arc(start, end, (float(row[8]), float(row[9])), bool(row[10] > 0))


V = TypeVar("V")


class Piece(NamedTuple):
    """Some rows by themselves, lines and rows counted from their own begin: `data` (n, columns), what is new of every kind of
    marks, the leads of those tied to the spindle, and from where to where C goes in those in which it does."""

    data: Floats
    marks: tuple[tuple[tuple[int, Any], ...], ...]
    leads: tuple[tuple[int, float], ...]
    swings: tuple[tuple[int, tuple[float, float]], ...] = ()
    shoves: tuple[tuple[int, tuple[float, float]], ...] = ()
    """From where to where W goes in those in which it does."""


class Rows:
    """Rows as the kernel writes them, and what changes only between blocks as marks (row, value)."""

    def __init__(self, size: int) -> None:
        self.data = np.empty((size, COLUMNS))
        self.count = 0
        self._speed: list[tuple[int, float]] = [(0, 0.0)]
        self._tool: list[tuple[int, int]] = [(0, 0)]
        self._offset: list[tuple[int, int]] = [(0, 0)]
        self._modal: dict[str, list[tuple[int, float]]] = {name: [(0, start)] for name, start in MODAL.items()}
        self._leads: dict[int, float] = {}
        self._swings: dict[int, tuple[float, float]] = {}
        self._shoves: dict[int, tuple[float, float]] = {}

    def room(self, more: int) -> None:
        """Makes room for `more` rows."""
        need = self.count + more
        if need > len(self.data):
            grown = np.empty((max(need, 2 * len(self.data)), COLUMNS))
            grown[: self.count] = self.data[: self.count]
            self.data = grown

    def straight(self, line: int, kind: float, state: Floats, target: tuple[float, float, float], feed: float) -> None:
        """One straight move to `target` in the program's coordinates."""
        self.room(1)
        x, y, z, dx, dy, dz = state[: S_DX + 3].tolist()
        to_x, to_y, to_z = target
        ends = (x + dx, y + dy, z + dz, to_x + dx, to_y + dy, to_z + dz)
        self.data[self.count] = (line, kind, *ends, 0.0, 0.0, 0.0, state[S_PLANE], feed)
        self.count += 1

    def speed_from(self, speed: float) -> None:
        if self._speed[-1][1] != speed:
            self._speed.append((self.count, speed))

    def tool_from(self, tool: int) -> None:
        self._tool.append((self.count, tool))

    def offset_from(self, offset: int) -> None:
        self._offset.append((self.count, offset))

    def modal_from(self, name: str, value: float) -> None:
        """From the next row on `name` (of MODAL) has this value."""
        if self._modal[name][-1][1] != value:
            self._modal[name].append((self.count, value))

    def marked(self, name: str) -> float:
        """The value of `name` (of MODAL) that is in force."""
        return self._modal[name][-1][1]

    def tied(self, lead: float) -> None:
        """The last row is tied to the spindle."""
        self._leads[self.count - 1] = lead

    def swung(self, row: int, begin: float, end: float) -> None:
        """In a row C goes from an angle to another, in degrees."""
        self._swings[row] = (begin, end)

    def shoved(self, begin: float, end: float) -> None:
        """In the last row W goes from a place to another, and stays there."""
        self._shoves[self.count - 1] = (begin, end)
        self.modal_from("w", end)

    def replaced(self, begin: int, rows: Floats) -> None:
        """Other rows take the place of all from `begin` on."""
        self.count = begin
        self.room(len(rows))
        self.data[begin : begin + len(rows)] = rows
        self.count = begin + len(rows)

    @property
    def _all_marks(self) -> tuple[list[tuple[int, Any]], ...]:
        return (self._speed, self._tool, self._offset, *self._modal.values())

    @property
    def marks(self) -> tuple[int, ...]:
        """How many there are of every kind."""
        return tuple(map(len, self._all_marks))

    @property
    def in_force(self) -> tuple[Any, ...]:
        """The newest of every kind."""
        return tuple(marks[-1][1] for marks in self._all_marks)

    def piece(self, begin: int, marks: tuple[int, ...], line: int) -> Piece:
        """The rows from `begin` on, with the marks behind the first `marks` of every kind; `line` is theirs to count from."""
        data = self.data[begin : self.count].copy()
        data[:, 0] -= line
        new = [tuple((row - begin, value) for row, value in own[k:]) for own, k in zip(self._all_marks, marks, strict=True)]
        return Piece(data, tuple(new), _from(self._leads, begin), _from(self._swings, begin), _from(self._shoves, begin))

    def insert(self, at: int, row: Floats) -> None:
        """One more row before another one. What changes between blocks there changes before it."""
        self.room(1)
        self.data[at + 1 : self.count + 1] = self.data[at : self.count].copy()
        self.data[at] = row
        self.count += 1

    def append(self, piece: Piece, line: int) -> None:
        """A piece behind all rows; it begins at `line`."""
        begin = self.count
        self.room(len(piece.data))
        self.count += len(piece.data)
        self.data[begin : self.count] = piece.data
        self.data[begin : self.count, 0] += line
        for own, new in zip(self._all_marks, piece.marks, strict=True):
            own += [(row + begin, value) for row, value in new]
        self._leads.update((row + begin, value) for row, value in piece.leads)
        self._swings.update((row + begin, value) for row, value in piece.swings)
        self._shoves.update((row + begin, value) for row, value in piece.shoves)

    def trace(self, events: tuple[Event, ...], findings: tuple[Finding, ...], lines: int, cut: int = 0) -> Trace:
        """The finished trace; `cut` is the line behind which nothing was run."""
        data = self.data[: self.count]
        plane = data[:, 11].astype(np.int32)
        modal = {name: _spread(marks, self.count, np.float64) for name, marks in self._modal.items()}
        lead = np.zeros(self.count)
        for row, value in self._leads.items():
            if row < self.count:
                lead[row] = value
        turns = bool(self._swings) or len(self._modal["c"]) > 1
        angle = np.repeat(modal["c"][:, None], 2, axis=1) if turns else np.zeros((self.count, 2))
        for row, ends in self._swings.items():
            if row < self.count:
                angle[row] = ends
        w = np.repeat(modal["w"][:, None], 2, axis=1) if self._shoves or modal["w"].any() else np.zeros((self.count, 2))
        for row, ends in self._shoves.items():
            if row < self.count:
                w[row] = ends
        speed, feed = _turned(data, modal, lead, _spread(self._speed, self.count, np.float64))
        stands = modal["stands"] > 0
        tilts = np.radians(angle[:, 0]) if stands.any() else np.zeros(self.count)
        return Trace(
            line=data[:, 0].astype(np.int32),
            kind=data[:, 1].astype(np.int32),
            start=np.ascontiguousarray(data[:, 2:5]),
            end=np.ascontiguousarray(data[:, 5:8]),
            centre=_centres(data, plane, np.where(stands & (data[:, 10] != 0.0), tilts, 0.0)),
            turn=data[:, 10].copy(),
            plane=plane,
            feed=feed,
            speed=speed,
            tool=_spread(self._tool, self.count, np.int32),
            offset=_spread(self._offset, self.count, np.int32),
            events=events,
            findings=tuple(sorted(findings, key=lambda f: (f.line, f.column))),
            line_count=lines,
            surface=modal["surface"],
            cap=modal["cap"],
            per_turn=modal["per_turn"] > 0,
            lead=lead,
            edge=modal["edge"].astype(np.int32),
            stands=stands,
            polar=modal["polar"] > 0,
            held=modal["held"] > 0,
            angle=angle,
            side=modal["side"].astype(np.int32),
            w=w,
            pulled=modal["pulled"],
            cut=cut,
        )


def _from(own: dict[int, V], begin: int) -> tuple[tuple[int, V], ...]:
    """What is said of rows from `begin` on, counted from there."""
    found = [(row - begin, value) for row, value in itertools.takewhile(lambda it: it[0] >= begin, reversed(own.items()))]
    return tuple(reversed(found))


def _turned(data: Floats, modal: dict[str, Floats], lead: Floats, speed: Floats) -> tuple[Floats, Floats]:
    """Turns a minute in the middle of every move, and feeds a minute from those per turn.

    Under constant surface speed the time of a move over radii r0 to r1 is that of the mean of 1/n: n is worked out from it, so
    that it is exact where the cap does not begin within the move.
    """
    surface, cap = modal["surface"], modal["cap"]
    on = (surface > 0) & (speed > 0)
    if on.any():
        radius = np.maximum((np.abs(data[:, 2]) + np.abs(data[:, 5])) / 2, 1e-9)
        speed = np.where(on, np.minimum(surface / (2 * np.pi * radius), cap), speed)
    feed = data[:, 12].copy()
    tied = lead > 0
    per_turn = (modal["per_turn"] > 0) & ~tied
    feed[per_turn] *= speed[per_turn]
    feed[tied] = lead[tied] * speed[tied]
    return speed, feed


def _centres(data: Floats, plane: Ints, tilts: Floats) -> Floats:
    """Centres as (n, 3): the two coordinates of the plane in their places, the third that of the start. In G18 and G19 they are
    said in a plane that is turned by `tilts` (n,)."""
    centre = data[:, 2:5].copy()
    turned = np.flatnonzero((tilts != 0.0) & (plane != 17))
    centre[turned] = about_axis(centre[turned], -tilts[turned])
    for code, u, v in ((17, 0, 1), (18, 2, 0), (19, 1, 2)):
        mask = plane == code
        centre[mask, u] = data[mask, 8]
        centre[mask, v] = data[mask, 9]
    centre[turned] = about_axis(centre[turned], tilts[turned])
    return centre


def _spread(marks: list[tuple[int, Any]], count: int, kind: Any) -> Any:
    values = np.array([value for _, value in marks], dtype=kind)
    starts = np.minimum(np.array([row for row, _ in marks] + [count]), count)
    return np.repeat(values, np.diff(starts))
