"""Ways to change an outline as a whole; what was given stays given as far as it can be said of the new one."""

from __future__ import annotations

import math
from typing import Any, Literal

import msgspec
import shapely

from bastler.bounds import SEGMENTS
from bastler.language import tr
from bastler.shapes import AnyOutline, AnySegment, PlanOutline, PlanSegment, TurnedOutline, TurnedSegment, draw
from bastler.shapes.chain import offset, points_on, reversed_chain
from bastler.shapes.fitted import CurveError, fitted
from bastler.shapes.outline import CORNER_FIELDS, fields_of
from bastler.shapes.rounded import Arc, Line
from bastler.shapes.solver import Candidate
from bastler.units import Unit
from bastler.units.expression import function_of

replace = msgspec.structs.replace
ENDS = ("far", "at")
Axis = Literal["x", "y"]

NEARLY_OFF = 0.004
"""A copy is nowhere nearer to its outline than it is to be off it but for so much of that."""


def fresh_segment_id(outline: AnyOutline) -> str:
    """An id that no segment of the outline has."""
    taken = {s.id for s in outline.segments}
    number = 1
    while f"g{number}" in taken:
        number += 1
    return f"g{number}"


def with_segments(outline: AnyOutline, segments: tuple[Any, ...]) -> AnyOutline:
    """The outline with other segments."""
    return replace(outline, segments=segments)


def inserted(outline: AnyOutline, at: int, kind: Literal["line", "arc"]) -> AnyOutline:
    """A segment more, before number `at` (counted from 0), nothing given of it yet."""
    cls = PlanSegment if isinstance(outline, PlanOutline) else TurnedSegment
    fresh = cls(id=fresh_segment_id(outline), kind=kind)
    return with_segments(outline, (*outline.segments[:at], fresh, *outline.segments[at:]))


def removed(outline: AnyOutline, at: int) -> AnyOutline:
    """The outline without a segment."""
    return with_segments(outline, (*outline.segments[:at], *outline.segments[at + 1 :]))


def become(outline: AnyOutline, at: int, kind: Literal["line", "arc"]) -> AnyOutline:
    """A line in place of an arc, or the other way round."""
    return with_segments(outline, tuple(replace(s, kind=kind) if k == at else s for k, s in enumerate(outline.segments)))


def picked(outline: AnyOutline, shape: Candidate) -> AnyOutline:
    """The outline with its segments pointed at as they lie in one of the shapes that are possible."""
    made = [replace(s, near=shape.middle(k)) for k, s in enumerate(outline.segments)]
    return with_segments(outline, tuple(made))


def _end_fields(segment: AnySegment) -> tuple[str, ...]:
    names = fields_of(segment)
    return (names["u"], names["v"], *ENDS)


def _turned_round(s: PlanSegment) -> dict[str, Any]:
    """What of a segment changes when it is run the other way, its end apart."""
    changed: dict[str, Any] = {"turn": {"ccw": "cw", "cw": "ccw"}.get(s.turn, s.turn)}
    if s.angle is not None:
        changed["angle"] = _around(s.angle + 180.0)
    return changed | {name: -value for name in ("dx", "dy") if (value := getattr(s, name)) is not None}


def _around(angle: float) -> float:
    return 180.0 - (180.0 - angle) % 360.0


def run_back(outline: PlanOutline) -> PlanOutline:
    """The outline run the other way."""
    old = outline.segments
    n = len(old)
    if not n:
        return outline
    closed = outline.is_closed
    made = []
    for k in range(n - 1, -1, -1):
        before = old[k - 1] if k or closed else None
        ends = {name: getattr(before, name) if before and k else None for name in _end_fields(old[k])}
        corner = (
            {name: getattr(before, name) for name in CORNER_FIELDS if hasattr(before, name)} if before else {"corner": "sharp"}
        )
        after = old[(k + 1) % n] if k + 1 < n or closed else None
        made.append(replace(old[k], **_turned_round(old[k]), **ends, **corner, tangent=after.tangent if after else "no"))
    if closed:
        return replace(outline, segments=tuple(made))
    last = made[-1]
    made[-1] = replace(last, x=outline.x, y=outline.y)
    return replace(outline, segments=tuple(made), x=old[-1].x, y=old[-1].y)


def mirrored(outline: PlanOutline, axis: Axis) -> PlanOutline:
    """The outline on the other side of an axis through zero: `x` turns Y round, `y` turns X round."""
    flip = ("y", "dy", "cy", "qy", "pole_y") if axis == "x" else ("x", "dx", "cx", "qx", "pole_x")

    def one(s: PlanSegment) -> PlanSegment:
        changed: dict[str, Any] = {name: -v for name in flip if (v := getattr(s, name, None)) is not None}
        for name in ("angle", "at"):
            value = getattr(s, name)
            if value is not None:
                changed[name] = _around(-value if axis == "x" else 180.0 - value)
        if s.near is not None:
            changed["near"] = (s.near[0], -s.near[1]) if axis == "x" else (-s.near[0], s.near[1])
        return replace(s, **changed, turn={"ccw": "cw", "cw": "ccw"}.get(s.turn, s.turn), typed={})

    start = {name: -v for name in flip if (v := getattr(outline, name, None)) is not None}
    return replace(outline, **start, segments=tuple(one(s) for s in outline.segments), typed={})


def rotated(outline: PlanOutline, angle: float) -> PlanOutline:
    """The outline turned about zero, counter-clockwise. What cannot be said of the turned one (a single coordinate of an end) is
    given as it was worked out; an outline that is not whole yet can only go round by quarter turns and is left as it is
    otherwise."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    if abs(angle % 90.0) < 1e-12:
        c, s = float(round(c)), float(round(s))
    drawn = draw(outline)
    if drawn.solution.state != "solved" and abs(angle % 90.0) > 1e-12:
        return outline

    def put(x: float | None, y: float | None, known: tuple[float, float] | None) -> tuple[float | None, float | None]:
        if x is not None and y is not None:
            return (_clean(c * x - s * y), _clean(s * x + c * y))
        if x is None and y is None:
            return (None, None)
        if c == 0.0 or s == 0.0:
            new = (c * x if c and x is not None else None, s * x if s and x is not None else None)
            more = (-s * y if s and y is not None else None, c * y if c and y is not None else None)
            return tuple(_clean(a if a is not None else b) for a, b in zip(new, more, strict=True))  # type: ignore[return-value]
        return put(*known, None) if known else (None, None)

    made = []
    for k, seg in enumerate(outline.segments):
        w = drawn.solution.worked[k] if k < len(drawn.solution.worked) else None
        centre = w.segment.centre if w and isinstance(w.segment, Arc) else None
        way = (w.end[0] - w.start[0], w.end[1] - w.start[1]) if w and w.start and w.end else None
        x, y = put(seg.x, seg.y, w.end if w else None)
        dx, dy = put(seg.dx, seg.dy, way)
        cx, cy = put(seg.cx, seg.cy, centre)
        qx, qy = put(seg.qx, seg.qy, None)
        angles = {name: _around(v + angle) for name in ("angle", "at") if (v := getattr(seg, name)) is not None}
        near = None if seg.near is None else (c * seg.near[0] - s * seg.near[1], s * seg.near[0] + c * seg.near[1])
        made.append(replace(seg, x=x, y=y, dx=dx, dy=dy, cx=cx, cy=cy, qx=qx, qy=qy, near=near, typed={}, **angles))
    x, y = put(outline.x, outline.y, None)
    px, py = put(outline.pole_x, outline.pole_y, None)
    return replace(outline, x=x, y=y, pole_x=px, pole_y=py, segments=tuple(made), typed={})


def _clean(v: float | None) -> float | None:
    return None if v is None else round(v, 12) + 0.0


def begun_at(outline: PlanOutline, at: int) -> PlanOutline:
    """A closed outline that begins with another segment."""
    if not outline.is_closed or not 0 < at < len(outline.segments):
        return outline
    old = list(outline.segments)
    last = old[-1]
    old[-1] = replace(last, x=last.x if last.x is not None else outline.x, y=last.y if last.y is not None else outline.y)
    before = old[at - 1]
    old[at - 1] = replace(before, x=None, y=None)
    segments = tuple(old[at:] + old[:at])
    return replace(outline, x=before.x, y=before.y, segments=segments)


def plan_of_chain(ident: str, name: str, chain: list[Any], *, closed: bool) -> PlanOutline:
    """An outline that gives a finished chain: ends of lines, ends and centres of arcs."""
    made = []
    for k, s in enumerate(chain):
        back = closed and k + 1 == len(chain) and len(chain) > 1
        end: dict[str, Any] = {} if back else {"x": _clean(s.end[0]), "y": _clean(s.end[1])}
        if isinstance(s, Arc):
            end |= {"cx": _clean(s.centre[0]), "cy": _clean(s.centre[1]), "turn": "ccw" if s.ccw else "cw"}
        made.append(PlanSegment(id=f"g{k + 1}", kind="arc" if isinstance(s, Arc) else "line", **end))
    x, y = chain[0].start
    return PlanOutline(id=ident, name=name, closed="yes" if closed else "no", x=_clean(x), y=_clean(y), segments=tuple(made))


def turned_of_chain(ident: str, name: str, chain: list[Any]) -> TurnedOutline:
    """The same as a half section, X along the axis and Y the radius: it runs from the front toward the chuck."""
    if chain[0].start[0] < chain[-1].end[0]:
        chain = reversed_chain(chain)
    made = []
    for k, s in enumerate(chain):
        end: dict[str, Any] = {"z": _clean(s.end[0]), "d": _clean(2 * s.end[1])}
        if isinstance(s, Arc):
            end |= {"cz": _clean(s.centre[0]), "cd": _clean(2 * s.centre[1]), "turn": "ccw" if s.ccw else "cw"}
        made.append(TurnedSegment(id=f"g{k + 1}", kind="arc" if isinstance(s, Arc) else "line", **end))
    z, r = chain[0].start
    return TurnedOutline(id=ident, name=name, z=_clean(z), d=_clean(2 * r), segments=tuple(made))


def moved_off(outline: TurnedOutline, by: float) -> TurnedOutline:
    """The outline moved `by` off its material, below 0 into it, with corners as they come out. ValueError where nothing is left
    of it or it runs into itself, and where it is not worked out itself."""
    drawn = draw(outline)
    if drawn.troubles or not drawn.chain:
        raise ValueError(tr("The outline is not complete yet."))
    if not by:
        return outline
    chain = offset(drawn.chain, -by if outline.inside else by)
    if not chain:
        raise ValueError(tr("Nothing is left of the outline."))
    chord = abs(by) * NEARLY_OFF / 4
    original, copy = shapely.LineString(points_on(drawn.chain, chord)), shapely.points(points_on(chain, chord))
    apart, ends = shapely.distance(original, copy), shapely.distance(original.boundary, copy)
    if (apart[apart < ends * (1 - NEARLY_OFF)] < abs(by) * (1 - NEARLY_OFF)).any():  # beside its ends it may be nearer
        raise ValueError(tr("So far off the outline runs into itself: less, or a new outline."))
    made = turned_of_chain(outline.id, outline.name, chain)
    return replace(made, inside=outline.inside, ends=outline.ends)


def curved_on(outline: TurnedOutline, formula: str, to_z: float, within: float, unit: Unit) -> TurnedOutline:
    """The outline going on from its end by the diameter that a formula of z gives, in arcs `within` a tolerance of it on the
    radius; where the curve begins at another diameter than the outline ends at, with a line to there. CurveError and
    ExpressionError say what is wrong with it."""
    diameter = function_of(formula, unit, "z")
    drawn = draw(outline)
    if drawn.troubles and outline.segments:
        raise CurveError(tr("The outline is not complete up to there."))
    begin = drawn.chain[-1].end if drawn.chain else (outline.z, (outline.d or 0.0) / 2)
    if begin[0] is None:
        raise CurveError(tr("Nobody knows where the outline begins."))
    room = SEGMENTS.most - len(outline.segments) - 1
    chain = fitted(lambda z: diameter(z) / 2, float(begin[0]), to_z, within, max(room, 0))
    low = min(r for _, r in points_on(chain, within))
    if low < -within:
        raise CurveError(tr("The formula goes below the centre line."))
    if abs(chain[0].start[1] - begin[1]) > within:
        if not outline.segments and not drawn.chain:
            outline = replace(outline, d=_clean(2 * chain[0].start[1]))
        else:
            chain = [Line((float(begin[0]), begin[1]), chain[0].start), *chain]
    made = list(outline.segments)
    for s in chain:
        arc: dict[str, Any] = {}
        if isinstance(s, Arc):
            arc = {"cz": _clean(s.centre[0]), "cd": _clean(2 * s.centre[1]), "turn": "ccw" if s.ccw else "cw"}
        ends: dict[str, Any] = {"z": _clean(s.end[0]), "d": _clean(max(2 * s.end[1], 0.0))}
        kind: Any = "arc" if arc else "line"
        made.append(TurnedSegment(id=fresh_segment_id(replace(outline, segments=tuple(made))), kind=kind, **ends, **arc))
    return replace(outline, segments=tuple(made))
