"""Reliefs in corners against the numbers of the standards, and as shapes that can be turned."""

from __future__ import annotations

import itertools
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import tangent
from bastler.shapes.reliefs import FACE_DEPTHS, THREADS, WIDTHS, face_relief, relief_width, shaft_relief, thread_relief

ISO_18388 = [  # radius, depth, width along the cylinder, depth into the face of type F
    (0.2, 0.1, 1.0, 0.1), (0.4, 0.2, 2.0, 0.1), (0.6, 0.2, 2.0, 0.1), (0.6, 0.3, 2.5, 0.2), (0.8, 0.3, 2.5, 0.2),
    (1.0, 0.2, 2.5, 0.1), (1.0, 0.4, 4.0, 0.3), (1.2, 0.2, 2.5, 0.1), (1.2, 0.4, 4.0, 0.3), (1.6, 0.3, 4.0, 0.2),
    (2.5, 0.4, 5.0, 0.3), (4.0, 0.5, 7.0, 0.3),
]  # fmt: skip
ISO_4755 = [  # pitch, diameter less, greatest width, radius
    (0.5, 0.8, 1.75, 0.2), (0.7, 1.1, 2.45, 0.4), (0.8, 1.3, 2.8, 0.4), (1.0, 1.6, 3.5, 0.6), (1.25, 2.0, 4.4, 0.6),
    (1.5, 2.3, 5.2, 0.8), (1.75, 2.6, 6.1, 1.0), (2.0, 3.0, 7.0, 1.0), (2.5, 3.6, 8.7, 1.2), (3.0, 4.4, 10.5, 1.6),
    (3.5, 5.0, 12.0, 1.6), (4.0, 5.7, 14.0, 2.0),
]  # fmt: skip


def turn(a: Segment, b: Segment) -> float:
    """By how many degrees a chain turns where it goes from one segment to the next; to the left positive."""
    end = tangent(Line(a.start, a.end)) if isinstance(a, Line) else _end_of(a)
    u, v = end, tangent(b)
    return math.degrees(math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1]))


def _end_of(arc: Arc) -> tuple[float, float]:
    du, dv = arc.end[0] - arc.centre[0], arc.end[1] - arc.centre[1]
    side, r = (1.0 if arc.ccw else -1.0), math.hypot(du, dv)
    return (-side * dv / r, side * du / r)


def sound(chain: list[Segment]) -> None:
    """From the cylinder to the shoulder without a gap, arcs on their circles, never out of the material's corner."""
    assert chain[0].start[1] == 0.0
    assert chain[-1].end[0] == pytest.approx(0.0, abs=1e-12)
    for a, b in itertools.pairwise(chain):
        assert a.end == b.start
    for s in chain:
        if isinstance(s, Arc):
            assert math.dist(s.start, s.centre) == pytest.approx(math.dist(s.end, s.centre), rel=1e-12)


@pytest.mark.parametrize(("radius", "depth", "width", "_face"), ISO_18388)
def test_type_e_has_the_numbers_of_the_standard(radius: float, depth: float, width: float, _face: float) -> None:
    chain = shaft_relief(radius, depth)
    sound(chain)
    assert chain[0].start[0] == width == relief_width(radius, depth)
    assert min(s.end[1] for s in chain) == -depth
    arc = chain[-1]
    assert isinstance(arc, Arc)
    assert math.dist(arc.start, arc.centre) == pytest.approx(radius)
    ramp = chain[0]
    assert math.degrees(math.atan2(ramp.start[1] - ramp.end[1], ramp.start[0] - ramp.end[0])) == pytest.approx(15.0)


@pytest.mark.parametrize(("radius", "depth", "width", "face"), ISO_18388)
def test_type_f_goes_into_the_face_too(radius: float, depth: float, width: float, face: float) -> None:
    chain = face_relief(radius, depth)
    sound(chain)
    arc, off = chain[-2], chain[-1]
    assert isinstance(arc, Arc)
    assert chain[0].start[0] == width
    assert arc.centre[0] - radius == pytest.approx(-face)  # how far the arc would reach into the face
    leaving = math.degrees(math.atan2(off.end[0] - off.start[0], off.end[1] - off.start[1]))
    assert leaving == pytest.approx(8.0)
    assert turn(arc, off) == pytest.approx(0.0, abs=1e-9)


@pytest.mark.parametrize(("pitch", "less", "width", "radius"), ISO_4755)
def test_thread_reliefs_have_the_numbers_of_the_standard(pitch: float, less: float, width: float, radius: float) -> None:
    chain = thread_relief(pitch)
    sound(chain)
    assert chain[0].start[0] == pytest.approx(width)
    assert min(s.end[1] for s in chain) == pytest.approx(-less / 2)
    arc = chain[-1]
    assert isinstance(arc, Arc)
    assert math.dist(arc.start, arc.centre) == pytest.approx(radius)
    assert less / 2 > 0.61 * pitch  # deeper than the thread, whose core lies 0.6134 P under its crest


def test_the_tables_hold_nothing_else() -> None:
    assert set(WIDTHS) == set(FACE_DEPTHS) == {(r, t) for r, t, _, _ in ISO_18388}
    assert set(THREADS) == {p for p, _, _, _ in ISO_4755}


@given(st.floats(0.1, 6.0), st.floats(0.05, 0.9))
def test_own_sizes_are_shapes_too(radius: float, share: float) -> None:
    """Whatever radius a print gives, the relief has room for it and for its run-out."""
    for chain in (shaft_relief(radius, share * radius), face_relief(radius, share * radius)):
        sound(chain)
        assert chain[1].start[0] >= chain[1].end[0]  # the floor between run-out and radius does not run backwards


@given(st.floats(0.35, 6.0))
def test_reliefs_of_odd_pitches_grow_with_the_pitch(pitch: float) -> None:
    chain = thread_relief(pitch)
    sound(chain)
    assert 2.5 * pitch < chain[0].start[0] < 4.5 * pitch
