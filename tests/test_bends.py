"""Slender work: what it gives way against closed formulas, and that it is said where it matters and only there."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from bastler.job import Job, plan
from bastler.job.samples import sample, sample_names
from bastler.proof import Remark, prove_job
from bastler.proof.turn.bends import ACROSS, MODULUS, compliance, propped
from bastler.steps import TurnFinishing, TurnRoughing
from conftest import sample_proof, turned
from outlines import along, up
from outlines import outline as outline_of


def test_a_plain_bar_bends_as_a_cantilever() -> None:
    """F l³ / 3 EI."""
    stiff = np.full(40, MODULUS["P"] * math.pi / 64 * 20.0**4)
    assert compliance(stiff, 100.0) == pytest.approx(100.0**3 / (3 * stiff[0]), rel=1e-3)


def test_a_stepped_bar_bends_as_its_parts_do() -> None:
    """The unit load integral over two parts: a thick one at the jaws, l/2 long, and a thin one."""
    thick, thin, long = 4e9, 5e8, 80.0
    stiff = np.concatenate([np.full(200, thick), np.full(200, thin)])
    exact = (long**3 - (long / 2) ** 3) / (3 * thick) + (long / 2) ** 3 / (3 * thin)
    assert compliance(stiff, long) == pytest.approx(exact, rel=1e-4)


def test_on_a_centre_it_bends_as_a_propped_beam() -> None:
    """In the middle 7 F l³ / 768 EI; at the centre and at the jaws nothing."""
    assert propped(1e9, 50.0, 100.0) == pytest.approx(7 * 100.0**3 / (768 * 1e9))
    assert propped(1e9, 100.0, 100.0) == propped(1e9, 0.0, 100.0) == 0.0


def slender(d: float = 16.0, long: float = 150.0, unit: str = "mm", **setup: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / 25.4
    outline = outline_of(id="o", name="o", d=(d - 4) * k, z=0.0, pieces=(along(-0.8 * long * k), up((d + 2) * k)))
    size = {"diameter": d * k, "length": (long + 40) * k, "over_front": 0.0, "finished": long * k, "stick_out": (long + 5) * k}
    steps = TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o")
    more: Any = size | setup
    return turned(*steps, outlines=(outline,), unit=unit, **more)


def bent(job: Job) -> list[Remark]:
    return [r for r in prove_job(plan(job)).remarks if r.code == "bends"]


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_slender_shaft_is_told_with_what_a_centre_would_do(unit: str) -> None:
    found = bent(slender(unit=unit))
    assert found
    assert "mm in diameter" in found[0].text
    assert "tailstock centre" in found[0].text
    assert {r.level for r in found} == {"caution"}


def test_both_units_bend_alike() -> None:
    metric, inches = (bent(slender(unit=unit)) for unit in ("mm", "inch"))
    assert metric[0].amount == pytest.approx(inches[0].amount, rel=0.1)


def test_a_stout_one_is_not_told_and_neither_is_any_sample() -> None:
    assert bent(slender(d=40.0, long=60.0)) == []
    for name in sample_names():
        if sample(name).turns:
            assert not [r for r in sample_proof(name).remarks if r.code == "bends"], name


def test_titanium_bends_more_than_steel() -> None:
    """Its modulus is half of it, and the force is not."""
    steel, titanium = (max(r.amount for r in bent(slender(material=m))) for m in ("steel-alloy", "titanium"))
    assert MODULUS["S"] < 0.6 * MODULUS["P"]
    assert titanium > steel
    assert 0.2 < ACROSS < 0.6
