"""Faults planted in turned parts: each is found, at its line, with a way out where there is one."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest

from bastler.job import Job, answering, edits, plan
from bastler.job.samples import sample
from bastler.post import Program, post
from bastler.proof import Remark, TurnProof, prove_job
from bastler.proof.turn.checks import check
from bastler.steps import CentreHole, FreeMove, FreeMoves, Groove, PartOff, Threading, TurnFacing, TurnFinishing, TurnRoughing
from conftest import codes, turned
from outlines import along, slant, up
from outlines import outline as outline_of


def remark(proof: TurnProof, code: str) -> Remark:
    found = [r for r in proof.remarks if r.code == code]
    assert found, [(r.code, r.text) for r in proof.remarks]
    return max(found, key=lambda r: r.amount)


def by_hand(job: Job, old: str, new: str) -> tuple[TurnProof, list[str]]:
    """The job's program with the first line that begins with `old` changed."""
    lines = list(post(plan(job).first).lines)
    at = next(k for k, line in enumerate(lines) if line.startswith(old))
    lines[at] = new
    return prove_job(plan(job), Program.foreign("\n".join(lines))), lines


def test_a_tube_entered_as_a_solid_bar_is_no_crash() -> None:
    """The groove tool's way out follows the stock as cut, whatever was said about the blank."""
    tube = turned(TurnFacing(id="f"), Groove(id="g", side="inside", z=-15, width=3, floor_d=24), form="tube", bore=20.0)
    assert not codes(prove_job(plan(tube)), "stop")
    solid = answering.answered(tube, "stock.form", "bar")
    proof = prove_job(plan(solid))
    assert "rapid-in-stock" not in codes(proof)
    refused = remark(proof, "answer")
    assert refused.step == "g"


def test_a_wrong_retract_in_a_bore_is_found_at_its_line() -> None:
    moves = (FreeMove("rapid", 22, 5), FreeMove("rapid", 22, -20), FreeMove("rapid", 40, -20))
    job = turned(
        TurnFacing(id="f"),
        FreeMoves(id="m", tool="bore-c80-04", moves=moves, home="out"),
        form="tube",
        bore=30.0,
    )
    proof = prove_job(plan(job))
    hit = next(r for r in proof.remarks if r.code == "rapid-in-stock")
    assert hit.level == "stop"
    assert hit.step == "m"
    assert proof.program.lines[hit.line - 1] == "X40"
    assert hit.amount > 1.0


def test_a_blunt_tip_on_a_steep_recess_names_the_tool_that_reaches() -> None:
    recess = outline_of(
        id="o", name="o", d=40, z=0, pieces=(along(-10), slant(d=32, angle=42), along(-36), up(44), along(-50), up(62))
    )
    job = turned(
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o"),
        TurnFinishing(id="e", outline="o", tool="d55-04"),
        outlines=(recess,),
    )
    found = remark(prove_job(plan(job)), "tip-reach")
    assert found.step == "e"
    assert "42° wall, the tool clears 30°" in found.text
    assert found.cure is not None
    assert found.cure.value in ("v35-04", "v35-04-107")
    healed = prove_job(plan(answering.answered(job, found.cure.address, found.cure.value)))
    assert not codes(healed, "stop")


def test_faster_than_the_chuck_is_good_for() -> None:
    job = answering.answered(turned(TurnFacing(id="f")), "step:f.cap", 3800.0)
    found = remark(prove_job(plan(job)), "chuck-rating")
    assert found.level == "stop"
    assert "the chuck is good for 3000" in found.text
    assert found.cure is not None
    assert found.cure.address == "step:f.cap"
    assert "chuck-rating" not in codes(prove_job(plan(answering.answered(job, found.cure.address, found.cure.value))))


def test_a_tap_deeper_than_its_hole() -> None:
    steps = (
        TurnFacing(id="f"),
        CentreHole(id="d", work="drill", diameter=8.5, depth=25.0),
        CentreHole(id="t", work="tap", diameter=10.0, depth=20.0, tool="tap-m10"),
    )
    proof = prove_job(plan(turned(*steps)))
    found = remark(proof, "tap-bottoming")
    assert found.step == "t"
    assert found.amount > 0
    assert not codes(prove_job(plan(answering.answered(turned(*steps), "step:d.depth", 32.0))), "stop")


def test_a_groove_by_the_wrong_edge_is_off_by_its_width() -> None:
    job = turned(TurnFacing(id="f"), Groove(id="g", z=-20, width=3, floor_d=52, edges="one"))
    proof, lines = by_hand(job, "T0303", "T0313")
    gouge = remark(proof, "gouge")
    assert lines[gouge.line - 1].startswith("X52")
    assert proof.comparison.greatest("gouge") == pytest.approx(3.0, abs=0.2)
    assert "left" in codes(proof)


def test_the_back_allowance_forgotten_makes_a_short_part() -> None:
    job = turned(TurnFacing(id="f"), PartOff(id="p", z=-60.0), over_back=0.5)
    found = remark(prove_job(plan(job)), "short-part")
    assert found.level == "stop"
    assert found.amount == pytest.approx(0.5, abs=1e-3)
    assert not codes(prove_job(plan(answering.answered(job, "step:p.z", None))), "stop")


def test_a_part_off_that_does_not_come_through() -> None:
    job = turned(TurnFacing(id="f"), PartOff(id="p"))
    last = [line for line in post(plan(job).first).lines if line.startswith("X-")][-1]
    proof, _ = by_hand(job, last, "X6 F0.036")
    assert remark(proof, "not-parted").amount == pytest.approx(6.0, abs=0.5)


def test_a_thread_without_a_relief() -> None:
    outline = outline_of(id="o", name="o", d=24, z=0, pieces=(along(-30), up(62)))
    job = turned(
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o", leave_d=0),
        Threading(id="t", thread="M24", length=20.0),
        outlines=(outline,),
    )
    found = remark(prove_job(plan(job)), "thread-run-out")
    assert found.level == "caution"
    assert found.step == "t"


def test_a_stage_in_the_jaws() -> None:
    outline = outline_of(id="o", name="o", d=50, z=0, pieces=(along(-100), up(62)))
    proof = prove_job(plan(turned(TurnFacing(id="f"), TurnRoughing(id="r", outline="o"), outlines=(outline,))))
    assert remark(proof, "jaws-hit").step == "r"


def test_facing_past_the_tailstock_centre() -> None:
    proof = prove_job(plan(turned(TurnFacing(id="f"), tailstock="yes", centre_d=20.0)))
    assert remark(proof, "tailstock-hit").level == "stop"


def test_surface_speed_without_a_cap() -> None:
    proof, _ = by_hand(turned(TurnFacing(id="f")), "G50", "(no cap)")
    assert remark(proof, "no-cap").level == "stop"


def test_feed_per_turn_on_a_lathe_without_an_encoder() -> None:
    job = turned(TurnFacing(id="f"), machine="lathe-bench")
    lines = list(post(plan(job).first).lines)
    assert not any("G99" in line or "G96" in line for line in lines)
    at = next(k for k, line in enumerate(lines) if "G98" in line)
    lines[at] = "G99"
    proof = prove_job(plan(job), Program.foreign("\n".join(lines)))
    assert "no-encoder" in codes(proof, "stop")


def test_threads_are_refused_without_an_encoder_with_the_reason() -> None:
    planned = plan(turned(TurnFacing(id="f"), Threading(id="t"), machine="lathe-bench"))
    assert "no encoder" in planned.step("t").troubles[0].text


def test_an_outline_with_nothing_in_it_is_said_at_its_place() -> None:
    job = turned(
        TurnRoughing(id="r", outline="o"), outlines=(outline_of(id="o", name="o", d=40, pieces=(along(-10), slant(d=50))),)
    )
    found = remark(prove_job(plan(job)), "answer")
    assert found.field == "outline:o.segments.1"


def test_lengths_that_do_not_add_up() -> None:
    job = answering.answered(turned(TurnFacing(id="f")), "stock.finished", 120.0)
    found = remark(prove_job(plan(job)), "answer")
    assert found.field == "stock.length"
    assert found.cure is not None
    assert found.cure.value == pytest.approx(121.0)


def test_a_wrong_station_is_known() -> None:
    proof, _ = by_hand(turned(TurnFacing(id="f")), "T0101", "T0909")
    assert "tool-unknown" in codes(proof)


def test_all_checks_have_codes_of_their_own() -> None:
    assert len(check.on("turned")) >= 20
    assert all(entry.code == entry.code.lower() and " " not in entry.code for entry in check.entries)
    for plane in ("flat", "turned"):
        codes = [entry.code for entry in check.on(plane)]
        assert len(set(codes)) == len(codes)
    with pytest.raises(ValueError, match="registered already"):
        check("air")


def test_the_samples_stay_clean_with_either_way_of_threading() -> None:
    job = sample("drum-spindle")
    for infeed in ("flank", "straight"):
        proof = prove_job(plan(answering.answered(job, "step:s6.infeed", infeed)))
        assert [r.code for r in proof.remarks] == ["part-drops"]
    dull = msgspec.structs.replace(job, tools=tuple(t for t in job.tools if t.id != "thread-60"))
    assert remark(prove_job(plan(dull)), "answer").step == "s6"


@pytest.mark.parametrize(("unit", "name", "at"), [("mm", "M24", 24.0), ("mm", "M12 x 1", 12.0), ("inch", "1/2-13 UNC", 0.5)])
@pytest.mark.parametrize("side", ["outside", "inside"])
def test_a_relief_is_put_before_the_thread_it_is_for(unit: Any, name: str, at: float, side: Any) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    job = turned(Threading(id="t", thread=name, side=side, z=-2.0 * k, length=12.0 * k), unit=unit)
    relieved = edits.cured(job, "add:relief:t", None)
    groove, thread = relieved.steps
    assert isinstance(groove, Groove)
    assert thread == job.steps[0]
    assert (groove.side, groove.z) == (side, pytest.approx(-14.0 * k))
    assert groove.width > 0
    assert (groove.floor_d < at) if side == "outside" else (groove.floor_d > at)
    assert edits.cured(job, "add:relief:nobody", None) == job
