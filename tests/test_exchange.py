"""DXF in; DXF and SVG out; what is picked of a drawing."""

from __future__ import annotations

import itertools
import math
import os
import re
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import ezdxf
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.exchange import DrawingError, Joined, Piece, fitted, joined, outline_text, read_dxf, svg_text
from bastler.job import plan
from bastler.job.from_drawing import Circles, laid, parts_of, shift_for, taken
from bastler.job.outline_edits import plan_of_chain
from bastler.job.profile import profile_of
from bastler.job.samples import sample_drawing
from bastler.shapes import Arc, Line, PlanOutline, PlanSegment, Segment, draw
from bastler.shapes.chain import mirrored, moved, points_on, reversed_chain
from bastler.shapes.region import area_of
from bastler.steps import Drilling, FreePocket, TurnRoughing
from conftest import job_of, many, turned

TOLERANCE = 0.01


def made(tmp_path: Path, fill, units: int = 4, version: str = "R2010") -> Path:
    document = ezdxf.new(version, units=units)
    fill(document)
    path = tmp_path / "a.dxf"
    document.saveas(path)
    return path


def test_the_sample_is_read_whole() -> None:
    drawing = read_dxf(sample_drawing(), "mm", TOLERANCE)
    assert drawing.unit == "mm"
    assert set(drawing.layers) == {"rim", "window", "oil groove", "holes"}
    assert drawing.passed == {"TEXT": 1}
    parts = parts_of(drawing, 0.05, 0.002)
    rim = parts[0]
    assert isinstance(rim, Joined)
    assert rim.closed
    assert rim.gaps == 1
    assert area_of(rim.segments) == pytest.approx(120 * 80 - 3 * (4 - math.pi) / 4 * 144 - 15 * 15 / 2, abs=0.02)
    holes = [p for p in parts if isinstance(p, Circles)]
    assert [(round(p.diameter, 6), len(p.centres)) for p in holes] == [(5.0, 2), (6.6, 3)]


def test_blocks_are_scaled_turned_and_nested(tmp_path: Path) -> None:
    def fill(document) -> None:
        inner = document.blocks.new("INNER")
        inner.add_line((0, 0), (10, 0))
        outer = document.blocks.new("OUTER")
        outer.add_blockref("INNER", (5, 0))
        document.modelspace().add_blockref("OUTER", (100, 50), dxfattribs={"rotation": 90, "xscale": 2, "yscale": 2})

    (piece,) = read_dxf(made(tmp_path, fill), "mm", TOLERANCE).pieces
    assert piece.segments[0].start == pytest.approx((100, 60))
    assert piece.segments[0].end == pytest.approx((100, 80))


def test_polylines_with_bulges_become_arcs(tmp_path: Path) -> None:
    def fill(document) -> None:
        points = [(0, 0, 0), (20, 0, 1), (20, 10, 0), (0, 10, -math.tan(math.pi / 8))]
        document.modelspace().add_lwpolyline(points, format="xyb", close=True)

    (piece,) = read_dxf(made(tmp_path, fill), "mm", TOLERANCE).pieces
    first, half, last, quarter = piece.segments
    assert isinstance(first, Line)
    assert isinstance(half, Arc)
    assert half.ccw
    assert half.centre == pytest.approx((20, 5))
    assert isinstance(last, Line)
    assert isinstance(quarter, Arc)
    assert not quarter.ccw
    assert quarter.sweep() == pytest.approx(math.pi / 2)


def test_arcs_of_a_flipped_plane_keep_their_place(tmp_path: Path) -> None:
    def fill(document) -> None:
        attributes = {"extrusion": (0, 0, -1)}
        document.modelspace().add_arc((-10, 0), 5, 0, 90, dxfattribs=attributes)
        document.modelspace().add_circle((-30, 4), 2, dxfattribs=attributes)

    drawing = read_dxf(made(tmp_path, fill), "mm", TOLERANCE)
    arc = drawing.pieces[0].segments[0]
    assert isinstance(arc, Arc)
    assert arc.centre == pytest.approx((10, 0))
    for p in points_on([arc], 0.01):
        assert math.dist(p, (10, 0)) == pytest.approx(5)
        assert p[0] <= 10 + 1e-9
        assert p[1] >= -1e-9
    assert (drawing.holes[0].x, drawing.holes[0].y) == pytest.approx((30, 4))


@pytest.mark.parametrize(
    ("code", "unit", "factor"), [(1, "mm", 25.4), (4, "inch", 1 / 25.4), (5, "mm", 10.0), (6, "inch", 1000 / 25.4)]
)
def test_units_are_converted(tmp_path: Path, code: int, unit: str, factor: float) -> None:
    path = made(tmp_path, lambda d: d.modelspace().add_line((1, 2), (3, 2)), units=code)
    (piece,) = read_dxf(path, unit, TOLERANCE).pieces  # type: ignore[arg-type]
    assert piece.segments[0].end == pytest.approx((3 * factor, 2 * factor))


def test_a_file_without_a_unit_is_taken_as_told(tmp_path: Path) -> None:
    path = made(tmp_path, lambda d: d.modelspace().add_line((1, 2), (3, 2)), units=0)
    drawing = read_dxf(path, "mm", TOLERANCE, assume="inch")
    assert drawing.unit == ""
    assert drawing.pieces[0].segments[0].end == pytest.approx((76.2, 50.8))
    assert read_dxf(path, "mm", TOLERANCE).pieces[0].segments[0].end == pytest.approx((3, 2))


@settings(max_examples=many(40))
@given(st.floats(5.0, 60.0), st.floats(0.1, 1.0), st.floats(0.0, 6.0), st.floats(0.3, 6.2), st.sampled_from([0.1, 0.01, 0.001]))
def test_an_ellipse_is_fitted_to_the_tolerance(size: float, ratio: float, begin: float, span: float, tolerance: float) -> None:
    def curve(t: float) -> tuple[tuple[float, float], tuple[float, float]]:
        return (size * math.cos(t), ratio * size * math.sin(t)), (-size * math.sin(t), ratio * size * math.cos(t))

    segments = fitted(curve, begin, begin + span, tolerance)
    assert segments[0].start == pytest.approx(curve(begin)[0])
    assert segments[-1].end == pytest.approx(curve(begin + span)[0])
    for p in points_on(segments, tolerance / 5):
        # the distance from the ellipse, by Newton on its parameter from the nearest of many places
        t = min((begin + span * k / 400 for k in range(401)), key=lambda v: math.dist(curve(v)[0], p))
        near = min(math.dist(curve(t + span / 400 * k / 50)[0], p) for k in range(-50, 51))
        assert near <= math.hypot(1.3 * tolerance, size * span / 400 / 50)


def test_splines_keep_ends_and_go_where_they_go(tmp_path: Path) -> None:
    path = made(tmp_path, lambda d: d.modelspace().add_spline([(0, 0), (10, 8), (20, -3), (40, 5)]))
    (piece,) = read_dxf(path, "mm", 0.005).pieces
    assert piece.segments[0].start == pytest.approx((0, 0), abs=1e-9)
    assert piece.segments[-1].end == pytest.approx((40, 5), abs=1e-9)
    drawn: Any = next(iter(ezdxf.readfile(path).modelspace().query("SPLINE")))
    spline = drawn.construction_tool()
    mine = shapely.LineString(points_on(piece.segments, 0.0005))
    for p in spline.approximate(80):
        assert mine.distance(shapely.Point(p.x, p.y)) < 0.006


def test_gaps_are_closed_to_the_tolerance_and_not_beyond() -> None:
    pieces = [
        Piece("a", (Line((0, 0), (10, 0)),)),
        Piece("a", (Line((10.02, 10), (10.02, 0.01)),)),
        Piece("a", (Line((0, 10.5), (10, 10)),)),
        Piece("a", (Line((0, 0), (0, 10)),)),
    ]
    (chain,) = joined(pieces, 0.05)
    assert not chain.closed
    assert chain.gaps == 2
    assert chain.widest == pytest.approx(math.hypot(0.02, 0.01))
    (whole,) = joined(pieces, 0.6)
    assert whole.closed
    way = [*whole.segments, whole.segments[0]]
    assert all(math.dist(a.end, b.start) < 1e-9 for a, b in itertools.pairwise(way))


def test_chains_of_other_layers_are_not_joined() -> None:
    pieces = [Piece("a", (Line((0, 0), (10, 0)),)), Piece("b", (Line((10, 0), (10, 10)),))]
    assert len(joined(pieces, 0.1)) == 2


RIM = PlanOutline(
    id="o1", name="rim & more", x=0.0, y=0.0,
    segments=(
        PlanSegment(x=40.0, y=0.0, corner="radius", corner_size=4.0),
        PlanSegment(x=40.0, y=20.0, corner="edge", corner_size=3.0),
        PlanSegment(x=20.0, y=20.0),
        PlanSegment(kind="arc", x=0.0, y=20.0, radius=12.0, turn="ccw"),
        PlanSegment(),
    ),
)  # fmt: skip


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_what_is_written_as_dxf_comes_back(tmp_path: Path, unit: str) -> None:
    path = tmp_path / "rim.dxf"
    path.write_text(outline_text(RIM, unit, "dxf"))  # type: ignore[arg-type]
    drawing = read_dxf(path, unit, TOLERANCE)  # type: ignore[arg-type]
    assert drawing.unit == unit
    (chain,) = joined(drawing.pieces, 1e-6)
    assert chain.closed
    assert abs(area_of(chain.segments)) == pytest.approx(abs(area_of(draw(RIM).chain)), rel=1e-12)
    assert sum(isinstance(s, Arc) for s in chain.segments) == sum(isinstance(s, Arc) for s in draw(RIM).chain)


def test_svg_keeps_size_and_arcs() -> None:
    text = outline_text(RIM, "mm", "svg")
    assert "rim &amp; more" in text
    assert len(re.findall(r" A[\d.]", text)) == sum(isinstance(s, Arc) for s in draw(RIM).chain)
    width = re.search(r'width="([\d.]+)mm"', text)
    assert width
    assert float(width[1]) == pytest.approx(1.1 * 40, rel=0.02)


def test_an_outline_that_is_not_whole_is_not_written() -> None:
    with pytest.raises(DrawingError, match="not whole"):
        outline_text(PlanOutline(id="o", name="o", x=0.0, y=0.0, segments=(PlanSegment(angle=3.0),), closed="no"), "mm", "dxf")


# -- into the job -----------------------------------------------------------------------------------------------------------


def test_a_chain_becomes_the_outline_of_a_step_and_circles_a_pattern() -> None:
    job = job_of(FreePocket(id="p"), Drilling(id="d", pattern=""), size_x=150.0, size_y=100.0)
    parts = parts_of(read_dxf(sample_drawing(), "mm", TOLERANCE), 0.05, 0.002)
    shift = shift_for(job, parts, "middle")
    window = next(p for p in parts if isinstance(p, Joined) and p.layer == "window" and len(p.segments) == 4)
    job = taken(job, [window], shift, "step:p.outline")
    outline = job.outline(job.step("p").outline)
    assert outline is not None
    assert outline.name == "window"
    drawn = draw(outline)
    assert drawn.troubles == ()
    assert area_of(drawn.chain) == pytest.approx(48 * 20 + math.pi * 100)
    box = plan(job).first.flat.stock.centre
    middle = [sum(c) / len(drawn.chain) for c in zip(*(s.start for s in drawn.chain), strict=True)]
    assert middle == pytest.approx(list(box[:2]))
    bolts = next(p for p in parts if isinstance(p, Circles) and len(p.centres) == 3)
    job = taken(job, [bolts], (0.0, 0.0), "step:d.pattern")
    pattern = job.pattern(job.step("d").pattern)
    assert pattern is not None
    assert sorted(pattern.all()) == [pytest.approx(p) for p in [(14, 14), (14, 66), (106, 14)]]


def test_several_parts_are_taken_without_a_step_and_names_stay_apart() -> None:
    job = job_of(size_x=150.0)
    parts = parts_of(read_dxf(sample_drawing(), "mm", TOLERANCE), 0.05, 0.002)
    job = taken(job, parts, (0.0, 0.0))
    assert [o.name for o in job.outlines] == ["rim", "window", "oil groove", "window 1"]
    assert [p.name for p in job.patterns] == ["Ø5 holes", "Ø6.6 holes"]
    assert all(draw(o).troubles == () for o in job.outlines)


def test_a_chain_becomes_a_half_section_from_the_front_to_the_chuck() -> None:
    curve = Arc((-20, 15), (-15, 10), (-20, 10), False)
    chain: tuple[Segment, ...] = (Line((-40, 15), (-20, 15)), curve, Line((-15, 10), (0, 10)))
    job = turned(TurnRoughing(id="r"))
    job = taken(job, [Joined("shaft", chain, False)], (0.0, 0.0), "step:r.outline")
    outline = job.outline(job.step("r").outline)
    assert outline is not None
    drawn = draw(outline)
    assert drawn.troubles == ()
    assert drawn.chain[0].start == pytest.approx((0, 10))
    assert drawn.chain[-1].end == pytest.approx((-40, 15))


STEP = (0.0, 10.0), (-20.0, 10.0), (-20.0, 15.0), (-40.0, 15.0)
SHAFT: tuple[Segment, ...] = tuple(Line(a, b) for a, b in itertools.pairwise(STEP))
"""Its front at zero, two diameters."""


def half_section() -> list[Segment]:
    ends = Line((-40.0, 15.0), (-40.0, 0.0)), Line((-40.0, 0.0), (0.0, 0.0)), Line((0.0, 0.0), (0.0, 10.0))
    return [*SHAFT, *ends]


def whole_section() -> list[Segment]:
    """Drawn round about: both halves."""
    low = mirrored(SHAFT, v=True)
    return [*SHAFT, Line((-40.0, 15.0), (-40.0, -15.0)), *reversed_chain(low), Line((0.0, -10.0), (0.0, 10.0))]


@pytest.mark.parametrize("front_left", [False, True])
@pytest.mark.parametrize(
    ("shape", "place"),
    [*((shape, "drawn") for shape in ("open", "below", "half", "whole", "backward")), ("half", "front"), ("whole", "through")],
)
def test_a_turned_part_is_taken_however_it_is_drawn(shape: str, front_left: bool, place: str) -> None:
    drawn = {
        "open": list(SHAFT), "below": mirrored(SHAFT, v=True), "half": half_section(), "whole": whole_section(),
        "backward": reversed_chain(SHAFT),
    }[shape]  # fmt: skip
    chain = mirrored(drawn, u=True) if front_left else drawn
    if place != "drawn":
        chain = moved(chain, 123.0, -45.0)
    parts = laid([Joined("0", tuple(chain), shape in ("half", "whole"))], front_left=front_left)
    job = turned(TurnRoughing(id="r"))
    job = taken(job, parts, shift_for(job, parts, place), "step:r.outline")  # type: ignore[arg-type]
    outline = job.outline(job.step("r").outline)
    assert outline is not None
    found = draw(outline)
    assert not found.troubles
    assert [s.start for s in found.chain] == [pytest.approx(s.start) for s in SHAFT]
    assert found.chain[-1].end == pytest.approx(SHAFT[-1].end)


def test_a_bush_is_taken_by_its_outside() -> None:
    ring = [*SHAFT, Line((-40.0, 15.0), (-40.0, 6.0)), Line((-40.0, 6.0), (0.0, 6.0)), Line((0.0, 6.0), (0.0, 10.0))]
    for chain in (ring, reversed_chain(ring), [*ring[3:], *ring[:3]]):
        assert [s.end for s in profile_of(chain, 0.002, closed=True)] == [pytest.approx(s.end) for s in SHAFT]


@settings(max_examples=many(30))
@given(st.lists(st.tuples(st.integers(-50, 50), st.integers(-50, 50)), min_size=3, max_size=12, unique=True))
def test_a_finished_chain_said_as_an_outline_is_the_same_chain(points: list[tuple[int, int]]) -> None:
    chain: list[Segment] = [Line(a, b) for a, b in itertools.pairwise(points)]
    drawn = draw(plan_of_chain("o", "o", chain, closed=False))
    assert drawn.solution.state == "solved"
    assert [s.end for s in drawn.chain] == [pytest.approx(p) for p in points[1:]]


# -- rubbish -----------------------------------------------------------------------------------------------------------------


@settings(max_examples=many(60))
@given(st.binary(max_size=400))
def test_rubbish_is_a_sentence(tmp_path_factory: pytest.TempPathFactory, data: bytes) -> None:
    path = tmp_path_factory.mktemp("rubbish") / "a.dxf"
    path.write_bytes(data)
    try:
        read_dxf(path, "mm", TOLERANCE)
    except DrawingError as error:
        assert str(error).endswith(".")


@pytest.mark.filterwarnings("ignore::RuntimeWarning")  # of the DXF library, over numbers without bounds
@settings(max_examples=many(60))
@given(st.integers(0, 400), st.sampled_from(["", "1e999", "nan", "-1", "x", "999999999999"]))
def test_a_sample_with_a_wrong_line_is_read_or_said(tmp_path_factory: pytest.TempPathFactory, line: int, word: str) -> None:
    lines = sample_drawing().read_text().splitlines()
    body = next(k for k, text in enumerate(lines) if text.strip() == "ENTITIES")
    lines[min(body + line, len(lines) - 1)] = word
    path = tmp_path_factory.mktemp("wrong") / "a.dxf"
    path.write_text("\n".join(lines))
    try:
        drawing = read_dxf(path, "mm", TOLERANCE)
    except DrawingError:
        return
    for part in parts_of(drawing, 0.05, 0.002):
        assert part.says


def test_no_file_and_a_folder_are_said(tmp_path: Path) -> None:
    for path in (tmp_path / "none.dxf", tmp_path):
        with pytest.raises(DrawingError, match=path.name):
            read_dxf(path, "mm", TOLERANCE)


def test_names_in_an_svg_are_text_and_nothing_else() -> None:
    """Signs that end a section, begin a tag or are no XML at all: a strict parser reads the file."""
    chain = [Line((0.0, 0.0), (10.0, 0.0)), Line((10.0, 0.0), (0.0, 5.0)), Line((0.0, 5.0), (0.0, 0.0))]
    text = svg_text({"]]><script>&x;\x00\x08\ud800 Ø": chain}, "mm")
    (title,) = ElementTree.fromstring(text).iter("{http://www.w3.org/2000/svg}title")
    assert title.text == "]]><script>&x; Ø"


def test_a_drawing_of_blocks_in_blocks_ends(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Nine levels of ten: a small file that would be a thousand million lines."""
    monkeypatch.setattr("bastler.exchange.dxf.MOST_PIECES", 5_000)
    document = ezdxf.new("R2010")
    document.blocks.new("b0").add_line((0, 0), (1, 0))
    for k in range(1, 10):
        block = document.blocks.new(f"b{k}")
        for _ in range(10):
            block.add_blockref(f"b{k - 1}", (0, 0))
    for _ in range(10):
        document.modelspace().add_blockref("b9", (0, 0))
    path = tmp_path / "deep.dxf"
    document.saveas(path)
    with pytest.raises(DrawingError, match="more than 5000 lines"):
        read_dxf(path, "mm", 0.01)


def test_a_pipe_is_no_drawing(tmp_path: Path) -> None:
    path = tmp_path / "pipe.dxf"
    os.mkfifo(path)
    with pytest.raises(DrawingError, match="no plain file"):
        read_dxf(path, "mm", 0.01)
