"""Threads milled along a helix, inside and outside: turn by turn by one tooth, or by a tool with a tooth for every turn."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.cutting import Thread, ThreadNameError, thread_of, thread_or_none
from bastler.language import decimal, sayable, tr
from bastler.motion.even import equal_parts
from bastler.motion.helices import TIP_SHARE, Helix, Tooth, inside_pass, orbit, outside_pass
from bastler.shapes import Removal, Revolved, disc
from bastler.steps.base import Arrival, Dim, Given, Sketch, Spin, Stage, ThreadLines, step
from bastler.steps.context import FlatContext
from bastler.steps.cut import TOOL, given, number, speed_line, there_are
from bastler.steps.hole.existing import drilled, open_height
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, highest_under
from bastler.tools import Tool
from bastler.units import Kind

SIDES = {"inside": "Inside", "outside": "Outside"}
HANDS = {"right": "Right", "left": "Left"}
WAYS = {"up": "Upward", "down": "Downward"}
ROOMY = 0.8
"""The widest tool for a hole, as a share of it: a wider one rubs the flanks and cannot lead in."""
SAME_PITCH = 0.003
FULL_FORM = 0.03
COARSER = 2.0
"""A single tooth cuts pitches up to so many times its own."""
DRILLED_NEAR = 0.02
WIDE_HOLE = 0.25
"""How much wider than the core of the thread a hole may be, in pitches."""

_inside = is_("side", "inside")
_blind = is_("extent", "blind")


def _way(s: Answers, ctx: FlatContext) -> str:
    """Climb milling: counter-clockwise in a hole, clockwise round a boss, which goes up or down with the hand of the thread."""
    return "up" if (s.hand == "right") == _inside(s) else "down"


def _passes(s: Answers, ctx: FlatContext) -> int:
    """One for fine pitches, more where a tooth would bend."""
    thread = s.thread_or_none()
    return equal_parts(thread.pitch, 1.5, 1e-9) if thread else 1


@step("Mill a thread", "Holes", "Inside or outside, any size of a pitch, right or left hand", rank=9)
class ThreadMilling(PatternedStep, frozen=True, kw_only=True, tag="thread-milling"):
    """Answers of thread milling."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, TOOL)
    CHOSEN: ClassVar[str] = sayable("The widest of this pitch that has room in the hole")

    side: Annotated[Literal["inside", "outside"], choose("Thread", SIDES, HOLE)] = "inside"
    thread: Annotated[str, pick("Name", "word", HOLE, helps="M12, M42 × 1.5, 1/2-13 UNC, G 3/4, R 1/2.")] = "M12"
    hand: Annotated[Literal["right", "left"], choose("Hand", HANDS, HOLE)] = "right"
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    depth: Annotated[float, ask("Full thread to", Kind.LENGTH, HOLE, above=0, when=_blind)] = 12.0
    top: Annotated[
        float | None,
        ask("Starts at Z", Kind.LENGTH, HOLE, propose=highest_under, helps="The surface that is there before the step."),
    ] = None
    way: Annotated[Literal["up", "down"] | None, choose("Along the thread", WAYS, TOOL, propose=_way)] = None
    passes: Annotated[
        int | None,
        ask("Passes outward", Kind.COUNT, TOOL, least=1, most=20, propose=_passes, helps="Each takes an equal part of the chip."),
    ] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"thread": "M10" if at.unit == "mm" else "1/2-13", "depth": at.deep(0.3)}

    # -- the thread and the tool ----------------------------------------------------------------------------------

    def thread_or_none(self) -> Thread | None:
        """The thread that was named, None when there is no such."""
        return thread_or_none(self.thread)

    def sizes(self, ctx: FlatContext) -> tuple[float, float, float, float]:
        """Of a thread that there is: major, pitch diameter and core of the nut in the job's unit, and the pitch."""
        thread = thread_of(self.thread)
        return ctx.mm(thread.nut_major), ctx.mm(thread.pitch_diameter), ctx.mm(thread.bore), ctx.mm(thread.pitch)

    def wide(self, ctx: FlatContext) -> float:
        thread = self.thread_or_none()
        if thread is None:
            return 0.0
        return ctx.mm(thread.nut_major) if _inside(self) else 0.9 * ctx.mm(thread.major)

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The widest that cuts this pitch and has room in the hole; several teeth before one."""
        fits = [t for t in ctx.tools if t.kind == "thread-mill" and not self._unfit(t, ctx)]
        best = max(fits, key=lambda t: (t.rows > 1, t.diameter), default=None)
        return best.id if best else None

    def _unfit(self, tool: Tool, ctx: FlatContext) -> str:
        """Why a tool cannot cut the thread; empty when it can."""
        thread = self.thread_or_none()
        if thread is None:
            return ""
        major, _, bore, pitch = self.sizes(ctx)
        near = SAME_PITCH * pitch
        if tool.kind != "thread-mill":
            return tr("This tool does not mill threads.")
        if abs(tool.profile_angle - thread.angle) > 0.1:
            return tr(
                "Its teeth have {profile_angle:g}°, the thread has {angle:g}°.",
                profile_angle=tool.profile_angle,
                angle=thread.angle,
            )
        if tool.rows > 1 and abs(tool.pitch - pitch) > near:
            return tr(
                "Its teeth stand {pitch} apart, the pitch is {pitch_2}.",
                pitch=number(tool.pitch, ctx),
                pitch_2=number(pitch, ctx),
            )
        if not tool.pitch - near <= pitch <= COARSER * tool.pitch + near:
            return tr(
                "One tooth of it cuts pitches from {pitch} to {coarser}.",
                pitch=number(tool.pitch, ctx),
                coarser=number(COARSER * tool.pitch, ctx),
            )
        if thread.taper and tool.rows > 1:
            return tr("A tapered thread is milled by one tooth, turn by turn.")
        if _inside(self) and tool.diameter > ROOMY * bore:
            return tr("Too wide for a hole of {bore}: {roomy} at most.", bore=number(bore, ctx), roomy=number(ROOMY * bore, ctx))
        core = (tool.diameter - tool.tip_diameter) / 2
        if thread.taper and core > (major - bore) / 2 + FULL_FORM * pitch:
            return tr("A tapered thread needs a tool of full form, whose core cuts the crests.")
        if (major - bore) / 2 > core + near:
            return tr("Its teeth are not deep enough for this thread.")
        return ""

    def tooth(self, tool: Tool) -> Tooth:
        """The tool's tooth."""
        return Tooth(tool.diameter / 2, TIP_SHARE.get(tool.profile_angle, 1 / 8) * tool.pitch, tool.profile_angle)

    def away(self, tool: Tool, ctx: FlatContext) -> float:
        """How far from the thread's axis the tool runs at the top of the thread."""
        _, middle, _, pitch = self.sizes(ctx)
        return orbit(middle / 2, self.tooth(tool), pitch, pitch, inside=_inside(self))

    @property
    def ccw(self) -> bool:
        """Round the thread counter-clockwise, seen from above?"""
        return (self.hand == "right") == (self.way == "up")

    # -- heights ----------------------------------------------------------------------------------------------------

    def lowest(self, ctx: FlatContext) -> float:
        """Where the middle of the lowest groove is."""
        pitch = self.sizes(ctx)[3]
        return given(self.top) - self.depth if _blind(self) else ctx.stock.lo[2] - pitch / 2

    def bottom(self, tool: Tool, ctx: FlatContext) -> float:
        """Where the tool's tip comes to; it leads in and out a quarter of a turn farther in a hole."""
        pitch = self.sizes(ctx)[3]
        return self.lowest(ctx) - tool.pitch / 2 - (pitch / 4 if _inside(self) else 0.0)

    def _helices(self, at: tuple[float, float], tool: Tool, ctx: FlatContext) -> list[Helix]:
        """The runs along the thread at one place, pass by pass."""
        major, _, bore, pitch = self.sizes(ctx)
        low, high, full = self.lowest(ctx), given(self.top) + pitch / 2, self.away(tool, ctx)
        taper = thread_of(self.thread).taper / 2
        ends = [(low, high)]
        if tool.rows > 1:
            block = tool.rows * pitch
            ends = [(low + k * block, low + k * block + pitch) for k in range(equal_parts(high - low, block))]
        found, deep, side = [], (major - bore) / 2, 1.0 if _inside(self) else -1.0
        count = given(self.passes)
        for k in range(1, int(count) + 1):
            away = full - side * deep * (1 - math.sqrt(k / count))
            for a, b in ends if self.way == "up" else [(b, a) for a, b in reversed(ends)]:
                begin, end = a - tool.pitch / 2, b - tool.pitch / 2
                start = away + (a - given(self.top)) * taper
                found.append(
                    Helix(centre=at, away=start, begin=begin, end=end, lead=pitch, ccw=self.ccw, widening=taper)
                )  # fmt: skip
        return found

    # -- what a step says ---------------------------------------------------------------------------------------------

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx)
        try:
            thread = thread_of(self.thread)
        except ThreadNameError as error:
            return found or [Trouble("thread", str(error))]
        if thread.family == "nptf":
            return [
                Trouble(
                    "thread", tr("A mill for NPT leaves other crests and roots than {name} has: it is turned.", name=thread.name)
                )
            ]
        if thread.deep_by_standard or thread.starts > 1:
            return [Trouble("thread", tr("{name} is turned, not milled.", name=thread.name))]
        if thread.only and thread.only != self.side:
            return [Trouble("side", tr("{name} is a thread {only}.", name=thread.name, only=tr(thread.only)), thread.only)]
        if thread.left and self.hand == "right":
            return [Trouble("hand", tr("{name} is left-handed.", name=thread.name), "left")]
        if thread.taper and not _inside(self):
            return [Trouble("side", tr("A tapered thread outside stands on a tapered boss, which is turned."), "inside")]
        tool = ctx.tool(self.tool)
        if not found and tool is None:
            has = there_are(decimal(f"{t.diameter:g} × {t.pitch:g}") for t in ctx.tools if t.kind == "thread-mill")
            return [Trouble("tool", tr("No thread mill suits {name}. There are {has}.", name=thread.name, has=has))]
        found = found or super().troubles(ctx)
        if found or tool is None:
            return found
        if why := self._unfit(tool, ctx):
            return [Trouble("tool", why, self.choose_tool(ctx))]
        return self._hole_troubles(tool, ctx) if _inside(self) else self._boss_troubles(tool, ctx)

    def _hole_troubles(self, tool: Tool, ctx: FlatContext) -> list[Trouble]:
        """The hole has to be there, of the core's size, and deep enough."""
        _, _, bore, pitch = self.sizes(ctx)
        taper = thread_of(self.thread).taper
        bore -= taper * self.depth if _blind(self) else taper * (given(self.top) - ctx.stock.lo[2])
        bottom, near = self.bottom(tool, ctx), ctx.mm(DRILLED_NEAR)
        floor = max(bottom, ctx.stock.lo[2])
        low = open_height(ctx, self.holes(ctx), bore - near)
        if low >= given(self.top) - 1e-9:
            under = min(drilled(ctx, x, y, floor) for x, y in self.holes(ctx))
            there = tr("The holes are {under}.", under=number(under, ctx)) if under > 0 else tr("There are no holes yet.")
            return [
                Trouble(
                    "thread",
                    tr("{there} {name} needs {bore}.", there=there, name=thread_of(self.thread).name, bore=number(bore, ctx)),
                )
            ]
        if low > bottom + 1e-9:
            room = self.depth - (low - bottom)
            return [
                Trouble(
                    "depth",
                    tr("The holes are too shallow by {low}.", low=number(low - bottom, ctx)),
                    round(room, 4) if room > 0 else None,
                )
            ]
        if open_height(ctx, self.holes(ctx), bore + WIDE_HOLE * pitch + near) <= floor + 1e-9:
            return [
                Trouble(
                    "thread", tr("The holes are wider than {bore}: too little of the thread is left.", bore=number(bore, ctx))
                )
            ]
        return []

    def _boss_troubles(self, tool: Tool, ctx: FlatContext) -> list[Trouble]:
        """The boss has to be there, and free all round."""
        major, bottom = self.sizes(ctx)[0], self.bottom(tool, ctx)
        for x, y in self.holes(ctx):
            around = disc(x, y, major / 2 + 2 * tool.diameter).difference(disc(x, y, major / 2 + ctx.mm(DRILLED_NEAR)))
            if ctx.surface(around.intersection(ctx.stock.plan)) > bottom + 1e-9:
                text = tr(
                    "Round the boss it is not free down to Z {bottom}, or the boss is not Ø{major}.",
                    bottom=number(bottom, ctx),
                    major=number(major, ctx),
                )
                return [Trouble("depth", text)]
        return []

    def feed(self, tool: Tool, ctx: FlatContext) -> float:
        """The feed of the tool's axis, when its edge on the wall runs at the feed rate that was asked for."""
        major, away = self.sizes(ctx)[0], self.away(tool, ctx)
        share = away / (major / 2) if _inside(self) else away / (away - tool.diameter / 2)
        return round(given(self.vf) * share, 1 if ctx.unit == "mm" else 2)

    def plan(self, ctx: FlatContext) -> list[Stage]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        start, path = self.begun(ctx)
        r, over = self.heights(ctx, given(self.top))
        feed = self.feed(tool, ctx)
        for k, at in enumerate(self.holes(ctx)):
            above = max(ctx.go_across, r) if k == 0 else over
            if _inside(self):
                path.go(z=above).go(*at)
            for helix in self._helices(at, tool, ctx):
                if _inside(self):
                    path.go(*at)
                    inside_pass(path, helix, feed)
                else:
                    outside_pass(path, helix, feed, tool.diameter / 2 + ctx.clear, above)
            path.go(z=over)
        path.go(z=ctx.safe)
        return [Stage(name="thread", tool=tool, spin=Spin(n=given(self.n)), start=start, moves=tuple(path.moves))]

    def removes(self, ctx: FlatContext) -> list[Removal]:
        """A tapered thread opens its hole to a cone; else the hole stays what it is, as on a drawing. The core of the tool
        reaches half a pitch under its tooth."""
        thread = thread_of(self.thread)
        if not thread.taper:
            return []
        top, low, r, slope = given(self.top), self.lowest(ctx), ctx.mm(thread.bore) / 2, thread.taper / 2
        under = ctx.mm(thread.pitch) / 2
        cone = ((0.0, low - under), (r - (top - low) * slope, low - under), (r + under * slope, top))
        return [Revolved(x, y, cone) for x, y in self.holes(ctx)]

    def threads(self, ctx: FlatContext) -> list[ThreadLines]:
        major, _, bore, _ = self.sizes(ctx)
        top = given(self.top)
        end = top - self.depth if _blind(self) else ctx.stock.lo[2]
        crest, root = (bore / 2, major / 2) if _inside(self) else (major / 2, bore / 2)
        return [ThreadLines(begin=top, end=end, crest=crest, root=root, inside=_inside(self), at=at) for at in self.holes(ctx)]

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, r, top = self.middle(ctx)[0] - ctx.stock.lo[0], self.wide(ctx) / 2, given(self.top)
        dims = [Dim("depth", "section", "depth", (at + r, top), (at + r, top - self.depth))] if _blind(self) else []
        return self.hole_sketch(ctx, tuple(dims))

    def summary(self, ctx: FlatContext) -> str:
        thread = self.thread_or_none()
        deep = tr("{depth} deep", depth=number(self.depth, ctx)) if _blind(self) else tr("through")
        left = tr(" left hand") if self.hand == "left" else ""
        return f"{self.many(ctx)} × {thread.name if thread else self.thread}{left} {tr(self.side)}, {deep}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        tool = ctx.tool(self.tool)
        if tool is None:
            return []
        major, _, bore, _ = self.sizes(ctx)
        root = self.away(tool, ctx) + tool.diameter / 2 if _inside(self) else self.away(tool, ctx) - tool.diameter / 2
        how = tr("climb") if self.ccw == _inside(self) else tr("conventional")
        lines = (
            [(HOLE, tr("Hole Ø{bore} before.", bore=number(bore, ctx)))]
            if _inside(self)
            else [(HOLE, tr("Boss Ø{major} before.", major=number(major, ctx)))]
        )
        return [
            *lines,
            (HOLE, tr("Root comes out at Ø{root}.", root=number(round(2 * root, 3 if ctx.unit == "mm" else 4), ctx))),
            (TOOL, speed_line(tool, ctx, given(self.vc), given(self.n))),
            (TOOL, tr("The tool's axis goes at {feed:g}, {how}.", feed=self.feed(tool, ctx), how=how)),
        ]
