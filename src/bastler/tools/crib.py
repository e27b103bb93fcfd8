"""The shop's tools that ship with Bastler, as data."""

from __future__ import annotations

import functools
from pathlib import Path

import msgspec

from bastler.tools.tool import Tool
from bastler.tools.turning import TurnTool
from bastler.units import Unit

AnyTool = Tool | TurnTool
"""A tool that turns, or one that stands still while the work does."""


@functools.cache
def shop_crib(unit: Unit, *, turning: bool = False) -> tuple[AnyTool, ...]:
    """The tools a new job of that unit begins with, in the order of their stations."""
    name = f"crib-{'lathe-' if turning else ''}{unit}.json"
    return msgspec.json.decode((Path(__file__).parent / name).read_bytes(), type=tuple[AnyTool, ...])
