"""The voice of flat planes: X, Y and Z, arcs in G17, canned cycles, and subprograms for what comes more than once."""

from __future__ import annotations

import math
from collections import Counter
from functools import singledispatchmethod

from msgspec.structs import replace

from bastler.job import PlannedHolding
from bastler.motion import Bend, Bow, Cut, Cycle, Go, Move, Pause, bites, long_hand
from bastler.motion.placed import placed_moves
from bastler.post.arcs import along_bow
from bastler.post.writer import Writer, in_order
from bastler.shapes.placing import shifted_by
from bastler.steps import Stage

FEWEST_MOVES = 10
"""Stages with fewer moves are no shorter as a subprogram."""
CHORD = 0.01
"""How far, in mm, a chord may leave an arc that the control cannot do, as older ones cannot do a helix."""


class FlatVoice:
    """Says moves in the plane of the table."""

    def __init__(self, writer: Writer) -> None:
        held = writer.held
        self.writer, self.words, self.dialect = writer, writer.words, writer.dialect
        self.mm = held.ctx.mm(1.0)
        self.z = held.flat.safe
        self.at = (0.0, 0.0)
        """Where the last move ended, unrounded."""
        self.bending = ""
        """What compensation does with the next straight cut."""
        self.numbers: dict[tuple[Move, ...], int] = {}
        self.often = _often(held) if len(held.parts) > 1 else set()
        """Moves that come more than once, on all parts."""

    # -- stages -------------------------------------------------------------------------------------------------

    def begins(self, stage: Stage) -> tuple[float, float, float]:
        """Where a stage is come to: of copies the first."""
        (x, y, z), (u, v) = stage.start, (stage.copies or ((0.0, 0.0),))[0]
        return x + u, y + v, z

    @property
    def carried(self) -> tuple[str, float, tuple[float, float]]:
        """Compensation that waits for its move, and where the last one ended."""
        return self.bending, self.z, self.at

    def carry(self, carried: tuple[str, float, tuple[float, float]]) -> None:
        self.bending, self.z, self.at = carried

    def stage(self, stage: Stage) -> None:
        x, y, self.z = self.begins(stage)
        self.at = (x, y)
        if stage.copies:
            self._copies(stage)
        elif stage.moves in self.often and self._worth_calling(stage):
            self._call(stage)
        else:
            for move in stage.moves:
                self.move(move)

    def _worth_calling(self, stage: Stage) -> bool:
        """Is it shorter as a subprogram?"""
        return self.dialect.subprograms and len(stage.moves) >= FEWEST_MOVES

    def _copies(self, stage: Stage) -> None:
        """The stage at every one of its places: a subprogram under a local shift, or written out."""
        x, y, z = stage.start
        for k, (u, v) in enumerate(stage.copies):
            if self._worth_calling(stage):
                self.writer.say("G52", self.words.length("X", u), self.words.length("Y", v))
                self.words.forget("X", "Y")
                self._call(stage)
                continue
            to = shifted_by(u, v)
            if k:
                self.move(Go(*to.at(x, y), z))
            for move in placed_moves(stage.moves, to):
                self.move(move)
        if self._worth_calling(stage):
            self.writer.say("G52", self.words.length("X", 0.0), self.words.length("Y", 0.0))
            self.words.forget()

    def _call(self, stage: Stage) -> None:
        """Calls the stage's moves; they are written behind the end of the program once."""
        number = self.numbers.get(stage.moves)
        if number is None:
            number = self.numbers[stage.moves] = (self.writer.held.number + len(self.numbers)) % 9999 + 1
            self._write_sub(number, stage)
        self.writer.call(number)
        self.z, self.at = stage.start[2], stage.start[:2]

    def _write_sub(self, number: int, stage: Stage) -> None:
        """The moves as a subprogram."""
        x, y, z = stage.start
        with self.writer.subprogram(number):
            self.writer.say(self.words.motion("G0"), self.words.axes(x, y, z))
            self.z, self.at = z, (x, y)
            for move in stage.moves:
                self.move(move)

    # -- moves --------------------------------------------------------------------------------------------------

    @singledispatchmethod
    def move(self, move: Move) -> None:
        raise TypeError(f"There is no way to write a {type(move).__name__} on a flat plane.")

    @move.register
    def _(self, move: Go) -> None:
        axes = self.words.axes(move.u, move.v, move.w)
        if axes:
            self.writer.say(self.words.motion("G0"), axes)
        self.z, self.at = move.w, (move.u, move.v)

    @move.register
    def _(self, move: Cut) -> None:
        axes = self.words.axes(move.u, move.v, move.w)
        if axes:
            self.writer.say(self.bending, self.words.motion("G1"), axes, self.words.feed(move.feed))
            self.bending = ""
        self.z, self.at = move.w, (move.u, move.v)

    @move.register
    def _(self, move: Bend) -> None:
        assert self.writer.tool is not None
        code = {"left": "G41", "right": "G42", "off": "G40"}[move.side]
        self.bending = code if move.side == "off" else f"{code} D{self.writer.tool.station}"

    @move.register
    def _(self, move: Bow) -> None:
        if not self.dialect.helical and abs(move.w - self.z) > 1e-9:
            self._chords(move)
            return
        words = self.words
        start = words.place("XY")
        whole = math.dist((move.u, move.v), self.at) < 1e-6 * self.mm
        self.at = (move.u, move.v)
        if not whole and start == (words.rounded(move.u), words.rounded(move.v)):
            self.move(Cut(move.u, move.v, move.w, move.feed))  # so short that it would be read as a whole turn
            return
        code = words.motion("G3" if move.ccw else "G2")
        axes = words.axes(move.u, move.v, move.w)
        i, j = words.rounded(move.cu) - start[0], words.rounded(move.cv) - start[1]
        self.writer.say(code, axes, words.length("I", i), words.length("J", j), words.feed(move.feed))
        self.z = move.w

    def _chords(self, bow: Bow) -> None:
        """A helix as short straight moves, for controls whose arcs stay in the plane."""
        x0, y0 = self.words.place("XY")
        for u, v, w in list(along_bow((x0, y0, self.z), bow, CHORD * self.mm)):
            self.move(Cut(u, v, w, bow.feed))

    @move.register
    def _(self, move: Pause) -> None:
        self.writer.pause(move.seconds)

    @move.register
    def _(self, cycle: Cycle) -> None:
        code = self._canned(cycle)
        if not code:
            for move in long_hand(cycle, self.z):
                self.move(move)
            return
        if cycle.pitch > 0 and cycle.peck > 0:
            self._tapped_in_steps(cycle)
            return
        words = self.words
        (x, y), *others = cycle.points
        extra = [words.length("Z", cycle.z), words.length("R", cycle.r)]
        if cycle.peck > 0:
            extra.append("Q" + words.counted(cycle.peck, self.dialect.peck_unit))
        if code in ("G82", "G89") or (code == "G86" and cycle.dwell > 0):
            extra.append("P" + words.dwell(cycle.dwell))
        start = " ".join((words.length("X", x), words.length("Y", y)))
        self.writer.say("G99" if cycle.back <= cycle.r else "G98", code, start, *extra, words.feed(cycle.feed))
        words.last |= {"X": words.length("X", x), "Y": words.length("Y", y)}
        self.at = cycle.points[-1]
        for x, y in others:
            self.writer.say(words.plane(x, y))
        self.writer.say("G80")
        words.forget("G", "Z")
        self.z = cycle.back

    def _tapped_in_steps(self, cycle: Cycle) -> None:
        """The control's own cycle again and again, each time deeper: out of the hole between them."""
        for x, y in cycle.points:
            for level in bites(cycle):
                self.move(replace(cycle, points=((x, y),), z=level, peck=0.0, back=cycle.r))
            self.move(Go(x, y, cycle.back))

    def _canned(self, cycle: Cycle) -> str:
        """The canned cycle that does exactly this, if the machine has it."""
        if cycle.pitch > 0:
            return "G84"  # a step plans no tapping for a machine that has no cycle for it
        if cycle.stopped:
            return "G86"  # nor any that stops the spindle in the hole
        if cycle.slow:
            code, plain = ("G89" if cycle.dwell > 0 else "G85"), True
        elif cycle.peck > 0:
            code = "G83" if cycle.full else "G73"
            plain = cycle.shrink >= 1.0 and cycle.dwell == 0.0
        else:
            code, plain = ("G82" if cycle.dwell > 0 else "G81"), True
        return code if plain and code in self.dialect.cycles else ""


def _often(held: PlannedHolding) -> set[tuple[Move, ...]]:
    counted = Counter(stage.moves for _, _, _, stage in in_order(held) if isinstance(stage, Stage))
    return {moves for moves, count in counted.items() if count > 1}
