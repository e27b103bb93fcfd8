"""What the head of a program says of its tools once it has been run: how low each goes, and how long it works. Remarks and
nothing else: a control does the same with them or without."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence

import msgspec

from bastler.job import PlannedHolding
from bastler.job.grouping import stages_in_order
from bastler.machines import MachineCard
from bastler.post.program import Program
from bastler.post.words import Words
from bastler.steps import Stage
from bastler.tools import AnyTool

_FIGURES = re.compile(r", lowest Z-?[\d.]+, [\d.]+ min(?=\)?$)", re.IGNORECASE)


class Figures(msgspec.Struct, frozen=True):
    """Of a tool: the `lowest` Z at which it feeds, as seen from part zero, and its `seconds`, both ways included."""

    lowest: float
    seconds: float


def machine_line(words: Words, card: MachineCard, when: str = "") -> str:
    """What the head says of the machine and of the unit, and `when` it has left."""
    return words.comment(f"for {card.name}, {words.unit}", f", made {when}" if when else "")


def tools_of(holdings: Sequence[PlannedHolding]) -> list[AnyTool]:
    """The tools that a program of some holdings calls, each once, by station."""
    every = (stage for held in holdings for _, _, stage in stages_in_order(held))
    found = {stage.tool.station: stage.tool for stage in every if isinstance(stage, Stage)}
    return [found[station] for station in sorted(found)]


def tool_line(words: Words, tool: AnyTool, figures: Figures | None = None) -> str:
    """What the head says of a tool, with its figures where they are known. A long name is cut, never a figure."""
    name = f"T{tool.station} {tool.name}"
    if figures is None:
        return words.comment(name)
    return words.comment(name, f", lowest Z{words.number(figures.lowest, words.places)}, {figures.seconds / 60.0:.1f} min")


def headed(program: Program, holdings: Sequence[PlannedHolding], figures: Mapping[int, Figures]) -> Program:
    """The program of some holdings with the figures of its tools, by their number, in its head. A line of it that has been
    changed by hand stays as it is."""
    first = holdings[0]
    words = Words(first.ctx.card.dialect, first.job.unit)
    tools = {tool.station: tool for tool in tools_of(holdings)}
    said = {tool_line(words, t): tool_line(words, t, figures[n]) for n, t in tools.items() if n in figures}
    last = program.sections[0].last if program.sections else 0
    by_hand = program.by_hand
    head = [line if k in by_hand else said.get(line, line) for k, line in enumerate(program.lines[:last])]
    return msgspec.structs.replace(program, lines=(*head, *program.lines[last:]))


def without_figures(line: str) -> str:
    """A line of the head without the figures of its tool."""
    return _FIGURES.sub("", line)
