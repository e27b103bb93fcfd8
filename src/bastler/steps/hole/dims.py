"""The dimensions of a hole pattern on the sheet."""

from __future__ import annotations

from bastler.shapes import ArcPattern, CirclePattern, Frame, FramePattern, GridPattern, LinePattern, Pattern, RingsPattern
from bastler.steps.base import Dim

ORIGIN = (0.0, 0.0)
_PLACED = LinePattern | GridPattern | FramePattern | CirclePattern | RingsPattern | ArcPattern


def pattern_dims(pattern: Pattern) -> tuple[Dim, ...]:
    """What can be measured in the plan; fields are called `pattern.…`."""
    if isinstance(pattern, _PLACED):
        place = (pattern.x, pattern.y)
        own = (
            Dim("pattern.x", "plan", "along x", ORIGIN, place, -1),
            Dim("pattern.y", "plan", "along y", ORIGIN, place, -1),
        )
        return own + _inner(pattern)
    return ()


def _inner(pattern: LinePattern | GridPattern | FramePattern | CirclePattern | RingsPattern | ArcPattern) -> tuple[Dim, ...]:
    turned = pattern.angle if isinstance(pattern, LinePattern | GridPattern | FramePattern) else 0.0
    frame = Frame(pattern.x, pattern.y, turned)
    if isinstance(pattern, LinePattern):
        reach = pattern.pitch if pattern.by == "pitch" else pattern.length
        return (Dim(f"pattern.{pattern.by}", "plan", "aligned", frame.place(0, 0), frame.place(reach, 0)),)
    if isinstance(pattern, FramePattern):
        a, b, c = frame.place(0, pattern.width), frame.place(pattern.length, pattern.width), frame.place(pattern.length, 0)
        return (Dim("pattern.length", "plan", "aligned", a, b), Dim("pattern.width", "plan", "aligned", b, c))
    if isinstance(pattern, GridPattern):
        points = pattern.all()
        dims = []
        if pattern.columns > 1:
            dims.append(Dim("pattern.column_pitch", "plan", "aligned", points[-2], points[-1]))
        if pattern.rows > 1:
            high = frame.place(0, pattern.row_pitch)
            dims.append(Dim("pattern.row_pitch", "plan", "aligned", frame.place(0, 0), high))
        return tuple(dims)
    r = pattern.diameter / 2
    a, b = Frame(pattern.x, pattern.y, 45).place(-r, 0), Frame(pattern.x, pattern.y, 45).place(r, 0)
    return (Dim("pattern.diameter", "plan", "diameter", a, b),)
