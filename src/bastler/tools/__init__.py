"""Tools: what they are, how they are shaped, and the shop's crib."""

from bastler.tools.crib import TURN_SORTS, AnyTool, faults_of, new_tool, new_turn_tool, shop_crib
from bastler.tools.insert import Insert, InsertCodeError, insert_of
from bastler.tools.tool import KIND_WORDS, Experience, Holder, Profile, Tool, ToolKind, tip_length
from bastler.tools.turning import TOWARD, TURN_WORDS, TurnTool

__all__ = [
    "KIND_WORDS",
    "TOWARD",
    "TURN_SORTS",
    "TURN_WORDS",
    "AnyTool",
    "Experience",
    "Holder",
    "Insert",
    "InsertCodeError",
    "Profile",
    "Tool",
    "ToolKind",
    "TurnTool",
    "faults_of",
    "insert_of",
    "new_tool",
    "new_turn_tool",
    "shop_crib",
    "tip_length",
]
