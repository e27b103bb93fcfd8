"""A drawing from outside, to pick from: its chains and circles as a picture and as a list, both live.

Arrow keys go through the list, Space picks, Enter takes what is picked; a click in the picture picks too.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.fields import NumberField
from bastler.app.labels import Label
from bastler.app.outline_drawing import pixels_between
from bastler.app.rows import PickButton
from bastler.app.session import Session
from bastler.app.theme import ROLES, colour, icon, sans
from bastler.ask import Question
from bastler.exchange import Drawing, Joined
from bastler.job.from_drawing import PLACES_OF, Circles, Part, Place, bounds, laid, shift_for, taken
from bastler.language import many, sayable, tr, tr_many
from bastler.shapes.chain import points_on
from bastler.units import ExpressionError, Kind, Unit, evaluate, number_text, scale, with_unit

REACH = 10.0
MARGIN = 26.0
GAP_MM, FIT_MM = 0.05, 0.01
PLACES: dict[Place, str] = sayable(
    {
        "drawn": "where it is drawn",
        "corner": "its lower left corner at zero",
        "middle": "in the middle of the stock",
        "front": "front at zero, axis along its foot",
        "through": "front at zero, axis through it",
    }
)


class Canvas(QWidget):
    """The picture: what can be picked in ink, what is picked in orange, closed chains filled."""

    clicked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.parts: Sequence[Part] = ()
        self.picked: set[int] = set()
        self.at = -1
        self.axis: float | None = None
        """Where the axis of a turned part lies, and on which side is its front."""
        self.front_left = False
        self.setMinimumSize(240, 240)
        self._scale, self._origin = 1.0, QPointF(0, 0)

    def show_parts(self, parts: Sequence[Part], picked: set[int], at: int) -> None:
        self.parts, self.picked, self.at = parts, picked, at
        self.update()

    def _fit(self) -> None:
        box = bounds(self.parts)
        if box is None:
            return
        wide, high = max(box[2] - box[0], 1e-9), max(box[3] - box[1], 1e-9)
        self._scale = min((self.width() - 2 * MARGIN) / wide, (self.height() - 2 * MARGIN) / high)
        x = self.width() / 2 - (box[0] + box[2]) / 2 * self._scale
        self._origin = QPointF(x, self.height() / 2 + (box[1] + box[3]) / 2 * self._scale)

    def _to(self, u: float, v: float) -> QPointF:
        return QPointF(self._origin.x() + u * self._scale, self._origin.y() - v * self._scale)

    def _lines(self, part: Part) -> list[QPolygonF]:
        if isinstance(part, Joined):
            return [QPolygonF([self._to(u, v) for u, v in points_on(part.segments, 0.3 / self._scale)])]
        r = part.diameter / 2
        ring = [(r * math.cos(k * math.pi / 24), r * math.sin(k * math.pi / 24)) for k in range(49)]
        return [QPolygonF([self._to(x + a, y + b) for a, b in ring]) for x, y in part.centres]

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.field))
            painter.setPen(QPen(QColor(ROLES.hairline), 1))
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
            self._fit()
            for k, part in enumerate(self.parts):
                on, here = k in self.picked, k == self.at
                painter.setPen(QPen(QColor(ROLES.focus if on or here else ROLES.ink), 2.6 if here else 1.8 if on else 1.2))
                filled = on and (isinstance(part, Circles) or part.closed)
                painter.setBrush(colour(ROLES.removal, 190) if filled else Qt.BrushStyle.NoBrush)
                for line in self._lines(part):
                    if filled:
                        painter.drawPolygon(line)
                    else:
                        painter.drawPolyline(line)
            if self.axis is not None and self.parts:
                self._axis(painter, self.axis)
            if not self.parts:
                painter.setPen(QColor(ROLES.soft))
                painter.setFont(sans(14))
                painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, tr("Nothing in it can be cut along."))

    def _axis(self, painter: QPainter, at: float) -> None:
        """The centre line that a turned part is taken to have, and where its front is."""
        pen = QPen(QColor(ROLES.soft), 1.0)
        pen.setDashPattern([10, 3, 2, 3])
        painter.setPen(pen)
        y = self._to(0.0, at).y()
        painter.drawLine(QPointF(6, y), QPointF(self.width() - 6, y))
        painter.setPen(QColor(ROLES.focus))
        painter.setFont(sans(12))
        side = Qt.AlignmentFlag.AlignLeft if self.front_left else Qt.AlignmentFlag.AlignRight
        painter.drawText(QRectF(8, y + 3, self.width() - 16, 18), side, tr("front"))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not self.parts:
            return
        near = [
            (min(pixels_between(line, event.position()) for line in self._lines(part)), k) for k, part in enumerate(self.parts)
        ]
        far, k = min(near)
        if far <= REACH:
            self.clicked.emit(k)


class _List(QListWidget):
    """Space picks, Enter takes."""

    picks = pyqtSignal()
    takes = pyqtSignal()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() == Qt.Key.Key_Space:
            self.picks.emit()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.takes.emit()
        elif event.key() == Qt.Key.Key_Escape:
            event.ignore()
        else:
            super().keyPressEvent(event)


class DrawingPicker(QWidget):
    """Over the view, as the board is. `closed` when it is done with."""

    closed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.path = Path()
        self.address = ""
        self.drawing: Drawing | None = None
        self.parts: list[Part] = []
        self.picked: set[int] = set()
        self.assumed: Unit = "mm"
        self.place: Place = "drawn"
        self.front_left = False
        """Is the front of a turned part drawn to the left?"""
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 6, 16, 10)
        column.setSpacing(8)
        self.title = Label()
        self.title.setFont(sans(17, bold=True))
        column.addWidget(self.title)
        self.says = Label()
        self.says.setObjectName("soft")
        self.says.setWordWrap(True)
        column.addWidget(self.says)
        middle = QHBoxLayout()
        middle.setSpacing(12)
        self.canvas = Canvas()
        self.canvas.clicked.connect(self._clicked)
        middle.addWidget(self.canvas, 1)
        middle.addLayout(self._side())
        column.addLayout(middle, 1)
        column.addLayout(self._foot())

    def _side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setSpacing(6)
        self.list = _List()
        self.list.setObjectName("picks")
        self.list.setFixedWidth(216)
        self.list.setAccessibleName(tr("Chains and circles"))
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.itemClicked.connect(lambda item: self._clicked(self.list.row(item)))
        self.list.picks.connect(lambda: self._clicked(self.list.currentRow()))
        self.list.takes.connect(self.take)
        side.addWidget(self.list, 1)
        self.gap = self._number(side, tr("Gaps closed up to"))
        self.fit = self._number(side, tr("Curves within"))
        self.unit_button = self._choice(side, tr("Drawn in"), self._other_unit)
        self.place_button = self._choice(side, tr("Put"), self._other_place)
        self.front_button = self._choice(side, "", self._other_front)
        return side

    def _number(self, side: QVBoxLayout, words: str) -> NumberField:
        row = QHBoxLayout()
        label = Label(words)
        label.setObjectName("soft")
        row.addWidget(label, 1)
        field = NumberField(Question(says=words, kind=Kind.LENGTH, above=0), "mm")
        field.setProperty("compact", "true")
        field.setFixedWidth(84)
        field.given.connect(lambda value, typed: self._read())
        field.entered.connect(lambda by: self.list.setFocus())
        row.addWidget(field)
        side.addLayout(row)
        return field

    def _choice(self, side: QVBoxLayout, words: str, act: Callable[[], None]) -> PickButton:
        row = QHBoxLayout()
        label = Label(words)
        label.setObjectName("soft")
        row.addWidget(label)
        button = PickButton("")
        button.setObjectName("link")
        button.setToolTip(tr("Space changes it"))
        button.clicked.connect(act)
        button.entered.connect(lambda by: self.list.setFocus())
        row.addWidget(button, 1)
        side.addLayout(row)
        return button

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        self.count = Label()
        foot.addWidget(self.count, 1)
        cancel = QPushButton(tr("Leave it"))
        cancel.setObjectName("plain")
        cancel.setToolTip(tr("Back to the sheet (Esc)"))
        cancel.clicked.connect(self.closed)
        self.button = QPushButton(tr("Take"))
        self.button.setObjectName("main")
        self.button.clicked.connect(self.take)
        foot.addWidget(cancel)
        foot.addWidget(self.button)
        return foot

    # -- reading ----------------------------------------------------------------------------------------------------

    def offer(self, path: Path, address: str, then: Callable[[str], None]) -> None:
        """Reads a file to pick from, for the answer at `address` if there is one; `then` hears when it is there, or why it cannot
        be read, which changes nothing."""
        unit = self.session.job.unit
        k = scale("mm", unit)
        for field, size in ((self.gap, GAP_MM), (self.fit, FIT_MM)):
            field.unit = unit
            field.show_value(float(f"{size * k:.2g}"), "", None)

        def read(found: tuple[Drawing, list[Part]] | None, trouble: str) -> None:
            if found is not None:
                self.path, self.address, self.assumed, self.place = path, address, unit, "drawn"
                self.front_left = False
                self._use(*found)
            then(trouble)

        self.session.core.ask("drawing", path, unit, FIT_MM * k, None, GAP_MM * k, then=read)

    def _read(self) -> None:
        """The file again with other tolerances or another unit; one that has gone meanwhile is said."""

        def read(found: tuple[Drawing, list[Part]] | None, trouble: str) -> None:
            if found is not None:
                self._use(*found)
            else:
                self.says.setText(trouble)

        fit, gap = self._size(self.fit, FIT_MM), self._size(self.gap, GAP_MM)
        self.session.core.ask("drawing", self.path, self.session.job.unit, fit, self.assumed, gap, then=read)

    def _size(self, field: NumberField, usual: float) -> float:
        try:
            value = evaluate(field.text(), Kind.LENGTH, self.session.job.unit)
        except ExpressionError:
            value = 0.0
        return value if value > 0 else usual * scale("mm", self.session.job.unit)

    def _use(self, drawing: Drawing, parts: list[Part]) -> None:
        self.drawing, self.parts = drawing, parts
        # for one outline the likeliest chain is picked already: the longest closed one
        first = next((n for n, p in enumerate(self.parts) if isinstance(p, Joined) and p.closed), 0)
        wanted = next((n for n, p in enumerate(self.parts) if isinstance(p, Circles)), 0)
        self.picked = {wanted if self.address.endswith(".pattern") else first} if self.parts and self.address else set()
        self.list.clear()
        self.list.addItems([""] * len(self.parts))
        self.list.setCurrentRow(min(self.picked, default=0))
        self._show()

    # -- showing ----------------------------------------------------------------------------------------------------

    def _show(self) -> None:
        unit = self.session.job.unit
        for k, part in enumerate(self.parts):
            item = self.list.item(k)
            if item is not None:
                item.setText(f"{self._name(part)}\n{part.says}")
                item.setIcon(icon("check", ROLES.focus if k in self.picked else "none", 16))
        self.title.setText(self.path.name)
        drawing = self.drawing
        said = "" if drawing is None or drawing.unit else tr("The file does not say its unit. ")
        passed = sum(drawing.passed.values()) if drawing else 0
        left = tr("{many} or the like passed over. ", many=many(passed, "text")) if passed else ""
        closed = [p for p in self.parts if isinstance(p, Joined) and p.gaps]
        widest = max((p.widest for p in closed), default=0.0)
        count = sum(p.gaps for p in closed)
        gaps = (
            tr("{many} closed, the widest {widest}.", many=many(count, "gap"), widest=with_unit(widest, Kind.LENGTH, unit))
            if count
            else ""
        )
        self.says.setText(f"{said}{left}{gaps}" or tr("Space picks, Enter takes."))
        word = drawing.unit if drawing and drawing.unit else self.assumed
        self.unit_button.setText(tr("{word}, as the file says", word=word) if drawing and drawing.unit else word)
        self.unit_button.setEnabled(not (drawing and drawing.unit))
        self.place_button.setText(tr(PLACES[self.place]))
        turns = self.session.job.turns
        self.front_button.setVisible(turns)
        self.front_button.setText(tr("front to the left") if self.front_left else tr("front to the right"))
        self.canvas.axis, self.canvas.front_left = (self._axis() if turns else None), self.front_left
        box = bounds(self.parts)
        size = ""
        if box:
            length = number_text(box[2] - box[0], Kind.LENGTH, unit)
            size = tr("{length} × {box} over all", length=length, box=with_unit(box[3] - box[1], Kind.LENGTH, unit))
        self.count.setText(tr("{picked} picked · {size}", picked=len(self.picked), size=size) if size else "")
        self.button.setEnabled(bool(self.picked))
        self.canvas.show_parts(self.parts, self.picked, self.list.currentRow())

    def _name(self, part: Part) -> str:
        unit = self.session.job.unit
        if isinstance(part, Circles):
            return f"Ø{number_text(part.diameter, Kind.LENGTH, unit)}"
        return part.layer if part.layer not in ("", "0") else tr("chain")

    # -- hands ------------------------------------------------------------------------------------------------------

    def _clicked(self, k: int) -> None:
        if not 0 <= k < len(self.parts):
            return
        if self.address:
            self.picked = {k}
        else:
            self.picked ^= {k}
        self.list.setCurrentRow(k)
        self._show()

    def _other_unit(self) -> None:
        self.assumed = "inch" if self.assumed == "mm" else "mm"
        self._read()

    def _other_place(self) -> None:
        names = PLACES_OF[self.session.job.turns]
        self.place = names[(names.index(self.place) + 1) % len(names)]
        self._show()

    def _other_front(self) -> None:
        self.front_left = not self.front_left
        self._show()

    def _axis(self) -> float:
        """Where the axis of a turned part lies in the drawing."""
        _, down = shift_for(self.session.job, [self.parts[k] for k in sorted(self.picked)] or self.parts, self.place)
        return -down

    def take(self) -> None:
        """The picked parts go into the job."""
        if not self.picked:
            return
        session = self.session
        picks = laid([self.parts[k] for k in sorted(self.picked)], front_left=session.job.turns and self.front_left)
        about = picks if session.job.turns else self.parts
        shift = shift_for(session.job, about, self.place, session.held_id)
        session.history.settle()
        session.edit(taken(session.job, picks, shift, self.address), tr("Take from {name}", name=self.path.name))
        if not self.address:
            count = len(picks)
            session.said.emit(
                "",
                tr_many(count, "{count} taken. A step's “change” offers it.", "{count} taken. A step's “change” offers them."),
            )
        self.closed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
            return
        super().keyPressEvent(event)
