"""Views saved as pictures: as drawings, which scale, and as dots."""

from __future__ import annotations

import xml.etree.ElementTree as ElementTree
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage
from PyQt6.QtWidgets import QApplication, QFileDialog

from bastler.app.picture_desk import image_of, svg_of

from .conftest import Hands


@pytest.mark.parametrize("view", ["sheet", "path"])
def test_sheet_and_path_are_drawings(demo: Hands, tmp_path: Path, view: str) -> None:
    demo.window.view(view)
    demo.window.session.select("s2")
    demo.proved()
    widget = demo.window.sheet if view == "sheet" else demo.window.path
    demo.until(lambda: widget.isVisible())
    QApplication.processEvents()
    demo.window.pictures.write(tmp_path / "a.svg", widget)
    root = ElementTree.parse(tmp_path / "a.svg").getroot()
    assert root.tag.endswith("svg")
    assert root.findtext("{http://www.w3.org/2000/svg}title") == "Winch base"
    assert len(list(root.iter("{http://www.w3.org/2000/svg}path"))) > 5
    demo.window.pictures.write(tmp_path / "a.png", widget)
    seen = QImage(str(tmp_path / "a.png"))
    assert (seen.width(), seen.height()) == (2 * widget.width(), 2 * widget.height())
    tints = {seen.pixel(x, y) for x in range(0, seen.width(), 9) for y in range(0, seen.height(), 9)}
    assert len(tints) > 4, "something is on it"
    assert svg_of(widget, "a") != svg_of(widget, "b")
    assert image_of(widget).size() == seen.size()


def test_the_solid_is_a_picture(demo: Hands, tmp_path: Path) -> None:
    demo.window.view("solid")
    demo.until(lambda: demo.window.solid.shown and demo.window.solid.scene is not None)
    picture = demo.window.solid.scene.picture()
    demo.window.pictures.write(tmp_path / "a.png", picture)
    seen = QImage(str(tmp_path / "a.png"))
    assert (seen.width(), seen.height()) == (picture.width(), picture.height())
    assert len({seen.pixel(x, y) for x in range(0, seen.width(), 7) for y in range(0, seen.height(), 7)}) > 20


def test_the_name_is_asked_for_and_a_disk_that_refuses_is_said(
    demo: Hands, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    said: list[str] = []
    demo.window.session.said.connect(lambda kind, text: said.append(text))
    (tmp_path / "file").write_text("no folder")
    for name, words in (("a.svg", "is written"), ("b", "is written"), ("file/c.png", "was not written")):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *given, name=name, **more: (str(tmp_path / name), ""))
        demo.window.run("view.picture")
        assert words in said[-1]
    assert (tmp_path / "a.svg").read_bytes().startswith(b"<?xml")
    assert QImage(str(tmp_path / "b.png")).width() > 100
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *given, **more: ("", ""))
    count = len(said)
    demo.window.run("view.picture")
    assert len(said) == count
