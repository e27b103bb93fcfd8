"""The window: header, places, strip, and the commands that join them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import msgspec
from PyQt6.QtCore import QPoint, QRectF, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence, QPainter, QShortcut
from PyQt6.QtWidgets import (
    QApplication,
    QButtonGroup,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QStackedWidget,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from bastler.app.commands import COMMANDS, Command
from bastler.app.crib_place import CribPlace
from bastler.app.drawing_desk import DrawingDesk
from bastler.app.header import Header
from bastler.app.job_desk import JobDesk
from bastler.app.labels import Label, escape
from bastler.app.number_pad import NumberPad
from bastler.app.path_view import PathView
from bastler.app.pictures import draw_feature, draw_tool
from bastler.app.planner import Planner
from bastler.app.program_place import ProgramPlace
from bastler.app.questions import QuestionColumn
from bastler.app.remark_bar import RemarkBar
from bastler.app.route import RouteCard
from bastler.app.session import STOCK, Session
from bastler.app.settings import Settings, read_settings, write_settings
from bastler.app.sheet import Sheet
from bastler.app.shop_keeper import ShopKeeper
from bastler.app.solid import SolidView
from bastler.app.start_place import StartPlace
from bastler.app.strip import Strip
from bastler.app.theme import DAY, style_sheet
from bastler.app.tiles import Tile, TilePicker
from bastler.app.window import Window
from bastler.app.worker import Worker
from bastler.ask import Trouble, filled, questions_of
from bastler.job import edits
from bastler.proof import Remark
from bastler.proof.ordering import better_order
from bastler.steps import STEPS, trouble_with
from bastler.tools import KIND_WORDS, AnyTool, TurnTool
from bastler.units import clock, many

BOARD = ("Surface", "Outside", "Pockets", "Ends", "Outlines", "Grooves and threads", "Holes", "General")
"""The groups of the board in order."""
VIEWS = ("sheet", "solid", "path")


class MainWindow(Window):
    """Everything the machinist sees."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Bastler")
        self.setMinimumSize(1080, 700)
        self.resize(1280, 800)
        self.settings: Settings = read_settings()
        self.worker = Worker()
        self.planner = Planner()
        self.session: Session = Session(self.worker, self.planner)
        self.shop_keeper = ShopKeeper(self.session)
        self.place = "start"
        self._tool_address = ""
        self.order_menu: QMenu | None = None
        self.menu = QMenu(self)
        self.header: Header = Header(self.session, self.menu)
        self._make_places()
        self.jobs: JobDesk = JobDesk(self)
        self._make_commands()
        self._join()
        self._dress()
        self.show_start()

    # -- building -----------------------------------------------------------------------------------------------

    def _make_places(self) -> None:
        session = self.session
        self.route = RouteCard(session)
        self.questions: QuestionColumn = QuestionColumn(session)
        self.sheet, self.solid, self.path = Sheet(session), SolidView(session), PathView(session)
        self.board, self.tool_list = TilePicker(109, 84, words=False), TilePicker(190, 210)
        self.desk: DrawingDesk = DrawingDesk(self)
        self.views = QStackedWidget()
        for view in (self.sheet, self.solid, self.path, self.board, self.tool_list, self.desk.picker):
            self.views.addWidget(view)
        self.remark_bar = RemarkBar(session)
        self.strip = Strip(session)
        self.start = StartPlace()
        self.program = ProgramPlace(session, self.settings.output_folder)
        self.crib = CribPlace(session)
        self.places = QStackedWidget()
        self.bench = self._bench()
        for place in (self.start, self.bench, self.crib, self.program):
            self.places.addWidget(place)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.alarm = Label()
        self.alarm.setObjectName("alarm")
        self.alarm.setWordWrap(True)
        self.alarm.hide()
        column.addWidget(self.header)
        column.addWidget(self.alarm)
        column.addWidget(self.places, 1)
        column.addWidget(self.strip)
        self.setCentralWidget(whole)

    def _bench(self) -> QWidget:
        bench = QWidget()
        row = QHBoxLayout(bench)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(1)
        middle = QWidget()
        middle.setObjectName("paper")
        middle.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(4)
        column.addLayout(self._view_row())
        column.addWidget(self.views, 1)
        column.addWidget(self.remark_bar)
        right = QWidget()
        right.setObjectName("panel")
        right.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        side = QVBoxLayout(right)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(0)
        self.pad = NumberPad()
        side.addWidget(self.questions, 1)
        side.addWidget(self.pad)
        row.addWidget(self.route)
        row.addWidget(middle, 1)
        row.addWidget(right)
        return bench

    def _view_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(6)
        self.view_buttons = QButtonGroup(self)
        for number, name in enumerate(VIEWS):
            button = QPushButton(name.capitalize())
            button.setObjectName("view")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{name.capitalize()} (Ctrl+{number + 1})")
            button.clicked.connect(lambda _, n=name: self.view(n))
            self.view_buttons.addButton(button, number)
            row.addWidget(button)
        self.view_buttons.buttons()[0].setChecked(True)
        self.caption = Label()
        self.caption.setObjectName("soft")
        self.caption.setStyleSheet("font-style: italic;")
        row.addSpacing(10)
        row.addWidget(self.caption, 1)
        return row

    def _make_commands(self) -> None:
        self.actions_by_name: dict[str, QAction] = {}
        menus: dict[str, QMenu] = {}
        for entry in COMMANDS.values():
            action = QAction(entry.says, self)
            action.triggered.connect(lambda _, e=entry: self.run(e.name))
            self.actions_by_name[entry.name] = action
            if entry.menu not in menus:
                menus[entry.menu] = QMenu(entry.menu, self)
                self.menu.addMenu(menus[entry.menu])
            shown = (*entry.keys, *entry.bare)
            action.setText(f"{entry.says}\t{shown[0]}" if shown else entry.says)
            menus[entry.menu].addAction(action)
            for key in entry.keys:
                shortcut = QShortcut(QKeySequence(key), self)
                shortcut.activated.connect(lambda e=entry: self.run(e.name))
        menu_key = QShortcut(QKeySequence("F10"), self)
        menu_key.activated.connect(self.header.burger.showMenu)
        self.menu.aboutToShow.connect(self._name_undo)

    def _name_undo(self) -> None:
        history = self.session.history
        for name, says, word in (("edit.undo", history.undo_says, "Undo"), ("edit.redo", history.redo_says, "Redo")):
            action = self.actions_by_name[name]
            action.setEnabled(bool(says))
            action.setText(f"{word}{': ' + says.lower() if says else ''}\t{COMMANDS[name].keys[0]}")
        for name, entry in COMMANDS.items():
            if not name.startswith("edit."):
                self.actions_by_name[name].setEnabled(self.session.has_job or not entry.job)

    def _join(self) -> None:
        session = self.session
        self.header.went.connect(self.go_to)
        self.header.output.connect(self.to_output)
        self.route.wants_board.connect(self.open_board)
        self.route.wants_menu.connect(self._card_menu)
        self.questions.wants_tool.connect(self.open_tools)
        self.board.picked.connect(self.add_step)
        self.board.closed.connect(self.close_overlay)
        self.tool_list.picked.connect(self._tool_picked)
        self.tool_list.closed.connect(self.close_overlay)
        self.strip.picked.connect(self.show_remark)
        self.strip.wants_line.connect(self._to_line)
        self.remark_bar.went.connect(self.show_remark)
        self.sheet.wants_question.connect(self.questions.take_focus)
        self.desk.picker.closed.connect(self.close_overlay)
        session.wants_focus.connect(self.questions.take_focus)
        self.program.wants_step.connect(self._to_step)
        self.program.output.saved.connect(self._was_output)
        self.start.chosen.connect(self.open_choice)
        self.start.thrown.connect(self.jobs.throw_away)
        for keeper in (self.jobs.recovery, self.shop_keeper):
            keeper.refused.connect(self.show_alarm)
        session.said.connect(self.say)
        session.selection_changed.connect(self._selected)

    # -- commands -------------------------------------------------------------------------------------------------

    def run(self, name: str) -> None:
        """Runs a command by its name, if it means anything now."""
        entry: Command = COMMANDS[name]
        if entry.job and not self.session.has_job:
            return
        entry.act(self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Keys that nothing being typed in wanted."""
        if event is None:
            return
        pressed = {QKeySequence(event.keyCombination()).toString(), event.text() or "-"}
        for entry in COMMANDS.values():
            if pressed & {QKeySequence(key).toString() for key in entry.bare} | pressed & set(entry.bare):
                self.run(entry.name)
                return
        if event.key() == Qt.Key.Key_Escape:
            self.close_overlay()
            return
        super().keyPressEvent(event)

    # -- places and views -------------------------------------------------------------------------------------------

    def show_start(self) -> None:
        """The place with nothing open."""
        self.jobs.offer()
        self.go_to("start")

    def go_to(self, place: str) -> None:
        """Start, bench, crib or program."""
        self.place = place
        places = {"start": self.start, "bench": self.bench, "crib": self.crib, "program": self.program}
        self.places.setCurrentWidget(places[place])
        self.strip.setVisible(place != "start")
        self.header.show_place(place)
        if place == "program":
            self.program.listing.setFocus()
        elif place == "bench":
            self.close_overlay()
        elif place == "crib":
            self.crib.rack.setFocus()

    def view(self, name: str) -> None:
        """Sheet, solid or path."""
        self.go_to("bench")
        self.views.setCurrentIndex(VIEWS.index(name))
        self.view_buttons.buttons()[VIEWS.index(name)].setChecked(True)
        self._selected()

    def _current_view(self) -> str:
        return VIEWS[self.view_buttons.checkedId()]

    def switch_gloves(self) -> None:
        """Every target at least 48 px high, and a number pad; or back."""
        self.settings = msgspec.structs.replace(self.settings, gloves=not self.settings.gloves)
        write_settings(self.settings)
        self._dress()

    def _dress(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            sheet = style_sheet(gloves=self.settings.gloves)
            if app.styleSheet() != sheet:  # to dress every widget anew takes a while
                app.setStyleSheet(sheet)
        self.pad.setVisible(self.settings.gloves)
        self.strip.make_large(self.settings.gloves)
        QTimer.singleShot(50, self.questions.show_focus)

    def show_over(self, widget: QWidget, caption: str) -> None:
        """Something over the view, until it is closed."""
        self.go_to("bench")
        self.views.setCurrentWidget(widget)
        self.caption.setText(caption)

    def close_overlay(self) -> None:
        """From board or tool list back to the view."""
        if self.views.currentIndex() >= len(VIEWS):
            self.views.setCurrentIndex(VIEWS.index(self._current_view()))
            self.questions.take_focus(self.session.focus)
        self._selected()

    def _selected(self) -> None:
        session = self.session
        if not session.on_step:
            what = "the stock" if session.selected == STOCK else "the part as it comes into this holding"
            words = f"plan and section A–A of {what}" if not session.job.turns else "above the centre line section, below outside"
        else:
            number = edits.index_of(session.job, session.selected) + 1
            what = "half section" if session.job.turns else "plan and section A–A"
            words = f"{what} of step {number}, stock as it is before the step"
        captions = {"sheet": words, "solid": "the part at the strip's cursor", "path": "the tool's tip, as the program moves it"}
        self.caption.setStyleSheet("font-style: italic;")
        self.caption.setText(captions[self._current_view()])

    def show_alarm(self) -> None:
        """What is not being kept, until it is again."""
        text = " ".join(filter(None, (self.jobs.recovery.trouble, self.shop_keeper.trouble, self.jobs.warning)))
        self.alarm.setText(text)
        self.alarm.setVisible(bool(text))

    def say(self, kind: str, text: str) -> None:
        """A sentence in the row over the view."""
        if not text:
            self._selected()
            return
        self.caption.setText(text)
        self.caption.setStyleSheet(f"font-style: normal; color: {DAY.stop if kind == 'wrong' else DAY.ink};")

    # -- jobs -------------------------------------------------------------------------------------------------------

    def open_choice(self, choice: str) -> None:
        """What was picked at the start."""
        self.jobs.open_choice(choice)

    def open_path(self, path: Path) -> None:
        """Opens a job file; a bad one is said and changes nothing."""
        self.jobs.open_path(path)

    def to_output(self) -> None:
        """To the program, ready to save it."""
        self.go_to("program")
        self.program.output.take_focus()

    def _was_output(self, path: str) -> None:
        self.settings = msgspec.structs.replace(self.settings, output_folder=str(Path(path).parent))
        write_settings(self.settings)
        counted = edits.numbers_counted(self.session.job, len(self.session.plan.first.parts) or 1)
        self.session.edit(counted, "Count the numbers on")

    # -- steps ------------------------------------------------------------------------------------------------------

    def offer_order(self) -> None:
        """What a better order of the steps would save, and the way to take it; nothing is changed unasked."""
        better = better_order(self.session.plan)
        if better is None:
            self.say("", "No tool is changed without need.")
            return
        menu = QMenu(self)
        says = f"{many(better.changes, 'tool change')} fewer, saves {clock(better.seconds)}: take this order"
        menu.addAction(says, lambda: self.session.edit(better.job, "Fewer tool changes"))
        menu.addSeparator()
        for step in better.job.steps:
            entry = menu.addAction(f"{edits.index_of(self.session.job, step.id) + 1}  {step.title}")
            if entry is not None:
                entry.setEnabled(False)
        self.order_menu = menu
        menu.popup(self.route.mapToGlobal(QPoint(24, 60)))

    def open_board(self) -> None:
        """The board of features over the view."""
        self.go_to("bench")
        job = self.session.job
        tiles = [
            Tile(kind.tag, kind.title, kind.says, kind.group, partial(_feature, kind.tag))
            for kind in sorted(STEPS.values(), key=lambda k: (BOARD.index(k.group), k.rank))
            if kind.possible(job.plane, job.card)
        ]
        self.views.setCurrentWidget(self.board)
        self.board.offer("What comes next?", tiles)

    def add_step(self, kind: str) -> None:
        """A new step behind the selected one, filled so that it proves at once."""
        session = self.session
        job, ident = edits.step_added(session.job, kind, session.selected)
        session.history.settle()
        session.edit(job, f"Add: {STEPS[kind].title.lower()}", select=ident)
        self.view(self._current_view())
        self.questions.take_focus()

    def _step(self) -> str:
        return self.session.selected if self.session.on_step else ""

    def copy_step(self) -> None:
        if self._step():
            job, ident = edits.step_copied(self.session.job, self._step())
            self.session.history.settle()
            self.session.edit(job, "Copy the step", select=ident)

    def switch_step(self) -> None:
        if self._step():
            self.session.history.settle()
            self.session.edit(edits.step_switched(self.session.job, self._step()), "Switch the step on or off")

    def remove_step(self) -> None:
        ident = self._step()
        if not ident:
            self.remove_holding()
        else:
            at = edits.index_of(self.session.job, ident)
            job = edits.step_removed(self.session.job, ident)
            self.session.history.settle()
            after = job.steps[min(at, len(job.steps) - 1)].id if job.steps else STOCK
            self.session.edit(job, "Remove the step", select=after)

    def move_step(self, by: int) -> None:
        if self._step():
            route = edits.route_of(self.session.job)
            place = route.index(self._step()) + by
            if 0 <= place < len(route):
                self.session.edit(edits.step_moved(self.session.job, self._step(), place), "Move the step")

    def turn_over(self) -> None:
        """A further holding behind the one that is looked at: the part turned over about X, until it is said otherwise."""
        if self.session.job.turns:
            self.say("wrong", "A turned part has one holding here: its back is faced in a job of its own.")
            return
        job, ident = edits.holding_added(self.session.job, "over-x", f"holding:{self.session.held_id}")
        self.session.history.settle()
        self.session.edit(job, "Turn the part over", select=f"holding:{ident}")
        self.view(self._current_view())
        self.questions.take_focus()

    def remove_holding(self) -> None:
        """The selected holding goes with its steps; the first one stays."""
        job, ident = self.session.job, edits.held_at(self.session.selected)
        if ident in {h.id for h in job.holdings[1:]}:
            before = job.holdings[[h.id for h in job.holdings].index(ident) - 1]
            self.session.history.settle()
            self.session.edit(edits.holding_removed(job, ident), "Remove the holding", select=f"holding:{before.id}")

    def _card_menu(self, ident: str, at: QPoint) -> None:
        menu = QMenu(self)
        names = (
            ["step.add", "holding.over", "holding.remove"]
            if not self.session.on_step
            else ["step.add", "step.copy", "step.switch", "step.earlier", "step.later", "step.remove"]
        )
        for name in names:
            menu.addAction(self.actions_by_name[name])
        menu.exec(at)

    # -- tools ------------------------------------------------------------------------------------------------------

    def open_tools(self, address: str) -> None:
        """The job's tools as pictures to scale, those that do not fit with the reason."""
        self._tool_address = address
        planned = self.session.plan.step(self.session.selected)
        if planned is None:
            return
        field = address.rpartition(".")[2]
        tools = sorted(planned.ctx.tools, key=lambda t: t.station) if not self.session.job.turns else planned.ctx.tools
        longest = max((t.stick_out for t in tools), default=1.0)
        if self.session.job.turns:
            longest = planned.ctx.mm(46.0)
        computed = filled(edits.replace(planned.step, **{field: None}), planned.ctx)
        proposed = planned.ctx.tool(getattr(computed, field))
        fits = f"T{proposed.station} fits, and stays computed." if proposed else "Nothing in the crib fits."
        tiles = [Tile("", "Proposed", fits, "", _tool_drawing(proposed, longest))]
        loaded = {ident for p in self.session.plan.steps for ident in p.filled.tools_used()}
        offers = []
        for tool in tools:
            tried = trouble_with(edits.replace(planned.step, **{field: tool.id}), planned.ctx)
            why = _tool_reason(tried, field)
            place = f"T{tool.station}  " if tool.id in loaded or not self.session.job.turns else ""
            offers.append(Tile(tool.id, f"{place}{tool.size}", _tool_words(tool), "", _tool_drawing(tool, longest), why))
        # what fits comes first, on a turning machine: of its many tools few do the work in hand
        tiles += sorted(offers, key=lambda t: bool(t.warns)) if self.session.job.turns else offers
        self.views.setCurrentWidget(self.tool_list)
        self.tool_list.offer("Which tool?", tiles, str(getattr(planned.filled, field)))

    def _tool_picked(self, ident: str) -> None:
        self.session.history.settle()
        self.session.answer(self._tool_address, ident or None)
        self.session.focus = self._tool_address
        self.close_overlay()

    # -- jumping about ------------------------------------------------------------------------------------------------

    def show_remark(self, remark: Remark) -> None:
        """To where a remark is: its step, its answer, its moment."""
        if remark.step:
            self.session.select(remark.step)
        elif remark.field.startswith("stock."):
            self.session.select(STOCK)
        elif self.session.whole is not None:
            held = zip(self.session.whole.plan.holdings, self.session.whole.holdings, strict=True)
            self.session.select(next((f"holding:{h.holding.id}" for h, proof in held if remark in proof.remarks), STOCK))
        if remark.move >= 0:
            self.session.stop()
            self.session.seek_move(remark.move)
        if self.place == "start":
            return
        self.go_to("bench")
        if remark.field:
            self.questions.take_focus(remark.field)

    def _to_line(self, line: int) -> None:
        self.go_to("program")
        self.program.listing.go_to(line)

    def _to_step(self, ident: str) -> None:
        self.session.select(ident)
        self.go_to("bench")

    def explain(self) -> None:
        """What the question in focus means."""
        address = self.session.focus
        if not address or not self.session.there(address):
            return
        struct, field = edits.at(self.session.job, address)
        question = next((q for q in questions_of(type(struct)) if q.name == field), None)
        row = self.questions.row_of(address)
        if question is None or row is None:
            return
        words = [f"<b>{escape(question.says)}</b>", escape(question.helps) or "It is lit on the sheet while you are in it."]
        if question.propose is not None:
            words.append("Left empty it is computed, and stays computed when other answers change.")
        if question.kind is not None:
            words.append("Takes sums, fractions and units: 3.25-2*0.4, 1 1/8, 12mm.")
        QToolTip.showText(row.mapToGlobal(QPoint(-260, 0)), f"<p style='width:240px'>{'<br>'.join(words)}</p>", row)

    # -- the end ------------------------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Nothing is asked: what is in no file is kept and offered at the next start. Only where the disk does not take it the
        first wish is turned down."""
        if event is not None and not self.jobs.may_leave():
            event.ignore()
            return
        self.jobs.close()
        self.shop_keeper.leave()
        self.session.leave()
        self.planner.drop()
        self.worker.close()
        self.solid.close_scene()
        super().closeEvent(event)


def _feature(tag: str, painter: QPainter, box: QRectF) -> None:
    draw_feature(painter, tag, box)


def _tool_words(tool: AnyTool) -> str:
    """What a tool is, in a few words."""
    if isinstance(tool, TurnTool):
        code = f", {tool.insert}" if tool.insert else ""
        return f"{tool.name}{code}"
    count = f"{tool.flutes} inserts" if tool.kind == "face-mill" else f"{tool.flutes} flutes, {tool.material}"
    return f"{KIND_WORDS[tool.kind]}, {count}"


def _tool_drawing(tool: AnyTool | None, longest: float) -> Callable[[QPainter, QRectF], None]:
    """Draws a tool; all to the same scale."""

    def draw(painter: QPainter, box: QRectF) -> None:
        if tool is not None:
            draw_tool(painter, tool, box, box.height() / (longest * 1.15))

    return draw


def _tool_reason(troubles: list[Trouble], field: str) -> str:
    return next((t.text for t in troubles if t.field == field), "")
