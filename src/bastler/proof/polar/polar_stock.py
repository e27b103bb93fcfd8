"""A turned part that driven tools cut too: a half section while it turns, polar dexels from the first driven cut on."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from functools import cached_property, partial
from typing import Any

import numpy as np
import shapely

from bastler.language import tr
from bastler.nc import RAPID, Trace
from bastler.nc.trace import about_axis
from bastler.proof.found import Found
from bastler.proof.mill.differences import Compared
from bastler.proof.mill.field_stock import removals_key
from bastler.proof.mill.segments import pieces
from bastler.proof.mill.walled import Moves
from bastler.proof.polar.by_rays import angle_of, gouged, left_round
from bastler.proof.polar.checks import PolarView, check
from bastler.proof.polar.compared import ComparedPlane, compared_plane
from bastler.proof.polar.culprit import culprit
from bastler.proof.polar.dexels import Dexels, Packed, boundary
from bastler.proof.polar.planes import CutPlane
from bastler.proof.polar.run import comes_to, prove_driven, reach_beside
from bastler.proof.remark import Remark
from bastler.proof.result import Run, digest, moves_key
from bastler.proof.scene import WantedStep
from bastler.proof.stock import Ran, Stock
from bastler.proof.turn.compare import TOLERANCE_MM, Amounts, DrivenFault
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section_stock import SectionStock, Went
from bastler.proof.turn.sweep import volume
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.united import united
from bastler.steps.place import FINE
from bastler.tools import Tool
from bastler.units import Kind, grouped, with_unit

CHORD_MM = 0.1
"""How far chords may leave arcs where it is only asked which slabs a tool comes to; slabs as much beside it count."""
AS_NEAR = 0.51
"""Of the resolution of C: so far from a wanted angle it may stand."""
KEPT_OUT_MM = 0.5
"""The cell of jaws, chuck and tailstock."""
INTERRUPTED = 0.005
"""The share of a turned cut that was milled away before, from which on it is told."""
SHOULDER = 1e-3
"""A line that goes along the axis by no more than this share of how far it goes out is a shoulder."""


class PolarStock(SectionStock):
    """Turning goes on in the half section, as if nothing were milled; what it takes there is taken all round.

    What a run of equal moves does is kept, where the slabs that it reaches are as they were: an edit cuts again what it is of and
    what comes there after it.
    """

    def __init__(self, ran: Ran, scene: TurnScene, came: Went | None = None) -> None:
        """`came` is the part as it comes into the holding, where there is one before."""
        super().__init__(ran, scene)
        self.came: Packed | None = None
        self._packed: Packed | None = None
        """The rays as the runs so far leave them; None before the first driven one."""
        self._live: tuple[Packed, Dexels] | None = None
        """The rays to be cut, and which packed ones they are."""
        self._base = b""
        """A key for them as they begin."""
        self._changes: list[tuple[int, int, bytes]] = []
        """What has changed them since: from which slab to before which, and a key for it."""
        self._reached: Region = shapely.Polygon()
        self._planes: list[ComparedPlane] = []
        """The planes of the part, and where driven tools go on after it has fallen off, those of what is left in the chuck."""
        self._after: list[Run] = []
        """The runs after something has fallen off."""
        self._by_rays: Sequence[DrivenFault] = ()
        if came is not None and came.rays is not None and not scene.raw.is_empty:
            self._goes_on_from(came.rays, came.key)

    def _goes_on_from(self, came: Callable[[], Dexels], key: bytes) -> None:
        """Begins with the part as it came, all of it."""
        z0, r0, z1, r1 = self.scene.raw.bounds
        self._reached = shapely.box(z0 - 1.0, r0 - 1.0, z1 + 1.0, r1 + 1.0)
        floors = self._floors(0)
        self._base = digest("came", key, shapely.to_wkb(self.scene.raw), floors.tobytes())

        def work() -> Packed:
            before = came()
            made = Dexels.of(self.scene.raw, [*before.edges, *floors], self.scene.mm, rays=len(before.count))
            made.with_slabs_of(before)
            return Packed.of(made)

        self._packed = self.came = self.ran.kept.keep(self._base, work)

    def goes_on(self) -> Went:
        """The part for the next holding, with its rays."""
        went = super().goes_on()
        if self._packed is None:
            return went
        by = self.pushed - self.scene.length
        key = digest("went", self._state(0, len(self._packed.edges)), by)
        return replace(went, rays=lambda: self._rays().turned_round(by), key=key)

    def cut(self, run: Run) -> bool:
        begin, end, step, stage = run
        ran, scene, trace = self.ran, self.scene, self.ran.trace
        if not trace.stands[begin]:
            before = self.now
            done = super().cut(run)
            if done and self._packed is not None and self.now is not before:
                self._turned(before)
            return done
        if self._packed is None:
            seen, floors = self._seen(self.now, begin), self._floors(begin)
            self._base = digest("rays", shapely.to_wkb(seen), floors.tobytes())
            self._packed = ran.kept.keep(self._base, lambda: Packed.of(Dexels.of(seen, floors, scene.mm)))
        tool = scene.tools.get(int(trace.tool[begin]))
        if any(done.proof.fallen for done in self.stages):
            self._after.append(run)
        before, moves = self._packed, moves_key(trace, begin, end)
        state = self._state(*before.slabs(*self._along(run, bodies=True)))
        beside, centre = self.beside(begin, end)
        key = digest(self._around, state, self._stands, moves, repr(tool), step, stage, centre)

        def work() -> Any:
            rays = self._rays()
            self._live = None  # they are cut from now on
            keep = self._keep_out if beside is scene else self._kept_out(beside.keep_out)
            made = prove_driven(scene, rays, before, keep, self.now, trace, begin, end, ran.lasts, ran.stop)
            self._live = (made.behind, rays) if made is not None else None
            return made and (made, check.run(PolarView(scene, trace, begin, end, made), apart=False))

        found = ran.kept.keep(key, work)
        if found is None:
            return False
        proof, said = found
        if proof.before is not before:  # what it changed is laid over what there is now
            proof = replace(proof, before=before, behind=before.with_patch(proof.behind, proof.before))
        if proof.behind is not before:
            self._changes.append((proof.behind.first, proof.behind.last, key))
        self._packed = proof.behind
        said = said + check.run(PolarView(scene, trace, begin, end, proof), apart=True)
        result: Any = ran.result(run, proof, said, key)
        self.stages.append(result)
        return True

    def _state(self, first: int, last: int) -> bytes:
        """A key for some slabs of the rays as they are now."""
        return digest(self._base, *(key for a, b, key in self._changes if a < last and b > first))

    def _rays(self) -> Dexels:
        """The rays as they are now, to be cut."""
        assert self._packed is not None
        if self._live is None or self._live[0] is not self._packed:
            self._live = (self._packed, self._packed.dexels())
        return self._live[1]

    def _turned(self, before: Any) -> None:
        """What turning has taken since is gone all round; where something was milled already the cut was interrupted."""
        stage = self.stages[-1]
        gone = before.difference(united([self.now, *stage.proof.fallen]))  # what has fallen off is still a part
        if gone.is_empty:
            return
        assert self._packed is not None
        every = (0, len(self._packed.edges) - 1)
        key = digest("turned", self._state(*every), shapely.to_wkb(gone))

        def work() -> tuple[float, Packed]:
            rays = self._rays()
            taken = rays.turned(gone)
            packed = Packed.of(rays)
            self._live = (packed, rays)
            return taken, packed

        taken, self._packed = self.ran.kept.keep(key, work)
        self._changes.append((*every, key))
        if taken < (1 - INTERRUPTED) * volume(gone.intersection(self._reached)):
            text = tr("Turns over what was milled before: the cut is interrupted.")
            note = Found("note", "interrupted-cut", text, int(np.argmax(stage.proof.cut[:, 0])))
            self.stages[-1] = replace(stage, found=(*stage.found, note))

    def _seen(self, section: Region, begin: int) -> Region:
        """The section from where driven tools come to: behind that nothing is asked of dexels."""
        trace, mm = self.ran.trace, self.scene.mm
        if section.is_empty:
            return section
        z0, r0, z1, r1 = section.bounds
        low, _ = trace.extremes
        reach = z1 - mm
        for first, end, _, _ in self.runs:
            tool = self.scene.tools.get(int(trace.tool[first]))
            if first < begin or not trace.stands[first] or not isinstance(tool, Tool):
                continue
            wide = max(tool.diameter, tool.shank_diameter, tool.holder.diameter) / 2 if tool.stands == "radial" else 0.0
            reach = min(reach, float(low[first:end, 2].min()) - wide - mm)
        self._reached = shapely.box(max(z0, reach), r0 - 1.0, z1 + 1.0, r1 + 1.0)
        return section.intersection(self._reached)

    def _floors(self, begin: int) -> Floats:
        """The lengths at which something along the axis will end: where tips along it stand or go level, sides of tools
        across it that go level or straight in, and shoulders that are still to be turned. Between the ends of a slope it is
        steps of a slab."""
        trace, tools = self.ran.trace, self.scene.tools
        found = [trace.end[begin:begin, 2]]
        level = trace.start[begin:, 2] == trace.end[begin:, 2]
        level |= (trace.start[begin:, :2] == trace.end[begin:, :2]).all(axis=1)
        here = trace.line[begin:]
        last = np.append(here[1:] != here[:-1], np.ones(min(len(here), 1), np.bool_))  # of chords of one line its end alone
        ways = about_axis((trace.end - trace.start)[begin:], -np.radians(trace.angle[begin:, 0]))
        last &= (np.abs(ways[:, 0]) < 1e-6 * self.scene.mm) | (ways[:, 2] == 0.0)
        for number in np.unique(trace.tool[begin:]).tolist():
            tool, mine = tools.get(number), trace.stands[begin:] & (trace.tool[begin:] == number)
            own = trace.end[begin:, 2]
            if isinstance(tool, Tool):
                radius = tool.diameter / 2
                if tool.stands == "radial":
                    ends = own[mine & last]
                    found += [ends - radius, ends + radius]
                else:
                    found += [own[mine & level], own[mine & level] + tool.profile.tall]
        lines = np.concatenate([np.zeros((0, 4)), *(boundary(region) for w in self.scene.wanted for region in w.regions)])
        found.append(lines[np.abs(lines[:, 0] - lines[:, 2]) < SHOULDER * np.abs(lines[:, 1] - lines[:, 3]), 0])
        levels: Floats = np.unique(np.round(np.concatenate(found) / self.scene.mm, 6)) * self.scene.mm
        return levels

    @cached_property
    def _keep_out(self) -> Mapping[str, Dexels]:
        """Those that are always there."""
        return self._kept_out(self.scene.keep_out)

    def _kept_out(self, every: Sequence[tuple[str, Any]]) -> Mapping[str, Dexels]:
        """Jaws, chuck, steady and tailstock, of one name together, as far out as tools come."""
        trace, tools = self.ran.trace, [tool for tool in self.scene.tools.values() if isinstance(tool, Tool)]
        wide = max((max(t.diameter, t.shank_diameter, t.holder.diameter) for t in tools), default=0.0)
        wide += max((reach_beside(self.scene, t) for t in tools), default=0.0)
        far = max(float(np.hypot(places[:, 0], places[:, 1]).max(initial=0.0)) for places in (trace.start, trace.end)) + wide
        regions: dict[str, list[Any]] = {}
        for name, region in every:
            z0, r0, z1, _ = region.bounds
            near = region.intersection(shapely.box(z0 - 1.0, r0 - 1.0, z1 + 1.0, far))
            if not near.is_empty:
                regions.setdefault(name, []).append(near)
        return {name: Dexels.of(shapely.union_all(own), (), self.scene.mm, KEPT_OUT_MM) for name, own in regions.items()}

    @property
    def wanted(self) -> bool:
        return super().wanted or bool(self.scene.planes or self.scene.rounds)

    def ready(self) -> bool:
        later = [run for run in self.runs if run in self._after]
        before = [run for run in self.runs if run not in later]
        for part, wanted, runs in ((self.whole, self.scene.planes, before), (self.now, {}, later)):
            cuts = self._cuts(runs)
            sides = dict.fromkeys([*wanted, *cuts])
            for side in () if part.is_empty else sides:
                found = self._compared(part, CutPlane(side), wanted.get(side, ()), cuts.get(side, ()))
                if found is None:
                    return False
                self._planes.append(found)
        return not self.ran.stop[0]

    def _cuts(self, runs: Sequence[Run]) -> dict[float | None, list[tuple[int, int]]]:
        """The moves of driven tools by the plane that they are on: of those along the axis the end face, of those across it the
        side at the angle at which C stands. What goes round with C is on none."""
        trace, found = self.ran.trace, dict[float | None, list[tuple[int, int]]]()
        rounds = {one.step for one in self.scene.rounds}
        for run in runs:
            begin, end, how = run[0], run[1], self._driven(run)
            if how == "axial":
                found.setdefault(None, []).append((begin, end))
            elif how == "radial" and run[2] not in rounds and not self._goes_round(begin, end):
                angles = np.round(trace.angle[begin:end] % 360.0, FINE) % 360.0
                angles[angles[:, 0] != angles[:, 1]] = np.nan
                marks = np.flatnonzero(np.append(True, angles[1:, 0] != angles[:-1, 0]))
                for a, b in itertools.pairwise([*marks.tolist(), end - begin]):
                    if not np.isnan(angles[a, 0]):
                        found.setdefault(self._wanted_angle(float(angles[a, 0])), []).append((begin + a, begin + b))
        return found

    def _wanted_angle(self, angle: float) -> float:
        """The angle of a side that something is wanted of, where C stands as near to that as it can; else the same."""
        c, sides = self.scene.card.c, [side for side in self.scene.planes if side is not None]
        off = [abs((side - angle + 180.0) % 360.0 - 180.0) for side in sides]
        if c is None or min(off, default=360.0) > AS_NEAR * c.resolution:
            return angle
        return sides[int(np.argmin(off))]

    def _along(self, run: Run, *, bodies: bool = False) -> tuple[float, float]:
        """From where to where along the axis the tool of a run cuts, or all of it comes to with its shank and holder."""
        begin, end, _, _ = run
        tool, trace = self.scene.tools.get(int(self.ran.trace.tool[begin])), self.ran.trace
        assert self._packed is not None
        if not isinstance(tool, Tool):
            return 0.0, -np.inf
        fine = CHORD_MM * self.scene.mm
        segments, _ = pieces(trace, begin, end, chord=fine, longest=np.inf)
        outer = self._packed.outer + fine
        beside = reach_beside(self.scene, tool)
        low, high = comes_to(tool, segments[:, :3], segments[:, 3:], outer, bodies=bodies, beside=beside)
        return low - fine, high + fine

    def _goes_round(self, begin: int, end: int) -> bool:
        """Does C turn while a tool cuts?"""
        trace = self.ran.trace
        swings = trace.angle[begin:end, 0] != trace.angle[begin:end, 1]
        return bool((swings & (trace.kind[begin:end] != RAPID)).any())

    def _compared(
        self, part: Region, plane: CutPlane, wanted: Sequence[WantedStep], cuts: Sequence[tuple[int, int]]
    ) -> ComparedPlane | None:
        ran, trace = self.ran, plane.trace(self.ran.trace)
        moves = [self._moves(trace, *rows) for rows in cuts]
        made = [(move.key, repr(move.tool)) for move in moves], [(w.step, removals_key(w.removals)) for w in wanted]
        key = digest("plane", plane.side, shapely.to_wkb(part), made, self.scene.unit)
        work = partial(compared_plane, self.scene, plane, part, wanted, trace, moves, ran.kept, ran.stop)
        found: ComparedPlane | None = ran.kept.keep(key, work)
        return found

    def _driven(self, run: Run) -> str:
        """How the tool of a run stands that cuts while the work stands; empty for any other."""
        tool = self.scene.tools.get(int(self.ran.trace.tool[run[0]]))
        return tool.stands if isinstance(tool, Tool) and self.ran.trace.stands[run[0]] else ""

    def _moves(self, trace: Trace, begin: int, end: int) -> Moves:
        tool = self.scene.tools[int(trace.tool[begin])]
        assert isinstance(tool, Tool)
        return Moves(moves_key(trace, begin, end), begin, end, tool)

    def proof(self, last: Stock) -> TurnProof:
        proof = super().proof(last)
        gouge = self._gouge(proof)
        self._by_rays = [*self._left(), *([gouge] if gouge is not None else [])]
        driven: list[Amounts] = [*self._planes, *self._by_rays]
        return replace(proof, comparison=replace(proof.comparison, driven=driven), came=self.came)

    def differences(self, proof: TurnProof) -> list[Remark]:
        found, unit = super().differences(proof), self.scene.unit
        made_by = partial(culprit, proof)
        for one in self._planes:
            args = (one.comparison, one.heights, one.grid, unit, one.wanted, made_by, proof.gouged)
            found += Compared(*args, named=one.plane.named, out=one.plane.out).remarks()
        for fault in self._by_rays:
            much = f"{grouped(fault.much)} {'mm³' if unit == 'mm' else 'in³'}"
            deep = with_unit(fault.deep, Kind.LENGTH, unit)
            if fault.kind == "gouge":
                text = tr("Driven tools take {much} that no step wants gone, up to {deep} deep.", much=much, deep=deep)
                found.append(proof.gouged(made_by(fault.place), text, fault.deep, fault.place))
                continue
            where = tr("Z {place:.2f} and C {angle_of:.1f}°", place=fault.place[2], angle_of=angle_of(fault.place))
            text = tr("Left standing round the part, at {where}: {much}, {deep} high.", where=where, much=much, deep=deep)
            found.append(Remark(level="stop", code="left", text=text, step=fault.step, amount=fault.deep, place=fault.place))
        return found

    def _gouge(self, proof: TurnProof) -> DrivenFault | None:
        """What is gone of the wanted part, of what turning left. What tools along the axis take is seen on the end face, what
        those across it take while C stands on their side: here it is all that goes beyond."""
        if self._packed is None:
            return None
        reach = [self._along(run) for run in self.runs if self._driven(run) == "radial"]
        known = any(one.greatest("gouge") > 0.0 for one in self._planes if one.plane.side is not None)
        if not reach or known:
            return None
        tolerance = TOLERANCE_MM * self.scene.mm
        wanted = proof.comparison.wanted.intersection(proof.part).intersection(self._reached).buffer(-tolerance / 2)
        if wanted.is_empty:
            return None
        slabs = self._packed.slabs(min(low for low, _ in reach), max(high for _, high in reach))
        key = digest("gouge", self._state(*slabs), shapely.to_wkb(wanted), *self._may_go)
        found: list[DrivenFault | None] = self.ran.kept.keep(key, lambda: [self._gouged(slabs, wanted)])
        return found[0]

    def _gouged(self, slabs: tuple[int, int], wanted: Region) -> DrivenFault | None:
        """The same, looked at."""
        now, before = self._rays().between(*slabs), None
        if self.came is not None:  # what was milled before is not wanted back
            before = self.came.dexels().between(*slabs)
            before.turned(self.scene.raw.difference(wanted))
        return gouged(now, wanted, self.scene, before)

    @property
    def _may_go(self) -> Iterator[object]:
        """Keys for all that steps of driven tools may take."""
        for side, steps in self.scene.planes.items():
            yield from (side, *(removals_key(step.removals) for step in steps))
        for one in self.scene.rounds:
            yield from (removals_key(one.removals), one.angles, one.around, one.wide)

    def _left(self) -> list[DrivenFault]:
        """What still stands of what goes round the part."""
        scene = self.scene
        if not scene.rounds or self.whole.is_empty:
            return []
        if self._packed is None:
            return left_round(Dexels.of(self.whole, (), scene.mm), scene.rounds, scene.mm)
        key = digest("left", self._state(0, len(self._packed.edges)), *self._may_go)
        found: list[DrivenFault] = self.ran.kept.keep(key, lambda: left_round(self._rays(), scene.rounds, scene.mm))
        return found
