"""The sizes of threads that have a name.

Sources: ISO 261 (metric coarse), ASME B1.1 (unified), ISO 228-1 and ISO 7-1 (55° pipe threads), ASME B1.20.1 (60° pipe threads),
BS 84 (Whitworth), ISO 2904 (clearance of trapezoidal threads), ASME B1.5 (Acme).
"""

from __future__ import annotations

COARSE: dict[float, float] = {
    1.6: 0.35, 2: 0.4, 2.5: 0.45, 3: 0.5, 3.5: 0.6, 4: 0.7, 5: 0.8, 6: 1, 7: 1, 8: 1.25, 10: 1.5, 12: 1.75, 14: 2, 16: 2, 18: 2.5,
    20: 2.5, 22: 2.5, 24: 3, 27: 3, 30: 3.5, 33: 3.5, 36: 4, 39: 4, 42: 4.5, 45: 4.5, 48: 5, 52: 5, 56: 5.5, 60: 5.5, 64: 6,
}  # fmt: skip
"""Metric coarse pitches (ISO 261)."""
UNIFIED: dict[str, tuple[float, float, float]] = {
    "1/4": (0.25, 20, 28), "5/16": (0.3125, 18, 24), "3/8": (0.375, 16, 24), "7/16": (0.4375, 14, 20), "1/2": (0.5, 13, 20),
    "9/16": (0.5625, 12, 18), "5/8": (0.625, 11, 18), "3/4": (0.75, 10, 16), "7/8": (0.875, 9, 14), "1": (1.0, 8, 12),
    "1 1/8": (1.125, 7, 12), "1 1/4": (1.25, 7, 12), "1 3/8": (1.375, 6, 12), "1 1/2": (1.5, 6, 12), "1 3/4": (1.75, 5, 0),
    "2": (2.0, 4.5, 0),
}  # fmt: skip
"""Diameter in inches, threads an inch coarse (UNC) and fine (UNF), 0 where there is none (ASME B1.1)."""
NUMBERED: dict[int, tuple[int, int]] = {
    0: (0, 80), 1: (64, 72), 2: (56, 64), 3: (48, 56), 4: (40, 48), 5: (40, 44), 6: (32, 40), 8: (32, 36), 10: (24, 32),
    12: (24, 28),
}  # fmt: skip
"""Threads an inch, coarse and fine, of the numbered sizes; number k is 0.060 + 0.013 k inches (ASME B1.1)."""
PIPE: dict[str, tuple[float, int, float]] = {
    "1/8": (9.728, 28, 4.0), "1/4": (13.157, 19, 6.0), "3/8": (16.662, 19, 6.4), "1/2": (20.955, 14, 8.2),
    "3/4": (26.441, 14, 9.5), "1": (33.249, 11, 10.4), "1 1/4": (41.910, 11, 12.7), "1 1/2": (47.803, 11, 12.7),
    "2": (59.614, 11, 15.9),
}  # fmt: skip
"""Major diameter in mm and threads an inch (ISO 228-1, ISO 7-1), and the gauge length of a taper thread in mm: so far behind the
front of an outside thread its diameters are those of the table (ISO 7-1, basic gauge lengths)."""
PIPE_TOLERANCE: dict[str, float] = {
    "1/8": 0.107, "1/4": 0.125, "3/8": 0.125, "1/2": 0.142, "3/4": 0.142, "1": 0.180, "1 1/4": 0.180, "1 1/2": 0.180, "2": 0.180,
}  # fmt: skip
"""Of the pitch diameter of a G thread, in mm: nuts and bolts of class A; bolts of class B have twice as much (ISO 228-1)."""
PIPE_MINOR = {0.107: 0.282, 0.125: 0.445, 0.142: 0.541, 0.180: 0.640}
"""Of the minor diameter of a nut, in mm, by that of its pitch diameter (ISO 228-1)."""
NPT: dict[str, tuple[float, float, float]] = {
    "1/16": (0.3125, 27, 0.160), "1/8": (0.405, 27, 0.1615), "1/4": (0.540, 18, 0.2278), "3/8": (0.675, 18, 0.240),
    "1/2": (0.840, 14, 0.320), "3/4": (1.050, 14, 0.339), "1": (1.315, 11.5, 0.400), "1 1/4": (1.660, 11.5, 0.420),
    "1 1/2": (1.900, 11.5, 0.420), "2": (2.375, 11.5, 0.436), "2 1/2": (2.875, 8, 0.682), "3": (3.500, 8, 0.766),
}  # fmt: skip
"""Outside diameter of the pipe in inches, threads an inch, and how far the gauge plane is behind the front, L1, in inches (ASME
B1.20.1)."""
DRYSEAL: dict[float, tuple[tuple[float, float], tuple[float, float]]] = {
    27: ((0.047, 0.094), (0.094, 0.140)), 18: ((0.047, 0.078), (0.078, 0.109)), 14: ((0.036, 0.060), (0.060, 0.085)),
    11.5: ((0.040, 0.060), (0.060, 0.090)), 8: ((0.042, 0.055), (0.055, 0.076)),
}  # fmt: skip
"""NPTF: by threads an inch, how much less than the sharp thread crests and roots have, smallest and largest, in pitches (ASME
B1.20.3, table 1). Roots are cut off farther than crests: these meet the ground and close the joint without a seal."""
WHITWORTH: dict[str, tuple[float, float]] = {
    "1/8": (40, 0), "3/16": (24, 32), "1/4": (20, 26), "5/16": (18, 22), "3/8": (16, 20), "7/16": (14, 18), "1/2": (12, 16),
    "9/16": (12, 16), "5/8": (11, 14), "3/4": (10, 12), "7/8": (9, 11), "1": (8, 10), "1 1/8": (7, 9), "1 1/4": (7, 9),
    "1 1/2": (6, 8), "1 3/4": (5, 7), "2": (4.5, 7),
}  # fmt: skip
"""Threads an inch, coarse (BSW) and fine (BSF), 0 where there is none (BS 84)."""
CREST_CLEARANCE = ((1.5, 0.15), (5.0, 0.25), (12.0, 0.5), (44.0, 1.0))
"""Trapezoidal threads: up to this pitch, this clearance ac (ISO 2904)."""
ACME_CLEARANCE = ((10.0, 0.010), (16.0, 0.005))
"""Acme threads: up to so many threads an inch, this clearance on the radius in inches (ASME B1.5, ASME B1.8)."""
