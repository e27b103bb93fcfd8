"""Milled parts with more than one holding: turned over, gripped again, each beginning with the part as cut so far."""

from __future__ import annotations

import itertools
import json
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, JobFileError, answering, edits, new_job, plan, read_job_text
from bastler.job.files import job_text
from bastler.job.part import UNCUT, FlatView, lowest, slab
from bastler.job.samples import sample
from bastler.nc import read
from bastler.post import Program, post
from bastler.proof import prove_job, prove_whole, scene_of
from bastler.proof.mill.field import FLAT_UNDER, Begins, Grid
from bastler.proof.mill.mesh import mesh
from bastler.proof.mill.sweeping import grid_array, nowhere, run_segments
from bastler.proof.report import report_whole
from bastler.shapes import AS_FIRST, Box, Flat, Lie, PointsPattern, Revolved, Way, height_at
from bastler.steps import Drilling, Facing, RectangularPocket, RoundPocket, Step, Tapping
from conftest import job_of, job_with, many

SIZE = (80.0, 60.0, 38.0)
"""Of the block: 1 too much on top, 9 below, so that the part is 28 high."""
CORNERS = PointsPattern(id="p", name="corners", points=((12.0, 12.0), (68.0, 12.0), (12.0, 48.0), (68.0, 48.0)))
FACE = Facing(id="f")
POCKET = RectangularPocket(id="b", x=40, y=30, length=30.0, width=20.0, depth=10.0, corner_radius=6.0)
WELL = RoundPocket(id="w", x=40, y=30, diameter=26.0, depth=12.0)
BACK = Facing(id="f2")


def two_sided(first: list[Step], second: list[Step], follows: str = "over-x", **answers: Any) -> Job:
    """A block worked on from both sides, the first in a vise by 6."""
    block: dict[str, Any] = {"size_x": SIZE[0], "size_y": SIZE[1], "size_z": SIZE[2], "over_top": 1.0, "over_bottom": 9.0}
    job = job_of(*first, patterns=(CORNERS,), **(block | {"vise": "yes", "grip": 6.0} | answers))
    job, ident = edits.holding_added(job, follows)  # type: ignore[arg-type]
    held = msgspec.structs.replace(job.holding(ident), steps=tuple(second))  # type: ignore[type-var]
    return msgspec.structs.replace(job, holdings=(job.holdings[0], held))


def end_volume(proof: Any) -> float:
    """What is there at the end, from the field of a holding."""
    under = proof.under if len(proof.under) else np.full_like(proof.heights, proof.grid.bottom)
    return float(np.maximum(proof.heights - under, 0.0).sum() * proof.grid.area)


def codes(whole: Any, *levels: str) -> set[str]:
    return {r.code for r in whole.remarks if not levels or r.level in levels}


# -- both sides ----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("follows", ["over-x", "over-y"])
def test_both_sides_are_proved_and_their_volumes_are_exact(follows: str) -> None:
    whole = prove_whole(plan(two_sided([FACE, POCKET], [BACK, WELL], follows)), cell_mm=0.1)
    assert whole.verdict == "proved", whole.remarks
    rounded = 30 * 20 - (4 - np.pi) * 36
    over, under = (80 * 60 * 1.0 + 10 * rounded), (80 * 60 * 9.0 + 12 * np.pi * 13**2)
    first, second = whole.holdings
    assert first.removed == pytest.approx(over, rel=0.002)
    assert second.removed == pytest.approx(under, rel=0.002)
    assert end_volume(second) == pytest.approx(np.prod(SIZE) - over - under, rel=0.002)


def test_pockets_that_meet_from_both_sides_take_what_is_there_once() -> None:
    """The well goes 20 deep into a part 28 high that has a pocket of 10 on its other side: two of its depth are there already."""
    deep = msgspec.structs.replace(WELL, depth=20.0, diameter=16.0)
    whole = prove_whole(plan(two_sided([FACE, POCKET], [BACK, deep])), cell_mm=0.1)
    assert whole.verdict == "proved", whole.remarks
    taken = 80 * 60 * 9.0 + 18 * np.pi * 8**2
    assert whole.holdings[1].removed == pytest.approx(taken, rel=0.002)


@pytest.mark.parametrize("follows", ["over-x", "over-y"])
def test_holes_drilled_from_both_sides_meet(follows: str) -> None:
    drill = Drilling(id="d", pattern="p", diameter=6.8, depth=15.0)
    job = two_sided([FACE, drill], [BACK, msgspec.structs.replace(drill, id="d2")], follows)
    whole = prove_whole(plan(job), cell_mm=0.1)
    assert whole.verdict == "proved", whole.remarks
    assert end_volume(whole.holdings[1]) == pytest.approx(80 * 60 * 28 - 4 * 28 * np.pi * 3.4**2, rel=0.001)


def test_another_grip_on_the_same_side_goes_on_where_the_first_one_ended() -> None:
    job = two_sided([FACE, POCKET], [msgspec.structs.replace(WELL, depth=14.0, diameter=16.0)], "same", bottom_comes="stays")
    planned = plan(job)
    well: Any = planned.step("w").filled
    assert well.top == pytest.approx(-10.0), "it starts on the floor of the pocket that the first holding made"
    whole = prove_whole(planned, cell_mm=0.1)
    assert whole.verdict == "proved", whole.remarks
    assert whole.holdings[1].removed == pytest.approx(14 * np.pi * 8**2, rel=0.01)


def test_nothing_of_the_thickness_is_typed_twice() -> None:
    """Zero on the finished top of the other side: a floor 12 deep there is 16 over the first side's top."""
    planned = plan(two_sided([FACE], [BACK, WELL]))
    first, second = planned.holdings
    assert second.stock.thickness == 28.0
    assert second.flat.stock.hi[2] == pytest.approx(9.0)
    assert second.flat.stock.lo[2] == pytest.approx(-29.0)
    face: Any = second.steps[0].filled
    assert face.finish_z == 0.0
    assert lowest(second.flat.stock, FlatView((), tuple(second.flat.under))) == pytest.approx(-28.0)
    assert second.flat.jaws[0].hi[2] == pytest.approx(-28.0 + (second.vise.grip or 0.0))
    assert first.number + 10 == second.number


def test_a_change_of_the_first_side_is_seen_by_the_second_at_once() -> None:
    job = two_sided([FACE, POCKET], [BACK, WELL])
    known = plan(job)
    deeper = answering.answered(job, "step:b.depth", 16.5)
    again, fresh = plan(deeper, known), plan(deeper)
    for one, other in zip(again.steps, fresh.steps, strict=True):
        assert one.stages == other.stages
        assert one.flat.under == other.flat.under
    whole = prove_whole(again, cell_mm=0.2)
    assert report_whole(whole) == report_whole(prove_whole(fresh, cell_mm=0.2))
    assert whole.holdings[1].removed < prove_whole(known, cell_mm=0.2).holdings[1].removed, "half a millimetre is there no more"


# -- planted faults ------------------------------------------------------------------------------------------------


def spoilt(job: Job, place: int, old: str, new: str) -> Any:
    """A job proved with one text in the place of another in the program of a holding."""
    planned = plan(job)
    text = post(planned.holdings[place]).text
    assert old in text
    return prove_whole(planned, {place: Program.foreign(text.replace(old, new))}, cell_mm=0.2)


def test_turned_over_about_the_wrong_axis_is_found() -> None:
    """A hole that goes through is tapped from the other side, where turning over about X brings it. About Y it is not there."""
    one, other = (PointsPattern(id=i, name=i, points=((12.0, y),)) for i, y in (("p", 12.0), ("q", 48.0)))
    drill = Drilling(id="d", pattern="p", diameter=6.8, extent="through")
    tap = Tapping(id="t", pattern="q", depth=16.0)
    right, wrong = (
        msgspec.structs.replace(two_sided([FACE, drill], [BACK, tap], follows, vise="no"), patterns=(one, other))
        for follows in ("over-x", "over-y")
    )
    assert prove_whole(plan(right), cell_mm=0.25).proved, prove_whole(plan(right), cell_mm=0.25).remarks
    spoilt = prove_whole(plan(wrong), {1: post(plan(right).holdings[1])}, cell_mm=0.25)
    assert not spoilt.proved
    assert codes(spoilt, "stop") >= {"tap-bottoming"}
    assert not prove_whole(plan(wrong), cell_mm=0.25).proved


def test_a_part_made_too_thin_is_gouged() -> None:
    whole = spoilt(two_sided([FACE, POCKET], [BACK]), 1, "G1 Z0 F", "G1 Z-0.4 F")
    assert not whole.proved
    assert "gouge" in {r.code for r in whole.holdings[1].remarks}
    assert whole.holdings[1].comparison.greatest("gouge") == pytest.approx(0.4, abs=1e-3)


def test_a_length_measured_wrong_on_the_other_side_is_found() -> None:
    """The offset of the second holding 0.3 too low: the floor of the well is too deep."""
    planned = plan(two_sided([FACE, POCKET], [BACK, WELL]))
    lines = [f"G52 Z-0.3\n{line}" if line.startswith("T1 M6") else line for line in post(planned.holdings[1]).lines]
    whole = prove_whole(planned, {1: Program.foreign("\n".join(lines))}, cell_mm=0.2)
    assert not whole.proved


@pytest.mark.parametrize(
    ("pocket", "code", "level"),
    [
        (RectangularPocket(id="b", x=40, y=30, length=60.0, width=56.0, depth=20.0), "jaw-on-pocket", "caution"),
        (RectangularPocket(id="b", x=40, y=30, length=70.0, width=80.0, depth=20.0), "jaw-on-nothing", "stop"),
        (RectangularPocket(id="b", x=40, y=54, length=30.0, width=40.0, depth=20.0), "", ""),
        (POCKET, "", ""),
    ],
)
def test_jaws_that_stand_on_what_is_no_longer_there_are_remarked_on(pocket: Step, code: str, level: str) -> None:
    job = two_sided([FACE, pocket], [BACK])
    whole = prove_whole(plan(job), cell_mm=0.4)
    found = {r.code: r.level for r in whole.holdings[1].remarks if r.code.startswith(("jaw-on", "grip"))}
    assert found == ({code: level} if code else {}), whole.remarks
    assert all(r.field.startswith("holding:h2.") for r in whole.holdings[1].remarks if r.code in found)


def test_a_grip_on_a_ledge_holds_too_little() -> None:
    """All round the first side is cut away 5 deep: of the 8 that the jaws take hold of only the 3 above that are as wide."""
    ring = RectangularPocket(id="r", x=40, y=-7, length=200.0, width=26.0, depth=5.0)
    back = RectangularPocket(id="s", x=40, y=67, length=200.0, width=26.0, depth=5.0)
    job = two_sided([FACE, ring, back], [BACK])
    job = answering.answered(job, "holding:h2.grip", 8.0)
    found = [r for r in prove_whole(plan(job), cell_mm=0.4).remarks if r.code == "grip-too-little"]
    assert {r.level for r in found} == {"caution"}
    assert [r.amount for r in found] == pytest.approx([3.0, 3.0])


# -- what is left, and by whom -------------------------------------------------------------------------------------


def test_what_is_too_much_below_is_taken_on_the_other_side_or_said() -> None:
    job = two_sided([FACE], [WELL])
    whole = prove_whole(plan(job), cell_mm=0.2)
    (left,) = [r for r in whole.remarks if r.code == "raw-left"]
    assert whole.verdict == "left"
    assert "underside" in left.text
    assert left.amount == pytest.approx(9.0)
    faced = edits.cured(job, left.cure.address, left.cure.value)
    assert [s.id for s in faced.holdings[1].steps][1:] == ["w"]
    assert type(faced.holdings[1].steps[0]) is Facing
    assert "raw-left" not in codes(prove_whole(plan(faced), cell_mm=0.2))
    stays = edits.cured(job, left.other.address, left.other.value)
    assert stays.stock.bottom_comes == "stays"
    assert codes(prove_whole(plan(stays), cell_mm=0.2), "note") >= {"raw-stays"}


def test_what_one_side_leaves_and_the_other_takes_is_not_left() -> None:
    """A slot that goes through, not deep enough from the first side: the facing of the other side takes the rest of it. A wall
    that is there no more at the end is nobody's fault either."""
    through = RectangularPocket(id="b", x=40, y=30, length=30.0, width=20.0, depth=37.0, corner_radius=6.0)
    job = two_sided([FACE, through], [BACK], vise="no")
    planned = plan(job)
    text = post(planned.first).text
    short = text.replace("Z-37", "Z-34")
    assert short != text
    whole = prove_whole(planned, {0: Program.foreign(short)}, cell_mm=0.2)
    assert "left" not in codes(whole), whole.remarks
    alone = prove_job(plan(msgspec.structs.replace(job, holdings=job.holdings[:1])), Program.foreign(short), cell_mm=0.2)
    assert "left" in {r.code for r in alone.remarks}


def test_what_nobody_takes_is_left_in_the_holding_that_promised_it() -> None:
    whole = spoilt(two_sided([FACE, POCKET], [BACK, WELL]), 0, "Z-10", "Z-9")
    assert "left" in {r.code for r in whole.holdings[0].remarks}
    assert "left" not in {r.code for r in whole.holdings[1].remarks}
    assert whole.verdict == "stop"


def test_an_allowance_of_the_first_side_that_nobody_takes_is_said_there() -> None:
    whole = prove_whole(plan(two_sided([POCKET], [BACK, WELL])), cell_mm=0.2)
    (left,) = [r for r in whole.remarks if r.code == "raw-left"]
    assert left in whole.holdings[0].remarks
    assert "on the top" in left.text
    assert left.amount == pytest.approx(1.0)


@pytest.mark.parametrize("sides", [0.0, 4.0])
def test_the_sides_are_looked_at_once_both_are_done(sides: float) -> None:
    """What is too much on the sides is milled from both: down to the jaws from the one, the rest from the other."""
    job = two_sided([FACE], [BACK], over_sides=sides)
    whole = prove_whole(plan(job), cell_mm=0.4)
    left = [r for r in whole.remarks if r.code == "raw-left"]
    assert bool(left) == (sides > 0)
    assert all("on the sides" in r.text for r in left)
    assert all(r in whole.holdings[1].remarks for r in left)


def test_one_of_several_parts_that_is_not_finished_is_not_excused_by_the_first() -> None:
    """On the second part of two the pocket is not deep enough; the first one is right, and so is its other side."""
    job = two_sided([FACE, POCKET], [BACK], parts="grid", columns=2, rows=1, part_order="parts", vise="no", machine="mill-old")
    planned = plan(job)
    assert len(planned.first.parts) == 2
    right = prove_whole(planned, cell_mm=0.4)
    assert right.proved, right.remarks
    text = post(planned.first).text
    half = text.index("G55")
    short = text[:half] + text[half:].replace("Z-10", "Z-9")
    assert short != text
    whole = prove_whole(planned, {0: Program.foreign(short)}, cell_mm=0.4)
    assert "left" in {r.code for r in whole.holdings[0].remarks}


@pytest.mark.parametrize("follows", ["over-x", "over-y"])
def test_a_disc_has_two_sides_too(follows: str) -> None:
    well = RoundPocket(id="w", x=0, y=0, diameter=20.0, depth=6.0)
    job = two_sided(
        [FACE, well],
        [BACK, edits.replace(well, id="w2")],
        follows,
        form="disc",
        diameter=60.0,
        zero="centre",
        vise="no",
        size_z=24.0,
    )
    job = answering.answered(answering.answered(job, "holding:h2.zero", "centre"), "holding:h2.vise", "no")
    whole = prove_whole(plan(job), cell_mm=0.15)
    assert whole.verdict == "proved", whole.remarks
    assert end_volume(whole.holdings[1]) == pytest.approx(np.pi * (900 * 14 - 2 * 6 * 100), rel=0.002)


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_every_answer_of_a_holding_arrives_so_that_it_proves(unit: str) -> None:
    job = new_job(unit)  # type: ignore[arg-type]
    job, _ = edits.step_added(job, "facing", "")
    job = answering.answered(job, "stock.over_bottom", 3.0 if unit == "mm" else 0.12)
    for follows in ("over-x", "same", "over-y"):
        job, ident = edits.holding_added(job, follows)
        if follows != "same":
            job, _ = edits.step_added(job, "facing", f"holding:{ident}")
        job, _ = edits.step_added(job, "round-pocket", "")
    whole = prove_whole(plan(job), cell_mm=0.5)
    assert whole.proved, whole.remarks
    assert len({held.number for held in plan(job).holdings}) == 4


# -- properties ----------------------------------------------------------------------------------------------------

places = st.tuples(st.integers(16, 64), st.integers(16, 44))
sizes = st.tuples(st.integers(18, 28), st.integers(18, 24), st.sampled_from([3.0, 7.5, 12.0]))


def pockets(stem: str) -> st.SearchStrategy[list[Step]]:
    def made(found: list[tuple[tuple[int, int], tuple[int, int, float]]]) -> list[Step]:
        return [
            RectangularPocket(id=f"{stem}{k}", x=x, y=y, length=a, width=b, depth=d, corner_radius=6.0)
            for k, ((x, y), (a, b, d)) in enumerate(found)
        ]

    return st.lists(st.tuples(places, sizes), min_size=1, max_size=2).map(made)


@settings(max_examples=many(8))
@given(
    first=pockets("a"),
    second=pockets("c"),
    follows=st.sampled_from(["over-x", "over-y"]),
    zero=st.sampled_from(["front-left", "centre", "back-right"]),
)
def test_random_two_sided_parts_prove_and_weigh_what_they_should(
    first: list[Step], second: list[Step], follows: str, zero: str
) -> None:
    """No rapid in material, nothing left that is reachable, no gouge; the volume is that of exact prisms."""
    job = two_sided([FACE, *first], [BACK, *second], follows, vise="no")
    job = answering.answered(answering.answered(job, "holding:h2.vise", "no"), "holding:h2.zero", zero)
    dx, dy = {"front-left": (0.0, 0.0), "centre": (-40.0, -30.0), "back-right": (-80.0, -60.0)}[zero]
    for step in second:
        job = answering.answered(answering.answered(job, f"step:{step.id}.x", step.x + dx), f"step:{step.id}.y", step.y + dy)  # type: ignore[attr-defined]
    planned = plan(job)
    whole = prove_whole(planned, cell_mm=0.2)
    assert not codes(whole, "stop", "open"), whole.remarks
    assert whole.verdict == "proved"
    assert end_volume(whole.holdings[1]) == pytest.approx(exact_volume(planned, follows, (dx, dy)), rel=0.002)


def exact_volume(planned: Any, follows: str, shift: tuple[float, float]) -> float:
    """Of the part, slice by slice: in every slice what neither side has taken. Seen as the first holding sees it, turned over by
    hand."""
    tops = [(r.region, r.floor) for r in planned.holdings[0].removals]
    unders = []
    for removal in planned.holdings[1].removals:
        back = shapely.affinity.translate(removal.region, -shift[0], -shift[1])
        turned = (
            shapely.affinity.scale(back, -1, 1, origin=(40, 30))
            if follows == "over-y"
            else shapely.affinity.scale(back, 1, -1, origin=(40, 30))
        )
        unders.append((turned, -28.0 - removal.floor))
    heights = sorted({-37.0, 1.0, *(f for _, f in tops), *(c for _, c in unders)})
    heights = [z for z in heights if -37.0 <= z <= 1.0]
    block, volume = shapely.box(0, 0, 80, 60), 0.0
    for low, high in itertools.pairwise(heights):
        gone = [r for r, floor in tops if floor <= low + 1e-9] + [r for r, ceiling in unders if ceiling >= high - 1e-9]
        volume += block.difference(shapely.union_all(gone)).area * (high - low)
    return volume


@settings(max_examples=many(25))
@given(st.data())
def test_a_cut_over_an_underside_is_the_cut_without_it_held_up(data: st.DataObject) -> None:
    """The field with an underside is the field without one, nowhere under it; what is taken is what stood over it."""
    grid = Grid.over(Box((0.0, 0.0, -10.0), (12.0, 9.0, 0.0)), 0.3, 1.0)
    random = np.random.default_rng(data.draw(st.integers(0, 10_000)))
    under = np.where(random.random((grid.ny, grid.nx)) < 0.3, random.uniform(-9, -1), -10.0).astype(np.float32)
    points = random.uniform((0, 0, -9), (12, 9, 0.5), (7, 3))
    segments = np.hstack([points[:-1], points[1:]])
    shape, body = (
        np.array([[1.5, 1.5, 0.0, 0.0], [1.5, 0.5, 1.0, 0.0]][data.draw(st.integers(0, 1))]),
        np.array([50.0, 1.5, 60.0, 4.0, 0.0]),
    )
    stop, rapid = np.zeros(1, np.uint8), np.zeros(len(segments), np.bool_)
    found = []
    for below in (FLAT_UNDER, under):
        field, out = grid.fresh(), np.zeros((len(segments), 5))
        run_segments(
            field,
            np.zeros_like(field),
            below,
            grid_array(grid),
            segments,
            rapid,
            shape,
            body,
            0,
            len(segments),
            out,
            np.float32(0.0),
            nowhere(),
            stop,
        )
        found.append((field, out))
    (bare, _), (held, out) = found
    assert np.allclose(held, np.maximum(bare, under), atol=1e-5)
    assert out[:, 0].sum() == pytest.approx(float((grid.fresh() - held).sum()) * grid.area, rel=0.05)
    assert (out[:, 1] <= found[0][1][:, 1] + 1e-5).all()


turns = st.lists(st.sampled_from(["x", "y"]), max_size=3)


@settings(max_examples=many(25))
@given(turns, turns, st.floats(-20, 20), st.floats(-20, 20), st.floats(-9, 9))
def test_the_way_there_and_back_is_no_way(out: list[Any], more: list[Any], x: float, y: float, z: float) -> None:
    here, there = Box((-3.0, -2.0, -10.0), (9.0, 6.0, 1.0)), Box((0.0, -8.0, -1.0), (12.0, 0.0, 10.0))
    lie, other = AS_FIRST, AS_FIRST
    for about in out:
        lie = lie.over(about)
    for about in more:
        other = other.over(about)
    assert lie.x * lie.y * lie.z == 1
    there_way, back = Way.between(here, lie, there, other), Way.between(there, other, here, lie)
    assert back.at(*there_way.at(x, y, z)) == pytest.approx((x, y, z))
    assert there_way.over == (lie.upside_down != other.upside_down)


@pytest.mark.parametrize("about", ["x", "y"])
def test_what_is_gone_is_seen_from_the_other_side_where_it_is(about: Any) -> None:
    """Heights at places, from above and from below, before and behind turning over."""
    box, turned = Box((0.0, 0.0, -10.0), (20.0, 10.0, 0.0)), Box((-10.0, -5.0, 0.0), (10.0, 5.0, 10.0))
    hole = Revolved(15.0, 7.0, ((0.0, -12.0), (2.0, -11.0)))
    blind, pocket = Revolved(4.0, 3.0, ((0.0, -6.0), (1.0, -5.0))), Flat(shapely.box(6.0, 1.0, 10.0, 4.0), -3.0)
    lie = AS_FIRST.over(about)
    view = UNCUT.without(box, AS_FIRST, (hole, blind, pocket)).seen(turned, lie)
    way = Way.between(box, AS_FIRST, turned, lie)
    for x, y in ((15.0, 7.0), (4.0, 3.0), (8.0, 2.0), (1.0, 9.0)):
        u, v, _ = way.at(x, y, 0.0)
        top = height_at((hole, blind, pocket), 0.0, x, y)
        assert -height_at(view.under, -turned.lo[2], u, v) == pytest.approx(way.at(x, y, top)[2])
    assert len(view.before) == 1, "only what goes through is open to the other side"
    assert height_at(view.before, turned.hi[2], *way.at(15.0, 7.0, 0.0)[:2]) <= turned.lo[2]
    twice = UNCUT.without(box, AS_FIRST, (hole, blind, pocket)).seen(box, lie.over(about))
    assert set(twice.before) >= {hole, blind} or all(
        height_at(twice.before, 0.0, x, y) == height_at((hole, blind, pocket), 0.0, x, y) for x, y in ((4.0, 3.0), (8.0, 2.0))
    )


def test_a_slab_is_what_stands_between_two_heights() -> None:
    box = Box((0.0, 0.0, -10.0), (10.0, 10.0, 0.0))
    view = FlatView((Flat(shapely.box(0, 0, 5, 10), -4.0),), (Flat(shapely.box(0, 0, 10, 2), 6.0),))
    found = slab(box, view, -8.0, -5.0)
    assert found.whole.area == pytest.approx(80.0)
    assert found.some.area == pytest.approx(100.0), "the ledge below ends at -6"
    assert slab(box, view, -3.0, -1.0).some.area == pytest.approx(50.0)
    assert lowest(box, FlatView((), (Flat(box.plan, 9.0),))) == pytest.approx(-9.0)


def test_a_field_carried_over_and_back_is_the_same() -> None:
    grid = Grid.over(Box((0.0, 0.0, -10.0), (12.0, 9.0, 0.0)), 0.5, 1.0)
    top = grid.fresh()
    top[3:7, 2:5] = -4.0
    top[1, 1] = -10.0
    begins = Begins(top, np.full_like(top, -10.0), b"a")
    here, there = Box((0.0, 0.0, -10.0), (12.0, 9.0, 0.0)), Box((-6.0, 0.0, 0.0), (6.0, 9.0, 10.0))
    other = Grid.over(there, 0.5, 1.0)
    way = Way.between(here, AS_FIRST, there, Lie(1, -1, -1))
    over = begins.carried(way, other, b"b")
    assert over.top[-2, 1] == over.under[-2, 1] == other.bottom, "a hole is a hole"
    assert over.under[-4, 3] == pytest.approx(4.0)
    back = over.carried(Way.between(there, Lie(1, -1, -1), here, AS_FIRST), grid, b"c")
    assert np.allclose(back.top, np.where(top <= -10.0, -10.0, top), atol=1e-5)


# -- what is seen --------------------------------------------------------------------------------------------------


def test_the_solid_of_a_part_with_two_sides_is_closed() -> None:
    """By the divergence theorem its faces hold the volume of the field, along every axis."""
    whole = prove_whole(
        plan(two_sided([FACE, POCKET, Drilling(id="d", pattern="p", diameter=6.8, depth=15.0)], [BACK, WELL])), cell_mm=0.5
    )
    proof: Any = whole.holdings[1]
    made = mesh(proof.grid, proof.heights, proof.under)
    corners = made.points[made.triangles].astype(float)
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / 2
    volumes = (corners.mean(axis=1) * areas).sum(axis=0)
    assert volumes == pytest.approx(np.full(3, end_volume(proof)), rel=0.01)
    flat = np.abs(made.normals[made.triangles[:, 0], 2]) == 1
    assert (np.sign(areas[flat, 2]) == made.normals[made.triangles[flat, 0], 2]).all(), "faces are wound as they are seen"


def test_the_section_shows_both_sides() -> None:
    planned = plan(two_sided([FACE, POCKET], [BACK, WELL]))
    cut: Any = planned.step("w").cutaway
    assert {round(z, 6) for _, z in cut.under} == {-28.0, -18.0}
    assert max(z for _, z in cut.now) == pytest.approx(0.0)
    assert min(z for _, z in cut.after) == pytest.approx(-12.0)
    assert [r.floor for r in cut.hidden] == pytest.approx([18.0])


# -- files and edits -----------------------------------------------------------------------------------------------


def test_holdings_are_kept_in_the_file() -> None:
    job = two_sided([FACE, POCKET], [BACK, WELL])
    assert read_job_text(job_text(job)) == job


@pytest.mark.parametrize(
    ("change", "word"),
    [
        (lambda raw: raw.update(holdings=[]), "length"),
        (
            lambda raw: raw.update(
                holdings=[raw["holdings"][0]] + [raw["holdings"][1] | {"id": f"k{k}", "steps": []} for k in range(12)]
            ),
            "length",
        ),
        (lambda raw: raw["holdings"][0].update(follows="over-x"), "first holding"),
        (lambda raw: raw["holdings"][1].update(follows="first"), "first holding"),
        (lambda raw: raw["holdings"][1].update(id="h1"), "twice"),
        (lambda raw: raw["holdings"][1].update(held="chuck"), ""),
        (lambda raw: raw["holdings"][1]["steps"][0].update(id="b"), "twice"),
    ],
)
def test_holdings_that_cannot_be_are_refused(change: Any, word: str) -> None:
    raw = json.loads(job_text(two_sided([FACE, POCKET], [BACK, WELL])))
    change(raw)
    with pytest.raises(JobFileError) as caught:
        read_job_text(json.dumps(raw).encode())
    assert word in caught.value.reason


def test_two_holdings_have_two_program_numbers() -> None:
    job = answering.answered(two_sided([FACE], [BACK]), "holding:h2.program_number", 1)
    (trouble,) = plan(job).troubles
    assert trouble.field == "holding:h2.program_number"
    assert plan(answering.answered(job, trouble.field, trouble.fits)).troubles == ()
    assert not prove_whole(plan(job), cell_mm=1.0).proved


def test_what_a_holding_follows_is_typed_as_it_is_read() -> None:
    job = two_sided([FACE], [BACK])
    for address, value in (("holding:h1.follows", "over-x"), ("holding:h2.follows", "first"), ("holding:h2.follows", "sideways")):
        with pytest.raises(answering.UnfitAnswer):
            answering.answered(job, address, value)
    assert answering.answered(job, "holding:h2.follows", "over-y").holdings[1].title == "Turned over about Y"


def test_steps_move_from_one_holding_to_the_other_and_back() -> None:
    job = two_sided([FACE, POCKET], [BACK, WELL])
    assert edits.route_of(job) == ["f", "b", "holding:h2", "f2", "w"]
    over = edits.step_moved(job, "b", 2)
    assert [[s.id for s in h.steps] for h in over.holdings] == [["f"], ["b", "f2", "w"]]
    assert edits.step_moved(over, "b", 1) == job
    assert [[s.id for s in h.steps] for h in edits.step_moved(job, "w", 0).holdings] == [["w", "f", "b"], ["f2"]]
    assert edits.step_moved(job, "w", 99) == job


def test_holdings_come_and_go() -> None:
    job = two_sided([FACE, POCKET], [BACK, WELL])
    third, ident = edits.holding_added(job, "same", "holding:h1")
    assert [h.id for h in third.holdings] == ["h1", ident, "h2"]
    assert plan(third).holdings[2].lie == Lie(1, -1, -1)
    assert edits.holding_removed(third, ident) == job
    assert edits.holding_removed(job, "h2").holdings == job.holdings[:1]
    for wrong in ("h1", "h9"):
        with pytest.raises(KeyError):
            edits.holding_removed(job, wrong)
    more, step = edits.step_added(job, "drilling", "holding:h1")
    assert more.holdings[0].steps[0].id == step
    last, step = edits.step_added(job, "slot", "")
    assert last.holdings[1].steps[-1].id == step


def test_a_step_added_behind_turning_over_fits_the_other_side() -> None:
    job = two_sided([FACE], [])
    for kind in ("facing", "rectangular-pocket", "drilling"):
        job, _ = edits.step_added(job, kind, "")
    whole = prove_whole(plan(job), cell_mm=0.3)
    assert whole.proved, whole.remarks


def test_the_bearing_cap_is_proved_on_both_sides() -> None:
    job = sample("bearing-cap")
    assert [h.title for h in job.holdings] == ["Held in a vise", "Turned over about X"]
    whole = prove_whole(plan(job))
    assert whole.verdict == "proved"
    assert whole.remarks == ()
    programs = [post(held) for held in plan(job).holdings]
    assert [read(p.text, scene_of(plan(job), k).control).findings for k, p in enumerate(programs)] == [(), ()]
    assert "HOLDING 2 OF 2, TURNED OVER ABOUT X" in programs[1].text


def test_the_other_holding_is_proved_with_its_own_program_while_one_is_from_elsewhere() -> None:
    job = two_sided([FACE, POCKET], [BACK, WELL])
    proof = prove_job(plan(job), Program.foreign("M30\n"), cell_mm=0.4, place=1)
    assert not proof.proved
    assert job_with(job, grip=7.0).holdings[1] == job.holdings[1]
