"""Countersinks and counterbores: sizes against arithmetic, clean proofs whatever the answers, faults found."""

from __future__ import annotations

import math

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, Plan, plan
from bastler.motion import Cycle
from bastler.post import Program, post
from bastler.proof import Proof, prove_job
from bastler.shapes import PointsPattern
from bastler.steps import Counterbore, Countersink, Drilling, Facing, Step
from conftest import codes, job_of, many, proof_of
from test_areas import WRONG

PLACES = ((15.0, 12.0), (45.0, 12.0), (30.0, 30.0))
PATTERN = PointsPattern(id="p", name="three", points=PLACES)
DRILLED = Drilling(id="d", pattern="p", diameter=5.0, depth=12.0)


def made(*steps: Step) -> Job:
    return job_of(Facing(id="f"), *steps, patterns=(PATTERN,))


def clean(job: Job, cell: float = 0.1) -> Proof:
    assert not [t for s in plan(job).steps for t in s.troubles]
    proof = proof_of(job, cell)
    found = {r.code: (r.text, r.place, r.line) for r in proof.remarks if r.code in WRONG or r.level == "stop"}
    assert not found, found
    assert proof.comparison.volume("gouge") == proof.comparison.volume("left") == 0.0
    return proof


def taken(proof: Proof, step: str) -> float:
    return sum(s.volume for s in proof.stages if s.step == step)


def frustum(large: float, small: float, angle: float = 90.0) -> float:
    """Volume between two diameters of a cone."""
    height = (large - small) / 2 / math.tan(math.radians(angle / 2))
    return math.pi * height / 12 * (large**2 + large * small + small**2)


def test_a_countersink_over_drilled_holes() -> None:
    """What is taken is the cone less the hole; the depth follows from the diameter and the tool's blunt tip."""
    no_spot = msgspec.structs.replace(DRILLED, spot="no")
    job = made(no_spot, Countersink(id="c", pattern="p", diameter=9.0))
    tool = plan(job).step("c").stages[0].tool
    assert tool.id == "chamfer-12"  # blunt, and the holes are wide enough for it
    assert taken(clean(job, 0.04), "c") == pytest.approx(3 * (frustum(9, 5) - math.pi / 4 * 25 * 2.0), rel=0.02)
    lowest = min(m.z for m in plan(job).step("c").stages[0].moves if isinstance(m, Cycle))
    assert lowest == pytest.approx(-(9.0 - 2.0) / 2)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize(("depth", "fits"), [(0.8, False), (8.0, True)])
def test_a_blunt_tip_wants_a_hole_as_deep_as_it_goes(unit: str, depth: float, fits: bool) -> None:
    mm = 1.0 if unit == "mm" else 1 / 25.4
    wide = 5.0 if unit == "mm" else 0.25
    places = PointsPattern(id="p", name="one", points=((15.0 * mm, 12.0 * mm),))
    drilled = Drilling(id="d", pattern="p", diameter=wide, depth=depth * mm, spot="no")
    blunt = "chamfer-12" if unit == "mm" else "chamfer-1/2"
    job = job_of(
        Facing(id="f"), drilled, Countersink(id="c", pattern="p", diameter=11.0 * mm, tool=blunt), patterns=(places,), unit=unit,
        size_x=60 * mm, size_y=40 * mm, size_z=24 * mm, over_top=1.0 * mm,
    )  # fmt: skip
    found = plan(job).step("c").troubles
    assert [t.field for t in found] == ([] if fits else ["tool"])
    if fits:
        assert not codes(proof_of(job, 0.2), "stop")


def test_a_countersink_into_the_full_takes_a_tool_with_a_point() -> None:
    job = made(Countersink(id="c", pattern="p", diameter=8.0))
    assert plan(job).step("c").stages[0].tool.id == "spot-10"
    assert taken(clean(job, 0.04), "c") == pytest.approx(3 * frustum(8, 0), rel=0.02)
    blunt = made(Countersink(id="c", pattern="p", diameter=8.0, tool="chamfer-12"))
    (trouble,) = plan(blunt).step("c").troubles
    assert trouble.field == "tool"
    assert trouble.fits == "spot-10"


@pytest.mark.parametrize(("tool", "what"), [("end-10", "plunged"), ("end-6", "milled"), ("end-4", "in a spiral")])
def test_a_counterbore_is_a_cylinder(tool: str, what: str) -> None:
    job = made(Counterbore(id="c", pattern="p", diameter=10.0, depth=4.0, tool=tool))
    assert taken(clean(job, 0.05), "c") == pytest.approx(3 * math.pi * 25 * 4, rel=5e-3), what
    over = made(DRILLED, Counterbore(id="c", pattern="p", diameter=10.0, depth=4.0, tool=tool))
    rim = frustum(6.0, 5.0) - math.pi / 4 * 25 * 0.5  # what the spot, a millimetre wider, took beside the drill
    before = math.pi / 4 * 25 * 4 + rim
    assert taken(clean(over, 0.05), "c") == pytest.approx(3 * (math.pi * 25 * 4 - before), rel=8e-3)


def test_a_counterbore_as_wide_as_the_tool_is_a_canned_cycle() -> None:
    lines = post(plan(made(Counterbore(id="c", pattern="p", diameter=10.0, depth=4.0, tool="end-10", dwell=0.5))).first).lines
    assert any("G82" in line and "Z-4" in line and "P0.5" in line for line in lines)


@settings(max_examples=many(15))
@given(
    st.floats(6.2, 18.0), st.floats(0.5, 9.0), st.sampled_from([None, "end-16", "end-10", "end-6", "end-4"]), st.booleans(),
    st.sampled_from(["over", "clearance"]),
)  # fmt: skip
def test_counterbores_of_any_size(diameter: float, depth: float, tool: str | None, drilled: bool, back: str) -> None:
    step = Counterbore(id="c", pattern="p", diameter=diameter, depth=depth, tool=tool, back_to=back)  # type: ignore[arg-type]
    job = made(*([DRILLED] if drilled else []), step)
    if not plan(job).step("c").troubles:
        clean(job, 0.3)
    else:
        assert tool is not None
        assert plan(made(msgspec.structs.replace(step, tool=None))).step("c").stages


@settings(max_examples=many(15))
@given(st.floats(2.5, 10.0), st.booleans(), st.sampled_from(["over", "clearance"]))
def test_countersinks_of_any_size(diameter: float, drilled: bool, back: str) -> None:
    step = Countersink(id="c", pattern="p", diameter=diameter, back_to=back)  # type: ignore[arg-type]
    clean(made(*([DRILLED] if drilled else []), step), 0.3)


@pytest.mark.parametrize(
    "step", [Countersink(id="c", pattern="p", diameter=9.0), Counterbore(id="c", pattern="p", diameter=11.0, depth=5.0)],
    ids=["countersink", "counterbore"],
)  # fmt: skip
def test_a_length_measured_wrong_is_found_out(step: Step) -> None:
    """A planted fault: every plunge goes 0.4 too deep."""
    job = made(DRILLED, step)
    planned = plan(job)
    tool = planned.step("c").stages[0].tool
    worn = tuple(msgspec.structs.replace(t, length=t.length + 0.4) if t.id == tool.id else t for t in job.tools)
    proof = prove_job(plan(msgspec.structs.replace(job, tools=worn)), Program.foreign(_as_measured_before(planned)), cell_mm=0.1)
    assert "gouge" in codes(proof)


def _as_measured_before(planned: Plan) -> str:
    """The program with the heights of its last tool 0.4 lower."""
    lines = list(post(planned.first).lines)
    begin = max(k for k, line in enumerate(lines) if line.startswith(("(4", "(3")))
    for k in range(begin, len(lines)):
        words = [f"Z{float(w[1:]) - 0.4:.3f}" if w.startswith("Z-") else w for w in lines[k].split()]
        lines[k] = " ".join(words)
    return "\n".join(lines)


@pytest.mark.parametrize(
    ("step", "field"),
    [
        (Countersink(id="c", pattern="p", diameter=24.0), "diameter"),
        (Countersink(id="c", pattern="p", diameter=8.0, angle=60.0), "tool"),
        (Countersink(id="c", pattern="x", diameter=8.0), "pattern"),
        (Counterbore(id="c", pattern="p", diameter=8.0, tool="end-10"), "tool"),
        (Counterbore(id="c", pattern="p", diameter=11.0, depth=40.0), "depth"),
        (Counterbore(id="c", pattern="p", diameter=11.0, tool="ball-8"), "tool"),
    ],
)
def test_what_cannot_be_is_said_where_it_is_asked(step: Step, field: str) -> None:
    assert [t.field for t in plan(made(step)).step("c").troubles] == [field]


def test_a_countersink_down_in_a_counterbore_takes_a_tool_that_gets_there() -> None:
    """The floor of a counterbore of 11 is met by the flank of a tool of 12: it is said, and a narrower one is taken unasked."""
    bored = Counterbore(id="b", pattern="p", diameter=11.0, depth=6.0)
    sink = Countersink(id="c", pattern="p", diameter=9.0)
    job = made(DRILLED, bored, sink)
    done = plan(job).step("c")
    assert done is not None
    tool = done.ctx.tool(getattr(done.filled, "tool", None) or "")
    assert tool is not None
    assert tool.diameter < 11.0
    clean(job)
    wide = plan(made(DRILLED, bored, msgspec.structs.replace(sink, tool="chamfer-12"))).step("c")
    assert wide is not None
    (trouble,) = wide.troubles
    assert (trouble.field, trouble.fits) == ("tool", tool.id)
    assert "stands higher beside it" in trouble.text
