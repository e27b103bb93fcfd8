"""What is wrong with the hole pattern of a step."""

from __future__ import annotations

import msgspec

from bastler.ask import Trouble, problems
from bastler.bounds import POSITIONS
from bastler.steps import AnyStep, FlatContext


def pattern_troubles(step: AnyStep, ctx: FlatContext) -> list[Trouble]:
    """Of its answers, and of how many places it has."""
    pattern = ctx.patterns.get(getattr(step, "pattern", ""))
    if not isinstance(pattern, msgspec.Struct):
        return []
    found = [Trouble(f"pattern.{t.field}", t.text, t.fits) for t in problems(pattern)]
    over = POSITIONS.over(pattern.count_all())
    return found or ([Trouble("pattern.name", over)] if over else [])
