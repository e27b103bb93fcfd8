"""Every insert, both hands, both units, outside and in a bore: a clean part, or a reason why it is not cut."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.proof import prove_job
from bastler.proof.turn.compare import _end_wall
from bastler.shapes import TurnedOutline
from bastler.steps import CentreHole, Step, TurnFacing, TurnFinishing, TurnRoughing
from bastler.tools import TurnTool
from bastler.units import scale
from conftest import many, turned
from outlines import along, blend, curve, edge, outline, slant, up

OUTSIDE = [("CNMG120408", 95.0), ("DNMG150404", 93.0), ("VBMT160404", 93.0), ("VBMT160404", 107.5), ("TNMG160404", 91.0),
           ("WNMG080408", 95.0), ("SNMG120408", 75.0), ("RCMT0602M0", 90.0), ("RCMT1204M0", 90.0)]  # fmt: skip
INSIDE = [("CCMT060204", 95.0), ("DCMT070202", 93.0), ("TCMT110204", 91.0), ("RCMT0602M0", 90.0)]
HARM = {"rapid-in-stock", "holder-in-stock", "gouge", "left", "jaws-hit", "chuck-hit"}


def shape(draw: st.DrawFn, k: float) -> TurnedOutline:
    """A shaft with shoulders, falling and rising slants, arcs, edges and radii; `k` is a millimetre in the job's unit."""
    d, z, pieces = draw(st.floats(20, 34)), 0.0, []
    start = d
    if draw(st.booleans()):
        pieces.append(edge(k * draw(st.floats(0.3, 1.5))))
    for _ in range(draw(st.integers(1, 2))):
        z -= draw(st.floats(8, 12))
        pieces.append(along(k * z))
        kind = draw(st.sampled_from(["up", "rise", "fall", "out"]))
        if kind == "up":
            d += draw(st.floats(6, 9))
            pieces += draw(st.sampled_from([[], [blend(k * 1.0)]]))
            pieces.append(up(k * d))
        elif kind == "out":
            d += 8.0
            z -= 5.0
            pieces.append(curve(d=k * d, z=k * z, radius=k * draw(st.floats(6.5, 12.0)), bulge="out"))
        else:
            deep = draw(st.floats(3, 5)) * (1 if kind == "rise" else -1)
            d += deep
            pieces.append(slant(d=k * d, angle=draw(st.floats(12, 60)) if kind == "rise" else draw(st.floats(8, 25))))
            z -= 14.0
    return outline(id="o", name="o", d=k * start, z=0.0, pieces=(*pieces, along(k * (z - 8.0)), up(k * 62.0)))


def job_with(unit: str, tool: TurnTool, o: TurnedOutline, *before: Step, way: Any = "along") -> Job:
    k = scale("mm", unit)  # type: ignore[arg-type]
    stock: dict[str, Any] = {"diameter": 60.0, "length": 140.0, "over_front": 1.0, "finished": 80.0, "stick_out": 110.0}
    steps = (
        TurnFacing(id="f"),
        *before,
        TurnRoughing(id="r", outline="o", tool="x", way=way),
        TurnFinishing(id="e", outline="o", tool="x"),
    )
    job = turned(*steps, unit=unit, outlines=(o,), **{name: v * k for name, v in stock.items()})
    return msgspec.structs.replace(job, tools=(*job.tools, tool.in_unit(unit)))  # type: ignore[arg-type]


def harm(job: Job) -> dict[str, str]:
    return {r.code: r.text for r in prove_job(plan(job)).remarks if r.code in HARM}


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize(("code", "approach"), OUTSIDE)
@settings(max_examples=many(4))
@given(st.data())
def test_every_insert_outside(unit: str, code: str, approach: float, data: st.DataObject) -> None:
    tool = TurnTool(id="x", station=0, kind="turning", name="x", insert=code, approach=approach)
    o = shape(data.draw, scale("mm", unit))  # type: ignore[arg-type]
    job = job_with(unit, tool, o, way=data.draw(st.sampled_from(["along", "across"])))
    if any(done.troubles for done in plan(job).steps):
        return
    # an edge that leans to 75° leaves what it cannot reach of a shoulder: that is said, and is no harm of the path
    allowed = {"left"} if approach < 90 else set()
    assert not harm(job).keys() - allowed, harm(job)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize(("code", "approach"), INSIDE)
@pytest.mark.parametrize("way", ["along", "across"])
def test_every_insert_in_a_bore(unit: str, code: str, approach: float, way: Any) -> None:
    k = scale("mm", unit)  # type: ignore[arg-type]
    bar = {"side": "inside", "bar": 10.0, "min_bore": 13.0, "stick_out": 60.0}
    tool = TurnTool(id="x", station=0, kind="boring", name="x", insert=code, approach=approach, **bar)  # type: ignore[arg-type]
    drill = 20.0 * k if unit == "mm" else 0.75
    o = outline(id="o", name="o", inside=True, d=38.0 * k, z=0.0,
                pieces=(edge(0.5 * k), along(-14.0 * k), slant(d=33.0 * k, angle=45.0), along(-30.0 * k)))  # fmt: skip
    job = job_with(unit, tool, o, CentreHole(id="d", work="drill", diameter=drill, depth=45.0 * k), way=way)
    reasons = [t.text for done in plan(job).steps for t in done.troubles]
    if unit == "inch" and any("drill of this size" in text for text in reasons):
        pytest.skip("the inch crib has no drill of that size")
    assert not reasons
    assert not harm(job), harm(job)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("kind", ["turning", "boring"])
def test_a_left_hand_tool_is_refused_with_the_reason(unit: str, kind: str) -> None:
    """It cuts away from the chuck: nothing here is planned that way, so nothing gouges that way."""
    k = scale("mm", unit)  # type: ignore[arg-type]
    inside = kind == "boring"
    bar = {"side": "inside", "bar": 10.0, "min_bore": 13.0} if inside else {}
    tool = TurnTool(id="x", station=0, kind=kind, name="x", insert="CCMT060204", hand="left", **bar)  # type: ignore[arg-type]
    o = outline(id="o", name="o", inside=inside, d=38.0 * k, z=0.0, pieces=(along(-20.0 * k),))
    job = job_with(unit, tool, o)
    texts = [t.text for ident in ("r", "e") for t in plan(job).step(ident).troubles]
    assert sum("left-hand" in text for text in texts) == 2
    faced = answering.answered(job, "step:f.tool", "x")
    assert any("left-hand" in t.text or "does not do this" in t.text for t in plan(faced).step("f").troubles)


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("kind", ["turning", "boring"])
@pytest.mark.parametrize("code", ["CNMG120408", "VBMT160404", "RCMT1204M0"])
def test_the_point_of_every_tool_touches_off_on_its_tangents(hand: str, kind: str, code: str) -> None:
    """Also of a round insert: what is measured is where its outline touches X and Z."""
    tool = TurnTool(id="x", station=1, kind=kind, name="x", insert=code, hand=hand, bar=16.0 if kind == "boring" else 0.0)  # type: ignore[arg-type]
    z, r = [p[0] for p in tool.cutting], [p[1] for p in tool.cutting]
    assert (min(z) if hand == "right" else max(z)) == pytest.approx(0.0, abs=1e-9)
    assert (max(r) if kind == "boring" else min(r)) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("tool", ["d55-04", "v35-04"])
@pytest.mark.parametrize("comp", ["computed", "control"])
def test_a_ball_end_has_no_pip_and_no_ridge(unit: str, tool: str, comp: str) -> None:
    """An arc that stands square to the axis at its beginning is come at straight from the front."""
    k = scale("mm", unit)  # type: ignore[arg-type]
    r = 15.0 * k
    pieces = (curve(d=2 * r, z=-r, radius=r), along(-r - 15.0 * k), up(62.0 * k))
    ball = outline(id="o", name="ball", d=0.0, z=0.0, pieces=pieces)
    mm_tool = next(t for t in turned().tools if t.id == tool)
    own = msgspec.structs.replace(mm_tool, id="x", station=0)
    job = job_with(unit, own, ball)  # type: ignore[arg-type]
    job = answering.answered(job, "step:e.compensation", comp)
    proof = prove_job(plan(job))
    assert not [r.text for r in proof.remarks if r.level in ("stop", "open")], [r.text for r in proof.remarks]
    points = shapely.get_coordinates(proof.part.boundary.intersection(shapely.box(-0.9 * r, 1e-4 * k, 1.0 * k, r)))
    off = np.hypot(points[:, 0] + r, points[:, 1]) - r
    assert np.abs(off).max() < 0.003 * k


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("high", [2.0, 4.0, 5.4])
def test_a_low_last_shoulder_keeps_the_fillet_of_a_round_insert(unit: str, high: float) -> None:
    """The outline goes up square past the stock: its tip does not lean over the land for what is in the corner below it."""
    k = scale("mm", unit)  # type: ignore[arg-type]
    tool = TurnTool(id="x", station=0, kind="turning", name="x", insert="RCMT1204M0", approach=90.0)
    o = outline(id="o", name="o", d=(60.0 - 2 * high) * k, z=0.0, pieces=(along(-30.0 * k), up(62.0 * k)))
    job = job_with(unit, tool, o)
    assert not harm(job), harm(job)
    # another tip that follows it leaves no more than its own fillet
    sharp = msgspec.structs.replace(tool, insert="CNMG120408", approach=95.0)
    fine = job_with(unit, sharp, o)
    assert not harm(fine), harm(fine)


def test_the_end_wall_of_what_an_outline_takes_is_found_beside_stray_lines() -> None:
    """Regions that only touch leave lines: they have no edge to keep to."""
    taken = shapely.GeometryCollection([shapely.box(-10.0, 5.0, 0.0, 20.0), shapely.LineString([(-12.0, 5.0), (-10.0, 5.0)])])
    assert _end_wall(taken.geoms[0], 1.0).covers(shapely.LineString([(-10.0, 5.0), (-10.0, 20.0)]))
    assert _end_wall(taken, 1.0).is_empty, "the line alone reaches so far: there is no wall"
