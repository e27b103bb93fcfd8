"""What a lesson is, and the ones that ship."""

from __future__ import annotations

import functools
from importlib import resources
from typing import Literal

import msgspec

from bastler.job.prints import LESSON
from bastler.lessons.drawing import PrintDrawing
from bastler.units import Unit

ORDER = ("plate", "holes", "outline", "turned", "two-sided", "driven")
Goes = Literal["", "sheet", "solid", "path", "program", "explained", "strip"]
Ends = Literal["", "proved", "ticked", "saved"]


class Item(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One thing to do. `says` what the print says and what to do about it. Exactly one of the others is what it waits for: an
    answer `at` a place that `wants` a value, or is to be `empty`; a step that it `adds`, by its tag; somewhere that one `goes`;
    how it `ends`. `size` is that on the print which it is about, by its id."""

    says: str
    size: str = ""
    at: str = ""
    wants: float | str = ""
    empty: bool = False
    adds: str = ""
    goes: Goes = ""
    ends: Ends = ""


class Lesson(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """A part to make. `about` says what one learns; `minutes` how long it takes somebody new."""

    name: str
    title: str
    about: str
    minutes: int
    machine: str
    print: PrintDrawing
    items: tuple[Item, ...]
    unit: Unit = "mm"

    @property
    def file(self) -> str:
        """The name of its print in a job."""
        return LESSON + self.name

    def size_at(self, ident: str) -> int:
        """The place of a size among those on the print; -1 for none."""
        return next((k for k, dim in enumerate(self.print.dims) if dim.id == ident), -1)


@functools.cache
def lessons() -> tuple[Lesson, ...]:
    """All of them, in the order in which they are best done."""
    folder = resources.files("bastler.lessons") / "made"
    return tuple(msgspec.toml.decode((folder / f"{name}.toml").read_bytes(), type=Lesson) for name in ORDER)


def lesson_named(name: str) -> Lesson | None:
    """The lesson of that name."""
    return next((lesson for lesson in lessons() if lesson.name == name), None)
