"""Reading G-code (ISO 6983 / RS-274) into a trace of moves. It also reads programs nobody here wrote."""

from bastler.nc.again import ReadBefore
from bastler.nc.control import Control
from bastler.nc.reading import read
from bastler.nc.state import Stopped
from bastler.nc.trace import FEED, LEFT, RAPID, RIGHT, Event, Finding, Trace

__all__ = ["FEED", "LEFT", "RAPID", "RIGHT", "Control", "Event", "Finding", "ReadBefore", "Stopped", "Trace", "read"]
