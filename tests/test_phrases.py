"""Lines of one's own with blanks to fill in, and phrases of them that the shop keeps."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import Job, JobFileError, answering, edits, new_job, plan, read_job_text
from bastler.job.files import job_text
from bastler.job.shop import Shop, read_shop, shops_merged, write_shop
from bastler.post import post
from bastler.proof import prove_whole
from bastler.steps import OwnLines
from bastler.steps.general.between import Blank, names_in

LINES = ("G0 Z{above}", "G4 P{wait}", "M8")


def job_with(lines: tuple[str, ...], *blanks: Blank, unit: str = "mm", machine: str = "mill-600") -> Job:
    job, ident = edits.step_added(new_job(unit, machine), "own-lines", "")  # type: ignore[arg-type]
    job = answering.answered(job, f"step:{ident}.lines", lines)
    return answering.answered(job, f"step:{ident}.blanks", tuple(blanks))


@pytest.mark.parametrize(("unit", "above"), [("mm", "50"), ("inch", "2.")])
def test_the_program_has_what_was_filled_in_and_is_proved(unit: str, above: str) -> None:
    job = job_with(LINES, Blank("above", above), Blank("wait", "1.5"), unit=unit)
    done = plan(job)
    assert done.steps[0].troubles == ()
    text = post(done.first).text
    assert f"G0 Z{above}\n" in text
    assert "{" not in text
    codes = {r.code for r in prove_whole(done).remarks if r.level == "stop"}
    assert codes == set()


def test_a_blank_without_a_value_keeps_the_step_open() -> None:
    done = plan(job_with(LINES, Blank("above", "50")))
    trouble = done.steps[0].troubles[0]
    assert (trouble.field, trouble.open) == ("blanks", True)
    assert "wait has no value" in trouble.text
    assert done.steps[0].stages == ()


@pytest.mark.parametrize("value", ["50\nM30", "{above}", "5;M30", "(x", "é", "x" * 41])
def test_what_no_line_can_hold_is_no_value(value: str) -> None:
    done = plan(job_with(("G0 Z{above}",), Blank("above", value)))
    assert done.steps[0].troubles[0].field == "blanks"
    assert done.steps[0].stages == ()


@pytest.mark.parametrize("value", ["30 M30", "1 M2"])
def test_a_value_cannot_end_the_program(value: str) -> None:
    done = plan(job_with(("G0 Z{above}",), Blank("above", value)))
    assert "begin or end the program" in done.steps[0].troubles[0].text


def test_a_wrong_word_in_a_blank_is_found_by_the_proof() -> None:
    done = plan(job_with(("G0 Z{above}",), Blank("above", "50 Q7")))
    assert not prove_whole(done).proved


@given(st.lists(st.text(st.characters(max_codepoint=126, min_codepoint=32), max_size=30), max_size=5))
def test_blanks_are_found_once_and_filled_wherever_they_stand(lines: list[str]) -> None:
    names = names_in(lines)
    assert len(set(names)) == len(names)
    step = OwnLines(id="s1", lines=tuple(lines), blanks=tuple(Blank(name, "1") for name in names))
    assert names_in(step.written) == []
    assert step.open_blanks == []


def test_the_question_of_blanks_comes_with_the_first_blank() -> None:
    from bastler.ask import questions_of

    question = next(q for q in questions_of(OwnLines) if q.name == "blanks")
    assert not question.asked(OwnLines(id="s", lines=("M8",)))
    assert question.asked(OwnLines(id="s", lines=("G0 Z{above}",)))


# -- the shop -------------------------------------------------------------------------------------------------------------


def test_a_phrase_is_offered_in_its_unit_and_on_its_kind_of_machine_only(tmp_path: Path) -> None:
    mill, inch, lathe = new_job("mm", "mill-600"), new_job("inch", "mill-600"), new_job("mm", "lathe-200")
    shop = Shop().with_phrase(mill, "Warm up", LINES).with_phrase(lathe, "Warm up", ("M8",))
    assert [p.lines for p in shop.phrases_for(mill)] == [LINES]
    assert [p.lines for p in shop.phrases_for(lathe)] == [("M8",)]
    assert shop.phrases_for(inch) == ()
    changed = shop.with_phrase(mill, "Warm up", ("M9",))
    assert [p.lines for p in changed.phrases_for(mill)] == [("M9",)]
    assert len(changed.phrases) == 2
    write_shop(changed, tmp_path / "shop.json")
    assert read_shop(tmp_path / "shop.json") == changed
    assert changed.without_phrase(changed.phrases_for(mill)[0].id).phrases_for(mill) == ()


def test_two_windows_keep_each_others_phrases() -> None:
    job = new_job("mm", "mill-600")
    base = Shop().with_phrase(job, "A", ("M8",))
    ours, theirs = base.with_phrase(job, "A", ("M7",)), base.with_phrase(job, "B", ("M9",))
    merged, both = shops_merged(base, ours, theirs)
    assert {(p.name, p.lines) for p in merged.phrases} == {("A", ("M7",)), ("B", ("M9",))}
    assert both == ()


def test_a_job_with_blanks_is_read_again_and_a_bad_blank_is_refused() -> None:
    job = job_with(LINES, Blank("above", "50"))
    assert read_job_text(job_text(job)) == job
    bad = msgspec.json.decode(job_text(job))
    bad["holdings"][0]["steps"][0]["blanks"] = [{"name": "above", "valu": "5"}]
    with pytest.raises(JobFileError, match="blanks"):
        read_job_text(msgspec.json.encode(bad))
