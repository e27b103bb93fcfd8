"""Hole patterns: named positions, shared between steps. Angles in degrees, 0° at 3 o'clock, counter-clockwise.

`left_out` holds the numbers of positions that are skipped, counted from 1 in the order of the pattern.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

import msgspec

from bastler.ask import ask, choose, is_, pick
from bastler.bounds import POSITIONS
from bastler.shapes.frame import Frame
from bastler.shapes.order import shortest_way
from bastler.units import Kind

Point = tuple[float, float]
_WHERE = "Where"
_X = ask("Centre X", Kind.LENGTH, _WHERE)
_Y = ask("Centre Y", Kind.LENGTH, _WHERE)
_COUNT = ask("How many", Kind.COUNT, _WHERE, least=1, most=999)
_LEFT_OUT = pick("Leave out", "positions", _WHERE, helps="Numbers of the positions to skip, as 2, 5.")


_NAME = pick("Called", "word", _WHERE, helps="The name that other steps find it by.")
_ORDER = choose("Order", {"given": "As given", "shortest": "Shortest way"}, _WHERE, late=True)
_AWAY = {"pitch": "Pitch", "length": "First to last"}


class _Named(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="kind"):
    id: str
    name: Annotated[str, _NAME]
    typed: dict[str, str] = {}
    order: Annotated[Literal["given", "shortest"], _ORDER] = "given"
    left_out: Annotated[tuple[int, ...], _LEFT_OUT] = ()


class PointsPattern(_Named, frozen=True, tag="points"):
    """Positions one by one."""

    points: Annotated[tuple[Point, ...], pick("Positions", "points", _WHERE, helps="One X and Y a line.")] = ((0.0, 0.0),)

    def count_all(self) -> int:
        return len(self.points)

    def all(self) -> list[Point]:
        return list(self.points)


class LinePattern(_Named, frozen=True, tag="line"):
    """Positions evenly along a line from the first: at a pitch, or over a length."""

    x: Annotated[float, ask("First X", Kind.LENGTH, _WHERE)] = 0.0
    y: Annotated[float, ask("First Y", Kind.LENGTH, _WHERE)] = 0.0
    count: Annotated[int, _COUNT] = 3
    by: Annotated[Literal["pitch", "length"], choose("Print gives", _AWAY, _WHERE)] = "pitch"
    pitch: Annotated[float, ask("Pitch", Kind.LENGTH, _WHERE, above=0, when=is_("by", "pitch"))] = 20.0
    length: Annotated[float, ask("First to last", Kind.LENGTH, _WHERE, above=0, when=is_("by", "length"))] = 60.0
    angle: Annotated[float, ask("Direction", Kind.ANGLE, _WHERE, helps="0° points to +X, 90° to +Y.")] = 0.0

    def count_all(self) -> int:
        return self.count

    def all(self) -> list[Point]:
        frame = Frame(self.x, self.y, self.angle)
        pitch = self.pitch if self.by == "pitch" else self.length / max(self.count - 1, 1)
        return [frame.place(k * pitch, 0.0) for k in range(self.count)]


class GridPattern(_Named, frozen=True, tag="grid"):
    """Columns and rows; `skew` leans the columns over, in degrees from square."""

    x: Annotated[float, ask("First X", Kind.LENGTH, _WHERE)] = 0.0
    y: Annotated[float, ask("First Y", Kind.LENGTH, _WHERE)] = 0.0
    columns: Annotated[int, ask("Columns", Kind.COUNT, _WHERE, least=1, most=99)] = 3
    column_pitch: Annotated[float, ask("Column pitch", Kind.LENGTH, _WHERE, above=0)] = 20.0
    rows: Annotated[int, ask("Rows", Kind.COUNT, _WHERE, least=1, most=99)] = 2
    row_pitch: Annotated[float, ask("Row pitch", Kind.LENGTH, _WHERE, above=0)] = 20.0
    angle: Annotated[float, ask("Turned by", Kind.ANGLE, _WHERE)] = 0.0
    skew: Annotated[
        float, ask("Skew", Kind.ANGLE, _WHERE, above=-80, below=80, helps="How far the columns lean from square.")
    ] = 0.0

    def count_all(self) -> int:
        return self.columns * self.rows

    def all(self) -> list[Point]:
        frame = Frame(self.x, self.y, self.angle)
        lean = math.tan(math.radians(self.skew))
        return [
            frame.place(c * self.column_pitch + r * self.row_pitch * lean, r * self.row_pitch)
            for r in range(self.rows)
            for c in range(self.columns)
        ]


class FramePattern(_Named, frozen=True, tag="frame"):
    """Positions along the edge of a rectangle, counter-clockwise from its first corner; the corners count in both directions."""

    x: Annotated[float, ask("First X", Kind.LENGTH, _WHERE, helps="Of the corner it begins at.")] = 0.0
    y: Annotated[float, ask("First Y", Kind.LENGTH, _WHERE)] = 0.0
    length: Annotated[float, ask("Length", Kind.LENGTH, _WHERE, above=0)] = 60.0
    width: Annotated[float, ask("Width", Kind.LENGTH, _WHERE, above=0)] = 40.0
    columns: Annotated[int, ask("Along the length", Kind.COUNT, _WHERE, least=2, most=99, helps="With both corners.")] = 3
    rows: Annotated[int, ask("Along the width", Kind.COUNT, _WHERE, least=2, most=99, helps="With both corners.")] = 2
    angle: Annotated[float, ask("Turned by", Kind.ANGLE, _WHERE)] = 0.0

    def count_all(self) -> int:
        return 2 * (self.columns + self.rows) - 4

    def all(self) -> list[Point]:
        frame = Frame(self.x, self.y, self.angle)
        dx, dy = self.length / (self.columns - 1), self.width / (self.rows - 1)
        along = [(c * dx, 0.0) for c in range(self.columns)] + [(self.length, r * dy) for r in range(1, self.rows)]
        back = [(c * dx, self.width) for c in range(self.columns - 2, -1, -1)] + [
            (0.0, r * dy) for r in range(self.rows - 2, 0, -1)
        ]
        return [frame.place(u, v) for u, v in along + back]


class CirclePattern(_Named, frozen=True, tag="circle"):
    """Positions evenly on a full circle."""

    x: Annotated[float, _X] = 0.0
    y: Annotated[float, _Y] = 0.0
    diameter: Annotated[float, ask("Circle diameter", Kind.LENGTH, _WHERE, above=0)] = 50.0
    count: Annotated[int, _COUNT] = 6
    start: Annotated[float, ask("First at", Kind.ANGLE, _WHERE, helps="0° is at 3 o'clock, counter-clockwise.")] = 0.0

    def count_all(self) -> int:
        return self.count

    def all(self) -> list[Point]:
        return [self._at(self.start + 360.0 * k / self.count) for k in range(self.count)]

    def _at(self, angle: float) -> Point:
        return Frame(self.x, self.y, angle).place(self.diameter / 2, 0.0)


class RingsPattern(_Named, frozen=True, tag="rings"):
    """Positions on several circles about one centre, from the smallest outward."""

    x: Annotated[float, _X] = 0.0
    y: Annotated[float, _Y] = 0.0
    diameter: Annotated[float, ask("Smallest circle", Kind.LENGTH, _WHERE, above=0)] = 30.0
    circles: Annotated[int, ask("Circles", Kind.COUNT, _WHERE, least=1, most=50)] = 2
    wider: Annotated[float, ask("Each wider by", Kind.LENGTH, _WHERE, above=0, helps="On the diameter.")] = 30.0
    count: Annotated[int, ask("On the smallest", Kind.COUNT, _WHERE, least=1, most=200)] = 4
    more: Annotated[int, ask("More on each next", Kind.COUNT, _WHERE, least=0, most=50)] = 4
    start: Annotated[float, ask("First at", Kind.ANGLE, _WHERE, helps="0° is at 3 o'clock, counter-clockwise.")] = 0.0

    def count_all(self) -> int:
        return self.circles * self.count + self.more * self.circles * (self.circles - 1) // 2

    def all(self) -> list[Point]:
        found = []
        for ring in range(self.circles):
            r, count = (self.diameter + ring * self.wider) / 2, self.count + ring * self.more
            found += [Frame(self.x, self.y, self.start + 360.0 * k / count).place(r, 0.0) for k in range(count)]
        return found


class ArcPattern(_Named, frozen=True, tag="arc"):
    """Positions on part of a circle; `sweep` is the angle from the first to the last, negative for clockwise."""

    x: Annotated[float, _X] = 0.0
    y: Annotated[float, _Y] = 0.0
    diameter: Annotated[float, ask("Circle diameter", Kind.LENGTH, _WHERE, above=0)] = 50.0
    count: Annotated[int, _COUNT] = 4
    start: Annotated[float, ask("First at", Kind.ANGLE, _WHERE, helps="0° is at 3 o'clock, counter-clockwise.")] = 0.0
    sweep: Annotated[float, ask("First to last", Kind.ANGLE, _WHERE, least=-360, most=360)] = 90.0

    def count_all(self) -> int:
        return self.count

    def all(self) -> list[Point]:
        step = self.sweep / (self.count - 1) if self.count > 1 else 0.0
        return [Frame(self.x, self.y, self.start + step * k).place(self.diameter / 2, 0.0) for k in range(self.count)]


Pattern = PointsPattern | LinePattern | GridPattern | FramePattern | CirclePattern | RingsPattern | ArcPattern


def spots(pattern: Pattern) -> list[tuple[int, Point, bool]]:
    """Every position as (number from 1, (x, y), kept); none where there are more than is bounded."""
    if POSITIONS.over(pattern.count_all()):
        return []
    return [(k, point, k not in pattern.left_out) for k, point in enumerate(pattern.all(), 1)]


def positions(pattern: Pattern) -> list[Point]:
    """The positions that are not left out, in the order they are gone to, in the job's unit."""
    kept = [point for _, point, kept in spots(pattern) if kept]
    return kept if pattern.order == "given" else [kept[k] for k in shortest_way(tuple(kept))]
