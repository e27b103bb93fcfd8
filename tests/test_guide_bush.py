"""A bar that slides through a guide bush: stretch by stretch, never drawn back farther than the bush has hold of it."""

from __future__ import annotations

import itertools
from typing import Any

import msgspec
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.ask import questions_of
from bastler.job import Job, answering, plan
from bastler.job.chuck import ChuckHolding, said_of
from bastler.job.forms import CardForm, card_troubles
from bastler.machines import CARDS, GuideBush
from bastler.post import Program
from bastler.proof import prove_job, scene_of
from bastler.proof.turn.bush import deepest_before
from bastler.shapes import draw
from bastler.shapes.chain import length_of
from bastler.shapes.parted import in_front, within
from bastler.steps import CentreHole, Groove, NextPart, PartOff, Threading, TurnFacing, TurnFinishing, TurnRoughing
from conftest import codes, many, turned
from outlines import along, edge, outline, up

INCH = 25.4
BUSH: Any = CARDS["lathe-bush-20"].bush


def pin(k: float = 1.0) -> Any:
    pieces = (edge(0.5 * k), along(-20 * k), up(11 * k), along(-45 * k), up(14 * k), along(-60 * k), up(16.5 * k))
    return outline(id="o", name="pin", d=8.0 * k, z=0.0, pieces=pieces)


def bar(*steps: Any, unit: str = "mm", machine: str = "lathe-bush-20", **more: Any) -> Job:
    k = 1.0 if unit == "mm" else 1 / INCH
    size: Any = {"diameter": 16 * k, "length": 900 * k, "finished": 70 * k, "stick_out": 100 * k, "over_front": k}
    off = PartOff(id="p", z=-70.0 * k, edge_break=0.2 * k)
    return turned(TurnFacing(id="f"), *steps, off, outlines=(pin(k),), machine=machine, unit=unit, **(size | more))


def stretches(*lines: float, unit: str = "mm") -> list[Any]:
    """Roughed and finished from line to line, the first one up to the first line."""
    k = 1.0 if unit == "mm" else 1 / INCH
    found: list[Any] = []
    for j, line in enumerate(lines):
        part: Any = {"part": "between", "from_z": lines[j - 1] * k} if j else {"part": "front"}
        found.append(TurnRoughing(id=f"r{j}", outline="o", line_z=line * k, **part))
        found.append(TurnFinishing(id=f"e{j}", outline="o", line_z=line * k, **part))
    return found


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_stretch_by_stretch_it_is_proved_and_the_bar_never_goes_back_too_far(unit: str) -> None:
    job = bar(*stretches(-20.0, -41.0, -60.0, unit=unit), unit=unit)
    proof: Any = prove_job(plan(job))
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    k = 1.0 if unit == "mm" else 1 / INCH
    scene: Any = scene_of(plan(job))
    trace, before = proof.trace, deepest_before(scene, proof.trace)
    cutting = trace.tool > 0
    assert (trace.end[cutting, 2] - before[cutting]).max() <= (BUSH.back + 3.0) * k
    lines = proof.program.lines
    assert not [line for line in lines if "G53" in line and "Z" in line], "Z home would draw the bar out of the bush"
    assert [line for line in lines if "guide bush" in line.lower()]


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_all_at_once_it_is_drawn_back_too_far(unit: str) -> None:
    whole = [TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o")]
    proof = prove_job(plan(bar(*whole, unit=unit)))
    found = next(r for r in proof.remarks if r.code == "bush-lets-go")
    assert (found.level, found.step) == ("stop", "r")
    assert "bush-lets-go" not in codes(prove_job(plan(bar(*whole, unit=unit, machine="lathe-200"))))


def test_a_program_that_draws_it_back_is_a_stop_wherever_it_does() -> None:
    job = bar(*stretches(-20.0, -41.0, -60.0))
    proof = prove_job(plan(job))
    last = max(k for k, line in enumerate(proof.program.lines) if line.startswith("G54 G0"))
    for z, stops in ((-60.0 + BUSH.back - 0.1, False), (-60.0 + BUSH.back + 0.1, True)):
        lines = [*proof.program.lines]
        lines[last] = f"{lines[last].partition('Z')[0]}Z{z:g}"
        changed = prove_job(plan(job), Program.foreign("\n".join(lines)))
        assert ("bush-lets-go" in codes(changed)) == stops
    home = proof.program.text.replace("M30", "G53 G0 Z220\nM30")
    assert "bush-lets-go" in codes(prove_job(plan(job), Program.foreign(home)))


@settings(max_examples=many(10), deadline=None)
@given(st.lists(st.floats(-58.0, -4.0), min_size=1, max_size=3), st.sampled_from(["mm", "inch"]))
def test_any_stretches_make_the_same_part_as_all_at_once(lines: list[float], unit: str) -> None:
    order = sorted({round(line, 2) for line in lines}, reverse=True)
    assume(all(b - a < -2.0 for a, b in itertools.pairwise(order)))
    machine = {"machine": "lathe-200"}
    job = bar(*stretches(*order, -60.0, unit=unit), unit=unit, **machine)
    planned = plan(job)
    assert not [t for s in planned.steps for t in s.troubles]
    own: Any = prove_job(planned)
    assert not codes(own, "stop"), [r.text for r in own.remarks]
    whole: Any = prove_job(plan(bar(TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o"), unit=unit, **machine)))
    k = 1.0 if unit == "mm" else 1 / INCH
    assert own.part.symmetric_difference(whole.part).area < 0.2 * k * k


@given(st.floats(-59.0, -1.0), st.floats(-59.0, -1.0))
def test_stretches_make_the_whole_outline(a: float, b: float) -> None:
    """What lies in front of the first line, between both, and what is left of it."""
    right, left = max(a, b), min(a, b)
    whole = draw(pin())
    parts = [in_front(whole, right), within(whole, right, left), within(whole, left, -1e3)]
    long = sum(length_of(s) for part in parts for s in part.chain)
    assert long == pytest.approx(sum(map(length_of, whole.chain)), abs=1e-6)


def test_threads_grooves_and_holes_keep_to_it_too() -> None:
    """Each stage begins and ends only as far in front as the bush lets it, so that those behind it can be there at all."""
    first, rest = stretches(-20.0, -41.0)[:2], stretches(-20.0, -41.0)[2:]
    steps = (
        CentreHole(id="h", work="drill", diameter=5.0, depth=15.0),
        *first,
        Threading(id="t", thread="M8x1", z=0.0, length=12.0, exit="pulled", run_out=2.0),
        *rest,
        Groove(id="g", z=-30.0, width=3.0, floor_d=9.0),
    )
    proof = prove_job(plan(bar(*steps)))
    assert "bush-lets-go" not in codes(proof), [r.text for r in proof.remarks]


def test_part_after_part_a_feeder_brings_the_bar_on() -> None:
    job = bar(*stretches(-20.0, -41.0, -60.0))
    (holding,) = job.holdings
    more = (*holding.steps, NextPart(id="n", how="feeder"))
    proof = prove_job(plan(msgspec.structs.replace(job, holdings=(msgspec.structs.replace(holding, steps=more),))))
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    assert "M66" in proof.program.text


@pytest.mark.parametrize(
    ("answers", "field"),
    [({"stick_out": 150.0}, "stick_out"), ({"steady": "yes"}, "steady"), ({"tailstock": "yes"}, "tailstock")],
)
def test_what_does_not_go_with_a_bush_is_said(answers: dict[str, Any], field: str) -> None:
    troubles = plan(bar(*stretches(-20.0), **answers)).first.troubles
    assert field in {t.field.rpartition(".")[2] for t in troubles}


def test_a_part_turned_round_slides_through_no_bush() -> None:
    job = bar(*stretches(-20.0))
    other = ChuckHolding(id="h2", follows="over", stick_out=40.0, steps=(TurnFacing(id="g"),))
    troubles = plan(msgspec.structs.replace(job, holdings=(*job.holdings, other))).holdings[1].troubles
    assert any(t.field.endswith("follows") for t in troubles)


def test_the_card_is_edited_as_a_form_and_kept_in_both_units() -> None:
    card = CARDS["lathe-bush-20"]
    assert CardForm.of(card).onto(card) == card
    inch: Any = card.in_unit("inch").bush
    assert inch.back == pytest.approx(BUSH.back / INCH)
    plain = msgspec.structs.replace(CardForm.of(card), bushed=False).onto(card)
    assert plain.bush is None
    other = msgspec.structs.replace(CardForm.of(CARDS["lathe-200"]), bushed=True).onto(CARDS["lathe-200"])
    assert isinstance(other.bush, GuideBush)
    short = msgspec.structs.replace(card, bush=msgspec.structs.replace(BUSH, keeps=40.0))
    assert [t.field for t in card_troubles(short)] == ["machine"]


def test_words_follow_the_machine() -> None:
    bush, chuck = CARDS["lathe-bush-20"], CARDS["lathe-200"]
    own = next(q for q in questions_of(ChuckHolding) if q.name == "stick_out")
    assert said_of(own, bush).says == "Comes out of the bush"
    assert said_of(own, chuck) is own
    assert ChuckHolding().titled(bush) == "Through the guide bush"
    assert ChuckHolding().titled(chuck) == "In the chuck"
    assert ChuckHolding(name="Left end").titled(bush) == "Left end"


def test_a_stretch_has_to_lie_behind_where_it_begins() -> None:
    job = bar(TurnRoughing(id="r", outline="o", part="between", from_z=-20.0, line_z=-10.0))
    wrong: Any = plan(job).step("r")
    assert [t.field for t in wrong.troubles] == ["line_z"]
    proposed: Any = plan(answering.answered(job, "step:r.line_z", None)).step("r")
    assert proposed.filled.line_z == pytest.approx(-20.0 - 0.7 * BUSH.back, abs=0.01)
