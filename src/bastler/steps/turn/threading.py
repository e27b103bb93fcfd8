"""Threads outside and inside, straight and tapered, by their names, with one or several starts."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Annotated, Any, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.cutting import (
    Thread,
    ThreadLimits,
    ThreadNameError,
    between_balls,
    limits_of,
    over_wires,
    thread_of,
    thread_or_none,
    wire_for,
)
from bastler.language import sayable, tr
from bastler.motion.moves import Go, Sync, ThreadCycle
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Arrival, Dim, Given, Spin, Stage, ThreadLines, TurnSketch, replaced, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import ThreadGauge, TurningStep, bore_way, home_inside, home_outside, start
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
from bastler.tools import TurnTool
from bastler.units import Kind, Unit

WHERE, THREAD, PASSES = "Where", "Thread", "Passes"
FLANK_SHIFT = 0.95
"""Share of the flank's slope that alternating infeed follows, so that the other flank is not rubbed."""

FROM_THE_CHUCK = sayable("Cut from the chuck to the front: the run-in lies behind the thread, and a relief has to be there.")
ROUND_SHARE = 0.05
"""So far the corners of a tip may be off the radius that a round thread has there, as a share of it."""
BLUNT_MM = 0.01
"""Narrower than this, in mm, a groove is as good as pointed."""
HAIR = 1e-6
SHOULDER, ENDS = 0.6, 2.5
"""A new outline's first shoulder stands at that share of the finished length; so many pitches of it run-out and tip take."""
CLEARS = 0.1
"""So far over the crest, in mm, a thread that is pulled out ends."""
SMALLEST: dict[Unit, float] = {"mm": 6.0, "inch": 0.25}
"""Of a thread that is proposed on a bar."""

_inside = is_("side", "inside")


def _leans(s: Answers) -> bool:
    """Do its two flanks differ?"""
    thread = s.thread_or_none()
    return bool(thread and thread.steep)


def _first(s: Answers, ctx: TurnedContext) -> float:
    thread = s.thread_or_none()
    return first_bite(s.depth(ctx), thread.pitch if thread else None, ctx)


def _least(s: Answers, ctx: TurnedContext) -> float:
    thread = s.thread_or_none()
    return least_bite(thread.pitch if thread else 0.0, ctx)


def _starts(s: Answers, ctx: TurnedContext) -> int:
    thread = s.thread_or_none()
    return thread.starts if thread else 1


def _off(s: Answers, ctx: TurnedContext) -> float:
    """To the middle of what its class allows."""
    thread = s.thread_or_none()
    found = limits_of(thread, inside=_inside(s)) if thread else None
    if thread and thread.play and _inside(s):
        return round(ctx.mm(thread.play), 4 if ctx.unit == "mm" else 5)
    return round(ctx.mm(found.middle - thread.pitch_diameter), 4 if ctx.unit == "mm" else 5) if thread and found else 0.0


def pitch_limits(thread: Thread, ctx: TurnedContext, *, inside: bool) -> dict[str, tuple[float, float]]:
    """Of the pitch diameter by the class of a thread, in the job's unit; nothing where the standard says none."""
    found = limits_of(thread, inside=inside)
    return {"thread": (ctx.mm(found.pitch[0]), ctx.mm(found.pitch[1]))} if found else {}


def _run_in(s: Answers, ctx: TurnedContext) -> float:
    thread = s.thread_or_none()
    if thread is None:
        return ctx.mm(3.0)
    pitch = ctx.mm(thread.pitch)
    return run_in(pitch * (s.starts or 1), pitch, s.n or 0.0, ctx)


def _run_out(s: Answers, ctx: TurnedContext) -> float:
    thread = s.thread_or_none()
    return round(ctx.mm(thread.pitch), 2) if thread else 0.0


@step("Thread", "Grooves and threads", "Outside or inside, straight or tapered, by its name", planes=TURNED)
class Threading(TurningStep, frozen=True, kw_only=True, tag="thread"):
    """Answers of a threading step."""

    groups: ClassVar[tuple[str, ...]] = (THREAD, WHERE, PASSES, TOOL)
    SURFACE = False
    SLOWER = 0.55

    side: Annotated[Literal["outside", "inside"], choose("Thread", {"outside": "Outside", "inside": "Inside"}, THREAD)] = (
        "outside"
    )
    thread: Annotated[
        str,
        pick(
            "Name", "word", THREAD,
            helps="As the print has it: M12, M24 × 1.5-6g, M20 LH, Tr 36 × 12 (P6), 1/2-13 UNC, G 3/4, R 1/2, 1/2 NPT, 1-5 ACME.",
        ),
    ] = "M20"  # fmt: skip
    bears: Annotated[
        Literal["chuck", "front"],
        choose(
            "Steep flank looks to", {"chuck": "The chuck", "front": "The front"}, THREAD, when=_leans,
            helps="The flank that bears: of a screw that pulls it looks away from the free end.",
        ),
    ] = "chuck"  # fmt: skip
    starts: Annotated[int | None, ask("Starts", Kind.COUNT, THREAD, least=1, most=12, propose=_starts)] = None
    off: Annotated[
        float | None,
        ask(
            "Off its basic size", Kind.LENGTH, THREAD, least=-5, most=5, propose=_off,
            helps="On the pitch diameter: the middle of its class, of 6g and 6H or 2A and 2B where the name says none.",
        ),
    ] = None  # fmt: skip
    z: Annotated[float, ask("Begins at Z", Kind.LENGTH, WHERE)] = 0.0
    length: Annotated[float, ask("How long", Kind.LENGTH, WHERE, above=0, helps="Of the full thread.")] = 20.0
    run_in: Annotated[
        float | None,
        ask(
            "Run-in",
            Kind.LENGTH,
            WHERE,
            above=0,
            propose=_run_in,
            helps="In front of the thread, while the slide comes to speed.",
        ),
    ] = None
    run_out: Annotated[
        float | None,
        ask("Run-out", Kind.LENGTH, WHERE, least=0, propose=_run_out, helps="Behind the full thread; a relief has to be there."),
    ] = None
    exit: Annotated[
        Literal["relief", "pulled"],
        choose(
            "Ends", {"relief": "In a relief", "pulled": "Pulled out"}, WHERE,
            helps="Pulled out in step with the spindle over the run-out, shallower and shallower: on a shaft without a relief.",
        ),
    ] = "relief"  # fmt: skip
    infeed: Annotated[
        Literal["flank", "straight", "alternating"],
        choose("Infeed", {"flank": "Along a flank", "straight": "Straight", "alternating": "Both flanks in turn"}, PASSES),
    ] = "flank"
    first: Annotated[float | None, ask("First bite", Kind.LENGTH, PASSES, above=0, propose=_first, helps="On the radius.")] = None
    least: Annotated[float | None, ask("Smallest bite", Kind.LENGTH, PASSES, above=0, propose=_least)] = None
    last: Annotated[float | None, ask("Last bite", Kind.LENGTH, PASSES, least=0, propose=last_bite)] = None
    springs: Annotated[int, ask("Spring passes", Kind.COUNT, PASSES, least=0, most=9, helps="Again at full depth, no bite.")] = 1

    picked_up: Annotated[
        float,
        ask(
            "Begins farther off by", Kind.LENGTH, PASSES, least=0, late=True,
            helps="To meet the groove of a thread that is there: how far along Z it lies from where this one would begin.",
        ),
    ] = 0.0  # fmt: skip

    def thread_or_none(self) -> Thread | None:
        return thread_or_none(self.thread)

    def spec(self) -> Thread:
        return thread_of(self.thread)

    def farther(self, by: float) -> Threading:
        return replaced(self, z=self.z - by)

    def lacks(self) -> str:
        return tr("threading tool for the {side}", side=tr(self.side))

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        thread = self.thread_or_none()
        if thread is None:
            return None
        fits = [
            t
            for t in ctx.tools
            if isinstance(t, TurnTool) and t.kind == "threading" and t.side == self.side and self._has_flanks(t)
        ]
        sound = [t for t in fits if not self.tip_troubles(ctx, t, None)]
        best = max(sound, key=lambda t: t.flat, default=None)
        return best.id if best else fits[0].id if fits else None

    def walls(self) -> tuple[float, float]:
        """The angles from square of a groove's left and its right wall, in degrees: its right wall is a flank that looks to the
        chuck."""
        steep, other = self.spec().flanks
        return (other, steep) if self.bears == "chuck" else (steep, other)

    def _has_flanks(self, tool: TurnTool) -> bool:
        return all(abs(has - wanted) < 0.05 for has, wanted in zip(tool.flanks, self.walls(), strict=True))

    def at_radius(self, ctx: TurnedContext) -> float:
        thread = self.thread_or_none()
        return ctx.mm(thread.major) / 2 if thread else ctx.over

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        thread = self.thread_or_none()
        return ctx.mm(thread.pitch) * (self.starts or 1) if thread else None

    def most_turns(self, ctx: TurnedContext) -> float:
        """So fast that the slide keeps half of its speed in hand."""
        thread = self.thread_or_none()
        return turns_in_hand(self.lead(ctx), ctx) if thread else math.inf

    # radii, in the job's unit

    def crest(self, ctx: TurnedContext) -> float:
        """Where the tool begins to cut: the bolt's major, the nut's minor radius; of a taper thread at its front."""
        spec = self.spec()
        return ctx.mm(spec.bore / 2 if _inside(self) else spec.major / 2 - self._narrower(spec))

    def root(self, ctx: TurnedContext) -> float:
        """Where the tip ends: so deep that the groove is half a pitch wide at the pitch diameter, which depends on the tip's own
        flat; of a taper thread at its front."""
        return self.pitch_radius(ctx) + (1.0 if _inside(self) else -1.0) * self._beyond(ctx)

    def pitch_radius(self, ctx: TurnedContext) -> float:
        """The radius at which ridge and groove are equally wide, as it is aimed at; of a taper thread at its front."""
        spec = self.spec()
        return ctx.mm(spec.pitch_diameter / 2 - (0.0 if _inside(self) else self._narrower(spec))) + (self.off or 0.0) / 2

    def _beyond(self, ctx: TurnedContext) -> float:
        """How far the tip goes beyond the pitch line, in the job's unit."""
        spec, tool = self.spec(), ctx.turn_tool(self.tool)
        flat = ctx.to_mm(tool.flat) if tool else 0.0
        deep = spec.tip_depth(flat, inside=_inside(self))
        if spec.play and _inside(self):  # the groove is wider, and no deeper
            deep -= ctx.to_mm(self.off or 0.0) / 2
        return ctx.mm(max(deep, 0.05 * spec.pitch))

    @staticmethod
    def _narrower(spec: Thread) -> float:
        """By how much, in mm on the radius, an outside taper thread is smaller at its front than at its gauge plane."""
        return spec.gauge * spec.taper / 2

    def sides(self, ctx: TurnedContext, tool: TurnTool) -> list[float]:
        """Along Z, how far beside its middle each pass is made: a trapezoidal groove is wider than the tip."""
        spec = self.spec()
        if not spec.deep_by_standard:
            return [0.0]
        wide = ctx.mm(spec.pitch / 2 - ctx.to_mm(self._beyond(ctx)) * spec.opens) - tool.flat
        return side_by_side(wide, tool.flat, ctx)

    def depth(self, ctx: TurnedContext) -> float:
        thread = self.thread_or_none()
        return abs(self.crest(ctx) - self.root(ctx)) if thread else ctx.mm(1.0)

    def tip_troubles(self, ctx: TurnedContext, tool: TurnTool, fits: str | None) -> list[Trouble]:
        """A tip too blunt to make room for the other part's crests, or so sharp that the groove would have to be far too deep."""
        spec, inside, flat = self.spec(), _inside(self), ctx.to_mm(tool.flat)
        fits = fits if fits != tool.id else None
        if (radius := spec.root_radius(inside=inside)) and abs(ctx.to_mm(tool.corner_radius) - radius) > ROUND_SHARE * radius:
            text = tr(
                "Its corners are R{corner_radius}; {name} is R{mm} there.",
                corner_radius=number(tool.corner_radius, ctx),
                name=spec.name,
                mm=number(ctx.mm(radius), ctx),
            )
            return [Trouble("tool", text, fits)]
        most = spec.pitch / 2 - spec.least_tip_depth(inside=inside) * spec.opens
        if spec.deep_by_standard:
            most = spec.pitch / 2 - spec.tip_depth(0.0, inside=inside) * spec.opens
            if flat <= 0.1 * most and most > BLUNT_MM:
                return [
                    Trouble(
                        "tool",
                        tr("Its tip is a point; {name} has a flat of {mm}.", name=spec.name, mm=number(ctx.mm(most), ctx)),
                        fits,
                    )
                ]
        if flat > most * (1 + ROUND_SHARE if radius else 1) + 1e-6:
            text = tr(
                "Its tip is {flat} wide; {name} has room for {mm}.",
                flat=number(tool.flat, ctx),
                name=spec.name,
                mm=number(ctx.mm(most), ctx),
            )
            return [Trouble("tool", text, fits)]
        return []

    def lead(self, ctx: TurnedContext) -> float:
        return ctx.mm(self.spec().pitch) * (self.starts or 1)

    def outward(self, ctx: TurnedContext) -> bool:
        """Is it cut from the chuck to the front? So a left-hand thread comes of a spindle that turns forward, and a right-hand
        one of a tool that cuts with the spindle going back."""
        tool = ctx.turn_tool(self.tool)
        return self.spec().left != (tool is not None and tool.turns == "back")

    def way(self, ctx: TurnedContext) -> tuple[float, float]:
        """Where passes begin, a run-in before the thread, and where they end, a run-out behind it."""
        front, back = self.z, self.z - self.length
        far = given(self.run_in) + self.picked_up
        if self.outward(ctx):
            return back - far, front + given(self.run_out)
        return front + far, back - given(self.run_out)

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        try:
            spec = thread_of(self.thread)
        except ThreadNameError as error:
            return [Trouble("thread", str(error))]
        if lacking := no_encoder("thread", ctx):
            return lacking
        if spec.only and spec.only != self.side:
            return [Trouble("side", tr("{name} is a thread {only}.", name=spec.name, only=spec.only), spec.only)]
        if self.starts != spec.starts and spec.starts > 1:
            return [Trouble("starts", tr("{name} has {starts} starts.", name=spec.name, starts=spec.starts), spec.starts)]
        found = super().troubles(ctx)
        tool = ctx.turn_tool(self.tool)
        if tool is None or found:
            return found or [Trouble("tool", tr("A threading tool is needed."), self.choose_tool(ctx))]
        fits = self.choose_tool(ctx)
        if tool.kind != "threading" or tool.side != self.side:
            found.append(Trouble("tool", tr("This tool does not cut this thread."), fits))
        elif other := other_profile(tool, spec.angle, spec.name, fits):
            found += other
        elif not self._has_flanks(tool):
            (has, _), (left, _) = tool.flanks, self.walls()
            found.append(
                Trouble(
                    "tool",
                    tr(
                        "Its left flank stands {has:g}° off square; this thread's has to stand {left:g}° off.", has=has, left=left
                    ),
                    fits,
                )
            )
        else:
            found += self.tip_troubles(ctx, tool, fits)
        if not found and not tool.inside:
            found += too_shallow(tool, self.depth(ctx), spec.name, fits, ctx)
        found += too_fast(given(self.n), self.lead(ctx), ctx)
        behind = given(self.run_in) if self.outward(ctx) else given(self.run_out)
        most = round(self.z - float(ctx.raw.bounds[0]) - behind, 3)
        if self.length > most + 1e-9:
            found.append(Trouble("length", tr("Runs out of the back of the stock."), most if most > 0 else None))
        if self.picked_up >= self.lead(ctx):
            found.append(
                Trouble("picked_up", tr("A turn leads by {lead}: less than that.", lead=number(self.lead(ctx), ctx)), 0.0)
            )
        if self.exit == "pulled":
            found += too_steep(given(self.run_out), self.depth(ctx))
        return found + large_bites(self, self.depth(ctx), ctx)

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        parts = 1 if at.unit == "mm" else 16
        sizes = [d for d in at.turned if abs(d * parts - round(d * parts)) < HAIR and d >= SMALLEST[at.unit]]
        size = min(sizes, default=at.surface)  # a thread is of a size that has a name
        pitch = (1.5 if size >= 10.0 else 1.0) if at.unit == "mm" else 1 / 12 if size >= 0.5 else 1 / 20
        room = SHOULDER * at.finished - ENDS * pitch
        if at.unit == "mm":
            long = max(min(12.0, math.floor(room)), 2.0)
            return {"thread": f"M{max(math.floor(size + HAIR), 6)}x{pitch:g}", "length": long}
        whole, sixteenths = divmod(max(math.floor(size * 16 + HAIR), 4), 16)
        part = str(Fraction(sixteenths, 16)) if sixteenths else ""
        return {
            "thread": f"{f'{whole} ' if whole and part else whole or ''}{part}-{round(1 / pitch)}",
            "length": max(min(0.5, math.floor(room * 20) / 20), 0.1),
        }

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path, spec, inside = start(ctx), self.spec(), _inside(self)
        sign = -1.0 if inside else 1.0
        clear_r = bore_way(tool, self.crest(ctx), ctx.clear) if inside else self.crest(ctx) + ctx.clear
        begin, end = self.way(ctx)
        if inside:
            path.go(z=begin).go(r=clear_r)
        else:
            path.go(r=max(ctx.over, clear_r)).go(z=begin).go(r=clear_r)
        pitch = math.copysign(ctx.mm(spec.pitch), begin - end)
        sides = self.sides(ctx, tool)
        infeed = "straight" if len(sides) > 1 else self.infeed
        for k in range(self.starts or 1):
            for aside in sides:
                self._one_start(path, ctx, (begin + k * pitch + aside, end + aside), clear_r, sign, infeed)
        if inside:
            home_inside(path, ctx, clear_r)
        else:
            home_outside(path, ctx)
        return [self.stage("thread", tool, path, Spin(n=given(self.n)))]

    def _one_start(
        self, path: Any, ctx: TurnedContext, way: tuple[float, float], clear_r: float, sign: float, infeed: str
    ) -> None:
        spec, (begin, end) = self.spec(), way
        crest, depth = self.crest(ctx), self.depth(ctx)
        left, right = (math.tan(math.radians(wall)) for wall in self.walls())
        passes: list[Go | Sync] = []
        along = math.copysign(1.0, end - begin)
        for j, bite in enumerate(passes_of(self, depth)):
            if infeed == "flank":  # the flank behind the tip is the one it goes along
                z0 = begin + along * bite * (right if along < 0 else left)
            else:
                side = (along if j % 2 else -along) if infeed == "alternating" else 0.0
                z0 = begin + FLANK_SHIFT * side * (depth - bite) * (right if side > 0 else left)
            full = end - along * given(self.run_out) if self.exit == "pulled" else end
            r0, r1 = (crest - sign * bite + sign * (self.z - z) * spec.taper / 2 for z in (z0, full))
            out = [Sync(end, r1 + sign * (depth + ctx.mm(CLEARS)), self.lead(ctx))] if self.exit == "pulled" else []
            passes += [
                Go(z0, clear_r),
                Go(z0, r0),
                Sync(full, r1, self.lead(ctx)),
                *out,
                Go(end, clear_r),
                Go(begin, clear_r),
            ]
        if infeed == "flank" and not spec.taper and not spec.steep and self.exit == "relief":
            path.go(r=clear_r, z=begin)
            cycle = ThreadCycle(
                start_r=clear_r,
                start_z=begin,
                z=end,
                minor=self.root(ctx),
                depth=depth,
                first=given(self.first),
                least=given(self.least),
                last=given(self.last),
                springs=self.springs,
                angle=spec.angle,
                lead=self.lead(ctx),
                passes=tuple(passes),
            )
            path.do(cycle)
        else:
            path.do(*passes)
        path.r, path.z = clear_r, begin

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def limits(self, ctx: TurnedContext) -> dict[str, tuple[float, float]]:
        """Of the pitch diameter, by the class."""
        return pitch_limits(self.spec(), ctx, inside=_inside(self))

    def thread_region(self, ctx: TurnedContext) -> Region | None:
        """Where the thread may be: between root and crest over its length with run-in and run-out."""
        lo, hi = sorted((self.root(ctx), self.crest(ctx)))
        room = ctx.mm(0.02)
        slack = self.spec().taper / 2 * (self.length + given(self.run_in) + given(self.run_out))
        left, right = sorted(self.way(ctx))
        if not self.outward(ctx):
            left -= self.lead(ctx)
        return shapely.box(left, max(lo - room - slack, 0.0), right, hi + 10 * ctx.clear)

    def thread_gauge(self, ctx: TurnedContext) -> ThreadGauge | None:
        spec, sign = self.spec(), (-1.0 if _inside(self) else 1.0)
        return ThreadGauge(
            name=spec.name,
            begin=self.z,
            end=self.z - self.length,
            radius=self.pitch_radius(ctx),
            crest=self.crest(ctx),
            inside=_inside(self),
            slope=sign * spec.taper / 2,
            pitch=ctx.mm(spec.pitch),
            lead=self.lead(ctx),
            left=spec.left,
        )

    def threads(self, ctx: TurnedContext) -> list[ThreadLines]:
        own = ThreadLines(
            begin=self.z, end=self.z - self.length, crest=self.crest(ctx), root=self.root(ctx), inside=_inside(self)
        )
        return [own]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        if self.thread_or_none() is None:
            return TurnSketch()
        root, crest = self.root(ctx), self.crest(ctx)
        line = ((self.z, root), (self.z - self.length, root))
        dims = (
            Dim("thread", "half", "name", (self.z, crest), (self.z - self.length, crest)),
            Dim("length", "half", "length", (self.z, crest), (self.z - self.length, crest)),
        )
        return TurnSketch(lines=(line,), dims=dims)

    def summary(self, ctx: TurnedContext) -> str:
        thread = self.thread_or_none()
        many = tr(", {starts} starts", starts=self.starts) if (self.starts or 1) > 1 and thread and thread.starts == 1 else ""
        return (
            tr(
                "{name} {side}, {length} long{many}",
                name=thread.name,
                side=tr(self.side),
                length=number(self.length, ctx),
                many=many,
            )
            if thread
            else self.thread
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        thread = self.thread_or_none()
        if thread is None:
            return []
        count = len(passes_of(self, self.depth(ctx)))
        pre = tr("bore to") if _inside(self) else tr("turn to")
        crest, root = number(2 * self.crest(ctx), ctx), number(2 * self.root(ctx), ctx)
        return [
            (
                THREAD,
                tr(
                    "Pitch {mm}, {pre} Ø{crest}, root Ø{root}.",
                    mm=number(ctx.mm(thread.pitch), ctx),
                    pre=pre,
                    crest=crest,
                    root=root,
                ),
            ),
            *((THREAD, text) for text in self._measured(ctx, thread)),
            *([(WHERE, tr(FROM_THE_CHUCK))] if self.outward(ctx) else []),
            (PASSES, tr("{count} passes, {depth} deep on the radius.", count=count, depth=number(self.depth(ctx), ctx))),
        ]

    def _measured(self, ctx: TurnedContext, thread: Thread) -> list[str]:
        """The limits of its class, what is aimed at, and what is measured over wires or between balls then."""
        found: ThreadLimits | None = limits_of(thread, inside=_inside(self))

        def said(*lengths: float) -> str:
            return tr(" to ").join(number(ctx.mm(v), ctx) for v in lengths)

        texts = []
        if found is not None:
            crest = tr("Ø of the bore") if _inside(self) else tr("major Ø")
            texts.append(
                tr(
                    "{fit}: pitch Ø {said}, {crest} {said_2}.",
                    fit=found.fit,
                    said=said(*found.pitch),
                    crest=crest,
                    said_2=said(*found.crest),
                )
            )
        for says, size, limits in self.also_measured(ctx):
            within = (
                tr(", within {limits} to {limits_2}", limits=number(limits[0], ctx), limits_2=number(limits[1], ctx))
                if limits
                else ""
            )
            texts.append(f"{says}: {number(size, ctx)}{within}.")
        return texts

    def also_measured(self, ctx: TurnedContext) -> list[tuple[str, float, tuple[float, float] | None]]:
        """Over wires, or between balls; of a taper thread nothing, which a gauge tells."""
        thread = self.spec()
        if thread.taper:
            return []
        found = limits_of(thread, inside=_inside(self))
        wire, over = wire_for(thread), between_balls if _inside(self) else over_wires
        aims = thread.pitch_diameter + ctx.to_mm(given(self.off))
        limits = (ctx.mm(over(thread, wire, found.pitch[0])), ctx.mm(over(thread, wire, found.pitch[1]))) if found else None
        what = tr("Between balls of") if _inside(self) else tr("Over wires of")
        return [(f"{what} Ø{number(ctx.mm(wire), ctx)}", ctx.mm(over(thread, wire, aims)), limits)]
