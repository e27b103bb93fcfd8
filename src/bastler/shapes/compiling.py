"""Whether kernels are being compiled: on a fresh machine the first of each kind takes half a minute, and that is no hang."""

from __future__ import annotations

import threading
import time
from typing import Any

from numba.core import event


class _Listener(event.Listener):
    """Counts who is at it, on whatever thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._at_it = 0
        self._ended = -1e9

    def on_start(self, event: Any) -> None:
        with self._lock:
            self._at_it += 1

    def on_end(self, event: Any) -> None:
        with self._lock:
            self._at_it -= 1
            self._ended = time.monotonic()

    def within(self, seconds: float) -> bool:
        with self._lock:
            return self._at_it > 0 or time.monotonic() - self._ended < seconds


_listener = _Listener()
event.register("numba:compile", _listener)  # type: ignore[no-untyped-call]  # the compiler has no types


def compiled_within(seconds: float) -> bool:
    """Is something being compiled, or was it within so many seconds?"""
    return _listener.within(seconds)
