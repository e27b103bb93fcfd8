"""A finger on the part as cut: where it is to the micrometre, how far it is from the finished part, which line made it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.live.tasks import State, solid
from bastler.proof import JobProof, MillProof, TurnProof
from bastler.proof.mill.offs import floor_classes, wanted_of
from bastler.proof.mill.touch import touched
from bastler.proof.offs import STEPS, classes
from bastler.proof.scene import WantedStep
from bastler.proof.scrub import Moment, moment_at
from bastler.proof.touch import Face, Touch, Vector, apart
from bastler.proof.turn.touch import touched as touched_turned
from bastler.shapes import Flat
from bastler.steps import RectangularPocket
from bastler.units import Unit
from conftest import MILLED, TURNED, many, sample_proof, some

UP = (0.0, 0.0, 1.0)


def the_end(proof: MillProof | TurnProof) -> Moment:
    return moment_at(proof, proof.total)


def step_of(proof: MillProof | TurnProof, touch: Touch) -> str:
    return next(s.step for s in proof.stages if s.begin <= touch.move < s.end)


def milled(name: str) -> MillProof:
    proof = sample_proof(name).holdings[0]
    assert isinstance(proof, MillProof)
    return proof


def turned(name: str) -> TurnProof:
    proof = sample_proof(name).holdings[0]
    assert isinstance(proof, TurnProof)
    return proof


# -- milled ---------------------------------------------------------------------------------------------------------------------


def test_walls_floors_and_holes_are_where_the_print_has_them() -> None:
    """The gear well of the winch base is 80 × 50, 12 deep, about (75, 50); a deck bolt's hole is Ø6.8 at (121, 50). A solid shows
    walls a third of a cell off at most: the finger is set down as far beside them."""
    proof, off = milled("winch-base"), 0.04
    end = the_end(proof)
    front = touched(proof, end, 0, (60.0, 25.0 + off, -5.0), (0.0, 1.0, 0.0))
    assert front.place == pytest.approx((60.0, 25.0, -5.0), abs=1e-6)
    assert (front.face.kind, front.off, step_of(proof, front)) == ("plane", 0.0, "s2")
    floor = touched(proof, end, 0, (42.0, 50.0, -12.0 - off), UP)
    assert (floor.place[2], floor.face.kind, floor.off) == (pytest.approx(-12.0, abs=1e-6), "plane", 0.0)
    hole = touched(proof, end, 0, (121.0 + 3.4 - off, 50.0, -20.0), (-1.0, 0.0, 0.0))
    assert (hole.face.kind, hole.face.hollow, hole.off) == ("round", True, 0.0)
    assert hole.face.radius == pytest.approx(3.4, abs=1e-6)
    assert hole.face.place[:2] == pytest.approx((121.0, 50.0))
    assert "G83" in proof.program.lines[int(proof.trace.line[hole.move])]


def test_corners_that_arcs_made_are_round() -> None:
    proof, r = milled("winch-base"), 8.5
    c, way = np.array([35.0 + r, 25.0 + r]), -math.sqrt(0.5)
    place = (c[0] + way * (r - 0.03), c[1] + way * (r - 0.03), -6.0)
    corner = touched(proof, the_end(proof), 0, place, (-way, -way, 0.0))
    assert (corner.face.kind, corner.face.hollow) == ("round", True)
    assert corner.face.radius == pytest.approx(r, abs=2e-3)
    assert corner.face.place[:2] == pytest.approx(tuple(c), abs=2e-3)


def test_what_is_still_to_go_is_told_at_any_moment() -> None:
    proof = milled("winch-base")
    begin = moment_at(proof, 0.5)
    top = touched(proof, begin, 0, (60.0, 50.0, 1.0), UP)
    assert (top.move, top.face.kind) == (-1, "plane")
    assert top.off == pytest.approx(19.0, abs=1e-6), "the block is 1 over the top, the pawl seat's floor 18 under it"
    side = touched(proof, begin, 0, (-1.0, 50.0, -10.0), (-1.0, 0.0, 0.0))
    assert (side.off, side.face.normal) == (0.0, (-1.0, 0.0, 0.0)), "nobody takes anything there"


def test_what_roughing_leaves_for_finishing_is_told() -> None:
    """At the end of the first stage of the gear well its walls stand off by what it leaves on them."""
    proof = milled("winch-base")
    rough = next(s for s in proof.stages if s.step == "s2")
    moment = moment_at(proof, rough.t1)
    assert proof.held is not None
    pocket = next(s for s in proof.held.steps if s.step.id == "s2").filled
    assert isinstance(pocket, RectangularPocket)
    leaves = pocket.leave_wall or 0.0
    wall = touched(proof, moment, 0, (60.0, 25.0 + leaves + 0.03, -5.0), (0.0, 1.0, 0.0))
    assert wall.off == pytest.approx(leaves, abs=1e-6)
    assert wall.place[1] == pytest.approx(25.0 + leaves, abs=1e-6)


@pytest.mark.parametrize("name", some(MILLED, 3))
def test_a_proved_part_is_nowhere_off(name: str) -> None:
    """Whatever face of the solid is touched: nothing to go, nothing missing, and what a tool made has its line."""
    whole, proof = sample_proof(name), milled(name)
    assert proof.held is not None
    found = solid(State(proof=whole), proof.held.holding.id, the_end(proof), None, False)
    assert found is not None
    mesh = found[0]
    some = np.random.default_rng(5).choice(len(mesh.triangles), many(60))
    off = []
    for k in some.tolist():
        corners = mesh.triangles[k]
        place, normal = mesh.points[corners].mean(axis=0), mesh.normals[corners].mean(axis=0)
        told = touched(proof, the_end(proof), 0, vector(place), vector(normal))
        if told.off is not None:
            off.append(told.off)
    assert len(off) > len(some) / 2, "at brinks alone it is not known better than to a cell"
    assert not proof.proved or max(map(abs, off)) <= 0.002 * proof.scene.mm


def vector(p: np.ndarray) -> Vector:
    return (float(p[0]), float(p[1]), float(p[2]))


# -- turned ---------------------------------------------------------------------------------------------------------------------


def test_the_journals_of_the_drum_spindle() -> None:
    proof = turned("drum-spindle")
    end = the_end(proof)
    journal = touched_turned(proof, end, -25.0, 15.02)
    assert (2 * journal.place[0], journal.face.kind, journal.off) == (pytest.approx(30.0, abs=0.002), "round", 0.0)
    assert not journal.face.hollow
    groove = touched_turned(proof, end, -32.0, 13.28)
    assert 2 * groove.place[0] == pytest.approx(26.6, abs=0.002)
    assert (step_of(proof, journal), step_of(proof, groove)) == ("s3", "s5")
    face = touched_turned(proof, end, 0.01, 5.0)
    assert (face.face.kind, face.face.normal, step_of(proof, face)) == ("plane", UP, "s1")
    assert face.place[2] == pytest.approx(0.0, abs=1e-9)


def test_in_the_bar_and_in_a_thread_there_is_nothing_to_compare() -> None:
    proof = turned("drum-spindle")
    end = the_end(proof)
    inside = touched_turned(proof, end, -30.0, 4.0)
    assert (inside.face.kind, inside.off, inside.move) == ("inside", None, -1)
    assert touched_turned(proof, end, -30.0, 13.3, inside=True).face.kind == "inside"
    flank = touched_turned(proof, end, -6.5, 11.6)
    assert flank.off is None


def test_before_anything_is_cut_all_of_it_is_to_go() -> None:
    proof = turned("drum-spindle")
    raw = touched_turned(proof, moment_at(proof, 0.0), -25.0, 19.0)
    assert (raw.move, raw.off) == (-1, pytest.approx(4.0, abs=0.01)), "from Ø38 to Ø30"


@pytest.mark.parametrize("name", TURNED)
def test_touched_places_lie_on_the_section(name: str) -> None:
    proof = turned(name)
    part, mm = proof.part, proof.scene.mm
    for share in np.linspace(0.02, 0.98, 15).tolist():
        edge = part.boundary.interpolate(share, normalized=True)
        if edge.y < 1e-6:
            continue
        told = touched_turned(proof, the_end(proof), edge.x, edge.y + 0.01 * mm)
        assert part.boundary.distance(edge) < 1e-9
        assert math.hypot(told.place[2] - edge.x, told.place[0] - edge.y) < 0.02 * mm
        if told.off is not None and proof.proved:
            assert abs(told.off) < 0.05 * mm, "the fillets of noses in corners are all there is"


# -- how far apart --------------------------------------------------------------------------------------------------------------


def at(face: Face) -> Touch:
    return Touch(face.place, face, 0.0, 0)


def flat(place: Vector, normal: Vector) -> Touch:
    return at(Face("plane", place, normal))


def hole(x: float, y: float, radius: float = 3.0) -> Touch:
    return at(Face("round", (x, y, 0.0), UP, radius, hollow=True))


def test_faces_and_axes_are_measured_as_a_machinist_would() -> None:
    assert apart(flat((0, 0, 0), UP), flat((30, 40, -12), UP)).amount == 12.0
    assert apart(flat((5, 0, 0), (1, 0, 0)), flat((85, 20, -3), (-1, 0, 0))).what == "face to face"
    between = apart(hole(0, 0), hole(30, 40))
    assert (between.what, between.amount, between.by[:2]) == ("axis to axis", 50.0, (30.0, 40.0))
    edge = apart(flat((0, 7, -5), (-1, 0, 0)), hole(9, 9))
    assert (edge.what, edge.amount) == ("axis to face", 9.0)
    assert apart(hole(9, 9), flat((0, 7, -5), (-1, 0, 0))).amount == 9.0, "whichever is touched first"
    slant = apart(flat((0, 0, 0), UP), flat((1, 1, 1), (math.sin(0.5), 0.0, math.cos(0.5))))
    assert (slant.what, slant.amount) == ("angle", pytest.approx(180 - math.degrees(0.5)))
    assert apart(hole(4, 4), hole(4, 4, 5.0)).what == "on one axis"
    assert apart(hole(0, 0), flat((3, 4, -12), UP)).what == "point to point", "a floor is no wall"


@given(*[st.tuples(*[st.floats(-100, 100)] * 3)] * 2)
def test_both_ways_it_is_as_far(a: Vector, b: Vector) -> None:
    one, two = at(Face("slope", a, (0.6, 0.0, 0.8))), at(Face("slope", b, (0.0, 0.6, 0.8)))
    there, back = apart(one, two), apart(two, one)
    assert there.amount == pytest.approx(back.amount)
    assert there.by == pytest.approx(tuple(-v for v in back.by))
    assert there.amount == pytest.approx(math.dist(a, b))


# -- by amount ------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_amounts_have_classes_by_the_steps_of_their_unit(unit: Unit) -> None:
    steps = np.array(STEPS[unit])
    assert classes(steps, unit).tolist() == [1, 2, 3, 4, 5]
    assert classes(-steps, unit).tolist() == [-1, -2, -3, -4, -5]
    assert classes(np.array([0.0, steps[0] * 0.99, np.inf, -np.inf]), unit).tolist() == [0, 0, 5, -5]


def shown(whole: JobProof, seconds: float) -> Iterator[np.ndarray]:
    state = State(proof=whole)
    for proof in whole.holdings:
        assert proof.held is not None
        found = solid(state, proof.held.holding.id, moment_at(proof, seconds), None, False, compared=True)
        assert found is not None
        yield found[0].off


@pytest.mark.parametrize("name", ["winch-base", "pawl-plate", "drum-spindle"])
def test_a_proved_part_has_one_colour_and_a_raw_one_others(name: str) -> None:
    whole = sample_proof(name)
    assert whole.proved
    assert all(not off.any() for off in shown(whole, 1e9))
    raw = next(shown(whole, 0.0))
    assert (raw > 0).any()
    assert not (raw < 0).any()


@pytest.mark.parametrize(("wanted", "colour"), [(11.5, -3), (11.97, -1), (12.0, 0), (12.03, 1), (12.5, 3)])
def test_a_gouge_and_what_is_left_have_the_colour_of_their_amount(wanted: float, colour: int) -> None:
    """The text cuts the gear well 12 deep; where less is wanted something is missing, where more is, something is to go."""
    proof = milled("winch-base")
    steps = [other_depth(w, wanted) for w in proof.scene.wanted]
    other = replace(proof, scene=replace(proof.scene, wanted=steps))
    off = floor_classes(other, other.heights, wanted_of(other, 0))
    grid = proof.grid
    assert off[int((50.0 - grid.y0) / grid.dy), int((42.0 - grid.x0) / grid.dx)] == colour
    told = touched(other, the_end(other), 0, (42.0, 50.0, -12.0), UP)
    assert told.off == pytest.approx(wanted - 12.0, abs=1e-6)


def other_depth(wanted: WantedStep, depth: float) -> WantedStep:
    if wanted.step != "s2":
        return wanted
    return replace(wanted, removals=[Flat(r.region, -depth) if isinstance(r, Flat) else r for r in wanted.removals])
