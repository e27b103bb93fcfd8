"""Machine cards: what a machine is, what it can do, and how its G-code is written."""

from bastler.machines.card import Dialect, Drive, GuideBush, MachineCard, SecondSpindle, SerialLine, SpindleAxis, Travel
from bastler.machines.cards import CARDS, card

__all__ = [
    "CARDS",
    "Dialect",
    "Drive",
    "GuideBush",
    "MachineCard",
    "SecondSpindle",
    "SerialLine",
    "SpindleAxis",
    "Travel",
    "card",
]
