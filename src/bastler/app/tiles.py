"""A grid of pictured tiles to pick from with keys, touch or mouse; the board and the tool list are made of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.fields import WordField
from bastler.app.labels import Label, Marked, escape
from bastler.app.theme import ROLES, sans
from bastler.language import sayable, tr

GAP = 12
TWO_LINES = 30.0
"""What the words of a tile have room for, in pixels."""
DIGITS = "123456789"
KEYS = sayable("Digits or arrows pick, Enter takes, Esc goes back.")


@dataclass(frozen=True)
class Tile:
    """One thing to pick: its key, words, the group it is in, and how it is drawn. `aside` is what else can be done with it, on a
    corner of the tile or with Delete, pressed twice."""

    key: str
    title: str
    says: str
    group: str
    draw: Callable[[QPainter, QRectF], None]
    warns: str = ""
    aside: str = ""


class TileGrid(QWidget):
    """The painted tiles."""

    taken = pyqtSignal(str)
    aside = pyqtSignal(str)
    lit = pyqtSignal()

    def __init__(self, width: int, height: int, *, words: bool, numbers: bool = True) -> None:
        """`words` says what each is for; `numbers` are shown where digits pick."""
        super().__init__()
        self.numbers = numbers
        self.tile_width, self.tile_height, self.words = width, height, words
        self.tiles: Sequence[Tile] = ()
        self.at = 0
        self.asked = -1
        self.boxes: list[QRectF] = []
        self.heads: list[tuple[float, float, str]] = []
        self.setMouseTracking(True)
        self.setObjectName("tiles")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    def show_tiles(self, tiles: Sequence[Tile], at: int = 0) -> None:
        self.tiles, self.asked = tiles, -1
        self.lay()
        self.light(max(0, min(at, len(tiles) - 1)))

    def light(self, at: int) -> None:
        """The tile that Enter would take."""
        self.at = at
        self.asked = self.asked if self.asked == at else -1
        self.update()
        self.lit.emit()

    def put_aside(self, at: int) -> None:
        """The other thing that can be done with a tile: asked for once it is offered, twice it is done."""
        if not (0 <= at < len(self.tiles) and self.tiles[at].aside):
            return
        if self.asked == at:
            self.asked = -1
            self.aside.emit(self.tiles[at].key)
        else:
            self.asked = at
            self.light(at)

    def corner(self, at: int) -> QRectF:
        """Where on a tile the other thing is pressed."""
        box = self.boxes[at]
        wide = 150.0 if self.asked == at else 96.0
        return QRectF(box.right() - wide - 6, box.top() + 6, wide, 34.0)

    @property
    def columns(self) -> int:
        return max(1, (self.width() + GAP) // (self.tile_width + GAP))

    def lay(self) -> None:
        """Works out where the tiles are. A row that goes on with the one group of the row above is not named again."""
        self.boxes, self.heads = [], []
        below, over = (GAP, 24.0) if self.words else (GAP / 3, 20.0)
        down, group = 0.0, ""
        for first in range(0, len(self.tiles), self.columns):
            row = self.tiles[first : first + self.columns]
            begins = [k for k, tile in enumerate(row) if tile.group != (row[k - 1].group if k else group)]
            if row[0].group and begins and 0 not in begins:
                begins.insert(0, 0)
            down += over if begins else 0.0
            lefts = [column * (self.tile_width + GAP) + 2.0 for column in range(len(row))]
            self.heads += [(lefts[k], down - 8, row[k].group) for k in begins]
            self.boxes += [QRectF(left, down + 2, self.tile_width, self.tile_height) for left in lefts]
            down += self.tile_height + below
            group = row[0].group if len({tile.group for tile in row}) == 1 else ""
        self.setMinimumHeight(int(self.boxes[-1].bottom() + (6 if self.words else 2)) if self.boxes else 0)
        self.update()

    def resizeEvent(self, event: object) -> None:
        self.lay()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.paper))
            painter.setFont(sans(12, bold=True))
            painter.setPen(QColor(ROLES.soft))
            for x, y, text in self.heads:
                painter.drawText(QPointF(x, y), text.upper())
            for k, (tile, box) in enumerate(zip(self.tiles, self.boxes, strict=True)):
                self._tile(painter, tile, box, k)

    def _tile(self, painter: QPainter, tile: Tile, box: QRectF, k: int) -> None:
        lit = k == self.at
        painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.hairline), 2 if lit else 1))
        painter.setBrush(QColor(ROLES.field))
        painter.drawRoundedRect(box, 4, 4)
        if self.words:
            self._with_words(painter, tile, box)
        else:
            self._with_name(painter, tile, box)
        if tile.aside:
            self._aside(painter, tile, k)
        if k < 9 and self.numbers:
            painter.setFont(sans(12, bold=True))
            painter.setPen(QColor(ROLES.soft))
            low = box.bottom() - 52 - self._raised(painter, tile, box) if self.words else box.top() + 4
            painter.setFont(sans(12, bold=True))
            painter.drawText(QRectF(box.right() - 26, low, 18, 18), Qt.AlignmentFlag.AlignRight, str(k + 1))

    def _aside(self, painter: QPainter, tile: Tile, k: int) -> None:
        asked, corner = self.asked == k, self.corner(k)
        painter.setPen(QPen(QColor(ROLES.stop if asked else ROLES.hairline), 1))
        painter.setBrush(QColor(ROLES.stop if asked else ROLES.panel))
        painter.drawRoundedRect(corner, 4, 4)
        painter.setPen(QColor(ROLES.field if asked else ROLES.soft))
        painter.setFont(sans(12, bold=asked))
        text = tr("{aside} for good?", aside=tile.aside) if asked else tile.aside
        painter.drawText(corner, Qt.AlignmentFlag.AlignCenter, text)

    def _raised(self, painter: QPainter, tile: Tile, box: QRectF) -> float:
        """How much more room than two lines a reason wants: it is told whole, the picture is so much smaller."""
        if not tile.warns:
            return 0.0
        painter.setFont(sans(11))
        room = QRectF(0.0, 0.0, box.width() - 20, 200.0)
        high = painter.boundingRect(room, int(Qt.TextFlag.TextWordWrap), tile.warns).height()
        return min(max(high - TWO_LINES, 0.0), box.height() / 2)

    def _with_words(self, painter: QPainter, tile: Tile, box: QRectF) -> None:
        top, up = 44 if tile.aside else 14, self._raised(painter, tile, box)
        tile.draw(painter, QRectF(box.left() + 16, box.top() + top, box.width() - 32, box.height() - 58 - top - up))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QColor(ROLES.ink))
        painter.setFont(sans(14, bold=True))
        head = painter.fontMetrics().elidedText(tile.title, Qt.TextElideMode.ElideRight, int(box.width() - 44))
        painter.drawText(QPointF(box.left() + 12, box.bottom() - 38 - up), head)
        painter.setFont(sans(11))
        painter.setPen(QColor(ROLES.stop if tile.warns else ROLES.soft))
        words = QRectF(box.left() + 12, box.bottom() - 33 - up, box.width() - 20, TWO_LINES + up)
        painter.drawText(words, Qt.TextFlag.TextWordWrap, tile.warns or tile.says)

    def _with_name(self, painter: QPainter, tile: Tile, box: QRectF) -> None:
        """Small: the picture and what it is called; what it does is said under the grid."""
        side = 22.0
        tile.draw(painter, QRectF(box.left() + side, box.top() + 8, box.width() - 2 * side, box.height() - 43))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QColor(ROLES.ink))
        painter.setFont(sans(12, bold=True))
        words = QRectF(box.left() + 3, box.bottom() - 34, box.width() - 6, 32)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, tile.title)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event:
            over = next((k for k, box in enumerate(self.boxes) if box.contains(event.position())), self.at)
            if over != self.at:
                self.light(over)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event:
            over = next((k for k, box in enumerate(self.boxes) if box.contains(event.position())), None)
            if over is None:
                return
            if self.tiles[over].aside and self.corner(over).contains(event.position()):
                self.put_aside(over)
            else:
                self.taken.emit(self.tiles[over].key)


class _Search(WordField):
    """Typing filters; arrows, digits and Enter pick."""

    went = pyqtSignal(int, int)
    digit = pyqtSignal(int)
    escape = pyqtSignal()
    aside = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        arrows = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() in arrows:
            self.went.emit(*arrows[Qt.Key(event.key())])
        elif event.text() in DIGITS and event.text() and not self.text():
            self.digit.emit(int(event.text()))
        elif event.key() == Qt.Key.Key_Escape:
            self.escape.emit()
        elif event.key() == Qt.Key.Key_Delete and not self.text():
            self.aside.emit()
        else:
            super().keyPressEvent(event)


def _matches(words: str, typed: str) -> bool:
    """Does every word that was typed begin one of the words?"""
    return all(any(word.startswith(part) for word in words.lower().split()) for part in typed.lower().split())


class TilePicker(QWidget):
    """Lies over the middle of the bench while something is picked."""

    picked = pyqtSignal(str)
    aside = pyqtSignal(str)
    closed = pyqtSignal()

    def __init__(self, width: int = 188, height: int = 168, *, words: bool = True) -> None:
        """With `words` every tile says what it is for, else the lit one does, in the line below."""
        super().__init__()
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title = Label()
        self.title.setFont(sans(18, bold=True))
        self.title.setStyleSheet("font-size: 18px; font-weight: bold;")
        self.search = _Search()
        self.search.setPlaceholderText(tr("type to find"))
        self.search.setMinimumWidth(140)
        self.search.setMaximumWidth(220)
        self.search.setAccessibleName(tr("Find"))
        close = QPushButton(tr("Close"))
        close.setObjectName("plain")
        close.setToolTip(tr("Back without picking (Esc)"))
        close.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        close.clicked.connect(self.closed)
        row = QHBoxLayout()
        row.setSpacing(GAP)
        row.addWidget(self.title, 1)
        row.addWidget(self.search)
        row.addWidget(close)
        self.grid = TileGrid(width, height, words=words)
        self.grid.taken.connect(self.picked)
        self.grid.aside.connect(self.aside)
        self.grid.lit.connect(self._say)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.area.setWidget(self.grid)
        self.hint = Marked(tr(KEYS))
        self.hint.setObjectName("soft")
        self.hint.setWordWrap(True)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(22, 16, 22, 10)
        whole.setSpacing(12)
        whole.addLayout(row)
        whole.addWidget(self.area, 1)
        below = QVBoxLayout()
        below.setSpacing(2)
        below.addWidget(self.hint)
        if not words:
            keys = Label(tr(KEYS))
            keys.setObjectName("soft")
            below.addWidget(keys)
        whole.addLayout(below)
        self._all: Sequence[Tile] = ()
        self.search.textChanged.connect(self._filter)
        self.search.went.connect(self._go)
        self.search.digit.connect(self._digit)
        self.search.entered.connect(lambda _: self._enter())
        self.search.escape.connect(self.closed)
        self.search.aside.connect(lambda: self.grid.put_aside(self.grid.at))

    def offer(self, title: str, tiles: Sequence[Tile], at: str = "") -> None:
        """Shows things to pick from, one of them lit."""
        self.title.setText(title)
        self._all = tiles
        self.search.clear()
        self._filter("")
        self.grid.light(next((k for k, t in enumerate(tiles) if t.key == at), 0))
        self.search.setFocus(Qt.FocusReason.OtherFocusReason)

    def _filter(self, text: str) -> None:
        found = [t for t in self._all if _matches(f"{t.title} {t.says} {t.group}", text)]
        if text:
            found.sort(
                key=lambda tile: not _matches(tile.title, text)
            )  # what is called that stands before what only speaks of it
        self.grid.show_tiles(found)

    def _go(self, dx: int, dy: int) -> None:
        if not self.grid.boxes:
            return
        here = self.grid.boxes[self.grid.at].center()
        if dx:
            self.grid.light(max(0, min(self.grid.at + dx, len(self.grid.boxes) - 1)))
        else:
            ahead = [
                (abs(b.center().x() - here.x()) + 3 * abs(b.center().y() - here.y()), k)
                for k, b in enumerate(self.grid.boxes)
                if (b.center().y() - here.y()) * dy > 5
            ]
            self.grid.light(min(ahead)[1] if ahead else self.grid.at)
        box = self.grid.boxes[self.grid.at]
        self.area.ensureVisible(int(box.center().x()), int(box.center().y()), 50, int(box.height() / 2 + 10))

    def _say(self) -> None:
        """What the lit tile is for, where the tiles themselves do not say it."""
        if not self.grid.words:
            lit = self.grid.tiles[self.grid.at] if self.grid.tiles else None
            self.hint.setText(
                f"<b>{escape(lit.title)}</b> · {escape(lit.warns or lit.says)}" if lit else tr("Nothing is called that.")
            )

    def _digit(self, number: int) -> None:
        if number <= len(self.grid.tiles):
            self.picked.emit(self.grid.tiles[number - 1].key)

    def _enter(self) -> None:
        if self.grid.tiles:
            self.picked.emit(self.grid.tiles[self.grid.at].key)
