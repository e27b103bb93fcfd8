"""The cutter in loops: how far round it is in the material, followed along the moves, the material taken away piece by piece."""

from __future__ import annotations

import dataclasses
import itertools
import math
import re
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import plan
from bastler.motion import Bow, Cut, Path
from bastler.motion.loops import RIM, way_on, widest_step
from bastler.post import post
from bastler.shapes import PlanOutline, PlanSegment
from bastler.shapes.chain import reversed_chain, tangent
from bastler.shapes.region import polygon_of
from bastler.steps import FreePocket, Stage
from conftest import many, some
from test_areas import area_job, bowed, clean, proof_of, star

SPOKES = np.radians(np.arange(-89.0, 90.0, 2.0))
CELL, LAG = 0.05, 5
BLUR = 14.0
"""Degrees: cells, steps of two of them, and the material looked for just inside the rim."""


class Plate:
    """Material as cells of a plan, from which discs are taken."""

    def __init__(self, region, radius: float) -> None:
        x0, y0, x1, y1 = region.bounds
        self.x0, self.y0 = x0 - 2 * radius, y0 - 2 * radius
        us = np.arange(self.x0, x1 + 2 * radius, CELL)
        vs = np.arange(self.y0, y1 + 2 * radius, CELL)
        self.there = shapely.contains_xy(region, *np.meshgrid(us, vs))
        k = math.ceil(radius / CELL)
        v, u = np.mgrid[-k : k + 1, -k : k + 1]
        self.k, self.disc = k, np.hypot(u, v) * CELL <= radius

    def at(self, us, vs):
        return self.there[np.rint((vs - self.y0) / CELL).astype(int), np.rint((us - self.x0) / CELL).astype(int)]

    def take(self, p: tuple[float, float]) -> None:
        i, j, k = round((p[0] - self.x0) / CELL), round((p[1] - self.y0) / CELL), self.k
        self.there[j - k : j + k + 1, i - k : i + k + 1] &= ~self.disc


def most_round(stage: Stage, material, radius: float, level: float) -> float:
    """The greatest angle, in degrees, round which the cutter is in the material while it feeds along the level."""
    plate = Plate(material, radius)
    x, y, z = stage.start
    behind: list[tuple[float, float]] = []
    worst = 0.0
    for move in stage.moves:
        if isinstance(move, Cut | Bow) and move.w <= level + 1e-6:
            places, headings = _places(move, (x, y), 2 * CELL)
            for p, heading in zip(places[1:], headings[1:], strict=True):
                if z <= level + 1e-6:
                    us, vs = p[0] + RIM * radius * np.cos(heading + SPOKES), p[1] + RIM * radius * np.sin(heading + SPOKES)
                    worst = max(worst, 2.0 * plate.at(us, vs).sum())
                behind.append(p)
                if len(behind) > LAG:  # just behind the rim of where it is now nothing may be missing yet
                    plate.take(behind.pop(0))
        x, y, z = move.u, move.v, move.w
    return worst


def _places(move: Cut | Bow, start: tuple[float, float], step: float) -> tuple[list[tuple[float, float]], list[float]]:
    x, y = start
    if isinstance(move, Cut):
        count = max(1, math.ceil(math.dist(start, (move.u, move.v)) / step))
        places = [(x + (move.u - x) * k / count, y + (move.v - y) * k / count) for k in range(count + 1)]
        return places, [math.atan2(move.v - y, move.u - x)] * (count + 1)
    r, a0 = math.dist(start, (move.cu, move.cv)), math.atan2(y - move.cv, x - move.cu)
    side = 1 if move.ccw else -1
    sweep = ((math.atan2(move.v - move.cv, move.u - move.cu) - a0) * side) % (2 * math.pi)
    sweep = sweep if sweep > 1e-9 else 2 * math.pi
    count = max(4, math.ceil(sweep * r / step))
    angles = [a0 + side * sweep * k / count for k in range(count + 1)]
    return [(move.cu + r * math.cos(a), move.cv + r * math.sin(a)) for a in angles], [a + side * math.pi / 2 for a in angles]


def slot(width: float) -> PlanOutline:
    half = width / 2
    return PlanOutline(
        id="o1", name="slot", x=18.0, y=30 - half,
        segments=(
            PlanSegment(x=60.0, y=30 - half),
            PlanSegment(kind="arc", x=60.0, y=30 + half, radius=half, turn="ccw"),
            PlanSegment(x=18.0, y=30 + half),
            PlanSegment(kind="arc", radius=half, turn="ccw"),
        ),
    )  # fmt: skip


def sharpest(step, ctx, tool) -> float:
    """The greatest angle, in degrees, by which a ring turns at a corner: standing in it the cutter is in the material so far
    round, however it got there."""

    def turns(patches):
        for patch in patches:
            for ring in patch.rings:
                for a, b in itertools.pairwise([*ring, ring[0]]):
                    (u0, v0), (u1, v1) = tangent(reversed_chain([a])[0]), tangent(b)
                    yield math.degrees(math.atan2(v0 * u1 - u0 * v1, -u0 * u1 - v0 * v1))
            yield from turns(patch.children)

    return max(turns(step.rings_in(ctx, tool, step.area(ctx, step.floor), 0.0).patches), default=0.0)


def followed(outline: PlanOutline, **answers) -> tuple[float, float]:
    """The limit of a pocket cleared in loops, or what its sharpest corner makes of it, and the greatest angle that was met."""
    step = FreePocket(id="p", outline="o1", depth=3.0, finish="no", bite="even", **answers)
    planned = plan(area_job(outline, step)).step("p")
    assert planned.troubles == ()
    stage: Any = planned.stages[0]
    assert len(planned.stages) == 1
    s = planned.filled
    limit = max(s.most_angle, sharpest(s, planned.ctx, stage.tool))
    return limit, most_round(stage, polygon_of(s.area(planned.ctx, s.floor), 0.005), stage.tool.diameter / 2, s.floor)


@pytest.mark.parametrize("angle", [75.0])
@pytest.mark.parametrize("outline", some([slot(16.0), bowed(46, 44, 3.0), slot(22.0), star([26, 25, 24, 26])], 1))
def test_the_limit_is_kept(outline: PlanOutline, angle: float) -> None:
    limit, worst = followed(outline, tool="end-10", most_angle=angle)
    assert worst <= limit + BLUR


def test_plain_rings_would_not_keep_it() -> None:
    step = FreePocket(id="p", outline="o1", depth=3.0, finish="no", tool="end-10")
    planned = plan(area_job(slot(12.0), step)).step("p")
    s = planned.filled
    stage: Any = planned.stages[0]
    worst = most_round(stage, polygon_of(s.area(planned.ctx, s.floor), 0.005), 5.0, s.floor)
    assert worst > 120


@settings(max_examples=many(3))
@given(
    st.lists(st.floats(16.0, 27.0), min_size=3, max_size=7),
    st.sampled_from(["climb", "conventional"]),
    st.sampled_from([60.0, 75.0, 90.0, 110.0]),
)
def test_the_limit_is_kept_in_any_outline(radii: list[float], cutting: str, angle: float) -> None:
    limit, worst = followed(star(radii, 1.0), tool="end-10", cutting=cutting, most_angle=angle)
    assert worst <= limit + BLUR


@settings(max_examples=many(4))
@given(
    st.lists(st.floats(14.0, 27.0), min_size=3, max_size=7),
    st.sampled_from(["end-10", "end-6", "end-4"]),
    st.sampled_from([60.0, 90.0, 120.0]),
)
def test_loops_leave_nothing_and_touch_no_wall(radii: list[float], tool: str, angle: float) -> None:
    step = FreePocket(id="p", outline="o1", depth=3.0, finish="no", bite="even", tool=tool, most_angle=angle)
    clean(proof_of(area_job(star(radii), step), 0.4))


def test_the_way_on_follows_from_the_law_of_cosines() -> None:
    """In the limit of a straight wall (a very large loop) it is the stepover of that angle."""
    assert way_on(5.0, 1e7, math.radians(60)) / 0.85 == pytest.approx(widest_step(5.0, math.radians(60)), rel=1e-5)
    assert widest_step(5.0, math.radians(60)) == pytest.approx(2.5)
    assert way_on(5.0, 3.0, math.radians(90)) == pytest.approx(0.85 * (math.sqrt(64 - 25) - 3.0))


def test_an_arc_shorter_than_the_last_decimal_is_not_read_as_a_whole_turn() -> None:
    """Two of its ends are written alike: a control would go all round."""
    path = Path(20.0, 20.0, 10.0).go(z=5.0).cut(100.0, z=-1.0).cut(100.0, x=30.0)
    path.bow(100.0, (30.0 + 1e-4, 20.0 + 1e-4), (30.0, 25.0), ccw=True).cut(100.0, x=35.0).go(z=30.0)
    planned = plan(area_job(slot(16.0), FreePocket(id="p", outline="o1", depth=3.0, finish="no", tool="end-10")))
    stage = planned.steps[-1].stages[0]
    short = msgspec.structs.replace(stage, start=(20.0, 20.0, 10.0), moves=tuple(path.moves))
    steps = (*planned.steps[:-1], dataclasses.replace(planned.steps[-1], stages=(short,)))
    lines = post(dataclasses.replace(planned.first, steps=steps)).lines
    begin = next(k for k, line in enumerate(lines) if "ROUGH" in line.upper())
    assert not [line for line in lines[begin:] if re.search(r"\bG[23]\b", line)]
