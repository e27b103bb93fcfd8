"""The row under the solid: what was touched, how far from another place, and the scale of what is left and gouged."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QColor, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress, sans
from bastler.app.touch_words import apart_words, place_words, touch_words
from bastler.language import sayable, tr, tr_as
from bastler.proof.offs import STEPS
from bastler.proof.touch import Touch, apart
from bastler.units import Kind, Unit, number_text

OVER = ("#EBD9A0", "#E6BC66", "#DC963A", "#C46A1C", "#94460E")
UNDER = ("#CDBFE6", "#A992D6", "#8262C2", "#5F3EA6", "#3E2380")
RIGHT = "#CED4D8"
"""So much over the finished part, so much below it, from the first step on; and as it is to be."""

MAKING = sayable("The part is being made …")
NOTHING = sayable("Touch a face: where it is, how far it is from the finished part, and which line made it.")


class TouchBar(QFrame):
    """`went` asks for the moment at which the touched face was made; `closed` that nothing is touched any more."""

    went = pyqtSignal(int)
    closed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.touch: Touch | None = None
        self.first: Touch | None = None
        self.setObjectName("touched")
        self.setMinimumHeight(68)
        dress(self, "QFrame#touched { border-top: 1px solid $hairline; background: $panel; }")
        self.head, self.words = Label(), Label()
        self.head.setFont(sans(16, bold=True))
        self.head.setStyleSheet("font-size: 16px; font-weight: bold;")
        self.words.setObjectName("soft")
        self.words.setWordWrap(True)
        text = QVBoxLayout()
        text.setSpacing(0)
        text.addWidget(self.head)
        text.addWidget(self.words)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 6, 14, 6)
        row.addLayout(text, 1)
        self.to_move = self._button(tr("To the move"), tr("To the moment at which this face was made"), self._go)
        self.measure = self._button(
            tr("Measure from here"), tr("The next place that is touched is measured from this one"), self._measure
        )
        self.measure.setCheckable(True)
        self.close_button = self._button("✕", tr("Nothing is touched any more (Esc)"), self.closed)
        for button in (self.to_move, self.measure, self.close_button):
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignVCenter)
        self.forget()

    def _button(self, name: str, says: str, act: Callable[[], None] | pyqtBoundSignal) -> QPushButton:
        button = QPushButton(name)
        button.setObjectName("view")
        button.setToolTip(says)
        button.setAccessibleName(says)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(act)
        return button

    def show_touch(self, touch: Touch) -> None:
        """Another place was touched."""
        proof = self.session.proof
        if proof is None:
            return
        self.touch = touch
        for shown in (self.head, self.to_move, self.measure, self.close_button):
            shown.show()
        self.to_move.setEnabled(touch.move >= 0)
        stage = proof.stage_of(touch.move)
        step = self.session.job.step(stage.step) if stage is not None else None
        if self.first is not None and self.first is not touch:
            head, way = apart_words(proof, apart(self.first, touch), driven=self.first.driven or touch.driven)
            self.head.setText(head)
            self.words.setText(f"{way}  ·  {tr('to {place}', place=place_words(proof, touch))}")
        else:
            self.head.setText(place_words(proof, touch))
            self.words.setText(touch_words(proof, touch, step.title if step is not None else ""))

    def forget(self) -> None:
        """Nothing is touched."""
        self.touch, self.first = None, None
        self.measure.setChecked(False)
        self.head.hide()
        self.words.setText(tr(NOTHING))
        for button in (self.to_move, self.measure, self.close_button):
            button.hide()

    def say_making(self, *, making: bool) -> None:
        """The part is not there yet, and takes a while; or it is."""
        if self.touch is None:
            self.words.setText(tr(MAKING if making else NOTHING))

    def _go(self) -> None:
        if self.touch is not None:
            self.went.emit(self.touch.move)

    def _measure(self) -> None:
        self.first = self.touch if self.measure.isChecked() else None
        if self.touch is not None:
            self.show_touch(self.touch)


class OffScale(QWidget):
    """What the colours of left and gouged mean, in figures."""

    def __init__(self) -> None:
        super().__init__()
        self.unit: Unit = "mm"
        self.setFixedHeight(40)
        self.setAccessibleName(tr("Scale of left and gouged"))
        self.hide()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            steps = [number_text(step, Kind.LENGTH, self.unit) for step in STEPS[self.unit]]
            chips = [
                *zip(reversed(UNDER), reversed(steps), strict=True),
                (RIGHT, tr_as("size", "right")),
                *zip(OVER, steps, strict=True),
            ]
            painter.setFont(sans(12))
            side, wide = 66.0, (self.width() - 2 * 66.0 - 28) / len(chips)
            painter.setPen(QColor(ROLES.ink))
            painter.drawText(QRectF(14, 0, side, 40), Qt.AlignmentFlag.AlignVCenter, tr("missing"))
            box = QRectF(self.width() - 14 - side, 0, side, 40)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, tr("to go"))
            for k, (tint, text) in enumerate(chips):
                x = 14 + side + k * wide
                painter.fillRect(QRectF(x, 6, wide - 2, 12), QColor(tint))
                painter.drawText(QRectF(x - 4, 19, wide + 6, 18), Qt.AlignmentFlag.AlignCenter, text)
