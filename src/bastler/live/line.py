"""Programs over a serial line (EIA-232), there and back. The other side may let us wait as long as it likes; who waits can stop.

A line knows nothing of what got lost on it. A program that comes says by its marks whether it is whole: it begins and ends with a
percent sign where it has any.
"""

from __future__ import annotations

import errno
import os
import select
import termios
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import serial

from bastler.language import tr
from bastler.machines import SerialLine

CHUNK = 256
"""So many signs are handed to the line at a time."""
TICK = 0.1
"""Seconds after which it is asked whether to stop."""
STILL = 1.0
"""Seconds without a sign after which the other side is said to let us wait."""
SILENCE = 4.0
"""Seconds without a sign after which a program that comes is taken to have ended."""
LARGEST = 20_000_000
FILLERS = bytes((0x00, 0x7F, 0x11, 0x12, 0x13, 0x14))
"""Signs on a line that belong to no program: zeros and deletes of a leader, and those that start and stop the other side."""
PARITY = {"none": serial.PARITY_NONE, "even": serial.PARITY_EVEN, "odd": serial.PARITY_ODD}


class LineError(Exception):
    """The line cannot be used; the message is a sentence."""


class Stopped(Exception):
    """Somebody has stopped it; so many signs had gone or come."""

    def __init__(self, count: int) -> None:
        super().__init__(tr("stopped after {count} signs", count=count))
        self.count = count


Told = Callable[[int, bool], bool]
"""Hears how many signs have gone or come, and whether the other side lets us wait; gives whether to go on."""


def send(port: str, data: bytes, line: SerialLine, told: Told) -> None:
    """Sends a program with its leader, as fast as the other side takes it, and waits until all of it has left. LineError where
    the line cannot be used, Stopped where somebody wants no more of it."""
    whole = b"\x00" * line.leader + data + b"\x00" * line.leader
    with _opened(port, line) as open_line:
        gone, since = 0, time.monotonic()
        while gone < len(whole):
            count = _written(open_line, whole[gone : gone + CHUNK])
            gone += count
            since = time.monotonic() if count else since
            _go_on(open_line, told, gone, waits=time.monotonic() - since > STILL)
        left = open_line.out_waiting
        while left:
            now = open_line.out_waiting
            since = time.monotonic() if now < left else since
            left = now
            _go_on(open_line, told, gone - left, waits=time.monotonic() - since > STILL)
            time.sleep(TICK / 10)
        told(gone, False)


def receive(port: str, line: SerialLine, told: Told) -> bytes:
    """Takes a program that the other side sends, without its leader, until it has ended. LineError where the line cannot be used
    or more comes than any program has, Stopped where somebody waits no longer."""
    found = bytearray()
    with _opened(port, line) as open_line:
        since = time.monotonic()
        while True:
            came = _read(open_line)
            found += came.translate(None, FILLERS)
            if len(found) > LARGEST:
                raise LineError(tr("More than {largest} MB came: that is no program.", largest=LARGEST // 1000000))
            since = time.monotonic() if came else since
            silent = time.monotonic() - since
            if found and (_ended(found) or silent > SILENCE):
                told(len(found), False)
                return bytes(found)
            _go_on(open_line, told, len(found), waits=silent > STILL)


def is_whole(data: bytes) -> bool:
    """Does a program that came say that it is whole: does it end as it began, with a percent sign, or has it none?"""
    lines = [line.strip() for line in data.splitlines() if line.strip()]
    return bool(lines) and (lines[0] == b"%") == (lines[-1] == b"%") and (len(lines) > 1 or lines[0] != b"%")


def _ended(found: bytes | bytearray) -> bool:
    """Has its second percent sign come, on a line of its own?"""
    marks = [line.strip() for line in found.splitlines(keepends=True) if line.endswith((b"\n", b"\r"))]
    return marks.count(b"%") > 1


@contextmanager
def _opened(port: str, line: SerialLine) -> Iterator[serial.Serial]:
    try:
        open_line = serial.Serial(
            port,
            baudrate=line.baud,
            bytesize=line.bits,
            parity=PARITY[line.parity],
            stopbits=line.stop_bits,
            xonxoff=line.flow == "software",
            rtscts=line.flow == "hardware",
            timeout=0,
            exclusive=True,
        )
    except (OSError, ValueError, termios.error) as error:
        raise LineError(tr("{port} cannot be used: {reason}.", port=port, reason=_reason(error))) from error
    try:
        yield open_line
    except BaseException as error:
        with _quietly():
            open_line.reset_output_buffer()  # what nobody takes would hold up its closing
        if isinstance(error, OSError | termios.error):
            raise LineError(tr("The line broke: {reason}.", reason=_reason(error))) from error
        raise
    finally:
        with _quietly():
            open_line.close()


@contextmanager
def _quietly() -> Iterator[None]:
    try:
        yield
    except (OSError, termios.error):
        return


def _written(open_line: serial.Serial, data: bytes) -> int:
    """As much as the line takes now."""
    _, ready, _ = select.select([], [open_line.fileno()], [], TICK)
    if not ready:
        return 0
    try:
        return os.write(open_line.fileno(), data)
    except BlockingIOError:
        return 0


def _read(open_line: serial.Serial) -> bytes:
    ready, _, _ = select.select([open_line.fileno()], [], [], TICK)
    if not ready:
        return b""
    try:
        data = os.read(open_line.fileno(), CHUNK * 16)
    except BlockingIOError:
        return b""
    if not data:
        raise OSError(errno.EIO, tr("nobody is at its other end any more"))
    return data


def _go_on(open_line: serial.Serial, told: Told, count: int, *, waits: bool) -> None:
    if not told(count, waits):
        raise Stopped(count)


def _reason(error: Exception) -> str:
    number = error.errno if isinstance(error, OSError) else (error.args[0] if error.args else None)
    known = {
        errno.ENOENT: tr("there is no such line"),
        errno.ENXIO: tr("there is nothing at it"),
        errno.EACCES: tr("it is not allowed (the group dialout may use it)"),
        errno.EBUSY: tr("somebody else uses it"),
        errno.EAGAIN: tr("somebody else uses it"),
        errno.EWOULDBLOCK: tr("somebody else uses it"),
        errno.EIO: tr("nobody is at its other end any more"),
        errno.ENOTTY: tr("it is no serial line"),
        errno.EINVAL: tr("it does not know these settings"),
    }
    return (
        known.get(number, str(error).strip().rstrip(".").lower()) if isinstance(number, int) else str(error).rstrip(".").lower()
    )
