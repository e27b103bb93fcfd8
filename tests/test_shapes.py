"""Patterns, frames, rounded rectangles, removals."""

from __future__ import annotations

import math
from typing import Any

import pytest
from hypothesis import given
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
