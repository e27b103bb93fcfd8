"""A thread on the end face: a spiral groove of even pitch, as a scroll plate has it, by its pitch, angle and depth.

A pass is tied to the spindle along X, from the outside in or from the inside out: with the spindle turning forward the first way
winds inward clockwise as it is seen from the front, the second one counter-clockwise.
"""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

import shapely
from shapely.geometry import LineString

from bastler.ask import Answers, Trouble, ask, choose
from bastler.language import tr
from bastler.motion.moves import TurnPath
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Arrival, Dim, Given, Spin, Stage, TurnSketch, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import ThreadGauge, TurningStep, insert_trouble, start
from bastler.steps.turn.thread_passes import (
    first_bite,
    large_bites,
    last_bite,
    least_bite,
    no_encoder,
    other_profile,
    passes_of,
    run_in,
    side_by_side,
    too_fast,
    too_shallow,
    too_steep,
    turns_in_hand,
)
from bastler.units import Kind

THREAD, WHERE, PASSES = "Thread", "Where", "Passes"
OVER = 0.1
"""So far over the face, in mm, a pass that is pulled out ends."""


def _face(s: Answers, ctx: TurnedContext) -> float:
    return float(round(ctx.front_at(s.inner_d / 2, s.outer_d / 2), 6))


def _first(s: Answers, ctx: TurnedContext) -> float:
    return first_bite(s.depth, ctx.to_mm(s.pitch), ctx)


def _least(s: Answers, ctx: TurnedContext) -> float:
    return least_bite(ctx.to_mm(s.pitch), ctx)


def _run_in(s: Answers, ctx: TurnedContext) -> float:
    return run_in(s.pitch, s.pitch, s.n or 0.0, ctx)


def _run_out(s: Answers, ctx: TurnedContext) -> float:
    return float(round(max(s.pitch, s.depth), 3))


@step("Thread on the face", "Grooves and threads", "A spiral of even pitch, as a scroll plate has it", planes=TURNED)
class FaceThread(TurningStep, frozen=True, kw_only=True, tag="face-thread"):
    """Answers of a step that cuts a thread on the end face."""

    groups: ClassVar[tuple[str, ...]] = (THREAD, WHERE, PASSES, TOOL)
    SURFACE = False
    SLOWER = 0.55

    pitch: Annotated[float, ask("Pitch", Kind.LENGTH, THREAD, above=0, helps="From groove to groove, on the radius.")] = 4.0
    angle: Annotated[float, ask("Angle of the profile", Kind.ANGLE, THREAD, least=10, most=90)] = 60.0
    depth: Annotated[
        float, ask("How deep", Kind.LENGTH, THREAD, above=0, helps="Half-way down groove and ridge are equally wide.")
    ] = 1.5
    winds: Annotated[
        Literal["clockwise", "counter"],
        choose(
            "Winds inward", {"clockwise": "Clockwise", "counter": "Counter-clockwise"}, THREAD, helps="Seen from the front."
        ),
    ] = "clockwise"  # fmt: skip
    outer_d: Annotated[float, ask("From Ø", Kind.LENGTH, WHERE, above=0, helps="Outermost of the full thread.")] = 50.0
    inner_d: Annotated[float, ask("In to Ø", Kind.LENGTH, WHERE, above=0)] = 30.0
    z: Annotated[float | None, ask("Face at Z", Kind.LENGTH, WHERE, propose=_face)] = None
    run_in: Annotated[
        float | None,
        ask(
            "Run-in",
            Kind.LENGTH,
            WHERE,
            above=0,
            propose=_run_in,
            helps="Through air, while the slide comes to speed.",
        ),
    ] = None
    run_out: Annotated[
        float | None, ask("Run-out", Kind.LENGTH, WHERE, above=0, propose=_run_out, helps="Over which it is pulled out.")
    ] = None
    first: Annotated[float | None, ask("First bite", Kind.LENGTH, PASSES, above=0, propose=_first)] = None
    least: Annotated[float | None, ask("Smallest bite", Kind.LENGTH, PASSES, above=0, propose=_least)] = None
    last: Annotated[float | None, ask("Last bite", Kind.LENGTH, PASSES, least=0, propose=last_bite)] = None
    springs: Annotated[int, ask("Spring passes", Kind.COUNT, PASSES, least=0, most=9, helps="Again at full depth, no bite.")] = 1

    # -- the thread -------------------------------------------------------------------------------------------------

    @property
    def slope(self) -> float:
        """How much wider a groove is for every length nearer to the face, on each side."""
        return math.tan(math.radians(self.angle / 2))

    @property
    def floor(self) -> float:
        """How wide a groove is on its floor; below 0 where so deep a thread does not fit into its pitch."""
        return self.pitch / 2 - self.depth * self.slope

    def inward(self, ctx: TurnedContext) -> bool:
        """Do passes go from the outside in?"""
        tool = ctx.turn_tool(self.tool)
        return (self.winds == "clockwise") == (tool is None or tool.turns == "forward")

    def way(self, ctx: TurnedContext) -> tuple[float, float, float]:
        """The radii where passes begin, where the full thread ends, and where they are pulled out."""
        outer, inner, run_in, out = self.outer_d / 2, self.inner_d / 2, given(self.run_in), given(self.run_out)
        return (outer + run_in, inner, inner - out) if self.inward(ctx) else (inner - run_in, outer, outer + out)

    # -- proposals --------------------------------------------------------------------------------------------------

    def lacks(self) -> str:
        return tr("threading tool for the end face")

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        known = [t for t in ctx.turning_tools if t.kind == "threading" and t.side == "face"]
        fits = [t for t in known if abs(t.profile - self.angle) < 0.1 and t.flat <= self.floor + ctx.mm(1e-4)]
        fits = [t for t in fits if t.tip_reach >= self.depth] or fits
        best = max(fits, key=lambda t: t.flat, default=None) or next(iter(known), None)
        return best.id if best else None

    def at_radius(self, ctx: TurnedContext) -> float:
        return self.outer_d / 2

    def most_turns(self, ctx: TurnedContext) -> float:
        """So fast that the slide keeps half of its speed in hand."""
        return turns_in_hand(self.pitch, ctx)

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        return self.pitch

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        outer = at.fine(0.8 * at.surface)
        small = at.surface < 30 * at.small
        return {"outer_d": outer, "inner_d": at.fine(0.45 * at.surface), "pitch": (1 if small else 4) * at.small,
                "depth": at.fine((0.4 if small else 1.5) * at.small)}  # fmt: skip

    # -- what is wrong ----------------------------------------------------------------------------------------------

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        return insert_trouble(ctx.tool(self.tool), self.choose_tool(ctx), kinds=("threading",))

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if lacking := no_encoder("pitch", ctx):
            return lacking
        if self.inner_d >= self.outer_d:
            return [Trouble("inner_d", tr("Has to be less than Ø{outer_d}.", outer_d=number(self.outer_d, ctx)))]
        if self.floor < -1e-9:
            most = math.floor(self.pitch / 2 / self.slope * 1000) / 1000
            return [Trouble("depth", tr("So deep a thread of {angle:g}° does not fit into its pitch.", angle=self.angle), most)]
        found, tool = super().troubles(ctx), ctx.turn_tool(self.tool)
        if found or tool is None:
            return found
        fits = self.choose_tool(ctx)
        if tool.side != "face":
            return [Trouble("tool", tr("This tool does not cut threads on the face."), fits)]
        if other := other_profile(tool, self.angle, tr("the thread"), fits):
            return other
        if tool.flat > self.floor + ctx.mm(1e-4):
            text = tr(
                "Its tip is {flat} wide; the thread has room for {floor}.",
                flat=number(tool.flat, ctx),
                floor=number(self.floor, ctx),
            )
            return [Trouble("tool", text, fits)]
        return too_shallow(tool, self.depth, tr("the thread"), fits, ctx) or self._way_troubles(ctx)

    def _way_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if fast := too_fast(given(self.n), self.pitch, ctx):
            return fast
        if min(self.way(ctx)) < 0:
            name = "run_out" if self.inward(ctx) else "run_in"
            return [Trouble(name, tr("It goes over the centre line."))]
        return too_steep(given(self.run_out), self.depth) or large_bites(self, self.depth, ctx)[:1]

    # -- the path ---------------------------------------------------------------------------------------------------

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path, (begin, full, out) = start(ctx), self.way(ctx)
        over = max(given(self.z), ctx.front_at(min(begin, out), max(begin, out))) + ctx.clear
        path.go(z=max(ctx.safe[1], over)).go(r=begin).go(z=over)
        for aside in side_by_side(self.floor - tool.flat, tool.flat, ctx):
            for bite in passes_of(self, self.depth):
                self._pass(path, ctx, (begin + aside, full + aside, out + aside), bite, over)
        path.go(z=ctx.safe[1]).go(r=ctx.safe[0])
        return [self.stage("thread", tool, path, Spin(n=given(self.n)))]

    def _pass(self, path: TurnPath, ctx: TurnedContext, way: tuple[float, float, float], bite: float, over: float) -> None:
        begin, full, out = way
        face = given(self.z)
        path.go(r=begin).go(z=face - bite).sync(self.pitch, r=full).sync(self.pitch, r=out, z=face + ctx.mm(OVER)).go(z=over)

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def thread_region(self, ctx: TurnedContext) -> Region | None:
        """Where the thread may be: from its floor to over the face, with run-in and run-out."""
        tool, low = ctx.turn_tool(self.tool), given(self.z) - self.depth
        begin, _, out = self.way(ctx)
        wide = self.pitch + (tool.flat if tool else 0.0)
        inner, outer = max(min(begin, out) - wide, 0.0), max(begin, out) + wide
        return shapely.box(low - ctx.mm(0.02), inner, given(self.z) + 10 * ctx.clear, outer)

    def thread_gauge(self, ctx: TurnedContext) -> ThreadGauge | None:
        level = given(self.z) - self.depth / 2
        there = ctx.stock.intersection(LineString([(level, 0.0), (level, 2 * ctx.over)]))
        inner, outer = (there.bounds[1], there.bounds[3]) if not there.is_empty else (0.0, self.outer_d / 2)
        return ThreadGauge(
            name=tr("the thread on the face"),
            begin=min(self.outer_d / 2, float(outer)),
            end=max(self.inner_d / 2, float(inner)),
            radius=level,
            crest=given(self.z),
            inside=False,
            slope=0.0,
            pitch=self.pitch,
            lead=self.pitch,
            left=self.winds == "counter",
            across=True,
        )

    # -- what is shown ----------------------------------------------------------------------------------------------

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        face, outer, inner = given(self.z), self.outer_d / 2, self.inner_d / 2
        low = face - self.depth
        dims = (
            Dim("outer_d", "half", "diameter", (face, outer), (low, outer)),
            Dim("inner_d", "half", "diameter", (face, inner), (low, inner)),
            Dim("depth", "half", "length", (low, outer), (face, outer)),
        )
        return TurnSketch(lines=(((low, outer), (low, inner)),), dims=dims)

    def summary(self, ctx: TurnedContext) -> str:
        return tr(
            "pitch {pitch}, Ø{outer_d} in to Ø{inner_d}",
            pitch=number(self.pitch, ctx),
            outer_d=number(self.outer_d, ctx),
            inner_d=number(self.inner_d, ctx),
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        if self.first is None or self.least is None or self.last is None:
            return []
        count = len(passes_of(self, self.depth))
        way = tr("From the outside in") if self.inward(ctx) else tr("From the inside out")
        return [
            (THREAD, tr("Its grooves are {floor} wide on the floor.", floor=number(self.floor, ctx))),
            (PASSES, tr("{way}, {count} passes, {depth} deep.", way=way, count=count, depth=number(self.depth, ctx))),
        ]
