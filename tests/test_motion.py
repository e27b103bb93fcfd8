"""Strategies without cutting: order, direction, entries, and exact coverage by the strokes of the tool."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from bastler.job import PlannedStep, plan
from bastler.motion import Bow, Cut, FacingRows, Go, Move, Path, face_rows
from bastler.motion.rings import clipped
from bastler.shapes import Arc, Frame, Segment, as_polygon, rounded_rectangle
from bastler.shapes.chain import length_of, points_on
from bastler.steps import RectangularPocket, Stage
from conftest import job_of, many


def centres(moves: Sequence[Move], start: tuple[float, float]) -> list[list[tuple[float, float]]]:
    """The tool's centre line of every feed move, arcs as fine chords."""
    lines, at = [], start
    for move in moves:
        if not isinstance(move, Go | Cut | Bow):
            continue
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


def swept(moves: Sequence[Move], start: tuple[float, float], radius: float) -> shapely.Geometry:
    strokes = [shapely.LineString(line) for line in centres(moves, start) if math.dist(line[0], line[-1]) > 1e-9 or len(line) > 2]
    return shapely.union_all([stroke.buffer(radius, quad_segs=64) for stroke in strokes])


def pocket(**answers: Any) -> PlannedStep:
    """A pocket in an end mill of 10, Ø10 and its twin for the walls, from planning alone."""
    given: dict[str, Any] = {"length": 60.0, "width": 40.0, "corner_radius": 8.0, "depth": 6.0, "tool": "end-10"} | answers
    job = job_of(RectangularPocket(id="b", x=3, y=4, **given), size_x=160.0, size_y=120.0, size_z=30.0, zero="centre")
    planned = plan(job).step("b")
    assert planned is not None
    assert planned.troubles == (), planned.troubles
    return planned


def stage_of(planned: PlannedStep, name: str) -> Stage:
    return next(s for s in planned.stages if isinstance(s, Stage) and s.name == name)


@settings(max_examples=many(40))
@given(st.floats(11, 90), st.floats(11, 60), st.floats(5, 12), st.floats(0.5, 8), st.floats(-90, 90), st.booleans())
def test_rings_cover_the_pocket_and_stay_inside(
    length: float, width: float, radius: float, stepover: float, angle: float, climb: bool
) -> None:
    radius = max(min(radius, length / 2, width / 2), 5.0)
    shape = {"length": length, "width": width, "corner_radius": radius, "angle": angle}
    how = {"ae": stepover, "cutting": "climb" if climb else "conventional", "finish": "no", "entry": "plunge"}
    stage = stage_of(pocket(**shape, **how), "rough")
    done = swept(stage.moves, stage.start[:2], 5.0)
    wanted = as_polygon(rounded_rectangle(Frame(3, 4, angle), length, width, radius))
    assert done.difference(wanted.buffer(0.01)).is_empty
    assert wanted.buffer(-0.02).difference(done).area < 1e-6


@pytest.mark.parametrize("cutting", ["climb", "conventional"])
def test_climb_runs_counter_clockwise_inside(cutting: Any) -> None:
    """With the spindle turning right, the wall has to be on the tool's right to climb: counter-clockwise in a pocket."""
    moves = stage_of(pocket(cutting=cutting), "finish").moves
    last = max(k for k, m in enumerate(moves) if isinstance(m, Go) and m.w > 0 and k < len(moves) - 2)
    points = [(m.u, m.v) for m in moves[last:] if isinstance(m, Cut | Bow)]
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in pairwise(points)) / 2
    assert (area > 0) is (cutting == "climb")
    assert all(m.ccw is (cutting == "climb") for m in moves[last:] if isinstance(m, Bow))


@pytest.mark.parametrize("entry", ["helix", "ramp", "plunge"])
def test_entries_go_down_no_steeper_than_asked(entry: Any) -> None:
    planned = pocket(entry=entry, entry_angle=4.0, finish="no")
    stage = stage_of(planned, "rough")
    at, lowest, slow = stage.start, 0.0, math.inf
    for move in stage.moves:
        if not isinstance(move, Go | Cut | Bow):
            continue
        if isinstance(move, Bow | Cut) and move.w < at[2] - 1e-9 and move.w < lowest - 1e-9:  # deeper than what is open
            flat = math.dist(at[:2], (move.u, move.v))
            if isinstance(move, Bow):
                flat = 2 * math.pi * math.dist(at[:2], (move.cu, move.cv))
            if entry != "plunge":
                assert (at[2] - move.w) / max(flat, 1e-9) <= math.tan(math.radians(4.0)) + 1e-9
            slow = min(slow, move.feed)
        lowest = min(lowest, move.w)
        at = (move.u, move.v, move.w)
    filled: Any = planned.filled
    assert lowest == filled.floor
    assert slow < filled.vf, "down in its own feed"
    assert min(m.w for m in stage.moves if isinstance(m, Go)) > filled.floor, "rapids end above the floor"


def test_a_corner_no_tool_goes_into_is_said() -> None:
    job = job_of(RectangularPocket(id="b", x=30, y=20, length=30, width=20, corner_radius=1.0, tool="end-10"))
    planned = plan(job).step("b")
    assert planned is not None
    assert [t.field for t in planned.troubles] == ["finish_tool"]


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


@settings(max_examples=many(60))
@example(radius=14.709260614474868, off=0.9767157629147962, share=0.29344646328657614, begins=3.8147106166714346, ccw=True)
@given(
    st.floats(0.5, 30.0),
    st.floats(-1.02, 1.02) | st.floats(0.95, 0.9999),
    st.floats(0.02, 0.4),
    st.floats(0.0, 6.28),
    st.booleans(),
)
def test_a_ring_clipped_to_a_zone_keeps_all_that_lies_in_it(
    radius: float, off: float, share: float, begins: float, ccw: bool
) -> None:
    """A ring that lay in it but for a little came back as the little by which its ends overlapped: its rest stood."""
    at = (radius * math.cos(begins), radius * math.sin(begins))
    ring: list[Segment] = [Arc(at, at, (0.0, 0.0), ccw)]
    zone = shapely.box(-2 * radius, -2 * radius, off * radius, 2 * radius)
    runs = clipped(ring, zone, share * radius)
    inside = shapely.Point(0.0, 0.0).buffer(radius, quad_segs=512).boundary.intersection(zone)
    ways = shapely.unary_union([shapely.LineString(points_on(run, 1e-4 * radius)) for run in runs])
    # a piece whose middle lies outside is left away: half of one at either end
    assert inside.difference(ways.buffer(1e-3 * radius)).length <= 1.1 * share * radius
    assert sum(map(length_of, (s for run in runs for s in run))) <= inside.length + 4.1 * share * radius
