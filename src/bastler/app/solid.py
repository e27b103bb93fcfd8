"""The solid view: the part as cut at the strip's cursor, in marking blue and bright metal, with tool, path and section."""

from __future__ import annotations

import contextlib
import importlib
import logging
import threading
from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider

from bastler.app.labels import Label
from bastler.app.panels import NARROW
from bastler.app.scene_room import NO_OPENGL, SceneRoom
from bastler.app.session import Session
from bastler.app.theme import ROLES, tool_hue
from bastler.app.touch_bar import OffScale, TouchBar
from bastler.app.zooming import NOTCH
from bastler.language import sayable, tr
from bastler.live.shown import Flat, ShownProof, ShownStage, Turned
from bastler.proof.faces import Mesh, Others
from bastler.proof.polar.planes import CutPlane
from bastler.proof.polar.upright import upright
from bastler.proof.scrub import Moment
from bastler.proof.touch import Touch, Vector

if TYPE_CHECKING:
    from bastler.app.solid_scene import Picked

log = logging.getLogger(__name__)
STILL = 200
"""Milliseconds without a move after which the part is shown in full."""
MAKING = 400
"""Milliseconds without the part after which that is said."""
LOAD_AFTER = 2500
"""Milliseconds after a proof in which nobody asked for the solid after which its toolkit is loaded."""
LOOKS = {sayable("Full"): (1.0, True), sayable("See through"): (0.28, True), sayable("Edges"): (0.0, False)}
"""How the part is looked at: how solid it is, and whether its faces are there at all."""
TURNS = {
    Qt.Key.Key_Left: (15.0, 0.0),
    Qt.Key.Key_Right: (-15.0, 0.0),
    Qt.Key.Key_Up: (0.0, -15.0),
    Qt.Key.Key_Down: (0.0, 15.0),
}
NEARER = {"+": NOTCH, "=": NOTCH, "-": 1 / NOTCH}
VIEWS = {
    sayable("Iso"): ((-0.55, -1.0, 0.85), (0, 0, 1)),
    sayable("Top"): ((0, 0, 1), (0, 1, 0)),
    sayable("Below"): ((-0.55, -1.0, -0.85), (0, 0, -1)),
    sayable("Front"): ((0, -1, 0), (0, 0, 1)),
    sayable("Right"): ((1, 0, 0), (0, 0, 1)),
}


class SolidView(SceneRoom):
    """Drag turns, the wheel zooms, the middle button moves. Made when it is first shown; without OpenGL it says so."""

    def none_says(self) -> str:
        return tr(NO_OPENGL) + "\n" + tr("Sheet, path, strip and program work all the same.")

    def __init__(self, session: Session) -> None:
        super().__init__(render_after=0)
        self.session = session
        self._loading = False
        self._side = "Iso"
        self._moved = False
        self._fresh_view = True
        self._marks: list[Vector] = []
        self.section = QSlider(Qt.Orientation.Horizontal)
        self.section.setRange(0, 100)
        self.section.setFixedWidth(72)
        self.section.setToolTip(tr("Cuts the part open from the front"))
        self.section.setAccessibleName(tr("Section plane"))
        self.section.valueChanged.connect(self.ask)
        row = QHBoxLayout()
        row.setContentsMargins(14, 4, 14, 8)
        row.setSpacing(4)
        for name in VIEWS:
            button = QPushButton(tr(name))
            button.setStyleSheet(NARROW)
            button.setObjectName("view")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, n=name: self.look(n))
            row.addWidget(button)
        row.addSpacing(4)
        cut = Label(tr("Cut open"))
        row.addWidget(cut)
        row.addWidget(self.section)
        self.cut_parts = (cut, self.section)
        self.quarter = QPushButton(tr("Quarter off"))
        self.quarter.setObjectName("view")
        self.quarter.setCheckable(True)
        self.quarter.setChecked(True)
        self.quarter.setToolTip(tr("Takes the quarter toward you away, to see inside"))
        self.quarter.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.quarter.toggled.connect(self.ask)
        row.addWidget(self.quarter)
        self.path_button = QPushButton(tr("Path"))
        self.path_button.setObjectName("view")
        self.path_button.setCheckable(True)
        self.path_button.setToolTip(tr("Shows the path of the stage at the cursor"))
        self.path_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.path_button.toggled.connect(self._tool_moved)
        self._look = next(iter(LOOKS))
        self.look_button = QPushButton(tr(self._look))
        self.look_button.setObjectName("view")
        self.look_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.look_button.setToolTip(tr("In full, to see through, or its edges alone (Alt+S)"))
        self.look_button.clicked.connect(self.next_look)
        self.off_button = QPushButton(tr("Compare"))
        self.off_button.setObjectName("view")
        self.off_button.setCheckable(True)
        self.off_button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.off_button.setToolTip(tr("Colours what is still to go and what is missing, by how much (Alt+D)"))
        self.off_button.toggled.connect(self.ask)
        row.addStretch(1)
        for button in (self.quarter, self.look_button, self.off_button, self.path_button):
            button.setStyleSheet(NARROW)
        for button in (self.look_button, self.off_button, self.path_button):
            row.addWidget(button)
        self.touch_bar = TouchBar(session)
        self.touch_bar.went.connect(session.pick_move)
        self.touch_bar.closed.connect(self.let_go)
        self.off_scale = OffScale()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.column.addWidget(self.off_scale)
        self.column.addWidget(self.touch_bar)
        self.column.addLayout(row)
        session.proof_changed.connect(self.let_go)
        session.proof_changed.connect(self.ask)
        session.cursor_changed.connect(self._moves_on)
        session.selection_changed.connect(self._tool_moved)
        self._load = QTimer(self)
        self._load.setSingleShot(True)
        self._load.timeout.connect(self._load_toolkit)
        session.proof_changed.connect(self._load_soon)
        self._making = QTimer(self)
        self._making.setSingleShot(True)
        self._making.setInterval(MAKING)
        self._making.timeout.connect(lambda: self.touch_bar.say_making(making=not self.shown))
        self._still = QTimer(self)
        self._still.setSingleShot(True)
        self._still.timeout.connect(self.ask)

    def _load_soon(self) -> None:
        if self.scene is None and not self._loading:
            self._load.start(LOAD_AFTER)

    def _load_toolkit(self) -> None:
        """Loads the 3-D toolkit before it is wanted, on a thread of its own: it takes a while."""
        if self.scene is None and not self._loading:
            self._loading = True
            threading.Thread(target=_toolkit, name="toolkit", daemon=True).start()

    def _made(self) -> None:
        self.scene.touched = self._touched

    # -- what is shown --------------------------------------------------------------------------------------------

    def ask(self) -> None:
        """Asks for the part at the cursor."""
        proof = self.session.proof
        if not self.scene or not self.isVisible() or proof is None:
            return
        self.shown = False
        if not self._making.isActive():
            self._making.start()
        self._dress()
        if isinstance(proof.around, Flat):
            stock, share = proof.around.stock, self.section.value() / 100.0
            plane = stock.lo[1] + stock.size[1] * share if share > 0 else None
        else:
            plane = 0.0 if self.quarter.isChecked() else None
        rough, self._moved = self._moved, False
        compared = self.off_button.isChecked()
        self.off_scale.unit = proof.unit
        self.off_scale.setVisible(compared)
        given = (self.session.held_id, self.session.moment, plane, rough, compared)
        self.session.core.ask("solid", *given, then=self._meshed)
        if rough:
            self._still.start(STILL)

    def _moves_on(self) -> None:
        """While the cursor moves the part is seen a little rougher, and in full when it stands still."""
        self._moved = True
        self.ask()

    def _dress(self) -> None:
        """What can be pressed follows the kind of part."""
        turned = self.session.job.turns
        self.quarter.setVisible(turned)
        for part in self.cut_parts:
            part.setVisible(not turned)

    # -- what is touched ----------------------------------------------------------------------------------------

    def _touched(self, picked: Picked) -> None:
        """A place of the part was touched: what there is to say of it is asked for."""
        session = self.session
        if session.proof is None or session.stale:
            return
        shifts = [part.shift for part in session.held.parts] if isinstance(session.proof.around, Flat) else []
        part = shifts.index(picked.shift) if picked.shift in shifts else 0
        asked = (session.held_id, session.moment, part, picked.place, picked.normal, picked.inside)
        session.core.ask("touch", *asked, then=lambda found, trouble: self._told(found, picked))

    def _told(self, found: Touch | None, picked: Picked) -> None:
        if found is None or not self.scene:
            return
        self.touch_bar.show_touch(found)
        first = self.touch_bar.first
        turned = self.session.job.turns
        own = picked.place if turned or found.face.kind == "inside" else found.place
        self._marks = [*self._marks[:1], own] if first is not None else [own]
        self.scene.show_marks([(x + a, y + b, z + c) for (x, y, z), (a, b, c) in ((m, picked.shift) for m in self._marks)])
        self.session.point_at(found.move)
        self._render_timer.start()

    def let_go(self) -> None:
        """Nothing is touched any more."""
        self._marks = []
        self.touch_bar.forget()
        self.session.point_at(-1)
        if self.scene:
            self.scene.show_marks([])
            self._render_timer.start()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows turn the part, + and - bring it nearer or further off, Enter touches what is in the middle."""
        if event is None or not self.scene:
            super().keyPressEvent(event)
            return
        key = Qt.Key(event.key())
        if key in TURNS:
            self.scene.turn_by(*TURNS[key])
        elif event.text() in NEARER:
            self.scene.zoom_by(NEARER[event.text()])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.scene.touch_middle()
        elif key == Qt.Key.Key_Escape and self.touch_bar.touch is not None:
            self.let_go()
        else:
            super().keyPressEvent(event)

    def zoom_by(self, factor: float | None) -> None:
        """Nearer by a factor; None for all of it."""
        if self.scene and factor is not None:
            self.scene.zoom_by(factor)
        elif self.scene:
            self.look(self._side)

    def next_look(self) -> None:
        """In full, to see through, its edges alone, and round again."""
        names = list(LOOKS)
        look = names[(names.index(self._look) + 1) % len(names)]
        self._look = look
        self.look_button.setText(tr(look))
        self.look_button.setChecked(look != names[0])
        if self.scene:
            self.scene.show_as(*LOOKS[look])
            self._render_timer.start()

    def next_side(self) -> None:
        """The next of the standard views."""
        names = list(VIEWS)
        self.look(names[(names.index(self._side) + 1) % len(names)])

    def _meshed(self, found: tuple[Mesh, Others] | None, trouble: str) -> None:
        if not self.scene or found is None:
            return
        mesh, others = found
        self.shown = True
        self._making.stop()
        self.touch_bar.say_making(making=False)
        self.scene.show_part(mesh)
        self.scene.show_others(others)
        self._tool_moved()
        if self._fresh_view:
            self._fresh_view = False
            self.look("Iso")

    def _opposite(self, proof: ShownProof, around: Turned, moment: Moment) -> None:
        """The second chuck on its way to the part and while both hold it; where it goes the part goes, and that stays here."""
        assert self.scene
        two = around.second
        if two is not None and moment.move >= 0:
            begin, end = proof.trace.w[moment.move]
            w = proof.trace.w_at(moment.move, moment.share)
            if end <= begin and w < two.home:
                jaws = [region for name, region in two.regions if name == "second-jaws"]
                self.scene.show_opposite(jaws, two.face(w))
                return
        self.scene.show_opposite([], 0.0)

    def _tool_moved(self) -> None:
        proof, moment = self.session.proof, self.session.moment
        if not self.scene or proof is None:
            return
        if isinstance(proof.around, Turned):
            self.scene.show_chuck([region for name, region in proof.around.keep_out if name != "chuck"])
            self._opposite(proof, proof.around, moment)
        else:
            self.scene.show_jaws(proof.around.jaws)
            self.scene.show_opposite([], 0.0)
        stage = proof.stages[moment.stage] if moment.stage >= 0 else None
        tool = stage.run.tool if stage else None
        ended = moment.time >= proof.total
        if tool is None or ended:
            self.scene.hide_tool()
        elif isinstance(proof.around, Turned):
            tip = upright(np.array(moment.tip)).tolist()
            turned = (
                proof.trace.angle[moment.move, 1]
                if proof.trace.stands[moment.move] and not proof.trace.polar[moment.move]
                else 0.0
            )
            self.scene.show_turning_tool(tool, tip, float(turned), tool_hue(tool.station))
        else:
            self.scene.show_tool(tool, moment.tip, tool_hue(tool.station))
        self._show_path(None if ended else stage)
        self._render_timer.start()

    def _show_path(self, stage: ShownStage | None) -> None:
        """The path of the stage at the cursor with its move lit; at the end that of the selected step."""
        proof, moment = self.session.proof, self.session.moment
        nothing = np.zeros((0, 6))
        if proof is not None and isinstance(proof.around, Turned):
            stage_lines = stage.run.segments if stage is not None and self.path_button.isChecked() else nothing
            own = stage.run.owner == moment.move - stage.begin if stage is not None else np.zeros(0, bool)
            now = stage_lines[own] if len(stage_lines) else nothing
            self.scene.show_path(_stood_up(stage_lines), tool_hue(max(stage.tool, 1)) if stage else ROLES.soft, _stood_up(now))
            return
        if proof is None or not self.path_button.isChecked():
            self.scene.show_path(nothing, ROLES.soft, nothing)
        elif stage is not None:
            own = stage.run.owner == moment.move - stage.begin
            self.scene.show_path(stage.run.segments, tool_hue(max(stage.tool, 1)), stage.run.segments[own])
        else:
            chosen = [s for s in proof.stages if s.step == self.session.selected]
            parts = [s.run.segments for s in chosen]
            hue = tool_hue(chosen[0].tool) if chosen else ROLES.soft
            self.scene.show_path(np.concatenate(parts) if parts else nothing, hue, nothing)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """As long as nobody has turned it, the part fills the view."""
        super().resizeEvent(event)
        if self.scene and not self.scene.turned and not self._fresh_view:
            QTimer.singleShot(0, lambda: self.look(self._side))

    def look(self, name: str) -> None:
        """One of the standard views."""
        self._side = name
        if self.scene:
            direction, up = VIEWS[name]
            place = self.session.place
            if self.session.job.turns and name == "Iso":
                direction = (-direction[0], direction[1], direction[2])
            elif name == "Top" and place is not None and place.angles:  # as the sheet of the step shows it
                _, up, direction = (tuple(axis) for axis in upright(CutPlane(place.angles[0]).axes).tolist())
            self.scene.look(direction, up)
            self._render_timer.start()

    def other_job(self) -> None:
        """The next picture is looked at from the start; one of the job before that is still to come is none."""
        self.session.core.leave("solid")
        self.shown = False
        self._fresh_view = True
        self.section.setValue(0)


def _toolkit() -> None:
    with contextlib.suppress(Exception):  # said where it is wanted
        importlib.import_module("bastler.app.solid_scene")


def _stood_up(lines: Any) -> Any:
    """Path pieces of turned work as the solid stands."""
    return upright(lines.reshape(-1, 3)).reshape(-1, 6)
