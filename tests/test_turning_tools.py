"""Inserts after ISO 1832, turning tools, threads by the standards' tables, the formulas of turning."""

from __future__ import annotations

import contextlib
import itertools
import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from bastler.cutting import ThreadNameError, bites, feed_for, roughness, thread_of, turning_power
from bastler.tools import InsertCodeError, TurnTool, insert_of, shop_crib

CRIB = [t for unit in ("mm", "inch") for t in shop_crib(unit, turning=True) if isinstance(t, TurnTool)]


@pytest.mark.parametrize(
    ("code", "corner", "inscribed", "radius"),
    [
        ("CNMG120408", 80, 12.7, 0.8),
        ("CNMG 16 06 12", 80, 15.875, 1.2),
        ("DCMT070202", 55, 6.35, 0.2),
        ("DNMG150608", 55, 12.7, 0.8),
        ("VBMT160404", 35, 9.525, 0.4),
        ("TNMG160408", 60, 9.525, 0.8),
        ("SNMG120408", 90, 12.7, 0.8),
        ("WNMG080408", 80, 12.7, 0.8),
        ("CCMT060204", 80, 6.35, 0.4),
        ("RCMT0803M0", 0, 8.0, 4.0),
        ("ccmt09T304", 80, 9.525, 0.4),
    ],
)
def test_a_code_fills_the_geometry(code: str, corner: float, inscribed: float, radius: float) -> None:
    found = insert_of(code)
    assert (found.corner, found.inscribed, found.radius) == (corner, inscribed, radius)


@pytest.mark.parametrize("code", ["", "CNMG", "XNMG120408", "CXMG120408", "CNMG129908", "CNMG990408", "CNMG12040"])
def test_a_wrong_code_is_refused_with_what_is_wrong(code: str) -> None:
    with pytest.raises(InsertCodeError, match="no insert code: "):
        insert_of(code)


@given(st.text(max_size=14))
def test_rubbish_is_no_insert(text: str) -> None:
    with contextlib.suppress(InsertCodeError):
        assert insert_of(text).edge > 0


@pytest.mark.parametrize("tool", CRIB, ids=lambda t: f"{t.unit}-{t.id}")
def test_every_tool_has_a_sound_shape(tool: TurnTool) -> None:
    shape = shapely.Polygon(tool.cutting)
    assert shape.is_valid
    assert shape.convex_hull.area == pytest.approx(shape.area, rel=1e-9)
    beyond = tool.reach if tool.kind == "puller" else 0.0  # its point is its mouth
    assert shape.distance(shapely.Point(0, 0)) <= tool.nose + beyond + 1e-9
    for part in tool.body:
        assert shapely.Polygon(part).convex_hull.area == pytest.approx(shapely.Polygon(part).area)
    z, r = tool.centre
    assert math.hypot(z, r) <= tool.nose * math.sqrt(2) + 1e-12
    assert 1 <= tool.orientation <= 9


@pytest.mark.parametrize("tool", CRIB, ids=lambda t: f"{t.unit}-{t.id}")
def test_the_point_is_where_tool_setting_finds_it(tool: TurnTool) -> None:
    """The lines through the point along both axes touch the shape."""
    z = [p[0] for p in tool.cutting]
    r = [p[1] for p in tool.cutting]
    if tool.kind in ("turning", "boring") and tool.iso and tool.iso.shape != "R":
        assert (max(z) if tool.hand == "left" else min(z)) == pytest.approx(0.0, abs=1e-9)
        assert (max(r) if tool.inside else min(r)) == pytest.approx(0.0, abs=1e-9)


def test_units_change_lengths_and_nothing_else() -> None:
    tool = next(t for t in CRIB if t.id == "groove-3")
    there = tool.in_unit("inch")
    assert there.width == pytest.approx(3 / 25.4)
    assert there.in_unit("mm").reach == pytest.approx(tool.reach)
    v35 = next(t for t in CRIB if t.id == "v35-04")
    assert v35.in_unit("inch").nose == pytest.approx(0.4 / 25.4)
    assert v35.back_angle == pytest.approx(52.0)


@pytest.mark.parametrize(
    ("name", "shown", "pitch", "root", "bore"),
    [
        ("M10", "M10", 1.5, 8.160, 8.376),  # ISO 724
        ("m42 x 1.5", "M42 × 1.5", 1.5, 40.160, 40.376),
        ("M6", "M6", 1.0, 4.773, 4.917),
        ("1/2-13 UNC", "1/2-13 UNC", 25.4 / 13, 10.303, 10.584),  # ASME B1.1
        ("1 1/4-12", "1 1/4-12 UNF", 25.4 / 12, 29.153, 29.459),
        ("G 1/2", "G 1/2", 25.4 / 14, 18.631, 18.631),  # ISO 228-1
        ("R 3/4", "R 3/4", 25.4 / 14, 24.117, 24.117),  # ISO 7-1
        ("Tr40x7", "Tr 40 × 7", 7.0, 32.0, 33.0),  # ISO 2904
    ],
)
def test_threads_by_the_standards(name: str, shown: str, pitch: float, root: float, bore: float) -> None:
    found = thread_of(name)
    assert found.name == shown
    assert found.pitch == pytest.approx(pitch)
    assert found.root == pytest.approx(root, abs=0.0011)
    assert found.bore == pytest.approx(bore, abs=0.0011)


def test_trapezoidal_nuts_have_room_at_the_crest() -> None:
    assert thread_of("Tr 40x7").nut_major == 41.0
    assert thread_of("R 1/2").taper == 1 / 16


@pytest.mark.parametrize("name", ["", "M", "M9.3", "M10x0", "M10x80", "G 9/9", "1/0-13", "thread", "Tr40", "1/2-0"])
def test_what_is_no_thread(name: str) -> None:
    with pytest.raises(ThreadNameError):
        thread_of(name)


@given(st.text(max_size=12))
def test_rubbish_is_no_thread(text: str) -> None:
    with contextlib.suppress(ThreadNameError):
        assert thread_of(text).pitch > 0


@given(st.floats(0.2, 4.0), st.floats(0.1, 0.6), st.floats(0.0, 0.1), st.floats(0.0, 0.05), st.integers(0, 3))
def test_bites_follow_the_law_of_equal_areas(depth: float, share: float, least: float, last: float, springs: int) -> None:
    first = share * depth
    found = bites(depth, first, least, last, springs)
    assert found[-1] == pytest.approx(depth)
    assert found == sorted(found)
    assert found[0] == pytest.approx(min(max(first, least), depth - last))
    assert found[len(found) - springs :] == [depth] * springs
    rough = [b for b in found[: len(found) - springs] if b < depth - last - 1e-9]
    for k, bite in enumerate(rough, 1):
        assert bite >= first * math.sqrt(k) - 1e-9  # never less than the law; more only where the least bite asks for it
    for a, b in itertools.pairwise(rough):
        assert b - a >= least - 1e-9


def test_finish_and_feed_are_each_others_inverse() -> None:
    assert roughness(0.2, 0.8) == pytest.approx(1000 * 0.04 / 25.6)
    for ra in (0.4, 0.8, 1.6, 3.2, 6.3):
        assert roughness(feed_for(ra, 0.4), 0.4) == pytest.approx(ra)


def test_power_of_a_plain_cut() -> None:
    """vc 180 m/min, 3 mm deep, 0.3 mm a turn at kc 2000 N/mm²: 180 · 3 · 0.3 · 2000 / 60 000 = 5.4 kW at the edge."""
    assert turning_power(180, 3.0, 0.3, 2000, 1.0) == pytest.approx(5.4)
