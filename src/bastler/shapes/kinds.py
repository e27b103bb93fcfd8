"""The types of what is reckoned with, said once: arrays of numbers, and regions of the plane."""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
import shapely
from numpy.typing import NDArray

Floats: TypeAlias = NDArray[np.float64]
Ints: TypeAlias = NDArray[np.int32]
Indices: TypeAlias = NDArray[np.intp]
Bools: TypeAlias = NDArray[np.bool_]
Region: TypeAlias = shapely.Geometry
"""Polygons of a plane, of one piece, of several or of none; where it is said, lines."""
Regions: TypeAlias = NDArray[np.object_]
"""(n,) regions, for what looks at many at once."""
StopFlag: TypeAlias = NDArray[np.uint8]
"""One number that another thread sets when nobody wants the result any more; kernels look at it as they go."""
