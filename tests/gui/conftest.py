"""A real window, driven as a person drives it."""

from __future__ import annotations

import atexit
import fcntl
import os
import re
import shutil
import subprocess
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from PyQt6 import QtTest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QApplication, QWidget

from bastler.app.core import Core
from bastler.app.main import make_application
from bastler.app.main_window import MainWindow
from bastler.job import Job, write_job
from bastler.job.samples import sample, sample_names

QTest: Any = QtTest.QTest
"""Any: its stub forgets that all it has is static."""
NONE, CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)


def _display_of_its_own() -> None:
    """Every process of a run but the first one starts a display of its own: the keyboard is one window's at a time."""
    if os.environ.get("PYTEST_XDIST_WORKER", "gw0") == "gw0" or not os.environ.get("DISPLAY") or not shutil.which("Xvfb"):
        return
    ours, theirs = os.pipe()
    command = ["Xvfb", "-displayfd", str(theirs), "-screen", "0", "1280x800x24", "-nolisten", "tcp"]
    server = subprocess.Popen(command, pass_fds=(theirs,), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    atexit.register(server.terminate)
    os.close(theirs)
    with os.fdopen(ours) as answer:
        number = answer.readline().strip()
    if number:
        os.environ["DISPLAY"] = f":{number}"


_display_of_its_own()


class Hands:
    """Keys and clicks on the window, and waiting for what they do."""

    def __init__(self, window: MainWindow, qtbot) -> None:
        self.window, self.qtbot = window, qtbot

    def press(self, key: Qt.Key, modifier: Qt.KeyboardModifier = NONE) -> None:
        """A key to whatever has the keyboard."""
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifier)
        self.settle()

    def type(self, text: str) -> None:
        for letter in text:
            to = QApplication.focusWidget() or self.window
            if letter.isascii():
                QTest.keyClicks(to, letter)
            else:  # which has no key of its own everywhere
                for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
                    QApplication.sendEvent(to, QKeyEvent(kind, 0, NONE, letter))
        self.settle()

    def settle(self) -> None:
        """Waits until all is shown that does not wait for the proof, as a person does who looks before going on."""
        QTest.qWait(5)
        session = self.window.session

        def there() -> bool:
            look = session.look
            planned = session.shown and not session.late and look is not None and look.card == session.selected
            return (planned or not session.has_job or bool(session.halted)) and not session.core.asked

        self.qtbot.waitUntil(there, timeout=90_000)
        QTest.qWait(1)

    def retype(self, text: str) -> None:
        """Another answer in the place of what stands in the field."""
        self.press(Qt.Key.Key_A, CTRL)
        self.type(text) if text else self.press(Qt.Key.Key_Backspace)

    def add(self, words: str) -> str:
        """A step from the board by typing; gives its id."""
        self.press(Qt.Key.Key_Return, CTRL)
        self.type(words)
        self.press(Qt.Key.Key_Return)
        return str(self.window.session.selected)

    def click(self, widget: QWidget, x: float | None = None, y: float | None = None) -> None:
        """A click in a widget, in its middle when no place is given."""
        place = widget.rect().center() if x is None or y is None else QPointF(x, y).toPoint()
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton, NONE, QPoint(place))
        self.settle()

    def opened_file(self, job: Job, folder: Path) -> None:
        """A job from a file of its own, proved."""
        path = folder / "plate.bastler"
        write_job(job, path)
        self.window.open_path(path)
        self.proved()

    def opened(self, sample: str) -> Hands:
        """With a sample open and proved."""
        self.window.open_choice(f"sample:{sample}")
        self.proved()
        return self

    def proved(self) -> None:
        """Waits until the newest job is proved."""
        self.qtbot.waitUntil(lambda: not self.window.session.stale, timeout=90_000)
        self.settle()

    def taken_away(self, name: str) -> str:
        """The program, put out under a name by keys."""
        self.press(Qt.Key.Key_3, ALT)
        self.press(Qt.Key.Key_P, CTRL)
        self.retype(name)
        self.press(Qt.Key.Key_Return)
        return next(Path.home().glob(f"{name}.nc")).read_text(encoding="utf-8")

    def until(self, what: Callable[[], bool]) -> None:
        self.qtbot.waitUntil(what, timeout=90_000)

    @property
    def focus(self) -> str:
        """The question the keyboard is at."""
        return self.window.session.focus

    def go_to(self, address: str) -> None:
        """Enter from question to question until one is reached, as a person would."""
        for _ in range(60):
            if self.focus == address:
                return
            self.press(Qt.Key.Key_Return)
        raise AssertionError(f"{address} is not reached by Enter; it ended at {self.focus}")


@pytest.fixture(scope="session")
def core(qapp) -> Iterator[Core]:
    """The one that all windows of a run have: it keeps what it has proved. On a clean machine the first proofs compile for a
    while: that is done before the first window waits for one."""
    made = Core()
    there: set[int] = set()
    made.proved.connect(lambda number, _: there.add(number))
    for name in ("winch-base", "drum-spindle", "pawl-shaft") if os.environ.get("CI") else sample_names():
        number = made.work(sample(name), "stock")
        end = time.monotonic() + 200
        while number not in there and time.monotonic() < end:
            QTest.qWait(10)
        assert number in there, name
    yield made
    made.close()


@pytest.fixture(autouse=True)
def _alone_on_the_display() -> Iterator[None]:
    """The keyboard is one window's at a time: where the runner gives two processes windows, they take turns."""
    name = re.sub(r"[^0-9A-Za-z]", "-", os.environ.get("DISPLAY", "none"))
    with (Path(tempfile.gettempdir()) / f"window-tests{name}.lock").open("w") as turn:
        fcntl.flock(turn, fcntl.LOCK_EX)
        yield


@pytest.fixture(scope="session")
def pictures(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One cache for all windows of a run: the start place's pictures are worked out once and not beside every test."""
    return tmp_path_factory.mktemp("cache")


@pytest.fixture(autouse=True)
def _own_folders(tmp_path: Path, pictures: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "HOME"):
        folder = tmp_path / name.lower()
        folder.mkdir()
        monkeypatch.setenv(name, str(folder))
    monkeypatch.setenv("XDG_CACHE_HOME", str(pictures))


@pytest.fixture
def window(core: Core, tmp_path: Path) -> Iterator[MainWindow]:
    assert os.environ.get("DISPLAY"), "The window is tested on a real display: run `make test`, which starts a virtual one."
    make_application()
    made = MainWindow(core)
    made.resize(1280, 800)
    made.show()
    QTest.qWaitForWindowExposed(made)
    made.activateWindow()
    QTest.qWait(50)
    yield made
    made.close()
    made.deleteLater()
    QTest.qWait(10)


@pytest.fixture
def hands(window: MainWindow, qtbot) -> Hands:
    return Hands(window, qtbot)


@pytest.fixture
def demo(hands: Hands) -> Hands:
    """The demo job, open and proved."""
    hands.window.open_choice("sample:winch-base")
    hands.proved()
    return hands
