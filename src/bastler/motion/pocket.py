"""Rectangular pockets: loops from inside out, entries, and the finishing pass along the wall.

The *core line* is where the innermost loop has shrunk to a line: cutting starts there, at full width once, and every loop
after it takes one stepover. Loops stay lines and arcs.
"""

from __future__ import annotations

import math
from typing import Literal

import msgspec

from bastler.motion.moves import Path
from bastler.shapes import Frame, Line, rounded_rectangle

Entry = Literal["helix", "ramp", "plunge", "hole"]
MOST_STEPOVER = 0.85
"""A wider stepover (share of the diameter) would leave posts at the corners between two loops: 1.7 R is the limit."""
HELIX_SHARE = 0.45
"""Radius of the entry helix as a share of the tool's diameter: under one half, so that no core is left standing."""
SHORTEST_RAMP = 0.5
"""The shortest core line, in tool diameters, that a ramp is allowed to swing on."""


class PocketShape(msgspec.Struct, frozen=True, kw_only=True):
    """The room of the tool's centre: a rectangle of half sizes `a` >= `b` >= 0 about the frame, corners of `radius`."""

    frame: Frame
    a: float
    b: float
    radius: float

    @property
    def core(self) -> float:
        """Half the length of the core line."""
        return self.a - self.b


def centre_room(frame: Frame, length: float, width: float, radius: float, offset: float) -> PocketShape:
    """The tool's room in a pocket whose wall is kept at `offset` (tool radius plus what is left on the wall)."""
    if width > length:
        frame, length, width = Frame(frame.x, frame.y, frame.angle + 90.0), width, length
    return PocketShape(
        frame=frame, a=max(length / 2 - offset, 0.0), b=max(width / 2 - offset, 0.0), radius=max(radius - offset, 0.0)
    )


def helix_radius(room: PocketShape, diameter: float) -> float:
    return min(HELIX_SHARE * diameter, room.b)


def fits_helix(room: PocketShape, diameter: float) -> bool:
    """Is there room for a helix worth the name?"""
    return helix_radius(room, diameter) >= 0.1 * diameter


def fits_ramp(room: PocketShape, diameter: float) -> bool:
    """Is the core line long enough to ramp along?"""
    return 2 * room.core >= SHORTEST_RAMP * diameter


class Feeds(msgspec.Struct, frozen=True):
    """Feed along, feed for entries."""

    cut: float
    plunge: float


def clear_level(
    path: Path,
    room: PocketShape,
    *,
    top: float,
    level: float,
    diameter: float,
    stepover: float,
    entry: Entry,
    angle: float,
    climb: bool,
    feeds: Feeds,
    clear: float,
    surface: float,
    beside: float,
) -> None:
    """Draws one level: entry from `top` to `level` on the core line, then loops outward to the room's edge.

    `clear` is the distance above `top` where the rapid ends; where there is less room beside the tool than `beside` it ends over
    the pocket's `surface`. The tool ends on the outer loop, at `level`.
    """
    frame = room.frame
    path.go(*frame.place(0.0, 0.0)).go(z=(top if min(room.a, room.b) >= beside else surface) + clear)
    path.cut(feeds.cut, z=top + clear)
    _enter(path, room, top + clear, level, diameter, entry, angle, climb, feeds)
    c = room.core
    if c > 0:
        path.cut(feeds.cut, *frame.place(c, 0.0))
        path.cut(feeds.cut, *frame.place(-c, 0.0))
        path.cut(feeds.cut, *frame.place(0.0, 0.0))
    if room.b > 0:
        count = math.ceil(room.b / min(stepover, MOST_STEPOVER * diameter) - 1e-9)
        for k in range(1, count + 1):
            _loop(path, room, room.b * k / count, climb, feeds.cut)


def _loop(path: Path, room: PocketShape, b: float, climb: bool, feed: float) -> None:
    """One loop at half width `b`, reached straight from the loop inside it."""
    radius = max(room.radius - (room.b - b), 0.0)
    path.cut(feed, *room.frame.place(0.0, -b))
    _follow(path, room.frame, 2 * (room.core + b), 2 * b, radius, climb, feed)


def _follow(path: Path, frame: Frame, length: float, width: float, radius: float, climb: bool, feed: float) -> None:
    for segment in rounded_rectangle(frame, length, width, radius, ccw=climb):
        if isinstance(segment, Line):
            path.cut(feed, *segment.end)
        else:
            path.bow(feed, segment.end, segment.centre, ccw=segment.ccw)


def _enter(
    path: Path,
    room: PocketShape,
    top: float,
    level: float,
    diameter: float,
    entry: Entry,
    angle: float,
    climb: bool,
    feeds: Feeds,
) -> None:
    """From `top` down to `level` at the middle of the core line."""
    slope = math.tan(math.radians(angle))
    if entry == "helix":
        _helix(path, room.frame, helix_radius(room, diameter), top, level, slope, climb, feeds)
    elif entry == "ramp":
        _ramp(path, room, top, level, slope, feeds)
    else:
        path.cut(feeds.plunge, z=level)


def _helix(path: Path, frame: Frame, radius: float, top: float, level: float, slope: float, climb: bool, feeds: Feeds) -> None:
    start, centre = frame.place(radius, 0.0), frame.place(0.0, 0.0)
    path.cut(feeds.cut, *start)
    turns = max(1, math.ceil((top - level) / (2 * math.pi * radius * slope) - 1e-9))
    for k in range(1, turns + 1):
        depth = level if k == turns else top + (level - top) * k / turns
        path.bow(feeds.plunge, start, centre, ccw=climb, z=depth)
    path.bow(feeds.cut, start, centre, ccw=climb)
    path.cut(feeds.cut, *centre)


def _ramp(path: Path, room: PocketShape, top: float, level: float, slope: float, feeds: Feeds) -> None:
    """Swings along the core line: a quarter to one end, halves from end to end, a quarter back to the middle."""
    c = room.core
    swings = max(1, math.ceil((top - level) / (4 * c * slope) - 1e-9))
    for k in range(swings):
        for end, share in ((c, 0.25), (-c, 0.75), (0.0, 1.0)):
            depth = top + (level - top) * (k + share) / swings
            path.cut(feeds.plunge, *room.frame.place(end, 0.0), z=depth)


def wall_pass(
    path: Path,
    room: PocketShape,
    level: float,
    *,
    diameter: float,
    climb: bool,
    feeds: Feeds,
    stock: float,
    clear: float,
    beside: float,
) -> None:
    """Once along the wall with quarter-circle lead-in and lead-out where there is room.

    `stock` is what stands on the wall: where the lead keeps off that by less than `beside` it goes down in feed all the way. The
    rapid down ends `clear` above `level`. The tool ends off the wall, at `level`.
    """
    frame, side = room.frame, (-1.0 if climb else 1.0)
    lead = min(diameter / 4, room.a, room.b)
    if lead < 1e-3 * diameter:
        lead = 0.0
    path.go(*frame.place(side * lead, -room.b + lead))
    if lead - stock >= beside:
        path.go(z=min(path.z, level + clear))
    else:
        path.cut(feeds.cut, z=min(path.z, level + clear))
    path.cut(feeds.plunge, z=level)
    centre = frame.place(0.0, -room.b + lead)
    if lead:
        path.bow(feeds.cut, frame.place(0.0, -room.b), centre, ccw=climb)
    _follow(path, frame, 2 * room.a, 2 * room.b, room.radius, climb, feeds.cut)
    if lead:
        path.bow(feeds.cut, frame.place(-side * lead, -room.b + lead), centre, ccw=climb)
