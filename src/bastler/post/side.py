"""The voice of the side of a part in a chuck, worked with driven tools across the axis: C is turned to the side and clamped, and
X goes down to it.

Plans of the side lie with u along Z and v against Y, heights are radii: places and arcs are said in G19.
"""

from __future__ import annotations

from bastler.motion import Bow, Cut, Cycle, Go
from bastler.post.arcs import along_bow
from bastler.post.driven import DrivenVoice
from bastler.steps import Stage

CHORD = 0.01
"""How far, in mm, a chord may leave a helix that the control cannot do."""


class SideVoice(DrivenVoice):
    """Says moves on the side of a part."""

    on = "the side of a part"

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

    def _side(self, v: float) -> str:
        """The word of Y that changes; empty where there is no Y, and nothing to be moved by it."""
        return self.words.modal(self.words.length("Y", -v), "Y") if self.card.has_y else ""

    def _place(self, u: float, v: float, w: float) -> str:
        """The words of a place that change."""
        along = self.words.modal(self.words.length("Z", u), "Z")
        out = self.words.modal(self.words.length("X", self.across * w), "X")
        return " ".join(word for word in (out, self._side(v), along) if word)

    # -- moves --------------------------------------------------------------------------------------------------

    def _go(self, move: Go) -> None:
        self._say("G0", self._place(move.u, move.v, move.w))
        self.at = (move.u, move.v, move.w)

    def _cut(self, move: Cut) -> None:
        place = self._place(move.u, move.v, move.w)
        if place:
            self.writer.say(self.words.motion("G1"), place, self.words.feed(move.feed))
        self.at = (move.u, move.v, move.w)

    def _bow(self, bow: Bow) -> None:
        words = self.words
        if self._only_in_chords(bow):
            for u, v, w in along_bow(self.at, bow, CHORD * self.mm):
                self._cut(Cut(u, v, w, bow.feed))
            return
        y0, z0 = words.place("YZ")
        if not self._goes_whole(bow) and (y0, z0) == (words.rounded(-bow.v), words.rounded(bow.u)):
            self._cut(Cut(bow.u, bow.v, bow.w, bow.feed))  # so short that it would be read as a whole turn
            return
        code = words.motion("G3" if bow.ccw else "G2")
        place = self._place(bow.u, bow.v, bow.w)
        j, k = words.rounded(-bow.cv) - y0, words.rounded(bow.cu) - z0
        self.writer.say(code, place, words.length("J", j), words.length("K", k), words.feed(bow.feed))
        self.at = (bow.u, bow.v, bow.w)

    def _tapped(self, cycle: Cycle) -> None:
        """The control's own tapping, along X in G19, where the tool stands."""
        words = self.words
        depth, near = words.length("X", self.across * cycle.z), words.length("R", self.across * cycle.r)
        self.writer.say("G84", depth, words.length("Z", self.at[0]), near, words.feed(cycle.feed))
        self.writer.say("G80")
        words.forget("G", "X")
