"""Reading a program: the control that its words run through, and the trace that comes of it."""

from __future__ import annotations

from typing import Any

from bastler.nc.control import Control
from bastler.nc.interpreter import Interpreter
from bastler.nc.lathe import LatheInterpreter
from bastler.nc.trace import Trace
from bastler.nc.words import split


def read(text: str, control: Control, *, skip_deleted: bool = False, stop: Any = None) -> Trace:
    """The trace of a program. Lines with block delete run unless `skip_deleted`. Stopped when `stop[0]` is set meanwhile."""
    run = (LatheInterpreter if control.turns else Interpreter)(split(text), control, skip_deleted)
    run.stop = stop
    return run.run()
