"""Turned parts against exact arithmetic: volumes, profile sizes, threads; the samples; every step with its proposed answers."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.ask import questions_of
from bastler.cutting import limits_of, thread_of
from bastler.job import Job, answering, edits, new_job, plan
from bastler.job.samples import sample
from bastler.post import Program, post
from bastler.proof import Prover, TurnProof, prove_job
from bastler.proof.report import report
from bastler.proof.scrub import moment_at
from bastler.proof.turn.compare import sizes
from bastler.proof.turn.mesh import turn_mesh
from bastler.proof.turn.scrub import stock_at
from bastler.proof.turn.sweep import volume
from bastler.steps import STEPS, CentreHole, PartOff, Threading, TurnFacing, TurnFinishing, TurnRoughing
from bastler.tools import TurnTool
from conftest import TURN_STEPS, TURNED, codes, many, turned
from outlines import along, blend, slant, up
from outlines import outline as outline_of

SHAFT = outline_of(
    id="o", name="shaft", d=30.0, z=0.0, pieces=(along(-20), up(40), along(-40), slant(d=50, z=-50), along(-60), up(62))
)
UM = 0.001


def proved(job: Job) -> TurnProof:
    planned = plan(job)
    assert [t for s in planned.steps for t in s.troubles] == []
    return prove_job(planned)


@pytest.mark.parametrize("name", TURNED)
def test_the_samples_prove_clean(name: str) -> None:
    proof = proved(sample(name))
    assert {r.code for r in proof.remarks} <= {"part-drops", "bar-work"}
    for what in ("left", "gouge"):
        assert proof.comparison.volume(what) == proof.comparison.greatest(what) == 0.0


def test_sizes_of_the_drum_spindle_to_a_micron() -> None:
    part = max(proved(sample("drum-spindle")).part.geoms, key=lambda g: g.bounds[2])
    found = sizes(part, 1.0)
    outside = {round(s.diameter, 3) for s in found if not s.groove}
    assert {24.0, 30.0, 36.0} <= outside
    for wanted in (24.0, 30.0, 36.0):
        assert min(abs(s.diameter - wanted) for s in found) < UM
    rings = [s for s in found if s.groove and abs(s.diameter - 26.6) < UM]
    assert len(rings) == 2
    assert rings[0].z1 - rings[1].z1 == pytest.approx(12.0, abs=UM)
    for ring in rings:  # the floor of 4.15 less its two radii of 0.3
        assert ring.length == pytest.approx(4.15 - 0.6, abs=2 * UM)
    assert part.bounds[2] - part.bounds[0] == pytest.approx(74.0, abs=UM)


def test_sizes_of_the_gland_nut_to_a_micron() -> None:
    part = max(proved(sample("gland-nut")).part.geoms, key=lambda g: g.bounds[2])
    found = sizes(part, 1 / 25.4)
    micron = UM / 25.4
    for inside, wanted in ((False, 1.875), (True, 1.0), (True, 1.28), (True, 1.16)):
        assert min(abs(s.diameter - wanted) for s in found if s.inside == inside) < micron
    assert part.bounds[2] - part.bounds[0] == pytest.approx(1.25, abs=micron)


@settings(max_examples=many(10))
@given(st.integers(2000, 5000).map(lambda v: v / 100), st.integers(1000, 5000).map(lambda v: v / 100), st.floats(0.5, 3.0))
def test_volume_of_a_turned_shoulder_is_exact(d: float, long: float, ap: float) -> None:
    outline = outline_of(id="o", name="o", d=d, z=0.0, pieces=(along(-long), up(62)))
    proof = proved(
        turned(TurnFacing(id="f"), TurnRoughing(id="r", outline="o", ap=ap, leave_d=0, leave_z=0), outlines=(outline,))
    )
    nose = 0.8
    fillet = (1 - math.pi / 4) * nose**2  # stays in the corner, about (1 - pi/4) r² at d/2 + 0.2234 r
    ring = 2 * math.pi * fillet * (d / 2 + 0.2234 * nose)
    wanted = math.pi / 4 * (60**2 * 1.0 + (60**2 - d**2) * long) - ring
    assert proof.removed == pytest.approx(wanted, rel=1e-5)


def test_a_bored_and_faced_tube_by_arithmetic() -> None:
    job = turned(
        TurnFacing(id="f"), CentreHole(id="d", work="drill", diameter=18.0, depth=30.0), form="tube", bore=10.0, diameter=50.0
    )
    proof = proved(job)
    tip = 9.0 / math.tan(math.radians(59.0))
    inner = 5.0 / math.tan(math.radians(59.0))
    cone = math.pi * (81 + 45 + 25) / 3 * (tip - inner) - math.pi * 25 * (tip - inner)
    wanted = math.pi * (25**2 - 5**2) * 1.0 + math.pi * (81 - 25) * 30.0 + cone
    assert proof.removed == pytest.approx(wanted, rel=1e-5)


def test_volume_of_a_region_is_guldins() -> None:
    import shapely

    assert volume(shapely.box(0, 0, 10, 5)) == pytest.approx(math.pi * 25 * 10)
    assert volume(shapely.box(0, 3, 10, 5)) == pytest.approx(math.pi * 16 * 10)
    assert volume(shapely.Polygon([(0, 0), (12, 0), (0, 3)])) == pytest.approx(math.pi * 9 * 12 / 3)


@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("infeed", ["flank", "straight", "alternating"])
def test_the_last_pass_of_a_thread_is_as_deep_as_its_tip_has_to_go(infeed: str, inside: bool) -> None:
    job = sample("gland-nut" if inside else "drum-spindle")
    proof = prove_job(plan(answering.answered(job, "step:s6.infeed", infeed)))
    thread = thread_of(job.step("s6").thread)
    trace, mm = proof.trace, proof.scene.mm
    tied = trace.lead > 0
    deepest = trace.end[tied, 0].max() if inside else trace.end[tied, 0].min()
    tool = next(t for t in proof.scene.tools.values() if isinstance(t, TurnTool) and t.kind == "threading" and t.inside == inside)
    half = math.tan(math.radians(thread.angle / 2))
    beyond = (thread.pitch / 2 - tool.flat / mm) / half  # so that the groove is half a pitch wide at the pitch diameter
    limits = limits_of(thread, inside=inside)  # the middle of its class is aimed at
    assert limits is not None
    wanted = limits.middle + (beyond if inside else -beyond)
    said = 0.001 if job.unit == "mm" else 0.0001  # what a program can say of a diameter
    assert 2 * deepest == pytest.approx(wanted * mm, abs=max(0.001 * mm, said / 2 * 1.01))
    assert set(trace.lead[tied].round(5)) == {round(thread.pitch * mm, 5)}
    assert not codes(proof, "stop")


def test_a_tapered_thread_runs_on_its_cone() -> None:
    job = turned(TurnFacing(id="f"), Threading(id="t", thread="R 1", length=16.0), diameter=34.0)
    trace = prove_job(plan(job)).trace
    tied = trace.lead > 0
    d = trace.end[tied] - trace.start[tied]
    assert d[:, 0] / -d[:, 2] == pytest.approx([1 / 32] * int(tied.sum()), rel=1e-3)


def test_several_starts_are_a_pitch_apart() -> None:
    job = turned(TurnFacing(id="f"), Threading(id="t", thread="M50x3", starts=2, infeed="straight", length=12.0), diameter=50.0)
    trace = prove_job(plan(job)).trace
    tied = trace.lead > 0
    assert set(trace.lead[tied]) == {6.0}
    assert max(trace.start[tied, 2]) - min(trace.start[tied, 2]) == pytest.approx(3.0)


@pytest.mark.parametrize("tag", TURN_STEPS)
@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("machine", ["lathe-200", "lathe-bench", "lathe-bush-20"])
def test_a_new_step_proves_with_its_proposed_answers(tag: str, unit: str, machine: str) -> None:
    job = new_job(unit, machine)  # type: ignore[arg-type]
    job, last = edits.step_added(job, "turn-facing", "")
    job, last = edits.step_added(job, "turn-roughing", last)
    needs = {"thread": "turn-finishing", "repeat-along": "groove", "next-part": "part-off", "tailstock-centre": "centre-hole"}
    if before := needs.get(tag):
        job, last = edits.step_added(job, before, last)
    job, last = edits.step_added(job, tag, last)
    if tag == "turn-rest":
        pytest.skip("there is nothing left for it on a plain shoulder")
    if not STEPS[tag].possible("turned", job.card):
        assert plan(job).step(last).troubles
        return
    if tag in ("thread", "face-thread") and machine == "lathe-bench":
        assert "no encoder" in plan(job).step(last).troubles[0].text
        return
    proof = prove_job(plan(job))
    assert [(r.code, r.text) for r in proof.remarks if r.level == "stop"] == []


@pytest.mark.parametrize("tag", TURN_STEPS)
def test_every_step_declares_itself_whole(tag: str) -> None:
    kind = STEPS[tag]
    job, first = edits.step_added(new_job("mm", "lathe-200"), "turn-facing", "")
    job, ident = edits.step_added(job, tag, first)
    planned = plan(job).step(ident)
    assert planned is not None
    asked = {q.name: q for q in questions_of(kind.cls)}
    assert {q.group for q in asked.values()} <= set(kind.cls.all_groups())
    assert all(q.says and q.says[0].isupper() for q in asked.values())
    assert planned.filled.summary(planned.ctx)
    if not planned.troubles:
        assert {group for group, _ in planned.filled.says(planned.ctx)} <= set(kind.cls.all_groups())
    for dim in planned.filled.sketch(planned.ctx).dims:
        assert dim.view == "half"
        if not dim.field.startswith("outline."):
            assert hasattr(planned.filled, dim.field)


@pytest.mark.parametrize("form", ["bar", "tube", "hex", "forging"])
def test_every_stock_is_held_and_cut(form: str) -> None:
    forging = outline_of(id="w", name="forging", d=40.0, z=1.0, pieces=(along(-20), up(60), along(-119)))
    job = turned(TurnFacing(id="f"), form=form, bore=20.0, across_flats=46.0, forged="w", outlines=(forging,))
    proof = proved(job)
    assert not codes(proof, "stop")
    outer = {"bar": 30.0, "tube": 30.0, "hex": 23.0 / math.cos(math.radians(30)), "forging": 20.0}[form]
    inner = 10.0 if form == "tube" else 0.0
    assert proof.removed == pytest.approx(math.pi * (outer**2 - inner**2) * 1.0, rel=1e-5)


def test_an_edit_costs_only_what_follows_it() -> None:
    job = sample("drum-spindle")
    prover, first = Prover(), plan(job)
    before = prover.prove(first).first
    after = prover.prove(plan(answering.answered(job, "step:s5.floor_d", 26.4), first)).first
    assert [a.proof is b.proof for a, b in zip(after.stages, before.stages, strict=True)][:4] == [True] * 4
    fresh = prove_job(plan(answering.answered(job, "step:s5.floor_d", 26.4)))
    assert after.removed == pytest.approx(fresh.removed)
    assert after.remarks == fresh.remarks


def test_the_part_at_any_moment() -> None:
    proof = proved(sample("drum-spindle"))
    areas = [stock_at(proof, moment_at(proof, proof.total * k / 40)).area for k in range(41)]
    assert all(b <= a + 1e-9 for a, b in itertools.pairwise(areas))
    assert areas[0] == pytest.approx(proof.scene.raw.area)
    assert areas[-1] == pytest.approx(proof.part.area)


@pytest.mark.parametrize("whole", [True, False])
def test_the_solid_is_closed_and_coloured(whole: bool) -> None:
    proof = proved(sample("gland-nut"))
    mesh = turn_mesh(proof.part, proof.scene.raw, proof.scene.mm, whole=whole)
    assert len(mesh.points) == len(mesh.normals) == len(mesh.colour) == len(mesh.depth)
    assert mesh.triangles.max() < len(mesh.points)
    assert bool(len(mesh.hatching)) is not whole
    assert set(mesh.colour.tolist()) == ({0, 1} if whole else {0, 1, 2})
    radius = (mesh.points[:, 1] ** 2 + mesh.points[:, 2] ** 2) ** 0.5
    assert radius.max() == pytest.approx(1.0, abs=1e-6)
    faces = mesh.points[mesh.triangles].astype(float)
    away = np.cross(faces[:, 1] - faces[:, 0], faces[:, 2] - faces[:, 0])
    seen = (away * mesh.normals[mesh.triangles].mean(axis=1)).sum(axis=1)
    assert seen.min() > -1e-9, "a face looks inward"
    inside = float(np.einsum("ij,ij->i", faces[:, 0], np.cross(faces[:, 1], faces[:, 2])).sum()) / 6
    if whole:
        assert inside == pytest.approx(volume(proof.part), rel=0.005)


def test_constant_surface_speed_takes_the_time_it_takes() -> None:
    """Facing Ø50 to Ø10 at 100 m/min and 0.2 a turn: the integral of 2 pi r dr / (vc f) = pi (25² - 5²) / (vc f)."""
    text = "G21\nG18 G90\nT0101\nG50 S4000\nG96 S100 M3\nG95\nG54 G0 X50 Z0.5\nG1 X10 F0.2\nG0 Z10\nM30\n"
    proof = prove_job(plan(turned(diameter=50.0)), Program.foreign(text))
    cut = proof.trace.kind == 1
    wanted = math.pi * (25**2 - 5**2) / (100_000 * 0.2) * 60
    assert proof.lasts[cut].sum() == pytest.approx(wanted, rel=0.02)


def test_what_is_proved_is_the_text() -> None:
    planned = plan(turned(TurnFacing(id="f"), TurnFinishing(id="e", outline="o"), outlines=(SHAFT,)))
    lines = [line.replace("X30", "X29.4") for line in post(planned.first).lines]
    proof = prove_job(planned, Program.foreign("\n".join(lines)))
    assert "gouge" in codes(proof, "stop")
    assert proof.comparison.greatest("gouge") == pytest.approx(0.3, abs=0.02)


def test_the_report_gives_the_sizes() -> None:
    found = report(proved(sample("gland-nut")))
    assert found["proved"] is True
    grooves = [s for s in found["sizes"] if s["what"] == "groove"]
    assert len(grooves) == 1
    assert grooves[0]["inside"]
    assert any(s["what"] == "length" for s in found["sizes"])


def test_a_blend_is_followed_by_an_arc() -> None:
    outline = outline_of(id="o", name="o", d=30.0, z=0.0, pieces=(along(-20), blend(4.0), up(62)))
    program = post(plan(turned(TurnFacing(id="f"), TurnFinishing(id="e", outline="o", tool="v35-04"), outlines=(outline,))).first)
    arcs = [line for line in program.lines if line.startswith("G2 ")]
    assert len(arcs) == 1  # radius 4 less the nose's 0.4
    assert "I3.6" in arcs[0]
    assert "K0" in arcs[0]


def test_the_turret_gives_every_tool_a_station() -> None:
    job = sample("gland-nut")
    used = {stage.tool.id: stage.tool.station for p in plan(job).steps for stage in p.stages}
    assert len(set(used.values())) == len(used)
    assert max(used.values()) <= 8
    bench = turned(
        TurnFacing(id="a"),
        *(CentreHole(id=f"d{k}", work="drill", diameter=d, depth=5) for k, d in enumerate((5, 8.5, 9.8, 18))),
        PartOff(id="p"),
        machine="lathe-bench",
    )
    assert any("stations" in t.text for p in plan(bench).steps for t in p.troubles)


def test_a_tool_of_a_step_switched_off_takes_no_station_however_the_plan_was_made() -> None:
    off = TurnFacing(id="f", tool="v35-04-107", on=False)
    first = turned(off, TurnRoughing(id="r", outline="o"), outlines=(SHAFT,), machine="lathe-bench")
    second = answering.answered(first, "step:r.tool", "d55-04")
    again, fresh = plan(second, plan(first)), plan(second)
    assert again.steps[0] is not fresh.steps[0]
    assert {t.id: t.station for t in again.first.ctx.tools} == {t.id: t.station for t in fresh.first.ctx.tools}
    assert post(again.first).text == post(fresh.first).text
