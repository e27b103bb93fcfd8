"""What a check looks at: one run of moves, what it did, and the scene around it, alike for all kinds of stock.

A *piece* is what the stock knows of the path one by one: short straight segments of it in a field, whole moves in a half section.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Protocol

import numpy as np

from bastler.language import tr
from bastler.nc import RAPID, Trace
from bastler.proof.scene import Scene
from bastler.shapes.kinds import Bools, Floats, Ints
from bastler.steps.base import PlaneKind
from bastler.tools import AnyTool
from bastler.units import Kind, with_unit

Place = tuple[float, float, float]
UNSEEN = ("tap", "thread-mill")
"""Tools whose work neither a field nor rays show: threads."""


class RunProof(Protocol):
    """What is known of a run of moves, whatever the stock: `segments` (m, 6) of its path, `owner` (m,) the move of each,
    `seconds` and `power` (m,) along them, `move_seconds` (n,) of its moves, the tool, and the volume taken off."""

    @property
    def segments(self) -> Floats: ...
    @property
    def owner(self) -> Ints: ...
    @property
    def seconds(self) -> Floats: ...
    @property
    def power(self) -> Floats: ...
    @property
    def move_seconds(self) -> Floats: ...
    @property
    def tool(self) -> AnyTool | None: ...
    @property
    def volume(self) -> float: ...


@dataclass(frozen=True, eq=False)
class RunView:
    """Moves `begin` to before `end` of the trace and their proof. All that is told by the piece is (m,)."""

    scene: Scene
    trace: Trace
    begin: int
    end: int
    proof: RunProof

    @property
    def plane(self) -> PlaneKind:
        """The kind of plane that the run works on."""
        raise NotImplementedError

    @property
    def tool(self) -> AnyTool | None:
        return self.proof.tool

    @property
    def part(self) -> slice:
        """The moves, in arrays of the trace."""
        return slice(self.begin, self.end)

    @property
    def feels(self) -> float:
        """Less than this is rounding, not contact."""
        raise NotImplementedError

    @property
    def owner(self) -> Ints:
        """The move of every piece, counted from the run's first."""
        raise NotImplementedError

    @property
    def bite(self) -> Floats:
        """How deep every piece goes into the stock; of feeds it may be 0."""
        raise NotImplementedError

    @property
    def volume(self) -> Floats:
        """What every piece takes."""
        raise NotImplementedError

    @property
    def seconds(self) -> Floats:
        """How long every piece lasts."""
        raise NotImplementedError

    @property
    def bodies(self) -> Sequence[tuple[str, Floats]]:
        """The parts of the tool that must not touch the stock, and how deep every piece takes them in."""
        raise NotImplementedError

    @property
    def fastest(self) -> Floats:
        """Turns a minute that every move comes to, (n,)."""
        raise NotImplementedError

    @property
    def limit(self) -> tuple[float, str]:
        """The most turns a minute, and what ends there."""
        return self.scene.card.speed[1], tr("the spindle ends")

    @property
    def slowest(self) -> float:
        """The fewest turns a minute that the spindle can."""
        return self.scene.card.speed[0]

    @property
    def strength(self) -> tuple[float, float]:
        """The power in kW and the torque in Nm that there are, 0 for a torque that is not known."""
        return self.scene.card.power, self.scene.card.torque

    @property
    def reached(self) -> tuple[Floats, Floats]:
        """The lowest and the highest place along the machine's axes that each move comes to, (n, 3) each, from where part zero is
        as long as nothing pulls the part out."""
        (low, high), pulled = self.trace.extremes, self.trace.pulled[self.part]
        moved = np.column_stack([np.zeros((len(pulled), 2)), pulled])
        return low[self.part] + moved, high[self.part] + moved

    @property
    def seen(self) -> bool:
        """Does the stock show what this tool cuts? A field shows no threads."""
        return True

    def into_stock(self) -> tuple[int, str, float] | None:
        """The first piece that comes to where the stock is, tool or none: how it does, and by how much."""
        raise NotImplementedError

    def at(self, piece: int) -> tuple[int, Place]:
        """Move and end point of a piece."""
        raise NotImplementedError

    @property
    def kind(self) -> Ints:
        """Kind of move of every piece."""
        return self.trace.kind[self.part][self.owner]

    @property
    def feeds(self) -> Bools:
        """Which pieces feed."""
        found: Bools = self.kind != RAPID
        return found

    def path_end(self, k: int) -> tuple[int, Place]:
        """Move and end point of a segment of the path."""
        x, y, z = self.proof.segments[k, 3:6]
        return int(self.proof.owner[k]), (float(x), float(y), float(z))

    def says(self, length: float) -> str:
        return with_unit(length, Kind.LENGTH, self.scene.unit)

    def worst_by_move(self, mask: Any, amount: Any, most: int) -> list[tuple[int, float]]:
        """The worst piece of each move where `mask` holds, with its amount, of the first `most` such moves."""
        hits = np.flatnonzero(mask)
        moves, found = self.owner[hits], []
        for move in np.unique(moves)[:most]:
            own = hits[moves == move]
            best = own[np.argmax(amount[own])]
            found.append((int(best), float(amount[best])))
        return found


@dataclass(frozen=True, eq=False)
class SegmentView(RunView):
    """A run whose pieces are the segments of its path, with a tool that turns."""

    @property
    def owner(self) -> Ints:
        return self.proof.owner

    @property
    def seconds(self) -> Floats:
        return self.proof.seconds

    @property
    def fastest(self) -> Floats:
        return self.trace.speed[self.part]

    def at(self, piece: int) -> tuple[int, Place]:
        return self.path_end(piece)
