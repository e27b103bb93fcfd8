"""The control of the stand-in with all that it does: who takes it from here has every request registered."""

from bastler.standin import asked, by_hand, starting
from bastler.standin.machine import HANDLERS, Machine, Refused

__all__ = ["HANDLERS", "Machine", "Refused", "asked", "by_hand", "starting"]
