"""Parts one after the other from one bar: what a program says, what it does, and what would make the second one wrong."""

from __future__ import annotations

from typing import Any

import msgspec
import pytest

from bastler.bounds import BAR_PARTS
from bastler.job import Job, answering, edits, plan
from bastler.nc import read
from bastler.post import Program, made, post
from bastler.post.by_hand import edits_of
from bastler.proof import Prover, prove_job, scene_of
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Groove, HandOver, NextPart, PartOff, TailstockCentre, TurnFacing
from conftest import codes, dialect_of, turned

FACE, OFF = TurnFacing(id="f"), PartOff(id="p")
WAYS = ("stop", "puller", "feeder")


def from_bar(how: str = "stop", *between: Any, machine: str = "lathe-200", unit: str = "mm", **answers: Any) -> Job:
    """A disc of Ø60 x 60, faced and parted off, from a bar of 600."""
    k = 1.0 if unit == "mm" else 1 / 25.4
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    given: dict[str, Any] = {"bar": 600.0 * k, "keep": 30.0 * k} | answers
    off = PartOff(id="p", edge_break=0.5 * k)
    job = turned(FACE, *between, off, NextPart(id="n", how=how, **given), machine=machine, unit=unit, **size)  # type: ignore[arg-type]
    return dialect_of(job, bar_words=("M66",)) if how == "feeder" else job


def typed(job: Job, *changes: tuple[str, str]) -> Job:
    """The job with lines of its program changed by hand: the first that is so, and whatever stands in its place."""
    ident, own = job.holdings[0].id, made(plan(job).programs[0])
    lines = list(own.lines)
    for old, new in changes:
        lines[lines.index(old)] = new
    return edits.changed_by_hand(job, ident, edits_of(own, "\n".join(lines), ident, ()))


def proved(job: Job) -> Any:
    return prove_job(plan(job))


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("how", WAYS)
def test_a_bar_is_proved_with_all_its_parts(how: str, unit: str) -> None:
    job = from_bar(how, unit=unit)
    planned = plan(job)
    step = planned.steps[-1].filled
    assert isinstance(step, NextPart)
    assert step.parts == 8, "1 + (600 - 90 - 30) / 64"
    proof = prove_job(planned)
    assert proof.verdict == "proved", [r.text for r in proof.remarks]
    note = next(r for r in proof.remarks if r.code == "bar-work")
    assert note.amount == 8
    assert ("88 mm of it stay" if unit == "mm" else "3.4") in note.text
    k, blade = (1.0, 3.0) if unit == "mm" else (1 / 25.4, 3.175)
    assert step.remnant(planned.steps[-1].turned) == pytest.approx((600.0 - 8 * (61.0 + blade)) * k, abs=1e-9)


@pytest.mark.parametrize("how", WAYS)
def test_the_program_calls_one_part_again(how: str) -> None:
    lines = list(post(plan(from_bar(how)).first).lines)
    assert lines.index("M98 P3 L7") + 1 == lines.index("M98 P2") < lines.index("M30") < lines.index("O0002")
    bar = lines[lines.index("O0003") :]
    assert bar[1] == "M98 P2"
    assert {"stop": ["M11", "M10"], "puller": ["M11", "M10"], "feeder": ["M66"]}[how] == [
        line for line in bar if line in ("M10", "M11", "M66")
    ]
    assert bar.index("M5") < next(k for k, line in enumerate(bar) if line in ("M11", "M66"))


@pytest.mark.parametrize("how", WAYS)
def test_every_part_is_read_and_the_bar_comes_on_by_what_one_takes(how: str) -> None:
    planned = plan(from_bar(how))
    scene = scene_of(planned)
    trace = read(post(planned.first).text, scene.control)
    assert not trace.findings
    came = [e.value for e in trace.events if e.what == "bar"]
    assert came == pytest.approx([64.0] * 7, abs=1e-9)
    faced = trace.end[(trace.tool == 1) & (trace.kind == 1) & (trace.end[:, 2] == trace.start[:, 2])]
    assert faced[:, 2] == pytest.approx([-64.0 * k for k in range(8)], abs=1e-6)


def test_one_part_is_as_long_as_without_a_bar() -> None:
    alone = proved(turned(FACE, OFF, length=120.0))
    of_many = proved(from_bar("feeder"))
    assert of_many.part.equals(alone.part)
    assert 0.0 <= of_many.total - alone.total < 10.0, "what brings the bar on is counted, its other parts are not"


@pytest.mark.parametrize("bar", [97.9, 98.0, 150.0, 161.9, 162.1, 1000.0])
def test_the_count_is_exact(bar: float) -> None:
    """90 stick out and 30 stay: the first needs 120 less what is wanted of it, each further one 64 more."""
    keep = 8.0
    planned = plan(from_bar(bar=bar, keep=keep))
    step, ctx = planned.steps[-1].filled, planned.steps[-1].turned
    assert isinstance(step, NextPart)
    wanted = max((n for n in range(1, 400) if 90.0 + keep + (n - 1) * 64.0 <= bar + 1e-9), default=0)
    assert step.most_parts(ctx) == wanted
    if wanted:
        assert step.parts == wanted
        assert step.remnant(ctx) == pytest.approx(bar - wanted * 64.0)
    else:
        assert "98 at least" in planned.steps[-1].troubles[0].text


def test_a_long_bar_of_thin_parts_has_a_bound() -> None:
    job = answering.answered(answering.answered(from_bar(bar=30_000.0), "stock.finished", 2.0), "step:n.parts", None)
    step = plan(job).steps[-1].filled
    assert isinstance(step, NextPart)
    assert step.parts == BAR_PARTS.most


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (("M98 P3 L7", "M98 P3 L8"), "remnant-short"),
        (("Z1", "Z4"), "bar-elsewhere"),
        (("M5", "M3 S500"), "chuck-turns"),
        (("X0", "X200"), "bar-loose"),
        (("M10", "(it stays open)"), "chuck-open"),
    ],
)
def test_a_bar_that_comes_wrongly_is_seen(change: tuple[str, str], code: str) -> None:
    job = from_bar("stop")
    clean = proved(typed(job, ("M98 P2", "M98 P2 (last)")))
    assert clean.verdict == "proved"
    found = proved(typed(job, change))
    assert code in codes(found, "stop"), codes(found)


@pytest.mark.parametrize(
    ("change", "code"),
    [
        (("Z-9", "Z-19"), "bar-elsewhere"),
        (("Z-9", "Z-2"), "bar-elsewhere"),
        (("G1 Z-73 F1500", "G1 Z-62 F1500"), "bar-loose"),
        (("M11", "(it stays closed)"), "bar-missing"),
    ],
)
def test_a_puller_that_pulls_wrongly_is_seen(change: tuple[str, str], code: str) -> None:
    found = proved(typed(from_bar("puller"), change))
    assert code in codes(found, "stop"), codes(found)


def test_a_puller_goes_in_feed_and_along_the_axis() -> None:
    for new in ("G0 Z-9", "X10 Z-9", "Z-80"):
        assert "bar-moves" in codes(proved(typed(from_bar("puller"), ("Z-9", new))), "stop")


def counting() -> Job:
    """A bar's program that counts by a parameter: every part has another feed."""
    line = next(line for line in post(plan(from_bar()).first).lines if line.startswith("G1 X-1.6"))
    feed = line.replace(" F", " F[#1+").rstrip() + "]\n#1=[#1+0.01]"
    return typed(from_bar(), (line, feed), ("M98 P3 L7", "#1=0\nM98 P3 L7"))


def test_a_second_part_that_is_not_cut_as_the_first_is_seen() -> None:
    found = proved(counting())
    assert "part-differs" in codes(found, "stop")
    assert any("Part 2 " in r.text for r in found.remarks if r.code == "part-differs")


def test_a_bar_that_is_cut_into_is_seen() -> None:
    """A groove behind the part-off lies in the next part."""
    behind = Groove(id="g", z=-80.0, width=4.0, outer_d=60.0, floor_d=50.0)
    assert "bar-cut" in codes(proved(from_bar("stop", behind)), "stop")


def test_an_edge_broken_behind_the_blade_is_the_next_parts_front() -> None:
    job = answering.answered(from_bar("stop"), "step:p.break_behind", 0.5)
    assert proved(job).verdict == "proved", "what is broken there is faced off with the allowance"
    thin = answering.answered(job, "step:p.break_behind", 3.0)
    assert "bar-cut" in codes(proved(thin), "stop")


def test_how_far_the_bar_comes_has_to_be_said() -> None:
    job = dialect_of(turned(FACE, OFF), bar_words=("M66",))
    text = post(plan(job).first).text.replace("M30", "M66\nM30")
    trace = read(text, scene_of(plan(job)).control)
    assert [f.code for f in trace.findings if f.level == "stop"] == ["bar-unknown"]


def test_where_there_are_no_subprograms_it_is_one_parts_program() -> None:
    job = dialect_of(from_bar("stop"), subprograms=False)
    planned = plan(job)
    assert not any("M98" in line for line in post(planned.first).lines)
    assert "start it 8 times" in planned.steps[-1].filled.summary(planned.steps[-1].ctx)
    assert prove_job(planned).verdict == "proved"


def test_a_bar_that_gives_one_part_does_not_come_on() -> None:
    planned = plan(from_bar("stop", bar=150.0))
    assert not planned.steps[-1].stages
    assert not planned.steps[-1].troubles
    assert prove_job(planned).verdict == "proved"


def test_it_says_what_it_needs() -> None:
    def why(job: Job) -> str:
        return plan(job).steps[-1].troubles[0].text

    assert "part it off" in why(turned(FACE, NextPart(id="n")))
    assert "no word for a feeder" in why(dialect_of(turned(FACE, OFF, NextPart(id="n", how="feeder")), bar_words=()))
    assert "no words that open" in why(turned(FACE, OFF, NextPart(id="n", how="stop"), machine="lathe-bench"))
    assert "over a bar at most" in why(from_bar("puller", grip=40.0))
    assert "The bar gives 8" in why(from_bar("stop", parts=9))
    assert "brings the bar" in why(turned(FACE, OFF, NextPart(id="n"), TurnFacing(id="g")))
    tail = TailstockCentre(id="t", way="in")
    assert "Tailstock" in tail.title or tail.title
    bare = answering.answered(from_bar("stop"), "step:n.tool", "c80-08")
    assert "no bar stop" in why(bare)


def test_a_new_one_stands_at_the_end() -> None:
    job, ident = edits.step_added(turned(FACE, OFF), "next-part", "f")
    assert job.steps[-1].id == ident


def test_nothing_of_it_for_a_part_that_is_handed_over() -> None:
    job = turned(FACE, HandOver(id="h"), OFF, NextPart(id="n"), machine="turn-mill-250")
    assert plan(job).steps[-1].troubles


def test_an_edit_of_a_bar_is_proved_as_from_nothing() -> None:
    prover, job = Prover(), from_bar("stop")
    prover.prove(plan(job))
    for address, value in (("step:p.edge_break", 0.8), ("step:n.bar", 900.0), ("stock.over_front", 1.5)):
        job = answering.answered(job, address, value)
        again, fresh = prover.prove(plan(job)), Prover().prove(plan(job))
        assert again is not None
        assert fresh is not None
        assert again.holdings[0].remarks == fresh.holdings[0].remarks
        assert again.holdings[0].total == pytest.approx(fresh.holdings[0].total)


def test_a_chuck_that_opens_at_the_end_gives_the_part_away() -> None:
    """Nothing comes behind it: somebody takes the part out."""
    job = turned(FACE)
    opened = post(plan(job).first).text.replace("M30", "M5\nM11\nM30")
    assert not codes(prove_job(plan(job), Program.foreign(opened)), "stop")
    early = post(plan(job).first).text.replace("M30", "M5\nM11\nG53 G0 X440\nG0 Z50\nM30")
    assert "bar-loose" in codes(prove_job(plan(job), Program.foreign(early)), "stop")


def test_what_is_milled_on_parts_of_a_bar_is_held_against_the_first_too() -> None:
    size: Any = {"diameter": 60.0, "length": 120.0, "over_front": 1.0, "finished": 60.0, "stick_out": 90.0}
    holes = Drilling(id="x", pattern="p", diameter=5.0, depth=8.0, spot="no")
    job = turned(FACE, holes, OFF, NextPart(id="n", how="stop", bar=600.0), machine="lathe-driven", **size)
    pattern = PointsPattern(id="p", name="p", points=((15.0, 0.0), (0.0, 15.0)))
    job = msgspec.structs.replace(dialect_of(job, grip_words=("M110", "M111")), patterns=(pattern,))
    planned = plan(job)
    assert not [t for done in planned.steps for t in done.troubles], [t.text for done in planned.steps for t in done.troubles]
    proof = prove_job(planned)
    assert "bar-work" in codes(proof)
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
