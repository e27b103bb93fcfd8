"""What the sheet shows of turned work, in the coordinates of its half section: what a step takes, which skin is still the raw
stock's, and the outside under the centre line. Made with the plan, beside the window: painting only maps it."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from bastler.shapes.kinds import Region
from bastler.shapes.united import united

COARSE_MM = 0.05
"""How far the outside may leave the section: it is looked at, not measured."""
Outline = list[tuple[float, float]]
"""Radii along the axis from left to right, (z, r); steps as two at one length."""


@dataclass(frozen=True)
class HalfCut:
    """`stock` is what stands, `taken` what of it goes, with `fresh` its new edge; `skin` are the lines at which the stock is as
    it came. `outside` is its outermost radius along the axis, `rough` those lengths of it where it is the raw stock's."""

    stock: Region
    taken: Region | None
    skin: Region
    fresh: Region | None
    outside: Outline
    rough: Sequence[tuple[float, float, float]]


def half_cut(raw: Region, stock: Region, gone: Sequence[Region], mm: float) -> HalfCut:
    """What is seen of `stock`, cut from `raw`, when regions are about to go. `mm` is a millimetre in the job's unit."""
    tiny = 1e-6 * max(raw.length, 1.0)
    axis = shapely.box(raw.bounds[0] - 1.0, -1.0, raw.bounds[2] + 1.0, 10 * tiny)
    skin = stock.boundary.intersection(raw.boundary.buffer(tiny)).difference(axis)
    whole = united(gone) if gone else None
    fresh = None if whole is None else stock.difference(whole).boundary.difference(stock.boundary.buffer(tiny))
    outside, came = outside_of(stock.simplify(COARSE_MM * mm)), outside_of(raw)
    rough = [
        (z0, z1, r0)
        for (z0, r0), (z1, r1) in itertools.pairwise(outside)
        if z1 - z0 > 1e-9 and abs(r0 - r1) < 1e-9 and abs(r0 - _height(came, (z0 + z1) / 2)) < 1e-6
    ]
    return HalfCut(stock, None if whole is None else stock.intersection(whole), skin, fresh, outside, rough)


def outside_of(region: Region) -> Outline:
    """The outermost radius along the axis."""
    rings = [np.asarray(g.exterior.coords) for g in getattr(region, "geoms", [region])]
    marks = np.unique(np.round(np.concatenate(rings)[:, 0], 9))
    a = np.concatenate([r[:-1] for r in rings])
    b = np.concatenate([r[1:] for r in rings])
    lo, hi = np.minimum(a[:, 0], b[:, 0]), np.maximum(a[:, 0], b[:, 0])
    sloped = hi - lo > 1e-12
    found: Outline = []
    for z0, z1 in itertools.pairwise(marks):
        if z1 - z0 < 1e-9:
            continue
        for share in (1e-6, 1 - 1e-6):
            z = z0 + (z1 - z0) * share
            over = (lo <= z) & (z <= hi) & sloped
            if not over.any():
                r = 0.0
            else:
                t = (z - a[over, 0]) / (b[over, 0] - a[over, 0])
                r = float((a[over, 1] + t * (b[over, 1] - a[over, 1])).max())
            found.append((float(z0 if share < 0.5 else z1), round(r, 7)))
    return found or [(0.0, 0.0), (0.0, 0.0)]


def _height(outline: Outline, z: float) -> float:
    for (z0, r0), (z1, r1) in itertools.pairwise(outline):
        if z0 <= z <= z1 and z1 > z0:
            return r0 + (r1 - r0) * (z - z0) / (z1 - z0)
    return math.inf
