"""A turned part that driven tools have cut as faces for the solid view: what they can have reached from its rays, the rest behind
that from its half section. It stands as turned parts do there, its axis along X."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from bastler.proof.faces import CUT, UNTOUCHED, Faces, Mesh
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.surface import floors, layers, walls
from bastler.proof.turn.mesh import PLANES, cut_open, skin
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.prepared import prepare_for_now
from bastler.shapes.united import united

NEAR = 4.0
"""Steps narrower than so many slabs are slopes."""
STANDS = np.array([[0.0, 0.0, 1.0], [0.0, 1.0, 0.0], [1.0, 0.0, 0.0]])
"""From places of rays that go round the other way to how the part stands in the picture: see `upright`."""


def polar_mesh(rays: Dexels, section: Region, raw: Region, mm: float, *, whole: bool = False, untouched: Region = None) -> Mesh:
    """The faces of `rays` and of what a half `section` has behind them, less the quarter toward the viewer unless `whole`. The
    surface of what is `untouched` is blue, of the `raw` part where that is not given."""
    skin_of = raw if untouched is None else untouched
    rays = rays.the_other_way()
    faces, seam = Faces(), float(rays.edges[0])
    z0, r0, _, r1 = raw.bounds
    behind = section.intersection(shapely.box(z0 - 1.0, r0 - 1.0, seam, r1 + 1.0)) if not section.is_empty else section
    skin(faces, behind, skin_of, mm, whole=whole, seam=seam)
    surface, most = skin_of.boundary.buffer(0.02 * mm), max(r1, 1e-9)
    prepare_for_now(surface)
    turns = len(rays.count)
    seen = turns if whole else turns * 3 // 4
    marks, near = layers(rays.lo, rays.hi, rays.count), NEAR * rays.thick
    arrays = (rays.lo, rays.hi, rays.count, rays.edges, marks, seen, whole, near)
    _upright(faces, walls(*arrays), surface, most, (seam, float(rays.edges[-1])))
    _across(faces, floors(*arrays), surface, (seam, float(rays.edges[-1])))
    if not whole:
        for (angle, side), ray in zip(PLANES, (seen - 1, 0), strict=True):
            region = united([behind, *_stretches(rays, marks, ray)])
            for polygon in shapely.get_parts(region):
                if polygon.geom_type == "Polygon" and not polygon.is_empty:
                    cut_open(faces, polygon, angle, side, raw, mm)
    return faces.mesh()


def _upright(faces: Faces, found: Floats, surface: Region, most: float, reach: tuple[float, float]) -> None:
    """Walls (n, WIDTH) as quads, with the edges where they meet at an angle."""
    if not len(found):
        return
    a, b, low, high = found[:, :2], found[:, 3:5], found[:, 2], found[:, 5]
    corners = np.stack([np.column_stack([p, z]) for p, z in ((a, low), (b, low), (b, high), (a, high))], axis=1)
    normals = np.stack([found[:, 6:9], found[:, 9:12], found[:, 9:12], found[:, 6:9]], axis=1)
    middle = (a + b) / 2
    radius = np.hypot(middle[:, 0], middle[:, 1])
    colour = _colours((low + high) / 2, radius, surface)
    outward = (found[:, 6:8] * middle).sum(axis=1) > 0.0
    depth = np.where(outward, 1.0 - radius / most, _deep((low + high) / 2, reach))
    faces.quads(corners @ STANDS, normals @ STANDS, colour, depth)
    for corner, (p, q) in enumerate(((0, 3), (1, 2))):
        sharp = found[:, 12 + corner] > 0.0
        faces.lines(corners[sharp][:, [p, q]] @ STANDS)


def _across(faces: Faces, found: Floats, surface: Region, reach: tuple[float, float]) -> None:
    """Faces across the axis (n, ACROSS) as quads, with the edges at which they end."""
    if not len(found):
        return
    z = found[:, 8]
    corners = np.stack([np.column_stack([found[:, k : k + 2], z]) for k in (0, 2, 4, 6)], axis=1)
    middle = corners[..., :2].mean(axis=1)
    radius = np.hypot(middle[:, 0], middle[:, 1])
    faces.quads(corners @ STANDS, found[:, None, 9:12] @ STANDS, _colours(z, radius, surface), _deep(z, reach))
    wide = corners[found[:, 12] > 0.0]
    for p, q in ((0, 3), (1, 2)):
        line = wide[:, [p, q]]
        faces.lines(line[np.abs(line[:, 0] - line[:, 1]).sum(axis=1) > 0.0] @ STANDS)


def _deep(z: Floats, reach: tuple[float, float]) -> Floats:
    """How deep behind the front a length is, as a share of what driven tools reach."""
    return (reach[1] - z) / max(reach[1] - reach[0], 1e-9)


def _colours(z: Floats, radius: Floats, surface: Region) -> Floats:
    """Blue where the raw stock's surface is."""
    found: Floats = np.where(shapely.covers(surface, shapely.points(z, radius)), UNTOUCHED, CUT)
    return found


def _stretches(rays: Dexels, marks: Floats, ray: int) -> Iterator[Region]:
    """The material on a ray, layer by layer."""
    for slab, end in zip(marks[:-1].tolist(), marks[1:].tolist(), strict=True):
        for j in range(int(rays.count[ray, slab])):
            low, high = float(rays.lo[ray, slab, j]), float(rays.hi[ray, slab, j])
            yield shapely.box(float(rays.edges[slab]), low, float(rays.edges[end]), high)
