"""What became of the variants of a family; `live.proving_variants` finds it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class ProvedVariant:
    """A variant: how it stands in words, whether it may run, how long it takes, and its programs with the names of their files.
    `why` is the first thing that keeps it from being proved."""

    name: str
    words: str
    proved: bool
    seconds: float = 0.0
    programs: tuple[tuple[str, bytes], ...] = ()
    why: str = ""


def same_files(found: Sequence[ProvedVariant]) -> str:
    """Which file two variants would both be saved as; empty where each has its own."""
    names = [name.lower() for one in found for name, _ in one.programs]
    return next((name for name in names if names.count(name) > 1), "")
