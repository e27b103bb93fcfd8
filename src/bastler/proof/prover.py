"""Proves jobs, and again quickly after an edit: whatever follows from equal moves on equal stock is kept.

A run of moves with one tool is known by a digest of the moves and of what has been done to the stock where it reaches, never by
its text: a change in the header costs nothing, one in step 4 costs step 4 and what cuts there after it.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from bastler.job import Plan, PlannedHolding
from bastler.nc import ReadBefore, Stopped, Trace, read
from bastler.post import Program, Said, Section, post
from bastler.post.headed import headed
from bastler.proof.by_tool import figures_of
from bastler.proof.clockwork import timetable
from bastler.proof.leftovers import leftovers
from bastler.proof.mill.field_stock import Fields, FieldStock
from bastler.proof.mill.scene import MillScene
from bastler.proof.polar.polar_stock import PolarStock
from bastler.proof.result import AnyProof, Remembered
from bastler.proof.scenes import scene_of
from bastler.proof.stock import Ran, Stock
from bastler.proof.turn.barwork import first_part
from bastler.proof.turn.both import apart, control_of
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section_stock import SectionStock
from bastler.proof.verdict import all_remarks
from bastler.proof.whole import JobProof
from bastler.shapes.kinds import StopFlag

ANY_PROGRAM = Program(("",), (Section(0, 1),))
"""In the place of a program whose moves are what counts."""


class Prover:
    """Proves one job after another and remembers what did not change. Not for use by two threads at a time.

    `cell_mm` fixes the cell of a milled part's field; None lets it follow the part.
    """

    def __init__(self, cell_mm: float | None = None) -> None:
        self._kept = Remembered()
        self._fields = Fields(cell_mm)
        self._read: defaultdict[int, ReadBefore] = defaultdict(ReadBefore)
        """What the last program of each holding did, by its place."""
        self._said: defaultdict[int, Said] = defaultdict(Said)
        """What the last program of each holding said, by its place."""

    def prove(
        self,
        plan: Plan,
        texts: Mapping[int, Program] | None = None,
        stop: StopFlag | None = None,
        told: Callable[[float], None] = lambda share: None,
    ) -> JobProof | None:
        """The proof of a plan's own programs, or of other `texts` in the place of some, by the place of their holding. None when
        `stop[0]` was set meanwhile. `told` hears now and then how much of it is done, from 0 to 1."""
        stop = np.zeros(1, np.uint8) if stop is None else stop
        self._kept.begin()
        stocks: list[Stock] = []
        took: list[float] = []
        try:
            for group in plan.programs:
                began = time.perf_counter()
                for ran, scene in self._read_group(plan, group, texts or {}, stop, told):
                    stock = self._cut(ran, scene, stocks[-1] if stocks else None)
                    if stock is None:
                        return None
                    stocks.append(stock)
                    took.append(time.perf_counter() - began)
                    began = time.perf_counter()
        except Stopped:
            return None
        wanted = any(stock.wanted for stock in stocks)
        found = []
        for stock, lasted in zip(stocks, took, strict=True):
            began = time.perf_counter()
            proof = _told(stock, stocks[-1], wanted=wanted)
            found.append(replace(proof, took=lasted + time.perf_counter() - began))
        self._kept.forget()
        return JobProof(plan, tuple(found))

    def run_on(self, plan: Plan, place: int, trace: Trace, scene: MillScene | TurnScene) -> AnyProof:
        """What moves leave of the stock of a holding, in a scene of their own: that of a machine as it really is. Holdings before
        it are taken as planned. Nothing is said of it but what checks found. RuntimeError should it be stopped: nobody can."""
        self._kept.begin()
        stop = np.zeros(1, np.uint8)
        before: Stock | None = None
        for group in plan.programs:
            if group[0].place < place:
                for ran, own in self._read_group(plan, group, {}, stop, lambda share: None):
                    before = self._cut(ran, own, before) if ran.place < place else before
        times = timetable(trace, scene.card)
        stock = self._cut(Ran(plan, place, ANY_PROGRAM, False, trace, *times, self._kept, stop), scene, before)
        if stock is None:
            raise RuntimeError("A run nobody stopped did not finish.")
        self._kept.forget()
        return stock.proof(stock)

    def _read_group(
        self,
        plan: Plan,
        group: Sequence[PlannedHolding],
        texts: Mapping[int, Program],
        stop: StopFlag,
        told: Callable[[float], None],
    ) -> Iterator[tuple[Ran, Any]]:
        """The program of some holdings read, as each of them sees it. Stopped is raised while reading."""
        first = group[0]
        text = next((texts[held.place] for held in group if held.place in texts), None)
        program = text or post(group, self._said[first.place])
        scenes = [scene_of(plan, held.place) for held in group]
        trace = read(
            program.text,
            control_of(scenes),
            stop=stop,
            before=self._read[first.place],
            breaks=[section.first for section in program.sections],
        )
        whole = list(apart(trace, len(group)))
        ones = [first_part(p, s, program) if isinstance(s, TurnScene) else (p, None) for s, p in zip(scenes, whole, strict=True)]
        parts = [part for part, _ in ones]
        times = [timetable(part, scene.card) for scene, part in zip(scenes, parts, strict=True)]
        if text is None and first.job.elsewhere is None:
            lasts = [lasts for _, lasts, _ in times]
            program = headed(program, group, figures_of(list(zip(group, parts, lasts, strict=True))))
        for held, scene, (part, bar), when in zip(group, scenes, ones, times, strict=True):

            def done(moves: int, place: int = held.place, many: int = len(part)) -> None:
                told((place + moves / max(many, 1)) / len(plan.holdings))

            yield Ran(plan, held.place, program, text is None, part, *when, self._kept, stop, done, bar), scene

    def _cut(self, ran: Ran, scene: Any, before: Stock | None) -> Stock | None:
        """Runs a holding's program on the part as the one before left it; None when stopped."""
        stock: Stock
        if isinstance(scene, TurnScene):
            came = before.goes_on() if isinstance(before, SectionStock) else None
            scene = scene if came is None else scene.with_part(came.part, angle_lost=came.angle_lost)
            milled = came is not None and came.rays is not None
            driven = ran.trace.stands.any() or scene.planes or scene.rounds or milled
            stock = PolarStock(ran, scene, came) if driven else SectionStock(ran, scene)
        else:
            stock = FieldStock(ran, scene, self._fields, before)
        whole = True
        for run in stock.runs:
            whole = whole and stock.cut(run) and not ran.stop[0]
            ran.told(run[1])
        return stock if stock.ready() and whole else None


def _told(stock: Stock, last: Stock, *, wanted: bool) -> AnyProof:
    """The proof of a holding, with all there is to say."""
    proof, ran = stock.proof(last), stock.ran
    said = stock.differences(proof)
    if wanted or not ran.own:
        said += leftovers(proof, ran.asked)
    return replace(proof, remarks=all_remarks(proof, ran.asked, said), held=ran.held)


def prove_whole(
    plan: Plan,
    texts: Mapping[int, Program] | None = None,
    cell_mm: float | None = None,
    told: Callable[[float], None] = lambda share: None,
) -> JobProof:
    """One proof of a job from nothing; `told` as in `Prover.prove`. RuntimeError should it be stopped: nobody can."""
    proof = Prover(cell_mm).prove(plan, texts, told=told)
    if proof is None:
        raise RuntimeError("A proof nobody stopped did not finish.")
    return proof


def prove_job(plan: Plan, program: Program | None = None, cell_mm: float | None = None, place: int = 0) -> Any:
    """One proof of a holding from nothing, with its own program or another text in its place; the other holdings have their
    own."""
    return prove_whole(plan, {place: program} if program else None, cell_mm).holdings[place]
