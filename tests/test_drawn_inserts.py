"""Inserts that are ground to a shape of their own: drawn as an outline, plunged, and what is cut is that shape to a micron."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.crib_edits import edge_taken, tool_added
from bastler.proof import TurnProof, prove_job
from bastler.shapes import Arc, Line, draw
from bastler.shapes.chain import length_of, points_on
from bastler.steps import CentreHole, Groove, PartOff, TurnFacing
from bastler.tools import TurnTool, faults_of
from bastler.tools.drawn_edge import EdgePiece, chain_of, edge_of
from bastler.tools.lists import csv_list, json_list, read_list
from conftest import many, turned
from outlines import along, blend, curve, outline, slant

INCH = 25.4


def pulley(k: float = 1.0, side: str = "outside") -> Any:
    """A vee with a round floor, its lips rounded."""
    if side == "face":
        pieces: Any = (slant(d=48 * k, z=-3 * k), curve(d=44 * k, z=-3 * k, radius=1.5 * k, bulge="in"), slant(d=40 * k, z=0.0))
        return outline(id="w", name="vee", d=52 * k, z=0.0, pieces=pieces)
    deep = -1 if side == "outside" else 1
    low, top = (50.0, 60.0) if deep < 0 else (30.0, 24.0)
    pieces = (slant(d=low * k, z=-12 * k), blend(0.8 * k), along(-14 * k), blend(0.8 * k), slant(d=top * k, z=-17 * k))
    return outline(id="w", name="vee", d=top * k, z=-9 * k, pieces=pieces, inside=deep > 0)


def formed(unit: str = "mm", side: Any = "outside", edge: str = "left", **answers: Any) -> Job:
    """A groove plunged by an insert that is drawn as a vee."""
    k = 1.0 if unit == "mm" else 1 / INCH
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    bored = [CentreHole(id="d", work="drill", diameter=20.0 if unit == "mm" else 0.875, depth=50 * k)] if side == "inside" else []
    floor = {"outside": 50.0, "inside": 27.0 if unit == "mm" else 29.0, "face": 50.0}[side]
    own = {"z": -20 * k, "floor_d": floor * k, "outer_d": 50 * k, "depth": 2.5 * k} | answers
    job = turned(
        TurnFacing(id="f"),
        *bored,
        Groove(id="g", side=side, shape="insert", **own),
        unit=unit,
        outlines=(pulley(k, side),),
        **size,
    )
    sort = {"outside": "groove", "inside": "groove-inside", "face": "groove-face"}[side]
    job, ident = tool_added(job, sort)
    job = edge_taken(job, ident, "w")
    tool: Any = job.tool(ident)
    bigger = msgspec.structs.replace(tool, edge=edge, reach=8 * k, min_bore=20 * k if side == "inside" else 0.0)
    return msgspec.structs.replace(job, tools=tuple(bigger if t.id == ident else t for t in job.tools))


def _last(job: Job) -> Any:
    return plan(job).steps[-1]


def made(job: Job) -> TurnProof:
    planned = plan(job)
    assert not planned.steps[-1].troubles, planned.steps[-1].troubles
    proof: TurnProof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    return proof


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("side", ["outside", "inside", "face"])
@pytest.mark.parametrize("edge", ["left", "right"])
def test_what_is_cut_is_the_inserts_shape(unit: str, side: str, edge: str) -> None:
    """The part less the drawn outline, moved to where the groove is, is the part as cut."""
    job = formed(unit, side, edge)
    proof, step, shape = made(job), _last(job), job.outlines[0]
    form: Any = step.ctx.turn_tool(step.filled.tool)
    assert form.drawn
    assert sum(map(length_of, chain_of(form.drawn))) == pytest.approx(sum(map(length_of, draw(shape).chain)), rel=1e-7)
    k = 1.0 if unit == "mm" else 1 / INCH
    gone = shapely.union_all(step.filled.removes(step.ctx))
    assert gone.intersection(proof.part).area < 2e-2 * k * k
    assert not [r for r in proof.remarks if r.level in ("stop", "caution")], [r.text for r in proof.remarks]


def test_several_stand_side_by_side() -> None:
    proof = made(formed(count=3, pitch=9.5))
    floors = [shapely.LineString([(z, 0), (z, 40)]).intersection(proof.part).bounds[3] for z in (-24.0, -33.5, -43.0)]
    assert floors == pytest.approx([25.0, 25.0, 25.0], abs=1e-3)


@settings(max_examples=many(20), deadline=None)
@given(
    st.floats(1.0, 8.0), st.floats(0.5, 6.0), st.floats(0.0, 0.9), st.floats(0.0, 0.9), st.sampled_from(["mm", "inch"]),
)  # fmt: skip
def test_an_edge_is_its_outline_whichever_way_that_runs(wide: float, deep: float, a: float, b: float, unit: str) -> None:
    chain: list[Any] = [
        Line((wide, deep), (wide * (1 - 0.4 * a), 0.0)),
        Line((wide * (1 - 0.4 * a), 0.0), (wide * 0.4 * b, 0.0)),
        Line((wide * 0.4 * b, 0.0), (0.0, deep)),
    ]
    edge = edge_of(chain)
    back = edge_of([Line(s.end, s.start) for s in reversed(chain)])
    assert edge == back
    assert edge[0] == EdgePiece(0.0, round(deep, 9))
    assert [s.end for s in chain_of(edge)][-1] == pytest.approx((wide, deep))
    tool = TurnTool(id="n", station=1, kind="grooving", name="n", width=edge[-1].x, reach=10.0, drawn=edge)
    assert not faults_of(tool)
    inch = tool.in_unit("inch")
    assert not faults_of(inch)
    area = sum(shapely.Polygon(piece).area for piece in tool.cutting_pieces)
    assert area == pytest.approx(shapely.Polygon(tool.cutting).area, rel=1e-6)
    assert all(shapely.Polygon(piece).equals(shapely.Polygon(piece).convex_hull) for piece in tool.cutting_pieces)


def test_arcs_stay_arcs_both_ways_round() -> None:
    bowl = [Arc((4.0, 1.0), (0.0, 1.0), (2.0, 1.0), False)]
    edge = edge_of(bowl)
    assert (edge[1].turn, edge[1].cx) == (1, 2.0)
    points = points_on(chain_of(edge), 1e-4)
    assert max(abs(math.hypot(x - edge[1].cx, y - edge[1].cy) - 2.0) for x, y in points) < 1e-6


@pytest.mark.parametrize(
    ("chain", "said"),
    [
        ([], "not complete"),
        ([Line((4, 2), (5, 0)), Line((5, 0), (-1, 0)), Line((-1, 0), (0, 2))], "under itself"),
    ],
)
def test_a_shape_that_no_insert_has_is_said(chain: Any, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        edge_of(chain)


def test_faults_of_an_edge_from_elsewhere_are_said() -> None:
    good = TurnTool(id="n", station=1, kind="grooving", name="n", width=3.0, reach=10.0, drawn=edge_of([Line((3, 1), (0, 0))]))
    assert not faults_of(good)
    for edge in (
        (EdgePiece(0.0, 0.0),),
        (EdgePiece(0.0, 0.0), EdgePiece(math.nan, 1.0)),
        (EdgePiece(0.0, 0.0), EdgePiece(3.0, 0.0, 1.0, 5.0, 1)),
        (EdgePiece(0.0, 0.0), EdgePiece(2.0, 1.0)),
        (EdgePiece(0.0, 1.0), EdgePiece(3.0, 2.0)),
    ):
        assert [t.field for t in faults_of(msgspec.structs.replace(good, drawn=edge))] == ["drawn"]


def test_an_edge_goes_through_lists_and_files() -> None:
    tool = next(t for t in formed().tools if isinstance(t, TurnTool) and t.drawn)
    assert read_list(json_list([tool]), "tools.json") == (tool,)
    assert read_list(csv_list([tool]), "tools.csv") == (tool,)


def test_such_a_tool_does_nothing_else() -> None:
    job = formed()
    ident = next(t.id for t in job.tools if isinstance(t, TurnTool) and t.drawn)
    other = answering.answered(answering.answered(job, "step:g.shape", "straight"), "step:g.tool", ident)
    assert "its own shape" in plan(other).steps[-1].troubles[0].text
    (holding,) = job.holdings
    off = msgspec.structs.replace(holding, steps=(*holding.steps, PartOff(id="p", z=-60.0, tool=ident)))
    assert "its own shape" in plan(msgspec.structs.replace(job, holdings=(off,))).steps[-1].troubles[0].text
    plain = answering.answered(job, "step:g.tool", "groove-3")
    assert "not drawn" in plan(plain).steps[-1].troubles[0].text
    bare = msgspec.structs.replace(job, tools=tuple(t for t in job.tools if t.id != ident))
    assert plan(bare).steps[-1].troubles[0].field == "tool"


def test_only_a_groove_tools_edge_is_taken_from_a_turned_outline() -> None:
    job = formed()
    with pytest.raises(KeyError):
        edge_taken(job, "c80-08", "w")
    with pytest.raises(KeyError):
        edge_taken(job, "groove-3", "nothing")
    straight = edge_taken(job, next(t.id for t in job.tools if isinstance(t, TurnTool) and t.drawn), "")
    assert not [t for t in straight.tools if isinstance(t, TurnTool) and t.drawn]
