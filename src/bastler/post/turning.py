"""Turning programs: X as diameter, constant surface speed or fixed, feed per turn or, without an encoder, per minute."""

from __future__ import annotations

from functools import singledispatchmethod

from bastler.job import PlannedHolding
from bastler.motion import Pause
from bastler.motion.turning import (
    Compensate,
    Coolant,
    Halt,
    OtherEdge,
    Slide,
    Spindle,
    Sweep,
    Sync,
    TapCycle,
    ThreadCycle,
    Turn,
    TurnMove,
)
from bastler.post.program import Program
from bastler.post.writer import Writer
from bastler.steps import Between, Speed, TurnStage
from bastler.tools import AnyTool, TurnTool

SPINDLE_WORD = {"forward": "M3", "back": "M4", "stop": "M5"}


class TurnWriter(Writer):
    """Writes the stages of a turned part."""

    def __init__(self, held: PlannedHolding) -> None:
        super().__init__(held)
        self.speed = Speed(n=0.0)
        self.shift = (0.0, 0.0)
        """What is added to (z, r) while the other edge of a groove tool is meant."""

    def write(self) -> Program:
        stock, holding = self.held.stock, self.held.holding
        bounds = self.held.ctx.raw.bounds
        word = "diameter" if self.dialect.diameter_x else "radius"
        across = f"D{self.shown(2 * bounds[3])}" + (f" bore D{self.shown(2 * bounds[1])}" if bounds[1] > 0 else "")
        self.header(
            f"{across} x {self.shown(stock.length)}",
            f"finished front face, X as {word}",
        )
        self.remark(f"sticks out {self.shown(holding.stick_out)}, chuck good for {holding.rating:g}")
        owner = ("", "")
        for k, planned in enumerate(self.held.steps, self.held.first):
            for stage in planned.stages:
                if isinstance(stage, Between):
                    self.close_section(*owner)
                    owner = (planned.step.id, stage.name)
                    self.between(stage, f"{k} {planned.step.title}")
                    continue
                fresh = self.tool is None or self.tool.id != stage.tool.id
                if fresh and self.tool is not None:
                    self._retreat()
                self.close_section(*owner)
                owner = (planned.step.id, stage.name)
                self._stage(stage, f"{k} {planned.step.title} - {stage.name}", fresh)
        self.close_section(*owner)
        if self.tool is not None:
            self._retreat()
        self.say(self.dialect.end)
        if self.dialect.tape_marks:
            self.lines.append("%")
        self.close_section("", "")
        return self.program()

    # -- stages -------------------------------------------------------------------------------------------------

    def _stage(self, stage: TurnStage, title: str, fresh: bool) -> None:
        self.remark(title)
        if fresh:
            self._call(stage.tool, stage.tool.station)
            self.tool = stage.tool
            self.words.forget()
        self._turn(stage.speed)
        r, z = self.held.ctx.safe
        first = self.held.holding.work_offset if fresh else ""
        self.say(first, self.words.motion("G0"), self._x(r), self._z(z))
        if fresh:
            self.coolant_on()
        for move in stage.moves:
            self.move(move)

    def away_for(self, between: Between) -> None:
        """Where tools change, the work standing still but for a mere way there. The next stage begins with its own tool call: one
        can begin again there."""
        if self.tool is not None or between.what == "code":
            self._retreat()
        if between.what != "park":
            self.say("M5")
        self.tool = None

    def _call(self, tool: AnyTool, offset: int) -> None:
        self.say(self.dialect.words(self.dialect.tool_call, tool=tool.station, offset=offset))

    def _turn(self, speed: Speed) -> None:
        """Spindle speed and the kind of feed: the cap stands before constant surface speed is switched on."""
        words = self.words
        if speed.vc > 0:
            self.say(words.modal(self.dialect.words(self.dialect.speed_cap, speed=words.number(speed.cap, 0)), "cap"))
            mode = words.modal("G96", "mode")
            self.say(mode, words.modal(f"S{words.number(speed.vc, 0)}", "S"), words.modal("M3", "spindle"))
        else:
            mode = words.modal("G97", "mode") if self.card.surface_speed else ""
            self.say(mode, words.modal(f"S{words.number(speed.n, 0)}", "S"), words.modal("M3", "spindle"))
        per_minute, per_turn = self.dialect.feed_codes
        self.say(words.modal(per_turn if self.card.encoder else per_minute, "feed mode"))
        self.speed = speed

    def _retreat(self) -> None:
        """Coolant off, then to where tools change, the axes in the order of the holding."""
        self.coolant_off()
        holding, words = self.held.holding, self.words
        hx, _, hz = self.card.home
        own = holding.change == "own"
        x, z = (holding.change_d / 2 * self.across, holding.change_z) if own else (self.across * hx, hz)
        lead = words.motion("G0") if own else "G53 G0"
        parts = {"x-z": [("X", x), ("Z", z)], "z-x": [("Z", z), ("X", x)]}.get(holding.order)
        if parts is None:
            self.say(lead, words.length("X", x), words.length("Z", z))
        else:
            for letter, value in parts:
                self.say(lead, words.length(letter, value))
                lead = lead if not own else ""
        words.forget()

    # -- words ----------------------------------------------------------------------------------------------------

    @property
    def across(self) -> float:
        """What a radius is in an X word: on most machines a diameter."""
        return 2.0 if self.dialect.diameter_x else 1.0

    def _x(self, r: float) -> str:
        return self.words.modal(self.words.length("X", self.across * (r + self.shift[1])), "X")

    def _z(self, z: float) -> str:
        return self.words.modal(self.words.length("Z", z + self.shift[0]), "Z")

    def _feed(self, feed: float) -> str:
        """Feed per turn as it is; without an encoder as what it makes in a minute."""
        if self.card.encoder:
            return self.words.modal("F" + self.words.number(feed, 4 if self.words.unit == "mm" else 5), "F")
        return self.words.feed(feed * self.speed.n)

    # -- moves ----------------------------------------------------------------------------------------------------

    @singledispatchmethod
    def move(self, move: TurnMove) -> None:
        raise TypeError(f"There is no way to write a {type(move).__name__}.")

    @move.register
    def _(self, move: Slide) -> None:
        axes = " ".join(w for w in (self._x(move.r), self._z(move.z)) if w)
        if axes:
            self.say(self.words.motion("G0"), axes)

    @move.register
    def _(self, move: Turn) -> None:
        axes = " ".join(w for w in (self._x(move.r), self._z(move.z)) if w)
        if axes:
            self.say(self.words.motion("G1"), axes, self._feed(move.feed))

    @move.register
    def _(self, move: Sweep) -> None:
        words = self.words
        start_r = float(words.last.get("X", "X0")[1:]) / self.across
        start_z = float(words.last.get("Z", "Z0")[1:])
        code = words.motion("G3" if move.ccw else "G2")
        axes = " ".join(w for w in (self._x(move.r), self._z(move.z)) if w)
        i = words.length("I", words.rounded(move.cr + self.shift[1]) - start_r)
        k = words.length("K", words.rounded(move.cz + self.shift[0]) - start_z)
        self.say(code, axes, i, k, self._feed(move.feed))

    @move.register
    def _(self, move: Sync) -> None:
        axes = " ".join(w for w in (self._x(move.r), self._z(move.z)) if w)
        self.say(self.words.motion(self.dialect.thread_code), axes, "F" + self.words.number(move.lead, 6))
        self.words.forget("F", "G")

    @move.register
    def _(self, move: Pause) -> None:
        self.pause(move.seconds)

    @move.register
    def _(self, move: Spindle) -> None:
        self.say(self.words.modal(SPINDLE_WORD[move.turn], "spindle"))

    @move.register
    def _(self, move: Coolant) -> None:
        if move.on:
            self.coolant_on()
        else:
            self.coolant_off()

    @move.register
    def _(self, move: Halt) -> None:
        self.say("M0", self.words.comment(move.message))

    @move.register
    def _(self, move: OtherEdge) -> None:
        """The second offset belongs to the other edge, so the same place is written a blade's width further."""
        tool = self.tool
        assert isinstance(tool, TurnTool)
        self._call(tool, tool.second if move.second else tool.station)
        self.shift = tool.other_edge if move.second else (0.0, 0.0)
        self.words.forget("Z", "X")

    @move.register
    def _(self, move: Compensate) -> None:
        code = {"right": "G42", "left": "G41", "off": "G40"}[move.side]
        self.say(code)

    @move.register
    def _(self, cycle: TapCycle) -> None:
        words = self.words
        feed = "F" + words.number(cycle.pitch, 6) if self.card.encoder else words.feed(cycle.pitch * self.speed.n)
        self.say("G84", words.length("X", 0.0), words.length("Z", cycle.z), words.length("R", cycle.near), feed)
        self.say("G80")
        words.forget("G", "Z", "F")

    @move.register
    def _(self, cycle: ThreadCycle) -> None:
        if "G76" not in self.dialect.turn_cycles:
            for move in cycle.passes:
                self.move(move)
            return
        words = self.words
        codes = f"P{cycle.springs + 1:02d}00{round(cycle.angle):02d}"
        depth, first = self._increment(cycle.depth), self._increment(cycle.first)
        least, last = self._increment(cycle.least), words.length("R", cycle.last)
        end = (words.length("X", self.across * cycle.minor), words.length("Z", cycle.z))
        lead = "F" + words.number(cycle.lead, 6)
        if self.dialect.cycle_lines == 2:
            self.say("G76", codes, f"Q{least}", last)
            self.say("G76", *end, f"P{depth}", f"Q{first}", lead)
        else:
            self.say("G76", *end, f"K{words.number(cycle.depth, words.places)}", f"D{first}", f"A{round(cycle.angle)}", lead)
        words.forget()
        words.last |= {"X": words.length("X", self.across * cycle.start_r), "Z": words.length("Z", cycle.start_z)}

    def _increment(self, length: float) -> str:
        if self.dialect.thread_unit == "increment":
            return f"{round(length / (0.001 if self.held.job.unit == 'mm' else 0.0001))}"
        return self.words.number(length, self.words.places)
