"""What the voices of driven tools on a part in a chuck have in common: they share where C stands, and say each kind of move in a
way of their own."""

from __future__ import annotations

import math
from abc import ABC, abstractmethod

from msgspec.structs import replace

from bastler.motion import Bow, Cut, Cycle, Go, Move, Pause, bites, long_hand
from bastler.post.indexing import Indexing
from bastler.post.writer import Writer
from bastler.steps import Stage

Point = tuple[float, float, float]


class DrivenVoice(ABC):
    """Says moves on a plane of a part in a chuck."""

    on = ""
    """Where that is, in words."""

    def __init__(self, writer: Writer, c: Indexing) -> None:
        self.writer, self.words, self.dialect, self.c = writer, writer.words, writer.dialect, c
        self.card, self.mm = writer.card, writer.held.ctx.mm(1.0)
        self.across = 2.0 if self.dialect.diameter_x else 1.0
        self.at: Point = (0.0, 0.0, 0.0)
        """Where the last move ended, on the part."""

    @property
    def carried(self) -> tuple[float, bool]:
        return self.c.state

    def carry(self, carried: tuple[float, bool]) -> None:
        self.c.restore(carried)

    def move(self, move: Move) -> None:
        """One move."""
        if isinstance(move, Go):
            self._go(move)
        elif isinstance(move, Cut):
            self._cut(move)
        elif isinstance(move, Bow):
            self._bow(move)
        elif isinstance(move, Pause):
            self.writer.pause(move.seconds)
        elif isinstance(move, Cycle):
            self._cycle(move)
        else:
            raise TypeError(f"There is no way to write a {type(move).__name__} on {self.on}.")

    def _say(self, code: str, word: str) -> None:
        if word:
            self.writer.say(self.words.motion(code), word)

    def _only_in_chords(self, bow: Bow) -> bool:
        """Is an arc a helix that the control cannot do?"""
        return not self.dialect.helical and abs(bow.w - self.at[2]) > 1e-9 * self.mm

    def _goes_whole(self, bow: Bow) -> bool:
        """Is an arc a whole turn?"""
        return math.dist((bow.u, bow.v), self.at[:2]) < 1e-6 * self.mm

    def _cycle(self, cycle: Cycle) -> None:
        """Drilling in long hand; threads by the control's own tapping, so that they stay in step."""
        if not cycle.pitch:
            for move in long_hand(cycle, self.at[2]):
                self.move(move)
            return
        levels = list(bites(cycle)) if cycle.peck > 0 else [cycle.z]
        for u, v in cycle.points:
            self._go(Go(u, v, max(self.at[2], cycle.r)))
            for level in levels:
                self._tapped(replace(cycle, z=level))
            self._go(Go(u, v, cycle.back))

    @abstractmethod
    def _go(self, move: Go) -> None: ...

    @abstractmethod
    def _cut(self, move: Cut) -> None: ...

    @abstractmethod
    def _bow(self, bow: Bow) -> None: ...

    @abstractmethod
    def _tapped(self, cycle: Cycle) -> None: ...


def only_plunges(stage: Stage) -> bool:
    """Does a tool only go up and down while it feeds?"""
    at = stage.start[:2]
    for move in stage.moves:
        if isinstance(move, Bow) or (isinstance(move, Cut) and at != (move.u, move.v)):
            return False
        if isinstance(move, Go):
            at = (move.u, move.v)
        elif isinstance(move, Cycle):
            at = move.points[-1]
    return True
