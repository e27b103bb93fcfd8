"""Part-off: edge breaks on the back of the part and on what stays behind the blade first, then through, slower near the
centre."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, NamedTuple

import shapely

from bastler.ask import Answers, Trouble, ask
from bastler.language import tr, tr_as
from bastler.motion.moves import Cut, TurnPath, Turns
from bastler.shapes.kinds import Region
from bastler.shapes.united import united
from bastler.steps.base import TURNED, Arrival, Dim, Given, Stage, TurnSketch, replaced, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import home_outside, insert_trouble, near, speed_says, start, through_air
from bastler.steps.turn.pecks import HOW, PeckedStep
from bastler.tools import TurnTool
from bastler.units import Kind

WHERE = "Where"
MOST_LIP = 5.0
"""No fillet of a tip is wider than this, in mm."""
BESIDE = 0.01
"""So near to the blade, in mm, the edge behind it is looked for; and so far it may bulge."""
SLICES = 8
"""So many parts of the blade's width are looked at for where it comes through first."""
SLOW_SHARE = 0.4
"""Feed near the centre, as a share of the feed before."""


def _z(s: Answers, ctx: TurnedContext) -> float:
    """The back of the part, with what is left on it for the next setup."""
    return -ctx.length - ctx.back


def _slow_d(s: Answers, ctx: TurnedContext) -> float:
    bore = ctx.bore(given(s.z) - ctx.mm(1.0), given(s.z))
    return round(2 * bore + ctx.mm(6.0), 2)


def _slow_f(s: Answers, ctx: TurnedContext) -> float | None:
    return None if s.f is None else round(s.f * SLOW_SHARE, 4)


class _Edge(NamedTuple):
    """An edge beside the blade that is broken: the radius it lies at, how much of it, and 1 in front of the blade, -1 behind."""

    outer: float
    leg: float
    side: float


@step("Part off", "Ends", "Edge break on the back, slower near the centre", planes=TURNED, rank=9)
class PartOff(PeckedStep, frozen=True, kw_only=True, tag="part-off"):
    """Answers of a part-off step."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOW, TOOL)
    SLOWER = 0.6

    z: Annotated[
        float | None,
        ask("Back of the part at Z", Kind.LENGTH, WHERE, propose=_z, helps="The blade's right edge. Computed from the lengths."),
    ] = None
    edge_break: Annotated[float, ask("Break the back edge", Kind.LENGTH, WHERE, least=0, helps="At 45°; 0 for none.")] = 0.5
    break_behind: Annotated[
        float,
        ask(
            "Break behind the blade",
            Kind.LENGTH,
            WHERE,
            least=0,
            helps="The edge of what stays in the chuck: the next part's front.",
        ),
    ] = 0.0
    slow_d: Annotated[float | None, ask("Slower below Ø", Kind.LENGTH, HOW, least=0, propose=_slow_d)] = None
    slow_f: Annotated[float | None, ask("Feed there", Kind.FEED_PER_TOOTH, HOW, above=0, propose=_slow_f)] = None

    slow_n: Annotated[
        float,
        ask(
            "Turns there at most", Kind.SPINDLE_SPEED, HOW, least=0,
            helps="So that the part drops gently; 0: as fast as before.",
        ),
    ] = 0.0  # fmt: skip

    def lacks(self) -> str:
        return tr("part-off tool")

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        r = ctx.outer(given(self.z) - ctx.mm(4.0), given(self.z)) if self.z is not None else 0.0
        fitting = [t for t in ctx.tools if isinstance(t, TurnTool) and t.kind == "parting"]
        return next((t.id for t in fitting if t.reach >= r), fitting[0].id if fitting else None)

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.tool)
        return 0.03 * tool.width if tool else None

    def outer(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """The radius of the finished part at its back edge, whatever a nose has left in the corner there."""
        z = given(self.z)
        return ctx.finished_outer(z, z + max(self.edge_break, ctx.mm(0.01))) or ctx.finished_outer(z - tool.width, z)

    def outer_behind(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """The radius just behind the blade, of what stays in the chuck; 0 where there is nothing."""
        end = given(self.z) - tool.width
        return ctx.outer(end - ctx.mm(BESIDE), end)

    def lip(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """How far in front of the back edge something stands over the finished part: the fillet of the tip that turned it up to
        there. 0 for none."""
        if ctx.wanted is None:
            return 0.0
        z, hair = given(self.z), ctx.mm(0.001)
        near = shapely.box(z, self.outer(ctx, tool), z + ctx.mm(MOST_LIP), ctx.over)
        stands = ctx.stock.difference(ctx.wanted).intersection(near).buffer(-hair / 2)
        pieces = [g for g in getattr(stands, "geoms", [stands]) if not g.is_empty and g.bounds[0] < z + 3 * hair]
        return max((float(g.bounds[2]) + hair - z for g in pieces), default=0.0)

    def around(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """The largest radius that the blade comes by."""
        z = given(self.z)
        end = z - tool.width - self._beside(tool)
        return max(self.outer(ctx, tool), ctx.outer(end - ctx.clear, z + ctx.clear + self.edge_break))

    def _beside(self, tool: TurnTool) -> float:
        """How far behind its own groove the blade comes to cut, for the edge there."""
        return self.break_behind + 2 * self._corner(tool) if self.break_behind > 0 else 0.0

    def inner(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """Where the blade ends: past the centre by its corner, or inside the bore."""
        bore = ctx.bore(given(self.z) - tool.width, given(self.z))
        return max(bore - ctx.mm(0.5), 0.0) if bore > ctx.mm(0.5) else -tool.corner_radius

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        return insert_trouble(ctx.tool(self.tool), self.choose_tool(ctx), kinds=("parting", "grooving"))

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.turn_tool(self.tool)
        if found or tool is None:
            return found
        if self.outer(ctx, tool) <= 0:
            return [Trouble("z", tr("There is nothing to part off there."))]
        need = self.around(ctx, tool) - self.inner(ctx, tool)
        if need > tool.reach + 1e-9:
            found.append(
                Trouble(
                    "tool",
                    tr("Reaches {reach}; {need} is needed.", reach=number(tool.reach, ctx), need=number(need, ctx)),
                    self.choose_tool(ctx),
                )
            )
        inner = max(self.inner(ctx, tool), 0.0)
        if self.edge_break > 0 and self.edge_break > self.outer(ctx, tool) - inner:
            found.append(Trouble("edge_break", tr("Larger than the wall.")))
        if self.break_behind > 0:
            found += self._behind_trouble(ctx, tool, inner)
        if self.slow_n > ctx.most_speed:
            found.append(
                Trouble(
                    "slow_n", tr("Machine and chuck go up to {most_speed:g} 1/min.", most_speed=ctx.most_speed), ctx.most_speed
                )
            )
        elif 0.0 < self.slow_n < ctx.card.speed[0]:
            found.append(
                Trouble("slow_n", tr("The spindle begins at {speed:g} 1/min.", speed=ctx.card.speed[0]), ctx.card.speed[0])
            )
        return found + self.pecks_trouble(need, 1.0)

    def _behind_trouble(self, ctx: TurnedContext, tool: TurnTool, inner: float) -> list[Trouble]:
        r, end = self.outer_behind(ctx, tool), given(self.z) - tool.width
        if r <= 0:
            return [Trouble("break_behind", tr("Nothing stays behind the blade."), 0.0)]
        if self.break_behind > r - inner:
            return [Trouble("break_behind", tr("Larger than the wall."))]
        if ctx.outer(end - self._beside(tool) - near(ctx), end) > r + ctx.mm(BESIDE):
            return [
                Trouble(
                    "break_behind", tr("Behind the blade it is no longer Ø{r} for as far as that.", r=number(2 * r, ctx)), 0.0
                )
            ]
        return []

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"edge_break": 0.5 * at.small}

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path, feed = start(ctx), given(self.f)
        hi = max(p[0] for p in tool.cutting)
        point = given(self.z) - hi
        outer = self.outer(ctx, tool)
        top = self.around(ctx, tool) + ctx.clear
        path.go(r=ctx.over)
        self._take_lip(path, ctx, tool, point, top)
        path.go(z=point).go(r=top)
        edges = [e for e in self._edges(ctx, tool, outer) if e.leg > 0]
        if edges:
            low = min(e.outer - e.leg for e in edges) - 2 * self._corner(tool)
            path.cut(through_air(feed, ctx), r=self._begin(ctx, tool, top))
            self._down(path, ctx, tool, low, top)
        for edge in edges:
            self._edge(path, ctx, tool, point, edge, top)
        begin = self._begin(ctx, tool, top)
        end = self.inner(ctx, tool)
        if max(given(self.slow_d) / 2, end) < begin < path.r:
            path.cut(through_air(feed, ctx), r=begin)
        self._down(path, ctx, tool, end, top)
        path.go(r=top)
        home_outside(path, ctx)
        return [replaced(self.stage("part off", tool, path), parts=True)]

    def _begin(self, ctx: TurnedContext, tool: TurnTool, top: float) -> float:
        """The radius at which the blade is about to cut, on whatever way down from the top."""
        z, beside = given(self.z), max(self.edge_break, self.lip(ctx, tool)) + 2 * tool.corner_radius
        return min(top, ctx.outer(z - tool.width - self._beside(tool), z + beside) + near(ctx))

    def _take_lip(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool, point: float, top: float) -> None:
        """Down to the finished radius where a fillet stands in front of the back edge, from its end inward."""
        lip, low = self.lip(ctx, tool), self.outer(ctx, tool)
        lip = lip + tool.corner_radius if lip > 0 else 0.0  # the blade's own corner stays off what is finished
        while lip > 0:
            path.go(z=point + lip).go(r=top)
            path.cut(through_air(given(self.f), ctx), r=max(self._begin(ctx, tool, top), low))
            path.cut(given(self.f), r=low)
            path.go(r=top)
            lip -= tool.width - 2 * tool.corner_radius

    @staticmethod
    def _corner(tool: TurnTool) -> float:
        """How far, along either axis, a line at 45° that touches the blade's corner lies inside of the blade's own edges."""
        return tool.corner_radius * (1.0 - math.sqrt(0.5))

    def _edges(self, ctx: TurnedContext, tool: TurnTool, outer: float) -> tuple[_Edge, _Edge]:
        return (_Edge(outer, self.edge_break, 1.0), _Edge(self.outer_behind(ctx, tool), self.break_behind, -1.0))

    def _edge(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool, point: float, edge: _Edge, top: float) -> None:
        """Out of the groove that is begun and beside it, then down along 45° with the corner's nose just touching the break."""
        low, feed, begin = edge.outer - edge.leg - 2 * self._corner(tool), given(self.f), self._begin(ctx, tool, top)
        high = top if edge.side > 0 else min(top, edge.outer + near(ctx))  # behind, what stands may soon be thicker
        path.go(r=top).go(z=point + edge.side * (high - low)).go(r=high)
        if begin < high:
            path.cut(through_air(feed, ctx), r=begin, z=point + edge.side * (begin - low))
        path.cut(feed, r=low, z=point)

    def _down(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool, end: float, top: float) -> None:
        """Down to a radius, in pecks where so is wanted, with the slower feed from where that begins."""
        slow, begin = given(self.slow_d) / 2, path.r
        z, slice_ = given(self.z), tool.width / SLICES
        bores = (ctx.bore(z - (k + 1) * slice_, z - k * slice_) for k in range(SLICES))
        through = max((r for r in bores if math.isfinite(r)), default=0.0) + ctx.mm(BESIDE)
        if end < slow < through:  # so that the bit with which it comes through is one move
            slow = through
        levels, slowed = self.pecked(begin - end), False
        # the last peck comes through and ends there, so that it takes the ridge by the blade's corner with it
        for k, deep in enumerate([*(deep for deep in levels[:-1] if begin - deep > through), levels[-1]]):
            for height in self.between_pecks(ctx, path.r, top) if k else ():
                path.go(r=height)
            level = begin - deep
            # and its end is a move of its own, which no rest parts either
            for r in (through, level) if self.breaks and level < through < path.r else (level,):
                if r < slow < path.r:
                    path.cut(given(self.f), r=slow)
                if r < slow and not slowed:
                    self._slower(path, ctx)
                    slowed = True
                path.cut(given(self.slow_f if r < slow else self.f), r=r)

    def _slower(self, path: TurnPath, ctx: TurnedContext) -> None:
        """From here on the spindle turns no faster than is wanted, and no faster than it does here."""
        here = self.turning().turns_at(path.r, ctx.unit)
        if 0.0 < self.slow_n < max(here, given(self.cap) if self.speed == "surface" else 0.0):
            path.do(Turns(max(min(self.slow_n, here), ctx.card.speed[0])))

    def unbroken(self, path: TurnPath) -> int:
        last = max(k for k, move in enumerate(path.moves) if isinstance(move, Cut))
        return len(path.moves) - last

    def removes(self, ctx: TurnedContext) -> list[Region]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        z, w, outer, leg = given(self.z), tool.width, self.outer(ctx, tool), self.edge_break
        gone = [shapely.box(z - w, max(self.inner(ctx, tool), 0.0), z, ctx.over)]
        if leg > 0:
            gone.append(
                shapely.Polygon(
                    [(z, outer - leg), (z + leg, outer), (z + leg, ctx.over), (z - w, ctx.over), (z - w, outer - leg)]
                )
            )
        if (leg := self.break_behind) > 0:
            end, r = z - w, self.outer_behind(ctx, tool)
            gone.append(shapely.Polygon([(end, r - leg), (end - leg, r), (end - leg, ctx.over), (end, ctx.over)]))
        if (lip := self.lip(ctx, tool)) > 0:
            gone.append(shapely.box(z - w, outer, z + lip, ctx.over))
        return [united(gone)]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        tool = ctx.turn_tool(self.tool)
        r = self.outer(ctx, tool) if tool else 0.0
        z = given(self.z)
        dims = [Dim("z", "half", "length", (0.0, r), (z, r))]
        if tool and (leg := self.break_behind) > 0:
            end, low = z - tool.width, self.outer_behind(ctx, tool)
            dims.append(Dim("break_behind", "half", "edge", (end, low - leg), (end - leg, low)))
        if self.edge_break > 0:
            dims.append(Dim("edge_break", "half", "edge", (z, r - self.edge_break), (z + self.edge_break, r)))
        return TurnSketch(lines=(((z, r), (z, 0.0)),), dims=tuple(dims))

    def summary(self, ctx: TurnedContext) -> str:
        tool = ctx.turn_tool(self.tool)
        if tool is None or self.z is None:
            return tr("no tool yet")
        inner = self.inner(ctx, tool)
        to = tr("centre") if inner <= 0 else tr_as("the hole", "bore")
        return tr(
            "Ø{outer} → {to}, edge {edge_break}",
            outer=number(2 * self.outer(ctx, tool), ctx),
            to=to,
            edge_break=number(self.edge_break, ctx),
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        return [(TOOL, speed_says(self, ctx, max(self.inner(ctx, tool), 0.0), self.outer(ctx, tool)))]
