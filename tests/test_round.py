"""Steps of driven tools that go round a part in a chuck: unrolled, said by cylindrical interpolation or as shares of a minute,
read back and proved by the rays; and one fault each."""

from __future__ import annotations

import math
import re
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import answering, edits, plan
from bastler.live.tasks import State, solid, touch
from bastler.machines import CARDS
from bastler.proof import prove_job, prove_whole
from bastler.proof.polar.upright import TURNED, upright
from bastler.proof.scrub import moment_at
from bastler.shapes import Flat, PointsPattern, Revolved, TurnedOutline, TurnedSegment, Unrolled
from bastler.steps import STEPS, Drilling, Engraving, HelicalGroove, RectangularPocket, Slot, TurnFacing, TurnRoughing
from bastler.steps.place import Place
from bastler.units import Unit, scale
from conftest import codes, many, some, turned
from test_side import AT, BOSSES, job, lines_of, proved, shafts, taken, text_of, told, troubles

RING = Slot(
    id="m1", where_on="round", x=-30.0, angle=90.0, width=6.0, length=2 * math.pi * 30.0 + 6.0, depth=3.0, tool="end-6",
    finish="no", entry="ramp",
)  # fmt: skip
"""All round, the ends over each other."""
POCKET = RectangularPocket(id="m1", where_on="round", at_c=40.0, x=-30.0, length=22.0, width=30.0, corner_radius=4.0, depth=4.0)
HELIX = HelicalGroove(id="m1", from_x=-15.0, long=30.0, pitch=20.0, width=6.0, depth=3.0, finish="no", entry="ramp", tool="end-6")
MACHINES = ("turn-mill-250", "lathe-driven")


# -- unrolled -----------------------------------------------------------------------------------------------------


@given(shafts(), st.floats(0.05, 0.95), st.floats(0.1, 8.0), st.floats(-3.0, 25.0))
def test_what_is_unrolled_is_as_high_all_round_as_the_part_is_thick(section: Any, share: float, r: float, z: float) -> None:
    z0, _, z1, outer = section.bounds
    seen = Unrolled.of(section, 10.0)
    x = z0 + (z1 - z0) * share
    thick = section.intersection(shapely.LineString([(x, -1.0), (x, outer + 1.0)])).bounds[3]
    near = [seen.at(x + by, 7.0) for by in (-1e-7, 1e-7)]
    assert min(near) - 1e-4 <= thick <= max(near) + 1e-4
    region = shapely.Point(x, 3.0).buffer(r)
    places = np.linspace(max(x - r, z0), min(x + r, z1), 400)
    assert seen.highest(region) >= seen.heights(np.column_stack([places, places * 0])).max() - 1e-6
    along = np.linspace(z0, z1, 4001)
    heights = seen.heights(np.column_stack([along, along * 0]))
    assert seen.open_at(z).area == pytest.approx((heights <= z).mean() * (z1 - z0) * 2 * seen.half, rel=0.02, abs=2.0)


def test_c_falls_where_the_round_rises() -> None:
    place = Place((30.0,), 20.0)
    assert place.angle_at(30.0, math.pi * 20.0 / 2) == pytest.approx(-60.0)
    assert place.where == "round"
    assert place.says == "round 30°"
    assert not place.shares(Place((30.0,)))
    assert not place.shares(Place((30.0,), 21.0))


def test_it_is_unrolled_at_the_surface_that_is_there_or_where_is_said() -> None:
    planned: Any = plan(job(POCKET)).steps[1]
    assert planned.filled.around_d == pytest.approx(60.0)
    assert planned.place.around == pytest.approx(30.0)
    made = answering.answered(job(POCKET), "step:m1.around_d", 52.0)
    given_: Any = plan(made).steps[1]
    assert given_.place.around == pytest.approx(26.0)
    for wrong in (61.0, 2.0):
        found = troubles(answering.answered(job(POCKET), "step:m1.around_d", wrong))
        assert found[0] == ("around_d", "The part has no such round.")


def test_a_thread_is_not_milled_round() -> None:
    hole = Drilling(id="m1", where_on="round", diameter=8.5, depth=14.0, pattern="p1", spot="no")
    step, ident = edits.step_added(job(hole), "thread-milling", "")
    made = answering.answered(step, f"step:{ident}.where_on", "round")
    made = answering.answered(made, f"step:{ident}.pattern", "p1")
    assert any(field in ("where_on", "tool", "thread") for field, _ in troubles(made)), troubles(made)


ONES = [(machine, unit, kind) for machine in MACHINES for unit in ("mm", "inch") for kind, k in STEPS.items() if k.driven]
CASES = [c for c in ONES if c[2] not in ("repeat", "keyway", "flats")]
FIRST = [
    ("turn-mill-250", "mm", "helical-groove"), ("lathe-driven", "inch", "helical-groove"), ("turn-mill-250", "inch", "slot"),
    ("lathe-driven", "mm", "rectangular-pocket"), ("turn-mill-250", "mm", "engraving"), ("lathe-driven", "mm", "drilling"),
]  # fmt: skip


@pytest.mark.parametrize(("machine", "unit", "kind"), some([*FIRST, *(c for c in CASES if c not in FIRST)], 6))
def test_every_step_that_goes_round_proves_or_says_why_not(machine: str, unit: Unit, kind: str) -> None:
    made, ident = edits.step_added(job(unit=unit, machine=machine, patterns=()), kind, "")
    step: Any = made.step(ident)
    if "where_on" not in step.FIXED:
        made = answering.answered(answering.answered(made, f"step:{ident}.where_on", "side"), f"step:{ident}.where_on", "round")
    proof = proved(made)
    stopped = [r for r in proof.remarks if r.level == "stop" and r.code != "answer"]
    assert not stopped, [r.text for r in stopped]
    if kind in BOSSES:
        assert "no edge to begin at" in troubles(made)[0][1]


# -- how it is said -------------------------------------------------------------------------------------------------


def test_a_control_that_interpolates_is_told_the_radius_and_arcs_between_z_and_c() -> None:
    text = lines_of(job(POCKET))
    assert text.count("G7.1 C30") == text.count("G7.1 C0") > 0
    arcs = [line for line in text if re.match(r"G[23] ", line)]
    assert arcs
    assert all(" J" in line and " K" in line and " I" not in line for line in arcs)
    assert not any(" Y" in line or line.startswith("Y") for line in text)
    assert "M36" not in text, "C is not clamped while it goes round"


def test_one_that_does_not_gets_shares_of_a_minute() -> None:
    text = lines_of(job(POCKET, machine="lathe-driven"))
    assert text.count("G93") == text.count("G98") > 0
    inside = text[text.index("G93") + 1 : text.index("G98")]
    motion = "G0"
    for line in inside:
        motion = m[0] if (m := re.match(r"G[01]\b", line)) else motion
        assert motion == "G0" or " F" in line, line


def test_holes_round_a_part_are_each_clamped_and_looked_at_at_their_own_angle() -> None:
    three = PointsPattern(id="p1", name="three", points=((-20.0, 0.0), (-20.0, 10.0), (-30.0, -7.77)))
    hole = Drilling(id="m1", where_on="round", at_c=12.3456, diameter=5.0, depth=12.0, pattern="p1", spot="no")
    for machine in MACHINES:
        made = job(hole, machine=machine, patterns=(three,))
        proof = proved(made)
        assert proof.verdict == "proved", proof.remarks
        cuts = proof.trace.stands & (proof.trace.kind == 1)
        assert proof.trace.held[cuts].all()
        angles = np.unique(np.round(proof.trace.angle[cuts, 0] % 360.0, 4))
        want = sorted((12.3456 - math.degrees(y / 30.0)) % 360.0 for _, y in three.points)
        assert angles == pytest.approx(want, abs=0.006)
        off = re.sub(r"\bC12\.3\d*", "C12.9", text_of(made))
        assert {kind for kind, _ in told(made, off)} == {"left", "gouge"}
    planned = plan(job(hole, patterns=(three,))).steps[1]
    assert all(isinstance(r, Revolved) for r in planned.removals)


@pytest.mark.parametrize("machine", MACHINES)
@pytest.mark.parametrize("unit", some(["mm", "inch"], 1))
def test_what_is_read_lies_on_the_unrolled_round_as_it_was_planned(machine: str, unit: Unit) -> None:
    mm = scale("mm", unit)
    names = ("x", "length", "width", "corner_radius", "depth")
    step = msgspec.structs.replace(POCKET, **{name: getattr(POCKET, name) * mm for name in names})
    made = job(step, machine=machine, unit=unit)
    proof = proved(made)
    assert not codes(proof, "stop"), proof.remarks
    trace = proof.trace
    own = trace.stands & (trace.kind > 0) & ~trace.held
    around = plan(made).steps[1].place.around
    y = -np.radians(trace.angle[own, 1] - 40.0) * around
    tool = proof.stages[-1].proof.tool.diameter / 2
    assert np.abs(y).max() + tool == pytest.approx(15.0 * mm, abs=0.012 * mm)
    assert np.abs(trace.end[own, 2] + 30.0 * mm).max() + tool == pytest.approx(11.0 * mm, abs=0.012 * mm)


def test_a_right_hand_groove_goes_away_from_the_eye_clockwise() -> None:
    for hand, sign in (("right", 1.0), ("left", -1.0)):
        trace = proved(job(msgspec.structs.replace(HELIX, hand=hand))).trace
        cut = trace.stands & (trace.kind == 1) & (trace.angle[:, 0] != trace.angle[:, 1])
        dz, dc = trace.end[cut, 2] - trace.start[cut, 2], trace.angle[cut, 1] - trace.angle[cut, 0]
        assert (np.sign(dz * dc) == sign).all()
        assert dc / dz == pytest.approx(sign * 360.0 / 20.0, rel=1e-3)


# -- what it makes --------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("machine", MACHINES)
def test_a_groove_all_round_is_a_ring(machine: str) -> None:
    """π (R² - (R - 3)²) · 6."""
    proof = proved(job(RING, machine=machine))
    assert proof.verdict == "proved", proof.remarks
    assert taken(proof) == pytest.approx(math.pi * (30.0**2 - 27.0**2) * 6.0, rel=0.003)


@pytest.mark.parametrize(("depth", "width"), some([(12.0, 6.0), (3.0, 6.0), (8.0, 10.0)], 2))
def test_deep_grooves_with_parallel_walls_are_no_gouge(depth: float, width: float) -> None:
    tool = "end-6" if width == 6.0 else "end-10"
    step = msgspec.structs.replace(HELIX, depth=depth, width=width, tool=tool, pitch=40.0)
    proof = proved(job(step))
    assert not codes(proof, "stop"), proof.remarks
    rays = proof.stages[-1].proof.behind.dexels()
    inner = min(float(rays.hi[i, k, 0]) for i, k in zip(*np.nonzero(rays.count), strict=True))
    assert inner == pytest.approx(30.0 - depth, abs=0.01)


@given(
    x=st.floats(-50, -20), y=st.floats(-60, 60), at=st.floats(0, 360), turn=st.floats(-180, 180), depth=st.floats(1, 5),
    machine=st.sampled_from(MACHINES), times=st.integers(1, 2),
)  # fmt: skip
@settings(max_examples=many(6))
def test_any_slot_any_way_round(x: float, y: float, at: float, turn: float, depth: float, machine: str, times: int) -> None:
    x, y, at, turn, depth = (round(v, 3) for v in (x, y, at, turn, depth))
    step = msgspec.structs.replace(RING, x=x, y=y, at_c=at, angle=turn, length=25.0, depth=depth, times=times)
    made = job(step, machine=machine)
    proof = proved(made)
    assert not codes(proof, "stop"), (proof.remarks, step)
    (removal,) = plan(made).steps[1].removals
    assert isinstance(removal, Flat)
    within = removal.region.intersection(shapely.box(-200.0, -1e3, 0.0, 1e3)).area
    # between what walls toward the axis would make, its floor flat, and what upright ones would
    low, high = within / 30.0 * (30.0**2 - (30.0 - depth) ** 2) / 2, within * depth
    assert 0.93 * low <= taken(proof) / times <= 1.01 * high


@pytest.mark.parametrize("at", [60.0, 50.0, 40.0])
def test_a_groove_is_as_wide_as_its_mill_wherever_the_round_is_measured(at: float) -> None:
    for step in (HELIX, msgspec.structs.replace(RING, angle=35.0, length=30.0)):
        proof = proved(job(msgspec.structs.replace(step, around_d=at)))
        assert not codes(proof, "stop"), proof.remarks


def test_a_groove_that_winds_is_unrolled_where_it_is() -> None:
    segments = (TurnedSegment(id="g1", z=-20.0, angle=0.0), TurnedSegment(id="g2", d=60.0, angle=90.0))
    shape = TurnedOutline(id="o1", name="outside", d=40.0, segments=segments)
    groove = msgspec.structs.replace(HELIX, from_x=-30.0, long=20.0)
    made = job(TurnRoughing(id="t2", outline="o1"), groove, leave_d=0.0, leave_z=0.0)
    planned: Any = plan(msgspec.structs.replace(made, outlines=(shape,))).steps[2]
    assert planned.filled.around_d == pytest.approx(60.0)


def test_a_control_without_helices_gets_chords_on_the_round_too(monkeypatch: pytest.MonkeyPatch) -> None:
    def falling() -> list[str]:
        return [line for line in lines_of(job(POCKET)) if re.search(r"\bJ-?\d", line) and re.search(r"\bX-?\d", line)]

    assert falling()
    own = CARDS["turn-mill-250"]
    dialect = msgspec.structs.replace(own.dialect, helical=False)
    monkeypatch.setitem(CARDS, "turn-mill-250", msgspec.structs.replace(own, dialect=dialect))
    assert not falling()
    assert not codes(proved(job(POCKET)), "stop")


# -- what is seen -----------------------------------------------------------------------------------------------------


def vector(of: Any) -> tuple[float, float, float]:
    x, y, z = of.tolist()
    return x, y, z


def test_the_solid_is_turned_and_not_mirrored() -> None:
    """A hole at C 90° on the side: where it lies in the picture, whose Z is the part's X."""
    side = Drilling(id="m1", where_on="side", at_c=90.0, diameter=6.8, depth=8.0, pattern="p1", spot="no")
    whole = prove_whole(plan(job(side)))
    one: Any = whole.holdings[0]
    found = solid(State(proof=whole), "h1", moment_at(one, one.total), None, rough=False)
    assert found is not None
    mesh, _ = found
    middle = mesh.points[mesh.triangles].mean(axis=1)
    out = np.hypot(middle[:, 1], middle[:, 2])
    inner = (out < 27.0) & (out > 5.0) & (np.abs(middle[:, 0] + 30.0) < 4.0)
    assert inner.any()
    assert (middle[inner, 1] < 0.0).all(), "C 90° is behind: x up, z to the right"
    assert upright(upright(middle)) == pytest.approx(middle)
    assert np.linalg.det(TURNED) == pytest.approx(1.0)
    at = int(np.flatnonzero(inner)[0])
    normal = mesh.normals[mesh.triangles].mean(axis=1)[at]
    told = touch(State(proof=whole), "h1", moment_at(one, one.total), 0, vector(middle[at]), vector(normal), False)
    assert told is not None
    assert told.move >= 0, "what cut there is known"
    assert told.place[1] > 0.0


# -- one fault each -------------------------------------------------------------------------------------------------


def test_what_is_not_deep_enough_too_deep_or_elsewhere_is_told() -> None:
    text = text_of(job(RING))
    assert not told(job(RING), text)
    assert re.search(r"X54(?=[ \n])", text)
    kinds = {kind for kind, _ in told(job(RING), re.sub(r"X54(?=[ \n])", "X54.8", text))}
    assert kinds == {"left"}
    kinds = {kind for kind, _ in told(job(RING), re.sub(r"X54(?=[ \n])", "X53.8", text))}
    assert kinds == {"gouge"}
    text = text_of(job(POCKET))
    moved = re.sub(r"\bC(-?[\d.]+)(?= |\n)", lambda m: f"C{float(m[1]) + 3.0:g}" if m[1] not in ("30", "0") else m[0], text)
    assert {kind for kind, _ in told(job(POCKET), moved)} == {"left", "gouge"}
    other = msgspec.structs.replace(HELIX, hand="left")
    assert {kind for kind, _ in told(job(HELIX), text_of(job(other)))} == {"left", "gouge"}


def test_what_is_never_milled_is_left_and_the_step_is_named() -> None:
    bare = text_of(job())
    remarks = proved(job(HELIX), bare).remarks
    left = [r for r in remarks if r.code == "left"]
    assert [r.step for r in left] == ["m1"]
    assert "round the part, at Z" in left[0].text
    assert left[0].amount == pytest.approx(3.0, abs=0.3)


def test_letters_go_round_and_keep_their_depth() -> None:
    step = Engraving(id="m1", where_on="round", text="HAFEN 7", x=-30.0, height=6.0, depth=0.3)
    proof = proved(job(step))
    assert not codes(proof, "stop"), proof.remarks
    own = proof.trace.stands & (proof.trace.kind > 0)
    deepest = np.hypot(proof.trace.end[own, 0], proof.trace.end[own, 1]).min()
    assert deepest == pytest.approx(29.7, abs=0.002)


def test_a_run_that_goes_round_and_holes_beside_it_are_told_apart() -> None:
    hole = Drilling(id="m2", where_on="side", at_c=200.0, diameter=5.0, depth=6.0, pattern="p1", spot="no")
    proof = proved(job(POCKET, hole, patterns=(AT,)))
    assert proof.verdict == "proved", proof.remarks


def test_without_y_a_slot_wider_than_its_mill_goes_round_and_how_much_its_walls_lean_is_said() -> None:
    slot = Slot(id="s", where_on="side", width=8.0, length=22.0, x=-25.0, y=0.0, depth=4.0, tool="end-6")
    job = turned(TurnFacing(id="f"), slot, machine="lathe-driven", diameter=30.0)
    refused = next(r for r in prove_job(plan(job)).remarks if r.code == "answer")
    assert "C takes its place" in refused.text
    assert refused.cures[0].says == "Use “Round”"
    there = edits.cured(job, refused.cures[0].address, refused.cures[0].value)
    assert prove_job(plan(there)).verdict == "proved"
    done = plan(there).step("s")
    assert done is not None
    said = [text for _, text in done.filled.says(done.ctx)]
    assert f"Its walls lean: at the floor it is {4.0 * 2.0 / 15.0:.3f} narrower." in said
    across = plan(answering.answered(there, "step:s.angle", 90.0)).step("s")
    assert across is not None
    assert not [text for _, text in across.filled.says(across.ctx) if "lean" in text], "across the axis they do not"
