"""What a control knows while it runs a program: place, modes, offsets, what has been gathered; and the moves it makes.

What words mean is known by *handlers* alone: a control is a table of them, and they work on its state.
"""

from __future__ import annotations

import copy
import functools
import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from bastler.bounds import IN_A_BLOCK, MOVES, TURNS, Bound
from bastler.language import tr
from bastler.nc import formulas
from bastler.nc.block import Block
from bastler.nc.control import Control
from bastler.nc.formulas import Parameters
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
    motion_reason,
    move_lines,
    move_words,
)
from bastler.nc.rows import Rows
from bastler.nc.trace import Event, Finding
from bastler.nc.words import WordTable
from bastler.shapes.kinds import StopFlag
from bastler.units import scale

RUN_ON = frozenset(
    ("feed-missing", "tool-unknown", "length-offset", "offset-unknown", "speed", "spindle-back", "never-run", "compensation")
)
"""Stops that a program runs on with: what it then does is shown. At all others a control stands still, and so does the
reading."""
MOST_FINDINGS = 500
STRETCH = 20_000
"""So many lines of formulas are run in one go."""
Point = tuple[float, float, float]


@dataclass(frozen=True)
class WorkAxis:
    """The work's spindle as an axis, and the drive of tools. While it is `on` the work stands at `angle` degrees or turns by
    them, `clamped` for cutting or not; a driven tool turns (`driving` 1, -1 backward, 0 stands) at `speed`. `polar` interpolation
    takes C as a length at right angles to X; `radius` is that of the round on which C is one, 0 without."""

    on: bool = False
    angle: float = 0.0
    clamped: bool = False
    driving: int = 0
    speed: float = 0.0
    polar: bool = False
    radius: float = 0.0


@dataclass(frozen=True)
class Chucks:
    """Both chucks of a machine with two spindles: where W stands, which of them are closed, how the spindles turn `together` (1
    at one speed, 2 at one speed and angle, 0 each by itself), with how many newtons W pushes at most (0 without a limit)."""

    w: float = 0.0
    main: bool = True
    second: bool = False
    together: int = 0
    push: float = 0.0

    @property
    def holds(self) -> bool:
        """Is one of them closed?"""
        return self.main or self.second


class Stopped(Exception):
    """Somebody does not want the trace any more."""


class Corner(NamedTuple):
    """A corner that waits for what follows: where its word stands, `c` or `r` with its size, and the row that leads to it."""

    line: int
    column: int
    kind: str
    size: float
    row: int


class Handler(NamedTuple):
    """What a control does with some of the words of a line: the G words it knows by them, and what it does. True when it has
    taken the axis words, so that no later handler moves by them. It is asked where one of its G words is in the line, or one of
    its other `words` (a letter, or an M word as `M6`), or `always` when what is in force may have it do something without."""

    codes: frozenset[float]
    run: Callable[[MachineState, Block], bool | None]
    words: tuple[str, ...] = ()
    always: bool = False


class Manner(NamedTuple):
    """How a kind of control reads lines: its handlers in their order, where a line leads to behind them, the letters of axes it
    has, what runs beside an outline under compensation, and in which plane; the M words of its own, and what puts the rows from
    one on where they are on the part."""

    handlers: tuple[Handler, ...]
    flow: Callable[[MachineState, Block], int]
    axes: str
    beside: str
    bends_in: float
    m_words: frozenset[float] = frozenset()
    places: Callable[[MachineState, int], None] | None = None
    corners: Callable[[MachineState, Block], None] | None = None
    """What is behind every line that may end in a corner, or goes on from one."""

    @property
    def known(self) -> frozenset[float]:
        """All G words that it knows."""
        return frozenset().union(*(handler.codes for handler in self.handlers))


@functools.lru_cache(maxsize=8)
def _asked_by(manner: Manner) -> tuple[frozenset[int], dict[str | float, frozenset[int]]]:
    """Which handlers, by their places, are asked at every line, and which where a word is in it."""
    always = frozenset(k for k, handler in enumerate(manner.handlers) if handler.always)
    by_word: dict[str | float, frozenset[int]] = {}
    for k, handler in enumerate(manner.handlers):
        own: list[str | float] = [*handler.codes, *handler.words]
        for word in own:
            by_word[word] = by_word.get(word, frozenset()) | {k}
    return always, by_word


@functools.lru_cache(maxsize=4096)
def _asked(manner: Manner, words: tuple[str | float, ...]) -> tuple[Handler, ...]:
    """The handlers that are asked about a line of these words, in their order."""
    always, by_word = _asked_by(manner)
    asked = always.union(*(by_word[word] for word in words if word in by_word))
    return tuple(manner.handlers[k] for k in sorted(asked))


class MachineState:
    """One control with one program in it.

    A turning control has X across (often as a diameter), letters of its own for steps, and what cycles keep from line to line.
    """

    def __init__(self, table: WordTable, control: Control, manner: Manner) -> None:
        self.table = table
        self.controls = (control,) if control.second is None else (control, control.second)
        self.side = 0
        """Which spindle is chosen: the main one, or the second."""
        self.manner, self.known = manner, manner.known
        self.lines = len(table.plain)
        self.is_formula = np.zeros(self.lines, np.bool_)
        """Lines with parameters or formulas in them."""
        self.state = np.zeros(STATE_SIZE)
        self.state[S_MODE], self.state[S_PLANE], self.state[S_PER] = -1.0, manner.bends_in, 94.0
        self.state[S_SCALE] = 1.0
        self.state[S_ACROSS] = 0.5 if control.turns and control.dialect.diameter_x else 1.0
        self.state[S_SPEED] = 1.0 if control.turns else 0.0  # there feeds per turn stay so until all is read
        self.steps = control.dialect.increments if control.turns else ("", "")
        """The letters of steps along X and Z."""
        self.rows = Rows(max(64, self.lines + 16))
        self.rows.modal_from("w", control.w)
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
        """The S word: turns a minute, or surface speed where that is `surface`."""
        self.turning = self.surface = False
        self.cap = math.inf
        self.work = WorkAxis()
        self.chucks = Chucks(control.w)
        self.pulled = 0.0
        """How far the second chuck has pulled the part out of the main one: the part's zero goes with it."""
        self.placed = 0
        """The rows that are where they are on the part already."""
        self.parameters = Parameters()
        self.cycle: dict[str, float] = {}
        self.cycle_code = 0
        self.initial_level = True
        self.level = 0.0
        self.memory: dict[int, dict[str, float]] = {}
        """First lines of two-line cycles, by code."""
        self.jump: int | None = None
        """Where the program goes on after a cycle that has used the lines behind it."""
        self.in_contour = False
        """Is the outline of a cycle being run?"""
        self.calls: list[tuple[int, int, int]] = []
        self.bent: tuple[float, int, int] | None = None
        """Compensation in force: how far to the right of the outline, its first row, its line."""
        self.corner: Corner | None = None
        """A corner that waits for the line behind it."""
        self.gaps: list[int] = []
        """Rows that begin where compensation has led to, and not where the program was."""
        self.loose = LOOSE * scale("mm", control.unit)
        self.elsewhere = False
        """Has what was done depended on lines that stand elsewhere?"""
        self.ran = np.zeros(self.lines, np.bool_)
        """Lines that have been run, or refused with a reason."""
        self.stop: StopFlag | None = None
        self.blocks = 0
        """Lines run one by one, each as often as it is run."""
        self.at_row = 0
        """The rows there were before the line that is run now."""
        self.cut: tuple[int, int] | None = None
        """Where the first refused word stands: the rows before it, and its line."""
        if control.turns:  # Y and J: an axis that a lathe has not
            strange = np.flatnonzero((table.letter == ord("Y")) | (table.letter == ord("J")))
            table.plain[np.searchsorted(table.first, strange, "right") - 1] = False
        self.reshift(self._home_tip())

    @property
    def control(self) -> Control:
        """What is known of the control, with the spindle that is chosen."""
        return self.controls[self.side]

    def choose(self, side: int) -> None:
        """The other spindle: the turret stays where it is, and its place is counted from there."""
        place = self.machine(self.tip())
        self.side, self.pulled = side, 0.0
        self.rows.modal_from("pulled", 0.0)
        self.offsets = dict(self.control.offsets)
        zero, reach = self._zero, self.reach()
        x, y, z = self.control.turned(place)
        self.reshift((x - zero[0] - reach[0], y - zero[1] - reach[1], z - zero[2] - reach[2]))

    def pull(self, by: float) -> None:
        """The part goes along with the second chuck; the tool stays where it is."""
        x, y, z = self.tip()
        self.pulled += by
        self.reshift((x, y, z - by))
        self.rows.modal_from("pulled", self.pulled)

    def carry_on(self, by: float) -> None:
        """The part goes along with the tool that has hold of it."""
        tip = self.tip()
        self.pulled += by
        self.reshift(tip)
        self.rows.modal_from("pulled", self.pulled)

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

    def event(self, line: int, what: str, value: float = 0.0, place: Point | None = None) -> None:
        self.events.append(Event(self.rows.count, line, what, value, place))

    def still_wanted(self) -> None:
        """Raises Stopped when nobody does any more."""
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
        gathers = ("table", "controls", "findings", "faults", "ran", "cut", "at_row")
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
        least = self.control.dialect.least_in("mm" if self.in_mm else "inch")
        return value * (least if kind == "increment" else 1.0) * float(self.state[S_SCALE])

    @property
    def by_word(self) -> bool:
        """Is every line run by its words, as motion words alone mean something else than a move of the axes?"""
        return bool(self.cycle_code or self.work.polar or self.work.radius or self.corner is not None or not self.chucks.holds)

    def names(self) -> tuple[str, str, str]:
        """The letters that name each of the three axes."""
        return ("X" + self.steps[0], "Y", "Z" + self.steps[1])

    def target(self, block: Block) -> Point:
        """Where the axis words lead, in the program's coordinates."""
        found = []
        for axis, letter in enumerate("XYZ"):
            value = block.word(letter)
            base = self.state[axis] if self.state[S_RELATIVE] > 0 else 0.0
            found.append(self.state[axis] if value is None else value * self.unit_of(axis) + base)
        for axis, letter in zip((0, 2), self.steps, strict=True):
            if letter and (step := block.word(letter)) is not None:
                found[axis] = float(self.state[axis]) + step * self.unit_of(axis)
        return (found[0], found[1], found[2])

    def unit_of(self, axis: int) -> float:
        """What one of an axis word is, in the job's unit along that axis."""
        return float(self.state[S_SCALE] * (self.state[S_ACROSS] if axis == 0 else 1.0))

    def reach(self) -> Point:
        """From the tip to what the machine knows as its place: the spindle nose, or the turret's reference."""
        return self.control.reaches.get(self.tool, (0.0, 0.0, 0.0))

    def go(self, line: int, target: Point, kind: float = 0.0, feed: float = 0.0) -> None:
        """One straight move in the program's coordinates."""
        if kind > 0.0 and feed <= 0.0:
            self.say(line, "feed-missing", tr("No feed rate is in force."))
        self.rows.straight(line, kind, self.state, target, feed)
        self.state[:3] = target

    def go_machine(self, line: int, machine: Point, kind: float = 0.0) -> None:
        zero, reach, machine = self._zero, self.reach(), self.control.turned(machine)
        tip = (machine[0] - zero[0] - reach[0], machine[1] - zero[1] - reach[1], machine[2] - zero[2] - reach[2])
        dx, dy, dz = self.state[S_DX : S_DX + 3]
        self.go(line, (tip[0] - dx, tip[1] - dy, tip[2] - dz), kind, self.straight_feed)

    @property
    def straight_feed(self) -> float:
        """The feed a minute in force for a straight move of a cycle; on a lathe a turn where that is in force."""
        return float(self.state[S_FEED] * (self.state[S_SPEED] if self.state[S_PER] == 95.0 else 1.0))

    def tip(self) -> Point:
        """The true tip, seen from part zero."""
        s = self.state
        return (s[0] + s[S_DX], s[1] + s[S_DX + 1], s[2] + s[S_DX + 2])

    def machine(self, tip: Point) -> Point:
        """Axis positions of the machine (the spindle nose) with the tip there."""
        zero, reach = self._zero, self.reach()
        return self.control.turned((tip[0] + zero[0] + reach[0], tip[1] + zero[1] + reach[1], tip[2] + zero[2] + reach[2]))

    @property
    def _zero(self) -> Point:
        """Where the part's zero is."""
        x, y, z = self.control.offsets.get(self.control.part, (0.0, 0.0, 0.0))
        return (x, y, z if self.side else z + self.pulled)

    @property
    def home(self) -> Point:
        """Where the axes stand after referencing, as the machine counts."""
        return self.controls[0].home

    def _home_tip(self) -> Point:
        zero, home = self._zero, self.control.home
        return (home[0] - zero[0], home[1] - zero[1], home[2] - zero[2])

    def reshift(self, tip: Point) -> None:
        """Works out the shift from offset, G92 and lengths anew; the tip stays where it is."""
        zero = self._zero
        active = self.offsets.get(self.offset, (0.0, 0.0, 0.0))
        reach = self.reach()
        for axis in range(3):
            shift = active[axis] - zero[axis] + self.shift[axis] + self.local[axis] + self.lift[axis] - reach[axis]
            self.state[S_DX + axis] = shift
            self.state[axis] = tip[axis] - shift

    def shift_to(self, shift: Point) -> None:
        tip = self.tip()
        self.shift = shift
        self.reshift(tip)

    def steer(self, block: Block, letters: str, target: Point) -> None:
        """A move to a place in the program's coordinates by what motion words mean, with those of some letters that the block
        has: the centre or the radius of an arc, and the feed where every line has its own."""
        state, words = self.state, np.full(26, np.nan)
        for letter in letters:
            if (value := block.word(letter)) is not None:
                words[ord(letter) - 65] = value
        if state[S_PER] == 93.0 and (feed := block.peek("F")) is not None:
            words[ord("F") - 65] = feed
        back = state[:3] if state[S_RELATIVE] > 0 else np.zeros(3)
        for axis in range(3):
            words[23 + axis] = (target[axis] - back[axis]) / self.unit_of(axis)
        self.rows.room(1)
        self.rows.count, reason = move_words(words, state, self.rows.data, self.rows.count, block.line, self.loose)
        if reason:
            self.say(block.line, *motion_reason(int(reason)))

    def tied_move(self, block: Block, target: Point, lead: float) -> None:
        """One move tied to the spindle, in the program's coordinates."""
        if self.too_many(block, math.dist(self.state[:3], target) / lead, TURNS):
            return
        self.go(block.line, target, 1.0, lead)
        self.rows.tied(lead)

    def run_line(self, line: int) -> int:
        """Runs one line with all its words; gives the line to go on with."""
        return self.run_block(Block.of(self.table, line))

    def run_formulas(self, line: int) -> int:
        """Runs lines whose values are worked out now, as many as there are one after the other; gives the line to go on with.
        Nothing of them is kept for another reading."""
        self.elsewhere, own, table = True, self.parameters, self.table
        end = line + 1 if self.by_word else min(self.lines, line + STRETCH, line + MOVES.most + 1 - self.rows.count)
        self.still_wanted()
        self.rows.room(end - line)
        before = self.rows.count
        come, self.rows.count, bad, why, what, column = formulas.run(
            table.text, table.ends, self.is_formula, line, max(end, line + 1), self.control.turns, self.by_word, own.arrays,
            self.state, self.rows.data, before, self.faults, self.loose,
        )  # fmt: skip
        self.ran[line:come] = True
        self._say_faults(before, bad)
        if self.manner.places is not None:
            self.manner.places(self, before)
        self.blocks += 1
        if why == formulas.WRONG:
            self.at_row, self.ran[come] = self.rows.count, True
            self.say(come, "formula", tr(formulas.REASONS[what], most=formulas.COUNT - 1, own=formulas.OWN), column)
            return int(come) + 1
        if why == formulas.BY_WORD:
            return self.run_block(Block(int(come), own.words(what)))
        return int(come)

    def run_block(self, block: Block) -> int:
        """Runs the words of a line; gives the line to go on with."""
        self.blocks += 1
        self.still_wanted()
        line = block.line
        self.at_row, self.ran[line] = self.rows.count, True
        said = set()
        for column, text in block.conflicts():
            self.say(line, "modal-group", text, column)
            said.add(column)
        for column, text in block.unknown(self.known, self.manner.axes, self.manner.m_words):
            self.say(line, "unknown-word", text, column)
            said.add(column)
        for handler in _asked(self.manner, block.words):
            if handler.run(self, block):
                break
        if self.manner.corners is not None and (self.corner is not None or block.has_any("cr")):
            self.manner.corners(self, block)
        if self.manner.places is not None:
            self.manner.places(self, self.at_row)
        after = self.manner.flow(self, block)
        self.at_row = min(self.at_row, self.rows.count)
        for column, text in block.unused():
            if column not in said:
                self.say(line, "word-unused", text, column)
        return after

    def run_motion(self, begin: int, end: int) -> None:
        """Runs the motion words of lines `begin` to before `end` through the kernel."""
        self.still_wanted()
        if self.rows.count + (end - begin) > MOVES.most:
            end = max(begin, begin + MOVES.most - self.rows.count) + 1
            end = min(end, self.lines)
        self.rows.room(end - begin)
        table = self.table
        before = self.rows.count
        self.rows.count, bad = move_lines(
            table.letter, table.value, table.first, begin, end, self.state, self.rows.data, before, self.faults, self.loose
        )
        self.ran[begin:end] = True
        self._say_faults(before, bad)
        if self.manner.places is not None:
            self.manner.places(self, before)

    def _say_faults(self, before: int, bad: int) -> None:
        """What is wrong with moves in rows from `before` on."""
        for line, reason in self.faults[:bad]:
            code, text = motion_reason(int(reason))
            self.at_row = before + int(np.searchsorted(self.rows.data[before : self.rows.count, 0], line))
            self.say(int(line), code, text)
