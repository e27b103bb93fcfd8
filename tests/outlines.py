"""Short words for the segments of turned outlines: corners stand between the segments they join, as on a print."""

from __future__ import annotations

from typing import Any

import msgspec

from bastler.job.older import outline_of_version_2
from bastler.shapes import TurnedOutline

Piece = dict[str, Any]


def along(z: float) -> Piece:
    """Parallel to the axis."""
    return {"kind": "along", "z": z}


def up(d: float) -> Piece:
    """Square to the axis, up or down."""
    return {"kind": "up", "d": d}


def slant(**given: Any) -> Piece:
    """Straight to `d` and `z`, or to one of them at an `angle` with the axis."""
    return {"kind": "slant"} | given


def curve(d: float, z: float, radius: float, bulge: str = "out") -> Piece:
    """An arc."""
    return {"kind": "curve", "d": d, "z": z, "radius": radius, "bulge": bulge}


def edge(leg: float, angle: float = 45.0) -> Piece:
    """An edge break between its neighbours."""
    return {"kind": "edge", "leg": leg, "angle": angle}


def blend(radius: float) -> Piece:
    """A radius between its neighbours."""
    return {"kind": "blend", "radius": radius}


def outline(*, pieces: Any, d: float, z: float = 0.0, inside: bool = False, name: str = "o", id: str = "o") -> TurnedOutline:
    """A turned outline of such pieces."""
    old = {"id": id, "name": name, "d": d, "z": z, "inside": inside, "pieces": list(pieces)}
    return msgspec.convert(outline_of_version_2(old), type=TurnedOutline)
