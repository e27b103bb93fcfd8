"""The checks on one section of a program. Each gathers all it finds; none stops at the first.

To add one, write a function and put `@check` with its code on it; a test walks all entries.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from bastler.job.parts import offset_code
from bastler.nc import RAPID, Trace
from bastler.proof.field import Grid
from bastler.proof.found import FEEDS_WITHOUT, MOST_A_CODE, POWER_STOP, Checks, Found, feeds_over
from bastler.proof.jaws import jaw_hits
from bastler.proof.load import widths
from bastler.proof.remark import Level
from bastler.proof.scene import Scene
from bastler.proof.section import BITE, HOLDER, MIDDLE, SHANK, VOLUME, SectionProof
from bastler.proof.travel import over_travel
from bastler.tools import KIND_WORDS, Tool
from bastler.units import Kind, with_unit

FEELS_MM = 0.005
"""Less than this is rounding, not contact."""
STRAIGHT_DRILLING = 4.0
"""How many diameters a twist drill goes in one bite before it should peck."""
TAP_SLIP = {False: 0.01, True: 0.1}
"""By how much the feed of a tap may differ from its pitch, in a rigid and in a floating holder."""
SLOT_WIDTH = 0.9
SLOT_MARGIN = 1.3
SKIM = 0.05
"""A bite less deep than this share of the diameter is a skim over a floor: it may be as wide as it likes."""


@dataclass(frozen=True)
class MillView:
    """What a check looks at: moves `begin` to before `end` of the trace and their proof."""

    scene: Scene
    grid: Grid
    trace: Trace
    begin: int
    end: int
    proof: SectionProof

    @property
    def tool(self) -> Tool | None:
        return self.proof.tool

    @property
    def kind(self) -> Any:
        """Kind of move of every segment."""
        return self.trace.kind[self.begin : self.end][self.proof.owner]

    def says(self, length: float) -> str:
        return with_unit(length, Kind.LENGTH, self.scene.unit)

    def at(self, segment: int) -> tuple[int, tuple[float, float, float]]:
        """Move and end point of a segment."""
        x, y, z = self.proof.segments[segment, 3:6]
        return int(self.proof.owner[segment]), (float(x), float(y), float(z))


check = Checks[MillView]()
on_table = Checks[MillView]()
"""Checks that look at where on the table the part is: made again for every part."""


def _worst_by_move(view: MillView, mask: Any, amount: Any) -> Iterator[tuple[int, float]]:
    """The worst segment of each move where `mask` holds, the first few moves of it."""
    hits = np.flatnonzero(mask)
    moves = view.proof.owner[hits]
    for move in np.unique(moves)[:MOST_A_CODE]:
        own = hits[moves == move]
        best = own[np.argmax(amount[own])]
        yield int(best), float(amount[best])


NOT_FELT = ("tap", "reamer", "boring-head", "thread-mill")
"""Tools that go into holes: what they meet there is looked at elsewhere."""


@check("rapid-in-stock")
def rapid_in_stock(view: MillView) -> Iterator[Found]:
    bite = view.proof.cut[:, BITE]
    mask = (view.kind == RAPID) & (bite > FEELS_MM * view.scene.mm)
    for segment, depth in _worst_by_move(view, mask, bite):
        move, place = view.at(segment)
        yield Found("stop", "rapid-in-stock", f"Rapid into the stock, {view.says(depth)} deep.", move, depth, place)


@check("shank-in-stock")
def shank_in_stock(view: MillView) -> Iterator[Found]:
    tool, depth = view.tool, view.proof.cut[:, SHANK]
    if tool is None or not (depth > FEELS_MM * view.scene.mm).any():
        return
    segment = int(np.argmax(depth))
    move, place = view.at(segment)
    amount = float(depth[segment])
    if tool.shank_diameter <= tool.diameter:
        text = f"Cut deeper than the flutes: {view.says(tool.flute_length)} of flutes, {view.says(amount)} too few."
        yield Found("stop", "deeper-than-flutes", text, move, amount, place)
    else:
        yield Found("stop", "shank-in-stock", f"The shank runs into the stock, {view.says(amount)}.", move, amount, place)


@check("holder-in-stock")
def holder_in_stock(view: MillView) -> Iterator[Found]:
    depth = view.proof.cut[:, HOLDER]
    if not (depth > FEELS_MM * view.scene.mm).any():
        return
    segment = int(np.argmax(depth))
    move, place = view.at(segment)
    text = f"The holder runs into the stock, {view.says(float(depth[segment]))}."
    yield Found("stop", "holder-in-stock", text, move, float(depth[segment]), place)


@check("jaw-hit")
def jaw_hit(view: MillView) -> Iterator[Found]:
    if view.tool is None:
        return
    depth, part = jaw_hits(view.proof.segments, view.tool, view.scene.jaws, FEELS_MM * view.scene.mm)
    for segment, amount in _worst_by_move(view, depth > 0, depth):
        move, place = view.at(segment)
        what = ("", "tool", "shank", "holder")[int(part[segment])]
        text = f"The {what} runs into a vise jaw, {view.says(amount)} below its top."
        yield Found("stop", "jaw-hit", text, move, amount, place)


@on_table("over-travel")
def leaves_travel(view: MillView) -> Iterator[Found]:
    scene, card = view.scene, view.scene.card
    length = view.tool.length if view.tool else 0.0
    zero = (scene.zero[0], scene.zero[1], scene.zero[2] + length)
    axes = [(axis, "XYZ"[axis], travel, zero[axis]) for axis, travel in enumerate((card.x, card.y, card.z))]
    yield from over_travel(view.trace, view.begin, view.end, axes, FEELS_MM * scene.mm, view.says)


@check("no-tool")
def no_tool(view: MillView) -> Iterator[Found]:
    """With no tool known nothing is cut and nothing is hit: below the stock's top that proves nothing.

    Nor does a feed anywhere: a length offset put on with no tool known lifts the whole program off the stock.
    """
    if view.tool is not None or not len(view.proof.segments):
        return
    low = np.minimum(view.proof.segments[:, 2], view.proof.segments[:, 5])
    deep = view.grid.top - low
    if deep.max() > FEELS_MM * view.scene.mm:
        move, place = view.at(int(np.argmax(deep > FEELS_MM * view.scene.mm)))
        text = f"{view.says(float(deep.max()))} below the top of the stock, and no tool is known: nothing is proved here."
        yield Found("stop", "no-tool", text, move, float(deep.max()), place)
    elif (view.kind != RAPID).any():
        move, place = view.at(int(np.argmax(view.kind != RAPID)))
        yield Found("stop", "no-tool", FEEDS_WITHOUT, move, 0.0, place)


@check("over-feed")
def over_feed(view: MillView) -> Iterator[Found]:
    """Faster than the axes can: the cut is another one than was meant, and a tap tears its thread."""
    yield from feeds_over(view.trace, view.begin, view.end, view.scene.card.feed_most, view.says)


@check("tap-feed")
def tap_feed(view: MillView) -> Iterator[Found]:
    """A tap has to feed one pitch a turn; only a floating holder lets it differ a little."""
    tool = view.tool
    if tool is None or tool.kind != "tap":
        return
    part = slice(view.begin, view.end)
    feed, speed = view.trace.feed[part], view.trace.speed[part]
    wanted = speed * tool.pitch
    off = (view.trace.kind[part] != RAPID) & (np.abs(feed - wanted) > TAP_SLIP[tool.floating] * wanted)
    if off.any():
        move = int(np.argmax(off))
        text = f"Feeds {view.says(float(feed[move]))} a minute; pitch and speed make {view.says(float(wanted[move]))}."
        yield Found("stop", "tap-feed", text, move, float(feed[move] - wanted[move]))


@check("over-speed")
def over_speed(view: MillView) -> Iterator[Found]:
    speed, (low, high) = view.trace.speed[view.begin : view.end], view.scene.card.speed
    whose = "the spindle ends"
    if view.tool is not None and 0 < view.tool.most_speed < high:
        high, whose = view.tool.most_speed, f"{view.tool.name} ends"
    over = np.flatnonzero(speed > high * 1.0001)
    if len(over):
        text = f"{speed[over[0]]:.0f} turns a minute; {whose} at {high:g}."
        yield Found("stop", "over-speed", text, int(over[0]), float(speed[over[0]] - high))
    slow = np.flatnonzero((speed > 0) & (speed < low * 0.9999))
    if len(slow):
        text = f"{speed[slow[0]]:.0f} turns a minute; the spindle begins at {low:g}."
        yield Found("caution", "under-speed", text, int(slow[0]), float(low - speed[slow[0]]))


@check("over-power")
def over_power(view: MillView) -> Iterator[Found]:
    power, most = view.proof.power, view.scene.card.power
    if not len(power) or power.max() <= most:
        return
    segment = int(np.argmax(power))
    move, place = view.at(segment)
    level: Level = "stop" if power[segment] > POWER_STOP * most else "caution"
    text = f"Needs {power[segment]:.1f} kW; the spindle has {most:g}."
    yield Found(level, "over-power", text, move, float(power[segment] - most), place)


@check("over-torque")
def over_torque(view: MillView) -> Iterator[Found]:
    """At low speeds the spindle has not its whole power: what it has is its torque."""
    card, power = view.scene.card, view.proof.power
    speed = view.trace.speed[view.begin : view.end][view.proof.owner]
    if card.torque <= 0 or not len(power):
        return
    needs = np.divide(power * card.efficiency * 30_000.0 / np.pi, speed, out=np.zeros_like(power), where=speed > 0)
    segment = int(np.argmax(needs))
    if needs[segment] <= card.torque or power[segment] > card.power:  # over its power it is said already
        return
    move, place = view.at(segment)
    level: Level = "stop" if needs[segment] > POWER_STOP * card.torque else "caution"
    text = f"Needs {needs[segment]:.0f} Nm; the spindle has {card.torque:g}."
    yield Found(level, "over-torque", text, move, float(needs[segment] - card.torque), place)


@check("spindle-off")
def spindle_off(view: MillView) -> Iterator[Found]:
    still = view.trace.speed[view.begin : view.end][view.proof.owner] <= 0
    mask = still & (view.kind != RAPID) & (view.proof.cut[:, VOLUME] > 0)
    for segment, depth in _worst_by_move(view, mask, view.proof.cut[:, BITE]):
        move, place = view.at(segment)
        yield Found("stop", "spindle-off", "Cuts with the spindle standing still.", move, depth, place)


def _at_full_width(view: MillView) -> Any:
    """Which segments go sideways with the whole width of the tool in the material, (m,)."""
    tool = view.tool
    cut, segments = view.proof.cut, view.proof.segments
    if tool is None or tool.kind in ("drill", "spot-drill", "chamfer-mill"):
        return np.zeros(len(segments), bool)
    length = _across(segments)
    wide = widths(cut[:, VOLUME], cut[:, BITE], length) > SLOT_WIDTH * tool.diameter
    return wide & (view.kind != RAPID) & (cut[:, BITE] > FEELS_MM * view.scene.mm)


def _across(segments: Any) -> Any:
    """How far segments go in the plan, (m,)."""
    return np.hypot(segments[:, 3] - segments[:, 0], segments[:, 4] - segments[:, 1])


def _slot_depth(view: MillView) -> float:
    """How deep a slot as wide as the tool may be before it is too much in one bite."""
    return view.scene.material.slot_ap * (view.tool.diameter if view.tool else 0.0)


@check("full-bite")
def full_bite(view: MillView) -> Iterator[Found]:
    """A slot as wide as the tool and deeper than the material allows it to be."""
    deep = view.proof.cut[:, BITE]
    mask = _at_full_width(view) & (deep > SLOT_MARGIN * _slot_depth(view))
    mask &= _across(view.proof.segments) > 0.05 * (view.tool.diameter if view.tool else 0.0)
    if mask.any():
        segment = int(np.argmax(np.where(mask, deep, 0.0)))
        move, place = view.at(segment)
        amount = float(deep[segment])
        enough = view.says(_slot_depth(view))
        text = f"Takes {view.says(amount)} at full width in one bite; about {enough} is enough for this tool."
        yield Found("caution", "full-bite", text, move, amount, place)


@check("full-width")
def full_width(view: MillView) -> Iterator[Found]:
    """The tool as wide in the material as it is, on the level, over more than its radius of the way; not too deep. Ways down into
    the material are meant to be like that."""
    segments, deep = view.proof.segments, view.proof.cut[:, BITE]
    level = np.abs(segments[:, 5] - segments[:, 2]) < FEELS_MM * view.scene.mm
    if view.tool is None:
        return
    mask = _at_full_width(view) & level & (deep <= SLOT_MARGIN * _slot_depth(view)) & (deep > SKIM * view.tool.diameter)
    length = float(_across(segments)[mask].sum())
    if length > view.tool.diameter / 2:
        segment = int(np.argmax(np.where(mask, deep, 0.0)))
        move, place = view.at(segment)
        text = f"At full width over {view.says(float(f'{length:.2g}'))} of its way, up to {view.says(float(deep[segment]))} deep."
        yield Found("note", "full-width", text, move, length, place)


@check("plunge")
def plunge(view: MillView) -> Iterator[Found]:
    """Straight down into material with a tool that has no cutting centre."""
    tool = view.tool
    if tool is None or tool.centre_cutting or tool.kind in NOT_FELT:
        return
    middle = view.proof.cut[:, MIDDLE]
    mask = (view.kind != RAPID) & (middle > 20 * FEELS_MM * view.scene.mm)
    for segment, depth in _worst_by_move(view, mask, middle):
        move, place = view.at(segment)
        text = f"Goes {view.says(depth)} straight down; a {KIND_WORDS[tool.kind]} does not cut over its centre."
        yield Found("stop", "plunge", text, move, depth, place)


@check("tap-bottoming")
def tap_bottoming(view: MillView) -> Iterator[Found]:
    """A tap meets material where its core goes: the hole is too shallow, or too narrow."""
    tool, bite = view.tool, view.proof.cut[:, BITE]
    if tool is None or tool.kind != "tap":
        return
    mask = (view.kind != RAPID) & (bite > 20 * FEELS_MM * view.scene.mm)
    for segment, depth in _worst_by_move(view, mask, bite):
        move, place = view.at(segment)
        text = f"The tap bottoms out: {view.says(depth)} deeper than the hole, or the hole is too narrow."
        yield Found("stop", "tap-bottoming", text, move, depth, place)


@check("peck-missing")
def peck_missing(view: MillView) -> Iterator[Found]:
    tool = view.tool
    if tool is None or tool.kind != "drill":
        return
    moves = slice(view.begin, view.end)
    down = np.where(view.trace.kind[moves] == 1, view.trace.start[moves, 2] - view.trace.end[moves, 2], 0.0)
    volume = np.bincount(view.proof.owner, weights=view.proof.cut[:, VOLUME], minlength=view.end - view.begin)
    bite = volume / (np.pi / 4 * tool.diameter**2)
    deep = (down > STRAIGHT_DRILLING * tool.diameter) & (bite > 0.8 * STRAIGHT_DRILLING * tool.diameter)
    if deep.any():
        move = int(np.argmax(deep))
        text = f"{view.says(float(bite[move]))} in one go with a drill of {view.says(tool.diameter)}: it should peck."
        yield Found("caution", "peck-missing", text, move, float(bite[move]))


UNSEEN = ("tap", "thread-mill")
"""They cut threads, which a field does not show."""


@check("air")
def air(view: MillView) -> Iterator[Found]:
    """A stage that feeds and takes nothing."""
    feeding = view.kind != RAPID
    if view.tool is None or view.tool.kind in UNSEEN or not feeding.any() or view.proof.volume > 0:
        return
    seconds = float(view.proof.seconds[feeding].sum())
    move = int(view.proof.owner[np.argmax(feeding)])
    yield Found("caution", "air", f"Cuts nothing but air for {seconds:.0f} s.", move, seconds)


@on_table("other-part")
def other_part(view: MillView) -> Iterator[Found]:
    """Something of a tool comes into the box of another part on the table, by the box of each move."""
    tool, scene = view.tool, view.scene
    if tool is None or not scene.others:
        return
    segments = view.proof.segments
    low = np.minimum(segments[:, :3], segments[:, 3:])
    high = np.maximum(segments[:, :3], segments[:, 3:])
    for up, radius in ((0.0, tool.body / 2), (tool.stick_out, tool.holder.diameter / 2)):
        for box in scene.others:
            hit = low[:, 2] + up < box.hi[2] - FEELS_MM * scene.mm
            for axis in (0, 1):
                hit &= (low[:, axis] - radius < box.hi[axis]) & (high[:, axis] + radius > box.lo[axis])
            if hit.any():
                depth = np.where(hit, box.hi[2] - low[:, 2] - up, 0.0)
                worst = int(np.argmax(depth))
                move, place = view.at(worst)
                text = f"Comes into another part on the table, {view.says(float(depth[worst]))} below its top."
                yield Found("stop", "other-part", text, move, float(depth[worst]), place)
                return


@on_table("other-offset")
def other_offset(view: MillView) -> Iterator[Found]:
    offset = view.trace.offset[view.begin : view.end]
    part = view.scene.control.part
    known = [part, *(p.index for p in view.scene.parts)]
    wrong = np.flatnonzero((offset != 0) & ~np.isin(offset, known))
    if len(wrong):
        text = f"Runs under another work offset than the job's {offset_code(part)}."
        yield Found("caution", "other-offset", text, int(wrong[0]))
