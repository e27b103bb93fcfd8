"""The tools in the machine: what they have done, how long they last, their wear."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QColor, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.labels import Label
from bastler.app.machine_desk import SOON, MachineDesk
from bastler.app.number_row import NumberRow
from bastler.app.panels import emptied, panel_area
from bastler.app.sizes_panel import plain
from bastler.app.theme import ROLES, dress, tool_hue
from bastler.language import many, tr
from bastler.link import messages as m
from bastler.live.measured import Wear
from bastler.tools import AnyTool
from bastler.units import Kind, Unit

MOST = 24
"""So many parts are seen in a trend."""


class Trend(QWidget):
    """How the wear of a tool has gone from part to part, over a line at nought: a small chart."""

    def __init__(self) -> None:
        super().__init__()
        self.wears: Sequence[float] = ()
        self.setFixedSize(QSize(96, 30))

    def tell(self, wears: Sequence[float], unit: Unit) -> None:
        """The corrections of one part after the other, the newest last."""
        self.wears = list(wears)[-MOST:]
        self.setVisible(any(self.wears))
        self.setToolTip(tr("Wear from part to part: ") + ", ".join(plain(wear, unit) for wear in self.wears))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        most = max(map(abs, self.wears), default=0.0)
        if most <= 0.0:
            return
        with painting(self) as painter:
            middle, wide = self.height() / 2, self.width() - 8.0
            painter.setPen(QPen(QColor(ROLES.hairline), 1.0))
            painter.drawLine(QPointF(0, middle), QPointF(self.width(), middle))
            step = wide / max(len(self.wears) - 1, 1)
            points = [QPointF(4 + k * step, middle - wear / most * (middle - 4)) for k, wear in enumerate(self.wears)]
            painter.setPen(QPen(QColor(ROLES.soft), 1.6))
            painter.drawPolyline(QPolygonF(points))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ROLES.ink))
            painter.drawEllipse(points[-1], 3.5, 3.5)


class ToolsPanel(QWidget):
    """A card for each tool of the program."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 2, 10)
        head = Label(tr("Tools in the machine"))
        head.setStyleSheet("font-size: 15px; font-weight: bold;")
        column.addWidget(head)
        area = panel_area()
        holder = QWidget()
        self.list = QVBoxLayout(holder)
        self.list.setContentsMargins(0, 0, 12, 0)
        self.list.setSpacing(6)
        area.setWidget(holder)
        column.addWidget(area, 1)
        self.lives: dict[int, NumberRow] = {}
        self.trends: dict[int, Trend] = {}
        self._says: dict[int, tuple[Label, Label, QFrame]] = {}
        self._shown: list[AnyTool] = []
        desk.changed.connect(self.refresh)

    def refresh(self) -> None:
        """The cards as things stand."""
        if not self.desk.planned:
            return
        tools = self.desk.used()
        if [t.id for t in tools] != [t.id for t in self._shown]:
            self._shown = tools
            emptied(self.list)
            self.lives, self._says, self.trends = {}, {}, {}
            for tool in tools:
                self._card(tool)
            self.list.addStretch(1)
        for tool in tools:
            self._tell(tool)

    def _card(self, tool: AnyTool) -> None:
        frame = QFrame()
        frame.setObjectName("tool")
        inner = QVBoxLayout(frame)
        inner.setContentsMargins(12, 7, 10, 7)
        inner.setSpacing(3)
        row = QHBoxLayout()
        head, life = Label(f"T{tool.station} {tool.called}"), Label()
        head.setStyleSheet("font-weight: bold;")
        hue = QFrame()
        hue.setFixedSize(5, 16)
        dress(hue, f"background: {tool_hue(tool.station)};")
        row.addWidget(hue)
        row.addWidget(head, 1)
        row.addWidget(life)
        inner.addLayout(row)
        says, trend = Label(), Trend()
        says.setObjectName("soft")
        says.setWordWrap(True)
        trend.setAccessibleName(tr("Wear of T{station} from part to part", station=tool.station))
        under = QHBoxLayout()
        under.addWidget(says, 1)
        under.addWidget(trend)
        inner.addLayout(under)
        lasts = NumberRow(tr("Lasts, minutes of cutting"), self.desk.unit, Kind.NUMBER)
        lasts.given.connect(partial(self._live, tool.station))
        inner.addWidget(lasts)
        self.lives[tool.station] = lasts
        self._says[tool.station] = (says, life, frame)
        self.trends[tool.station] = trend
        self.list.addWidget(frame)

    def _live(self, station: int, minutes: float) -> None:
        self.desk.lives[station] = minutes
        self.refresh()

    def _tell(self, tool: AnyTool) -> None:
        says, life, frame = self._says[tool.station]
        one = self.desk.tools.get(tool.station, m.ToolOffset(tool.station))
        unit = self.desk.unit
        words = [tr("{minutes:.1f} min, {many}", minutes=one.minutes, many=many(one.pieces, "piece"))]
        if one.wear_x:
            words.append(tr("wear X {wear_x} in diameter", wear_x=plain(2 * one.wear_x, unit)))
        if one.wear_z:
            words.append(tr("wear Z {wear_z}", wear_z=plain(one.wear_z, unit)))
        if one.wear_diameter:
            words.append(tr("wear in diameter {wear_diameter}", wear_diameter=plain(one.wear_diameter, unit)))
        says.setText(" · ".join(words))
        wears = [wear.largest for _, wear in self.desk.book.wears(tool.station)]
        self.trends[tool.station].tell([*wears, Wear.of(one).largest], unit)
        share = self.desk.worn_out(tool.station)
        text, tint = "", ROLES.hairline
        if tool.station in self.desk.broken:
            text, tint = tr("broken"), ROLES.stop
        elif share is not None and share >= 1.0:
            text, tint = tr("its life is over"), ROLES.stop
        elif share is not None and share >= SOON:
            text, tint = tr("over soon"), ROLES.caution
        elif share is not None:
            text = tr("{share:.0%} used", share=share)
        life.setText(text)
        dress(life, f"color: {ROLES.soft if tint == ROLES.hairline else tint}; font-weight: bold;")
        dress(frame, f"QFrame#tool {{ background: $field; border: 1px solid {tint}; border-radius: 5px; }}")
