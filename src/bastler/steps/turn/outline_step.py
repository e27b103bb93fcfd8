"""What roughing, finishing and rest turning share: an outline and what a tip can reach of it."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from typing import Annotated, Literal

import msgspec
import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.language import tr
from bastler.motion.moves import Bow, Cut, OutlineCycle, Roughed, TurnPath
from bastler.motion.rings import part_of
from bastler.motion.turning import Pencil, View, above, begins_square, closed_to_stock, reached, view_of, way_on, with_run_in
from bastler.shapes import NOTHING, Drawn, Line, Segment, TurnedOutline, TurnedSegment, draw
from bastler.shapes.chain import between, boxed, length_of, points_on, reversed_chain, tangent
from bastler.shapes.kinds import Region
from bastler.shapes.parted import crosses_once, from_behind, in_front, widest, within
from bastler.shapes.rounded import Point
from bastler.steps.base import Dim, TurnSketch
from bastler.steps.cut import number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import ChippedStep, bore_way, hand_trouble, home_inside, home_outside, insert_trouble
from bastler.tools import TurnTool
from bastler.units import Kind

OUTLINE = "Outline"
QUARTER = 64
"""Chords of a quarter of the fillet that a nose leaves."""
LEAST_MISSED = 0.02
"""Less than that, in mm, of an outline that is not gone along is rounding."""
NEARLY = 0.98
"""Tips that take so much of what the best one takes are as good."""
LEAST_LEFT = 0.01
"""Thinner than this, in mm, nothing is left for another tip."""
NEARLY_ALL, MOST_OFF = 0.85, 0.5
"""An allowance is looked for so much of it off its outline, and no more than that, in mm: there may be less stock than that."""
SHORT_PIECE = 0.1, 0.5, 0.9
"""Where it is looked for on a piece that is short, as shares of its length."""
SPOTS_APART, BESIDE_ENDS = 0.5, 0.9
"""How far apart it is looked for, and off the ends of long pieces, in mm: noses leave fillets there."""
FADES = 0.002
"""Where what is left has run out to this, in mm, a tip need not follow it farther."""
CHORD_MM, COARSE_MM = 0.0005, 0.1
"""Chords of what is gone, and of what only has to be found."""


def _parted(s: Answers) -> bool:
    return bool(s.part != "whole")


_between = is_("part", "between")
STRETCH = 0.7
"""A stretch of a bar that slides is proposed so long, as a share of what its guide bush lets it be drawn back."""


def _from(s: Answers, ctx: TurnedContext) -> float | None:
    """Where the outline begins."""
    chain = s.drawn_whole(ctx).chain
    return float(chain[0].start[0]) if chain else None


def _line(s: Answers, ctx: TurnedContext) -> float | None:
    """Where the outline is largest; of a stretch where it ends, or as far as a guide bush lets a bar be drawn back."""
    whole, bush = s.drawn_whole(ctx), ctx.card.bush
    at = widest(whole)
    if _between(s) and s.from_z is not None and whole.chain:
        end = min(z for z, _ in points_on(whole.chain, ctx.mm(COARSE_MM)))
        at = end if bush is None else max(end, s.from_z - STRETCH * bush.back)
    return None if at is None else round(at, 2 if ctx.unit == "mm" else 3)


def _over(s: Answers, ctx: TurnedContext) -> float:
    """A nose leaves a fillet on both sides of the line."""
    tool = ctx.turn_tool(s.tool) if s.tool else None
    nose = tool.nose if tool is not None else ctx.mm(0.8)
    return round(2 * nose + ctx.mm(0.5), 1 if ctx.unit == "mm" else 3)


def _may_both(s: Answers) -> bool:
    return bool(s.BOTH)


def _both(s: Answers) -> bool:
    return bool(s.BOTH and s.both == "yes")


def _left_tool(s: Answers, ctx: TurnedContext) -> str | None:
    """Of the left-hand tips which come to what is left the one that takes most of it; of several that take the same the stoutest,
    with a nose as the first tool's."""
    first, kind = ctx.turn_tool(s.tool), "boring" if s.inside(ctx) else "turning"
    fits = [t for t in ctx.turning_tools if t.kind == kind and t.hand == "left" and t.iso is not None]
    if first is None or not s.drawn(ctx).chain:
        return fits[0].id if fits else None
    best = s.takes_most(ctx, fits, s.left_by_first(ctx, first), first.nose)
    return best.id if best else None


class Spot(msgspec.Struct, frozen=True):
    """Where an allowance is looked for, in the half section: `places` (z, r) nearly as far off the outline as that is thick,
    all of which are in it or none counts; and for how much of the outline's length they stand."""

    places: tuple[Point, ...]
    long: float


class Allowance(msgspec.Struct, frozen=True, kw_only=True):
    """What a step leaves on an outline for a later one: on the diameter and along Z, and `spots` of it all along the outline."""

    outline: str
    d: float
    z: float
    spots: tuple[Spot, ...] = ()


class OutlineStep(ChippedStep, frozen=True, kw_only=True):
    """A turning step along a named outline."""

    outline: Annotated[str, pick("Outline", "outline", OUTLINE)] = ""
    part: Annotated[
        Literal["whole", "front", "between", "behind"],
        choose(
            "Of it",
            {"whole": "All", "front": "In front of a line", "between": "A stretch", "behind": "Behind a line, turned round"},
            OUTLINE,
            helps="One outline for both ends of a part, or stretch by stretch: the next one begins where the last one ended.",
        ),
    ] = "whole"
    from_z: Annotated[
        float | None,
        ask("It begins at Z", Kind.LENGTH, OUTLINE, propose=_from, when=_between, helps="What lies in front of it is turned."),
    ] = None
    line_z: Annotated[
        float | None, ask("The line at Z", Kind.LENGTH, OUTLINE, propose=_line, when=_parted, helps="As the outline counts.")
    ] = None
    over: Annotated[
        float | None,
        ask(
            "Goes over it by", Kind.LENGTH, OUTLINE, least=0, propose=_over, when=is_("part", "behind"),
            helps="So that no ridge stays where both ends meet.",
        ),
    ] = None  # fmt: skip

    BOTH = True
    """May it be done from both sides?"""
    both: Annotated[
        Literal["no", "yes"],
        choose(
            "From both sides", {"no": "No", "yes": "Left-hand tool too"}, OUTLINE, when=_may_both, late=True,
            helps="What is behind a collar, where the first tool does not come, by one that cuts away from the chuck.",
        ),
    ] = "no"  # fmt: skip
    left_tool: Annotated[
        str | None, pick("Left-hand tool", "tool", OUTLINE, propose=_left_tool, when=_both, late=True)
    ] = None  # fmt: skip

    def shape(self, ctx: TurnedContext) -> TurnedOutline | None:
        return ctx.outlines.get(self.outline)

    def drawn(self, ctx: TurnedContext) -> Drawn:
        """The outline, or what the step is about of it, as this holding sees that."""
        whole = self.drawn_whole(ctx)
        at = widest(whole) if self.line_z is None else self.line_z  # a tool is chosen before the line is proposed
        if self.part == "whole" or at is None:
            return whole
        if self.part == "front":
            return in_front(whole, at)
        if self.part == "between":
            return within(whole, at if self.from_z is None else self.from_z, at)
        return from_behind(whole, at + (self.over or 0.0), ctx.length)

    def drawn_whole(self, ctx: TurnedContext) -> Drawn:
        shape = self.shape(ctx)
        return draw(shape) if shape else NOTHING

    def _part_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        """What is wrong with the part of the outline that is asked for."""
        if self.part == "whole" or self.line_z is None:
            return []
        if self.part == "behind" and not ctx.turned_round:
            text = tr("What is behind it is turned from the other end, in a holding with the part turned round.")
            return [Trouble("part", text, "front")]
        if self.part == "between" and self.from_z is not None and self.line_z >= self.from_z:
            return [Trouble("line_z", tr("Not behind where it begins, at Z {from_z}.", from_z=number(self.from_z, ctx)))]
        at = self.line_z + (self.over or 0.0 if self.part == "behind" else 0.0)
        if not crosses_once(self.drawn_whole(ctx), at):
            return [
                Trouble("line_z", tr("The outline comes back over Z {at}: nobody can say what is behind it.", at=number(at, ctx)))
            ]
        if not self.drawn(ctx).chain:
            return [Trouble("line_z", tr("Nothing of the outline lies there."), widest(self.drawn_whole(ctx)))]
        return []

    def inside(self, ctx: TurnedContext) -> bool:
        shape = self.shape(ctx)
        return bool(shape and shape.inside)

    def at_radius(self, ctx: TurnedContext) -> float:
        points = points_on(self.drawn(ctx).chain, ctx.mm(COARSE_MM))
        return max((r for _, r in points), default=float(ctx.raw.bounds[3]))

    def lacks(self) -> str:
        return tr("outside turning tool, or boring bar that goes into the hole that there is,")

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        found = choose_turning(ctx, self.inside(ctx), self.bore(ctx), blunt=True)
        if not _both(self) or not self.drawn(ctx).chain:
            return found
        kind = "boring" if self.inside(ctx) else "turning"  # from both sides a blunt one would leave wedges
        fits = [t for t in ctx.turning_tools if t.kind == kind and t.hand == "right" and t.iso is not None and t.iso.shape != "R"]
        best = self.takes_most(ctx, [t for t in fits if t.min_bore <= 2 * self.bore(ctx) + 1e-9], ctx.stock, 0.0)
        return best.id if best else found

    def bore(self, ctx: TurnedContext) -> float:
        """The narrowest hole over the outline's length."""
        points = points_on(self.drawn(ctx).chain, ctx.mm(COARSE_MM))
        if not points:
            return 0.0
        return ctx.bore(min(z for z, _ in points), max(z for z, _ in points))

    def free(self, ctx: TurnedContext) -> float:
        """In the tool's view: the height over which nothing is in the way. In a bore, off its narrowest place."""
        if not self.inside(ctx):
            return ctx.over
        return -bore_way(ctx.tool(self.tool), self.bore(ctx), ctx.clear)

    def begin(self, path: TurnPath, ctx: TurnedContext) -> None:
        """From the safe place to the front of the work, where the outline can be come at."""
        if self.inside(ctx):
            path.go(z=ctx.front + ctx.clear).go(r=abs(self.free(ctx)))
        elif self.part == "between":  # over it, wherever that is
            path.go(r=ctx.over)
        else:
            path.go(r=ctx.over).go(z=ctx.front + ctx.clear)

    def home(self, path: TurnPath, ctx: TurnedContext) -> None:
        """Back to the safe place."""
        if self.inside(ctx):
            home_inside(path, ctx, abs(self.free(ctx)))
        else:
            home_outside(path, ctx)

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        shape = self.shape(ctx)
        if shape is None:
            return [Trouble("outline", tr("Pick or begin an outline."), open=True)]
        wrong = [msgspec.structs.replace(t, field=f"outline.{t.field}") for t in self.drawn(ctx).troubles]
        wrong = wrong or self._part_troubles(ctx)
        if wrong:
            return wrong
        found = super().troubles(ctx)
        tool = ctx.tool(self.tool)
        kinds = ("boring",) if shape.inside else ("turning",)
        found += insert_trouble(tool, self.choose_tool(ctx), kinds=kinds) or (
            hand_trouble(tool, self.choose_tool(ctx)) if self.BOTH else []
        )
        found = found or self._left_troubles(ctx)
        if isinstance(tool, TurnTool) and not found and shape.inside:
            found += bar_trouble(tool, ctx, self.bore(ctx), self.choose_tool(ctx))
        return found

    def chain(self, ctx: TurnedContext, tool: TurnTool, leave_r: float = 0.0, leave_z: float = 0.0) -> list[Segment]:
        """The outline in the tool's view with allowances, led out of the stock at its end."""
        view = view_of(tool)
        chain = view.chain(self.drawn(ctx).chain)
        shape = self.shape(ctx)
        top = self.high(ctx, tool)
        high = top + 2 * tool.nose + ctx.mm(0.5)
        if view.left and chain:  # from the chuck: what stands there beside the outline is a wall that it falls off
            chain = reversed_chain(chain)
            u, v = chain[0].start
            chain = [Line((u, max(high, v + tool.nose)), (u, v)), *chain]
            return closed_to_stock(boxed(chain, leave_z, leave_r), high)
        # what ends over the stock goes on as it ends: a wall up there would only keep a large nose off
        out = bool(chain) and chain[-1].end[1] >= top - ctx.mm(1e-6)
        on = bool(shape and shape.ends == "on" and self.part == "whole")
        return closed_to_stock(boxed(chain, leave_z, leave_r), high, on=out or on)

    def left_on(self) -> tuple[float, float]:
        """What stays on the outline when the step is done, on the radius and along Z."""
        return 0.0, 0.0

    def allowance(self, ctx: TurnedContext) -> Allowance | None:
        """What stays on the outline for a later step; None where nothing does."""
        tool, shape, (leave_r, leave_z) = ctx.turn_tool(self.tool), self.shape(ctx), self.left_on()
        if tool is None or shape is None or not (leave_r or leave_z):
            return None
        spots = tuple(self._spots(ctx, tool, leave_r, leave_z))
        return Allowance(outline=shape.name, d=2 * leave_r, z=leave_z, spots=spots)

    def _spots(self, ctx: TurnedContext, tool: TurnTool, leave_r: float, leave_z: float) -> Iterator[Spot]:
        """Places in the allowance: on long pieces of the outline all along them but near their ends, where noses leave fillets;
        on a short one amid it and near both its ends together, as no fillet reaches to a corner that stands out."""
        view, ends = view_of(tool), ctx.mm(BESIDE_ENDS)
        for piece in view.chain(self.drawn(ctx).chain):
            long = length_of(piece)
            count = int((long - 2 * ends) / ctx.mm(SPOTS_APART))
            shares: list[tuple[float, ...]] = [((ends + (long - 2 * ends) * (k + 0.5) / count) / long,) for k in range(count)]
            shares = shares or [SHORT_PIECE]
            for group in shares:
                places = [self._off(ctx, view, part_of(piece, share, 1.0), (leave_r, leave_z)) for share in group]
                there = tuple(place for place in places if place is not None)
                if len(there) == len(group):
                    yield Spot(there, long / len(shares))

    @staticmethod
    def _off(ctx: TurnedContext, view: View, piece: Segment, leaves: tuple[float, float]) -> Point | None:
        """A place square off where a piece of the view begins, out of the part; None where nothing is left there."""
        (u, v), (du, dv) = piece.start, tangent(piece)
        leave_r, leave_z = leaves
        off = min(NEARLY_ALL * (abs(dv) * leave_z + abs(du) * leave_r), ctx.mm(MOST_OFF))
        return view.back(u + dv * off, v - du * off) if off > 0.0 else None

    def run_in(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment]) -> float:
        """How far in front of a chain of the tool's view its way begins."""
        at_front = bool(chain) and not view_of(tool).left and abs(chain[0].start[0] - ctx.front) < ctx.near
        return (ctx.off_front if at_front else ctx.clear) + 2 * tool.nose

    def square(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment]) -> bool:
        """Does a chain of the tool's view begin with an arc square to the axis, with nothing in front of it that the nose would
        meet?"""
        if not begins_square(chain):
            return False
        (u, v), hair = chain[0].start, ctx.mm(0.001)
        deep = tool.nose if self.inside(ctx) else max(tool.nose, 2 * tool.nose - v)
        front = shapely.box(u + hair, v - tool.nose, u + 2 * tool.nose + ctx.clear, v - hair if v > hair else deep)
        return bool(view_of(tool).region(ctx.stock).intersection(front).area < hair * hair)

    def high(self, ctx: TurnedContext, tool: TurnTool) -> float:
        """In the tool's view: the height over which there is no stock along the outline."""
        view = view_of(tool)
        points = points_on(self.drawn(ctx).chain, ctx.mm(COARSE_MM))
        z0, z1 = min(z for z, _ in points), max(z for z, _ in points)
        if view.inside:
            bore = ctx.bore(z0, z1)
            return 0.0 if bore == float("inf") else -bore
        return ctx.outer(z0, z1)

    def gone(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], *, nose: bool) -> Region:
        """The region over a chain (of the tool's view) that goes; with `nose` less the fillets it leaves in corners."""
        view = view_of(tool)
        high, chord = max(self.high(ctx, tool), 0.0) + ctx.mm(5.0) + tool.nose * 2, ctx.mm(CHORD_MM)
        region = above(chain, high, chord)
        if nose and tool.nose > 0:
            if self.square(ctx, tool, chain):
                u, v = chain[0].start
                wide = region.union(shapely.box(u - ctx.mm(1e-6), v - 4 * tool.nose, u + 4 * tool.nose, high))
            else:
                wide = above(with_run_in(chain, 4 * tool.nose), high, chord)
            region = wide.buffer(-tool.nose, quad_segs=QUARTER).buffer(tool.nose, quad_segs=QUARTER).intersection(region)
        return view.region(region)

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.tool, self.left_tool) if _both(self) else (self.tool,)

    def behind(self, ctx: TurnedContext) -> tuple[TurnedContext, TurnTool] | None:
        """What the left-hand tool finds, and that tool; None where it is done from one side alone."""
        first, other = ctx.turn_tool(self.tool), ctx.turn_tool(self.left_tool) if _both(self) else None
        if first is None or other is None:
            return None
        return replace(ctx, stock=self.left_by_first(ctx, first)), other

    def left_by_first(self, ctx: TurnedContext, first: TurnTool) -> Region:
        """The stock as the first tool leaves it."""
        return ctx.stock.difference(self.gone(ctx, first, reached(self.chain(ctx, first, *self.roughly()), first), nose=True))

    def takes_most(self, ctx: TurnedContext, tools: Sequence[TurnTool], stock: Region, nose: float) -> TurnTool | None:
        """Of some tools that which takes most of a stock; of several that take the same the one with a nose like that, and the
        stoutest."""
        takes = {t.id: stock.intersection(self.gone(ctx, t, reached(self.chain(ctx, t), t), nose=True)).area for t in tools}
        most = max(takes.values(), default=0.0)
        able = [t for t in tools if takes[t.id] >= NEARLY * most]
        return max(able, key=lambda t: (-abs(t.nose - nose), t.iso.corner if t.iso else 0.0), default=None)

    def roughly(self) -> tuple[float, float]:
        """What a roughing step leaves for another one, on the radius and along Z; its chain does not know."""
        return 0.0, 0.0

    def _left_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if not _both(self):
            return []
        tool = ctx.tool(self.left_tool)
        if tool is None:
            return [Trouble("left_tool", tr("There is no left-hand tool for it in the crib: add one."), None)]
        if not isinstance(tool, TurnTool) or tool.hand != "left" or tool.kind != ("boring" if self.inside(ctx) else "turning"):
            return [Trouble("left_tool", tr("This is no left-hand tool that does this."), _left_tool(self, ctx))]
        behind = self.behind(ctx)
        if behind is not None and not any(self.stretches(behind[0], tool, self.chain(ctx, tool, *self.roughly()))):
            return [Trouble("left_tool", tr("Nothing is left that this tip could take."), None)]
        return []

    def stretches(self, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment]) -> Iterator[tuple[float, float]]:
        """Where something stands over a chain of the tool's view that the tip reaches: (right, left) there."""
        takes = self.gone(ctx, tool, reached(chain, tool), nose=True)
        left = view_of(tool).region(ctx.stock.intersection(takes)).buffer(-ctx.mm(FADES) / 2)
        worth = -ctx.mm(LEAST_LEFT - FADES) / 2
        spans = sorted((g.bounds[2], g.bounds[0]) for g in getattr(left, "geoms", [left]) if not g.buffer(worth).is_empty)
        merged: list[tuple[float, float]] = []
        for right, end in reversed(spans):
            if merged and right > merged[-1][1] - 2 * ctx.clear:
                merged[-1] = (merged[-1][0], min(merged[-1][1], end))
            else:
                merged.append((right, end))
        yield from merged

    def along_what_is_left(
        self, path: TurnPath, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment], feed: float
    ) -> None:
        """Along an outline of the tool's view, only where something stands that the tip reaches."""
        view, free = view_of(tool), self.free(ctx)
        pencil = Pencil(path, view)
        own = reached(chain, tool)
        way = way_on(own, tool, view, self.run_in(ctx, tool, own), square=self.square(ctx, tool, own))
        margin = ctx.mm(0.3) + tool.nose
        for right, left in self.stretches(ctx, tool, chain):
            part = between(way, right + margin, left - margin)
            if not part:
                continue
            u, v = part[0].start
            pencil.go(v=max(free, v)).go(u=u).go(v=v + ctx.clear)
            pencil.cut(feed, u, v)
            pencil.follow(feed, part)
            end = pencil.at
            pencil.cut(feed, end[0] + ctx.card.pull_off, end[1] + ctx.card.pull_off)
            pencil.go(v=max(free, pencil.at[1]))

    def by_cycle(
        self, ctx: TurnedContext, tool: TurnTool, feed: float, code: str, roughed: Roughed | None = None
    ) -> OutlineCycle | None:
        """The outline, with nothing left, as a cycle of the control goes along it; None where the card has no such cycle, or
        where controls differ in what they make of it: where the outline falls, begins within the stock, or keeps the tip off."""
        view, chain = view_of(tool), self.chain(ctx, tool)
        if code not in ctx.card.dialect.turn_cycles or self.breaks or view.left or self.square(ctx, tool, chain):
            return None
        far, there = (sum(map(length_of, way)) for way in (chain, reached(chain, tool)))
        way = way_on(chain, tool, view, self.run_in(ctx, tool, chain), square=False)
        if abs(far - there) > ctx.mm(LEAST_MISSED) or not way or not _rises(way, ctx.mm(1e-4)):
            return None
        (z, v), (end, top) = way[0].start, way[-1].end
        if way[-1].start[0] != end:  # the way does not lead straight out
            return None
        if z < ctx.front + ctx.near / 2:
            return None
        high = max(ctx.outer(end, ctx.front) + ctx.clear, top)
        if view.inside:  # no farther off the wall than the bar has room
            high = self.free(ctx)
            if high < self.high(ctx, tool) + tool.nose - ctx.mm(1e-6):
                return None
            way[-1] = Line(way[-1].start, (end, min(high, top)))
        path = TurnPath(abs(v), z)
        Pencil(path, view).follow(feed, way, tool.nose)
        moves = tuple(move for move in path.moves if isinstance(move, Cut | Bow))
        start, begin = (view.back(z, height)[1] for height in (high, v))
        own = self.outline if self.part == "whole" else f"{self.outline} {self.part} {self.from_z} {self.line_z}"
        return OutlineCycle(outline=own, start_r=start, start_z=z, begin_r=begin, moves=moves, roughed=roughed)

    def outline_dims(self, ctx: TurnedContext) -> TurnSketch:
        """The outline as a line, with the dimensions of its pieces."""
        drawn, shape = self.drawn(ctx), self.shape(ctx)
        if shape is None or not drawn.chain:
            return TurnSketch()
        dims: list[Dim] = []
        zero = -ctx.length if self.part == "behind" else 0.0
        for segment, owner, corner in zip(drawn.chain, drawn.owners, drawn.corners, strict=True):
            given = shape.segments[owner] if owner >= 0 else shape
            base = f"outline.segments.{owner}" if owner >= 0 else "outline"
            z, r = segment.end
            if corner:
                how = "radius" if given.corner != "edge" else "edge"
                dims.append(Dim(f"{base}.corner_size", "half", how, segment.start, segment.end))
                continue
            if given.z is not None:
                dims.append(Dim(f"{base}.z", "half", "length", (zero, r), (z, r)))
            if given.d is not None:
                dims.append(Dim(f"{base}.d", "half", "diameter", segment.start, segment.end))
            if isinstance(given, TurnedSegment) and given.kind == "arc":
                dims.append(Dim(f"{base}.radius", "half", "radius", segment.start, segment.end))
        if shape.d and self.part not in ("behind", "between"):
            first = drawn.chain[0]
            dims.insert(0, Dim("outline.d", "half", "diameter", first.start, first.end))
        return TurnSketch(lines=(tuple(points_on(drawn.chain, ctx.mm(0.01))),), dims=tuple(dims))


def _rises(way: Sequence[Segment], hair: float) -> bool:
    """Goes a way never down and never back to the right?"""
    points = points_on(way, hair)
    return all(b[0] <= a[0] + hair and b[1] >= a[1] - hair for a, b in itertools.pairwise(points))


def choose_turning(
    ctx: TurnedContext, inside: bool, bore: float, *, blunt: bool = False, follows: Callable[[TurnTool], bool] | None = None
) -> str | None:
    """The strongest insert that fits, for roughing; else the sharpest, or of those that follow an outline everywhere the
    stoutest, tip and bar. Only tools of that side."""
    fitting: list[tuple[float, TurnTool]] = []
    for t in ctx.tools:
        if not isinstance(t, TurnTool) or t.kind != ("boring" if inside else "turning") or t.hand == "left":
            continue
        iso = t.iso
        if iso is None or iso.shape == "R" or t.approach < 90 or (inside and t.min_bore > 2 * bore + 1e-9):
            continue
        fitting.append((iso.corner, t))
    following = [entry for entry in fitting if follows(entry[1])] if follows is not None else []
    if not fitting:
        return None
    if blunt or following:
        return max(following or fitting, key=lambda entry: (entry[0], entry[1].min_bore))[1].id
    return min(fitting, key=lambda entry: (entry[0], entry[1].approach))[1].id


def bar_trouble(tool: TurnTool, ctx: TurnedContext, bore: float, fits: str | None) -> list[Trouble]:
    """A bar that does not go into the hole that is there."""
    if tool.min_bore <= 2 * bore + 1e-9:
        return []
    if bore <= 0:
        return [Trouble("tool", tr("There is no bore yet for a boring bar. Drill first."))]
    return [
        Trouble("tool", tr("Needs a bore of Ø{min_bore:g}; there is Ø{bore:.4g}.", min_bore=tool.min_bore, bore=2 * bore), fits)
    ]
