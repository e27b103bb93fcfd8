"""Figures of threads and drills against the tables of the standards, the source beside each."""

from __future__ import annotations

import math

import pytest

from bastler.cutting import thread_of
from bastler.tools import TurnTool

ISO_724 = {  # pitch diameter d2 and minor diameter D1 in mm, ISO 724:1993 table 1
    "M3": (2.675, 2.459), "M4": (3.545, 3.242), "M5": (4.480, 4.134), "M6": (5.350, 4.917), "M8": (7.188, 6.647),
    "M10": (9.026, 8.376), "M12": (10.863, 10.106), "M16": (14.701, 13.835), "M20": (18.376, 17.294), "M24": (22.051, 20.752),
    "M30": (27.727, 26.211), "M24 x 1.5": (23.026, 22.376), "M42 x 1.5": (41.026, 40.376),
}  # fmt: skip
ISO_228 = {  # major d, pitch d2, minor d1 in mm, ISO 228-1 table 1
    "G 1/4": (13.157, 12.301, 11.445), "G 1/2": (20.955, 19.793, 18.631), "G 3/4": (26.441, 25.279, 24.117),
    "G 1": (33.249, 31.770, 30.291),
}  # fmt: skip
ISO_2904 = {  # pitch d2, nut's major D4, bolt's minor d3, nut's minor D1 in mm, ISO 2904 / ISO 2902
    "Tr 20 x 4": (18.0, 20.5, 15.5, 16.0), "Tr 36 x 6": (33.0, 37.0, 29.0, 30.0), "Tr 40 x 7": (36.5, 41.0, 32.0, 33.0),
}  # fmt: skip
ISO_7 = {"R 1/8": 4.0, "R 1/4": 6.0, "R 3/8": 6.4, "R 1/2": 8.2, "R 3/4": 9.5, "R 1": 10.4, "R 1 1/4": 12.7, "R 2": 15.9}
"""Basic gauge length in mm, ISO 7-1 table 1."""
ISO_2306 = {"M3": 2.5, "M4": 3.3, "M5": 4.2, "M6": 5.0, "M8": 6.8, "M10": 8.5, "M12": 10.2, "M16": 14.0, "M20": 17.5}
"""Drills before tapping coarse threads in mm, ISO 2306."""
PERCENT = [("1/4-20", 0.2010, 75), ("3/8-16", 0.3125, 77), ("1/2-13", 0.4219, 78), ("#10-24", 0.1495, 75)]
"""Thread, drill in inches, percentage of full thread: Machinery's Handbook, tap drill sizes of American threads."""


@pytest.mark.parametrize("name", ISO_724)
def test_metric_threads(name: str) -> None:
    thread, (pitch, minor) = thread_of(name), ISO_724[name]
    assert thread.pitch_diameter == pytest.approx(pitch, abs=0.0006)
    assert thread.bore == pytest.approx(minor, abs=0.0006)


@pytest.mark.parametrize("name", ISO_228)
def test_pipe_threads(name: str) -> None:
    thread, (major, pitch, minor) = thread_of(name), ISO_228[name]
    assert (thread.major, thread.pitch_diameter, thread.root) == pytest.approx((major, pitch, minor), abs=0.001)


@pytest.mark.parametrize("name", ISO_2904)
def test_trapezoidal_threads(name: str) -> None:
    thread, (pitch, nut, root, bore) = thread_of(name), ISO_2904[name]
    assert (thread.pitch_diameter, thread.nut_major, thread.root, thread.bore) == pytest.approx(
        (pitch, nut, root, bore), abs=1e-9
    )
    # the flat of the bolt's groove: 0.366 P - 0.536 ac (ISO 2904, with ac the crest clearance)
    clearance = (thread.nut_major - thread.major) / 2
    assert thread.flat == pytest.approx(0.366 * thread.pitch - 0.536 * clearance, abs=0.002)


@pytest.mark.parametrize("name", ISO_7)
def test_gauge_lengths_of_taper_threads(name: str) -> None:
    assert thread_of(name).gauge == ISO_7[name]
    assert thread_of(name).taper == 1 / 16


@pytest.mark.parametrize("name", ISO_2306)
def test_drills_before_tapping_leave_a_thread_that_holds(name: str) -> None:
    """Between the minor diameter of the nut and its largest one of tolerance 6H (ISO 965-1), a little over it for small sizes."""
    assert 65.0 < thread_of(name).percent(ISO_2306[name]) < 86.0


@pytest.mark.parametrize(("name", "drill", "percent"), PERCENT)
def test_percentage_of_thread(name: str, drill: float, percent: int) -> None:
    assert thread_of(name).percent(drill * 25.4) == pytest.approx(percent, abs=0.8)


@pytest.mark.parametrize("angle", [60.0, 55.0, 30.0])
def test_a_full_radius_is_a_flat_between_the_flanks_led_on(angle: float) -> None:
    """Plane geometry: a circle of radius r between two flanks touches the line of its tip; the flanks cross that line
    2 r (1 - sin a) / cos a apart."""
    half, r = math.radians(angle / 2), 0.2
    apex = r / math.sin(half) - r  # from the tip's line to where the flanks meet
    tool = TurnTool(id="t", station=1, kind="threading", name="t", profile=angle, corner_radius=r)
    assert tool.flat == pytest.approx(2 * apex * math.tan(half))
    lowest = [p for p in tool.cutting if p[1] < 1e-9]
    assert len(lowest) >= 1
    for z, height in tool.cutting:  # no point of the form lies outside of its flanks
        assert abs(z) <= tool.flat / 2 + height * math.tan(half) + 1e-9
