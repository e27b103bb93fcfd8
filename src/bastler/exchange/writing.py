"""Outlines written as DXF (R2010, lines and arcs) and as SVG."""

from __future__ import annotations

import html
import io
import math
import re
from collections.abc import Sequence

from bastler.exchange.drawing import DrawingError
from bastler.language import tr
from bastler.shapes import AnyOutline, Arc, Segment, draw
from bastler.shapes.chain import points_on
from bastler.units import Unit

MARGIN = 0.05
NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")
"""Signs that XML 1.0 has not, and that no escape lets in."""


def outline_text(outline: AnyOutline, unit: Unit, kind: str) -> str:
    """One outline as the text of a "dxf" or "svg" file; a half section has X along the axis and Y as the radius. DrawingError
    when it is not whole."""
    drawn = draw(outline)
    if drawn.troubles or not drawn.chain:
        raise DrawingError(tr("the outline is not whole yet."))
    write = {"dxf": dxf_text, "svg": svg_text}[kind]
    return write({outline.name: drawn.chain}, unit)


def dxf_text(chains: dict[str, Sequence[Segment]], unit: Unit) -> str:
    """The text of a DXF file: a layer for each chain by its name."""
    from ezdxf.filemanagement import new  # a second to load, see reading.py

    document = new("R2010", units=4 if unit == "mm" else 1)
    space = document.modelspace()
    for name, chain in chains.items():
        layer = "".join(c if c.isalnum() or c in "-_ " else "_" for c in name)[:60] or "outline"
        if layer not in document.layers:
            document.layers.add(layer)
        for s in chain:
            if not isinstance(s, Arc):
                space.add_line(s.start, s.end, dxfattribs={"layer": layer})
                continue
            r = math.dist(s.start, s.centre)
            a, b = (_degrees(s.centre, p) for p in (s.start, s.end))
            if s.sweep() > 2 * math.pi - 1e-9:
                space.add_circle(s.centre, r, dxfattribs={"layer": layer})
            else:
                begin, end = (a, b) if s.ccw else (b, a)
                space.add_arc(s.centre, r, begin, end, dxfattribs={"layer": layer})
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


def _degrees(centre: tuple[float, float], p: tuple[float, float]) -> float:
    return math.degrees(math.atan2(p[1] - centre[1], p[0] - centre[0]))


def svg_text(chains: dict[str, Sequence[Segment]], unit: Unit) -> str:
    """The text of an SVG file to scale; arcs stay arcs."""
    points = [p for chain in chains.values() for p in points_on(chain, 0.05)]
    us, vs = [p[0] for p in points], [p[1] for p in points]
    size = max(max(us) - min(us), max(vs) - min(vs)) or 1.0
    m = MARGIN * size
    box = (min(us) - m, -max(vs) - m, max(us) - min(us) + 2 * m, max(vs) - min(vs) + 2 * m)
    word = "mm" if unit == "mm" else "in"
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{box[2]:.6g}{word}" height="{box[3]:.6g}{word}" '
        f'viewBox="{box[0]:.9g} {box[1]:.9g} {box[2]:.9g} {box[3]:.9g}">'
    ]
    for name, chain in chains.items():
        title = html.escape(NO_XML.sub("", name), quote=False)
        lines.append(
            f'<path d="{_path(chain)}" fill="none" stroke="#1D2A33" stroke-width="{size / 400:.4g}"><title>{title}</title></path>'
        )
    return "\n".join([*lines, "</svg>", ""])


def _path(chain: Sequence[Segment]) -> str:
    """The commands of a path, Y turned round as SVG has it."""
    u, v = chain[0].start
    words = [f"M{u:.9g} {-v:.9g}"]
    for s in chain:
        if not isinstance(s, Arc):
            words.append(f"L{s.end[0]:.9g} {-s.end[1]:.9g}")
            continue
        r, sweep = math.dist(s.start, s.centre), 0 if s.ccw else 1
        if s.sweep() > 2 * math.pi - 1e-9:  # a whole circle needs two arcs
            far = (2 * s.centre[0] - s.start[0], 2 * s.centre[1] - s.start[1])
            words.append(f"A{r:.9g} {r:.9g} 0 0 {sweep} {far[0]:.9g} {-far[1]:.9g}")
            words.append(f"A{r:.9g} {r:.9g} 0 0 {sweep} {s.end[0]:.9g} {-s.end[1]:.9g}")
        else:
            large = 1 if s.sweep() > math.pi else 0
            words.append(f"A{r:.9g} {r:.9g} 0 {large} {sweep} {s.end[0]:.9g} {-s.end[1]:.9g}")
    return " ".join(words)
