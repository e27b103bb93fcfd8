"""The near side: starts the process that computes, hands it work, puts together what comes back, and sees when it dies."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from bastler.live.messages import Planned, Proved, Report, Request
from bastler.live.shown import ShownRun, ShownStep
from bastler.live.wire import Unshelf, Wire

PROGRAM = (sys.executable, "-m", "bastler.live")
PATIENCE = 1.0
"""Seconds that handing something over may take: who does not take it that long hangs."""


class Process:
    """One process, from its start to its end. `handle` can be waited for: something is there to be received."""

    def __init__(self, program: Sequence[str] = PROGRAM) -> None:
        ours, theirs = Wire.pair()
        ours.settimeout(PATIENCE)
        handle = theirs.fileno()
        self._child = subprocess.Popen([*program, str(handle)], pass_fds=(handle,), stdin=subprocess.DEVNULL)
        theirs.close()
        self._wire = Wire(ours)
        self._steps, self._runs = Unshelf[ShownStep](), Unshelf[ShownRun]()

    @property
    def handle(self) -> int:
        """The descriptor of our end."""
        return self._wire.end.fileno()

    @property
    def pid(self) -> int:
        return self._child.pid

    def send(self, request: Request) -> None:
        """Hands work over. Gone when the process has died or takes nothing."""
        self._wire.send(request)

    def receive(self) -> Report:
        """What has come, whole. Gone when the process has died."""
        report: Any = self._wire.receive()
        if isinstance(report, Planned):
            flat = [number for own in report.steps for number in own]
            steps = iter(self._steps.unpack(flat, report.new))
            held = tuple(
                replace(h, steps=tuple(next(steps) for _ in own))
                for h, own in zip(report.plan.holdings, report.steps, strict=True)
            )
            return replace(report, plan=replace(report.plan, holdings=held), new={})
        if isinstance(report, Proved):
            runs = iter(self._runs.unpack(report.runs, report.new))
            proofs = tuple(
                replace(one, stages=tuple(replace(s, run=next(runs)) for s in one.stages)) for one in report.whole.holdings
            )
            return replace(report, whole=replace(report.whole, holdings=proofs), new={})
        return report  # type: ignore[no-any-return]

    def close(self) -> None:
        """Ends it at once: it keeps nothing that anybody misses."""
        self._child.kill()
        self._wire.end.close()
        self._child.wait()
