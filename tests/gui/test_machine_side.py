"""Machine side: whole shifts at the stand-in by keys and clicks, and what must not bring the window down."""

from __future__ import annotations

import os
import random
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QMenu

from bastler.app.labels import Label
from bastler.app.machine_desk import MachineDesk
from bastler.app.machine_guide import OVERWRITTEN
from bastler.app.machine_place import MachinePlace
from bastler.app.sizes_panel import SizeRow
from bastler.job import answering
from bastler.link import messages as m
from bastler.proof.gauge import Gauge

from .conftest import ALT, Hands, QTest


class Stand:
    """Hands at the machine side with a stand-in of a seed."""

    def __init__(self, hands: Hands, name: str, seed: int) -> None:
        hands.opened(name)
        self.hands, self.window = hands, hands.window
        self.place: MachinePlace = hands.window.machine
        self.desk: MachineDesk = self.place.desk
        hands.press(Qt.Key.Key_4, ALT)
        hands.retype(str(seed))
        hands.press(Qt.Key.Key_Return)
        link = self.place.link
        hands.until(lambda: link.there or bool(link.trouble))
        assert not link.trouble, link.trouble
        hands.until(lambda: self.desk.status is not None)
        hands.until(lambda: bool(self.desk.gauges))
        self.desk.do(m.Pace(times=400.0))

    def menu(self, *says: str) -> None:
        """An entry of the stand-in's own menu."""
        bar = self.place.bar
        bar._make_menu()
        menu: QMenu | None = bar.menu
        for word in says[:-1]:
            assert menu is not None
            menu = next(a.menu() for a in menu.actions() if a.menu() is not None and word in a.text())
        assert menu is not None
        next(a for a in menu.actions() if says[-1] in a.text()).trigger()
        QTest.qWait(60)

    def choose(self, key: str) -> None:
        self.hands.click(self.place.list.cards[key])

    def button(self, name: str) -> None:
        self.hands.click(self.place.guide.buttons[name])

    def still(self) -> None:
        """Until the axes stand, as the machine says after it was asked."""
        self.hands.until(lambda: not self.place.link.waiting)
        QTest.qWait(130)
        self.hands.until(lambda: self.desk.mode not in ("jogging", "running"))

    def send_clamp_and_load(self) -> None:
        """The first cards of the list, by clicks."""
        self.choose("program")
        self.button("send")
        self.hands.until(lambda: bool(self.desk.sent))
        self.choose("clamp")
        self.button("clamp")
        self.hands.until(lambda: self.desk.clamped is not None)
        self.choose(f"tool:{self.desk.used()[0].station}")
        self.button("load-all")
        self.hands.until(lambda: all(t.station in self.desk.stations for t in self.desk.used()))
        self.button("preset-all")
        self.hands.until(lambda: all(t.station in self.desk.measured for t in self.desk.used()))

    def type_into(self, field: QLineEdit, text: str) -> None:
        field.setFocus()
        self.hands.retype(text)

    def go_to(self, axis: str, where: str) -> None:
        """A press on the axis in the read-out, a place typed, Enter."""
        read = self.place.read_out
        k = [name.lower() for name, _ in read.axes].index(axis)
        row = read._row(k)
        QTest.mouseClick(read, Qt.MouseButton.LeftButton, pos=QPoint(int(row.left()) + 10, int(row.center().y())))
        self.hands.retype(where)
        self.hands.press(Qt.Key.Key_Return)
        self.still()

    def touch(self, name: str) -> None:
        """An arrow of the guide: looks for a face and comes back from it."""
        guide = self.place.guide
        before = sum(len(own) for own in guide.contacts.values())
        axis = name.split("-")[1][0]
        if axis == "z" and guide.contacts["z"]:
            guide.contacts["z"] = []
            before = sum(len(own) for own in guide.contacts.values())
        self.button(name)
        self.hands.until(lambda: sum(len(own) for own in guide.contacts.values()) > before)
        self.still()

    def start(self) -> None:
        self.hands.click(self.place.bar.start)
        QTest.qWait(130)

    def ends(self) -> str:
        """Runs on over every stop to where it ends, and says how."""
        for _ in range(40):
            self.hands.qtbot.waitUntil(lambda: self.desk.mode not in ("running", "jogging"), timeout=60_000)
            if self.desk.mode != "stopped":
                break
            self.start()
        QTest.qWait(100)
        return self.desk.mode

    def gauge(self, title: str, says: str) -> Gauge:
        return next(g for g in self.desk.gauges if g.title == title and g.says == says)

    def row(self, gauge: Gauge) -> SizeRow:
        return self.place.sizes.rows[gauge.id]

    def measured(self, gauge: Gauge) -> float:
        """A size, by the button beside it."""
        self.place.sizes.area.ensureWidgetVisible(self.row(gauge))
        self.hands.click(self.row(gauge).measure)
        self.hands.until(lambda: self.desk.size_of(gauge) is not None)
        size = self.desk.size_of(gauge)
        assert size is not None
        return size


@pytest.fixture
def stand(hands: Hands, request: pytest.FixtureRequest) -> Iterator[Stand]:
    name, seed = request.param
    made = Stand(hands, name, seed)
    yield made
    made.place.link.leave()


def touch_off_mill(stand: Stand) -> None:
    """Angle and corner by the front and the left side, the top, all with the feeler."""
    stand.choose("zero")
    stand.hands.click(stand.place.pad.feeler)
    stand.still()
    rows = stand.place.guide.rows
    for name, value in (("x", "225"), ("y", "150"), ("z", "-400 + 33")):
        stand.type_into(rows[f"typed-{name}"].field, value)
    stand.button("typed")
    stand.hands.until(lambda: stand.desk.zeroed)
    QTest.qWait(150)
    stand.go_to("x", "75")
    stand.go_to("y", "50")
    stand.go_to("z", "20")
    stand.touch("touch-z-")
    stand.go_to("y", "-16")
    for x in ("30", "120"):
        stand.go_to("z", "20")
        stand.go_to("x", x)
        stand.go_to("z", "-4")
        stand.touch("touch-y+")
    stand.go_to("z", "20")
    stand.go_to("x", "-16")
    stand.go_to("y", "50")
    stand.go_to("z", "-8/2")
    stand.touch("touch-x+")
    stand.go_to("z", "60")
    stand.button("take")
    QTest.qWait(150)


def true_size(stand: Stand, gauge: Gauge) -> float:
    """What the stand-in's part is like, measured often: the scatter of one measurement is a micron."""
    found: list[float] = []
    for _ in range(9):
        stand.desk.do(
            m.Measure(ends=list(gauge.ends), within=3.0, round=gauge.round), lambda b: found.append(gauge.size(b["offs"]))
        )
    stand.hands.until(lambda: len(found) == 9)
    return sorted(found)[4]


@pytest.mark.parametrize("stand", [("winch-base", 7)], indirect=True)
@pytest.mark.timeout(150)
def test_a_shift_at_the_mill(stand: Stand) -> None:
    """Set up from the list, touched off; a drill breaks at hole 3, on at hole 4; measured, corrected; the second part is good."""
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.start()  # everything is open: the first press only says so
    assert "open" in place.words.text()
    assert desk.mode == "ready"
    stand.send_clamp_and_load()
    touch_off_mill(stand)
    assert desk.open_items == []
    assert abs(desk.offsets[1].turn) > 0.01
    stand.menu("T7 breaks", "in hole 3")
    stand.start()
    hands.until(lambda: desk.mode == "running")
    hands.until(lambda: desk.part is not None and desk.part.removed > 0)
    assert stand.ends() == "alarm"
    assert desk.status is not None
    assert "T7" in desk.status.said
    broken_at = desk.status.line
    stand.start()  # now it says Reset
    hands.until(lambda: desk.mode == "ready")
    hands.until(lambda: 7 in desk.broken)
    assert [item.key for item in desk.open_items] == ["tool:7"]
    stand.choose("tool:7")
    stand.button("load")
    hands.until(lambda: "home first" in place.words.text())  # what is left of it is in the hole still
    hands.click(place.pad.home)
    stand.still()
    stand.button("load")
    hands.until(lambda: 7 not in desk.broken and desk.stations.get(7) is not None)
    hands.until(lambda: "preset" in place.guide.buttons)
    stand.button("preset")
    hands.until(lambda: not desk.open_items)

    hands.click(place.buttons.buttons()[3])
    listed = place.restart.list
    texts = [listed.item(k).text() for k in range(listed.count())]
    row = next(k for k, text in enumerate(texts) if "hole 4" in text and f"line {broken_at + 1}" in text)
    listed.setCurrentRow(row)
    hands.until(lambda: f"on with line {broken_at + 1}" in place.restart.ways.text())
    assert desk.mode == "ready"
    hands.click(place.restart.start)
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready"

    hands.click(place.buttons.buttons()[1])
    deep = [g for g in desk.gauges if any(maker is not None and maker.by == "z" for maker in g.makers)]
    well = max(deep, key=lambda g: abs(true_size(stand, g) - g.aim))
    wide = stand.gauge("Gear well", "Length")
    first = stand.measured(well)
    assert abs(true_size(stand, well) - well.aim) > 0.001  # the tool gives way
    assert f"{first:.3f}" == stand.row(well).field.text()
    hands.click(place.sizes.correct)
    hands.until(lambda: any(abs(tool.wear_z) > 0.0 for tool in desk.tools.values()))
    stand.measured(wide)
    before = desk.sent
    hands.click(place.sizes.correct)  # no offset moves a wall: the job learns what the tool cuts, and the program follows
    hands.proved()
    assert [item.key for item in desk.open_items] == ["program", "clamp"]
    stand.choose("program")
    stand.button("send")
    hands.until(lambda: desk.sent not in ("", before))
    stand.choose("clamp")
    stand.button("clamp")
    hands.until(lambda: not desk.open_items)
    stand.start()
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready"
    hands.until(lambda: bool(desk.gauges))
    for gauge in (stand.gauge(well.title, well.says), stand.gauge("Gear well", "Length")):
        assert abs(true_size(stand, gauge) - gauge.aim) < 0.005
    assert desk.status.part == 2


@pytest.mark.parametrize("stand", [("pawl-shaft", 3)], indirect=True)
@pytest.mark.timeout(150)
def test_a_shift_at_the_lathe(stand: Stand) -> None:
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.send_clamp_and_load()
    stand.choose("tool:1")
    stand.button("take-up")
    stand.still()
    stand.choose("zero")
    stand.type_into(place.guide.rows["typed-z"].field, str(desk.held.holding.offset_z or 150))
    stand.button("typed")
    hands.until(lambda: desk.zeroed)
    QTest.qWait(150)
    stand.go_to("x", "40")
    stand.go_to("z", "12")
    stand.touch("touch-z-")
    stand.button("take")
    QTest.qWait(150)
    assert desk.open_items == []
    stand.menu("T8 breaks", "in hole 3")
    stand.menu("An edge wears", "T3 ")
    stand.start()
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "alarm"
    assert desk.status is not None
    assert "T8" in desk.status.said
    stand.start()
    hands.until(lambda: desk.mode == "ready" and 8 in desk.broken)
    stand.choose("tool:8")
    hands.click(place.pad.home)
    stand.still()
    stand.button("load")
    hands.until(lambda: 8 not in desk.broken)
    hands.until(lambda: "preset" in place.guide.buttons)
    stand.button("preset")
    hands.until(lambda: not desk.open_items)
    hands.click(place.buttons.buttons()[3])
    row = next(k for k, p in enumerate(desk.restarts) if p.station == 8 and p.hole == 4)
    place.restart.list.setCurrentRow(row)
    hands.until(lambda: f"on with line {desk.restarts[row].line}" in place.restart.ways.text())
    assert "C to 120.000°" in place.restart.ways.text()  # over hole 3, where the program turns on from
    hands.click(place.restart.start)
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready"
    hands.click(place.buttons.buttons()[1])
    body = stand.gauge("Rough to an outline", "Begins at Ø")
    assert stand.measured(body) > body.aim + 0.03
    assert "T3" in place.sizes.way.text()
    assert "also moves" in place.sizes.way.text()  # the other diameter goes with it
    hands.click(place.sizes.correct)
    hands.until(lambda: desk.tools[3].wear_x < 0)
    stand.choose("clamp")
    stand.button("clamp")
    hands.until(lambda: not desk.open_items)
    stand.start()
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready"
    assert abs(true_size(stand, body) - body.aim) < 0.005


@pytest.mark.parametrize("stand", [("drum-spindle", 7)], indirect=True)
def test_sizes_are_typed_and_there_on_another_day(stand: Stand) -> None:
    """With arithmetic, by keys and, with gloves, by a pad; corrected by what follows; kept."""
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.choose("clamp")
    stand.button("clamp")
    hands.until(lambda: desk.clamped is not None)
    hands.until(lambda: desk.status is not None and desk.status.part == 1)
    hands.click(place.buttons.buttons()[1])
    collar = stand.gauge("Rough to an outline", "Ø, segment 5")
    stand.type_into(stand.row(collar).field, "36 + 0.4")
    assert desk.size_of(collar) == pytest.approx(36.4)
    assert desk.standing(collar) == "over"
    assert place.sizes.says.text() == "Ø36 is 0.400 over the middle"
    assert "wear in X (diameter) by −0.400" in place.sizes.way.text()
    assert "Ø30 to 29.600 (out of its limits)" in place.sizes.way.text()
    hands.retype("39")
    assert not place.sizes.correct.isVisible()  # no wear mends three millimetres
    assert place.sizes.way.text().startswith("That is more than a correction mends")
    hands.retype("36.4")
    lines = desk.book.as_csv(desk.gauges, desk.unit).splitlines()
    assert lines[0].startswith("when,part,place,step,of,size,nominal")
    assert any(",36.4000,mm,typed" in line for line in lines)
    hands.retype("")
    assert desk.size_of(collar) is None
    pressed_with_gloves(stand)
    stand.type_into(stand.row(collar).field, "36.02")
    hands.until(lambda: place.sizes.correct.isVisible())
    hands.click(place.sizes.correct)
    hands.until(lambda: any(t.wear_x for t in desk.tools.values()))
    station = next(t.number for t in desk.tools.values() if t.wear_x)
    assert place.tools.trends[station].wears[-1] == pytest.approx(-0.01)
    place.link.leave()
    hands.until(lambda: desk.status is None)
    hands.opened("drum-spindle")
    hands.press(Qt.Key.Key_4, ALT)
    hands.click(place.start)
    hands.until(lambda: desk.status is not None and bool(desk.gauges))
    again = stand.gauge("Rough to an outline", "Ø, segment 5")
    assert desk.size_of(again) is None  # nothing is clamped yet
    assert [value for _, value in desk.book.history(again)] == [pytest.approx(36.02)]
    assert stand.row(again).band.sizes == [pytest.approx(36.02)]


def pressed_with_gloves(stand: Stand) -> None:
    hands, desk, place = stand.hands, stand.desk, stand.place
    hands.window.run("window.gloves")
    thread = stand.gauge("Thread", "Name, pitch diameter")
    place.sizes.area.ensureWidgetVisible(stand.row(thread))
    hands.click(stand.row(thread).field)
    assert place.number_pad.isVisible()
    for key in ("2", "2", "+", "0", ".", "9", "5", "="):
        hands.click(place.number_pad.buttons[key])
    assert desk.size_of(thread) == pytest.approx(22.95)  # of 22.844 to 22.994, M24 × 1.5-6g
    assert not stand.row(thread).field.hasFocus()  # on to the next size
    assert place.number_pad.isVisible()
    collar = stand.gauge("Rough to an outline", "Ø, segment 5")
    place.sizes.area.ensureWidgetVisible(stand.row(collar))
    hands.click(stand.row(collar).field)
    for key in ("clear", "3", "7", "Enter"):
        hands.click(place.number_pad.buttons[key])
    assert not place.number_pad.isVisible()  # one that is out of its limits: what brings it back is in sight
    assert place.sizes.card.isVisible()
    hands.window.run("window.gloves")


@pytest.mark.parametrize("stand", [("winch-base", 0)], indirect=True)
def test_hold_shares_switches_and_dry_run(stand: Stand) -> None:
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.send_clamp_and_load()
    stand.choose("zero")
    for name, value in (("x", "225"), ("y", "150"), ("z", "-367")):
        stand.type_into(place.guide.rows[f"typed-{name}"].field, value)
    stand.button("typed")
    hands.until(lambda: not desk.open_items)
    desk.do(m.Pace(times=8.0))
    hands.click(place.bar.switches["single"])
    stand.start()
    hands.until(lambda: desk.mode == "held")
    assert desk.status is not None
    assert desk.status.said == "One block"
    hands.click(place.bar.switches["single"])
    hands.until(lambda: desk.status is not None and not desk.status.single)
    stand.start()
    hands.until(lambda: desk.mode == "running" and desk.status is not None and desk.status.line > 25)
    bar = place.read_out.bar("feed")
    QTest.mouseClick(place.read_out, Qt.MouseButton.LeftButton, pos=QPoint(int(bar.left()), int(bar.center().y())))
    hands.until(lambda: desk.status is not None and desk.status.feed_share == 0.0)
    hands.press(Qt.Key.Key_Space)  # the place has the keyboard: Space holds
    stand.hands.click(place.bar.start) if desk.mode == "running" else None
    hands.until(lambda: desk.mode == "held")
    hands.click(place.bar.reset)
    hands.until(lambda: desk.mode == "ready")
    made = desk.status.part
    desk.do(m.Switches(feed=1.0))
    desk.do(m.Pace(times=200.0))
    hands.click(place.bar.dry)
    QTest.qWait(1000)  # the last picture of what was cut
    cut = desk.part.removed if desk.part is not None else 0.0
    stand.start()
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready"
    QTest.qWait(400)
    assert desk.part is None or desk.part.removed == pytest.approx(cut)
    assert desk.status.part == made
    assert desk.status.done == 0
    another_job(stand)


def another_job(stand: Stand) -> None:
    """What is in the machine is not taken for the part of another job."""
    hands, desk, place = stand.hands, stand.desk, stand.place
    desk.do(m.SetTool(number=2, wear_z=0.05))
    desk.set_tool(next(t for t in desk.used() if t.station == 2), x=0.0)
    hands.until(lambda: 2 in desk.tools and desk.tools[2].wear_z == 0.05)  # the correction along the other axis stays
    hands.click(place.as_solid)
    hands.until(lambda: place.solid.shown)
    hands.opened("fixture-of-six")
    hands.until(lambda: desk.part is None)
    assert {item.key for item in desk.open_items} >= {"program", "clamp"}
    assert not desk.holds_it
    assert place.whole.currentWidget() is place.work  # it is the same machine
    hands.opened("drum-spindle")
    assert place.whole.currentWidget() is place.before
    assert "Harbour mill 600" in place.trouble.text()


def axes_by_hand(stand: Stand) -> None:
    """By buttons, keys and the wheel."""
    hands, desk, pad = stand.hands, stand.desk, stand.place.pad
    assert desk.status is not None
    x0, y0, z0 = desk.status.machine
    hands.click(pad.steps[0])
    hands.click(pad.buttons["x", 1])
    stand.still()
    hands.click(pad.buttons["z", -1])
    stand.still()
    assert desk.status.machine == pytest.approx((x0 + 10.0, y0, z0 - 10.0))
    pad.setFocus()
    hands.press(Qt.Key.Key_Down)
    stand.still()
    assert desk.status.machine == pytest.approx((x0 + 10.0, y0 - 10.0, z0 - 10.0))
    hands.click(pad.steps[2])
    hands.click(pad.buttons["x", -1])
    stand.still()
    middle = QPointF(pad.wheel.rect().center())
    for _ in range(5):
        wheel = QWheelEvent(
            middle, QPointF(pad.wheel.mapToGlobal(middle.toPoint())), QPoint(0, 0), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(pad.wheel, wheel)
    stand.still()
    hands.until(lambda: not pad._waiting)
    stand.still()
    assert desk.status.machine[0] == pytest.approx(x0 + 10.0 - 0.1 + 0.5)
    hands.click(pad.home)
    stand.still()
    assert desk.status.machine == pytest.approx((x0, y0, z0))


@pytest.mark.parametrize("stand", [("winch-base", 7)], indirect=True)
def test_axes_by_hand_and_the_proof_again_with_what_was_touched(stand: Stand) -> None:
    hands, desk, place = stand.hands, stand.desk, stand.place
    axes_by_hand(stand)
    stand.send_clamp_and_load()
    stand.choose("zero")
    for name, value in (("x", "590"), ("y", "150"), ("z", "-367")):
        stand.type_into(place.guide.rows[f"typed-{name}"].field, value)
    stand.button("typed")
    hands.until(lambda: desk.zeroed)
    QTest.qWait(150)
    stand.button("prove")
    hands.proved()
    holding = stand.window.session.job.holdings[0]
    assert holding.offset_x == pytest.approx(590.0)
    assert any(r.code == "over-travel" for r in stand.window.session.whole.remarks)
    tool = next(t for t in stand.window.session.job.tools if t.station == 2)
    assert tool.length == pytest.approx(desk.tools[2].z, abs=1e-4)
    assert desk.clamped == desk._holding()  # what is in the machine is still in it


def test_a_machine_that_is_killed_at_any_instant_leaves_the_window_alive(hands: Hands) -> None:
    hands.opened("drum-spindle")
    place, rng = hands.window.machine, random.Random(5)
    hands.press(Qt.Key.Key_4, ALT)
    for k in range(4):
        hands.click(place.start)
        if k:
            hands.until(lambda: place.link.there)
        if k > 1:
            place.desk.send()
            place.desk.clamp()
            place.desk.load_all()
            place.desk.preset_all()
            place.desk.set_zero(z=152.0)
            place.desk.run(m.Start())
        QTest.qWait(rng.randrange(1, 500))
        process = place.link.process
        if process is not None and process.processId():
            os.kill(process.processId(), signal.SIGKILL)
        hands.until(lambda: not place.link.there and not place.link.starting)
        assert place.whole.currentWidget() is place.before
        assert place.trouble.text()
    hands.press(Qt.Key.Key_1, ALT)
    assert hands.window.place == "bench"
    assert not hands.window.session.stale


def test_a_job_without_a_machine_that_is_left_takes_the_machine_with_it(hands: Hands) -> None:
    stand = Stand(hands, "drum-spindle", 7)
    process = stand.place.link.process
    assert process is not None
    pid = process.processId()
    stand.place.close_down()
    stand.hands.until(lambda: not Path(f"/proc/{pid}").exists())


# -- several parts, other days, gloves ------------------------------------------------------------------------------


def as_planned(stand: Stand) -> None:
    """Zero and tools as the job takes them: nothing is hidden."""
    desk = stand.desk
    holding = stand.window.session.plan.holdings[0].holding
    desk.set_zero(**{axis: getattr(holding, f"offset_{axis}") for axis in "xyz"})
    for tool in desk.used():
        desk.set_tool(tool, z=tool.length)
    stand.hands.until(lambda: not desk.open_items and not stand.place.link.waiting)


@pytest.mark.parametrize("stand", [("fixture-of-six", 0)], indirect=True)
def test_a_program_that_writes_its_zero_itself_does_not_run_over_the_one_that_was_touched(stand: Stand) -> None:
    hands, desk, place, session = stand.hands, stand.desk, stand.place, stand.window.session
    ident = desk.held.holding.id
    session.edit(answering.answered(session.job, f"holding:{ident}.write_offsets", "yes"), "Offsets are written")
    hands.proved()
    stand.send_clamp_and_load()
    as_planned(stand)  # the job's own zero is no other one
    stand.choose("zero")
    stand.type_into(place.guide.rows["typed-x"].field, f"{desk.offsets[1].x + 3.25:.3f}")
    stand.button("typed")
    hands.until(lambda: desk.overwritten)
    assert [item.says for item in desk.open_items] == ["the program writes another one"]
    assert any(label.text() == OVERWRITTEN for label in place.guide.findChildren(Label))
    stand.start()
    assert desk.mode == "ready"
    assert "open" in place.words.text()
    zero = desk.offsets[1].x
    stand.button("prove")
    hands.proved()
    hands.until(lambda: [item.key for item in desk.open_items] == ["program"])
    assert not any(label.text() == OVERWRITTEN for label in place.guide.findChildren(Label))
    assert f"G10 L2 P1 X{zero:g}".encode() in desk.program()[1]
    stand.choose("program")
    stand.button("send")
    hands.until(lambda: not desk.open_items)


@pytest.mark.parametrize("stand", [("fixture-of-six", 0)], indirect=True)
def test_every_part_on_the_table_is_seen_measured_and_brought_back(stand: Stand) -> None:
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.send_clamp_and_load()
    as_planned(stand)
    off = desk.offsets[3]
    desk.do(m.SetOffset(index=3, x=off.x + 0.09))  # the third part does not lie where it was touched
    seen: set[int] = set()
    desk.changed.connect(lambda: seen.add(desk.at))
    stand.start()
    hands.until(lambda: desk.mode == "running")
    assert stand.ends() == "ready", place.words.text()
    assert len(seen) > 2  # the one in work was looked at

    def cut() -> bool:
        part = desk.part
        return part is not None and len(part.heights) == 6 and all(h.min() < part.top - 4.0 for h in part.heights)

    hands.until(cut)
    hands.click(place.buttons.buttons()[1])
    panel = place.sizes
    buttons = panel.place_buttons
    assert len(buttons) == 6
    hands.click(buttons[2])
    assert panel.head.text() == "Part 1, place 3"
    pitch = stand.gauge("Pivot and spring holes", "Pitch")
    assert stand.measured(pitch) == pytest.approx(20.0, abs=0.003)
    hands.click(buttons[5])
    assert desk.size_of(pitch) is None
    assert desk.standing(pitch) == ""
    assert not any(row.measure.isVisibleTo(row) for row in panel.rows.values() if not row.gauge.ends)  # a radius is only read


@pytest.mark.parametrize("stand", [("bearing-cap", 0)], indirect=True)
def test_a_hole_in_its_wrong_place_is_brought_back_by_the_zero(stand: Stand) -> None:
    """In inches, on a part whose zero is in its middle."""
    hands, desk, place = stand.hands, stand.desk, stand.place
    stand.send_clamp_and_load()
    as_planned(stand)
    before = desk.offsets[1].x
    desk.do(m.SetOffset(index=1, x=before + 0.02))
    stand.start()
    hands.until(lambda: desk.mode == "running" or bool(place.words.text()))
    assert desk.mode == "running", place.words.text()
    assert stand.ends() == "ready"
    hands.click(place.buttons.buttons()[1])
    first = stand.gauge("Cap screws", "First X")
    assert stand.measured(first) == pytest.approx(1.48, abs=2e-4)
    assert desk.standing(first) == "under"
    assert place.sizes.correct.text() == "Correct G54"
    assert place.sizes.way.text().startswith("Zero G54: X by −0.0")
    assert not place.sizes.again.isVisible()  # the hole stays where it is
    hands.click(place.sizes.correct)
    hands.until(lambda: abs(desk.offsets[1].x - before) < 2e-4)
