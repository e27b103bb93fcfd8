"""Moves and the strategies that make them: zigzag rows, pocket loops, entries, drilling cycles."""

from bastler.motion.facing import FacingRows, face_rows, face_spiral
from bastler.motion.holes import bites, long_hand
from bastler.motion.moves import Bend, Bow, Cut, Cycle, Go, Move, Path, Pause
from bastler.motion.pocket import (
    MOST_STEPOVER,
    Entry,
    Feeds,
    PocketShape,
    centre_room,
    clear_level,
    fits_helix,
    fits_ramp,
    wall_pass,
)

__all__ = [
    "MOST_STEPOVER",
    "Bend",
    "Bow",
    "Cut",
    "Cycle",
    "Entry",
    "FacingRows",
    "Feeds",
    "Go",
    "Move",
    "Path",
    "Pause",
    "PocketShape",
    "bites",
    "centre_room",
    "clear_level",
    "face_rows",
    "face_spiral",
    "fits_helix",
    "fits_ramp",
    "long_hand",
    "wall_pass",
]
