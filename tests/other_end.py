"""Somebody at the other end of a serial line: the far side of a pseudo-terminal."""

from __future__ import annotations

import os
import threading
import time
import tty

from bastler.live.line import receive
from bastler.machines import SerialLine


class OtherEnd:
    """Whoever is at the other end of the line."""

    def __init__(self) -> None:
        self.master, slave = os.openpty()
        tty.setraw(self.master)
        tty.setraw(slave)
        self.port = os.ttyname(slave)
        self._slave = slave
        self.got = bytearray()
        self._thread: threading.Thread | None = None

    def listen(self, at_most: int = 1 << 30, slow: float = 0.0) -> None:
        """Takes what comes, up to so much."""

        def run() -> None:
            while len(self.got) < at_most:
                try:
                    self.got += os.read(self.master, 512)
                except OSError:
                    return
                time.sleep(slow)

        self._thread = threading.Thread(target=run, daemon=True)
        self._thread.start()

    def say(self, data: bytes, pause: float = 0.0, chunk: int = 200) -> None:
        """Sends something in pieces, on a thread of its own."""

        def run() -> None:
            for k in range(0, len(data), chunk):
                try:
                    os.write(self.master, data[k : k + chunk])
                except OSError:
                    return
                time.sleep(pause)

        threading.Thread(target=run, daemon=True).start()

    def said_to(self, data: bytes, pause: float = 0.0, chunk: int = 200) -> bytes:
        """What is received of something that is sent as soon as somebody listens."""
        begun: list[int] = []

        def told(count: int, waits: bool) -> bool:
            if not begun:
                begun.append(count)
                self.say(data, pause, chunk)
            return True

        return receive(self.port, SerialLine(), told)

    def waited_for(self, count: int) -> bytes:
        end = time.monotonic() + 10
        while len(self.got) < count and time.monotonic() < end:
            time.sleep(0.01)
        return bytes(self.got)

    def close(self) -> None:
        for handle in (self.master, self._slave):
            try:
                os.close(handle)
            except OSError:
                continue
