"""Plane geometry: frames, boxes, lines and arcs, hole patterns, and what a step takes away."""

from bastler.shapes.barrel import Barrel
from bastler.shapes.bevel import Bevel
from bastler.shapes.box import Box
from bastler.shapes.drawn import NOTHING, Drawn, draw, drawn_before
from bastler.shapes.frame import Frame
from bastler.shapes.furrow import Furrow
from bastler.shapes.lie import AS_FIRST, Axis, Lie, Way, through
from bastler.shapes.outline import AnyOutline, AnySegment, Outline, PlanOutline, PlanSegment, TurnedOutline, TurnedSegment
from bastler.shapes.pattern import (
    ArcPattern,
    CirclePattern,
    FramePattern,
    GridPattern,
    LinePattern,
    Pattern,
    PointsPattern,
    RingsPattern,
    positions,
    spots,
)
from bastler.shapes.removal import Flat, Removal, Revolved, TurnedPart, depth_profile, disc, floors_joined, height_at
from bastler.shapes.rounded import Arc, Line, Segment, as_polygon, rounded_rectangle
from bastler.shapes.shoulders import Shoulders
from bastler.shapes.unrolled import Unrolled

__all__ = [
    "AS_FIRST",
    "NOTHING",
    "AnyOutline",
    "AnySegment",
    "Arc",
    "ArcPattern",
    "Axis",
    "Barrel",
    "Bevel",
    "Box",
    "CirclePattern",
    "Drawn",
    "Flat",
    "Frame",
    "FramePattern",
    "Furrow",
    "GridPattern",
    "Lie",
    "Line",
    "LinePattern",
    "Outline",
    "Pattern",
    "PlanOutline",
    "PlanSegment",
    "PointsPattern",
    "Removal",
    "Revolved",
    "RingsPattern",
    "Segment",
    "Shoulders",
    "TurnedOutline",
    "TurnedPart",
    "TurnedSegment",
    "Unrolled",
    "Way",
    "as_polygon",
    "depth_profile",
    "disc",
    "draw",
    "drawn_before",
    "floors_joined",
    "height_at",
    "positions",
    "rounded_rectangle",
    "spots",
    "through",
]
