"""Thread milling: how far out a toothed ring has to run so that the flanks come out right, and the helices it runs along.

A ring-shaped tooth that goes along a helix does not leave its own shape: its sides swing through the groove before and behind
the place where it is deepest, and widen it. `orbit` puts the tool nearer to the axis (outside threads: farther from it) by just
so much that the groove is half a pitch wide at the pitch diameter, where threads are measured.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import msgspec

from bastler.motion.even import equal_parts
from bastler.motion.moves import Path

Point = tuple[float, float]
SWEEP = 1.2
"""The part of a turn, in radians to each side, in which the tooth can widen the groove."""
TRIES = 60
PIECES = 8
"""Arcs a turn of a tapered helix."""
TIP_SHARE = {60.0: 1 / 8, 55.0: 1 / 6}
"""The flat of a tooth as a share of the pitch it is made for, by the angle of the thread (ISO 68-1: the nut's root; ISO 228-1:
what the rounding takes off)."""


class Tooth(msgspec.Struct, frozen=True):
    """A tooth of a ring: `radius` of its tip from the tool's axis, width `flat` of the tip, `angle` between its flanks in
    degrees."""

    radius: float
    flat: float
    angle: float

    def width(self, rho: float) -> float:
        """How wide it is at a distance from the tool's axis; not over the tip."""
        return self.flat + 2 * (self.radius - rho) * math.tan(math.radians(self.angle / 2))


def groove_width(r: float, away: float, tooth: Tooth, lead: float) -> float:
    """How wide a groove is at the radius `r` about the thread's axis, cut by a tooth whose axis runs at `away` from it with a
    `lead` a turn; 0 where it does not reach. Found by golden section: the widest place of the swinging flank."""

    def half(a: float) -> float:
        rho = math.sqrt(max(r * r + away * away - 2 * r * away * math.cos(a), 0.0))
        return lead * a / (2 * math.pi) + tooth.width(rho) / 2 if rho <= tooth.radius else -math.inf

    if half(0.0) == -math.inf:
        return 0.0
    inner, lo, hi = (math.sqrt(5) - 1) / 2, 0.0, SWEEP
    while half(hi) == -math.inf and hi > 1e-9:
        hi /= 2
    for _ in range(TRIES):
        a, b = hi - inner * (hi - lo), lo + inner * (hi - lo)
        lo, hi = (a, hi) if half(a) < half(b) else (lo, b)
    return 2 * max(half((lo + hi) / 2), half(0.0))


def orbit(pitch_radius: float, tooth: Tooth, pitch: float, lead: float, *, inside: bool) -> float:
    """How far from the thread's axis the tool's axis has to run, so that the groove is half a pitch wide at the pitch radius."""
    reach = (pitch / 2 - tooth.flat) / 2 / math.tan(math.radians(tooth.angle / 2))
    side = 1.0 if inside else -1.0
    plain = pitch_radius + side * (reach - tooth.radius)  # where a straight groove would be right
    deep, shallow = plain, plain - side * min(reach * 0.999, pitch)
    for _ in range(TRIES):
        middle = (deep + shallow) / 2
        if groove_width(pitch_radius, middle, tooth, lead) > pitch / 2:
            deep = middle
        else:
            shallow = middle
    return (deep + shallow) / 2


class Helix(msgspec.Struct, frozen=True, kw_only=True):
    """Once along a thread: about `centre`, at `away` from it where the tool's tip is at `begin`, to the height `end`; `lead` a
    turn; `ccw` seen from above. `widening` is how much `away` grows a unit of height (a tapered thread)."""

    centre: Point
    away: float
    begin: float
    end: float
    lead: float
    ccw: bool
    widening: float = 0.0

    @property
    def rises(self) -> float:
        """1 upward, -1 downward."""
        return 1.0 if self.end > self.begin else -1.0

    def at(self, z: float) -> Point:
        """Where the tool is at a height."""
        turned = abs(z - self.begin) / self.lead * 2 * math.pi * (1 if self.ccw else -1)
        r = self.away + (z - self.begin) * self.widening
        return self.centre[0] + r * math.cos(turned), self.centre[1] + r * math.sin(turned)

    def heights(self) -> Iterator[float]:
        """Where one arc ends and the next begins: whole turns, of a taper parts of one; the end last."""
        piece = self.lead / (PIECES if self.widening else 1)
        count = equal_parts(abs(self.end - self.begin), piece, 1e-9)
        yield from (self.begin + self.rises * piece * k for k in range(1, count))
        yield self.end


def run_helix(path: Path, helix: Helix, feed: float) -> None:
    """Along the helix, from its beginning, where the tool is already."""
    before = helix.at(helix.begin)
    for z in helix.heights():
        after = helix.at(z)
        path.bow(feed, after, _between(before, after, helix), ccw=helix.ccw, z=z)
        before = after


def _between(a: Point, b: Point, helix: Helix) -> Point:
    """The middle of an arc: the thread's own, or for ends at different radii the nearest that is as far from both."""
    if not helix.widening or math.dist(a, b) < 1e-12:
        return helix.centre
    (cx, cy), dx, dy = helix.centre, b[0] - a[0], b[1] - a[1]
    length = math.hypot(dx, dy)
    off = (((a[0] + b[0]) / 2 - cx) * dx + ((a[1] + b[1]) / 2 - cy) * dy) / length
    return cx + off * dx / length, cy + off * dy / length


def inside_pass(path: Path, helix: Helix, feed: float) -> None:
    """Into a hole's thread and out again: from the middle along a half circle that rises with the thread, and back."""
    x, y = helix.centre
    quarter = helix.rises * helix.lead / 4
    path.go(x, y).go(z=helix.begin - quarter)
    start = helix.at(helix.begin)
    path.bow(feed, start, ((x + start[0]) / 2, (y + start[1]) / 2), ccw=helix.ccw, z=helix.begin)
    run_helix(path, helix, feed)
    end = helix.at(helix.end)
    path.bow(feed, (x, y), ((x + end[0]) / 2, (y + end[1]) / 2), ccw=helix.ccw, z=helix.end + quarter)


def outside_pass(path: Path, helix: Helix, feed: float, lead_in: float, across: float) -> None:
    """Onto a boss's thread and off again, along half circles of the radius `lead_in` that touch it; `across` is the height for
    going there."""
    x, y = helix.centre
    for z, entering in ((helix.begin, True), (helix.end, False)):
        px, py = helix.at(z)
        r = math.hypot(px - x, py - y)
        ux, uy = (px - x) / r, (py - y) / r
        far, middle = (px + 2 * lead_in * ux, py + 2 * lead_in * uy), (px + lead_in * ux, py + lead_in * uy)
        if entering:
            path.go(z=across).go(*far).go(z=z)
            path.bow(feed, (px, py), middle, ccw=not helix.ccw)
            run_helix(path, helix, feed)
        else:
            path.bow(feed, far, middle, ccw=not helix.ccw)
            path.go(z=across)
