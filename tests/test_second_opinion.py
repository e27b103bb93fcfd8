"""The proof against a brute-force simulation that shares no code with it: the same volume, the same crashes, the same left.

CI looks at some jobs of each kind; `BASTLER_TIMES=50` looks at 150.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

import second_opinion
from bastler.job import Job, answering, edits, plan
from bastler.post import Program, post
from bastler.proof import MillProof, Proof, prove_job, prove_whole
from bastler.steps import CentreHole, Groove, PartOff, TurnFacing, TurnFinishing, TurnRoughing
from bastler.tools import Tool, TurnTool
from conftest import job_of, many, turned, with_step
from test_turn_properties import shafts

MILLED = ["rectangular-pocket", "drilling", "round-pocket", "rectangular-boss", "slot", "ring-groove", "polygon-pocket",
          "free-pocket", "counterbore", "countersink"]  # fmt: skip
CELL = 0.16
SHARE = 0.003


def end_of(tool: Tool) -> tuple[float, Any]:
    """Radius and end of a tool, from its dimensions alone."""
    r = tool.diameter / 2
    if tool.kind in ("drill", "spot-drill", "chamfer-mill"):
        slope, flat = 1 / np.tan(np.radians(tool.tip_angle / 2)), tool.tip_diameter / 2
        return r, lambda d: np.maximum(d - flat, 0.0) * slope
    if tool.kind == "ball-mill":
        return r, lambda d: r - np.sqrt(np.maximum(r * r - d * d, 0.0))
    return r, None


def milled_opinion(job: Job, program: Program, proof: MillProof) -> second_opinion.Opinion:
    ctx = plan(job).first.flat
    tools = {t.station: end_of(t) for t in ctx.tools}
    home = tuple(h - z for h, z in zip(proof.scene.card.home, proof.scene.zero, strict=True))
    return second_opinion.milled(program.text, ctx.stock.lo, ctx.stock.hi, tools, home, CELL)


def crashed(proof: Proof) -> set[int]:
    return {r.line for r in proof.remarks if r.code == "rapid-in-stock"}


def spoilt(data: st.DataObject, program: Program) -> Program:
    """The program, now and then with a rapid that goes down where it should not."""
    lines = list(program.lines)
    if data.draw(st.booleans()):
        return program
    rapids = [k for k, line in enumerate(lines) if line.startswith("G0 X") and "Z" not in line and k > 12]
    assume(rapids)
    at = data.draw(st.sampled_from(rapids))
    lines.insert(at + 1, "G0 Z-2.5")
    return Program.foreign("\n".join(lines))


@settings(max_examples=many(3), suppress_health_check=list(HealthCheck))
@given(st.data())
def test_milled_jobs(data: st.DataObject) -> None:
    job, last = edits.step_added(job_of(over_top=1.0), "facing", "")
    for _ in range(data.draw(st.integers(1, 2))):
        job, last = with_step(job, data.draw(st.sampled_from(MILLED)), last)
        depth = data.draw(st.floats(1.5, 8.0))
        if hasattr(job.step(last), "depth"):
            job = answering.answered(job, f"step:{last}.depth", round(depth, 2))
    planned = plan(job)
    assume(not any(done.troubles for done in planned.steps))
    program = spoilt(data, post(planned.first))
    proof = prove_job(planned, program, cell_mm=0.1)
    opinion = milled_opinion(job, program, proof)
    assert proof.removed == pytest.approx(opinion.volume, rel=SHARE)
    found = crashed(proof)
    assert bool(found) == bool(opinion.crashes), (found, opinion.crashes)
    if found:
        assert min(found) == min(opinion.crashes)


@settings(max_examples=many(3), suppress_health_check=list(HealthCheck))
@given(st.data())
def test_jobs_with_two_sides(data: st.DataObject) -> None:
    """The second side meets what the first one has left, seen column by column."""
    about = data.draw(st.sampled_from(["x", "y"]))
    job, last = edits.step_added(job_of(over_top=1.0, over_bottom=2.0), "facing", "")
    job, last = with_step(job, data.draw(st.sampled_from(MILLED)), last)
    job, held = edits.holding_added(job, f"over-{about}")  # type: ignore[arg-type]
    job, last = edits.step_added(job, "facing", f"holding:{held}")
    for _ in range(data.draw(st.integers(1, 2))):
        job, last = with_step(job, data.draw(st.sampled_from(MILLED)), last)
        if hasattr(job.step(last), "depth"):
            job = answering.answered(job, f"step:{last}.depth", round(data.draw(st.floats(4.0, 14.0)), 2))
    planned = plan(job)
    assume(not any(done.troubles for done in planned.steps))
    programs = post(planned.holdings[0]), spoilt(data, post(planned.holdings[1]))
    whole = prove_whole(planned, dict(enumerate(programs)), cell_mm=0.1)
    first, second = (held.flat.stock for held in planned.holdings)
    tools = {t.station: end_of(t) for t in planned.first.flat.tools}
    homes = [tuple(h - z for h, z in zip(p.scene.card.home, p.scene.zero, strict=True)) for p in whole.holdings]
    one = second_opinion.milled(programs[0].text, first.lo, first.hi, tools, homes[0], CELL)
    begins = second_opinion.turned_over(one, about, first.lo, first.hi, second.lo)
    two = second_opinion.milled(programs[1].text, second.lo, second.hi, tools, homes[1], CELL, begins)
    assert [p.removed for p in whole.holdings] == pytest.approx([one.volume, two.volume], rel=SHARE)
    found = crashed(whole.holdings[1])
    assert bool(found) == bool(two.crashes), (found, two.crashes)
    if found:
        assert min(found) == min(two.crashes)


def outlines_of(tool: Tool | TurnTool) -> list[Any]:
    """The outline that cuts, (z, r) about the point."""
    if isinstance(tool, TurnTool):
        return [np.array(tool.cutting)]
    r = tool.diameter / 2
    tip = r / np.tan(np.radians(tool.tip_angle / 2)) if tool.tip_angle < 180 else 0.0
    return [np.array([(0.0, 0.0), (tip, r), (tool.flute_length, r), (tool.flute_length, -r), (tip, -r)])]


@settings(max_examples=many(3), suppress_health_check=list(HealthCheck))
@given(st.data())
def test_turned_jobs(data: st.DataObject) -> None:
    tube = data.draw(st.booleans())
    form: dict[str, Any] = {"form": "tube", "bore": 16.0} if tube else {}
    steps: list[Any] = [TurnFacing(id="f")]
    if data.draw(st.booleans()) and not tube:
        steps.append(CentreHole(id="h", work="drill", diameter=8.5, depth=data.draw(st.floats(8.0, 30.0))))
    steps += [TurnRoughing(id="r", outline="o", ap=data.draw(st.floats(0.8, 2.5))), TurnFinishing(id="e", outline="o")]
    if data.draw(st.booleans()):
        steps.append(Groove(id="g", z=-5.0, width=data.draw(st.floats(3.2, 5.0)), floor_d=12.0 + (6.0 if tube else 0.0)))
    planted = data.draw(st.booleans())
    if not planted and data.draw(st.booleans()):
        steps.append(PartOff(id="p"))
    job = turned(*steps, outlines=(data.draw(shafts()),), **form)
    planned = plan(job)
    assume(not any(done.troubles for done in planned.steps))
    program = post(planned.first)
    lines = list(program.lines)
    if planted:
        rapids = [k for k, line in enumerate(lines) if line.startswith("G0 X") and k > 12]
        at = data.draw(st.sampled_from(rapids))
        lines.insert(at + 1, f"G0 X{data.draw(st.floats(20.0, 40.0)):.2f} Z-6.")
        program = Program.foreign("\n".join(lines))
    proof = prove_job(planned, program)
    cell = 0.08
    z0, _, z1, r1 = proof.scene.raw.bounds
    z0 = max(z0, -95.0)
    z, r = np.meshgrid(np.arange(z0 + cell / 2, z1, cell), np.arange(cell / 2, r1, cell))
    z, r = z + cell * second_opinion.scattered(z.shape), r + cell * second_opinion.scattered(r.shape[::-1]).T
    grid = np.column_stack([z.ravel(), r.ravel()])
    grid = grid[shapely.contains_xy(proof.scene.raw, grid[:, 0], grid[:, 1])]
    tools = {station: outlines_of(tool) for station, tool in proof.scene.tools.items()}
    home = (proof.scene.card.home[0], 0.0, proof.scene.card.home[2])
    turning = [t for t in proof.scene.tools.values() if isinstance(t, TurnTool) and t.second]
    edges = {t.second: (t.other_edge[1], t.other_edge[0]) for t in turning}
    opinion = second_opinion.turned(program.text, grid, tools, home, cell, edges)
    for stage in proof.stages:
        own = {int(line) + 1 for line in proof.trace.line[stage.begin : stage.end]}
        theirs = sum((opinion.by_line or {}).get(line, 0.0) for line in own)
        assert stage.volume == pytest.approx(theirs, rel=SHARE, abs=SHARE * proof.removed), (stage.step, stage.stage)
    found = {r.line: r.amount for r in proof.remarks if r.code == "rapid-in-stock"}
    assert bool(found) >= bool(opinion.crashes), (found, opinion.crashes)
    if opinion.crashes:
        assert min(found) <= min(opinion.crashes)
    for line, deep in found.items():  # what the opinion has not, it cannot see: thinner than its places lie apart
        assert (opinion.by_line or {}).get(line, 0.0) > 0.0 or deep < 2 * cell, (line, deep)
    kept = grid[~opinion.gone]
    inside = shapely.contains_xy(proof.part.buffer(-1.5 * cell), kept[:, 0], kept[:, 1])
    outside = ~shapely.contains_xy(proof.part.buffer(1.5 * cell), kept[:, 0], kept[:, 1])
    assert not outside.any(), "what stands there, stands here"
    assert inside.any()
