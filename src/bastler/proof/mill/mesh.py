"""A height field as faces for the solid view: floors, walls along their true contours, and slopes.

A *floor* is where the field is flat. Its outline is traced where the share of a cell that belongs to it passes a half: heights
and edges together tell that share (see `field`), so that a wall is found to a tenth of a cell and a round wall is round. The
outline is parted where what lies beside it changes, and each stretch of it goes down to that as a *wall*. What is not flat, tips
of drills, chamfers, ball-nosed furrows, are *slopes*: faces between the middles of cells, with the normals of the surface.
"""

from __future__ import annotations

import functools
import hashlib
import itertools
import math
from collections import OrderedDict
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
import shapely
from contourpy import FillType, contour_generator
from mapbox_earcut import triangulate_float64

from bastler.proof.faces import CUT, SECTION, UNTOUCHED, Faces, Mesh
from bastler.proof.mill.field import FLAT_UNDER, Grid, Heights
from bastler.shapes.compiling import kernel
from bastler.shapes.kinds import Bools, Floats, Indices, Ints

__all__ = ["CUT", "SECTION", "UNTOUCHED", "Mesh", "mesh"]
MOST_CELLS = 1_000_000
FINE, ROUGH = 0.12, 0.55
"""How far, in cells, an outline may leave what was traced: where shares of cells are known, and where only cells are."""
SMOOTH = math.cos(math.radians(38.0))
"""A corner of an outline as blunt as that is no edge."""
STEEP = 4.0
"""A slope that rises by more cells than this from one cell to the next is a wall."""
LARGE_FACES = (8, 4, 2, 1)
"""Cells along the faces of a slope: as large as there is room for."""
REACH = 3
"""Cells to either side over which an outline is smoothed that only cells are known of."""
CORNER = 5
"""Cells to either side in which an outline shows whether it turns a corner."""
BEVELLED, CORNERED = 1.5, 0.5
"""A piece of an outline shorter than so many cells between two long ones cuts off a corner, where these turn by more than this
(as the sine)."""
SHORT = 4
"""So many pieces of an outline, each shorter than a cell, are where cells meet."""
LEDGE, SLOPE = 1e9, 2e9
"""What lies beside an outline where it is no height."""
CLASSES = 32
"""More than there are classes of cells."""
EDGE_SHARE = 0.004
"""Walls lower than this share of the stock's height get no edge lines."""
HATCH_SHARE = 0.03
"""The distance of hatching lines, as a share of how long the part is."""


def mesh(
    grid: Grid,
    heights: Heights,
    under: Heights = FLAT_UNDER,
    *,
    edge: Heights | None = None,
    cells: int = MOST_CELLS,
    section_y: float | None = None,
    parted: Any = None,
) -> Mesh:
    """The faces of the part, of its underside too; `under` are the heights of that, empty where it is the block's, and `edge`
    the edges of the field, without which walls are seen a cell less fine. With `section_y` everything in front of that plane is
    left away and the plane shown as cut. Floors are `parted` where those classes of their cells (int8, as the heights) differ."""
    stride = max(1, math.ceil(math.sqrt(heights.size / cells)))
    every = (slice(stride // 2, None, stride),) * 2
    h, u = heights[every], under[every] if len(under) else FLAT_UNDER
    e = edge if edge is not None and stride == 1 else None
    dy = grid.ny * grid.dy / len(h)
    first = 0 if section_y is None else min(max(int((section_y - grid.y0) / dy + 0.5), 0), len(h) - 1)
    corner = (grid.x0, grid.y0 + first * dy)
    step = (grid.nx * grid.dx / h.shape[1], dy)
    h, u = h[first:], u[first:] if len(u) else np.full(h[first:].shape, grid.bottom, np.float32)
    faces = Faces()
    front, two = section_y is not None, len(under) > 0
    above = _Side(grid, h, u, e[first:] if e is not None else None, corner, step, front=front, two=two)
    above.parted = np.pad(parted[every][first:], 1) if parted is not None else None
    above.draw(faces)
    below = _Side(grid, -u, -h, None, corner, step, front=front, two=two, turned=True)
    below.draw(faces)
    if section_y is not None:
        _hatch(faces, h[0], u[0], corner, step[0])
    return faces.mesh()


Drawn = Callable[[Faces, Ints, int, float, tuple[slice, slice]], None]
MOST_DRAWN = 1500
_drawn: OrderedDict[bytes, Faces] = OrderedDict()
"""Floors and slopes as they were drawn; by one thread at a time."""


class _Side:
    """What is seen of a part from above; from below, `turned`, with all heights turned about. `h` are its heights over `u`, the
    other side's: where they are no higher nothing is there."""

    def __init__(
        self,
        grid: Grid,
        h: Heights,
        u: Heights,
        edge: Heights | None,
        corner: tuple[float, float],
        step: tuple[float, float],
        *,
        front: bool,
        two: bool,
        turned: bool = False,
    ) -> None:
        self.grid, self.corner, self.step, self.front, self.turned = grid, corner, step, front, turned
        self.top, self.bottom = (-grid.bottom, -grid.top) if turned else (grid.top, grid.bottom)
        self.cell = max(step)
        there = h > u
        # a rim of nothing all round, so that every outline closes
        self.h = np.pad(np.where(there, h, np.float32(self.bottom)), 1, constant_values=self.bottom)
        self.u = np.pad(np.where(there, u, np.float32(self.bottom)), 1, constant_values=self.bottom)
        self.there = np.pad(there, 1)
        self.two = two
        self.edge = np.pad(edge, 1) if edge is not None else None
        self.labels: Ints = np.zeros(self.h.shape, np.int32)
        self.parted: Any = None

    def draw(self, faces: Faces) -> None:
        """Puts its faces to others."""
        labels, levels = self._floors()
        self.labels = labels
        places = _places_of(labels)
        for k, (level, place) in enumerate(zip(levels, places, strict=True), 1):
            if place is not None:
                faces.take(self._known(self._floor, labels, k, float(level), place))
        patches = _patches(self.h, self.there & (labels == 0), STEEP * self.cell)
        for k, place in enumerate(_places_of(patches), 1):
            if place is not None:
                faces.take(self._known(self._slope, patches, k, 0.0, place))

    def _known(self, drawn: Drawn, numbers: Ints, k: int, level: float, place: tuple[slice, slice]) -> Faces:
        """A floor or a patch of slopes as it was drawn before, where all that is there and around it is the same: an edit, or a
        moment more of the program, leaves most as they were."""
        at = (slice(max(place[0].start - 2, 0), place[0].stop + 2), slice(max(place[1].start - 2, 0), place[1].stop + 2))
        made = hashlib.blake2b(repr((drawn.__name__, level, at, self.grid, self.corner, self.step, self.front)).encode())
        made.update(repr((self.turned, self.edge is None)).encode())
        # all else follows from these
        fields = [self.h[at], *([self.u[at]] if self.two else []), *([self.edge[at]] if self.edge is not None else [])]
        fields += [self.parted[at]] if self.parted is not None else []
        for field in fields if drawn.__name__ == "_floor" else [*fields, numbers[at] == k]:
            made.update(np.ascontiguousarray(field).data)
        key = made.digest()
        found = _drawn.get(key)
        if found is None:
            found = Faces()
            drawn(found, numbers, k, level, at)
            _drawn[key] = found
            while len(_drawn) > MOST_DRAWN:
                _drawn.popitem(last=False)
        _drawn.move_to_end(key)
        return found

    # -- floors -------------------------------------------------------------------------------------------------

    def _floors(self) -> tuple[Ints, Floats]:
        """For every cell the number of its floor, from 1, and the height of each; 0 where it is not flat, or nothing is."""
        h, there = self.h, self.there
        same = (
            (h[1:, 1:] == h[:-1, 1:]) & (h[1:, 1:] == h[1:, :-1]) & (h[1:, 1:] == h[:-1, :-1]) & there[1:, 1:] & there[:-1, :-1]
        )
        flat = np.zeros_like(there)
        for rows in (slice(1, None), slice(None, -1)):
            for columns in (slice(1, None), slice(None, -1)):
                flat[rows, columns] |= same
        flat &= there
        # heights are few: counted as whole numbers, which takes no sorting
        fine = (1 << 20) / max(self.top - self.bottom, 1e-9)
        steps = ((h[flat] - self.bottom) * fine).astype(np.int64).clip(0, 1 << 20)
        count = np.bincount(steps, minlength=(1 << 20) + 1)
        used = np.flatnonzero(count)
        heights = np.bincount(steps, weights=h[flat])[used] / count[used]
        number = np.zeros(len(count), np.int32)
        number[used] = np.arange(1, len(used) + 1)
        labels = np.zeros(h.shape, np.int32)
        labels[flat] = number[steps]
        return self._parted(labels, heights) if self.parted is not None else (labels, heights)

    def _parted(self, labels: Ints, heights: Floats) -> tuple[Ints, Floats]:
        """The floors, each in as many as there are classes of its cells."""
        both = labels.astype(np.int64) * CLASSES + (self.parted.astype(np.int64) + CLASSES // 2)
        both[labels == 0] = 0
        used, found = np.unique(both, return_inverse=True)
        number = np.cumsum(used > 0)
        again: Ints = number[found.reshape(labels.shape)].astype(np.int32)
        return again, heights[used[used > 0] // CLASSES - 1]

    def _floor(self, faces: Faces, labels: Ints, k: int, level: float, at: tuple[slice, slice]) -> None:
        rows, columns = at
        own = labels[rows, columns] == k
        share = own.astype(np.float32)
        if self.edge is not None:
            self._weigh(share, own, level, rows, columns)
        colour = UNTOUCHED if level >= self.top - 1e-6 * (self.top - self.bottom) else CUT
        tolerance, corner = FINE if self.edge is not None else ROUGH, np.array([columns.start, rows.start])
        for rings in _outlines(share):
            kept = [self._walls(faces, ring + corner, level, tolerance) for ring in rings]
            kept = [ring for ring in kept if len(ring) >= 3]
            if kept:
                self._flat(faces, kept, level, colour)

    def _weigh(self, share: Floats, own: Bools, level: float, rows: slice, columns: slice) -> None:
        """Cells that a rim has gone through belong to two floors: that of their own height, and that on the other side."""
        edge = self.edge[rows, columns]  # type: ignore[index]
        at = np.nonzero(edge)
        if not len(at[0]):
            return
        h, e = self.h[rows, columns], edge[at]
        low, high = self._lowest[rows, columns][at], self._highest[rows, columns][at]
        other = np.where(e > 0, low, high)
        part = np.clip(np.abs(e) / np.maximum(np.abs(h[at] - other), 1e-9), 0.0, 1.0)
        there = self.there[rows, columns][at]
        share[at] = np.where(own[at], 1.0 - part, np.where(there & (np.abs(other - level) < 1e-6), part, 0.0))

    @functools.cached_property
    def _lowest(self) -> Heights:
        return _about(self.h, "minimum")

    @functools.cached_property
    def _highest(self) -> Heights:
        return _about(self.h, "maximum")

    def _flat(self, faces: Faces, rings: list[Floats], level: float, colour: int) -> None:
        """A floor inside its first outline and outside of the others."""
        points = np.concatenate(rings)
        ends = np.cumsum([len(ring) for ring in rings]).astype(np.uint32)
        triangles = triangulate_float64(points, ends).reshape(-1, 3).astype(np.int64)
        a, b, c = (points[triangles[:, k]] for k in range(3))
        wrong = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) < (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
        triangles[wrong] = triangles[wrong][:, ::-1]
        self._add(faces, self._places(points, level), np.array([0.0, 0.0, 1.0]), colour, triangles)

    # -- walls --------------------------------------------------------------------------------------------------

    def _walls(self, faces: Faces, ring: Floats, level: float | None, tolerance: float) -> Floats:
        """The walls below an outline, given in cells; gives the outline with no more corners than it needs. `level` is the height
        along it, None where it is that of the slopes inside."""
        ring, tolerance = _smoothed(ring, REACH if tolerance > FINE else 1), FINE
        a, b = ring[:-1], ring[1:]
        along = b - a
        long = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-9)
        out = np.stack([along[:, 1], -along[:, 0]], axis=1) / long[:, None]
        middle = (a + b) / 2
        beyond, within = middle + 0.75 * out, middle - 0.75 * out
        foot = np.maximum(self._at(self.h, beyond), self._at(self.u, within))
        head = np.full(len(a), level) if level is not None else self._at(self.h, within)
        there = self._at(self.there, beyond) > 0
        slope = there & (self._at(self.labels, beyond) == 0)
        # on to a slope, or from it, nothing goes down; and what goes through has its walls from above
        ledge = (foot >= head) | (self.turned & ~there)
        ledge |= (slope | (level is None)) & (head - foot < STEEP * self.cell)
        foot = np.where(ledge, head, foot)
        # what lies beside it: nothing lower, a slope, or a floor of that height
        steady = _calmed(np.where(slope, np.where(ledge, SLOPE, SLOPE + 1.0), np.where(ledge, LEDGE, np.round(foot, 6))))
        foot = np.where(steady < LEDGE, np.minimum(steady, head), np.where((steady == LEDGE) | (steady == SLOPE), head, foot))
        return self._stretches(faces, ring, head, foot, steady, tolerance, plain=level is not None)

    def _stretches(
        self, faces: Faces, ring: Floats, head: Floats, foot: Floats, steady: Floats, tolerance: float, *, plain: bool
    ) -> Floats:
        """The outline in stretches beside which the same lies, each with as few corners as will do, and its wall. `plain` is that
        of a floor."""
        change = np.flatnonzero(steady != np.roll(steady, 1))
        n = len(steady)
        cuts = change if len(change) else np.array([0])
        bounds = [(int(p), int(q) if q > p else int(q) + n) for p, q in zip(cuts, np.roll(cuts, -1), strict=True)]
        kept, heads, feet, brinks = [], [], [], []
        for p, q in bounds:
            index = np.arange(p, q + 1) % n
            line = _simplified(ring[index], tolerance)
            which = index[:-1] if len(index) > 1 else index
            if np.ptp(foot[which]) > 1e-6 or np.ptp(head[which]) > 1e-6:
                heads.append(_stretched(head[which], len(line) - 1))
                feet.append(_stretched(foot[which], len(line) - 1))
            else:
                heads.append(np.full(len(line) - 1, head[which[0]]))
                feet.append(np.full(len(line) - 1, foot[which[0]]))
            kept.append(line[:-1])
            brinks.append(np.full(len(line) - 1, steady[index[0]] == SLOPE))
        outline, keep = _sharpened(np.concatenate(kept))
        if len(outline) >= 3:
            high, low, brink = np.concatenate(heads)[keep], np.concatenate(feet)[keep], np.concatenate(brinks)[keep] & plain
            self._raise(faces, outline, high, low, brink)
        return outline

    def _raise(self, faces: Faces, outline: Floats, head: Floats, foot: Floats, brink: Bools) -> None:
        """The walls of an outline: a quad for each of its pieces that goes down, round where the outline is; and a line at its
        `brink`, where a slope begins."""
        places = np.asarray(self.corner) + (outline - 0.5) * np.asarray(self.step)
        nxt = np.roll(places, -1, axis=0)
        along = nxt - places
        long = np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-12)
        normal = np.stack([along[:, 1], -along[:, 0]], axis=1) / long[:, None]
        before, behind = np.roll(normal, 1, axis=0), np.roll(normal, -1, axis=0)
        blunt = (before * normal).sum(axis=1) > SMOOTH
        both = before + normal
        mean = both / np.maximum(np.hypot(both[:, 0], both[:, 1]), 1e-12)[:, None]
        first = np.where(blunt[:, None], mean, normal)
        after = behind + normal
        mean = after / np.maximum(np.hypot(after[:, 0], after[:, 1]), 1e-12)[:, None]
        last = np.where(np.roll(blunt, -1)[:, None], mean, normal)
        if brink.any():
            ends = np.stack([np.column_stack([places, head]), np.column_stack([nxt, head])], axis=1)
            faces.lines(self._turned(ends[brink]))
        high = np.flatnonzero(head - foot > 1e-7)
        if not len(high):
            return
        a, b = places[high], nxt[high]
        corners = np.empty((len(high), 4, 3))
        corners[:, 0, :2], corners[:, 1, :2], corners[:, 2, :2], corners[:, 3, :2] = a, b, b, a
        corners[:, :2, 2], corners[:, 2:, 2] = foot[high, None], head[high, None]
        normals = np.zeros((len(high), 4, 3))
        normals[:, 0, :2] = normals[:, 3, :2] = first[high]
        normals[:, 1, :2] = normals[:, 2, :2] = last[high]
        self._quads(faces, corners, normals, self._wall_colour(a, b))
        tall = np.flatnonzero((head - foot)[high] > EDGE_SHARE * (self.top - self.bottom))
        sharp = ~blunt & (np.minimum(long, np.roll(long, 1)) > CORNER * self.cell)
        lines = [corners[tall][:, [3, 2]], corners[tall][:, [0, 1]], corners[tall][sharp[high][tall]][:, [0, 3]]]
        for ends in lines:
            faces.lines(self._turned(ends))

    def _wall_colour(self, a: Floats, b: Floats) -> Ints:
        """The sides of the stock are untouched, what was cut open is a section."""
        grid, middle = self.grid, (a + b) / 2
        if grid.round:
            centre = np.array([grid.x0 + grid.nx * grid.dx / 2, grid.y0 + grid.ny * grid.dy / 2])
            side = np.hypot(*(middle - centre).T) > grid.radius - 2.0 * self.cell
        else:
            x, y, far = middle[:, 0] - grid.x0, middle[:, 1] - grid.y0, 0.6 * self.cell
            side = (x < far) | (grid.nx * grid.dx - x < far) | (y < far) | (grid.ny * grid.dy - y < far)
        open_ = self.front & (np.abs(middle[:, 1] - self.corner[1]) < 0.05 * self.cell)
        found: Ints = np.where(open_, SECTION, np.where(side, UNTOUCHED, CUT))
        return found

    # -- slopes -------------------------------------------------------------------------------------------------

    def _slope(self, faces: Faces, patches: Ints, k: int, level: float, at: tuple[slice, slice]) -> None:
        """Faces between the middles of cells where the field is neither flat nor a wall, and the walls around them."""
        rows, columns = at
        h, own, there = self.h[rows, columns], patches[rows, columns] == k, self.there[rows, columns]
        # around the patch it goes on as it is there, up to where a wall or a floor begins
        many = _about(own.astype(np.float32), "uniform", mode="constant")
        beside = many > 0.01
        on = _about(np.where(own, h, np.float32(0.0)), "uniform", mode="constant") / np.maximum(many, np.float32(0.01))
        h = np.where(own | (there & (np.abs(h - on) < STEEP * self.cell)), h, on)
        near = _any_of_four(own) & ~_any_of_four(~beside)
        corners = []
        for size in LARGE_FACES:
            whole = _blocks(near, size) if size > 1 else near
            j, i = np.nonzero(whole)
            j, i = j * size, i * size
            corners.append(np.stack([j, i, j, i + size, j + size, i + size, j + size, i], axis=1).reshape(-1, 4, 2))
            if size > 1:
                covered = np.repeat(np.repeat(whole, size, axis=0), size, axis=1)
                near[: covered.shape[0], : covered.shape[1]] &= ~covered
        quad = np.concatenate(corners)
        if len(quad):
            number = quad[..., 0] * h.shape[1] + quad[..., 1]
            used, where = np.unique(number, return_inverse=True)
            j, i = np.divmod(used, h.shape[1])
            rise = np.stack([_rise(h, j, i, 0, 1) / self.step[0], _rise(h, j, i, 1, 0) / self.step[1]], axis=1)
            normal = np.column_stack([-np.clip(rise, -STEEP, STEEP), np.ones(len(used))])
            normal /= np.linalg.norm(normal, axis=1)[:, None]
            quads = where.reshape(-1, 4)
            triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
            spots = np.column_stack([i + columns.start, j + rows.start]) + _inward(own, j, i)
            self._add(faces, self._places(spots, h[j, i].astype(float)), normal, CUT, triangles)
        corner = np.array([columns.start, rows.start])
        for rings in _outlines(own.astype(np.float32)):
            for ring in rings:
                self._walls(faces, ring + corner, None, ROUGH)

    # -- places -------------------------------------------------------------------------------------------------

    def _at(self, field: Any, spots: Floats) -> Floats:
        """A field at places given in cells."""
        i = np.clip(np.rint(spots[:, 0]).astype(int), 0, field.shape[1] - 1)
        j = np.clip(np.rint(spots[:, 1]).astype(int), 0, field.shape[0] - 1)
        found: Floats = field[j, i].astype(float)
        return found

    def _places(self, spots: Floats, z: Any) -> Floats:
        """From cells, counted with the rim of nothing, to places of the part."""
        xy = np.asarray(self.corner) + (spots - 0.5) * np.asarray(self.step)
        return np.column_stack([xy, np.broadcast_to(z, len(xy))])

    def _depth(self, z: Floats) -> Floats:
        depth: Floats = (self.top - z) / max(self.top - self.bottom, 1e-9)
        return depth

    def _turned(self, points: Floats) -> Floats:
        """As they lie, whichever side this is."""
        return points * np.array([1.0, 1.0, -1.0]) if self.turned else points

    def _add(self, faces: Faces, points: Floats, normals: Floats, colour: Any, triangles: Indices) -> None:
        depth = self._depth(points[:, 2])
        triangles = triangles[:, ::-1] if self.turned else triangles
        faces.add(self._turned(points), self._turned(normals), colour, depth, triangles)

    def _quads(self, faces: Faces, corners: Floats, normals: Floats, colour: Any) -> None:
        depth = self._depth(corners[..., 2])
        corners, normals = self._turned(corners), self._turned(normals)
        order = slice(None, None, -1) if self.turned else slice(None)
        faces.quads(corners[:, order], normals[:, order], colour, depth[:, order])


def load() -> None:
    """Loads what faces are made with, so that the first solid does not wait for it."""
    from scipy import ndimage  # noqa: F401


def _about(values: Heights, what: str, **how: str) -> Heights:
    """The least, the greatest or the mean (`minimum`, `maximum`, `uniform`) of each cell and the eight about it."""
    from scipy import ndimage  # half a second to load: not before a solid is drawn

    found: Heights = getattr(ndimage, f"{what}_filter")(values, 3, **how)
    return found


def _places_of(numbers: Ints) -> list[tuple[slice, slice] | None]:
    """The bounds of all cells with the numbers 1, 2, and so on; None for a number that is not there."""
    from scipy import ndimage

    found: list[tuple[slice, slice] | None] = ndimage.find_objects(numbers)
    return found


def _any_of_four(cells: Bools) -> Bools:
    """Between every four cells: is any of them marked?"""
    found: Bools = np.logical_or.reduce([cells[1:, 1:], cells[1:, :-1], cells[:-1, 1:], cells[:-1, :-1]])
    return found


def _blocks(cells: Bools, size: int) -> Bools:
    """Squares of so many cells that are marked wholly."""
    rows, columns = cells.shape[0] // size, cells.shape[1] // size
    return np.asarray(cells[: rows * size, : columns * size].reshape(rows, size, columns, size).all(axis=(1, 3)), np.bool_)


def _inward(own: Bools, j: Indices, i: Indices) -> Floats:
    """From cells beside a patch half a cell towards it, to where it ends; from those of the patch nothing."""
    patch = np.pad(own, 1)
    to = np.zeros((len(j), 2))
    for dj, di in itertools.product((-1, 0, 1), repeat=2):
        there = patch[j + 1 + dj, i + 1 + di]
        to += there[:, None] * np.array([di, dj])
    long = np.linalg.norm(to, axis=1)
    found: Floats = np.where((own[j, i] | (long < 1e-9))[:, None], 0.0, 0.5 * to / np.maximum(long, 1e-9)[:, None])
    return found


def _rise(h: Heights, j: Indices, i: Indices, dj: int, di: int) -> Floats:
    """How much the field rises a cell at some cells: where a wall is on one side, from the other, which rises less."""
    ny, nx = h.shape
    on = h[np.minimum(j + dj, ny - 1), np.minimum(i + di, nx - 1)] - h[j, i]
    back = h[j, i] - h[np.maximum(j - dj, 0), np.maximum(i - di, 0)]
    found: Floats = np.where(np.abs(on) > 2 * np.abs(back), back, np.where(np.abs(back) > 2 * np.abs(on), on, (on + back) / 2))
    return found


@kernel()
def _patches(h: Any, sloping: Any, jump: float) -> Any:
    """Numbers, from 1, for the patches of cells that slope into each other: they rise by less than `jump` a cell."""
    ny, nx = h.shape
    found = np.zeros((ny, nx), np.int32)
    stack = np.empty((ny * nx, 2), np.int32)
    count = 0
    for j0 in range(ny):
        for i0 in range(nx):
            if not sloping[j0, i0] or found[j0, i0] > 0:
                continue
            count += 1
            found[j0, i0] = count
            stack[0, 0], stack[0, 1] = j0, i0
            waiting = 1
            while waiting > 0:
                waiting -= 1
                j, i = stack[waiting, 0], stack[waiting, 1]
                for side in range(4):
                    b = j + (1 if side == 0 else -1 if side == 1 else 0)
                    a = i + (1 if side == 2 else -1 if side == 3 else 0)
                    if b < 0 or a < 0 or b >= ny or a >= nx or not sloping[b, a] or found[b, a] > 0:
                        continue
                    if abs(h[b, a] - h[j, i]) < jump:
                        found[b, a] = count
                        stack[waiting, 0], stack[waiting, 1] = b, a
                        waiting += 1
    return found


def _outlines(share: Floats) -> Iterator[list[Floats]]:
    """The outlines of where a share is more than a half, in cells: outer ones with what lies within on their left, each with its
    holes, closed."""
    drawn = contour_generator(z=share, fill_type=FillType.OuterOffset).filled(0.5, 2.0)
    for points, offsets in zip(*drawn, strict=True):
        rings = [np.asarray(points[a:b]) for a, b in itertools.pairwise(offsets)]
        yield [_oriented(ring, left=k == 0) for k, ring in enumerate(rings) if len(ring) > 3]


def _oriented(ring: Floats, *, left: bool) -> Floats:
    x, y = ring[:, 0], ring[:, 1]
    area = float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum())
    return ring if (area > 0) == left else ring[::-1]


def _smoothed(ring: Floats, reach: int) -> Floats:
    """A closed outline that was traced from cell to cell, without their steps: every place in the mean of those so near to it,
    but for those at corners."""
    points = ring[:-1]
    if len(points) < 2 * CORNER + 2:
        return ring
    mean = np.mean([np.roll(points, k, axis=0) for k in range(-reach, reach + 1)], axis=0)
    to, on = points - np.roll(points, CORNER, axis=0), np.roll(points, -CORNER, axis=0) - points
    straight = (to * on).sum(axis=1) > SMOOTH * np.linalg.norm(to, axis=1) * np.linalg.norm(on, axis=1)
    found = np.where(straight[:, None], mean, points) if reach == 1 else mean
    return np.concatenate([found, found[:1]])


def _sharpened(outline: Floats) -> tuple[Floats, Bools]:
    """An outline whose corners were cut off by less than a cell, as tracing does, with these corners; and which of its pieces are
    left."""
    along = np.roll(outline, -1, axis=0) - outline
    long = np.hypot(along[:, 0], along[:, 1])
    keep: Bools = np.ones(len(outline), np.bool_)
    if len(outline) < 4:
        return outline, keep
    before, behind = np.roll(long, 1), np.roll(long, -1)
    found = outline.copy()
    for k in np.flatnonzero((long < BEVELLED) & (before > CORNER) & (behind > CORNER)).tolist():
        n = (k + 1) % len(outline)
        u, v = along[k - 1] / before[k], along[n] / behind[k]
        turn = u[0] * v[1] - u[1] * v[0]
        if abs(turn) < CORNERED:
            continue
        to = outline[n] - outline[k]
        corner = outline[k] + u * (to[0] * v[1] - to[1] * v[0]) / turn
        if np.hypot(*(corner - outline[k])) < 2 * BEVELLED:
            found[n], keep[k] = corner, False
    return found[keep], keep


def _calmed(values: Floats) -> Floats:
    """Values round an outline without those that hold for a piece or two only, which come from where cells meet: there it is as
    before."""
    change = np.flatnonzero(values != np.roll(values, 1))
    if len(change) < 3:
        return values
    found, n = values.copy(), len(values)
    lengths = (np.roll(change, -1) - change) % n
    kept = change[lengths > SHORT]
    if not len(kept):
        return values
    for start, length in zip(change[lengths <= SHORT].tolist(), lengths[lengths <= SHORT].tolist(), strict=True):
        before = kept[np.searchsorted(kept, start) - 1]
        found[np.arange(start, start + length) % n] = values[before]
    return found


def _simplified(line: Floats, tolerance: float) -> Floats:
    """A line with fewer corners, that leaves it by no more than so many cells. A whole round keeps its beginning."""
    if len(line) < 3:
        return line
    found: Floats = shapely.get_coordinates(shapely.LineString(line).simplify(tolerance, preserve_topology=False))
    if len(found) == 2 and np.allclose(found[0], found[1]):
        return line
    return found


def _stretched(values: Floats, count: int) -> Floats:
    """Values along a line, for a line of another number of pieces."""
    at = ((np.arange(count) + 0.5) * len(values) / max(count, 1)).astype(int)
    found: Floats = values[np.minimum(at, len(values) - 1)]
    return found


def _hatch(faces: Faces, h: Heights, u: Heights, corner: tuple[float, float], dx: float) -> None:
    """Hatching across the plane that was cut open, at 45° as ISO 128 has it."""
    x = corner[0] + np.arange(len(h) + 1) * dx
    high, low = (np.repeat(np.where(h > u, side, u), 2) for side in (h, u))
    along = np.repeat(x, 2)[1:-1]
    profile = np.concatenate([np.column_stack([along, high]), np.column_stack([along, low])[::-1]]).astype(float)
    plane = shapely.make_valid(shapely.Polygon(profile)).simplify(0.1 * dx)
    x0, z0, x1, z1 = plane.bounds
    starts = np.arange(x0 - (z1 - z0), x1, HATCH_SHARE * (x1 - x0))
    lines = shapely.linestrings([[(s, z0), (s + z1 - z0, z1)] for s in starts.tolist()])
    cut = shapely.intersection(lines, plane)
    pieces = [np.asarray(line.coords) for line in shapely.get_parts(cut) if line.geom_type == "LineString" and line.length > dx]
    if pieces:
        ends = np.array([(piece[0], piece[-1]) for piece in pieces])
        y = np.full(ends.shape[:2], corner[1] - 0.02 * dx)
        faces.hatch(np.stack([ends[..., 0], y, ends[..., 1]], axis=-1))
