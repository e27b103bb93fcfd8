"""Random keys, clicks and drags on the real window: exceptions, freezes and memory are counted.

`python -m soak.window --seconds N --seed K`; needs a display. The window's own net is taken away: what it would have caught ends
up here. A freeze is a time over a second in which the window answered nothing.
"""

from __future__ import annotations

import argparse
import os
import random
import resource
import sys
import tempfile
import threading
import time
import traceback
from pathlib import Path
from typing import Any

FREEZE = 1.0
CHOICES = ("sample:winch-base", "sample:drum-spindle", "sample:pawl-plate", "sample:gland-nut", "sample:bearing-cap",
           "sample:fixture-of-six", "new:mm:mill-600", "new:inch:mill-600", "new:mm:lathe-200", "new:inch:lathe-200")  # fmt: skip
TEXTS = ("0", "1", "-3", "12.5", "1000", "99999", "0.0001", "1/8", "3+", "(", "²", "Ø", "M8", "<b>", "{", "12mm", "abc", "")


class Watch:
    """The interface thread says that it lives; a thread beside it notes where it stands when it does not."""

    def __init__(self) -> None:
        self.last = time.monotonic()
        self.freezes: list[tuple[float, str]] = []
        self.main = threading.get_ident()
        threading.Thread(target=self._run, daemon=True).start()

    def alive(self) -> None:
        self.last = time.monotonic()

    def _run(self) -> None:
        where, worst = "", 0.0
        while True:
            time.sleep(0.1)
            still = time.monotonic() - self.last
            if still > FREEZE:
                frame = sys._current_frames().get(self.main)
                if still > worst and frame is not None:
                    own = [f for f in traceback.extract_stack(frame) if "bastler" in f.filename]
                    where = " < ".join(f"{Path(f.filename).name}:{f.lineno} {f.name}" for f in reversed(own[-5:]))
                worst = max(worst, still)
            elif worst:
                self.freezes.append((worst, where))
                worst = 0.0


def main() -> int:
    parser = argparse.ArgumentParser(prog="soak.window")
    parser.add_argument("--seconds", type=float, default=1800.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--actions", type=int, default=10**9)
    options = parser.parse_args()
    for name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME", "XDG_CACHE_HOME", "HOME"):
        os.environ[name] = tempfile.mkdtemp(prefix="bastler-soak-")
    from PyQt6 import QtTest
    from PyQt6.QtCore import QPoint, Qt, QTimer
    from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMenu

    from bastler.app.main import make_application
    from bastler.app.main_window import MainWindow

    test: Any = QtTest.QTest
    draw, faults = random.Random(options.seed), []
    app = make_application()
    sys.excepthook = lambda kind, error, trace: faults.append("".join(traceback.format_exception(kind, error, trace)[-9:]))
    for way in ("getOpenFileName", "getSaveFileName"):
        setattr(QFileDialog, way, staticmethod(lambda *_, **__: ("", "")))
    QFileDialog.getExistingDirectory = staticmethod(lambda *_, **__: "")  # type: ignore[method-assign]
    QMenu.exec = lambda self, *_: None  # type: ignore[method-assign]
    QDialog.exec = lambda self: 0  # type: ignore[method-assign]
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    test.qWaitForWindowExposed(window)
    watch = Watch()
    beat, shutting = QTimer(), QTimer()
    beat.timeout.connect(watch.alive)
    beat.start(20)

    def shut() -> None:
        """A menu waits for a hand: one that is open for long is closed."""
        for widget in (QApplication.activePopupWidget(), QApplication.activeModalWidget()):
            if widget is not None:
                widget.close()

    shutting.timeout.connect(shut)
    shutting.start(400)
    keys = [Qt.Key.Key_Return, Qt.Key.Key_Tab, Qt.Key.Key_Escape, Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Up,
            Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Insert,
            Qt.Key.Key_Space, Qt.Key.Key_F1, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_D, Qt.Key.Key_E, Qt.Key.Key_Z,
            Qt.Key.Key_1, Qt.Key.Key_2, Qt.Key.Key_3, Qt.Key.Key_4, Qt.Key.Key_G, Qt.Key.Key_W]  # fmt: skip
    none = Qt.KeyboardModifier.NoModifier
    held = [
        none,
        none,
        none,
        Qt.KeyboardModifier.ControlModifier,
        Qt.KeyboardModifier.AltModifier,
        Qt.KeyboardModifier.ShiftModifier,
    ]

    def act() -> str:
        what = draw.random()
        focus = QApplication.focusWidget() or window
        if what < 0.02 or not window.session.has_job:
            choice = draw.choice(CHOICES)
            window.open_choice(choice)
            return choice
        if what < 0.35:
            key, with_ = draw.choice(keys), draw.choice(held)
            test.keyClick(focus, key, with_)
            return f"{key.name} {with_.name}"
        if what < 0.6:
            text = draw.choice(TEXTS)
            test.keyClick(focus, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
            test.keyClicks(focus, text)
            return f"type {text}"
        place = QPoint(draw.randrange(1280), draw.randrange(800))
        widget = app.widgetAt(window.mapToGlobal(place)) or window
        at = widget.mapFromGlobal(window.mapToGlobal(place))
        if what < 0.92:
            test.mouseClick(widget, Qt.MouseButton.LeftButton, none, at)
            return f"click {type(widget).__name__} {place.x()} {place.y()}"
        test.mousePress(widget, Qt.MouseButton.LeftButton, none, at)
        test.mouseMove(widget, at + QPoint(draw.randrange(-200, 200), draw.randrange(-100, 100)))
        test.mouseRelease(widget, Qt.MouseButton.LeftButton, none, at)
        return f"drag {type(widget).__name__}"

    begun, told, count, memory = time.monotonic(), 0, 0, []
    gaps: list[tuple[float, str]] = []
    last = time.perf_counter()

    def answered() -> None:
        nonlocal last
        now = time.perf_counter()
        gaps.append((now - last, says))
        last = now

    quick = QTimer()
    quick.timeout.connect(answered)
    quick.start(1)
    says = ""
    while time.monotonic() - begun < options.seconds and count < options.actions:
        before = time.perf_counter()
        last = before
        says = act()
        answered()
        test.qWait(draw.choice((0, 5, 20, 60)))
        watch.alive()
        count += 1
        for fault in faults[told:]:
            print(f"action {count}, {says}: {fault}", flush=True)
        told = len(faults)
        if count % 500 == 0:
            now = int(Path("/proc/self/statm").read_text().split()[1]) * resource.getpagesize() / 1e6
            memory.append(now)
    for long, where in watch.freezes:
        print(f"froze {long:.1f} s: {where}")
    worst = max((f[0] for f in watch.freezes), default=0.0)
    print(f"window, seed {options.seed}: {count} actions, {len(faults)} exceptions, memory MB {[round(m) for m in memory]}")
    gaps.sort(reverse=True)
    for long, what in gaps[:10]:
        print(f"no answer for {long * 1000:.0f} ms: {what}")
    over = sum(gap > 0.033 for gap, _ in gaps)
    print(f"{len(gaps)} times looked whether it answers: {over} over 33 ms, 99 % under {gaps[len(gaps) // 100][0] * 1000:.0f} ms")
    print(f"{len(watch.freezes)} freezes over {FREEZE:g} s, the longest {worst:.1f} s")
    window.close()
    return 1 if faults or watch.freezes else 0


if __name__ == "__main__":
    sys.exit(main())
