"""A part handed over from one chuck to the other: planned, written in one program, read back and proved in both."""

from __future__ import annotations

import math
import re
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import ChuckHolding, Job, answering, edits, plan
from bastler.job.faults import unfounded
from bastler.job.samples import sample
from bastler.job.turn_planning import turned_round
from bastler.live.showing import around
from bastler.machines import CARDS
from bastler.nc import read
from bastler.post import Program, post
from bastler.post.lathe import second_at
from bastler.proof import JobProof, prove_whole
from bastler.proof.polar.dexels import Dexels, Packed
from bastler.proof.scenes import scene_of
from bastler.proof.turn.both import control_of
from bastler.proof.turn.handing import angle_kept
from bastler.shapes import PointsPattern
from bastler.steps import CentreHole, Drilling, Flats, HandOver, PartOff, Threading, TurnFacing
from bastler.steps.transfer.hand_over import lands, outside, straight
from conftest import handed, many, sample_proof, slipped, turned

FACE, OVER, OFF, BACK = TurnFacing(id="f"), HandOver(id="h"), PartOff(id="p", edge_break=0.0), TurnFacing(id="b")
HOLE = PointsPattern(id="p1", name="hole", points=((-30.0, 0.0),))
BEHIND = PointsPattern(id="p2", name="from behind", points=((-8.0, 0.0),))
JAWS = {"second-jaws-hit", "second-chuck-hit", "jaws-hit", "chuck-hit"}


def planned_of(job: Job) -> Any:
    return plan(job)


def text_of(job: Job) -> str:
    return post(planned_of(job).programs[0]).text


def proved(job: Job, text: str | None = None) -> Any:
    return prove_whole(planned_of(job), {0: Program.foreign(text)} if text is not None else None)


def codes(proof: JobProof) -> set[str]:
    return {remark.code for remark in proof.remarks}


def crossed(angle: float = 30.0, depth: float = 10.0) -> Drilling:
    return Drilling(
        id="c", where_on="side", at_c=angle, pattern="p1", diameter=5.0, extent="blind", depth=depth, depth_to="full", spot="no"
    )


def from_behind(angle: float = 90.0) -> Drilling:
    """Another one, in the second chuck."""
    return msgspec.structs.replace(crossed(angle), id="d", pattern="p2")


def with_hole(*behind: Any, hand: HandOver = OVER) -> Job:
    """A cross hole in the main chuck, then handed over and parted off; in the second chuck the back is faced."""
    job = handed(FACE, crossed(), hand, OFF, behind=(BACK, *behind))
    return msgspec.structs.replace(job, patterns=(HOLE, BEHIND))


# -- planned ------------------------------------------------------------------------------------------------------


def test_the_part_is_typed_from_its_back_as_from_its_front() -> None:
    planned = planned_of(handed(FACE, OVER, OFF, behind=(BACK,)))
    first, second = planned.holdings
    assert not planned.troubles
    assert second.turned.raw.bounds == pytest.approx((-40.0, 0.0, 1.0, 25.0))
    assert (second.bar.front, second.bar.finished, second.bar.over_back) == (1.0, 40.0, 0.0)
    grip = first.steps[1].filled.grip
    assert second.jaws_at == pytest.approx(grip - 40.0), "where the jaws' face is, from the back"
    assert second.chuck.offset_z == pytest.approx(60.0 + 40.0 - grip), "its jaws stand 60 before the spindle's face"
    assert planned.steps[-1].filled.finish_z == 0.0
    assert planned.programs == (planned.holdings,), "both are in one program"


def test_what_is_left_at_the_front_is_behind_the_part_in_the_second_chuck() -> None:
    planned = planned_of(handed(OVER, OFF, behind=(BACK,), front_comes="stays"))
    second = planned.holdings[1]
    assert second.turned.raw.bounds[0] == pytest.approx(-41.0)
    assert second.bar.over_back == 1.0


def test_without_a_part_off_all_of_the_bar_goes_along() -> None:
    second = planned_of(handed(FACE, OVER, behind=())).holdings[1]
    assert second.turned.raw.bounds == pytest.approx((-40.0, 0.0, 59.0, 25.0))


@pytest.mark.parametrize(
    ("job", "field", "words"),
    [
        (handed(FACE, OFF), "holding:h2.follows", "Nothing hands the part over"),
        (handed(FACE, msgspec.structs.replace(OVER, grip=30.0)), "holding:h2.follows", "cannot be done"),
        (answering.answered(handed(FACE, OVER), "holding:h2.work_offset", "G54"), "holding:h2.work_offset", "main chuck"),
    ],
)
def test_why_a_part_is_not_in_the_second_chuck(job: Job, field: str, words: str) -> None:
    troubles = planned_of(job).troubles
    assert [t.field for t in troubles] == [field]
    assert words in troubles[0].text
    proof = proved(job)
    assert proof.verdict == "stop"
    if "Nothing" in words:
        cure = next(r for r in proof.remarks if r.field == field).cures[0]
        assert cure.says == "Hand it over"
        healed = edits.cured(job, cure.address, cure.value)
        assert [type(s) for s in healed.holdings[0].steps] == [TurnFacing, HandOver, PartOff]
        assert len(healed.holdings) == 2
        assert not planned_of(healed).troubles


@pytest.mark.parametrize(
    ("answers", "field"),
    [
        ({"grip": 25.1}, "grip"),
        ({"force": 100.0}, "force"),
        ({"force": 5000.0}, "force"),
        ({"window": 10.0}, "window"),
        ({"n": 4000.0}, "n"),
    ],
)
def test_answers_that_do_not_go_are_told_with_one_that_does(answers: dict[str, float], field: str) -> None:
    job = handed(FACE, msgspec.structs.replace(OVER, **answers), OFF)
    trouble = planned_of(job).steps[1].troubles[0]
    assert trouble.field == field
    healed = answering.answered(job, f"step:h.{field}", trouble.fits)
    assert not planned_of(healed).steps[1].troubles


def test_no_second_chuck_comes_where_a_tailstock_is() -> None:
    job = handed(FACE, OVER)
    held = answering.answered(job, "holding:h1.tailstock", "yes")
    assert "tailstock" in planned_of(held).step("h").troubles[0].text
    hit = [r for r in proved(held, text_of(job)).remarks if r.code == "second-hit"]
    assert "tailstock" in hit[0].text


def test_jaws_of_both_chucks_do_not_meet() -> None:
    planned = planned_of(handed(FACE, msgspec.structs.replace(OVER, grip=20.0), stick_out=20.0, length=60.0, finished=30.0))
    assert "jaws of both chucks meet" in planned.steps[1].troubles[0].text


def test_jaws_reach_over_what_is_straight_and_stay_off_a_shoulder() -> None:
    nut = planned_of(sample("coupling-nut"))
    hand = nut.step("s7")
    assert hand is not None
    assert hand.filled.grip == 14.5, "the collar is 16 long, with a radius of 1 at its shoulder"
    assert hand.filled.held_d(hand.turned) == pytest.approx(32.0, abs=1e-3)
    plain = planned_of(handed(FACE, OVER)).steps[1].filled
    assert plain.grip == 16.0, "no more than 40 % of the part"


def test_a_tool_points_at_one_chuck_and_one_across_serves_both() -> None:
    job = handed(FACE, OVER, OFF, behind=(msgspec.structs.replace(BACK, tool="c80-08"),))
    trouble = planned_of(job).step("b").troubles[0]
    assert trouble.field == "tool"
    assert "points at the main chuck in station 1" in trouble.text
    chosen = planned_of(handed(FACE, OVER, OFF, behind=(BACK,))).step("b").filled.tool
    assert chosen not in (None, "c80-08"), "what is proposed is another one"
    planned = planned_of(with_hole(from_behind()))
    both = [planned.step(ident).stages[0].tool for ident in ("c", "d")]
    assert both[0].id == both[1].id
    assert both[0].station == both[1].station


def test_the_order_of_a_new_hand_over_and_what_comes_with_it() -> None:
    job, _ = edits.step_added(turned(FACE, OFF, machine="turn-mill-250"), "hand-over", "p")
    assert [type(s).__name__ for s in job.holdings[0].steps] == ["TurnFacing", "HandOver", "PartOff"]
    assert [(h.follows, h.work_offset) for h in job.holdings] == [("first", "G54"), ("handed", "G55")]
    hand = next(s for s in job.steps if isinstance(s, HandOver))
    assert job.stock.over_back == 1.0, "something to be faced"
    assert len(edits.step_removed(job, hand.id).holdings) == 1, "nothing was done in it yet"
    more, _ = edits.step_added(job, "turn-facing", "holding:h2")
    assert len(edits.step_removed(more, hand.id).holdings) == 2
    assert not list(unfounded(job))


def test_a_machine_without_a_second_spindle_is_not_taken() -> None:
    job = handed(FACE, OVER, OFF)
    with pytest.raises(answering.UnfitAnswer, match="no second spindle"):
        answering.answered(job, "job.machine", "lathe-driven")
    alone = turned(FACE, OVER, machine="lathe-driven")
    assert "no second spindle" in planned_of(alone).steps[1].troubles[0].text
    assert len(edits.step_added(turned(FACE), "turn-facing", "f")[0].holdings) == 1


def test_what_is_left_at_the_back_is_missed_and_its_ways_out_are_at_the_back() -> None:
    job = handed(FACE, OVER, OFF, behind=())
    proof = proved(job)
    assert proof.verdict == "left"
    left = next(r for r in proof.remarks if r.code == "raw-left")
    assert "at the back" in left.text
    faced = edits.cured(job, left.cures[0].address, left.cures[0].value)
    assert [len(h.steps) for h in faced.holdings] == [3, 1]
    assert proved(faced).verdict == "proved"
    stays = edits.cured(job, left.cures[1].address, left.cures[1].value)
    assert stays.stock.back_comes == "stays"
    assert stays.stock.front_comes == "off"
    assert {r.code for r in proved(stays).remarks} == {"raw-stays"}
    assert planned_of(handed(FACE, OVER, OFF)).first.stock.back_comes == "off"
    assert planned_of(turned(FACE, over_back=1.0)).first.stock.back_comes == "stays", "nobody promises it in one holding"


# -- turned round by hand -----------------------------------------------------------------------------------------


def by_hand(*first: Any, behind: tuple = (BACK,), machine: str = "lathe-200") -> Job:
    job = turned(*first, machine=machine, over_back=1.0, finished=40.0, stick_out=80.0)
    job, ident = edits.holding_added(job, "over", "holding:h1")
    held = job.holding(ident)
    assert isinstance(held, ChuckHolding)
    return msgspec.structs.replace(job, holdings=(job.holdings[0], msgspec.structs.replace(held, steps=behind)))


def test_turned_round_by_hand_there_are_two_programs() -> None:
    job = by_hand(FACE, OFF)
    planned, proof = planned_of(job), proved(job)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    assert len(planned.programs) == 2
    assert [h.number for h in planned.holdings] == [1, 11]
    assert [h.chuck.work_offset for h in planned.holdings] == ["G54", "G54"], "each is touched off by itself"
    part = proof.holdings[1].part
    assert part.bounds == pytest.approx((-40.0, 0.0, 0.0, 30.0), abs=1e-6)
    chosen = planned.step("b")
    assert chosen is not None
    assert chosen.filled.tool == "c80-08", "the same tools serve again"


def test_turned_round_by_hand_an_angle_is_lost() -> None:
    job = msgspec.structs.replace(
        by_hand(FACE, crossed(), OFF, behind=(BACK, from_behind()), machine="lathe-driven"),
        patterns=(HOLE, BEHIND),
    )
    planned = planned_of(job)
    assert not planned.step("c").troubles
    assert "nobody knows" in planned.step("d").troubles[0].text


# -- written ------------------------------------------------------------------------------------------------------


def test_the_words_of_a_hand_over_come_in_their_order() -> None:
    lines = text_of(handed(FACE, OVER, OFF, behind=(BACK,))).splitlines()
    words = ["M62", "M21", "M27", "G0 W-566", "M28", "M71 P250", "G31 W-576 Q0.3 F500", "M20", "M72", "M5", "G0 W0", "M60", "M24"]
    places = [lines.index(word) for word in words]
    assert places == sorted(places)
    assert "M11" not in lines, "the part is off: the main chuck keeps the bar"
    assert lines.index("M24") < next(k for k, line in enumerate(lines) if line.startswith("G55"))
    assert lines[-4:] == ["M5", "M23", "M30", "%"]


def test_where_w_goes_follows_from_both_zeros() -> None:
    job = handed(FACE, OVER)
    for zero in (None, 150.0):
        given = answering.answered(job, "holding:h1.offset_z", zero)
        held = planned_of(given).first
        two = CARDS["turn-mill-250"].second
        assert two is not None
        w = second_at(held, -16.0)
        assert w + two.apart - two.jaws == pytest.approx((zero or 120.0) - 16.0), "its jaws' face, as the machine counts"
        assert f"W{w:g}" in text_of(given)


def test_without_contact_it_goes_to_a_place() -> None:
    text = text_of(handed(FACE, msgspec.structs.replace(OVER, contact="free", turning="stands", angle="lost")))
    lines = text.splitlines()
    assert "G1 W-576 F500" in lines
    assert not {"M61", "M62", "M60", "M71 P250"} & set(lines)
    assert "G97 S500 M3" not in lines


def test_a_job_in_inches_says_inches() -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK,), unit="inch")
    proof = proved(job)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    skip = next(line for line in text_of(job).splitlines() if line.startswith("G31"))
    w, window, feed = (float(word[1:]) for word in skip.split()[1:])
    held = planned_of(job).first
    assert w == pytest.approx(second_at(held, -held.steps[1].filled.grip), abs=1e-4)
    assert (window, feed) == (0.012, 20.0)


# -- read ---------------------------------------------------------------------------------------------------------


def traced(job: Job, text: str) -> Any:
    planned = planned_of(job)
    return read(text, control_of([scene_of(planned, held.place) for held in planned.programs[0]]))


def test_behind_the_choice_places_are_those_of_the_second_chuck() -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK,))
    trace = traced(job, text_of(job))
    assert not trace.findings
    at = int(np.flatnonzero(trace.side == 1)[0])
    held, two = planned_of(job).holdings[1], CARDS["turn-mill-250"].second
    assert two is not None
    tool = next(t for t in held.ctx.tools if t.station == int(trace.tool[at]))
    home, zero = 650.0, held.chuck.offset_z
    assert trace.start[at, 2] == pytest.approx(two.faces - home - zero - tool.length_z), "where the turret is, counted from there"
    assert trace.end[-1, 2] == pytest.approx(trace.start[at, 2]), "and home again"
    assert trace.w[at].tolist() == [0.0, 0.0]


@pytest.mark.parametrize(
    ("old", "new", "code"),
    [
        ("G0 W-566", "G0 W-566 X100", "second-moves"),
        ("G0 W-566", "G2 W-566 R5 F9", "second-moves"),
        ("G31 W", "G31 F500", "second-moves"),
        ("M71", "M71", "push"),
        ("G55 G0", "G55 G0 W-10", "second-moves"),
        ("M24", "M3 S500\nM24", "other-spindle"),
        ("M24", "G52 Z5\nM24", "other-spindle"),
        ("M23", "M23\nG54 G0 Z50", "main-again"),
        ("M23", "M23\nM24", "other-spindle"),
        ("M24", "(never)", "never-handed"),
        ("G55 G0", "G54 G0 Z6", "offset-unknown"),
        ("G55 G0", "G10 L2 P2 Z5\nG55 G0 Z6", "offset"),
    ],
)
def test_words_of_two_spindles_that_are_refused(old: str, new: str, code: str) -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK,))
    lines = text_of(job).splitlines()
    at = next(k for k, line in enumerate(lines) if line.startswith(old))
    proof = proved(job, "\n".join([*lines[:at], new, *lines[at + 1 :]]))
    assert code in codes(proof), codes(proof)
    assert proof.verdict == "stop"


def test_a_part_is_handed_over_once_and_only_where_there_is_a_holding() -> None:
    job = handed(FACE, OVER)
    alone = msgspec.structs.replace(job, holdings=job.holdings[:1])
    assert "other-spindle" in codes(proved(alone, text_of(job)))
    assert proved(alone).verdict == "proved", "it may be taken out of the second chuck by hand"
    assert "G0 W0" in text_of(alone)


def test_steps_by_w_and_machine_places() -> None:
    job = handed(FACE, OVER)
    head = "G21\nG18 G90\nT0101\n"
    trace = traced(job, head + "G0 W-100\nG91\nG0 W-20\nG90\nG94\nG1 W-130 F600\nG53 G0 Z600\n")
    assert not [f for f in trace.findings if f.level == "stop"]
    assert trace.w.tolist() == [[0.0, -100.0], [-100.0, -120.0], [-120.0, -130.0], [-130.0, -130.0]]
    assert trace.lengths()[:3].tolist() == [100.0, 20.0, 10.0]


# -- proved -------------------------------------------------------------------------------------------------------


def test_the_coupling_nut_is_as_long_as_it_is_to_be_and_its_hexagon_lies_to_its_hole() -> None:
    proof = sample_proof("coupling-nut")
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    second: Any = proof.holdings[1]
    z0, _, z1, _ = second.part.bounds
    assert z1 - z0 == pytest.approx(40.0, abs=1e-6)
    rays = final_rays(second)
    step = 2 * math.pi / len(rays.count)
    slab = int(np.searchsorted(rays.edges, -12.0)) - 1  # 28 behind the front are 12 before the back
    outer = rays.hi[np.arange(len(rays.count)), slab, rays.count[:, slab].astype(int) - 1]
    angles = (np.arange(len(rays.count)) + 0.5) * step
    hole = rays.count[:, slab] == 0
    assert hole[0], "the oil hole goes through the wall where C is 0"
    assert hole[-1]
    hexagon = 18.0 / np.cos((angles + math.pi / 6) % (math.pi / 3) - math.pi / 6)
    wanted = np.minimum(hexagon, 20.75)
    assert outer[~hole] == pytest.approx(wanted[~hole], abs=0.01), "flats at 0, 60, 120 …"


def final_rays(proof: Any) -> Dexels:
    from bastler.proof.polar.run import PolarRun

    last = next(stage.proof for stage in reversed(proof.stages) if isinstance(stage.proof, PolarRun))
    rays: Dexels = last.behind.dexels()
    return rays


@pytest.mark.parametrize("angle", [0.0, 30.0, 77.5, 200.0])
def test_an_angle_of_the_front_is_its_mirror_from_behind(angle: float) -> None:
    """Turned over about the axis across: what was at an angle is at as much the other way round."""
    job = msgspec.structs.replace(
        handed(FACE, crossed(angle), OVER, OFF, behind=(BACK, msgspec.structs.replace(crossed(-angle), id="d"))), patterns=(HOLE,)
    )
    behind = answering.answered(job, "pattern:p1.points", ((-20.0, 0.0),))
    proof = proved(behind)
    stages = [stage for stage in proof.holdings[1].stages if stage.step == "d"]
    assert sum(stage.volume for stage in stages) == pytest.approx(0.0, abs=1.0), "there is nothing left to drill"
    assert "air" in codes(proof)


def test_volumes_of_both_sides() -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK, Flats(id="x", across=43.3, x=0.0, length=20.0)))
    proof = proved(job)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    r, a = 25.0, 21.65
    half = math.acos(a / r)
    flat = r * r * (half - math.sin(half) * math.cos(half))
    milled = sum(stage.volume for stage in proof.holdings[1].stages if stage.step == "x")
    assert milled == pytest.approx(6 * flat * 20.0, rel=0.002)
    assert shapely.area(proof.holdings[1].part) == pytest.approx(40.0 * 25.0)


def test_what_was_milled_before_is_no_gouge_and_stays() -> None:
    proof = proved(with_hole(from_behind()))
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    rays, before = final_rays(proof.holdings[1]), proof.holdings[1].came.dexels()
    hole = math.pi * 2.5**2 * 10.0
    assert before.volume == pytest.approx(math.pi * 625 * 41 - hole, rel=0.002)
    assert rays.volume == pytest.approx(math.pi * 625 * 40 - 2 * hole, rel=0.002)


def test_without_its_angle_nothing_more_is_milled() -> None:
    lost = with_hole(from_behind(), hand=msgspec.structs.replace(OVER, angle="lost"))
    planned = planned_of(lost)
    assert "nobody knows" in planned.step("d").troubles[0].text
    assert not planned_of(handed(FACE, msgspec.structs.replace(OVER, angle="lost"), behind=(Flats(id="x"),))).step("x").troubles
    kept = with_hole(from_behind())
    proof = proved(kept, text_of(kept).replace("M62", "M61"))
    assert "angle-lost" in codes(proof), "a program that lets the angle go is found out"


def test_driven_tools_wait_until_one_chuck_has_the_work() -> None:
    job = msgspec.structs.replace(handed(FACE, OVER, crossed(), OFF), patterns=(HOLE,))
    assert "Both chucks hold" in planned_of(job).step("c").troubles[0].text
    other = with_hole()
    lines = text_of(other).splitlines()
    at = next(k for k, line in enumerate(lines) if line.startswith("(2 "))
    assert "both-hold" in codes(proved(other, "\n".join([*lines[:at], "M20", *lines[at:]])))


def test_chucks_keep_still_while_driven_tools_are_at_work() -> None:
    other = with_hole()
    lines = text_of(other).splitlines()
    at = next(k for k, line in enumerate(lines) if line.startswith("C30"))
    for word, code in (("G0 W-100", "chucks-move"), ("M11", "part-dropped")):
        assert code in codes(proved(other, "\n".join([*lines[: at + 2], word, *lines[at + 2 :]]))), word
    again = with_hole(from_behind())
    lines = text_of(again).splitlines()
    at = max(k for k, line in enumerate(lines) if line.startswith("C90"))
    assert "part-dropped" in codes(proved(again, "\n".join([*lines[: at + 2], "M21", *lines[at + 2 :]])))


def test_a_seat_that_meets_the_work_elsewhere_moves_the_part() -> None:
    """Within the window it counts as gripped: then the part lies as much deeper, and the proof goes on with it so."""
    job = handed(FACE, OVER, OFF, behind=(BACK,))
    text = text_of(job)
    for by, good in ((0.25, True), (0.4, False)):
        longer = text.replace("\nZ0\nG1 X-1.6", f"\nZ{by}\nG1 X-1.6")
        assert longer != text
        proof = proved(job, longer)
        assert ("off-window" not in codes(proof)) == good
        assert proof.holdings[1].scene.raw.bounds[0] == pytest.approx(-40.0), "its front is on the seat"
        assert proof.holdings[1].scene.raw.bounds[2] == pytest.approx(1.0 + by)


def test_the_second_chuck_lets_go_too_early() -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK,))
    lines = text_of(job).splitlines()
    at = next(k for k, line in enumerate(lines) if line.startswith("G55")) + 1
    assert "part-dropped" in codes(proved(job, "\n".join([*lines[:at], "M21", *lines[at:]])))
    end = lines.index("M23")
    assert "part-dropped" not in codes(proved(job, "\n".join([*lines[:end], "M21", *lines[end:]])))


def test_what_would_turn_one_chuck_alone_is_not_planned() -> None:
    apart = msgspec.structs.replace(OVER, turning="stands", angle="lost")
    assert "in step" in planned_of(handed(FACE, apart, OFF)).step("p").troubles[0].text
    twice = handed(FACE, OVER, msgspec.structs.replace(OVER, id="again"), OFF, behind=(msgspec.structs.replace(OVER, id="back"),))
    planned = planned_of(twice)
    assert [bool(planned.step(ident).troubles) for ident in ("h", "again", "back")] == [False, True, True]
    late = planned_of(handed(FACE, OFF, OVER, behind=(BACK,)))
    assert "off already" in late.step("h").troubles[0].text


def test_a_part_that_drops_is_caught_or_said() -> None:
    caught = turned(FACE, OFF, machine="turn-mill-250")
    text = post(plan(caught).first).text
    assert text.index("M73") < text.index("(2 Part off - part off)") + 400
    assert text.index("M73") < text.index("M74")
    assert not codes(proved(caught))
    assert codes(proved(caught, text.replace("M73", "(no catcher)"))) == {"part-drops"}
    assert codes(proved(turned(FACE, OFF))) == {"part-drops"}
    assert not codes(proved(handed(FACE, OVER, OFF, behind=(BACK,)))), "one that is handed over does not"


def test_the_bar_is_pulled_out_for_the_next_part() -> None:
    """The program goes on as much farther out, the part is cut off where it is to be, and the bar is as much longer."""
    plain, pulled = (
        handed(FACE, msgspec.structs.replace(OVER, pull=by), OFF, behind=(BACK,), length=120.0) for by in (0.0, 30.0)
    )
    proof = proved(pulled)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    assert proof.holdings[1].part.bounds == pytest.approx((-40.0, 0.0, 0.0, 25.0), abs=1e-6)
    before, after = (text_of(job).splitlines() for job in (plain, pulled))
    at = after.index("G1 W-546 F500")
    assert after[at - 2 : at + 2] == ["M5", "M11", "G1 W-546 F500", "M10"], "30 on from W-576, the main chuck open"
    deep = [next(line for line in lines[lines.index("T0505") :] if line.startswith("Z-")) for lines in (before, after)]
    assert [float(z[1:]) for z in deep] == [-44.0, -14.0], "on the blade's left corner"
    trace = proof.first.trace
    assert trace.pulled[0] == 0.0
    assert trace.pulled[int(np.flatnonzero(trace.shoves)[-1])] == 30.0
    cuts = trace.end[(trace.kind != 0) & ~trace.shoves, 2]
    assert cuts.min() == pytest.approx(-44.0), "on the part it is where it was"


def test_a_bar_that_is_not_let_go_is_torn_and_one_that_is_short_is_not_pulled() -> None:
    job = handed(FACE, msgspec.structs.replace(OVER, pull=30.0), OFF, behind=(BACK,), length=120.0)
    assert "torn" in codes(proved(job, text_of(job).replace("M11\n", "")))
    short = msgspec.structs.replace(OVER, pull=60.0)
    trouble = planned_of(handed(FACE, short, OFF, length=120.0)).step("h").troubles[0]
    assert trouble.field == "pull"
    assert not planned_of(handed(FACE, msgspec.structs.replace(OVER, pull=trouble.fits), OFF, length=120.0)).step("h").troubles
    away = proved(job, text_of(job).replace("G1 W-546 F500", "G1 W-500 F500"))
    assert {"gouge", "left", "short-part", "long-part"} & codes(away), "pulled farther than the program goes on by"


def test_both_are_in_step_while_the_part_is_cut_off() -> None:
    job = handed(FACE, OVER, OFF, behind=(BACK,))
    lines = text_of(job).splitlines()
    at = lines.index("(4 Part off - part off)") if "(4 Part off - part off)" in lines else lines.index("(3 Part off - part off)")
    assert "not-in-step" in codes(proved(job, "\n".join([*lines[:at], "M60", *lines[at:]])))


def test_what_is_cut_while_both_hold_it_keeps_off_both() -> None:
    outside = [move for stage in planned_of(handed(FACE, OVER, OFF)).step("p").stages for move in stage.moves]
    assert max(move.u for move in outside) < -16.0, "never beside the second jaws"
    proof = proved(handed(FACE, OVER, OFF, behind=(BACK,)))
    assert proof.verdict == "proved"


def test_the_second_spindle_has_its_own_speed_power_and_travel() -> None:
    job = handed(FACE, OVER, OFF, behind=(msgspec.structs.replace(BACK, speed="fixed", n=4500.0),))
    slow = answering.answered(job, "card:turn-mill-250.second_hi", 3000.0)
    assert "ends at 3000" in planned_of(slow).step("b").troubles[0].text
    weak = answering.answered(handed(FACE, OVER, OFF, behind=(BACK,)), "card:turn-mill-250.second_power", 0.05)
    assert "over-power" in codes(proved(weak, text_of(handed(FACE, OVER, OFF, behind=(BACK,)))))
    near = answering.answered(handed(FACE, OVER, OFF, behind=(BACK,)), "card:turn-mill-250.z_hi", 560.0)
    assert "over-travel" in codes(proved(near))


def test_a_thread_at_the_front_is_not_gripped_in_silence() -> None:
    job = handed(FACE, Threading(id="t", thread="M50x3", length=12.0), OVER, OFF, behind=(BACK,))
    assert "grip-thread" in codes(proved(job))


def test_a_back_that_is_faced_too_far_is_told() -> None:
    job = handed(FACE, OVER, OFF, behind=(msgspec.structs.replace(BACK, finish_z=-3.0),))
    short = next(r for r in proved(job).remarks if r.code == "short-part")
    assert short.text == "The part is 37 mm long, 3 mm short of its finished length."


def test_a_bore_from_both_sides_meets() -> None:
    drilled = CentreHole(id="d", work="drill", diameter=8.5, depth=25.0)
    job = handed(FACE, drilled, OVER, OFF, behind=(BACK, CentreHole(id="e", work="drill", diameter=9.8, depth=25.0)))
    proof = proved(job)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    part = proof.holdings[1].part
    assert part.intersection(shapely.box(-40.0, 0.0, 0.0, 0.1)).is_empty, "there is a way through"


# -- turned round -------------------------------------------------------------------------------------------------


@given(length=st.floats(1.0, 200.0), front=st.floats(-5.0, 5.0), z=st.floats(-100.0, 5.0), r=st.floats(0.5, 50.0))
def test_turned_round_twice_is_as_it_was(length: float, front: float, z: float, r: float) -> None:
    region = shapely.box(z - 3.0, 0.0, z, r)
    there = turned_round(region, length, front)
    assert there.bounds[2] == pytest.approx(front - length - (z - 3.0))
    assert turned_round(there, length, front).equals_exact(region.normalize(), 1e-9)


def test_rays_turned_round_are_seen_from_the_other_end() -> None:
    rng = np.random.default_rng(4)
    rays = Dexels.of(shapely.box(-10.0, 0.0, 0.0, 8.0), (-4.0,), 1.0)
    rays.count[:] = rng.integers(0, 2, rays.count.shape)
    there = rays.turned_round(-40.0)
    assert there.edges == pytest.approx(-40.0 - rays.edges[::-1])
    n, m = rays.count.shape
    for ray, slab in ((0, 0), (3, 5), (n - 1, m - 1)):
        assert there.count[n - 1 - ray, m - 1 - slab] == rays.count[ray, slab]
    back = there.turned_round(-40.0)
    assert np.array_equal(back.count, rays.count)
    assert Packed.of(back).edges == pytest.approx(rays.edges)


def test_slabs_of_others_are_taken_over_where_they_are() -> None:
    whole = Dexels.of(shapely.box(-20.0, 0.0, 0.0, 8.0), (-12.0, -7.5, -5.0), 1.0, rays=256)
    other = Dexels.of(shapely.box(-12.0, 0.0, -5.0, 8.0), (-7.5,), 1.0, rays=256)
    other.count[:] = 0
    whole.with_slabs_of(other)
    middles = (whole.edges[1:] + whole.edges[:-1]) / 2
    inside = (middles > -12.0) & (middles < -5.0)
    assert (whole.count[:, inside] == 0).all()
    assert (whole.count[:, ~inside] == 1).all()


def test_whether_the_angle_was_kept_is_read() -> None:
    job = handed(FACE, OVER)
    assert angle_kept(traced(job, text_of(job)))
    assert not angle_kept(traced(job, text_of(job).replace("M62", "M61")))
    assert not angle_kept(traced(job, text_of(job).replace("M62", "M62\nM60")))


@pytest.mark.parametrize("contact", ["seat", "free"])
@pytest.mark.parametrize("turning", ["turns", "stands"])
@pytest.mark.parametrize("angle", ["kept", "lost"])
def test_every_choice_proves(contact: Any, turning: Any, angle: Any) -> None:
    hand = HandOver(id="h", contact=contact, turning=turning, angle=angle)
    for steps in ((FACE, hand), (FACE, hand, OFF)):
        proof = proved(handed(*steps, behind=(BACK,)))
        refused = len(steps) == 3 and turning == "stands" and angle == "lost"
        assert (proof.verdict == "proved") != refused, [r.text for r in proof.remarks]


@given(grip=st.floats(0.5, 24.0), near=st.floats(1.0, 60.0), finished=st.floats(20.0, 70.0), back=st.floats(0.0, 5.0))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_any_lengths_prove_or_say_why(unit: str, grip: float, near: float, finished: float, back: float) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    hand = HandOver(id="h", grip=round(grip * k, 4), near=round(near * k, 4))
    own = {"finished": round(finished * k, 4), "over_back": round(back * k, 4), "stick_out": 90.0 * k, "length": 120.0 * k}
    job = handed(FACE, hand, OFF, behind=(BACK,) if back > 0.05 else (), unit=unit, **own)
    planned, proof = planned_of(job), proved(job)
    if any(done.troubles for done in planned.steps) or planned.troubles:
        assert proof.verdict == "stop"
        return
    stops = [(r.code, r.text) for r in proof.remarks if r.level == "stop"]
    assert {code for code, _ in stops} <= JAWS, stops
    if stops:  # the blade's holder has no room between both chucks
        return
    z0, _, z1, _ = proof.holdings[1].part.bounds
    assert z1 - z0 == pytest.approx(own["finished"] + (0.0 if back > 0.05 else own["over_back"]), abs=1e-3)


@settings(max_examples=many(20))
@given(data=st.data())
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_any_slip_is_told_or_the_part_is_right(unit: str, data: st.DataObject) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    job = handed(FACE, msgspec.structs.replace(crossed(30.0, 10.0 * k), diameter=5.0 * k), OVER, OFF, behind=(BACK,), unit=unit)
    job = msgspec.structs.replace(job, patterns=(msgspec.structs.replace(HOLE, points=((-30.0 * k, 0.0),)),))
    job = slipped(data, job, ["stock", "holding:h1", "holding:h2", "step:h", "step:h", "step:p", "step:b"])
    proof = proved(job)
    if proof.verdict == "proved":
        z0, _, z1, _ = proof.holdings[1].part.bounds
        assert z1 - z0 == pytest.approx(job.stock.finished, abs=1e-3)


@pytest.mark.parametrize(
    ("address", "value"), [("stock.length", 0.0), ("card:turn-mill-250.second_power", 0.0), ("step:h.force", 0.0)]
)
def test_with_nothing_left_to_go_by_it_is_told(address: str, value: float) -> None:
    assert proved(answering.answered(with_hole(from_behind()), address, value)).verdict == "stop"


def test_what_is_straight_to_jaws() -> None:
    plain = shapely.box(-40.0, 0.0, 0.0, 20.0)
    assert straight(plain, 16.0, 0.02) == pytest.approx(16.0)
    collar = shapely.union_all([shapely.box(-40.0, 0.0, 0.0, 16.0), shapely.box(-40.0, 0.0, -10.0, 20.0)])
    assert straight(collar, 16.0, 0.02) == pytest.approx(6.0, abs=0.02), "at the largest radius within"
    found = lands(outside(collar, 16.0, 0.02), 0.02)
    assert [round(radius, 3) for _, _, radius in found] == [16.0, 20.0]
    taper = shapely.Polygon([(0.0, 0.0), (0.0, 16.0), (-40.0, 18.0), (-40.0, 0.0)])
    assert straight(taper, 16.0, 0.02) < 1.0, "a slow taper is none"
    assert lands([], 0.02) == []


# -- as subprograms -----------------------------------------------------------------------------------------------


def calling(job: Job) -> Job:
    """The same on a machine that calls subprograms."""
    card = job.card
    own = msgspec.structs.replace(card, id="calls", dialect=msgspec.structs.replace(card.dialect, subprograms=True))
    return msgspec.structs.replace(job, cards=(own,), machine="calls")


@pytest.mark.parametrize("off", [True, False])
@pytest.mark.parametrize("pull", [0.0, 5.0])
def test_where_the_card_has_subprograms_each_way_of_the_second_chuck_is_one(off: bool, pull: float) -> None:
    hand = msgspec.structs.replace(OVER, pull=pull)
    job = with_hole(hand=hand) if off else handed(FACE, hand, behind=(BACK,))
    program = post(planned_of(calling(job)).programs[0])
    main, *subs = program.text.partition("M30\n")[0], *program.text.partition("M30\n")[2].split("O000")[1:]
    assert [line for line in main.splitlines() if line.startswith("M98")] == ["M98 P2", "M98 P3"]
    assert [sub.splitlines()[0] for sub in subs] == ["2", "3"]
    assert not re.search(r"^[^(]* W", main, re.M), "W moves in them alone"
    owners = {program.section_of(k).stage for k, line in enumerate(program.lines) if " W" in line and "(" not in line}
    assert owners == {"hand over", "away"}

    was, now = proved(job), proved(calling(job))
    assert codes(now) == codes(was)
    assert now.verdict == was.verdict
    for one, other in zip(was.holdings, now.holdings, strict=True):
        assert np.array_equal(one.trace.end, other.trace.end)
        assert np.array_equal(one.trace.w, other.trace.w)
        assert [(e.what, e.value, e.at) for e in one.trace.events] == [(e.what, e.value, e.at) for e in other.trace.events]
        assert other.total == pytest.approx(one.total)


@pytest.mark.parametrize(
    ("right", "wrong", "findings"),
    [
        ("M71 P250", "M71", [{"push"}, set()]),
        ("G0 W0\n", "G0 W0 X9\n", [{"second-moves"}, set()]),
        ("\nM24\n", "\nM24\nG0 W-5\n", [set(), {"second-moves"}]),
    ],
)
def test_what_is_wrong_in_a_subprogram_is_told_where_it_is_run(right: str, wrong: str, findings: list[set[str]]) -> None:
    job = calling(with_hole())
    text = text_of(job)
    assert right in text
    proof = proved(job, text.replace(right, wrong))
    assert [{f.code for f in one.trace.findings} - {"not-run-on", "word-unused"} for one in proof.holdings] == findings
    assert proof.verdict == "stop"


# -- how far out its jaws reach -----------------------------------------------------------------------------------


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_the_jaws_opposite_reach_as_far_as_the_holding_in_them_says(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    job = handed(FACE, OVER, OFF, behind=(BACK,), unit=unit)
    assert planned_of(job).first.turned.second_reach == pytest.approx(50.0 * k, abs=0.01)
    wide = answering.answered(job, "holding:h2.jaw_d", 180.0 * k)
    for planned in (planned_of(wide), plan(wide, planned_of(job))):
        held, off = planned.first, planned.steps[2]
        assert held.turned.second_reach == pytest.approx(90.0 * k)
        assert off.turned.safe[0] > 90.0 * k, "what parts off goes in over them"
        assert around(held).second.regions[0][1].bounds[3] == pytest.approx(90.0 * k)
        assert scene_of(planned, 0).second.reach == pytest.approx(90.0 * k)
    assert not codes(proved(wide)) & JAWS
