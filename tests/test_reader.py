"""Reading RS-274: what words do, and what is said about bad ones."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.machines import Dialect
from bastler.nc import FEED, LEFT, RAPID, Control, Trace, read

START = "G21 G17 G90 G94\nT1 M6\nS1000 M3\nG54 G0 X0 Y0\nG43 H1 Z5\n"


def run(text: str, control: Control, start: str = START) -> Trace:
    return read(start + text, control)


def ends(trace: Trace, count: int) -> list[tuple[float, ...]]:
    """The last end points, rounded."""
    return [tuple(round(float(v), 6) for v in p) for p in trace.end[-count:]]


def found(trace: Trace) -> set[str]:
    return {f.code for f in trace.findings}


def test_straight_moves_and_modal_words(control: Control) -> None:
    trace = run("G1 X10 F200\nY5\nG0 Z2\n", control)
    assert ends(trace, 3) == [(10, 0, 5), (10, 5, 5), (10, 5, 2)]
    assert list(trace.kind[-3:]) == [FEED, FEED, RAPID]
    assert list(trace.feed[-3:]) == [200, 200, 0]
    assert list(trace.line[-3:]) == [5, 6, 7]
    assert not trace.findings


def test_words_may_stand_close_and_small(control: Control) -> None:
    assert ends(run("g1x1.5y-.5f100\nn20 X 2 Y +3\n", control), 2) == [(1.5, -0.5, 5), (2, 3, 5)]


def test_increments_and_inches(control: Control) -> None:
    assert ends(run("G91 G1 X1 F100\nX1\nG90 X1\nG20 X1\n", control), 4) == [(1, 0, 5), (2, 0, 5), (1, 0, 5), (25.4, 0, 5)]
    trace = run("G20 G1 X1 F10\n", control)
    assert trace.feed[-1] == 254


@pytest.mark.parametrize(
    ("words", "turn", "centre"),
    [
        ("G3 X0 Y20 I-10 J0", math.pi / 2, (0, 10)),
        ("G2 X0 Y20 I-10 J0", -1.5 * math.pi, (0, 10)),
        ("G3 X0 Y20 R10", math.pi / 2, (0, 10)),
        ("G3 X0 Y20 R-10", 1.5 * math.pi, (10, 20)),
        ("G2 X0 Y20 R10", -math.pi / 2, (10, 20)),
        ("G3 I-10", 2 * math.pi, (0, 10)),
    ],
)
def test_arcs_in_both_forms(words: str, turn: float, centre: tuple[float, float], control: Control) -> None:
    trace = run(f"G1 X10 Y10 F100\n{words}\n", control)
    assert trace.turn[-1] == pytest.approx(turn)
    assert trace.centre[-1][:2] == pytest.approx(centre)
    assert not trace.findings
    assert trace.lengths()[-1] == pytest.approx(abs(turn) * 10)


def test_a_helix_is_as_long_as_it_is(control: Control) -> None:
    trace = run("G1 X10 F100\nG3 I-10 Z-5\n", control)
    assert trace.kind[-1] == LEFT
    assert trace.lengths()[-1] == pytest.approx(math.hypot(2 * math.pi * 10, 10))


def test_arcs_in_other_planes(control: Control) -> None:
    trace = run("G18 G1 X0 Z0 F100\nG3 X10 Z10 I10 K0\n", control)
    assert trace.kind[-1] == LEFT, "seen against +Y the first axis of this plane is Z"
    assert tuple(trace.centre[-1]) == pytest.approx((10, 0, 0))
    assert abs(trace.turn[-1]) == pytest.approx(math.pi / 2)
    trace = run("G19 G1 Y0 Z0 F100\nG3 Y10 Z10 J0 K10\n", control)
    assert tuple(trace.centre[-1]) == pytest.approx((0, 0, 10))


def test_absolute_arc_centres(control: Control) -> None:
    assert run("G90.1 G1 X10 F100\nG3 X0 Y10 I0 J0\n", control).turn[-1] == pytest.approx(math.pi / 2)


def test_drilling_cycles_go_where_they_should(control: Control) -> None:
    trace = run("G99 G81 X10 Y0 Z-3 R1 F50\nX20\nG80\n", control)
    assert ends(trace, 7) == [(10, 0, 5), (10, 0, 1), (10, 0, -3), (10, 0, 1), (20, 0, 1), (20, 0, -3), (20, 0, 1)]
    trace = run("G98 G81 X10 Y0 Z-3 R1 F50\nG80\n", control)
    assert ends(trace, 1) == [(10, 0, 5)]


def test_pecks(control: Control) -> None:
    trace = run("G98 G83 X1 Y0 Z-5 R1 Q2.5 F50\nG80\n", control)
    heights = [z for _, _, z in ends(trace, len(trace))[-7:]]
    assert heights == [1, -1.0, -4, 1, -3.5, -5, 5]
    deepest = [float(z) for z, kind in zip(trace.end[:, 2], trace.kind, strict=True) if kind == FEED]
    assert deepest == [-1.5, -4.0, -5.0]
    trace = run("G98 G73 X1 Y0 Z-5 R1 Q2.5 F50\nG80\n", control)
    rises = [float(z) for z, kind in zip(trace.end[:, 2], trace.kind, strict=True) if kind == RAPID][-3:]
    assert rises == [-1.0, -3.5, 5.0]


def test_pecks_in_increments_are_tenths_of_what_they_look_like(control: Control) -> None:
    old = msgspec.structs.replace(Dialect(), peck_unit="increment", dwell_unit="ms")
    from dataclasses import replace

    other = replace(control, dialect=old)
    trace = run("G98 G83 X1 Y0 Z-5 R1 Q2500 F50\nG80\nG4 P500\n", other)
    assert [float(z) for z, k in zip(trace.end[:, 2], trace.kind, strict=True) if k == FEED] == [-1.5, -4.0, -5.0]
    assert trace.events[-1].value == 0.5


def test_dwells_repeats_and_incremental_cycles(control: Control) -> None:
    trace = run("G91 G99 G82 X10 Z-4 R-4 P1.5 L3 F50\nG80\n", control)
    bottoms = [tuple(p) for p, k in zip(trace.end, trace.kind, strict=True) if k == FEED]
    assert bottoms == [(10, 0, -3), (20, 0, -3), (30, 0, -3)]
    assert [e.value for e in trace.events if e.what == "dwell"] == [1.5, 1.5, 1.5]


def test_a_tap_goes_back_in_feed(control: Control) -> None:
    trace = run("G98 G84 X0 Y0 Z-5 R2 F500\nG80\n", control)
    assert list(trace.kind[-3:]) == [FEED, FEED, RAPID]


def test_work_offsets_move_the_part(control: Control) -> None:
    from dataclasses import replace

    two = replace(control, offsets={1: (0.0, 0.0, 0.0), 2: (100.0, 0.0, 0.0), 7: (0.0, 50.0, 0.0), 103: (0.0, 0.0, 7.0)})
    trace = run("G55 G0 X0 Y0\nG59.1 X0 Y0\nG54.1 P3 X0 Y0 Z0\n", two)
    assert ends(trace, 3) == [(100, 0, 5), (0, 50, 5), (0, 0, 7)]
    assert list(trace.offset[-3:]) == [2, 7, 103]


def test_g10_g92_and_g53(control: Control) -> None:
    assert ends(run("G10 L2 P1 X10 Y0 Z0\nG0 X0 Y0\n", control), 1) == [(10, 0, 5)]
    assert ends(run("G0 X10\nG10 L20 P1 X0\nG0 X5\n", control), 1) == [(15, 0, 5)]
    assert ends(run("G0 X10\nG92 X0\nG0 X5\nG92.1\nG0 X5\n", control), 2) == [(15, 0, 5), (5, 0, 5)]
    assert ends(run("G53 G0 Z300\n", control), 1) == [(0, 0, 200)]


def test_home_goes_through_the_point_between(control: Control) -> None:
    trace = run("G1 X30 Y30 Z-5 F100\nG91 G28 Z5\n", control)
    assert ends(trace, 2) == [(30, 30, 0), (30, 30, 200)]


def test_a_missing_length_offset_shows_where_the_tip_really_is(control: Control) -> None:
    trace = read("G21 G90\nT1 M6\nG0 X0 Y0\nZ5\n", control)
    assert ends(trace, 1) == [(0, 0, -95)]


def test_the_wrong_length_offset_is_said(control: Control) -> None:
    assert "length-offset" in found(run("G43 H2 Z5\n", control))
    assert "length-offset" in found(run("G43 H77 Z5\n", control))


def test_subprograms(control: Control) -> None:
    text = START + "M98 P10 L2\nG90 G0 X0\nM30\nO10\nG91 G0 X5\nM99\n"
    assert ends(read(text, control), 3) == [(5, 0, 5), (10, 0, 5), (0, 0, 5)]
    assert "subprogram" in found(run("M98 P77\n", control))
    assert "subprogram" in found(run("O5\nM98 P5\nM99\n", control))


def test_nothing_runs_after_the_end(control: Control) -> None:
    assert len(run("M30\nG0 X50\n", control)) == len(run("", control))


def test_block_delete_is_a_choice(control: Control) -> None:
    text = START + "/G0 X50\n"
    assert ends(read(text, control), 1) == [(50, 0, 5)]
    assert ends(read(text, control, skip_deleted=True), 1) == [(0, 0, 5)]


def test_feed_modes(control: Control) -> None:
    assert run("G95 G1 X10 F0.2\n", control).feed[-1] == pytest.approx(200)
    assert run("G93 G1 X10 F2\n", control).feed[-1] == pytest.approx(20)


@pytest.mark.parametrize(
    ("line", "code", "column"),
    [
        ("G0 G1 X5 F10", "modal-group", 4),
        ("G90 G91 X5", "modal-group", 5),
        ("M3 M5", "modal-group", 4),
        ("G17 X1 X2 F100", "modal-group", 8),
        ("X1 X2", "word-twice", 1),
        ("G1 X5", "feed-missing", 1),
        ("G2 X10 Y0", "arc-centre", 1),
        ("G2 X10 Y0 I1 F100", "arc-radius", 1),
        ("G2 X10 Y0 R1 F100", "arc-radius", 1),
        ("G2 X10 I5 R5 F100", "arc-centre", 1),
        ("G83 X0 Y0 Z-1 R1 F10", "peck-missing", 1),
        ("G81 X0 Y0 R1 F10", "cycle-word", 1),
        ("G81 X0 Y0 Z3 R1 F10", "cycle-depth", 11),
        ("G5.1 X1", "unknown-word", 1),
        ("M77", "unknown-word", 1),
        ("G0 A90", "unknown-word", 4),
        ("X", "unreadable", 1),
        ("G1 X[1+]", "formula", 8),
        ("#1", "formula", 2),
        ("(open", "unreadable", 1),
        ("G0 X1 ?", "unreadable", 7),
        ("G58 G0 X1", "offset-unknown", 1),
        ("T77 M6", "tool-unknown", 5),
        ("G41 D1", "compensation", 1),
        ("G53 G2 X1 I1 F100", "machine-move", 1),
    ],
)
def test_faults_are_named_with_line_and_column(line: str, code: str, column: int, control: Control) -> None:
    trace = run(f"{line}\nG0 X0\n", control)
    here = [f for f in trace.findings if f.line == 6]
    assert here, trace.findings
    assert all(f.text.endswith(".") for f in here)
    if column:
        assert (code, column) in {(f.code, f.column) for f in here}
    assert not [f for f in trace.findings if f.line == 7], "one fault must not spoil the next line"


def test_comments_and_tape_marks_are_passed_over(control: Control) -> None:
    assert ends(run("%\n(a G0 X99) G0 X3 ; X77\n\n", control), 1) == [(3, 0, 5)]


@given(st.text(alphabet="GMXYZIJKRFSTPQLNO0123456789.-+ \n()/%;#[]", max_size=120))
def test_rubbish_never_breaks_the_reader(text: str) -> None:
    trace = read(text, Control())
    assert np.isfinite(trace.end).all()
    assert all(1 <= f.line <= trace.line_count + 1 and f.column >= 1 for f in trace.findings)


@given(st.lists(st.tuples(st.floats(-500, 500), st.floats(-500, 500)), min_size=1, max_size=20))
def test_posted_numbers_come_back(points: list[tuple[float, float]]) -> None:
    control = Control()
    text = "G21 G90 F100\nG1\n" + "".join(f"X{x:.3f} Y{y:.3f}\n" for x, y in points)
    trace = read(text, control)
    assert np.allclose(trace.end[:, :2], [(float(f"{x:.3f}"), float(f"{y:.3f}")) for x, y in points], atol=1e-9)


@pytest.mark.parametrize("line", ["G91 X10 L4", "G91 X10 K4"])
def test_a_cycle_is_not_taken_from_g90_into_g91_in_silence(line: str) -> None:
    """Some controls keep places, others the words: then the same line drills elsewhere."""
    head = "G21 G90\nT1 M6\nS1000 M3\nG54 G0 X0 Y0\nG43 H1 Z5\nG81 X0 Y0 Z-5 R2 F100\n"
    control = Control(reaches={1: (0.0, 0.0, 50.0)}, tool_offsets={1: (0.0, 0.0, 50.0)}, home=(0.0, 0.0, 300.0))
    assert "cycle-word" in {f.code for f in read(head + line + "\nG90 G80\n", control).findings}
    again = read(head + line.replace("X10", "X10 Z-7 R-3") + "\nG90 G80\n", control)
    assert not again.findings
    assert sorted({round(x, 6) for x in again.end[again.end[:, 2] == -5.0, 0].tolist()}) == [0.0, 10.0, 20.0, 30.0, 40.0]
