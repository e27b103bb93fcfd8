"""Engraving, several parts, repetitions, the better order and the slider, by keys and clicks."""

from __future__ import annotations

from PyQt6.QtCore import Qt

from bastler.job import answering, plan

from .conftest import ALT, CTRL, Hands
from .test_holes import step_on_board

KEY = Qt.Key


def begun(hands: Hands, *features: str) -> list[str]:
    """A new part with a faced top and some features from the board; gives their ids."""
    hands.window.open_choice("new:mm:mill-600")
    hands.proved()
    step_on_board(hands, "face")
    return [step_on_board(hands, words) for words in features]


def test_a_number_is_engraved_and_counts_on_when_the_program_goes_out(hands: Hands) -> None:
    window = hands.window
    (text,) = begun(hands, "engrave")
    session = window.session
    hands.go_to(f"step:{text}.text")
    hands.type("BASE ###")
    hands.press(KEY.Key_Return)
    hands.proved()
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert session.plan.step(text).summary.startswith("“BASE 001”")
    window.program.output.saved.emit("/tmp/base.nc")
    hands.proved()
    assert session.plan.step(text).summary.startswith("“BASE 002”")
    hands.press(KEY.Key_Z, CTRL)
    assert session.plan.step(text).summary.startswith("“BASE 001”")
    hands.proved()


def test_a_grid_of_parts_is_proved_and_shown(hands: Hands) -> None:
    window = hands.window
    begun(hands, "round p")
    session = window.session
    session.edit(answering.answered(session.job, "holding:h1.vise", "no"), "No vise")
    session.edit(answering.answered(session.job, "stock.size_x", 60.0), "Small")
    session.edit(answering.answered(session.job, "stock.size_y", 50.0), "Small")
    session.select("holding:h1")
    hands.proved()
    row = window.questions.rows["holding:h1.parts"]
    hands.click(row.buttons["grid"])  # type: ignore[attr-defined]
    hands.proved()
    assert "holding:h1.columns" in window.questions.rows
    assert session.proof.proved, session.proof.remarks
    assert session.proof.parts == 6
    assert "6 parts" in window.header.tools.text()
    window.view("solid")
    hands.until(lambda: window.solid.shown)
    if window.solid.scene:
        assert sum(bool(a.GetVisibility()) for a in window.solid.scene.others) == 5
    window.view("path")
    hands.proved()


def test_a_run_of_steps_is_repeated(hands: Hands) -> None:
    window = hands.window
    pocket, again = begun(hands, "round p", "repeat")
    session = window.session
    for field, value in (("x", 30.0), ("y", 30.0), ("diameter", 24.0)):
        session.edit(answering.answered(session.job, f"step:{pocket}.{field}", value), "Place it")
    hands.proved()
    hands.go_to(f"step:{again}.column_pitch")
    hands.type("40")
    hands.press(KEY.Key_Return)
    hands.proved()
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert len(plan(session.job).step(again).removals) == 1
    row = window.questions.rows[f"step:{again}.how"]
    hands.click(row.buttons["mirrored"])  # type: ignore[attr-defined]
    hands.proved()
    assert f"step:{again}.at_x" in window.questions.rows
    assert session.proof.proved, session.proof.remarks


def test_a_better_order_is_offered_and_only_taken_when_asked(hands: Hands) -> None:
    window = hands.window
    one, two, three = begun(hands, "round p", "round p", "round p")
    session = window.session
    for step, x, tool in ((one, 30.0, "end-10"), (two, 75.0, "end-6"), (three, 120.0, "end-10")):
        for field, value in (("x", x), ("diameter", 24.0), ("tool", tool), ("finish", "no")):
            session.edit(answering.answered(session.job, f"step:{step}.{field}", value), "Place it")
    hands.proved()
    before = [s.id for s in session.job.steps]
    hands.press(KEY.Key_G, ALT)
    assert window.cards.order_menu is not None
    assert "1 tool change fewer" in window.cards.order_menu.actions()[0].text()
    assert [s.id for s in session.job.steps] == before
    window.cards.order_menu.actions()[0].trigger()
    window.cards.order_menu.close()
    hands.proved()
    assert [s.id for s in session.job.steps] == [before[0], one, three, two]
    window.cards.order_menu = None
    hands.press(KEY.Key_G, ALT)
    assert window.cards.order_menu is None


def test_a_better_order_is_looked_for_on_a_lathe_and_not_before_every_step_can_be_cut(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm:lathe-200")
    hands.proved()
    for place, words in enumerate(("face", "groove", "centre line", "groove")):
        ident = step_on_board(hands, words)
        if words == "groove":
            session.edit(answering.answered(session.job, f"step:{ident}.z", -10.0 * place), "Place it")
    hands.proved()
    before = [s.id for s in session.job.steps]
    hole = before[2]
    drilled = answering.answered(session.job, f"step:{hole}.work", "drill")
    session.edit(answering.answered(drilled, f"step:{hole}.diameter", 7.77), "No such drill")
    hands.proved()
    hands.press(KEY.Key_G, ALT)
    assert window.cards.order_menu is None
    assert "comes first" in window.caption.text()
    hands.press(KEY.Key_Z, CTRL)
    hands.proved()
    hands.press(KEY.Key_G, ALT)
    hands.until(lambda: window.cards.order_menu is not None)
    assert window.cards.order_menu is not None
    assert "1 tool change fewer" in window.cards.order_menu.actions()[0].text()
    window.cards.order_menu.actions()[0].trigger()
    window.cards.order_menu.close()
    hands.proved()
    assert [s.id for s in session.job.steps] == [before[0], before[1], before[3], hole]


def test_the_slider_moves_the_proposals_and_says_where_they_come_from(hands: Hands) -> None:
    window = hands.window
    (pocket,) = begun(hands, "round p")
    session = window.session
    before = session.plan.step(pocket).filled.vc
    session.select("stock")
    row = window.questions.rows["stock.pace"]
    row.take_focus()
    for _ in range(3):
        hands.press(KEY.Key_Right)
    hands.proved()
    assert session.job.stock.pace == 65.0
    session.select(pocket)
    assert session.plan.step(pocket).filled.vc > before
    window.questions.take_focus(f"step:{pocket}.vc")
    helps = window.questions.rows[f"step:{pocket}.vc"].helps
    hands.until(lambda: helps.isVisible() and "carbide in Aluminium" in helps.text())


def test_lines_by_hand_and_a_stop_go_into_the_program(hands: Hands) -> None:
    window = hands.window
    stop, lines = begun(hands, "stop", "lines of")
    session = window.session
    window.questions.take_focus(f"step:{lines}.lines")
    hands.press(KEY.Key_A, CTRL)
    hands.type("G0 Z40")
    hands.proved()
    assert session.job.step(lines).lines == ("G0 Z40",)
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert "M0" in session.proof.program.lines
    assert session.plan.step(stop).stages
