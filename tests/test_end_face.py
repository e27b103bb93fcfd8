"""Steps of driven tools on the end face of a part in a chuck: planned on what turning left, said as each machine can, read back
and proved; and one fault each."""

from __future__ import annotations

import itertools
import math
import re
import time
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, edits, plan
from bastler.live.tasks import State, solid
from bastler.machines import CARDS
from bastler.post import Program, post
from bastler.proof import Prover, prove_job, prove_whole
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.run import PolarRun
from bastler.proof.polar.touch import touched_driven
from bastler.proof.scrub import moment_at
from bastler.shapes import CirclePattern, PlanOutline, PointsPattern, Shoulders, TurnedOutline, TurnedSegment
from bastler.steps import STEPS, Drilling, PartOff, PolygonBoss, RectangularPocket, Repeat, TurnFacing, TurnRoughing
from bastler.units import Unit, scale
from conftest import codes, many, some, turned

MACHINES = ("turn-mill-250", "lathe-driven")
FACED = TurnFacing(id="t1")
POCKET = RectangularPocket(id="m1", length=24.0, width=16.0, corner_radius=4.0, depth=8.0)
HOLES = Drilling(id="m2", diameter=5.0, depth=12.0, pattern="p1")
CIRCLE = CirclePattern(id="p1", name="circle", diameter=40.0, count=6)
STANDS = 2e-4
"""What rounded words make of a place, in mm: 0.001 on a diameter, 0.001 degrees at Ø40."""


def job(*steps: Any, machine: str = "turn-mill-250", unit: Unit = "mm", patterns: Any = (CIRCLE,), **setup: Any) -> Job:
    """A bar of Ø60 that is faced, then milled."""
    made = turned(FACED, *steps, machine=machine, unit=unit, **setup)
    return msgspec.structs.replace(made, patterns=patterns)


def proved(made: Job, text: str = "") -> Any:
    return prove_job(plan(made), Program.foreign(text) if text else None)


def arrived(machine: str, unit: Unit, *kinds: str) -> Job:
    """A new job with steps of some kinds, as they arrive behind a facing."""
    made = job(machine=machine, unit=unit, patterns=())
    for kind in kinds:
        made, _ = edits.step_added(made, kind, "")
    return made


def lines_of(made: Job, step: str) -> list[str]:
    program = post(plan(made).first)
    return [line for line, k in zip(program.lines, range(len(program.lines)), strict=True) if program.section_of(k).step == step]


# -- what turning left --------------------------------------------------------------------------------------------


@st.composite
def sections(draw: st.DrawFn) -> Any:
    """A half section of shoulders, tapers and a bore, perhaps with a groove behind a collar."""
    z, points = 0.0, [(0.0, round(draw(st.floats(0.0, 4.0)), 6))]
    r = points[0][1]
    for _ in range(draw(st.integers(1, 5))):
        r += draw(st.floats(0.5, 8.0))
        points.append((z, r))
        z -= draw(st.floats(0.0, 9.0))
        points.append((z, r + draw(st.sampled_from([0.0, 0.0, 1.5]))))
        r = points[-1][1]
    back = z - draw(st.floats(1.0, 20.0))
    whole = shapely.make_valid(shapely.Polygon([*points, (back, r), (back, points[0][1])]))
    if draw(st.booleans()):
        whole = whole.difference(shapely.box(back + 0.3, r - 1.0, (back + z) / 2, r + 1.0))
    return whole


@given(sections(), st.lists(st.floats(0.001, 1.0), min_size=1, max_size=12))
def test_the_shoulders_are_the_foremost_places_of_the_section(section: Any, shares: list[float]) -> None:
    z0, _, z1, outer = section.bounds
    seen = Shoulders.of(section, z0)
    assert seen.radius == pytest.approx(outer)
    for share in shares:
        r = share * outer * 0.9999
        line = section.intersection(shapely.LineString([(z0 - 1, r), (z1 + 1, r)]))
        foremost = z0 if line.is_empty else line.bounds[2]
        near = [seen.at(r + by, 0.0) for by in (-1e-7, 1e-7)]  # at a step either side may be meant
        assert min(near) - 1e-5 <= foremost <= max(near) + 1e-5
        level = foremost + 0.01
        assert seen.open_at(level).buffer(1e-3).covers(shapely.Point(r, 0.0)) or seen.at(r, 0.0) > level
    assert seen.highest(seen.region) == pytest.approx(max(z for _, z in seen.profile))
    far = shapely.box(outer + 1, 0, outer + 2, 1)
    assert seen.highest(far) == seen.floor


@given(sections(), st.floats(-40.0, 1.0))
def test_what_is_open_at_a_level_is_where_nothing_stands(section: Any, level: float) -> None:
    seen = Shoulders.of(section, section.bounds[0])
    area = sum(
        math.pi * (b * b - a * a) for (a, za), (b, zb) in itertools.pairwise(_finely(seen.profile)) if (za + zb) / 2 <= level
    )
    assert seen.open_at(level).area == pytest.approx(area, rel=0.02, abs=3.0)


def _finely(profile: Any) -> list[tuple[float, float]]:
    found = []
    for (r0, z0), (r1, z1) in itertools.pairwise(profile):
        found += [(r0 + (r1 - r0) * t, z0 + (z1 - z0) * t) for t in np.linspace(0.0, 1.0, 60)]
    return found


def test_a_step_begins_on_the_shoulder_that_is_under_it() -> None:
    """Turned down to Ø40 over 20: a hole at Ø50 begins on the shoulder, one at Ø20 on the face."""
    segments = (TurnedSegment(id="g1", z=-20.0, angle=0.0), TurnedSegment(id="g2", d=60.0, angle=90.0))
    shape = TurnedOutline(id="o1", name="outside", d=40.0, segments=segments)
    for at, want in ((25.0, -20.0), (10.0, 0.0)):
        place = PointsPattern(id="p1", name="p", points=((at, 0.0),))
        made = job(TurnRoughing(id="t2", outline="o1"), HOLES, patterns=(place,), leave_d=0.0, leave_z=0.0)
        planned: Any = plan(msgspec.structs.replace(made, outlines=(shape,))).steps[2]
        assert not planned.troubles, planned.troubles
        assert planned.filled.top == pytest.approx(want, abs=1e-6)


# -- as each machine can --------------------------------------------------------------------------------------------


def test_holes_are_come_to_by_c_which_is_clamped_for_each() -> None:
    text = lines_of(job(HOLES), "m2")
    angles = [float(m[1]) for line in text if (m := re.search(r"C([\d.]+)", line))]
    assert sorted(set(angles)) == [0.0, 60.0, 120.0, 180.0, 240.0, 300.0]
    for k, line in enumerate(text):
        if line.startswith("C") or " C" in line:
            assert text[k + 1] == "M36"
            assert k == 0 or "M37" in text[:k] or "M36" not in text[:k]
    frees = [k for k, line in enumerate(text) if line == "M37"]
    clamps = [k for k, line in enumerate(text) if line == "M36"]
    assert all(a < b for a, b in itertools.pairwise(sorted([*frees, *clamps])))


def test_the_spindle_stands_before_it_is_an_axis_and_turns_after() -> None:
    after = TurnFacing(id="t9", finish_z=-1.0)
    lines = list(post(plan(job(HOLES, after)).first).lines)
    on, off = lines.index("M34"), lines.index("M35")
    assert lines[on - 1] == "M5"
    assert lines[on + 1] == "G17 G94"
    assert lines[off + 1] == "G18"
    assert "M55" in lines[on:off], "the drive stops first"
    assert any(line.endswith("M3") for line in lines[off:]), "and the work turns again"
    assert not proved(job(HOLES, after)).trace.findings


def test_a_pocket_is_milled_with_y_where_that_reaches() -> None:
    text = lines_of(job(POCKET), "m1")
    assert any(re.search(r"\bY-?\d", line) for line in text)
    assert not any(line in ("G12.1", "G93") for line in text)
    assert text.count("M36") <= 2, "C is clamped once a tool"


def test_what_is_wider_than_y_goes_by_polar_interpolation() -> None:
    wide = PolygonBoss(id="m1", depth=4.0, flats=90.0)
    made = job(wide, diameter=110.0, patterns=())
    made = answering.answered(made, "holding:h1.jaw_d", 200.0)
    text = lines_of(made, "m1")
    assert text.count("G12.1") == text.count("G13.1") > 0
    inside = [line for on, off in _spans(text, "G12.1", "G13.1") for line in text[on:off]]
    assert not any(line.startswith("G0") for line in inside), "no rapid goes through it"
    proof = proved(made)
    assert not codes(proof, "stop"), proof.remarks
    assert proof.trace.polar.any()


def _spans(lines: list[str], begin: str, end: str) -> list[tuple[int, int]]:
    return list(zip([k for k, x in enumerate(lines) if x == begin], [k for k, x in enumerate(lines) if x == end], strict=True))


@pytest.mark.parametrize("unit", some(["inch", "mm"], 1))
def test_without_y_and_interpolation_x_and_c_go_in_chords(unit: Unit) -> None:
    """They stay on the wanted path to 10 µm, C's own resolution of 0.01° included; every feed has its share of a minute."""
    mm = scale("mm", unit)
    small = {"length": 24.0 * mm, "width": 16.0 * mm, "corner_radius": 4.0 * mm, "depth": 3.0 * mm}
    made = job(msgspec.structs.replace(POCKET, **small), machine="lathe-driven", unit=unit, patterns=())
    text = lines_of(made, "m1")
    assert text.count("G93") == text.count("G98") > 0
    for begin, end in _spans(text, "G93", "G98"):
        motion = "G0"
        for line in text[begin + 1 : end]:
            motion = m[0] if (m := re.match(r"G[01]\b", line)) else motion
            assert motion == "G0" or " F" in line, line
    proof = proved(made)
    assert not [r for r in proof.remarks if r.level == "stop"], proof.remarks
    driven = [s.proof for s in proof.stages if isinstance(s.proof, PolarRun)]
    trace = proof.trace
    lowest = float(trace.end[trace.stands, 2].min())
    own = trace.stands & (trace.end[:, 2] < lowest + 1e-6) & (trace.kind == 1)
    tool = next(p.tool.diameter for p in driven if p.tool is not None)
    reach = np.abs(trace.end[own][:, :2]).max(axis=0) + tool / 2
    assert reach == pytest.approx([12.0 * mm, 8.0 * mm], abs=0.01 * mm)


def test_the_path_through_the_middle_turns_c_on_the_spot() -> None:
    slot = STEPS["slot"].cls
    made = arrived("lathe-driven", "mm", "slot")
    proof = proved(made)
    assert isinstance(made.holdings[0].steps[-1], slot)
    assert not [r for r in proof.remarks if r.level == "stop"], proof.remarks


PAIRS = [("drilling", k) for k in ("countersink", "counterbore", "tapping")]
KINDS = [(k,) for k, kind in STEPS.items() if kind.driven and k not in ("edge-break", "thread-milling", "boring", "reaming")]
EVERY = [(machine, unit, kinds) for machine in MACHINES for unit in ("mm", "inch") for kinds in [*KINDS, *PAIRS]]
QUICK: list[Any] = [
    ("turn-mill-250", "mm", ("drilling", "tapping")), ("turn-mill-250", "inch", ("drilling", "countersink")),
    ("lathe-driven", "mm", ("engraving",)), ("lathe-driven", "inch", ("slot",)), ("turn-mill-250", "mm", ("slot",)),
    ("turn-mill-250", "mm", ("free-boss",)), ("turn-mill-250", "inch", ("round-boss",)),
    ("turn-mill-250", "mm", ("finished-hole",)), ("turn-mill-250", "mm", ("ring-groove",)),
    ("turn-mill-250", "inch", ("outline-milling",)), ("turn-mill-250", "mm", ("drilling", "counterbore")),
    ("turn-mill-250", "inch", ("polygon-boss",)),
]  # fmt: skip


@pytest.mark.parametrize(("machine", "unit", "kinds"), some([*QUICK, *(c for c in EVERY if c not in QUICK)], 12))
def test_every_step_on_the_face_proves_as_it_arrives_or_says_why_not(machine: str, unit: Unit, kinds: tuple[str, ...]) -> None:
    planned = plan(arrived(machine, unit, *kinds))
    proof = prove_whole(planned)
    stopped = [r for r in proof.remarks if r.level == "stop" and r.code != "answer"]
    assert not stopped, [r.text for r in stopped]
    for r in proof.remarks:
        assert r.code != "answer" or r.text.endswith("."), r


# -- what it makes ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("machine", some(MACHINES, 1))
def test_volumes_are_those_of_the_removals(machine: str) -> None:
    """Rectangle 24 × 16 with R4, 8 deep: 8 (24 · 16 - (4 - π) 16) mm³; six holes Ø5 with a 118° tip and a spotted edge."""
    pocket = 8 * (24 * 16 - (4 - math.pi) * 16)
    proof = proved(job(POCKET, machine=machine))
    assert proof.verdict == "proved", proof.remarks
    assert sum(s.volume for s in proof.stages if s.step == "m1") == pytest.approx(pocket, rel=0.002)
    plain = msgspec.structs.replace(HOLES, spot="no")
    proof = proved(job(plain, machine=machine))
    tip = 2.5 / math.tan(math.radians(59.0))
    holes = 6 * math.pi * 2.5**2 * (12.0 + tip / 3)
    assert sum(s.volume for s in proof.stages if s.step == "m2") == pytest.approx(holes, rel=0.004)


@given(
    x=st.floats(-14, 14), y=st.floats(-14, 14), angle=st.floats(-180, 180), length=st.floats(14, 22), width=st.floats(9, 13),
    machine=st.sampled_from(MACHINES),
)  # fmt: skip
@settings(max_examples=many(9))
def test_any_pocket_anywhere_on_the_face(x: float, y: float, angle: float, length: float, width: float, machine: str) -> None:
    x, y, angle, length, width = (round(v, 3) for v in (x, y, angle, length, width))
    step = RectangularPocket(id="m1", x=x, y=y, angle=angle, length=length, width=width, corner_radius=4.0, depth=2.0)
    proof = proved(job(step, machine=machine))
    assert not [r for r in proof.remarks if r.level == "stop"], (proof.remarks, step)
    want = 2 * (length * width - (4 - math.pi) * 16)
    assert sum(s.volume for s in proof.stages if s.step == "m1") == pytest.approx(want, rel=0.01)


@pytest.mark.parametrize("machine", MACHINES)
def test_holes_lie_where_they_are_to_a_micron(machine: str) -> None:
    trace = proved(job(HOLES, machine=machine)).trace
    deep = trace.end[trace.stands & (trace.end[:, 2] < -12.0) & (trace.kind == 1)]
    places = np.unique(np.round(deep[:, :2], 4), axis=0)
    want = [(20 * math.cos(math.radians(60 * k)), 20 * math.sin(math.radians(60 * k))) for k in range(6)]
    assert len(places) == 6
    for x, y in want:
        off = np.hypot(places[:, 0] - x, places[:, 1] - y).min()
        assert off < 0.001


# -- one fault each -------------------------------------------------------------------------------------------------


def text_of(made: Job) -> str:
    return post(plan(made).first).text


def told(made: Job, text: str) -> list[tuple[str, float]]:
    """What the shape is said to be off, of another text in the place of the program."""
    remarks = prove_job(plan(made), Program.foreign(text)).remarks
    return [(r.code, r.amount) for r in remarks if r.code in ("left", "gouge")]


def to_floor(text: str, word: str) -> str:
    """The program with another floor of the pocket."""
    assert re.search(r"Z-8(?=[ \n])", text)
    return re.sub(r"Z-8(?=[ \n])", word, text)


def test_a_pocket_cut_too_deep_or_not_deep_enough_is_told() -> None:
    text = text_of(job(POCKET))
    deep = told(job(POCKET), to_floor(text, "Z-8.01"))
    assert ("gouge", pytest.approx(0.01, abs=1e-4)) in deep
    high = told(job(POCKET), to_floor(text, "Z-7.99"))
    assert ("left", pytest.approx(0.01, abs=1e-4)) in high
    assert not told(job(POCKET), text)


def test_a_wall_that_is_off_by_a_fiftieth_is_told() -> None:
    narrower = job(msgspec.structs.replace(POCKET, width=15.96))
    found = told(narrower, text_of(job(POCKET)))
    assert any(kind == "gouge" and amount == pytest.approx(0.02, abs=0.004) for kind, amount in found), found
    wider = told(job(msgspec.structs.replace(POCKET, width=16.04)), text_of(job(POCKET)))
    assert any(kind == "left" and amount == pytest.approx(0.02, abs=0.01) for kind, amount in wider), wider


def test_a_hole_at_another_angle_is_missing_there_and_too_much_here() -> None:
    found = told(job(HOLES), text_of(job(HOLES)).replace("C120\n", "C121\n"))
    assert {kind for kind, _ in found} == {"left", "gouge"}
    assert not told(job(HOLES), text_of(job(HOLES)))


def test_a_program_that_never_mills_leaves_all_of_it() -> None:
    bare = job(POCKET)
    turned_only = text_of(msgspec.structs.replace(bare, holdings=(msgspec.structs.replace(bare.holdings[0], steps=(FACED,)),)))
    assert [kind for kind, _ in told(bare, turned_only)] == ["left"]


def test_a_cut_with_c_free_that_turns_the_work_away_is_told() -> None:
    deep = msgspec.structs.replace(POCKET, x=15.0, length=20.0, ap=8.0, vf=900.0)
    made = job(deep)
    card: Any = CARDS["turn-mill-250"]
    weak = msgspec.structs.replace(card, c=msgspec.structs.replace(card.c, holds=0.5))
    made = msgspec.structs.replace(made, cards=(weak,))
    text = text_of(made)
    assert "c-holds" not in codes(prove_job(plan(made)))
    assert "c-holds" in codes(prove_job(plan(made), Program.foreign(text.replace("M36\n", ""))))


def test_what_is_milled_after_the_part_has_fallen_off_is_milled_on_nothing() -> None:
    """The pocket is wanted on the part: cut where that was, it is missing there; what is taken of the rest is a gouge."""
    off = PartOff(id="t8")
    before = proved(job(POCKET, off))
    assert not codes(before, "stop"), before.remarks
    after = proved(job(off, POCKET))
    assert "left" in codes(after, "stop"), after.remarks
    deep = text_of(job(off, POCKET)).replace("Z-8", "Z-75")
    assert {"left", "gouge"} <= {kind for kind, _ in told(job(off, POCKET), deep)}


FAR = [("holding:h1.jaw_d", POCKET, "left"), ("holding:h1.offset_z", HOLES, "over-travel")]


@pytest.mark.parametrize(("address", "step", "code"), some(FAR, 1))
def test_what_is_a_hundred_metres_away_costs_next_to_nothing(address: str, step: Any, code: str) -> None:
    """A minute of proof once: rays of a jaw as wide as that, and a slope as long as that in pieces of half a slab."""
    began = time.monotonic()
    proof = proved(answering.answered(job(step), address, 99_999.0))
    assert (code in codes(proof)) == (code == "over-travel")
    assert time.monotonic() - began < 25.0


@given(sections(), st.floats(-6, 6), st.floats(-6, 6), st.floats(0.5, 9), st.floats(0.5, 9), st.floats(-9, -0.5))
def test_a_prism_takes_what_is_over_its_floor_and_within(
    section: Any, x: float, y: float, wide: float, high: float, floor: float
) -> None:
    """By points: material of a half section stays but where a box over a floor is."""
    rays = Dexels.of(section, (floor,), 1.0, cell=0.5)
    box = shapely.box(x, y, x + wide, y + high)
    whole = rays.volume
    rays.open(box, floor)
    grid = np.linspace(0.0, 1.0, 61)[:-1] + 1 / 120
    px, py = (np.ravel(v) for v in np.meshgrid(x + wide * grid, y + high * grid))
    z0, _, z1, _ = section.bounds
    low = max(floor, z0)
    if low >= z1:
        assert rays.volume == pytest.approx(whole)
        return
    z = low + (z1 - low) * grid
    inside = np.array([shapely.contains_xy(section, level, np.hypot(px, py)).mean() for level in z])
    gone = float(inside.mean()) * wide * high * (z1 - low)
    assert whole - rays.volume == pytest.approx(gone, rel=0.12, abs=0.6 + 0.02 * whole / max(z1 - z0, 1.0))


def test_a_clearance_of_a_hundred_metres_is_no_helix_as_long() -> None:
    """Face stages go no farther off than the safe place: counterbores came down a helix of 3.6 million lines."""
    made = answering.answered(arrived("turn-mill-250", "mm", "drilling", "counterbore"), "holding:h1.clear", 99_999.0)
    planned = plan(made)
    assert planned.steps[-1].flat.clear <= planned.steps[-1].flat.safe
    assert len(post(planned.first).lines) < 2000


def test_a_bar_of_a_tenth_of_a_micron_is_compared_at_once() -> None:
    began = time.monotonic()
    proved(answering.answered(job(POCKET), "stock.diameter", 0.0001))
    assert time.monotonic() - began < 25.0


# -- again at other places --------------------------------------------------------------------------------------------


SLOT = RectangularPocket(id="m1", x=16.0, y=0.0, length=14.0, width=8.0, corner_radius=3.5, depth=3.0)


@pytest.mark.parametrize("machine", MACHINES)
def test_what_is_milled_is_repeated_about_the_axis(machine: str) -> None:
    again = Repeat(id="r1", back=1, how="turned", x=0.0, y=0.0, angle=90.0, count=4)
    proof = proved(job(SLOT, again, machine=machine))
    assert proof.verdict == "proved", proof.remarks
    one, others = (sum(s.volume for s in proof.stages if s.step == step) for step in ("m1", "r1"))
    assert others == pytest.approx(3 * one, rel=0.005)


def test_side_by_side_is_written_out_on_a_lathe() -> None:
    again = Repeat(id="r1", back=1, how="grid", columns=2, column_pitch=-32.0, rows=1)
    made = job(SLOT, again)
    assert not [line for line in post(plan(made).first).lines if line.startswith(("G52", "M98"))]
    assert proved(made).verdict == "proved"


def test_what_is_turned_is_not_repeated_on_the_face() -> None:
    for again, field in (
        (Repeat(id="r1", back=2, how="turned"), "back"), (Repeat(id="r1", back=1, how="scaled"), "how"),
        (Repeat(id="r1", back=9, how="turned"), "back"),
    ):  # fmt: skip
        troubles = plan(job(SLOT, again)).steps[-1].troubles
        assert [t.field for t in troubles] == [field], troubles


# -- the turret, and what cannot be -----------------------------------------------------------------------------------


def test_driven_tools_stand_in_stations_that_drive() -> None:
    planned = plan(job(POCKET, HOLES))
    stations = {s.tool.station for p in planned.steps[1:] for s in p.stages}
    assert stations <= set(CARDS["turn-mill-250"].drive.stations)
    assert {s.tool.station for s in planned.steps[0].stages}.isdisjoint(CARDS["turn-mill-250"].drive.stations)


def test_more_driven_tools_than_stations_that_drive() -> None:
    steps = [msgspec.structs.replace(HOLES, id=f"d{k}", diameter=d) for k, d in enumerate((4.2, 5.8, 6.8, 8.5, 9.8))]
    planned = plan(job(POCKET, *steps))
    text = [t.text for p in planned.steps for t in p.troubles]
    assert text == ["Tools are driven in stations 2, 4, 6, 8, 10, 12 of the turret, and all of these are taken."]


def test_a_machine_that_drives_nothing_says_so_and_does_the_rest() -> None:
    planned = plan(job(POCKET, machine="lathe-200"))
    assert [t.text for t in planned.steps[1].troubles] == [f"{CARDS['lathe-200'].name} drives no tools along its axis."]
    assert planned.steps[0].stages
    offered = [k for k, kind in STEPS.items() if kind.possible("turned", CARDS["lathe-200"])]
    assert not any(STEPS[k].driven for k in offered)
    driven = [k for k, kind in STEPS.items() if kind.possible("turned", CARDS["turn-mill-250"])]
    assert set(driven) > set(offered)
    assert {"rectangular-pocket", "drilling", "tapping", "engraving"} <= set(driven)


def test_compensation_by_the_control_is_refused_on_a_face() -> None:
    made = arrived("turn-mill-250", "mm", "outline-milling")
    ident = made.holdings[0].steps[-1].id
    outline = next(o for o in made.outlines if isinstance(o, PlanOutline))
    assert outline
    for name, value in (("side", "left"), ("compensation", "control")):
        made = answering.answered(made, f"step:{ident}.{name}", value)
    troubles = plan(made).steps[-1].troubles
    assert troubles, "the program would be refused"
    assert troubles[0].field == "compensation"


def test_a_new_step_arrives_on_what_is_most_likely_the_face() -> None:
    made = arrived("turn-mill-250", "mm", "drilling")
    assert len(made.patterns) == 1
    step: Any = made.holdings[0].steps[-1]
    assert step.pattern == made.patterns[0].id
    free = arrived("turn-mill-250", "mm", "free-pocket")
    assert isinstance(free.outlines[-1], PlanOutline)
    roughed = edits.step_added(free, "turn-roughing", "")[0]
    last: Any = roughed.steps[-1]
    assert not isinstance(next(o for o in roughed.outlines if o.id == last.outline), PlanOutline)


# -- again, and what is seen ----------------------------------------------------------------------------------------


EDITS = [
    ("step:m1.length", 22.0), ("step:m1.depth", 6.0), ("pattern:p1.diameter", 42.0), ("step:m2.depth", 9.0), ("step:m1.x", 1.0),
    ("stock.diameter", 62.0), ("step:t1.ap", 0.5), ("step:m2.on", False),
]  # fmt: skip


@given(st.lists(st.sampled_from(EDITS), min_size=1, max_size=3))
@settings(max_examples=many(4))
def test_an_edit_proves_as_from_nothing(edits_: list[tuple[str, Any]]) -> None:
    made, prover = job(POCKET, HOLES), Prover()
    prover.prove(plan(made))
    for address, value in edits_:
        made = answering.answered(made, address, value)
        again, fresh = prover.prove(plan(made)), prove_whole(plan(made))
        assert again is not None
        assert [(r.code, r.text) for r in again.remarks] == [(r.code, r.text) for r in fresh.remarks]
        for a, b in zip(again.holdings[0].stages, fresh.holdings[0].stages, strict=True):
            assert a.volume == pytest.approx(b.volume, rel=1e-9, abs=1e-9)


def mesh_volume(mesh: Any, seam: float) -> float:
    """By the way out along the axis, counted from the plane where the parts of the mesh meet: what they share there is none."""
    p = mesh.points[mesh.triangles].astype(float)
    away = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])[:, 0] / 2
    return float((away * (p[..., 0].mean(axis=1) - seam)).sum())


@pytest.mark.parametrize("share", some([0.7, 0.4, 1.0], 1))
def test_the_solid_encloses_what_the_rays_hold(share: float) -> None:
    proof = prove_whole(plan(job(POCKET, HOLES)))
    one = proof.holdings[0]
    moment = moment_at(one, share * one.total)
    found = solid(State(proof=proof), "h1", moment, None, rough=False)
    assert found is not None
    mesh, _ = found
    taken = 0.0
    for k, stage in enumerate(one.stages):
        run: Any = stage.proof
        if k < moment.stage:
            taken += float(run.volume)
        elif k == moment.stage:
            taken += float(run.cut[run.owner < moment.move - stage.begin, 0].sum())
    driven = next(s.proof for s in one.stages if isinstance(s.proof, PolarRun))
    raw = math.pi * 30**2 * 120.0
    assert mesh_volume(mesh, float(driven.before.edges[0])) == pytest.approx(raw - taken, rel=0.004)


def test_a_finger_on_the_floor_of_the_pocket() -> None:
    proof = proved(job(POCKET))
    end = moment_at(proof, proof.total)
    floor = touched_driven(proof, end, (3.0, 2.0, -8.0), (0.0, 0.0, 1.0), inside=False)
    assert (floor.face.kind, floor.driven) == ("plane", True)
    assert floor.off == pytest.approx(0.0, abs=1e-6)
    assert proof.trace.end[floor.move][2] <= -8.0 + 1e-6
    wall = touched_driven(proof, end, (12.0, 0.0, -4.0), (-1.0, 0.0, 0.0), inside=False)
    assert wall.off is None, "known to the width of a ray only"
    outside = touched_driven(proof, end, (30.0, 0.0, -20.0), (1.0, 0.0, 0.0), inside=False)
    assert not outside.driven
    early = touched_driven(
        proof,
        moment_at(proof, next(s for s in proof.stages if s.step == POCKET.id).t0),
        (3.0, 2.0, 0.0),
        (0.0, 0.0, 1.0),
        inside=False,
    )
    assert not early.driven


def test_a_proved_face_has_one_colour() -> None:
    proof = prove_whole(plan(job(POCKET, HOLES)))
    one = proof.holdings[0]
    found = solid(State(proof=proof), "h1", moment_at(one, one.total), None, rough=False, compared=True)
    assert found is not None
    assert set(np.unique(found[0].off)) == {0}
    early = solid(
        State(proof=proof),
        "h1",
        moment_at(one, next(s for s in one.stages if s.step == POCKET.id).t1 - 1.0),
        None,
        rough=False,
        compared=True,
    )
    assert early is not None
    assert (early[0].off > 0).any(), "some of the pocket is still to go"


def test_what_is_left_is_coloured() -> None:
    made = job(POCKET)
    planned = plan(made)
    program = Program.foreign(to_floor(text_of(made), "Z-7.9"))
    proof = prove_whole(planned, {0: program})
    one = proof.holdings[0]
    found = solid(State(proof=proof), "h1", moment_at(one, one.total), None, rough=False, compared=True)
    assert found is not None
    mesh, _ = found
    middle = mesh.points[mesh.triangles].mean(axis=1)
    floor = (np.abs(middle[:, 0] + 7.9) < 1e-3) & (np.hypot(middle[:, 1], middle[:, 2]) < 6.0)
    assert floor.any()
    assert (mesh.off[floor] > 0).all()
    front = np.abs(middle[:, 0]) < 1e-3
    assert (mesh.off[front] == 0).all()
