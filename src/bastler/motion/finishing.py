"""Along a wall for the last time: its beginning once more, so that no mark stays, and slower where it bends in round the tool.

The feed is the tool's centre's. In an inside corner the edge goes a longer way along the wall than the centre does: at the same
feed it would take larger chips there, over more of its round.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from bastler.motion.areas import follow
from bastler.motion.moves import Path
from bastler.motion.rings import part_of
from bastler.shapes import Arc, Line, Segment
from bastler.shapes.chain import length_of, tangent
from bastler.shapes.region import Loop

OVERLAP_SHARE = 0.1
"""How much of a closed wall is cut twice, as a share of the tool's diameter."""
MOST_SHARE = 0.25
"""And at most so much of the whole way."""
SLOWEST = 0.25
"""Share of the feed in the tightest of arcs."""
CORNER_SHARE = 0.5
"""Share of the feed into a corner without a radius of its own, where the tool for a moment cuts far round."""
SHARP = math.radians(10.0)


def overlapped(chain: Loop, diameter: float) -> Loop:
    """A closed chain and its beginning once more."""
    left = min(OVERLAP_SHARE * diameter, MOST_SHARE * sum(map(length_of, chain)))
    found = [*chain]
    for s in chain:
        long = length_of(s)
        if long > left * (1 + 1e-9):
            found.append(part_of(s, 0.0, left / long))
            break
        found.append(s)
        left -= long
        if left <= 1e-9 * diameter:
            break
    return found


def follow_wall(path: Path, chain: Sequence[Segment], feed: float, *, radius: float, ae: float, climb: bool) -> None:
    """Along a wall with a tool of a radius that takes `ae` off it; the wall is on the right where it climbs."""
    for k, s in enumerate(chain):
        if isinstance(s, Arc):
            follow(path, [s], feed * (_share(s, radius) if s.ccw == climb else 1.0))
            continue
        into = math.sqrt(max(ae * (2 * radius - ae), 0.0)) if k + 1 < len(chain) and _bends_in(s, chain[k + 1], climb) else 0.0
        long = length_of(s)
        if into > 0.0 and long > 2 * into:
            follow(path, [part_of(s, 0.0, 1.0 - into / long)], feed)
            follow(path, [Line((path.x, path.y), s.end)], feed * CORNER_SHARE)
        else:
            follow(path, [s], feed * (CORNER_SHARE if into > 0.0 else 1.0))


def _share(s: Arc, radius: float) -> float:
    """Of the feed, so that the edge goes along the wall with it: the centre's radius over the wall's."""
    own = math.dist(s.start, s.centre)
    return max(own / (own + radius), SLOWEST)


def _bends_in(s: Segment, following: Segment, climb: bool) -> bool:
    """Is there a corner toward the tool between two segments?"""
    if isinstance(following, Arc):
        return False
    (u, v), (p, q) = tangent(s), tangent(following)
    turn = math.atan2(u * q - v * p, u * p + v * q)
    return turn > SHARP if climb else turn < -SHARP
