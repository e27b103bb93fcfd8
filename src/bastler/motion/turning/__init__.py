"""Turning: moves in the half section of the work, roughing in passes, following outlines, grooves and threads."""

from bastler.motion.turning.bars import Bars, draw_bars
from bastler.motion.turning.profile import (
    above,
    begins_square,
    clears,
    closed_to_stock,
    forbidden,
    hulls,
    material_under,
    point_path,
    reached,
    way_on,
    with_run_in,
)
from bastler.motion.turning.view import Pencil, View, view_of

__all__ = [
    "Bars",
    "Pencil",
    "View",
    "above",
    "begins_square",
    "clears",
    "closed_to_stock",
    "draw_bars",
    "forbidden",
    "hulls",
    "material_under",
    "point_path",
    "reached",
    "view_of",
    "way_on",
    "with_run_in",
]
