"""How two processes of ours hand each other values: a pair of sockets without a name, that nobody else can open.

A message is pickled. What is large, the arrays and long texts in it, lies in a file without a name in memory whose handle goes
along: whoever gets it maps it and reads in place, and a message is whole or not there, so that reading never waits. What is
mapped is read-only.
"""

from __future__ import annotations

import mmap
import os
import pickle
import socket
import struct
from collections.abc import Iterable, Sequence
from typing import Any, Generic, TypeVar

HEAD = struct.Struct("<QI")
PLACE = struct.Struct("<QQ")
INLINE = 2_000
"""Bytes of a message that go through the socket itself: it holds many such before anybody has to read."""
LARGEST_PACKET = 4_000
ALIGNED = 64
T = TypeVar("T")


class Gone(Exception):
    """The other process has ended."""


class Wire:
    """One end. Both ends are used by one thread at a time for sending, and one for receiving."""

    def __init__(self, end: socket.socket) -> None:
        self.end = end

    def send(self, message: Any) -> None:
        """Hands a message over. Gone when nobody is there to take it."""
        buffers: list[pickle.PickleBuffer] = []
        text = pickle.dumps(message, protocol=5, buffer_callback=buffers.append)
        views = [buffer.raw() for buffer in buffers]
        try:
            if not views and len(text) <= INLINE:
                self.end.sendall(HEAD.pack(len(text), 0) + text)
            else:
                self._send_large(text, views)
        except (BrokenPipeError, ConnectionResetError, TimeoutError, BlockingIOError) as error:
            raise Gone from error

    def _send_large(self, text: bytes, views: Sequence[memoryview]) -> None:
        at, places = _aligned(len(text)), []
        for view in views:
            places.append((at, view.nbytes))
            at = _aligned(at + view.nbytes)
        table = b"".join(PLACE.pack(*place) for place in places)
        handle = os.memfd_create("bastler", os.MFD_CLOEXEC)
        try:
            os.ftruncate(handle, max(_aligned(at) + len(table), 1))
            _write(handle, text, 0)
            for view, (place, _) in zip(views, places, strict=True):
                _write(handle, view, place)
            _write(handle, table, _aligned(at))
            socket.send_fds(self.end, [HEAD.pack(len(text), len(views)) + struct.pack("<Q", _aligned(at))], [handle])
        finally:
            os.close(handle)

    def _packet(self) -> tuple[bytes, list[int]]:
        """The next packet and the handles with it; that sending has a time limit is nothing to who waits."""
        while True:
            try:
                packet, handles, _, _ = socket.recv_fds(self.end, LARGEST_PACKET, 1)
            except TimeoutError:
                continue
            except OSError as error:
                raise Gone from error
            if not packet:
                raise Gone
            return packet, handles

    def receive(self) -> Any:
        """The next message; waits for it. Gone when the other process has ended."""
        packet, handles = self._packet()
        length, count = HEAD.unpack_from(packet)
        if not handles:
            return pickle.loads(memoryview(packet)[HEAD.size :])
        try:
            mapped = memoryview(mmap.mmap(handles[0], 0, prot=mmap.PROT_READ))
        finally:
            os.close(handles[0])
        (table,) = struct.unpack_from("<Q", packet, HEAD.size)
        places = [PLACE.unpack_from(mapped, table + k * PLACE.size) for k in range(count)]
        return pickle.loads(mapped[:length], buffers=[mapped[at : at + size] for at, size in places])


def _aligned(size: int) -> int:
    return -(-size // ALIGNED) * ALIGNED


def _write(handle: int, data: bytes | memoryview, at: int) -> None:
    """All of it: one call writes at most two gigabytes."""
    view = memoryview(data).cast("B") if not isinstance(data, bytes) else memoryview(data)
    while len(view):
        done = os.pwrite(handle, view, at)
        view, at = view[done:], at + done


class Shelf(Generic[T]):
    """What the other side has already of things that messages share: each goes over once, and afterwards by its number. What the
    newest message does not use is let go on both sides."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[int, T]] = {}
        self._last = 0

    def pack(self, things: Iterable[T]) -> tuple[tuple[int, ...], dict[int, T]]:
        """Their numbers, and those that are new."""
        now: dict[int, tuple[int, T]] = {}
        numbers, new = [], {}
        for thing in things:
            known = now.get(id(thing)) or self._known.get(id(thing))
            if known is None:
                self._last += 1
                known = (self._last, thing)
                new[self._last] = thing
            now[id(thing)] = known  # kept: as long as it is, nothing else has its id
            numbers.append(known[0])
        self._known = now
        return tuple(numbers), new


class Unshelf(Generic[T]):
    """The other side of a shelf."""

    def __init__(self) -> None:
        self._known: dict[int, T] = {}

    def unpack(self, numbers: Sequence[int], new: dict[int, T]) -> tuple[T, ...]:
        """The things themselves."""
        every = self._known | new
        self._known = {number: every[number] for number in numbers}
        return tuple(every[number] for number in numbers)
