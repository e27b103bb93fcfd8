"""The near side: starts the process that computes, hands it work, puts together what comes back, and sees when it dies."""

from __future__ import annotations

import os
from dataclasses import replace
from pathlib import Path
from typing import Any

from bastler.live.child import Child
from bastler.live.messages import Planned, Proved, Report, Request
from bastler.live.shown import ShownRun, ShownStep
from bastler.live.wire import Unshelf, Wire

PATIENCE = 1.0
"""Seconds that handing something over may take: who does not take it that long hangs."""


class Process:
    """One process, from its start to its end. `handle` can be waited for: something is there to be received."""

    def __init__(self, child: Child) -> None:
        self._child = child
        child.end.settimeout(PATIENCE)
        self._wire = Wire(child.end)
        self._steps, self._runs = Unshelf[ShownStep](), Unshelf[ShownRun]()

    @property
    def handle(self) -> int:
        """The descriptor of our end."""
        return self._wire.end.fileno()

    @property
    def pid(self) -> int:
        return self._child.process.pid

    @property
    def worked(self) -> float:
        """Seconds that processors have worked for it, on all its threads, since it was started; 0 where nobody counts them."""
        try:
            counted = Path(f"/proc/{self.pid}/stat").read_text(encoding="ascii", errors="replace").rpartition(")")[2].split()
        except OSError:
            return 0.0
        return sum(int(ticks) for ticks in counted[11:13]) / os.sysconf("SC_CLK_TCK")  # proc(5): utime and stime

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
        """Ends it at once."""
        self._child.close()
