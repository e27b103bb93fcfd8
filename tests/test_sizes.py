"""The sizes of a part: which there are, how a place is measured and brought back, and what is kept of them."""

from __future__ import annotations

import functools
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.cutting.fits import general_edge
from bastler.job import plan
from bastler.job.samples import sample
from bastler.link import messages as m
from bastler.live.gauging import gauges
from bastler.live.measured import MOST, MeasuredParts, PartMade, Size, Wear
from bastler.proof import JobProof, prove_whole
from bastler.proof.gauge import Gauge, correction
from shift import Shift, sound


@functools.cache
def proved(name: str) -> JobProof:
    return prove_whole(plan(sample(name)))


def sizes(name: str, holding: int = 0) -> dict[str, Gauge]:
    proof = proved(name)
    return {f"{g.title}/{g.says}": g for g in gauges(proof.plan.holdings[holding], proof.holdings[holding])}


# -- which there are ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("name", ["bearing-cap", "coupling-nut"])
def test_sizes_of_several_holdings_are_sound(name: str) -> None:
    proof = proved(name)
    for held, own in zip(proof.plan.holdings, proof.holdings, strict=True):
        sound(gauges(held, own))


def test_places_pitches_radii_and_threads_are_among_them() -> None:
    """What a print gives besides sizes between two faces."""
    plate = sizes("fixture-of-six")
    assert len(plate["Pivot and spring holes/First X"].ends) == 3
    assert len(plate["Pivot and spring holes/Pitch"].ends) == 4
    radius = plate["Outside/Corner radius"]
    assert (radius.ends, radius.limits) == ((), (5.5, 6.5))  # 6 mm: ISO 2768-1, table 2, class m
    cap = sizes("bearing-cap")
    assert len(cap["Cap screws/First X"].ends) == 4  # its zero is in the middle: counted from both sides
    assert cap["Cap screws/First X"].nominal == 1.5
    spindle = sizes("drum-spindle")
    thread = spindle["Thread/Name, pitch diameter"]
    assert thread.limits == pytest.approx((22.844, 22.994), abs=6e-4)  # ISO 965-1, M24 × 1.5-6g
    assert thread.limits is not None
    assert not thread.general
    assert thread.nominal == pytest.approx(sum(thread.limits) / 2, abs=0.002)
    found = correction(thread, thread.nominal + 0.05, list(spindle.values()))
    assert found is not None
    assert (found.by, found.amount) == ("x", pytest.approx(-0.025))


@pytest.mark.parametrize(("size", "by"), [(0.4, None), (0.5, 0.2), (3.0, 0.2), (3.1, 0.5), (6.0, 0.5), (6.1, 1.0), (50.0, 1.0)])
def test_edges_have_the_tolerances_of_the_standard(size: float, by: float | None) -> None:
    """ISO 2768-1, table 2, class m."""
    assert general_edge(size) == by


# -- places ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("name", "offset", "unit"), [("fixture-of-six", 5, 1.0), ("bearing-cap", 0, 1 / 25.4)])
def test_a_zero_that_is_off_shows_as_places_and_is_brought_back(name: str, offset: int, unit: float, tmp_path: Path) -> None:
    """On the fifth part of six, and on a part whose zero is in its middle, in inches: holes shift, pitches do not."""
    shift = Shift(sample(name), tmp_path, 0)
    shift.clamp()
    shift.load()
    shift.send()
    places = shift.scene.control.offsets
    for index, (x, y, z) in places.items():
        off = 0.08 * unit if index == (offset or 1) else 0.0
        shift.do(m.SetOffset(index=index, x=x + off, y=y - off / 2, z=z))
    for number, (x, _, z) in shift.scene.control.tool_offsets.items():
        shift.do(m.SetTool(number=number, x=x, z=z, diameter=shift.scene.control.diameters.get(number, 0.0)))
    assert shift.run() == "ready", shift.machine.said
    known = list(sizes(name).values())
    first = next(g for g in known if g.says == "First X" and g.ends)
    second = next(g for g in known if g.says == "First Y" and g.ends)
    pitch = next(g for g in known if "itch" in g.says and g.ends)
    sense = 1.0 if name == "fixture-of-six" else -1.0  # the inch part counts its first hole to the left
    hair = 0.003 * unit
    # the outside of the fixture's parts is milled under the same zero: there it goes with the hole
    from_raw = name != "fixture-of-six"
    assert shift.truth(first, offset) == pytest.approx(first.nominal + (sense * 0.08 * unit if from_raw else 0.0), abs=hair)
    assert shift.truth(second, offset) == pytest.approx(second.nominal - (sense * 0.04 * unit if from_raw else 0.0), abs=hair)
    assert shift.truth(pitch, offset) == pytest.approx(pitch.nominal, abs=hair)
    assert correction(pitch, pitch.nominal + 0.01 * unit, known) is None
    found = correction(first, first.nominal + sense * 0.08 * unit, known)
    if from_raw:
        assert found is not None
        assert (found.by, found.amount) == ("zero x", pytest.approx(-0.08 * unit))
        assert (found.first, found.last) == (0, 0)  # a hole that stands elsewhere stays there
        moved = dict(found.moves)
        assert second.id not in moved
    else:
        assert found is not None
        assert (found.station, found.by) == (2, "tool")  # what makes the side that the hole is counted from


def test_no_part_has_an_offset_of_another_job(tmp_path: Path) -> None:
    shift = Shift(sample("fixture-of-six"), tmp_path, 0)
    shift.clamp()
    gauge = next(g for g in sizes("fixture-of-six").values() if g.ends)
    said = shift.refused(m.Measure(ends=list(gauge.ends), within=3.0, offset=77))
    assert said == "No part has that work offset."


def test_every_part_on_the_table_is_felt(tmp_path: Path) -> None:
    """A feeler that goes along at the height of the parts meets the one in its way, whichever that is."""
    shift = Shift(sample("fixture-of-six"), tmp_path, 0)
    shift.clamp()
    piece = shift.machine.piece
    assert piece is not None
    feeler, zero = shift.machine.feeler, shift.scene.zero
    for dx, dy, dz in piece.shifts:
        low, high = shift.scene.stock.lo, shift.scene.stock.hi
        middle = (zero[0] + dx + (low[0] + high[0]) / 2, zero[1] + dy + (low[1] + high[1]) / 2, zero[2] + dz + high[2] + 20.0)
        free, meets = piece.free_way(feeler, middle, (0.0, 0.0, -40.0))
        assert (free * 40.0, meets) == (pytest.approx(20.0, abs=0.01), True)


# -- what is kept ---------------------------------------------------------------------------------------------------


def part(key: str, value: float, nominal: float = 20.0) -> PartMade:
    return PartMade(key, "2026-11-30 14:00", 1, 0, {"s1.depth": Size(value, nominal)}, {2: Wear(z=-0.01)})


def test_sizes_are_there_the_next_day(tmp_path: Path) -> None:
    kept = MeasuredParts(tmp_path / "measured")
    kept.keep("/jobs/cap.bastler", "Cap", [part("a", 20.1)])
    kept.keep("/jobs/cap.bastler", "Cap", [part("b", 20.2), part("a", 20.3)])
    kept.keep("", "Cap", [part("c", 1.0)])
    assert [(p.key, p.sizes["s1.depth"].value) for p in kept.read("/jobs/cap.bastler", "renamed")] == [("a", 20.3), ("b", 20.2)]
    assert [p.key for p in kept.read("", "Cap")] == ["c"]
    assert kept.read("/jobs/other.bastler", "Cap") == []


def test_what_was_measured_on_another_drawing_says_nothing() -> None:
    made = part("a", 20.1)
    assert made.size("s1.depth", 20.0) == Size(20.1, 20.0)
    assert made.size("s1.depth", 22.0) is None
    assert made.size("s1.depth", 20.0 / 25.4) is None
    assert made.with_size("s1.depth", None, "later").sizes == {}


def test_a_damaged_list_is_passed_over_and_a_long_one_is_bounded(tmp_path: Path) -> None:
    kept = MeasuredParts(tmp_path)
    kept.keep("job", "", [part(str(k), 20.0) for k in range(MOST + 7)])
    found = kept.read("job", "")
    assert (len(found), found[0].key) == (MOST, "7")
    path = next(tmp_path.glob("*.json"))
    path.write_bytes(path.read_bytes()[:-9])
    assert kept.read("job", "") == []
    kept.keep("job", "", [part("new", 20.0)])
    assert [p.key for p in kept.read("job", "")] == ["new"]


@given(st.lists(st.tuples(st.sampled_from("abcd"), st.floats(1.0, 50.0)), max_size=12))
def test_what_was_taken_down_last_is_kept(tmp_path_factory: pytest.TempPathFactory, taken: list[tuple[str, float]]) -> None:
    kept, wanted = MeasuredParts(tmp_path_factory.mktemp("measured")), {}
    for key, value in taken:
        kept.keep("job", "", [part(key, value)])
        wanted[key] = value
    assert {p.key: p.sizes["s1.depth"].value for p in kept.read("job", "")} == wanted
