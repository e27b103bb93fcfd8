"""The moves a stage is made of, and a pencil that draws them.

Positions are of the tool tip, from part zero, in the job's unit; feeds in unit/min. A move states its whole target.
"""

from __future__ import annotations

from typing import Literal

import msgspec

Role = Literal["cut", "lead", "plunge"]


class Go(msgspec.Struct, frozen=True):
    """A rapid."""

    x: float
    y: float
    z: float


class Cut(msgspec.Struct, frozen=True):
    """A straight feed."""

    x: float
    y: float
    z: float
    feed: float
    role: Role = "cut"


class Bow(msgspec.Struct, frozen=True):
    """An arc or helix in the XY plane about (`cx`, `cy`), at most one turn; a full one when it ends where it began."""

    x: float
    y: float
    z: float
    cx: float
    cy: float
    ccw: bool
    feed: float
    role: Role = "cut"


class Bend(msgspec.Struct, frozen=True):
    """From the next cut on the control runs the tool beside the path that is drawn, on its left or right, or no longer. Until
    "off" positions are of the outline."""

    side: Literal["left", "right", "off"]


class Pause(msgspec.Struct, frozen=True):
    """A dwell in seconds."""

    seconds: float


class Cycle(msgspec.Struct, frozen=True, kw_only=True):
    """One drilling cycle over several places.

    Drills from `r` down to `z`. `peck` is the depth gained between retracts: 0 for none; with `shrink` below 1 each next peck
    is that much of the last but not under `least`. `full` retracts go back to `r`, else the chip is broken by a short pull-off.
    `clearance` is where the rapid back into the hole stops above the last depth; `pull` the chip-breaking retract. After each
    hole the tool returns to `back` (`r`, or the height it came from). `slow` comes back to `r` in feed, as a reamer does;
    `stopped` comes back in rapid with the spindle stopped. With a `pitch` it taps: the feed is tied to the spindle, which turns
    back at the bottom. Only a machine's own cycle can do the last two.
    """

    points: tuple[tuple[float, float], ...]
    z: float
    r: float
    back: float
    feed: float
    peck: float = 0.0
    shrink: float = 1.0
    least: float = 0.0
    full: bool = True
    clearance: float
    pull: float
    dwell: float = 0.0
    slow: bool = False
    stopped: bool = False
    pitch: float = 0.0


Move = Go | Cut | Bow | Bend | Pause | Cycle


class Path:
    """Draws moves one after the other and knows where the tool is."""

    def __init__(self, x: float, y: float, z: float) -> None:
        self.moves: list[Move] = []
        self.x, self.y, self.z = x, y, z

    def go(self, x: float | None = None, y: float | None = None, z: float | None = None) -> Path:
        """Rapid to the given coordinates; the others stay. Nothing is drawn when nothing moves."""
        target = (self.x if x is None else x, self.y if y is None else y, self.z if z is None else z)
        if target != (self.x, self.y, self.z):
            self.moves.append(Go(*target))
            self.x, self.y, self.z = target
        return self

    def cut(
        self, feed: float, x: float | None = None, y: float | None = None, z: float | None = None, role: Role = "cut"
    ) -> Path:
        """Feed in a straight line."""
        target = (self.x if x is None else x, self.y if y is None else y, self.z if z is None else z)
        if target != (self.x, self.y, self.z):
            self.moves.append(Cut(*target, feed, role))
            self.x, self.y, self.z = target
        return self

    def bend(self, side: Literal["left", "right", "off"]) -> Path:
        """Compensation by the control comes on or goes with the next cut."""
        self.moves.append(Bend(side))
        return self

    def bow(
        self,
        feed: float,
        end: tuple[float, float],
        centre: tuple[float, float],
        *,
        ccw: bool,
        z: float | None = None,
        role: Role = "cut",
    ) -> Path:
        """Feed along an arc, a helix when `z` is given."""
        depth = self.z if z is None else z
        self.moves.append(Bow(end[0], end[1], depth, centre[0], centre[1], ccw, feed, role))
        self.x, self.y, self.z = end[0], end[1], depth
        return self
