"""The moves of a turning stage, and a pencil that draws them.

Positions are of the tool's point: `r` the radius, `z` along the axis from part zero, in the job's unit. Feeds are per turn.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from bastler.motion.moves import Pause

Role = Literal["cut", "lead"]


class Slide(msgspec.Struct, frozen=True):
    """A rapid."""

    r: float
    z: float


class Turn(msgspec.Struct, frozen=True):
    """A straight feed."""

    r: float
    z: float
    feed: float
    role: Role = "cut"


class Sweep(msgspec.Struct, frozen=True):
    """An arc about (`cr`, `cz`), counter-clockwise as seen with the chuck on the left and r upwards."""

    r: float
    z: float
    cr: float
    cz: float
    ccw: bool
    feed: float
    role: Role = "cut"


class Sync(msgspec.Struct, frozen=True):
    """A straight move tied to the spindle: one `lead` along the thread a turn."""

    r: float
    z: float
    lead: float


class Spindle(msgspec.Struct, frozen=True):
    """The spindle stops, turns forward or turns backward."""

    turn: Literal["stop", "forward", "back"]


class Coolant(msgspec.Struct, frozen=True):
    """Coolant on or off."""

    on: bool


class Halt(msgspec.Struct, frozen=True):
    """The program stops until the operator lets it go on."""

    message: str


class OtherEdge(msgspec.Struct, frozen=True):
    """From here on the tool's second edge is meant, with its own offset, or the first again. Positions stay of the first."""

    second: bool


class Compensate(msgspec.Struct, frozen=True):
    """The control keeps the nose off the programmed outline: on its right or left; or not any more."""

    side: Literal["right", "left", "off"]


class ThreadCycle(msgspec.Struct, frozen=True, kw_only=True):
    """One start of a thread with flank infeed, as a cycle knows it; `passes` are the same thing long-hand.

    From (`start_r`, `start_z`) to `z`; `minor` is the radius of the root. `depth` the whole depth, `first` the first bite,
    `least` the smallest, `last` what the last pass takes, `springs` passes without a bite after it; `angle` the profile's.
    """

    start_r: float
    start_z: float
    z: float
    minor: float
    depth: float
    first: float
    least: float
    last: float
    springs: int
    angle: float
    lead: float
    passes: tuple[TurnMove, ...]


class TapCycle(msgspec.Struct, frozen=True, kw_only=True):
    """Tapping on the centre line within a cycle of the control: from `near` down to `z`, the spindle turned back in step with the
    slide, and out again; one `pitch` a turn."""

    near: float
    z: float
    pitch: float


TurnMove = Slide | Turn | Sweep | Sync | Pause | Spindle | Coolant | Halt | OtherEdge | Compensate | ThreadCycle | TapCycle


class TurnPath:
    """Draws moves one after the other and knows where the point is."""

    def __init__(self, r: float, z: float) -> None:
        self.moves: list[TurnMove] = []
        self.r, self.z = r, z

    def go(self, r: float | None = None, z: float | None = None) -> TurnPath:
        """Rapid; a coordinate not given stays. Nothing is drawn when nothing moves."""
        target = (self.r if r is None else r, self.z if z is None else z)
        if abs(target[0] - self.r) > 1e-9 or abs(target[1] - self.z) > 1e-9:
            self.moves.append(Slide(*target))
            self.r, self.z = target
        return self

    def cut(self, feed: float, r: float | None = None, z: float | None = None, role: Role = "cut") -> TurnPath:
        """Feed in a straight line."""
        target = (self.r if r is None else r, self.z if z is None else z)
        if abs(target[0] - self.r) > 1e-9 or abs(target[1] - self.z) > 1e-9:
            self.moves.append(Turn(*target, feed, role))
            self.r, self.z = target
        return self

    def sweep(self, feed: float, r: float, z: float, cr: float, cz: float, *, ccw: bool) -> TurnPath:
        """Feed along an arc."""
        self.moves.append(Sweep(r, z, cr, cz, ccw, feed))
        self.r, self.z = r, z
        return self

    def sync(self, lead: float, r: float | None = None, z: float | None = None) -> TurnPath:
        """A move tied to the spindle."""
        self.r, self.z = (self.r if r is None else r), (self.z if z is None else z)
        self.moves.append(Sync(self.r, self.z, lead))
        return self

    def do(self, *moves: TurnMove) -> TurnPath:
        """Anything that does not move the tool."""
        self.moves += moves
        return self
