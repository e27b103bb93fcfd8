"""The tailstock's centre comes in between two steps, or goes out again: by the machine's words, or by hand while it stops."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import tr
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Between, Dim, Step, TurnSketch, step
from bastler.steps.cut import given, number
from bastler.steps.turn.context import TurnedContext
from bastler.units import Kind

WHAT = "What"
FACE_MM = 0.05
"""So far behind its front, in mm, the hole in the face is looked at."""
LEAST_SHARE = 1.0 / 12.0
"""A centre hole narrower than that share of the work's diameter is told: the smallest that ISO 866 sizes are used with."""


def _comes(s: Answers, ctx: TurnedContext) -> str:
    return "out" if ctx.centred else "in"


def _body(s: Answers, ctx: TurnedContext) -> float:
    return 20.0 if ctx.unit == "mm" else 0.75


_in = is_("way", "in")


@step("Tailstock centre", "Ends", "The centre comes in for long work, or goes out again", planes=TURNED, rank=3)
class TailstockCentre(Step[TurnedContext], frozen=True, kw_only=True, tag="tailstock-centre"):
    """Answers of a step that brings the centre in or takes it out."""

    groups: ClassVar[tuple[str, ...]] = (WHAT,)

    way: Annotated[
        Literal["in", "out"] | None,
        choose("The centre", {"in": "Comes in", "out": "Goes out"}, WHAT, propose=_comes),
    ] = None
    body_d: Annotated[
        float | None, ask("Its body Ø", Kind.LENGTH, WHAT, above=0, propose=_body, when=_in, helps="No tool may touch it.")
    ] = None

    def hole(self, ctx: TurnedContext) -> float:
        """The radius of the hole that the face has, 0 for none."""
        deep = ctx.mm(FACE_MM)
        return ctx.bore(ctx.front - deep, ctx.front)

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        if ctx.at_second or ctx.handed_over:
            return [Trouble("name", tr("The second chuck is where the centre would come."))]
        if self.way == "out":
            return [] if ctx.centred else [Trouble("way", tr("It is not in."), "in")]
        if ctx.centred:
            return [Trouble("way", tr("It is in already."), "out")]
        hole, body = self.hole(ctx), given(self.body_d) / 2
        if hole <= 0.0:
            return [Trouble("name", tr("There is no centre hole in the face: spot or drill one in a step before."))]
        if hole >= body:
            text = tr("The hole in the face is Ø{hole}: the centre goes through.", hole=number(2 * hole, ctx))
            return [Trouble("body_d", text, round(4 * hole, 2))]
        return []

    def plan(self, ctx: TurnedContext) -> list[Between]:
        words = ctx.card.dialect.centre_words
        there = "CENTRE IN" if self.way == "in" else "CENTRE OUT"
        if words:
            return [Between(name=f"centre {self.way}", what="words", text=there.lower(), lines=(words[self.way == "out"],))]
        return [Between(name=f"centre {self.way}", what="stop", text=there)]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        return []

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        if self.way != "in" or self.body_d is None:
            return TurnSketch()
        front, r = ctx.front, self.body_d / 2
        return TurnSketch(dims=(Dim("body_d", "half", "diameter", (front + r, r), (front + 2 * r, r)),))

    def summary(self, ctx: TurnedContext) -> str:
        by = "" if ctx.card.dialect.centre_words else tr(", by hand")
        return (
            tr("comes in, Ø{body_d}{by}", body_d=number(given(self.body_d), ctx), by=by)
            if self.way == "in"
            else tr("goes out{by}", by=by)
        )

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        if self.way != "in":
            return []
        hole = 2 * self.hole(ctx)
        found = [(WHAT, tr("It seats in the hole of Ø{hole} in the face.", hole=number(hole, ctx)))]
        if hole < 2 * ctx.outer(ctx.front - ctx.mm(1.0), ctx.front) * LEAST_SHARE:
            found.append((WHAT, tr("That is little to hold by.")))
        return found
