"""Faults planted on purpose: each is found, at its line, with a way out where there is one."""

from __future__ import annotations

import msgspec
import pytest

from bastler.job import Job, answering, plan
from bastler.post import Program, post
from bastler.proof import Proof, Remark, prove_job
from bastler.proof.found import Check
from bastler.proof.mill.checks import MillView, check
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, RectangularPocket
from conftest import codes, job_of, proof_of

HOLES = PointsPattern(id="p", name="p", points=((15.0, 20.0), (45.0, 20.0)))


def remark(proof: Proof, code: str) -> Remark:
    found = [r for r in proof.remarks if r.code == code]
    assert found, [(r.code, r.text) for r in proof.remarks]
    return max(found, key=lambda r: r.amount)


def edited(job: Job, change: dict[str, str], insert: dict[str, str] | None = None) -> tuple[Proof, list[str]]:
    """The job's program with lines changed by hand: line beginning → what it becomes, or what is put before it."""
    lines = list(post(plan(job).first).lines)
    for start, new in change.items():
        at = next(k for k, line in enumerate(lines) if line.startswith(start))
        lines[at] = new
    for start, new in (insert or {}).items():
        at = next(k for k, line in enumerate(lines) if line.startswith(start))
        lines.insert(at, new)
    return prove_job(plan(job), Program.foreign("\n".join(lines)), cell_mm=0.2), lines


def line_of(lines: list[str], start: str) -> int:
    return next(k for k, line in enumerate(lines, 1) if line.startswith(start))


def test_a_clearance_below_a_jaw() -> None:
    job = job_of(Facing(id="f"), vise="yes", grip=19.5, jaw_width=50.0)
    proof = proof_of(job, 0.2)
    hit = remark(proof, "jaw-hit")
    assert hit.level == "stop"
    assert proof.program.lines[hit.line - 1].startswith("X87")
    assert "face" in hit.stage
    assert hit.amount == pytest.approx(0.5)
    assert not proof_of(answering.answered(job, "holding:h1.grip", 10.0), 0.2).remarks


def test_a_rapid_across_that_is_too_low() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20))
    proof, lines = edited(job, {}, {"M9": "G0 Z-2\nG0 X-40"})
    lines = "\n".join(lines).splitlines()
    hits = [r for r in proof.remarks if r.code == "rapid-in-stock"]
    assert {r.line for r in hits} >= {line_of(lines, "G0 X-40")}
    assert all(r.level == "stop" for r in hits)
    assert hits[0].amount == pytest.approx(2.0, abs=0.01)


def test_depth_twice_the_flutes() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, depth=28.0, tool="end-6", corner_radius=4.0), size_z=40.0)
    hit = remark(proof_of(job, 0.2), "deeper-than-flutes")
    assert hit.level == "stop"
    assert hit.amount == pytest.approx(14.0, abs=0.1)
    assert hit.step == "b"


def test_a_deeper_cut_than_the_flutes_is_cured_by_a_longer_tool() -> None:
    step = RectangularPocket(id="b", x=30, y=20, length=30, width=24, depth=13.0, tool="end-4", corner_radius=8.5)
    job = job_of(Facing(id="f"), step, size_z=40.0)
    hit = remark(proof_of(job, 0.2), "shank-in-stock")
    assert hit.cure is not None
    assert hit.cure.address.startswith("step:b.")
    healed = proof_of(answering.answered(job, hit.cure.address, hit.cure.value), 0.2)
    assert not [r for r in healed.remarks if (r.code, r.stage) == (hit.code, hit.stage)]
    deeper = answering.answered(job, "step:b.depth", 38.5)
    assert remark(proof_of(deeper, 0.2), "shank-in-stock").cure is None, "no tool of the list reaches so far"


def test_a_holder_in_the_stock() -> None:
    tools = [msgspec.structs.replace(t, stick_out=15.0, flute_length=14.0) if t.id == "end-10" else t for t in job_of().tools]
    job = msgspec.structs.replace(
        job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, depth=17.5, tool="end-10"), size_z=30.0), tools=tuple(tools)
    )
    assert remark(proof_of(job, 0.2), "holder-in-stock").amount == pytest.approx(2.5, abs=0.05)


def test_a_pocket_tool_too_large_is_refused_with_what_fits() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, corner_radius=3.5, tool="end-16"))
    proof = proof_of(job, 0.2)
    refused = remark(proof, "answer")
    assert "R8 does not go into a corner of R3.5" in refused.text
    assert refused.cure is not None
    assert refused.cure.value == "end-6"
    cured = answering.answered(job, refused.cure.address, refused.cure.value)
    cured = answering.answered(cured, "step:b.tool", "end-6")
    assert not codes(proof_of(cured, 0.2), "stop")


def test_a_retract_plane_in_the_stock() -> None:
    job = job_of(
        Facing(id="f"), Drilling(id="b", pattern="p", depth=8.0, top=-4.0, back_to="clearance", spot="no"), patterns=(HOLES,)
    )
    proof = proof_of(job, 0.2)
    hit = remark(proof, "rapid-in-stock")
    assert hit.level == "stop"
    assert hit.step == "b"
    assert proof.program.lines[hit.line - 1].startswith(("G99", "X45"))
    assert hit.cure is not None
    healed = proof_of(answering.answered(job, hit.cure.address, hit.cure.value), 0.2)
    assert "rapid-in-stock" not in codes(healed)


def test_a_missing_peck() -> None:
    job = job_of(Facing(id="f"), Drilling(id="b", pattern="p", depth=40.0, method="once"), patterns=(HOLES,), size_z=60.0)
    hit = remark(proof_of(job, 0.2), "peck-missing")
    assert hit.level == "caution"
    assert hit.cure is not None
    healed = proof_of(answering.answered(job, hit.cure.address, hit.cure.value), 0.2)
    assert "peck-missing" not in codes(healed)


def test_a_missing_q_word() -> None:
    job = job_of(Facing(id="f"), Drilling(id="b", pattern="p", depth=8.0, spot="no"), patterns=(HOLES,))
    cycle = next(line for line in post(plan(job).first).lines if "G83" in line)
    without = " ".join(word for word in cycle.split() if not word.startswith("Q"))
    proof, lines = edited(job, {cycle: without})
    assert remark(proof, "peck-missing").line == lines.index(without) + 1


def test_a_program_edited_by_hand_gouges_at_its_line() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, finish="no"))
    lines = list(post(plan(job).first).lines)
    at = max(k for k, line in enumerate(lines) if line.startswith("G1 Y") and k > 30)
    aside = "-3" if float(lines[at].split()[1][1:]) < 20 else "3"
    back = aside.removeprefix("-") if aside.startswith("-") else f"-{aside}"
    lines[at + 1 : at + 1] = ["G91", f"G1 Y{aside}", f"Y{back}", "G90"]
    at += 2
    proof = prove_job(plan(job), Program.foreign("\n".join(lines)), cell_mm=0.1)
    gouge = remark(proof, "gouge")
    assert gouge.level == "stop"
    assert abs(gouge.line - (at + 1)) <= 1
    assert 1.5 < gouge.amount <= 3.0


def test_a_floor_cut_too_deep() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, finish="no", depth=5.0))
    text = "\n".join(post(plan(job).first).lines).replace("Z-5", "Z-5.2")
    proof = prove_job(plan(job), Program.foreign(text), cell_mm=0.2)
    assert remark(proof, "gouge").amount == pytest.approx(0.2, abs=1e-4)


def test_a_corner_the_tool_leaves() -> None:
    """A text for a larger tool: what stands in the corners is told with its thickness."""
    wanted = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, corner_radius=3.0, tool="end-6", finish="no"))
    coarse = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, corner_radius=8.0, tool="end-16", finish="no"))
    proof = prove_job(plan(wanted), post(plan(coarse).first), cell_mm=0.1)
    left = remark(proof, "left")
    assert left.level == "stop"
    assert left.step == "b"
    thick = (8 - 3) * (2**0.5 - 1)
    assert proof.comparison.greatest("left") == pytest.approx(thick, rel=0.15)


def test_over_speed_over_travel_and_spindle_off() -> None:
    job = job_of(Facing(id="f"))
    proof, lines = edited(job, {"S1592": "S19000 M3"})
    assert remark(proof, "over-speed").line >= line_of(lines, "S19000")
    proof, lines = edited(job, {"S1592": "S1592"})
    assert remark(proof, "spindle-off").line >= line_of(lines, "G1 Z0")
    proof, lines = edited(job, {}, {"M9": "G0 X900"})
    over = remark(proof, "over-travel")
    assert over.line == line_of(lines, "G0 X900")
    assert over.amount == pytest.approx(900 + 270 - 600, abs=1)


def test_over_power() -> None:
    job = job_of(
        Facing(id="f"),
        RectangularPocket(id="b", x=30, y=20, length=50, width=30, corner_radius=8, tool="end-16", ap=16, depth=16),
    )
    job = answering.answered(answering.answered(job, "stock.material", "steel-alloy"), "job.machine", "mill-old")
    proof = proof_of(job, 0.2)
    hit = remark(proof, "over-power")
    assert hit.step == "b"
    assert hit.cure is not None


def test_no_feed() -> None:
    proof, lines = edited(job_of(Facing(id="f")), {"G1 Z0": "G1 Z0"})
    assert remark(proof, "feed-missing").line == line_of(lines, "G1 Z0")


def test_a_full_depth_bite() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, length=55, depth=15, ap=15), size_z=30.0)
    hit = remark(proof_of(job, 0.2), "full-bite")
    assert hit.cure is not None
    healed = proof_of(answering.answered(job, hit.cure.address, hit.cure.value), 0.2)
    assert codes(healed) <= {"full-width"}


def test_a_plunge_with_a_tool_that_does_not_cut_over_its_centre() -> None:
    proof, lines = edited(job_of(Facing(id="f")), {}, {"M9": "G0 X30 Y20 Z1\nG1 Z-3 F100\nG0 Z20"})
    lines = "\n".join(lines).splitlines()
    assert remark(proof, "plunge").line == line_of(lines, "G1 Z-3")


def test_air_cutting() -> None:
    job = job_of(Facing(id="f"), Facing(id="g", tool="end-16"))
    hit = remark(proof_of(job, 0.2), "air")
    assert hit.step == "g"


def test_another_work_offset() -> None:
    proof, _ = edited(job_of(Facing(id="f")), {}, {"M9": "G55 G0 Z50"})
    assert {"offset-unknown", "other-offset"} <= codes(proof)


def test_a_forgotten_length_offset_crashes_on_screen_not_on_the_machine() -> None:
    proof, _ = edited(job_of(Facing(id="f")), {"G43": "G0 Z26"})
    assert "gouge" in codes(proof, "stop")


@pytest.mark.parametrize("entry", check.on("flat"), ids=lambda entry: entry.code)
def test_a_clean_job_raises_none_of_the_checks(entry: Check) -> None:
    job = job_of(
        Facing(id="f"), RectangularPocket(id="b", x=30, y=20), Drilling(id="c", pattern="p"), patterns=(HOLES,), vise="yes"
    )
    proof = proof_of(job, 0.2)
    for stage in proof.stages:
        assert list(entry.find(MillView(proof.scene, proof.trace, stage.begin, stage.end, stage.proof, proof.grid))) == []
