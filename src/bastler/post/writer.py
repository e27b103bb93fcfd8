"""The writer of programs. How dialects differ is data; how machines differ is their bench, how planes differ is their voice.

A *bench* takes up tools, comes to a stage and goes out of the way: a spindle over a table, or a turret beside a chuck. A *voice*
says the moves of one kind of plane. There is never an `if machine`.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Protocol

from bastler.job import PlannedHolding, PlannedStep
from bastler.job.grouping import stages_in_order
from bastler.job.parts import PartAt
from bastler.machines import MachineCard
from bastler.motion import Move
from bastler.post.headed import machine_line, tool_line, tools_of
from bastler.post.joined import Ordered, joined
from bastler.post.outlines import shared
from bastler.post.program import Program, Section
from bastler.post.said import Said, Speaker
from bastler.post.words import Words
from bastler.steps import Between, NextPart, Stage, Transfer
from bastler.steps.base import SaidAs
from bastler.tools import AnyTool
from bastler.units import plain_number
from bastler.units.kinds import Kind

MODE = re.compile(r"G(?:1[789]|2[01]|40|6[14]|80|9[014578]|99)(?:\.1)?")
"""Words that only say how others are meant: planes, units, compensation off, cycles off, distances, kinds of feed."""

LABELS = 5000
"""Behind this number lines are counted that a cycle is told of: stages have the ones before."""


class Bench(Protocol):
    """How a machine takes up tools, comes to a stage and goes out of the way."""

    def begin(self) -> None:
        """What the head of the program says of stock and zero, and what comes before the first stage."""

    def put_away(self) -> None:
        """To where tools change, before another one is called."""

    def to_part(self, part: PartAt, *, owned: bool) -> None:
        """The next stage is of that part; `owned` when it cuts or may cut."""

    def come(self, stage: Stage, *, fresh: bool) -> None:
        """Takes up the tool of a stage where it is another one, turns the spindle, and goes to the stage's start."""

    def away_for(self, between: Between) -> None:
        """Off the work, for something between two stages."""

    def grip(self, transfer: Transfer) -> None:
        """The second chuck takes hold of the work."""

    def hand_over(self, held: PlannedHolding) -> tuple[str, str]:
        """Goes on with the holding to which the part was handed over; gives step and stage of the lines that do it."""

    def off_the_work(self) -> None:
        """Tools to where they change, behind all stages of a part."""

    def end(self) -> None:
        """The end of the program and what stands behind it."""


class Voice(Speaker, Protocol):
    """How a dialect says what one kind of plane is worked with."""

    def move(self, move: Move) -> None:
        """One move."""


class Writer:
    """Gathers the lines of a program, with the step and stage of each."""

    def __init__(self, holdings: Sequence[PlannedHolding]) -> None:
        self.holdings = tuple(holdings)
        self.held = held = holdings[0]
        """The holding that the lines are of."""
        self.card: MachineCard = held.ctx.card
        self.dialect = self.card.dialect
        self.words = Words(self.dialect, held.job.unit)
        self.lines: list[str] = []
        self.sections: list[Section] = []
        self.owner = ("", "")
        """The step and the stage that the lines are of."""
        self.number = 0
        self.tool: AnyTool | None = None
        self.following = 0
        """The station of the next other tool; 0 where none follows."""
        self._begun = 0
        """How many stages have begun."""
        self._labels = LABELS
        self.outlines: dict[int, tuple[int, int]] = {}
        """The numbers of the first and the last line of each outline that is written for a cycle."""
        self._subs: list[tuple[list[str], str, str]] = []

    def write(self, bench: Bench, voices: Mapping[SaidAs, Voice], said: Said) -> Program:
        """The whole program, with the lines of stages that were `said` before."""
        said.begin()
        bench.begin()
        for held in self.holdings:
            if held is not self.held:
                self.close_section(*self.owner)
                self.owner = bench.hand_over(held)
                self.close_section(*self.owner)
                self.owner = ("", "")
            if held.from_bar is not None and self.dialect.subprograms and not held.begins[0]:
                return self._bar(held.from_bar, bench, voices, said)
            self._holding(bench, voices, said)
        self.close_section(*self.owner)
        bench.end()
        self.close_section("", "")
        return Program(tuple(self.lines), tuple(self.sections))

    def _bar(self, brings: PlannedStep, bench: Bench, voices: Mapping[SaidAs, Voice], said: Said) -> Program:
        """A whole bar: one part as a subprogram, the bar coming on behind it as another, and the calls of both."""
        part, on = ((self.held.number + k - 1) % 9999 + 1 for k in (1, 2))
        assert isinstance(brings.filled, NextPart)
        again = brings.filled.again
        self.remark(f"{again + 1} parts of one bar")
        self.call(on, again)
        self.call(part)
        self.say(self.dialect.end)
        self.close_section("", "")
        for number, own in ((part, False), (on, True)):
            self.lines.append(self.dialect.words(self.dialect.program_word, number=number))
            if own:
                self.call(part)
            self.close_section("", "")
            self.owner = ("", "")
            self._holding(bench, voices, said, [p for p in self.held.steps if (p is brings) == own])
            bench.off_the_work()
            self.close_section(*self.owner)
            self.say("M99")
        self.close_section("", "")
        self.write_subprograms()
        self.last_line()
        self.close_section("", "")
        return Program(tuple(self.lines), tuple(self.sections))

    def _holding(
        self,
        bench: Bench,
        voices: Mapping[SaidAs, Voice],
        said: Said,
        those: Sequence[PlannedStep] | None = None,
    ) -> None:
        """All stages of the holding that it is at, or those of some steps."""
        owner = self.owner
        several = len(self.held.parts) > 1
        order = shared(joined(in_order(self.held), said)) if self.held.job.plane == "turned" else list(in_order(self.held))
        order = [entry for entry in order if those is None or any(entry[2] is one for one in those)]
        for at, (part, k, planned, stage) in enumerate(order):
            title = f"{k} {planned.step.plain_title}"
            fresh = isinstance(stage, Stage) and (self.tool is None or self.tool.id != stage.tool.id)
            if fresh and self.tool is not None:
                bench.put_away()
                self._may_stop()
            self.following = _following(order, at)
            self.close_section(*owner)
            owner = self.owner = (planned.step.id, stage.name)
            bench.to_part(part, owned=isinstance(stage, Stage) or stage.what == "code")
            if isinstance(stage, Between):
                self._between(stage, title, bench)
                continue
            self.remark(f"{title} - {stage.name}{f', {part.code}' if several else ''}")
            bench.come(stage, fresh=fresh)
            if several or stage.copies:  # as a subprogram, whose number comes of all the others
                voices[stage.said_as].stage(stage)
            else:
                said.stage(self, voices[stage.said_as], stage)

    def _may_stop(self) -> None:
        """Before another tool, where the card wants that."""
        if self.dialect.tool_stops:
            self.say(self.words.modal("M5", "spindle"))
            self.say("M1")

    def state(self, plane: str = "", feed_mode: str = "") -> None:
        """Whatever was in force, what a stage needs is from here on: a place to begin at. Its tool, speed and place are said anew
        behind it. Of the card's first words only those come again that move nothing: a control may go where a length offset is
        cancelled."""
        self._begun += 1
        self.words.forget()
        modes = [word for word in self.dialect.safe_start.split() if MODE.fullmatch(word)]
        words = [plane, *(word for word in modes if not plane or word not in ("G17", "G18", "G19")), feed_mode]
        number = self.dialect.stage_numbers and not self.dialect.line_numbers
        self.say(f"N{self._begun}" if number else "", *words)

    def close_section(self, step: str, stage: str) -> None:
        """The lines since the last section belong to a step's stage; both empty for what frames the program."""
        first = self.sections[-1].last if self.sections else 0
        self.sections.append(Section(first, len(self.lines), step, stage))

    def say(self, *words: str, number: int = 0) -> None:
        """One block of the given words; nothing when all are empty. It has a `number` of its own where lines have none."""
        block = " ".join(word for word in words if word)
        if not block:
            return
        if self.dialect.line_numbers:
            self.number += self.dialect.line_step
            number = self.number
        self.lines.append(f"N{number} {block}" if number else block)

    def label(self, ahead: int) -> int:
        """A number for the line that comes after so many others."""
        if self.dialect.line_numbers:
            return self.number + self.dialect.line_step * (ahead + 1)
        self._labels += 1
        return self._labels

    def remark(self, text: str) -> None:
        """A comment on a line of its own."""
        self.lines.append(self.words.comment(text))

    def header(self, stock: str, zero: str, lies: Mapping[str, tuple[float, float]]) -> None:
        """Number, name, machine, stock, zero in words and where the stock `lies` from it, tools, unit, and the words that make a
        safe start."""
        job = self.held.job
        if self.dialect.tape_marks:
            self.lines.append("%")
        self.lines.append(
            self.dialect.words(self.dialect.program_word, number=self.held.number) + " " + self.words.comment(job.name)
        )
        self.lines.append(machine_line(self.words, self.card))
        if len(job.holdings) > len(self.holdings):
            self.remark(
                f"holding {self.held.place + 1} of {len(job.holdings)}, {self.held.holding.plainly_titled(self.card).lower()}"
            )
        self.remark(f"stock {stock}, {job.material.name}")
        self.remark(f"zero {zero}, {self.held.holding.work_offset}")
        self.remark("stock " + ", ".join(f"{axis}{self.shown(lo)} to {self.shown(hi)}" for axis, (lo, hi) in lies.items()))
        self.lines += [tool_line(self.words, tool) for tool in tools_of(self.holdings)]
        self.say("G21" if job.unit == "mm" else "G20")
        self.say(self.dialect.safe_start)

    def _between(self, between: Between, title: str, bench: Bench) -> None:
        """A stop, a wait, the way to the tool change, lines by hand. But for a wait nothing is near the work behind it."""
        self.remark(f"{title} - {between.text}" if between.text else title)
        if isinstance(between, Transfer):
            bench.grip(between)
            return
        if between.what == "wait":
            self.pause(between.seconds)
            return
        if between.what == "code":
            self.lines.extend(between.lines)
            self.say(self.dialect.safe_start)
            self.words.forget()
        bench.away_for(between)
        if between.what == "words":
            self.lines_of(between)
        if between.what in ("stop", "optional"):
            self.say("M0" if between.what == "stop" else "M1")

    def lines_of(self, between: Between) -> None:
        """Words of the card, one a block."""
        for line in between.lines:
            self.say(line)

    def pause(self, seconds: float) -> None:
        """A dwell, in the dialect's unit."""
        self.say("G4", "P" + self.words.dwell(seconds))

    def coolant(self, *, on: bool) -> None:
        """As the stock says, where the machine has any."""
        if self.card.coolant and self.holdings[0].stock.coolant != "dry":
            wet = "M7" if self.held.stock.coolant == "mist" else "M8"
            self.say(wet if on else "M9")

    def spindle(self, turns: float) -> None:
        """So many turns a minute, forward."""
        self.say(self.words.modal(f"S{self.words.whole(turns)}", "S"), self.words.modal("M3", "spindle"))

    @contextmanager
    def subprogram(self, number: int) -> Iterator[None]:
        """What is said meanwhile is a subprogram behind the end. It says every word anew, as it is called from many places."""
        main, self.lines = self.lines, [self.dialect.words(self.dialect.program_word, number=number)]
        self.words.forget()
        yield
        self.say("M99")
        self._subs.append((self.lines, *self.owner))
        self.lines = main

    def call(self, number: int, times: int = 1) -> None:
        """A subprogram is run, so many times; nothing is known of what was said last."""
        self.say(f"M98 P{number}", f"L{times}" if times > 1 else "")
        self.words.forget()

    def write_subprograms(self) -> None:
        """The subprograms so far, each with its step and stage."""
        if self._subs:
            self.close_section("", "")
        for lines, step, name in self._subs:
            self.lines += lines
            self.close_section(step, name)

    def last_line(self) -> None:
        """The mark behind everything, on machines that read tapes."""
        if self.dialect.tape_marks:
            self.lines.append("%")

    def shown(self, length: float) -> str:
        """A length as said in a comment."""
        return plain_number(length, Kind.LENGTH, self.held.job.unit)


def _following(order: Sequence[Ordered], at: int) -> int:
    """The station of the next tool that is another one; 0 where none follows."""
    here = order[at][3]
    later = (stage.tool for _, _, _, stage in order[at + 1 :] if isinstance(stage, Stage))
    return next((tool.station for tool in later if isinstance(here, Stage) and tool.id != here.tool.id), 0)


def cutting_stages(held: PlannedHolding) -> list[Stage]:
    """The stages of its program that have a tool."""
    return [stage for _, _, stage in stages_in_order(held) if isinstance(stage, Stage)]


def in_order(held: PlannedHolding) -> Iterator[Ordered]:
    """All stages as they are cut, each with its part and the number of its step. Part by part, or a tool at a time: then what
    one tool does without a break is done on every part before the next tool comes. What cuts nothing is done once, but for lines
    by hand."""
    every = stages_in_order(held)
    if len(held.parts) == 1 or held.vise.part_order == "parts":
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
