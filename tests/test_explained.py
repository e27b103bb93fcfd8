"""Every question is explained in a machinist's words, and its picture is made from what it belongs to."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from bastler.ask import Question, questions_of
from bastler.explained import SAME_AS, ExplainedError, explained, key_of, texts
from bastler.job import Job, new_job, plan
from bastler.job.asked import every_question, owners, page
from bastler.job.samples import sample
from bastler.job.sweeps import said, up_to, values_around
from bastler.live.frames import SeenCard, SeenCode, SeenTimes, SeenTool
from bastler.live.swept import swept
from bastler.units import Kind, Unit
from conftest import some

SENTENCE = re.compile(r"[.!?](?=\s+[A-Z0-9#{]|$)")
QUESTIONS = [pytest.param(cls, q, id=f"{cls.__name__}.{q.name}") for _, cls, q in every_question()]


@pytest.mark.parametrize(("name", "cls"), [pytest.param(n, c, id=n) for n, c in owners()])
def test_every_question_is_explained_in_two_or_three_sentences(name: str, cls: type) -> None:
    for question in questions_of(cls):
        text = explained(cls, question.name)
        assert text, f"{name}: {question.says} is not explained"
        assert 2 <= len(SENTENCE.findall(text)) <= 3, f"{cls.__name__}.{question.name}: {text}"
        assert 60 <= len(text) <= 340, f"{cls.__name__}.{question.name}: {len(text)} letters"


def test_no_text_is_left_over() -> None:
    """Each is that of a question, or of a key that says the same."""
    used = {key_of(cls, question.name) for _, cls, question in every_question()}
    raw = "".join(path.read_text(encoding="utf-8") for path in Path(explained.__globals__["__file__"]).parent.glob("en/*.toml"))
    same = set(re.findall(rf'"{SAME_AS}([\w.]+)"', raw))
    assert set(texts("en")) - used - same == set()


def test_one_text_serves_numbers_of_one_kind_only() -> None:
    """A length and an angle are not the same question, whatever their answers are called."""
    kinds: dict[str, set[Kind | None]] = {}
    for _, cls, question in every_question():
        kinds.setdefault(str(key_of(cls, question.name)), set()).add(question.kind)
    assert {key: found for key, found in kinds.items() if len(found) > 1} == {}


def test_a_key_that_leads_nowhere_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    from bastler import explained as module

    with pytest.raises(ExplainedError, match="nowhere"):
        module._followed({"a": "= b", "b": "= a"}, "a")
    with pytest.raises(ExplainedError, match="nowhere"):
        module._followed({"a": "= c"}, "a")


def test_what_a_class_means_goes_before_what_a_name_means() -> None:
    assert explained(dict, "vc") == texts("en")["vc"]
    assert explained(dict, "there is no such answer") == ""


def test_the_page_of_questions_is_that_of_the_program() -> None:
    assert (Path(__file__).parent.parent / "docs" / "questions.md").read_text(encoding="utf-8") == page()


# -- values -------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("cls", "question"), some(QUESTIONS, 120))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_values_lie_within_the_bounds_of_their_question(cls: type, question: Question, unit: Unit) -> None:
    for now in (None, 0.0, 3.0, -12.5, 40.0):
        values = values_around(question, now, unit)
        assert values
        assert all(said(question, value, unit) != "" or value in ("", None) for value in values)
        if question.kind is not None and now is not None and not question.out_of_bounds(now):
            assert len(values) > 1 or question.kind is Kind.COUNT
            assert [v for v in values if question.out_of_bounds(v)] == []
            assert min(values) <= now <= max(values) or question.kind is Kind.COUNT


def test_a_step_is_seen_without_what_comes_after() -> None:
    job = sample("winch-base")
    assert [s.id for s in up_to(job, "s3").steps] == ["s1", "s2", "s3"]
    assert up_to(job, "stock") is job


# -- frames -------------------------------------------------------------------------------------------------------------


def addresses(job: Job) -> list[tuple[str, str]]:
    """Every card of a job with the addresses of all that is asked now."""
    found = []
    done = plan(job)
    stock = [("stock", "stock.", done.first.stock)]
    held = [(f"holding:{h.holding.id}", f"holding:{h.holding.id}.", h.holding) for h in done.holdings]
    steps = [(s.step.id, f"step:{s.step.id}.", s.filled) for s in done.steps]
    for card, begin, struct in (*stock, *held, *steps):
        found += [
            (card, f"{begin}{q.name}") for q in questions_of(type(struct)) if q.asked(struct) and (job.turns or not q.chucked)
        ]
    return found


JOBS = ("winch-base", "pawl-plate", "drum-spindle", "pawl-shaft", "coupling-nut", "winch-handle")
CARDS = [pytest.param(name, *entry, id=f"{name}-{entry[1]}") for name in JOBS for entry in addresses(sample(name))]


@pytest.mark.parametrize(("name", "card", "address"), some(CARDS, 60))
def test_every_answer_of_the_samples_has_a_picture(name: str, card: str, address: str) -> None:
    frames = swept(sample(name), card, address)
    assert frames
    for frame in frames:
        if isinstance(frame.seen, SeenCard):
            assert frame.seen.look.card == card
            assert frame.seen.look.sketch is not None or frame.seen.why
            assert all(len(way.spots) > 1 for way in frame.seen.ways)


def test_the_path_and_the_part_change_with_the_answer() -> None:
    frames = swept(sample("winch-base"), "s2", "step:s2.ap")
    levels = []
    for frame in frames:
        assert isinstance(frame.seen, SeenCard)
        levels.append(len({round(w, 4) for way in frame.seen.ways if not way.rapid for _, _, w in way.spots}))
        assert min(w for way in frame.seen.ways for _, _, w in way.spots) == pytest.approx(-12.0, abs=1e-6)
    assert levels == sorted(levels, reverse=True)
    assert levels[0] > levels[-1]
    lengths = [f.seen.look.gone[0].region.area for f in swept(sample("winch-base"), "s2", "step:s2.length")]
    assert lengths == sorted(lengths)
    assert lengths[0] < lengths[-1]


def test_what_a_step_takes_is_its_way_by_its_feed() -> None:
    """Twice the feed takes half of the time that is fed."""
    job = sample("drum-spindle")
    frames = swept(job, "s7", "step:s7.f")
    slow, fast = (frame.seen.seconds for frame in (frames[0], frames[-1]))
    assert slow > fast > 0


def test_an_answer_that_is_wrong_says_so_in_its_frame() -> None:
    frames = swept(sample("winch-base"), "s1", "step:s1.finish_z")
    assert any(frame.seen.why for frame in frames)
    assert not all(frame.seen.why for frame in frames)


@pytest.mark.parametrize(
    ("address", "kind"),
    [
        ("tool:end-16.flute_length", SeenTool),
        ("tool:end-16.diameter", SeenTool),
        ("holder:end-16.diameter", SeenTool),
        ("dialect:mill-600.line_numbers", SeenCode),
        ("dialect:mill-600.end", SeenCode),
        ("card:mill-600.rapid", SeenTimes),
        ("card:mill-600.peck_clearance", SeenTimes),
        ("card:lathe-200.rapid", SeenTimes),
        ("material:aluminium.carbide_high", SeenTimes),
        ("material:titanium.kc11", SeenTimes),
        ("job.machine", SeenTimes),
    ],
)
def test_what_is_in_the_crib_has_a_picture_of_its_own(address: str, kind: type) -> None:
    frames = swept(sample("winch-base"), "s2", address)
    assert frames
    assert {type(frame.seen) for frame in frames} == {kind}


def test_lines_that_change_are_lit() -> None:
    off, on = sorted(swept(sample("winch-base"), "s2", "dialect:mill-600.line_numbers"), key=lambda frame: str(frame.value))
    assert isinstance(on.seen, SeenCode)
    assert isinstance(off.seen, SeenCode)
    assert on.seen.lines != off.seen.lines
    assert on.seen.changed or off.seen.changed


def test_faster_rapids_take_less_time() -> None:
    totals = [frame.seen.total for frame in swept(sample("winch-base"), "s2", "card:mill-600.rapid")]
    assert totals == sorted(totals, reverse=True)
    assert totals[0] > totals[-1]


def test_a_new_job_is_explained_too() -> None:
    for unit in ("mm", "inch"):
        for machine in ("mill-600", "lathe-200"):
            job = new_job(unit, machine)
            for card, address in addresses(job):
                assert swept(job, card, address), address
