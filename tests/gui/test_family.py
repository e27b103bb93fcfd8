"""Named sizes and variants in the window: typed into fields, changed in one place, each part proved and saved."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt

from bastler.app.family_panel import FamilyPanel
from bastler.app.rows import NumberRow

from .conftest import ALT, CTRL, Hands

KEY = Qt.Key


@pytest.fixture
def plate(hands: Hands) -> Hands:
    """A new plate with a pocket, and the panel of its family open."""
    hands.press(KEY.Key_1)
    hands.add("face the top")
    hands.add("rectangular pocket")
    hands.press(KEY.Key_F, ALT)
    return hands


def panel_of(hands: Hands) -> FamilyPanel:
    panel = hands.window.family
    assert panel.isVisible()
    return panel


def into(hands: Hands, key: tuple[str, str], text: str) -> None:
    """Typed into one of the panel's fields, and Enter."""
    hands.click(panel_of(hands).fields[key])
    hands.retype(text)
    hands.press(KEY.Key_Return)


def pressed(hands: Hands, text: str, at: int = 0) -> None:
    from PyQt6.QtWidgets import QPushButton

    buttons = [b for b in panel_of(hands).findChildren(QPushButton) if b.text() == text and b.isVisible()]
    hands.click(buttons[at])


def with_sizes(hands: Hands) -> None:
    """d1 = 30 and deep = d1/6, used in the pocket."""
    for name, says in (("d1", "30"), ("deep", "d1/6")):
        pressed(hands, "+ Add a size")
        fresh = next(n for what, n in panel_of(hands).fields if what == "name" and n.startswith("size"))
        into(hands, ("name", fresh), name)
        into(hands, ("says", name), says)
    hands.press(KEY.Key_Escape)
    window = hands.window
    for field, text in (("length", "d1+10"), ("depth", "deep")):
        window.questions.take_focus(f"step:s2.{field}")
        hands.retype(text)
        hands.press(KEY.Key_Return)


def test_a_size_is_typed_by_its_name_and_changed_in_one_place(plate: Hands) -> None:
    session = plate.window.session
    with_sizes(plate)
    assert (session.job.step("s2").length, session.job.step("s2").depth) == (40.0, 5.0)
    row = plate.window.questions.row_of("step:s2.length")
    assert isinstance(row, NumberRow)
    assert row.field.text() == "d1+10", "what was typed is kept"
    plate.press(KEY.Key_F, ALT)
    assert panel_of(plate).values["deep"].text() == "5"
    into(plate, ("says", "d1"), "36")
    assert (session.job.step("s2").length, session.job.step("s2").depth) == (46.0, 6.0)
    assert panel_of(plate).values["deep"].text() == "6"
    plate.proved()
    assert session.proof is not None
    assert any("Z-6" in line for line in session.proof.program.lines)
    plate.press(KEY.Key_Z, CTRL)
    assert session.job.step("s2").length == 40.0


def test_a_name_that_is_not_there_and_one_that_cannot_be_are_said(plate: Hands) -> None:
    window = plate.window
    with_sizes(plate)
    window.questions.take_focus("step:s2.width")
    plate.retype("d9")
    row = window.questions.row_of("step:s2.width")
    assert isinstance(row, NumberRow)
    assert "d9" in row.why.text() or "“d”" in row.why.text()
    plate.press(KEY.Key_Escape)
    before = window.session.job
    plate.press(KEY.Key_F, ALT)
    panel = panel_of(plate)
    into(plate, ("name", "d1"), "h7")
    assert "is a fit" in panel.why.text()
    into(plate, ("says", "d1"), "deep")
    assert panel.why.text()
    into(plate, ("says", "d1"), "")
    assert "has to be something" in panel.why.text()
    pressed(plate, "remove")
    assert "is named in 2 places" in panel.why.text()
    assert window.session.job is before


def test_a_size_under_another_name_goes_on_as_it_was(plate: Hands) -> None:
    with_sizes(plate)
    plate.press(KEY.Key_F, ALT)
    into(plate, ("name", "d1"), "long")
    plate.press(KEY.Key_Escape)
    row = plate.window.questions.row_of("step:s2.length")
    assert isinstance(row, NumberRow)
    assert row.field.text() == "long+10"


def test_variants_are_proved_and_saved_each_with_its_program(plate: Hands, tmp_path: Path) -> None:
    session = plate.window.session
    with_sizes(plate)
    plate.press(KEY.Key_F, ALT)
    panel = panel_of(plate)
    pressed(plate, "+ Add a variant")
    into(plate, ("variant", "variant 1"), "small")
    pressed(plate, "+ Add a variant")
    into(plate, ("variant", "variant 1"), "large")
    into(plate, ("large", "d1"), "48")
    pressed(plate, "+ Add a variant")
    into(plate, ("variant 1", "deep"), "90")
    pressed(plate, "Prove all variants")
    plate.until(lambda: len(panel.found) == 3)
    assert panel.counted.text() == "2 of 3 variants proved."
    assert panel.verdicts["small"].text().startswith("Proved")
    assert "deeper than the stock" in panel.verdicts["variant 1"].text()
    panel.save_to(tmp_path)
    names = sorted(p.name for p in tmp_path.glob("*.nc"))
    assert names == ["new-part-large.nc", "new-part-small.nc"]
    assert "2 programs saved" in panel.counted.text()
    assert "1 variant not proved" in panel.counted.text()
    assert "Z-8" in (tmp_path / "new-part-large.nc").read_text()
    into(plate, ("large", "d1"), "50")
    assert panel.found == {}, "what was found is of another job"
    assert not panel.save_button.isEnabled()
    pressed(plate, "open", 1)
    assert session.job.name == "New part large"
    assert session.job.family is None
    assert session.job.step("s2").length == 60.0


def test_proving_can_be_stopped(plate: Hands) -> None:
    with_sizes(plate)
    plate.press(KEY.Key_F, ALT)
    panel = panel_of(plate)
    for _ in range(8):
        panel.add_variant()
    panel.prove()
    assert panel.prove_button.text() == "Stop"
    panel.prove()
    assert panel.prove_button.text() == "Prove all variants"
    assert panel.found == {}
    plate.until(lambda: not plate.window.session.core.asked)
    assert panel.found == {}


def test_a_table_of_variants(plate: Hands, tmp_path: Path) -> None:
    with_sizes(plate)
    plate.press(KEY.Key_F, ALT)
    panel = panel_of(plate)
    table = tmp_path / "variants.csv"
    table.write_text("variant;d1\nA;32,5\nB;d9\n", encoding="utf-8")
    panel.read_table(table)
    assert "Line 3" in panel.why.text()
    table.write_text("variant;d1\nA;32,5\nB;40\n", encoding="utf-8")
    panel.read_table(table)
    assert panel.why.text() == ""
    assert panel.fields["A", "d1"].text() == "32,5"
    assert panel.fields["A", "deep"].placeholderText() == "d1/6"
    (tmp_path / "no.csv").write_bytes(b"\xff\xfe\x00rubbish")
    panel.read_table(tmp_path / "no.csv")
    assert "no table" in panel.why.text()
    panel.read_table(tmp_path / "nowhere.csv")
    assert "cannot be read" in panel.why.text()
    assert [one.name for one in panel.family.variants] == ["A", "B"]


def test_with_gloves_nothing_of_it_is_cut_off(plate: Hands) -> None:
    with_sizes(plate)
    plate.window.switch_gloves()
    plate.press(KEY.Key_F, ALT)
    panel = panel_of(plate)
    pressed(plate, "+ Add a variant")
    assert all(field.height() >= 48 for field in panel.fields.values())
    assert panel.prove_button.height() >= 48
    body = panel.area.widget()
    assert body is not None
    assert body.width() <= panel.area.width()
