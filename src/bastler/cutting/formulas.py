"""The formulas of cutting with a turning tool, metric throughout.

Sources: ISO 3002-3/-4 for the quantities; O. Kienzle, "Die Bestimmung von Kräften und Leistungen an spanenden Werkzeugen
und Werkzeugmaschinen", VDI-Z 94 (1952), for the specific cutting force kc = kc1.1 · h^-mc.
"""

from __future__ import annotations

import math


def spindle_speed(vc: float, diameter: float) -> float:
    """n in 1/min from cutting speed `vc` (m/min) and `diameter` (mm, > 0): n = 1000 vc / (π d)."""
    return 1000.0 * vc / (math.pi * diameter)


def cutting_speed(n: float, diameter: float) -> float:
    """vc in m/min from spindle speed `n` (1/min) and `diameter` (mm)."""
    return math.pi * diameter * n / 1000.0


def feed_rate(fz: float, teeth: int, n: float) -> float:
    """vf in mm/min from feed per tooth `fz` (mm), number of teeth and spindle speed (1/min)."""
    return fz * teeth * n


def removal_rate(ae: float, ap: float, vf: float) -> float:
    """Q in cm³/min from width and depth of cut (mm) and feed rate (mm/min)."""
    return ae * ap * vf / 1000.0


def engagement_angle(ae: float, diameter: float) -> float:
    """How much of a turn a tooth is in the cut, in radians; `ae` is clipped to 0 … diameter."""
    share = min(max(ae / diameter, 0.0), 1.0)
    return math.acos(1.0 - 2.0 * share)


def chip_thickness(fz: float, ae: float, diameter: float) -> float:
    """Mean chip thickness hm in mm for side milling at 90°: hm = fz · 2 ae / (d φ), φ the engagement angle."""
    phi = engagement_angle(ae, diameter)
    if phi <= 0.0:
        return 0.0
    return fz * 2.0 * min(ae, diameter) / (diameter * phi)


def specific_force(kc11: float, mc: float, h: float) -> float:
    """kc in N/mm² at chip thickness `h` (mm); below 0.001 mm the law no longer holds and is held there."""
    return kc11 * float(max(h, 0.001) ** -mc)


def milling_power(rate: float, kc: float, efficiency: float = 0.8) -> float:
    """Power at the motor in kW for a removal rate in cm³/min and kc in N/mm²: P = Q kc / (60 000 η)."""
    return rate * kc / (60_000.0 * efficiency)


def torque(power: float, n: float, efficiency: float = 0.8) -> float:
    """Torque at the spindle in Nm for a motor power in kW at `n` turns a minute: M = 9549 P η / n; 0 at rest."""
    return 30_000.0 / math.pi * power * efficiency / n if n > 0 else 0.0


YOUNG = {"hss": 210_000.0, "carbide": 600_000.0}
"""Modulus of elasticity in N/mm² of what tools are made of."""
CORE_OF_MILL = 0.8
"""An end mill bends like a round bar of this share of its diameter."""


def deflection(force: float, reach: float, diameter: float, made_of: str) -> float:
    """How far the end of a mill gives way, in mm, under a `force` in N across it, sticking out by `reach` mm: F l³ / (3 E I) with
    I = π d⁴ / 64, d the core of the flutes. Source: the bending of a beam held at one end."""
    core = CORE_OF_MILL * diameter
    return force * reach**3 / (3.0 * YOUNG[made_of] * math.pi * core**4 / 64.0)


def cutting_force(power: float, vc: float, efficiency: float = 0.8) -> float:
    """Mean tangential force in N for a motor power in kW at `vc` m/min: F = 60 000 P η / vc; 0 at rest."""
    return 60_000.0 * power * efficiency / vc if vc > 0 else 0.0


def drill_thrust(diameter: float, f: float, kc: float, tip_angle: float) -> float:
    """Feed force in N of a drill with two lips, from ISO 3002-4: each lip takes a chip of f/2 by d/2, and the part of its force
    along the axis is taken as half of kc: F = kc · f · d/2 · sin(σ/2) / 2 for both. `kc` at h = f/2 · sin(σ/2)."""
    return kc * f * diameter / 2.0 * math.sin(math.radians(tip_angle / 2.0)) / 2.0


def tap_torque(diameter: float, pitch: float, kc: float) -> float:
    """Torque in Nm for cutting a thread with a tap: M = kc · P² · d / 8000, the chip of one thread side taken at the thread's
    radius (the usual formula of tap makers' tables)."""
    return kc * pitch * pitch * diameter / 8000.0


def turning_power(vc: float, ap: float, f: float, kc: float, efficiency: float = 0.8) -> float:
    """Motor power in kW for turning at `vc` (m/min), depth `ap` and feed `f` (mm): P = vc ap f kc / (60 000 η)."""
    return vc * ap * f * kc / (60_000.0 * efficiency)


def roughness(f: float, re: float) -> float:
    """Ra in µm that a nose of radius `re` (mm, > 0) leaves at feed `f` (mm): Ra ≈ f² / (32 re).

    A quarter of the theoretical height Rt = f² / (8 re) of the ridges; source: G. Spur and T. Stöferle, Handbuch der
    Fertigungstechnik, vol. 3/1, turning.
    """
    return 1000.0 * f * f / (32.0 * re)


def feed_for(ra: float, re: float) -> float:
    """The feed in mm that leaves `ra` (µm) with a nose of radius `re` (mm): the inverse of `roughness`."""
    return math.sqrt(32.0 * re * ra / 1000.0)
