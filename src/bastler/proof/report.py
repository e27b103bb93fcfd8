"""The proof as plain data, for the command line and other programs."""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.proof.effort import in_material, spent, tool_changes
from bastler.proof.mill.milled import MillProof
from bastler.proof.result import AnyStage
from bastler.proof.turn.compare import sizes as measured
from bastler.proof.turn.turned import TurnProof
from bastler.proof.unkept import left_volumes
from bastler.proof.whole import JobProof
from bastler.shapes import Flat, Revolved


def report(proof: Any) -> dict[str, Any]:
    """What `bastler prove --json` gives. Lengths, volumes in the job's unit; times in seconds; power in kW."""
    comparison = proof.comparison
    left = left_volumes(comparison)
    return {
        "proved": proof.proved,
        "unit": proof.scene.unit,
        "remarks": [
            {
                "level": r.level,
                "code": r.code,
                "text": r.text,
                "line": r.line,
                "step": r.step,
                "stage": r.stage,
                "amount": r.amount,
            }
            for r in proof.remarks
        ],
        "time_s": round(proof.total, 3),
        "removed_volume": proof.removed,
        "verdict": proof.verdict,
        "left_volume": sum(left.values()),
        "left": left,
        "gouge_volume": comparison.volume("gouge"),
        "max_left": comparison.greatest("left"),
        "max_gouge": comparison.greatest("gouge"),
        "stages": [_stage(s) for s in proof.stages if s.proof.tool is not None and (s.step or s.volume > 0)],
        "sizes": turned_sizes(proof) if isinstance(proof, TurnProof) else sizes(proof),
    }


def report_whole(proof: JobProof, *, effort: bool = False) -> dict[str, Any]:
    """The same of a whole job: of one with several holdings what is said of each, under `holdings`. With `effort` also
    how its programs spend their time, which takes as long again: the share of the feed time in which something is cut, what
    facing runs past the edge left out; and how often a tool comes."""
    each: Any = [report(one) for one in proof.holdings]
    spends: dict[str, Any] = {}
    if effort:
        spends = {"feed_in_material": round(in_material(spent(proof)), 4), "tool_changes": tool_changes(proof)}
    if len(each) == 1:
        return {**each[0], **spends}
    return {
        "proved": proof.proved,
        "unit": proof.plan.job.unit,
        "verdict": proof.verdict,
        "time_s": round(proof.total, 3),
        **spends,
        "holdings": [
            {"holding": h.holding.titled(proof.plan.job.card), **one} for h, one in zip(proof.plan.holdings, each, strict=True)
        ],
    }


def turned_sizes(proof: TurnProof) -> list[dict[str, Any]]:
    """The cylinders of the part as cut, as one would measure them, and its whole length."""
    found = [
        {
            "what": ("groove" if s.groove else "bore" if s.inside else "diameter"),
            "inside": s.inside,
            "diameter": s.diameter,
            "from_z": s.z1,
            "to_z": s.z0,
            "length": s.length,
        }
        for s in measured(proof.part, proof.scene.mm)
    ]
    front = max((g for g in getattr(proof.part, "geoms", [proof.part])), key=lambda g: g.bounds[2], default=None)
    if front is not None and not front.is_empty:
        found.append({"what": "length", "length": front.bounds[2] - front.bounds[0]})
    return found


def _stage(stage: AnyStage) -> dict[str, Any]:
    return {
        "step": stage.step,
        "stage": stage.stage,
        "tool": stage.tool,
        "time_s": round(stage.t1 - stage.t0, 3),
        "removed_volume": stage.volume,
        "peak_power": round(stage.peak_power, 3),
    }


def sizes(proof: MillProof) -> list[dict[str, Any]]:
    """Floors wanted and measured on the part as cut, one for each removal of each step."""
    found = []
    for wanted in proof.scene.wanted:
        for removal in wanted.removals:
            point = removal.region.representative_point() if isinstance(removal, Flat) else None
            x, y = (point.x, point.y) if point else (removal.x, removal.y) if isinstance(removal, Revolved) else (0.0, 0.0)
            measured = _floor_near(proof, removal) if isinstance(removal, Flat) else _height(proof, x, y)
            floor = max(removal.floor, proof.grid.bottom)
            found.append({"step": wanted.step, "what": "floor", "x": x, "y": y, "wanted": floor, "measured": measured})
    return found


def _height(proof: MillProof, x: float, y: float) -> float:
    grid = proof.grid
    column = min(max(int((x - grid.x0) / grid.dx), 0), grid.nx - 1)
    row = min(max(int((y - grid.y0) / grid.dy), 0), grid.ny - 1)
    return float(proof.heights[row, column])


def _floor_near(proof: MillProof, removal: Flat) -> float:
    """The height in the region's box that lies nearest the wanted floor and takes up most of it."""
    grid = proof.grid
    x0, y0, x1, y1 = removal.region.bounds
    columns = slice(max(0, int((x0 - grid.x0) / grid.dx)), max(1, int((x1 - grid.x0) / grid.dx)))
    rows = slice(max(0, int((y0 - grid.y0) / grid.dy)), max(1, int((y1 - grid.y0) / grid.dy)))
    values = proof.heights[rows, columns].ravel()
    if not len(values):
        return grid.top
    near = values[np.abs(values - removal.floor) < 0.05 * max(grid.top - removal.floor, 1e-6) + 1e-6]
    return float(np.median(near)) if len(near) else float(np.median(values))
