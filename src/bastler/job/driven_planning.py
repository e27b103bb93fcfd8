"""Planning the steps of driven tools on a turned part: on its end face, X and Y about the axis from the finished front, and on
its side, seen from an angle of C.

They see what turning has left of it, and what those before them took of the same plane. Turning goes on as if nothing were
milled: that is on the safe side.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import msgspec

from bastler.ask import Trouble, problems, questions_of
from bastler.job.able import able_troubles
from bastler.job.chuck import ChuckHolding
from bastler.job.planned import PlannedStep
from bastler.job.positions import pattern_troubles
from bastler.job.turret import Turret
from bastler.language import tr
from bastler.motion import Bend, Bow, Cut, Cycle, Go
from bastler.motion.placed import placed_moves
from bastler.shapes import Barrel, Box, PlanOutline, Removal, Shoulders, TurnedPart, Unrolled
from bastler.shapes.kinds import Region
from bastler.shapes.placing import shifted_by
from bastler.steps import AnyStep, Between, FlatContext, Repeat, Stage, TurnedContext, fill, kind_of, replaced, troubles_of
from bastler.steps.base import Unfilled
from bastler.steps.cut import CuttingStep
from bastler.steps.mill.boss import BossStep
from bastler.steps.place import END, Place, on_part
from bastler.units import in_a_sentence

NEAR_MM = 2.0
"""At least so far before the face, or off the side, stages begin and end."""
LEAST_ROUND = 0.1
"""Of the part's radius: what is unrolled nearer to the axis is a slip."""
ASIDE_MM = 1e-6
"""Farther from the middle line than this, Y is needed."""


@dataclass(frozen=True)
class Chucked:
    """The part as driven tools find it: what the `ctx` of turning knows, its `holding`, the flat outlines of the job, the steps
    `planned` so far, and the `turret`. `sound`: is there nothing wrong besides the steps?"""

    ctx: TurnedContext
    holding: ChuckHolding
    outlines: Mapping[str, PlanOutline]
    planned: Sequence[PlannedStep]
    turret: Turret
    sound: bool

    @property
    def body(self) -> Region:
        """What turning leaves; where that is nothing, which is said, all that there was."""
        return self.ctx.raw if self.ctx.stock.is_empty else self.ctx.stock

    def seen(self, place: Place) -> FlatContext:
        """The plane as a step sees it that is done at a place."""
        gone = tuple(r for done in self.planned if done.removals and done.place.shares(place) for r in done.removals)
        if place.around > 0.0:
            return self._round(place, gone)
        return self._side(place, gone) if place.angles else self._face(gone)

    def _face(self, gone: Sequence[Removal]) -> FlatContext:
        """The part as far as it is to be, from the front."""
        ctx = self.ctx
        back = -ctx.length - ctx.back
        turned = Shoulders.of(self.body, back)
        r, front = turned.radius, max(z for _, z in turned.profile)
        box = Box((-r, -r, min(back, front - ctx.mm(1.0))), (r, r, front), round=True)
        return self._flat(END, turned, box, self.holding.safe_z or 0.0, gone)

    def _side(self, place: Place, gone: Sequence[Removal]) -> FlatContext:
        """All of the part that sticks out, from its side."""
        turned = Barrel.of(self.body)
        r = turned.radius
        box = Box((turned.profile[0][0], -r, -r), (turned.profile[-1][0], r, r))
        return self._flat(place, turned, box, (self.holding.safe_d or 0.0) / 2, gone)

    def _round(self, place: Place, gone: Sequence[Removal]) -> FlatContext:
        """A turn of the part that sticks out, unrolled; down to the axis."""
        turned = Unrolled.of(self.body, place.around)
        box = Box((turned.profile[0][0], -turned.half, 0.0), (turned.profile[-1][0], turned.half, turned.radius))
        return self._flat(place, turned, box, (self.holding.safe_d or 0.0) / 2, gone)

    def place_of(self, step: AnyStep) -> Place:
        """Where a step is; of what goes round, unrolled where it is measured, else at the surface that is there."""
        if not isinstance(step, CuttingStep):
            return END
        place = step.place
        if step.where_on != "round" or place.around > 0.0:
            return place
        barrel = Barrel.of(self.body)
        pattern = self.ctx.patterns.get(getattr(step, "pattern", ""))
        x = step.along_part if pattern is None else next((x for x, _ in pattern.all()), None)
        at = barrel.at(x, 0.0) if x is not None else math.inf
        return Place(place.angles, at if 0.0 < at < math.inf else barrel.radius)

    def _flat(self, place: Place, turned: TurnedPart, box: Box, safe: float, gone: Sequence[Removal]) -> FlatContext:
        ctx, top = self.ctx, box.hi[2]
        _, _, front, outer = ctx.untouched.bounds
        cut = top < (outer if place.angles else front) - ctx.mm(0.01)
        safe = max(safe, top + min(ctx.clear, ctx.mm(NEAR_MM)))
        return FlatContext(
            unit=ctx.unit,
            material=ctx.material,
            card=ctx.card.driven,
            tools=self.turret.driven(place.stands),
            patterns=ctx.patterns,
            outlines=self.outlines,
            clear=min(ctx.near if cut else ctx.clear, safe - top),
            pace=ctx.pace,
            stock=box,
            safe=safe,
            before=tuple(gone),
            turned=turned,
        )

    def not_round(self, place: Place) -> list[Trouble]:
        """Where nothing of the part is to be unrolled."""
        most = Barrel.of(self.ctx.raw).radius
        if place.around > 0.0 and not LEAST_ROUND * most <= place.around <= most * (1 + 1e-9):
            return [Trouble("around_d", tr("The part has no such round."), 2 * most)]
        return []

    def cannot(self, place: Place) -> list[Trouble]:
        """Why nothing is done with driven tools there."""
        card = self.ctx.card
        if not (card.drives_radially if place.angles else card.drives_axially):
            along = tr("across") if place.angles else tr("along")
            return [
                Trouble(
                    "where_on" if card.drives else "name",
                    tr("{name} drives no tools {along} its axis.", name=card.name, along=along),
                )
            ]
        if self.ctx.stock.is_empty:
            return [Trouble("name", tr("The steps before leave nothing to cut."))]
        if self.ctx.handed_over:
            return [Trouble("name", tr("Both chucks hold the work: it does not turn to an angle."))]
        if self.ctx.angle_lost:
            return [Trouble("name", self.ctx.angle_lost)]
        return []


def plan_driven(step: AnyStep, part: Chucked) -> PlannedStep:
    """A step with driven tools; of a repetition the run of such steps before it again."""
    if isinstance(step, Repeat):
        return _repeated(step, part)
    place = part.place_of(step)
    ctx, turned_part = part.seen(place), part.ctx.stock
    full = _filled(step, ctx)
    troubles = (
        part.cannot(place) or part.not_round(place) or _tools_elsewhere(step, part.turret, place) or pattern_troubles(step, ctx)
    )
    troubles = troubles or _said_there(troubles_of(full, ctx), place) or able_troubles(full, ctx)
    if isinstance(full, CuttingStep):
        troubles = _where_asked(full, troubles or full.place_troubles())
    if not troubles and step.on:
        missing = part.turret.take(full.tools_used(), place.stands)
        if missing:
            troubles = [Trouble("tool", part.turret.why_not_driven(missing[0], place.stands))]
        ctx = replace(ctx, tools=part.turret.driven(place.stands))
    if troubles or not step.on or not part.sound:
        return PlannedStep(step, full, ctx, tuple(troubles) if step.on else (), on=turned_part, place=place)
    try:
        stages, removals = tuple(full.plan(ctx)), tuple(full.removes(ctx))
    except Unfilled as error:
        return PlannedStep(step, full, ctx, tuple(_said_there([error.trouble], place)), on=turned_part, place=place)
    wrong = _cannot_be_said(step, stages, part, place)
    if wrong is not None:
        return PlannedStep(step, full, ctx, tuple(_where_asked(full, [wrong])), on=turned_part, place=place)
    return PlannedStep(step, full, ctx, (), tuple(_all_round(stages, place)), removals, on=turned_part, place=place)


def _filled(step: AnyStep, ctx: FlatContext) -> AnyStep:
    """With all answers worked out, and those that follow from them."""
    full = fill(step, ctx)
    derived = full.derived if isinstance(full, CuttingStep) else {}
    known = {name: value for name, (value, _) in derived.items() if value is not None}
    return fill(replaced(step, **known), ctx) if known else full


def _said_there(troubles: Sequence[Trouble], place: Place) -> list[Trouble]:
    """What a step says of its plan, as it lies on the part."""
    return [msgspec.structs.replace(t, text=on_part(t.text, place.where)) for t in troubles]


def _where_asked(step: AnyStep, troubles: Sequence[Trouble]) -> list[Trouble]:
    """Troubles with derived answers are said where that is asked from which they follow."""
    if not isinstance(step, CuttingStep):
        return list(troubles)
    instead = {name: source for name, (_, source) in step.derived.items()}
    instead |= dict.fromkeys(step.FIXED - instead.keys(), "tool")
    return [msgspec.structs.replace(t, field=instead[t.field], fits=None) if t.field in instead else t for t in troubles]


def _tools_elsewhere(step: AnyStep, turret: Turret, place: Place) -> list[Trouble]:
    """Tools that are given and cannot be driven there."""
    able = {t.id for t in turret.driven(place.stands)}
    given = [(q.name, getattr(step, q.name)) for q in questions_of(type(step)) if q.picks == "tool" and q.asked(step)]
    return [
        Trouble(name, turret.why_not_driven(ident, place.stands))
        for name, ident in given
        if ident and ident not in able and turret.knows(ident)
    ]


def _cannot_be_said(step: AnyStep, stages: Sequence[Stage | Between], part: Chucked, place: Place) -> Trouble | None:
    """What the machine cannot be told to do."""
    moves = [move for stage in stages if isinstance(stage, Stage) for move in stage.moves]
    if any(isinstance(move, Bend) for move in moves):
        text = tr("The control does not run a tool beside an outline while its spindle is an axis.")
        return Trouble("compensation", text, "computed")
    if place.around > 0.0:
        return _cannot_go_round(step, stages)
    if not place.angles or part.ctx.card.has_y:
        return None
    aside = max((abs(v) for stage in stages if isinstance(stage, Stage) for v in _sideways(stage)), default=0.0)
    if aside <= part.ctx.mm(ASIDE_MM):
        return None
    text = tr("has no Y: on the side its tools stay in the middle, as for a hole there or a slot as wide as its mill.")
    goes = isinstance(step, CuttingStep) and "where_on" not in step.FIXED and _cannot_go_round(step, stages) is None
    text += tr(" Round the part C takes its place.") if goes else ""
    return Trouble("where_on", f"{part.ctx.card.name} {text}", "round" if goes else None)


def _cannot_go_round(step: AnyStep, stages: Sequence[Stage | Between]) -> Trouble | None:
    """What is milled with its tool going round in itself is milled on the side, as unrolled it would not be round; and what
    clears all of the part around itself, as that has no edge to begin at."""
    if isinstance(step, BossStep):
        return Trouble(
            "where_on", tr("All round the part there is no edge to begin at: what stands up is milled on the side."), "side"
        )
    for stage in stages:
        if isinstance(stage, Stage) and stage.tool.kind == "thread-mill":
            return Trouble("where_on", tr("A thread is milled on the side: unrolled its hole is not round."), "side")
    return None


def _sideways(stage: Stage) -> Iterator[float]:
    """How far from the middle line a stage goes."""
    yield stage.start[1]
    for move in stage.moves:
        if isinstance(move, Cycle):
            yield from (v for _, v in move.points)
        elif isinstance(move, Go | Cut):
            yield move.v
        elif isinstance(move, Bow):
            yield from (move.v, move.cv, float("inf"))


def _all_round(stages: Sequence[Stage | Between], place: Place) -> Iterator[Stage | Between]:
    """Every stage at all angles, one after the other."""
    for stage in stages:
        if not isinstance(stage, Stage) or not place.angles:
            yield stage
            continue
        yield from (replaced(stage, side=angle, around=place.around) for angle in place.angles)


def _repeated(step: Repeat, part: Chucked) -> PlannedStep:
    """The run of steps on a plane before it again; what is turned among them is not."""
    run = part.planned[-step.back :] if step.back > 0 else []
    place = run[0].place if run and kind_of(run[0].step).driven else END
    ctx = part.seen(place)
    troubles = part.cannot(place) or problems(step)
    if not troubles and any(not kind_of(done.step).driven for done in run):
        troubles = [Trouble("back", tr("What is turned is among them: it is repeated along Z, or not at all."))]
    if not troubles and any(done.place != place for done in run):
        troubles = [Trouble("back", tr("They are not all at the same place on the part."))]
    if not troubles and step.how == "scaled":
        troubles = [
            Trouble("how", tr("On a part in a chuck nothing is repeated in another size."), "grid" if place.angles else "turned")
        ]
    troubles = troubles or step.run_troubles(run)
    if troubles or not step.on or not part.sound:
        return PlannedStep(step, step, ctx, tuple(troubles) if step.on else (), on=part.ctx.stock, place=place)
    stages = tuple(one for stage in step.stages_of(run) for one in _apart(stage))
    wrong = _cannot_be_said(step, stages, part, place)
    if wrong is not None:
        wrong = msgspec.structs.replace(wrong, field="how", text=tr("At its copies: {text}", text=in_a_sentence(wrong.text)))
        return PlannedStep(step, step, ctx, (wrong,), on=part.ctx.stock, place=place)
    return PlannedStep(step, step, ctx, (), stages, tuple(step.removes_of(run)), on=part.ctx.stock, place=place)


def _apart(stage: Stage | Between) -> Iterator[Stage | Between]:
    """A stage that is made at several places as so many: a turret has no local shift."""
    if not isinstance(stage, Stage) or not stage.copies:
        yield stage
        return
    x, y, z = stage.start
    for u, v in stage.copies:
        moves = tuple(placed_moves(stage.moves, shifted_by(u, v)))
        yield replaced(stage, start=(x + u, y + v, z), moves=moves, copies=())
