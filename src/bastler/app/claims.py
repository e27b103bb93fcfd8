"""The keys that are commands everywhere, even where a text field has a meaning of its own for them."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QEvent
from PyQt6.QtGui import QKeyEvent, QKeySequence

_CLAIMED: set[str] = set()


def claim(keys: Iterable[str]) -> None:
    """These belong to a command from now on."""
    _CLAIMED.update(QKeySequence(key).toString() for key in keys)


def claim_only(keys: Iterable[str]) -> None:
    """These, and no others."""
    _CLAIMED.clear()
    claim(keys)


def claimed(event: QEvent | None) -> bool:
    """Is this a key that belongs to a command? Undo, for one, is the job's and not the field's."""
    if not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.ShortcutOverride:
        return False
    return QKeySequence(event.keyCombination()).toString() in _CLAIMED
