"""Reading a program again after an edit: the same stretch of lines, come to by a control in the same state, does the same.

What a stretch does is kept from where it began, in rows and in lines; a control that comes to it again takes it over as a whole.
Nothing is kept of a stretch that has anything to be said about it, or that depends on lines elsewhere.
"""

from __future__ import annotations

import bisect
import copy
import hashlib
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np

from bastler.bounds import BLOCKS, MOVES
from bastler.nc.control import Control
from bastler.nc.formulas import Parameters
from bastler.nc.rows import Piece
from bastler.nc.state import MachineState
from bastler.nc.trace import Event
from bastler.shapes.kinds import Bools

LONGEST = 20_000
"""Rows of a stretch that is kept."""
_PROGRAM = ("table", "lines", "is_formula", "controls", "manner", "known", "elsewhere", "stop")
_GATHERED = ("rows", "faults", "events", "findings", "gaps", "ran", "blocks", "at_row", "placed")
LOCAL = frozenset((*_PROGRAM, *_GATHERED))
"""What a control has besides its state: the program itself, and what it gathers."""


@dataclass(frozen=True, eq=False)
class _Stretch:
    """What lines have done: rows with their marks, events, compensated places and lines run, all counted from their begin, and
    the control's state behind them."""

    piece: Piece
    events: tuple[Event, ...]
    gaps: tuple[int, ...]
    ran: Bools
    blocks: int
    last: bool
    """Does the program end in it?"""
    after: dict[str, Any]
    after_key: bytes


@dataclass(frozen=True)
class _Begun:
    """Where a control stood when it began with a stretch."""

    key: bytes
    begin: int
    end: int
    rows: int
    marks: tuple[int, ...]
    events: int
    gaps: int
    findings: int
    blocks: int


class ReadBefore:
    """The stretches of one program, for the next."""

    def __init__(self) -> None:
        self._control: Control | None = None
        self._known: dict[bytes, _Stretch] = {}
        self._used: dict[bytes, _Stretch] = {}
        self._starts: list[int] = []
        self._ends: dict[int, int] = {}
        self._begun: _Begun | None = None

    def begin(self, control: Control, breaks: Iterable[int], lines: int) -> None:
        """Another program, with the lines (from 0) at which stretches begin. What the last one had no use for is forgotten."""
        self._known, self._used = (self._used, {}) if control == self._control else ({}, {})
        self._control, self._begun = control, None
        self._starts = sorted({line for line in breaks if line < lines})
        self._ends = dict(zip(self._starts, [*self._starts[1:], lines], strict=True)) if self._starts else {}

    def ahead(self, line: int, lines: int) -> int:
        """Where the next stretch behind a line begins; the end of all where none does."""
        at = bisect.bisect_right(self._starts, line)
        return self._starts[at] if at < len(self._starts) else lines

    def come(self, machine: MachineState, line: int) -> int:
        """A control comes to a line. Where it has run the stretch that begins there before it is behind it at once; gives the
        line to go on with."""
        begun = self._begun
        if begun is not None and not begun.begin <= line < begun.end:
            self._begun = None
            self._leave(machine, line, begun)
        if line not in self._ends or not _at_rest(machine):
            return line
        state, last = _state_key(machine), None
        while (end := self._ends.get(line)) is not None:
            key = _key(machine, state, line, end)
            known = self._known.get(key) or self._used.get(key)
            if known is None or not _room(machine, known):
                self._begun = _begun(machine, key, line, end)
                break
            self._used[key] = last = known
            state = known.after_key
            _gather(machine, known, line)
            line = machine.lines if known.last else end
        if last is not None:
            vars(machine).update({name: _copied(value) for name, value in last.after.items()})
        return line

    def _leave(self, machine: MachineState, line: int, begun: _Begun) -> None:
        """Keeps the stretch that ends here, if it may be kept."""
        if (
            line not in (begun.end, machine.lines)
            or not _at_rest(machine)
            or machine.elsewhere
            or len(machine.findings) != begun.findings
        ):
            return
        rows = machine.rows
        if begun.rows <= rows.count <= begun.rows + LONGEST:
            self._used[begun.key] = _Stretch(
                rows.piece(begun.rows, begun.marks, begun.begin),
                tuple(_moved(event, -begun.rows, -begun.begin) for event in machine.events[begun.events :]),
                tuple(gap - begun.rows for gap in machine.gaps[begun.gaps :]),
                machine.ran[begun.begin : begun.end].copy(),
                machine.blocks - begun.blocks,
                line != begun.end,
                {name: _copied(value) for name, value in vars(machine).items() if name not in LOCAL},
                _state_key(machine),
            )


def _at_rest(machine: MachineState) -> bool:
    """Is the control between two things, with nothing open that reaches back?"""
    return (
        machine.bent is None
        and machine.corner is None
        and machine.cut is None
        and not machine.calls
        and machine.jump is None
        and not machine.in_contour
    )


def _room(machine: MachineState, known: _Stretch) -> bool:
    """Does a stretch stay within what is followed at all?"""
    rows = machine.rows.count + len(known.piece.data)
    return not (MOVES.over(rows) or BLOCKS.over(machine.blocks + known.blocks))


def _copied(value: Any) -> Any:
    """Something that a program has set, so that it changes no more."""
    return copy.copy(value) if isinstance(value, dict | list | np.ndarray | Parameters) else value


def _state_key(machine: MachineState) -> bytes:
    """A key for all that a program has set."""
    made = hashlib.blake2b(digest_size=16)
    for name, value in sorted(vars(machine).items()):
        if name not in LOCAL:
            made.update(value.tobytes() if isinstance(value, np.ndarray) else repr(value).encode())
            made.update(b"|")
    made.update(repr(machine.rows.in_force).encode())
    return made.digest()


def _key(machine: MachineState, state: bytes, begin: int, end: int) -> bytes:
    """A key for the words of some lines and the state in which a control comes to them. Line numbers are only names."""
    table, made = machine.table, hashlib.blake2b(state, digest_size=16)
    a, b = int(table.first[begin]), int(table.first[end])
    letters = table.letter[a:b]
    made.update(letters.tobytes())
    made.update(np.where(letters == ord("N"), 0.0, table.value[a:b]).tobytes())
    made.update((table.first[begin : end + 1] - a).tobytes())
    made.update(table.plain[begin:end].tobytes() + table.skipped[begin:end].tobytes())
    made.update(str([line - begin for line in table.faults[:, 0].tolist() if begin <= line < end]).encode())
    return made.digest()


def _begun(machine: MachineState, key: bytes, begin: int, end: int) -> _Begun:
    machine.elsewhere = False
    gathered = (len(machine.events), len(machine.gaps), len(machine.findings), machine.blocks)
    return _Begun(key, begin, end, machine.rows.count, machine.rows.marks, *gathered)


def _gather(machine: MachineState, known: _Stretch, begin: int) -> None:
    """What lines did before is gathered again."""
    machine.still_wanted()
    rows = machine.rows.count
    machine.rows.append(known.piece, begin)
    machine.events += [_moved(event, rows, begin) for event in known.events]
    machine.gaps += [gap + rows for gap in known.gaps]
    machine.ran[begin : begin + len(known.ran)] |= known.ran
    machine.blocks += known.blocks


def _moved(event: Event, rows: int, lines: int) -> Event:
    return Event(event.at + rows, event.line + lines, event.what, event.value)
