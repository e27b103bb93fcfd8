"""Leading the tool on to a path and off it again, without touching what is to stay."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

import numpy as np

from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import points_on, reversed_chain, tangent
from bastler.shapes.kernels import clear_of
from bastler.shapes.kinds import Region
from bastler.shapes.region import Loop

LeadForm = Literal["arc", "line", "square", "none"]
TRIES = 6
Point = tuple[float, float]


def lead_in(
    chain: Sequence[Segment], form: LeadForm, size: float, *, left: bool, keep_off: Region, distance: float, strict: bool = False
) -> Loop:
    """What is to be run before a chain: a quarter circle of radius `size`, a line of that length along it or square to it, on the
    chain's left or right. It is made smaller until every point keeps `distance` from the primitives `keep_off`; else a square
    lead is tried unless `strict`, and then nothing comes back."""
    forms: list[LeadForm] = [form] if strict or form in ("none", "square") else [form, "square"]
    for one in forms:
        length = size
        for _ in range(TRIES if one != "none" else 0):
            made = _shape(chain[0], one, length, left=left)
            if _free(made, keep_off, distance):
                return made
            length /= 2
    return []


def lead_out(
    chain: Sequence[Segment], form: LeadForm, size: float, *, left: bool, keep_off: Region, distance: float, strict: bool = False
) -> Loop:
    """The same behind a chain."""
    back = lead_in(reversed_chain(chain), form, size, left=not left, keep_off=keep_off, distance=distance, strict=strict)
    return reversed_chain(back)


def run_up(chain: Sequence[Segment], keep_off: Region, distance: float) -> Point | None:
    """From where to come straight on to a chain's start, about as far as the tool is from the primitives `keep_off`; None where
    there is no room, or too little to be sure of."""
    (x, y), (tu, tv) = chain[0].start, tangent(chain[0])
    for share in (1.0, 0.5, 0.25):
        for du, dv in ((-tu, -tv), (-tv, tu), (tv, -tu)):
            p = (x + du * distance * share, y + dv * distance * share)
            if _free([Line(p, (x, y))], keep_off, distance):
                return p
    return None


def _shape(first: Segment, form: LeadForm, size: float, *, left: bool) -> Loop:
    (x, y), (tu, tv) = first.start, tangent(first)
    nu, nv = (-tv, tu) if left else (tv, -tu)
    if form == "line":
        return [Line((x - tu * size, y - tv * size), (x, y))]
    if form == "square":
        return [Line((x + nu * size, y + nv * size), (x, y))]
    centre = (x + nu * size, y + nv * size)
    return [Arc((centre[0] - tu * size, centre[1] - tv * size), (x, y), centre, ccw=left)]


def _free(lead: Loop, keep_off: Region, distance: float) -> bool:
    points = np.array(points_on(lead, max(math.dist(lead[0].start, lead[-1].end) / 50, 1e-6)))
    return bool(clear_of(points, keep_off, distance * (1 - 1e-7) - 1e-9).all())
