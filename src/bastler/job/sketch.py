"""What the sheet draws when the card of the stock or of a holding is selected."""

from __future__ import annotations

import math

from bastler.job.planned import PlannedHolding
from bastler.shapes import Box
from bastler.steps import Dim, Sketch, TurnSketch


def turn_setup_sketch(held: PlannedHolding) -> TurnSketch:
    """The stock in the chuck with its lengths and diameters."""
    stock, jaws_at = held.bar, held.jaws_at
    z0, _, z1, outer = held.turned.raw.bounds
    dims = [
        Dim("length", "half", "length", (z1, outer), (z0, outer)),
        *([] if held.chuck.handed else [Dim("stick_out", "half", "length", (z1, outer), (jaws_at, outer))]),
        Dim("finished", "half", "length", (0.0, outer), (-stock.finished, outer)),
    ]
    if stock.over_front > 0:
        dims.append(Dim("over_front", "half", "length", (z1, outer), (0.0, outer)))
    if stock.over_back > 0:
        dims.append(Dim("over_back", "half", "length", (-stock.finished, outer), (-stock.finished - stock.over_back, outer)))
    field = {"hex": "across_flats"}.get(stock.form, "diameter")
    if stock.form != "forging":
        dims.append(Dim(field, "half", "diameter", (z1, outer), (jaws_at, outer)))
    if stock.form == "tube":
        dims.append(Dim("bore", "half", "diameter", (z1, stock.bore / 2), (jaws_at, stock.bore / 2)))
    return TurnSketch(dims=tuple(dims))


def setup_sketch(held: PlannedHolding, *, across: bool = False) -> Sketch:
    """Section through the middle of the stock, with the dimensions of block, zero and jaws; `across` the jaws, so that they are
    seen."""
    box, stock, holding = held.flat.stock, held.block, held.vise
    lo, hi = box.lo, box.hi
    width = hi[1] - lo[1] if across else hi[0] - lo[0]
    middle = ((box.centre[0], lo[1]), (box.centre[0], hi[1]))
    dims = [
        *_outside(box),
        Dim("size_z", "section", "depth", (width, hi[2]), (width, lo[2])),
    ]
    over, _ = stock.allowances(held.lie)
    if over > 0:
        field = "over_bottom" if held.lie.upside_down else "over_top"
        dims.append(Dim(field, "section", "depth", (width * 0.72, hi[2]), (width * 0.72, hi[2] - over)))
    if holding.zero == "own":
        front = (lo[0] + stock.over_sides, lo[1] + stock.over_sides)
        dims.append(Dim("zero_x", "plan", "along x", front, (0.0, 0.0), 1))
        dims.append(Dim("zero_y", "plan", "along y", front, (0.0, 0.0), 1))
    if held.flat.jaws and holding.grip:
        high = held.flat.jaws[0].hi[2]
        dims.append(Dim("grip", "section", "depth", (width, high), (width, high - holding.grip)))
    return Sketch(section=middle if across else box.middle, dims=tuple(dims))


def _outside(stock: Box) -> list[Dim]:
    """The dimensions of a block or a disc, seen from above."""
    (x0, y0, _), (x1, y1, _) = stock.lo, stock.hi
    if stock.round:
        r, (x, y) = (x1 - x0) / 2 * math.sqrt(0.5), stock.centre
        return [Dim("diameter", "plan", "diameter", (x - r, y - r), (x + r, y + r))]
    return [
        Dim("size_x", "plan", "along x", (x0, y0), (x1, y0), -1),
        Dim("size_y", "plan", "along y", (x0, y0), (x0, y1), -1),
    ]
