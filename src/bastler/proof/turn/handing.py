"""Checks on the way of a part from one chuck to the other: how the second one comes, what it grips, and that the part is always
held by one of them.

What happens is told by the events of the trace, in their order; where W is, by its moves. Between them the part is as the half
section has it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import shapely

from bastler.job.turn_planning import foremost
from bastler.language import tr
from bastler.nc import RAPID, Trace
from bastler.nc.trace import Event
from bastler.proof.found import Found
from bastler.proof.measure import thickness
from bastler.proof.polar.run import off_axis
from bastler.proof.turn.checks import TurnView, check
from bastler.proof.turn.scene import SecondChuck
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED
from bastler.steps.transfer.hand_over import ALIKE_MM, straight
from bastler.tools import Tool
from bastler.units import Kind, with_unit

MAIN_CLOSES, MAIN_OPENS, CLOSES, OPENS = 1, 2, 3, 4
BEFORE = ("push", "skip")
"""What is said before the move that it is about; all else happens behind the one before it."""
SHORT = 0.1
"""Less of its diameter along the axis is too little to hold a part by."""
SHORT_MM = 3.0
THIN = 0.05
"""A wall thinner than this share of the diameter gives way under jaws."""
THIN_MM = 1.5


@dataclass(frozen=True)
class _State:
    """Both chucks at a moment, how the spindles turn together, whether the main one turns, and the force that W pushes with."""

    main: bool = True
    second: bool = False
    together: int = 0
    turns: bool = False
    push: float = 0.0

    def after(self, event: Event) -> _State:
        value = event.value
        if event.what == "grip":
            return replace(self, **{"main" if value <= MAIN_OPENS else "second": value in (MAIN_CLOSES, CLOSES)})
        if event.what == "together":
            return replace(self, together=int(value))
        if event.what == "spindle":
            return replace(self, turns=value != 0.0)
        return replace(self, push=value) if event.what == "push" else self


def state_before(trace: Trace, row: int) -> _State:
    """The chucks before a move."""
    state = _State()
    for event in trace.events:
        if event.at <= row:
            state = state.after(event)
    return state


def angle_kept(trace: Trace) -> bool:
    """Did both spindles stand at one angle when the second chuck closed?"""
    state, kept = _State(), False
    for event in trace.events:
        state = state.after(event)
        if event.what == "grip" and event.value == CLOSES:
            kept = state.together == 2
    return kept


@check("second-chuck", TURNED, apart=True)
def second_chuck(view: TurnView) -> Iterator[Found]:
    """All that a part is handed over by."""
    two, trace = view.scene.second, view.trace
    if view.scene.handed:
        yield from _let_go(view)
    if two is None or not (trace.shoves.any() or any(e.what in ("grip", "side") for e in trace.events)):
        return
    state = _State()
    for event in trace.events:
        if event.at < view.begin or (event.at == view.begin > 0 and event.what not in BEFORE):
            state = state.after(event)
    fast = view.fastest
    if state.second and len(fast) and fast.max() > two.rating * 1.0001:
        move = int(np.argmax(fast > two.rating * 1.0001))
        text = tr(
            "{max:.0f} turns a minute, and the second chuck turns too: it is good for {rating:g}.",
            max=fast.max(),
            rating=two.rating,
        )
        yield Found("stop", "second-speed", text, move, float(fast.max() - two.rating))
    for row in _rows_with_something(view):
        window = None
        for event in (e for e in trace.events if e.at == row and (e.what in BEFORE or row == 0)):
            yield from _happens(view, two, state, event, row)
            state = state.after(event)
            window = event.value if event.what == "skip" else window
        if trace.shoves[row]:
            yield from _comes(view, two, state, row, window)
        if two.follows and view.proof.fallen and not state.second and _falls(view, row):
            text = tr("The part is off before the second chuck has it: it falls.")
            yield Found("stop", "part-dropped", text, row - view.begin)
        for event in (e for e in trace.events if e.at == row + 1 and e.what not in BEFORE):
            yield from _happens(view, two, state, event, row)
            state = state.after(event)


def _rows_with_something(view: TurnView) -> list[int]:
    """The moves at which a chuck does something, or a part comes off; of a long run they are few."""
    part = range(view.begin, view.end)
    found = {row for event in view.trace.events for row in (event.at, event.at - 1) if row in part}
    found |= set((np.flatnonzero(view.trace.shoves[view.begin : view.end]) + view.begin).tolist())
    return sorted(found | set(part if view.proof.fallen else ()))


@check("part-drops", TURNED, apart=True)
def part_drops(view: TurnView) -> Iterator[Found]:
    """A part that is off and that nothing holds, and no catcher is under it."""
    thick = max((thickness(piece) for piece in view.proof.fallen), default=0.0)
    if thick <= view.feels or (view.scene.second is not None and view.scene.second.follows):
        return
    row = next((k for k in range(view.begin, view.end) if _falls(view, k)), view.end - 1)
    under = [event.value for event in view.trace.events if event.what == "catch" and event.at <= row]
    if not state_before(view.trace, row).second and not (under and under[-1]):
        yield Found("note", "part-drops", tr("The part drops: nothing catches it."), row - view.begin)


def _let_go(view: TurnView) -> Iterator[Found]:
    """The chuck that a part was handed to opens before all is cut."""
    trace = view.trace
    for event in trace.events:
        here = view.begin <= event.at < view.end
        if event.what == "grip" and event.value == OPENS and here and (trace.kind[event.at :] != RAPID).any():
            yield Found(
                "stop", "part-dropped", tr("The second chuck opens, and nothing else holds the part."), event.at - view.begin
            )


def _falls(view: TurnView, row: int) -> bool:
    """Is it in this move that something falls off?"""
    before = view.proof.stocks[row - view.begin - 1] if row > view.begin else view.before
    now = view.proof.stocks[row - view.begin]
    return any(before.intersects(g.buffer(-1e-6)) and not now.intersects(g.buffer(-1e-6)) for g in view.proof.fallen)


def _part(view: TurnView, row: int) -> Region:
    """The part behind a move."""
    return foremost(view.proof.stocks[row - view.begin], *view.proof.fallen)


def _happens(view: TurnView, two: SecondChuck, state: _State, event: Event, row: int) -> Iterator[Found]:
    """A chuck opens or closes, the other spindle is chosen, or what turned in step does not any more."""
    move, off = row - view.begin, view.off or bool(view.proof.fallen)
    if event.what == "grip" and event.value == CLOSES:
        yield from _closes(view, two, state, row)
    elif event.what == "grip" and event.value == MAIN_OPENS and state.main and not state.second and not off:
        yield Found("stop", "part-dropped", tr("The main chuck opens, and the second one has not closed: the part falls."), move)
    elif event.what == "grip" and event.value == OPENS and state.second and (off or not state.main):
        yield Found("stop", "part-dropped", tr("The second chuck opens, and nothing else holds the part: it falls."), move)
    elif event.what in ("spindle", "together"):
        after = state.after(event)
        if state.second and state.main and not off and after.turns and not after.together:
            text = tr("Both chucks hold the work, and only one of them turns: both have to be in step.")
            yield Found("stop", "not-in-step", text, move)
    elif event.what == "side" and event.value == 1.0:
        if not state.second:
            yield Found("stop", "not-handed", tr("The second chuck has not closed: there is no part in it."), move)
        elif state.main and not off:
            yield Found("stop", "not-handed", tr("The main chuck still holds the part, and it is not parted off."), move)
        elif abs(float(view.trace.w[row, 1]) - two.spindle.home) > view.feels:
            text = tr("The second spindle is not at W {home}, where its zero is.", home=view.says(two.spindle.home))
            yield Found("stop", "second-not-home", text, move)


def _closes(view: TurnView, two: SecondChuck, state: _State, row: int) -> Iterator[Found]:
    """What the jaws close on."""
    move, scene, face = row - view.begin, view.scene, two.face(float(view.trace.w[row, 1] - view.trace.pulled[row]))
    part = _part(view, row)
    within = shapely.Polygon() if part.is_empty else part.intersection(shapely.box(face, 0.0, part.bounds[2] + 1.0, 1e6))
    if within.is_empty or within.area <= 0.0:
        yield Found("stop", "grips-nothing", tr("The second chuck closes, and there is nothing between its jaws."), move)
        return
    if state.turns and not state.together:
        text = tr("The second chuck closes on a work that turns, and is not in step with it.")
        yield Found("stop", "not-in-step", text, move)
    across, place = 2 * float(within.bounds[3]), (float(within.bounds[3]), 0.0, face)
    low, high = two.spindle.takes
    if not low - view.feels <= across <= high + view.feels:
        text = tr(
            "Its jaws close on Ø{low} to Ø{high}; the part is Ø{across} there.",
            low=view.says(low),
            high=view.says(high),
            across=view.says(across),
        )
        yield Found("stop", "grip-reach", text, move, across, place)
    mm = scene.mm
    long = straight(within, float(within.bounds[2]) - face, ALIKE_MM * mm)
    if long < max(SHORT_MM * mm, SHORT * across):
        text = tr(
            "Grips only {long} of Ø{across}.", long=view.says(float(f"{long:.3g}")), across=view.says(float(f"{across:.5g}"))
        )
        yield Found("caution", "grip-short", text, move, long, place)
    for wanted in scene.wanted:
        thread = wanted.thread
        if thread is None or (not thread.intersects(within) and not thread.touches(within)):
            continue
        if float(thread.bounds[2]) > face and float(thread.bounds[3]) >= across / 2 - 0.1 * mm:
            yield Found("caution", "grip-thread", tr("Its jaws close on a thread: it is pressed flat."), move, 0.0, place)
            break
    if _milled(view, face, across / 2, row):
        text = tr("Its jaws close where driven tools have cut: there it is not round, and whether they hold is not known.")
        yield Found("caution", "grip-milled", text, move, 0.0, place)
    wall = _wall(within, mm)
    if wall < max(THIN_MM * mm, THIN * across):
        text = tr("Its jaws close on a wall of {wall}: it gives way.", wall=view.says(float(f"{wall:.3g}")))
        yield Found("caution", "grip-wall", text, move, wall, place)


def _milled(view: TurnView, face: float, radius: float, row: int) -> bool:
    """Have tools across the axis cut into the outside in front of a length, before a move?"""
    trace = view.trace
    rows = np.flatnonzero(trace.stands[: row + 1] & (trace.kind[: row + 1] != RAPID))
    for number in np.unique(trace.tool[rows]).tolist():
        tool, own = view.scene.tools.get(number), rows[trace.tool[rows] == number]
        if not isinstance(tool, Tool) or tool.stands != "radial":
            continue
        deep = off_axis(trace.start[own], trace.end[own]) < radius
        near = np.maximum(trace.start[own, 2], trace.end[own, 2]) + tool.diameter / 2 > face
        if (deep & near).any():
            return True
    return False


def _wall(within: Region, mm: float) -> float:
    """The thinnest wall under jaws that is as far out as they are."""
    z0, _, z1, most = within.bounds
    found = float("inf")
    for k in range(21):
        z = z0 + (z1 - z0) * (k + 0.5) / 21
        cut = within.intersection(shapely.LineString([(z, 0.0), (z, most + 1.0)]))
        if cut.is_empty or cut.bounds[3] < most - ALIKE_MM * mm:
            continue
        outermost = max(getattr(cut, "geoms", [cut]), key=lambda g: g.bounds[3])
        found = min(found, float(outermost.bounds[3] - outermost.bounds[1]))
    return found


def _comes(view: TurnView, two: SecondChuck, state: _State, row: int, window: float | None) -> Iterator[Found]:
    """A move of the second chuck: `window` where it goes on until its seat meets the work."""
    move, (w0, w1), pulled = row - view.begin, view.trace.w[row].tolist(), float(view.trace.pulled[row])
    travel, part, off = two.spindle.w, _part(view, row), view.off or bool(view.proof.fallen)
    over = max(max(w0, w1) - travel.hi, travel.lo - min(w0, w1))
    if over > view.feels:
        yield Found("stop", "over-travel", tr("W leaves its travel by {over}.", over=view.says(over)), move, over)
    if state.second and state.main and not off:
        text = tr("The second chuck moves, and both hold the work: it is torn out of them.")
        yield Found("stop", "torn", text, move, abs(w1 - w0))
    face, front = two.face(min(w0, w1)) - pulled, float("-inf") if part.is_empty else float(part.bounds[2])
    jaws = max((float(region.bounds[2]) for name, region in view.scene.keep_out if name == "jaws"), default=float("-inf"))
    meet = jaws - pulled - face
    if meet > 0.0:
        yield Found("stop", "chucks-meet", tr("The jaws of both chucks meet, {meet}.", meet=view.says(meet)), move, meet)
    for name, region in view.scene.keep_out:
        moved = two.regions(w0 - pulled, w1 - pulled)
        if name == "tailstock" and any(own.intersects(region) for _, own in moved):
            yield Found("stop", "second-hit", tr("The second chuck runs into the tailstock's centre."), move)
    if state.second:
        return
    across = 0.0 if front <= face else 2 * float(part.intersection(shapely.box(face, 0.0, front + 1.0, 1e6)).bounds[3])
    if across > two.spindle.takes[1] + view.feels:
        text = tr(
            "The part is Ø{across}; its jaws open to Ø{takes}.", across=view.says(across), takes=view.says(two.spindle.takes[1])
        )
        yield Found("stop", "second-hit", text, move, across - two.spindle.takes[1])
    if window is not None:
        yield from _meets(view, two, state, row, front, window)
    elif front - face - two.seat > view.feels:
        deep = front - face - two.seat
        text = tr("Its seat runs into the work, {deep}, and nothing holds its force.", deep=view.says(deep))
        yield Found("stop", "seat-hit", text, move, deep)


def _meets(view: TurnView, two: SecondChuck, state: _State, row: int, front: float, window: float) -> Iterator[Found]:
    """Until its seat meets the work: with a force that it has, and where it was sent."""
    move, sent = row - view.begin, two.face(float(view.trace.w[row, 1]))
    low, high = two.spindle.push
    if state.push <= 0.0:
        yield Found("stop", "no-push", tr("It goes on until it meets the work, and nothing holds its force."), move)
    elif not low <= state.push <= high:
        text = tr(
            "Pushes with {push}; it can from {low:g} to {high:g}.",
            push=with_unit(state.push, Kind.FORCE, view.scene.unit),
            low=low,
            high=high,
        )
        yield Found("stop", "push-force", text, move, state.push)
    if two.face(float(view.trace.w[row, 0])) + two.seat < front:
        yield Found("stop", "seat-hit", tr("Its seat is in the work before it feeds."), move)
        return
    by = front - two.seat - sent
    if abs(by) > window + view.feels:
        where = tr("before") if by > 0 else tr("behind")
        text = tr(
            "Its seat would meet the work {by} {where} where it is sent; {window} is good.",
            by=view.says(abs(by)),
            where=where,
            window=view.says(window),
        )
        yield Found("stop", "off-window", text, move, abs(by))
