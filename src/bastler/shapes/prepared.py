"""Regions that are asked many times. GEOS answers much faster about what is *prepared*, but keeps notes in it, even while it only
answers: two threads that ask about the same prepared region at once end the program, or hear what is not so.

Plans, proofs and tasks run side by side, and regions are remembered and shared between them. So nothing that another thread may
hold is ever prepared: a thread asks about a copy of its own (`prepared`), and what is just being made is prepared only until
others get it (`prepare_for_now`, `let_go`). Nothing else prepares anything; a test holds that.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Sequence

import numpy as np
import shapely

from bastler.shapes.kinds import Region

MOST = 12
"""Copies that a thread keeps: what is prepared of a large region takes megabytes."""


class _Copies(threading.local):
    """Of this thread, by the regions that they are copies of; those are kept along, so that no other takes their place."""

    def __init__(self) -> None:
        self.known: OrderedDict[int, tuple[Region, Region]] = OrderedDict()


_copies = _Copies()


def prepared(region: Region) -> Region:
    """A copy of a region for this thread alone, prepared; the same one as long as it is asked for again soon."""
    known = _copies.known
    found = known.get(id(region))
    if found is not None:
        known.move_to_end(id(region))
        return found[1]
    copy = shapely.from_wkb(shapely.to_wkb(region))
    shapely.prepare(copy)
    known[id(region)] = (region, copy)
    if len(known) > MOST:
        known.popitem(last=False)
    return copy


def prepare_for_now(region: Region) -> None:
    """Prepares a region that was just made, as long as nobody else has it: see `let_go`."""
    shapely.prepare(region)


def let_go(regions: Sequence[Region]) -> None:
    """Regions that were prepared for now may be given to others again."""
    shapely.destroy_prepared(np.array(regions, dtype=object))
