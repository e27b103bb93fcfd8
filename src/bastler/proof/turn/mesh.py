"""A turned part as faces for the solid view, with a quarter cut away so that bores and grooves are seen.

The axis lies along X of the picture; the radius turns in Y and Z. What was on the raw stock's surface stays blue.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from bastler.proof.faces import CUT, SECTION, UNTOUCHED, Faces, Mesh
from bastler.shapes.kinds import Floats, Region

AROUND = 64
"""Faces around a turn, or what is seen of it: of a part that fills the view none leaves the round by a pixel."""
SMOOTH = np.cos(np.radians(30.0))
"""A corner as blunt as that is no edge."""
PLANES = ((np.pi, -1.0), (2.5 * np.pi, 1.0))
"""Where a part is cut open: from the one angle to the other it is there; and the sides that are seen."""
FINE_MM = 0.002
"""How far faces may leave the section, in mm."""
HATCHED = 0.03
"""How far apart hatching is, as a share of the part's length."""
PIECE_MM, MOST_PIECES = 0.2, 400
"""How finely a face is parted by how far it is from the finished part, and into how many pieces at most."""
Off = Callable[[Floats], Any]


def turn_mesh(part: Region, raw: Region, mm: float, *, whole: bool = False, off: Off | None = None) -> Mesh:
    """The faces of a half section turned about the axis, less the quarter toward the viewer unless `whole`. `off` gives classes
    of places (z, r) by how far they are from the finished part; faces are parted where these change."""
    faces = Faces()
    skin(faces, part, raw, mm, whole=whole, off=off)
    if not whole:
        for polygon in shapely.get_parts(part):
            if not polygon.is_empty and polygon.geom_type == "Polygon":
                for angle, side in PLANES:
                    cut_open(faces, polygon, angle, side, raw, mm)
    made = faces.mesh()
    return replace(made, off=_classes(made, off)) if off is not None else made


def skin(
    faces: Faces, part: Region, raw: Region, mm: float, *, whole: bool, off: Off | None = None, seam: float = math.nan
) -> None:
    """What turning has made of the part's surface, but for the planes where it is cut open. At the length `seam` it goes on
    otherwise: no edge is there."""
    begin, end = (0.0, 2 * np.pi) if whole else (PLANES[0][0], PLANES[1][0])
    surface, most = raw.boundary.buffer(0.01 * mm), max(raw.bounds[3], 1e-9)
    angles = np.linspace(begin, end, AROUND + 1)
    for polygon in shapely.get_parts(part):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        for ring in _rings(polygon.simplify(FINE_MM * mm)):
            _skin(faces, _parted(ring, off, mm) if off is not None else ring, angles, surface, most)
            circles = _circles(ring, angles)
            faces.lines(circles[circles[:, 0, 0] != seam])


def _classes(mesh: Mesh, off: Off) -> Any:
    """Of every triangle; a plane that was cut open has none."""
    corners = mesh.points[mesh.triangles].astype(float)
    places = np.column_stack([corners[..., 0].mean(axis=1), np.hypot(corners[..., 1], corners[..., 2]).mean(axis=1)])
    found = off(places)
    found[mesh.colour[mesh.triangles[:, 0]] == SECTION] = 0
    return found


def _parted(ring: Floats, off: Off, mm: float) -> Floats:
    """A ring with corners where the class of its faces changes."""
    found = [ring[:1]]
    for a, b in itertools.pairwise(ring):
        many = min(int(np.hypot(*(b - a)) / (PIECE_MM * mm)) + 1, MOST_PIECES)
        places = a + (b - a) * (np.arange(many)[:, None] + 0.5) / many
        kinds = off(places)
        cuts = np.flatnonzero(np.diff(kinds)) + 1
        found += [a + (b - a) * cuts[:, None] / many, b[None]]
    return np.concatenate(found)


def _skin(faces: Faces, ring: Floats, angles: Floats, surface: Region, most: float) -> None:
    """A ring of a half section turned about the axis: round across it, and along it smooth but at its corners."""
    a, b = ring[:-1], ring[1:]
    d = b - a
    length = np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-12)
    normal = np.column_stack([d[:, 1], -d[:, 0]]) / length[:, None]
    blunt = (np.roll(normal, 1, axis=0) * normal).sum(axis=1) > SMOOTH
    both = normal + np.roll(normal, 1, axis=0)
    mean = both / np.maximum(np.linalg.norm(both, axis=1), 1e-12)[:, None]
    first = np.where(blunt[:, None], mean, normal)
    last = np.where(np.roll(blunt, -1)[:, None], np.roll(mean, -1, axis=0), normal)
    turned = np.maximum(a[:, 1], b[:, 1]) > 1e-9
    a, b, first, last = a[turned], b[turned], first[turned], last[turned]
    blue = shapely.covers(surface, shapely.points((a + b) / 2))
    colour, depth = np.where(blue, UNTOUCHED, CUT), 1 - np.maximum(a[:, 1], b[:, 1]) / most
    faces.bands(_revolve(a, b, angles), _revolve(first, last, angles), colour, depth)


def cut_open(faces: Faces, polygon: Region, angle: float, side: float, raw: Region, mm: float) -> None:
    """The plane at an angle where the part is cut open, seen from behind it or with `side` -1 from before it, hatched at 45° as
    ISO 128 has it."""
    z0, r0, z1, r1 = polygon.bounds
    starts = np.arange(z0 - (r1 - r0), z1, HATCHED * (raw.bounds[2] - raw.bounds[0]))
    lines = shapely.intersection(shapely.linestrings([[(s, r0), (s + r1 - r0, r1)] for s in starts.tolist()]), polygon)
    cut = [
        np.asarray(line.coords)[[0, -1]]
        for line in shapely.get_parts(lines)
        if line.geom_type == "LineString" and not line.is_empty
    ]
    normal = np.array([0.0, -side * np.sin(angle), side * np.cos(angle)])
    faces.quads(_placed(_section(polygon.simplify(FINE_MM * mm)), angle), normal.reshape(1, 1, 3), SECTION, 0.0)
    for ring in _rings(polygon):
        faces.lines(_outline(ring, angle))
    if cut:
        faces.hatch(_placed(np.array(cut), angle))


def _rings(polygon: Region) -> list[Region]:
    whole = orient(polygon, 1.0)
    return [np.asarray(ring.coords) for ring in (whole.exterior, *whole.interiors)]


def _revolve(a: Floats, b: Floats, angles: Floats) -> Floats:
    """Bands (k, n, 2, 3) of edges (z, r) a to b, over n angles."""
    c, s = np.cos(angles), np.sin(angles)
    bands = np.empty((len(a), len(angles), 2, 3))
    for end, p in enumerate((a, b)):
        bands[:, :, end, 0] = p[:, 0][:, None]
        bands[:, :, end, 1] = p[:, 1][:, None] * c[None, :]
        bands[:, :, end, 2] = p[:, 1][:, None] * s[None, :]
    return bands


def _circles(ring: Region, angles: Floats) -> Floats:
    """Lines round the sharp corners of a ring, (n, 2, 3)."""
    p = ring[:-1]
    d0, d1 = p - np.roll(p, 1, axis=0), np.roll(p, -1, axis=0) - p
    turn = np.abs(np.arctan2(d0[:, 0] * d1[:, 1] - d0[:, 1] * d1[:, 0], (d0 * d1).sum(axis=1)))
    sharp = p[(turn > 0.3) & (p[:, 1] > 1e-9)]
    c, s = np.cos(angles), np.sin(angles)
    lines = np.empty((len(sharp), AROUND, 2, 3))
    for end, at in enumerate((slice(0, -1), slice(1, None))):
        lines[:, :, end, 0] = sharp[:, 0][:, None]
        lines[:, :, end, 1] = sharp[:, 1][:, None] * c[at][None, :]
        lines[:, :, end, 2] = sharp[:, 1][:, None] * s[at][None, :]
    return lines.reshape(-1, 2, 3)


def _section(polygon: Region) -> Any:
    """The half section as trapezes across the axis, (n, 4, 2): cut at every corner's length."""
    marks = np.unique(np.round(np.concatenate(_rings(polygon))[:, 0], 6))
    _z0, _r0, _z1, r1 = polygon.bounds
    faces = []
    for a, b in itertools.pairwise(marks):
        if b - a < 1e-6:
            continue
        strip = polygon.intersection(Polygon([(a, -1.0), (b, -1.0), (b, r1 + 1.0), (a, r1 + 1.0)]))
        for piece in getattr(strip, "geoms", [strip]):
            if piece.geom_type != "Polygon" or piece.is_empty:
                continue
            c = np.asarray(piece.exterior.coords)
            left, right = c[np.abs(c[:, 0] - a) < 1e-5], c[np.abs(c[:, 0] - b) < 1e-5]
            if not len(left) or not len(right):
                continue
            faces.append([(a, left[:, 1].min()), (b, right[:, 1].min()), (b, right[:, 1].max()), (a, left[:, 1].max())])
    return np.array(faces).reshape(-1, 4, 2)


def _placed(faces: Floats, angle: float) -> Floats:
    return np.stack([faces[..., 0], faces[..., 1] * np.cos(angle), faces[..., 1] * np.sin(angle)], axis=-1)


def _outline(ring: Region, angle: float) -> Any:
    points = np.stack([ring[:, 0], ring[:, 1] * np.cos(angle), ring[:, 1] * np.sin(angle)], axis=1)
    return np.stack([points[:-1], points[1:]], axis=1)
