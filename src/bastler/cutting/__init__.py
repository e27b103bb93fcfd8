"""What cutting does: materials, speeds and feeds, power. Numbers only; it knows no tool and no machine.

Everything here is metric: millimetres, metres a minute, newtons, kilowatts. Callers in inch convert at their door.
"""

from bastler.cutting.formulas import (
    chip_thickness,
    cutting_speed,
    engagement_angle,
    feed_rate,
    milling_power,
    removal_rate,
    specific_force,
    spindle_speed,
)
from bastler.cutting.materials import MATERIALS, Material, ToolMaterial, material

__all__ = [
    "MATERIALS",
    "Material",
    "ToolMaterial",
    "chip_thickness",
    "cutting_speed",
    "engagement_angle",
    "feed_rate",
    "material",
    "milling_power",
    "removal_rate",
    "specific_force",
    "spindle_speed",
]
