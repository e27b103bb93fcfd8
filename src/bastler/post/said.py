"""What was said before. A stage that is the same, come to with the same words in force, is said in the same lines: an edit of one
step writes that step anew, and of the others what an edit may have changed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from bastler.machines import MachineCard
from bastler.post.words import Words
from bastler.steps import Stage


class Speaker(Protocol):
    """Says stages, and brings something along from one to the next."""

    @property
    def carried(self) -> Any:
        """What it brings along."""

    def carry(self, carried: Any) -> None:
        """Goes on with what it had at the end of a stage."""

    def stage(self, stage: Stage) -> None:
        """All moves of a stage; the tool stands at its start."""


class Desk(Protocol):
    """A writer as far as this goes."""

    card: MachineCard
    words: Words
    lines: list[str]
    number: int


@dataclass(frozen=True)
class _Lines:
    """The lines of a stage, which it is of, what is in force behind it and what the voice carries on, and how far line numbers
    went on."""

    stage: Stage
    card: MachineCard
    lines: tuple[str, ...]
    last: dict[str, str]
    carried: Any
    number: int


@dataclass(frozen=True)
class _Joint:
    """Two stages, kept so that nothing else has their number, and both as they are joined."""

    before: Stage
    after: Stage
    joined: tuple[Stage, Stage]


class Said:
    """The lines of the stages of one program, for the next."""

    def __init__(self) -> None:
        self._known: dict[tuple[Any, ...], _Lines] = {}
        self._used: dict[tuple[Any, ...], _Lines] = {}

        self._joints: dict[tuple[int, int], _Joint] = {}
        self._joints_used: dict[tuple[int, int], _Joint] = {}

    def begin(self) -> None:
        """Another program. What the last one had no use for is forgotten."""
        self._known, self._used = self._used, {}
        self._joints, self._joints_used = self._joints_used, {}

    def joint(self, before: Stage, after: Stage, join: Callable[[Stage, Stage], tuple[Stage, Stage]]) -> tuple[Stage, Stage]:
        """Two stages as they are joined, the same ones as the last time where they are the same."""
        key = id(before), id(after)
        found = self._joints.get(key) or _Joint(before, after, join(before, after))
        self._joints_used[key] = found
        return found.joined

    def stage(self, writer: Desk, voice: Speaker, stage: Stage) -> None:
        """Says a stage, anew where it has to be."""
        words = writer.words
        key = (id(stage), id(writer.card), words.unit, writer.number, voice.carried, *sorted(words.last.items()))
        found = self._known.get(key)
        if found is None:
            first, number = len(writer.lines), writer.number
            voice.stage(stage)
            lines = tuple(writer.lines[first:])
            # with the stage and the card themselves: as long as they are kept nothing else has their number
            found = _Lines(stage, writer.card, lines, dict(words.last), voice.carried, writer.number - number)
        else:
            writer.lines += found.lines
            words.last = dict(found.last)
            writer.number += found.number
            voice.carry(found.carried)
        self._used[key] = found
