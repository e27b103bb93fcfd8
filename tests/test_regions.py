"""Exact offsets of regions bounded by lines and arcs, against shapely and against arithmetic."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.shapes import (
    Arc,
    Flat,
    Frame,
    Line,
    PlanOutline,
    PlanSegment,
    Revolved,
    Segment,
    floors_joined,
    rounded_rectangle,
)
from bastler.shapes import draw as drawn_outline
from bastler.shapes.chain import reversed_chain
from bastler.shapes.region import Loop, area_of, offset_chain, offset_region, opened, polygon_of, region_of, swept
from bastler.shapes.united import united
from conftest import many

CHORD = 1e-4


def square(size: float = 10.0, x: float = 0.0, y: float = 0.0) -> Loop:
    return rounded_rectangle(Frame(x, y), size, size, 0.0)


def ring(radius: float, x: float = 0.0, y: float = 0.0) -> Loop:
    return [Arc((x + radius, y), (x + radius, y), (x, y))]


def area(loops: list[Loop]) -> float:
    return sum(area_of(loop) for loop in loops)


def test_areas_are_exact() -> None:
    assert area_of(square(10)) == pytest.approx(100.0)
    assert area_of(reversed_chain(square(10))) == pytest.approx(-100.0)
    assert area_of(ring(3)) == pytest.approx(math.pi * 9)
    assert area_of(rounded_rectangle(Frame(0, 0), 20, 10, 2)) == pytest.approx(200 - 16 + 4 * math.pi)


def test_an_inward_offset_keeps_corners_sharp_and_an_outward_one_rounds_them() -> None:
    (inner,) = offset_region([square(10)], 2.0)
    assert all(isinstance(s, Line) for s in inner)
    assert area_of(inner) == pytest.approx(36.0)
    (outer,) = offset_region([square(10)], -2.0)
    assert sum(isinstance(s, Arc) for s in outer) == 4
    assert area_of(outer) == pytest.approx(100 + 4 * 20 + math.pi * 4)


def test_arcs_keep_their_centres() -> None:
    (inner,) = offset_region([rounded_rectangle(Frame(0, 0), 40, 20, 5)], 3.0)
    assert {s.centre for s in inner if isinstance(s, Arc)} == {(-15.0, -5.0), (15.0, -5.0), (15.0, 5.0), (-15.0, 5.0)}
    assert all(math.dist(s.start, s.centre) == pytest.approx(2.0) for s in inner if isinstance(s, Arc))


def test_an_area_falls_apart_at_its_waist_and_vanishes() -> None:
    """Two squares joined by a corridor 4 wide."""
    points = [(0, 0), (10, 0), (10, 3), (20, 3), (20, 0), (30, 0), (30, 10), (20, 10), (20, 7), (10, 7), (10, 10), (0, 10)]
    dumbbell: list[Segment] = [Line(a, b) for a, b in zip(points, [*points[1:], points[0]], strict=True)]
    assert len(offset_region([dumbbell], 1.0)) == 1
    halves = offset_region([dumbbell], 2.5)
    assert len(halves) == 2
    # where the waist begins, discs about its corners leave a little more than the square
    mouth = 2 * (5.0 - (1.5 + 3.125 * math.asin(2 / 2.5)))
    assert [area_of(h) for h in halves] == pytest.approx([25.0 + mouth, 25.0 + mouth])
    assert offset_region([dumbbell], 5.1) == []


def test_islands_grow_and_join() -> None:
    area_ = region_of(square(40), [ring(2, -6), ring(2, 6)])
    assert area(area_) == pytest.approx(1600 - 2 * math.pi * 4)
    assert len(offset_region(area_, 3.0)) == 3
    joined = offset_region(area_, 5.0)
    assert len(joined) == 2  # the islands are one now
    lens = 2 * 49 * math.acos(6 / 7) - 12 * math.sqrt(49 - 36)
    assert area(joined) == pytest.approx(900 - (2 * math.pi * 49 - lens))


def test_islands_may_overlap_each_other_and_reach_over_the_edge() -> None:
    found = region_of(square(20), [ring(3, 0), ring(3, 4), ring(4, 10)])
    whole = shapely.box(-10, -10, 10, 10)
    discs = [shapely.Point(x, 0).buffer(r, quad_segs=2000) for x, r in ((0, 3), (4, 3), (10, 4))]
    assert area(found) == pytest.approx(whole.difference(shapely.union_all(discs)).area, rel=1e-5)


def test_what_a_disc_can_reach_has_its_radius_in_the_corners() -> None:
    assert area(opened([square(10)], 2.0)) == pytest.approx(100 - 16 + 4 * math.pi)


def star(radii: list[float], corner: float) -> Loop:
    """Corners about the origin, each as far out, rounded."""
    turns = [2 * math.pi * k / len(radii) for k in range(len(radii))]
    points = [(r * math.cos(a), r * math.sin(a)) for r, a in zip(radii, turns, strict=True)]
    how: dict[str, Any] = {"corner": "radius", "corner_size": corner} if corner else {}
    segments = tuple(PlanSegment(x=p[0], y=p[1], **how) for p in [*points[1:], points[0]])
    return list(drawn_outline(PlanOutline(id="o", name="o", x=points[0][0], y=points[0][1], segments=segments)).chain)


LOST = [15.875, 26.388889397188844, 25.725271365298212, 22.0, 20.92085724722281, 24.0, 25.30919994103543]
"""The first corner turns by 1.3°, to the inside: rounded 2.5 its arc is gone at 3.0, and its lines cross."""


@pytest.mark.parametrize("far", [60.0, 560.0, 3000.0])
@pytest.mark.parametrize("radius", [15.875, 15.9, 15.8, 15.0])
@pytest.mark.parametrize("corner", [0.0, 2.5])
def test_a_boss_with_a_corner_that_hardly_turns_is_gone_round(radius: float, corner: float, far: float) -> None:
    """Lines that cross at hardly an angle leave stubs behind their crossing; with them the whole loop was lost."""
    island = star([radius, *LOST[1:]], corner)
    area = region_of(square(60.0 + far), [island])
    for distance in (0.3, 2.5, 3.0, 6.0):
        loops = offset_region(area, distance)
        assert len(loops) == 2
        grown = -min(map(area_of, loops))
        assert grown == pytest.approx(polygon_of([island], CHORD).buffer(distance, quad_segs=200).area, rel=1e-4)


def test_an_open_chain_is_moved_and_cut_where_it_comes_too_near() -> None:
    angle: list[Segment] = [Line((0, 0), (10, 0)), Line((10, 0), (10, 10))]
    (left,) = offset_chain(angle, 2.0)
    assert [s.end for s in left] == [pytest.approx((8.0, 2.0)), pytest.approx((8.0, 10.0))]
    (right,) = offset_chain(angle, -2.0)
    assert len(right) == 3
    assert isinstance(right[1], Arc)
    slit: list[Segment] = [Line((0, 0), (20, 0)), Line((20, 0), (20, 3)), Line((20, 3), (0, 3))]
    assert offset_chain(slit, 2.0) == []  # no room inside


@st.composite
def shapes(draw: st.DrawFn) -> list[Loop]:
    """A closed outline about the origin, rounded or not, with some islands."""
    radii = draw(st.lists(st.floats(15.0, 40.0), min_size=3, max_size=9))
    corner = draw(st.sampled_from([0.0, 0.0, 1.0, 3.0]))
    n = len(radii)
    points = [(r * math.cos(2 * math.pi * k / n), r * math.sin(2 * math.pi * k / n)) for k, r in enumerate(radii)]
    how: dict[str, Any] = {"corner": "radius", "corner_size": corner} if corner else {}
    segments = tuple(PlanSegment(x=p[0], y=p[1], **how) for p in [*points[1:], points[0]])
    outline = PlanOutline(id="o", name="o", x=points[0][0], y=points[0][1], segments=segments)
    islands = [
        ring(draw(st.floats(1.0, 6.0)), draw(st.floats(-20.0, 20.0)), draw(st.floats(-20.0, 20.0)))
        for _ in range(draw(st.integers(0, 3)))
    ]
    return region_of(list(drawn_outline(outline).chain), islands)


@settings(max_examples=many(100))
@given(shapes(), st.floats(0.3, 12.0), st.booleans())
def test_an_offset_holds_what_is_far_enough_from_the_boundary(loops: list[Loop], distance: float, inward: bool) -> None:
    """At a grid of places: inside of it when the distance to the boundary says so, outside when it does not."""
    found = polygon_of(offset_region(loops, distance if inward else -distance), CHORD)
    region = polygon_of(loops, CHORD)
    at = np.stack(np.meshgrid(np.linspace(-54, 54, 40) + 0.123, np.linspace(-54, 54, 40) + 0.321), axis=-1).reshape(-1, 2)
    far = shapely.distance(region.boundary, shapely.points(at))
    within = shapely.contains_xy(region, at[:, 0], at[:, 1])
    signed = np.where(within, far, -far) - (distance if inward else -distance)
    sure = np.abs(signed) > 20 * CHORD
    assert (shapely.contains_xy(found, at[:, 0], at[:, 1]) == (signed > 0))[sure].all()


@settings(max_examples=many(60))
@given(shapes(), st.floats(0.5, 8.0))
def test_a_disc_along_an_inward_offset_stays_inside(loops: list[Loop], radius: float) -> None:
    region = polygon_of(loops, CHORD).buffer(5 * CHORD)
    for loop in offset_region(loops, radius):
        stroke = swept(loop, radius, CHORD)
        assert stroke.difference(region).area < 1e-4


def test_a_union_loses_nothing_of_what_it_is_made_of() -> None:
    """A way whose strokes once came back with a slice of 8.6 square millimetres missing beside its fifth segment."""
    corners = [
        (14.653941411296342, 20.03380759055889, 25.05207314148642, 8.794140343090517, 25.65096250705571, 19.777825131348415),
        (43.075191727030564, 7.811423316577153, 50.09118297443392, 9.860859203099563, 43.67408109259986, 18.79510810483505),
        (65.75225501322942, 21.10956023628559, 66.21643117217613, 38.62565116205465, 59.335153131395366, 30.043809138021082),
        (50.92729205900332, 50.88511911162528, 42.59514557298136, 53.207174590530876, 44.04601401822258, 42.3032770875917),
        (24.668906132177735, 50.82191600391181, 15.122753481659549, 40.174000960183065, 26.11977457741892, 39.91801850097262),
    ]
    middle = (9.897027512229801, 30.534986107029507)
    on = Arc((10.013383175507288, 35.5336320596474), (14.895673464847697, 30.41863044375202), middle, ccw=False)
    off = Arc(on.end, (9.780671848952315, 25.536340154411608), (middle[0], 30.534986107029503), ccw=False)
    way: Loop = [on]
    for u0, v0, u1, v1, u, v in corners:
        way += [Line(way[-1].end, (u0, v0)), Arc((u0, v0), (u1, v1), (u, v))]
    way += [Line(way[-1].end, off.start), off]
    whole = swept(way, 5.0, 0.0005)
    assert max(swept([s], 5.0, 0.0005).difference(whole).area for s in way) < 1e-6


@settings(max_examples=many(60))
@given(
    st.lists(st.tuples(st.floats(0, 40), st.floats(0, 40), st.floats(0.5, 9.0)), min_size=1, max_size=8),
    st.lists(st.tuples(st.floats(0, 30), st.floats(0, 30), st.floats(1, 15), st.floats(1, 15)), max_size=5),
)
def test_a_union_is_as_large_as_its_parts_make_it(
    discs: list[tuple[float, float, float]], boxes: list[tuple[float, float, float, float]]
) -> None:
    """Against counting: the share of points that lie in any part is the share that lie in the union."""
    parts = [shapely.Point(x, y).buffer(r, quad_segs=32) for x, y, r in discs]
    parts += [shapely.box(x, y, x + w, y + h) for x, y, w, h in boxes]
    whole = united(parts)
    us, vs = np.meshgrid(np.linspace(-9.3, 49.1, 60), np.linspace(-9.7, 48.9, 60))
    inside = np.any([shapely.contains_xy(p, us, vs) for p in parts], axis=0)
    assert np.array_equal(shapely.contains_xy(whole, us, vs), inside)
    assert whole.area <= sum(p.area for p in parts) * (1 + 1e-9)


def test_floors_are_joined_and_nothing_else_is() -> None:
    left, right, lower = shapely.box(0, 0, 10, 10), shapely.box(8, 0, 20, 10), shapely.box(2, 2, 4, 4)
    hole = Revolved(5.0, 5.0, ((0.0, -9.0), (2.0, -9.0)))
    found = floors_joined([Flat(left, -1.0), hole, Flat(lower, -3.0), Flat(right, -1.0)])
    assert sorted(f.floor for f in found) == [-9.0, -3.0, -1.0]
    assert next(f for f in found if f.floor == -1.0).region.area == pytest.approx(200.0, rel=1e-6)
    assert hole in found
