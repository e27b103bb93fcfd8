"""The tailstock's centre as a step, and the steady: what stands in the way from when to when, and how far work then bends."""

from __future__ import annotations

from typing import Any

import pytest

from bastler.job import Job, edits, plan
from bastler.live.restarting import restarted
from bastler.live.restarts import restarts
from bastler.post import Program, made, post
from bastler.post.by_hand import edits_of
from bastler.proof import prove_job, prove_whole
from bastler.proof.turn.bends import propped, rested
from bastler.steps import CentreHole, Groove, TailstockCentre, TurnFacing, TurnFinishing, TurnRoughing
from conftest import codes, turned
from outlines import along, up
from outlines import outline as outline_of

MACHINES = {"lathe-200": ("M25", "M26"), "lathe-bench": ("M0", "M0")}
FACE, SPOT = TurnFacing(id="f"), CentreHole(id="s", work="spot", depth=2.5)
COMES, GOES = TailstockCentre(id="in", way="in"), TailstockCentre(id="out", way="out")


def centred(*behind: Any, machine: str = "lathe-200", unit: str = "mm", **setup: Any) -> Job:
    """A bar that is faced and centre drilled, then steps."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    size = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    outline = outline_of(id="o", name="o", d=40 * k, z=0.0, pieces=(along(-50 * k), up(62 * k)))
    more: Any = size | setup
    return turned(
        FACE,
        SPOT if unit == "mm" else CentreHole(id="s", work="spot", depth=0.1, diameter=0.33),
        *behind,
        machine=machine,
        unit=unit,
        outlines=(outline,),
        **more,
    )


def lines(job: Job) -> list[str]:
    return list(post(plan(job).first).lines)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("machine", MACHINES)
def test_it_comes_and_goes_and_the_part_is_proved(machine: str, unit: str) -> None:
    job = centred(COMES, TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o"), GOES, machine=machine, unit=unit)
    planned = plan(job)
    assert not [t for done in planned.steps for t in done.troubles]
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    word_in, word_out = MACHINES[machine]
    said = [line.split()[-1] if machine == "lathe-200" else line for line in lines(job)]
    assert sum(word_in in line.split() for line in said) == (1 if word_in != word_out else 2)
    assert any(word_out in line.split() for line in said)
    by_hand = planned.steps[2].filled.summary(planned.steps[2].ctx)
    assert ("by hand" in by_hand) == (machine == "lathe-bench")


@pytest.mark.parametrize(("where", "hit"), [(2, False), (3, True)])
def test_only_what_comes_behind_it_runs_into_it(where: int, hit: bool) -> None:
    steps: list[Any] = [COMES]
    steps.insert(where - 2, CentreHole(id="d", diameter=8.5, depth=20.0))
    found = codes(prove_job(plan(centred(*steps))))
    assert ("tailstock-hit" in found) == hit


def test_once_it_is_out_nothing_is_in_the_way() -> None:
    drilled = CentreHole(id="d", diameter=8.5, depth=20.0)
    assert "tailstock-hit" not in codes(prove_job(plan(centred(COMES, GOES, drilled))))


def test_it_wants_a_hole_and_one_that_it_does_not_go_through() -> None:
    def troubles(*steps: Any) -> list[str]:
        return [t.text for done in plan(turned(*steps)).steps for t in done.troubles]

    assert "no centre hole" in troubles(FACE, COMES)[0]
    wide = CentreHole(id="s", diameter=20.0, depth=20.0)
    assert "goes through" in troubles(FACE, wide, COMES)[0]
    assert not troubles(FACE, SPOT, COMES)
    assert "in already" in troubles(FACE, SPOT, COMES, TailstockCentre(id="b", way="in"))[0]
    assert "not in" in troubles(FACE, SPOT, GOES)[0]


def test_the_second_one_is_proposed_to_go_out() -> None:
    planned = plan(turned(FACE, SPOT, TailstockCentre(id="a"), TailstockCentre(id="b")))
    assert [done.filled.way for done in planned.steps[2:]] == ["in", "out"]  # type: ignore[attr-defined]


def without_its_words(machine: str) -> Job:
    """A job whose program was robbed, by hand, of what has the centre come in."""
    job = centred(COMES, TurnRoughing(id="r", outline="o"), machine=machine)
    ident, own = job.holdings[0].id, made(plan(job).programs[0])
    word = MACHINES[machine][0]
    kept = "\n".join(line for line in own.lines if word not in line.split())
    return edits.changed_by_hand(job, ident, edits_of(own, kept, ident, ()))


@pytest.mark.parametrize("machine", MACHINES)
def test_a_program_without_its_words_is_told(machine: str) -> None:
    assert "centre-missing" in codes(prove_job(plan(without_its_words(machine))), "stop")


@pytest.mark.parametrize("machine", MACHINES)
def test_a_program_taken_up_behind_it_says_that_it_is_in(machine: str) -> None:
    """Its words are left behind with what is done: only the head can say what has to stand there."""
    says = "tailstock centre is in"
    planned = plan(centred(COMES, TurnRoughing(id="r", outline="o"), GOES, CentreHole(id="d", diameter=8.5), machine=machine))
    whole = prove_whole(planned).holdings[0]
    assert says not in whole.program.text.lower()
    for step, is_in in (("r", True), ("d", False)):
        found = restarted(planned, whole, next(r for r in restarts(whole) if r.step == step)).program
        assert (says in found.text.lower()) == is_in
    assert says in "\n".join(lines(centred(tailstock="yes"))).lower()
    assert "steady at z-42" in "\n".join(lines(centred(steady="yes", steady_at=-42.0))).lower()


def test_a_centre_that_comes_by_words_of_ones_own_is_not_known() -> None:
    for job, known in ((centred(), False), (centred(tailstock="yes"), True)):
        text = post(plan(job).first).text.replace("M30", "M25\nM30")
        found = codes(prove_job(plan(job), Program.foreign(text)), "stop")
        assert ("centre-unknown" not in found) == known


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_steady_is_kept_out_of(unit: str) -> None:
    k = 1.0 if unit == "mm" else 1 / 25.4
    groove = Groove(id="g", z=-40 * k, width=4 * k, outer_d=60 * k, floor_d=50 * k)

    def found(at: float) -> set[str]:
        return codes(prove_job(plan(centred(groove, unit=unit, steady="yes", steady_at=at * k))))

    assert "steady-hit" in found(-42.0)
    assert "steady-hit" not in found(-70.0)


def test_a_steady_stands_between_jaws_and_front() -> None:
    said = [t.text for t in plan(turned(FACE, steady="yes", steady_at=-88.0)).first.troubles]
    assert any("Not between the jaws" in text for text in said)


def test_a_rest_is_as_the_textbook_has_it() -> None:
    """Roark's beam held at one end and resting at the other; beyond the rest against the force method, summed up."""
    stiff, rest, n = 1e9, 200.0, 20_000
    assert rested(stiff, 120.0, rest) == propped(stiff, 120.0, rest)
    for at in (205.0, 250.0, 320.0):
        beyond = at - rest
        step = rest / n
        x = [(k + 0.5) * step for k in range(n)]
        # reaction of the rest from its deflection being none: sum over the beam held at 0
        own = sum((rest - s) ** 2 for s in x) * step
        load = sum((rest - s) * (at - s) for s in x) * step
        reaction = load / own
        tip = sum((at - s) * ((at - s) - reaction * (rest - s)) for s in x) * step + beyond**3 / 3
        assert rested(stiff, at, rest) == pytest.approx(tip / stiff, rel=1e-3)
