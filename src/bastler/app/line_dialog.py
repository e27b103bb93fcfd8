"""Programs over the serial line of the machine's card: which port, how far it is, and a way to stop."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QComboBox, QDialog, QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.theme import ROLES, dress
from bastler.disk import reason_of, write_whole
from bastler.language import tr, tr_as
from bastler.live.line import LineError, Stopped, is_whole, receive, send
from bastler.machines import MachineCard, SerialLine
from bastler.units import grouped

OFTEN = 0.1
"""Seconds between two words on how far it is."""
WORDS = {"none": "N", "even": "E", "odd": "O"}


class _Run(QObject):
    """The line on a thread of its own: nothing in the window waits for it."""

    told = pyqtSignal(int, bool)
    ended = pyqtSignal(object, str)

    def __init__(self, work: Callable[[Callable[[int, bool], bool]], object]) -> None:
        super().__init__()
        self._work, self._stop, self._last = work, threading.Event(), 0.0
        self._thread = threading.Thread(target=self._run, name="line", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        """Ends it at the next sign."""
        self._stop.set()

    def wait(self) -> None:
        """Until it has ended."""
        self._thread.join()

    def _run(self) -> None:
        try:
            found = self._work(self._hears)
        except Stopped as stopped:
            self.ended.emit(
                None, tr("Stopped by you after {count} signs: what the machine has is not whole.", count=grouped(stopped.count))
            )
        except LineError as error:
            self.ended.emit(None, str(error))
        else:
            self.ended.emit(found, "")

    def _hears(self, count: int, waits: bool) -> bool:
        if time.monotonic() - self._last > OFTEN:
            self._last = time.monotonic()
            self.told.emit(count, waits)
        return not self._stop.is_set()


def settings_text(line: SerialLine) -> str:
    """A line as people write it: `9600 8N1, waits by XON and XOFF`."""
    waits = {"software": tr("waits by XON and XOFF"), "hardware": tr("waits by RTS and CTS"), "none": tr("never waits")}[
        line.flow
    ]
    return f"{line.baud} {line.bits}{WORDS[line.parity]}{line.stop_bits}, {waits}"


def ports() -> list[str]:
    """The serial lines of this computer."""
    from serial.tools.list_ports import comports  # loaded when it is wanted

    return sorted(port.device for port in comports())


class LineDialog(QDialog):
    """One of both ways. `sent` comes with the port once all of a program has left, `received` with the file of one that came."""

    sent = pyqtSignal(str)
    received = pyqtSignal(object)

    def __init__(self, parent: QWidget, card: MachineCard, line: SerialLine, port: str) -> None:
        super().__init__(parent)
        self.setObjectName("paper")
        self.setMinimumWidth(460)
        self.line = line
        self._run: _Run | None = None
        self._begin: Callable[[], None] = lambda: None
        self._done: Callable[[object], None] = lambda found: None
        self._folder, self._suffix = Path(), ""
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(10)
        self.head = Label()
        self.head.setStyleSheet("font-size: 17px; font-weight: bold;")
        column.addWidget(self.head)
        about = Label(f"{card.name}: {settings_text(line)}.")
        about.setObjectName("soft")
        column.addWidget(about)
        row = QHBoxLayout()
        row.addWidget(Label(tr_as("serial", "Line")))
        self.port = QComboBox()
        self.port.setEditable(True)
        self.port.setAccessibleName(tr_as("serial", "Line"))
        self.port.addItems(dict.fromkeys([*([port] if port else []), *ports()]))
        row.addWidget(self.port, 1)
        column.addLayout(row)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.hide()
        column.addWidget(self.bar)
        self.says = Label()
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        row = QHBoxLayout()
        row.addStretch(1)
        self.go, self.leave = QPushButton(), QPushButton(tr("Close"))
        self.go.setObjectName("main")
        self.leave.setObjectName("plain")
        self.go.setDefault(True)
        self.go.clicked.connect(lambda: self._begin())
        self.leave.clicked.connect(self.reject)
        row.addWidget(self.leave)
        row.addWidget(self.go)
        column.addLayout(row)

    def to_send(self, data: bytes, name: str, *, proved: bool) -> None:
        """Ready to send a program."""
        self.setWindowTitle(tr("Send over the serial line"))
        self.head.setText(tr("Send {name}", name=name))
        self.bar.setRange(0, len(data))
        if proved:
            self._say(tr("{data} signs. Have the machine read first.", data=grouped(len(data))))
        else:
            self._say(tr("This program must not run as it is: see the remarks. Its text will say so."), ROLES.stop)
        self.go.setText(tr("Send") if proved else tr("Send it all the same"))
        self._begin = lambda: self._start(lambda told: send(self.port.currentText().strip(), data, self.line, told))
        self._done = self._all_sent

    def to_receive(self, folder: Path, suffix: str) -> None:
        """Ready to take one."""
        self.setWindowTitle(tr("Receive over the serial line"))
        self.head.setText(tr("Receive a program"))
        self._folder, self._suffix = folder, suffix
        self.bar.setRange(0, 0)
        self._say(tr("Start here, then have the machine send."))
        self.go.setText(tr("Receive"))
        self._begin = lambda: self._start(lambda told: receive(self.port.currentText().strip(), self.line, told))
        self._done = self._came

    # -- while it runs --------------------------------------------------------------------------------------------

    def _start(self, work: Callable[[Callable[[int, bool], bool]], object]) -> None:
        self._run = _Run(work)
        self._run.told.connect(self._told)
        self._run.ended.connect(self._ended)
        self.go.setEnabled(False)
        self.port.setEnabled(False)
        self.leave.setText(tr("Stop"))
        self.bar.show()
        self._say(tr("Waiting for the machine."))
        self._run.start()

    def _told(self, count: int, waits: bool) -> None:
        if self.bar.maximum():
            self.bar.setValue(count)
        self._say(tr("{count} signs{waits}.", count=grouped(count), waits=tr(", the machine lets us wait") if waits else ""))

    def _ended(self, found: object, trouble: str) -> None:
        self._run = None
        self.go.setEnabled(True)
        self.port.setEnabled(True)
        self.leave.setText(tr("Close"))
        self.bar.hide()
        if trouble:
            self._say(trouble, ROLES.stop)
        else:
            self._done(found)

    def _all_sent(self, found: object) -> None:
        self.bar.setValue(self.bar.maximum())
        self._say(tr("All of it has left: {maximum} signs.", maximum=grouped(self.bar.maximum())), ROLES.good)
        self.sent.emit(self.port.currentText().strip())

    def _came(self, found: object) -> None:
        assert isinstance(found, bytes)
        path = self._folder / f"received-{datetime.now():%Y%m%d-%H%M%S}{self._suffix}"
        try:
            write_whole(path, found)
        except OSError as error:
            self._say(tr("{path} could not be written: {error}.", path=path, error=reason_of(error)), ROLES.stop)
            return
        lost = "" if is_whole(found) else tr(" It does not end as it began: something of it may be lost.")
        self._say(
            tr("{found} signs, saved as {name}.{lost}", found=grouped(len(found)), name=path.name, lost=lost),
            ROLES.good if not lost else ROLES.caution_text,
        )
        self.received.emit(path)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """A window that goes away stops what runs."""
        if self._run is not None:
            self._run.stop()
            self._run.wait()
            self._run = None
        super().closeEvent(event)

    def reject(self) -> None:
        """Stops what runs, by the button or Esc; else goes away."""
        if self._run is not None:
            self._run.stop()
        else:
            super().reject()

    def _say(self, text: str, tint: str = "") -> None:
        self.says.setText(text)
        dress(self.says, f"color: {tint or ROLES.ink};")
