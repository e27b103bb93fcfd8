"""The spindle as an axis: C turned to where driven tools want it, clamped there and freed again."""

from __future__ import annotations

import math

from bastler.post.writer import Writer


class Indexing:
    """Where C stands, in degrees, and whether it is clamped; says what changes that. All voices of driven tools share one."""

    def __init__(self, writer: Writer) -> None:
        self.writer = writer
        self.angle = 0.0
        self.clamped = False

    @property
    def state(self) -> tuple[float, bool]:
        """Where C stands, and whether it is clamped there."""
        return self.angle, self.clamped

    def restore(self, state: tuple[float, bool]) -> None:
        """As it was left by lines that were said before."""
        self.angle, self.clamped = state

    def word(self, angle: float) -> str:
        """An angle as the axis can stand."""
        assert self.writer.card.c is not None
        places = max(0, -math.floor(math.log10(self.writer.card.c.resolution) + 1e-9))
        return "C" + self.writer.words.number(angle, places)

    def turn(self, angle: float, *, clamp: bool = False) -> None:
        """C to an angle in rapid, freed for it, and clamped there where a cut is to turn it away."""
        word, words = self.word(angle), self.writer.words
        if word != self.word(self.angle) or "C" not in words.last:
            self.free()
            said = words.modal(word, "C")
            if said:
                self.writer.say(words.motion("G0"), said)
            self.angle = angle
        if clamp:
            self.clamp()

    def clamp(self) -> None:
        """C is held where it stands, where the machine can do that."""
        if self.writer.dialect.clamp_words and not self.clamped:
            self.writer.say(self.writer.dialect.clamp_words[0])
            self.clamped = True

    def free(self) -> None:
        """C may turn again."""
        if self.clamped:
            self.writer.say(self.writer.dialect.clamp_words[1])
            self.clamped = False
