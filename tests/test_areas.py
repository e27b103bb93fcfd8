"""Steps along outlines, whatever the outlines: no rapid in material, no gouge, nothing left that the tool can reach."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, plan
from bastler.motion import Bow, Cut, Go
from bastler.proof import Proof
from bastler.shapes import PlanOutline, PlanSegment, PointsPattern
from bastler.steps import Contour, Drilling, EdgeBreak, Facing, FreeBoss, FreePocket, OutlineMilling, RestMachining, Step
from conftest import job_of, many, proof_of

MILLS = ["end-16", "end-10", "end-6", "end-4"]
WRONG = {"rapid-in-stock", "gouge", "left", "plunge", "feed-missing", "over-depth"}
CELL = 0.4


def clean(proof: Any) -> None:
    found = {r.code: (r.text, r.place, r.line) for r in proof.remarks if r.code in WRONG or r.level == "stop"}
    assert not found, found
    assert proof.comparison.volume("gouge") == 0.0


def star(radii: list[float], corner: float = 0.0, x: float = 40.0, y: float = 30.0, name: str = "o1") -> PlanOutline:
    """A closed outline about a point: as many corners as radii, each as far out, rounded."""
    n = len(radii)
    points = [(x + r * math.cos(2 * math.pi * k / n), y + r * math.sin(2 * math.pi * k / n)) for k, r in enumerate(radii)]
    how: dict[str, Any] = {"corner": "radius", "corner_size": corner} if corner else {}
    segments = tuple(PlanSegment(id=f"g{k}", x=p[0], y=p[1], **how) for k, p in enumerate([*points[1:], points[0]]))
    return PlanOutline(id=name, name=name, x=points[0][0], y=points[0][1], segments=segments)


def bowed(width: float, height: float, bulge: float) -> PlanOutline:
    """A closed outline of two lines and two arcs that bulge out (or in, when negative)."""
    turn: Any = "ccw" if bulge > 0 else "cw"
    radius = (height * height / 4 + bulge * bulge) / (2 * abs(bulge))
    x0, y0 = 40 - width / 2, 30 - height / 2
    segments = (
        PlanSegment(id="a", x=x0 + width, y=y0),
        PlanSegment(id="b", kind="arc", x=x0 + width, y=y0 + height, radius=radius, turn=turn),
        PlanSegment(id="c", x=x0, y=y0 + height),
        PlanSegment(id="d", kind="arc", radius=radius, turn=turn),
    )
    return PlanOutline(id="o1", name="o1", x=x0, y=y0, segments=segments)


def outlines() -> st.SearchStrategy[PlanOutline]:
    stars = st.builds(star, st.lists(st.floats(12.0, 27.0), min_size=3, max_size=7), st.sampled_from([0.0, 1.0, 2.5]))
    bows = st.builds(bowed, st.floats(26.0, 46.0), st.floats(24.0, 44.0), st.sampled_from([-5.0, -2.0, 3.0, 8.0]))
    return st.one_of(stars, bows)


def islands() -> st.SearchStrategy[tuple[Contour, ...]]:
    below = st.sampled_from([0.0, 0.0, 1.5])
    where = {"x": st.floats(28.0, 52.0), "y": st.floats(20.0, 40.0), "below": below}
    circles = st.builds(Contour, form=st.just("circle"), diameter=st.floats(2.0, 9.0), **where)
    blocks = st.builds(
        Contour, form=st.just("rectangle"), length=st.floats(3.0, 9.0), width=st.floats(3.0, 9.0), angle=st.floats(0.0, 90.0),
        corner_radius=st.sampled_from([0.0, 1.0]), **where,
    )  # fmt: skip
    return st.lists(st.one_of(circles, blocks), max_size=3).map(tuple)


def area_job(outline: PlanOutline, *steps: Step, **setup: Any) -> Job:
    job = job_of(Facing(id="a"), *steps, size_x=80.0, size_y=60.0, **setup)
    return msgspec.structs.replace(job, outlines=(outline,))


def proved(job: Job) -> Proof:
    assume(not any(s.troubles for s in plan(job).steps))
    return proof_of(job, CELL)


HOW = {
    "cutting": st.sampled_from(["climb", "conventional"]),
    "depth": st.sampled_from([2.0, 5.0]),
    "tool": st.sampled_from(MILLS),
    "finish": st.sampled_from(["yes", "no"]),
}


@settings(max_examples=many(18))
@given(outlines(), islands(), st.data())
def test_free_pockets(outline: PlanOutline, stand: tuple[Contour, ...], data: st.DataObject) -> None:
    answers: dict[str, Any] = {name: data.draw(values) for name, values in HOW.items()}
    step = FreePocket(
        id="p", outline="o1", islands=stand, entry=data.draw(st.sampled_from(["helix", "ramp", "plunge"])),
        finish_tool=data.draw(st.sampled_from([None, *MILLS])), **answers,
    )  # fmt: skip
    clean(proved(area_job(outline, step)))


@settings(max_examples=many(10))
@given(outlines(), st.data())
def test_free_bosses(outline: PlanOutline, data: st.DataObject) -> None:
    answers: dict[str, Any] = {name: data.draw(values) for name, values in HOW.items()}
    clean(proved(area_job(outline, FreeBoss(id="b", outline="o1", **answers))))


@settings(max_examples=many(18))
@given(outlines(), st.data())
def test_outlines_milled(outline: PlanOutline, data: st.DataObject) -> None:
    answers: dict[str, Any] = {name: data.draw(values) for name, values in HOW.items()}
    step = OutlineMilling(
        id="m", outline="o1", side=data.draw(st.sampled_from(["left", "on", "right"])), widths=data.draw(st.integers(1, 2)),
        lead=data.draw(st.sampled_from(["arc", "line", "square", "none"])), entry=data.draw(st.sampled_from(["ramp", "plunge"])),
        begin=data.draw(st.sampled_from(["longest", "point"])), begin_x=data.draw(st.floats(0.0, 80.0)), begin_y=30.0,
        tabs=data.draw(st.sampled_from([0, 0, 2])), **answers,
    )  # fmt: skip
    clean(proved(area_job(outline, step)))


@settings(max_examples=many(10))
@given(outlines(), islands(), st.sampled_from(["end-16", "end-10"]), st.sampled_from(["end-6", "end-4"]))
def test_rest_of_pockets(outline: PlanOutline, stand: tuple[Contour, ...], large: str, small: str) -> None:
    pocket = FreePocket(id="p", outline="o1", islands=stand, depth=4.0, tool=large, finish="no")
    width = {"end-16": 16.0, "end-10": 10.0}[large]
    rest = RestMachining(id="r", outline="o1", islands=stand, depth=4.0, top=0.0, tool=small, larger=width)
    clean(proved(area_job(outline, pocket, rest)))


@pytest.mark.parametrize(
    ("radii", "corner", "large", "stand"),
    [
        (
            [17.9827065848895, 25.20279320538633, 12.7, 15.755088648848036, 12.7, 18.479696438321874],
            0.0,
            "end-16",
            (
                Contour(form="circle", diameter=2.00001, x=42.30676863024256, y=31.541404764247385, below=1.5),
                Contour(form="circle", diameter=5.666701031607628, x=28.0, y=20.0),
            ),
        ),
        (
            [
                12.478993120338227,
                24.68944870098398,
                16.714420937911754,
                20.747087832953152,
                23.86956744676817,
                19.200267469892232,
            ],
            1.0,
            "end-10",
            (Contour(form="rectangle", x=32.36, y=20.09, length=8.7, width=7.48, angle=24.94, corner_radius=1.0, below=1.5),),
        ),
    ],
    ids=["a ring round an island but for a little", "a rest thinner than what is felt at either end of a piece"],
)
def test_rests_that_once_stood(radii: list[float], corner: float, large: str, stand: tuple[Contour, ...]) -> None:
    pocket = FreePocket(id="p", outline="o1", islands=stand, depth=4.0, tool=large, finish="no")
    width = float(large[4:])
    rest = RestMachining(id="r", outline="o1", islands=stand, depth=4.0, top=0.0, tool="end-6", larger=width)
    clean(proof_of(area_job(star(radii, corner), pocket, rest), CELL))


@settings(max_examples=many(10))
@given(outlines(), st.floats(0.3, 1.5), st.sampled_from(["climb", "conventional"]), st.booleans())
def test_edges_broken(outline: PlanOutline, size: float, cutting: str, outside: bool) -> None:
    """All round what was milled: on the part inside of the outline, or on the edge of a pocket."""
    if outside:
        before: Step = FreePocket(id="p", outline="o1", depth=4.0, tool="end-6")
    else:
        before = OutlineMilling(id="p", outline="o1", depth=4.0, tool="end-10")
    edge = EdgeBreak(id="e", outline="o1", size=size, material="outside" if outside else "inside", cutting=cutting)  # type: ignore[arg-type]
    clean(proved(area_job(outline, before, edge)))


@pytest.mark.parametrize("width", [20.0, 21.0, 18.0, 16.4])
def test_a_lead_goes_down_only_where_roughing_has_been(width: float) -> None:
    """In a slot a little wider than the tool there is no room beside the wall."""
    segments = (
        PlanSegment(id="a", x=60.0, y=30 - width / 2),
        PlanSegment(id="b", kind="arc", x=60.0, y=30 + width / 2, radius=width / 2, turn="ccw"),
        PlanSegment(id="c", x=20.0, y=30 + width / 2),
        PlanSegment(id="d", kind="arc", radius=width / 2, turn="ccw"),
    )
    slot = PlanOutline(id="o1", name="o1", x=20.0, y=30 - width / 2, segments=segments)
    clean(proof_of(area_job(slot, FreePocket(id="p", outline="o1", depth=5.0, tool="end-16")), 0.2))


@pytest.mark.parametrize(("diameter", "tool"), [(8.5, "end-10"), (8.5, "end-6")])
def test_going_down_in_a_hole(diameter: float, tool: str) -> None:
    """In a hole wider than the tool it goes down in rapid, in a narrower one it feeds; it takes nothing over the centre."""
    hole = PointsPattern(id="q", name="q", points=((34.0, 27.0),))
    drilled = Drilling(id="d", pattern="q", diameter=diameter, depth=6.0, spot="no")
    pocket = FreePocket(id="p", outline="o1", depth=5.0, top=0.0, tool=tool, entry="hole", finish="no")
    job = msgspec.structs.replace(area_job(star([24, 22, 25, 20, 26]), drilled, pocket), patterns=(hole,))
    planned = plan(job).step("p")
    assert planned.troubles == (), planned.troubles
    down = [m for m in planned.stages[0].moves if isinstance(m, Go | Cut | Bow) and m.w < 0]
    assert (down[0].u, down[0].v) == (34.0, 27.0)
    clean(proof_of(job, CELL))


def test_no_hole_to_go_down_in_is_said() -> None:
    pocket = FreePocket(id="p", outline="o1", depth=5.0, tool="end-10", entry="hole")
    troubles = plan(area_job(star([24, 22, 25, 20, 26]), pocket)).step("p").troubles
    assert [(t.field, t.fits) for t in troubles] == [("entry", "helix")]
