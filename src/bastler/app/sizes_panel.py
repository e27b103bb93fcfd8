"""The sizes of the part in the machine: typed or measured, in or out of their limits, and what brings them back."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QMouseEvent, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.fields import NumberField
from bastler.app.labels import Label
from bastler.app.machine_desk import MachineDesk
from bastler.app.panels import emptied, panel_area
from bastler.app.theme import ROLES, dress, sans
from bastler.ask import Question
from bastler.language import decimal, sayable, tr
from bastler.link import messages as m
from bastler.proof.gauge import ZEROS, Correction, Gauge, standing
from bastler.units import Kind

MOST_MM = 1.0
"""What is off by more than that was not cut, or read wrong: a wear so large would be the next crash."""
MOST = 12
"""So many parts are seen in a band."""
SIGNS = sayable({"in": "within", "over": "too large", "under": "too small", "open": "no limits", "": ""})


def plain(value: float, unit: str) -> str:
    """A size to the micron, or its like in inches, with the sign of print."""
    return decimal(f"{value + 0.0:.{3 if unit == 'mm' else 5}f}").replace("-", "−")


class Band(QWidget):
    """Where a size lies within its limits, those of the parts before it fainter: a small chart of all of them."""

    def __init__(self) -> None:
        super().__init__()
        self.sizes: Sequence[float] = ()
        self.limits: tuple[float, float] | None = None
        self.now = False
        self.setFixedSize(QSize(72, 26))

    def tell(self, sizes: Sequence[float], limits: tuple[float, float] | None, *, now: bool) -> None:
        """Other sizes, the newest last; whether that is of the part in the machine `now`."""
        self.sizes, self.limits, self.now = sizes, limits, now
        low, high = limits or (0.0, 0.0)
        range_ = tr("{low:.4f} to {high:.4f}", low=low, high=high) if limits else ""
        self.setToolTip("  ".join(decimal(f"{size:.4f}") for size in sizes[-MOST:]) if sizes else range_)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.limits is None:
            return
        low, high = self.limits
        with painting(self) as painter:
            middle, wide = self.height() / 2, self.width()
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ROLES.track))
            painter.drawRoundedRect(QRectF(0, middle - 4, wide, 8), 4, 4)
            painter.setBrush(QColor(ROLES.good_tint))
            painter.drawRect(QRectF(wide * 0.2, middle - 4, wide * 0.6, 8))
            last = list(self.sizes)[-MOST:]
            points = []
            for k, size in enumerate(last):
                share = 0.2 + 0.6 * (size - low) / max(high - low, 1e-12)
                x = min(max(share, 0.02), 0.98) * wide
                newest = self.now and k == len(last) - 1
                out = not low - 1e-9 <= size <= high + 1e-9
                tint = QColor(ROLES.stop if out else ROLES.good)
                tint.setAlpha(255 if newest else 90)
                reach = 11.0 if newest else 6.0
                painter.setPen(QPen(tint, 3.0 if newest else 1.6))
                painter.drawLine(QPointF(x, middle - reach), QPointF(x, middle + reach))
                if out and newest:  # not by colour alone: an arrow points to where it is off
                    sense = 1.0 if size > high else -1.0
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(tint)
                    tip = QPointF(x + sense * 1.0, middle)
                    points = [tip, tip + QPointF(-sense * 7, -5), tip + QPointF(-sense * 7, 5)]
            if points:
                painter.drawPolygon(QPolygonF(points))


class SizeHead(QWidget):
    """A size as it is on the print and what it is of, and under it its limits, the tool, and the step that makes it."""

    def __init__(self, gauge: Gauge, limits: str) -> None:
        super().__init__()
        self.size_text = f"{'Ø' if gauge.round else ''}{gauge.text}"
        self.of = f"{gauge.number} {gauge.title}" if gauge.number else gauge.title
        self.says = gauge.says
        stations = dict.fromkeys(maker.station for maker in gauge.makers if maker is not None)
        self.limits = "  ".join([limits, *(f"T{station}" for station in stations), self.of])
        self.setMinimumHeight(40)
        general = tr(", by the general tolerance ISO 2768-m") if gauge.general and gauge.limits is not None else ""
        self.setToolTip(f"{self.of}: {gauge.says}{general}")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.setFont(sans(15, bold=True))
            painter.setPen(QColor(ROLES.ink))
            painter.drawText(QPointF(0, 17), self.size_text)
            left = painter.fontMetrics().horizontalAdvance(self.size_text) + 8
            painter.setFont(sans(12))
            painter.setPen(QColor(ROLES.soft))
            elided, more = painter.fontMetrics().elidedText, Qt.TextElideMode.ElideRight
            painter.drawText(QPointF(left, 17), elided(self.says, more, max(self.width() - left, 0)))
            painter.drawText(QPointF(0, 35), elided(self.limits, more, self.width()))


class SizeRow(QFrame):
    """One size: what it is, its field, a button that measures it, its band."""

    pressed = pyqtSignal(str)
    entered = pyqtSignal(str, int)

    def __init__(self, desk: MachineDesk, gauge: Gauge) -> None:
        super().__init__()
        self.desk, self.gauge = desk, gauge
        self.setObjectName("size")
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 3, 8, 3)
        row.setSpacing(8)
        row.addWidget(SizeHead(gauge, self._limits()), 1)
        self.field = NumberField(Question(says=f"{gauge.title}, {gauge.says}", kind=Kind.LENGTH), desk.unit)
        self.field.setFixedWidth(86)
        self.field.may_be_empty = True
        self.field.given.connect(lambda value, _: desk.typed(gauge, float(value)))
        self.field.cleared.connect(lambda: desk.typed(gauge, None))
        self.field.entered.connect(lambda by: self.entered.emit(gauge.id, by))
        self.field.focused.connect(lambda has: self.pressed.emit(gauge.id) if has else None)
        self.measure = QPushButton(tr("Measure"))
        self.measure.setObjectName("link")
        self.measure.setAccessibleName(tr("Measure {title}, {says}", title=gauge.title, says=gauge.says))
        self.measure.clicked.connect(self._measure)
        self.measure.setVisible(bool(gauge.ends))
        row.addWidget(self.field)
        self.band = Band()
        side = QVBoxLayout()
        side.setSpacing(0)
        side.addWidget(self.band)
        side.addWidget(self.measure)
        row.addLayout(side)

    def _measure(self) -> None:
        self.pressed.emit(self.gauge.id)
        self.desk.measure(self.gauge)

    def _limits(self) -> str:
        gauge = self.gauge
        if gauge.limits is None:
            return tr("no limits")
        low, high = (limit - gauge.nominal for limit in gauge.limits)
        digits = 3 if self.desk.unit == "mm" else 4
        if abs(low + high) < 1e-9:
            return decimal(f"±{high:.{digits}f}".rstrip("0").rstrip("."))
        return decimal(f"{low:+.{digits}f} … {high:+.{digits}f}").replace("-", "−")

    def tell(self, *, chosen: bool) -> None:
        """As it stands now."""
        size, unit = self.desk.size_of(self.gauge), self.desk.unit
        if not self.field.hasFocus():
            self.field.setText("" if size is None else decimal(f"{size:.{3 if unit == 'mm' else 5}f}"))
        self.band.tell([s for _, s in self.desk.book.history(self.gauge)], self.gauge.limits, now=size is not None)
        stands = self.desk.standing(self.gauge)
        self.setAccessibleName(f"{self.gauge.title}, {self.gauge.says}: {tr(SIGNS[stands])}")
        edge = ROLES.focus if chosen else ROLES.stop if stands in ("over", "under") else ROLES.hairline
        wide = 2 if chosen or stands in ("over", "under") else 1
        dress(self, f"QFrame#size {{ background: $field; border: {wide}px solid {edge}; border-radius: 5px; }}")

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.pressed.emit(self.gauge.id)


class SizesPanel(QWidget):
    """All sizes, and a card with the way out of the one that is chosen. `wants_csv` asks to keep them in a file."""

    wants_csv = pyqtSignal()

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self.chosen = ""
        self._typing = False
        self.rows: dict[str, SizeRow] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 2, 10)
        column.setSpacing(8)
        row = QHBoxLayout()
        row.setContentsMargins(4, 0, 16, 0)
        self.head, self.count = Label(), Label()
        self.head.setStyleSheet("font-size: 15px; font-weight: bold;")
        self.count.setObjectName("soft")
        row.addWidget(self.head, 1)
        row.addWidget(self.count)
        column.addLayout(row)
        self.place_buttons: list[QPushButton] = []
        self.places = QHBoxLayout()
        self.places.setContentsMargins(4, 0, 16, 0)
        self.places.setSpacing(4)
        column.addLayout(self.places)
        area = panel_area()
        holder = QWidget()
        self.list = QVBoxLayout(holder)
        self.list.setContentsMargins(0, 0, 12, 0)
        self.list.setSpacing(6)
        area.setWidget(holder)
        self.area = area
        column.addWidget(area, 1)
        self.card = QFrame()
        self.card.setObjectName("way")
        inner = QVBoxLayout(self.card)
        inner.setContentsMargins(12, 10, 12, 10)
        inner.setSpacing(5)
        self.says, self.way = Label(), Label()
        self.says.setStyleSheet("font-weight: bold; font-size: 14px;")
        for label in (self.says, self.way):
            label.setWordWrap(True)
            inner.addWidget(label)
        buttons = QHBoxLayout()
        self.correct, self.again = QPushButton(), QPushButton()
        self.correct.setObjectName("main")
        self.again.setObjectName("plain")
        self.correct.clicked.connect(self._correct)
        self.again.clicked.connect(self._again)
        buttons.addWidget(self.correct, 1)
        buttons.addWidget(self.again)
        inner.addLayout(buttons)
        holder_row = QHBoxLayout()
        holder_row.setContentsMargins(0, 0, 12, 0)
        holder_row.addWidget(self.card)
        column.addLayout(holder_row)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 12, 0)
        self.all = QPushButton(tr("Measure all"))
        self.all.setObjectName("plain")
        self.all.clicked.connect(self.measure_all)
        self.csv = QPushButton(tr("As CSV"))
        self.csv.setObjectName("plain")
        self.csv.clicked.connect(self.wants_csv)
        row.addWidget(self.all, 1)
        row.addWidget(self.csv)
        self.below = QWidget()
        self.below.setLayout(row)
        column.addWidget(self.below)
        desk.changed.connect(self.refresh)

    def measure_all(self) -> None:
        """Every size that a caliper has two faces for, one after the other."""
        for gauge in self.desk.gauges:
            self.desk.measure(gauge)

    def _choose_places(self, several: int) -> None:
        """A button for each part on the table, where there is more than one."""
        count = several if several > 1 else 0
        if len(self.place_buttons) != count:
            emptied(self.places)
            self.place_buttons = [self._place_button(at) for at in range(count)]
        for at, button in enumerate(self.place_buttons):
            button.setChecked(at == self.desk.at)

    def _place_button(self, at: int) -> QPushButton:
        button = QPushButton(str(at + 1))
        button.setObjectName("view")
        button.setCheckable(True)
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.setAccessibleName(tr("Sizes of the part in place {at}", at=at + 1))
        button.clicked.connect(partial(self._look_at, at))
        self.places.addWidget(button, 1)
        return button

    def _look_at(self, at: int) -> None:
        self.desk.look_at(at)
        self.refresh()

    def make_room(self, *, typing: bool) -> None:
        """While a number pad is there, the list has the room that is left."""
        self._typing = typing
        self.below.setVisible(not typing)
        self._tell_way()
        if typing and self.chosen in self.rows:
            QTimer.singleShot(0, partial(self.area.ensureWidgetVisible, self.rows[self.chosen], 0, 8))

    def _next(self, ident: str, by: int) -> None:
        """Enter goes on to the next size, but stays at one that is out of its limits, with the way out of it."""
        gauge, idents = self.desk.gauge(ident), list(self.rows)
        at = idents.index(ident) + by if ident in idents else -1
        if gauge is not None and self.desk.standing(gauge) in ("over", "under"):
            self.area.setFocus()
            self._choose(ident)
        elif 0 <= at < len(idents):
            row = self.rows[idents[at]]
            self.area.ensureWidgetVisible(row, 0, 8)
            row.field.setFocus()
            row.field.selectAll()
        else:
            self.area.setFocus()

    def _choose(self, ident: str) -> None:
        self.chosen = ident
        self.refresh()

    def refresh(self) -> None:
        """Rows and card as things stand."""
        desk = self.desk
        if not desk.planned:
            return
        number = desk.status.part if desk.status is not None else 0
        several = 1 if desk.turns else len(desk.held.parts)
        place = tr(", place {at}", at=desk.at + 1) if several > 1 else ""
        self.head.setText(tr("Part {number}{place}", number=number, place=place) if number else tr("Sizes"))
        self._choose_places(several)
        idents = [gauge.id for gauge in desk.gauges]
        if idents != list(self.rows):
            emptied(self.list)
            self.rows = {}
            for gauge in desk.gauges:
                row = SizeRow(desk, gauge)
                row.pressed.connect(self._choose)
                row.entered.connect(self._next)
                self.list.addWidget(row)
                self.rows[gauge.id] = row
            self.list.addStretch(1)
        for gauge in desk.gauges:
            self.rows[gauge.id].gauge = gauge
            self.rows[gauge.id].tell(chosen=gauge.id == self.chosen)
        done = sum(desk.size_of(gauge) is not None for gauge in desk.gauges)
        self.count.setText(tr("{done} of {gauges} measured", done=done, gauges=len(desk.gauges)) if desk.gauges else "")
        self.all.setEnabled(bool(desk.gauges) and number > 0)
        self.csv.setEnabled(any(desk.book.history(gauge) for gauge in desk.gauges))
        self._tell_way()

    # -- the way out ------------------------------------------------------------------------------------------------

    def _off(self) -> Gauge | None:
        """The size that the card speaks of: the chosen one, else the first that is out of its limits."""
        gauge = self.desk.gauge(self.chosen)
        if gauge is not None and self.desk.size_of(gauge) is not None:
            return gauge
        return next((g for g in self.desk.gauges if self.desk.standing(g) in ("over", "under")), None)

    def _tell_way(self) -> None:
        gauge = self._off()
        size = self.desk.size_of(gauge) if gauge is not None else None
        self.card.setVisible(gauge is not None and size is not None and not self._typing)
        if gauge is None or size is None:
            return
        unit, off = self.desk.unit, size - gauge.aim
        bad = self.desk.standing(gauge) in ("over", "under")
        tint, ground = (ROLES.stop, ROLES.stop_tint) if bad else (ROLES.good, ROLES.good_tint)
        dress(self.card, f"QFrame#way {{ background: {ground}; border: 1px solid {tint}; border-radius: 5px; }}")
        small = 0.0005 if unit == "mm" else 0.00002
        name = f"{'Ø' if gauge.round else ''}{gauge.text}"
        if abs(off) < small:
            self.says.setText(tr("{name} is in the middle", name=name))
        else:
            self.says.setText(
                tr(
                    "{name} is {off} {off_2} the middle",
                    name=name,
                    off=plain(abs(off), unit),
                    off_2=tr("over") if off > 0 else tr("under"),
                )
            )
        way = self.desk.correction(gauge)
        if way is not None and abs(way.amount) > MOST_MM * self.desk.mm:
            self.correct.hide()
            self.again.hide()
            self.way.setText(tr("That is more than a correction mends: was it cut, and is it this size that was read?"))
            return
        self.correct.setVisible(way is not None and abs(off) >= small)
        self.again.setVisible(way is not None and bad and way.last > way.first)
        if way is None:
            self.way.setText(tr("No offset moves it: the tool itself cuts that size, or nothing has cut it."))
            return
        self.way.setText(self._words(way) if abs(off) >= small else tr("Nothing is to be corrected."))
        name = self._zero_name() if way.by in ZEROS else f"T{way.station}"
        self.correct.setText(
            tr("T{station} is as it cuts", station=way.station) if way.by == "tool" else tr("Correct {name}", name=name)
        )
        self.again.setText(tr("Run it again"))
        self.again.setToolTip(tr("Lines {first} to {last} once more", first=way.first + 1, last=way.last))

    def _words(self, way: Correction) -> str:
        unit = self.desk.unit
        if way.by == "tool":
            more = f"{plain(abs(way.amount), unit)} {tr('more') if way.amount > 0 else tr('less')}"
            return tr(
                "T{station} cuts {more} in diameter than the job takes it for. The program follows.",
                station=way.station,
                more=more,
            )
        twice = 2.0 if way.by == "x" else 1.0
        axis = {"x": tr("X (diameter)"), "z": "Z", "diameter": tr("diameter")}.get(way.by, "")
        number = tr(", offset {number}", number=way.number) if way.number != way.station else ""
        text = tr(
            "T{station}{number}: wear in {axis} by {amount}.",
            station=way.station,
            number=number,
            axis=axis,
            amount=plain(way.amount * twice, unit),
        )
        if way.by in ZEROS:
            text = tr(
                "Zero {zero_name}: {value} by {amount}, for the next part.",
                zero_name=self._zero_name(),
                value="XY"[ZEROS[way.by]],
                amount=plain(way.amount, unit),
            )
        others = []
        for ident, by in way.moves:
            gauge = self.desk.gauge(ident)
            if gauge is None:
                continue
            size = self.desk.size_of(gauge)
            after = gauge.nominal + by if size is None else size + by
            out = tr(" (out of its limits)") if standing(gauge, after) in ("over", "under") else ""
            size_now = f"{'Ø' if gauge.round else ''}{gauge.text}"
            others.append(tr("{size} to {after}", size=size_now, after=plain(after, unit)) + out)
        also = ", ".join(others[:4])
        return (
            tr("{text} It also moves {also}.", text=text, also=also)
            if others
            else tr("{text} It moves nothing else that is listed.", text=text)
        )

    def _zero_name(self) -> str:
        """The work offset of the part that is looked at."""
        return self.desk.offset_name(self.desk.at)

    def _correct(self) -> None:
        gauge = self._off()
        way = self.desk.correction(gauge) if gauge is not None else None
        if way is not None:
            self.desk.correct(way)

    def _again(self) -> None:
        gauge = self._off()
        way = self.desk.correction(gauge) if gauge is not None else None
        if way is not None:
            self.desk.run(m.Start(line=way.first + 1, to=way.last + 1))
