"""What the machine side knows: how the machine stands, what is set up and what is open, what was measured. It asks the machine
and says by signals what has changed; it shows nothing itself."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any, Literal

import msgspec
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bastler.app.machine_link import MachineLink
from bastler.app.measuring_book import MeasuringBook
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import Session
from bastler.disk import reason_of
from bastler.job import Job, answering
from bastler.language import decimal, tr
from bastler.link import messages as m
from bastler.live.grown import GrownPart
from bastler.live.leaving import digest_of, names_of, program_bytes, stamp
from bastler.live.restarts import Restart
from bastler.live.sent import MACHINE_PATH
from bastler.live.shown import ShownHolding, ShownProof
from bastler.proof.gauge import ZEROS, Correction, Gauge, correction, standing
from bastler.proof.remark import HOLDING
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.units import Unit, grouped, scale

LOOK_EVERY = 300
"""Milliseconds between two pictures of the part while it grows."""
SOON = 0.8
"""The share of a tool's life from which on it is said that it is over soon."""
MOST_SENT = m.LONGEST // 2
"""Bytes of a program that goes over the link in one line, its line ends written out."""
WITHIN_MM = 3.0
"""So far from where it should be a face is looked for."""
SAID_AT_ONCE = ("part", "done", "said", "touching", "single", "optional_stop", "block_delete", "tool")
"""What of a status is another state, and not only another place."""
Kind = Literal["program", "clamp", "zero", "tool"]


@dataclass(frozen=True)
class Item:
    """One thing to do before the first cut: what it is, how it stands, whether it is done; of a tool its station."""

    key: str
    kind: Kind
    title: str
    says: str
    done: bool
    station: int = 0


@dataclass(frozen=True)
class Written:
    """What goes over the link out of these proofs: asked for with every status, written once."""

    proofs: list[ShownProof] = field(default_factory=list)
    data: bytes = b""
    digest: str = ""


class MachineDesk(QObject):
    """`changed` says that something other than the places is another; `moved` that a status has come; `grown` that there is
    another picture of the part; `said` is a sentence for the machinist."""

    changed = pyqtSignal()
    moved = pyqtSignal()
    grown = pyqtSignal()
    said = pyqtSignal(str, str)

    def __init__(self, session: Session, link: MachineLink, keeper: SentKeeper) -> None:
        super().__init__()
        self.session, self.link, self.keeper = session, link, keeper
        self._sure = b""
        """A program that must not run, and that somebody has asked to send once."""
        self.status: m.Status | None = None
        self.offsets: dict[int, m.WorkOffset] = {}
        self.tools: dict[int, m.ToolOffset] = {}
        self.stations: dict[int, str] = {}
        """The tool that was put in, by station."""
        self.broken: set[int] = set()
        self.measured: set[int] = set()
        """Stations whose tool was measured since it was put in."""
        self.zeroed = False
        self.sent = ""
        """The digest of the program that the machine has."""
        self.clamped: tuple[str, Any, Any] | None = None
        """Holding, stock and how it is held of what is in the machine; None with nothing in it."""
        self._clamped_job: Job | None = None
        self._written = Written()
        self.ran_on = 0
        """The part on which a program has run to its end."""
        self.moves: list[m.Moved] = []
        self.part: GrownPart | None = None
        self.gauges: list[Gauge] = []
        self.restarts: list[Restart] = []
        self.book = MeasuringBook(session)
        self.at = 0
        """Which of the parts on the table is looked at."""
        self.stopped_at = 0
        """The line that was in work last."""
        self.lives: dict[int, float] = {}
        """How long tools last, in minutes of cutting, by station."""
        self._asked = False
        self._stale = False
        self._look = QTimer(self)
        self._look.setInterval(LOOK_EVERY)
        self._look.timeout.connect(self._look_again)
        link.status.connect(self._status)
        link.went.connect(self._went)
        link.changed.connect(self._link_changed)
        session.proof_changed.connect(self._proved)

    # -- the job --------------------------------------------------------------------------------------------------

    @property
    def planned(self) -> bool:
        """Is there a job, and its plan? A job that has just been opened has none yet."""
        return self.session.has_job and bool(self.session.plan.holdings)

    @property
    def held(self) -> ShownHolding:
        return self.session.held

    @property
    def unit(self) -> Unit:
        return self.session.job.unit

    @property
    def turns(self) -> bool:
        return self.session.job.card.turns

    @property
    def mm(self) -> float:
        """A millimetre in the job's unit."""
        return scale("mm", self.unit)

    @property
    def proofs(self) -> list[ShownProof]:
        """Those of the holdings that share the program of the one that is shown."""
        whole = self.session.whole
        if whole is None or not self.planned:
            return []
        own = self.held.number
        idents = [h.holding.id for h in self.session.plan.holdings if h.number == own]
        return [proof for ident in idents if (proof := whole.get(ident)) is not None]

    def used(self) -> list[AnyTool]:
        """The tools of the program, by station."""
        found: dict[int, AnyTool] = {}
        for proof in self.proofs:
            for stage in proof.stages:
                if stage.run.tool is not None and stage.step:
                    found[stage.tool] = stage.run.tool
        return [found[station] for station in sorted(found)]

    def program(self) -> tuple[str, bytes]:
        """The program's name on the machine, and what goes over; nothing where it is not proved."""
        proofs = self.proofs
        if not proofs:
            return "", b""
        name = names_of(self.session.job.name, [self.held.number], proofs[0].card.dialect)[0]
        if self._written.proofs != proofs:  # a proof is equal to itself alone
            data = program_bytes(proofs, stamp())
            self._written = Written(proofs, data, digest_of(data))
        return name, self._written.data

    def _proved(self) -> None:
        """Another proof: other sizes, other places to take up."""
        self.gauges, self.restarts = [], []
        if not self.planned or self.at >= len(self.held.parts):
            self.at = 0
        if self.session.has_job and not self.holds_it:  # what is in the machine is of another job, or of another holding
            self.part = None
        if self.session.has_job and self.link.there:
            self._ask_core()
        self.changed.emit()

    def _ask_core(self) -> None:
        ident = self.session.held_id
        self.session.core.ask("gauges", ident, then=partial(self._take, "gauges"))
        self.session.core.ask("restarts", ident, then=partial(self._take, "restarts"))

    def _take(self, what: str, value: Any, trouble: str) -> None:
        setattr(self, what, [] if trouble or value is None else value)
        self.changed.emit()

    # -- the machine ------------------------------------------------------------------------------------------------

    def start(self, seed: int) -> None:
        """Starts a stand-in of the job's machine."""
        self.link.start(self.session.job, seed)

    def _link_changed(self) -> None:
        if not self.link.there:
            self.status, self.clamped, self.part, self.sent = None, None, None, ""
            self.offsets, self.tools, self.stations = {}, {}, {}
            self.broken, self.measured, self.zeroed = set(), set(), False
            self.moves, self.ran_on, self.at = [], 0, 0
            self._look.stop()
        elif self.session.has_job:
            self.book.begin()
            self._ask_core()
            self._look.start()
            self.look_at_tables()
        self.changed.emit()

    def do(self, request: m.AnyRequest, then: Callable[[dict[str, Any]], None] | None = None, about: str = "") -> None:
        """Asks the machine; a refusal is said, and what it is `about`."""

        def answered(answer: m.Answer) -> None:
            if not answer.ok:
                self.said.emit("wrong", f"{about}{answer.why}")
            elif then is not None:
                then(answer.brings)

        self.link.ask(request, answered)

    def look_at_tables(self) -> None:
        """Asks for all offsets."""
        self.do(m.Tables(), self._tables)

    def _tables(self, brings: dict[str, Any]) -> None:
        self.offsets = {o.index: o for o in msgspec.convert(brings["offsets"], list[m.WorkOffset])}
        self.tools = {t.number: t for t in msgspec.convert(brings["tools"], list[m.ToolOffset])}
        self.broken = set(brings["broken"])
        self.measured -= self.broken
        self.changed.emit()

    def _status(self, status: m.Status) -> None:
        old, self.status = self.status, status
        self._follow(old, status)
        self.stopped_at = status.line or self.stopped_at
        if old is not None and old.mode != status.mode:
            if status.mode in ("alarm", "ready"):
                self.look_at_tables()
            if old.done < status.done:
                self.ran_on = status.part
            self.changed.emit()
        elif old is None or any(getattr(old, name) != getattr(status, name) for name in SAID_AT_ONCE):
            self.changed.emit()
        self.moved.emit()

    def _follow(self, old: m.Status | None, status: m.Status) -> None:
        """Of several parts the one in work is looked at."""
        if status.mode == "running" and (old is None or (old.offset, old.mode) != (status.offset, "running")):
            parts = self.held.parts if self.planned and not self.turns else ()
            self.look_at(next((k for k, p in enumerate(parts) if p.index == status.offset), self.at))

    def _went(self, went: m.Went) -> None:
        self.moves = [*self.moves[: went.first], *went.moves]
        self._stale = True

    def _look_again(self) -> None:
        """Another picture, where something has moved and nobody is at the last one still."""
        if not self._stale or self._asked or self.session.stale or not self.holds_it:
            return
        self._stale, self._asked = False, True

        def seen(part: GrownPart | None, trouble: str) -> None:
            self._asked = False
            if part is not None:
                self.part = part
                self.grown.emit()

        self.session.core.ask("grown", self.session.held_id, self.moves, then=seen)

    # -- setting up -------------------------------------------------------------------------------------------------

    def items(self) -> list[Item]:
        """All that there is to do before the first cut."""
        if not self.planned:
            return []
        name, data = self.program()
        has = bool(data) and self.sent == self._written.digest
        says = tr("on the machine") if has else tr("changed since it was sent") if self.sent else tr("not sent yet")
        found = [Item("program", "program", name or tr("The program"), says, has)]
        used_up = self.status is not None and self.ran_on == self.status.part > 0
        clamped = self.holds_it and not used_up
        what = self._stock_text(next_one=used_up)
        says = tr("clamped") if clamped else tr("the next one is to be clamped") if used_up else tr("not clamped yet")
        found.append(Item("clamp", "clamp", what, says, clamped))
        zeroed = self.zeroed and not self.overwritten
        found.append(Item("zero", "zero", tr("Zero {offset_name}", offset_name=self.offset_name()), self._zero_text(), zeroed))
        found += [self._tool_item(tool) for tool in self.used()]
        return found

    @property
    def holds_it(self) -> bool:
        """Is what is in the machine the stock of the holding that is shown?"""
        return self.planned and self.clamped is not None and self.clamped == self._holding()

    def _holding(self) -> tuple[str, Any, Any]:
        held = self.held
        places = {name: None for name in ("offset_x", "offset_y", "offset_z") if hasattr(held.holding, name)}
        return (held.holding.id, held.stock, msgspec.structs.replace(held.holding, **places))

    def _stock_text(self, *, next_one: bool) -> str:
        number = self.status.part if self.status is not None and self.holds_it else 0
        return tr("Stock of part {number}", number=number + next_one) if number else tr("Stock")

    def tip_place(self, status: m.Status) -> tuple[float, float, float]:
        """Where the tip is, from the first part's zero."""
        shift = next((p.shift for p in self.held.parts if p.index == status.offset), (0.0, 0.0, 0.0))
        x, y, z = (a + b for a, b in zip(status.places, shift, strict=True))
        return (x, y, z)

    def offset_name(self, at: int = 0) -> str:
        """The work offset of one of the parts on the table."""
        index = self.held.parts[at].index if at else self.offset_index()
        return f"G{53 + index}" if index <= 6 else tr("offset {index}", index=index)

    def offset_index(self) -> int:
        """The work offset of the first part."""
        if self.turns:
            return int(str(getattr(self.held.holding, "work_offset", "G54"))[1:]) - 53
        return self.held.parts[0].index if self.held.parts else 1

    @property
    def overwritten(self) -> bool:
        """Does the program itself write another zero into the table than was touched off, of any part? Turned work has no such
        programs."""
        if self.turns or not self.held.vise.writes_offsets:
            return False
        holding = self.held.vise
        dialect = self.session.job.card.dialect
        half = 0.51 * 10.0 ** -dialect.places(self.unit)  # as it is written
        for part in self.held.parts:
            one = self.offsets.get(part.index, m.WorkOffset(part.index))
            for axis, shift in zip("xyz", part.shift, strict=True):
                writes = (getattr(holding, f"offset_{axis}") or 0.0) + shift
                if abs(writes - getattr(one, axis)) > half:
                    return True
        return False

    def _zero_text(self) -> str:
        one = self.offsets.get(self.offset_index())
        if not self.zeroed or one is None:
            return tr("not touched off yet")
        if self.overwritten:
            return tr("the program writes another one")
        places = (one.z,) if self.turns else (one.x, one.y, one.z)
        digits = 2 if self.unit == "mm" else 3
        said = "  ".join(decimal(f"{place:.{digits}f}") for place in places)
        return f"{said}  {decimal(f'{one.turn:.2f}')}°" if one.turn else said

    def _tool_item(self, tool: AnyTool) -> Item:
        station, offset = tool.station, self.tools.get(tool.station)
        there = self.stations.get(station) == tool.id
        worn = self.worn_out(station) or 0.0
        if station in self.broken:
            says = tr("broken: another one is to be put in")
        elif there and worn >= 1.0:
            says = tr("its life is over: another one is to be put in")
        elif not there:
            says = tr("to be put in")
        elif station not in self.measured or offset is None:
            says = tr("to be measured")
        elif self.turns and isinstance(tool, TurnTool):
            says = decimal(f"X {offset.x + offset.wear_x:.3f}  Z {offset.z + offset.wear_z:.3f}")
        else:
            says = tr("length {z:.3f}", z=offset.z + offset.wear_z)
        done = there and station in self.measured and station not in self.broken and worn < 1.0
        if done and worn >= SOON:
            says += tr(", its life is over soon")
        return Item(f"tool:{station}", "tool", f"T{station} {tool.called}", says, done, station)

    @property
    def open_items(self) -> list[Item]:
        return [item for item in self.items() if not item.done]

    def send(self) -> None:
        """The program goes to the machine's disk and is chosen."""
        name, data = self.program()
        if not data:
            self.said.emit("wrong", tr("There is no proved program to send."))
            return
        if len(data) > MOST_SENT:
            self.said.emit(
                "wrong", tr("The link takes {most_sent} bytes at most: send it as a file.", most_sent=grouped(MOST_SENT))
            )
            return
        if self.must_not_run and self._sure != data:
            self._sure = data
            self.said.emit(
                "wrong", tr("This program must not run as it is: see the remarks. Press again to send it all the same.")
            )
            return
        proof, program = self.proofs[0], self.session.program

        def sent(brings: dict[str, Any]) -> None:
            if brings["digest"] != digest_of(data):
                self.said.emit("wrong", tr("What lies on the machine is not what was sent."))
                return
            self.do(m.Select(name=name), chosen)

        def chosen(_: dict[str, Any]) -> None:
            self.sent = digest_of(data)
            try:
                self.keeper.keep(program, f"{MACHINE_PATH}{name}", data, proof)
            except OSError as error:
                self.said.emit("wrong", tr("What was sent could not be taken down: {error}.", error=reason_of(error)))
            self.changed.emit()

        self.do(m.Put(name=name, text=data.decode("latin-1")), sent)

    def read_back(self) -> None:
        """Is what lies on the machine still what was sent?"""
        name, data = self.program()

        def found(brings: dict[str, Any]) -> None:
            same = brings["text"].encode("latin-1", "replace") == data
            text = tr("is this program, byte for byte") if same else tr("is not this program: send it anew")
            self.said.emit("" if same else "wrong", tr("What lies on the machine as {name} {text}.", name=name, text=text))

        self.do(m.Get(name=name), found)

    @property
    def must_not_run(self) -> bool:
        """Does the proof hold the program back?"""
        return any(r.level in HOLDING for proof in self.proofs for r in proof.remarks)

    def clamp(self) -> None:
        """The stock is in."""
        wanted = self._holding()

        def done(_: dict[str, Any]) -> None:
            again = self.clamped == wanted
            self.clamped, self._clamped_job = wanted, job
            self.moves, self._stale = [], True
            if not again:
                self.zeroed = False
            self.changed.emit()

        job = self.session.job
        self.do(m.Clamp(job=msgspec.to_builtins(job), holding=wanted[0]), done)

    def load(self, tool: AnyTool) -> None:
        """A tool is in its station."""

        def done(_: dict[str, Any]) -> None:
            self.stations[tool.station] = tool.id
            self.broken.discard(tool.station)
            self.measured.discard(tool.station)
            self.changed.emit()

        job = self.session.job
        told = None if job is self._clamped_job else msgspec.to_builtins(job)  # a tool that came into the job later
        self.do(m.Load(station=tool.station, tool=tool.id, job=told), done)

    def load_all(self) -> None:
        """All that are not in yet, and those that have broken."""
        for tool in self.used():
            if self.stations.get(tool.station) != tool.id or tool.station in self.broken:
                self.load(tool)

    def preset(self, tool: AnyTool) -> None:
        """A tool is measured on the setter, and the control told."""

        def found(brings: dict[str, Any]) -> None:
            self.set_tool(tool, x=brings["x"], z=brings["z"])

        self.do(m.Preset(station=tool.station), found)

    def preset_all(self) -> None:
        """All that are in and were not measured."""
        for tool in self.used():
            if self.stations.get(tool.station) == tool.id and tool.station not in self.measured:
                self.preset(tool)

    def set_tool(self, tool: AnyTool, x: float | None = None, z: float | None = None) -> None:
        """A tool's ways from its tip are known; the second edge of a grooving tool lies its width beside the first."""
        diameter = tool.diameter if isinstance(tool, Tool) else None
        fresh: Any = {
            f"wear_{axis}": 0.0 for axis, given in (("x", x), ("z", z)) if given is not None
        }  # the other stays corrected
        self.do(m.SetTool(number=tool.station, x=x, z=z, diameter=diameter, **fresh))
        if isinstance(tool, TurnTool) and tool.second:
            dz, dr = tool.other_edge
            own = self.tools.get(tool.station, m.ToolOffset(tool.station))
            across, along = own.x if x is None else x, own.z if z is None else z
            self.do(m.SetTool(number=tool.second, x=across - dr, z=along - dz, **fresh))
        self.measured.add(tool.station)
        self.look_at_tables()

    def set_zero(self, **places: Any) -> None:
        """The zero of the first part is known; that of the others follows it."""
        index = self.offset_index()
        old = self.offsets.get(index, m.WorkOffset(index))
        self.do(m.SetOffset(index=index, **places))
        for part in self.held.parts[1:] if not self.turns else ():
            dx, dy, dz = part.shift
            x, y, z = (places.get(name, getattr(old, name)) for name in "xyz")
            self.do(m.SetOffset(index=part.index, x=x + dx, y=y + dy, z=z + dz))
        self.zeroed = True
        self.look_at_tables()

    def proved_with(self) -> Job:
        """The job with zero and tools as they were touched off."""
        job, ident = self.session.job, self.held.holding.id
        zero = self.offsets.get(self.offset_index()) if self.zeroed else None
        for axis in ("z",) if self.turns else ("x", "y", "z"):
            if zero is not None:
                job = answering.answered(job, f"holding:{ident}.offset_{axis}", round(getattr(zero, axis), 5))
        for tool in self.used():
            one = self.tools.get(tool.station)
            if one is None or tool.station not in self.measured:
                continue
            own = scale(self.unit, tool.unit)
            names = {"length_x": one.x, "length_z": one.z} if isinstance(tool, TurnTool) else {"length": one.z}
            if isinstance(tool, Tool) and tool.stands == "radial" and self.turns:
                names = {"length": one.x}
            for name, value in names.items():
                job = answering.answered(job, f"tool:{tool.id}.{name}", round(value * own, 5))
        return job

    def prove_with_it(self) -> None:
        """The proof runs again with zero and tools as they are: whether the travels are enough, and nothing is in the way."""
        self.session.edit(self.proved_with(), tr("Zero and tools as touched off"))

    # -- running ----------------------------------------------------------------------------------------------------

    @property
    def mode(self) -> str:
        return self.status.mode if self.status is not None else ""

    def run(self, start: m.Start) -> None:
        """Runs the program, from its begin or from a place in it."""
        self.do(start)

    def switch(self, **given: Any) -> None:
        """Switches and shares of the control."""
        self.do(m.Switches(**given))

    # -- measuring --------------------------------------------------------------------------------------------------

    def gauge(self, ident: str) -> Gauge | None:
        return next((g for g in self.gauges if g.id == ident), None)

    def measure(self, gauge: Gauge) -> None:
        """A size of the part in the machine is measured."""
        if not gauge.ends:
            return
        key, offset = self.book.key(self), self.held.parts[self.at].index if self.at else 0

        def found(brings: dict[str, Any]) -> None:
            self.book.take(self, key, gauge, gauge.size(brings["offs"]))
            self.changed.emit()

        request = m.Measure(ends=list(gauge.ends), within=WITHIN_MM * self.mm, round=gauge.round, offset=offset)
        self.do(request, found, about=f"{gauge.text}, {gauge.title}: ")

    def typed(self, gauge: Gauge, size: float | None) -> None:
        """A size as somebody has read it from the micrometer; None takes it away."""
        self.book.take(self, self.book.key(self), gauge, size, typed=True)
        self.changed.emit()

    def size_of(self, gauge: Gauge) -> float | None:
        """What was measured of the part in the machine."""
        made = self.book.made(self.book.key(self))
        size = made.size(gauge.id, gauge.nominal) if made is not None else None
        return size.value if size is not None else None

    def correction(self, gauge: Gauge) -> Correction | None:
        """What would bring a size back to its aim; None where it was not measured, or nothing does."""
        size = self.size_of(gauge)
        return None if size is None else correction(gauge, size, self.gauges)

    def standing(self, gauge: Gauge) -> str:
        """Is a size in its limits? Empty where it was not measured."""
        size = self.size_of(gauge)
        return "" if size is None else standing(gauge, size)

    def correct(self, way: Correction) -> None:
        """Raises a wear or shifts a zero, or gives the job's tool the diameter that it cuts: then the program is another one."""
        if way.by == "tool":
            tool = next((t for t in self.used() if t.station == way.station), None)
            if isinstance(tool, Tool):
                address, unit = f"tool:{tool.id}.diameter", tool.unit
                now = tool.diameter + way.amount * scale(self.unit, unit)
                job = answering.answered(self.session.job, address, round(now, 3 if unit == "mm" else 5))
                self.session.edit(job, tr("T{station} cuts as Ø{now:.3f}", station=way.station, now=now))
            return
        if way.by in ZEROS:
            self._shift_zero(ZEROS[way.by], way.amount)
        else:
            old = self.tools.get(way.number, m.ToolOffset(way.number))
            name = f"wear_{way.by}"
            self.do(m.SetTool(number=way.number, **{name: getattr(old, name) + way.amount}))
        self.look_at_tables()

    def _shift_zero(self, axis: int, amount: float) -> None:
        """The zero of the part that is looked at goes along an axis of the part, which may be turned."""
        index = self.held.parts[self.at].index if self.held.parts else self.offset_index()
        old = self.offsets.get(index, m.WorkOffset(index))
        turn = math.radians(old.turn)
        dx, dy = ((math.cos(turn), math.sin(turn)), (-math.sin(turn), math.cos(turn)))[axis]
        self.do(m.SetOffset(index=index, x=old.x + dx * amount, y=old.y + dy * amount))

    def look_at(self, at: int) -> None:
        """Another one of the parts on the table."""
        if at != self.at and 0 <= at < max(len(self.held.parts), 1):
            self.at = at
            self._stale = True
            self.changed.emit()
            self.grown.emit()

    def worn_out(self, station: int) -> float | None:
        """How much of a tool's life is over, as a share; None where nobody has said how long it lasts."""
        life, offset = self.lives.get(station), self.tools.get(station)
        return None if not life or offset is None else offset.minutes / life


def by_station(tools: Sequence[AnyTool], station: int) -> AnyTool | None:
    """The tool of a station."""
    return next((tool for tool in tools if tool.station == station), None)
