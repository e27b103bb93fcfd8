"""Faces of turned parts that a dimension of the half section is between."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import shapely

from bastler.live.gauged import SAME_MM, Ends
from bastler.proof import TurnProof
from bastler.proof.gauge import GaugeEnd
from bastler.shapes.kinds import Region
from bastler.steps import Dim
from bastler.steps.turn.cut import ThreadGauge


def _edges(region: Region) -> Iterator[tuple[tuple[float, float], tuple[float, float]]]:
    """The edges of a half section, from (z, r) to (z, r)."""
    for polygon in getattr(region, "geoms", [region]):
        if polygon.geom_type != "Polygon":
            continue
        for ring in (polygon.exterior, *polygon.interiors):
            yield from itertools.pairwise(ring.coords)


def diameter(proof: TurnProof, r: float, dim: Dim) -> Ends | None:
    """Of the cylinders of that radius the one nearest to where the sheet has the dimension, in its middle."""
    mm, wanted = proof.scene.mm, proof.comparison.wanted
    hair, at = SAME_MM * mm, dim.b[0]
    found: list[tuple[float, float, float]] = []
    for (z0, r0), (z1, r1) in _edges(wanted):
        if abs(r0 - r) < hair and abs(r1 - r) < hair and abs(z1 - z0) > mm:
            low, high = sorted((z0, z1))
            middle = (low + high) / 2
            found.append((max(low - at, at - high, 0.0), -(high - low), middle))
    threads = [w.gauge for w in proof.scene.wanted if w.gauge is not None]
    found = [f for f in found if not any(_threaded(t, f[2], r) for t in threads)]
    if not found:
        return None
    z = min(found)[2]
    inside = wanted.intersects(shapely.Point(z, r + 5 * hair))
    out = -1.0 if inside else 1.0
    return Ends((GaugeEnd((r, 0.0, z), (out, 0.0, 0.0)),), (2.0 * out,), round=True)


def _threaded(thread: ThreadGauge, z: float, r: float) -> bool:
    """Is a cylinder the crests of a thread there?"""
    if thread.across:
        return False
    low, high = sorted((thread.begin, thread.end))
    return low <= z <= high and abs(r - thread.crest) < thread.pitch / 2


def length(proof: TurnProof, a: tuple[float, float], b: tuple[float, float]) -> Ends | None:
    """Between two shoulders, each that nearest to where the sheet has the end of the dimension."""
    if abs(a[0] - b[0]) < SAME_MM * proof.scene.mm:
        return None
    ends = [_shoulder(proof, *p) for p in (a, b)]
    if ends[0] is None or ends[1] is None:
        return None
    d = math.copysign(1.0, b[0] - a[0])
    return Ends((ends[0], ends[1]), (-d * ends[0].out[2], d * ends[1].out[2]))


def _shoulder(proof: TurnProof, z: float, r: float) -> GaugeEnd | None:
    mm, wanted = proof.scene.mm, proof.comparison.wanted
    hair, found = SAME_MM * mm, []
    for (z0, r0), (z1, r1) in _edges(wanted):
        if abs(z0 - z) < hair and abs(z1 - z) < hair and abs(r1 - r0) > 0.2 * mm:
            low, high = sorted((r0, r1))
            found.append((max(low - r, r - high, 0.0), -(high - low), (low + high) / 2))
    if not found:
        return None
    middle = min(found)[2]
    out = -1.0 if wanted.intersects(shapely.Point(z + 5 * hair, middle)) else 1.0
    return GaugeEnd((middle, 0.0, z), (0.0, 0.0, out))
