"""Strategies without cutting: order, direction, entries, and exact coverage by the strokes of the tool."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from bastler.motion import (
    Bow,
    Cut,
    FacingRows,
    Feeds,
    Go,
    Path,
    PocketShape,
    centre_room,
    clear_level,
    face_rows,
    fits_helix,
    fits_ramp,
    wall_pass,
)
from bastler.shapes import Frame, as_polygon, rounded_rectangle

FEEDS = Feeds(1000.0, 400.0)


def centres(path: Path, start: tuple[float, float]) -> list[list[tuple[float, float]]]:
    """The tool's centre line of every feed move, arcs as fine chords."""
    lines, at = [], start
    for move in path.moves:
        if isinstance(move, Cut):
            lines.append([at, (move.u, move.v)])
        elif isinstance(move, Bow):
            lines.append(_arc(at, move))
        at = (move.u, move.v)
    return lines


def _arc(at: tuple[float, float], move: Bow) -> list[tuple[float, float]]:
    r, a0 = math.dist(at, (move.cu, move.cv)), math.atan2(at[1] - move.cv, at[0] - move.cu)
    turn = (math.atan2(move.v - move.cv, move.u - move.cu) - a0) * (1 if move.ccw else -1) % (2 * math.pi) or 2 * math.pi
    turn = turn if turn > 1e-9 else 2 * math.pi
    sign = 1 if move.ccw else -1
    return [
        (move.cu + r * math.cos(a0 + sign * turn * k / 90), move.cv + r * math.sin(a0 + sign * turn * k / 90)) for k in range(91)
    ]


def swept(path: Path, start: tuple[float, float], radius: float) -> shapely.Geometry:
    strokes = [shapely.LineString(line) for line in centres(path, start) if math.dist(line[0], line[-1]) > 1e-9 or len(line) > 2]
    return shapely.union_all([stroke.buffer(radius, quad_segs=64) for stroke in strokes])


def level(room: PocketShape, **more: Any) -> Path:
    path = Path(*room.frame.place(0, 0), 5.0)
    answers: dict = {
        "top": 0.0,
        "level": -2.0,
        "diameter": 10.0,
        "stepover": 5.0,
        "entry": "helix",
        "angle": 3.0,
        "climb": True,
        "clear": 1.0,
    }
    clear_level(path, room, feeds=FEEDS, surface=0.0, beside=0.5, **(answers | more))
    return path


@given(st.floats(12, 90), st.floats(12, 60), st.floats(5, 12), st.floats(0.5, 12), st.floats(-90, 90), st.booleans())
def test_loops_cover_the_pocket_and_stay_inside(
    length: float, width: float, radius: float, stepover: float, angle: float, climb: bool
) -> None:
    frame = Frame(3, 4, angle)
    radius = max(min(radius, length / 2, width / 2), 5.0)
    room = centre_room(frame, length, width, radius, 5.0)
    path = level(room, stepover=stepover, climb=climb, entry="plunge")
    pocket = as_polygon(rounded_rectangle(frame, length, width, radius))
    # a pocket exactly as wide as the tool has no loop: the core line does it
    done = swept(path, (3, 4), 5.0) if room.a > 0 else shapely.Point(3, 4).buffer(5.0)
    assert done.difference(pocket.buffer(0.01)).is_empty
    assert pocket.buffer(-0.02).difference(done).area < 1e-6


@pytest.mark.parametrize("climb", [True, False])
def test_climb_runs_counter_clockwise_inside(climb: bool) -> None:
    """With the spindle turning right, the wall has to be on the tool's right to climb: counter-clockwise in a pocket."""
    room = centre_room(Frame(), 60, 40, 8, 5)
    path = Path(0, 0, 5)
    wall_pass(path, room, -2.0, diameter=10.0, climb=climb, feeds=FEEDS, stock=0.3, clear=1.0, beside=1.0)
    points = [(m.u, m.v) for m in path.moves if isinstance(m, Cut | Bow)]
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in pairwise(points)) / 2
    assert (area > 0) is climb
    assert all(m.ccw is climb for m in path.moves if isinstance(m, Bow))


def test_a_wall_is_met_and_left_on_a_tangent() -> None:
    room = centre_room(Frame(), 60, 40, 8, 5)
    path = Path(0, 0, 5)
    wall_pass(path, room, -2.0, diameter=10.0, climb=True, feeds=FEEDS, stock=0.3, clear=1.0, beside=1.0)
    bows = [m for m in path.moves if isinstance(m, Bow)]
    lead_in, lead_out = bows[0], bows[-1]
    assert (lead_in.cu, lead_out.cu) == (0.0, 0.0)
    assert lead_in.v == pytest.approx(-room.b)
    rapids = [m for m in path.moves if isinstance(m, Go)]
    assert min(m.w for m in rapids) == -1.0, "the last millimetre down is feed"


def test_a_lead_too_short_for_the_allowance_goes_down_in_feed() -> None:
    room = centre_room(Frame(), 30, 10.4, 5.1, 5)
    path = Path(0, 0, 5)
    wall_pass(path, room, -2.0, diameter=10.0, climb=True, feeds=FEEDS, stock=0.3, clear=1.0, beside=1.0)
    assert all(m.w == 5 for m in path.moves if isinstance(m, Go))


@pytest.mark.parametrize("entry", ["helix", "ramp", "plunge"])
def test_entries_go_down_no_steeper_than_asked(entry: str) -> None:
    room = centre_room(Frame(), 60, 40, 8, 5)
    path = level(room, entry=entry, angle=4.0, level=-6.0)
    at = (0.0, 0.0, 5.0)
    for move in path.moves:
        if isinstance(move, Bow | Cut) and move.w < at[2]:
            flat = math.dist(at[:2], (move.u, move.v))
            if isinstance(move, Bow):
                flat = 2 * math.pi * math.dist(at[:2], (move.cu, move.cv))
            if entry != "plunge":
                assert (at[2] - move.w) / flat <= math.tan(math.radians(4.0)) + 1e-9
            assert move.feed == FEEDS.plunge
        at = (move.u, move.v, move.w)
    assert at[2] == -6.0
    assert min(m.w for m in path.moves if isinstance(m, Go)) == 1.0, "rapids end above the surface"


def test_a_helix_ends_with_a_flat_turn_and_leaves_no_core() -> None:
    path = level(centre_room(Frame(), 60, 40, 8, 5), level=-3.0)
    bows = [m for m in path.moves if isinstance(m, Bow)][:10]
    flat = next(b for a, b in pairwise(bows) if a.w == b.w == -3.0)
    assert math.dist((flat.u, flat.v), (flat.cu, flat.cv)) <= 4.5 + 1e-9 < 5.0


def test_what_fits_what_does_not() -> None:
    assert fits_helix(centre_room(Frame(), 60, 40, 8, 5), 10)
    assert not fits_helix(centre_room(Frame(), 60, 11, 5, 5), 10)
    assert fits_ramp(centre_room(Frame(), 60, 11, 5, 5), 10)
    assert not fits_ramp(centre_room(Frame(), 30, 30, 5, 5), 10)


def test_the_long_side_is_the_core_whichever_way_it_is_given() -> None:
    one, other = centre_room(Frame(1, 2, 10), 60, 30, 8, 5), centre_room(Frame(1, 2, 100), 30, 60, 8, 5)
    assert (one.a, one.b, one.radius) == (other.a, other.b, other.radius)
    assert (
        math.dist(one.frame.place(one.core, 0), other.frame.place(-other.core, 0)) < 1e-9
        or math.dist(one.frame.place(one.core, 0), other.frame.place(other.core, 0)) < 1e-9
    )


def rows(**more: Any) -> FacingRows:
    answers: dict = {
        "lo": (0, 0),
        "hi": (100, 60),
        "along_x": True,
        "diameter": 50,
        "stepover": 30,
        "run_past": 27,
        "zigzag": True,
    }
    return FacingRows(**(answers | more))


def test_zigzag_turns_round_and_one_way_lifts() -> None:
    there_and_back, one_way = Path(-27, 20, 30), Path(-27, 20, 30)
    face_rows(there_and_back, rows(), 0.0, clear=3.0, feed=900, plunge=900)
    face_rows(one_way, rows(zigzag=False), 0.0, clear=3.0, feed=900, plunge=900)
    assert sum(isinstance(m, Go) for m in there_and_back.moves) == 1
    count = len(rows().offsets())
    assert sum(isinstance(m, Go) and m.w == 3.0 for m in one_way.moves) >= 2 * count - 1
    for a, b in pairwise(one_way.moves):
        if isinstance(b, Cut) and b.w == 0 and isinstance(a, Cut) and a.w == 0:
            assert b.u > a.u, "always cuts in one direction"


def test_a_narrow_block_is_faced_in_one_row_down_its_middle() -> None:
    assert rows(hi=(100, 38)).offsets() == [19]
    assert rows(along_x=False, hi=(38, 100)).point(1, 2) == (2, 1)


def test_a_pencil_draws_only_what_moves() -> None:
    path = Path(0, 0, 5).go(z=5).cut(100, 0, 0).go(1).cut(100, z=2)
    assert [type(m).__name__ for m in path.moves] == ["Go", "Cut"]
    assert (path.x, path.y, path.z) == (1, 0, 2)
