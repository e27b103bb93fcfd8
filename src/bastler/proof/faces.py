"""A part as faces for the solid view, whatever it was cut from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from bastler.shapes.kinds import Floats, Indices, Ints

UNTOUCHED, CUT, SECTION = 0, 1, 2


@dataclass(frozen=True, eq=False)
class Mesh:
    """`points` (m, 3) with the normal (m, 3), the colour (m,) UNTOUCHED, CUT or SECTION, and the depth (m,) of each below the
    stock's surface as a share of its height; `triangles` (t, 3) of them, counter-clockwise as they are seen. `edges` (2k, 3) are
    lines where walls begin and end, `hatching` (2n, 3) those across what is cut open, two points each."""

    points: Floats
    normals: Floats
    colour: Any
    depth: Floats
    triangles: Ints
    edges: Floats
    hatching: Floats
    off: Any = None
    """The class (t,) of every triangle by how far it is from the finished part, see `proof.offs`; None where nobody asked."""


class Faces:
    """Gathers faces, and gives the mesh of them."""

    def __init__(self) -> None:
        self._points: list[Any] = []
        self._normals: list[Any] = []
        self._colour: list[Any] = []
        self._depth: list[Any] = []
        self._triangles: list[Any] = []
        self._lines: list[Any] = []
        self._hatching: list[Any] = []
        self._count = 0

    def add(self, points: Floats, normals: Floats, colour: Any, depth: Any, triangles: Indices) -> None:
        """Some points, (m, 3), and triangles of them."""
        if not len(triangles):
            return
        self._points.append(points)
        self._normals.append(np.broadcast_to(normals, points.shape))
        self._colour.append(np.broadcast_to(colour, len(points)))
        self._depth.append(np.broadcast_to(depth, len(points)))
        self._triangles.append(np.asarray(triangles).reshape(-1, 3) + self._count)
        self._count += len(points)

    def quads(self, corners: Floats, normals: Floats, colour: Any, depth: Any) -> None:
        """Quads (n, 4, 3), with a normal for each corner (n, 4, 3) or for all of it (n, 1, 3); colour and depth (n,)."""
        n = len(corners)
        first = 4 * np.arange(n)[:, None]
        triangles = np.stack([first + np.array([0, 1, 2]), first + np.array([0, 2, 3])], axis=1)
        every = np.broadcast_to(normals, corners.shape)
        # round as they are seen: light falls on that side
        away = np.cross(corners[:, 2] - corners[:, 0], corners[:, 3] - corners[:, 1])
        wrong = (away * every.sum(axis=1)).sum(axis=1) < 0
        triangles[wrong] = triangles[wrong][..., ::-1]
        every = every.reshape(-1, 3)
        self.add(corners.reshape(-1, 3), every, np.repeat(np.broadcast_to(colour, n), 4), _four(depth, n), triangles)

    def bands(self, points: Floats, normals: Floats, colour: Any, depth: Any) -> None:
        """Bands of quads (k, n, 2, 3): each goes on from the corners of the one before, (n, 2) of them with their normals; colour
        and depth (k,) of a band."""
        k, n = points.shape[:2]
        corners = 2 * np.arange(k * n).reshape(k, n)[:, :-1].reshape(-1)
        p, q, s, r = (points.reshape(-1, 3)[corners + j] for j in range(4))
        # round as they are seen: light falls on that side
        away = np.cross(r - p, q - s)
        wrong = (away * normals.reshape(-1, 3)[corners]).sum(axis=1) < 0
        order = np.where(wrong[:, None], [0, 3, 2, 0, 1, 3], [0, 2, 3, 0, 3, 1])
        colours, depths = (np.repeat(np.broadcast_to(of, k), 2 * n) for of in (colour, depth))
        self.add(points.reshape(-1, 3), normals.reshape(-1, 3), colours, depths, corners[:, None] + order)

    def take(self, others: Faces) -> None:
        """The faces and lines of others as well."""
        for mine, theirs in (
            (self._points, others._points),
            (self._normals, others._normals),
            (self._colour, others._colour),
            (self._depth, others._depth),
            (self._lines, others._lines),
            (self._hatching, others._hatching),
        ):
            mine += theirs
        self._triangles += [triangles + self._count for triangles in others._triangles]
        self._count += others._count

    def lines(self, ends: Floats) -> None:
        """Edges, (k, 2, 3)."""
        self._lines.append(np.asarray(ends).reshape(-1, 3))

    def hatch(self, ends: Floats) -> None:
        """Hatching, (k, 2, 3)."""
        self._hatching.append(np.asarray(ends).reshape(-1, 3))

    def mesh(self) -> Mesh:
        """All of it."""
        return Mesh(
            _joined(self._points, np.float32, 3),
            _joined(self._normals, np.float32, 3),
            _joined(self._colour, np.uint8),
            np.clip(_joined(self._depth, np.float32), 0.0, 1.0),
            _joined(self._triangles, np.int32, 3),
            _joined(self._lines, np.float32, 3),
            _joined(self._hatching, np.float32, 3),
        )


def _four(depth: Any, n: int) -> Any:
    """Of every corner."""
    known = np.asarray(depth)
    return known.reshape(-1) if known.ndim == 2 else np.repeat(np.broadcast_to(known, n), 4)


def _joined(parts: Sequence[Any], kind: Any, width: int = 0) -> Any:
    if not parts:
        return np.zeros((0, width) if width else 0, kind)
    return np.ascontiguousarray(np.concatenate(parts), dtype=kind)


@dataclass(frozen=True, eq=False)
class Others:
    """The parts on the table besides the one that is worked on: what each is like, and how far it lies from the first."""

    meshes: tuple[tuple[tuple[float, float, float], Mesh], ...] = ()
    shift: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """Of the part that is worked on itself."""
