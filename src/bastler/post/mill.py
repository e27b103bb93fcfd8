"""A spindle over a table: parts side by side, tools changed in the spindle, Z out of the way first."""

from __future__ import annotations

from bastler.job import PlannedHolding
from bastler.job.parts import EXTENDED, PartAt
from bastler.post.flat import FlatVoice
from bastler.post.writer import Writer
from bastler.steps import Between, Stage, Transfer


class MillBench:
    """A milling machine; its main plane is flat."""

    def __init__(self, writer: Writer, voice: FlatVoice) -> None:
        self.writer, self.voice = writer, voice
        self.away = self.parked = False
        """Has the spindle stopped over everything, and is it home in X and Y too?"""
        self.part = writer.held.parts[0]

    def begin(self) -> None:
        writer, held = self.writer, self.writer.held
        box = held.flat.stock
        size = " x ".join(writer.shown(v) for v in box.size)
        lies = {axis: (lo, hi) for axis, lo, hi in zip("XYZ", box.lo, box.hi, strict=True)}
        writer.header(size, f"{held.vise.zero}, finished {held.vise.zero_z}", lies)
        if held.vise.writes_offsets:
            self._offsets()

    def _offsets(self) -> None:
        """The offsets of all parts, from machine zero."""
        writer, holding = self.writer, self.writer.held.vise
        zero = (holding.offset_x or 0.0, holding.offset_y or 0.0, holding.offset_z or 0.0)
        for part in writer.held.parts:
            x, y, z = (a + b for a, b in zip(zero, part.shift, strict=True))
            if part.index <= EXTENDED:
                place = " ".join(writer.words.length(axis, v) for axis, v in zip("XYZ", (x, y, z), strict=True))
                writer.say(f"G10 L2 P{part.index}", place)

    def put_away(self) -> None:
        if not self.away:
            self._retreat(home=self.writer.held.vise.tool_change == "home")

    def to_part(self, part: PartAt, *, owned: bool) -> None:
        """Where parts lie at different heights the spindle goes all the way up first."""
        if not owned or part == self.part:
            return
        words = self.writer.words
        if part.shift[2] != self.part.shift[2] and not self.away:
            self.writer.say("G53 G0", words.length("Z", self.writer.card.home[2]))
            words.forget("Z")
        self.part = part

    def come(self, stage: Stage, *, fresh: bool) -> None:
        writer, words = self.writer, self.writer.words
        writer.state()
        if fresh:
            writer.say(writer.dialect.words(writer.dialect.tool_call, tool=stage.tool.station))
            writer.tool = stage.tool
            if writer.dialect.tool_ahead and writer.following:
                writer.say(f"T{writer.following}")
        writer.spindle(stage.spin.n)
        x, y, z = self.voice.begins(stage)
        # over the next part at the height that is clear of both
        writer.say(self.part.code, words.motion("G0"), words.plane(x, y))
        length = writer.dialect.words(writer.dialect.length_on, tool=stage.tool.station)
        writer.say(length, words.modal(words.length("Z", z), "Z"))
        writer.coolant(on=True)
        self.away = self.parked = False

    def away_for(self, between: Between) -> None:
        """Over everything, the spindle standing; to the tool change also home in X and Y."""
        if not self.away or (between.what == "park" and not self.parked):
            self._retreat(home=between.what == "park")

    def _retreat(self, *, home: bool) -> None:
        """Coolant and spindle off, Z to the top, then home in X and Y where wanted: Z first, always."""
        writer, words = self.writer, self.writer.words
        writer.coolant(on=False)
        writer.say("M5")
        hx, hy, hz = writer.card.home
        writer.say("G53 G0", words.length("Z", hz))
        if home:
            writer.say("G53 G0", words.length("X", hx), words.length("Y", hy))
        self.away, self.parked = True, home
        words.forget()

    def grip(self, transfer: Transfer) -> None:
        raise TypeError("A mill has no second chuck.")

    def hand_over(self, held: PlannedHolding) -> tuple[str, str]:
        raise TypeError("On a mill every holding has a program of its own.")

    def off_the_work(self) -> None:
        """No table has parts one behind the other."""

    def end(self) -> None:
        if self.writer.tool is not None and not self.parked:
            self._retreat(home=True)
        self.writer.say(self.writer.dialect.end)
        self.writer.write_subprograms()
        self.writer.last_line()
