"""Is what was left on an outline for a later step still there at the end?"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import shapely

from bastler.language import tr
from bastler.proof.remark import Remark
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Region
from bastler.shapes.prepared import prepared
from bastler.steps.turn.outline_step import Spot
from bastler.units import Kind, with_unit

MOST_TAKEN = 0.5
"""Of an allowance of which less than this share is gone all is said to be there."""
LEAST_MM = 0.2
"""What stands on less of an outline's length than that is no allowance."""


def allowances_kept(scene: TurnScene, proof: TurnProof) -> Iterator[Remark]:
    """A caution for every outline that keeps what a step left on it, or some of it: the part is too large there, in a bore too
    small. Of several steps that leave something there it is said of the last."""
    said: set[str] = set()
    for wanted in reversed(scene.wanted):
        left = wanted.allowance
        if left is None or left.outline in said:
            continue
        there, stands = (_spots_in(region, left.spots) for region in (scene.raw, proof.part))
        long = sum(spot.long for spot in stands)
        if long <= LEAST_MM * scene.mm:
            continue
        said.add(left.outline)
        d, z = (with_unit(value, Kind.LENGTH, scene.unit) for value in (left.d, left.z))
        z_there, r_there = max(stands, key=lambda s: s.long).places[0]
        where = ""
        if long < (1.0 - MOST_TAKEN) * sum(spot.long for spot in there):
            across, at = (with_unit(float(f"{v:.5g}"), Kind.LENGTH, scene.unit) for v in (2 * r_there, z_there))
            where = tr(" at Ø{across}, Z {at}", across=across, at=at)
        text = tr(
            "“{outline}” keeps {d} on Ø and {z} on Z{where}: no step after this one takes that.",
            outline=left.outline,
            d=d,
            z=z,
            where=where,
        )
        place = (float(r_there), 0.0, float(z_there))
        yield Remark(level="caution", code="allowance-left", text=text, step=wanted.step, amount=left.d, place=place)


def _spots_in(region: Region, spots: Sequence[Spot]) -> list[Spot]:
    """The places that lie in a region."""
    if region.is_empty or not spots:
        return []
    own = prepared(region)
    return [spot for spot in spots if all(shapely.contains_xy(own, *place) for place in spot.places)]
