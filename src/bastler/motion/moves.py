"""The moves a stage is made of, on every kind of plane, and the pencils that draw them.

Positions are of the tool's tip, in the stage's plane and the job's unit. On a *flat* plane `u`, `v`, `w` are
X, Y and Z from part zero, on a *turned* one `u` is Z, `v` the radius, and `w` stays 0. Feeds are per minute on a flat plane, per
turn of the work on a turned one. A move states its whole target.
"""

from __future__ import annotations

from typing import Literal

import msgspec

Side = Literal["left", "right", "off"]
Spot = tuple[float, float, float]
"""u, v and w."""


class Go(msgspec.Struct, frozen=True):
    """A rapid."""

    u: float
    v: float
    w: float = 0.0


class Cut(msgspec.Struct, frozen=True):
    """A straight feed."""

    u: float
    v: float
    w: float
    feed: float


class Bow(msgspec.Struct, frozen=True):
    """An arc in u and v about (`cu`, `cv`), a helix where w changes, at most one turn; a full one when it ends where it began.
    Counter-clockwise is from u to v: on a turned plane as seen with the chuck on the left and the radius upwards."""

    u: float
    v: float
    w: float
    cu: float
    cv: float
    ccw: bool
    feed: float


class Sync(msgspec.Struct, frozen=True):
    """A straight move tied to the spindle: one `lead` along the thread a turn."""

    u: float
    v: float
    lead: float


class Bend(msgspec.Struct, frozen=True):
    """From here on the control runs the tool beside the path that is drawn, on its left or right, or no longer. Until "off"
    positions are of the outline."""

    side: Side


class Pause(msgspec.Struct, frozen=True):
    """A dwell in seconds."""

    seconds: float


class Spindle(msgspec.Struct, frozen=True):
    """The spindle stops, turns forward or turns backward."""

    turn: Literal["stop", "forward", "back"]


class Turns(msgspec.Struct, frozen=True):
    """The spindle goes on at so many turns a minute, the way that it turns."""

    n: float


class Coolant(msgspec.Struct, frozen=True):
    """Coolant on or off."""

    on: bool


class Chuck(msgspec.Struct, frozen=True):
    """The chuck that holds the bar opens, or closes."""

    opens: bool


class Halt(msgspec.Struct, frozen=True):
    """The program stops until the operator lets it go on."""

    message: str


class OtherEdge(msgspec.Struct, frozen=True):
    """From here on the tool's second edge is meant, with its own offset, or the first again. Positions stay of the first."""

    second: bool


class Cycle(msgspec.Struct, frozen=True, kw_only=True):
    """One drilling cycle over several places of a flat plane.

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


class ThreadCycle(msgspec.Struct, frozen=True, kw_only=True):
    """One start of a turned thread with flank infeed, as a cycle knows it; `passes` are the same thing long-hand.

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
    passes: tuple[Go | Sync, ...]


class TapCycle(msgspec.Struct, frozen=True, kw_only=True):
    """Tapping on the centre line within a cycle of the control: from `near` down to `z`, the spindle turned back in step with the
    slide, and out again; one `pitch` a turn."""

    near: float
    z: float
    pitch: float


class Roughed(msgspec.Struct, frozen=True, kw_only=True):
    """How a cycle roughs an outline along Z: the bite `ap` and how far a pass leaves the wall, `pull`; what it leaves on the
    radius, negative in a bore, and along Z; the feed a turn."""

    ap: float
    pull: float
    leave_r: float
    leave_z: float
    feed: float


class OutlineCycle(msgspec.Struct, frozen=True, kw_only=True):
    """An outline as a cycle of the control goes along it once, or where it is `roughed` in passes and then once.

    From (`start_r`, `start_z`), to where it comes back, square in to `begin_r` and then along `moves`, the way of the point with
    nothing left. What belongs to the same `outline` is written once, under a `number`; 0 for one that is written move by move.
    """

    outline: str
    start_r: float
    start_z: float
    begin_r: float
    moves: tuple[Cut | Bow, ...]
    roughed: Roughed | None = None
    number: int = 0

    @property
    def plain(self) -> tuple[Move, ...]:
        """Once along it, move by move."""
        begin = Go(self.start_z, self.begin_r, 0.0)
        back = Go(self.start_z, self.start_r, 0.0)
        return begin, *self.moves, back


Move = (
    Go
    | Cut
    | Bow
    | Sync
    | Bend
    | Pause
    | Spindle
    | Turns
    | Coolant
    | Halt
    | Chuck
    | OtherEdge
    | Cycle
    | ThreadCycle
    | TapCycle
    | OutlineCycle
)


def _rapid(moves: list[Move], before: Spot | None, here: Spot, target: Spot) -> Spot:
    """Draws a rapid. It is one with the last move where that was a rapid too and both go along the same axis alone, the same way.
    Given `before`, where the last rapid began, gives where this one does."""
    if before is not None and moves and isinstance(moves[-1], Go) and _onward(before, here, target):
        moves[-1] = Go(*target)
        return before
    moves.append(Go(*target))
    return here


def _onward(before: Spot, here: Spot, target: Spot) -> bool:
    """Do two ways go along the same axis alone, the same way?"""
    first, then = ([b - a for a, b in zip(*ends, strict=True)] for ends in ((before, here), (here, target)))
    moving = [k for k in range(len(first)) if first[k] or then[k]]
    return len(moving) == 1 and first[moving[0]] * then[moving[0]] > 0.0


class Path:
    """Draws moves on a flat plane one after the other and knows where the tool is."""

    def __init__(self, x: float, y: float, z: float) -> None:
        self.moves: list[Move] = []
        self.x, self.y, self.z = x, y, z
        self._before: Spot | None = None
        """Where the last rapid began."""

    def go(self, x: float | None = None, y: float | None = None, z: float | None = None) -> Path:
        """Rapid to the given coordinates; the others stay. Nothing is drawn when nothing moves."""
        target = (self.x if x is None else x, self.y if y is None else y, self.z if z is None else z)
        here = (self.x, self.y, self.z)
        if target != here:
            self._before = _rapid(self.moves, self._before, here, target)
            self.x, self.y, self.z = target
        return self

    def cut(self, feed: float, x: float | None = None, y: float | None = None, z: float | None = None) -> Path:
        """Feed in a straight line."""
        target = (self.x if x is None else x, self.y if y is None else y, self.z if z is None else z)
        if target != (self.x, self.y, self.z):
            self.moves.append(Cut(*target, feed))
            self.x, self.y, self.z = target
        return self

    def bend(self, side: Side) -> Path:
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
    ) -> Path:
        """Feed along an arc, a helix when `z` is given."""
        depth = self.z if z is None else z
        self.moves.append(Bow(end[0], end[1], depth, centre[0], centre[1], ccw, feed))
        self.x, self.y, self.z = end[0], end[1], depth
        return self


class TurnPath:
    """Draws moves on a turned plane one after the other and knows where the point is."""

    def __init__(self, r: float, z: float) -> None:
        self.moves: list[Move] = []
        self.start = (z, r, 0.0)
        self.r, self.z = r, z
        self._before: Spot | None = None
        """Where the last rapid began."""

    def go(self, r: float | None = None, z: float | None = None) -> TurnPath:
        """Rapid; a coordinate not given stays. Nothing is drawn when nothing moves."""
        target = (self.r if r is None else r, self.z if z is None else z)
        if abs(target[0] - self.r) > 1e-9 or abs(target[1] - self.z) > 1e-9:
            self._before = _rapid(self.moves, self._before, (self.z, self.r, 0.0), (target[1], target[0], 0.0))
            self.r, self.z = target
        return self

    def cut(self, feed: float, r: float | None = None, z: float | None = None) -> TurnPath:
        """Feed in a straight line."""
        target = (self.r if r is None else r, self.z if z is None else z)
        if abs(target[0] - self.r) > 1e-9 or abs(target[1] - self.z) > 1e-9:
            self.moves.append(Cut(target[1], target[0], 0.0, feed))
            self.r, self.z = target
        return self

    def sweep(self, feed: float, r: float, z: float, cr: float, cz: float, *, ccw: bool) -> TurnPath:
        """Feed along an arc."""
        self.moves.append(Bow(z, r, 0.0, cz, cr, ccw, feed))
        self.r, self.z = r, z
        return self

    def sync(self, lead: float, r: float | None = None, z: float | None = None) -> TurnPath:
        """A move tied to the spindle."""
        self.r, self.z = (self.r if r is None else r), (self.z if z is None else z)
        self.moves.append(Sync(self.z, self.r, lead))
        return self

    def cycle(self, cycle: OutlineCycle) -> TurnPath:
        """To where a cycle begins, and the cycle, behind which the tool is there again."""
        self.go(z=cycle.start_z).go(r=cycle.start_r)
        self.moves.append(cycle)
        self._before = None
        return self

    def do(self, *moves: Move) -> TurnPath:
        """Anything that does not move the tool."""
        self.moves += moves
        return self
