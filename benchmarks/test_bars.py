"""The bars of the quality page, measured. Run by `make bench`, never as part of the tests."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from bastler.job import Job, answering, edits, plan
from bastler.job.samples import sample
from bastler.nc import Control, read
from bastler.post import Program
from bastler.proof import Prover, prove_job


def six_steps() -> Job:
    """The winch base with its first six steps, which the bars are about."""
    job = sample("winch-base")
    return edits.replace(job, holdings=(edits.replace(job.holdings[0], steps=job.steps[:6]),))


@pytest.fixture(scope="module")
def warm() -> Prover:
    """A prover that has proved the sample once, kernels loaded."""
    prover = Prover()
    prover.prove(plan(six_steps()))
    return prover


EDITS = {
    "gear well deeper": ("step:s2.depth", [11.0 + 0.1 * k for k in range(200)]),
    "pawl seat longer": ("step:s3.length", [36.0 + 0.02 * k for k in range(200)]),
    "deck circle": ("pattern:p1.diameter", [91.0 + 0.01 * k for k in range(200)]),
    "facing height": ("step:s1.finish_z", [-0.001 * k for k in range(200)]),
}


@pytest.mark.parametrize("name", EDITS)
def test_edit_to_proof(name: str, benchmark, warm: Prover) -> None:  # type: ignore[no-untyped-def]
    """From a changed answer to the new proof: plan, post, read, prove, compare."""
    address, values = EDITS[name]
    job, turn = six_steps(), iter(values)

    def once() -> None:
        assert warm.prove(plan(answering.answered(job, address, next(turn)))) is not None

    benchmark.pedantic(once, rounds=40, warmup_rounds=2)


EDITS_IN_THE_WINDOW = {
    "finish": ("drum-spindle", "step:s3.ra", [1.6 - 0.002 * k for k in range(200)]),
    "shaft length": ("drum-spindle", "outline:o1.segments.4.z", [-63.5 + 0.01 * k for k in range(200)]),
    "ring grooves": ("drum-spindle", "step:s5.floor_d", [26.6 - 0.002 * k for k in range(200)]),
    "thread": ("drum-spindle", "step:s6.length", [16.0 - 0.005 * k for k in range(200)]),
    "recess radius": ("pawl-plate", "outline:o2.segments.0.radius", [0.75 + 0.0005 * k for k in range(200)]),
    "rim radius": ("pawl-plate", "outline:o1.segments.2.radius", [0.4 + 0.0005 * k for k in range(200)]),
    "edge": ("pawl-plate", "step:s5.size", [0.03 + 0.00005 * k for k in range(200)]),
}


@pytest.mark.parametrize("name", EDITS_IN_THE_WINDOW)
def test_edit_to_proof_as_in_the_window(name: str, benchmark) -> None:  # type: ignore[no-untyped-def]
    """The same for the other samples; the plan before the edit is known, as in the window."""
    part, address, values = EDITS_IN_THE_WINDOW[name]
    job, turn, prover = sample(part), iter(values), Prover()
    known = plan(job)
    prover.prove(known)

    def once() -> None:
        assert prover.prove(plan(answering.answered(job, address, next(turn)), known)) is not None

    benchmark.pedantic(once, rounds=40, warmup_rounds=2)


def test_whole_turning_proof_from_nothing(benchmark) -> None:  # type: ignore[no-untyped-def]
    planned = plan(sample("drum-spindle"))
    benchmark.pedantic(lambda: prove_job(planned), rounds=8, warmup_rounds=1)


def test_whole_proof_from_nothing(benchmark, warm: Prover) -> None:  # type: ignore[no-untyped-def]
    planned = plan(six_steps())
    benchmark.pedantic(lambda: prove_job(planned), rounds=8, warmup_rounds=1)


@pytest.mark.parametrize("name", ["winch-base", "fixture-of-six"])
def test_whole_proof_of_a_sample_from_nothing(name: str, benchmark, warm: Prover) -> None:  # type: ignore[no-untyped-def]
    """All ten steps of the winch base; six parts with four steps each."""
    planned = plan(sample(name))
    benchmark.pedantic(lambda: prove_job(planned), rounds=6, warmup_rounds=1)


def _wavy(lines: int) -> str:
    k = np.arange(lines)
    x, y = 75 + 70 * np.cos(k * 0.3 / 40), 50 + 45 * np.sin(k * 0.3 / 31)
    body = "\n".join(f"X{a:.3f} Y{b:.3f}" for a, b in zip(x, y, strict=True))
    return f"G21 G90 G17\nT3 M6\nS6000 M3\nG54 G0 X145 Y50\nG43 H3 Z20\nG1 Z-2 F1500\n{body}\nG0 Z20\nM30\n"


def test_reading_100_000_lines(benchmark, warm: Prover) -> None:  # type: ignore[no-untyped-def]
    text = _wavy(100_000)
    benchmark.pedantic(lambda: read(text, Control()), rounds=8, warmup_rounds=1)


def test_100_000_short_moves_read_and_proved(benchmark, warm: Prover) -> None:  # type: ignore[no-untyped-def]
    planned, program = plan(six_steps()), Program.foreign(_wavy(100_000))
    benchmark.pedantic(lambda: prove_job(planned, program, cell_mm=0.1), rounds=3, warmup_rounds=1)


WINDOW = """
import os, sys, time
def peak(pid="self"):
    return int(next(line for line in open(f"/proc/{pid}/status") if line.startswith("VmHWM")).split()[1]) / 1024
for name in ("STATE", "CONFIG", "DATA", "CACHE"):
    os.environ[f"XDG_{name}_HOME"] = sys.argv[1]
from PyQt6.QtCore import QEventLoop, QTimer, Qt
from PyQt6.QtTest import QTest
from bastler.app.main import make_application
app = make_application()
from bastler.app.main_window import MainWindow
window = MainWindow(); window.resize(1280, 800); window.show()
window.open_choice("sample:" + sys.argv[2])
session = window.session
loop = QEventLoop()
for signal in (session.proof_changed, session.plan_changed):
    signal.connect(loop.quit)
def wait(what):
    while what():
        loop.exec()
late, stale = lambda: session.late, lambda: session.stale
wait(stale)
KEYS = {"winch-base": ("s2", "step:s2.depth", 10.0, 0.1, 1), "drum-spindle": ("s5", "step:s5.floor_d", 26.6, -0.01, 2),
        "pawl-plate": ("s4", "step:s4.depth", 0.5, 0.001, 3), "fixture-of-six": (session.job.steps[1].id, None, 0, 0, 0)}
step, address, first, by, places = KEYS[sys.argv[2]]
session.select(step); QTest.qWait(300)
if address is None:
    address = next(a for a in window.questions.rows if a.endswith(".depth"))
    first, by, places = float(window.questions.rows[address].computed()) - 1.0, 0.01, 2
window.questions.take_focus(address); QTest.qWait(200)
gaps, last = [], [time.perf_counter()]
beat = QTimer(); beat.setInterval(1)
def tick():
    now = time.perf_counter(); gaps.append(now - last[0]); last[0] = now
beat.timeout.connect(tick); beat.start()
field = window.questions.rows[address].field
drawn, times = [], []
for k in range(40):
    field.selectAll()
    digits = f"{first + k * by:.{places}f}"
    QTest.keyClicks(field, digits[:-1]); wait(stale); app.processEvents()
    if k == 2: gaps.clear(); last[0] = time.perf_counter()
    begin = time.perf_counter()
    QTest.keyClick(field, digits[-1]); wait(late); window.sheet.repaint(); drawn.append(time.perf_counter() - begin)
    wait(stale); window.repaint(); app.processEvents()
    times.append(time.perf_counter() - begin)
drawn, times, gaps = sorted(drawn[3:]), sorted(times[3:]), sorted(gaps)
beat.stop()
core = window.core.process.pid
sheet_memory = peak() + peak(core)
session.seek(0.0); scrubbed = time.perf_counter()
for k in range(120):
    session.seek(session.proof.total * k / 120); window.sheet.repaint(); window.strip.repaint(); app.processEvents()
scrubbed = time.perf_counter() - scrubbed
window.view("solid"); QTest.qWait(2500)
frames, positions = [], 0
if window.solid.scene:
    window.solid.scene.turning(on=True)
    camera = window.solid.scene.renderer.GetActiveCamera()
    for k in range(40):
        camera.Azimuth(3); begin = time.perf_counter(); window.solid.scene.render(); frames.append(time.perf_counter() - begin)
    begin = time.perf_counter()
    for k in range(40):
        session.seek(session.proof.total * (k + 1) / 41)
        while not window.solid.shown and time.perf_counter() - begin < 30: app.processEvents()
        positions += 1
    seen = positions / (time.perf_counter() - begin)
frames = sorted(frames) or [float("nan")]
memory = peak() + peak(core)
pct = lambda values, share: values[min(len(values) - 1, int(share * len(values)))] * 1000
print(f"key press to the drawing: median {pct(drawn, 0.5):.0f} ms, 95 % {pct(drawn, 0.95):.0f} ms")
print(f"key press to shown: median {pct(times, 0.5):.0f} ms, 95 % {pct(times, 0.95):.0f} ms")
print(f"longest the window did not answer while typing: {max(gaps) * 1000:.0f} ms, 99 % {pct(gaps, 0.99):.0f} ms")
print(f"scrubbing: {120 / scrubbed:.0f} positions a second in the sheet, {seen:.0f} in the solid")
print(f"one frame of the solid while turned: median {pct(frames, 0.5):.0f} ms, 95 % {pct(frames, 0.95):.0f} ms")
print(f"greatest memory, both processes: {sheet_memory:.0f} MB with the sheet, {memory:.0f} MB with the solid")
window.close()
"""

START = """
import os, sys, time
for name in ("STATE", "CONFIG", "DATA", "CACHE"):
    os.environ[f"XDG_{name}_HOME"] = sys.argv[1]
begin, place = float(sys.argv[2]), sys.argv[3]
import gc; gc.disable()
from bastler.live.child import Child
child = Child()
from bastler.app.main import make_application
app = make_application()
from bastler.app.core import Core
from bastler.app.main_window import MainWindow
core = Core(child=child); window = MainWindow(core)
if place == "demo":
    window.open_choice("sample:winch-base")
window.show()
while place == "demo" and window.session.stale:
    app.processEvents()
for _ in range(4):
    app.processEvents()
print(f"start to a painted {'and proved demo' if place == 'demo' else 'start place'}: {time.time() - begin:.2f} s")
window.close(); core.close()
"""


@pytest.mark.skipif(not os.environ.get("DISPLAY"), reason="needs a display; `make bench` starts a virtual one")
@pytest.mark.parametrize("what", ["winch-base", "drum-spindle", "pawl-plate", "fixture-of-six", "start", "demo"])
def test_the_window(what: str, benchmark, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:  # type: ignore[no-untyped-def]
    """Figures of the real window, printed; the time of the whole process is what the table shows."""

    starts = what in ("start", "demo")

    def once() -> str:
        text = START if starts else WINDOW
        more = [str(time.time()), what] if starts else [what]
        own = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}  # as it is installed
        made = subprocess.run(
            [sys.executable, "-c", text, str(tmp_path), *more], capture_output=True, text=True, timeout=240, env=own
        )
        assert made.returncode == 0, made.stderr
        return made.stdout

    printed = benchmark.pedantic(once, rounds=3 if starts else 1, warmup_rounds=1 if starts else 0)
    with capsys.disabled():
        print(f"\n{what}:\n" + printed.strip())
