"""Changing an outline as a whole keeps its shape, and what was given stays given."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest

from bastler.job import edits, outline_edits
from bastler.job.samples import sample
from bastler.shapes import Drawn, PlanOutline, draw
from bastler.shapes.region import area_of
from bastler.steps import FreePocket, OutlineMilling
from conftest import job_of

RIM, RECESS = (o for o in sample("pawl-plate").outlines if isinstance(o, PlanOutline))
OPEN = PlanOutline(
    id="o", name="o", closed="no", x=5.0, y=0.0,
    segments=outline_edits.plan_of_chain("p", "p", list(draw(RIM).chain[:4]), closed=False).segments,
)  # fmt: skip
OPEN = edits.replace(OPEN, x=draw(RIM).chain[0].start[0], y=draw(RIM).chain[0].start[1])


def points(drawn: Drawn, put: Callable[[tuple[float, float]], tuple[float, float]] = lambda p: p) -> set[tuple[float, float]]:
    assert drawn.troubles == (), drawn.troubles
    return {(round(p[0], 7) + 0.0, round(p[1], 7) + 0.0) for s in drawn.chain for p in map(put, (s.start, s.end))}


@pytest.mark.parametrize("outline", [RIM, RECESS, OPEN], ids=["rim", "recess", "open"])
def test_run_the_other_way_it_is_the_same_shape(outline: PlanOutline) -> None:
    back = outline_edits.run_back(outline)
    assert points(draw(back)) == points(draw(outline))
    if outline.is_closed:
        assert area_of(draw(back).chain) == pytest.approx(-area_of(draw(outline).chain))
    else:
        assert draw(back).chain[0].start == pytest.approx(draw(outline).chain[-1].end)
    assert points(draw(outline_edits.run_back(back))) == points(draw(outline))


@pytest.mark.parametrize("outline", [RIM, RECESS, OPEN], ids=["rim", "recess", "open"])
@pytest.mark.parametrize("axis", ["x", "y"])
def test_mirrored_it_is_its_mirror_image(outline: PlanOutline, axis: str) -> None:
    made = outline_edits.mirrored(outline, axis)  # type: ignore[arg-type]
    flip = (lambda p: (p[0], -p[1])) if axis == "x" else (lambda p: (-p[0], p[1]))
    assert points(draw(made)) == points(draw(outline), flip)


@pytest.mark.parametrize("outline", [RIM, RECESS, OPEN], ids=["rim", "recess", "open"])
@pytest.mark.parametrize("angle", [90.0, -90.0, 180.0, 33.0])
def test_turned_it_is_turned(outline: PlanOutline, angle: float) -> None:
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    made = outline_edits.rotated(outline, angle)
    assert points(draw(made)) == points(draw(outline), lambda p: (c * p[0] - s * p[1], s * p[0] + c * p[1]))


@pytest.mark.parametrize("at", [1, 2, 3, 4, 5])
def test_begun_elsewhere_it_is_the_same_shape(at: int) -> None:
    made = outline_edits.begun_at(RIM, at)
    assert points(draw(made)) == points(draw(RIM))
    assert made.segments[0].id == RIM.segments[at].id


def test_an_open_outline_turns_by_quarters_only() -> None:
    open_ = edits.replace(RIM, segments=(*RIM.segments[:2], edits.replace(RIM.segments[2], cx=None), *RIM.segments[3:]))
    assert draw(open_).solution.state != "solved"
    assert outline_edits.rotated(open_, 33.0) == open_
    assert outline_edits.rotated(open_, 90.0) != open_


def test_segments_come_and_go() -> None:
    more = outline_edits.inserted(RIM, 2, "line")
    assert [s.id for s in more.segments] == ["g1", "g2", "g7", "g3", "g4", "g5", "g6"]
    assert outline_edits.removed(more, 2) == RIM
    assert outline_edits.become(RIM, 1, "arc").segments[1].kind == "arc"


def test_what_a_step_used_alone_goes_with_it_and_what_waits_stays() -> None:
    job = job_of(FreePocket(id="p", outline="o1"), OutlineMilling(id="m", outline="o2"))
    names = ("o1", "o2", "o3")
    job = edits.replace(job, outlines=tuple(edits.replace(RIM, id=name, name=name) for name in names))
    left = edits.step_removed(job, "p")
    assert [o.id for o in left.outlines] == ["o2", "o3"]  # the third was never used: it waits
