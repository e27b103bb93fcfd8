"""Passages and notches that a tool is too wide for: found, said, healed, and never in a corner."""

from __future__ import annotations

import itertools
import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import Point, Polygon, box
from shapely.affinity import rotate, scale

from bastler.job import Job, answering, edits, new_job, outline_edits, plan
from bastler.proof import leftovers, prove_whole
from bastler.proof.remark import Remark
from bastler.shapes import Line
from bastler.shapes.kinds import Region
from bastler.shapes.reach import left_of, not_entered
from bastler.tools import TurnTool
from bastler.units import Unit, number_text
from bastler.units.kinds import Kind
from conftest import many

POCKET = box(0, 0, 75, 50)
R = 8.0


def corner(degrees: float, size: float) -> Region:
    """A triangle with that angle between two sides of a length."""
    turn = math.radians(degrees)
    return Polygon([(0, 0), (size, 0), (size * math.cos(turn), size * math.sin(turn))])


def notched(width: float, deep: float = 20.0) -> Region:
    return POCKET.union(box(20, 50, 20 + width, 50 + deep))


def joined(width: float) -> Region:
    """Two areas with a channel between them."""
    return notched(width, 40.0).union(box(0, 80, 60, 130))


CORNERS = {
    "square": POCKET,
    "sharp": corner(20.0, 300.0),
    "blunt": corner(110.0, 200.0),
    "chamfered": POCKET.difference(Polygon([(0, 0), (3, 0), (0, 3)])),
    "rounded": POCKET.buffer(-3).buffer(3, quad_segs=64),
    "with an island in the corner": POCKET.difference(box(0, 0, 20, 15)),
    "with an island far off": POCKET.difference(Point(37, 25).buffer(5, quad_segs=64)),
    "with a wide notch": notched(16.02),
    "with a wide channel": joined(17.0),
    "with a blunt notch": POCKET.union(Polygon([(10, 50), (50, 50), (30, 60)])),
}
NARROW = {
    "notch": notched(6.0),
    "notch as wide as the tool": notched(16.0),
    "notch a hair narrower": notched(15.999),
    "scratch": notched(0.2),
    "pointed notch": POCKET.union(Polygon([(20, 50), (30, 50), (25, 60)])),
    "channel": joined(6.0),
    "channel as wide as the tool": joined(16.0),
    "between two islands": POCKET.difference(Point(30, 25).buffer(5)).difference(Point(48, 25).buffer(5)),
    "between island and wall": POCKET.difference(box(20, 4, 40, 15)),
    "beside an island at the wall": POCKET.difference(Point(30, 5).buffer(5)),
    "all of it": box(0, 0, 10, 10),
    "a room with no way in": POCKET.union(box(90, 0, 100, 50)),
}


@pytest.mark.parametrize("unit", [1.0, 25.4])
@pytest.mark.parametrize("name", CORNERS)
def test_corners_are_no_places_that_a_tool_is_too_wide_for(name: str, unit: float) -> None:
    region = scale(CORNERS[name], 1 / unit, 1 / unit, origin=(0, 0))
    assert not_entered(region, R / unit, 0.02 / unit).is_empty


@pytest.mark.parametrize("unit", [1.0, 25.4])
@pytest.mark.parametrize("name", NARROW)
def test_what_a_tool_does_not_get_into_is_found(name: str, unit: float) -> None:
    region = scale(rotate(NARROW[name], 17.0, origin=(0, 0)), 1 / unit, 1 / unit, origin=(0, 0))
    stays = not_entered(region, R / unit, 0.02 / unit)
    assert not stays.is_empty
    assert region.buffer(1e-6).covers(stays)
    reached = region.buffer(-R / unit).buffer(R / unit)
    assert stays.intersection(reached).area < 1e-3 * stays.area, "nothing of it is where the tool was"


def test_of_a_notch_all_is_said_that_stays() -> None:
    """Against arithmetic: the notch less what the tool bulges into it, a segment of a circle."""
    w, deep = 6.0, 20.0
    turn = 2 * math.asin(w / 2 / R)
    bulge = R * R * (turn - math.sin(turn)) / 2
    assert not_entered(notched(w, deep), R, 0.02).area == pytest.approx(w * deep - bulge, rel=0.002)


@given(st.floats(15.0, 165.0), st.floats(1.0, 30.0), st.floats(0.0, 360.0))
@settings(max_examples=many(150), deadline=None)
def test_a_corner_of_any_angle_is_a_corner(degrees: float, radius: float, turned: float) -> None:
    turn = math.radians(degrees)
    far = 20 * radius / math.tan(math.radians(7.5))
    pie = [(far * math.cos(turn * k / 12), far * math.sin(turn * k / 12)) for k in range(13)]
    region = rotate(Polygon([(0, 0), *pie]), turned, origin=(0, 0))
    assert not_entered(region, radius, radius / 400).is_empty


@given(st.floats(0.05, 0.999), st.floats(0.3, 3.0), st.floats(1.0, 30.0), st.floats(0.0, 360.0))
@settings(max_examples=many(150), deadline=None)
def test_a_notch_of_any_size_is_none(share: float, deep: float, radius: float, turned: float) -> None:
    w = share * 2 * radius
    base = box(-10 * radius, -10 * radius, 10 * radius, 0)
    region = rotate(base.union(box(-w / 2, -0.1, w / 2, deep * radius)), turned, origin=(0, 0))
    stays = not_entered(region, radius, radius / 400)
    bulge = math.sqrt(radius**2 - (w / 2) ** 2)
    if deep * radius > radius - bulge + 0.05 * radius:  # else the tool touches its floor
        assert stays.area > 0.0


OPEN = {
    # an open chain, and what of its left side a disc of 8 does not get to
    "straight": ([(0, 0), (100, 0)], 0.0),
    "inner corner": ([(0, 0), (100, 0), (100, 80)], 0.0),
    "outer corner": ([(0, 0), (100, 0), (100, -80)], 0.0),
    "sharp": ([(0, 0), (100, 0), (20, 40)], 0.0),
    "notch": ([(100, 0), (60, 0), (60, 20), (50, 20), (50, 0), (0, 0)], 200.0 - 12.0),
    "rib": ([(0, 0), (50, 0), (50, 20), (60, 20), (60, 0), (100, 0)], 0.0),
    "wide notch": ([(100, 0), (70, 0), (70, 30), (50, 30), (50, 0), (0, 0)], 0.0),
    "channel": ([(0, 0), (100, 0), (100, 12), (0, 12)], 1200.0),
    "about a channel": ([(0, 12), (100, 12), (100, 0), (0, 0)], 0.0),
}


@pytest.mark.parametrize("name", OPEN)
def test_along_an_open_outline(name: str) -> None:
    points, wanted = OPEN[name]
    side = left_of(tuple((float(x), float(y)) for x, y in points), 24.0)
    assert side.area > 0
    assert not_entered(side, 8.0, 0.02).area == pytest.approx(wanted, abs=0.5)


def test_sides_that_cannot_be_told_apart_are_not_guessed() -> None:
    spiral = ((0.0, 0.0), (50.0, 0.0), (50.0, 50.0), (0.0, 50.0), (0.0, 5.0), (20.0, 5.0))
    assert left_of(spiral, 24.0).is_empty


# -- as it is said ---------------------------------------------------------------------------------------------------------

K = {"mm": 1.0, "inch": 1 / 25.4}


def listed(*numbers: float, unit: Unit) -> str:
    return ", ".join(number_text(n * K[unit], Kind.LENGTH, unit) for n in numbers)


def with_islands(unit: Unit, apart: float, tool: str) -> Job:
    """A pocket with two round islands, their walls so many millimetres apart."""
    job, ident = edits.step_added(edits.step_added(new_job(unit), "facing", "")[0], "free-pocket", "")
    job = answering.answered(job, f"step:{ident}.tool", tool)
    address = f"step:{ident}.islands"
    manner = answering.listed(job, address)
    assert manner is not None
    lines = [f"circle {listed(x, 50.0, 10.0, unit=unit)}" for x in (70.0, 80.0 + apart)]
    return answering.answered(job, address, *manner.read("\n".join(lines)))


def narrow(job: Job) -> list[Remark]:
    proof = prove_whole(plan(job))
    found = [r for h in proof.holdings for r in h.remarks if r.code == "narrow"]
    assert (proof.verdict == "left") >= bool(found)
    return found


@pytest.mark.parametrize(("unit", "tool", "wide"), [("mm", "end-10", 10.0), ("inch", "end-1/2", 12.7)])
def test_two_islands_nearer_than_the_tool_is_wide(unit: Unit, tool: str, wide: float) -> None:
    job = with_islands(unit, wide + 0.5, tool)
    assert job.tool(tool) is not None
    assert narrow(job) == []
    (found,) = narrow(with_islands(unit, wide - 2.0, tool))
    assert found.place is not None
    assert found.place[:2] == pytest.approx([(75.0 + (wide - 2.0) / 2) * K[unit], 50.0 * K[unit]], abs=7 * K[unit])
    assert ("mm²" if unit == "mm" else "in²") in found.text
    assert found.cure is not None
    healed = edits.cured(with_islands(unit, wide - 2.0, tool), found.cure.address, found.cure.value)
    assert narrow(healed) == []


def outlined(notch: float, side: str, tool: str, *, closed: bool) -> Job:
    """A block milled along an outline with a notch in its upper side; an open one is that side alone."""
    job, ident = edits.step_added(new_job(), "outline-milling", "")
    outline = job.outlines[0]
    places = [(20, 20), (120, 20), (120, 80), (70 + notch, 80), (70 + notch, 50), (70, 50), (70, 80), (20, 80)]
    points = [(float(x), float(y)) for x, y in places]
    chain = chain_of(points)
    drawn = outline_edits.plan_of_chain(outline.id, outline.name, chain if closed else chain[2:7], closed=closed)
    job = answering.outline_given(job, drawn)
    for name, value in (("side", side), ("tool", tool), ("depth", 4.0), ("land", "clear" if closed else None)):
        job = answering.answered(job, f"step:{ident}.{name}", value)
    return job


def chain_of(points: list[tuple[float, float]]) -> list[Line]:
    return [Line(a, b) for a, b in zip(points, [*points[1:], points[0]], strict=True)]


@pytest.mark.parametrize(("notch", "tool", "stays"), [(8.0, "end-10", True), (10.0, "end-10", True), (12.0, "end-10", False)])
@pytest.mark.parametrize("closed", [True, False])
def test_a_notch_in_an_outline(notch: float, tool: str, stays: bool, closed: bool) -> None:
    for side in ("left", "right"):
        job = outlined(notch, side, tool, closed=closed)
        assert not plan(job).steps[0].troubles
        found = narrow(job)
        inside = shapely.Polygon([(20, 20), (120, 20), (120, 80), (20, 80)])
        if side == "right":  # counter-clockwise: the tool runs outside, into the notch
            assert bool(found) == stays
            assert not found or inside.covers(Point(*(found[0].place or (0, 0, 0))[:2]))
        else:
            assert found == []


@pytest.mark.parametrize("side", ["left", "right"])
def test_a_rounded_inner_corner_that_is_milled_along(side: str) -> None:
    """Left of it, inside, all four are inner corners; right of it, outside, none is."""
    job, ident = edits.step_added(new_job(), "outline-milling", "")
    outline = job.outlines[0]
    rounded = tuple(edits.replace(s, corner="radius", corner_size=4.0) for s in outline.segments)
    job = answering.outline_given(job, edits.replace(outline, segments=rounded))
    for name, value in (("side", side), ("tool", "end-10"), ("depth", 4.0)):
        job = answering.answered(job, f"step:{ident}.{name}", value)
    found = [r for h in prove_whole(plan(job)).holdings for r in h.remarks if r.code == "corners"]
    assert [r.amount for r in found] == ([pytest.approx(4.0)] if side == "left" else [])
    for remark in found:
        assert remark.cure is not None
        healed = edits.cured(job, remark.cure.address, remark.cure.value)
        assert not [r for h in prove_whole(plan(healed)).holdings for r in h.remarks if r.code == "corners"]


def notched_shaft(width: float, deep: float) -> Job:
    """A turned shaft with a square notch in it."""
    job, _ = edits.step_added(new_job("mm", "lathe-200"), "turn-facing", "")
    for kind in ("turn-roughing", "turn-finishing"):
        job, _ = edits.step_added(job, kind, "")
    r = 15.0
    points = [(0.0, r), (-20.0, r), (-20.0, r - deep), (-20.0 - width, r - deep), (-20.0 - width, r), (-40.0, r), (-40.0, 22.0)]
    chain = [Line(a, b) for a, b in itertools.pairwise(points)]
    return answering.outline_given(job, outline_edits.turned_of_chain(job.outlines[0].id, "shaft", chain))


@pytest.mark.parametrize("width", [0.6, 1.0, 2.0])
def test_no_tool_is_offered_for_a_notch_that_its_nose_does_not_fit_into(width: float) -> None:
    """A round insert of 6 mm was said to reach into a notch of 1 mm: it clears any wall."""
    job = notched_shaft(width, 1.0)
    proof = prove_whole(plan(job))
    stops = [r for h in proof.holdings for r in h.remarks if r.level == "stop"]
    assert stops
    for remark in stops:
        if remark.cure is not None and remark.code == "tip-reach":
            tool = job.tool(remark.cure.value)
            assert isinstance(tool, TurnTool)
            assert 2 * tool.nose < width


def test_many_pieces_are_as_much_as_each_by_itself(monkeypatch: pytest.MonkeyPatch) -> None:
    """Where there are many they are looked at together."""
    job = with_islands("mm", 8.0, "end-10")
    (one_by_one,) = narrow(job)
    monkeypatch.setattr(leftovers, "FEW", 1)
    (together,) = narrow(job)
    assert together.amount == pytest.approx(one_by_one.amount)
    assert (together.cure, together.text) == (one_by_one.cure, one_by_one.text)
    rows = [Point(10 + 14 * i, 10 + 14 * j).buffer(4) for i in range(12) for j in range(12)]
    every = not_entered(box(0, 0, 174, 174).difference(shapely.union_all(rows)), 4.0, 0.02)
    pair = not_entered(
        box(-20, -20, 54, 40).difference(shapely.union_all([Point(10, 10).buffer(4), Point(24, 10).buffer(4)])), 4.0, 0.02
    )
    assert every.area == pytest.approx(2 * 12 * 11 * pair.area + 4 * 12 * wall_gap(), rel=0.01)


def wall_gap() -> float:
    """What stays between a row's island and the wall beside it."""
    alone = not_entered(box(0, -30, 60, 50).difference(Point(10, 10).buffer(4)), 4.0, 0.02)
    return float(alone.area)
