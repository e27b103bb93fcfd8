"""What takes too long is seen, stopped and said; nothing is worked out on the thread that answers the machinist."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from numba import njit
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QPushButton

from bastler.app import planner
from bastler.app import session as sessions
from bastler.job import Job, plan
from bastler.job.kept import between
from bastler.proof import Prover
from bastler.shapes import drawn as drawing
from bastler.shapes.compiling import compiled_within
from bastler.steps import RectangularPocket

from .conftest import ALT, CTRL, NONE, Hands, QTest

DEEP = "step:s2.depth"
PROVE = Prover.prove


@pytest.fixture
def hanging(monkeypatch: pytest.MonkeyPatch) -> Iterator[threading.Event]:
    """Proofs that do not end until the event comes, whether they are wanted or not; those begun after it are real."""
    free = threading.Event()

    def prove(self: Prover, *what: Any, **how: Any) -> Any:
        if not free.is_set():
            free.wait(30.0)
            return None
        return PROVE(self, *what, **how)

    monkeypatch.setattr(Prover, "prove", prove)
    yield free
    free.set()


def says(hands: Hands) -> str:
    return hands.window.header.verdict.text()


def test_a_proof_that_hangs_is_stopped_and_said(
    demo: Hands, hanging: threading.Event, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    session, window = demo.window.session, demo.window
    session.longest = 0.6
    session.answer(DEEP, 5.0)
    demo.until(lambda: bool(session.halted))
    assert "No proof after 0.6 s" in session.halted
    assert "Not proved" in says(demo)
    assert "Undo, or press Prove" in window.caption.text()
    assert window.header.halt.isVisible()
    assert window.header.halt.text() == "Prove"
    assert session.stale
    # nothing goes out
    demo.press(Qt.Key.Key_P, CTRL)
    window.program.output.folder = tmp_path
    demo.click(window.program.output.button)
    assert not list(tmp_path.glob("*.nc"))
    assert "was stopped" in window.program.output.said.text()
    # the next change does not wait for the one that hangs
    thread = next(t for t in threading.enumerate() if t.name == "proof")
    assert thread.is_alive()
    session.longest = sessions.LONGEST
    monkeypatch.setattr(Prover, "prove", PROVE)
    session.answer(DEEP, 6.0)
    demo.proved()
    assert "Proved" in says(demo)
    assert not window.header.halt.isVisible()


def test_a_proof_is_stopped_by_hand_and_begun_again(demo: Hands, hanging: threading.Event) -> None:
    session, header = demo.window.session, demo.window.header
    before = session.proof
    session.answer(DEEP, 5.0)
    demo.until(header.halt.isVisible)
    assert header.halt.text() == "Stop"
    demo.click(header.halt)
    assert "Stopped by you" in session.halted
    assert session.proof is before, "the old picture stays, marked as old"
    assert session.stale
    hanging.set()
    demo.press(Qt.Key.Key_P, ALT)
    demo.proved()
    assert session.proof is not None
    assert session.proof.held.job is session.job
    assert session.longest == float("inf"), "who waits on purpose is not interrupted"
    demo.window.open_choice("sample:bearing-cap")
    assert session.longest == sessions.LONGEST


def test_undo_takes_the_place_of_a_proof_that_was_stopped(demo: Hands, hanging: threading.Event) -> None:
    session = demo.window.session
    session.longest = 0.3
    session.answer(DEEP, 5.0)
    demo.until(lambda: bool(session.halted))
    session.longest = sessions.LONGEST
    hanging.set()
    demo.press(Qt.Key.Key_Z, CTRL)
    demo.proved()
    assert not session.halted


def test_a_plan_that_hangs_is_stopped_and_said(demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    """More of them than are made at once: the next is planned all the same."""
    session, quick, free = demo.window.session, plan, threading.Event()

    def slow(job: Job, old: Any) -> Any:
        free.wait(30.0)
        return quick(job, old)

    monkeypatch.setattr(planner, "PATIENCE", 0.02)
    monkeypatch.setattr(planner, "plan", slow)
    session.longest = 0.5
    for k in range(planner.MOST_AT_ONCE + 2):
        session.answer("stock.size_x", 155.0 + k)
    demo.until(lambda: bool(session.halted))
    assert "No plan after" in session.halted
    assert "Not proved" in says(demo)
    monkeypatch.setattr(planner, "plan", quick)
    session.longest = sessions.LONGEST
    session.answer("stock.size_x", 158.0)
    demo.proved()
    assert session.held.stock.size_x == 158.0
    free.set()


def test_the_window_works_no_outline_out_itself(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    """While the solver takes its time the outline is shown as it was; then as it is."""
    hands.window.open_choice("sample:pawl-plate")
    hands.proved()
    session, real, where, free = hands.window.session, drawing._draw, [], threading.Event()
    session.select("s4")

    def slow(outline: Any) -> Any:
        where.append(threading.current_thread().name)
        free.wait(30.0)
        return real(outline)

    monkeypatch.setattr(drawing, "_draw", slow)
    monkeypatch.setattr(planner, "PATIENCE", 0.05)
    outline = session.outline_of_step()
    assert outline is not None
    was = session.drawn(outline)
    session.answer(f"outline:{outline.id}.segments.0.radius", 1.01)
    assert session.late
    now = session.outline_of_step()
    assert now is not None
    assert session.as_drawn(now) == (outline, was)
    hands.window.sheet.grab()
    assert hands.window.sheet.outline is not None
    free.set()
    hands.proved()
    assert session.as_drawn(now)[0] is now
    assert where
    assert set(where) == {"plan"}


def test_what_the_sheet_draws_is_made_beside_the_window(demo: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    real, where = RectangularPocket.sketch, []

    def noted(self: RectangularPocket, ctx: Any) -> Any:
        where.append(threading.current_thread().name)
        return real(self, ctx)

    monkeypatch.setattr(RectangularPocket, "sketch", noted)
    demo.window.session.answer(DEEP, 5.0)
    demo.window.sheet.grab()
    demo.window.sheet.grab()
    demo.proved()
    assert where.count("plan") >= 1
    assert set(where) == {"plan"}


def test_gloves_can_press_stop(demo: Hands, hanging: threading.Event) -> None:
    demo.press(Qt.Key.Key_G, CTRL)
    halt: QPushButton = demo.window.header.halt
    demo.window.session.answer(DEEP, 5.0)
    demo.until(halt.isVisible)
    assert halt.height() >= 44
    right = demo.window.header.button
    assert halt.geometry().right() < right.geometry().left()
    assert right.geometry().right() <= demo.window.width()
    demo.press(Qt.Key.Key_G, CTRL)


def write(text: str) -> None:
    """Signs as an input method sends them: no key of the test library has them."""
    for sign in text:
        widget = QApplication.focusWidget()
        assert widget is not None
        QApplication.sendEvent(widget, QKeyEvent(QEvent.Type.KeyPress, 0, NONE, sign))
    QTest.qWait(5)


def test_signs_of_other_scripts_are_looked_for_and_typed(demo: Hands) -> None:
    """A search takes digits as places of tiles: those that are digits to some functions alone are none."""
    before = demo.window.session.job
    for text in ("²", "٣", "\u202e", "½", "<b>"):
        demo.press(Qt.Key.Key_Insert)
        write(text)
        demo.press(Qt.Key.Key_Escape)
        demo.window.questions.take_focus(DEEP)
        write(text)
        demo.press(Qt.Key.Key_Escape)
        assert demo.window.session.job == before, (text, between(before, demo.window.session.job))


def test_an_insert_s_code_is_typed_sign_by_sign_with_the_tool_in_sight(hands: Hands) -> None:
    """At each sign the code is none yet: that is said, the tool is painted as it was, nothing is raised."""
    hands.window.open_choice("sample:drum-spindle")
    hands.proved()
    session = hands.window.session
    tool = next(t for t in session.job.tools if getattr(t, "insert", ""))
    hands.press(Qt.Key.Key_2, ALT)
    hands.window.crib.select("tools", tool.id)
    hands.window.crib.form.rows[f"tool:{tool.id}.insert"].take_focus()
    for sign in "DNMG²150404":
        write(sign)
        hands.window.grab()
    for _ in "²150404":
        hands.press(Qt.Key.Key_Backspace)
        hands.window.grab()
    hands.type("150404")
    hands.press(Qt.Key.Key_Return)
    hands.proved()
    now = session.job.tool(tool.id)
    assert getattr(now, "insert", "") in ("DNMG150404", getattr(tool, "insert", ""))


def test_what_is_compiled_does_not_hang(demo: Hands, hanging: threading.Event) -> None:
    """On a fresh machine the first proof of a kind waits for its kernels."""
    session = demo.window.session
    session.longest = 0.4

    @njit
    def kernel(x: float) -> float:
        return x + 1.0

    session.answer(DEEP, 5.0)
    kernel(1.0)
    ended = time.monotonic()
    assert compiled_within(0.4)
    demo.until(lambda: bool(session.halted))
    assert time.monotonic() - ended > 0.3, "the watch begins anew when the compiler has ended"
