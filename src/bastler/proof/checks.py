"""The checks that are the same for every kind of stock. Each gathers all it finds; none stops at the first.

To add one, write a function and put `@check` with its code on it; a test walks all entries.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bastler.job.parts import offset_code
from bastler.language import sayable, tr
from bastler.nc import RAPID
from bastler.proof.found import MOST_A_CODE, Found
from bastler.proof.found import check as check
from bastler.proof.remark import Level
from bastler.proof.view import RunView
from bastler.tools import Tool, TurnTool

FEEDS_WITHOUT = sayable("Feeds, and no tool is known: nothing is proved here.")
POWER_STOP = 1.25
"""So many times the spindle's power stalls it; less is a caution."""


@check("rapid-in-stock")
def rapid_in_stock(view: RunView) -> Iterator[Found]:
    for piece, depth in view.worst_by_move(~view.feeds & (view.bite > view.feels), view.bite, MOST_A_CODE):
        yield Found(
            "stop",
            "rapid-in-stock",
            tr("Rapid into the stock, {depth} deep.", depth=view.says(depth)),
            *_told(view, piece, depth),
        )


def _told(view: RunView, piece: int, amount: float) -> tuple[int, float, tuple[float, float, float]]:
    """Move, amount and place of a finding."""
    move, place = view.at(piece)
    return move, amount, place


@check("holder-in-stock")
def body_in_stock(view: RunView) -> Iterator[Found]:
    """Shank, holder or bar in the stock; a shank no stouter than the flutes means that these are too short."""
    for what, depth in view.bodies:
        if not (depth > view.feels).any():
            continue
        piece = int(np.argmax(depth))
        amount, tool, shank = float(depth[piece]), view.tool, what == "shank"
        if what == "flutes" and isinstance(tool, Tool):
            text = tr(
                "Cut deeper than the flutes: {flute_length} of flutes, {amount} too few.",
                flute_length=view.says(tool.flute_length),
                amount=view.says(amount),
            )
            yield Found("stop", "deeper-than-flutes", text, *_told(view, piece, amount))
        else:
            text = tr("The {what} runs into the stock, {amount}.", what=tr(what), amount=view.says(amount))
            yield Found("stop", "shank-in-stock" if shank else "holder-in-stock", text, *_told(view, piece, amount))


@check("over-travel", apart=True)
def over_travel(view: RunView) -> Iterator[Found]:
    """An axis leaves its travel: of arcs and helices it counts where they swing to."""
    scene, trace = view.scene, view.trace
    if view.begin == view.end:
        return
    low, high = view.reached
    lowest, highest = low.min(axis=0), high.max(axis=0)
    reach = scene.control.reaches.get(int(trace.tool[view.begin]), (0.0, 0.0, 0.0))
    for axis, name, travel in scene.card.travels:
        shift = scene.zero[axis] + reach[axis]
        worst = float(max(highest[axis] + shift - travel.hi, travel.lo - lowest[axis] - shift))
        if worst > view.feels:
            over = np.maximum(high[:, axis] + shift - travel.hi, travel.lo - low[:, axis] - shift)
            move = int(np.argmax(over > view.feels))
            yield Found(
                "stop", "over-travel", tr("{name} leaves its travel by {worst}.", name=name, worst=view.says(worst)), move, worst
            )


@check("no-tool")
def no_tool(view: RunView) -> Iterator[Found]:
    """With no tool known nothing is cut and nothing is hit: where the stock is that proves nothing.

    Nor does a feed anywhere: a length offset put on with no tool known lifts the whole program off the stock.
    """
    if view.tool is not None:
        return
    if (met := view.into_stock()) is not None:
        piece, how, amount = met
        yield Found(
            "stop", "no-tool", tr("{how}, and no tool is known: nothing is proved here.", how=how), *_told(view, piece, amount)
        )
    elif view.feeds.any():
        yield Found("stop", "no-tool", tr(FEEDS_WITHOUT), *_told(view, int(np.argmax(view.feeds)), 0.0))


@check("over-feed")
def over_feed(view: RunView) -> Iterator[Found]:
    """Faster than the axes can: the cut is another one than was meant; tied to the spindle a thread gets another pitch."""
    trace, most = view.trace, view.scene.card.feed_most
    over = (trace.kind[view.part] != RAPID) & (trace.feed[view.part] > most * 1.0001)
    if over.any():
        feed = np.where(over, trace.feed[view.part], 0.0)
        move = int(np.argmax(feed))
        tied = trace.lead[view.begin + move] > 0
        text = tr(
            "Feeds at {feed} a minute; {most} is the most of the axes.", feed=view.says(float(feed[move])), most=view.says(most)
        )
        yield Found("stop" if tied else "caution", "over-feed", text, move, float(feed[move] - most))


@check("over-speed")
def over_speed(view: RunView) -> Iterator[Found]:
    """Over what spindle or tool is good for; or slower than the spindle can."""
    fast, slow, low = view.fastest, view.trace.speed[view.part], view.slowest
    most, whose = view.limit
    if len(fast) and fast.max() > most * 1.0001:
        move = int(np.argmax(fast > most * 1.0001))
        text = tr("{max:.0f} turns a minute; {whose} at {most:g}.", max=fast.max(), whose=whose, most=most)
        yield Found("stop", "over-speed", text, move, float(fast.max() - most))
    under = np.flatnonzero((slow > 0) & (slow < low * 0.9999))
    if len(under):
        text = tr("{slow:.0f} turns a minute; the spindle begins at {low:g}.", slow=slow[under[0]], low=low)
        yield Found("caution", "under-speed", text, int(under[0]), float(low - slow[under[0]]))


@check("spindle-off")
def spindle_off(view: RunView) -> Iterator[Found]:
    still = view.trace.speed[view.part][view.owner] <= 0
    for piece, depth in view.worst_by_move(still & view.feeds & (view.volume > 0), view.bite, MOST_A_CODE):
        yield Found("stop", "spindle-off", tr("Cuts with the spindle standing still."), *_told(view, piece, depth))


@check("over-power")
def over_power(view: RunView) -> Iterator[Found]:
    power, (most, _) = view.proof.power, view.strength
    if len(power) and power.max() > most:
        k = int(np.argmax(power))
        move, place = view.path_end(k)
        text = tr("Needs {power:.1f} kW; the spindle has {most:g}.", power=power[k], most=most)
        yield Found(_stalls(power[k], most), "over-power", text, move, float(power[k] - most), place)


def _stalls(needs: float, has: float) -> Level:
    return "stop" if needs > POWER_STOP * has else "caution"


@check("over-torque")
def over_torque(view: RunView) -> Iterator[Found]:
    """At low speeds the spindle has not its whole power: what it has is its torque."""
    card, power, (has_power, torque) = view.scene.card, view.proof.power, view.strength
    speed = view.trace.speed[view.part][view.proof.owner]
    if torque <= 0 or not len(power):
        return
    needs = np.divide(power * card.efficiency * 30_000.0 / np.pi, speed, out=np.zeros_like(power), where=speed > 0)
    k = int(np.argmax(needs))
    if needs[k] <= torque or power[k] > has_power:  # over its power it is said already
        return
    move, place = view.path_end(k)
    text = tr("Needs {needs:.0f} Nm; the spindle has {torque:g}.", needs=needs[k], torque=torque)
    yield Found(_stalls(needs[k], torque), "over-torque", text, move, float(needs[k] - torque), place)


@check("air")
def air(view: RunView) -> Iterator[Found]:
    """A stage that feeds and takes nothing."""
    feeds = view.feeds
    if view.tool is None or not view.seen or not feeds.any() or view.proof.volume > 0:
        return
    if isinstance(view.tool, TurnTool) and view.tool.holds:
        return
    seconds = float(view.seconds[feeds].sum())
    text = tr("Cuts nothing but air for {seconds:.0f} s.", seconds=seconds)
    yield Found("caution", "air", text, int(view.owner[np.argmax(feeds)]), seconds)


@check("other-offset", apart=True)
def other_offset(view: RunView) -> Iterator[Found]:
    offset, control = view.trace.offset[view.part], view.scene.control
    if (offset == control.part).all():
        return
    wrong = np.flatnonzero((offset != 0) & ~np.isin(offset, list(control.offsets)))
    if len(wrong):
        text = tr("Runs under another work offset than the job's {offset_code}.", offset_code=offset_code(control.part))
        yield Found("caution", "other-offset", text, int(wrong[0]))
