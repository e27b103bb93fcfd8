"""A turned part as faces for the solid view, with a quarter cut away so that bores and grooves are seen.

The axis lies along X of the picture; the radius turns in Y and Z. What was on the raw stock's surface stays blue.
"""

from __future__ import annotations

import itertools
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from bastler.proof.mill.mesh import CUT, SECTION, UNTOUCHED, Mesh
from bastler.shapes.kinds import Floats, Region

AROUND = 64
"""Faces around a whole turn."""
QUARTER = np.pi / 2


def turn_mesh(part: Region, raw: Region, mm: float, *, whole: bool = False) -> Mesh:
    """The faces of a half section turned about the axis, less the quarter toward the viewer unless `whole`."""
    begin, end = (0.0, 2 * np.pi) if whole else (np.pi, 2 * np.pi + QUARTER)
    points, normals, colours, depths, edges = [], [], [], [], []
    surface = raw.boundary.buffer(0.01 * mm)
    most = max(raw.bounds[3], 1e-9)
    angles = np.linspace(begin, end, AROUND + 1)
    for polygon in getattr(part, "geoms", [part]):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        for ring in _rings(polygon.simplify(0.002 * mm)):
            a, b = ring[:-1], ring[1:]
            turned = np.maximum(a[:, 1], b[:, 1]) > 1e-9
            a, b = a[turned], b[turned]
            middles = shapely.points((a + b) / 2)
            blue = shapely.covers(surface, middles)
            points.append(_revolve(a, b, angles))
            d = b - a
            length = np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-12)
            nz, nr = d[:, 1] / length, -d[:, 0] / length
            middle = (angles[:-1] + angles[1:]) / 2
            normals.append(
                np.stack(
                    [np.repeat(nz, AROUND), np.outer(nr, np.cos(middle)).ravel(), np.outer(nr, np.sin(middle)).ravel()], axis=1
                )
            )
            colours.append(np.repeat(np.where(blue, UNTOUCHED, CUT), AROUND))
            depths.append(np.repeat(np.clip(1 - np.maximum(a[:, 1], b[:, 1]) / most, 0, 1), AROUND))
            edges.append(_circles(ring, angles))
        if not whole:
            faces = _section(polygon.simplify(0.002 * mm))
            for angle, side in ((begin, -1.0), (end, 1.0)):
                points.append(_placed(faces, angle))
                normals.append(np.tile([0.0, -side * np.sin(angle), side * np.cos(angle)], (len(faces), 1)))
                colours.append(np.full(len(faces), SECTION))
                depths.append(np.zeros(len(faces)))
                edges += [_outline(ring, angle) for ring in _rings(polygon)]
    if not points:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.uint8), np.zeros(0), np.zeros((0, 3)))
    return Mesh(
        np.concatenate(points).reshape(-1, 3),
        np.concatenate(normals),
        np.concatenate(colours).astype(np.uint8),
        np.concatenate(depths),
        np.concatenate(edges).reshape(-1, 3) if edges else np.zeros((0, 3)),
    )


def _rings(polygon: Region) -> list[Region]:
    whole = orient(polygon, 1.0)
    return [np.asarray(ring.coords) for ring in (whole.exterior, *whole.interiors)]


def _revolve(a: Floats, b: Floats, angles: Floats) -> Floats:
    """Quads (k · AROUND, 4, 3) of edges (z, r) a to b."""
    c, s = np.cos(angles), np.sin(angles)
    quads = np.empty((len(a), AROUND, 4, 3))
    for corner, (p, at) in enumerate(((a, slice(0, -1)), (a, slice(1, None)), (b, slice(1, None)), (b, slice(0, -1)))):
        quads[:, :, corner, 0] = p[:, 0][:, None]
        quads[:, :, corner, 1] = p[:, 1][:, None] * c[at][None, :]
        quads[:, :, corner, 2] = p[:, 1][:, None] * s[at][None, :]
    return quads.reshape(-1, 4, 3)


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
