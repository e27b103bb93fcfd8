"""Reading turning programs: diameters, stations with offsets, speeds and feeds, threads, cycles in one and two lines,
compensation."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from bastler.job import answering, plan
from bastler.job.samples import sample
from bastler.machines import Dialect
from bastler.nc import Control, read
from bastler.post import post
from bastler.post.words import Words
from bastler.proof import prove_job, scene_of
from bastler.steps import TurnFacing, TurnFinishing
from conftest import TURNED, turned
from outlines import along, blend, slant, up
from outlines import outline as outline_of

POINTS = dict.fromkeys(range(1, 9), (0.0, 0.0, 0.0))
LATHE = Dialect(diameter_x=True)
HEAD = "G21\nG18 G90\nT0101\nG50 S3000\nG97 S1000 M3\nG95\nG0 X62 Z2\n"


def control(dialect: Dialect = LATHE, **more: Any) -> Control:
    given = {"reaches": POINTS, "tool_offsets": POINTS, "noses": {1: (0.8, (0.8, 0.8))}} | more
    return Control(dialect=dialect, turns=True, home=(200.0, 0.0, 300.0), **given)  # type: ignore[arg-type]


def ends(text: str, dialect: Dialect = LATHE, **more: Any) -> list[tuple[float, float]]:
    """Diameter and length at the end of every move."""
    trace = read(HEAD + text, control(dialect, **more))
    assert trace.findings == (), trace.findings
    return [(round(2 * float(e[0]), 4), round(float(e[2]), 4)) for e in trace.end][1:]


def test_x_is_a_diameter_u_and_w_are_steps() -> None:
    assert ends("G1 X50 Z-10 F0.2\nU4 W-2\nG0 U10\n") == [(50, -10), (54, -12), (64, -12)]


def test_arcs_are_in_the_plane_of_the_work() -> None:
    trace = read(HEAD + "G1 X20 Z0 F0.2\nG3 X30 Z-5 I0 K-5\nG2 X40 Z-10 R5\n", control())
    assert trace.findings == ()
    assert trace.turn[-2] == pytest.approx(math.pi / 2)
    assert trace.turn[-1] == pytest.approx(-math.pi / 2)
    assert trace.centre[-2][[0, 2]] == pytest.approx((10.0, -5.0))


def test_speeds_caps_and_feeds() -> None:
    trace = read(
        HEAD.replace("G95", "G99") + "G96 S100\nG1 X50 F0.2\nX10\nX0.2\nG97 S500\nG98\n",
        control(Dialect(diameter_x=True, feed_codes=("G98", "G99"))),
    )
    assert trace.findings == ()
    assert trace.surface[-1] == 100_000.0
    assert trace.speed[-2] == pytest.approx(100_000 / (2 * math.pi * 15), rel=1e-9)
    assert trace.speed[-1] == 3000.0


def test_feed_per_turn_follows_the_speed() -> None:
    trace = read(HEAD + "G1 Z-10 F0.2\nG97 S500\nZ-20\nG94\nZ-30 F80\n", control())
    assert trace.feed[-3:] == pytest.approx([200.0, 100.0, 80.0])
    assert trace.per_turn[-3:].tolist() == [True, True, False]


def test_stations_and_offsets_in_one_word() -> None:
    points = {1: (10.0, 0.0, 5.0), 2: (12.0, 0.0, 8.0)}
    offsets = {1: (10.0, 0.0, 5.0), 2: (12.0, 0.0, 8.0), 12: (12.0, 0.0, 5.0)}
    text = "T0101\nG0 X50 Z0\nT0202\nG0 X50 Z0\nT0212\nG0 X50 Z0\n"
    trace = read("G21 G18 G90\nG97 S100 M3\n" + text, control(reaches=points, tool_offsets=offsets))
    assert trace.tool.tolist() == [1, 2, 2]
    assert trace.edge.tolist() == [1, 2, 12]
    assert trace.end[:, 2].tolist() == [0.0, 0.0, -3.0]  # the second offset's edge is 3 further


@pytest.mark.parametrize("code", ["G33", "G32"])
def test_threads_are_tied_to_the_spindle(code: str) -> None:
    trace = read(HEAD + f"G0 X28\n{code} Z-20 F1.5\nG0 X32\n", control())
    assert trace.findings == ()
    assert trace.lead.tolist()[-2:] == [1.5, 0.0]
    assert trace.feed[-2] == pytest.approx(1500.0)


@pytest.mark.parametrize(
    "text",
    ["G76 P020060 Q0.05 R0.05\nG76 X22.16 Z-20 P0.92 Q0.3 F1.5", "G76 X22.16 Z-20 K0.92 D0.3 A60 F1.5"],
    ids=["two lines", "one line"],
)
def test_a_thread_cycle_in_both_forms(text: str) -> None:
    trace = read(HEAD + "G0 X28 Z4\n" + text + "\n", control())
    assert trace.findings == ()
    tied = trace.lead > 0
    depths = 12.0 + 0.0 - trace.end[tied, 0]
    assert trace.end[tied, 0].min() == pytest.approx(11.08)
    assert (np.diff(trace.end[tied, 0]) <= 1e-12).all()
    assert depths[0] == pytest.approx(0.3)
    assert depths[1] == pytest.approx(0.3 * math.sqrt(2), abs=1e-9)
    assert 2 * trace.end[-1, 0] == pytest.approx(28.0)


def test_a_cycle_in_least_increments() -> None:
    dialect = Dialect(diameter_x=True, thread_unit="increment")
    trace = read(HEAD + "G0 X28 Z4\nG76 P010060 Q50 R0.05\nG76 X22.16 Z-20 P920 Q300 F1.5\n", control(dialect))
    assert trace.end[trace.lead > 0, 0].min() == pytest.approx(11.08)


CONTOUR = "N10 G0 X20\nN11 G1 Z-10 F0.1\nN12 X30 Z-20\nN13 Z-30\nN14 X60\n"


@pytest.mark.parametrize(
    "head", ["G71 U2 R1\nG71 P10 Q14 U0.6 W0.1 F0.25", "G71 P10 Q14 U0.6 W0.1 D2 F0.25"], ids=["two lines", "one line"]
)
def test_roughing_cycles_in_both_forms(head: str) -> None:
    moves = ends(f"{head}\n{CONTOUR}G70 P10 Q14\nG0 X100\n")
    levels = sorted({x for (x, z), (px, pz) in zip(moves[1:], moves, strict=False) if x == px and z < pz - 1})
    assert 58.0 in levels
    assert (20.6, -9.9) in moves  # along the outline with its allowance
    assert (30.6, -19.9) in moves
    assert (30.0, -20.0) in moves  # G70: the outline itself
    assert moves[-1] == (100.0, 2.0)
    assert all(z > -30.0 - 1e-9 for _, z in moves)


def test_facing_cycle_runs_across() -> None:
    moves = ends("G72 W1.5 R0.5\nG72 P10 Q12 U0 W0.1 F0.2\nN10 G0 Z-6\nN11 G1 X40 F0.1\nN12 Z0\n")
    assert {round(z, 3) for _, z in moves} >= {0.5, -1.0, -2.5, -4.0}


def test_pecks_and_grooves() -> None:
    assert min(z for _, z in ends("G0 X0 Z2\nG74 R0.5\nG74 Z-20 Q5 F0.1\n")) == -20.0
    moves = ends("G0 X62 Z-20\nG75 R0.5\nG75 X50 Z-29 P2 Q3 F0.08\n")
    assert {z for x, z in moves if x == 50.0} == {-20.0, -23.0, -26.0, -29.0}


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("G76 X20 Z-10 F1.5", "cycle-word"),
        ("G71 P10 Q12 U0 W0 D2 F0.2", "cycle-lines"),
        ("G33 Z-10", "lead-missing"),
        ("G81 Z-10 R2", "unknown-word"),
        ("G74 Z-10 F0.1", "cycle-word"),
        ("T1515", "tool-unknown"),
        ("T0144", "length-offset"),
        ("X10 B5", "unknown-word"),
    ],
)
def test_what_is_wrong_is_said_at_its_line(text: str, code: str) -> None:
    found = read(HEAD + text + "\n", control()).findings
    assert code in {f.code for f in found}
    assert {f.line for f in found} == {8}


OUTLINES = [
    (along(-20), up(40), along(-40), up(62)),
    (along(-15), blend(3.0), up(44), along(-40), up(62)),
    (along(-10), slant(d=48, angle=30), along(-45), up(62)),
]


@pytest.mark.parametrize("pieces", OUTLINES)
def test_compensation_by_the_control_makes_the_same_part(pieces: tuple) -> None:
    outline = outline_of(id="o", name="o", d=30.0, z=0.0, pieces=pieces)
    job = turned(TurnFacing(id="f"), TurnFinishing(id="e", outline="o"), outlines=(outline,))
    here = prove_job(plan(job))
    there_job = answering.answered(job, "step:e.compensation", "control")
    program = post(plan(there_job).first)
    assert any(line.endswith("G42") for line in program.lines)
    assert "X30" in " ".join(program.lines)
    there = prove_job(plan(there_job))
    assert {r.code for r in (*there.remarks, *here.remarks)} <= {
        "over-power",
        "edge-length",
        "finish-bite",
    }  # nothing was roughed before
    assert here.part.symmetric_difference(there.part).area < 0.02


@pytest.mark.parametrize("name", [name for name in TURNED if sample(name).machine == "lathe-200"])
@pytest.mark.parametrize("card", [{}, {"turn_cycles": ()}, {"cycle_lines": 1}])
def test_posted_programs_read_without_a_finding(name: str, card: dict, monkeypatch: pytest.MonkeyPatch) -> None:
    import msgspec

    from bastler.machines import CARDS

    own = CARDS["lathe-200"]
    changed = msgspec.structs.replace(own, dialect=msgspec.structs.replace(own.dialect, **card))
    monkeypatch.setitem(CARDS, "lathe-200", changed)
    planned = plan(sample(name))
    program = post(planned.first)
    assert read(program.text, scene_of(planned).control).findings == ()
    assert any("G33" in line for line in program.lines) == (card.get("turn_cycles") == ())


BOXED = Dialect(diameter_x=True, feed_codes=("G98", "G99"), turn_cycles=("G90", "G92", "G94"), safe_start="G18 G40")
BOX_HEAD = "G21\nG18\nT0101\nG92 S3000\nG97 S1000 M3\nG99\nG0 X62 Z2\n"


def boxes(text: str) -> Any:
    """What a control makes of box cycles; but for a note there is nothing to say."""
    trace = read(BOX_HEAD + text, control(BOXED))
    assert [f.text for f in trace.findings if f.level != "note"] == []
    assert trace.cap[-1] == 3000.0
    return trace


def corners(trace: Any) -> list[tuple[float, float, int]]:
    """Diameter, length and kind of every move behind the head's."""
    return [(round(2 * float(e[0]), 4), round(float(e[2]), 4), int(k)) for e, k in zip(trace.end, trace.kind, strict=True)][1:]


def test_a_box_along_z_goes_in_along_out_and_back_again_and_again() -> None:
    """G90: rapid to X, feed along, feed out, rapid back; a line with X alone does the same deeper, from the same place."""
    trace = boxes("G90 X55 Z-30 F0.2\nX50\nU-16 W-20\nG0 X70\n")
    box = [(55.0, 2.0, 0), (55.0, -30.0, 1), (62.0, -30.0, 1), (62.0, 2.0, 0)]
    deeper = [(50.0, z, k) if d == 55.0 else (d, z, k) for d, z, k in box]
    steps = [(46.0, 2.0, 0), (46.0, -18.0, 1), (62.0, -18.0, 1), (62.0, 2.0, 0)]
    assert corners(trace) == [*box, *deeper, *steps, (70.0, 2.0, 0)]
    assert trace.feed[2] == pytest.approx(0.2 * 1000)


def test_a_box_with_a_slant_begins_beside_its_end() -> None:
    """R is where it begins less where it ends, a radius."""
    assert corners(boxes("G90 X50 Z-30 R-5 F0.2\n"))[:2] == [(40.0, 2.0, 0), (50.0, -30.0, 1)]


def test_a_box_across_faces() -> None:
    trace = boxes("G94 X0 Z-1 F0.15\nZ-2\n")
    assert corners(trace) == [
        (62.0, -1.0, 0), (0.0, -1.0, 1), (0.0, 2.0, 1), (62.0, 2.0, 0),
        (62.0, -2.0, 0), (0.0, -2.0, 1), (0.0, 2.0, 1), (62.0, 2.0, 0),
    ]  # fmt: skip


def test_a_box_with_a_thread_is_tied_to_the_spindle_and_says_what_is_not_seen() -> None:
    trace = boxes("G92 X29.2 Z-20 F1.5\nX28.6\nX28.3\n")
    assert corners(trace)[:4] == [(29.2, 2.0, 0), (29.2, -20.0, 1), (62.0, -20.0, 0), (62.0, 2.0, 0)]
    assert [float(lead) for lead in trace.lead if lead] == [1.5, 1.5, 1.5]
    assert [2 * float(e[0]) for e, lead in zip(trace.end, trace.lead, strict=True) if lead] == pytest.approx([29.2, 28.6, 28.3])
    assert [f.level for f in trace.findings] == ["note"]


@pytest.mark.parametrize("text", ["G90 X50 F0.2", "G92 X29 Z-20", "G94 Z-1 F0.1", "G92 X29 Z-20 F0"])
def test_a_box_without_a_word_that_it_needs_is_refused(text: str) -> None:
    trace = read(BOX_HEAD + text + "\n", control(BOXED))
    assert [f.code for f in trace.findings if f.level == "stop"] == ["cycle-word"]


def test_where_a_card_has_no_boxes_they_are_refused() -> None:
    plain = Dialect(diameter_x=True, feed_codes=("G98", "G99"))
    for text in ("G90 X50 Z-30 F0.2", "G92 X29 Z-20 F1.5", "G94 X0 Z-1 F0.1"):
        trace = read(BOX_HEAD + text + "\n", control(plain))
        assert any(f.level == "stop" for f in trace.findings), text


def test_a_cast_outline_is_gone_round_closer_and_closer() -> None:
    """G73 of 3 times, 4 away across and 2 along: 4 and 2, 2 and 1, none, and each time the allowance of 0.5 and 0.1."""
    for head in ("G73 U4 W2 R3\nG73 P10 Q12 U1 W0.1 F0.2", "G73 P10 Q12 I4 K2 D3 U1 W0.1 F0.2"):
        trace = read(HEAD + head + "\nN10 G0 X20 Z1\nG1 Z-10\nN12 X30\nG0 X80\n", control())
        assert trace.findings == ()
        every = corners(trace)
        assert [corner for corner in every if corner[2] == 1] == [
            (29.0, -7.9, 1), (39.0, -7.9, 1), (25.0, -8.9, 1), (35.0, -8.9, 1), (21.0, -9.9, 1), (31.0, -9.9, 1),
        ]  # fmt: skip
        assert every[-1] == (80.0, 2.0, 0)
    refused = read(HEAD + "G73 U4 W2 R0.5\nG73 P10 Q12 U1 W0.1 F0.2\nN10 G0 X20 Z1\nN12 G1 Z-10\n", control())
    assert [f.code for f in refused.findings][:1] == ["cycle-word"]


def test_what_falls_behind_a_crest_is_roughed_in_passes_too() -> None:
    """An outline down to 30, up to 50, and down to 40 again: at every level what lies on both sides of the crest."""
    text = "G71 U2.5 R0.5\nG71 P10 Q16 U0 W0 F0.2\nN10 G0 X30\nG1 Z-10\nX50 Z-15\nZ-20\nX40 Z-25\nZ-40\nN16 X62\n"
    trace = read(HEAD + text, control())
    assert trace.findings == ()
    along = [
        (round(2 * float(a[0]), 3), round(float(a[2]), 3), round(float(b[2]), 3))
        for a, b, kind in zip(trace.start, trace.end, trace.kind, strict=True)
        if kind == 1 and a[0] == pytest.approx(b[0]) and b[2] < a[2]
    ]
    trail = [(30.0, 2.0, -10.0), (50.0, -15.0, -20.0), (40.0, -25.0, -40.0)]
    assert along[-3:] == trail
    passes = along[:-3]
    assert passes[:2] == [(57.0, 2.0, -40.0), (52.0, 2.0, -40.0)], "over the crest all along"
    assert (47.0, 2.0, -14.25) in passes
    assert (47.0, -21.5, -40.0) in passes, "behind the crest"
    assert [entry for entry in passes if entry[0] < 40.0 and entry[1] != 2.0] == [], "there it ends at 40"
    fed_in = [
        (round(float(a[2]), 3), round(2 * float(b[0]), 3))
        for a, b, kind in zip(trace.start, trace.end, trace.kind, strict=True)
        if kind == 1 and a[2] == b[2] and b[0] < a[0]
    ]
    assert (-21.5, 47.0) in fed_in, "down into it in feed"


def test_a_hole_is_pecked_on_the_centre_line() -> None:
    trace = read(HEAD + "G0 X0 Z5\nG83 Z-10 R1 Q4 F0.1\nG80\nG0 Z20\n", control(peck_clearance=0.5))
    assert trace.findings == ()
    assert [(z, k) for _, z, k in corners(trace)][1:] == [
        (1.0, 0), (-3.0, 1), (1.0, 0), (-2.5, 0), (-7.0, 1), (1.0, 0), (-6.5, 0), (-10.0, 1), (1.0, 0), (5.0, 0), (20.0, 0),
    ]  # fmt: skip
    for wrong in ("G83 Z-10 R1 F0.1", "G83 X10 Z-10 R1 Q4 F0.1", "G83 Z-10 Q4 F0.1"):
        assert "cycle-word" in [f.code for f in read(HEAD + "G0 X0 Z5\n" + wrong + "\n", control()).findings], wrong


@pytest.mark.parametrize(
    ("fine", "unit", "deep"), [(False, "G21", 3.0), (True, "G21", 0.3), (False, "G20", 7.62), (True, "G20", 0.762)]
)
def test_a_depth_counts_in_the_least_increments_of_the_card(fine: bool, unit: str, deep: float) -> None:
    """Q3000: three millimetres in thousandths, 0.3 inch in ten-thousandths, a tenth of that where increments are finer."""
    dialect = Dialect(diameter_x=True, peck_unit="increment", fine=fine)
    trace = read(f"{unit}\nG18 G90\nT0101\nG97 S900 M3\nG95\nG0 X0 Z0\nG74 R0.01\nG74 Z-9 Q3000 F0.01\n", control(dialect))
    assert [f for f in trace.findings if f.level == "stop"] == []
    assert -float(trace.end[trace.kind == 1][0][2]) == pytest.approx(deep)
    assert Words(dialect, "mm" if unit == "G21" else "inch").counted(3.0 if unit == "G21" else 0.3, "increment") == (
        "30000" if fine else "3000"
    )


def test_the_frame_of_a_turning_program() -> None:
    lines = post(plan(turned(TurnFacing(id="f"))).first).lines
    assert "G18 G40 G80 G90" in lines
    cap = lines.index("G50 S3000")
    assert any(line.startswith("G96 S") for line in lines[cap:])
    assert not any(line.startswith("G96") for line in lines[:cap])
    home = [line for line in lines if line.startswith("G53")]
    assert home == ["G53 G0 X440", "G53 G0 Z600"] * 2  # before the first tool, and behind the last


def test_tools_change_in_the_order_that_was_asked_for() -> None:
    job = answering.answered(turned(TurnFacing(id="f")), "holding:h1.order", "z-x")
    assert [line for line in post(plan(job).first).lines if line.startswith("G53")] == ["G53 G0 Z600", "G53 G0 X440"] * 2
    own = answering.answered(answering.answered(job, "holding:h1.change", "own"), "holding:h1.order", "both")
    assert any(line.endswith("X150 Z100") for line in post(plan(own).first).lines)
