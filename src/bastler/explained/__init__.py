"""What every question means, in a machinist's words: what it is, what more or less of it does, what usually goes wrong.

The texts lie in TOML files, a folder a language. A key is the name of an answer (`ap`), or that with the class that asks for it
where it means something of its own there (`Boring.vf`); a class counts for those derived from it too. A text `= vc` is that of
another key.
"""

from __future__ import annotations

import functools
import tomllib
from collections.abc import Iterator
from importlib.resources import files
from types import MappingProxyType

from bastler.language import spoken

SAME_AS = "= "


class ExplainedError(ValueError):
    """The texts contradict each other."""


@functools.cache
def texts(language: str) -> MappingProxyType[str, str]:
    """All texts of a language by their keys, each with its own words. ExplainedError for a key that stands twice, or one that
    leads nowhere."""
    found: dict[str, str] = {}
    for file in sorted(files(__name__).joinpath(language).iterdir(), key=lambda entry: entry.name):
        for key, text in tomllib.loads(file.read_text(encoding="utf-8")).items():
            if key in found:
                raise ExplainedError(f"{key} is explained twice, the second time in {file.name}.")
            found[key] = text
    return MappingProxyType({key: _followed(found, key) for key in found})


def _followed(found: dict[str, str], key: str) -> str:
    """The words of a key, those of another one where it is the same."""
    passed = {key}
    while found[key].startswith(SAME_AS):
        key = found[key].removeprefix(SAME_AS)
        if key not in found or key in passed:
            raise ExplainedError(f"What is the same as {key} is explained nowhere.")
        passed.add(key)
    return found[key]


def key_of(owner: type, name: str, language: str = "") -> str | None:
    """The key of an answer of a class, in the language in force where none is named; None where nobody has explained it."""
    return next((key for key in _keys(owner, name) if key in texts(language or spoken())), None)


def _keys(owner: type, name: str) -> Iterator[str]:
    """From the most particular on."""
    yield from (f"{cls.__name__}.{name}" for cls in owner.__mro__)
    yield name


def explained(owner: type, name: str, language: str = "") -> str:
    """What an answer of a class means, two or three sentences; empty where nobody has explained it."""
    key = key_of(owner, name, language)
    return texts(language or spoken())[key] if key is not None else ""
