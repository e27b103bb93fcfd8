"""Walls as regions, time along corners, the report, and the order of remarks."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely

from bastler.job import plan
from bastler.nc import Control, read
from bastler.proof import Prover, Remark, scene_of
from bastler.proof.clockwork import event_times, move_times
from bastler.proof.mill.strokes import Sweep, below, paths_at
from bastler.proof.mill.walls import Wall, faults, gouged_at, left_at, levels_of, wanted_at
from bastler.proof.remark import sorted_remarks
from bastler.proof.report import report
from bastler.proof.scrub import moment_at
from bastler.shapes import Box, Flat, Revolved
from bastler.steps import Facing, RectangularPocket
from bastler.tools import Tool, shop_crib
from conftest import job_of, proof_of

PLAN = shapely.box(0, 0, 60, 40)
END10: Any = next(t for t in shop_crib("mm") if t.id == "end-10")
DRILL: Any = next(t for t in shop_crib("mm") if t.id == "drill-10")
START = "G21 G90 G94 G17\nT1 M6\nS1000 M3\nG54 G0 X10 Y10\nG43 H1 Z5\n"


def trace_of(text: str):
    return read(START + text, Control(home=(0, 0, 300), reaches={1: (0.0, 0.0, 100.0)}, tool_offsets={1: (0.0, 0.0, 100.0)}))


def region(text: str, level: float, tool=END10):
    trace = trace_of(text)
    rows = np.concatenate(below(trace, 0, len(trace), level, 1.0))
    return shapely.union_all(Sweep.along(paths_at(trace, rows, level, tool.profile), 1.0).regions)


def test_strokes_have_the_area_of_what_a_disc_sweeps() -> None:
    assert region("G1 Z-2 F100\nX40\n", -1.0).area == pytest.approx(math.pi * 25 + 30 * 10, rel=2e-4)
    assert region("G1 Z-2 F100\nG3 X30 Y10 I10 J0\n", -1.0).area == pytest.approx(
        math.pi * (15**2 - 5**2) / 2 + math.pi * 25, rel=2e-4
    )
    assert region("G1 Z-2 F100\nG2 I10 J0\n", -1.0).area == pytest.approx(math.pi * (15**2 - 5**2), rel=2e-4)
    assert region("G1 Z-2 F100\nG3 X14 I2 J0\n", -1.0).area > math.pi * 25


def test_only_what_is_below_the_level_counts() -> None:
    assert region("G1 Z-2 F100\nX40\n", -2.5).is_empty
    half = region("G1 Z0 F100\nX40 Z-6\n", -3.0)
    assert half.bounds[0] == pytest.approx(25 - 5, abs=1e-3)


def test_a_cone_is_as_wide_as_it_is_there() -> None:
    slope = math.tan(math.radians(59))
    assert region("G1 Z-4 F100\n", -2.5, DRILL).area == pytest.approx(math.pi * (1.5 * slope) ** 2, rel=2e-3)
    assert region("G1 Z-9 F100\n", -2.5, DRILL).area == pytest.approx(math.pi * 25, rel=5e-4)


def strokes(*regions: shapely.Polygon) -> list[Sweep]:
    return [Sweep.of(shapely.to_wkb(one), np.array([one], dtype=object), np.array([one.bounds])) for one in regions]


def wall(wanted, allowed=None):
    return Wall(plan=PLAN, wanted=wanted, allowed=allowed or wanted, floor=-5.0, upper=0.0, tolerance=0.01, band=0.3)


def test_left_and_gouge_at_a_wall_are_told_with_their_thickness() -> None:
    pocket = shapely.box(10, 10, 40, 30)
    exact = strokes(pocket)
    assert left_at(wall(pocket), exact) == gouged_at(wall(pocket), exact) == []
    short = left_at(wall(pocket), strokes(shapely.box(10, 10, 39.8, 30)))
    assert short[0].by == pytest.approx(0.2, rel=0.15)
    assert short[0].area == pytest.approx(4.0, rel=0.05)
    assert short[0].height == 5.0
    far = gouged_at(wall(pocket), strokes(shapely.box(10, 10, 40.5, 30)))
    assert far[0].by == pytest.approx(0.5, rel=0.15)
    within = gouged_at(wall(pocket), strokes(shapely.box(10, 10, 40.004, 30)))
    assert within == []


def test_the_same_strokes_are_told_apart_by_walls_and_by_what_else_is_swept() -> None:
    """Answers are remembered by keys: another wall, another stroke beside, another place is another question."""
    pocket, wider = shapely.box(10, 10, 40, 30), shapely.box(10, 10, 41, 30)
    exact, half, rest = strokes(pocket), strokes(shapely.box(10, 10, 25, 30)), strokes(shapely.box(25, 10, 40, 30))
    for _ in range(2):
        assert left_at(wall(pocket), exact) == gouged_at(wall(pocket), exact) == []
        assert left_at(wall(wider), exact)
        assert gouged_at(wall(shapely.box(10, 10, 39, 30)), exact)
        assert left_at(wall(pocket), half)
        assert left_at(wall(pocket), rest)
        assert left_at(wall(pocket), [*half, *rest]) == []
        assert left_at(wall(pocket), [])


def test_a_key_for_paths_knows_everything_but_a_depth_that_makes_no_difference() -> None:
    def key(text: str, tool: Tool = END10) -> bytes:
        trace = trace_of("G1 Z-2 F100\n" + text)
        return paths_at(trace, np.arange(len(trace))[-1:], -1.5, tool.profile).key

    assert key("X40") == key("F200 X40") == key("Z-3\nX40")
    assert key("Z-3\nX40", DRILL) != key("Z-4\nX40", DRILL)
    assert key("Z-9\nX40", DRILL) == key("Z-9.5\nX40", DRILL)
    others = ["X40", "X41", "X40 Y11", "G3 X30 Y10 I10", "G2 X30 Y10 I10", "G2 X30 Y10 R11", "G2 I10", "Y20", "X40 Z0", "X40 Z1"]
    assert len({key(text) for text in others}) == len(others)


def test_the_same_numbers_in_another_unit_are_other_strokes() -> None:
    """A chord may be a thousandth of a millimetre off, in inches too: what was found of one says nothing of the other."""
    trace = trace_of("G1 Z-2 F100\nG3 X30 Y10 I10 J0\n")
    paths = paths_at(trace, np.arange(len(trace)), -1.0, END10.profile)
    mm, inch = Sweep.along(paths, 1.0), Sweep.along(paths, 1 / 25.4)
    assert mm.key != inch.key
    assert not (mm.made_of == inch.made_of).all(axis=1).any()
    assert shapely.get_num_coordinates(inch.regions).sum() > shapely.get_num_coordinates(mm.regions).sum()


def test_there_is_no_wall_at_the_edge_of_the_stock() -> None:
    slot = shapely.box(0, 10, 60, 20)
    over = strokes(shapely.box(-8, 10, 68, 20))
    assert left_at(wall(slot), over) == gouged_at(wall(slot), over) == []


def test_specks_thinner_than_the_tolerance_do_not_count() -> None:
    assert faults("left", shapely.box(0, 0, 0.008, 30), 0.01, 0.0, 1.0) == []
    assert len(faults("left", shapely.box(0, 0, 0.02, 30), 0.01, 0.0, 1.0)) == 1


def test_levels_and_regions_of_the_wanted_shape() -> None:
    top, pocket = Flat(PLAN, 0.0), Flat(shapely.box(10, 10, 40, 30), -5.0)
    hole = Revolved(50.0, 20.0, ((0.0, -12.0), (4.0, -9.0)))
    assert levels_of([top, pocket, hole], 1.0) == [(-5.0, 0.0), (0.0, 1.0)]
    assert levels_of([top, pocket, hole], 0.001, 0.004) == [(-5.0, 0.0)]
    assert wanted_at([top, pocket, hole], -4.9).area == pytest.approx(600 + math.pi * 16, rel=1e-3)
    assert wanted_at([pocket, hole], -10.5).area == pytest.approx(math.pi * 4, rel=1e-3)
    assert wanted_at([top], -1.0).is_empty


def times(text: str, **card: Any):
    own = scene_of(plan(job_of())).card
    trace = trace_of(text)
    import msgspec

    return trace, move_times(trace, msgspec.structs.replace(own, **card) if card else own)


def test_a_straight_line_in_pieces_takes_as_long_as_whole() -> None:
    _, whole = times("G1 X110 F6000\n")
    _, pieces = times("G1 F6000\n" + "".join(f"X{10 + k}\n" for k in range(1, 101)))
    assert float(pieces[2:].sum()) == pytest.approx(float(whole[2:].sum()), rel=1e-6)


def test_a_sharp_corner_costs_time_and_a_blunt_one_little() -> None:
    _, straight = times("G1 X60 F6000\nX110\n")
    _, blunt = times("G1 X60 F6000\nX110 Y14\n")
    _, square = times("G1 X60 F6000\nY60\n")
    _, back = times("G1 X60 F6000\nX10\n")
    assert straight.sum() < blunt.sum() < square.sum() < back.sum()


def test_no_move_is_faster_than_its_speed_and_a_small_arc_slows_down() -> None:
    trace, taken = times("G1 X110 F6000\nG3 X110 Y11 I0 J0.5\nG0 X0\n")
    lengths = trace.lengths()
    top = np.where(trace.kind == 0, 24000.0, 6000.0) / 60
    assert (taken + 1e-9 >= lengths / top).all()
    assert float(lengths[-2] / taken[-2]) <= math.sqrt(3000 * 0.5) + 1e-6


def test_dwells_and_tool_changes_stand_between_the_moves() -> None:
    trace = trace_of("G4 P2.5\nG1 X40 F100\n")
    waits = event_times(trace, scene_of(plan(job_of())).card)
    assert waits.sum() == pytest.approx(6.0 + 2.5)
    assert waits[2] == pytest.approx(2.5)


def test_stepping_on_and_back_meets_every_move() -> None:
    proof = proof_of(job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20)), 0.5)
    for k in range(len(proof.trace)):
        end = float(proof.starts[k] + proof.lasts[k])
        moment = moment_at(proof, end)
        if proof.lasts[k] > 0:
            assert moment.move == k
            assert moment.share == 1.0
            assert moment.tip == pytest.approx(tuple(proof.trace.end[k]))
    halfway = moment_at(proof, float(proof.starts[5] + proof.lasts[5] / 2))
    assert halfway.share == pytest.approx(0.5)
    assert moment_at(proof, 1e9).time == proof.total


def test_remarks_come_in_the_order_of_their_weight() -> None:
    mixed: list[Any] = [("note", 1), ("stop", 9), ("caution", 4), ("stop", 2)]
    made = [Remark(level=level, code="c", text="t.", line=line) for level, line in mixed]
    assert [(r.level, r.line) for r in sorted_remarks(made)] == [("stop", 2), ("stop", 9), ("caution", 4), ("note", 1)]


def test_the_report_measures_floors() -> None:
    proof = proof_of(job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20, depth=4.321)), 0.2)
    sizes = {s["step"]: s for s in report(proof)["sizes"]}
    assert sizes["b"]["wanted"] == pytest.approx(-4.321)
    assert sizes["b"]["measured"] == pytest.approx(-4.321, abs=1e-6)
    assert sizes["f"]["measured"] == 0.0


def test_a_proof_does_not_change_when_a_later_one_is_made() -> None:
    """The prover writes its working field over; what it gave away stays as it was."""
    prover, job = Prover(0.25), job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20))
    first: Any = prover.prove(plan(job)).first
    before, kept = first.after(0).copy(), first.after(1).copy()
    prover.prove(plan(job_of(Facing(id="f", finish_z=-2.0), RectangularPocket(id="b", x=20, y=20, depth=9.0))))
    assert np.array_equal(first.after(0), before)
    assert np.array_equal(first.after(1), kept)
    assert np.array_equal(first.heights, first.after(len(first.stages) - 1))
    assert replace(first, took=0.0).removed == first.removed


def test_two_jaws_and_a_box_have_volumes() -> None:
    assert Box((0, 0, 0), (2, 3, 4)).volume == 24
    assert Box((0, 0, 0), (2, 3, 4)).centre == (1, 1.5)


@pytest.mark.parametrize(
    ("unit", "depth", "high"),
    [("mm", 5.0, 1.23456), ("mm", 5.00049, 1.2), ("mm", 1.2003, 1.2), ("inch", 0.2, 5 / 64), ("inch", 13 / 64, 0.05905511811)],
)
def test_depths_that_a_program_rounds_are_no_faults_of_walls(unit: str, depth: float, high: float) -> None:
    """The floor of the shallow pocket lies by its rounding below where the walls of the deep one were looked at: *gouged*, by as
    much as the one is wider than the other."""
    u = 1.0 if unit == "mm" else 1 / 25.4
    wide = RectangularPocket(id="a", x=30 * u, y=20 * u, length=44 * u, width=30 * u, corner_radius=6 * u, depth=high)
    deep = RectangularPocket(id="b", x=30 * u, y=20 * u, length=24 * u, width=20 * u, corner_radius=6 * u, depth=depth, top=-high)
    job = job_of(Facing(id="f"), wide, deep, unit=unit, size_x=60 * u, size_y=40 * u, size_z=20 * u, over_top=1 * u)
    proof = proof_of(job, 0.3)
    assert not [t.text for step in plan(job).steps for t in step.troubles]
    assert not {r.code for r in proof.remarks} & {"gouge", "left"}
    assert not proof.comparison.walls
