"""What of the stock a run of moves depends on, and the states that tell whether it has changed."""

from __future__ import annotations

import dataclasses
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import plan
from bastler.nc import Control, Trace, read
from bastler.proof.mill.bands import Ground
from bastler.proof.mill.field import FLAT_UNDER, Grid
from bastler.proof.mill.scene import mill_scene
from bastler.proof.mill.section import prove_section
from bastler.proof.mill.tiles import SIDE, Tiles, reached
from bastler.shapes import Box
from bastler.tools import shop_crib
from conftest import job_of

GRID = Grid.over(Box((0.0, 0.0, -10.0), (60.0, 40.0, 0.0)), 0.2, 1.0)
SCENE = mill_scene(plan(job_of()))
TOOL: Any = next(t for t in shop_crib("mm") if t.id == "end-6")


def traced(*lines: str) -> Trace:
    control = Control()
    return read("\n".join(["G21 G90 G17 G94", "S1000 M3", "G0 X-50 Y-50 Z50", *lines]), control)


def masks(*lines: str, tool: Any = TOOL):
    trace = traced(*lines)
    return reached(trace, 0, len(trace), tool, GRID)


def test_a_move_reaches_its_own_tiles() -> None:
    cuts, feels = masks("G0 X10 Y10", "G1 Z-2 F100", "X20", "G0 Z50")
    side = SIDE * GRID.cell
    rows, columns = np.nonzero(cuts)
    assert columns.min() == int((10 - 3) / side)
    assert columns.max() == int((20 + 3 + 0.4) / side)
    assert rows.min() == int((10 - 3 - 0.4) / side)
    assert np.array_equal(cuts, feels)  # so high up, neither shank nor holder comes near


def test_in_the_air_nothing_is_reached() -> None:
    cuts, feels = masks("G0 X10 Y10", "G1 Z1 F100", "X50", "G0 Z50")
    assert not cuts.any()
    assert not feels.any()


def test_a_holder_feels_more_than_the_cutter_cuts() -> None:
    stubby = msgspec.structs.replace(TOOL, flute_length=2.0, stick_out=4.0)
    cuts, feels = masks("G0 X30 Y20", "G1 Z-6 F100", "G0 Z50", tool=stubby)
    assert feels.sum() > cuts.sum()
    assert (feels | cuts).sum() == feels.sum()


@given(
    st.lists(st.tuples(st.floats(-5, 65), st.floats(-5, 45), st.floats(-9, 3)), min_size=1, max_size=6),
    st.lists(st.tuples(st.floats(5, 30), st.floats(5, 30)), max_size=2),
)
def test_nothing_is_cut_outside_of_the_tiles(places: list[tuple[float, float, float]], arcs: list[tuple[float, float]]) -> None:
    """Whatever the moves: what they change of a field lies in the tiles they are said to cut."""
    lines = [f"G1 X{x:.3f} Y{y:.3f} Z{z:.3f} F100" for x, y, z in places]
    lines += [f"G2 I{i - 15:.3f} J{j - 15:.3f} Z-4" for i, j in arcs]
    trace = traced(*lines)
    cuts, _ = reached(trace, 0, len(trace), TOOL, GRID)
    field, number = GRID.fresh(), int(trace.tool[0])
    scene = dataclasses.replace(SCENE, tools={number: msgspec.structs.replace(TOOL, station=number)})
    prove_section(
        scene,
        Ground(GRID, field, np.zeros_like(field), FLAT_UNDER),
        np.float32(0.0),
        trace,
        0,
        len(trace),
        np.zeros(len(trace)),
        np.zeros(1, np.uint8),
        cuts,
    )
    rows, columns = np.nonzero(field < 0.0)
    assert cuts[rows // SIDE, columns // SIDE].all()


def test_states_tell_runs_apart_by_where_and_in_what_order_they_were() -> None:
    first, second, other = Tiles(GRID), Tiles(GRID), Tiles(GRID)
    here = np.zeros_like(first.states, bool)
    there = here.copy()
    here[0, 0] = there[0, 1] = True
    first.cut(here, b"a" * 8)
    first.cut(here, b"b" * 8)
    second.cut(here, b"b" * 8)
    second.cut(here, b"a" * 8)
    other.cut(here, b"a" * 8)
    other.cut(there, b"b" * 8)
    assert first.under(here) != second.under(here)  # the order counts
    assert first.under(here) != other.under(here)
    assert first.under(there) == second.under(there)  # nothing was there
    assert first.under(there) != other.under(there)


@pytest.mark.parametrize("size", [(60.0, 40.0), (3.0, 2.0), (200.0, 7.0)])
def test_all_of_a_part_has_tiles(size: tuple[float, float]) -> None:
    grid = Grid.over(Box((0.0, 0.0, -5.0), (*size, 0.0)), 0.2, 1.0)
    rows, columns = Tiles(grid).states.shape
    assert rows * SIDE >= grid.ny
    assert columns * SIDE >= grid.nx
