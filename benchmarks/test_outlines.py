"""The bars of outlines: working them out, offsetting them, planning pockets in them."""

from __future__ import annotations

import math

import msgspec
import pytest

from bastler.job import answering, new_job, plan
from bastler.motion import rings
from bastler.shapes import Arc, PlanOutline, PlanSegment, draw, region
from bastler.shapes.region import Loop, offset_region, region_of
from bastler.shapes.solver import solve
from bastler.steps import Contour, Facing, FreePocket

BELT = 5


def belt(size: float) -> PlanOutline:
    """Round five circles: five arcs and five lines of which no end is known, and not where it begins."""
    centres = [(60 * math.cos(2 * math.pi * k / BELT), 60 * math.sin(2 * math.pi * k / BELT)) for k in range(BELT)]
    segments = []
    for k, (x, y) in enumerate(centres):
        segments.append(PlanSegment(id=f"a{k}", kind="arc", cx=x, cy=y, radius=size + k, turn="ccw", tangent="yes"))
        segments.append(PlanSegment(id=f"l{k}", kind="line", tangent="yes"))
    return PlanOutline(id="o", name="belt", x=None, y=None, segments=tuple(segments))


def blends(size: float) -> PlanOutline:
    """Ten segments in one run that has to be found numerically: arcs of given radii between lines of given angles."""
    segments = []
    for k in range(5):
        segments.append(PlanSegment(id=f"l{k}", kind="line", angle=[0.0, 40.0, 0.0, -40.0, 0.0][k], tangent="yes" if k else "no",
                                    length=20.0 if k in (1, 2, 4) else None))  # fmt: skip
        if k < 4:
            turn = "ccw" if k in (0, 3) else "cw"
            segments.append(PlanSegment(id=f"r{k}", kind="arc", radius=size, turn=turn, tangent="yes"))
    last = msgspec.structs.replace(segments[-1], x=170.0, y=4.0)
    return PlanOutline(id="o", name="blends", closed="no", x=0.0, y=0.0, segments=(*segments[:-1], last))


@pytest.mark.parametrize("shape", [belt, blends], ids=lambda f: f.__name__)
def test_ten_unknown_segments(shape, benchmark) -> None:  # type: ignore[no-untyped-def]
    sizes = iter(8.0 + 0.01 * k for k in range(1000))
    assert solve(shape(8.0)).state == "solved"
    benchmark.pedantic(lambda: solve(shape(next(sizes))), rounds=100, warmup_rounds=3)


def forget() -> None:
    for remembered in (region._region, region._offset, region._polygon, rings._rows):
        remembered.cache_clear()


def gear(count: int, radius: float) -> PlanOutline:
    """An outline of `count` segments, lines and arcs in turn."""
    n = count // 2
    segments = []
    for k in range(n):
        a, b = 2 * math.pi * (k + 0.5) / n, 2 * math.pi * (k + 1) / n
        r = radius * (1.0 if k % 2 else 0.94)
        outer = radius * (0.94 if k % 2 else 1.0)
        segments.append(PlanSegment(id=f"l{k}", x=100 + r * math.cos(a), y=80 + r * math.sin(a)))
        end = {"x": 100 + outer * math.cos(b), "y": 80 + outer * math.sin(b)}
        segments.append(PlanSegment(id=f"a{k}", kind="arc", radius=radius / 4, turn="ccw", **end))
    return PlanOutline(id="o1", name="gear", x=100 + radius * 0.94, y=80.0, segments=tuple(segments))


def islands() -> tuple[Contour, ...]:
    ring = [(100 + 32 * math.cos(2 * math.pi * k / 10), 80 + 32 * math.sin(2 * math.pi * k / 10)) for k in range(10)]
    return tuple(Contour(x=x, y=y, diameter=7.0 + 0.2 * k) for k, (x, y) in enumerate(ring))


def test_a_pocket_of_200_segments_with_10_islands(benchmark) -> None:  # type: ignore[no-untyped-def]
    outline = gear(200, 68.0)
    drawn = draw(outline)
    assert len(drawn.chain) == 200, len(drawn.chain)
    assert drawn.troubles == ()
    step = FreePocket(id="p", outline="o1", islands=islands(), depth=6.0, tool="end-6")
    job = new_job()
    block = msgspec.structs.replace(job.stock, size_x=200.0, size_y=160.0)
    held = msgspec.structs.replace(job.holdings[0], vise="no", steps=(Facing(id="f"), step))
    job = msgspec.structs.replace(job, stock=block, holdings=(held,), outlines=(outline,))
    depths = iter(6.0 + 0.001 * k for k in range(1000))
    planned = plan(job).step("p")
    assert planned.troubles == ()
    assert planned.stages

    def once() -> None:
        forget()  # what is remembered of the regions: this is a plan from nothing
        assert plan(answering.answered(job, "step:p.depth", next(depths))).step("p").stages

    benchmark.pedantic(once, rounds=20, warmup_rounds=1)


def test_one_offset_of_200_segments_with_10_islands(benchmark) -> None:  # type: ignore[no-untyped-def]
    holes: list[Loop] = [[Arc((c.x + c.diameter / 2, c.y), (c.x + c.diameter / 2, c.y), (c.x, c.y))] for c in islands()]
    area = region_of(list(draw(gear(200, 68.0)).chain), holes)
    distances = iter(3.0 + 0.001 * k for k in range(1000))  # a new one each time: results are remembered
    benchmark.pedantic(lambda: offset_region(area, next(distances)), rounds=60, warmup_rounds=2)
