"""The route card: the stock, and holding by holding how the part is held and the steps in cutting order, each a card."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QFont, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.panels import add_step_button, panel_area
from bastler.app.session import STOCK, Session, is_step
from bastler.app.theme import ROLES, colour, sans, tool_hue
from bastler.job import ZERO_CHOICES, BarStock, ViseHolding, edits
from bastler.language import as_inside, tr
from bastler.live.shown import ShownHolding, ShownProof, ShownStep
from bastler.proof.remark import ORDER
from bastler.steps import HandOver
from bastler.units import Kind, number_text

WIDTH = 282
CARD_HEIGHT, STOCK_HEIGHT, HOLDING_HEIGHT = 68, 68, 44
BAR = 52
"""Length of the bar for the spindle load."""
DRAG_FROM = 8


def draw_level(painter: QPainter, level: str, x: float, y: float, size: float = 10.0, *, dark: bool = False) -> None:
    """A level's shape: dot for good, question mark for open, diamond for a note, triangle for a caution, octagon for a stop."""
    names = {
        "stop": ROLES.stop_on_dark if dark else ROLES.stop,
        "caution": ROLES.caution_on_dark if dark else ROLES.caution,
        "note": ROLES.on_dark_soft if dark else ROLES.soft,
        "good": ROLES.good_on_dark if dark else ROLES.good,
        "open": ROLES.open_on_dark if dark else ROLES.focus,
    }
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(names[level]))
    r = size / 2
    if level in ("good", "open"):
        painter.drawEllipse(QRectF(x - r, y - r, size, size))
        if level == "open":
            painter.setPen(QColor(ROLES.dark if dark else ROLES.field))
            painter.setFont(sans(round(size * 0.85), bold=True))
            painter.drawText(QRectF(x - r, y - r, size, size), Qt.AlignmentFlag.AlignCenter, "?")
        return
    k = r * 0.42
    shapes = {
        "note": [(0, -r), (r, 0), (0, r), (-r, 0)],
        "caution": [(0, -r * 1.1), (r * 1.15, r * 0.85), (-r * 1.15, r * 0.85)],
        "stop": [(-k, -r), (k, -r), (r, -k), (r, k), (k, r), (-k, r), (-r, k), (-r, -k)],
    }
    painter.drawPolygon(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in shapes[level]]))


def draw_chucked(painter: QPainter, box: QRectF, *, turned: bool = False) -> None:
    """A bar in the jaws of a chuck, or of the one on the other side."""
    painter.save()
    if turned:
        painter.translate(2 * box.center().x(), 0.0)
        painter.scale(-1.0, 1.0)
    x, y, w, h = box.x(), box.y(), box.width(), box.height()
    painter.fillRect(QRectF(x + w * 0.2, y + h * 0.34, w * 0.8, h * 0.32), QColor(ROLES.metal))
    for top in (0.0, 0.68):
        painter.fillRect(QRectF(x, y + h * top, w * 0.4, h * 0.32), QColor(ROLES.jaw))
    painter.fillRect(QRectF(x, y, w * 0.16, h), QColor(ROLES.jaw))
    painter.restore()


def draw_handed(painter: QPainter, box: QRectF) -> None:
    """An arrow from one chuck to the other."""
    y, r = box.center().y(), box.height() * 0.3
    painter.setPen(QPen(QColor(ROLES.open_on_dark), 3.0, cap=Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right() - 2, y))
    painter.drawPolyline(QPolygonF([QPointF(box.right() - r, y - r), QPointF(box.right(), y), QPointF(box.right() - r, y + r)]))


def draw_held(painter: QPainter, box: QRectF, holding: ViseHolding) -> None:
    """A part between jaws, or on the table, seen from the side; with an arrow round it where it is turned over."""
    x, y, w, h = box.x(), box.y(), box.width(), box.height()
    painter.fillRect(QRectF(x + w * 0.2, y + h * 0.25, w * 0.6, h * 0.55), QColor(ROLES.metal))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(ROLES.jaw))
    if holding.vise == "yes":
        for left in (x, x + w * 0.8):
            painter.drawRect(QRectF(left, y + h * 0.5, w * 0.2, h * 0.5))
    else:
        painter.drawRect(QRectF(x, y + h * 0.82, w, h * 0.18))
    if holding.follows in ("over-x", "over-y"):
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(ROLES.focus), 2))
        painter.drawArc(QRectF(x + w * 0.22, y, w * 0.56, h * 0.7), 20 * 16, 140 * 16)
        tip = QPointF(x + w * 0.76, y + h * 0.26)
        painter.setBrush(QColor(ROLES.focus))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([tip, tip + QPointF(-6, -4), tip + QPointF(2, -6)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)


class Card(QWidget):
    """One card, painted whole. Dragging it moves the step."""

    chosen = pyqtSignal(str)
    dragged = pyqtSignal(str, int)
    released = pyqtSignal(str)
    menu_at = pyqtSignal(str, QPoint)

    def __init__(self, session: Session, ident: str) -> None:
        super().__init__()
        self.session, self.ident = session, ident
        self.setFixedHeight(HOLDING_HEIGHT if ident.startswith("holding:") else CARD_HEIGHT if ident != STOCK else STOCK_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self._pressed: int | None = None
        self._moving = False

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = int(event.globalPosition().y())
            self.chosen.emit(self.ident)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None or not is_step(self.ident):
            return
        by = int(event.globalPosition().y()) - self._pressed
        if self._moving or abs(by) > DRAG_FROM:
            self._moving = True
            self.dragged.emit(self.ident, int(event.globalPosition().y()))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._moving:
            self.released.emit(self.ident)
        self._pressed, self._moving = None, False

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event:
            self.chosen.emit(self.ident)
            self.menu_at.emit(self.ident, event.globalPos())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
            lit = self.session.selected == self.ident
            painter.setPen(QPen(QColor(ROLES.focus if lit else ROLES.hairline), 2 if lit else 1))
            tint = ROLES.setup_tint if self.ident == STOCK else ROLES.field if is_step(self.ident) else ROLES.holding_tint
            tint = ROLES.dark if self._hands_over else tint
            painter.setBrush(QColor(tint))
            painter.drawRoundedRect(box, 4, 4)
            if not self.session.shown:
                return
            if self.ident == STOCK:
                self._stock(painter)
            elif not is_step(self.ident):
                self._holding(painter, self.session.plan.holding(edits.held_at(self.ident)))
            else:
                planned = self.session.plan.step(self.ident)
                if planned is not None:
                    self._step(painter, planned)

    def _stock(self, painter: QPainter) -> None:
        held = self.session.plan.first
        stock, unit = held.stock, held.unit

        def say(value: float) -> str:
            return number_text(value, Kind.LENGTH, unit)

        if isinstance(stock, BarStock):
            painter.fillRect(QRectF(12, 16, 42, 12), QColor(ROLES.blue))
            painter.fillRect(QRectF(12, 36, 42, 12), QColor(ROLES.blue))
            if stock.form != "tube":
                painter.fillRect(QRectF(12, 28, 42, 8), QColor(ROLES.blue))
            size = {
                "bar": tr("Bar Ø{diameter}", diameter=say(stock.diameter)),
                "tube": tr("Tube Ø{diameter}, bore Ø{bore}", diameter=say(stock.diameter), bore=say(stock.bore)),
                "hex": tr("Hex bar {across_flats}", across_flats=say(stock.across_flats)),
                "forging": tr("Forging"),
            }[stock.form]
            part = tr("{length} long · part {finished}", length=say(stock.length), finished=say(stock.finished))
        else:
            painter.fillRect(QRectF(12, 15, 42, 38), QColor(ROLES.blue))
            painter.fillRect(QRectF(12, 15, 42, 9), QColor("#4B79B5"))
            across = [say(v) for v in held.flat.stock.size]
            size = (
                tr("Disc Ø{across} × {across_2}", across=across[0], across_2=across[2])
                if stock.round
                else tr("Block {across}", across=" × ".join(across))
            )
            part = tr("part {thickness} high", thickness=say(stock.thickness))
        self._text(painter, 66, 24, size, sans(14, bold=True), ROLES.ink)
        self._text(painter, 66, 41, self.session.job.material.called, sans(12), ROLES.soft)
        self._text(painter, 66, 58, part, sans(12), ROLES.soft)
        if any(not t.field.startswith("holding:") for t in self.session.plan.troubles):
            draw_level(painter, "stop", self.width() - 18, 18, 12)

    def _holding(self, painter: QPainter, held: ShownHolding) -> None:
        """How the part is held: jaws about it, an arrow where it is turned over."""
        holding, unit = held.holding, held.unit

        def say(value: float) -> str:
            return number_text(value, Kind.LENGTH, unit)

        place = QRectF(14, 8, 34, 28)
        if isinstance(holding, ViseHolding):
            draw_held(painter, place, holding)
            grip = tr("grips {grip} · ", grip=say(holding.grip)) if holding.vise == "yes" and holding.grip is not None else ""
            words = tr(
                "{grip}zero {lower}, {work_offset}",
                grip=grip,
                lower=as_inside(tr(ZERO_CHOICES[holding.zero])),
                work_offset=holding.work_offset,
            )
        else:
            draw_chucked(painter, place, turned=holding.handed)
            face = tr("front") if holding.follows == "first" else tr("back")
            words = tr("{stick_out} out · zero on the {face}", stick_out=say(holding.stick_out), face=face)
        self._text(painter, 60, 18, holding.titled(self.session.job.card), sans(13, bold=True), ROLES.ink, 26)
        self._text(painter, 60, 35, words, sans(12), ROLES.soft)
        if any(t.field.startswith(f"{self.ident}.") for t in held.troubles):
            draw_level(painter, "stop", self.width() - 14, 13, 11)
            return
        proof = self.session.whole.get(holding.id) if self.session.whole else None
        levels = {r.level for r in proof.remarks if not r.step} if proof else set()
        worst = next((level for level in ORDER if level in levels), "")
        if worst in ("stop", "open", "caution"):
            painter.setOpacity(0.45 if self.session.stale else 1.0)
            draw_level(painter, worst, self.width() - 14, 13, 11)
            painter.setOpacity(1.0)

    def _step(self, painter: QPainter, planned: ShownStep) -> None:
        step = planned.filled
        number = edits.index_of(self.session.job, step.id) + 1
        hues = [tool_hue(t.station) for t in planned.tools]
        over = self._hands_over
        if not over:
            painter.fillRect(QRectF(0, 2, 5, self.height() - 4), QColor(hues[-1] if hues and step.on else ROLES.hairline))
        ink, soft = (ROLES.on_dark, ROLES.on_dark_soft) if over else (ROLES.ink if step.on else ROLES.soft, ROLES.soft)
        self._text(painter, 18, 23, str(number), sans(12), soft)
        title = step.title
        self._text(painter, 38, 23, title, sans(14, bold=True), ink, 34)
        bad = planned.troubles
        line = bad[0].text if bad else planned.summary
        wrong = (ROLES.stop_on_dark if over else ROLES.stop) if bad and not bad[0].open else ROLES.focus
        self._text(painter, 38, 41, line, sans(12), wrong if bad else soft)
        if over:
            draw_handed(painter, QRectF(38, 48, 40, 14))
            if not step.on:
                self._text(painter, 150, 58, tr("switched off"), sans(12, italic=True), soft)
        else:
            self._tools_line(painter, planned)
        self._mark(painter, planned)

    @property
    def _hands_over(self) -> bool:
        """Is it the card of a hand-over?"""
        return isinstance(self.session.job.step(self.ident), HandOver)

    def _proof(self) -> ShownProof | None:
        """Of the holding that the step is in."""
        whole = self.session.whole
        return whole.get(self.session.job.holding_of(self.ident).id) if whole else None

    def _tools_line(self, painter: QPainter, planned: ShownStep) -> None:
        seen = list({t.id: t for t in planned.tools}.values())
        words = " · ".join(t.says if len(seen) == 1 else f"T{t.station}" for t in seen)
        x = self._text(painter, 38, 58, words, sans(12), tool_hue(seen[-1].station) if seen else ROLES.soft, BAR + 24)
        proof = self._proof()
        if proof is None or not planned.filled.on:
            if not planned.filled.on:
                self._text(painter, max(x + 10, 150), 58, tr("switched off"), sans(12, italic=True), ROLES.soft)
            return
        peak = max((s.peak_power for s in proof.stages if s.step == planned.id), default=0.0)
        share = min(peak / proof.card.power, 1.0)
        left = self.width() - BAR - 16.0
        painter.fillRect(QRectF(left, 52, BAR, 4), QColor(ROLES.track))
        painter.fillRect(QRectF(left, 52, BAR * share, 4), QColor(tool_hue(seen[-1].station) if seen else ROLES.soft))

    def _mark(self, painter: QPainter, planned: ShownStep) -> None:
        at = (self.width() - 17.0, 18.0)
        if not planned.filled.on:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(ROLES.on_dark_soft if self._hands_over else ROLES.soft), 1.5))
            painter.drawEllipse(QRectF(at[0] - 5, at[1] - 5, 10, 10))
            return
        if planned.troubles:
            draw_level(painter, "open" if planned.troubles[0].open else "stop", *at, 14, dark=self._hands_over)
            return
        if self._proof() is None:
            return
        levels = {r.level for r in self.session.remarks_of(planned.id)}
        worst = next((level for level in ORDER if level in levels), "good")
        painter.setOpacity(0.45 if self.session.stale else 1.0)
        draw_level(painter, worst, *at, 12 if worst != "good" else 10, dark=self._hands_over)
        painter.setOpacity(1.0)

    def _text(self, painter: QPainter, x: float, y: float, text: str, font: QFont, ink: str, room: float = 14) -> float:
        """Draws text cut to the card; gives where it ends."""
        painter.setFont(font)
        painter.setPen(colour(ink))
        metrics = painter.fontMetrics()
        shown = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(self.width() - x - room))
        painter.drawText(QPointF(x, y), shown)
        return x + metrics.horizontalAdvance(shown)


class RouteCard(QWidget):
    """The column of cards with the button that opens the board."""

    wants_board = pyqtSignal()
    wants_menu = pyqtSignal(str, QPoint)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(WIDTH)
        self.setAccessibleName(tr("Route card"))
        self.cards: dict[str, Card] = {}
        self._order: list[str] = []
        self.area = panel_area()
        self.body = QWidget()
        self.column = QVBoxLayout(self.body)
        self.column.setContentsMargins(11, 10, 11, 10)
        self.column.setSpacing(6)
        self.add = add_step_button()
        self.add.clicked.connect(self.wants_board)
        self.area.setWidget(self.body)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.area)
        session.job_changed.connect(self.refresh)
        session.plan_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.proof_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Shows the steps as they are."""
        order = self.session.cards()
        if order != self._order:
            self._rebuild(order)
        for card in self.cards.values():
            card.update()
        chosen = self.cards.get(self.session.selected)
        if chosen is not None:
            self.area.ensureWidgetVisible(chosen, 0, 8)

    def _rebuild(self, order: list[str]) -> None:
        self._order = order
        while self.column.count():
            self.column.takeAt(0)
        for ident, card in list(self.cards.items()):
            if ident not in order:
                card.deleteLater()
                del self.cards[ident]
        for ident in order:
            if ident not in self.cards:
                self.cards[ident] = self._card(ident)
            self.column.addWidget(self.cards[ident])
        self.column.addWidget(self.add)
        self.column.addStretch(1)

    def _card(self, ident: str) -> Card:
        card = Card(self.session, ident)
        card.chosen.connect(self.session.select)
        card.dragged.connect(self._dragged)
        card.released.connect(lambda _: self.session.history.settle())
        card.menu_at.connect(self.wants_menu)
        return card

    def _dragged(self, ident: str, y: int) -> None:
        """While a card is dragged the route is always in the order it would have."""
        here = self.body.mapFromGlobal(QPoint(0, y)).y()
        others = [s for s in self._order[2:] if s != ident]
        place = sum(1 for s in others if self.cards[s].geometry().center().y() < here)
        if [*others[:place], ident, *others[place:]] != self._order[2:]:
            self.session.edit(edits.step_moved(self.session.job, ident, place), tr("Move the step"), merge=f"move {ident}")
