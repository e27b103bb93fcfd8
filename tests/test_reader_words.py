"""Nothing is passed over: every letter and every code of the standard is used, or refused with its place and reason.

The two tables say what is used on a mill and on a lathe; all that stands in neither has to be refused.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from bastler.machines import CARDS, Dialect
from bastler.nc import Control, Trace, read
from bastler.nc.codes import GROUP_OF, TURN_GROUP_OF
from bastler.nc.lathe import LATHE as LATHE_CONTROL
from bastler.nc.mill import MILL as MILL_CONTROL

MILL = "G21 G17 G90 G94\nT1 M6\nS1000 M3\nG54 G0 X0 Y0\nG43 H1 Z5\n"
POINTS = dict.fromkeys(range(1, 9), (0.0, 0.0, 0.0))
LATHE = "G21\nG18 G90\nT0101\nG50 S3000\nG97 S1000 M3\nG95\nG0 X62 Z2\n"

ALIKE: dict[str, str] = {
    "G4": "G4 P1",
    "G17": "G17",
    "G18": "G18",
    "G19": "G19",
    "G20": "G20",
    "G21": "G21",
    "G28": "G28",
    "G40": "G40",
    "G53": "G53 G0 Z200",
    "G54": "G54",
    "G54.1": "G54.1 P1",
    "G55": "G55",
    "G56": "G56",
    "G57": "G57",
    "G58": "G58",
    "G59": "G59",
    "G59.1": "G59.1",
    "G59.2": "G59.2",
    "G59.3": "G59.3",
    "G61": "G61",
    "G61.1": "G61.1",
    "G80": "G80",
    "G90": "G90",
    "G90.1": "G90.1",
    "G91": "G91",
    "G91.1": "G91.1",
    "G92.1": "G92.1",
    "G92.2": "G92.2",
    "G92.3": "G92.3",
    "G94": "G94",
    "G95": "G95",
    "G97": "G97",
}
"""Lines that a mill and a lathe read alike."""
MILL_LINES: dict[str, str] = ALIKE | {
    "G0": "G0 X1",
    "G1": "G1 X1 F9",
    "G2": "G2 X2 I1 F9",
    "G3": "G3 X2 I1 F9",
    "G10": "G10 L2 P1 X0",
    "G41": "G41 D1\nG1 X9 F9\nX20\nG40",
    "G42": "G42 D1\nG1 X9 F9\nX20\nG40",
    "G43": "G43 H1",
    "G49": "G49",
    "G52": "G52 X1",
    "G64": "G64",
    "G73": "G73 X1 Y1 Z-3 R1 Q1 F9",
    "G81": "G81 X1 Y1 Z-3 R1 F9",
    "G82": "G82 X1 Y1 Z-3 R1 P1 F9",
    "G83": "G83 X1 Y1 Z-3 R1 Q1 F9",
    "G84": "G84 X1 Y1 Z-3 R1 F9",
    "G85": "G85 X1 Y1 Z-3 R1 F9",
    "G86": "G86 X1 Y1 Z-3 R1 P1 F9",
    "G89": "G89 X1 Y1 Z-3 R1 P1 F9",
    "G92": "G92 X1",
    "G93": "G93",
    "G98": "G98",
    "G99": "G99",
}
LATHE_LINES: dict[str, str] = ALIKE | {
    "G0": "G0 X60",
    "G1": "G1 X60 F0.1",
    "G2": "G2 X60 Z1 R5 F0.1",
    "G3": "G3 X60 Z1 R5 F0.1",
    "G10": "G10 L2 P1 Z0",
    "G32": "G32 Z-5 F1.5",
    "G33": "G33 Z-5 F1.5",
    "G41": "G41\nG1 X50 F0.1\nZ-9\nG40",
    "G42": "G42\nG1 X50 F0.1\nZ-9\nG40",
    "G50": "G50 S2000",
    "G52": "G52 Z1",
    "G70": "G70 P1 Q2\nN1 G1 X50 F0.1\nN2 Z-9",
    "G71": "G71 P1 Q2 U0 W0 D1 F0.1\nN1 G0 X50\nN2 G1 Z-9 F0.1",
    "G72": "G72 P1 Q2 U0 W0 D1 F0.1\nN1 G0 Z-5\nN2 G1 X50 F0.1",
    "G73": "G73 P1 Q2 I2 K1 D2 U0 W0 F0.1\nN1 G0 X50\nN2 G1 Z-9 F0.1",
    "G74": "G74 Z-9 Q3 F0.1",
    "G75": "G75 X50 P2 F0.1",
    "G76": "G76 X58 Z-9 K1 D0.3 F1.5",
    "G83": "G83 X0 Z-5 R3 Q2 F0.1",
    "G84": "G84 X0 Z-5 R3 F1.5",
    "G92": "G92 S2000",
    "G96": "G96 S100",
}
DRIVEN_LINES: dict[str, str] = (
    ALIKE
    | {
        "G0": "G0 X60 Y1",
        "G1": "G1 X60 C9 F90",
        "G2": "G17 G2 X60 Y1 R5 F90",
        "G3": "G17 G3 X60 Y1 R5 F90",
        "G7.1": "G7.1 C20",
        "G10": "G10 L2 P1 Z0",
        "G12.1": "G12.1",
        "G13.1": "G13.1",
        "G31": "G31 W-5 F90",
        "G50": "G50 S2000",
        "G52": "G52 Z1",
        "G92": "G92 S2000",
        "G93": "G93",
        "G98": "G98",
        "G99": "G99",
    }
    | {
        name: line.replace("G8", "G17 G8").replace("G73", "G17 G73")
        for name, line in MILL_LINES.items()
        if name[:2] in ("G7", "G8")
    }
)
"""Of a lathe whose spindle is an axis just now."""
M_USED = {0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 30, 48, 49, 98, 99}
MILL_M: dict[str, str] = {f"M{k}": f"M{k}" for k in M_USED} | {"M6": "T1 M6", "M98": "M98 P7\nM30\nO7\nG0 X1\nM99"}
LATHE_M = {name: line.replace("X1", "X60") for name, line in MILL_M.items() if name != "M6"}
DRIVEN_M = {name: line for name, line in LATHE_M.items() if name not in ("M3", "M4")} | {
    f"M{k}": f"M{k}" for k in (10, 11, 20, 21, 23, 27, 28, 34, 35, 36, 37, 53, 54, 55, 60, 61, 62, 72, 73, 74)
} | {"M71": "M71 P250"}  # fmt: skip
MILL_LETTERS = set("DFGHIJKLMNOPQRSTXYZ")
LATHE_LETTERS = set("DFGIKLMNOPQRSTXZUWAE")
CODES = [f"G{k}" for k in range(100)] + [
    f"G{k}.{j}" for k in (5, 7, 12, 13, 38, 54, 59, 61, 84, 90, 91, 92, 98) for j in (1, 2, 3)
]
FINE = {"offset-unknown", "spindle-back", "never-called"}
"""What these lines may be told that is not about a word."""


def on_mill(text: str) -> Trace:
    lengths = dict.fromkeys(range(1, 10), (0.0, 0.0, 100.0))
    control = Control(
        offsets={1: (0.0, 0.0, 0.0)}, home=(0.0, 0.0, 300.0), reaches=lengths, tool_offsets=lengths, diameters={1: 4.0}
    )
    return read(MILL + text + "\n", control)


def on_lathe(text: str, **dialect: Any) -> Trace:
    given = Dialect(diameter_x=True, **dialect)
    control = Control(dialect=given, turns=True, home=(200.0, 0.0, 300.0), reaches=POINTS, tool_offsets=POINTS)
    return read(LATHE + text + "\n", replace(control, noses={1: (0.8, (0.8, 0.8))}))


def on_driven(text: str) -> Trace:
    """With the work standing, a driven tool before it."""
    given = CARDS["turn-mill-250"].dialect
    control = Control(dialect=given, turns=True, home=(200.0, 0.0, 300.0), reaches=POINTS, tool_offsets=POINTS)
    return read("G21\nG18 G90\nT0202\nM5\nM34\nG94\nS2000 M53\nG0 X62 Z5 C0\n" + text + "\n", control)


def refused(trace: Trace) -> set[str]:
    return {f.code for f in trace.findings if f.level == "stop"} - FINE


@pytest.mark.parametrize("code", CODES)
def test_every_g_word_is_used_or_refused(code: str) -> None:
    for run, used in ((on_mill, MILL_LINES), (on_lathe, LATHE_LINES), (on_driven, DRIVEN_LINES)):
        trace = run(used.get(code, code))
        assert bool(refused(trace)) != (code in used), (run.__name__, trace.findings)


@pytest.mark.parametrize("number", range(100))
def test_every_m_word_is_used_or_refused(number: int) -> None:
    for run, used in ((on_mill, MILL_M), (on_lathe, LATHE_M), (on_driven, DRIVEN_M)):
        trace = run(used.get(f"M{number}", f"M{number}"))
        assert bool(refused(trace)) != (f"M{number}" in used), (run.__name__, trace.findings)


@pytest.mark.parametrize("letter", "ABCDEFHIJKLPQRUVWXYZ")
def test_every_letter_without_a_meaning_in_its_line_is_refused(letter: str) -> None:
    """In a line that only switches coolant no letter but a feed has one."""
    for run, axes in ((on_mill, "XYZ"), (on_lathe, "XZUW"), (on_driven, "XYZWC")):
        trace = run(f"M8 {letter}1")
        assert bool(refused(trace)) == (letter not in axes + "F"), (run.__name__, trace.findings)


@pytest.mark.parametrize(
    "line",
    [
        "G1 X1 R2 F9",
        "G1 X1 K2 F9",
        "G0 X1 I1",
        "G2 X2 I1 K1 F9",
        "I5",
        "R5",
        "G4 P1 X3 Z9",
        "G81 X1 Y1 Z-3 R1 Q1 F9",
        "G81 X1 Y1 Z-3 R1 P1 F9",
        "G43 Z5",
        "M98 P7 X1",
        "G10 L2 P1 X0 R5",
        "G28 X0 R1",
        "T1 M6 D1",
        "G54 P2",
        "G92",
    ],
)
def test_words_of_a_mill_that_nothing_uses(line: str) -> None:
    assert refused(on_mill(line))


@pytest.mark.parametrize(
    "line",
    [
        "G1 X60 R2 F0.1",
        "G1 X60 Z-5 A45 F0.1",
        "G1 X60 K2 F0.1",
        "G32 Z-5 F1.5 Q90",
        "G92 X50 Z-9 F1.5",
        "G92 X50 Z-9",
        "G50 X60 Z2",
        "G98",
        "G99",
        "G93",
        "T1 M6",
        "T5",
        "G96",
        "G71 P1 Q2 U0 W0 D1 F0.1 R1\nN1 G0 X50\nN2 G1 Z-9 F0.1",
        "Y5",
        "G2 X60 Z1 I1 J1 F0.1",
        "G76 P021060 Q0.05 R0.05\nG76 X58 Z-9 P1 Q0.3 F1.5",
        "G75 X50 P2 R1 F0.1",
        "G1 X60 U2 F0.1",
        "G74 X50 Z-9 Q3 F0.1",
    ],
)
def test_words_of_a_lathe_that_nothing_uses(line: str) -> None:
    assert refused(on_lathe(line)), line


def test_the_feed_codes_are_those_of_the_card() -> None:
    other = {"feed_codes": ("G98", "G99")}
    assert not refused(on_lathe("", **other) if "G95" not in LATHE else read_as_99("G98 F80\nG99 F0.1"))
    assert refused(read_as_99("G95"))
    assert refused(read_as_99("G94"))
    assert refused(read_as_99("G90 X50 Z-9 F0.2")), "there it is a turning cycle"
    assert not refused(read_as_99("G90 G0 X50"))


def read_as_99(text: str) -> Trace:
    dialect = Dialect(diameter_x=True, feed_codes=("G98", "G99"))
    control = Control(dialect=dialect, turns=True, home=(200.0, 0.0, 300.0), reaches=POINTS, tool_offsets=POINTS)
    return read(LATHE.replace("G95", "G99") + text + "\n", control)


def test_behind_a_refused_word_nothing_is_run() -> None:
    trace = on_mill("G0 X10\nG0 X20 ?\nG0 X30\nG5 X40")
    assert trace.cut == 7
    assert trace.end[-1, 0] == 10.0
    assert {f.line for f in trace.findings if f.level == "stop"} == {7, 9}, "what else is wrong is said all the same"
    assert any(f.code == "not-run-on" for f in trace.findings)


def test_a_line_with_an_unused_word_is_not_run() -> None:
    assert on_mill("G0 X10\nG1 X20 Q3 F9").end[-1, 0] == 10.0


@pytest.mark.parametrize("end", ["M9M30", "M 30", "M002", "M30"])
def test_lines_behind_the_end_are_never_run(end: str) -> None:
    trace = on_mill(f"G0 X10\n{end}\nG0 X20\nX30")
    assert [(f.code, f.line) for f in trace.findings] == [("never-run", 8)]
    assert not refused(on_mill("G0 X10\nM30\n%"))


def test_a_subprogram_that_nobody_calls_is_said() -> None:
    trace = on_mill("M98 P10\nM30\nO10\nG0 X1\nM99\nO11\nG0 X2\nX3\nM99")
    assert [(f.code, f.line, f.level) for f in trace.findings] == [("never-called", 11, "caution")]


def test_m_words_of_several_groups_stand_in_one_line() -> None:
    trace = on_mill("G1 Z-1 F100 M8\nG0 Z20 M9 M5\nM7 M8")
    assert not trace.findings
    assert trace.end[-1, 2] == 20.0
    assert refused(on_mill("M3 M5"))
    assert refused(on_mill("M8 M9"))


def test_blanks_within_numbers_mean_nothing() -> None:
    trace = on_mill("G0 X 1 0. Y\t2 . 5")
    assert not trace.findings
    assert tuple(trace.end[-1, :2]) == (10.0, 2.5)


def test_a_call_with_its_count_before_the_number() -> None:
    trace = on_mill("M98 P30200\nM30\nO200\nG91 G0 X5\nM99")
    assert not trace.findings
    assert trace.end[-1, 0] == 15.0
    assert on_mill("M98 P10200\nM30\nO10200\nG91 G0 X5\nM99").end[-1, 0] == 5.0, "a program of that number comes first"


def test_home_with_one_axis_moves_that_axis() -> None:
    trace = on_lathe("G0 X62 Z-20\nG28 U0")
    assert tuple(trace.end[-1, [0, 2]]) == (200.0, -20.0)
    trace = on_lathe("G28 W0")
    assert tuple(trace.end[-1, [0, 2]]) == (31.0, 300.0)


def test_inverse_time_goes_by_the_way_of_arcs_and_wants_its_word() -> None:
    trace = on_mill("G93 G1 X10 F2\nG3 I-10 F2\nG3 I-10 Z0 F2")
    assert not trace.findings
    assert trace.feed[-2:] == pytest.approx([2 * 20 * np.pi, 2 * np.hypot(20 * np.pi, 5)])
    assert {f.code for f in on_mill("G93 G1 X10 F2\nX20").findings} >= {"feed-missing"}
    assert refused(on_mill("G93 G81 X1 Y1 Z-3 R1 F9"))


def test_shifts_put_off_and_taken_up_again() -> None:
    trace = on_mill("G92 X100\nG0 X110\nG92.2\nG0 X5\nG92.3\nG0 X120")
    assert not trace.findings
    assert trace.end[-3:, 0].tolist() == [10.0, 5.0, 20.0]


@pytest.mark.parametrize(
    "line", ["G41 D1\nG1 X9 F9\nG42 D1\nX20\nG40", "G18\nG41 D1\nG1 X9 F9\nG40", "G41 D1\nG1 X9 F9\nG19\nG40"]
)
def test_compensation_twice_or_in_another_plane(line: str) -> None:
    assert refused(on_mill(line)) & {"compensated-twice", "compensated-plane"}


@pytest.mark.parametrize(("radius", "fits"), [(1.5, False), (2.5, True)])
def test_an_inside_arc_tighter_than_the_tool(radius: float, fits: bool) -> None:
    """A tool of 4 on the left of a way that turns left: its centre has to fit into the arc."""
    text = f"G1 X0 Y-9 F99\nG41 D1 X0 Y0\nX10\nG3 X{10 + radius} Y{radius} J{radius}\nG1 Y20\nG40 X0"
    assert ("compensated-arc" in refused(on_mill(text))) != fits


def test_the_outline_of_a_cycle_changes_nothing_outside_of_it() -> None:
    cycle = "G71 P1 Q3 U0 W0 D2 F0.2\nN1 G0 X50 S77\nN2 G1 Z-9 F0.1\nN3 X62\nG0 X80"
    trace = on_lathe(cycle)
    assert not refused(trace), trace.findings
    assert set(trace.speed.tolist()[1:]) == {1000.0}
    assert "cycle-lines" in refused(on_lathe(cycle.replace("S77", "M9")))
    assert "cycle-lines" in refused(on_lathe(cycle + "\nG70 P1 Q3")), "speeds of the outline count when it is finished"
    assert "cycle-lines" in refused(on_lathe("N1 G71 P1 Q2 U0 W0 D1 F0.1\nN2 G1 X50 F0.1")), "nor does it contain itself"


@pytest.mark.parametrize("cycle", ["G73 Q1", "G81", "G82 P1", "G83 Q1", "G84", "G85"])
def test_a_hole_of_no_depth_is_gone_to_and_left_again(cycle: str) -> None:
    trace = on_mill(f"{cycle} X5 Y6 Z2 R2 F99\nG80")
    assert not refused(trace)
    assert (trace.end[:, 2] >= 2.0 - 1e-12).all()
    assert trace.end[-1, :2].tolist() == [5.0, 6.0]


def test_constant_surface_speed_goes_over_into_turns() -> None:
    trace = on_lathe("G96 S100\nG1 X40 F0.1\nG97\nX10")
    assert trace.speed[-1] == pytest.approx(100_000 / (np.pi * 40))
    assert on_lathe("G20\nG96 S100\nG1 X1 F0.01").surface[-1] == pytest.approx(100 * 12 * 25.4), (
        "feet, where the text is in inches"
    )


def test_a_tap_comes_back_in_step_without_a_pause() -> None:
    trace = on_lathe("G97 S200\nG0 X0 Z5\nG84 X0 Z-12 R3 F1.25\nG80\nG0 X60")
    assert not trace.findings
    assert [(float(e[2]), float(lead)) for e, lead in zip(trace.end, trace.lead, strict=True) if lead] == [
        (-12.0, 1.25),
        (3.0, 1.25),
    ]
    assert on_lathe("G94\nG97 S200\nG0 X0 Z5\nG84 Z-12 R3 F250\nG80").lead.max() == pytest.approx(1.25)


def test_a_tool_turned_backwards_does_not_cut() -> None:
    assert [f.level for f in on_mill("M4").findings] == ["stop"]


def test_both_controls_are_tables_of_handlers_that_name_their_words() -> None:
    """No word is listed that nobody reads, and none is read that is not listed."""
    assert MILL_CONTROL.known == frozenset(GROUP_OF)
    assert LATHE_CONTROL.known <= frozenset(GROUP_OF) | frozenset(TURN_GROUP_OF)
    assert frozenset(TURN_GROUP_OF) <= LATHE_CONTROL.known
