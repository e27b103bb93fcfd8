"""What a control knows while it runs a program: place, modes, offsets, what has been gathered; and the moves it makes.

Handlers of words and cycles work on it; none of it knows what word stands where.
"""

from __future__ import annotations

import copy
import math
from typing import Any

import numpy as np

from bastler.bounds import IN_A_BLOCK, TURNS, Bound
from bastler.nc.block import Block
from bastler.nc.control import Control
from bastler.nc.motion import (
    LOOSE,
    S_ACROSS,
    S_DX,
    S_FEED,
    S_MODE,
    S_PER,
    S_PLANE,
    S_RELATIVE,
    S_SCALE,
    S_SPEED,
    STATE_SIZE,
)
from bastler.nc.rows import Rows
from bastler.nc.trace import Event, Finding
from bastler.nc.words import WordTable
from bastler.units import scale

RUN_ON = frozenset(
    ("feed-missing", "tool-unknown", "length-offset", "offset-unknown", "speed", "spindle-back", "never-run", "compensation")
)
"""Stops that a program runs on with: what it then does is shown. At all others a control stands still, and so does the
reading."""
MOST_FINDINGS = 500
Point = tuple[float, float, float]


class Stopped(Exception):
    """Somebody does not want the trace any more."""


class MachineState:
    """One control with one program in it."""

    def __init__(self, table: WordTable, control: Control, skip_deleted: bool) -> None:
        self.table = table
        self.control = control
        self.skip_deleted = skip_deleted
        self.lines = len(table.plain)
        self.state = np.zeros(STATE_SIZE)
        self.state[S_MODE], self.state[S_PLANE], self.state[S_PER] = -1.0, 17.0, 94.0
        self.state[S_SCALE] = self.state[S_ACROSS] = 1.0
        self.rows = Rows(max(64, self.lines + 16))
        self.faults = np.zeros((MOST_FINDINGS, 2), np.int64)
        self.events: list[Event] = []
        self.findings: list[Finding] = []
        self.offsets = dict(control.offsets)
        self.offset = control.part
        self.shift: Point = (0.0, 0.0, 0.0)
        """The shift of G92, and what it was when it was put off (G92.2)."""
        self.put_off: Point = (0.0, 0.0, 0.0)
        self.local: Point = (0.0, 0.0, 0.0)
        """The shift of G52, within whatever work offset is in force."""
        self.lift: Point = (0.0, 0.0, 0.0)
        self.tool = 0
        self.next_tool = 0
        self.speed = 0.0
        self.turning = False
        self.cycle: dict[str, float] = {}
        self.cycle_code = 0
        self.initial_level = True
        self.level = 0.0
        self.calls: list[tuple[int, int, int]] = []
        self.bent: tuple[float, int, int] | None = None
        """Compensation in force: how far to the right of the outline, its first row, its line."""
        self.gaps: list[int] = []
        """Rows that begin where compensation has led to, and not where the program was."""
        self.loose = LOOSE * scale("mm", control.unit)
        self.ran = np.zeros(self.lines, np.bool_)
        """Lines that have been run, or refused with a reason."""
        self.stop: Any = None
        self.blocks = 0
        """Lines run one by one, each as often as it is run."""
        self.at_row = 0
        """The rows there were before the line that is run now."""
        self.cut: tuple[int, int] | None = None
        """Where the first refused word stands: the rows before it, and its line."""
        self._reshift(self._home_tip())

    def say(self, line: int, code: str, text: str, column: int = 0, level: Any = "stop") -> None:
        """Gathers a finding; `line` from 0."""
        if level == "stop" and code not in RUN_ON and self.cut is None:
            self.cut = (self.at_row, line)
        if len(self.findings) < MOST_FINDINGS:
            self.findings.append(Finding(line + 1, column or self._column(line), code, text, level))

    def _column(self, line: int) -> int:
        first = int(self.table.first[line]) if line < self.lines else 0
        has = line < self.lines and self.table.first[line + 1] > first
        return int(self.table.column[first]) if has else 1

    def event(self, line: int, what: str, value: float = 0.0) -> None:
        self.events.append(Event(self.rows.count, line, what, value))

    def _still_wanted(self) -> None:
        if self.stop is not None and self.stop[0]:
            raise Stopped

    def too_many(self, block: Block, count: float, bound: Bound = IN_A_BLOCK) -> bool:
        """Whether a cycle would make more moves than are followed, which is said."""
        over = bound.over(count)
        if over:
            self.say(block.line, "too-long", over, block.column("G"))
        return bool(over)

    def kept(self) -> dict[str, Any]:
        """All that the program has set up to here, to be put back by `put_back`: what is gathered goes on."""
        gathers = ("table", "control", "findings", "faults", "ran", "cut", "at_row")
        return {name: copy.copy(value) for name, value in vars(self).items() if name not in gathers}

    def put_back(self, kept: dict[str, Any]) -> None:
        """The control is again as it was when that was kept."""
        vars(self).update(kept)

    @property
    def in_mm(self) -> bool:
        """Is the text in millimetres just now?"""
        return bool((self.state[S_SCALE] == 1.0) == (self.control.unit == "mm"))

    def small(self, value: float, kind: str) -> float:
        """A depth in P, Q or D in the control's unit: a length, or a count of least increments where `kind` is so."""
        least = 0.001 if self.in_mm else 0.0001
        return value * (least if kind == "increment" else 1.0) * float(self.state[S_SCALE])

    def _rows_speed(self) -> None:
        self.state[S_SPEED] = self.speed if self.turning else 0.0
        self.rows.speed_from(self.state[S_SPEED])

    def _names(self) -> tuple[str, str, str]:
        """The letters that name each of the three axes."""
        return ("X", "Y", "Z")

    def target(self, block: Block) -> Point:
        """Where the axis words lead, in the program's coordinates."""
        found = []
        for axis, letter in enumerate("XYZ"):
            value = block.word(letter)
            base = self.state[axis] if self.state[S_RELATIVE] > 0 else 0.0
            found.append(self.state[axis] if value is None else value * self.unit_of(axis) + base)
        return (found[0], found[1], found[2])

    def unit_of(self, axis: int) -> float:
        """What one of an axis word is, in the job's unit along that axis."""
        return float(self.state[S_SCALE] * (self.state[S_ACROSS] if axis == 0 else 1.0))

    def _reach(self) -> Point:
        """From the tip to what the machine knows as its place: the spindle nose, or the turret's reference."""
        return (0.0, 0.0, self.control.tool_lengths.get(self.tool, 0.0))

    def go(self, line: int, target: Point, kind: float = 0.0, feed: float = 0.0) -> None:
        """One straight move in the program's coordinates."""
        if kind > 0.0 and feed <= 0.0:
            self.say(line, "feed-missing", "No feed rate is in force.")
        self.rows.straight(line, kind, self.state, target, feed)
        self.state[:3] = target

    def _go_machine(self, line: int, machine: Point, kind: float = 0.0) -> None:
        zero = self.control.offsets.get(self.control.part, (0.0, 0.0, 0.0))
        reach = self._reach()
        tip = (machine[0] - zero[0] - reach[0], machine[1] - zero[1] - reach[1], machine[2] - zero[2] - reach[2])
        dx, dy, dz = self.state[S_DX : S_DX + 3]
        self.go(line, (tip[0] - dx, tip[1] - dy, tip[2] - dz), kind, self.straight_feed)

    @property
    def straight_feed(self) -> float:
        """The feed a minute in force for a straight move of a cycle; on a lathe a turn where that is in force."""
        return float(self.state[S_FEED] * (self.state[S_SPEED] if self.state[S_PER] == 95.0 else 1.0))

    def _tip(self) -> Point:
        """The true tip, seen from part zero."""
        s = self.state
        return (s[0] + s[S_DX], s[1] + s[S_DX + 1], s[2] + s[S_DX + 2])

    def _machine(self, tip: Point) -> Point:
        """Axis positions of the machine (the spindle nose) with the tip there."""
        zero = self.control.offsets.get(self.control.part, (0.0, 0.0, 0.0))
        reach = self._reach()
        return (tip[0] + zero[0] + reach[0], tip[1] + zero[1] + reach[1], tip[2] + zero[2] + reach[2])

    def _home_tip(self) -> Point:
        zero = self.control.offsets.get(self.control.part, (0.0, 0.0, 0.0))
        home = self.control.home
        return (home[0] - zero[0], home[1] - zero[1], home[2] - zero[2])

    def _reshift(self, tip: Point) -> None:
        """Works out the shift from offset, G92 and lengths anew; the tip stays where it is."""
        zero = self.control.offsets.get(self.control.part, (0.0, 0.0, 0.0))
        active = self.offsets.get(self.offset, (0.0, 0.0, 0.0))
        reach = self._reach()
        for axis in range(3):
            shift = active[axis] - zero[axis] + self.shift[axis] + self.local[axis] + self.lift[axis] - reach[axis]
            self.state[S_DX + axis] = shift
            self.state[axis] = tip[axis] - shift

    def _shift_to(self, shift: Point) -> None:
        tip = self._tip()
        self.shift = shift
        self._reshift(tip)

    def run_line(self, line: int) -> int:
        """Runs one line with all its words; gives the line to go on at. Whoever runs programs says how."""
        raise NotImplementedError


class TurnedState(MachineState):
    """The same of a turning control: X across, stations with their points, what cycles keep from line to line."""

    def __init__(self, table: WordTable, control: Control, skip_deleted: bool) -> None:
        super().__init__(table, control, skip_deleted)
        self.state[S_ACROSS] = 0.5 if control.dialect.diameter_x else 1.0
        self.state[S_PLANE] = 18.0
        self.state[S_SPEED] = 1.0
        self.surface = False
        self.wanted = 0.0
        """The S word: surface speed or turns a minute."""
        self.cap = math.inf
        self.jump: int | None = None
        """Where the program goes on after a cycle that has used the lines behind it."""
        self.memory: dict[int, dict[str, float]] = {}
        """First lines of two-line cycles, by code."""
        self.in_contour = False
        """Is the outline of a cycle being run?"""
        for line in set(np.searchsorted(table.first, np.flatnonzero((table.letter == 89) | (table.letter == 74)), "right") - 1):
            table.plain[line] = False  # Y and J: an axis that a lathe has not
        self._reshift(self._home_tip())

    def _reach(self) -> Point:
        return self.control.points.get(self.tool, (0.0, 0.0, 0.0))

    def _names(self) -> tuple[str, str, str]:
        across, along = self.control.dialect.increments
        return ("X" + across, "Y", "Z" + along)

    def target(self, block: Block) -> Point:
        x, y, z = super().target(block)
        across, along = self.control.dialect.increments
        if (step := block.word(across)) is not None:
            x = float(self.state[0]) + step * self.unit_of(0)
        if (step := block.word(along)) is not None:
            z = float(self.state[2]) + step * self.unit_of(2)
        return (x, y, z)

    def tied_move(self, block: Block, target: Point, lead: float) -> None:
        """One move tied to the spindle, in the program's coordinates."""
        if self.too_many(block, math.dist(self.state[:3], target) / lead, TURNS):
            return
        self.go(block.line, target, 1.0, lead)
        self.rows.tied(lead)
