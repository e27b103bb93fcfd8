"""The part in the machine as a solid, as it has grown from what the machine reported. Made when it is first wanted: without
OpenGL it says so, and the sheet works all the same."""

from __future__ import annotations

import numpy as np

from bastler.app.machine_desk import MachineDesk, by_station
from bastler.app.scene_room import SceneRoom
from bastler.app.theme import tool_hue
from bastler.language import tr
from bastler.proof.faces import Mesh, Others
from bastler.proof.polar.upright import upright
from bastler.tools import Tool

MILLED = ((-0.55, -1.0, 0.85), (0.0, 0.0, 1.0))
TURNED = ((0.55, -1.0, 0.85), (0.0, 0.0, 1.0))
"""From where the part is seen first, and what is up."""


class MachineSolid(SceneRoom):
    """Drag turns, the wheel zooms."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__(render_after=30)
        self.desk = desk
        self._asked = False
        self._of: object = None
        """The holding whose part is seen: another one is looked at from the start."""
        self.setAccessibleName(tr("The part in the machine as a solid"))
        desk.grown.connect(self.ask)
        desk.moved.connect(self._tool)

    def ask(self) -> None:
        """Asks for its faces, where it is seen and nobody is at the last ones still."""
        desk = self.desk
        if not self.scene or not self.isVisible() or self._asked or not desk.holds_it:
            return
        self._asked = True
        desk.session.core.ask("grown-solid", desk.session.held_id, desk.moves, desk.at, then=self._meshed)

    def _meshed(self, mesh: Mesh | None, trouble: str) -> None:
        self._asked = False
        if not self.scene or mesh is None or not self.desk.holds_it:
            return
        self.shown = True
        self.scene.show_part(mesh)
        self.scene.show_others(Others())
        held = self.desk.held
        if self.desk.turns:
            self.scene.show_chuck([region for name, region in held.turned.keep_out if name != "chuck"])
        else:
            self.scene.show_jaws(held.flat.jaws)
        self._tool()
        if self._of != self.desk.clamped:
            self._of = self.desk.clamped
            self.scene.look(*(TURNED if self.desk.turns else MILLED))
        self._render_timer.start()

    def _tool(self) -> None:
        """The tool where the axes are."""
        status = self.desk.status
        if not self.scene or not self.isVisible() or status is None or not self.desk.planned:
            return
        tool = by_station(self.desk.used(), status.tool)
        if tool is None or status.mode not in ("running", "held", "stopped", "alarm"):
            self.scene.hide_tool()
        elif self.desk.turns:
            self.scene.show_turning_tool(tool, upright(np.array(status.places)).tolist(), 0.0, tool_hue(tool.station))
        elif isinstance(tool, Tool):
            self.scene.show_tool(tool, self.desk.tip_place(status), tool_hue(tool.station))
        if not self._render_timer.isActive():
            self._render_timer.start()
