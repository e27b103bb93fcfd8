"""Parts one after the other from one bar. The first is cut and compared; each later one is held against it move by move: the same
moves on a bar whose front lies in the same place leave the same part. What the bar does between them is looked at for itself.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import shapely
import shapely.affinity

from bastler.language import tr
from bastler.nc import Trace
from bastler.post import Program
from bastler.proof.clockwork import timetable
from bastler.proof.found import Found
from bastler.proof.measure import thickness
from bastler.proof.remark import Remark
from bastler.proof.stock import BarRun
from bastler.proof.turn.checks import TurnView, check
from bastler.proof.turn.scene import BarWork, TurnScene
from bastler.proof.turn.section import VOLUME
from bastler.shapes.kinds import Bools, Floats, Region
from bastler.steps.base import TURNED
from bastler.tools import TurnTool
from bastler.units import Kind, with_unit

ALIKE_MM = 1e-6
"""Moves that lie closer together are the same."""
FRONT_MM = 0.02
"""So far the front of the next part may lie from where that of the first one was."""
THICK_MM = 0.05
"""So much the bar may differ from what the first part was cut from."""
OVER_MM = 0.5
"""A puller is over a bar that it goes so far over at least."""
COLUMNS = (
    "line", "kind", "turn", "plane", "feed", "speed", "tool", "surface", "cap", "per_turn", "lead", "edge", "stands", "polar",
    "held",
)  # fmt: skip


def first_part(trace: Trace, scene: TurnScene, program: Program) -> tuple[Trace, BarRun | None]:
    """The moves of the first part, with those that bring the bar on for the second, and what becomes of the others. All moves,
    and None, where no bar comes on or nobody knows which lines a part is made by."""
    work = scene.bar_work
    begins = _begins(trace, program) if work is not None and any(e.what == "bar" for e in trace.events) else []
    if work is None or not begins:
        return trace, None
    ends = [*begins[1:], len(trace)]
    differs = (-1, 0)
    for k in range(1, len(begins)):
        row = _first_other(trace, (begins[0], ends[0]), (begins[k], ends[k]), scene.mm)
        if row >= 0:
            differs = (int(trace.line[row]), k + 1)
            break
    run = BarRun(len(begins), timetable(trace, scene.card)[2], float(trace.pulled[begins[-1]]), differs)
    if len(begins) == 1:
        return trace, run
    end = ends[0]
    own = [s for s in program.sections if s.step == work.step]
    kept = tuple(e for e in trace.events if e.at < end or (e.at == end and any(s.first <= e.line < s.last for s in own)))
    return replace(trace.between(0, end), events=kept), run


def _begins(trace: Trace, program: Program) -> list[int]:
    """The rows with which each part begins: those that come to the first lines of a step that are run at all."""
    lasts = np.array([section.last for section in program.sections])
    sections = np.searchsorted(lasts, trace.line, side="right")
    named = np.array([bool(section.step) for section in program.sections])
    rows = np.flatnonzero(named[np.minimum(sections, len(named) - 1)]) if len(named) else np.zeros(0, int)
    if not len(rows):
        return []
    first = sections == sections[rows[0]]
    return [int(k) for k in np.flatnonzero(first & np.concatenate([[True], ~first[:-1]]))]


def _first_other(trace: Trace, one: tuple[int, int], other: tuple[int, int], mm: float) -> int:
    """The first row of a part that is not as it was for the first one; -1 where all are. Where a part's first move comes from
    does not count. The last part may end where the bar would come on."""
    (a, a_end), (b, b_end) = one, other
    count = min(a_end - a, b_end - b)
    rows, others = slice(a, a + count), slice(b, b + count)
    alike = np.ones(count, np.bool_)
    for name in COLUMNS:
        column = getattr(trace, name)
        with np.errstate(invalid="ignore"):
            alike &= (column[rows] == column[others]) | (np.abs(column[rows] - column[others].astype(float)) <= ALIKE_MM)
    turned = np.abs(trace.angle[rows] - trace.angle[others])
    turned[:1, 0] = 0.0
    alike &= turned.max(axis=1) <= ALIKE_MM
    for places in ("start", "end", "centre"):
        near = np.abs(_in_the_machine(trace, places, rows) - _in_the_machine(trace, places, others)).max(axis=1) <= ALIKE_MM * mm
        if places == "start":
            near[:1] = True
        elif places == "centre":
            near |= trace.turn[rows] == 0.0
        alike &= near
    if not alike.all():
        return b + int(np.argmin(alike))
    short = b_end - b < a_end - a and bool((trace.pulled[a:a_end] == trace.pulled[a]).all())
    return b_end - 1 if short or b_end - b > a_end - a else -1


def _in_the_machine(trace: Trace, places: str, rows: slice) -> Floats:
    """Places with Z as the machine counts, which does not go along with the bar."""
    found: Floats = getattr(trace, places)[rows].copy()
    found[:, 2] += trace.pulled[rows]
    return found


def bar_remarks(run: BarRun | None, scene: TurnScene, now: Region, part: Region, trace: Trace) -> Iterator[Remark]:
    """What becomes of the bar; `now` is what the first part has left of it, `part` that part."""
    work = scene.bar_work
    if work is None or trace.cut:
        return
    if run is None:
        text = tr("The bar never comes on: what is to bring it is not in the program.")
        yield Remark(level="stop", code="bar-missing", text=text, step=work.step)
        return
    if not _closed(trace):
        yield Remark(
            level="stop", code="chuck-open", text=tr("The chuck is still open when the next part begins."), step=work.step
        )
    line, other = run.differs
    if other:
        text = tr("Part {other} is not cut as the first one is: what becomes of it is not known.", other=other)
        yield Remark(level="stop", code="part-differs", text=text, line=line + 1)
    pulled = float(trace.pulled[-1]) if len(trace) else 0.0
    if pulled > 0.0:
        yield from _next_front(scene, work, now, part, pulled)
    held = work.jaws - (float(scene.raw.bounds[2]) - work.bar + run.pulled)
    if held < work.keep - FRONT_MM * scene.mm:
        has = tr("only {held} of the bar", held=_says(held, scene)) if held > 0 else tr("nothing of the bar any more")
        text = tr(
            "For part {parts} the jaws have {has}; {keep} are to stay.", parts=run.parts, has=has, keep=_says(work.keep, scene)
        )
        yield Remark(level="stop", code="remnant-short", text=text, step=work.step, amount=work.keep - held)
    if run.parts > 1:
        left = _says(max(held + float(now.bounds[2]) - work.jaws, 0.0), scene) if not now.is_empty else tr("nothing")
        text = tr(
            "{parts} parts of one bar in {seconds:.0f} min; {left} of it stay.",
            parts=run.parts,
            seconds=run.seconds / 60.0,
            left=left,
        )
        yield Remark(level="note", code="bar-work", text=text, step=work.step, amount=float(run.parts))


def _closed(trace: Trace) -> bool:
    """Is the main chuck closed at the end?"""
    grips = [e.value for e in trace.events if e.what == "grip" and e.value <= 2.0]
    return not grips or grips[-1] == 1.0


def _next_front(scene: TurnScene, work: BarWork, now: Region, part: Region, pulled: float) -> Iterator[Remark]:
    """Does the next part begin as the first one did: is the bar's front in its place, does the bar come with nothing more than
    there was then, and with all that a part is made of?"""
    mm = scene.mm
    come = shapely.affinity.translate(now, pulled) if not now.is_empty else now
    front = float(scene.raw.bounds[2])
    by = front - float(come.bounds[2]) if not come.is_empty else front - work.jaws
    if abs(by) > FRONT_MM * mm:
        text = tr(
            "The bar comes {by} too {by_2}: it does not lie as the first one did.",
            by=_says(abs(by), scene),
            by_2=tr("short") if by > 0 else tr("far"),
        )
        yield Remark(level="stop", code="bar-elsewhere", text=text, step=work.step, amount=abs(by))
        return
    back = max(float(come.bounds[0]), float(scene.raw.bounds[0]), work.jaws)
    there = shapely.box(back, 0.0, front + mm, 2 * float(scene.raw.bounds[3]))
    more, less = (thickness(region.intersection(there)) for region in (come.difference(scene.raw), part.difference(come)))
    if max(more, less) > THICK_MM * mm:
        what = tr("with more on it than this one did") if more > less else tr("with a bar that this one has cut into")
        text = tr("The next part would begin {what}, by {max}.", what=what, max=_says(max(more, less), scene))
        yield Remark(level="stop", code="bar-cut", text=text, step=work.step, amount=max(more, less))


def _says(value: float, scene: TurnScene) -> str:
    return with_unit(float(f"{value:.4g}"), Kind.LENGTH, scene.unit)


@check("bar-chuck", TURNED, apart=True)
def bar_chuck(view: TurnView) -> Iterator[Found]:
    """The main chuck opens: the work stands then, a stop, a puller or a feeder has the bar, and nothing is cut meanwhile."""
    trace, part = view.trace, view.part
    closes = {e.line for e in trace.events if e.what == "grip" and e.value == 1.0}
    by_feeder = {e.line for e in trace.events if e.what == "bar"} & closes  # one word opens, brings the bar, and closes
    opened = _open_rows(trace)[part] & (view.proof.cut[:, VOLUME] > 0)
    if opened.any():
        yield Found("stop", "chuck-open", tr("Cuts while the chuck is open."), int(np.argmax(opened)))
    second = turns = False
    for event in trace.events:
        second = event.value == 3.0 if event.what == "grip" and event.value >= 3.0 else second
        turns = event.value != 0.0 if event.what == "spindle" else turns
        here = view.begin <= event.at - 1 < view.end or event.at == view.begin == 0
        if not here or event.what != "grip" or event.value != 2.0 or second:
            continue
        move = max(event.at - 1 - view.begin, 0)
        if turns:
            yield Found("stop", "chuck-turns", tr("The chuck opens while it turns."), move)
        elif event.at < len(trace) and not _is_held(view, event.at) and event.line not in by_feeder:
            yield Found("stop", "bar-loose", tr("The chuck opens, and nothing has hold of what is in it."), move)
        elif abs(by := _past_the_stop(view, event.at)) > FRONT_MM * view.scene.mm:
            text = tr(
                "The stop stands {by} too {by_2}: the bar comes out to it.",
                by=view.says(abs(by)),
                by_2=tr("far") if by > 0 else tr("short"),
            )
            yield Found("stop", "bar-elsewhere", text, move, abs(by))


def _open_rows(trace: Trace) -> Bools:
    """The moves (n,) in which neither chuck is closed."""
    found, main, second, at = np.zeros(len(trace), np.bool_), True, False, 0
    for event in (*(e for e in trace.events if e.what == "grip"), None):
        end = len(trace) if event is None else event.at
        found[at:end] = not main and not second
        if event is not None:
            main = event.value == 1.0 if event.value <= 2.0 else main
            second = event.value == 3.0 if event.value >= 3.0 else second
            at = end
    return found


def _is_held(view: TurnView, at: int) -> bool:
    """Is a stop before the bar, or a puller over it?"""
    tool = view.tool
    if not isinstance(tool, TurnTool) or not tool.holds or view.before.is_empty:
        return False
    r, z, front = _before_it(view, at)
    if abs(r) > ALIKE_MM * view.scene.mm:
        return False
    return tool.kind == "stop" or z < front - OVER_MM * view.scene.mm


def _past_the_stop(view: TurnView, at: int) -> float:
    """How much farther out a stop stands than the bar's front comes by what is planned; 0 for anything else."""
    by = next((e.value for e in view.trace.events if e.at == at and e.what == "bar"), 0.0)
    if not isinstance(view.tool, TurnTool) or view.tool.kind != "stop" or not by:
        return 0.0
    _, z, front = _before_it(view, at)
    return z - front - by


def _before_it(view: TurnView, at: int) -> tuple[float, float, float]:
    """Before an event at a row: radius and length of the tool's point, and where the bar ends."""
    row = min(max(at - 1, view.begin), view.end - 1)
    r, _, z = view.trace.end[row].tolist()
    return float(r), float(z), float(view.proof.stocks[row - view.begin].bounds[2])
