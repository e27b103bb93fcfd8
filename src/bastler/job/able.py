"""Tools that the material is too hard for."""

from __future__ import annotations

from typing import Any

from bastler.ask import Trouble
from bastler.cutting import MADE_OF
from bastler.language import tr
from bastler.steps import AnyStep
from bastler.tools import AnyTool, Tool


def able_troubles(full: AnyStep, ctx: Any) -> list[Trouble]:
    """Says so where a step's tool does not cut the material, with what is missing or, where it is there, the tool that would do.
    `full` is the step with its answers filled."""
    found = []
    for ident in dict.fromkeys(i for i in full.tools_used() if i):
        tool = ctx.tool(ident)
        if tool is None or tool.material in ctx.material.cut_by:
            continue
        field = next((name for name in full.__struct_fields__ if getattr(full, name) == ident), "tool")
        made_of = tr(" or ").join(tr(MADE_OF[m]) for m in ctx.material.cut_by)
        text = tr(
            "{name} is {names}: it does not cut {name_2}, {hardness}.",
            name=tool.called,
            names=tr(MADE_OF[tool.material]),
            name_2=ctx.material.called,
            hardness=ctx.material.hardness,
        )
        fits = next((t.id for t in ctx.tools if t.material in ctx.material.cut_by and _alike(t, tool, ctx.mm(0.001))), None)
        found.append(Trouble(field, text if fits else tr("{text} One of {made_of} is needed.", text=text, made_of=made_of), fits))
    return found


def _alike(a: AnyTool, b: AnyTool, near: float) -> bool:
    """Do two tools do the same work?"""
    if a.kind != b.kind:
        return False
    if isinstance(a, Tool) and isinstance(b, Tool):
        return abs(a.diameter - b.diameter) <= near and abs(a.pitch - b.pitch) <= near
    return getattr(a, "side", "") == getattr(b, "side", "") and getattr(a, "width", 0.0) == getattr(b, "width", 0.0)
