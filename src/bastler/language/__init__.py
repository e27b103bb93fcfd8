"""What people read, in their language: one catalogue for the window and for all that lies below it.

Texts stand in English where they are made; `tr` says them in the language in force. The catalogues are gettext's, one file a
language (`de.po`, and `de.mo` that is made of it), so that whoever translates has the usual tools, and plural forms are the
language's own. Values go in by name, `tr("{depth} deep", depth=…)`, so that a language may put them in another order; a number
that is no text yet gets the decimal sign of the language.

What is declared when a module is loaded, as a question's words, stays English there and is said where it is shown.
"""

from __future__ import annotations

import functools
import gettext
import os
import re
import string
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from typing import Any, TypeVar

T = TypeVar("T")
ENGLISH = "en"
LANGUAGES = {"en": "English", "de": "Deutsch"}
"""Each as those call it who speak it."""
VARIABLE = "BASTLER_LANGUAGE"
"""Where a process that we start learns what it is to speak; whoever starts one of ours may say it there too."""
_STARTED_IN = os.environ.get(VARIABLE, "")


class _Tongue:
    """What is spoken in this process."""

    def __init__(self) -> None:
        self.name = ENGLISH
        self.words: gettext.NullTranslations | None = None

    def speak(self, name: str) -> None:
        self.name, self.words = name, None if name == ENGLISH else _catalogue(name)


def known(wanted: str) -> str:
    """The language that is meant by `de`, `de_AT.UTF-8` or the like; English where it is none of ours."""
    short = wanted.replace("-", "_").partition("_")[0].partition(".")[0].lower()
    return short if short in LANGUAGES else ENGLISH


def of_the_shell() -> str:
    """The language in which the shell asks to be answered: our own variable, else the usual ones in their order."""
    said = (_STARTED_IN, *(os.environ.get(name, "") for name in ("LC_ALL", "LC_MESSAGES", "LANG")))
    return next((known(value) for value in said if value), ENGLISH)


def speak(name: str) -> None:
    """From now on texts are said in a language, in this process and in those that it starts; KeyError for one that is none of
    ours."""
    if name not in LANGUAGES:
        raise KeyError(name)
    _tongue.speak(name)
    os.environ[VARIABLE] = name


@contextmanager
def speaking(name: str) -> Iterator[None]:
    """Says what is said meanwhile in another language."""
    before = spoken()
    speak(name)
    try:
        yield
    finally:
        speak(before)


def spoken() -> str:
    """The language in force, by its short name."""
    return _tongue.name


def tr(text: str, /, **values: Any) -> str:
    """A text in the language in force, with its values put in; the text itself where nobody has translated it."""
    words = _tongue.words
    if words is None:
        return text.format(**values) if values else text
    return _put_in(words.gettext(text) if text else text, values)


def tr_as(sense: str, text: str, /, **values: Any) -> str:
    """The same for a text that means something else elsewhere: in this `sense`, as `left` the hand or what remains."""
    words = _tongue.words
    if words is None:
        return text.format(**values) if values else text
    return _put_in(words.pgettext(sense, text), values)


def tr_many(count: int, one: str, many: str, /, **values: Any) -> str:
    """A text that depends on how many there are; `{count}` in it is that number."""
    words = _tongue.words
    if words is None:
        return (one if count == 1 else many).format(count=count, **values)
    return _put_in(words.ngettext(one, many, count), {"count": count, **values})


def many(count: int, word: str) -> str:
    """A count with its word: `1 tool`, `3 tools`."""
    return tr_many(count, f"{{count}} {word}", f"{{count}} {word}s")


def sayable(declared: T) -> T:
    """Marks words that are declared before anybody knows the language: they are said with `tr` where they are shown, and so
    stand in the catalogue."""
    return declared


def countable(word: str) -> str:
    """The same for a word that is counted with `many` elsewhere."""
    return word


def as_inside(text: str) -> str:
    """Words of a heading or a choice as they stand within a line: small in English, as they are in German, whose nouns are
    large."""
    return text if _tongue.name == "de" else text.lower()


def comma() -> bool:
    """Does a comma stand in numbers where people speak the language?"""
    return _tongue.words is not None


def decimal(text: str) -> str:
    """A number as it is written in English, in the way of the language."""
    return text.replace(".", ",") if comma() else text


def pointed(listed: str) -> str:
    """Numbers one behind the other as they were typed, with points in them: where people write a comma there, or a semicolon
    stands between them, a comma between two digits is meant so, and one before a blank stands between two numbers."""
    return re.sub(r"(?<=[0-9]),(?=[0-9])", ".", listed) if comma() or ";" in listed else listed


def apart(listed: str) -> str:
    """The same as they are shown: where a comma is within numbers, a semicolon stands between them."""
    return listed.replace(", ", "; ") if comma() else listed


class _Numbers(string.Formatter):
    """Puts values in; numbers get the signs of the language."""

    def format_field(self, value: Any, format_spec: str) -> str:
        found = str(format(value, format_spec))
        if isinstance(value, str):
            return found
        return found.translate(_SIGNS) if isinstance(value, float) or "," in format_spec else found


_SIGNS = str.maketrans(".,", ",.")
_NUMBERS = _Numbers()


def _put_in(text: str, values: dict[str, Any]) -> str:
    return _NUMBERS.vformat(text, (), values) if values else text


@functools.cache
def _catalogue(name: str) -> gettext.GNUTranslations:
    with files(__name__).joinpath(f"{name}.mo").open("rb") as file:
        return gettext.GNUTranslations(file)


_tongue = _Tongue()
if _STARTED_IN in LANGUAGES:
    _tongue.speak(_STARTED_IN)
