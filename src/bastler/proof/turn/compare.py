"""The turned part as cut against the part as wanted: what is left, what is gouged, where, by how much; and its sizes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, Protocol

import numpy as np
import shapely

from bastler.proof.measure import thickness
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.sweep import volume
from bastler.proof.unkept import Unkept
from bastler.shapes.kinds import Region
from bastler.shapes.united import mitred, united

TOLERANCE_MM = 0.004
"""What rounding of the text and chords may make, on the radius."""
QUARTER = 48
CHORDS = 1.0003
"""So many times wider a disc of QUARTER chords a quarter is as round as its circle, on both its ways."""


@dataclass(frozen=True)
class TurnFault:
    """A piece left or gouged: `by` about how thick it is, `place` (x, 0, z) in it, its region and the step it belongs to."""

    kind: str
    by: float
    place: tuple[float, float, float]
    region: Region
    step: str


@dataclass(frozen=True)
class DrivenFault:
    """What driven tools took that nobody wants gone, or left of what a `step` wants: which kind, how much, how far along a ray at
    most, and where that is."""

    kind: Literal["left", "gouge"]
    much: float
    deep: float
    place: tuple[float, float, float]
    step: str = ""

    def volume(self, kind: str) -> float:
        return self.much if kind == self.kind else 0.0

    def greatest(self, kind: str) -> float:
        return self.deep if kind == self.kind else 0.0


class Amounts(Protocol):
    """Left and gouged, on whatever plane."""

    def volume(self, kind: str) -> float:
        """Left or gouged volume in cubic units."""

    def greatest(self, kind: str) -> float:
        """The greatest thickness."""


@dataclass(frozen=True)
class TurnComparison:
    """All faults, and the shape that was wanted; `driven` is what driven tools left and took too much."""

    wanted: Region
    faults: Sequence[TurnFault] = ()
    unkept: Sequence[Unkept] = ()
    driven: Sequence[Amounts] = ()

    def volume(self, kind: str) -> float:
        """Left or gouged volume in cubic units."""
        return sum(d.volume(kind) for d in self.driven) + sum(volume(f.region) for f in self.faults if f.kind == kind)

    def greatest(self, kind: str) -> float:
        """The greatest thickness."""
        return max((0.0, *(d.greatest(kind) for d in self.driven), *(f.by for f in self.faults if f.kind == kind)))


def compared(scene: TurnScene, final: Region) -> TurnComparison:
    """`final` is all there is at the end, what fell off included."""
    gone = [r for w in scene.wanted for r in w.regions]
    wanted = scene.raw.difference(united(gone)) if gone else scene.raw
    free = [p.region for p in scene.promised]
    needed = wanted.difference(united(free)) if free else wanted
    threads = [w.thread for w in scene.wanted if w.thread is not None]
    blind = united([*_corners(scene), *threads]) if gone or threads else shapely.Polygon()
    half = TOLERANCE_MM * scene.mm / 2
    faults: list[TurnFault] = []
    for kind, over in (("left", final.difference(wanted)), ("gouge", needed.difference(final))):
        rest = over.difference(blind) if kind == "left" else over.difference(united(threads)) if threads else over
        core = mitred(rest, -half)
        for piece in getattr(core, "geoms", [core]):
            if piece.is_empty or piece.geom_type != "Polygon":
                continue
            whole = mitred(piece, half)
            spot = piece.representative_point()
            by = thickness(whole)
            if by > TOLERANCE_MM * scene.mm:
                faults.append(TurnFault(kind, by, (spot.y, 0.0, spot.x), whole, _owner(scene, spot)))
    return TurnComparison(wanted, tuple(faults), _unkept(scene, final, faults))


def _unkept(scene: TurnScene, final: Region, faults: Sequence[TurnFault]) -> tuple[Unkept, ...]:
    """What stands of the allowances that no step takes."""
    found = []
    told = [f.region for f in faults if f.kind == "left"]
    for promise in scene.promised:
        stands = final.intersection(promise.region)
        stands = stands.difference(united(told)) if told else stands
        core = mitred(stands, -TOLERANCE_MM * scene.mm / 2)
        if core.is_empty:
            continue
        spot, high = core.representative_point(), float(stands.bounds[2] - max(stands.bounds[0], 0.0))
        found.append(Unkept(promise.where, volume(stands), high, promise.stays, (spot.y, 0.0, spot.x)))
    return tuple(found)


def _corners(scene: TurnScene) -> list[Region]:
    """The fillets that noses leave in inner corners, where no step had a smaller one: nobody calls them left.

    A nose reaches what its disc fits into, in the room that the steps up to its own have made.
    """
    x0, _y0, x1, y1 = scene.raw.bounds
    far = 50 * scene.mm
    room: Region = shapely.box(x0 - far, -far, x1 + far, y1 + far).difference(scene.raw)
    wanted, reached = [], []
    for w in scene.wanted:
        if not w.regions:
            continue
        own = united(w.regions)
        room = room.union(own)
        wanted.append(own)
        free = room.difference(_end_wall(own, scene.mm)) if w.led else room
        reached.append(own.intersection(_fits(free, w.nose)))
    if not wanted:
        return []
    return [united(wanted).difference(united(reached)).buffer(TOLERANCE_MM * scene.mm)]


@lru_cache(maxsize=128)
def _fits(free: Region, nose: float) -> Region:
    """What a disc reaches in a room."""
    if nose <= 0:
        return free
    return free.buffer(-nose, quad_segs=QUARTER).buffer(nose * CHORDS, quad_segs=QUARTER)


def _end_wall(own: Region, mm: float) -> Region:
    """The square wall at which an outline ends, as far as it is led out of the stock, as a hair. A low shoulder does not let a
    large nose lean over its land into the corner: the tip keeps to its outline."""
    z = own.bounds[0]
    across = shapely.LineString([(z, own.bounds[1]), (z, own.bounds[3])])
    edges = [g.boundary for g in getattr(own, "geoms", [own]) if g.geom_type == "Polygon"]  # stray lines have none
    return shapely.union_all([edge.intersection(across) for edge in edges]).buffer(1e-6 * mm)


def _owner(scene: TurnScene, spot: Region) -> str:
    """The last step that should have taken this away."""
    near = spot.buffer(TOLERANCE_MM * scene.mm)
    for w in reversed(scene.wanted):
        if any(r.intersects(near) for r in w.regions):
            return w.step
    return ""


@dataclass(frozen=True)
class Size:
    """A cylinder of the part: inside or outside, its diameter, from `z0` (left) to `z1`; `groove` when both sides rise from
    it."""

    inside: bool
    diameter: float
    z0: float
    z1: float
    groove: bool

    @property
    def length(self) -> float:
        return self.z1 - self.z0


def sizes(part: Region, mm: float) -> list[Size]:
    """The cylinders of a part from front to back: what one would measure."""
    found: list[Size] = []
    for polygon in getattr(part, "geoms", [part]):
        if polygon.is_empty or polygon.geom_type != "Polygon":
            continue
        ring = shapely.geometry.polygon.orient(polygon.simplify(1e-5 * mm), 1.0).exterior
        p = np.asarray(ring.coords)[:-1]
        n = len(p)
        for k in range(n):
            a, b = p[k], p[(k + 1) % n]
            if abs(a[1] - b[1]) > 1e-5 * mm or abs(a[0] - b[0]) < 0.05 * mm or a[1] < 1e-6:
                continue
            inside = bool(b[0] > a[0])
            before, after = p[k - 1][1], p[(k + 2) % n][1]
            walls = (before - a[1], after - a[1])
            groove = all(w > 1e-4 * mm for w in walls) if not inside else all(w < -1e-4 * mm for w in walls)
            found.append(Size(inside, 2 * float(a[1]), float(min(a[0], b[0])), float(max(a[0], b[0])), bool(groove)))
    return sorted(found, key=lambda s: (s.inside, -s.z1))
