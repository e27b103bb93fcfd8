"""A half section that a turning program is cut out of."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

import shapely

from bastler.job.turn_planning import foremost, turned_round
from bastler.language import tr
from bastler.nc import Trace
from bastler.proof.polar.dexels import Dexels
from bastler.proof.remark import Remark
from bastler.proof.result import Run, StageResult, digest, moves_key, runs
from bastler.proof.stock import Ran, Stock
from bastler.proof.turn.allowances import allowances_kept
from bastler.proof.turn.barwork import bar_remarks
from bastler.proof.turn.bends import check
from bastler.proof.turn.bush import bush_remarks
from bastler.proof.turn.centred import centre_remarks, centred, in_at
from bastler.proof.turn.checks import TurnView
from bastler.proof.turn.compare import compared
from bastler.proof.turn.differences import differences
from bastler.proof.turn.handing import angle_kept
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section import FEELS_MM, TurnSection, prove_section
from bastler.proof.turn.threads import thread_faults
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Region
from bastler.shapes.united import united
from bastler.units import Kind, with_unit


@dataclass(frozen=True, eq=False)
class Went:
    """The part as it goes on into another holding, as that sees it; whether anybody knows at which angle it stands; and where
    driven tools have cut it, what makes its rays, with a `key` for them."""

    part: Region
    angle_lost: bool
    rays: Callable[[], Dexels] | None = None
    key: bytes = b""


class SectionStock:
    """The half section as the runs so far leave it. Runs of equal moves on equal stock are remembered."""

    def __init__(self, ran: Ran, scene: TurnScene) -> None:
        self.ran, self.scene = ran, scene
        self.runs: Sequence[Run] = runs(ran.program, ran.trace)
        self.stages: list[StageResult[TurnSection]] = []
        self.now = scene.raw
        kept_out = [name + region.wkt for name, region in scene.keep_out]
        raw = digest(shapely.to_wkb(scene.raw), *kept_out, repr(scene.card), repr(scene.material), scene.unit)
        self.centred = centred(ran, scene)
        self._around = digest(raw, scene.zero, scene.rating, scene.length, scene.back, sorted(scene.parts))
        self._stands = digest(shapely.to_wkb(scene.raw))

    @property
    def wanted(self) -> bool:
        return bool(self.scene.wanted)

    def cut(self, run: Run) -> bool:
        begin, end, step, stage = run
        ran, trace, before = self.ran, self.ran.trace, self.now
        scene, centre = self.beside(begin, end)
        tool = scene.tools.get(int(trace.tool[begin]))
        turned = _spindle_key(trace, begin, end)
        # by what stands, not by how it came to be: another feed leaves the same part behind it
        where = trace.w[begin:end].tobytes() if trace.shoves.any() else b""
        pulled = trace.pulled[begin:end].tobytes() if trace.pulled[begin:end].any() else b""
        moves = moves_key(trace, begin, end)
        key = digest(self._around, self._stands, moves, turned, repr(tool), step, stage, where, centre, pulled)

        def work() -> Any:
            proof = prove_section(scene, before, trace, begin, end, ran.lasts, ran.stop)
            return proof and (proof, check.run(TurnView(scene, trace, begin, end, proof, before, step, stage), apart=False))

        made = ran.kept.keep(key, work)
        if made is None:
            return False
        proof, found = made
        off = any(s.proof.fallen for s in self.stages)
        found += check.run(TurnView(scene, trace, begin, end, proof, before, step, stage, off), apart=True)
        if proof.after is not self.now:
            self.now, self._stands = proof.after, digest(shapely.to_wkb(proof.after))
        self.stages.append(ran.result(run, proof, found, key))
        return True

    def beside(self, begin: int, end: int) -> tuple[TurnScene, bytes]:
        """The scene as it is in some moves, with the tailstock's centre where that has come in, and a key for that."""
        centre = in_at(self.centred, begin, end)
        if centre is None:
            return self.scene, b""
        return replace(self.scene, keep_out=(*self.scene.keep_out, ("tailstock", centre))), shapely.to_wkb(centre)

    def ready(self) -> bool:
        return True

    @property
    def whole(self) -> Region:
        """What is still held, and what was parted off."""
        fallen = [g for s in self.stages for g in s.proof.fallen]
        return united([self.now, *fallen]) if fallen else self.now

    @property
    def goes(self) -> Region:
        """What goes on into the next holding: of several pieces that in front, which was parted off."""
        return foremost(self.whole)

    @property
    def pushed(self) -> float:
        """How much farther out the front is than was planned, where a seat has met it: so much farther back the part then is."""
        hand, part = self.ran.held.hand_over, self.goes
        if hand is None or part.is_empty or not any(event.what == "skip" for event in self.ran.trace.events):
            return 0.0
        return float(part.bounds[2]) - hand.turned.front

    def goes_on(self) -> Went:
        """The part for the next holding."""
        trace, length = self.ran.trace, self.scene.length
        milled = self.scene.angle_lost or bool(trace.stands.any())
        return Went(turned_round(self.goes, length, self.pushed), milled and not angle_kept(trace))

    def proof(self, last: Stock) -> TurnProof:
        part = self.whole
        key = digest("compare", shapely.to_wkb(part), *_wanted_keys(self.scene))
        ran = self.ran
        return TurnProof(
            scene=self.scene,
            program=ran.program,
            trace=ran.trace,
            stages=self.stages,
            starts=ran.starts,
            lasts=ran.lasts,
            total=ran.total,
            comparison=ran.kept.keep(key, lambda: compared(self.scene, part)),
            part=part,
        )

    def differences(self, proof: TurnProof) -> list[Remark]:
        found = [*differences(proof, self.ran.asked), *self._short(), *centre_remarks(self.ran, self.scene)]
        found += bush_remarks(self.scene, proof.trace, proof.stages)
        found += bar_remarks(self.ran.bar, self.scene, self.now, self.goes, self.ran.trace)
        if proof.trace.cut:
            return found
        return [*found, *thread_faults(self.scene, proof), *allowances_kept(self.scene, proof)]

    def _short(self) -> Iterator[Remark]:
        """A part that was turned round and ends before its finished face: nothing is left of it, and it is too short."""
        part, scene = self.goes, self.scene
        if not self.ran.place or part.is_empty or part.bounds[2] >= -FEELS_MM * scene.mm:
            return
        z0, _, z1, _ = part.bounds
        long, short = (with_unit(float(value), Kind.LENGTH, scene.unit) for value in (z1 - z0, -z1))
        text = tr("The part is {long} long, {short} short of its finished length.", long=long, short=short)
        yield Remark(level="stop", code="short-part", text=text, amount=float(-z1), place=(0.0, 0.0, float(z1)))


def _spindle_key(trace: Trace, begin: int, end: int) -> bytes:
    """A key for how the spindle turns as a run begins, and how it is turned about within it."""
    return digest(
        int(trace.turning[begin]),
        *(f"{e.at - begin} {e.value}" for e in trace.events if e.what == "spindle" and begin < e.at <= end),
    )


def _wanted_keys(scene: TurnScene) -> Iterator[bytes]:
    """Keys for all that the part is compared with."""
    yield shapely.to_wkb(scene.raw)
    for w in scene.wanted:
        yield from (f"{w.step} {w.nose} {w.led}".encode(), *(shapely.to_wkb(r) for r in w.regions))
        yield shapely.to_wkb(w.thread) if w.thread is not None else b"no thread"
    for p in scene.promised:
        yield f"{p.where} {p.stays}".encode() + shapely.to_wkb(p.region)
