"""A place for a 3-D scene: the scene is made when the place is first shown, and where there is no OpenGL that is said."""

from __future__ import annotations

import logging
from typing import Any

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bastler.app.labels import Label
from bastler.language import sayable, tr

log = logging.getLogger(__name__)
NO_OPENGL = sayable("This screen has no OpenGL, so there is no solid view.")


class SceneRoom(QWidget):
    """`scene` is None before it is made, and False where there is none or it is closed."""

    def none_says(self) -> str:
        """What stands in the place of the picture where there can be none."""
        return tr(NO_OPENGL)

    def __init__(self, render_after: int) -> None:
        super().__init__()
        self.scene: Any = None
        self.shown = False
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.room = QWidget()
        self.column.addWidget(self.room, 1)
        self._render_timer = QTimer(self)
        self._render_timer.setSingleShot(True)
        self._render_timer.setInterval(render_after)
        self._render_timer.timeout.connect(self._render)

    def ask(self) -> None:
        """Asks for what is to be seen."""
        raise NotImplementedError

    def take_colours(self) -> None:
        """Those that are worn now."""
        if self.scene:
            self.scene.take_colours()
            if self.isVisible():
                self.ask()
                self._render_timer.start()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self.scene is None:
            QTimer.singleShot(0, self._make)
        else:
            self.ask()

    def _make(self) -> None:
        if self.scene is not None:
            return
        try:
            from bastler.app.solid_scene import SolidScene

            self.scene = SolidScene(self)
        except Exception:
            log.warning("No solid view", exc_info=True)
            self.scene = False
            self._say_none()
            return
        self._made()
        self.column.replaceWidget(self.room, self.scene.widget)
        self.column.setStretch(0, 1)
        self.room.hide()
        self.scene.widget.show()
        self.scene.start()
        self.ask()

    def _made(self) -> None:
        """What is to be done to a scene before it is seen."""

    def _say_none(self) -> None:
        text = Label(self.none_says())
        text.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.column.replaceWidget(self.room, text)
        self.room.hide()

    def _render(self) -> None:
        if self.scene and self.isVisible():
            self.scene.render()

    def close_scene(self) -> None:
        """Lets go of the OpenGL window before Qt does."""
        if self.scene:
            self.scene.close()
            self.scene = False
