"""A turret beside a chuck: the work turns, or stands while driven tools cut; tools come by turning the turret, out of the way in
the order of the holding. A second spindle opposite takes the part over.

W is said in machine coordinates: it is worked out from where the zeros of both chucks are, and so it holds as long as these do.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from bastler.job import PlannedHolding
from bastler.job.parts import PartAt
from bastler.job.turn_planning import centre_behind
from bastler.motion import Go
from bastler.post.face import FaceVoice
from bastler.post.indexing import Indexing
from bastler.post.round import RoundVoice
from bastler.post.side import SideVoice
from bastler.post.turned import TurnedVoice
from bastler.post.writer import Voice, Writer, cutting_stages
from bastler.steps import Between, Spin, Stage, Transfer
from bastler.steps.base import SaidAs

TURNING = "G18"
PLANES: dict[SaidAs, str] = {"turned": TURNING, "flat": "G17", "side": "G19", "wrapped": "G19"}
"""The plane in which what is done is said."""


class LatheBench:
    """A lathe; its main plane is turned. While its spindle is an axis the work `stands`, and tools are `driving` or not."""

    def __init__(self, writer: Writer) -> None:
        self.writer, self.c, self.voice = writer, Indexing(writer), TurnedVoice(writer)
        self.face, self.side, self.round = FaceVoice(writer, self.c), SideVoice(writer, self.c), RoundVoice(writer, self.c)
        self.stands = self.driving = False
        self.transfer: Transfer | None = None
        """How the second chuck has hold of the work, while both do."""
        self.at_second = self.catching = False
        self.called = 0
        """How many subprograms are called so far."""
        self.spin: Spin | None = None
        """How the work turns for the stage that it is at, which is `far` from the axis where it ends."""
        self.far = 0.0

    @property
    def voices(self) -> dict[SaidAs, Voice]:
        """Who says which stages."""
        return {"turned": self.voice, "flat": self.face, "side": self.side, "wrapped": self.round}

    def begin(self) -> None:
        writer, stock, holding = self.writer, self.writer.held.bar, self.writer.held.chuck
        back, bore, front, outer = writer.held.turned.raw.bounds
        across = f"D{writer.shown(2 * outer)}" + (f" bore D{writer.shown(2 * bore)}" if bore > 0 else "")
        word = "diameter" if writer.dialect.diameter_x else "radius"
        writer.header(f"{across} x {writer.shown(stock.length)}", f"finished front face, X as {word}", {"Z": (back, front)})
        if (bush := writer.card.bush) is not None:
            writer.remark(f"bar slides through the guide bush, out of it {writer.shown(holding.stick_out)} at most")
            writer.remark(f"tools stand {writer.shown(bush.before)} before the bush, collet good for {holding.rating:g}")
        else:
            writer.remark(f"sticks out {writer.shown(holding.stick_out)}, chuck good for {holding.rating:g}")
        if self._centre_is_in():
            writer.remark("tailstock centre is in before this begins")
        if holding.steady == "yes":
            writer.remark(f"steady at Z{writer.shown(holding.steady_at)}")
        for other in writer.holdings[1:]:
            offset, zero = other.holding.work_offset, writer.shown(holding.offset_z or 0.0)
            writer.remark(f"second chuck: zero finished back face, {offset}")
            writer.remark(f"W counts on {holding.work_offset} at machine Z {zero}")
        if any(cutting_stages(held) for held in writer.holdings):  # nobody knows where the turret stands before the first tool
            self._to_change(own=False)
            writer.words.forget()

    def _centre_is_in(self) -> bool:
        """Is the tailstock's centre at the work already as the program begins? One that begins behind the step that has it come
        in says no word of it."""
        held = self.writer.held
        before = next((k for k, done in enumerate(held.steps) if done.step.id == held.begins[0]), 0)
        return held.turned.centred or centre_behind(held.steps[:before]) is not None

    def put_away(self) -> None:
        """Coolant off, then to where tools change, the axes in the order of the holding."""
        writer, words = self.writer, self.writer.words
        self._stop_driving()
        if self.spin is not None and self.spin.vc > 0:
            self.voice.turn(self.spin, self.far)
        self.spin = None
        writer.coolant(on=False)
        self._to_change(own=self.writer.held.chuck.change == "own")
        words.forget()
        if self.catching:
            writer.say(writer.dialect.catch_words[1])
            self.catching = False

    def _to_change(self, *, own: bool) -> None:
        """Where tools change, a place of the holding's `own` or where axes are referenced."""
        writer, holding, words = self.writer, self.writer.held.chuck, self.writer.words
        hx, _, hz = writer.card.home
        x, z = (holding.change_d / 2, holding.change_z) if own else (hx, hz)
        lead = words.motion("G0") if own else "G53 G0"
        across, along = words.length("X", self.voice.across * x), words.length("Z", z)
        around = self.transfer is not None or self.at_second
        if writer.card.bush is not None:  # the bar stays in its guide bush, and the tools go out of its way
            writer.say(lead, across)
        elif holding.order == "both" and not around:
            writer.say(lead, across, along)
        else:
            across_first = holding.order == "x-z" or around
            first, then = (across, along) if across_first else (along, across)
            writer.say(lead, first)
            writer.say("" if own else lead, then)

    def to_part(self, part: PartAt, *, owned: bool) -> None:
        """There is one part in a chuck."""

    def come(self, stage: Stage, *, fresh: bool) -> None:
        """To the safe place in front of the work, which turns from now on or stands."""
        writer, words = self.writer, self.writer.words
        drives = stage.plane == "flat"
        plane = PLANES[stage.said_as]
        writer.state(plane, writer.dialect.feed_codes[0] if drives else "")
        self._to_plane(plane)
        self.voice.call(stage.tool, stage.tool.station)
        writer.tool = stage.tool
        if drives:
            self._drive(stage)
            r, z = self.face.begins(stage) if stage.said_as == "flat" else self.side.begins(stage)
        else:
            z, r, _ = stage.start
            self.spin, self.far = stage.spin, max(r, _farthest(stage))
            self.voice.turn(stage.spin, r if fresh else 0.0)
        offset: str = writer.held.holding.work_offset
        if stage.parts and self.transfer is None and writer.dialect.catch_words and not self.catching:
            writer.say(writer.dialect.catch_words[0])
            self.catching = True
        if (self.transfer is not None or self.at_second) and fresh:  # over the second chuck before it comes down
            writer.say(offset, words.motion("G0"), words.modal(words.length("Z", self.voice.along(z)), "Z"))
            offset = ""
        writer.say(offset, words.motion("G0"), self.voice.place(z, r))
        if not stage.spin.stands:
            writer.coolant(on=True)
        if fresh and not drives:
            self.voice.turn(stage.spin)

    def _to_plane(self, plane: str) -> None:
        """The plane in which arcs lie, and across which cycles go. In that of turning the work turns, in all others it stands."""
        drives = plane != TURNING
        if not (drives or self.stands):
            return
        writer, words = self.writer, self.writer.words
        on, off = writer.dialect.c_words
        if drives and self.stands:  # as the rest is said again
            writer.say(on)
            return
        if drives:
            if writer.tool is not None:
                writer.say("M5")
            writer.say(on)
            writer.say(plane, writer.dialect.feed_codes[0])
            self.c.angle = 0.0
        else:
            self._stop_driving()
            self.c.free()
            writer.say(off)
            writer.say(plane)
        self.stands = drives
        words.forget()

    def _drive(self, stage: Stage) -> None:
        """The driven tool turns."""
        writer, words = self.writer, self.writer.words
        writer.say(words.modal(f"S{words.whole(stage.spin.n)}", "S"), writer.dialect.drive_words[0])
        self.driving = True

    def _stop_driving(self) -> None:
        if self.driving:
            self.writer.say(self.writer.dialect.drive_words[2])
            self.driving = False

    def away_for(self, between: Between) -> None:
        """Where tools change, the work standing still but for a mere way there. The next stage begins with its own tool call: one
        can begin again there."""
        if self.writer.tool is not None or between.what == "code":
            self.put_away()
        if self.stands:
            self._to_plane(TURNING)
        elif between.what != "park":
            self.writer.say("M5")
        self.writer.tool = None

    def off_the_work(self) -> None:
        """Tools out of the way, and the work no axis any more."""
        if self.writer.tool is not None:
            self.put_away()
        if self.stands:
            self._to_plane(TURNING)
        self.writer.tool = None

    def grip(self, transfer: Transfer) -> None:
        self.off_the_work()
        with self._of_its_own():
            self._grip(transfer)
        self.writer.words.forget()
        self.transfer = transfer

    @contextmanager
    def _of_its_own(self) -> Iterator[None]:
        """What the second chuck does is a subprogram, where the card has them."""
        writer = self.writer
        if not writer.dialect.subprograms:
            yield
            return
        self.called += 1
        number = (writer.holdings[0].number + self.called - 1) % 9999 + 1
        with writer.subprogram(number):
            writer.remark(writer.owner[1])
            yield
        writer.call(number)

    def _grip(self, transfer: Transfer) -> None:
        writer, words, dialect = self.writer, self.writer.words, self.writer.dialect
        if transfer.turns > 0:
            writer.say("G97" if writer.card.surface_speed else "", f"S{words.whole(transfer.turns)}", "M3")
        else:
            writer.say("M5")
        if transfer.together:
            writer.say(dialect.together_words[0 if transfer.together == "speed" else 1])
        writer.say(dialect.feed_codes[0])
        _, _, _, opens = dialect.grip_words
        writer.say(opens)
        there = second_at(writer.held, transfer.grip)
        if dialect.air_words:
            writer.say(dialect.air_words[0])
        writer.say("G0", words.length("W", there + transfer.near))
        if dialect.air_words:
            writer.say(dialect.air_words[1])
        feed = "F" + words.number(transfer.feed, 1 if words.unit == "mm" else 2)
        if transfer.force > 0:
            writer.say(dialect.push_words[0], "P" + words.whole(transfer.force))
            writer.say(dialect.skip_word, words.length("W", there), words.length("Q", transfer.window), feed)
            writer.say(dialect.grip_words[2])
            writer.say(dialect.push_words[1])
        else:
            writer.say("G1", words.length("W", there), feed)
            writer.say(dialect.grip_words[2])
        if transfer.pull > 0:
            writer.say("M5")
            writer.say(dialect.grip_words[1])
            writer.say("G1", words.length("W", there + transfer.pull), feed)
            writer.say(dialect.grip_words[0])
            self.voice.pulled = transfer.pull

    def hand_over(self, held: PlannedHolding) -> tuple[str, str]:
        """Away with the part, then the other spindle is meant."""
        writer = self.writer
        owner = self._away()
        self.at_second = True
        if not owner[0]:
            writer.say("M5")
        writer.say(writer.dialect.choose_words[1])
        writer.held = held
        writer.words.forget()
        return owner

    def _away(self) -> tuple[str, str]:
        """The second chuck goes home with the part; gives step and stage of the lines that do it."""
        writer, words, dialect = self.writer, self.writer.words, self.writer.dialect
        hand, two, transfer = writer.held.hand_over, writer.card.second, self.transfer
        self.off_the_work()
        if hand is None or transfer is None or two is None:
            return "", ""
        writer.close_section(*writer.owner)
        writer.owner = (hand.step.id, "away")
        writer.remark(f"{hand.step.plain_title} - away")
        with self._of_its_own():
            writer.say("M5")
            if not any(isinstance(s, Stage) and s.parts for done in writer.held.steps for s in done.stages):
                writer.say(dialect.grip_words[1])
            writer.say("G0", words.length("W", two.home))
            if transfer.together:
                writer.say(dialect.together_words[2])
        self.transfer, self.voice.pulled = None, 0.0
        return writer.owner

    def end(self) -> None:
        if self.transfer is not None:
            self.writer.close_section(*self._away())
        self.off_the_work()
        if self.at_second:
            self.writer.say("M5")
            self.writer.say(self.writer.dialect.choose_words[0])
        self.writer.say(self.writer.dialect.end)
        self.writer.write_subprograms()
        self.writer.last_line()


def _farthest(stage: Stage) -> float:
    """How far from the axis the last move of a stage ends."""
    last = stage.moves[-1] if stage.moves else None
    return last.v if isinstance(last, Go) else 0.0


def second_at(held: PlannedHolding, at: float) -> float:
    """Where W is, in machine coordinates, with the face of the second chuck's jaws at a length of the part in the main one."""
    two, zero = held.ctx.card.second, held.chuck.offset_z or 0.0
    assert two is not None
    return zero + at - two.jaws_at(0.0)
