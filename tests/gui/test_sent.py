"""What was sent, as the window shows it: what has changed since, by step and by line, in the header and in the program place."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from bastler.app.main_window import MainWindow
from bastler.app.sent_keeper import sent_programs
from bastler.steps import Facing, RectangularPocket
from conftest import job_of

from .conftest import Hands


@pytest.fixture
def sent(hands: Hands, tmp_path: Path) -> Hands:
    """A small job in a file of its own, its program saved in another folder."""
    hands.opened_file(job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20)), tmp_path)
    hands.window.run("program.output")
    hands.window.program.output.folder = tmp_path
    assert "changed since" not in hands.window.header.sub.text()
    hands.click(hands.window.program.output.button)
    assert "read back and the same" in hands.window.program.output.said.text()
    return hands


def says(hands: Hands) -> str:
    return hands.window.program.sent.says.text()


def header(hands: Hands) -> str:
    return hands.window.header.sub.text()


def test_what_has_changed_is_marked_and_an_undo_unmarks_it(sent: Hands) -> None:
    assert says(sent).startswith("As it was sent")
    assert sent.window.program.sent.show_changes.isHidden()
    sent.window.session.answer("step:b.depth", 3.0)
    sent.proved()
    assert "changed since it was sent" in header(sent)
    assert says(sent).startswith("Changed since it was sent")
    sent.window.run("edit.undo")
    sent.proved()
    assert says(sent).startswith("As it was sent")
    assert "changed since" not in header(sent)


def test_the_changes_are_listed_and_lead_to_their_lines(sent: Hands) -> None:
    program = sent.window.program
    sent.window.session.answer("step:b.depth", 3.0)
    sent.proved()
    sent.click(program.sent.show_changes)
    sent.until(lambda: program.sent.boxes.count() > 0)
    boxes: list[Any] = [program.sent.boxes.itemAt(k).widget() for k in range(program.sent.boxes.count())]
    assert {box.change.step for box in boxes} == {"b"}
    lines = sent.window.session.proof.program.lines
    assert program.listing.changed
    assert all("Z" in lines[k] or "G" in lines[k] or "(" in lines[k] for k in program.listing.changed)
    sent.click(boxes[0])
    assert program.listing.line == min(boxes[0].change.lines)
    sent.click(program.sent.show_changes)
    assert program.listing.changed == frozenset()
    assert program.sent.boxes.count() == 0


def test_another_file_there_is_told_when_one_comes_to_look(sent: Hands, tmp_path: Path) -> None:
    (path,) = tmp_path.glob("*.nc")
    path.write_text("G0 X99\n")
    sent.window.go_to("bench")
    sent.window.go_to("program")
    assert "The file there is another one now." in says(sent)
    path.unlink()
    sent.window.go_to("bench")
    sent.window.go_to("program")
    assert "The file is not there any more." in says(sent)


def test_it_is_known_at_the_next_start(sent: Hands, tmp_path: Path) -> None:
    sent.window.session.answer("step:b.depth", 3.0)
    sent.proved()
    sent.window.run("job.save")
    window: MainWindow = sent.window
    window.open_choice("sample:winch-base")
    sent.proved()
    assert window.program.sent.isHidden()
    window.open_path(tmp_path / "plate.bastler")
    sent.proved()
    assert "changed since it was sent" in header(sent)


def test_a_part_with_a_number_says_that_the_next_one_is_meant(demo: Hands, tmp_path: Path) -> None:
    demo.window.run("program.output")
    demo.window.program.output.folder = tmp_path
    demo.click(demo.window.program.output.button)
    demo.proved()
    assert says(demo).startswith("For the next part: its numbers have counted on")
    assert "changed since" not in header(demo)
    demo.window.session.answer("step:s5.depth", 17.0)
    demo.proved()
    assert says(demo).startswith("Changed since it was sent")


def test_where_nothing_can_be_taken_down_the_program_still_leaves(hands: Hands, tmp_path: Path) -> None:
    folder = sent_programs().folder
    folder.parent.mkdir(parents=True, exist_ok=True)
    folder.write_text("a file where the folder should be")
    hands.opened("winch-base")
    hands.window.run("program.output")
    hands.window.program.output.folder = tmp_path
    hands.click(hands.window.program.output.button)
    assert "What was sent could not be taken down" in hands.window.program.output.said.text()
    assert (tmp_path / "winch-base.nc").stat().st_size > 1000
