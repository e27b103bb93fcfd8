"""What takes too long is seen, stopped and said; what dies is begun again; no late answer takes the place of a newer one."""

from __future__ import annotations

import logging
import os
import signal
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QPushButton

from bastler.app import session as sessions
from bastler.app.core import Core
from bastler.app.main_window import MainWindow
from bastler.job.kept import between
from bastler.shapes import Drawn

from .conftest import ALT, CTRL, NONE, Hands, QTest

DEEP = "step:s2.depth"
ODD_CORE = Path(__file__).parent / "odd_core.py"


class Odd:
    """A window with the demo job whose computation goes wrong as a test asks for."""

    def __init__(self, hands: Hands, folder: Path) -> None:
        self.hands, self.folder = hands, folder
        self.window, self.session = hands.window, hands.window.session

    def ask(self, *faults: str) -> None:
        for fault in faults:
            (self.folder / fault).touch()

    def free(self) -> None:
        for fault in self.folder.iterdir():
            fault.unlink(missing_ok=True)

    @property
    def says(self) -> str:
        return self.window.header.verdict.text()

    def until(self, what) -> None:
        self.hands.until(what)


@pytest.fixture(scope="module")
def odd_core(qapp, tmp_path_factory) -> Iterator[tuple[Core, Path]]:
    folder = tmp_path_factory.mktemp("faults")
    core = Core((sys.executable, str(ODD_CORE), str(folder)))
    yield core, folder
    core.close()


@pytest.fixture
def odd(odd_core: tuple[Core, Path], qtbot, tmp_path: Path, caplog: pytest.LogCaptureFixture) -> Iterator[Odd]:
    core, folder = odd_core
    caplog.set_level(logging.CRITICAL, "bastler.app.core")  # that something was ended or begun again is what is asked for
    window = MainWindow(core)
    window.resize(1280, 800)
    window.show()
    QTest.qWaitForWindowExposed(window)
    window.activateWindow()
    made = Odd(Hands(window, qtbot), folder)
    made.free()
    window.open_choice("sample:winch-base")
    made.hands.proved()
    yield made
    made.free()
    window.close()
    window.deleteLater()
    QTest.qWait(10)


def test_a_proof_that_hangs_is_stopped_and_said(odd: Odd, tmp_path: Path) -> None:
    session, window = odd.session, odd.window
    odd.ask("proof-hangs")
    session.longest = 0.6
    pid = session.core.process.pid
    session.answer(DEEP, 5.0)
    odd.until(lambda: bool(session.halted))
    assert "No proof after" in session.halted
    assert 0.6 <= float(session.halted.split()[3]) < 20.0
    assert "Not proved" in odd.says
    assert "Undo, or press Prove" in window.caption.text()
    assert window.header.halt.isVisible()
    assert window.header.halt.text() == "Prove"
    assert session.stale
    # nothing goes out
    odd.hands.press(Qt.Key.Key_P, CTRL)
    window.program.output.folder = tmp_path
    odd.hands.click(window.program.output.button)
    assert not list(tmp_path.glob("*.nc"))
    assert "was stopped" in window.program.output.said.text()
    # what does not let go is ended, and the next change does not wait for it
    odd.until(lambda: session.core.process.pid != pid)
    odd.free()
    session.longest = sessions.LONGEST
    session.answer(DEEP, 6.0)
    odd.hands.proved()
    assert "Proved" in odd.says
    assert not window.header.halt.isVisible()


def test_a_proof_that_works_in_vain_is_stopped_sooner(odd: Odd) -> None:
    session = odd.session
    odd.ask("proof-spins")
    session.longest = 1.0
    session.answer(DEEP, 5.0)
    odd.until(lambda: bool(session.halted))
    assert 1.0 <= float(session.halted.split()[3]) < sessions.STARVED
    odd.free()
    session.longest = sessions.LONGEST


def test_a_proof_is_stopped_by_hand_and_begun_again(odd: Odd) -> None:
    session, header = odd.session, odd.window.header
    before = session.proof
    odd.ask("proof-hangs")
    session.answer(DEEP, 5.0)
    odd.until(header.halt.isVisible)
    assert header.halt.text() == "Stop"
    odd.hands.click(header.halt)
    assert "Stopped by you" in session.halted
    assert session.proof is before, "the old picture stays, marked as old"
    assert session.stale
    odd.free()
    odd.hands.press(Qt.Key.Key_P, ALT)
    odd.hands.proved()
    assert session.proof is not before
    assert session.longest == float("inf"), "who waits on purpose is not interrupted"
    odd.window.open_choice("sample:bearing-cap")
    assert session.longest == sessions.LONGEST


def test_undo_takes_the_place_of_a_proof_that_was_stopped(odd: Odd) -> None:
    session = odd.session
    odd.ask("proof-hangs")
    session.longest = 0.3
    session.answer(DEEP, 5.0)
    odd.until(lambda: bool(session.halted))
    session.longest = sessions.LONGEST
    odd.free()
    odd.hands.press(Qt.Key.Key_Z, CTRL)
    odd.hands.proved()
    assert not session.halted


def test_a_plan_that_hangs_is_stopped_and_said(odd: Odd) -> None:
    session = odd.session
    odd.ask("plan-hangs")
    session.longest = 0.5
    for k in range(6):
        session.answer("stock.size_x", 155.0 + k)
    odd.until(lambda: bool(session.halted))
    assert "No plan after" in session.halted
    assert "Not proved" in odd.says
    odd.free()
    session.longest = sessions.LONGEST
    session.answer("stock.size_x", 158.0)
    odd.hands.proved()
    assert session.held.stock.size_x == 158.0


def test_a_plan_that_takes_long_does_not_hold_the_window(odd: Odd) -> None:
    """The job is typed on and kept meanwhile; the old picture stays, marked as old, until a newer plan is there."""
    session, before = odd.session, odd.session.plan
    odd.ask("plan-slow")
    begun = time.monotonic()
    for size in (155.0, 156.0, 157.0):
        session.answer("stock.size_x", size)
    assert time.monotonic() - begun < 0.4
    assert session.job.stock.size_x == 157.0
    assert session.late
    assert session.stale
    assert session.plan is before
    odd.hands.proved()
    assert session.plan.job is session.job
    assert session.held.stock.size_x == 157.0
    assert not session.late


def test_newest_wins_and_a_late_answer_is_never_shown(odd: Odd) -> None:
    """Every plan that is shown is newer than the one before it; a proof is shown only for the job as it is."""
    session = odd.session
    plans: list[int] = []
    proofs: list[tuple[int, bool]] = []
    session.plan_changed.connect(lambda: plans.append(session.plan_number))
    session.proof_changed.connect(lambda: proofs.append((session.whole_number, session.whole_number == session.proof_number)))
    for k in range(25):
        session.answer(DEEP, 8.0 + 0.1 * k)
        QTest.qWait(7 * (k % 5))
    odd.hands.proved()
    assert plans == sorted(set(plans))
    assert plans[-1] == session.proof_number
    assert all(newest for _, newest in proofs)
    assert session.plan.step("s2").filled.depth == pytest.approx(10.4)
    # what was asked for before another job was opened is nobody's
    session.answer(DEEP, 9.0)
    odd.window.open_choice("sample:bearing-cap")
    assert not session.shown
    odd.hands.proved()
    assert session.plan.job.name == session.job.name
    assert session.plan.job is session.job


def test_a_plan_or_a_proof_that_fails_is_said_and_the_window_lives(odd: Odd, capfd: pytest.CaptureFixture[str]) -> None:
    for fault, says in (("proof-fails", "failed"), ("plan-fails", "could not be planned")):
        odd.ask(fault)
        odd.session.answer(DEEP, 5.0)
        odd.until(lambda says=says: says in odd.window.caption.text())
        odd.free()
        odd.session.answer(DEEP, 6.0)
        odd.hands.proved()


def test_the_computation_that_dies_is_begun_again(odd: Odd) -> None:
    session = odd.session
    pid = session.core.process.pid
    session.answer(DEEP, 5.0)
    os.kill(pid, signal.SIGKILL)
    odd.until(lambda: "Nothing is lost" in odd.window.caption.text())
    assert session.core.process.pid != pid
    assert session.core.fresh  # it may take its time
    odd.hands.proved()
    assert not session.core.fresh
    assert session.job.step("s2").depth == 5.0
    assert session.proof.proved
    odd.window.sheet.grab()
    # between two jobs nobody has to hear of it
    odd.window.caption.setText("")
    os.kill(session.core.process.pid, signal.SIGKILL)
    QTest.qWait(300)
    session.answer(DEEP, 6.0)
    odd.hands.proved()


def test_a_job_that_kills_the_computation_is_said_once(odd: Odd) -> None:
    """It is begun again once; then somebody has to change the job."""
    session = odd.session
    odd.ask("plan-kills")
    session.answer(DEEP, 5.0)
    odd.until(lambda: "ended twice over this job" in odd.window.caption.text())
    assert session.halted
    odd.free()
    odd.hands.press(Qt.Key.Key_Z, CTRL)
    odd.hands.proved()
    assert not session.halted


def test_the_window_works_no_outline_out_itself(odd: Odd) -> None:
    """While the solver takes its time the outline is shown as it was; then as it is."""
    odd.window.open_choice("sample:pawl-plate")
    odd.hands.proved()
    session = odd.session
    session.select("s4")
    odd.hands.settle()
    odd.ask("plan-slow")
    outline = session.outline_of_step()
    assert outline is not None
    was: Drawn = session.drawn(outline)
    session.answer(f"outline:{outline.id}.segments.0.radius", 1.01)
    assert session.late
    now = session.outline_of_step()
    assert now is not None
    assert session.as_drawn(now) == (outline, was)
    odd.window.sheet.grab()
    assert odd.window.sheet.outline is not None
    odd.free()
    odd.hands.proved()
    assert session.as_drawn(now)[0] is now
    assert session.drawn(now) != was


def test_how_far_a_proof_is_comes_to_the_window(odd: Odd) -> None:
    odd.ask("proof-hangs")
    heard: list[tuple[int, bool]] = []
    odd.session.core.busy.connect(lambda how: heard.append((how.number, how.planning)))
    odd.session.answer(DEEP, 5.0)
    odd.until(lambda: len(heard) > 2)
    assert set(heard) == {(odd.session.proof_number, False)}
    odd.until(lambda: "proving" in odd.says)


def test_gloves_can_press_stop(odd: Odd) -> None:
    odd.ask("proof-hangs")
    odd.hands.press(Qt.Key.Key_G, CTRL)
    halt: QPushButton = odd.hands.window.header.halt
    odd.hands.window.session.answer(DEEP, 5.0)
    odd.hands.until(halt.isVisible)
    assert halt.height() >= 44
    right = odd.hands.window.header.button
    assert halt.geometry().right() < right.geometry().left()
    assert right.geometry().right() <= odd.hands.window.width()
    odd.hands.press(Qt.Key.Key_G, CTRL)


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


def test_what_is_compiled_does_not_hang(odd: Odd) -> None:
    """On a fresh machine the first proof of a kind waits for its kernels: the watch begins anew when the compiler has ended."""
    odd.ask("proof-hangs")
    odd.session.longest = 1.2
    odd.session.answer(DEEP, 5.0)
    QTest.qWait(700)
    odd.ask("compiles")
    begun = time.monotonic()
    odd.until(lambda: "getting ready" in odd.says)
    odd.until(lambda: bool(odd.session.halted))
    assert time.monotonic() - begun > 1.0


def test_a_process_that_takes_long_to_come_up_does_not_hang(qapp, qtbot, tmp_path: Path) -> None:
    """Beside other busy programs loading takes its time: what waits for it is not given up."""
    slow = tmp_path / "slow.py"
    slow.write_text(
        "import sys, time\ntime.sleep(1.5)\nfrom bastler.live.__main__ import main\nsys.exit(main(int(sys.argv[1])))\n"
    )
    core = Core((sys.executable, str(slow)))
    window = MainWindow(core)
    try:
        window.show()
        window.session.longest = 0.5
        window.open_choice("sample:bearing-cap")
        window.session.longest = 0.5
        window.session.answer("stock.size_z", 21.0)
        qtbot.waitUntil(lambda: core.ready_at < time.monotonic(), timeout=20_000)
        assert not window.session.halted
        window.session.longest = 20.0
    finally:
        window.close()
        core.close()
