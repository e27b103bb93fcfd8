"""What the sheet shows of a milled step, in the part's coordinates: what is gone before it, seen from above, and a section
through what is left, before and after it. Made with the plan, beside the window: painting only maps it."""

from __future__ import annotations

import bisect
import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from bastler.shapes import Barrel, Box, Flat, Removal, TurnedPart, Unrolled, depth_profile, floors_joined
from bastler.shapes.removal import Seen

Profile = Sequence[tuple[float, float]]
"""(distance along the section, height) pairs; steps as two at one distance."""
SAME = 1e-6


@dataclass(frozen=True)
class Cutaway:
    """`floors` is what is gone before the step, the highest first; `now` and `after` are the section before and after it, `new`
    the stretches of `after` that the step makes. `under` is the underside, empty where nothing is gone of it."""

    floors: Sequence[Removal]
    now: Profile
    after: Profile
    new: Sequence[tuple[tuple[float, float], tuple[float, float]]]
    under: Profile = ()
    hidden: Sequence[Removal] = ()
    """What is gone from below and does not go through, as it is drawn in dashes from above."""


def cutaway(
    stock: Box,
    before: Sequence[Removal],
    gone: Sequence[Removal],
    start: tuple[float, float],
    end: tuple[float, float],
    under: Sequence[Removal] = (),
    turned: TurnedPart | None = None,
) -> Cutaway:
    """Plan and section from `start` to `end` of a step that takes `gone` from stock that `before` is gone from, `turned` is left
    of, and `under` is gone from below, heights counted downward."""
    rings = [Flat(region, z) for region, z in turned.steps() if z < stock.hi[2] - SAME] if turned else []
    floors = tuple(sorted([*rings, *floors_joined(before)], key=lambda r: -r.floor))
    beside: list[Seen] = [*_beside(stock, turned), *([turned] if turned else [])]
    now = _section(stock, [*before, *beside], start, end)
    after = _section(stock, [*before, *gone, *beside], start, end) if gone else now
    below: Profile = ()
    if isinstance(turned, Barrel | Unrolled):
        below = tuple((d, -max(z, 0.0)) for d, z in _section(stock, beside, start, end))
    elif under:
        below = tuple((d, -z) for d, z in depth_profile(under, -stock.lo[2], start, end))
    whole = stock.plan.area * (1.0 - SAME)
    hidden = [r for r in under if -stock.hi[2] < r.floor < -stock.lo[2] - SAME and r.region.area < whole]
    return Cutaway(floors, now, after, _new(now, after) if gone else (), below, hidden)


def _section(stock: Box, gone: Sequence[Seen], start: tuple[float, float], end: tuple[float, float]) -> Profile:
    return tuple((d, max(z, stock.lo[2])) for d, z in depth_profile(gone, stock.hi[2], start, end))


def _beside(stock: Box, turned: TurnedPart | None) -> list[Removal]:
    """Around a disc there is nothing, nor beside a turned part, whatever the box that it stands in."""
    if isinstance(turned, Barrel):
        return [Flat(stock.plan.difference(turned.region), stock.lo[2])]
    if not stock.round:
        return []
    return [Flat(shapely.box(*stock.plan.bounds).difference(stock.plan), stock.lo[2])]


def _new(now: Profile, after: Profile) -> tuple[tuple[tuple[float, float], tuple[float, float]], ...]:
    """The stretches of the new section that lie under the old one."""
    found: list[tuple[tuple[float, float], tuple[float, float]]] = []
    at = [d for d, _ in now]
    for (d0, z0), (d1, z1) in itertools.pairwise(after):
        middle, height = (d0 + d1) / 2, (z0 + z1) / 2
        heights = _heights(now, at, middle)
        if d1 - d0 > 1e-9:
            lower = height < max(heights, default=float("-inf")) - SAME
        else:  # a step of the old section: where the new one goes down further
            lower = min(z0, z1) < min(heights, default=float("-inf")) - SAME
        if lower and found and found[-1][1] == (d0, z0) and _straight_on(found[-1], (d1, z1)):
            found[-1] = (found[-1][0], (d1, z1))
        elif lower:
            found.append(((d0, z0), (d1, z1)))
    return tuple(found)


def _straight_on(stretch: tuple[tuple[float, float], tuple[float, float]], to: tuple[float, float]) -> bool:
    """Does a place lie straight on behind a stretch that is followed by the one to it?"""
    (d0, z0), (d1, z1) = stretch
    return abs((d1 - d0) * (to[1] - z0) - (z1 - z0) * (to[0] - d0)) < SAME * SAME


def _heights(profile: Profile, at: Sequence[float], d: float) -> list[float]:
    """The heights of a section at a distance: one, or at a step those of both sides."""
    first = max(bisect.bisect_left(at, d - 1e-9) - 1, 0)
    last = min(bisect.bisect_right(at, d + 1e-9), len(at) - 1)
    pieces = itertools.pairwise(profile[first : last + 1])
    return [
        z0 if d1 == d0 else z0 + (z1 - z0) * (d - d0) / (d1 - d0) for (d0, z0), (d1, z1) in pieces if d0 - 1e-9 <= d <= d1 + 1e-9
    ]
