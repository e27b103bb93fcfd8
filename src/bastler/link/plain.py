"""A plain end of the line to a machine: asks and waits for the answer. For tests and for scripts; a window does not wait."""

from __future__ import annotations

import socket
import time
from typing import Any

import msgspec

from bastler.language import tr
from bastler.link.messages import Answer, AnyRequest, Moved, Status, Went, line_of, report_of


class LinkError(Exception):
    """A machine has refused something, or is gone; the message is a sentence."""


class Link:
    """Connected to a machine: `status` is the newest, `went` all moves on the part that is clamped. OSError where nobody
    listens."""

    def __init__(self, host: str, port: int, patience: float = 60.0) -> None:
        self.socket = socket.create_connection((host, port), timeout=patience)
        self.patience = patience
        self.status: Status | None = None
        self.part = 0
        self.went: list[Moved] = []
        self._number = 0
        self._heard = b""

    def close(self) -> None:
        """Ends it."""
        self.socket.close()

    def ask(self, request: AnyRequest) -> dict[str, Any]:
        """What a request brings. LinkError where it is refused."""
        self._number += 1
        self.socket.sendall(line_of(msgspec.structs.replace(request, id=self._number)))
        while True:
            report = self.hear()
            if isinstance(report, Answer) and report.id == self._number:
                if not report.ok:
                    raise LinkError(report.why)
                return report.brings

    def hear(self) -> Answer | Status | Went:
        """The next report, kept where it is a status or moves. LinkError at the end."""
        while b"\n" not in self._heard:
            data = self.socket.recv(1 << 16)
            if not data:
                raise LinkError(tr("The machine is gone."))
            self._heard += data
        line, _, self._heard = self._heard.partition(b"\n")
        report = report_of(line)
        if isinstance(report, Status):
            self.status = report
        elif isinstance(report, Went):
            self.went = self.went[: report.first] if report.part == self.part else []
            self.part = report.part
            self.went += report.moves
        return report

    def wait(self, *modes: str) -> Status:
        """The status once the machine is in one of some modes. LinkError where that takes too long."""
        until = time.monotonic() + self.patience
        while time.monotonic() < until:
            report = self.hear()
            if isinstance(report, Status) and report.mode in modes:
                return report
        raise LinkError(tr("The machine did not come to be {modes}.", modes=tr(" or ").join(modes)))
