"""A turned part that driven tools cut too: a half section while it turns, polar dexels from the first driven cut on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from bastler.nc.trace import about_axis
from bastler.proof.found import Found
from bastler.proof.polar.checks import PolarView, check
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.run import PolarRun, prove_driven
from bastler.proof.polar.sweeping import missing
from bastler.proof.remark import Remark
from bastler.proof.result import Run, digest, moves_key
from bastler.proof.stock import Ran, Stock
from bastler.proof.turn.compare import TOLERANCE_MM, DrivenGouge
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section_stock import SectionStock
from bastler.proof.turn.sweep import volume
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Floats, Region
from bastler.shapes.united import united
from bastler.tools import Tool
from bastler.units import Kind, grouped, with_unit

KEPT_OUT_MM = 0.5
"""The cell of jaws, chuck and tailstock."""
INTERRUPTED = 0.005
"""The share of a turned cut that was milled away before, from which on it is told."""
LEAST_MM = 0.05
"""Where nothing is wanted gone, less than this along a ray is rounding."""


class PolarStock(SectionStock):
    """Turning goes on in the half section, as if nothing were milled; what it takes there is taken all round."""

    def __init__(self, ran: Ran, scene: TurnScene) -> None:
        super().__init__(ran, scene)
        self.dexels: Dexels | None = None
        self._reached: Region = shapely.Polygon()

    def cut(self, run: Run) -> bool:
        begin, end, step, stage = run
        ran, scene, trace = self.ran, self.scene, self.ran.trace
        if not trace.stands[begin]:
            before = self.now
            done = super().cut(run)
            if done and self.dexels is not None and self.now is not before:
                self._turned(before)
            return done
        if self.dexels is None:
            self.dexels = Dexels.of(self._seen(self.now, begin), self._floors(begin), scene.mm)
        made = prove_driven(scene, self.dexels, self._keep_out, self.now, trace, begin, end, ran.lasts, ran.stop)
        if made is None:
            return False
        view = PolarView(scene, trace, begin, end, made)
        found = check.run(view, apart=False) + check.run(view, apart=True)
        key = digest(self._around, self._stands, moves_key(trace, begin, end), step, stage)
        result: Any = ran.result(run, made, found, key)
        self.stages.append(result)
        return True

    def _turned(self, before: Any) -> None:
        """What turning has taken since is gone all round; where something was milled already the cut was interrupted."""
        assert self.dexels is not None
        stage = self.stages[-1]
        gone = before.difference(united([self.now, *stage.proof.fallen]))  # what has fallen off is still a part
        if gone.is_empty:
            return
        whole = volume(gone.intersection(self._reached))
        if self.dexels.turned(gone) < (1 - INTERRUPTED) * whole:
            text = "Turns over what was milled before: the cut is interrupted."
            note = Found("note", "interrupted-cut", text, int(np.argmax(stage.proof.cut[:, 0])))
            self.stages[-1] = replace(stage, found=(*stage.found, note))

    def _seen(self, section: Region, begin: int) -> Region:
        """The section from where driven tools come to: behind that nothing is asked of dexels."""
        trace, wide = self.ran.trace, 0.0
        for tool in self.scene.tools.values():
            if isinstance(tool, Tool):
                wide = max(wide, tool.diameter, tool.shank_diameter, tool.holder.diameter)
        own = np.flatnonzero(trace.stands[begin:]) + begin
        low, _ = trace.extremes
        if section.is_empty:
            return section
        z0, r0, z1, r1 = section.bounds
        self._reached = shapely.box(max(z0, min(float(low[own, 2].min()) - wide, z1 - wide)), r0 - 1.0, z1 + 1.0, r1 + 1.0)
        return section.intersection(self._reached)

    def _floors(self, begin: int) -> Floats:
        """The lengths at which something along the axis will end: where tips along it stand, and the sides of tools across it."""
        trace, tools = self.ran.trace, self.scene.tools
        found = [trace.end[begin:, 2]]
        for number in np.unique(trace.tool[begin:]).tolist():
            tool, own = tools.get(number), trace.end[begin:, 2][trace.tool[begin:] == number]
            if isinstance(tool, Tool):
                radius = tool.diameter / 2
                found += [own - radius, own + radius] if tool.stands == "radial" else [own + tool.profile.tall]
        levels: Floats = np.unique(np.round(np.concatenate(found) / self.scene.mm, 6)) * self.scene.mm
        return levels

    @cached_property
    def _keep_out(self) -> Mapping[str, Dexels]:
        """Jaws, chuck and tailstock, of one name together."""
        regions: dict[str, list[Any]] = {}
        for name, region in self.scene.keep_out:
            regions.setdefault(name, []).append(region)
        return {name: Dexels.of(shapely.union_all(own), (), self.scene.mm, KEPT_OUT_MM) for name, own in regions.items()}

    def proof(self, last: Stock) -> TurnProof:
        proof = super().proof(last)
        return replace(proof, comparison=replace(proof.comparison, driven=self._gouge(proof)))

    def differences(self, proof: TurnProof) -> list[Remark]:
        found, gouge = super().differences(proof), proof.comparison.driven
        if gouge is None:
            return found
        unit = self.scene.unit
        much = f"{grouped(gouge.volume)} {'mm³' if unit == 'mm' else 'in³'}"
        deep = with_unit(gouge.deep, Kind.LENGTH, unit)
        text = f"Driven tools take {much} that no step wants gone, up to {deep} deep."
        return [*found, proof.gouged(_culprit(proof, gouge.place), text, gouge.deep, gouge.place)]

    def _gouge(self, proof: TurnProof) -> DrivenGouge | None:
        """What is gone of the wanted part, of what turning left of it."""
        if self.dexels is None:
            return None
        tolerance = TOLERANCE_MM * self.scene.mm
        wanted = proof.comparison.wanted.intersection(proof.part).intersection(self._reached).buffer(-tolerance / 2)
        if wanted.is_empty:
            return None
        whole = self.dexels.like(wanted)
        volume, deep, ray, slab, radius = missing(
            whole.lo,
            whole.hi,
            whole.count,
            self.dexels.lo,
            self.dexels.hi,
            self.dexels.count,
            whole.edges,
            LEAST_MM * self.scene.mm,
        )
        if deep <= LEAST_MM * self.scene.mm:
            return None
        angle = (ray + 0.5) * 2 * np.pi / len(whole.count)
        z = float(whole.edges[slab] + whole.edges[slab + 1]) / 2
        return DrivenGouge(volume, deep, (radius * float(np.cos(angle)), radius * float(np.sin(angle)), z))


def _culprit(proof: TurnProof, place: tuple[float, float, float]) -> int:
    """The driven move whose tool came over a place; -1 where none is found."""
    p = np.array(place)
    for stage in proof.stages:
        run: Any = stage.proof
        if not isinstance(run, PolarRun) or not isinstance(run.tool, Tool):
            continue
        near = _over(run, run.tool, p)
        if near.any():
            return stage.begin + int(run.owner[np.argmax(near)])
    return -1


def _over(run: PolarRun, tool: Tool, p: Floats) -> Floats:
    """Which pieces of a run went over a place with the tool's full width, (m,)."""
    a, b = run.segments[:, :3], run.segments[:, 3:]
    at = np.repeat(p[None], len(a), axis=0)
    axis, plane = 2, [0, 1]
    if tool.stands == "radial":  # as the machine's axes stand
        a, b, at = (about_axis(points, -run.angles) for points in (a, b, at))
        axis, plane = 0, [1, 2]
    way = (b - a)[:, plane]
    share = ((at - a)[:, plane] * way).sum(axis=1) / np.maximum((way * way).sum(axis=1), 1e-18)
    nearest = a + (b - a) * np.clip(share, 0.0, 1.0)[:, None]
    off = np.linalg.norm((at - nearest)[:, plane], axis=1)
    low = np.minimum(a[:, axis], b[:, axis])
    found: Floats = (off <= tool.diameter / 2 * 1.001) & (at[:, axis] >= low)
    return found
