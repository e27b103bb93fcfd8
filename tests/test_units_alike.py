"""A job in inches is the job in millimetres: every answer given, every length over 25.4, the program has to be the same.

What differs is a length that was meant in one unit and used in both.
"""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.ask import questions_of
from bastler.job import Job, answering, edits, new_job, plan
from bastler.nc import read
from bastler.post import post
from bastler.proof import scene_of
from bastler.shapes import PlanOutline, TurnedOutline
from bastler.steps import (
    CentreHole,
    Contour,
    Drilling,
    EdgeBreak,
    Facing,
    FreeBoss,
    FreePocket,
    Groove,
    OutlineMilling,
    PartOff,
    RectangularBoss,
    RectangularPocket,
    RestMachining,
    RoundPocket,
    Step,
    Threading,
    TurnFacing,
    TurnFinishing,
    TurnRoughing,
)
from bastler.units import MM_PER_INCH, Kind
from conftest import job_of, many, proof_of, turned
from outlines import along, curve, edge, outline, slant, up
from test_areas import CELL, HOW, area_job, clean, islands, outlines
from test_properties import pockets
from test_turn_properties import bores, shafts
from test_turn_properties import clean as turned_clean

LENGTHS = {Kind.LENGTH, Kind.FEED_PER_TOOTH, Kind.FEED_RATE}
FEET = {Kind.CUTTING_SPEED}
"""Kinds of answers that are told in another unit in inch jobs: over 25.4, and metres a minute as feet."""


def in_inches(value: Any) -> Any:
    """An answer struct, or a tuple of them, with its lengths in inches."""
    if isinstance(value, tuple):
        return tuple(in_inches(v) for v in value)
    if not isinstance(value, msgspec.Struct):
        return value
    changes: dict[str, Any] = {}
    for question in questions_of(type(value)):
        now = getattr(value, question.name)
        if isinstance(now, float | int) and not isinstance(now, bool):
            if question.kind in LENGTHS:
                changes[question.name] = now / MM_PER_INCH
            elif question.kind in FEET:
                changes[question.name] = now / 0.3048
    for name in ("segments", "islands", "moves"):
        if hasattr(value, name):
            changes[name] = in_inches(getattr(value, name))
    if hasattr(value, "points"):
        changes["points"] = tuple((x / MM_PER_INCH, y / MM_PER_INCH) for x, y in value.points)
    return msgspec.structs.replace(value, **changes)


def twin(job: Job) -> Job:
    """The same job in inches, all that is computed given as it was computed in millimetres."""
    planned = plan(job)
    blank = new_job("inch", job.machine)
    steps = tuple(in_inches(done.filled) for done in planned.steps)
    stock = msgspec.structs.replace(in_inches(planned.first.stock), typed={})
    holding = msgspec.structs.replace(in_inches(planned.first.holding), steps=steps, typed={})
    outlines = tuple(in_inches(o) for o in job.outlines)
    tools = tuple(t.in_unit("inch") for t in job.tools)
    made = msgspec.structs.replace(blank, stock=stock, holdings=(holding,), outlines=outlines, tools=tools)
    return msgspec.structs.replace(made, patterns=tuple(in_inches(p) for p in job.patterns))


def traces(job: Job) -> tuple[Any, Any]:
    other = twin(job)
    found = []
    for one in (job, other):
        planned = plan(one)
        assert not [t.text for done in planned.steps for t in done.troubles], one.unit
        scene = scene_of(planned)
        found.append(read(post(planned.first).text, scene.control))
    return found[0], found[1]


SAID = 0.0005 + 0.0005 / 2 + 0.0001 * MM_PER_INCH
"""What is half a thousandth of a millimetre and half a ten-thousandth of an inch of a diameter off, in mm."""


def alike(job: Job, said: float = SAID) -> None:
    mm, inch = traces(job)
    assert not mm.findings
    assert not inch.findings
    assert mm.kind.tolist() == inch.kind.tolist()
    assert np.abs(mm.end - inch.end * MM_PER_INCH).max() < said
    feeding = mm.kind != 0
    assert inch.feed[feeding] * MM_PER_INCH == pytest.approx(mm.feed[feeding], rel=0.01)


MILLED: dict[str, Step] = {
    "pocket": RectangularPocket(id="s", x=30, y=20, length=30, width=20, depth=5.0),
    "round": RoundPocket(id="s", x=30, y=20, diameter=25.0, depth=4.0),
    "boss": RectangularBoss(id="s", x=30, y=20, length=40, width=25, depth=4.0),
}


@pytest.mark.parametrize("name", MILLED)
def test_milled_steps(name: str) -> None:
    alike(job_of(Facing(id="f"), MILLED[name], clear=0.8))


def test_drilled_holes() -> None:
    job = edits.pattern_for(job_of(Facing(id="f"), Drilling(id="d", diameter=8.5, depth=12.0), clear=0.8), "d", "points")
    mm, inch = traces(job)
    assert mm.kind.tolist() == inch.kind.tolist()
    assert np.abs(mm.end - inch.end * MM_PER_INCH).max() < SAID


@pytest.mark.parametrize("cls", [FreePocket, OutlineMilling])
def test_milled_along_an_outline(cls: type[Step]) -> None:
    job, ident = edits.step_added(job_of(Facing(id="f"), clear=0.8), str(cls.__struct_config__.tag), "f")
    alike(answering.answered(job, f"step:{ident}.depth", 4.0))


ALONG: dict[str, TurnedOutline] = {
    "shoulder": outline(id="o", name="o", d=40.0, z=0.0, pieces=(edge(1.0), along(-20.0), up(62.0))),
    "arcs": outline(
        id="o", name="o", d=30.0, z=0.0, pieces=(along(-10.0), curve(d=44.0, z=-17.0, radius=9.0), along(-30.0), up(62.0))
    ),
    "recess": outline(id="o", name="o", d=46.0, z=0.0, pieces=(along(-8.0), slant(d=38.0, angle=20.0), along(-36.0), up(62.0))),
}


@pytest.mark.parametrize("name", ALONG)
@pytest.mark.parametrize("way", ["along", "across"])
def test_turned_along_an_outline(name: str, way: str) -> None:
    rough, finish = TurnRoughing(id="r", outline="o", way=way), TurnFinishing(id="e", outline="o")  # type: ignore[arg-type]
    alike(turned(TurnFacing(id="f"), rough, finish, outlines=(ALONG[name],)))


@pytest.mark.parametrize(
    "step",
    [
        Groove(id="g", z=-20.0, width=5.0, floor_d=50.0, edge_break=0.4, right_angle=10.0, left_angle=10.0),
        Groove(id="g", side="face", outer_d=44.0, width=5.0, depth=3.0),
        CentreHole(id="h", work="drill", diameter=8.5, depth=20.0),
        PartOff(id="p"),
    ],
    ids=["groove", "face groove", "hole", "part-off"],
)
def test_turned_steps(step: Step) -> None:
    alike(turned(TurnFacing(id="f"), step, length=140.0))


def test_threads() -> None:
    alike(turned(TurnFacing(id="f"), Threading(id="t", thread="M60 x 2", length=15.0)), said=0.009)  # bites, rounded


@settings(max_examples=many(12))
@given(outlines(), islands(), st.sampled_from(["pocket", "boss", "along", "rest", "edge"]), st.data())
def test_areas_in_inches_are_as_clean_as_in_millimetres(
    shape: PlanOutline, stand: tuple[Contour, ...], kind: str, data: st.DataObject
) -> None:
    """Whatever the outline: no rapid in material, no gouge, nothing left that the tool can reach."""
    how: dict[str, Any] = {name: data.draw(values) for name, values in HOW.items()}
    pocket = FreePocket(id="p", outline="o1", islands=stand, **how)
    steps: dict[str, tuple[Step, ...]] = {
        "pocket": (pocket,),
        "boss": (FreeBoss(id="p", outline="o1", **how),),
        "along": (OutlineMilling(id="p", outline="o1", side=data.draw(st.sampled_from(["left", "on", "right"])), **how),),
        "rest": (
            msgspec.structs.replace(pocket, tool="end-16", finish="no"),
            RestMachining(id="r", outline="o1", islands=stand, depth=pocket.depth, top=0.0, tool="end-6", larger=16.0),
        ),
        "edge": (msgspec.structs.replace(pocket, islands=()), EdgeBreak(id="e", outline="o1", size=0.8)),
    }
    job = area_job(shape, *steps[kind])
    assume(not any(s.troubles for s in plan(job).steps))
    inch = twin(job)
    assert not [t.text for done in plan(inch).steps for t in done.troubles]
    clean(proof_of(inch, CELL))


@settings(max_examples=many(6))
@given(st.data())
def test_turned_parts_in_inches_are_as_clean_as_in_millimetres(data: st.DataObject) -> None:
    number = data.draw
    way: Any = number(st.sampled_from(["along", "across"]))
    comp: Any = number(st.sampled_from(["computed", "control"]))
    shape: TurnedOutline = number(st.one_of(shafts(), bores()))
    rough, finish = ("bore-c80-04", "bore-d55-02") if shape.inside else ("c80-08", number(st.sampled_from(["d55-04", "v35-04"])))
    steps = (
        TurnRoughing(id="r", outline="o", way=way, ap=number(st.floats(0.6, 2.0)), tool=rough),
        TurnFinishing(id="e", outline="o", tool=finish, compensation=comp),
    )
    hole = (CentreHole(id="d", work="drill", diameter=20.0, depth=50.0, tool="drill-20"),) if shape.inside else ()
    job = turned(TurnFacing(id="f"), *hole, *steps, outlines=(shape,))
    assume(not any(s.troubles for s in plan(job).steps))
    inch = twin(job)
    assert not [t.text for done in plan(inch).steps for t in done.troubles]
    turned_clean(proof_of(inch), "edge-length")


@settings(max_examples=many(12))
@given(pockets(), st.none() | st.floats(0.2, 0.4))
def test_pockets_in_inches_are_as_clean_as_in_millimetres(step: RectangularPocket, before: float | None) -> None:
    """Some of them in the floor of a wide and shallow one."""
    wide = RectangularPocket(id="c", x=step.x, y=step.y, length=70.0, width=60.0, depth=before or 0.2)
    job = job_of(Facing(id="a"), *([wide] if before else []), step, size_x=100.0, size_y=80.0, size_z=30.0)
    assume(not any(s.troubles for s in plan(job).steps))
    finisher = plan(job).first.flat.tool(plan(job).step("b").filled.finish_tool)
    assume(finisher is None or finisher.flute_length >= step.depth)  # else its shank is told of, with a tool that reaches
    inch = twin(job)
    assert not [t.text for done in plan(inch).steps for t in done.troubles]
    for one in (job, inch):
        clean(proof_of(one, 0.25))
