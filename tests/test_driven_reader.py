"""Reading programs of turning machines with C, Y and driven tools, none of them written here: where the tool is on the part."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.machines import CARDS
from bastler.nc import Control, ReadBefore, Trace, read
from bastler.proof.mill.segments import pieces

POINTS = dict.fromkeys(range(1, 13), (0.0, 0.0, 0.0))
WITH_Y, PLAIN = CARDS["turn-mill-250"].dialect, CARDS["lathe-driven"].dialect
HEAD = "G21\nG18 G90\nT0202\nM5\nM34\nG94\nS2000 M53\nG0 X60 Z5 C0\n"
"""Up to a driven tool over the work, C at 0."""


def control(**more: Any) -> Control:
    given: dict[str, Any] = {"reaches": POINTS, "tool_offsets": POINTS, "dialect": WITH_Y} | more
    return Control(turns=True, home=(200.0, 0.0, 300.0), **given)


def run(text: str, head: str = HEAD, **more: Any) -> Trace:
    trace = read(head + text, control(**more))
    assert trace.findings == (), trace.findings
    return trace


def minutes(trace: Trace, begin: int = 0) -> float:
    """How long the feeds from a row on last."""
    fed = trace.kind[begin:] > 0
    return float((trace.lengths()[begin:][fed] / trace.feed[begin:][fed]).sum())


# -- places --------------------------------------------------------------------------------------------------


def test_holes_by_turning_the_work() -> None:
    trace = run("G17\nG0 X40\nG99 G83 Z-12 R2 Q5 F150\nC90\nC210\nG80\nM55\nM35\n")
    deep = trace.end[trace.end[:, 2] < -11.9]
    found = {(round(x, 6), round(y, 6)) for x, y, _ in deep.tolist()}
    cos, sin = 20 * math.cos(math.radians(210)), 20 * math.sin(math.radians(210))
    assert found == {(20.0, 0.0), (0.0, 20.0), (round(cos, 6), round(sin, 6))}
    assert trace.stands[-1]
    assert (trace.speed[trace.stands][1:] == 2000).all(), "that of the tool"


@pytest.mark.parametrize("repeats", ["K6", "L6"])
def test_a_cycle_repeated_by_steps_of_c_goes_on_round(repeats: str) -> None:
    """Holes on a circle by X, C and K: each repetition turns the work by as much again."""
    trace = run(f"G17\nG0 X40 Z5 C-60\nG91\nG81 C60 Z-10 R-3 F100 {repeats}\nG90 G80\n")
    bottoms = trace.end[trace.end[:, 2] == -8.0]
    assert len(bottoms) == 6
    found = np.degrees(np.arctan2(bottoms[:, 1], bottoms[:, 0])) % 360.0
    assert found == pytest.approx([0.0, 60.0, 120.0, 180.0, 240.0, 300.0], abs=1e-9)
    assert np.hypot(bottoms[:, 0], bottoms[:, 1]) == pytest.approx(np.full(6, 20.0))


def test_c_alone_goes_round_at_degrees_a_minute() -> None:
    trace = run("G0 X40 Z-5\nG1 C360 F720\n")
    ring = trace.line == trace.line[-1]
    assert np.hypot(*trace.end[ring, :2].T) == pytest.approx(20.0)
    middle = (trace.start[ring, :2] + trace.end[ring, :2]) / 2
    assert (20.0 - np.hypot(*middle.T)).max() <= 0.001
    assert minutes(trace) == pytest.approx(0.5)
    assert (trace.angle[ring][0, 0], trace.angle[ring][-1, 1]) == (0.0, 360.0)


def test_x_with_c_is_a_spiral_as_fast_as_x_is_told() -> None:
    trace = run("G0 X40 Z-5\nG1 X20 C180 F100\n")
    own = trace.line == trace.line[-1]
    for place, (_, c) in zip(trace.end[own], trace.angle[own], strict=True):
        radius = 20 - 10 * c / 180
        assert place[:2] == pytest.approx((radius * math.cos(math.radians(c)), radius * math.sin(math.radians(c))))
    assert minutes(trace) == pytest.approx(10 / 100)


def test_y_turns_with_c() -> None:
    trace = run("G17\nG0 C90\nG1 X40 Y5 F100\n")
    assert trace.end[-1] == pytest.approx((-5.0, 20.0, 5.0))


def test_arcs_in_every_plane_stay_arcs() -> None:
    face = run("G17\nG0 C90\nG1 X20 Y0 F100\nG3 X0 Y10 I-10 J0\n")
    assert face.turn[-1] == pytest.approx(math.pi / 2)
    assert face.centre[-1, :2] == pytest.approx((0.0, 0.0))
    assert face.end[-1, :2] == pytest.approx((-10.0, 0.0))


@pytest.mark.parametrize("angle", [0.0, 30.0, -110.0, 725.0])
def test_an_arc_across_the_axis_lies_in_a_plane_that_is_turned_with_the_part(angle: float) -> None:
    trace = run(f"G19\nG0 C{angle:g}\nG1 X40 Y6 Z-20 F100\nG2 X38 Y-6 J-6 K0\n")
    a = math.radians(angle)
    axes = np.array([[math.cos(a), math.sin(a), 0.0], [-math.sin(a), math.cos(a), 0.0], [0.0, 0.0, 1.0]])
    assert trace.turn[-1] == pytest.approx(-math.pi)
    assert axes @ trace.start[-1] == pytest.approx((20.0, 6.0, -20.0))
    assert axes @ trace.end[-1] == pytest.approx((19.0, -6.0, -20.0))
    assert axes @ trace.centre[-1] == pytest.approx((20.0, 0.0, -20.0))
    assert trace.lengths()[-1] == pytest.approx(math.hypot(6.0 * math.pi, 1.0))
    segments, _ = pieces(trace, len(trace) - 1, len(trace), chord=1e-4, longest=np.inf)
    there = segments[:, 3:] @ axes.T
    assert np.hypot(there[:, 1], there[:, 2] + 20.0) == pytest.approx(6.0, abs=1e-4)
    assert np.diff(there[:, 0]) == pytest.approx(-1.0 / len(there), abs=1e-9), "it goes in evenly all the while"
    low, high = trace.extremes
    assert (low[-1, 2], high[-1, 2]) == pytest.approx((-26.0, -20.0))


def test_holes_are_drilled_along_x_in_g19() -> None:
    trace = run("G19\nG0 C90\nG0 X70 Y0 Z-10\nG98 G83 X30 R64 Q4 F100\nY5 Z-20\nG80\n")
    a, b = trace.end[trace.kind > 0][:, 1].min(), trace.end[:, 1]
    assert a == pytest.approx(15.0), "X counts as a diameter, and so does R"
    assert trace.start[trace.kind > 0][0, 1] == pytest.approx(32.0)
    assert b[-1] == pytest.approx(35.0), "back to where it came from"
    assert trace.end[-1] == pytest.approx((-5.0, 35.0, -20.0))


def test_polar_interpolation_is_the_plane_of_the_face() -> None:
    trace = run("G12.1\nG1 X24 C0 F300\nG1 Z-4\nC8\nX-24\nC-8\nX16\nG3 X24 C-4 R4\nG1 C0\nG13.1\nG0 Z5\nG1 C90 F90\n")
    corners = [tuple(np.round(e, 6)) for e in trace.end[trace.polar].tolist()]
    assert corners[2:6] == [(12, 8, -4), (-12, 8, -4), (-12, -8, -4), (8, -8, -4)]
    arc = np.flatnonzero(trace.turn != 0.0)
    assert trace.centre[arc[0], :2] == pytest.approx((8.0, -4.0))
    assert trace.end[-1, :2] == pytest.approx((0.0, 12.0)), "from C0 on, where it left"


def test_polar_interpolation_leaves_c_where_the_tool_is() -> None:
    trace = run("G12.1\nG1 X0 C10 F300\nG13.1\nG0 X40\n")
    assert trace.angle[-1] == pytest.approx((90.0, 90.0))
    assert trace.end[-1, :2] == pytest.approx((0.0, 20.0))


@pytest.mark.parametrize("plane", ["G18", "G19"])
def test_cylindrical_interpolation_is_the_unrolled_round(plane: str) -> None:
    """A semicircle round a place of the unrolled Ø40: all its places are as far from it, on its own side for each plane."""
    quarter = math.degrees(5.0 / 20.0)
    trace = run(f"G0 X40 Z-10\nG7.1 C20\n{plane}\nG1 C{quarter} F200\nG3 C{-quarter} R5.0001\nG1 C0 Z-30\nG7.1 C0\n")
    assert np.hypot(*trace.end[3:, :2].T) == pytest.approx(20.0)
    arc = trace.line == len(HEAD.splitlines()) + 4
    u = 20.0 * np.arctan2(trace.end[arc, 1], trace.end[arc, 0])
    z = trace.end[arc, 2]
    assert np.hypot(u, z + 10.0) == pytest.approx(5.0, abs=0.04)
    side = 1.0 if plane == "G19" else -1.0
    assert z[len(z) // 2] == pytest.approx(-10.0 + side * 5.0, abs=0.04)
    last = trace.line == len(HEAD.splitlines()) + 5
    assert minutes(trace, int(np.flatnonzero(last)[0])) == pytest.approx(math.hypot(5.0, 20.0) / 200, rel=1e-6)


def test_feed_per_turn_is_the_driven_tool_s() -> None:
    trace = run("G95\nG1 Z-5 F0.1\n")
    assert trace.feed[-1] == pytest.approx(0.1 * 2000)


def test_degrees_a_minute_are_so_in_inches_too() -> None:
    trace = run("G20\nG0 X1.5 Z-.2\nG1 C360 F720\n")
    assert minutes(trace) == pytest.approx(0.5)


def test_inches_and_diameters_hold_for_x_alone() -> None:
    trace = run("G17\nG20\nG12.1\nG1 X1 C.25 F10\n", unit="mm")
    assert trace.end[-1, :2] == pytest.approx((12.7, 6.35))


def test_turning_after_milling_is_turning() -> None:
    trace = run("M55\nM35\nG18\nG97 S800 M3\nG95\nG1 X50 F0.2\n")
    assert not trace.stands[-1]
    assert trace.speed[-1] == 800
    assert trace.end[-1] == pytest.approx((25.0, 0.0, 5.0))


def test_a_lathe_without_interpolation_reads_the_moves_that_stand_for_it() -> None:
    head = "G18 G90\nT0202\nM5\nM40\nG98\nM13 S2000\nG0 X60 Z5 C0\n"
    trace = run("G1 X24 C0 F300\nX30 C30\n", head=head, dialect=PLAIN)
    assert trace.end[-1, :2] == pytest.approx((15 * math.cos(math.radians(30)), 15 * math.sin(math.radians(30))))


# -- nothing is passed over in silence -----------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("M35\nG1 C90 F100\n", "c-axis"),
        ("M35\nG1 Y9 F100\n", "c-axis"),
        ("M3 S500\n", "c-axis"),
        ("M35\nM36\n", "c-axis"),
        ("M36\nG0 C90\n", "c-clamped"),
        ("M36\nG12.1\n", "c-clamped"),
        ("M35\nG12.1\n", "interpolation"),
        ("G0 C90\nG12.1\n", "interpolation"),
        ("G17\nG1 Y4 F90\nG12.1\n", "interpolation"),
        ("G12.1\nG7.1 C20\n", "interpolation"),
        ("G12.1\nG1 Y4 F90\n", "interpolation"),
        ("G12.1\nG0 X20\n", "interpolation"),
        ("G7.1\n", "interpolation"),
        ("G7.1 C-4\n", "interpolation"),
        ("G7.1 C20\nG17\nG2 C20 R20 F90\n", "interpolation"),
        ("G12.1\nM35\n", "c-axis"),
        ("G12.1\nG83 Z-5 R1 Q2 F90\n", "cycle-plane"),
        ("G96 S100\n", "speed"),
        ("G1 G42 X50 F90\n", "not-followed"),
        ("G76 X50 Z-9 P1 Q1 F1\n", "not-followed"),
        ("M54\n", "spindle-back"),
        ("G12.1\nG28 X0\n", "interpolation"),
        ("G12.1\nG53 G1 X90\n", "interpolation"),
        ("G12.1\nG55\n", "interpolation"),
        ("G12.1\nT0404\n", "interpolation"),
        ("G7.1 C20\nG52 X4\n", "interpolation"),
        ("M55\nM35\nG97 S500 M3\nG82 Z-20 R2 P1 F80\n", "not-followed"),
        ("M35\nG42 G1 X50 F90\nM34\n", "compensation"),
        ("G1 C90 F0\n", "feed-missing"),
        ("G2 X50 C90 I5 F90\n", "c-axis"),
        ("M99 H4\n", "word-unused"),
        ("G1 B4 F90\n", "unknown-word"),
        ("G0 C999999999\n", "unreadable"),
        ("G1 C9999999 F90\n", "too-long"),
        ("G7.1 C0.001\nG1 C9999999 F90\n", "too-long"),
    ],
)
def test_what_cannot_be_is_said(text: str, code: str) -> None:
    found = read(HEAD + text, control())
    assert code in {f.code for f in found.findings}, found.findings


@pytest.mark.parametrize("text", ["M34\n", "G12.1\n", "G7.1 C20\n", "G1 C20 F90\n", "M53\n"])
def test_a_lathe_without_an_axis_knows_none_of_it(text: str) -> None:
    head = "G18 G90\nT0101\nG97 S500 M3\nG94\nG0 X60 Z5\n"
    found = read(head + text, control(dialect=CARDS["lathe-200"].dialect))
    assert {f.code for f in found.findings} & {"unknown-word"}


def test_the_work_still_turns() -> None:
    found = read("G18 G90\nT0202\nG97 S500 M3\nM34\n", control())
    assert [f.code for f in found.findings] == ["c-axis"]


def test_without_its_offset_a_tool_under_polar_interpolation_is_refused() -> None:
    far = dict.fromkeys(range(1, 13), (30.0, 0.0, 0.0))
    head = HEAD.replace("T0202", "T0200")
    found = read(head + "G12.1\nG1 X20 C0 F90\n", control(reaches=far, tool_offsets=far))
    assert "interpolation" in {f.code for f in found.findings}


# -- properties ----------------------------------------------------------------------------------------------

places = st.tuples(st.floats(2.0, 30.0), st.floats(-180.0, 180.0), st.floats(-20.0, 5.0))


@given(st.lists(places, min_size=1, max_size=6), st.floats(-8.0, 8.0))
def test_every_place_is_where_x_y_and_c_say(found: list[tuple[float, float, float]], y: float) -> None:
    text = "".join(f"G1 X{2 * x:.4f} Y{y:.4f} Z{z:.4f} C{c:.4f} F90\n" for x, c, z in found)
    trace = run(text)
    for k, (x, c, z) in enumerate(found):
        row = np.flatnonzero(trace.line == len(HEAD.splitlines()) + k)[-1]
        a = math.radians(c)
        there = (x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a), z)
        assert trace.end[row] == pytest.approx(there, abs=2e-4)
    joined = np.abs(trace.start[2:] - trace.end[1:-1]).max(initial=0.0)
    assert joined < 1e-9, "each move begins where the last one ended"


WORDS = (
    "G1 X30 F90", "G0 C40", "G1 C200 F500", "G17", "G19", "G18", "Y3", "Y0", "G12.1", "G13.1", "G7.1 C15", "G7.1 C0", "M36",
    "M37", "M35", "M34", "G3 X20 R30", "G83 Z-3 R1 Q1 F50", "G80", "Z-5", "C-30", "M55", "M53 S900", "M3 S400", "M5", "G91",
    "G90", "G28 X0", "T0404",
)  # fmt: skip


@given(st.lists(st.sampled_from(WORDS), max_size=14), st.integers(0, 13))
def test_read_again_is_read_anew(lines: list[str], at: int) -> None:
    """A program of any words, and after one of its lines is another: as from nothing."""
    before = ReadBefore()
    own = HEAD + "".join(line + "\n" for line in lines)
    breaks = range(0, len(own.splitlines()), 3)
    read(own, control(), before=before, breaks=breaks)
    changed = [*lines]
    if changed:
        changed[at % len(changed)] = "G1 X44 Z-2 F80"
    for text in (own, HEAD + "".join(line + "\n" for line in changed)):
        again, fresh = read(text, control(), before=before, breaks=breaks), read(text, control())
        assert again.findings == fresh.findings
        for name in ("start", "end", "turn", "centre", "feed", "speed", "angle", "stands", "polar", "tool"):
            assert np.array_equal(getattr(again, name), getattr(fresh, name)), name
