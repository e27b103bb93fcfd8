"""Reading a program: its words run through a control, and the trace that comes of it.

Lines with motion words alone go in whole runs through the compiled kernel; all others change the state by their handlers first
and then use the same kernel for their own motion. A fault does not stop the reading: it is gathered with line and column.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bastler.bounds import BLOCKS, MOVES
from bastler.language import tr
from bastler.nc.again import ReadBefore
from bastler.nc.block import Block
from bastler.nc.compensation import unbend
from bastler.nc.control import Control
from bastler.nc.driven import manner_of
from bastler.nc.lathe import LATHE, beside_the_work
from bastler.nc.mill import MILL
from bastler.nc.state import MachineState, Manner
from bastler.nc.trace import Trace
from bastler.nc.words import REASONS, VARIABLE, WordTable, split
from bastler.shapes.kinds import StopFlag


def read(
    text: str,
    control: Control,
    *,
    skip_deleted: bool = False,
    stop: StopFlag | None = None,
    before: ReadBefore | None = None,
    breaks: Iterable[int] = (),
) -> Trace:
    """The trace of a program. Lines with block delete run unless `skip_deleted`. Stopped when `stop[0]` is set meanwhile. What
    was read `before` is taken over, in stretches that begin at the lines (from 0) where the program `breaks`, by default where it
    calls tools: what a program says twice is worked out once."""
    machine = MachineState(split(text), control, _manner(control))
    breaks = breaks or _tool_lines(machine.table)
    machine.stop = stop
    before = ReadBefore() if before is None or skip_deleted else before
    before.begin(control, breaks, machine.lines)
    _run(machine, before, skip_deleted=skip_deleted)
    return _trace(machine)


def _tool_lines(table: WordTable) -> list[int]:
    """The lines that call tools."""
    calls = (table.letter == ord("T")) | ((table.letter == ord("M")) & (table.value == 6.0))
    lines = np.searchsorted(table.first, np.flatnonzero(calls), "right") - 1
    return np.unique(lines).tolist()  # type: ignore[no-any-return]


def _manner(control: Control) -> Manner:
    """How a control reads lines: a mill, a lathe, or one whose spindle is an axis too."""
    if not control.turns:
        return MILL
    driven = control.has_c and control.dialect.c_words
    manner = manner_of(control.dialect, control.has_y) if driven else LATHE
    return beside_the_work(manner, control.dialect)


def _run(machine: MachineState, before: ReadBefore, *, skip_deleted: bool) -> None:
    """Runs all lines in the order a control comes to them."""
    table = machine.table
    bad_lines = {int(line): (int(column), int(reason)) for line, column, reason in table.faults}
    if machine.control.dialect.formulas:
        machine.is_formula[table.faults[table.faults[:, 2] == VARIABLE, 0]] = True
        bad_lines = {line: fault for line, fault in bad_lines.items() if fault[1] != VARIABLE}
        if skip_deleted:
            machine.is_formula &= ~table.skipped
    breaks = np.flatnonzero(~table.plain)
    line = 0
    while (line := before.come(machine, line)) < machine.lines:
        if table.plain[line] and not machine.by_word:
            at = int(np.searchsorted(breaks, line))
            end = min(int(breaks[at]) if at < len(breaks) else machine.lines, before.ahead(line, machine.lines))
            machine.run_motion(line, end)
            line = end
        elif line in bad_lines:
            machine.at_row = machine.rows.count
            _unreadable(machine, line, *bad_lines.pop(line))
            line += 1
        elif skip_deleted and table.skipped[line]:
            machine.ran[line] = True
            line += 1
        elif machine.is_formula[line]:
            line = machine.run_formulas(line)
        else:
            line = machine.run_line(line)
        if over := MOVES.over(machine.rows.count) or BLOCKS.over(machine.blocks):
            machine.at_row = machine.rows.count
            machine.say(min(line, machine.lines - 1), "too-long", tr("{over} Nothing behind this is read.", over=over))
            machine.ran[:] = True
            break
    machine.at_row = machine.rows.count
    for line, (column, reason) in bad_lines.items():
        _unreadable(machine, line, column, reason)
    for line in np.flatnonzero(machine.is_formula & ~machine.ran).tolist():
        machine.say(line, "never-run", tr("The program does not come to this line: what stands here is never run."))
        machine.ran[line] = True


def _unreadable(machine: MachineState, line: int, column: int, reason: int) -> None:
    machine.say(line, "unreadable", tr(REASONS[reason]), column)
    machine.ran[line] = True


def _trace(machine: MachineState) -> Trace:
    if machine.bent is not None:
        machine.say(machine.bent[2], "compensation", tr("Compensation is never switched off."), level="caution")
        unbend(machine)
    rows = machine.rows
    for at in machine.gaps:
        if 0 < at < rows.count:
            rows.data[at, 2:5] = rows.data[at - 1, 5:8]
    if machine.corner is not None:
        machine.say(machine.corner.line, "corner", tr("Nothing follows this corner."), machine.corner.column)
    if machine.calls:
        machine.say(machine.lines - 1, "subprogram", tr("The program ends inside a subprogram."))
    _never_run(machine)
    cut = machine.cut
    if cut is not None and cut[0] < rows.count:
        text = tr("A control stops here, and so does the proof: nothing behind this line is run.")
        machine.say(cut[1], "not-run-on", text, level="note")
        rows.count = cut[0]
        machine.events = [event for event in machine.events if event.at <= rows.count]
    return rows.trace(tuple(machine.events), tuple(machine.findings), machine.lines, cut[1] + 1 if cut is not None else 0)


def _never_run(machine: MachineState) -> None:
    """Lines with words that nothing came to, each stretch at its first: behind the end, or a subprogram that nobody calls."""
    lines = np.flatnonzero(np.diff(machine.table.first) > 0)
    ran = machine.ran[lines]
    for k in np.flatnonzero(~ran).tolist():
        line = int(lines[k])
        block = Block.of(machine.table, line)
        number = block.peek("O")
        if number is not None:
            text = tr("Nothing calls the subprogram O{number:g}: it is not proved.", number=number)
            machine.say(line, "never-called", text, level="caution")
        elif (k == 0 or ran[k - 1]) and block.unnamed:
            machine.say(line, "never-run", tr("The program has ended before this line: what stands here is never run."))
