"""Where on a part in a chuck a step with driven tools is done."""

from __future__ import annotations

import math
import re
from typing import Literal

import msgspec

from bastler.ask import Trouble
from bastler.language import decimal, sayable, tr

Where = Literal["end", "side", "round"]
MOST_TIMES = 72
FINE = 6
"""Digits of an angle in degrees: what differs by less is one plane."""


class Place(msgspec.Struct, frozen=True):
    """The end face of a part; or, with `angles`, its side as seen from there, once at each: in degrees of C, from 0 to before
    360. Plans of the side lie with x along the axis, from the finished front toward the tailstock, and y across; heights are
    counted from the axis outward. With a radius `around` it is not a side but the round unrolled at that, y along it from each of
    the angles, so that C falls where y rises."""

    angles: tuple[float, ...] = ()
    around: float = 0.0

    @property
    def where(self) -> Where:
        if self.around > 0.0:
            return "round"
        return "side" if self.angles else "end"

    @property
    def says(self) -> str:
        """Where it is, in a few words; nothing of the end face."""
        if not self.angles:
            return ""
        often = f"{len(self.angles)} × " if len(self.angles) > 1 else ""
        return decimal(f"{often}{self.where} {self.angles[0]:g}°")

    @property
    def stands(self) -> Literal["axial", "radial"]:
        """How a tool stands in the turret that works there."""
        return "radial" if self.angles else "axial"

    def shares(self, other: Place) -> bool:
        """Is one of its planes one of the other's too?"""
        alike = self.where == other.where and self.around == other.around
        return alike and (not self.angles or bool(set(self.angles) & set(other.angles)))

    def angle_at(self, first: float, y: float) -> float:
        """C, in degrees, at a place along the round from one of its angles."""
        return first - math.degrees(y / self.around)

    @staticmethod
    def side(first: float, times: int) -> Place:
        """So many planes evenly round the part."""
        return Place(tuple(plane_angle(first + 360.0 * k / times) for k in range(times)))


END = Place()


ACROSS: dict[Where, str] = sayable({"side": "across", "round": "round"})
"""What Y of a plan is called there."""
AXIS = re.compile(r"“[^”]*”|„[^“]*“|\b[XYZ]\b")
"""An axis in a text, or something's name, which is left as it is."""


def on_part(text: str, where: Where) -> str:
    """Words that are said of a plan's X, Y and Z, of a place on a turned part. On its side and round it what is about X is along
    Z, what is about Y across or round, and what is about Z a height."""
    if where not in ACROSS:
        return text
    called = {"X": "Z", "Y": tr(ACROSS[where]), "Z": tr("height")}

    def said(found: re.Match[str]) -> str:
        word = called.get(found[0], found[0])
        return word.capitalize() if found.start() == 0 and found[0] in called else word

    return AXIS.sub(said, text)


def plane_angle(degrees: float) -> float:
    """An angle of C within one turn, as it is told from others."""
    return round(degrees % 360.0, FINE) % 360.0


def times_trouble(times: int) -> list[Trouble]:
    """More than a plane in five degrees is a slip."""
    return (
        [Trouble("times", tr("More than {most_times} are a slip.", most_times=MOST_TIMES), MOST_TIMES)]
        if times > MOST_TIMES
        else []
    )
