"""The window: header, places, strip, and the commands that join them."""

from __future__ import annotations

from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PyQt6.QtCore import QEvent, QObject, QRect, QSize, Qt, QTimer
from PyQt6.QtGui import QAction, QCloseEvent, QGuiApplication, QHelpEvent, QKeyEvent, QKeySequence, QResizeEvent, QShortcut
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

from bastler.app.claims import claim_only
from bastler.app.code_editor import CodeEditor
from bastler.app.commands import COMMANDS, Command
from bastler.app.core import Core
from bastler.app.crib_place import CribPlace
from bastler.app.drawing_desk import DrawingDesk
from bastler.app.header import Header
from bastler.app.job_desk import JobDesk
from bastler.app.keyring import in_words, key_text, keys_of, shown, sound
from bastler.app.labels import Elided, Label
from bastler.app.machine_place import MachinePlace
from bastler.app.number_pad import NumberPad
from bastler.app.part_pictures import PartPictures
from bastler.app.path_view import PathView
from bastler.app.picture_desk import PictureDesk
from bastler.app.program_place import ProgramPlace
from bastler.app.questions import QuestionColumn
from bastler.app.remark_bar import RemarkBar
from bastler.app.route import RouteCard
from bastler.app.route_desk import RouteDesk
from bastler.app.scene_room import SceneRoom
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import STOCK, Session
from bastler.app.settings import LanguageChoice, Settings, read_settings, write_settings
from bastler.app.sheet import Sheet
from bastler.app.shop_keeper import ShopKeeper
from bastler.app.solid import SolidView
from bastler.app.start_place import StartPlace
from bastler.app.strip import Strip
from bastler.app.theme import ROLES, Colours, dress, style_sheet, wanted, wear
from bastler.app.window import Window
from bastler.app.zooming import Zoomable
from bastler.job import edits
from bastler.job.prints import LESSON
from bastler.language import as_inside, tr
from bastler.proof.remark import Remark

if TYPE_CHECKING:
    from bastler.app.explain_panel import ExplainPanel
    from bastler.app.family_panel import FamilyPanel
    from bastler.app.finder import Finder
    from bastler.app.lesson_desk import LessonDesk
    from bastler.app.print_panel import PrintPanel

VIEWS = ("sheet", "solid", "path")
MOVES = ("running", "held", "jogging")
"""How a machine is while something of it moves, or may at any moment."""
LEAST = QSize(1080, 700)
WIDE = 1700
"""Pixels from which on two views have room beside each other."""
TITLE_BAR = 40
"""What a window manager may put over a window, in pixels."""
WITHOUT_MANAGER = 200
"""Milliseconds after which a window manager, where there is one, has done its part."""


class MainWindow(Window):
    """Everything the machinist sees."""

    successor: MainWindow | None = None
    """The window that has taken the place of this one."""

    def __init__(self, core: Core | None = None, *, own: bool = False) -> None:
        """A `core` that is its `own` ends with the window."""
        super().__init__()
        self.setWindowTitle("Bastler")
        self.setMinimumSize(LEAST)
        self.resize(1280, 800)
        self.settings: Settings = read_settings()
        self.core = core or Core()
        self._own_core = own or core is None
        self.session: Session = Session(self.core)
        self.shop_keeper = ShopKeeper(self.session)
        self.place = "start"
        self.menu = QMenu(self)
        self.keeper: SentKeeper = SentKeeper(self.session)
        self.header: Header = Header(self.session, self.keeper, self.menu)
        self._make_places()
        self.jobs: JobDesk = JobDesk(self)
        self._make_commands()
        self._join()
        wear(wanted(self.settings.colours))
        self._dress()
        self.show_start()
        hints = QGuiApplication.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(self._wear)

    def _entitle(self) -> None:
        """The desktop tells two windows apart by their jobs."""
        name = self.session.job.name.strip() if self.session.has_job else ""
        self.setWindowTitle(f"{name} – Bastler" if name else "Bastler")

    # -- on the screen ----------------------------------------------------------------------------------------------

    def open_up(self) -> None:
        """Shows the window as it was left, at first as large as the screen has room for, and never larger."""
        room, left = self._room(), self.settings
        self.setMinimumSize(min(LEAST.width(), room.width()), min(LEAST.height(), room.height() - TITLE_BAR))
        place = room.adjusted(room.width() // 20, room.height() // 20, -room.width() // 20, -room.height() // 20)
        if left.place is not None:
            own = QRect(*left.place)
            size = own.size().boundedTo(QSize(room.width(), room.height() - TITLE_BAR))
            place = QRect(own.topLeft(), size) if room.contains(own.center()) else QRect(room.topLeft(), size)
        self.setGeometry(place)
        show = self.showFullScreen if left.full else self.showMaximized if left.maximised else self.show
        show()
        QTimer.singleShot(WITHOUT_MANAGER, self._fill)

    def _room(self) -> QRect:
        screen = self.screen()
        return screen.availableGeometry() if screen is not None else QRect(0, 0, 1280, 800)

    def _fill(self) -> None:
        """Where no window manager is, nobody makes the window as large as it is to be, and nobody gives it the keyboard."""
        wanted = Qt.WindowState.WindowMaximized | Qt.WindowState.WindowFullScreen
        if self.windowState() & wanted and self.frameGeometry() == self.geometry() != self._room():
            self.setGeometry(self._room())
        self.activateWindow()

    def switch_full(self) -> None:
        """Over the whole screen, without frame and title; or back."""
        full = not self.isFullScreen()
        self.settings = msgspec.structs.replace(self.settings, full=full)
        if full:
            self.showFullScreen()
        elif self.settings.maximised:
            self.showMaximized()
        else:
            self.showNormal()
        QTimer.singleShot(WITHOUT_MANAGER, self._fill)

    def _remember_place(self) -> None:
        """How the window is left, for the next start."""
        own = self.normalGeometry()
        place = (own.x(), own.y(), own.width(), own.height()) if own.isValid() else self.settings.place
        full = self.isFullScreen()
        maximised = self.settings.maximised if full else self.isMaximized()
        view = self.current_view if self.session.has_job else self.settings.view
        self.settings = msgspec.structs.replace(read_settings(), place=place, maximised=maximised, full=full, view=view)
        write_settings(self.settings)

    @cached_property
    def explained(self) -> ExplainPanel:
        """What a question means; made when it is first asked for: the window opens sooner without."""
        from bastler.app.explain_panel import ExplainPanel

        return ExplainPanel(self.session, self.places)

    @cached_property
    def finder(self) -> Finder:
        """The field that finds anything; made when it is first wanted."""
        from bastler.app.finder import Finder

        return Finder(self)

    @cached_property
    def print_panel(self) -> PrintPanel:
        """The print beside the bench; made when a job has one."""
        from bastler.app.print_panel import PrintPanel

        panel = PrintPanel(self.session)
        self.bench_row.insertWidget(0, panel)
        panel.closed.connect(self.switch_print)
        panel.wants_board.connect(self.cards.open_board)
        panel.hide()
        panel.refresh()
        return panel

    @cached_property
    def family(self) -> FamilyPanel:
        """The named sizes and variants; made when they are first wanted."""
        from bastler.app.family_panel import FamilyPanel

        panel = FamilyPanel(self.session)
        panel.setMinimumWidth(1)
        self.views.addWidget(panel)
        panel.closed.connect(self.close_overlay)
        panel.wants.connect(self.jobs.opened)
        return panel

    @cached_property
    def lesson(self) -> LessonDesk:
        """The lesson of the open job, where it is of one."""
        from bastler.app.lesson_desk import LessonDesk

        return LessonDesk(self)

    @property
    def _explains(self) -> bool:
        """Is a question being explained?"""
        return "explained" in self.__dict__ and self.explained.isVisible()

    def _explain_no_more(self) -> None:
        """What is explained is of no use where one goes now."""
        if self._explains:
            self.explained.leave()

    # -- building -----------------------------------------------------------------------------------------------

    def _make_places(self) -> None:
        session = self.session
        self.route: RouteCard = RouteCard(session)
        self.questions: QuestionColumn = QuestionColumn(session)
        self.sheet, self.solid, self.path = Sheet(session), SolidView(session), PathView(session)
        self.cards: RouteDesk = RouteDesk(self)
        self.desk: DrawingDesk = DrawingDesk(self)
        self.pictures: PictureDesk = PictureDesk(self)
        self.views = QStackedWidget()
        # the solid stands beside the stack: it cannot be in two places, and its picture is not to be moved about
        for view in (
            self.sheet,
            QWidget(),
            self.path,
            self.cards.board,
            self.cards.tool_list,
            self.desk.picker,
            self.cards.other_steps,
        ):
            self.views.addWidget(view)
            if view not in (self.sheet, self.path):
                view.setMinimumWidth(1)  # else the window would grow by what is not seen
        self.views.setCurrentIndex(VIEWS.index(self.settings.view))
        self.remark_bar = RemarkBar(session)
        self.strip = Strip(session)
        self.start = StartPlace(PartPictures(self.core))
        self.program = ProgramPlace(session, self.keeper, self.settings.output_folder)
        self.crib = CribPlace(session)
        self.machine = MachinePlace(session, self.keeper)
        self.places = QStackedWidget()
        self.bench = self._bench()
        for place in (self.start, self.bench, self.crib, self.program, self.machine):
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
        row = self.bench_row = QHBoxLayout(bench)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(1)
        middle = QWidget()
        middle.setObjectName("paper")
        middle.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        column = QVBoxLayout(middle)
        column.setContentsMargins(0, 10, 0, 0)
        column.setSpacing(4)
        column.addLayout(self._view_row())
        pair = QHBoxLayout()
        pair.setSpacing(1)
        pair.addWidget(self.views, 1)
        pair.addWidget(self.solid, 1)
        self.solid.hide()
        column.addLayout(pair, 1)
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
            button = QPushButton(tr(name.capitalize()))
            button.setObjectName("view")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setToolTip(f"{tr(name.capitalize())} ({key_text(f'Ctrl+{number + 1}')})")
            button.clicked.connect(lambda _, n=name: self.view(n))
            self.view_buttons.addButton(button, number)
            row.addWidget(button)
        self.view_buttons.buttons()[VIEWS.index(self.settings.view)].setChecked(True)
        self.beside = QPushButton(tr("Solid beside it"))
        self.beside.setObjectName("view")
        self.beside.setCheckable(True)
        self.beside.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.beside.setToolTip(tr("Shows the solid beside the sheet or the path (Ctrl+4)"))
        self.beside.clicked.connect(lambda: self.switch_beside())
        self.caption = Elided()
        self.caption.setObjectName("soft")
        dress(self.caption, "font-style: italic;")
        row.addSpacing(10)
        row.addWidget(self.caption, 1)
        row.addWidget(self.beside)
        return row

    def _make_commands(self) -> None:
        self.actions_by_name: dict[str, QAction] = {}
        menus: dict[str, QMenu] = {}
        for entry in COMMANDS.values():
            action = QAction(tr(entry.says), self)
            action.triggered.connect(lambda _, e=entry: self.run(e.name))
            self.actions_by_name[entry.name] = action
            if entry.menu not in menus:
                menus[entry.menu] = QMenu(tr(entry.menu), self)
                self.menu.addMenu(menus[entry.menu])
            menus[entry.menu].addAction(action)
        menu_key = QShortcut(QKeySequence("F10"), self)
        menu_key.activated.connect(self.header.burger.showMenu)
        self.menu.aboutToShow.connect(self._name_undo)
        self._shortcuts: list[QShortcut] = []
        self._take_keys()

    def _take_keys(self) -> None:
        """Keys of commands as the settings have them: on the menu, in the window, and before what a field would do with them."""
        own = self.own_keys = sound(self.settings.keys)
        for shortcut in self._shortcuts:
            shortcut.setEnabled(False)
            shortcut.deleteLater()
        self._shortcuts = []
        everywhere: dict[str, str] = {}
        """Keys that work wherever one is, each with its command."""
        for entry in COMMANDS.values():
            key = key_text(shown(entry, own))
            self.actions_by_name[entry.name].setText(f"{tr(entry.says)}\t{key}" if key else tr(entry.says))
            if not entry.bare or entry.keys:
                everywhere |= {k: entry.name for k in keys_of(entry, own) if k not in entry.bare}
        claim_only(everywhere)
        app = QApplication.instance()
        if app is not None:  # every event of the window would come through here: only where tooltips need it
            (app.installEventFilter if own else app.removeEventFilter)(self)
        for key, name in everywhere.items():
            shortcut = QShortcut(QKeySequence(key), self)
            shortcut.activated.connect(partial(self.run, name))
            self._shortcuts.append(shortcut)

    def change_keys(self) -> None:
        """All commands with their keys, to give them others."""
        from bastler.app.keys_dialog import KeysDialog

        dialog = KeysDialog(self, self.own_keys)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.picked.connect(self._keys_picked)
        dialog.finished.connect(self.activateWindow)
        dialog.open()

    def _keys_picked(self, own: dict[str, str]) -> None:
        self.settings = msgspec.structs.replace(self.settings, keys=own)
        write_settings(self.settings)
        self._take_keys()

    def eventFilter(self, of: QObject | None, event: QEvent | None) -> bool:
        """A tooltip names the keys that commands have now."""
        if self.own_keys and isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip and isinstance(of, QWidget):
            text = in_words(of.toolTip(), self.own_keys)
            if text != of.toolTip():
                QToolTip.showText(event.globalPos(), text, of)
                return True
        return super().eventFilter(of, event)

    def _name_undo(self) -> None:
        history = self.session.history
        for name, says, word in (("edit.undo", history.undo_says, tr("Undo")), ("edit.redo", history.redo_says, tr("Redo"))):
            action = self.actions_by_name[name]
            action.setEnabled(bool(says))
            action.setText(f"{word}{': ' + as_inside(says) if says else ''}\t{key_text(shown(COMMANDS[name], self.own_keys))}")
        for name, entry in COMMANDS.items():
            if not name.startswith("edit."):
                self.actions_by_name[name].setEnabled(self.session.has_job or not entry.job)

    def _join(self) -> None:
        session = self.session
        self.header.went.connect(self.go_to)
        self.header.output.connect(self.to_output)
        self.route.wants_board.connect(self.cards.open_board)
        self.route.wants_menu.connect(self.cards.card_menu)
        self.questions.wants_tool.connect(self.cards.open_tools)
        self.strip.picked.connect(self.show_remark)
        self.strip.wants_line.connect(self.to_line)
        self.remark_bar.went.connect(self.show_remark)
        self.sheet.wants_question.connect(self.questions.take_focus)
        self.desk.picker.closed.connect(self.close_overlay)
        session.wants_focus.connect(self.questions.take_focus)
        self.program.wants_step.connect(self._to_step)
        self.program.output.saved.connect(self._was_output)
        self.machine.wants_strip.connect(self._show_strip)
        self.machine.desk.changed.connect(lambda: self.header.show_machine(self.machine.desk.mode))
        self.program.papers.to_machine.connect(self._to_machine)
        self.start.chosen.connect(self.open_choice)
        self.start.thrown.connect(self.jobs.throw_away)
        for keeper in (self.jobs.recovery, self.shop_keeper):
            keeper.refused.connect(self.show_alarm)
        self.program.output.wants_print.connect(self.show_print)
        session.job_changed.connect(self._print_of_job)
        session.job_changed.connect(self._entitle)
        session.said.connect(self.say)
        session.explanation_wanted.connect(self.explain)
        session.focus_changed.connect(self._explain_on)
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
            bare = keys_of(entry, self.own_keys) if entry.name in self.own_keys and entry.bare else entry.bare
            if pressed & {QKeySequence(key).toString() for key in bare} | pressed & set(bare):
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
        """Start, bench, crib, program or machine."""
        if place != self.place:
            self._explain_no_more()
        self.place = place
        places = {"start": self.start, "bench": self.bench, "crib": self.crib, "program": self.program, "machine": self.machine}
        self.places.setCurrentWidget(places[place])
        self._show_strip()
        self.header.show_place(place)
        if place == "program":
            self.program.take_focus()
        elif place == "bench":
            self.close_overlay()
        elif place == "crib":
            self.crib.rack.setFocus()
        elif place == "machine":
            self.machine.take_focus()
        self._went(place)

    def _went(self, where: str) -> None:
        """A lesson may have waited for it."""
        if "lesson" in self.__dict__:
            self.lesson.went(where)

    def _show_strip(self) -> None:
        """Wherever there is a program to look at; at the machine where there is room for it."""
        self.strip.setVisible(self.place != "start" and (self.place != "machine" or self.machine.shows_strip))

    def view(self, name: str) -> None:
        """Sheet, solid or path."""
        self.go_to("bench")
        self.views.setCurrentIndex(VIEWS.index(name))
        self.view_buttons.buttons()[VIEWS.index(name)].setChecked(True)
        self._arrange()
        self._selected()
        self._went(name)

    @property
    def current_view(self) -> str:
        return VIEWS[self.view_buttons.checkedId()]

    def _arrange(self) -> None:
        """The solid alone, beside sheet or path where there is room and it is wished for, or hidden."""
        over, room = self.views.currentIndex() >= len(VIEWS), self.width() >= WIDE
        alone = not over and self.current_view == "solid"
        self.beside.setVisible(room)
        self.beside.setChecked(self.settings.beside)
        self.views.setVisible(not alone)
        self.solid.setVisible(alone or (room and self.settings.beside and not over))
        with_print = self.settings.print and self.session.has_job and self.session.job.print is not None
        if with_print or "print_panel" in self.__dict__:
            self.print_panel.setVisible(with_print)
            self.print_panel.close_button.setVisible(not room)
        self.route.setVisible(room or not with_print)

    def switch_beside(self) -> None:
        """The solid beside the sheet or the path, where the window is wide enough for both; or not."""
        self.settings = msgspec.structs.replace(self.settings, beside=not self.settings.beside)
        write_settings(self.settings)
        if self.width() < WIDE:
            self.say("", tr("Two views stand side by side where the window is wider than this one."))
        self._arrange()

    # -- the print --------------------------------------------------------------------------------------------------

    def _print_of_job(self) -> None:
        """The print of the job stands beside the bench, the lesson under it where the job is of one."""
        of = self.session.job.print if self.session.has_job else None
        if of is not None and of.file.startswith(LESSON):
            self.lesson.refresh()
        if (of is not None) != ("print_panel" in self.__dict__ and self.print_panel.isVisibleTo(self.bench)):
            self._arrange()

    def open_print(self) -> None:
        """Asks for the print of the part."""
        self.go_to("bench")
        self.print_panel.ask()
        self.show_print()

    def show_print(self) -> None:
        """The print, in the place of the route where there is no room for both."""
        self.go_to("bench")
        if not self.settings.print:
            self.switch_print()

    def switch_print(self) -> None:
        """The print beside the bench, or not; without one it is asked for."""
        if self.session.job.print is None:
            self.open_print()
            return
        self.settings = msgspec.structs.replace(self.settings, print=not self.settings.print)
        write_settings(self.settings)
        self.go_to("bench")
        self._arrange()

    def open_manual(self) -> None:
        """The manual, in a window of its own beside the work."""
        from bastler.app.manual import ManualWindow

        manual = ManualWindow(self, self.own_keys)
        manual.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        manual.show()

    def open_family(self) -> None:
        """The named sizes of the job and its variants, over the view."""
        self.show_over(self.family, tr("sizes with names, and the parts that differ in them"))

    def remove_print(self) -> None:
        """The job has no print any more."""
        self.session.edit(msgspec.structs.replace(self.session.job, print=None), tr("Put the print away"))

    def go_on_with_lesson(self) -> None:
        """The lesson of the job goes on, where it was left."""
        of = self.session.job.print
        if of is None or not of.file.startswith(LESSON):
            self.say("", tr("This job is of no lesson. Lessons are offered at the start."))
            return
        self.show_print()
        self.lesson.take_up()

    @property
    def board_is_open(self) -> bool:
        """Does the board of features lie over the view?"""
        return self.place == "bench" and self.views.currentWidget() is self.cards.board

    def target(self, name: str) -> QWidget | None:
        """What is pressed to go somewhere, or to do something."""
        if name in VIEWS:
            return self.view_buttons.buttons()[VIEWS.index(name)] if self.place == "bench" else self.header.places["bench"]
        if name == "add":
            if self.place != "bench":
                return self.header.places["bench"]
            return self.print_panel.add if self.print_panel.isVisible() else self.route.add
        if name == "explained":
            return self.questions.row_of(self.session.focus)
        if name == "saved":
            return self.program.output.button if self.place == "program" else self.header.button
        return {"strip": self.strip, "proved": self.header.verdict, "program": self.header.places["program"]}.get(name)

    def show_target(self, name: str) -> None:
        """Goes where something is seen or pressed."""
        if name in VIEWS:
            self.view(name)
        elif name == "explained":
            self.explain()
        elif name in ("program", "saved"):
            self.to_output()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """There may be room for two views now, or no more."""
        super().resizeEvent(event)
        self._arrange()

    def _drawing(self) -> Zoomable | None:
        """The drawing that is seen: sheet, path, or the path beside the code."""
        if self.place == "program":
            return self.program.path
        seen = self.views.currentWidget() if self.place == "bench" else None
        return seen if isinstance(seen, Zoomable) and self.views.isVisible() else None

    def zoom(self, factor: float | None) -> None:
        """What is seen nearer by a factor; None for all of it."""
        drawing = self._drawing()
        if drawing is not None:
            drawing.show_all() if factor is None else drawing.zoom_by(factor)
        elif self.place == "bench":
            self.solid.zoom_by(factor)

    def zoom_to_feature(self) -> None:
        """As near as what the selected step cuts has room."""
        drawing = self._drawing()
        if drawing is not None:
            drawing.show_feature()

    def take_colours(self, colours: Colours) -> None:
        """Day, night, or as the desktop has it; at once, and from now on."""
        self.settings = msgspec.structs.replace(self.settings, colours=colours)
        write_settings(self.settings)
        self._wear()

    def _wear(self) -> None:
        """What the choice of colours means now is worn; all that painted itself in others is made anew."""
        if not wear(wanted(self.settings.colours)):
            return
        self._dress()
        for room in self.findChildren(SceneRoom):
            room.take_colours()
        for editor in self.findChildren(CodeEditor):
            editor.take_colours()
        self.questions.make_anew()
        self.crib.form.make_anew()
        session = self.session
        if session.has_job:
            for signal in (session.job_changed, session.plan_changed, session.selection_changed, session.proof_changed):
                signal.emit()
        self.header.show_place(self.place)
        self.start.update()
        self.update()

    def take_language(self, language: LanguageChoice) -> None:
        """English, German, or as the desktop has it; at once, and from now on. Not while a machine moves: nobody loses sight of
        it for the sake of words."""
        if self.machine.desk.mode in MOVES:
            self.say("wrong", tr("The machine moves. Change the language when it stands."))
            return
        self.settings = msgspec.structs.replace(self.settings, language=language)
        write_settings(self.settings)
        from bastler.app.succession import succeed

        new = succeed(self)
        if new is not self:
            self.successor = new

    def switch_gloves(self) -> None:
        """Every target at least 48 px high, and a number pad; or back."""
        self.settings = msgspec.structs.replace(self.settings, gloves=not self.settings.gloves)
        write_settings(self.settings)
        self._dress()

    def _dress(self) -> None:
        app = QApplication.instance()
        if isinstance(app, QApplication):
            sheet = style_sheet(ROLES, gloves=self.settings.gloves)
            if app.styleSheet() != sheet:  # to dress every widget anew takes a while
                app.setStyleSheet(sheet)
        self.pad.setVisible(self.settings.gloves)
        self.strip.make_large(self.settings.gloves)
        self.machine.make_large(self.settings.gloves)
        QTimer.singleShot(50, self.questions.show_focus)

    def save_picture(self) -> None:
        """What is seen: the path beside the program, else the view of the bench that is chosen."""
        view = "path" if self.program.isVisible() else self.current_view
        if view == "path":
            self.pictures.save(view, self.program.path if self.program.isVisible() else self.path)
        elif view == "sheet":
            self.pictures.save(view, self.sheet)
        elif self.solid.scene is not None:
            self.pictures.save(view, self.solid.scene.picture())

    def show_view(self) -> None:
        """The view that is chosen, with nothing over it."""
        self.view(self.current_view)

    def lay_over(self, widget: QWidget) -> None:
        """Something over the view under the caption that is there."""
        self.go_to("bench")
        self.views.setCurrentWidget(widget)
        self._arrange()

    def show_over(self, widget: QWidget, caption: str) -> None:
        """Something over the view, until it is closed."""
        self.lay_over(widget)
        self.caption.setText(caption)

    def close_overlay(self) -> None:
        """From board or tool list back to the view."""
        if self.views.currentIndex() >= len(VIEWS):
            self.views.setCurrentIndex(VIEWS.index(self.current_view))
            self._arrange()
            self.questions.take_focus(self.session.focus)
        self._selected()

    def _selected(self) -> None:
        session = self.session
        if not session.on_step:
            what = tr("the stock") if session.selected == STOCK else tr("the part as it comes into this holding")
            words = tr(self.sheet.drawing.of_stock, what=what)
        else:
            number = edits.index_of(session.job, session.selected) + 1
            words = tr(
                "{of_step} of step {number}, stock as it is before the step",
                of_step=tr(self.sheet.drawing.of_step),
                number=number,
            )
        captions = {
            "sheet": words,
            "solid": tr("the part at the strip's cursor"),
            "path": tr("the tool's tip, as the program moves it"),
        }
        dress(self.caption, "font-style: italic;")
        self.caption.setText(captions[self.current_view])

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
        dress(self.caption, f"font-style: normal; color: {ROLES.stop if kind == 'wrong' else ROLES.ink};")

    # -- jobs -------------------------------------------------------------------------------------------------------

    def open_choice(self, choice: str) -> None:
        """What was picked at the start."""
        self._explain_no_more()
        self.jobs.open_choice(choice)

    def open_path(self, path: Path) -> None:
        """Opens a job file; a bad one is said and changes nothing."""
        self._explain_no_more()
        self.jobs.open_path(path)

    def to_output(self) -> None:
        """To the program, ready to save it."""
        self.go_to("program")
        self.program.output.take_focus()

    def _to_machine(self) -> None:
        """To the machine side, with the program on its way where a machine is connected."""
        self.go_to("machine")
        self.machine.send()

    def _was_output(self, path: str) -> None:
        self.settings = msgspec.structs.replace(self.settings, output_folder=str(Path(path).parent))
        write_settings(self.settings)
        if "lesson" in self.__dict__:
            self.lesson.was_saved()
        whole = self.session.whole
        counted = edits.numbers_counted(self.session.job, whole.holdings[0].parts if whole else 1)
        self.session.edit(counted, tr("Count the numbers on"))

    # -- jumping about ------------------------------------------------------------------------------------------------

    def show_remark(self, remark: Remark) -> None:
        """To where a remark is: its step, its answer, its moment."""
        if remark.step:
            self.session.select(remark.step)
        elif remark.field.startswith("stock."):
            self.session.select(STOCK)
        elif self.session.whole is not None:
            held = zip(self.session.whole.idents, self.session.whole.holdings, strict=True)
            self.session.select(next((f"holding:{ident}" for ident, proof in held if remark in proof.remarks), STOCK))
        if remark.move >= 0:
            self.session.stop()
            self.session.seek_move(remark.move)
        if self.place == "start":
            return
        self.go_to("bench")
        if remark.field:
            self.questions.take_focus(remark.field)

    def to_line(self, line: int) -> None:
        """To a line of the program, counted from 1."""
        self.go_to("program")
        self.program.listing.go_to(line)

    def _to_step(self, ident: str) -> None:
        self.session.select(ident)
        self.go_to("bench")

    def find_anything(self) -> None:
        """A field that finds commands, steps, questions, tools, remarks and lines."""
        self.finder.open()

    def explain(self) -> None:
        """What the question in focus means, with a picture; once more, and it is closed."""
        self._went("explained")
        if self._explains:
            self.explained.leave()
        else:
            self._explain_focus()

    def _explain_focus(self) -> None:
        address, row = self.session.focus, self._asked_row()
        if row is not None and address and self.session.there(address):
            self.explained.explain(address, row)

    def _explain_on(self) -> None:
        """What is explained goes along with the focus."""
        if self._explains and self.session.focus != self.explained.address:
            self._explain_focus()

    def _asked_row(self) -> QWidget | None:
        """The row of the question in focus, in the place that is seen."""
        if self.place == "bench":
            return self.questions.row_of(self.session.focus)
        return self.crib.form.rows.get(self.session.focus) if self.place == "crib" else None

    # -- the end ------------------------------------------------------------------------------------------------------

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Nothing is asked: what is in no file is kept and offered at the next start. Only where the disk does not take it the
        first wish is turned down."""
        if event is not None and not self.jobs.may_leave():
            event.ignore()
            return
        self._remember_place()
        self.jobs.close()
        self.shop_keeper.leave()
        self.machine.close_down()
        self.session.leave()
        self.core.forget()
        if self._own_core:
            self.core.close()
        self.solid.close_scene()
        super().closeEvent(event)
