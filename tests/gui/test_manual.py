"""The manual: what it names is there, it can be read and searched in the window, and taken away as a book."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtPdf import QPdfDocument

from bastler.app.commands import COMMANDS
from bastler.app.keyring import key_text
from bastler.app.manual import ManualWindow, html_of_manual, keys_text, manual_text, pdf_of_manual
from bastler.cli import main
from bastler.language import ENGLISH, LANGUAGES, speak
from bastler.manual import chapters

from .conftest import SHIFT, Hands

KEY = Qt.Key
SHOTS = Path(__file__).parents[2] / "docs" / "screenshots"
LEAST_PAGES = 30


@pytest.mark.parametrize("speaks", list(LANGUAGES))
def test_every_key_that_is_named_is_one(speaks: str) -> None:
    """A key in bold with Ctrl, Alt or Shift belongs to a command, or to going from field to field; as it is called there."""
    speak(speaks)
    keys = {key for entry in COMMANDS.values() for key in (*entry.keys, *entry.bare)}
    keys |= {"Ctrl+Enter", "Ctrl++", "Ctrl+-", "Shift+Enter", "Ctrl+C"}
    called = {key_text(key) for key in keys}
    speak(ENGLISH)
    named = [
        key for chapter in chapters(speaks) for key in re.findall(r"\*\*((?:Ctrl|Strg|Alt|Shift|Umschalt)\+[^*]+)\*\*", chapter)
    ]
    assert len(named) > 20
    assert [key for key in named if key not in called] == []


def test_every_picture_that_is_named_is_there() -> None:
    named = {name for chapter in chapters("en") for name in re.findall(r"!\[[^\]]*\]\(([^)]+)\)", chapter)}
    assert named
    for name in named:
        assert (SHOTS / name).is_file(), name
    assert "![" not in manual_text(pictures=False)


def test_all_commands_are_in_it_with_their_keys_as_they_are_now() -> None:
    text = keys_text({"step.copy": "Ctrl+Alt+D"})
    for entry in COMMANDS.values():
        assert entry.says in text
    assert "| Copy the step | Ctrl+Alt+D |" in text
    assert "| Copy the step | Ctrl+D |" in keys_text()


def test_as_a_book_it_has_thirty_pages_and_its_pictures(qapp, tmp_path: Path) -> None:
    path = tmp_path / "manual.pdf"
    path.write_bytes(pdf_of_manual(SHOTS))
    book = QPdfDocument(None)
    assert book.load(str(path)) == QPdfDocument.Error.None_
    assert book.pageCount() >= LEAST_PAGES
    text = "".join(book.getAllText(k).text() for k in range(book.pageCount()))
    assert "What Bastler is for" in text
    assert "What the questions mean" in text
    bare = pdf_of_manual()
    assert len(path.read_bytes()) > 2 * len(bare), "the pictures are in it"
    html = html_of_manual(SHOTS).decode()
    assert html.count("data:image/png;base64,") == len(set(re.findall(r"\(([\w-]+\.png)\)", "".join(chapters("en")))))
    assert 'src="http' not in html


def test_a_folder_without_pictures_leaves_them_out(qapp, tmp_path: Path) -> None:
    assert "base64" not in html_of_manual(tmp_path).decode()


def test_it_is_read_and_searched_beside_the_work(demo: Hands, tmp_path: Path) -> None:
    window = demo.window
    demo.press(KEY.Key_F1, SHIFT)
    (manual,) = window.findChildren(ManualWindow)
    demo.until(manual.isVisible)
    heads = [manual.list.item(k).text() for k in range(manual.list.count())]
    assert heads[:2] == ["What Bastler is for", "The first part"]
    assert heads[-2:] == ["Keys", "What the questions mean"]
    manual.list.setCurrentRow(heads.index("Turning"))
    assert manual.text.textCursor().block().text() == "Turning"
    manual.words.setText("pulled out")
    manual.words.entered.emit(1)
    assert manual.text.textCursor().selectedText() == "pulled out"
    manual.words.setText("nothing of that kind")
    manual.words.entered.emit(1)
    assert "is not in it" in manual.said.text()
    manual.save_to(tmp_path / "m.html")
    assert (tmp_path / "m.html").read_bytes().startswith(b"<!DOCTYPE")
    manual.save_to(tmp_path / "m.html" / "m.pdf")
    assert "could not be written" in manual.said.text()
    window.session.answer("step:s2.depth", 9.0)
    assert window.session.job.step("s2").depth == 9.0, "the window goes on beside it"
    manual.close()


@pytest.mark.parametrize("ending", ["pdf", "html"])
def test_by_the_command_line(ending: str, tmp_path: Path) -> None:
    path = tmp_path / f"manual.{ending}"
    assert main(["handbook", "-o", str(path)]) == 0
    assert path.read_bytes().startswith(b"%PDF" if ending == "pdf" else b"<!DOCTYPE")
