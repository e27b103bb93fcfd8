"""Buttress threads, whose two flanks differ: sizes of the standards, both flanks where they belong, of both hands."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely

from bastler.cutting import over_wires, thread_of, wire_for
from bastler.job import Job, plan
from bastler.job.crib_edits import tool_given
from bastler.proof import TurnProof, prove_job
from bastler.steps import CentreHole, Groove, Threading, TurnFacing, TurnRoughing
from bastler.tools import TurnTool, faults_of
from conftest import codes, crossed, turned
from outlines import along, outline, up

INCH = 25.4


@pytest.mark.parametrize(
    ("name", "sizes"),
    [
        ("S 48 x 8", (42.0, 34.116, 36.0, 48.0, 0.994)),  # DIN 513: d2, d3, D1, D, R
        ("S 36x6", (31.5, 25.587, 27.0, 36.0, 0.746)),
        ("S 22 x 5", (18.25, 13.322, 14.5, 22.0, 0.621)),
    ],
)
def test_metric_sizes_are_those_of_the_table(name: str, sizes: tuple[float, ...]) -> None:
    found = thread_of(name)
    has = (found.pitch_diameter, found.root, found.bore, found.nut_major, found.root_radius(inside=False))
    assert has == pytest.approx(sizes, abs=6e-4)
    assert found.flanks == (3.0, 30.0)


def test_inch_sizes_are_those_of_the_table() -> None:
    """ASME B1.9, 8 threads an inch: height 0.0750, of a round root 0.0828, its radius 0.0089, flat of the crest 0.0204."""
    found = thread_of("2.5-8 BUTT-2A LH")
    inches = [(found.major - found.bore) / 2, (found.major - found.root) / 2, found.root_radius(inside=False)]
    assert [v / INCH for v in inches] == pytest.approx([0.0750, 0.0828, 0.0089], abs=6e-5)
    crest = found.pitch / 2 - 0.3 * found.pitch * found.opens
    assert crest / INCH == pytest.approx(0.0204, abs=6e-5)
    assert (found.left, found.only, found.name) == (True, "outside", "2.5-8 BUTT LH-2A")
    assert thread_of("S 48 x 16 (P8)").starts == 2


@pytest.mark.parametrize("name", ["S 48 x 8", "S 22 x 3", "2.5-8 BUTT", "M20", "Tr 36 x 6"])
def test_a_wire_lies_on_both_flanks(name: str) -> None:
    """The distance of its middle from both flank lines is its radius, where the measure over wires puts it."""
    thread, wire = thread_of(name), wire_for(thread_of(name))
    height = (
        over_wires(thread, wire, thread.pitch_diameter) - wire - thread.pitch_diameter
    ) / 2  # of the middle over the pitch line
    a, b = (math.radians(flank) for flank in thread.flanks)

    def off(u: float, angle: float) -> float:
        """From a flank that crosses the pitch line at ±P/4 and opens upward: the middle's distance from it."""
        return (thread.pitch / 4 - u + height * math.tan(angle)) * math.cos(angle)

    # the middle's place along the axis from one flank, then the other one has to be as far
    u = thread.pitch / 4 + height * math.tan(a) - wire / 2 / math.cos(a)
    assert off(-u, b) == pytest.approx(wire / 2, abs=1e-9)
    assert -0.2 * thread.pitch < height < 0.6 * thread.pitch


def bolt(name: str = "S 30 x 3", unit: str = "mm", tools: tuple[TurnTool, ...] = (), **answers: Any) -> Job:
    thread, k = thread_of(name), 1.0 if unit == "mm" else 1 / INCH
    size: Any = {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    shaft = outline(id="o", name="o", d=round(thread.major * k, 4), z=0.0, pieces=(along(-40 * k), up(62.0 * k)))
    steps = (
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0),
        Groove(id="g", z=-20.5 * k, width=14.0 * k, floor_d=round((thread.root - 1.0) * k, 4), edges="one", finish="no"),
        Threading(id="t", thread=name, length=20.0 * k, **answers),
    )
    job = turned(*steps, outlines=(shaft,), unit=unit, **size)
    return msgspec.structs.replace(job, tools=(*job.tools, *tools)) if tools else job


def mirrored_tool(job: Job, ident: str) -> TurnTool:
    tool: Any = job.tool(ident)
    return msgspec.structs.replace(tool, id="m", left_flank=tool.profile - tool.left_flank, name="mirrored")


def slopes(proof: TurnProof, thread: Any, k: float, z: float) -> tuple[float, float]:
    """The angles of the walls of a groove near a length, left and right, measured on the part between two heights."""
    at: list[tuple[float, float]] = []
    for r in (thread.pitch_diameter / 2 - 0.1 * thread.pitch, thread.pitch_diameter / 2 + 0.2 * thread.pitch):
        line = shapely.LineString([(z - 2 * thread.pitch * k, r * k), (z + 2 * thread.pitch * k, r * k)])
        spans = sorted(g.bounds[::2] for g in shapely.get_parts(proof.part.intersection(line)) if g.length > 0)
        gaps = [(a[1], b[0]) for a, b in itertools.pairwise(spans)]
        near = sum(at[0]) / 2 if at else z
        at.append(min(gaps, key=lambda gap: abs(sum(gap) / 2 - near)))
    rise = 0.3 * thread.pitch * k
    return tuple(math.degrees(math.atan(abs(at[1][j] - at[0][j]) / rise)) for j in (0, 1))  # type: ignore[return-value]


THREADS = [("mm", "S 30 x 3"), ("mm", "S 30 x 3 LH"), ("inch", "1.25-8 BUTT"), ("mm", "S 30 x 6 (P3)")]


@pytest.mark.parametrize(
    ("named", "bears", "infeed"), crossed(8, THREADS, ["chuck", "front"], ["flank", "alternating", "straight"])
)
def test_both_flanks_are_where_they_belong(named: tuple[str, str], bears: str, infeed: str) -> None:
    unit, name = named
    k = 1.0 if unit == "mm" else 1 / INCH
    job = bolt(name, unit, bears=bears, infeed=infeed)
    if bears == "front":
        own = "thread-buttress-3" if unit == "mm" else "thread-buttress-8"
        job = msgspec.structs.replace(job, tools=(*job.tools, mirrored_tool(job, own)))
    planned = plan(job)
    assert not planned.step("t").troubles, planned.step("t").troubles
    proof: Any = prove_job(planned)
    assert not codes(proof, "stop"), [r.text for r in proof.remarks]
    thread = thread_of(name)
    steep, other = thread.flanks
    wanted = (other, steep) if bears == "chuck" else (steep, other)
    assert slopes(proof, thread, k, -10.0 * k) == pytest.approx(wanted, abs=0.4)
    assert not [line for line in proof.program.lines if "G76" in line]


def test_a_nut_has_play_on_the_pitch_line_and_its_own_depth() -> None:
    thread = thread_of("S 30 x 3")
    bored = outline(id="o", name="o", d=round(thread.bore, 3), z=0.0, pieces=(along(-30.0),), inside=True)
    steps = (
        TurnFacing(id="f"),
        CentreHole(id="d", work="drill", diameter=20.0, depth=50.0),
        TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0),
        Groove(id="g", side="inside", z=-18.0, width=8.0, floor_d=32.0, edges="one", finish="no"),
        Threading(id="t", side="inside", thread="S 30 x 3", length=17.0, run_out=1.0),
    )
    planned = plan(turned(*steps, outlines=(bored,)))
    step: Any = planned.step("t")
    assert not step.troubles, step.troubles
    assert step.filled.off == pytest.approx(3.1758 * 0.1 * math.sqrt(3.0), abs=1e-4)
    assert 2 * step.filled.root(step.ctx) == pytest.approx(30.0, abs=1e-6)
    proof: Any = prove_job(planned)
    assert not codes(proof, "stop") - {"left"}, [r.text for r in proof.remarks]


def test_a_tip_the_wrong_way_round_or_of_another_radius_is_said() -> None:
    job = bolt()
    turned_round = msgspec.structs.replace(job, tools=(*job.tools, mirrored_tool(job, "thread-buttress-3")))
    troubles = plan(msgspec.structs.replace(turned_round, holdings=bolt(tool="m").holdings)).step("t").troubles
    assert "left flank stands 3° off square" in troubles[0].text
    assert troubles[0].fits == "thread-buttress-3"
    blunt = plan(bolt("S 36 x 6")).step("t")
    assert "R0.373" in blunt.troubles[0].text
    plain: Any = job.tool("thread-60")
    assert [t.field for t in faults_of(msgspec.structs.replace(plain, left_flank=60.0))] == ["left_flank"]


def test_equal_flanks_said_as_two_are_as_equal_ones() -> None:
    job = bolt("M30x2")
    plain: Any = job.tool("thread-60")
    halves = msgspec.structs.replace(plain, left_flank=30.0)
    assert np.allclose(plain.cutting, halves.cutting)
    assert prove_job(plan(tool_given(job, halves))).program.text == prove_job(plan(job)).program.text
