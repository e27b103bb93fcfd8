"""Moves and the strategies that make them: zigzag rows, pocket loops, entries, drilling cycles."""

from bastler.motion.facing import FacingRows, face_rows, face_spiral
from bastler.motion.holes import bites, long_hand
from bastler.motion.moves import Bend, Bow, Cut, Cycle, Go, Move, Path, Pause

__all__ = [
    "Bend",
    "Bow",
    "Cut",
    "Cycle",
    "FacingRows",
    "Go",
    "Move",
    "Path",
    "Pause",
    "bites",
    "face_rows",
    "face_spiral",
    "long_hand",
]
