"""Proving one run of moves with a driven tool: what it takes of polar dexels, and what it touches that it must not."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from bastler.nc import RAPID, Trace
from bastler.proof.clockwork import shares
from bastler.proof.mill.bands import BANDS, hands
from bastler.proof.mill.load import powers
from bastler.proof.mill.segments import pieces
from bastler.proof.polar.dexels import Dexels, Packed
from bastler.proof.polar.sweeping import DEEP, RAPID_IN, VOLUME, axial, axial_body, axial_pieces, radial, radial_body
from bastler.proof.turn.scene import TurnScene
from bastler.shapes.kinds import Bools, Floats, Ints, Region, StopFlag
from bastler.tools import AnyTool, Tool

CHORD_MM = {"axial": 0.02, "radial": 0.04}
"""How far a chord may leave its arc; corners lie outside it so that as much is taken as along the arc. Of tools across the axis
every piece goes over rays on its own: those are fewer."""
PIECE_MM = 2.0
"""How long the pieces of a move are along which the load is told; of wider tools as long as their radius."""
AT_ONCE = 4000
"""Pieces of path between two looks whether anybody still wants the rest."""
FLUTES = "flutes"
RELIEVED = 0.98
"""A shank slimmer than this share of the diameter does not rub."""
BESIDE_MM = 0.2
"""How far beside a shank walls are felt."""


@dataclass(frozen=True, eq=False)
class PolarRun:
    """What a run of driven moves did. Of every piece of its path, `segments` (m, 6) with the move each belongs to (`owner`, (m,),
    counted from the run's first): `cut` (m, 3), volume, depth along the tool, and how deep a rapid went in; `bodies` how deep
    parts of the tool came into the material, `kept_out` into jaws, chuck and tailstock, each (m,). `angles` (m,) is C in radians.

    `section` is the half section as turning left it: all that the part can be at most. `before` and `behind` are the rays.
    """

    cut: Floats
    bodies: Mapping[str, Floats]
    kept_out: Mapping[str, Floats]
    segments: Floats
    owner: Ints
    angles: Floats
    seconds: Floats
    power: Floats
    move_seconds: Floats
    tool: AnyTool | None
    section: Region
    before: Packed
    behind: Packed
    fallen: Sequence[Region] = field(default=())

    @property
    def volume(self) -> float:
        """Removed, in cubic units."""
        return float(self.cut[:, VOLUME].sum())

    @property
    def after(self) -> Region:
        """The half section behind it."""
        return self.section

    @property
    def stocks(self) -> Sequence[Region]:
        """The half section after every move."""
        return (self.section,) * len(self.move_seconds)


def prove_driven(
    scene: TurnScene,
    stock: Dexels,
    before: Packed,
    keep: Mapping[str, Dexels],
    section: Region,
    trace: Trace,
    begin: int,
    end: int,
    lasts: Floats,
    stop: StopFlag,
) -> PolarRun | None:
    """Runs moves `begin` to before `end`, all with one driven tool, on `stock`, which they change and `before` is a copy of;
    `keep` are jaws, chuck and tailstock as dexels too. None when stopped half-way."""
    tool, mm = scene.tools.get(int(trace.tool[begin])), scene.mm
    radius = tool.diameter / 2 if isinstance(tool, Tool) else 0.0
    longest = max(PIECE_MM * mm, radius)
    chord = CHORD_MM[tool.stands if isinstance(tool, Tool) else "axial"] * mm
    segments, owner = pieces(trace, begin, end, chord=chord, longest=longest, radius=radius)
    owner = (owner - begin).astype(np.int32)
    angles = _angles(trace, segments, owner, begin)
    count = len(segments)
    cut, bodies, kept = np.zeros((count, 3)), dict[str, Floats](), dict[str, Floats]()
    moves = lasts[begin:end]
    seconds = shares(np.linalg.norm(segments[:, 3:] - segments[:, :3], axis=1), owner, end - begin) * moves[owner]
    power, behind = np.zeros(count), before
    if isinstance(tool, Tool):
        rapid = trace.kind[begin:end][owner] == RAPID
        for at in range(0, count, AT_ONCE):
            if stop[0]:
                return None
            now = slice(at, at + AT_ONCE)
            _cut(stock, tool, segments[now], angles[now], rapid[now], cut[now])
        reached = comes_to(tool, segments[:, :3], segments[:, 3:], stock.outer, bodies=False)
        behind = before.changed(stock, *stock.slabs(*reached))
        whole, parts = _Ways.of(trace, begin, end, chord), _bodies(tool, mm)
        beside = _beside(scene, tool)
        bodies = {name: whole.told(_meets(stock, tool, whole, part), owner) for name, part in parts.items()}
        if beside:
            angular = [_meets(stock, tool, whole.moved(by, tool), parts["holder"]) for by in beside]
            bodies["angular holder"] = whole.told(np.max(angular, axis=0), owner)
        for name, region in keep.items():
            found = [_meets(region, tool, whole, part) for part in (_edges(tool), *parts.values())]
            found += [_meets(region, tool, whole.moved(by, tool), parts["holder"]) for by in beside]
            kept[name] = whole.told(np.max(found, axis=0), owner)
        long = np.linalg.norm(segments[:, 3:] - segments[:, :3], axis=1)
        turns = trace.speed[begin:end][owner]
        volume, deep = _evened(cut, segments, seconds, rapid, stock.thick)
        power = np.where(rapid, 0.0, powers(scene, tool, volume, deep, seconds, long, turns))
    return PolarRun(cut, bodies, kept, segments, owner, angles, seconds, power, moves.copy(), tool, section, before, behind)


def rays_within(run: PolarRun, rapid: Bools, row: int, share: float) -> Dexels:
    """The rays when `share` of the move `row` of a run is done; `rapid` tells of its moves (n,)."""
    if row >= len(run.move_seconds) - 1 and share >= 1.0:
        return run.behind.dexels()
    stock = run.before.dexels()
    upto = run.owner < row
    own = np.flatnonzero(run.owner == row)
    segments = run.segments[upto]
    angles, fast = run.angles[upto], rapid[run.owner[upto]]
    if len(own) and share > 0.0:
        done = share * len(own)
        part = run.segments[own[: int(np.ceil(done))]].copy()
        part[-1, 3:] = part[-1, :3] + (part[-1, 3:] - part[-1, :3]) * (done - len(part) + 1)
        segments = np.concatenate([segments, part])
        angles = np.concatenate([angles, run.angles[own[: len(part)]]])
        fast = np.concatenate([fast, np.full(len(part), rapid[row])])
    if isinstance(run.tool, Tool) and len(segments):
        _cut(stock, run.tool, segments, angles, fast, np.zeros((len(segments), 3)))
    return stock


def _evened(cut: Floats, segments: Floats, seconds: Floats, rapid: Bools, thick: float) -> tuple[Floats, Floats]:
    """Volume and depth of every piece (m,) as they come about in time: what goes down by less than a slab takes that whole, or
    nothing of it. Pieces that go down one after the other share what they take, over two slabs."""
    volume, deep = cut[:, VOLUME].copy(), cut[:, DEEP].copy()
    sinks = np.where(rapid, 0.0, segments[:, 2] - segments[:, 5])
    parted = np.flatnonzero((sinks <= 0.0) | (sinks >= 2 * thick))
    marks = np.unique(np.concatenate([[0, len(sinks)], parted, parted + 1]))
    depth = np.cumsum(np.maximum(sinks, 0.0))
    for a, b in itertools.pairwise(marks.tolist()):
        if b - a < 2:
            continue
        steps = np.floor((depth[a:b] - depth[a]) / (2 * thick)).astype(int)
        steps[steps == steps[-1]] = max(steps[-1] - 1, 0)  # the last one may be short: it goes with the one before
        time = np.bincount(steps, seconds[a:b])[steps]
        volume[a:b] = np.bincount(steps, volume[a:b])[steps] * np.divide(seconds[a:b], time, out=np.zeros(b - a), where=time > 0)
        most = np.zeros(int(steps.max()) + 1)
        np.maximum.at(most, steps, deep[a:b])
        deep[a:b] = most[steps]
    return volume, deep


@dataclass(frozen=True, eq=False)
class _Ways:
    """The moves of a run as straight ways, each as long as it is."""

    segments: Floats
    owner: Ints
    angles: Floats

    @staticmethod
    def of(trace: Trace, begin: int, end: int, chord: float) -> _Ways:
        segments, owner = pieces(trace, begin, end, chord=chord, longest=np.inf)
        owner = (owner - begin).astype(np.int32)
        return _Ways(segments, owner, _angles(trace, segments, owner, begin))

    def moved(self, by: float, tool: Tool) -> _Ways:
        """The same ways so much farther toward the turret: along the machine's X, or for a tool along X along Z."""
        shift = np.zeros((len(self.segments), 3))
        if tool.stands == "radial":
            shift[:, 2] = by
        else:
            shift[:, 0], shift[:, 1] = by * np.cos(self.angles), by * np.sin(self.angles)
        return _Ways(self.segments + np.hstack([shift, shift]), self.owner, self.angles)

    def told(self, amounts: Floats, owner: Ints) -> Floats:
        """The greatest amount of every move, at the last of its finer pieces, each with its move (m,)."""
        moves = int(owner.max(initial=-1)) + 1
        most = np.zeros(moves)
        np.maximum.at(most, self.owner, amounts)
        last = np.append(owner[1:] != owner[:-1], True)
        found: Floats = np.where(last, most[owner], 0.0)
        return found


Part = tuple[float, float, float]
"""A radius, and from where to where over the tip."""


def _edges(tool: Tool) -> Part:
    return tool.profile.radius, 0.0, tool.flute_length


def _bodies(tool: Tool, mm: float) -> dict[str, Part]:
    """What of a tool must not touch anything. A shank as stout as the flutes rubs at walls that stand higher than these reach:
    it is felt a little beside itself."""
    as_wide = RELIEVED * tool.diameter <= tool.shank_diameter <= tool.diameter
    wide = tool.diameter / 2 + BESIDE_MM * mm if as_wide else tool.shank_diameter / 2
    shank = (wide, tool.flute_length, max(tool.stick_out, tool.flute_length))
    found = {FLUTES if as_wide else "shank": shank} if shank[2] - shank[1] > 1e-6 * mm else {}
    return found | {"holder": (tool.holder.diameter / 2, tool.stick_out, tool.stick_out + tool.holder.length)}


def reach_beside(scene: TurnScene, tool: Tool) -> float:
    """How far the body of an angular holder goes out from its tool's axis; 0 for a straight one."""
    drive = scene.card.drive
    return drive.body if drive is not None and drive.angular == tool.stands else 0.0


def _beside(scene: TurnScene, tool: Tool) -> list[float]:
    """Where the body of an angular holder stands beside its tool, as rounds of the holder's diameter half of that apart. Along Z
    it goes away from the main spindle, seen from either side."""
    far, wide = reach_beside(scene, tool), tool.holder.diameter
    if far <= wide / 2:
        return []
    many = math.ceil((far - wide / 2) / (wide / 2))
    sign = -1.0 if scene.handed and tool.stands == "radial" else 1.0
    return [sign * (far - wide / 2) * k / many for k in range(1, many + 1)]


def _cut(stock: Dexels, tool: Tool, segments: Floats, angles: Floats, rapid: Bools, cut: Floats) -> None:
    profile = tool.profile
    shape = np.array([profile.flat, profile.corner, profile.slope, profile.radius, stock.outer])
    arrays = (stock.lo, stock.hi, stock.count, stock.edges, segments)
    long, slim = max(tool.flute_length, profile.tall), stock.cell / 2
    if tool.stands != "radial":
        _cut_along(stock, segments, rapid, shape, long, slim, cut)
        return

    def work(slabs: tuple[int, int]) -> Floats:
        told = np.zeros((len(segments), 3))
        radial(*arrays, angles, rapid, shape, long, slim, *slabs, told)
        return told

    found = np.stack(list(hands().map(work, _slabs(stock, segments, profile.radius))))
    cut[:, VOLUME] += found[:, :, VOLUME].sum(axis=0)
    for column in (DEEP, RAPID_IN):
        np.maximum(cut[:, column], found[:, :, column].max(axis=0), out=cut[:, column])


def _cut_along(stock: Dexels, segments: Floats, rapid: Bools, shape: Floats, long: float, slim: float, cut: Floats) -> None:
    """The same of a tool along the axis, by all cores, each its own rays."""
    ways, owner = axial_pieces(stock.edges, segments, rapid, shape, long)

    def work(rays: tuple[int, int]) -> Floats:
        told = np.tile((0.0, np.inf, -np.inf, 0.0), (len(ways), 1))
        axial(stock.lo, stock.hi, stock.count, stock.edges, ways, shape, slim, *rays, told)
        return told

    found = np.stack(list(hands().map(work, _shares(stock))))
    low, high = found[:, :, 1].min(axis=0), found[:, :, 2].max(axis=0)
    np.add.at(cut[:, VOLUME], owner, found[:, :, 0].sum(axis=0))
    np.maximum.at(cut[:, DEEP], owner, np.where(high > low, high - low, 0.0))
    np.maximum.at(cut[:, RAPID_IN], owner, found[:, :, 3].max(axis=0))


def _meets(stock: Dexels, tool: Tool, ways: _Ways, part: Part) -> Floats:
    """How deep a round part of the tool comes into the material, for every way."""
    slim = stock.cell / 2
    arrays = (stock.lo, stock.hi, stock.count, stock.edges, ways.segments)

    def work(share: tuple[int, int]) -> Floats:
        own = np.zeros(len(ways.segments))
        if tool.stands == "radial":
            radial_body(*arrays, ways.angles, *part, slim, stock.outer, *share, own)
        else:
            axial_body(*arrays, *part, slim, *share, own)
        return own

    shares = _slabs(stock, ways.segments, part[0]) if tool.stands == "radial" else _shares(stock)
    deepest: Floats = np.max(list(hands().map(work, shares)), axis=0)
    return deepest


def off_axis(a: Floats, b: Floats) -> Floats:
    """How near the axis each of some ways (m, 3) to (m, 3) comes, (m,)."""
    begin, way = a[:, :2], (b - a)[:, :2]
    share = -(begin * way).sum(axis=1) / np.maximum((way * way).sum(axis=1), 1e-18)
    found: Floats = np.linalg.norm(begin + way * np.clip(share, 0.0, 1.0)[:, None], axis=1)
    return found


def comes_to(tool: Tool, a: Floats, b: Floats, outer: float, *, bodies: bool, beside: float = 0.0) -> tuple[float, float]:
    """From where to where along the axis a tool meets a part of a radius on its ways (m, 3) to (m, 3): what cuts, or all of it
    with its shank and holder, whose body goes out `beside` it. An empty stretch where it never does."""
    wide = (max(tool.diameter, tool.shank_diameter, tool.holder.diameter) if bodies else tool.diameter) / 2
    wide = max(wide, beside) if bodies else wide
    near = off_axis(a, b) <= outer + (wide if tool.stands == "axial" else 0.0)
    if not near.any():
        return 0.0, -np.inf
    z = np.column_stack([a[near, 2], b[near, 2]])
    if tool.stands == "radial":
        return float(z.min()) - wide, float(z.max()) + wide
    return float(z.min()), np.inf if bodies else float(z.max()) + max(tool.flute_length, tool.profile.tall)


def _slabs(stock: Dexels, segments: Floats, wide: float) -> list[tuple[int, int]]:
    """The slabs that a tool across the axis comes to, in parts, each for a core."""
    z = segments[:, [2, 5]]
    first, last = stock.slabs(float(z.min()) - wide, float(z.max()) + wide)
    return _parts(first, max(first, last))


def _shares(stock: Dexels) -> list[tuple[int, int]]:
    """The rays in parts, each for a core."""
    return _parts(0, len(stock.count))


def _parts(first: int, last: int) -> list[tuple[int, int]]:
    return list(itertools.pairwise(np.linspace(first, last, BANDS + 1).astype(int).tolist()))


def _angles(trace: Trace, segments: Floats, owner: Ints, begin: int) -> Floats:
    """C in the middle of every piece, in radians (m,)."""
    own = owner + begin
    first = np.searchsorted(owner, owner, "left")
    many = np.searchsorted(owner, owner, "right") - first
    share = (np.arange(len(owner)) - first + 0.5) / many
    ends = np.radians(trace.angle[own])
    angles = ends[:, 0] + (ends[:, 1] - ends[:, 0]) * share
    middle = (segments[:, :2] + segments[:, 3:5]) / 2
    found: Floats = np.where(trace.polar[own], np.arctan2(middle[:, 1], middle[:, 0]), angles)
    return found
