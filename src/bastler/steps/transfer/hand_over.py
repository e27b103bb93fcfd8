"""Hand over: the second chuck comes to the work, takes hold of it, and goes on with its back.

What is cut behind it in the same holding, such as the part-off, is cut while both chucks hold the work. Where nothing parts it
off the main chuck opens before the second one goes away.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import tr
from bastler.machines.card import SecondSpindle
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Dim, Step, Transfer, TurnSketch, step
from bastler.steps.cut import given, number
from bastler.steps.turn.context import TurnedContext
from bastler.units import Kind

GRIP, COMES, CONTACT, TURNING, NEXT = "Grip", "Coming", "Contact", "Turning", "The next part"
HELD_MM = 15.0
"""So much of a bar the main chuck keeps at least when it is pulled out."""
ALIKE_MM = 0.02
"""So far apart radii are one diameter to jaws."""
OFF_MM = 0.5
"""So far the proposed jaws stay off a shoulder."""
APART_MM = 1.0
"""The jaws of both chucks stay at least so far from each other."""

_pushes = is_("contact", "seat")
_turns = is_("turning", "turns")


def outside(stock: Region, within: float, alike: float) -> list[tuple[float, float]]:
    """The largest radius at lengths within so much behind the front, from there back: fifty of them, and where corners are."""
    z0, _, z1, _ = stock.bounds
    low = max(z0, z1 - within)
    corners = shapely.get_coordinates(stock)[:, 0]
    places = {low + (z1 - low) * k / 50 for k in range(51)} | {float(z) for z in corners if low <= z <= z1}
    found = []
    for z in sorted(places, reverse=True):
        cut = stock.intersection(shapely.box(z - alike / 2, 0.0, z + alike / 2, 1e6))
        if not cut.is_empty:
            found.append((z, float(cut.bounds[3])))
    return found


def lands(outline: Sequence[tuple[float, float]], alike: float) -> list[tuple[float, float, float]]:
    """The straight stretches of an outside: from where to where, going back, and their radius."""
    found: list[tuple[float, float, float]] = []
    for (z, r), (behind, there) in itertools.pairwise(outline):
        begin, end, radius = found[-1] if found else (z, z, r)
        if end != z or abs(there - radius) > alike:  # not on from the one before, or no more as thick as that began
            begin, radius = z, r
        if abs(there - radius) > alike:
            continue
        if found and found[-1][0] == begin:
            found.pop()
        found.append((begin, behind, radius))
    return found


def straight(stock: Region, within: float, alike: float) -> float:
    """How long a part is straight at the largest radius that it has within so much behind its front."""
    outline = outside(stock, within, alike)
    most = max((r for _, r in outline), default=0.0)
    return max((begin - end for begin, end, r in lands(outline, alike) if most - r <= alike), default=0.0)


def _second(ctx: TurnedContext) -> SecondSpindle | None:
    return ctx.card.second


def _grip(s: Answers, ctx: TurnedContext) -> float | None:
    """As far as the front is straight, no deeper than parts go in; off the shoulder behind that."""
    two = _second(ctx)
    if two is None or ctx.stock.is_empty:
        return None
    room, alike = min(two.deep, 0.4 * ctx.length), ctx.mm(ALIKE_MM)
    outline = outside(ctx.stock, room, alike)
    _, end, radius = max(lands(outline, alike), key=lambda one: one[0] - one[1], default=(ctx.front, ctx.front, 0.0))
    shoulder = any(z < end - alike and r > radius + alike for z, r in outline)
    long = ctx.front - end - (ctx.mm(OFF_MM) if shoulder else 0.0)
    by = 0.5 if ctx.unit == "mm" else 0.02
    return float(round(math.floor((long if long > 0.2 * room else room) / by + 1e-6) * by, 2))


def _contact(s: Answers, ctx: TurnedContext) -> str:
    words = ctx.card.dialect
    return "seat" if words.push_words and words.skip_word else "free"


def _near(s: Answers, ctx: TurnedContext) -> float:
    return 10.0 if ctx.unit == "mm" else 0.4


def _feed(s: Answers, ctx: TurnedContext) -> float:
    return 500.0 if ctx.unit == "mm" else 20.0


def _force(s: Answers, ctx: TurnedContext) -> float | None:
    """A tenth of what it can: enough to seat a part, not to push it in."""
    two = _second(ctx)
    return None if two is None else float(round(max(two.push[0], 0.1 * two.push[1]), -1))


def _window(s: Answers, ctx: TurnedContext) -> float:
    return 0.3 if ctx.unit == "mm" else 0.012


def _turning(s: Answers, ctx: TurnedContext) -> str:
    return "turns" if ctx.card.dialect.together_words else "stands"


def _n(s: Answers, ctx: TurnedContext) -> float | None:
    two = _second(ctx)
    return None if two is None else float(min(500.0, two.speed[1], ctx.most_speed))


def _angle(s: Answers, ctx: TurnedContext) -> str:
    return "kept" if ctx.card.dialect.together_words else "lost"


@step("Hand over", "Ends", "The second chuck takes the part, for its back", planes=TURNED, rank=10, needs_second=True)
class HandOver(Step[TurnedContext], frozen=True, kw_only=True, tag="hand-over"):
    """Answers of a hand-over from the main chuck to the second one."""

    groups: ClassVar[tuple[str, ...]] = (GRIP, COMES, CONTACT, TURNING, NEXT)

    grip: Annotated[
        float | None,
        ask(
            "Jaws reach over the front", Kind.LENGTH, GRIP, above=0, propose=_grip,
            helps="From the front of the work to the face of the second jaws.",
        ),
    ] = None  # fmt: skip
    near: Annotated[
        float | None, ask("Rapid ends before", Kind.LENGTH, COMES, above=0, propose=_near, helps="From there on it feeds.")
    ] = None
    f: Annotated[float | None, ask("Then it feeds", Kind.FEED_RATE, COMES, above=0, propose=_feed)] = None
    contact: Annotated[
        Literal["seat", "free"] | None,
        choose(
            "It comes",
            {"seat": "Until its seat meets the work", "free": "To a place, without contact"},
            CONTACT,
            propose=_contact,
        ),
    ] = None
    force: Annotated[float | None, ask("Pushes with", Kind.FORCE, CONTACT, above=0, propose=_force, when=_pushes)] = None
    window: Annotated[
        float | None,
        ask(
            "Good within ±", Kind.LENGTH, CONTACT, above=0, propose=_window, when=_pushes,
            helps="Where it meets the work farther off, the machine stops.",
        ),
    ] = None  # fmt: skip
    turning: Annotated[
        Literal["turns", "stands"] | None,
        choose("The work", {"turns": "Turns meanwhile", "stands": "Stands still"}, TURNING, propose=_turning),
    ] = None
    n: Annotated[float | None, ask("Both turn at", Kind.SPINDLE_SPEED, TURNING, above=0, propose=_n, when=_turns)] = None
    angle: Annotated[
        Literal["kept", "lost"] | None,
        choose(
            "Its angle", {"kept": "Kept: both in step", "lost": "Not kept"}, TURNING, propose=_angle,
            helps="Kept, what was milled before stays where it is under C.",
        ),
    ] = None  # fmt: skip

    pull: Annotated[
        float,
        ask(
            "Pulls the bar out by", Kind.LENGTH, NEXT, least=0,
            helps="For the next part; the main chuck opens for it. 0 where the bar comes by other ways.",
        ),
    ] = 0.0  # fmt: skip

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        two, words = ctx.card.second, ctx.card.dialect
        if ctx.at_second or ctx.handed_over:
            return [Trouble("name", tr("The part is in the second chuck already: it is handed over once."))]
        if two is None or not ctx.card.hands_over:
            return [Trouble("name", tr("{name} has no second spindle to hand over to.", name=ctx.card.name))]
        if shapely.get_num_geometries(ctx.stock) > 1:
            return [Trouble("name", tr("The part is off already: it is handed over before that."))]
        if ctx.centred:
            return [Trouble("name", tr("The tailstock's centre stands where the second chuck comes."))]
        grip, jaws = given(self.grip), ctx.jaws
        if grip > two.deep + 1e-9:
            return [Trouble("grip", tr("Parts go {deep} into its jaws at most.", deep=number(two.deep, ctx)), two.deep)]
        room = ctx.front - jaws - ctx.mm(APART_MM)
        if grip > room:
            return [Trouble("grip", tr("The jaws of both chucks meet: {room} are free.", room=number(room, ctx)), round(room, 3))]
        found = []
        if self.contact == "seat" and not (words.push_words and words.skip_word):
            found.append(Trouble("contact", tr("{name} has no words to push until contact.", name=ctx.card.name), "free"))
        if self.contact == "seat" and not two.push[0] <= given(self.force) <= two.push[1]:
            fits = min(max(given(self.force), two.push[0]), two.push[1])
            found.append(
                Trouble("force", tr("It pushes with {push:g} to {push_2:g} N.", push=two.push[0], push_2=two.push[1]), fits)
            )
        if self.contact == "seat" and given(self.window) >= given(self.near):
            found.append(Trouble("window", tr("Has to be less than the way that it feeds."), round(given(self.near) / 2, 4)))
        if self.turning == "turns" and not words.together_words:
            found.append(Trouble("turning", tr("{name} has no words to turn both in step.", name=ctx.card.name), "stands"))
        if self.angle == "kept" and not words.together_words:
            found.append(Trouble("angle", tr("{name} has no words to keep both at one angle.", name=ctx.card.name), "lost"))
        most = min(ctx.most_speed, two.speed[1])
        room = max(jaws - float(ctx.stock.bounds[0]) - ctx.mm(HELD_MM), 0.0)
        if self.pull > room + 1e-9:
            text = tr(
                "Then the main chuck has less than {mm} of the bar: {room} can be pulled.",
                mm=number(ctx.mm(HELD_MM), ctx),
                room=number(room, ctx),
            )
            found.append(Trouble("pull", text, round(room, 3)))
        if self.turning == "turns" and given(self.n) > most:
            found.append(Trouble("n", tr("Both spindles and the chuck go up to {most:g} 1/min.", most=most), most))
        return found

    def held_d(self, ctx: TurnedContext) -> float:
        """The diameter that the jaws close on: the largest within them."""
        return 2 * ctx.outer(ctx.front - given(self.grip), ctx.front)

    def plan(self, ctx: TurnedContext) -> list[Transfer]:
        pushes, turns = self.contact == "seat", self.turning == "turns"
        together: Literal["", "speed", "angle"] = "angle" if self.angle == "kept" else "speed" if turns else ""
        return [
            Transfer(
                name="hand over",
                grip=ctx.front - given(self.grip),
                near=given(self.near),
                feed=given(self.f),
                force=given(self.force) if pushes else 0.0,
                window=given(self.window) if pushes else 0.0,
                turns=given(self.n) if turns else 0.0,
                together=together,
                pull=self.pull,
            )
        ]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        """Where the jaws' face comes to."""
        front, at = ctx.front, ctx.front - given(self.grip)
        r = self.held_d(ctx) / 2
        high = r + ctx.mm(12.0)
        dims = (Dim("grip", "half", "length", (front, r), (at, r)),)
        return TurnSketch(lines=(((at, high), (at, r), (front, r)),), dims=dims)

    def summary(self, ctx: TurnedContext) -> str:
        angle = tr("angle kept") if self.angle == "kept" else tr("angle not kept")
        pulls = tr(", pulls {pull}", pull=number(self.pull, ctx)) if self.pull > 0 else ""
        return tr(
            "grips {grip} on Ø{held_d}, {angle}{pulls}",
            grip=number(given(self.grip), ctx),
            held_d=number(self.held_d(ctx), ctx),
            angle=angle,
            pulls=pulls,
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        found = [(GRIP, tr("It closes on Ø{held_d}.", held_d=number(self.held_d(ctx), ctx)))]
        if self.contact == "seat":
            found.append((CONTACT, tr("Its seat lies {grip} behind the face of its jaws.", grip=number(given(self.grip), ctx))))
        blades = [t.width for t in ctx.turning_tools if t.kind == "parting"]
        wants = ctx.length + ctx.back + max(float(ctx.raw.bounds[2]), 0.0) + max(blades, default=0.0)
        found.append((NEXT, tr("A part takes {wants} of the bar, with its front and the blade.", wants=number(wants, ctx))))
        return found
