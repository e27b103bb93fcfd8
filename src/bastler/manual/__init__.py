"""The manual: chapters in Markdown, by language. The window adds what it knows by itself, keys and the meaning of questions."""

from __future__ import annotations

import functools
from importlib import resources


@functools.cache
def chapters(language: str) -> tuple[str, ...]:
    """The chapters in a language, in order."""
    folder = resources.files("bastler.manual") / language
    files = sorted((file for file in folder.iterdir() if file.name.endswith(".md")), key=lambda file: file.name)
    return tuple(file.read_text(encoding="utf-8").strip() for file in files)
