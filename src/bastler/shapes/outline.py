"""Turning outlines: a named chain of segments, diameters and lengths as they stand on the print.

Points are (z, r): z along the axis, out of the part positive, r the radius. An outside outline runs from the front face toward
the chuck with the material below it; an inside one likewise with the material above.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Literal

import msgspec

from bastler.ask import Trouble, ask, choose
from bastler.shapes.rounded import Arc, Line, Point, Segment
from bastler.units import Kind

_D = ask("to Ø", Kind.LENGTH, least=0)
_Z = ask("to Z", Kind.LENGTH)


class _Piece(msgspec.Struct, frozen=True, forbid_unknown_fields=True, tag_field="kind"):
    pass


class Along(_Piece, frozen=True, tag="along"):
    """Parallel to the axis."""

    z: Annotated[float, _Z] = 0.0


class Up(_Piece, frozen=True, tag="up"):
    """Square to the axis, up or down to a diameter."""

    d: Annotated[float, _D] = 0.0


class Slant(_Piece, frozen=True, tag="slant"):
    """Straight to a diameter and a length, or to one of them at an angle with the axis."""

    d: Annotated[float | None, _D] = None
    z: Annotated[float | None, _Z] = None
    angle: Annotated[float | None, ask("at", Kind.ANGLE, above=0, below=90)] = None


class Curve(_Piece, frozen=True, tag="curve"):
    """An arc to a diameter and a length."""

    d: Annotated[float, _D] = 0.0
    z: Annotated[float, _Z] = 0.0
    radius: Annotated[float, ask("R", Kind.LENGTH, above=0)] = 1.0
    bulge: Annotated[Literal["out", "in"], choose("bulges", {"out": "out of the part", "in": "into it"})] = "out"


class Edge(_Piece, frozen=True, tag="edge"):
    """An edge break between its two neighbours: leg along the one before, angle from there."""

    leg: Annotated[float, ask("leg", Kind.LENGTH, above=0)] = 1.0
    angle: Annotated[float, ask("at", Kind.ANGLE, above=0, below=90)] = 45.0


class Blend(_Piece, frozen=True, tag="blend"):
    """A radius between its two neighbours."""

    radius: Annotated[float, ask("R", Kind.LENGTH, above=0)] = 1.0


Piece = Along | Up | Slant | Curve | Edge | Blend
PIECES: dict[str, type[Piece]] = {"along": Along, "up": Up, "slant": Slant, "curve": Curve, "edge": Edge, "blend": Blend}


class Outline(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A named outline; it begins at diameter `d` and length `z`."""

    id: str
    name: str
    inside: bool = False
    d: Annotated[float, ask("begins at Ø", Kind.LENGTH, "Outline", least=0)] = 0.0
    z: Annotated[float, ask("at Z", Kind.LENGTH, "Outline")] = 0.0
    pieces: tuple[Piece, ...] = ()


class Drawn(msgspec.Struct, frozen=True):
    """What became of an outline: the chain, the piece each segment came from, and what is wrong with it."""

    chain: tuple[Segment, ...]
    owners: tuple[int, ...]
    troubles: tuple[Trouble, ...] = ()


def draw(outline: Outline) -> Drawn:
    """Works the chain out, corners last. Troubles name the piece as `pieces.K`, counted from 0."""
    straight: list[tuple[Segment, int]] = []
    corners: dict[int, tuple[Edge | Blend, int]] = {}
    troubles: list[Trouble] = []
    at: Point = (outline.z, outline.d / 2)
    for k, piece in enumerate(outline.pieces):
        if isinstance(piece, Edge | Blend):
            corners[len(straight)] = (piece, k)
            continue
        made = _segment(piece, at)
        if isinstance(made, str):
            troubles.append(Trouble(f"pieces.{k}", made))
            break
        if made is not None:
            straight.append((made, k))
            at = made.end
    if not straight and not troubles:
        troubles.append(Trouble("pieces", "The outline has no segment yet."))
    if any(r < -1e-9 for s, _ in straight for r in (s.start[1], s.end[1])):
        troubles.append(Trouble("pieces", "It goes below the centre line."))
    with_corners = _cornered(straight, corners, outline, troubles)
    return Drawn(tuple(s for s, _ in with_corners), tuple(k for _, k in with_corners), tuple(troubles))


def _segment(piece: Piece, at: Point) -> Segment | str | None:
    """The segment a piece makes from a point, None for no length, or why there is none."""
    if isinstance(piece, Along):
        end = (piece.z, at[1])
    elif isinstance(piece, Up):
        end = (at[0], piece.d / 2)
    elif isinstance(piece, Slant):
        found = _slant(piece, at)
        if isinstance(found, str):
            return found
        end = found
    elif isinstance(piece, Curve):
        return _curve(piece, at)
    else:
        raise TypeError(f"{type(piece).__name__} is a corner.")
    return Line(at, end) if math.dist(at, end) > 1e-9 else None


def _slant(piece: Slant, at: Point) -> Point | str:
    given = [piece.d is not None, piece.z is not None, piece.angle is not None]
    if sum(given) < 2:
        return "One more number: Ø, Z or angle."
    if piece.d is not None and piece.z is not None:
        return (piece.z, piece.d / 2)
    slope = math.tan(math.radians(piece.angle or 45.0))
    if piece.d is not None:
        r = piece.d / 2
        return (at[0] - abs(r - at[1]) / slope, r)
    assert piece.z is not None
    return (piece.z, at[1] + abs(piece.z - at[0]) * slope)


def _curve(piece: Curve, at: Point) -> Segment | str | None:
    end = (piece.z, piece.d / 2)
    chord = math.dist(at, end)
    if chord < 1e-9:
        return None
    if piece.radius < chord / 2 - 1e-9:
        return f"The radius is too small: {chord / 2:.4g} is the least."
    half = math.sqrt(max(piece.radius**2 - chord**2 / 4, 0.0))
    tu, tv = (end[0] - at[0]) / chord, (end[1] - at[1]) / chord
    ccw = piece.bulge == "out"
    side = 1.0 if ccw else -1.0
    centre = ((at[0] + end[0]) / 2 - tv * half * side, (at[1] + end[1]) / 2 + tu * half * side)
    return Arc(at, end, centre, ccw)


def _cornered(
    straight: Sequence[tuple[Segment, int]],
    corners: dict[int, tuple[Edge | Blend, int]],
    outline: Outline,
    troubles: list[Trouble],
) -> list[tuple[Segment, int]]:
    """Puts edges and blends in; an edge at the very start breaks the corner with the front face."""
    made: list[tuple[Segment, int]] = [*straight]
    placed: list[tuple[Segment, int]] = []
    for k, (segment, owner) in enumerate(made):
        before = placed[-1][0] if placed else _face(segment, outline)
        if k not in corners:
            placed.append((segment, owner))
            continue
        piece, own = corners[k]
        if not isinstance(before, Line) or not isinstance(segment, Line):
            troubles.append(Trouble(f"pieces.{own}", "Edges and blends join straight lines."))
            placed.append((segment, owner))
            continue
        result = corner(before, segment, piece)
        if isinstance(result, str):
            troubles.append(Trouble(f"pieces.{own}", result))
            placed.append((segment, owner))
            continue
        first, middle, last = result
        if placed:
            placed[-1] = (first, placed[-1][1])
        placed += [(middle, own), (last, owner)]
    if len(made) in corners:
        troubles.append(Trouble(f"pieces.{corners[len(made)][1]}", "A segment has to follow it."))
    return [(s, k) for s, k in placed if math.dist(s.start, s.end) > 1e-9]


def _face(first: Segment, outline: Outline) -> Line:
    """The front face as a line that ends where the outline starts."""
    z, r = first.start
    return Line((z, r + 1e4), first.start) if outline.inside else Line((z, r - 1e4), first.start)


def corner(a: Line, b: Line, piece: Edge | Blend) -> tuple[Line, Segment, Line] | str:
    """Two lines that meet with an edge break or a radius between them, or why there is no room for it."""
    la, lb = math.dist(a.start, a.end), math.dist(b.start, b.end)
    ta = ((a.end[0] - a.start[0]) / la, (a.end[1] - a.start[1]) / la)
    tb = ((b.end[0] - b.start[0]) / lb, (b.end[1] - b.start[1]) / lb)
    cross = ta[0] * tb[1] - ta[1] * tb[0]
    if abs(cross) < 1e-9:
        return "Its neighbours lie in one line."
    if isinstance(piece, Edge):
        one, two = piece.leg, piece.leg * math.tan(math.radians(piece.angle))
    else:
        turn = math.atan2(abs(cross), ta[0] * tb[0] + ta[1] * tb[1])
        one = two = piece.radius * math.tan(turn / 2)
    over = max(one - la, two - lb)
    if over > 1e-9:
        return f"Too big for its neighbours by {over:.4g}."
    p = (a.end[0] - ta[0] * one, a.end[1] - ta[1] * one)
    q = (b.start[0] + tb[0] * two, b.start[1] + tb[1] * two)
    middle: Segment = Line(p, q)
    if isinstance(piece, Blend):
        side = 1.0 if cross > 0 else -1.0
        middle = Arc(p, q, (p[0] - ta[1] * side * piece.radius, p[1] + ta[0] * side * piece.radius), cross > 0)
    return Line(a.start, p), middle, Line(q, b.end)
