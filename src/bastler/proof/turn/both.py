"""One program for both spindles: what its control knows of either, and the moves of each by themselves."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np

from bastler.language import sayable, tr
from bastler.nc import Control, Trace
from bastler.nc.trace import Event, Finding
from bastler.proof.scene import Scene

NEVER = sayable("The program never goes on with the second spindle: what is cut there is not in it.")
AGAIN = sayable("Back at the main spindle: what is cut there behind the hand-over is not followed.")


def control_of(scenes: Sequence[Scene]) -> Control:
    """The control that runs the program of some holdings: with the second spindle chosen as the last one sees it."""
    first, two = scenes[0], scenes[0].card.second
    if two is None:
        return first.control
    control = replace(first.control, w=two.home)
    if len(scenes) == 1:
        return control
    return replace(control, second=replace(scenes[1].control, faces=two.faces, w=two.home))


def apart(trace: Trace, many: int) -> Iterator[Trace]:
    """The moves on the main spindle, and where a part is handed over those on the second one."""
    if many == 1:
        yield trace
        return
    last = next((k for k, event in enumerate(trace.events) if event.what == "side"), None)
    if last is None:
        never = Finding(max(trace.line_count, 1), 1, "never-handed", tr(NEVER))
        yield trace
        yield replace(trace.between(len(trace), len(trace)), findings=() if trace.cut else (never,), events=())
        return
    behind = np.flatnonzero(trace.side == 2)
    end = int(behind[0]) if len(behind) else len(trace)
    change, runs_before = trace.events[last], _before(trace, last)
    before = tuple(f for f in trace.findings if runs_before(f.line - 1))
    later = tuple(f for f in trace.findings if not runs_before(f.line - 1))
    if len(behind):
        later += (Finding(int(trace.line[end]) + 1, 1, "main-again", tr(AGAIN)),)
    to_come = [Event(e.at - change.at, e.line, e.what, e.value) for e in trace.events[last + 1 :]]
    yield replace(trace.between(0, change.at), findings=before, events=trace.events[: last + 1])
    yield replace(trace.between(change.at, end), findings=later, events=tuple(e for e in to_come if e.at <= end - change.at))


def _before(trace: Trace, last: int) -> Callable[[int], bool]:
    """Tells of lines whether they are run before an event, counted, or by it: a subprogram stands behind the end of the text and
    is run before it. A line that does nothing goes with the one before it that does."""
    change = trace.events[last]
    moves, events = trace.line.tolist(), [event.line for event in trace.events]
    known = dict.fromkeys((*moves[change.at :], *events[last + 1 :], change.line + 1), False)
    known |= dict.fromkeys((*events[: last + 1], *moves[: change.at]), True)
    lines = sorted(known)

    def runs_before(line: int) -> bool:
        place = bisect_right(lines, line)
        return not place or known[lines[place - 1]]

    return runs_before
