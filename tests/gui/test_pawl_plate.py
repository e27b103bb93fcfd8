"""The pawl plate made from its print by keys alone, and what else an outline's editor does."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication, QFileDialog

from bastler.app.outline_drawing import selected_segment
from bastler.app.outline_row import OutlineRow
from bastler.job import Job, answering, edits, outline_edits
from bastler.job.samples import sample, sample_drawing
from bastler.shapes import Drawn, PlanSegment, draw
from bastler.steps import EdgeBreak, Facing, FreePocket, OutlineMilling, RestMachining

from .conftest import ALT, CTRL, Hands, QTest

KEY = Qt.Key


def drawn(job: Job, ident: str) -> Drawn:
    """An outline of the job as it is drawn."""
    return draw(next(o for o in job.outlines if o.id == ident))


def give(hands: Hands, segment: str, **values: Any) -> None:
    """Types what is given of a segment, going from answer to answer with Enter."""
    for name, text in values.items():
        hands.go_to(f"{segment}.{name}")
        hands.retype(text)


def draw_by_keys(hands: Hands, segments: list[dict[str, str]]) -> str:
    """A closed outline of which nothing says where it begins: Alt+O, then segment by segment."""
    session = hands.window.session
    hands.press(KEY.Key_O, ALT)
    outline = session.outline_of_step()
    assert outline is not None
    assert hands.focus == f"outline:{outline.id}.x"
    hands.retype("")
    hands.press(KEY.Key_Return)
    hands.retype("")
    for k, given in enumerate(segments):
        values = dict(given)
        hands.press(KEY.Key_A if values.pop("kind") == "arc" else KEY.Key_L, ALT)
        QTest.qWait(15)
        segment = f"outline:{outline.id}.segments.{k}"
        assert hands.focus == f"{segment}.x"
        for _ in range({"": 0, "ccw": 1, "cw": 2}[values.pop("turn", "")]):
            hands.press(KEY.Key_R, ALT)
        if values.pop("tangent", ""):
            hands.press(KEY.Key_T, ALT)
        give(hands, segment, **values)
    return outline.id


RECESS = [
    {"kind": "arc", "turn": "ccw", "tangent": "yes", "radius": ".75", "cx": "1.6", "cy": "1.9"},
    {"kind": "line", "tangent": "yes"},
    {"kind": "arc", "turn": "ccw", "tangent": "yes", "radius": ".4", "cx": "3 3/4", "cy": "1.8"},
    {"kind": "line", "tangent": "yes"},
]
RIM = [
    {"kind": "arc", "turn": "ccw", "tangent": "yes", "radius": "1", "cx": "1.6", "cy": "1.9"},
    {"kind": "line", "tangent": "yes"},
    {"kind": "arc", "turn": "ccw", "tangent": "yes", "radius": ".4", "cx": "3.9", "cy": "1.05"},
    {"kind": "arc", "turn": "cw", "tangent": "yes", "radius": "3/4"},
    {"kind": "arc", "turn": "ccw", "tangent": "yes", "radius": "3/8", "cx": "4.6", "cy": "2.5"},
    {"kind": "line", "tangent": "yes"},
]
ISLANDS = ("circle 1.6, 1.9, 0.7", "hollow circle 1.6, 1.9, 0.4", "rectangle 2.95, 1.85, 0.45, 0.2, R0.05, A-5, 0.08 below")


@pytest.mark.timeout(240)
def test_from_its_print_by_keys_alone(hands: Hands) -> None:
    session = hands.window.session
    hands.press(KEY.Key_2)  # "New job, inch"
    assert session.job.unit == "inch"
    for name, text in (("size_x", "5.5"), ("size_y", "3.5"), ("size_z", "3/4"), ("over_top", ".05")):
        hands.go_to(f"stock.{name}")
        hands.retype(text)
    hands.add("face")
    pocket = hands.add("free poc")
    recess = draw_by_keys(hands, RECESS)
    hands.go_to(f"step:{pocket}.depth")
    hands.retype("0.2")
    hands.go_to(f"step:{pocket}.islands")
    for k, text in enumerate(ISLANDS):
        if k:
            hands.press(KEY.Key_Return)
        hands.type(text)
    rest = hands.add("rest")
    assert session.job.step(rest).outline == recess
    assert session.job.step(rest).islands == session.job.step(pocket).islands
    hands.go_to(f"step:{rest}.outline")
    hands.window.questions.take_focus(f"step:{rest}.larger")
    hands.retype("1/2")
    rim_step = hands.add("on, left or right")
    rim = draw_by_keys(hands, RIM)
    hands.go_to(f"step:{rim_step}.depth")
    hands.retype(".5")
    first = hands.add("break")
    assert session.job.step(first).outline == rim
    second = hands.add("break")
    hands.press(KEY.Key_J, ALT)
    assert session.job.step(second).outline == recess
    hands.go_to(f"step:{second}.material")
    hands.press(KEY.Key_Right)
    hands.proved()
    kinds = [type(s) for s in session.job.steps]
    assert kinds == [Facing, FreePocket, RestMachining, OutlineMilling, EdgeBreak, EdgeBreak]
    printed = {o.name: o for o in sample("pawl-plate").outlines}
    for ident, name in ((recess, "recess"), (rim, "rim")):
        mine, theirs = drawn(session.job, ident), draw(printed[name])
        assert mine.troubles == ()
        for a, b in zip(mine.chain, theirs.chain, strict=True):
            assert a.end == pytest.approx(b.end)
    assert session.proof is not None
    assert not {r.code for r in session.proof.remarks} & {"gouge", "rapid-in-stock", "plunge", "answer", "left"}, (
        session.proof.remarks
    )
    assert session.proof.proved, session.proof.remarks


@pytest.fixture
def pawl(hands: Hands) -> Hands:
    hands.window.open_choice("sample:pawl-plate")
    hands.proved()
    return hands


def test_a_click_on_the_drawing_opens_the_segment(pawl: Hands) -> None:
    window, session = pawl.window, pawl.window.session
    session.select("s4")
    pawl.until(lambda: window.sheet.outline is not None)
    drawing = window.sheet.outline
    assert drawing is not None
    at = drawing.to(*[(a + b) / 2 for a, b in zip(drawing.drawn.chain[1].start, drawing.drawn.chain[1].end, strict=True)])
    pawl.click(window.sheet, at.x(), at.y())
    assert selected_segment(session.focus, "o1") == 1
    row = window.questions.rows["outline:o1"]
    assert isinstance(row, OutlineRow)
    assert row.open_at == 1
    assert row.has_focus()


def test_two_shapes_are_ghosts_and_one_is_clicked(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm")
    window.cards.add_step("outline-milling")
    outline = session.job.outlines[0]
    way = (PlanSegment(id="a", length=60.0), PlanSegment(id="b", angle=90.0, x=60.0, y=99.0))
    two = edits.replace(outline, closed="no", x=20.0, y=50.0, segments=way)
    session.edit(answering.outline_given(session.job, two), "Two shapes")
    hands.proved()
    assert {r.level for r in session.proof.remarks} == {"open"}
    assert draw(session.job.outlines[0]).solution.state == "ambiguous"
    hands.until(lambda: window.sheet.outline is not None and len(window.sheet.outline.ghosts) == 2)
    number, polygon = window.sheet.outline.ghosts[1]
    wanted = draw(session.job.outlines[0]).solution.candidates[number]
    spot = _clear_of(polygon, window.sheet.outline.ghosts[0][1])
    hands.click(window.sheet, spot.x(), spot.y())
    found = draw(session.job.outlines[0]).solution
    assert found.state == "solved"
    assert found.worked[0].end == pytest.approx(wanted.worked[0].end)
    hands.press(KEY.Key_N, ALT)  # and the other one, by a key
    assert draw(session.job.outlines[0]).solution.worked[0].end != pytest.approx(wanted.worked[0].end)


def _clear_of(polygon, other) -> QPointF:
    """A point on one line of pixels as far as can be from another."""
    points = [(polygon.at(k) + polygon.at(k + 1)) / 2 for k in range(polygon.size() - 1)]
    return max(points, key=lambda p: min((p - other.at(k)).manhattanLength() for k in range(other.size())))


def test_what_is_missing_is_shown_as_open_and_not_as_an_error(pawl: Hands) -> None:
    window, session = pawl.window, pawl.window.session
    session.select("s4")
    window.questions.take_focus("outline:o1.segments.4.cx")
    pawl.retype("")
    pawl.proved()
    row = window.questions.rows["outline:o1"]
    assert "One more number" in row.why.text() or "one more number" in row.why.text()
    assert {r.level for r in session.remarks_of("s4")} == {"open"}
    assert not session.proof.proved
    assert "Open" in window.header.verdict.text()
    pawl.press(KEY.Key_Z, CTRL)
    pawl.proved()
    assert session.proof.proved


def test_the_outline_menu_changes_the_whole_and_undo_brings_it_back(pawl: Hands) -> None:
    window, session = pawl.window, pawl.window.session
    session.select("s2")
    before = session.job.outline("o2")
    for name in ("outline.reverse", "outline.mirror-x", "outline.mirror-y", "outline.begin", "outline.corner", "outline.become"):
        window.questions.take_focus("outline:o2.segments.2.radius")
        window.run(name)
        assert session.job.outline("o2") != before, name
        pawl.press(KEY.Key_Z, CTRL)
        assert session.job.outline("o2") == before, name


def test_the_whole_outline_is_named_and_turned_in_its_panel(pawl: Hands) -> None:
    window, session = pawl.window, pawl.window.session
    session.select("s2")
    row = window.questions.rows["outline:o2"]
    assert isinstance(row, OutlineRow)
    before = drawn(session.job, "o2").chain
    row._show_whole()
    QTest.qWait(50)
    fields = [w for _, w in row._order if w.accessibleName() in ("Name of the outline", "Turn about zero by")]
    assert len(fields) == 2
    fields[0].setFocus()
    pawl.retype("well")
    assert session.job.outline("o2").name == "well"
    pawl.press(KEY.Key_Return)
    pawl.type("90")
    pawl.press(KEY.Key_Return)
    after = drawn(session.job, "o2").chain
    assert after[0].start == pytest.approx((-before[0].start[1], before[0].start[0]))


def test_segments_go_by_alt_and_arrows(pawl: Hands) -> None:
    pawl.window.session.select("s4")
    pawl.window.questions.take_focus("outline:o1.segments.0.radius")
    for wanted in (1, 2, 3):
        pawl.press(KEY.Key_Down, ALT)
        assert selected_segment(pawl.focus, "o1") == wanted
    pawl.press(KEY.Key_Up, ALT)
    assert selected_segment(pawl.focus, "o1") == 2
    assert QApplication.focusWidget() is not None


# -- drawings -------------------------------------------------------------------------------------------------------------------


def test_a_drawing_is_picked_from_by_keys(hands: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm")
    window.cards.add_step("facing")
    hands.proved()
    monkeypatch.setattr(QFileDialog, "getOpenFileName", staticmethod(lambda *a, **k: (str(sample_drawing()), "")))
    hands.press(KEY.Key_I, ALT)
    picker = window.desk.picker
    assert window.views.currentWidget() is picker
    hands.press(KEY.Key_Down)
    hands.press(KEY.Key_Space)
    hands.press(KEY.Key_End)
    hands.press(KEY.Key_Space)
    hands.press(KEY.Key_Return)
    assert window.views.currentWidget() is window.sheet
    assert [o.name for o in session.job.outlines] == ["window"]
    assert [p.name for p in session.job.patterns] == ["Ø6.6 holes"]
    hands.press(KEY.Key_Z, CTRL)
    assert session.job.outlines == ()


def test_a_step_takes_its_outline_from_a_drawing_by_a_click(hands: Hands) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm")
    window.cards.add_step("free-pocket")
    window.desk.open(sample_drawing(), f"step:{session.selected}.outline")
    picker = window.desk.picker
    hands.settle()
    canvas = picker.canvas
    assert picker.picked == {0}
    at = canvas._to(36.0 + 24.0, 30.0)
    hands.click(canvas, at.x(), at.y())
    assert [picker.parts[k].layer for k in picker.picked] == ["window"]
    hands.click(picker.button)
    hands.proved()
    assert session.outline_of_step().name == "window"
    assert session.proof.proved, session.proof.remarks


def test_a_bad_drawing_is_said_and_changes_nothing(hands: Hands, tmp_path: Path) -> None:
    window, session = hands.window, hands.window.session
    window.open_choice("new:mm")
    before = session.job
    bad = tmp_path / "bad.dxf"
    bad.write_text("this is no drawing")
    window.desk.open(bad)
    hands.settle()
    assert "bad.dxf" in window.caption.text()
    assert window.views.currentWidget() is window.sheet
    assert session.job == before


@pytest.mark.parametrize("kind", ["dxf", "svg"])
def test_an_outline_is_written(pawl: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: str) -> None:
    target = tmp_path / f"rim.{kind}"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *a, **k: (str(target), "")))
    pawl.window.session.select("s4")
    pawl.window.run(f"outline.{kind}")
    assert target.stat().st_size > 400
    assert str(target) in pawl.window.caption.text()


def test_a_focus_that_has_gone_with_its_segment_is_none(hands: Hands) -> None:
    """F1, an answer, an undo on a segment that is not there any more: nothing happens, nothing is raised."""
    hands.window.open_choice("sample:pawl-plate")
    session = hands.window.session
    last = len(session.job.outlines[0].segments) - 1
    session.select("s4")
    address = f"outline:{session.job.outlines[0].id}.segments.{last}.x"
    session.set_focus(address)
    session.edit(answering.outline_given(session.job, outline_edits.removed(session.job.outlines[0], last)), "Remove it")
    assert session.focus == ""
    session.focus = address
    hands.press(KEY.Key_F1)
    session.answer(address, 5.0)
    hands.press(KEY.Key_Z, CTRL)
    hands.proved()
