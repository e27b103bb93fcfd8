"""A part as cut as one closed solid, for files: every edge has exactly two triangles.

A milled part is a stack of upright prisms. What is there at a height is the block less the strokes of all tools that came below
it, as regions of true lines and arcs; heights are taken where tools made floors, and between them more closely where the region
changes: tips, chamfers and rounded corners come in steps of `STEP_MM`. A turned part is its half section turned about the axis;
one that driven tools have cut a stack again, of what its rays have left across the axis.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from bastler.language import tr
from bastler.nc import Trace
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.strokes import Sweep, paths_at, varies
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.scrub import rays_at
from bastler.proof.polar.slabs import slabs_of
from bastler.proof.scrub import moment_at
from bastler.proof.stacked import NoSolid, Slab, Solid, alike, polygons, revolved, stacked
from bastler.proof.turn.turned import TurnProof
from bastler.proof.whole import JobProof
from bastler.shapes.kinds import Floats, Indices, Region
from bastler.shapes.lie import Way
from bastler.shapes.united import united
from bastler.tools import Profile

STEP_MM = 0.15
FINE_MM = 0.004
"""How far outlines may leave what tools swept."""
GRID_MM = 1e-5
SAME_MM = 0.004
"""Regions that differ by no wider strips are the same."""
AROUND = 180
"""Faces round turned work."""
SLICED = 0.6
"""So much of the work is done when the slices are cut."""
Told = Callable[[float], None]


def closed(proof: JobProof, told: Told = lambda share: None) -> Solid:
    """The part as all programs leave it, as it lies in the last holding. NoSolid where nothing is left of it. `told` hears now
    and then how much of it is done."""
    last = proof.holdings[-1]
    if isinstance(last, TurnProof):
        rays = rays_at(last, moment_at(last, last.total), last.part)
        return _revolved(last) if rays is None else _of_rays(last, rays, told)
    assert isinstance(last, MillProof)
    mm = last.scene.mm
    cuts = [cut for one in proof.holdings for cut in _cuts(proof, one)]
    slabs = _joined(_slabs(last, cuts, mm, lambda share: told(SLICED * share)), SAME_MM * mm, GRID_MM * mm)
    return _closed(slabs, mm, told)


def _closed(slabs: list[Slab], mm: float, told: Told) -> Solid:
    if not slabs:
        raise NoSolid(tr("Nothing is left of the part."))
    return stacked(slabs, GRID_MM * mm, lambda share: told(SLICED + (1.0 - SLICED) * share))


# -- milled -------------------------------------------------------------------------------------------------------


@dataclass(frozen=True, eq=False)
class _Cut:
    """The moves of a run as its own holding sees them, with the tool's shape, and the way to the last holding."""

    trace: Trace
    rows: Indices
    low: Floats
    shape: Profile
    way: Way
    last: list[Any] = field(default_factory=lambda: [b"", None])
    """What it took at the height that was asked for last, with what that depends on."""

    def swept(self, z: float, mm: float) -> Region:
        """What it takes at a height of the last holding, as that sees it. Mostly that is what it takes a little lower too."""
        own = (z - self.way.rise) * self.way.z
        rows = self.rows[self.low < own - 1e-9]
        if not len(rows):
            return None
        key = b"" if varies(self.trace, rows, own, self.shape) else rows.tobytes()
        if key and key == self.last[0]:
            return self.last[1]
        found = united(Sweep.along(paths_at(self.trace, rows, own, self.shape), FINE_MM * 1000 * mm).regions)
        found = found if self._stays else shapely.transform(found, self._placed)
        self.last[:] = [key, found]
        return found

    @property
    def _stays(self) -> bool:
        """Is the plan the same in both holdings?"""
        return self.way.x == self.way.y == 1 and self.way.here.centre == self.way.there.centre

    def _placed(self, places: Floats) -> Floats:
        """Places of the plan (n, 2) as the last holding sees them."""
        signs = np.array((self.way.x, self.way.y), float)
        found: Floats = (places - np.array(self.way.here.centre)) * signs + np.array(self.way.there.centre)
        return found

    @property
    def floors(self) -> Iterator[float]:
        """The heights at which it has made floors, as the last holding counts them."""
        start, end = self.trace.start[self.rows], self.trace.end[self.rows]
        level = np.abs(start[:, 2] - end[:, 2]) < 1e-7
        down = np.flatnonzero((end[:, 2] < start[:, 2]) & (np.abs(end[:, :2] - start[:, :2]).max(axis=1, initial=0.0) < 1e-7))
        deepest: dict[tuple[float, float], float] = {}  # of a hole that is pecked only its end is a floor
        for x, y, z in end[down].tolist():
            where = (round(x, 6), round(y, 6))
            deepest[where] = min(z, deepest.get(where, z))
        ends = np.array([*end[level, 2].tolist(), *deepest.values()])
        for z in np.unique(np.round(ends, 6)).tolist():
            yield self.way.z * z + self.way.rise
            if self.shape.tall > 0:
                yield self.way.z * (z + self.shape.tall) + self.way.rise


def _cuts(proof: JobProof, one: object) -> Iterator[_Cut]:
    """What the program of a holding does to the first part."""
    last = proof.holdings[-1]
    if not isinstance(one, MillProof) or one.held is None or last.held is None:
        return
    way = one.held.way_to(last.held)
    for stage in one.stages:
        tool = stage.proof.tool
        if tool is None or stage.part:
            continue
        trace = one.trace.between(stage.begin, stage.end)
        low = np.minimum(trace.start[:, 2], trace.end[:, 2])
        yield _Cut(trace, np.arange(len(trace)), low, tool.profile, way)


def _slabs(last: MillProof, cuts: Sequence[_Cut], mm: float, told: Told) -> Iterator[Slab]:
    """The prisms from below: (from, to, region)."""
    stock = last.scene.stock
    low, high = stock.lo[2], stock.hi[2]
    floors = {round(z, 6) for cut in cuts for z in cut.floors}
    levels = sorted({low, high, *(z for z in floors if low + 1e-6 < z < high - 1e-6)})
    known: dict[float, Region] = {}

    def at(z: float) -> Region:
        if z not in known:
            gone = [region for cut in cuts if (region := cut.swept(z, mm)) is not None]
            there = stock.plan.difference(united(gone)) if gone else stock.plan
            known[z] = shapely.set_precision(shapely.simplify(there, FINE_MM * mm), GRID_MM * mm)
        return known[z]

    def parted(a: float, b: float) -> Iterator[Slab]:
        hair = min(1e-3 * mm, (b - a) / 4)
        if b - a <= STEP_MM * mm or alike(at(a + hair), at(b - hair), SAME_MM * mm):
            yield a, b, at((a + b) / 2)
            return
        middle = (a + b) / 2
        yield from parted(a, middle)
        yield from parted(middle, b)

    for a, b in itertools.pairwise(levels):
        if b - a < 1e-5 * mm:
            continue
        for slab in parted(a, b):
            if not slab[2].is_empty:
                yield slab
        known.clear()
        told((b - low) / (high - low))


def _joined(slabs: Iterator[Slab], hair: float, grid: float) -> list[Slab]:
    """Prisms on each other that are alike are one."""
    found: list[Slab] = []
    for a, b, region in slabs:
        if found and found[-1][1] == a and alike(found[-1][2], region, hair):
            found[-1] = (found[-1][0], b, found[-1][2])
            continue
        if found:  # what nearly lies on the outline below lies on it
            region = shapely.union_all(polygons(shapely.set_precision(shapely.snap(region, found[-1][2], hair), grid)))
        found.append((a, b, region))
    return found


# -- turned -------------------------------------------------------------------------------------------------------


def _front(section: Region) -> tuple[Region, list[Region]]:
    """The piece of a half section that is in front, which is the part, and the others. NoSolid where there is none."""
    pieces = sorted(polygons(section), key=lambda g: -g.bounds[2])
    if not pieces:
        raise NoSolid(tr("Nothing is left of the part."))
    return pieces[0], pieces[1:]


def _of_rays(proof: TurnProof, rays: Dexels, told: Told) -> Solid:
    """A part that driven tools have cut, slab by slab along its axis: what slants comes in steps as thick as slabs are."""
    mm = proof.scene.mm
    for other in _front(proof.part)[1]:
        rays.turned(other)

    def plain(region: Region) -> Region:
        return shapely.set_precision(shapely.simplify(region, FINE_MM * mm), GRID_MM * mm)

    low, high = float(rays.edges[0]), float(rays.edges[-1])

    def cut() -> Iterator[Slab]:
        for a, b, region in slabs_of(rays, FINE_MM * mm / 4):
            if not (smooth := plain(region)).is_empty:
                yield a, b, smooth
            told(SLICED * (b - low) / (high - low))

    return _closed(_joined(cut(), SAME_MM * mm, GRID_MM * mm), mm, told)


def _revolved(proof: TurnProof) -> Solid:
    """A half section turned about the axis; of several pieces the one in front, which is the part."""
    mm = proof.scene.mm
    part, _ = _front(shapely.set_precision(shapely.simplify(proof.part, FINE_MM * mm / 2), GRID_MM * mm))
    return revolved(part, GRID_MM * mm, AROUND)
