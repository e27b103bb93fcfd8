"""A turning control: X as a diameter, steps in U and W, stations with offsets, surface speed, threads, compensation."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.nc import codes
from bastler.nc.bending import TURNED, bent
from bastler.nc.block import Block
from bastler.nc.control import Control
from bastler.nc.interpreter import Interpreter, Point
from bastler.nc.motion import (
    MOTION_REASONS,
    S_ACROSS,
    S_FEED,
    S_MODE,
    S_PER,
    S_PLANE,
    S_RELATIVE,
    S_SCALE,
    S_SPEED,
    move_words,
)
from bastler.nc.turn_cycles import CYCLES, run_cycle
from bastler.nc.words import WordTable

THREADS = (32.0, 33.0)
FEET = 12.0


class LatheInterpreter(Interpreter):
    """One turning control running one program."""

    RUNS = "nose"
    KNOWN = frozenset(codes.GROUP_OF) | frozenset(codes.TURN_GROUP_OF)
    AXES = "XZUWA"
    """A is the angle of a thread cycle."""

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
        self._reshift(self._home_tip())

    # -- speed, feed, tools -----------------------------------------------------------------------------------------

    def _feed_and_speed(self, block: Block) -> None:
        per_minute, per_turn = (float(word[1:]) for word in self.control.dialect.feed_codes)
        for code, mode in ((per_minute, 94.0), (per_turn, 95.0)):
            if block.has_g(code):
                self.state[S_PER] = mode
                self.rows.modal_from("per_turn", 1.0 if mode == 95.0 else 0.0)
        self._units(block)
        if (feed := block.word("F")) is not None and not self._own_feed(block):
            self.state[S_FEED] = feed * self.state[S_SCALE]
            if feed <= 0:
                self.say(block.line, "feed-missing", "A feed has to be more than 0.", block.column("F"))
        if block.has_g(96.0) or block.has_g(97.0):
            self.surface = block.has_g(96.0)
        if (speed := block.word("S")) is not None:
            self._speed_word(block, speed)
        self._rows_speed()

    def _own_feed(self, block: Block) -> bool:
        """Is F the lead of a thread or belongs to a cycle?"""
        return bool(block.g_words & {*THREADS, 76.0}) or self.cycle_code in (32, 33)

    def _speed_word(self, block: Block, speed: float) -> None:
        if speed < 0:
            self.say(block.line, "speed", "A spindle speed cannot be negative.", block.column("S"))
        elif block.has_g(50.0) or (block.has_g(92.0) and not block.has_any("XZUW")):
            self.cap = speed
        else:
            self.wanted = speed

    def _rows_speed(self) -> None:
        unit = 1000.0 if self.control.unit == "mm" else FEET
        self.rows.modal_from("surface", self.wanted * unit if self.surface and self.turning else 0.0)
        self.rows.modal_from("cap", self.cap)
        self.rows.speed_from(self.wanted if self.turning else 0.0)

    def _spindle(self, block: Block) -> None:
        for code in (3, 4, 5):
            if block.has_m(code):
                self.turning = code != 5
                self.event(block.line, "spindle", {3: 1.0, 4: -1.0, 5: 0.0}[code])
        self._rows_speed()
        self._coolant(block)

    def _tool_words(self, block: Block) -> None:
        word = block.word("T")
        if word is None:
            return
        station, offset = divmod(int(word), 10**self.control.dialect.tool_digits)
        tip, old = self._tip(), self._reach()
        if station and station != self.tool:
            if station not in self.control.points:
                self.say(block.line, "tool-unknown", f"Station {station} holds no tool of this job.", block.column("T"))
            self.tool = station
            self._changed_tool(block, tip, old)
            tip = self._tip()
        if offset and offset not in self.control.offset_points:
            self.say(block.line, "length-offset", f"Tool offset {offset} has no value.", block.column("T"))
        self.lift = self.control.offset_points.get(offset, (0.0, 0.0, 0.0)) if offset else (0.0, 0.0, 0.0)
        self.rows.modal_from("edge", offset)
        self._reshift(tip)

    def _reach(self) -> Point:
        return self.control.points.get(self.tool, (0.0, 0.0, 0.0))

    # -- modes ------------------------------------------------------------------------------------------------------

    def _modes(self, block: Block) -> None:
        if block.has_g(41.0) or block.has_g(42.0):
            self._unbend()
            nose = self.control.noses.get(self.tool, (0.0, (0.0, 0.0)))[0]
            self.bent = (-nose if block.has_g(41.0) else nose, self.rows.count, block.line)
        if block.has_g(40.0):
            self._unbend()
        for code in (17.0, 18.0, 19.0):
            if block.has_g(code):
                self.state[S_PLANE] = code
        self._work_offset(block)
        if block.has_g(90.0) or block.has_g(91.0):
            self.state[S_RELATIVE] = 1.0 if block.has_g(91.0) else 0.0

    def _not_modal(self, block: Block) -> bool:
        if block.has_g(50.0):
            return True
        if block.has_g(92.0) and not block.has_any("XZUW"):
            return True
        return super()._not_modal(block)

    def _target(self, block: Block) -> Point:
        x, y, z = super()._target(block)
        across, along = self.control.dialect.increments
        if (step := block.word(across)) is not None:
            x = float(self.state[0]) + step * self.unit_of(0)
        if (step := block.word(along)) is not None:
            z = float(self.state[2]) + step * self.unit_of(2)
        return (x, y, z)

    def _flow(self, block: Block) -> int:
        after = super()._flow(block)
        if self.jump is not None:
            after, self.jump = self.jump, None
        return after

    # -- motion -------------------------------------------------------------------------------------------------------

    def _axes(self, block: Block) -> None:
        code = next((g for g in block.g_words if g in CYCLES), None)
        if code is not None:
            run_cycle(self, block, int(code))
            return
        motion = block.motion
        if motion is None:
            motion = next((g for g in block.g_words if g in THREADS), None)
        if motion in THREADS:
            self.cycle_code, self.state[S_MODE] = int(motion or 33), -1.0
        elif motion is not None:
            self.cycle_code = 0
            self.state[S_MODE] = -1.0 if motion == 80.0 else motion
            if motion in codes.CYCLES:
                self.say(block.line, "unknown-word", f"G{motion:g} is not read on a turning machine.", block.column("G"))
                self.state[S_MODE] = -1.0
        moves = block.has_any("XZUW")
        if self.cycle_code:
            if moves:
                self._thread(block)
        elif moves or (self.state[S_MODE] >= 2.0 and block.has_centre()):
            self._steer(block)

    def _thread(self, block: Block) -> None:
        """A move tied to the spindle."""
        lead = block.word("F") or block.word("K") or block.word("E")
        if lead is not None:
            self.cycle["lead"] = lead * float(self.state[S_SCALE])
        if self.cycle.get("lead", 0.0) <= 0.0:
            self.say(block.line, "lead-missing", f"G{self.cycle_code} needs the lead of the thread in F.", block.column("G"))
            return
        self.tied_move(block.line, self._target(block), self.cycle["lead"])

    def tied_move(self, line: int, target: Point, lead: float) -> None:
        """One move tied to the spindle, in the program's coordinates."""
        self._go(line, target, 1.0, lead)
        self.rows.tied(lead)

    def _steer(self, block: Block) -> None:
        """A move of G0 to G3, with steps in U and W worked in."""
        if self.state[S_MODE] < 0.0:
            self.say(block.line, *MOTION_REASONS[5])
            return
        words = np.full(26, np.nan)
        for letter in "IKR":
            if (value := block.word(letter)) is not None:
                words[ord(letter) - 65] = value
        x, _, z = self._target(block)
        back = self.state[:3] if self.state[S_RELATIVE] > 0 else np.zeros(3)
        words[23], words[25] = (x - back[0]) / self.unit_of(0), (z - back[2]) / self.unit_of(2)
        self.rows.room(1)
        self.rows.count, reason = move_words(words, self.state, self.rows.data, self.rows.count, block.line, self.loose)
        if reason:
            self.say(block.line, *MOTION_REASONS[int(reason)])

    # -- nose compensation --------------------------------------------------------------------------------------------

    def _beside(self, rows: Any, distance: float, said: int) -> Any:
        """The rows of the tool's point, its nose beside the outline."""
        _, (cz, cr) = self.control.noses[self.tool]
        return bent(rows, distance, TURNED, (-cz, -cr))
