"""What cutting does: materials, speeds and feeds, power. Numbers only; it knows no tool and no machine.

Everything here is metric: millimetres, metres a minute, newtons, kilowatts. Callers in inch convert at their door.
"""

from bastler.cutting.advice import MADE_OF, Advice, feed_advice, paced, slender, speed_advice, thinning
from bastler.cutting.fits import Grade, largest
from bastler.cutting.formulas import (
    chip_thickness,
    cutting_force,
    cutting_speed,
    deflection,
    drill_thrust,
    engagement_angle,
    feed_for,
    feed_rate,
    milling_power,
    removal_rate,
    roughness,
    specific_force,
    spindle_speed,
    tap_torque,
    torque,
    turning_power,
)
from bastler.cutting.materials import MATERIALS, Material, ToolMaterial, material
from bastler.cutting.screws import Fit, NoSuchScrewError, clearance_hole, counterbore, countersink
from bastler.cutting.thread_limits import ThreadLimits, between_balls, limits_of, over_wires, wire_for
from bastler.cutting.thread_names import ThreadNameError, thread_of, thread_or_none
from bastler.cutting.threads import Thread, bites, largest_bite

__all__ = [
    "MADE_OF",
    "MATERIALS",
    "Advice",
    "Fit",
    "Grade",
    "Material",
    "NoSuchScrewError",
    "Thread",
    "ThreadLimits",
    "ThreadNameError",
    "ToolMaterial",
    "between_balls",
    "bites",
    "chip_thickness",
    "clearance_hole",
    "counterbore",
    "countersink",
    "cutting_force",
    "cutting_speed",
    "deflection",
    "drill_thrust",
    "engagement_angle",
    "feed_advice",
    "feed_for",
    "feed_rate",
    "largest",
    "largest_bite",
    "limits_of",
    "material",
    "milling_power",
    "over_wires",
    "paced",
    "removal_rate",
    "roughness",
    "slender",
    "specific_force",
    "speed_advice",
    "spindle_speed",
    "tap_torque",
    "thinning",
    "thread_of",
    "thread_or_none",
    "torque",
    "turning_power",
    "wire_for",
]
