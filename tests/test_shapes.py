"""Patterns, frames, rounded rectangles, removals."""

from __future__ import annotations

import itertools
import math
from functools import partial
from typing import Any

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.shapes import (
    Arc,
    ArcPattern,
    Box,
    CirclePattern,
    Flat,
    Frame,
    GridPattern,
    Line,
    LinePattern,
    PointsPattern,
    Revolved,
    as_polygon,
    depth_profile,
    height_at,
    positions,
    rounded_rectangle,
)
from bastler.shapes.bevel import Bevel
from bastler.shapes.furrow import Furrow
from bastler.shapes.removal import Removal
from conftest import many

NAMED: dict[str, Any] = {"id": "p", "name": "p"}


def near(points: list[tuple[float, float]], wanted: list[tuple[float, float]]) -> bool:
    return len(points) == len(wanted) and all(math.dist(p, q) < 1e-9 for p, q in zip(points, wanted, strict=True))


def test_a_circle_starts_at_three_o_clock_and_goes_counter_clockwise() -> None:
    found = positions(CirclePattern(**NAMED, x=10, y=20, diameter=40, count=4))
    assert near(found, [(30, 20), (10, 40), (-10, 20), (10, 0)])


def test_an_arc_holds_both_ends() -> None:
    found = positions(ArcPattern(**NAMED, diameter=20, count=3, start=90, sweep=-90))
    assert near(found, [(0, 10), (10 * math.cos(math.pi / 4), 10 * math.sin(math.pi / 4)), (10, 0)])


def test_a_skewed_grid_leans_its_columns() -> None:
    found = positions(GridPattern(**NAMED, columns=2, column_pitch=10, rows=2, row_pitch=10, skew=45))
    assert near(found, [(0, 0), (10, 0), (10, 10), (20, 10)])


def test_a_line_runs_in_its_direction() -> None:
    assert near(positions(LinePattern(**NAMED, x=1, y=2, count=3, pitch=5, angle=90)), [(1, 2), (1, 7), (1, 12)])


def test_positions_left_out_are_skipped() -> None:
    points = ((0.0, 0.0), (1.0, 0.0), (2.0, 0.0))
    assert positions(PointsPattern(**NAMED, points=points, left_out=(2,))) == [points[0], points[2]]


@given(st.floats(-720, 720), st.floats(-100, 100), st.floats(-100, 100))
def test_a_frame_keeps_lengths(angle: float, u: float, v: float) -> None:
    frame = Frame(3.0, -4.0, angle)
    assert math.dist(frame.place(u, v), (3.0, -4.0)) == pytest.approx(math.hypot(u, v), abs=1e-9)


@given(st.floats(1, 200), st.floats(1, 200), st.floats(0, 90), st.booleans())
def test_a_rounded_rectangle_is_closed_tangent_and_has_its_area(length: float, width: float, radius: float, ccw: bool) -> None:
    chain = rounded_rectangle(Frame(5, 6, 33), length, width, radius, ccw=ccw)
    for one, other in zip(chain, chain[1:] + chain[:1], strict=True):
        assert math.dist(one.end, other.start) < 1e-9
    r = min(radius, length / 2, width / 2)
    area = length * width - (4 - math.pi) * r * r
    assert as_polygon(chain, 256).area == pytest.approx(area, rel=2e-5)
    assert all(segment.ccw is ccw for segment in chain if isinstance(segment, Arc))


def test_a_sharp_rectangle_has_lines_only() -> None:
    assert all(isinstance(s, Line) for s in rounded_rectangle(Frame(), 10, 5, 0))


def test_what_is_left_is_the_lowest_of_all_removals() -> None:
    plane = Flat(Box((0, 0, 0), (10, 10, 10)).plan, 8.0)
    hole = Revolved(5, 5, ((0.0, 2.0), (2.0, 4.0)))
    assert height_at([plane, hole], 10.0, 1, 1) == 8.0
    assert height_at([plane, hole], 10.0, 5, 5) == 2.0
    assert height_at([plane, hole], 10.0, 6, 5) == pytest.approx(3.0)
    assert height_at([plane, hole], 10.0, 20, 20) == 10.0


def test_a_section_shows_steps_at_their_places() -> None:
    pocket = Flat(Box((2, 2, 0), (6, 8, 10)).plan, 5.0)
    profile = depth_profile([pocket], 10.0, (0, 5), (10, 5))
    assert [(round(d, 6), z) for d, z in profile] == [(0, 10), (2, 10), (2, 5), (6, 5), (6, 10), (10, 10)]


@given(st.data())
@settings(max_examples=many(40))
def test_a_section_is_as_high_as_what_is_left_at_each_of_its_points(data: st.DataObject) -> None:
    """Whatever is gone and however the section lies: flats, stepped holes, bevels and grooves, met or not."""
    number = partial(st.floats, allow_nan=False)
    gone: list[Removal] = []
    for _ in range(data.draw(st.integers(0, 5))):
        x, y, z = data.draw(number(0.0, 40.0)), data.draw(number(0.0, 30.0)), data.draw(number(-9.0, -1.0))
        kind = data.draw(st.sampled_from(["flat", "hole", "bevel", "groove"]))
        if kind == "flat":
            gone.append(Flat(shapely.box(x, y, x + 7.0, y + 5.0), z))
        elif kind == "hole":
            gone.append(Revolved(x, y, ((0.0, z - 2.0), (2.0, z), (2.0, z / 2), (4.0, z / 2), (5.0, 0.0))))
        elif kind == "bevel":
            loop = rounded_rectangle(Frame(x, y), 12.0, 8.0, 1.0)
            gone.append(Bevel((tuple(loop),), 0.0, 1.5, 1.0, 0.01))
        else:
            gone.append(Furrow(((Line((x, y), (x + 6.0, y + 3.0)),),), 0.0, -2.0, 0.2, 1.0, 0.01))
    aside = math.pi * 1e-3  # a section that runs along an edge itself may show either side of it
    start = (data.draw(number(-3.0, 0.0)), data.draw(number(0.0, 30.0)) + aside)
    end = (data.draw(number(40.0, 44.0)), data.draw(number(0.0, 30.0)) + aside)
    profile = depth_profile(gone, 0.0, start, end)
    length = math.dist(start, end)
    assert profile[0][0] == pytest.approx(0.0, abs=1e-9)
    assert profile[-1][0] == pytest.approx(length)
    for (d0, z0), (d1, z1) in itertools.pairwise(profile):
        assert d1 >= d0 - 1e-9
        if d1 - d0 < 1e-3:
            continue
        for d, z in ((d0 + (d1 - d0) * 1e-6, z0), (d1 - (d1 - d0) * 1e-6, z1)):
            x, y = (start[k] + (end[k] - start[k]) * d / length for k in (0, 1))
            assert z == pytest.approx(height_at(gone, 0.0, x, y), abs=1e-6)
