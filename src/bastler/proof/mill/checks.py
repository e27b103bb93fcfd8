"""The checks of milling alone."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from bastler.language import tr
from bastler.nc import RAPID
from bastler.proof.checks import check as check
from bastler.proof.found import MOST_A_CODE, Found
from bastler.proof.mill.field import Grid
from bastler.proof.mill.jaws import jaw_hits
from bastler.proof.mill.load import widths
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.section import SectionProof
from bastler.proof.mill.sweeping import BITE, HOLDER, MIDDLE, SHANK, VOLUME
from bastler.proof.view import UNSEEN, SegmentView
from bastler.shapes.kinds import Bools, Floats
from bastler.steps.base import FLAT, PlaneKind
from bastler.tools import KIND_WORDS, Tool

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
NOT_FELT = ("tap", "reamer", "boring-head", "thread-mill")
"""Tools that go into holes: what they meet there is looked at elsewhere."""


@dataclass(frozen=True, eq=False)
class MillView(SegmentView):
    """A run in a field; its pieces are segments of the path."""

    scene: MillScene
    proof: SectionProof
    grid: Grid

    @property
    def plane(self) -> PlaneKind:
        return "flat"

    @property
    def tool(self) -> Tool | None:
        return self.proof.tool

    @property
    def feels(self) -> float:
        return FEELS_MM * self.scene.mm

    @property
    def bite(self) -> Floats:
        return self.proof.cut[:, BITE]

    @property
    def volume(self) -> Floats:
        return self.proof.cut[:, VOLUME]

    @property
    def bodies(self) -> Sequence[tuple[str, Floats]]:
        slim = self.tool is not None and self.tool.shank_diameter <= self.tool.diameter
        shank = [("flutes" if slim else "shank", self.proof.cut[:, SHANK])] if self.tool else []
        return [*shank, ("holder", self.proof.cut[:, HOLDER])]

    @property
    def limit(self) -> tuple[float, str]:
        if self.tool and 0 < self.tool.most_speed < self.scene.card.speed[1]:
            return self.tool.most_speed, tr("{name} ends", name=self.tool.called)
        return super().limit

    @property
    def seen(self) -> bool:
        return self.tool is None or self.tool.kind not in UNSEEN

    def into_stock(self) -> tuple[int, str, float] | None:
        segments = self.proof.segments
        deep = self.grid.top - np.minimum(segments[:, 2], segments[:, 5])
        if not len(segments) or deep.max() <= self.feels:
            return None
        most = float(deep.max())
        return int(np.argmax(deep > self.feels)), tr("{most} below the top of the stock", most=self.says(most)), most


@check("jaw-hit", FLAT)
def jaw_hit(view: MillView) -> Iterator[Found]:
    if view.tool is None:
        return
    depth, part = jaw_hits(view.proof.segments, view.tool, view.scene.jaws, view.feels)
    for segment, amount in view.worst_by_move(depth > 0, depth, MOST_A_CODE):
        move, place = view.at(segment)
        what = ("", "tool", "shank", "holder")[int(part[segment])]
        text = tr("The {what} runs into a vise jaw, {amount} below its top.", what=tr(what), amount=view.says(amount))
        yield Found("stop", "jaw-hit", text, move, amount, place)


@check("tap-feed", FLAT)
def tap_feed(view: MillView) -> Iterator[Found]:
    """A tap has to feed one pitch a turn; only a floating holder lets it differ a little."""
    tool = view.tool
    if tool is None or tool.kind != "tap":
        return
    feed, speed = view.trace.feed[view.part], view.trace.speed[view.part]
    wanted = speed * tool.pitch
    off = (view.trace.kind[view.part] != RAPID) & (np.abs(feed - wanted) > TAP_SLIP[tool.floating] * wanted)
    if off.any():
        move = int(np.argmax(off))
        text = tr(
            "Feeds {feed} a minute; pitch and speed make {wanted}.",
            feed=view.says(float(feed[move])),
            wanted=view.says(float(wanted[move])),
        )
        yield Found("stop", "tap-feed", text, move, float(feed[move] - wanted[move]))


def _at_full_width(view: MillView) -> Bools:
    """Which segments go sideways with the whole width of the tool in the material, (m,)."""
    tool = view.tool
    cut, segments = view.proof.cut, view.proof.segments
    if tool is None or tool.kind in ("drill", "spot-drill", "chamfer-mill"):
        return np.zeros(len(segments), bool)
    length = _across(segments)
    wide = widths(cut[:, VOLUME], cut[:, BITE], length) > SLOT_WIDTH * tool.diameter
    return wide & view.feeds & (cut[:, BITE] > view.feels)


def _across(segments: Floats) -> Floats:
    """How far segments go in the plan, (m,)."""
    return np.hypot(segments[:, 3] - segments[:, 0], segments[:, 4] - segments[:, 1])


def _slot_depth(view: MillView) -> float:
    """How deep a slot as wide as the tool may be before it is too much in one bite."""
    return view.scene.material.slot_ap * (view.tool.diameter if view.tool else 0.0)


@check("full-bite", FLAT)
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
        text = tr(
            "Takes {amount} at full width in one bite; about {enough} is enough for this tool.",
            amount=view.says(amount),
            enough=enough,
        )
        yield Found("caution", "full-bite", text, move, amount, place)


@check("full-width", FLAT)
def full_width(view: MillView) -> Iterator[Found]:
    """The tool as wide in the material as it is, on the level, over more than its radius of the way; not too deep. Ways down into
    the material are meant to be like that."""
    segments, deep = view.proof.segments, view.proof.cut[:, BITE]
    level = np.abs(segments[:, 5] - segments[:, 2]) < view.feels
    if view.tool is None:
        return
    mask = _at_full_width(view) & level & (deep <= SLOT_MARGIN * _slot_depth(view)) & (deep > SKIM * view.tool.diameter)
    length = float(_across(segments)[mask].sum())
    if length > view.tool.diameter / 2:
        segment = int(np.argmax(np.where(mask, deep, 0.0)))
        move, place = view.at(segment)
        text = tr(
            "At full width over {length} of its way, up to {deep} deep.",
            length=view.says(float(f"{length:.2g}")),
            deep=view.says(float(deep[segment])),
        )
        yield Found("note", "full-width", text, move, length, place)


@check("plunge", FLAT)
def plunge(view: MillView) -> Iterator[Found]:
    """Straight down into material with a tool that has no cutting centre."""
    tool = view.tool
    if tool is None or tool.centre_cutting or tool.kind in NOT_FELT:
        return
    middle = view.proof.cut[:, MIDDLE]
    mask = view.feeds & (middle > 20 * view.feels)
    for segment, depth in view.worst_by_move(mask, middle, MOST_A_CODE):
        move, place = view.at(segment)
        text = tr(
            "Goes {depth} straight down; a {kind_words} does not cut over its centre.",
            depth=view.says(depth),
            kind_words=tr(KIND_WORDS[tool.kind]),
        )
        yield Found("stop", "plunge", text, move, depth, place)


@check("tap-bottoming", FLAT)
def tap_bottoming(view: MillView) -> Iterator[Found]:
    """A tap meets material where its core goes: the hole is too shallow, or too narrow."""
    tool, bite = view.tool, view.proof.cut[:, BITE]
    if tool is None or tool.kind != "tap":
        return
    mask = view.feeds & (bite > 20 * view.feels)
    for segment, depth in view.worst_by_move(mask, bite, MOST_A_CODE):
        move, place = view.at(segment)
        text = tr("The tap bottoms out: {depth} deeper than the hole, or the hole is too narrow.", depth=view.says(depth))
        yield Found("stop", "tap-bottoming", text, move, depth, place)


@check("peck-missing", FLAT)
def peck_missing(view: MillView) -> Iterator[Found]:
    tool = view.tool
    if tool is None or tool.kind != "drill":
        return
    trace, part = view.trace, view.part
    down = np.where(trace.kind[part] == 1, trace.start[part, 2] - trace.end[part, 2], 0.0)
    volume = np.bincount(view.proof.owner, weights=view.proof.cut[:, VOLUME], minlength=view.end - view.begin)
    bite = volume / (np.pi / 4 * tool.diameter**2)
    deep = (down > STRAIGHT_DRILLING * tool.diameter) & (bite > 0.8 * STRAIGHT_DRILLING * tool.diameter)
    if deep.any():
        move = int(np.argmax(deep))
        text = tr(
            "{bite} in one go with a drill of {diameter}: it should peck.",
            bite=view.says(float(bite[move])),
            diameter=view.says(tool.diameter),
        )
        yield Found("caution", "peck-missing", text, move, float(bite[move]))


@check("other-part", FLAT, apart=True)
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
            hit = low[:, 2] + up < box.hi[2] - view.feels
            for axis in (0, 1):
                hit &= (low[:, axis] - radius < box.hi[axis]) & (high[:, axis] + radius > box.lo[axis])
            if hit.any():
                depth = np.where(hit, box.hi[2] - low[:, 2] - up, 0.0)
                worst = int(np.argmax(depth))
                move, place = view.at(worst)
                text = tr("Comes into another part on the table, {depth} below its top.", depth=view.says(float(depth[worst])))
                yield Found("stop", "other-part", text, move, float(depth[worst]), place)
                return
