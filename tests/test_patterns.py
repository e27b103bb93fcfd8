"""Hole patterns: edges, rings, lines by length; the order they are gone in; lists of places from outside."""

from __future__ import annotations

import itertools
import math
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.exchange import PlacesError, places_of, read_places
from bastler.job import answering, edits, plan
from bastler.shapes import FramePattern, GridPattern, LinePattern, PointsPattern, RingsPattern, positions
from bastler.shapes.order import shortest_way, way_length
from bastler.steps import Drilling, Facing
from conftest import job_of, many, proof_of

NAMED: dict[str, Any] = {"id": "p", "name": "p"}
PLACES = st.lists(st.tuples(st.floats(-200, 200), st.floats(-200, 200)), min_size=1, max_size=30, unique=True)


def test_a_line_over_a_length_ends_where_the_print_says() -> None:
    line = LinePattern(**NAMED, x=5, y=5, by="length", length=90, count=4)
    assert positions(line) == [(5, 5), (35, 5), (65, 5), (95, 5)]
    assert len(positions(LinePattern(**NAMED, by="length", count=1))) == 1


def test_a_rectangle_edge_goes_round_and_holds_every_place_once() -> None:
    edge = FramePattern(**NAMED, x=10, y=20, length=60, width=30, columns=4, rows=3)
    found = positions(edge)
    assert found[:5] == [(10, 20), (30, 20), (50, 20), (70, 20), (70, 35)]
    assert len(found) == len(set(found)) == 2 * (4 + 3) - 4
    assert all(x in (10, 70) or y in (20, 50) for x, y in found)
    assert max(math.dist(a, b) for a, b in itertools.pairwise(found)) == 20


def test_a_turned_edge_keeps_its_distances() -> None:
    plain, turned = (FramePattern(**NAMED, length=60, width=30, columns=3, rows=3, angle=a) for a in (0, 37))
    gaps = [[math.dist(a, b) for a, b in itertools.pairwise(positions(p))] for p in (plain, turned)]
    assert gaps[0] == pytest.approx(gaps[1])


def test_rings_hold_more_and_more_holes() -> None:
    rings = RingsPattern(**NAMED, diameter=20, circles=3, wider=20, count=4, more=2, start=90)
    found = positions(rings)
    assert [round(math.hypot(*p), 9) for p in found] == [10] * 4 + [20] * 6 + [30] * 8
    assert found[0] == pytest.approx((0, 10))
    assert found[4] == pytest.approx((0, 20))


def test_the_shortest_way_over_a_grid_goes_to_and_fro() -> None:
    grid = GridPattern(**NAMED, columns=5, rows=4, column_pitch=10, row_pitch=10)
    typed, best = (
        tuple(positions(grid)),
        tuple(positions(GridPattern(**NAMED, columns=5, rows=4, column_pitch=10, row_pitch=10, order="shortest"))),
    )
    assert way_length(best) == pytest.approx(19 * 10)
    assert way_length(typed) > way_length(best)
    assert sorted(typed) == sorted(best)


@settings(max_examples=many(60))
@given(PLACES)
def test_a_shortest_way_visits_all_once_is_no_longer_and_the_same_each_time(places: list[tuple[float, float]]) -> None:
    typed = tuple(places)
    order = shortest_way(typed)
    assert sorted(order) == list(range(len(typed)))
    assert order[0] == 0
    way = tuple(typed[k] for k in order)
    nearest = way_length(way)
    shortest_way.cache_clear()
    assert shortest_way(typed) == order
    for i, j in itertools.combinations(range(1, len(way)), 2):  # no stretch is shorter when it is turned round
        turned = (*way[:i], *reversed(way[i : j + 1]), *way[j + 1 :])
        assert way_length(turned) >= nearest - 1e-6


def test_left_out_numbers_mean_the_same_places_in_any_order() -> None:
    places = ((0.0, 0.0), (50.0, 0.0), (10.0, 0.0), (40.0, 0.0))
    pattern = PointsPattern(**NAMED, points=places, left_out=(2,), order="shortest")
    assert positions(pattern) == [(0, 0), (10, 0), (40, 0)]


def test_the_holes_are_drilled_in_the_order_and_it_saves_time() -> None:
    places = tuple((10.0 + 40.0 * (k % 2), 5.0 + 6.0 * (k // 2)) for k in range(6))
    times = []
    for order in ("given", "shortest"):
        pattern = PointsPattern(id="p", name="p", points=places, order=order)
        proof = proof_of(job_of(Facing(id="f"), Drilling(id="d", pattern="p", spot="no"), patterns=(pattern,)), 0.3)
        assert proof.proved
        times.append(proof.total)
    assert times[1] < times[0]


def test_a_position_is_switched_off_and_on_again() -> None:
    job, step = edits.step_added(job_of(Facing(id="f")), "drilling", "f")
    ident = job.patterns[0].id
    off = edits.position_switched(job, ident, 2)
    assert off.patterns[0].left_out == (2,)
    assert len(plan(off).step(step).filled.holes(plan(off).first.ctx)) == len(job.patterns[0].all()) - 1
    assert edits.position_switched(off, ident, 2).patterns[0].left_out == ()
    for number in (0, 99):
        with pytest.raises(KeyError):
            edits.position_switched(job, ident, number)


def test_a_copy_of_a_shared_pattern_leaves_the_other_step_alone() -> None:
    job, first = edits.step_added(job_of(Facing(id="f")), "drilling", "f")
    job, second = edits.step_added(job, "countersink", first)
    own = edits.pattern_copied(job, second)
    assert own.step(first).pattern != own.step(second).pattern
    moved = answering.answered(own, f"pattern:{own.step(second).pattern}.x", 1.0)
    assert moved.pattern(moved.step(first).pattern) == job.patterns[0]
    assert len({p.name for p in own.patterns}) == 2


@pytest.mark.parametrize("kind", list(edits.PATTERN_KINDS))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_new_pattern_of_any_kind_lies_in_the_stock_and_proves(kind: str, unit: str) -> None:
    size: dict[str, Any] = {} if unit == "mm" else {"size_x": 3.0, "size_y": 2.0, "size_z": 1.0, "over_top": 0.05}
    job, step = edits.step_added(job_of(Facing(id="f"), unit=unit, **size), "drilling", "f")
    job = edits.pattern_for(job, step, kind)
    planned = plan(job)
    lo, hi = planned.first.flat.stock.lo, planned.first.flat.stock.hi
    assert all(lo[0] < x < hi[0] and lo[1] < y < hi[1] for x, y in positions(job.patterns[0]))
    assert proof_of(job, 0.4).proved


# -- lists from outside ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "text",
    [
        "10,20\n30.5,-4",
        "X,Y\n10,20\n30.5,-4\n",
        "nr;Y;X\n1;20;10\n2;-4;30,5",
        "# holes\n\n10\t20\n30,5\t-4",
        "\ufeffx (mm),y (mm),name\n10,20,a\n30.5,-4,b".removeprefix("\ufeff"),
    ],
)
def test_lists_as_people_write_them(text: str) -> None:
    assert places_of(text, "holes.csv") == ((10.0, 20.0), (30.5, -4.0))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "lists no positions"),
        ("X,Y", "lists no positions"),
        ("10,20\n30", "line 2: there is no Y"),
        ("10,20\n30,four", "line 2: “four” is not a number"),
        ("10,nan", "is not a number"),
        ("10,1e9", "larger than anything"),
        ("\n".join("1,2" for _ in range(6000)), "no hole pattern"),
    ],
)
def test_a_bad_list_is_said_with_its_place(text: str, says: str) -> None:
    with pytest.raises(PlacesError, match=says):
        places_of(text, "holes.csv")


def test_a_file_that_is_no_text_is_said(tmp_path: Path) -> None:
    path = tmp_path / "holes.csv"
    with pytest.raises(PlacesError, match="cannot be read"):
        read_places(path)
    path.write_bytes(b"\xff\xfe\x00\x80")
    with pytest.raises(PlacesError, match="not a text file"):
        read_places(path)


@given(st.text(max_size=200))
def test_rubbish_gives_places_or_a_sentence(text: str) -> None:
    try:
        found = places_of(text, "holes.csv")
    except PlacesError as error:
        assert str(error).startswith("holes.csv")
    else:
        assert all(math.isfinite(v) for place in found for v in place)
