"""The computation in a process of its own, without a window: what goes over, what comes back, and in which order."""

from __future__ import annotations

import pickle
import socket
import sys
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.job.samples import sample, sample_names
from bastler.live.child import Child
from bastler.live.client import Process
from bastler.live.desk import Desk
from bastler.live.messages import Answered, Ask, Busy, Drop, Failed, Idle, LookAt, Looked, Planned, Proved, Ready, Report, Work
from bastler.live.showing import Showing, look, part_look, shared, tool_offers
from bastler.live.shown import Flat, Turned
from bastler.live.tasks import TASKS, State, task
from bastler.live.wire import Gone, Shelf, Unshelf, Wire
from bastler.proof import Prover
from bastler.proof.scrub import moment_at
from bastler.shapes.compiling import _at_work
from conftest import sample_proof

DEEP = "step:s2.depth"


# -- the wire -------------------------------------------------------------------------------------------------------------------


@given(st.lists(st.integers(0, 70_000), max_size=5), st.text(max_size=40))
def test_what_goes_in_comes_out(sizes: list[int], text: str) -> None:
    ours, theirs = (Wire(end) for end in socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET))
    arrays = [np.arange(size, dtype=np.float64) for size in sizes]
    ours.send((text, arrays))
    said, found = theirs.receive()
    assert said == text
    for one, other in zip(arrays, found, strict=True):
        assert np.array_equal(one, other)
        assert not other.flags.writeable or not len(other), "nobody writes into what another one may still read"
    for wire in (ours, theirs):
        wire.end.close()


def test_a_message_beyond_the_socket_is_whole_and_does_not_wait_for_its_reader() -> None:
    ours, theirs = (Wire(end) for end in socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET))
    ours.end.settimeout(1.0)
    big = np.zeros(20_000_000, np.uint8)
    for k in range(5):
        ours.send((k, big, "x" * 1_000_000))
    assert [theirs.receive()[0] for _ in range(5)] == list(range(5))
    ours.end.close()
    with pytest.raises(Gone):
        theirs.receive()
    with pytest.raises(Gone):
        theirs.send("nobody is there")
    theirs.end.close()


def test_a_shelf_sends_each_thing_once() -> None:
    here, there = Shelf[list[int]](), Unshelf[list[int]]()
    a, b, c = [1], [2], [1]
    numbers, new = here.pack([a, b])
    assert there.unpack(numbers, new) == ([1], [2])
    numbers, new = here.pack([b, c, b])
    assert list(new.values()) == [[1]], "equal is not the same: only what is the very same is known"
    found = there.unpack(numbers, new)
    assert found == ([2], [1], [2])
    assert found[0] is found[2]
    numbers, new = here.pack([a])
    assert list(new.values()) == [[1]], "what a message did not use was let go"
    assert there.unpack(numbers, new) == ([1],)


# -- values to show -------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", sample_names())
def test_a_sample_is_shown_as_it_is_planned_and_proved(name: str) -> None:
    planned, whole, showing = plan(sample(name)), sample_proof(name), Showing()
    shown = showing.plan(planned)
    assert [s.id for s in shown.steps] == [s.step.id for s in planned.steps]
    assert [s.summary for s in shown.steps] == [s.summary for s in planned.steps]
    assert shown.troubles == planned.troubles
    assert set(shown.drawn) == {o.id for o in planned.job.outlines}
    assert isinstance(shown.first.around, Turned if planned.job.turns else Flat)
    seen = showing.whole(whole)
    assert (seen.verdict, seen.proved, seen.remarks) == (whole.verdict, whole.proved, whole.remarks)
    assert seen.total == pytest.approx(whole.total)
    for one, proof in zip(seen.holdings, whole.holdings, strict=True):
        for share in (0.0, 0.3, 0.77, 1.0):
            assert moment_at(one, share * one.total) == moment_at(proof, share * proof.total)
        assert sum(s.volume for s in one.stages) == pytest.approx(proof.removed)
    again = pickle.loads(pickle.dumps((shown, seen)))
    assert [s.filled for s in again[0].steps] == [s.filled for s in shown.steps]


def test_what_an_edit_does_not_touch_is_the_same_value() -> None:
    job, showing, prover = sample("winch-base"), Showing(), Prover(0.5)
    first = plan(job)
    before, proved = showing.plan(first), showing.whole(prover.prove(first))  # type: ignore[arg-type]
    second = plan(answering.answered(job, "step:s3.length", 38.0), first)
    after, again = showing.plan(second), showing.whole(prover.prove(second))  # type: ignore[arg-type]
    other = [a.id for a, b in zip(after.steps, before.steps, strict=True) if a is not b]
    assert "s3" in other
    assert not {"s1", "s2", "s4"} & set(other)
    runs = (
        {id(s.run) for s in proved.first.stages} if hasattr(proved, "first") else {id(s.run) for s in proved.holdings[0].stages}
    )
    kept = [s.step for s in again.holdings[0].stages if id(s.run) in runs]
    assert "s2" in kept
    assert "s3" not in kept


@pytest.mark.parametrize("name", sample_names())
def test_every_card_has_something_to_see(name: str) -> None:
    planned = plan(sample(name))
    for card in ("stock", *(f"holding:{h.holding.id}" for h in planned.holdings), *(s.step.id for s in planned.steps)):
        seen = look(planned, card)
        assert seen.card == card
        assert (seen.half_cut if planned.job.turns else seen.cutaway) is not None
        assert pickle.loads(pickle.dumps(seen)).says == seen.says
    part = part_look(planned)
    assert (part.stock is None) == planned.job.turns


def test_tools_that_fit_come_first_and_the_others_say_why_not() -> None:
    planned = plan(sample("winch-base"))
    offers = tool_offers(planned, "s2", "tool")
    assert offers is not None
    assert offers.proposed is not None
    fits = [not offer.why_not for offer in offers.tools]
    assert fits == sorted(fits, reverse=True)
    assert any(fits)
    assert not all(fits)
    assert tool_offers(planned, "gone", "tool") is None


def test_a_job_that_came_over_shares_what_it_has_in_common() -> None:
    job = sample("winch-base")
    changed = answering.answered(job, DEEP, 9.0)
    came: Job = shared(pickle.loads(pickle.dumps(changed)), job)
    assert came == changed
    assert [s.id for s, old in zip(came.steps, job.steps, strict=True) if s is not old] == ["s2"]
    assert came.tools is job.tools
    assert shared(pickle.loads(pickle.dumps(job)), job) is job


# -- the desk -------------------------------------------------------------------------------------------------------------------


class Heard:
    """What a desk reports."""

    def __init__(self) -> None:
        self.reports: list[Report] = []
        self._there = threading.Condition()

    def __call__(self, report: Report) -> None:
        with self._there:
            self.reports.append(report)
            self._there.notify_all()

    def wait(self, kind: type, number: int = 0) -> Any:
        """The first report of a kind, of a job from `number` on."""

        def found() -> Any:
            return next((r for r in self.reports if isinstance(r, kind) and getattr(r, "number", 0) >= number), None)

        with self._there:
            assert self._there.wait_for(lambda: found() is not None, timeout=60), (kind, self.reports)
            return found()


@pytest.fixture
def desk() -> Iterator[tuple[Desk, Heard]]:
    heard = Heard()
    made = Desk(heard)
    made.start()
    yield made, heard
    made.leave()


def test_the_newest_job_wins(desk: tuple[Desk, Heard]) -> None:
    made, heard = desk
    job = sample("bearing-cap")
    for k in range(8):
        job = answering.answered(job, "stock.over_top", 0.03 + 0.001 * k)
        made.take(Work(k + 1, job, "stock"))
    proved = heard.wait(Proved, 8)
    assert proved.number == 8
    plans = [r.number for r in heard.reports if isinstance(r, Planned)]
    assert plans == sorted(plans)
    assert plans[-1] == 8
    assert len([r for r in heard.reports if isinstance(r, Proved)]) <= len(plans)


def test_who_waits_for_what_is_compiled_before_there_is_a_job_is_told_so(monkeypatch: pytest.MonkeyPatch) -> None:
    """On a fresh machine that takes minutes: the first job waited behind it without a word, and was taken to hang."""
    begun, go_on = threading.Event(), threading.Event()

    def compiles(self: Desk) -> None:
        self._warmed = True
        _at_work.begin()
        begun.set()
        assert go_on.wait(30.0)
        _at_work.end()

    monkeypatch.setattr(Desk, "_warm", compiles)
    heard = Heard()
    made = Desk(heard)
    made.start()
    assert begun.wait(10.0)
    made.take(Work(7, sample("pawl-plate"), "s2"))
    said = heard.wait(Busy, 7)
    assert (said.planning, said.compiling) == (True, True)
    go_on.set()
    assert heard.wait(Proved, 7).number == 7
    made.leave()


def test_a_card_is_looked_at_and_questions_are_answered(desk: tuple[Desk, Heard]) -> None:
    made, heard = desk
    made.take(Work(1, sample("winch-base"), "s2"))
    assert heard.wait(Planned).look.card == "s2"
    made.take(LookAt("s4"))
    assert heard.wait(Looked).look.card == "s4"
    made.take(Ask(1, "tools", ("s2", "tool"), "tools"))
    assert heard.wait(Answered).value.tools
    made.take(
        Ask(2, "drawing", (Path("nowhere.dxf"), "mm", 0.01, None, 0.01), "drawing")
    )  # a task that fails is told, and the lane lives
    end = time.monotonic() + 20
    while len([r for r in heard.reports if isinstance(r, Answered)]) < 2 and time.monotonic() < end:
        time.sleep(0.01)
    (_, last) = [r for r in heard.reports if isinstance(r, Answered)]
    assert last.value is None
    assert last.trouble
    made.take(Drop())
    heard.wait(Idle)


def test_what_is_begun_after_it_does_not_hold_up_the_word_that_all_has_ended(
    desk: tuple[Desk, Heard], monkeypatch: pytest.MonkeyPatch
) -> None:
    """Else a process that works well would be taken for one that does not let go."""
    made, heard = desk
    go_on, planning = threading.Event(), threading.Event()
    second = sample("winch-base")

    def slow(job: Job, old: Any = None) -> Any:
        if job == second:
            planning.set()
            assert go_on.wait(60)
        return plan(job, old)

    monkeypatch.setattr("bastler.live.desk.plan", slow)
    made.take(Work(1, sample("bearing-cap"), "stock"))
    heard.wait(Planned, 1)
    made.take(Drop())
    made.take(Work(2, second, "stock"))
    assert planning.wait(60)
    heard.wait(Idle)
    assert not any(isinstance(r, Proved) and r.number == 2 for r in heard.reports)
    go_on.set()
    assert heard.wait(Proved, 2).number == 2


def test_a_plan_that_fails_is_told(desk: tuple[Desk, Heard], monkeypatch: pytest.MonkeyPatch, caplog: Any) -> None:
    def broken(*_: object) -> None:
        raise RuntimeError("planted")

    made, heard = desk
    monkeypatch.setattr("bastler.live.desk.plan", broken)
    made.take(Work(1, sample("bearing-cap"), "stock"))
    assert "could not be planned" in heard.wait(Failed).text
    monkeypatch.undo()
    made.take(Work(2, sample("bearing-cap"), "stock"))
    heard.wait(Planned, 2)
    caplog.clear()


def test_a_name_of_a_task_is_used_once() -> None:
    with pytest.raises(ValueError, match="There is a task"):
        task("solid")(lambda state: None)
    assert all(TASKS[name].__doc__ for name in TASKS)
    assert TASKS["solid"](State(), "h1", None, None, False) is None
    assert TASKS["order"](State()) == ()


# -- the process ----------------------------------------------------------------------------------------------------------------


def test_the_process_works_and_its_end_is_seen() -> None:
    child = Child()
    process = Process(child)
    assert isinstance(process.receive(), Ready)
    job = sample("bearing-cap")
    found: dict[int, Any] = {}
    for number, value in ((1, 0.03), (2, 0.031)):
        process.send(Work(job=answering.answered(job, "stock.over_top", value), number=number, card="stock"))
        while not isinstance(report := process.receive(), Proved):
            if isinstance(report, Planned):
                found[number] = report.plan
        found[-number] = report.whole
    assert [s.id for s in found[2].steps] == [s.id for s in job.steps]
    assert found[-2].verdict in ("proved", "left")
    trace = found[-2].holdings[0].trace
    assert len(trace) > 10
    assert not trace.start.flags.writeable
    child.process.kill()
    with pytest.raises(Gone):
        process.receive()
    process.close()


def test_before_there_is_a_job_all_is_loaded_and_nobody_hears_of_it(
    desk: tuple[Desk, Heard], monkeypatch: pytest.MonkeyPatch
) -> None:
    """A sample is planned and proved unseen; the lanes live on and take the first job."""
    made, heard = desk
    proved = threading.Event()
    prove = Prover.prove

    def noted(self: Prover, *given: Any, **named: Any) -> Any:
        found = prove(self, *given, **named)
        proved.set()
        return found

    monkeypatch.setattr(Prover, "prove", noted)
    assert proved.wait(60)
    time.sleep(0.1)
    assert not heard.reports
    made.take(Work(1, sample("bearing-cap"), "stock"))
    heard.wait(Proved, 1)


def test_a_lane_that_dies_takes_the_process_with_it() -> None:
    process = Process(Child((sys.executable, "-c", LANE_DIES)))
    assert isinstance(process.receive(), Ready)
    process.send(Work(1, sample("bearing-cap"), "stock"))
    with pytest.raises(Gone):
        process.receive()
    process.close()


LANE_DIES = """
import sys
from bastler.live import __main__, desk
def broken(self, work): raise SystemError("planted")
desk.Desk._plan = broken
import logging; logging.disable(logging.CRITICAL)
sys.exit(__main__.main(int(sys.argv[1])))
"""


# -- what a drawing shows of threads, and where it is cut open -------------------------------------------------------------------


def test_threads_are_known_to_the_steps_behind_them() -> None:
    """M24 × 1.5: crest at 12, root (external, ISO 965-1 tool form) a good 1.1 under it; a drawing knows it once it is cut."""
    planned = plan(sample("drum-spindle"))
    own, after, before = look(planned, "s6"), look(planned, "s7"), look(planned, "s5")
    (made,) = own.makes
    assert (made.crest, made.begin, made.end, made.inside) == (12.0, 0.0, -16.0, False)
    assert 10.8 < made.root < 11.2
    assert after.threads == own.makes
    assert not before.threads
    assert not before.makes


def test_tapped_holes_have_threads_at_all_their_places() -> None:
    """M6: major 6, core of the nut 4.917 (ISO 261)."""
    planned = plan(sample("winch-base"))
    lines = look(planned, "s7").makes
    assert len(lines) == 3
    assert {line.end for line in lines} == {-12.0}
    assert {(round(2 * line.root, 3), round(2 * line.crest, 3)) for line in lines} == {(6.0, 4.917)}
    assert look(planned, "s8").threads == lines


@pytest.mark.parametrize("card", ["s3", "stock", "holding:h1"])
def test_a_part_is_cut_open_wherever_one_likes(card: str) -> None:
    planned = plan(sample("winch-base"))
    plain, elsewhere = look(planned, card), look(planned, card, 7.0)
    assert plain.sketch is not None
    assert elsewhere.sketch is not None
    (ax, ay), (bx, by) = elsewhere.sketch.section
    assert 7.0 in ((ax, bx) if ax == bx else (ay, by))
    assert look(planned, card, None) == plain
    across = 0 if ax == bx else 1
    assert look(planned, card, plain.sketch.section[0][across]).sketch == plain.sketch
