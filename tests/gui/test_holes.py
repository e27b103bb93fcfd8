"""A plate with threaded and reamed holes, made from nothing by keys."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt

from bastler.job import answering

from .conftest import CTRL, Hands

KEY = Qt.Key


def step_on_board(hands: Hands, words: str) -> str:
    """A feature from the board by typing; gives the id of the new step."""
    ident = hands.add(words)
    hands.proved()
    return ident


def test_drilled_countersunk_and_tapped_on_one_pattern(hands: Hands) -> None:
    """Three steps share the positions: the tap finds the holes, and a change of the pattern moves all three."""
    window = hands.window
    window.open_choice("new:mm")
    hands.proved()
    step_on_board(hands, "face")
    drill = step_on_board(hands, "drill holes")
    sink = step_on_board(hands, "countersink")
    tap = step_on_board(hands, "tap")
    session = window.session
    assert [type(s).__name__ for s in session.job.steps] == ["Facing", "Drilling", "Countersink", "Tapping"]
    assert len(session.job.patterns) == 1
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks
    assert any("G84" in line for line in session.proof.program.lines)

    pattern = session.job.patterns[0].id
    before = [done.summary for done in session.plan.steps]
    session.edit(answering.answered(session.job, f"pattern:{pattern}.count", 3), "Three holes")
    hands.proved()
    assert all(session.job.step(s).pattern == pattern for s in (drill, sink, tap))
    after = [done.summary for done in session.plan.steps]
    assert [a.split(" ×")[0] for a in after[1:]] == ["3", "3", "3"]
    assert before[1:] != after[1:]
    assert session.proof.proved


def test_a_tap_that_would_bottom_out_offers_what_fits(hands: Hands) -> None:
    window = hands.window
    window.open_choice("new:mm")
    hands.proved()
    step_on_board(hands, "face")
    step_on_board(hands, "drill holes")
    tap = step_on_board(hands, "tap")
    session = window.session
    hands.go_to(f"step:{tap}.depth")
    hands.type("25")
    hands.press(KEY.Key_Return)
    hands.until(lambda: bool(session.plan.step(tap).troubles))
    (trouble,) = session.plan.step(tap).troubles
    assert trouble.field == "depth"
    assert "bottom out" in trouble.text
    session.answer(f"step:{tap}.depth", trouble.fits)
    hands.proved()
    assert session.proof is not None
    assert session.proof.proved


def test_every_new_figure_is_on_the_board_and_proves(hands: Hands) -> None:
    window = hands.window
    window.open_choice("new:mm")
    hands.proved()
    step_on_board(hands, "face")
    for words in ("rectangle o", "round p", "slot", "ring", "polygon p"):
        step_on_board(hands, words)
        session = window.session
        assert session.proof is not None
        assert session.proof.proved, (words, session.proof.remarks)
        assert session.plan.step(session.selected).stages
        session.undo()
        hands.proved()


def test_a_finished_hole_from_nothing(hands: Hands) -> None:
    """An M8 thread, then the same holes for a screw, and one position left out by clicking it."""
    window = hands.window
    window.open_choice("new:mm")
    hands.proved()
    step_on_board(hands, "face")
    hole = step_on_board(hands, "finished")
    session = window.session

    def stages() -> list[str]:
        return list(session.plan.step(hole).stages)

    assert stages() == ["spot", "drill", "tap"]
    hands.go_to(f"step:{hole}.thread")
    hands.type("M10")
    hands.press(KEY.Key_Return)
    hands.proved()
    assert stages() == ["spot", "drill", "chamfer", "tap"]
    assert session.proof is not None
    assert session.proof.proved, session.proof.remarks

    work = window.questions.rows[f"step:{hole}.work"]
    hands.click(work.buttons["screw"])  # type: ignore[attr-defined]
    hands.proved()
    row = window.questions.rows[f"step:{hole}.thread"]
    row.take_focus()
    hands.type("M6")
    hands.press(KEY.Key_Return)
    hands.proved()
    assert stages() == ["spot", "drill", "counterbore"]
    assert session.proof.proved, session.proof.remarks

    before = session.plan.step(hole).summary
    at = window.sheet.spots[2]
    hands.click(window.sheet, at.x(), at.y())
    hands.proved()
    assert session.job.patterns[0].left_out == (2,)
    assert session.plan.step(hole).summary != before
    hands.press(KEY.Key_Z, CTRL)
    hands.proved()
    assert session.job.patterns[0].left_out == ()


def test_positions_come_from_a_list_and_a_bad_list_is_said(hands: Hands, tmp_path: Path) -> None:
    window = hands.window
    window.open_choice("new:mm")
    hands.proved()
    step_on_board(hands, "face")
    drill = step_on_board(hands, "drill holes")
    session = window.session
    good, bad = tmp_path / "cap holes.csv", tmp_path / "bad.csv"
    good.write_text("X;Y\n20;20\n40,5;20\n61;33\n")
    bad.write_text("20;20\n40;forty\n")
    window.desk.read_places(good, f"step:{drill}.pattern")
    hands.proved()
    assert session.job.patterns[0].name == "cap holes"
    assert session.plan.step(drill).summary.startswith("3 ×")
    assert session.proof is not None
    assert session.proof.proved
    kept = session.job
    window.desk.read_places(bad, f"step:{drill}.pattern")
    assert session.job is kept
    assert "line 2" in window.caption.text()
