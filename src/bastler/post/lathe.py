"""A turret beside a chuck: the work turns, or stands while driven tools cut; tools come by turning the turret, out of the way in
the order of the holding."""

from __future__ import annotations

from bastler.job.parts import PartAt
from bastler.post.face import FaceVoice
from bastler.post.indexing import Indexing
from bastler.post.round import RoundVoice
from bastler.post.side import SideVoice
from bastler.post.turned import TurnedVoice
from bastler.post.writer import Voice, Writer
from bastler.steps import Between, Stage
from bastler.steps.base import SaidAs

TURNING = "G18"
PLANES: dict[SaidAs, str] = {"turned": TURNING, "flat": "G17", "side": "G19", "wrapped": "G19"}
"""The plane in which what is done is said."""


class LatheBench:
    """A lathe; its main plane is turned. While its spindle is an axis the work `stands`, tools are `driving` or not, and arcs lie
    in a `plane`."""

    def __init__(self, writer: Writer) -> None:
        self.writer, self.c, self.voice = writer, Indexing(writer), TurnedVoice(writer)
        self.face, self.side, self.round = FaceVoice(writer, self.c), SideVoice(writer, self.c), RoundVoice(writer, self.c)
        self.stands = self.driving = False
        self.plane = TURNING

    @property
    def voices(self) -> dict[SaidAs, Voice]:
        """Who says which stages."""
        return {"turned": self.voice, "flat": self.face, "side": self.side, "wrapped": self.round}

    def begin(self) -> None:
        writer, stock, holding = self.writer, self.writer.held.bar, self.writer.held.chuck
        _, bore, _, outer = writer.held.turned.raw.bounds
        across = f"D{writer.shown(2 * outer)}" + (f" bore D{writer.shown(2 * bore)}" if bore > 0 else "")
        word = "diameter" if writer.dialect.diameter_x else "radius"
        writer.header(f"{across} x {writer.shown(stock.length)}", f"finished front face, X as {word}")
        writer.remark(f"sticks out {writer.shown(holding.stick_out)}, chuck good for {holding.rating:g}")

    def put_away(self) -> None:
        """Coolant off, then to where tools change, the axes in the order of the holding."""
        writer, holding, words = self.writer, self.writer.held.chuck, self.writer.words
        self._stop_driving()
        writer.coolant(on=False)
        hx, _, hz = writer.card.home
        own = holding.change == "own"
        x, z = (holding.change_d / 2, holding.change_z) if own else (hx, hz)
        lead = words.motion("G0") if own else "G53 G0"
        across, along = words.length("X", self.voice.across * x), words.length("Z", z)
        if holding.order == "both":
            writer.say(lead, across, along)
        else:
            first, then = (across, along) if holding.order == "x-z" else (along, across)
            writer.say(lead, first)
            writer.say("" if own else lead, then)
        words.forget()

    def to_part(self, part: PartAt, *, owned: bool) -> None:
        """There is one part in a chuck."""

    def come(self, stage: Stage, *, fresh: bool) -> None:
        """To the safe place in front of the work, which turns from now on or stands."""
        writer, words = self.writer, self.writer.words
        drives = stage.plane == "flat"
        self._to_plane(PLANES[stage.said_as])
        if fresh:
            self.voice.call(stage.tool, stage.tool.station)
            writer.tool = stage.tool
            words.forget()
        if drives:
            self._drive(stage)
            r, z = self.face.begins(stage) if stage.said_as == "flat" else self.side.begins(stage)
        else:
            self.voice.turn(stage.spin)
            z, r, _ = stage.start
        offset = writer.held.holding.work_offset if fresh else ""
        writer.say(offset, words.motion("G0"), self.voice.place(z, r))
        if fresh:
            writer.coolant(on=True)

    def _to_plane(self, plane: str) -> None:
        """The plane in which arcs lie, and across which cycles go. In that of turning the work turns, in all others it stands."""
        drives = plane != TURNING
        if drives == self.stands:
            self.writer.say(plane if plane != self.plane else "")
            self.plane = plane
            return
        writer, words = self.writer, self.writer.words
        on, off = writer.dialect.c_words
        if drives:
            if "spindle" in words.last or writer.tool is not None:
                writer.say("M5")
            writer.say(on)
            writer.say(plane, writer.dialect.feed_codes[0])
            self.c.angle = 0.0
        else:
            self._stop_driving()
            self.c.free()
            writer.say(off)
            writer.say(plane)
        self.stands, self.plane = drives, plane
        words.forget()

    def _drive(self, stage: Stage) -> None:
        """The driven tool turns."""
        writer, words = self.writer, self.writer.words
        turns = words.modal(f"S{words.number(stage.spin.n, 0)}", "S")
        writer.say(turns, "" if self.driving else writer.dialect.drive_words[0])
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

    def end(self) -> None:
        if self.writer.tool is not None:
            self.put_away()
        if self.stands:
            self._to_plane(TURNING)
        self.writer.say(self.writer.dialect.end)
        self.writer.last_line()
