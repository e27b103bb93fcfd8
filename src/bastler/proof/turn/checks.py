"""The checks on one run of moves of a turned part. Each gathers all it finds.

To add one, write a function and put `@check` with its code on it; a test walks all entries.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from bastler.cutting import largest_bite
from bastler.nc import RAPID, Trace
from bastler.proof.found import FEEDS_WITHOUT, MOST_A_CODE, POWER_STOP, Checks, Found, feeds_over
from bastler.proof.measure import thickness
from bastler.proof.travel import over_travel
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section import AREA, BODY_IN, FEELS_MM, KEEP_IN, RAPID_IN, THREAD_END, VOLUME, WIDE, TurnSection
from bastler.proof.turn.sweep import body_of, edges_of, placed, way
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.units import Kind, with_unit

FINISHING = ("finish", "rest")
FINISH_NOSES = 4.0
"""So many nose radii a finishing pass may take; more wants a roughing pass before it."""
BITE_ROOM = 1.5
"""So many times the largest bite that is proposed is too much."""
FAST_SHARE = 0.75
"""Of its greatest feed so much leaves a slide no speed in hand for a thread."""
FLOATS_MM = 5.0
"""How far a floating holder gives way along the axis, on the careful side."""


@dataclass(frozen=True)
class TurnView:
    """What a check looks at: moves `begin` to before `end` of the trace, their proof, and the stock before them."""

    scene: TurnScene
    trace: Trace
    begin: int
    end: int
    proof: TurnSection
    before: Any
    step: str
    stage: str = ""

    @property
    def tool(self) -> AnyTool | None:
        return self.proof.tool

    @property
    def kind(self) -> Any:
        return self.trace.kind[self.begin : self.end]

    def says(self, length: float) -> str:
        return with_unit(length, Kind.LENGTH, self.scene.unit)

    def place(self, move: int) -> tuple[float, float, float]:
        """Where a move ends."""
        x, y, z = self.trace.end[self.begin + move]
        return (float(x), float(y), float(z))


check = Checks[TurnView]()


def _worst(view: TurnView, column: int) -> Iterator[tuple[int, float]]:
    """The first moves where a column of the proof is over what is felt."""
    amounts = view.proof.cut[:, column]
    for move in np.flatnonzero(amounts > FEELS_MM * view.scene.mm)[:MOST_A_CODE]:
        yield int(move), float(amounts[move])


@check("rapid-in-stock")
def rapid_in_stock(view: TurnView) -> Iterator[Found]:
    for move, deep in _worst(view, RAPID_IN):
        text = f"Rapid into the stock, {view.says(deep)} deep."
        yield Found("stop", "rapid-in-stock", text, move, deep, view.place(move))


@check("holder-in-stock")
def holder_in_stock(view: TurnView) -> Iterator[Found]:
    tool = view.tool
    for move, deep in list(_worst(view, BODY_IN))[:1]:
        if isinstance(tool, Tool):
            short = tool.flute_length
            text = f"Deeper than the flutes, which are {view.says(short)} long."
            yield Found("stop", "deeper-than-flutes", text, move, deep, view.place(move))
            continue
        what = "boring bar" if tool and tool.inside else "holder"
        yield Found(
            "stop", "holder-in-stock", f"The {what} runs into the stock, {view.says(deep)}.", move, deep, view.place(move)
        )


@check("kept-out")
def kept_out(view: TurnView) -> Iterator[Found]:
    """Jaws, chuck and tailstock."""
    for move, deep in _worst(view, KEEP_IN):
        name = view.proof.touched.get(move, "chuck")
        text = f"Runs into the {name}, {view.says(deep)} deep."
        yield Found("stop", f"{name}-hit", text, move, deep, view.place(move))


@check("over-travel")
def leaves_travel(view: TurnView) -> Iterator[Found]:
    scene = view.scene
    reach = scene.control.reaches.get(int(view.trace.tool[view.begin]), (0.0, 0.0, 0.0))
    travels = ((0, "X", scene.card.x), (2, "Z", scene.card.z))
    axes = [(axis, name, travel, scene.zero[axis] + reach[axis]) for axis, name, travel in travels]
    yield from over_travel(view.trace, view.begin, view.end, axes, FEELS_MM * scene.mm, view.says)


@check("no-tool")
def no_tool(view: TurnView) -> Iterator[Found]:
    """With no tool known nothing is cut and nothing is hit: where the stock is, or at feed, that proves nothing."""
    if view.tool is not None:
        return
    z0, _, z1, r1 = view.scene.raw.bounds
    feels = FEELS_MM * view.scene.mm
    room = shapely.box(z0, -r1 + feels, z1 - feels, r1 - feels)
    for move in range(view.end - view.begin):
        points = way(view.trace, view.begin + move, view.scene.mm)
        if shapely.LineString(points).intersects(room):
            text = "Comes to where the stock is, and no tool is known: nothing is proved here."
            yield Found("stop", "no-tool", text, move, 0.0, view.place(move))
            return
    if (view.kind != RAPID).any():
        move = int(np.argmax(view.kind != RAPID))
        yield Found("stop", "no-tool", FEEDS_WITHOUT, move, 0.0, view.place(move))


@check("over-feed")
def over_feed(view: TurnView) -> Iterator[Found]:
    """Faster than the slides can: a thread gets another pitch."""
    yield from feeds_over(view.trace, view.begin, view.end, view.scene.card.feed_most, view.says)


@check("over-speed")
def over_speed(view: TurnView) -> Iterator[Found]:
    """Over the spindle's speed, or the chuck's own rating: the fastest that each move comes to."""
    fast = _fastest(view)
    (low, high), rating = view.scene.card.speed, view.scene.rating
    if len(fast) and fast.max() > high * 1.0001:
        move = int(np.argmax(fast))
        text = f"{fast[move]:.0f} turns a minute; the spindle ends at {high:g}."
        yield Found("stop", "over-speed", text, move, float(fast[move] - high))
    elif len(fast) and fast.max() > rating * 1.0001:
        move = int(np.argmax(fast > rating * 1.0001))
        text = f"{fast.max():.0f} turns a minute; the chuck is good for {rating:g}."
        yield Found("stop", "chuck-rating", text, move, float(fast.max() - rating))
    slow = view.trace.speed[view.begin : view.end]
    under = np.flatnonzero((slow > 0) & (slow < low * 0.9999))
    if len(under):
        text = f"{slow[under[0]]:.0f} turns a minute; the spindle begins at {low:g}."
        yield Found("caution", "under-speed", text, int(under[0]), float(low - slow[under[0]]))


def _fastest(view: TurnView) -> Any:
    """The highest speed within each feed move: at its smallest radius under constant surface speed."""
    part = slice(view.begin, view.end)
    trace = view.trace
    feeding = trace.kind[part] != RAPID
    r = np.maximum(np.minimum(np.abs(trace.start[part, 0]), np.abs(trace.end[part, 0])), 1e-6)
    crosses = np.sign(trace.start[part, 0]) != np.sign(trace.end[part, 0])
    r = np.where(crosses, 1e-6, r)
    surface = np.minimum(trace.surface[part] / (2 * math.pi * r), trace.cap[part])
    surface = np.where(np.isfinite(surface), surface, 0.0)
    uncapped = ~np.isfinite(trace.cap[part])
    wanted = np.where(trace.surface[part] > 0, np.where(uncapped, trace.speed[part], surface), trace.speed[part])
    return np.where(feeding, wanted, 0.0)


@check("no-cap")
def no_cap(view: TurnView) -> Iterator[Found]:
    part = slice(view.begin, view.end)
    bare = (view.trace.surface[part] > 0) & ~np.isfinite(view.trace.cap[part])
    if bare.any():
        text = "Constant surface speed without a cap: near the centre the chuck goes as fast as the spindle can."
        yield Found("stop", "no-cap", text, int(np.argmax(bare)))


@check("spindle-off")
def spindle_off(view: TurnView) -> Iterator[Found]:
    still = (view.trace.speed[view.begin : view.end] <= 0) & (view.kind != RAPID) & (view.proof.cut[:, VOLUME] > 0)
    for move in np.flatnonzero(still)[:MOST_A_CODE]:
        yield Found("stop", "spindle-off", "Cuts with the spindle standing still.", int(move), 0.0, view.place(int(move)))


@check("no-encoder")
def no_encoder(view: TurnView) -> Iterator[Found]:
    card, part = view.scene.card, slice(view.begin, view.end)
    if card.encoder:
        return
    for mask, what in (
        (view.trace.lead[part] > 0, "Moves tied to the spindle"),
        (view.trace.per_turn[part] & (view.kind != RAPID), "Feed per turn"),
    ):
        if mask.any():
            text = f"{what} on {card.name}, which has no encoder: the machine stops here."
            yield Found("stop", "no-encoder", text, int(np.argmax(mask)))
            return


@check("over-power")
def over_power(view: TurnView) -> Iterator[Found]:
    power, most = view.proof.power, view.scene.card.power
    if len(power) and power.max() > most:
        piece = int(np.argmax(power))
        move = int(view.proof.owner[piece])
        level: Any = "stop" if power[piece] > POWER_STOP * most else "caution"
        text = f"Needs {power[piece]:.1f} kW; the spindle has {most:g}."
        yield Found(level, "over-power", text, move, float(power[piece] - most), view.place(move))


@check("edge-length")
def edge_length(view: TurnView) -> Iterator[Found]:
    """A cut wider than the edge may take; blades and pointed tools are as wide as they are."""
    tool = view.tool
    if not isinstance(tool, TurnTool) or tool.iso is None:
        return
    wide = np.where(view.kind != RAPID, view.proof.cut[:, WIDE], 0.0)
    if wide.max(initial=0.0) > tool.edge_in_cut * 1.001:
        move = int(np.argmax(wide))
        text = f"Takes {view.says(float(wide[move]))} at once; {view.says(tool.edge_in_cut)} is enough for its edge."
        yield Found("caution", "edge-length", text, move, float(wide[move] - tool.edge_in_cut), view.place(move))


@check("finish-bite")
def finish_bite(view: TurnView) -> Iterator[Found]:
    """A finishing pass that takes a roughing pass's layer: the area that each move takes over its length."""
    tool = view.tool
    if view.stage not in FINISHING or not isinstance(tool, TurnTool) or tool.nose <= 0:
        return
    part = slice(view.begin, view.end)
    long = np.linalg.norm(view.trace.end[part] - view.trace.start[part], axis=1)
    layer = np.divide(view.proof.cut[:, AREA], long, out=np.zeros(len(long)), where=long > tool.nose)
    layer = np.where(view.kind != RAPID, layer, 0.0)
    if layer.max(initial=0.0) > FINISH_NOSES * tool.nose:
        move = int(np.argmax(layer))
        text = (
            f"The finishing pass takes {view.says(float(f'{layer[move]:.3g}'))} at once, with a nose of {view.says(tool.nose)}."
        )
        yield Found("caution", "finish-bite", text, move, float(layer[move]), view.place(move))


@check("thread-bite")
def thread_bite(view: TurnView) -> Iterator[Found]:
    """A pass of a thread that takes more at once than a single point bears, and a slide that has no speed in hand."""
    tool, part = view.tool, slice(view.begin, view.end)
    tied = np.flatnonzero(view.trace.lead[part] > 0)
    if not isinstance(tool, TurnTool) or tool.kind != "threading" or not len(tied):
        return
    lead = float(view.trace.lead[view.begin + int(tied[0])])
    deep = bites_of(view, tool, tied)
    most = BITE_ROOM * view.scene.mm * largest_bite(lead / view.scene.mm)
    if deep.max() > most:
        k = int(np.argmax(deep))
        text = (
            f"A pass of the thread takes {view.says(float(f'{deep[k]:.3g}'))} at once; {view.says(float(f'{most:.2g}'))} is much."
        )
        yield Found("caution", "thread-bite", text, int(tied[k]), float(deep[k] - most), view.place(int(tied[k])))
    feed = view.trace.feed[part][tied]
    if feed.max() > FAST_SHARE * view.scene.card.feed_most:
        k = int(np.argmax(feed))
        text = f"The slide follows the thread at {view.says(float(f'{feed[k]:.3g}'))} a minute, near the most that it can."
        yield Found("caution", "thread-fast", text, int(tied[k]), float(feed[k]))


def bites_of(view: TurnView, tool: TurnTool, tied: Any) -> Any:
    """How much deeper each pass of a thread goes than the ones before it, (m,); the first from the stock's surface."""
    ends = view.trace.end[view.begin : view.end]
    sign = -1.0 if tool.inside else 1.0
    tips = sign * ends[tied, 0]
    first = placed(edges_of(tool), ends[tied[0]][None, [2, 0]]).intersection(view.before)
    surface = float(tips[0])
    if not first.is_empty:
        surface = float(first.bounds[3]) if sign > 0 else -float(first.bounds[1])
    deepest = np.minimum.accumulate(np.concatenate([[surface], tips]))
    return deepest[:-1] - deepest[1:]


@check("thread-run-out")
def thread_run_out(view: TurnView) -> Iterator[Found]:
    """A thread that ends where there is no relief: the tip stands in the material when it is pulled out."""
    for move, deep in list(_worst(view, THREAD_END))[-1:]:
        if isinstance(view.tool, TurnTool):
            text = f"The thread ends in the material, {view.says(deep)} deep: it needs a relief, or has to be shorter."
            yield Found("caution", "thread-run-out", text, move, deep, view.place(move))


@check("tap-bottoming")
def tap_bottoming(view: TurnView) -> Iterator[Found]:
    tool = view.tool
    if not isinstance(tool, Tool) or tool.kind != "tap":
        return
    tied = np.flatnonzero((view.trace.kind[view.begin : view.end] != RAPID) & (view.proof.cut[:, BODY_IN] >= 0))
    if not len(tied):
        return
    ends = view.trace.end[view.begin : view.end]
    move = int(tied[np.argmin(ends[tied, 2])])
    deepest = ends[move].copy()
    if tool.floating and view.trace.lead[view.begin + move] == 0:  # it is pulled on while the spindle runs out
        deepest[2] -= coasting_turns(view, view.begin + move) * tool.pitch
    core = placed(body_of(tool)[:1], deepest[None, [2, 0]])
    hit = core.intersection(view.before)
    if not hit.is_empty and thickness(hit) > FEELS_MM * view.scene.mm:
        deep = float(hit.bounds[2] - hit.bounds[0])
        text = f"The tap bottoms out: its tip goes {view.says(deep)} deeper than the hole."
        yield Found("stop", "tap-bottoming", text, move, deep, view.place(move))


@check("tap-coasts")
def tap_coasts(view: TurnView) -> Iterator[Found]:
    """A spindle that is turned back in the hole runs out first, while the slide stands: a rigid tap tears its thread."""
    tool = view.tool
    if not isinstance(tool, Tool) or tool.kind != "tap":
        return
    for event in view.trace.events:
        row = event.at - 1
        if event.what != "spindle" or event.value > 0 or not view.begin <= row < view.end - 1:
            continue
        if view.trace.kind[row] == RAPID or view.trace.end[row, 2] >= view.before.bounds[2]:
            continue
        turns = coasting_turns(view, row)
        long = turns * tool.pitch
        if not tool.floating or long > FLOATS_MM * view.scene.mm:
            gives = "and the holder gives way by no more" if tool.floating else "and the holder is rigid"
            text = f"The spindle turns {turns:.2g} times more while Z stands, {view.says(long)} of thread, {gives}."
            yield Found("stop", "tap-coasts", text, row - view.begin, long, view.place(row - view.begin))


def coasting_turns(view: TurnView, row: int) -> float:
    """How often the spindle turns until it stands, from its speed in a move: it loses speed evenly, from its top in
    `spindle_up` seconds."""
    card, n = view.scene.card, float(view.trace.speed[row])
    seconds = card.spindle_up * n / card.speed[1]
    return n / 60.0 * seconds / 2.0


@check("part-off")
def part_off(view: TurnView) -> Iterator[Found]:
    """Through, and where the length budget says."""
    parts = view.step in view.scene.parts or (not view.step and isinstance(view.tool, TurnTool) and view.tool.kind == "parting")
    if not parts or view.tool is None or view.proof.volume <= 0:
        return
    move = int(np.argmax(view.proof.cut[:, AREA]))
    if not view.proof.fallen:
        left = _core(view)
        yield Found("stop", "not-parted", f"The part is not off: a core of Ø{view.says(2 * left)} stays.", move, 2 * left)
        return
    piece = max(view.proof.fallen, key=lambda g: g.area)
    long = float(piece.bounds[2] - piece.bounds[0])
    wanted = view.scene.length + view.scene.back + max(float(piece.bounds[2]), 0.0)
    if long < wanted - FEELS_MM * view.scene.mm:
        text = f"The part is {view.says(long)} long; the lengths ask for {view.says(wanted)}: {view.says(wanted - long)} short."
        yield Found("stop", "short-part", text, move, wanted - long)
    elif long > wanted + FEELS_MM * view.scene.mm:
        text = f"The part is {view.says(long - wanted)} longer than the lengths ask for."
        yield Found("note", "long-part", text, move, long - wanted)


def _core(view: TurnView) -> float:
    """The radius that still holds the part."""
    ends = view.trace.end[view.begin : view.end]
    return max(float(np.abs(ends[:, 0]).min()), 0.0)


@check("air")
def air(view: TurnView) -> Iterator[Found]:
    """A stage that feeds and takes nothing."""
    feeding = view.kind != RAPID
    if view.tool is None or not feeding.any() or view.proof.volume > 0:
        return
    seconds = float(view.proof.move_seconds[feeding].sum())
    yield Found("caution", "air", f"Cuts nothing but air for {seconds:.0f} s.", int(np.argmax(feeding)), seconds)


@check("other-offset")
def other_offset(view: TurnView) -> Iterator[Found]:
    offset, part = view.trace.offset[view.begin : view.end], view.scene.control.part
    wrong = np.flatnonzero((offset != 0) & (offset != part))
    if len(wrong):
        yield Found("caution", "other-offset", f"Runs under another work offset than the job's G{53 + part}.", int(wrong[0]))
