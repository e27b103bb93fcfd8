"""What was sent is kept, found again and compared with what there is now."""

from __future__ import annotations

import gzip
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.samples import sample
from bastler.live import sent
from bastler.live.leaving import digest_of
from bastler.live.sent import Made, Output, SentPrograms
from bastler.post import Program, post
from bastler.post.compared import Change, compared
from bastler.post.program import Section
from conftest import many

LINES = ("G0 X1", "G1 Z-2 F80", "X5", "(rough)")
MADE = Made(LINES, (Section(0, 4, "a", "rough"),), {"a": "Pocket"})


def output(k: int = 0, **changed: object) -> Output:
    given = {"job": "/shop/a.bastler", "name": "Plate", "program": 0, "number": 10, "path": f"/stick/{k}.nc", "digest": f"d{k}"}
    return Output(when=f"2026-11-30 08:{k % 60:02d}", made_of="", **(given | changed))  # type: ignore[arg-type]


# -- kept ---------------------------------------------------------------------------------------------------------


def test_what_left_last_is_found_again(tmp_path: Path) -> None:
    store = SentPrograms(tmp_path)
    kept = [store.keep(output(k), MADE) for k in range(3)]
    assert SentPrograms(tmp_path).outputs() == kept
    assert store.last("/shop/a.bastler", "Plate", 0) == kept[2]
    assert store.made(kept[2]) == MADE
    assert MADE.program == Program(LINES, MADE.sections)
    assert len(list(tmp_path.glob("*.gz"))) == 1, "what is the same is kept once"


def test_a_job_is_known_by_its_file_and_without_one_by_its_name(tmp_path: Path) -> None:
    store = SentPrograms(tmp_path)
    filed, loose = store.keep(output(1), MADE), store.keep(output(2, job="", name="Ring"), MADE)
    assert store.last("/shop/a.bastler", "another name", 0) == filed
    assert store.last("/shop/b.bastler", "Plate", 0) is None
    assert store.last("/shop/b.bastler", "Ring", 0) == loose, "it was sent before it was saved"
    assert store.last("/shop/a.bastler", "Plate", 1) is None, "each program has its own"


def test_the_oldest_go_and_what_is_left_is_whole(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sent, "MOST", 8)
    monkeypatch.setattr(sent, "TRIMMED", 5)
    store = SentPrograms(tmp_path)
    kept = [store.keep(output(k), Made((*LINES, str(k)), (), {})) for k in range(12)]
    left = store.outputs()
    assert left == kept[-len(left) :]
    assert 5 <= len(left) <= 8
    assert {path.name for path in tmp_path.glob("*.gz")} >= {f"{one.made_of}.gz" for one in left}
    assert all(store.made(one) is not None for one in left)
    assert store.made(kept[0]) is None


def test_many_windows_write_at_once_and_none_is_lost(tmp_path: Path) -> None:
    with ThreadPoolExecutor(8) as pool:
        kept = list(pool.map(lambda k: SentPrograms(tmp_path).keep(output(k), MADE), range(40)))
    assert sorted(one.path for one in SentPrograms(tmp_path).outputs()) == sorted(one.path for one in kept)


@pytest.mark.parametrize("damage", [b"", b"\x00\xff", b"{}", b'{"when": 3}', b"[1, 2", "Ø".encode("latin-1")])
def test_a_damaged_list_keeps_what_can_be_read(tmp_path: Path, damage: bytes) -> None:
    store = SentPrograms(tmp_path)
    first = store.keep(output(1), MADE)
    with (tmp_path / "sent.jsonl").open("ab") as file:
        file.write(damage + b"\n")
    second = store.keep(output(2), MADE)
    assert store.outputs() == [first, second]


WHOLE = gzip.compress(msgspec.json.encode(MADE), mtime=0)


@pytest.mark.parametrize(
    "damage", [b"", b"no gzip", gzip.compress(b"{}", mtime=0), WHOLE[:40]], ids=["empty", "other", "none", "cut"]
)
def test_what_it_was_made_of_is_whole_or_not_there(tmp_path: Path, damage: bytes) -> None:
    store = SentPrograms(tmp_path)
    kept = store.keep(output(1), MADE)
    (tmp_path / f"{kept.made_of}.gz").write_bytes(damage)
    assert store.made(kept) is None


def test_a_folder_that_is_none_has_nothing_and_says_why_it_keeps_nothing(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    store = SentPrograms(tmp_path / "file")
    assert store.outputs() == []
    assert store.last("", "Plate", 0) is None
    with pytest.raises((FileExistsError, NotADirectoryError)):
        store.keep(output(), MADE)


def test_whether_the_file_is_still_what_was_sent(tmp_path: Path) -> None:
    path = tmp_path / "a.nc"
    path.write_bytes(b"G0 X1\n")
    one = output(path=str(path), digest=digest_of(b"G0 X1\n"))
    assert one.is_there() is True
    path.write_bytes(b"G0 X2\n")
    assert one.is_there() is False
    path.unlink()
    assert one.is_there() is None


# -- compared -----------------------------------------------------------------------------------------------------


def program(*stages: tuple[str, str, list[str]]) -> Program:
    lines: list[str] = []
    sections = []
    for step, stage, own in stages:
        sections.append(Section(len(lines), len(lines) + len(own), step, stage))
        lines += own
    return Program(tuple(lines), tuple(sections))


A, B, C = ("a", "rough", ["G0 X1", "G1 Z-1"]), ("b", "drill", ["G81 Z-5", "X4", "G80"]), ("c", "face", ["G1 X9"])


def test_the_same_is_the_same_whatever_its_lines_are_numbered() -> None:
    plain = program(A, B)
    numbered = program(*((s, n, [f"N{10 * k} {line} " for k, line in enumerate(own)]) for s, n, own in (A, B)))
    assert compared(plain, plain) == ()
    assert compared(plain, numbered) == ()


def test_what_changed_is_named_by_step_and_line() -> None:
    other = ("b", "drill", ["G81 Z-6", "X4", "X8", "G80"])
    assert compared(program(A, B, C), program(A, other, C)) == (
        Change("b", "drill", "changed", (2, 4), ("G81 Z-5",), 2),
    )  # fmt: skip


def test_steps_come_go_and_change_places() -> None:
    assert compared(program(A, C), program(A, B, C)) == (Change("b", "drill", "fresh", (2, 3, 4), (), 2),)
    assert compared(program(A, B, C), program(A, C)) == (Change("b", "drill", "gone", (), ("G81 Z-5", "X4", "G80"), 2),)
    moved = compared(program(A, B, C), program(B, A, C))
    assert [(change.kind, change.step) for change in moved] in ([("moved", "a")], [("moved", "b")])


def test_remarks_alone_are_told_from_what_the_machine_does() -> None:
    was, now = ("a", "rough", ["(Plate)", "G0 X1"]), ("a", "rough", ["(Plate 2)", "G0 X1"])
    (change,) = compared(program(was), program(now))
    assert change.words
    (change,) = compared(program(was), program(("a", "rough", ["(Plate 2)", "G0 X2"])))
    assert not change.words


def test_two_stretches_of_one_stage_are_not_taken_for_each_other() -> None:
    one, two = ("a", "rough", ["X1"]), ("a", "rough", ["X2"])
    (change,) = compared(program(one, B, two), program(one, B, ("a", "rough", ["X3"])))
    assert (change.lines, change.was) == ((4,), ("X2",))


def test_a_long_program_that_is_another_one_does_not_hang() -> None:
    was = program(("a", "rough", [f"X{k}" for k in range(30_000)]))
    (change,) = compared(was, program(("a", "rough", [f"Y{k}" for k in range(30_000)])))
    assert (len(change.lines), len(change.was)) == (30_000, 30_000)


OWN = st.lists(st.sampled_from(["X1", "X2", "Y3", "(r)"]), min_size=1, max_size=8)
STAGES = st.lists(st.tuples(st.sampled_from("abc"), st.sampled_from(["rough", "finish"]), OWN), max_size=6)


@settings(max_examples=many(200), deadline=None)
@given(STAGES, STAGES)
def test_what_is_not_told_is_the_same(was: list[tuple[str, str, list[str]]], now: list[tuple[str, str, list[str]]]) -> None:
    """Less what is new in the one, and what is gone from the other, both have the same lines, in any order of stages."""
    then, after = program(*was), program(*now)
    changes = compared(then, after)
    fresh = {line for change in changes for line in change.lines}
    gone = [line for change in changes for line in change.was]
    kept = [line for k, line in enumerate(after.lines) if k not in fresh]
    assert sorted([*kept, *gone]) == sorted(then.lines)
    assert all(0 <= change.at <= len(after.lines) for change in changes)
    if then.lines == after.lines and then.sections == after.sections:
        assert changes == ()
    if not changes:
        assert then.lines == after.lines


def test_an_answer_changes_its_own_step_alone() -> None:
    job: Job = sample("winch-base")
    then = post(plan(job).first)
    deeper = post(plan(answering.answered(job, "step:s5.depth", 17.0)).first)
    assert {change.step for change in compared(then, deeper)} == {"s5"}
    off = post(plan(answering.answered(job, "step:s3.on", False)).first)
    assert {change.step for change in compared(then, off) if change.kind == "gone"} == {"s3"}
