"""The outline of a milling tool from the side, for all that draws it."""

from __future__ import annotations

from bastler.tools import Profile, Tool


def tool_outline(tool: Tool) -> list[tuple[list[tuple[float, float]], str]]:
    """The tool from the side about its tip: polygons (x, z) with "edge", "shank" or "holder"."""
    p = tool.profile
    if tool.kind in ("tap", "thread-mill"):  # their teeth, which the proof does not cut with
        r = tool.diameter / 2
        p = Profile(r - min(tool.pitch, r) / 2, 0.0, 2.0, r)
    steps = 8
    right = [(0.0, 0.0)]
    if p.corner > 0:
        right += [(p.flat + p.corner * k / steps, p.height(p.flat + p.corner * k / steps)) for k in range(steps + 1)]
    else:
        right += [(p.flat, 0.0), (p.radius, p.height(p.radius))]
    right.append((p.radius, max(tool.flute_length, p.height(p.radius))))
    edge = right + [(-x, z) for x, z in reversed(right)]
    s, h = tool.shank_diameter / 2, tool.holder.diameter / 2
    f, o, top = tool.flute_length, tool.stick_out, tool.stick_out + tool.holder.length
    return [
        (edge, "edge"),
        ([(-s, f), (s, f), (s, o), (-s, o)], "shank"),
        ([(-h, o), (h, o), (h, top), (-h, top)], "holder"),
    ]
