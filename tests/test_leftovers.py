"""What nobody takes: allowances of the setup and land beside an outline are left, said, and cured either way."""

from __future__ import annotations

import math
from typing import Any

import pytest
import shapely
from shapely import affinity

from bastler.job import Job, answering, edits, plan
from bastler.job.samples import sample
from bastler.post import Program, post
from bastler.proof import Proof, Remark, prove_job
from bastler.proof.measure import thickness
from bastler.proof.report import report
from bastler.shapes import PlanOutline, PlanSegment
from bastler.steps import Drilling, Facing, OutlineMilling, RectangularPocket, TurnFacing
from conftest import codes, job_of, job_with, proof_of, sample_proof, turned

POCKET = RectangularPocket(id="b", x=30, y=20, length=30, width=20)
INCH_POCKET = RectangularPocket(id="b", x=1.2, y=0.8, length=1.2, width=0.8, depth=0.2, corner_radius=0.25)


def said(proof: Proof, code: str) -> Remark:
    return next(r for r in proof.remarks if r.code == code)


def cured(job: Job, remark: Remark, way: int = 0) -> Any:
    cure = remark.cures[way]
    return proof_of(edits.cured(job, cure.address, cure.value))


def test_raw_stock_on_the_top_that_no_step_takes() -> None:
    job = job_of(POCKET, over_top=1.2)
    proof = proof_of(job)
    remark = said(proof, "raw-left")
    assert (remark.level, proof.proved, proof.verdict) == ("caution", True, "left")
    assert remark.amount == pytest.approx(1.2)
    assert remark.place is not None
    assert remark.place[2] == pytest.approx(1.2)
    pocket = 30 * 20 - (4 - math.pi) * 5.0**2  # its corners keep the radius of the tool
    left = report(proof)["left"]
    assert left["setup"] == pytest.approx(1.2 * (60 * 40 - pocket), rel=0.01)
    assert left["steps"] == left["said"] == 0
    assert report(proof)["left_volume"] == left["setup"]
    faced = cured(job, remark)
    assert faced.verdict == "proved"
    assert not codes(faced, "caution") | codes(faced, "stop")
    meant = cured(job, remark, 1)
    assert meant.verdict == "proved"
    assert said(meant, "raw-stays").level == "note"
    assert report(meant)["left"]["said"] == pytest.approx(left["setup"])


def test_the_same_in_an_inch_job() -> None:
    blank: dict[str, Any] = {"size_x": 2.4, "size_y": 1.6, "size_z": 0.8, "over_top": 0.05, "vise": "no"}
    job = job_of(INCH_POCKET, unit="inch", **blank)
    proof = proof_of(job)
    assert said(proof, "raw-left").amount == pytest.approx(0.05)
    assert cured(job, said(proof, "raw-left")).verdict == "proved"


def test_what_is_faced_in_part_is_left_in_part() -> None:
    proof = proof_of(job_of(Facing(id="f", finish_z=0.4), over_top=1.2))
    assert said(proof, "raw-left").amount == pytest.approx(0.4)
    assert report(proof)["left"]["setup"] == pytest.approx(0.4 * 60 * 40, rel=1e-3)


def test_facing_by_hand_is_no_gouge() -> None:
    """The finished part is the truth: taking what the setup says has to come off is right, whoever does it."""
    pocket = edits.replace(POCKET, top=0.0)
    job = job_of(Facing(id="f"), pocket, over_top=1.2)
    unfaced = plan(job_of(pocket, over_top=1.2))
    proof = prove_job(unfaced, Program.foreign(post(plan(job).first).text), cell_mm=0.1)
    assert not codes(proof) & {"gouge", "raw-left", "left"}


@pytest.mark.parametrize("vise", ["no", "yes"])
@pytest.mark.parametrize("form", ["block", "disc"])
def test_the_sides(vise: str, form: str) -> None:
    job = job_of(Facing(id="f"), over_sides=1.5, vise=vise, grip=6.0, form=form, diameter=50.0)
    proof = proof_of(job)
    remark = said(proof, "raw-left")
    high = 19.0 - (6.0 if vise == "yes" else 0.0)
    ring = 60 * 40 - 57 * 37 if form == "block" else math.pi * (25**2 - 23.5**2)
    assert remark.amount == pytest.approx(high)
    assert report(proof)["left"]["setup"] == pytest.approx(ring * high, rel=0.01)
    after = cured(job, remark)
    assert "raw-left" not in codes(after), [r.text for r in after.remarks]
    assert not {"gouge", "left"} & codes(after)
    assert said(cured(job, remark, 1), "raw-stays").level == "note"


def test_a_thin_skin_on_the_sides_is_seen_although_it_is_thinner_than_a_cell() -> None:
    job = job_of(Facing(id="f"), over_sides=1.5)
    thick, ident = edits.step_added(job, "rectangular-boss", "f")
    for name, value in {"x": 28.5, "y": 18.5, "length": 57.1, "width": 37.1, "depth": 10.0, "corner": "sharp"}.items():
        thick = answering.answered(thick, f"step:{ident}.{name}", value)
    deep = answering.answered(thick, f"step:{ident}.depth", 19.0)
    assert said(proof_of(deep), "raw-left").amount == pytest.approx(0.05, rel=0.3)
    assert said(proof_of(thick), "raw-left").amount == pytest.approx(9.0)


def test_an_empty_job_is_told_nothing_of_its_stock() -> None:
    assert codes(proof_of(job_of(over_top=1.2))) == {"nothing"}


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_front_of_a_turned_part(unit: str) -> None:
    job = turned(unit=unit)
    job, _ = edits.step_added(job, "centre-hole", "")
    proof = prove_job(plan(job))
    remark = said(proof, "raw-left")
    over = job.stock.over_front
    assert remark.amount == pytest.approx(over)
    assert proof.verdict == "left"
    faced = cured(job, remark)
    assert "raw-left" not in codes(faced)
    assert said(cured(job, remark, 1), "raw-stays").level == "note"


def test_a_turned_part_that_is_faced_has_nothing_left() -> None:
    assert prove_job(plan(turned(TurnFacing(id="f")))).verdict == "proved"


def outline(*points: tuple[float, float]) -> PlanOutline:
    first, *others = points
    segments = tuple(PlanSegment(kind="line", x=x, y=y) for x, y in (*others, first))
    return PlanOutline(id="o", name="rim", x=first[0], y=first[1], segments=segments)


ROUND = ((15.0, 10.0), (45.0, 10.0), (45.0, 30.0), (15.0, 30.0))
NOTCHED = ((15.0, 8.0), (45.0, 8.0), (45.0, 32.0), (34.0, 32.0), (34.0, 20.0), (26.0, 20.0), (26.0, 32.0), (15.0, 32.0))


@pytest.mark.parametrize("points", [ROUND, NOTCHED])
@pytest.mark.parametrize("side", ["right", "left"])
def test_land_beside_an_outline_can_be_meant_in_two_ways(points: tuple, side: Any) -> None:
    step = OutlineMilling(id="m", outline="o", side=side, depth=6.0, tool="end-6")
    job = edits.replace(job_of(Facing(id="f"), step), outlines=(outline(*points),))
    proof = proof_of(job)
    remark = said(proof, "land")
    assert proof.verdict == "left"
    cleared, groove = cured(job, remark), cured(job, remark, 1)
    assert not codes(cleared) & {"land", "left", "gouge"}
    assert not codes(groove) & {"land", "left", "gouge"}
    assert groove.removed == pytest.approx(proof.removed)
    part = shapely.Polygon(points)
    side_area = 60 * 40 - part.area if side == "right" else part.area
    faced = 60 * 40 * 1.0
    corners = (len(points) if side == "left" else 2 if points is NOTCHED else 0) * (1 - math.pi / 4) * 3.0**2
    assert cleared.removed - faced == pytest.approx(6.0 * (side_area - corners), rel=0.01)


def test_land_that_another_step_takes_is_not_asked_for() -> None:
    job = edits.replace(job_of(Facing(id="f")), outlines=(outline(*ROUND),))
    job, boss = edits.step_added(job, "free-boss", "f")
    job = answering.answered(answering.answered(job, f"step:{boss}.outline", "o"), f"step:{boss}.depth", 6.0)
    step = OutlineMilling(id="m", outline="o", side="right", depth=6.0, top=0.0)
    job = job_with(job, steps=(*job.steps, step))
    assert "land" not in codes(proof_of(job))


@pytest.mark.parametrize("name", ["winch-base", "fixture-of-six", "pawl-plate", "bearing-cap", "drum-spindle", "gland-nut"])
def test_the_samples_leave_nothing_that_is_not_said_to_stay(name: str) -> None:
    assert sample_proof(name).verdict == "proved"


def test_what_a_step_promised_and_did_not_take_is_a_stop() -> None:
    job = job_of(Facing(id="f"), POCKET)
    lines = list(post(plan(job).first).lines)
    last = max(k for k, line in enumerate(lines) if line.startswith("G1 Z"))
    low = float(lines[last].split()[1][1:])
    lines[last] = lines[last].replace(f"Z{low:g}", f"Z{low + 0.5:g}")
    proof = prove_job(plan(job), Program.foreign("\n".join(lines)), cell_mm=0.1)
    assert said(proof, "left").level == "stop"
    assert proof.verdict == "stop"
    assert report(proof)["left"]["steps"] > 0


def test_a_program_that_was_cut_short_is_not_said_to_leave_things_too() -> None:
    lines = list(post(plan(job_of(Facing(id="f"), POCKET, Drilling(id="d"))).first).lines)
    lines[12] += " ?"
    proof = prove_job(plan(job_of(Facing(id="f"), POCKET)), Program.foreign("\n".join(lines)), cell_mm=0.1)
    assert "unreadable" in codes(proof, "stop")
    assert not codes(proof) & {"left", "raw-left"}


@pytest.mark.parametrize("angle", [0.0, 37.0, 90.0])
def test_one_measure_of_thickness(angle: float) -> None:
    """A layer is as thick as it is, however it lies; a disc as its diameter."""
    layer = affinity.rotate(shapely.box(0, 0, 30, 0.01), angle)
    assert thickness(layer) == pytest.approx(0.01, rel=0.03)
    assert thickness(shapely.Point(3, 4).buffer(2.0)) == pytest.approx(4.0, rel=0.03)
    assert thickness(shapely.MultiPolygon([layer, shapely.box(50, 50, 51, 52)])) == pytest.approx(1.0, rel=0.03)
    assert thickness(shapely.Polygon()) == 0.0


@pytest.mark.parametrize("cell", [None, 0.1, 0.17, 0.4])
def test_what_is_said_to_stay_is_told_whatever_the_cell(cell: float | None) -> None:
    """The block of the winch base is 152 × 102, the part 150 × 100, and what is faced ends 24.5 over the grip."""
    proof = prove_job(plan(sample("winch-base")), cell_mm=cell)
    assert report(proof)["left"]["said"] == pytest.approx(24.5 * (152 * 102 - 150 * 100), rel=1e-6)
