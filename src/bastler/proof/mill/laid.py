"""A part's field in memory, while one program after another is cut out of it.

Of a run that is known from before only its patch is needed, and of that only the tiles that no later run goes over. So nothing
is laid before somebody looks there, and what the last program left and this one leaves too stays where it is.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bastler.proof.mill.field import Begins, Grid, Heights, Patch
from bastler.proof.mill.tiles import SIDE, Mask, tiled
from bastler.shapes.kinds import Ints

ANYTHING, UNCUT = -1, 0
"""Tiles that hold no patch: nobody knows what, and the part as it comes."""


class Laid:
    """Heights and edges of a part: which patch each tile shows, and which one it ought to."""

    def __init__(self, grid: Grid, begins: Begins | None) -> None:
        self.grid, self.begins = grid, begins
        self.field: Heights = grid.fresh()
        self.edge: Heights = np.zeros((grid.ny, grid.nx), np.float32)
        self._shows = np.full(tiled(grid.ny, grid.nx), ANYTHING if begins else UNCUT, np.int64)
        self._wants = np.full_like(self._shows, UNCUT)
        self._patches: dict[int, Patch] = {}

    def begin(self, begins: Begins | None) -> None:
        """The part is to be uncut again, as it comes. What it shows is known as long as its patches are kept: no other one gets
        their number."""
        if (begins.key if begins else b"") != (self.begins.key if self.begins else b""):
            self._shows[self._shows == UNCUT] = ANYTHING
        self.begins = begins
        self._wants[:] = UNCUT
        shown = set(np.unique(self._shows).tolist())
        self._patches = {number: patch for number, patch in self._patches.items() if number in shown}

    def left(self, patch: Patch, tiles: Mask) -> None:
        """A run that is known has left a patch in some tiles."""
        self._patches[id(patch)] = patch
        self._wants[tiles] = id(patch)

    def ready(self, tiles: Mask) -> None:
        """Some tiles show what they ought to."""
        stale = tiles & (self._shows != self._wants)
        for number in np.unique(self._wants[stale]).tolist():
            here = stale & (self._wants == number)
            if number == UNCUT:
                self._uncut(here)
            else:
                self._patches[number].lay(self.field, self.edge, here)
        self._shows[stale] = self._wants[stale]

    def all_ready(self) -> Heights:
        """All tiles show what they ought to; the field."""
        self.ready(np.ones(self._shows.shape, np.bool_))
        return self.field

    def begin_cut(self, tiles: Mask) -> None:
        """A run cuts at some tiles now: what they show is nothing before it is done."""
        self._shows[tiles] = ANYTHING

    def has_cut(self, patch: Patch | None, tiles: Mask) -> None:
        """A run has cut, and this is what it left in some tiles; None where it took nothing."""
        if patch is not None:
            self.left(patch, tiles)
        self._shows[tiles] = self._wants[tiles]

    def highest(self, tiles: Mask) -> np.float32:
        """What nothing in some tiles stands over. Those between them are looked at too; what they show may not be what
        they ought to, but no part is higher than its stock."""
        down, across = np.flatnonzero(tiles.any(axis=1)), np.flatnonzero(tiles.any(axis=0))
        if not len(down):
            return np.float32(-np.inf)
        part = self.field[down[0] * SIDE : (down[-1] + 1) * SIDE, across[0] * SIDE : (across[-1] + 1) * SIDE]
        return np.float32(min(part.max(), self.grid.top))

    def _uncut(self, tiles: Mask) -> None:
        cells = np.repeat(np.repeat(tiles, SIDE, axis=0), SIDE, axis=1)[: self.grid.ny, : self.grid.nx]
        self.edge[cells] = 0.0
        if self.begins:
            self.field[cells] = self.begins.top[cells]
        else:
            self.grid.uncut(self.field, cells)


def laid_out(patches: Sequence[Patch], field: Heights, edge: Heights | None) -> None:
    """Lays patches over a field in their order, of each what stays of it."""
    last: Ints = np.full(tiled(*field.shape), -1, np.int32)
    for k, patch in enumerate(patches):
        patch.mark(last, k)
    for k in np.unique(last[last >= 0]).tolist():
        patches[k].lay(field, edge, last == k)
