"""The formulas of cutting against what they stand for: integrals over chip, lip, beam and thread, worked out here another way."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.cutting.formulas import (
    CORE_OF_MILL,
    YOUNG,
    chip_thickness,
    cutting_force,
    cutting_speed,
    deflection,
    drill_thrust,
    feed_for,
    milling_power,
    removal_rate,
    roughness,
    tap_torque,
    torque,
    turning_power,
)


def mean(values: np.ndarray) -> float:
    """Mean over equal steps, with half weight at the ends."""
    return float((values[:-1] + values[1:]).mean() / 2)


@given(st.floats(0.1, 40.0), st.floats(20.0, 20_000.0), st.floats(0.5, 1.0))
def test_torque_and_force_carry_the_power(power: float, n: float, efficiency: float) -> None:
    """P η = M ω = F v, in kW, Nm, 1/s, N and m/s."""
    omega = 2 * math.pi * n / 60
    assert torque(power, n, efficiency) * omega / 1000 == pytest.approx(power * efficiency)
    vc = cutting_speed(n, 20.0)
    force = cutting_force(power, vc, efficiency)
    assert force * (vc / 60) / 1000 == pytest.approx(power * efficiency)
    assert force * 0.010 == pytest.approx(torque(power, n, efficiency)), "at a radius of 10 mm"


def test_nothing_is_asked_of_a_spindle_at_rest() -> None:
    assert torque(5.0, 0.0) == 0.0
    assert cutting_force(5.0, 0.0) == 0.0


@given(st.floats(50, 400), st.floats(0.2, 6.0), st.floats(0.05, 0.6), st.floats(600, 4000))
def test_turning_power_is_the_force_on_the_chip_times_its_speed(vc: float, ap: float, f: float, kc: float) -> None:
    force = kc * ap * f  # N, on a chip of ap by f
    assert turning_power(vc, ap, f, kc, 1.0) == pytest.approx(force * vc / 60 / 1000)
    assert turning_power(vc, ap, f, kc) == pytest.approx(turning_power(vc, ap, f, kc, 1.0) / 0.8)
    assert turning_power(vc, ap, f, kc) == pytest.approx(milling_power(removal_rate(f, ap, vc * 1000), kc)), (
        "volume a minute by kc"
    )


@given(st.floats(0.01, 0.5), st.floats(2.0, 80.0), st.floats(0.02, 1.0))
def test_mean_chip_of_side_milling(fz: float, diameter: float, share: float) -> None:
    """A tooth at angle φ takes fz sin φ, from 0 to where it comes out of the side cut."""
    ae = share * diameter
    out = math.acos(1 - 2 * ae / diameter)
    assert chip_thickness(fz, ae, diameter) == pytest.approx(fz * mean(np.sin(np.linspace(0, out, 2001))), rel=1e-5)


@given(st.floats(1.0, 2000.0), st.floats(10.0, 150.0), st.floats(1.0, 32.0), st.sampled_from(sorted(YOUNG)))
def test_a_mill_bends_like_a_beam_held_at_one_end(force: float, reach: float, diameter: float, made_of: str) -> None:
    """The bending line from its curvature M / (E I), with the load at the free end, summed up twice."""
    moment_of_area = math.pi * (CORE_OF_MILL * diameter) ** 4 / 64
    x = np.linspace(0.0, reach, 4001)
    curvature = force * (reach - x) / (YOUNG[made_of] * moment_of_area)
    step = x[1]
    slope = np.concatenate(([0.0], np.cumsum((curvature[1:] + curvature[:-1]) / 2) * step))
    assert deflection(force, reach, diameter, made_of) == pytest.approx(mean(slope) * reach, rel=1e-5)


@given(st.floats(1.0, 40.0), st.floats(0.02, 0.6), st.floats(600, 4000), st.floats(60.0, 150.0))
def test_thrust_of_a_drill_along_its_lips(diameter: float, f: float, kc: float, tip_angle: float) -> None:
    """Each of two lips takes a chip as thick as f/2 · sin(σ/2) along its slanting length; half its force lies across the lip."""
    half = math.radians(tip_angle / 2)
    lip, thick = diameter / 2 / math.sin(half), f / 2 * math.sin(half)
    assert drill_thrust(diameter, f, kc, tip_angle) == pytest.approx(2 * (kc / 2) * lip * thick * math.sin(half))


@given(st.floats(3.0, 36.0), st.floats(0.35, 4.0), st.floats(600, 4000))
def test_a_tap_takes_the_groove_of_its_nut(diameter: float, pitch: float, kc: float) -> None:
    """The groove of ISO 68-1 between the minor and the major diameter of a nut: 5/8 H deep, 3/4 P wide at its mouth and P/8 at
    its ground. The tables' quarter of P² is on the careful side of it, and by little."""
    deep = 5 / 8 * math.sqrt(3) / 2 * pitch
    groove = deep * (3 / 4 + 1 / 8) / 2 * pitch
    exact = kc * groove * diameter / 2 / 1000
    assert exact < tap_torque(diameter, pitch, kc) < 1.06 * exact


@given(st.floats(0.2, 2.4), st.floats(0.05, 0.5))
def test_roughness_of_ridges_between_round_noses(re: float, share: float) -> None:
    """The mean distance from its own mean line of a profile of arcs, at feeds of up to half the nose radius."""
    f = share * re
    x = np.linspace(-f / 2, f / 2, 4001)
    profile = re - np.sqrt(re * re - x * x)
    exact = 1000 * mean(np.abs(profile - mean(profile)))
    assert roughness(f, re) == pytest.approx(exact, rel=0.04)
    assert feed_for(roughness(f, re), re) == pytest.approx(f)


def test_worked_examples_of_a_textbook() -> None:
    """M. P. Groover, Fundamentals of Modern Manufacturing, 3rd ed.: the power and the specific energy of an orthogonal cut of
    3.0 mm by 0.50 mm at 100 m/min with 1557 N (chapter 21), and the roughness behind a nose of 1.2 mm at 0.25 mm (chapter 24)."""
    power = 1557.0 * 100.0 / 60_000.0
    assert power == pytest.approx(2.595, abs=5e-4)
    kc = power * 60_000.0 / (100.0 * 3.0 * 0.50)  # N/mm², the specific energy in J/mm³ a thousand times
    assert kc == pytest.approx(1038.0, abs=0.5)
    assert turning_power(100.0, 3.0, 0.50, 1038.0, 1.0) == pytest.approx(2.595, abs=5e-4)
    assert roughness(0.25, 1.2) == pytest.approx(1.63, abs=0.005)
    assert 4 * roughness(0.25, 1.2) == pytest.approx(6.5, abs=0.05), "its Ri is the height of the ridges"
