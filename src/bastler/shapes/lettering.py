"""Letters of single strokes, for engraving: our own, drawn of lines and arcs on a grid on which capitals are six high.

A glyph is written as strokes parted by `;`, a stroke as points `x,y`; a third number makes what leads to the point an arc: the
tangent of a quarter of its angle, positive counter-clockwise. `w2.6` is an empty glyph of that width.
"""

from __future__ import annotations

import functools
import itertools
import json
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Literal

from bastler.shapes.frame import Frame
from bastler.shapes.rounded import Arc, Line, Segment

CAPITAL = 6.0
BETWEEN = 1.6
"""From one glyph to the next, on the grid."""
Chain = tuple[Segment, ...]
Align = Literal["left", "middle", "right"]


@functools.cache
def _glyphs() -> dict[str, str]:
    return dict(json.loads((Path(__file__).parent / "lettering.json").read_text("utf-8")))


def letters() -> str:
    """All signs there are."""
    return "".join(_glyphs())


@functools.cache
def glyph(sign: str) -> tuple[tuple[Chain, ...], float]:
    """The strokes of a sign on the grid, and its width. KeyError for one that there is not."""
    written = _glyphs()[sign]
    if written.startswith("w"):
        return (), float(written[1:])
    strokes = tuple(_stroke(part) for part in written.split(";"))
    ends = [p[0] for chain in strokes for s in chain for p in (s.start, s.end)]
    return strokes, max(ends)


def _stroke(written: str) -> Chain:
    points = [tuple(float(number) for number in point.split(",")) for point in written.split()]
    made: list[Segment] = []
    for a, b in itertools.pairwise(points):
        start, end = (a[0], a[1]), (b[0], b[1])
        made.append(bulged(start, end, b[2]) if len(b) > 2 else Line(start, end))
    return tuple(made)


def bulged(start: tuple[float, float], end: tuple[float, float], bulge: float) -> Arc:
    """The arc between two points; `bulge` is the tangent of a quarter of its angle, positive counter-clockwise, not 0."""
    (ax, ay), (bx, by) = start, end
    half = (1 - bulge * bulge) / (4 * bulge)
    centre = ((ax + bx) / 2 - half * (by - ay), (ay + by) / 2 + half * (bx - ax))
    return Arc(start, end, centre, bulge > 0)


def width_of(text: str, height: float, spacing: float = 1.0) -> float:
    """How wide a text is, capitals `height` high, the space between letters `spacing` times the usual."""
    widths = [glyph(sign)[1] for sign in text]
    return (sum(widths) + BETWEEN * spacing * max(len(widths) - 1, 0)) * height / CAPITAL


def placed(chain: Chain, frame: Frame, scale: float) -> Chain:
    """A chain of the grid put into a frame."""

    def put(p: tuple[float, float]) -> tuple[float, float]:
        return frame.place(p[0] * scale, p[1] * scale)

    return tuple(
        Line(put(s.start), put(s.end)) if isinstance(s, Line) else Arc(put(s.start), put(s.end), put(s.centre), s.ccw)
        for s in chain
    )


def straight(text: str, frame: Frame, height: float, align: Align = "left", spacing: float = 1.0) -> list[Chain]:
    """The strokes of a text along the frame's u axis; `align` says what of it lies at the origin."""
    k = height / CAPITAL
    at = -_before(align) * width_of(text, height, spacing)
    found: list[Chain] = []
    for sign in text:
        strokes, width = glyph(sign)
        here = Frame(*frame.place(at, 0.0), frame.angle)
        found += [placed(chain, here, k) for chain in strokes]
        at += (width + BETWEEN * spacing) * k
    return found


def on_arc(
    text: str,
    centre: tuple[float, float],
    radius: float,
    angle: float,
    height: float,
    align: Align = "middle",
    spacing: float = 1.0,
    *,
    inside: bool = False,
) -> list[Chain]:
    """The strokes of a text round a circle that its feet stand on: read from outside with its heads outward, clockwise, or,
    `inside`, counter-clockwise with its heads toward the middle. `angle` in degrees is where it is aligned to."""
    k = height / CAPITAL
    at = -_before(align) * width_of(text, height, spacing)
    found: list[Chain] = []
    for sign in text:
        strokes, width = glyph(sign)
        middle = at + width * k / 2
        turn = math.degrees(middle / radius)
        here = angle + turn if inside else angle - turn
        facing = here + 90.0 if inside else here - 90.0
        foot = Frame(centre[0], centre[1], here).place(radius, 0.0)
        start = Frame(foot[0], foot[1], facing).place(-width * k / 2, 0.0)
        found += [placed(chain, Frame(start[0], start[1], facing), k) for chain in strokes]
        at += (width + BETWEEN * spacing) * k
    return found


def _before(align: Align) -> float:
    return {"left": 0.0, "middle": 0.5, "right": 1.0}[align]


def lacking(text: str) -> Sequence[str]:
    """The signs of a text that there are no strokes for, each once."""
    return [sign for sign in dict.fromkeys(text) if sign not in _glyphs()]
