"""The window's end of the line to a machine: starts a stand-in of its own process, asks, and says by signals what comes. Nothing
here waits; a machine that goes away is said, and the window lives on."""

from __future__ import annotations

import contextlib
import logging
import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import msgspec
from PyQt6.QtCore import QObject, QProcess, QTimer, pyqtSignal
from PyQt6.QtNetwork import QAbstractSocket, QTcpSocket

from bastler.disk import reason_of
from bastler.job import Job, write_job
from bastler.language import sayable, tr
from bastler.link import messages as m

log = logging.getLogger(__name__)
PLACE = re.compile(r"^(127\.0\.0\.1):(\d{1,5})\s*$")
PATIENCE = 60_000
"""Milliseconds in which a stand-in has to come up: on a machine that is busy with other things it loads for long."""
MOST_HEARD = 64_000_000
"""Bytes of one line: more is no report."""
ENDED = sayable("The stand-in has ended. What it has cut is gone with it.")
Then = Callable[[m.Answer], None]


class MachineLink(QObject):
    """`changed` when a machine is there, or is not any more (then `trouble` says why, where nobody wanted that); `status` and
    `went` bring its reports."""

    changed = pyqtSignal()
    status = pyqtSignal(object)
    went = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.trouble = ""
        self.starting = False
        self.hello: dict[str, object] = {}
        self.process: QProcess | None = None
        self._socket: QTcpSocket | None = None
        self._then: dict[int, Then] = {}
        self._number = 0
        self._heard = b""
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(PATIENCE)
        self._late.timeout.connect(lambda: self._lost(tr("The stand-in does not come up.")))

    @property
    def there(self) -> bool:
        """Is a machine connected that has said who it is?"""
        return bool(self.hello)

    @property
    def waiting(self) -> bool:
        """Is an answer still to come?"""
        return bool(self._then)

    # -- coming and going -----------------------------------------------------------------------------------------

    def start(self, job: Job, seed: int) -> None:
        """Starts a stand-in of the job's machine."""
        self.leave()
        self.trouble, self.starting = "", True
        self._folder = tempfile.TemporaryDirectory(prefix="bastler-card-", ignore_cleanup_errors=True)
        card = Path(self._folder.name) / "card.bastler"
        try:
            write_job(job, card)
        except OSError as error:
            self._lost(tr("The stand-in cannot be started: {error}.", error=reason_of(error)))
            return
        process = QProcess(self)
        self.process = process
        process.setProcessChannelMode(QProcess.ProcessChannelMode.ForwardedErrorChannel)
        process.readyReadStandardOutput.connect(self._told_where)
        process.errorOccurred.connect(self._process_failed)
        process.finished.connect(lambda *_: self._lost(tr(ENDED)))
        process.start(sys.executable, ["-m", "bastler", "standin", str(card), "--seed", str(seed), "--child"])
        self._late.start()
        self.changed.emit()

    def _process_failed(self, error: QProcess.ProcessError) -> None:
        never = error == QProcess.ProcessError.FailedToStart
        self._lost(tr("The stand-in cannot be started.") if never else tr(ENDED))

    def leave(self) -> None:
        """Nobody wants the machine any more."""
        self._let_go()
        self.trouble = ""
        self.changed.emit()

    def _let_go(self) -> None:
        self._late.stop()
        self.starting, self.hello, self._then, self._heard = False, {}, {}, b""
        socket, self._socket = self._socket, None
        if socket is not None:
            socket.blockSignals(True)
            socket.abort()
            socket.deleteLater()
        process, self.process = self.process, None
        if process is not None:
            process.blockSignals(True)
            process.kill()
            process.waitForFinished(2000)
            process.deleteLater()
        if self._folder is not None:
            with contextlib.suppress(OSError):
                self._folder.cleanup()
            self._folder = None

    def _lost(self, why: str) -> None:
        """The machine is gone, and nobody wanted that."""
        if self.process is None and self._socket is None and not self.starting:
            return
        log.info("%s", why)
        waiting = list(self._then.values())
        self._let_go()
        self.trouble = why
        self.changed.emit()
        for then in waiting:
            then(m.Answer(0, ok=False, why=why))

    def _told_where(self) -> None:
        process = self.process
        if process is None or self._socket is not None:
            return
        found = PLACE.match(bytes(process.readLine().data()).decode("ascii", "replace"))
        if found is None:
            self._lost(tr("The stand-in does not say where it listens."))
            return
        self._connect(found[1], int(found[2]))

    def _connect(self, host: str, port: int) -> None:
        socket = QTcpSocket(self)
        self._socket = socket
        socket.setSocketOption(QAbstractSocket.SocketOption.LowDelayOption, 1)
        socket.connected.connect(lambda: self.ask(m.Hello(), self._greeted))
        socket.readyRead.connect(self._hear)
        socket.errorOccurred.connect(lambda _: self._lost(tr("The line to the machine is cut.")))
        socket.connectToHost(host, port)

    def _greeted(self, answer: m.Answer) -> None:
        if not answer.ok or answer.brings.get("protocol") != m.PROTOCOL:
            self._lost(answer.why or tr("The machine speaks another protocol."))
            return
        self._late.stop()
        self.starting = False
        self.hello = answer.brings
        self.changed.emit()

    # -- asking and hearing -----------------------------------------------------------------------------------------

    def ask(self, request: m.AnyRequest, then: Then | None = None) -> None:
        """Asks; `then` takes the answer. With no machine there it is answered at once."""
        socket = self._socket
        if socket is None:
            if then is not None:
                then(m.Answer(0, ok=False, why=self.trouble or tr("No machine is connected.")))
            return
        self._number += 1
        if then is not None:
            self._then[self._number] = then
        socket.write(m.line_of(msgspec.structs.replace(request, id=self._number)))

    def _hear(self) -> None:
        socket = self._socket
        if socket is None:
            return
        self._heard += socket.readAll().data()
        *lines, self._heard = self._heard.split(b"\n")
        if len(self._heard) > MOST_HEARD:
            self._lost(tr("The machine says something that is no report."))
            return
        for line in lines:
            try:
                report = m.report_of(line)
            except m.BadLine as error:
                log.warning("A report was passed over: %s", error)
                continue
            self._take(report)

    def _take(self, report: m.Report) -> None:
        if isinstance(report, m.Answer):
            then = self._then.pop(report.id, None)
            if then is not None:
                then(report)
        elif isinstance(report, m.Status):
            self.status.emit(report)
        else:
            self.went.emit(report)
