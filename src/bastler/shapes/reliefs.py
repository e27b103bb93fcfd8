"""Reliefs in the corner of a cylinder and a shoulder, after ISO 18388 (types E and F), and thread reliefs after ISO 4755.

Coordinates (p, q): p along the cylinder away from the corner, q up the shoulder away from it; material lies below q = 0 and
before p = 0. Chains run from the cylinder to the shoulder. Lengths are in mm for threads (their table is), in any unit otherwise.
"""

from __future__ import annotations

import math

from bastler.shapes.rounded import Arc, Line, Segment

RUN_OUT = math.tan(math.radians(15.0))
"""Slope with which a relief comes out of the cylinder."""
FACE_ANGLE = math.radians(8.0)
"""Angle with which a relief of type F comes out of the face."""
WIDTHS = {(0.2, 0.1): 1.0, (0.4, 0.2): 2.0, (0.6, 0.2): 2.0, (0.6, 0.3): 2.5, (0.8, 0.3): 2.5, (1.0, 0.2): 2.5, (1.0, 0.4): 4.0,
          (1.2, 0.2): 2.5, (1.2, 0.4): 4.0, (1.6, 0.3): 4.0, (2.5, 0.4): 5.0, (4.0, 0.5): 7.0}  # fmt: skip
"""Width along the cylinder by (radius, depth), mm."""
FACE_DEPTHS = {(0.2, 0.1): 0.1, (0.4, 0.2): 0.1, (0.6, 0.2): 0.1, (0.6, 0.3): 0.2, (0.8, 0.3): 0.2, (1.0, 0.2): 0.1,
               (1.0, 0.4): 0.3, (1.2, 0.2): 0.1, (1.2, 0.4): 0.3, (1.6, 0.3): 0.2, (2.5, 0.4): 0.3, (4.0, 0.5): 0.3}  # fmt: skip
"""Depth into the face of type F by (radius, depth), mm."""
THREADS = {0.5: (0.8, 1.75, 0.2), 0.7: (1.1, 2.45, 0.4), 0.8: (1.3, 2.8, 0.4), 1.0: (1.6, 3.5, 0.6), 1.25: (2.0, 4.4, 0.6),
           1.5: (2.3, 5.2, 0.8), 1.75: (2.6, 6.1, 1.0), 2.0: (3.0, 7.0, 1.0), 2.5: (3.6, 8.7, 1.2), 3.0: (4.4, 10.5, 1.6),
           3.5: (5.0, 12.0, 1.6), 4.0: (5.7, 14.0, 2.0)}  # fmt: skip
"""ISO 4755: by pitch, how much smaller the diameter of the relief is, its width, its radius; mm."""


def relief_width(radius: float, depth: float) -> float:
    """The standard's width for its own sizes, else room for radius and run-out."""
    return WIDTHS.get((radius, depth), radius + 1.2 * depth / RUN_OUT)


def shaft_relief(radius: float, depth: float) -> list[Segment]:
    """Type E: into the cylinder only."""
    f = relief_width(radius, depth)
    ramp, corner = (f - depth / RUN_OUT, -depth), (radius, -depth)
    return [
        Line((f, 0.0), ramp),
        Line(ramp, corner),
        Arc(corner, (0.0, radius - depth), (radius, radius - depth), ccw=False),
    ]


def face_relief(radius: float, depth: float) -> list[Segment]:
    """Type F: into the cylinder and into the face."""
    f, deep = relief_width(radius, depth), FACE_DEPTHS.get((radius, depth), depth * 2 / 3)
    centre = (radius - deep, radius - depth)
    ramp, corner = (f - depth / RUN_OUT, -depth), (centre[0], -depth)
    off = (centre[0] - radius * math.cos(FACE_ANGLE), centre[1] + radius * math.sin(FACE_ANGLE))
    out = -off[0] / math.tan(FACE_ANGLE)
    return [
        Line((f, 0.0), ramp),
        Line(ramp, corner),
        Arc(corner, off, centre, ccw=False),
        Line(off, (0.0, off[1] + out)),
    ]


def thread_relief(pitch: float) -> list[Segment]:
    """Behind an outside thread of a pitch: 30° out of the cylinder, a radius at the shoulder. Between pitches of the table it
    grows with the pitch."""
    near = min(THREADS, key=lambda p: abs(p - pitch))
    less, width, radius = (number * pitch / near for number in THREADS[near])
    depth = less / 2
    ramp = (width - depth / math.tan(math.radians(30.0)), -depth)
    return [
        Line((width, 0.0), ramp),
        Line(ramp, (radius, -depth)),
        Arc((radius, -depth), (0.0, radius - depth), (radius, radius - depth), ccw=False),
    ]
