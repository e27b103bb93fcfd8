"""Compiled kernels. A *kernel* is a function on numbers and NumPy arrays that numba compiles; what it compiles is kept beside the
source. The compiler itself takes half a second to load: not before the first kernel is called, and never where none is.

On a fresh machine the first kernel of each kind takes half a minute to compile, and that is no hang: `compiled_within` tells.
"""

from __future__ import annotations

import functools
import threading
import time
from collections.abc import Callable
from typing import Any, TypeVar, cast

Function = TypeVar("Function", bound=Callable[..., Any])


class Kernel:
    """A function that is compiled when it is first called. Kernels may call each other by their names in their modules."""

    def __init__(self, function: Callable[..., Any], options: dict[str, Any]) -> None:
        functools.update_wrapper(self, function)
        self._function, self._options = function, options
        self._compiled: Any = None

    def __call__(self, *numbers: Any) -> Any:
        compiled = self._compiled
        return compiled(*numbers) if compiled is not None else self.compiled(*numbers)

    @property
    def compiled(self) -> Any:
        """What the compiler made of it; that of the kernels it calls is put in their places first, as it knows no others."""
        with _one_at_a_time:
            if self._compiled is None:
                own = self._function.__globals__
                for name in self._function.__code__.co_names:
                    if isinstance(called := own.get(name), Kernel):
                        own[name] = called.compiled
                self._compiled = _compiler()(**self._options)(self._function)
        return self._compiled


def kernel(*, inline: bool = False, fast: bool = False) -> Callable[[Function], Function]:
    """Makes a kernel of a function: compiled once, free of the interpreter's lock. `inline` has it put into those that call it;
    `fast` allows the sums of floats in any order."""
    options: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy"}
    options |= {"inline": "always"} if inline else {}
    options |= {"fastmath": True} if fast else {}

    def made(function: Function) -> Function:
        return cast(Function, Kernel(function, options))

    return made


_one_at_a_time = threading.RLock()


class _AtWork:
    """Counts who is compiling, on whatever thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._count = 0
        self._ended = -1e9

    def begin(self) -> None:
        with self._lock:
            self._count += 1

    def end(self) -> None:
        with self._lock:
            self._count -= 1
            self._ended = time.monotonic()

    def within(self, seconds: float) -> bool:
        with self._lock:
            return self._count > 0 or time.monotonic() - self._ended < seconds


_at_work = _AtWork()


@functools.cache
def _compiler() -> Any:
    from numba import njit
    from numba.core import event

    class Listener(event.Listener):
        def on_start(self, event: Any) -> None:
            _at_work.begin()

        def on_end(self, event: Any) -> None:
            _at_work.end()

    event.register("numba:compile", Listener())  # type: ignore[no-untyped-call]  # the compiler has no types
    return njit


def compiled_within(seconds: float) -> bool:
    """Is something being compiled, or was it within so many seconds?"""
    return _at_work.within(seconds)
