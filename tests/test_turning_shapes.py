"""Turning outlines, and operations on chains that keep lines and arcs exact."""

from __future__ import annotations

import itertools
import math

import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point

from bastler.job import answering, edits, new_job
from bastler.job.half_cut import half_cut
from bastler.shapes import Arc, Line, draw
from bastler.shapes.chain import boxed, mirrored, moved, offset, points_on, reversed_chain, seen
from outlines import along, blend, curve, edge, slant, up
from outlines import outline as outline_of

STEP = outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(edge(1.5), along(-20), up(50), along(-40)))


def test_an_outline_becomes_lines_and_arcs() -> None:
    drawn = draw(STEP)
    assert drawn.troubles == ()
    assert [type(s).__name__ for s in drawn.chain] == ["Line"] * 4
    assert drawn.chain[0].start == pytest.approx((0.0, 18.5))
    assert drawn.chain[0].end == pytest.approx((-1.5, 20.0))
    assert drawn.chain[-1].end == pytest.approx((-40.0, 25.0))
    assert drawn.owners == (-1, 0, 1, 2)


def test_a_blend_is_an_arc_that_touches_both() -> None:
    drawn = draw(outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-20), blend(3.0), up(60), along(-30))))
    arc = drawn.chain[1]
    assert isinstance(arc, Arc)
    assert arc.centre == pytest.approx((-17.0, 23.0))
    assert arc.start == pytest.approx((-17.0, 20.0))
    assert arc.end == pytest.approx((-20.0, 23.0))


@pytest.mark.parametrize(
    ("pieces", "field", "word"),
    [
        ((), "segments", "no segment"),
        ((along(-20), slant(d=50.0)), "segments.1", "One more number"),
        ((along(-20), blend(30.0), up(50), along(-30)), "segments.0.corner_size", "Too big for its neighbours by"),
        ((along(-20), edge(1.0)), "segments.0.corner_size", "has to follow"),
        ((along(-20), curve(d=60.0, z=-40.0, radius=2.0)), "segments.1.radius", "radius is too small"),
        ((curve(d=60.0, z=-40.0, radius=30.0), blend(90.0), along(-50)), "segments.0.corner_size", "Too big"),
    ],
)
def test_what_is_missing_or_does_not_fit_is_said_at_its_piece(pieces: tuple, field: str, word: str) -> None:
    troubles = draw(outline_of(id="o", name="o", d=40.0, z=0.0, pieces=pieces)).troubles
    assert any(t.field == field and word in t.text for t in troubles), troubles


@pytest.mark.parametrize(
    ("slanted", "end"),
    [
        (slant(d=60.0, z=-30.0), (-30.0, 30.0)),
        (slant(d=60.0, angle=45.0), (-30.0, 30.0)),
        (slant(z=-30.0, angle=30.0), (-30.0, 20.0 + 10.0 * math.tan(math.radians(30.0)))),
    ],
)
def test_a_slant_takes_any_two_of_three(slanted: dict, end: tuple[float, float]) -> None:
    drawn = draw(outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-20), slanted)))
    assert drawn.chain[-1].end == pytest.approx(end)


@st.composite
def chains(draw_: st.DrawFn) -> list:
    """Rising chains of lines and arcs from right to left."""
    d, z, pieces = draw_(st.floats(10, 30)), 0.0, []
    for _ in range(draw_(st.integers(1, 4))):
        z -= draw_(st.floats(3, 10))
        d += draw_(st.floats(0.2, 9))
        kind = draw_(st.sampled_from(["along", "slant", "arc", "up"]))
        pieces.append(along(z))
        if kind == "slant":
            z -= draw_(st.floats(2, 6))
            pieces.append(slant(d=d, z=z))
        elif kind == "arc":
            z -= draw_(st.floats(2, 6))
            pieces.append(curve(d=d, z=z, radius=draw_(st.floats(10, 30)), bulge=draw_(st.sampled_from(["out", "in"]))))
        else:
            pieces.append(up(d))
    made = draw(outline_of(id="o", name="o", d=10.0, z=0.0, pieces=(*pieces, along(z - 5.0))))
    assume(not made.troubles)
    return list(made.chain)


@given(chains(), st.floats(0.1, 1.2))
def test_every_point_of_an_offset_is_that_far_away(chain: list, distance: float) -> None:
    line = LineString(points_on(chain, 1e-5))
    for u, v in points_on(offset(chain, distance), 0.01)[1:-1]:
        assert line.distance(Point(u, v)) == pytest.approx(distance, abs=2e-5)


def test_a_step_lower_than_the_distance_is_rounded_about_its_corner() -> None:
    """A 1 mm shoulder under a 1.125 mm nose: the nose meets the corner's arc, and never the plain end of the lower line."""
    step = [Line((0.0, 5.0), (-3.0, 5.0)), Line((-3.0, 5.0), (-3.0, 6.0)), Line((-3.0, 6.0), (-8.0, 6.0))]
    low, corner, high = offset(step, 1.125)
    assert isinstance(corner, Arc)
    assert corner.centre == (-3.0, 6.0)
    assert low.end == corner.start == pytest.approx((-3.0 + math.sqrt(1.125**2 - 0.125**2), 6.125))
    assert corner.end == high.start == pytest.approx((-3.0, 7.125))


@given(chains(), st.floats(0.1, 1.2))
def test_an_offset_hangs_together(chain: list, distance: float) -> None:
    moved_off = offset(chain, distance)
    for a, b in itertools.pairwise(moved_off):
        assert math.dist(a.end, b.start) < 1e-7


@given(chains())
def test_mirrors_moves_and_reversals_undo_themselves(chain: list) -> None:
    for there_and_back in (
        reversed_chain(reversed_chain(chain)),
        mirrored(mirrored(chain, u=True), u=True),
        mirrored(mirrored(chain, v=True), v=True),
        moved(moved(chain, 3.0, -2.0), -3.0, 2.0),
    ):
        for a, b in zip(chain, there_and_back, strict=True):
            assert a.start == pytest.approx(b.start)
            assert a.end == pytest.approx(b.end)


@given(chains(), st.floats(0.05, 0.5), st.floats(0.05, 0.8))
def test_a_box_allowance_is_on_both_axes(chain: list, dz: float, dr: float) -> None:
    """No point of the wanted outline shifted anywhere within the box lies outside the allowance."""
    out = LineString(points_on(boxed(chain, dz, dr), 1e-4))
    inner = LineString(points_on(chain, 1e-4))
    assert inner.distance(out) > 0.1 * min(dz, dr)
    horizontal = [s for s in chain if isinstance(s, Line) and abs(s.start[1] - s.end[1]) < 1e-9]
    for s in horizontal:
        middle = Point((s.start[0] + s.end[0]) / 2, s.start[1] + dr)
        assert out.distance(middle) < 1e-6


def test_a_slanted_tip_sees_a_recess_along_its_back_edge() -> None:
    recess = draw(outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-10), up(30), along(-40), up(40), along(-50)))).chain
    way = seen(recess, 30.0)
    slant = way[1]
    assert slant.start == pytest.approx((-10.0, 20.0))
    assert slant.end == pytest.approx((-10.0 - 5.0 / math.tan(math.radians(30.0)), 15.0))
    assert seen(recess, 90.0) == list(recess)


def test_a_steep_recess_that_ends_before_the_tip_is_down_is_skipped() -> None:
    recess = draw(outline_of(id="o", name="o", d=40.0, z=0.0, pieces=(along(-10), up(20), along(-14), up(40), along(-50)))).chain
    lowest = min(v for _, v in points_on(seen(recess, 20.0), 0.1))
    assert lowest == pytest.approx(20.0 - 4.0 * math.tan(math.radians(20.0)))


def test_pieces_have_addresses() -> None:
    job, _ = edits.step_added(new_job("mm", "lathe-200"), "turn-roughing", "")
    ident = job.outlines[0].id
    job = answering.answered(job, f"outline:{ident}.segments.1.z", -33.0)
    assert job.outlines[0].segments[1].z == -33.0
    job = answering.answered(job, f"outline:{ident}.d", 41.0)
    assert job.outlines[0].d == 41.0
    for nowhere in (f"outline:{ident}.segments.99.z", "outline:none.d", f"outline:{ident}.segments.x.z"):
        with pytest.raises(KeyError):
            answering.answered(job, nowhere, 1.0)


def test_what_the_sheet_shows_of_a_groove_is_worked_out_with_the_plan() -> None:
    """Of a bar Ø60 that a groove 3 wide and 3 deep goes out of: what is taken, what is new, what is still the bar's skin."""
    raw = shapely.box(-100.0, 0.0, 0.0, 30.0)
    groove = shapely.box(-13.0, 27.0, -10.0, 40.0)
    cut = half_cut(raw, raw, [groove], 1.0)
    assert cut.taken is not None
    assert cut.taken.area == pytest.approx(9.0)
    assert cut.fresh is not None
    assert cut.fresh.length == pytest.approx(3.0 + 2 * 3.0, abs=1e-3)
    assert cut.skin.length == pytest.approx(100.0 + 2 * 30.0, abs=0.01), "the axis is no skin"
    assert cut.rough == [(-100.0, 0.0, 30.0)]
    after = half_cut(raw, raw.difference(groove), [], 1.0)
    assert (after.taken, after.fresh) == (None, None)
    assert after.rough == [(-100.0, -13.0, 30.0), (-10.0, 0.0, 30.0)]
    assert [r for _, r in after.outside] == [30.0, 30.0, 27.0, 27.0, 30.0, 30.0]
