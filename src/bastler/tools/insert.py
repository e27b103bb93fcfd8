"""Indexable inserts after ISO 1832: what a code such as `CNMG120408` says about the corner that cuts.

The first letter is the shape and with it the included angle of the corner, the second the clearance below the edge. Then come
edge length, thickness and corner radius as two digits each. Lengths in millimetres.
"""

from __future__ import annotations

import math
import re

import msgspec

from bastler.language import tr

CORNER: dict[str, float] = {
    "A": 85.0, "B": 82.0, "C": 80.0, "D": 55.0, "E": 75.0, "H": 120.0, "K": 55.0, "L": 90.0,
    "M": 86.0, "O": 135.0, "P": 108.0, "R": 0.0, "S": 90.0, "T": 60.0, "V": 35.0, "W": 80.0,
}  # fmt: skip
"""Included angle of the corner in degrees by the letter of the shape (ISO 1832, symbol 1); R is round."""
CLEARANCE: dict[str, float] = {"A": 3, "B": 5, "C": 7, "D": 15, "E": 20, "F": 25, "G": 30, "N": 0, "P": 11}
"""Normal clearance in degrees by letter (ISO 1832, symbol 2)."""
INSCRIBED = (3.97, 4.76, 5.56, 6.35, 7.94, 9.525, 12.7, 15.875, 19.05, 25.4)
"""Diameters of inscribed circles in mm (ISO 1832, symbol 5)."""
THICKNESS = {"01": 1.59, "T1": 1.98, "02": 2.38, "T2": 2.78, "03": 3.18, "T3": 3.97, "04": 4.76, "05": 5.56, "06": 6.35}
_CODE = re.compile(r"^([A-Z])([A-Z])([A-Z])([A-Z])([0-9][0-9])([0-9T][0-9])([0-9][0-9]|M0)([A-Z0-9-]*)$")


class InsertCodeError(ValueError):
    """A code that is not one of ISO 1832; the message says which part."""

    def __init__(self, code: str, why: str) -> None:
        super().__init__(tr("“{code}” is no insert code: {why}.", code=code, why=why))
        self.code, self.why = code, why


class Insert(msgspec.Struct, frozen=True):
    """What a code says: `corner` angle in degrees (0: round), `clearance` in degrees, the rest in mm."""

    code: str
    shape: str
    corner: float
    clearance: float
    edge: float
    inscribed: float
    thickness: float
    radius: float


def edge_length(shape: str, inscribed: float) -> float:
    """Edge length in mm of a shape with that inscribed circle."""
    if shape in ("S", "R"):
        return inscribed
    if shape == "T":
        return inscribed * math.sqrt(3.0)
    if shape == "W":
        return inscribed * 0.684
    return inscribed / math.sin(math.radians(CORNER[shape]))


def insert_of(code: str) -> Insert:
    """The insert of a code. Raises InsertCodeError with the part that is wrong."""
    plain = code.replace(" ", "").upper()
    match = _CODE.match(plain)
    if match is None:
        raise InsertCodeError(code, tr("four letters and three pairs of digits are needed, as CNMG120408"))
    shape, clearance, _, _, size, thick, radius, _ = match.groups()
    if shape not in CORNER:
        raise InsertCodeError(code, tr("no shape is called {shape}", shape=shape))
    if clearance not in CLEARANCE:
        raise InsertCodeError(code, tr("no clearance is called {clearance}", clearance=clearance))
    if thick not in THICKNESS:
        raise InsertCodeError(code, tr("no thickness is called {thick}", thick=thick))
    inscribed = next((d for d in INSCRIBED if int(edge_length(shape, d) + 0.02) == int(size)), None)
    if shape == "R":
        inscribed = float(size)
    if inscribed is None:
        raise InsertCodeError(code, tr("no insert of shape {shape} has an edge of {int} mm", shape=shape, int=int(size)))
    nose = inscribed / 2 if shape == "R" else 0.0 if radius == "M0" else int(radius) / 10.0
    edge = edge_length(shape, inscribed)
    return Insert(plain, shape, CORNER[shape], CLEARANCE[clearance], edge, inscribed, THICKNESS[thick], nose)
