"""The print beside the bench: opened, seen nearer, ticked off, dragged into fields, given its tolerances."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from PyQt6.QtCore import QMarginsF, QPoint, QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter
from PyQt6.QtWidgets import QWidget

from bastler.app.drawn_print import DrawnPrint
from bastler.app.print_pages import LARGEST, PrintError, open_pages
from bastler.app.rows import NumberRow
from bastler.job import write_job
from bastler.job.prints import not_ticked
from bastler.lessons import lesson_named

from .conftest import CTRL, Hands, QTest

KEY = Qt.Key
LEFT = Qt.MouseButton.LeftButton


def written(path: Path, name: str = "plate", pages: int = 1) -> Path:
    """The print of a lesson as a PDF with text, as a drawing program makes one."""
    lesson = lesson_named(name)
    assert lesson is not None
    drawn = DrawnPrint(lesson.print)
    writer = QPdfWriter(str(path))
    writer.setPageLayout(QPageLayout(QPageSize(drawn.size, QPageSize.Unit.Point), QPageLayout.Orientation.Portrait, QMarginsF()))
    writer.setResolution(144)
    painter = QPainter(writer)
    for k in range(pages):
        if k:
            writer.newPage()
        drawn.paint(painter, QRectF(0, 0, 2 * drawn.size.width(), 2 * drawn.size.height()))
    painter.end()
    return path


@pytest.fixture
def printed(demo: Hands, tmp_path: Path) -> Hands:
    """The demo job with a print of seven and two sizes open beside it."""
    demo.window.print_panel.open(written(tmp_path / "cover.pdf"))
    demo.window.show_print()
    demo.settle()
    return demo


def place_of(hands: Hands, words: str) -> tuple[int, QPointF]:
    view = hands.window.print_panel.view
    at = next(k for k, mark in enumerate(view.marks) if mark.words == words)
    return at, view.box_of(at).center()


def dragged(hands: Hands, words: str, onto: QWidget) -> None:
    """With the finger from the print into a field."""
    view = hands.window.print_panel.view
    _, begin = place_of(hands, words)
    end = QPointF(view.mapFromGlobal(onto.mapToGlobal(onto.rect().center())))
    QTest.mousePress(view, LEFT, pos=begin.toPoint())
    for share in (0.2, 0.6, 1.0):
        QTest.mouseMove(view, (begin + (end - begin) * share).toPoint())
    QTest.mouseRelease(view, LEFT, pos=end.toPoint())
    hands.settle()


def field_of(hands: Hands, address: str) -> QWidget:
    row = hands.window.questions.row_of(address)
    assert isinstance(row, NumberRow)
    return row.field


def test_the_sizes_on_a_pdf_are_found_where_they_stand(printed: Hands) -> None:
    lesson = lesson_named("plate")
    assert lesson is not None
    drawn = DrawnPrint(lesson.print)
    marks = printed.window.session.job.print.marks
    assert sorted(m.words for m in marks) == sorted(dim.words for dim in lesson.print.dims)
    places = {(words, round(box.center().x() / drawn.size.width(), 2)) for words, box in drawn.labels()}
    for mark in marks:
        assert min(abs(mark.middle[0] - x) for words, x in places if words == mark.words) < 0.02, mark
    assert not printed.window.route.isVisible(), "the print stands in the place of the route"
    assert printed.window.print_panel.counted.text() == "0 of 9 sizes ticked off"


def test_a_click_ticks_off_and_what_is_not_is_listed_before_output(printed: Hands) -> None:
    window = printed.window
    panel, session = window.print_panel, window.session
    for words in ("90", "60", "R6"):
        at, place = place_of(printed, words)
        printed.click(panel.view, place.x(), place.y())
        assert session.job.print.marks[at].state == "ticked"
    printed.press(KEY.Key_P, CTRL)
    text = window.program.output.not_ticked.text()
    assert window.program.output.not_ticked.isVisible()
    assert text.startswith("Not ticked off on the print: ")
    assert "R6" not in text
    assert {"12", "50", "5", "45", "30"} <= set(text.removesuffix(".").partition(": ")[2].split(", "))
    printed.click(window.program.output.look)
    assert window.place == "bench"
    assert panel.isVisible()
    for _ in range(3):
        printed.press(KEY.Key_Z, CTRL)
    assert len(not_ticked(session.job)) == 9


def test_a_number_is_dragged_into_its_field_and_is_ticked_off(printed: Hands) -> None:
    window = printed.window
    window.session.select("stock")
    printed.settle()
    dragged(printed, "90", field_of(printed, "stock.size_x"))
    assert window.session.job.stock.size_x == 90.0
    at, _ = place_of(printed, "90")
    mark = window.session.job.print.marks[at]
    assert (mark.state, mark.goes_to) == ("ticked", "stock.size_x")
    printed.press(KEY.Key_Z, CTRL)
    assert window.session.job.stock.size_x != 90.0
    assert window.session.job.print.marks[at].state == "open", "one gesture, one undo"


def test_a_radius_into_a_diameter_and_beside_any_field(printed: Hands) -> None:
    window, panel = printed.window, printed.window.print_panel
    window.session.select("s4")
    printed.settle()
    dragged(printed, "R6", field_of(printed, "step:s4.diameter"))
    assert window.session.job.step("s4").diameter == 12.0
    assert window.session.job.step("s4").typed["diameter"] == "2*6"
    dragged(printed, "12", window.strip)
    assert "over the field" in panel.why.text()
    at, _ = place_of(printed, "12")
    assert window.session.job.print.marks[at].state == "open"


def test_an_answer_that_cannot_be_is_not_ticked_off(printed: Hands) -> None:
    """The field says why; the print does not say that it is done."""
    window = printed.window
    window.session.select("stock")
    printed.settle()
    field = field_of(printed, "job.program_number")
    dragged(printed, "R6", field)
    dragged(printed, "90", field)
    assert window.session.job.program_number == 90
    window.print_panel.other_unit()
    printed.settle()
    assert window.print_panel.unit_button.text() == "inch"
    dragged(printed, "60", field_of(printed, "stock.size_y"))
    assert window.session.job.stock.size_y == pytest.approx(60 * 25.4)


def test_by_keys_alone(printed: Hands) -> None:
    window, view = printed.window, printed.window.print_panel.view
    window.session.select("stock")
    window.questions.take_focus("stock.size_y")
    printed.settle()
    QTest.qWait(50)
    view.setFocus()
    order = [m.words for m in view.marks]
    for _ in range(order.index("60") + 1):
        printed.press(KEY.Key_Right)
    assert view.chosen == order.index("60")
    printed.press(KEY.Key_Return)
    assert window.session.job.stock.size_y == 60.0
    view.setFocus()
    printed.press(KEY.Key_Right)
    printed.press(KEY.Key_Space)
    assert window.session.job.print.marks[order.index("60") + 1].state == "ticked"


def test_a_tolerance_goes_to_the_answer_and_to_the_list_of_sizes(printed: Hands) -> None:
    window, panel = printed.window, printed.window.print_panel
    window.session.select("s4")
    printed.settle()
    dragged(printed, "30", field_of(printed, "step:s4.diameter"))
    at = next(k for k, m in enumerate(window.session.job.print.marks) if m.goes_to)
    panel.view.choose(at)
    printed.click(panel.limits)
    printed.type("H7")
    printed.press(KEY.Key_Return)
    assert window.session.job.print.marks[at].limits == "H7"
    assert window.session.job.step("s4").typed["diameter"] == "30 H7"
    assert window.session.job.step("s4").diameter == pytest.approx(30.0105)
    panel.view.choose(place_of(printed, "45")[0])
    printed.click(panel.limits)
    printed.type("soft")
    printed.press(KEY.Key_Return)
    assert "±0.1" in panel.why.text()
    assert window.session.job.print.marks[place_of(printed, "45")[0]].limits == ""


def test_nearer_turned_over_and_moved(demo: Hands, tmp_path: Path) -> None:
    panel = demo.window.print_panel
    panel.open(written(tmp_path / "two.pdf", pages=2))
    demo.window.show_print()
    view = panel.view
    before = view.sheet_box()
    QTest.mousePress(view, LEFT, pos=QPoint(8, 8))
    QTest.mouseMove(view, QPoint(38, 28))
    QTest.mouseRelease(view, LEFT, pos=QPoint(38, 28))
    assert (view.sheet_box().topLeft() - before.topLeft()).manhattanLength() == pytest.approx(50, abs=1)
    assert len(demo.window.session.job.print.marks) == 18, "a drag puts no mark"
    view.zoom_at(QPointF(200, 150), 4.0)
    assert view.sheet_box().width() == pytest.approx(4 * before.width())
    demo.until(lambda: view.pages._shows[1].width() == round(view.sheet_box().width()))
    demo.click(panel.on)
    assert panel.page.text() == "2 of 2"
    assert all(mark.page == 1 for k, mark in enumerate(view.marks) if view.mark_at(view.box_of(k).center()) == k)
    demo.click(panel.back)
    assert view.page == 0


def test_a_picture_is_marked_by_hand(demo: Hands, tmp_path: Path) -> None:
    """Nothing is read off a photo: a click puts a mark, the next ticks it off; a wrong one is taken away."""
    image = QImage(900, 600, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    path = tmp_path / "photo.png"
    image.save(str(path))
    window, panel = demo.window, demo.window.print_panel
    panel.open(path)
    window.show_print()
    demo.settle()
    assert "Click beside each size" in panel.why.text()
    middle = panel.view.sheet_box().center()
    demo.click(panel.view, middle.x(), middle.y())
    assert [m.state for m in window.session.job.print.marks] == ["open"]
    demo.click(panel.view, middle.x(), middle.y())
    assert [m.state for m in window.session.job.print.marks] == ["ticked"]
    demo.press(KEY.Key_Z, CTRL)
    demo.press(KEY.Key_Z, CTRL)
    assert window.session.job.print.marks == ()


def test_what_is_no_print_is_said_and_changes_nothing(printed: Hands, tmp_path: Path) -> None:
    window, panel = printed.window, printed.window.print_panel
    before = window.session.job
    rubbish = {
        "torn.pdf": b"%PDF-1.7\n1 0 obj<<>>endobj\ntrailer",
        "text.png": b"no picture",
        "empty.pdf": b"",
    }
    for name, data in rubbish.items():
        (tmp_path / name).write_bytes(data)
        panel.open(tmp_path / name)
        assert name in panel.why.text(), name
        assert window.session.job is before
    os.mkfifo(tmp_path / "pipe.pdf")
    for name in ("pipe.pdf", "."):
        panel.open(tmp_path / name)
        assert "is no file" in panel.why.text()
    panel.open(tmp_path / "nowhere.pdf")
    assert "is not where it was" in panel.why.text()
    with (tmp_path / "huge.pdf").open("wb") as file:
        file.truncate(LARGEST + 1)
    with pytest.raises(PrintError, match="MB"):
        open_pages(str(tmp_path / "huge.pdf"))


def test_a_print_goes_with_its_job_and_is_looked_for_beside_it(demo: Hands, tmp_path: Path) -> None:
    window = demo.window
    there, here = tmp_path / "there", tmp_path / "here"
    there.mkdir()
    here.mkdir()
    window.print_panel.open(written(there / "cover.pdf"))
    demo.settle()
    at, _ = place_of(demo, "R6")
    window.print_panel.tick(at)
    write_job(window.session.job, here / "cover.bastler")
    (there / "cover.pdf").rename(here / "cover.pdf")
    window.open_choice("sample:bearing-cap")
    demo.settle()
    assert not window.print_panel.isVisible()
    window.open_path(here / "cover.bastler")
    demo.settle()
    assert window.print_panel.view.pages is not None
    assert window.session.job.print.marks[at].state == "ticked"
    (here / "cover.pdf").unlink()
    window.open_choice("sample:bearing-cap")
    window.open_path(here / "cover.bastler")
    demo.settle()
    assert "is not where it was" in window.print_panel.view.trouble
    assert window.session.job.print.marks[at].state == "ticked", "what was ticked off is known all the same"


def test_another_revision_of_the_print_is_noticed(demo: Hands, tmp_path: Path) -> None:
    window = demo.window
    path = written(tmp_path / "part.pdf")
    window.print_panel.open(path)
    for at in range(9):
        window.print_panel.tick(at)
    write_job(window.session.job, tmp_path / "part.bastler")
    written(path, "two-sided")
    window.open_path(tmp_path / "part.bastler")
    demo.until(lambda: "another one than it was" in window.print_panel.why.text())
    assert {"Ø40", "100", "70"} <= {m.words for m in not_ticked(window.session.job)}


def test_the_print_and_the_route_take_turns(printed: Hands) -> None:
    window = printed.window
    printed.press(KEY.Key_5, CTRL)
    assert window.route.isVisible()
    assert not window.print_panel.isVisible()
    printed.press(KEY.Key_5, CTRL)
    assert window.print_panel.isVisible()
    printed.click(window.print_panel.close_button)
    assert window.route.isVisible()
    window.run("print.remove")
    printed.settle()
    assert window.session.job.print is None
    assert QSizeF(window.route.size()).width() > 0
