"""Ways of a blade in a groove, in a view: how deep it may plunge, layers from wall to wall, and walls led on over the surface."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import shapely
from shapely.geometry import LineString

from bastler.motion.even import equal_parts
from bastler.shapes import Line, Segment
from bastler.shapes.chain import reversed_chain, tangent
from bastler.shapes.kinds import Region
from bastler.shapes.rounded import Point

LEVEL = 0.1
"""A wall that ends less steep than that, as a sine, ends along the surface."""


def plunges(
    span: tuple[float, float], step: float, floor: tuple[float, float], top: tuple[float, float], hair: float
) -> list[float]:
    """Where to plunge, right to left, no farther apart than a `step`, with a blade that reaches from `span[0]` to `span[1]` of
    its point: over the floor (left, right), a `hair` off its walls, and beyond it to the tops of slanted ones."""
    lo, hi = span
    right, left = floor[1] - hi - hair, floor[0] - lo + hair
    if right <= left:
        right = left = (right + left) / 2
    count = equal_parts(right - left, step, 1e-9) if right > left else 0
    found = [right - (right - left) * j / count for j in range(count + 1)] if count else [right]
    for begin, end, outward in ((right, top[1] - hi, 1.0), (left, top[0] - lo, -1.0)):
        beyond = (end - begin) * outward
        more = math.ceil(beyond / step - 1e-9) if beyond > 2 * hair else 0
        found += [begin + outward * beyond * j / more for j in range(1, more + 1)]
    return sorted(found, reverse=True)


def lowest(keep: Region, u: float, low: float, high: float) -> float:
    """How far down from `high` a point may go at `u` without coming into `keep`; no lower than `low`."""
    free = LineString([(u, high), (u, low)]).difference(keep)
    pieces = [g for g in getattr(free, "geoms", [free]) if not g.is_empty and g.bounds[3] > high - 1e-6]
    return min((g.bounds[1] for g in pieces), default=high)


def layers_between(
    keep: Region, reach: tuple[float, float], top: float, low: float, ap: float, hair: float
) -> Iterator[tuple[float, float, float]]:
    """The layers from `top` down to `low`, no thicker than `ap`: how high each is, and from where to where along u a point may go
    there, within `reach`, a `hair` over what it touches on its way."""
    count = equal_parts(top - low, ap, 1e-9)
    for k in range(1, count + 1):
        v = top - (top - low) * k / count
        free = LineString([(reach[0], v + hair), (reach[1], v + hair)]).difference(keep)
        spans = [g.bounds for g in getattr(free, "geoms", [free]) if not g.is_empty]
        if not spans:
            return
        left, _, right, _ = max(spans, key=lambda b: b[2] - b[0])
        yield v, left, right


def shaft_of(keep: Region, about: float, low: float, high: float) -> tuple[float, float]:
    """From where to where about a length a point may come straight down from `high` to `low` beside walls that lean over; that
    length alone where it may not."""
    inside = keep.intersection(shapely.box(keep.bounds[0] - 1.0, low, keep.bounds[2] + 1.0, high))
    spans = [g.bounds for g in shapely.get_parts(inside) if not g.is_empty]
    if any(left < about < right for left, _, right, _ in spans):
        return about, about
    left = max((right for _, _, right, _ in spans if right <= about), default=about)
    return left, min((left for left, _, _, _ in spans if left >= about), default=about)


def sideways(keep: Region, at: Point, outward: float) -> float:
    """How far a point may go along u from a place, to the right (1) or to the left (-1)."""
    (u, v), far = at, (keep.bounds[2] + 1.0 if outward > 0 else keep.bounds[0] - 1.0)
    free = LineString([(u, v), (far, v)]).difference(keep)
    own = [g for g in shapely.get_parts(free) if g.distance(shapely.Point(u, v)) < 1e-9]
    return max((g.bounds[2] if outward > 0 else g.bounds[0] for g in own), key=lambda b: b * outward, default=u)


def open_ended(chain: Sequence[Segment], high: float, beside: float) -> list[Segment]:
    """A groove's walls led on in their own direction, both as high as `high` where they end below that; where an edge is rounded,
    so that it ends along the surface, the way goes on along that for `beside` and then straight up."""
    back = reversed_chain(_led_up(chain[-1].end, tangent(chain[-1], at_end=True), high, beside))
    (au, av) = tangent(chain[0])
    return [*_led_up(chain[0].start, (-au, -av), high, beside), *chain, *back]


def _led_up(end: Point, along: Point, high: float, beside: float) -> list[Segment]:
    """From a height to the end of a chain that leaves it in a direction."""
    (u, v), (du, dv) = end, along
    if v >= high:
        return []
    if dv > LEVEL:
        return [Line((u + du * (high - v) / dv, high), end)]
    turn = (u + math.copysign(beside, du), v)
    return [Line((turn[0], high), turn), *([Line(turn, end)] if beside else [])]
