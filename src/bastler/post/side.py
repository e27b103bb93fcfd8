"""The voice of the side of a part in a chuck, worked with driven tools across the axis: C is turned to the side and clamped, and
X goes down to it.

Plans of the side lie with u along Z and v against Y, heights are radii: places and arcs are said in G19.
"""

from __future__ import annotations

import math

from msgspec.structs import replace

from bastler.motion import Bow, Cut, Cycle, Go, Move, Pause, bites, long_hand
from bastler.post.arcs import along_bow
from bastler.post.indexing import Indexing
from bastler.post.writer import Writer
from bastler.steps import Stage

CHORD = 0.002
"""How far, in mm, a chord may leave a helix that the control cannot do."""
Point = tuple[float, float, float]


class SideVoice:
    """Says moves on the side of a part."""

    def __init__(self, writer: Writer, c: Indexing) -> None:
        self.writer, self.words, self.dialect, self.c = writer, writer.words, writer.dialect, c
        self.mm = writer.held.ctx.mm(1.0)
        self.across = 2.0 if self.dialect.diameter_x else 1.0
        self.at: Point = (0.0, 0.0, 0.0)

    @property
    def carried(self) -> tuple[float, bool]:
        return self.c.state

    def carry(self, carried: tuple[float, bool]) -> None:
        self.c.restore(carried)

    @staticmethod
    def begins(stage: Stage) -> tuple[float, float]:
        """At which radius and where along the axis the tool comes to a stage."""
        u, _, w = stage.start
        return w, u

    def stage(self, stage: Stage) -> None:
        assert stage.side is not None
        self.at = stage.start
        self.c.turn(stage.side, clamp=True)
        self._say("G0", self._side(stage.start[1]))
        for move in stage.moves:
            self.move(move)
        self._say("G0", self._side(0.0))

    def _say(self, code: str, word: str) -> None:
        if word:
            self.writer.say(self.words.motion(code), word)

    def _side(self, v: float) -> str:
        """The word of Y that changes; empty where there is no Y, and nothing to be moved by it."""
        return self.words.modal(self.words.length("Y", -v), "Y") if self.writer.card.has_y else ""

    def _place(self, u: float, v: float, w: float) -> str:
        """The words of a place that change."""
        along = self.words.modal(self.words.length("Z", u), "Z")
        out = self.words.modal(self.words.length("X", self.across * w), "X")
        return " ".join(word for word in (out, self._side(v), along) if word)

    # -- moves --------------------------------------------------------------------------------------------------

    def move(self, move: Move) -> None:
        """One move."""
        if isinstance(move, Go):
            self._say("G0", self._place(move.u, move.v, move.w))
            self.at = (move.u, move.v, move.w)
        elif isinstance(move, Cut):
            self._cut(move)
        elif isinstance(move, Bow):
            self._bow(move)
        elif isinstance(move, Pause):
            self.writer.pause(move.seconds)
        elif isinstance(move, Cycle):
            self._cycle(move)
        else:
            raise TypeError(f"There is no way to write a {type(move).__name__} on the side of a part.")

    def _cut(self, move: Cut) -> None:
        place = self._place(move.u, move.v, move.w)
        if place:
            self.writer.say(self.words.motion("G1"), place, self.words.feed(move.feed))
        self.at = (move.u, move.v, move.w)

    def _bow(self, bow: Bow) -> None:
        words = self.words
        if not self.dialect.helical and abs(bow.w - self.at[2]) > 1e-9 * self.mm:
            for u, v, w in along_bow(self.at, bow, CHORD * self.mm):
                self._cut(Cut(u, v, w, bow.feed))
            return
        y0, z0 = words.place("YZ")
        whole = math.dist((bow.u, bow.v), self.at[:2]) < 1e-6 * self.mm
        if not whole and (y0, z0) == (words.rounded(-bow.v), words.rounded(bow.u)):
            self._cut(Cut(bow.u, bow.v, bow.w, bow.feed))  # so short that it would be read as a whole turn
            return
        code = words.motion("G3" if bow.ccw else "G2")
        place = self._place(bow.u, bow.v, bow.w)
        j, k = words.rounded(-bow.cv) - y0, words.rounded(bow.cu) - z0
        self.writer.say(code, place, words.length("J", j), words.length("K", k), words.feed(bow.feed))
        self.at = (bow.u, bow.v, bow.w)

    def _cycle(self, cycle: Cycle) -> None:
        if not cycle.pitch:
            for move in long_hand(cycle, self.at[2]):
                self.move(move)
            return
        levels = list(bites(cycle)) if cycle.peck > 0 else [cycle.z]
        for u, v in cycle.points:
            self.move(Go(u, v, max(self.at[2], cycle.r)))
            for level in levels:
                self._tapped(replace(cycle, z=level))
            self.move(Go(u, v, cycle.back))

    def _tapped(self, cycle: Cycle) -> None:
        """The control's own tapping, along X in G19, where the tool stands."""
        words = self.words
        depth, near = words.length("X", self.across * cycle.z), words.length("R", self.across * cycle.r)
        self.writer.say("G84", depth, words.length("Z", self.at[0]), near, words.feed(cycle.feed))
        self.writer.say("G80")
        words.forget("G", "X")
