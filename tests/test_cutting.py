"""Cutting data against worked examples and closed formulas."""

from __future__ import annotations

import math
from typing import Any

import pytest

from bastler.ask import filled
from bastler.cutting import (
    MATERIALS,
    chip_thickness,
    cutting_speed,
    feed_rate,
    milling_power,
    removal_rate,
    specific_force,
    spindle_speed,
)
from bastler.steps import Drilling, Facing, RectangularPocket, replaced
from bastler.tools import shop_crib, tip_length
from conftest import context_of, job_of


def test_speed_and_diameter_belong_together() -> None:
    assert spindle_speed(100, 20) == pytest.approx(1591.549, abs=1e-3)
    assert cutting_speed(spindle_speed(123, 7), 7) == pytest.approx(123)
    assert feed_rate(0.1, 4, 1000) == 400


def test_power_of_a_worked_example() -> None:
    """Slot of 20 mm, 5 deep, vf 400 mm/min in kc 2000 N/mm² at 80 %: Q = 40 cm³/min, P = 40 · 2000 / 60 000 / 0.8."""
    rate = removal_rate(20, 5, 400)
    assert rate == 40
    assert milling_power(rate, 2000) == pytest.approx(1.6667, abs=1e-4)


def test_kienzle() -> None:
    """kc = kc1.1 · h^-mc: equal to kc1.1 at 1 mm, and doubled by each 2^(-1/mc)."""
    assert specific_force(1600, 0.22, 1.0) == 1600
    assert specific_force(1600, 0.25, 2**-4) == pytest.approx(3200)
    assert specific_force(1600, 0.25, 0.0) == specific_force(1600, 0.25, 0.001)


def test_mean_chip_thickness() -> None:
    """In a full slot hm = 2 fz / π; with a thin cut it tends to fz · sqrt(ae / d)."""
    assert chip_thickness(0.1, 20, 20) == pytest.approx(0.2 / math.pi)
    assert chip_thickness(0.1, 0.02, 20) == pytest.approx(0.1 * math.sqrt(0.001), rel=1e-3)
    assert chip_thickness(0.1, 0.0, 20) == 0.0


def test_drill_tips() -> None:
    assert tip_length(10, 118) == pytest.approx(3.00430, abs=1e-5)
    assert tip_length(10, 90) == pytest.approx(5.0)
    assert tip_length(10, 180) == 0.0
    with pytest.raises(ValueError, match="does not exist"):
        tip_length(10, 0)


@pytest.mark.parametrize("work", MATERIALS.values(), ids=lambda m: m.id)
def test_every_material_is_whole(work: object) -> None:
    assert work.group in "PMKNSH"  # type: ignore[attr-defined]
    for low, high in work.vc.values():  # type: ignore[attr-defined]
        assert 0 < low < high


def test_given_speed_wins_and_shows_what_it_means() -> None:
    ctx = context_of(job_of())
    step = filled(Facing(id="a", n=1000.0), ctx)
    assert step.vc == pytest.approx(math.pi * 50)
    assert step.fz is not None
    assert step.vf == pytest.approx(round(step.fz * 5 * 1000))
    step = filled(Facing(id="a", n=1000.0, vf=600.0), ctx)
    assert step.fz == pytest.approx(0.12)


def test_the_machine_holds_the_speed() -> None:
    ctx = context_of(job_of())
    step = filled(RectangularPocket(id="a", tool="end-4", vc=900.0), ctx)
    assert step.n == 12000


def test_inch_jobs_speak_of_feet() -> None:
    ctx = context_of(job_of(unit="inch", size_x=4.0, size_y=3.0, size_z=1.0, over_top=0.05))
    step = filled(Facing(id="a"), ctx)
    assert step.vc == pytest.approx(250 / 0.3048)
    assert step.n == round(250_000 / (math.pi * 50.8))


def test_a_drill_is_found_by_its_diameter() -> None:
    ctx = context_of(job_of())
    assert filled(Drilling(id="a", diameter=8.5), ctx).tool == "drill-8.5"
    assert filled(Drilling(id="a", diameter=8.4), ctx).tool is None


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_crib_is_sound(unit: str) -> None:
    tools: tuple[Any, ...] = shop_crib(unit)
    assert len(tools) >= 12
    assert len({t.station for t in tools}) == len({t.id for t in tools}) == len(tools)
    for tool in tools:
        assert tool.flute_length < tool.stick_out < tool.length
        assert tool.in_unit("mm").in_unit("inch").diameter == pytest.approx(tool.in_unit("inch").diameter)
        shape = tool.profile
        assert shape.height(0.0) == 0.0
        assert shape.width(shape.height(shape.radius * 0.9)) >= shape.radius * 0.9 - 1e-9
    assert replaced(tools[0], station=5).station == 5
