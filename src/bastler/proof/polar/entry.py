"""How a face slants where a drill enters it across the axis."""

from __future__ import annotations

import math

import numpy as np

from bastler.proof.polar.dexels import Dexels
from bastler.shapes.kinds import Floats

SHARE = 0.25
"""Of its diameter to either side: what is level so far leads a drill."""


def slant_at(rays: Dexels, angle: float, y: float, z: float, diameter: float) -> float:
    """The steepest slant, in degrees, of what a drill meets that stands at an angle of C in radians, `y` beside the axis and at
    `z`: across the part and along it. 0 where it meets nothing."""
    by = SHARE * diameter
    across = _heights(rays, angle, z, np.array([y - by, y + by]))
    along = np.array([_heights(rays, angle, z + side * by, np.array([y]))[0] for side in (-1.0, 1.0)])
    steep = [abs(float(ends[1] - ends[0])) / (2 * by) for ends in (across, along) if np.isfinite(ends).all()]
    return math.degrees(math.atan(max(steep, default=0.0)))


def _heights(rays: Dexels, angle: float, z: float, across: Floats) -> Floats:
    """How far out the part stands at places beside the middle of a plane of the side, (n,); not a number beside the part."""
    slab = int(np.searchsorted(rays.edges, z, "right")) - 1
    if not 0 <= slab < len(rays.edges) - 1:
        return np.full(len(across), np.nan)
    count = rays.count[:, slab].astype(int)
    own = np.flatnonzero(count)
    off = (own + 0.5) * 2 * math.pi / len(count) - angle
    front = np.cos(off) > 0.0
    own, off = own[front], off[front]
    outer = rays.hi[own, slab, count[own] - 1].astype(float)
    beside, out = outer * np.sin(off), outer * np.cos(off)
    order = np.argsort(beside)
    found: Floats = np.interp(across, beside[order], out[order], left=np.nan, right=np.nan)
    return found
