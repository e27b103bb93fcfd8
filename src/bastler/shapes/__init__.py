"""Plane geometry: frames, boxes, lines and arcs, hole patterns, and what a step takes away."""

from bastler.shapes.box import Box
from bastler.shapes.frame import Frame
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
    "Arc",
    "ArcPattern",
    "Box",
    "CirclePattern",
    "Flat",
    "Frame",
    "GridPattern",
    "Line",
    "LinePattern",
    "Pattern",
    "PointsPattern",
    "Removal",
    "Revolved",
    "Segment",
    "as_polygon",
    "depth_profile",
    "disc",
    "height_at",
    "positions",
    "rounded_rectangle",
    "spots",
]
