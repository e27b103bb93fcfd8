"""Proves turning programs, and again quickly after an edit: stages of equal moves on equal stock are kept."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from bastler.job import Plan
from bastler.nc import Stopped, Trace, read
from bastler.post import Program, post
from bastler.proof.clockwork import timetable
from bastler.proof.leftovers import leftovers
from bastler.proof.remark import Cure, Remark
from bastler.proof.result import Kept, Proof, StageResult, digest, moves_key, runs
from bastler.proof.turn.checks import TurnView, check
from bastler.proof.turn.compare import TurnComparison, compared
from bastler.proof.turn.reach import what_reaches
from bastler.proof.turn.scene import TurnScene, turn_scene
from bastler.proof.turn.section import TurnSection, prove_section
from bastler.proof.turn.threads import thread_faults
from bastler.proof.verdict import all_remarks
from bastler.shapes.united import united
from bastler.units import Kind, with_unit

MOST_FAULTS = 8


@dataclass(frozen=True, kw_only=True)
class TurnProof(Proof):
    """The proof of a turned part: its half sections and how the last compares with the wanted one."""

    comparison: TurnComparison
    part: Any
    """What is there at the end: what is still held, and what was parted off."""

    def after(self, stage: int) -> Any:
        """The stock after a stage, -1 for the raw stock; what fell off stays in the picture."""
        held = self.stages[stage].proof.after if stage >= 0 else self.scene.raw
        fallen = [g for s in self.stages[: stage + 1] for g in s.proof.fallen]
        return shapely.MultiPolygon([held, *fallen]) if fallen and not held.is_empty else held


class TurnProver:
    """Proves one job after another and remembers. Not for use by two threads at a time."""

    def __init__(self) -> None:
        self._kept = Kept()

    def prove(self, plan: Plan, program: Program | None = None, stop: Any = None) -> TurnProof | None:
        """The proof of a plan's own program, or of another text in its place. None when `stop[0]` was set meanwhile."""
        began = time.perf_counter()
        scene = turn_scene(plan)
        own = program is None
        program = program or post(plan)
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
            plan=plan,
        )
        said = differences(result, plan if own else None)
        said += [] if trace.cut else thread_faults(scene, part)
        said += leftovers(result, plan if own else None, comparison.unkept) if scene.wanted or not own else []
        remarks = all_remarks(result, plan if own else None, said)
        self._kept.forget()
        return replace(result, remarks=remarks, took=time.perf_counter() - began)

    def _stages(
        self, scene: TurnScene, program: Program, trace: Trace, seconds: Any, starts: Any, stop: Any
    ) -> list[StageResult] | None:
        key = digest(
            shapely.to_wkb(scene.raw), *(n + r.wkt for n, r in scene.keep_out), repr(scene.card), repr(scene.material), scene.unit
        )
        key = digest(key, scene.zero, scene.rating, scene.length, scene.back, sorted(scene.parts))
        stock = scene.raw
        results: list[StageResult] = []
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
        yield from (f"{w.step} {w.nose}".encode(), *(shapely.to_wkb(r) for r in w.regions))
        yield shapely.to_wkb(w.thread) if w.thread is not None else b"no thread"
    for p in scene.promised:
        yield f"{p.where} {p.stays}".encode() + shapely.to_wkb(p.region)


def _whole(scene: TurnScene, stages: Sequence[StageResult]) -> Any:
    """All there is at the end."""
    held = stages[-1].proof.after if stages else scene.raw
    fallen = [g for s in stages for g in s.proof.fallen]
    return united([held, *fallen]) if fallen else held


def differences(proof: TurnProof, plan: Plan | None) -> list[Remark]:
    """Left and gouged, in words."""
    found = []
    for fault in sorted(proof.comparison.faults, key=lambda f: -f.by)[:MOST_FAULTS]:
        by = with_unit(fault.by, Kind.LENGTH, proof.scene.unit)
        where = f"Ø{2 * fault.place[0]:.2f} Z {fault.place[2]:.2f}"
        if fault.kind == "left":
            found.append(_left(proof, plan, fault, by, where))
        else:
            found.append(proof.gouged(culprit(proof, fault.region), f"Gouged at {where}: {by} too deep.", fault.by, fault.place))
    return found


def _left(proof: TurnProof, plan: Plan | None, fault: Any, by: str, where: str) -> Remark:
    """What still stands; where a tip could not reach it, with the tool that would."""
    reach = what_reaches(plan, fault) if plan else None
    if reach is None:
        return Remark(
            level="stop",
            code="left",
            text=f"Left standing at {where}: {by}.",
            step=fault.step,
            amount=fault.by,
            place=fault.place,
        )
    text = f"The tip leaves {by} at {where}: {reach.why}"
    cure = None
    if reach.tool is not None:
        text += f" {reach.tool.says} would reach."
        cure = Cure(f"Use {reach.tool.says}", f"step:{fault.step}.tool", reach.tool.id)
    return Remark(level="stop", code="tip-reach", text=text, step=fault.step, amount=fault.by, place=fault.place, cure=cure)


def culprit(proof: TurnProof, region: Any) -> int:
    """The move that took the most of a region first; -1 when none did."""
    before = proof.scene.raw.intersection(region).area
    for stage in proof.stages:
        section: TurnSection = stage.proof
        if section.after.intersection(region).area > before - 1e-9:
            continue
        area, worst, at = before, 0.0, 0
        for k, stock in enumerate(section.stocks):
            now = stock.intersection(region).area if k == 0 or stock is not section.stocks[k - 1] else area
            if area - now > worst + 1e-12:
                worst, at = area - now, k
            area = now
        if worst > 0.2 * before:
            return stage.begin + at
        before = area
    return -1
