"""The cutting kernels against brute force, and the wanted fields against points."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import shapely.affinity
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.proof.mill import bands
from bastler.proof.mill.bands import Ground
from bastler.proof.mill.field import FLAT_UNDER, Grid, Patch
from bastler.proof.mill.jaws import jaw_hits
from bastler.proof.mill.sweeping import COLUMNS, grid_array, nowhere, run_segments, tool_arrays
from bastler.proof.mill.wanted import both_fields
from bastler.shapes import Box, Flat, Frame, Revolved, as_polygon, height_at, rounded_rectangle
from bastler.tools import Holder, Tool, shop_crib
from conftest import many

BLOCK = Box((0.0, 0.0, -20.0), (30.0, 24.0, 0.0))
GRID = Grid.over(BLOCK, 0.5, 1.0)
CRIB: dict[str, Any] = {t.id: t for t in shop_crib("mm")}


def run(
    tool: Tool,
    table: np.ndarray,
    rapid: np.ndarray | None = None,
    grid: Grid = GRID,
    rows: tuple[int, int] | None = None,
    stop: bool = False,
) -> tuple[np.ndarray, np.ndarray, int]:
    """The field and what is told of each of some segments (n, 6), of them those from `rows[0]` to before `rows[1]`, and how far
    the kernel came."""
    field, out = grid.fresh(), np.zeros((len(table), COLUMNS))
    shape, body = tool_arrays(tool, grid)
    begin, end = rows or (0, len(table))
    fast = np.zeros(len(table), bool) if rapid is None else rapid
    edge, place, go_on = np.zeros_like(field), grid_array(grid), np.full(1, stop, np.uint8)
    args = (place, table, fast, shape, body, begin, end, out, np.float32(0.0), nowhere(), go_on)
    return field, out, run_segments(field, edge, FLAT_UNDER, *args)


def cut(tool: Tool, *segments: tuple[float, ...]) -> tuple[np.ndarray, np.ndarray]:
    field, out, done = run(tool, np.array(segments, dtype=float))
    assert done == len(segments)
    return field, out


def brute(tool: Tool, segment: tuple[float, ...]) -> np.ndarray:
    """Stamps the tool at 4000 places along the segment."""
    a, b = np.array(segment[:3]), np.array(segment[3:])
    x = GRID.x0 + (np.arange(GRID.nx) + 0.5) * GRID.dx
    y = GRID.y0 + (np.arange(GRID.ny) + 0.5) * GRID.dy
    p = tool.profile
    field = np.zeros((GRID.ny, GRID.nx))
    for t in np.linspace(0, 1, 4001):
        c = a + (b - a) * t
        i0, i1 = np.searchsorted(x, [c[0] - p.radius - 1e-9, c[0] + p.radius + 1e-9])
        j0, j1 = np.searchsorted(y, [c[1] - p.radius - 1e-9, c[1] + p.radius + 1e-9])
        r = np.hypot(x[None, i0:i1] - c[0], y[j0:j1, None] - c[1])
        rise = np.where(r <= p.flat, 0.0, (r - p.flat) * p.slope)
        if p.corner > 0:
            rise = np.where(r <= p.flat, 0.0, p.corner - np.sqrt(np.maximum(p.corner**2 - (r - p.flat) ** 2, 0)))
        z = np.where(r <= p.radius, c[2] + rise, 0.0)
        field[j0:j1, i0:i1] = np.minimum(field[j0:j1, i0:i1], np.maximum(z, GRID.bottom))
    return field


@pytest.mark.parametrize("ident", ["end-6", "bull-12", "ball-8", "drill-10", "spot-10", "chamfer-12"])
@settings(max_examples=many(8))
@given(data=st.data())
def test_a_sweep_is_what_stamping_gives(ident: str, data: st.DataObject) -> None:
    number = data.draw
    ax, ay, bx, by = (number(st.floats(-4, 34)) for _ in range(4))
    az = number(st.floats(-8, 1))
    bz = number(st.sampled_from([az]) | st.floats(-8, 1))
    tool = CRIB[ident]
    field, out = cut(tool, (ax, ay, az, bx, by, bz))
    wanted = brute(tool, (ax, ay, az, bx, by, bz))
    length = math.dist((ax, ay, az), (bx, by, bz))
    edge = np.abs(field - wanted) > 0.01 + length / 4000 * 4
    assert edge.mean() < 0.004, "only cells whose centre lies on the very rim may differ"
    # the cells that the rim crosses are weighed, not counted: counting them may be wrong by half a cell all along the rim
    rim = 0.5 * GRID.cell * (2 * length + 4 * tool.diameter) * -float(field.min())
    assert out[0, 0] == pytest.approx(float((0.0 - field).sum()) * GRID.area, abs=0.25 * rim + 0.1)
    assert out[0, 1] == pytest.approx(float(-field.min()), abs=1e-5)


def test_a_straight_plunge_leaves_the_tool_s_shape() -> None:
    field, _ = cut(CRIB["drill-10"], (15, 12, 2, 15, 12, -6))
    slope = 1 / math.tan(math.radians(59))
    for row, column in ((24, 30), (24, 35), (28, 30)):
        x, y = GRID.centre(row, column)
        assert field[row, column] == pytest.approx(-6 + math.hypot(x - 15, y - 12) * slope, abs=1e-5)


def test_nothing_is_cut_below_the_block() -> None:
    field, out = cut(CRIB["end-6"], (15, 12, -50, 20, 12, -50))
    assert field.min() == -20.0
    assert out[0, 1] == 20.0


def test_a_stopped_run_says_where() -> None:
    table = np.array([[0, 0, -1, 30, 0, -1.0]] * 3)
    assert run(CRIB["end-6"], table, rows=(1, 3), stop=True)[2] == 1


def test_a_rapid_along_a_wall_is_not_judged_finer_than_a_cell() -> None:
    """It still counts where it is more than that, and what it cuts is gone."""
    for aside, felt in ((0.2, False), (1.2, True)):
        table = np.array([[5, 12, -3, 25, 12, -3.0], [25, 12 + aside, -3, 5, 12 + aside, -3.0]])
        _, out, _ = run(CRIB["end-6"], table, np.array([False, True]))
        assert (out[1, 1] > 0) == felt


def test_shank_and_holder_are_felt() -> None:
    thick: dict[str, Any] = {"shank_diameter": 6.0, "stick_out": 9.0, "length": 80.0, "holder": Holder(20.0, 40.0)}
    tool = Tool(id="x", station=1, kind="end-mill", name="x", diameter=4.0, flutes=2, flute_length=5.0, **thick)
    _, out = cut(tool, (15, 12, -4, 20, 12, -4), (15, 12, -7, 20, 12, -7), (15, 12, -11, 20, 12, -11))
    assert out[0, 2] == out[0, 3] == 0.0
    assert out[1, 2] == pytest.approx(2.0)
    assert out[1, 3] == 0.0
    assert out[2, 3] == pytest.approx(2.0)


def test_a_patch_holds_what_changed() -> None:
    field, _ = cut(CRIB["end-6"], (10, 10, -3, 14, 10, -3))
    side = 8
    tiles = np.add.reduceat(np.add.reduceat(field < 0.0, range(0, GRID.ny, side), axis=0), range(0, GRID.nx, side), axis=1) > 0
    patch = Patch.of(field, np.zeros_like(field), tiles, side)
    assert patch.cells.size < field.size / 3
    again = GRID.fresh()
    patch.lay(again)
    assert np.array_equal(again, field)
    assert patch.at(0, 0) is None
    assert patch.at(20, 24) == -3.0


def test_a_patch_leaves_alone_what_is_not_its_own() -> None:
    field = GRID.fresh()
    field[0:4, 0:4], field[20:24, 20:24] = -1.0, -2.0
    tiles = np.zeros((math.ceil(GRID.ny / 4), math.ceil(GRID.nx / 4)), bool)
    tiles[0, 0] = tiles[5, 5] = True
    patch = Patch.of(field, np.zeros_like(field), tiles, 4)
    other = GRID.fresh()
    other[8:12, 8:12] = -7.0  # between the two, and somebody else's
    patch.lay(other)
    assert (other[0:4, 0:4] == -1.0).all()
    assert (other[20:24, 20:24] == -2.0).all()
    assert (other[8:12, 8:12] == -7.0).all()
    assert patch.at(9, 9) is None


def test_the_grid_meets_the_edges_and_follows_the_part() -> None:
    grid = Grid.over(Box((-1.0, -1.0, -33.0), (151.0, 101.0, 1.0)), None, 1.0)
    assert (grid.nx * grid.dx, grid.ny * grid.dy) == pytest.approx((152, 102))
    assert grid.dx == pytest.approx(0.14, rel=0.001)
    assert Grid.over(Box((0, 0, 0), (3000.0, 3000.0, 10.0)), None, 1.0).nx ** 2 < 3_000_000
    inch = Grid.over(Box((0, 0, 0), (4.0, 2.5, 0.8)), None, 1 / 25.4)
    assert inch.dx * 25.4 == pytest.approx(0.1, abs=0.006)


def test_the_wanted_fields_hold_the_wanted_height_between_them() -> None:
    pocket = Flat(as_polygon(rounded_rectangle(Frame(14, 12, 25), 16, 9, 3)), -5.0)
    hole = Revolved(24.0, 18.0, ((0.0, -9.0), (3.0, -7.5)))
    top = Flat(BLOCK.plan, -1.0)
    removals: list[Any] = [top, pocket, hole]
    low, high = both_fields(GRID, removals)
    exact = np.array([[height_at(removals, 0.0, *GRID.centre(j, i)) for i in range(GRID.nx)] for j in range(GRID.ny)])
    assert (low <= exact + 1e-5).all()
    assert (high >= exact - 1e-5).all()
    assert (high[0] == -1.0).all(), "there is no wall at the edge of the stock"
    assert (low == high).mean() > 0.8


@given(
    st.tuples(*[st.floats(-30, 60)] * 4),
    st.floats(-15, 10),
    st.floats(-15, 10),
)
def test_jaws_are_hit_where_geometry_says(plan: tuple[float, ...], az: float, bz: float) -> None:
    """Against shapely: the part of the move below the jaw's top, its distance to the jaw."""
    jaw, tool = Box((0.0, -20.0, -30.0), (30.0, 0.0, -8.0)), CRIB["end-10"]
    ax, ay, bx, by = plan
    depth, part = jaw_hits(np.array([[ax, ay, az, bx, by, bz]]), tool, [jaw], 1e-6)
    wanted = False
    for radius, lift in ((5.0, 0.0), (5.0, tool.flute_length), (tool.holder.diameter / 2, tool.stick_out)):
        za, zb = az + lift, bz + lift
        if min(za, zb) >= -8.0:
            continue
        t0 = (za + 8.0) / (za - zb) if za > -8.0 else 0.0
        t1 = (-8.0 - za) / (zb - za) if zb > -8.0 else 1.0
        p = [(ax + (bx - ax) * t, ay + (by - ay) * t) for t in (t0, t1)]
        line = shapely.LineString(p) if math.dist(*p) > 1e-9 else shapely.Point(p[0])
        gap = line.distance(jaw.plan) - radius
        if abs(gap) < 1e-3:
            return
        wanted = wanted or gap < 0
    assert (depth[0] > 0) is np.bool_(wanted)
    assert (part[0] > 0) is np.bool_(wanted)


@pytest.mark.parametrize("angle", [0.0, 11.0, 30.0, 45.0])
@pytest.mark.parametrize("off", [0.0, 0.13, 0.25])
def test_the_volume_of_a_slot_is_that_of_its_capsule(angle: float, off: float) -> None:
    """Wherever its walls lie between the cells: a tool of 6 goes 12 along, 4 deep, and again over the same way, and deeper."""
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    a, b = (9.0 + off, 8.0 + off), (9.0 + off + 12 * c, 8.0 + off + 12 * s)
    capsule = math.pi * 9 + 6 * 12
    _, out = cut(CRIB["end-6"], (*a, -2, *b, -2), (*b, -2, *a, -2), (*a, -4, *b, -4))
    assert out[0, 0] == pytest.approx(2 * capsule, rel=2e-3)
    assert out[1, 0] == pytest.approx(0.0, abs=1e-4)
    assert out[2, 0] == pytest.approx(2 * capsule, rel=2e-3)


@settings(max_examples=many(20))
@given(st.floats(0.0, 90.0), st.floats(-0.5, 0.5), st.floats(0.4, 5.0))
def test_what_two_passes_take_together_is_their_union(angle: float, off: float, apart: float) -> None:
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    lines = [shapely.LineString([(12 + off - 4 * c, 10 - 4 * s), (12 + off + 4 * c, 10 + 4 * s)])]
    lines.append(shapely.affinity.translate(lines[0], -s * apart, c * apart))
    union = shapely.union_all([line.buffer(3.0, quad_segs=64) for line in lines]).area
    _, out = cut(CRIB["end-6"], *((*line.coords[0], -3.0, *line.coords[1], -3.0) for line in lines))
    assert out[:, 0].sum() == pytest.approx(3.0 * union, rel=6e-3)


@settings(max_examples=many(15))
@given(st.integers(0, 2**32 - 1), st.sampled_from(["end-10", "bull-12", "ball-8", "chamfer-12"]), st.booleans())
def test_a_field_cut_in_bands_is_the_field_cut_in_one(seed: int, name: str, flat: bool) -> None:
    """Heights to the last digit; volumes but for what a cell at a seam asks its neighbours."""
    random = np.random.default_rng(seed)
    grid, tool = Grid.over(BLOCK, 0.2, 1.0), CRIB[name]
    points = random.uniform((-5, -5, -8), (35, 29, 0.5), (120, 3))
    if flat:
        points[:, 2] = np.repeat(random.uniform(-8, 0.5, 12), 10)
    segments = np.hstack([points[:-1], points[1:]])
    rapid, stop = random.random(len(segments)) < 0.2, np.zeros(1, np.uint8)
    one, out, _ = run(tool, segments, rapid, grid)
    ground = Ground(grid, grid.fresh(), np.zeros_like(one), FLAT_UNDER)
    heard: list[int] = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(bands, "PORTION", 50)
        patch.setattr(bands, "WORTH", 0)
        assert len(bands.bands_of(grid, segments, tool)) > 1
        cut = bands.cut_in_bands(ground, segments, rapid, tool, np.float32(0), stop, heard.append)
    assert heard == [50, 100, 119]
    assert cut is not None
    assert np.array_equal(ground.field, one)
    assert np.allclose(cut[:, 1:], out[:, 1:], rtol=0.0, atol=1e-8)  # the lowest of a round end is searched for
    assert cut[:, 0].sum() == pytest.approx(out[:, 0].sum(), rel=1e-3)
    again = Ground(grid, grid.fresh(), np.zeros_like(one), FLAT_UNDER)
    assert bands.cut_in_bands(again, segments, rapid, tool, np.float32(0), stop, heard.append) is not None
    assert np.array_equal(again.field, one)


def test_climbing_moves_take_what_they_take_from_anywhere() -> None:
    """Where a tool climbs from a place it has been at, what lies behind it is passed over: to the result that is nothing."""
    tool, grid = CRIB["end-6"], Grid.over(BLOCK, 0.1, 1.0)
    shape, body = tool_arrays(tool, grid)
    points = np.array([(4 + 1.5 * k, 12 + 4 * np.sin(k / 2), -6 + 0.3 * k) for k in range(16)])
    segments = np.hstack([points[:-1], points[1:]])
    fields, volumes = [], []
    for apart in (False, True):
        field, edge, out = grid.fresh(), np.zeros((grid.ny, grid.nx), np.float32), np.zeros((15, COLUMNS))
        stop, been, feed = np.zeros(1, np.uint8), nowhere(), np.zeros(15, bool)
        for k in range(15):
            been = nowhere() if apart else been
            run_segments(
                field, edge, FLAT_UNDER, grid_array(grid), segments, feed, shape, body, k, k + 1, out, np.float32(0), been, stop
            )
        fields.append(field)
        volumes.append(out[:, 0])
    assert np.allclose(fields[0], fields[1], atol=1e-6)
    assert np.allclose(volumes[0], volumes[1], atol=1e-6 + 2e-3 * volumes[0].max())
