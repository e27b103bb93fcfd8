"""Where the jaws of a vise meet the part, once it is no raw block any more."""

from __future__ import annotations

import shapely

from bastler.job.part import FlatView, lowest, slab
from bastler.job.vise import Gripped, ViseHolding
from bastler.shapes import Box


def gripped(box: Box, view: FlatView, holding: ViseHolding) -> Gripped:
    """Where the part stands and is held; `holding` with its answers filled. The jaws come to where it is widest between them."""
    if not view.under and not view.before:
        return Gripped(box.lo[2], box.lo[1], box.hi[1])
    bottom = lowest(box, view)
    between = slab(box, view, bottom, bottom + (holding.grip or 0.0)).some
    if holding.jaw_width is not None:
        half = holding.jaw_width / 2
        between = between.intersection(shapely.box(box.centre[0] - half, box.lo[1], box.centre[0] + half, box.hi[1]))
    if between.is_empty:
        return Gripped(bottom, box.lo[1], box.hi[1])
    _, front, _, back = between.bounds
    return Gripped(bottom, float(front), float(back))
