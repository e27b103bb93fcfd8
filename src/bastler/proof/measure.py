"""How thick something is that is left, gouged or hit: one measure for milling and turning."""

from __future__ import annotations

import shapely

from bastler.shapes.kinds import Region

FINE = 0.02
"""How exactly, as a share of it, a thickness is found."""


def thickness(region: Region) -> float:
    """The diameter of the largest disc in a region (polygons; other parts have none), to a fiftieth of it."""
    best = 0.0
    for piece in getattr(region, "geoms", [region]):
        if piece.is_empty or piece.geom_type != "Polygon":
            continue
        # of any shape the disc is no wider than 4 A / P, of a thin one half of that
        most = 4.0 * piece.area / max(piece.length, 1e-300)
        if most > best and most > 0.0:
            best = max(best, 2.0 * shapely.maximum_inscribed_circle(piece, tolerance=FINE * most / 4.0).length)
    return best
