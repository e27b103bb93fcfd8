"""The shop's tools that ship with Bastler, as data."""

from __future__ import annotations

import functools
from pathlib import Path

import msgspec

from bastler.tools.tool import Tool
from bastler.units import Unit


@functools.cache
def shop_crib(unit: Unit) -> tuple[Tool, ...]:
    """The tools a new job of that unit begins with, in the order of their stations."""
    name = "crib-mm.json" if unit == "mm" else "crib-inch.json"
    return msgspec.json.decode((Path(__file__).parent / name).read_bytes(), type=tuple[Tool, ...])
