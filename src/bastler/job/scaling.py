"""A step made larger or smaller about a point: its sizes and places seen from above, its pattern and its outlines. Heights,
holes, tools and allowances stay what they are: the step is planned anew, with the tool it has."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, TypeVar

import msgspec

from bastler.ask import questions_of
from bastler.shapes import PlanOutline, PointsPattern
from bastler.steps import AnyStep, FlatContext
from bastler.units import Kind

S = TypeVar("S", bound=msgspec.Struct)
ALONG = {"x", "begin_x", "cx", "qx", "pole_x"}, {"y", "begin_y", "cy", "qy", "pole_y"}
"""Answers that are places: along X, along Y."""
SIZES = {"length", "width", "diameter", "corner_radius", "corner_leg", "corners", "flats", "height"}
"""Answers of steps that are sizes seen from above."""
HOLE = "Hole"


def scaled_step(step: AnyStep, ctx: FlatContext, factor: float, about: tuple[float, float]) -> tuple[AnyStep, FlatContext]:
    """The step and what it looks at, scaled about a point."""
    patterns = {ident: _scaled_pattern(p, factor, about) for ident, p in ctx.patterns.items()}
    outlines = {ident: scaled(o, factor, about) for ident, o in ctx.outlines.items()}
    outlines = {
        ident: msgspec.structs.replace(o, segments=tuple(scaled(s, factor, about) for s in o.segments))
        for ident, o in outlines.items()
    }
    made: Any = _without_typed(scaled(step, factor, about, only=SIZES))
    islands = getattr(step, "islands", ())
    if islands:
        made = msgspec.structs.replace(made, islands=tuple(scaled(i, factor, about, only=SIZES) for i in islands))
    return made, replace(ctx, patterns=patterns, outlines=outlines)


def scaled(struct: S, factor: float, about: tuple[float, float], only: set[str] | None = None) -> S:
    """A struct with its lengths scaled: places about a point, of the others those in `only`, all where that is None."""
    changed: dict[str, Any] = {}
    for question in questions_of(type(struct)):
        value = getattr(struct, question.name)
        if question.kind is not Kind.LENGTH or not isinstance(value, int | float) or question.group == HOLE:
            continue
        axis = next((k for k in (0, 1) if question.name in ALONG[k]), None)
        if axis is not None:
            changed[question.name] = about[axis] + factor * (value - about[axis])
        elif only is None or question.name in only:
            changed[question.name] = factor * value
    return msgspec.structs.replace(struct, **changed) if changed else struct


def _scaled_pattern(pattern: Any, factor: float, about: tuple[float, float]) -> Any:
    if isinstance(pattern, PointsPattern):
        points = tuple((about[0] + factor * (x - about[0]), about[1] + factor * (y - about[1])) for x, y in pattern.points)
        return msgspec.structs.replace(pattern, points=points)
    return scaled(pattern, factor, about)


def _scaled_outline(outline: PlanOutline, factor: float, about: tuple[float, float]) -> PlanOutline:
    segments = tuple(scaled(s, factor, about) for s in outline.segments)
    return msgspec.structs.replace(scaled(outline, factor, about), segments=segments)


def _without_typed(step: S) -> S:
    """What was typed says the old numbers."""
    return msgspec.structs.replace(step, typed={}) if hasattr(step, "typed") else step
