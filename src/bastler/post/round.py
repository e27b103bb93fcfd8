"""The voice of the round of a part in a chuck, unrolled: C goes round under a driven tool that stands across the axis.

How a stage is said follows from what it does and what the machine has:

- *indexed*, when the tool only goes up and down: C is clamped at each place.
- *wrapped*, by the control's cylindrical interpolation: Z and C as two axes at right angles, arcs between them in G19, places
  along the round in degrees of C and the way to an arc's centre as a length.
- *shares*, without any: straight on the round is straight in Z and C. Arcs are chords, and a speed is said as the share of a
  minute of each move (inverse time), as Z and C have no common feed.
"""

from __future__ import annotations

import math
from typing import Literal

from bastler.motion import Bow, Cut, Go
from bastler.post.arcs import along_bow
from bastler.post.driven import only_plunges
from bastler.post.side import SideVoice
from bastler.post.writer import Writer
from bastler.steps import Stage

CHORD = 0.004
"""How far, in mm, a chord may leave an arc where the control does not interpolate."""
FOLLOWS = 0.9
"""The share of its fastest at which C is sent along."""
SAME = 1e-9
Manner = Literal["indexed", "wrapped", "shares"]


class RoundVoice(SideVoice):
    """Says moves on the unrolled round of a part."""

    manner: Manner = "indexed"
    around = 1.0
    begun = 0.0
    """At which angle the stage has its zero along the round."""

    def stage(self, stage: Stage) -> None:
        assert stage.side is not None
        self.around, self.begun, self.at = stage.around, stage.side, stage.start
        self.manner = manner_of(stage, self.writer)
        self.c.turn(self._angle(stage.start[1]), clamp=self.manner == "indexed")
        if self.manner == "wrapped":
            self.c.free()
            self.writer.say(self.dialect.wrapped_words[0], "C" + self.words.length("X", self.around)[1:])
            self.words.forget()
        elif self.manner == "shares":
            self.c.free()
            self.writer.say("G93")
        for move in stage.moves:
            self.move(move)
        if self.manner == "wrapped":
            self.writer.say(self.dialect.wrapped_words[-1], "C0")
            self.words.forget()
        elif self.manner == "shares":
            self.writer.say(self.dialect.feed_codes[0])
            self.words.forget("F")

    def _angle(self, y: float) -> float:
        return self.begun - math.degrees(y / self.around)

    def _side(self, v: float) -> str:
        """The word of C that changes."""
        self.c.angle = self._angle(v)
        return self.words.modal(self.c.word(self.c.angle), "C")

    def _go(self, move: Go) -> None:
        if self.manner != "indexed":
            super()._go(move)
            return
        if self.c.word(self._angle(move.v)) != self.c.word(self.c.angle):
            self.c.free()
        super()._go(move)
        self.c.clamp()

    def _cut(self, move: Cut) -> None:
        if self.manner != "shares":
            super()._cut(move)
            return
        stood, length = self.c.angle, math.dist(self.at, (move.u, move.v, move.w))
        place = self._place(move.u, move.v, move.w)
        if place:
            assert self.card.c is not None
            swing = max(abs(self.c.angle - stood), SAME)
            often = min(move.feed / max(length, SAME * self.mm), FOLLOWS * self.card.c.rapid / swing)
            self.writer.say(self.words.motion("G1"), place, "F" + self.words.number(often, 4))
        self.at = (move.u, move.v, move.w)

    def _bow(self, bow: Bow) -> None:
        if self.manner == "shares" or self._only_in_chords(bow):
            for u, v, w in along_bow(self.at, bow, CHORD * self.mm):
                self._cut(Cut(u, v, w, bow.feed))
            return
        words = self.words
        stood = (self.c.word(self.c.angle), words.place("YZ")[1])
        if not self._goes_whole(bow) and stood == (self.c.word(self._angle(bow.v)), words.rounded(bow.u)):
            self._cut(Cut(bow.u, bow.v, bow.w, bow.feed))  # so short that it would be read as a whole turn
            return
        # the places that the control knows, as it has rounded them: C falls where y rises
        y0 = math.radians(self.begun - float(stood[0][1:])) * self.around
        place = self._place(bow.u, bow.v, bow.w)
        j, k = words.rounded(y0 - bow.cv), words.rounded(bow.cu) - stood[1]
        code = words.motion("G3" if bow.ccw else "G2")
        said = place or words.length("Z", bow.u)
        self.writer.say(code, said, words.length("J", j), words.length("K", k), words.feed(bow.feed))
        self.at = (bow.u, bow.v, bow.w)


def manner_of(stage: Stage, writer: Writer) -> Manner:
    """How a stage is said."""
    if only_plunges(stage):
        return "indexed"
    return "wrapped" if writer.dialect.wrapped_words else "shares"
