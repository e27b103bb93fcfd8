"""What all writers of programs share. What differs between machines is in the dialect's data, never in an `if machine`."""

from __future__ import annotations

from typing import Any

from bastler.job import PlannedHolding
from bastler.machines import MachineCard
from bastler.post.program import Program, Section
from bastler.post.words import Words
from bastler.steps import Between
from bastler.units import number_text
from bastler.units.kinds import Kind


def cutting_stages(held: PlannedHolding) -> list[Any]:
    """The stages that have a tool."""
    return [stage for planned in held.steps for stage in planned.stages if not isinstance(stage, Between)]


class Writer:
    """Gathers the lines of a program, with the step and stage of each."""

    def __init__(self, held: PlannedHolding) -> None:
        self.held = held
        self.card: MachineCard = held.ctx.card
        self.dialect = self.card.dialect
        self.words = Words(self.dialect, held.job.unit)
        self.lines: list[str] = []
        self.sections: list[Section] = []
        self.number = 0
        self.tool: Any = None

    def close_section(self, step: str, stage: str) -> None:
        """The lines since the last section belong to a step's stage; both empty for what frames the program."""
        first = self.sections[-1].last if self.sections else 0
        self.sections.append(Section(first, len(self.lines), step, stage))

    def say(self, *words: str) -> None:
        """One block of the given words; nothing when all are empty."""
        block = " ".join(word for word in words if word)
        if not block:
            return
        if self.dialect.line_numbers:
            self.number += self.dialect.line_step
            block = f"N{self.number} {block}"
        self.lines.append(block)

    def remark(self, text: str) -> None:
        """A comment on a line of its own."""
        self.lines.append(self.words.comment(text))

    def header(self, stock: str, zero: str) -> None:
        """Number, name, machine, stock, zero, tools, unit, and the words that make a safe start."""
        job = self.held.job
        if self.dialect.tape_marks:
            self.lines.append("%")
        self.lines.append(
            self.dialect.words(self.dialect.program_word, number=self.held.number) + " " + self.words.comment(job.name)
        )
        self.remark(f"for {self.card.name}, {job.unit}")
        if len(job.holdings) > 1:
            self.remark(f"holding {self.held.place + 1} of {len(job.holdings)}, {self.held.holding.title.lower()}")
        self.remark(f"stock {stock}, {job.material.name}")
        self.remark(f"zero {zero}, {self.held.holding.work_offset}")
        used = {stage.tool.station: stage.tool for stage in cutting_stages(self.held)}
        for station in sorted(used):
            self.remark(f"T{station} {used[station].name}")
        self.say("G21" if job.unit == "mm" else "G20")
        self.say(self.dialect.safe_start)

    def between(self, between: Between, title: str) -> None:
        """A stop, a wait, the way to the tool change, lines by hand. But for a wait nothing is near the work behind it."""
        self.remark(f"{title} - {between.text}" if between.text else title)
        if between.what == "wait":
            self.pause(between.seconds)
            return
        if between.what == "code":
            self.lines.extend(between.lines)
            self.say(self.dialect.safe_start)
            self.words.forget()
        self.away_for(between)
        if between.what in ("stop", "optional"):
            self.say("M0" if between.what == "stop" else "M1")

    def away_for(self, between: Between) -> None:
        """Off the work, for something between two stages."""
        raise NotImplementedError

    def pause(self, seconds: float) -> None:
        """A dwell, in the dialect's unit."""
        self.say("G4", "P" + self.words.number(self.dialect.dwell_words(seconds), 3))

    def coolant_on(self) -> None:
        """As the stock says, where the machine has any."""
        if self._wet:
            self.say("M7" if self.held.stock.coolant == "mist" else "M8")

    def coolant_off(self) -> None:
        if self._wet:
            self.say("M9")

    @property
    def _wet(self) -> bool:
        return self.card.coolant and self.held.stock.coolant != "dry"

    def shown(self, length: float) -> str:
        """A length as said in a comment."""
        return number_text(length, Kind.LENGTH, self.held.job.unit)

    def program(self) -> Program:
        return Program(tuple(self.lines), tuple(self.sections))
