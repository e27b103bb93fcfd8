"""Planning the holdings of a turned part: how it comes into each, from the one before it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import msgspec

from bastler.ask import Trouble
from bastler.job.chuck import ChuckHolding, other_offset
from bastler.job.document import Job
from bastler.job.planned import Known, PlannedHolding, PlannedStep, fill_holding, fill_stock
from bastler.job.stock import BarStock
from bastler.job.turn_planning import left_by, plan_steps_turned, stock_turned_round, turn_context, turned_round, turret_of
from bastler.language import tr
from bastler.shapes import TurnedOutline
from bastler.shapes.kinds import Region
from bastler.steps import AnyStep, HandOver, TurnedContext, kind_of
from bastler.units import scale


@dataclass(frozen=True)
class Came:
    """How the part comes into a holding: the `stock` as it is there, the holding filled, what its first step sees, and what is
    wrong with that."""

    stock: BarStock
    holding: ChuckHolding
    ctx: TurnedContext
    troubles: list[Trouble]


class Lathe:
    """Holding by holding, with the turret as the ones before leave it."""

    def __init__(self, job: Job, known: Known) -> None:
        stock = fill_stock(job)
        assert isinstance(stock, BarStock)
        self._job, self._known, self._stock, self._turret = job, known, stock, turret_of(job)
        self._same = True
        """Is all before the holding planned as it was?"""

    def comes(self, holding: ChuckHolding, place: int, before: Sequence[PlannedHolding]) -> Came:
        """The part in a holding, behind those `before` it."""
        job, stock = self._job, self._stock
        if not before:
            outlines = {o.id: o for o in job.outlines if isinstance(o, TurnedOutline)}
            return self._came(stock, holding, place, stock.region(outlines, scale("mm", job.unit)))
        last = before[-1]
        self._same = self._same and self._known.whole(last)
        part = left_by(last.steps, last.turned)
        raw, bar = turned_round(part, stock.finished), turned_round(last.turned.untouched, stock.finished)
        stock = stock_turned_round(stock, raw, back=place % 2 == 1)
        if not holding.handed:
            self._turret = turret_of(job)
            return self._came(stock, holding, place, raw, (), _lost(before, tr("turned round by hand")), bar)
        self._turret.at_second = True
        at, troubles = _taken(last, holding)
        if at is None or raw.is_empty:
            return self._came(stock, holding, place, turned_round(last.turned.raw, self._stock.finished), troubles)
        gripped = msgspec.structs.replace(holding, stick_out=stock.front - at)
        hand = last.hand_over
        kept = hand is not None and getattr(hand.filled, "angle", "") == "kept"
        lost = "" if kept else _lost(before, tr("handed over without its angle"))
        return self._came(stock, gripped, place, raw, troubles, lost, bar)

    def _came(
        self,
        stock: BarStock,
        holding: ChuckHolding,
        place: int,
        raw: Region,
        troubles: Sequence[Trouble] = (),
        angle_lost: str = "",
        bar: Region = None,
    ) -> Came:
        full = fill_holding(self._job, holding, stock, place=place)
        assert isinstance(full, ChuckHolding)
        reach = self._second_reach(stock, place) if not full.handed else 0.0
        ctx = replace(turn_context(self._job, stock, full, raw), angle_lost=angle_lost, bar=bar, second_reach=reach)
        ctx = replace(ctx, turned_round=place % 2 == 1)
        return Came(stock, full, ctx, [*troubles] or full.troubles(stock, self._job.card.bush))

    def _second_reach(self, stock: BarStock, place: int) -> float:
        """How far out the jaws of the chuck opposite reach: as its own holding says, or as far as would be proposed there."""
        if not self._job.card.hands_over:
            return 0.0
        behind = self._job.holdings[place + 1 : place + 2]
        follows = [h for h in behind if isinstance(h, ChuckHolding) and h.handed]
        full = fill_holding(self._job, follows[0] if follows else ChuckHolding(), stock, place=place + 1)
        assert isinstance(full, ChuckHolding)
        return max(full.jaw_d or 0.0, 0.0) / 2

    def plan(self, steps: Sequence[AnyStep], came: Came, *, sound: bool) -> tuple[TurnedContext, tuple[PlannedStep, ...]]:
        """The steps of a holding into which the part came."""
        head = self._known.head(steps, came.holding) if self._same else []
        return plan_steps_turned(self._job, steps, came.ctx, came.holding, self._turret, head, sound=sound)


def _lost(before: Sequence[PlannedHolding], how: str) -> str:
    """Why the angle of what was milled before is not known; empty where nothing was."""
    milled = any(kind_of(done.step).driven and done.stages for held in before for done in held.steps)
    return tr("The part was {how}: at which angle stands what was milled before it, nobody knows.", how=how) if milled else ""


def _taken(last: PlannedHolding, holding: ChuckHolding) -> tuple[float | None, list[Trouble]]:
    """Where the face of the second chuck's jaws is on the part, from the zero on its back; and why it does not have it."""
    transfer = last.hand_over.transfer if last.hand_over is not None else None
    if transfer is None:
        there = next((p for p in last.steps if isinstance(p.step, HandOver)), None)
        why = (
            tr("The hand-over before it cannot be done.")
            if there is not None and there.step.on
            else tr("Nothing hands the part over.")
        )
        return None, [Trouble("follows", why)]
    if last.chuck.work_offset == holding.work_offset:
        text = tr("{work_offset} is the zero in the main chuck.", work_offset=holding.work_offset)
        return None, [Trouble("work_offset", text, other_offset(holding.work_offset))]
    return -transfer.grip - last.bar.finished, []
