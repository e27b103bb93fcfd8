"""Start, hold and reset, and the switches beside them."""

from __future__ import annotations

from functools import partial
from typing import Any

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from bastler.app.machine_desk import MachineDesk
from bastler.app.theme import ROLES, dress
from bastler.language import many, tr
from bastler.link import messages as m

PACES = (1.0, 4.0, 16.0, 64.0)
DRY_MM = 50.0
"""So far over the part a dry run goes."""
WEAR_MM, AFTER = 0.02, 30.0
"""By how much an insert is worn, and after how many seconds the power goes, where trouble is asked for."""
HOLES = (1, 2, 3, 4)


class RunBar(QWidget):
    """What a control has under its screen."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self._asked = False
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 8)
        row.setSpacing(6)
        self.start = QPushButton(tr("Start"))
        self.start.setObjectName("main")
        self.start.setFixedWidth(116)
        self.start.clicked.connect(self.start_or_hold)
        self.reset = QPushButton(tr("Reset"))
        self.reset.setObjectName("view")
        self.reset.clicked.connect(lambda: desk.do(m.Reset()))
        row.addWidget(self.start)
        row.addWidget(self.reset)
        row.addStretch(1)
        self.switches: dict[str, QPushButton] = {}
        for name, says, tip in (
            ("single", tr("One block"), tr("Holds at the end of every line")),
            ("optional_stop", tr("Optional stop"), tr("Stops at M1 too")),
            ("block_delete", tr("Skip / lines"), tr("Lines that begin with / are passed over from the next start on")),
        ):
            button = QPushButton(says)
            button.setObjectName("view")
            button.setCheckable(True)
            button.setToolTip(tip)
            button.clicked.connect(partial(self._switch, name))
            self.switches[name] = button
            row.addWidget(button)
        self.dry = QPushButton(tr("Dry run"))
        self.dry.setObjectName("view")
        self.dry.setCheckable(True)
        self.dry.setToolTip(tr("The next start goes {dry_mm:g} mm over the part and cuts nothing", dry_mm=DRY_MM))
        row.addWidget(self.dry)
        self.more = QPushButton(tr("Stand-in"))
        self.more.setObjectName("view")
        self.menu = QMenu(self)
        self.menu.aboutToShow.connect(self._make_menu)
        self.more.setMenu(self.menu)
        row.addWidget(self.more)
        for button in (self.reset, *self.switches.values(), self.dry, self.more):
            button.setStyleSheet("padding: 0 5px;")
        desk.changed.connect(self.refresh)

    # -- start and hold ---------------------------------------------------------------------------------------------

    def start_or_hold(self) -> None:
        """Starts, holds or goes on, as the machine stands."""
        desk, mode = self.desk, self.desk.mode
        if mode == "running":
            desk.do(m.Hold())
        elif mode in ("held", "stopped"):
            desk.do(m.Resume())
        elif mode == "off":
            desk.do(m.PowerOn())
        elif mode == "lost":
            desk.do(m.Home())
        elif mode == "alarm":
            desk.do(m.Reset())
        elif mode == "ready":
            self._start()

    def _start(self) -> None:
        left = self.desk.open_items
        if left and not self._asked:
            self._asked = True
            names = ", ".join(item.title for item in left[:3])
            more = tr(" and {left} more", left=len(left) - 3) if len(left) > 3 else ""
            self.desk.said.emit(
                "wrong",
                tr(
                    "{many} open: {names}{more}. Press again to start all the same.",
                    many=many(len(left), "thing"),
                    names=names,
                    more=more,
                ),
            )
            self.refresh()
            return
        self._asked = False
        self.desk.run(m.Start(dry=DRY_MM * self.desk.mm if self.dry.isChecked() else 0.0))

    def _switch(self, name: str) -> None:
        self.desk.switch(**{name: self.switches[name].isChecked()})

    def refresh(self) -> None:
        """The buttons as the machine stands."""
        status = self.desk.status
        mode = self.desk.mode
        if not self.desk.planned:
            return
        left = self.desk.open_items if mode == "ready" else []
        if not left:
            self._asked = False
        words = {
            "running": tr("Hold"),
            "held": tr("Go on"),
            "stopped": tr("Go on"),
            "off": tr("Power on"),
            "lost": tr("All home"),
            "alarm": tr("Reset"),
            "jogging": tr("Moving"),
        }
        self.start.setText(words.get(mode, tr("Start all the same") if self._asked else tr("Start")))
        self.start.setEnabled(mode not in ("", "jogging"))
        tint = {"running": ROLES.focus, "alarm": ROLES.stop, "off": ROLES.stop}.get(mode, ROLES.strong if left else ROLES.good)
        disabled = f"QPushButton:disabled {{ background: {ROLES.hairline}; }}"
        dress(self.start, f"QPushButton {{ background: {tint}; padding: 0 4px; }} {disabled}")
        self.reset.setEnabled(mode in ("running", "held", "stopped", "alarm", "jogging"))
        self.dry.setEnabled(mode == "ready")
        for name, button in self.switches.items():
            button.setEnabled(status is not None)
            button.setChecked(bool(getattr(status, name, False)))
        self.more.setEnabled(status is not None)

    # -- the stand-in's own -----------------------------------------------------------------------------------------

    def _make_menu(self) -> None:
        """Its clock, and the trouble that can be asked for."""
        self.menu.clear()
        for pace in PACES:
            self._entry(self.menu, tr("Clock {pace:g} times as fast", pace=pace), m.Pace(times=pace))
        self.menu.addSeparator()
        drills = [t for t in self.desk.used() if getattr(t, "kind", "") == "drill"]
        for tool in drills[:8]:
            own = self.menu.addMenu(tr("T{station} breaks", station=tool.station))
            for hole in HOLES if own is not None else ():
                self._entry(own, tr("in hole {hole}", hole=hole), m.Fault(what="break", station=tool.station, hole=hole))
        worn = self.menu.addMenu(tr("An edge wears"))
        for tool in self.desk.used()[:16]:
            wear = m.Fault(what="wear", station=tool.station, by=WEAR_MM * self.desk.mm)
            self._entry(worn, tr("T{station} {name}, by {wear:g} mm", station=tool.station, name=tool.called, wear=WEAR_MM), wear)
        self._entry(self.menu, tr("The power goes after {after:g} s", after=AFTER), m.Fault(what="power", after=AFTER))
        self.menu.addSeparator()
        leave = QAction(tr("End the stand-in"), self.menu)
        leave.triggered.connect(lambda: self.desk.link.leave())
        self.menu.addAction(leave)

    def _entry(self, menu: Any, says: str, request: m.AnyRequest) -> None:
        action = QAction(says, menu)
        action.triggered.connect(
            lambda: self.desk.do(request, lambda _: self.desk.said.emit("", tr("{says}: as you wish.", says=says)))
        )
        menu.addAction(action)
