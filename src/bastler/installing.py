"""Bastler on a desktop: its entry in the menu, its icon, its kinds of files, its metadata and its manual page.

The files lie in the package; what stands in them of this machine, the command that starts Bastler, is put in where they are
written. A folder they go to is laid out as freedesktop.org says (`$XDG_DATA_HOME`, or `/usr/share` of a package).
"""

from __future__ import annotations

import argparse
import contextlib
import os
import shlex
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from importlib.resources import files
from pathlib import Path

from bastler import __version__
from bastler.language import ENGLISH, LANGUAGES, VARIABLE, speaking, tr

COMMAND = "@COMMAND@"
Parser = Callable[[], argparse.ArgumentParser]
"""Makes what reads the command line, in the language in force."""
LONGEST = 60.0
"""Seconds that a cache of the desktop may take to be made anew."""


def user_folder() -> Path:
    """Where a user's own desktop files are, by the XDG base directories."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def own_command() -> str:
    """What starts this Bastler, from anywhere: the script that was installed with it, else the interpreter that runs it now."""
    beside = Path(sys.executable).with_name("bastler")
    found = str(beside) if os.access(beside, os.X_OK) else shutil.which("bastler")
    return shlex.quote(found) if found else f"{shlex.quote(sys.executable)} -m bastler"


def share_files(command: str, make_parser: Parser) -> Iterator[tuple[str, bytes]]:
    """Every file by its place in the folder, with its bytes."""
    root = Path(str(files("bastler") / "assets" / "share"))
    for path in sorted(root.rglob("*")):
        if path.is_file():
            text = path.read_text(encoding="utf-8").replace(COMMAND, command)
            yield path.relative_to(root).as_posix(), text.encode()
    for name in LANGUAGES:
        with speaking(name):
            yield manual_place(name), manual_page(make_parser()).encode()


def manual_place(language: str) -> str:
    """Where the manual page of a language is looked for."""
    return f"man/{'' if language == ENGLISH else f'{language}/'}man1/bastler.1"


def install(folder: Path, command: str, make_parser: Parser) -> list[Path]:
    """Writes all of them; gives where. OSError where the disk refuses."""
    from bastler.disk import write_whole

    written = []
    for place, data in share_files(command, make_parser):
        path = folder / place
        path.parent.mkdir(parents=True, exist_ok=True)
        write_whole(path, data)
        written.append(path)
    refresh(folder)
    return written


def remove(folder: Path, make_parser: Parser) -> list[Path]:
    """Takes all of them away; gives what was there."""
    gone = [folder / place for place, _ in share_files("", make_parser) if (folder / place).is_file()]
    for path in gone:
        path.unlink()
    refresh(folder)
    return gone


def refresh(folder: Path) -> None:
    """Lets the desktop know. What is not there to be told, or fails, is no harm: desktops look again when they start."""
    for tool, place in (("update-desktop-database", "applications"), ("update-mime-database", "mime")):
        if shutil.which(tool) and (folder / place).is_dir():
            with contextlib.suppress(OSError, subprocess.SubprocessError):
                subprocess.run([tool, str(folder / place)], capture_output=True, timeout=LONGEST, check=False)


def manual_page(parser: argparse.ArgumentParser) -> str:
    """The manual page in roff, made from what the command line knows of itself."""
    lines = [
        f'.TH BASTLER 1 "" "Bastler {__version__}" "{_roff(tr("User Commands"))}"',
        f".SH {_roff(tr('NAME'))}",
        f"bastler \\- {_roff(tr('feature cycles, a live proof and G-code for machinists'))}",
        f".SH {_roff(tr('SYNOPSIS'))}",
        ".B bastler",
        f"[\\fI{_roff(tr('command'))}\\fR] [\\fI{_roff(tr('arguments'))}\\fR]",
        f".SH {_roff(tr('DESCRIPTION'))}",
        _roff(tr("Without a command the window opens. Everything the window works out can be had from a terminal too.")),
        f".SH {_roff(tr('COMMANDS'))}",
    ]
    for name, own, says in _commands(parser):
        lines += [".TP", f"\\fB{_roff(name)}\\fR {_arguments(own)}".rstrip(), f"{_sentence(says)}"]
    lines += [f".SH {_roff(tr('OPTIONS'))}"]
    for action in parser._actions:
        if action.option_strings:
            lines += [".TP", "\\fB" + _roff(", ".join(action.option_strings)) + "\\fR", _sentence(action.help or "")]
    ends = tr(
        "0: done, and where something was proved, it is. 1: not proved. 2: something given cannot be read. 130: interrupted."
    )
    lines += [
        f".SH {_roff(tr('EXIT STATUS'))}",
        _roff(ends),
        f".SH {_roff(tr('FILES'))}",
        *_explained("~/.config/bastler/", tr("Settings, and the shop's tools, materials and machine cards.")),
        *_explained("~/.local/state/bastler/", tr("What is kept of jobs that are in no file yet, what was sent, and the log.")),
        f".SH {_roff(tr('ENVIRONMENT'))}",
        *_explained("XDG_CONFIG_HOME\\fR, \\fIXDG_STATE_HOME\\fR, \\fIXDG_DATA_HOME", tr("Other places for them.")),
        *_explained(VARIABLE, tr("In which language to answer: {languages}.", languages=", ".join(LANGUAGES))),
        "",
    ]
    return "\n".join(lines)


def _commands(parser: argparse.ArgumentParser) -> Iterator[tuple[str, argparse.ArgumentParser, str]]:
    for action in parser._actions:
        if isinstance(action, argparse._SubParsersAction):
            says = {choice.dest: choice.help or "" for choice in action._choices_actions}
            for name, own in action.choices.items():
                yield name, own, says.get(name, "")


def _arguments(parser: argparse.ArgumentParser) -> str:
    found = []
    for action in parser._actions:
        if isinstance(action, argparse._HelpAction):
            continue
        name = action.option_strings[0] if action.option_strings else ""
        says = "|".join(action.choices) if action.choices else str(action.metavar or action.dest)
        value = "" if action.nargs == 0 else f"\\fI{_roff(says)}\\fR"
        text = f"\\fB{_roff(name)}\\fR {value}".strip() if name else value
        found.append(text if action.required else f"[{text}]")
    return " ".join(found)


def _explained(name: str, says: str) -> list[str]:
    return [".TP", f"\\fI{name}\\fR", _roff(says)]


def _sentence(text: str) -> str:
    text = _roff(text)
    return f"{text[:1].upper()}{text[1:]}{'' if text.endswith('.') else '.'}"


def _roff(text: str) -> str:
    return text.replace("\\", "\\e").replace("-", "\\-").replace("%%", "%")
