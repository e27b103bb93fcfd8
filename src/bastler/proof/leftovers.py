"""What stays that nobody takes: allowances of the stock, and the land beside an outline. Each with both ways it can be meant."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

from bastler.job import PlannedHolding, PlannedStep
from bastler.job.promises import WORDS, Where
from bastler.language import sayable, tr
from bastler.proof.remark import Cure, Remark
from bastler.proof.unkept import Unkept
from bastler.shapes import Flat
from bastler.shapes.united import united
from bastler.steps import OutlineMilling, RestMachining
from bastler.steps.context import FlatContext
from bastler.steps.mill.ringed import RingedStep
from bastler.tools import Tool
from bastler.units import Kind, figures, grouped, with_unit

if TYPE_CHECKING:
    from bastler.proof.result import AnyProof

ADDS: dict[Where, tuple[str, str]] = {
    "top": (sayable("Face the top"), "add:facing"),
    "bottom": (sayable("Face the underside"), "add:facing"),
    "sides": (sayable("Mill the sides"), "add:sides"),
    "front": (sayable("Face the end"), "add:turn-facing"),
    "back": (sayable("Face the back"), "add:turn-facing"),
}
STAYS: dict[Where, str] = {
    "top": "stock.top_comes",
    "bottom": "stock.bottom_comes",
    "sides": "stock.sides_come",
    "front": "stock.front_comes",
    "back": "stock.back_comes",
}
NO_BREAK = "\u00a0"
"""A blank at which no line ends."""
HAIR = 1e-6
LEAST_LAND_MM = 0.05
"""Land thinner than this is a hair at the stock's edge."""


def leftovers(proof: AnyProof, held: PlannedHolding | None) -> list[Remark]:
    """Remarks on what stays of the allowances, and of the land beside outlines."""
    found = [_raw(proof, one, held.holding.id if held else "") for one in proof.unkept]
    found += list(_corners(held)) if held is not None else []
    return found + (list(_lands(held)) if held is not None and not held.job.turns else [])


def _raw(proof: AnyProof, one: Unkept, place: str) -> Remark:
    unit = proof.scene.unit
    high = with_unit(one.height, Kind.LENGTH, unit)
    much = grouped(one.volume, NO_BREAK) if one.volume >= 10 else figures(one.volume, 3)
    much = f"{much}{NO_BREAK}{'mm³' if unit == 'mm' else 'in³'}"
    if one.stays:
        text = tr(
            "{high} of raw stock stays {words} for the next holding, {much}, as the setup says.",
            high=high,
            words=tr(WORDS[one.where]),
            much=much,
        )
        return Remark(level="note", code="raw-stays", text=text, amount=one.height, place=one.place, field=STAYS[one.where])
    says, address = tr(ADDS[one.where][0]), ADDS[one.where][1]
    if address != "add:sides" and place:
        address = f"{address}:{place}"
    return Remark(
        level="caution",
        code="raw-left",
        text=tr(
            "{high} of raw stock stays {words}, {much}: no step takes it off.", high=high, words=tr(WORDS[one.where]), much=much
        ),
        amount=one.height,
        place=one.place,
        field=STAYS[one.where],
        cure=Cure(says, address, None),
        other=Cure(tr("It stays on purpose"), STAYS[one.where], "stays"),
    )


def _corners(held: PlannedHolding) -> Iterator[Remark]:
    """Rounded inner corners of an outline that the tool is too wide for, and that no other step along the same outline takes."""
    for planned in held.steps:
        step, ctx = planned.filled, planned.ctx
        if not isinstance(step, RingedStep) or not isinstance(ctx, FlatContext) or not planned.stages:
            continue
        if isinstance(step, RestMachining):
            continue
        radius, tool = step.too_round(ctx), step.last_tool(ctx)
        if radius is None or tool is None or any(_goes_into(other, step, radius) for other in held.steps):
            continue
        fits = [t for t in ctx.tools if isinstance(t, Tool) and t.kind == "end-mill" and t.diameter / 2 <= radius + HAIR]
        fits = [t for t in fits if t.flute_length >= step.depth] or fits
        best = max(fits, key=lambda t: t.diameter, default=None)
        owner = f"step:{planned.step.id}.{'finish_tool' if step.finish == 'yes' else 'tool'}"
        said = [with_unit(r, Kind.LENGTH, ctx.unit) for r in (radius, tool.diameter / 2)]
        yield Remark(
            level="caution",
            code="corners",
            text=tr(
                "Inner corners of R{said} come out with R{said_2}: T{station} is too wide for them.",
                said=said[0],
                said_2=said[1],
                station=tool.station,
            ),
            step=planned.step.id,
            field=owner,
            amount=radius,
            cure=Cure(tr("Use T{station}", station=best.station), owner, best.id) if best is not None else None,
        )


def _goes_into(other: PlannedStep, step: RingedStep, radius: float) -> bool:
    """Does another step along the same outline go into corners of a radius?"""
    filled = other.filled
    if not isinstance(filled, RestMachining) or not isinstance(other.ctx, FlatContext) or not other.stages:
        return False
    if filled.outline != getattr(step, "outline", None):
        return False
    tool = filled.last_tool(other.ctx)
    return tool is not None and tool.diameter / 2 <= radius + HAIR and filled.floor <= step.floor + HAIR


def _lands(held: PlannedHolding) -> Iterator[Remark]:
    for planned in held.steps:
        if isinstance(planned.filled, OutlineMilling) and planned.stages and planned.step.land is None:  # type: ignore[attr-defined]
            yield from _land(held, planned, planned.filled)


def _land(held: PlannedHolding, planned: PlannedStep, filled: OutlineMilling) -> Iterator[Remark]:
    """The land on the tool's side of a closed outline, where no step goes as deep as this one."""
    side, floor = filled.tool_side(planned.flat), filled.floor
    gone = [r.region for r in held.removals if isinstance(r, Flat) and r.floor <= floor + 1e-9]
    hair = planned.ctx.mm(LEAST_LAND_MM)
    stands = side.difference(united(gone)) if gone else side
    core = stands.buffer(-hair)
    if core.is_empty:
        return
    spot = core.representative_point()
    owner = f"step:{planned.step.id}.land"
    yield Remark(
        level="caution",
        code="land",
        text=tr("Beside the outline the stock stays standing. Is a groove along it meant, or is it to be cleared to the stock?"),
        step=planned.step.id,
        field=owner,
        amount=float(stands.area),
        place=(spot.x, spot.y, planned.flat.stock.hi[2]),
        cure=Cure(tr("Clear to the stock"), owner, "clear"),
        other=Cure(tr("A groove along it"), owner, "groove"),
    )
