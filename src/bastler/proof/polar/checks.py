"""The checks of driven tools on a turned part."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from bastler.language import tr
from bastler.nc import RAPID
from bastler.nc.trace import about_axis
from bastler.proof.checks import POWER_STOP
from bastler.proof.checks import check as check
from bastler.proof.found import MOST_A_CODE, Found
from bastler.proof.polar.entry import slant_at
from bastler.proof.polar.run import PolarRun, off_axis
from bastler.proof.polar.sweeping import DEEP, RAPID_IN, VOLUME
from bastler.proof.remark import Level
from bastler.proof.turn.handing import MAIN_OPENS, OPENS, state_before
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.sweep import body_of, edges_of
from bastler.proof.view import UNSEEN, SegmentView
from bastler.shapes.kinds import Floats
from bastler.steps.base import WRAPPED, PlaneKind
from bastler.tools import Tool, TurnTool

FEELS_MM = 0.02
"""Less than this along a ray is rounding, not contact."""
SLANTS = 8.0
"""A face that slants by more degrees does not lead a twist drill."""
AXIS_MM = 0.005
"""Nearer to the axis than this a way goes through it."""


@dataclass(frozen=True, eq=False)
class PolarView(SegmentView):
    """A run of driven moves; its pieces are segments of the path. All planes of a part that stands are seen wrapped round it."""

    scene: TurnScene
    proof: PolarRun

    @property
    def plane(self) -> PlaneKind:
        return "wrapped"

    @property
    def feels(self) -> float:
        return FEELS_MM * self.scene.mm

    @property
    def bite(self) -> Floats:
        found: Floats = np.where(self.feeds, self.proof.cut[:, DEEP], self.proof.cut[:, RAPID_IN])
        return found

    @property
    def volume(self) -> Floats:
        return self.proof.cut[:, VOLUME]

    @property
    def seen(self) -> bool:
        return self.tool is None or self.tool.kind not in UNSEEN

    @property
    def bodies(self) -> Sequence[tuple[str, Floats]]:
        return list(self.proof.bodies.items())

    @property
    def limit(self) -> tuple[float, str]:
        drive = self.scene.card.drive
        most = drive.speed[1] if drive is not None else 0.0
        if isinstance(self.tool, Tool) and 0 < self.tool.most_speed < most:
            return self.tool.most_speed, tr("{name} ends", name=self.tool.called)
        return most, tr("the drive of the turret ends")

    @property
    def slowest(self) -> float:
        return self.scene.card.drive.speed[0] if self.scene.card.drive is not None else 0.0

    @property
    def strength(self) -> tuple[float, float]:
        return (self.scene.card.drive.power if self.scene.card.drive is not None else 0.0), 0.0

    @property
    def reached(self) -> tuple[Floats, Floats]:
        """X and Y as the machine has them: of a place on the part by where C is, under polar interpolation X is how far it is
        from the axis."""
        segments, owner = self.proof.segments, self.proof.owner
        ends = [about_axis(part, -self.proof.angles) for part in (segments[:, :3], segments[:, 3:])]
        polar = self.trace.polar[self.part][owner]
        for end, part in zip(ends, (segments[:, :3], segments[:, 3:]), strict=True):
            end[polar, 0], end[polar, 1] = np.hypot(part[polar, 0], part[polar, 1]), 0.0
        moves = self.end - self.begin
        low, high = np.full((moves, 3), np.inf), np.full((moves, 3), -np.inf)
        np.minimum.at(low, owner, np.minimum(*ends))
        np.maximum.at(high, owner, np.maximum(*ends))
        return low, high

    def into_stock(self) -> tuple[int, str, float] | None:
        z0, _, z1, r1 = self.scene.raw.bounds
        segments = self.proof.segments
        deep = (np.hypot(segments[:, 3], segments[:, 4]) < r1 - self.feels) & (segments[:, 5] < z1 - self.feels)
        deep &= segments[:, 5] > z0
        return (int(np.argmax(deep)), tr("Comes to where the stock is"), 0.0) if deep.any() else None


@check("driven-kept-out", WRAPPED)
def kept_out(view: PolarView) -> Iterator[Found]:
    """Jaws, which turn with the part, the chuck behind them, and the tailstock."""
    for name, deep in view.proof.kept_out.items():
        for piece, amount in view.worst_by_move(deep > view.feels, deep, MOST_A_CODE):
            move, place = view.at(piece)
            text = tr("Runs into the {name}, {amount} deep.", name=tr(name), amount=view.says(amount))
            yield Found("stop", f"{name}-hit", text, move, amount, place)


@check("angle-lost", WRAPPED)
def angle_lost(view: PolarView) -> Iterator[Found]:
    """What is milled at an angle has to be at that from what was milled in the holding before."""
    feeds = np.flatnonzero(view.trace.kind[view.part] != RAPID)
    if view.scene.angle_lost and len(feeds):
        text = tr("The part came here without its angle: where this lies to what was milled before, nobody knows.")
        yield Found("stop", "angle-lost", text, int(feeds[0]))


@check("both-hold", WRAPPED, apart=True)
def both_hold(view: PolarView) -> Iterator[Found]:
    """C turns a work that the other chuck holds as well, and tools come to where that is."""
    state = state_before(view.trace, view.begin)
    if view.scene.second is not None and state.second:
        yield Found("stop", "both-hold", tr("The second chuck holds the work too: nothing is milled on it meanwhile."), 0)


@check("chucks-move", WRAPPED, apart=True)
def chucks_move(view: PolarView) -> Iterator[Found]:
    """While driven tools are at work nobody looks at what a second chuck meets, and the one that has the part keeps it."""
    trace, scene = view.trace, view.scene
    moves = np.flatnonzero(trace.shoves[view.part])
    if len(moves):
        text = tr("The second chuck moves while the work stands for driven tools: what it meets is not looked at.")
        yield Found("stop", "chucks-move", text, int(moves[0]))
    holds = OPENS if scene.handed else MAIN_OPENS
    for event in trace.events:
        if event.what == "grip" and event.value == holds and view.begin < event.at < view.end:
            yield Found("stop", "part-dropped", tr("The chuck that has the part opens: it falls."), event.at - view.begin)


@check("not-driven", WRAPPED)
def not_driven(view: PolarView) -> Iterator[Found]:
    """A tool that nothing turns, while the work stands: no station of this number has a drive, or it is a tool for turning."""
    drive, tool = view.scene.card.drive, view.tool
    feeds = np.flatnonzero(view.trace.kind[view.part] != RAPID)
    if tool is None or not len(feeds):
        return
    station = int(view.trace.tool[view.begin])
    if isinstance(tool, TurnTool):
        text = tr("The work stands and {says} feeds: a turning tool cuts nothing then.", says=tool.says)
    elif drive is None or station not in drive.stations:
        text = tr("Station {station} has no drive: {says} does not turn there.", station=station, says=tool.says)
    elif not (drive.radial if tool.stands == "radial" else drive.axial):
        text = tr(
            "The turret holds no driven tool along {stands}, as {says} stands.",
            stands="X" if tool.stands == "radial" else "Z",
            says=tool.says,
        )
    else:
        return
    yield Found("stop", "not-driven", text, int(feeds[0]))


@check("stands-still", WRAPPED)
def stands_still(view: PolarView) -> Iterator[Found]:
    """A turning tool moved beside a work that stands: what it touches is known only of one that turns."""
    tool = view.tool
    if not isinstance(tool, TurnTool):
        return
    z0, _, z1, r1 = view.scene.raw.bounds
    whole = np.concatenate([*edges_of(tool), *body_of(tool)])
    segments = view.proof.segments
    radius = np.minimum(np.hypot(segments[:, 0], segments[:, 1]), np.hypot(segments[:, 3], segments[:, 4]))
    near = (radius + float(whole[:, 1].min()) < r1) & (np.minimum(segments[:, 2], segments[:, 5]) + float(whole[:, 0].min()) < z1)
    near &= np.maximum(segments[:, 2], segments[:, 5]) + float(whole[:, 0].max()) > z0
    near &= np.linalg.norm(segments[:, 3:] - segments[:, :3], axis=1) > 0.0
    if near.any():
        move, place = view.at(int(np.argmax(near)))
        text = tr("{says} moves beside a work that stands: that is not proved.", says=tool.says)
        yield Found("stop", "stands-still", text, move, 0.0, place)


@check("c-speed", WRAPPED)
def c_speed(view: PolarView) -> Iterator[Found]:
    """Near the axis C has to turn faster than it can for the feed; through it, under interpolation, it would have to jump."""
    c, trace = view.scene.card.c, view.trace
    feeds, polar = trace.kind[view.part] != RAPID, trace.polar[view.part]
    if c is None or not feeds.any():
        return
    segments, owner = view.proof.segments, view.proof.owner
    closest = np.full(view.end - view.begin, np.inf)
    np.minimum.at(closest, owner, off_axis(segments[:, :3], segments[:, 3:]))
    across = feeds & polar & (closest < AXIS_MM * view.scene.mm)
    feed, lengths = trace.feed[view.part], trace.lengths()[view.part]
    swing = np.abs(trace.angle[view.part, 1] - trace.angle[view.part, 0])
    each = np.divide(swing * feed, lengths, out=np.zeros_like(feed), where=lengths > 1e-9 * view.scene.mm)
    needs = np.where(feeds, np.where(polar, np.degrees(feed / np.maximum(closest, 1e-9)), each), 0.0)
    if across.any():
        move = int(np.argmax(across))
        yield Found("stop", "c-speed", tr("Goes through the axis under polar interpolation: C would have to jump there."), move)
    elif needs.max(initial=0.0) > c.rapid:
        move = int(np.argmax(needs))
        text = tr(
            "C would need {needs:.0f} ° a minute so near the axis; it has {rapid:g}: the feed falls.",
            needs=needs[move],
            rapid=c.rapid,
        )
        yield Found("caution", "c-speed", text, move, float(needs[move] - c.rapid))


@check("c-holds", WRAPPED)
def c_holds(view: PolarView) -> Iterator[Found]:
    """C stands unclamped, and the cut turns it away: the force at the tool's edge, with all the way to the axis as its lever."""
    c, proof, tool = view.scene.card.c, view.proof, view.tool
    if c is None or not isinstance(tool, Tool) or not len(proof.power):
        return
    rows = view.begin + proof.owner
    still = (view.trace.angle[rows, 0] == view.trace.angle[rows, 1]) & ~view.trace.polar[rows] & ~view.trace.held[rows]
    mm = view.scene.mm
    speed = math.pi * tool.diameter / mm / 1000.0 * view.trace.speed[rows] / 60.0  # m/s at the edge
    watts = proof.power * 1000.0 * view.scene.card.efficiency
    force = np.divide(watts, speed, out=np.zeros_like(watts), where=speed > 0)
    lever = np.hypot(proof.segments[:, 3], proof.segments[:, 4]) / mm / 1000.0
    needs = np.where(still, force * lever, 0.0)
    k = int(np.argmax(needs))
    if needs[k] > c.holds:
        move, place = view.at(k)
        text = tr("Turns the work away with {needs:.0f} Nm; unclamped it is held with {holds:g}.", needs=needs[k], holds=c.holds)
        level: Level = "stop" if needs[k] > POWER_STOP * c.holds else "caution"
        yield Found(level, "c-holds", text, move, float(needs[k] - c.holds), place)


@check("slant-entry", WRAPPED)
def slant_entry(view: PolarView) -> Iterator[Found]:
    """A twist drill that enters a face which slants runs off, and breaks."""
    tool, proof = view.tool, view.proof
    if not isinstance(tool, Tool) or tool.kind != "drill" or tool.stands != "radial":
        return
    axes = [about_axis(part, -proof.angles) for part in (proof.segments[:, :3], proof.segments[:, 3:])]
    down = view.feeds & (proof.cut[:, VOLUME] > 0.0) & (axes[1][:, 0] < axes[0][:, 0])
    places = np.round(np.column_stack([proof.angles, axes[1][:, 1], axes[1][:, 2]]) / view.scene.mm, 3)
    rows = np.flatnonzero(down)
    _, firsts = np.unique(places[rows], axis=0, return_index=True)
    if not len(firsts):
        return
    rays = proof.before.dexels()
    slants = dict[int, float]()
    for k in rows[firsts].tolist():
        _, y, z = axes[1][k].tolist()
        slants[k] = slant_at(rays, float(proof.angles[k]), y, z, tool.diameter)
    worst = max(slants, key=lambda k: slants[k])
    if slants[worst] > SLANTS:
        move, place = view.at(worst)
        many = sum(slant > SLANTS for slant in slants.values())
        text = tr(
            "The drill enters a face that slants by {slants:.0f}°{many}",
            slants=slants[worst],
            many=tr(", as {many} of its holes do", many=many) if many > 1 else "",
        )
        yield Found("caution", "slant-entry", tr("{text}: spot it, or mill a flat first.", text=text), move, slants[worst], place)
