"""Where a program is taken up again: a stage, or a hole of it; with what the machine will do first, shown before it does it."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.machine_desk import MachineDesk
from bastler.app.theme import ROLES, dress
from bastler.language import tr
from bastler.link import messages as m
from bastler.live.restarts import Restart


class RestartPanel(QWidget):
    """A list of all places, the one nearest to where it stopped marked; the way in; the button."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 10, 14, 12)
        column.setSpacing(8)
        head = Label(tr("Take the program up again"))
        head.setStyleSheet("font-size: 15px; font-weight: bold;")
        self.where = Label()
        self.where.setObjectName("soft")
        self.where.setWordWrap(True)
        self.list = QListWidget()
        self.list.setObjectName("picks")
        self.list.setAccessibleName(tr("Places to take the program up"))
        self.list.currentRowChanged.connect(self._look)
        self.ways = Label()
        self.ways.setWordWrap(True)
        self.start = QPushButton(tr("Start there"))
        self.start.setObjectName("main")
        self.start.clicked.connect(self._start)
        column.addWidget(head)
        column.addWidget(self.where)
        column.addWidget(self.list, 1)
        label = Label(tr("What it does first"))
        label.setStyleSheet("font-weight: bold;")
        column.addWidget(label)
        column.addWidget(self.ways)
        column.addWidget(self.start)
        self._places: list[Restart] = []
        desk.changed.connect(self.refresh)

    def refresh(self) -> None:
        """The places of the program that is shown."""
        status = self.desk.status
        line = status.line if status is not None else 0
        self.where.setText(tr("It stopped in line {line}.", line=line) if line else tr("Every stage begins clear of the part."))
        if self.desk.restarts is not self._places:
            self._places = self.desk.restarts
            self.list.blockSignals(True)
            self.list.clear()
            for place in self._places:
                self.list.addItem(QListWidgetItem(self._words(place)))
            self.list.blockSignals(False)
            self._near(line)
        self.start.setEnabled(self.desk.mode == "ready" and self.list.currentRow() >= 0)

    def show_near(self) -> None:
        """Chooses the place nearest to where it stopped."""
        self.refresh()
        status = self.desk.status
        self._near(status.line if status is not None and status.line else self.desk.stopped_at)
        self.list.setFocus()
        self._look(self.list.currentRow())

    def _near(self, line: int) -> None:
        before = [k for k, place in enumerate(self._places) if place.line <= line]
        self.list.setCurrentRow(before[-1] if before else 0)

    def _words(self, place: Restart) -> str:
        step = self.desk.session.job.step(place.step)
        title = step.title if step is not None else ""
        if place.hole:
            return tr("      hole {hole} of {holes}, line {line}", hole=place.hole, holes=place.holes, line=place.line)
        return tr(
            "{title}: {stage}, T{station}, line {line}",
            title=title,
            stage=tr(place.stage),
            station=place.station,
            line=place.line,
        )

    def _chosen(self) -> Restart | None:
        row = self.list.currentRow()
        return self._places[row] if 0 <= row < len(self._places) else None

    def _look(self, row: int) -> None:
        """Asks the machine what it would do first."""
        place = self._chosen()
        if place is None or self.desk.mode != "ready":
            self.ways.setText(tr("The machine has to stand, with no alarm: Reset first.") if self.desk.mode != "ready" else "")
            return

        def told(answer: m.Answer) -> None:
            if place is self._chosen():
                self.ways.setText(", ".join(answer.brings.get("ways", ())) + "." if answer.ok else answer.why)
                dress(self.ways, "" if answer.ok else f"color: {ROLES.stop};")

        self.desk.link.ask(m.Start(line=place.line, time=place.time, look=True), told)

    def _start(self) -> None:
        place = self._chosen()
        if place is not None:
            self.desk.run(m.Start(line=place.line, time=place.time))

    def keyPressEvent(self, event: object) -> None:
        if getattr(event, "key", int)() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._start()
