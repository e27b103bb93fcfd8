"""What is installed: nothing of the package is left behind, and the desktop gets what it needs."""

from __future__ import annotations

import configparser
import re
import subprocess
import tomllib
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

import bastler
from bastler import __version__
from bastler.cli import main, make_parser
from bastler.installing import install, manual_page, manual_place, own_command, remove, share_files
from bastler.language import LANGUAGES, speaking

PACKAGE = Path(bastler.__file__).parent
ROOT = PACKAGE.parent.parent


def test_every_file_of_the_package_is_in_the_wheel() -> None:
    """A file that its patterns miss is there for whoever works on Bastler, and for nobody who installs it."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))
    matched = {p for pattern in project["tool"]["setuptools"]["package-data"]["bastler"] for p in PACKAGE.glob(pattern)}
    missed = [
        str(path.relative_to(PACKAGE))
        for path in PACKAGE.rglob("*")
        if path.is_file() and path.suffix not in (".py", ".pyc", ".nbc", ".nbi") and path not in matched
    ]
    assert missed == []
    assert project["project"]["version"] == __version__


def test_the_desktop_gets_all_and_gives_all_back(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "a folder"))
    monkeypatch.setenv("PATH", "")  # no caches are made anew here
    assert main(["--install-desktop"]) == 0
    there = sorted(p.relative_to(tmp_path / "a folder").as_posix() for p in (tmp_path / "a folder").rglob("*") if p.is_file())
    assert there == sorted(place for place, _ in share_files("", make_parser))
    assert "6 files" in capsys.readouterr().out
    assert main(["--install-desktop"]) == 0, "once more does no harm"
    assert main(["--remove-desktop"]) == 0
    assert [p for p in (tmp_path / "a folder").rglob("*") if p.is_file()] == []
    assert main(["--remove-desktop"]) == 0


def test_a_disk_that_refuses_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, capsys) -> None:
    (tmp_path / "share").write_text("a file")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    assert main(["--install-desktop"]) == 2
    assert "cannot be written" in capsys.readouterr().err


def test_the_menu_entry_starts_what_was_installed_with_files_of_its_kinds(tmp_path: Path) -> None:
    install(tmp_path, "/opt/a b/bastler", make_parser)
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str  # type: ignore[assignment,method-assign]
    entry.read(tmp_path / "applications" / "bastler.desktop", encoding="utf-8")
    own = entry["Desktop Entry"]
    assert own["Exec"] == "/opt/a b/bastler open %f"
    assert own["Icon"] == "bastler"
    kinds = set(filter(None, own["MimeType"].split(";")))
    space = "{http://www.freedesktop.org/standards/shared-mime-info}"
    types = ET.parse(tmp_path / "mime" / "packages" / "bastler.xml").getroot().findall(f"{space}mime-type")
    assert kinds == {str(t.get("type")) for t in types}
    globs = {g.get("pattern") for t in types for g in t.findall(f"{space}glob")}
    assert {"*.bastler", "*.nc"} <= globs
    told = ET.parse(tmp_path / "metainfo" / "org.bastler.bastler.metainfo.xml").getroot()
    assert {str(m.text) for m in told.findall("provides/mediatype")} == kinds
    assert told.findtext("launchable") == "bastler.desktop"
    assert str(told.find("releases/release").get("version")) == __version__
    assert (
        ET.parse(tmp_path / "icons" / "hicolor" / "scalable" / "apps" / "bastler.svg").getroot().get("viewBox") == "0 0 128 128"
    )


def test_the_command_of_the_entry_runs() -> None:
    found = subprocess.run([*own_command().split(), "--version"], capture_output=True, text=True, timeout=60, check=True)
    assert found.stdout.strip() == f"Bastler {__version__}"


@pytest.mark.parametrize("name", LANGUAGES)
def test_the_manual_page_has_every_command_and_option(name: str) -> None:
    with speaking(name):
        parser = make_parser()
        page = manual_page(parser)
    for action in parser._actions:
        for option in action.option_strings:
            assert option.replace("-", "\\-") in page
        for choice in action.choices or ():
            assert f"\\fB{choice}\\fR" in page
    assert not re.search(r"^[.'](?!TH|SH|TP|B\b)", page, re.MULTILINE), "a line that begins as a request and is none"
    assert dict(share_files("", make_parser))[manual_place(name)].decode() == page
    assert manual_place("en") == "man/man1/bastler.1"


def test_remove_takes_nothing_else(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PATH", "")  # no caches are made anew here
    other = tmp_path / "applications" / "other.desktop"
    install(tmp_path, "bastler", make_parser)
    other.write_text("mine")
    remove(tmp_path, make_parser)
    assert [p.name for p in tmp_path.rglob("*") if p.is_file()] == ["other.desktop"]
    assert other.read_text() == "mine"
