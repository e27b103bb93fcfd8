"""What a question means, beside it: a few sentences, and a picture in which the answer goes through its values."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, Qt, QTimer
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.session import Session
from bastler.app.swept_picture import HEIGHT, SweptPicture
from bastler.app.theme import repolish
from bastler.ask import question_of
from bastler.explained import explained
from bastler.job import answering
from bastler.language import sayable, tr
from bastler.live.frames import Frame, SeenCard
from bastler.units import clock

WIDTH = 440
GAP = 8
LEAST = 140
"""How high the picture is at least."""
QUIET = 250
"""Milliseconds after a change from which its picture is made anew: the proof goes first while somebody types."""
NUMBERS = sayable("Takes sums, fractions and other units: 3.25-2*0.4, 1 1/8, 12mm.")
COMPUTED = sayable("Left empty it is worked out, and follows the other answers.")


class ExplainPanel(QFrame):
    """Stands beside the question that it explains; goes on to the next one with the focus, until it is closed."""

    def __init__(self, session: Session, over: QWidget) -> None:
        super().__init__(over)
        self.session, self._over = session, over
        self.setObjectName("explain")
        self.setFixedWidth(WIDTH)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setAccessibleName(tr("What the question means"))
        self.address = ""
        self._corner = QPoint()
        self.title, self.text, self.more, self.value, self.follows = Label(), Label(), Label(), Label(), Label()
        self.title.setStyleSheet("font-size: 16px; font-weight: bold;")
        self.text.setStyleSheet("font-size: 14px;")
        self.more.setObjectName("soft")
        self.value.setStyleSheet("font-size: 15px; font-weight: bold;")
        self.follows.setObjectName("soft")
        for label in (self.text, self.more, self.follows):
            label.setWordWrap(True)
        self.close_button = QPushButton(tr("Close"))
        self.close_button.setObjectName("link")
        self.close_button.setToolTip(tr("Closes the explanation (F1, Esc)"))
        self.close_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.close_button.clicked.connect(self.leave)
        self.picture = SweptPicture()
        self._lay_out()
        self.hide()
        self._escape = QShortcut(QKeySequence("Esc"), over)
        """Goes before what a field would do with the key, as long as the panel is there."""
        self._escape.setContext(Qt.ShortcutContext.WindowShortcut)
        self._escape.setEnabled(False)
        self._escape.activated.connect(self.leave)
        self._quiet = QTimer(self)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(QUIET)
        self._quiet.timeout.connect(self._ask)
        self.picture.changed.connect(self._say_value)
        session.job_changed.connect(self._refresh)

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 12)
        column.setSpacing(6)
        head = QHBoxLayout()
        head.addWidget(self.title, 1)
        head.addWidget(self.close_button)
        column.addLayout(head)
        column.addWidget(self.text)
        column.addWidget(self.picture)
        below = QHBoxLayout()
        below.setSpacing(12)
        below.addWidget(self.value)
        below.addWidget(self.follows, 1)
        column.addLayout(below)
        column.addWidget(self.more)

    # -- showing ------------------------------------------------------------------------------------------------------

    def explain(self, address: str, row: QWidget) -> None:
        """The question at an address, beside its row."""
        self.address = address
        struct, field = answering.at(self.session.job, address)
        question = question_of(type(struct), field)
        self.title.setText(question.says)
        self.text.setText(explained(type(struct), field))
        words = [tr(COMPUTED) if question.propose is not None else "", tr(NUMBERS) if question.kind is not None else ""]
        self.more.setText(" ".join(word for word in words if word))
        self.more.setVisible(bool(self.more.text()))
        self.value.setText("")
        self.follows.setText("")
        self.picture.say(tr("The picture is being made …"))
        self.show()
        self._escape.setEnabled(True)
        self.place(row)
        self.raise_()
        self._ask()

    def place(self, row: QWidget) -> None:
        """Beside the row, on whichever side there is room, whole in what it stands over."""
        room, corner = self._over.rect(), row.mapTo(self._over, row.rect().topLeft())
        left = corner.x() - self.width() - 3 * GAP
        if left < room.left():
            left = min(corner.x() + row.width() + 3 * GAP, room.right() - self.width() - GAP)
        self._corner = QPoint(left, corner.y() - GAP)
        self._fit()

    def _fit(self) -> None:
        """As high as its words need, whole in what it stands over: where that is low the picture gives way."""
        room, layout = self._over.rect(), self.layout()
        assert layout is not None
        most = room.height() - 2 * GAP
        self.picture.setFixedHeight(HEIGHT)
        high = layout.totalHeightForWidth(WIDTH)
        if high > most:
            self.picture.setFixedHeight(max(HEIGHT - (high - most), LEAST))
            high = min(layout.totalHeightForWidth(WIDTH), most)
        top = max(room.top() + GAP, min(self._corner.y(), room.bottom() - high - GAP))
        self.setGeometry(QRect(self._corner.x(), top, WIDTH, high))

    def _ask(self) -> None:
        address, card = self.address, self.session.selected
        field = address.rpartition(".")[2]

        def came(frames: tuple[Frame, ...] | None, trouble: str) -> None:
            if address != self.address or not self.isVisible():
                return
            if not frames:
                self.picture.say(trouble or tr("There is nothing to see of it yet."))
                return
            self.picture.show_frames(frames, card, field)

        self.session.core.ask("swept", self.session.job, card, address, then=came)

    def _refresh(self) -> None:
        """The job has changed: what is not there any more is not explained, all else is shown as it is now."""
        if not self.isVisible():
            return
        if not self.session.has_job or not self.session.there(self.address):
            self.leave()
        else:
            self._quiet.start()

    def _say_value(self) -> None:
        frame = self.picture.frame
        if frame is None:
            return
        self.value.setText(frame.words)
        seen, words = frame.seen, ""
        if seen.why:
            words = seen.why
        elif isinstance(seen, SeenCard) and seen.seconds > 0:
            words = tr("cuts and moves for {seconds}", seconds=clock(seen.seconds))
        self.follows.setObjectName("why" if seen.why else "soft")
        if self.follows.text() != words:
            repolish(self.follows)
            self.follows.setText(words)
            self._fit()

    def leave(self) -> None:
        """Takes it away."""
        self.address = ""
        self._escape.setEnabled(False)
        self._quiet.stop()
        self.session.core.leave("swept")
        self.picture.say("")
        self.hide()
