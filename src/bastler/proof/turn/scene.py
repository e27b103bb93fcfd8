"""What a turning program is proved against: stock, chuck, tailstock, tools, machine, and the wanted shape."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import msgspec
import shapely

from bastler.job import Plan, PlannedHolding
from bastler.job.chuck import CHUCK_MM, JAWS_MM
from bastler.job.promises import promises_of_turned
from bastler.job.turn_planning import centre_behind
from bastler.machines import SecondSpindle
from bastler.nc import Control
from bastler.nc.control import Bar
from bastler.post.writer import cutting_stages
from bastler.proof.scene import Scene, WantedStep
from bastler.shapes import Removal, Revolved
from bastler.shapes.kinds import Region
from bastler.steps import HandOver, NextPart, PartOff, Stage, TailstockCentre
from bastler.steps.place import plane_angle
from bastler.steps.turn.cut import ThreadGauge, TurningStep
from bastler.steps.turn.outline_step import Allowance, OutlineStep
from bastler.tools import AnyTool, Tool, TurnTool


@dataclass(frozen=True)
class WantedTurn:
    """What one step should take away, with the nose radius that its corners keep, and where it may cut a thread; `led` when its
    tip follows an outline, led out of the stock at its end. `allowance` is what stays there for a later step."""

    step: str
    regions: Sequence[Any]
    nose: float
    thread: Region = None
    gauge: ThreadGauge | None = None
    led: bool = False
    allowance: Allowance | None = None


@dataclass(frozen=True)
class WantedRound(WantedStep):
    """What one step should take away that goes round a part, unrolled at a radius `around`, from each of its `angles` in degrees,
    with a tool as `wide` as that radius at most."""

    angles: Sequence[float]
    around: float
    wide: float


@dataclass(frozen=True)
class BarWork:
    """A bar that comes on for the next part: the id of the step that brings it, how far it is planned to come, how long the bar
    is, how much of it the jaws keep, and where their face is."""

    step: str
    comes: float
    bar: float
    keep: float
    jaws: float


@dataclass(frozen=True, kw_only=True)
class TurnScene(Scene):
    """`length` is the finished length, `back` what is to be left on the back face; `parts` are the ids of the steps that part
    off."""

    raw: Region
    keep_out: Sequence[tuple[str, Any]]
    rating: float
    length: float
    back: float
    wanted: Sequence[WantedTurn]
    parts: frozenset[str]
    planes: Mapping[float | None, Sequence[WantedStep]] = field(default_factory=dict)
    """What steps with driven tools want gone: of the end face (None), and of the side by its angle in degrees."""
    rounds: Sequence[WantedRound] = ()
    """And what they want gone that goes round."""
    second: SecondChuck | None = None
    """The chuck that comes from the other side, where the machine has one and it is not this one that the part is in."""
    handed: bool = False
    """Is it this one that the part is in?"""
    angle_lost: bool = False
    """Does nobody know at which angle stands what was milled before?"""

    bar_work: BarWork | None = None
    centres: Mapping[str, Region | None] = field(default_factory=dict)
    """The tailstock's centre as steps bring it in, by their ids; None of those that take it out."""
    bar: Region = None
    """What there was before the first holding: its surface is untouched. None where that is `raw`."""

    @property
    def untouched(self) -> Region:
        """The stock whose surface nobody has touched yet."""
        return self.raw if self.bar is None else self.bar

    def with_part(self, part: Region, *, angle_lost: bool) -> TurnScene:
        """The same with the part as it came, in the place of what was planned."""
        return replace(self, raw=part, angle_lost=angle_lost)


@dataclass(frozen=True)
class SecondChuck:
    """A second chuck as the part in the main one sees it, which has its zero at the machine's Z `zero`. Its jaws reach out to a
    radius; its seat lies `seat` behind their face; it is good for `rating` turns a minute. `follows`: does the plan go on with
    the part in it?"""

    spindle: SecondSpindle
    zero: float
    reach: float
    seat: float
    mm: float
    rating: float
    follows: bool

    def face(self, w: float) -> float:
        """Where the face of its jaws is with W there."""
        return self.spindle.jaws_at(w) - self.zero

    def regions(self, w0: float, w1: float) -> list[tuple[str, Any]]:
        """What it takes up on its way from one W to another: jaws and chuck, open to the other side."""
        far, near = max(self.face(w0), self.face(w1)), min(self.face(w0), self.face(w1))
        long, behind = JAWS_MM * self.mm, CHUCK_MM * self.mm
        return [
            ("second-jaws", shapely.box(near, 0.0, far + long, self.reach)),
            ("second-chuck", shapely.box(near + long, 0.0, far + long + behind, self.reach * 1.1)),
        ]


def turn_scene(plan: Plan, place: int = 0) -> TurnScene:
    """The scene of a planned holding in a chuck."""
    held = plan.holdings[place]
    stock, holding, ctx = held.bar, held.chuck, held.turned
    last = held.steps[-1].ctx if held.steps else ctx
    used = {s.tool.id: s.tool for s in cutting_stages(held)}
    tools = {tool.station: tool for tool in used.values()}
    for tool in last.tools:
        tools.setdefault(tool.station, tool)
    zero = (0.0, 0.0, holding.offset_z or 0.0)
    part = int(holding.work_offset[1:]) - 53
    points = {station: _point(tool) for station, tool in tools.items()}
    control = Control(
        unit=held.job.unit,
        dialect=ctx.card.dialect,
        offsets={part: zero},
        part=part,
        home=ctx.card.home,
        peck_clearance=ctx.card.peck_clearance,
        chip_break=ctx.card.chip_break,
        pull_off=ctx.card.pull_off,
        turns=True,
        has_y=ctx.card.has_y,
        has_c=ctx.card.c is not None,
        reaches=points,
        tool_offsets=_offsets(tools, points),
        bar=_bar(held, tools),
        noses={station: (tool.nose, tool.centre) for station, tool in tools.items() if isinstance(tool, TurnTool)},
    )
    return TurnScene(
        unit=held.job.unit,
        raw=ctx.raw,
        keep_out=ctx.keep_out,
        tools=tools,
        card=ctx.card,
        material=held.job.material,
        control=control,
        zero=zero,
        rating=holding.rating,
        length=stock.finished,
        back=stock.over_back,
        wanted=tuple(_all_wanted(held)),
        parts=frozenset(p.step.id for p in held.steps if isinstance(p.step, PartOff)),
        promised=promises_of_turned(stock, ctx.raw, turned=place % 2 == 1) if not held.troubles else (),
        planes=_on_planes(held),
        rounds=tuple(_rounds(held)),
        bar=ctx.bar,
        second=None if holding.handed else _second(plan, place),
        handed=holding.handed,
        centres=_centres(held),
        bar_work=_bar_work(held),
    )


def _bar_work(held: PlannedHolding) -> BarWork | None:
    """What is planned of the bar."""
    there = held.from_bar
    if there is None or not isinstance(there.filled, NextPart):
        return None
    ctx, step = there.turned, there.filled
    return BarWork(there.step.id, step.comes(ctx), step.bar or 0.0, step.keep or 0.0, ctx.jaws)


def _bar(held: PlannedHolding, tools: Mapping[int, AnyTool]) -> Bar:
    """The bar as its control knows it."""
    work = _bar_work(held)
    kinds = {station: tool.kind for station, tool in tools.items()}
    stops, pulls = (frozenset(n for n, kind in kinds.items() if kind == what) for what in ("stop", "puller"))
    return Bar(work.comes if work is not None else 0.0, stops, pulls)


def _centres(held: PlannedHolding) -> dict[str, Region | None]:
    """The centre as it is behind each of the steps that move it."""
    here = [k for k, p in enumerate(held.steps) if p.stages and isinstance(p.filled, TailstockCentre)]
    return {held.steps[k].step.id: centre_behind(held.steps[: k + 1]) for k in here}


def _second(plan: Plan, place: int) -> SecondChuck | None:
    """The chuck on the other side of a holding."""
    held = plan.holdings[place]
    ctx, two = held.turned, held.turned.card.second
    if two is None:
        return None
    after = plan.holdings[place + 1] if place + 1 < len(plan.holdings) else None
    follows = after is not None and after.chuck.handed
    hand = held.hand_over
    seat = two.deep
    if hand is not None and isinstance(hand.filled, HandOver) and hand.filled.contact == "seat":
        seat = hand.filled.grip or two.deep
    rating = min(after.chuck.rating, two.speed[1]) if after is not None and follows else two.speed[1]
    return SecondChuck(two, held.chuck.offset_z or 0.0, ctx.second_reach, seat, ctx.mm(1.0), rating, follows)


def _on_planes(held: PlannedHolding) -> dict[float | None, tuple[WantedStep, ...]]:
    """What driven tools want gone, by plane. A hole on the round is one on the side at its own angle."""
    found: dict[float | None, tuple[WantedStep, ...]] = {}

    def want(side: float | None, removals: Sequence[Removal]) -> None:
        found[side] = (*found.get(side, ()), WantedStep(done.step.id, removals))

    for done in held.steps:
        for side in (done.place.angles or (None,)) if done.removals else ():
            if side is None or not done.place.around:
                want(side, done.removals)
                continue
            holes = [r for r in done.removals if isinstance(r, Revolved)]
            for y in dict.fromkeys(hole.y for hole in holes):
                own = [msgspec.structs.replace(hole, y=0.0) for hole in holes if hole.y == y]
                want(plane_angle(done.place.angle_at(side, y)), own)
    return found


def _rounds(held: PlannedHolding) -> Iterator[WantedRound]:
    """What goes round, but for holes."""
    for done in held.steps:
        gone = [r for r in done.removals if not isinstance(r, Revolved)]
        if done.place.around and gone:
            wide = max((s.tool.diameter for s in done.stages if isinstance(s, Stage) and isinstance(s.tool, Tool)), default=0.0)
            yield WantedRound(done.step.id, gone, done.place.angles, done.place.around, wide / 2)


def _point(tool: AnyTool) -> tuple[float, float, float]:
    """From a tool's point to the turret's reference."""
    if isinstance(tool, TurnTool):
        return (tool.length_x, 0.0, tool.length_z)
    return (tool.length, 0.0, 0.0) if tool.stands == "radial" else (0.0, 0.0, tool.length)


def _offsets(tools: dict[int, AnyTool], points: dict[int, tuple[float, float, float]]) -> dict[int, tuple[float, float, float]]:
    """What the control believes by offset number: a groove tool's second offset is its width further."""
    found = dict(points)
    for station, tool in tools.items():
        if isinstance(tool, TurnTool) and tool.second:
            x, y, z = points[station]
            dz, dr = tool.other_edge
            found[tool.second] = (x - dr, y, z - dz)
    return found


def _all_wanted(held: PlannedHolding) -> Iterator[WantedTurn]:
    """What every step wants gone; a repetition what its copies want."""
    for planned in held.steps:
        for one in planned.copies or (planned,):
            if one.stages and isinstance(one.filled, TurningStep):
                yield replace(_wanted(one), step=planned.step.id)


def _wanted(planned: Any) -> WantedTurn:
    tool = planned.ctx.turn_tool(getattr(planned.filled, "tool", None))
    thread = planned.filled.thread_region(planned.ctx)
    gauge = planned.filled.thread_gauge(planned.ctx)
    led = isinstance(planned.filled, OutlineStep)
    return WantedTurn(planned.step.id, planned.wants, tool.nose if tool else 0.0, thread, gauge, led, planned.allowance)
