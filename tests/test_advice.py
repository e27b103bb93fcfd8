"""Proposed speeds and feeds: what they are made of, what the slider does, and the formulas against arithmetic by hand."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.cutting import (
    MATERIALS,
    cutting_force,
    deflection,
    drill_thrust,
    feed_advice,
    milling_power,
    removal_rate,
    specific_force,
    speed_advice,
    tap_torque,
    thinning,
    torque,
)
from bastler.job import Job, answering, plan
from bastler.post import post
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, RectangularPocket
from bastler.tools import Experience
from conftest import codes, job_of, proof_of

WORK = MATERIALS["steel-mild"]
PLAIN = {"pace": 0.5, "reach": 3.0, "known": None}


def test_the_middle_of_the_range_is_proposed_and_said() -> None:
    found = speed_advice(WORK, "carbide", "", **PLAIN)  # type: ignore[arg-type]
    assert found.value == 140.0
    assert "140 of 110 to 170" in found.because
    assert "ISO P" in found.because


@pytest.mark.parametrize(("pace", "value"), [(0.0, 110.0), (0.25, 125.0), (1.0, 170.0)])
def test_the_slider_goes_from_one_end_of_the_range_to_the_other(pace: float, value: float) -> None:
    assert speed_advice(WORK, "carbide", "", pace=pace, reach=3.0, known=None).value == pytest.approx(value)


def test_coating_and_stick_out_are_factors_that_are_named() -> None:
    found = speed_advice(WORK, "carbide", "TiAlN", pace=0.5, reach=7.5, known=None)
    assert found.value == pytest.approx(140.0 * 1.25 * 0.75)
    assert "× 1.25 for TiAlN" in found.because
    assert "× 0.75 for 7.5 × D stick-out" in found.because
    assert speed_advice(WORK, "carbide", "Diamond", **PLAIN).value == 140.0  # type: ignore[arg-type]


def test_experience_comes_before_the_table() -> None:
    found = speed_advice(WORK, "carbide", "TiAlN", pace=0.5, reach=3.0, known=(95.0, "shop 2026"))
    assert found.value == 95.0
    assert "shop 2026" in found.because
    assert feed_advice(0.1, "table", pace=0.5, reach=3.0, known=(0.045, "")).value == 0.045


@given(st.floats(0.001, 0.4999), st.floats(1.0, 60.0), st.floats(10.0, 90.0))
def test_thinning_keeps_the_thickest_chip(share: float, diameter: float, approach: float) -> None:
    """h = fz sin φ sin κ at the end of the cut, against the full cut's fz."""
    ae = share * diameter
    factor = thinning(ae, diameter, approach)
    thickest = factor * math.sin(math.acos(1 - 2 * share)) * math.sin(math.radians(approach))
    assert thickest == pytest.approx(1.0) if factor < 2.0 else thickest < 1.0
    assert thinning(diameter, diameter) == thinning(diameter / 2, diameter) == 1.0


def test_power_torque_and_force_by_hand() -> None:
    """A cut worked out on paper: ae 8, ap 4, vf 600, kc 2000, n 1500, d 10, η 0.8."""
    power = milling_power(removal_rate(8.0, 4.0, 600.0), 2000.0, 0.8)
    assert power == pytest.approx(8 * 4 * 600 / 1000 * 2000 / 60_000 / 0.8)
    assert torque(power, 1500.0, 0.8) == pytest.approx(0.64 / (2 * math.pi * 1500 / 60) * 1000)
    vc = math.pi * 10 * 1500 / 1000
    assert cutting_force(power, vc, 0.8) == pytest.approx(640.0 / (vc / 60))
    assert torque(1.0, 0.0) == cutting_force(1.0, 0.0) == 0.0


def test_a_mill_bends_as_a_beam_held_at_one_end() -> None:
    inertia = math.pi * 8.0**4 / 64
    assert deflection(100.0, 40.0, 10.0, "carbide") == pytest.approx(100 * 40**3 / (3 * 600e3 * inertia))
    assert deflection(100.0, 80.0, 10.0, "carbide") == pytest.approx(8 * deflection(100.0, 40.0, 10.0, "carbide"))


def test_drill_thrust_and_tap_torque_by_hand() -> None:
    assert drill_thrust(10.0, 0.2, 2000.0, 180.0) == pytest.approx(2000 * 0.2 * 5 / 2)
    assert tap_torque(8.0, 1.25, 2000.0) == pytest.approx(2000 * 1.25**2 * 8 / 8000)
    assert specific_force(2000.0, 0.25, 1.0) == 2000.0


# -- in a step -----------------------------------------------------------------------------------------------------------


def pocketed(**setup: Any) -> Job:
    pocket = RectangularPocket(id="p", x=30.0, y=20.0, length=30.0, width=20.0, depth=5.0)
    return job_of(Facing(id="f"), pocket, **setup)


def test_the_slider_moves_all_that_is_proposed_and_nothing_that_was_typed() -> None:
    typed = answering.answered(pocketed(pace=0.0), "step:p.vf", 333.0)
    careful, brisk = (plan(answering.answered(typed, "stock.pace", p)) for p in (0.0, 100.0))
    for step in ("f", "p"):
        assert careful.step(step).filled.vc < brisk.step(step).filled.vc
    assert careful.step("f").filled.vf < brisk.step("f").filled.vf
    assert careful.step("p").filled.vf == brisk.step("p").filled.vf == 333.0


def test_experience_of_a_tool_is_used_in_its_material_only() -> None:
    job = pocketed()
    tool = plan(job).step("p").stages[0].tool.id
    told = answering.answered(job, f"tool:{tool}.experience", (Experience("aluminium", 111.0, 0.05, "the old hand"),))
    full = plan(told).step("p").filled
    assert (full.vc, full.fz) == (111.0, 0.05)
    assert "the old hand" in full.sources(plan(told).first.ctx)["vc"]
    assert plan(answering.answered(told, "stock.material", "brass")).step("p").filled.vc != 111.0


def test_a_narrow_cut_may_feed_faster() -> None:
    job = pocketed()
    wide, narrow = (plan(answering.answered(job, "step:p.ae", ae)).step("p").filled for ae in (3.0, 0.6))
    assert narrow.fz > wide.fz
    assert "thin" in narrow.sources(plan(job).first.ctx)["fz"]


@pytest.mark.parametrize(("answer", "word"), [(None, "M8"), ("mist", "M7"), ("dry", "")])
def test_the_coolant_is_the_materials_or_what_was_chosen(answer: str | None, word: str) -> None:
    text = post(plan(pocketed(coolant=answer)).first).text
    assert (word in text.split()) if word else not {"M7", "M8", "M9"} & set(text.split())


def test_cast_iron_is_cut_dry_unless_it_is_said_otherwise() -> None:
    job = pocketed(material="cast-iron")
    assert plan(job).first.stock.coolant == "dry"
    assert "M8" not in post(plan(job).first).text.split()


def test_a_slender_mill_is_slowed_and_its_bending_is_said() -> None:
    job = pocketed(material="steel-mild")
    tool = plan(job).step("p").stages[0].tool
    long = msgspec.structs.replace(tool, stick_out=8 * tool.diameter)
    slow = msgspec.structs.replace(job, tools=tuple(long if t.id == tool.id else t for t in job.tools))
    assert plan(slow).step("p").filled.vc < plan(job).step("p").filled.vc
    assert any("bends" in text for _, text in plan(slow).step("p").filled.says(plan(slow).first.ctx))


def test_a_drill_says_its_thrust() -> None:
    pattern = PointsPattern(id="q", name="one", points=((30.0, 20.0),))
    planned = plan(job_of(Facing(id="f"), Drilling(id="d", pattern="q"), patterns=(pattern,)))
    says = " ".join(text for _, text in planned.step("d").filled.says(planned.first.ctx))
    assert "thrust" in says
    assert "Nm" in says


def test_at_low_speeds_the_torque_is_the_limit_of_what_is_proposed_and_of_what_is_proved() -> None:
    weak = answering.answered(pocketed(material="steel-alloy"), "card:mill-600.torque", 6.0)
    free, held = plan(answering.answered(weak, "card:mill-600.torque", 0.0)), plan(weak)
    assert held.step("f").filled.ap < free.step("f").filled.ap
    assert "of 6 Nm" in " ".join(text for _, text in held.step("f").filled.says(held.first.ctx))
    assert not codes(proof_of(weak, 0.4), "stop")
    typed = answering.answered(weak, "step:f.ap", 1.0)
    typed = answering.answered(answering.answered(typed, "step:f.n", 400.0), "step:f.vf", 700.0)
    assert "over-torque" in codes(proof_of(typed, 0.4))


def test_a_tool_that_may_not_turn_faster_is_held_back_and_found() -> None:
    job = pocketed()
    tool = plan(job).step("f").stages[0].tool
    slow = answering.answered(job, f"tool:{tool.id}.most_speed", 900.0)
    assert plan(slow).step("f").filled.n == 900.0
    hits = [r for r in proof_of(answering.answered(slow, "step:f.n", 1500.0), 0.4).remarks if r.code == "over-speed"]
    assert hits
    assert tool.name in hits[0].text
