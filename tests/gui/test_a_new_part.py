"""A part from nothing to a saved program, by keys alone; the file then proved by the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from bastler.cli import main
from bastler.job import write_job

from .conftest import ALT, CTRL, SHIFT, Hands

KEY = Qt.Key


def test_by_keys_alone(hands: Hands, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    window = hands.window
    session = window.session
    hands.press(KEY.Key_1)  # "New job, mm"
    assert session.has_job
    assert session.selected == "stock"
    hands.go_to("stock.size_x")
    hands.retype("100+20")
    hands.go_to("stock.size_y")
    hands.retype("3in")
    hands.go_to("stock.size_z")
    hands.retype("25")
    hands.press(KEY.Key_Return)
    assert session.job.stock.size_x == 120.0
    assert session.job.stock.size_y == pytest.approx(76.2)
    assert session.job.stock.typed["size_x"] == "100+20"

    hands.press(KEY.Key_Insert)
    hands.press(KEY.Key_Return)  # the first on the board: facing
    hands.press(KEY.Key_Return, CTRL)
    hands.type("rectangular p")
    hands.press(KEY.Key_Return)
    pocket = session.selected
    hands.go_to(f"step:{pocket}.length")
    hands.retype("60")
    hands.press(KEY.Key_Return)
    hands.retype("1 1/2in")
    hands.go_to(f"step:{pocket}.depth")
    hands.retype("8")
    hands.press(KEY.Key_Return, CTRL)
    hands.type("drill")
    hands.press(KEY.Key_Return)
    drilling = session.selected
    hands.go_to(f"step:{drilling}.depth")
    hands.retype("12.5")
    pattern = session.job.step(drilling).pattern
    hands.press(KEY.Key_Return, SHIFT)
    assert hands.focus != f"step:{drilling}.depth"
    for _ in range(30):
        if hands.focus == f"pattern:{pattern}.diameter":
            break
        hands.press(KEY.Key_Return, SHIFT)
    hands.retype("66")
    hands.proved()
    assert [type(s).__name__ for s in session.job.steps] == ["Facing", "RectangularPocket", "Drilling"]
    assert session.job.step(pocket).width == pytest.approx(38.1)
    assert session.proof is not None
    assert {r.level for r in session.proof.remarks} <= {"note"}

    hands.press(KEY.Key_3, ALT)
    assert window.places.currentWidget() is window.program
    hands.press(KEY.Key_P, CTRL)
    hands.retype("my part/../x")
    hands.press(KEY.Key_Return)
    saved = list(Path.home().glob("*.nc"))
    assert [p.name for p in saved] == ["my-part-x.nc"]
    assert "Saved" in window.program.output.said.text()

    write_job(session.job, tmp_path / "part.bastler")
    assert main(["prove", str(saved[0]), "--setup", str(tmp_path / "part.bastler"), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["proved"] is True
    assert {r["level"] for r in found["remarks"]} <= {"note"}
    assert found["left_volume"] == 0.0
    assert {s["tool"] for s in found["stages"]} == {1, 3, 6, 7}


def test_nothing_has_to_be_pressed_to_see_the_result(demo: Hands) -> None:
    session = demo.window.session
    before = session.proof
    demo.window.session.select("s2")
    demo.window.questions.take_focus("step:s2.depth")
    demo.retype("9")
    demo.proved()
    assert session.proof is not before
    assert any("Z-9" in line for line in session.proof.program.lines)
    assert demo.window.header.verdict.text().startswith("<b")
    demo.press(KEY.Key_Z, CTRL)
    demo.proved()
    assert session.job.step("s2").depth == 12.0
    assert QApplication.focusWidget() is not None
