"""Phrases of the shop in the window: kept from a step, offered on the board, filled in, forgotten."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from bastler.app.lines_rows import LinesRow

from .conftest import Hands

KEY = Qt.Key


def test_lines_become_a_phrase_that_is_added_and_filled_in(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm:mill-600")
    hands.proved()
    hands.add("lines of your own")
    ident = session.selected
    session.answer(f"step:{ident}.lines", ("G0 Z{above}",))
    session.answer(f"step:{ident}.name", "Clear the part")
    hands.settle()
    window.run("step.phrase")
    assert "phrase of the shop now" in window.caption.text()
    assert session.shop.phrases[0].lines == ("G0 Z{above}",)
    hands.add("clear the part")
    made = session.selected
    assert made != ident
    assert session.job.step(made).lines == ("G0 Z{above}",)
    hands.settle()
    row = window.questions.rows[f"step:{made}.blanks"]
    assert isinstance(row, LinesRow)
    assert row.text.toPlainText() == "above = "
    row.take_focus()
    row.text.selectAll()
    hands.type("above = 60")
    hands.settle()
    assert [(b.name, b.value) for b in session.job.step(made).blanks] == [("above", "60")]
    session.answer(f"step:{ident}.blanks", session.job.step(made).blanks)
    hands.proved()
    assert "Z60" in session.proof.program.text
    window.run("step.no-phrase")
    assert session.shop.phrases == ()
    assert session.job.step(made) is not None
    session.select("stock")
    window.run("step.phrase")
    assert "lines of your own" in window.caption.text()
