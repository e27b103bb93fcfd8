"""Corners and slants without places of their own: against exact geometry, in every plane, and what is no corner."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.machines import Dialect
from bastler.nc import Control, Trace, read
from conftest import many

POINTS = dict.fromkeys(range(1, 9), (0.0, 0.0, 0.0))
MILL = Control(dialect=Dialect(), reaches=POINTS, tool_offsets=POINTS, home=(0.0, 0.0, 100.0))
LATHE = Control(dialect=Dialect(diameter_x=True), turns=True, home=(200.0, 0.0, 300.0), reaches=POINTS, tool_offsets=POINTS)
HEAD = "G21 G17 G90 G94\nT1 M6\nS1000 M3\nG54 G0 X0 Y0\nG43 H1 Z0\nF300\n"
TURNED = "G21\nG18 G90\nT0101\nG97 S1000 M3\nG95\nG0 X20 Z0\nF0.2\n"


def run(text: str, control: Control = MILL, head: str = HEAD) -> Trace:
    trace = read(head + text, control)
    assert trace.findings == (), trace.findings
    return trace


def feeds(trace: Trace) -> list[tuple[int, list[float]]]:
    """Kind and end of every feed."""
    return [(int(k), np.round(e, 6).tolist()) for k, e in zip(trace.kind, trace.end, strict=True) if k]


def refused(text: str, control: Control = MILL, head: str = HEAD) -> set[str]:
    return {f.code for f in read(head + text, control).findings if f.level == "stop"}


def test_a_corner_is_rounded_between_two_lines() -> None:
    trace = run("G1 X20 ,R4\nY30\nX0\n")
    assert feeds(trace) == [(1, [16, 0, 0]), (3, [20, 4, 0]), (1, [20, 30, 0]), (1, [0, 30, 0])]
    arc = int(np.flatnonzero(trace.kind == 3)[0])
    assert trace.centre[arc][:2] == pytest.approx((16, 4))
    assert trace.turn[arc] == pytest.approx(math.pi / 2)
    assert trace.line[arc] == HEAD.count("\n")
    assert trace.feed[arc] == 300


def test_a_corner_is_broken_by_as_much_on_both_sides() -> None:
    assert feeds(run("G1 X20 , C 3\n\nY-30,c1.\nX0\n")) == [
        (1, [17, 0, 0]), (1, [20, -3, 0]), (1, [20, -29, 0]), (1, [19, -30, 0]), (1, [0, -30, 0]),
    ]  # fmt: skip


def test_on_a_lathe_a_corner_is_as_large_along_as_across() -> None:
    """X is a diameter, a chamfer and a radius are not."""
    trace = run("G1 X40 ,C2\nZ-20 ,R5\nX60\n", LATHE, TURNED)
    ends = [(kind, round(2 * end[0], 6), end[2]) for kind, end in feeds(trace)]
    assert ends == [(1, 36, 0), (1, 40, -2), (1, 40, -15), (2, 50, -20), (1, 60, -20)]
    arc = int(np.flatnonzero(trace.kind >= 2)[0])
    assert trace.centre[arc][[0, 2]] == pytest.approx((25, -15))


@pytest.mark.parametrize(
    ("text", "end"),
    [("G1 X10 ,A30", (10, 10 * math.tan(math.radians(30)))), ("G1 Y10 ,A135", (-10, 10)), ("G1 Y-5 ,A-90", (0, -5))],
)
def test_of_a_line_one_end_and_its_angle(text: str, end: tuple[float, float]) -> None:
    assert run(text + "\n").end[-1][:2] == pytest.approx(end, abs=1e-9)


@pytest.mark.parametrize("word", ["A150", ",A150"])
def test_the_angle_of_a_cone_is_counted_from_z(word: str) -> None:
    """Ø20 to Ø40 at 150°: 10 outward, and 10 / tan 30° toward the chuck."""
    end = run(f"G1 X40 {word}\n", LATHE, TURNED).end[-1]
    assert (2 * end[0], end[2]) == pytest.approx((40, -10 / math.tan(math.radians(30))))


@pytest.mark.parametrize(
    "text",
    [
        "G1 X20 ,R4\nM30", "G1 X20 ,R4\nG0 Y30", "G1 X20 ,R4\nG2 X40 R10", "G1 X20 ,R4\nX40", "G1 X20 ,R4\nX0",
        "G1 X20 ,R25\nY30", "G1 X20 ,R4\nY3", "G0 X20 ,R4\nG1 Y30", "G1 X20 ,R4 ,C2\nY30", "G1 X20 ,R0\nY30", "G1 X20 ,C-2\nY30",
        "G1 X20 ,R4\nG1 Z-5", "G1 X20 ,R4", "G1 X20 ,R4\nT2 M6\nG1 Y30", "G1 X20 ,R4\nG18\nG1 Z-30", "G1 ,R4\nX20",
        "G1 X5 Y9 ,A20", "G1 ,A20", "G0 X5 ,A20", "G1 X5 ,A90", "G2 X5 ,A20 R9", "G1 X20 ,R4\nG81 X30 Y5 Z-3 R1",
        "X20 ,R4\nG4 P1\nG53 G0 Z0",
    ],
)  # fmt: skip
def test_what_is_no_corner_is_refused(text: str) -> None:
    assert refused(text + "\n")


def test_a_comma_is_nothing_by_itself() -> None:
    for text in ("G1 X20 ,B4", "G1 X20,", "G1 X20 ,,R4", "G1 X20 ,R\nG1 Y4", ", G1 X4"):
        assert "unreadable" in refused(text + "\nG1 X20\n"), text


def test_a_corner_in_the_outline_of_a_cycle() -> None:
    outline = "N10 G0 X20 Z1\nG1 Z-10 ,R3\nX40 ,C1\nN14 Z-30\n"
    trace = run("G71 U2 R0.5\nG71 P10 Q14 U0 W0 F0.2\n" + outline + "G70 P10 Q14\n", LATHE, TURNED.replace("X20 Z0", "X62 Z2"))
    arcs = np.flatnonzero(trace.kind >= 2)
    assert len(arcs) == 2, "once in roughing, once in finishing"
    for arc in arcs:
        assert (2 * trace.end[arc][0], trace.end[arc][2]) == pytest.approx((26, -10))
    assert refused("G70 P1 Q2\nN1 G1 X22 F0.1\nN2 Z-9 ,R1\n", LATHE, TURNED) == {"corner"}


def test_a_corner_under_compensation_is_one_of_the_outline() -> None:
    """A square with rounded corners, cut on its left with 5 of radius: the corners are 5 larger."""
    control = Control(
        dialect=Dialect(), reaches=POINTS, tool_offsets=POINTS, home=(0.0, 0.0, 100.0), diameters=dict.fromkeys(POINTS, 10.0)
    )
    text = "G0 X-20 Y-20\nG41 D1\nG1 X0 Y-10\nY30 ,R4\nX30 ,R4\nY0\nX-10\nG40\nG1 X-20 Y-20\n"
    trace = read(HEAD + text, control)
    assert [f for f in trace.findings if f.level == "stop"] == []
    arcs = [k for k in np.flatnonzero(trace.kind >= 2) if np.hypot(*(trace.centre[k] - [4, 26, 0])[:2]) < 1e-6]
    assert len(arcs) == 1
    assert math.dist(trace.start[arcs[0]][:2], (4, 26)) == pytest.approx(9.0)


@settings(max_examples=many(60))
@given(
    st.lists(
        st.tuples(st.floats(5.0, 40.0), st.floats(-2.6, 2.6), st.sampled_from("CR"), st.floats(0.1, 1.5)), min_size=2, max_size=7
    ),
    st.sampled_from(["G17", "G18", "G19"]),
)
def test_of_any_outline_the_way_stays_joined_and_keeps_its_corners_size(bits: list[Any], plane: str) -> None:
    """Straight pieces with corners between them: each row begins where the last one ends, chamfers and radii touch both lines,
    and an arc leaves the line where it is tangent to it."""
    names = {"G17": "XY", "G18": "ZX", "G19": "YZ"}[plane]
    axes = ["XYZ".index(name) for name in names]
    at, heading, lines, corners = np.zeros(2), 0.0, [plane, "G1"], []
    for k, (long, bend, kind, size) in enumerate(bits):
        heading += bend if k else 0.0
        at = at + long * np.array([math.cos(heading), math.sin(heading)])
        last = k == len(bits) - 1
        lines.append(f"{names[0]}{at[0]:.6f} {names[1]}{at[1]:.6f}" + ("" if last else f" ,{kind}{size:.4f}"))
        if not last:
            corners.append((at, kind, round(size, 4)))
    bends = [abs(bend) for _, bend, _, _ in bits[1:]]
    trace = read(HEAD + "\n".join(lines) + "\n", MILL)
    if any(f.level == "stop" for f in trace.findings):
        assert min(bends) < 1e-3 or max(size * math.tan(b / 2) for (_, _, _, size), b in zip(bits, bends, strict=False)) > 1.5
        return
    rows = np.flatnonzero(trace.kind)
    assert np.allclose(trace.start[rows][1:], trace.end[rows][:-1], atol=1e-9)
    assert len(rows) == len(bits) + len(corners)
    for k, (corner, kind, size) in enumerate(corners):
        row = rows[2 * k + 1]
        start, end = trace.start[row][axes], trace.end[row][axes]
        assert np.hypot(*(start - corner)) == pytest.approx(np.hypot(*(end - corner)), abs=1e-4)
        if kind == "C":
            assert np.hypot(*(start - corner)) == pytest.approx(size, abs=1e-4)
        else:
            centre = trace.centre[row][axes]
            assert np.hypot(*(start - centre)) == pytest.approx(size, abs=1e-4)
            came = trace.end[rows[2 * k]][axes] - trace.start[rows[2 * k]][axes]
            assert abs(came @ (start - centre)) == pytest.approx(0.0, abs=1e-3)


def test_a_corner_that_the_one_before_it_has_left_no_room_is_told_as_that() -> None:
    """R30 takes the whole of the second line; the chamfer at its end finds nothing."""
    (found,) = [f for f in read(HEAD + "G1 X60 ,R30\nY30 ,C3\nX0\n", MILL).findings if f.level == "stop"]
    assert (found.code, found.line) == ("corner", HEAD.count("\n") + 2)
    assert "nothing is left" in found.text
