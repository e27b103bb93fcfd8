"""What a number is (its *kind*) and the two unit systems a job may be in.

A job's numbers stay in the job's unit from answer to G-code; a kind says which unit that is and how many
decimals a person wants to see.
"""

from __future__ import annotations

import enum
from typing import Literal

Unit = Literal["mm", "inch"]

MM_PER_INCH = 25.4
"""Exact by definition (international inch, 1959)."""


class Kind(enum.Enum):
    """What a number measures. The value is the plain name used in the schema."""

    LENGTH = "length"
    ANGLE = "angle"
    FEED_RATE = "feed rate"
    FEED_PER_TOOTH = "feed per tooth"
    CUTTING_SPEED = "cutting speed"
    SPINDLE_SPEED = "spindle speed"
    TIME = "time"
    COUNT = "count"
    PERCENT = "percent"
    ROUGHNESS = "roughness"
    NUMBER = "number"
    POWER = "power"
    TORQUE = "torque"
    FORCE = "force"
    STRESS = "stress"
    ACCELERATION = "acceleration"


_SUFFIX: dict[Kind, tuple[str, str]] = {
    Kind.LENGTH: ("mm", "in"),
    Kind.ANGLE: ("°", "°"),
    Kind.FEED_RATE: ("mm/min", "in/min"),
    Kind.FEED_PER_TOOTH: ("mm", "in"),
    Kind.CUTTING_SPEED: ("m/min", "ft/min"),
    Kind.SPINDLE_SPEED: ("1/min", "1/min"),
    Kind.TIME: ("s", "s"),
    Kind.COUNT: ("", ""),
    Kind.PERCENT: ("%", "%"),
    Kind.ROUGHNESS: ("µm", "µm"),
    Kind.NUMBER: ("", ""),
    Kind.POWER: ("kW", "kW"),
    Kind.TORQUE: ("Nm", "Nm"),
    Kind.FORCE: ("N", "N"),
    Kind.STRESS: ("N/mm²", "N/mm²"),
    Kind.ACCELERATION: ("mm/s²", "in/s²"),
}

_DECIMALS: dict[Kind, tuple[int, int]] = {
    Kind.LENGTH: (3, 4),
    Kind.ANGLE: (3, 3),
    Kind.FEED_RATE: (0, 1),
    Kind.FEED_PER_TOOTH: (3, 4),
    Kind.CUTTING_SPEED: (0, 0),
    Kind.SPINDLE_SPEED: (0, 0),
    Kind.TIME: (2, 2),
    Kind.COUNT: (0, 0),
    Kind.PERCENT: (0, 0),
    Kind.ROUGHNESS: (2, 2),
    Kind.NUMBER: (3, 3),
    Kind.POWER: (2, 2),
    Kind.TORQUE: (1, 1),
    Kind.FORCE: (0, 0),
    Kind.STRESS: (0, 0),
    Kind.ACCELERATION: (0, 0),
}


def suffix(kind: Kind, unit: Unit) -> str:
    """The unit a person reads beside a field of this kind."""
    return _SUFFIX[kind][unit == "inch"]


def decimals(kind: Kind, unit: Unit) -> int:
    """How many decimals a computed number of this kind is rounded to when it is shown."""
    return _DECIMALS[kind][unit == "inch"]


def scale(source: Unit, target: Unit) -> float:
    """The factor that turns a length in `source` into one in `target`."""
    if source == target:
        return 1.0
    return 1.0 / MM_PER_INCH if source == "mm" else MM_PER_INCH
