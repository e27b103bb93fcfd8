"""Steps of driven tools on the side of a part in a chuck: planned on what is round there, said in G19 with C clamped, read back
and proved; and one fault each."""

from __future__ import annotations

import itertools
import math
import re
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from bastler.cutting.keys import ASME_B17_1, DIN_6885, keyway_inch, keyway_mm
from bastler.job import Job, answering, edits, plan
from bastler.live.tasks import State, solid
from bastler.nc import Trace
from bastler.post import Program, post
from bastler.proof import Prover, prove_job, prove_whole
from bastler.proof.polar.planes import CutPlane
from bastler.proof.polar.touch import touched_driven
from bastler.proof.scrub import moment_at
from bastler.shapes import Barrel, PointsPattern, TurnedOutline, TurnedSegment
from bastler.steps import (
    STEPS,
    Drilling,
    Flats,
    HelicalGroove,
    Keyway,
    RectangularPocket,
    Repeat,
    Slot,
    Tapping,
    TurnFacing,
    TurnRoughing,
)
from bastler.steps.place import END, Place, on_part, plane_angle
from bastler.units import Unit, scale
from conftest import codes, many, some, turned

FACED = TurnFacing(id="t1")
AT = PointsPattern(id="p1", name="one", points=((-30.0, 0.0),))
HOLE = Drilling(id="m1", where_on="side", diameter=5.0, depth=12.0, pattern="p1", spot="no")
POCKET = RectangularPocket(
    id="m1", where_on="side", at_c=30.0, x=-30.0, y=2.0, length=24.0, width=16.0, corner_radius=4.0, depth=8.0
)
KEY = Keyway(id="m1", x=-30.0, length=40.0)
HEX = Flats(id="m1", across=48.0, length=14.0)


def job(*steps: Any, machine: str = "turn-mill-250", unit: Unit = "mm", patterns: Any = (AT,), **setup: Any) -> Job:
    """A bar of Ø60 that is faced, then milled on its side."""
    made = turned(FACED, *steps, machine=machine, unit=unit, **setup)
    return msgspec.structs.replace(made, patterns=patterns)


def proved(made: Job, text: str = "") -> Any:
    return prove_job(plan(made), Program.foreign(text) if text else None)


def text_of(made: Job) -> str:
    return post(plan(made).first).text


def lines_of(made: Job, step: str = "m1") -> list[str]:
    program = post(plan(made).first)
    return [line for line, k in zip(program.lines, range(len(program.lines)), strict=True) if program.section_of(k).step == step]


def told(made: Job, text: str) -> list[tuple[str, float]]:
    """What the shape is said to be off, of another text in the place of the program."""
    return [(r.code, r.amount) for r in proved(made, text).remarks if r.code in ("left", "gouge")]


def taken(proof: Any, step: str = "m1") -> float:
    return float(sum(s.volume for s in proof.stages if s.step == step))


def troubles(made: Job) -> list[tuple[str, str]]:
    return [(t.field, t.text) for s in plan(made).steps for t in s.troubles]


# -- what is round ------------------------------------------------------------------------------------------------


@st.composite
def shafts(draw: st.DrawFn) -> Any:
    """A half section of shoulders and tapers, perhaps with a neck."""
    z, r = 0.0, draw(st.floats(2.0, 12.0))
    points = [(0.0, 0.0), (0.0, r)]
    for _ in range(draw(st.integers(1, 5))):
        z -= draw(st.floats(0.5, 9.0))
        points.append((z, max(r + draw(st.sampled_from([0.0, 0.0, 1.5, -1.0])), 1.0)))
        r = max(r + draw(st.floats(-3.0, 6.0)), 1.0)
        points.append((z, r))
    return shapely.Polygon([*points, (z - 4.0, r), (z - 4.0, 0.0)])


@given(shafts(), st.lists(st.tuples(st.floats(0.001, 0.999), st.floats(-1.1, 1.1)), min_size=1, max_size=12))
def test_a_barrel_is_as_high_as_the_part_is_round(section: Any, places: list[tuple[float, float]]) -> None:
    z0, _, z1, outer = section.bounds
    seen = Barrel.of(section)
    assert seen.radius == pytest.approx(outer)
    for share, side in places:
        x, y = z0 + (z1 - z0) * share, side * outer
        r = section.intersection(shapely.LineString([(x, -1.0), (x, outer + 1.0)])).bounds[3]
        if abs(abs(y) - r) < 1e-4:
            continue
        want = math.sqrt(r * r - y * y) if abs(y) < r else math.inf
        near = [seen.at(x + by, y) for by in (-1e-7, 1e-7)]
        assert min(near) - 1e-3 <= want <= max(near) + 1e-3


@given(shafts(), st.floats(0.05, 0.95), st.floats(-0.9, 0.9), st.floats(0.5, 8.0), st.integers(0, 1000))
def test_the_highest_place_is_no_lower_than_any_and_is_somewhere(
    section: Any, share: float, side: float, r: float, seed: int
) -> None:
    z0, _, z1, outer = section.bounds
    seen, rng = Barrel.of(section), np.random.default_rng(seed)
    region = shapely.Point(z0 + (z1 - z0) * share, side * outer).buffer(r)
    x0, y0, x1, y1 = region.bounds
    points = rng.uniform((x0, y0), (x1, y1), (3000, 2))
    heights = seen.heights(points[shapely.intersects_xy(region, points[:, 0], points[:, 1])])
    heights = heights[np.isfinite(heights)]
    highest = seen.highest(region)
    assert highest >= heights.max(initial=0.0) - 1e-9
    if len(heights) > 500:
        assert highest <= heights.max() + 0.35 * math.sqrt(outer)


@given(shafts(), st.floats(-3.0, 25.0))
def test_what_is_open_at_a_height_is_where_nothing_stands(section: Any, height: float) -> None:
    seen = Barrel.of(section)
    z0, z1, r = section.bounds[0], section.bounds[2], seen.radius
    level = min(height, r)
    x = np.linspace(z0, z1, 4001)
    wide = np.interp(x, *np.array(seen.profile).T)
    half = np.sqrt(np.maximum(wide**2 - max(level, 0.0) ** 2, 0.0)) * (wide >= level)
    body = float((half[1:] + half[:-1]).sum() * (x[1] - x[0]))
    assert seen.open_at(level).area == pytest.approx(2 * r * (z1 - z0) - body, abs=0.02 * r * (z1 - z0) ** 0.5 + 0.5)


@given(st.floats(-720, 720), st.tuples(*(st.floats(-50, 50),) * 3))
def test_a_plane_of_the_side_is_right_handed_and_places_come_back(angle: float, place: tuple[float, float, float]) -> None:
    plane = CutPlane(angle)
    assert np.linalg.det(plane.axes) == pytest.approx(1.0)
    assert plane.axes @ plane.axes.T == pytest.approx(np.eye(3), abs=1e-12)
    assert plane.out(tuple(plane.into(np.array([place]))[0].tolist())) == pytest.approx(place, abs=1e-6)


def test_angles_that_are_the_same_are_one_plane() -> None:
    assert plane_angle(-90.0) == plane_angle(270.0) == plane_angle(630.0000000001) == 270.0
    assert plane_angle(359.9999999) == 0.0
    assert Place.side(30.0, 4).angles == (30.0, 120.0, 210.0, 300.0)
    assert Place.side(0.0, 3).shares(Place.side(120.0, 1))
    assert not Place.side(0.0, 3).shares(Place.side(60.0, 1))
    assert not Place.side(0.0, 1).shares(END)


# -- how it is planned ----------------------------------------------------------------------------------------------


def test_a_step_begins_on_the_crown_of_what_turning_left_there() -> None:
    """Turned to Ø40 over 20: a slot at 10 begins at 20 over the axis, one at 40 at 30; one 12 to the side where the round is."""
    segments = (TurnedSegment(id="g1", z=-20.0, angle=0.0), TurnedSegment(id="g2", d=60.0, angle=90.0))
    shape = TurnedOutline(id="o1", name="outside", d=40.0, segments=segments)
    for x, y, want in ((-10.0, 0.0, 20.0), (-45.0, 0.0, 30.0), (-10.0, 12.0, math.sqrt(20**2 - 7**2))):
        slot = Slot(id="m1", where_on="side", x=x, y=y, length=12.0, width=10.0, depth=3.0)
        made = job(TurnRoughing(id="t2", outline="o1"), slot, leave_d=0.0, leave_z=0.0)
        planned: Any = plan(msgspec.structs.replace(made, outlines=(shape,))).steps[2]
        assert not planned.troubles, planned.troubles
        assert planned.filled.top == pytest.approx(want, abs=1e-6)


def test_what_one_step_took_of_a_plane_the_next_one_there_begins_on() -> None:
    below = msgspec.structs.replace(HOLE, id="m2", at_c=30.0)
    elsewhere = msgspec.structs.replace(HOLE, id="m2", at_c=31.0)
    again = msgspec.structs.replace(HOLE, id="m2", at_c=-330.0)
    for step, want in ((below, 22.0), (elsewhere, 30.0), (again, 22.0)):
        planned: Any = plan(job(POCKET, step)).steps[2]
        assert planned.filled.top == pytest.approx(want, abs=0.1)


def test_a_height_over_the_axis_makes_the_depth() -> None:
    step = msgspec.structs.replace(POCKET, counts="height", height=25.0)
    planned: Any = plan(job(step)).steps[1]
    assert planned.filled.depth == pytest.approx(5.0)
    assert proved(job(step)).verdict == "proved"
    for wrong in (30.0, 31.0):
        assert troubles(job(msgspec.structs.replace(step, height=wrong))) == [("height", "The surface is no higher there.")]
    through = msgspec.structs.replace(HOLE, counts="height", height=0.0, extent="through")
    assert not troubles(job(through)), "what goes through goes to no height"


def test_what_a_step_says_of_its_plan_is_said_as_it_lies_on_the_part() -> None:
    assert on_part("Y of X, down to Z 4; “X-Y Z” stays.", "side") == "Across of Z, down to height 4; “X-Y Z” stays."
    assert on_part("Begins at X", "end") == "Begins at X"
    assert on_part("Move by Y", "round") == "Move by round"
    late = msgspec.structs.replace(HEX, x=5.0)
    assert troubles(job(late)) == [("x", "The part ends at Z 0.")]
    made, ident = edits.step_added(job(patterns=()), "edge-break", "")
    for field, value in (("where_on", "side"), ("size", 0.2)):
        made = answering.answered(made, f"step:{ident}.{field}", value)
    (beside,) = [text for _, text in troubles(made)]
    assert re.fullmatch(r"Beside the edge material stands up to height [\d.]+; the point goes to height [\d.]+\.", beside)


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_keyway_has_the_size_of_its_shaft(unit: Unit) -> None:
    mm = scale("mm", unit)
    for d in (24.0, 30.0, 60.0):
        made = job(Keyway(id="m1", x=-30.0 * mm, length=45.0 * mm), unit=unit, diameter=d * mm)
        full: Any = plan(made).steps[1].filled
        want = keyway_mm(d) if unit == "mm" else keyway_inch(d * mm)
        assert want is not None
        assert (full.width, full.depth) == pytest.approx(want)
        given_ = answering.answered(answering.answered(made, "step:m1.key_width", 7.0 * mm), "step:m1.key_depth", 3.0 * mm)
        full = plan(given_).steps[1].filled
        assert (full.width, full.depth) == pytest.approx((7.0 * mm, 3.0 * mm))


def test_the_tables_of_keys_rise_and_hold_their_upper_ends() -> None:
    """DIN 6885-1: Ø30 has 8 × 4, Ø30.1 has 10 × 5; nothing under Ø6. ASME B17.1: Ø1 1/4 has 1/4."""
    assert keyway_mm(30.0) == (8, 4.0)
    assert keyway_mm(30.1) == (10, 5.0)
    assert keyway_mm(22.5) == (8, 4.0)
    assert keyway_mm(6.0) is None is keyway_mm(231.0) is keyway_inch(0.3) is keyway_inch(7.0)
    small = keyway_inch(1.25)
    assert small is not None
    assert small.width == 0.25
    assert small.depth == pytest.approx(0.125 + (1.25 - math.sqrt(1.25**2 - 0.25**2)) / 2, abs=1e-4)
    for table in (DIN_6885, ASME_B17_1):
        for a, b in itertools.pairwise(table):
            assert all(x <= y for x, y in zip(a, b, strict=True))
            assert a[1] < a[0] / 2.2


def test_a_tool_stands_one_way_and_it_is_said() -> None:
    face = msgspec.structs.replace(POCKET, id="m1", where_on="end", x=0.0, y=0.0, tool="end-6", finish_tool="end-6")
    side = msgspec.structs.replace(POCKET, id="m2", tool="end-6")
    found = troubles(job(face, side))
    assert found
    assert found[0][0] == "tool"
    assert "stands along Z in station" in found[0][1]
    free = msgspec.structs.replace(side, tool=None)
    planned = plan(job(face, free)).steps[2]
    used = {s.tool.id: s.tool.stands for s in planned.stages}
    assert "end-6" not in used
    assert set(used.values()) == {"radial"}


def test_without_y_tools_stay_in_the_middle() -> None:
    aside = PointsPattern(id="p1", name="one", points=((-30.0, 0.5),))
    plain = job(HOLE, machine="lathe-driven")
    assert proved(plain).verdict == "proved"
    assert not any("Y" in line for line in lines_of(plain) if not line.startswith("("))
    found = troubles(job(HOLE, machine="lathe-driven", patterns=(aside,)))
    assert found[0][0] == "where_on"
    assert "has no Y" in found[0][1]
    slot = Slot(id="m1", where_on="side", x=-30.0, length=20.0, width=6.0, depth=3.0, tool="end-6", finish="no", entry="ramp")
    assert proved(job(slot, machine="lathe-driven")).verdict == "proved"
    wider = msgspec.structs.replace(slot, width=7.0)
    assert troubles(job(wider, machine="lathe-driven"))[0][0] == "where_on"
    key = troubles(job(Keyway(id="m1", x=-30.0, length=40.0, finish="no"), machine="lathe-driven"))
    assert key[0][0] == "tool", "where it is is not asked of a keyway"
    assert not STEPS["flats"].possible("turned", plan(plain).first.job.card)


def test_a_run_on_the_side_is_repeated_there() -> None:
    again = Repeat(id="m2", back=1, how="grid", columns=2, column_pitch=-14.0)
    proof = proved(job(HOLE, again))
    assert proof.verdict == "proved", proof.remarks
    deep = proof.trace.end[proof.trace.stands & (proof.trace.kind == 1)]
    assert set(np.round(deep[:, 2], 3)) == {-30.0, -44.0}
    face = Drilling(id="m0", diameter=5.0, depth=4.0, pattern="p1")
    mixed = troubles(job(face, HOLE, Repeat(id="m2", back=2, how="grid")))
    assert mixed[-1] == ("back", "They are not all at the same place on the part.")


def test_a_machine_whose_turret_drives_nothing_across_says_so() -> None:
    made = job(HOLE)
    card = plan(made).first.job.card
    assert card.drive is not None
    other = msgspec.structs.replace(card, id="own", drive=msgspec.structs.replace(card.drive, radial=False))
    found = troubles(msgspec.structs.replace(made, machine="own", cards=(other,)))
    assert found[0][0] == "where_on"
    assert "drives no tools across" in found[0][1]


CASES = [(unit, kind) for unit in ("mm", "inch") for kind, k in STEPS.items() if k.driven and kind != "repeat"]
BOSSES = {"free-boss", "rectangular-boss", "round-boss", "polygon-boss"}
"""They clear all of the part around themselves, and so come to the chuck: that is found."""
FIRST = [
    ("mm", "keyway"), ("inch", "flats"), ("mm", "slot"), ("inch", "drilling"), ("mm", "rectangular-pocket"), ("mm", "engraving"),
    ("inch", "round-pocket"), ("mm", "finished-hole"), ("mm", "outline-milling"), ("mm", "round-boss"),
]  # fmt: skip


@pytest.mark.parametrize(("unit", "kind"), some([*FIRST, *(c for c in CASES if c not in FIRST)], 10))
def test_every_step_that_comes_to_the_side_proves_or_says_why_not(unit: Unit, kind: str) -> None:
    made, ident = edits.step_added(job(unit=unit, patterns=()), kind, "")
    step: Any = made.step(ident)
    if "where_on" not in step.FIXED:
        made = answering.answered(made, f"step:{ident}.where_on", "side")
    proof = prove_whole(plan(made))
    stopped = [r for r in proof.remarks if r.level == "stop" and r.code != "answer"]
    if kind in BOSSES:
        stopped = [r for r in stopped if r.code not in ("jaws-hit", "chuck-hit", "over-travel")]
    assert not stopped, [r.text for r in stopped]


# -- how it is said -------------------------------------------------------------------------------------------------


def test_the_side_is_turned_to_and_clamped_and_arcs_are_said_in_g19() -> None:
    text = text_of(job(POCKET)).split("\n")
    on = text.index("M34")
    assert text[on + 1] == "G19 G94"
    turned_to = next(k for k, line in enumerate(text) if line.startswith("C30") or " C30" in line)
    assert text[turned_to + 1] == "M36"
    assert not any(re.search(r"\bI-?\d", line) for line in lines_of(job(POCKET)))
    assert any(re.search(r"G3 .*J-?\d.* K-?\d", line) for line in lines_of(job(POCKET)))
    assert text[text.index("M35") + 1] == "G18"


def test_c_is_turned_only_while_the_tool_is_off_the_part() -> None:
    trace: Trace = proved(job(HEX)).trace
    swings = np.flatnonzero(trace.angle[:, 0] != trace.angle[:, 1])
    assert len(np.unique(trace.line[swings])) == 5, "the first side is where C begins"
    assert np.hypot(trace.end[swings, 0], trace.end[swings, 1]).min() > 30.0
    assert not trace.held[swings].any()
    cuts = trace.stands & (trace.kind == 1)
    assert trace.held[cuts].all()


def test_face_and_side_share_one_axis_and_each_has_its_plane() -> None:
    face = Drilling(id="m1", diameter=5.0, depth=6.0, pattern="p2", spot="no", tool="drill-5")
    other = msgspec.structs.replace(HOLE, id="m2", diameter=6.8, at_c=200.0)
    two = PointsPattern(id="p2", name="two", points=((10.0, 0.0), (0.0, 10.0)))
    made = job(face, other, msgspec.structs.replace(HEX, id="m3"), patterns=(AT, two))
    text = text_of(made).split("\n")
    planes = [word for line in text for word in line.split() if word in ("G17", "G19", "G18")]
    assert [a for a, b in itertools.pairwise(["", *planes, ""]) if a != b][1:] == ["G18", "G17", "G19", "G18"]
    assert text.count("M35") == 1
    assert proved(made).verdict == "proved"


def test_threads_are_tapped_along_x() -> None:
    tapped = Tapping(id="m2", where_on="side", pattern="p1", depth=8.0, tool="tap-m6")
    hole = msgspec.structs.replace(HOLE, depth=14.0, tool="drill-5", diameter=5.0)
    made = job(hole, tapped)
    assert not troubles(made), troubles(made)
    line = next(line for line in lines_of(made, "m2") if line.startswith("G84"))
    x, r = (float(m[1]) for word in "XR" if (m := re.search(rf"{word}(-?[\d.]+)", line)))
    assert x == pytest.approx(2 * (30.0 - 8.0 - 4 * 1.0)), "a diameter, with the lead of the tap"
    assert r > 60.0
    assert proved(made).verdict == "proved", proved(made).remarks


@given(
    x=st.floats(-50, -18), y=st.floats(-8, 8), angle=st.floats(-400, 400), turn=st.floats(-180, 180),
    unit=st.sampled_from(["mm", "inch"]),
)  # fmt: skip
@settings(max_examples=many(9))
def test_what_is_read_lies_in_the_plane_as_it_was_planned(x: float, y: float, angle: float, turn: float, unit: Unit) -> None:
    """Arcs stay arcs about their own centres, to the last digit that is written."""
    mm = scale("mm", unit)
    size = {"length": 22.0 * mm, "width": 14.0 * mm, "corner_radius": 4.0 * mm, "depth": 2.0 * mm}
    where = {"x": round(x * mm, 4), "y": round(y * mm, 4), "at_c": round(angle, 3), "angle": round(turn, 2)}
    step = msgspec.structs.replace(POCKET, **size, **where)
    made = job(step, unit=unit)
    proof = proved(made)
    assert not codes(proof, "stop"), (proof.remarks, step)
    plane = CutPlane(plane_angle(step.at_c))
    seen = plane.trace(proof.trace)
    mine = proof.trace.held & (proof.trace.kind > 0)
    floor = mine & (seen.end[:, 2] < seen.end[mine, 2].min() + 1e-4 * mm)
    arcs = floor & (seen.turn != 0.0)
    assert set(seen.plane[arcs]) <= {17}, "a corner as round as the tool has none"
    tool = proof.stages[-1].proof.tool
    c, n = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    own = (seen.end[floor, :2] - (step.x, step.y)) @ np.array([[c, -n], [n, c]])
    reach = np.abs(own).max(axis=0) + tool.diameter / 2
    assert reach == pytest.approx([11.0 * mm, 7.0 * mm], abs=0.003 * mm)


# -- what it makes --------------------------------------------------------------------------------------------------


def crossing(radius: float, hole: float) -> float:
    """The volume that a hole takes of a bar, across its middle and through it."""
    return quad(lambda x: 4 * math.sqrt(hole**2 - x**2) * math.sqrt(radius**2 - x**2), -hole, hole)[0]


def test_volumes_are_those_of_exact_formulas() -> None:
    """A cross hole through Ø30, a keyway and a hexagon on Ø60."""
    through = msgspec.structs.replace(HOLE, extent="through", at_c=77.0)
    proof = proved(job(through, diameter=30.0))
    assert proof.verdict == "proved", proof.remarks
    assert taken(proof) == pytest.approx(crossing(15.0, 2.5), rel=0.003)
    proof = proved(job(KEY))
    b, long, t1 = 18.0, 40.0, 7.0
    area = (long - b) * b + math.pi * b * b / 4
    floor = 30.0 - t1

    def over(v: float) -> float:
        return math.sqrt(900.0 - v * v) - floor

    ends = 2 * quad(lambda v: over(v) * math.sqrt(b * b / 4 - v * v), -b / 2, b / 2)[0]
    want = (long - b) * quad(over, -b / 2, b / 2)[0] + ends
    assert want < area * t1
    assert taken(proof) == pytest.approx(want, rel=0.002)
    proof = proved(job(HEX))
    hexagon = 2 * math.sqrt(3.0) * 24.0**2
    assert taken(proof) == pytest.approx(14.0 * (900.0 * math.pi - hexagon), rel=0.002)


@pytest.mark.parametrize("times", some([6, 4, 2, 5, 3, 1], 2))
def test_flats_are_as_far_from_the_axis_as_they_should(times: int) -> None:
    step = msgspec.structs.replace(HEX, times=times, across=52.0, height=26.0, at_c=12.5)
    proof = proved(job(step))
    assert proof.verdict == "proved", proof.remarks
    rays = proof.stages[-1].proof.behind.dexels()
    slab = int(np.searchsorted(rays.edges, -7.0))
    ray = 2 * math.pi / len(rays.count)
    for k in range(times):
        angle = math.radians(12.5 + 360.0 / times * k)
        i = int(angle / ray) % len(rays.count)
        off = (i + 0.5) * ray - angle
        assert rays.hi[i, slab, 0] * math.cos(off) == pytest.approx(26.0, abs=1e-5)


@given(
    x=st.floats(-55, -15), y=st.floats(-10, 10), at=st.floats(0, 360), times=st.integers(1, 3), length=st.floats(14, 22),
    width=st.floats(9, 13), depth=st.floats(1, 5),
)  # fmt: skip
@settings(max_examples=many(9))
def test_any_pocket_anywhere_on_the_side(
    x: float, y: float, at: float, times: int, length: float, width: float, depth: float
) -> None:
    x, y, at, length, width, depth = (round(v, 3) for v in (x, y, at, length, width, depth))
    step = RectangularPocket(
        id="m1", where_on="side", x=x, y=y, at_c=at, times=times, length=length, width=width, corner_radius=4.0, depth=depth
    )
    proof = proved(job(step))
    assert not [r for r in proof.remarks if r.level == "stop"], (proof.remarks, step)
    full: Any = plan(job(step)).steps[1].filled
    removal = plan(job(step)).steps[1].removals[0]
    span = np.linspace(removal.region.bounds[1], removal.region.bounds[3], 801)
    middle = (span[1:] + span[:-1]) / 2
    lines = [removal.region.intersection(shapely.LineString([(-200, v), (200, v)])).length for v in middle]
    over = np.maximum(np.sqrt(900.0 - middle**2) - (full.top - depth), 0.0)
    want = times * float((np.array(lines) * over).sum() * (span[1] - span[0]))
    assert taken(proof) == pytest.approx(want, rel=0.01, abs=1.0)


# -- one fault each -------------------------------------------------------------------------------------------------


def test_what_is_too_deep_or_not_deep_enough_is_told_to_two_microns() -> None:
    text = text_of(job(POCKET))
    assert not told(job(POCKET), text)
    floor = re.search(r"X44(?=[ \n])", text)
    assert floor, "22 over the axis"
    deep = told(job(POCKET), re.sub(r"X44(?=[ \n])", "X43.99", text))
    assert ("gouge", pytest.approx(0.005, abs=2e-4)) in deep
    high = told(job(POCKET), re.sub(r"X44(?=[ \n])", "X44.01", text))
    assert ("left", pytest.approx(0.005, abs=2e-4)) in high


def test_a_wall_of_what_is_round_that_is_off_by_a_fiftieth_is_told() -> None:
    """Beside the middle the round is lower than its crown: walls there are walls too."""
    for step, other in ((POCKET, {"width": 15.96}), (msgspec.structs.replace(KEY, key_width=18.0), {"key_width": 17.96})):
        narrower = job(msgspec.structs.replace(step, **other))
        found = told(narrower, text_of(job(step)))
        assert any(kind == "gouge" and amount == pytest.approx(0.02, abs=0.004) for kind, amount in found), found
        wider = told(job(step), text_of(narrower))
        assert any(kind == "left" and amount == pytest.approx(0.02, abs=0.01) for kind, amount in wider), wider


def test_another_angle_a_missing_side_and_y_the_wrong_way_are_told() -> None:
    text = text_of(job(POCKET))
    assert {kind for kind, _ in told(job(POCKET), text.replace("C30\n", "C30.2\n"))} == {"left", "gouge"}
    mirrored = msgspec.structs.replace(POCKET, y=-2.0)
    assert {kind for kind, _ in told(job(POCKET), text_of(job(mirrored)))} == {"left", "gouge"}
    four = job(msgspec.structs.replace(HOLE, times=4))
    lines = text_of(four).split("\n")
    turned_to = [k for k, line in enumerate(lines) if re.fullmatch(r"(G0 )?C(90|180|270)", line)]
    assert len(turned_to) == 3
    for k in turned_to[1:2]:
        lines[k] = lines[k].replace("C180", "C90")
    remarks = proved(four, "\n".join(lines)).remarks
    assert ["on the side at 180°" in r.text for r in remarks if r.code == "left"] == [True]


def test_places_of_remarks_are_on_the_part() -> None:
    remarks = proved(job(POCKET), re.sub(r"X44(?=[ \n])", "X43.9", text_of(job(POCKET)))).remarks
    place = next(r.place for r in remarks if r.code == "gouge")
    assert place is not None
    u, v, w = CutPlane(30.0).axes @ np.array(place)
    assert -42.0 < u < -18.0
    assert -6.0 < v < 10.0
    assert w == pytest.approx(21.95, abs=1e-3)
    text = next(r.text for r in remarks if r.code == "gouge")
    assert len([r for r in remarks if r.code == "gouge"]) == 1, "once"
    assert re.search(r"Z -?[\d.]+ and -?[\d.]+ across on the side at 30°", text)


def test_turning_goes_on_after_the_side_was_milled_and_says_so() -> None:
    segments = (TurnedSegment(id="g1", z=-60.0, angle=0.0),)
    shape = TurnedOutline(id="o1", name="outside", d=56.0, segments=segments)
    made = msgspec.structs.replace(job(POCKET, TurnRoughing(id="t2", outline="o1")), outlines=(shape,))
    proof = proved(made)
    assert "interrupted-cut" in {r.code for r in proof.remarks}
    assert not codes(proof, "stop"), proof.remarks


@pytest.mark.parametrize(
    ("change", "code"),
    [
        ({"x": -97.0, "length": 16.0}, "jaws-hit"),
        ({"y": 45.0, "x": -30.0, "length": 20.0, "depth": 1.0, "top": 30.0}, "over-travel"),
    ],
)  # fmt: skip
def test_chuck_and_travels_are_looked_at(change: dict[str, Any], code: str) -> None:
    proof = proved(job(msgspec.structs.replace(POCKET, **change)))
    assert code in {r.code for r in proof.remarks}, (proof.remarks, troubles(job(msgspec.structs.replace(POCKET, **change))))


@pytest.mark.parametrize(
    ("y", "before", "want"), [(0.0, None, 0.0), (12.0, None, 24.0), (12.0, "spot", 0.0), (12.0, "flat", 0.0)]
)
def test_a_drill_that_enters_a_slant_is_told(y: float, before: str | None, want: float) -> None:
    """Beside the middle of Ø60 by 12 the face slants by asin(12 / 30)."""
    place = PointsPattern(id="p1", name="one", points=((-30.0, y),))
    hole = msgspec.structs.replace(HOLE, spot="yes" if before == "spot" else "no")
    flat = Slot(id="m0", where_on="side", x=-30.0, y=12.0, length=20.0, width=9.0, depth=4.0)
    proof = proved(job(*([flat] if before == "flat" else []), hole, patterns=(place,)))
    found = [r for r in proof.remarks if r.code == "slant-entry"]
    assert not codes(proof, "stop"), proof.remarks
    assert [r.amount for r in found] == ([pytest.approx(want, abs=2.0)] if want else [])
    assert [r.step for r in found] == (["m1"] if want else [])


def test_a_cut_on_the_side_with_c_free_is_told() -> None:
    made = job(POCKET)
    card = plan(made).first.job.card
    assert card.c is not None
    weak = msgspec.structs.replace(card, id="own", c=msgspec.structs.replace(card.c, holds=0.5))
    made = msgspec.structs.replace(made, machine="own", cards=(weak,))
    text = text_of(made)
    free = "\n".join(line for line in text.split("\n") if line not in ("M36", "M37"))
    assert "c-holds" in {r.code for r in proved(made, free).remarks}
    assert "c-holds" not in {r.code for r in proved(made, text).remarks}


EDITS = [
    ("step:m1.depth", 6.0), ("step:m1.at_c", 75.0), ("step:m2.times", 3), ("step:m2.depth", 5.0), ("step:m3.depth", 2.0),
    ("pattern:p2.points", ((-50.0, 0.0),)), ("step:m3.at_c", 200.0), ("step:m4.depth", 7.0), ("step:m1.on", False),
    ("stock.pace", 60.0), ("step:m3.from_x", -40.0), ("step:t1.ap", 0.5), ("stock.diameter", 58.0),
]  # fmt: skip
FAR = PointsPattern(id="p2", name="far", points=((-70.0, 0.0),))


@given(st.lists(st.sampled_from(EDITS), min_size=1, max_size=4))
@settings(max_examples=many(3))
def test_an_edit_proves_as_from_nothing(changes: list[tuple[str, Any]]) -> None:
    """Of runs that reach other slabs than an edit changed, what they did is kept."""
    groove = HelicalGroove(id="m3", from_x=-10.0, long=8.0, pitch=30.0, width=6.0, depth=1.5, finish="no", entry="ramp")
    face = Drilling(id="m4", diameter=6.8, depth=10.0, pattern="p3", spot="no")
    two = PointsPattern(id="p3", name="two", points=((12.0, 0.0), (0.0, 12.0)))
    other = msgspec.structs.replace(HOLE, id="m2", pattern="p2", at_c=120.0)
    made, prover = job(POCKET, other, groove, face, patterns=(AT, FAR, two)), Prover()
    prover.prove(plan(made))
    for address, value in changes:
        made = answering.answered(made, address, value)
        again, fresh = prover.prove(plan(made)), prove_whole(plan(made))
        assert again is not None
        assert [(r.code, r.text) for r in again.remarks] == [(r.code, r.text) for r in fresh.remarks]
        pairs: Any = zip(again.holdings[0].stages, fresh.holdings[0].stages, strict=True)
        for a, b in pairs:
            assert a.volume == pytest.approx(b.volume, rel=1e-9, abs=1e-9)
            if hasattr(a.proof, "behind"):
                one, two_ = (stage.proof.behind.dexels() for stage in (a, b))
                assert (one.count == two_.count).all()
                assert one.volume == pytest.approx(two_.volume, rel=1e-12)


# -- what is seen ---------------------------------------------------------------------------------------------------


def test_a_finger_on_a_flat_tells_how_far_it_is_off() -> None:
    deep = text_of(job(HEX)).replace("X48 ", "X47.9 ").replace("X48\n", "X47.9\n")
    for text, want in (("", 0.0), (deep, -0.05)):
        proof = proved(job(HEX), text)
        moment = moment_at(proof, proof.total)
        w = 24.0 + want
        place = tuple(float(v) for v in np.array((-7.0, 1.0, w)) @ CutPlane(60.0).axes)
        normal = tuple(float(v) for v in CutPlane(60.0).axes[2])
        found = touched_driven(proof, moment, place, normal, inside=False)  # type: ignore[arg-type]
        assert found.driven
        assert found.off == pytest.approx(want, abs=1e-6)
        assert found.move >= 0


def test_comparing_colours_a_good_flat_as_good_and_a_deep_one_as_missing() -> None:
    deep = Program.foreign(re.sub(r"X48(?=[ \n])", "X47", text_of(job(HEX))))
    for given_, want in (({}, 0), ({0: deep}, -1)):
        whole = prove_whole(plan(job(HEX)), given_)
        one: Any = whole.holdings[0]
        found = solid(State(proof=whole), "h1", moment_at(one, one.total), None, rough=False, compared=True)
        assert found is not None
        mesh, _ = found
        middle = mesh.points[mesh.triangles].mean(axis=1)
        flat = (middle[:, 0] > -13.9) & (middle[:, 0] < -0.1) & (np.hypot(middle[:, 1], middle[:, 2]) < 27.0)
        assert flat.any()
        assert (np.sign(mesh.off[flat]) == want).mean() > (0.99 if want else 0.9999)


def test_programs_that_were_not_written_here_are_looked_at_by_plane_too() -> None:
    """Two holes at two angles in one run, of which nobody wants the second."""
    text = text_of(job(HOLE))
    more = "G0 X70\nM37\nG0 C90\nM36\nG1 X40 F100\nG0 X70\n"
    off = text.index("M55")
    found = [r for r in proved(job(HOLE), text[:off] + more + text[off:]).remarks if r.code == "gouge"]
    assert any("on the side at 90°" in r.text for r in found), found
