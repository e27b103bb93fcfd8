"""Engraving: the strokes, the groove they leave, running numbers on parts and from program to program."""

from __future__ import annotations

import itertools
import math
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, answering, plan
from bastler.post import Program, post
from bastler.proof import prove_job
from bastler.shapes import Arc, Frame, Furrow, Line
from bastler.shapes.chain import length_of
from bastler.shapes.lettering import bulged, glyph, letters, on_arc, straight, width_of
from bastler.steps import Engraving, Facing
from conftest import codes, job_of, job_with, many, proof_of

WORDS = st.text(st.sampled_from(letters()), min_size=1, max_size=12).filter(lambda t: t.strip() and "#" not in t)


def engraved(**answers: Any) -> Job:
    return job_of(Facing(id="f"), Engraving(id="e", x=30.0, y=18.0, **answers))


@pytest.mark.parametrize("sign", letters())
def test_every_sign_is_whole_and_within_its_room(sign: str) -> None:
    strokes, width = glyph(sign)
    for chain in strokes:
        for a, b in itertools.pairwise(chain):
            assert a.end == b.start
        for s in chain:
            assert length_of(s) > 0.05
            if isinstance(s, Arc):
                assert math.dist(s.start, s.centre) == pytest.approx(math.dist(s.end, s.centre))
                assert math.dist(s.start, s.centre) < 12
            for x, y in (s.start, s.end):
                assert -0.5 <= x <= width + 0.01
                assert -2.5 <= y <= 7.7


def test_rounded_letters_run_smoothly() -> None:
    """No corner where a letter is round: an O, a C, a 6."""
    from bastler.shapes.chain import tangent

    for sign in "OC0":
        (chain,) = glyph(sign)[0]
        for a, b in itertools.pairwise(chain):
            assert math.dist(tangent(a, at_end=True), tangent(b)) < 0.01


@given(st.floats(-3, 3).filter(lambda b: abs(b) > 0.05))
def test_a_bulge_is_the_tangent_of_a_quarter_of_the_angle(bulge: float) -> None:
    arc = bulged((0.0, 0.0), (4.0, 1.0), bulge)
    assert arc.sweep() == pytest.approx(4 * math.atan(abs(bulge)), rel=1e-6)
    assert arc.ccw == (bulge > 0)


@given(WORDS, st.floats(1, 20), st.floats(-180, 180))
def test_text_is_as_long_as_it_says_however_it_is_turned(text: str, height: float, angle: float) -> None:
    wide = width_of(text, height)
    flat, turned = straight(text, Frame(), height), straight(text, Frame(5.0, -3.0, angle), height)
    xs = [p[0] for c in flat for s in c for p in (s.start, s.end)]
    assert max(xs) - min(xs) <= wide + 0.1 * height
    assert [sum(map(length_of, c)) for c in flat] == pytest.approx([sum(map(length_of, c)) for c in turned])
    ends = [straight(text, Frame(), height, align)[0][0].start[0] for align in ("left", "middle", "right")]
    assert ends[0] - ends[1] == pytest.approx(wide / 2)
    assert ends[1] - ends[2] == pytest.approx(wide / 2)


def test_letters_on_an_arc_stand_on_it_with_their_heads_out_or_in() -> None:
    out = on_arc("IIII", (10.0, 5.0), 40.0, 90.0, 6.0)
    inward = on_arc("IIII", (10.0, 5.0), 40.0, 90.0, 6.0, inside=True)
    for strokes, head in ((out, 46.0), (inward, 34.0)):
        for (stroke,) in strokes:
            assert math.dist(stroke.start, (10.0, 5.0)) == pytest.approx(40.0, abs=1e-9)
            assert math.dist(stroke.end, (10.0, 5.0)) == pytest.approx(head, abs=1e-9)
    assert out[0][0].start[0] < out[-1][0].start[0]
    assert inward[0][0].start[0] > inward[-1][0].start[0]


def test_a_groove_has_the_profile_of_its_tool() -> None:
    groove = Furrow(((Line((0.0, 0.0), (10.0, 0.0)),),), 0.0, -0.3, 0.1, math.sqrt(3), 0.001)
    assert groove.at(5.0, 0.05) == -0.3
    assert groove.at(5.0, 0.2) == pytest.approx(-0.3 + 0.1 * math.sqrt(3))
    assert groove.at(5.0, 0.5) == math.inf
    half = 0.1 + 0.3 / math.sqrt(3)
    assert groove.region.area == pytest.approx(20 * half + math.pi * half**2, rel=1e-3)
    assert groove.open_at(-0.31).is_empty


def test_the_text_is_as_deep_and_as_wide_as_it_says() -> None:
    job = engraved(text="DRUM 7", height=8.0)
    proof = proof_of(job, 0.03)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution")
    assert proof.heights.min() == pytest.approx(-0.3)
    (groove,) = plan(job).step("e").removals
    cut = float((proof.heights < -1e-4).sum()) * proof.grid.area
    assert cut == pytest.approx(groove.region.area, rel=0.06)


def test_arcs_are_posted_as_arcs() -> None:
    lines = post(plan(engraved(text="OCS8", height=10.0)).first).lines
    assert sum(line.startswith(("G2 ", "G3 ")) or " I" in line for line in lines) > 15


def test_a_letter_left_out_and_one_cut_too_deep_are_found() -> None:
    """Planted faults, in the text: a plunge that is not made, and one that goes deeper."""
    made = plan(engraved(text="II", height=8.0))
    text = post(made.first).text
    assert text.count("Z-0.3") == 2
    begin, _, end = text.rpartition("Z-0.3")
    missing = prove_job(made, Program.foreign(f"{begin}Z1{end}"), cell_mm=0.05)
    assert "left" in codes(missing)
    deeper = prove_job(made, Program.foreign(f"{begin}Z-0.6{end}"), cell_mm=0.05)
    assert "gouge" in codes(deeper)


@pytest.mark.parametrize(
    ("answers", "field"),
    [
        ({"text": "日本"}, "text"),
        ({"text": " "}, "text"),
        ({"text": "A" * 90}, "text"),
        ({"tool": "end-6"}, "tool"),
        ({"depth": 9.0}, "depth"),
        ({"depth": 1.5, "height": 4.0}, "depth"),
        ({"along": "arc", "diameter": 10.0, "text": "MUCH TOO LONG FOR THIS"}, "diameter"),
    ],
)
def test_what_cannot_be_written_is_said(answers: dict[str, Any], field: str) -> None:
    assert [t.field for t in plan(engraved(**answers)).step("e").troubles] == [field]


def test_a_running_number_has_a_digit_for_every_sign_and_counts_on() -> None:
    step = Engraving(id="e", text="WB-####/A", first=7)
    assert step.on_part(0) == "WB-0007/A"
    assert step.on_part(3) == "WB-0010/A"
    assert step.counted(6).first == 13
    assert Engraving(id="e", text="WB").counted(6) == Engraving(id="e", text="WB")


def test_every_part_of_a_fixture_gets_its_own_number_and_is_proved_against_it() -> None:
    job = msgspec.structs.replace(engraved(text="#", first=7, height=8.0))
    job = job_with(job, parts="grid", columns=3, rows=1)
    proof = proof_of(job, 0.06)
    assert proof.proved, proof.remarks
    assert not codes(proof, "caution"), proof.remarks
    heights = [proof.after(len(proof.stages) - 1, part) for part in range(3)]
    assert not np.array_equal(heights[0], heights[1])
    assert not np.array_equal(heights[1], heights[2])
    same = post(plan(answering.answered(job, "step:e.text", "7")).first).text
    assert post(plan(job).first).text != same


@settings(max_examples=many(15))
@given(WORDS, st.floats(3.0, 9.0), st.floats(0.1, 0.4), st.sampled_from(["line", "arc"]), st.floats(-180, 180))
def test_whatever_is_written_is_clean_or_it_is_said(text: str, height: float, depth: float, along: str, angle: float) -> None:
    job = engraved(text=text, height=height, depth=depth, along=along, angle=angle, diameter=24.0)
    if plan(job).step("e").troubles:
        return
    proof = proof_of(job, 0.1)
    assert not codes(proof, "stop")
    assert not codes(proof, "caution") - {"air"}
