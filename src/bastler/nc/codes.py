"""Which G and M words exist and which of them exclude each other in one line (modal groups after RS-274/NGC)."""

from __future__ import annotations

from bastler.language import sayable

_GROUPS: dict[str, tuple[float, ...]] = {
    "not modal": (4, 10, 28, 30, 52, 53, 92, 92.1, 92.2, 92.3),
    "motion": (0, 1, 2, 3, 38.2, 73, 80, 81, 82, 83, 84, 85, 86, 87, 88, 89),
    "plane": (17, 18, 19),
    "distance": (90, 91),
    "arc distance": (90.1, 91.1),
    "feed mode": (93, 94, 95),
    "units": (20, 21),
    "cutter compensation": (40, 41, 42),
    "tool length": (43, 49),
    "return": (98, 99),
    "work offset": (54, 54.1, 55, 56, 57, 58, 59, 59.1, 59.2, 59.3),
    "path control": (61, 61.1, 64),
    "spindle mode": (96, 97),
}
_TURN_GROUPS: dict[str, tuple[float, ...]] = {
    "motion": (32, 33),
    "not modal": (50, 70, 71, 72, 74, 75, 76),
}
GROUP_OF = {code: group for group, codes in _GROUPS.items() for code in codes}
TURN_GROUP_OF = {code: group for group, codes in _TURN_GROUPS.items() for code in codes}
"""What a turning control knows besides."""
ANY_GROUP_OF = GROUP_OF | TURN_GROUP_OF
CYCLES = (73, 81, 82, 83, 84, 85, 86, 87, 88, 89)

_M_GROUPS: dict[str, tuple[int, ...]] = {
    "stopping": (0, 1, 2, 30),
    "tool change": (6,),
    "spindle": (3, 4, 5),
    "coolant": (7, 8, 9),
    "overrides": (48, 49),
    "subprogram": (98, 99),
}
M_GROUP_OF: dict[float, str] = {code: group for group, codes in _M_GROUPS.items() for code in codes}
M_KNOWN = frozenset(M_GROUP_OF)
M_REFUSED: dict[float, str] = sayable({60: "exchanges pallets, which no machine card has"})
"""M words of all machines that are known but not followed, and why."""
REFUSED: dict[float, str] = sayable(
    {
        38.2: "probes: how far that goes is known at the machine only, and nothing behind it is proved",
        30.0: "goes to a second reference point, which no machine card has",
        87.0: "bores from behind, with the spindle turned to a side: that is not read",
        88.0: "leaves the way out of the hole to the operator's hand: that is not read",
    }
)
"""G words that are known but not followed, and why."""
OFFSET_INDEX = {54.0: 1, 55.0: 2, 56.0: 3, 57.0: 4, 58.0: 5, 59.0: 6, 59.1: 7, 59.2: 8, 59.3: 9}
EXTENDED = 100
"""G54.1 P1 is offset 101."""


def code_text(letter: str, value: float) -> str:
    """`G54.1`, `M6`."""
    return f"{letter}{value:g}"
