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

from bastler.language import of_the_shell, speak

LONGEST = 60.0


def take_shots(folder: Path) -> int:
    """Writes one PNG of each main view; gives the exit code. Needs a display."""
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        print("bastler: pictures need a display. `make shots` starts a virtual one.", file=sys.stderr)
        return 2
    speak(of_the_shell())  # whatever the settings say of whoever takes them
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
        window = window.successor or window
        _settle(window)
        shot(name)
    window.close()
    app.processEvents()


def _wait(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def _settle(window) -> None:  # type: ignore[no-untyped-def]
    """Waits until the proof, the solid and the pictures of parts are there."""
    end = time.monotonic() + LONGEST
    while window.session.has_job and window.session.stale and time.monotonic() < end:
        _wait(50)
    _wait(400)
    while window.start.pictures.waiting and time.monotonic() < end:
        _wait(50)
    while window.solid.isVisible() and not window.solid.shown and time.monotonic() < end:
        _wait(50)


def _bench(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("sample:winch-base")
    window.session.select("s2")
    window.questions.take_focus("step:s2.depth")


def _solid(window) -> None:  # type: ignore[no-untyped-def]
    window.view("solid")


def _lesson(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("lesson:holes")
    for field, value, typed in (("size_x", 80.0, ""), ("size_y", 80.0, ""), ("size_z", 21.0, "20+1")):
        window.session.answer(f"stock.{field}", value, typed)
    for tag in ("facing", "finished-hole"):
        window.cards.add_step(tag)


def _program(window) -> None:  # type: ignore[no-untyped-def]
    """Typed over by hand, with what has changed."""
    window.run("program.edit")
    editor = window.program.editor
    editor.go_to(next(k for k, line in enumerate(editor.lines) if line.startswith("T6 ")) - 1)
    editor.insertPlainText("M0 (turn the clamp)\n")
    _wait(400)


def _remark(window) -> None:  # type: ignore[no-untyped-def]
    window.session.undo()
    window.run("program.edit")
    window.view("sheet")
    window.session.select("s3")
    window.session.answer("step:s3.tool", "end-4")
    window.session.answer("step:s3.depth", 13.0)


def _board(window) -> None:  # type: ignore[no-untyped-def]
    for _ in range(2):
        window.session.undo()
    window.session.select("s9")
    window.cards.open_board()


def _turned_over(window) -> None:  # type: ignore[no-untyped-def]
    window.take_colours("day")
    window.open_choice("sample:bearing-cap")
    window.view("sheet")
    window.session.select("holding:h2")
    window.questions.take_focus("holding:h2.grip")


def _crib(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    window.go_to("crib")
    window.crib.select("tools", "end-16")
    window.crib.form.rows["tool:end-16.diameter"].take_focus()


def _explained(window) -> None:  # type: ignore[no-untyped-def]
    _explain(window, "winch-base", "s2", "ap")


def _explain(window, sample: str, step: str, name: str) -> None:  # type: ignore[no-untyped-def]
    """What an answer of a step does, beside its question."""
    window.open_choice(f"sample:{sample}")
    window.session.select(step)
    _settle(window)
    window.questions.take_focus(f"step:{step}.{name}")
    window.explain()
    _until(lambda: bool(window.explained.picture.frames))
    window.explained.picture.stand(1)


def _fixture(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    if window.settings.gloves:
        window.run("window.gloves")
    window.take_colours("night")
    window.open_choice("sample:fixture-of-six")
    _settle(window)
    window.solid.other_job()
    window.view("solid")
    window.session.seek(window.session.proof.total * 0.45)


def _gloves(window) -> None:  # type: ignore[no-untyped-def]
    window.view("sheet")
    window.session.select("s2")
    window.run("window.gloves")
    window.questions.take_focus("step:s2.depth")


def _turned(window) -> None:  # type: ignore[no-untyped-def]
    window.close_overlay()
    if window.settings.gloves:
        window.run("window.gloves")
    window.open_choice("sample:drum-spindle")
    _settle(window)
    window.view("sheet")
    window.session.select("s3")
    window.questions.take_focus("outline:o1.segments.3.radius")
    stage = window.session.proof.stages[2]
    window.session.seek(stage.t0 + 0.45 * (stage.t1 - stage.t0))


def _end_face(window) -> None:  # type: ignore[no-untyped-def]
    window.view("sheet")
    window.open_choice("sample:pawl-shaft")
    _settle(window)
    window.session.select("s4")
    window.questions.take_focus("step:s4.depth")


def _hand_over(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("sample:coupling-nut")
    _settle(window)
    window.session.select("s7")
    window.questions.take_focus("step:s7.grip")
    _settle(window)
    away = window.session.proof.stages[-1]
    window.session.seek(away.t0 + 0.08 * (away.t1 - away.t0))


def _outline(window) -> None:  # type: ignore[no-untyped-def]
    window.open_choice("sample:pawl-plate")
    _settle(window)
    window.session.select("s4")
    window.questions.take_focus("outline:o1.segments.3.radius")


def _until(there: Callable[[], bool]) -> None:
    """Waits for something at the machine."""
    end = time.monotonic() + LONGEST
    while not there() and time.monotonic() < end:
        _wait(30)


def _touch_off(window) -> None:  # type: ignore[no-untyped-def]
    """A stand-in set up to where the zero is touched off."""
    from bastler.link import messages as m

    window.close_overlay()
    window.open_choice("sample:winch-base")
    _settle(window)
    window.go_to("machine")
    place, desk = window.machine, window.machine.desk
    place.start.click()
    _until(lambda: desk.status is not None and desk.gauges)
    desk.do(m.Pace(times=100.0))
    for act in (desk.send, desk.clamp, desk.load_all):
        act()
    _until(lambda: len(desk.stations) == len(desk.used()))
    desk.preset_all()
    _until(lambda: len(desk.measured) == len(desk.used()))
    desk.set_zero(x=222.5, y=149.98, z=-366.4)
    place.choose("zero")
    desk.do(m.TakeUp(station=0))
    for jog in (m.Jog(axis="x", by=252.0), m.Jog(axis="y", by=-266.6), m.Jog(axis="z", by=-290.0)):
        _wait(200)
        _until(lambda: desk.mode == "ready")
        desk.do(jog)
    for last in (False, True):
        _wait(300)
        _until(lambda: desk.mode == "ready")
        place.guide.buttons["touch-y+"].click()
        _until(lambda: desk.mode == "jogging")
        _until(lambda: desk.mode == "ready")
        _wait(300)
        if not last:
            desk.do(m.Jog(axis="x", by=90.0, fast=True))
    _wait(300)


def _running(window) -> None:  # type: ignore[no-untyped-def]
    """A turned part while it is run, with the sizes of the one before it."""
    from bastler.link import messages as m

    place, desk = window.machine, window.machine.desk
    window.machine.link.leave()
    window.open_choice("sample:drum-spindle")
    _settle(window)
    window.go_to("machine")
    place.start.click()
    _until(lambda: desk.status is not None and desk.gauges)
    desk.do(m.Pace(times=200.0))
    for act in (desk.send, desk.clamp, desk.load_all):
        act()
    _until(lambda: len(desk.stations) == len(desk.used()))
    desk.preset_all()
    desk.set_zero(z=152.92)
    _until(lambda: not desk.open_items)
    desk.run(m.Start())
    _until(lambda: desk.mode == "running")
    _until(lambda: desk.mode == "ready")
    place.page("Sizes")
    place.sizes.measure_all()
    _wait(500)
    desk.clamp()
    desk.do(m.Pace(times=30.0))
    desk.run(m.Start())
    _until(lambda: desk.status.line > 85)
    desk.do(m.Pace(times=1.0))
    _wait(1200)
    collar = next(gauge for gauge in desk.gauges if gauge.text == "36")
    desk.typed(collar, 36.331)
    place.sizes.rows[collar.id].pressed.emit(collar.id)


def _german(window) -> None:  # type: ignore[no-untyped-def]
    """Another window in the place of this one."""
    window.machine.close_down()
    window.run("window.german")
    german = window.successor or window
    german.resize(1280, 800)
    _explain(german, "pawl-plate", "s4", "side")


SHOTS: dict[str, Callable[..., None]] = {
    "start": lambda window: None,
    "lesson": _lesson,
    "bench-sheet": _bench,
    "bench-solid": _solid,
    "program": _program,
    "remark": _remark,
    "board": _board,
    "crib": _crib,
    "explained": _explained,
    "gloves": _gloves,
    "fixture": _fixture,
    "turned-over": _turned_over,
    "turned-sheet": _turned,
    "end-face": _end_face,
    "hand-over": _hand_over,
    "outline": _outline,
    "touch-off": _touch_off,
    "running": _running,
    "german": _german,
}
