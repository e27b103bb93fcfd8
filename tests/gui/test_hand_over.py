"""A part handed over in the window: made by touch alone, its drawing played, both chucks as cards, one file for both."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
import shapely
from PyQt6.QtCore import Qt

from bastler.app.hand_over_sheet import HandOverSheet
from bastler.job import ChuckHolding
from bastler.steps import HandOver, PartOff, TurnFacing

from .conftest import CTRL, Hands

KEY = Qt.Key


@pytest.fixture
def nut(hands: Hands) -> Hands:
    return hands.opened("coupling-nut")


def touch_tile(hands: Hands, title: str) -> None:
    """A finger on a tile of the board, which is moved to where it is seen."""
    board = hands.window.cards.board
    at = next(k for k, tile in enumerate(board.grid.tiles) if tile.title == title)
    middle = board.grid.corner(at).center()
    hands.click(board.grid, middle.x(), middle.y())


def touch_field(hands: Hands, address: str, keys: tuple[str, ...]) -> None:
    """A finger in a field, and on the pad."""
    row: Any = hands.window.questions.rows[address]
    hands.window.questions.area.ensureWidgetVisible(row)
    hands.click(row.field)
    for key in ("clear", *keys):
        hands.click(hands.window.pad.buttons[key])


def test_a_hand_over_is_made_by_touch_alone(hands: Hands) -> None:
    window: Any = hands.window
    session = window.session
    hands.press(KEY.Key_G, CTRL)  # gloves are put on before
    window.open_choice("new:mm:turn-mill-250")
    hands.settle()
    touch_field(hands, "stock.over_back", ("1",))
    for title in ("Face the end", "Hand over"):
        hands.click(window.route.add)
        touch_tile(hands, title)
    hand = session.selected
    assert isinstance(session.job.step(hand), HandOver)
    touch_field(hands, f"step:{hand}.grip", ("1", "8"))
    hands.click(window.route.add)
    touch_tile(hands, "Part off")
    card = window.route.cards["holding:h2"]
    window.route.area.ensureWidgetVisible(card)
    hands.click(card)
    hands.click(window.route.add)
    touch_tile(hands, "Face the end")
    hands.proved()
    first, second = session.job.holdings
    assert [type(s) for s in first.steps] == [TurnFacing, HandOver, PartOff]
    assert [type(s) for s in second.steps] == [TurnFacing]
    assert session.plan.step(hand).filled.grip == 18.0
    assert session.whole.verdict == "proved", session.whole.remarks
    hands.click(window.header.button)
    hands.click(window.program.output.button)
    files = list(Path.home().glob("*.nc"))
    assert len(files) == 1, "both spindles in one"
    text = files[0].read_text(encoding="utf-8")
    assert text.index("G31 W") < text.index("M24") < text.index("G55 G0")


def test_the_hand_over_is_played(nut: Hands) -> None:
    window: Any = nut.window
    session, sheet = window.session, window.sheet
    session.select("s6")
    nut.settle()
    assert not sheet.play.isVisible()
    session.select("s7")
    nut.settle()
    assert isinstance(sheet.drawing, HandOverSheet)
    assert sheet.play.isVisible()
    two = session.held.turned.second
    assert sheet.drawing._w(two) == pytest.approx(two.w_gripped), "as long as nothing is played it stands where it takes hold"
    nut.click(sheet.play)
    assert session.playing
    session.stop()
    stages = [stage for stage in session.proof.stages if stage.step == "s7"]
    for stage, closed, away in ((stages[1], False, False), (stages[-1], True, True)):
        session.seek(stage.t0 + 0.5 * (stage.t1 - stage.t0))
        nut.settle()
        assert sheet.drawing._closed() == closed
        w = sheet.drawing._w(two)
        assert two.w_gripped < w < two.home, "on its way"
        nut.until(lambda: sheet.drawing._stock_now() is not None)
        assert (shapely.get_num_geometries(sheet.drawing._stock_now()) > 1) == away, "the part and the bar"


def test_both_chucks_are_cards_and_have_their_own_questions(nut: Hands) -> None:
    window: Any = nut.window
    session = window.session
    cards = session.cards()
    assert cards.index("s8") < cards.index("holding:h2") < cards.index("s9")
    session.select("holding:h2")
    nut.settle()
    asked = [row.question.says for row in window.questions.rows.values()]
    assert "Sticks out of the jaws" not in asked, "that follows from the hand-over"
    assert "Tailstock centre" not in asked
    assert "Jaws reach to Ø" in asked
    held = session.held
    assert isinstance(held.holding, ChuckHolding)
    assert held.turned.raw.bounds[0] == pytest.approx(-40.0)
    assert held.turned.second is None
    session.select("s13")
    nut.settle()
    assert session.held.holding.id == "h2"


def test_what_is_cut_behind_the_hand_over_is_drawn_between_both_chucks(nut: Hands) -> None:
    sheet: Any = nut.window.sheet
    around = nut.window.session.held.turned
    for step, many in (("s6", 0), ("s8", 2)):
        nut.window.session.select(step)
        nut.settle()
        assert len(sheet.drawings["turned"]._opposite(around)) == many


def test_a_part_is_turned_round_by_hand_by_a_key(hands: Hands) -> None:
    window: Any = hands.window
    session = window.session
    window.open_choice("new:mm:lathe-200")
    hands.settle()
    hands.add("face the end")
    hands.press(KEY.Key_T, CTRL)
    assert [h.follows for h in session.job.holdings] == ["first", "over"]
    hands.add("face the end")
    hands.proved()
    assert len(session.job.holdings[1].steps) == 1
    assert [len(group) for group in session.job.programs] == [1, 1]
    hands.press(KEY.Key_Z, CTRL)
    hands.press(KEY.Key_Z, CTRL)
    assert len(session.job.holdings) == 1


def test_without_a_second_spindle_no_hand_over_is_offered(hands: Hands) -> None:
    window: Any = hands.window
    for machine, offered in (("lathe-driven", False), ("turn-mill-250", True)):
        window.open_choice(f"new:mm:{machine}")
        hands.settle()
        hands.press(KEY.Key_Return, CTRL)
        titles = {tile.title for tile in window.cards.board.grid.tiles}
        assert ("Hand over" in titles) == offered
        hands.press(KEY.Key_Escape)
