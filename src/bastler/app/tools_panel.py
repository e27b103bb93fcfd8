"""The tools in the machine: what they have done, how long they last, their wear."""

from __future__ import annotations

from functools import partial

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.app.machine_desk import SOON, MachineDesk
from bastler.app.number_row import NumberRow
from bastler.app.panels import emptied, panel_area
from bastler.app.sizes_panel import plain
from bastler.app.theme import DAY, tool_hue
from bastler.link import messages as m
from bastler.tools import AnyTool
from bastler.units import Kind, many


class ToolsPanel(QWidget):
    """A card for each tool of the program."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 2, 10)
        head = Label("Tools in the machine")
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
        self._says: dict[int, tuple[Label, Label, QFrame]] = {}
        self._shown: list[AnyTool] = []
        desk.changed.connect(self.refresh)

    def refresh(self) -> None:
        """The cards as things stand."""
        if not self.desk.session.has_job or not self.desk.session.plan.holdings:
            return
        tools = self.desk.used()
        if [t.id for t in tools] != [t.id for t in self._shown]:
            self._shown = tools
            emptied(self.list)
            self.lives, self._says = {}, {}
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
        head, life = Label(f"T{tool.station} {tool.name}"), Label()
        head.setStyleSheet("font-weight: bold;")
        hue = QFrame()
        hue.setFixedSize(5, 16)
        hue.setStyleSheet(f"background: {tool_hue(tool.station)};")
        row.addWidget(hue)
        row.addWidget(head, 1)
        row.addWidget(life)
        inner.addLayout(row)
        says = Label()
        says.setObjectName("soft")
        says.setWordWrap(True)
        inner.addWidget(says)
        lasts = NumberRow("Lasts, minutes of cutting", self.desk.unit, Kind.NUMBER)
        lasts.given.connect(partial(self._live, tool.station))
        inner.addWidget(lasts)
        self.lives[tool.station] = lasts
        self._says[tool.station] = (says, life, frame)
        self.list.addWidget(frame)

    def _live(self, station: int, minutes: float) -> None:
        self.desk.lives[station] = minutes
        self.refresh()

    def _tell(self, tool: AnyTool) -> None:
        says, life, frame = self._says[tool.station]
        one = self.desk.tools.get(tool.station, m.ToolOffset(tool.station))
        unit = self.desk.unit
        words = [f"{one.minutes:.1f} min, {many(one.pieces, 'piece')}"]
        if one.wear_x:
            words.append(f"wear X {plain(2 * one.wear_x, unit)} in diameter")
        if one.wear_z:
            words.append(f"wear Z {plain(one.wear_z, unit)}")
        if one.wear_diameter:
            words.append(f"wear in diameter {plain(one.wear_diameter, unit)}")
        says.setText(" · ".join(words))
        share = self.desk.worn_out(tool.station)
        text, tint = "", DAY.hairline
        if tool.station in self.desk.broken:
            text, tint = "broken", DAY.stop
        elif share is not None and share >= 1.0:
            text, tint = "its life is over", DAY.stop
        elif share is not None and share >= SOON:
            text, tint = "over soon", DAY.caution
        elif share is not None:
            text = f"{share:.0%} used"
        life.setText(text)
        life.setStyleSheet(f"color: {DAY.soft if tint == DAY.hairline else tint}; font-weight: bold;")
        frame.setStyleSheet(f"QFrame#tool {{ background: {DAY.field}; border: 1px solid {tint}; border-radius: 5px; }}")
