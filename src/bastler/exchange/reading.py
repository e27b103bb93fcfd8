"""Reading a drawing, when there is one to be read."""

from __future__ import annotations

from pathlib import Path

from bastler.exchange.drawing import Drawing
from bastler.units import Unit


def read_dxf(path: Path, unit: Unit, tolerance: float, *, assume: Unit | None = None) -> Drawing:
    """The drawing in a DXF file, see `bastler.exchange.dxf`. DrawingError when it cannot be read."""
    from bastler.exchange import dxf  # its library takes a second to load, which no start without a drawing should wait for

    return dxf.read_dxf(path, unit, tolerance, assume=assume)
