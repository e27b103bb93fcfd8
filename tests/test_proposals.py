"""What is proposed as a step arrives, for all kinds of steps in materials of all kinds, in both units: within bounds that a
demanding machinist would set, the same in inches as in millimetres, and within what the spindle has."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import pytest

from bastler.ask import questions_of
from bastler.cutting import MATERIALS, cutting_speed
from bastler.cutting.formulas import torque
from bastler.job import Job, answering, edits, new_job, plan
from bastler.job.planned import PlannedStep
from bastler.job.samples import sample, sample_names
from bastler.motion import Cut
from bastler.proof import prove_whole
from bastler.shapes import Flat, TurnedOutline
from bastler.steps import HandOver, PartOff, Stage, TurnFacing, TurnFinishing
from bastler.steps.context import FlatContext
from bastler.steps.cut import POWER_SHARE
from bastler.steps.hole.drilling import Drilling, drill_power
from bastler.tools import Tool, TurnTool
from bastler.units import Kind, Unit, scale
from conftest import MILL_STEPS, TURN_STEPS, crossed, some, turned, with_step
from outlines import along, slant, up
from outlines import outline as outline_of

CUT = ("aluminium", "steel-mild", "stainless", "titanium", "hardened")
CARDS = {"mill-600": MILL_STEPS, "turn-mill-250": TURN_STEPS}
NO_CUT = {"stop", "wait", "out-of-the-way", "own-lines", "repeat", "repeat-along", "hand-over", "free-moves"}
KINDS = [(card, kind) for card, kinds in CARDS.items() for kind in kinds if kind not in NO_CUT]

FEED_A_TOOTH = {
    "end-mill": (0.0015, 0.02),  # of the diameter: carbide tables run from 0.3 % in hard steel to 1.5 % in aluminium
    "bull-mill": (0.0015, 0.02),
    "ball-mill": (0.0015, 0.03),
    "thread-mill": (0.0015, 0.02),
    "drill": (0.0015, 0.02),  # of the diameter and lip: 0.3 to 4 % a turn
    "spot-drill": (0.0008, 0.012),  # half of a drill's: the point has no room for chips
    "chamfer-mill": (0.001, 0.03),
    "engraver": (0.001, 0.2),  # of a tip of a tenth of a millimetre
}
"""Least and greatest feed a tooth as a share of the diameter, by kind of tool."""
TAPS = {"P": 12.0, "M": 8.0, "S": 6.0, "K": 15.0, "N": 30.0, "H": 2.0}
"""The fastest that a tap of HSS is turned, in m/min, by group of the material."""


def arrived(card: str, kind: str, material: str, unit: Unit) -> PlannedStep:
    """A step as it arrives in a new job."""
    job: Job = answering.answered(new_job(unit, card), "stock.material", material)
    if card == "mill-600":
        job, ident = with_step(job, kind, "")
    else:
        job, last = edits.step_added(job, "turn-facing", "")
        job, ident = (job, last) if kind == "turn-facing" else edits.step_added(job, kind, last)
    step = plan(job).step(ident)
    assert step is not None
    return step


def said(step: PlannedStep) -> dict[str, float]:
    """Its cutting data in mm and m/min."""
    filled: Any = step.filled
    unit = step.ctx.unit
    mm, metres = scale(unit, "mm"), 1.0 if unit == "mm" else 0.3048
    found = {name: getattr(filled, name, None) for name in ("vc", "n", "fz", "vf", "f", "ap", "ae")}
    scales = {"vc": metres, "n": 1.0}
    return {name: value * scales.get(name, mm) for name, value in found.items() if isinstance(value, int | float)}


@pytest.mark.parametrize(("card", "kind"), KINDS)
def test_what_is_proposed_is_within_bounds_and_the_same_in_inches(card: str, kind: str) -> None:
    for material in CUT:
        found = {}
        for unit in ("mm", "inch"):
            step = arrived(card, kind, material, unit)
            tool = step.ctx.tool(getattr(step.filled, "tool", None) or "")
            if step.troubles or tool is None:  # the shop lacks something, and says what
                assert all(str(t.text) for t in step.troubles)
                continue
            bounds(step, tool, material)
            found[unit] = (tool.kind, tool.material, said(step))
        if len(found) == 2 and found["mm"][:2] == found["inch"][:2]:
            one, two = found["mm"][2], found["inch"][2]
            if one.get("n", 0.0) < 3000 and two.get("n", 0.0) < 3000 and "vc" in one:  # no spindle at its end
                assert two["vc"] == pytest.approx(one["vc"], rel=0.12), (material, one, two)


def bounds(step: PlannedStep, tool: Tool | TurnTool, material: str) -> None:
    """No number of a step is one that nobody would take."""
    data, work, mm = said(step), MATERIALS[material], scale(step.ctx.unit, "mm")
    low, high = work.vc[tool.material]
    if "vc" in data:
        assert 0.15 * low <= data["vc"] <= 1.6 * high, (material, tool.name, data)
    if isinstance(tool, Tool):
        d = tool.diameter * mm
        if data.get("n"):
            speed = cutting_speed(data["n"], d)
            assert speed <= 1.6 * high
            if tool.kind == "tap":
                assert speed <= TAPS[work.group] * 1.05, (material, tool.name, speed)
        if "fz" in data and tool.kind in FEED_A_TOOTH:
            least, most = FEED_A_TOOTH[tool.kind]
            assert least * d <= data["fz"] <= most * d, (material, tool.name, data)
        if "fz" in data and tool.kind == "face-mill":
            assert 0.03 <= data["fz"] <= 0.2, (material, data)
    elif tool.kind in ("turning", "boring") and "f" in data:
        assert 0.03 <= data["f"] <= 0.5 * tool.nose * mm + 0.05, (material, tool.name, data)
    card = step.ctx.card
    for stage in step.stages:
        if isinstance(stage, Stage):
            assert stage.spin.n <= card.speed[1]


def test_a_face_mill_is_fed_as_the_material_bears() -> None:
    feeds = {m: said(arrived("mill-600", "facing", m, "mm"))["fz"] for m in CUT}
    assert feeds["aluminium"] > feeds["steel-mild"] > feeds["stainless"] >= feeds["titanium"] > feeds["hardened"]


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("material", ["aluminium", "steel-mild", "stainless", "cast-iron"])
def test_no_drill_needs_more_than_the_spindle_has(material: str, unit: Unit) -> None:
    """Power and torque, with some in reserve; and where a thick drill of carbide is held back it is said."""
    base = answering.answered(new_job(unit, "mill-600"), "stock.material", material)
    base = answering.answered(base, "stock.size_z", 60.0 * scale("mm", unit))
    drills = [t for t in base.tools if isinstance(t, Tool) and t.kind == "drill"]
    thick = {"id": "big", "unit": "mm", "diameter": 25.8, "shank_diameter": 25.0, "material": "carbide", "tip_diameter": 0.0}
    big = msgspec.structs.replace(drills[0].in_unit("mm"), length=220.0, flute_length=100.0, stick_out=150.0, **thick)
    base = msgspec.structs.replace(base, tools=(*base.tools, big))
    for tool in (*drills, big):
        own = tool.in_unit(unit)
        step = Drilling(id="d", diameter=own.diameter, depth=10.0 * scale("mm", unit), tool=tool.id, spot="no")
        held = msgspec.structs.replace(base.holdings[0], steps=(step,))
        done = plan(edits.pattern_for(msgspec.structs.replace(base, holdings=(held,)), "d", "points")).step("d")
        assert done is not None
        assert not done.troubles, done.troubles
        filled, card, ctx = done.filled, done.ctx.card, done.ctx
        assert isinstance(filled, Drilling)
        assert isinstance(ctx, FlatContext)
        n, vf = filled.n or 0.0, filled.vf or 0.0
        power = drill_power(own, ctx, n, vf)
        assert power <= POWER_SHARE * card.power * 1.02, (tool.name, power)
        assert torque(power, n, card.efficiency) <= POWER_SHARE * card.torque * 1.02
        full = (filled.fz or 0.0) * own.flutes >= 0.98 * own.diameter * ctx.material.drill_f[own.material]
        assert ("no more power" in filled.sources(ctx)["fz"]) != full
    assert not full or material == "aluminium"  # 25.8 mm into the full: more than 7.5 kW in all that is harder


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_spot_turns_as_fast_as_its_own_diameter_wants(unit: Unit) -> None:
    """It was taken for one of eight and a half inches."""
    step = arrived("turn-mill-250", "centre-hole", "steel-mild", unit)
    tool = step.ctx.tool(step.filled.tool)  # type: ignore[attr-defined]
    assert isinstance(tool, Tool)
    assert tool.kind == "spot-drill"
    data = said(step)
    wanted = data["vc"] * 1000.0 / (math.pi * tool.diameter * scale(unit, "mm"))
    assert data["n"] == pytest.approx(min(wanted, 3000.0), rel=0.01)


def test_a_tap_on_the_centre_line_turns_no_faster_than_one_on_a_mill() -> None:
    job = answering.answered(new_job("mm", "turn-mill-250"), "stock.material", "steel-mild")
    job, last = edits.step_added(job, "turn-facing", "")
    job, ident = edits.step_added(job, "centre-hole", last)
    for name, value in (("work", "tap"), ("diameter", 8.0)):
        job = answering.answered(job, f"step:{ident}.{name}", value)
    step = plan(job).step(ident)
    assert step is not None
    assert said(step)["vc"] <= TAPS["P"]


@pytest.mark.parametrize(
    ("card", "kind"), [(card, kind) for card, kinds in CARDS.items() for kind in kinds if kind != "hand-over"]
)
def test_no_length_of_a_new_step_in_inches_is_one_in_millimetres(card: str, kind: str) -> None:
    """What nothing in the job gives is as its kind has it, which is said in millimetres: also what is not asked yet."""
    job: Job = answering.answered(new_job("inch", card), "stock.material", "steel-mild")
    job, last = edits.step_added(job, "facing" if card == "mill-600" else "turn-facing", "")
    job, ident = edits.step_added(job, kind, last)
    step, stock = job.step(ident), job.stock
    assert step is not None
    largest = max(v for n in ("size_x", "size_y", "length", "diameter") if isinstance(v := getattr(stock, n, None), int | float))
    for question in questions_of(type(step)):
        value = getattr(step, question.name)
        if question.kind is Kind.LENGTH and isinstance(value, int | float):
            assert abs(value) <= largest, question.name


@pytest.mark.parametrize(("card", "unit"), crossed(2, list(CARDS), ["mm", "inch"]))
def test_every_step_arrives_a_second_and_a_third_time(card: str, unit: Unit) -> None:
    for kind in CARDS[card]:
        job, last = edits.step_added(new_job(unit, card), "facing" if card == "mill-600" else "turn-facing", "")
        for count in (2, 3, 4):
            job, last = edits.step_added(job, kind, last)
            assert len(job.steps) >= count
            assert plan(job).step(last) is not None


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("kind", ["rectangular-pocket", "round-pocket", "slot", "polygon-pocket"])
def test_a_second_one_does_not_arrive_on_top_of_the_first(kind: str, unit: Unit) -> None:
    job, last = edits.step_added(new_job(unit, "mill-600"), "facing", "")
    for name in ("size_x", "size_y"):
        job = answering.answered(job, f"stock.{name}", 300.0 * scale("mm", unit))
    job, first = edits.step_added(job, kind, last)
    job, second = edits.step_added(job, kind, first)
    one, two = (plan(job).step(ident) for ident in (first, second))
    assert one is not None
    assert two is not None
    assert not one.troubles
    assert not two.troubles
    for a in one.removals:
        for b in two.removals:
            assert isinstance(a, Flat)
            assert isinstance(b, Flat)
            assert not a.region.intersects(b.region)
    assert (one.filled.depth, one.filled.top) == (two.filled.depth, two.filled.top)  # type: ignore[attr-defined]


# -- what is taken ---------------------------------------------------------------------------------------------------------


def finished_with(outline: TurnedOutline, **setup: Any) -> str:
    """The name of the tool that finishing an outline arrives with."""
    job = turned(TurnFacing(id="f"), TurnFinishing(id="e", outline="o"), outlines=(outline,), **setup)
    done = plan(job).step("e")
    assert done is not None
    tool = done.ctx.tool(getattr(done.filled, "tool", None) or "")
    assert tool is not None
    return tool.id


def test_an_outline_is_finished_with_the_stoutest_tip_that_follows_it() -> None:
    """A shoulder with the stoutest tip of a finishing nose; walls that fall at 40° only the sharpest one goes along."""
    plain = finished_with(outline_of(d=40.0, pieces=[along(-30), up(56), along(-60)]))
    assert plain == "d55-04"
    neck = outline_of(d=50.0, pieces=[along(-20), slant(d=40.0, z=-26.0), along(-45), up(56), along(-60)])
    assert finished_with(neck).startswith("v35")


def test_a_wide_bore_is_finished_with_the_stout_bar() -> None:
    bore = outline_of(d=44.0, pieces=[along(-30)], inside=True)
    assert finished_with(bore, form="tube", bore=40.0) == "bore-c80-04"
    small = outline_of(d=20.0, pieces=[along(-30)], inside=True)
    assert finished_with(small, form="tube", bore=15.0) == "bore-d55-02"


@pytest.mark.parametrize(
    ("front", "shoulder", "thread"), [(32.599, 40.0, "M40x1.5"), (30.0, 40.0, "M30x1.5"), (8.0, 40.0, "M8x1")]
)
def test_a_thread_arrives_by_a_name_that_there_is(front: float, shoulder: float, thread: str) -> None:
    outline = outline_of(d=front, pieces=[along(-30), up(shoulder), along(-50)])
    job = turned(TurnFacing(id="f"), TurnFinishing(id="e", outline="o"), outlines=(outline,))
    job, ident = edits.step_added(job, "thread", "e")
    assert getattr(job.step(ident), "thread", "") == thread


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_groove_is_no_wider_than_there_is_material(unit: Unit) -> None:
    """And says so at once, instead of planning a hundred thousand plunges."""
    job, ident = edits.step_added(edits.step_added(new_job(unit, "lathe-200"), "turn-facing", "")[0], "groove", "")
    for side in ("outside", "face"):
        wide = answering.answered(answering.answered(job, f"step:{ident}.side", side), f"step:{ident}.width", 99_999.0)
        done = plan(wide).step(ident)
        assert done is not None
        trouble = next(t for t in done.troubles if t.field == "width")
        assert trouble.fits is not None
        assert 0 < trouble.fits < 99_999.0


def test_a_faced_top_is_cut_in_the_rows_that_are_shown() -> None:
    """55 wide with a cutter of 50: rows are even, and so far apart as the answer says."""
    for unit in ("mm", "inch"):
        mm = scale("mm", unit)
        job = answering.answered(answering.answered(new_job(unit, "mill-600"), "stock.size_y", 55 * mm), "stock.size_x", 120 * mm)
        job, ident = edits.step_added(job, "facing", "")
        done = plan(job).step(ident)
        assert done is not None
        filled: Any = done.filled
        stage = done.stages[0]
        assert isinstance(stage, Stage)
        rows = sorted({round(m.v, 6) for m in stage.moves if isinstance(m, Cut)})
        gaps = [b - a for a, b in itertools.pairwise(rows)]
        assert gaps == pytest.approx([filled.ae] * len(gaps), abs=1e-3 * mm), (unit, rows)
        assert {m.feed for m in stage.moves if isinstance(m, Cut)} == {filled.last_vf}
        assert filled.last_vf == pytest.approx(0.7 * filled.vf, rel=1e-2)


@pytest.mark.parametrize("name", sample_names())
def test_behind_a_sample_every_step_arrives_so_that_it_proves_or_says_what_is_lacking(name: str) -> None:
    job = sample(name)
    first = job.holdings[0]
    last = [s.id for s in first.steps if not isinstance(s, PartOff | HandOver)][-1]
    kinds = [kind for kind in (TURN_STEPS if job.turns else MILL_STEPS) if kind not in NO_CUT]
    for kind in some(kinds, 5):
        added, ident = edits.step_added(job, kind, last)
        planned = plan(added)
        done = planned.step(ident)
        assert done is not None
        if done.troubles:
            assert all(t.text.endswith((".", "?")) for t in done.troubles)
            continue
        own = [r for r in prove_whole(planned, cell_mm=0.25).remarks if r.step == ident and r.level == "stop"]
        assert not own or {r.code for r in own} == {"part-dropped"}, (kind, [r.text for r in own])
