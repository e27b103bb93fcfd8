"""Proving one section of a program: cutting it out of the stock and looking at every piece of path."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bastler.nc import Trace
from bastler.proof.clockwork import shares
from bastler.proof.mill.bands import Ground, cut_in_bands
from bastler.proof.mill.field import Patch
from bastler.proof.mill.load import powers
from bastler.proof.mill.scene import MillScene
from bastler.proof.mill.segments import CHORD_SHARE, pieces
from bastler.proof.mill.sweeping import BITE, COLUMNS, VOLUME
from bastler.proof.mill.tiles import SIDE, Mask
from bastler.shapes.kinds import Floats, Ints, StopFlag
from bastler.tools import Tool


@dataclass(frozen=True, eq=False)
class SectionProof:
    """What a section did. Rows are counted from the section's first move.

    `patch` is what it left of the stock, None where it took nothing; `segments` (m, 6), `owner` (m,) the move of each, `cut`
    (m, 5) volume, bite, shank and holder depth, depth of an end that does not cut; `seconds`, `power` (m,); `move_seconds` (n,);
    `tool` the one in the spindle, None where there is none.
    """

    patch: Patch | None
    segments: Floats
    owner: Ints
    cut: Floats
    seconds: Floats
    power: Floats
    move_seconds: Floats
    tool: Tool | None

    @property
    def volume(self) -> float:
        """Removed, in cubic units."""
        return float(self.cut[:, VOLUME].sum())


def prove_section(
    scene: MillScene,
    ground: Ground,
    highest: np.float32,
    trace: Trace,
    begin: int,
    end: int,
    seconds: Floats,
    stop: StopFlag,
    tiles: Mask,
    told: Callable[[int], None] = lambda moves: None,
) -> SectionProof | None:
    """Runs moves `begin` to before `end`, all with one tool, cutting the `ground`; None when stopped half-way. Nothing
    that they can feel stands over `highest`.

    `seconds` are the times of all moves of the program, `tiles` where these may cut; `told` hears how many are done.
    """
    tool = scene.tools.get(int(trace.tool[begin])) if end > begin else None
    grid, radius = ground.grid, tool.diameter / 2 if tool else 0.0
    longest = max(radius, 10 * grid.cell) if tool else grid.cell * 100
    segments, owner = pieces(trace, begin, end, chord=CHORD_SHARE * grid.cell, longest=longest, radius=radius)
    cut = np.zeros((len(segments), COLUMNS))
    patch = None
    if tool and len(segments):
        low = np.minimum(segments[:, 2], segments[:, 5]) < highest
        if low.any():
            rapid = trace.kind[owner] == 0
            done = cut_in_bands(ground, segments, rapid, tool, highest, stop, lambda count: told(int(owner[count - 1]) - begin))
            if done is None:
                return None
            cut = done
            if tiles.any():
                patch = Patch.of(ground.field, ground.edge, tiles, SIDE)
    lengths = np.linalg.norm(segments[:, 3:6] - segments[:, 0:3], axis=1)
    times = shares(lengths, owner - begin, end - begin) * seconds[begin:end][owner - begin] if end > begin else np.zeros(0)
    power = (
        powers(scene, tool, cut[:, VOLUME], cut[:, BITE], times, lengths, trace.speed[owner]) if tool else np.zeros(len(segments))
    )
    return SectionProof(patch, segments, owner - begin, cut, times, power, seconds[begin:end].copy(), tool)
