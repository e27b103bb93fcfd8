"""A turning control: X as a diameter, steps in U and W, stations with offsets, surface speed, threads, compensation."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.nc import codes
from bastler.nc.bending import TURNED, bent
from bastler.nc.block import Block
from bastler.nc.interpreter import Interpreter
from bastler.nc.motion import (
    MOTION_REASONS,
    S_FEED,
    S_MODE,
    S_PER,
    S_RELATIVE,
    S_SCALE,
    move_words,
)
from bastler.nc.state import TurnedState
from bastler.nc.turn_cycles import CYCLES, run_cycle, tap
from bastler.units import scale

THREADS = (32.0, 33.0)
FEET = 12.0
MILLING = frozenset((43.0, 49.0, 64.0, 73.0, 81.0, 82.0, 83.0, 85.0, 86.0, 87.0, 88.0, 89.0, 93.0))
"""What a turning control here does not know."""


class LatheInterpreter(TurnedState, Interpreter):
    """One turning control running one program."""

    RUNS = "nose"
    BENDS_IN = 18.0
    KNOWN = (frozenset(codes.GROUP_OF) | frozenset(codes.TURN_GROUP_OF)) - MILLING
    AXES = "XZUWA"
    """A is the angle of a thread cycle."""

    # -- speed, feed, tools -----------------------------------------------------------------------------------------

    def _feed_and_speed(self, block: Block) -> None:
        per_minute, per_turn = (float(word[1:]) for word in self.control.dialect.feed_codes)
        for code, mode in ((per_minute, 94.0), (per_turn, 95.0)):
            if block.has_g(code):
                self.state[S_PER] = mode
                self.rows.modal_from("per_turn", 1.0 if mode == 95.0 else 0.0)
        for code in {94.0, 95.0, 98.0, 99.0} - {per_minute, per_turn}:
            if block.has_g(code):
                text = f"G{code:g} is not how this machine tells its feed: that is G{per_minute:g} and G{per_turn:g}."
                self.say(block.line, "feed-code", text, block.column("G"))
        self._units(block)
        if (feed := block.word("F")) is not None and not self._own_feed(block):
            self.state[S_FEED] = feed * self.state[S_SCALE]
            if feed <= 0:
                self.say(block.line, "feed-missing", "A feed has to be more than 0.", block.column("F"))
        speed = block.word("S")
        if block.has_g(96.0):
            if not self.surface and (speed is None or block.has_g(50.0)):
                self.say(block.line, "speed-missing", "G96 needs the cutting speed in S.", block.column("G"))
            self.surface = True
        if block.has_g(97.0):
            if self.surface and speed is None:  # it goes on at the speed it has
                self.wanted = self._turns_now()
            self.surface = False
        if speed is not None:
            self._speed_word(block, speed)
        self._rows_speed()

    def _turns_now(self) -> float:
        """Turns a minute that constant surface speed makes where the tool is."""
        radius = max(abs(float(self._tip()[0])), 1e-9)
        return min(self._surface_speed() / (2 * math.pi * radius), self.cap)

    def _surface_speed(self) -> float:
        """The wanted surface speed in job's units a minute: S counts metres, or feet where the text is in inches."""
        return self.wanted * (scale("mm", self.control.unit) * 1000.0 if self.in_mm else scale("inch", self.control.unit) * FEET)

    def _own_feed(self, block: Block) -> bool:
        """Is F the lead of a thread or belongs to a cycle?"""
        goes_on = self.cycle_code in (32, 33) and not block.g_words & {0.0, 1.0, 2.0, 3.0, 80.0}
        return bool(block.g_words & {*THREADS, 76.0}) or goes_on

    def _speed_word(self, block: Block, speed: float) -> None:
        if speed < 0:
            self.say(block.line, "speed", "A spindle speed cannot be negative.", block.column("S"))
        elif block.has_g(50.0) or block.has_g(92.0):
            self.cap = speed
        else:
            self.wanted = speed

    def _rows_speed(self) -> None:
        self.rows.modal_from("surface", self._surface_speed() if self.surface and self.turning else 0.0)
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
        if word != int(word) or word < 0:
            self.say(block.line, "tool-word", f"T{word:g} is no station with its offset.", block.column("T"))
        station, offset = divmod(int(word), 10**self.control.dialect.tool_digits)
        if offset and not station:
            digits = "0" * self.control.dialect.tool_digits
            text = f"T{int(word)} calls no station: a turret wants station and offset, as T{int(word)}{offset:0{len(digits)}d}."
            self.say(block.line, "tool-word", text, block.column("T"))
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

    # -- modes ------------------------------------------------------------------------------------------------------

    def _modes(self, block: Block) -> None:
        self._plane(block)
        self._compensation(block)
        self._common_modes(block)

    def _runs_beside(self, block: Block) -> float:
        if self.tool not in self.control.noses:
            self.say(block.line, "compensation", "No tool is known here whose nose could be allowed for.", block.column("G"))
        return self.control.noses.get(self.tool, (0.0, (0.0, 0.0)))[0]

    def _not_modal(self, block: Block) -> bool:
        shifts = next((code for code in (50.0, 92.0) if block.has_g(code)), None)
        if shifts is not None:
            if block.has_any("XZUWF"):
                text = f"G{shifts:g} with axis words shifts the zero on one control, cuts a thread on the next: it is not read."
                self.say(block.line, "not-followed", text, block.column("G"))
                block.use("XZUWFR")
            elif block.peek("S") is None:
                text = f"G{shifts:g} needs the cap of the spindle's speed in S."
                self.say(block.line, "speed-missing", text, block.column("G"))
            return True
        if self.control.dialect.feed_codes == ("G98", "G99") and block.has_g(90.0) and block.has_any("XZUW"):
            if not block.g_words - {90.0} & {0.0, 1.0, 2.0, 3.0, 28.0, 53.0, *THREADS}:
                text = "G90 with axis words alone is a turning cycle on controls of this kind: it is not read."
                self.say(block.line, "not-followed", text, block.column("G"))
                block.use("XZUWFR")
                return True
        return super()._not_modal(block)

    def _flow(self, block: Block) -> int:
        after = super()._flow(block)
        if self.jump is not None:
            after, self.jump = self.jump, None
        return after

    # -- motion -------------------------------------------------------------------------------------------------------

    def _axes(self, block: Block) -> None:
        code = next((g for g in CYCLES if block.has_g(g)), None)
        if code is not None:
            run_cycle(self, block, int(code))
            return
        motion = block.motion
        if motion is None:
            motion = next((g for g in THREADS if block.has_g(g)), None)
        moves = block.has_any("XZUW")
        if motion == 84.0:
            self.cycle_code, self.state[S_MODE] = 84, -1.0
            tap(self, block)
            return
        if motion in THREADS:
            self.cycle_code, self.state[S_MODE] = int(motion or 33), -1.0
        elif motion is not None:
            self.cycle_code = 0
            self.state[S_MODE] = -1.0 if motion in codes.CYCLES or motion == 80.0 else motion
        if self.cycle_code == 84:
            if moves:
                self.say(block.line, "cycle-word", "There is one hole on the centre line: G80 ends the cycle first.")
        elif self.cycle_code:
            if moves:
                self._thread(block)
        elif moves or (self.state[S_MODE] >= 2.0 and block.has_centre()):
            self._steer(block)

    def _thread(self, block: Block) -> None:
        """A move tied to the spindle."""
        letter = next((name for name in "FKE" if block.peek(name) is not None), "F")
        lead = block.word(letter)
        if lead is not None:
            self.cycle["lead"] = lead * float(self.state[S_SCALE])
        if self.cycle.get("lead", 0.0) <= 0.0:
            self.say(block.line, "lead-missing", f"G{self.cycle_code} needs the lead of the thread in F.", block.column("G"))
            return
        self.tied_move(block, self.target(block), self.cycle["lead"])

    def _steer(self, block: Block) -> None:
        """A move of G0 to G3, with steps in U and W worked in."""
        block.use("IKR")  # the kernel says which of them it has no use for
        if self.state[S_MODE] < 0.0:
            self.say(block.line, *MOTION_REASONS[5])
            return
        words = np.full(26, np.nan)
        for letter in "IKR":
            if (value := block.word(letter)) is not None:
                words[ord(letter) - 65] = value
        for axis, step in zip("XZ", self.control.dialect.increments, strict=True):
            if block.peek(axis) is not None and block.peek(step) is not None:
                self.say(block.line, "word-twice", f"{axis} and {step} are the same axis.", block.column(step))
        x, _, z = self.target(block)
        back = self.state[:3] if self.state[S_RELATIVE] > 0 else np.zeros(3)
        words[23], words[25] = (x - back[0]) / self.unit_of(0), (z - back[2]) / self.unit_of(2)
        self.rows.room(1)
        self.rows.count, reason = move_words(words, self.state, self.rows.data, self.rows.count, block.line, self.loose)
        if reason:
            self.say(block.line, *MOTION_REASONS[int(reason)])

    # -- nose compensation --------------------------------------------------------------------------------------------

    def _beside(self, rows: Any, distance: float, said: int) -> Any:
        """The rows of the tool's point, its nose beside the outline."""
        _, (cz, cr) = self.control.noses.get(self.tool, (0.0, (0.0, 0.0)))
        return bent(rows, distance, TURNED, (-cz, -cr))
