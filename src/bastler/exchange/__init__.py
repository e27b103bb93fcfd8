"""Drawings from outside and to it: DXF in, DXF and SVG out, lists of positions in."""

from bastler.exchange.drawing import Drawing, DrawingError, Hole, Piece
from bastler.exchange.fitting import fitted
from bastler.exchange.joining import Joined, joined
from bastler.exchange.points import PlacesError, places_of, read_places
from bastler.exchange.reading import read_dxf
from bastler.exchange.writing import dxf_text, outline_text, svg_text

__all__ = [
    "Drawing",
    "DrawingError",
    "Hole",
    "Joined",
    "Piece",
    "PlacesError",
    "dxf_text",
    "fitted",
    "joined",
    "outline_text",
    "places_of",
    "read_dxf",
    "read_places",
    "svg_text",
]
