"""The crib: the shop's tools and their stations, its materials and what they are cut with, its machine cards and their code."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QMenu,
    QPlainTextEdit,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from bastler.app.asking import file_to_open, file_to_write
from bastler.app.form_column import FormColumn
from bastler.app.labels import Label
from bastler.app.panels import NARROW
from bastler.app.session import Session
from bastler.app.theme import ROLES, mono, sans
from bastler.app.tiles import Tile, TileGrid
from bastler.app.tool_picture import ToolPicture
from bastler.app.tool_rack import Berth, ToolRack
from bastler.disk import read_bounded, reason_of, write_whole
from bastler.job import Job, crib_edits
from bastler.language import many, sayable, tr
from bastler.machines import MachineCard
from bastler.tools import KIND_WORDS, TURN_SORTS, AnyTool, TurnTool
from bastler.tools.lists import Conflict, ToolListError, csv_list, json_list, merged, read_list

TABS = {"tools": sayable("Tools"), "materials": sayable("Materials"), "machines": sayable("Machines")}
FILTERS = sayable({"job": "In this job", "machine": "In the machine", "all": "All"})
LARGEST_LIST = 5_000_000
COPY = sayable({"tools": "Copy the tool", "materials": "Copy the material", "machines": "Copy the machine"})
DELETE = sayable({"tools": "Delete the tool", "materials": "Delete the material", "machines": "Delete the machine"})
LISTS = sayable("Tool lists (*.csv *.json)")
MACHINE_TILE = (138, 104)
"""Six machines stand in a row on a screen of 1280."""
GROUP_COLOURS = {"P": "#2F6FB3", "M": "#C9A400", "K": "#B3362B", "N": "#3F8A4A", "S": "#A5682A", "H": "#7E868B"}
"""The colours of ISO 513."""


class CribPlace(QWidget):
    """Everything edited here is edited in the job, with undo and at once proved; the shop follows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.tab, self.filter = "tools", "machine"
        self.selected = {"tools": "", "materials": "", "machines": ""}
        self.conflicts: list[Conflict] = []
        self.rack = ToolRack()
        self.rack.chosen.connect(lambda ident: self.select("tools", ident))
        self.rack.moved.connect(self._to_station)
        self.materials = TileGrid(150, 118, words=False, numbers=False)
        self.machines = TileGrid(MACHINE_TILE[0], MACHINE_TILE[1], words=False, numbers=False)
        self.materials.taken.connect(lambda ident: self.select("materials", ident))
        self.machines.taken.connect(lambda ident: self.select("machines", ident))
        self.code = QPlainTextEdit()
        self.code.setReadOnly(True)
        self.code.setFont(mono(12))
        self.code.setAccessibleName(tr("What the card makes of a small part"))
        self.form = FormColumn(session)
        self.picture = ToolPicture(session)
        self.picture.picked.connect(self._to_row)
        self.form.head.addWidget(self.picture)
        self.notice = self._notice()
        self.stack = QStackedWidget()
        self.rack_area = _scrolled(self.rack)
        for widget in (self.rack_area, _scrolled(self.materials), self._machine_side()):
            self.stack.addWidget(widget)
        middle = QVBoxLayout()
        middle.setContentsMargins(16, 12, 16, 12)
        middle.setSpacing(10)
        middle.addLayout(self._bar())
        middle.addWidget(self.stack, 1)
        middle.addWidget(self.notice)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(1)
        row.addLayout(middle, 1)
        row.addWidget(self.form)
        for signal in (session.job_changed, session.shop_changed):
            signal.connect(self.refresh)

    # -- building -----------------------------------------------------------------------------------------------------

    def _bar(self) -> QHBoxLayout:
        bar = QHBoxLayout()
        bar.setSpacing(4)
        self.tab_buttons = self._choice(bar, TABS, self.show_tab)
        bar.addSpacing(8)
        self.filter_buttons = self._choice(bar, FILTERS, self.show_filter)
        bar.addStretch(1)
        self.add = _button(tr("Add"), tr("A tool of a kind to choose, or a material or machine like the one selected"))
        self.add.clicked.connect(self._add)
        self.copy = _button(tr("Copy"), tr("A second one like the one selected"))
        self.copy.clicked.connect(self._copy)
        self.delete = _button(tr("Delete"), tr("Takes the one selected out of the crib"))
        self.delete.clicked.connect(self._delete)
        self.bring = _button(tr("Import"), tr("Tools from a CSV or JSON list"))
        self.bring.clicked.connect(self.ask_import)
        self.send = _button(tr("Export"), tr("All tools of this crib as a CSV or JSON list"))
        self.send.clicked.connect(self.ask_export)
        for button in (self.add, self.copy, self.delete, self.bring, self.send):
            bar.addWidget(button)
        return bar

    def _choice(self, bar: QHBoxLayout, words: dict[str, str], act: Callable[[str], None]) -> dict[str, QPushButton]:
        group, found = QButtonGroup(self), {}
        for name, says in words.items():
            button = QPushButton(tr(says))
            button.setObjectName("view")
            button.setStyleSheet(NARROW)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, n=name: act(n))
            group.addButton(button)
            bar.addWidget(button)
            found[name] = button
        return found

    def _machine_side(self) -> QWidget:
        side = QWidget()
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.machine_area = _scrolled(self.machines)
        column.addWidget(self.machine_area)
        says = Label(tr("What this card makes of a small part, while you change it"))
        says.setObjectName("soft")
        column.addWidget(says)
        column.addWidget(self.code, 1)
        return side

    def _notice(self) -> QWidget:
        """A line with two ways out: conflicts, tools that the machine has not, tools that the job has not."""
        box = QWidget()
        row = QHBoxLayout(box)
        row.setContentsMargins(0, 0, 0, 0)
        self.words = Label()
        self.words.setWordWrap(True)
        row.addWidget(self.words, 1)
        self.ways: list[QPushButton] = []
        for _ in range(2):
            button = _button("", "")
            row.addWidget(button)
            self.ways.append(button)
        return box

    # -- showing ------------------------------------------------------------------------------------------------------

    def show_tab(self, name: str) -> None:
        """Tools, materials or machines."""
        self.tab = name
        self.refresh()

    def show_filter(self, name: str) -> None:
        """Which tools are shown."""
        self.filter = name
        self.refresh()

    def select(self, tab: str, ident: str) -> None:
        """One thing of a tab."""
        self.session.history.settle()
        self.selected[tab] = ident
        self.refresh()

    def refresh(self) -> None:
        if not self.session.has_job or not self.isVisible():
            return
        self.tab_buttons[self.tab].setChecked(True)
        self.filter_buttons[self.filter].setChecked(True)
        for button in (*self.filter_buttons.values(), self.bring, self.send):
            button.setVisible(self.tab == "tools")
        self.stack.setCurrentIndex(list(TABS).index(self.tab))
        {"tools": self._show_tools, "materials": self._show_materials, "machines": self._show_machines}[self.tab]()

    def showEvent(self, event: object) -> None:
        self.refresh()

    def _used(self) -> set[str]:
        return crib_edits.tools_used(self.session.job, [p.filled for p in self.session.plan.steps])

    def _show_tools(self) -> None:
        job, used = self.session.job, self._used()
        differing, besides = self.session.shop.differing(job), self.session.shop.besides(job)
        slots = self._slots(job, used, set(differing), besides)
        shown = [s.tool.id for s in slots if s.tool]
        known = {t.id: t for t in (*job.tools, *besides)}
        if self.selected["tools"] not in shown:
            self.selected["tools"] = shown[0] if shown else ""
        ident = self.selected["tools"]
        self.rack.show_slots(slots, ident)
        if ident:
            at = self.rack.box_of(ident).center()
            self.rack_area.ensureVisible(int(at.x()), int(at.y()), 20, 90)
        tool, own = known.get(ident), job.tool(ident)
        self.picture.show_tool(tool)
        owners = [("tool", ident), *([] if isinstance(own, TurnTool) else [("holder", ident)])] if own else []
        self.form.show_owners(_titled(tool) if tool else tr("No tool here"), owners)
        self.copy.setEnabled(own is not None)
        self.delete.setEnabled(own is not None)
        self._say_of_tools(job, used, differing, own, tool)

    def _slots(self, job: Job, used: set[str], differing: set[str], besides: tuple[AnyTool, ...]) -> list[Berth]:
        def slot(tool: AnyTool) -> Berth:
            warns = tr("not as in the shop") if tool.id in differing else ""
            return Berth(tool.station, tool, warns)

        by_station = sorted(job.tools, key=lambda t: (t.station == 0, t.station))
        if self.filter == "job":
            return [slot(t) for t in by_station if t.id in used]
        if self.filter == "machine":
            places = {t.station: t for t in job.tools if t.station}
            last = max([job.card.stations if job.card.stations < 60 else 0, *places], default=0)
            return [slot(places[k]) if k in places else Berth(k, None) for k in range(1, last + 1)]
        return [*(slot(t) for t in by_station), *(Berth(0, t, tr("not in this job"), own=False) for t in besides)]

    def _say_of_tools(
        self, job: Job, used: set[str], differing: dict[str, AnyTool], own: AnyTool | None, tool: AnyTool | None
    ) -> None:
        """The most pressing thing there is to say, with what can be done."""
        away = [t for t in job.tools if t.id in used and not t.station]
        if self.conflicts:
            one = self.conflicts[0]
            same = (
                tr("the same id “{id}”", id=one.ours.id)
                if one.by == "id"
                else tr("the same station T{station}", station=one.ours.station)
            )
            more = tr(" ({conflicts} more)", conflicts=len(self.conflicts) - 1) if len(self.conflicts) > 1 else ""
            text = tr(
                "{name} and, from the list, {name_2} have {same}{more}.",
                name=one.ours.called,
                name_2=one.theirs.called,
                same=same,
                more=more,
            )
            self._offer(
                text, (tr("Keep ours"), lambda: self._settle(None)), (tr("Take the list's"), lambda: self._settle(one.theirs))
            )
        elif own is not None and own.id in differing:
            theirs = differing[own.id]
            text = tr("The shop has this tool otherwise: {name}, Ø{size}. Which one holds?", name=theirs.called, size=theirs.size)
            take = (tr("Take the shop's"), lambda: self._edit(crib_edits.tool_given(job, theirs), tr("Take the shop's tool")))
            self._offer(text, take, (tr("Ours is right"), lambda: self.session.keep_shop(self.session.shop.given(job, own))))
        elif own is None and tool is not None:
            text = tr("{name} is in the shop, not among the tools of this job.", name=tool.called)
            self._offer(
                text, (tr("Take it into the job"), lambda: self._edit(crib_edits.tools_taken(job, [tool]), tr("Take a tool")))
            )
        elif away:
            text = tr(
                "The job needs {many} that the machine has not: {away}.",
                many=many(len(away), "tool"),
                away=", ".join(t.called for t in away),
            )
            self._offer(text, (tr("Put into the machine"), lambda: self._load(away)))
        else:
            self._offer("")

    def _offer(self, text: str, *ways: tuple[str, Callable[[], object]]) -> None:
        self.notice.setVisible(bool(text))
        self.words.setText(text)
        for k, button in enumerate(self.ways):
            button.setVisible(k < len(ways))
            with contextlib.suppress(TypeError):  # nothing was joined to it yet
                button.clicked.disconnect()
            if k < len(ways):
                button.setText(ways[k][0])
                button.clicked.connect(lambda _, act=ways[k][1]: act())

    def _show_materials(self) -> None:
        job = self.session.job
        works = job.all_materials()
        ident = self.selected["materials"]
        ident = self.selected["materials"] = ident if ident in works else job.stock.material
        drawings = {m.id: _group_drawing(m.group, m.hardness, own=m in job.materials) for m in works.values()}
        tiles = [Tile(m.id, m.called, "", "", drawings[m.id]) for m in works.values()]
        self.materials.show_tiles(tiles, list(works).index(ident))
        self.picture.show_tool(None)
        self.form.show_owners(works[ident].called, [("material", ident)])
        self._own(ident in {m.id for m in job.materials}, ident == job.stock.material, tr("This job is cut from it."))

    def _show_machines(self) -> None:
        job = self.session.job
        cards = job.all_cards()
        ident = self.selected["machines"]
        ident = self.selected["machines"] = ident if ident in cards else job.machine
        tiles = [Tile(c.id, c.name, "", "", _card_drawing(c, used=c.id == job.machine)) for c in cards.values()]
        self.machines.show_tiles(tiles, list(cards).index(ident))
        rows = min(math.ceil(len(tiles) / self.machines.columns), 2)  # more are scrolled to: the code wants its room
        self.machine_area.setFixedHeight(rows * (MACHINE_TILE[1] + 6) + 10)
        self.picture.show_tool(None)
        self.form.show_owners(cards[ident].name, [("card", ident), ("dialect", ident)])
        self.session.core.ask("code", job, cards[ident], job.unit, then=self._show_code)
        self._own(ident in {c.id for c in job.cards}, ident == job.machine, tr("This job is for it."))

    def _show_code(self, text: str | None, trouble: str) -> None:
        """What the card makes of a small part, at the place that was looked at."""
        bar = self.code.verticalScrollBar()
        at = bar.value() if bar else 0
        self.code.setPlainText(trouble or text or tr("The words of this card cannot be filled in yet."))
        if bar:
            bar.setValue(at)

    def _own(self, own: bool, used: bool, says: str) -> None:
        self.copy.setEnabled(True)
        self.delete.setEnabled(own)
        self._offer(f"{says} {tr('It is the shop’s own, or changed.') if own else ''}".strip() if used else "")

    # -- doing ----------------------------------------------------------------------------------------------------------

    def _edit(self, job: Job, says: str) -> None:
        self.session.history.settle()
        self.session.edit(job, says)

    def _to_row(self, address: str) -> None:
        row = self.form.rows.get(address)
        if row is not None:
            row.take_focus()

    def _to_station(self, ident: str, station: int) -> None:
        self._edit(crib_edits.tool_to_station(self.session.job, ident, station), tr("Change stations"))

    def _load(self, tools: list[AnyTool]) -> None:
        job, card = self.session.job, self.session.job.card
        for tool in tools:
            taken = {t.station for t in job.tools}
            free = next((k for k in range(1, card.stations + 1) if k not in taken), 0)
            if not free:
                self.session.said.emit("wrong", tr("{name} has no free station: drag a tool out of the way.", name=card.name))
                break
            job = crib_edits.tool_to_station(job, tool.id, free)
        self._edit(job, tr("Put tools into the machine"))

    def _add(self) -> None:
        if self.tab in ("materials", "machines"):
            self._copy()
        else:
            menu = QMenu(self)
            sorts = TURN_SORTS if self.session.job.turns else {}
            for kind, words in (*sorts.items(), *KIND_WORDS.items()):
                menu.addAction(tr(words).capitalize(), lambda k=kind: self.add_tool(k))
            menu.exec(self.add.mapToGlobal(self.add.rect().bottomLeft()))

    def add_tool(self, kind: str) -> None:
        """A new tool of a kind, to be measured and named."""
        job, ident = crib_edits.tool_added(self.session.job, kind)
        self.filter, self.selected["tools"] = "all", ident
        self._edit(job, tr("Add a tool"))
        self.form.take_focus()

    def _copy(self) -> None:
        job, ident = self.session.job, self.selected[self.tab]
        if self.tab == "tools":
            self.filter = "all"
            changed, fresh = crib_edits.tool_copied(job, ident)
        elif self.tab == "materials":
            changed, fresh = crib_edits.material_copied(job, ident)
        else:
            changed, fresh = crib_edits.card_copied(job, ident)
        self.selected[self.tab] = fresh
        self._edit(changed, tr(COPY[self.tab]))
        self.form.take_focus()

    def _delete(self) -> None:
        job, ident = self.session.job, self.selected[self.tab]
        removed = {
            "tools": crib_edits.tool_removed,
            "materials": crib_edits.material_removed,
            "machines": crib_edits.card_removed,
        }
        changed = removed[self.tab](job, ident)
        if changed is job or changed == job:
            self.session.said.emit("wrong", tr("It is in use here and stays."))
            self._offer(tr("It is in use by this job and stays."))
            return
        self._edit(changed, tr(DELETE[self.tab]))

    # -- lists ------------------------------------------------------------------------------------------------------------

    def ask_import(self) -> None:
        """Which list."""
        path = file_to_open(self, tr("Tools from a list"), self._folder(), tr(LISTS))
        if path:
            self.read(path)

    def read(self, path: Path) -> None:
        """Takes the tools of a list over; conflicts are shown one by one. A bad list is said and changes nothing."""
        try:
            found = read_list(read_bounded(path, LARGEST_LIST).decode("utf-8-sig"), path.name)
        except ToolListError as error:
            self._refuse(str(error))
            return
        except UnicodeDecodeError:
            self._refuse(tr("{name} is not a text file.", name=path.name))
            return
        except OSError as error:
            self._refuse(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error)))
            return
        put = merged(self.session.job.tools, found)
        self.conflicts = list(put.conflicts)
        self.filter = "all"
        self._edit(crib_edits.tools_taken(self.session.job, put.tools), tr("Tools from a list"))
        self.refresh()
        if not self.conflicts:
            self._offer(
                tr(
                    "{many} from {name}, {same} there already.",
                    many=many(put.fresh, "new tool"),
                    name=path.name,
                    same=put.same,
                ),
                (tr("Close"), self.refresh),
            )

    def _refuse(self, text: str) -> None:
        self._offer(text, (tr("Close"), self.refresh))
        self.session.said.emit("wrong", text)

    def _settle(self, theirs: AnyTool | None) -> None:
        """One conflict is decided: ours stays, or the list's comes in its place."""
        self.conflicts.pop(0)
        if theirs is not None:
            self._edit(crib_edits.tools_taken(self.session.job, [theirs]), tr("Take the list's tool"))
        self.refresh()

    def ask_export(self) -> None:
        """Where to."""
        start = Path(self._folder()) / "crib.csv"
        path = file_to_write(self, tr("Tools as a list"), start, tr(LISTS), ".csv", ".json")
        if path:
            self.write(path)

    def write(self, path: Path) -> None:
        """The crib as CSV, or JSON by its suffix."""
        tools = self.session.job.tools
        try:
            write_whole(path, (json_list(tools) if path.suffix.lower() == ".json" else csv_list(tools)).encode())
        except OSError as error:
            self._offer(
                tr("{name} was not written: {error}.", name=path.name, error=reason_of(error)), (tr("Close"), self.refresh)
            )
        else:
            self._offer(tr("{many} written to {path}.", many=many(len(tools), "tool"), path=path), (tr("Close"), self.refresh))

    def _folder(self) -> str:
        return str(self.session.path.parent if self.session.path else Path.home())


def _titled(tool: AnyTool) -> str:
    return f"T{tool.station}  {tool.called}" if tool.station else tool.called


def _button(text: str, tip: str) -> QPushButton:
    button = QPushButton(text)
    button.setObjectName("plain")
    button.setStyleSheet(NARROW)
    button.setToolTip(tip)
    return button


def _scrolled(widget: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keyboard is for what is in it
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(widget)
    return area


def _group_drawing(group: str, hardness: str, *, own: bool) -> Callable[[QPainter, QRectF], None]:
    """The letter of ISO 513 on its colour."""

    def draw(painter: QPainter, box: QRectF) -> None:
        square = QRectF(box.center().x() - 22, box.top(), 44, 44)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(GROUP_COLOURS[group]))
        painter.drawRoundedRect(square, 4, 4)
        painter.setPen(QColor("white"))
        painter.setFont(sans(24, bold=True))
        painter.drawText(square, Qt.AlignmentFlag.AlignCenter, group)
        painter.setPen(QColor(ROLES.soft))
        painter.setFont(sans(11))
        words = QRectF(box.left() - 18, square.bottom() + 4, box.width() + 36, 18)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, f"{hardness}{tr(' · own') if own else ''}")

    return draw


def _card_drawing(card: MachineCard, *, used: bool) -> Callable[[QPainter, QRectF], None]:
    """A mill from the front, or a lathe, with a driven tool over the work where it has any and the bush that guides the bar."""

    def draw(painter: QPainter, box: QRectF) -> None:
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.setBrush(QColor(ROLES.jaw if not used else ROLES.blue))
        x, y, w, h = box.center().x(), box.top(), 90.0, box.height()
        if card.turns:
            painter.drawRect(QRectF(x - w / 2, y + h * 0.2, w * 0.28, h * 0.5))
            painter.setBrush(QColor(ROLES.metal))
            painter.drawRect(QRectF(x - w * 0.22, y + h * 0.34, w * 0.4, h * 0.22))
            if card.bush is not None:
                painter.setBrush(QColor(ROLES.jaw))
                for edge in (0.14, 0.56):
                    painter.drawRect(QRectF(x - w * 0.02, y + h * edge, w * 0.12, h * 0.2))
            if card.drive is not None:
                painter.drawRect(QRectF(x + w * 0.02, y + h * 0.14, w * 0.06, h * 0.2))
                painter.setBrush(QColor(ROLES.jaw))
                painter.drawRect(QRectF(x - w * 0.03, y, w * 0.16, h * 0.14))
            painter.setBrush(QColor(ROLES.jaw))
            painter.drawRect(QRectF(x - w / 2, y + h * 0.78, w, h * 0.2))
        else:
            painter.drawRect(QRectF(x - 9, y, 18, h * 0.4))
            painter.setBrush(QColor(ROLES.metal))
            painter.drawRect(QRectF(x - 3, y + h * 0.4, 6, h * 0.22))
            painter.setBrush(QColor(ROLES.jaw))
            painter.drawRect(QRectF(x - w / 2, y + h * 0.74, w, h * 0.24))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    return draw
