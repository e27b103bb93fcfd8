"""How a thing before the first cut is done: the program sent, the stock clamped, the zero touched off, a tool measured."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.machine_desk import Item, MachineDesk, by_station
from bastler.app.number_row import NumberRow
from bastler.app.panels import emptied, group_head, panel_area
from bastler.app.theme import ROLES, dress
from bastler.language import decimal, sayable, tr
from bastler.link import messages as m
from bastler.link.touching import Contact, NoTouch, tool_across, tool_length, turned_by, zero_along, zero_in_plan
from bastler.tools import AnyTool, TurnTool
from bastler.units import Kind, grouped, number_text, printed, with_unit
from bastler.units.kinds import suffix

REACH_MM = 40.0
"""So far the feeler, or a tool, goes to look for a face."""
BACK_MM = 2.0
"""So far it goes back from what it has touched."""
OVERWRITTEN = sayable(
    "The program writes the zero itself, and another one than was touched off: it would be in force from its first line on. "
    "Prove with what was touched and send it again, or let the holding write no offsets."
)
ARROWS = {("x", -1.0): "←", ("x", 1.0): "→", ("y", -1.0): "↓", ("y", 1.0): "↑", ("z", -1.0): "↓"}


class Toucher:
    """Sends a tool to look for a face, and back from it; tells where the axes stood."""

    def __init__(self, desk: MachineDesk) -> None:
        self.desk = desk
        self._wanted: tuple[m.Jog, Callable[[Contact], None]] | None = None
        self._heard = self._met = False
        desk.moved.connect(self._moved)

    def touch(self, axis: Any, sense: float, found: Callable[[Contact], None]) -> None:
        """Along an axis in a sense, until something is met."""
        jog = m.Jog(axis=axis, by=sense * REACH_MM * self.desk.mm, feel=True)
        self._wanted, self._heard = (jog, found), False
        self.desk.link.ask(jog, self._answered)

    def _answered(self, answer: m.Answer) -> None:
        if not answer.ok:
            self._wanted = None
            self.desk.said.emit("wrong", answer.why)
        else:
            self._heard, self._met = True, bool(answer.brings.get("meets"))

    def _moved(self) -> None:
        status, wanted = self.desk.status, self._wanted
        if wanted is None or not self._heard or status is None or status.mode == "jogging":
            return
        self._wanted = None
        if status.mode != "ready":
            return
        jog, found = wanted
        if not self._met:
            self.desk.said.emit(
                "wrong", tr("Nothing was met along {upper} within {reach_mm:g} mm.", upper=jog.axis.upper(), reach_mm=REACH_MM)
            )
            return
        sense = 1.0 if jog.by > 0 else -1.0
        feeler = self.desk.link.hello.get("feeler")
        radius = float(feeler["radius"]) if isinstance(feeler, dict) and not status.tool and not self.desk.turns else 0.0
        if not radius and jog.axis != "z" and not self.desk.turns:
            tool = by_station(self.desk.used(), status.tool)
            radius = getattr(tool, "diameter", 0.0) / 2
        self.desk.do(m.Jog(axis=jog.axis, by=-sense * BACK_MM * self.desk.mm, fast=True))
        found(Contact(status.machine, jog.axis, sense, radius))


class Guide(QWidget):
    """The panel of whatever item is chosen."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk, self.toucher = desk, Toucher(desk)
        self.key = ""
        self.contacts: dict[str, list[Contact]] = {"x": [], "y": [], "z": []}
        self.length = 0.0
        """Of what has touched along Z."""
        self.rows: dict[str, NumberRow] = {}
        self.buttons: dict[str, QPushButton] = {}
        self.labels: dict[str, Label] = {}
        self._shape: tuple[object, ...] = ()
        self._shown: m.WorkOffset | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        area = panel_area()
        holder = QWidget()
        self.column = QVBoxLayout(holder)
        self.column.setContentsMargins(18, 12, 18, 12)
        self.column.setSpacing(8)
        area.setWidget(holder)
        column.addWidget(area)
        desk.changed.connect(self.refresh)

    def show_item(self, key: str) -> None:
        """Another thing to do."""
        if key != self.key:
            self.key = key
            self.contacts = {"x": [], "y": [], "z": []}
        self._shape = ()
        self.refresh()

    def refresh(self) -> None:
        """What is shown as things stand; made anew only where there is something else to do."""
        if not self.desk.planned:
            return
        item = next((i for i in self.desk.items() if i.key == self.key), None)
        says = item.says if item and item.kind != "zero" else self.desk.overwritten
        shape = (self.key, item.done if item else None, says, self.desk.unit)
        if shape != self._shape:
            self._shape = shape
            self._make(item)
        self._tell()

    # -- making -----------------------------------------------------------------------------------------------------

    def _make(self, item: Item | None) -> None:
        emptied(self.column)
        self._shown = None
        self.rows, self.buttons, self.labels = {}, {}, {}
        if item is None:
            self._say(tr("Press a card on the left: here stands how it is done."))
        else:
            self._head(item.title)
            {"program": self._program, "clamp": self._clamp, "zero": self._zero, "tool": self._tool}[item.kind](item)
        self.column.addStretch(1)

    def _head(self, text: str) -> None:
        label = Label(text)
        label.setWordWrap(True)
        label.setStyleSheet("font-size: 17px; font-weight: bold;")
        self.column.addWidget(label)

    def _say(self, text: str, name: str = "", *, soft: bool = False, tint: str = "") -> Label:
        label = Label(text)
        label.setWordWrap(True)
        if soft:
            label.setObjectName("soft")
        if tint:
            dress(label, f"color: {tint};")
        self.column.addWidget(label)
        if name:
            self.labels[name] = label
        return label

    def _group(self, text: str) -> None:
        for widget in group_head(text):
            self.column.addWidget(widget)

    def _button(self, name: str, text: str, act: Callable[[], object], *, main: bool = False) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("main" if main else "plain")
        button.clicked.connect(lambda _: act())
        self.buttons[name] = button
        return button

    def _add(self, name: str, text: str, act: Callable[[], object], *, main: bool = False) -> None:
        self.column.addWidget(self._button(name, text, act, main=main))

    def _row(self, name: str, says: str, value: float | None) -> NumberRow:
        row = NumberRow(says, self.desk.unit, Kind.LENGTH, value)
        row.given.connect(lambda _: self._tell())
        self.rows[name] = row
        self.column.addWidget(row)
        return row

    def _program(self, item: Item) -> None:
        name, data = self.desk.program()
        if not data:
            self._say(tr("There is no proved program yet."))
            return
        self._say(
            tr("{data} bytes go to the machine's disk as {name}, are read back, and chosen.", data=grouped(len(data)), name=name)
        )
        if self.desk.must_not_run:
            self._say(tr("The proof says that this program must not run. It goes out with a line that says so."), tint=ROLES.stop)
        if self.desk.sent and not item.done:
            self._say(tr("What lies on the machine is an older program."), tint=ROLES.caution_text)
        self._add(
            "send", tr("Send it to the machine") if not item.done else tr("Send it once more"), self.desk.send, main=not item.done
        )
        if self.desk.sent:
            self._add("back", tr("Read it back and compare"), self.desk.read_back)

    def _clamp(self, item: Item) -> None:
        held, unit = self.desk.held, self.desk.unit
        lines = []
        if self.desk.turns:
            z0, _, z1, outer = held.turned.raw.bounds
            across, out, long = (with_unit(v, Kind.LENGTH, unit) for v in (2 * outer, z1 - held.turned.jaws_at, z1 - z0))
            lines += [tr("Ø{across}, out of the jaws by {out}.", across=across, out=out), tr("It is {long} long.", long=long)]
        else:
            lo, hi = held.flat.stock.lo, held.flat.stock.hi
            size = " × ".join(printed(b - a, Kind.LENGTH, unit) for a, b in zip(lo, hi, strict=True))
            lines.append(f"{size} {suffix(Kind.LENGTH, unit)}, X × Y × Z.")
            grip = getattr(held.holding, "grip", None)
            if held.flat.jaws and grip:
                lines.append(tr("The jaws hold {grip} of its height.", grip=with_unit(grip, Kind.LENGTH, unit)))
        for line in lines:
            self._say(line)
        self._say(tr("The drawing shows how it lies. On a real machine this is done by hand, and ticked off here."), soft=True)
        self._add(
            "clamp", tr("It is clamped") if not item.done else tr("Another one is clamped"), self.desk.clamp, main=not item.done
        )

    # -- tools ------------------------------------------------------------------------------------------------------

    def _tool(self, item: Item) -> None:
        tool = by_station(self.desk.used(), item.station)
        if tool is None:
            return
        there = self.desk.stations.get(item.station) == tool.id and item.station not in self.desk.broken
        self._say(tr("Station {station}. Its offset has the same number.", station=item.station), soft=True)
        self._add(
            "load",
            tr("It is in its station") if not there else tr("Another one was put in"),
            partial(self.desk.load, tool),
            main=not there,
        )
        left = [t for t in self.desk.used() if self.desk.stations.get(t.station) != t.id or t.station in self.desk.broken]
        if len(left) > 1:
            self._add("load-all", tr("All {left} tools are in", left=len(left)), self.desk.load_all)
        if not there:
            return
        self._group(tr("How long it is"))
        self._add("preset", tr("Measure it on the setter"), partial(self.desk.preset, tool), main=not item.done)
        if len([t for t in self.desk.used() if t.station not in self.desk.measured]) > 1:
            self._add("preset-all", tr("Measure all that are in on the setter"), self.desk.preset_all)
        self._group(tr("Or touch with it"))
        self._add("take-up", tr("Take T{station} up", station=item.station), lambda: self.desk.do(m.TakeUp(station=item.station)))
        self._row("face", tr("The face that it touches lies at Z"), self._top())
        if self.desk.turns and isinstance(tool, TurnTool):
            self._add("touch-z", tr("It is at the face now: take Z"), partial(self._take_length, tool))
            self._row("turned", tr("It has turned a diameter of"), None)
            self._add("take-x", tr("Take X, as it stands there"), partial(self._take_across, tool))
        else:
            self._add("touch-z", tr("Touch down on the face"), partial(self._touch_length, tool))

    def _top(self) -> float:
        """Where the face lies that is touched first: that of the raw stock."""
        held = self.desk.held
        return float(held.turned.raw.bounds[2]) if self.desk.turns else held.flat.stock.hi[2]

    def _touch_length(self, tool: AnyTool) -> None:
        where = self.rows["face"].value
        if where is None or not self._is_up(tool):
            return

        def found(contact: Contact) -> None:
            zero = self.desk.offsets.get(self.desk.offset_index(), m.WorkOffset(1)).z
            self.desk.set_tool(tool, z=tool_length(contact, zero, where))

        self.toucher.touch("z", -1.0, found)

    def _is_up(self, tool: AnyTool) -> bool:
        status = self.desk.status
        if status is None or status.tool != tool.station:
            self.desk.said.emit("wrong", tr("T{station} is not up. Take it up first.", station=tool.station))
            return False
        return True

    def _take_length(self, tool: AnyTool) -> None:
        where, status = self.rows["face"].value, self.desk.status
        if where is None or status is None or not self._is_up(tool):
            return
        zero = self.desk.offsets.get(self.desk.offset_index(), m.WorkOffset(1)).z
        self.desk.set_tool(tool, z=tool_length(Contact(status.machine, "z", -1.0), zero, where))

    def _take_across(self, tool: AnyTool) -> None:
        diameter, status = self.rows["turned"].value, self.desk.status
        if diameter is None:
            self.desk.said.emit("wrong", tr("Measure what it has turned, and type the diameter."))
        elif status is not None and self._is_up(tool):
            self.desk.set_tool(tool, x=tool_across(status.machine, diameter))

    # -- zero -------------------------------------------------------------------------------------------------------

    def _zero(self, item: Item) -> None:
        if self.desk.turns:
            self._say(
                tr("Touch the front face with a tool that was measured. Where that face lies from the finished one is typed.")
            )
            self._row("z", tr("The face that was touched lies at Z"), self._top())
            self._touches("z")
        else:
            lo, hi = self.desk.held.flat.stock.lo, self.desk.held.flat.stock.hi
            self._say(tr("The feeler beside a face, below its top; then the arrow toward it. Of two faces the middle counts."))
            for axis, k in (("x", 0), ("y", 1), ("z", 2)):
                self._group({"x": tr("Left or right"), "y": tr("Front or back"), "z": tr("Top")}[axis])
                self._touches(axis)
                one, two = (lo[k], (lo[k] + hi[k]) / 2) if axis != "z" else (hi[k], hi[k])
                self._row(axis, tr("What was touched lies at"), one).setProperty("middle", two)
        self._say("", "found", soft=True)
        self._add("take", tr("Take it as the zero"), self._take_zero, main=True)
        self._group(tr("Or typed"))
        old = self.desk.offsets.get(self.desk.offset_index(), m.WorkOffset(1))
        for axis in ("z",) if self.desk.turns else ("x", "y", "z"):
            self._row(f"typed-{axis}", tr("{upper} of the zero, from the machine's", upper=axis.upper()), getattr(old, axis))
        if not self.desk.turns:
            row = NumberRow(tr("Turned by"), self.desk.unit, Kind.ANGLE, old.turn)
            self.rows["typed-turn"] = row
            self.column.addWidget(row)
        self._add("typed", tr("Take what was typed"), self._take_typed)
        self._group(tr("And the proof"))
        if self.desk.zeroed and self.desk.overwritten:
            self._say(tr(OVERWRITTEN), tint=ROLES.caution_text)
        self._say(tr("Travels and clearances, with zero and tools as they are now."), soft=True)
        self._add("prove", tr("Prove with what was touched"), self.desk.prove_with_it)

    def _touches(self, axis: str) -> None:
        """The arrows that look for a face, and what was touched."""
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(6)
        for sense in (-1.0, 1.0) if axis != "z" else (-1.0,):
            text = (
                tr("Touch ↓")
                if axis == "z" and not self.desk.turns
                else tr("Touch {arrows}", arrows="←" if axis == "z" else ARROWS[axis, sense])
            )
            button = self._button(f"touch-{axis}{'+' if sense > 0 else '-'}", text, partial(self._touch, axis, sense))
            line.addWidget(button)
        forget = self._button(f"forget-{axis}", tr("Forget"), partial(self._forget, axis))
        forget.setObjectName("link")
        line.addStretch(1)
        line.addWidget(forget)
        self.column.addWidget(row)
        self._say("", f"touched-{axis}", soft=True).setTextFormat(Qt.TextFormat.PlainText)

    def _touch(self, axis: str, sense: float) -> None:
        def found(contact: Contact) -> None:
            kept = [c for c in self.contacts[axis] if axis != "z"]
            self.contacts[axis] = [*kept, contact][-3:]
            if axis == "z":
                self.length = self._length()
            senses = {c.sense for c in self.contacts[axis]}
            row = self.rows.get(axis)
            if row is not None and len(senses) > 1:
                row.show_value(row.property("middle"))
            elif row is not None and axis != "z":
                k = "xyz".index(axis)
                box = self.desk.held.flat.stock
                row.show_value(box.lo[k] if sense > 0 else box.hi[k])
            self._tell()

        self.toucher.touch(axis, sense, found)

    def _forget(self, axis: str) -> None:
        self.contacts[axis] = []
        self._tell()

    def _turn(self) -> float | None:
        """By how much the part is turned, by two touches of one face; None without them."""
        for axis in ("y", "x"):
            own = self.contacts[axis]
            pairs = [(a, b) for k, a in enumerate(own) for b in own[k + 1 :] if a.sense == b.sense]
            for a, b in pairs:
                try:
                    return turned_by(a, b)
                except NoTouch:
                    continue
        return None

    def _found(self) -> dict[str, float] | None:
        """The zero that follows from what was touched; None where nothing does."""
        status = self.desk.status
        old = self.desk.offsets.get(self.desk.offset_index(), m.WorkOffset(1))
        if status is None or not any(self.contacts.values()):
            return None
        found: dict[str, float] = {}
        if not self.desk.turns and (self.contacts["x"] or self.contacts["y"]):
            turn = self._turn()
            angle = old.turn if turn is None else turn
            touched: dict[str, tuple[list[Contact], float]] = {}
            for axis in ("x", "y"):
                where = self.rows[axis].value
                if self.contacts[axis] and where is not None:
                    by_sense = {c.sense: c for c in reversed(self.contacts[axis])}
                    touched[axis] = (list(by_sense.values()), where)
            found["x"], found["y"] = zero_in_plan(touched, angle, old)
            found["turn"] = angle
        where = self.rows["z"].value
        if self.contacts["z"] and where is not None:
            found["z"] = zero_along(self.contacts["z"][-1], self.length, where)
        return found or None

    def _length(self) -> float:
        """Of what is in the spindle, or in work."""
        status, feeler = self.desk.status, self.desk.link.hello.get("feeler")
        if status is not None and status.tool:
            one = self.desk.tools.get(status.tool)
            return one.z + one.wear_z if one is not None else 0.0
        return float(feeler["length"]) if isinstance(feeler, dict) else 0.0

    def _tell(self) -> None:
        """What was touched, and what follows from it."""
        if "found" not in self.labels:
            return
        now = self.desk.offsets.get(self.desk.offset_index())
        if now is not None and now != self._shown:
            self._shown = now
            for name in ("x", "y", "z", "turn"):
                if f"typed-{name}" in self.rows:
                    self.rows[f"typed-{name}"].show_value(getattr(now, name))
        self.buttons["prove"].setEnabled(self.desk.zeroed)
        unit = self.desk.unit
        for axis, own in self.contacts.items():
            if f"touched-{axis}" in self.labels:
                k = "xyz".index(axis)
                ways = ("←" if self.desk.turns else ARROWS[axis, c.sense] for c in own)
                places = ", ".join(f"{way} {number_text(c.axes[k], Kind.LENGTH, unit)}" for way, c in zip(ways, own, strict=True))
                self.labels[f"touched-{axis}"].setText(tr("touched at {places}", places=places) if own else tr("not touched"))
                self.buttons[f"forget-{axis}"].setVisible(bool(own))
        found = self._found()
        digits = 3 if unit == "mm" else 4
        words = [decimal(f"{name.upper()} {value:.{digits}f}") for name, value in (found or {}).items() if name != "turn"]
        if found and found.get("turn"):
            words.append(tr("turned {found:.4f}°", found=found["turn"]))
        self.labels["found"].setText(
            tr("The zero lies at {words}.", words=", ".join(words)) if words else tr("Nothing follows yet.")
        )
        self.buttons["take"].setEnabled(bool(words))

    def _take_zero(self) -> None:
        found = self._found()
        if found:
            self.desk.set_zero(**found)

    def _take_typed(self) -> None:
        names = [name for name in ("x", "y", "z", "turn") if f"typed-{name}" in self.rows]
        given = {name: value for name in names if (value := self.rows[f"typed-{name}"].value) is not None}
        if given:
            self.desk.set_zero(**given)
