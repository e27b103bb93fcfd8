"""The voice of the end face of a part in a chuck, worked with driven tools along the axis.

How a stage is said follows from what it does and what the machine has:

- *indexed*, when the tool only goes up and down: X is how far out a hole is, C turns it there and is clamped.
- *square*, where X and Y of the machine reach all of it: C stands clamped at 0, and the moves are those of a mill.
- *polar*, by the control's interpolation: X and C as two axes at right angles. No rapid goes through it.
- *chords*, without any: straight moves of X and C together, so short that they leave the path by no more than `CHORD`. A speed is
  said for each as its share of a minute (inverse time), as X and C have no common feed.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Literal

from bastler.motion import Bow, Cut, Cycle, Go
from bastler.post.arcs import along_bow
from bastler.post.driven import DrivenVoice, Point, only_plunges
from bastler.post.writer import Writer
from bastler.steps import Stage

Manner = Literal["indexed", "square", "polar", "chords"]
CHORD = 0.004
"""How far, in mm, a chord may leave the path; the resolution of C comes on top of it."""
FOLLOWS = 0.9
"""The share of its fastest at which C follows a move that is no cut."""
SAME = 1e-9


class FaceVoice(DrivenVoice):
    """Says moves on the end face."""

    on = "an end face"
    manner: Manner = "indexed"

    # -- stages -------------------------------------------------------------------------------------------------

    def begins(self, stage: Stage) -> tuple[float, float]:
        """How far out the tool comes to a stage, and at which height."""
        u, v, w = stage.start
        square = manner_of(stage, self.writer) == "square"
        return (u if square else math.hypot(u, v)), w

    def stage(self, stage: Stage) -> None:
        self.manner = manner_of(stage, self.writer)
        self.at = stage.start
        u, v, w = stage.start
        if self.manner == "square":
            self.c.turn(0.0, clamp=True)
            self._say("G0", self.words.modal(self.words.length("Y", v), "Y"))
        elif self.manner == "polar":
            self.c.turn(0.0)
            self._polar(on=True)
            self.at = (math.hypot(u, v), 0.0, w)
            self._go(Go(u, v, w))
        else:
            self.c.turn(self._angle(u, v), clamp=self.manner == "indexed")
        if self.manner == "chords":
            self.writer.say("G93")
        for move in stage.moves:
            self.move(move)
        if self.manner == "square":
            self._say("G0", self.words.modal(self.words.length("Y", 0.0), "Y"))
        elif self.manner == "polar":
            self._polar(on=False)
        elif self.manner == "chords":
            self.writer.say(self.dialect.feed_codes[0])
            self.words.forget("F")

    def _polar(self, *, on: bool) -> None:
        self.writer.say(self.dialect.polar_words[0 if on else 1])
        self.words.forget()
        if not on:
            u, v, _ = self.at
            self.c.angle = math.degrees(math.atan2(v, u))

    def _angle(self, u: float, v: float) -> float:
        """Where C stands with a place at hand: for a hole within one turn, as a print has it, along a path the nearest of all
        turns. In the middle it stays."""
        if math.hypot(u, v) < SAME * self.mm:
            return self.c.angle
        angle = math.degrees(math.atan2(v, u))
        if self.manner == "indexed":
            return round(angle, 9) % 360.0
        return angle + 360.0 * round((self.c.angle - angle) / 360.0)

    # -- words --------------------------------------------------------------------------------------------------

    def _place(self, u: float, v: float, w: float) -> str:
        """The words of a place that change."""
        x, side = u, ""
        if self.manner == "square":
            side = self.words.modal(self.words.length("Y", v), "Y")
        elif self.manner == "polar":
            side = self.words.modal(self.words.length("C", v), "C")
        else:
            x, self.c.angle = math.hypot(u, v), self._angle(u, v)
            side = self.words.modal(self.c.word(self.c.angle), "C")
        across = self.words.modal(self.words.length("X", self.across * x), "X")
        along = self.words.modal(self.words.length("Z", w), "Z")
        return " ".join(word for word in (across, side, along) if word)

    def _there(self) -> tuple[float, float]:
        """Where the control believes to be across the axis, of what is at right angles."""
        x, side = self.words.place("XY" if self.manner == "square" else "XC")
        return x / self.across, side

    # -- moves --------------------------------------------------------------------------------------------------

    def _go(self, move: Go) -> None:
        if self.manner == "polar":
            self._polar_way(move)
        elif self.manner == "indexed":
            if (move.u, move.v) != self.at[:2] and self.c.word(self._angle(move.u, move.v)) != self.c.word(self.c.angle):
                self.c.free()
            self._say("G0", self._place(move.u, move.v, move.w))
            self.c.clamp()
        else:
            self._say("G0", self._place(move.u, move.v, move.w))
        self.at = (move.u, move.v, move.w)

    def _polar_way(self, move: Go) -> None:
        """A way through interpolation, as fast as C can follow where it is nearest to the axis."""
        assert self.card.c is not None
        near = max(_off_axis(self.at, (move.u, move.v, move.w))[1], 0.1 * self.mm)
        most = FOLLOWS * math.radians(self.card.c.rapid) * near
        level = math.dist(self.at[:2], (move.u, move.v)) < SAME * self.mm
        self._straight(Cut(move.u, move.v, move.w, self.card.feed_most if level else min(self.card.feed_most, most)))

    def _cut(self, move: Cut) -> None:
        there = (move.u, move.v, move.w)
        if self.manner == "chords" and math.dist(self.at[:2], there[:2]) > SAME * self.mm:
            self._through(_parts(self.at, there, CHORD * self.mm), move.feed)
        else:
            self._straight(move)

    def _straight(self, move: Cut) -> None:
        self._leave_the_middle(move)
        length, stood = math.dist(self.at, (move.u, move.v, move.w)), self.c.angle
        place = self._place(move.u, move.v, move.w)
        if place:
            self.writer.say(self.words.motion("G1"), place, self._feed(move.feed, length, self.c.angle - stood))
        self.at = (move.u, move.v, move.w)

    def _leave_the_middle(self, move: Cut) -> None:
        """In the middle C turns on the spot before X goes out: both at once would go out in a spiral."""
        if self.manner != "chords" or math.hypot(*self.at[:2]) > CHORD * self.mm or math.hypot(move.u, move.v) <= CHORD * self.mm:
            return
        assert self.card.c is not None
        angle = self._angle(move.u, move.v)
        word = self.words.modal(self.c.word(angle), "C")
        if word:
            often = FOLLOWS * self.card.c.rapid / max(abs(angle - self.c.angle), 1e-6)
            self.writer.say(self.words.motion("G1"), word, "F" + self.words.number(often, 4))
        self.c.angle = angle

    def _feed(self, feed: float, length: float, swing: float) -> str:
        """Feed a minute; by chords how often in a minute the move could be made, no more than C can follow."""
        if self.manner != "chords":
            return self.words.feed(feed)
        assert self.card.c is not None
        often = min(feed / max(length, SAME * self.mm), FOLLOWS * self.card.c.rapid / max(abs(swing), 1e-9))
        return "F" + self.words.number(often, 4)

    def _bow(self, bow: Bow) -> None:
        if self.manner == "chords":
            here = self.at
            for there in along_bow(self.at, bow, CHORD * self.mm):
                self._through(_parts(here, there, CHORD * self.mm), bow.feed)
                here = there
            return
        if self._only_in_chords(bow):
            for u, v, w in along_bow(self.at, bow, CHORD * self.mm):
                self._straight(Cut(u, v, w, bow.feed))
            return
        words, start = self.words, self._there()
        if not self._goes_whole(bow) and start == (words.rounded(self.across * bow.u) / self.across, words.rounded(bow.v)):
            self._straight(Cut(bow.u, bow.v, bow.w, bow.feed))  # so short that it would be read as a whole turn
            return
        code = words.motion("G3" if bow.ccw else "G2")
        place = self._place(bow.u, bow.v, bow.w)
        i, j = words.rounded(bow.cu) - start[0], words.rounded(bow.cv) - start[1]
        self.writer.say(code, place, words.length("I", i), words.length("J", j), words.feed(bow.feed))
        self.at = (bow.u, bow.v, bow.w)

    def _tapped(self, cycle: Cycle) -> None:
        """The control's own tapping, where the tool stands."""
        words = self.words
        depth, near = words.length("Z", cycle.z), words.length("R", cycle.r)
        self.writer.say("G84", words.length("X", self.across * self._there()[0]), depth, near, words.feed(cycle.feed))
        self.writer.say("G80")
        words.forget("G", "Z")

    # -- chords -------------------------------------------------------------------------------------------------

    def _through(self, points: Iterable[Point], feed: float) -> None:
        for u, v, w in points:
            self._straight(Cut(u, v, w, feed))


def _parts(a: Point, b: Point, off: float) -> Iterator[Point]:
    """Places on a straight way between which X and C, each going evenly, leave it by no more than `off`. Past the middle by less
    than that it goes through the middle."""
    share, near = _off_axis(a, b)
    if near < off and 0.0 < share < 1.0 and min(math.hypot(*a[:2]), math.hypot(*b[:2])) > off:
        middle = (0.0, 0.0, a[2] + (b[2] - a[2]) * share)
        yield middle
        yield b
        return
    waits = [b]
    while waits:
        there = waits.pop()
        if _leaves(a, there) > off:
            waits += [there, _between(a, there, 0.5)]
        else:
            yield there
            a = there


def _leaves(a: Point, b: Point) -> float:
    """How far X and C, each going evenly, leave the straight way between two places in their middle; 0 where one is the middle
    of the part, as C stands then."""
    r0, r1 = math.hypot(*a[:2]), math.hypot(*b[:2])
    long = math.dist(a[:2], b[:2])
    if min(r0, r1) <= SAME or long <= SAME:
        return 0.0
    a0 = math.atan2(a[1], a[0])
    angle, r = a0 + math.remainder(math.atan2(b[1], b[0]) - a0, 2 * math.pi) / 2, (r0 + r1) / 2
    x, y = r * math.cos(angle) - a[0], r * math.sin(angle) - a[1]
    return abs(x * (b[1] - a[1]) - y * (b[0] - a[0])) / long


def manner_of(stage: Stage, writer: Writer) -> Manner:
    """How a stage is said."""
    if only_plunges(stage):
        return "indexed"
    card = writer.card
    if card.has_y and all(card.x.lo <= u <= card.x.hi and card.y.lo <= v <= card.y.hi for u, v in _places(stage)):
        return "square"
    return "polar" if writer.dialect.polar_words else "chords"


def _places(stage: Stage) -> Iterator[tuple[float, float]]:
    """Places that a stage comes to, and where its arcs swing to at most."""
    yield stage.start[:2]
    at = stage.start[:2]
    for move in stage.moves:
        if isinstance(move, Bow):
            r = math.dist(at, (move.cu, move.cv))
            yield from ((move.cu + a * r, move.cv + b * r) for a in (-1, 1) for b in (-1, 1))
        if isinstance(move, Cycle):
            yield from move.points
            at = move.points[-1]
        elif isinstance(move, Go | Cut | Bow):
            at = (move.u, move.v)
            yield at


def _between(a: Point, b: Point, share: float) -> Point:
    return (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share)


def _off_axis(a: Point, b: Point) -> tuple[float, float]:
    """Where on the straight way between two places it is nearest to the axis, as a share of it, and how near."""
    du, dv = b[0] - a[0], b[1] - a[1]
    square = du * du + dv * dv
    share = min(max(-(a[0] * du + a[1] * dv) / square, 0.0), 1.0) if square > 0 else 0.0
    return share, math.hypot(a[0] + du * share, a[1] + dv * share)
