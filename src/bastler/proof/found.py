"""A finding of a check on a run of moves, and the registry of all checks."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple, TypeVar

from bastler.language import sayable
from bastler.proof.remark import Level
from bastler.proof.view import Place, RunView
from bastler.steps.base import ANY, PlaneKind

BODIES = sayable(
    (
        "flutes",
        "shank",
        "holder",
        "bar",
        "boring bar",
        "chuck",
        "jaws",
        "second chuck",
        "second jaws",
        "bush",
        "tailstock",
        "steady",
    )
)
"""What may run into something, or be run into."""
MOST_A_CODE = 5
"""Places told of one code in one section."""


@dataclass(frozen=True)
class Found:
    """A remark before it has a line: `move` counts from the section's first."""

    level: Level
    code: str
    text: str
    move: int
    amount: float = 0.0
    place: Place | None = None


class Check(NamedTuple):
    """An entry of the registry. `apart`: it depends on where on the machine the part lies, and so is made anew for every part."""

    code: str
    planes: tuple[PlaneKind, ...]
    apart: bool
    find: Callable[[Any], Iterator[Found]]


V = TypeVar("V", bound=RunView)


class Checks:
    """All checks on runs of moves.

    To add one, write a function and decorate it with `@check("its-code")`, naming its planes where it is not for all; tests walk
    all entries. On one kind of plane a code may be used once.
    """

    def __init__(self) -> None:
        self.entries: list[Check] = []

    def __call__(
        self, code: str, planes: tuple[PlaneKind, ...] = ANY, *, apart: bool = False
    ) -> Callable[[Callable[[V], Iterator[Found]]], Callable[[V], Iterator[Found]]]:
        """Registers a check."""
        if any(entry.code == code and set(planes) & set(entry.planes) for entry in self.entries):
            raise ValueError(f"A check called {code} is registered already.")

        def register(function: Callable[[V], Iterator[Found]]) -> Callable[[V], Iterator[Found]]:
            self.entries.append(Check(code, planes, apart, function))
            return function

        return register

    def on(self, plane: PlaneKind) -> list[Check]:
        """The checks for a kind of plane."""
        return [entry for entry in self.entries if plane in entry.planes]

    def run(self, view: RunView, *, apart: bool) -> tuple[Found, ...]:
        """All findings of all checks of the view's plane: of those made apart, or of the others."""
        return tuple(found for entry in self.on(view.plane) if entry.apart == apart for found in entry.find(view))


check = Checks()
