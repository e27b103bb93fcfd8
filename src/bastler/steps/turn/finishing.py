"""Finishing an outline with a rounded nose, and taking what a larger or blunter tip left with a sharper one.

Finish is the question where it is known: the wanted Ra gives the feed, or the feed says which Ra to expect.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, ClassVar, Literal

from bastler.ask import Answers, Trouble, ask, choose
from bastler.cutting import feed_for, roughness
from bastler.language import decimal, many, tr
from bastler.motion.moves import Bend, TurnPath
from bastler.motion.turning import (
    Pencil,
    clears,
    reached,
    view_of,
    with_run_in,
)
from bastler.shapes import Line, Segment
from bastler.shapes.chain import length_of, points_on
from bastler.shapes.kinds import Region
from bastler.steps.base import TURNED, Stage, TurnSketch, step
from bastler.steps.cut import TOOL, given, number
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import speed_says, start
from bastler.steps.turn.outline_step import COARSE_MM, LEAST_MISSED, OUTLINE, OutlineStep, choose_turning
from bastler.steps.turn.roughing import follow_outline
from bastler.tools import TurnTool
from bastler.units import Kind, figures

FINISH = "Finish"
FINEST_NOSE = 0.41
"""The largest nose, in mm, that is proposed for finishing: r 0.4 and 1/64 inch. A larger one leaves more in inner corners."""
USUAL_RA = 1.6


def _ra(s: Answers, ctx: TurnedContext) -> float | None:
    tool = ctx.turn_tool(s.tool)
    if tool is None:
        return None
    if s.f is not None and tool.nose > 0:
        return round(roughness(ctx.to_mm(s.f), ctx.to_mm(tool.nose)), 2)
    return USUAL_RA


def _leave_z(s: Answers, ctx: TurnedContext) -> float:
    return float(s.leave_d) / 2


class _Finishing(OutlineStep, frozen=True, kw_only=True):
    """What finishing and rest turning share."""

    groups: ClassVar[tuple[str, ...]] = (OUTLINE, FINISH, TOOL)

    ra: Annotated[
        float | None,
        ask(
            "Wanted Ra",
            Kind.ROUGHNESS,
            FINISH,
            above=0,
            most=50,
            propose=_ra,
            helps="In µm. The feed follows; a given feed wins.",
        ),
    ] = None

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        return choose_turning(ctx, self.inside(ctx), self.bore(ctx), blunt=False)

    def propose_feed(self, ctx: TurnedContext) -> float | None:
        tool = ctx.turn_tool(self.tool)
        if tool is None or tool.nose <= 0:
            return ctx.mm(0.1) if tool else None
        return min(ctx.mm(feed_for(self.ra or USUAL_RA, ctx.to_mm(tool.nose))), 0.5 * tool.nose)

    def says(self, ctx: TurnedContext) -> list[tuple[str, str]]:
        tool = ctx.turn_tool(self.tool)
        if tool is None or tool.nose <= 0:
            return []
        found = roughness(ctx.to_mm(given(self.f)), ctx.to_mm(tool.nose))
        radii = [r for _, r in points_on(self.drawn(ctx).chain, ctx.mm(COARSE_MM))]
        return [
            (
                FINISH,
                tr(
                    "r{nose} at {f} leaves about Ra {found}.",
                    nose=number(tool.nose, ctx),
                    f=number(given(self.f), ctx),
                    found=figures(found, 2),
                ),
            ),
            (TOOL, speed_says(self, ctx, min(radii), max(radii))),
            (
                TOOL,
                tr(
                    "Goes into recesses up to {clears:g}°; inner corners keep R{nose}.",
                    clears=clears(tool),
                    nose=number(tool.nose, ctx),
                ),
            ),
        ]

    def removes(self, ctx: TurnedContext) -> list[Region]:
        tool = ctx.turn_tool(self.tool)
        behind = self.behind(ctx)
        tools = [t for t in (tool, behind[1] if behind else None) if t is not None]
        return [self.gone(ctx, t, reached(self.chain(ctx, t), t), nose=True) for t in tools]

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        return self.outline_dims(ctx)


@step("Finish an outline", "Outlines", "One clean pass, the nose radius allowed for", planes=TURNED, rank=2)
class TurnFinishing(_Finishing, frozen=True, kw_only=True, tag="turn-finishing"):
    """Answers of a finishing step."""

    compensation: Annotated[
        Literal["computed", "control"],
        choose(
            "Nose radius",
            {"computed": "Worked out here", "control": "By the control"},
            FINISH,
            helps="G41/G42 lets the machinist correct it there.",
        ),
    ] = "computed"
    leave: Annotated[
        Literal["up", "both"],
        choose("Leave by", {"up": "Up and home", "both": "Both at once"}, FINISH),
    ] = "up"

    leave_d: Annotated[
        float, ask("Leave on Ø", Kind.LENGTH, FINISH, least=0, late=True, helps="For a pass before the last one; else 0.")
    ] = 0.0
    leave_z: Annotated[float | None, ask("Leave on Z", Kind.LENGTH, FINISH, least=0, propose=_leave_z, late=True)] = None

    def chain(self, ctx: TurnedContext, tool: TurnTool, leave_r: float = 0.0, leave_z: float = 0.0) -> list[Segment]:
        """The outline with what this pass leaves on it."""
        left_r, left_z = self.left_on()
        return super().chain(ctx, tool, leave_r + left_r, leave_z + left_z)

    def choose_tool(self, ctx: TurnedContext) -> str | None:
        return choose_turning(ctx, self.inside(ctx), self.bore(ctx), follows=lambda tool: self._follows(ctx, tool))

    def _follows(self, ctx: TurnedContext, tool: TurnTool) -> bool:
        """Does a tip go along the whole outline, and is it one for finishing?"""
        if not self.drawn(ctx).chain:
            return False
        chain = self.chain(ctx, tool)
        far, there = (sum(map(length_of, way)) for way in (chain, reached(chain, tool)))
        return tool.nose <= ctx.mm(FINEST_NOSE) and abs(far - there) < ctx.mm(LEAST_MISSED)

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path = start(ctx)
        self.begin(path, ctx)
        chain = reached(self.chain(ctx, tool), tool)
        if self.compensation == "control":
            self._by_control(path, ctx, tool, chain)
        elif not any(self.left_on()) and (cycle := self.by_cycle(ctx, tool, given(self.f), "G70")):
            path.cycle(cycle)  # which knows one outline: that without an allowance
        else:
            run, square = self.run_in(ctx, tool, chain), self.square(ctx, tool, chain)
            follow_outline(path, ctx, tool, chain, given(self.f), self.free(ctx), run, square=square)
        if self.leave == "both":
            path.go(r=abs(self.free(ctx)), z=path.z + (ctx.clear if self.inside(ctx) else 2 * ctx.clear))
        self.home(path, ctx)
        return [self.stage("finish", tool, path), *self._behind(ctx)]

    def _behind(self, ctx: TurnedContext) -> Iterator[Stage]:
        """What the first tool has not come to, by the left-hand one."""
        if (behind := self.behind(ctx)) is None:
            return
        path, (there, tool) = start(ctx), behind
        self.begin(path, ctx)
        self.along_what_is_left(path, there, tool, self.chain(there, tool), given(self.f))
        self.home(path, ctx)
        yield self.stage("finish from behind", tool, path)

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        if not found and self.compensation == "control" and self.behind(ctx) is not None:
            found.append(Trouble("compensation", tr("From both sides the nose radius is worked out here."), "computed"))
        return found

    def _by_control(self, path: TurnPath, ctx: TurnedContext, tool: TurnTool, chain: Sequence[Segment]) -> None:
        """The outline itself, with a straight move before and after on which compensation comes and goes."""
        view = view_of(tool)
        pencil = Pencil(path, view)
        if self.square(ctx, tool, chain):  # along the face, from a nose's width before the outline
            (u, v), run = chain[0].start, tool.nose + ctx.mm(0.1)
            way: list[Segment] = [Line((u, v - run), (u, v)), *chain]
        else:
            way = with_run_in(chain, self.run_in(ctx, tool, chain))
        u, v = way[0].start
        pencil.go(v=max(self.free(ctx), v) if pencil.at[0] < u else max(pencil.at[1], v)).go(u=u + ctx.clear)
        path.do(Bend("right" if not view.flips else "left"))
        pencil.cut(given(self.f), u, v)
        pencil.follow(given(self.f), way)
        path.do(Bend("off"))
        end = pencil.at
        out = max(ctx.clear, 3 * tool.nose)
        pencil.cut(given(self.f), end[0] + out, end[1] + out)

    def wants(self, ctx: TurnedContext) -> list[Region]:
        tool = ctx.turn_tool(self.tool)
        return [self.gone(ctx, tool, self.chain(ctx, tool), nose=False)] if tool else []

    def summary(self, ctx: TurnedContext) -> str:
        shape = self.shape(ctx)
        ra = ", Ra " + decimal(f"{self.ra:g}") if self.ra else ""
        left = tr(", {leave_d} left on Ø", leave_d=number(self.leave_d, ctx)) if self.leave_d else ""
        return tr("“{name}”", name=shape.name) + (left or ra) if shape else tr("no outline yet")

    def left_on(self) -> tuple[float, float]:
        """What is left on the radius and along Z; asked too while tools are chosen, before the second is worked out."""
        return self.leave_d / 2, self.leave_d / 2 if self.leave_z is None else self.leave_z


@step("What the larger tip left", "Outlines", "A sharper tip, only where something still stands", planes=TURNED, rank=3)
class TurnRest(_Finishing, frozen=True, kw_only=True, tag="turn-rest"):
    """Answers of a rest turning step."""

    BOTH = False

    def troubles(self, ctx: TurnedContext) -> list[Trouble]:
        found = super().troubles(ctx)
        tool = ctx.turn_tool(self.tool)
        if not found and tool and not list(self.stretches(ctx, tool, self.chain(ctx, tool))):
            found.append(Trouble("tool", tr("Nothing is left that this tip could take.")))
        return found

    def plan(self, ctx: TurnedContext) -> list[Stage]:
        tool = ctx.turn_tool(self.tool)
        if tool is None:
            return []
        path = start(ctx)
        self.begin(path, ctx)
        self.along_what_is_left(path, ctx, tool, self.chain(ctx, tool), given(self.f))
        self.home(path, ctx)
        return [self.stage("rest", tool, path)]

    def summary(self, ctx: TurnedContext) -> str:
        tool, shape = ctx.turn_tool(self.tool), self.shape(ctx)
        count = (
            len(list(self.stretches(ctx, tool, self.chain(ctx, tool)))) if tool and shape and not self.drawn(ctx).troubles else 0
        )
        return tr("“{name}”, {many}", name=shape.name, many=many(count, "place")) if shape else tr("no outline yet")
