"""How a turned part stands in the picture: its axis along X, C at 0 upward. It is turned there and not mirrored, so that a
right-hand groove is one and letters can be read."""

from __future__ import annotations

import numpy as np

from bastler.shapes.kinds import Floats

TURNED = np.array([[0.0, 0.0, 1.0], [0.0, -1.0, 0.0], [1.0, 0.0, 0.0]])
"""From x, y and z on the part to those of the picture; the way back is the same."""


def upright(places: Floats) -> Floats:
    """Places or directions (…, 3) of the part as they stand in the picture, or of the picture as they are on the part."""
    found: Floats = places @ TURNED
    return found
