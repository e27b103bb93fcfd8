"""A print as a value: a sheet of paper with views in lines and arcs, and their dimensions (ISO 128, ISO 129).

Written in the files of the lessons. A path is `M x y`, then `L x y` for a line, `A x y r` for an arc of radius r to there (r > 0
counter-clockwise, the shorter way round) and `Z` to close it; `C x y r` is a circle. Lengths of a view are the part's own, those
of the paper millimetres.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal

import msgspec

Point = tuple[float, float]
How = Literal["across", "up", "aligned", "round", "radius", "note"]


class PathError(ValueError):
    """A path that cannot be read; the text says where."""


class Dimension(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A size on a view, with the words on it. `across` and `up` are measured between `a` and `b`, the line `off` mm of paper from
    `a`; a diameter (`round`), a `radius` and a `note` point at `a` from `off` mm away, in the direction `angle`."""

    id: str
    how: How
    words: str
    a: Point
    b: Point = (0.0, 0.0)
    off: float = 10.0
    angle: float = 45.0


class PrintView(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A view: where its zero lies on the paper, from the lower left, how large it is drawn, its lines by what they mean."""

    at: Point
    scale: float = 1.0
    thick: tuple[str, ...] = ()
    thin: tuple[str, ...] = ()
    chain: tuple[str, ...] = ()
    dashed: tuple[str, ...] = ()
    hatched: tuple[str, ...] = ()
    dims: tuple[Dimension, ...] = ()

    def placed(self, point: Point) -> Point:
        """A point of the part on the paper, in mm from the lower left."""
        return self.at[0] + point[0] * self.scale, self.at[1] + point[1] * self.scale


class PrintDrawing(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole print: its title block and its views."""

    title: str
    number: str
    material: str
    general: str = "ISO 2768-m"
    size: Point = (210.0, 148.0)
    views: tuple[PrintView, ...] = ()

    @property
    def dims(self) -> tuple[Dimension, ...]:
        """All sizes on it, in order."""
        return tuple(dim for view in self.views for dim in view.dims)


class Stretch(msgspec.Struct, frozen=True):
    """A piece of a path: to a point, along a line, or along an arc about `centre` through `sweep` degrees."""

    a: Point
    b: Point
    centre: Point | None = None
    sweep: float = 0.0


def pieces(path: str) -> Iterator[Stretch]:
    """The lines and arcs of a path. PathError for what is none."""
    words = path.split()
    begin = here = (0.0, 0.0)
    at = 0
    counts = {"M": 2, "L": 2, "A": 3, "C": 3, "Z": 0}
    while at < len(words):
        what = words[at]
        if what not in counts:
            raise PathError(f"{what} begins nothing, in {path}")
        try:
            n = [float(word) for word in words[at + 1 : at + 1 + counts[what]]]
        except ValueError as error:
            raise PathError(f"a number is missing behind {what}, in {path}") from error
        if len(n) < counts[what]:
            raise PathError(f"a number is missing behind {what}, in {path}")
        at += 1 + counts[what]
        if what == "M":
            begin = here = (n[0], n[1])
        elif what == "C":
            rim = (n[0] + n[2], n[1])
            yield Stretch(rim, rim, (n[0], n[1]), 360.0)
        else:
            to = begin if what == "Z" else (n[0], n[1])
            yield _arc(here, to, n[2]) if what == "A" else Stretch(here, to)
            here = to


def _arc(a: Point, b: Point, r: float) -> Stretch:
    """The shorter arc of radius |r| from a to b, counter-clockwise for r > 0."""
    half = math.dist(a, b) / 2
    if half > abs(r) * (1 + 1e-6) or half == 0:
        raise PathError(f"no arc of radius {r:g} joins {a} and {b}")
    rise = math.sqrt(max(r * r - half * half, 0.0))
    side = 1.0 if r > 0 else -1.0
    ux, uy = (b[0] - a[0]) / (2 * half), (b[1] - a[1]) / (2 * half)
    centre = ((a[0] + b[0]) / 2 - uy * rise * side, (a[1] + b[1]) / 2 + ux * rise * side)
    return Stretch(a, b, centre, side * math.degrees(2 * math.asin(min(half / abs(r), 1.0))))
