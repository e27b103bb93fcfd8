"""Running a program's words through the modal state of a control, giving its trace.

Lines with motion words alone go in whole runs through the compiled kernel; all others change the state here first and then
use the same kernel for their own motion. A fault does not stop the reading: it is gathered with line and column.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.bounds import BLOCKS, MOVES
from bastler.nc import codes
from bastler.nc.bending import bent
from bastler.nc.block import Block
from bastler.nc.cycles import drill
from bastler.nc.motion import (
    MOTION_REASONS,
    S_CENTRES,
    S_FEED,
    S_MODE,
    S_PER,
    S_PLANE,
    S_RELATIVE,
    S_SCALE,
    move_lines,
)
from bastler.nc.state import MachineState, Point
from bastler.nc.trace import Trace
from bastler.nc.words import REASONS
from bastler.units import Unit, scale

DEEPEST_CALL = 8
UNITS: tuple[tuple[float, Unit], ...] = ((20.0, "inch"), (21.0, "mm"))


class Interpreter(MachineState):
    """One control running one program."""

    RUNS = "tool"
    """What runs beside an outline under compensation."""
    BENDS_IN = 17.0
    """The plane that compensation works in."""
    KNOWN: frozenset[float] = frozenset(codes.GROUP_OF)
    AXES = "XYZ"

    # -- the run ------------------------------------------------------------------------------------------------

    def run(self) -> Trace:
        bad_lines = {int(line): (int(column), int(reason)) for line, column, reason in self.table.faults}
        breaks = np.flatnonzero(~self.table.plain)
        at, line = 0, 0
        while line < self.lines:
            if self.table.plain[line] and not self.cycle_code:
                at = int(np.searchsorted(breaks, line))
                end = int(breaks[at]) if at < len(breaks) else self.lines
                self._motion(line, end)
                line = end
            elif line in bad_lines:
                column, reason = bad_lines.pop(line)
                self.at_row = self.rows.count
                self.say(line, "unreadable", REASONS[reason], column)
                self.ran[line] = True
                line += 1
            elif self.skip_deleted and self.table.skipped[line]:
                self.ran[line] = True
                line += 1
            else:
                line = self.run_line(line)
            if over := MOVES.over(self.rows.count) or BLOCKS.over(self.blocks):
                self.at_row = self.rows.count
                self.say(min(line, self.lines - 1), "too-long", f"{over} Nothing behind this is read.")
                self.ran[:] = True
                break
        self.at_row = self.rows.count
        for line, (column, reason) in bad_lines.items():
            self.say(line, "unreadable", REASONS[reason], column)
            self.ran[line] = True
        return self._trace()

    def _motion(self, begin: int, end: int) -> None:
        """Runs the motion words of lines through the kernel."""
        self._still_wanted()
        if self.rows.count + (end - begin) > MOVES.most:
            end = max(begin, begin + MOVES.most - self.rows.count) + 1
            end = min(end, self.lines)
        self.rows.room(end - begin)
        table = self.table
        before = self.rows.count
        self.rows.count, bad = move_lines(
            table.letter, table.value, table.first, begin, end, self.state, self.rows.data, before, self.faults, self.loose
        )
        self.ran[begin:end] = True
        for line, reason in self.faults[:bad]:
            code, text = MOTION_REASONS[int(reason)]
            self.at_row = before + int(np.searchsorted(self.rows.data[before : self.rows.count, 0], line))
            self.say(int(line), code, text)

    def _trace(self) -> Trace:
        if self.bent is not None:
            self.say(self.bent[2], "compensation", "Compensation is never switched off.", level="caution")
            self._unbend()
        for at in self.gaps:
            if 0 < at < self.rows.count:
                self.rows.data[at, 2:5] = self.rows.data[at - 1, 5:8]
        if self.calls:
            self.say(self.lines - 1, "subprogram", "The program ends inside a subprogram.")
        self._never_run()
        if self.cut is not None and self.cut[0] < self.rows.count:
            text = "A control stops here, and so does the proof: nothing behind this line is run."
            self.say(self.cut[1], "not-run-on", text, level="note")
            self.rows.count = self.cut[0]
            self.events = [event for event in self.events if event.at <= self.rows.count]
        cut = self.cut[1] + 1 if self.cut is not None else 0
        return self.rows.trace(tuple(self.events), tuple(self.findings), self.lines, cut)

    def _never_run(self) -> None:
        """Lines with words that nothing came to, each stretch at its first: behind the end, or a subprogram that nobody calls."""
        before = True
        for line in np.flatnonzero(np.diff(self.table.first) > 0).tolist():
            ran = bool(self.ran[line])
            if not ran:
                block = Block(self.table, line)
                number = block.peek("O")
                if number is not None:
                    text = f"Nothing calls the subprogram O{number:g}: it is not proved."
                    self.say(line, "never-called", text, level="caution")
                elif before and block.unnamed:
                    self.say(line, "never-run", "The program has ended before this line: what stands here is never run.")
            before = ran

    # -- one block with more than motion words ----------------------------------------------------------------------

    def run_line(self, line: int) -> int:
        """Runs one line in the order of RS-274/NGC; gives the line to go on with."""
        self.blocks += 1
        self._still_wanted()
        block = Block(self.table, line)
        self.at_row, self.ran[line] = self.rows.count, True
        said = set()
        for column, text in block.conflicts():
            self.say(line, "modal-group", text, column)
            said.add(column)
        for column, text in block.unknown(self.KNOWN, self.AXES):
            self.say(line, "unknown-word", text, column)
            said.add(column)
        self._feed_and_speed(block)
        self._tool_words(block)
        self._spindle(block)
        self._dwell(block)
        self._modes(block)
        if not self._not_modal(block):
            self._axes(block)
        after = self._flow(block)
        self.at_row = min(self.at_row, self.rows.count)
        for column, text in block.unused():
            if column not in said:
                self.say(line, "word-unused", text, column)
        return after

    def _feed_and_speed(self, block: Block) -> None:
        for code in (93.0, 94.0, 95.0):
            if block.has_g(code):
                self.state[S_PER] = code
        if block.has_g(96.0):
            self.say(block.line, "unknown-word", "G96 is for turning: the tool of a mill has one diameter.", block.column("G"))
        block.has_g(97.0)
        self._units(block)
        if (feed := block.word("F")) is not None:
            self.state[S_FEED] = feed * (1.0 if self.state[S_PER] == 93.0 else self.state[S_SCALE])
            if feed <= 0:
                self.say(block.line, "feed-missing", "A feed rate has to be more than 0.", block.column("F"))
        if (speed := block.word("S")) is not None:
            self.speed = speed
            if speed < 0:
                self.say(block.line, "speed", "A spindle speed cannot be negative.", block.column("S"))
        self._rows_speed()

    def _units(self, block: Block) -> None:
        for code, unit in UNITS:
            if block.has_g(code):
                self.state[S_SCALE] = scale(unit, self.control.unit)

    def _tool_words(self, block: Block) -> None:
        if (tool := block.word("T")) is not None:
            self.next_tool = int(tool)
            if tool != self.next_tool or tool < 0:
                self.say(block.line, "tool-word", f"T{tool:g} is no tool's number.", block.column("T"))
        if block.has_m(6):
            tip = self._tip()
            old = self._reach()
            self.tool = self.next_tool
            if self.tool and self.tool not in self.control.tool_lengths:
                self.say(block.line, "tool-unknown", f"T{self.tool} is not among the tools of this job.", block.column("M"))
            self._changed_tool(block, tip, old)

    def _changed_tool(self, block: Block, tip: Point, old: Point) -> None:
        """Another tool stands where the last one did: the tip is elsewhere, the machine is not."""
        new = self._reach()
        self.event(block.line, "tool", self.tool)
        self.rows.tool_from(self.tool)
        self._reshift((tip[0] + old[0] - new[0], tip[1] + old[1] - new[1], tip[2] + old[2] - new[2]))

    def _spindle(self, block: Block) -> None:
        if block.has_m(3):
            self.turning = True
        if block.has_m(4):
            self.turning = True
            self.say(block.line, "spindle-back", "M4 turns the tool backwards: it does not cut.", block.column("M"))
        if block.has_m(5):
            self.turning = False
        self._rows_speed()
        self._coolant(block)

    def _coolant(self, block: Block) -> None:
        for code in (7, 8, 9):
            if block.has_m(code):
                self.event(block.line, "coolant", 0.0 if code == 9 else 1.0)

    def _dwell(self, block: Block) -> None:
        if not block.has_g(4.0):
            return
        amount = block.peek("P") if block.peek("P") is not None else block.peek("X")
        if amount is None:
            self.say(block.line, "dwell", "A dwell needs its time in P.")
            return
        block.use("P" if block.peek("P") is not None else "X")
        seconds = amount / 1000.0 if self.control.dialect.dwell_unit == "ms" and block.peek("P") is not None else amount
        self.event(block.line, "dwell", max(seconds, 0.0))

    def _modes(self, block: Block) -> None:
        self._plane(block)
        self._compensation(block)
        self._length_offset(block)
        self._common_modes(block)
        for code in (98.0, 99.0):
            if block.has_g(code):
                self.initial_level = code == 98.0

    def _plane(self, block: Block) -> None:
        for code in (17.0, 18.0, 19.0):
            if block.has_g(code):
                if self.bent is not None and code != self.state[S_PLANE]:
                    self.say(block.line, "compensated-plane", "The plane changes while compensation is on.", block.column("G"))
                self.state[S_PLANE] = code

    def _common_modes(self, block: Block) -> None:
        """Work offset, distances, arc centres, the manner of corners: on mills and lathes alike."""
        self._work_offset(block)
        for code in (90.0, 91.0):
            if block.has_g(code):
                self.state[S_RELATIVE] = code - 90.0
        for code in (90.1, 91.1):
            if block.has_g(code):
                self.state[S_CENTRES] = 1.0 if code == 90.1 else 0.0
        block.has_g(61.0)  # exact at corners, as everything is run here
        block.has_g(61.1)
        if block.has_g(64.0):
            block.use("P")
            self.say(block.line, "corners", "G64 lets the control round corners off: the proof runs them sharp.", level="caution")
        for code in (48, 49):
            if block.has_m(code):
                self.event(block.line, "overrides", 1.0 if code == 48 else 0.0)

    def _compensation(self, block: Block) -> None:
        """G41 and G42 begin, G40 ends what is run beside an outline."""
        if block.has_g(40.0):
            self._unbend()
        side = next((code for code in (41.0, 42.0) if block.has_g(code)), None)
        if side is not None and self._may_bend(block):
            beside = self._runs_beside(block)
            self.bent = (-beside if side == 41.0 else beside, self.rows.count, block.line)

    def _runs_beside(self, block: Block) -> float:
        """How far beside an outline compensation keeps the tool's centre."""
        number = block.word("D")
        index = self.tool if number is None else int(number)
        diameter = self.control.diameters.get(index, 0.0)
        if index not in self.control.diameters and index != 0:
            self.say(block.line, "compensation", f"Diameter offset D{index} has no value.", block.column("D"))
        elif index not in (self.tool, 0):
            text = f"Diameter offset D{index} with T{self.tool} in the spindle."
            self.say(block.line, "compensation", text, block.column("D"), "caution")
        return diameter / 2

    def _may_bend(self, block: Block) -> bool:
        """May compensation begin here? Not while it is on, and in its own plane only."""
        if self.bent is not None:
            self.say(block.line, "compensated-twice", "Compensation is on already; G40 comes first.", block.column("G"))
            return False
        if self.state[S_PLANE] != self.BENDS_IN:
            text = f"Compensation works in G{self.BENDS_IN:g} here, not in G{self.state[S_PLANE]:g}."
            self.say(block.line, "compensated-plane", text, block.column("G"))
            return False
        return True

    def _unbend(self) -> None:
        """Ends compensation: the rows since it began are moved off the outline."""
        if self.bent is None:
            return
        distance, begin, said = self.bent
        self.bent = None
        rows = self.rows.data[begin : self.rows.count].copy()
        if abs(distance) < self.loose / 1000 or len(rows) < 2:
            return
        if self.cut is not None and self.cut[0] > begin:
            self.cut = (begin, self.cut[1])
        self._too_tight(rows, distance)
        fresh = self._beside(rows, distance, said)
        if fresh is None:
            self.say(said, "compensation", f"The {self.RUNS} finds no way along this outline.")
            return
        self.rows.replaced(begin, fresh)
        self.gaps.append(self.rows.count)

    def _too_tight(self, rows: Any, distance: float) -> None:
        """Inside arcs that what runs beside them does not fit into: a control stops there."""
        for row in rows:
            centre_right = row[1] == 2.0  # of a clockwise arc, seen along the way
            if row[1] < 2.0 or centre_right != (distance > 0):
                continue
            u, v = (2, 3) if row[11] == 17.0 else (4, 2)
            radius = float(np.hypot(row[u] - row[8], row[v] - row[9]))
            if radius < abs(distance) - self.loose / 10:
                text = f"The {self.RUNS} does not fit into this inside arc: R{radius:.4g}, it needs {abs(distance):.4g}."
                self.say(int(row[0]), "compensated-arc", text)

    def _beside(self, rows: Any, distance: float, said: int) -> Any:
        """The rows beside the outline; None when there is no way."""
        if (rows[1:, 1] < 1.0).any():
            self.say(said, "compensation", "A rapid while the tool runs beside the outline.", level="caution")
        return bent(rows, distance)

    def _length_offset(self, block: Block) -> None:
        tip = self._tip()
        if block.has_g(49.0):
            self.lift = (0.0, 0.0, 0.0)
        elif block.has_g(43.0):
            number = block.word("H")
            if number is None:
                self.say(block.line, "offset", "G43 needs the number of the length offset in H.", block.column("G"))
            index = self.tool if number is None else int(number)
            if index not in self.control.length_offsets and index != 0:
                self.say(block.line, "length-offset", f"Length offset H{index} has no value.", block.column("H"))
            elif index not in (self.tool, 0):
                text = f"Length offset H{index} with T{self.tool} in the spindle."
                self.say(block.line, "length-offset", text, block.column("H"), "caution")
            self.lift = (0.0, 0.0, self.control.length_offsets.get(index, 0.0))
        else:
            return
        self._reshift(tip)

    def _work_offset(self, block: Block) -> None:
        index = next((i for code, i in codes.OFFSET_INDEX.items() if block.has_g(code)), 0)
        if block.has_g(54.1):
            number = block.word("P")
            index = codes.EXTENDED + int(number) if number is not None else 0
            if number is None:
                self.say(block.line, "offset", "G54.1 needs the number of the offset in P.", block.column("G"))
        if index:
            tip = self._tip()
            self.offset = index
            if index not in self.offsets:
                self.say(block.line, "offset-unknown", "This work offset is not the job's and has no value.", block.column("G"))
            self.rows.offset_from(index)
            self._reshift(tip)

    # -- words that use the axes in their own way ------------------------------------------------------------------

    def _not_modal(self, block: Block) -> bool:
        """G10, G28, G52, G53, G92: true when one of them took the axis words."""
        if block.has_g(4.0):
            return True
        for code, why in codes.REFUSED.items():
            if block.has_g(code):
                self.say(block.line, "not-followed", f"G{code:g} {why}.", block.column("G"))
                block.use("XYZUWRQPLKIJF")
                return True
        if block.has_g(10.0):
            self._set_offset(block)
        elif block.has_g(28.0):
            self._to_home(block)
        elif block.has_g(53.0):
            self._machine_move(block)
        elif block.has_g(52.0):
            tip, here = self._tip(), list(self.local)
            for axis, letter in enumerate("XYZ"):
                if (value := block.word(letter)) is not None:
                    here[axis] = value * self.unit_of(axis)
            self.local = (here[0], here[1], here[2])
            self._reshift(tip)
        elif block.has_g(92.0):
            tip = self._tip()
            now, given = self.state[:3], [block.word(a) for a in "XYZ"]
            moved = [
                s + (float(n) - g * self.unit_of(axis) if g is not None else 0.0)
                for axis, (s, n, g) in enumerate(zip(self.shift, now, given, strict=True))
            ]
            self.shift = (moved[0], moved[1], moved[2])
            if all(g is None for g in given):
                self.say(block.line, "offset", "G92 needs the axes that it renames.", block.column("G"))
            self._reshift(tip)
        elif block.has_g(92.1):
            self.put_off = (0.0, 0.0, 0.0)
            self._shift_to((0.0, 0.0, 0.0))
        elif block.has_g(92.2):
            self.put_off = self.shift if any(self.shift) else self.put_off
            self._shift_to((0.0, 0.0, 0.0))
        elif block.has_g(92.3):
            self._shift_to(self.put_off if not any(self.shift) else self.shift)
        else:
            return False
        return True

    def _set_offset(self, block: Block) -> None:
        kind, number = block.word("L"), block.word("P")
        if kind not in (2.0, 20.0) or number is None:
            self.say(block.line, "offset", "G10 is read with L2 or L20 and the offset's number in P.", block.column("G"))
            return
        tip, index = self._tip(), int(number) or self.offset
        old = self.offsets.get(index, (0.0, 0.0, 0.0))
        machine = self._machine(tip)
        new = list(old)
        for axis, letter in enumerate("XYZ"):
            value = block.word(letter)
            if value is None:
                continue
            value *= self.unit_of(axis)
            new[axis] = value if kind == 2.0 else machine[axis] - self.lift[axis] - self.shift[axis] - value
        self.offsets[index] = (new[0], new[1], new[2])
        self.event(block.line, "offset", index)
        self._reshift(tip)

    def _to_home(self, block: Block) -> None:
        named = [axis for axis, letters in enumerate(self._names()) if block.has_any(letters)]
        through = self.target(block)
        if named:
            self.go(block.line, through)
        at = list(self._machine(self._tip()))
        for axis in named or (0, 1, 2):
            at[axis] = self.control.home[axis]
        self._go_machine(block.line, (at[0], at[1], at[2]))

    def _machine_move(self, block: Block) -> None:
        if block.motion is not None:
            self.state[S_MODE] = block.motion
        if self.state[S_MODE] not in (0.0, 1.0) or (self.state[S_MODE] == 1.0 and self.state[S_PER] == 93.0):
            self.say(block.line, "machine-move", "G53 moves in G0 or G1 only, and not in inverse time.", block.column("G"))
            return
        at = list(self._machine(self._tip()))
        for axis, letter in enumerate("XYZ"):
            value = block.word(letter)
            if value is not None:
                at[axis] = value * self.unit_of(axis)
        self._go_machine(block.line, (at[0], at[1], at[2]), self.state[S_MODE])

    # -- axis words: motion or cycles -----------------------------------------------------------------------------

    def _axes(self, block: Block) -> None:
        motion = block.motion
        if motion is not None:
            if motion in codes.CYCLES and not self.cycle_code:
                self.level, self.cycle = float(self.state[2]), {}
            self.cycle_code = int(motion) if motion in codes.CYCLES else 0
            self.state[S_MODE] = -1.0 if motion == 80.0 or self.cycle_code else motion
        if self.cycle_code:
            drill(self, block)
        elif block.has_any("XYZIJKR"):
            block.use("XYZIJKR")  # the kernel says which of them it has no use for
            self._motion(block.line, block.line + 1)

    # -- flow: stops, subprograms, end ---------------------------------------------------------------------------

    def _flow(self, block: Block) -> int:
        line = block.line
        for code in (0, 1):
            if block.has_m(code):
                self.event(line, "stop", float(code))
        if block.has_m(2) or block.has_m(30):
            return self.lines
        if block.has_m(98):
            return self._call(block)
        if block.has_m(99):
            return self._return(line)
        return line + 1

    def _call(self, block: Block) -> int:
        number, times = block.word("P"), max(1, int(block.word("L") or 1))
        start = self._program_line(number)
        if start is None and number is not None and number >= 10_000:  # P30200: three times O200
            times, number = int(number) // 10_000 * times, float(int(number) % 10_000)
            start = self._program_line(number)
        if start is None or len(self.calls) >= DEEPEST_CALL:
            why = f"There is no subprogram O{number:g}." if number is not None else "M98 needs the number in P."
            self.say(
                block.line, "subprogram", why if start is None else "Subprograms call each other too deep.", block.column("M")
            )
            return block.line + 1
        self.ran[start - 1] = True
        self.calls.append((block.line + 1, start, times - 1))
        return start

    def _return(self, line: int) -> int:
        if not self.calls:
            return self.lines
        back, start, left = self.calls.pop()
        if left > 0:
            self.calls.append((back, start, left - 1))
            return start
        return back

    def _program_line(self, number: float | None) -> int | None:
        hits = np.flatnonzero((self.table.letter == ord("O")) & (self.table.value == (-1 if number is None else number)))
        if not len(hits):
            return None
        return int(np.searchsorted(self.table.first, hits[0], side="right"))

    # -- frames ------------------------------------------------------------------------------------------------
