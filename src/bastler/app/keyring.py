"""Whose key is which: those of the commands as they come, and the user's own, kept as differences in the settings.

A key is written as Qt writes it (`Ctrl+Shift+C`). An own key takes the place of all that a command comes with; none at all is
an empty one.
"""

from __future__ import annotations

import re
from collections.abc import Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence

from bastler.app.commands import COMMANDS, Command
from bastler.language import tr, tr_as

ALONE = {
    Qt.Key.Key_Control, Qt.Key.Key_Shift, Qt.Key.Key_Alt, Qt.Key.Key_Meta, Qt.Key.Key_AltGr, Qt.Key.Key_CapsLock,
    Qt.Key.Key_NumLock, Qt.Key.Key_unknown, Qt.Key.Key_Super_L, Qt.Key.Key_Super_R,
}  # fmt: skip
"""Keys that say nothing by themselves."""
KEPT = frozenset(
    {
        "Return",
        "Enter",
        "Tab",
        "Backtab",
        "Shift+Tab",
        "Esc",
        "Backspace",
        "Left",
        "Right",
        "Up",
        "Down",
        "F10",
        "Space",
        "Home",
        "End",
    }
)
"""Keys that every field needs for itself, and that of the menu: no command has them."""
IN_BRACKETS = re.compile(r"\(([^()]+)\)|(?<=  )([A-Z][A-Za-z0-9+]*)$")


class KeyTaken(ValueError):
    """A key that cannot be a command's; the text says why."""


def plain(key: str) -> str:
    """A key as it is compared; empty for what is none."""
    return QKeySequence(key).toString()


KEY_NAMES = (
    "Ctrl",
    "Shift",
    "Insert",
    "Delete",
    "Del",
    "Ins",
    "Space",
    "Enter",
    "Return",
    "Backspace",
    "PgUp",
    "PgDown",
    "Up",
    "Down",
)
"""What stands on keys that other keyboards call otherwise."""


def key_text(key: str) -> str:
    """A key as it is written on the keyboards of those who read it."""
    return "+".join(tr_as("key", part) if part in KEY_NAMES else part for part in key.split("+")) if key != "+" else key


def keys_of(entry: Command, own: Mapping[str, str]) -> tuple[str, ...]:
    """All keys of a command as they are now, the one that is shown first."""
    if entry.name in own:
        return (own[entry.name],) if own[entry.name] else ()
    return (*entry.keys, *entry.bare)


def shown(entry: Command, own: Mapping[str, str]) -> str:
    """The key that is shown beside a command; empty where it has none."""
    return next(iter(keys_of(entry, own)), "")


def sound(own: Mapping[str, str]) -> dict[str, str]:
    """Own keys as far as they may be: what a file has of commands that are not there any more, of keys that are none, or that
    two have, is left out."""
    found = {name: plain(key) for name, key in own.items() if name in COMMANDS and not _unfit(COMMANDS[name], key)}
    while (name := next((n for n, key in found.items() if key and _shared(n, key, found)), None)) is not None:
        del found[name]  # its command has those again that it comes with, which may be another's: looked at again
    return found


def _shared(name: str, key: str, own: Mapping[str, str]) -> bool:
    """Does another command have that key too?"""
    return any(key in {plain(k) for k in keys_of(e, own)} for e in COMMANDS.values() if e.name != name)


def _unfit(entry: Command, key: str) -> str:
    """Why a key can be no command's, or not this one's; empty where it can, and for no key at all."""
    if not key:
        return ""
    if not plain(key) or "," in plain(key):
        return tr("That is no single key.")
    if plain(key) in KEPT:
        return tr("{key} is what fields and lists need for themselves.", key=key_text(plain(key)))
    if not entry.bare and _types(plain(key)):
        return tr("{key} alone is what is typed into fields: take it with Ctrl or Alt.", key=key_text(plain(key)))
    return ""


def changed(own: Mapping[str, str], name: str, key: str) -> dict[str, str]:
    """Own keys with another one for a command, or none with an empty one. KeyTaken for one that is another's, or that is none."""
    entry = COMMANDS[name]
    if why := _unfit(entry, key):
        raise KeyTaken(why)
    key = plain(key)
    other = whose(key, own) if key else None
    if other is not None and other.name != name:
        raise KeyTaken(tr("{key} belongs to “{says}”.", key=key_text(key), says=tr(other.says)))
    found = {**own, name: key}
    return returned(found, name) if [key] == [plain(k) for k in (*entry.keys, *entry.bare)][:1] else found


def returned(own: Mapping[str, str], name: str) -> dict[str, str]:
    """Own keys without that of a command, which has those again that it comes with. KeyTaken where one of these is another's
    now."""
    found = {other: key for other, key in own.items() if other != name}
    for key in (*COMMANDS[name].keys, *COMMANDS[name].bare):
        taken = next((COMMANDS[other] for other, its in found.items() if its == plain(key)), None)
        if taken is not None:
            raise KeyTaken(tr("{key} belongs to “{says}” now.", key=key_text(plain(key)), says=tr(taken.says)))
    return found


def _types(key: str) -> bool:
    """Does a key alone write something?"""
    return (
        len(key) == 1 or key in {"Shift+" + letter for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"} or key in ("Del", "Ins")
    )


def whose(key: str, own: Mapping[str, str]) -> Command | None:
    """The command that a key belongs to."""
    return next((e for e in COMMANDS.values() if key in {plain(k) for k in keys_of(e, own)}), None)


def in_words(text: str, own: Mapping[str, str]) -> str:
    """A tooltip with the keys that commands have now, where it names those that they come with: `To the program (Ctrl+P)`."""

    def now(found: re.Match[str]) -> str:
        said = found.group(1) or found.group(2)
        entry = next((COMMANDS[n] for n in own if said in map(key_text, (*COMMANDS[n].keys, *COMMANDS[n].bare))), None)
        if entry is None:
            return found.group()
        key = key_text(own[entry.name])
        return found.group().replace(said, key) if key else ""

    return IN_BRACKETS.sub(now, text).rstrip() if own else text
