"""The process that computes, with faults that a test can ask for: files in a folder say what goes wrong while they are there.

`plan-hangs`, `proof-hangs`: neither ends, whether wanted or not. `proof-spins`: it works and comes to no end. `plan-slow`: a
plan takes 0.8 s. `plan-fails`, `proof-fails`: they raise. `plan-kills`: the process dies. `compiles`: a kernel is compiled while
the proof hangs.
"""

from __future__ import annotations

import os
import sys
import time
from pathlib import Path
from typing import Any

from bastler.job import plan
from bastler.live import __main__ as main
from bastler.live import desk
from bastler.proof import Prover

FOLDER = Path(sys.argv[1])
PROVE = Prover.prove


def asked(fault: str) -> bool:
    return (FOLDER / fault).exists()


def odd_plan(*given: Any) -> Any:
    if asked("plan-kills"):
        os._exit(3)
    if asked("plan-fails"):
        raise RuntimeError("planted")
    if asked("plan-slow"):
        time.sleep(0.8)
    while asked("plan-hangs"):
        time.sleep(0.01)
    return plan(*given)


def odd_prove(self: Prover, *given: Any, **named: Any) -> Any:
    if asked("proof-fails"):
        raise RuntimeError("planted")
    while asked("proof-hangs"):
        time.sleep(0.01)
        if asked("compiles"):
            (FOLDER / "compiles").unlink()
            from bastler.shapes.compiling import _at_work

            _at_work.begin()
            _at_work.end()
    while asked("proof-spins"):
        pass
    return PROVE(self, *given, **named)


if __name__ == "__main__":
    desk.plan = odd_plan  # type: ignore[attr-defined, assignment]
    Prover.prove = odd_prove  # type: ignore[method-assign]
    sys.exit(main.main(int(sys.argv[2])))
