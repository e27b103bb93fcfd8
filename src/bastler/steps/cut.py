"""The answers every cutting step shares: tool, speeds and feeds, and what they mean.

All four numbers can be overridden. A given spindle speed or feed rate wins over the cutting speed or feed per tooth it
would otherwise follow from, and those then show what was meant.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_, pick
from bastler.cutting import (
    MADE_OF,
    Advice,
    Material,
    chip_thickness,
    cutting_force,
    cutting_speed,
    deflection,
    feed_advice,
    feed_rate,
    milling_power,
    removal_rate,
    specific_force,
    speed_advice,
    spindle_speed,
    thinning,
    torque,
)
from bastler.language import sayable, tr
from bastler.machines import MachineCard
from bastler.shapes import Unrolled
from bastler.steps.base import Step, Unfilled
from bastler.steps.context import Context, FlatContext
from bastler.steps.place import END, Place, Where, times_trouble
from bastler.tools import AnyTool, Tool
from bastler.units import Kind, Unit, figures, grouped, number_text, scale

PLACE, TOOL = "On the part", "Tool and cut"
PLACES: dict[Where, str] = {"end": "End face", "side": "Side", "round": "Round"}
FINISH = "Finishing"
FACE_SIZE = 20.0
"""A face mill is fed a tooth like an end mill of no more than that, in mm: its inserts do not grow with its diameter."""
SPOT_SHARE = 0.5
"""Of the feed of a drill as thick: a spot is cut by the point, which has no room for chips."""
POWER_SHARE = 0.8
"""How much of the spindle's power a proposed cut may take."""
BENDS = 0.01
"""A mill that gives way by no more, in mm, is not spoken of."""
FEET_PER_METRE = 1.0 / 0.3048
PLUNGE_SHARE = 0.4
"""Feed straight or sloping into the material, as a share of the feed along."""
PLUNGE_TRIES = 3
LIP = 0.86
"""Chip thickness at a drill's lips as a share of the feed a lip: the sine of half its tip angle."""


def speed_scale(unit: Unit) -> float:
    """From m/min to the job's unit of cutting speed."""
    return 1.0 if unit == "mm" else FEET_PER_METRE


def known_speed(tool: AnyTool, ctx: Context) -> tuple[float, str] | None:
    """What experience says of the cutting speed of a tool in the material, and who says so."""
    found = next((e for e in getattr(tool, "experience", ()) if e.material == ctx.material.id and e.vc > 0), None)
    return (found.vc, found.source) if found else None


def known_feed(tool: AnyTool, ctx: Context) -> tuple[float, str] | None:
    """The same of the feed per tooth, in the job's unit."""
    found = next((e for e in getattr(tool, "experience", ()) if e.material == ctx.material.id and e.fz > 0), None)
    return (ctx.mm(found.fz), found.source) if found else None


def reach_of(tool: Tool) -> float:
    """How far a mill sticks out, in diameters; drills and their like are led by their hole, face mills are stout."""
    return tool.stick_out / tool.diameter if tool.kind in ("end-mill", "bull-mill", "ball-mill") else 0.0


def advised_speed(tool: Tool, ctx: FlatContext) -> Advice:
    """The cutting speed that is proposed, in m/min, and why."""
    known, reach = known_speed(tool, ctx), reach_of(tool)
    return speed_advice(ctx.material, tool.material, tool.coating, pace=ctx.pace, reach=reach, known=known)


def advised_feed(tool: Tool, ctx: FlatContext, ae: float | None = None) -> Advice:
    """The feed per tooth that is proposed, in the job's unit, and why; `ae` where the cut is known to be narrow."""
    name = tr(MADE_OF[tool.material])
    if tool.kind in ("drill", "spot-drill"):
        share = SPOT_SHARE if tool.kind == "spot-drill" else 1.0
        base = share * tool.diameter * ctx.material.drill_f[tool.material] / tool.flutes
        what = tr(
            "{share:g} × D a turn for {name} in {name_2}",
            share=share * ctx.material.drill_f[tool.material],
            name=name,
            name_2=ctx.material.called,
        )
        return feed_advice(base, what, pace=ctx.pace, reach=0.0, known=known_feed(tool, ctx))
    base = tool.diameter * ctx.material.fz[tool.material]
    what = tr("{fz:g} × D for {name} in {name_2}", fz=ctx.material.fz[tool.material], name=name, name_2=ctx.material.called)
    if tool.kind == "face-mill" and tool.diameter > ctx.mm(FACE_SIZE):
        base = ctx.mm(FACE_SIZE) * ctx.material.fz[tool.material]
        what = tr("what the inserts of a face mill bear in {name}", name=ctx.material.called)
    thin = thinning(ae or tool.diameter, tool.diameter, tool.approach)
    return feed_advice(base, what, pace=ctx.pace, reach=reach_of(tool), thin=thin, known=known_feed(tool, ctx))


def propose_vc(tool: Tool | None, ctx: FlatContext, n: float | None) -> float | None:
    """Cutting speed in the job's unit: from a given spindle speed, else what is advised."""
    if tool is None:
        return None
    if n is not None:
        return cutting_speed(n, ctx.to_mm(tool.diameter)) * speed_scale(ctx.unit)
    return advised_speed(tool, ctx).value * speed_scale(ctx.unit)


def propose_n(tool: Tool | None, ctx: FlatContext, vc: float) -> float | None:
    """Spindle speed for `vc` (job's unit), whole turns, held to what the machine has."""
    if tool is None:
        return None
    wanted = spindle_speed(vc / speed_scale(ctx.unit), ctx.to_mm(tool.diameter))
    most = min(ctx.card.speed[1], tool.most_speed or ctx.card.speed[1])
    return float(round(min(max(wanted, ctx.card.speed[0]), most)))


def allowed_power(ctx: Context, n: float) -> float:
    """The motor power in kW that a proposed cut may take at `n` turns a minute: some is kept back, and at low speeds the torque
    is the limit."""
    most = ctx.card.power
    if ctx.card.torque > 0:
        most = min(most, ctx.card.torque * n * math.pi / 30_000.0 / ctx.card.efficiency)
    return POWER_SHARE * most


def propose_fz(tool: Tool | None, ctx: FlatContext, vf: float | None, n: float | None, ae: float | None = None) -> float | None:
    """Feed per tooth: from a given feed rate, else what is advised."""
    if tool is None:
        return None
    if vf is not None and n:
        return vf / (n * tool.flutes)
    advised = advised_feed(tool, ctx, ae).value
    if tool.kind == "drill" and n:
        return powered_feed(tool, ctx, advised * tool.flutes, n) / tool.flutes
    return advised


def powered_feed(tool: Tool, ctx: Context, f: float, n: float) -> float:
    """A drill's feed a turn up to `f` that the spindle has power and torque for at `n` turns, with some in reserve. Power grows
    with the feed to the power 1 - mc, by Kienzle's law."""
    k = scale(ctx.unit, "mm")
    rate = math.pi / 4 * (tool.diameter * k) ** 2 * f * k * n / 1000.0
    power, allowed = power_for(rate, LIP * f * k / tool.flutes, ctx.material, ctx.card), allowed_power(ctx, n)
    return f if power <= allowed else 0.999 * f * float((allowed / power) ** (1.0 / (1.0 - ctx.material.mc)))


def propose_vf(tool: Tool | None, ctx: FlatContext, fz: float, n: float) -> float | None:
    """Feed rate in unit/min, rounded, held to what the machine has."""
    if tool is None:
        return None
    feed = min(feed_rate(fz, tool.flutes, n), ctx.card.feed_most)
    return round(feed, 0 if ctx.unit == "mm" else 1)


def load_line(tool: Tool, ctx: FlatContext, *, ae: float, ap: float, n: float, vf: float) -> str:
    """What the numbers mean, in one line: removal rate, power against the spindle, torque, and how far a slender mill bends."""
    rate, power = cutting_load(tool, ctx, ae=ae, ap=ap, n=n, vf=vf)
    unit = "cm³/min" if ctx.unit == "mm" else "in³/min"
    shown = rate if ctx.unit == "mm" else rate / 2.54**3
    holds = tr(" of {torque:g}", torque=ctx.card.torque) if ctx.card.torque > 0 else ""
    words = [
        f"Q {figures(shown, 3)} {unit}",
        tr("power {power} of {power_2:g} kW", power=figures(power, 2), power_2=ctx.card.power),
        f"{figures(torque(power, n, ctx.card.efficiency), 2)}{holds} Nm",
    ]
    bend = bending(tool, ctx, power, n)
    if bend > BENDS:
        words.append(tr("bends {mm}", mm=number(round(ctx.mm(bend), 3 if ctx.unit == "mm" else 4), ctx)))
    return " · ".join(words)


def bending(tool: Tool, ctx: FlatContext, power: float, n: float) -> float:
    """How far, in mm, the tip of a mill gives way under the mean force of a cut of that power."""
    if reach_of(tool) <= 0.0:
        return 0.0
    d = ctx.to_mm(tool.diameter)
    force = cutting_force(power, cutting_speed(n, d), ctx.card.efficiency)
    return deflection(force, ctx.to_mm(tool.stick_out), d, tool.material)


def cutting_load(tool: Tool, ctx: FlatContext, *, ae: float, ap: float, n: float, vf: float) -> tuple[float, float]:
    """(removal rate in cm³/min, motor power in kW) for a steady cut, by Kienzle's law."""
    k = scale(ctx.unit, "mm")
    if n <= 0 or tool.flutes <= 0:
        return 0.0, 0.0
    rate = removal_rate(ae * k, ap * k, vf * k)
    h = chip_thickness(vf * k / (n * tool.flutes), ae * k, tool.diameter * k)
    return rate, power_for(rate, h, ctx.material, ctx.card)


def powered_depth(tool: Tool, ctx: FlatContext, *, ae: float, n: float, vf: float, most: float) -> float:
    """The depth of cut up to `most` that the spindle has power for, with some in reserve; power grows with depth."""
    _, power = cutting_load(tool, ctx, ae=ae, ap=most, n=n, vf=vf)
    allowed = allowed_power(ctx, n)
    return most if power <= allowed else most * allowed / power


def power_for(rate: float, h: float, work: Material, card: MachineCard) -> float:
    """Motor power in kW for a removal rate in cm³/min at chip thickness `h` in mm."""
    return milling_power(rate, specific_force(work.kc11, work.mc, h), card.efficiency)


def plunge_feed(tool: Tool, ctx: FlatContext, vf: float, n: float) -> float:
    """Feed straight or sloping into the material: a share of the feed along, less where the spindle lacks the power to bore the
    whole width of the tool."""
    feed = vf * PLUNGE_SHARE
    depth = math.pi / 4 * tool.diameter
    for _ in range(PLUNGE_TRIES):
        _, power = cutting_load(tool, ctx, ae=tool.diameter, ap=depth, n=n, vf=feed)
        allowed = allowed_power(ctx, n)
        if power <= allowed:
            break
        feed *= 0.99 * (allowed / power) ** (1 / (1 - ctx.material.mc))
    return round(feed, 1)


def speed_line(tool: Tool, ctx: FlatContext, vc: float, n: float) -> str:
    """Spindle speed wanted and, where the machine holds it back, what it becomes."""
    wanted = spindle_speed(vc / speed_scale(ctx.unit), ctx.to_mm(tool.diameter))
    if wanted > ctx.card.speed[1] * 1.001 and n <= ctx.card.speed[1]:
        return tr("n {wanted:,.0f} → {n:,.0f} (machine)", wanted=wanted, n=n).replace(",", " ")
    return f"n {n:,.0f}".replace(",", " ")


def tool_trouble(tool: AnyTool | None, field: str, lacks: str = "") -> list[Trouble]:
    """A tool that is not in the job: what it `lacks`, said."""
    if tool:
        return []
    lacks = lacks or tr("tool for this")
    return [Trouble(field, tr("There is no {lacks} among the job's tools. The crib may have one.", lacks=lacks))]


def speed_trouble(ctx: FlatContext, field: str, n: float | None) -> list[Trouble]:
    """Over the machine's speed."""
    if n is not None and n > ctx.card.speed[1]:
        return [
            Trouble(
                field,
                tr("The spindle of {name} ends at {speed:g} 1/min.", name=ctx.card.name, speed=ctx.card.speed[1]),
                ctx.card.speed[1],
            )
        ]
    return []


def _tool(s: Answers, ctx: FlatContext) -> str | None:
    """Of the machine, else of the crib."""
    chosen: str | None = s.choose_tool(ctx.in_machine()) or s.choose_tool(ctx)
    return chosen


def _vc(s: Answers, ctx: FlatContext) -> float | None:
    return propose_vc(ctx.tool(s.tool), ctx, s.n)


def _n(s: Answers, ctx: FlatContext) -> float | None:
    return propose_n(ctx.tool(s.tool), ctx, s.vc)


def _fz(s: Answers, ctx: FlatContext) -> float | None:
    return propose_fz(ctx.tool(s.tool), ctx, s.vf, s.n, s.narrow(ctx))


def _vf(s: Answers, ctx: FlatContext) -> float | None:
    return propose_vf(ctx.tool(s.tool), ctx, s.fz, s.n)


_sideways = is_("where_on", "side", "round")
_rounds = is_("where_on", "round")


def _to_height(s: Answers) -> bool:
    return bool(_sideways(s) and s.asks_height)


def _around(s: Answers, ctx: FlatContext) -> float | None:
    return 2 * ctx.turned.around if isinstance(ctx.turned, Unrolled) else None


def held_back(tool: Tool, fz: float | None, advised: float) -> str:
    """What is said where a drill is fed less than its material would have it."""
    return tr(", less: the spindle has no more power") if tool.kind == "drill" and fz and fz < 0.99 * advised else ""


class CuttingStep(Step[FlatContext], frozen=True, kw_only=True):
    """A step with one main tool and its cutting data. `choose_tool` proposes the tool, `CHOSEN` says by what. On a part in a
    chuck it says first where on the part it is."""

    CHOSEN: ClassVar[str] = sayable("The first that fits")
    LACKS: ClassVar[str] = sayable("end mill for this")
    """What is said to be missing where nothing among the job's tools does the work."""
    first_groups: ClassVar[tuple[str, ...]] = (PLACE,)
    FIXED: ClassVar[frozenset[str]] = frozenset()
    """Answers that its kind does not ask."""

    where_on: Annotated[Where, choose("Where", PLACES, PLACE, chucked=True)] = "end"
    at_c: Annotated[
        float,
        ask(
            "At angle", Kind.ANGLE, PLACE, when=_sideways, symbol="C", chucked=True,
            helps="Counter-clockwise, seen from in front.",
        ),
    ] = 0.0  # fmt: skip
    times: Annotated[
        int, ask("Times, evenly round", Kind.COUNT, PLACE, least=1, when=_sideways, helps="4: every 90°.", chucked=True)
    ] = 1
    around_d: Annotated[
        float | None,
        ask(
            "Unrolled at Ø", Kind.LENGTH, PLACE, above=0, propose=_around, when=_rounds, chucked=True,
            helps="Where lengths round the part are measured.",
        ),
    ] = None  # fmt: skip
    counts: Annotated[
        Literal["deep", "height"],
        choose("Goes down", {"deep": "So deep", "height": "To a height"}, PLACE, when=_sideways, chucked=True),
    ] = "deep"
    height: Annotated[
        float,
        ask(
            "Floor over the axis", Kind.LENGTH, PLACE, least=0, when=_to_height, chucked=True,
            helps="Half of what is across two flats.",
        ),
    ] = 10.0  # fmt: skip

    tool: Annotated[str | None, pick("Tool", "tool", TOOL, propose=_tool)] = None
    vc: Annotated[
        float | None,
        ask("Cutting speed", Kind.CUTTING_SPEED, TOOL, above=0, propose=_vc, symbol="vc", helps="Speed of the edge."),
    ] = None
    n: Annotated[
        float | None,
        ask("Spindle speed", Kind.SPINDLE_SPEED, TOOL, above=0, propose=_n, symbol="n", helps="Turns a minute."),
    ] = None
    fz: Annotated[
        float | None,
        ask("Feed per tooth", Kind.FEED_PER_TOOTH, TOOL, above=0, propose=_fz, symbol="fz", helps="Chip each tooth takes."),
    ] = None
    vf: Annotated[
        float | None,
        ask("Feed rate", Kind.FEED_RATE, TOOL, above=0, propose=_vf, symbol="vf", helps="Feed along the path."),
    ] = None

    @property
    def place(self) -> Place:
        """Where on a part in a chuck it is. Of what goes round it is to be said first where that is measured: until then it is as
        on the side."""
        if not _sideways(self) or self.times <= 0:
            return END
        around = (self.around_d or 0.0) / 2 if _rounds(self) else 0.0
        return Place(Place.side(self.at_c, self.times).angles, max(around, 0.0))

    @property
    def along_part(self) -> float | None:
        """Where along a part it is, where it has one place."""
        x = getattr(self, "x", None)
        return float(x) if isinstance(x, int | float) else None

    @property
    def asks_height(self) -> bool:
        """Does it go down to a height over the axis?"""
        return self.counts == "height"

    @property
    def derived(self) -> dict[str, tuple[float | None, str]]:
        """Answers that are not asked but follow from another, which is named: a height over the axis makes the depth. None where
        it cannot be said yet. From filled answers."""
        top = getattr(self, "top", None)
        goes_on = not hasattr(self, "depth") or getattr(self, "extent", "blind") == "through"
        if goes_on or not _to_height(self):
            return {}
        return {"depth": (None if top is None or top <= self.height else top - self.height, "height")}

    def place_troubles(self) -> list[Trouble]:
        """What does not go together of where it is, from filled answers."""
        if not _sideways(self):
            return []
        top = getattr(self, "top", None)
        if _to_height(self) and top is not None and top <= self.height:
            return [Trouble("height", tr("The surface is no higher there."))]
        return times_trouble(self.times)

    def choose_tool(self, ctx: FlatContext) -> str | None:
        """The id of the tool proposed; None when nothing fits."""
        raise NotImplementedError

    def narrow(self, ctx: FlatContext) -> float | None:
        """How wide the cut is, where it is known before the speeds are and narrower than half the tool."""
        ae: float | None = getattr(self, "ae", None)
        return ae

    def sources(self, ctx: FlatContext) -> dict[str, str]:
        """Where computed speeds and feeds come from, by answer; from filled answers, those given are left away by the caller."""
        tool = ctx.tool(self.tool)
        if tool is None:
            return {}
        speed, feed = advised_speed(tool, ctx), advised_feed(tool, ctx, self.narrow(ctx))
        loaded = ctx.loaded is None or tool.id in ctx.loaded
        return {
            "tool": f"{tr(self.CHOSEN)}{'.' if loaded else tr('; from the crib, as nothing in the machine fits.')}",
            "vc": speed.because,
            "n": tr("vc over π × {diameter}, as far as the spindle goes.", diameter=number(tool.diameter, ctx)),
            "fz": f"{feed.because}{held_back(tool, self.fz, feed.value)}",
            "vf": tr("fz × {flutes} teeth × n.", flutes=tool.flutes),
        }

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.tool,)

    def troubles(self, ctx: FlatContext) -> list[Trouble]:
        return tool_trouble(ctx.tool(self.tool), "tool", tr(self.LACKS)) + speed_trouble(ctx, "n", self.n)


THROUGH_AIR = 4.0
"""So many times its feed a tool goes through air."""
LEAST_PECK = 0.4
"""The smallest of pecks that shrink, as a share of the first."""
MOST_PASSES = 400
"""More passes, rows or pecks than this are a slip, such as a depth per pass typed in the wrong unit."""


def smallest_peck(s: Answers, ctx: Context) -> float:
    """The smallest peck that is proposed where pecks shrink."""
    return round(given(s.peck) * LEAST_PECK, 3 if ctx.unit == "mm" else 4)


COUNTED = sayable(("passes", "rows", "rings", "pecks", "steps", "plunges"))
"""What an answer may make too many of."""


def passes_trouble(field: str, count: float, what: str) -> list[Trouble]:
    """Says so when an answer would make an absurd number of `what`."""
    return [Trouble(field, tr("That makes {count} {what}.", count=grouped(count), what=tr(what)))] if count > MOST_PASSES else []


def there_are(sizes: Iterable[str]) -> str:
    """The sizes that a crib has, in words; a semicolon stands between them, as a comma may be within."""
    return "; ".join(sizes) or tr("none")


def number(value: float, ctx: Context) -> str:
    """A length as said in a summary."""
    return number_text(value, Kind.LENGTH, ctx.unit)


def given(value: float | None) -> float:
    """A filled answer; Unfilled for one that is neither given nor worked out."""
    if value is None:
        raise Unfilled(tr("An answer that this needs is neither given nor worked out."))
    return value
