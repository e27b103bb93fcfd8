"""The part as the holdings before leave it, and as a holding sees it."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import shapely

from bastler.shapes import Box, Flat, Lie, Removal, Revolved, TurnedPart, Way, disc, through
from bastler.shapes.united import united

Regions = list[tuple[float, shapely.Geometry]]


class Gone(msgspec.Struct, frozen=True):
    """What one holding took away, as it sees it: the raw stock is `box` there, and the part lies like `lie`."""

    box: Box
    lie: Lie
    what: tuple[Removal, ...]


class FlatView(msgspec.Struct, frozen=True):
    """What is gone, seen from above part zero: `before` is open to above, `under` to below, its heights counted downward. What
    goes through is in both. On a part in a chuck `turned` is what turning has left."""

    before: tuple[Removal, ...] = ()
    under: tuple[Removal, ...] = ()
    turned: TurnedPart | None = None


class PartModel(msgspec.Struct, frozen=True):
    """The raw stock and all that is gone of it, holding by holding."""

    gone: tuple[Gone, ...] = ()

    def without(self, box: Box, lie: Lie, what: Sequence[Removal]) -> PartModel:
        """The part behind a holding."""
        return PartModel((*self.gone, Gone(box, lie, tuple(what)))) if what else self

    def seen(self, box: Box, lie: Lie) -> FlatView:
        """The part as a holding sees it."""
        before: list[Removal] = []
        under: list[Removal] = []
        for gone in self.gone:
            way = Way.between(gone.box, gone.lie, box, lie)
            here = [way.removal(removal) for removal in gone.what]
            if not way.over:
                before += here
                under += [r for r in (through(r, box.lo[2], -box.hi[2]) for r in here) if r]
                continue
            under += here
            before += [r for r in (through(r, -box.hi[2], box.lo[2]) for r in here) if r]
        return FlatView(tuple(before), tuple(under))


UNCUT = PartModel()


class Slab(msgspec.Struct, frozen=True):
    """What stands between two heights, seen from above: `some` where there is anything, `whole` where it is all there."""

    some: shapely.Geometry
    whole: shapely.Geometry


def slab(box: Box, view: FlatView, low: float, high: float) -> Slab:
    """What of the stock stands between two heights. Bevels and grooves are too small to matter to what holds a part."""
    over, below = _flats(view.before), [(-z, region) for z, region in _flats(view.under)]
    none = [r for z, r in over if z <= low + 1e-9] + [r for z, r in below if z >= high - 1e-9]
    touched = [r for z, r in over if z < high - 1e-9] + [r for z, r in below if z > low + 1e-9]
    return Slab(_without(box, none), _without(box, touched))


def lowest(box: Box, view: FlatView) -> float:
    """The height of the part's lowest place."""
    heights = sorted({box.lo[2], *(-z for z, _ in _flats(view.under) if box.lo[2] < -z < box.hi[2])})
    return next((z for z in heights if not slab(box, view, z, z + 1e-6).some.is_empty), box.lo[2])


def levels(view: FlatView) -> list[float]:
    """The heights at which what is gone begins or ends, lowest first."""
    return sorted({z for z, _ in _flats(view.before)} | {-z for z, _ in _flats(view.under)})


def _flats(removals: Sequence[Removal]) -> Regions:
    """Floors and what is open down to them; holes step by step, their cones as wide as they begin."""
    found: Regions = []
    for removal in removals:
        if isinstance(removal, Flat):
            found.append((removal.floor, removal.region))
        elif isinstance(removal, Revolved):
            wide = {r for r, _ in removal.profile if r > 0}
            found += [(min(z for r, z in removal.profile if r >= w), disc(removal.x, removal.y, w)) for w in wide]
    return found


def _without(box: Box, regions: list[shapely.Geometry]) -> shapely.Geometry:
    return box.plan.difference(united(regions)) if regions else box.plan
