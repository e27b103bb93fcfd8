"""The stock of a milled part at any moment of its proved program."""

from __future__ import annotations

from typing import Any

import numpy as np

from bastler.proof.mill.field import Heights
from bastler.proof.mill.milled import MillProof
from bastler.proof.mill.sweeping import COLUMNS, grid_array, nowhere, run_segments, tool_arrays
from bastler.proof.scrub import Moment


class Scrubber:
    """Gives the stock at a moment; going on from where it was is cheap, going back begins at the stage's start. `edges` are those
    of the field that was given last."""

    def __init__(self) -> None:
        self._proof: MillProof | None = None
        self._stage = -1
        self._done = 0
        self._heights: Heights | None = None
        self.edges: Heights = np.zeros((0, 0), np.float32)

    def stock(self, proof: MillProof, moment: Moment) -> Heights:
        """Heights of the stock at a moment; the array is the caller's to read until the next call."""
        size = (proof.grid.ny, proof.grid.nx)
        if self.edges.shape != size:
            self.edges, self._proof = np.zeros(size, np.float32), None
        if moment.stage < 0:
            self._proof = None
            begun = proof.stages and moment.move > proof.stages[0].begin
            return proof.after(len(proof.stages) - 1 if begun else -1, 0, self.edges)
        stage = proof.stages[moment.stage]
        section = stage.proof
        wanted = self._segments(section.owner, moment.move - stage.begin, moment.share)
        if self._proof is not proof or self._stage != moment.stage or wanted < self._done or self._heights is None:
            self._proof, self._stage, self._done = proof, moment.stage, 0
            self._heights = proof.before(moment.stage, self.edges)
        if section.tool is None or section.patch is None:
            return self._heights
        shape, body = tool_arrays(section.tool, proof.grid)
        out = np.zeros((len(section.segments), COLUMNS))
        highest = np.float32(self._heights.max())
        run_segments(
            self._heights,
            self.edges,
            proof.under,
            grid_array(proof.grid),
            section.segments,
            np.zeros(len(section.segments), np.bool_),  # what the bites are was told long ago
            shape,
            body,
            self._done,
            wanted,
            out,
            highest,
            nowhere(),
            np.zeros(1, np.uint8),
        )
        self._done = wanted
        return self._heights

    @staticmethod
    def _segments(owner: Any, move: int, share: float) -> int:
        first, last = np.searchsorted(owner, move), np.searchsorted(owner, move, side="right")
        return int(first + round((last - first) * share))
