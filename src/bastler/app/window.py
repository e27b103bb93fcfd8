"""What the parts of the window may ask of the whole of it, without knowing how it is built."""

from __future__ import annotations

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMainWindow, QWidget

from bastler.app.questions import QuestionColumn
from bastler.app.route import RouteCard
from bastler.app.session import Session
from bastler.app.settings import Settings
from bastler.app.solid import SolidView
from bastler.app.start_place import StartPlace


class Window(QMainWindow):
    """The base of the window: its session, its settings, and its places by name."""

    session: Session
    settings: Settings
    start: StartPlace
    solid: SolidView
    questions: QuestionColumn
    route: RouteCard
    actions_by_name: dict[str, QAction]

    def say(self, kind: str, text: str) -> None:
        """A sentence in the row over the view."""
        raise NotImplementedError

    def go_to(self, place: str) -> None:
        """Bench, crib, program or machine."""
        raise NotImplementedError

    def view(self, name: str) -> None:
        """Sheet, solid or path."""
        raise NotImplementedError

    def show_view(self) -> None:
        """The view that is chosen, with nothing over it."""
        raise NotImplementedError

    def lay_over(self, widget: QWidget) -> None:
        """Something over the view under the caption that is there."""
        raise NotImplementedError

    def close_overlay(self) -> None:
        """From what lies over the view back to it."""
        raise NotImplementedError

    def show_start(self) -> None:
        """The place with nothing open."""
        raise NotImplementedError

    def show_over(self, widget: QWidget, caption: str) -> None:
        """Something over the view, until it is closed."""
        raise NotImplementedError

    def show_alarm(self) -> None:
        """What is not being kept, until it is again."""
        raise NotImplementedError
