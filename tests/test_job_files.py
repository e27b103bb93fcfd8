"""Job files: whole, strict, and nothing lost."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import Job, JobFileError, answering, edits, new_job, plan, read_job, read_job_text, schema, write_job
from bastler.job.faults import job_faults
from bastler.job.files import job_text
from bastler.job.history import History
from bastler.job.samples import sample, sample_names
from bastler.post import post
from bastler.proof import prove_job
from bastler.steps import STEPS


@pytest.mark.parametrize("name", sample_names())
def test_a_job_comes_back_as_it_was(name: str, tmp_path: Path) -> None:
    job = sample(name)
    write_job(job, tmp_path / "a.bastler")
    assert read_job(tmp_path / "a.bastler") == job
    assert os.listdir(tmp_path) == ["a.bastler"]


@pytest.mark.parametrize(
    ("change", "place", "word"),
    [
        ({"machine": "none"}, "$.machine", "no machine card"),
        ({"version": 99}, "$.version", "not known"),
        ({"unit": "furlong"}, "$.unit", "Invalid"),
        ({"stock": {"is": "block", "size_x": "wide"}}, "$.stock.size_x", "float"),
        ({"stock": {"is": "block", "material": "cheese"}}, "$.stock.material", "no material"),
        ({"holdings": [{"held": "vise", "steps": [{"kind": "knitting", "id": "a"}]}]}, "$.holdings[0].steps[0].kind", "knitting"),
        ({"holdings": [{"held": "vise", "steps": [{"kind": "facing", "id": "a"}] * 2}]}, "$.holdings[0].steps[1]", "twice"),
        ({"stock": {"is": "block", "colour": "red"}}, "$.stock", "unknown field"),
    ],
)
def test_a_bad_file_names_the_field(change: dict, place: str, word: str) -> None:
    with pytest.raises(JobFileError) as caught:
        read_job_text(json.dumps(change).encode())
    assert caught.value.place == place
    assert word in caught.value.reason


FACE = {"kind": "facing", "id": "a"}
NONE = {"kind": "circle", "id": "p", "name": "p", "count": 0}
HOLES = {"kind": "drilling", "id": "d", "pattern": "p", "diameter": 5.0, "depth": 6.0}


@pytest.mark.parametrize(
    ("change", "field", "word"),
    [
        ({"version": 3, "setup": {"holds": "milling", "size_x": -1, "steps": [FACE]}}, "stock.size_x", "more than 0"),
        ({"holdings": [{"held": "vise", "steps": [FACE | {"ap": -2}]}]}, "step:a.ap", "more than 0"),
        ({"patterns": [NONE], "holdings": [{"held": "vise", "steps": [HOLES]}]}, "pattern:p.count", "1 or"),
        ({"program_number": 123456, "holdings": [{"held": "vise", "steps": [FACE]}]}, "job.program_number", "9999"),
    ],
)  # fmt: skip
def test_a_number_out_of_its_bounds_is_opened_and_marked(change: dict, field: str, word: str) -> None:
    """What an older Bastler wrote, or a newer rule forbids: the job opens, the fault is at its place, nothing is cut by it."""
    job = read_job_text(json.dumps(change).encode())
    proof = prove_job(plan(job), cell_mm=1.0)
    marked = [r for r in proof.remarks if r.field == field]
    assert marked, [(r.field, r.text) for r in proof.remarks]
    assert word in marked[0].text
    assert not proof.proved
    assert read_job_text(job_text(job)) == job


@pytest.mark.parametrize("turning", [False, True])
@pytest.mark.parametrize(
    "change",
    [{"diameter": 0}, {"corner_radius": 9.0, "diameter": 8.0}, {"insert": "M1e9x1"}, {"flute_length": 9.0, "stick_out": 1}],
)
def test_a_tool_that_cannot_be_is_opened_and_marked(turning: bool, change: dict) -> None:
    made = json.loads(job_text(sample("drum-spindle" if turning else "winch-base")))
    at = next((k for k, t in enumerate(made["tools"]) if set(change) <= set(t)), None)
    if at is None:
        pytest.skip("no tool of this kind has that")
    made["tools"][at] |= change
    job = read_job_text(json.dumps(made).encode())
    assert job_faults(job)[0].field.startswith(f"tool:{job.tools[at].id}.")
    proof = prove_job(plan(job), cell_mm=1.0)
    assert not proof.proved
    assert not proof.removed, "in doubt nothing is cut"


@pytest.mark.parametrize(
    ("address", "value"),
    [
        ("stock.size_x", None), ("stock.size_x", "wide"), ("stock.size_x", float("inf")), ("stock.material", "cheese"),
        ("job.machine", "lathe-200"), ("job.name", "\ud7ff\udc00"), ("stock.form", "egg"), ("tool:end-16.flutes", 2.5),
    ],
)  # fmt: skip
def test_what_no_file_may_hold_is_refused_where_it_is_typed(address: str, value: Any) -> None:
    with pytest.raises(answering.UnfitAnswer):
        answering.answered(new_job(), address, value)


def test_words_of_a_card_reach_into_nothing() -> None:
    for words in ("T{tool.__class__} M6", "T{tool:>999999999}", "T{tool!r}", "T{0}", "{", "}", "T{tool:099d}"):
        job = answering.answered(new_job(), "dialect:mill-600.tool_call", words)
        assert not prove_job(plan(with_face(job)), cell_mm=1.0).proved
        assert read_job_text(job_text(job)) == job
    good = answering.answered(new_job(), "dialect:mill-600.tool_call", "T{tool:03d} M6")
    assert any(line == "T001 M6" for line in post(plan(with_face(good)).first).lines)


def with_face(job: Job) -> Job:
    return edits.step_added(job, "facing", "")[0]


@given(st.binary(max_size=200))
def test_rubbish_is_refused_with_a_sentence(data: bytes) -> None:
    try:
        read_job_text(data)
    except JobFileError as error:
        assert str(error)


@given(st.data())
def test_a_file_with_one_thing_changed_reads_or_says_why(data: st.DataObject) -> None:
    raw = json.loads(job_text(sample("winch-base")))
    spot = data.draw(st.sampled_from(["stock", "holdings", "tools", "patterns"]))
    owner = raw[spot] if spot == "stock" else data.draw(st.sampled_from(raw[spot]))
    owner[data.draw(st.sampled_from(sorted(owner)))] = data.draw(
        st.none()
        | st.floats(allow_nan=False, allow_infinity=False)
        | st.text(max_size=5)
        | st.lists(st.integers(), max_size=2)
        | st.just({})
    )
    try:
        read_job_text(json.dumps(raw).encode())
    except JobFileError as error:
        assert error.place


def test_the_schema_knows_every_step() -> None:
    found = json.dumps(schema())
    for kind in STEPS.values():
        assert f'"{kind.tag}"' in found
    assert '"exclusiveMinimum": 0' in found


def test_a_disk_that_refuses_leaves_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.bastler"
    write_job(new_job(), path)
    before = path.read_bytes()

    def refuse(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", refuse)
    with pytest.raises(OSError, match="No space"):
        write_job(new_job("inch"), path)
    assert path.read_bytes() == before
    assert os.listdir(tmp_path) == ["a.bastler"]


def test_undo_goes_back_over_everything_and_keystrokes_are_one() -> None:
    history = History(new_job())
    first = history.job
    for width in (1.0, 12.0, 120.0):
        history.edit(answering.answered(history.job, "stock.size_x", width), "Change size x", merge="stock.size_x")
    history.settle()
    job, _ = edits.step_added(history.job, "facing", "")
    history.edit(job, "Add")
    assert history.undo_says == "Add"
    assert history.undo().stock.size_x == 120.0
    assert history.redo_says == "Add"
    assert history.undo() == first
    assert history.undo() == first
    history.redo()
    history.redo()
    assert history.job == job
    assert not history.redo_says


def test_an_edit_after_undo_forgets_what_was_undone() -> None:
    history = History(new_job())
    history.edit(answering.answered(history.job, "job.name", "a"), "name")
    history.undo()
    history.edit(answering.answered(history.job, "job.name", "b"), "name")
    assert history.job.name == "b"
    assert not history.redo_says


def test_what_was_typed_is_kept_beside_the_value() -> None:
    job = answering.answered(new_job("inch"), "stock.size_x", 4.125, "4 1/8")
    assert job.stock.typed == {"size_x": "4 1/8"}
    assert answering.answered(job, "stock.size_x", 4.0, "4").stock.typed == {}


def test_addresses_lead_to_answers_or_nowhere() -> None:
    with pytest.raises(KeyError):
        answering.answered(new_job(), "step:none.depth", 1.0)
    with pytest.raises(KeyError):
        answering.answered(new_job(), "stock.nothing", 1.0)


@pytest.mark.parametrize("kind", STEPS)
def test_steps_are_added_copied_moved_switched_and_removed(kind: str) -> None:
    turning = "flat" not in STEPS[kind].planes
    blank = new_job("mm", "lathe-200" if turning else "mill-600")
    job, one = edits.step_added(blank, "turn-facing" if turning else "facing", "")
    job, two = edits.step_added(job, kind, one)
    job, copy = edits.step_copied(job, two)
    assert [s.id for s in job.steps] == [one, two, copy]
    copied: Any = job.step(copy)
    assert msgspec.structs.replace(copied, id=two) == job.step(two)
    job = edits.step_moved(job, copy, 0)
    assert [s.id for s in job.steps] == [copy, one, two]
    assert not edits.step_switched(job, copy).step(copy).on
    job = edits.step_removed(edits.step_removed(job, copy), two)
    assert [s.id for s in job.steps] == [one]
    assert job.patterns == job.outlines == ()


def test_a_pattern_can_be_shared_and_parted() -> None:
    job, one = edits.step_added(new_job(), "drilling", "")
    job, two = edits.step_added(job, "drilling", one)
    assert job.step(one).pattern == job.step(two).pattern
    job = edits.pattern_for(job, two, "grid")
    assert len(job.patterns) == 2
    assert job.step(one).pattern != job.step(two).pattern


def test_planning_after_an_edit_keeps_what_it_does_not_touch() -> None:
    from bastler.job import plan

    job = sample("winch-base")
    first = plan(job)
    for address, value, kept in (
        ("step:s4.diameter", 8.5, 7),  # the steps that look at all holes are planned again too
        ("step:s1.finish_z", -0.5, 0),
        ("stock.size_z", 40.0, 0),
        ("pattern:p1.diameter", 90.0, 7),
        ("job.machine", "mill-old", 0),
    ):
        changed = answering.answered(job, address, value)
        again = plan(changed, first)
        assert [a.stages is b.stages for a, b in zip(again.steps, first.steps, strict=True)].count(True) == kept, address
        fresh = plan(changed)
        assert [s.stages for s in again.steps] == [s.stages for s in fresh.steps]
        assert [s.filled for s in again.steps] == [s.filled for s in fresh.steps]
    shorter = edits.step_removed(job, "s5")
    assert [s.step.id for s in plan(shorter, first).steps] == [f"s{k}" for k in (1, 2, 3, 4, 6, 7, 8, 9, 10)]


@pytest.mark.parametrize("name", ["bearing-cap", "gland-nut"])
def test_a_file_of_version_3_has_its_setup_parted(name: str) -> None:
    """Stock and holding were one setup: nothing of it is lost, and the program is the same."""
    text = (Path(__file__).parent / "older" / f"{name}-3.bastler").read_bytes()
    job, old = read_job_text(text), json.loads(text)
    setup = old["setup"]
    given = {k: v for k, v in setup.items() if k not in ("holds", "steps", "typed")}
    assert all(getattr(job.stock, k, getattr(job.holdings[0], k, None)) == v for k, v in given.items())
    assert [s.id for s in job.steps] == [s["id"] for s in setup["steps"]]
    base = (Path(__file__).parent / "older" / f"{name}-3.nc").read_text(encoding="utf-8")
    assert post(plan(job).first).text == base


def test_what_was_typed_in_a_setup_stays_where_it_belongs() -> None:
    setup = {"holds": "milling", "size_x": 101.6, "grip": 6.35, "typed": {"size_x": "4in", "grip": "1/4in"}}
    job = read_job_text(json.dumps({"version": 3, "setup": setup}).encode())
    assert job.stock.typed == {"size_x": "4in"}
    assert job.holdings[0].typed == {"grip": "1/4in"}
    with pytest.raises(JobFileError):
        read_job_text(json.dumps({"version": 3, "setup": {"holds": "weaving"}}).encode())
    with pytest.raises(JobFileError):
        read_job_text(json.dumps({"version": 3, "setup": {"holds": "milling", "typed": [1]}, "holdings": 7}).encode())
