"""The look: contrast, fonts, icons, and that nothing is cut off at the size of a panel."""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import fields

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFontDatabase
from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QWidget

from bastler.app.theme import ASSETS, DAY, MONO, NIGHT, ROLES, SANS, Colours, Palette, icon

from .conftest import Hands, QTest


def luminance(name: str) -> float:
    """WCAG 2.1 relative luminance."""
    parts = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in QColor(name).getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one: str, other: str) -> float:
    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


def pairs(p: Palette) -> list[tuple[str, str]]:
    """Words and what they stand on."""
    on_light = [
        (text, ground)
        for text in ("ink", "soft", "focus", "stop", "good", "link", "caution_text")
        for ground in ("panel", "field")
    ]
    on_dark = [
        (text, ground)
        for text in ("on_dark", "on_dark_soft", "stop_on_dark", "good_on_dark")
        for ground in ("dark", "dark_raised")
    ]
    rest = [
        ("ink", "paper"), ("soft", "paper"), ("caution_on_dark", "dark_raised"), ("open_on_dark", "dark"),
        ("on_strong", "strong"), ("on_focus", "focus"), ("ink", "focus_tint"), ("ink", "setup_tint"), ("ink", "holding_tint"),
        ("soft", "setup_tint"), ("link", "panel"), ("link", "paper"),
        ("ink", "stop_tint"), ("ink", "caution_tint"), ("ink", "good_tint"), ("letters", "panel"), ("field", "stop"),
    ]  # fmt: skip
    named = [(getattr(p, text), getattr(p, ground)) for text, ground in (*on_light, *on_dark, *rest)]
    return [*named, *((hue, p.panel) for hue in p.hues)]


@pytest.mark.parametrize(
    ("text", "ground"),
    [pytest.param(*pair, id=f"{name} {k}") for name, p in (("day", DAY), ("night", NIGHT)) for k, pair in enumerate(pairs(p))],
)
def test_text_can_be_read(text: str, ground: str) -> None:
    assert contrast(text, ground) >= 4.5


def test_a_night_has_every_role_of_a_day_and_other_colours_for_most() -> None:
    changed = [role.name for role in fields(Palette) if getattr(DAY, role.name) != getattr(NIGHT, role.name)]
    assert len(changed) > 30
    assert len(NIGHT.hues) == len(DAY.hues)


def test_the_shipped_fonts_and_icons_are_used(demo: Hands) -> None:
    assert {SANS, MONO} <= set(QFontDatabase.families())
    for path in (ASSETS / "icons").glob("*.svg"):
        assert not icon(path.stem, ROLES.ink).isNull()
    assert (ASSETS / "fonts" / "LICENSE-OFL.txt").read_text().count("SIL OPEN FONT LICENSE")
    assert "ISC License" in (ASSETS / "icons" / "LICENSE-ISC.txt").read_text()


@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_no_words_are_cut_off(size: tuple[int, int], demo: Hands) -> None:
    window = demo.window
    window.resize(*size)
    for place in ("bench", "program"):
        window.go_to(place)
        for ident in window.session.cards():
            window.session.select(ident)
            QTest.qWait(5)
            for widget in window.findChildren(QWidget):
                if isinstance(widget, QLabel | QAbstractButton) and widget.isVisible() and widget.text():
                    wraps = isinstance(widget, QLabel) and widget.wordWrap()
                    need = widget.minimumSizeHint().width() if not wraps else 0
                    assert widget.width() >= need, f"{widget.text()} in {place}, {ident}"


def test_every_place_has_room_on_a_small_screen_with_a_title_bar(demo: Hands) -> None:
    window = demo.window
    for place in ("start", "bench", "crib", "program"):
        window.go_to(place)
        QTest.qWait(5)
        need = window.places.currentWidget().minimumSizeHint()
        assert need.width() <= 1280, place
        assert window.minimumSizeHint().height() <= 760, place


def test_every_button_says_what_it_does(demo: Hands) -> None:
    for button in demo.window.findChildren(QAbstractButton):
        if button.isVisible():
            assert button.text() or button.accessibleName() or button.toolTip()


SPAN = re.compile(r"color:\s*(#[0-9A-Fa-f]{6})")


def words_on(window: QWidget) -> list[tuple[str, str, str, str]]:
    """Every widget with words that is seen: what it is, its words, their colour, and the colour that most of it has."""
    seen = window.grab().toImage()
    found = []
    for widget in window.findChildren(QWidget):
        text = getattr(widget, "text", None)
        if not isinstance(widget, QLabel | QAbstractButton | QLineEdit) or not widget.isVisible() or not widget.isEnabled():
            continue
        words = text() if callable(text) else ""
        corner = widget.mapTo(window, widget.rect().topLeft())
        box = widget.visibleRegion().boundingRect().translated(corner).intersected(window.rect())
        if not words.strip() or widget.visibleRegion().isEmpty() or box.width() < 4 or box.height() < 4:
            continue
        counted = Counter(
            seen.pixelColor(x, y).name()
            for x in range(box.left() + 2, box.right() - 1, 3)
            for y in range(box.top() + 2, box.bottom() - 1, 2)
        )
        if not counted:
            continue
        ground = counted.most_common(1)[0][0]
        marked = SPAN.findall(words)
        own = widget.palette().color(widget.foregroundRole()).name()
        if isinstance(widget, QAbstractButton) and widget.isChecked():  # its palette says nothing of that state
            own = max((contrast(tint, ground), tint) for tint in counted)[1]
        if isinstance(widget, QLineEdit) and widget.hasSelectedText():
            continue  # what is chosen has colours of its own, looked at above
        plain = re.sub(r"<[^>]*>[^<]*</[^>]*>|<[^>]*>", "", words).strip()
        for tint in [*marked, *([own] if plain or not marked else [])]:
            found.append((type(widget).__name__, words[:60], tint, ground))
    return found


@pytest.mark.parametrize("colours", ["day", "night"])
def test_all_words_of_every_place_can_be_read(colours: Colours, demo: Hands) -> None:
    """Contrast of 4.5 : 1, as the window has it, not as its style sheet means it."""
    window = demo.window
    window.take_colours(colours)
    demo.proved()
    pale = set()
    for place, arrange in {
        "bench": lambda: window.questions.take_focus("step:s2.ap"),
        "board": window.cards.open_board,
        "program": lambda: None,
        "crib": lambda: window.crib.select("tools", "end-16"),
        "machine": lambda: None,
        "start": lambda: None,
    }.items():
        window.go_to("bench" if place == "board" else place)
        arrange()
        demo.settle()
        QTest.qWait(60)
        for kind, words, tint, ground in words_on(window):
            if contrast(tint, ground) < 4.5:
                pale.add(f"{place}: {kind} {words!r} {tint} on {ground}: {contrast(tint, ground):.2f}")
    window.take_colours("desktop")
    assert sorted(pale) == []


def test_all_that_the_keyboard_comes_to_has_a_name_for_a_screen_reader(demo: Hands) -> None:
    """A name of its own, or the words on it."""
    window = demo.window
    nameless = set()
    for place in ("bench", "board", "explained", "finder", "program", "crib", "machine", "start"):
        window.go_to("bench" if place in ("board", "explained", "finder") else place)
        if place == "board":
            window.cards.open_board()
        if place == "explained":
            window.questions.take_focus("step:s2.ap")
            window.explain()
        if place == "finder":
            window.find_anything()
        demo.settle()
        for widget in window.findChildren(QWidget):
            reached = widget.focusPolicy() != Qt.FocusPolicy.NoFocus or isinstance(widget, QAbstractButton)
            words = widget.text() if isinstance(widget, QAbstractButton) else ""
            if widget.isVisible() and reached and not (widget.accessibleName() or words).strip():
                nameless.add(f"{place}: {type(widget).__name__} {widget.objectName()}")
        window.finder.leave()
    assert sorted(nameless) == []


def test_other_colours_are_worn_while_one_job_follows_another(hands: Hands) -> None:
    """Also with the crib shown of a tool that the next job has not."""
    window = hands.window
    hands.opened("fixture-of-six")
    window.go_to("crib")
    window.crib.select("tools", window.session.job.tools[1].id)
    turns: tuple[tuple[Colours, str], ...] = (("night", "bearing-cap"), ("day", "drum-spindle"), ("desktop", "pawl-shaft"))
    for colours, name in turns:
        window.take_colours(colours)
        hands.opened(name)
        window.questions.take_focus()
        hands.settle()
        assert window.session.job.name
