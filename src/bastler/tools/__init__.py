"""Tools: what they are, how they are shaped, and the shop's crib."""

from bastler.tools.crib import AnyTool, shop_crib
from bastler.tools.insert import Insert, InsertCodeError, insert_of
from bastler.tools.tool import KIND_WORDS, Holder, Profile, Tool, ToolKind, tip_length
from bastler.tools.turning import TOWARD, TURN_WORDS, TurnTool

__all__ = [
    "KIND_WORDS",
    "TOWARD",
    "TURN_WORDS",
    "AnyTool",
    "Holder",
    "Insert",
    "InsertCodeError",
    "Profile",
    "Tool",
    "ToolKind",
    "TurnTool",
    "insert_of",
    "shop_crib",
    "tip_length",
]
