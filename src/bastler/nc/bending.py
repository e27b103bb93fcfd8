"""Compensation by a control: what it makes of an outline between G41 or G42 and G40.

The rows read since it was switched on are an outline in the program; the control runs the middle of the cutter or of the nose
beside it. At outer corners it rolls about the corner, at inner ones it stops where it touches both sides.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np

from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import moved, offset_owned
from bastler.shapes.kinds import Floats

NOTHING = 1e-9


class Columns(NamedTuple):
    """The columns of a row that hold a plane's coordinates at its start and end, and those of the third axis."""

    start: tuple[int, int]
    end: tuple[int, int]
    third: tuple[int, int]


MILLED = Columns((2, 3), (5, 6), (4, 7))
TURNED = Columns((4, 2), (7, 5), (3, 6))
"""Of turned work the plane is (z, r)."""


def bent(rows: Floats, distance: float, columns: Columns = MILLED, shift: tuple[float, float] = (0.0, 0.0)) -> Floats | None:
    """Rows (n, columns) as the control runs them: the outline moved to its right by `distance`, left when negative, and then by
    `shift`, from the middle to the point that rows are of.

    The first row leads on to the outline: it ends beside the outline's start. Rows along the third axis alone stay, beside it.
    None when there is no way left.
    """
    chain: list[Segment] = []
    sources: dict[int, tuple[int, Any]] = {}
    raises: list[tuple[int, Any]] = []
    for row in rows[1:]:
        segment = _segment(row, columns)
        if segment is None:
            raises.append((len(chain), row))
            continue
        chain.append(segment)
        sources[id(segment)] = (len(chain), row)
    owned = offset_owned(chain, distance) if chain else []
    if not owned:
        return None
    way = moved([s for s, _ in owned], *shift)
    owners = [sources[id(own)] for _, own in owned]
    made: list[Any] = [rows[0].copy()]
    made[0][list(columns.end)] = way[0].start
    for k, (now, (number, source)) in enumerate(zip(way, owners, strict=True)):
        while raises and raises[0][0] < number:
            made.append(_raised(raises.pop(0)[1], now.start, columns))
        own = [j for j, (other, _) in enumerate(owners) if other == number]
        made.append(_row(now, source, columns, ((k - own[0]) / len(own), (k - own[0] + 1) / len(own))))
    made += [_raised(row, way[-1].end, columns) for _, row in raises]
    return np.array(made)


def _segment(row: Floats, columns: Columns) -> Segment | None:
    (au, av), (bu, bv) = row[list(columns.start)].tolist(), row[list(columns.end)].tolist()
    if row[1] < 2.0:
        return Line((au, av), (bu, bv)) if np.hypot(bu - au, bv - av) > NOTHING else None
    return Arc((au, av), (bu, bv), (float(row[8]), float(row[9])), bool(row[10] > 0))


def _raised(row: Floats, at: tuple[float, float], columns: Columns) -> Floats:
    """A move along the third axis alone, beside the outline."""
    made = row.copy()
    made[list(columns.start)] = made[list(columns.end)] = at
    return made


def _row(s: Segment, source: Floats, columns: Columns, share: tuple[float, float]) -> Floats:
    """A segment as a row, with line, feed and plane of another and a part of its rise."""
    row = source.copy()
    row[list(columns.start)], row[list(columns.end)] = s.start, s.end
    low, high = columns.third
    rise = source[high] - source[low]
    row[low], row[high] = source[low] + rise * share[0], source[low] + rise * share[1]
    row[1], row[8:11] = 1.0, 0.0
    if isinstance(s, Arc):
        row[1] = 3.0 if s.ccw else 2.0
        row[8:10] = s.centre
        row[10] = s.sweep() if s.ccw else -s.sweep()
    return row
