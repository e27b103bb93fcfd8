"""Reading DXF: lines, arcs, circles, polylines with bulges, ellipses, splines, blocks, layers and units.

A drawing is data from outside: whatever it holds, the answer is a `Drawing` or one sentence. What is not of the plane (texts,
dimensions, solids) is counted and passed over.
"""

from __future__ import annotations

import io
import itertools
import math
import time
from collections import Counter
from pathlib import Path
from typing import Any

from bastler.disk import read_bounded, reason_of
from bastler.exchange.drawing import Drawing, DrawingError, Hole, Piece
from bastler.exchange.fitting import fitted
from bastler.language import tr
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import reversed_chain
from bastler.units import Unit

LARGEST = 50_000_000
MOST_PIECES = 100_000
SECONDS = 20.0
DEEPEST = 8
MOST_KNOTS = 2000
FARTHEST = 1e6
"""No coordinate of a part is larger, in any unit."""
UNSOUND = (ValueError, TypeError, KeyError, IndexError, AttributeError, ArithmeticError)
UNITS: dict[int, tuple[str, float]] = {
    1: ("inch", 1.0), 2: ("inch", 12.0), 4: ("mm", 1.0), 5: ("mm", 10.0), 6: ("mm", 1000.0), 8: ("inch", 1e-6), 9: ("inch", 1e-3),
    13: ("mm", 1e-3), 14: ("mm", 100.0),
}  # fmt: skip
"""$INSUNITS of the DXF reference: unit and how many of it one is."""


def read_dxf(path: Path, unit: Unit, tolerance: float, *, assume: Unit | None = None) -> Drawing:
    """Reads a file into the unit asked for; free curves are fitted to `tolerance` (in that unit). A file that does not say its
    unit is taken to be in `assume`, by default the one asked for. DrawingError when it cannot be read."""
    from ezdxf import recover  # a third of a second to load: not before there is a drawing
    from ezdxf.lldxf.const import DXFError

    try:
        document, _ = recover.read(io.BytesIO(read_bounded(path, LARGEST)))
    except OSError as error:
        raise DrawingError(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error))) from error
    except (DXFError, RecursionError, AssertionError, *UNSOUND) as error:
        raise DrawingError(tr("{name} is not a DXF drawing.", name=path.name)) from error
    name, factor = UNITS.get(int(document.header.get("$INSUNITS", 0) or 0), ("", 1.0))
    known = name or assume or unit
    scale = factor * (1.0 if known == unit else 25.4 if known == "inch" else 1 / 25.4)
    reader = _Reader(scale, tolerance)
    try:
        reader.all(document.modelspace(), 0)
    except (DXFError, RecursionError, AssertionError, *UNSOUND) as error:
        raise DrawingError(tr("{name} holds something that is not sound: {error}.", name=path.name, error=error)) from error
    layers = sorted({p.layer for p in reader.pieces} | {h.layer for h in reader.holes})
    return Drawing(tuple(reader.pieces), tuple(reader.holes), tuple(layers), dict(reader.passed), name)


class _Reader:
    """Gathers what it finds, scaled."""

    def __init__(self, scale: float, tolerance: float) -> None:
        self.scale, self.tolerance = scale, tolerance
        self.pieces: list[Piece] = []
        self.holes: list[Hole] = []
        self.passed: Counter[str] = Counter()
        self.seen = 0
        self.until = time.monotonic() + SECONDS

    def all(self, entities: Any, depth: int) -> None:
        for entity in entities:
            self._count()
            kind = entity.dxftype()
            if kind == "INSERT" and depth < DEEPEST:
                self.all(entity.virtual_entities(), depth + 1)
            elif kind in ("LWPOLYLINE", "POLYLINE"):
                self._polyline(entity)
            else:
                self._one(entity, kind)

    def _count(self) -> None:
        """Blocks in blocks make of a small file a drawing without an end."""
        self.seen += 1
        if self.seen > MOST_PIECES:
            raise DrawingError(
                tr("The drawing has more than {most_pieces} lines, more than anyone would pick from.", most_pieces=MOST_PIECES)
            )
        if time.monotonic() > self.until:
            raise DrawingError(tr("The drawing takes longer than {seconds:g} s to read.", seconds=SECONDS))

    def _one(self, entity: Any, kind: str) -> None:
        layer = str(entity.dxf.layer)
        if kind == "CIRCLE":
            x, y = self._point(_world(entity, entity.dxf.center))
            radius, _ = _sound((abs(float(entity.dxf.radius)) * self.scale, 0.0))
            self.holes.append(Hole(layer, x, y, 2 * radius))
            return
        made = self._segments(entity, kind)
        if made is None:
            self.passed[kind] += 1
        elif made:
            self.pieces.append(Piece(layer, tuple(made)))

    def _segments(self, entity: Any, kind: str) -> list[Segment] | None:
        if kind == "LINE":
            a, b = self._point(entity.dxf.start), self._point(entity.dxf.end)
            return [Line(a, b)] if math.dist(a, b) > 1e-12 else []
        if kind == "ARC":
            a, b = self._point(entity.start_point), self._point(entity.end_point)
            centre = self._point(_world(entity, entity.dxf.center))
            return [Arc(a, b, centre, float(entity.dxf.extrusion.z) > 0)]
        if kind == "ELLIPSE":
            tool = entity.construction_tool()
            begin, end = float(tool.start_param), float(tool.end_param)
            end = end if end > begin + 1e-12 else end + 2 * math.pi
            return fitted(self._ellipse(tool), begin, end, self.tolerance)
        if kind == "SPLINE":
            spline = entity.construction_tool()
            first, last = float(spline.knots()[spline.order - 1]), float(spline.knots()[-spline.order])
            knots = sorted({first, last, *(float(k) for k in spline.knots() if first < k < last)})
            if len(knots) > MOST_KNOTS:
                raise ValueError("a curve of too many pieces")
            spans = itertools.pairwise(knots)
            return [s for a, b in spans for s in fitted(self._spline(spline), a, b, self.tolerance)]
        return None

    def _polyline(self, entity: Any) -> None:
        if entity.dxftype() == "POLYLINE" and not (entity.is_2d_polyline or entity.is_3d_polyline):
            self.passed["POLYLINE"] += 1
            return
        made: list[Segment] = []
        for part in entity.virtual_entities():
            self._count()
            made += self._segments(part, part.dxftype()) or []
        if made:
            self.pieces.append(Piece(str(entity.dxf.layer), tuple(_one_way(made))))

    def _point(self, p: Any) -> tuple[float, float]:
        return _sound((float(p[0]) * self.scale, float(p[1]) * self.scale))

    def _ellipse(self, tool: Any) -> Any:
        from ezdxf.math import Vec3

        major, minor, centre, k = Vec3(tool.major_axis), Vec3(tool.minor_axis), Vec3(tool.center), self.scale

        def at(t: float) -> tuple[tuple[float, float], tuple[float, float]]:
            p = centre + major * math.cos(t) + minor * math.sin(t)
            d = minor * math.cos(t) - major * math.sin(t)
            return _sound((p.x * k, p.y * k)), (d.x * k, d.y * k)

        return at

    def _spline(self, spline: Any) -> Any:
        k = self.scale

        def at(t: float) -> tuple[tuple[float, float], tuple[float, float]]:
            p, d = spline.derivative(t, 1)
            return _sound((p.x * k, p.y * k)), (d.x * k, d.y * k)

        return at


def _sound(p: tuple[float, float]) -> tuple[float, float]:
    """A point that a part may have. ValueError for others."""
    if not (abs(p[0]) < FARTHEST and abs(p[1]) < FARTHEST):
        raise ValueError("a place out of all bounds")
    return p


def _one_way(segments: list[Segment]) -> list[Segment]:
    """Segments of a polyline all run its way: arcs come counter-clockwise, whichever way it goes round."""
    if len(segments) < 2:
        return segments
    first, second = segments[:2]
    ends = (second.start, second.end)
    back = min(math.dist(first.start, p) for p in ends) < min(math.dist(first.end, p) for p in ends)
    made = reversed_chain([first]) if back else [first]
    for s in segments[1:]:
        back = math.dist(made[-1].end, s.end) < math.dist(made[-1].end, s.start)
        made += reversed_chain([s]) if back else [s]
    return made


def _world(entity: Any, p: Any) -> Any:
    """A point given in an entity's own plane, as the drawing has it."""
    from ezdxf.math import OCS, Vec3

    return OCS(entity.dxf.extrusion).to_wcs(Vec3(p))
