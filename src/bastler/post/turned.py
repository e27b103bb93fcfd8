"""The voice of turned planes: X as diameter, surface speed or fixed turns, feed per turn or, without an encoder, per minute."""

from __future__ import annotations

from functools import singledispatchmethod

from bastler.motion import Bend, Bow, Cut, Go, Move, Pause
from bastler.motion.moves import (
    Chuck,
    Coolant,
    Halt,
    OtherEdge,
    OutlineCycle,
    Roughed,
    Spindle,
    Sync,
    TapCycle,
    ThreadCycle,
    Turns,
)
from bastler.post.writer import Writer
from bastler.steps import Spin, Stage
from bastler.tools import AnyTool, TurnTool

SPINDLE_WORD = {"forward": "M3", "back": "M4", "stop": "M5"}


class TurnedVoice:
    """Says moves in the half section."""

    def __init__(self, writer: Writer) -> None:
        self.writer, self.words, self.dialect = writer, writer.words, writer.dialect
        self.encoder = writer.card.encoder
        self.across = 2.0 if self.dialect.diameter_x else 1.0
        """What a radius is in an X word: on most machines a diameter."""
        self.turns = 0.0
        """Fixed turns a minute, for feeds without an encoder."""
        self.stands = False
        """Does the work stand? Then feeds are per minute."""
        self.shift = (0.0, 0.0)
        """What is added to (z, r) while the other edge of a groove tool is meant."""
        self.pulled = 0.0
        """How far the work has been pulled out of the chuck that its zero belongs to."""
        self._number = 0
        """A number that the next line of a move has of its own."""

    @property
    def carried(self) -> tuple[float, bool, tuple[float, float], float]:
        """Fixed turns, whether the work stands, which edge of a groove tool is meant, and how far the work is pulled out."""
        return self.turns, self.stands, self.shift, self.pulled

    def carry(self, carried: tuple[float, bool, tuple[float, float], float]) -> None:
        self.turns, self.stands, self.shift, self.pulled = carried

    def along(self, z: float) -> float:
        """A length of the part as the control counts."""
        return z + self.shift[0] + self.pulled

    def stage(self, stage: Stage) -> None:
        for move in stage.moves:
            self.move(move)

    def call(self, tool: AnyTool, offset: int) -> None:
        """A tool with one of its offsets."""
        self.writer.say(self.dialect.words(self.dialect.tool_call, tool=tool.station, offset=offset))

    def turn(self, spin: Spin, at: float = 0.0) -> None:
        """Spindle speed and the kind of feed: the cap stands before constant surface speed is switched on. On the way to and from
        the work the spindle keeps the speed that it has `at` a radius there, as its ramps would cost time; 0 for no such way."""
        words, surface = self.words, self.writer.card.surface_speed
        if spin.stands:
            self.writer.say(words.modal("M5", "spindle"))
            self.writer.say(words.modal(self.dialect.feed_codes[0], "feed mode"))
            self.stands = True
            return
        self.stands = False
        if spin.vc > 0:
            self.writer.say(words.modal(self.dialect.words(self.dialect.speed_cap, speed=words.whole(spin.cap)), "cap"))
        constant = spin.vc > 0 and at <= 0.0
        mode = words.modal("G96" if constant else "G97", "mode") if surface or spin.vc > 0 else ""
        n = spin.turns_at(at, words.unit) if at > 0.0 else spin.n
        speed = words.modal(f"S{words.whole(spin.vc if constant else n)}", "S")
        self.writer.say(mode, speed, words.modal("M4" if spin.back else "M3", "spindle"))
        per_minute, per_turn = self.dialect.feed_codes
        self.writer.say(words.modal(per_turn if self.encoder else per_minute, "feed mode"))
        self.turns = spin.n

    # -- words ----------------------------------------------------------------------------------------------------

    def place(self, z: float, r: float) -> str:
        """The words of a place that change."""
        across = self.words.length("X", self.across * (r + self.shift[1]))
        along = self.words.length("Z", self.along(z))
        return " ".join(w for w in (self.words.modal(across, "X"), self.words.modal(along, "Z")) if w)

    def _feed(self, feed: float) -> str:
        """Feed per turn as it is; without an encoder as what it makes in a minute; per minute while the work stands."""
        if self.stands:
            return self.words.feed(feed)
        if self.encoder:
            return self.words.modal("F" + self.words.number(feed, 4 if self.words.unit == "mm" else 5), "F")
        return self.words.feed(feed * self.turns)

    # -- moves ----------------------------------------------------------------------------------------------------

    @singledispatchmethod
    def move(self, move: Move) -> None:
        raise TypeError(f"There is no way to write a {type(move).__name__} on a turned plane.")

    @move.register
    def _(self, move: Go) -> None:
        if axes := self.place(move.u, move.v):
            self.writer.say(self.words.motion("G0"), axes)

    @move.register
    def _(self, move: Cut) -> None:
        if axes := self.place(move.u, move.v):
            self.writer.say(self.words.motion("G1"), axes, self._feed(move.feed), number=self._number)

    @move.register
    def _(self, move: Bow) -> None:
        words = self.words
        x, start_z = words.place("XZ")
        code = words.motion("G3" if move.ccw else "G2")
        axes = self.place(move.u, move.v)
        i = words.length("I", move.cv + self.shift[1] - x / self.across)  # rounded once: half a diameter lies between two steps
        k = words.length("K", words.rounded(self.along(move.cu)) - start_z)
        self.writer.say(code, axes, i, k, self._feed(move.feed), number=self._number)

    @move.register
    def _(self, move: Sync) -> None:
        axes = self.place(move.u, move.v)
        self.writer.say(self.words.motion(self.dialect.thread_code), axes, "F" + self.words.number(move.lead, 6))
        self.words.forget("F", "G")

    @move.register
    def _(self, move: Pause) -> None:
        self.writer.pause(move.seconds)

    @move.register
    def _(self, move: Spindle) -> None:
        self.writer.say(self.words.modal(SPINDLE_WORD[move.turn], "spindle"))

    @move.register
    def _(self, move: Turns) -> None:
        mode = self.words.modal("G97", "mode") if self.writer.card.surface_speed else ""
        self.writer.say(mode, self.words.modal(f"S{self.words.whole(move.n)}", "S"))
        self.turns = move.n

    @move.register
    def _(self, move: Coolant) -> None:
        self.writer.coolant(on=move.on)

    @move.register
    def _(self, move: Chuck) -> None:
        self.writer.say(self.dialect.grip_words[1 if move.opens else 0])

    @move.register
    def _(self, move: Halt) -> None:
        self.writer.say("M0", self.words.comment(move.message))

    @move.register
    def _(self, move: OtherEdge) -> None:
        """The second offset belongs to the other edge, so the same place is written a blade's width further."""
        tool = self.writer.tool
        assert isinstance(tool, TurnTool)
        self.call(tool, tool.second if move.second else tool.station)
        self.shift = tool.other_edge if move.second else (0.0, 0.0)
        self.words.forget("Z", "X")

    @move.register
    def _(self, move: Bend) -> None:
        self.writer.say({"right": "G42", "left": "G41", "off": "G40"}[move.side])

    @move.register
    def _(self, cycle: OutlineCycle) -> None:
        if cycle.roughed is not None:
            self._rough(cycle, cycle.roughed)
        elif cycle.number in self.writer.outlines:
            first, last = self.writer.outlines[cycle.number]
            self.writer.say("G70", f"P{first}", f"Q{last}")
            self._back_at(cycle)
        else:
            for move in cycle.plain:
                self.move(move)

    def _rough(self, cycle: OutlineCycle, how: Roughed) -> None:
        """The outline is in the lines behind, whose feeds are those of finishing it."""
        words, writer = self.words, self.writer
        two = self.dialect.cycle_lines == 2
        first, last = writer.label(int(two) + 1), writer.label(int(two) + 1 + len(cycle.moves))
        lines = f"P{first}", f"Q{last}"
        leave = words.length("U", self.across * how.leave_r), words.length("W", how.leave_z)
        feed = "F" + words.number(how.feed, 4 if words.unit == "mm" else 5) if self.encoder else words.feed(how.feed * self.turns)
        if two:
            writer.say("G71", words.length("U", how.ap), words.length("R", how.pull))
            writer.say("G71", *lines, *leave, feed)
        else:
            writer.say("G71", *lines, *leave, f"D{words.counted(how.ap, self.dialect.thread_unit)}", feed)
        words.forget("G", "F")
        writer.outlines[cycle.number] = first, last
        writer.say(words.motion("G0"), self.place(cycle.start_z, cycle.begin_r), number=first)
        for k, move in enumerate(cycle.moves):
            self._number = last if k == len(cycle.moves) - 1 else 0
            self.move(move)
        self._number = 0
        self._back_at(cycle)

    def _back_at(self, cycle: OutlineCycle) -> None:
        """Behind a cycle the tool is where it began."""
        self.words.forget()
        self.place(cycle.start_z, cycle.start_r)

    @move.register
    def _(self, cycle: TapCycle) -> None:
        words = self.words
        feed = "F" + words.number(cycle.pitch, 6) if self.encoder else words.feed(cycle.pitch * self.turns)
        self.writer.say(
            "G84",
            words.length("X", 0.0),
            words.length("Z", cycle.z + self.pulled),
            words.length("R", cycle.near + self.pulled),
            feed,
        )
        self.writer.say("G80")
        words.forget("G", "Z", "F")

    @move.register
    def _(self, cycle: ThreadCycle) -> None:
        if "G76" not in self.dialect.turn_cycles:
            for move in cycle.passes:
                self.move(move)
            return
        words, unit = self.words, self.dialect.thread_unit
        depth, first, least = (words.counted(length, unit) for length in (cycle.depth, cycle.first, cycle.least))
        end = (words.length("X", self.across * cycle.minor), words.length("Z", cycle.z + self.pulled))
        lead = "F" + words.number(cycle.lead, 6)
        if self.dialect.cycle_lines == 2:
            codes = f"P{cycle.springs + 1:02d}00{round(cycle.angle):02d}"
            self.writer.say("G76", codes, f"Q{least}", words.length("R", cycle.last))
            self.writer.say("G76", *end, f"P{depth}", f"Q{first}", lead)
        else:
            deep = f"K{words.number(cycle.depth, words.places)}"
            self.writer.say("G76", *end, deep, f"D{first}", f"A{round(cycle.angle)}", lead)
        words.forget()
        words.last |= {"X": words.length("X", self.across * cycle.start_r), "Z": words.length("Z", cycle.start_z + self.pulled)}
