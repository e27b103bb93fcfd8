"""What Bastler remembers between two starts. A file that does not fit changes nothing."""

from __future__ import annotations

import logging
from pathlib import Path
from typing import Literal

import msgspec
import platformdirs

from bastler.disk import read_bounded, write_whole
from bastler.language import of_the_shell

log = logging.getLogger(__name__)
LARGEST = 1_000_000
MOST_RECENT = 6


LanguageChoice = Literal["en", "de", "desktop"]


class Settings(msgspec.Struct, frozen=True, kw_only=True):
    """`recent` job files, newest first; the folder programs were last saved in; large targets and a number pad for `gloves`; how
    the window was left: its `place` as x, y, width and height, and whether it was `maximised` or over the `full` screen; whether
    the solid stands `beside` the sheet where there is room; which `colours` are worn; own `keys` of commands, by their names;
    which `language` is spoken; whether the `print` of a job stands beside the bench; the `lessons` that were made to the end; the
    `machine` that was chosen last for milled and for turned parts; as what a new part was `begun` last, by its tile at the start;
    the `view` of the bench that was looked at last."""

    recent: tuple[str, ...] = ()
    output_folder: str = ""
    gloves: bool = False
    place: tuple[int, int, int, int] | None = None
    maximised: bool = True
    full: bool = False
    beside: bool = False
    colours: Literal["day", "night", "desktop"] = "desktop"
    keys: dict[str, str] = {}
    language: LanguageChoice = "desktop"
    print: bool = True
    lessons: tuple[str, ...] = ()
    machine: dict[str, str] = {}
    begun: str = ""
    view: Literal["sheet", "solid", "path"] = "sheet"


def settings_path() -> Path:
    return platformdirs.user_config_path("bastler") / "settings.json"


def read_settings() -> Settings:
    """The settings on disk; the defaults when there are none that fit."""
    try:
        return msgspec.json.decode(read_bounded(settings_path(), LARGEST), type=Settings)
    except (OSError, msgspec.DecodeError):
        return Settings()


def write_settings(settings: Settings) -> None:
    """Keeps the settings; a disk that refuses is logged and does not stop the work."""
    try:
        write_whole(settings_path(), msgspec.json.encode(settings))
    except OSError:
        log.info("The settings could not be written", exc_info=True)


def language_meant(choice: LanguageChoice) -> str:
    """The language that a choice means here and now."""
    return of_the_shell() if choice == "desktop" else choice


def with_recent(settings: Settings, path: Path) -> Settings:
    """The settings with a job file at the head of the recent ones."""
    name = str(path.resolve())
    recent = (name, *(r for r in settings.recent if r != name))[:MOST_RECENT]
    return msgspec.structs.replace(settings, recent=recent)
