"""A pass that leaves something on an outline, and that it is said where nothing takes it."""

from __future__ import annotations

from typing import Any

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.samples import sample, sample_names
from bastler.proof import Remark, TurnProof, prove_job
from bastler.shapes import TurnedOutline
from bastler.steps import CentreHole, TurnFacing, TurnFinishing, TurnRest, TurnRoughing
from bastler.units import Unit
from conftest import many, sample_proof, turned
from outlines import along, edge, slant, up
from outlines import outline as outline_of

SHAFT = outline_of(id="o", name="seat", d=30.0, z=0.0, pieces=(edge(1.0), along(-20), up(40), along(-30), slant(d=62, angle=45)))
BORE = outline_of(id="o", name="bore", inside=True, d=36.0, z=0.0, pieces=(along(-12), up(30), along(-24), up(18)))
ROUGH = TurnRoughing(id="r", outline="o")
THICK = TurnRoughing(id="r", outline="o", leave_d=2.0, leave_z=1.0)


def made(*steps: Any, outline: TurnedOutline = SHAFT) -> Job:
    drill = (CentreHole(id="d", work="drill", diameter=20.0, depth=50.0, tool="drill-20"),) if outline.inside else ()
    return turned(TurnFacing(id="f"), *drill, *steps, outlines=(outline,))


def proved(job: Job) -> TurnProof:
    proof = prove_job(plan(job))
    assert isinstance(proof, TurnProof)
    return proof


def said(proof: TurnProof) -> list[Remark]:
    return [r for r in proof.remarks if r.code == "allowance-left"]


@settings(max_examples=many(8))
@given(
    st.floats(0.1, 1.5),
    st.one_of(st.none(), st.floats(0.0, 0.6)),
    st.sampled_from(["computed", "control"]),
    st.sampled_from([SHAFT, BORE]),
)
def test_a_pass_before_the_last_leaves_what_was_said(
    d: float, z: float | None, compensation: Any, outline: TurnedOutline
) -> None:
    """On every cylinder and face of the outline, and the last pass takes all of it."""
    before = TurnFinishing(id="a", outline="o", leave_d=d, leave_z=z, compensation=compensation)
    last = TurnFinishing(id="e", outline="o")
    half, whole = proved(made(THICK, before, outline=outline)), proved(made(THICK, before, last, outline=outline))
    once = proved(made(ROUGH, last, outline=outline))
    assert not [r for p in (half, whole) for r in p.remarks if r.level == "stop"]
    assert [r.step for r in said(half)] == ["a"]
    assert said(half)[0].amount == pytest.approx(d)
    assert not said(whole)
    assert whole.part.symmetric_difference(once.part).area < 1e-4 * once.part.area
    left_z = d / 2 if z is None else z
    sign = -1.0 if outline.inside else 1.0
    for end in (-10.0, -27.0) if not outline.inside else (-6.0, -20.0):  # amid each cylinder
        radius = {-10.0: 15.0, -27.0: 20.0, -6.0: 18.0, -20.0: 15.0}[end]
        wall = half.part.intersection(half.part.envelope.intersection(_slice(end)))
        found = wall.bounds[1] if outline.inside else wall.bounds[3]
        assert found == pytest.approx(radius + sign * d / 2, abs=1e-3)
    face = -20.0 if not outline.inside else -12.0
    level = 17.5 if not outline.inside else 16.5  # amid the face between two cylinders
    ring = half.part.intersection(_ring(level))
    assert max(g.bounds[2] for g in getattr(ring, "geoms", [ring])) == pytest.approx(face + left_z, abs=1e-3)


def _slice(z: float) -> Any:
    return shapely.box(z - 0.01, 0.0, z + 0.01, 100.0)


def _ring(r: float) -> Any:
    return shapely.box(-100.0, r - 0.01, 100.0, r + 0.01)


@pytest.mark.parametrize("outline", [SHAFT, BORE], ids=["outside", "bore"])
def test_roughed_and_never_finished_is_said(outline: TurnedOutline) -> None:
    """It was called proved without a word: the part is larger than its outline all along."""
    found = said(proved(made(ROUGH, outline=outline)))
    assert [(r.level, r.step) for r in found] == [("caution", "r")]
    assert outline.name in found[0].text
    assert not said(proved(made(TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0), outline=outline)))


def test_of_two_steps_that_leave_something_it_is_said_of_the_last() -> None:
    before = TurnFinishing(id="a", outline="o", leave_d=0.2)
    assert [r.step for r in said(proved(made(ROUGH, before)))] == ["a"]
    assert not said(proved(made(ROUGH, before, TurnRest(id="q", outline="o", tool="v35-04"))))
    assert [r.step for r in said(proved(made(ROUGH, TurnFinishing(id="e", outline="o", on=False))))] == ["r"]


@pytest.mark.parametrize("name", sample_names())
def test_samples_leave_nothing(name: str) -> None:
    assert not [r for r in sample_proof(name).remarks if r.code == "allowance-left"]


@pytest.mark.parametrize(("name", "ident"), [("drum-spindle", "s3"), ("gland-nut", "s7")])
@pytest.mark.parametrize("leave", [0.0, 0.01, 5.0, 80.0, 99_999.0])
@pytest.mark.parametrize("compensation", ["computed", "control"])
def test_whatever_is_left_it_plans_and_says_so(name: str, ident: str, leave: float, compensation: str) -> None:
    job = answering.answered(sample(name), f"step:{ident}.leave_d", leave)
    proof = proved(answering.answered(job, f"step:{ident}.compensation", compensation))
    assert bool(said(proof)) == (leave > 0), [r.text for r in proof.remarks]


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_amount_is_said_in_the_job_s_unit(unit: Unit) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    outline = outline_of(id="o", name="seat", d=30.0 * k, z=0.0, pieces=(along(-20 * k), up(62 * k)))
    sizes = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0}
    bar: dict[str, Any] = {name: value * k for name, value in sizes.items()}
    job = turned(TurnFacing(id="f"), TurnRoughing(id="r", outline="o", leave_d=0.02), outlines=(outline,), unit=unit, **bar)
    assert f"0.02 {'mm' if unit == 'mm' else 'in'} on Ø" in said(proved(job))[0].text


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_one_shoulder_that_is_forgotten_is_told_with_its_place(unit: Unit) -> None:
    """Two outlines are roughed as one, and finished each by itself but for a seat of a few millimetres."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    whole = outline_of(id="o", name="all", d=30.0 * k, z=0.0, pieces=(along(-20 * k), up(40 * k), along(-40 * k), up(62 * k)))
    most = outline_of(id="q", name="most", d=30.0 * k, z=0.0, pieces=(along(-15 * k), slant(d=42 * k, z=-20.5 * k)))
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    steps = TurnFacing(id="f"), TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="q")
    found = said(proved(turned(*steps, outlines=(whole, most), unit=unit, **size)))
    assert [r.step for r in found] == ["r"]
    place = found[0].place
    assert place is not None
    assert place[2] < -19.5 * k
    assert not said(proved(turned(*steps[:2], TurnFinishing(id="e", outline="o"), outlines=(whole,), unit=unit, **size)))


@settings(max_examples=many(10), deadline=None)
@given(
    st.lists(st.tuples(st.floats(0.6, 12.0), st.floats(0.4, 8.0)), min_size=1, max_size=4),
    st.floats(0.1, 1.2), st.floats(0.02, 0.4), st.sampled_from(["v35-04", "d55-04", "c80-08"]),
)  # fmt: skip
def test_what_is_finished_keeps_nothing_however_short_its_pieces_are(
    shoulders: list[tuple[float, float]], d: float, z: float, tool: str
) -> None:
    pieces, at, across = [], 0.0, 20.0
    for long, high in shoulders:
        at, across = at - long, across + 2 * high
        pieces += [along(at), up(across)]
    outline = outline_of(id="o", name="steps", d=20.0, z=0.0, pieces=(*pieces, along(at - 5.0)))
    steps = TurnRoughing(id="r", outline="o", leave_d=d, leave_z=z), TurnFinishing(id="e", outline="o", tool=tool)
    job = turned(TurnFacing(id="f"), *steps, outlines=(outline,), diameter=max(60.0, across + 2.0))
    if plan(job).steps[-1].troubles:
        return
    assert not said(proved(job))
    forgotten = said(proved(made(steps[0], outline=outline)))
    assert [r.step for r in forgotten] == ["r"] or across > 58.0
