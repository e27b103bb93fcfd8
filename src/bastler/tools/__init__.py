"""Tools: what they are, how they are shaped, and the shop's crib."""

from bastler.tools.crib import shop_crib
from bastler.tools.tool import KIND_WORDS, Holder, Profile, Tool, ToolKind, tip_length

__all__ = ["KIND_WORDS", "Holder", "Profile", "Tool", "ToolKind", "shop_crib", "tip_length"]
