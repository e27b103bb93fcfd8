"""The window works nothing out: whatever it shows (bevels, engraved strokes, two sides, turned parts), no compiler is ever
loaded in it."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from conftest import some

LOOKS_AT_ALL = """
import sys
from PyQt6.QtTest import QTest
from bastler.app.main import make_application
app = make_application()
from bastler.app.main_window import VIEWS, MainWindow
def wait_for(what, most):
    for _ in range(most // 10):
        if what():
            return
        QTest.qWait(10)
window = MainWindow()
window.resize(1280, 800)
window.show()
for name in sys.argv[1:]:
    window.open_choice("sample:" + name)
    window.session.longest = 60.0
    wait_for(lambda: not window.session.stale, 20000)
    for card in window.session.cards():
        window.session.select(card)
        wait_for(lambda: window.session.look is not None and window.session.look.card == card, 2000)
        window.repaint()
    for view in reversed(VIEWS):
        window.view(view)
        window.repaint()
    window.session.answer("stock.coolant", "mist")
print("loaded:", *sorted({"numba", "llvmlite", "scipy"} & set(sys.modules)))
window.close()
window.core.close()
"""


def test_no_compiler_in_the_window(tmp_path: Path) -> None:
    homes = {f"XDG_{name}_HOME": str(tmp_path) for name in ("STATE", "CONFIG", "DATA", "CACHE")}
    done = subprocess.run(
        [sys.executable, "-c", LOOKS_AT_ALL, *some(("pawl-plate", "drum-spindle", "bearing-cap", "winch-base"), 3)],
        capture_output=True,
        text=True,
        timeout=110,
        check=False,
        env={**os.environ, **homes},
    )
    assert done.stdout.strip() == "loaded:", done.stdout + done.stderr
