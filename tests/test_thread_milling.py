"""Milled threads: the profile at the pitch diameter, from the posted text; what has to be there before; what goes wrong."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.cutting import thread_of
from bastler.job import Job, answering, plan
from bastler.motion.helices import Tooth, groove_width, orbit
from bastler.nc import Trace
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import PointsPattern
from bastler.steps import Boring, Drilling, Facing, RoundBoss, RoundPocket, ThreadMilling
from conftest import codes, job_of, many, proof_of

PATTERN = PointsPattern(id="p", name="one", points=((30.0, 20.0),))


def inside(hole: float = 10.2, deep: float = 18.0, high: float = 30.0, **answers: Any) -> Job:
    """A hole milled or drilled, and a thread in it."""
    pocket = RoundPocket(id="d", x=30.0, y=20.0, diameter=hole, depth=deep, ap=2.0)
    thread = ThreadMilling(id="t", pattern="p", **answers)
    return job_of(Facing(id="f"), pocket, thread, patterns=(PATTERN,), size_z=high)


def drilled(**answers: Any) -> Job:
    """M10 in a drilled hole, through where the thread is."""
    high = 22.0 if answers.get("extent") == "through" else 30.0
    drill = Drilling(id="d", pattern="p", diameter=8.5, depth=18.0, extent=str(answers.get("extent", "blind")))  # type: ignore[arg-type]
    thread = ThreadMilling(id="t", pattern="p", thread="M10", depth=12.0, **answers)
    return job_of(Facing(id="f"), drill, thread, patterns=(PATTERN,), size_z=high)


def outside(**answers: Any) -> Job:
    boss = RoundBoss(id="b", x=30.0, y=20.0, diameter=20.0, depth=16.0)
    thread = ThreadMilling(id="t", pattern="p", side="outside", **({"thread": "M20 × 1.5", "depth": 9.0} | answers))  # type: ignore[arg-type]
    return job_of(Facing(id="f"), boss, thread, patterns=(PATTERN,), size_z=30.0)


def points_of(trace: Trace, k: int, count: int = 4000) -> np.ndarray:
    """Places along a straight move, an arc or a helix."""
    share = np.linspace(0.0, 1.0, count)[:, None]
    places = trace.start[k] + share * (trace.end[k] - trace.start[k])
    if trace.kind[k] > 1:
        radial = trace.start[k, :2] - trace.centre[k, :2]
        angle = math.atan2(radial[1], radial[0]) + share[:, 0] * trace.turn[k]
        places[:, :2] = trace.centre[k, :2] + math.hypot(*radial) * np.column_stack([np.cos(angle), np.sin(angle)])
    return places


def groove(job: Job, r: float, *, begin: float = 0.4) -> tuple[float, float, float]:
    """From the posted text: width of the groove at a radius, seen from the thread's axis in one direction, the distance to the
    next groove, and how far out the tip comes. Nothing but the tool's own shape swept along the moves that are in the text."""
    planned = plan(job)
    stage = planned.step("t").stages[0]
    program = post(planned.first)
    proof = proof_of(job, 0.5)
    trace = proof.trace
    own = next(s for s in program.sections if s.step == "t")
    tool: Any = stage.tool
    spots = []
    for k in range(len(trace)):
        if own.first <= trace.line[k] < own.last and trace.kind[k] != 0:
            spots.append(points_of(trace, k))
    way = np.concatenate(spots)
    x, y = 30.0 + r * math.cos(begin), 20.0 + r * math.sin(begin)
    rho = np.hypot(way[:, 0] - x, way[:, 1] - y)
    away = np.hypot(way[:, 0] - 30.0, way[:, 1] - 20.0)
    tooth = Tooth(tool.diameter / 2, tool.pitch / (6 if tool.profile_angle == 55 else 8), tool.profile_angle)
    near = rho <= tooth.radius
    half = np.tile(np.vectorize(tooth.width)(rho[near]) / 2, tool.rows)
    z = np.concatenate([way[near, 2] + (row + 0.5) * tool.pitch for row in range(tool.rows)])
    spans = sorted(zip(z - half, z + half, strict=True))
    joined = [list(spans[0])]
    for low, high in spans:
        if low <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], high)
        else:
            joined.append([low, high])
    middle = joined[len(joined) // 2]
    gap = joined[len(joined) // 2 + 1][0] - middle[0] if len(joined) > len(joined) // 2 + 1 else 0.0
    tip = away.max() + tooth.radius if r < tooth.radius + away.max() and r > away.max() else away[near].min() - tooth.radius
    return middle[1] - middle[0], gap, float(tip)


@pytest.mark.parametrize(
    ("name", "hole", "answers"),
    [
        ("M12", 10.2, {"tool": "thread-6"}),
        ("M12", 10.2, {"tool": "thread-8x1.75"}),
        ("M12", 10.2, {"hand": "left", "tool": "thread-6"}),
        ("M12", 10.2, {"way": "down", "tool": "thread-6"}),
        ("M16 × 1.5", 14.4, {"passes": 1}),
        ("G 1/2", 18.7, {}),
    ],
    ids=["one tooth", "ten teeth", "left hand", "downward", "fine", "pipe"],
)  # fmt: skip
def test_the_groove_is_half_a_pitch_wide_at_the_pitch_diameter(name: str, hole: float, answers: dict[str, Any]) -> None:
    """Within 5 um of the pitch diameter: flanks of angle a move it by the groove's width over tan(a/2)."""
    if name.startswith("G"):
        answers = {"tool": "thread-g"}
    thread = thread_of(name)
    job = inside(hole, thread=name, depth=8.0, **answers)
    assert not plan(job).step("t").troubles
    bore_r = (thread.nut_major + thread.bore) / 4 if thread.angle == 55.0 else (thread.major - 0.649519 * thread.pitch) / 2
    width, gap, tip = groove(job, bore_r)
    slack = 0.005 * math.tan(math.radians(thread.angle / 2))
    assert width == pytest.approx(thread.pitch / 2, abs=slack)
    if gap:
        assert gap == pytest.approx(thread.pitch, abs=2e-3)
    assert thread.nut_major / 2 - 0.12 < tip <= thread.nut_major / 2 + 0.12


def test_outside_too() -> None:
    width, gap, tip = groove(outside(tool="thread-6"), (20.0 - 0.649519 * 1.5) / 2)
    assert width == pytest.approx(0.75, abs=0.005 * math.tan(math.radians(30)))
    assert gap == pytest.approx(1.5, abs=2e-3)
    assert 20.0 / 2 - 0.75 * 1.5 < tip < 20.0 / 2 - 0.6 * 1.5


def test_without_the_correction_it_would_be_wrong() -> None:
    """What the correction is for: a straight orbit leaves a wide thread slack by more than 0.05 mm."""
    thread, tooth = thread_of("M8"), Tooth(3.0, 1.25 / 8, 60.0)
    r = (thread.major - 0.649519 * thread.pitch) / 2
    plain = thread.major / 2 - tooth.radius
    slack = (groove_width(r, plain, tooth, 1.25) - 0.625) / math.tan(math.radians(30))
    assert slack > 0.05
    right = orbit(r, tooth, 1.25, 1.25, inside=True)
    assert groove_width(r, right, tooth, 1.25) == pytest.approx(0.625, abs=1e-9)
    assert right < plain


@settings(max_examples=many(60))
@given(st.floats(6.0, 60.0), st.floats(0.5, 3.0), st.floats(0.4, 0.75), st.booleans(), st.sampled_from([55.0, 60.0]))
def test_any_orbit_leaves_half_a_pitch(r: float, pitch: float, share: float, inside: bool, angle: float) -> None:
    if pitch > r / 4:
        return
    tooth = Tooth(share * r, pitch / 8, angle)
    away = orbit(r, tooth, pitch, pitch, inside=inside)
    assert groove_width(r, away, tooth, pitch) == pytest.approx(pitch / 2, abs=1e-6)


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("way", ["up", "down"])
def test_the_hand_of_the_thread_is_in_the_text(hand: str, way: str) -> None:
    text = post(plan(inside(thread="M12", depth=8.0, hand=hand, way=way, tool="thread-6")).first).text
    body = text[text.index("thread") :] if "thread" in text else text
    turns = [line.split()[0 if line.startswith("G") else 1] for line in body.splitlines() if "I" in line and "Z" in line]
    code = {("right", "up"): "G3", ("right", "down"): "G2", ("left", "up"): "G2", ("left", "down"): "G3"}[hand, way]
    assert turns.count(code) >= 1
    assert {"G2", "G3"} - {code} == {"G2", "G3"} - {t for t in turns if t in ("G2", "G3")}


@pytest.mark.parametrize(
    "job",
    [
        inside(thread="M12", depth=10.0),
        inside(thread="M12", depth=10.0, passes=3, tool="thread-6"),
        drilled(extent="through"),
        drilled(),
        inside(18.1, 20.0, thread="R 1/2", depth=10.0),
        inside(18.63, 20.0, thread="G 1/2", depth=10.0),
        outside(),
        outside(hand="left", way="up"),
        answering.answered(drilled(), "job.machine", "mill-old"),
    ],
    ids=["many teeth", "passes", "through", "drilled", "taper", "pipe", "outside", "outside left", "no helices"],
)
def test_it_proves(job: Job) -> None:
    found = plan(job).step("t")
    assert not found.troubles, found.troubles
    proof = proof_of(job, 0.1)
    assert proof.proved, proof.remarks
    assert not codes(proof, "stop") | codes(proof, "caution"), proof.remarks


@pytest.mark.parametrize(
    ("job", "field"),
    [
        (inside(thread="M9x", depth=8.0), "thread"),
        (inside(thread="Tr 20 × 4", depth=8.0), "thread"),
        (inside(thread="M14", depth=8.0), "thread"),
        (inside(9.0, thread="M12", depth=8.0), "thread"),
        (inside(thread="M12", depth=18.0), "depth"),
        (inside(18.63, thread="M20 × 1.5", depth=8.0, tool="thread-g"), "tool"),
        (inside(thread="M12 × 1.25", depth=8.0, tool="thread-8x1.75"), "tool"),
        (inside(thread="M12 × 0.75", depth=8.0), "tool"),
        (inside(thread="M12", depth=8.0, tool="end-6"), "tool"),
        (outside(depth=16.0), "depth"),
        (outside(thread="M18 × 1.5"), "depth"),
        (outside(thread="R 1/2"), "side"),
    ],
)
def test_what_cannot_be_milled_is_said_where_it_is_asked(job: Job, field: str) -> None:
    assert [t.field for t in plan(job).step("t").troubles] == [field]


def test_a_thread_mill_sent_too_deep_by_hand_is_a_crash() -> None:
    """A planted fault: the lowest height made lower."""
    made = plan(inside(deep=12.0, thread="M12", depth=8.0, tool="thread-6"))
    text = post(made.first).text
    lowest = min((w for line in text.splitlines() for w in line.split() if w.startswith("Z-")), key=lambda w: float(w[1:]))
    own = made.step("t").filled.bottom(made.step("t").stages[0].tool, made.first.ctx)
    mine = f"Z{own:.3f}".rstrip("0")
    assert mine in text, (mine, lowest)
    proof = prove_job(made, Program.foreign(text.replace(mine, "Z-16")), cell_mm=0.2)
    assert not proof.proved


# -- boring ------------------------------------------------------------------------------------------------------------


def bored(hole: float = 24.4, **answers: Any) -> Job:
    pocket = RoundPocket(id="d", x=30.0, y=20.0, diameter=hole, depth=16.0)
    bore = Boring(id="r", pattern="p", **({"depth": 10.0} | answers))
    return job_of(Facing(id="f"), pocket, bore, patterns=(PATTERN,), size_z=30.0)


@pytest.mark.parametrize(("answers", "code"), [({}, "G85"), ({"dwell": 0.5}, "G89"), ({"out": "stopped"}, "G86")])
def test_boring_opens_a_milled_hole_to_size(answers: dict[str, Any], code: str) -> None:
    proof = proof_of(bored(**answers), 0.1)
    assert proof.proved
    assert not codes(proof, "caution"), proof.remarks
    assert sum(line.startswith(("G99 " + code, "G98 " + code)) or code in line for line in proof.program.lines) == 1
    assert proof.comparison.volume("left") == proof.comparison.volume("gouge") == 0.0


@pytest.mark.parametrize(
    ("job", "field"),
    [
        (bored(20.0), "diameter"),
        (bored(depth=17.0), "depth"),
        (bored(diameter=26.0), "diameter"),
        (answering.answered(bored(out="stopped"), "job.machine", "mill-old"), "out"),
        (bored(23.0, diameter=25.0), "diameter"),
    ],
)  # fmt: skip
def test_what_a_boring_head_cannot_do_is_said(job: Job, field: str) -> None:
    assert [t.field for t in plan(job).step("r").troubles] == [field]
