"""Setup, machine cards, planning: where the zero is, what is proposed, what is refused."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest
import shapely

from bastler.ask import questions_of
from bastler.job import ZERO_CHOICES, BlockStock, Plan, ViseHolding, edits, new_job, plan
from bastler.machines import CARDS
from bastler.proof import scene_of
from bastler.shapes import AS_FIRST, CirclePattern, PointsPattern
from bastler.steps import STEPS, Drilling, Facing, RectangularPocket, fill, trouble_with
from conftest import MILL_STEPS, context_of, job_of, proof_of, with_step


def top_of(planned: Plan, index: int) -> float:
    """The height a step begins at, as it was worked out."""
    step: Any = planned.steps[index].filled
    return float(step.top)


RING = CirclePattern(id="p", name="ring", x=30, y=20, diameter=24, count=6)


@pytest.mark.parametrize(
    ("zero", "lo"),
    [
        ("front-left", (-2, -2)),
        ("front-right", (-98, -2)),
        ("back-left", (-2, -58)),
        ("back-right", (-98, -58)),
        ("centre", (-50, -30)),
        ("own", (-12, -7)),
    ],
)
def test_the_zero_is_at_a_point_of_the_finished_block(zero: str, lo: tuple[float, float]) -> None:
    stock = BlockStock(size_x=100, size_y=60, size_z=30, over_sides=2, over_top=1, over_bottom=3)
    held = ViseHolding(zero=zero, zero_x=10, zero_y=5)  # type: ignore[arg-type]
    box = held.box(stock, AS_FIRST)
    assert box.lo == (*lo, -29)
    assert box.hi == (lo[0] + 100, lo[1] + 60, 1)
    bottom = msgspec.structs.replace(held, zero_z="bottom").box(stock, AS_FIRST)
    assert (bottom.lo[2], bottom.hi[2]) == (-3, 27)


@pytest.mark.parametrize("zero", ZERO_CHOICES)
@pytest.mark.parametrize("height", ["top", "bottom"])
def test_the_part_does_not_care_where_the_zero_is(zero: str, height: str) -> None:
    """The same features from another zero take the same volume, time and power."""
    own: dict[str, Any] = {"zero": zero, "zero_z": height, "zero_x": 7.0, "zero_y": 3.0}
    base = proof_of(job_of(Facing(id="f"), RectangularPocket(id="b", x=30, y=20)), 0.25)
    dx, dy = ViseHolding(**own).box(BlockStock(size_x=60.0, size_y=40.0, size_z=20.0), AS_FIRST).lo[:2]
    up = 19.0 if height == "bottom" else 0.0
    moved = proof_of(job_of(Facing(id="f", finish_z=up), RectangularPocket(id="b", x=30 + dx, y=20 + dy), **own), 0.25)
    assert moved.removed == pytest.approx(base.removed, rel=1e-3)
    assert moved.total == pytest.approx(base.total, abs=1.5)
    assert moved.remarks == ()


@pytest.mark.parametrize("machine", ["mill-600", "mill-old"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_new_job_is_provable_at_once(machine: str, unit: str) -> None:
    planned = plan(new_job(unit, machine))  # type: ignore[arg-type]
    assert planned.troubles == ()
    setup, ctx = planned.first.vise, planned.first.flat
    assert None not in (setup.safe, setup.clear, setup.grip, setup.offset_x, setup.offset_z)
    assert ctx.safe > ctx.go_across > ctx.stock.hi[2]
    scene = scene_of(planned)
    card = scene.card
    x = scene.zero[0] + ctx.stock.centre[0]
    assert x == pytest.approx((card.x.lo + card.x.hi) / 2, abs=0.01)
    assert card.z.lo < scene.zero[2] + ctx.stock.lo[2] < card.z.hi


@pytest.mark.parametrize(
    ("answers", "field"),
    [
        ({"over_top": 25.0}, "size_z"),
        ({"over_sides": 25.0}, "size_y"),
        ({"size_x": 5000.0}, "size_x"),
        ({"size_z": 0.01, "over_top": 0.0}, "size_z"),
        ({"safe": 0.5}, "safe"),
        ({"vise": "yes", "grip": 30.0}, "grip"),
    ],
)
def test_a_setup_that_cannot_be_is_said_and_nothing_is_cut(answers: dict, field: str) -> None:
    planned = plan(job_of(Facing(id="f"), **answers))
    assert field in {t.field.rpartition(".")[2] for t in planned.troubles}
    assert all(not step.stages for step in planned.steps)
    assert not proof_of(job_of(Facing(id="f"), **answers), 1.0).proved


def test_jaws_stand_in_front_and_behind() -> None:
    job = job_of(vise="yes", grip=6.0, jaw_width=50.0)
    front, back = context_of(job).jaws
    assert front.hi[1] == 0.0
    assert back.lo[1] == 40.0
    assert front.hi[2] == back.hi[2] == -13.0
    assert (front.lo[0], front.hi[0]) == (5.0, 55.0)


@pytest.mark.parametrize("card", CARDS.values(), ids=lambda c: c.id)
def test_a_card_means_the_same_in_inches(card) -> None:
    inch = card.in_unit("inch")
    assert inch.x.hi * 25.4 == pytest.approx(card.x.hi)
    assert inch.rapid * 25.4 == pytest.approx(card.rapid)
    assert inch.power == card.power
    assert inch.in_unit("mm").home == pytest.approx(card.home)


def test_the_surface_a_step_starts_on_is_what_the_ones_before_left() -> None:
    pocket = RectangularPocket(id="b", x=30, y=20, length=40, width=30, corner_radius=8, depth=5)
    inner = RectangularPocket(id="c", x=30, y=20, length=20, width=12, corner_radius=4, depth=2)
    half_out = RectangularPocket(id="d", x=48, y=20, length=20, width=12, corner_radius=4, depth=2)
    planned = plan(job_of(Facing(id="f"), pocket, inner, half_out))
    tops = {p.step.id: getattr(p.filled, "top", None) for p in planned.steps}
    assert tops == {"f": None, "b": 0.0, "c": -5.0, "d": 0.0}
    off = plan(job_of(Facing(id="f", on=False), pocket))
    assert top_of(off, 1) == 1.0


def test_a_region_that_only_touches_has_the_surface_of_neither() -> None:
    """Along an edge alone there is no stock to ask about: a deep pocket far away must not answer for it."""
    deep = RectangularPocket(id="b", x=15, y=15, length=20, width=16, corner_radius=6, depth=15)
    beside = RectangularPocket(id="c", x=35, y=15, length=20, width=16, corner_radius=6, depth=2)
    planned = plan(job_of(Facing(id="f"), deep, beside))
    assert top_of(planned, 2) == 0.0
    ctx = planned.steps[2].flat
    stock = ctx.stock
    x, y, _ = stock.lo
    assert ctx.surface(shapely.box(x - 10, y, x, y + 10)) == stock.hi[2], "it touches the stock along a side"
    assert ctx.surface(shapely.box(x - 10, y, x + 1e-9, y + 10)) == stock.hi[2]
    assert ctx.surface(shapely.box(10, 10, 20, 20)) == -15.0


@pytest.mark.parametrize(
    ("step", "field", "fits"),
    [
        (Facing(id="a", finish_z=-30.0), "finish_z", None),
        (Facing(id="a", finish_z=2.0), "finish_z", None),
        (Facing(id="a", tool="drill-5"), "tool", "face-50"),
        (Facing(id="a", ae=60.0), "ae", 35.0),
        (Facing(id="a", ap=0.0001), "ap", None),
        (RectangularPocket(id="a", x=30, y=20, corner_radius=20, width=25), "corner_radius", 12.5),
        (RectangularPocket(id="a", x=30, y=20, depth=60), "depth", 20.0),
        (RectangularPocket(id="a", x=30, y=20, corner_radius=1.0), "tool", None),
        (RectangularPocket(id="a", x=30, y=20, tool="drill-10"), "tool", "end-10"),
        (RectangularPocket(id="a", x=30, y=20, tool="ball-8"), "finish_tool", "end-10"),
        (RectangularPocket(id="a", x=30, y=20, tool="end-10", ae=9.5), "ae", 9.0),
        (
            RectangularPocket(id="a", x=30, y=20, length=40, width=10.4, corner_radius=5, tool="end-10", finish="no"),
            "entry",
            "ramp",
        ),
        (
            RectangularPocket(
                id="a", x=30, y=20, length=10.8, width=10.8, corner_radius=5, tool="end-10", entry="ramp", finish="no"
            ),
            "entry",
            "plunge",
        ),
        (RectangularPocket(id="a", x=30, y=20, n=50_000.0), "n", 12000),
        (Drilling(id="a", pattern="none"), "pattern", None),
        (Drilling(id="a", pattern="p", diameter=7.0), "diameter", 6.8),
        (Drilling(id="a", pattern="p", tool="drill-5"), "tool", "drill-6.8"),
        (Drilling(id="a", pattern="p", depth=19.5), "depth", None),
        (Drilling(id="a", pattern="p", spot_diameter=14.0), "spot_diameter", 10.0),
        (Drilling(id="a", pattern="p", spot_tool="end-6"), "spot_tool", "spot-10"),
        (Drilling(id="a", pattern="p", peck=0.001), "peck", None),
    ],
    ids=lambda value: getattr(value, "id", None) and type(value).__name__,
)
def test_contradictions_are_named_with_what_would_do(step, field: str, fits: object) -> None:
    ctx = context_of(job_of(patterns=(RING,)))
    found = {t.field: t for t in trouble_with(step, ctx)}
    assert field in found, found
    assert found[field].text.endswith(".")
    if fits is not None:
        assert found[field].fits == fits


@pytest.mark.parametrize("kind", [STEPS[tag] for tag in MILL_STEPS], ids=lambda k: k.tag)
def test_every_step_declares_itself_whole(kind) -> None:
    """Groups are listed, words are there, dimensions are questions, computed answers can be computed."""
    job, ident = with_step(job_of(Facing(id="f")), kind.tag, "f")
    planned = plan(job).step(ident)
    assert planned is not None
    assert planned.troubles == ()
    asked = {q.name: q for q in questions_of(kind.cls)}
    assert {q.group for q in asked.values()} <= set(kind.cls.all_groups())
    assert all(q.says and q.says[0].isupper() for q in asked.values())
    for name, question in asked.items():
        if question.asked(planned.filled):
            assert getattr(planned.filled, name) is not None, name
        if question.kind is None:
            assert question.choices or question.picks
    sketch = planned.filled.sketch(planned.ctx)
    assert sketch.section[0] != sketch.section[1]
    for dim in sketch.dims:
        owner = job.patterns[-1] if dim.field.startswith("pattern.") else planned.filled
        assert hasattr(owner, dim.field.removeprefix("pattern."))
    assert planned.filled.summary(planned.ctx)
    assert {group for group, _ in planned.filled.says(planned.ctx)} <= set(kind.cls.all_groups())
    assert all(planned.ctx.tool(t) for t in planned.filled.tools_used())


@pytest.mark.parametrize("kind", edits.PATTERN_KINDS)
def test_every_pattern_can_be_drilled_and_measured(kind: str) -> None:
    job, ident = edits.step_added(job_of(Facing(id="f")), "drilling", "f")
    job = edits.pattern_for(job, ident, kind)
    planned = plan(job).step(ident)
    assert planned is not None
    assert planned.troubles == ()
    assert len(planned.filled.sketch(planned.ctx).spots) == len(job.patterns[0].all())
    assert proof_of(job, 0.5).remarks == ()


def test_all_positions_left_out_is_a_contradiction() -> None:
    none = PointsPattern(id="p", name="p", points=((5.0, 5.0),), left_out=(1,))
    assert trouble_with(Drilling(id="a", pattern="p"), context_of(job_of(patterns=(none,))))[0].field == "pattern"


def test_filling_twice_changes_nothing() -> None:
    ctx = context_of(job_of(patterns=(RING,)))
    for step in (Facing(id="a"), RectangularPocket(id="b", x=30, y=20), Drilling(id="c", pattern="p")):
        once = fill(step, ctx)
        assert fill(once, ctx) == once
