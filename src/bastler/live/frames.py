"""What there is to see of an answer that is taken through its values: frames, each with a value and what is seen with it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from bastler.job import Job
from bastler.live.shown import Look, ShownHolding, Verdict
from bastler.tools import AnyTool

Spot = tuple[float, float, float]
"""u, v and w on a stage's plane."""


@dataclass(frozen=True)
class Way:
    """A stretch of a tool's path on the stage's plane: its points, whether it is a rapid, and the station of its tool."""

    spots: tuple[Spot, ...]
    rapid: bool
    station: int


@dataclass(frozen=True, eq=False)
class SeenCard:
    """The drawing of a card: a step, the stock or a holding. `seconds` is what the step takes, without its tool changes; `why`
    what is wrong with the answer, empty where nothing is."""

    job: Job
    held: ShownHolding
    look: Look
    ways: tuple[Way, ...] = ()
    seconds: float = 0.0
    why: str = ""


@dataclass(frozen=True, eq=False)
class SeenTool:
    """A tool as it is with the answer, or what is wrong with it."""

    tool: AnyTool | None
    why: str = ""


@dataclass(frozen=True)
class SeenCode:
    """Lines of a program, and which of them are not those of the frame before."""

    lines: tuple[str, ...]
    changed: tuple[int, ...] = ()
    why: str = ""


@dataclass(frozen=True)
class SeenTimes:
    """What a job takes: of every stage its station, seconds and the share of the power that it needs; what the proof says."""

    stages: tuple[tuple[int, float, float], ...]
    total: float
    verdict: Verdict
    why: str = ""


Seen = SeenCard | SeenTool | SeenCode | SeenTimes


@dataclass(frozen=True, eq=False)
class Frame:
    """A value, as it is read, and what there is to see with it."""

    value: Any
    words: str
    seen: Seen
