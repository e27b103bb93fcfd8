"""Grooves whose walls lean over their floor, whose floor slants, or that are drawn: cut as asked, or it is said why not."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.crib_edits import tool_given
from bastler.proof import TurnProof, prove_job
from bastler.proof.turn.section import WIDE
from bastler.steps import CentreHole, Groove, TurnFacing
from bastler.tools import TurnTool, new_turn_tool
from conftest import codes, crossed, many, turned
from outlines import along, blend, curve, outline, slant, up

INCH = 25.4
LENGTHS = {"z", "width", "floor_d", "outer_d", "depth", "pitch", "side_ap", "leave", "corner_radius", "edge_break", "left_edge"}


def grooved(unit: str = "mm", side: str = "outside", tools: tuple[TurnTool, ...] = (), outlines: Any = (), **answers: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / INCH
    own = {name: value * k if name in LENGTHS and value is not None else value for name, value in answers.items()}
    own = {"z": -20 * k, "width": 9 * k, "floor_d": 52 * k, "depth": 4 * k, "outer_d": 50 * k} | own
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    bored = [CentreHole(id="d", work="drill", diameter=20.0 if unit == "mm" else 0.75, depth=50 * k)] if side == "inside" else []
    steps = (TurnFacing(id="f"), *bored, Groove(id="g", side=side, **own))  # type: ignore[arg-type]
    job = turned(*steps, unit=unit, outlines=outlines, **size)
    return msgspec.structs.replace(job, tools=(*job.tools, *tools)) if tools else job


def made(job: Job) -> TurnProof:
    planned = plan(job)
    assert not planned.steps[-1].troubles, [(t.field, t.text) for t in planned.steps[-1].troubles]
    proof: TurnProof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    return proof


WALLS = [(-15.0, -15.0), (-17.0, 0.0), (0.0, -17.0), (12.0, -17.0)]


@pytest.mark.parametrize(
    ("unit", "begin", "walls", "rough"), crossed(10, ["mm", "inch"], ["right", "left", "middle"], WALLS, ["plunge", "sideways"])
)
def test_walls_that_lean_over_are_cut_through_the_mouth(unit: str, begin: str, walls: tuple[float, float], rough: str) -> None:
    """What is left of the part has the corners of the print: its walls are where the angles say, to a micron."""
    right, left = walls
    job = grooved(unit, begin=begin, right_angle=right, left_angle=left, corner_radius=0.2, rough=rough)
    proof = made(job)
    filled: Any = plan(job).steps[-1].filled
    assert "dovetail" in filled.tool
    k = 1.0 if unit == "mm" else 1 / INCH
    high = 28.0 * k  # half-way down
    beside = (high - 26 * k) * math.tan(math.radians(right)), (high - 26 * k) * math.tan(math.radians(left))
    edges = shapely.LineString([(-50 * k, high), (-5 * k, high)]).intersection(shapely.make_valid(proof.part))
    ends = sorted(x for piece in shapely.get_parts(edges) for x in piece.bounds[::2])
    assert ends[1] == pytest.approx(-29 * k - beside[1], abs=1e-3 * k)
    assert ends[2] == pytest.approx(-20 * k + beside[0], abs=1e-3 * k)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("edges_are", ["edge", "radius"])
def test_lips_of_a_dovetail_are_broken_or_rounded(unit: str, edges_are: str) -> None:
    made(grooved(unit, right_angle=-15.0, left_angle=-15.0, corner_radius=0.2, edge_break=0.3, edges_are=edges_are))


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_dovetail_on_the_face(unit: str) -> None:
    made(grooved(unit, side="face", right_angle=-15.0, left_angle=-15.0, corner_radius=0.2, width=9.0))


def test_a_dovetail_in_a_bore() -> None:
    bar = msgspec.structs.replace(new_turn_tool("groove-inside", "mm", "dove-in"), width=3.0, flank=20.0, neck=1.4, station=40)
    job = grooved(side="inside", tools=(bar,), z=-15.0, floor_d=25.0, width=7.0, right_angle=-12.0, left_angle=-12.0,
                  corner_radius=0.1)  # fmt: skip
    made(job)
    filled: Any = plan(job).steps[-1].filled
    assert filled.tool == "dove-in"


@pytest.mark.parametrize(("unit", "slant_by", "begin"), crossed(5, ["mm", "inch"], [12.0, -12.0, 30.0], ["right", "left"]))
def test_a_floor_that_slants(unit: str, slant_by: float, begin: str) -> None:
    proof = made(grooved(unit, floor_angle=slant_by, corner_radius=2.5, width=10.0, floor_d=48.0, begin=begin))
    k = 1.0 if unit == "mm" else 1 / INCH
    floor = [shapely.LineString([(z * k, 0), (z * k, 40 * k)]).intersection(proof.part).bounds[3] / k for z in (-24.0, -26.0)]
    assert floor[0] - floor[1] == pytest.approx(2.0 * math.tan(math.radians(slant_by)), abs=1.5e-3)


def bowl(unit: str = "mm", inside: bool = False) -> Any:
    k = 1.0 if unit == "mm" else 1 / INCH
    pieces = (slant(d=50 * k, z=-14 * k), curve(d=50 * k, z=-26 * k, radius=30 * k, bulge="in"), slant(d=60 * k, z=-30 * k))
    return outline(pieces=pieces, d=60 * k, z=-10 * k, id="w", name="bowl", inside=inside)


@pytest.mark.parametrize(("unit", "begin"), crossed(3, ["mm", "inch"], ["right", "left", "middle"]))
def test_a_groove_that_is_drawn(unit: str, begin: str) -> None:
    job = grooved(unit, shape="own", outline="w", outlines=(bowl(unit),), begin=begin)
    proof = made(job)
    k = 1.0 if unit == "mm" else 1 / INCH
    middle = shapely.LineString([(-20 * k, 0), (-20 * k, 40 * k)]).intersection(proof.part).bounds[3] / k
    assert middle == pytest.approx(25.0 - (30 - math.sqrt(30**2 - 6**2)), abs=1e-3)


def test_several_that_are_drawn_stand_apart_as_asked() -> None:
    job = grooved(shape="own", outline="w", outlines=(bowl(),), count=2, pitch=22.0)
    proof = made(job)
    depths = [shapely.LineString([(z, 0), (z, 40)]).intersection(proof.part).bounds[3] for z in (-20.0, -42.0)]
    assert depths[0] == pytest.approx(depths[1], abs=1e-3)


@pytest.mark.parametrize(("unit", "begin"), crossed(3, ["mm", "inch"], ["right", "left", "middle"]))
def test_what_is_drawn_with_a_level_floor_is_cut_by_a_flat_blade(unit: str, begin: str) -> None:
    """A ledge in one wall, a slant and a radius in the other."""
    k = 1.0 if unit == "mm" else 1 / INCH
    pieces = (up(56 * k), along(-14 * k), up(48 * k), along(-24 * k), blend(1 * k), slant(d=54 * k, z=-25 * k), up(60 * k))
    job = grooved(unit, shape="own", outline="w", outlines=(outline(pieces=pieces, d=60 * k, z=-10 * k, id="w"),), begin=begin)
    made(job)
    filled: Any = plan(job).steps[-1].filled
    assert filled.tool == ("groove-3" if unit == "mm" else "groove-1-8")


@pytest.mark.parametrize(("unit", "begin"), crossed(3, ["mm", "inch"], ["right", "left", "middle"]))
def test_what_is_drawn_may_lean_over(unit: str, begin: str) -> None:
    """A dovetail as an outline is roughed under its walls, layer by layer, as one that is said by its angles."""
    k = 1.0 if unit == "mm" else 1 / INCH
    pieces = (slant(d=52 * k, z=-19 * k), blend(0.25 * k), along(-29 * k), blend(0.25 * k), slant(d=60 * k, z=-28 * k))
    job = grooved(unit, shape="own", outline="w", outlines=(outline(pieces=pieces, d=60 * k, z=-20 * k, id="w"),), begin=begin)
    proof = made(job)
    step: Any = plan(job).steps[-1]
    assert step.filled.leans(step.ctx) == (True, True)
    assert "dovetail" in step.filled.tool
    own = next(s for s in proof.stages if s.step == "g")
    wide = [float(v) for v in own.proof.cut[:, WIDE]]
    said = made(grooved(unit, z=-19.0, width=10.0, floor_d=52.0, right_angle=-14.0362, left_angle=-14.0362, corner_radius=0.25))
    likewise = next(s for s in said.stages if s.step == "g")
    assert max(wide) < 1.3 * max(float(v) for v in likewise.proof.cut[:, WIDE]) + 1e-9


def test_what_is_drawn_may_have_a_rise_in_its_middle() -> None:
    pieces = (up(50.0), slant(d=54.0, z=-18.0), slant(d=50.0, z=-26.0), up(60.0))
    made(grooved(shape="own", outline="w", outlines=(outline(pieces=pieces, d=60.0, z=-10.0, id="w", name="w"),)))


@pytest.mark.parametrize(
    ("answers", "field", "said"),
    [
        ({"right_angle": -24.0, "left_angle": -24.0, "width": 6.0, "floor_d": 54.0}, "tool", "mouth"),
        ({"right_angle": -45.0, "left_angle": -45.0, "width": 6.0, "floor_d": 40.0}, "left_angle", "no mouth"),
        ({"right_angle": -24.0, "width": 12.0, "corner_radius": 0.2}, "tool", "keep it from"),
        ({"floor_angle": 10.0, "corner_radius": 2.5, "tool": "groove-3"}, "tool", "full radius"),
        ({"right_angle": -15.0, "tool": "groove-3"}, "tool", "keep it from"),
        ({"shape": "own"}, "outline", "Pick"),
        ({"shape": "own", "outline": "w", "side": "face"}, "outline", ""),
        ({"side": "face", "outer_d": 28.0, "right_angle": -10.0, "tool": "dovetail-face-4"}, "tool", "enters from Ø30"),
    ],
)
def test_what_cannot_be_cut_is_said_beside_its_answer(answers: dict[str, Any], field: str, said: str) -> None:
    found = plan(grooved(outlines=(bowl(),), **answers)).steps[-1].troubles
    assert [t.field for t in found[:1]] == [field], found
    assert said in found[0].text


def test_a_face_blade_goes_in_where_its_curve_finds_room_and_widens_from_there() -> None:
    """The smallest and the largest circle are of the first plunge: begun at its outer side a groove may go on inward."""
    blade = TurnTool(id="b", station=40, kind="grooving", name="b", side="face", width=3.0, corner_radius=0.2, reach=12.0,
                     least_d=48.0, most_d=60.0)  # fmt: skip
    for begin, fits in (("right", True), ("left", False)):
        job = grooved(side="face", tools=(blade,), width=12.0, outer_d=50.0, begin=begin, tool="b")
        troubles = plan(job).steps[-1].troubles
        assert bool(troubles) != fits, (begin, troubles)
        if fits:
            made(job)
    job = grooved(side="face", tools=(blade,), width=12.0, outer_d=62.0, begin="right", tool="b")
    assert "up" in plan(job).steps[-1].troubles[0].text or "to Ø60" in plan(job).steps[-1].troubles[0].text


def test_a_bar_that_does_not_go_into_the_bore_is_said() -> None:
    job = grooved(side="inside", z=-15.0, floor_d=25.0, width=4.0)
    narrow: Any = job.tool("groove-in-2")
    wide = msgspec.structs.replace(narrow, min_bore=24.0)
    found = plan(answering.answered(tool_given(job, wide), "step:g.tool", "groove-in-2")).steps[-1].troubles
    assert "bore of Ø24" in found[0].text


@settings(max_examples=many(25), deadline=None)
@given(
    st.floats(5.0, 20.0), st.floats(48.0, 58.0), st.floats(-24.0, 30.0), st.floats(-24.0, 30.0), st.floats(0.0, 0.8),
    st.floats(0.0, 0.5), st.sampled_from(["right", "left", "middle"]), st.sampled_from(["mm", "inch"]),
    st.sampled_from(["plunge", "sideways"]), st.sampled_from(["yes", "no"]),
)  # fmt: skip
def test_any_walls(
    width: float,
    floor: float,
    right: float,
    left: float,
    radius: float,
    edge: float,
    begin: str,
    unit: str,
    rough: str,
    finish: str,
) -> None:
    assume(min(right, left) < 0)
    own: Any = {"width": width, "floor_d": floor, "right_angle": right, "left_angle": left, "corner_radius": radius}
    planned = plan(grooved(unit, edge_break=edge, begin=begin, rough=rough, finish=finish, **own))
    assume(not planned.steps[-1].troubles)
    found = codes(prove_job(planned), "stop")
    assert not (found - {"left"} if finish == "no" else found), found


@settings(max_examples=many(25), deadline=None)
@given(
    st.floats(6.0, 20.0), st.floats(44.0, 56.0), st.floats(-20.0, 30.0), st.floats(-20.0, 30.0), st.floats(-30.0, 30.0),
    st.sampled_from(["right", "left", "middle"]), st.sampled_from(["mm", "inch"]),
)  # fmt: skip
def test_any_floor(width: float, floor: float, right: float, left: float, slant_by: float, begin: str, unit: str) -> None:
    own: Any = {"width": width, "floor_d": floor, "right_angle": right, "left_angle": left, "corner_radius": 2.4}
    planned = plan(grooved(unit, floor_angle=slant_by, begin=begin, **own))
    assume(not planned.steps[-1].troubles)
    assert not codes(prove_job(planned), "stop")


@st.composite
def drawn_shapes(draw: st.DrawFn) -> tuple[Any, str]:
    """A groove from lip to lip: walls that open or lean over, a ledge in the right one, a floor that slants, radii between."""
    unit = draw(st.sampled_from(["mm", "inch"]))
    k = 1.0 if unit == "mm" else 1 / INCH
    right, left = (math.tan(math.radians(draw(st.floats(-20.0, 35.0)))) for _ in range(2))
    floor, wide = draw(st.floats(44.0, 57.0)), draw(st.floats(6.0, 20.0))
    z, pieces = -10.0 - (60.0 - floor) / 2 * right, []
    if draw(st.booleans()):
        ledge = 60.0 - (60.0 - floor) * draw(st.floats(0.3, 0.7))
        z = -10.0 - (60.0 - ledge) / 2 * right
        pieces.append(slant(d=ledge * k, z=z * k))
        z -= draw(st.floats(0.5, 3.0))
        pieces += [along(z * k), up(floor * k)]
    else:
        pieces.append(slant(d=floor * k, z=z * k))
    if draw(st.booleans()):
        pieces.append(blend(draw(st.floats(0.2, 2.5)) * k))
    other = min(floor + draw(st.sampled_from([0.0, 0.0, -2.0, 1.5])), 58.0)
    z -= wide
    pieces.append(along(z * k) if other == floor else slant(d=other * k, z=z * k))
    if draw(st.booleans()):
        pieces.append(blend(draw(st.floats(0.2, 2.5)) * k))
    pieces.append(slant(d=60.0 * k, z=(z - (60.0 - other) / 2 * left) * k))
    return outline(pieces=pieces, d=60.0 * k, z=-10.0 * k, id="w", name="w"), unit


@settings(max_examples=many(20), deadline=None)
@given(drawn_shapes(), st.sampled_from(["right", "left", "middle"]), st.sampled_from(["plunge", "sideways"]))
def test_any_groove_that_is_drawn_is_cut_or_said(shape: tuple[Any, str], begin: str, rough: str) -> None:
    drawn, unit = shape
    planned = plan(grooved(unit, shape="own", outline="w", outlines=(drawn,), begin=begin, rough=rough))
    assume(not planned.steps[-1].troubles)
    proof = prove_job(planned)
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
