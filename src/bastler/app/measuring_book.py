"""What was measured of all parts of the job, and how tools were corrected meanwhile: today, and on other days."""

from __future__ import annotations

import csv
import io
import uuid
from collections.abc import Sequence
from typing import Protocol

import platformdirs
from PyQt6.QtCore import QObject, pyqtSignal

from bastler.app.session import Session
from bastler.disk import reason_of
from bastler.language import tr
from bastler.link import messages as m
from bastler.live.leaving import stamp
from bastler.live.measured import MeasuredParts, PartMade, Size, Wear
from bastler.proof.gauge import Gauge
from bastler.tools.lists import inert
from bastler.units import Unit

Key = tuple[int, int]
"""The so many th part that was clamped, and its place on the table."""


class Measuring(Protocol):
    """Where something is measured: how the machine stands, its tools, which part on the table is looked at."""

    status: m.Status | None
    tools: dict[int, m.ToolOffset]
    at: int


class MeasuringBook(QObject):
    """`said` is a sentence where the disk refuses to keep it."""

    said = pyqtSignal(str, str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.parts: list[PartMade] = []
        """The oldest first."""
        self._today = ""
        self._of = ("", "")
        session.job_changed.connect(self._another)

    def begin(self) -> None:
        """A machine is connected: its parts are counted from 1 again."""
        self._today = uuid.uuid4().hex[:12]

    def _another(self) -> None:
        of = (str(self.session.path or ""), self.session.job.name) if self.session.has_job else ("", "")
        if of != self._of:
            kept = _kept().read(*of)
            if self._of[0] == "" and of[0] and self._of[1] == of[1]:  # it was saved: what was measured goes with it
                kept += [part for part in self.parts if part.key not in {k.key for k in kept}]
            self._of, self.parts = of, kept

    # -- parts ------------------------------------------------------------------------------------------------------

    def key(self, where: Measuring) -> Key:
        """Which part it is that is in the machine."""
        return (where.status.part if where.status is not None else 0, where.at)

    def made(self, key: Key) -> PartMade | None:
        """A part of today."""
        name = self._name(key)
        return next((part for part in reversed(self.parts) if part.key == name), None)

    def _name(self, key: Key) -> str:
        return f"{self._today}-{key[0]}-{key[1]}"

    def take(self, where: Measuring, key: Key, gauge: Gauge, value: float | None, *, typed: bool = False) -> None:
        """A size was measured, or is taken away, of a part of today."""
        name = self._name(key)
        old = self.made(key) or PartMade(name, stamp(), *key)
        size = None if value is None else Size(value, gauge.nominal, typed)
        made = old.with_size(gauge.id, size, stamp())
        worn = {t.number: Wear.of(t) for t in where.tools.values()}
        made = PartMade(made.key, made.when, made.number, made.at, made.sizes, worn)
        self.parts = [*(part for part in self.parts if part.key != name), made]
        try:
            _kept().keep(*self._of, [made])
        except OSError as error:
            self.said.emit("wrong", tr("What was measured could not be kept: {error}.", error=reason_of(error)))

    # -- looking back -----------------------------------------------------------------------------------------------

    def history(self, gauge: Gauge) -> list[tuple[PartMade, float]]:
        """A size of all parts so far, the oldest first."""
        found = [(part, part.size(gauge.id, gauge.nominal)) for part in self.parts]
        return [(part, size.value) for part, size in found if size is not None]

    def wears(self, station: int) -> list[tuple[PartMade, Wear]]:
        """How a tool's offset stood with each part."""
        return [(part, part.wear[station]) for part in self.parts if station in part.wear]

    def as_csv(self, gauges: Sequence[Gauge], unit: Unit) -> str:
        """All that was measured, a line each."""
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(("when", "part", "place", "step", "of", "size", "nominal", "least", "most", "measured", "unit", "how"))
        for part in self.parts:
            for gauge in gauges:
                size = part.size(gauge.id, gauge.nominal)
                if size is None:
                    continue
                low, high = gauge.limits or ("", "")
                row = (part.when, part.number, part.at + 1, gauge.number or "", inert(gauge.title), inert(gauge.says), gauge.text)
                writer.writerow((*row, low, high, f"{size.value:.4f}", unit, "typed" if size.typed else "measured"))
        return out.getvalue()


def _kept() -> MeasuredParts:
    """Those of this user."""
    return MeasuredParts(platformdirs.user_data_path("bastler") / "measured")
