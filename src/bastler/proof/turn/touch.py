"""A finger on a turned part: on its half section, which is exact."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely
from shapely.geometry.polygon import orient

from bastler.proof.scrub import Moment
from bastler.proof.touch import Face, Touch
from bastler.proof.turn.scrub import stock_at
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Floats, Region

MADE_MM = 0.003
"""Passes that take less than this off a face have not made it."""
NEAR_MM = 0.5
"""As far from the section a place may seem to lie: a solid has so many faces a turn."""
EVEN = 1e-7
"""A face that rises by no more a unit of length runs along the axis or across it."""


def touched(proof: TurnProof, moment: Moment, z: float, r: float, *, inside: bool = False) -> Touch:
    """What there is at a place (z, r) of a part's surface at a moment; `inside` where it was cut open."""
    stock, mm = stock_at(proof, moment), proof.scene.mm
    at = shapely.Point(z, r)
    if inside or stock.is_empty or stock.boundary.distance(at) > NEAR_MM * mm:
        place = (r, 0.0, z)
        return Touch(place, Face("inside", place, (0.0, 1.0, 0.0)), None, -1)
    point, direction = _nearest(stock, at)
    hair = MADE_MM * mm
    # the material lies on the left of its outline
    out = np.array([direction[1], -direction[0]])
    place = (float(point[1]), 0.0, float(point[0]))
    normal = (float(out[1]), 0.0, float(out[0]))
    if abs(direction[1]) < EVEN:
        face = Face("round", (0.0, 0.0, place[2]), (0.0, 0.0, 1.0), place[0], bool(out[1] < 0))
    elif abs(direction[0]) < EVEN:
        face = Face("plane", place, (0.0, 0.0, math.copysign(1.0, out[0])))
    else:
        face = Face("slope", place, normal)
    return Touch(place, face, _off(proof, point, hair), _maker(proof, moment, shapely.Point(*(point + hair * out))))


def _nearest(region: Region, at: Region) -> tuple[Floats, Floats]:
    """The place of an outline nearest to a point, and the way the outline runs there, with what is inside on its left."""
    best, found = math.inf, (np.zeros(2), np.array([1.0, 0.0]))
    p = np.array([at.x, at.y])
    for polygon in getattr(region, "geoms", [region]):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        whole = orient(polygon, 1.0)
        for ring in (whole.exterior, *whole.interiors):
            c = np.asarray(ring.coords)
            a, d = c[:-1], np.diff(c, axis=0)
            long = np.maximum((d * d).sum(axis=1), 1e-24)
            spot = a + d * np.clip(((p - a) * d).sum(axis=1) / long, 0.0, 1.0)[:, None]
            away = np.hypot(*(spot - p).T)
            k = int(away.argmin())
            if away[k] < best:
                best, found = float(away[k]), (spot[k], d[k] / math.sqrt(float(long[k])))
    return found


def _off(proof: TurnProof, point: Floats, hair: float) -> float | None:
    """How far a place of the surface is from the finished part; none in a thread, which is measured along its flanks."""
    at = shapely.Point(*point)
    if any(w.thread is not None and w.thread.distance(at) < hair for w in proof.scene.wanted):
        return None
    wanted = proof.comparison.wanted
    off = float(wanted.boundary.distance(at))
    if off <= hair:
        return 0.0
    return -off if wanted.contains(at) else off


def _maker(proof: TurnProof, moment: Moment, air: Region) -> int:
    """The move that took a place away, which is away since; -1 where it never was there."""
    rows = list(_rows(proof, moment))
    if proof.scene.raw.disjoint(air) or not rows:
        return -1
    low, high = -1, len(rows) - 1
    if _there(proof, rows[high], air):
        return rows[high][2]
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if _there(proof, rows[middle], air) else (low, middle)
    return rows[high][2]


def _rows(proof: TurnProof, moment: Moment) -> Iterator[tuple[int, int, int]]:
    """Stage, row in it and move, of all moves up to a moment."""
    last = moment.stage if moment.stage >= 0 else len(proof.stages) - 1
    for k, stage in enumerate(proof.stages[: last + 1]):
        for row in range(len(stage.proof.stocks)):
            if moment.stage >= 0 and stage.begin + row > moment.move:
                return
            yield k, row, stage.begin + row


def _there(proof: TurnProof, at: tuple[int, int, int], place: Region) -> bool:
    """Is there material at a place after a move, be it on the floor?"""
    stage, row, _ = at
    fallen = [g for s in proof.stages[: stage + 1] for g in s.proof.fallen]
    return bool(proof.stages[stage].proof.stocks[row].intersects(place) or any(g.intersects(place) for g in fallen))
