"""What a setup sheet says: all that somebody at the machine has to know who has not seen the job. `live.setting_up` makes it.

Everything is a value, as in `live.shown`: the same sheet is printed, written to a file and listed in a table.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

from bastler.job import Job
from bastler.live.shown import Look, ShownHolding, Verdict
from bastler.machines import MachineCard
from bastler.proof.remark import Remark
from bastler.tools import AnyTool
from bastler.tools.lists import inert
from bastler.units import Unit


@dataclass(frozen=True)
class ToolLine:
    """A tool of a program: the numbers of the steps that use it, and the seconds that it feeds and goes between."""

    tool: AnyTool
    steps: tuple[int, ...]
    seconds: float


@dataclass(frozen=True)
class StepLine:
    """A step as it is done: its number, what it is, with which tools, in how many seconds. `stops` where the machine stops."""

    number: int
    title: str
    summary: str
    stations: tuple[int, ...]
    seconds: float
    stops: str = ""


@dataclass(frozen=True)
class SizeLine:
    """A size of the part: the step that makes it by number, 0 for that of the stock, and by title; what it is, as on the print,
    with its unit; and between which limits it has to be, where there are any."""

    number: int
    title: str
    says: str
    text: str
    unit: str
    limits: tuple[float, float] | None = None


@dataclass(frozen=True)
class HoldingSheet:
    """A holding of a program: what there is around it and what there is to see of it; what was answered, as (group, question,
    answer); and its steps."""

    shown: ShownHolding
    look: Look
    facts: tuple[tuple[str, str, str], ...]
    steps: tuple[StepLine, ...]


@dataclass(frozen=True)
class ProgramSheet:
    """A program: its number, how many lines it has, the digest of its file as it leaves, how long it takes, what was found."""

    number: int
    lines: int
    digest: str
    seconds: float
    verdict: Verdict
    remarks: tuple[Remark, ...]
    holdings: tuple[HoldingSheet, ...]
    tools: tuple[ToolLine, ...]


@dataclass(frozen=True)
class SetupSheet:
    """The sheet of a whole job, for the machine of its card."""

    job: Job
    card: MachineCard
    stock: str
    programs: tuple[ProgramSheet, ...]
    sizes: tuple[SizeLine, ...]

    @property
    def unit(self) -> Unit:
        """Of all its lengths."""
        return self.job.unit


SIZE_HEADINGS = ("step", "of", "size", "nominal", "least", "most", "unit", "measured")


def sizes_csv(sheet: SetupSheet) -> str:
    """The sizes of the part as a table, with a column to write what was measured."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(SIZE_HEADINGS)
    for size in sheet.sizes:
        least, most = limits_text(size, sheet.unit)
        writer.writerow(
            (size.number or "", inert(size.title), inert(size.says), size.text.replace(",", "."), least, most, size.unit, "")
        )
    return out.getvalue()


def limits_text(size: SizeLine, unit: Unit) -> tuple[str, str]:
    """The least and the most that a size may be, to the micron or its like in inches; empty where there are no limits."""
    if size.limits is None:
        return "", ""
    least, most = (f"{limit:.{3 if unit == 'mm' else 5}f}" for limit in size.limits)
    return least, most
