"""Work on the centre line with tools made to turn: spot, drill in one go or with pecks, flatten the floor, ream, tap. A long
drill may enter a pilot hole slowly, and turns fast only once that guides it.

Before reaming or tapping the spindle may stop, the coolant go off and the operator oil the tool; then it goes on. A tap's *lead*,
the turns at its end that cut no full thread, is a visible answer, and the hole is checked against it.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.language import as_inside, decimal, tr
from bastler.motion.moves import Coolant, Halt, Pause, Spindle, TapCycle, TurnPath, Turns
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Arrival, Dim, Given, Spin, Stage, TurnSketch, step
from bastler.steps.cut import SPOT_SHARE, TOOL, given, number, passes_trouble, powered_feed, there_are
from bastler.steps.hole.reaming import FEED as REAM_FEED
from bastler.steps.hole.reaming import SPEED as REAM_SPEED
from bastler.steps.hole.tapping import SPEED as TAP_SPEED
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import SPEED_SHARE, TurningStep, start
from bastler.tools import KIND_WORDS, Tool, tip_length
from bastler.units import Kind

WHAT, HOW = "Hole", "How"
WORKS = {"spot": "Spot", "drill": "Drill", "flat": "Flat floor", "ream": "Ream", "tap": "Tap"}
KINDS = {"spot": ("spot-drill",), "drill": ("drill",), "flat": ("end-mill",), "ream": ("reamer",), "tap": ("tap",)}
NEAR = 0.002
TAPPING = "G84"
THROUGH = 4.5
"""How far, in mm, the full diameter goes beyond the finished length when going through: past the blade that parts it off."""

BESIDE = 0.2, 1.0
"""So far around a hole, in mm, its face is looked for."""
GUIDED = 0.5
"""A hole guides a drill that is no more than that, in mm, smaller."""
BEFORE = 0.5
"""So far before the end of a pilot hole, in mm, a drill comes slowly."""
ENTERING, ENTERS_AT = 0.15, 400.0
"""Of its speed a long drill turns by the first while it enters, and comes by so many mm a minute: it cuts nothing there."""
_drills = is_("work", "drill")
_taps = is_("work", "tap")
_oiled = is_("oil", "yes")
_asks_oil = is_("work", "tap", "ream")


def _pecks(s: Answers) -> bool:
    return _drills(s) and s.method != "once"


def _guided(s: Answers) -> bool:
    return _drills(s) and s.pilot == "yes"


def _enter_n(s: Answers, ctx: TurnedContext) -> float | None:
    return None if s.n is None else float(round(max(ENTERING * s.n, ctx.card.speed[0])))


def _deep(s: Answers) -> bool:
    return bool(s.work in ("spot", "flat") or s.extent == "depth")


def _z(s: Answers, ctx: TurnedContext) -> float:
    """The face as it is now, where the hole is; of one that goes on in a hole, around that."""
    if _guided(s) or s.work == "flat":
        return ctx.front_at(s.diameter / 2 + ctx.mm(BESIDE[0]), s.diameter / 2 + ctx.mm(BESIDE[1]))
    return ctx.front_at(0.0, s.diameter / 2)


def _lead(s: Answers, ctx: TurnedContext) -> float:
    tap = ctx.drill(s.tool)
    return round(tap.lead * tap.pitch, 3) if tap else 0.0


def _peck(s: Answers, ctx: TurnedContext) -> float:
    return float(round(s.diameter * (1.0 if s.method == "peck" else 0.6), 2 if ctx.unit == "mm" else 3))


@step("Hole on the centre line", "Holes", "Spot, drill, ream or tap", planes=TURNED)
class CentreHole(TurningStep, frozen=True, kw_only=True, tag="centre-hole"):
    """Answers of a hole on the centre line."""

    groups: ClassVar[tuple[str, ...]] = (WHAT, HOW, TOOL)
    SURFACE = False

    work: Annotated[
        Literal["spot", "drill", "flat", "ream", "tap"],
        choose("Work", WORKS, WHAT),
    ] = "drill"
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, WHAT, above=0)] = 8.5
    z: Annotated[float | None, ask("Begins at Z", Kind.LENGTH, WHAT, propose=_z, helps="The face that is there.")] = None
    extent: Annotated[
        Literal["depth", "through"],
        choose("Goes", {"depth": "To a depth", "through": "Through"}, WHAT, when=isnt("work", "spot", "flat")),
    ] = "depth"
    depth: Annotated[
        float, ask("How deep", Kind.LENGTH, WHAT, above=0, when=_deep, helps="Full diameter or full thread, from the face.")
    ] = 20.0
    lead: Annotated[
        float | None,
        ask(
            "Tap's lead",
            Kind.LENGTH,
            WHAT,
            least=0,
            propose=_lead,
            when=_taps,
            helps="The tip goes this much deeper than the full thread.",
        ),
    ] = None
    method: Annotated[
        Literal["once", "chip-break", "peck"],
        choose("Drill", {"once": "In one go", "chip-break": "Chip break", "peck": "Full retract"}, HOW, when=_drills),
    ] = "peck"
    peck: Annotated[float | None, ask("Peck", Kind.LENGTH, HOW, above=0, propose=_peck, when=_pecks)] = None
    pilot: Annotated[
        Literal["no", "yes"],
        choose(
            "Enters a pilot hole", {"no": "No", "yes": "Yes, slowly"}, HOW, when=_drills,
            helps="A long drill wanders and whips without one.",
        ),
    ] = "no"  # fmt: skip
    enter_n: Annotated[
        float | None, ask("Turns until it is in", Kind.SPINDLE_SPEED, HOW, above=0, propose=_enter_n, when=_guided)
    ] = None
    dwell: Annotated[float, ask("Wait at the bottom", Kind.TIME, HOW, least=0, most=60)] = 0.0
    oil: Annotated[
        Literal["yes", "no"],
        choose(
            "Stop to oil it",
            {"yes": "Yes", "no": "No"},
            HOW,
            when=_asks_oil,
            helps="Spindle stops, coolant off, the operator goes on.",
        ),
    ] = "no"
    message: Annotated[str, pick("Message", "word", HOW, when=_oiled)] = "Oil the tool"

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        kinds = KINDS[self.work]
        fitting = [t for t in ctx.tools if isinstance(t, Tool) and t.kind in kinds and t.stands == "axial"]
        if self.work == "spot":
            return fitting[0].id if fitting else None
        return next((t.id for t in fitting if abs(t.diameter - self.diameter) <= ctx.mm(NEAR)), None)

    def slower(self) -> float:
        """Taps and reamers chatter and break at a drill's speed."""
        share = {"tap": TAP_SPEED, "ream": REAM_SPEED}.get(self.work)
        return self.SLOWER if share is None else share / SPEED_SHARE

    def at_radius(self, ctx: TurnedContext) -> float:
        tool = ctx.drill(self.tool)
        return (tool.diameter if tool is not None and self.work == "spot" else self.diameter) / 2

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.drill(self.tool)
        if tool is None:
            return None
        if _taps(self):
            return tool.pitch
        whole = ctx.material.drill_f[tool.material]
        light = SPOT_SHARE * whole
        f = tool.diameter * {"ream": REAM_FEED, "spot": light, "flat": light}.get(self.work, whole)
        return powered_feed(tool, ctx, f, self.n) if self.n and _drills(self) else f

    def unfit(self, ctx: TurnedContext) -> list[Trouble]:
        """A tool that was picked and is another kind of tool, or does not lie along the centre line."""
        tool, word = ctx.tool(self.tool), tr(KIND_WORDS[KINDS[self.work][0]])
        if tool is None:
            return []
        if not isinstance(tool, Tool) or tool.kind not in KINDS[self.work]:
            return [Trouble("tool", tr("This is no {word}.", word=word), self.choose_tool(ctx))]
        if tool.stands == "radial":
            return [Trouble("tool", tr("It stands along X: it does not come to the centre line."), self.choose_tool(ctx))]
        return []

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        tool = ctx.drill(self.tool)
        if tool is None:
            has = sorted({t.diameter for t in ctx.tools if isinstance(t, Tool) and t.kind in KINDS[self.work]})
            nearest = min(has, key=lambda d: abs(d - self.diameter), default=None)
            sizes = there_are(decimal(f"{d:g}") for d in has)
            word = tr(KIND_WORDS[KINDS[self.work][0]])
            return [Trouble("diameter", tr("No {word} of this size. The crib has {sizes}.", word=word, sizes=sizes), nearest)]
        found = super().troubles(ctx)
        if self.work != "spot" and abs(tool.diameter - self.diameter) > ctx.mm(NEAR):
            found.append(
                Trouble(
                    "tool", tr("This is not a tool of {diameter}.", diameter=number(self.diameter, ctx)), self.choose_tool(ctx)
                )
            )
        if _taps(self) and not self.in_cycle(ctx) and not tool.floating:
            fits = next((t.id for t in ctx.tools if isinstance(t, Tool) and t.floating and self._same_tap(t, tool, ctx)), None)
            text = tr(
                "{name} cannot turn its spindle back in step with the slide: the tap needs a floating holder.", name=ctx.card.name
            )
            found.append(Trouble("tool", text, fits))
        if _guided(self):
            found += self._pilot_troubles(ctx)
        if _pecks(self):
            found += passes_trouble("peck", (given(self.z) - self.bottom(ctx)) / given(self.peck), "pecks")
        return found

    def guided_to(self, ctx: TurnedContext) -> float:
        """Where the hole that is there ends and guides the drill no longer; where this one begins, if there is none."""
        top, r = given(self.z), self.diameter / 2 - ctx.mm(GUIDED) / 2
        low = float(ctx.stock.bounds[0])
        solid = ctx.stock.intersection(shapely.box(low - 1.0, 0.0, top, max(r, ctx.mm(0.01))))
        return top if solid.is_empty else min(float(solid.bounds[2]), top)

    def _pilot_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if given(self.z) - self.guided_to(ctx) < self.diameter:
            text = tr(
                "There is no hole as deep as Ø{diameter} to guide it: drill one before.", diameter=number(self.diameter, ctx)
            )
            return [Trouble("pilot", text, "no")]
        most = min(ctx.most_speed, given(self.n))
        if self.enter_n is not None and not ctx.card.speed[0] <= self.enter_n <= most:
            fits = min(max(self.enter_n, ctx.card.speed[0]), most)
            return [Trouble("enter_n", tr("Between {speed:g} and {most:g} 1/min.", speed=ctx.card.speed[0], most=most), fits)]
        return []

    def tip(self, ctx: TurnedContext) -> float:
        """Height of the point."""
        tool = ctx.drill(self.tool)
        return tip_length(tool.diameter, tool.tip_angle, tool.tip_diameter) if tool else 0.0

    def bottom(self, ctx: TurnedContext) -> float:
        """Where the tip ends."""
        tool = ctx.drill(self.tool)
        if self.work == "spot" and tool:
            return given(self.z) - self.depth
        if not _deep(self):
            full = -ctx.length - ctx.back - ctx.mm(THROUGH)
        else:
            full = given(self.z) - self.depth
        return full - (given(self.lead) if _taps(self) else self.tip(ctx))

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        """A spot first, then a drill."""
        if not at.spotted:
            return {"work": "spot", "depth": 2.0 if at.unit == "mm" else 0.08}
        middle = at.drills[len(at.drills) // 2] if at.drills else 8.5 if at.unit == "mm" else 0.3281
        return {"work": "drill", "diameter": middle, "depth": 20.0 if at.unit == "mm" else 0.8}

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.drill(self.tool)
        if tool is None:
            return []
        path = start(ctx)
        near = given(self.z) + ctx.clear
        path.go(r=0.0).go(z=near)
        if _asks_oil(self) and _oiled(self):
            path.do(Spindle("stop"), Coolant(False), Halt(self.message), Coolant(True), Spindle("forward"))
        if _taps(self):
            self._tap(path, tool, ctx, near)
        else:
            self._drill(path, ctx, near)
        path.go(z=ctx.safe[1]).go(r=ctx.safe[0])
        return [self.stage(self.work, tool, path, Spin(n=given(self.enter_n if _guided(self) else self.n)))]

    def in_cycle(self, ctx: TurnedContext) -> bool:
        """Can the machine turn the spindle back while the slide keeps in step with it?"""
        return ctx.card.encoder and ctx.card.rigid_tapping and TAPPING in ctx.card.dialect.cycles

    @staticmethod
    def _same_tap(a: Tool, b: Tool, ctx: TurnedContext) -> bool:
        return a.kind == "tap" and abs(a.diameter - b.diameter) <= ctx.mm(NEAR) and abs(a.pitch - b.pitch) <= ctx.mm(NEAR)

    def _tap(self, path: TurnPath, tool: Tool, ctx: TurnedContext, near: float) -> None:
        """Within the control's cycle, or in a floating holder at the feed that matches: while a spindle runs out and back, the
        slide stands, and the holder has to give way."""
        if self.in_cycle(ctx) and not tool.floating:
            path.do(TapCycle(near=near, z=self.bottom(ctx), pitch=tool.pitch))
            path.z = near
            return
        path.cut(tool.pitch, z=self.bottom(ctx)).do(Spindle("back")).cut(tool.pitch, z=near)
        path.do(Spindle("forward"))

    def _drill(self, path: TurnPath, ctx: TurnedContext, near: float) -> None:
        feed, at, low, out = given(self.f), given(self.z), self.bottom(ctx), near
        if _guided(self):
            at = out = self.guided_to(ctx) + ctx.mm(BEFORE) + self.tip(ctx)
            path.cut(ctx.mm(ENTERS_AT) / given(self.enter_n), z=out).do(Turns(given(self.n)))
        if _pecks(self):
            while at - given(self.peck) > low + 1e-9:
                at -= given(self.peck)
                path.cut(feed, z=at)
                if self.method == "peck":
                    path.go(z=out).go(z=min(at + ctx.card.peck_clearance, out))
                else:
                    path.go(z=at + ctx.card.chip_break)
        path.cut(feed, z=low)
        if self.dwell > 0:
            path.do(Pause(self.dwell))
        if self.work == "ream":
            path.cut(feed * 2, z=near)
        if _guided(self):
            path.go(z=out).do(Turns(given(self.enter_n)))
        path.go(z=near)

    def removes(self, ctx: TurnedContext) -> list[Region]:
        tool = ctx.drill(self.tool)
        if tool is None or _taps(self):
            return []
        low, front = self.bottom(ctx), max(ctx.front, given(self.z)) + 1.0
        tip, r = self.tip(ctx), tool.diameter / 2
        if self.work == "spot":
            deep = given(self.z) - low
            r = min(r, deep / self.tip(ctx) * r) if tip else r
            tip = min(tip, deep)
        return [shapely.Polygon([(low, 0.0), (low + tip, r), (front, r), (front, 0.0)])]

    def thread_region(self, ctx: TurnedContext) -> Region | None:
        tool = ctx.drill(self.tool)
        if tool is None or not _taps(self):
            return None
        return shapely.box(self.bottom(ctx), tool.diameter / 2 - tool.pitch, ctx.front + 1.0, tool.diameter / 2 + ctx.mm(0.05))

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        r, low, top = self.diameter / 2, self.bottom(ctx), given(self.z)
        dims = [Dim("diameter", "half", "diameter", (top, r), (low + self.tip(ctx), r))]
        if _deep(self):
            end = low if self.work == "spot" else top - self.depth
            dims.append(Dim("depth", "half", "length", (top, r), (end, r)))
        return TurnSketch(lines=(((top, r), (low + self.tip(ctx), r), (low, 0.0)),), dims=tuple(dims))

    def summary(self, ctx: TurnedContext) -> str:
        deep = tr("{depth} deep", depth=number(self.depth, ctx)) if _deep(self) else tr("through")
        tool = ctx.drill(self.tool)
        name = tool.size if _taps(self) and tool else f"Ø{number(self.diameter, ctx)}"
        return f"{as_inside(tr(WORKS[self.work]))} {name}, {deep}"

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        lines = [(WHAT, tr("Tip ends at Z {bottom}.", bottom=number(self.bottom(ctx), ctx)))]
        return [*lines, (TOOL, f"n {given(self.n):,.0f}".replace(",", " "))]
