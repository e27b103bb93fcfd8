"""The outline solver against elementary geometry, and what it says where a print gives too little, too much or two shapes."""

from __future__ import annotations

import math
import time
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.bounds import SEGMENTS
from bastler.job import answering
from bastler.job.outline_edits import picked
from bastler.job.samples import sample
from bastler.shapes import Arc, PlanOutline, PlanSegment, draw
from bastler.shapes.outline import field_name
from bastler.shapes.solver import Solution, solve
from bastler.shapes.solver.newton import halton
from conftest import many
from solver_cases import CASES, LIFT, Case, direction, moved, plan_of, turned_of, turns_freely


def _hold(solution: Solution, case: Case, lift: complex = 0j) -> None:
    assert solution.state == "solved", solution
    size = max(abs(a - b) for a in case.ends for b in (*case.ends, case.start or case.ends[0])) or 1.0
    for worked, end in zip(solution.worked, case.ends, strict=True):
        assert worked.end is not None
        assert abs(complex(*worked.end) - end - lift) <= 1e-9 * size, worked
    radii = [math.dist(w.segment.start, w.segment.centre) for w in solution.worked if isinstance(w.segment, Arc)]
    for found, wanted in zip(radii, case.radii, strict=False):
        assert found == pytest.approx(wanted, rel=1e-9)


def _name(case: Case) -> str:
    return case.name


def test_there_are_at_least_forty_different_cases() -> None:
    assert len(CASES) >= 40
    assert len({case.name for case in CASES}) == len(CASES)


@pytest.mark.parametrize("case", CASES, ids=_name)
def test_solved_as_geometry_says(case: Case) -> None:
    _hold(solve(plan_of(case)), case)


@pytest.mark.parametrize("case", CASES, ids=_name)
def test_the_same_mirrored(case: Case) -> None:
    for mirror, turn in ((lambda p: p.conjugate(), 0.0), (lambda p: -p.conjugate(), 180.0)):
        other = moved(case, mirror, turn, flip=True)
        _hold(solve(plan_of(other)), other)


@pytest.mark.parametrize("case", [c for c in CASES if turns_freely(c)], ids=_name)
@pytest.mark.parametrize("degrees", [37.0, 90.0, -135.0])
def test_the_same_turned(case: Case, degrees: float) -> None:
    other = moved(case, lambda p: p * direction(degrees) + (100 - 40j), degrees, flip=False)
    _hold(solve(plan_of(other)), other)


@pytest.mark.parametrize("case", [c for c in CASES if not c.closed], ids=_name)
def test_the_same_in_diameters(case: Case) -> None:
    _hold(solve(turned_of(case)), case, 1j * LIFT)


@pytest.mark.parametrize("case", CASES, ids=_name)
def test_the_same_in_another_unit(case: Case) -> None:
    lengths = ("length", "radius", "far", "dx", "dy")
    small = moved(case, lambda p: p / 25.4, 0.0, flip=False)
    segments = tuple({k: v / 25.4 if k in lengths and k in ("length", "radius", "far") else v for k, v in s.items()}
                     for s in small.segments)  # fmt: skip
    small = Case(case.name, small.start, segments, small.ends, case.closed, tuple(r / 25.4 for r in case.radii), small.pole)
    _hold(solve(plan_of(small)), small)


# -- too little, too much, two shapes ---------------------------------------------------------------------------------------


def plan(*segments: PlanSegment, start: tuple[float | None, float | None] = (0.0, 0.0), closed: bool = False) -> PlanOutline:
    return PlanOutline(id="o", name="o", closed="yes" if closed else "no", x=start[0], y=start[1], segments=segments)


def line(**given: Any) -> PlanSegment:
    return PlanSegment(kind="line", **given)


def arc(**given: Any) -> PlanSegment:
    return PlanSegment(kind="arc", **given)


@pytest.mark.parametrize(
    ("outline", "first", "last", "count", "helps"),
    [
        (plan(line()), 0, 0, 2, {"u", "v", "angle", "length"}),
        (plan(line(angle=30.0)), 0, 0, 1, {"u", "v", "length"}),
        (plan(line(x=10.0)), 0, 0, 1, {"v", "angle", "length"}),
        (plan(line(x=10.0, y=0.0), arc(tangent="yes")), 1, 1, 2, {"u", "v", "radius", "cv", "sweep"}),  # centre X is known
        (plan(line(x=10.0, y=0.0), arc(tangent="yes", radius=5.0, turn="ccw")), 1, 1, 1, {"u", "v", "sweep"}),
        (plan(line(angle=0.0), line(x=20.0, y=10.0)), 0, 1, 1, {"u", "length", "angle"}),
        (plan(line(x=5.0, y=0.0), line(angle=45.0), line(angle=90.0), line(x=0.0, y=30.0)), 1, 3, 2, {"u", "v", "length"}),
    ],
)
def test_what_is_open_is_named(outline: PlanOutline, first: int, last: int, count: int, helps: set[str]) -> None:
    solution = solve(outline)
    assert solution.state == "open"
    assert [(m.first, m.last, m.count) for m in solution.missing] == [(first, last, count)]
    assert helps <= {key for _, key in solution.missing[0].helps}


def test_two_open_places_are_two_findings() -> None:
    solution = solve(plan(line(angle=0.0), line(x=20.0, y=10.0), line(x=30.0, y=10.0), line(angle=90.0)))
    assert solution.state == "open"
    assert [(m.first, m.last, m.count) for m in solution.missing] == [(0, 1, 1), (3, 3, 1)]


def test_numbers_that_follow_from_each_other_leave_it_open_and_are_no_contradiction() -> None:
    """A line along X of unknown length and an arc tangent to it whose radius, sweep and end Y say one thing twice: as many
    equations as unknowns, and still all of it may slide along X."""
    rise = 8.0 * (1 - math.cos(math.radians(120.0)))
    bend = arc(tangent="yes", radius=8.0, sweep=120.0, y=5.0 + rise, turn="ccw")
    solution = solve(plan(line(x=10.0, y=5.0), line(angle=0.0), bend))
    assert solution.state == "open"
    assert [(m.first, m.last, m.count) for m in solution.missing] == [(1, 2, 1)]
    whole = solve(plan(line(x=10.0, y=5.0), line(angle=0.0, length=7.0), bend))
    assert whole.state == "solved"
    assert whole.worked[2].end == pytest.approx((17.0 + 8.0 * math.sin(math.radians(120.0)), 5.0 + rise))
    wrong = solve(plan(line(x=10.0, y=5.0), line(angle=0.0), msgspec.structs.replace(bend, y=6.0 + rise)))
    assert wrong.state == "contradiction"


def test_things_that_touch_by_their_numbers_alone_are_found() -> None:
    """A line of given length and angle between two circles that lies on both as a tangent, of which nothing is said: a double
    root, in the middle of a block that only Newton's method can solve."""
    begin, end = 5 * direction(170) - 10 * direction(-100), 6 + 5j + 10 * direction(20)
    outline = plan(
        line(length=10.0, angle=-100.0),
        arc(cx=0.0, cy=0.0, radius=5.0, turn="ccw"),
        line(length=6.0, angle=0.0),
        arc(cx=6.0, cy=5.0, radius=10.0, turn="ccw", x=end.real, y=end.imag),
        start=(begin.real, begin.imag),
    )
    solution = solve(outline)
    assert solution.state == "solved"
    assert solution.worked[1].end == pytest.approx((0.0, -5.0), abs=1e-5)
    assert solution.worked[2].end == pytest.approx((6.0, -5.0), abs=1e-5)


def test_a_number_that_says_nothing_new_is_no_contradiction() -> None:
    """An arc ends straight beside its centre after a quarter turn: whatever its radius, its beginning lies straight below."""
    outline = plan(line(x=10.0, angle=0.0), arc(cx=10.0, cy=5.0, sweep=90.0, y=5.0, turn="ccw", tangent="yes"))
    assert solve(outline).state == "solved"


def test_any_of_the_values_that_help_closes_the_outline() -> None:
    """An outline that is one number short: each of the helping values, taken from one shape it may have, makes it whole."""
    open_ = plan(line(angle=0.0), arc(tangent="yes", radius=6.0, turn="ccw"), line(tangent="yes", x=4.0, y=30.0))
    whole = solve(msgspec.structs.replace(open_, segments=(line(angle=0.0, length=20.0), *open_.segments[1:])))
    assert whole.state == "solved"
    missing = solve(open_).missing
    assert [m.count for m in missing] == [1]
    for k, key in missing[0].helps:
        if key == "tangent":
            continue
        given = {field_name(open_.segments[k], key): whole.worked[k].values[key]}
        changed = msgspec.structs.replace(open_.segments[k], **given)
        segments = tuple(changed if j == k else s for j, s in enumerate(open_.segments))
        found = solve(msgspec.structs.replace(open_, segments=segments))
        assert found.state in ("solved", "ambiguous"), (k, key, found)
        ends: list[Any] = [c.worked[-1].start for c in (*found.candidates, *found.others)]
        joint: Any = whole.worked[-1].start
        assert any(math.dist(end, joint) < 1e-6 for end in ends if end), (k, key)


def test_two_shapes_are_shown_and_one_is_pointed_at() -> None:
    outline = plan(line(length=10.0), line(angle=90.0, x=6.0, y=11.0))
    solution = solve(outline)
    assert solution.state == "ambiguous"
    corners = sorted(c.worked[0].end or () for c in solution.candidates)
    assert corners == [pytest.approx((6.0, -8.0)), pytest.approx((6.0, 8.0))]
    for k, candidate in enumerate(solution.candidates):
        chosen = solve(picked(outline, candidate))
        assert chosen.state == "solved"
        assert chosen.worked[0].end == pytest.approx(candidate.worked[0].end)
        assert len(chosen.others) == 1, k


def test_the_choice_is_kept_while_other_numbers_change() -> None:
    """It is a place that was pointed at, not a number in a list."""
    outline = plan(line(length=10.0), line(angle=90.0, x=6.0, y=11.0))
    low = next(c for c in solve(outline).candidates if c.worked[0].end and c.worked[0].end[1] < 0)
    chosen = picked(outline, low)
    for x in (6.5, 5.0, 2.0, 8.0):
        second = msgspec.structs.replace(chosen.segments[1], x=x)
        found = solve(msgspec.structs.replace(chosen, segments=(chosen.segments[0], second)))
        assert found.state == "solved"
        assert found.worked[0].end == pytest.approx((x, -math.sqrt(100 - x * x)))


@pytest.mark.parametrize(
    ("outline", "keys", "off"),
    [
        (plan(line(x=10.0, y=0.0, length=12.0)), {(0, "length"), (0, "u"), (0, "v")}, 2.0),
        (plan(line(x=10.0, y=0.0), line(angle=90.0, length=5.0, y=7.0)), {(1, "length"), (1, "v")}, 2.0),
        (plan(arc(x=10.0, y=0.0, radius=4.0, turn="ccw")), {(0, "radius"), (0, "u")}, None),  # open without it
        (
            plan(line(x=10.0, y=0.0), arc(tangent="yes", x=14.0, y=8.0, radius=6.0)),
            {(1, "radius"), (1, "tangent")},
            1.0,
        ),
    ],
)
def test_a_contradiction_names_what_would_have_to_go(outline: PlanOutline, keys: set, off: float | None) -> None:
    solution = solve(outline)
    assert solution.state == "contradiction"
    singles = {(s[0].segment, s[0].key): s[0] for s in solution.surplus if len(s) == 1}
    assert keys <= singles.keys()
    offs = [s.off for s in singles.values() if s.off is not None]
    assert off is None or any(o == pytest.approx(off, rel=1e-6) for o in offs), offs
    for (k, key), entry in singles.items():  # each of them alone is enough
        if entry.would is None or key not in ("u", "v", "length", "radius"):
            continue
        name = field_name(outline.segments[k], key)
        mended = msgspec.structs.replace(outline.segments[k], **{name: entry.would})
        segments = tuple(mended if j == k else s for j, s in enumerate(outline.segments))
        assert solve(msgspec.structs.replace(outline, segments=segments)).state != "contradiction", (k, key)


def test_when_no_single_value_is_to_blame_two_are_named() -> None:
    solution = solve(plan(line(x=10.0, y=0.0, length=12.0, angle=45.0)))
    assert solution.state == "contradiction"
    assert solution.surplus
    assert all(len(s) <= 2 for s in solution.surplus)


# -- dropped values come back -----------------------------------------------------------------------------------------------


@st.composite
def known_chains(draw: st.DrawFn) -> list[PlanSegment]:
    """A smooth open chain of lines and arcs with everything given that a print could give."""
    at, heading = complex(draw(st.integers(-20, 20)), draw(st.integers(-20, 20))), float(draw(st.integers(-17, 17)) * 10)
    made = [PlanSegment(kind="line", x=at.real, y=at.imag)]  # only says where the chain begins
    for k in range(draw(st.integers(2, 5))):
        if k % 2 == 0:
            length = float(draw(st.integers(4, 20)))
            at += length * direction(heading)
            made.append(
                PlanSegment(kind="line", x=at.real, y=at.imag, angle=heading, length=length, tangent="yes" if k else "no")
            )
        else:
            r, sweep, turn = float(draw(st.integers(3, 12))), float(draw(st.integers(2, 14)) * 10), draw(st.sampled_from([1, -1]))
            middle = at + turn * 1j * r * direction(heading)
            at = middle + (at - middle) * direction(turn * sweep)
            heading = 180.0 - (180.0 - heading - turn * sweep) % 360.0
            made.append(
                PlanSegment(kind="arc", x=at.real, y=at.imag, cx=middle.real, cy=middle.imag, radius=r, sweep=sweep,
                            turn="ccw" if turn > 0 else "cw", tangent="yes")
            )  # fmt: skip
    return made


DROPS = ("x", "y", "angle", "length", "cx", "cy", "radius", "sweep", "tangent")


@settings(max_examples=many(150))
@given(known_chains(), st.data())
def test_what_is_dropped_comes_back_or_is_said_to_be_short(chain: list[PlanSegment], data: st.DataObject) -> None:
    start, *whole = chain
    segments = []
    for k, s in enumerate(whole):
        gone = data.draw(st.sets(st.sampled_from(DROPS), max_size=7))
        changes: dict[str, Any] = {name: None for name in gone if name != "tangent"}
        if "tangent" in gone and k:
            changes["tangent"] = "no"
        segments.append(msgspec.structs.replace(s, **changes))
    outline = plan(*segments, start=(start.x, start.y))
    solution = solve(outline)
    assert solution.state != "contradiction", solution
    if solution.state == "unfound":  # said as not found yet, never as wrong
        return
    if solution.state == "open":
        assert solution.missing
        assert all(m.count >= 1 for m in solution.missing)
        return
    shapes: list[Any] = [*solution.candidates, *solution.others]
    wanted: list[Any] = [(s.x, s.y) for s in whole]
    near = [max(math.dist(w.end, end) for w, end in zip(c.worked, wanted, strict=True)) for c in shapes]
    assert min(near) < 1e-5, (near, solution.state)


def test_the_same_outline_gives_the_same_shape_each_time() -> None:
    outline = plan_of(next(c for c in CASES if c.name == "belt round three circles, start not known"))
    first = solve(outline)
    for _ in range(3):
        assert solve(outline) == first


@pytest.mark.parametrize(
    ("outline", "short"),
    [
        # the arc's chord is upright whatever its radius: its end's X says nothing new
        (plan(line(x=-7.0, angle=-120.0), arc(x=-7.0, sweep=60.0, turn="ccw", tangent="yes"), start=(-5.0, -9.0)), [(1, 1, 1)]),
        # end and centre of the second arc lie four apart in Y already by its radius, its sweep and the line's angle
        (
            plan(
                line(length=19.0), arc(turn="ccw"), line(x=-16.0, angle=-130.0, tangent="yes"),
                arc(y=6.0, cy=10.0, radius=8.0, turn="ccw", sweep=70.0, tangent="yes"), line(length=4.0), start=(11.0, 8.0),
            ),
            [(0, 1, 2), (4, 4, 1)],
        ),
    ],
    ids=["upright chord", "centre and end"],
)  # fmt: skip
def test_a_number_that_others_say_already_is_no_contradiction(outline: PlanOutline, short: list[tuple[int, int, int]]) -> None:
    solution = solve(outline)
    assert solution.state == "open"
    assert [(m.first, m.last, m.count) for m in solution.missing] == short


@pytest.mark.parametrize("off", [1e-3, 0.1, -2.0])
def test_one_that_says_something_else_is(off: float) -> None:
    chord = plan(line(x=-7.0, angle=-120.0), arc(x=-7.0 + off, sweep=60.0, turn="ccw", tangent="yes"), start=(-5.0, -9.0))
    assert solve(chord).state == "contradiction"


@pytest.mark.parametrize("n", [1, 2, 5, 9])
def test_the_starts_are_haltons_points(n: int) -> None:
    """Against SciPy's, which the window does not wait for at its start."""
    from scipy.stats import qmc

    assert np.allclose(halton(n, 80), qmc.Halton(n, scramble=False).random(81)[1:])


def ring(n: int) -> PlanOutline:
    """A closed outline of so many straight segments, each with its end."""
    places = [(30 + 20 * math.cos(2 * math.pi * k / n), 20 + 15 * math.sin(2 * math.pi * k / n)) for k in range(1, n + 1)]
    segments = tuple(PlanSegment(kind="line", x=x, y=y) for x, y in places)
    return PlanOutline(id="o", name="o", x=places[-1][0], y=places[-1][1], segments=segments)


def test_a_long_outline_whose_ends_are_given_is_solved() -> None:
    assert solve(ring(200)).state == "solved"


def test_one_that_is_too_long_is_said_at_once() -> None:
    drawn = draw(ring(SEGMENTS.most + 1))
    assert "600 is the most" in drawn.troubles[0].text


def test_a_slip_that_leaves_too_much_to_try_is_said_within_a_moment() -> None:
    """A length of 1000 in place of 10: forty-four seconds of looking what would have to go, once."""
    slipped = answering.answered(sample("pawl-plate"), "outline:o1.segments.0.dx", 1000.0)
    draw(sample("pawl-plate").outlines[0])
    begun = time.process_time()
    drawn = draw(slipped.outlines[0])
    assert drawn.solution.state == "contradiction"
    assert "do not agree" in drawn.troubles[0].text
    assert time.process_time() - begun < 5.0


def test_what_is_not_found_within_its_effort_says_what_would_help(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("bastler.shapes.solver.report.WHOLE", 2)
    monkeypatch.setattr("bastler.shapes.solver.report.EACH", 0)
    drawn = draw(ring(31))
    assert drawn.solution.state == "unfound"
    assert "Not found yet" in drawn.troubles[0].text
    assert drawn.chain == ()


def test_an_arc_whose_centre_may_slide_between_its_ends_is_short_of_a_number() -> None:
    """The centre's height is just between the ends: both are as far from it wherever it lies, and one of the two says nothing."""
    first = PlanSegment(kind="line", x=-0.87, y=29.0)
    outline = plan(first, PlanSegment(kind="arc", turn="ccw", x=-0.87, y=35.0, cy=32.0), start=(-6.0, 15.0))
    solution = solve(outline)
    assert solution.state == "open"
    assert [m.count for m in solution.missing] == [1]
