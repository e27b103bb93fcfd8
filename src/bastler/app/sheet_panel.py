"""What goes along with the program: the setup sheet as a file or on paper, its tools and its sizes as lists."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from bastler.app.output import OutputPanel
from bastler.app.session import Session
from bastler.app.theme import ROLES
from bastler.disk import reason_of, write_whole
from bastler.language import many, tr
from bastler.live.leaving import stamp
from bastler.live.restarts import Restart
from bastler.live.sent import LINE_PATH
from bastler.live.setup_sheet import SetupSheet, sizes_csv
from bastler.tools import AnyTool
from bastler.tools.lists import csv_list

if TYPE_CHECKING:
    from bastler.app.line_dialog import LineDialog

Use = Callable[[SetupSheet], None]
MOST_PLACES = 30
"""So many places are offered: there is no room for more on a screen."""


class SheetPanel(QWidget):
    """The setup sheet with a press, the rest from a menu. Files go where the program goes, and are called as it is. `to_machine`:
    the program is to go over the link to the machine."""

    to_machine = pyqtSignal()

    def __init__(self, session: Session, output: OutputPanel) -> None:
        super().__init__()
        self.session, self.output = session, output
        self._port = ""
        self.places: QMenu | None = None
        """Where a program may begin, while it is offered."""
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.sheet = QPushButton(tr("Setup sheet"))
        self.sheet.setToolTip(tr("As PDF: stock, zero, tools, steps, sizes to measure"))
        self.sheet.clicked.connect(self.write_sheet)
        self.more = QPushButton(tr("More…"))
        self.more.setToolTip(tr("Print the sheet; lists of tools and sizes; to the machine"))
        menu = QMenu(self.more)
        for words, act in (
            (tr("Print the setup sheet…"), self.print_sheet),
            (tr("Tool list as CSV"), self.write_tools),
            (tr("Size list as CSV"), self.write_sizes),
            (tr("Part as cut as STL"), lambda: self.write_solid(".stl")),
            (tr("Part as cut as 3MF"), lambda: self.write_solid(".3mf")),
            (tr("From a stage on, as a program…"), self.ask_restart),
            (tr("Send to the machine"), self.to_machine.emit),
            (tr("Send over the serial line…"), self.send),
            (tr("Receive over the serial line…"), self.receive),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(act)
        self.more.setMenu(menu)
        self.stop = QPushButton(tr("Stop"))
        self.stop.setToolTip(tr("Makes no solid"))
        self.stop.clicked.connect(self._stopped)
        self.stop.hide()
        for button in (self.sheet, self.more, self.stop):
            button.setObjectName("plain")
            row.addWidget(button, 1)

    # -- what can be had ------------------------------------------------------------------------------------------

    def write_sheet(self) -> None:
        """The setup sheet as PDF."""
        from bastler.app.setup_pages import pdf_of  # loaded when it is wanted: the window opens sooner without

        self._with_sheet(lambda sheet: self._write(".pdf", pdf_of(sheet, stamp())))

    def write_tools(self) -> None:
        """The tools that the programs use."""
        self._with_sheet(lambda sheet: self._write("-tools.csv", csv_list(_tools(sheet)).encode()))

    def write_sizes(self) -> None:
        """The sizes to measure."""
        self._with_sheet(lambda sheet: self._write("-sizes.csv", sizes_csv(sheet).encode()))

    def write_solid(self, suffix: str) -> None:
        """The part as cut, as a closed solid."""
        if not self.output.ready():
            return
        self.output.say(tr("The solid is being made …"), ROLES.soft)
        self.stop.show()

        def made(data: bytes | None, trouble: str) -> None:
            self.stop.hide()
            if trouble or data is None:
                self.output.say(trouble or tr("There is nothing to write yet."), ROLES.stop)
            else:
                self._write(suffix, data)

        def told(share: float) -> None:
            self.output.say(tr("The solid is being made, {share:.0%} …", share=share), ROLES.soft)

        self.session.core.ask("solid-file", suffix, then=made, told=told)

    def _stopped(self) -> None:
        self.session.core.leave("solid-file")
        self.stop.hide()
        self.output.say(tr("No solid was made."), ROLES.soft)

    def ask_restart(self) -> None:
        """Offers where a program of its own may begin: the stages and holes of the step that is selected, or all stages."""
        if not self.output.ready():
            return
        session, held = self.session, self.session.held_id

        def came(places: list[Restart] | None, trouble: str) -> None:
            own = [place for place in places or () if place.step == session.selected]
            offered = own or [place for place in places or () if not place.hole]
            if trouble or not offered:
                self.output.say(trouble or tr("There is no stage to begin at."), ROLES.stop)
                return
            self.places = QMenu(self)
            for place in offered[:MOST_PLACES]:
                action = self.places.addAction(self._words(place))
                if action is not None:
                    action.triggered.connect(partial(self._write_from, held, place))
            self.places.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))

        session.core.ask("restarts", held, then=came)

    def _words(self, place: Restart) -> str:
        step = self.session.job.step(place.step)
        begin = f"{self._number(place)} {step.title if step is not None else ''}: {tr(place.stage)}, T{place.station}"
        where = tr("hole {hole} of {holes}", hole=place.hole, holes=place.holes) if place.hole else tr("its begin")
        return tr("{begin}, from {where} on", begin=begin, where=where)

    def _number(self, place: Restart) -> int:
        return next((k for k, step in enumerate(self.session.job.steps, 1) if step.id == place.step), 0)

    def _write_from(self, held: str, place: Restart) -> None:
        """The program from there on, where the program goes."""
        end = f"-from-{self._number(place)}{f'-hole-{place.hole}' if place.hole else ''}"

        def made(data: bytes | None, trouble: str) -> None:
            if trouble or data is None:
                self.output.say(trouble or tr("There is nothing to write yet."), ROLES.stop)
            else:
                self._write(f"{end}{self.session.job.card.dialect.suffix}", data)

        self.output.say(tr("It is proved from there on …"), ROLES.soft)
        self.session.core.ask("restart-program", held, place, then=made)

    def print_sheet(self) -> None:
        """The setup sheet on a printer, or wherever its dialog leads."""
        self._with_sheet(self._print)

    def send(self) -> None:
        """The program that is looked at, over the line of the machine's card."""
        ready = self.output.program_to_send()
        dialog = self._dialog() if ready is not None else None
        if ready is None or dialog is None:
            return
        data, proof, proved = ready
        dialog.to_send(data, self.output.name.text(), proved=proved)
        dialog.sent.connect(lambda port: self.output.has_left(f"{LINE_PATH}{port}", data, proof))
        dialog.open()

    def receive(self) -> None:
        """A program from the machine, into the folder that programs go to."""
        dialog = self._dialog()
        if dialog is None:
            return
        dialog.to_receive(self.output.folder, self.session.job.card.dialect.suffix)
        dialog.received.connect(self._came)
        dialog.open()

    def _dialog(self) -> LineDialog | None:
        from bastler.app.line_dialog import LineDialog

        line = self.session.job.card.line
        if line is None:
            self.output.say(
                tr("{name} has no serial line: its card in the crib says so.", name=self.session.job.card.name),
                ROLES.caution_text,
            )
            return None
        dialog = LineDialog(self, self.session.job.card, line, self._port)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.sent.connect(self._used)
        return dialog

    def _used(self, port: str) -> None:
        self._port = port

    def _came(self, path: Path) -> None:
        self.output.say(
            tr(
                "Received as {name}. {compared_with_sent}",
                name=path.name,
                compared_with_sent=self.output.compared_with_sent(path),
            ),
            ROLES.good,
        )

    # -- how ------------------------------------------------------------------------------------------------------

    def _with_sheet(self, use: Use) -> None:
        """Asks for the sheet of what is proved, and uses it once it is there."""
        if not self.output.ready():
            return
        job = self.session.job

        def came(sheet: SetupSheet | None, trouble: str) -> None:
            if sheet is None:
                self.output.say(trouble or tr("The setup sheet could not be made."), ROLES.stop)
            elif self.session.job is job:
                use(sheet)

        self.session.core.ask("setup-sheet", then=came)

    def _write(self, suffix: str, data: bytes) -> None:
        path = self.output.folder / f"{self.output.stem}{suffix}"
        try:
            write_whole(path, data)
        except OSError as error:
            self.output.say(tr("{path} could not be written: {error}.", path=path, error=reason_of(error)), ROLES.stop)
        else:
            self.output.say(tr("Saved as {name}.{of_which}", name=path.name, of_which=self._of_which()), ROLES.good)

    def _print(self, sheet: SetupSheet) -> None:
        from bastler.app.printing import print_on_paper

        pages = print_on_paper(sheet, stamp(), self)
        if pages:
            self.output.say(tr("{many} printed.{of_which}", many=many(pages, "page"), of_which=self._of_which()), ROLES.good)

    def _of_which(self) -> str:
        """Of which part it is, where the numbers have counted on since the program left."""
        return tr(" It is of the next part: the numbers have counted on.") if self.output.counted else ""


def _tools(sheet: SetupSheet) -> list[AnyTool]:
    """Every tool once, in the order of the programs."""
    return list({line.tool.id: line.tool for program in sheet.programs for line in program.tools}.values())
