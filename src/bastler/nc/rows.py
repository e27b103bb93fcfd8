"""The growing table of moves while a program is read."""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.nc.motion import COLUMNS, S_DX, S_PLANE
from bastler.nc.trace import Event, Finding, Trace


class Rows:
    """Rows as the kernel writes them, and what changes only between blocks as marks (row, value)."""

    def __init__(self, size: int) -> None:
        self.data = np.empty((size, COLUMNS))
        self.count = 0
        self._speed: list[tuple[int, float]] = [(0, 0.0)]
        self._tool: list[tuple[int, int]] = [(0, 0)]
        self._offset: list[tuple[int, int]] = [(0, 0)]

    def room(self, more: int) -> None:
        """Makes room for `more` rows."""
        need = self.count + more
        if need > len(self.data):
            grown = np.empty((max(need, 2 * len(self.data)), COLUMNS))
            grown[: self.count] = self.data[: self.count]
            self.data = grown

    def straight(self, line: int, kind: float, state: Any, target: tuple[float, float, float], feed: float) -> None:
        """One straight move to `target` in the program's coordinates."""
        self.room(1)
        row = self.data[self.count]
        row[:2] = (line, kind)
        row[2:5] = state[:3] + state[S_DX : S_DX + 3]
        row[5:8] = np.asarray(target) + state[S_DX : S_DX + 3]
        row[8:] = (0.0, 0.0, 0.0, state[S_PLANE], feed)
        self.count += 1

    def speed_from(self, speed: float) -> None:
        if self._speed[-1][1] != speed:
            self._speed.append((self.count, speed))

    def tool_from(self, tool: int) -> None:
        self._tool.append((self.count, tool))

    def offset_from(self, offset: int) -> None:
        self._offset.append((self.count, offset))

    def trace(self, events: tuple[Event, ...], findings: tuple[Finding, ...], lines: int) -> Trace:
        """The finished trace."""
        data = self.data[: self.count]
        plane = data[:, 11].astype(np.int32)
        return Trace(
            line=data[:, 0].astype(np.int32),
            kind=data[:, 1].astype(np.int32),
            start=np.ascontiguousarray(data[:, 2:5]),
            end=np.ascontiguousarray(data[:, 5:8]),
            centre=_centres(data, plane),
            turn=data[:, 10].copy(),
            plane=plane,
            feed=data[:, 12].copy(),
            speed=_spread(self._speed, self.count, np.float64),
            tool=_spread(self._tool, self.count, np.int32),
            offset=_spread(self._offset, self.count, np.int32),
            events=events,
            findings=tuple(sorted(findings, key=lambda f: (f.line, f.column))),
            line_count=lines,
        )


def _centres(data: Any, plane: Any) -> Any:
    """Centres as (n, 3): the two coordinates of the plane in their places, the third that of the start."""
    centre = data[:, 2:5].copy()
    for code, u, v in ((17, 0, 1), (18, 2, 0), (19, 1, 2)):
        mask = plane == code
        centre[mask, u] = data[mask, 8]
        centre[mask, v] = data[mask, 9]
    return centre


def _spread(marks: list[tuple[int, Any]], count: int, kind: Any) -> Any:
    values = np.array([value for _, value in marks], dtype=kind)
    starts = np.array([row for row, _ in marks] + [count])
    return np.repeat(values, np.diff(starts))
