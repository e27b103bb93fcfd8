"""The crib: a tool added and used, stations by dragging, lists out and in, a machine's code while its card is changed."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest
from PyQt6.QtCore import QPoint, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QMenu, QPushButton

from bastler.app.drafting import painting
from bastler.app.main_window import MainWindow
from bastler.app.pictures import draw_tool
from bastler.app.rows import ChoiceRow, PickRow
from bastler.app.shop_keeper import shop_path
from bastler.ask import questions_of
from bastler.job import edits, plan
from bastler.job.samples import sample
from bastler.tools import TurnTool, new_tool
from bastler.tools.lists import csv_list, read_list
from bastler.units import Kind
from conftest import some

from .conftest import ALT, CTRL, NONE, Hands, QTest

KEY = Qt.Key


def plate(hands: Hands) -> Hands:
    """A new part with a faced top and a pocket, and the crib open."""
    hands.window.open_choice("new:mm:mill-600")
    hands.proved()
    for words in ("face", "rectangular p"):
        hands.press(KEY.Key_Return, CTRL)
        hands.type(words)
        hands.press(KEY.Key_Return)
        hands.proved()
    hands.press(KEY.Key_2, ALT)
    return hands


def test_a_tool_added_to_the_crib_is_used_by_the_job_and_by_the_next_one(hands: Hands) -> None:
    window = plate(hands).window
    session, crib = window.session, window.crib
    pocket = session.job.steps[-1].id
    crib.add_tool("end-mill")
    ident = crib.selected["tools"]
    assert crib.isVisible()
    assert hands.focus == f"tool:{ident}.station"
    hands.type("29")
    hands.go_to(f"tool:{ident}.diameter")
    hands.type("12")
    hands.press(KEY.Key_Return)
    tool = session.job.tool(ident)
    assert tool is not None
    assert (tool.station, tool.diameter) == (29, 12.0)
    session.answer(f"step:{pocket}.tool", ident)
    hands.proved()
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert any("T29 M6" in line for line in session.proof.program.lines)
    window.open_choice("new:mm:mill-600")
    hands.proved()
    assert session.job.tool(ident) == tool
    window.shop_keeper.keep()
    assert shop_path().exists()
    again = MainWindow()
    assert ident in {t.id for t in again.session.shop.rack("mm", turning=False)}
    again.close()


def drag(hands: Hands, ident: str, station: int) -> None:
    """A tool from its place to another station, with the mouse."""
    rack = hands.window.crib.rack
    hands.window.crib.select("tools", ident)
    begin = rack.box_of(ident).center().toPoint()
    slot = next(k for k, s in enumerate(rack.slots) if s.station == station)
    end = rack.boxes[slot].center().toPoint()
    QTest.mousePress(rack, Qt.MouseButton.LeftButton, NONE, begin)
    for k in range(1, 6):
        QTest.mouseMove(rack, begin + QPoint((end - begin).x() * k // 5, (end - begin).y() * k // 5))
        QTest.qWait(5)
    QTest.mouseRelease(rack, Qt.MouseButton.LeftButton, NONE, end)
    QTest.qWait(5)


def test_dragging_a_tool_changes_places_and_can_be_undone(hands: Hands) -> None:
    session = plate(hands).window.session
    before = session.job.tools
    drag(hands, "end-16", 4)
    assert (session.job.tool("end-16").station, session.job.tool("end-6").station) == (4, 2)
    hands.press(KEY.Key_Z, CTRL)
    assert session.job.tools == before
    hands.proved()


def test_the_crib_out_and_in_is_the_same_and_conflicts_are_decided_one_by_one(hands: Hands, tmp_path: Path) -> None:
    window = plate(hands).window
    session, crib = window.session, window.crib
    path = tmp_path / "crib.csv"
    crib.write(path)
    before = session.job
    crib.read(path)
    assert session.job.tools == before.tools
    assert "there already" in crib.words.text()
    mill_16, mill_10 = (next(t for t in before.tools if t.id == ident) for ident in ("end-16", "end-10"))
    other, third = msgspec.structs.replace(mill_16, diameter=15.5), msgspec.structs.replace(mill_10, flutes=4)
    path.write_text(csv_list([other, third, new_tool("drill", "mm", "fresh")]))
    crib.read(path)
    assert session.job.tool("fresh") is not None
    assert session.job.tool("end-16") == before.tool("end-16")
    assert "1 more" in crib.words.text()
    hands.click(crib.ways[1])
    assert session.job.tool("end-16") == other
    hands.click(crib.ways[0])
    assert session.job.tool("end-10") == before.tool("end-10")
    assert not crib.conflicts
    kept = session.job
    path.write_text("no list\n")
    crib.read(path)
    assert session.job is kept
    assert "no heading" in crib.words.text()
    crib.write(tmp_path / "crib.json")
    assert read_list((tmp_path / "crib.json").read_text(), "crib") == session.job.tools
    hands.proved()


def test_a_tool_that_the_shop_has_otherwise_is_shown_and_either_may_hold(hands: Hands) -> None:
    window = plate(hands).window
    session, crib = window.session, window.crib
    ours = next(t for t in session.job.tools if t.id == "end-16")
    session.keep_shop(session.shop.given(session.job, msgspec.structs.replace(ours, diameter=15.5)))
    crib.select("tools", "end-16")
    assert "otherwise" in crib.words.text()
    hands.click(crib.ways[0])
    assert session.job.tool("end-16").diameter == 15.5
    assert session.shop.differing(session.job) == {}
    hands.proved()


def test_a_machine_card_shows_its_code_while_it_is_changed(hands: Hands) -> None:
    window = plate(hands).window
    session, crib = window.session, window.crib
    hands.click(crib.tab_buttons["machines"])
    assert "G21" in crib.code.toPlainText()
    assert "N10" not in crib.code.toPlainText()
    row = crib.form.rows["dialect:mill-600.line_numbers"]
    hands.click(row.buttons[True])  # type: ignore[attr-defined]
    assert "N10" in crib.code.toPlainText()
    hands.proved()
    assert session.proof is not None
    assert session.proof.program.text.count("N10 ") >= 1
    crib.form.rows["dialect:mill-600.tool_call"].take_focus()
    hands.type("T{wrong}")
    assert "cannot be filled in" in crib.code.toPlainText()
    hands.proved()
    hands.press(KEY.Key_Z, CTRL)
    hands.proved()
    assert session.proof.proved
    hands.click(crib.copy)
    assert len(session.job.cards) == 2
    hands.click(crib.delete)
    assert len(session.job.cards) == 1


def test_a_material_of_its_own(hands: Hands) -> None:
    window = plate(hands).window
    session, crib = window.session, window.crib
    hands.click(crib.tab_buttons["materials"])
    hands.click(crib.copy)
    ident = crib.selected["materials"]
    assert hands.focus == f"material:{ident}.name"
    hands.type("Sea brass")
    hands.go_to(f"material:{ident}.kc11")
    hands.type("900")
    hands.press(KEY.Key_Return)
    session.answer("stock.material", ident)
    hands.proved()
    assert plan(session.job).job.material.name == "Sea brass"
    assert session.job.materials == session.shop.materials


@pytest.mark.parametrize("name", some(["drum-spindle", "winch-base", "bearing-cap"], 1))
def test_a_tool_with_any_number_in_it_is_named_and_painted(name: str, hands: Hands) -> None:
    """As it is while it is typed, or as an old file brings it: a shape or a mark, and nothing is raised."""
    picture, image = hands.window.crib.picture, QImage(120, 120, QImage.Format.Format_ARGB32_Premultiplied)
    picture.resize(240, 160)
    for tool in {t.kind: t for t in sample(name).tools}.values():
        for question in questions_of(type(tool)):
            values: tuple[object, ...] = ("", "²", "x" * 200) if question.picks in ("word", "name") else (0.0, -1.0, 1e-9, 1e9)
            for value in values if question.kind is not None or question.picks in ("word", "name") else ():
                whole = question.kind is Kind.COUNT and isinstance(value, float)
                changed = msgspec.structs.replace(tool, **{question.name: int(value) if whole else value})  # type: ignore[call-overload]
                with painting(image) as painter:
                    draw_tool(painter, changed, QRectF(0, 0, 120, 120), 2.0)
                picture.show_tool(changed)
                picture.grab()
                assert changed.says
    hands.window.crib.picture.show_tool(None)


def test_how_a_tool_stands_is_asked_where_tools_are_driven(hands: Hands) -> None:
    window = hands.window
    window.open_choice("new:mm:lathe-200")
    hands.proved()
    window.go_to("crib")
    window.crib.show_tab("tools")
    window.crib.select("tools", "drill-8.5")
    address = "tool:drill-8.5.stands"
    assert address not in window.crib.form.rows
    window.session.answer("job.machine", "turn-mill-250")
    hands.proved()
    assert address in window.crib.form.rows
    window.session.answer(address, "radial")
    hands.proved()
    assert window.session.job.tool("drill-8.5").stands == "radial"
    window.crib.show_tab("machines")
    hands.settle()
    grid, area = window.crib.machines, window.crib.machine_area
    assert max(box.bottom() for box in grid.boxes) <= area.height(), "they stand in one row"
    window.crib.select("machines", "turn-mill-250")
    hands.settle()
    assert "card:turn-mill-250.drive_stations" in window.crib.form.rows
    window.session.answer("card:turn-mill-250.drive_stations", "3 1 x 3")
    hands.proved()
    assert window.session.job.card.drive.stations == (1, 3)
    window.session.answer("card:turn-mill-250.c_axis", False)
    hands.proved()
    assert window.session.job.card.c is None
    assert window.session.job.card.drive is None


def test_an_insert_gets_the_edge_of_an_outline(hands: Hands) -> None:
    """Drawn in a groove, taken in the crib, plunged on the bench."""
    window = hands.window
    window.open_choice("new:mm:lathe-200")
    hands.proved()
    for words in ("face the end", "groove"):
        hands.add(words)
        hands.proved()
    session = window.session
    groove = session.selected
    hands.click(choice(hands, f"step:{groove}.shape", "own"))
    session.edit(edits.outline_for(session.job, f"step:{groove}.outline", inside=False), "New outline")
    outline = session.job.outlines[-1].id
    hands.press(KEY.Key_2, ALT)
    window.crib.add_tool("groove")
    ident = window.crib.selected["tools"]
    row = window.crib.form.rows[f"tool:{ident}.drawn"]
    assert isinstance(row, PickRow)
    assert "straight" in row.label.text()
    QTimer.singleShot(200, lambda: pick_from_menu("is drawn"))
    hands.click(row.button)
    tool = session.job.tool(ident)
    assert isinstance(tool, TurnTool)
    assert len(tool.drawn) == 4
    assert "drawn, 3 pieces" in row.label.text()
    hands.press(KEY.Key_1, ALT)
    session.select(groove)
    hands.click(choice(hands, f"step:{groove}.shape", "insert"))
    hands.proved()
    assert session.plan.step(groove).filled.tool == ident
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert session.job.outline(outline) is not None


def choice(hands: Hands, address: str, value: str) -> QPushButton:
    """The button of a choice on the bench."""
    row = hands.window.questions.rows[address]
    assert isinstance(row, ChoiceRow)
    return row.buttons[value]


def pick_from_menu(words: str) -> None:
    """The first entry of the open menu with these words."""
    menu = QApplication.activePopupWidget()
    assert isinstance(menu, QMenu)
    action = next(a for a in menu.actions() if words in a.text())
    QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
