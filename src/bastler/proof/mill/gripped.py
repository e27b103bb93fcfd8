"""Is there anything left where the jaws of a later holding stand? A part that is turned over has pockets and narrow places."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np
import shapely

from bastler.job import PlannedHolding
from bastler.job.part import FlatView, Slab, levels, slab
from bastler.language import tr, tr_as
from bastler.proof.remark import Level, Remark
from bastler.shapes import Box
from bastler.steps import FlatContext
from bastler.units import Kind, with_unit

THIN_MM = 3.0
"""A wall that a jaw presses on gives way when it is no thicker."""
FACE_MM = 0.2
"""As deep behind a jaw's face the part is looked at."""
POOR, NONE = 0.5, 0.15
"""Of the length along a jaw, or of the height of the grip: below the one share it is a caution, below the other a stop."""
LINES = 97
"""Lines across the vise along which walls are measured."""


def grip_remarks(held: PlannedHolding) -> list[Remark]:
    """What is wrong with how a holding grips the part as the holdings before leave it."""
    ctx = held.ctx
    if not isinstance(ctx, FlatContext) or not ctx.jaws or not (ctx.before or ctx.under):
        return []
    return [remark for side in ("front", "back") for remark in _at_jaw(held, side)]


def _at_jaw(held: PlannedHolding, side: str) -> Iterator[Remark]:
    """What one jaw finds, the worst alone."""
    which = tr_as("jaw", "front") if side == "front" else tr_as("jaw", "back")
    ctx, view = held.flat, FlatView(tuple(held.flat.before), tuple(held.flat.under))
    jaw: Box = ctx.jaws[0 if side == "front" else 1]
    low, high = jaw.hi[2] - (held.vise.grip or 0.0), jaw.hi[2]
    between, deep = slab(ctx.stock, view, low, high), ctx.mm(FACE_MM)
    y, inward = (jaw.hi[1], 1.0) if side == "front" else (jaw.lo[1], -1.0)
    face = shapely.box(jaw.lo[0], min(y, y + inward * deep), jaw.hi[0], max(y, y + inward * deep))
    raw = ctx.stock.plan.bounds
    raw_y = raw[1] if side == "front" else raw[3]
    raw_face = shapely.box(jaw.lo[0], min(raw_y, raw_y + inward * deep), jaw.hi[0], max(raw_y, raw_y + inward * deep))
    along = between.some.intersection(face).area / max(ctx.stock.plan.intersection(raw_face).area, 1e-12)
    if along < POOR:
        text = tr(
            "The {side} jaw has the part only along {along:.0%} of the length: the rest of it is cut away there.",
            side=which,
            along=along,
        )
        yield _remark(held, "jaw-on-nothing", _level(along), text, along, (ctx.stock.centre[0], y, high))
        return
    alike = itertools.pairwise([low, *(z for z in levels(view) if low < z < high), high])
    height = sum(b - a for a, b in alike if slab(ctx.stock, view, a, b).whole.intersection(face).area > 0.0)
    if height < POOR * (high - low):
        says, wanted = (with_unit(round(v, 3), Kind.LENGTH, held.job.unit) for v in (height, high - low))
        text = tr(
            "The {side} jaw has only {says} of the {wanted} that it grips: above and below that the part is narrower.",
            side=which,
            says=says,
            wanted=wanted,
        )
        yield _remark(held, "grip-too-little", _level(height / (high - low)), text, height, (ctx.stock.centre[0], y, high))
        return
    thin = _thinnest(between, jaw, y, inward, ctx.mm(FACE_MM))
    if thin is not None and thin[0] < ctx.mm(THIN_MM):
        says = with_unit(round(thin[0], 3), Kind.LENGTH, held.job.unit)
        text = tr("The {side} jaw presses on a wall {says} thick: there is a pocket behind it.", side=which, says=says)
        yield _remark(held, "jaw-on-pocket", "caution", text, thin[0], (thin[1], y, high))


def _level(share: float) -> Level:
    return "stop" if share < NONE else "caution"


def _remark(held: PlannedHolding, code: str, level: Level, text: str, amount: float, place: tuple[float, float, float]) -> Remark:
    return Remark(level=level, code=code, text=text, amount=amount, place=place, field=f"holding:{held.holding.id}.grip")


def _thinnest(between: Slab, jaw: Box, y: float, inward: float, deep: float) -> tuple[float, float] | None:
    """The thinnest wall behind a jaw and the X where it is; None where there is none that ends before the other jaw."""
    x0, _, x1, _ = between.some.bounds
    found = []
    far = between.some.bounds[3] if inward > 0 else between.some.bounds[1]
    for x in np.linspace(max(x0, jaw.lo[0]), min(x1, jaw.hi[0]), LINES)[1:-1]:
        met = between.whole.intersection(shapely.LineString([(x, y), (x, far)]))
        runs = [sorted((g.bounds[1], g.bounds[3]), reverse=inward < 0) for g in getattr(met, "geoms", [met]) if not g.is_empty]
        first = min(runs, key=lambda run: abs(run[0] - y), default=None)
        if first is not None and abs(first[0] - y) <= deep and abs(first[1] - far) > deep:
            found.append((abs(first[1] - first[0]), float(x)))
    return min(found, default=None)
