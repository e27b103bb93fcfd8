"""The control of the stand-in: its state, what it does when it is asked, and how time goes on in it.

It knows what a control knows: its offsets, the programs on its disk, where its axes are. What it does with stock and tools is
worked out by the `Workpiece`, which alone knows the truth. Time is handed in (`tick`): nothing here looks at a clock.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from bastler.disk import read_bounded, reason_of
from bastler.job import JobFileError
from bastler.language import tr
from bastler.link import messages as m
from bastler.machines import MachineCard
from bastler.nc import RAPID, Control
from bastler.nc.trace import about_axis
from bastler.proof.scrub import tip_at
from bastler.shapes.kinds import Floats
from bastler.standin.hidden import Hidden, RealTool
from bastler.standin.manual import Leg
from bastler.standin.run import Run, told, write
from bastler.standin.workpiece import BALL_MM, FEELER_MM, Ball, Mistake, NotHere, Place, Workpiece, made, reach_of
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.units import Unit, scale

LARGEST = 64_000_000
"""Bytes of a program on the control's disk."""
MOST_FILES = 500
STEP = 0.02
"""Seconds of the control's own clock: no report is nearer to the next."""
GAIN = 25.0
"""Of the axes' servo loops, in 1/s: they follow so much behind as they go in that part of a second."""
BEGIN_SHARE = 0.9
"""Of its speed that the spindle has before a cut begins."""
PULL_MM = 0.5
"""With which a turning tool leaves its cut where it is called home out of it."""
THREAD_MM = 2.0
"""As deep as a thread is at most, out of which a tool in a bore is brought."""
BREAKS = 0.6
"""Of a drill's flutes are gone when it breaks."""


class Refused(ValueError):
    """What cannot be done now; the message is a whole sentence."""


Handler = Callable[["Machine", Any], dict[str, Any] | None]
HANDLERS: dict[type, Handler] = {}


def does(kind: type) -> Callable[[Handler], Handler]:
    """Registers what is done with a kind of request."""

    def register(function: Handler) -> Handler:
        if kind in HANDLERS:
            raise ValueError(f"{kind.__name__} is registered already.")
        HANDLERS[kind] = function
        return function

    return register


class Machine:
    """One control with one machine. `disk` is the folder that is its own disk; `seed` the hidden truth, 0 for none."""

    def __init__(self, card: MachineCard, disk: Path, seed: int = 0) -> None:
        self.plain_card, self.disk, self.seed = card, disk, seed
        self.pace = 1.0
        self.files: dict[str, Path] = {}
        self.program = ""
        self.switches = m.Switches(single=False, optional_stop=False, block_delete=False, feed=1.0, rapid=1.0, spindle=1.0)
        self.offsets = {k: m.WorkOffset(k) for k in range(1, 7)}
        self.tools: dict[int, m.ToolOffset] = {}
        self.stations: dict[int, RealTool] = {}
        self.ever = 0
        """Tools that were put in so far."""
        self.broken: set[int] = set()
        self.piece: Workpiece | None = None
        self.parts = self.done = self.measured = 0
        self.faults: list[m.Fault] = []
        self.run: Run | None = None
        self.by_hand: list[Leg] = []
        self.tool, self.number, self.offset = 0, 0, 1
        self.wanted_speed = self.speed = 0.0
        self.touching = self.coolant = False
        self.stands: float | None = None
        """The angle of C at which the work stands, in degrees; None while it is a spindle."""
        self.mode: m.Mode = "ready"
        self.said = ""
        self.last_line = 0
        self.went: list[m.Moved] = []
        """Moves on the piece that is clamped, but for the one that goes on."""
        self._told = 0
        self._part_told = 0
        self.count_in(card.unit)
        self.axes: Floats = np.array(self.card.home, float)
        self.behind = 0.0

    def count_in(self, unit: Unit) -> None:
        """All is counted in the unit of the job from now on."""
        k = scale(getattr(self, "unit", unit), unit)
        self.unit, self.mm, self.card = unit, scale("mm", unit), self.plain_card.in_unit(unit)
        self.hidden = Hidden(self.seed, unit)
        if k != 1.0:
            self.axes = self.axes * k
            self.offsets = {n: m.WorkOffset(n, o.x * k, o.y * k, o.z * k, o.turn) for n, o in self.offsets.items()}
            lengths = ("x", "z", "diameter", "wear_x", "wear_z", "wear_diameter")
            self.tools = {
                n: msgspec.structs.replace(t, **{name: getattr(t, name) * k for name in lengths}) for n, t in self.tools.items()
            }
            self.stations.clear()  # tools of another job are of another unit: they are put in anew

    def new_piece(self) -> None:
        """Another piece of stock: nothing was done to it."""
        self.parts += 1
        self.went.clear()
        self._told = 0

    # -- requests -----------------------------------------------------------------------------------------------

    def take(self, request: m.AnyRequest) -> m.Answer:
        """Does what is asked, or says why not."""
        try:
            brings = HANDLERS[type(request)](self, request)
        except (Refused, NotHere, JobFileError) as error:
            return m.Answer(request.id, ok=False, why=str(error))
        except OSError as error:
            return m.Answer(request.id, ok=False, why=tr("The control's disk refuses: {error}.", error=reason_of(error)))
        return m.Answer(request.id, brings=brings or {})

    def needs(self, *modes: m.Mode) -> None:
        """Refused unless the control is in one of some modes."""
        if self.mode in modes:
            return
        words = {
            "running": tr("A program is running."),
            "held": tr("A program is held: go on with it, or reset."),
            "stopped": tr("The program stands at a stop: go on with it, or reset."),
            "alarm": tr("There is an alarm: {said} Reset first.", said=self.said),
            "off": tr("The power is off."),
            "lost": tr("Nobody knows where the axes are: send them home first."),
            "jogging": tr("The axes are moving."),
            "ready": tr("No program is running."),
        }
        raise Refused(words[self.mode])

    # -- places and tools ---------------------------------------------------------------------------------------

    @property
    def feeler(self) -> Ball:
        return Ball(BALL_MM * self.mm, FEELER_MM * self.mm)

    def tool_now(self) -> AnyTool | Ball | None:
        """What stands in the spindle, or in work."""
        real = self.stations.get(self.tool)
        if real is not None:
            return real.tool
        return self.feeler if self.tool == 0 and not self.card.turns else None

    def reach_now(self) -> Place:
        """The true way from the tip in work to what the machine knows as its place."""
        tool = self.tool_now()
        return (0.0, 0.0, tool.length) if isinstance(tool, Ball) else reach_of(tool) if tool is not None else (0.0, 0.0, 0.0)

    def tip(self) -> Place:
        """Where the tip truly is, in the machine."""
        x, y, z = self.axes - np.array(self.reach_now())
        return (float(x), float(y), float(z))

    def believed(self) -> dict[int, Place]:
        """What the control takes for the ways from tips, by the number of the offset; wear is a part of it."""
        turns = self.card.turns
        found = {n: (t.x + t.wear_x if turns else 0.0, 0.0, t.z + t.wear_z) for n, t in self.tools.items()}
        return found if turns else found | {0: (0.0, 0.0, self.feeler.length)}

    def counted(self) -> Place:
        """Where the axes are as the program counts."""
        one = self.offsets.get(self.offset, m.WorkOffset(self.offset))
        number = self.number if self.run is not None else (self.tool if self.tool in self.believed() else 0)
        place = self.axes - np.array(self.believed().get(number, (0.0, 0.0, 0.0))) - np.array((one.x, one.y, one.z))
        x, y, z = about_axis(place[None], -math.radians(one.turn))[0].tolist() if one.turn else place.tolist()
        return (x, y, z)

    def off_the_work(self) -> Floats:
        """The little way with which a tool leaves its cut: a turning tool away from the shoulder too, one in a bore toward the
        axis, out of a groove as deep as it goes."""
        tool, by = self.tool_now(), PULL_MM * self.mm
        if not isinstance(tool, TurnTool) or tool.side == "face" or (tool.side == "outside" and tool.kind != "turning"):
            return np.zeros(3)
        along = by if tool.hand == "right" else -by
        if tool.side == "outside":
            off = np.array((by, 0.0, along))
        elif tool.kind == "boring":
            off = np.array((-by, 0.0, along))
        else:
            off = np.array((-by - (tool.reach or THREAD_MM * self.mm), 0.0, 0.0))
        for axis, _, travel in self.card.travels:
            at = float(self.axes[axis])
            off[axis] = min(max(at + off[axis], min(travel.lo, at)), max(travel.hi, at)) - at
        return off

    @property
    def goes_out_first(self) -> int:
        """The axis along which it is gone out first: Z on a mill; on a lathe X, but Z with a tool for a bore or for the face."""
        tool = self.tool_now()
        if not self.card.turns:
            return 2
        inside = isinstance(tool, TurnTool) and tool.side != "outside"
        return 2 if inside or (isinstance(tool, Tool) and tool.stands == "axial") else 0

    def need_piece(self) -> Workpiece:
        """What is clamped. Refused where nothing is."""
        if self.piece is None:
            raise Refused(tr("Nothing is clamped."))
        return self.piece

    # -- time ---------------------------------------------------------------------------------------------------

    def tick(self, seconds: float) -> None:
        """So many seconds go by."""
        left = seconds * self.pace
        while left > 1e-9:
            step = min(left, STEP)
            self._spindle(step)
            before = self.axes.copy()
            if self.run is not None and self.mode in ("running", "held"):
                self._on(step)
            elif self.by_hand:
                self._by_hand(step)
            speed = float(np.linalg.norm(self.axes - before)) / step
            behind = self.behind + (speed / GAIN - self.behind) * min(1.0, step * GAIN)
            self.behind = behind if behind > 1e-6 * self.mm else 0.0
            left -= step

    def _spindle(self, seconds: float) -> None:
        up = self.card.spindle_up or 1.5
        most = seconds * self.card.speed[1] / up
        wanted = self.wanted_speed * (self.switches.spindle or 1.0)
        self.speed += min(max(wanted - self.speed, -most), most)

    def _by_hand(self, seconds: float) -> None:
        while seconds > 0.0 and self.by_hand:
            one = self.by_hand[0]
            way, seconds = one.go(seconds)
            self.axes = self.axes + way
            if one.done:
                self.by_hand.pop(0)
                one.over()
        if not self.by_hand and self.mode == "jogging":
            self.mode = "ready"

    def _on(self, seconds: float) -> None:
        """The program goes on."""
        run = self.run
        assert run is not None
        while seconds > 1e-12 and self.run is run:
            k = run.k
            if run.share == 0.0 and self._due(run):
                return
            self._modal(run)
            if (wrong := run.wrong_now()) is not None:
                self._bang(wrong)
                return
            faster = abs(self.speed) >= BEGIN_SHARE * abs(self.wanted_speed)
            held = self.mode == "held"
            left = run.go(seconds, self.switches.feed or 0.0, self.switches.rapid or 0.0, stop=held, up_to_speed=faster)
            moved = run.k != k or left < seconds
            seconds = left
            if run.k > k:
                self._tell(run, k)
            self._place(run)
            if (wrong := run.wrong_now()) is not None:
                self._bang(wrong)
                return
            if run.k > k and self._after_block(run, k):
                return
            if self._power_fails(run):
                return
            if run.over:
                self._ends(run)
                return
            if not moved:
                return

    def _due(self, run: Run) -> bool:
        """Does something stop the program before its next move?"""
        if run.k in run.breaks and run.k < len(run.trace):
            return False
        stops = run.stops.get(run.k, [])
        while stops:
            line, kind = stops.pop(0)
            if kind == 0 or self.switches.optional_stop:
                self.mode, self.said = "stopped", run.message(line) or "Stop"
                self.wanted_speed = 0.0
                return True
        return False

    def _after_block(self, run: Run, k: int) -> bool:
        """At the end of a move: a tool that breaks in it, and one block after the other."""
        if k in run.breaks:
            station = run.breaks.pop(k)
            self._breaks(station)
            return True
        line = run.trace.line
        ends = run.k >= len(run.trace) or line[run.k] != line[k]
        if self.switches.single and ends and not run.over and self.mode == "running":
            self.mode, self.said = "held", tr("One block")
        return False

    def _breaks(self, station: int) -> None:
        self.alarm(tr("The load of T{station} fell to nothing: it has broken.", station=station))
        self._break(station)

    def _break(self, station: int) -> None:
        """What is left of a tool."""
        real = self.stations.get(station)
        self.broken.add(station)
        if real is not None and isinstance(real.tool, Tool):
            tool = real.tool
            gone = min(BREAKS * tool.flute_length, tool.stick_out / 2, tool.length / 2)
            short = msgspec.structs.replace(
                tool,
                length=tool.length - gone,
                stick_out=tool.stick_out - gone,
                flute_length=max(tool.flute_length - gone, tool.flute_length * 0.1),
            )
            self.ever += 1
            self.stations[station] = RealTool(short, real.gives, station + 1000 * self.ever)

    def _bang(self, wrong: Mistake) -> None:
        station, line = self.tool, self.run.line if self.run is not None else 0
        where = tr(" Line {line}.", line=line) if line else ""
        self.alarm(f"{wrong.text}{where}")
        if wrong.code not in ("over-travel", "spindle-off"):
            self._break(station)

    def alarm(self, text: str) -> None:
        """Everything stands still, and says why."""
        self.give_up()
        self.mode, self.said, self.wanted_speed, self.speed = "alarm", text, 0.0, 0.0
        self.by_hand.clear()

    def _power_fails(self, run: Run) -> bool:
        fault = next((f for f in self.faults if f.what == "power" and run.ran >= f.after), None)
        if fault is None:
            return False
        self.faults.remove(fault)
        self.give_up()
        self.mode, self.said = "off", tr("The power went while line {last_line} was in work.", last_line=self.last_line)
        self.wanted_speed = self.speed = 0.0
        return True

    def give_up(self) -> None:
        """The program is over; what it has cut so far is cut."""
        run = self.run
        if run is None:
            return
        self.last_line = run.line or self.last_line
        if run.share > 0.0 and run.k < len(run.trace):
            self._tell(run, run.k, run.share)
        if self.piece is not None:
            self.piece.cut(made(run.trace, run.k, run.share), run.tools)
        for station, seconds in run.feeds.items():
            one = self.tools.get(station, m.ToolOffset(station))
            self.tools[station] = msgspec.structs.replace(one, minutes=one.minutes + seconds / 60.0)
        self.run = None

    def _ends(self, run: Run) -> None:
        used = set(run.feeds)
        self._written_by(run)
        self.give_up()
        if run.ends_with:
            self.alarm(run.ends_with)
            return
        if not run.dry:
            self.done += 1
            for station in used:
                one = self.tools.get(station, m.ToolOffset(station))
                self.tools[station] = msgspec.structs.replace(one, pieces=one.pieces + 1)
        self.mode, self.said, self.wanted_speed, self.last_line = "ready", tr("The program has ended."), 0.0, 0

    def _modal(self, run: Run) -> None:
        """What is in force for the move in work."""
        self._written_by(run)
        if run.k >= len(run.trace):
            return
        trace, k = run.trace, run.k
        self.tool, self.offset = int(trace.tool[k]), int(trace.offset[k]) or self.offset
        self.number = int(trace.edge[k]) or self.tool
        self.wanted_speed = float(trace.speed[k])
        begin, end = trace.angle[k].tolist()
        self.stands = begin + (end - begin) * run.share if trace.stands[k] else None
        self.last_line = run.line or self.last_line

    def _written_by(self, run: Run) -> None:
        """What the program has written into the table of offsets stays there."""
        for index, place in run.sets.pop(run.k, ()):
            write(self.offsets, index, place)

    def _place(self, run: Run) -> None:
        """Where the axes are."""
        trace = run.trace
        if not len(trace):
            return
        k, share = (run.k, run.share) if run.k < len(trace) else (len(trace) - 1, 1.0)
        if share == 0.0 and k > 0 and run.waited < run.waits[k]:
            k, share = k - 1, 1.0
        tip = np.array(tip_at(trace, k, share))
        if trace.stands[k]:
            a, b = trace.angle[k].tolist()
            tip = about_axis(tip[None], -math.radians(a + (b - a) * share))[0]
        self.axes = tip + np.array(run.reaches.get(int(trace.tool[k]), (0.0, 0.0, 0.0)))

    def _tell(self, run: Run, k: int, share: float = 1.0) -> None:
        """A move is over, or a part of it for good."""
        if not run.dry:
            part = made(run.trace.between(k, k + 1), 0, share) if share < 1.0 else run.trace.between(k, k + 1)
            self.went += told(part, self.believed(), run.reaches, self.offsets)

    # -- reports ------------------------------------------------------------------------------------------------

    def status(self) -> m.Status:
        """How the control stands."""
        run, k = self.run, -1
        to_go = (0.0, 0.0, 0.0)
        feed, per_turn = 0.0, False
        if run is not None and run.k < len(run.trace):
            k = run.k
            end = run.trace.end[k] + np.array(run.reaches.get(int(run.trace.tool[k]), (0.0, 0.0, 0.0)))
            if not run.trace.stands[k]:
                x, y, z = (end - self.axes).tolist()
                to_go = (x, y, z)
            moving = run.waited >= run.waits[k]
            fast = run.trace.kind[k] == RAPID
            feed = (self.card.rapid if fast else float(run.trace.feed[k])) * run.rate if moving else 0.0
            per_turn = bool(run.trace.per_turn[k]) and not fast
        switches = {name: getattr(self.switches, name) for name in ("single", "optional_stop", "block_delete")}
        x, y, z = self.axes.tolist()
        return m.Status(
            unit=self.unit,
            mode=self.mode,
            said=self.said,
            program=self.program,
            line=run.line if run is not None else self.last_line if self.mode in ("alarm", "off", "lost") else 0,
            machine=(x, y, z),
            places=self.counted(),
            to_go=to_go,
            behind=self.behind,
            feed=feed,
            per_turn=per_turn,
            speed=self.speed,
            load=run.load() if run is not None and self.mode == "running" else 0.0,
            tool=self.tool,
            offset=self.offset,
            number=self.number,
            touching=self.touching,
            coolant=self.coolant,
            feed_share=self.switches.feed or 0.0,
            rapid_share=self.switches.rapid or 0.0,
            spindle_share=self.switches.spindle or 1.0,
            ran=run.ran if run is not None else 0.0,
            left=run.left if run is not None else 0.0,
            part=self.parts,
            done=self.done,
            **switches,
        )

    def news(self) -> m.Went | None:
        """The moves since this was asked for the last time; None without any."""
        moves = self.went[self._told :]
        first = self._told
        self._told = len(self.went)
        run = self.run
        if run is not None and not run.dry and run.k < len(run.trace) and run.share > 0.0:
            part = made(run.trace.between(run.k, run.k + 1), 0, run.share)
            moves = moves + told(part, self.believed(), run.reaches, self.offsets)
        if not moves and self._part_told == self.parts:
            return None
        self._part_told = self.parts
        return m.Went(self.parts, first, moves)

    # -- programs -----------------------------------------------------------------------------------------------

    def text_of(self, name: str) -> str:
        """A program as it lies on the disk. Refused where there is none of that name, OSError where the disk does not give it."""
        if name not in self.files:
            raise Refused(tr("There is no program {name} on the control.", name=name))
        return read_bounded(self.files[name], LARGEST).decode("latin-1")

    def control(self) -> Control:
        """What the reader has to know, with the offsets as they are in the tables and the tools as they are in the stations."""
        planned = self.need_piece().scene.control
        believed = self.believed()
        diameters = {n: t.diameter + t.wear_diameter for n, t in self.tools.items() if t.diameter}
        return replace(
            planned,
            offsets={n: (o.x, o.y, o.z) for n, o in self.offsets.items()},
            reaches={n: reach_of(real.tool) for n, real in self.stations.items()},
            tool_offsets=believed,
            diameters=diameters,
        )
