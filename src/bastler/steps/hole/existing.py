"""What the holes of earlier steps have to be like for a tool that only goes on with them."""

from __future__ import annotations

import math
from collections.abc import Sequence

from bastler.shapes import Revolved, disc
from bastler.steps.context import FlatContext

NEAR_MM = 0.01


def holes_at(ctx: FlatContext, x: float, y: float) -> list[Revolved]:
    """The holes about a place."""
    return [h for h in ctx.holes if math.dist((h.x, h.y), (x, y)) < ctx.mm(NEAR_MM)]


def drilled(ctx: FlatContext, x: float, y: float, floor: float) -> float:
    """The diameter that is open at a place down to a height, 0 where there is no such hole."""
    return 2 * max((h.open_to(floor) for h in holes_at(ctx, x, y)), default=0.0)


def narrowest(ctx: FlatContext, holes: Sequence[tuple[float, float]]) -> float:
    """The diameter of the narrowest hole, well under its spot."""
    under = ctx.stock.hi[2] - ctx.stock.size[2] / 4
    return min((drilled(ctx, x, y, under) for x, y in holes), default=0.0)


def deepest(ctx: FlatContext, holes: Sequence[tuple[float, float]], diameter: float) -> float | None:
    """The height down to which a diameter is open at all places; None where one has no such hole,
    minus infinity where all go through."""
    found = []
    for x, y in holes:
        wide = [z for h in holes_at(ctx, x, y) for r, z in h.profile if 2 * r >= diameter - ctx.mm(NEAR_MM)]
        if not wide:
            return None
        found.append(min(wide))
    low = max(found, default=None)
    return -math.inf if low is not None and low <= ctx.stock.lo[2] + 1e-9 else low


def open_height(ctx: FlatContext, holes: Sequence[tuple[float, float]], diameter: float) -> float:
    """The height down to which a diameter is open at all places, by holes or by pockets; the surface there where nothing is."""
    found = [min(_drilled_to(ctx, at, diameter), ctx.surface(disc(*at, diameter / 2))) for at in holes]
    low = max(found, default=math.inf)
    return -math.inf if low <= ctx.stock.lo[2] + 1e-9 else low


def _drilled_to(ctx: FlatContext, at: tuple[float, float], diameter: float) -> float:
    low = deepest(ctx, [at], diameter)
    return math.inf if low is None else low
