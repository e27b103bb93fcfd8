"""Spindle load along the program: from the volume each piece of path really took, by Kienzle's law."""

from __future__ import annotations

import numpy as np

from bastler.proof.scene import Scene
from bastler.shapes.kinds import Floats
from bastler.tools import Tool
from bastler.units import scale

LIP = 0.86
"""Chip thickness of a drill's lip as a share of its feed per tooth: the sine of half a usual point angle."""


def powers(scene: Scene, tool: Tool, volume: Floats, bite: Floats, seconds: Floats, length: Floats, speed: Floats) -> Floats:
    """Motor power in kW of every segment, (n,). Inputs (n,) in the job's unit, seconds and 1/min."""
    k = scale(scene.unit, "mm")
    minutes = np.maximum(seconds, 1e-9) / 60.0
    rate = volume * k**3 / 1000.0 / minutes
    feed = length * k / minutes
    fz = feed / np.maximum(speed * tool.flutes, 1e-9)
    if tool.kind in ("drill", "spot-drill"):
        h = fz * LIP
    else:
        diameter = tool.diameter * k
        area = np.divide(volume * k**3, length * k, out=np.zeros_like(volume), where=length > 1e-9)
        ae = np.divide(area, bite * k, out=np.zeros_like(volume), where=bite > 1e-9)
        share = np.clip(ae / diameter, 1e-6, 1.0)
        h = fz * 2 * share / np.arccos(1 - 2 * share)
    work = scene.material
    kc = work.kc11 * np.maximum(h, 0.001) ** -work.mc
    return np.where(volume > 0, rate * kc / (60_000.0 * scene.card.efficiency), 0.0)


def widths(volume: Floats, bite: Floats, length: Floats) -> Floats:
    """Width of cut of every segment, from what it took."""
    return np.divide(volume, bite * length, out=np.zeros_like(volume), where=(bite * length) > 1e-12)
