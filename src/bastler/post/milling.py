"""Milling programs."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from collections.abc import Iterator
from functools import singledispatchmethod

from msgspec.structs import replace

from bastler.job import PlannedHolding, PlannedStep
from bastler.job.parts import EXTENDED, PartAt
from bastler.motion import Bend, Bow, Cut, Cycle, Go, Move, Pause, bites, long_hand
from bastler.motion.placed import placed_moves
from bastler.post.program import Program
from bastler.post.writer import Writer
from bastler.shapes.placing import shifted_by
from bastler.steps import Between, Stage
from bastler.tools import Tool

FEWEST_MOVES = 10
"""Stages with fewer moves are no shorter as a subprogram."""
CHORD = 0.002
"""How far, in mm, a chord may leave an arc that the control cannot do, as older ones cannot do a helix."""


class MillWriter(Writer):
    """Writes the stages of a milled part."""

    def __init__(self, held: PlannedHolding) -> None:
        super().__init__(held)
        self.z = held.ctx.safe
        self.at = (0.0, 0.0)
        """Where the last move ended, unrounded."""
        self.away = self.parked = False
        """Has the spindle stopped over everything, and is it home in X and Y too?"""
        self.numbers: dict[tuple[Move, ...], int] = {}
        self.subs: list[tuple[list[str], str, str]] = []
        self.owner = ("", "")
        self.often = {moves for moves, count in _counted(held).items() if count > 1} if len(held.parts) > 1 else set()
        """Moves that come more than once."""
        self.part = held.parts[0]
        self.moved = False
        """Is the work offset another one than the last move was under?"""
        self.bending = ""
        """What compensation does with the next straight cut."""

    def write(self) -> Program:
        size = " x ".join(self.shown(v) for v in self.held.ctx.stock.size)
        self.header(size, f"{self.held.holding.zero}, finished {self.held.holding.zero_z}")
        if self.held.holding.write_offsets == "yes":
            self._offsets()
        owner = self.owner
        for part, k, planned, stage in in_order(self.held):
            if isinstance(stage, Between):
                self.close_section(*owner)
                owner = self.owner = (planned.step.id, stage.name)
                self._to_part(part, owned=stage.what == "code")
                self.between(stage, f"{k} {planned.step.title}")
                continue
            fresh = self.tool is None or self.tool.id != stage.tool.id
            if fresh and self.tool is not None and not self.away:
                self._retreat(home=self.held.holding.tool_change == "home")
            self.close_section(*owner)
            owner = self.owner = (planned.step.id, stage.name)
            here = f", {part.code}" if len(self.held.parts) > 1 else ""
            self._to_part(part, owned=True)
            self._stage(stage, f"{k} {planned.step.title} - {stage.name}{here}", fresh)
        self.close_section(*owner)
        self._end()
        self.close_section("", "")
        return self.program()

    def _stage(self, stage: Stage, title: str, fresh: bool) -> None:
        self.remark(title)
        if fresh:
            self._change_tool(stage.tool)
        self.say(self.words.modal(f"S{self.words.number(stage.speed, 0)}", "S"), self.words.modal("M3", "spindle"))
        (x, y, z), (u, v) = stage.start, (stage.copies or ((0.0, 0.0),))[0]
        x, y = x + u, y + v
        if fresh or self.away:
            self.say(self.part.code, self.words.motion("G0"), self.words.plane(x, y))
            self.moved = False
            length = self.dialect.words(self.dialect.length_on, tool=stage.tool.station)
            self.words.forget("Z")
            self.say(length, self.words.modal(self.words.length("Z", z), "Z"))
            self.coolant_on()
        elif self.moved:  # over the next part at the height that is clear of both
            self.say(self.part.code, self.words.motion("G0"), self.words.plane(x, y))
            self.words.forget("Z")
            self.say(self.words.motion("G0"), self.words.length("Z", z))
            self.words.last["Z"] = self.words.length("Z", z)
            self.moved = False
        else:
            self.say(self.words.motion("G0"), self.words.axes(x, y, z))
        self.away = self.parked = False
        self.z, self.at = z, (x, y)
        if stage.copies:
            self._copies(stage)
        elif len(self.held.parts) > 1 and self._worth_calling(stage):
            self._call(stage)
        else:
            for move in stage.moves:
                self.move(move)

    def _worth_calling(self, stage: Stage) -> bool:
        """Is it shorter as a subprogram? Stages that differ from part to part are not."""
        return self.dialect.subprograms and len(stage.moves) >= FEWEST_MOVES and stage.moves in self.often

    def _copies(self, stage: Stage) -> None:
        """The stage at every one of its places: a subprogram under a local shift, or written out."""
        x, y, z = stage.start
        for k, (u, v) in enumerate(stage.copies):
            if self.dialect.subprograms and len(stage.moves) >= FEWEST_MOVES:
                self.say("G52", self.words.length("X", u), self.words.length("Y", v))
                self.words.forget("X", "Y")
                self._call(stage)
                continue
            to = shifted_by(u, v)
            if k:
                self.move(Go(*to.at(x, y), z))
            for move in placed_moves(stage.moves, to):
                self.move(move)
        if self.dialect.subprograms and len(stage.moves) >= FEWEST_MOVES:
            self.say("G52", self.words.length("X", 0.0), self.words.length("Y", 0.0))
            self.words.forget()

    def _call(self, stage: Stage) -> None:
        """Calls the stage's moves; they are written behind the end of the program once."""
        number = self.numbers.get(stage.moves)
        if number is None:
            number = self.numbers[stage.moves] = self._next_number()
            self._write_sub(number, stage)
        self.say(f"M98 P{number}")
        self.words.forget()
        self.z, self.at = stage.start[2], stage.start[:2]

    def _next_number(self) -> int:
        return (self.held.number + len(self.numbers)) % 9999 + 1

    def _write_sub(self, number: int, stage: Stage) -> None:
        """The moves as a subprogram: it says every word anew, as it is called from many places."""
        main, self.lines = self.lines, []
        x, y, z = stage.start
        self.lines.append(self.dialect.words(self.dialect.program_word, number=number))
        self.words.forget()
        self.say(self.words.motion("G0"), self.words.axes(x, y, z))
        self.z, self.at = z, (x, y)
        for move in stage.moves:
            self.move(move)
        self.say("M99")
        self.subs.append((self.lines, *self.owner))
        self.lines = main

    def _to_part(self, part: PartAt, *, owned: bool) -> None:
        """The next stage is of that part. Where parts lie at different heights the spindle goes all the way up first."""
        if not owned or part == self.part:
            return
        if part.shift[2] != self.part.shift[2] and not self.away:
            self.say("G53 G0", self.words.length("Z", self.card.home[2]))
            self.words.forget("Z")
        self.part, self.moved = part, True
        self.words.forget("X", "Y")

    def _offsets(self) -> None:
        """The offsets of all parts, from machine zero."""
        holding = self.held.holding
        zero = (holding.offset_x or 0.0, holding.offset_y or 0.0, holding.offset_z or 0.0)
        for part in self.held.parts:
            x, y, z = (a + b for a, b in zip(zero, part.shift, strict=True))
            if part.index <= EXTENDED:
                place = " ".join(self.words.length(axis, v) for axis, v in zip("XYZ", (x, y, z), strict=True))
                self.say(f"G10 L2 P{part.index}", place)

    def away_for(self, between: Between) -> None:
        """Over everything, the spindle standing; to the tool change also home in X and Y."""
        if not self.away or (between.what == "park" and not self.parked):
            self._retreat(home=between.what == "park")

    def _change_tool(self, tool: Tool) -> None:
        self.say(self.dialect.words(self.dialect.tool_call, tool=tool.station))
        self.tool = tool
        self.words.forget()

    def _retreat(self, *, home: bool) -> None:
        """Coolant and spindle off, Z to the top, then home in X and Y where wanted: Z first, always."""
        self.coolant_off()
        self.say("M5")
        hx, hy, hz = self.card.home
        self.say("G53 G0", self.words.length("Z", hz))
        if home:
            self.say("G53 G0", self.words.length("X", hx), self.words.length("Y", hy))
        self.away, self.parked = True, home
        self.words.forget()

    def _end(self) -> None:
        if self.tool is not None and not self.parked:
            self._retreat(home=True)
        self.say(self.dialect.end)
        self.close_section("", "")
        for lines, step, name in self.subs:
            self.lines += lines
            self.close_section(step, name)
        if self.dialect.tape_marks:
            self.lines.append("%")

    @singledispatchmethod
    def move(self, move: Move) -> None:
        raise TypeError(f"There is no way to write a {type(move).__name__}.")

    @move.register
    def _(self, move: Go) -> None:
        axes = self.words.axes(move.x, move.y, move.z)
        if axes:
            self.say(self.words.motion("G0"), axes)
        self.z, self.at = move.z, (move.x, move.y)

    @move.register
    def _(self, move: Cut) -> None:
        axes = self.words.axes(move.x, move.y, move.z)
        if axes:
            self.say(self.bending, self.words.motion("G1"), axes, self.words.feed(move.feed))
            self.bending = ""
        self.z, self.at = move.z, (move.x, move.y)

    @move.register
    def _(self, move: Bend) -> None:
        assert self.tool is not None
        code = {"left": "G41", "right": "G42", "off": "G40"}[move.side]
        self.bending = code if move.side == "off" else f"{code} D{self.tool.station}"

    @move.register
    def _(self, move: Bow) -> None:
        if not self.dialect.helical and abs(move.z - self.z) > 1e-9:
            self._chords(move)
            return
        words = self.words
        start = tuple(float(words.last.get(axis, axis + "0")[1:]) for axis in "XY")
        whole = math.dist((move.x, move.y), self.at) < self.held.ctx.mm(1e-6)
        self.at = (move.x, move.y)
        if not whole and start == (words.rounded(move.x), words.rounded(move.y)):
            self.move(Cut(move.x, move.y, move.z, move.feed))  # so short that it would be read as a whole turn
            return
        code = words.motion("G3" if move.ccw else "G2")
        axes = words.axes(move.x, move.y, move.z)
        i, j = words.rounded(move.cx) - start[0], words.rounded(move.cy) - start[1]
        self.say(code, axes, words.length("I", i), words.length("J", j), words.feed(move.feed))
        self.z = move.z

    def _chords(self, bow: Bow) -> None:
        """A helix as short straight moves, for controls whose arcs stay in the plane."""
        x0, y0, z0 = float(self.words.last["X"][1:]), float(self.words.last["Y"][1:]), self.z
        r, a0 = math.hypot(x0 - bow.cx, y0 - bow.cy), math.atan2(y0 - bow.cy, x0 - bow.cx)
        turn = (math.atan2(bow.y - bow.cy, bow.x - bow.cx) - a0) * (1 if bow.ccw else -1) % (2 * math.pi)
        turn = turn if turn > 1e-9 else 2 * math.pi
        chord = self.held.ctx.mm(CHORD)
        count = max(4, math.ceil(turn / (2 * math.acos(1 - min(chord / r, 1.0)))))
        for k in range(1, count + 1):
            a = a0 + turn * k / count * (1 if bow.ccw else -1)
            x, y = (bow.x, bow.y) if k == count else (bow.cx + r * math.cos(a), bow.cy + r * math.sin(a))
            self.move(Cut(x, y, z0 + (bow.z - z0) * k / count, bow.feed))

    @move.register
    def _(self, move: Pause) -> None:
        self.pause(move.seconds)

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
            extra.append("Q" + self._peck(cycle.peck))
        if code in ("G82", "G89") or (code == "G86" and cycle.dwell > 0):
            extra.append("P" + words.number(self.dialect.dwell_words(cycle.dwell), 3))
        start = " ".join((words.length("X", x), words.length("Y", y)))
        self.say("G99" if cycle.back <= cycle.r else "G98", code, start, *extra, words.feed(cycle.feed))
        words.last |= {"X": words.length("X", x), "Y": words.length("Y", y)}
        self.at = cycle.points[-1]
        for x, y in others:
            self.say(words.plane(x, y))
        self.say("G80")
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

    def _peck(self, peck: float) -> str:
        if self.dialect.peck_unit == "increment":
            return f"{round(peck / (0.001 if self.held.job.unit == 'mm' else 0.0001))}"
        return self.words.number(peck, self.words.places)


def in_order(held: PlannedHolding) -> Iterator[tuple[PartAt, int, PlannedStep, Stage | Between]]:
    """All stages as they are cut, each with its part and the number of its step. Part by part, or a tool at a time: then what
    one tool does without a break is done on every part before the next tool comes. What cuts nothing is done once, but for lines
    by hand."""
    every = [(k, planned, stage) for k, planned in enumerate(held.steps, held.first) for stage in planned.stages]
    if len(held.parts) == 1 or held.holding.part_order == "parts":
        yield from ((part, k, planned, _on(stage, at)) for at, part in enumerate(held.parts) for k, planned, stage in every)
        return
    for once, group in itertools.groupby(every, key=lambda entry: _kind_of(entry[2])):
        run = list(group)
        for at, part in enumerate(held.parts[: 1 if once.startswith("once ") else None]):
            yield from ((part, k, planned, _on(stage, at)) for k, planned, stage in run)


def _on(stage: Stage | Between, part: int) -> Stage | Between:
    """The stage as it is on a part, counted from 0."""
    return stage.each[part - 1] if isinstance(stage, Stage) and part and stage.each else stage


def _kind_of(stage: Stage | Between) -> str:
    """Stages that are done on a part together: of one tool, with the lines by hand between them."""
    if isinstance(stage, Stage):
        return f"tool {stage.tool.id}"
    return "lines" if stage.what == "code" else f"once {stage.name}"


def _counted(held: PlannedHolding) -> Counter[tuple[Move, ...]]:
    """How often a stage's moves are made, on all parts."""
    return Counter(stage.moves for _, _, _, stage in in_order(held) if isinstance(stage, Stage))
