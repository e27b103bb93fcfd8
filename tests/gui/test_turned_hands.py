"""Turning in the window by keys and clicks: a drawing however it is drawn, a bar with all its parts, the tailstock's centre."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import ezdxf
import pytest
from PyQt6.QtCore import Qt

from bastler.app.fields import NumberField, WordField
from bastler.app.outline_row import OutlineRow
from bastler.app.rows import PickButton
from bastler.job import new_job
from bastler.shapes import draw

from .conftest import ALT, Hands


@pytest.fixture
def lathe(hands: Hands, tmp_path: Path) -> Hands:
    """A new job on a lathe, its front faced and roughed."""
    hands.opened_file(new_job("mm", "lathe-200"), tmp_path)
    hands.add("face the end")
    hands.add("rough to an outline")
    hands.proved()
    return hands


def drawn_shaft(folder: Path) -> Path:
    """A shaft drawn round about with its front to the left, somewhere on the sheet."""
    doc: Any = ezdxf.new(units=4)
    half = [(0, 10), (20, 10), (20, 15), (40, 15)]
    points = [*half, *((x, -y) for x, y in reversed(half))]
    doc.modelspace().add_lwpolyline([(x + 77, y + 33) for x, y in points], close=True)
    path = folder / "shaft.dxf"
    doc.saveas(path)
    return path


def test_a_drawing_is_put_where_the_part_is(lathe: Hands, tmp_path: Path) -> None:
    window = lathe.window
    step = window.session.job.steps[-1]
    window.desk.open(drawn_shaft(tmp_path), f"step:{step.id}.outline")
    picker = window.desk.picker
    lathe.until(lambda: picker.isVisible())
    for _ in range(2):
        lathe.click(picker.place_button)
    assert "axis through it" in picker.place_button.text()
    lathe.click(picker.front_button)
    assert picker.front_button.text() == "front to the left"
    lathe.click(picker.button)
    outline = window.session.job.outline(window.session.job.step(step.id).outline)
    assert outline is not None
    chain = draw(outline).chain
    assert chain[0].start == pytest.approx((0.0, 10.0))
    assert chain[-1].end == pytest.approx((-40.0, 15.0))


def test_a_bar_is_made_of_parts_by_keys(lathe: Hands) -> None:
    window = lathe.window
    lathe.add("part off")
    lathe.add("next part")
    lathe.proved()
    ident = window.session.job.steps[-1].id
    lathe.go_to(f"step:{ident}.bar")
    lathe.retype("600")
    lathe.press(Qt.Key.Key_Return)
    lathe.proved()
    planned = window.session.plan.step(ident)
    assert planned is not None
    assert not planned.troubles
    assert f"each of {planned.filled.parts}" in window.header.tools.text()  # type: ignore[attr-defined]
    assert any("of one bar" in r.text for r in window.session.whole.remarks)
    lathe.press(Qt.Key.Key_3, ALT)
    assert any(line.startswith("M98") and " L" in line for line in window.session.proof.program.lines)


def test_the_centre_comes_in_and_is_drawn(lathe: Hands) -> None:
    window = lathe.window
    lathe.add("hole on the centre")
    lathe.add("tailstock")
    lathe.proved()
    assert window.session.look is not None
    assert len(window.session.look.beside) == 1
    lathe.click(window.sheet)
    window.session.select(window.session.job.steps[0].id)
    lathe.settle()
    assert not window.session.look.beside


def test_a_curve_goes_on_an_outline(lathe: Hands) -> None:
    """A ball on a pin, by its formula, and a formula that is none."""
    window = lathe.window
    editor = next(w for w in window.findChildren(OutlineRow) if w.isVisible())
    ident = editor.address.partition(":")[2]

    def count() -> int:
        outline = window.session.job.outline(ident)
        assert outline is not None
        return len(outline.segments)

    before = count()
    lathe.click(next(b for b in editor.findChildren(PickButton) if b.text() == "whole outline"))
    field = next(w for w in editor.findChildren(WordField) if w.accessibleName() == "Diameter as a formula of z")
    field.setFocus()
    lathe.type("40+y")
    lathe.press(Qt.Key.Key_Return)
    lathe.type("-55")
    lathe.press(Qt.Key.Key_Return)
    lathe.press(Qt.Key.Key_Return)
    assert "is not a number" in editor.why.text()
    assert count() == before
    field.setFocus()
    lathe.retype("60+2*sin(z*20)")
    lathe.press(Qt.Key.Key_Return)
    lathe.press(Qt.Key.Key_Return)
    lathe.press(Qt.Key.Key_Return)
    assert count() > before + 3
    outline = window.session.job.outline(ident)
    assert outline is not None
    assert draw(outline).chain[-1].end[0] == pytest.approx(-55.0)


def test_a_step_gets_a_copy_of_its_outline(lathe: Hands) -> None:
    """Off it by half a millimetre, for this step alone; then as the other side of a wall; a slip is said."""
    window = lathe.window
    editor = next(w for w in window.findChildren(OutlineRow) if w.isVisible())
    ident = editor.address.partition(":")[2]
    before = len(window.session.job.outlines)

    def act(text: str, off: str) -> None:
        row = next(w for w in window.findChildren(OutlineRow) if w.isVisible())
        if not any(w.accessibleName() == "Copy off by" and w.isVisible() for w in row.findChildren(NumberField)):
            lathe.click(next(b for b in row.findChildren(PickButton) if b.text() == "whole outline"))
        field = next(w for w in row.findChildren(NumberField) if w.accessibleName() == "Copy off by")
        field.setFocus()
        lathe.retype(off)
        lathe.click(next(b for b in row.findChildren(PickButton) if b.text() == text))

    act("Copy for this step", "0.5")
    step: Any = window.session.job.step(window.session.selected)
    assert step.outline != ident
    assert len(window.session.job.outlines) == before + 1
    act("As its other side", "-2")
    step = window.session.job.step(window.session.selected)
    other: Any = window.session.job.outline(step.outline)
    assert other.inside
    window.session.undo()
    window.session.undo()
    assert len(window.session.job.outlines) == before
