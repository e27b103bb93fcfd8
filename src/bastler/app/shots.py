"""The pictures of the documentation, taken from the real window with the demo job."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QTimer
from PyQt6.sip import voidptr

LONGEST = 60.0


def take_shots(folder: Path) -> int:
    """Writes one PNG of each main view; gives the exit code. Needs a display."""
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        print("bastler: pictures need a display. `make shots` starts a virtual one.", file=sys.stderr)
        return 2
    with tempfile.TemporaryDirectory() as own:
        os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = own
        _take(folder)
    return 0


def _take(folder: Path) -> None:
    from bastler.app.main import make_application
    from bastler.app.main_window import MainWindow

    app = make_application()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    folder.mkdir(parents=True, exist_ok=True)

    def shot(name: str) -> None:
        _wait(300)
        screen = window.screen()
        if screen is not None:
            screen.grabWindow(voidptr(0)).save(str(folder / f"{name}.png"))
            print(folder / f"{name}.png")

    for name, arrange in SHOTS.items():
        arrange(window)
        _settle(window)
        shot(name)
    window.close()
    app.processEvents()


def _wait(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def _settle(window) -> None:  # type: ignore[no-untyped-def]
    """Waits until the proof and the solid are there."""
    end = time.monotonic() + LONGEST
    while window.session.has_job and window.session.stale and time.monotonic() < end:
        _wait(50)
    _wait(400)
    while window.solid.isVisible() and not window.solid.shown and time.monotonic() < end:
        _wait(50)


def _bench(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("sample:winch-base")
    window.session.select("s2")
    window.questions.take_focus("step:s2.depth")


def _solid(window) -> None:  # type: ignore[no-untyped-def]
    window.view("solid")


def _cut_open(window) -> None:  # type: ignore[no-untyped-def]
    stage = window.session.proof.stages[2]
    window.session.seek(stage.t0 + 0.45 * (stage.t1 - stage.t0))
    window.solid.section.setValue(46)
    window.solid.path_button.setChecked(True)


def _path(window) -> None:  # type: ignore[no-untyped-def]
    window.view("path")


def _program(window) -> None:  # type: ignore[no-untyped-def]
    window.go_to("program")


def _remark(window) -> None:  # type: ignore[no-untyped-def]
    window.view("sheet")
    window.session.select("s3")
    window.session.answer("step:s3.tool", "end-4")
    window.session.answer("step:s3.depth", 13.0)


def _setup(window) -> None:  # type: ignore[no-untyped-def]
    window.session.undo()
    window.session.undo()
    window.session.seek(window.session.proof.total)
    window.session.select("setup")


def _holes(window) -> None:  # type: ignore[no-untyped-def]
    window.session.select("s4")


def _tools(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    window.session.select("s2")
    window.open_tools("step:s2.tool")


def _gloves(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    window.run("window.gloves")
    window.questions.take_focus("step:s2.depth")


def _turned(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    if window.settings.gloves:
        window.run("window.gloves")
    window.open_choice("sample:drum-spindle")
    _settle(window)
    window.session.select("s3")
    window.questions.take_focus("outline:o1.segments.3.radius")
    stage = window.session.proof.stages[2]
    window.session.seek(stage.t0 + 0.45 * (stage.t1 - stage.t0))


def _groove_path(window) -> None:  # type: ignore[no-untyped-def]
    window.view("path")
    window.session.select("s5")
    stage = window.session.proof.stages[4]
    window.session.seek(stage.t0 + 0.3 * (stage.t1 - stage.t0))


def _turned_solid(window) -> None:  # type: ignore[no-untyped-def]
    window.solid.other_job()
    window.view("solid")
    window.session.seek(window.session.proof.total)


def _reach(window) -> None:  # type: ignore[no-untyped-def]
    from bastler.job import edits
    from bastler.shapes import TurnedSegment

    window.view("sheet")
    job = window.session.job
    shape = job.outlines[0]
    recess = (
        TurnedSegment(z=-30, angle=0),
        TurnedSegment(d=26, angle=-42),
        TurnedSegment(z=-48, angle=0),
        TurnedSegment(d=30, angle=90),
    )
    segments = (*shape.segments[:2], *recess, *shape.segments[2:])
    window.session.edit(edits.outline_given(job, edits.replace(shape, segments=segments)), "Recess")
    window.session.edit(edits.step_removed(window.session.job, "s5"), "Remove the grooves")
    window.session.answer("step:s3.tool", "d55-04")
    window.session.select("s3")


def _outline(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("sample:pawl-plate")
    _settle(window)
    window.session.select("s4")
    window.questions.take_focus("outline:o1.segments.3.radius")


def _outline_open(window) -> None:  # type: ignore[no-untyped-def]
    from bastler.job import edits
    from bastler.shapes import PlanSegment

    window.open_choice("new:mm:mill-600")
    window.add_step("facing")
    window.add_step("free-pocket")
    outline = window.session.job.outlines[0]
    way = (
        PlanSegment(id="g1", x=100.0, y=25.0),
        PlanSegment(id="g2", kind="arc", radius=22.0, x=100.0, y=65.0),
        PlanSegment(id="g3", angle=180.0, length=60.0),
        PlanSegment(id="g4"),
    )
    two = edits.replace(outline, x=35.0, y=25.0, segments=way)
    window.session.edit(edits.outline_given(window.session.job, two), "Two shapes")
    window.questions.take_focus(f"outline:{outline.id}.segments.1.radius")


def _drawing(window) -> None:  # type: ignore[no-untyped-def]
    from bastler.job.samples import sample_drawing

    window.desk.open(sample_drawing())
    window.desk.picker._clicked(1)
    window.desk.picker._clicked(5)


SHOTS: dict[str, Callable[..., None]] = {
    "start": lambda window: None,
    "bench-sheet": _bench,
    "bench-solid": _solid,
    "bench-cut-open": _cut_open,
    "bench-path": _path,
    "program": _program,
    "remark": _remark,
    "setup": _setup,
    "holes": _holes,
    "board": lambda window: window.open_board(),
    "tools": _tools,
    "gloves": _gloves,
    "turned-sheet": _turned,
    "turned-path": _groove_path,
    "turned-solid": _turned_solid,
    "turned-reach": _reach,
    "outline": _outline,
    "outline-open": _outline_open,
    "drawing": _drawing,
}
