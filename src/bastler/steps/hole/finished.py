"""One step for a finished hole: a thread, a fit, a hole for a screw. It plans spot, drill, counterbore, chamfer, ream and tap
with depths that fit each other, and picks their tools. Every *stage* is one of the plain hole steps, with this step's answers."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, Any, ClassVar, Literal

from bastler.ask import Trouble, ask, choose, is_, pick
from bastler.cutting import (
    Fit,
    Grade,
    NoSuchScrewError,
    Thread,
    clearance_hole,
    counterbore,
    countersink,
    largest,
    thread_of,
    thread_or_none,
)
from bastler.language import decimal, tr
from bastler.shapes import Removal
from bastler.steps.base import Arrival, Between, Dim, Given, Sketch, Stage, ThreadLines, fill, replaced, step, trouble_with
from bastler.steps.context import FlatContext
from bastler.steps.cut import given, number
from bastler.steps.hole import finished_answers as by
from bastler.steps.hole.counterbore import Counterbore
from bastler.steps.hole.countersink import Countersink
from bastler.steps.hole.drilling import NEAR as DRILL_NEAR
from bastler.steps.hole.drilling import Drilling, spotter_trouble
from bastler.steps.hole.patterned import HOLE, WHERE, PatternedStep, clearance_over, highest_under, nut_threads
from bastler.steps.hole.reaming import Reaming
from bastler.steps.hole.tapping import CYCLE, Tapping
from bastler.tools import Tool
from bastler.units import Kind

EDGE, SPOT, DRILL, BORE, SINK, END = "Edge", "Spot", "Drill", "Counterbore", "Chamfer", "Tap or ream"
WAYS = "From hole to hole"
YES_NO = {"yes": "Yes", "no": "No"}
WORKS = {"tap": "Tapped", "ream": "Reamed", "screw": "For a screw", "plain": "Drilled"}
HEADS = {"none": "No head", "socket": "Socket head", "countersunk": "Countersunk"}
EDGES = {"spot": "By the spot drill", "own": "By a tool after it", "none": "Stays sharp"}
FITS = {"fine": "Fine", "medium": "Medium", "coarse": "Coarse"}
BREAK = 1.05
"""The chamfer of a thread is as wide as this share of the thread, so that the first turn does not rise (DIN 76-1)."""
EDGE_MORE_MM = 1.0
"""How much wider the chamfer of other holes is: an edge of 0.5."""
THREAD_LEFT = (60.0, 85.0)
"""Percentages of thread between which a drill will do: under it a thread tears, over it a tap breaks."""
TO_REAM_MM = ((10.0, 0.2), (20.0, 0.3), (math.inf, 0.4))
"""Up to this diameter a hole is drilled smaller by that much, to be reamed."""
REAM_ROOM = (0.05, 0.5)

KINDS: Mapping[str, type[PatternedStep]] = {
    "spot": Countersink,
    "drill": Drilling,
    "counterbore": Counterbore,
    "chamfer": Countersink,
    "ream": Reaming,
    "tap": Tapping,
}
ANSWERS: Mapping[str, Mapping[str, str]] = {
    "spot": {"tool": "spot_tool", "n": "spot_n", "vf": "spot_vf", "diameter": "spot_diameter"},
    "drill": {
        "tool": "tool", "n": "n", "vf": "vf", "diameter": "drill_diameter", "depth": "drill_depth", "method": "method",
        "peck": "peck",
    },
    "counterbore": {"tool": "bore_tool", "n": "bore_n", "vf": "bore_vf", "diameter": "bore_diameter", "depth": "bore_depth"},
    "chamfer": {"tool": "sink_tool", "n": "sink_n", "vf": "sink_vf", "diameter": "edge_diameter"},
    "ream": {"tool": "end_tool", "n": "end_n", "vf": "end_vf", "diameter": "diameter", "depth": "depth"},
    "tap": {"tool": "end_tool", "n": "end_n", "vf": "end_vf", "depth": "depth", "lead": "lead"},
}  # fmt: skip
"""For every stage: the answers of its plain step, and which answers of the recipe they are."""
GROUPS = {"spot": SPOT, "drill": DRILL, "counterbore": BORE, "chamfer": SINK, "ream": END, "tap": END}


@step("Finished hole", "Holes", "Thread, fit or screw hole: spot, drill, chamfer, ream or tap in one step", rank=4)
class FinishedHole(PatternedStep, frozen=True, kw_only=True, tag="finished-hole"):
    """Answers of a hole recipe. The main tool is the drill."""

    groups: ClassVar[tuple[str, ...]] = (WHERE, HOLE, EDGE, SPOT, DRILL, BORE, SINK, END, WAYS)

    vc: float | None = None
    fz: float | None = None
    clearance: Annotated[
        float | None,
        ask(
            "Start feed above", Kind.LENGTH, WAYS, above=0, late=True, propose=clearance_over,
            helps="Where the rapid down ends.",
        ),
    ] = None  # fmt: skip
    back_to: Annotated[
        Literal["over", "clearance"],
        choose("Between holes", {"over": "Over the stock", "clearance": "Stay low"}, WAYS, late=True),
    ] = "over"

    work: Annotated[Literal["tap", "ream", "screw", "plain"], choose("The hole is", WORKS, HOLE)] = "tap"
    thread: Annotated[
        str, pick("Thread", "word", HOLE, when=by.named, helps="M8, M8 × 1, 1/4-20 UNC, #10-24, G 1/4. Of a screw: the screw's.")
    ] = "M8"
    fit: Annotated[Fit, choose("Clearance", FITS, HOLE, when=by.screw, helps="The three series of ISO 273.")] = "medium"
    head: Annotated[Literal["none", "socket", "countersunk"], choose("Head", HEADS, HOLE, when=by.screw)] = "socket"
    diameter: Annotated[float, ask("Diameter", Kind.LENGTH, HOLE, above=0, when=by.measured)] = 10.0
    tolerance: Annotated[
        Grade,
        choose(
            "Tolerance", {g: g for g in ("H6", "H7", "H8", "H9", "H11")}, HOLE, when=is_("work", "ream"), helps="After ISO 286."
        ),
    ] = "H7"
    extent: Annotated[Literal["blind", "through"], choose("Goes", {"blind": "To a depth", "through": "Through"}, HOLE)] = "blind"
    depth: Annotated[
        float,
        ask(
            "How deep",
            Kind.LENGTH,
            HOLE,
            above=0,
            when=by.blind,
            helps="Full thread, full fit or full diameter, from the surface.",
        ),
    ] = 12.0
    top: Annotated[
        float | None,
        ask(
            "Starts at Z", Kind.LENGTH, HOLE, late=True, propose=highest_under, helps="The surface that is there before the step."
        ),
    ] = None
    edge: Annotated[
        Literal["spot", "own", "none"] | None,
        choose("Edge broken", EDGES, EDGE, propose=by.edge, when=by.has_edge, helps="Or the countersink of a head."),
    ] = None
    edge_diameter: Annotated[
        float | None,
        ask("Wide at the surface", Kind.LENGTH, EDGE, above=0, propose=by.edge_diameter, when=by.edged, helps="90° all round."),
    ] = None

    spot: Annotated[Literal["yes", "no"], choose("Spot first", YES_NO, SPOT)] = "yes"
    spot_tool: Annotated[str | None, pick("Tool", "tool", SPOT, propose=by.spot_tool, when=by.does("spot"))] = None
    spot_diameter: Annotated[
        float | None,
        ask("Wide at the surface", Kind.LENGTH, SPOT, above=0, propose=by.spot_diameter, when=by.does("spot")),
    ] = None
    spot_n: Annotated[float | None, by.speed(SPOT, "spot")] = None
    spot_vf: Annotated[float | None, by.feed(SPOT, "spot")] = None

    drill: Annotated[Literal["yes", "no"], choose("Drill", YES_NO, DRILL, helps="No, where the hole is there already.")] = "yes"
    percent: Annotated[
        float,
        ask(
            "Thread left", Kind.PERCENT, DRILL, least=50, most=90, when=is_("work", "tap"),
            helps="How much of the whole thread the drill leaves; 77 % is the plain rule diameter less pitch.",
        ),
    ] = 77.0  # fmt: skip
    drill_diameter: Annotated[
        float | None,
        ask(
            "Diameter",
            Kind.LENGTH,
            DRILL,
            above=0,
            propose=by.drill_diameter,
            when=by.does("drill"),
            helps="Of the drill in the crib.",
        ),
    ] = None
    tool: Annotated[str | None, pick("Tool", "tool", DRILL, propose=by.drill_tool, when=by.does("drill"))] = None
    method: Annotated[
        Literal["once", "chip-break", "peck"],
        choose("How", {"once": "In one go", "chip-break": "Chip break", "peck": "Full retract"}, DRILL, when=by.does("drill")),
    ] = "peck"
    peck: Annotated[
        float | None, ask("Each peck", Kind.LENGTH, DRILL, above=0, propose=by.plain("drill", "peck"), when=by.pecks)
    ] = None
    n: Annotated[float | None, by.speed(DRILL, "drill")] = None
    vf: Annotated[float | None, by.feed(DRILL, "drill")] = None

    bore: Annotated[Literal["yes", "no"], choose("Bore for the head", YES_NO, BORE, when=by.has_head)] = "yes"
    bore_diameter: Annotated[
        float | None,
        ask("Diameter", Kind.LENGTH, BORE, above=0, propose=by.bore(0), when=by.does("counterbore"), helps="After DIN 974-1."),
    ] = None
    bore_depth: Annotated[
        float | None,
        ask(
            "How deep", Kind.LENGTH, BORE, above=0, propose=by.bore(1), when=by.does("counterbore"), helps="The head lies below."
        ),
    ] = None
    bore_tool: Annotated[
        str | None, pick("Tool", "tool", BORE, propose=by.plain("counterbore", "tool"), when=by.does("counterbore"))
    ] = None
    bore_n: Annotated[float | None, by.speed(BORE, "counterbore")] = None
    bore_vf: Annotated[float | None, by.feed(BORE, "counterbore")] = None

    sink_tool: Annotated[str | None, pick("Tool", "tool", SINK, propose=by.sink_tool, when=by.does("chamfer"))] = None
    sink_n: Annotated[float | None, by.speed(SINK, "chamfer")] = None
    sink_vf: Annotated[float | None, by.feed(SINK, "chamfer")] = None

    end: Annotated[Literal["yes", "no"], choose("Tap or ream it", YES_NO, END, when=by.ends)] = "yes"
    end_tool: Annotated[str | None, pick("Tool", "tool", END, propose=by.end_tool, when=by.does("end"))] = None
    lead: Annotated[
        float | None,
        ask(
            "The tap's lead",
            Kind.LENGTH,
            END,
            least=0,
            propose=by.lead,
            when=by.does("tap"),
            helps="Goes deeper than the thread.",
        ),
    ] = None
    drill_depth: Annotated[
        float | None,
        ask(
            "Drilled to", Kind.LENGTH, DRILL, above=0, propose=by.drill_depth, when=by.drills_blind,
            helps="Full diameter. Deeper than the thread by the tap's lead and a pitch.",
        ),
    ] = None  # fmt: skip
    end_n: Annotated[float | None, by.speed(END, "end")] = None
    end_vf: Annotated[float | None, by.feed(END, "end")] = None

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        metric = at.unit == "mm"
        plain = {} if CYCLE in at.cycles else {"work": "plain"}
        if plain and at.drills:
            return plain | {"diameter": at.drills[0], "depth": at.deep(0.4)}
        return {"thread": "M8" if metric else "1/4-20", "diameter": 10.0 if metric else 0.25, "depth": at.deep(0.4)}

    # -- sizes ----------------------------------------------------------------------------------------------------

    def thread_or_none(self) -> Thread | None:
        """The thread that was named, None when there is no such."""
        return thread_or_none(self.thread)

    def tap(self, ctx: FlatContext) -> Tool | None:
        """The tap of the crib for the thread."""
        thread = self.thread_or_none()
        if thread is None:
            return None
        major, pitch, near = ctx.mm(thread.major), ctx.mm(thread.pitch), ctx.mm(0.005)
        taps = (t for t in ctx.tools if t.kind == "tap" and t.profile_angle == thread.angle)
        return next((t for t in taps if abs(t.diameter - major) < near and abs(t.pitch - pitch) < near), None)

    def size(self, ctx: FlatContext) -> float:
        """The diameter by which the hole is called: of the thread, of the hole for the screw, or its own; 0 where it is not
        known."""
        thread = self.thread_or_none()
        if not by.named(self):
            return self.diameter
        if thread is None:
            return 0.0
        if self.work == "tap":
            return ctx.mm(thread.major)
        try:
            return ctx.mm(clearance_hole(thread, self.fit))
        except NoSuchScrewError:
            return 0.0

    def wanted_drill(self, ctx: FlatContext) -> tuple[float | None, float, float]:
        """The drill that would be right, and the least and the most that will do."""
        size, thread = self.size(ctx), self.thread_or_none()
        if size == 0.0:
            return None, 0.0, 0.0
        if self.work == "tap" and thread is not None:
            most, least = (ctx.mm(thread.drill(p)) for p in THREAD_LEFT)
            return ctx.mm(thread.drill(self.percent)), least, most
        if self.work == "ream":
            room = next(more for upto, more in TO_REAM_MM if ctx.to_mm(size) <= upto)
            return size - ctx.mm(room), size - ctx.mm(REAM_ROOM[1]), size - ctx.mm(REAM_ROOM[0])
        near = ctx.mm(DRILL_NEAR)
        return size, size - near, size + near

    def edge_wanted(self, ctx: FlatContext) -> float:
        """How wide the edge is broken, or the head's countersink."""
        thread, size = self.thread_or_none(), self.size(ctx)
        if by.screw(self) and self.head == "countersunk" and thread is not None:
            try:
                return ctx.mm(countersink(thread))
            except NoSuchScrewError:
                return 2 * size
        return size * BREAK if self.work == "tap" else size + ctx.mm(EDGE_MORE_MM)

    def wide(self, ctx: FlatContext) -> float:
        return self.size(ctx)

    # -- stages ---------------------------------------------------------------------------------------------------

    def stages(self) -> tuple[str, ...]:
        """The stages there are, in the order they are cut; "end" stands with the one that ends the hole."""
        found = [name for name in ("spot", "drill") if getattr(self, name) == "yes"]
        found += ["counterbore"] if by.has_head(self) and self.bore == "yes" else []
        found += ["chamfer"] if self.edge == "own" and by.edged(self) else []
        found += [self.work, "end"] if by.ends(self) and self.end == "yes" else []
        return tuple(found)

    def plain(self, stage: str, ctx: FlatContext) -> PatternedStep:
        """The plain step that a stage is, not filled yet."""
        answers = {own: getattr(self, name) for own, name in ANSWERS[stage].items()}
        answers = {own: value for own, value in answers.items() if value is not None}
        return KINDS[stage](
            id=self.id,
            pattern=self.pattern,
            clearance=self.clearance,
            back_to=self.back_to,
            **(answers | self._besides(stage, ctx)),
        )

    def _besides(self, stage: str, ctx: FlatContext) -> dict[str, Any]:
        """What a stage is told that is no answer of its own."""
        tool = ctx.tool(self.spot_tool)
        more: dict[str, Any] = {"top": self.top}
        if stage in ("drill", "ream", "tap"):
            more["extent"] = self.extent
        if stage == "drill":
            more |= {"spot": "no", "depth_to": "full"}
        if stage == "spot":
            more |= {"angle": tool.tip_angle if tool else by.SQUARE, "dwell": 0.0}
        if stage == "chamfer":
            more["angle"] = by.SQUARE
        return more

    def _done(self, ctx: FlatContext) -> list[tuple[str, PatternedStep, FlatContext]]:
        """Every stage as a filled step, and the context as the stages before it leave it."""
        found = []
        for name in self.stages():
            if name in KINDS:
                done = fill(self.plain(name, ctx), ctx)
                found.append((name, done, ctx))
                ctx = ctx.further(done.removes(ctx))
        return found

    def choose_tool(self, ctx: FlatContext) -> str | None:
        return by.drill_tool(self, ctx)

    def tools_used(self) -> tuple[str | None, ...]:
        return tuple(getattr(self, ANSWERS[name]["tool"]) for name in self.stages() if name in KINDS)

    def unfit(self, ctx: FlatContext) -> list[Trouble]:
        return spotter_trouble(ctx.tool(self.spot_tool), by.spot_tool(self, ctx)) if "spot" in self.stages() else []

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        found = self.pattern_troubles(ctx) or self._size_troubles(ctx) or self._missing(ctx)
        if found:
            return found
        for name in self.stages():
            if name in KINDS:
                done = self.plain(name, ctx)
                found += [_own(t, name) for t in trouble_with(done, ctx)]
                if found:
                    return found
                ctx = ctx.further(fill(done, ctx).removes(ctx))
        return []

    def _size_troubles(self, ctx: FlatContext) -> list[Trouble]:
        """Names of threads and screws that there are not."""
        if not by.named(self):
            return []
        try:
            screw = thread_of(self.thread)
            if by.screw(self):
                clearance_hole(screw, self.fit)
                if self.head == "socket":
                    counterbore(screw)
                if self.head == "countersunk":
                    countersink(screw)
        except ValueError as error:
            return [Trouble("thread", str(error))]
        if self.work == "tap" and screw.left:
            return [
                Trouble(
                    "thread",
                    tr("{name} needs a left-hand tap, and the spindle the other way round: mill or turn it.", name=screw.name),
                )
            ]
        if self.work == "tap" and screw.only == "outside":
            return [Trouble("thread", tr("{name} is a thread outside.", name=screw.name))]
        if screw.taper or screw.deep_by_standard or screw.starts > 1:
            return [Trouble("thread", tr("{name} is not cut by a plain tap.", name=screw.name))] if self.work == "tap" else []
        return []

    def _missing(self, ctx: FlatContext) -> list[Trouble]:
        """Stages without a tool, and a tap that there is not."""
        if not self.stages():
            return [Trouble("drill", tr("Every stage is left out: nothing is done."), "yes")]
        if "tap" in self.stages() and ctx.tool(self.end_tool) is None:
            taps = ", ".join(t.size for t in ctx.tools if t.kind == "tap") or tr("none")
            return [
                Trouble(
                    "thread", tr("There is no tap {thread} among the tools. There are {taps}.", thread=self.thread, taps=taps)
                )
            ]
        if "drill" in self.stages() and by.ends(self) and (wrong := self._drill_trouble(ctx)):
            return [wrong]
        if not by.edged(self) or self.edge != "spot":
            return []
        if self.spot == "no":
            return [Trouble("edge", tr("There is no spot drill that would break the edge."), "own")]
        if given(self.spot_diameter) < given(self.edge_diameter) - 1e-9:
            return [Trouble("spot_diameter", tr("Narrower than the edge that it is to break."), self.edge_diameter)]
        return []

    def _drill_trouble(self, ctx: FlatContext) -> Trouble | None:
        """A drill that leaves too much or too little for the tap or the reamer."""
        hole, (_, least, most) = given(self.drill_diameter), self.wanted_drill(ctx)
        if least - ctx.mm(0.01) <= hole <= most + ctx.mm(0.01):
            return None
        better, thread = by.drill_diameter(replaced(self, drill_diameter=None), ctx), self.thread_or_none()
        fits = better if better is not None and least <= better <= most else None
        if self.work == "tap" and thread is not None:
            left = thread.percent(ctx.to_mm(hole))
            low, high = THREAD_LEFT
            return Trouble(
                "drill_diameter",
                tr("It leaves {left:.0f} % of the thread; {low:g} to {high:g} % will do.", left=left, low=low, high=high),
                fits,
            )
        return Trouble(
            "drill_diameter",
            tr("A reamer wants it between {least} and {most}.", least=number(least, ctx), most=number(most, ctx)),
            fits,
        )

    def plan(self, ctx: FlatContext) -> list[Stage | Between]:
        found: list[Stage | Between] = []
        for name, done, seen in self._done(ctx):
            found += [replaced(stage, name=name) for stage in done.plan(seen)]
        return found

    def removes(self, ctx: FlatContext) -> list[Removal]:
        return [gone for _, done, seen in self._done(ctx) for gone in done.removes(seen)]

    def threads(self, ctx: FlatContext) -> list[ThreadLines]:
        thread, top = self.thread_or_none(), given(self.top)
        if self.work != "tap" or thread is None:
            return []
        end = top - self.depth if by.blind(self) else ctx.stock.lo[2]
        return nut_threads(self.holes(ctx), top, end, ctx.mm(thread.bore) / 2, ctx.mm(thread.major) / 2)

    def sketch(self, ctx: FlatContext) -> Sketch:
        at, top = self.middle(ctx)[0] - ctx.stock.lo[0], given(self.top)
        r = self.size(ctx) / 2
        dims = [Dim("diameter", "section", "along x", (at - r, top), (at + r, top))] if by.measured(self) else []
        if by.blind(self):
            dims.append(Dim("depth", "section", "depth", (at + r, top), (at + r, top - self.depth)))
        if "counterbore" in self.stages():
            wide, floor = given(self.bore_diameter) / 2, top - given(self.bore_depth)
            dims.append(Dim("bore_diameter", "section", "along x", (at - wide, top), (at + wide, top)))
            dims.append(Dim("bore_depth", "section", "depth", (at + wide, top), (at + wide, floor)))
        elif by.edged(self):
            wide = given(self.edge_diameter) / 2
            dims.append(Dim("edge_diameter", "section", "along x", (at - wide, top), (at + wide, top)))
        return self.hole_sketch(ctx, tuple(dims))

    def called(self, ctx: FlatContext) -> str:
        """The hole as a print would call it out."""
        thread = self.thread_or_none()
        name = thread.name if thread else self.thread
        if self.work == "tap":
            return name
        if self.work == "screw":
            head = {"none": "", "socket": tr(", counterbored"), "countersunk": tr(", countersunk")}[self.head]
            return tr("Ø{size} for {name}{head}", size=number(self.size(ctx), ctx), name=name, head=head)
        return f"Ø{number(self.diameter, ctx)}{f' {self.tolerance}' if self.work == 'ream' else ''}"

    def summary(self, ctx: FlatContext) -> str:
        deep = tr("{depth} deep", depth=number(self.depth, ctx)) if by.blind(self) else tr("through")
        return f"{self.many(ctx)} × {self.called(ctx)}, {deep}"

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        lines = list(self._size_lines(ctx))
        for name, done, seen in self._done(ctx):
            lines += [(GROUPS[name], text) for _, text in done.says(seen)]
        return lines

    def limits(self, ctx: FlatContext) -> dict[str, tuple[float, float]]:
        most = largest(ctx.to_mm(self.diameter), self.tolerance) if self.work == "ream" else None
        return {} if most is None else {"diameter": (self.diameter, ctx.mm(most))}

    def _size_lines(self, ctx: FlatContext) -> list[tuple[str, str]]:
        """What the standards say of the sizes."""
        thread = self.thread_or_none()
        if self.work == "tap" and thread and "drill" in self.stages():
            left = thread.percent(ctx.to_mm(given(self.drill_diameter)))
            return [
                (HOLE, tr("{name}: pitch {mm}.", name=thread.name, mm=number(ctx.mm(thread.pitch), ctx))),
                (DRILL, tr("Leaves {left:.0f} % of the thread.", left=left)),
            ]
        if self.work == "ream":
            most = largest(ctx.to_mm(self.diameter), self.tolerance)
            if most is not None:
                low, high = number(self.diameter, ctx), decimal(f"{ctx.mm(most):.{3 if ctx.unit == 'mm' else 5}f}")
                return [(HOLE, tr("{tolerance}: {low} to {high}.", tolerance=self.tolerance, low=low, high=high))]
        if self.work == "screw":
            return [(HOLE, tr("Clearance hole Ø{size}.", size=number(self.size(ctx), ctx)))]
        return []


def _own(trouble: Trouble, stage: str) -> Trouble:
    """A stage's trouble, said of the recipe's own answer."""
    field = ANSWERS[stage].get(trouble.field, trouble.field)
    return Trouble(field, trouble.text, trouble.fits, trouble.open)
