"""Turning: moves in the half section of the work, roughing in passes, following outlines, grooves and threads."""

from bastler.motion.turning.bars import Bars, draw_bars
from bastler.motion.turning.moves import (
    Compensate,
    Coolant,
    Halt,
    OtherEdge,
    Slide,
    Spindle,
    Sweep,
    Sync,
    ThreadCycle,
    Turn,
    TurnMove,
    TurnPath,
)
from bastler.motion.turning.profile import (
    above,
    clears,
    closed_to_stock,
    forbidden,
    hulls,
    material_under,
    point_path,
    reached,
    with_run_in,
)
from bastler.motion.turning.view import Pencil, View, view_of

__all__ = [
    "Bars",
    "Compensate",
    "Coolant",
    "Halt",
    "OtherEdge",
    "Pencil",
    "Slide",
    "Spindle",
    "Sweep",
    "Sync",
    "ThreadCycle",
    "Turn",
    "TurnMove",
    "TurnPath",
    "View",
    "above",
    "clears",
    "closed_to_stock",
    "draw_bars",
    "forbidden",
    "hulls",
    "material_under",
    "point_path",
    "reached",
    "view_of",
    "with_run_in",
]
