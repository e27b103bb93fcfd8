"""The types of what is reckoned with, said once: arrays of numbers, and regions of the plane."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray

Floats: TypeAlias = NDArray[np.float64]
Ints: TypeAlias = NDArray[np.int32]
Bools: TypeAlias = NDArray[np.bool_]
Region: TypeAlias = shapely.Geometry
"""Polygons of a plane, of one piece, of several or of none; where it is said, lines."""
