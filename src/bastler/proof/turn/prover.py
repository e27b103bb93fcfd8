"""Proves turning programs, and again quickly after an edit: stages of equal moves on equal stock are kept."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from bastler.job import PlannedHolding
from bastler.nc import Stopped, Trace, read
from bastler.post import Program, post
from bastler.proof.clockwork import timetable
from bastler.proof.leftovers import leftovers
from bastler.proof.result import Remembered, StageResult, digest, moves_key, runs
from bastler.proof.turn.checks import TurnView, check
from bastler.proof.turn.compare import compared
from bastler.proof.turn.differences import differences
from bastler.proof.turn.scene import TurnScene, turn_scene
from bastler.proof.turn.section import TurnSection, prove_section
from bastler.proof.turn.threads import thread_faults
from bastler.proof.turn.turned import TurnProof
from bastler.proof.verdict import all_remarks
from bastler.shapes.united import united


class TurnProver:
    """Proves one job after another and remembers. Not for use by two threads at a time."""

    def __init__(self) -> None:
        self._kept = Remembered()

    def prove(self, held: PlannedHolding, program: Program | None = None, stop: Any = None) -> TurnProof | None:
        """The proof of a plan's own program, or of another text in its place. None when `stop[0]` was set meanwhile."""
        began = time.perf_counter()
        scene = turn_scene(held)
        own = program is None
        program = program or post(held)
        stop = np.zeros(1, np.uint8) if stop is None else stop
        try:
            trace = read(program.text, scene.control, stop=stop)
        except Stopped:
            return None
        self._kept.begin()
        starts, seconds, total = timetable(trace, scene.card)
        stages = self._stages(scene, program, trace, seconds, starts, stop)
        if stages is None:
            return None
        part = _whole(scene, stages)
        key = digest("compare", stages[-1].key if stages else b"", *_wanted_keys(scene))
        comparison = self._kept.keep(key, lambda: compared(scene, part))
        result = TurnProof(
            scene=scene,
            program=program,
            trace=trace,
            stages=stages,
            starts=starts,
            lasts=seconds,
            total=total,
            comparison=comparison,
            part=part,
            held=held,
        )
        said = differences(result, held if own else None)
        said += [] if trace.cut else thread_faults(scene, part)
        said += leftovers(result, held if own else None, comparison.unkept) if scene.wanted or not own else []
        remarks = all_remarks(result, held if own else None, said)
        self._kept.forget()
        return replace(result, remarks=remarks, took=time.perf_counter() - began)

    def _stages(
        self, scene: TurnScene, program: Program, trace: Trace, seconds: Any, starts: Any, stop: Any
    ) -> list[StageResult[TurnSection]] | None:
        key = digest(
            shapely.to_wkb(scene.raw), *(n + r.wkt for n, r in scene.keep_out), repr(scene.card), repr(scene.material), scene.unit
        )
        key = digest(key, scene.zero, scene.rating, scene.length, scene.back, sorted(scene.parts))
        stock = scene.raw
        results: list[StageResult[TurnSection]] = []
        for begin, end, step, stage in runs(program, trace):
            tool = scene.tools.get(int(trace.tool[begin]))
            key = digest(key, moves_key(trace, begin, end), _spindle_key(trace, begin, end), repr(tool), step, stage)
            before = stock

            def work(begin: int = begin, end: int = end, step: str = step, stage: str = stage, before: Any = before) -> Any:
                proof = prove_section(scene, before, trace, begin, end, seconds, stop)
                return proof and (proof, check.run(TurnView(scene, trace, begin, end, proof, before, step, stage)))

            made = self._kept.keep(key, work)
            if made is None or stop[0]:
                return None
            proof, found = made
            stock = proof.after
            t1 = float(starts[end - 1] + seconds[end - 1])
            results.append(
                StageResult(step, stage, int(trace.tool[begin]), begin, end, float(starts[begin]), t1, proof, found, key)
            )
        return results


def _spindle_key(trace: Trace, begin: int, end: int) -> bytes:
    """A key for how the spindle is turned about within a run."""
    return digest(*(f"{e.at - begin} {e.value}" for e in trace.events if e.what == "spindle" and begin < e.at <= end))


def _wanted_keys(scene: TurnScene) -> Iterator[bytes]:
    """Keys for all that the part is compared with."""
    yield shapely.to_wkb(scene.raw)
    for w in scene.wanted:
        yield from (f"{w.step} {w.nose} {w.led}".encode(), *(shapely.to_wkb(r) for r in w.regions))
        yield shapely.to_wkb(w.thread) if w.thread is not None else b"no thread"
    for p in scene.promised:
        yield f"{p.where} {p.stays}".encode() + shapely.to_wkb(p.region)


def _whole(scene: TurnScene, stages: Sequence[StageResult[TurnSection]]) -> Any:
    """All there is at the end."""
    held = stages[-1].proof.after if stages else scene.raw
    fallen = [g for s in stages for g in s.proof.fallen]
    return united([held, *fallen]) if fallen else held
