"""Colours, type and the style sheet: one place, by role."""

from __future__ import annotations

import contextlib
import dataclasses
import functools
import re
import weakref
from collections.abc import Iterator
from dataclasses import dataclass, fields
from pathlib import Path
from string import Template
from typing import Literal

from PyQt6.QtCore import QByteArray, QSize, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QIcon, QPainter, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QWidget
from PyQt6.sip import isdeleted

ASSETS = Path(__file__).parent.parent / "assets"


@dataclass
class Palette:
    """Colours by role. `dark` is the ground of header and strip, `strong` that of what is chosen or to be pressed first; what
    stands on a ground is `on_` it. `shade` is metal further down, `round` metal and blue where they turn away. `hues` are those of
    tools."""

    paper: str = "#F1EFE8"
    panel: str = "#FBFAF6"
    field: str = "#FFFFFF"
    ink: str = "#1D2A33"
    soft: str = "#5B6770"
    hairline: str = "#CFCBBF"
    dark: str = "#1D2A33"
    dark_raised: str = "#22313A"
    dark_hair: str = "#42545F"
    on_dark: str = "#EDEFEF"
    on_dark_soft: str = "#A9B4BA"
    blue: str = "#2F5D9B"
    metal: str = "#D5D9DB"
    metal_deep: str = "#BFC5C9"
    jaw: str = "#7E868B"
    focus: str = "#C8470A"
    focus_tint: str = "#FDF1EA"
    removal: str = "#F2DACB"
    stop: str = "#B3261E"
    stop_on_dark: str = "#FF8A7D"
    open_on_dark: str = "#FFA97F"
    caution: str = "#B86E00"
    caution_text: str = "#8A5200"
    caution_on_dark: str = "#F3B153"
    good: str = "#2C6E49"
    good_on_dark: str = "#8FD0A8"
    setup_tint: str = "#EDF2FA"
    holding_tint: str = "#E7E4D8"
    link: str = "#2F5D9B"
    strong: str = "#1D2A33"
    on_strong: str = "#FFFFFF"
    on_focus: str = "#FFFFFF"
    focus_line: str = "#EBC9B4"
    stop_tint: str = "#FBEDEB"
    caution_tint: str = "#FBF3E4"
    good_tint: str = "#EAF3ED"
    hatch: str = "#9AA3A8"
    hatch_pale: str = "#B4BBBF"
    shade: str = "#A3ABB0"
    round_metal: str = "#AEB5BA"
    round_blue: str = "#234873"
    edge: str = "#F6E7B8"
    body: str = "#5B6770"
    track: str = "#E6E3D9"
    sky: str = "#F4F2EC"
    ground: str = "#D9DCDC"
    letters: str = "#7A4B8C"
    hues: tuple[str, ...] = (
        "#2A7F79", "#7A4B8C", "#A5582A", "#6B7A1F", "#4A6FA5", "#9C4668", "#3F7D4E", "#8A6D1B", "#5C5FA8", "#A04545",
    )  # fmt: skip


DAY = Palette()
NIGHT = Palette(
    paper="#161C20",
    panel="#1E262B",
    field="#11171A",
    ink="#E4E8E9",
    soft="#A6B1B7",
    hairline="#3C4850",
    dark="#0C1114",
    dark_raised="#131A1E",
    dark_hair="#37454E",
    blue="#3D70B4",
    link="#6FA6EC",
    metal="#4A555C",
    metal_deep="#3D474D",
    jaw="#77828A",
    focus="#FF9159",
    focus_tint="#33231A",
    removal="#6B3D26",
    stop="#FF8A7D",
    caution="#E8A33D",
    caution_text="#F0B45C",
    good="#7CC79B",
    setup_tint="#1C2A3A",
    holding_tint="#292A24",
    strong="#D9E0E3",
    on_strong="#11171A",
    on_focus="#11171A",
    focus_line="#7A4A2E",
    stop_tint="#3A201E",
    caution_tint="#352A18",
    good_tint="#1D3026",
    hatch="#6F7C84",
    hatch_pale="#5B676E",
    shade="#2C353A",
    round_metal="#333C42",
    round_blue="#2E4E77",
    edge="#8C7B45",
    body="#5B6770",
    track="#313C43",
    sky="#20282D",
    ground="#12171A",
    letters="#C79BD8",
    hues=(
        "#5FBDB5",
        "#C493D6",
        "#E29A6C",
        "#B4C554",
        "#8FB4EA",
        "#E08FB0",
        "#84C594",
        "#D3B558",
        "#A6A9EE",
        "#E69090",
    ),
)
ROLES = Palette()
"""The colours that are worn now. Whoever paints looks here while painting."""
Colours = Literal["day", "night", "desktop"]
_dressed: weakref.WeakKeyDictionary[QWidget, str] = weakref.WeakKeyDictionary()


def _put_on(palette: Palette) -> None:
    for role in fields(Palette):
        setattr(ROLES, role.name, getattr(palette, role.name))


def wear(palette: Palette) -> bool:
    """From now on these colours are worn; what was dressed for itself is dressed anew. False where they are worn already."""
    if palette == ROLES:
        return False
    _put_on(palette)
    for widget, template in list(_dressed.items()):
        if not isdeleted(widget):
            widget.setStyleSheet(_filled(template))
    return True


@contextlib.contextmanager
def wearing(palette: Palette) -> Iterator[None]:
    """These colours for as long as something is painted that is no part of the window, as a page."""
    before = dataclasses.replace(ROLES)
    _put_on(palette)
    try:
        yield
    finally:
        _put_on(before)


def dress(widget: QWidget, sheet: str) -> None:
    """A style sheet of a widget's own. Colours in it are taken for the roles that they are now, and go along when others are
    worn; a role may be written as `$focus` too."""
    template = _HEX.sub(lambda found: _role_of(found.group()), sheet)
    if _dressed.get(widget) != template:
        _dressed[widget] = template
        widget.setStyleSheet(_filled(template))


def repolish(widget: QWidget) -> None:
    """Has a widget look as its name and its properties say now."""
    style = widget.style()
    if style is not None:
        style.unpolish(widget)
        style.polish(widget)


_HEX = re.compile(r"#[0-9A-Fa-f]{6}\b")


def _role_of(tint: str) -> str:
    """`$role` of a colour that is worn; the colour itself where it is none."""
    return next((f"${role.name}" for role in fields(Palette) if getattr(ROLES, role.name) == tint), tint)


def _filled(template: str) -> str:
    return Template(template).safe_substitute({role.name: getattr(ROLES, role.name) for role in fields(Palette)})


def wanted(colours: Colours) -> Palette:
    """The palette of a choice; as the desktop has it where that is what is wanted and it says."""
    if colours == "desktop":
        hints = QGuiApplication.styleHints()
        dark = hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark
        return NIGHT if dark else DAY
    return NIGHT if colours == "night" else DAY


SANS, MONO = "B612", "B612 Mono"


def tool_hue(station: int) -> str:
    """The colour a tool has everywhere."""
    return ROLES.hues[(station - 1) % len(ROLES.hues)]


def load_fonts() -> None:
    """Makes the shipped fonts known to Qt."""
    for path in sorted((ASSETS / "fonts").glob("*.otf")):
        QFontDatabase.addApplicationFont(str(path))


def sans(size: float, *, bold: bool = False, italic: bool = False) -> QFont:
    return _font(SANS, size, bold, italic)


def mono(size: float, *, bold: bool = False, italic: bool = False) -> QFont:
    return _font(MONO, size, bold, italic)


def _font(family: str, size: float, bold: bool, italic: bool) -> QFont:
    font = QFont(family)
    font.setPixelSize(round(size))
    font.setBold(bold)
    font.setItalic(italic)
    return font


def colour(name: str, alpha: int = 255) -> QColor:
    found = QColor(name)
    found.setAlpha(alpha)
    return found


@functools.cache
def icon(name: str, tint: str, size: int = 20) -> QIcon:
    """An icon of the shipped set in one colour."""
    return QIcon(icon_pixmap(name, tint, size * 2))


@functools.cache
def icon_pixmap(name: str, tint: str, size: int) -> QPixmap:
    text = (ASSETS / "icons" / f"{name}.svg").read_text().replace("currentColor", tint)
    picture = QPixmap(QSize(size, size))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    QSvgRenderer(QByteArray(text.encode())).render(painter)
    painter.end()
    return picture


def style_sheet(p: Palette = ROLES, *, gloves: bool = False) -> str:
    """The application's style sheet. With gloves every target is at least 48 px high."""
    high = 48 if gloves else 30
    target = 48 if gloves else 0
    return f"""
    * {{ font-family: "{SANS}"; font-size: 13px; color: {p.ink}; }}
    QMainWindow, QWidget#paper {{ background: {p.paper}; }}
    QWidget#panel, QScrollArea#panel, QScrollArea#panel > QWidget > QWidget {{ background: {p.panel}; }}
    QWidget#header {{ background: {p.dark}; }}
    QWidget#header QLabel {{ color: {p.on_dark}; background: transparent; }}
    QWidget#header QLabel#soft {{ color: {p.on_dark_soft}; }}
    QPushButton#place {{ color: {p.on_dark_soft}; background: transparent; border: none; border-radius: 4px;
        padding: 0 14px; min-height: {max(32, target)}px; font-size: 14px; }}
    QPushButton#place:checked {{ color: white; background: {p.dark_hair}; font-weight: bold; }}
    QPushButton#place:hover {{ color: white; }}
    QPushButton#halt {{ color: white; background: {p.dark_hair}; border: 1px solid {p.on_dark_soft}; border-radius: 4px;
        min-height: {max(30, target)}px; padding: 0 14px; }}
    QPushButton#halt:hover {{ background: {p.stop}; }}
    QPushButton#output {{ background: {p.on_dark}; border: none; border-radius: 4px; min-height: {max(34, target)}px; padding: 0 22px;
        font-size: 14px; font-weight: bold; color: {p.dark}; }}
    QPushButton#output:hover {{ background: {p.open_on_dark}; }}
    QPushButton#output[held="true"] {{ background: {p.jaw}; color: #E8EAEA; }}
    QPushButton#output:disabled {{ background: {p.dark_hair}; color: {p.on_dark_soft}; }}
    QToolButton#dark {{ background: transparent; border: none; border-radius: 4px; padding: {14 if gloves else 5}px; }}
    QToolButton#dark:hover, QToolButton#dark:focus {{ background: {p.dark_hair}; }}
    QToolButton#dark::menu-indicator {{ image: none; width: 0; }}
    QPushButton#view {{ background: {p.panel}; border: 1px solid {p.hairline}; border-radius: 4px; min-height: {max(28, target)}px;
        padding: 0 14px; }}
    QPushButton#view:checked {{ background: {p.strong}; color: {p.on_strong}; border-color: {p.strong}; font-weight: bold; }}
    QPushButton#view:hover:!checked {{ border-color: {p.soft}; }}
    QPushButton#plain {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 4px;
        min-height: {high}px; padding: 0 14px; }}
    QPushButton#plain:hover, QPushButton#plain:focus {{ border-color: {p.focus}; }}
    QPushButton#plain:disabled {{ color: {p.jaw}; }}
    QPushButton#main {{ background: {p.strong}; color: {p.on_strong}; border: none; border-radius: 4px; min-height: {high}px;
        padding: 0 18px; font-weight: bold; }}
    QPushButton#main:hover, QPushButton#main:focus {{ background: {p.focus}; color: {p.on_focus}; }}
    QPushButton#main:disabled {{ background: {p.hairline}; color: {p.soft}; }}
    QPushButton#link {{ background: transparent; border: none; color: {p.link}; text-align: right; padding: 2px 0;
        min-height: {24 if not gloves else 48}px; }}
    QPushButton#link:hover, QPushButton#link:focus {{ text-decoration: underline; color: {p.focus}; }}
    QPushButton#choice {{ background: transparent; border: none; border-bottom: 2px solid transparent; padding: 0 4px;
        min-height: {high - 4}px; color: {p.soft}; }}
    QPushButton#choice:checked {{ color: {p.ink}; border-bottom: 2px solid {p.focus}; }}
    QPushButton#choice[computed="true"]:checked {{ font-style: italic; color: {p.soft}; border-bottom-color: {p.hairline}; }}
    QPushButton#choice:focus {{ background: {p.focus_tint}; }}
    QPushButton#choice:hover {{ color: {p.ink}; }}
    QPushButton#add {{ background: transparent; border: 1px dashed {p.jaw}; border-radius: 4px; min-height: 42px;
        font-weight: bold; }}
    QPushButton#add:hover, QPushButton#add:focus {{ border-color: {p.focus}; color: {p.focus}; }}
    QLineEdit {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 4px; padding: 0 8px;
        min-height: {high - 2}px; selection-background-color: {p.focus}; selection-color: {p.on_focus}; }}
    QLineEdit[number="true"] {{ font-size: 15px; }}
    QLineEdit[compact="true"] {{ font-size: 13px; padding: 0 3px; min-height: {48 if gloves else 24}px; }}
    QLineEdit[computed="true"] {{ font-style: italic; }}
    QLineEdit:focus {{ border: 2px solid {p.focus}; background: {p.focus_tint}; padding: 0 7px; }}
    QLineEdit[wrong="true"] {{ border: 2px solid {p.stop}; padding: 0 7px; }}
    QLineEdit#title {{ background: transparent; border: 1px solid transparent; font-size: 17px; font-weight: bold; padding: 0 2px; }}
    QLineEdit#title:hover {{ border-color: {p.hairline}; }}
    QLineEdit#title:focus {{ border: 2px solid {p.focus}; background: {p.field}; }}
    QPlainTextEdit {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 4px; font-family: "{MONO}";
        selection-background-color: {p.focus}; selection-color: {p.on_focus}; }}
    QPlainTextEdit:focus {{ border: 2px solid {p.focus}; }}
    QComboBox {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 4px; padding: 0 8px; min-height: {high - 2}px; }}
    QComboBox:focus {{ border: 2px solid {p.focus}; background: {p.focus_tint}; padding: 0 7px; }}
    QComboBox::drop-down {{ border: none; width: {high}px; }}
    QComboBox::down-arrow {{ image: url("{(ASSETS / "icons" / "chevron-down.svg").as_posix()}"); width: 16px; height: 16px; }}
    QComboBox QLineEdit, QComboBox QLineEdit:focus {{ border: none; background: transparent; padding: 0; min-height: 0; }}
    QComboBox QAbstractItemView {{ background: {p.panel}; border: 1px solid {p.jaw}; outline: none;
        selection-background-color: {p.strong}; selection-color: {p.on_strong}; }}
    QProgressBar {{ background: {p.hairline}; border: none; border-radius: 3px; max-height: 6px; }}
    QProgressBar::chunk {{ background: {p.focus}; border-radius: 3px; }}
    QLabel#group {{ color: {p.soft}; font-weight: bold; font-size: 12px; padding: 8px 0 1px 0; }}
    QFrame#hair {{ background: {p.hairline}; border: none; }}
    QLabel#soft {{ color: {p.soft}; font-size: 12px; }}
    QLabel#lit {{ color: {p.focus}; font-weight: bold; }}
    QLabel#why {{ color: {p.stop}; font-size: 12px; }}
    QLabel#alarm {{ background: {p.stop}; color: {p.field}; font-weight: bold; padding: 8px 18px; }}
    QLabel#helps {{ background: {p.focus_tint}; border: 1px solid {p.focus_line}; border-radius: 4px; padding: 5px 8px; font-size: 12px; }}
    QSlider::groove:horizontal {{ background: {p.hairline}; height: 4px; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {p.jaw}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {p.strong}; width: {16 if not gloves else 30}px; margin: {-7 if not gloves else -14}px 0;
        border-radius: {8 if not gloves else 15}px; }}
    QSlider::handle:horizontal:focus, QSlider::handle:horizontal:hover {{ background: {p.focus}; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {p.hairline}; border-radius: 4px; min-height: 32px; margin: 1px 2px; }}
    QScrollBar::handle:vertical:hover {{ background: {p.jaw}; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ background: none; height: 0; width: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; }}
    QScrollBar::handle:horizontal {{ background: {p.hairline}; border-radius: 4px; min-width: 32px; margin: 2px 1px; }}
    QScrollArea {{ border: none; background: transparent; }}
    QListWidget#picks {{ background: {p.field}; border: 1px solid {p.hairline}; border-radius: 4px; outline: none; }}
    QListWidget#picks::item {{ padding: {5 if not gloves else 10}px 6px; color: {p.ink}; }}
    QListWidget#picks::item:selected {{ background: {p.focus_tint}; color: {p.ink}; border-left: 3px solid {p.focus}; }}
    QWidget#tiles {{ background: {p.paper}; }}
    QMenu {{ background: {p.panel}; border: 1px solid {p.jaw}; padding: 4px; }}
    QMenu::item {{ padding: {8 if not gloves else 15}px 28px {8 if not gloves else 15}px 14px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {p.strong}; color: {p.on_strong}; }}
    QMenu::item:disabled {{ color: {p.jaw}; }}
    QMenu::separator {{ height: 1px; background: {p.hairline}; margin: 4px 8px; }}
    QToolTip {{ background: {p.strong}; color: {p.on_strong}; border: none; padding: 5px 8px; }}
    QTextBrowser#manual {{ background: {p.field}; color: {p.ink}; border: 1px solid {p.hairline}; border-radius: 4px;
        selection-background-color: {p.focus}; selection-color: {p.on_focus}; }}
    QFrame#lesson {{ background: {p.field}; border: 1px solid {p.focus}; border-radius: 6px; }}
    QLabel#bubble {{ background: {p.strong}; color: {p.on_strong}; border-radius: 4px; padding: 4px 10px; font-size: 15px; }}
    QProgressBar {{ background: {p.track}; border: none; border-radius: 3px; }}
    QProgressBar::chunk {{ background: {p.good}; border-radius: 3px; }}
    QFrame#explain {{ background: {p.panel}; border: 2px solid {p.strong}; border-radius: 6px; }}
    QDialog, QMessageBox {{ background: {p.panel}; }}
    QDialog#paper {{ background: {p.paper}; border: 2px solid {p.strong}; }}
    """
