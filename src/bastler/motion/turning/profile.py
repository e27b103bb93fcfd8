"""Following an outline with a round nose: what the tip can reach, and the path of its point.

All in a view: the tool comes from the right, material below. The *nose path* is the outline moved off by the nose's radius; the
point that is programmed lies a fixed way from the nose's centre.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from bastler.motion.turning.view import View
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import mirrored, moved, offset, points_on, reversed_chain, seen, tangent
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.united import united
from bastler.tools import TurnTool

CLEARS = 2.0
"""Degrees of air kept between a tip's trailing edge and the wall it follows."""
DEEP = 1e4
SQUARE = 0.99
"""An outline that begins with so much of its direction away from the axis stands square to it."""
LEAST_RISE = 0.05
"""An end that rises less than this does not come out of the stock in any useful length."""


def clears(tool: TurnTool) -> float:
    """The steepest falling wall, in degrees from the axis, that a tip can follow with its trailing edge in the air."""
    return max(tool.back_angle - CLEARS, 0.5) if tool.iso and tool.back_angle < 90 else 90.0


def reached(chain: Sequence[Segment], tool: TurnTool) -> list[Segment]:
    """As much of an outline (in the tool's view) as the tip can follow: falling walls no steeper than its trailing edge clears,
    rising ones no steeper than its leading edge."""
    way = seen(chain, clears(tool))
    if tool.front_angle < 90.0:
        back = seen(mirrored(reversed_chain(way), u=True), tool.front_angle)
        way = reversed_chain(mirrored(back, u=True))
    return way


def closed_to_stock(chain: Sequence[Segment], high: float, *, on: bool = False) -> list[Segment]:
    """The outline led straight up from its end until it is clear of the stock, however high it ends itself; with `on` in the
    direction in which it ends, where that rises."""
    if not chain:
        return []
    u, v = chain[-1].end
    tu, tv = tangent(chain[-1], at_end=True)
    if on and tv > LEAST_RISE and v < high - 1e-9:
        return [*chain, Line((u, v), (u + tu * (high - v) / tv, high))]
    return [*chain, Line((u, v), (u, high))] if v < high - 1e-9 else list(chain)


def with_run_in(chain: Sequence[Segment], run: float) -> list[Segment]:
    """The outline with a straight run before its start, along its first direction."""
    if not chain or run <= 0:
        return list(chain)
    tu, tv = tangent(chain[0])
    if tv > SQUARE:  # a wall right at the start: come from beside it, not from inside the part
        tu, tv = -1.0, 0.0
    u, v = chain[0].start
    return [Line((u - tu * run, v - tv * run), (u, v)), *chain]


def way_on(chain: Sequence[Segment], tool: TurnTool, view: View, run: float, *, square: bool) -> list[Segment]:
    """The path of the tool's point along an outline with a run before it. With `square` the outline begins square to the axis,
    with nothing in front of it: the nose comes straight on to its first place, which a run along Z would keep it off."""
    if not square:
        return point_path(with_run_in(chain, run), tool, view)
    way = point_path(chain, tool, view)
    if not way:
        return []
    u, v = way[0].start
    return [Line((u + run, v), (u, v)), *way]


def begins_square(chain: Sequence[Segment]) -> bool:
    """Does an outline begin with an arc that stands square to the axis? A straight wall has its corner to be kept."""
    return bool(chain) and isinstance(chain[0], Arc) and tangent(chain[0])[1] > SQUARE


def point_path(chain: Sequence[Segment], tool: TurnTool, view: View) -> list[Segment]:
    """The path of the tool's point along an outline, both in the view."""
    cu, cv = view.to(*tool.centre)
    return moved(offset(chain, tool.nose), -cu, -cv)


def material_under(chain: Sequence[Segment], chord: float) -> Region:
    """The region below an outline, as far as it reaches along u; `chord` is how far its points may leave an arc."""
    points = points_on(chain, chord)
    lowest = min(v for _, v in points) - DEEP
    return shapely.make_valid(shapely.Polygon([*points, (points[-1][0], lowest), (points[0][0], lowest)]))


def above(chain: Sequence[Segment], high: float, chord: float) -> Region:
    """The region above an outline up to `high`; `chord` is how far its points may leave an arc."""
    points = points_on(chain, chord)
    top = max(high, *(v for _, v in points)) + 1.0
    return shapely.make_valid(shapely.Polygon([*points, (points[-1][0], top), (points[0][0], top)]))


def forbidden(material: Region, shapes: Sequence[Sequence[tuple[float, float]]]) -> Region:
    """Where the point of a tool must not go so that none of its (convex) shapes touches the material.

    The sum of the material and the mirrored shape: every edge of the one swept with the other. It is taken about the middle of
    the first shape, so that the material itself is part of it: the point of a round nose lies outside of that.
    """
    rings = [np.asarray(g.exterior.coords) for g in getattr(material, "geoms", [material]) if g.geom_type == "Polygon"]
    middle = np.asarray(shapes[0]).mean(axis=0)
    swept: list[Any] = [material]
    for shape in shapes:
        turned = middle - np.asarray(shape)
        for ring in rings:
            swept += list(hulls(turned, ring))
    return shapely.transform(united(swept), lambda points: points - middle)


def hulls(shape: Any, points: Floats) -> Any:
    """The hulls of a convex shape (m, 2) swept from each of the points (n, 2) to the next."""
    places = shape[None, :, :] + points[:, None, :]
    pairs = np.concatenate([places[:-1], places[1:]], axis=1)
    return shapely.convex_hull(shapely.linestrings(pairs))
