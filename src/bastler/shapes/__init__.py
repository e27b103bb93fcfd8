"""Plane geometry: frames, boxes, lines and arcs, hole patterns, and what a step takes away."""

from bastler.shapes.box import Box
from bastler.shapes.frame import Frame
from bastler.shapes.outline import PIECES, Along, Blend, Curve, Drawn, Edge, Outline, Piece, Slant, Up, draw
from bastler.shapes.pattern import (
    ArcPattern,
    CirclePattern,
    GridPattern,
    LinePattern,
    Pattern,
    PointsPattern,
    positions,
    spots,
)
from bastler.shapes.removal import Flat, Removal, Revolved, depth_profile, disc, height_at
from bastler.shapes.rounded import Arc, Line, Segment, as_polygon, rounded_rectangle

__all__ = [
    "PIECES",
    "Along",
    "Arc",
    "ArcPattern",
    "Blend",
    "Box",
    "CirclePattern",
    "Curve",
    "Drawn",
    "Edge",
    "Flat",
    "Frame",
    "GridPattern",
    "Line",
    "LinePattern",
    "Outline",
    "Pattern",
    "Piece",
    "PointsPattern",
    "Removal",
    "Revolved",
    "Segment",
    "Slant",
    "Up",
    "as_polygon",
    "depth_profile",
    "disc",
    "draw",
    "height_at",
    "positions",
    "rounded_rectangle",
    "spots",
]
