"""Turned work where a wrong part was once called proved: each of these fails without its mend."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely

from bastler.cutting import bites, largest_bite, thread_of
from bastler.job import Job, answering, edits, new_job, plan
from bastler.job.samples import sample
from bastler.machines import CARDS
from bastler.motion import Go
from bastler.motion.turning.bars import Bars
from bastler.nc import read
from bastler.post import Program, post
from bastler.proof import Remark, prove_job, scene_of
from bastler.proof.turn.threads import grooves
from bastler.steps import (
    CentreHole,
    Drilling,
    FreeMoves,
    Groove,
    PartOff,
    Repeat,
    Threading,
    TurnFacing,
    TurnFinishing,
    TurnRoughing,
)
from bastler.steps.turn.free_moves import FreeMove
from bastler.tools import TurnTool
from bastler.units import Unit
from conftest import codes, job_of, job_with, proof_of, turned
from outlines import along, up
from outlines import outline as outline_of

FACE = TurnFacing(id="f")


def said(job: Job, code: str) -> Remark:
    return next(r for r in prove_job(plan(job)).remarks if r.code == code)


# -- where the stock is ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("count", "floors"), [(1, [-8.0]), (2, [-8.0, -3.0])])
def test_a_groove_on_the_face_starts_where_the_stock_is(count: int, floors: list[float]) -> None:
    """In a recess of 5 it is 3 deep from the floor of the recess."""
    recess = TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0, way="across")
    bore = outline_of(id="o", name="o", d=50.0, z=0.0, pieces=(along(-5), up(24)))
    bore = msgspec.structs.replace(bore, inside=True)
    job = turned(FACE, recess, Groove(id="g", side="face", outer_d=44.0, width=4.0, depth=3.0, count=count, pitch=14.0),
                 outlines=(bore,), form="tube", bore=20.0)  # fmt: skip
    step = plan(job).step("g")
    assert step is not None
    ctx, groove = step.ctx, step.filled
    if plan(job).step("r").troubles:
        pytest.skip("no bar goes into that bore")
    assert [round(groove.floor(ctx, k), 3) for k in range(count)] == floors  # type: ignore[attr-defined]


def test_a_hole_begins_where_the_stock_is() -> None:
    job = turned(FACE, CentreHole(id="a", diameter=8.5, depth=12.0, work="drill"), CentreHole(id="b", diameter=5.0, depth=5.0))
    second = plan(job).step("b")
    assert second is not None
    assert second.filled.z < -9.0  # type: ignore[attr-defined]


def test_a_shoulder_that_only_touches_a_window_is_not_in_it() -> None:
    shoulder = outline_of(id="o", d=40.0, z=0, name="o", pieces=(along(-20), up(62)))
    job = turned(FACE, TurnFinishing(id="e", outline="o"), outlines=(shoulder,))
    ctx = plan(job).steps[-1].turned
    stock = plan(turned(FACE, *job.steps[1:], PartOff(id="p"), outlines=(shoulder,))).step("p").turned
    assert stock.outer(-19.0, 0.0) == pytest.approx(20.0, abs=1e-3)
    assert stock.finished_outer(-20.0, -10.0) == pytest.approx(20.0, abs=1e-3)
    assert ctx.outer(-20.0, -10.0) == 30.0


@pytest.mark.parametrize("edge", [0.0, 0.5, 1.5])
@pytest.mark.parametrize("nose", ["c80-08", None])
def test_part_off_behind_an_outline_that_ends_at_the_finished_length(edge: float, nose: str | None) -> None:
    """The fillet of the tip at the back edge goes, and the edge is broken on the finished diameter."""
    shape = outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-60), up(62)))
    tools = {t.id for t in new_job("mm", "lathe-200").tools}
    tool = nose if nose in tools else None
    steps = (
        FACE,
        TurnRoughing(id="r", outline="o"),
        TurnFinishing(id="e", outline="o", tool=tool),
        PartOff(id="p", edge_break=edge),
    )
    proof = prove_job(plan(turned(*steps, outlines=(shape,), length=140.0)))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    (piece,) = [g for s in proof.stages for g in s.proof.fallen if g.area > 10.0]
    assert piece.bounds[3] == pytest.approx(20.0, abs=0.005), "no lip"
    back = piece.intersection(shapely.box(-60.0, 0.0, -59.999, 30.0)).bounds[3]
    assert back == pytest.approx(20.0 - edge, abs=0.02)


# -- threads -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("size", "gauge"), [("1/8", 4.0), ("1/4", 6.0), ("1/2", 8.2), ("3/4", 9.5), ("1", 10.4), ("2", 15.9)])
def test_a_taper_thread_has_its_diameters_at_the_gauge_plane(size: str, gauge: float) -> None:
    """ISO 7-1: on an outside thread the gauge plane lies the gauge length behind the front."""
    spec = thread_of(f"R {size}")
    assert spec.gauge == gauge
    job = turned(FACE, Threading(id="t", thread=f"R {size}", length=gauge + 4.0), diameter=math.ceil(spec.major))
    planned = plan(job).step("t")
    assert planned is not None
    thread, ctx = planned.filled, planned.ctx
    measured = thread.thread_gauge(ctx)  # type: ignore[attr-defined]
    assert 2 * measured.at(-gauge) == pytest.approx(spec.pitch_diameter)
    assert 2 * measured.at(0.0) == pytest.approx(spec.pitch_diameter - gauge / 16)
    (stage,) = planned.stages
    deepest = min(m.v for m in stage.moves if isinstance(m, Go) and m.u > 0)
    assert deepest < thread.crest(ctx) + 0.01  # type: ignore[attr-defined]


NAMES = [
    ("M6", 6.0),
    ("M24", 24.0),
    ("M24 x 1.5", 24.0),
    ("1/2-13 UNC", 12.7),
    ("G 3/4", 26.441),
    ("Tr 36 x 6", 36.0),
    ("Tr 40 x 7", 40.0),
]


@pytest.mark.parametrize(("name", "major"), NAMES)
@pytest.mark.parametrize("infeed", ["flank", "straight", "alternating"])
def test_the_groove_of_a_thread_is_half_a_pitch_wide(name: str, major: float, infeed: Any) -> None:
    """ISO 724, ISO 228-1, ISO 2904: at the pitch diameter ridge and groove are equally wide."""
    proof = prove_job(plan(turned(FACE, Threading(id="t", thread=name, length=18.0, infeed=infeed), diameter=major)))
    assert codes(proof) <= {"thread-run-out", "bends"}, [r.text for r in proof.remarks]  # six mm stick out ninety
    (gauge,) = [w.gauge for w in proof.scene.wanted if w.gauge]
    widths = grooves(gauge, proof.part)
    assert len(widths) >= 18.0 / gauge.pitch - 2
    assert widths == pytest.approx([gauge.pitch / 2] * len(widths), abs=0.002)


@pytest.mark.parametrize("tip", [0.0, 0.05, 0.3])
def test_a_tip_of_another_flat_goes_another_depth(tip: float) -> None:
    job = turned(FACE, Threading(id="t", thread="M24 x 1.5", off=0.0, length=12.0, tool="thread-60"), diameter=24.0)
    job = answering.answered(answering.answered(job, "tool:thread-60.corner_radius", 0.0), "tool:thread-60.tip", tip)
    proof = prove_job(plan(job))
    assert codes(proof) <= {"thread-run-out"}
    deepest = proof.trace.end[proof.trace.lead > 0, 0].min()
    assert 2 * deepest == pytest.approx(24 - 0.649519 * 1.5 - (0.75 - tip) / math.tan(math.radians(30)), abs=0.002)


def test_a_blunt_tip_is_refused_for_a_fine_pitch() -> None:
    job = turned(FACE, Threading(id="t", thread="M24 x 1", length=12.0, tool="thread-60"), diameter=24.0)
    job = answering.answered(job, "tool:thread-60.tip", 0.4)
    (trouble,) = plan(job).step("t").troubles
    assert "0.4 wide" in trouble.text


def test_a_program_for_another_tip_or_without_its_thread_is_stopped() -> None:
    job = turned(FACE, Threading(id="t", thread="M24 x 1.5", length=12.0, tool="thread-60"), diameter=24.0)
    text = post(plan(job).first).text
    blunt = answering.answered(answering.answered(job, "tool:thread-60.corner_radius", 0.0), "tool:thread-60.tip", 0.3)
    assert "thread-width" in codes(prove_job(plan(blunt), Program.foreign(text)), "stop")
    without = post(plan(turned(FACE, diameter=24.0)).first).text
    assert "thread-missing" in codes(prove_job(plan(job), Program.foreign(without)), "stop")


def test_a_thread_on_stock_that_was_not_turned_down_is_a_stop() -> None:
    assert said(turned(FACE, Threading(id="t", thread="M24 x 1.5", length=12.0), diameter=24.6), "thread-crest").level == "stop"


def test_first_bites_and_slides_are_held_to_what_they_bear() -> None:
    job = turned(FACE, Threading(id="t", thread="Tr 36 x 6", length=18.0), diameter=36.0)
    step = plan(job).step("t")
    assert step is not None
    assert step.filled.first == pytest.approx(largest_bite(6.0), abs=1e-3)  # type: ignore[attr-defined]
    assert step.filled.n * 6.0 <= 0.5 * step.ctx.card.feed_most + 3.0  # type: ignore[attr-defined]
    assert len(bites(3.5, 0.56, 0.12, 0.03, 1)) < 30
    assert said(answering.answered(job, "step:t.first", 1.2), "thread-bite").amount > 0.3
    assert said(answering.answered(job, "step:t.n", 1150.0), "thread-fast").level == "caution"


@pytest.mark.parametrize(("layer", "found"), [(5.5, True), (0.4, False)])
def test_a_finishing_pass_that_takes_a_roughing_layer(layer: float, found: bool) -> None:
    shape = outline_of(id="o", name="o", d=60.0 - 2 * layer, z=0.0, pieces=(along(-30), up(62)))
    proof = prove_job(plan(turned(FACE, TurnFinishing(id="e", outline="o"), outlines=(shape,))))
    assert ("finish-bite" in codes(proof, "caution")) == found


@pytest.mark.parametrize(("noses", "level"), [(0.9, None), (1.2, "caution"), (2.1, "stop")])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_feed_past_the_nose_leaves_ridges(unit: Unit, noses: float, level: str | None) -> None:
    job = turned(TurnFacing(id="f"), unit=unit)
    step: Any = plan(job).step("f")
    feed = noses * step.ctx.turn_tool(step.filled.tool).nose
    proof = prove_job(plan(answering.answered(job, "step:f.f", feed)))
    assert [r.level for r in proof.remarks if r.code == "ridges"] == ([level] if level else [])


def test_ridges_are_told_of_a_program_from_elsewhere_and_of_a_finish() -> None:
    shape = outline_of(id="o", name="o", d=58.0, z=0.0, pieces=(along(-30), up(62)))
    job = turned(FACE, TurnFinishing(id="e", outline="o", f=0.48), outlines=(shape,))
    assert said(job, "ridges").level == "caution"
    text = post(plan(job).first).text.replace("F0.48", "F0.85")
    assert "ridges" in codes(prove_job(plan(job), Program.foreign(text)), "caution")


# -- taps, offsets, materials ----------------------------------------------------------------------------------------------

HOLE = (FACE, CentreHole(id="d", work="drill", diameter=5.0, depth=25.0))


def tapped(**dialect: Any) -> Job:
    card = CARDS["lathe-200"]
    card = msgspec.structs.replace(card, dialect=msgspec.structs.replace(card.dialect, **dialect))
    job = turned(*HOLE, CentreHole(id="t", work="tap", diameter=6.0, depth=12.0))
    return msgspec.structs.replace(job, cards=(card,))


def test_a_rigid_tap_comes_back_within_a_cycle() -> None:
    lines = post(plan(tapped()).first).lines
    assert any("G84" in line for line in lines)
    assert not any("M4" in line for line in lines)
    proof = prove_job(plan(tapped()))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    assert set(proof.trace.lead) == {0.0, 1.0}


def test_without_the_cycle_a_rigid_tap_is_refused_with_the_reason() -> None:
    (trouble,) = plan(tapped(cycles=())).step("t").troubles
    assert "floating holder" in trouble.text


def test_a_tap_that_is_turned_back_while_z_stands_tears_its_thread() -> None:
    """Half a second from 400 turns to rest, at a spindle that needs 2.4 s to 4000: 0.8 turns of 1 mm."""
    job = tapped()
    lines = list(post(plan(job).first).lines)
    at = next(k for k, line in enumerate(lines) if "G84" in line)
    lines[at : at + 2] = ["G97 S400", "G33 Z-16 F1", "M4", "G33 Z2 F1", "M3"]
    remark = next(r for r in prove_job(plan(job), Program.foreign("\n".join(lines))).remarks if r.code == "tap-coasts")
    seconds = 2.4 * 400 / 4000
    assert remark.level == "stop"
    assert remark.amount == pytest.approx(400 / 60 * seconds / 2 * 1.0, rel=1e-6)


def test_offsets_of_a_turret_with_many_stations_are_their_own() -> None:
    tool = next(t for t in new_job("mm", "lathe-200").tools if isinstance(t, TurnTool) and t.kind == "grooving")
    for stations in (4, 8, 10, 12, 24):
        every = {s for k in range(1, stations + 1) for s in (k, tool.standing(k, stations).second)}
        assert len(every) == 2 * stations


def test_an_offset_that_two_edges_share_is_a_stop_with_a_way_out() -> None:
    job = turned(FACE, Groove(id="g", z=-20.0, width=4.0, floor_d=52.0))
    used = plan(job).step("g").stages[0].tool
    clash = answering.answered(job, f"tool:{used.id}.offset", 1)
    remark = said(clash, "offset-clash")
    assert remark.level == "stop"
    assert remark.cure is not None
    assert "offset-clash" not in codes(prove_job(plan(edits.cured(clash, remark.cure.address, remark.cure.value))))


def test_x_as_a_radius_is_written_and_read_as_one() -> None:
    shape = outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-20), up(62)))
    job = turned(FACE, TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o"), outlines=(shape,))
    card = CARDS["lathe-200"]
    half = msgspec.structs.replace(card, dialect=msgspec.structs.replace(card.dialect, diameter_x=False))
    other = msgspec.structs.replace(job, cards=(half,))
    a, b = (read(post(plan(j).first).text, scene_of(plan(j)).control) for j in (job, other))
    assert "X as radius" in post(plan(other).first).text
    assert not b.findings
    assert np.abs(a.end - b.end).max() < 0.0011
    assert not codes(prove_job(plan(other)), "stop")


@pytest.mark.parametrize("make", ["milled", "turned"])
def test_steel_tools_do_not_cut_hardened_steel(make: str) -> None:
    job = turned(*HOLE, material="hardened") if make == "turned" else job_of(Drilling(id="d"), material="hardened")
    job = job if make == "turned" else edits.pattern_for(job, "d", "points")
    troubles = [t for p in plan(job).steps for t in p.troubles]
    assert any("HSS" in t.text and "carbide" in t.text for t in troubles)
    assert "answer" in codes(prove_job(plan(job)), "stop")


# -- the way of the tip ------------------------------------------------------------------------------------------------------


def test_heights_that_rounding_has_parted_are_one_pass() -> None:
    stock = shapely.box(-30, 0, 0, 30)
    for off in (0.0, 1e-12, -1e-12, 3e-9):
        more = {"least": -30.0, "clear": 2.0, "pull": 0.5, "leave": "45", "flats": (20.0 + off, 25.0 + off)}
        bars = Bars(stock=stock, keep=shapely.Polygon(), low=20.0, high=30.0, ap=2.5, **more)  # type: ignore[arg-type]
        assert bars.levels() == pytest.approx([27.5, 25.0, 22.5, 20.0])


@pytest.mark.parametrize("axis", ["X", "Z"])
def test_a_circle_that_swings_out_of_the_travel(axis: str) -> None:
    """Its ends are inside, its middle is not."""
    job = turned(FreeMoves(id="m", moves=(FreeMove("rapid", 70.0, 5.0),)))
    scene = scene_of(plan(job))
    limit = (scene.card.x.hi if axis == "X" else scene.card.z.hi) - scene.zero[0 if axis == "X" else 2]
    reach = next(iter(scene.control.reaches.values()))[0 if axis == "X" else 2]
    near = limit - reach - 5.0
    lines = list(post(plan(job).first).lines)
    at = next(k for k, line in enumerate(lines) if line == "X70 Z5" or line.endswith("X70 Z5"))
    begin = f"G0 X{2 * near:.3f} Z100" if axis == "X" else f"G0 X150 Z{near:.3f}"
    arc = f"G3 X{2 * near:.3f} Z60 R20.1 F0.2" if axis == "X" else f"G3 X230 Z{near:.3f} R20.1 F0.2"
    lines[at + 1 : at + 1] = [begin, arc, "G0"]
    found = codes(prove_job(plan(job), Program.foreign("\n".join(lines))), "stop")
    assert "over-travel" in found


def test_a_repetition_behind_a_step_with_a_cure_is_proved() -> None:
    deep = edits.pattern_for(job_of(Drilling(id="d", diameter=5.0, depth=18.0, method="once")), "d", "points")
    step = Repeat(id="r", back=1)
    job = job_with(deep, steps=(*deep.steps, step))
    proof = proof_of(job)
    assert "peck-missing" in codes(proof)


@pytest.mark.parametrize("name", ["drum-spindle", "gland-nut", "winch-handle"])
def test_samples_cut_their_threads(name: str) -> None:
    proof = prove_job(plan(sample(name)))
    (gauge,) = [w.gauge for w in proof.scene.wanted if w.gauge]
    assert len(grooves(gauge, proof.part)) > 3


@pytest.mark.parametrize("name", ["M30x2", "R 3/4"])
def test_a_thread_without_a_relief_is_pulled_out_shallower_and_shallower(name: str) -> None:
    """In step with the spindle to the end, on the same slope in all passes; nothing ends in the material."""
    step = Threading(id="t", thread=name, length=15.0, exit="pulled", run_out=3.0)
    crest = 2 * step.crest(plan(turned()).first.turned)
    outline = outline_of(id="o", name="o", d=crest, pieces=(along(-40.0), up(62.0)))
    steps = (TurnFacing(id="f"), TurnRoughing(id="r", outline="o", leave_d=0.0))
    job = turned(*steps, step, outlines=(outline,))
    proof = prove_job(plan(job))
    assert proof.proved, proof.remarks
    assert "thread-run-out" not in codes(proof)
    tied = np.flatnonzero(proof.trace.lead)
    outs = [k for k in tied if k - 1 in tied]
    assert len(outs) * 2 == len(tied)
    slopes = [(proof.trace.end[k, 0] - proof.trace.start[k, 0]) / (proof.trace.start[k, 2] - proof.trace.end[k, 2]) for k in outs]
    assert slopes == pytest.approx([slopes[0]] * len(slopes), rel=1e-3)
    assert min(float(proof.trace.end[k, 0]) for k in outs) >= crest / 2 - 1e-6
    assert not any("G76" in line for line in proof.program.lines)
    plain = turned(*steps, msgspec.structs.replace(step, exit="relief"), outlines=(outline,))
    assert "thread-run-out" in codes(prove_job(plan(plain)))
    short = plan(turned(*steps, msgspec.structs.replace(step, run_out=0.3), outlines=(outline,))).step("t")
    assert short is not None
    assert [t.field for t in short.troubles] == ["run_out"]
    assert short.troubles[0].fits is not None
