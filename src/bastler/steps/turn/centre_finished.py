"""A hole on the centre line by what the print calls it: a thread, a fit, a bored or a plain hole. Its stages are worked out:
spot, drill, and tap, ream or bore; each is a plain step of its own, with its answers visible here.

Where there is no reamer of the size a bar bores it: in even passes from the drill's diameter, the last one light.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.cutting import Thread, ThreadNameError, spindle_speed, thread_of, thread_or_none
from bastler.language import decimal, tr
from bastler.shapes.kinds import Region
from bastler.shapes.united import united
from bastler.steps.base import TURNED, Arrival, Dim, Given, Spin, Stage, ThreadLines, TurnSketch, fill, step, trouble_with
from bastler.steps.cut import TOOL, given, number, passes_trouble, there_are
from bastler.steps.hole.finished import REAM_ROOM, THREAD_LEFT, TO_REAM_MM
from bastler.steps.turn.centre import NEAR, TAPPING, THROUGH, CentreHole
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import NOSE_FEED, TurningStep, advised_speed, bore_way, start
from bastler.steps.turn.threading import pitch_limits
from bastler.tools import Tool, TurnTool, tip_length
from bastler.units import Kind, scale

WHAT, SPOT, END = "Hole", "Spot", "Last"
PERCENT = 75.0
"""Of a whole thread the drill leaves so much, where there is one of that size."""
BORE_ROOM = 1.0
"""The least, in mm on the diameter, that is left for boring."""
REAMER_LEAD, EDGE_MORE = 0.2, 1.05
"""Of a reamer's diameter: what its end does not cut to size. How wide an edge is broken, in diameters."""
BORE_AP, BORE_LAST = 1.0, 0.15
"""A boring pass takes no more on the radius than the first, in mm, and the last one the second."""
UNDER = (0.5, 2.0)
"""So far under the face, in mm, it is looked whether there is a hole."""
BAR_ROOM = 0.2
"""A bar keeps at least so far, in mm, off what is not flat yet."""
OVER_THE_EDGE = 0.2
"""So far, in mm, a bar goes in over what an end mill has flattened."""
BORED_PAST = 0.5
"""How far, in mm, a bored hole goes on behind the part, besides its nose."""
QUARTER = 64
FIELDS = {"spot": "spot_tool", "drill": "tool", "flat": "flat_tool", "end": "end_tool"}
"""Which answer has the tool of a stage."""

_named = is_("work", "tap")
_sized = isnt("work", "tap")
_blind = is_("extent", "depth")
_spots = is_("spot", "yes")
_ends = isnt("work", "plain")
_fed = is_("work", "ream", "bore")
_pecks = isnt("method", "once")


def _may_be_flat(s: Answers) -> bool:
    return _blind(s) and s.work in ("plain", "bore")


def _flat(s: Answers) -> bool:
    return _may_be_flat(s) and s.floor == "flat"


def _flat_tool(s: Answers, ctx: TurnedContext) -> str | None:
    """The largest end mill that goes into what was drilled and cuts over its middle."""
    most = (s.drill_d or 0.0) + ctx.mm(NEAR)
    kinds = (t for t in ctx.tools if isinstance(t, Tool) and t.kind == "end-mill" and t.stands == "axial" and t.centre_cutting)
    best = max((t for t in kinds if t.diameter <= most), key=lambda t: t.diameter, default=None)
    return best.id if best else None


def _of(stage: str, field: str) -> Callable[[Any, TurnedContext], Any]:
    """What the plain step of a stage proposes."""
    return lambda s, ctx: s.proposed(stage, field, ctx)


def _z(s: Answers, ctx: TurnedContext) -> float:
    return ctx.front_at(0.0, max(s.size(ctx) / 2, ctx.mm(0.5)))


def _edge(s: Answers, ctx: TurnedContext) -> float:
    return float(round(EDGE_MORE * s.size(ctx), 2 if ctx.unit == "mm" else 3))


def _spot_tool(s: Answers, ctx: TurnedContext) -> str | None:
    return next((t.id for t in ctx.tools if isinstance(t, Tool) and t.kind == "spot-drill" and t.stands == "axial"), None)


def _drill_d(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.drill(s.tool)
    return tool.diameter if tool else None


def _end_tool(s: Answers, ctx: TurnedContext) -> str | None:
    found: str | None = s.choose_end(ctx)
    return found


@step("Finished centre hole", "Holes", "A thread, a fit or a bore by its name, all its stages", planes=TURNED, rank=2)
class CentreFinished(TurningStep, frozen=True, kw_only=True, tag="centre-finished"):
    """Answers of a finished hole on the centre line. `tool`, `n` and `f` are of the drill."""

    groups: ClassVar[tuple[str, ...]] = (WHAT, SPOT, TOOL, END)
    SURFACE = False

    work: Annotated[
        Literal["tap", "ream", "bore", "plain"],
        choose("It is", {"tap": "A thread", "ream": "Reamed", "bore": "Bored", "plain": "Plain"}, WHAT),
    ] = "tap"
    thread: Annotated[str, pick("Thread", "word", WHAT, when=_named, helps="As the print has it: M8, 1/4-20, G 1/4.")] = "M10"
    diameter: Annotated[
        float,
        ask("Diameter", Kind.LENGTH, WHAT, above=0, when=_sized, helps="With its fit: 20 H7 is cut to its middle."),
    ] = 10.0
    z: Annotated[float | None, ask("Begins at Z", Kind.LENGTH, WHAT, propose=_z, helps="The face that is there.")] = None
    extent: Annotated[
        Literal["depth", "through"], choose("Goes", {"depth": "To a depth", "through": "Through"}, WHAT)
    ] = "depth"  # fmt: skip
    depth: Annotated[
        float, ask("How deep", Kind.LENGTH, WHAT, above=0, when=_blind, helps="Full thread or full diameter, from the face.")
    ] = 20.0
    floor: Annotated[
        Literal["tip", "flat"],
        choose("Its floor", {"tip": "As the drill leaves it", "flat": "Flat"}, WHAT, when=_may_be_flat),
    ] = "tip"
    spot: Annotated[Literal["yes", "no"], choose("Spot it first", {"yes": "Yes", "no": "No"}, SPOT)] = "yes"
    edge_d: Annotated[
        float | None,
        ask("Break the edge to Ø", Kind.LENGTH, SPOT, least=0, propose=_edge, when=_spots, helps="By the spot drill."),
    ] = None  # fmt: skip
    spot_tool: Annotated[str | None, pick("Spot drill", "tool", SPOT, propose=_spot_tool, when=_spots)] = None
    spot_n: Annotated[
        float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, SPOT, above=0, propose=_of("spot", "n"), when=_spots, symbol="n")
    ] = None
    spot_f: Annotated[
        float | None, ask("Feed a turn", Kind.FEED_PER_TOOTH, SPOT, above=0, propose=_of("spot", "f"), when=_spots, symbol="f")
    ] = None
    drill_d: Annotated[float | None, ask("Drilled to Ø", Kind.LENGTH, TOOL, above=0, propose=_drill_d)] = None
    method: Annotated[
        Literal["once", "chip-break", "peck"],
        choose("Drill", {"once": "In one go", "chip-break": "Chip break", "peck": "Full retract"}, TOOL),
    ] = "peck"
    peck: Annotated[
        float | None, ask("Peck", Kind.LENGTH, TOOL, above=0, propose=_of("drill", "peck"), when=_pecks)
    ] = None  # fmt: skip
    flat_tool: Annotated[str | None, pick("Flattened by", "tool", TOOL, propose=_flat_tool, when=_flat)] = None
    end_tool: Annotated[str | None, pick("Tool", "tool", END, propose=_end_tool, when=_ends)] = None
    end_n: Annotated[
        float | None, ask("Spindle speed", Kind.SPINDLE_SPEED, END, above=0, propose=_of("end", "n"), when=_ends, symbol="n")
    ] = None
    end_f: Annotated[
        float | None, ask("Feed a turn", Kind.FEED_PER_TOOTH, END, above=0, propose=_of("end", "f"), when=_fed, symbol="f")
    ] = None
    lead: Annotated[
        float | None,
        ask("Tap's lead", Kind.LENGTH, END, least=0, propose=_of("end", "lead"), when=_named, helps="It goes deeper by this."),
    ] = None  # fmt: skip

    # -- sizes --------------------------------------------------------------------------------------------------------

    def thread_or_none(self) -> Thread | None:
        """The thread that was named, None when there is no such."""
        return thread_or_none(self.thread)

    def size(self, ctx: TurnedContext) -> float:
        """The diameter by which it is called; 0 where it is not known."""
        if not _named(self):
            return self.diameter
        thread = self.thread_or_none()
        return ctx.mm(thread.major) if thread else 0.0

    def wanted_drill(self, ctx: TurnedContext) -> tuple[float, float, float]:
        """The drill that would be right, and the least and the most that will do."""
        size, thread = self.size(ctx), self.thread_or_none()
        if _named(self):
            if thread is None:
                return 0.0, 0.0, 0.0
            most, least = (ctx.mm(thread.drill(p)) for p in sorted(THREAD_LEFT))
            return ctx.mm(thread.drill(PERCENT)), least, most
        if self.work == "ream":
            room = next(more for upto, more in TO_REAM_MM if ctx.to_mm(size) <= upto)
            return size - ctx.mm(room), size - ctx.mm(REAM_ROOM[1]), size - ctx.mm(REAM_ROOM[0])
        if self.work == "bore":
            return size - ctx.mm(2 * BORE_ROOM), 0.0, size - ctx.mm(BORE_ROOM)
        return size, size - ctx.mm(NEAR), size + ctx.mm(NEAR)

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        """The drill that comes nearest to the right one."""
        right, least, most = self.wanted_drill(ctx)
        hair = ctx.mm(1e-6)
        fits = [t for t in self._drills(ctx) if least - hair <= t.diameter <= most + hair]
        if self.drill_d is not None:
            fits = [t for t in fits if abs(t.diameter - self.drill_d) <= ctx.mm(NEAR)] or fits
        best = min(fits, key=lambda t: abs(t.diameter - right), default=None)
        return best.id if best else None

    def choose_end(self, ctx: TurnedContext) -> str | None:
        """The tap of the thread, the reamer of the size, or the stoutest bar that goes into what was drilled."""
        if self.work == "bore":
            bored = given(self.drill_d) if self.drill_d else 0.0
            bars = [t for t in ctx.tools if isinstance(t, TurnTool) and t.kind == "boring" and t.min_bore <= bored + ctx.mm(NEAR)]
            best = max(bars, key=lambda t: (t.min_bore, -t.nose), default=None)
            return best.id if best else None
        thread, near = self.thread_or_none(), ctx.mm(NEAR)
        for t in ctx.tools:
            if not isinstance(t, Tool) or t.stands != "axial":
                continue
            if self.work == "ream" and t.kind == "reamer" and abs(t.diameter - self.diameter) <= self._within(ctx):
                return t.id
            if _named(self) and thread and t.kind == "tap" and abs(t.pitch - ctx.mm(thread.pitch)) <= near:
                if abs(t.diameter - ctx.mm(thread.major)) <= near and t.profile_angle == thread.angle:
                    return t.id
        return None

    def _within(self, ctx: TurnedContext) -> float:
        """How far a reamer may be off what was asked for: 10 H7 is aimed at its middle, and its reamer is called 10."""
        return ctx.mm(0.03)

    def at_radius(self, ctx: TurnedContext) -> float:
        return max(given(self.drill_d) if self.drill_d else self.wanted_drill(ctx)[0], ctx.mm(0.5)) / 2

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.drill(self.tool)
        plain = CentreHole(id=self.id, work="drill", diameter=tool.diameter, tool=tool.id, n=self.n) if tool else None
        return fill(plain, ctx).f if plain else None

    # -- stages -------------------------------------------------------------------------------------------------------

    def stages(self) -> tuple[str, ...]:
        """The stages there are, in the order they are cut."""
        flat = ("flat",) if _flat(self) else ()
        return (*(("spot",) if _spots(self) else ()), "drill", *flat, *(("end",) if _ends(self) else ()))

    def plain(self, stage: str, ctx: TurnedContext) -> CentreHole:
        """The plain step that a stage is, not filled yet; a bored end has none."""
        common: dict[str, Any] = {"id": self.id, "z": self.z, "extent": self.extent}
        if stage == "spot":
            tool = ctx.drill(self.spot_tool)
            deep = self._spot_depth(tool, ctx)
            return CentreHole(**common, work="spot", depth=deep, tool=self.spot_tool, n=self.spot_n, f=self.spot_f)
        if stage == "drill":
            drill = ctx.drill(self.tool)
            return CentreHole(
                **common,
                work="drill",
                diameter=drill.diameter if drill else self.wanted_drill(ctx)[0],
                depth=self._drill_depth(ctx),
                method=self.method,
                peck=self.peck,
                tool=self.tool,
                n=self.n,
                f=self.f,
            )
        if stage == "flat":
            mill = ctx.drill(self.flat_tool)
            wide = mill.diameter if mill else self.size(ctx)
            return CentreHole(**common, work="flat", diameter=wide, depth=self.depth, tool=self.flat_tool)
        tool = ctx.drill(self.end_tool)
        more: dict[str, Any] = {"lead": self.lead} if _named(self) else {"f": self.end_f}
        return CentreHole(
            **common,
            work="tap" if _named(self) else "ream",
            diameter=tool.diameter if tool else self.size(ctx),
            depth=self.depth,
            tool=self.end_tool,
            n=self.end_n,
            **more,
        )

    def _spot_depth(self, tool: Tool | None, ctx: TurnedContext) -> float:
        """So deep that the edge is broken to its width, no wider than the spot drill is."""
        if tool is None:
            return ctx.mm(1.0)
        wide = min(self.edge_d or self.size(ctx), tool.diameter)
        return max(tip_length(wide, tool.tip_angle, min(tool.tip_diameter, wide)), ctx.mm(0.2))

    def _drill_depth(self, ctx: TurnedContext) -> float:
        """Of the full diameter: what ends the hole has a lead that cuts nothing to size."""
        if _named(self):
            thread, tap = self.thread_or_none(), ctx.drill(self.choose_end(ctx))
            lead = tap.lead * tap.pitch if tap else 0.0
            return self.depth + (self.lead if self.lead is not None else lead) + (ctx.mm(thread.pitch) if thread else 0.0)
        if _flat(self):  # its tip ends on the floor
            drill = ctx.drill(self.tool)
            return max(self.depth - (tip_length(drill.diameter, drill.tip_angle, drill.tip_diameter) if drill else 0.0), 0.0)
        return self.depth + (REAMER_LEAD * self.diameter if self.work == "ream" else 0.0)

    def proposed(self, stage: str, field: str, ctx: TurnedContext) -> float | None:
        """What a stage proposes for one of its answers; None where it has no tool."""
        if stage == "end" and self.work == "bore":
            return self._bored(field, ctx)
        if ctx.drill(getattr(self, FIELDS[stage])) is None:
            return None
        found: float | None = getattr(fill(self.plain(stage, ctx), ctx), field)
        return found

    def _bored(self, field: str, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.end_tool)
        if tool is None:
            return None
        if field == "f":
            return round(NOSE_FEED / 2 * tool.nose, 3 if ctx.unit == "mm" else 4)
        speed = advised_speed(self, tool, ctx).value
        wanted = spindle_speed(speed, ctx.to_mm(max(self.diameter, ctx.mm(1.0))))
        return float(round(min(max(wanted, ctx.card.speed[0]), ctx.most_speed)))

    def _done(self, ctx: TurnedContext) -> list[tuple[str, CentreHole, TurnedContext]]:
        """Every plain stage filled, and the context as the stages before it leave it."""
        found = []
        for name in self.stages():
            if name == "end" and self.work == "bore":
                continue
            done = fill(self.plain(name, ctx), ctx)
            found.append((name, done, ctx))
            ctx = self._behind(ctx, done.removes(ctx))
        return found

    @staticmethod
    def _behind(ctx: TurnedContext, gone: list[Region]) -> TurnedContext:
        return replace(ctx, stock=ctx.stock.difference(united(gone))) if gone else ctx

    def tools_used(self) -> tuple[str | None, ...]:
        return tuple(getattr(self, FIELDS[stage]) for stage in self.stages())

    # -- what is wrong ----------------------------------------------------------------------------------------------

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = self._name_troubles() or self._tool_troubles(ctx)
        if found:
            return found
        for name, done, at in self._done(ctx):
            own = {"tool": FIELDS[name], "diameter": "drill_d"}
            if wrong := [Trouble(own.get(t.field, t.field), t.text, t.fits) for t in trouble_with(done, at)]:
                return wrong
        return self._bore_troubles(ctx) if self.work == "bore" else []

    def _bore_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        bar = ctx.turn_tool(self.end_tool)
        deep = given(self.z) - self.bottom(ctx)
        if bar is not None and deep > bar.stick_out:
            return [
                Trouble(
                    "end_tool",
                    tr(
                        "It sticks out {stick_out}; the hole is {deep} deep.",
                        stick_out=number(bar.stick_out, ctx),
                        deep=number(deep, ctx),
                    ),
                )
            ]
        return passes_trouble("diameter", len(self._levels(ctx)), "passes")

    def _name_troubles(self) -> list[Trouble]:
        if not _named(self):
            return []
        try:
            thread = thread_of(self.thread)
        except ThreadNameError as error:
            return [Trouble("thread", str(error))]
        if thread.only == "outside":
            return [Trouble("thread", tr("{name} is a thread outside.", name=thread.name))]
        if thread.left or thread.taper or thread.starts > 1 or thread.deep_by_standard:
            return [
                Trouble(
                    "thread", tr("{name} is not cut by a plain tap: drill it, and cut it as a thread inside.", name=thread.name)
                )
            ]
        return []

    def _tool_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        """A size for which the shop lacks a tool."""
        drill, end = ctx.drill(self.tool), ctx.tool(self.end_tool)
        if drill is None:
            right, least, most = self.wanted_drill(ctx)
            has = there_are(decimal(f"{d:g}") for d in sorted(t.diameter for t in self._drills(ctx)))
            between = number(right, ctx)
            if self.work != "plain":
                between = tr("{low} to {high}", low=number(least, ctx), high=number(most, ctx))
            return [Trouble("tool", tr("A drill of {between} is needed. The crib has {has}.", between=between, has=has))]
        there = 2 * ctx.bore(given(self.z) - ctx.mm(UNDER[1]), given(self.z) - ctx.mm(UNDER[0]))
        if there > drill.diameter - ctx.mm(NEAR):
            hole = tr("of Ø{there} ", there=number(there, ctx)) if math.isfinite(there) else ""
            return [Trouble("thread" if _named(self) else "diameter", tr("There is a hole {hole}already.", hole=hole))]
        if _spots(self) and ctx.drill(self.spot_tool) is None:
            return [Trouble("spot", tr("No spot drill among the job's tools lies along the axis."), "no")]
        if found := self._flat_troubles(ctx, drill):
            return found
        if _ends(self) and end is None:
            what = {
                "tap": tr("tap"),
                "ream": tr("reamer"),
                "bore": tr("boring bar that goes into {drill_d}", drill_d=number(given(self.drill_d), ctx)),
            }[self.work]
            fits = "bore" if self.work == "ream" and self._bars(ctx) else None
            return [
                Trouble("work" if fits else "end_tool", tr("There is no {what} for it among the job's tools.", what=what), fits)
            ]
        right, least, most = self.wanted_drill(ctx)
        if not least - ctx.mm(NEAR) <= drill.diameter <= most + ctx.mm(NEAR):
            text = tr(
                "Ø{diameter} leaves too much or too little: {least} to {most}.",
                diameter=number(drill.diameter, ctx),
                least=number(least, ctx),
                most=number(most, ctx),
            )
            return [Trouble("tool", text, self.choose_tool(ctx))]
        return []

    def _flat_troubles(self, ctx: TurnedContext, drill: Tool) -> list[Trouble]:
        """A floor that nothing flattens; a plain hole as far as its wall."""
        if not _flat(self):
            return []
        mill = ctx.drill(self.flat_tool)
        if mill is None or (self.work == "plain" and abs(mill.diameter - drill.diameter) > ctx.mm(NEAR)):
            size = number(drill.diameter, ctx)
            wanted = tr("of {size}", size=size) if self.work == "plain" else tr("up to {size}", size=size)
            return [
                Trouble(
                    "floor", tr("There is no end mill {wanted} that cuts over its middle, to flatten it.", wanted=wanted), "tip"
                )
            ]
        if self._drill_depth(ctx) <= 0.0:
            return [Trouble("depth", tr("Not as deep as the drill's tip is long."))]
        bar = ctx.turn_tool(self.end_tool) if self.work == "bore" else None
        if bar is None:
            return []
        # the side of the bar opposite its point stays over what is flat, wherever on the floor the point is
        least = -min(r for _, r in bar.body[0]) + ctx.mm(BAR_ROOM)
        if mill.diameter < least:
            text = tr(
                "The bar would touch the floor on its other side: an end mill of {least} at least is needed.",
                least=number(least, ctx),
            )
            return [Trouble("flat_tool", text)]
        return []

    def _drills(self, ctx: TurnedContext) -> list[Tool]:
        return [t for t in ctx.tools if isinstance(t, Tool) and t.kind == "drill" and t.stands == "axial"]

    def _bars(self, ctx: TurnedContext) -> list[TurnTool]:
        return [t for t in ctx.tools if isinstance(t, TurnTool) and t.kind == "boring" and t.min_bore <= self.diameter]

    # -- the path -----------------------------------------------------------------------------------------------------

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        """A thread, where the machine taps in step; else a plain hole of a drill that there is."""
        metric = at.unit == "mm"
        found: dict[str, Any] = {"thread": "M10" if metric else "1/2-13", "depth": 15.0 if metric else 0.6}
        if TAPPING not in at.cycles and at.drills:
            found |= {"work": "plain", "diameter": at.drills[len(at.drills) // 2]}
        return found

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        found: list[Stage] = []
        for _, done, at in self._done(ctx):
            found += done.plan(at)
        return [*found, *self._bore(ctx)]

    def bottom(self, ctx: TurnedContext) -> float:
        """Where the full diameter ends."""
        if _blind(self):
            return given(self.z) - self.depth
        bar = ctx.turn_tool(self.end_tool) if self.work == "bore" else None
        return -ctx.length - ctx.back - (bar.nose + ctx.mm(BORED_PAST) if bar else ctx.mm(THROUGH))

    def _flat_radius(self, ctx: TurnedContext) -> float:
        """Inward on its floor a bar comes to here: to what was drilled, or over the edge of what an end mill has flattened."""
        mill = ctx.drill(self.flat_tool) if _flat(self) else None
        return given(self.drill_d) / 2 if mill is None else max(mill.diameter / 2 - ctx.mm(OVER_THE_EDGE), 0.0)

    def _levels(self, ctx: TurnedContext) -> list[float]:
        """The radii of the boring passes."""
        begin, end, last = given(self.drill_d) / 2, self.diameter / 2, ctx.mm(BORE_LAST)
        rough = max(end - last - begin, 0.0)
        count = math.ceil(rough / ctx.mm(BORE_AP) - 1e-9)
        return [*(begin + rough * k / count for k in range(1, count + 1)), end]

    def _bore(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.end_tool) if self.work == "bore" else None
        if tool is None:
            return []
        path, feed = start(ctx), given(self.end_f)
        near, low = given(self.z) + ctx.clear, self.bottom(ctx)
        free = bore_way(tool, given(self.drill_d) / 2, ctx.mm(0.5))
        path.go(z=near).go(r=free)
        levels = self._levels(ctx)
        for k, r in enumerate(levels):
            path.go(r=r).cut(feed, z=low)
            if k == len(levels) - 1:  # the floor, or the ring that stays behind the part
                path.cut(feed, r=self._flat_radius(ctx))
            path.cut(feed, r=max(path.r - ctx.card.pull_off, free), z=low + ctx.card.pull_off)
            path.go(r=free).go(z=near)
        path.go(z=ctx.safe[1]).go(r=ctx.safe[0])
        return [self.stage("bore", tool, path, Spin(n=given(self.end_n)))]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        gone: list[Region] = []
        for _, done, at in self._done(ctx):
            gone += done.removes(at)
        tool = ctx.turn_tool(self.end_tool) if self.work == "bore" else None
        if tool is not None:
            hole = shapely.box(self.bottom(ctx), 0.0, ctx.front + 1.0, self.diameter / 2)
            if tool.nose > 0:
                wide = shapely.box(self.bottom(ctx), -2 * self.diameter, ctx.front + 4 * tool.nose + 1.0, self.diameter / 2)
                wide = wide.buffer(-tool.nose, quad_segs=QUARTER).buffer(tool.nose, quad_segs=QUARTER)
                hole = hole.intersection(wide)
            gone.append(hole)
        return gone

    def thread_region(self, ctx: TurnedContext) -> Region | None:
        if not _named(self) or ctx.drill(self.end_tool) is None:
            return None
        return fill(self.plain("end", ctx), ctx).thread_region(ctx)

    # -- what is shown ------------------------------------------------------------------------------------------------

    def limits(self, ctx: TurnedContext) -> dict[str, tuple[float, float]]:
        thread = self.thread_or_none() if _named(self) else None
        return pitch_limits(thread, ctx, inside=True) if thread else {}

    def threads(self, ctx: TurnedContext) -> list[ThreadLines]:
        thread = self.thread_or_none() if _named(self) else None
        if thread is None:
            return []
        top, r = given(self.z), given(self.drill_d) / 2
        end = top - self.depth if _blind(self) else -ctx.length
        return [ThreadLines(begin=top, end=end, crest=r, root=ctx.mm(thread.major) / 2, inside=True)]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        r, low, top = self.size(ctx) / 2, self.bottom(ctx), given(self.z)
        name = ("thread", "name") if _named(self) else ("diameter", "diameter")
        dims = [Dim(name[0], "half", name[1], (top, r), (low, r))]
        if _blind(self):
            dims.append(Dim("depth", "half", "length", (top, r), (low, r)))
        return TurnSketch(lines=(((top, r), (low, r), (low, 0.0)),), dims=tuple(dims))

    def summary(self, ctx: TurnedContext) -> str:
        thread = self.thread_or_none()
        name = (thread.name if thread else self.thread) if _named(self) else f"Ø{number(self.diameter, ctx)}"
        how = {"tap": "", "ream": tr(", reamed"), "bore": tr(", bored"), "plain": ""}[self.work]
        return f"{name}{how}, {tr('{depth} deep', depth=number(self.depth, ctx)) if _blind(self) else tr('through')}"

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        lines = [
            (TOOL, tr("Tip ends at Z {bottom}.", bottom=number(done.bottom(at), ctx)))
            for name, done, at in self._done(ctx)
            if name == "drill"
        ]
        thread, drill = self.thread_or_none(), ctx.drill(self.tool)
        if _named(self) and thread is not None and drill is not None:
            left = thread.percent(drill.diameter * scale(ctx.unit, "mm"))
            lines.append(
                (TOOL, tr("Ø{diameter} leaves {left:.0f} % of the thread.", diameter=number(drill.diameter, ctx), left=left))
            )
        if self.work == "bore":
            lines.append(
                (
                    END,
                    tr(
                        "{levels} passes from Ø{drill_d}.",
                        levels=len(self._levels(ctx)),
                        drill_d=number(given(self.drill_d), ctx),
                    ),
                )
            )
        return lines
