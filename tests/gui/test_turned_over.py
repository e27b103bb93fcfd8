"""A milled part with two sides: made by keys alone, its cards dragged and taken away, its programs sent out."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from bastler.cli import main
from bastler.job import write_job

from .conftest import ALT, CTRL, Hands

KEY = Qt.Key


def give(hands: Hands, owner: str, **values: str) -> None:
    for name, text in values.items():
        hands.go_to(f"{owner}.{name}")
        hands.retype(text)


@pytest.mark.timeout(240)
def test_both_sides_by_keys_alone(hands: Hands, tmp_path: Path) -> None:
    window, session = hands.window, hands.window.session
    hands.press(KEY.Key_1)  # "New job, mm"
    give(hands, "stock", size_x="90", size_y="60", size_z="30", over_top="1", over_bottom="4")
    hands.add("face")
    pocket = hands.add("rectangular p")
    give(hands, f"step:{pocket}", length="50", width="30", depth="8")
    hands.proved()
    assert session.whole is not None
    assert session.whole.proved

    hands.press(KEY.Key_T, CTRL)
    assert session.selected == "holding:h2"
    assert [h.title for h in session.job.holdings] == ["Held in a vise", "Turned over about X"]
    hands.proved()
    assert session.whole.verdict == "left", "what is too much below is still there"
    hands.add("face")
    well = hands.add("round p")
    give(hands, f"step:{well}", diameter="24", depth="6.5")
    hands.proved()
    assert session.whole.verdict == "proved", session.whole.remarks
    assert [len(h.steps) for h in session.job.holdings] == [2, 2]
    assert session.proof is session.whole.holdings[1]
    assert window.header.verdict.text().startswith("<b")

    hands.press(KEY.Key_P, CTRL)
    assert [b.text() for b in window.program.choices] == ["1  Held in a vise", "2  Turned over about X"]
    hands.retype("cover")
    hands.press(KEY.Key_Return)
    saved = sorted(Path.home().glob("*.nc"))
    assert [p.name for p in saved] == ["cover-1.nc", "cover-2.nc"]
    assert "cover-1.nc and cover-2.nc" in window.program.output.said.text()
    job = tmp_path / "cover.bastler"
    write_job(session.job, job)
    for place, path in enumerate(saved, 1):
        assert main(["prove", str(path), "--setup", str(job), "--holding", str(place)]) == 0
    assert main(["prove", str(saved[0]), "--setup", str(job), "--holding", "2"]) == 1, "the first side's program on the second"
    assert main(["prove", str(saved[0]), "--setup", str(job), "--holding", "3"]) == 2


@pytest.fixture
def cap(hands: Hands) -> Hands:
    hands.window.open_choice("sample:bearing-cap")
    hands.proved()
    return hands


def test_views_follow_the_holding_that_is_looked_at(cap: Hands) -> None:
    window, session = cap.window, cap.window.session
    first = session.proof
    session.select("s4" if session.job.step("s4") else session.job.holdings[1].steps[0].id)
    second = session.proof
    assert first is not None
    assert second is not None
    assert second is not first
    assert session.cursor == second.total
    cap.settle()
    assert session.look is not None
    assert session.look.cutaway.under, "what is gone of the underside is seen in the section"
    cap.press(KEY.Key_3, ALT)
    assert window.program.head.text() == "O2030"
    cap.click(window.program.choices[0])
    assert session.proof is first
    assert window.program.head.text() == "O2020"
    window.view("solid")
    for name in ("Below", "Iso"):
        window.solid.look(name)
    cap.press(KEY.Key_1, CTRL)
    for ident in session.cards():
        session.select(ident)
        window.sheet.repaint()
        assert "Traceback" not in window.caption.text()


def test_a_step_is_dragged_over_the_card_of_a_holding(cap: Hands) -> None:
    window, session = cap.window, cap.window.session
    ident = session.job.holdings[0].steps[-1].id
    card, over = window.route.cards[ident], window.route.cards["holding:h2"]
    start, to = card.mapToGlobal(card.rect().center()), over.mapToGlobal(QPoint(over.width() // 2, over.height() + 4))
    QTest.mousePress(card, Qt.MouseButton.LeftButton, pos=card.mapFromGlobal(start))  # type: ignore[call-overload]
    for share in (0.3, 0.7, 1.0, 1.0):
        QTest.mouseMove(card, card.mapFromGlobal(start + (to - start) * share))  # type: ignore[call-overload]
        QTest.qWait(20)  # type: ignore[call-arg, arg-type]
    QTest.mouseRelease(card, Qt.MouseButton.LeftButton, pos=card.mapFromGlobal(to))  # type: ignore[call-overload]
    assert session.job.holdings[1].steps[0].id == ident
    cap.press(KEY.Key_Z, CTRL)
    assert session.job.holdings[0].steps[-1].id == ident
    session.select(ident)
    cap.press(KEY.Key_PageDown, CTRL)
    assert session.job.holdings[1].steps[0].id == ident
    cap.press(KEY.Key_PageUp, CTRL)
    assert session.job.holdings[0].steps[-1].id == ident


def test_a_holding_goes_with_its_steps_and_comes_back(cap: Hands) -> None:
    window, session = cap.window, cap.window.session
    before = session.job
    session.select("holding:h2")
    window.sheet.setFocus()
    cap.press(KEY.Key_Delete)
    assert len(session.job.holdings) == 1
    assert session.selected == "holding:h1"
    cap.press(KEY.Key_Delete)
    assert len(session.job.holdings) == 1, "the first one stays"
    cap.proved()
    assert session.proof is not None
    cap.press(KEY.Key_Z, CTRL)
    assert session.job == before
    cap.proved()
    assert session.whole is not None
    assert session.whole.proved


def test_a_remark_on_the_grip_leads_to_its_holding(cap: Hands) -> None:
    window, session = cap.window, cap.window.session
    pocket = session.job.holdings[0].steps[1].id
    session.answer(f"step:{pocket}.width", 2.4)
    session.select("stock")
    cap.proved()
    assert session.whole is not None
    found = [r for r in session.whole.remarks if r.code == "jaw-on-pocket"]
    assert found
    window.show_remark(found[0])
    assert session.selected == "holding:h2"
    assert session.focus == "holding:h2.grip"
