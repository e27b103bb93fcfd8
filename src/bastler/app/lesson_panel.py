"""A lesson in the window: under its print it says what comes next, waits for it, shows where, and says what is wrong."""

from __future__ import annotations

import re

from PyQt6.QtCore import QPoint, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Elided, Label, Marked, escape
from bastler.app.theme import ROLES
from bastler.language import sayable, tr
from bastler.lessons import Lesson, lessons

ENDED = sayable(
    "That is all of it: the part is made, proved, and its program saved. The job stays yours: change a number, and look."
)
AROUND = 5


class Pointer(QWidget):
    """A ring round the place that is meant; hands and keys go through it."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.of: QWidget | None = None
        self.hide()

    def round(self, widget: QWidget | None) -> None:
        """Round a widget; none, or one that is not seen, takes it away."""
        over = self.parentWidget()
        self.of = widget
        if widget is None or over is None or not widget.isVisible():
            self.hide()
            return
        corner = widget.mapTo(over, QPoint(0, 0))
        seen = widget.visibleRegion().boundingRect().translated(corner)
        if seen.height() < 8:
            self.hide()
            return
        place = seen.adjusted(-AROUND, -AROUND, AROUND, AROUND).intersected(over.rect())
        if place != self.geometry():
            self.setGeometry(QRect(place))
        if not self.isVisible():
            self.show()
        self.raise_()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.setPen(QPen(QColor(ROLES.focus), 3))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 6, 6)


class LessonPanel(QFrame):
    """Emits `shows` when one wants to be shown where, `leaves` when the lesson is left, `goes_on` when the next is wanted."""

    shows = pyqtSignal()
    leaves = pyqtSignal()
    goes_on = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("lesson")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("Lesson"))
        self.title, self.count, self.text, self.wrong = Elided(), Label(), Marked(), Label()
        self.title.setObjectName("group")
        self.text.setStyleSheet("font-size: 15px;")
        self.wrong.setObjectName("why")
        for label in (self.text, self.wrong):
            label.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.bar.setAccessibleName(tr("How far the lesson is"))
        self.show_button, self.leave_button, self.next_button = (
            QPushButton(tr("Show me")),
            QPushButton(tr("Leave the lesson")),
            QPushButton(),
        )
        self.show_button.setObjectName("view")
        self.show_button.setToolTip(tr("Goes to the place that is meant"))
        self.leave_button.setObjectName("link")
        self.next_button.setObjectName("main")
        for button, signal in (
            (self.show_button, self.shows),
            (self.leave_button, self.leaves),
            (self.next_button, self.goes_on),
        ):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(signal)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        self.count.setObjectName("soft")
        head.addWidget(self.count)
        head.addSpacing(10)
        head.addWidget(self.leave_button)
        column.addLayout(head)
        column.addWidget(self.bar)
        column.addWidget(self.text)
        column.addWidget(self.wrong)
        row = QHBoxLayout()
        row.addWidget(self.show_button)
        row.addStretch(1)
        row.addWidget(self.next_button)
        column.addLayout(row)
        self.hide()

    def say(self, lesson: Lesson, at: int, wrong: str) -> None:
        """What comes next."""
        count = len(lesson.items)
        over = at >= count
        self.title.setText(tr(lesson.title).upper())
        self.count.setText("" if over else tr("{at} of {count}", at=at + 1, count=count))
        self.bar.setRange(0, count)
        self.bar.setValue(at)
        self.text.setText(in_bold(tr(lesson.items[at].says) if not over else tr(ENDED)))
        self.wrong.setText(wrong)
        self.wrong.setVisible(bool(wrong))
        self.show_button.setVisible(not over)
        self._make_room()
        following = after(lesson)
        self.next_button.setVisible(over and following is not None)
        if following is not None:
            self.next_button.setText(tr("Next: {title}", title=tr(following.title)))

    def _make_room(self) -> None:
        """The print gives way to all of the text, and not the text to the print."""
        for label in (self.text, self.wrong):
            wide = label.width() if self.isVisible() else self.width()
            label.setMinimumHeight(label.heightForWidth(wide) if label.text() else 0)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._make_room()


def in_bold(text: str) -> str:
    """A text of a lesson as mark-up: what stands between asterisks is a word in the window."""
    return re.sub(r"\*([^*]+)\*", r"<b>\1</b>", escape(text))


def after(lesson: Lesson) -> Lesson | None:
    every = lessons()
    at = every.index(lesson) + 1
    return every[at] if at < len(every) else None
