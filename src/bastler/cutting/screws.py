"""Holes for screws: how wide they are for the screw to go through, and for its head to go in. Lengths in millimetres.

Sources: clearance holes ISO 273 (metric: fine, medium, coarse series) and ASME B18.2.8 (inch: close, normal, loose fit);
counterbores for socket heads of ISO 4762 after DIN 974-1, row 1 (there is no ISO standard for them), for inch screws after the
appendix of ASME B18.3; countersinks for the 90° heads of ISO 7721 after ISO 15065.
"""

from __future__ import annotations

from typing import Literal

from bastler.cutting.thread_names import INCH
from bastler.cutting.thread_tables import UNIFIED
from bastler.cutting.threads import Thread
from bastler.language import tr

Fit = Literal["fine", "medium", "coarse"]
_FITS: tuple[Fit, ...] = ("fine", "medium", "coarse")
CLEARANCE: dict[float, tuple[float, float, float]] = {
    1.6: (1.7, 1.8, 2.0), 2: (2.2, 2.4, 2.6), 2.5: (2.7, 2.9, 3.1), 3: (3.2, 3.4, 3.6), 3.5: (3.7, 3.9, 4.2), 4: (4.3, 4.5, 4.8),
    5: (5.3, 5.5, 5.8), 6: (6.4, 6.6, 7.0), 8: (8.4, 9.0, 10.0), 10: (10.5, 11.0, 12.0), 12: (13.0, 13.5, 14.5),
    14: (15.0, 15.5, 16.5), 16: (17.0, 17.5, 18.5), 18: (19.0, 20.0, 21.0), 20: (21.0, 22.0, 24.0), 22: (23.0, 24.0, 26.0),
    24: (25.0, 26.0, 28.0), 27: (28.0, 30.0, 32.0), 30: (31.0, 33.0, 35.0),
}  # fmt: skip
"""By the thread's diameter, for the three series (ISO 273)."""
INCH_CLEARANCE: dict[str, tuple[float, float, float]] = {
    "1/4": (17 / 64, 9 / 32, 19 / 64), "5/16": (21 / 64, 11 / 32, 23 / 64), "3/8": (25 / 64, 13 / 32, 27 / 64),
    "7/16": (29 / 64, 15 / 32, 31 / 64), "1/2": (17 / 32, 9 / 16, 39 / 64), "5/8": (21 / 32, 11 / 16, 47 / 64),
    "3/4": (25 / 32, 13 / 16, 29 / 32), "7/8": (29 / 32, 15 / 16, 33 / 32), "1": (33 / 32, 35 / 32, 37 / 32),
}  # fmt: skip
"""In inches by the screw's size (ASME B18.2.8)."""
COUNTERBORE: dict[float, float] = {
    3: 6.5, 4: 8.0, 5: 10.0, 6: 11.0, 8: 15.0, 10: 18.0, 12: 20.0, 14: 24.0, 16: 26.0, 20: 33.0, 24: 40.0,
}  # fmt: skip
"""Diameter of the counterbore for a socket head (DIN 974-1, row 1)."""
INCH_COUNTERBORE: dict[str, float] = {
    "1/4": 7 / 16, "5/16": 17 / 32, "3/8": 5 / 8, "7/16": 23 / 32, "1/2": 13 / 16, "5/8": 1.0, "3/4": 19 / 16, "7/8": 11 / 8,
    "1": 13 / 8,
}  # fmt: skip
"""In inches (ASME B18.3, appendix)."""
DEEPER = ((1.4, 0.2), (6.0, 0.4), (20.0, 0.6), (27.0, 0.8))
"""Up to this thread the counterbore is that much deeper than the head is high (DIN 974-1); the head is as high as the thread is
wide (ISO 4762)."""
SINK: dict[float, float] = {
    1.6: 3.6, 2: 4.4, 2.5: 5.5, 3: 6.3, 3.5: 8.2, 4: 9.4, 5: 10.4, 6: 12.6, 8: 17.3, 10: 20.0,
}  # fmt: skip
"""Diameter of the countersink at the surface (ISO 15065)."""


class NoSuchScrewError(ValueError):
    """There is no such screw in the table; the message says which there are."""


def _inch_size(screw: Thread) -> str:
    return screw.name.partition("-")[0]


def clearance_hole(screw: Thread, fit: Fit) -> float:
    """Diameter of the hole that a screw goes through. NoSuchScrewError when the standards do not know it."""
    if screw.family == "metric" and screw.major in CLEARANCE:
        return CLEARANCE[screw.major][_FITS.index(fit)]
    if screw.family == "unified" and _inch_size(screw) in INCH_CLEARANCE:
        return INCH_CLEARANCE[_inch_size(screw)][_FITS.index(fit)] * INCH
    raise NoSuchScrewError(
        tr(
            "ISO 273 has no hole for {name}. Metric sizes are M{clearance}.",
            name=screw.name,
            clearance=", ".join(f"{d:g}" for d in CLEARANCE),
        )
    )


def counterbore(screw: Thread) -> tuple[float, float]:
    """Diameter and depth of the bore for a socket head, so that it lies below the surface. NoSuchScrewError for sizes
    that are not made."""
    if screw.family == "metric" and screw.major in COUNTERBORE:
        return COUNTERBORE[screw.major], screw.major + next(more for most, more in DEEPER if screw.major <= most)
    size = _inch_size(screw)
    if screw.family == "unified" and size in INCH_COUNTERBORE:
        return INCH_COUNTERBORE[size] * INCH, UNIFIED[size][0] * INCH
    raise NoSuchScrewError(
        tr(
            "There is no counterbore for {name}: socket heads are M{counterbore}.",
            name=screw.name,
            counterbore=", ".join(f"{d:g}" for d in COUNTERBORE),
        )
    )


def countersink(screw: Thread) -> float:
    """Diameter at the surface for a countersunk head of 90°. NoSuchScrewError for sizes that are not in the table."""
    if screw.family == "metric" and screw.major in SINK:
        return SINK[screw.major]
    raise NoSuchScrewError(
        tr("ISO 15065 has no countersink for {name}: heads are M{sink}.", name=screw.name, sink=", ".join(f"{d:g}" for d in SINK))
    )
