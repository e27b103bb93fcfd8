"""Reaming drilled holes to size: slowly down, slowly up."""

from __future__ import annotations

from typing import Annotated, ClassVar

from bastler.ask import Answers, ask
from bastler.language import sayable, tr
from bastler.steps.base import step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, propose_vc
from bastler.steps.hole.to_size import ToSizeStep
from bastler.units import Kind

SPEED = 0.35
"""Of the cutting speed of a drill of the same material: a reamer chatters above it."""
FEED = 0.02
"""Feed a turn as a share of the diameter: with less it rubs and wears, and does not cut."""


def _vc(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    found = propose_vc(tool, ctx, s.n)
    return found if found is None or s.n is not None else round(SPEED * found, 1)


def _vf(s: Answers, ctx: FlatContext) -> float | None:
    tool = ctx.tool(s.tool)
    return round(FEED * tool.diameter * s.n, 1 if ctx.unit == "mm" else 2) if tool and s.n else None


@step("Ream", "Holes", "Drilled holes to size", rank=8)
class Reaming(ToSizeStep, frozen=True, kw_only=True, tag="reaming"):
    """Answers of reaming."""

    KIND: ClassVar[str] = "reamer"
    CALLED: ClassVar[str] = sayable("reamer")
    DOES: ClassVar[str] = sayable("ream")
    STAGE: ClassVar[str] = "ream"
    LEAST: ClassVar[float] = 0.05
    MOST: ClassVar[float] = 0.5

    vc: Annotated[
        float | None,
        ask("Cutting speed", Kind.CUTTING_SPEED, TOOL, above=0, propose=_vc, symbol="vc", helps="A third of a drill's."),
    ] = None
    vf: Annotated[float | None, ask("Feed rate", Kind.FEED_RATE, TOOL, above=0, propose=_vf, symbol="vf")] = None

    def sources(self, ctx: FlatContext) -> dict[str, str]:
        found = super().sources(ctx)
        return (
            found
            | {
                "vc": tr("{found} × {speed:g} for reaming", found=found["vc"], speed=SPEED),
                "vf": tr("{feed:g} × D a turn × n.", feed=FEED),
            }
            if found
            else {}
        )
