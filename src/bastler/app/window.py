"""What the parts of the window may ask of the whole of it, without knowing how it is built."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMainWindow, QWidget

from bastler.app.crib_place import CribPlace
from bastler.app.questions import QuestionColumn
from bastler.app.route import RouteCard
from bastler.app.session import Session
from bastler.app.settings import Settings
from bastler.app.solid import SolidView
from bastler.app.start_place import StartPlace
from bastler.proof.remark import Remark

if TYPE_CHECKING:
    from bastler.app.print_panel import PrintPanel


class Window(QMainWindow):
    """The base of the window: its session, its settings, and its places by name."""

    session: Session
    settings: Settings
    start: StartPlace
    solid: SolidView
    questions: QuestionColumn
    crib: CribPlace
    route: RouteCard
    actions_by_name: dict[str, QAction]
    own_keys: dict[str, str]
    place: str

    @property
    def print_panel(self) -> PrintPanel:
        """The print beside the bench."""
        raise NotImplementedError

    @property
    def board_is_open(self) -> bool:
        """Does the board of features lie over the view?"""
        raise NotImplementedError

    def target(self, name: str) -> QWidget | None:
        """What is pressed to go somewhere, or to do something."""
        raise NotImplementedError

    def show_target(self, name: str) -> None:
        """Goes where something is seen or pressed."""
        raise NotImplementedError

    def run(self, name: str) -> None:
        """Runs a command by its name, if it means anything now."""
        raise NotImplementedError

    def open_choice(self, key: str) -> None:
        """Opens what the start place offers: a file, a sample, a new job, what was recovered."""
        raise NotImplementedError

    def show_remark(self, remark: Remark) -> None:
        """To where a remark is: its step, its answer, its moment."""
        raise NotImplementedError

    def to_line(self, line: int) -> None:
        """To a line of the program, counted from 1."""
        raise NotImplementedError

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
