"""A program of its own from a stage, or from a hole, of another one on: with its head, its tool, its speed and its way in as
every program has them, proved on the stock as the other one has left it there."""

from __future__ import annotations

from dataclasses import dataclass, replace

import msgspec

from bastler.job import Plan, PlannedHolding
from bastler.language import tr
from bastler.live.restarts import Restart, rows_of
from bastler.motion import Cycle, Go, Move
from bastler.nc import Trace, read
from bastler.post import Program, made
from bastler.proof import Prover
from bastler.proof.clockwork import timetable
from bastler.proof.result import AnyProof
from bastler.proof.turn.both import control_of
from bastler.steps import Stage


class NoRestart(ValueError):
    """Where no program of its own can begin; the message is a whole sentence."""


@dataclass(frozen=True)
class Restarted:
    """A program from a place on, the seconds that it takes, and the part as both together leave it."""

    program: Program
    seconds: float
    part: AnyProof


def restarted(plan: Plan, proof: AnyProof, place: Restart) -> Restarted:
    """The program of a proved holding from a place on. NoRestart where it has none, or where it is not proved to be safe."""
    held = proof.held
    if held is None or held.job.elsewhere is not None:
        raise NoRestart(tr("What came from elsewhere is taken up on the machine."))
    group = next(g for g in plan.programs if held in g)
    if len(group) > 1:
        raise NoRestart(tr("A program that hands the part over is taken up on the machine."))
    if len(held.parts) > 1:
        raise NoRestart(tr("Of several parts on the table those that are done are switched off, one by one."))
    if held.job.hand_edits(held.holding.id):
        raise NoRestart(tr("A program with hand edits is taken up on the machine: they hold for the whole of it."))
    program = made([_from(held, place)])
    trace = read(program.text, control_of([proof.scene]))
    row = _row(proof, place)
    whole = Trace.joined([proof.trace.between(0, row), trace])
    whole = replace(whole, events=tuple(msgspec.structs.replace(e, at=e.at + row) for e in trace.events))
    cut = Prover().run_on(plan, held.place, whole, proof.scene)  # type: ignore[arg-type]  # a scene is one of both
    stops = [f.text for f in trace.findings if f.level == "stop"]
    stops += [f.text for s in cut.stages for f in s.found if s.begin + f.move >= row and f.level == "stop"]
    if stops:
        raise NoRestart(tr("It is not proved from there on: {stops}", stops=stops[0]))
    return Restarted(program, timetable(trace, proof.scene.card)[2], cut)


def _row(proof: AnyProof, place: Restart) -> int:
    """The move of the whole program that the place begins with."""
    stage = next(s for s in proof.stages if (s.step, s.stage) == (place.step, place.stage))
    rows = rows_of(proof, stage)
    return rows[place.hole - 1] if 1 < place.hole <= len(rows) else stage.begin


def _from(held: PlannedHolding, place: Restart) -> PlannedHolding:
    """The holding without what is done before a place."""
    at = next(k for k, done in enumerate(held.steps) if done.step.id == place.step)
    here = held.steps[at]
    first = next((k for k, s in enumerate(here.stages) if isinstance(s, Stage) and s.name == place.stage), None)
    if first is None:
        raise NoRestart(tr("There is no such stage."))
    stages = list(here.stages)
    if place.hole > 1:
        stages[first] = _from_hole(stages[first], place.hole)
    steps = [*held.steps[:at], replace(here, stages=tuple(stages)), *held.steps[at + 1 :]]
    return replace(held, steps=tuple(steps), begins=(place.step, place.stage))


def _from_hole(stage: object, hole: int) -> Stage:
    """A stage that makes holes by a cycle, from one of them on."""
    cycle = next((m for m in stage.moves if isinstance(m, Cycle)), None) if isinstance(stage, Stage) else None
    if not isinstance(stage, Stage) or cycle is None or stage.side is not None or stage.copies or stage.plane != "flat":
        raise NoRestart(tr("Hole by hole a program begins only where a cycle makes them: take the whole stage."))
    points = cycle.points[hole - 1 :]
    (x, y), (_, _, z) = points[0], stage.start

    def moved(move: Move, first: bool) -> Move:
        if move is cycle:
            return msgspec.structs.replace(cycle, points=points)
        return Go(x, y, move.w) if first and isinstance(move, Go) else move

    before = stage.moves.index(cycle)
    moves = tuple(moved(move, k < before) for k, move in enumerate(stage.moves))
    return msgspec.structs.replace(stage, start=(x, y, z), moves=moves)
