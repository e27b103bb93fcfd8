"""Hand edits: found in a text that was typed over, laid over the text as the steps make it now, or told where they do not fit."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.bounds import HAND_EDITS
from bastler.cli import main
from bastler.job import Job, JobFileError, answering, edits, plan, read_job, write_job
from bastler.job.by_hand import HandEdit
from bastler.job.files import job_text, read_job_text
from bastler.job.samples import sample
from bastler.live.leaving import lines_that_count
from bastler.post import Program, Section, made, post
from bastler.post.by_hand import TooMuch, edits_of, laid_over, unlaid
from bastler.post.compared import bare
from bastler.proof import prove_whole
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, Facing, RectangularPocket
from conftest import job_of, many, slipped

POCKETS = (Facing(id="a"), RectangularPocket(id="b", x=30, y=20))


def program(*stages: tuple[str, str, Sequence[str]]) -> Program:
    lines = tuple(itertools.chain.from_iterable(own for _, _, own in stages))
    ends = list(itertools.accumulate(len(own) for _, _, own in stages))
    begins = [0, *ends[:-1]]
    return Program(lines, tuple(Section(a, b, s, n) for (s, n, _), a, b in zip(stages, begins, ends, strict=True)))


def typed_over(job: Job, old: str, new: str, nth: int = 0) -> Job:
    """A job in whose first program the nth place of some lines was typed over."""
    group = plan(job).programs[0]
    text = post(group).text
    parts = text.split(old)
    assert len(parts) > nth + 1, f"{old!r} is not there"
    changed = old.join(parts[: nth + 1]) + new + old.join(parts[nth + 1 :])
    ident = group[0].holding.id
    known = [edit for edit in job.by_hand if edit.program == ident]
    return edits.changed_by_hand(job, ident, edits_of(made(group), changed, ident, known))


def text_of(job: Job) -> str:
    return post(plan(job).programs[0]).text


def codes(job: Job) -> list[str]:
    return [r.code for r in prove_whole(plan(job)).remarks if r.level == "stop"]


# -- found and laid -----------------------------------------------------------------------------------------------

LINE = st.sampled_from(["X1", "X2", "G1 Y3", "Z-1", "(r)", ""])
STAGE = st.tuples(st.sampled_from("ab"), st.sampled_from(["rough", "finish"]), st.lists(LINE, min_size=1, max_size=8))
STAGES = st.lists(STAGE, min_size=1, max_size=5)


@settings(max_examples=many(300), deadline=None)
@given(STAGES, st.data())
def test_what_is_typed_is_what_is_laid(stages: list[tuple[str, str, list[str]]], data: st.DataObject) -> None:
    own = program(*stages)
    lines = list(own.lines)
    for _ in range(data.draw(st.integers(0, 4))):
        at = data.draw(st.integers(0, len(lines)))
        end = data.draw(st.integers(at, min(at + 3, len(lines))))
        lines[at:end] = data.draw(st.lists(LINE | st.just("M0"), max_size=3))
    found = edits_of(own, "\n".join([*lines, ""]) if lines else "", "h1", ())
    laid = laid_over(own, found)
    assert list(laid.lines) == lines
    assert laid.unfit == ()
    assert unlaid(laid, found) == own
    assert len({edit.id for edit in found}) == len(found)
    covered = [k for section in laid.sections for k in range(section.first, section.last)]
    assert covered == list(range(len(lines))), "sections cover all lines in order"
    assert edits_of(own, "\n".join([*lines, ""]) if lines else "", "h1", found) == found, "what is known stays as it is"


def test_line_numbers_count_for_nothing() -> None:
    own = program(("a", "rough", ["N10 G0 X1", "N20 G1 Z-1", "N30 X5"]))
    (edit,) = edits_of(own, "G0 X1\nG1 Z-2\nN30 X5\n", "h1", ())
    assert (edit.was, edit.now) == (("G1 Z-1",), ("G1 Z-2",))
    renumbered = program(("a", "rough", ["N5 G0 X1", "N10 G1 Z-1", "N15 X5"]))
    assert laid_over(renumbered, (edit,)).lines == ("N5 G0 X1", "G1 Z-2", "N15 X5")


def test_the_same_lines_in_two_passes_are_told_apart() -> None:
    own = program(("a", "rough", ["G1 X9", "Y1"] * 5))
    (edit,) = edits_of(own, "G1 X9\nY1\nG1 X9\nY1\nG1 X9 F50\nY1\nG1 X9\nY1\nG1 X9\nY1\n", "h1", ())
    assert laid_over(own, (edit,)).lines[4] == "G1 X9 F50"
    more = program(("a", "rough", ["G1 X9", "Y1"] * 6))
    assert laid_over(more, (edit,)).unfit == (edit.id,), "which of six passes is meant nobody knows"
    assert laid_over(more, (edit,)).lines == more.lines


def test_two_edits_that_came_to_lie_over_each_other_are_not_both_laid() -> None:
    one = HandEdit(id="e1", program="h1", step="a", stage="r", was=("X1", "X2"), now=("X8",))
    two = HandEdit(id="e2", program="h1", step="a", stage="r", before=("X1",), was=("X2",), now=("X9",))
    laid = laid_over(program(("a", "r", ["X1", "X2"])), (one, two))
    assert laid.lines == ("X8",)
    assert laid.unfit == ("e2",)


def test_so_much_by_hand_is_another_program() -> None:
    own = program(("a", "rough", [f"X{k}" for k in range(HAND_EDITS.most * 2 + 4)]))
    every_other = "\n".join(f"Y{k}" if k % 2 else f"X{k}" for k in range(len(own.lines)))
    with pytest.raises(TooMuch, match="another program"):
        edits_of(own, every_other, "h1", ())
    with pytest.raises(TooMuch):
        edits_of(own, "\n".join(f"Z{k}" for k in range(10_001)), "h1", ())


# -- in a job -----------------------------------------------------------------------------------------------------


def test_an_edit_is_in_the_program_that_is_proved_and_that_leaves(tmp_path, capsys: pytest.CaptureFixture[str]) -> None:
    job = _deeper(job_of(*POCKETS))
    assert len(job.by_hand) == 1
    proof = prove_whole(plan(job))
    assert proof.first.program.typed
    assert "gouge" in {r.code for r in proof.remarks}, "what was typed is what is cut"
    write_job(job, tmp_path / "a.bastler")
    assert main(["post", str(tmp_path / "a.bastler"), "-o", str(tmp_path / "a.nc")]) == 1
    sent = (tmp_path / "a.nc").read_bytes()
    assert b"NOT PROVED" in sent
    assert lines_that_count(sent) == list(proof.first.program.lines)
    assert read_job(tmp_path / "a.bastler") == job
    capsys.readouterr()


def _deeper(job: Job) -> Job:
    """The deepest line of the pocket goes two further."""
    lines = text_of(job).splitlines()
    section = next(s for s in post(plan(job).first).sections if s.step == "b")
    deep = min((line for line in lines[section.first : section.last] if " Z-" in line or line.startswith("Z-")), key=_depth)
    return typed_over(job, deep, deep.replace(f"Z{_depth(deep):g}", f"Z{_depth(deep) - 2:g}"), 0)


def _depth(line: str) -> float:
    word = next(w for w in line.split() if w.startswith("Z-"))
    return float(word[1:])


def test_an_edit_stays_where_answers_elsewhere_change() -> None:
    job = _deeper(job_of(*POCKETS))
    (edit,) = job.by_hand
    other = answering.answered(job, "step:a.name", "Skim")
    assert edit.now[0] in text_of(other)
    assert plan(other).job.by_hand == job.by_hand
    more = edits.step_added(job, "rectangular-pocket", "a")[0]
    assert edit.now[0] in text_of(more)
    assert "hand-edit" not in codes(more)


def test_an_edit_that_does_not_fit_is_told_and_can_be_left_out() -> None:
    job = _deeper(job_of(*POCKETS))
    (edit,) = job.by_hand
    shallow = answering.answered(job, "step:b.depth", 2.5)
    proof = prove_whole(plan(shallow))
    (remark,) = (r for r in proof.remarks if r.code == "hand-edit")
    assert proof.verdict == "stop"
    assert (remark.step, remark.level) == ("b", "stop")
    assert edit.now[0] in remark.text
    assert edit.now[0] not in proof.first.program.lines
    left = edits.cured(shallow, remark.cure.address, remark.cure.value)
    assert left.by_hand == ()
    assert "hand-edit" not in codes(left)
    back = answering.answered(shallow, "step:b.depth", job.step("b").depth)
    assert edit.now[0] in text_of(back), "nothing of it is lost"


def test_that_of_a_step_that_is_off_waits_for_it() -> None:
    job = _deeper(job_of(*POCKETS))
    off = answering.answered(job, "step:b.on", False)
    assert "hand-edit" not in codes(off)
    assert job.by_hand[0].now[0] in text_of(answering.answered(off, "step:b.on", True))
    gone = edits.step_removed(job, "b")
    assert "hand-edit" in codes(gone), "its step is gone, and it was not"


def test_both_programs_of_a_job_have_their_own() -> None:
    job = sample("bearing-cap")
    held = [group[0].holding.id for group in plan(job).programs]
    second = made(plan(job).programs[1])
    found = edits_of(second, second.text.replace(job.card.dialect.end, f"M0\n{job.card.dialect.end}"), held[1], ())
    job = edits.changed_by_hand(job, held[1], found)
    texts = [post(group).text for group in plan(job).programs]
    assert ["M0" in text for text in texts] == [False, True]
    assert edits.changed_by_hand(job, held[1], ()).by_hand == ()


def test_a_file_that_says_anything_breaks_nothing() -> None:
    job = job_of(*POCKETS)
    strange = HandEdit(
        id="e1", program="h1", was=("M30",), before=(), now=("M0\nO9999\x0bX1\u2028X2", "%"), near=(0, 0), far=(9, -3)
    )
    job = msgspec.structs.replace(job, by_hand=(strange, msgspec.structs.replace(strange, id="e2", program="none", step="zz")))
    again = read_job_text(job_text(job))
    proof = prove_whole(plan(again))
    program = proof.first.program
    assert len(program.text.splitlines()) == len(program.lines)
    assert proof.verdict == "stop"
    twice = msgspec.structs.replace(job, by_hand=(strange, strange))
    with pytest.raises(JobFileError, match="Hand edit “e1” is there twice"):
        read_job_text(job_text(twice))


ROUTE = (*POCKETS, Drilling(id="d", pattern="p", depth=8.0, method="peck"), RectangularPocket(id="e", x=80, y=40, depth=3.0))
HOLES = PointsPattern(id="p", name="p", points=((10.0, 10.0), (70.0, 10.0), (90.0, 60.0)))
HELD = typed_over(job_of(*ROUTE, patterns=(HOLES,)), "M30", "M0 (look at it)\nM30")


@settings(max_examples=many(200), deadline=None)
@given(st.data())
def test_nothing_is_lost_and_nothing_comes_to_stand_elsewhere(data: st.DataObject) -> None:
    """Through any change of answers every edit is in the program once, between the lines it was put between, or told."""
    made_up = plan(HELD)
    own = made(made_up.programs[0])
    lines = list(own.lines)
    for k in sorted(data.draw(st.sets(st.integers(12, len(lines) - 8), min_size=1, max_size=4)), reverse=True):
        lines[k : k + data.draw(st.integers(0, 2))] = [f"(by hand {k})"]
    ident = made_up.programs[0][0].holding.id
    job = edits.changed_by_hand(HELD, ident, edits_of(own, "\n".join(lines), ident, ()))
    changed = slipped(data, job, [f"step:{step.id}" for step in job.steps])
    then = post(plan(changed).programs[0])
    assert changed.by_hand == job.by_hand
    laid = {place.edit: place for place in then.typed}
    assert laid.keys() | set(then.unfit) == {edit.id for edit in job.by_hand}
    assert not laid.keys() & set(then.unfit)
    for edit in job.by_hand:
        if edit.id not in laid:
            assert not set(edit.now) & set(then.lines)
            continue
        place = laid[edit.id]
        section = then.section_of(min(place.first, len(then.lines) - 1))
        assert (section.step, section.stage) == (edit.step, edit.stage)
        assert then.lines[place.first : place.last] == edit.now
        near = [bare(line) for line in then.lines[max(0, place.first - 1) : place.first]]
        others = {line for one in job.by_hand for line in one.now}
        assert not near or not edit.before or near[0] in (edit.before[-1], *others)
