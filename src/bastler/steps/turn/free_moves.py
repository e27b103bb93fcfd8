"""Free moves: to places the machinist types, in rapid or feed. They are proved like all others."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import msgspec

from bastler.ask import Trouble, choose, pick
from bastler.language import many, tr
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Arrival, Given, Stage, TurnSketch, replaced, step
from bastler.steps.cut import TOOL, given
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import TurningStep, home_inside, home_outside, start

MOVES = "Moves"


class FreeMove(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """To a diameter and a length, in rapid, or in feed (of its own, or the step's)."""

    way: Literal["rapid", "feed"]
    d: float
    z: float
    f: float | None = None


@step("Free moves", "General", "Rapids and feeds to places you type", planes=TURNED)
class FreeMoves(TurningStep, frozen=True, kw_only=True, tag="free-moves"):
    """Answers of free moves."""

    groups: ClassVar[tuple[str, ...]] = (MOVES, TOOL)

    moves: Annotated[
        tuple[FreeMove, ...],
        pick("Moves", "moves", MOVES, helps="One a line: rapid or feed, Ø, Z, and a feed where it differs: feed 40, -12, 0.1"),
    ] = (FreeMove("rapid", 70.0, 5.0),)
    home: Annotated[Literal["up", "out"], choose("Then", {"up": "Up and home", "out": "Out along Z, then home"}, MOVES)] = "up"

    def farther(self, by: float) -> FreeMoves:
        return replaced(self, moves=tuple(msgspec.structs.replace(move, z=move.z - by) for move in self.moves))

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        return ctx.tools[0].id if ctx.tools else None

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        return ctx.mm(0.1)

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if not self.moves:
            return [Trouble("moves", tr("One move at least."))]
        return super().troubles(ctx)

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        outer = at.size[0]
        return {"moves": (FreeMove("rapid", round(outer + 10 * at.small, 3), round(5 * at.small + at.front, 3)),)}

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        path = start(ctx)
        for move in self.moves:
            if move.way == "rapid":
                path.go(r=move.d / 2, z=move.z)
            else:
                path.cut(move.f or given(self.f), r=move.d / 2, z=move.z)
        if self.home == "up":
            home_outside(path, ctx)
        else:
            home_inside(path, ctx, path.r)
        return [self.stage("moves", tool, path)]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        return TurnSketch(lines=(tuple((m.z, m.d / 2) for m in self.moves),))

    def summary(self, ctx: TurnedContext) -> str:
        return many(len(self.moves), "move")
