"""The bars of the quality page, measured. Run by `make bench`, never as part of the tests."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest

from bastler.job import Job, edits, plan
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
        assert warm.prove(plan(edits.answered(job, address, next(turn)))) is not None

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
        assert prover.prove(plan(edits.answered(job, address, next(turn)), known)) is not None

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
def peak():
    return int(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1]) / 1024
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = sys.argv[1]
from PyQt6.QtCore import QEventLoop, QTimer, Qt
from PyQt6.QtTest import QTest
from bastler.app.main import make_application
app = make_application()
from bastler.app.main_window import MainWindow
window = MainWindow(); window.resize(1280, 800); window.show()
window.open_choice("sample:" + sys.argv[2])
session = window.session
if sys.argv[2] == "winch-base":  # the bar is about six steps
    import msgspec
    job = session.job
    held = msgspec.structs.replace(job.holdings[0], steps=job.steps[:6])
    session.edit(msgspec.structs.replace(job, holdings=(held,)), "Six steps")
loop = QEventLoop()
session.proof_changed.connect(loop.quit)
def wait():
    while session.stale:
        loop.exec()
wait()
gaps, last = [], [time.perf_counter()]
beat = QTimer(); beat.setInterval(1)
def tick():
    now = time.perf_counter(); gaps.append(now - last[0]); last[0] = now
beat.timeout.connect(tick); beat.start()
turned = session.job.turns
step, address = ("s5", "step:s5.floor_d") if turned else ("s2", "step:s2.depth")
session.select(step); window.questions.take_focus(address); QTest.qWait(200)
field = window.questions.rows[address].field
times = []
for k in range(40):
    field.selectAll()
    digits = f"{26.6 - k * 0.01:.2f}" if turned else f"{10 + k * 0.1:.1f}"
    QTest.keyClicks(field, digits[:-1]); wait(); app.processEvents()
    if k == 2: gaps.clear(); last[0] = time.perf_counter()
    begin = time.perf_counter()
    QTest.keyClick(field, digits[-1]); wait(); window.repaint(); app.processEvents()
    times.append(time.perf_counter() - begin)
times, gaps = sorted(times[3:]), sorted(gaps)
beat.stop()
sheet_memory = peak()
window.view("solid"); QTest.qWait(2500)
frames = []
if window.solid.scene:
    camera = window.solid.scene.renderer.GetActiveCamera()
    for k in range(40):
        camera.Azimuth(3); begin = time.perf_counter(); window.solid.scene.render(); frames.append(time.perf_counter() - begin)
frames = sorted(frames) or [float("nan")]
memory = peak()
pct = lambda values, share: values[min(len(values) - 1, int(share * len(values)))] * 1000
print(f"key press to shown: median {pct(times, 0.5):.0f} ms, 95 % {pct(times, 0.95):.0f} ms")
print(f"longest the window did not answer while typing: {max(gaps) * 1000:.0f} ms, 99 % {pct(gaps, 0.99):.0f} ms")
print(f"one frame of the solid: median {pct(frames, 0.5):.0f} ms, 95 % {pct(frames, 0.95):.0f} ms")
print(f"greatest memory: {sheet_memory:.0f} MB with the sheet, {memory:.0f} MB with the solid")
window.close()
"""

START = """
import sys, time, os
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = sys.argv[1]
begin = float(sys.argv[2])
from bastler.app.main import make_application
app = make_application()
from bastler.app.main_window import MainWindow
window = MainWindow(); window.open_choice("sample:winch-base"); window.show()
while window.session.stale:
    app.processEvents()
app.processEvents()
print(f"start to a painted and proved window: {time.time() - begin:.2f} s")
window.close()
"""


@pytest.mark.skipif(not os.environ.get("DISPLAY"), reason="needs a display; `make bench` starts a virtual one")
@pytest.mark.parametrize("what", ["winch-base", "drum-spindle", "start"])
def test_the_window(what: str, benchmark, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:  # type: ignore[no-untyped-def]
    """Figures of the real window, printed; the time of the whole process is what the table shows."""

    def once() -> str:
        text = START if what == "start" else WINDOW
        more = str(time.time()) if what == "start" else what
        made = subprocess.run([sys.executable, "-c", text, str(tmp_path), more], capture_output=True, text=True, timeout=240)
        assert made.returncode == 0, made.stderr
        return made.stdout

    printed = benchmark.pedantic(once, rounds=3 if what == "start" else 1, warmup_rounds=1 if what == "start" else 0)
    with capsys.disabled():
        print(f"\n{what}:\n" + printed.strip())
