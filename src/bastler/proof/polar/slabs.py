"""What is there of a turned part at each length, as regions across the axis: from its rays, slab by slab."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely

from bastler.proof.polar.dexels import Dexels
from bastler.shapes.kinds import Floats, Region

Stretch = tuple[float, float]
"""Of a ray, from a radius to another."""
Chain = list[tuple[int, Stretch]]
"""Stretches of rays beside each other that go on in one another."""


def slabs_of(rays: Dexels, hair: float) -> Iterator[tuple[float, float, Region]]:
    """The slabs of a part from its low end, those without material left out: (from, to, region). Ends of rays that differ by no
    more than a `hair` are the same."""
    known: Floats | None = None
    region: Region = shapely.Polygon()
    for slab in range(rays.count.shape[1]):
        now = _ends(rays, slab)
        if known is None or known.shape != now.shape or np.abs(known - now).max(initial=0.0) > hair:
            known, region = now, region_of(rays, slab, hair / 100.0)
        if not region.is_empty:
            yield float(rays.edges[slab]), float(rays.edges[slab + 1]), region


def _ends(rays: Dexels, slab: int) -> Floats:
    """All ends of a slab's rays (2, rays, most); where there are none -1."""
    there = np.arange(rays.lo.shape[2]) < rays.count[:, slab, None]
    found: Floats = np.where(there, np.stack([rays.lo[:, slab], rays.hi[:, slab]]), -1.0)
    return found


def region_of(rays: Dexels, slab: int, grid: float) -> Region:
    """What is there in a slab, across the axis, on a grid so fine: chains that lie beside each other are one piece on it."""
    return shapely.union_all([_shape(chain, len(rays.count)) for chain in _chains(rays, slab)], grid_size=grid)


def _chains(rays: Dexels, slab: int) -> Iterator[Chain]:
    """All chains of a slab. One that goes all round is parted: it would meet itself."""
    lo, hi, count = (each[:, slab].tolist() for each in (rays.lo, rays.hi, rays.count))
    half, open_ = len(count) // 2, list[Chain]()
    for ray in range(len(count)):
        own = [(lo[ray][k], hi[ray][k]) for k in range(count[ray])]
        went_on: list[Chain] = []
        for stretch in own:
            before = [chain for chain in open_ if _meet(chain[-1][1], stretch)]
            alone = len(before) == 1 and sum(_meet(before[0][-1][1], other) for other in own) == 1
            if alone and ray != half:
                before[0].append((ray, stretch))
                went_on.append(before[0])
            else:
                went_on.append([(ray, stretch)])
        yield from (chain for chain in open_ if not any(chain is other for other in went_on))
        open_ = went_on
    yield from open_


def _meet(a: Stretch, b: Stretch) -> bool:
    return a[0] < b[1] and b[0] < a[1]


def _shape(chain: Chain, rays: int) -> Region:
    """The region of a chain: from half a step before its first ray to half a step behind its last."""
    step = 2 * math.pi / rays
    angles = np.array([chain[0][0], *(ray + 0.5 for ray, _ in chain), chain[-1][0] + 1]) * step
    ends = np.array([chain[0][1], *(stretch for _, stretch in chain), chain[-1][1]])
    way = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    inner, outer = way * ends[:, :1], way * ends[:, 1:]
    around = np.concatenate([outer, inner[::-1]])
    shape = shapely.Polygon(around)
    return shape if shape.is_valid else shapely.make_valid(shape)
