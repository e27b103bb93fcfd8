"""The next part from the bar: behind the part-off the chuck opens, and the bar comes on by as much as a part takes of it.

It comes out to a stop in the turret, with a puller that goes over it, or by the feeder's own word. Whatever brings it, the front
of the next part has to lie where that of the first one was; so the whole bar is one part's program, called again.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import shapely

from bastler.ask import Answers, Trouble, ask, choose, is_, isnt, pick
from bastler.bounds import BAR_PARTS
from bastler.language import tr
from bastler.motion.moves import Chuck, Pause, TurnPath
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Between, Dim, Spin, Stage, Step, TurnSketch, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import home_outside, start
from bastler.units import Kind

HOW, BAR = "How it comes", "The bar"
KEPT_MM = 30.0
"""So much of a bar the jaws keep at least."""
OVER_MM = 10.0
"""So far a puller is proposed to go over a bar."""
WORDS = "next bar"

_stopped = is_("how", "stop")
_pulled = is_("how", "puller")
_with_tool = isnt("how", "feeder")


def bar_front(stock: Region) -> float:
    """Where what is left in the chuck ends: of several pieces that which lies farthest back."""
    return min((float(piece.bounds[2]) for piece in shapely.get_parts(stock) if not piece.is_empty), default=0.0)


def _how(s: Answers, ctx: TurnedContext) -> str:
    if ctx.card.dialect.bar_words:
        return "feeder"
    kinds = [t.kind for t in ctx.turning_tools if t.holds]
    return "puller" if "puller" in kinds and "stop" not in kinds else "stop"


def _tool(s: Answers, ctx: TurnedContext) -> str | None:
    fits = sorted((t for t in ctx.turning_tools if t.kind == s.how), key=lambda t: t.station == 0)
    return fits[0].id if fits else None


def _grip(s: Answers, ctx: TurnedContext) -> float:
    tool = ctx.turn_tool(s.tool)
    own = OVER_MM if ctx.unit == "mm" else 0.4
    return own if tool is None else min(own, tool.reach)


def _f(s: Answers, ctx: TurnedContext) -> float:
    return 1500.0 if ctx.unit == "mm" else 60.0


def _bar(s: Answers, ctx: TurnedContext) -> float:
    return 1000.0 if ctx.unit == "mm" else 36.0


def _keep(s: Answers, ctx: TurnedContext) -> float:
    return KEPT_MM if ctx.unit == "mm" else 1.25


def _parts(s: Answers, ctx: TurnedContext) -> int:
    most: int = s.most_parts(ctx)
    return max(1, min(most, BAR_PARTS.most))


@step(
    "Next part from the bar",
    "Ends",
    "The bar comes on, and all is cut again",
    planes=TURNED,
    rank=11,
    needs_words=("grip_words", "bar_words"),
)
class NextPart(Step[TurnedContext], frozen=True, kw_only=True, tag="next-part"):
    """Answers of a step that brings the bar on for the next part."""

    groups: ClassVar[tuple[str, ...]] = (HOW, BAR, TOOL)

    how: Annotated[
        Literal["stop", "puller", "feeder"] | None,
        choose(
            "The bar", {"stop": "Comes out to a stop", "puller": "Is pulled out", "feeder": "Comes by the feeder"}, HOW,
            propose=_how, helps="The next front has to lie where this one was.",
        ),
    ] = None  # fmt: skip
    tool: Annotated[str | None, pick("Tool", "tool", TOOL, propose=_tool, when=_with_tool)] = None
    grip: Annotated[
        float | None,
        ask(
            "It goes over the bar", Kind.LENGTH, HOW, above=0, propose=_grip, when=_pulled,
            helps="From the face behind the blade.",
        ),
    ] = None  # fmt: skip
    f: Annotated[float | None, ask("It pulls at", Kind.FEED_RATE, HOW, above=0, propose=_f, when=_pulled)] = None
    seconds: Annotated[
        float, ask("The chuck stays open", Kind.TIME, HOW, above=0, most=60, when=_stopped, helps="Until the bar is there.")
    ] = 1.5
    bar: Annotated[
        float | None, ask("The bar is long", Kind.LENGTH, BAR, above=0, propose=_bar, helps="The whole of it, as it is loaded.")
    ] = None
    keep: Annotated[
        float | None,
        ask("The jaws keep at least", Kind.LENGTH, BAR, above=0, propose=_keep, helps="What of it is never cut: the remnant."),
    ] = None  # fmt: skip
    parts: Annotated[
        int | None,
        ask("Parts of it", Kind.COUNT, BAR, least=1, most=BAR_PARTS.most, propose=_parts, helps="As many as it gives."),
    ] = None  # fmt: skip

    def comes(self, ctx: TurnedContext) -> float:
        """How far the bar comes on: what one part takes of it, with its front and the blade."""
        return float(ctx.raw.bounds[2]) - bar_front(ctx.stock)

    def _out(self, ctx: TurnedContext) -> float:
        """How far the bar sticks out of the jaws as a part begins."""
        return float(ctx.raw.bounds[2]) - ctx.jaws

    def most_parts(self, ctx: TurnedContext) -> int:
        """How many parts the bar gives, the last of them held by what is to stay."""
        comes, out = self.comes(ctx), self._out(ctx)
        if comes <= 0.0 or self.bar is None or self.keep is None or self.bar < out + self.keep:
            return 0
        return int(math.floor((self.bar - out - self.keep) / comes + 1e-9)) + 1

    def remnant(self, ctx: TurnedContext) -> float:
        """What is left of the bar behind the last part's part-off."""
        return given(self.bar) - given(self.parts) * self.comes(ctx)

    @property
    def again(self) -> int:
        """How often the bar comes on."""
        return max(int(self.parts or 1) - 1, 0)

    def tools_used(self) -> tuple[str | None, ...]:
        return (self.tool,) if self.how != "feeder" else ()

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if ctx.at_second or ctx.handed_over or ctx.bar is not None:
            return [Trouble("name", tr("The bar is in the main chuck, and this holding has a piece of it."))]
        if shapely.get_num_geometries(ctx.stock) < 2:
            return [Trouble("name", tr("The part is still on the bar: part it off in a step before."))]
        if ctx.centred:
            return [Trouble("name", tr("The tailstock's centre is still in: it goes out in a step before."))]
        if found := self._way_troubles(ctx):
            return found
        most = self.most_parts(ctx)
        if most < 1:
            least = self._out(ctx) + given(self.keep)
            return [
                Trouble(
                    "bar",
                    tr("{least} at least: what sticks out, and what the jaws keep.", least=number(least, ctx)),
                    round(least, 3),
                )
            ]
        if given(self.parts) > most:
            short = given(self.keep) - (given(self.bar) - self._out(ctx) - self.again * self.comes(ctx))
            text = tr(
                "The bar gives {most}: the jaws would have {short} less of it than they keep.",
                most=most,
                short=number(short, ctx),
            )
            return [Trouble("parts", text, most)]
        return []

    def _way_troubles(self, ctx: TurnedContext) -> list[Trouble]:
        """What is wrong with how it comes."""
        words, tool = ctx.card.dialect, ctx.turn_tool(self.tool)
        if self.how == "feeder":
            return [] if words.bar_words else [Trouble("how", tr("{name} has no word for a feeder.", name=ctx.card.name), "stop")]
        if not words.grip_words:
            return [Trouble("how", tr("The card of {name} has no words that open and close its chuck.", name=ctx.card.name))]
        if tool is None or tool.kind != self.how:
            what = tr("bar stop") if self.how == "stop" else tr("bar puller")
            return [Trouble("tool", tr("There is no {what} in the crib: add one.", what=what))]
        if self.how == "puller" and given(self.grip) > tool.reach + 1e-9:
            return [Trouble("grip", tr("It goes {reach} over a bar at most.", reach=number(tool.reach, ctx)), tool.reach)]
        return []

    def plan(self, ctx: TurnedContext) -> Sequence[Stage | Between]:
        tool = ctx.turn_tool(self.tool)
        if ctx.card.dialect.subprograms and not self.again:
            return []
        if self.how == "feeder" or tool is None:
            return [Between(name=WORDS, what="words", text="the feeder brings the bar", lines=ctx.card.dialect.bar_words)]
        path = start(ctx)
        path.go(r=0.0)
        if self.how == "stop":
            self._to_the_stop(path, ctx)
        else:
            self._pulled_out(path, ctx)
        path.go(z=ctx.safe[1])
        home_outside(path, ctx)
        moves = tuple(path.moves)
        return [Stage(name=WORDS, plane="turned", tool=tool, spin=Spin(0.0), start=(ctx.safe[1], ctx.safe[0], 0.0), moves=moves)]

    def held_at(self, ctx: TurnedContext) -> float:
        """Where the tool's point is along Z as the chuck opens: where the next front comes to, or over the bar by the grip."""
        return float(ctx.raw.bounds[2]) if self.how == "stop" else bar_front(ctx.stock) - given(self.grip)

    def _to_the_stop(self, path: TurnPath, ctx: TurnedContext) -> None:
        path.go(z=self.held_at(ctx))
        path.do(Chuck(opens=True), Pause(self.seconds), Chuck(opens=False))

    def _pulled_out(self, path: TurnPath, ctx: TurnedContext) -> None:
        at, feed = self.held_at(ctx), given(self.f)
        path.go(z=bar_front(ctx.stock) + ctx.clear)
        path.cut(feed, z=at)
        path.do(Chuck(opens=True))
        path.cut(feed, z=at + self.comes(ctx))
        path.do(Chuck(opens=False))
        path.cut(feed, z=float(ctx.raw.bounds[2]) + ctx.clear)

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        """How far it comes."""
        if shapely.get_num_geometries(ctx.stock) < 2:
            return TurnSketch()
        face, front, r = bar_front(ctx.stock), float(ctx.raw.bounds[2]), float(ctx.raw.bounds[3])
        dims = (
            ()
            if self.grip is None or self.how != "puller"
            else (Dim("grip", "half", "length", (face, r), (face - self.grip, r)),)
        )
        return TurnSketch(lines=(((front, r), (front, 0.0)),), dims=dims)

    def summary(self, ctx: TurnedContext) -> str:
        calls = ctx.card.dialect.subprograms or not self.again
        times = tr("{parts} parts", parts=given(self.parts)) if calls else tr("start it {parts} times", parts=given(self.parts))
        return tr(
            "{times}, {comes} each, {remnant} left",
            times=times,
            comes=number(self.comes(ctx), ctx),
            remnant=number(self.remnant(ctx), ctx),
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        comes = number(self.comes(ctx), ctx)
        found = [(HOW, tr("It comes on by {comes}: part, front, blade.", comes=comes))]
        if self.how == "feeder":
            found.append((HOW, tr("The feeder is set to {comes}: no program knows.", comes=comes)))
        if not self.again:
            found.append((BAR, tr("The bar gives one part: it does not come on.")))
        elif not ctx.card.dialect.subprograms:
            found.append((BAR, tr("This control calls no subprograms: it is one part's program, started again.")))
        return [*found, (BAR, tr("{remnant} of the bar are left.", remnant=number(self.remnant(ctx), ctx)))]
