"""The print beside the bench: what is on it is ticked off, dragged into fields, and given its tolerance."""

from __future__ import annotations

import contextlib
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from bastler.app.asking import file_to_open
from bastler.app.fields import NumberField, WordField
from bastler.app.labels import Label
from bastler.app.panels import add_step_button
from bastler.app.print_pages import KINDS, PrintError, open_pages
from bastler.app.print_view import PrintView
from bastler.app.session import Session
from bastler.bounds import MARKS
from bastler.job.history import History
from bastler.job.prints import (
    Mark,
    Print,
    as_answer,
    mark_gone,
    mark_put,
    marked,
    not_ticked,
    read_again,
    tolerance_trouble,
    with_print,
)
from bastler.language import many, tr

WIDTH = 440
"""Of the panel, in pixels: a lying sheet of A5 can be read in it."""


class PrintPanel(QWidget):
    """Emits `closed` when the route is wanted in its place, `wants_board` when a step is to be added."""

    closed = pyqtSignal()
    wants_board = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self.setAccessibleName(tr("The print"))
        self._file = ""
        self._of: History | None = None
        self._lit = -1
        self.title, self.counted, self.words = Label(), Label(), Label()
        self.counted.setObjectName("soft")
        self.view = PrintView()
        self.open_button = self._link(tr("Open…"), tr("Opens the print: a PDF or a picture"), self.ask)
        self.unit_button = self._link("", tr("The unit of the lengths on the print"), self.other_unit)
        self.close_button = self._link(tr("Route"), tr("The route card in its place (Ctrl+5)"), self.closed.emit)
        self.back, self.on = (
            self._link("◂", tr("The page before"), lambda: self.turn(-1)),
            self._link("▸", tr("The next page"), lambda: self.turn(1)),
        )
        self.page = Label()
        self.page.setObjectName("soft")
        self.limits = WordField()
        self.limits.setPlaceholderText("±0.1, H7")
        self.limits.setFixedWidth(112)
        self.limits.setAccessibleName(tr("Tolerance of the size"))
        self.limits.entered.connect(lambda _: self._limit())
        self.limits.editingFinished.connect(self._limit)
        self.use = self._link(
            tr("use it"), tr("Puts it into the question in focus (Enter)"), lambda: self.use_mark(self.view.chosen)
        )
        self.why = Label()
        self.why.setObjectName("why")
        self.why.setWordWrap(True)
        self.why.hide()
        self.add = add_step_button()
        self.add.clicked.connect(self.wants_board)
        self.below = QVBoxLayout()
        """What else stands under the print: a lesson."""
        self._lay_out()
        self.view.ticked.connect(self.tick)
        self.view.put.connect(self.put)
        self.view.taken.connect(self._let_go)
        self.view.menu_at.connect(self._menu)
        self.view.used.connect(self.use_mark)
        self.view.chosen_changed.connect(self._chosen)
        session.job_changed.connect(self.refresh)
        self.last_field: QLineEdit | None = None
        app = QApplication.instance()
        if isinstance(app, QApplication):
            app.focusChanged.connect(self._focus_went)

    def _link(self, text: str, tip: str, does: object) -> QPushButton:
        button = QPushButton(text)
        button.setObjectName("link")
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(lambda _: does())  # type: ignore[operator]
        return button

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(11, 8, 11, 10)
        column.setSpacing(4)
        head = QHBoxLayout()
        head.setSpacing(10)
        self.title.setStyleSheet("font-size: 14px; font-weight: bold;")
        head.addWidget(self.title, 1)
        for part in (self.back, self.page, self.on, self.unit_button, self.open_button, self.close_button):
            head.addWidget(part)
        column.addLayout(head)
        column.addWidget(self.view, 1)
        foot = QHBoxLayout()
        foot.setSpacing(8)
        foot.addWidget(self.counted, 1)
        foot.addWidget(self.words)
        foot.addWidget(self.limits)
        foot.addWidget(self.use)
        column.addLayout(foot)
        column.addWidget(self.why)
        column.addLayout(self.below)
        column.addWidget(self.add)

    # -- the file ---------------------------------------------------------------------------------------------------

    def ask(self) -> None:
        """Asks for the file of the print."""
        of = self.session.job.print
        folder = Path(of.file).parent if of is not None and Path(of.file).parent.is_dir() else Path.home()
        path = file_to_open(self, tr("Open the print"), str(folder), tr("Prints ({kinds});;All files (*)", kinds=KINDS))
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> None:
        """A print for the job. One that cannot be shown is said and changes nothing."""
        try:
            pages = open_pages(str(path))
        except PrintError as error:
            self.say(str(error))
            return
        self.say("")
        found = pages.found()
        job = self.session.job
        self.session.edit(
            with_print(job, Print(file=str(path.resolve()), unit=job.unit, marks=tuple(found))), tr("Open the print")
        )
        if not found:
            self.say(tr("No sizes were found on it as text. Click beside each size to mark it, and again to tick it off."))

    def refresh(self) -> None:
        """Shows the print of the job as it is now."""
        session = self.session
        of = session.job.print if session.has_job else None
        file = of.file if of is not None else ""
        if file != self._file or session.history is not self._of:  # the file may be another one since the job was open last
            self._file, self._of = file, session.history
            self._load(of)
        self.view.show_marks(of.marks if of is not None else (), self._lit)
        self._say_all()

    def _load(self, of: Print | None) -> None:
        self.say("")
        if of is None:
            self.view.show_pages(None)
            return
        try:
            pages = open_pages(of.file, self.session.path)
        except PrintError as error:
            self.view.show_pages(None, str(error))
            return
        self.view.show_pages(pages)
        again = read_again(of, pages.found())
        if again != of:
            QTimer.singleShot(0, lambda: self._changed_outside(of, again))

    def _changed_outside(self, of: Print, again: Print) -> None:
        """The file holds other sizes than when it was opened."""
        if self.session.has_job and self.session.job.print == of:
            self.session.edit(with_print(self.session.job, again), tr("Read the print again"))
            self.say(tr("The print is another one than it was: look at what is not ticked off."))

    def light(self, at: int) -> None:
        """A size is spoken of; -1 for none."""
        self._lit = at
        of = self.session.job.print
        self.view.show_marks(of.marks if of is not None else (), at)

    def turn(self, by: int) -> None:
        """To another page."""
        self.view.turn_page(by)
        self._say_all()

    def other_unit(self) -> None:
        """The lengths on the print are in the other unit."""
        of = self.session.job.print
        if of is not None:
            changed = Print(file=of.file, unit="inch" if of.unit == "mm" else "mm", marks=of.marks)
            self.session.edit(with_print(self.session.job, changed), tr("Change the print's unit"))

    # -- marks ------------------------------------------------------------------------------------------------------

    def _mark(self, at: int) -> Mark | None:
        of = self.session.job.print
        return of.marks[at] if of is not None and 0 <= at < len(of.marks) else None

    def tick(self, at: int) -> None:
        """Ticked off, or not."""
        mark = self._mark(at)
        if mark is not None:
            state = "open" if mark.state == "ticked" else "ticked"
            self.session.edit(marked(self.session.job, at, state=state), tr("Tick off {said}", said=mark.said))

    def put(self, x: float, y: float) -> None:
        """A mark by hand, for a size that was not found by itself."""
        of = self.session.job.print
        if of is None:
            return
        if len(of.marks) >= MARKS.most:
            self.say(MARKS.over(len(of.marks) + 1))
            return
        mark = Mark(page=self.view.page, box=(min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0), 0.0, 0.0))
        self.session.edit(mark_put(self.session.job, mark), tr("Mark a size"))
        self.view.choose(len(of.marks))

    def _menu(self, at: int, place: QPoint) -> None:
        mark = self._mark(at)
        if mark is None:
            return
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction(tr("Ticked off") if mark.state != "ticked" else tr("Not ticked off"), lambda: self.tick(at))
        aside = mark.state == "aside"
        menu.addAction(
            tr("A size after all") if aside else tr("No size of the part"), lambda: self._set_aside(at, aside=not aside)
        )
        if mark.words:
            menu.addAction(tr("Into the question in focus"), lambda: self.use_mark(at))
        if not mark.box[2]:
            menu.addAction(
                tr("Take the mark away"), lambda: self.session.edit(mark_gone(self.session.job, at), tr("Take a mark away"))
            )
        menu.popup(place)

    def _set_aside(self, at: int, *, aside: bool) -> None:
        state = "aside" if aside else "open"
        self.session.edit(
            marked(self.session.job, at, state=state), tr("No size of the part") if aside else tr("A size of the part")
        )

    def _limit(self) -> None:
        """The tolerance that was typed for the chosen size goes with it: into the answer that it went into, else into the list of
        what is measured."""
        at = self.view.chosen
        mark, of = self._mark(at), self.session.job.print
        text = self.limits.text().strip()
        if mark is None or of is None or text == mark.limits:
            return
        why = tolerance_trouble(mark, of, text)
        self.say(why)
        if why:
            return
        job = marked(self.session.job, at, limits=text)
        self.session.edit(job, tr("Tolerance of {words}", words=mark.words))
        changed = self._mark(at)
        if changed is not None and mark.goes_to and self.session.there(mark.goes_to):
            self._into_answer(changed, mark.goes_to)

    def _into_answer(self, mark: Mark, address: str) -> None:
        """The answer is typed anew, with the tolerance."""
        of = self.session.job.print
        self.session.wants_focus.emit(address)
        field = QApplication.focusWidget()
        if of is not None and isinstance(field, NumberField):
            field.type_in(as_answer(mark, of, self.session.job.unit, address.rpartition(".")[2], field.kind))

    # -- into fields ------------------------------------------------------------------------------------------------

    def _focus_went(self, _old: QWidget | None, new: QWidget | None) -> None:
        if isinstance(new, NumberField | WordField) and new is not self.limits:
            self.last_field = new

    def _let_go(self, at: int, place: QPoint) -> None:
        """A size was dragged to a place on the screen."""
        found = QApplication.widgetAt(place)
        if isinstance(found, NumberField | WordField):
            self.into(at, found)
            return
        row = found
        while row is not None and not hasattr(row, "address"):
            row = row.parentWidget()
        field = row.findChild(NumberField) if row is not None else None
        if isinstance(field, NumberField):
            self.into(at, field)
        else:
            self.say(tr("Let go of it over the field that it is for."))

    def use_mark(self, at: int) -> None:
        """A size goes into the question in focus."""
        field = self.last_field
        with contextlib.suppress(RuntimeError):  # its row may have gone
            if field is not None and field.isVisible():
                self.into(at, field)
                return
        self.say(tr("Go to the question first that it is the answer to."))

    def into(self, at: int, field: QLineEdit) -> None:
        """A size goes into a field, and is ticked off once it is an answer."""
        mark, of = self._mark(at), self.session.job.print
        if mark is None or of is None:
            return
        if not mark.words:
            self.say(tr("Nothing is written at this mark: it was put by hand."))
            return
        self.say("")
        if isinstance(field, NumberField):
            field.setFocus(Qt.FocusReason.OtherFocusReason)
            address = self.session.focus
            field.type_in(as_answer(mark, of, self.session.job.unit, address.rpartition(".")[2], field.kind))
            if field.reason:
                return
        else:
            field.setFocus(Qt.FocusReason.OtherFocusReason)
            address = self.session.focus
            field.selectAll()
            field.insert(mark.words)
        # one gesture, one undo: the tick merges with what was just typed
        job = marked(self.session.job, at, state="ticked", goes_to=address)
        self.session.edit(job, tr("Take {words} from the print", words=mark.words), merge=address)
        self.session.history.settle()

    # -- words ------------------------------------------------------------------------------------------------------

    def say(self, text: str) -> None:
        """What is wrong, or what comes next."""
        self.why.setText(text)
        self.why.setVisible(bool(text))

    def _chosen(self, at: int) -> None:
        self._say_all()

    def _say_all(self) -> None:
        of = self.session.job.print if self.session.has_job else None
        pages = self.view.pages
        name = (
            tr("Print")
            if of is None
            else tr(pages.drawn.drawing.title)
            if pages is not None and hasattr(pages, "drawn")
            else Path(of.file).name
        )
        self.title.setText(self.title.fontMetrics().elidedText(name, Qt.TextElideMode.ElideMiddle, 190))
        many_pages = pages is not None and pages.count > 1
        for part in (self.back, self.page, self.on):
            part.setVisible(many_pages)
        if pages is not None:
            self.page.setText(tr("{at} of {count}", at=self.view.page + 1, count=pages.count))
        self.unit_button.setVisible(of is not None)
        self.unit_button.setText("" if of is None else of.unit)
        sizes = [m for m in of.marks if m.state != "aside"] if of is not None else []
        left = len(not_ticked(self.session.job)) if of is not None else 0
        self.counted.setText(
            tr("{sizes} of {many} ticked off", sizes=len(sizes) - left, many=many(len(sizes), "size")) if sizes else ""
        )
        mark = self._mark(self.view.chosen)
        for own in (self.words, self.limits, self.use):
            own.setVisible(mark is not None and bool(mark.words))
        if mark is not None:
            self.words.setText(mark.words)
            if not self.limits.hasFocus():
                self.limits.setText(mark.limits)
