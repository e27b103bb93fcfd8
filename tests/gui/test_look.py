"""The look: contrast, fonts, icons, and that nothing is cut off at the size of a panel."""

from __future__ import annotations

import pytest
from PyQt6.QtGui import QColor, QFontDatabase
from PyQt6.QtWidgets import QAbstractButton, QLabel, QWidget

from bastler.app.theme import ASSETS, DAY, MONO, SANS, TOOL_HUES, icon

from .conftest import Hands, QTest


def luminance(name: str) -> float:
    """WCAG 2.1 relative luminance."""
    parts = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in QColor(name).getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(one: str, other: str) -> float:
    a, b = sorted((luminance(one), luminance(other)), reverse=True)
    return (a + 0.05) / (b + 0.05)


@pytest.mark.parametrize(
    ("text", "ground"),
    [
        (DAY.ink, DAY.paper),
        (DAY.ink, DAY.panel),
        (DAY.soft, DAY.panel),
        (DAY.soft, DAY.paper),
        (DAY.focus, DAY.panel),
        (DAY.stop, DAY.panel),
        (DAY.good, DAY.panel),
        (DAY.blue, DAY.panel),
        (DAY.caution_text, DAY.panel),
        (DAY.on_dark, DAY.dark),
        (DAY.on_dark_soft, DAY.dark_raised),
        (DAY.stop_on_dark, DAY.dark_raised),
        (DAY.caution_on_dark, DAY.dark_raised),
        (DAY.good_on_dark, DAY.dark),
        *((hue, DAY.field) for hue in TOOL_HUES),
    ],
)
def test_text_can_be_read(text: str, ground: str) -> None:
    assert contrast(text, ground) >= 4.5


def test_the_shipped_fonts_and_icons_are_used(demo: Hands) -> None:
    assert {SANS, MONO} <= set(QFontDatabase.families())
    for path in (ASSETS / "icons").glob("*.svg"):
        assert not icon(path.stem).isNull()
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
