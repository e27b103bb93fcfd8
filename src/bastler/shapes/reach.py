"""Where a round tool does not get in: passages and notches narrower than it, and what lies behind them.

In a corner every tool leaves something, and everybody knows what: as much as lies between the corner and the tool where it
touches both walls. Anything else that stays is a place that the tool was too wide for.
"""

from __future__ import annotations

import functools
import math

import numpy as np
import shapely

from bastler.shapes.kinds import Floats, Region, Regions
from bastler.shapes.prepared import prepare_for_now
from bastler.shapes.rounded import Point
from bastler.shapes.united import united

HAIR = 1 / 2000
"""Of the radius: so far a tool may seem to go into what it goes along."""
SHARPEST = math.radians(8.0)
"""Between walls that open by less than this a tool is in a passage, not in a corner."""
BESIDE = 1e-5
"""Of how far is looked: so near a chain its side is asked for."""
ROUND = 32
"""Chords of a quarter of a circle."""


@functools.lru_cache(maxsize=64)  # asked again by every proof
def not_entered(region: Region, radius: float, least: float) -> Region:
    """What of a region a disc of `radius` does not get to that stays inside it, other than in corners; thinner pieces than twice
    `least` are left out. Lengths in one unit."""
    hair = HAIR * radius
    centres = region.buffer(-radius, quad_segs=ROUND)
    rest = region.difference(centres.buffer(radius + hair, quad_segs=ROUND))
    pieces = [p for p in shapely.get_parts(rest) if p.geom_type == "Polygon" and not p.buffer(-max(least, hair)).is_empty]
    if not pieces or centres.is_empty:
        return united(pieces)
    wide = region.buffer(2 * hair)
    prepare_for_now(wide)
    edges = _edges(centres)
    nearest = shapely.STRtree(edges).nearest(pieces)
    ways = shapely.shortest_line(edges[nearest], pieces)
    at = shapely.get_coordinates(shapely.get_point(ways, 0))
    return united([p for p, place in zip(pieces, at, strict=True) if not _in_corner(p, wide, place, radius, hair)])


def _edges(region: Region) -> Regions:
    """(n,) the chords that bound a region."""
    places, ring = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(region)), return_index=True)
    same = ring[:-1] == ring[1:]
    edges: Regions = shapely.linestrings(np.stack([places[:-1][same], places[1:][same]], axis=1))
    return edges


def _in_corner(piece: Region, wide: Region, at: Floats, radius: float, hair: float) -> bool:
    """Is it what a disc, its middle `at` (2,), leaves that touches both walls of a corner? Nothing of the walls is then between
    the two; `wide` is the region, a little wider."""
    disc = shapely.Point(*at).buffer(radius - hair, quad_segs=ROUND)
    drawn = shapely.union(piece, disc).convex_hull
    if not wide.covers(drawn.buffer(-hair / 2)):
        return False
    corners = shapely.get_coordinates(piece.exterior) - at
    facing = corners[np.hypot(*corners.T) < radius + 4 * hair]  # on the disc
    chord = max((float(np.hypot(*(facing - one).T).max()) for one in facing), default=0.0)
    seen = 2 * math.asin(min(1.0, chord / (2 * (radius + hair))))
    # where the disc goes along a wall it seems to go into it, and the piece begins so much later
    return seen < math.pi - SHARPEST - 2 * math.acos(1 / (1 + HAIR))


@functools.lru_cache(maxsize=16)
def left_of(points: tuple[Point, ...], far: float) -> Region:
    """What lies to the left of an open chain of chords, `far` off at most; empty where its sides cannot be told apart, as where
    it comes near its own end."""
    line = shapely.LineString(points)
    edges = shapely.union(line, line.buffer(far, cap_style="flat", quad_segs=ROUND).boundary)
    faces = [f for f in shapely.get_parts(shapely.polygonize(shapely.get_parts(edges))) if f.area > 0]
    chords = np.diff(shapely.get_coordinates(line), axis=0)
    middles = shapely.get_coordinates(line)[:-1] + chords / 2
    aside = BESIDE * far * np.stack([-chords[:, 1], chords[:, 0]], axis=1) / np.hypot(*chords.T)[:, None]
    sides = [[bool(shapely.contains_xy(face, *(middles + side).T).any()) for side in (aside, -aside)] for face in faces]
    if any(left and right for left, right in sides):
        return shapely.Polygon()
    return united([face for face, (left, _) in zip(faces, sides, strict=True) if left])
