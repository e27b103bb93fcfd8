"""The stand-in's process: hears requests over a socket of the loopback address, lets time go on, and reports.

A connection begins with `hello`; whatever else comes first ends it, so that nobody talks to it by mistake. Who connects later
hears the same reports. Where it was started by a window it ends with that: its standard input is closed then.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import os
import sys
import time
from pathlib import Path

from bastler.language import tr
from bastler.link.messages import LONGEST, Answer, BadLine, Hello, line_of, request_of
from bastler.machines import MachineCard
from bastler.standin.control import Machine

log = logging.getLogger(__name__)
HOST = "127.0.0.1"
TICK = 0.02
"""Seconds between two looks at the clock."""
EVERY = 0.05
"""Seconds between two reports."""
LONGEST_TICK = 0.25
"""Seconds that go by at most at once: while a program is read the machine stands still."""
MOST_WAITING = 4_000_000
"""Bytes that may wait for somebody who does not read: more reports are not sent to him."""
MOST_CLIENTS = 16
TOO_LONG = b"That line is too long."


class Server:
    """One machine and all who are connected."""

    def __init__(self, machine: Machine) -> None:
        self.machine = machine
        self.clients: set[asyncio.StreamWriter] = set()
        self._status = b""
        self._ended = asyncio.Event()

    async def serve(self, port: int, *, child: bool) -> None:
        """Until it is ended. The first line that is printed says where it listens."""
        server = await asyncio.start_server(self._talk, HOST, port, limit=LONGEST)
        at = server.sockets[0].getsockname()
        print(f"{at[0]}:{at[1]}", flush=True)
        clock = asyncio.create_task(self._time())
        if child:
            asyncio.get_running_loop().add_reader(sys.stdin, self._parent)
        try:
            await self._ended.wait()
        finally:
            clock.cancel()
            server.close()

    def _parent(self) -> None:
        """Nobody writes to the standard input: it is closed when who started this ends."""
        if not os.read(sys.stdin.fileno(), 1024):
            self._ended.set()

    async def _talk(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if len(self.clients) >= MOST_CLIENTS:
            writer.close()
            return
        known = False
        try:
            while line := await self._line(reader, writer):
                if not line.strip():
                    continue
                answer, hello = self._answer(line)
                writer.write(line_of(answer))
                if not known and not hello:
                    break
                if not known:
                    known = True
                    self.clients.add(writer)
                    self._status = b""
                await writer.drain()
        except (ConnectionError, TimeoutError):
            pass
        finally:
            self.clients.discard(writer)
            with contextlib.suppress(ConnectionError):
                writer.close()

    async def _line(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> bytes:
        """The next line; empty at the end."""
        try:
            return await reader.readuntil(b"\n")
        except asyncio.IncompleteReadError:
            return b""
        except asyncio.LimitOverrunError:
            writer.write(line_of(Answer(0, ok=False, why=TOO_LONG.decode())))
            return b""

    def _answer(self, line: bytes) -> tuple[Answer, bool]:
        """What is answered, and whether it was a hello. A fault of ours is an answer too: the machine goes on."""
        try:
            request = request_of(line)
        except BadLine as error:
            return Answer(error.ident, ok=False, why=str(error)), False
        try:
            return self.machine.take(request), isinstance(request, Hello)
        except Exception:
            log.exception("A request failed")
            return Answer(request.id, ok=False, why=tr("The control could not do that.")), False

    async def _time(self) -> None:
        last = reported = time.monotonic()
        while True:
            await asyncio.sleep(TICK)
            now = time.monotonic()
            try:
                self.machine.tick(min(now - last, LONGEST_TICK))
                last = now
                if now - reported >= EVERY:
                    reported = now
                    self._report()
            except Exception:
                log.exception("Time went wrong")
                self.machine.alarm(tr("The control has failed. What was cut is cut."))

    def _report(self) -> None:
        """The status where it has changed, and the moves since the last report."""
        if not self.clients:
            return
        status = line_of(self.machine.status())
        told = b"" if status == self._status else status
        self._status = status
        if (went := self.machine.news()) is not None:
            told = line_of(went) + told
        for writer in self.clients if told else ():
            transport = writer.transport
            if transport.get_write_buffer_size() < MOST_WAITING:
                writer.write(told)


def run(card: MachineCard, disk: Path, *, seed: int, port: int, child: bool = False) -> None:
    """Runs a stand-in until it is ended. OSError where it cannot listen."""

    async def whole() -> None:
        await Server(Machine(card, disk, seed)).serve(port, child=child)

    asyncio.run(whole())
