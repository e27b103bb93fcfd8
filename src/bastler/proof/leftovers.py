"""What stays that nobody takes: allowances of the stock, what a tool is too wide for, the land beside an outline. Where it can be
meant in two ways both are offered."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING

import shapely

from bastler.job import PlannedHolding, PlannedStep
from bastler.job.promises import WORDS, Where
from bastler.language import sayable, tr
from bastler.proof.remark import Cure, Remark
from bastler.proof.unkept import Unkept
from bastler.shapes import Flat, Revolved
from bastler.shapes.kinds import Region
from bastler.shapes.reach import not_entered
from bastler.shapes.united import united
from bastler.steps import OutlineMilling, RestMachining
from bastler.steps.context import FlatContext
from bastler.steps.mill.ringed import RingedStep
from bastler.tools import Tool
from bastler.units import Kind, Unit, figures, grouped, with_unit
from bastler.units.kinds import suffix

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
FEW = 50
"""Pieces that are looked at one by one."""
LEAST_LAND_MM = 0.05
"""Land thinner than this is a hair at the stock's edge."""


def leftovers(proof: AnyProof, held: PlannedHolding | None) -> list[Remark]:
    """Remarks on what stays of the allowances, where tools are too wide, and of the land beside outlines."""
    found = [_raw(proof, one, held.holding.id if held else "") for one in proof.unkept]
    if held is not None:
        found += [*_corners(held), *_narrow(held), *(_lands(held) if not held.job.turns else ())]
    return found


def _raw(proof: AnyProof, one: Unkept, place: str) -> Remark:
    unit = proof.scene.unit
    high = with_unit(one.height, Kind.LENGTH, unit)
    much = _much(one.volume, unit, "³")
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
    for planned, step, ctx, tool in _milled(held):
        radius = step.too_round(ctx)
        if radius is None or any(_goes_into(other, step, radius) for other in held.steps):
            continue
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
            field=_owner(step),
            amount=radius,
            cure=_with_tool(step, next(_mills(ctx, step, 2 * (radius + HAIR)), None)),
        )


def _narrow(held: PlannedHolding) -> Iterator[Remark]:
    """Passages and notches that the tool is too wide to get into, with what lies behind them, where no other step takes it."""
    for planned, step, ctx, tool in _milled(held):
        stays = _not_entered(held, planned, step, tool)
        if not stays:
            continue
        fits = next((t for t in _mills(ctx, step, tool.diameter - HAIR) if not _not_entered(held, planned, step, t)), None)
        much = sum(piece.area for _, piece in stays)
        z, spot = stays[0][0], stays[0][1].representative_point()
        yield Remark(
            level="caution",
            code="narrow",
            text=tr(
                "{much} stay where T{station} is too wide to get in.",
                much=_much(much, ctx.unit, "²"),
                station=tool.station,
            ),
            step=planned.step.id,
            field=_owner(step),
            amount=much,
            place=(spot.x, spot.y, z),
            cure=_with_tool(step, fits),
        )


def _milled(held: PlannedHolding) -> Iterator[tuple[PlannedStep, RingedStep | OutlineMilling, FlatContext, Tool]]:
    """The steps that go along walls, with what they look at and the tool that leaves the walls."""
    for planned in held.steps:
        step, ctx = planned.filled, planned.ctx
        if isinstance(step, RestMachining) or not isinstance(step, RingedStep | OutlineMilling):
            continue
        if isinstance(ctx, FlatContext) and planned.stages and (tool := step.last_tool(ctx)) is not None:
            yield planned, step, ctx, tool


def _not_entered(
    held: PlannedHolding, planned: PlannedStep, step: RingedStep | OutlineMilling, tool: Tool
) -> list[tuple[float, Region]]:
    """The pieces that a tool does not get to and that stay, the largest first, each with the height of its floor."""
    ctx, least = planned.flat, planned.ctx.mm(LEAST_LAND_MM)
    found: list[tuple[float, Region]] = []
    for z, region in step.to_open(ctx):
        whole = not_entered(region, tool.diameter / 2, least)
        gone = _gone(held, planned, z) if not whole.is_empty else []
        pieces = shapely.get_parts(whole)
        # few are small, and what is gone may have thousands of chords; of many there are more chords still
        for piece in pieces if len(pieces) < FEW else [whole]:
            rest = piece.intersection(ctx.stock.plan)
            for other in gone:
                rest = rest if rest.is_empty else rest.difference(other)
            parts = shapely.get_parts(rest)
            found += [(z, p) for p in parts if p.geom_type == "Polygon" and not p.buffer(-least).is_empty]
    return sorted(found, key=lambda entry: -entry[1].area)


def _gone(held: PlannedHolding, planned: PlannedStep, floor: float) -> list[Region]:
    """What is gone down to a height when all steps on the plane of one are done."""
    same = [p for p in held.steps if p.stages and _plane(p) == _plane(planned)]
    gone: list[Region] = []
    for r in (*planned.flat.before, *(r for p in same for r in p.removals)):
        if isinstance(r, Flat) and r.floor <= floor + HAIR:
            gone.append(r.region)
        elif isinstance(r, Revolved) and (radius := r.open_to(floor + HAIR)) > 0:
            gone.append(shapely.Point(r.x, r.y).buffer(radius))
    return gone


def _plane(planned: PlannedStep) -> tuple[object, ...]:
    return tuple(getattr(planned.filled, name, None) for name in ("where_on", "at_c"))


def _owner(step: RingedStep | OutlineMilling) -> str:
    """The address of the tool that leaves the walls."""
    return f"step:{step.id}.{'finish_tool' if step.finish == 'yes' else 'tool'}"


def _mills(ctx: FlatContext, step: RingedStep | OutlineMilling, widest: float) -> Iterator[Tool]:
    """The end mills there are up to a diameter, those first that reach the floor, the wider before the narrower."""
    mills = [t for t in ctx.tools if isinstance(t, Tool) and t.kind == "end-mill" and t.diameter <= widest]
    yield from sorted(mills, key=lambda t: (t.flute_length < step.depth, -t.diameter))


def _with_tool(step: RingedStep | OutlineMilling, tool: Tool | None) -> Cure | None:
    return Cure(tr("Use T{station}", station=tool.station), _owner(step), tool.id) if tool is not None else None


def _much(amount: float, unit: Unit, power: str) -> str:
    """An area or a volume as it is said."""
    return f"{grouped(amount, NO_BREAK) if amount >= 10 else figures(amount, 3)}{NO_BREAK}{suffix(Kind.LENGTH, unit)}{power}"


def _goes_into(other: PlannedStep, step: RingedStep | OutlineMilling, radius: float) -> bool:
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
