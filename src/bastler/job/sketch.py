"""What the sheet draws when the setup card is selected."""

from __future__ import annotations

import math

from bastler.job.planned import Plan
from bastler.shapes import Box
from bastler.steps import Dim, Sketch, TurnSketch


def turn_setup_sketch(plan: Plan) -> TurnSketch:
    """The stock in the chuck with its lengths and diameters."""
    setup = plan.setup
    z0, _, z1, outer = plan.ctx.raw.bounds
    dims = [
        Dim("length", "half", "length", (z1, outer), (z0, outer)),
        Dim("stick_out", "half", "length", (z1, outer), (setup.jaws_at, outer)),
        Dim("finished", "half", "length", (0.0, outer), (-setup.finished, outer)),
    ]
    if setup.over_front > 0:
        dims.append(Dim("over_front", "half", "length", (z1, outer), (0.0, outer)))
    if setup.over_back > 0:
        dims.append(Dim("over_back", "half", "length", (-setup.finished, outer), (-setup.finished - setup.over_back, outer)))
    field = {"hex": "across_flats"}.get(setup.form, "diameter")
    if setup.form != "forging":
        dims.append(Dim(field, "half", "diameter", (z1, outer), (setup.jaws_at, outer)))
    if setup.form == "tube":
        dims.append(Dim("bore", "half", "diameter", (z1, setup.bore / 2), (setup.jaws_at, setup.bore / 2)))
    return TurnSketch(dims=tuple(dims))


def setup_sketch(plan: Plan) -> Sketch:
    """Section through the middle of the stock, with the dimensions of block, zero and jaws."""
    stock, setup = plan.ctx.stock, plan.setup
    lo, hi = stock.lo, stock.hi
    width = hi[0] - lo[0]
    dims = [
        *_outside(stock),
        Dim("size_z", "section", "depth", (width, hi[2]), (width, lo[2])),
    ]
    if setup.over_top > 0:
        dims.append(Dim("over_top", "section", "depth", (width * 0.72, hi[2]), (width * 0.72, hi[2] - setup.over_top)))
    if setup.zero == "own":
        front = (lo[0] + setup.over_sides, lo[1] + setup.over_sides)
        dims.append(Dim("zero_x", "plan", "along x", front, (0.0, 0.0), 1))
        dims.append(Dim("zero_y", "plan", "along y", front, (0.0, 0.0), 1))
    if plan.ctx.jaws and setup.grip:
        dims.append(Dim("grip", "section", "depth", (0.0, lo[2] + setup.grip), (0.0, lo[2]), -1))
    return Sketch(section=stock.middle, dims=tuple(dims))


def _outside(stock: Box) -> list[Dim]:
    """The dimensions of a block or a disc, seen from above."""
    (x0, y0, _), (x1, y1, _) = stock.lo, stock.hi
    if stock.round:
        r, (x, y) = (x1 - x0) / 2 * math.sqrt(0.5), stock.centre
        return [Dim("diameter", "plan", "diameter", (x - r, y - r), (x + r, y + r))]
    return [Dim("size_x", "plan", "along x", (x0, y0), (x1, y0), -1), Dim("size_y", "plan", "along y", (x0, y0), (x0, y1), -1)]
