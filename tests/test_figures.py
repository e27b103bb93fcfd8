"""Round, cornered and slotted features: sizes against arithmetic, and clean proofs whatever the answers."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.motion import Bow, Cut, Go, Path
from bastler.motion.spiral import spiral_out
from bastler.nc import read
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import Frame, PointsPattern
from bastler.shapes.corners import Corner
from bastler.shapes.figures import across_corners, arc_band, circle, polygon, rectangle, regular, ring, slot
from bastler.shapes.region import area_of
from bastler.steps import (
    Counterbore,
    Drilling,
    Facing,
    PolygonBoss,
    PolygonPocket,
    RectangularBoss,
    RingGroove,
    RoundBoss,
    RoundPocket,
    Slot,
    Step,
)
from conftest import codes, job_of, many, proof_of
from test_areas import WRONG

SIZE: dict[str, Any] = {"size_x": 80.0, "size_y": 60.0}
STOCK = 80.0 * 60.0


def made(*steps: Step) -> Job:
    return job_of(Facing(id="f"), *steps, **SIZE)


def sound(job: Job) -> Job:
    """One that can be planned; for the others there is nothing to look at."""
    assume(not any(s.troubles for s in plan(job).steps))
    return job


def clean(job: Job, cell: float = 0.4) -> Any:
    planned = plan(job)
    assert not [t for s in planned.steps for t in s.troubles]
    proof = prove_job(planned, cell_mm=cell)
    found = {r.code: (r.text, r.place, r.line) for r in proof.remarks if r.code in WRONG or r.level == "stop"}
    assert not found, found
    assert proof.comparison.volume("gouge") == proof.comparison.volume("left") == 0.0
    return proof


def removed(step: Step) -> float:
    """The volume that a step takes off a faced block, by its proof at a fine cell."""
    proof = clean(made(step), 0.1)
    return sum(s.volume for s in proof.stages if s.step == step.id)


HEX = 6 / 4 / math.tan(math.pi / 6) * (30 / math.sqrt(3)) ** 2
"""Area of a hexagon of 30 across flats: n s² / (4 tan(π/n)), s = flats / √3."""


@pytest.mark.parametrize(
    ("step", "volume"),
    [
        (RoundPocket(id="a", x=40, y=30, diameter=36, depth=5), math.pi * 18**2 * 5),
        (RoundBoss(id="a", x=40, y=30, diameter=36, depth=5), (STOCK - math.pi * 18**2) * 5),
        (RectangularBoss(id="a", x=40, y=30, length=50, width=30, corner_radius=6, depth=4),
         (STOCK - (1500 - (4 - math.pi) * 36)) * 4),
        (RectangularBoss(id="a", x=40, y=30, length=50, width=30, corner="edge", corner_leg=5, depth=4),
         (STOCK - (1500 - 4 * 12.5)) * 4),
        (PolygonBoss(id="a", x=40, y=30, flats=30, depth=4), (STOCK - HEX) * 4),
        (PolygonBoss(id="a", x=40, y=30, by="corners", corners=across_corners(6, 30), depth=4), (STOCK - HEX) * 4),
        (PolygonPocket(id="a", x=40, y=30, flats=30, corner="radius", corner_radius=4, depth=4, tool="end-6"),
         (HEX - 6 * 16 * (math.tan(math.pi / 6) - math.pi / 6)) * 4),
        (Slot(id="a", x=40, y=30, length=50, width=12, depth=5), (38 * 12 + math.pi * 36) * 5),
        (Slot(id="a", x=40, y=30, length=50, width=10, depth=5, tool="end-10", finish="no", entry="ramp"),
         (40 * 10 + math.pi * 25) * 5),
        (RingGroove(id="a", x=40, y=30, diameter=36, width=8, depth=3), math.pi * 36 * 8 * 3),
        (RingGroove(id="a", x=40, y=30, diameter=36, width=6, depth=3, tool="end-6", finish="no"), math.pi * 36 * 6 * 3),
        (RingGroove(id="a", x=40, y=30, diameter=36, width=8, extent="part", sweep=60, count=3, depth=3),
         3 * (math.radians(60) * 18 * 8 + math.pi * 16) * 3),
    ],
    ids=["pocket", "boss", "rectangle", "edges", "hexagon", "by corners", "hexagon pocket", "slot", "by width", "ring",
         "ring by width", "three slots"],
)  # fmt: skip
def test_what_is_taken_is_what_arithmetic_says(step: Step, volume: float) -> None:
    assert removed(step) == pytest.approx(volume, rel=4e-3)


def test_figures_are_exact() -> None:
    frame = Frame(3.0, -2.0, 25.0)
    assert area_of(circle(1, 2, 4)) == pytest.approx(math.pi * 16)
    assert area_of(polygon(rectangle(frame, 7, 5))[0]) == pytest.approx(35.0)
    assert area_of(polygon(regular(frame, 6, 30.0))[0]) == pytest.approx(HEX)
    assert area_of(polygon(regular(frame, 4, 10.0))[0]) == pytest.approx(100.0)
    assert area_of(slot(frame, 20, 6)) == pytest.approx(14 * 6 + math.pi * 9)
    assert area_of(arc_band(0, 0, 10, 4, 15, 90)) == pytest.approx(math.radians(90) * 10 * 4 + math.pi * 4)
    assert sum(map(area_of, ring(0, 0, 10, 4))) == pytest.approx(2 * math.pi * 10 * 4)


@given(st.integers(3, 12), st.floats(5.0, 40.0), st.floats(-180.0, 180.0))
def test_every_side_of_a_polygon_is_as_far_from_the_centre(sides: int, across: float, angle: float) -> None:
    chain, wrong = polygon(regular(Frame(1.0, 2.0, angle), sides, across))
    assert not wrong
    for s in chain:
        (u0, v0), (u1, v1) = s.start, s.end
        off = abs((u1 - u0) * (v0 - 2.0) - (v1 - v0) * (u0 - 1.0)) / math.dist(s.start, s.end)
        assert off == pytest.approx(across / 2, rel=1e-9)
        assert math.dist(s.start, (1.0, 2.0)) == pytest.approx(across_corners(sides, across) / 2, rel=1e-9)


def test_a_corner_larger_than_its_sides_is_said() -> None:
    assert polygon(regular(Frame(0, 0), 6, 20.0), Corner("radius", 11.0))[1]
    job = made(PolygonBoss(id="a", x=40, y=30, flats=20, corner="radius", corner_radius=11.0))
    assert [t.field for t in plan(job).step("a").troubles] == ["corner_radius"]


@given(st.floats(0.0, 5.0), st.floats(6.0, 30.0), st.floats(0.5, 5.0), st.booleans())
def test_a_spiral_goes_out_by_the_stepover_and_never_further_than_the_wall(
    begin: float, room: float, step: float, ccw: bool
) -> None:
    path = Path(0.0, 0.0, 0.0)
    spiral_out(path, (0.0, 0.0), begin, room, step, 100.0, ccw=ccw)
    bows = [m for m in path.moves if isinstance(m, Bow)]
    assert all(m.ccw == ccw for m in bows)
    last = bows[-1]
    assert math.hypot(last.u, last.v) == pytest.approx(room)
    assert (last.cu, last.cv) == (0.0, 0.0)
    ends = [begin, *(math.hypot(m.u, m.v) for m in bows[:-1])]
    assert all(b - a <= step / 2 + 1e-9 for a, b in itertools.pairwise(ends))
    for m in bows:
        assert math.hypot(m.cu, m.cv) + math.hypot(m.u - m.cu, m.v - m.cv) <= room + 1e-9


def test_a_round_pocket_is_posted_as_arcs_about_its_centre() -> None:
    """The wall's circle stays a circle of that size: half the diameter less the tool's radius, about the centre."""
    job = made(RoundPocket(id="a", x=40, y=30, diameter=36, depth=4, tool="end-10"))
    program = post(plan(job).first)
    trace = read(program.text, proof_of(job, 1.0).scene.control)
    arcs = [k for k in range(len(trace)) if trace.kind[k] >= 2]
    walls = [k for k in arcs if abs(math.dist(trace.start[k, :2], trace.centre[k, :2]) - 13.0) < 1e-3]
    overlap = 0.1 * 10.0 / 13.0  # a tenth of the tool's diameter of the wall is cut twice
    assert sum(abs(float(trace.turn[k])) for k in walls) == pytest.approx(2 * math.pi + overlap, abs=1e-3)
    assert all(math.dist(trace.centre[k, :2], (40.0, 30.0)) < 1e-3 for k in walls)


HOW = {
    "cutting": st.sampled_from(["climb", "conventional"]),
    "depth": st.sampled_from([1.5, 5.0]),
    "finish": st.sampled_from(["yes", "no"]),
    "tool": st.sampled_from([None, "end-16", "end-10", "end-6", "end-4"]),
}


def answers(data: st.DataObject) -> dict[str, Any]:
    return {name: data.draw(values) for name, values in HOW.items()} | {"x": data.draw(st.floats(34.0, 46.0)), "y": 30.0}


ENTRIES: st.SearchStrategy[Any] = st.sampled_from(["helix", "ramp", "plunge"])


@settings(max_examples=many(15))
@given(st.data())
def test_round_pockets_of_any_size(data: st.DataObject) -> None:
    step = RoundPocket(id="a", diameter=data.draw(st.floats(4.5, 50.0)), entry=data.draw(ENTRIES), **answers(data))
    clean(sound(made(step)))


@settings(max_examples=many(12))
@given(st.data())
def test_polygon_pockets_of_any_size(data: st.DataObject) -> None:
    step = PolygonPocket(
        id="a", sides=data.draw(st.integers(3, 9)), flats=data.draw(st.floats(10.0, 44.0)), angle=data.draw(st.floats(0, 90)),
        corner=data.draw(st.sampled_from(["sharp", "radius", "edge"])), corner_radius=2.0, corner_leg=1.0,
        entry=data.draw(ENTRIES), **answers(data),
    )  # fmt: skip
    clean(sound(made(step)))


@settings(max_examples=many(8))
@given(st.data())
def test_bosses_of_any_size(data: st.DataObject) -> None:
    kind = data.draw(st.sampled_from([RoundBoss, RectangularBoss, PolygonBoss]))
    size = data.draw(st.floats(12.0, 46.0))
    own = {
        RoundBoss: {"diameter": size},
        RectangularBoss: {"length": size * 1.2, "width": size * 0.8, "angle": data.draw(st.floats(0, 90)), "corner_radius": 2.0},
        PolygonBoss: {"flats": size, "sides": data.draw(st.integers(3, 8)), "angle": data.draw(st.floats(0, 90))},
    }[kind]
    clean(sound(made(kind(id="a", **own, **answers(data)))))


@settings(max_examples=many(15))
@given(st.data())
def test_slots_of_any_size(data: st.DataObject) -> None:
    width = data.draw(st.sampled_from([4.0, 6.0, 10.0, 16.0, 5.0, 11.3, 19.0]))
    how = answers(data) | {"entry": data.draw(ENTRIES), "width": width}
    if data.draw(st.booleans()):
        step: Step = Slot(id="a", length=width + data.draw(st.floats(4.0, 30.0)), angle=data.draw(st.floats(0, 180)), **how)
    else:
        step = RingGroove(
            id="a", diameter=data.draw(st.floats(24.0, 36.0)), extent=data.draw(st.sampled_from(["whole", "part"])),
            start=data.draw(st.floats(-180, 180)), sweep=data.draw(st.floats(20.0, 100.0)), count=data.draw(st.integers(1, 3)),
            **how,
        )  # fmt: skip
    clean(sound(made(step)))


@pytest.mark.parametrize("angle", [75.0, 110.0])
def test_a_slot_in_loops_has_no_full_bite(angle: float) -> None:
    straight = made(Slot(id="a", x=40, y=30, length=56, width=16, depth=4, tool="end-10", finish="no"))
    looped = answering.answered(answering.answered(straight, "step:a.bite", "even"), "step:a.most_angle", angle)
    assert "full-width" in codes(clean(straight))
    assert "full-width" not in codes(clean(looped))


def test_going_in_by_a_drilled_hole() -> None:
    """The drill has been there already: the pocket's tool goes down in its hole without a helix, and air is no crash."""
    job = made(
        Drilling(id="d", pattern="p", diameter=10.0, depth=12.0),
        RoundPocket(id="a", x=40, y=30, diameter=40, depth=6, entry="hole", tool="end-10"),
    )
    job = msgspec.structs.replace(job, patterns=(PointsPattern(id="p", name="p", points=((40.0, 30.0),)),))
    planned = plan(job)
    assert planned.step("a").troubles == ()
    proof = clean(job)
    moves = [m for m in planned.step("a").stages[0].moves if isinstance(m, Go | Cut | Bow)]
    assert not any(isinstance(b, Bow) and b.w < a.w for a, b in itertools.pairwise(moves)), "no helix"
    assert proof.comparison.volume("left") == 0.0


@pytest.mark.parametrize(
    "step",
    [
        RoundPocket(id="a", x=40, y=30, diameter=36, depth=5),
        RoundBoss(id="a", x=40, y=30, diameter=36, depth=5),
        Slot(id="a", x=40, y=30, length=50, width=12, depth=5),
        RingGroove(id="a", x=40, y=30, diameter=36, width=8, depth=3),
        PolygonPocket(id="a", x=40, y=30, flats=30, depth=4),
        PolygonBoss(id="a", x=40, y=30, flats=30, depth=4),
        RectangularBoss(id="a", x=40, y=30, length=50, width=30, depth=4),
    ],
    ids=lambda s: type(s).__name__,
)
def test_a_tool_ground_thin_and_one_that_is_thick_are_found_out(step: Step) -> None:
    """A planted fault: the program is one for a tool 0.3 wider, or narrower, than the one that stands in the machine."""
    job = made(step)
    planned = plan(job)
    last = planned.step("a").stages[-1].tool
    for by, what in ((-0.3, "left"), (0.3, "gouge")):
        tools = tuple(msgspec.structs.replace(t, diameter=t.diameter + by) if t.id == last.id else t for t in job.tools)
        worn = plan(msgspec.structs.replace(job, tools=tools))
        proof = prove_job(worn, Program.foreign(post(planned.first).text), cell_mm=0.2)
        assert proof.comparison.volume(what) > 0.0, what


@pytest.mark.parametrize(
    ("step", "field"),
    [
        (Slot(id="a", x=40, y=30, length=9, width=10), "length"),
        (Slot(id="a", x=40, y=30, length=40, width=10, tool="end-10"), "finish"),
        (Slot(id="a", x=40, y=30, length=40, width=10, tool="end-10", finish="no", bite="even"), "bite"),
        (RingGroove(id="a", x=40, y=30, diameter=10, width=12), "width"),
        (RingGroove(id="a", x=40, y=30, diameter=40, width=8, extent="part", sweep=100, count=3, pitch=110), "pitch"),
        (RingGroove(id="a", x=40, y=30, diameter=40, width=8, extent="part", sweep=60, count=4, pitch=100), "count"),
        (RingGroove(id="a", x=40, y=30, diameter=40, width=8, extent="part", sweep=345), "sweep"),
        (RoundPocket(id="a", x=40, y=30, diameter=8, tool="end-10"), "tool"),
    ],
    ids=["short", "as wide", "no room for loops", "no core", "run together", "last into first", "ends meet", "too wide"],
)
def test_what_cannot_be_is_said_where_it_is_asked_and_cured(step: Step, field: str) -> None:
    found = plan(made(step)).step("a").troubles
    assert [t.field for t in found][:1] in ([field], ["finish_tool"])
    fits = next((t.fits for t in found if t.field == field), None)
    if fits is not None:
        cured = answering.answered(made(step), f"step:a.{field}", fits)
        assert not [t for t in plan(cured).step("a").troubles if t.field == field]


@pytest.mark.parametrize(("diameter", "tool"), [(11.0, "end-6"), (11.0, "end-10"), (15.0, "end-10")])
@pytest.mark.parametrize("cell", [0.2, 0.1])
def test_helices_in_small_holes_take_a_cylinder(diameter: float, tool: str, cell: float) -> None:
    """Small circles become few chords: pocket and chords take the same, whatever the cutter's share of the radius."""
    one = PointsPattern(id="q", name="one", points=((30.03, 20.01),))
    job = job_of(Facing(id="f"), Counterbore(id="c", pattern="q", diameter=diameter, depth=5.58, tool=tool), patterns=(one,))
    proof = prove_job(plan(job), cell_mm=cell)
    volume = sum(s.volume for s in proof.stages if s.step == "c")
    assert volume == pytest.approx(math.pi / 4 * diameter**2 * 5.58, rel=0.001)
